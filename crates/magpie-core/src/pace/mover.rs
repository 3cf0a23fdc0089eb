//! One piece that moves: its keys, its step under way, its place.

mod lean;

use super::ground::Ground;
use super::settings::{Arrival, AxisOrder, Hold, Mode, Moving, Settings};
use crate::limits::MOST_STEPS;
use crate::space::exact::{Fraction, nearest};
use crate::space::{Cell, Heading};
use lean::Lean;
use num_traits::{Signed, Zero};
use std::collections::VecDeque;

/// A place in world pixels.
pub(super) type Point = (Fraction, Fraction);

/// What a piece does at a frame.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FrameState {
    /// A step arrived at this frame.
    Arrived,
    /// A step is under way, or a body is elsewhere than at the frame before.
    Moving,
    /// It leans against what refused it.
    Leaning,
    /// Slack has moved a body past a corner.
    Slid,
    /// A body is held up by a corner.
    Caught,
    /// Nothing of these.
    Standing,
}

impl FrameState {
    /// The word of the formats.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Arrived => "arrived",
            Self::Moving => "moving",
            Self::Leaning => "leaning",
            Self::Slid => "slid",
            Self::Caught => "caught",
            Self::Standing => "standing",
        }
    }
}

/// A piece at a frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sample {
    /// When, in ms.
    pub t: f64,
    /// Where its middle is drawn, in world pixels.
    pub x: f64,
    /// The same along y.
    pub y: f64,
    /// The cell the board has it in.
    pub cell: Cell,
    /// The share of the step that is drawn.
    pub progress: f64,
    /// What it does.
    pub state: FrameState,
}

/// A key going down or up.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct KeyMark {
    /// When, in ms.
    pub at: f64,
    /// Which, by the heading it asks for.
    pub key: Heading,
    /// Down; else up.
    pub down: bool,
}

/// A key that has gone down, or is taken to.
#[derive(Clone, Debug)]
pub(super) struct Press {
    /// When.
    pub at: Fraction,
    pub key: Heading,
    /// Made by holding, not by a finger.
    pub repeat: bool,
    /// Its number among the real presses; of a repeat that of its key.
    pub number: usize,
    /// It has waited for its turn.
    pub waited: bool,
}

/// What is known of a real press.
#[derive(Clone, Debug, Default)]
pub(super) struct Account {
    pub at: Fraction,
    pub asked: bool,
    /// Whether it has started a step.
    pub started: bool,
    pub first: First,
}

/// What a real press came to when its turn came.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum First {
    /// It has not been asked, or a body had no way to go yet.
    #[default]
    Open,
    /// A body moved.
    Moved,
    /// Nothing moved on its account.
    Refused,
}

/// A key that is down.
#[derive(Clone, Debug)]
struct Held {
    key: Heading,
    number: usize,
    /// When it presses again.
    again: Option<Fraction>,
}

/// A step under way.
#[derive(Clone, Debug)]
pub(super) struct Step {
    pub from: Point,
    pub heading: Heading,
    /// Along x and y.
    pub way: Point,
    /// The larger of both.
    pub length: Fraction,
    pub began: Fraction,
    pub frame: u64,
    /// What an arrival carried over: ms of a timed step, px of the others.
    carried: Fraction,
    /// Where it was drawn last, as a share of the way.
    pub drawn: Fraction,
    /// Presses that started it and have not been seen to move.
    waiting: Vec<usize>,
}

/// What happened to one step.
#[derive(Clone, Debug)]
pub(super) struct Arrived {
    pub from: Fraction,
    pub to: Fraction,
    pub frames: u64,
}

/// The pitch of the grid and which way world y points.
#[derive(Clone, Debug)]
pub(super) struct Scale {
    pub pitch: Point,
    pub down: Fraction,
}

/// The tallies behind the figures.
#[derive(Clone, Debug, Default)]
pub(super) struct Tally {
    pub arrived: Vec<Arrived>,
    pub started: u64,
    pub diagonals: u64,
    pub conflicts: Vec<u64>,
    pub given_up: u64,
    pub overshoot: Largest,
    pub latency: Option<Fraction>,
    pub first_start: Option<Fraction>,
    pub last_heading: Option<Heading>,
    /// And of the first one.
    pub first_heading: Option<Heading>,
    pub never_lands: bool,
    /// ms or px lost at arrivals.
    pub lost: Largest,
    /// Largest move between two frames.
    pub jump: Largest,
    /// Sum of the moves, to the last frame and to the last arrival.
    gone: Fraction,
    pub gone_at_arrival: Fraction,
}

/// The largest fraction seen, from 0.
#[derive(Clone, Debug)]
pub(super) struct Largest(pub Fraction);

impl Default for Largest {
    fn default() -> Self {
        Self(Fraction::zero())
    }
}

impl Largest {
    fn at_least(&mut self, other: Fraction) {
        if other > self.0 {
            self.0 = other;
        }
    }
}

/// A piece that moves.
pub(super) struct Mover {
    pub number: usize,
    pub settings: Settings,
    scale: Scale,
    pub at: Point,
    /// Where it was drawn at the frame before.
    before: Point,
    pub step: Option<Step>,
    lean: Option<Lean>,
    /// The heading of the first request at this frame that a press had part in, and which presses.
    pressed: Option<(Heading, Vec<Press>)>,
    /// Whether a step has begun at this frame.
    granted_now: bool,
    /// Real presses asked at this frame for the first time since they were read or waited.
    asked_now: Vec<usize>,
    held: Vec<Held>,
    /// The last two keys pressed, the newest last.
    latched: Vec<(Heading, usize)>,
    waiting: VecDeque<Press>,
    /// Presses read at this frame that have started nothing yet.
    fresh: Vec<Press>,
    pub accounts: Vec<Account>,
    /// Keys as they went down and up.
    pub log: Vec<KeyMark>,
    pub tally: Tally,
    arrived_now: Option<Fraction>,
    /// At most one instant step a frame.
    jumped: bool,
    pub samples: Vec<Sample>,
    /// After so many steps have begun all keys go up.
    most_steps: Option<u64>,
}

pub(super) const fn is_horizontal(key: Heading) -> bool {
    matches!(key, Heading::West | Heading::East)
}

impl Mover {
    pub(super) fn new(number: usize, settings: Settings, scale: Scale, at: Point, most_steps: Option<u64>) -> Self {
        Self {
            number,
            settings,
            scale,
            before: at.clone(),
            at,
            step: None,
            lean: None,
            pressed: None,
            granted_now: false,
            asked_now: Vec::new(),
            held: Vec::new(),
            latched: Vec::new(),
            waiting: VecDeque::new(),
            fresh: Vec::new(),
            accounts: Vec::new(),
            log: Vec::new(),
            tally: Tally::default(),
            arrived_now: None,
            jumped: false,
            samples: Vec::new(),
            most_steps,
        }
    }

    /// Whether a step or a lean is under way, or an instant step was made at this frame.
    pub(super) fn is_moving(&self) -> bool {
        self.step.is_some() || self.lean.is_some() || self.jumped
    }

    /// Whether nothing is down, under way or waiting.
    pub(super) fn is_quiet(&self) -> bool {
        self.held.is_empty() && !self.is_moving() && self.waiting.is_empty()
    }

    /// A new frame: what was said of the last one is forgotten.
    pub(super) fn begin(&mut self) {
        self.fresh.clear();
        self.pressed = None;
        self.granted_now = false;
        self.asked_now.clear();
        self.arrived_now = None;
        self.jumped = false;
    }

    /// A key goes down.
    pub(super) fn press(&mut self, key: Heading, at: &Fraction) {
        let number = self.accounts.len();
        self.log.push(KeyMark { at: nearest(at), key, down: true });
        self.accounts.push(Account { at: at.clone(), ..Account::default() });
        self.fresh.push(Press { at: at.clone(), key, repeat: false, number, waited: false });
        let again = match &self.settings.hold {
            Hold::Repeat(after, _) => Some(at + &after.value),
            _ => None,
        };
        self.held.push(Held { key, number, again });
        self.latched.retain(|(other, _)| *other != key);
        self.latched.push((key, number));
        if self.latched.len() > 2 {
            self.latched.remove(0);
        }
    }

    /// A key goes up.
    pub(super) fn release(&mut self, key: Heading, at: &Fraction) {
        self.log.push(KeyMark { at: nearest(at), key, down: false });
        self.held.retain(|held| held.key != key);
    }

    /// When a key that is down presses again before an instant; `None` where none does.
    pub(super) fn next_repeat(&self) -> Option<Fraction> {
        self.held.iter().filter_map(|held| held.again.clone()).min()
    }

    /// Repeats that are due before an instant.
    pub(super) fn repeat_before(&mut self, at: &Fraction) {
        while let Some(due) = self.next_repeat().filter(|due| due < at) {
            self.repeat(&due);
        }
    }

    /// The key whose repeat is due at an instant presses.
    pub(super) fn repeat(&mut self, due: &Fraction) {
        let Hold::Repeat(_, every) = &self.settings.hold else {
            return;
        };
        for held in &mut self.held {
            if held.again.as_ref() == Some(due) {
                held.again = Some(due + &every.value);
                self.fresh.push(Press {
                    at: due.clone(),
                    key: held.key,
                    repeat: true,
                    number: held.number,
                    waited: false,
                });
            }
        }
    }

    /// At every later frame a key down makes a press.
    pub(super) fn press_every_frame(&mut self, now: &Fraction) {
        if self.settings.hold != Hold::EveryFrame {
            return;
        }
        let fresh: Vec<usize> = self.fresh.iter().map(|press| press.number).collect();
        for held in self.held.iter().filter(|held| !fresh.contains(&held.number)) {
            self.fresh.push(Press { at: now.clone(), key: held.key, repeat: true, number: held.number, waited: false });
        }
    }

    /// How much of a step is gone at an instant: ms of a timed one, px of the others.
    fn gone(&self, step: &Step, now: &Fraction, frame: u64) -> Fraction {
        let time = now - &step.began;
        let gone = match &self.settings.mode {
            Mode::Instant => step.length.clone(),
            Mode::Timed(_) => time,
            Mode::Rate(speed) | Mode::Free(speed) => {
                speed.pixels(&step.length) * time / Fraction::from_integer(1000.into())
            }
            Mode::PerFrame(speed) => speed.pixels(&step.length) * Fraction::from_integer((frame - step.frame).into()),
        };
        gone + &step.carried
    }

    /// What a step needs to arrive, in the unit of [`Self::gone`].
    fn needed(&self, step: &Step) -> Fraction {
        match &self.settings.mode {
            Mode::Timed(time) => time.value.clone(),
            _ => step.length.clone(),
        }
    }

    /// The share of the way drawn when so much is gone.
    fn share(&self, gone: &Fraction, needed: &Fraction) -> Fraction {
        let p = gone / needed;
        if matches!(self.settings.mode, Mode::Timed(_)) { self.settings.easing.of(&p) } else { p }
    }

    fn place(step: &Step, share: &Fraction) -> Point {
        (&step.from.0 + &step.way.0 * share, &step.from.1 + &step.way.1 * share)
    }

    /// A frame: the step under way moves on and may arrive, and where none is under way the next begins. With something
    /// carried over that one may arrive at once, and so on. Gives false where there are more steps than a run may have.
    pub(super) fn frame(&mut self, now: &Fraction, frame: u64, ground: &mut dyn Ground) -> bool {
        if self.leans_on(now) {
            return true;
        }
        let mut carried = Fraction::zero();
        loop {
            if self.step.is_some() {
                match self.advance(now, frame, ground) {
                    None => return true,
                    Some(left) => carried = left,
                }
            }
            if self.tally.started >= MOST_STEPS {
                return false;
            }
            let carries = !carried.is_zero();
            if !self.choose(now, frame, std::mem::take(&mut carried), ground) {
                self.lean_against(now);
                return true;
            }
            if self.settings.mode == Mode::Instant {
                // At most one a frame: the piece counts as moving for the rest of it.
                self.advance(now, frame, ground);
                self.jumped = true;
                return true;
            }
            if !carries {
                return true;
            }
        }
    }

    /// One pitch along a heading, in x and y.
    fn way(&self, heading: Heading) -> Point {
        let (east, south) = heading.screen_step();
        (
            Fraction::from_integer(east.into()) * &self.scale.pitch.0,
            Fraction::from_integer(south.into()) * &self.scale.pitch.1 * &self.scale.down,
        )
    }

    /// Moves the step under way on. Where it has ended, gives what is left over for the next.
    fn advance(&mut self, now: &Fraction, frame: u64, ground: &mut dyn Ground) -> Option<Fraction> {
        let mut step = self.step.take()?;
        let (gone, needed) = (self.gone(&step, now, frame), self.needed(&step));
        let counts_pixels = !matches!(self.settings.mode, Mode::Timed(_));
        let equal = self.settings.test_equal && counts_pixels;
        let arrives = if equal { gone == needed } else { gone >= needed };
        if !arrives {
            step.drawn = self.share(&gone, &needed);
            self.at = Self::place(&step, &step.drawn);
            if equal && gone > needed {
                self.tally.overshoot.at_least(&gone - &needed);
                self.tally.never_lands |= gone >= needed * Fraction::from_integer(10.into());
            }
            self.moved(&mut step, now);
            self.step = Some(step);
            return None;
        }
        if self.settings.claim_at_arrival && !ground.ask(self.number, step.heading) {
            self.tally.conflicts.push(frame);
            self.at = step.from;
            return Some(Fraction::zero());
        }
        let left = &gone - &needed;
        match self.settings.arrival {
            // A timed step stays where it was drawn last, the others where they have come to.
            Arrival::Drift if counts_pixels => {
                step.drawn = self.share(&gone, &needed);
                self.tally.overshoot.at_least(left.clone());
            }
            Arrival::Drift => {}
            Arrival::Snap | Arrival::Carry => step.drawn = Fraction::from_integer(1.into()),
        }
        self.at = Self::place(&step, &step.drawn);
        self.moved(&mut step, now);
        self.tally.arrived.push(Arrived { from: step.began.clone(), to: now.clone(), frames: frame - step.frame });
        self.arrived_now = Some(step.drawn);
        if self.settings.arrival == Arrival::Carry {
            return Some(left);
        }
        self.tally.lost.at_least(left);
        Some(Fraction::zero())
    }

    /// Notes how long presses waited for a step that is drawn away from its start.
    fn moved(&mut self, step: &mut Step, now: &Fraction) {
        if step.drawn.is_zero() {
            return;
        }
        for number in step.waiting.drain(..) {
            let latency = now - &self.accounts[number].at;
            if self.tally.latency.as_ref().is_none_or(|longest| latency > *longest) {
                self.tally.latency = Some(latency);
            }
        }
    }

    /// Chooses the next step and begins it at this frame; false where there is none.
    fn choose(&mut self, now: &Fraction, frame: u64, carried: Fraction, ground: &mut dyn Ground) -> bool {
        // A waiting press goes by itself, the oldest first.
        while let Some(press) = self.waiting.pop_front() {
            let presses = [press];
            self.asked(presses[0].key, &presses);
            if self.ask(presses[0].key, ground) {
                self.start(presses[0].key, &presses, now, frame, carried);
                return true;
            }
        }
        for (heading, presses) in self.candidates() {
            self.asked(heading, &presses);
            if self.ask(heading, ground) {
                self.fresh.retain(|fresh| !presses.iter().any(|press| same(press, fresh)));
                self.start(heading, &presses, now, frame, carried);
                return true;
            }
        }
        false
    }

    fn ask(&self, heading: Heading, ground: &mut dyn Ground) -> bool {
        if self.settings.claim_at_arrival {
            ground.would(self.number, heading)
        } else {
            ground.ask(self.number, heading)
        }
    }

    /// Keys are asked for a heading: those of them that are presses of this frame, or have waited, are told apart from
    /// keys that stay down.
    fn asked(&mut self, heading: Heading, presses: &[Press]) {
        let pressed = |press: &Press| press.waited || self.fresh.iter().any(|fresh| same(fresh, press));
        if self.pressed.is_none() && presses.iter().any(pressed) {
            self.pressed = Some((heading, presses.to_vec()));
        }
        let numbers = presses.iter().filter(|press| pressed(press) && !press.repeat).map(|press| press.number);
        self.asked_now.extend(numbers);
        for press in presses {
            self.accounts[press.number].asked = true;
        }
    }

    /// Keys gone down that were asked at this frame without a step beginning on their account are refused.
    fn count_refused(&mut self) {
        for number in self.asked_now.drain(..) {
            let account = &mut self.accounts[number];
            if !account.started {
                account.first = First::Refused;
            }
        }
    }

    /// Presses of this frame and keys that count as down, in the order in which they are asked.
    fn candidates(&self) -> Vec<(Heading, Vec<Press>)> {
        let mut all = self.fresh.clone();
        let held: Vec<(Heading, usize)> = match self.settings.hold {
            Hold::Continuous => self.held.iter().map(|held| (held.key, held.number)).collect(),
            Hold::Latched => self.latched.clone(),
            _ => Vec::new(),
        };
        for (key, number) in held {
            if !all.iter().any(|press| press.number == number) {
                all.push(Press { at: self.accounts[number].at.clone(), key, repeat: false, number, waited: false });
            }
        }
        // By when their keys went down; later ones of one time are later.
        all.sort_by(|one, other| {
            let since = |press: &Press| &self.accounts[press.number].at;
            since(one).cmp(since(other)).then(one.number.cmp(&other.number))
        });
        let alone = |press: Press| (press.key, vec![press]);
        let newest_first = |horizontal: bool| {
            let of_axis = all.iter().rev().filter(move |press| is_horizontal(press.key) == horizontal);
            of_axis.cloned()
        };
        match self.settings.axis {
            AxisOrder::FirstPressed => all.into_iter().map(alone).collect(),
            AxisOrder::LastPressed => all.into_iter().rev().map(alone).collect(),
            AxisOrder::HorizontalFirst => newest_first(true).chain(newest_first(false)).map(alone).collect(),
            AxisOrder::VerticalFirst => newest_first(false).chain(newest_first(true)).map(alone).collect(),
            AxisOrder::Diagonal => {
                let (across, down) = (newest_first(true).next(), newest_first(false).next());
                let mut found = Vec::new();
                if let (Some(across), Some(down)) = (&across, &down) {
                    let (east, south) = (across.key.screen_step().0, down.key.screen_step().1);
                    if let Some(heading) = Heading::from_screen_step(east, south) {
                        found.push((heading, vec![across.clone(), down.clone()]));
                    }
                }
                let mut each: Vec<Press> = across.into_iter().chain(down).collect();
                each.sort_by_key(|press| std::cmp::Reverse(press.number));
                found.extend(each.into_iter().map(alone));
                found
            }
        }
    }

    fn start(&mut self, heading: Heading, presses: &[Press], now: &Fraction, frame: u64, carried: Fraction) {
        // Where anything is granted nothing is leant against at this frame.
        self.granted_now = true;
        let way = self.way(heading);
        let length = way.0.abs().max(way.1.abs());
        self.tally.started += 1;
        self.tally.diagonals += u64::from(heading.is_diagonal());
        self.tally.first_start.get_or_insert_with(|| now.clone());
        self.tally.last_heading = Some(heading);
        self.tally.first_heading.get_or_insert(heading);
        let mut waiting = Vec::new();
        for press in presses.iter().filter(|press| !press.repeat) {
            if !std::mem::replace(&mut self.accounts[press.number].started, true) {
                waiting.push(press.number);
            }
        }
        let step = Step {
            from: self.at.clone(),
            heading,
            way,
            length,
            began: now.clone(),
            frame,
            carried,
            drawn: Fraction::zero(),
            waiting,
        };
        self.step = Some(step);
        if self.most_steps == Some(self.tally.started) {
            let up: Vec<Heading> = self.held.iter().map(|held| held.key).collect();
            up.into_iter().for_each(|key| self.release(key, now));
            self.latched.clear();
        }
    }

    /// Presses of this frame that started nothing, while a step is under way.
    pub(super) fn deal_with_rest(&mut self, now: &Fraction, frame: u64, ground: &mut dyn Ground) {
        if self.is_moving() {
            self.deal_while_moving(now, frame, ground);
        }
        self.count_refused();
    }

    fn deal_while_moving(&mut self, now: &Fraction, frame: u64, ground: &mut dyn Ground) {
        for press in std::mem::take(&mut self.fresh) {
            match self.settings.moving {
                Moving::Ignored => {}
                Moving::Remembered => {
                    self.waiting.clear();
                    self.waiting.push_back(Press { waited: true, ..press });
                }
                Moving::Queued(most) => {
                    if (self.waiting.len() as u64) < most {
                        self.waiting.push_back(Press { waited: true, ..press });
                    }
                }
                // Of instant steps there is at most one a frame.
                Moving::Obeyed if self.jumped => {}
                Moving::Obeyed => {
                    let presses = [Press { waited: true, ..press }];
                    self.asked(presses[0].key, &presses);
                    if self.ask(presses[0].key, ground) {
                        self.lean = None;
                        self.tally.given_up += u64::from(self.step.take().is_some());
                        self.start(presses[0].key, &presses, now, frame, Fraction::zero());
                    }
                }
            }
        }
    }

    /// Notes the frame.
    pub(super) fn note(&mut self, now: &Fraction, cell: Cell) {
        let progress = self.step.as_ref().map(|step| step.drawn.clone()).or_else(|| self.arrived_now.clone());
        let state = match (&self.arrived_now, &self.step) {
            (Some(_), _) => FrameState::Arrived,
            (None, Some(_)) => FrameState::Moving,
            (None, None) if self.lean.is_some() => FrameState::Leaning,
            (None, None) => FrameState::Standing,
        };
        let moved = (&self.at.0 - &self.before.0).abs().max((&self.at.1 - &self.before.1).abs());
        self.before = self.at.clone();
        // The mean speed looks at moves from frame to frame; the first frame has none before it.
        if !self.samples.is_empty() {
            self.tally.gone += &moved;
        }
        self.tally.jump.at_least(moved);
        if self.arrived_now.is_some() {
            self.tally.gone_at_arrival = self.tally.gone.clone();
        }
        self.samples.push(Sample {
            t: nearest(now),
            x: nearest(&self.at.0),
            y: nearest(&self.at.1),
            cell,
            progress: progress.as_ref().map_or(0.0, nearest),
            state,
        });
    }
}

fn same(one: &Press, other: &Press) -> bool {
    one.number == other.number && one.at == other.at && one.repeat == other.repeat
}
