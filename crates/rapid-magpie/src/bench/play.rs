//! The Play bench: what would be answered, what was answered, and the counters.

use crate::cli::source::counted;
use crate::stage::action::{Action, Message, char};
use crate::stage::board_view::arrow;
use crate::stage::pen::Pen;
use crate::stage::state::State;
use crate::stage::theme::Theme;
use magpie_core::board::CellId;
use magpie_core::grid::{Answer, Check, CheckKind, Ended, Preview, Request};
use magpie_core::rulebook::{CounterRead, Rulebook};
use magpie_core::space::{Cell, Extent};
use magpie_core::tape::Session;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;

/// The bench's own keys; the arrows are the game's.
pub fn actions() -> Vec<Action> {
    vec![
        Action::new(
            &[char('c')],
            "reach",
            "cells the controlled piece can get into now, nothing shoved",
            Message::Reach,
        ),
        Action::new(&[char('v')], "", "draw steps between the cells, or at once", Message::Smooth),
        Action::new(&[char('p')], "", "let the clock of a game with timers run, or stand", Message::Pause),
        Action::new(&[char('j')], "", "the clock on to the next timer", Message::ClockStep),
        Action::new(
            &[char('+'), char('=')],
            "",
            "the clock, and floods on the screen, twice as fast",
            Message::Speed(1),
        ),
        Action::new(&[char('-')], "", "half as fast", Message::Speed(-1)),
        Action::new(&[char('k')], "count", "count the pieces of the next kind on the rims", Message::Count),
    ]
}

/// Draws the bench.
pub fn render(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) -> Vec<(Rect, Message)> {
    let Some(session) = &state.session else {
        return Vec::new();
    };
    let low = area.height < LOW;
    let foot = foot_height(state, session).min(if low { 2.min(area.height) } else { area.height / 2 });
    let top = Rect { height: area.height - foot, ..area };
    let bottom = Rect { y: area.y + top.height, height: foot, ..area };
    let mut pen = Pen::new(buffer, top, theme, state.scroll);
    if low {
        short_compass(state, theme, &mut pen);
    } else {
        compass(state, session, theme, &mut pen);
        pen.gap();
    }
    ledger(session, state.controlled().is_none() && state.is_touched(), theme, &mut pen);
    pen.finish();
    let mut pen = Pen::new(buffer, bottom, theme, 0);
    numbers(session, theme, &mut pen);
    cell_under_cursor(state, session, theme, &mut pen);
    reach(state, theme, &mut pen);
    Vec::new()
}

fn foot_height(state: &State, session: &Session) -> u16 {
    let book = session.grid().book();
    3 + book.invariants.len().min(4) as u16
        + if state.cursor.is_some() { 3 } else { 0 }
        + if state.reach.is_some() { 5 } else { 0 }
        + u16::from(session.grid().outcome().is_some())
}

/// Below this height the answers of all headings stand in one line, so that the ledger has the room.
const LOW: u16 = 20;

/// What each heading would answer, in one line.
fn short_compass(state: &State, theme: Theme, pen: &mut Pen) {
    let mut parts: Vec<(String, Style)> = vec![("next ".into(), theme.faint())];
    for preview in &state.previews {
        let (mark, style) = if preview.granted { ("✓ ", theme.granted()) } else { ("✗ ", theme.refused()) };
        parts.push((format!(" {}", arrow(preview.heading)), theme.text()));
        parts.push((mark.into(), style));
    }
    let parts: Vec<(&str, Style)> = parts.iter().map(|(text, style)| (text.as_str(), *style)).collect();
    pen.parts(&parts);
}

/// What each heading would answer, before a key is pressed.
fn compass(state: &State, session: &Session, theme: Theme, pen: &mut Pen) {
    let grid = session.grid();
    let book = grid.book();
    let Some(piece) = state.controlled() else {
        if state.is_touched() {
            pen.heading("played with the finger");
            pen.line("  click to tap, press and release elsewhere to drag", theme.faint());
        } else {
            pen.heading("nobody is controlled");
            pen.line("  add `control NAME with arrows` to the rulebook", theme.faint());
        }
        return;
    };
    let board = grid.board();
    let name = &book.kind(board.kind_of(piece)).name;
    let at = board.cell_of(piece).map(|cell| board.cell(cell));
    let at = at.map_or(String::new(), |cell| format!(" at {},{}", cell.column, cell.row));
    pen.heading(&format!("what {name}{at} would be answered"));
    for preview in &state.previews {
        let (mark, style) = if preview.granted { ("✓", theme.granted()) } else { ("✗", theme.refused()) };
        let heading = format!("  {} {:<11}", arrow(preview.heading), preview.heading.word());
        pen.parts(&[
            (&heading, theme.text()),
            (mark, style),
            (" ", theme.text()),
            (&preview_words(book, preview), if preview.granted { theme.text() } else { theme.faint() }),
        ]);
    }
}

fn preview_words(book: &Rulebook, preview: &Preview) -> String {
    if preview.granted {
        let to = preview.to.map_or("gone".into(), |cell| format!("to {},{}", cell.column, cell.row));
        return match preview.shoved {
            0 => to,
            count => format!("{to}, shoves {count}"),
        };
    }
    let Some(reason) = preview.refusal else {
        return String::new();
    };
    let asker = &book.kind(reason.kinds.0).name;
    let line = reason.clause.map_or(String::new(), |clause| format!(", line {}", book.meetings[clause].at.line));
    match reason.kind {
        CheckKind::Meets | CheckKind::Room | CheckKind::Corner => {
            let met = reason.kinds.1.map_or("no cell", |kind| &book.kind(kind).name);
            format!("{asker} meets {met} at {},{}{line}", reason.to.column, reason.to.row)
        }
        kind => format!("{asker} meets {}{line}", kind.word()),
    }
}

/// The answer of the last input, newest check last, the decisive one set off.
fn ledger(session: &Session, touched: bool, theme: Theme, pen: &mut Pen) {
    let grid = session.grid();
    let book = grid.book();
    let extent = grid.board().extent();
    let Some(entry) = session.played().last() else {
        pen.heading("the ledger");
        let how = if touched { "tap the board" } else { "press an arrow key" };
        pen.line(&format!("  nothing has been asked yet: {how}"), theme.faint());
        return;
    };
    if entry.answers.is_empty() {
        pen.heading(&format!("{}: no turn", entry.input));
    }
    for answer in &entry.answers {
        let turn = answer.turn.map_or("taken back".into(), |turn| format!("turn {turn}"));
        let by_itself = answer.input == "glide" || answer.input.starts_with("each ");
        let input = if by_itself { format!("{} ({})", answer.input, entry.input) } else { entry.input.to_string() };
        pen.heading(&format!("{turn}: {input}"));
        if answer.input == "glide" && answer.requests.is_empty() {
            pen.line("  what glides has come into other cells", theme.faint());
        } else if answer.requests.is_empty() && answer.actions.is_empty() && answer.turn.is_some() {
            pen.line("  nobody asked for a step", theme.faint());
        }
        for request in &answer.requests {
            self::request(request, book, extent, theme, pen);
        }
        rest_of_answer(answer, book, theme, pen);
    }
}

fn request(request: &Request, book: &Rulebook, extent: Extent, theme: Theme, pen: &mut Pen) {
    let name = &book.kind(request.kind).name;
    let heading = request.heading.map_or("a leap".into(), |heading| format!("{} {}", arrow(heading), heading.word()));
    let (verdict, style) = if request.granted { ("GRANTED", theme.granted()) } else { ("REFUSED", theme.refused()) };
    let why = request.reason.and_then(|reason| request.checks.get(reason));
    let Cell { column, row } = request.from;
    let asked = format!("   {name} at {column},{row} asks {heading}");
    pen.parts(&[(verdict, style), (&asked, theme.text())]);
    for (number, check) in request.checks.iter().enumerate() {
        self::check(number + 1, check, why == Some(check), book, extent, theme, pen);
    }
    let moved: Vec<String> = request
        .shoved
        .iter()
        .map(|shoved| {
            let name = &book.kind(shoved.kind).name;
            format!("{name} {},{} → {},{}", shoved.from.column, shoved.from.row, shoved.to.column, shoved.to.row)
        })
        .collect();
    let summary = match (request.granted, request.to) {
        (false, _) => "nothing moved".into(),
        (true, None) => format!("{name} has left the board"),
        (true, Some(to)) => format!("{name} {column},{row} → {},{}", to.column, to.row),
    };
    let all = if request.granted && !moved.is_empty() { format!("{summary}, {}", moved.join(", ")) } else { summary };
    pen.wrapped("  ", &all, theme.faint());
}

fn check(number: usize, check: &Check, decides: bool, book: &Rulebook, extent: Extent, theme: Theme, pen: &mut Pen) {
    let (mark, style) = if check.holds { ("✓", theme.granted()) } else { ("✗", theme.refused()) };
    let text = if decides { theme.refused() } else { theme.text() };
    let line = check.line(book).map_or(String::new(), |line| format!("line {line}"));
    let given_up = if check.abandoned { "  given up for `else`" } else { "" };
    let words = check.text(book, extent);
    let parts = [
        (&*format!("{number:>3} "), theme.faint()),
        (mark, style),
        (&*format!(" {:<7} ", check.kind.word()), theme.faint()),
        (&*words, text),
        (given_up, theme.faint()),
    ];
    pen.with_right(&parts, (&line, if decides { theme.waiting() } else { theme.faint() }));
    if decides && let Some(clause) = check.clause {
        pen.wrapped("              ", &book.meetings[clause].words, theme.waiting());
    } else if decides && check.kind == CheckKind::Meets {
        pen.line("              no rule is about this: one layer holds one piece", theme.faint());
    }
}

fn rest_of_answer(answer: &Answer, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    for action in &answer.actions {
        let (mark, style) = if action.granted { ("✓", theme.granted()) } else { ("✗", theme.refused()) };
        let why = action.reason.as_ref().map_or(String::new(), |why| format!(": {why}"));
        let size = action.rings.as_ref().map_or(String::new(), |rings| {
            format!("{} in {}", counted(rings.cells.len(), "cell"), counted(rings.ends.len(), "ring"))
        });
        let text = format!(" {}{why}  {size}", action.action);
        pen.parts(&[("  ", theme.text()), (mark, style), (text.trim_end(), theme.text())]);
    }
    for settled in &answer.settled {
        let line = format!("line {}", book.whens[settled.rule].at.line);
        let text = format!("  pass {}  {}", settled.pass + 1, crate::told::settled(settled, book));
        pen.with_right(&[(&text, theme.text())], (&line, theme.faint()));
    }
    for signal in &answer.signals {
        pen.parts(&[("  signal ", theme.faint()), (&crate::cli::source::plain(signal), theme.waiting())]);
    }
    for note in &answer.notes {
        pen.line(&format!("  {note}"), theme.faint());
    }
    if !answer.feeding.is_empty() {
        pen.line("NEVER SETTLES   the turn was taken back; these keep firing:", theme.refused());
        for rule in &answer.feeding {
            let at = &book.whens[*rule].at;
            pen.line(&format!("  line {}: {}", at.line, at.text), theme.text());
        }
    }
}

/// Counters, invariants and the outcome.
fn numbers(session: &Session, theme: Theme, pen: &mut Pen) {
    let grid = session.grid();
    let book = grid.book();
    pen.heading("counters");
    let mut text = format!("  moves {}   turns {}", grid.counter(CounterRead::Moves), grid.counter(CounterRead::Turns));
    for (name, value) in grid.counters() {
        text.extend(["   ", name, " ", &value.to_string()]);
    }
    pen.line(&text, theme.text());
    for invariant in book.invariants.iter().take(4) {
        let holds = grid.holds(&invariant.cond) == invariant.always;
        let (mark, style) = if holds { ("✓", theme.granted()) } else { ("✗", theme.refused()) };
        pen.parts(&[("  ", theme.text()), (mark, style), (" ", theme.text()), (&invariant.at.text, theme.faint())]);
    }
    match grid.outcome() {
        Some(Ended::Won) => {
            let more = if grid.has_next_map() { "n goes on to the next map" } else { "this was the last map" };
            pen.parts(&[("  WON", theme.accent()), (&format!("   {more}"), theme.text())]);
        }
        Some(Ended::Lost) => {
            pen.parts(&[("  LOST", theme.refused()), ("   u takes back, r begins again", theme.text())])
        }
        Some(Ended::NeverSettles) => pen.line("  never settles", theme.refused()),
        None => {}
    }
}

/// What is in the cell that was clicked.
fn cell_under_cursor(state: &State, session: &Session, theme: Theme, pen: &mut Pen) {
    let Some(cell) = state.cursor else { return };
    let grid = session.grid();
    let (book, board) = (grid.book(), grid.board());
    let index = book.geometry.index(board.extent(), cell).map_or(String::new(), |index| format!(", index {index}"));
    pen.heading(&format!("cell {},{}{index}", cell.column, cell.row));
    let Some(id) = board.id(cell) else { return };
    if board.is_void(id) {
        pen.line("  void: no cell of the map", theme.faint());
        return;
    }
    pen.line(&format!("  {}", contents(book, session, id)), theme.text());
}

fn contents(book: &Rulebook, session: &Session, id: CellId) -> String {
    let board = session.grid().board();
    let kinds: Vec<String> = board
        .kinds_at(id)
        .map(|kind| {
            let found = book.kind(kind);
            let heading = board.known_piece_of(id, kind).and_then(|piece| board.heading_of(piece));
            let facing = heading.map_or(String::new(), |heading| format!(" facing {}", heading.word()));
            format!("{}{facing} ({})", found.name, book.layers[usize::from(found.layer)])
        })
        .collect();
    if kinds.is_empty() { "empty".into() } else { kinds.join(", ") }
}

fn reach(state: &State, theme: Theme, pen: &mut Pen) {
    let Some(reach) = &state.reach else { return };
    pen.heading("reach");
    let count = |flags: &[bool]| flags.iter().filter(|flag| **flag).count();
    pen.line(&format!("  {} cells can be entered now, nothing shoved", count(&reach.reached)), theme.accent());
    let lost = count(&reach.lost);
    let style = if lost > 0 { theme.waiting() } else { theme.faint() };
    pen.line(&format!("  {lost} cells marked × stand open and cannot be reached"), style);
    if reach.gaps > 0 {
        pen.line(&format!("  {} of them touch the way at a corner only", reach.gaps), theme.waiting());
    }
}
