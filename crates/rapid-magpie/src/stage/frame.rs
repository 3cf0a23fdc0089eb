//! The frame round all benches: head line, board, bench, tape, keys.

use super::action::{Action, Message, common};
use super::board_view::{self, BoardLayout, arrow};
use super::pages;
use super::state::{Page, State};
use super::theme::Theme;
use crate::bench::{Bench, rules};
use crate::cli::source::{counted, plain};
use crate::told;
use crossterm::event::KeyCode;
use magpie_core::rulebook::{CounterRead, Key, LineIndex};
use magpie_core::space::{Heading, show};
use magpie_core::tape::{Entry, Input};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use ratatui::widgets::{Block, Borders, Widget};
use unicode_width::UnicodeWidthStr;

/// From this width on the bench stands beside the board, below it under the board.
const WIDE: u16 = 100;

type Hits = Vec<(Rect, Message)>;

/// Draws everything; gives where the board was drawn and what can be clicked.
pub fn render(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) -> (BoardLayout, Hits) {
    buffer.set_style(area, theme.text());
    if area.width < 40 || area.height < 12 {
        buffer.set_stringn(
            area.x,
            area.y,
            "the window is too small: 80 x 24 is enough",
            usize::from(area.width),
            theme.waiting(),
        );
        return (BoardLayout::default(), Vec::new());
    }
    let mut hits = Vec::new();
    head(state, theme, Rect { height: 1, ..area }, buffer, &mut hits);
    let middle = Rect { y: area.y + 1, height: area.height - 3, ..area };
    let (board, bench) = split(state, middle);
    let mut layout = BoardLayout::default();
    if board.width > 0 && board.height > 0 {
        let inner = pane(&board_title(state), &warning(state), theme, board, buffer);
        let inner = buttons(state, theme, inner, buffer, &mut hits);
        layout = board_view::render(state, theme, inner, buffer);
    }
    let (title, over) = bench_title(state);
    let inner = pane(&title, "", theme, bench, buffer);
    let inner = Rect { x: inner.x + 1, width: inner.width.saturating_sub(2), ..inner };
    if over {
        pages::render(state, theme, inner, buffer);
    } else {
        hits.extend(state.bench.render(state, theme, inner, buffer));
    }
    tape(state, theme, Rect { y: area.bottom() - 2, height: 1, ..area }, buffer, &mut hits);
    keys(state, theme, Rect { y: area.bottom() - 1, height: 1, ..area }, buffer);
    (layout, hits)
}

/// Board and bench: beside each other where there is room, else the bench below.
fn split(state: &State, area: Rect) -> (Rect, Rect) {
    if state.session.is_none() {
        return (Rect { width: 0, ..area }, area);
    }
    if area.width >= WIDE {
        let left = (u32::from(area.width) * 55 / 100) as u16;
        return (Rect { width: left, ..area }, Rect { x: area.x + left, width: area.width - left, ..area });
    }
    // A board that needs less than half leaves the rest to the bench.
    let rows = state.session.as_ref().map_or(0, |session| session.grid().board().extent().rows);
    let height = u32::from(area.height / 2).min(rows + 3) as u16;
    let height = height.max(6);
    (Rect { height, ..area }, Rect { y: area.y + height, height: area.height - height, ..area })
}

/// A pane with its border; gives the room inside.
fn pane(title: &str, foot: &str, theme: Theme, area: Rect, buffer: &mut Buffer) -> Rect {
    let mut block = Block::new()
        .borders(Borders::ALL)
        .border_style(theme.rule())
        .style(theme.text())
        .title_top(Line::from(Span::styled(format!(" {title} "), theme.faint())));
    if !foot.is_empty() {
        block = block.title_bottom(Line::from(Span::styled(format!(" {foot} "), theme.waiting())));
    }
    let inner = block.inner(area);
    block.render(area, buffer);
    inner
}

/// The buttons of the view, as on-screen controls under the board; gives the room left above them.
fn buttons(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer, hits: &mut Hits) -> Rect {
    let view = state.session.as_ref().and_then(|session| session.grid().book().view.as_ref());
    let Some(view) = view.filter(|view| !view.buttons.is_empty() && area.height > 6) else {
        return area;
    };
    let y = area.bottom() - 1;
    let mut ordered: Vec<_> = view.buttons.iter().collect();
    ordered.sort_by(|a, b| a.at.0.total_cmp(&b.at.0).then(a.at.1.total_cmp(&b.at.1)));
    let mut x = area.x + 1;
    buffer.set_string(x, y, "buttons", theme.faint());
    x += 9;
    for button in ordered {
        let text = format!("  {}  ", key_sign(&button.key));
        let width = text.width() as u16;
        if x + width >= area.right() {
            break;
        }
        buffer.set_string(x, y, text, theme.button());
        hits.push((Rect::new(x, y, width, 1), Message::Play(Input::Key(Key(button.key.clone())))));
        x += width + 1;
    }
    Rect { height: area.height - 2, ..area }
}

fn board_title(state: &State) -> String {
    let Some(session) = &state.session else {
        return String::new();
    };
    let book = session.grid().book();
    let extent = session.grid().board().extent();
    let (w, h) = book.geometry.size;
    let rims = state.counted.map_or(String::new(), |kind| format!(" · rims count {}", book.kind(kind).name));
    format!(
        "{} × {} cells of {} × {} px · shows {}{rims}",
        extent.columns,
        extent.rows,
        show(w),
        show(h),
        state.overlay.word()
    )
}

/// The first warning, at the board's foot where it is seen at once.
fn warning(state: &State) -> String {
    let Some(first) = state.warnings.first() else {
        return String::new();
    };
    let line = LineIndex::new(&state.source).line(first.span.start);
    let more = if state.warnings.len() > 1 { format!("  (+{})", state.warnings.len() - 1) } else { String::new() };
    format!("! line {line}: {}{more}", plain(&first.message))
}

fn bench_title(state: &State) -> (String, bool) {
    match &state.page {
        Some(Page::Help) => ("keys".into(), true),
        Some(Page::Difference) => ("the last edit: before and after".into(), true),
        Some(Page::Kept(_)) => ("a tape was kept".into(), true),
        // On the Rules bench mistakes stand in the text itself.
        None if !state.mistakes.is_empty() && state.bench != Bench::Rules => {
            (format!("{} in {}", counted(state.mistakes.len(), "mistake"), state.name), true)
        }
        None if state.bench == Bench::Rules && rules::is_unsaved(state) => {
            (format!("{} · changes are not saved yet", state.bench.title()), false)
        }
        None => (state.bench.title().into(), false),
    }
}

fn head(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer, hits: &mut Hits) {
    let mut x = area.x + 1;
    let name = match &state.session {
        None => state.name.clone(),
        Some(session) => {
            let grid = session.grid();
            let (map, maps) = (grid.map() + 1, grid.book().maps.len());
            format!("{} · {} {map}/{maps}", plain(&grid.book().title), plain(grid.map_title()))
        }
    };
    let room = usize::from(area.width / 2).saturating_sub(4);
    let (end, _) = buffer.set_stringn(x, area.y, name, room, theme.accent());
    x = (end + 4).max(area.x + area.width * 2 / 5);
    for (number, bench) in Bench::ALL.iter().enumerate() {
        let text = format!(" {} ", bench.title());
        let style = if *bench == state.bench { theme.chosen() } else { theme.faint() };
        let width = text.width() as u16;
        if x + width > area.right() {
            break;
        }
        buffer.set_string(x, area.y, text, style);
        hits.push((Rect::new(x, area.y, width, 1), Message::Bench(number)));
        x += width + 1;
    }
    let (status, style) = status(state, theme);
    let clock = state.session.as_ref().map_or(0, |session| session.grid().counter(CounterRead::Clock));
    let tail = format!("   clock {clock} ms ");
    let width = (status.width() + tail.width()) as u16;
    if x + width < area.right() {
        let at = area.right() - width;
        buffer.set_string(at, area.y, &status, style);
        buffer.set_string(at + status.width() as u16, area.y, tail, theme.faint());
    } else if x + (status.width() as u16) < area.right() {
        buffer.set_string(area.right() - status.width() as u16, area.y, &status, style);
    }
}

fn status(state: &State, theme: Theme) -> (String, Style) {
    if !state.mistakes.is_empty() {
        return (format!("✗ {}", counted(state.mistakes.len(), "mistake")), theme.refused());
    }
    match state.session.as_ref().and_then(|session| session.grid().outcome()) {
        Some(outcome) => {
            let style = if outcome == magpie_core::grid::Ended::Won { theme.accent() } else { theme.refused() };
            (format!("● {}", outcome.word()), style)
        }
        None if state.has_timers() && state.real.runs => (format!("▶ {}", state.real.words()), theme.granted()),
        None if state.has_timers() => ("‖ clock stands, p lets it run".into(), theme.waiting()),
        None => ("● live".into(), theme.granted()),
    }
}

/// A sign for a key of the game.
fn key_sign(key: &str) -> String {
    match key {
        "left" => arrow(Heading::West).to_string(),
        "right" => arrow(Heading::East).to_string(),
        "up" => arrow(Heading::North).to_string(),
        "down" => arrow(Heading::South).to_string(),
        key => key.into(),
    }
}

/// A sign for an input on the tape.
fn sign(entry: &Entry) -> String {
    let sign = match &entry.input {
        Input::Key(Key(key)) => key_sign(key),
        Input::Restart => "⟲".into(),
        Input::Next => "next".into(),
        input => input.to_string(),
    };
    if told::is_refused(entry) { format!("✗{sign}") } else { sign }
}

fn tape(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer, hits: &mut Hits) {
    let Some(session) = &state.session else {
        return;
    };
    let (position, entries) = (session.position(), session.entries());
    let changed = state.changed.as_ref().map(|changed| changed.entry);
    let tail = match changed {
        Some(entry) => format!("  ≠ from input {}   {position} of {} ", entry + 1, entries.len()),
        None => format!("  {position} of {} ", entries.len()),
    };
    let mut x = area.x + 1;
    buffer.set_string(x, area.y, "tape", theme.faint());
    x += 6;
    let room = area.right().saturating_sub(tail.width() as u16).saturating_sub(x);
    // The place on the tape stays in sight.
    let signs: Vec<String> = entries.iter().map(sign).collect();
    let width = |at: usize| signs[at].width() as u16 + 1 + u16::from(changed == Some(at)) * 2;
    let mut first = position.min(signs.len());
    let mut used = 8;
    while first > 0 && used + width(first - 1) < room {
        first -= 1;
        used += width(first);
    }
    let end = x + room;
    let zero = Rect::new(area.x, area.y, 6, 1);
    hits.push((zero, Message::Go(0)));
    for at in first..=signs.len() {
        if at == position {
            buffer.set_string(x, area.y, "▏", theme.accent());
            x += 1;
        }
        if at == signs.len() || x + width(at) > end {
            break;
        }
        let refused = signs[at].starts_with('✗');
        let style = match (at < position, refused) {
            (false, _) => theme.faint(),
            (true, true) => theme.refused(),
            (true, false) => theme.text(),
        };
        let start = x;
        if changed == Some(at) {
            buffer.set_string(x, area.y, "≠", theme.waiting());
            x += 2;
        }
        buffer.set_string(x, area.y, &signs[at], style);
        x += signs[at].width() as u16 + 1;
        hits.push((Rect::new(start, area.y, x - start, 1), Message::Go(at + 1)));
    }
    let style = if changed.is_some() { theme.waiting() } else { theme.faint() };
    let at = area.right().saturating_sub(tail.width() as u16);
    buffer.set_string(at, area.y, tail, style);
}

/// The most useful keys, from the same tables that handle them; a word about the last key in their place.
fn keys(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) {
    if let Some(note) = &state.note {
        buffer.set_stringn(area.x + 1, area.y, plain(note), usize::from(area.width) - 2, theme.waiting());
        return;
    }
    let mut x = area.x + 1;
    if state.arrows_play() {
        buffer.set_string(x, area.y, "arrows", theme.accent());
        buffer.set_string(x + 7, area.y, "play", theme.faint());
        x += 14;
    }
    if state.bench == Bench::Rules && state.rules.is_typing() && state.page.is_none() {
        for (key, label) in rules::TYPING {
            if x + (key.width() + label.width() + 1) as u16 > area.right() {
                break;
            }
            buffer.set_string(x, area.y, key, theme.accent());
            x += key.width() as u16 + 1;
            buffer.set_string(x, area.y, label, theme.faint());
            x += label.width() as u16 + 3;
        }
        return;
    }
    let actions: Vec<Action> = state.bench.actions(state.front()).into_iter().chain(common()).collect();
    for action in actions.iter().filter(|action| !action.label.is_empty()) {
        let key = key_words(state, action, 0);
        let width = (key.width() + action.label.width() + 4) as u16;
        if x + width > area.right() {
            break;
        }
        buffer.set_string(x, area.y, &key, theme.accent());
        buffer.set_string(x + key.width() as u16 + 1, area.y, action.label, theme.faint());
        x += width;
    }
}

/// A key in words; one that the game uses is reached with Alt.
pub fn key_words(state: &State, action: &Action, number: usize) -> String {
    let Some(stroke) = action.keys.get(number) else {
        return String::new();
    };
    let taken =
        matches!(stroke.code, KeyCode::Char(character) if !stroke.control && state.uses_key(&character.to_string()));
    if taken { format!("Alt-{}", stroke.words()) } else { stroke.words() }
}
