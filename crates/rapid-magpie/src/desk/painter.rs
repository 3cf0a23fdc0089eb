//! The board, drawn as large as fits; only what is seen costs anything.

use super::Desk;
use super::board::{BoardLayout, Ghost, Overlay, arrow, row_of};
use super::marks::{Mark, Marks, Truth};
use crate::ui::pen::ellipsis;
use crate::ui::theme::{self, Rgb, Theme};
use magpie_core::board::CellId;
use magpie_core::grid::Grid;
use magpie_core::rulebook::{KindId, Rulebook};
use magpie_core::space::{Cell, Extent, Heading, RowsFrom, YAxis};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};
use unicode_width::UnicodeWidthStr;

/// The room that a board takes with its rims, of at most so much: as large as its cells can be drawn in it.
pub fn needs(desk: &Desk, most: (u16, u16)) -> (u16, u16) {
    let (Some(extent), Some(book)) = (desk.game.extent(), desk.game.book()) else { return (0, 0) };
    let rim = (rim_width(extent), 1);
    let room = (most.0.saturating_sub(rim.0), most.1.saturating_sub(rim.1));
    let size = cell_size(extent, room, book.geometry.pitch());
    let of = |count: u32, size: u16, room: u16| (count.min(u32::from(room / size)) as u16) * size;
    (rim.0 + of(extent.columns, size.0, room.0), rim.1 + of(extent.rows, size.1, room.1))
}

/// The largest cells that fit, in characters; the smallest where none do.
fn cell_size(extent: Extent, room: (u16, u16), pixels: (f64, f64)) -> (u16, u16) {
    // A character is about twice as high as wide.
    let shape = (2.0 * pixels.0 / pixels.1).clamp(0.5, 8.0);
    let size_of = |height: u16| ((f64::from(height) * shape).round().clamp(2.0, 40.0) as u16, height);
    let fits = |(w, h): (u16, u16)| {
        u32::from(w) * extent.columns <= u32::from(room.0) && u32::from(h) * extent.rows <= u32::from(room.1)
    };
    (1..=9).rev().map(size_of).find(|size| fits(*size)).unwrap_or_else(|| {
        let small = size_of(1);
        if room.0 >= 40 { (small.0.clamp(2, 4), 1) } else { (2, 1) }
    })
}

/// The size of cells and the part of the board that is seen.
fn layout(desk: &Desk, focus: Option<Cell>, extent: Extent, area: Rect, pixels: (f64, f64)) -> BoardLayout {
    let rim = (rim_width(extent), 1);
    let inner =
        Rect::new(area.x + rim.0, area.y + rim.1, area.width.saturating_sub(rim.0), area.height.saturating_sub(rim.1));
    let size = cell_size(extent, (inner.width, inner.height), pixels);
    let seen = (extent.columns.min(u32::from(inner.width / size.0)), extent.rows.min(u32::from(inner.height / size.1)));
    // What is left over stands half on each side, so that the board sits in the middle of its pane.
    let spare = inner.width.saturating_sub(seen.0 as u16 * size.0);
    let inner = Rect {
        x: inner.x + spare.saturating_sub(rim.0) / 2,
        width: inner.width - spare.saturating_sub(rim.0) / 2,
        ..inner
    };
    let focus = focus.unwrap_or(Cell::new(0, 0));
    let book = desk.game.book();
    let line = book.map_or(focus.row, |book| {
        let rows = i64::from(extent.rows);
        if book.geometry.rows == RowsFrom::Top { focus.row } else { rows - 1 - focus.row }
    });
    let first =
        |at: i64, seen: u32, all: u32| (at - i64::from(seen) / 2).clamp(0, i64::from(all.saturating_sub(seen))) as u32;
    BoardLayout {
        pane: area,
        area: inner,
        first: (first(focus.column, seen.0, extent.columns), first(line, seen.1, extent.rows)),
        seen,
        size,
    }
}

fn rim_width(extent: Extent) -> u16 {
    extent.rows.saturating_sub(1).to_string().len() as u16 + 2
}

/// Draws the board with its rims; gives where it was drawn.
pub fn render(desk: &Desk, marks: &Marks, theme: Theme, area: Rect, buffer: &mut Buffer) -> BoardLayout {
    desk.game.grid().map_or_else(BoardLayout::default, |grid| render_game(desk, grid, marks, theme, area, buffer))
}

/// Draws the board of any game of the rulebook, as the desk's own is drawn.
pub fn render_game(
    desk: &Desk,
    grid: &Grid,
    marks: &Marks,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) -> BoardLayout {
    let (book, board) = (grid.book(), grid.board());
    let extent = board.extent();
    let layout = layout(desk, marks.focus, extent, area, book.geometry.pitch());
    let painter = Painter { desk, grid, marks, theme, book, layout };
    painter.rims(extent, buffer);
    for y in 0..layout.seen.1 {
        for x in 0..layout.seen.0 {
            let cell = Cell::new(i64::from(layout.first.0 + x), row_of(book, extent, layout.first.1 + y));
            if let (Some(id), Some(rect)) = (board.id(cell), layout.rect(book, extent, cell)) {
                painter.cell(cell, id, rect, marks.cells.get(&cell).copied(), buffer);
            }
        }
    }
    painter.pointer(extent, buffer);
    painter.way(extent, buffer);
    marks.ghosts.iter().for_each(|ghost| painter.ghost(ghost, extent, buffer));
    painter.corners(extent, buffer);
    painter.overview(extent, area, buffer);
    layout
}

pub(super) struct Painter<'a> {
    desk: &'a Desk,
    grid: &'a Grid,
    pub marks: &'a Marks,
    pub theme: Theme,
    pub book: &'a Rulebook,
    pub layout: BoardLayout,
}

impl Painter<'_> {
    fn rims(&self, extent: Extent, buffer: &mut Buffer) {
        let BoardLayout { area, first, seen, size, .. } = self.layout;
        let focus = self.marks.focus;
        let longest = (first.0 + seen.0).to_string().len() as u16 + 1;
        let every = u32::from(longest.div_ceil(size.0).max(1));
        for x in (0..seen.0).filter(|x| (first.0 + x) % every == 0) {
            let column = first.0 + x;
            let style = self.rim_style(focus.is_some_and(|cell| cell.column == i64::from(column)));
            let (text, style) = match self.count(false, i64::from(column)) {
                Some(count) => (count.to_string(), self.count_style(count)),
                None => (column.to_string(), style),
            };
            let at = area.x + x as u16 * size.0 + size.0.saturating_sub(text.len() as u16) / 2;
            if at + text.len() as u16 <= area.right() {
                buffer.set_string(at, area.y.saturating_sub(1), text, style);
            }
        }
        let width = usize::from(rim_width(extent)) - 1;
        for y in 0..seen.1 {
            let row = row_of(self.book, extent, first.1 + y);
            let style = self.rim_style(focus.is_some_and(|cell| cell.row == row));
            let (row, style) = match self.count(true, row) {
                Some(count) => (count, self.count_style(count)),
                None => (row, style),
            };
            let at = area.y + y as u16 * size.1 + (size.1 - 1) / 2;
            buffer.set_string(area.x.saturating_sub(width as u16 + 1), at, format!("{row:>width$} "), style);
        }
    }

    /// How many pieces of the counted kind stand in a row or column, where one is counted.
    fn count(&self, row: bool, line: i64) -> Option<i64> {
        let kind = self.desk.picture.counted?;
        let board = self.grid.board();
        let extent = board.extent();
        let cells = if row { extent.columns } else { extent.rows };
        let cell = |at: u32| if row { Cell::new(at.into(), line) } else { Cell::new(line, at.into()) };
        let there = (0..cells).filter_map(|at| board.id(cell(at)));
        Some(there.map(|id| board.kinds_at(id).filter(|found| *found == kind).count() as i64).sum())
    }

    fn count_style(&self, count: i64) -> Style {
        if count > 0 { self.theme.waiting() } else { self.theme.faint() }
    }

    fn rim_style(&self, focus: bool) -> Style {
        if focus { self.theme.accent() } else { self.theme.faint() }
    }

    fn cell(&self, cell: Cell, id: CellId, rect: Rect, mark: Option<Mark>, buffer: &mut Buffer) {
        let grid = self.grid;
        let board = grid.board();
        if board.is_void(id) {
            buffer.set_style(rect, self.theme.text());
            if self.marks.truths.get(&cell) == Some(&Truth::Differs) {
                Self::frame(rect, self.theme.refused(), buffer);
            }
            return;
        }
        let mut kinds: Vec<KindId> = board.kinds_at(id).collect();
        let hidden =
            self.desk.time.spread.as_ref().and_then(|spread| spread.show(id, self.desk.time.clock, &mut kinds));
        kinds.retain(|kind| Some(*kind) != hidden);
        let floor = kinds.iter().rev().find(|kind| self.book.kind(**kind).layer == 0).copied();
        let even = (cell.column + cell.row) % 2 == 0;
        let ground = match self.marks.truths.get(&cell) {
            Some(Truth::Reached) => Theme::dim(Theme::accent_rgb(), if even { 90 } else { 78 }),
            Some(Truth::Dead) => Theme::dim(Theme::refused_rgb(), if even { 90 } else { 78 }),
            Some(Truth::Differs) => Theme::dim(Theme::refused_rgb(), 120),
            Some(Truth::Never) | None => self.floor_colour(floor, even, id, mark),
        };
        let base = Style::new()
            .fg(self.theme.colour(theme::rgb(&magpie_core::rulebook::Colour::Named("bone".into()))))
            .bg(self.theme.colour(ground));
        buffer.set_style(rect, base);
        for y in rect.top()..rect.bottom() {
            for x in rect.left()..rect.right() {
                if let Some(found) = buffer.cell_mut((x, y)) {
                    found.set_symbol(" ");
                }
            }
        }
        let picture = &self.desk.picture;
        let touched = [picture.finger, picture.finger_at].contains(&Some(cell)) || grid.chosen() == Some(cell);
        if Some(cell) == picture.cursor || touched {
            Self::frame(rect, base.fg(self.theme.colour(Theme::waiting_rgb())).add_modifier(Modifier::BOLD), buffer);
        }
        let elsewhere =
            |kind: KindId| self.marks.ghosts.iter().any(|ghost| ghost.kind == kind && ghost.hides == Some(cell));
        let shown: Vec<KindId> =
            kinds.iter().copied().filter(|kind| Some(*kind) != self.book.ground && !elsewhere(*kind)).collect();
        let top = shown.first().copied();
        if let Some(kind) = top {
            let facing = self.facing(kind, id);
            self.piece(kind, facing, ground, rect, buffer);
            if let Some(under) = shown.get(1).filter(|under| self.book.kind(**under).layer > 0) {
                self.under(*under, ground, rect, buffer);
            }
        } else if rect.height > 1 || rect.width > 3 {
            let dim = base.fg(self.theme.colour(Theme::dim((220, 216, 203), 70)));
            if self.desk.picture.overlay == Overlay::Content {
                buffer.set_string(rect.x + rect.width / 2, rect.y + (rect.height - 1) / 2, "·", dim);
            }
        }
        if self.desk.game.reach.as_ref().is_some_and(|reach| reach.lost.get(id.0 as usize) == Some(&true)) {
            let style = base.fg(self.theme.colour(Theme::waiting_rgb())).add_modifier(Modifier::BOLD);
            Self::centred(rect, "×", style, buffer);
        }
        let truth = self.marks.truths.get(&cell);
        match truth {
            Some(Truth::Never) => {
                let style = base.fg(self.theme.colour(Theme::waiting_rgb())).add_modifier(Modifier::BOLD);
                Self::centred(rect, "×", style, buffer);
            }
            Some(Truth::Dead) => {
                let style = base.fg(self.theme.colour(Theme::refused_rgb()));
                for y in rect.top()..rect.bottom() {
                    buffer.set_string(rect.right() - 1, y, "╱", style);
                }
            }
            Some(Truth::Differs) => {
                let style = base.fg(self.theme.colour(Theme::refused_rgb())).add_modifier(Modifier::BOLD);
                Self::frame(rect, style, buffer);
            }
            Some(Truth::Reached) | None => {}
        }
        self.write_overlay(cell, rect, buffer);
        if self.marks.cut && self.is_cut(cell, board.extent()) {
            let style = Style::new().fg(self.theme.colour(Theme::waiting_rgb())).bg(self.theme.colour(ground));
            for y in rect.top()..rect.bottom() {
                buffer.set_string(rect.right() - 1, y, "╱", style);
            }
        }
        if mark == Some(Mark::Refuses) {
            let style = Style::new().fg(self.theme.colour(Theme::refused_rgb())).bg(self.theme.colour(ground));
            buffer.set_string(rect.right() - 1, rect.y, "✗", style.add_modifier(Modifier::BOLD));
        }
    }

    /// Whether the picture of the view does not show the whole of a cell.
    fn is_cut(&self, cell: Cell, extent: Extent) -> bool {
        let Some(view) = &self.book.view else { return false };
        let geometry = &self.book.geometry;
        let found = geometry.cell_box(extent, cell);
        let camera = view.camera(geometry.y);
        let (w, h) = (view.design.0 / view.zoom, view.design.1 / view.zoom);
        let top = if geometry.y == YAxis::Down { camera.y } else { camera.y - h };
        found.x < camera.x || found.y < top || found.x + found.w > camera.x + w || found.y + found.h > top + h
    }

    fn floor_colour(&self, floor: Option<KindId>, even: bool, id: CellId, mark: Option<Mark>) -> Rgb {
        let plain = floor.map_or(Theme::ground_rgb(), |kind| theme::rgb(&self.book.kind(kind).colour));
        let is_ground = floor == self.book.ground;
        let share = match (is_ground, even) {
            (true, true) => 62,
            (true, false) => 50,
            (false, _) => 110,
        };
        let mixed = Theme::dim(plain, share);
        if let Some(reach) = &self.desk.game.reach
            && reach.reached.get(id.0 as usize) == Some(&true)
        {
            return Theme::dim(Theme::accent_rgb(), if even { 90 } else { 78 });
        }
        match mark {
            None => mixed,
            Some(Mark::Refuses) => Theme::dim(Theme::refused_rgb(), 110),
            Some(Mark::From | Mark::Way) => Theme::dim(Theme::accent_rgb(), 84),
        }
    }

    /// The topmost piece: a block for what never moves, else a plate with its name or glyph.
    fn piece(&self, kind: KindId, facing: Option<Heading>, ground: Rgb, rect: Rect, buffer: &mut Buffer) {
        let found = self.book.kind(kind);
        let colour = theme::rgb(&found.colour);
        let solid = found.layer > 0 && self.desk.game.fixed.get(usize::from(kind.0)) == Some(&true);
        // What glides is seen to move, whatever layer it is of.
        let glides = self.book.glides.iter().any(|glide| self.book.set(glide.who).contains(kind));
        let body = glides || self.book.layers.len() as u8 - 1 == found.layer;
        let (w, h) = (rect.width, rect.height);
        if solid && body {
            let style = Style::new()
                .fg(self.theme.colour(Theme::dim(colour, 230)))
                .bg(self.theme.colour(Theme::dim(colour, 150)));
            buffer.set_style(rect, style);
            // A glyph in a paler shade: colour alone carries no meaning.
            let pale = style.fg(self.theme.colour(Theme::dim(colour, 205)));
            Self::centred(rect, &found.glyph.to_string(), if self.theme.has_colour() { pale } else { style }, buffer);
            return;
        }
        if !body || h == 1 {
            let bright = if u32::from(colour.0) + u32::from(colour.1) + u32::from(colour.2) < 260 {
                (0x96, 0xa0, 0xac)
            } else {
                colour
            };
            // A floor lies in many cells: its name stays in the background.
            let bright = if found.layer == 0 && self.theme.has_colour() { Theme::dim(bright, 150) } else { bright };
            let style = Style::new().fg(self.theme.colour(bright)).bg(self.theme.colour(ground));
            let style = if found.layer == 0 { style } else { style.add_modifier(Modifier::BOLD) };
            let named = h >= 2 && found.name.width() < usize::from(w);
            let text = if named { found.name.clone() } else { found.glyph.to_string() };
            Self::centred(rect, &text, style, buffer);
            return;
        }
        let plate = Rect::new(rect.x + u16::from(w > 3), rect.y, w - if w > 3 { 2 } else { 0 }, h);
        let light = u32::from(colour.0) * 3 + u32::from(colour.1) * 6 + u32::from(colour.2) > 1200;
        let ink = if light { Theme::ground_rgb() } else { (240, 236, 226) };
        let mut style =
            Style::new().fg(self.theme.colour(ink)).bg(self.theme.colour(colour)).add_modifier(Modifier::BOLD);
        if !self.theme.has_colour() {
            style = style.add_modifier(Modifier::REVERSED);
        }
        let whole = plate;
        let plate = self.plate(plate, style, colour, ground, buffer);
        let arrow = facing.filter(|_| plate.width >= 3);
        // An arrow at the side keeps its column; one above or below the name has a line of its own.
        let beside =
            arrow.is_some_and(|heading| plate.height < 3 || !matches!(heading, Heading::North | Heading::South));
        let room = usize::from(plate.width).saturating_sub(if beside { 2 } else { 0 });
        let text = if found.name.width() <= room { found.name.clone() } else { found.glyph.to_string() };
        if self.desk.picture.overlay == Overlay::Content || h >= 3 {
            // In the middle of the plate with its half line; not on that line.
            let row = ((whole.height - 1) / 2).min(plate.height - 1);
            Self::centred(Rect { y: plate.y + row, height: 1, ..plate }, &text, style, buffer);
            if let Some(heading) = arrow {
                let (x, y) = arrow_at(plate, heading);
                buffer.set_string(x, y, arrow_sign(heading), style);
            }
        }
    }

    /// Fills a plate. The piece is the background, and the ground the half block at its foot: so there is no seam in it in any
    /// terminal, and neighbours do not run together.
    fn plate(&self, plate: Rect, style: Style, colour: Rgb, ground: Rgb, buffer: &mut Buffer) -> Rect {
        buffer.set_style(plate, style);
        if plate.height < 2 {
            return plate;
        }
        let edge = Style::new().fg(self.theme.colour(ground)).bg(self.theme.colour(colour));
        buffer.set_string(plate.x, plate.bottom() - 1, "▄".repeat(usize::from(plate.width)), edge);
        Rect { height: plate.height - 1, ..plate }
    }

    /// A piece of a lower layer that another stands on: its glyph in a corner.
    fn under(&self, kind: KindId, ground: Rgb, rect: Rect, buffer: &mut Buffer) {
        let found = self.book.kind(kind);
        let style = Style::new().fg(self.theme.colour(theme::rgb(&found.colour))).bg(self.theme.colour(ground));
        if rect.width > 3 {
            buffer.set_string(rect.x, rect.bottom() - 1, found.glyph.to_string(), style.add_modifier(Modifier::BOLD));
        }
    }

    fn centred(rect: Rect, text: &str, style: Style, buffer: &mut Buffer) {
        let width = text.width() as u16;
        let x = rect.x + rect.width.saturating_sub(width) / 2;
        buffer.set_string(x, rect.y + (rect.height - 1) / 2, ellipsis(text, usize::from(rect.width)), style);
    }

    fn frame(rect: Rect, style: Style, buffer: &mut Buffer) {
        let (left, right) = (rect.x, rect.right() - 1);
        let marks = if rect.height == 1 {
            [("[", left, rect.y), ("]", right, rect.y), ("[", left, rect.y), ("]", right, rect.y)]
        } else {
            let bottom = rect.bottom() - 1;
            [("┌", left, rect.y), ("┐", right, rect.y), ("└", left, bottom), ("┘", right, bottom)]
        };
        for (mark, x, y) in marks {
            buffer.set_string(x, y, mark, style);
        }
    }

    fn write_overlay(&self, cell: Cell, rect: Rect, buffer: &mut Buffer) {
        let extent = self.grid.board().extent();
        let text = match self.desk.picture.overlay {
            Overlay::Content | Overlay::Nothing => return,
            Overlay::Place => format!("{},{}", cell.column, cell.row),
            Overlay::Index => match self.book.geometry.index(extent, cell) {
                Some(index) => index.to_string(),
                None => return,
            },
        };
        if text.len() <= usize::from(rect.width) {
            let x = rect.x + (rect.width - text.len() as u16) / 2;
            let y = rect.bottom() - 1;
            let at = buffer.cell((x, y)).map_or(Style::new(), ratatui::buffer::Cell::style);
            let light = Style::new().fg(self.theme.colour((236, 232, 222)));
            let plate = at.add_modifier.contains(Modifier::BOLD) && rect.height < 3;
            buffer.set_string(x, y, text, if plate { at } else { at.patch(light) });
        }
    }

    /// The pointer of the Probe bench, at half a character's height.
    fn pointer(&self, extent: Extent, buffer: &mut Buffer) {
        let geometry = &self.book.geometry;
        let Some((cell, at)) = self.marks.pointer else {
            return;
        };
        let Some(rect) = self.layout.rect(self.book, extent, cell) else {
            return;
        };
        let corner = geometry.corner(extent, cell);
        let pitch = geometry.pitch();
        let across = ((at.x - corner.x) / pitch.0).clamp(0.0, 0.999);
        let down = (geometry.row_sign() * (at.y - corner.y) / pitch.1).clamp(0.0, 0.999);
        let down = if geometry.rows == RowsFrom::Top { down } else { 1.0 - down };
        let x = rect.x + (across * f64::from(rect.width)) as u16;
        let half = (down * f64::from(rect.height) * 2.0) as u16;
        let y = rect.y + (half / 2).min(rect.height - 1);
        let symbol = if half.is_multiple_of(2) { "▀" } else { "▄" };
        Self::frame(rect, Style::new().fg(self.theme.colour(Theme::accent_rgb())).add_modifier(Modifier::BOLD), buffer);
        buffer.set_string(
            x,
            y,
            symbol,
            Style::new().fg(self.theme.colour((255, 255, 255))).add_modifier(Modifier::BOLD),
        );
    }

    /// The way a piece looks: that of the last request where this piece made it, also a refused one; else its heading.
    fn facing(&self, kind: KindId, id: CellId) -> Option<Heading> {
        let board = self.grid.board();
        let heading = board.known_piece_of(id, kind).and_then(|piece| board.heading_of(piece));
        let asked = self
            .desk
            .game
            .last_request()
            .filter(|request| request.kind == kind && !request.granted && request.from == board.cell(id));
        asked.and_then(|request| request.heading).or(heading)
    }

    /// A piece between cells, as near as characters come, and the cell it has claimed.
    fn ghost(&self, ghost: &Ghost, extent: Extent, buffer: &mut Buffer) {
        let geometry = &self.book.geometry;
        if let Some(rect) = ghost.claimed.and_then(|cell| self.layout.rect(self.book, extent, cell)) {
            let style = Style::new().fg(self.theme.colour(Theme::waiting_rgb())).add_modifier(Modifier::BOLD);
            Self::frame(rect, style, buffer);
        }
        if let Some(size) = ghost.size {
            return self.body(ghost.kind, (ghost.at, size), extent, buffer);
        }
        let origin = geometry.corner_of_first(extent);
        let (pitch, size) = (geometry.pitch(), geometry.size);
        let (w, h) = self.layout.size;
        let across = (ghost.at.x - size.0 / 2.0 - origin.x) / pitch.0 - f64::from(self.layout.first.0);
        let row = (geometry.row_sign() * (ghost.at.y - origin.y) - size.1 / 2.0) / pitch.1;
        let line = if geometry.rows == RowsFrom::Top { row } else { f64::from(extent.rows) - 1.0 - row };
        let down = line - f64::from(self.layout.first.1);
        let inside = across > -0.5
            && down > -0.5
            && across < f64::from(self.layout.seen.0) - 0.5
            && down < f64::from(self.layout.seen.1) - 0.5;
        if !inside {
            return;
        }
        let place =
            |cells: f64, size: u16, from: u16| (f64::from(from) + (cells * f64::from(size)).round()).max(0.0) as u16;
        let rect = Rect::new(place(across, w, self.layout.area.x), place(down, h, self.layout.area.y), w, h);
        let rect = rect.intersection(self.layout.pane);
        if rect.width > 0 && rect.height > 0 {
            let board = Some(self.grid.board());
            let home = ghost.hides.and_then(|cell| board.and_then(|board| board.id(cell)));
            let facing = home.and_then(|id| self.facing(ghost.kind, id));
            for (x, y) in rect.positions().map(|at| (at.x, at.y)) {
                if let Some(found) = buffer.cell_mut((x, y)) {
                    found.set_symbol(" ");
                }
            }
            let under = geometry.cell_at(extent, ghost.at);
            let ground = board.and_then(|board| {
                let id = board.id(under).filter(|id| !board.is_void(*id))?;
                let floor = board.kinds_at(id).find(|kind| self.book.kind(*kind).layer == 0);
                Some(self.floor_colour(floor, (under.column + under.row) % 2 == 0, id, None))
            });
            self.piece(ghost.kind, facing, ground.unwrap_or(Theme::ground_rgb()), rect, buffer);
        }
    }

    /// Where the part that is seen lies on a board that is larger than its pane.
    fn overview(&self, extent: Extent, area: Rect, buffer: &mut Buffer) {
        let BoardLayout { first, seen, .. } = self.layout;
        if (seen.0 >= extent.columns && seen.1 >= extent.rows) || area.width < 40 || area.height < 14 {
            return;
        }
        let (w, h) = (18u16, 6u16);
        let rect = Rect::new(area.right() - w - 2, area.bottom() - h - 1, w, h);
        let style = Style::new().fg(self.theme.colour(Theme::accent_rgb())).bg(self.theme.colour((0x1b, 0x1f, 0x24)));
        for y in 0..h {
            for x in 0..w {
                let at = |pos: u16, parts: u16, all: u32| u64::from(pos) * u64::from(all) / u64::from(parts);
                let (c, r) = (at(x, w, extent.columns), at(y, h, extent.rows));
                let (c2, r2) = (at(x + 1, w, extent.columns), at(y + 1, h, extent.rows));
                let seen = c < u64::from(first.0 + seen.0)
                    && c2 > u64::from(first.0)
                    && r < u64::from(first.1 + seen.1)
                    && r2 > u64::from(first.1);
                buffer.set_string(rect.x + x, rect.y + y, if seen { "█" } else { "·" }, style);
            }
        }
    }
}

/// The sign of a heading.
fn arrow_sign(heading: Heading) -> String {
    arrow(heading).to_string()
}

/// Where the arrow of a heading stands on a plate: at the edge that it points to.
fn arrow_at(plate: Rect, heading: Heading) -> (u16, u16) {
    let (left, right, middle) = (plate.x, plate.right() - 1, plate.x + plate.width / 2);
    let (top, bottom, half) = (plate.y, plate.bottom() - 1, plate.y + plate.height / 2);
    match heading {
        // Where there is but one line or two, the arrow goes behind the name.
        _ if plate.height < 3 => (right, half),
        Heading::West => (left, half),
        Heading::East => (right, half),
        Heading::North => (middle, top),
        Heading::South => (middle, bottom),
        Heading::NorthWest => (left, top),
        Heading::NorthEast => (right, top),
        Heading::SouthWest => (left, bottom),
        Heading::SouthEast => (right, bottom),
    }
}
