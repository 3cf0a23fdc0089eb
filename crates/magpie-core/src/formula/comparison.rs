//! Expressions against the right answers, at every sampled position or cell.

use super::expression::Expression;
use crate::limits::{LONGEST_AXIS, MOST_PIXELS};
use crate::mishap::{Given, Mishap, Numbers, Target, Version};
use crate::space::{Cell, Frame, WorldPoint};
use thiserror::Error;

/// How many differing places are kept.
const FIRST: usize = 10;
/// Positions between two reports of progress.
const REPORT: u64 = 1 << 16;
/// Cells whose pitch is under this many pixels are sampled at eighths of it.
const SMALL_PITCH: f64 = 8.0;

/// There is too much to look at.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum LimitReached {
    /// Too many positions.
    #[error("{0} positions to look at, the limit is 2^24: an expression that names only its own coordinate needs none")]
    Pixels(u64),
    /// Too long an axis.
    #[error("{0} positions along one axis, the limit is 2^30")]
    Axis(u64),
    /// The caller had enough.
    #[error("stopped")]
    Stopped,
}

/// The sampled positions along one axis: whole numbers times `unit`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sampling {
    /// 1 px, or an eighth of a small pitch.
    pub unit: f64,
    /// First multiple.
    pub first: i64,
    /// Last multiple.
    pub last: i64,
    /// Multiples in between, first and last, that are not among them: between a picture and a board beside it.
    hole: Option<(i64, i64)>,
}

impl Sampling {
    /// How many there are.
    pub fn count(&self) -> u64 {
        self.within(self.first, self.last)
    }

    /// How many of them lie from one multiple to another.
    fn within(&self, from: i64, to: i64) -> u64 {
        let span = |(from, to): (i64, i64)| (to - from + 1).max(0) as u64;
        let hole = self.hole.map_or(0, |(first, last)| span((first.max(from), last.min(to))));
        span((from.max(self.first), to.min(self.last))) - hole
    }

    /// The position of a multiple.
    pub fn at(&self, multiple: i64) -> f64 {
        multiple as f64 * self.unit
    }

    /// All of them, in order.
    pub fn positions(&self) -> Vec<f64> {
        self.all().map(|multiple| self.at(multiple)).collect()
    }

    fn all(&self) -> impl Iterator<Item = i64> + use<> {
        let (end, begin) = self.hole.map_or((self.last, self.last), |(first, last)| (first - 1, last));
        (self.first..=end).chain(begin + 1..=self.last)
    }
}

/// The whole numbers between two estimates, a step or two beside them, for which something holds throughout.
fn those(ends: [f64; 2], wanted: impl Fn(i64) -> bool) -> (i64, i64) {
    let (mut first, mut last) = (ends[0].min(ends[1]).floor() as i64, ends[0].max(ends[1]).ceil() as i64);
    while wanted(first - 1) {
        first -= 1;
    }
    while !wanted(first) && first < last {
        first += 1;
    }
    while wanted(last + 1) {
        last += 1;
    }
    while !wanted(last) && last > first {
        last -= 1;
    }
    (first, last)
}

/// The positions along the horizontal or the vertical axis whose right cell is on the board or one beside it; of the window
/// also those in the picture.
pub fn sampling(given: &Given, vertical: bool) -> Sampling {
    let numbers = given.numbers();
    let axis = if vertical { numbers.y } else { numbers.x };
    let pitch = axis.pitch();
    let along = |world: WorldPoint| if vertical { world.y } else { world.x };
    let right = |p: f64| axis.cell(along(given.at(p, p).world));
    let is_near = |cell: f64| (-1.0..=f64::from(axis.count)).contains(&cell);
    let edge = |cell: f64| axis.origin - axis.hotspot + axis.sign * cell * pitch;
    let edges = [edge(-1.0), edge(f64::from(axis.count) + 1.0)];
    let Some(view) = given.view_of_positions() else {
        let unit = if pitch < SMALL_PITCH { pitch / 8.0 } else { 1.0 };
        let (first, last) = those(edges.map(|p| p / unit), |multiple| is_near(right(multiple as f64 * unit)));
        return Sampling { unit, first, last, hole: None };
    };
    let reported = |p: f64| {
        let point = view.window_point(given.geometry.y, WorldPoint { x: p, y: p });
        if vertical { point.y } else { point.x }
    };
    let board = those(edges.map(reported), |p| is_near(right(p as f64)));
    let Frame { k, bar } = view.frame();
    let (k, bar, size) = if vertical { (k.1, bar.1, view.design.1) } else { (k.0, bar.0, view.design.0) };
    let drawn = |p: i64| (0.0..size).contains(&((p as f64 * view.density - bar) / k));
    let picture = those([bar / view.density, (bar + size * k) / view.density], drawn);
    let (low, high) = if board.0 <= picture.0 { (board, picture) } else { (picture, board) };
    let hole = (low.1 + 1 < high.0).then_some((low.1 + 1, high.0 - 1));
    Sampling { unit: 1.0, first: low.0, last: low.1.max(high.1), hole }
}

/// Where an expression differs.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum MissAt {
    /// At a position, before the hotspot.
    Position(f64, f64),
    /// At a cell.
    Cell(i64, i64),
    /// At a place in the flat array.
    Index(i64),
}

/// One place at which an expression differs.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Miss {
    /// Where.
    pub at: MissAt,
    /// The right number.
    pub right: f64,
    /// What the expression gives; `None` where that is no finite number.
    pub got: Option<f64>,
}

/// What came out for one expression.
#[derive(Clone, Debug, PartialEq)]
pub struct Finding {
    /// The function it is to compute.
    pub target: Target,
    /// As it was written.
    pub expression: String,
    /// At how many places it differs.
    pub differ: u64,
    /// At how many of them within the board.
    pub on_board: u64,
    /// At how many places its value is no whole number, where one is asked for; what is not finite is none.
    pub not_whole: u64,
    /// The first differing places, in reading order.
    pub first: Vec<Miss>,
    /// The mistake that gives the same numbers everywhere.
    pub mishap: Option<Mishap>,
}

/// What came out for all expressions about positions together.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sampled {
    /// Number of sampled positions.
    pub pixels: u64,
    /// First and last x.
    pub x: (f64, f64),
    /// First and last y.
    pub y: (f64, f64),
    /// At how many of them any expression differs.
    pub differ: u64,
}

/// How many of the positions in each field of a coarse map differ, row by row from the smallest y.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Tally {
    /// Fields along x and along y.
    pub size: (usize, usize),
    /// Differing positions of each field.
    pub differ: Vec<u64>,
    /// Positions of each field.
    pub all: Vec<u64>,
}

/// Everything that came out.
#[derive(Clone, Debug, PartialEq)]
pub struct Comparison {
    /// About positions, where any expression was.
    pub sampled: Option<Sampled>,
    /// One finding an expression, in the order of the formats.
    pub findings: Vec<Finding>,
    /// Where the positions that differ lie.
    pub map: Tally,
}

/// How far a comparison has come.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Progress {
    /// Places looked at.
    pub done: u64,
    /// Places to look at.
    pub all: u64,
    /// Those that differ so far.
    pub differ: u64,
}

/// A number as it counts here: nothing is rounded.
fn differs(right: f64, got: f64) -> bool {
    right != got
}

/// An expression under comparison.
struct Held<'a> {
    expression: &'a Expression,
    finding: Finding,
    /// Mistakes that have given the same numbers so far.
    alive: Vec<(Mishap, Version)>,
    /// Along one axis: the first differing multiples.
    along: Vec<(i64, f64, Option<f64>)>,
}

impl<'a> Held<'a> {
    fn new(expression: &'a Expression, given: &Given) -> Self {
        let target = expression.target;
        let versions = |mishap: Mishap| {
            let versions = mishap.versions(target, given.geometry.first_index);
            versions.into_iter().map(move |version| (mishap, version))
        };
        let finding = Finding {
            target,
            expression: expression.source.clone(),
            differ: 0,
            on_board: 0,
            not_whole: 0,
            first: Vec::new(),
            mishap: None,
        };
        Self { expression, finding, alive: Mishap::ALL.into_iter().flat_map(versions).collect(), along: Vec::new() }
    }

    fn along_x(&self) -> bool {
        let vertical = self.finding.target.is_vertical();
        let other = if vertical { self.expression.names_first() } else { self.expression.names_second() };
        !vertical && !other
    }

    fn along_y(&self) -> bool {
        self.finding.target.is_vertical() && !self.expression.names_first()
    }

    /// Counts one place, on the board or beside it; gives what is to be noted where it differs.
    fn count(
        &mut self,
        right: f64,
        got: f64,
        on_board: bool,
        wrong: impl Fn(&Version) -> f64,
    ) -> Option<(f64, Option<f64>)> {
        self.alive.retain(|(_, version)| wrong(version) == got);
        // The fraction of what is not finite is no number either.
        self.finding.not_whole += u64::from(self.finding.target.is_whole() && got.fract() != 0.0);
        if !differs(right, got) {
            return None;
        }
        self.finding.differ += 1;
        self.finding.on_board += u64::from(on_board);
        Some((right, got.is_finite().then_some(got)))
    }

    fn note(&mut self, at: MissAt, (right, got): (f64, Option<f64>)) {
        if self.finding.first.len() < FIRST {
            self.finding.first.push(Miss { at, right, got });
        }
    }

    fn finish(mut self) -> Finding {
        if self.finding.differ > 0 {
            self.finding.mishap = self.alive.first().map(|(mishap, _)| *mishap);
        }
        self.finding
    }
}

/// The right number of a function at a position.
fn right_at(target: Target, numbers: &Numbers, WorldPoint { x, y }: WorldPoint) -> f64 {
    match target {
        Target::Column => numbers.x.cell(x),
        Target::Row => numbers.y.cell(y),
        Target::SnapX => numbers.x.snap(x),
        _ => numbers.y.snap(y),
    }
}

/// What one pass along an axis leaves for the whole: how many positions differ, in all and in each field of the map.
struct Axis {
    sampling: Sampling,
    differ: u64,
    fields: Vec<u64>,
    all: Vec<u64>,
}

struct Work<'a> {
    given: &'a Given<'a>,
    numbers: Numbers,
    map: (usize, usize),
    progress: &'a mut dyn FnMut(Progress) -> bool,
    state: Progress,
    stack: Vec<f64>,
}

impl Work<'_> {
    fn step(&mut self) -> Result<(), LimitReached> {
        self.state.done += 1;
        if self.state.done.is_multiple_of(REPORT) && !(self.progress)(self.state) {
            return Err(LimitReached::Stopped);
        }
        Ok(())
    }

    /// Works expressions that name only their own coordinate out along it.
    fn along(&mut self, held: &mut [&mut Held], vertical: bool) -> Result<Axis, LimitReached> {
        let sampling = sampling(self.given, vertical);
        let fields = if vertical { self.map.1 } else { self.map.0 };
        let span = (sampling.last - sampling.first + 1) as u128;
        let begins = |field: usize| sampling.first + (field as u128 * span).div_ceil(fields as u128) as i64;
        let all = (0..fields).map(|field| sampling.within(begins(field), begins(field + 1) - 1)).collect();
        let mut axis = Axis { sampling, differ: 0, fields: vec![0; fields], all };
        if held.is_empty() {
            return Ok(axis);
        }
        for held in held.iter_mut() {
            held.alive.retain(|(_, version)| !version.crosses());
        }
        for multiple in sampling.all() {
            let p = sampling.at(multiple);
            let (x, y) = if vertical { (0.0, p) } else { (p, 0.0) };
            let mut any = false;
            let (numbers, asked) = (&self.numbers, self.given.at(x, y));
            let WorldPoint { x: across, y: down } = asked.world;
            let on_board = if vertical { numbers.y.is_within(down) } else { numbers.x.is_within(across) };
            for held in held.iter_mut() {
                let target = held.finding.target;
                let got = held.expression.value(x, y, &mut self.stack);
                let right = right_at(target, numbers, asked.world);
                let wrong = |version: &Version| version.at_position(target, &asked);
                if let Some((right, got)) = held.count(right, got, on_board, wrong) {
                    any = true;
                    if held.along.len() < FIRST {
                        held.along.push((multiple, right, got));
                    }
                }
            }
            axis.fields[field_of(multiple, &sampling, fields)] += u64::from(any);
            axis.differ += u64::from(any);
            self.state.differ = axis.differ;
            self.step()?;
        }
        Ok(axis)
    }
}

fn field_of(multiple: i64, sampling: &Sampling, fields: usize) -> usize {
    let span = (sampling.last - sampling.first + 1) as u128;
    ((multiple - sampling.first) as u128 * fields as u128 / span) as usize
}

/// Holds expressions against the right answers. `map` is the size of the coarse map of where they differ; `progress` is
/// told how far the work has come, and ends it by answering no.
///
/// # Errors
/// [`LimitReached::Pixels`] and [`LimitReached::Axis`] where there are more positions than can be looked at,
/// [`LimitReached::Stopped`] where `progress` says so.
///
/// # Examples
/// ```
/// use magpie_core::formula::{Names, compare, parse_expression};
/// use magpie_core::mishap::{Given, Target};
/// use magpie_core::space::{Extent, Geometry};
///
/// let (geometry, extent) = (&Geometry::of_cells(24.0, 18.0), Extent { columns: 10, rows: 6 });
/// let given = Given::of_world(geometry, extent, (0.0, 0.0));
/// let names = Names::of(&given, &[], false).unwrap();
/// let column = parse_expression("floor(x / w)", Target::Column, &names).unwrap();
/// let found = compare(&given, &[column], (40, 20), &mut |_| true).unwrap();
/// assert_eq!(found.findings[0].differ, 0, "right at every pixel");
/// ```
pub fn compare(
    given: &Given,
    expressions: &[Expression],
    map: (usize, usize),
    progress: &mut dyn FnMut(Progress) -> bool,
) -> Result<Comparison, LimitReached> {
    let numbers = given.numbers();
    let mut held: Vec<Held> = expressions.iter().map(|expression| Held::new(expression, given)).collect();
    let (x, y) = (sampling(given, false), sampling(given, true));
    let at_positions: Vec<&mut Held> = held.iter_mut().filter(|held| held.finding.target.at_positions()).collect();
    let pixels = x.count().saturating_mul(y.count());
    let (mut flat_x, mut flat_y, mut whole) = (Vec::new(), Vec::new(), Vec::new());
    for held in at_positions {
        match (held.along_x(), held.along_y()) {
            (true, _) => flat_x.push(held),
            (_, true) => flat_y.push(held),
            _ => whole.push(held),
        }
    }
    let any = !(flat_x.is_empty() && flat_y.is_empty() && whole.is_empty());
    if !whole.is_empty() && pixels > MOST_PIXELS {
        return Err(LimitReached::Pixels(pixels));
    }
    if let Some(axis) = [x, y].iter().find(|axis| any && axis.count() > LONGEST_AXIS) {
        return Err(LimitReached::Axis(axis.count()));
    }
    let mut all = 0;
    if any {
        all += x.count() + y.count();
    }
    if !whole.is_empty() {
        all += pixels;
    }
    let state = Progress { done: 0, all, differ: 0 };
    let mut work = Work { given, numbers, map, progress, state, stack: Vec::new() };
    let mut tally = Tally { size: map, differ: Vec::new(), all: Vec::new() };
    let mut sampled = None;
    if any {
        let along_x = work.along(&mut flat_x, false)?;
        let along_y = work.along(&mut flat_y, true)?;
        let differ = if whole.is_empty() {
            spread(given, &mut flat_x, &along_y.sampling, &along_x.sampling);
            spread(given, &mut flat_y, &along_y.sampling, &along_x.sampling);
            tally = product(&along_x, &along_y, map);
            along_x.differ * y.count() + along_y.differ * x.count() - along_x.differ * along_y.differ
        } else {
            let marked = work.whole(&mut whole, &mut flat_x, &mut flat_y, &mut tally)?;
            spread(given, &mut flat_x, &along_y.sampling, &along_x.sampling);
            spread(given, &mut flat_y, &along_y.sampling, &along_x.sampling);
            marked
        };
        let ends = |axis: Sampling| (axis.at(axis.first), axis.at(axis.last));
        sampled = Some(Sampled { pixels, x: ends(x), y: ends(y), differ });
    }
    for held in held.iter_mut().filter(|held| !held.finding.target.at_positions()) {
        if held.finding.target.at_indices() {
            work.indices(held)?;
        } else {
            work.cells(held)?;
        }
    }
    let mut findings: Vec<Finding> = held.into_iter().map(Held::finish).collect();
    findings.sort_by_key(|finding| Target::ALL.iter().position(|target| *target == finding.target));
    Ok(Comparison { sampled, findings, map: tally })
}

/// What was counted along one axis holds at every place of the other: counts and first places of the whole.
fn spread(given: &Given, held: &mut [&mut Held], down: &Sampling, across: &Sampling) {
    let Some(first) = held.first() else { return };
    // All of them go along the same axis.
    let vertical = first.finding.target.is_vertical();
    let (other, numbers) = (if vertical { across } else { down }, given.numbers());
    let on_board = |multiple: &i64| {
        let p = other.at(*multiple);
        let WorldPoint { x, y } = given.at(p, p).world;
        if vertical { numbers.x.is_within(x) } else { numbers.y.is_within(y) }
    };
    let (times, within) = (other.count(), other.all().filter(on_board).count() as u64);
    for held in held {
        held.finding.on_board *= within;
        held.finding.differ *= times;
        held.finding.not_whole *= times;
        let along = std::mem::take(&mut held.along);
        let (down, across) = (*down, *across);
        if vertical {
            for (multiple, right, got) in along {
                for x in across.all().take(FIRST) {
                    held.note(MissAt::Position(across.at(x), down.at(multiple)), (right, got));
                }
            }
        } else if !along.is_empty() {
            for y in down.all().take(FIRST) {
                for (multiple, right, got) in &along {
                    held.note(MissAt::Position(across.at(*multiple), down.at(y)), (*right, *got));
                }
            }
        }
    }
}

/// The map of positions at which either axis differs.
fn product(across: &Axis, down: &Axis, size: (usize, usize)) -> Tally {
    let mut tally = Tally { size, differ: Vec::new(), all: Vec::new() };
    for (dy, ny) in down.fields.iter().zip(&down.all) {
        for (dx, nx) in across.fields.iter().zip(&across.all) {
            tally.all.push(nx * ny);
            tally.differ.push(dx * ny + nx * dy - dx * dy);
        }
    }
    tally
}

impl Work<'_> {
    /// Works expressions that name both coordinates out at every position; gives at how many any expression differs.
    fn whole(
        &mut self,
        whole: &mut [&mut Held],
        flat_x: &mut [&mut Held],
        flat_y: &mut [&mut Held],
        tally: &mut Tally,
    ) -> Result<u64, LimitReached> {
        let (across, down) = (sampling(self.given, false), sampling(self.given, true));
        let flags = |work: &mut Self, held: &[&mut Held], sampling: Sampling, vertical: bool| -> Vec<bool> {
            let any = |multiple: i64| {
                let p = sampling.at(multiple);
                let (x, y) = if vertical { (0.0, p) } else { (p, 0.0) };
                held.iter().any(|held| {
                    let got = held.expression.value(x, y, &mut work.stack);
                    differs(right_at(held.finding.target, &work.numbers, work.given.at(x, y).world), got)
                })
            };
            sampling.all().map(any).collect()
        };
        let columns = flags(self, flat_x, across, false);
        let rows = flags(self, flat_y, down, true);
        tally.differ = vec![0; self.map.0 * self.map.1];
        tally.all = tally.differ.clone();
        let mut marked = 0;
        self.state.differ = 0;
        for (row, down_at) in rows.iter().zip(down.all()) {
            let y = down.at(down_at);
            let line = field_of(down_at, &down, self.map.1) * self.map.0;
            for (column, across_at) in columns.iter().zip(across.all()) {
                let x = across.at(across_at);
                let mut any = *row || *column;
                let (numbers, asked) = (&self.numbers, self.given.at(x, y));
                let on_board = numbers.x.is_within(asked.world.x) && numbers.y.is_within(asked.world.y);
                for held in whole.iter_mut() {
                    let target = held.finding.target;
                    let got = held.expression.value(x, y, &mut self.stack);
                    let right = right_at(target, numbers, asked.world);
                    let wrong = |version: &Version| version.at_position(target, &asked);
                    if let Some(miss) = held.count(right, got, on_board, wrong) {
                        any = true;
                        held.note(MissAt::Position(x, y), miss);
                    }
                }
                let field = line + field_of(across_at, &across, self.map.0);
                tally.all[field] += 1;
                tally.differ[field] += u64::from(any);
                marked += u64::from(any);
                self.state.differ = marked;
                self.step()?;
            }
        }
        Ok(marked)
    }

    /// Works an expression out at every cell it is asked about.
    fn cells(&mut self, held: &mut Held) -> Result<(), LimitReached> {
        let (geometry, extent) = (self.given.geometry, self.given.extent);
        let target = held.finding.target;
        let beside = i64::from(target == Target::Inside);
        for row in -beside..i64::from(extent.rows) + beside {
            for column in -beside..i64::from(extent.columns) + beside {
                let cell = Cell::new(column, row);
                let value = held.expression.value(column as f64, row as f64, &mut self.stack);
                let got = match target {
                    Target::Inside if value.is_finite() => f64::from(u8::from(value != 0.0)),
                    _ => value,
                };
                let right = match target {
                    Target::Index => geometry.index(extent, cell).map_or(f64::NAN, |index| index as f64),
                    Target::CentreX => self.numbers.x.centre(column as f64),
                    Target::CentreY => self.numbers.y.centre(row as f64),
                    _ => f64::from(u8::from(extent.contains(cell))),
                };
                let numbers = &self.numbers;
                let wrong = |version: &Version| version.at_cell(target, geometry, extent, numbers, cell);
                if let Some(miss) = held.count(right, got, extent.contains(cell), wrong) {
                    held.note(MissAt::Cell(column, row), miss);
                }
                self.step()?;
            }
        }
        Ok(())
    }

    /// Works an expression out at every index of the board.
    fn indices(&mut self, held: &mut Held) -> Result<(), LimitReached> {
        let (geometry, extent) = (self.given.geometry, self.given.extent);
        let target = held.finding.target;
        let first = geometry.first_index;
        for index in first..first + extent.cells() as i64 {
            let got = held.expression.value(index as f64, f64::NAN, &mut self.stack);
            let right = geometry.cell_of_index(extent, index).map_or(f64::NAN, |cell| {
                let Cell { column, row } = cell;
                if target.is_vertical() { row as f64 } else { column as f64 }
            });
            let wrong = |version: &Version| version.at_index(target, geometry, extent, index as f64);
            if let Some(miss) = held.count(right, got, true, wrong) {
                held.note(MissAt::Index(index), miss);
            }
            self.step()?;
        }
        Ok(())
    }
}
