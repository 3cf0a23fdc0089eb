//! The simplest pace whose own frames lie where the recorded ones do.

use super::frames::Seen;
use crate::pace::{Arrival, Easing};
use crate::space::show;

/// How a step goes on its way (docs/model.md, section 11).
#[derive(Clone, Copy, PartialEq, Eq)]
enum Mode {
    Timed(Easing),
    Rate,
    PerFrame,
}

const MODES: [Mode; 6] = [
    Mode::Timed(Easing::Linear),
    Mode::Timed(Easing::In),
    Mode::Timed(Easing::Out),
    Mode::Timed(Easing::InOut),
    Mode::Rate,
    Mode::PerFrame,
];
const ARRIVALS: [Arrival; 3] = [Arrival::Snap, Arrival::Carry, Arrival::Drift];
/// Most digits of a number.
const MOST_DIGITS: i32 = 5;

/// One way from a rest on: times since its beginning, and how far it has come, in pitches.
struct Way {
    times: Vec<f64>,
    gone: Vec<f64>,
    /// Steps that may have been made: one more than it comes to where the recording ends on the way.
    steps: Vec<usize>,
    pitch: f64,
}

/// The ways of a recording, each begun at the last row of its rest; the first row may begin one too.
fn ways(seen: &Seen) -> Option<Vec<Way>> {
    let mut starts: Vec<usize> = seen.rests.iter().map(|rest| rest.last).collect();
    if seen.rests.first().is_none_or(|rest| rest.first > 0) && seen.is_centre((seen.rows[0].x, seen.rows[0].y)) {
        starts.insert(0, 0);
    }
    let mut ways = Vec::new();
    for start in starts {
        let end = seen.rests.iter().find(|rest| rest.first > start);
        let last = end.map_or(seen.rows.len() - 1, |rest| rest.first);
        if last == start {
            continue;
        }
        let (mut times, mut gone) = (vec![0.0], vec![0.0]);
        let mut axes = [false; 2];
        for row in start + 1..=last {
            let (now, before) = (seen.rows[row], seen.rows[row - 1]);
            let (dx, dy) = ((now.x - before.x).abs(), (now.y - before.y).abs());
            axes[0] |= dx > 0.01;
            axes[1] |= dy > 0.01;
            let moved = dx / seen.pitch.0 + dy / seen.pitch.1;
            times.push(now.t - seen.rows[start].t);
            gone.push(gone[gone.len() - 1] + moved);
        }
        let total = gone[gone.len() - 1];
        let pitch = if axes == [false, true] { seen.pitch.1 } else { seen.pitch.0 };
        let is_mixed = axes == [true, true] && (seen.pitch.0 - seen.pitch.1).abs() > 1e-9;
        if is_mixed || total < 0.01 {
            return None;
        }
        let whole = (total.round() as usize).max(1);
        let steps = if end.is_some() { vec![whole] } else { vec![whole, total.ceil() as usize + 1] };
        ways.push(Way { times, gone, steps, pitch });
    }
    (!ways.is_empty()).then_some(ways)
}

/// How far a pace has come at each time of a way, in pitches; stops where a distance is beyond what is allowed.
fn largest_off(way: &Way, steps: usize, (mode, arrival): (Mode, Arrival), number: f64, most: f64) -> Option<f64> {
    let mut worst: f64 = 0.0;
    // Where the step under way began, when, and how many are done.
    let (mut start, mut since, mut done) = (0.0_f64, 0.0_f64, 0_usize);
    let (mut shown, mut walked) = (0.0_f64, 0.0_f64);
    for (at, time) in way.times.iter().enumerate().skip(1) {
        walked += match mode {
            Mode::Timed(_) => 0.0,
            Mode::Rate => number * (time - way.times[at - 1]) / 1000.0 / way.pitch,
            Mode::PerFrame => number / way.pitch,
        };
        loop {
            if done >= steps {
                break;
            }
            let (has_arrived, left) = match mode {
                Mode::Timed(_) => (time - since >= number - 1e-9, 0.0),
                Mode::Rate | Mode::PerFrame => (walked >= 1.0 - 1e-9, walked - 1.0),
            };
            if !has_arrived {
                shown = match mode {
                    Mode::Timed(easing) => start + easing.near((time - since) / number),
                    Mode::Rate | Mode::PerFrame => start + walked,
                };
                break;
            }
            done += 1;
            match (arrival, mode) {
                (Arrival::Snap, _) => (start, shown, since, walked) = (start + 1.0, start + 1.0, *time, 0.0),
                (Arrival::Carry, Mode::Timed(_)) => (start, shown, since) = (start + 1.0, start + 1.0, since + number),
                (Arrival::Carry, _) => (start, shown, walked) = (start + 1.0, start + 1.0, left),
                (Arrival::Drift, Mode::Timed(_)) => (start, since) = (shown, *time),
                (Arrival::Drift, _) => {
                    shown = start + walked;
                    (start, walked) = (shown, 0.0);
                }
            }
            if arrival != Arrival::Carry {
                break;
            }
        }
        let off = (shown - way.gone[at]).abs() * way.pitch;
        if off > most {
            return None;
        }
        worst = worst.max(off);
    }
    Some(worst)
}

/// Numbers of so many digits, zeros at their ends not counted, between two, the nearest to the middle first.
fn numbers(digits: i32, low: f64, high: f64) -> Vec<f64> {
    let (least, most) = (10_i64.pow(digits as u32 - 1), 10_i64.pow(digits as u32) - 1);
    let mut found = Vec::new();
    for exponent in low.log10().floor() as i32..=high.log10().floor() as i32 {
        let power = exponent - (digits - 1);
        // Dividing by a power of ten is exact where multiplying by its fraction is not.
        let value = |number: i64| {
            if power < 0 { number as f64 / 10_f64.powi(-power) } else { number as f64 * 10_f64.powi(power) }
        };
        let near = |bound: f64| bound / 10_f64.powi(power);
        let first = (near(low).floor() as i64).max(least);
        let last = (near(high).ceil() as i64).min(most);
        let all = (first..=last).filter(|number| digits == 1 || number % 10 != 0);
        found.extend(all.map(value).filter(|number| *number >= low && *number <= high));
    }
    let middle = f64::midpoint(low, high);
    found.sort_by(|a, b| (a - middle).abs().total_cmp(&(b - middle).abs()));
    found
}

/// The simplest pace that lies within the tolerance, in words, and the largest distance in px.
pub(super) fn fitting(seen: &Seen) -> Option<(String, f64)> {
    let ways = ways(seen)?;
    // What a step takes at most and at least: a frame more or less for each.
    let steps: f64 = ways.iter().map(|way| way.gone[way.gone.len() - 1]).sum();
    let time: f64 = ways.iter().map(|way| way.times[way.times.len() - 1]).sum();
    let frames: usize = ways.iter().map(|way| way.times.len() - 1).sum();
    let pitch = ways[0].pitch;
    if ways.iter().any(|way| (way.pitch - pitch).abs() > 1e-9) || steps < 0.01 {
        return None;
    }
    let range = |mode: Mode| {
        let (middle, wide) = match mode {
            Mode::Timed(_) => (time / steps, 1.0 + time / frames as f64 / (time / steps)),
            Mode::Rate => (1000.0 * steps * pitch / time, 1.0 + frames.min(40) as f64 / frames as f64),
            Mode::PerFrame => (steps * pitch / frames as f64, 1.0 + steps / frames as f64),
        };
        (middle / wide.min(1.6), middle * wide.min(1.6))
    };
    (1..=MOST_DIGITS).find_map(|digits| {
        MODES.into_iter().find_map(|mode| {
            let (low, high) = range(mode);
            let numbers = numbers(digits, low, high);
            ARRIVALS.into_iter().find_map(|arrival| {
                numbers.iter().find_map(|number| {
                    let off = |way: &Way| {
                        let all = way
                            .steps
                            .iter()
                            .map(|steps| largest_off(way, *steps, (mode, arrival), *number, seen.tolerance));
                        all.flatten().min_by(f64::total_cmp)
                    };
                    let worst = ways.iter().map(off).try_fold(0.0_f64, |worst, off| Some(worst.max(off?)))?;
                    let number = show(*number);
                    let pace = match mode {
                        Mode::Timed(easing) => format!("timed {number} ms, {}", easing.word()),
                        Mode::Rate => format!("rate {number} px/s"),
                        Mode::PerFrame => format!("per-frame {number} px"),
                    };
                    Some((format!("{pace}, on arrival {}", arrival.word()), worst))
                })
            })
        })
    })
}
