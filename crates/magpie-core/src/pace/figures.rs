//! What a run comes to, in numbers.

use super::mover::{First, Mover};
use super::run::Outcome;
use super::settings::Mode;
use crate::space::Geometry;
use crate::space::exact::{Fraction, pitches};
use num_traits::Zero;

/// The figures of a run; what does not exist is `None`.
#[derive(Clone, Debug, PartialEq)]
pub struct Figures {
    /// Frames from start to arrival of the first step that arrived.
    pub frames_per_step: Option<u64>,
    /// Mean time of a step that arrived, in ms.
    pub ms_per_step: Option<Fraction>,
    /// px/s by the numbers written.
    pub nominal_speed: Option<Fraction>,
    /// px/s from the first start to the last arrival.
    pub mean_speed: Option<Fraction>,
    /// How far past its target a piece is ever drawn, in px.
    pub overshoot: Fraction,
    /// How far the piece ends beside the middle of its cell, in px, positive ahead.
    pub error: Fraction,
    /// Largest move between two frames, in px.
    pub jump: Fraction,
    /// Presses on whose account no step was ever asked for.
    pub inputs_lost: u64,
    /// Keys gone down that were asked without a step beginning on their account then.
    pub refused: u64,
    /// Longest time from a press to its step being seen, in ms.
    pub latency: Option<Fraction>,
    /// Cells that were taken when they were to be claimed.
    pub conflicts: u64,
    /// Steps that arrived.
    pub steps: u64,
    /// Keys gone down.
    pub presses: u64,
    /// Steps along both axes.
    pub diagonals: u64,
    /// Frames in which a free body was held up by a corner; `None` in other modes, as the next three.
    pub caught: Option<u64>,
    /// Frames in which slack moved it.
    pub slid: Option<u64>,
    /// The corners that held it up, in world pixels, by y, then x.
    pub touched: Option<Vec<(f64, f64)>>,
    /// How far it ends from the nearest line, in px; `None` without lines.
    pub lined: Option<Fraction>,
    /// How it ended.
    pub outcome: Outcome,
}

impl Figures {
    pub(super) fn of(mover: &Mover, fps: Option<&Fraction>, wanted: &[Fraction; 2], geometry: &Geometry) -> Self {
        let tally = &mover.tally;
        let count = |number: usize| Fraction::from_integer(number.into());
        let times: Fraction = tally.arrived.iter().map(|step| &step.to - &step.from).sum();
        let ms_per_step = (!tally.arrived.is_empty()).then(|| times / count(tally.arrived.len()));
        let last = tally.arrived.last().map(|step| &step.to);
        let time = last.zip(tally.first_start.as_ref()).map(|(last, first)| last - first);
        let second = Fraction::from_integer(1000.into());
        let mean_speed = time.filter(|time| !time.is_zero()).map(|time| &tally.gone_at_arrival * second / time);
        Self {
            frames_per_step: tally.arrived.first().map(|step| step.frames),
            ms_per_step,
            nominal_speed: nominal(mover, fps, geometry),
            mean_speed,
            overshoot: tally.overshoot.0.clone(),
            error: error(mover, wanted, geometry),
            jump: tally.jump.0.clone(),
            inputs_lost: mover.accounts.iter().filter(|press| !press.asked).count() as u64,
            refused: mover.accounts.iter().filter(|press| press.first == First::Refused).count() as u64,
            latency: tally.latency.clone(),
            conflicts: tally.conflicts.len() as u64,
            steps: tally.arrived.len() as u64,
            presses: mover.accounts.len() as u64,
            diagonals: tally.diagonals,
            caught: None,
            slid: None,
            touched: None,
            lined: None,
            outcome: if tally.never_lands { Outcome::NeverLands } else { Outcome::Done },
        }
    }
}

/// The speed that the numbers of a pace say, along the first step; without a step along columns.
fn nominal(mover: &Mover, fps: Option<&Fraction>, geometry: &Geometry) -> Option<Fraction> {
    let [across, down] = pitches(geometry);
    let (east, south) = mover.tally.first_heading.map_or((1, 0), crate::space::Heading::screen_step);
    let length = match (east != 0, south != 0) {
        (true, true) => across.max(down),
        (false, true) => down,
        _ => across,
    };
    match &mover.settings.mode {
        Mode::Instant => None,
        Mode::Timed(time) => Some(&length * Fraction::from_integer(1000.into()) / &time.value),
        Mode::Rate(speed) | Mode::Free(speed) => Some(speed.pixels(&length)),
        Mode::PerFrame(step) => fps.map(|fps| step.pixels(&length) * fps),
    }
}

/// How far the piece ends beside the middle of the cell its granted steps lead to, along the axis of the last step.
fn error(mover: &Mover, wanted: &[Fraction; 2], geometry: &Geometry) -> Fraction {
    let Some(heading) = mover.tally.last_heading else {
        return Fraction::zero();
    };
    let (east, south) = heading.screen_step();
    let whole = |number: i64| Fraction::from_integer(number.into());
    let off = (&mover.at.0 - &wanted[0], &mover.at.1 - &wanted[1]);
    if east != 0 {
        return off.0 * whole(east);
    }
    let down = if geometry.y == crate::space::YAxis::Down { 1 } else { -1 };
    off.1 * whole(south * down)
}
