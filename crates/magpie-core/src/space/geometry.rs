//! The numbers of a grid and the arithmetic between world positions, cells and indices.

use super::Heading;

/// A place on the grid, counted from 0; it may lie off the board.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Cell {
    /// Column, counted from the left.
    pub column: i64,
    /// Row, counted from the edge that [`RowsFrom`] names.
    pub row: i64,
}

impl Cell {
    /// The cell at a column and a row.
    pub const fn new(column: i64, row: i64) -> Self {
        Self { column, row }
    }
}

/// A position in world pixels.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct WorldPoint {
    /// Pixels to the right.
    pub x: f64,
    /// Pixels along the world's y axis, which points down or up.
    pub y: f64,
}

/// A cell's rectangle from its smallest x and y, in world pixels.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct CellBox {
    /// Smallest x.
    pub x: f64,
    /// Smallest y.
    pub y: f64,
    /// Width.
    pub w: f64,
    /// Height.
    pub h: f64,
}

/// Which way the world's y axis points on the screen.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum YAxis {
    /// y grows downwards.
    Down,
    /// y grows upwards.
    Up,
}

/// The edge of the board from which rows are counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RowsFrom {
    /// Row 0 is at the top of the screen.
    Top,
    /// Row 0 is at the bottom of the screen.
    Bottom,
}

/// How a cell's place in the flat array is counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum IndexOrder {
    /// row * columns + column.
    RowMajor,
    /// column * rows + row.
    ColumnMajor,
}

/// Where the outer corner of cell (0, 0) lies.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Origin {
    /// At this world position.
    Corner(WorldPoint),
    /// Where it puts the middle of the board, without the gap behind the last cell, at this world position.
    Centre(WorldPoint),
}

/// The size of a board in cells.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Extent {
    /// Number of columns.
    pub columns: u32,
    /// Number of rows.
    pub rows: u32,
}

impl Extent {
    /// Number of cells of the whole rectangle.
    pub const fn cells(self) -> u64 {
        self.columns as u64 * self.rows as u64
    }

    /// Whether a cell lies inside.
    pub const fn contains(self, cell: Cell) -> bool {
        cell.column >= 0 && cell.column < self.columns as i64 && cell.row >= 0 && cell.row < self.rows as i64
    }
}

/// The numbers of a rulebook's grid.
///
/// # Examples
/// ```
/// use magpie_core::space::{Cell, Extent, Geometry, WorldPoint};
///
/// let (grid, extent) = (Geometry::of_cells(24.0, 18.0), Extent { columns: 10, rows: 6 });
/// // Pixels in, columns and rows out: (x, y) are world pixels, cells count from the first column and row.
/// assert_eq!(grid.cell_at(extent, WorldPoint { x: 47.9, y: 18.0 }), Cell::new(1, 1));
/// assert_eq!(grid.centre(extent, Cell::new(1, 1)), WorldPoint { x: 36.0, y: 27.0 });
/// assert_eq!(grid.index(extent, Cell::new(1, 1)), Some(11));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Geometry {
    /// Cell width and height in pixels.
    pub size: (f64, f64),
    /// Pixels between neighbouring columns and rows.
    pub gap: (f64, f64),
    /// Where counting starts.
    pub origin: Origin,
    /// Offset added to positions of pieces, in world axes.
    pub hotspot: (f64, f64),
    /// Direction of the world's y axis.
    pub y: YAxis,
    /// Edge from which rows count.
    pub rows: RowsFrom,
    /// Layout of the flat array.
    pub order: IndexOrder,
    /// Index of the first cell, 0 or 1.
    pub first_index: i64,
}

/// Where a position falls along one axis: the numbers of `t`, cell and rest, in this order of computation.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct AxisCell {
    pub t: f64,
    pub pitch: f64,
    pub cell: i64,
    pub local: f64,
}

impl Geometry {
    /// A grid of this cell size with every other number as a rulebook has it that says nothing.
    pub const fn of_cells(width: f64, height: f64) -> Self {
        Self {
            size: (width, height),
            gap: (0.0, 0.0),
            origin: Origin::Corner(WorldPoint { x: 0.0, y: 0.0 }),
            hotspot: (0.0, 0.0),
            y: YAxis::Down,
            rows: RowsFrom::Top,
            order: IndexOrder::RowMajor,
            first_index: 0,
        }
    }

    /// Size plus gap of both axes, in pixels.
    pub fn pitch(&self) -> (f64, f64) {
        (self.size.0 + self.gap.0, self.size.1 + self.gap.1)
    }

    /// +1 where rows count the way the y axis points, else -1.
    pub fn row_sign(&self) -> f64 {
        if (self.y == YAxis::Down) == (self.rows == RowsFrom::Top) { 1.0 } else { -1.0 }
    }

    /// A place of the world in pitches to the right of the board's upper left corner and below it, as it is seen.
    pub fn as_seen(&self, extent: Extent, at: WorldPoint) -> (f64, f64) {
        let (origin, pitch) = (self.corner_of_first(extent), self.pitch());
        let row = self.row_sign() * (at.y - origin.y) / pitch.1;
        let down = if self.rows == RowsFrom::Top { row } else { f64::from(extent.rows) - row };
        ((at.x - origin.x) / pitch.0, down)
    }

    /// +1 where a step south is a step to the next row, else -1.
    pub const fn south(&self) -> i64 {
        match self.rows {
            RowsFrom::Top => 1,
            RowsFrom::Bottom => -1,
        }
    }

    /// The outer corner of cell (0, 0) of a board of this extent, in world pixels.
    pub fn corner_of_first(&self, extent: Extent) -> WorldPoint {
        match self.origin {
            Origin::Corner(point) => point,
            Origin::Centre(middle) => {
                let pitch = self.pitch();
                let width = f64::from(extent.columns) * pitch.0 - self.gap.0;
                let height = f64::from(extent.rows) * pitch.1 - self.gap.1;
                WorldPoint { x: middle.x - width / 2.0, y: middle.y - self.row_sign() * height / 2.0 }
            }
        }
    }

    /// The cell of a world position, with the hotspot given, along x.
    pub(super) fn along_x(&self, extent: Extent, x: f64, hotspot: f64) -> AxisCell {
        along(1.0, x, hotspot, self.corner_of_first(extent).x, self.pitch().0)
    }

    /// The cell of a world position, with the hotspot given, along y.
    pub(super) fn along_y(&self, extent: Extent, y: f64, hotspot: f64) -> AxisCell {
        along(self.row_sign(), y, hotspot, self.corner_of_first(extent).y, self.pitch().1)
    }

    /// The cell that owns a world position; gaps belong to the cell before them. The hotspot is not added.
    pub fn cell_at(&self, extent: Extent, point: WorldPoint) -> Cell {
        Cell::new(self.along_x(extent, point.x, 0.0).cell, self.along_y(extent, point.y, 0.0).cell)
    }

    /// The corner of a cell on the origin's side, in world pixels.
    pub fn corner(&self, extent: Extent, cell: Cell) -> WorldPoint {
        self.point_in(extent, cell, (0.0, 0.0))
    }

    /// The middle of a cell, in world pixels.
    pub fn centre(&self, extent: Extent, cell: Cell) -> WorldPoint {
        self.point_in(extent, cell, (self.size.0 / 2.0, self.size.1 / 2.0))
    }

    /// The point of a cell that lies so many pixels from its corner, counted the way columns and rows count.
    pub fn point_in(&self, extent: Extent, cell: Cell, local: (f64, f64)) -> WorldPoint {
        let origin = self.corner_of_first(extent);
        let pitch = self.pitch();
        WorldPoint {
            x: origin.x + (cell.column as f64 * pitch.0 + local.0),
            y: origin.y + self.row_sign() * (cell.row as f64 * pitch.1 + local.1) + 0.0,
        }
    }

    /// The rectangle of a cell as a draw call wants it.
    pub fn cell_box(&self, extent: Extent, cell: Cell) -> CellBox {
        let corner = self.corner(extent, cell);
        let y = if self.row_sign() > 0.0 { corner.y } else { corner.y - self.size.1 };
        CellBox { x: corner.x, y, w: self.size.0, h: self.size.1 }
    }

    /// The place of a cell in the flat array, `None` off the board.
    pub fn index(&self, extent: Extent, cell: Cell) -> Option<i64> {
        extent.contains(cell).then(|| {
            self.first_index
                + match self.order {
                    IndexOrder::RowMajor => cell.row * i64::from(extent.columns) + cell.column,
                    IndexOrder::ColumnMajor => cell.column * i64::from(extent.rows) + cell.row,
                }
        })
    }

    /// The cell at a place in the flat array, `None` where there is none.
    pub fn cell_of_index(&self, extent: Extent, index: i64) -> Option<Cell> {
        let place = index.checked_sub(self.first_index)?;
        if place < 0 || place as u64 >= extent.cells() {
            return None;
        }
        let (columns, rows) = (i64::from(extent.columns), i64::from(extent.rows));
        Some(match self.order {
            IndexOrder::RowMajor => Cell::new(place % columns, place / columns),
            IndexOrder::ColumnMajor => Cell::new(place / rows, place % rows),
        })
    }

    /// The neighbour of a cell along a heading; it may lie off the board.
    pub fn neighbour(&self, cell: Cell, heading: Heading) -> Cell {
        let (east, south) = heading.screen_step();
        Cell::new(cell.column + east, cell.row + south * self.south())
    }
}

fn along(sign: f64, p: f64, hotspot: f64, origin: f64, pitch: f64) -> AxisCell {
    let t = sign * (p + hotspot - origin);
    let cell = (t / pitch).floor();
    AxisCell { t: t + 0.0, pitch, cell: cell as i64, local: t - cell * pitch + 0.0 }
}
