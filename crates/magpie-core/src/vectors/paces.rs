//! Vectors for the motion between two cells: keys on a map at which a pace with one setting exchanged draws other frames.

use super::{Asking, Candidate, Vectors, choose};
use crate::grid::{Grid, Nobody};
use crate::pace::{
    Arrival, AxisOrder, Drive, Easing, Frames, Hold, Mode, Moving, Plan, Settings, mover, parse_keys, run,
};
use crate::rulebook::{KindId, Rulebook};
use crate::space::exact::Fraction;
use fixedbitset::FixedBitSet;
use std::sync::Arc;

/// Keys on a map at a rate of frames.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PaceVector {
    /// The kind that moves.
    pub kind: String,
    /// Frames a second.
    pub fps: Option<u32>,
    /// Durations in ms, used over and over.
    pub frame_ms: Vec<u32>,
    /// The keys, as `pace` takes them.
    pub keys: String,
}

/// Most frames of a run.
const MOST_FRAMES: usize = 1_000;

/// A setting in place of another: its name, its sort, and what it does.
type Exchange = (&'static str, &'static str, fn(&mut Settings));

/// Every setting that may stand in place of another; the last ones leave one out.
const EXCHANGES: [Exchange; 24] = [
    ("test-equal", "test", |pace| pace.test_equal = true),
    ("on-arrival-snap", "on arrival", |pace| pace.arrival = Arrival::Snap),
    ("on-arrival-carry", "on arrival", |pace| pace.arrival = Arrival::Carry),
    ("on-arrival-drift", "on arrival", |pace| pace.arrival = Arrival::Drift),
    ("while-moving-ignored", "while moving", |pace| pace.moving = Moving::Ignored),
    ("while-moving-remembered", "while moving", |pace| pace.moving = Moving::Remembered),
    ("while-moving-obeyed", "while moving", |pace| pace.moving = Moving::Obeyed),
    ("hold-continuous", "hold", |pace| pace.hold = Hold::Continuous),
    ("hold-latched", "hold", |pace| pace.hold = Hold::Latched),
    ("hold-off", "hold", |pace| pace.hold = Hold::Off),
    ("hold-every-frame", "hold", |pace| pace.hold = Hold::EveryFrame),
    ("axis-first-pressed", "axis", |pace| pace.axis = AxisOrder::FirstPressed),
    ("axis-last-pressed", "axis", |pace| pace.axis = AxisOrder::LastPressed),
    ("axis-horizontal-first", "axis", |pace| pace.axis = AxisOrder::HorizontalFirst),
    ("axis-vertical-first", "axis", |pace| pace.axis = AxisOrder::VerticalFirst),
    ("axis-diagonal", "axis", |pace| pace.axis = AxisOrder::Diagonal),
    ("linear", "easing", |pace| pace.easing = Easing::Linear),
    ("ease-in", "easing", |pace| pace.easing = Easing::In),
    ("ease-out", "easing", |pace| pace.easing = Easing::Out),
    ("ease-in-out", "easing", |pace| pace.easing = Easing::InOut),
    ("no-lean", "lean", |pace| pace.lean = None),
    ("no-body", "body", |pace| pace.body = None),
    ("no-slack", "slack", |pace| pace.slack = None),
    ("not-lined-up", "lined up", |pace| pace.lined = None),
];

impl PaceVector {
    fn frames(&self) -> Option<Frames> {
        match self.fps {
            Some(fps) => Frames::rate(&fps.to_string()).ok(),
            None => Frames::list(&self.frame_ms.iter().map(u32::to_string).collect::<Vec<_>>().join(",")).ok(),
        }
    }

    /// The longest of its frames, in whole ms.
    fn longest_frame(&self) -> u64 {
        let rate = self.fps.map_or(0, |fps| 1000 / u64::from(fps) + 1);
        self.frame_ms.iter().copied().map(u64::from).chain([rate]).max().unwrap_or(1)
    }

    /// Where the piece is drawn, frame by frame; nothing where the run has too many frames or cannot be made.
    pub fn positions(&self, book: &Arc<Rulebook>, map: usize) -> Option<Vec<(f64, f64)>> {
        let kind = book.kind_of_name(&self.kind)?;
        self.positions_at(book, map, Settings::of_kind(book, kind))
    }

    fn positions_at(&self, book: &Arc<Rulebook>, map: usize, pace: Settings) -> Option<Vec<(f64, f64)>> {
        let plan = Plan {
            movers: vec![(self.kind.clone(), pace)],
            frames: self.frames()?,
            keys: Drive::Keys(parse_keys(&self.keys).ok()?),
            // A wrong pace may never come to rest.
            until: Some(Fraction::from_integer((MOST_FRAMES as u64 * self.longest_frame()).into())),
        };
        let mut grid = Grid::new(book.clone(), map, None, &mut Nobody).ok()?;
        let runs = run(&plan, &book.geometry, book.maps[map].extent, Some(&mut grid)).ok()?;
        let samples = &runs.first()?.samples;
        (samples.len() <= MOST_FRAMES).then(|| samples.iter().map(|sample| (sample.x, sample.y)).collect())
    }
}

/// How long a step takes, roughly, in ms.
fn step_ms(book: &Rulebook, pace: &Settings) -> f64 {
    let number =
        |text: &str| text.split('/').next().and_then(|text| text.parse::<f64>().ok()).unwrap_or(1.0).max(0.001);
    let pitch = |cells: bool| if cells { 1.0 } else { book.geometry.pitch().0 };
    match &pace.mode {
        Mode::Instant => 16.0,
        Mode::Timed(time) => number(&time.text),
        Mode::Rate(speed) | Mode::Free(speed) => 1000.0 * pitch(speed.cells) / number(&speed.text),
        Mode::PerFrame(step) => 1000.0 / 60.0 * pitch(step.cells) / number(&step.text),
    }
}

/// Scripts in which a setting may show: taps, holds, two keys in every order.
fn scripts(ms: f64) -> Vec<String> {
    const KEYS: [&str; 4] = ["right", "down", "left", "up"];
    let at = |share: f64| (ms * share).round().max(1.0) as u64;
    let mut found = Vec::new();
    for (number, one) in KEYS.iter().enumerate() {
        found.push(format!("0:{one}"));
        found.push(format!("0:{one}+ {}:{one}-", at(2.4)));
        found.push(format!("0:{one} {}:{one} {}:{one}", at(0.4), at(0.7)));
        for other in KEYS.iter().skip(number + 1).chain(&KEYS[..number]) {
            found.push(format!("0:{one} {}:{other}", at(0.4)));
            found.push(format!("0:{one}+ {}:{other}+ {}:{other}- {}:{one}-", at(0.3), at(2.3), at(3.4)));
            found.push(format!("0:{one}+ {}:{other}+ {}:{one}- {}:{other}-", at(0.3), at(1.4), at(2.6)));
            found.push(format!("0:{one}+ 0:{other}+ {}:{one}- {}:{other}-", at(2.2), at(2.2)));
        }
    }
    found
}

/// Vectors for the pace of the kind that moves on a map.
pub fn pace(book: &Arc<Rulebook>, map: usize, most: usize) -> Vectors {
    let Ok(kind) = mover(book, None) else { return Vectors::default() };
    let own = Settings::of_kind(book, kind);
    let exchanged: Vec<(String, Settings)> = EXCHANGES
        .into_iter()
        .filter_map(|(name, sort, exchange)| {
            let mut pace = own.clone();
            exchange(&mut pace);
            // What means nothing beside the mode cannot be told by any vector.
            (pace != own && own.counts(sort)).then(|| (name.to_owned(), pace))
        })
        .collect();
    let name = book.kind(KindId(kind.0)).name.clone();
    let rates: [(Option<u32>, &[u32]); 3] = [(Some(60), &[]), (Some(30), &[]), (None, &[16, 17, 40])];
    let scripts = scripts(step_ms(book, &own));
    let all = scripts.iter().flat_map(|keys| rates.iter().map(move |rate| (keys, rate)));
    let candidates = all.filter_map(|(keys, (fps, list))| {
        let vector = PaceVector { kind: name.clone(), fps: *fps, frame_ms: list.to_vec(), keys: keys.clone() };
        let right = vector.positions_at(book, map, own.clone())?;
        let mut fails = FixedBitSet::with_capacity(exchanged.len());
        for (at, (_, pace)) in exchanged.iter().enumerate() {
            if vector.positions_at(book, map, pace.clone()).as_ref() != Some(&right) {
                fails.insert(at);
            }
        }
        (!fails.is_clear()).then(|| Candidate { asks: Asking::Pace(Box::new(vector)), fails })
    });
    let names: Vec<String> = exchanged.iter().map(|(name, _)| name.clone()).collect();
    choose(&names, &candidates.collect::<Vec<_>>(), most)
}
