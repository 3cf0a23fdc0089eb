//! The way of a body among cells, from event to event (docs/model.md, section 12).

use super::super::ground::{Ground, standing_for};
use super::lattice::{Int, ZERO, floor, signed, times};
use crate::limits::MOST_STEPS;
use crate::space::{Cell, Heading};
use std::ops::RangeInclusive;

/// The grid and the body in units of the lattice, along east and south of the screen.
#[derive(Clone, Debug)]
pub(super) struct Sizes {
    pub pitch: [Int; 2],
    pub half_pitch: [Int; 2],
    pub half_cell: [Int; 2],
    pub half_body: [Int; 2],
    /// How the row grows to the south of the screen: 1 or -1.
    pub south: i64,
}

/// Where a body is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Spot {
    /// Its middle, from the middle of cell (0, 0).
    pub at: [Int; 2],
    /// The cell it has: the column, and the row counted to the south.
    pub home: [i64; 2],
    /// What edges that wrap have added to `at`.
    pub wrapped: [Int; 2],
}

/// Why a move has ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum End {
    /// The whole way is gone.
    Done,
    /// A cell of the line it touches blocks.
    Line,
    /// The request for the cell beyond the border was refused.
    Border,
    /// A cell that it overlaps already holds it up.
    Held,
    /// It stands elsewhere by its request, or is gone.
    Elsewhere,
}

/// The axis of a straight heading, and whether it goes on along it.
pub(super) const fn axis(heading: Heading) -> (usize, i64) {
    let (east, south) = heading.screen_step();
    if east != 0 { (0, east) } else { (1, south) }
}

/// The cell of a line across an axis, by its place in the line: column, and row counted to the south.
pub(super) const fn crossing(axis: usize, line: i64, cell: i64) -> [i64; 2] {
    if axis == 0 { [line, cell] } else { [cell, line] }
}

/// The two headings across a straight one, west and north first.
pub(super) const fn across(heading: Heading) -> [Heading; 2] {
    if heading.screen_step().0 == 0 { [Heading::West, Heading::East] } else { [Heading::North, Heading::South] }
}

impl Sizes {
    /// The columns or rows that the box overlaps, its middle there; none where it lies in a gap.
    pub(super) fn overlapped(&self, axis: usize, at: Int) -> RangeInclusive<i64> {
        let (reach, pitch) = (self.half_body[axis] + self.half_cell[axis], self.pitch[axis]);
        let first = floor(at - reach, pitch) + 1;
        let last = -floor(-(at + reach), pitch) - 1;
        first..=last
    }

    /// The next line of cells that the box comes to along an axis, counted along the heading, and how far it is to it.
    fn next_line(&self, (axis, sign): (usize, i64), at: Int) -> (i64, Int) {
        let reach = self.half_body[axis] + self.half_cell[axis];
        let front = signed(sign, at) + reach;
        let line = -floor(-front, self.pitch[axis]);
        (line, times(line, self.pitch[axis]) - front)
    }

    /// How far a box is from clearing a cell of a line across its way, moving to one side.
    pub(super) fn to_clear(&self, (axis, sign): (usize, i64), at: Int, cell: i64) -> Int {
        signed(sign, times(cell, self.pitch[axis]) - at) + self.half_cell[axis] + self.half_body[axis]
    }

    /// The middle of a cell.
    pub(super) fn middle(&self, home: [i64; 2]) -> [Int; 2] {
        [times(home[0], self.pitch[0]), times(home[1], self.pitch[1])]
    }

    /// A cell of the board as column and row counted to the south.
    pub(super) const fn square(&self, cell: Cell) -> [i64; 2] {
        [cell.column, cell.row * self.south]
    }
}

/// A body among the cells of its ground.
pub(super) struct Course<'a> {
    pub sizes: &'a Sizes,
    pub ground: &'a mut dyn Ground,
    pub mover: usize,
    /// Requests granted at borders.
    pub steps: u64,
    /// Lines and borders come to.
    pub events: u64,
}

impl Course<'_> {
    /// The cell of the board that a column and a row counted to the south stand for.
    fn cell(&self, heading: Heading, [column, south]: [i64; 2]) -> Cell {
        let cell = Cell::new(column, south * self.sizes.south);
        match self.ground.extent() {
            // Only beyond the edge it matters whether that wraps.
            Some(extent) if !extent.contains(cell) => {
                standing_for(extent, self.ground.wraps(self.mover, heading), cell)
            }
            _ => cell,
        }
    }

    /// Of some columns or rows those that say all: beyond the edge one, and of an edge that wraps each once.
    fn telling(&self, heading: Heading, axis: usize, all: RangeInclusive<i64>) -> RangeInclusive<i64> {
        let Some(extent) = self.ground.extent() else {
            return all;
        };
        let count = i64::from(if axis == 0 { extent.columns } else { extent.rows });
        let (first, last) = if axis == 1 && self.sizes.south < 0 { (1 - count, 0) } else { (0, count - 1) };
        let (from, to) = all.into_inner();
        if from >= first && to <= last {
            from..=to
        } else if self.ground.wraps(self.mover, heading) {
            from..=to.min(from.saturating_add(count - 1))
        } else {
            from.max(first - 1)..=to.min(last + 1)
        }
    }

    fn blocks(&mut self, heading: Heading, home: [i64; 2], square: [i64; 2]) -> bool {
        let cell = self.cell(heading, square);
        let own = Cell::new(home[0], home[1] * self.sizes.south);
        cell != own && self.ground.blocks(self.mover, heading, cell)
    }

    /// The cells of a line along a heading that block and that the box overlaps across it, by column or row.
    pub(super) fn blocking(&mut self, spot: &Spot, heading: Heading, line: i64, at_across: Int) -> Vec<i64> {
        let (axis, _) = axis(heading);
        let other = 1 - axis;
        let cells = self.telling(heading, other, self.sizes.overlapped(other, at_across));
        cells.filter(|cell| self.blocks(heading, spot.home, crossing(axis, line, *cell))).collect()
    }

    /// The cells that the box overlaps already and that let no move along a heading begin.
    pub(super) fn holding(&mut self, spot: &Spot, heading: Heading) -> Vec<[i64; 2]> {
        let (axis, sign) = axis(heading);
        let (at, pitch) = (spot.at[axis], self.sizes.pitch[axis]);
        let (first, last) = self.sizes.overlapped(axis, at).into_inner();
        // Those with their middle further ahead.
        let ahead =
            if sign > 0 { first.max(floor(at, pitch) + 1)..=last } else { first..=last.min(-floor(-at, pitch) - 1) };
        let mut found = Vec::new();
        for line in self.telling(heading, axis, ahead) {
            let cells = self.blocking(spot, heading, line, spot.at[1 - axis]);
            found.extend(cells.into_iter().map(|cell| crossing(axis, line, cell)));
        }
        found
    }

    /// The line that the box touches along a heading.
    pub(super) fn touched(&self, spot: &Spot, heading: Heading) -> Option<i64> {
        let (axis, sign) = axis(heading);
        let (line, far) = self.sizes.next_line((axis, sign), spot.at[axis]);
        (far == ZERO).then_some(line * sign)
    }

    /// Moves so far along a heading, from event to event: how far it went, and why it ended. `really` commits requests;
    /// else borders are asked as the board stands.
    pub(super) fn travel(&mut self, spot: &mut Spot, heading: Heading, way: Int, really: bool) -> (Int, End) {
        let (axis, sign) = axis(heading);
        if way <= ZERO {
            return (ZERO, End::Done);
        }
        if !self.holding(spot, heading).is_empty() {
            return (ZERO, End::Held);
        }
        let (mut line, mut to_line) = self.sizes.next_line((axis, sign), spot.at[axis]);
        let mut left = way;
        loop {
            let border = times(spot.home[axis], self.sizes.pitch[axis]) - spot.at[axis];
            let to_border = signed(sign, border) + self.sizes.half_pitch[axis];
            let first = to_line.min(to_border);
            if first >= left {
                spot.at[axis] += signed(sign, left);
                return (way, End::Done);
            }
            spot.at[axis] += signed(sign, first);
            left -= first;
            to_line -= first;
            self.events += 1;
            if self.events > MOST_STEPS {
                // Too far for one frame; the run ends here.
                return (way - left, End::Done);
            }
            if to_line == ZERO {
                if !self.blocking(spot, heading, line * sign, spot.at[1 - axis]).is_empty() {
                    return (way - left, End::Line);
                }
                line += 1;
                to_line = self.sizes.pitch[axis];
            }
            if to_border == first {
                match self.cross(spot, heading, really) {
                    None => {}
                    Some(end) => return (way - left, end),
                }
                // Beyond an edge that wraps the lines are counted anew.
                let (again, far) = self.sizes.next_line((axis, sign), spot.at[axis]);
                (line, to_line) = if far == ZERO { (again + 1, self.sizes.pitch[axis]) } else { (again, far) };
            }
        }
    }

    /// The middle is on the border of its cell and goes on; `None` where it may.
    fn cross(&mut self, spot: &mut Spot, heading: Heading, really: bool) -> Option<End> {
        let (axis, sign) = axis(heading);
        let mut beyond = spot.home;
        beyond[axis] += sign;
        let cell = self.cell(heading, beyond);
        let granted =
            if really { self.ground.ask(self.mover, heading) } else { !self.blocks(heading, spot.home, beyond) };
        if really {
            self.steps += u64::from(granted);
            if self.ground.is_gone(self.mover) {
                return Some(End::Elsewhere);
            }
            let home = self.sizes.square(self.ground.cell(self.mover));
            let expected = if granted { self.sizes.square(cell) } else { spot.home };
            if home != expected {
                spot.home = home;
                spot.at = self.sizes.middle(home);
                return Some(End::Elsewhere);
            }
        }
        if !granted {
            return Some(End::Border);
        }
        spot.home = self.sizes.square(cell);
        let round = times(spot.home[axis] - beyond[axis], self.sizes.pitch[axis]);
        spot.at[axis] += round;
        spot.wrapped[axis] += round;
        None
    }
}
