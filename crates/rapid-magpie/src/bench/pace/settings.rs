//! Settings as rows with values that keys go through.

use magpie_core::pace::{Amount, Arrival, AxisOrder, Easing, Hold, Mode, Moving, Settings};
use magpie_core::space::exact::nearest;
use magpie_core::space::show;

/// A row of the list of settings.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Row {
    Mode,
    Number,
    Easing,
    Arrival,
    Moving,
    Hold,
    Axis,
    Claim,
    Test,
    Lean,
    /// The width of a free body.
    Width,
    Height,
    Slack,
    Lined,
}

/// The rows of steps from cell to cell.
const OF_STEPS: [Row; 10] = [
    Row::Mode,
    Row::Number,
    Row::Easing,
    Row::Arrival,
    Row::Moving,
    Row::Hold,
    Row::Axis,
    Row::Claim,
    Row::Lean,
    Row::Test,
];

/// The rows of a free body.
const OF_BODIES: [Row; 7] = [Row::Mode, Row::Number, Row::Width, Row::Height, Row::Slack, Row::Lined, Row::Axis];

/// The rows that mean something under some settings; the longest list has [`MOST_ROWS`].
pub const fn rows(settings: &Settings) -> &'static [Row] {
    if settings.is_free() { &OF_BODIES } else { &OF_STEPS }
}

/// The most rows that there are at once.
pub const MOST_ROWS: usize = OF_STEPS.len();

/// The value before or behind another one in a list.
fn turned<T: PartialEq + Clone>(all: &[T], now: &T, by: i32) -> T {
    let at = all.iter().position(|value| value == now).unwrap_or(0) as i32;
    all[(at + by.signum()).rem_euclid(all.len() as i32) as usize].clone()
}

fn nudged(speed: &Amount, by: f64, least: f64) -> Amount {
    let value = ((nearest(&speed.value) + by).max(least) * 1000.0).round() / 1000.0;
    Amount::new(&show(value.min(1e6)), speed.cells)
}

/// A number that may be left out, by so much: from nothing it begins at a usual one, and below the least it is gone.
fn nudged_or_none(now: Option<&Amount>, by: f64, least: f64, usual: &str) -> Option<Amount> {
    match now {
        None if by > 0.0 => Some(Amount::new(usual, false)),
        None => None,
        Some(now) if by < 0.0 && nearest(&now.value) + by < least => None,
        Some(now) => Some(nudged(now, by, least)),
    }
}

/// The settings with one row changed; a body that is left out begins at the size of a cell.
pub fn changed(before: &Settings, row: Row, by: i32, cell: (f64, f64)) -> Settings {
    let mut new = before.clone();
    match row {
        Row::Mode => {
            let modes = [
                Mode::Instant,
                Mode::Timed(Amount::new("200", false)),
                Mode::Rate(Amount::new("160", false)),
                Mode::PerFrame(Amount::new("4", false)),
                Mode::PerFrame(Amount::new("0.1", true)),
                Mode::Free(Amount::new("120", false)),
            ];
            let sort = |mode: &Mode| match mode {
                Mode::Instant => 0,
                Mode::Timed(_) => 1,
                Mode::Rate(_) => 2,
                Mode::PerFrame(step) => 3 + i32::from(step.cells),
                Mode::Free(_) => 5,
            };
            let at = (sort(&before.mode) + by.signum()).rem_euclid(modes.len() as i32);
            new.mode = modes[at as usize].clone();
        }
        Row::Number => {
            let by = f64::from(by);
            new.mode = match &before.mode {
                Mode::Instant => Mode::Instant,
                Mode::Timed(time) => Mode::Timed(nudged(time, by * 10.0, 1.0)),
                Mode::Rate(speed) if speed.cells => Mode::Rate(nudged(speed, by / 2.0, 0.5)),
                Mode::Rate(speed) => Mode::Rate(nudged(speed, by * 5.0, 1.0)),
                Mode::PerFrame(step) if step.cells => Mode::PerFrame(nudged(step, by / 40.0, 0.025)),
                Mode::PerFrame(step) => Mode::PerFrame(nudged(step, by, 1.0)),
                Mode::Free(speed) if speed.cells => Mode::Free(nudged(speed, by / 2.0, 0.5)),
                Mode::Free(speed) => Mode::Free(nudged(speed, by * 5.0, 1.0)),
            };
        }
        Row::Easing => {
            new.easing = turned(&[Easing::Linear, Easing::In, Easing::Out, Easing::InOut], &before.easing, by);
        }
        Row::Arrival => {
            new.arrival = turned(&[Arrival::Snap, Arrival::Carry, Arrival::Drift], &before.arrival, by);
        }
        Row::Moving => {
            let all = [Moving::Ignored, Moving::Remembered, Moving::Queued(2), Moving::Obeyed];
            new.moving = turned(&all, &before.moving, by);
        }
        Row::Hold => {
            let repeat = Hold::Repeat(Amount::new("300", false), Amount::new("100", false));
            let all = [Hold::Off, Hold::Continuous, Hold::Latched, repeat, Hold::EveryFrame];
            new.hold = turned(&all, &before.hold, by);
        }
        Row::Axis => {
            let all = [
                AxisOrder::LastPressed,
                AxisOrder::FirstPressed,
                AxisOrder::HorizontalFirst,
                AxisOrder::VerticalFirst,
                AxisOrder::Diagonal,
            ];
            new.axis = turned(&all, &before.axis, by);
        }
        Row::Claim => new.claim_at_arrival = !before.claim_at_arrival,
        Row::Test => new.test_equal = !before.test_equal,
        Row::Lean => new.lean = nudged_or_none(before.lean.as_ref(), f64::from(by) * 10.0, 10.0, "120"),
        Row::Width | Row::Height => {
            let own = |size: f64| Amount::new(&show(size), false);
            let (width, height) = before.body.clone().unwrap_or_else(|| (own(cell.0), Some(own(cell.1))));
            let height = height.unwrap_or_else(|| width.clone());
            let (by, both) = (f64::from(by), row == Row::Width);
            let (width, height) =
                if both { (nudged(&width, by, 1.0), height) } else { (width, nudged(&height, by, 1.0)) };
            new.body = Some((width, Some(height)));
        }
        Row::Slack => new.slack = nudged_or_none(before.slack.as_ref(), f64::from(by), 1.0, "1"),
        Row::Lined => new.lined = nudged_or_none(before.lined.as_ref(), f64::from(by), 1.0, &show(cell.0)),
    }
    new
}

fn pixels(amount: &Amount) -> String {
    format!("{} px", amount.text)
}

/// A side of a body; one that is left out is that of a cell.
fn side(amount: Option<&Amount>) -> String {
    amount.map_or("one cell".into(), pixels)
}

/// A row in words: its name and its value.
pub fn words(settings: &Settings, row: Row) -> (&'static str, String) {
    let clause = |sort: &str| {
        let found = settings.clauses().into_iter().find(|(name, _)| *name == sort);
        found.and_then(|(_, words)| words).unwrap_or_default()
    };
    let without = |sort: &str| clause(sort).trim_start_matches(sort).trim().to_owned();
    match row {
        Row::Mode => ("mode", clause("mode").split(' ').next().unwrap_or_default().to_owned()),
        Row::Number => {
            ("number", clause("mode").split_once(' ').map_or("none".into(), |(_, number)| number.to_owned()))
        }
        Row::Easing => ("easing", clause("easing")),
        Row::Arrival => ("on arrival", without("on arrival")),
        Row::Moving => ("while moving", without("while moving")),
        Row::Hold => ("hold", without("hold")),
        Row::Axis => ("axis", without("axis")),
        Row::Claim => ("claim", without("claim")),
        Row::Test => ("test", without("test")),
        Row::Lean => ("lean", settings.lean.as_ref().map_or("none".into(), |lean| format!("{} ms", lean.text))),
        Row::Width => ("body width", side(settings.body.as_ref().map(|(width, _)| width))),
        Row::Height => {
            ("body height", side(settings.body.as_ref().map(|(width, height)| height.as_ref().unwrap_or(width))))
        }
        Row::Slack => ("slack", settings.slack.as_ref().map_or("none".into(), pixels)),
        Row::Lined => ("lined up by", settings.lined.as_ref().map_or("not at all".into(), pixels)),
    }
}

#[cfg(test)]
#[path = "settings_tests.rs"]
mod tests;
