//! Recorded frames of a piece between cells: what is wrong with its motion, and the pace that moves like it.

use super::fits::fitting;
use crate::space::{Extent, Geometry, show};
use std::collections::BTreeMap;
use thiserror::Error;

/// A row of a recording: ms, and the world position of the piece's middle.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Frame {
    /// Its time in ms.
    pub t: f64,
    /// Where the middle is drawn.
    pub x: f64,
    /// The same, downwards or upwards as the world counts.
    pub y: f64,
}

/// A recording.
#[derive(Clone, Debug, PartialEq)]
pub struct Run {
    /// Its label, where the file has any.
    pub label: Option<String>,
    /// Its rows.
    pub rows: Vec<Frame>,
}

/// A file of frames that cannot be read.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[non_exhaustive]
pub enum FramesError {
    /// It is no CSV.
    #[error("this is no CSV: {0}")]
    Csv(String),
    /// A column is missing or stands twice.
    #[error("the header names `{0}` {1}: frames need `t`, `x` and `y` once each, and `run` where several are recorded")]
    Column(&'static str, &'static str),
    /// A field is no number.
    #[error("row {0}: `{1}` is no number")]
    Number(usize, String),
    /// Time does not go on.
    #[error("row {0}: the time {1} does not lie behind the one before it")]
    Time(usize, String),
    /// A run is too short.
    #[error("{0} has fewer than two rows")]
    Short(String),
}

/// Whether a header is one of frames.
pub fn is_frames(header: &str) -> bool {
    let names: Vec<&str> = header.trim_start_matches('\u{feff}').split(',').map(str::trim).collect();
    ["t", "x", "y"].iter().all(|name| names.contains(name))
}

/// Reads recordings from CSV.
///
/// # Errors
/// A [`FramesError`] at what cannot be read.
pub fn parse_frames(text: &str) -> Result<Vec<Run>, FramesError> {
    let text = text.trim_start_matches('\u{feff}');
    let mut reader = csv::ReaderBuilder::new().trim(csv::Trim::All).from_reader(text.as_bytes());
    let wrong = |error: csv::Error| FramesError::Csv(error.to_string());
    let header = reader.headers().map_err(wrong)?.clone();
    let column = |name: &'static str| {
        let mut found = header.iter().enumerate().filter(|(_, field)| *field == name).map(|(at, _)| at);
        let first = found.next();
        if found.next().is_some() { Err(FramesError::Column(name, "twice")) } else { Ok(first) }
    };
    let needed = |name: &'static str| column(name)?.ok_or(FramesError::Column(name, "nowhere"));
    let (t, x, y, label) = (needed("t")?, needed("x")?, needed("y")?, column("run")?);
    let mut runs: Vec<Run> = Vec::new();
    let mut places: BTreeMap<String, usize> = BTreeMap::new();
    for (number, record) in reader.records().enumerate() {
        let record = record.map_err(wrong)?;
        let field = |at: usize| {
            let text = record.get(at).unwrap_or_default();
            let value = text.parse::<f64>().ok().filter(|value| value.is_finite() && value.abs() < 1e15);
            value.ok_or_else(|| {
                FramesError::Number(number + 1, text.chars().filter(|c| !c.is_control()).take(40).collect())
            })
        };
        let frame = Frame { t: field(t)?, x: field(x)?, y: field(y)? };
        let name = label.map(|at| record.get(at).unwrap_or_default().to_owned());
        let at = *places.entry(name.clone().unwrap_or_default()).or_insert_with(|| {
            runs.push(Run { label: name, rows: Vec::new() });
            runs.len() - 1
        });
        let rows = &mut runs[at].rows;
        if rows.last().is_some_and(|last| last.t >= frame.t) {
            return Err(FramesError::Time(number + 1, show(frame.t)));
        }
        rows.push(frame);
    }
    let short = runs.iter().find(|run| run.rows.len() < 2);
    match short {
        Some(run) => {
            Err(FramesError::Short(run.label.as_ref().map_or("the recording".into(), |label| format!("run `{label}`"))))
        }
        None if runs.is_empty() => Err(FramesError::Short("the recording".into())),
        None => Ok(runs),
    }
}

/// What is wrong with a motion.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Fault {
    OffCentre,
    Drifts,
    NeverLands,
    Overshoots,
    Jumps,
    Diagonal,
    TurnsBetween,
    Hitches,
    FrameBound,
}

impl Fault {
    /// The word of the formats.
    pub const fn word(self) -> &'static str {
        match self {
            Self::OffCentre => "off-centre",
            Self::Drifts => "drifts",
            Self::NeverLands => "never-lands",
            Self::Overshoots => "overshoots",
            Self::Jumps => "jumps",
            Self::Diagonal => "diagonal",
            Self::TurnsBetween => "turns-between",
            Self::Hitches => "hitches",
            Self::FrameBound => "frame-bound",
        }
    }
}

/// Something found in a recording.
#[derive(Clone, Debug, PartialEq)]
pub struct Finding {
    /// What it is.
    pub fault: Fault,
    /// The run, by its number.
    pub run: usize,
    /// The first row, from 0 within its run.
    pub row: usize,
    /// In words.
    pub says: String,
    /// Its numbers by name.
    pub numbers: Vec<(&'static str, f64)>,
}

/// What is known of one recording.
#[derive(Clone, Debug, PartialEq)]
pub struct Measured {
    /// Cells that it came to.
    pub steps: usize,
    /// Mean time of a frame.
    pub ms_per_frame: f64,
    /// The median of the moves that are not 0.
    pub px_per_frame: f64,
    /// The simplest pace that moves like it, and the largest distance from that.
    pub fits: Option<(String, f64)>,
}

/// What recordings come to.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Judged {
    /// One for each run.
    pub runs: Vec<Measured>,
    /// What is wrong, run by run in the order of rows.
    pub findings: Vec<Finding>,
}

/// Moves below this are none.
const STILL: f64 = 0.001;

/// A stretch of rows at one place.
#[derive(Clone, Copy, Debug)]
pub(super) struct Rest {
    pub first: usize,
    pub last: usize,
}

/// A recording with what the board's numbers say of it.
pub(super) struct Seen<'r> {
    pub rows: &'r [Frame],
    first: (f64, f64),
    pub pitch: (f64, f64),
    size: (f64, f64),
    pub tolerance: f64,
    pub rests: Vec<Rest>,
}

impl<'r> Seen<'r> {
    fn new(rows: &'r [Frame], geometry: &Geometry, extent: Extent) -> Self {
        let corner = geometry.corner_of_first(extent);
        let (pitch, size) = (geometry.pitch(), geometry.size);
        let first = (corner.x + size.0 / 2.0, corner.y + geometry.row_sign() * size.1 / 2.0);
        let tolerance = (pitch.0.min(pitch.1) / 100.0).min(0.5);
        let mut seen = Self { rows, first, pitch, size, tolerance, rests: Vec::new() };
        seen.rests = seen.find_rests();
        seen
    }

    fn find_rests(&self) -> Vec<Rest> {
        let mut rests = Vec::new();
        let mut first = 0;
        for row in 1..=self.rows.len() {
            if row < self.rows.len() && self.is_still(row) {
                continue;
            }
            let length = row - first;
            let needed = if row == self.rows.len() { 2 } else { 3 };
            if length >= needed {
                rests.push(Rest { first, last: row - 1 });
            }
            first = row;
        }
        rests
    }

    fn delta(&self, row: usize) -> (f64, f64) {
        let (now, before) = (self.rows[row], self.rows[row - 1]);
        (now.x - before.x, now.y - before.y)
    }

    fn is_still(&self, row: usize) -> bool {
        self.length(row) < STILL
    }

    /// How far a row lies from the one before it, the larger axis.
    pub fn length(&self, row: usize) -> f64 {
        let (dx, dy) = self.delta(row);
        dx.abs().max(dy.abs())
    }

    /// From the nearest centre of a cell, on the board or off it.
    fn off(&self, place: (f64, f64)) -> (f64, f64) {
        let along = |at: f64, first: f64, pitch: f64| (at - first) - ((at - first) / pitch).round() * pitch;
        (along(place.0, self.first.0, self.pitch.0), along(place.1, self.first.1, self.pitch.1))
    }

    fn distance(&self, place: (f64, f64)) -> f64 {
        let (x, y) = self.off(place);
        x.abs().max(y.abs())
    }

    fn place(&self, row: usize) -> (f64, f64) {
        (self.rows[row].x, self.rows[row].y)
    }

    pub fn is_centre(&self, place: (f64, f64)) -> bool {
        self.distance(place) <= self.tolerance
    }

    /// The cell whose centre is nearest.
    fn cell(&self, row: usize) -> (i64, i64) {
        let (x, y) = self.place(row);
        let along = |at: f64, first: f64, pitch: f64| ((at - first) / pitch).round() as i64;
        (along(x, self.first.0, self.pitch.0), along(y, self.first.1, self.pitch.1))
    }

    /// The centres between two places along an axis.
    fn centre_between(&self, from: f64, to: f64, across: bool) -> Option<f64> {
        let (first, pitch) = if across { (self.first.0, self.pitch.0) } else { (self.first.1, self.pitch.1) };
        let next = if to > from { ((from - first) / pitch).ceil() } else { ((from - first) / pitch).floor() };
        let centre = first + next * pitch;
        ((centre - from).abs() <= (to - from).abs() + self.tolerance).then_some(centre)
    }

    /// Whether a move along both axes may have gone by way of a centre: along one axis to it, along the other from it.
    fn is_by_a_centre(&self, row: usize) -> bool {
        let ((x0, y0), (x1, y1)) = (self.place(row - 1), self.place(row));
        self.is_centre((x1, y0)) || self.is_centre((x0, y1))
    }
}

/// Judges recordings against a board's numbers.
pub fn judge(runs: &[Run], geometry: &Geometry, extent: Extent) -> Judged {
    let mut judged = Judged::default();
    for (number, run) in runs.iter().enumerate() {
        let seen = Seen::new(&run.rows, geometry, extent);
        let fits = fitting(&seen);
        let is_eased = fits.as_ref().is_some_and(|(pace, _)| pace.contains("ease"));
        let mut found: Vec<Found> = Vec::new();
        found.extend(off_centre(&seen));
        found.extend(drifts(&seen));
        found.extend(never_lands(&seen));
        let overshoots = overshoots(&seen);
        let is_overshot =
            |row: usize| overshoots.as_ref().is_some_and(|(first, last)| row >= *first && row <= last + 1);
        if let Some((row, last)) = &overshoots {
            let by = (*row..=*last).map(|row| seen.distance(seen.place(row))).fold(0.0, f64::max);
            found.push((
                Fault::Overshoots,
                *row,
                format!("passes the centre by {} px and comes back to rest on it", show(by)),
                vec![("px", by)],
            ));
        }
        found.extend(jumps(&seen));
        found.extend(diagonal(&seen));
        found.extend(turns_between(&seen, is_overshot));
        if !is_eased {
            found.extend(hitches(&seen));
        }
        found.sort_by_key(|(fault, row, ..)| (*row, *fault as usize));
        let finding = |(fault, row, says, numbers)| Finding { fault, run: number, row, says, numbers };
        judged.findings.extend(found.into_iter().map(finding));
        judged.runs.push(measured(&seen, fits));
    }
    frame_bound(&mut judged);
    judged
}

fn measured(seen: &Seen, fits: Option<(String, f64)>) -> Measured {
    let rows = seen.rows;
    let moves = (1..rows.len()).map(|row| {
        let ((c0, r0), (c1, r1)) = (seen.cell(row - 1), seen.cell(row));
        (c1 - c0).unsigned_abs().max((r1 - r0).unsigned_abs()) as usize
    });
    let mut lengths: Vec<f64> =
        (1..rows.len()).filter(|row| !seen.is_still(*row)).map(|row| seen.length(row)).collect();
    lengths.sort_by(f64::total_cmp);
    let median = match lengths.len() {
        0 => 0.0,
        count if count % 2 == 1 => lengths[count / 2],
        count => f64::midpoint(lengths[count / 2 - 1], lengths[count / 2]),
    };
    let time = rows[rows.len() - 1].t - rows[0].t;
    Measured { steps: moves.sum(), ms_per_frame: time / (rows.len() - 1) as f64, px_per_frame: median, fits }
}

type Found = (Fault, usize, String, Vec<(&'static str, f64)>);

fn off_centre(seen: &Seen) -> Option<Found> {
    let first = seen.rests.first()?;
    let (x, y) = seen.off(seen.place(first.first));
    // A place half-way between two centres is as far from both.
    let same =
        |a: f64, b: f64, pitch: f64| (a - b).abs() <= seen.tolerance || ((a - b).abs() - pitch).abs() <= seen.tolerance;
    let is_same = seen.rests.iter().all(|rest| {
        let (other_x, other_y) = seen.off(seen.place(rest.first));
        same(x, other_x, seen.pitch.0) && same(y, other_y, seen.pitch.1)
    });
    if !is_same || x.abs().max(y.abs()) <= seen.tolerance {
        return None;
    }
    let half = |off: f64, size: f64| (off.abs() - size / 2.0).abs() <= seen.tolerance;
    let none = |off: f64| off.abs() <= seen.tolerance;
    let what = match (half(x, seen.size.0), half(y, seen.size.1)) {
        (true, true) => ": a corner of the cell is given where its middle is meant",
        (true, false) if none(y) => ": half a cell along x",
        (false, true) if none(x) => ": half a cell along y",
        _ => "",
    };
    let says =
        format!("every rest lies {} px along x and {} px along y off a centre{what}", show(round(x)), show(round(y)));
    Some((Fault::OffCentre, first.first, says, vec![("x", round(x)), ("y", round(y))]))
}

/// Without the dust of sums.
fn round(number: f64) -> f64 {
    (number * 1000.0).round() / 1000.0 + 0.0
}

fn drifts(seen: &Seen) -> Option<Found> {
    let off: Vec<f64> = seen.rests.iter().map(|rest| seen.distance(seen.place(rest.first))).collect();
    let grows = off.windows(2).all(|pair| pair[1] > pair[0] + STILL);
    let last = off.last().copied().unwrap_or(0.0);
    if off.len() < 2 || !grows || last <= seen.tolerance || last - off[0] <= seen.tolerance.min(last / 2.0) {
        return None;
    }
    let at = off.iter().position(|off| *off > seen.tolerance)?;
    let says = format!("the distance from the nearest centre grows from rest to rest, to {} px", show(round(last)));
    Some((Fault::Drifts, seen.rests[at].first, says, vec![("px", round(last))]))
}

fn never_lands(seen: &Seen) -> Option<Found> {
    let mut row = 1;
    while row < seen.rows.len() {
        let (dx, dy) = seen.delta(row);
        let start = row;
        let same = |other: usize| {
            let (x, y) = seen.delta(other);
            (x - dx).abs() < 0.01 && (y - dy).abs() < 0.01
        };
        while row < seen.rows.len() && same(row) {
            row += 1;
        }
        let (step, pitch) = if dx.abs() > dy.abs() { (dx.abs(), seen.pitch.0) } else { (dy.abs(), seen.pitch.1) };
        let gone = step * (row - start) as f64;
        if step < STILL || gone < 2.0 * pitch - seen.tolerance {
            continue;
        }
        let frames = pitch / step;
        let is_multiple = (frames - frames.round()).abs() * step <= 0.01;
        // A recording may end in the very frame of the arrival.
        let last = seen.rows.len() - 1;
        let ends = seen.is_centre(seen.place(last));
        let rests = seen.rests.iter().any(|rest| rest.first + 1 >= row && seen.is_centre(seen.place(rest.first)));
        let lands = ends || rests;
        if !is_multiple && !lands {
            let says = format!(
                "moves on by {} px a frame, of which the pitch of {} px is no multiple, and never rests on a centre",
                show(round(step)),
                show(pitch)
            );
            return Some((Fault::NeverLands, start - 1, says, vec![("px", round(step)), ("pitch", pitch)]));
        }
    }
    None
}

/// The rows that lie beyond a centre before a rest on it, first and last.
fn overshoots(seen: &Seen) -> Option<(usize, usize)> {
    seen.rests.iter().filter(|rest| rest.first > 1 && seen.is_centre(seen.place(rest.first))).find_map(|rest| {
        let end = seen.place(rest.first);
        // Backwards as long as it comes back to the centre: the way of the last move.
        let (dx, dy) = seen.delta(rest.first);
        let across = dx.abs() > dy.abs();
        let along = |row: usize| {
            let (x, y) = seen.place(row);
            if across { x - end.0 } else { y - end.1 }
        };
        let back = if across { dx } else { dy };
        let beyond = |row: usize| along(row) * back < 0.0 && along(row).abs() > STILL;
        let last = rest.first - 1;
        let mut first = last;
        while first > 0 && beyond(first - 1) {
            first -= 1;
        }
        // It came to that side from the other one, along the same axis.
        let came = first > 0 && beyond(last) && along(first - 1) * back >= 0.0 && seen.length(first) > STILL;
        let near = (first..=last).all(|row| along(row).abs() < if across { seen.pitch.0 } else { seen.pitch.1 } / 2.0);
        (came && near).then_some((first, last))
    })
}

fn jumps(seen: &Seen) -> Option<Found> {
    let row = (1..seen.rows.len()).find(|row| {
        let (dx, dy) = seen.delta(*row);
        dx.abs() > seen.pitch.0 + STILL || dy.abs() > seen.pitch.1 + STILL
    })?;
    let says = format!("moves {} px within a frame, more than a cell", show(round(seen.length(row))));
    Some((Fault::Jumps, row, says, vec![("px", round(seen.length(row)))]))
}

fn diagonal(seen: &Seen) -> Option<Found> {
    let row = (1..seen.rows.len()).find(|row| {
        let (dx, dy) = seen.delta(*row);
        dx.abs() > 0.01 && dy.abs() > 0.01 && !seen.is_by_a_centre(*row)
    })?;
    let (dx, dy) = seen.delta(row);
    let says = format!(
        "moves {} px along x and {} px along y within a frame, not by way of a centre",
        show(round(dx)),
        show(round(dy))
    );
    Some((Fault::Diagonal, row, says, vec![("x", round(dx)), ("y", round(dy))]))
}

fn turns_between(seen: &Seen, is_overshot: impl Fn(usize) -> bool) -> Option<Found> {
    let mut before: Option<usize> = None;
    for row in 1..seen.rows.len() {
        if seen.is_still(row) {
            let rests = seen.rests.iter().any(|rest| rest.first < row && row <= rest.last);
            if rests {
                before = None;
            }
            continue;
        }
        let Some(last) = before.replace(row) else { continue };
        let ((dx, dy), (ex, ey)) = (seen.delta(last), seen.delta(row));
        let across = |dx: f64, dy: f64| dx.abs() > dy.abs();
        let both = |dx: f64, dy: f64| dx.abs() > 0.01 && dy.abs() > 0.01;
        if both(dx, dy) || both(ex, ey) {
            continue;
        }
        let is_turn = across(dx, dy) != across(ex, ey) || dx * ex + dy * ey < 0.0;
        if !is_turn || seen.is_centre(seen.place(row - 1)) || is_overshot(row) {
            continue;
        }
        // A turn back by way of a centre that lies no further on than the step before was long.
        let (x, y) = seen.place(row - 1);
        let (from, step) = if across(dx, dy) { (x, dx) } else { (y, dy) };
        let reversal = across(dx, dy) == across(ex, ey);
        if reversal && seen.centre_between(from, from + step, across(dx, dy)).is_some() {
            continue;
        }
        let says = format!("changes its way at {},{}, where no centre is", show(round(x)), show(round(y)));
        return Some((Fault::TurnsBetween, row, says, vec![("x", round(x)), ("y", round(y))]));
    }
    None
}

fn hitches(seen: &Seen) -> Option<Found> {
    let row = (2..seen.rows.len().saturating_sub(1)).find(|row| {
        let is_of_rest = seen.rests.iter().any(|rest| rest.first <= *row && *row <= rest.last);
        let (a, b, c) = (seen.delta(row - 1), seen.delta(*row), seen.delta(row + 1));
        let straight = a.0 * c.0 + a.1 * c.1 > 0.0 && (a.0.abs() > a.1.abs()) == (c.0.abs() > c.1.abs());
        let own = b.0.abs().max(b.1.abs());
        let before = a.0.abs().max(a.1.abs());
        let after = c.0.abs().max(c.1.abs());
        !is_of_rest
            && straight
            && seen.is_centre(seen.place(*row))
            && own < before / 2.0
            && own < after / 2.0
            && before > STILL
    })?;
    let says = format!(
        "hitches on a centre: {} px in this frame, {} px before it",
        show(round(seen.length(row))),
        show(round(seen.length(row - 1)))
    );
    Some((Fault::Hitches, row, says, vec![("px", round(seen.length(row))), ("before", round(seen.length(row - 1)))]))
}

/// Two runs of different time a frame that move the same px a frame.
fn frame_bound(judged: &mut Judged) {
    let runs = &judged.runs;
    let pairs = (0..runs.len()).flat_map(|one| (one + 1..runs.len()).map(move |other| (one, other)));
    let bound = pairs.into_iter().find(|(one, other)| {
        let (a, b) = (&runs[*one], &runs[*other]);
        let apart = (a.ms_per_frame - b.ms_per_frame).abs() >= 0.1 * a.ms_per_frame.min(b.ms_per_frame);
        let alike = (a.px_per_frame - b.px_per_frame).abs() <= 0.01 * a.px_per_frame.max(b.px_per_frame);
        apart && alike && a.px_per_frame > 0.0
    });
    if let Some((one, other)) = bound {
        let (a, b) = (&runs[one], &runs[other]);
        let says = format!(
            "moves {} px a frame at {} ms a frame as well as at {} ms: it goes by frames, not by time",
            show(round(b.px_per_frame)),
            show(round(a.ms_per_frame)),
            show(round(b.ms_per_frame))
        );
        let numbers =
            vec![("px", round(b.px_per_frame)), ("ms", round(a.ms_per_frame)), ("other_ms", round(b.ms_per_frame))];
        judged.findings.push(Finding { fault: Fault::FrameBound, run: other, row: 0, says, numbers });
    }
}
