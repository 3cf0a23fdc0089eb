//! The Play bench: what would be answered, what was answered, and the counters.

#[cfg(test)]
mod tests;

use super::{Bench, Effect, News};
use crate::desk::Desk;
use crate::desk::board::{Finger, arrow};
use crate::desk::marks::Marks;
use crate::ui::Hits;
use crate::ui::action::{Action, char};
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crate::words::counted;
use crate::words::turn::{self as told, Detail, Line, Sort};
use magpie_core::grid::{Answer, CheckKind, Ended, Fired, Preview};
use magpie_core::input::Input;
use magpie_core::proof::ToWin;
use magpie_core::rulebook::{CounterRead, Rulebook};
use magpie_core::space::Extent;
use magpie_core::tape::Session;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;

/// What the keys of this bench ask for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ask {
    /// Cells that can be reached now.
    Reach,
    /// Steps are drawn between cells, or at once.
    Smooth,
    /// The game's clock goes on, or stands.
    Pause,
    /// The clock goes on to the next timer.
    ClockStep,
    /// The clock goes faster or slower.
    Speed(i32),
    /// The rims count the pieces of the next kind.
    Count,
    /// The next controlled kind.
    Follow,
    /// How a shortest way to a win goes on.
    Hint,
}

/// The bench: only how far its ledger is scrolled is its own.
#[derive(Debug, Default)]
pub struct Play {
    scroll: usize,
}

impl Bench for Play {
    type Ask = Ask;
    const TITLE: &'static str = "Play";

    fn actions(&self) -> Vec<Action<Ask>> {
        vec![
            Action::new(
                &[char('c')],
                "reach",
                "cells the controlled piece can get into now, nothing shoved",
                Ask::Reach,
            ),
            Action::new(&[char('v')], "", "draw steps between the cells, or at once", Ask::Smooth),
            Action::new(&[char('p')], "", "let the clock of a game with timers run, or stand", Ask::Pause),
            Action::new(&[char('j')], "", "the clock on to the next timer", Ask::ClockStep),
            Action::new(
                &[char('+'), char('=')],
                "",
                "the clock, and floods on the screen, twice as fast",
                Ask::Speed(1),
            ),
            Action::new(&[char('-')], "", "half as fast", Ask::Speed(-1)),
            Action::new(&[char('k')], "count", "count the pieces of the next kind on the rims", Ask::Count),
            Action::new(&[char('h')], "", "how a shortest way to a win goes on, once Proof has searched", Ask::Hint),
            Action::new(&[char('a')], "", "the answers of the next controlled kind", Ask::Follow),
        ]
    }

    fn ask(&mut self, desk: &mut Desk, ask: Ask) -> Effect<Ask> {
        match ask {
            Ask::Reach => desk.toggle_reach(),
            Ask::Smooth => desk.toggle_smooth(),
            Ask::Pause => desk.pause(),
            Ask::ClockStep => desk.clock_step(),
            Ask::Speed(by) => desk.change_speed(by),
            Ask::Count => desk.count_next(),
            Ask::Follow => desk.follow_next(),
            Ask::Hint => desk.hint(),
        }
        Effect::Nothing
    }

    fn render(&self, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
        let Some(session) = &desk.game.session else {
            return Vec::new();
        };
        let low = area.height < LOW;
        let foot = foot_height(desk, session).min(if low { 2.min(area.height) } else { area.height / 2 });
        let top = Rect { height: area.height - foot, ..area };
        let bottom = Rect { y: area.y + top.height, height: foot, ..area };
        let mut pen = Pen::new(buffer, top, theme, self.scroll);
        if low {
            short_compass(desk, theme, &mut pen);
        } else {
            compass(desk, session, theme, &mut pen);
            towards_a_win(desk, theme, &mut pen);
            pen.gap();
        }
        ledger(session, desk.game.controlled().is_none() && desk.game.is_touched(), theme, &mut pen);
        pen.finish();
        let mut pen = Pen::new(buffer, bottom, theme, 0);
        numbers(session, theme, &mut pen);
        reach(desk, theme, &mut pen);
        Vec::new()
    }

    fn news(&mut self, _desk: &mut Desk, news: News) -> Effect<Ask> {
        match news {
            News::Text | News::Game | News::Entered => self.scroll = 0,
            News::Left => {}
        }
        Effect::Nothing
    }

    /// Where there are touches the mouse is the finger: on the cell where it went down a tap, elsewhere a drag.
    fn finger(&mut self, desk: &mut Desk, finger: Finger) {
        if !desk.game.is_touched() {
            desk.point_at(finger);
            return;
        }
        match finger {
            Finger::Down { place, .. } => desk.picture.finger = place,
            Finger::Moved { inside } => {
                if let (Some(_), Some((cell, _))) = (desk.picture.finger, inside) {
                    desk.picture.finger_at = Some(cell);
                }
            }
            Finger::Up { place } => {
                desk.picture.finger_at = None;
                match (desk.picture.finger.take(), place) {
                    (Some(from), Some(to)) if from == to => {
                        desk.picture.cursor = Some(to);
                        desk.play(&Input::Tap(to));
                    }
                    (Some(from), Some(to)) => desk.play(&Input::Drag(from, to)),
                    _ => {}
                }
            }
        }
    }

    fn marks(&self, desk: &Desk) -> Marks {
        let mut marks = desk.marks();
        marks.ghosts.extend(desk.on_their_way());
        marks
    }

    fn scroll(&mut self, lines: i32) {
        self.scroll = self.scroll.saturating_add_signed(lines as isize);
    }

    fn plays(&self) -> bool {
        true
    }
}

fn foot_height(desk: &Desk, session: &Session) -> u16 {
    let book = session.grid().book();
    3 + (book.invariants.len().min(4) + book.timers.len().min(4)) as u16
        + if desk.game.reach.is_some() { 5 } else { 0 }
        + u16::from(session.grid().outcome().is_some())
}

/// Below this height the answers of all headings stand in one line, so that the ledger has the room.
const LOW: u16 = 20;

/// Why no heading is answered.
fn nobody(desk: &Desk, theme: Theme, pen: &mut Pen) {
    if desk.game.is_touched() {
        pen.heading("played with the finger");
        pen.line("  click to tap, press and release elsewhere to drag", theme.faint());
    } else {
        pen.heading("nobody is controlled");
        pen.line("  add `control NAME with arrows` to the rulebook", theme.faint());
    }
}

/// What each heading would answer, in one line.
fn short_compass(desk: &Desk, theme: Theme, pen: &mut Pen) {
    if desk.game.controlled().is_none() {
        nobody(desk, theme, pen);
        return;
    }
    let mut parts: Vec<(String, Style)> = vec![("next ".into(), theme.faint())];
    for preview in &desk.game.previews {
        let (mark, style) = if preview.granted { ("✓ ", theme.granted()) } else { ("✗ ", theme.refused()) };
        parts.push((format!(" {}", arrow(preview.heading)), theme.text()));
        parts.push((mark.into(), style));
    }
    pen.owned(&parts);
}

/// What each heading would answer, before a key is pressed.
fn compass(desk: &Desk, session: &Session, theme: Theme, pen: &mut Pen) {
    let grid = session.grid();
    let book = grid.book();
    let Some(piece) = desk.game.controlled() else {
        nobody(desk, theme, pen);
        return;
    };
    let board = grid.board();
    let name = &book.kind(board.kind_of(piece)).name;
    let at = board.cell_of(piece).map(|cell| board.cell(cell));
    let at = at.map_or(String::new(), |cell| format!(" at {},{}", cell.column, cell.row));
    pen.heading(&format!("what {name}{at} would be answered"));
    if desk.game.controlled_kinds() > 1 {
        pen.line(
            &format!("  one of {} controlled kinds: a shows the next", desk.game.controlled_kinds()),
            theme.faint(),
        );
    }
    for preview in &desk.game.previews {
        let (mark, style) = if preview.granted { ("✓", theme.granted()) } else { ("✗", theme.refused()) };
        let heading = format!("  {} {:<11}", arrow(preview.heading), preview.heading.word());
        let words = preview_words(book, preview);
        let words = (words.as_str(), if preview.granted { theme.text() } else { theme.faint() });
        pen.hanging(&[(&heading, theme.text()), (mark, style), (" ", theme.text()), words], 17);
    }
}

/// Which inputs still lead to a win, and in how many at best, once that is proved.
fn towards_a_win(desk: &Desk, theme: Theme, pen: &mut Pen) {
    let Some(proven) = &desk.proven else { return };
    match proven.to_win {
        None | Some(ToWin::In(0)) => return,
        Some(ToWin::Never) => {
            pen.wrapped("  ", "no win can be reached from here any more: u takes back", theme.refused());
            return;
        }
        Some(ToWin::In(left)) => {
            pen.gap();
            pen.heading(&format!("{} to a win at best", counted(left as usize, "input")));
        }
    }
    let mut parts: Vec<(String, Style)> = vec![("  ".into(), theme.text())];
    for found in &proven.moves {
        let (word, style) = match found.to_win {
            ToWin::In(left) if proven.to_win == Some(ToWin::In(left + 1)) => {
                (format!("✓ {left} more"), theme.granted())
            }
            ToWin::In(left) => (format!("{left} more"), theme.text()),
            ToWin::Never => ("✗ spoilt".into(), theme.refused()),
        };
        parts.push((format!("{} ", found.input), theme.faint()));
        parts.push((format!("{word}   "), style));
    }
    pen.owned(&parts);
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
    let line = reason.clause.map_or(String::new(), |clause| format!(", line {}", book.meeting(clause).at.line));
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
        if !session.opening().is_empty() {
            pen.heading("entering the map");
            lines(session.opening(), book, extent, theme, pen);
        }
        return;
    };
    for (number, answer) in entry.answers.iter().enumerate() {
        if number + 1 == entry.answers.len() && entry.untold() > 0 {
            pen.line(&format!("  {} turns between these are not kept", entry.untold()), theme.faint());
        }
        let by_itself = answer.input == "glide" || answer.input.starts_with("each ");
        let input = if by_itself { format!("{} ({})", answer.input, entry.input) } else { entry.input.to_string() };
        pen.heading(&told::title(answer, &input));
        if answer.input == "glide" && answer.requests.is_empty() {
            pen.line("  what glides has come into other cells", theme.faint());
        } else if answer.requests.is_empty() && answer.actions.is_empty() && answer.turn.is_some() {
            pen.wrapped("  ", &nobody_asked(&entry.input, answer, book), theme.faint());
        }
        lines(answer, book, extent, theme, pen);
    }
    if let Some(entered) = &entry.entered {
        pen.heading(&format!("{}: map {} begins, no turn", entry.input, grid.map() + 1));
        lines(entered, book, extent, theme, pen);
    } else if entry.answers.is_empty() {
        pen.heading(&format!("{}: no turn", entry.input));
    }
}

/// Why a turn holds no request: nothing was meant by the input, or what was meant asks for no step.
fn nobody_asked(input: &Input, answer: &Answer, book: &Rulebook) -> String {
    let acted = answer.fired.iter().find(|rule| matches!(rule, Fired::Input(_))).map(|rule| rule.at(book).line);
    if let Some(line) = acted {
        return format!("line {line} acted, and nobody was asked for a step");
    }
    let what = match input {
        Input::Key(_) => "key",
        Input::Tap(_) => "tap",
        Input::Drag(..) => "drag",
        Input::Wait(_) => return "the timer fired, and no rule of it asked for a step".into(),
        Input::Undo | Input::Restart | Input::Next => "input",
    };
    format!("no rule answers this {what}")
}

/// What a turn did, or what entering a map did, in the order in which it happened; the decisive check set off.
fn lines(answer: &Answer, book: &Rulebook, extent: Extent, theme: Theme, pen: &mut Pen) {
    let mark = |good: bool| if good { ("✓", theme.granted()) } else { ("✗", theme.refused()) };
    for Line { sort, text, rule_at } in told::report(answer, book, extent, Detail::Checks) {
        let at = rule_at.map_or(String::new(), |line| format!("line {line}"));
        match sort {
            Sort::Request { granted } => {
                let (verdict, style) =
                    if granted { ("GRANTED", theme.granted()) } else { ("REFUSED", theme.refused()) };
                pen.parts(&[(verdict, style), ("   ", theme.text()), (&text, theme.text())]);
            }
            Sort::Check { number, holds, decides } => {
                let (mark, style) = holds.map_or(("·", theme.faint()), mark);
                let (word, rest) = text.split_at(text.len().min(8));
                let words = match (decides, holds) {
                    (true, _) => theme.refused(),
                    (false, None) => theme.faint(),
                    (false, Some(_)) => theme.text(),
                };
                let parts = [
                    (&*format!("{number:>3} "), theme.faint()),
                    (mark, style),
                    (&*format!(" {word}"), theme.faint()),
                    (rest, words),
                ];
                pen.with_right(&parts, (&at, if decides { theme.waiting() } else { theme.faint() }));
            }
            Sort::Decided { by_rule } => {
                pen.wrapped("              ", &text, if by_rule { theme.waiting() } else { theme.faint() });
            }
            Sort::Moved => pen.wrapped("  ", &text, theme.faint()),
            Sort::Deed { is_refused } => {
                let style = if is_refused { theme.refused() } else { theme.text() };
                pen.wrapped("    ", &text, style);
            }
            Sort::Action { granted } => {
                let (mark, style) = mark(granted);
                pen.parts(&[("  ", theme.text()), (mark, style), (" ", theme.text()), (&text, theme.text())]);
            }
            Sort::Settled => pen.with_right(&[("  ", theme.text()), (&text, theme.text())], (&at, theme.faint())),
            Sort::Signal => pen.parts(&[("  signal ", theme.faint()), (&text, theme.waiting())]),
            Sort::Rule | Sort::Note => {
                pen.with_right(&[("  ", theme.text()), (&text, theme.faint())], (&at, theme.faint()))
            }
            Sort::NeverSettles => pen.parts(&[("NEVER SETTLES   ", theme.refused()), (&text, theme.refused())]),
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
    for (name, period, left) in grid.timers().take(4) {
        let next = format!("every {period} ms, next in {left} ms");
        pen.parts(&[("  ", theme.text()), (name, theme.text()), ("  ", theme.text()), (&next, theme.faint())]);
    }
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

fn reach(desk: &Desk, theme: Theme, pen: &mut Pen) {
    let Some(reach) = &desk.game.reach else { return };
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
