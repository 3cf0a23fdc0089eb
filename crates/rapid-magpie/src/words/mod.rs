//! What was told, counted and measured, as sentences for screens, drawings and the command line.

pub mod proof;
pub mod trace;
pub mod turn;

use magpie_core::grid::{Counts, Settled};
use magpie_core::mishap::{Explanation, Given, Mishap};
use magpie_core::pace::{Figures, Frames, Gap, Gaps, Parting, TrackRun, parting};
use magpie_core::rulebook::{Match, Rulebook};
use magpie_core::space::exact::{Fraction, nearest};
use magpie_core::space::{Cell, Extent, Position, WindowPoint, WorldPoint, show};
use magpie_core::tape::Entry;
use std::time::Duration;

/// Keys of a run that says none: one held for a while.
pub const HELD: &str = "0:right+ 700:right-";

/// `1 mistake`, `2 mistakes`.
pub fn counted(number: usize, what: &str) -> String {
    if number == 1 { format!("1 {what}") } else { format!("{number} {what}s") }
}

/// How long something is past, in the largest unit that fits.
pub fn ago(past: Duration) -> String {
    let seconds = past.as_secs();
    let units = [(86_400, "day"), (3_600, "hour"), (60, "minute")];
    let unit = units.iter().find(|(length, _)| seconds >= *length);
    unit.map_or("less than a minute ago".into(), |(length, word)| {
        format!("{} ago", counted((seconds / length) as usize, word))
    })
}

/// Text from a file without control characters, line ends and tabs excepted, and without those that turn the order of
/// others round.
pub fn plain(text: &str) -> String {
    text.chars().map(|c| if is_hidden(c) { '\u{fffd}' } else { c }).collect()
}

/// Writes to standard error, free of what a terminal would obey; where that is closed or full, nobody is told.
pub fn tell(text: &str) {
    use std::io::Write as _;
    let _ = writeln!(std::io::stderr().lock(), "{}", plain(text));
}

/// Whether a character is nothing to be seen: a control character, one that turns the order of others round, or none at all.
pub fn is_hidden(c: char) -> bool {
    let none = matches!(c, '\u{fdd0}'..='\u{fdef}') || u32::from(c) & 0xfffe == 0xfffe;
    let turns = matches!(c, '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}');
    none || turns || (c.is_control() && c != '\n' && c != '\t')
}

/// What a `when` rule found and changed.
pub fn settled(settled: &Settled, book: &Rulebook) -> String {
    let when = &book.whens[settled.rule];
    let count = settled.found;
    let pieces = counted(settled.pieces, "piece");
    let found = match &when.what {
        Match::Full { row: true, .. } => counted(count, "full row"),
        Match::Full { row: false, .. } => counted(count, "full column"),
        Match::Run { .. } => format!("{} of {pieces}", counted(count, "run")),
        Match::Patch { .. } if count == 1 => format!("1 patch of {pieces}"),
        Match::Patch { .. } => format!("{count} patches of {pieces}"),
        Match::On { .. } if count == 1 => "1 match".into(),
        Match::On { .. } => format!("{count} matches"),
    };
    let Counts { gone, moved, new, turned } = settled.counts;
    let parts = [(gone, "gone"), (moved, "moved"), (new, "new"), (turned, "turned")];
    let done: Vec<String> =
        parts.iter().filter(|(count, _)| *count > 0).map(|(count, what)| format!("{count} {what}")).collect();
    if done.is_empty() { found } else { format!("{found}: {}", done.join(", ")) }
}

/// What decided the turns of an input, and all they did.
pub fn entry(entry: &Entry, book: &Rulebook, extent: Extent) -> String {
    let answers = entry.answers.iter().chain(entry.entered.as_deref());
    let mut parts: Vec<String> = answers.flat_map(|answer| turn::short(answer, book, extent)).collect();
    parts.dedup();
    if parts.is_empty() { "nothing changed".into() } else { parts.join("; ") }
}

/// The words for the frames of a run.
pub fn frames_words(frames: &Frames) -> String {
    match frames {
        Frames::Rate(text, _) => format!("{text} frames a second"),
        Frames::List(list) => {
            let all: Vec<String> = list.iter().map(|ms| show(nearest(ms))).collect();
            format!("frames of {} ms", all.join(", "))
        }
    }
}

/// The figures of a run as people read them: name and value.
pub fn figure_lines(found: &Figures) -> Vec<(&'static str, String)> {
    let number = |number: &Fraction, unit: &str| format!("{} {unit}", show(nearest(number)));
    let maybe = |value: Option<&Fraction>, unit: &str| value.map_or("none".into(), |value| number(value, unit));
    if let (Some(caught), Some(slid)) = (found.caught, found.slid) {
        return vec![
            ("nominal speed", maybe(found.nominal_speed.as_ref(), "px/s")),
            ("mean speed", maybe(found.mean_speed.as_ref(), "px/s")),
            ("error at the end", number(&found.error, "px")),
            ("largest jump", number(&found.jump, "px")),
            ("latency", maybe(found.latency.as_ref(), "ms")),
            ("borders passed", found.steps.to_string()),
            ("presses", found.presses.to_string()),
            ("refused", found.refused.to_string()),
            ("inputs lost", found.inputs_lost.to_string()),
            ("diagonal frames", found.diagonals.to_string()),
            ("caught", counted(caught as usize, "frame")),
            ("past by slack", counted(slid as usize, "frame")),
            ("off the lines", maybe(found.lined.as_ref(), "px")),
        ];
    }
    vec![
        ("frames a step", found.frames_per_step.map_or("none".into(), |frames| frames.to_string())),
        ("time a step", maybe(found.ms_per_step.as_ref(), "ms")),
        ("nominal speed", maybe(found.nominal_speed.as_ref(), "px/s")),
        ("mean speed", maybe(found.mean_speed.as_ref(), "px/s")),
        ("overshoot", number(&found.overshoot, "px")),
        ("error at the end", number(&found.error, "px")),
        ("largest jump", number(&found.jump, "px")),
        ("latency", maybe(found.latency.as_ref(), "ms")),
        ("steps", found.steps.to_string()),
        ("presses", found.presses.to_string()),
        ("inputs lost", found.inputs_lost.to_string()),
        ("refused", found.refused.to_string()),
        ("conflicts", found.conflicts.to_string()),
        ("diagonals", found.diagonals.to_string()),
        ("outcome", found.outcome.words().into()),
    ]
}

/// What the frames of a cell come to when they are added up in f64 and in f32, as games do: name and value.
pub fn sum_lines(run: &TrackRun, frames: &Frames) -> Vec<(String, String)> {
    let line = |found: Parting| {
        let unit = if found.cells { "cells" } else { "px" };
        let value = match found.reached {
            (_, None) => "no cell within 1000 frames".into(),
            (exact, Some(frames)) => {
                let past =
                    if found.past == 0.0 { String::new() } else { format!(", {} {unit} past it", show(found.past)) };
                let exactly = match exact {
                    Some(exact) if exact != frames => format!(" ({exact} exactly)"),
                    _ => String::new(),
                };
                format!("{} a cell{exactly}{past}", counted(frames as usize, "frame"))
            }
        };
        (format!("added in {}", found.name), value)
    };
    parting(&run.settings, frames, &run.length).into_iter().map(line).collect()
}

/// The name of an explanation.
pub fn explanation_name(explanation: &Explanation) -> String {
    let first = explanation.mishap.map_or("correct", Mishap::id);
    match explanation.with {
        Some(second) => format!("{first} and {}", second.id()),
        None => first.into(),
    }
}

/// What an explanation says, in a sentence.
pub fn explanation_says(explanation: &Explanation, given: &Given) -> String {
    let axis = match explanation.vertical {
        None => "",
        Some(false) => ", for columns only",
        Some(true) => ", for rows only",
    };
    let space = if explanation.window { ", positions being window positions" } else { "" };
    let second = explanation.with.map_or(String::new(), |second| format!("; and {}", second.says()));
    let first = match (explanation.mishap, explanation.fitted) {
        (Some(mishap), _) => mishap.says().to_owned(),
        (None, false) => "nothing is wrong at these samples".into(),
        (None, true) => fitted_says(explanation, given),
    };
    format!("{first}{second}{axis}{space}")
}

/// With which other numbers than the rulebook's the formula is right.
fn fitted_says(explanation: &Explanation, given: &Given) -> String {
    let pair = |(x, y): (f64, f64)| format!("{}, {}", show(x), show(y));
    if let Some(hotspot) = explanation.hotspot {
        let old = pair(given.hotspot);
        return format!("the formula is right with the hotspot {}, where the rulebook has {old}", pair(hotspot));
    }
    let origin = explanation.geometry.corner_of_first(given.extent);
    let (old, new) = (given.geometry.pitch(), explanation.geometry.pitch());
    let origin = pair((origin.x, origin.y));
    let way = |moved: f64, more: &str, less: &str| match moved {
        0.0 => None,
        moved if moved > 0.0 => Some(more.to_owned()),
        _ => Some(less.to_owned()),
    };
    let ways = [way(explanation.moved.0, "+x", "-x"), way(explanation.moved.1, "+y", "-y")];
    let ways: Vec<String> = ways.into_iter().flatten().collect();
    if explanation.half_cells().is_some() {
        let ways = ways.join(" and ");
        return format!("the board begins half a cell towards {ways}: the origin {origin} would fit");
    }
    if old != new {
        return "the formula is right, its numbers are not the rulebook's".into();
    }
    let (x, y) = explanation.moved;
    // For positions of pieces a hotspot does what the origin does, the other way.
    let hotspot = if explanation.window {
        String::new()
    } else {
        format!(", or the hotspot {}", pair((given.hotspot.0 - x, given.hotspot.1 - y)))
    };
    format!("the formula is right, its origin is not the rulebook's: the origin {origin} would fit{hotspot}")
}

/// A position in words: `px 101, 40`.
pub fn position_words(position: Position) -> String {
    match position {
        Position::World(WorldPoint { x, y }) => format!("px {}, {}", show(x), show(y)),
        Position::Window(WindowPoint { x, y }) => format!("win {}, {}", show(x), show(y)),
        Position::Cell(Cell { column, row }) => format!("cell {column}, {row}"),
        Position::Index(index) => format!("index {index}"),
    }
}

/// The numbers of the grid behind an explanation.
pub fn explanation_numbers(explanation: &Explanation, extent: Extent) -> String {
    let geometry = &explanation.geometry;
    let origin = geometry.corner_of_first(extent);
    let [w, h, gx, gy] = [geometry.size.0, geometry.size.1, geometry.gap.0, geometry.gap.1].map(show);
    format!("cell {w} x {h}, gap {gx} x {gy}, origin {}, {}", show(origin.x), show(origin.y))
}

#[cfg(test)]
mod tests;

/// A size in px.
pub fn size_words(size: &[Fraction; 2]) -> String {
    format!("{} x {} px", show(nearest(&size[0])), show(nearest(&size[1])))
}

/// How many cells, and which: the first of them.
pub fn cells_words(cells: &[Cell]) -> String {
    const MOST: usize = 12;
    let listed: Vec<String> = cells.iter().take(MOST).map(|cell| format!("{},{}", cell.column, cell.row)).collect();
    match cells.len() {
        0 => "nothing".into(),
        all if all > MOST => format!("{}: {} ...", counted(all, "cell"), listed.join(" ")),
        all => format!("{}: {}", counted(all, "cell"), listed.join(" ")),
    }
}

/// A gap that is too narrow, in words.
pub fn gap_line(gap: &Gap) -> String {
    let [one, other] = gap.between;
    format!(
        "between {},{} and {},{}: {} px, {} too few",
        one.column,
        one.row,
        other.column,
        other.row,
        show(nearest(&gap.wide)),
        show(nearest(&gap.short))
    )
}

/// The largest body that gets everywhere, in words.
pub fn largest_line(found: &Gaps) -> String {
    match (found.largest, found.is_good()) {
        (Some([width, height]), _) => format!("the largest body that gets everywhere: {width} x {height} px"),
        (None, true) => "there is no largest body: however large, it gets everywhere".into(),
        (None, false) => "no body of these proportions gets everywhere".into(),
    }
}
