//! What the Trace bench shows: the answer first, then the two boards, what parts them, and the lines.

use super::{Ask, Beheld, Source, Trace};
use crate::desk::Desk;
use crate::desk::painter;
use crate::ui::Hits;
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crate::words::trace::{coverage_words, explanation_words, fact_words};
use crate::words::{counted, plain};
use magpie_core::rulebook::Rulebook;
use magpie_core::trace::{Fact, Line, Told, told_board};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

/// Lines of the log that are listed.
const LISTED: usize = 12;
/// Fewest and most lines of the told board.
const TALL: (u16, u16) = (4, 14);

/// Draws the bench.
pub fn render(bench: &Trace, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
    let area = match &bench.typing {
        Some((_, line)) => line.render(theme, area, buffer),
        None => area,
    };
    let mut pen = Pen::new(buffer, area, theme, bench.scroll);
    let mut hits = Hits::new();
    match (&bench.beheld, desk.game.book()) {
        (Some(trace), Some(book)) => {
            status(bench, trace, theme, &mut pen);
            answer(bench, trace, book, theme, &mut pen);
            told(bench, trace, desk, theme, &mut pen);
            parts(bench, trace, book, theme, &mut pen);
            lines(bench, trace, theme, area, &mut pen, &mut hits);
        }
        _ => welcome(desk, theme, &mut pen),
    }
    pen.finish();
    hits
}

fn welcome(desk: &Desk, theme: Theme, pen: &mut Pen) {
    pen.heading("your own game beside the model");
    let text = "Let your game write a line for every input, with what it then believes, into a file: f opens that file and \
                follows it while you play. Or let the workbench play: d starts your program, gives it an input a line, and \
                holds every answer against the model.";
    pen.wrapped("  ", text, theme.text());
    pen.gap();
    let about =
        "A line names what it likes, and nothing else has to be there. Of the game as it stands these would be right:";
    pen.wrapped("  ", about, theme.faint());
    right_lines(desk).iter().for_each(|line| pen.wrapped("    ", line, theme.accent()));
    pen.gap();
    pen.wrapped(
        "  ",
        "The first turn in which the two part is shown on both boards, with the name of the mistake.",
        theme.faint(),
    );
}

/// What a right program could say now, a few ways of it.
pub(super) fn right_lines(desk: &Desk) -> Vec<String> {
    /// A board that is longer as text is left out.
    const LONGEST: usize = 160;
    let Some(session) = &desk.game.session else { return Vec::new() };
    let (grid, book) = (session.grid(), session.grid().book());
    let input = session.played().last().map(|entry| entry.input.clone());
    let mut ways = Vec::new();
    if let Some(cell) = grid.first_controlled().and_then(|piece| grid.board().cell_of(piece)) {
        let cell = grid.board().cell(cell);
        let middle = book.geometry.centre(grid.map_extent(), cell);
        ways.push(Told { cell: Some(Some(cell)), ..Told::default() });
        let xy = Some(Some((middle.x, middle.y)));
        ways.push(Told { xy, granted: Some(grid.has_granted()), ..Told::default() });
    }
    ways.push(Told { board: Some(grid.picture()), ..Told::default() });
    let lines = ways.into_iter().map(|told| Line { input: input.clone(), told, ..Line::default() });
    lines.map(|line| line.to_json(book).to_string()).filter(|line| line.len() <= LONGEST).collect()
}

fn status(bench: &Trace, trace: &Beheld, theme: Theme, pen: &mut Pen) {
    let (name, what) = match &trace.source {
        Source::Log(path) => {
            let name =
                path.file_name().map_or_else(|| path.display().to_string(), |name| name.to_string_lossy().into_owned());
            (plain(&name), if trace.is_live { "following" } else { "read" })
        }
        Source::Command(command) => (plain(command), if bench.is_driving { "driving …" } else { "driven" }),
    };
    let count = match &trace.source {
        Source::Log(_) => format!("  {}, {}", counted(trace.lines, "line"), counted(trace.reports, "report")),
        Source::Command(_) => String::new(),
    };
    pen.with_right(&[(&name, theme.accent()), (&count, theme.faint())], (what, theme.faint()));
    if let Some(why) = &trace.stopped {
        let style = if why.starts_with("waiting") { theme.waiting() } else { theme.refused() };
        pen.wrapped("  ", why, style);
    }
    for line in &trace.driven {
        let style = match line.chars().next() {
            Some('✗') => theme.refused(),
            Some('✓') => theme.granted(),
            _ => theme.faint(),
        };
        pen.wrapped("", line, style);
    }
}

/// Whether the two are alike, and the mistake where they are not.
fn answer(bench: &Trace, trace: &Beheld, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    let Some((row, differs)) = &trace.parts else {
        if trace.alike > 0 {
            pen.line(&format!("✓ {} alike, every one", counted(trace.alike, "report")), theme.granted());
        } else if trace.lines > 0 && trace.stopped.is_none() {
            pen.line("nothing is told that could be held against the model", theme.waiting());
        }
        return;
    };
    let number = trace.rows[*row].number;
    let keys: Vec<&str> = differs.iter().map(|differs| differs.expected.key()).collect();
    let input = trace.rows[*row].line.input.as_ref().map_or(String::new(), |input| format!(", {input}"));
    let text = format!("✗ they part in line {number}{input}: {}", keys.join(", "));
    pen.wrapped("", &text, theme.refused());
    if trace.explained.is_none() && trace.mishaps.is_empty() {
        pen.line("  looking for the mistake …", theme.waiting());
    } else if trace.mishaps.is_empty() && !bench.is_driving {
        pen.line("  no mistake of the catalogue explains it", theme.faint());
    }
    for (at, explained) in trace.mishaps.iter().enumerate() {
        if at >= 3 {
            pen.line(&format!("  and {} more that explain as much", trace.mishaps.len() - at), theme.faint());
            break;
        }
        pen.line(&format!("  {}", explained.name()), theme.waiting());
        pen.wrapped("    ", &explanation_words(explained, book), theme.text());
        for place in explained.made().filter_map(magpie_core::mishap::Slipped::place) {
            pen.wrapped("    ", &place, theme.faint());
        }
        pen.line(&format!("    {}", coverage_words(explained)), theme.faint());
    }
}

/// The board as the program told it, drawn as the model's is.
fn told(bench: &Trace, trace: &Beheld, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let (Some(row), Some(grid)) = (trace.rows.get(bench.shown()), desk.game.grid()) else { return };
    let Some(board) = told_board(grid.book(), grid, &row.line.told) else { return };
    let marks = crate::desk::marks::Marks {
        truths: bench.differing(desk).into_iter().map(|cell| (cell, crate::desk::marks::Truth::Differs)).collect(),
        ..Default::default()
    };
    let what =
        if row.line.told.board.is_some() { "the program's board" } else { "the program's places on the model's board" };
    pen.heading(&format!("{what}, line {}", row.number));
    let (_, height) = painter::needs(desk, (pen.width() as u16, (pen.height() / 2).clamp(TALL.0, TALL.1)));
    pen.widget(height, |area, buffer| {
        painter::render_game(desk, &board, &marks, theme, area, buffer);
    });
}

/// What the two say, side by side.
fn parts(bench: &Trace, trace: &Beheld, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    let Some((_, differs)) = trace.parts.as_ref().filter(|(row, _)| *row == bench.shown()) else { return };
    let told: Vec<_> = differs.iter().filter(|differs| !matches!(differs.expected, Fact::Board(_))).collect();
    if told.is_empty() {
        return;
    }
    pen.heading("what parts them");
    for differs in told {
        let words = |fact: &Fact| fact_words(fact, book).join(", ");
        pen.parts(&[
            (&format!("  {:<9}", differs.expected.key()), theme.faint()),
            ("model ", theme.faint()),
            (&words(&differs.expected), theme.granted()),
            ("  program ", theme.faint()),
            (&words(&differs.got), theme.refused()),
        ]);
    }
}

/// The lines round the one that is shown.
fn lines(bench: &Trace, trace: &Beheld, theme: Theme, area: Rect, pen: &mut Pen, hits: &mut Hits<Ask>) {
    if trace.rows.is_empty() {
        return;
    }
    pen.heading("lines");
    let shown = bench.shown();
    let first = (shown + LISTED / 2 + 1).min(trace.rows.len()).saturating_sub(LISTED);
    for (at, row) in trace.rows.iter().enumerate().skip(first).take(LISTED) {
        let (mark, style) = match row.is_alike {
            Some(true) => ("✓", theme.granted()),
            Some(false) => ("✗", theme.refused()),
            None => ("·", theme.faint()),
        };
        let input = row.line.input.as_ref().map_or_else(|| "reports".into(), ToString::to_string);
        let pointer = if at == shown { "▸ " } else { "  " };
        let y = area.y + pen.lines();
        let text = if at == shown { theme.accent() } else { theme.text() };
        pen.parts(&[
            (pointer, theme.accent()),
            (mark, style),
            (&format!(" {:>5}  ", row.number), theme.faint()),
            (&plain(&input), text),
        ]);
        if area.y + pen.lines() > y {
            hits.push((Rect { y, height: 1, ..area }, Ask::Line(at)));
        }
    }
}
