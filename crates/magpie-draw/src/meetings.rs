//! Who meets what, as a table on paper.

use crate::DrawError;
use crate::limits::{MOST_LOOKS, MOST_MEETINGS};
use crate::palette::{ACCENT, FAINT, PAPER, RULE, TEXT, mix, rgb};
use crate::sheet::{Anchor, Drawing, Sheet, Type};
use magpie_core::rulebook::Rulebook;
use magpie_core::rulebook::meetings::{Entered, Table, meet, verb_words, word_of};

const MARGIN: f64 = 28.0;
const HEAD: f64 = 56.0;
const ROW: f64 = 34.0;
const FOOT: f64 = 40.0;

/// The width of a text set in a size, near enough.
fn width(text: &str, size: f64) -> f64 {
    text.chars().count() as f64 * size * 0.64
}

/// The table of a rulebook's meetings: a row a mover, a column for what it enters, in each cell the verb and the line of
/// its clause; defaults pale, conditions and clauses that never decide marked.
///
/// # Errors
/// [`DrawError::TooMany`] where the table has more than [`MOST_MEETINGS`] meetings, or too many for so many clauses.
pub fn meetings(book: &Rulebook) -> Result<Drawing, DrawError> {
    let table = Table::of(book);
    let size = table.movers.len() * table.entered.len();
    if size > MOST_MEETINGS || size.saturating_mul(book.meetings.len()) > MOST_LOOKS {
        return Err(DrawError::TooMany(table.movers.len(), table.entered.len()));
    }
    let title = format!("{} · who meets what", book.title);
    let names = table.movers.iter().map(|kind| width(&book.kind(*kind).name, 12.0)).fold(70.0, f64::max) + 34.0;
    let columns: Vec<f64> = table
        .entered
        .iter()
        .map(|entered| {
            let verbs =
                table.movers.iter().map(|mover| width(&verb_words(book, meet(book, *mover, *entered).verb), 11.0));
            verbs.fold(width(word_of(book, *entered), 11.0) + 18.0, f64::max).max(52.0) + 14.0
        })
        .collect();
    let across = names + columns.iter().sum::<f64>();
    let height = MARGIN * 2.0 + HEAD + 26.0 + table.movers.len() as f64 * ROW + FOOT;
    let mut sheet = Sheet::new(&title, (MARGIN * 2.0 + across).max(420.0), height);
    sheet.text((MARGIN, MARGIN + 14.0), Anchor::Start, Type::new(17.0, TEXT).bold(), &title);
    let hint = "a row asks to enter, a column is already there; under each verb the line of its clause";
    sheet.text((MARGIN, MARGIN + 33.0), Anchor::Start, Type::new(11.0, FAINT), hint);
    let top = MARGIN + HEAD;
    let mut x = MARGIN + names;
    for (entered, wide) in table.entered.iter().zip(&columns) {
        if let Entered::Kind(kind) = entered {
            sheet.rect((x, top + 6.0, 10.0, 10.0), rgb(&book.kind(*kind).colour), 2.0);
        }
        let at = if matches!(entered, Entered::Kind(_)) { x + 15.0 } else { x };
        sheet.text((at, top + 15.0), Anchor::Start, Type::new(11.0, ACCENT).bold(), word_of(book, *entered));
        x += wide;
    }
    for (row, mover) in table.movers.iter().enumerate() {
        let y = top + 26.0 + row as f64 * ROW;
        sheet.line((MARGIN, y), (MARGIN + across, y), RULE, 0.8);
        sheet.rect((MARGIN, y + 11.0, 12.0, 12.0), rgb(&book.kind(*mover).colour), 2.0);
        sheet.text((MARGIN + 19.0, y + 21.0), Anchor::Start, Type::new(12.0, TEXT).bold(), &book.kind(*mover).name);
        let mut x = MARGIN + names;
        for (entered, wide) in table.entered.iter().zip(&columns) {
            let found = meet(book, *mover, *entered);
            let colour = if found.clause.is_some() { TEXT } else { mix(FAINT, PAPER, 150) };
            sheet.text((x, y + 16.0), Anchor::Start, Type::new(11.0, colour), &verb_words(book, found.verb));
            let line = found.clause.map_or(String::new(), |clause| format!("line {}", book.meeting(clause).at.line));
            let guarded: Vec<String> =
                found.guarded.iter().map(|clause| format!("if {}", book.meeting(*clause).at.line)).collect();
            let shadowed: Vec<String> =
                found.shadowed.iter().map(|clause| format!("≠ {}", book.meeting(*clause).at.line)).collect();
            let marks: Vec<String> =
                std::iter::once(line).chain(guarded).chain(shadowed).filter(|mark| !mark.is_empty()).collect();
            sheet.text((x, y + 28.0), Anchor::Start, Type::new(8.5, FAINT), &marks.join("  "));
            x += wide;
        }
    }
    let y = top + 26.0 + table.movers.len() as f64 * ROW;
    sheet.line((MARGIN, y), (MARGIN + across, y), RULE, 0.8);
    let legend = "pale: the default   if N: a condition on line N comes first   ≠ N: line N is never looked at";
    sheet.text((MARGIN, y + 24.0), Anchor::Start, Type::new(10.0, FAINT), legend);
    Ok(sheet.finish())
}
