//! A strip of boards along a tape, the deciding fact under each.

use crate::board::{Written, draw_cell, seen_cells};
use crate::limits::{MOST_SCENES, MOST_STORY_CELLS};
use crate::palette::{ACCENT, FAINT, TEXT, WRONG};
use crate::sheet::{Anchor, Drawing, Sheet, Type};
use crate::{DrawError, board::Layout};
use magpie_core::board::Board;
use magpie_core::rulebook::Rulebook;

/// A board of the strip.
#[derive(Clone, Debug)]
pub struct Scene {
    /// The board after the input.
    pub board: Board,
    /// The input, in a word.
    pub input: String,
    /// What decided.
    pub fact: String,
    /// Whether it was refused.
    pub refused: bool,
}

const MARGIN: f64 = 28.0;
const HEAD: f64 = 44.0;
const GAP: f64 = 26.0;
/// Boards stand beside each other up to this width.
const WIDE: f64 = 1120.0;
const LINE: f64 = 13.0;
const FACT_LINES: usize = 3;

/// Boards along a tape, from left to right and then down.
///
/// # Errors
/// [`DrawError::TooLong`] where there are more scenes or cells than a sheet may have.
pub fn story(book: &Rulebook, title: &str, scenes: &[Scene]) -> Result<Drawing, DrawError> {
    let cells: u64 = scenes.iter().map(|scene| scene.board.extent().cells()).sum();
    if cells > MOST_STORY_CELLS || scenes.len() > MOST_SCENES {
        return Err(DrawError::TooLong(scenes.len(), cells));
    }
    let geometry = &book.geometry;
    let columns = scenes.iter().map(|scene| scene.board.extent().columns).max().unwrap_or(1);
    let rows = scenes.iter().map(|scene| scene.board.extent().rows).max().unwrap_or(1);
    let cell = (260.0 / f64::from(columns)).clamp(9.0, 24.0);
    let scale = cell / geometry.size.0.max(geometry.size.1);
    let size = ((geometry.size.0 * scale).max(cell / 3.0), (geometry.size.1 * scale).max(cell / 3.0));
    let (across, down) = (f64::from(columns) * size.0, f64::from(rows) * size.1);
    let wide = across.max(150.0);
    let tall = 18.0 + down + 8.0 + LINE * FACT_LINES as f64;
    let in_line = (((WIDE + GAP) / (wide + GAP)).floor() as usize).clamp(1, scenes.len().max(1));
    let lines = scenes.len().div_ceil(in_line).max(1);
    let width = (MARGIN * 2.0 + in_line as f64 * (wide + GAP) - GAP).max(420.0);
    let height = MARGIN * 2.0 + HEAD + lines as f64 * (tall + GAP) - GAP;
    let mut sheet = Sheet::new(title, width, height);
    sheet.text((MARGIN, MARGIN + 14.0), Anchor::Start, Type::new(17.0, TEXT).bold(), title);
    let count = scenes.len().saturating_sub(1);
    let told = format!("{count} {} from the beginning", if count == 1 { "input" } else { "inputs" });
    sheet.text((MARGIN, MARGIN + 33.0), Anchor::Start, Type::new(11.0, FAINT), &told);
    for (at, scene) in scenes.iter().enumerate() {
        let x = MARGIN + (at % in_line) as f64 * (wide + GAP);
        let y = MARGIN + HEAD + (at / in_line) as f64 * (tall + GAP);
        let colour = if scene.refused { WRONG } else { ACCENT };
        let name = if at == 0 { "start".to_owned() } else { format!("{at}  {}", scene.input) };
        sheet.text((x, y + 11.0), Anchor::Start, Type::new(11.0, colour).bold(), &name);
        let layout = Layout { left: x, top: y + 18.0, size, pitch: size };
        for (_, id, rect) in seen_cells(book, &scene.board, &layout) {
            draw_cell(&mut sheet, book, &scene.board, id, rect, Written::Nothing);
        }
        let most = (wide / 5.6) as usize;
        for (number, part) in broken(&scene.fact, most).into_iter().take(FACT_LINES).enumerate() {
            let at = (x, y + 18.0 + down + 14.0 + number as f64 * LINE);
            sheet.text(at, Anchor::Start, Type::new(10.0, if scene.refused { WRONG } else { FAINT }), &part);
        }
    }
    Ok(sheet.finish())
}

/// A text in lines of at most so many characters, broken at blanks.
fn broken(text: &str, most: usize) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in text.split(' ') {
        match lines.last_mut() {
            Some(line) if line.chars().count() + 1 + word.chars().count() <= most => {
                line.push(' ');
                line.push_str(word);
            }
            _ => lines.push(word.to_owned()),
        }
    }
    lines
}
