//! The cells under a straight way from one position to another.

use super::exact::{Fraction, quotients};
use super::{Cell, Extent, Geometry, WorldPoint};
use crate::limits::LONGEST_WALK;
use num_traits::{One, Signed, ToPrimitive, Zero};

/// One axis of a way: where it stands, and when it comes into the next cell.
struct Axis {
    from: Fraction,
    run: Fraction,
    cell: i64,
}

impl Axis {
    fn new(from: &Fraction, to: &Fraction) -> Self {
        Self { from: from.clone(), run: to - from, cell: from.floor().to_integer().to_i64().unwrap_or(0) }
    }

    /// The share of the way at which the next cell begins, and whether that very point still belongs to this one.
    fn next(&self) -> Option<(Fraction, bool)> {
        if self.run.is_zero() {
            return None;
        }
        let back = self.run.is_negative();
        let border = Fraction::from_integer((self.cell + i64::from(!back)).into());
        let share = (border - &self.from) / &self.run;
        let within = if back { share < Fraction::one() } else { share <= Fraction::one() };
        within.then_some((share, back))
    }

    fn step(&mut self) {
        self.cell += if self.run.is_negative() { -1 } else { 1 };
    }
}

/// The cells that a straight way passes, each once and in order, the first and the last included; borders belong to cells
/// as everywhere. Gaps belong to the cell before them. `None` where the way is longer than [`LONGEST_WALK`](crate::limits::LONGEST_WALK).
pub fn cells_between(
    geometry: &Geometry,
    extent: Extent,
    hotspot: (f64, f64),
    from: WorldPoint,
    to: WorldPoint,
) -> Option<Vec<Cell>> {
    let [x0, y0] = quotients(geometry, extent, hotspot, from);
    let [x1, y1] = quotients(geometry, extent, hotspot, to);
    let (mut x, mut y) = (Axis::new(&x0, &x1), Axis::new(&y0, &y1));
    let far = |axis: &Axis| axis.run.abs().ceil().to_integer().to_u64().unwrap_or(u64::MAX);
    if far(&x).saturating_add(far(&y)) > LONGEST_WALK {
        return None;
    }
    let mut cells = vec![Cell::new(x.cell, y.cell)];
    loop {
        match (x.next(), y.next()) {
            (None, None) => return Some(cells),
            (Some(_), None) => x.step(),
            (None, Some(_)) => y.step(),
            (Some(across), Some(down)) => {
                // Through a corner both change at once, unless one of them still holds the corner itself.
                if across <= down {
                    x.step();
                }
                if down <= across {
                    y.step();
                }
            }
        }
        cells.push(Cell::new(x.cell, y.cell));
    }
}
