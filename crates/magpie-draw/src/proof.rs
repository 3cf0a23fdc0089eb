//! What a search of every state has found, on paper: the board with the cells that are reached, never reached and dead, and
//! how many states lie how deep.

use crate::DrawError;
use crate::board::{Written, draw_cell, laid_out, rims, seen_cells};
use crate::limits::MOST_CELLS;
use crate::palette::{ACCENT, FAINT, RULE, TEXT, WRONG};
use crate::sheet::{Anchor, Drawing, Sheet, Type};
use magpie_core::board::Board;
use magpie_core::proof::Report;
use magpie_core::rulebook::{KindId, Rulebook};
use magpie_core::space::Cell;
use std::collections::HashSet;

const MARGIN: f64 = 28.0;
const RIM: f64 = 26.0;
/// Letters of an answer; a long tape ends in an ellipsis.
const LETTERS: usize = 120;
const CHART: (f64, f64) = (420.0, 150.0);

/// Draws a search beside the board on which it began; `words` are its answers, a line each.
///
/// # Errors
/// [`DrawError::TooLarge`] where the board has more cells than a drawing may have.
pub fn proof(
    book: &Rulebook,
    title: &str,
    board: &Board,
    report: &Report,
    words: &[String],
) -> Result<Drawing, DrawError> {
    let extent = board.extent();
    if extent.cells() > MOST_CELLS {
        return Err(DrawError::TooLarge(extent.cells()));
    }
    let words: Vec<String> = words.iter().map(|line| cut(line)).collect();
    let head = 34.0 + words.len() as f64 * 15.0;
    let (layout, (across, down)) = laid_out(book, extent, (MARGIN + RIM, MARGIN + head + RIM));
    let widest = words.iter().map(|line| line.chars().count()).max().unwrap_or(0) as f64 * 6.6;
    let width = (layout.left + across + MARGIN).max(CHART.0 + 2.0 * MARGIN + 60.0).max(widest + 2.0 * MARGIN);
    let chart_top = layout.top + down + 78.0;
    let mut sheet = Sheet::new(title, width, chart_top + CHART.1 + 52.0);
    sheet.text((MARGIN, MARGIN + 14.0), Anchor::Start, Type::new(17.0, TEXT).bold(), title);
    for (line, text) in words.iter().enumerate() {
        let y = MARGIN + 34.0 + line as f64 * 15.0;
        sheet.text((MARGIN, y), Anchor::Start, Type::new(11.0, if line == 0 { TEXT } else { FAINT }), text);
    }
    rims(&mut sheet, book, board, &layout);
    let all = |of: &[(KindId, Vec<Cell>)]| of.iter().flat_map(|(_, cells)| cells.clone()).collect::<HashSet<Cell>>();
    let (reached, dead) = (all(&report.cells), all(report.dead_cells.as_deref().unwrap_or_default()));
    let never: HashSet<Cell> = report.never.iter().flatten().copied().collect();
    for (cell, id, rect) in seen_cells(book, board, &layout) {
        draw_cell(&mut sheet, book, board, id, rect, Written::Nothing);
        if dead.contains(&cell) {
            hatch(&mut sheet, rect);
        }
        let (x, y, w, _) = rect;
        if reached.contains(&cell) {
            sheet.disc((x + w - 8.0, y + 8.0), 3.5, ACCENT);
        }
        if never.contains(&cell) {
            sheet.text((x + w - 8.0, y + 12.0), Anchor::Middle, Type::new(12.0, WRONG).bold(), "×");
        }
    }
    let y = layout.top + down + 28.0;
    sheet.disc((MARGIN + 6.0, y - 4.0), 3.5, ACCENT);
    sheet.text((MARGIN + 18.0, y), Anchor::Start, Type::new(11.0, TEXT), "somebody controlled gets there");
    sheet.text((MARGIN + 226.0, y), Anchor::Middle, Type::new(12.0, WRONG).bold(), "×");
    sheet.text((MARGIN + 238.0, y), Anchor::Start, Type::new(11.0, TEXT), "nobody ever does");
    hatch(&mut sheet, (MARGIN + 356.0, y - 11.0, 14.0, 14.0));
    sheet.text((MARGIN + 378.0, y), Anchor::Start, Type::new(11.0, TEXT), "dead");
    chart(&mut sheet, &report.levels, (MARGIN + 60.0, chart_top));
    Ok(sheet.finish())
}

fn cut(line: &str) -> String {
    if line.chars().count() <= LETTERS {
        return line.into();
    }
    line.chars().take(LETTERS - 1).chain(['…']).collect()
}

/// Strokes over a cell on which what stands there is lost.
fn hatch(sheet: &mut Sheet, (x, y, w, h): (f64, f64, f64, f64)) {
    const APART: f64 = 7.0;
    let mut along = APART;
    while along < w + h {
        let from = (x + (along - h).max(0.0), y + along.min(h));
        let to = (x + along.min(w), y + (along - w).max(0.0));
        sheet.line(from, to, WRONG, 0.7);
        along += APART;
    }
}

/// How many states lie how many inputs behind the start, as bars.
fn chart(sheet: &mut Sheet, levels: &[u32], (left, top): (f64, f64)) {
    let (width, height) = CHART;
    let most = levels.iter().copied().max().unwrap_or(1).max(1);
    let step = width / levels.len() as f64;
    for (depth, count) in levels.iter().enumerate() {
        let tall = f64::from(*count) / f64::from(most) * height;
        sheet.rect((left + depth as f64 * step, top + height - tall, (step * 0.86).max(0.4), tall), ACCENT, 0.0);
    }
    sheet.line((left, top), (left, top + height), RULE, 1.0);
    sheet.line((left, top + height), (left + width, top + height), RULE, 1.0);
    let look = Type::new(10.0, FAINT);
    sheet.text((left - 6.0, top + 8.0), Anchor::End, look, &most.to_string());
    sheet.text((left - 6.0, top + height), Anchor::End, look, "0");
    sheet.text((left, top + height + 16.0), Anchor::Middle, look, "0");
    sheet.text((left + width, top + height + 16.0), Anchor::End, look, &format!("{} inputs", levels.len() - 1));
    sheet.text(
        (left, top - 10.0),
        Anchor::Start,
        Type::new(11.0, TEXT),
        "states by the number of inputs behind the start",
    );
}
