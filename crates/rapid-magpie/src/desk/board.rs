//! How the board is looked at: what is written into its cells, where it was drawn, and what lies under a character of it.

use magpie_core::rulebook::{KindId, Rulebook};
use magpie_core::space::{Cell, Extent, Heading, RowsFrom, WorldPoint};
use ratatui::layout::Rect;

/// How the board is looked at.
#[derive(Clone, Copy, Debug, Default)]
pub struct Picture {
    /// What is written into the cells.
    pub overlay: Overlay,
    /// The cell that was clicked.
    pub cursor: Option<Cell>,
    /// Where the finger is down on the board.
    pub finger: Option<Cell>,
    /// Where it has been drawn to.
    pub finger_at: Option<Cell>,
    /// The kind that is counted on the rims.
    pub counted: Option<KindId>,
    /// Where the board was drawn last.
    pub layout: BoardLayout,
}

/// A cell, and how far into it, from 0 to 1 each way on the screen.
pub type Within = (Cell, (f64, f64));

/// What the mouse does on the board.
#[derive(Clone, Copy, Debug)]
pub enum Finger {
    /// Its button goes down.
    Down {
        /// On the board.
        inside: Option<Within>,
        /// On the board or beside it.
        place: Option<Cell>,
    },
    /// It moves with its button down.
    Moved {
        /// On the board.
        inside: Option<Within>,
    },
    /// Its button goes up.
    Up {
        /// On the board or beside it.
        place: Option<Cell>,
    },
}

/// What is written into the cells.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Overlay {
    /// What stands there.
    #[default]
    Content,
    /// Column and row.
    Place,
    /// The place in the flat array.
    Index,
    /// Nothing.
    Nothing,
}

impl Overlay {
    /// The next one.
    pub const fn next(self) -> Self {
        match self {
            Self::Content => Self::Place,
            Self::Place => Self::Index,
            Self::Index => Self::Nothing,
            Self::Nothing => Self::Content,
        }
    }

    /// A word for the title.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Content => "content",
            Self::Place => "column,row",
            Self::Index => "index",
            Self::Nothing => "nothing",
        }
    }
}

/// A piece drawn between cells.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ghost {
    /// Its kind.
    pub kind: KindId,
    /// Where its middle is, in world pixels.
    pub at: WorldPoint,
    /// Width and height of a free body, in px; any other piece is as large as a cell.
    pub size: Option<(f64, f64)>,
    /// The cell the board has it in.
    pub claimed: Option<Cell>,
    /// The cell in which its kind is not drawn.
    pub hides: Option<Cell>,
}

/// Where the board was drawn: which cells, and how large.
#[derive(Clone, Copy, Debug, Default)]
pub struct BoardLayout {
    /// The whole pane.
    pub(super) pane: Rect,
    /// Where the cells are, in it.
    pub(super) area: Rect,
    /// Column and line (from the top) of the upper left cell seen.
    pub(super) first: (u32, u32),
    /// How many columns and lines are seen.
    pub(super) seen: (u32, u32),
    /// Characters a cell.
    pub(super) size: (u16, u16),
}

impl BoardLayout {
    /// The cell under a character, and how far into it, from 0 to 1 each way on the screen.
    pub fn cell_at(&self, book: &Rulebook, extent: Extent, column: u16, line: u16) -> Option<(Cell, (f64, f64))> {
        let (x, y) = (column.checked_sub(self.area.x)?, line.checked_sub(self.area.y)?);
        let (w, h) = self.size;
        if w == 0 || h == 0 || u32::from(x / w) >= self.seen.0 || u32::from(y / h) >= self.seen.1 {
            return None;
        }
        let at = Cell::new(
            i64::from(self.first.0 + u32::from(x / w)),
            row_of(book, extent, self.first.1 + u32::from(y / h)),
        );
        Some((at, ((f64::from(x % w) + 0.5) / f64::from(w), (f64::from(y % h) + 0.5) / f64::from(h))))
    }

    /// The place under a character of the pane, on the board or beside it.
    pub fn place_at(&self, book: &Rulebook, extent: Extent, column: u16, line: u16) -> Option<Cell> {
        let (w, h) = self.size;
        if w == 0 || h == 0 || !self.pane.contains((column, line).into()) {
            return None;
        }
        let fields = |at: u16, from: u16, size: u16| (i64::from(at) - i64::from(from)).div_euclid(i64::from(size));
        let down = i64::from(self.first.1) + fields(line, self.area.y, h);
        let rows = i64::from(extent.rows);
        let row = if book.geometry.rows == RowsFrom::Top { down } else { rows - 1 - down };
        Some(Cell::new(i64::from(self.first.0) + fields(column, self.area.x, w), row))
    }

    /// The characters of a cell, `None` where it is not seen.
    pub(super) fn rect(&self, book: &Rulebook, extent: Extent, cell: Cell) -> Option<Rect> {
        let line = row_of(book, extent, u32::try_from(cell.row).ok()?);
        let x = u32::try_from(cell.column).ok()?.checked_sub(self.first.0)?;
        let y = u32::try_from(line).ok()?.checked_sub(self.first.1)?;
        if x >= self.seen.0 || y >= self.seen.1 {
            return None;
        }
        let (w, h) = self.size;
        Some(Rect::new(self.area.x + x as u16 * w, self.area.y + y as u16 * h, w, h))
    }
}

/// The row of a line of the screen, and the other way round.
pub(super) fn row_of(book: &Rulebook, extent: Extent, line: u32) -> i64 {
    let line = i64::from(line);
    if book.geometry.rows == RowsFrom::Top { line } else { i64::from(extent.rows) - 1 - line }
}

/// The arrow of a heading.
pub const fn arrow(heading: Heading) -> char {
    match heading {
        Heading::West => '←',
        Heading::East => '→',
        Heading::North => '↑',
        Heading::South => '↓',
        Heading::NorthWest => '↖',
        Heading::NorthEast => '↗',
        Heading::SouthWest => '↙',
        Heading::SouthEast => '↘',
    }
}

#[cfg(test)]
#[path = "board_tests.rs"]
mod tests;
