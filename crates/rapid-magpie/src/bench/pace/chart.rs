//! Page one: position over time, what is wrong, the settings.

use super::settings::{ROWS, words};
use super::{Made, Pace, RATES};
use crate::desk::board::arrow;
use crate::ui::pen::Pen;
use crate::ui::theme::{Rgb, Theme};
use magpie_core::pace::{FrameState, Settings, TrackRun};
use magpie_core::rulebook::Rulebook;
use magpie_core::space::Heading;
use magpie_core::space::exact::nearest;
use magpie_core::space::show;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::symbols::Marker;
use ratatui::widgets::Widget;
use ratatui::widgets::canvas::{Canvas, Context, Line, Points};

/// Draws the page.
pub fn render(pace: &Pace, book: &Rulebook, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let rows = ROWS.len() as u16 + 3;
    let notes = pace.shown().map_or(0, |made| made.notes.len().min(4) as u16 * 2);
    let used = pace.shown().and_then(|made| made.runs.first()).map_or(0, |run| keys_used(run).len() as u16);
    let chart_height = area.height.saturating_sub(rows + notes + 4 + used).clamp(4.min(area.height), 20);
    let mut pen = Pen::new(buffer, Rect { height: 2.min(area.height), ..area }, theme, 0);
    head(pace, book, theme, &mut pen);
    let chart = Rect { y: area.y + 2, height: chart_height.min(area.height.saturating_sub(2)), ..area };
    if let Some(wrong) = &pace.wrong {
        let mut pen = Pen::new(buffer, chart, theme, 0);
        pen.wrapped("  ✗ ", wrong, theme.refused());
    } else if let Some(made) = pace.shown() {
        curves(pace, made, theme, chart, buffer);
    }
    let below = Rect { y: chart.bottom(), height: area.bottom().saturating_sub(chart.bottom()), ..area };
    let mut pen = Pen::new(buffer, below, theme, pace.scroll);
    timeline(pace, theme, &mut pen);
    if below.height < rows {
        // The list is scrolled away: what the keys change is said in one line.
        let row = ROWS[pace.chosen];
        let (name, value) = words(&pace.settings(book), row);
        pen.parts(&[
            ("▸ ", theme.accent()),
            (name, theme.faint()),
            (&format!("  {value}   "), theme.accent()),
            ("← →", theme.waiting()),
        ]);
    }
    at_cursor(pace, theme, &mut pen);
    for note in pace.shown().map_or(&[][..], |made| made.notes.as_slice()).iter().take(4) {
        pen.wrapped("  ! ", note, theme.waiting());
    }
    if pace.shown().is_some_and(|made| made.notes.is_empty()) {
        pen.parts(&[("  ✓ ", theme.granted()), ("lands exactly, loses nothing", theme.text())]);
    }
    settings(pace, book, theme, &mut pen);
    pen.finish();
}

fn head(pace: &Pace, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    let name = pace.kind(book).map_or("nobody", |kind| book.kind(kind).name.as_str());
    let made = pace.shown();
    let script = pace.script_of(book).unwrap_or_else(|| "right held for three steps".into());
    let place = if pace.on_map { "on this map" } else { "on a track" };
    pen.heading(&format!("{name} {place}, {}", made.map_or("no frames", |made| made.label.as_str())));
    let live =
        if pace.live.is_some() { ("LIVE  arrows walk, Esc ends   ", theme.waiting()) } else { ("", theme.text()) };
    pen.parts(&[live, ("keys: ", theme.faint()), (&script, theme.text())]);
}

/// Where a run is along the axis that it moves along most.
fn places(run: &TrackRun) -> Vec<(f64, f64)> {
    let vertical = run.is_vertical();
    run.samples.iter().map(|sample| (sample.t, if vertical { sample.y } else { sample.x })).collect()
}

/// The chart: the run in front, beside it the other setting's or the other movers', borders of cells, the cursor.
fn curves(pace: &Pace, made: &Made, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let Some(run) = made.runs.first() else { return };
    let own = places(run);
    let mut others: Vec<(Vec<(f64, f64)>, Rgb)> = Vec::new();
    if pace.changed.is_some() {
        let old = pace.made.get(pace.rate).and_then(|made| made.runs.first());
        others.extend(old.map(|run| (places(run), Theme::accent_rgb())));
    } else if made.runs.len() == 1 {
        let rates = pace.made.iter().enumerate().filter(|(at, _)| *at != pace.rate);
        let dim = Theme::dim((220, 216, 203), 110);
        others.extend(rates.filter_map(|(_, made)| Some((places(made.runs.first()?), dim))));
    }
    let plum = Theme::other_rgb();
    others.extend(made.runs.iter().skip(1).map(|run| (places(run), plum)));
    let all = || own.iter().chain(others.iter().flat_map(|(points, _)| points));
    let (mut low, mut high) =
        all().fold((f64::MAX, f64::MIN), |(low, high), (_, place)| (low.min(*place), high.max(*place)));
    let length = nearest(&run.length).max(1e-9);
    (low, high) = (low - length / 2.0, high + length / 2.0);
    let (from, span) = window(pace);
    let cursor = own.get(pace.cursor).map_or(0.0, |(t, _)| *t);
    let colour = |rgb: Rgb| theme.colour(rgb);
    let front = if pace.changed.is_some() { Theme::waiting_rgb() } else { Theme::accent_rgb() };
    let start = own.first().map_or(0.0, |(_, place)| *place);
    let paint = |context: &mut Context| {
        let mut border = start + length / 2.0 + ((low - start - length / 2.0) / length).ceil() * length;
        while border <= high && (high - low) / length < 60.0 {
            let rule = colour(Theme::dim((220, 216, 203), 50));
            context.draw(&Line { x1: from, y1: border, x2: from + span, y2: border, color: rule });
            border += length;
        }
        context.draw(&Line {
            x1: cursor,
            y1: low,
            x2: cursor,
            y2: high,
            color: colour(Theme::dim((220, 216, 203), 120)),
        });
        context.layer();
        for (points, rgb) in &others {
            context.draw(&Points { coords: points, color: colour(*rgb) });
        }
        context.layer();
        for pair in own.windows(2) {
            let ((x1, y1), (x2, y2)) = (pair[0], pair[1]);
            context.draw(&Line { x1, y1, x2, y2, color: colour(Theme::dim(front, 170)) });
        }
        context.draw(&Points { coords: &own, color: colour(front) });
        context.layer();
        for (point, sample) in own.iter().zip(&run.samples) {
            if sample.state == FrameState::Arrived {
                let (y1, y2) = (point.1 - length * 0.14, point.1 + length * 0.14);
                context.draw(&Line { x1: point.0, y1, x2: point.0, y2, color: colour((236, 232, 222)) });
            }
        }
    };
    Canvas::default()
        .marker(Marker::Braille)
        .background_color(theme.colour(Theme::ground_rgb()))
        .x_bounds([from, from + span])
        .y_bounds([low, high])
        .paint(paint)
        .render(area, buffer);
}

/// The part of the time that the chart shows: from when, and how long.
fn window(pace: &Pace) -> (f64, f64) {
    // With changed settings two runs are shown, else those of all rates.
    let shown = |at: usize| pace.changed.is_none() || at == pace.rate;
    let made = pace.made.iter().enumerate().filter(|(at, _)| shown(*at));
    let other = pace.other.iter().enumerate().filter(|(at, _)| pace.changed.is_some() && shown(*at));
    let all = made.chain(other).flat_map(|(_, made)| &made.runs);
    let end = all.filter_map(|run| run.samples.last()).map(|sample| sample.t).fold(1.0_f64, f64::max);
    // Closer: a part of the time around the cursor.
    let span = end / f64::from(1_u32 << pace.zoom);
    let run = pace.shown().and_then(|made| made.runs.first());
    let cursor = run.and_then(|run| run.samples.get(pace.cursor)).map_or(0.0, |sample| sample.t);
    ((cursor - span / 2.0).clamp(0.0, (end - span).max(0.0)), span)
}

/// The keys that a run presses, each once.
fn keys_used(run: &TrackRun) -> Vec<Heading> {
    let mut found: Vec<Heading> = Vec::new();
    for mark in &run.keys {
        if !found.contains(&mark.key) {
            found.push(mark.key);
        }
    }
    found
}

/// Which keys are down when, on the time of the chart.
fn timeline(pace: &Pace, theme: Theme, pen: &mut Pen) {
    let Some(run) = pace.shown().and_then(|made| made.runs.first()) else { return };
    let (from, span) = window(pace);
    let width = pen.width();
    for key in keys_used(run) {
        let at = |column: usize| from + (column as f64 + 0.5) / width as f64 * span;
        let step = span / width as f64;
        let mut line = String::new();
        for column in 0..width {
            let marks = || run.keys.iter().filter(|mark| mark.key == key);
            let now = at(column);
            let pressed = marks().any(|mark| mark.down && (mark.at - now).abs() * 2.0 <= step);
            let down = marks().rfind(|mark| mark.at <= now).is_some_and(|mark| mark.down);
            line.push(match (pressed, down) {
                (true, _) => '▼',
                (false, true) => '━',
                (false, false) => '·',
            });
        }
        // The key's sign stands at the end, where nothing is pressed any more.
        line.pop();
        line.pop();
        let sign = format!(" {}", arrow(key));
        pen.parts(&[(&line, theme.faint()), (&sign, theme.waiting())]);
    }
}

fn at_cursor(pace: &Pace, theme: Theme, pen: &mut Pen) {
    if let Some(live) = &pace.live {
        let text = live.walked().map_or("press an arrow".into(), |run| {
            let figures = &run.figures;
            format!(
                "steps {}   presses {}   lost {}   conflicts {}   latency {}",
                figures.steps,
                figures.presses,
                figures.inputs_lost,
                figures.conflicts,
                figures.latency.as_ref().map_or("none".into(), |ms| format!("{} ms", show(nearest(ms).round())))
            )
        });
        pen.parts(&[("  live  ", theme.waiting()), (&text, theme.text())]);
        return;
    }
    let Some(run) = pace.shown().and_then(|made| made.runs.first()) else { return };
    let Some(sample) = run.samples.get(pace.cursor) else { return };
    pen.parts(&[
        ("  frame ", theme.faint()),
        (&pace.cursor.to_string(), theme.accent()),
        (&format!(" of {}   ", run.samples.len() - 1), theme.faint()),
        (&format!("{} ms   ", show((sample.t * 100.0).round() / 100.0)), theme.text()),
        (
            &format!(
                "{}, {} px   ",
                show((sample.x * 100.0).round() / 100.0),
                show((sample.y * 100.0).round() / 100.0)
            ),
            theme.text(),
        ),
        (&format!("cell {},{} {}", sample.cell.column, sample.cell.row, sample.state.word()), theme.faint()),
    ]);
}

fn settings(pace: &Pace, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    let now = pace.settings(book);
    let own = pace.kind(book).map_or_else(Settings::default, |kind| Settings::of_kind(book, kind));
    pen.heading(if pace.changed.is_some() { "settings, not written yet" } else { "settings" });
    for (at, row) in ROWS.into_iter().enumerate() {
        let (name, value) = words(&now, row);
        let (_, old) = words(&own, row);
        let chosen = at == pace.chosen;
        let (mark, style) = if chosen { ("▸ ", theme.accent()) } else { ("  ", theme.text()) };
        let differs = if value == old { String::new() } else { format!("   ≠ {old}") };
        pen.parts(&[
            (mark, style),
            (&format!("{name:<14}"), theme.faint()),
            (&value, style),
            (if chosen { "   ← →" } else { "" }, theme.waiting()),
            (&differs, theme.waiting()),
        ]);
    }
    let rates: Vec<&str> = RATES.to_vec();
    pen.line(&format!("  f: {}", rates.join(" · ")), theme.faint());
}
