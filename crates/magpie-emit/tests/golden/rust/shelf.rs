//! This was emitted by rapid-magpie, and is replaced where that is done again.
//! The same results as `rapid-magpie convert`, to the last bit.
//! The grid of "Shelf", rulebook "shelf.magpie".

#![allow(dead_code, clippy::all)]

#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Cell { pub column: i64, pub row: i64 }

#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Point { pub x: f64, pub y: f64 }

#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rect { pub x: f64, pub y: f64, pub w: f64, pub h: f64 }

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Where { Bar, Outside, Gap, Void, Cell }

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Kind { Plank, Porter, Crate }

/// Width of a cell in px.
pub const CELL_WIDTH: f64 = 24.0;
/// Height of a cell in px.
pub const CELL_HEIGHT: f64 = 20.0;
/// From one column to the next, in px.
pub const PITCH_X: f64 = 26.0;
/// From one row to the next, in px.
pub const PITCH_Y: f64 = 22.0;
/// Added to the positions of pieces, in px.
pub const HOTSPOT_X: f64 = 0.0;
/// The same along y, in px.
pub const HOTSPOT_Y: f64 = 5.0;
/// Index of the first cell.
pub const FIRST_INDEX: i64 = 1;
/// Window px in a design px, along x.
pub const SCALE_X: f64 = 2.0;
/// Window px in a design px, along y.
pub const SCALE_Y: f64 = 2.0;
/// Width of the bar left of the picture, in window px.
pub const BAR_X: f64 = 0.0;
/// Height of the bar above the picture, in window px.
pub const BAR_Y: f64 = 0.0;
/// Width of the picture in design px.
pub const DESIGN_WIDTH: f64 = 240.0;
/// Height of the picture in design px.
pub const DESIGN_HEIGHT: f64 = 120.0;
/// World x of the picture's upper left corner.
pub const CAMERA_X: f64 = 0.0;
/// World y of the picture's upper left corner.
pub const CAMERA_Y: f64 = 0.0;

/// The grid of a map.
#[derive(Clone, Copy, Debug)]
pub struct Grid {
    pub columns: i64,
    pub rows: i64,
    origin_x: f64,
    origin_y: f64,
    void: &'static [&'static str],
}

impl Grid {
    /// The grid of a map, counted from 1.
    pub fn of_map(map: usize) -> Self {
        match map {
            // "Left"
            1 => Self { columns: 3, rows: 2, origin_x: 8.0, origin_y: 6.0, void: &["...", ".. "] },
            // "Right"
            _ => Self { columns: 4, rows: 1, origin_x: 8.0, origin_y: 6.0, void: &["...."] },
        }
    }

    /// The cell of a world position, on the board or off it.
    pub fn world_to_cell(&self, x: f64, y: f64) -> Cell {
        let column = ((x + HOTSPOT_X - self.origin_x) / PITCH_X).floor() as i64;
        let row = ((y + HOTSPOT_Y - self.origin_y) / PITCH_Y).floor() as i64;
        Cell { column, row }
    }

    /// What lies at a world position.
    pub fn world_where(&self, x: f64, y: f64) -> Where {
        let cell = self.world_to_cell(x, y);
        if !self.inside(cell) {
            return Where::Outside;
        }
        let across = x + HOTSPOT_X - self.origin_x;
        if across - (across / PITCH_X).floor() * PITCH_X >= CELL_WIDTH {
            return Where::Gap;
        }
        let down = y + HOTSPOT_Y - self.origin_y;
        if down - (down / PITCH_Y).floor() * PITCH_Y >= CELL_HEIGHT {
            return Where::Gap;
        }
        if self.void[cell.row as usize].as_bytes()[cell.column as usize] == b' ' {
            return Where::Void;
        }
        Where::Cell
    }

    /// The cell of the board that is nearest to a world position.
    pub fn snap(&self, x: f64, y: f64) -> Cell {
        let cell = self.world_to_cell(x, y);
        Cell { column: cell.column.clamp(0, self.columns - 1), row: cell.row.clamp(0, self.rows - 1) }
    }

    /// The corner of a cell where counting starts, in world px.
    pub fn cell_to_corner(&self, cell: Cell) -> Point {
        Point { x: self.origin_x + cell.column as f64 * PITCH_X, y: self.origin_y + cell.row as f64 * PITCH_Y }
    }

    /// The middle of a cell in world px.
    pub fn cell_to_centre(&self, cell: Cell) -> Point {
        Point { x: self.origin_x + (cell.column as f64 * PITCH_X + CELL_WIDTH / 2.0), y: self.origin_y + (cell.row as f64 * PITCH_Y + CELL_HEIGHT / 2.0) }
    }

    /// The rectangle of a cell, from its smallest x and y.
    pub fn cell_to_box(&self, cell: Cell) -> Rect {
        let corner = self.cell_to_corner(cell);
        Rect { x: corner.x, y: corner.y, w: CELL_WIDTH, h: CELL_HEIGHT }
    }

    /// Whether a cell lies on the board.
    pub fn inside(&self, cell: Cell) -> bool {
        cell.column >= 0 && cell.column < self.columns && cell.row >= 0 && cell.row < self.rows
    }

    /// The place of a cell in the flat array, nothing off the board.
    pub fn cell_to_index(&self, cell: Cell) -> Option<i64> {
        if !self.inside(cell) {
            return None;
        }
        Some(cell.row * self.columns + cell.column + FIRST_INDEX)
    }

    /// The cell at a place in the flat array, nothing where there is none.
    pub fn index_to_cell(&self, index: i64) -> Option<Cell> {
        let place = index - FIRST_INDEX;
        if place < 0 || place >= self.columns * self.rows {
            return None;
        }
        Some(Cell { column: place % self.columns, row: place / self.columns })
    }

    /// The cell of the world position of a piece of this kind, whose hotspot counts.
    pub fn world_to_cell_of(&self, kind: Kind, x: f64, y: f64) -> Cell {
        if kind == Kind::Crate {
            let column = ((x + 3.0 - self.origin_x) / PITCH_X).floor() as i64;
            let row = ((y + 0.0 - self.origin_y) / PITCH_Y).floor() as i64;
            return Cell { column, row };
        }
        self.world_to_cell(x, y)
    }

    /// The world position of a window position.
    pub fn window_to_world(&self, x: f64, y: f64) -> Point {
        let across = x / SCALE_X;
        let down = y / SCALE_Y;
        Point { x: CAMERA_X + across, y: CAMERA_Y + down }
    }

    /// The window position of a world position.
    pub fn world_to_window(&self, x: f64, y: f64) -> Point {
        Point { x: x * SCALE_X + BAR_X, y: y * SCALE_Y + BAR_Y }
    }

    /// The cell of a world position without any hotspot.
    pub fn cell_at(&self, x: f64, y: f64) -> Cell {
        let column = ((x - self.origin_x) / PITCH_X).floor() as i64;
        let row = ((y - self.origin_y) / PITCH_Y).floor() as i64;
        Cell { column, row }
    }

    /// What lies at a world position without any hotspot.
    pub fn where_at(&self, x: f64, y: f64) -> Where {
        let cell = self.cell_at(x, y);
        if !self.inside(cell) {
            return Where::Outside;
        }
        let across = x - self.origin_x;
        if across - (across / PITCH_X).floor() * PITCH_X >= CELL_WIDTH {
            return Where::Gap;
        }
        let down = y - self.origin_y;
        if down - (down / PITCH_Y).floor() * PITCH_Y >= CELL_HEIGHT {
            return Where::Gap;
        }
        if self.void[cell.row as usize].as_bytes()[cell.column as usize] == b' ' {
            return Where::Void;
        }
        Where::Cell
    }

    /// The cell of a window position, on the board or off it.
    pub fn window_to_cell(&self, x: f64, y: f64) -> Cell {
        let world = self.window_to_world(x, y);
        self.cell_at(world.x, world.y)
    }

    /// What lies at a window position.
    pub fn window_where(&self, x: f64, y: f64) -> Where {
        let across = x / SCALE_X;
        let down = y / SCALE_Y;
        if !(across >= 0.0 && across < DESIGN_WIDTH && down >= 0.0 && down < DESIGN_HEIGHT) {
            return Where::Bar;
        }
        let world = self.window_to_world(x, y);
        self.where_at(world.x, world.y)
    }

    /// The window position of the middle of a cell.
    pub fn cell_to_window(&self, cell: Cell) -> Point {
        let centre = self.cell_to_centre(cell);
        self.world_to_window(centre.x, centre.y)
    }
}
