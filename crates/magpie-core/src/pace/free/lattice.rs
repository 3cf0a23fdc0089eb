//! Fractions over one denominator as whole numbers, so that a body's way is added up without any rounding and fast.

use crate::space::exact::{Fraction, nearest};
use bnum::cast::As;
use bnum::types::I512;
use num_traits::One;

/// A multiple of the lattice's unit. 512 bits are more than what a pace, a frame rate and a grid of the largest numbers
/// allowed come to: their denominators multiply to less than 2²⁵⁰, and positions stay below 2¹⁵⁰ px.
pub(super) type Int = I512;

/// Nothing.
pub(super) const ZERO: Int = Int::from_bytes([0; 64]);

/// The unit that all numbers of a run are whole multiples of.
#[derive(Clone, Debug)]
pub(super) struct Lattice {
    denominator: Fraction,
    /// The same, where an f64 holds it exactly.
    small: Option<f64>,
}

/// What an f64 holds exactly.
const EXACT: i64 = 1 << 53;

impl Lattice {
    /// The coarsest lattice on which all of some numbers lie.
    pub(super) fn of<'a>(numbers: impl IntoIterator<Item = &'a Fraction>) -> Self {
        let mut denominator = Fraction::one();
        for number in numbers {
            let left = number * &denominator;
            denominator *= Fraction::from_integer(left.denom().clone());
        }
        let small = i64::try_from(denominator.numer()).ok().filter(|small| *small <= EXACT).map(|small| small as f64);
        Self { denominator, small }
    }

    /// A number that lies on the lattice, in its units.
    pub(super) fn units(&self, number: &Fraction) -> Int {
        let whole = (number * &self.denominator).to_integer();
        whole.to_string().parse().unwrap_or(Int::MAX)
    }

    /// So many units as a fraction of pixels.
    pub(super) fn px(&self, units: Int) -> Fraction {
        units.to_string().parse().unwrap_or_else(|_| Fraction::one()) / &self.denominator
    }

    /// The number of pixels nearest to so many units.
    pub(super) fn near(&self, units: Int) -> f64 {
        let small = i64::try_from(units).ok().filter(|small| (-EXACT..=EXACT).contains(small));
        match (small, self.small) {
            // One division of two exact numbers is rounded once.
            (Some(units), Some(denominator)) => units as f64 / denominator,
            _ => nearest(&self.px(units)),
        }
    }
}

/// How often a positive number goes into another, rounded down.
pub(super) fn floor(number: Int, by: Int) -> i64 {
    match (i64::try_from(number), i64::try_from(by)) {
        (Ok(number), Ok(by)) => number.div_euclid(by),
        _ => i64::try_from(number.div_euclid(by)).unwrap_or(i64::MAX),
    }
}

/// So many times a length.
pub(super) fn times(count: i64, length: Int) -> Int {
    let count: Int = count.as_();
    count * length
}

/// A length along a direction: 1 or -1.
pub(super) fn signed(sign: i64, length: Int) -> Int {
    if sign < 0 { -length } else { length }
}
