//! Page two: who meets what. Movers by row, what they enter by column, the verb in the cell.

use super::{Ask, Bench, Rules};
use crate::desk::Desk;
use crate::desk::text::Edit;
use crate::ui::Hits;
use crate::ui::pen::{Pen, ellipsis};
use crate::ui::theme::Theme;
use crate::words::plain;
use magpie_core::rulebook::meetings::{Entered, Meet, Table, findings, meet, set_verb, verb_words, verbs_for, word_of};
use magpie_core::rulebook::{Code, KindId, LineIndex, PlainVerb, Rulebook, Verb};
use ratatui::buffer::Buffer;
use ratatui::layout::{Constraint, Rect};
use ratatui::style::Modifier;
use ratatui::text::{Line, Text};
use ratatui::widgets::{self, Cell, Row, Widget};
use std::collections::VecDeque;
use std::ops::Range;
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

    /// Moves the cursor up or down.
    pub const fn scroll(&mut self, rows: i32) {
        self.row = self.row.saturating_add_signed(rows as isize);
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

/// The widest column; a verb that is longer ends in an ellipsis and stands whole in the sentence below.
const WIDEST: usize = 22;
/// The names of movers take at most so much.
const NAMES: usize = 20;

/// The part of the table that is seen.
struct Seen {
    rows: Range<usize>,
    columns: Range<usize>,
    /// Characters of each of these columns.
    widths: Vec<u16>,
    /// Characters of the movers' names.
    names: u16,
}

/// What one cell says: its verb, and below it the line of its clause with marks.
fn cell_words(book: &Rulebook, found: &Meet) -> [String; 2] {
    let line = found.clause.map_or(String::new(), |clause| format!("line {}", book.meeting(clause).at.line));
    let marks = [(!found.guarded.is_empty(), " if"), (!found.shadowed.is_empty(), " ≠")];
    let marks: String = marks.iter().filter(|(wanted, _)| *wanted).map(|(_, mark)| *mark).collect();
    [ellipsis(&verb_words(book, found.verb), WIDEST), format!("{line}{marks}").trim_start().to_owned()]
}

/// As many whole rows and columns as there is room for, those of the cursor among them.
fn seen(book: &Rulebook, table: &Table, (row, column): (usize, usize), room: (u16, usize)) -> Seen {
    let rows = table.movers.len();
    let top = row.saturating_sub(room.1 / 2).min(rows.saturating_sub(room.1));
    let rows = top..(top + room.1).min(rows);
    let name = |at: usize| book.kind(table.movers[at]).name.width();
    let names = rows.clone().map(name).max().unwrap_or(4).clamp(9, NAMES) as u16;
    let width = |at: usize| -> u16 {
        let words = rows.clone().flat_map(|row| cell_words(book, &meet(book, table.movers[row], table.entered[at])));
        let widest = words.map(|words| words.width()).max().unwrap_or(0);
        widest.max(word_of(book, table.entered[at]).width()).clamp(4, WIDEST) as u16
    };
    let avail = room.0.saturating_sub(names + GAP);
    let mut widths: VecDeque<u16> = VecDeque::from([width(column).min(avail)]);
    let (mut first, mut end, mut used) = (column, column + 1, widths[0]);
    while first > 0 && used + GAP + width(first - 1) <= avail {
        first -= 1;
        widths.push_front(width(first));
        used += GAP + widths[0];
    }
    while end < table.entered.len() && used + GAP + width(end) <= avail {
        widths.push_back(width(end));
        used += GAP + widths[widths.len() - 1];
        end += 1;
    }
    Seen { rows, columns: first..end, widths: widths.into(), names }
}

/// Blanks between two columns.
const GAP: u16 = 2;

/// Draws the page.
pub fn render(cursor: &Cursor, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
    let mut hits = Vec::new();
    let Some((book, mover, entered)) = cursor.pair(desk) else {
        Pen::new(buffer, area, theme, 0).wrapped("", "nobody moves in this rulebook yet", theme.faint());
        return hits;
    };
    let table = Table::of(book);
    let (row, column) = (cursor.row.min(table.movers.len() - 1), cursor.column.min(table.entered.len() - 1));
    // A line of head, one of columns, and one row at the least.
    if area.height < 5 || area.width < 30 {
        Pen::new(buffer, area, theme, 0).line("no room here for the table", theme.faint());
        return hits;
    }
    let foot = 9.min(area.height / 2);
    let down = usize::from(((area.height - foot).saturating_sub(3) / 2).max(1));
    let seen = seen(book, &table, (row, column), (area.width, down));
    head(&table, &seen, theme, Rect { height: 1, ..area }, buffer);
    let height = 1 + seen.rows.len() as u16 * 2;
    let grid = Rect { y: area.y + 1, height: height.min(area.height - 1), ..area };
    hits.extend(draw_table(book, &table, &seen, (row, column), theme, grid, buffer));
    let below = Rect { y: grid.bottom() + 1, height: area.bottom().saturating_sub(grid.bottom() + 1), ..area };
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

/// What the table is, and how much of it lies outside.
fn head(table: &Table, seen: &Seen, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let outside = |range: &Range<usize>, all: usize, [before, behind]: [&str; 2]| {
        let behind = if range.end < all { format!(" {} more {behind}", all - range.end) } else { String::new() };
        let before = if range.start > 0 { format!(" {} more {before}", range.start) } else { String::new() };
        before + &behind
    };
    let more =
        outside(&seen.columns, table.entered.len(), ["←", "→"]) + &outside(&seen.rows, table.movers.len(), ["↑", "↓"]);
    let mut pen = Pen::new(buffer, area, theme, 0);
    pen.with_right(&[("who moves ↓   what is entered →", theme.faint())], (more.trim(), theme.waiting()));
}

fn draw_table(
    book: &Rulebook,
    table: &Table,
    seen: &Seen,
    (row, column): (usize, usize),
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) -> Hits<Ask> {
    let mark = |chosen: bool| if chosen { theme.accent() } else { theme.text() };
    let name = |text: &str, most: u16| ellipsis(text, usize::from(most));
    let titles = seen
        .columns
        .clone()
        .zip(&seen.widths)
        .map(|(at, width)| Cell::from(name(word_of(book, table.entered[at]), *width)).style(mark(at == column)));
    let header = Row::new(std::iter::once(Cell::from("")).chain(titles));
    let rows = seen.rows.clone().map(|at| {
        let cells = seen.columns.clone().map(|to| {
            let found = meet(book, table.movers[at], table.entered[to]);
            let style = if found.clause.is_some() { theme.text() } else { theme.faint() };
            let style = if (at, to) == (row, column) { theme.chosen() } else { style };
            let [verb, line] = cell_words(book, &found);
            Cell::from(Text::from(vec![Line::styled(verb, style), Line::styled(line, theme.faint())]))
        });
        let mover = Cell::from(name(&book.kind(table.movers[at]).name, seen.names)).style(mark(at == row));
        Row::new(std::iter::once(mover).chain(cells)).height(2)
    });
    let widths = std::iter::once(seen.names).chain(seen.widths.iter().copied()).map(Constraint::Length);
    widgets::Table::new(rows, widths).header(header).column_spacing(GAP).style(theme.text()).render(area, buffer);
    let mut hits = Vec::new();
    let mut x = area.x + seen.names + GAP;
    for (to, width) in seen.columns.clone().zip(&seen.widths) {
        for (place, at) in seen.rows.clone().enumerate() {
            let cell = Rect::new(x, area.y + 1 + place as u16 * 2, *width, 2).intersection(area);
            hits.push((cell, Ask::Cell(at, to)));
        }
        x += width + GAP;
    }
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
    pen.wrapped("  ", "pale: the default   if: a condition comes first   ≠: never looked at", theme.faint());
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
    let rest = Rect { y: y + 2, height: area.bottom().saturating_sub(y + 2), ..area };
    let mut pen = Pen::new(buffer, rest, theme, 0);
    pen.wrapped("  ", &format!("{who} into {what}: {verb}"), theme.waiting());
    pen.wrapped("  ", "← → choose   Enter takes it   Esc does not", theme.faint());
    hits
}
