//! Page two: who meets what. Movers by row, what they enter by column, the verb in the cell.

use super::{Ask, Bench, Rules};
use crate::desk::Desk;
use crate::desk::text::Edit;
use crate::ui::Hits;
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crate::words::plain;
use magpie_core::rulebook::meetings::{Entered, Meet, Table, findings, meet, set_verb, verb_words, verbs_for, word_of};
use magpie_core::rulebook::{Code, KindId, LineIndex, PlainVerb, Rulebook, Verb};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Modifier;
use std::rc::Rc;
use unicode_width::UnicodeWidthStr;

/// Where the cursor stands.
#[derive(Debug, Default)]
pub struct Cursor {
    row: usize,
    column: usize,
    /// The verb that is chosen from the list, while there is one.
    pub choosing: Option<usize>,
}

impl Cursor {
    /// The pair under the cursor.
    fn pair<'d>(&self, desk: &'d Desk) -> Option<(&'d Rulebook, KindId, Entered)> {
        let book = desk.game.book()?;
        let table = Table::of(book);
        let mover = *table.movers.get(self.row.min(table.movers.len().checked_sub(1)?))?;
        let entered = *table.entered.get(self.column.min(table.entered.len() - 1))?;
        Some((book, mover, entered))
    }

    /// The line of the clause that decides for the pair under the cursor.
    pub fn line(&self, desk: &Desk) -> Option<u32> {
        let (book, mover, entered) = self.pair(desk)?;
        let found = meet(book, mover, entered);
        let clause = found.clause.or_else(|| found.guarded.first().copied())?;
        Some(book.meeting(clause).at.line)
    }

    /// Moves the cursor, or the choice of a verb while there is one.
    pub fn walk(&mut self, desk: &Desk, down: i32, right: i32) {
        let Some((book, mover, entered)) = self.pair(desk) else { return };
        let table = Table::of(book);
        let verbs = verbs_for(book, mover, entered).len();
        let (rows, columns) = (table.movers.len(), table.entered.len());
        if let Some(chosen) = &mut self.choosing {
            *chosen = (*chosen as i32 + down + right).rem_euclid(verbs.max(1) as i32) as usize;
            return;
        }
        let to = |at: usize, by: i32, count: usize| (at as i64 + i64::from(by)).clamp(0, count as i64 - 1) as usize;
        self.row = to(self.row.min(rows - 1), down, rows);
        self.column = to(self.column.min(columns - 1), right, columns);
    }
}

impl Rules {
    /// Puts the cursor on a cell; a click on the cell under the cursor opens the choice.
    pub(super) fn go(&mut self, desk: &mut Desk, row: usize, column: usize) {
        let cursor = &mut self.table;
        if (cursor.row, cursor.column) == (row, column) && cursor.choosing.is_none() {
            self.choose(desk);
            return;
        }
        *cursor = Cursor { row, column, choosing: None };
    }

    /// Opens the list of verbs, or takes the one that is chosen.
    pub(super) fn choose(&mut self, desk: &mut Desk) {
        let Some((book, mover, entered)) = self.table.pair(desk) else { return };
        let verbs = verbs_for(book, mover, entered);
        match self.table.choosing {
            Some(chosen) => self.pick(desk, chosen),
            None => {
                let now = verb_words(book, meet(book, mover, entered).verb);
                let at = verbs.iter().position(|verb| *verb == now).unwrap_or(0);
                self.table.choosing = Some(at);
            }
        }
    }

    /// Takes a verb of the list: the rulebook's text is changed, and the tape played again on it.
    pub(super) fn pick(&mut self, desk: &mut Desk, verb: usize) {
        if self.editor.is_changed() {
            desk.say("the text has changes that are not saved: Ctrl-s writes them first");
            return;
        }
        let Some((book, mover, entered)) = self.table.pair(desk) else { return };
        let Some(verb) = verbs_for(book, mover, entered).get(verb).copied() else { return };
        self.table.choosing = None;
        let changed = desk.change(Self::TITLE, verb_edit(book, mover, entered, verb));
        if changed {
            self.editor.follow(desk);
            let told = desk.note.take().unwrap_or_default();
            desk.say(format!("{}; U takes back, Ctrl-s writes", told.replace("reloaded: ", "")));
        }
    }
}

/// The edit that lets a pair answer a verb, by the names of its kinds: on another text they may have other numbers.
fn verb_edit(book: &Rulebook, mover: KindId, entered: Entered, verb: &'static str) -> Edit {
    let name = |kind: KindId| book.kind(kind).name.clone();
    let mover = name(mover);
    let entered = match entered {
        Entered::Kind(kind) => Ok(name(kind)),
        border @ (Entered::Edge | Entered::Void) => Err(border),
    };
    Rc::new(move |text, source| {
        let book = text.read(source).reading.rulebook?;
        let entered = match &entered {
            Ok(name) => Entered::Kind(book.kind_of_name(name)?),
            Err(border) => *border,
        };
        set_verb(source, &book, book.kind_of_name(&mover)?, entered, verb)
    })
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
        Some(clause) => format!("line {}", book.meeting(clause).at.line),
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
pub fn render(cursor: &Cursor, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
    let mut hits = Vec::new();
    let Some((book, mover, entered)) = cursor.pair(desk) else {
        Pen::new(buffer, area, theme, 0).line("nobody moves in this rulebook yet", theme.faint());
        return hits;
    };
    let table = Table::of(book);
    let (row, column) = (cursor.row.min(table.movers.len() - 1), cursor.column.min(table.entered.len() - 1));
    let names =
        table.movers.iter().map(|kind| book.kind(*kind).name.width()).max().unwrap_or(4).clamp(4, 14) as u16 + 3;
    // Two lines of head and one row at the least.
    if area.height < 4 || area.width < names + WIDTH {
        Pen::new(buffer, area, theme, 0).line("no room here for the table", theme.faint());
        return hits;
    }
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
            let line = found.clause.map_or(String::new(), |clause| book.meeting(clause).at.line.to_string());
            let marks = [(!found.guarded.is_empty(), " if"), (!found.shadowed.is_empty(), " ≠")];
            let marks: String = marks.iter().filter(|(wanted, _)| *wanted).map(|(_, mark)| *mark).collect();
            buffer.set_string(x, y + 1, cut(&format!("{line}{marks}"), WIDTH - 1), theme.faint());
            hits.push((Rect::new(x, y, WIDTH - 1, 2), Ask::Cell(at, to)));
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
    worth_a_look(desk, book, theme, &mut pen);
    pen.finish();
    hits
}

/// What the checker and the table have found about the rules.
fn worth_a_look(desk: &Desk, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    let lines = LineIndex::new(desk.text.source());
    let of_rules = |code: Code| matches!(code, Code::UnreachableClause | Code::FeedsItself | Code::NeverTogether);
    let warned = desk.text.warnings.iter().filter(|found| of_rules(found.code));
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
        let meeting = book.meeting(*number);
        pen.wrapped(&format!("  line {} first: ", meeting.at.line), &plain(&meeting.words), theme.waiting());
    }
    pen.wrapped("  ", &sentence(book, mover, entered, &found), theme.text());
    for number in &found.shadowed {
        let meeting = book.meeting(*number);
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
) -> Hits<Ask> {
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
            hits.push((Rect::new(x, y, width, 1), Ask::Pick(number)));
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
