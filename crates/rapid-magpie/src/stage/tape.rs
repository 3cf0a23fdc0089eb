//! The tape: the inputs so far, and where the game stands among them.

use super::draw::key_sign;
use crate::desk::Desk;
use crate::ui::Hits;
use crate::ui::theme::Theme;
use crate::words::plain;
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

/// Inputs that are written as one: waits in a row, with their sum, else a single one.
struct Group {
    from: usize,
    to: usize,
    sign: String,
}

fn wait_of(entry: &Entry) -> Option<u64> {
    if let Input::Wait(ms) = entry.input { Some(ms) } else { None }
}

/// The group that begins at an entry; the place where the tape stands parts waits.
fn group_from(entries: &[Entry], from: usize, position: usize) -> Option<Group> {
    let first = entries.get(from)?;
    let end = if from < position { position } else { entries.len() };
    let waits: Vec<u64> = entries[from..end].iter().map_while(wait_of).collect();
    Some(if waits.len() > 1 {
        Group { from, to: from + waits.len(), sign: Input::Wait(waits.iter().sum()).to_string() }
    } else {
        Group { from, to: from + 1, sign: sign(first) }
    })
}

/// The group that ends before an entry.
fn group_before(entries: &[Entry], to: usize, position: usize) -> Group {
    let waits = entries[..to].iter().rev().take_while(|entry| wait_of(entry).is_some()).count();
    let from = to - waits.max(1);
    let group = group_from(entries, from, position);
    group.unwrap_or_else(|| Group { from, to, sign: String::new() })
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
    let spoilt = desk.proven.as_ref().and_then(|proven| proven.spoilt);
    let tail = spoilt.map_or(tail.clone(), |at| format!("  † no way back from input {}{tail}", at + 1));
    let tail = if desk.unkept { format!("  not kept on disk{tail}") } else { tail };
    // In a narrow window what became of a key is told without the reason, so that the tape stays in sight.
    let shortened = |told: &str| match told.split_once(" (") {
        Some((what, _)) if told.width() > usize::from(area.width) * 2 / 3 => what.to_owned(),
        Some(_) | None => told.to_owned(),
    };
    let tail = desk.time.keys.told().map_or(tail.clone(), |told| format!("  {}{tail}", plain(&shortened(told))));
    let mut x = area.x + 1;
    buffer.set_string(x, area.y, "tape", theme.faint());
    x += 6;
    let room = area.right().saturating_sub(tail.width() as u16).saturating_sub(x);
    // The place on the tape stays in sight; only what can be seen is written.
    let marked = |group: &Group| changed.is_some_and(|at| (group.from..group.to).contains(&at));
    // The first input after which there is no way back to a win, once that is proved.
    let spoilt = desk.proven.as_ref().and_then(|proven| proven.spoilt);
    let spoils = |group: &Group| spoilt.is_some_and(|at| (group.from..group.to).contains(&at));
    let width =
        |group: &Group| group.sign.width() as u16 + 1 + u16::from(marked(group)) * 2 + u16::from(spoils(group)) * 2;
    let mut first = position.min(entries.len());
    let mut used = 8;
    while first > 0 {
        let before = group_before(entries, first, position);
        if used + width(&before) >= room {
            break;
        }
        used += width(&before);
        first = before.from;
    }
    let end = x + room;
    let zero = Rect::new(area.x, area.y, 6, 1);
    hits.push((zero, 0));
    let mut at = first;
    loop {
        if at == position {
            buffer.set_string(x, area.y, "▏", theme.accent());
            x += 1;
        }
        let Some(group) = group_from(entries, at, position).filter(|group| x + width(group) <= end) else { break };
        let style = match (at < position, entries[at].is_refused) {
            (false, _) => theme.faint(),
            (true, true) => theme.refused(),
            (true, false) => theme.text(),
        };
        let start = x;
        if marked(&group) {
            buffer.set_string(x, area.y, "≠", theme.waiting());
            x += 2;
        }
        if spoils(&group) {
            buffer.set_string(x, area.y, "†", theme.refused());
            x += 2;
        }
        buffer.set_string(x, area.y, &group.sign, style);
        x += group.sign.width() as u16 + 1;
        hits.push((Rect::new(start, area.y, x - start, 1), group.to));
        at = group.to;
    }
    let style = if changed.is_some() || desk.unkept { theme.waiting() } else { theme.faint() };
    let at = area.right().saturating_sub(tail.width() as u16);
    buffer.set_string(at, area.y, tail, style);
    hits
}
