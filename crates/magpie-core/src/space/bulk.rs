//! Many world positions to cells at once.

use super::{Extent, Geometry};

/// The numbers of a grid, ready for long arrays of positions.
#[derive(Clone, Copy, Debug)]
pub struct Bulk {
    x: Line,
    y: Line,
}

#[derive(Clone, Copy, Debug)]
struct Line {
    sign: f64,
    hotspot: f64,
    origin: f64,
    pitch: f64,
}

/// Positions worked on together, so that the machine can do several at once; they fit into its nearest memory.
const CHUNK: usize = 512;

/// Below this on either side of 0 a quotient has a whole number next to it that adding [`SHIFT`] finds.
const SMALL: f64 = 2_251_799_813_685_248.0;

/// 1.5 × 2^52: a number to which only whole numbers can be added, and whose last bits then are that number.
const SHIFT: f64 = 6_755_399_441_055_744.0;

/// The whole number at or below a small quotient, without the conversion that can be done for one number at a time only.
#[inline]
fn floor_of_small(quotient: f64) -> i64 {
    let nearest = (quotient + SHIFT) - SHIFT;
    let floor = nearest - if nearest > quotient { 1.0 } else { 0.0 };
    (floor + SHIFT).to_bits().wrapping_sub(SHIFT.to_bits()) as i64
}

impl Line {
    /// The same sum in the same order as for a single position, so that the answers are the same.
    fn cells(self, positions: &[f64], cells: &mut [i64]) {
        for (positions, cells) in positions.chunks(CHUNK).zip(cells.chunks_mut(CHUNK)) {
            let mut quotients = [0.0; CHUNK];
            let mut small = true;
            for (quotient, p) in quotients.iter_mut().zip(positions) {
                *quotient = self.sign * (p + self.hotspot - self.origin) / self.pitch;
                small &= quotient.abs() < SMALL;
            }
            let found = cells.iter_mut().zip(&quotients[..positions.len()]);
            if small {
                found.for_each(|(cell, quotient)| *cell = floor_of_small(*quotient));
            } else {
                found.for_each(|(cell, quotient)| *cell = quotient.floor() as i64);
            }
        }
    }
}

impl Bulk {
    /// The numbers of a board for positions with this hotspot.
    pub fn new(geometry: &Geometry, extent: Extent, hotspot: (f64, f64)) -> Self {
        let origin = geometry.corner_of_first(extent);
        let pitch = geometry.pitch();
        Self {
            x: Line { sign: 1.0, hotspot: hotspot.0, origin: origin.x, pitch: pitch.0 },
            y: Line { sign: geometry.row_sign(), hotspot: hotspot.1, origin: origin.y, pitch: pitch.1 },
        }
    }

    /// Columns and rows of positions in world pixels; the shortest of the arrays says how many.
    pub fn cells(&self, x: &[f64], y: &[f64], columns: &mut [i64], rows: &mut [i64]) {
        self.x.cells(x, columns);
        self.y.cells(y, rows);
    }
}
