//! Page one: position over time, what is wrong, the settings.

use super::settings::{MOST_ROWS, rows, words};
use super::{Ask, Pace, RATES};
use crate::desk::board::arrow;
use crate::ui::Hits;
use crate::ui::pen::Pen;
use crate::ui::theme::{Rgb, Theme};
use magpie_core::pace::{FrameState, Settings, TrackRun};
use magpie_core::rulebook::Rulebook;
use magpie_core::space::Heading;
use magpie_core::space::exact::nearest;
use magpie_core::space::show;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use ratatui::symbols::Marker;
use ratatui::widgets::{Axis, Chart, Dataset, GraphType, Widget};
use unicode_width::UnicodeWidthStr;

/// Draws the page; a click on the chart sets the cursor, one on the timeline presses a key or lets it go.
pub fn render(pace: &Pace, book: &Rulebook, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
    let rows = MOST_ROWS as u16 + 3;
    // The same for every run, so that no click moves what is clicked on.
    let notes = 4;
    let keys = pace.run_in_front().map_or_else(Vec::new, |run| keys_shown(run, area.height));
    let used = keys.len() as u16;
    let chart_height = area.height.saturating_sub(rows + notes + 5 + used).clamp(6.min(area.height), 24);
    let plot = Plot::of(pace);
    let mut pen = Pen::new(buffer, Rect { height: 4.min(area.height), ..area }, theme, 0);
    head(pace, book, theme, &mut pen);
    if let Some(plot) = &plot {
        plot.legend(theme, &mut pen);
    }
    let top = pen.lines();
    let chart = Rect { y: area.y + top, height: chart_height.min(area.height.saturating_sub(top)), ..area };
    let borders = plot.as_ref().map(|plot| plot.borders(chart.height.saturating_sub(2)));
    if let Some(wrong) = &pace.wrong {
        let mut pen = Pen::new(buffer, chart, theme, 0);
        pen.wrapped("  ✗ ", wrong, theme.refused());
    } else if let (Some(plot), Some(borders)) = (&plot, &borders) {
        plot.draw(pace, borders, theme, chart, buffer);
    }
    let below = Rect { y: chart.bottom(), height: area.bottom().saturating_sub(chart.bottom()), ..area };
    let mut pen = Pen::new(buffer, below, theme, pace.scroll);
    let left = borders.map_or(0, |borders| borders.width(chart.width));
    let hits = hits(pace, &keys, left, chart, below);
    timeline(pace, &keys, left, theme, &mut pen);
    if below.height < rows {
        // The list is scrolled away: what the keys change is said in one line.
        let row = pace.row(book);
        let (name, value) = words(&pace.settings(book), row);
        pen.parts(&[
            ("▸ ", theme.accent()),
            (name, theme.faint()),
            (&format!("  {value}   "), theme.accent()),
            ("← →", theme.waiting()),
        ]);
    }
    at_cursor(pace, book, theme, &mut pen);
    for note in pace.shown().map_or(&[][..], |made| made.notes.as_slice()).iter().take(4) {
        pen.wrapped("  ! ", note, theme.waiting());
    }
    if pace.shown().is_some_and(|made| made.notes.is_empty()) {
        pen.parts(&[("  ✓ ", theme.granted()), (nothing_wrong(pace), theme.text())]);
    }
    settings(pace, book, theme, &mut pen);
    pen.finish();
    hits
}

/// What is said of a run of which nothing wrong is known.
fn nothing_wrong(pace: &Pace) -> &'static str {
    match pace.run_in_front() {
        Some(run) if run.body.is_some() => "no corner caught it",
        _ => "lands exactly, loses nothing",
    }
}

/// Where the mouse finds the times of the chart, and below it those of every key.
fn hits(pace: &Pace, keys: &[Heading], left: u16, chart: Rect, below: Rect) -> Hits<Ask> {
    let mut hits = Vec::new();
    let Some(run) = pace.run_in_front() else { return hits };
    let across = Across::new(pace, chart.width.saturating_sub(left));
    // Two lines under the chart are its axis.
    let height = chart.height.saturating_sub(2);
    for column in 0..across.columns {
        let (x, ms) = (chart.x + left + column, across.at(column).round() as i64);
        hits.push((Rect { x, width: 1, height, ..chart }, Ask::At(ms)));
        for (row, key) in keys.iter().enumerate().skip(pace.scroll) {
            let y = below.y + (row - pace.scroll) as u16;
            if y < below.bottom() && column + SIGN < across.columns {
                // A press that is pointed at is meant to the millisecond.
                let press = across.press(run, *key, column).map_or(ms, |at| at.round() as i64);
                hits.push((Rect::new(x, y, 1, 1), Ask::MarkAt(press, *key)));
            }
        }
    }
    hits
}

/// The time of the chart in columns of characters.
struct Across {
    from: f64,
    span: f64,
    columns: u16,
}

/// Columns that a key's sign takes at the end of its line.
const SIGN: u16 = 2;

impl Across {
    fn new(pace: &Pace, columns: u16) -> Self {
        let (from, span) = window(pace);
        Self { from, span, columns: columns.max(4) }
    }

    /// The time in the middle of a column.
    fn at(&self, column: u16) -> f64 {
        self.from + (f64::from(column) + 0.5) / f64::from(self.columns) * self.span
    }

    /// When a key is pressed within a column.
    fn press(&self, run: &TrackRun, key: Heading, column: u16) -> Option<f64> {
        let column_of = |at: f64| ((at - self.from) / self.span * f64::from(self.columns)).floor();
        let mut presses = run.keys.iter().filter(|mark| mark.key == key && mark.down).map(|mark| mark.at);
        presses.find(|at| column_of(*at) == f64::from(column))
    }
}

fn head(pace: &Pace, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    let name = pace.kind(book).map_or("nobody", |kind| book.kind(kind).name.as_str());
    let made = pace.shown();
    let script = pace.script_of(book).unwrap_or_else(|| "right held for three steps".into());
    let place = if pace.is_on_map(book) { "on this map" } else { "on a track" };
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

/// A curve of the chart: its name in the legend, its points, its colour.
struct Curve {
    name: String,
    points: Vec<(f64, f64)>,
    rgb: Rgb,
}

/// The run in front, and beside it the other setting's, the other rates' or the other movers'.
struct Plot<'a> {
    run: &'a TrackRun,
    own: Curve,
    others: Vec<Curve>,
}

impl<'a> Plot<'a> {
    fn of(pace: &'a Pace) -> Option<Self> {
        let made = pace.shown()?;
        let run = made.runs.first()?;
        let curve = |name: &str, run: &TrackRun, rgb: Rgb| Curve { name: name.into(), points: places(run), rgb };
        let front = if pace.changed.is_some() { Theme::waiting_rgb() } else { Theme::accent_rgb() };
        let name = if pace.changed.is_some() { "changed" } else { made.label.as_str() };
        let own = curve(name, run, front);
        let mut others: Vec<Curve> = Vec::new();
        if pace.changed.is_some() {
            let old = pace.made.get(pace.rate).and_then(|made| made.runs.first());
            others.extend(old.map(|run| curve("the rulebook's", run, Theme::accent_rgb())));
        } else if made.runs.len() == 1 {
            let rates = pace.made.iter().enumerate().filter(|(at, _)| *at != pace.rate);
            let dim = Theme::dim((220, 216, 203), 110);
            others.extend(rates.filter_map(|(_, made)| Some(curve(&made.label, made.runs.first()?, dim))));
        }
        others.extend(made.runs.iter().skip(1).map(|run| curve("another mover", run, Theme::other_rgb())));
        Some(Self { run, own, others })
    }

    /// The curves by their colours.
    fn legend(&self, theme: Theme, pen: &mut Pen) {
        let colour = |rgb: Rgb| Style::new().fg(theme.colour(rgb));
        let mut parts = vec![("━ ", colour(self.own.rgb)), (self.own.name.as_str(), theme.text())];
        for curve in &self.others {
            parts.extend([("   ┄ ", colour(curve.rgb)), (curve.name.as_str(), theme.faint())]);
        }
        parts.extend([("   • ", theme.text()), ("arrived", theme.faint())]);
        pen.parts(&parts);
    }

    /// The borders of cells around all curves, in so many lines.
    fn borders(&self, height: u16) -> Borders {
        let all = self.own.points.iter().chain(self.others.iter().flat_map(|curve| &curve.points));
        let (low, high) = all.fold((f64::MAX, f64::MIN), |(low, high), (_, place)| (low.min(*place), high.max(*place)));
        let start = self.own.points.first().map_or(0.0, |(_, place)| *place);
        let length = nearest(&self.run.length).max(1e-9);
        Borders::around((low, high), start, length, usize::from(height / 2).max(2))
    }

    /// The chart: time across, place up, the borders of cells named, the cursor.
    fn draw(&self, pace: &Pace, borders: &Borders, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let Self { run, own, others } = self;
        let (from, span) = window(pace);
        let colour = |rgb: Rgb| Style::new().fg(theme.colour(rgb));
        let rule: Vec<[(f64, f64); 2]> =
            borders.named.iter().map(|(place, _)| [(from, *place), (from + span, *place)]).collect();
        let cursor = own.points.get(pace.cursor).map_or(0.0, |(t, _)| *t);
        let cursor = [(cursor, borders.low), (cursor, borders.high)];
        let arrived: Vec<(f64, f64)> = own
            .points
            .iter()
            .zip(&run.samples)
            .filter(|(_, s)| s.state == FrameState::Arrived)
            .map(|(at, _)| *at)
            .collect();
        let line = |points, style| {
            Dataset::default().marker(Marker::Braille).graph_type(GraphType::Line).style(style).data(points)
        };
        let faint = colour(Theme::dim((220, 216, 203), 60));
        let mut sets: Vec<Dataset> = rule.iter().map(|points| line(&points[..], faint)).collect();
        sets.push(line(&cursor, colour(Theme::dim((220, 216, 203), 130))));
        for curve in others {
            let dots = Dataset::default().marker(Marker::Braille).graph_type(GraphType::Scatter);
            sets.push(dots.style(colour(curve.rgb)).data(&curve.points));
        }
        sets.push(line(&own.points, colour(own.rgb)));
        let points = Dataset::default().marker(Marker::Dot).graph_type(GraphType::Scatter);
        sets.push(points.style(colour((236, 232, 222))).data(&arrived));
        let ms = |at: f64| format!("{} ms", show((from + span * at).round()));
        let times: Vec<String> = [0.0, 0.5, 1.0].map(ms).into();
        let x = Axis::default().bounds([from, from + span]).labels(times).style(theme.faint());
        let names: Vec<String> = borders.named.iter().map(|(_, name)| name.clone()).collect();
        let y = Axis::default().bounds([borders.low, borders.high]).labels(names).style(theme.faint());
        Chart::new(sets).x_axis(x).y_axis(y).style(theme.text()).legend_position(None).render(area, buffer);
    }
}

/// The borders of cells between two places, the pixels at which each lies, and the room that their names take.
struct Borders {
    low: f64,
    high: f64,
    /// From the lowest, every so many of them.
    named: Vec<(f64, String)>,
}

impl Borders {
    /// Borders around everything from one place to another, `start` being the middle of the cell counted 0; at most so many
    /// are named.
    fn around((low, high): (f64, f64), start: f64, length: f64, most: usize) -> Self {
        let number = |place: f64| (place - start) / length + 0.5;
        let (first, last) = (number(low).floor() as i64, number(high).ceil() as i64);
        // Named evenly, so that the lowest and the highest are among them.
        let count = (last - first).max(1);
        let every =
            (1..=count).find(|every| count % every == 0 && (count / every) as usize <= most.max(1)).unwrap_or(count);
        let place = |number: i64| start + (number as f64 - 0.5) * length;
        let name =
            |number: i64| format!("{} px  {}│{}", show((place(number) * 100.0).round() / 100.0), number - 1, number);
        let named =
            (0..=count / every).map(|at| first + at * every).map(|number| (place(number), name(number))).collect();
        Self { low: place(first), high: place(first + count), named }
    }

    /// Characters left of the chart itself.
    fn width(&self, area: u16) -> u16 {
        let widest = self.named.iter().map(|(_, name)| name.width() as u16).max().unwrap_or(0);
        widest.min(area / 3) + 1
    }
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
    let cursor = pace.frame_at_cursor().map_or(0.0, |sample| sample.t);
    ((cursor - span / 2.0).clamp(0.0, (end - span).max(0.0)), span)
}

/// The keys that a run presses, each once; where there is room the others, to be pressed with the mouse.
fn keys_shown(run: &TrackRun, height: u16) -> Vec<Heading> {
    const ROOMY: u16 = 34;
    let mut found: Vec<Heading> = Vec::new();
    let others = Heading::ALL.into_iter().filter(|key| height >= ROOMY && !key.is_diagonal());
    for key in run.keys.iter().map(|mark| mark.key).chain(others) {
        if !found.contains(&key) {
            found.push(key);
        }
    }
    found
}

/// Which keys are down when, on the time of the chart.
fn timeline(pace: &Pace, keys: &[Heading], left: u16, theme: Theme, pen: &mut Pen) {
    let Some(run) = pace.run_in_front() else { return };
    let across = Across::new(pace, pen.width() as u16 - left.min(pen.width() as u16));
    let lead = " ".repeat(usize::from(left));
    for key in keys {
        let marks = || run.keys.iter().filter(|mark| mark.key == *key);
        // The key's sign stands at the end, where nothing is pressed any more.
        let line: String = (0..across.columns - SIGN)
            .map(|column| {
                let down = marks().rfind(|mark| mark.at <= across.at(column)).is_some_and(|mark| mark.down);
                match (across.press(run, *key, column), down) {
                    (Some(_), _) => '▼',
                    (None, true) => '━',
                    (None, false) => '·',
                }
            })
            .collect();
        let sign = format!(" {}", arrow(*key));
        let style = if marks().next().is_some() { theme.waiting() } else { theme.faint() };
        pen.parts(&[(&lead, theme.faint()), (&line, theme.faint()), (&sign, style)]);
    }
}

fn at_cursor(pace: &Pace, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    if let Some(live) = &pace.live {
        let text = live.walked().map_or("press an arrow".into(), |run| {
            let figures = &run.figures;
            format!(
                "steps {}   presses {}   lost {}   refused {}   {} {}   latency {}",
                figures.steps,
                figures.presses,
                figures.inputs_lost,
                figures.refused,
                if run.body.is_some() { "caught" } else { "conflicts" },
                figures.caught.unwrap_or(figures.conflicts),
                figures.latency.as_ref().map_or("none".into(), |ms| format!("{} ms", show(nearest(ms).round())))
            )
        });
        pen.parts(&[("  live  ", theme.waiting()), (&text, theme.text())]);
        return;
    }
    let (Some(run), Some(sample)) = (pace.run_in_front(), pace.frame_at_cursor()) else { return };
    // Where the point lies by which its cell is found, where the kind has one of its own.
    let (dx, dy) = book.hotspot_of(pace.kind(book));
    let two = |number: f64| show((number * 100.0).round() / 100.0);
    let hotspot = if (dx, dy) == (0.0, 0.0) {
        String::new()
    } else {
        format!("   hotspot {}, {} px", two(sample.x + dx), two(sample.y + dy))
    };
    pen.parts(&[
        ("  frame ", theme.faint()),
        (&pace.cursor.to_string(), theme.accent()),
        (&format!(" of {}   ", run.samples.len() - 1), theme.faint()),
        (&format!("{} ms   ", two(sample.t)), theme.text()),
        (&format!("{}, {} px   ", two(sample.x), two(sample.y)), theme.text()),
        (&format!("cell {},{} {}", sample.cell.column, sample.cell.row, sample.state.word()), theme.faint()),
        (&hotspot, theme.faint()),
    ]);
}

fn settings(pace: &Pace, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    let now = pace.settings(book);
    let own = pace.kind(book).map_or_else(Settings::default, |kind| Settings::of_kind(book, kind));
    pen.heading(if pace.changed.is_some() { "settings, not written yet" } else { "settings" });
    for row in rows(&now) {
        let (name, value) = words(&now, *row);
        let (_, old) = words(&own, *row);
        let chosen = *row == pace.row(book);
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
