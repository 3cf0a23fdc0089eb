//! A run: movers, keys and frames.

use super::figures::Figures;
use super::free::{Body, BodyRun};
use super::ground::{Ground, OnMap, Track};
use super::mover::{KeyMark, Mover, Sample, Scale};
use super::script::KeyEvent;
use super::settings::{Hold, Mode, Moving, Settings, exact};
use crate::board::PieceId;
use crate::grid::Grid;
use crate::limits::MOST_FRAMES;
use crate::rulebook::KindId;
use crate::space::exact::{Fraction, centre, nearest, pitches};
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

/// A frame rate, a duration or a size that cannot be used.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
#[error("`{0}` is no {1}: a decimal over 0, at most 1,000,000, with at most 3 decimals")]
pub struct FramesError(pub String, pub &'static str);

/// A positive decimal within the limits of a pace.
pub(super) fn number(text: &str, what: &'static str) -> Result<Fraction, FramesError> {
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

impl Drive {
    /// After so many steps the usual run lets go of its key.
    const fn most_steps(&self) -> Option<u64> {
        match self {
            Self::Usual(cells) => Some(*cells),
            Self::Keys(_) => None,
        }
    }
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
    /// What a free body met; `None` in other modes.
    pub body: Option<BodyRun>,
    /// What its requests have shoved, in the order of time.
    pub shoved: Vec<Shoved>,
}

/// A piece that was shoved from cell to cell.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shoved {
    /// When, in ms.
    pub t: f64,
    /// Its kind.
    pub kind: KindId,
    /// Where it stood.
    pub from: Cell,
    /// Where it stands now.
    pub to: Cell,
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
            Runner::new(plan, geometry, extent, OnMap { grid, pieces, last, shoved: Vec::new() }).run()
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
        _ if settings.moving == Moving::Obeyed && !settings.is_free() => Fraction::zero(),
        Mode::Instant => cells.clone(),
        Mode::Timed(time) => &cells * &time.value / &each,
        Mode::Rate(speed) => &cells * &length * &second / (speed.pixels(&length) * &each),
        // The first half of a pitch leads into the first cell, and after the last it ends at once.
        Mode::Free(speed) => (&cells - Fraction::one()) * &length * &second / (speed.pixels(&length) * &each),
        Mode::PerFrame(step) => &cells * &length / step.pixels(&length),
    };
    plan.movers.iter().map(|(_, settings)| least(settings)).max().unwrap_or_else(Fraction::zero)
}

/// One of those that move.
enum Walker {
    /// From cell to cell.
    Steps(Mover),
    /// By pixels.
    Free(Body),
}

impl Walker {
    /// The keys of the usual run, which goes to the right.
    fn usual_keys(&mut self, cells: u64, now: &Fraction, frame: u64) {
        let Self::Steps(mover) = self else {
            return if frame == 0 {
                self.key(Heading::East, now, true)
            };
        };
        let off = mover.settings.hold == Hold::Off;
        if (off && !mover.is_moving() && mover.tally.started < cells) || (!off && frame == 0) {
            mover.press(Heading::East, now);
        }
        if off {
            mover.release(Heading::East, now);
        }
    }

    /// A key goes down or up.
    fn key(&mut self, key: Heading, at: &Fraction, down: bool) {
        match (self, down) {
            (Self::Steps(mover), true) => {
                // What is due before the event comes first; a repeat is never due at its release.
                mover.repeat_before(at);
                mover.press(key, at);
            }
            (Self::Steps(mover), false) => {
                mover.repeat_before(at);
                mover.release(key, at);
            }
            (Self::Free(body), true) => body.press(key, at),
            (Self::Free(body), false) => body.release(key, at),
        }
    }

    fn begin(&mut self) {
        match self {
            Self::Steps(mover) => mover.begin(),
            Self::Free(body) => body.begin(),
        }
    }

    /// Repeats up to a frame.
    fn repeat(&mut self, now: &Fraction, frame: u64) {
        let Self::Steps(mover) = self else { return };
        while let Some(due) = mover.next_repeat().filter(|due| due <= now) {
            mover.repeat(&due);
        }
        if frame > 0 {
            mover.press_every_frame(now);
        }
    }

    /// A frame; `most` steps end the usual run of a body. Gives false where there are more steps than a run may have.
    fn frame(&mut self, now: &Fraction, frame: u64, ground: &mut dyn Ground, most: Option<u64>) -> bool {
        match self {
            Self::Steps(mover) => {
                let goes_on = mover.frame(now, frame, ground);
                mover.deal_with_rest(now, frame, ground);
                mover.note(now, ground.cell(mover.number));
                goes_on
            }
            Self::Free(body) => {
                let goes_on = body.frame(now, frame, ground);
                body.note(now, ground);
                if most.is_some_and(|most| body.steps() >= most) {
                    body.release_all(now);
                }
                goes_on
            }
        }
    }

    fn is_quiet(&self) -> bool {
        match self {
            Self::Steps(mover) => mover.is_quiet(),
            Self::Free(body) => body.is_quiet(),
        }
    }

    fn never_lands(&self) -> bool {
        match self {
            Self::Steps(mover) => mover.tally.never_lands,
            Self::Free(_) => false,
        }
    }

    /// Steps that have begun; of a body those that were granted.
    fn steps(&self) -> u64 {
        match self {
            Self::Steps(mover) => mover.tally.started,
            Self::Free(body) => body.steps(),
        }
    }
}

struct Runner<'a, G> {
    plan: &'a Plan,
    geometry: &'a Geometry,
    extent: Extent,
    ground: G,
    walkers: Vec<Walker>,
    /// What each has shoved.
    shoved: Vec<Vec<Shoved>>,
    /// The next event of the script.
    next: usize,
}

impl<'a, G: Ground> Runner<'a, G> {
    fn new(plan: &'a Plan, geometry: &'a Geometry, extent: Extent, ground: G) -> Self {
        let [across, down] = pitches(geometry);
        let south = if geometry.y == YAxis::Down { Fraction::one() } else { -Fraction::one() };
        let scale = Scale { pitch: (across, down), down: south };
        let walkers = plan.movers.iter().enumerate().map(|(number, (_, settings))| {
            let cell = ground.cell(number);
            if settings.is_free() {
                return Walker::Free(Body::new(number, settings, (geometry, extent), &plan.frames, cell));
            }
            let [x, y] = centre(geometry, extent, cell);
            Walker::Steps(Mover::new(number, settings.clone(), scale.clone(), (x, y), plan.keys.most_steps()))
        });
        let walkers = walkers.collect();
        let shoved = vec![Vec::new(); plan.movers.len()];
        Self { plan, geometry, extent, ground, walkers, shoved, next: 0 }
    }

    fn run(mut self) -> Result<Vec<TrackRun>, RunError> {
        let mut now = Fraction::zero();
        let mut frame = 0;
        let most = self.plan.keys.most_steps();
        loop {
            if frame >= MOST_FRAMES {
                return Err(RunError::TooLong);
            }
            now = self.plan.frames.time(frame, &now);
            let first = self.next;
            for number in 0..self.walkers.len() {
                self.next = first;
                self.keys(number, &now, frame);
                if !self.walkers[number].frame(&now, frame, &mut self.ground, most) {
                    return Err(RunError::TooLong);
                }
                let shoved = self.ground.take_shoved().into_iter();
                self.shoved[number].extend(shoved.map(|(kind, from, to)| Shoved { t: nearest(&now), kind, from, to }));
            }
            if self.has_ended() || self.plan.until.as_ref().is_some_and(|until| now >= *until) {
                return Ok(self.finish());
            }
            frame += 1;
        }
    }

    /// Key events and repeats of a mover up to a frame, in the order of time.
    fn keys(&mut self, number: usize, now: &Fraction, frame: u64) {
        let walker = &mut self.walkers[number];
        walker.begin();
        match &self.plan.keys {
            Drive::Usual(cells) => walker.usual_keys(*cells, now, frame),
            Drive::Keys(keys) => {
                while let Some(event) = keys.get(self.next).filter(|event| event.at <= *now) {
                    self.next += 1;
                    let name = &self.plan.movers[number].0;
                    if event.kind.as_ref().map_or(number == 0, |kind| kind == name) {
                        walker.key(event.key, &event.at, event.down);
                    }
                }
            }
        }
        walker.repeat(now, frame);
    }

    fn has_ended(&self) -> bool {
        if self.walkers.iter().any(Walker::never_lands) {
            return true;
        }
        let quiet = self.walkers.iter().all(Walker::is_quiet);
        match &self.plan.keys {
            Drive::Usual(cells) => quiet && self.walkers.iter().all(|walker| walker.steps() >= *cells),
            Drive::Keys(keys) => quiet && self.next >= keys.len(),
        }
    }

    fn finish(self) -> Vec<TrackRun> {
        let Self { plan, geometry, extent, ground, walkers, mut shoved, .. } = self;
        let all = walkers.into_iter().zip(&plan.movers).enumerate();
        all.map(|(number, (walker, (name, settings)))| {
            let mover = match walker {
                Walker::Steps(mover) => mover,
                Walker::Free(body) => {
                    return TrackRun { shoved: std::mem::take(&mut shoved[number]), ..body.finish(name, geometry) };
                }
            };
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
                body: None,
                shoved: std::mem::take(&mut shoved[number]),
            }
        })
        .collect()
    }
}
