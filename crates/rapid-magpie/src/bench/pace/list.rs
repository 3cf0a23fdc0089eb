//! Pages two to four: figures, frames, sums.

use super::{Made, Pace, RATES};
use crate::limits::MOST_FRAMES_LISTED;
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crate::words::{cells_words, figure_lines, gap_line, largest_line, size_words};
use magpie_core::pace::{FrameState, Parting, parting};
use magpie_core::rulebook::Rulebook;
use magpie_core::space::show;

/// A figure without its unit, with as many decimals as there is room for.
fn short(text: &str) -> String {
    let number = text.split(' ').next().unwrap_or_default();
    number.parse::<f64>().map_or(text.to_owned(), |number| show((number * 100.0).round() / 100.0))
}

/// The name of a figure with its unit.
fn named((name, value): &(&'static str, String)) -> String {
    match value.split_once(' ') {
        Some((number, unit)) if number.parse::<f64>().is_ok() => format!("{name}, {unit}"),
        _ => (*name).to_owned(),
    }
}

/// The figures by frame rate; with changed settings both side by side, differences marked.
pub fn figures(pace: &Pace, theme: Theme, pen: &mut Pen) {
    pen.heading("figures by frame rate");
    let all: Vec<&Made> = if pace.changed.is_some() { pace.other.iter().collect() } else { pace.made.iter().collect() };
    let column = (pen.width().saturating_sub(22) / RATES.len()).max(8);
    let mut titles = vec![(format!("  {:<20}", ""), theme.faint())];
    for (at, rate) in RATES.iter().enumerate() {
        let style = if at == pace.rate { theme.accent() } else { theme.faint() };
        let rate = if *rate == "jitter" { "jitter".to_owned() } else { format!("{rate} fps") };
        titles.push((format!("{rate:>column$}"), style));
    }
    pen.owned(&titles);
    // What is added up frame after frame has two more, at rates that are even.
    let adds = all.iter().any(|made| !sums_of(made).is_empty());
    let lines = |made: &Made| {
        let mut lines = made.runs.first().map(|run| figure_lines(&run.figures)).unwrap_or_default();
        let found = sums_of(made);
        for (at, name) in ["cell added in f64", "cell added in f32"].into_iter().enumerate().filter(|_| adds) {
            let frames = found.get(at).and_then(|found| found.reached.1);
            lines.push((name, frames.map_or("none".into(), |frames| format!("{frames} frames"))));
        }
        lines
    };
    let tables: Vec<_> = all.iter().map(|made| lines(made)).collect();
    let count = tables.first().map_or(0, Vec::len);
    for row in 0..count {
        let mut parts = vec![(format!("  {:<20}", named(&tables[0][row])), theme.faint())];
        for (at, table) in tables.iter().enumerate() {
            let style = if at == pace.rate { theme.text() } else { theme.faint() };
            parts.push((format!("{:>column$}", short(&table[row].1)), style));
        }
        pen.owned(&parts);
    }
    if pace.changed.is_none() {
        return;
    }
    pen.gap();
    pen.heading("the rulebook's settings beside the changed ones");
    let of = |all: &[Made]| all.get(pace.rate).map(lines).unwrap_or_default();
    for (row, (_, new)) in of(&pace.made).into_iter().zip(of(&pace.other)) {
        let (name, old) = (named(&row), row.1);
        let (mark, style) = if old == new { ("  ", theme.faint()) } else { ("≠ ", theme.waiting()) };
        pen.parts(&[
            (mark, style),
            (&format!("{name:<20}"), theme.faint()),
            (&format!("{:>16}", short(&old)), theme.text()),
            (&format!("{:>16}", short(&new)), style),
        ]);
    }
}

/// Every frame of the run in front.
pub fn frames(pace: &Pace, theme: Theme, pen: &mut Pen) {
    let Some(made) = pace.shown() else { return };
    pen.heading(&format!("frames, {}", made.label));
    pen.line("   frame        ms         x         y    cell  progress  state", theme.faint());
    let Some(run) = made.runs.first() else { return };
    let two = |number: f64| show((number * 100.0).round() / 100.0);
    for (number, sample) in run.samples.iter().enumerate().take(MOST_FRAMES_LISTED) {
        let style = match (number == pace.cursor, sample.state) {
            (true, _) => theme.accent(),
            (_, FrameState::Arrived) => theme.text(),
            _ => theme.faint(),
        };
        let mark = if number == pace.cursor { "▸" } else { " " };
        let cell = format!("{},{}", sample.cell.column, sample.cell.row);
        let text = format!(
            " {mark}{number:>6}{:>10}{:>10}{:>10}{cell:>8}{:>10}  {}",
            two(sample.t),
            two(sample.x),
            two(sample.y),
            two(sample.progress),
            sample.state.word()
        );
        pen.line(&text, style);
    }
}

/// The sums of a run's frames.
fn sums_of(made: &Made) -> Vec<Parting> {
    made.runs.first().map_or(Vec::new(), |run| parting(&run.settings, &made.frames, &run.length))
}

/// Where the body gets, what is too narrow for it, and the largest that gets everywhere.
pub fn gaps(pace: &Pace, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    let name = pace.kind(book).map_or("nobody", |kind| book.kind(kind).name.as_str());
    let Some(found) = &pace.gaps else {
        pen.heading(&format!("there is no {name} on this map"));
        return;
    };
    pen.heading(&format!("{name}, a body of {}", size_words(&found.body)));
    if !found.fits {
        pen.wrapped("  ✗ ", "it does not fit in the middle of its own cell", theme.refused());
    }
    if found.is_good() {
        pen.wrapped("  ✓ ", "it gets everywhere that whole steps get", theme.granted());
    } else if !found.shut.is_empty() {
        pen.wrapped("  ✗ ", &format!("shut to it (×): {}", cells_words(&found.shut)), theme.refused());
    }
    for gap in &found.gaps {
        pen.wrapped("  ! ", &gap_line(gap), theme.waiting());
    }
    pen.wrapped("  ▸ ", &largest_line(found), theme.text());
    pen.gap();
    pen.heading("as the map stands, for moves of any length, without slack");
    pen.wrapped("  ", &format!("its box gets into {}", cells_words(&found.cells)), theme.faint());
    if !found.beside.is_empty() {
        pen.wrapped(
            "  ",
            &format!("of them its middle does not get into {}", cells_words(&found.beside)),
            theme.faint(),
        );
    }
    pen.wrapped("  ", "Page 1 changes the body: its width and height, and what is told here follows.", theme.faint());
}

/// The same sums exactly, in f64 and in f32.
pub fn sums(pace: &Pace, theme: Theme, pen: &mut Pen) {
    let Some(made) = pace.shown() else { return };
    let Some(run) = made.runs.first() else { return };
    pen.heading("added frame after frame, as a game does");
    let all = parting(&run.settings, &made.frames, &run.length);
    if all.is_empty() {
        pen.wrapped(
            "  ",
            "This pace adds nothing up: `timed` works its place out of the time, and a free body is no sum of steps. `rate` and `per-frame` add every frame's way to \
             the last one, and sums of rounded numbers part from the exact ones.",
            theme.faint(),
        );
        return;
    }
    for found in all {
        let unit = if found.cells { "cells" } else { "px" };
        let good = found.rounded.is_some() && found.rounded == found.exact;
        let (mark, style) = if good { ("  ✓ ", theme.granted()) } else { ("  ✗ ", theme.refused()) };
        let text = match (found.exact, good) {
            (None, _) => format!("{}: even the exact sum is on no cell within 1000 frames", found.name),
            (Some(frame), true) => format!("{}: on the cell after {frame} frames, as exactly", found.name),
            (Some(frame), false) => {
                format!("{}: {} {unit} after {frame} frames, where it should be on a cell", found.name, found.sum)
            }
        };
        pen.wrapped(mark, &text, style);
        pen.line(&format!("      up to {:e} {unit} off within 1000 frames", found.drift), theme.faint());
        if !good && found.exact.is_some() {
            pen.wrapped(
                "      ",
                "a test for equality never holds; `test reached` and `on arrival snap` land it",
                theme.waiting(),
            );
        }
    }
}
