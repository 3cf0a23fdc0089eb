//! Pieces drawn between two cells while a turn of the Play bench is shown: a picture alone, no state of the game.

use super::board::Ghost;
use magpie_core::board::CellId;
use magpie_core::grid::Answer;
use magpie_core::pace::{Mode, Settings};
use magpie_core::rulebook::{KindId, Rulebook};
use magpie_core::space::exact::{as_written, nearest, pitches};
use magpie_core::space::{Cell, Extent, Heading, WorldPoint};

/// How far a refused piece leans, in cells.
const REACH: f64 = 0.25;
/// Turns with more moves than this are shown at once.
const MOST: usize = 200;

/// One piece on its way.
#[derive(Debug)]
struct Way {
    kind: KindId,
    from: WorldPoint,
    to: WorldPoint,
    /// Where the board has it now.
    cell: Cell,
    /// When it begins and how long it takes, in ms.
    after: f64,
    ms: f64,
    settings: Settings,
    /// It leans towards a cell that refused, and comes back.
    leans: bool,
}

/// Everything that is on its way after an input.
#[derive(Debug)]
pub struct Motion {
    ways: Vec<Way>,
    began: f64,
}

/// How long a step of a kind takes, in ms; nothing for steps that take no time.
fn duration(settings: &Settings, length: f64) -> f64 {
    let length = as_written(length);
    match &settings.mode {
        Mode::Instant => 0.0,
        Mode::Timed(time) => nearest(&time.value),
        Mode::Rate(speed) | Mode::Free(speed) => 1000.0 * nearest(&(&length / speed.pixels(&length))),
        Mode::PerFrame(step) => 1000.0 / 60.0 * nearest(&(&length / step.pixels(&length))),
    }
}

/// The share of a step that is drawn so many ms after it began, its easing counted; 1 where it has ended.
pub fn drawn_share(settings: &Settings, length: f64, ms: f64) -> f64 {
    let all = duration(settings, length);
    let share = if all > 0.0 { (ms / all).clamp(0.0, 1.0) } else { 1.0 };
    if matches!(settings.mode, Mode::Timed(_)) { nearest(&settings.easing.of(&as_written(share))) } else { share }
}

impl Motion {
    /// The ways that the answers to an input show, begun at an instant; `None` where nothing moves.
    pub fn of(answers: &[Answer], book: &Rulebook, extent: Extent, clock: f64) -> Option<Self> {
        let geometry = &book.geometry;
        let mut ways: Vec<Way> = Vec::new();
        let mut add = |kind: KindId, from: Cell, to: Cell| {
            let settings = Settings::of_kind(book, kind);
            let [across, down] = pitches(geometry).map(|pitch| nearest(&pitch));
            let length = if from.row == to.row { across } else { down };
            let ms = duration(&settings, length);
            // A piece that asks again goes on from where it has come to.
            let before = ways.iter().rev().find(|way| way.kind == kind && way.cell == from);
            let after = before.map_or(0.0, |way| way.after + way.ms);
            if ms > 0.0 && from != to {
                let (from, at) = (geometry.centre(extent, from), geometry.centre(extent, to));
                ways.push(Way { kind, from, to: at, cell: to, after, ms, settings, leans: false });
            }
        };
        for request in answers.iter().flat_map(|answer| &answer.requests) {
            if let (true, Some(to)) = (request.granted, request.to) {
                add(request.kind, request.from, to);
                request.shoved.iter().for_each(|shoved| add(shoved.kind, shoved.from, shoved.to));
            }
        }
        let refused = answers.iter().flat_map(|answer| &answer.requests).find(|request| !request.granted);
        if let Some((request, heading)) = refused.and_then(|request| Some((request, request.heading?))) {
            ways.extend(lean(book, extent, request.kind, request.from, heading));
        }
        (!ways.is_empty() && ways.len() <= MOST).then_some(Self { ways, began: clock })
    }

    /// Whether a kind is on its way, or leans.
    pub fn moves(&self, kind: KindId, clock: f64) -> bool {
        self.ways.iter().any(|way| way.kind == kind && clock - self.began < way.after + way.ms)
    }

    /// The first way of a kind begins where it was drawn.
    pub fn begin_at(&mut self, kind: KindId, drawn: WorldPoint) {
        if let Some(way) = self.ways.iter_mut().find(|way| way.kind == kind) {
            way.from = drawn;
        }
    }

    /// Whether everything has come to its cell.
    pub fn is_over(&self, clock: f64) -> bool {
        self.ways.iter().all(|way| clock - self.began >= way.after + way.ms)
    }

    /// The pieces that are still on their way.
    pub fn ghosts(&self, clock: f64) -> Vec<Ghost> {
        let since = clock - self.began;
        let mut found: Vec<Ghost> = Vec::new();
        for way in &self.ways {
            let share = ((since - way.after) / way.ms).max(0.0);
            if share >= 1.0 {
                continue;
            }
            // Only the way under way of a piece is drawn; the cell it ends in stays empty until it is there.
            let waits = since < way.after;
            let share = match (way.leans, &way.settings.mode) {
                (true, _) => (1.0 - (1.0 - 2.0 * share).abs()) * REACH,
                (false, Mode::Timed(_)) => nearest(&way.settings.easing.of(&as_written(share))),
                (false, _) => share,
            };
            let along = |from: f64, to: f64| from + (to - from) * share;
            let at = WorldPoint { x: along(way.from.x, way.to.x), y: along(way.from.y, way.to.y) };
            if waits {
                if let Some(last) = found.last_mut().filter(|ghost| ghost.kind == way.kind) {
                    last.hides = Some(way.cell);
                }
                continue;
            }
            found.push(Ghost { kind: way.kind, at, size: None, claimed: None, hides: Some(way.cell) });
        }
        found
    }
}

/// A piece leans for as long as its pace says; `None` where it says nothing.
fn lean(book: &Rulebook, extent: Extent, kind: KindId, from: Cell, heading: Heading) -> Option<Way> {
    let geometry = &book.geometry;
    let to = geometry.centre(extent, geometry.neighbour(from, heading));
    let settings = Settings::of_kind(book, kind);
    let at = geometry.centre(extent, from);
    let ms = nearest(&settings.lean.as_ref()?.value);
    Some(Way { kind, from: at, to, cell: from, after: 0.0, ms, settings, leans: true })
}

/// How long a ring of a flood waits for the next one, in ms, at the usual speed.
const RING: f64 = 55.0;

/// A flood that spreads on the screen ring by ring; on the board it has been done at once.
#[derive(Debug)]
pub struct Spread {
    /// The ring of every cell of the board, from 1; 0 for cells the flood has not reached.
    ring: Vec<u32>,
    rings: u32,
    /// What stood there before, and what stands there now.
    was: Option<KindId>,
    into: Option<KindId>,
    began: f64,
    factor: f64,
}

impl Spread {
    /// The last flood of the answers to an input.
    pub fn of(answers: &[Answer], extent: Extent, clock: f64, factor: f64) -> Option<Self> {
        let rings = answers.iter().flat_map(|answer| &answer.actions).rev().find_map(|action| action.rings.as_ref())?;
        let mut ring = vec![0; extent.cells() as usize];
        let mut from = 0;
        for (number, end) in rings.ends.iter().enumerate() {
            for cell in &rings.cells[from..*end as usize] {
                ring[cell.0 as usize] = number as u32 + 1;
            }
            from = *end as usize;
        }
        // A flood of a thousand rings takes no longer than one of a hundred.
        let rings_count = rings.ends.len() as u32;
        let factor = factor * (f64::from(rings_count) / 100.0).max(1.0);
        Some(Self { ring, rings: rings_count, was: rings.was, into: rings.into, began: clock, factor })
    }

    /// Rings that are shown at an instant.
    fn shown(&self, clock: f64) -> u32 {
        1 + ((clock - self.began).max(0.0) * self.factor / RING) as u32
    }

    /// Whether everything is shown.
    pub fn is_over(&self, clock: f64) -> bool {
        self.shown(clock) >= self.rings
    }

    /// The kinds of a cell as they are seen now: as before the flood where it has not come yet. Gives the kind that is not
    /// seen at all where nothing stood there.
    pub fn show(&self, cell: CellId, clock: f64, kinds: &mut [KindId]) -> Option<KindId> {
        let ring = self.ring.get(cell.0 as usize).copied().unwrap_or(0);
        let found = kinds.iter_mut().find(|kind| Some(**kind) == self.into).filter(|_| ring > self.shown(clock))?;
        match self.was {
            Some(was) => {
                *found = was;
                None
            }
            None => Some(*found),
        }
    }
}
