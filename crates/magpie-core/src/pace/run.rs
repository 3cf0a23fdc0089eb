//! A run: movers, keys and frames.

use super::figures::Figures;
use super::mover::{Ground, KeyMark, Mover, Sample, Scale};
use super::script::KeyEvent;
use super::settings::{Hold, Mode, Moving, Settings, exact};
use crate::board::PieceId;
use crate::grid::{Grid, Nobody};
use crate::limits::MOST_FRAMES;
use crate::space::exact::{Fraction, centre, pitches};
use crate::space::{Cell, Extent, Geometry, Heading, YAxis};
use num_traits::{One, Signed, Zero};
use thiserror::Error;

/// When frames are.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Frames {
    /// So many a second: the number as written and exactly.
    Rate(String, Fraction),
    /// Durations in ms, used over and over.
    List(Vec<Fraction>),
}

/// A list of frame rates or durations that cannot be used.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
#[error("`{0}` is no {1}: a decimal over 0, at most 1,000,000, with at most 3 decimals")]
pub struct FramesError(pub String, pub &'static str);

fn number(text: &str, what: &'static str) -> Result<Fraction, FramesError> {
    let wrong = || FramesError(text.chars().filter(|c| !c.is_control()).take(40).collect(), what);
    let (whole, decimals) = text.split_once('.').unwrap_or((text, "0"));
    let digits = |part: &str| !part.is_empty() && part.bytes().all(|b| b.is_ascii_digit());
    if !digits(whole) || !digits(decimals) || decimals.len() > 3 || whole.len() > 7 {
        return Err(wrong());
    }
    let value = exact(text);
    let most = Fraction::from_integer(1_000_000.into());
    if value.is_positive() && value <= most { Ok(value) } else { Err(wrong()) }
}

impl Frames {
    /// Reads a frame rate.
    ///
    /// # Errors
    /// A [`FramesError`] where the text is no positive number, or one beyond the limits.
    pub fn rate(text: &str) -> Result<Self, FramesError> {
        Ok(Self::Rate(text.into(), number(text, "frame rate")?))
    }

    /// Reads durations in ms, separated by commas.
    ///
    /// # Errors
    /// A [`FramesError`] where a part is no positive number, or one beyond the limits.
    pub fn list(text: &str) -> Result<Self, FramesError> {
        let all: Result<Vec<Fraction>, _> = text.split(',').map(|part| number(part.trim(), "duration in ms")).collect();
        Ok(Self::List(all?))
    }

    /// Frames a second, where that is said.
    pub const fn fps(&self) -> Option<&Fraction> {
        match self {
            Self::Rate(_, fps) => Some(fps),
            Self::List(_) => None,
        }
    }

    /// When a frame is, given when the one before it was.
    fn time(&self, frame: u64, before: &Fraction) -> Fraction {
        match self {
            Self::Rate(_, fps) => Fraction::from_integer((1000 * i128::from(frame)).into()) / fps,
            Self::List(_) if frame == 0 => Fraction::zero(),
            Self::List(durations) => before + &durations[((frame - 1) % durations.len() as u64) as usize],
        }
    }
}

/// What is run.
#[derive(Clone, Debug)]
pub struct Plan {
    /// The movers, the earlier ones first in each frame: their names and paces.
    pub movers: Vec<(String, Settings)>,
    /// When frames are.
    pub frames: Frames,
    /// What is pressed.
    pub keys: Drive,
    /// An instant in ms at which the run is cut off, whatever still moves.
    pub until: Option<Fraction>,
}

/// Where keys come from.
#[derive(Clone, Debug)]
pub enum Drive {
    /// `right` for so many steps.
    Usual(u64),
    /// A script.
    Keys(Vec<KeyEvent>),
}

/// How a run ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// Everything came to rest.
    Done,
    /// A step goes on and on.
    NeverLands,
}

impl Outcome {
    /// The words of the formats.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Done => "done",
            Self::NeverLands => "never lands",
        }
    }
}

/// Why there is no run.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum RunError {
    /// It does not end within the limit.
    #[error("the run has more than {MOST_FRAMES} frames or steps")]
    TooLong,
    /// A mover has no piece.
    #[error("there is no `{0}` on this map")]
    NoPiece(String),
    /// A key of somebody who does not move.
    #[error("`{0}` is a key event of no mover")]
    NoMover(String),
}

/// What one mover did.
#[derive(Clone, Debug)]
pub struct TrackRun {
    /// The mover's name.
    pub name: String,
    /// Its pace.
    pub settings: Settings,
    /// Every frame.
    pub samples: Vec<Sample>,
    /// Keys as they went down and up.
    pub keys: Vec<KeyMark>,
    /// The figures.
    pub figures: Figures,
    /// Frames at which a cell that was to be claimed was taken.
    pub conflicts: Vec<u64>,
    /// Steps given up for another.
    pub given_up: u64,
    /// The most that was lost at an arrival: ms of a timed step, px of the others.
    pub lost: Fraction,
    /// One pitch along the first step, in px.
    pub length: Fraction,
}

impl TrackRun {
    /// Whether it moves further along y than along x.
    pub fn is_vertical(&self) -> bool {
        let reach = |of: fn(&Sample) -> f64| {
            let ends = self
                .samples
                .iter()
                .fold((f64::MAX, f64::MIN), |(low, high), sample| (low.min(of(sample)), high.max(of(sample))));
            ends.1 - ends.0
        };
        reach(|sample| sample.y) > reach(|sample| sample.x)
    }
}

/// An endless track without rules, one for each mover.
struct Track {
    cells: Vec<Cell>,
    south: i64,
}

impl Ground for Track {
    fn would(&mut self, _: usize, _: Heading) -> bool {
        true
    }

    fn ask(&mut self, mover: usize, heading: Heading) -> bool {
        let (east, south) = heading.screen_step();
        let cell = &mut self.cells[mover];
        *cell = Cell::new(cell.column + east, cell.row + south * self.south);
        true
    }

    fn cell(&self, mover: usize) -> Cell {
        self.cells[mover]
    }
}

/// A map on which every step is a request.
struct OnMap<'a> {
    grid: &'a mut Grid,
    pieces: Vec<PieceId>,
    last: Vec<Cell>,
}

impl Ground for OnMap<'_> {
    fn would(&mut self, mover: usize, heading: Heading) -> bool {
        let piece = self.pieces[mover];
        self.grid.board().cell_of(piece).is_some() && self.grid.preview(piece, heading).granted
    }

    fn ask(&mut self, mover: usize, heading: Heading) -> bool {
        let piece = self.pieces[mover];
        if self.grid.board().cell_of(piece).is_none() {
            return false;
        }
        let granted = self.grid.request(piece, heading, &mut Nobody);
        if let Some(cell) = self.grid.board().cell_of(piece) {
            self.last[mover] = self.grid.board().cell(cell);
        }
        granted
    }

    fn cell(&self, mover: usize) -> Cell {
        let cell = self.grid.board().cell_of(self.pieces[mover]);
        cell.map_or(self.last[mover], |cell| self.grid.board().cell(cell))
    }
}

/// Runs movers: on a map of their own, or each on an endless track from cell (0, 0).
///
/// # Errors
/// A [`RunError`] where the run has too many frames or steps, a mover has no piece on the map, or a key belongs to no mover.
///
/// # Examples
/// ```
/// use magpie_core::pace::{Drive, Frames, Outcome, Plan, Settings, run};
/// use magpie_core::space::{Extent, Geometry};
///
/// let (grid, extent) = (Geometry::of_cells(32.0, 32.0), Extent { columns: 8, rows: 1 });
/// let movers = vec![("porter".to_owned(), Settings::default())];
/// let plan = Plan { movers, frames: Frames::rate("60").unwrap(), keys: Drive::Usual(3), until: None };
/// let runs = run(&plan, &grid, extent, None).unwrap();
/// assert_eq!(runs[0].figures.outcome, Outcome::Done);
/// assert_eq!(runs[0].samples.last().unwrap().cell.column, 3, "three steps to the right");
/// ```
pub fn run(
    plan: &Plan,
    geometry: &Geometry,
    extent: Extent,
    grid: Option<&mut Grid>,
) -> Result<Vec<TrackRun>, RunError> {
    if let Drive::Keys(keys) = &plan.keys {
        let known = |name: &String| plan.movers.iter().any(|(mover, _)| mover == name);
        if let Some(name) = keys.iter().filter_map(|event| event.kind.as_ref()).find(|name| !known(name)) {
            return Err(RunError::NoMover(name.clone()));
        }
    }
    if least_frames(plan, geometry) > Fraction::from_integer(MOST_FRAMES.into()) {
        return Err(RunError::TooLong);
    }
    match grid {
        None => {
            let cells = vec![Cell::new(0, 0); plan.movers.len()];
            Runner::new(plan, geometry, extent, Track { cells, south: geometry.south() }).run()
        }
        Some(grid) => {
            let mut pieces = Vec::new();
            for (name, _) in &plan.movers {
                let kind = grid.book().kind_of_name(name);
                let piece = kind.and_then(|kind| grid.first_piece(kind));
                pieces.push(piece.ok_or_else(|| RunError::NoPiece(name.clone()))?);
            }
            let cell = |piece: &PieceId| grid.board().cell_of(*piece).map(|cell| grid.board().cell(cell));
            let last = pieces.iter().map(|piece| cell(piece).unwrap_or(Cell::new(0, 0))).collect();
            Runner::new(plan, geometry, extent, OnMap { grid, pieces, last }).run()
        }
    }
}

/// Frames that a run has at least, so that one beyond the limit is refused before it is begun.
fn least_frames(plan: &Plan, geometry: &Geometry) -> Fraction {
    let length = pitches(geometry)[0].clone();
    let second = Fraction::from_integer(1000.into());
    let each = match &plan.frames {
        Frames::Rate(_, fps) => &second / fps,
        Frames::List(all) => all.iter().max().cloned().unwrap_or_else(Fraction::one),
    };
    let cells = match &plan.keys {
        Drive::Keys(_) if plan.until.is_some() => return Fraction::zero(),
        Drive::Keys(keys) => return keys.last().map_or_else(Fraction::zero, |last| &last.at / each),
        Drive::Usual(cells) => Fraction::from_integer((*cells).into()),
    };
    let least = |settings: &Settings| match &settings.mode {
        // Steps that are given up under way may take no time.
        _ if settings.moving == Moving::Obeyed => Fraction::zero(),
        Mode::Instant => cells.clone(),
        Mode::Timed(time) => &cells * &time.value / &each,
        Mode::Rate(speed) => &cells * &length * &second / (speed.pixels(&length) * &each),
        Mode::PerFrame(step) => &cells * &length / step.pixels(&length),
    };
    plan.movers.iter().map(|(_, settings)| least(settings)).max().unwrap_or_else(Fraction::zero)
}

struct Runner<'a, G> {
    plan: &'a Plan,
    geometry: &'a Geometry,
    extent: Extent,
    ground: G,
    movers: Vec<Mover>,
    /// The next event of the script.
    next: usize,
}

impl<'a, G: Ground> Runner<'a, G> {
    fn new(plan: &'a Plan, geometry: &'a Geometry, extent: Extent, ground: G) -> Self {
        let [across, down] = pitches(geometry);
        let south = if geometry.y == YAxis::Down { Fraction::one() } else { -Fraction::one() };
        let scale = Scale { pitch: (across, down), down: south };
        let most = match plan.keys {
            Drive::Usual(cells) => Some(cells),
            Drive::Keys(_) => None,
        };
        let movers = plan.movers.iter().enumerate().map(|(number, (_, settings))| {
            let [x, y] = centre(geometry, extent, ground.cell(number));
            Mover::new(number, settings.clone(), scale.clone(), (x, y), most)
        });
        let movers = movers.collect();
        Self { plan, geometry, extent, ground, movers, next: 0 }
    }

    fn run(mut self) -> Result<Vec<TrackRun>, RunError> {
        let mut now = Fraction::zero();
        let mut frame = 0;
        loop {
            if frame >= MOST_FRAMES {
                return Err(RunError::TooLong);
            }
            now = self.plan.frames.time(frame, &now);
            let first = self.next;
            for number in 0..self.movers.len() {
                self.next = first;
                self.keys(number, &now, frame);
                let (mover, ground) = (&mut self.movers[number], &mut self.ground);
                if !mover.frame(&now, frame, ground) {
                    return Err(RunError::TooLong);
                }
                mover.deal_with_rest(&now, frame, ground);
                mover.note(&now, ground.cell(number));
            }
            if self.has_ended() || self.plan.until.as_ref().is_some_and(|until| now >= *until) {
                return Ok(self.finish());
            }
            frame += 1;
        }
    }

    /// Key events and repeats of a mover up to a frame, in the order of time.
    fn keys(&mut self, number: usize, now: &Fraction, frame: u64) {
        let mover = &mut self.movers[number];
        mover.begin();
        match &self.plan.keys {
            Drive::Usual(cells) => {
                let off = mover.settings.hold == Hold::Off;
                if (off && !mover.is_moving() && mover.tally.started < *cells) || (!off && frame == 0) {
                    mover.press(Heading::East, now);
                }
                if off {
                    mover.release(Heading::East, now);
                }
            }
            Drive::Keys(keys) => {
                while let Some(event) = keys.get(self.next).filter(|event| event.at <= *now) {
                    self.next += 1;
                    let name = &self.plan.movers[number].0;
                    let own = event.kind.as_ref().map_or(number == 0, |kind| kind == name);
                    if !own {
                        continue;
                    }
                    // What is due before the event comes first; a repeat is never due at its release.
                    while let Some(due) = mover.next_repeat().filter(|due| *due < event.at) {
                        mover.repeat(&due);
                    }
                    if event.down {
                        mover.press(event.key, &event.at);
                    } else {
                        mover.release(event.key, &event.at);
                    }
                }
            }
        }
        while let Some(due) = mover.next_repeat().filter(|due| due <= now) {
            mover.repeat(&due);
        }
        if frame > 0 {
            mover.press_every_frame(now);
        }
    }

    fn has_ended(&self) -> bool {
        if self.movers.iter().any(|mover| mover.tally.never_lands) {
            return true;
        }
        let quiet = self.movers.iter().all(Mover::is_quiet);
        match &self.plan.keys {
            Drive::Usual(cells) => quiet && self.movers.iter().all(|mover| mover.tally.started >= *cells),
            Drive::Keys(keys) => quiet && self.next >= keys.len(),
        }
    }

    fn finish(self) -> Vec<TrackRun> {
        let Self { plan, geometry, extent, ground, movers, .. } = self;
        let all = movers.into_iter().zip(&plan.movers).enumerate();
        all.map(|(number, (mover, (name, settings)))| {
            let cell = ground.cell(number);
            let wanted = centre(geometry, extent, cell);
            let length = pitches(geometry)[0].clone();
            let figures = Figures::of(&mover, plan.frames.fps(), &wanted, geometry);
            let tally = mover.tally;
            TrackRun {
                name: name.clone(),
                settings: settings.clone(),
                samples: mover.samples,
                keys: mover.log,
                figures,
                conflicts: tally.conflicts,
                given_up: tally.given_up,
                lost: tally.lost.0,
                length,
            }
        })
        .collect()
    }
}
