//! The pages of the Proof bench.

use super::{Ask, Page, Proof};
use crate::desk::Desk;
use crate::desk::proof::Proven;
use crate::hands::LONGEST_SEARCH;
use crate::ui::Hits;
use crate::ui::pen::{Pen, ellipsis};
use crate::ui::theme::Theme;
use crate::words::{counted, proof as told};
use magpie_core::input::Input;
use magpie_core::proof::{Happens, Limits, Progress, Report, ToWin, has_win};
use magpie_core::rulebook::{KindId, on_one_line};
use magpie_core::space::Cell;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use ratatui::symbols::Marker;
use ratatui::widgets::{Axis, Chart, Dataset, Gauge, GraphType, Widget};
use std::time::Duration;

/// A name, whether that can be, and the shortest tape to it.
type Named<'a> = (&'static str, Option<bool>, Option<&'a Vec<Input>>);

/// The answers of the first page.
fn answers(report: &Report) -> [Named<'_>; 5] {
    let of = |happens: &Happens| happens.possible;
    let gone = report.no_way_back.as_ref();
    [
        ("win", report.win.possible, report.win.tape.as_ref()),
        ("lose", of(&report.lose), report.lose.tape.as_ref()),
        ("stuck", of(&report.stuck), report.stuck.tape.as_ref()),
        ("never settles", of(&report.never_settles), report.never_settles.tape.as_ref()),
        ("no way back", gone.map(|gone| gone.states > 0), gone.and_then(|gone| gone.tape.as_ref())),
    ]
}

/// The kinds of the page of cells: the controlled ones, and those that are moved.
pub fn kinds(report: &Report) -> Vec<(KindId, bool)> {
    let controlled = report.cells.iter().map(|(kind, _)| (*kind, true));
    controlled.chain(report.dead_cells.iter().flatten().map(|(kind, _)| (*kind, false))).collect()
}

/// How many lines the list of a page has.
pub fn lines(page: Page, desk: &Desk) -> usize {
    let Some(report) = desk.proven.as_ref().map(|proven| proven.proof.report()) else { return 0 };
    match page {
        Page::Win => answers(report).len(),
        Page::Cells => kinds(report).len(),
        Page::Promises => report.promises.len(),
        Page::Rules => report.unused.as_ref().map_or(0, Vec::len),
        Page::Shape => 0,
    }
}

/// The line of the rule that a line of the last page is about.
pub fn rule(line: usize, desk: &Desk) -> Option<u32> {
    let report = desk.proven.as_ref()?.proof.report();
    Some(report.unused.as_ref()?.get(line)?.at(desk.game.book()?).line)
}

/// The tape of a line of a page.
pub fn tape(page: Page, line: usize, report: &Report) -> Option<&Vec<Input>> {
    match page {
        Page::Win => answers(report).get(line)?.2,
        Page::Promises => report.promises.get(line)?.tape.as_ref(),
        Page::Cells | Page::Shape | Page::Rules => None,
    }
}

/// Draws a page.
pub fn render(bench: &Proof, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
    let mut pen = Pen::new(buffer, area, theme, bench.scroll);
    let mut hits = Vec::new();
    if let Some(running) = &bench.running {
        under_way(running.so_far, theme, &mut pen);
        pen.finish();
        return hits;
    }
    let Some(proven) = &desk.proven else {
        nothing(desk, theme, &mut pen);
        if bench.page == Page::Shape {
            maps(bench, desk, theme, &mut pen);
        }
        pen.finish();
        return hits;
    };
    let report = proven.proof.report();
    head(proven, theme, &mut pen);
    match bench.page {
        Page::Win => win(bench, desk, proven, theme, (area, &mut hits), &mut pen),
        Page::Cells => cells(bench, desk, report, theme, (area, &mut hits), &mut pen),
        Page::Promises => promises(bench, desk, report, theme, (area, &mut hits), &mut pen),
        Page::Shape => {
            shape(report, bench.maps.len(), theme, area, &mut pen);
            maps(bench, desk, theme, &mut pen);
        }
        Page::Rules => rules(bench, desk, report, theme, (area, &mut hits), &mut pen),
    }
    pen.finish();
    hits
}

/// Before anything has been searched.
fn nothing(desk: &Desk, theme: Theme, pen: &mut Pen) {
    pen.heading("every way to play");
    pen.wrapped(
        "  ",
        "Nothing has been searched yet. f looks at every state that can be reached from where the map is entered, g from this moment on.",
        theme.text(),
    );
    pen.gap();
    let said = [
        "whether this map can be won, in how few inputs, and by which",
        "where it can be lost, stuck or spoilt, and the shortest way there",
        "whether each `always` and `never` holds after every turn",
        "which cells and which rules nobody ever comes to",
    ];
    said.iter().for_each(|text| pen.hanging(&[("  · ", theme.faint()), (text, theme.faint())], 4));
    if !desk.text.mistakes.is_empty() {
        pen.gap();
        pen.wrapped("  ", "The rulebook has mistakes: what is searched is the last one without.", theme.waiting());
    }
}

/// While the threads are at it: how near it is to the limit that will be met first.
fn under_way(so_far: Option<(Progress, Duration)>, theme: Theme, pen: &mut Pen) {
    pen.heading("searching every state");
    let Some((progress, time)) = so_far else {
        pen.line("  it has just begun", theme.faint());
        return;
    };
    let limits = Limits::default();
    let shares = [
        ("states", f64::from(progress.states) / f64::from(limits.states)),
        ("memory", progress.bytes as f64 / limits.bytes as f64),
        ("time", time.as_secs_f64() / LONGEST_SEARCH.as_secs_f64()),
    ];
    let (name, share) =
        shares.into_iter().fold(("states", 0.0), |most, next| if next.1 > most.1 { next } else { most });
    pen.gap();
    pen.widget(1, |area, buffer| {
        let label = format!("{:.0} % of the limit of {name}", share * 100.0);
        let gauge = Gauge::default().ratio(share.clamp(0.0, 1.0)).label(label);
        gauge.style(theme.faint()).gauge_style(theme.chosen()).render(area, buffer);
    });
    pen.gap();
    pen.line(&format!("  {}", told::so_far(progress, time)), theme.text());
    let open = progress.states.saturating_sub(progress.done);
    pen.line(&format!("  {} looked at, {open} still to be", counted(progress.done as usize, "state")), theme.faint());
    pen.gap();
    pen.line("  Esc stops it and keeps what is known", theme.faint());
}

/// How much was seen, on every page.
fn head(proven: &Proven, theme: Theme, pen: &mut Pen) {
    let report = proven.proof.report();
    let style = if report.is_complete() { theme.text() } else { theme.waiting() };
    pen.wrapped("  ", &told::seen(report), style);
    if !proven.before.is_empty() {
        pen.line(&format!("  from the moment behind {}", counted(proven.before.len(), "input")), theme.faint());
    }
    if !report.is_complete() {
        pen.wrapped("  ", "what was not seen may hold anything: none so far is not none", theme.faint());
    }
    pen.gap();
}

type Where<'a> = (Rect, &'a mut Hits<Ask>);

/// A line of a list, which a click chooses.
fn entry(
    bench: &Proof,
    line: usize,
    parts: &[(&str, Style)],
    column: usize,
    (area, hits): (Rect, &mut Hits<Ask>),
    pen: &mut Pen,
) {
    let before = pen.lines();
    let mark = if bench.line == line { "▸ " } else { "  " };
    let style = parts.first().map_or_else(Style::new, |(_, style)| *style);
    let mut all = vec![(mark, style)];
    all.extend_from_slice(parts);
    pen.hanging(&all, column + 2);
    let height = pen.lines() - before;
    hits.push((Rect { y: area.y + before, height, ..area }.intersection(area), Ask::Line(line)));
}

fn win(bench: &Proof, desk: &Desk, proven: &Proven, theme: Theme, (area, hits): Where, pen: &mut Pen) {
    let report = proven.proof.report();
    let has_win = desk.game.book().is_some_and(|book| has_win(book));
    pen.heading("what can happen");
    for (line, (name, possible, tape)) in answers(report).into_iter().enumerate() {
        let is_good = name == "win";
        let (word, style) = match (possible, tape) {
            (Some(true), Some(tape)) => {
                let style = if is_good { theme.granted() } else { theme.refused() };
                (told::tape(tape), style)
            }
            (Some(false), _) if is_good && !has_win => ("the rulebook has no win".into(), theme.faint()),
            (Some(false), _) if is_good => ("none: no inputs win".into(), theme.refused()),
            (Some(false), _) => ("never".into(), theme.granted()),
            (Some(true), None) | (None, _) => ("not known".into(), theme.faint()),
        };
        let label = format!("{name:<14}");
        let label_style = if bench.line == line { theme.accent() } else { theme.faint() };
        entry(bench, line, &[(&label, label_style), (&word, style)], 14, (area, hits), pen);
        if is_good && let Some(ways) = told::ways(report) {
            pen.wrapped("                ", &ways, theme.faint());
        }
        if let ("no way back", Some(gone)) = (name, &report.no_way_back) {
            let of = format!("{} of {} states, {}", gone.states, report.states, told::percent(gone.share));
            pen.wrapped("                ", &of, theme.faint());
        }
    }
    pen.gap();
    match (proven.to_win, proven.spoilt) {
        (Some(ToWin::In(left)), _) => {
            pen.heading("this moment");
            pen.line(&format!("  {} to a win at best", counted(left as usize, "input")), theme.granted());
        }
        (Some(ToWin::Never), spoilt) => {
            pen.heading("this moment");
            let at =
                spoilt.map_or(String::new(), |at| format!(": the way back was lost with input {} of the tape", at + 1));
            pen.wrapped("  ", &format!("no win can be reached from here any more{at}"), theme.refused());
        }
        (None, _) => {}
    }
}

fn cells(bench: &Proof, desk: &Desk, report: &Report, theme: Theme, (area, hits): Where, pen: &mut Pen) {
    let Some(book) = desk.game.book() else { return };
    pen.heading("cells, of the chosen kind on the board");
    for (line, (kind, is_controlled)) in kinds(report).into_iter().enumerate() {
        let name = &book.kind(kind).name;
        let of = |all: &[(KindId, Vec<Cell>)]| {
            all.iter().find(|(known, _)| *known == kind).map_or_else(Vec::new, |(_, cells)| cells.clone())
        };
        let (sort, found) = if is_controlled {
            ("gets to", of(&report.cells))
        } else {
            ("is dead on", of(report.dead_cells.as_deref().unwrap_or_default()))
        };
        let style = if is_controlled { theme.text() } else { theme.refused() };
        let label = format!("{name} {sort} ");
        entry(bench, line, &[(&label, theme.text()), (&told::cells(&found), style)], 2, (area, hits), pen);
    }
    pen.gap();
    match &report.never {
        Some(never) => {
            pen.hanging(&[("  × never: ", theme.waiting()), (&told::cells(never), theme.text())], 4);
            pen.wrapped("  ", "Free in some state, and nobody who is controlled ever stands there.", theme.faint());
        }
        None => pen.line("  never: not known, as not everything was seen", theme.faint()),
    }
    if report.dead_cells.is_some() {
        pen.wrapped("  ", "Dead: a piece stands there only where no win is left.", theme.faint());
    }
}

fn promises(bench: &Proof, desk: &Desk, report: &Report, theme: Theme, (area, hits): Where, pen: &mut Pen) {
    let Some(book) = desk.game.book() else { return };
    pen.heading("promises");
    if report.promises.is_empty() {
        pen.wrapped("  ", "This rulebook has none: `always count apprentice = 1` would be one.", theme.faint());
    }
    for (line, (promise, invariant)) in report.promises.iter().zip(&book.invariants).enumerate() {
        let (mark, said) = told::promise(promise);
        let style = match promise.holds {
            Some(true) => theme.granted(),
            Some(false) => theme.refused(),
            None => theme.waiting(),
        };
        let label = format!("{mark} ");
        let at = format!("  line {}", invariant.at.line);
        entry(
            bench,
            line,
            &[(&label, style), (&invariant.at.text, theme.text()), (&at, theme.faint())],
            2,
            (area, hits),
            pen,
        );
        if !said.is_empty() {
            pen.wrapped("      ", &said, style);
        }
    }
}

/// How many states lie how deep, as a chart.
fn shape(report: &Report, maps: usize, theme: Theme, area: Rect, pen: &mut Pen) {
    pen.heading("states by depth");
    let most = report.levels.iter().copied().max().unwrap_or(0);
    let deepest = report.depth().max(1);
    // The list of maps below it stays in sight where there is room for both.
    let height = area.height.saturating_sub(14 + maps.max(1) as u16).clamp(6, 18);
    pen.widget(height, |area, buffer| {
        // More bars than the chart has columns, so that none of these stays empty.
        let columns = 2 * usize::from(area.width).max(1);
        let at = |column: usize| column * report.levels.len() / columns;
        let points: Vec<(f64, f64)> = (0..columns)
            .map(|column| {
                let levels = &report.levels[at(column)..at(column + 1).max(at(column) + 1)];
                let most = levels.iter().copied().max().unwrap_or(0);
                (column as f64 / (columns - 1) as f64 * deepest as f64, f64::from(most))
            })
            .collect();
        let bars =
            Dataset::default().marker(Marker::HalfBlock).graph_type(GraphType::Bar).style(theme.accent()).data(&points);
        let across = Axis::default()
            .bounds([0.0, deepest as f64])
            .style(theme.faint())
            .labels(["0".to_string(), format!("{deepest} inputs")]);
        let up = Axis::default()
            .bounds([0.0, f64::from(most)])
            .style(theme.faint())
            .labels(["0".to_string(), format!("{most} states")]);
        Chart::new(vec![bars]).x_axis(across).y_axis(up).style(theme.text()).legend_position(None).render(area, buffer);
    });
    pen.gap();
    pen.heading("figures");
    let mean = report.edges as f64 / f64::from(report.states);
    let widest = report.levels.iter().position(|count| *count == most).unwrap_or(0);
    for (name, value) in [
        ("states", report.states.to_string()),
        ("edges", format!("{}, {mean:.2} a state", report.edges)),
        ("depth", format!("{}, widest at {widest}", report.depth())),
        (
            "memory",
            format!(
                "{:.1} MiB, {} bytes a state",
                report.bytes as f64 / 1_048_576.0,
                report.bytes / report.states.max(1) as usize
            ),
        ),
    ] {
        pen.parts(&[(&format!("  {name:<10}"), theme.faint()), (&value, theme.text())]);
    }
}

/// All maps of the file, a row each.
fn maps(bench: &Proof, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let Some(book) = desk.game.book() else { return };
    pen.gap();
    pen.heading("all maps of the file");
    if bench.maps.is_empty() {
        pen.line("  a searches them, one after the other", theme.faint());
        return;
    }
    pen.line(told::HEAD, theme.faint());
    for (map, report) in &bench.maps {
        let style = if desk.game.grid().is_some_and(|grid| grid.map() == *map) { theme.accent() } else { theme.text() };
        let row = told::row(*map, &book.maps[*map].title, report);
        pen.line(&ellipsis(&row, pen.width()), style);
    }
}

fn rules(bench: &Proof, desk: &Desk, report: &Report, theme: Theme, (area, hits): Where, pen: &mut Pen) {
    pen.heading("rules that nothing ever used");
    let Some(book) = desk.game.book() else { return };
    let Some(unused) = &report.unused else {
        pen.line("  not known, as not everything was seen", theme.faint());
        return;
    };
    if unused.is_empty() {
        pen.line("  none: every rule is used on some way", theme.granted());
    }
    let at: Vec<_> = unused.iter().map(|rule| rule.at(book)).collect();
    let spans: Vec<_> = at.iter().map(|at| at.span).collect();
    for (line, (at, words)) in at.iter().zip(on_one_line(desk.text.source(), &spans)).enumerate() {
        let style = if bench.line == line { theme.accent() } else { theme.faint() };
        entry(bench, line, &[(&format!("line {:<5}", at.line), style), (&words, theme.text())], 10, (area, hits), pen);
    }
    pen.gap();
    pen.wrapped(
        "  ",
        "They may go, or the level that needs them is missing: another map of this file may use them.",
        theme.faint(),
    );
}
