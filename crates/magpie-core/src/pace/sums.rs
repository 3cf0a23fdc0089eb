//! The same run added up frame after frame, as a game does: where f64 and f32 part from the exact sums.

use super::run::Frames;
use super::settings::{Mode, Settings};
use crate::space::exact::{Fraction, nearest};
use num_traits::Zero;

/// Where a sum of rounded numbers parts from the exact one.
#[derive(Clone, Debug, PartialEq)]
pub struct Parting {
    /// `f64` or `f32`.
    pub name: &'static str,
    /// Frames after which the exact sum is a whole number of cells for the first time, if it ever is.
    pub exact: Option<u64>,
    /// Frames after which the rounded sum is exactly that number, if it ever is.
    pub rounded: Option<u64>,
    /// The rounded sum at the frame of `exact`, in the unit written.
    pub sum: f64,
    /// The largest difference within 1000 frames, in the unit written.
    pub drift: f64,
    /// Whether the unit is cells; else pixels.
    pub cells: bool,
    /// Frames after which the exact sum has reached one cell, and the rounded one has, where they do.
    pub reached: (Option<u64>, Option<u64>),
    /// How far past the cell the rounded sum is then, in the unit written.
    pub past: f64,
}

impl Parting {
    /// Whether a cell takes another number of frames than it would exactly.
    pub fn takes_others(&self) -> bool {
        self.reached.0 != self.reached.1
    }
}

/// Frames that are looked at.
const FRAMES: u64 = 1000;

/// Adds the way of every frame, in the unit it is written in, exactly, in f64 and in f32. Nothing for steps that count no
/// way a frame.
pub fn parting(settings: &Settings, frames: &Frames, length: &Fraction) -> Vec<Parting> {
    let (each, cells) = match (&settings.mode, frames) {
        (Mode::PerFrame(speed), _) => (speed.value.clone(), speed.cells),
        (Mode::Rate(speed), Frames::Rate(_, fps)) => (&speed.value / fps, speed.cells),
        _ => return Vec::new(),
    };
    let whole = |sum: &Fraction| if cells { sum.is_integer() } else { (sum / length).is_integer() };
    let mut exact = Fraction::zero();
    let (mut double, mut single) = (0.0_f64, 0.0_f32);
    let (step_double, step_single) = (nearest(&each), nearest(&each) as f32);
    let mut first = None;
    let cell = if cells { Fraction::from_integer(1.into()) } else { length.clone() };
    // What the sum is compared with is rounded too.
    let one = [nearest(&cell), f64::from(nearest(&cell) as f32)];
    let mut reached = None;
    let mut landed: [Option<(u64, f64)>; 2] = [None; 2];
    let mut found = [("f64", None, 0.0, 0.0_f64), ("f32", None, 0.0, 0.0_f64)];
    for frame in 1..=FRAMES {
        exact += &each;
        double += step_double;
        single += step_single;
        let sums = [double, f64::from(single)];
        let right = nearest(&exact);
        reached = reached.or((exact >= cell).then_some(frame));
        for ((landed, sum), one) in landed.iter_mut().zip(sums).zip(one) {
            *landed = landed.or((sum >= one).then_some((frame, sum - one)));
        }
        if first.is_none() && whole(&exact) {
            first = Some((frame, right));
            found.iter_mut().zip(sums).for_each(|(found, sum)| found.2 = sum);
        }
        for (found, sum) in found.iter_mut().zip(sums) {
            found.3 = found.3.max((sum - right).abs());
            if let Some((_, whole)) = first
                && found.1.is_none()
                && sum == whole
            {
                found.1 = Some(frame);
            }
        }
    }
    let exact = first.map(|(frame, _)| frame);
    let all = found.into_iter().zip(landed);
    all.map(|((name, rounded, sum, drift), landed)| Parting {
        name,
        exact,
        rounded,
        sum,
        drift,
        cells,
        reached: (reached, landed.map(|(frame, _)| frame)),
        past: landed.map_or(0.0, |(_, past)| past),
    })
    .collect()
}
