//! One position answered in every space, with the arithmetic line by line.

use super::geometry::AxisCell;
use super::{Cell, CellBox, Extent, Geometry, View, WindowPoint, WorldPoint};
use crate::limits::{FARTHEST_CELL, FARTHEST_PIXEL};
use thiserror::Error;

/// A position as asked about: `px:X,Y`, `win:X,Y`, `cell:C,R` or `index:I`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Position {
    /// World pixels of a piece: the hotspot is added.
    World(WorldPoint),
    /// What the window system reports: no hotspot.
    Window(WindowPoint),
    /// A cell.
    Cell(Cell),
    /// A place in the flat array.
    Index(i64),
}

/// Why a position cannot be read.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[non_exhaustive]
pub enum PositionError {
    /// Not one of the four ways to write a position.
    #[error("`{0}` is no position: write `px:X,Y`, `win:X,Y`, `cell:COLUMN,ROW` or `index:I`")]
    Form(String),
    /// A number that is none, or not a whole one where that is needed.
    #[error("`{number}` in `{position}` is no {wanted}")]
    Number {
        /// The offending part.
        number: String,
        /// The whole position.
        position: String,
        /// What was expected.
        wanted: &'static str,
    },
    /// A number outside the limits.
    #[error("`{number}` in `{position}` is beyond the limit of {limit} on either side of 0")]
    Limit {
        /// The offending part.
        number: String,
        /// The whole position.
        position: String,
        /// The limit.
        limit: &'static str,
    },
    /// A window position without a view.
    #[error("`{0}` is a window position, and the rulebook has no `view`")]
    NoView(String),
}

/// What lies at a position; the first that holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Where {
    /// In a bar beside the drawn picture.
    Bar,
    /// Off the board.
    Outside,
    /// In the gap behind a cell.
    Gap,
    /// On the board, where the map has no cell.
    Void,
    /// In a cell.
    Cell,
}

impl Where {
    /// All of them, in order.
    pub const ALL: [Self; 5] = [Self::Bar, Self::Outside, Self::Gap, Self::Void, Self::Cell];

    /// The word of the formats.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Bar => "bar",
            Self::Outside => "outside",
            Self::Gap => "gap",
            Self::Void => "void",
            Self::Cell => "cell",
        }
    }
}

/// The nearest cell of the board and its centre.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Snap {
    /// The cell.
    pub cell: Cell,
    /// Its centre.
    pub centre: WorldPoint,
}

/// Everything known about one position; a refused index has nothing but `place`.
#[derive(Clone, Debug, PartialEq)]
pub struct Conversion {
    /// What was asked.
    pub input: Position,
    /// What lies there.
    pub place: Where,
    /// The computed cell, on the board or off it.
    pub cell: Option<Cell>,
    /// Its place in the flat array.
    pub index: Option<i64>,
    /// Its corner on the origin's side.
    pub corner: Option<WorldPoint>,
    /// Its middle.
    pub centre: Option<WorldPoint>,
    /// Its rectangle.
    pub cell_box: Option<CellBox>,
    /// Pixels from the corner, counted the way columns and rows count; for positions only.
    pub local: Option<(f64, f64)>,
    /// The position in world pixels; for a cell its centre.
    pub world: Option<WorldPoint>,
    /// The position in the window; for a cell its centre. `None` without a view.
    pub window: Option<WindowPoint>,
    /// The nearest cell of the board.
    pub snap: Option<Snap>,
    /// The arithmetic, one line a step.
    pub steps: Vec<String>,
}

/// Writes a number as people read it: at most seven decimals, no trailing zeros.
pub fn show(number: f64) -> String {
    let text = format!("{number:.7}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" { "0".into() } else { text.into() }
}

/// Reads `px:X,Y`, `win:X,Y`, `cell:C,R` or `index:I`.
///
/// # Errors
/// A [`PositionError`] where the form is another one, a number is none, or one lies beyond the limits.
pub fn parse_position(text: &str) -> Result<Position, PositionError> {
    let form = || PositionError::Form(text.into());
    let (space, rest) = text.split_once(':').ok_or_else(form)?;
    let pair = || rest.split_once(',').ok_or_else(form);
    match space {
        "px" | "win" => {
            let (x, y) = pair()?;
            let (x, y) = (pixels(text, x)?, pixels(text, y)?);
            Ok(if space == "px" {
                Position::World(WorldPoint { x, y })
            } else {
                Position::Window(WindowPoint { x, y })
            })
        }
        "cell" => {
            let (column, row) = pair()?;
            Ok(Position::Cell(Cell::new(whole(text, column)?, whole(text, row)?)))
        }
        "index" => Ok(Position::Index(whole(text, rest)?)),
        _ => Err(form()),
    }
}

fn is_decimal(text: &str) -> bool {
    let digits = text.strip_prefix('-').unwrap_or(text);
    let (before, after) = digits.split_once('.').unwrap_or((digits, "0"));
    [before, after].iter().all(|part| !part.is_empty() && part.bytes().all(|b| b.is_ascii_digit()))
}

/// Reads a number of pixels as positions are written: digits with at most one point, within 1e9 on either side of 0.
///
/// # Errors
/// A [`PositionError`] where it is no such number.
pub fn parse_pixels(number: &str) -> Result<f64, PositionError> {
    pixels(number, number)
}

fn pixels(position: &str, number: &str) -> Result<f64, PositionError> {
    let wrong =
        || PositionError::Number { number: number.into(), position: position.into(), wanted: "number of pixels" };
    if !is_decimal(number) {
        return Err(wrong());
    }
    let value: f64 = number.parse().map_err(|_| wrong())?;
    if value.abs() > FARTHEST_PIXEL {
        return Err(PositionError::Limit { number: number.into(), position: position.into(), limit: "1e9 px" });
    }
    Ok(value)
}

fn whole(position: &str, number: &str) -> Result<i64, PositionError> {
    let digits = number.strip_prefix('-').unwrap_or(number);
    if digits.is_empty() || !digits.bytes().all(|b| b.is_ascii_digit()) {
        return Err(PositionError::Number { number: number.into(), position: position.into(), wanted: "whole number" });
    }
    match number.parse::<i64>() {
        Ok(value) if value.unsigned_abs() <= FARTHEST_CELL => Ok(value),
        _ => Err(PositionError::Limit { number: number.into(), position: position.into(), limit: "1e15" }),
    }
}

/// Answers one position. `is_void` tells whether the map lacks a cell of the board; `hotspot` is the one that counts for
/// the piece asked about.
///
/// # Errors
/// A [`PositionError`] where there is no view, the index lies outside the flat array, or the answer is beyond the limits.
pub fn convert(
    geometry: &Geometry,
    extent: Extent,
    view: Option<&View>,
    hotspot: (f64, f64),
    is_void: &dyn Fn(Cell) -> bool,
    input: Position,
) -> Result<Conversion, PositionError> {
    let mut way = Way { geometry, extent, view, is_void, steps: Vec::new() };
    match input {
        Position::World(world) => {
            let window = view.map(|view| view.window_point(geometry.y, world));
            Ok(way.position(input, world, hotspot, window, false))
        }
        Position::Window(point) => {
            let view = view.ok_or_else(|| PositionError::NoView(format!("win:{},{}", point.x, point.y)))?;
            let design = way.window_steps(view, point);
            let world = view.world_of_design(geometry.y, design);
            Ok(way.position(input, world, (0.0, 0.0), Some(point), !view.drawn(design)))
        }
        Position::Cell(cell) => Ok(way.cell(input, cell)),
        Position::Index(index) => match geometry.cell_of_index(extent, index) {
            Some(cell) => {
                way.index_steps(index, cell);
                Ok(way.cell(input, cell))
            }
            None => Ok(way.refused(input, index)),
        },
    }
}

fn void_or_cell(is_void: &dyn Fn(Cell) -> bool, cell: Cell) -> Where {
    if is_void(cell) { Where::Void } else { Where::Cell }
}

/// The cell of a position, and what lies there: the first that holds.
fn place_of(
    geometry: &Geometry,
    extent: Extent,
    is_void: &dyn Fn(Cell) -> bool,
    across: AxisCell,
    down: AxisCell,
    in_bar: bool,
) -> (Cell, Where) {
    let cell = Cell::new(across.cell, down.cell);
    let in_gap = |gap: f64, size: f64, local: f64| gap > 0.0 && local >= size;
    let place = if in_bar {
        Where::Bar
    } else if !extent.contains(cell) {
        Where::Outside
    } else if in_gap(geometry.gap.0, geometry.size.0, across.local)
        || in_gap(geometry.gap.1, geometry.size.1, down.local)
    {
        Where::Gap
    } else {
        void_or_cell(is_void, cell)
    };
    (cell, place)
}

/// The cell of a world or window position and what lies there, without the arithmetic in words: for long lists.
///
/// A window position needs the view; the hotspot does not count for it.
pub fn locate(
    geometry: &Geometry,
    extent: Extent,
    view: Option<&View>,
    hotspot: (f64, f64),
    is_void: &dyn Fn(Cell) -> bool,
    (x, y): (f64, f64),
) -> (Cell, Where) {
    let (world, hotspot, in_bar) = match view {
        None => (WorldPoint { x, y }, hotspot, false),
        Some(view) => {
            let design = view.design_point(WindowPoint { x, y });
            (view.world_of_design(geometry.y, design), (0.0, 0.0), !view.drawn(design))
        }
    };
    let across = geometry.along_x(extent, world.x, hotspot.0);
    let down = geometry.along_y(extent, world.y, hotspot.1);
    place_of(geometry, extent, is_void, across, down, in_bar)
}

struct Way<'a> {
    geometry: &'a Geometry,
    extent: Extent,
    view: Option<&'a View>,
    is_void: &'a dyn Fn(Cell) -> bool,
    steps: Vec<String>,
}

impl Way<'_> {
    fn window_steps(&mut self, view: &View, point: WindowPoint) -> (f64, f64) {
        let frame = view.frame();
        let design = view.design_point(point);
        let camera = view.camera(self.geometry.y);
        let down = if self.geometry.y == super::YAxis::Up { '-' } else { '+' };
        let world = view.world_of_design(self.geometry.y, design);
        let axes = [
            ("x", '+', point.x, frame.bar.0, frame.k.0, design.0, camera.x, world.x),
            ("y", down, point.y, frame.bar.1, frame.k.1, design.1, camera.y, world.y),
        ];
        for (axis, sign, p, bar, k, on_design, camera, world) in axes {
            let [p, density, px] = [p, view.density, p * view.density].map(show);
            let [bar, k, on_design, zoom] = [bar, k, on_design, view.zoom].map(show);
            self.steps.push(format!("{axis}: window px = {p} * {density} = {px}"));
            self.steps.push(format!("{axis}: design = ({px} - {bar}) / {k} = {on_design}"));
            self.steps.push(format!("{axis}: world = {} {sign} {on_design} / {zoom} = {}", show(camera), show(world)));
        }
        design
    }

    fn axis_steps(&mut self, axis: &str, line: &str, sign: f64, p: f64, hotspot: f64, origin: f64, found: AxisCell) {
        let sum = format!("{} + {} - {}", show(p), show(hotspot), show(origin));
        let sum = if sign < 0.0 { format!("-({sum})") } else { sum };
        let [t, pitch, quotient] = [found.t, found.pitch, found.t / found.pitch].map(show);
        self.steps.push(format!("{axis}: t = {sum} = {t}"));
        self.steps.push(format!("{line} = floor({t} / {pitch}) = floor({quotient}) = {}", found.cell));
    }

    fn position(
        mut self,
        input: Position,
        world: WorldPoint,
        hotspot: (f64, f64),
        window: Option<WindowPoint>,
        in_bar: bool,
    ) -> Conversion {
        let origin = self.geometry.corner_of_first(self.extent);
        let across = self.geometry.along_x(self.extent, world.x, hotspot.0);
        let down = self.geometry.along_y(self.extent, world.y, hotspot.1);
        self.axis_steps("x", "column", 1.0, world.x, hotspot.0, origin.x, across);
        self.axis_steps("y", "row", self.geometry.row_sign(), world.y, hotspot.1, origin.y, down);
        let (cell, place) = place_of(self.geometry, self.extent, self.is_void, across, down, in_bar);
        self.answer(input, place, cell, Some((across.local, down.local)), world, window)
    }

    fn cell(self, input: Position, cell: Cell) -> Conversion {
        let place = if self.extent.contains(cell) { self.void_or_cell(cell) } else { Where::Outside };
        let world = self.geometry.centre(self.extent, cell);
        let window = self.view.map(|view| view.window_point(self.geometry.y, world));
        self.answer(input, place, cell, None, world, window)
    }

    fn void_or_cell(&self, cell: Cell) -> Where {
        void_or_cell(self.is_void, cell)
    }

    fn answer(
        mut self,
        input: Position,
        place: Where,
        cell: Cell,
        local: Option<(f64, f64)>,
        world: WorldPoint,
        window: Option<WindowPoint>,
    ) -> Conversion {
        let (geometry, extent) = (self.geometry, self.extent);
        let index = geometry.index(extent, cell);
        let corner = geometry.corner(extent, cell);
        let centre = geometry.centre(extent, cell);
        self.back_steps(cell, index, corner, centre);
        let nearest = Cell::new(
            cell.column.clamp(0, i64::from(extent.columns) - 1),
            cell.row.clamp(0, i64::from(extent.rows) - 1),
        );
        Conversion {
            input,
            place,
            cell: Some(cell),
            index,
            corner: Some(corner),
            centre: Some(centre),
            cell_box: Some(geometry.cell_box(extent, cell)),
            local,
            world: Some(world),
            window,
            snap: Some(Snap { cell: nearest, centre: geometry.centre(extent, nearest) }),
            steps: self.steps,
        }
    }

    fn index_steps(&mut self, index: i64, cell: Cell) {
        let first = self.geometry.first_index;
        let place = index - first;
        let Extent { columns, rows } = self.extent;
        let (column, row) = (cell.column, cell.row);
        let (c, r) = match self.geometry.order {
            super::IndexOrder::RowMajor => (format!("{place} mod {columns}"), format!("floor({place} / {columns})")),
            super::IndexOrder::ColumnMajor => (format!("floor({place} / {rows})"), format!("{place} mod {rows}")),
        };
        self.steps.push(format!("place = {index} - {first} = {place}"));
        self.steps.push(format!("column = {c} = {column}"));
        self.steps.push(format!("row = {r} = {row}"));
    }

    fn back_steps(&mut self, cell: Cell, index: Option<i64>, corner: WorldPoint, centre: WorldPoint) {
        let Extent { columns, rows } = self.extent;
        let (column, row) = (cell.column, cell.row);
        let first = match self.geometry.first_index {
            0 => String::new(),
            first => format!(" + {first}"),
        };
        self.steps.push(match (index, self.geometry.order) {
            (None, _) => {
                format!("index: none, {column},{row} is outside columns 0..{} and rows 0..{}", columns - 1, rows - 1)
            }
            (Some(index), super::IndexOrder::RowMajor) => {
                format!("index = {row} * {columns} + {column}{first} = {index}")
            }
            (Some(index), super::IndexOrder::ColumnMajor) => {
                format!("index = {column} * {rows} + {row}{first} = {index}")
            }
        });
        let origin = self.geometry.corner_of_first(self.extent);
        let (pitch, size) = (self.geometry.pitch(), self.geometry.size);
        let sign = if self.geometry.row_sign() < 0.0 { '-' } else { '+' };
        let axes = [
            ("x", '+', origin.x, column, pitch.0, size.0, corner.x, centre.x),
            ("y", sign, origin.y, row, pitch.1, size.1, corner.y, centre.y),
        ];
        for (axis, sign, origin, i, pitch, size, corner, centre) in axes {
            let [origin, pitch, size, corner, centre] = [origin, pitch, size, corner, centre].map(show);
            self.steps.push(format!("{axis}: corner = {origin} {sign} {i} * {pitch} = {corner}"));
            self.steps.push(format!("{axis}: centre = {origin} {sign} ({i} * {pitch} + {size} / 2) = {centre}"));
        }
    }

    fn refused(mut self, input: Position, index: i64) -> Conversion {
        let first = self.geometry.first_index;
        let end = first as u64 + self.extent.cells();
        self.steps.push(format!("index {index} is outside {first} .. {}", end - 1));
        Conversion {
            input,
            place: Where::Outside,
            cell: None,
            index: None,
            corner: None,
            centre: None,
            cell_box: None,
            local: None,
            world: None,
            window: None,
            snap: None,
            steps: self.steps,
        }
    }
}
