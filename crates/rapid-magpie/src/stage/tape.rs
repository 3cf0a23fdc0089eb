//! The tape: the inputs so far, and where the game stands among them.

use super::draw::key_sign;
use crate::desk::Desk;
use crate::ui::Hits;
use crate::ui::theme::Theme;
use magpie_core::input::{Input, Key};
use magpie_core::tape::Entry;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use unicode_width::UnicodeWidthStr;

/// A sign for an input on the tape.
fn sign(entry: &Entry) -> String {
    let sign = match &entry.input {
        Input::Key(Key(key)) => key_sign(key),
        Input::Restart => "⟲".into(),
        Input::Next => "next".into(),
        input => input.to_string(),
    };
    if entry.is_refused { format!("✗{sign}") } else { sign }
}

/// Draws the tape into a line; gives which place on it lies where.
pub fn render(desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<usize> {
    let mut hits = Vec::new();
    let Some(session) = &desk.game.session else {
        return hits;
    };
    let (position, entries) = (session.position(), session.entries());
    let changed = desk.game.changed.as_ref().map(|changed| changed.entry);
    let tail = match changed {
        Some(entry) => format!("  ≠ from input {}   {position} of {} ", entry + 1, entries.len()),
        None => format!("  {position} of {} ", entries.len()),
    };
    let tail = if desk.unkept { format!("  not kept on disk{tail}") } else { tail };
    let mut x = area.x + 1;
    buffer.set_string(x, area.y, "tape", theme.faint());
    x += 6;
    let room = area.right().saturating_sub(tail.width() as u16).saturating_sub(x);
    // The place on the tape stays in sight; only what can be seen is written.
    let width = |at: usize| sign(&entries[at]).width() as u16 + 1 + u16::from(changed == Some(at)) * 2;
    let mut first = position.min(entries.len());
    let mut used = 8;
    while first > 0 && used + width(first - 1) < room {
        first -= 1;
        used += width(first);
    }
    let end = x + room;
    let zero = Rect::new(area.x, area.y, 6, 1);
    hits.push((zero, 0));
    for at in first..=entries.len() {
        if at == position {
            buffer.set_string(x, area.y, "▏", theme.accent());
            x += 1;
        }
        if at == entries.len() || x + width(at) > end {
            break;
        }
        let shown = sign(&entries[at]);
        let style = match (at < position, entries[at].is_refused) {
            (false, _) => theme.faint(),
            (true, true) => theme.refused(),
            (true, false) => theme.text(),
        };
        let start = x;
        if changed == Some(at) {
            buffer.set_string(x, area.y, "≠", theme.waiting());
            x += 2;
        }
        buffer.set_string(x, area.y, &shown, style);
        x += shown.width() as u16 + 1;
        hits.push((Rect::new(start, area.y, x - start, 1), at + 1));
    }
    let style = if changed.is_some() || desk.unkept { theme.waiting() } else { theme.faint() };
    let at = area.right().saturating_sub(tail.width() as u16);
    buffer.set_string(at, area.y, tail, style);
    hits
}
