//! The picture of the frame: head line, board, bench, tape, keys.

use super::frame::{Ask, Frame, Message, Page, Room};
use super::{card, pages, tape};
use crate::bench::Which;
use crate::desk::Desk;
use crate::desk::board::{BoardLayout, arrow};
use crate::desk::painter;
use crate::ui::Hits;
use crate::ui::action::Action;
use crate::ui::pen::{Pen, ellipsis};
use crate::ui::theme::Theme;
use crate::words::{counted, plain};
use crossterm::event::KeyCode;
use magpie_core::input::{Input, Key};
use magpie_core::rulebook::{CounterRead, LineIndex};
use magpie_core::space::{Heading, show};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use ratatui::widgets::{Block, Borders, Widget};
use unicode_width::UnicodeWidthStr;

/// From this width on the bench stands beside the board, below it under the board.
const WIDE: u16 = 100;

/// The width that the benches are written for.
const BENCH: u16 = 66;

/// Draws everything; gives where the board was drawn and what can be clicked.
pub fn render(frame: &Frame, theme: Theme, area: Rect, buffer: &mut Buffer) -> (BoardLayout, Hits<Message>) {
    let desk = &frame.desk;
    buffer.set_style(area, theme.text());
    if area.width < 40 || area.height < 12 {
        let text = ellipsis("the window is too small: 80 x 24 is enough", usize::from(area.width));
        buffer.set_string(area.x, area.y, text, theme.waiting());
        return (BoardLayout::default(), Vec::new());
    }
    let mut hits = Vec::new();
    head(frame, theme, Rect { height: 1, ..area }, buffer, &mut hits);
    let middle = Rect { y: area.y + 1, height: area.height - 3, ..area };
    let Areas { board, card, bench } = split(desk, frame.room, middle);
    let mut layout = BoardLayout::default();
    let marks = frame.benches.marks(frame.front, desk);
    if board.width > 0 && board.height > 0 {
        let foot = warning(desk);
        let foot = if foot.is_empty() && card.is_none() { card::line(desk, marks.focus) } else { foot };
        let inner = pane(&board_title(desk), &foot, theme, board, buffer);
        let inner = buttons(desk, theme, inner, buffer, &mut hits);
        layout = painter::render(desk, &marks, theme, inner, buffer);
    }
    if let Some(area) = card {
        let inner = margins(pane(&card::title(desk, marks.focus), "", theme, area, buffer));
        let mut pen = Pen::new(buffer, inner, theme, 0);
        card::render(desk, marks.focus, theme, &mut pen);
    }
    if bench.width > 0 {
        let title = bench_title(frame);
        let inner = margins(pane(&title, "", theme, bench, buffer));
        say_unsaved(frame, &title, theme, bench, buffer);
        if frame.is_covered() {
            pages::render(frame, theme, inner, buffer);
        } else {
            let own = frame.benches.render(frame.front, desk, theme, inner, buffer);
            hits.extend(own.into_iter().map(|(rect, ask)| (rect, Message::Bench(ask))));
        }
    }
    let strip = tape::render(desk, theme, Rect { y: area.bottom() - 2, height: 1, ..area }, buffer);
    hits.extend(strip.into_iter().map(|(rect, position)| (rect, Message::Frame(Ask::Go(position)))));
    keys(frame, theme, Rect { y: area.bottom() - 1, height: 1, ..area }, buffer);
    (layout, hits)
}

/// Where everything stands; nothing of the board where there is none or the bench has all of it, and the other way round.
struct Areas {
    board: Rect,
    card: Option<Rect>,
    bench: Rect,
}

/// The board as large as its cells need, the card below it, the bench in what is left; in a narrow window the card beside
/// the board and the bench below both.
fn split(desk: &Desk, room: Room, area: Rect) -> Areas {
    /// The least that a card is worth drawing in.
    const CARD: (u16, u16) = (30, 6);
    let nothing = Rect { width: 0, ..area };
    match room {
        Room::Both if desk.game.session.is_some() => {}
        Room::Board if desk.game.session.is_some() => return Areas { board: area, card: None, bench: nothing },
        Room::Both | Room::Board | Room::Bench => return Areas { board: nothing, card: None, bench: area },
    }
    let buttons = desk.game.book().and_then(|book| book.view.as_ref()).is_some_and(|view| !view.buttons.is_empty());
    let foot = if buttons { 2 } else { 0 };
    if area.width >= WIDE {
        // The board's share, but the bench keeps the room that its lines are written for.
        let most = (area.width * 3 / 5).min(area.width.saturating_sub(BENCH)).max(area.width * 2 / 5);
        let height = area.height.saturating_sub(CARD.1);
        let needs = painter::needs(desk, (most - 2, height.saturating_sub(2 + foot)));
        // A narrow board leaves a card that can still be read.
        let width = (needs.0 + 2).max(area.width * 3 / 10).min(most);
        let board = Rect { width, height: (needs.1 + 2 + foot).min(height), ..area };
        let card = Rect { y: board.bottom(), height: area.height - board.height, ..board };
        let bench = Rect { x: area.x + width, width: area.width - width, ..area };
        return Areas { board, card: Some(card), bench };
    }
    let needs = painter::needs(desk, (area.width - 2, (area.height / 2).max(6) - 2));
    let height = (needs.1 + 2).max(6);
    let beside = area.width.saturating_sub(needs.0 + 3);
    let board = Rect { height, width: if beside >= CARD.0 { needs.0 + 3 } else { area.width }, ..area };
    let card = (beside >= CARD.0).then(|| Rect { x: board.right(), width: beside, ..board });
    Areas { board, card, bench: Rect { y: area.y + height, height: area.height - height, ..area } }
}

/// What is left of a pane when its text keeps clear of the border.
fn margins(inner: Rect) -> Rect {
    Rect { x: inner.x + 1, width: inner.width.saturating_sub(2), ..inner }
}

/// A pane with its border; gives the room inside.
fn pane(title: &str, foot: &str, theme: Theme, area: Rect, buffer: &mut Buffer) -> Rect {
    let room = usize::from(area.width).saturating_sub(4);
    let mut block = Block::new()
        .borders(Borders::ALL)
        .border_style(theme.rule())
        .style(theme.text())
        .title_top(Line::from(Span::styled(format!(" {} ", ellipsis(title, room)), theme.faint())));
    if !foot.is_empty() {
        block = block.title_bottom(Line::from(Span::styled(format!(" {} ", ellipsis(foot, room)), theme.waiting())));
    }
    let inner = block.inner(area);
    block.render(area, buffer);
    inner
}

/// The buttons of the view, as on-screen controls under the board; gives the room left above them.
fn buttons(desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer, hits: &mut Hits<Message>) -> Rect {
    let view = desk.game.book().and_then(|book| book.view.as_ref());
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
        hits.push((Rect::new(x, y, width, 1), Message::Frame(Ask::Play(Input::Key(Key(button.key.clone()))))));
        x += width + 1;
    }
    Rect { height: area.height - 2, ..area }
}

fn board_title(desk: &Desk) -> String {
    let Some(grid) = desk.game.grid() else {
        return String::new();
    };
    let (book, extent) = (grid.book(), grid.board().extent());
    let (w, h) = book.geometry.size;
    let rims = desk.picture.counted.map_or(String::new(), |kind| format!(" · rims count {}", book.kind(kind).name));
    format!(
        "{} × {} cells of {} × {} px · shows {}{rims}",
        extent.columns,
        extent.rows,
        show(w),
        show(h),
        desk.picture.overlay.word()
    )
}

/// The first warning, at the board's foot where it is seen at once.
fn warning(desk: &Desk) -> String {
    let Some(first) = desk.text.warnings.first() else {
        return String::new();
    };
    let line = LineIndex::new(desk.text.source()).line(first.span.start);
    let more =
        if desk.text.warnings.len() > 1 { format!("  (+{})", desk.text.warnings.len() - 1) } else { String::new() };
    format!("! line {line}: {}{more}", plain(&first.message))
}

/// The title of the bench's pane.
fn bench_title(frame: &Frame) -> String {
    let desk = &frame.desk;
    match frame.page {
        Some(Page::Help) => "keys".into(),
        Some(Page::Difference) => "the last edit: before and after".into(),
        Some(Page::Kept) => "a tape was kept".into(),
        None if frame.is_covered() => {
            format!("{} in {}", counted(desk.text.mistakes.len(), "mistake"), desk.text.name())
        }
        None => frame.front.title().into(),
    }
}

/// What is not saved yet is said behind the title, on every bench alike.
fn say_unsaved(frame: &Frame, title: &str, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let owners = frame.benches.unsaved(&frame.desk);
    let from = (title.width() + 4) as u16;
    if !owners.is_empty() && from < area.width && area.height > 0 {
        let text = format!(" not saved yet: changes of {} ", owners.join(" and "));
        let room = usize::from(area.width - from).saturating_sub(1);
        buffer.set_string(area.x + from, area.y, ellipsis(&text, room), theme.waiting());
    }
}

fn head(frame: &Frame, theme: Theme, area: Rect, buffer: &mut Buffer, hits: &mut Hits<Message>) {
    let desk = &frame.desk;
    let mut x = area.x + 1;
    let name = match desk.game.grid() {
        None => desk.text.name().to_owned(),
        Some(grid) => {
            let (map, maps) = (grid.map() + 1, grid.book().maps.len());
            format!("{} · {} {map}/{maps}", plain(&grid.book().title), plain(grid.map_title()))
        }
    };
    let room = usize::from(area.width / 2).saturating_sub(4);
    let name = ellipsis(&name, room);
    buffer.set_string(x, area.y, &name, theme.accent());
    x = (x + name.width() as u16 + 4).max(area.x + area.width * 2 / 5);
    for which in Which::ALL {
        let text = format!(" {} ", which.title());
        let style = if *which == frame.front { theme.chosen() } else { theme.faint() };
        let width = text.width() as u16;
        if x + width > area.right() {
            break;
        }
        buffer.set_string(x, area.y, text, style);
        hits.push((Rect::new(x, area.y, width, 1), Message::Frame(Ask::Bench(*which))));
        x += width + 1;
    }
    let (status, style) = status(desk, theme);
    let clock = desk.game.grid().map_or(0, |grid| grid.counter(CounterRead::Clock));
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

fn status(desk: &Desk, theme: Theme) -> (String, Style) {
    if !desk.text.mistakes.is_empty() {
        return (format!("✗ {}", counted(desk.text.mistakes.len(), "mistake")), theme.refused());
    }
    match desk.game.grid().and_then(magpie_core::grid::Grid::outcome) {
        Some(outcome) => {
            let style = if outcome == magpie_core::grid::Ended::Won { theme.accent() } else { theme.refused() };
            (format!("● {}", outcome.word()), style)
        }
        None if desk.game.has_time() && desk.time.real.runs => {
            (format!("▶ {}", desk.time.real.words()), theme.granted())
        }
        None if desk.game.has_time() => ("‖ clock stands, p lets it run".into(), theme.waiting()),
        None => ("● live".into(), theme.granted()),
    }
}

/// A sign for a key of the game.
pub fn key_sign(key: &str) -> String {
    match key {
        "left" => arrow(Heading::West).to_string(),
        "right" => arrow(Heading::East).to_string(),
        "up" => arrow(Heading::North).to_string(),
        "down" => arrow(Heading::South).to_string(),
        key => key.into(),
    }
}

/// The most useful keys, from the same tables that handle them; a word about the last key in their place.
fn keys(frame: &Frame, theme: Theme, area: Rect, buffer: &mut Buffer) {
    if let Some(note) = &frame.desk.note {
        buffer.set_string(area.x + 1, area.y, ellipsis(&plain(note), usize::from(area.width) - 2), theme.waiting());
        return;
    }
    let typing = frame.benches.typing(frame.front);
    let mut all: Vec<(String, &str)> = Vec::new();
    if frame.page == Some(Page::Kept) {
        all.extend([("Enter".into(), "play it again"), ("Esc".into(), "begin anew and forget it")]);
    } else if frame.page.is_none() && !typing.is_empty() {
        all.extend(typing.iter().map(|(key, label)| ((*key).to_owned(), *label)));
    } else {
        if frame.benches.plays(frame.front) {
            all.push(("arrows".into(), "play"));
        }
        let actions = frame.actions();
        let labelled = actions.iter().filter(|action| !action.label.is_empty());
        all.extend(labelled.map(|action| (key_words(&frame.desk, action, 0), action.label)));
    }
    let mut x = area.x + 1;
    for (key, label) in all {
        let width = (key.width() + label.width() + 4) as u16;
        if x + width > area.right() {
            break;
        }
        buffer.set_string(x, area.y, &key, theme.accent());
        buffer.set_string(x + key.width() as u16 + 1, area.y, label, theme.faint());
        x += width;
    }
}

/// A key in words; one that the game uses is reached with Alt.
pub fn key_words<M>(desk: &Desk, action: &Action<M>, number: usize) -> String {
    let Some(stroke) = action.keys.get(number) else {
        return String::new();
    };
    let taken = matches!(stroke.code, KeyCode::Char(character)
        if !stroke.control && desk.game.uses_key(&character.to_string()));
    if taken { format!("Alt-{}", stroke.words()) } else { stroke.words() }
}
