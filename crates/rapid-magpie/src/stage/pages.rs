//! What can lie over a bench: the keys, the mistakes, an edit's difference, a kept tape.

use super::action::common;
use super::frame::key_words;
use super::pen::Pen;
use super::state::{Page, State};
use super::theme::Theme;
use crate::cli::source::plain;
use magpie_core::grid::Request;
use magpie_core::rulebook::{LineIndex, Rulebook};
use magpie_core::tape::Session;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use unicode_width::UnicodeWidthStr;

/// Draws the page in front.
pub fn render(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(buffer, area, theme, state.scroll);
    match &state.page {
        Some(Page::Help) => help(state, theme, &mut pen),
        Some(Page::Difference) => difference(state, theme, &mut pen),
        Some(Page::Kept(count)) => kept(*count, theme, &mut pen),
        None => mistakes(state, theme, &mut pen),
    }
    pen.finish();
}

fn help(state: &State, theme: Theme, pen: &mut Pen) {
    let mut table = |title: &str, actions: &[super::action::Action]| {
        pen.heading(title);
        for action in actions {
            let keys: Vec<String> = (0..action.keys.len()).map(|number| key_words(state, action, number)).collect();
            pen.parts(&[(&format!("  {:<14} ", keys.join("  ")), theme.accent()), (action.help, theme.text())]);
        }
    };
    table(&format!("on the {} bench", state.bench.title()), &state.bench.actions(state.front()));
    table("everywhere", &common());
    pen.gap();
    pen.line("  On Play the arrows are the game's, Space is `act`, Enter is `alt`.", theme.faint());
    pen.line("  Click a cell to see what is in it, an input on the tape to go there.", theme.faint());
}

/// The mistakes of the file as it is now; the last good game stays on the board.
fn mistakes(state: &State, theme: Theme, pen: &mut Pen) {
    let index = LineIndex::new(&state.source);
    if state.session.is_some() {
        pen.line("the board shows the last good rulebook; save the file to try again", theme.faint());
        pen.gap();
    }
    for found in &state.mistakes {
        let at = index.place(&state.source, found.span.start.min(state.source.len()));
        pen.parts(&[
            ("✗ ", theme.refused()),
            (&format!("line {}, column {}  ", at.line, at.column), theme.accent()),
            (found.code.word(), theme.faint()),
        ]);
        pen.wrapped("  ", &plain(&found.message), theme.text());
        if let Some(help) = &found.help {
            pen.wrapped("  → ", &plain(help), theme.waiting());
        }
        let line = state.source.lines().nth(at.line - 1).unwrap_or_default();
        let shown: String = plain(line).replace('\t', " ").chars().take(160).collect();
        pen.line(&format!("  │ {shown}"), theme.faint());
        let length = state.source.get(found.span.start..found.span.end).map_or(1, |text| text.chars().count());
        if at.column <= 160 {
            let under = format!("  │ {}{}", " ".repeat(at.column - 1), "^".repeat(length.clamp(1, 60)));
            pen.line(&under, theme.refused());
        }
    }
}

/// The first turn that the last edit changed, under the old rules and under the new ones, board beside board.
fn difference(state: &State, theme: Theme, pen: &mut Pen) {
    let (Some(changed), Some(session)) = (&state.changed, &state.session) else { return };
    for (title, session) in [("before the edit", &changed.old), ("after the edit", session)] {
        pen.heading(title);
        let Some(entry) = session.entries().get(changed.entry) else {
            pen.line("  this input does nothing here", theme.text());
            continue;
        };
        pen.line(&format!("  input {}: {}", changed.entry + 1, entry.input), theme.text());
        for request in entry.answers.iter().flat_map(|answer| &answer.requests) {
            verdict(request, session.grid().book(), session, theme, pen);
        }
    }
    pen.gap();
    boards(&picture_after(&changed.old, changed.entry), &picture_after(session, changed.entry), theme, pen);
}

/// Two boards side by side, one below the other where there is no room; lines that differ are set off.
fn boards(before: &[String], after: &[String], theme: Theme, pen: &mut Pen) {
    let width = before.iter().map(|line| line.width()).max().unwrap_or(0).max("before".len());
    let right = after.iter().map(|line| line.width()).max().unwrap_or(0);
    if 2 + width + 6 + right > pen.width() {
        for (title, board) in [("before", before), ("after", after)] {
            pen.line(&format!("  {title}"), theme.faint());
            board.iter().for_each(|line| pen.line(&format!("  {line}"), theme.text()));
        }
        return;
    }
    pen.line(&format!("  {:<width$}      after", "before"), theme.faint());
    for at in 0..before.len().max(after.len()) {
        let line = |board: &[String]| board.get(at).cloned().unwrap_or_default();
        let (old, new) = (line(before), line(after));
        let (mark, style) = if old == new { ("  ", theme.text()) } else { ("≠ ", theme.waiting()) };
        let missing = " ".repeat(width - old.width());
        pen.parts(&[
            ("  ", theme.text()),
            (&old, style),
            (&missing, style),
            ("    ", style),
            (mark, style),
            (&new, style),
        ]);
    }
}

fn verdict(request: &Request, book: &Rulebook, session: &Session, theme: Theme, pen: &mut Pen) {
    let name = &book.kind(request.kind).name;
    let (word, style) = if request.granted { ("GRANTED", theme.granted()) } else { ("REFUSED", theme.refused()) };
    let why = request.reason.and_then(|reason| request.checks.get(reason));
    let line = why.and_then(|check| check.line(book)).map_or(String::new(), |line| format!("line {line}"));
    let text = why.map_or(String::new(), |check| check.text(book, session.grid().board().extent()));
    let parts = [("  ", theme.text()), (word, style), (&*format!("  {name}  {text}"), theme.text())];
    pen.with_right(&parts, (&line, theme.faint()));
}

/// The board after an entry of a tape, as far as it can be shown here.
fn picture_after(session: &Session, entry: usize) -> Vec<String> {
    const LINES: usize = 24;
    let Ok(mut again) = Session::new(session.start().clone()) else {
        return Vec::new();
    };
    for played in session.entries().iter().take(entry + 1) {
        again.give(&played.input);
    }
    if again.grid().board().cells() > 20_000 {
        return Vec::new();
    }
    again.grid().picture().into_iter().take(LINES).collect()
}

fn kept(count: usize, theme: Theme, pen: &mut Pen) {
    pen.gap();
    pen.wrapped(
        "  ",
        &format!("The last session on this rulebook ended without being left. Its tape of {count} inputs was kept."),
        theme.text(),
    );
    pen.gap();
    pen.parts(&[("  Enter  ", theme.accent()), ("play it again", theme.text())]);
    pen.parts(&[("  Esc    ", theme.accent()), ("begin anew and forget it", theme.text())]);
}
