//! What is wrong with a run, and what would be right.

use super::free::Corner;
use super::run::{Frames, Outcome, TrackRun};
use super::settings::{Arrival, Hold, Mode};
use super::sums::parting;
use crate::space::exact::{Fraction, nearest};
use crate::space::show;
use num_traits::{Signed, ToPrimitive, Zero};

fn words(number: &Fraction) -> String {
    show(nearest(number))
}

/// Says what is wrong with a run in words, each with the number or the setting that would be right.
pub fn notes(run: &TrackRun, frames: &Frames) -> Vec<String> {
    let mut found = Vec::new();
    if run.body.is_some() {
        free(run, &mut found);
        return found;
    }
    lands(run, frames, &mut found);
    leftover(run, frames, &mut found);
    let figures = &run.figures;
    let settings = &run.settings;
    if settings.mode == Mode::Instant && settings.hold == Hold::EveryFrame && figures.steps > 1 {
        found.push(format!(
            "a step at every frame: {} cells for {} presses; `hold off` makes one step a press, `repeat after 300 ms every 100 ms` waits",
            figures.steps, figures.presses
        ));
    } else if settings.hold == Hold::EveryFrame {
        found.push("a held key presses at every frame; `hold continuous` asks only when the piece stands".into());
    }
    if run.given_up > 0 {
        found.push(format!(
            "{} steps were given up under way for another; `while moving remembered` lets each end first",
            run.given_up
        ));
    }
    if figures.diagonals > 0 {
        found.push(format!(
            "{} steps went along both axes at once; `axis last pressed` moves one axis at a time",
            figures.diagonals
        ));
    }
    if figures.conflicts > 0 {
        let frame = run.conflicts.first().copied().unwrap_or(0);
        found.push(format!(
            "{} times the cell was taken at the arrival, first at frame {frame}: two were under way to it; `claim at start` gives it to the first",
            figures.conflicts
        ));
    }
    if figures.inputs_lost > 0 {
        found.push(format!(
            "{} of {} presses never asked for a step; `while moving remembered` keeps the last one, `queued 2` keeps two",
            figures.inputs_lost, figures.presses
        ));
    }
    found
}

/// `1, 2 or 4`.
fn listed(all: &[String]) -> String {
    match all {
        [] => String::new(),
        [only] => only.clone(),
        [rest @ .., last] => format!("{} or {last}", rest.join(", ")),
    }
}

/// A speed in pixels a frame, where it is the same at every frame.
fn per_frame(run: &TrackRun, frames: &Frames) -> Option<Fraction> {
    match (&run.settings.mode, frames) {
        (Mode::PerFrame(speed), _) => Some(speed.pixels(&run.length)),
        (Mode::Rate(speed), Frames::Rate(_, fps)) => Some(speed.pixels(&run.length) / fps),
        _ => None,
    }
}

/// The numbers near a step that divide a pitch: all whole ones, else the largest not above it and the smallest not below.
fn divisors(length: &Fraction, step: &Fraction) -> Vec<Fraction> {
    let Some(frames) = (length / step).to_f64().filter(|frames| *frames >= 1.0 && *frames < 1e6) else {
        return vec![length.clone()];
    };
    let whole = |count: f64| length / Fraction::from_integer((count as i64).into());
    let mut found = vec![whole(frames.floor()), whole(frames.ceil())];
    // Whole pixels are easier to write, where there are any.
    if length.is_integer() {
        let (length, step) = (nearest(length) as i64, nearest(step));
        let all: Vec<i64> = (1..=length.min(100_000)).filter(|divisor| length % divisor == 0).collect();
        let below = all.iter().rev().find(|divisor| (**divisor as f64) < step);
        let above = all.iter().find(|divisor| **divisor as f64 > step);
        // Near is from half the speed to twice of it; the next on either side in any case.
        let is_near = |divisor: &i64| (step / 2.0..=step * 2.0).contains(&(*divisor as f64));
        let near = all.iter().filter(|divisor| is_near(divisor) || [below, above].contains(&Some(divisor)));
        let near: Vec<Fraction> = near.map(|divisor| Fraction::from_integer((*divisor).into())).collect();
        if !near.is_empty() {
            found = near;
        }
    }
    found.dedup();
    found
}

/// A length in px that says enough and not more than it is.
fn least_whole(length: &Fraction) -> String {
    words(&length.ceil())
}

/// What a free body met: for each corner what would have let it through, and presses that came to nothing.
fn free(run: &TrackRun, found: &mut Vec<String>) {
    let Some(body) = &run.body else { return };
    let at = |(x, y): (f64, f64)| format!("{}, {}", show(x), show(y));
    let mut pairs: Vec<((f64, f64), (f64, f64))> = Vec::new();
    for corner in &body.corners {
        let heading = corner.heading.word();
        let narrow = corner.between.as_ref().filter(|_| corner.past.is_none());
        if let Some((other, wide)) = narrow {
            if pairs.contains(&(*other, corner.at)) {
                continue;
            }
            pairs.push((corner.at, *other));
            found.push(format!(
                "caught going {heading} between the corners at {} and {}: {} px for a body of {}; `{}` is the largest that gets through",
                at(corner.at),
                at(*other),
                words(wide),
                show(if corner.is_upright() { body.size.0 } else { body.size.1 }),
                largest_between(run, corner, wide)
            ));
            continue;
        }
        let slack = run.settings.slack.as_ref().map_or_else(Fraction::zero, |slack| slack.value.clone());
        found.push(format!(
            "caught going {heading} at the corner at {}, {} px over it; {}",
            at(corner.at),
            words(&corner.overlap),
            match &corner.past {
                Some(past) if *past > slack => format!("`slack {} px` lets it past", least_whole(past)),
                Some(_) => "the slack is enough, but not while keys of both axes are asked".to_owned(),
                None => "nothing lets it past: it is held up across its way too".to_owned(),
            }
        ));
    }
    let figures = &run.figures;
    if figures.inputs_lost > 0 {
        found.push(format!(
            "{} of {} presses were never asked: another key moved the body; `axis diagonal` moves along both axes",
            figures.inputs_lost, figures.presses
        ));
    }
}

/// The largest body between two corners: as wide (or high) as they are apart, its other side as it is.
fn largest_between(run: &TrackRun, corner: &Corner, wide: &Fraction) -> String {
    let size = run.body.as_ref().map_or((0.0, 0.0), |body| body.size);
    let (width, height) = if corner.is_upright() { (nearest(wide), size.1) } else { (size.0, nearest(wide)) };
    let square = size.0 == size.1 && run.settings.body.as_ref().is_none_or(|(_, height)| height.is_none());
    if square { format!("body {} px", words(wide)) } else { format!("body {} x {} px", show(width), show(height)) }
}

fn lands(run: &TrackRun, frames: &Frames, found: &mut Vec<String>) {
    let Some(step) = per_frame(run, frames) else {
        if run.figures.outcome == Outcome::NeverLands {
            found.push("never lands: no frame is exactly at the cell; `test reached` lands it".into());
        }
        return;
    };
    let divides = (&run.length / &step).is_integer();
    if run.figures.outcome == Outcome::NeverLands {
        let near: Vec<String> = divisors(&run.length, &step).iter().map(words).collect();
        found.push(format!(
            "never lands: {} px a frame does not divide {}; {} do, or `test reached`",
            words(&step),
            words(&run.length),
            listed(&near)
        ));
    } else if !divides && run.settings.arrival != Arrival::Carry {
        let near: Vec<String> = divisors(&run.length, &step).iter().map(words).collect();
        found.push(format!(
            "{} px a frame does not divide {}: with `test equal` it would never land; {} do",
            words(&step),
            words(&run.length),
            listed(&near)
        ));
    }
    for parting in parting(&run.settings, frames, &run.length) {
        let unit = if parting.cells { "cells" } else { "px" };
        if let (Some(exact), Some(rounded)) = parting.reached
            && exact != rounded
        {
            found.push(format!(
                "added frame after frame in {} a cell takes {rounded} frames, not {exact}, and ends {} {unit} past it; `on arrival snap` ends on it",
                parting.name,
                show(parting.past)
            ));
        }
        if run.settings.test_equal && parting.exact.is_some() && parting.rounded != parting.exact {
            found.push(format!(
                "added frame after frame in {} the sum is {} {} after {} frames, no whole cell: a test for equality fails",
                parting.name,
                parting.sum,
                unit,
                parting.exact.unwrap_or(0)
            ));
        }
    }
}

fn leftover(run: &TrackRun, frames: &Frames, found: &mut Vec<String>) {
    let figures = &run.figures;
    if !figures.error.is_zero() && figures.outcome == Outcome::Done {
        let side = if figures.error.is_positive() { "past" } else { "short of" };
        found.push(format!(
            "ends {} px {side} the middle of its cell after {} steps; `on arrival snap` or `carry` ends on it",
            words(&figures.error.abs()),
            figures.steps
        ));
    }
    if run.settings.arrival != Arrival::Snap || run.lost.is_zero() {
        return;
    }
    match (&run.settings.mode, &figures.ms_per_step) {
        (Mode::Timed(time), Some(took)) if *took > time.value => found.push(format!(
            "{} ms end between two frames: a step takes {} ms{}; `on arrival carry` keeps what is left over",
            time.text,
            words(took),
            match frames {
                Frames::Rate(fps, _) => format!(" at {fps} frames a second"),
                Frames::List(_) => String::new(),
            }
        )),
        (Mode::Rate(_) | Mode::PerFrame(_), _) => {
            if let (Some(nominal), Some(mean)) = (&figures.nominal_speed, &figures.mean_speed)
                && mean < nominal
            {
                found.push(format!(
                    "up to {} px are lost at an arrival: {} px/s on average, not {}; `on arrival carry` keeps them",
                    words(&run.lost),
                    words(mean),
                    words(nominal)
                ));
            }
        }
        _ => {}
    }
}
