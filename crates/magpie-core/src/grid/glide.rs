//! Continuous motion along a line of cells, as a function of the clock (docs/model.md, section 8).
//!
//! Positions are whole units of 1/65536 pitch, counted from half a gap before the first cell: the middle of cell c is
//! (c + 1/2) pitches. Nothing is ever summed up, so that no error grows.

use crate::rulebook::{Glide, GlideEnd, SpeedUnit};
use crate::space::exact::{Fraction, decimal, pitches};
use crate::space::{Geometry, Heading};
use num_traits::ToPrimitive;

/// Units of one pitch.
pub const PITCH: i128 = 65_536;
const MIDDLE: i128 = PITCH / 2;

/// The units of the middle of a cell.
pub const fn middle(cell: i64) -> i128 {
    cell as i128 * PITCH + MIDDLE
}

/// How fast a glider goes: units a millisecond, exactly.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Rate {
    exact: Fraction,
    /// The same as two numbers, where they are small enough.
    parts: Option<(i128, i128)>,
}

impl Rate {
    /// The rate of a `glide` on a grid.
    pub fn of(glide: &Glide, geometry: &Geometry) -> Self {
        let speed = number(&glide.speed.text);
        let [across, down] = pitches(geometry);
        let pitch = if matches!(glide.heading, Heading::West | Heading::East) { across } else { down };
        let units = Fraction::new(65_536.into(), 1000.into());
        let exact = match glide.unit {
            SpeedUnit::Cells => speed * units,
            SpeedUnit::Px => speed * units / pitch,
        };
        let parts = exact.numer().to_i128().zip(exact.denom().to_i128());
        Self { exact, parts }
    }

    /// The rate as units over milliseconds, where both are small enough.
    pub fn parts(&self) -> Option<(i128, i128)> {
        self.parts
    }

    /// Units gone after so many milliseconds, rounded down.
    pub fn gone(&self, ms: u64) -> i128 {
        let quick = self.parts.and_then(|(above, below)| Some(above.checked_mul(ms.into())?.div_euclid(below)));
        quick.unwrap_or_else(|| {
            let exact = &self.exact * Fraction::from_integer(ms.into());
            exact.floor().to_integer().to_i128().unwrap_or(i128::MAX)
        })
    }

    /// The first millisecond after which at least so many units are gone.
    pub fn first_ms(&self, units: i128) -> u64 {
        let quick = self.parts.and_then(|(above, below)| {
            let product = units.checked_mul(below)?;
            Some(product.div_euclid(above) + i128::from(product.rem_euclid(above) != 0))
        });
        let ms = quick.unwrap_or_else(|| {
            let exact = Fraction::from_integer(units.into()) / &self.exact;
            exact.ceil().to_integer().to_i128().unwrap_or(i128::MAX)
        });
        u64::try_from(ms).unwrap_or(u64::MAX)
    }
}

/// A number or a quotient of two, as written.
fn number(text: &str) -> Fraction {
    match text.split_once('/') {
        Some((above, below)) => decimal(above) / decimal(below),
        None => decimal(text),
    }
}

/// The line of cells a glider moves along, from the middle of a cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Line {
    /// How many cells it has.
    pub cells: i64,
    /// The cell it began in.
    pub start: i64,
    /// Whether cells count up on its way.
    pub up: bool,
    /// What happens at the end.
    pub end: GlideEnd,
}

/// A straight part of the way: where it stands, which way it goes (0: it stays), and how far until that changes.
struct Leg {
    at: i128,
    way: i128,
    left: i128,
}

impl Line {
    /// Where the centre is after so many units.
    pub fn at(&self, gone: i128) -> i128 {
        self.leg(gone).at
    }

    /// Which way it goes after so many units: 1 where cells count up, -1 down, 0 where it stays.
    pub fn way(&self, gone: i128) -> i64 {
        self.leg(gone).way as i64
    }

    /// The cell of a position on the line, `None` off it.
    pub fn cell(&self, at: i128) -> Option<i64> {
        let cell = at.div_euclid(PITCH) as i64;
        (0..self.cells).contains(&cell).then_some(cell)
    }

    fn leg(&self, gone: i128) -> Leg {
        let start = middle(self.start);
        let way = if self.up { 1 } else { -1 };
        let span = i128::from(self.cells - 1) * PITCH;
        let rest = |at| Leg { at, way: 0, left: i128::MAX };
        match self.end {
            GlideEnd::Stop => {
                let length = if self.up { MIDDLE + span - start } else { start - MIDDLE };
                if gone >= length {
                    return rest(start + way * length);
                }
                Leg { at: start + way * gone, way, left: length - gone }
            }
            GlideEnd::Turning if span == 0 => rest(start),
            GlideEnd::Turning => {
                let phase = if self.up { start - MIDDLE } else { 2 * span - (start - MIDDLE) };
                let phase = (phase + gone).rem_euclid(2 * span);
                if phase < span {
                    Leg { at: MIDDLE + phase, way: 1, left: span - phase }
                } else {
                    Leg { at: MIDDLE + 2 * span - phase, way: -1, left: 2 * span - phase }
                }
            }
            GlideEnd::Wrapping => {
                let length = span + 2 * PITCH;
                let on = (start + MIDDLE + way * gone.rem_euclid(length)).rem_euclid(length);
                Leg { at: on - MIDDLE, way, left: if self.up { length - on } else { on + 1 } }
            }
        }
    }

    /// The first distance gone, after this one, at which something with an offset from the centre comes into another cell,
    /// off the line or back; `None` where it never does.
    pub fn next_change(&self, gone: i128, offset: i128) -> Option<i128> {
        /// A line is left for a few bends at most; what is beside it for ever is given up.
        const MOST: usize = 1000;
        let here = self.cell(self.at(gone) + offset);
        let mut gone = gone;
        for _ in 0..MOST {
            let leg = self.leg(gone);
            let within = (leg.at + offset).rem_euclid(PITCH);
            let border = match leg.way {
                0 => return None,
                1 => PITCH - within,
                _ => within + 1,
            };
            gone += border.min(leg.left);
            if self.cell(self.at(gone) + offset) != here {
                return Some(gone);
            }
        }
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn ends() -> impl Strategy<Value = GlideEnd> {
        prop_oneof![Just(GlideEnd::Stop), Just(GlideEnd::Turning), Just(GlideEnd::Wrapping)]
    }

    proptest! {
        /// A glider that is carried on by hand, unit by unit, is where the function of the clock says.
        #[test]
        fn unit_by_unit(cells in 1_i64..5, start in 0_i64..5, up in any::<bool>(), end in ends(), gone in 0_i128..700_000) {
            let line = Line { cells, start: start % cells, up, end };
            let (first, last) = (MIDDLE, middle(cells - 1));
            let (mut at, mut way) = (middle(line.start), if up { 1 } else { -1 });
            for _ in 0..gone {
                match end {
                    GlideEnd::Stop if (way == 1 && at == last) || (way == -1 && at == first) => {}
                    GlideEnd::Turning if first == last => {}
                    GlideEnd::Turning => {
                        if (way == 1 && at == last) || (way == -1 && at == first) {
                            way = -way;
                        }
                        at += way;
                    }
                    GlideEnd::Wrapping => {
                        let (low, high) = (-MIDDLE, last + PITCH);
                        at += way;
                        if at == high { at = low; }
                        if at < low { at = high - 1; }
                    }
                    GlideEnd::Stop => at += way,
                }
            }
            prop_assert_eq!(line.at(gone), at);
        }

        /// Nothing changes its cell before the next change, and something does at it.
        #[test]
        fn next_change_is_the_first(cells in 1_i64..4, start in 0_i64..4, up in any::<bool>(), end in ends(),
                                    gone in 0_i128..400_000, offset in -40_000_i128..40_000) {
            let line = Line { cells, start: start % cells, up, end };
            let cell = |gone| line.cell(line.at(gone) + offset);
            let next = line.next_change(gone, offset);
            let slow = (gone + 1..gone + 8 * PITCH).find(|later| cell(*later) != cell(gone));
            prop_assert_eq!(next.filter(|next| *next < gone + 8 * PITCH), slow);
        }

        /// The first millisecond is the first one.
        #[test]
        fn milliseconds(speed in 1_u32..100_000, cents in 0_u32..100, pitch in 1_u32..400, units in 1_i128..10_000_000) {
            let exact = Fraction::new((u64::from(speed) * 100 + u64::from(cents)).into(), (u64::from(pitch) * 100).into())
                * Fraction::new(65_536.into(), 1000.into());
            for parts in [exact.numer().to_i128().zip(exact.denom().to_i128()), None] {
                let rate = Rate { exact: exact.clone(), parts };
                let ms = rate.first_ms(units);
                prop_assert!(rate.gone(ms) >= units);
                prop_assert!(ms == 0 || rate.gone(ms - 1) < units);
            }
        }
    }
}
