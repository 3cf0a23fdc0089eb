//! A step, a loop over pixels, the grid of a picture and the headings, measured against the board's grid.

use super::geometry::AxisCell;
use super::{Extent, Geometry, Heading, PositionError, WorldPoint, YAxis, parse_pixels, show};
use crate::limits::MOST_LOOP_ROUNDS;
use thiserror::Error;

/// Why something cannot be measured.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[non_exhaustive]
pub enum MeasureError {
    /// It is written otherwise.
    #[error("`{text}` is no {what}: write {form}")]
    Form {
        /// What was written.
        text: String,
        /// What it should be.
        what: &'static str,
        /// How that is written.
        form: &'static str,
    },
    /// A number that is none, or beyond the limits.
    #[error(transparent)]
    Number(#[from] PositionError),
    /// A cell of no size.
    #[error("a cell is larger than 0 px")]
    NoSize,
    /// A loop that goes on for ever.
    #[error("this loop never ends: from {from} by {by} it never comes past {to}")]
    Endless {
        /// Where it starts, in px.
        from: String,
        /// Its step, in px.
        by: String,
        /// Its end, in px.
        to: String,
    },
    /// A loop of more rounds than are followed.
    #[error("too-long: a loop of more than {MOST_LOOP_ROUNDS} rounds")]
    TooLong,
}

fn form(text: &str, what: &'static str, form: &'static str) -> MeasureError {
    let text = text.chars().filter(|c| !c.is_control()).take(60).collect();
    MeasureError::Form { text, what, form }
}

/// `WxH`, two numbers of pixels.
fn pair(text: &str) -> Option<Result<(f64, f64), MeasureError>> {
    let (w, h) = text.split_once('x')?;
    let number = |text: &str| parse_pixels(text.trim()).map_err(MeasureError::from);
    Some(number(w).and_then(|w| Ok((w, number(h)?))))
}

/// Reads a step, `WxH`: pixels along x and along y.
///
/// # Errors
/// It is written otherwise, or a number is beyond the limits.
pub fn parse_step(text: &str) -> Result<(f64, f64), MeasureError> {
    pair(text).unwrap_or_else(|| Err(form(text, "step", "`WxH`, pixels along x and y such as `36x24`")))
}

/// A step along one axis.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct StepAlong {
    /// Its pixels.
    pub px: f64,
    /// Pixels from cell to cell.
    pub pitch: f64,
    /// How many cells it is.
    pub cells: f64,
    /// Whether that is a whole number.
    pub whole: bool,
    /// The whole steps beside it, in px: itself where it is whole.
    pub below: f64,
    /// The next one up.
    pub above: f64,
}

/// A step of so many pixels along x and y, in columns and rows.
pub fn step(geometry: &Geometry, (x, y): (f64, f64)) -> [StepAlong; 2] {
    let pitch = geometry.pitch();
    [(x, pitch.0), (y, pitch.1)].map(|(px, pitch)| {
        let cells = px / pitch + 0.0;
        let whole = cells.fract() == 0.0;
        let beside = |cells: f64| if whole { px } else { cells * pitch + 0.0 };
        StepAlong { px, pitch, cells, whole, below: beside(cells.floor()), above: beside(cells.ceil()) }
    })
}

/// How a loop compares its position with its end.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Until {
    /// `<`
    Less,
    /// `<=`
    AtMost,
    /// `>`
    More,
    /// `>=`
    AtLeast,
}

impl Until {
    const ALL: [(&'static str, Self); 4] =
        [("<", Self::Less), ("<=", Self::AtMost), (">", Self::More), (">=", Self::AtLeast)];

    /// Its symbol.
    pub const fn symbol(self) -> &'static str {
        match self {
            Self::Less => "<",
            Self::AtMost => "<=",
            Self::More => ">",
            Self::AtLeast => ">=",
        }
    }

    fn holds(self, position: f64, end: f64) -> bool {
        match self {
            Self::Less => position < end,
            Self::AtMost => position <= end,
            Self::More => position > end,
            Self::AtLeast => position >= end,
        }
    }
}

/// A loop over pixels: from a start, as long as the comparison with the end holds, by a step.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Loop {
    /// Over y, else over x.
    pub vertical: bool,
    /// The first position.
    pub from: f64,
    /// The comparison.
    pub until: Until,
    /// What is compared with.
    pub to: f64,
    /// From position to position.
    pub by: f64,
}

/// Reads a loop: `x from 0 to < 400 by 60`.
///
/// # Errors
/// It is written otherwise, a number is beyond the limits, or it never ends.
pub fn parse_loop(text: &str) -> Result<Loop, MeasureError> {
    let wrong = || form(text, "loop", "`x from 0 to < 400 by 60`, with `x` or `y` and `<`, `<=`, `>` or `>=`");
    // The comparison may stand against its number.
    let spaced = text.replace("<=", " ≤ ").replace(">=", " ≥ ").replace('<', " < ").replace('>', " > ");
    let words: Vec<&str> = spaced.split_whitespace().collect();
    let [axis @ ("x" | "y"), "from", from, "to", until, to, "by", by] = words[..] else { return Err(wrong()) };
    let until = until.replace('≤', "<=").replace('≥', ">=");
    let until = Until::ALL.into_iter().find(|(symbol, _)| *symbol == until).ok_or_else(wrong)?.1;
    let found =
        Loop { vertical: axis == "y", from: parse_pixels(from)?, until, to: parse_pixels(to)?, by: parse_pixels(by)? };
    let goes_up = matches!(found.until, Until::Less | Until::AtMost);
    let comes_nearer = if goes_up { found.by > 0.0 } else { found.by < 0.0 };
    if found.until.holds(found.from, found.to) && !comes_nearer {
        let [from, by, to] = [found.from, found.by, found.to].map(show);
        return Err(MeasureError::Endless { from, by, to });
    }
    Ok(found)
}

/// What a loop visits.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Visits {
    /// Rounds in all.
    pub rounds: u64,
    /// Rounds in each column or row of the board.
    pub each: Vec<u64>,
    /// Rounds off the board.
    pub outside: u64,
    /// Rounds on the board that are not at the corner of their column or row.
    pub off_corner: u64,
}

impl Visits {
    /// The columns or rows for whose number of rounds something holds.
    pub fn those(&self, wanted: impl Fn(u64) -> bool) -> Vec<usize> {
        self.each.iter().enumerate().filter(|(_, rounds)| wanted(**rounds)).map(|(at, _)| at).collect()
    }

    /// Whether each is visited once, and nothing outside.
    pub fn is_even(&self) -> bool {
        self.outside == 0 && self.each.iter().all(|rounds| *rounds == 1)
    }
}

/// Follows a loop over the board; positions are world pixels, without a hotspot.
///
/// # Errors
/// More rounds than [`MOST_LOOP_ROUNDS`].
pub fn follow(geometry: &Geometry, extent: Extent, over: &Loop) -> Result<Visits, MeasureError> {
    let along = |p: f64| -> AxisCell {
        if over.vertical { geometry.along_y(extent, p, 0.0) } else { geometry.along_x(extent, p, 0.0) }
    };
    let corner = |cell: i64| {
        let cell = if over.vertical { super::Cell::new(0, cell) } else { super::Cell::new(cell, 0) };
        let WorldPoint { x, y } = geometry.corner(extent, cell);
        if over.vertical { y } else { x }
    };
    let count = if over.vertical { extent.rows } else { extent.columns };
    let mut visits = Visits { each: vec![0; count as usize], ..Visits::default() };
    loop {
        let position = over.from + visits.rounds as f64 * over.by;
        if !over.until.holds(position, over.to) {
            return Ok(visits);
        }
        if visits.rounds == MOST_LOOP_ROUNDS as u64 {
            return Err(MeasureError::TooLong);
        }
        visits.rounds += 1;
        let cell = along(position).cell;
        match usize::try_from(cell).ok().and_then(|cell| visits.each.get_mut(cell)) {
            Some(rounds) => {
                *rounds += 1;
                visits.off_corner += u64::from(position != corner(cell));
            }
            None => visits.outside += 1,
        }
    }
}

/// The grid that a picture was drawn on: its cell size, and the corner of its cell 0 in world px.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Picture {
    /// Width and height of a cell.
    pub size: (f64, f64),
    /// The corner of cell 0.
    pub origin: (f64, f64),
}

/// Reads the grid of a picture: `WxH@X,Y`.
///
/// # Errors
/// It is written otherwise, a number is beyond the limits, or a cell has no size.
pub fn parse_picture(text: &str) -> Result<Picture, MeasureError> {
    let wrong = || form(text, "grid of a picture", "`WxH@X,Y`, cell size and origin such as `25x18@3,0`");
    let (size, origin) = text.split_once('@').ok_or_else(wrong)?;
    let size = pair(size).ok_or_else(wrong)??;
    let (x, y) = origin.split_once(',').ok_or_else(wrong)?;
    if size.0 <= 0.0 || size.1 <= 0.0 {
        return Err(MeasureError::NoSize);
    }
    Ok(Picture { size, origin: (parse_pixels(x.trim())?, parse_pixels(y.trim())?) })
}

/// A picture's grid beside the board's, along one axis.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Beside {
    /// Its origin less the board's, in px.
    pub offset: f64,
    /// Its cell.
    pub size: f64,
    /// The board's pitch.
    pub pitch: f64,
    /// Its cell less the pitch.
    pub drift: f64,
    /// How far it is off after all cells of the board, besides the offset.
    pub at_end: f64,
    /// After how many cells it is a whole pitch off or more; `None` without a drift.
    pub cell_after: Option<f64>,
}

impl Beside {
    /// Whether both grids are the same along this axis.
    pub fn is_even(&self) -> bool {
        self.offset == 0.0 && self.drift == 0.0
    }
}

/// A picture's grid beside the board's.
pub fn beside(geometry: &Geometry, extent: Extent, picture: &Picture) -> [Beside; 2] {
    let (pitch, corner) = (geometry.pitch(), geometry.corner_of_first(extent));
    let axes = [
        (picture.size.0, picture.origin.0 - corner.x, pitch.0, extent.columns),
        (picture.size.1, picture.origin.1 - corner.y, pitch.1, extent.rows),
    ];
    axes.map(|(size, offset, pitch, cells)| {
        let drift = size - pitch;
        let cell_after = (drift != 0.0).then(|| (pitch / drift.abs()).ceil());
        Beside { offset, size, pitch, drift, at_end: drift * f64::from(cells), cell_after }
    })
}

/// A heading as a change of cell and of world pixels, and as angles and numbers.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct HeadingNumbers {
    /// The heading.
    pub heading: Heading,
    /// Change of column and row.
    pub cells: (i64, i64),
    /// Change of world x and y.
    pub px: (f64, f64),
    /// Degrees clockwise from north, as seen on the screen.
    pub compass: u32,
    /// Degrees counterclockwise from east.
    pub maths: u32,
    /// 0 to 7 clockwise from north.
    pub eighth: u32,
    /// 0 to 3 clockwise from north; `None` for diagonals.
    pub quarter: Option<u32>,
}

/// All eight headings, clockwise from north.
pub fn headings(geometry: &Geometry) -> [HeadingNumbers; 8] {
    let pitch = geometry.pitch();
    let down = if geometry.y == YAxis::Down { 1.0 } else { -1.0 };
    let mut eighth = 0;
    Heading::CLOCKWISE.map(|heading| {
        let (east, south) = heading.screen_step();
        let numbers = HeadingNumbers {
            heading,
            cells: (east, south * geometry.south()),
            px: (east as f64 * pitch.0 + 0.0, south as f64 * pitch.1 * down + 0.0),
            compass: eighth * 45,
            maths: (450 - eighth * 45) % 360,
            eighth,
            quarter: (eighth % 2 == 0).then_some(eighth / 2),
        };
        eighth += 1;
        numbers
    })
}
