//! A board with its rims, its pieces and a legend.

use crate::DrawError;
use crate::limits::MOST_CELLS;
use crate::palette::{ACCENT, FAINT, PAPER, RULE, Rgb, TEXT, is_light, mix, rgb};
use crate::sheet::{Anchor, Drawing, Sheet, Type};
use magpie_core::board::{Board, CellId};
use magpie_core::rulebook::{KindId, Rulebook};
use magpie_core::space::{Cell, Extent, Heading, RowsFrom, show};

/// What is written small into the corner of each cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Written {
    /// The place in the flat array.
    Index,
    /// Column and row.
    Place,
    /// Nothing.
    Nothing,
}

/// The longer side of a cell on paper.
const CELL: f64 = 56.0;
const MARGIN: f64 = 28.0;
const HEAD: f64 = 40.0;
const RIM: f64 = 26.0;
const LEGEND_LINE: f64 = 24.0;
const LEGEND_WIDTH: f64 = 190.0;

/// Where cells lie on the paper.
pub(crate) struct Layout {
    pub left: f64,
    pub top: f64,
    pub size: (f64, f64),
    pub pitch: (f64, f64),
}

impl Layout {
    pub fn rect(&self, column: u32, line: u32) -> (f64, f64, f64, f64) {
        let (x, y) = (f64::from(column) * self.pitch.0, f64::from(line) * self.pitch.1);
        (self.left + x, self.top + y, self.size.0, self.size.1)
    }
}

/// Draws a board as it is seen: the numbers of columns and rows on the rims, pieces by kind and layer, a legend of the
/// kinds that stand on it.
///
/// # Errors
/// [`DrawError::TooLarge`] where it has more cells than a drawing may have.
pub fn board(book: &Rulebook, title: &str, board: &Board, written: Written) -> Result<Drawing, DrawError> {
    let extent = board.extent();
    if extent.cells() > MOST_CELLS {
        return Err(DrawError::TooLarge(extent.cells()));
    }
    let (layout, (across, down)) = laid_out(book, extent, (MARGIN + RIM, MARGIN + HEAD + RIM));
    let kinds = kinds_seen(book, board);
    let width = (layout.left + across + MARGIN).max(MARGIN * 2.0 + LEGEND_WIDTH * 2.0);
    let in_line = (((width - MARGIN * 2.0) / LEGEND_WIDTH).floor() as usize).max(1);
    let lines = kinds.len().div_ceil(in_line);
    let height = layout.top + down + 28.0 + lines as f64 * LEGEND_LINE + MARGIN;
    let mut sheet = Sheet::new(title, width, height);
    head(&mut sheet, book, title, board);
    rims(&mut sheet, book, board, &layout);
    for (_, id, rect) in seen_cells(book, board, &layout) {
        draw_cell(&mut sheet, book, board, id, rect, written);
    }
    let top = layout.top + down + 28.0;
    for (at, kind) in kinds.iter().enumerate() {
        let x = MARGIN + (at % in_line) as f64 * LEGEND_WIDTH;
        legend(&mut sheet, book, *kind, (x, top + (at / in_line) as f64 * LEGEND_LINE));
    }
    Ok(sheet.finish())
}

/// The cells of a board line by line as it is seen, void left out, with where each lies on the paper.
pub(crate) fn seen_cells<'a>(
    book: &'a Rulebook,
    board: &'a Board,
    layout: &'a Layout,
) -> impl Iterator<Item = (Cell, CellId, (f64, f64, f64, f64))> + 'a {
    let extent = board.extent();
    let places = (0..extent.rows).flat_map(move |line| (0..extent.columns).map(move |column| (column, line)));
    places.filter_map(move |(column, line)| {
        let row = if book.geometry.rows == RowsFrom::Top { line } else { extent.rows - 1 - line };
        let cell = Cell::new(i64::from(column), i64::from(row));
        let id = board.id(cell).filter(|id| !board.is_void(*id))?;
        Some((cell, id, layout.rect(column, line)))
    })
}

/// Where the cells of a board lie whose first one has its corner here, and how much room they take.
pub(crate) fn laid_out(book: &Rulebook, extent: Extent, (left, top): (f64, f64)) -> (Layout, (f64, f64)) {
    let geometry = &book.geometry;
    let scale = CELL / geometry.size.0.max(geometry.size.1);
    // Very flat cells stay wide enough for a sign, very wide gaps do not hide the cells.
    let side = |size: f64| (size * scale).max(CELL / 4.0);
    let size = (side(geometry.size.0), side(geometry.size.1));
    let gap = (geometry.gap.0 * scale, geometry.gap.1 * scale);
    let gap = (gap.0.min(size.0), gap.1.min(size.1));
    let pitch = (size.0 + gap.0, size.1 + gap.1);
    let room = (f64::from(extent.columns) * pitch.0 - gap.0, f64::from(extent.rows) * pitch.1 - gap.1);
    (Layout { left, top, size, pitch }, room)
}

fn head(sheet: &mut Sheet, book: &Rulebook, title: &str, board: &Board) {
    let extent = board.extent();
    let geometry = &book.geometry;
    let origin = geometry.corner_of_first(extent);
    let [w, h, gx, gy, x, y] =
        [geometry.size.0, geometry.size.1, geometry.gap.0, geometry.gap.1, origin.x, origin.y].map(show);
    let gap = if gx == "0" && gy == "0" { String::new() } else { format!(", gap {gx} × {gy}") };
    let rows = if geometry.rows == RowsFrom::Top { "top" } else { "bottom" };
    sheet.text((MARGIN, MARGIN + 14.0), Anchor::Start, Type::new(17.0, TEXT).bold(), title);
    let numbers = format!(
        "{} × {} cells of {w} × {h} px{gap}; origin {x}, {y}; rows from the {rows}",
        extent.columns, extent.rows
    );
    sheet.text((MARGIN, MARGIN + 33.0), Anchor::Start, Type::new(11.0, FAINT), &numbers);
}

pub(crate) fn rims(sheet: &mut Sheet, book: &Rulebook, board: &Board, layout: &Layout) {
    let extent = board.extent();
    let look = Type::new(11.0, ACCENT);
    // Numbers that would touch are left out, every second, fifth or tenth kept.
    let every = |pitch: f64, room: f64| [1, 2, 5, 10, 20, 50].into_iter().find(|step| pitch * f64::from(*step) >= room);
    let step = every(layout.pitch.0, 22.0).unwrap_or(100);
    for column in (0..extent.columns).filter(|column| column % step == 0) {
        let (x, _, w, _) = layout.rect(column, 0);
        sheet.text((x + w / 2.0, layout.top - 8.0), Anchor::Middle, look, &column.to_string());
    }
    let step = every(layout.pitch.1, 14.0).unwrap_or(100);
    for line in 0..extent.rows {
        let row = if book.geometry.rows == RowsFrom::Top { line } else { extent.rows - 1 - line };
        if row % step == 0 {
            let (_, y, _, h) = layout.rect(0, line);
            sheet.text((layout.left - 8.0, y + h / 2.0 + 4.0), Anchor::End, look, &row.to_string());
        }
    }
}

/// The kinds that stand on a board, in the order of the file.
fn kinds_seen(book: &Rulebook, board: &Board) -> Vec<KindId> {
    let mut seen = vec![false; book.kinds.len()];
    for id in (0..board.cells()).map(CellId) {
        board.kinds_at(id).for_each(|kind| seen[usize::from(kind.0)] = true);
    }
    (0..book.kinds.len()).filter(|at| seen[*at]).map(|at| KindId(at as u16)).collect()
}

/// How a kind of a layer is drawn: floors fill their cell, the top layer is a plate, layers between are lozenges.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Form {
    Floor,
    Mark,
    Body,
}

fn form(book: &Rulebook, kind: KindId) -> Form {
    let layer = usize::from(book.kind(kind).layer);
    match layer {
        0 if book.layers.len() > 1 => Form::Floor,
        layer if layer + 1 == book.layers.len() => Form::Body,
        _ => Form::Mark,
    }
}

pub(crate) fn draw_cell(
    sheet: &mut Sheet,
    book: &Rulebook,
    board: &Board,
    id: CellId,
    rect: (f64, f64, f64, f64),
    written: Written,
) {
    let mut kinds: Vec<KindId> = board.kinds_at(id).collect();
    kinds.reverse();
    let floor = kinds.first().copied().filter(|kind| form(book, *kind) == Form::Floor);
    let ground = floor.map_or(PAPER, |kind| floor_colour(book, kind));
    sheet.rect(rect, ground, 0.0);
    sheet.frame(rect, RULE, 0.8);
    for kind in kinds.iter().filter(|kind| Some(**kind) != floor) {
        let heading = board.known_piece_of(id, *kind).and_then(|piece| board.heading_of(piece));
        draw_piece(sheet, book, *kind, heading, rect);
    }
    if let Some(kind) = floor.filter(|kind| Some(*kind) != book.ground && kinds.len() == 1) {
        sign(sheet, book, kind, rect, if is_light(ground) { TEXT } else { PAPER });
    }
    let cell = board.cell(id);
    let text = match written {
        Written::Index => book.geometry.index(board.extent(), cell).map(|index| index.to_string()),
        Written::Place => Some(format!("{},{}", cell.column, cell.row)),
        Written::Nothing => None,
    };
    if let Some(text) = text.filter(|text| text.len() as f64 * 5.2 + 9.0 <= rect.2 && rect.3 >= 14.0) {
        let top = kinds.last().filter(|kind| form(book, **kind) == Form::Body);
        let under = top.map_or(ground, |kind| rgb(&book.kind(*kind).colour));
        let colour = if is_light(under) { mix(TEXT, under, 150) } else { mix(PAPER, under, 200) };
        // On a plate the number stands within its round corner.
        let (x, y) = if top.is_some() { (8.0, 14.0) } else { (4.0, 11.0) };
        sheet.text((rect.0 + x, rect.1 + y), Anchor::Start, Type::new(8.0, colour), &text);
    }
}

fn floor_colour(book: &Rulebook, kind: KindId) -> Rgb {
    let colour = rgb(&book.kind(kind).colour);
    if Some(kind) == book.ground { mix(colour, PAPER, 26) } else { mix(colour, PAPER, 190) }
}

fn draw_piece(
    sheet: &mut Sheet,
    book: &Rulebook,
    kind: KindId,
    heading: Option<Heading>,
    (x, y, w, h): (f64, f64, f64, f64),
) {
    let colour = rgb(&book.kind(kind).colour);
    let (middle, least) = ((x + w / 2.0, y + h / 2.0), w.min(h));
    match form(book, kind) {
        Form::Body => {
            let inset = least * 0.07;
            sheet.rect((x + inset, y + inset, w - inset * 2.0, h - inset * 2.0), colour, least * 0.14);
            let ink = if is_light(colour) { TEXT } else { PAPER };
            sign(sheet, book, kind, (x, y, w, h), ink);
            if let Some(heading) = heading {
                beak(sheet, heading, middle, (w / 2.0 - inset, h / 2.0 - inset), ink);
            }
        }
        Form::Floor | Form::Mark => {
            let (across, down) = (w * 0.4, h * 0.4);
            let corners = [
                (middle.0, middle.1 - down),
                (middle.0 + across, middle.1),
                (middle.0, middle.1 + down),
                (middle.0 - across, middle.1),
            ];
            sheet.shape(&corners, mix(colour, PAPER, 150));
            sign(sheet, book, kind, (x, y, w, h), mix(TEXT, colour, 200));
        }
    }
}

/// A small triangle at the edge to which a piece faces.
fn beak(sheet: &mut Sheet, heading: Heading, (x, y): (f64, f64), (across, down): (f64, f64), colour: Rgb) {
    let (east, south) = heading.screen_step();
    let (east, south) = (east as f64, south as f64);
    let size = across.min(down) * 0.26;
    let tip = (x + east * (across - 2.0), y + south * (down - 2.0));
    let length = (east * east + south * south).sqrt();
    let back = (tip.0 - east / length * size, tip.1 - south / length * size);
    let side = (-south / length * size * 0.7, east / length * size * 0.7);
    sheet.shape(&[tip, (back.0 + side.0, back.1 + side.1), (back.0 - side.0, back.1 - side.1)], colour);
}

/// The kind's glyph in the middle of a cell.
fn sign(sheet: &mut Sheet, book: &Rulebook, kind: KindId, (x, y, w, h): (f64, f64, f64, f64), colour: Rgb) {
    let size = w.min(h) * 0.42;
    let look = Type::new(size, colour).bold().mono();
    sheet.text((x + w / 2.0, y + h / 2.0 + size * 0.36), Anchor::Middle, look, &book.kind(kind).glyph.to_string());
}

fn legend(sheet: &mut Sheet, book: &Rulebook, kind: KindId, (x, y): (f64, f64)) {
    let rect = (x, y, 18.0, 18.0);
    let found = book.kind(kind);
    if form(book, kind) == Form::Floor {
        sheet.rect(rect, floor_colour(book, kind), 0.0);
        sheet.frame(rect, RULE, 0.8);
        let light = is_light(floor_colour(book, kind));
        sign(sheet, book, kind, rect, if light { TEXT } else { PAPER });
    } else {
        sheet.frame(rect, RULE, 0.8);
        draw_piece(sheet, book, kind, None, rect);
    }
    let ground = if Some(kind) == book.ground { ", the ground" } else { "" };
    sheet.text((x + 26.0, y + 13.0), Anchor::Start, Type::new(11.0, TEXT), &found.name);
    // The layer stands behind the name, as far as names usually go.
    let at = x + (26.0 + found.name.chars().count() as f64 * 6.9 + 8.0).max(104.0);
    let layer = format!("{}{ground}", book.layers[usize::from(found.layer)]);
    sheet.text((at, y + 13.0), Anchor::Start, Type::new(9.5, FAINT), &layer);
}
