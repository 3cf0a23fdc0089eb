//! A body that moves by pixels among cells that block (docs/model.md, section 12).

mod course;
mod lattice;

#[cfg(test)]
mod slow;
#[cfg(test)]
mod tests;

use super::figures::Figures;
use super::ground::Ground;
use super::mover::{Account, First, FrameState, KeyMark, Sample, is_horizontal};
use super::run::{Frames, Outcome};
use super::settings::{Amount, AxisOrder, Mode, Settings};
use crate::limits::MOST_STEPS;
use crate::space::exact::{Fraction, as_written, centre, nearest, pitches};
use crate::space::{Cell, Extent, Geometry, Heading, YAxis};
use course::{Course, End, Sizes, Spot, across, axis, crossing};
use lattice::{Int, Lattice, ZERO, floor, signed, times};
use num_traits::{Signed, Zero};
use std::collections::BTreeMap;
use std::rc::Rc;

/// A corner that has held a body up.
#[derive(Clone, Debug, PartialEq)]
pub struct Corner {
    /// Where it is, in world pixels.
    pub at: (f64, f64),
    /// The heading of the key that it held.
    pub heading: Heading,
    /// How far the body overlaps it across its way at most, in px.
    pub overlap: Fraction,
    /// The least slack that would have let it past at every frame, in px; `None` where none does.
    pub past: Option<Fraction>,
    /// The next corner on the other side of the way, and the px between both, where they are fewer than the body has.
    pub between: Option<((f64, f64), Fraction)>,
    /// The first frame at which it did.
    pub frame: u64,
}

impl Corner {
    /// Whether the key went up or down, so that the body is held by its width.
    pub const fn is_upright(&self) -> bool {
        matches!(self.heading, Heading::North | Heading::South)
    }
}

/// What a free body met on its way.
#[derive(Clone, Debug, PartialEq)]
pub struct BodyRun {
    /// Width and height of what collides, in px.
    pub size: (f64, f64),
    /// The corners that caught it, by y, then x, then heading.
    pub corners: Vec<Corner>,
}

/// A key that is down.
#[derive(Clone, Copy, Debug)]
struct Down {
    key: Heading,
    /// Its number among the presses.
    number: usize,
    /// It has gone down at this frame.
    fresh: bool,
    /// And up again: it counts as down at the frame that reads it.
    up: bool,
}

/// A corner while the run goes on: by place and heading, in units.
#[derive(Clone, Copy, Debug)]
struct Caught {
    overlap: Int,
    past: Option<Int>,
    between: Option<([Int; 2], Int)>,
    frame: u64,
}

/// The tallies behind the figures.
#[derive(Clone, Debug, Default)]
struct Tally {
    steps: u64,
    events: u64,
    diagonals: u64,
    caught: u64,
    slid: u64,
    latency: Option<Fraction>,
    /// The frame before the first movement, and the last one.
    moved: Option<(Fraction, Fraction)>,
    gone: Int,
    jump: Int,
    first_axis: Option<usize>,
    last_key: Option<Heading>,
    corners: BTreeMap<([Int; 2], u8), Caught>,
}

/// What a frame has come to so far.
#[derive(Default)]
struct Now {
    /// Its own request has taken it elsewhere, or off the board.
    over: bool,
    slid: [bool; 2],
    caught: bool,
}

/// A body that moves freely.
pub(super) struct Body {
    number: usize,
    settings: Settings,
    lattice: Lattice,
    sizes: Rc<Sizes>,
    slack: Int,
    lined: Option<Int>,
    /// The middle of cell (0, 0) in world pixels, and whether the world's y grows to the south of the screen.
    origin: [Int; 2],
    down_is: i64,
    /// The way of each frame along either axis; used over and over.
    ways: Vec<[Int; 2]>,
    spot: Spot,
    /// Where it was at the frame before, the ways round the board taken out.
    before: [Int; 2],
    gone: bool,
    moved: bool,
    last_frame: Fraction,
    down: Vec<Down>,
    accounts: Vec<Account>,
    log: Vec<KeyMark>,
    samples: Vec<Sample>,
    tally: Tally,
    state: FrameState,
}

/// The size of a body in px: one cell where the pace leaves it out.
pub fn body_size(settings: &Settings, geometry: &Geometry) -> [Fraction; 2] {
    match &settings.body {
        None => [geometry.size.0, geometry.size.1].map(as_written),
        Some((width, height)) => [width, height.as_ref().unwrap_or(width)].map(|amount| amount.value.clone()),
    }
}

/// How far it goes in each frame along x and y, in px.
fn ways(speed: &Amount, frames: &Frames, pitch: &[Fraction; 2]) -> Vec<[Fraction; 2]> {
    let second = Fraction::from_integer(1000.into());
    let durations = match frames {
        Frames::Rate(_, fps) => vec![&second / fps],
        Frames::List(all) => all.clone(),
    };
    let way = |time: &Fraction| [0, 1].map(|axis| speed.pixels(&pitch[axis]) * time / &second);
    durations.iter().map(way).collect()
}

impl Body {
    pub(super) fn new(
        number: usize,
        settings: &Settings,
        (geometry, extent): (&Geometry, Extent),
        frames: &Frames,
        cell: Cell,
    ) -> Self {
        let two = Fraction::from_integer(2.into());
        let half = |both: &[Fraction; 2]| [&both[0] / &two, &both[1] / &two];
        let pitch = pitches(geometry);
        let body = body_size(settings, geometry);
        let cell_size = [geometry.size.0, geometry.size.1].map(as_written);
        let origin = centre(geometry, extent, Cell::new(0, 0));
        let speed = match &settings.mode {
            Mode::Free(speed) => speed.clone(),
            Mode::Instant | Mode::Timed(_) | Mode::Rate(_) | Mode::PerFrame(_) => Amount::new("0", false),
        };
        let ways = ways(&speed, frames, &pitch);
        let value =
            |amount: &Option<Amount>| amount.as_ref().map_or_else(Fraction::zero, |amount| amount.value.clone());
        let (slack, lined) = (value(&settings.slack), value(&settings.lined));
        let halves = [half(&pitch), half(&cell_size), half(&body)];
        let all = halves.iter().chain([&pitch, &origin]).chain(&ways).flatten();
        let lattice = Lattice::of(all.chain([&slack, &lined]));
        let units = |both: &[Fraction; 2]| [lattice.units(&both[0]), lattice.units(&both[1])];
        let [half_pitch, half_cell, half_body] = halves.each_ref().map(units);
        let sizes = Sizes { pitch: units(&pitch), half_pitch, half_cell, half_body, south: geometry.south() };
        let home = sizes.square(cell);
        let spot = Spot { at: sizes.middle(home), home, wrapped: [ZERO; 2] };
        Self {
            number,
            settings: settings.clone(),
            slack: lattice.units(&slack),
            lined: settings.lined.is_some().then(|| lattice.units(&lined)),
            origin: units(&origin),
            down_is: if geometry.y == YAxis::Down { 1 } else { -1 },
            ways: ways.iter().map(units).collect(),
            before: spot.at,
            spot,
            sizes: Rc::new(sizes),
            lattice,
            gone: false,
            moved: false,
            last_frame: Fraction::zero(),
            down: Vec::new(),
            accounts: Vec::new(),
            log: Vec::new(),
            samples: Vec::new(),
            tally: Tally::default(),
            state: FrameState::Standing,
        }
    }

    /// A new frame: taps of the last one are over.
    pub(super) fn begin(&mut self) {
        self.down.retain(|down| !down.up);
        self.down.iter_mut().for_each(|down| down.fresh = false);
    }

    pub(super) fn press(&mut self, key: Heading, at: &Fraction) {
        self.log.push(KeyMark { at: nearest(at), key, down: true });
        self.down.push(Down { key, number: self.accounts.len(), fresh: true, up: false });
        self.accounts.push(Account { at: at.clone(), ..Account::default() });
    }

    pub(super) fn release(&mut self, key: Heading, at: &Fraction) {
        self.log.push(KeyMark { at: nearest(at), key, down: false });
        self.down.retain(|down| down.key != key || down.fresh);
        self.down.iter_mut().filter(|down| down.key == key).for_each(|down| down.up = true);
    }

    pub(super) fn release_all(&mut self, at: &Fraction) {
        let keys: Vec<Heading> = self.down.iter().filter(|down| !down.up).map(|down| down.key).collect();
        keys.into_iter().for_each(|key| self.release(key, at));
    }

    /// Requests granted at borders.
    pub(super) const fn steps(&self) -> u64 {
        self.tally.steps
    }

    /// Whether no key is down and nothing has moved at this frame.
    pub(super) fn is_quiet(&self) -> bool {
        !self.moved && self.down.iter().all(|down| down.up)
    }

    /// A frame; gives false where there are more events than a run may have.
    pub(super) fn frame(&mut self, now: &Fraction, frame: u64, ground: &mut dyn Ground) -> bool {
        self.find_place(ground);
        let mut found = Now::default();
        let way = match frame {
            0 => [ZERO; 2],
            _ => self.ways[((frame - 1) % self.ways.len() as u64) as usize],
        };
        let sizes = self.sizes.clone();
        let mut course = Course { sizes: &sizes, ground, mover: self.number, steps: 0, events: 0 };
        let mut spot = self.spot;
        if self.gone {
            let waiting: Vec<usize> = self.down.iter().map(|down| down.number).collect();
            waiting.into_iter().for_each(|number| self.accounts[number].asked = true);
        } else {
            let mut asking = Asking { course: &mut course, spot: &mut spot, slack: self.slack, found: &mut found };
            let moved_by = asking.keys(self.settings.axis, &self.down, way);
            let asked = moved_by.iter().map(|(down, _)| *down);
            let nobody = !moved_by.iter().any(|(_, moved)| *moved) && !moved_by.is_empty();
            let held: Vec<Hold> =
                if nobody { asked.filter_map(|down| asking.hold(down.key)).collect() } else { Vec::new() };
            found.caught = held.iter().any(|hold| hold.is_caught);
            if found.caught {
                held.iter().filter(|hold| hold.is_caught).for_each(|hold| self.note_corners(hold, &spot, frame));
            }
            self.tell(&moved_by, way, now);
            if let Some(lined) = self.lined.filter(|_| !found.over) {
                let free = [0, 1]
                    .map(|axis| !found.slid[axis] && self.down.iter().all(|down| course::axis(down.key).0 != axis));
                line_up(&mut course, &mut spot, lined, free, &mut found);
            }
        }
        self.tally.steps += course.steps;
        self.tally.events += course.events;
        self.gone |= course.ground.is_gone(self.number);
        self.spot = spot;
        self.sum_up(now, frame, &found);
        self.tally.events <= MOST_STEPS
    }

    /// What somebody else has done to the piece since the frame before.
    fn find_place(&mut self, ground: &dyn Ground) {
        self.gone |= ground.is_gone(self.number);
        let home = self.sizes.square(ground.cell(self.number));
        if !self.gone && home != self.spot.home {
            self.spot.home = home;
            self.spot.at = self.sizes.middle(home);
        }
    }

    /// Notes which keys were asked and what came of it.
    fn tell(&mut self, moved_by: &[(Down, bool)], way: [Int; 2], now: &Fraction) {
        let moving: Vec<Heading> = moved_by.iter().filter(|(_, moved)| *moved).map(|(down, _)| down.key).collect();
        for (down, moved) in moved_by {
            let account = &mut self.accounts[down.number];
            let has_way = way[axis(down.key).0] > ZERO;
            if has_way && account.first == First::Open {
                account.first = if *moved { First::Moved } else { First::Refused };
            }
            account.asked = true;
            if *moved && !std::mem::replace(&mut account.started, true) {
                let latency = now - &account.at;
                if self.tally.latency.as_ref().is_none_or(|longest| latency > *longest) {
                    self.tally.latency = Some(latency);
                }
            }
        }
        let Some(last) = moving.iter().find(|key| is_horizontal(**key)).or(moving.first()) else {
            return;
        };
        self.tally.last_key = Some(*last);
        self.tally.first_axis.get_or_insert(axis(moving[0]).0);
        self.tally.diagonals += u64::from(moving.len() > 1);
    }

    /// The corners that hold a key, the nearest on each side of the middle.
    fn note_corners(&mut self, hold: &Hold, spot: &Spot, frame: u64) {
        let (along, _) = axis(hold.key);
        let other = 1 - along;
        let sizes = &self.sizes;
        let nearest = |cells: &[[i64; 2]]| {
            [-1, 1].map(|side| {
                let cells = cells.iter().filter(|cell| (cell[other] - spot.home[other]) * side > 0);
                let corner = |cell: &[i64; 2]| {
                    let middle = sizes.middle(*cell);
                    [0, 1].map(|axis| {
                        let toward = if spot.at[axis] > middle[axis] { 1 } else { -1 };
                        middle[axis] + signed(toward, sizes.half_cell[axis])
                    })
                };
                let far = |corner: &[Int; 2]| [other, along].map(|axis| (corner[axis] - spot.at[axis]).abs());
                cells.map(corner).min_by_key(far)
            })
        };
        let (sides, around) = (nearest(&hold.cells), nearest(&hold.around));
        let body = sizes.half_body[other] + sizes.half_body[other];
        for (side, corner) in sides.iter().enumerate() {
            let Some(corner) = corner else { continue };
            let opposite = sides[1 - side].or(around[1 - side]);
            let overlap = self.sizes.half_body[other] - (corner[other] - spot.at[other]).abs();
            let between = opposite.map(|opposite| (opposite, (opposite[other] - corner[other]).abs()));
            let between = between.filter(|(_, wide)| *wide < body);
            let place = [corner[0], signed(self.down_is, corner[1])];
            let key = ([place[1], place[0]], hold.key as u8);
            let entry = self.tally.corners.entry(key).or_insert(Caught { overlap, past: hold.past, between, frame });
            entry.overlap = entry.overlap.max(overlap);
            // A slack that lets it past at every frame.
            entry.past = entry.past.zip(hold.past).map(|(one, other)| one.max(other));
            entry.between = entry.between.or(between);
        }
    }

    /// What the frame comes to.
    fn sum_up(&mut self, now: &Fraction, frame: u64, found: &Now) {
        let place = [0, 1].map(|axis| self.spot.at[axis] - self.spot.wrapped[axis]);
        let gone = [0, 1].map(|axis| (place[axis] - self.before[axis]).abs());
        let gone = gone[0].max(gone[1]);
        self.before = place;
        self.moved = gone > ZERO;
        let slid = found.slid.contains(&true);
        self.tally.slid += u64::from(slid);
        self.tally.caught += u64::from(found.caught);
        self.tally.jump = self.tally.jump.max(gone);
        if frame > 0 && self.moved {
            self.tally.gone += gone;
            let first = self.tally.moved.take().map_or_else(|| self.last_frame.clone(), |(first, _)| first);
            self.tally.moved = Some((first, now.clone()));
        }
        self.last_frame = now.clone();
        self.state = match (slid, found.caught, self.moved) {
            (true, _, _) => FrameState::Slid,
            (false, true, _) => FrameState::Caught,
            (false, false, true) => FrameState::Moving,
            (false, false, false) => FrameState::Standing,
        };
    }

    fn world(&self, at: [Int; 2]) -> (f64, f64) {
        let y = self.origin[1] + signed(self.down_is, at[1]);
        (self.lattice.near(self.origin[0] + at[0]), self.lattice.near(y))
    }

    /// Notes the frame.
    pub(super) fn note(&mut self, now: &Fraction, ground: &dyn Ground) {
        let (x, y) = self.world(self.spot.at);
        let cell = ground.cell(self.number);
        self.samples.push(Sample { t: nearest(now), x, y, cell, progress: 0.0, state: self.state });
    }

    /// The distance to the nearest line along an axis, ahead or behind.
    fn off_line(&self, axis: usize, lined: Int) -> Int {
        nearest_line(self.spot.at[axis], lined) - self.spot.at[axis]
    }

    fn figures(&self, geometry: &Geometry) -> Figures {
        let (tally, px) = (&self.tally, |units| self.lattice.px(units));
        let second = Fraction::from_integer(1000.into());
        let time = tally.moved.as_ref().map(|(first, last)| last - first);
        let mean_speed = time.filter(Signed::is_positive).map(|time| px(tally.gone) * second / time);
        let pitch = &pitches(geometry)[tally.first_axis.unwrap_or(0)];
        let middle = self.sizes.middle(self.spot.home);
        let error = tally.last_key.map_or(ZERO, |key| {
            let (axis, sign) = axis(key);
            signed(sign, self.spot.at[axis] - middle[axis])
        });
        let lined = self.lined.map(|lined| self.off_line(0, lined).abs().max(self.off_line(1, lined).abs()));
        let mut touched: Vec<[Int; 2]> = tally.corners.keys().map(|(place, _)| *place).collect();
        touched.dedup();
        Figures {
            frames_per_step: None,
            ms_per_step: None,
            nominal_speed: match &self.settings.mode {
                Mode::Free(speed) => Some(speed.pixels(pitch)),
                Mode::Instant | Mode::Timed(_) | Mode::Rate(_) | Mode::PerFrame(_) => None,
            },
            mean_speed,
            overshoot: Fraction::zero(),
            error: px(error),
            jump: px(tally.jump),
            inputs_lost: self.accounts.iter().filter(|press| !press.asked).count() as u64,
            refused: self.accounts.iter().filter(|press| press.first == First::Refused).count() as u64,
            latency: tally.latency.clone(),
            conflicts: 0,
            steps: tally.steps,
            presses: self.accounts.len() as u64,
            diagonals: tally.diagonals,
            caught: Some(tally.caught),
            slid: Some(tally.slid),
            touched: Some(touched.into_iter().map(|place| self.of_place(place)).collect()),
            lined: lined.map(px),
            outcome: Outcome::Done,
        }
    }

    /// A place kept as y and x of the world, in px.
    fn of_place(&self, [y, x]: [Int; 2]) -> (f64, f64) {
        (self.lattice.near(self.origin[0] + x), self.lattice.near(self.origin[1] + y))
    }

    pub(super) fn finish(self, name: &str, geometry: &Geometry) -> super::run::TrackRun {
        let figures = self.figures(geometry);
        let corner = |(key, caught): (&([Int; 2], u8), &Caught)| Corner {
            at: self.of_place(key.0),
            heading: Heading::ALL[usize::from(key.1)],
            overlap: self.lattice.px(caught.overlap),
            past: caught.past.map(|past| self.lattice.px(past)),
            between: caught.between.map(|(other, wide)| (self.world(other), self.lattice.px(wide))),
            frame: caught.frame,
        };
        let corners = self.tally.corners.iter().map(corner).collect();
        let near = |axis: usize| self.lattice.near(self.sizes.half_body[axis]) * 2.0;
        super::run::TrackRun {
            name: name.to_owned(),
            length: self.lattice.px(self.sizes.pitch[0]),
            body: Some(BodyRun { size: (near(0), near(1)), corners }),
            settings: self.settings,
            samples: self.samples,
            keys: self.log,
            figures,
            conflicts: Vec::new(),
            given_up: 0,
            lost: Fraction::zero(),
            shoved: Vec::new(),
        }
    }
}

/// The nearest multiple of a length, halves away from zero.
fn nearest_line(at: Int, lined: Int) -> Int {
    let (size, sign) = (at.abs(), if at < ZERO { -1 } else { 1 });
    signed(sign, times(floor(size + size + lined, lined + lined), lined))
}

/// On axes whose keys are all up the middle comes to the nearest line, columns first, if nothing would stop it.
fn line_up(course: &mut Course, spot: &mut Spot, lined: Int, free: [bool; 2], found: &mut Now) {
    for along in [0, 1].into_iter().filter(|axis| free[*axis]) {
        let way = nearest_line(spot.at[along], lined) - spot.at[along];
        let heading = match (along, way < ZERO) {
            (0, true) => Heading::West,
            (0, false) => Heading::East,
            (_, true) => Heading::North,
            (_, false) => Heading::South,
        };
        let mut trial = *spot;
        if way == ZERO || found.over || course.travel(&mut trial, heading, way.abs(), false).1 != End::Done {
            continue;
        }
        found.over |= course.travel(spot, heading, way.abs(), true).1 == End::Elsewhere;
    }
}

/// What holds a key that did not move the body.
struct Hold {
    key: Heading,
    cells: Vec<[i64; 2]>,
    /// The nearest that block in the same line, one on each side.
    around: Vec<[i64; 2]>,
    /// How far across its way it would be past, if it might.
    past: Option<Int>,
    /// None of them lies straight before the middle.
    is_caught: bool,
}

/// Keys asked at one frame.
struct Asking<'a, 'b> {
    course: &'a mut Course<'b>,
    spot: &'a mut Spot,
    slack: Int,
    found: &'a mut Now,
}

impl Asking<'_, '_> {
    /// Asks the keys that are down in their order; gives those that were asked, and whether they moved the body.
    fn keys(&mut self, order: AxisOrder, down: &[Down], way: [Int; 2]) -> Vec<(Down, bool)> {
        let newest = |horizontal: bool| {
            let of_axis = down.iter().rev().filter(move |down| is_horizontal(down.key) == horizontal);
            of_axis.copied()
        };
        let keys: Vec<Down> = match order {
            AxisOrder::FirstPressed => down.to_vec(),
            AxisOrder::LastPressed => down.iter().rev().copied().collect(),
            AxisOrder::HorizontalFirst => newest(true).chain(newest(false)).collect(),
            AxisOrder::VerticalFirst => newest(false).chain(newest(true)).collect(),
            AxisOrder::Diagonal => newest(true).next().into_iter().chain(newest(false).next()).collect(),
        };
        let both = order == AxisOrder::Diagonal && keys.len() > 1;
        let mut asked: Vec<(Down, bool)> = Vec::new();
        for down in keys {
            let (along, _) = axis(down.key);
            let alone = !both && asked.iter().all(|(other, _)| axis(other.key).0 == along);
            let moved = self.press_on(down.key, way[along], alone);
            asked.push((down, moved));
            if self.found.over || (moved && !both) {
                break;
            }
        }
        asked
    }

    /// Moves along a key, past corners where slack allows; whether it moved at all.
    fn press_on(&mut self, key: Heading, way: Int, with_slack: bool) -> bool {
        let start = *self.spot;
        let mut left = way;
        loop {
            let (gone, end) = self.course.travel(self.spot, key, left, true);
            left -= gone;
            self.found.over |= end == End::Elsewhere;
            if end != End::Line || !with_slack || left <= ZERO {
                break;
            }
            let Some((side, far)) = self.least_across(key, self.slack) else { break };
            let (gone, end) = self.course.travel(self.spot, side, far.min(left), true);
            left -= gone;
            self.found.slid[axis(side).0] |= gone > ZERO;
            self.found.over |= end == End::Elsewhere;
            if end != End::Done {
                break;
            }
        }
        *self.spot != start
    }

    /// The least move across, at most so far, after which the line ahead lets the body through.
    fn least_across(&mut self, key: Heading, most: Int) -> Option<(Heading, Int)> {
        let line = self.course.touched(self.spot, key)?;
        let mut best: Option<(Heading, Int)> = None;
        for side in across(key) {
            let far = self.clear_of(key, line, side, most);
            let far = far.filter(|far| best.is_none_or(|(_, least)| *far < least));
            let mut trial = *self.spot;
            if let Some(far) = far
                && self.course.travel(&mut trial, side, far, false).1 == End::Done
            {
                best = Some((side, far));
            }
        }
        best
    }

    /// How far it is to one side until no cell of a line blocks, if that is not too far.
    fn clear_of(&mut self, key: Heading, line: i64, side: Heading, most: Int) -> Option<Int> {
        let (other, sign) = axis(side);
        let at = self.spot.at[other];
        let mut far = ZERO;
        while far <= most {
            let cells = self.course.blocking(self.spot, key, line, at + signed(sign, far));
            match cells.into_iter().map(|cell| self.course.sizes.to_clear((other, sign), at, cell)).max() {
                None => return Some(far),
                Some(further) => far = further,
            }
        }
        None
    }

    /// What holds a key that has not moved the body: cells it overlaps already, else those of the line it touches.
    fn hold(&mut self, key: Heading) -> Option<Hold> {
        let (along, _) = axis(key);
        let other = 1 - along;
        let mut cells = self.course.holding(self.spot, key);
        let (mut around, mut past) = (Vec::new(), None);
        if cells.is_empty() {
            let line = self.course.touched(self.spot, key)?;
            let at = self.spot.at[other];
            let found = self.course.blocking(self.spot, key, line, at);
            cells = found.into_iter().map(|cell| crossing(along, line, cell)).collect();
            // As far as a body that is to one side of its way could have to go.
            let sizes = self.course.sizes;
            let far = sizes.half_body[other] + sizes.half_body[other] + sizes.half_pitch[other];
            past = self.least_across(key, far).map(|(_, far)| far);
            for side in [-1, 1] {
                let near = self.course.blocking(self.spot, key, line, at + signed(side, far));
                let beside = near.into_iter().filter(|cell| (cell - self.spot.home[other]) * side > 0);
                around.extend(
                    beside
                        .min_by_key(|cell| (cell - self.spot.home[other]).abs())
                        .map(|cell| crossing(along, line, cell)),
                );
            }
        }
        let straight = cells.iter().any(|cell| cell[other] == self.spot.home[other]);
        let is_caught = !cells.is_empty() && !straight;
        Some(Hold { key, cells, around, past, is_caught })
    }
}
