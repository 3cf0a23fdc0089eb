//! Vectors for positions and indices.

use super::{Asking, Candidate, Vectors, choose};
use crate::formula::sampling;
use crate::mishap::{Given, Mishap, Numbers, Target, Version};
use crate::rulebook::Rulebook;
use crate::space::{Cell, Extent, Geometry, Position, WindowPoint, WorldPoint};
use fixedbitset::FixedBitSet;

/// Most coordinates along an axis that are held against those of the other.
const MOST_ALONG: usize = 48;

/// A wrong version of one function.
struct Slipped {
    mishap: Mishap,
    target: Target,
    version: Version,
    window: bool,
}

/// All versions of some functions, in the order of the catalogue.
fn versions(targets: &[(Target, bool)], first_index: i64) -> Vec<Slipped> {
    let of = |mishap: Mishap| {
        targets.iter().filter(move |(_, window)| *window || !mishap.is_of_view()).flat_map(move |(target, window)| {
            let versions = mishap.versions(*target, first_index).into_iter();
            versions.map(move |version| Slipped { mishap, target: *target, version, window: *window })
        })
    };
    Mishap::ALL.into_iter().flat_map(of).collect()
}

/// Whether a wrong number is another than the right one; what has no meaning there is none.
fn differs(right: f64, got: f64) -> bool {
    !got.is_nan() && right.to_bits() != got.to_bits() && right != got
}

/// The right number of a function at a position.
fn right(target: Target, numbers: &Numbers, WorldPoint { x, y }: WorldPoint) -> f64 {
    match target {
        Target::Column => numbers.x.cell(x),
        Target::Row => numbers.y.cell(y),
        Target::SnapX => numbers.x.snap(x),
        _ => numbers.y.snap(y),
    }
}

/// Positions in one space, as far as they tell versions apart.
struct Positions<'p> {
    given: Given<'p>,
    numbers: Numbers,
    versions: &'p [Slipped],
    window: bool,
}

impl Positions<'_> {
    /// The versions that fail at a position.
    fn fails(&self, x: f64, y: f64, wanted: impl Fn(&Slipped) -> bool) -> FixedBitSet {
        let asked = self.given.at(x, y);
        let mut fails = FixedBitSet::with_capacity(self.versions.len());
        for (at, slipped) in self.versions.iter().enumerate() {
            let here = slipped.window == self.window && slipped.target.at_positions() && wanted(slipped);
            if here
                && differs(
                    right(slipped.target, &self.numbers, asked.world),
                    slipped.version.at_position(slipped.target, &asked),
                )
            {
                fails.insert(at);
            }
        }
        fails
    }

    /// Coordinates along an axis: two of each sort that versions which look at this axis alone answer alike, the ends, and one
    /// in each of the first cells.
    fn along(&self, all: &[f64], vertical: bool) -> Vec<f64> {
        let mut seen: Vec<(FixedBitSet, usize)> = Vec::new();
        let mut cells: Vec<f64> = Vec::new();
        let mut found = Vec::new();
        let last = all.len().saturating_sub(1);
        for (number, at) in all.iter().copied().enumerate() {
            let (x, y) = if vertical { (all[0], at) } else { (at, all[0]) };
            let fails =
                self.fails(x, y, |slipped| slipped.target.is_vertical() == vertical && !slipped.version.crosses());
            let asked = self.given.at(x, y);
            let axis = if vertical { self.numbers.y } else { self.numbers.x };
            let cell = axis.cell(if vertical { asked.world.y } else { asked.world.x });
            let is_new_cell = cells.len() < MOST_ALONG / 2 && !cells.contains(&cell);
            let known = seen.iter_mut().find(|(other, _)| *other == fails);
            let is_new = match known {
                Some((_, count)) => {
                    *count += 1;
                    *count <= 2
                }
                None => {
                    seen.push((fails, 1));
                    true
                }
            };
            if is_new_cell {
                cells.push(cell);
            }
            if is_new || is_new_cell || number == last {
                found.push(at);
            }
        }
        found
    }

    fn candidates(&self, across: &[f64], down: &[f64]) -> Vec<Candidate> {
        let (xs, ys) = (self.along(across, false), self.along(down, true));
        let place = |x: f64, y: f64| {
            if self.window { Position::Window(WindowPoint { x, y }) } else { Position::World(WorldPoint { x, y }) }
        };
        let all = ys.iter().flat_map(|y| xs.iter().map(move |x| (*x, *y)));
        all.map(|(x, y)| Candidate { asks: Asking::Position(place(x, y)), fails: self.fails(x, y, |_| true) })
            .filter(|candidate| !candidate.fails.is_clear())
            .collect()
    }
}

/// Cells from one before the board to one past it; of a large board those near its ends and in its middle.
fn cells(extent: Extent) -> Vec<Cell> {
    let along = |count: u32| -> Vec<i64> {
        let count = i64::from(count);
        if count <= 64 {
            return (-1..=count).collect();
        }
        (-1..8).chain([count / 3, count / 2]).chain(count - 8..=count).collect()
    };
    let (columns, rows) = (along(extent.columns), along(extent.rows));
    rows.into_iter()
        .flat_map(|row| columns.iter().map(move |column| Cell::new(*column, row)).collect::<Vec<_>>())
        .collect()
}

/// The versions that fail in a cell.
fn fails_in(cell: Cell, versions: &[Slipped], geometry: &Geometry, extent: Extent, numbers: &Numbers) -> FixedBitSet {
    let mut fails = FixedBitSet::with_capacity(versions.len());
    let inside = extent.contains(cell);
    for (at, slipped) in versions.iter().enumerate().filter(|(_, slipped)| !slipped.target.at_positions()) {
        let right = match slipped.target {
            Target::Index => geometry.index(extent, cell).map_or(f64::NAN, |index| index as f64),
            Target::CentreX => numbers.x.centre(cell.column as f64),
            Target::CentreY => numbers.y.centre(cell.row as f64),
            _ => f64::from(u8::from(inside)),
        };
        let got = slipped.version.at_cell(slipped.target, geometry, extent, numbers, cell);
        // Off the board nobody numbers cells.
        if !right.is_nan() && differs(right, got) {
            fails.insert(at);
        }
    }
    fails
}

fn names(versions: &[Slipped]) -> Vec<String> {
    versions.iter().map(|slipped| slipped.mishap.id().to_owned()).collect()
}

/// Vectors for `convert`: world positions, window positions where there is a view, cells.
pub fn convert(book: &Rulebook, map: usize, most: usize) -> Vectors {
    let extent = book.maps[map].extent;
    let geometry = &book.geometry;
    let mut targets =
        vec![(Target::Column, false), (Target::Row, false), (Target::SnapX, false), (Target::SnapY, false)];
    targets.extend([(Target::CentreX, false), (Target::CentreY, false), (Target::Inside, false)]);
    if book.view.is_some() {
        targets.extend([(Target::Column, true), (Target::Row, true)]);
    }
    let versions = versions(&targets, geometry.first_index);
    let mut candidates = Vec::new();
    let world = Given { window: Some(false), ..Given::of(book, map) };
    let (down, across) = (sampling(&world, true), sampling(&world, false));
    let positions = Positions { numbers: world.numbers(), given: world, versions: &versions, window: false };
    candidates.extend(positions.candidates(&across.positions(), &down.positions()));
    if let Some(view) = &book.view {
        let window = Given { window: Some(true), ..Given::of(book, map) };
        // Whole numbers as the window system reports them, from one before the window to one past it.
        let along = |size: f64| (-1..=(size / view.density).floor() as i64).map(|at| at as f64).collect::<Vec<_>>();
        let (across, down) = (along(view.window.0), along(view.window.1));
        let positions = Positions { numbers: window.numbers(), given: window, versions: &versions, window: true };
        candidates.extend(positions.candidates(&across, &down));
    }
    let numbers = Numbers::new(geometry, extent, (0.0, 0.0));
    let in_cell = |cell: Cell| {
        let fails = fails_in(cell, &versions, geometry, extent, &numbers);
        Candidate { asks: Asking::Position(Position::Cell(cell)), fails }
    };
    candidates.extend(cells(extent).into_iter().map(in_cell).filter(|candidate| !candidate.fails.is_clear()));
    choose(&names(&versions), &candidates, most)
}

/// Vectors for `index`.
pub fn index(book: &Rulebook, map: usize, most: usize) -> Vectors {
    let (geometry, extent) = (&book.geometry, book.maps[map].extent);
    let versions = versions(&[(Target::Index, false), (Target::Inside, false)], geometry.first_index);
    let numbers = Numbers::new(geometry, extent, (0.0, 0.0));
    let in_cell = |cell: Cell| Candidate {
        asks: Asking::Cell(cell),
        fails: fails_in(cell, &versions, geometry, extent, &numbers),
    };
    let candidates = cells(extent).into_iter().map(in_cell).filter(|candidate| !candidate.fails.is_clear());
    choose(&names(&versions), &candidates.collect::<Vec<_>>(), most)
}
