//! What can lie over a bench: the keys, the mistakes, an edit's difference, a kept tape.

use super::draw::key_words;
use super::frame::{Frame, Page};
use super::kept::Kept;
use crate::desk::Desk;
use crate::ui::action::Action;
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crate::words::{ago, counted, plain};
use magpie_core::grid::Request;
use magpie_core::rulebook::{LineIndex, Rulebook};
use magpie_core::tape::Session;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use unicode_width::UnicodeWidthStr;

/// Draws the page in front.
pub fn render(frame: &Frame, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(buffer, area, theme, frame.scroll);
    match frame.page {
        Some(Page::Help) => help(frame, theme, &mut pen),
        Some(Page::Difference) => difference(&frame.desk, theme, &mut pen),
        Some(Page::Kept) => kept(&frame.kept, theme, &mut pen),
        None => mistakes(&frame.desk, theme, &mut pen),
    }
    pen.finish();
}

fn help(frame: &Frame, theme: Theme, pen: &mut Pen) {
    table(&format!("on the {} bench", frame.front.title()), &frame.benches.actions(frame.front), frame, theme, pen);
    table("everywhere", &Frame::common(), frame, theme, pen);
    pen.gap();
    pen.line("  On Play the arrows are the game's, Space is `act`, Enter is `alt`.", theme.faint());
    pen.line("  Click a cell to see what is in it, an input on the tape to go there.", theme.faint());
}

fn table<M>(title: &str, actions: &[Action<M>], frame: &Frame, theme: Theme, pen: &mut Pen) {
    pen.heading(title);
    for action in actions {
        let keys: Vec<String> = (0..action.keys.len()).map(|number| key_words(&frame.desk, action, number)).collect();
        let keys = format!("  {:<14} ", keys.join("  "));
        pen.hanging(&[(&keys, theme.accent()), (action.help, theme.text())], keys.width());
    }
}

/// The mistakes of the file as it is now; the last good game stays on the board.
fn mistakes(desk: &Desk, theme: Theme, pen: &mut Pen) {
    let source = desk.text.source();
    let index = LineIndex::new(desk.text.source());
    if desk.game.session.is_some() {
        pen.line("the board shows the last good rulebook; save the file to try again", theme.faint());
        pen.gap();
    }
    for found in &desk.text.mistakes {
        let at = index.place(source, found.span.start.min(source.len()));
        pen.parts(&[
            ("✗ ", theme.refused()),
            (&format!("line {}, column {}  ", at.line, at.column), theme.accent()),
            (found.code.word(), theme.faint()),
        ]);
        pen.wrapped("  ", &plain(&found.message), theme.text());
        if let Some(help) = &found.help {
            pen.wrapped("  → ", &plain(help), theme.waiting());
        }
        let line = source.lines().nth(at.line - 1).unwrap_or_default();
        let shown: String = plain(line).replace('\t', " ").chars().take(160).collect();
        pen.line(&format!("  │ {shown}"), theme.faint());
        let length = source.get(found.span.start..found.span.end).map_or(1, |text| text.chars().count());
        if at.column <= 160 {
            let under = format!("  │ {}{}", " ".repeat(at.column - 1), "^".repeat(length.clamp(1, 60)));
            pen.line(&under, theme.refused());
        }
    }
}

/// Most lines of a board beside another.
const LINES: usize = 24;

/// The first turn that the last edit changed, under the old rules and under the new ones, board beside board.
fn difference(desk: &Desk, theme: Theme, pen: &mut Pen) {
    let (Some(changed), Some(session)) = (&desk.game.changed, &desk.game.session) else { return };
    for (title, session) in [("before the edit", &changed.old), ("after the edit", session)] {
        pen.heading(title);
        let Some(entry) = session.entries().get(changed.entry) else {
            pen.line("  this input does nothing here", theme.text());
            continue;
        };
        pen.line(&format!("  input {}: {}", changed.entry + 1, entry.input), theme.text());
        for request in session.report(changed.entry).iter().flat_map(|answer| &answer.requests) {
            verdict(request, session.grid().book(), session, theme, pen);
        }
    }
    pen.gap();
    let after = |session: &Session| {
        let lines = session.picture_after(changed.entry, 20_000);
        lines.into_iter().take(LINES).collect::<Vec<String>>()
    };
    boards(&after(&changed.old), &after(session), theme, pen);
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

fn kept(all: &[Kept], theme: Theme, pen: &mut Pen) {
    let Some(kept) = all.first() else { return };
    pen.gap();
    let inputs = counted(kept.inputs.len(), "input");
    let when = ago(kept.written.elapsed().unwrap_or_default());
    let text = format!(
        "A session on this rulebook ended without being left, {when}. Its tape of {inputs} on map {} was kept.",
        kept.map
    );
    pen.wrapped("  ", &text, theme.text());
    if let Some(lost) = &kept.lost {
        pen.wrapped("  ", &format!("It is not whole: {lost}. What comes before is there."), theme.waiting());
    }
    if all.len() > 1 {
        pen.wrapped("  ", &format!("{} behind it, older.", counted(all.len() - 1, "tape")), theme.faint());
    }
    pen.gap();
    pen.parts(&[("  Enter  ", theme.accent()), ("play it again", theme.text())]);
    let forget = if all.len() > 1 { "forget it, and look at the next" } else { "begin anew and forget it" };
    pen.parts(&[("  Esc    ", theme.accent()), (forget, theme.text())]);
}
