//! Page two: who meets what. Movers by row, what they enter by column, the verb in the cell.

use super::{Ask, editor};
use crate::cli::source::plain;
use crate::stage::action::Message;
use crate::stage::draft;
use crate::stage::pen::Pen;
use crate::stage::state::State;
use crate::stage::theme::Theme;
use magpie_core::rulebook::meetings::{Entered, Meet, Table, findings, meet, set_verb, verb_words, verbs_for, word_of};
use magpie_core::rulebook::{Code, KindId, LineIndex, PlainVerb, Rulebook, Verb};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Modifier;
use unicode_width::UnicodeWidthStr;

/// Where the cursor stands.
#[derive(Debug, Default)]
pub struct Cursor {
    row: usize,
    column: usize,
    /// The verb that is chosen from the list, while there is one.
    pub choosing: Option<usize>,
}

/// The pair under the cursor.
fn pair(state: &State) -> Option<(&Rulebook, KindId, Entered)> {
    let book = state.session.as_ref()?.grid().book();
    let table = Table::of(book);
    let cursor = &state.rules.table;
    let mover = *table.movers.get(cursor.row.min(table.movers.len().checked_sub(1)?))?;
    let entered = *table.entered.get(cursor.column.min(table.entered.len() - 1))?;
    Some((book, mover, entered))
}

/// The line of the clause that decides for the pair under the cursor.
pub fn line(state: &State) -> Option<u32> {
    let (book, mover, entered) = pair(state)?;
    let found = meet(book, mover, entered);
    let clause = found.clause.or_else(|| found.guarded.first().copied())?;
    Some(book.meetings[clause].at.line)
}

/// Moves the cursor, or the choice of a verb while there is one.
pub fn walk(state: &mut State, down: i32, right: i32) {
    let Some((book, mover, entered)) = pair(state) else { return };
    let table = Table::of(book);
    let verbs = verbs_for(book, mover, entered).len();
    let (rows, columns) = (table.movers.len(), table.entered.len());
    let cursor = &mut state.rules.table;
    if let Some(chosen) = &mut cursor.choosing {
        *chosen = (*chosen as i32 + down + right).rem_euclid(verbs.max(1) as i32) as usize;
        return;
    }
    let to = |at: usize, by: i32, count: usize| (at as i64 + i64::from(by)).clamp(0, count as i64 - 1) as usize;
    cursor.row = to(cursor.row.min(rows - 1), down, rows);
    cursor.column = to(cursor.column.min(columns - 1), right, columns);
}

/// Puts the cursor on a cell; a click on the cell under the cursor opens the choice.
pub fn go(state: &mut State, row: usize, column: usize) {
    let cursor = &mut state.rules.table;
    if (cursor.row, cursor.column) == (row, column) && cursor.choosing.is_none() {
        choose(state);
        return;
    }
    *cursor = Cursor { row, column, choosing: None };
}

/// Opens the list of verbs, or takes the one that is chosen.
pub fn choose(state: &mut State) {
    let Some((book, mover, entered)) = pair(state) else { return };
    let verbs = verbs_for(book, mover, entered);
    match state.rules.table.choosing {
        Some(chosen) => pick(state, chosen),
        None => {
            let now = verb_words(book, meet(book, mover, entered).verb);
            let at = verbs.iter().position(|verb| *verb == now).unwrap_or(0);
            state.rules.table.choosing = Some(at);
        }
    }
}

/// Takes a verb of the list: the rulebook's text is changed, and the tape played again on it.
pub fn pick(state: &mut State, verb: usize) {
    if editor::is_changed(state) {
        state.note = Some("the text has changes that are not saved: Ctrl-s writes them first".into());
        return;
    }
    let Some((book, mover, entered)) = pair(state) else { return };
    let Some(verb) = verbs_for(book, mover, entered).get(verb).copied() else { return };
    let new = set_verb(&state.source, book, mover, entered, verb);
    state.rules.table.choosing = None;
    if draft::take(state, new) {
        editor::follow(state);
        let told = state.note.take().unwrap_or_default();
        state.note = Some(format!("{}; z takes back, Ctrl-s writes", told.replace("reloaded: ", "")));
    }
}

/// What a cell of the table says in a sentence.
fn sentence(book: &Rulebook, mover: KindId, entered: Entered, found: &Meet) -> String {
    let (who, what) = (&book.kind(mover).name, word_of(book, entered));
    let means = match found.verb {
        Verb::Shove { up_to, otherwise } => {
            let most = up_to.map_or(String::new(), |most| format!(", at most {most} in all"));
            let otherwise = match otherwise {
                Some(verb) => format!("; where it cannot, {} decides", verb_words(book, Verb::Plain(verb))),
                None => "; where it cannot move, nothing does".into(),
            };
            format!("the {what} is asked to move on the same way{most}{otherwise}")
        }
        Verb::Plain(verb) => match verb {
            PlainVerb::Stop => format!("the {who} is refused"),
            PlainVerb::Pass => "both stand in the cell".into(),
            PlainVerb::Swap => "the two exchange cells".into(),
            PlainVerb::Take => format!("the {what} leaves the board, the {who} enters"),
            PlainVerb::Perish => format!("the {who} leaves the board"),
            PlainVerb::Clash => "both leave the board".into(),
            PlainVerb::Bounce => format!("the {who} is refused and turns round"),
            PlainVerb::Slide => format!("the {who} enters and asks on the same way"),
            PlainVerb::Ride => format!("the {who} enters and is carried by the {what}"),
            PlainVerb::Wrap => format!("the {who} comes in on the far side"),
            PlainVerb::Warp(kind) => format!("the {who} enters and goes on to the next {}", book.kind(kind).name),
        },
    };
    let why = match found.clause {
        Some(clause) => format!("line {}", book.meetings[clause].at.line),
        None => match entered {
            Entered::Kind(_) => "no clause: the default of their layers".into(),
            Entered::Edge | Entered::Void => "no clause: the default".into(),
        },
    };
    format!("{who} into {what}: {means} ({why}).")
}

/// Characters of a column, its gap included.
const WIDTH: u16 = 9;

/// Draws the page.
pub fn render(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) -> Vec<(Rect, Message)> {
    let mut hits = Vec::new();
    let Some((book, mover, entered)) = pair(state) else {
        Pen::new(buffer, area, theme, 0).line("nobody moves in this rulebook yet", theme.faint());
        return hits;
    };
    let table = Table::of(book);
    let cursor = &state.rules.table;
    let (row, column) = (cursor.row.min(table.movers.len() - 1), cursor.column.min(table.entered.len() - 1));
    let names =
        table.movers.iter().map(|kind| book.kind(*kind).name.width()).max().unwrap_or(4).clamp(4, 14) as u16 + 3;
    let across = usize::from((area.width.saturating_sub(names) / WIDTH).max(1));
    let first = column.saturating_sub(across / 2).min(table.entered.len().saturating_sub(across));
    let foot = 9.min(area.height / 2);
    let down = usize::from(((area.height.saturating_sub(foot + 3)) / 2).max(1));
    let top = row.saturating_sub(down / 2).min(table.movers.len().saturating_sub(down));
    let cut = |text: &str, width: u16| text.chars().take(usize::from(width)).collect::<String>();
    let more = |more: bool, sign: &'static str| if more { sign } else { " " };
    buffer.set_string(area.x, area.y, "mover ↓  enters →", theme.faint());
    for (place, at) in (first..table.entered.len()).take(across).enumerate() {
        let x = area.x + names + place as u16 * WIDTH;
        let style = if at == column { theme.accent() } else { theme.text() };
        buffer.set_string(x, area.y + 1, cut(word_of(book, table.entered[at]), WIDTH - 1), style);
    }
    let end = first + across;
    buffer.set_string(area.right().saturating_sub(2), area.y, more(end < table.entered.len(), "→"), theme.waiting());
    for (place, at) in (top..table.movers.len()).take(down).enumerate() {
        let y = area.y + 2 + place as u16 * 2;
        let style = if at == row { theme.accent() } else { theme.text() };
        buffer.set_string(area.x, y, cut(&book.kind(table.movers[at]).name, names - 1), style);
        for (column_place, to) in (first..table.entered.len()).take(across).enumerate() {
            let x = area.x + names + column_place as u16 * WIDTH;
            let found = meet(book, table.movers[at], table.entered[to]);
            let mut style = if found.clause.is_some() { theme.text() } else { theme.faint() };
            if (at, to) == (row, column) {
                style = theme.chosen();
            }
            let verb = verb_words(book, found.verb);
            let verb = verb.split(' ').next().unwrap_or_default();
            buffer.set_string(x, y, format!("{:<1$}", cut(verb, WIDTH - 1), usize::from(WIDTH) - 1), style);
            let line = found.clause.map_or(String::new(), |clause| book.meetings[clause].at.line.to_string());
            let marks = [(!found.guarded.is_empty(), " if"), (!found.shadowed.is_empty(), " ≠")];
            let marks: String = marks.iter().filter(|(wanted, _)| *wanted).map(|(_, mark)| *mark).collect();
            buffer.set_string(x, y + 1, cut(&format!("{line}{marks}"), WIDTH - 1), theme.faint());
            hits.push((Rect::new(x, y, WIDTH - 1, 2), Message::Rules(Ask::Cell(at, to))));
        }
    }
    let used = 3 + table.movers.len().min(down) as u16 * 2;
    let below = Rect { y: area.y + used, height: area.height.saturating_sub(used), ..area };
    if let Some(chosen) = cursor.choosing {
        hits.extend(choice(book, mover, entered, chosen, theme, below, buffer));
        return hits;
    }
    let mut pen = Pen::new(buffer, below, theme, 0);
    explain(book, mover, entered, theme, &mut pen);
    worth_a_look(state, book, theme, &mut pen);
    pen.finish();
    hits
}

/// What the checker and the table have found about the rules.
fn worth_a_look(state: &State, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    let lines = LineIndex::new(&state.source);
    let of_rules = |code: Code| matches!(code, Code::UnreachableClause | Code::FeedsItself | Code::NeverTogether);
    let warned = state.warnings.iter().filter(|found| of_rules(found.code));
    let warned = warned.map(|found| (lines.line(found.span.start) as u32, plain(&found.message)));
    let mut all: Vec<(u32, String)> =
        warned.chain(findings(book).into_iter().map(|found| (found.line, found.text))).collect();
    if all.is_empty() {
        return;
    }
    all.sort();
    pen.gap();
    pen.heading("worth a look");
    for (line, text) in all {
        pen.wrapped(&format!("  line {line}: "), &text, theme.waiting());
    }
}

/// What decides for the pair under the cursor.
fn explain(book: &Rulebook, mover: KindId, entered: Entered, theme: Theme, pen: &mut Pen) {
    let found = meet(book, mover, entered);
    pen.heading(&format!("{} into {}", book.kind(mover).name, word_of(book, entered)));
    for number in &found.guarded {
        let meeting = &book.meetings[*number];
        pen.wrapped(&format!("  line {} first: ", meeting.at.line), &plain(&meeting.words), theme.waiting());
    }
    pen.wrapped("  ", &sentence(book, mover, entered, &found), theme.text());
    for number in &found.shadowed {
        let meeting = &book.meetings[*number];
        pen.wrapped(
            &format!("  ≠ line {} is never looked at: ", meeting.at.line),
            &plain(&meeting.words),
            theme.faint(),
        );
    }
    pen.line("  pale: the default   if: a condition comes first   ≠: never looked at", theme.faint());
}

/// The verbs to choose from.
fn choice(
    book: &Rulebook,
    mover: KindId,
    entered: Entered,
    chosen: usize,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) -> Vec<(Rect, Message)> {
    let verbs = verbs_for(book, mover, entered);
    let mut pen = Pen::new(buffer, area, theme, 0);
    let (who, what) = (&book.kind(mover).name, word_of(book, entered));
    pen.heading(&format!("another verb for {who} into {what}"));
    let mut hits = Vec::new();
    let (mut x, mut y) = (area.x + 2, area.y + 2);
    for (number, verb) in verbs.iter().enumerate() {
        let text = format!(" {verb} ");
        let width = text.width() as u16;
        if x + width > area.right() {
            (x, y) = (area.x + 2, y + 1);
        }
        let style = if number == chosen { theme.chosen() } else { theme.text().add_modifier(Modifier::BOLD) };
        if y < area.bottom() {
            buffer.set_string(x, y, text, style);
            hits.push((Rect::new(x, y, width, 1), Message::Rules(Ask::Pick(number))));
        }
        x += width + 1;
    }
    let verb = verbs.get(chosen).copied().unwrap_or("stop");
    let line = format!("{who} into {what}: {verb}");
    if y + 2 < area.bottom() {
        buffer.set_string(area.x + 2, y + 2, line, theme.waiting());
    }
    if y + 3 < area.bottom() {
        buffer.set_string(area.x + 2, y + 3, "← → choose   Enter takes it   Esc does not", theme.faint());
    }
    hits
}
