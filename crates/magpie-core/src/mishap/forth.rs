//! From a position to a column and a row, right and wrong, stage by stage.

use crate::space::{Extent, Frame, Geometry, View, WindowPoint, WorldPoint, YAxis};

/// A position that is asked about, and the numbers that answer it.
#[derive(Clone, Copy, Debug)]
pub struct Asked<'a> {
    /// The numbers of the grid.
    pub geometry: &'a Geometry,
    /// The size of the board in cells.
    pub extent: Extent,
    /// How the world reaches the window.
    pub view: Option<&'a View>,
    /// The hotspot that counts; for window positions it never does.
    pub hotspot: (f64, f64),
    /// The position in world pixels.
    pub world: WorldPoint,
    /// The same position as the window system reports it, where it was asked about as such.
    pub window: Option<WindowPoint>,
}

/// The numbers of one axis of a grid.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct AxisNumbers {
    /// Corner of cell 0 on the side where counting starts, in world pixels.
    pub origin: f64,
    /// Offset added to the positions of pieces, in world pixels.
    pub hotspot: f64,
    /// +1 where cells count the way the world's axis points, else -1.
    pub sign: f64,
    /// Size of a cell in pixels.
    pub size: f64,
    /// Pixels between neighbours.
    pub gap: f64,
    /// Number of cells.
    pub count: u32,
}

impl AxisNumbers {
    /// Size plus gap, in pixels.
    pub fn pitch(self) -> f64 {
        self.size + self.gap
    }

    /// The right column or row of a position.
    pub fn cell(self, p: f64) -> f64 {
        (self.sign * (p + self.hotspot - self.origin) / self.pitch()).floor()
    }

    /// Whether a position lies in one of the cells, its gap counted to it.
    pub fn is_within(self, p: f64) -> bool {
        let cell = self.cell(p);
        cell >= 0.0 && cell < f64::from(self.count)
    }

    /// The middle of a cell in world pixels.
    pub fn centre(self, i: f64) -> f64 {
        self.origin + self.sign * (i * self.pitch() + self.size / 2.0)
    }

    /// The middle of the nearest cell of the board.
    pub fn snap(self, p: f64) -> f64 {
        self.centre(self.clamped(self.cell(p)))
    }

    /// The nearest column or row of the board.
    pub fn clamped(self, i: f64) -> f64 {
        i.clamp(0.0, f64::from(self.count) - 1.0)
    }
}

/// The numbers of both axes of a grid.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Numbers {
    /// Along columns.
    pub x: AxisNumbers,
    /// Along rows.
    pub y: AxisNumbers,
}

impl Numbers {
    /// The numbers of a board of this extent for positions with this hotspot.
    pub fn new(geometry: &Geometry, extent: Extent, hotspot: (f64, f64)) -> Self {
        let origin = geometry.corner_of_first(extent);
        let axis = |origin, hotspot, sign, size, gap, count| AxisNumbers { origin, hotspot, sign, size, gap, count };
        Self {
            x: axis(origin.x, hotspot.0, 1.0, geometry.size.0, geometry.gap.0, extent.columns),
            y: axis(origin.y, hotspot.1, geometry.row_sign(), geometry.size.1, geometry.gap.1, extent.rows),
        }
    }

    /// The right column and row of a position.
    pub fn cell(&self, world: WorldPoint) -> [f64; 2] {
        [self.x.cell(world.x), self.y.cell(world.y)]
    }
}

/// What is left out between window and world.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum ViewSlip {
    #[default]
    Right,
    Scale,
    Bar,
    Camera,
    Density,
}

/// Where the hotspot is added.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum HotspotSlip {
    #[default]
    Right,
    Forgotten,
    AfterDivision,
    AfterRounding,
}

/// Where the origin is subtracted.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum OriginSlip {
    #[default]
    Right,
    Forgotten,
    AfterDivision,
    AfterRounding,
    OnlyItDivided,
}

/// How the quotient becomes a whole number.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum Rounding {
    #[default]
    Floor,
    Truncate,
    Round,
    /// Rounded as half a cell more and floor do it: halves go up.
    HalfUp,
    Ceil,
    /// Up, less one: the far edge belongs to the cell.
    FarEdge,
    Not,
}

/// Which way rows are counted.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum Turn {
    #[default]
    Right,
    /// The right row, counted from the other edge.
    OtherEdge,
    /// Pixels measured from the other edge.
    OtherEdgePixels,
    /// The distance taken the other way.
    OtherWay,
}

/// What is exchanged.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum Swap {
    #[default]
    Nothing,
    /// Column and row.
    Cells,
    /// x and y, before anything else.
    Pixels,
}

/// A way from a position to a cell; the default is the right one.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Recipe {
    pub(super) view: ViewSlip,
    pub(super) hotspot: HotspotSlip,
    pub(super) origin: OriginSlip,
    pub(super) without_gap: bool,
    pub(super) half_added: bool,
    pub(super) rounding: Rounding,
    pub(super) turn: Turn,
    pub(super) swap: Swap,
    pub(super) from_one: bool,
}

/// The part that is not as usual, where at most one is.
fn either<T: Default + PartialEq>(one: T, other: T) -> Option<T> {
    match (one == T::default(), other == T::default()) {
        (true, _) => Some(other),
        (_, true) => Some(one),
        _ => None,
    }
}

impl Recipe {
    /// Both mistakes at once, where they are made at different stages.
    pub(super) fn and(self, other: Self) -> Option<Self> {
        Some(Self {
            view: either(self.view, other.view)?,
            hotspot: either(self.hotspot, other.hotspot)?,
            origin: either(self.origin, other.origin)?,
            without_gap: either(self.without_gap, other.without_gap)?,
            half_added: either(self.half_added, other.half_added)?,
            rounding: either(self.rounding, other.rounding)?,
            turn: either(self.turn, other.turn)?,
            swap: either(self.swap, other.swap)?,
            from_one: either(self.from_one, other.from_one)?,
        })
    }

    /// The column and row of a world position.
    pub(super) fn cell(self, numbers: &Numbers, world: WorldPoint) -> [f64; 2] {
        let (x, y) = if self.swap == Swap::Pixels { (world.y, world.x) } else { (world.x, world.y) };
        let mut row = self.along(numbers.y, y, Some(self.turn));
        if self.turn == Turn::OtherEdge {
            row = f64::from(numbers.y.count) - 1.0 - row;
        }
        let more = f64::from(u8::from(self.from_one));
        let (column, row) = (self.along(numbers.x, x, None) + more, row + more);
        if self.swap == Swap::Cells { [row, column] } else { [column, row] }
    }

    fn along(self, axis: AxisNumbers, p: f64, turned: Option<Turn>) -> f64 {
        let sign = if turned == Some(Turn::OtherWay) { -axis.sign } else { axis.sign };
        let divisor = if self.without_gap { axis.size } else { axis.pitch() };
        let half = if self.half_added { axis.size / 2.0 } else { 0.0 };
        let p = if self.hotspot == HotspotSlip::Right { p + axis.hotspot } else { p };
        let o = axis.origin;
        let mut quotient = match self.origin {
            OriginSlip::Right => (sign * (p - o) + half) / divisor,
            OriginSlip::Forgotten | OriginSlip::AfterRounding => (sign * p + half) / divisor,
            OriginSlip::AfterDivision => sign * (p / divisor - o) + half / divisor,
            OriginSlip::OnlyItDivided => sign * (p - o / divisor) + half,
        };
        if turned == Some(Turn::OtherEdgePixels) {
            quotient = f64::from(axis.count) - quotient;
        }
        if self.hotspot == HotspotSlip::AfterDivision {
            quotient += sign * axis.hotspot;
        }
        let mut cell = match self.rounding {
            Rounding::Floor => quotient.floor(),
            Rounding::Truncate => quotient.trunc(),
            Rounding::Round => quotient.round(),
            Rounding::HalfUp => (quotient + 0.5).floor(),
            Rounding::Ceil => quotient.ceil(),
            Rounding::FarEdge => quotient.ceil() - 1.0,
            Rounding::Not => quotient,
        };
        if self.origin == OriginSlip::AfterRounding {
            cell -= sign * o;
        }
        if self.hotspot == HotspotSlip::AfterRounding {
            cell += sign * axis.hotspot;
        }
        cell
    }

    /// The column and row of what was asked; `None` where the mistake has no meaning, such as a scale without a view.
    pub(super) fn answer(self, asked: &Asked) -> Option<[f64; 2]> {
        let world = match self.view {
            ViewSlip::Right => asked.world,
            slip => asked.world_without(slip)?,
        };
        Some(self.cell(&asked.numbers(), world))
    }
}

impl Asked<'_> {
    /// The numbers that count for this position.
    pub fn numbers(&self) -> Numbers {
        let hotspot = if self.window.is_some() { (0.0, 0.0) } else { self.hotspot };
        Numbers::new(self.geometry, self.extent, hotspot)
    }

    /// The world position that a wrong way through the view gives.
    fn world_without(&self, slip: ViewSlip) -> Option<WorldPoint> {
        let (view, window) = (self.view?, self.window?);
        let Frame { k, bar } = view.frame();
        let density = if slip == ViewSlip::Density { 1.0 } else { view.density };
        let bar = if slip == ViewSlip::Bar { (0.0, 0.0) } else { bar };
        let (k, zoom) = if slip == ViewSlip::Scale { ((1.0, 1.0), 1.0) } else { (k, view.zoom) };
        let up = self.geometry.y == YAxis::Up;
        let camera = view.camera(self.geometry.y);
        let camera = if slip == ViewSlip::Camera { WorldPoint { x: 0.0, y: 0.0 } } else { camera };
        let design = ((window.x * density - bar.0) / k.0, (window.y * density - bar.1) / k.1);
        let down = design.1 / zoom;
        Some(WorldPoint { x: camera.x + design.0 / zoom, y: if up { camera.y - down } else { camera.y + down } })
    }
}

/// The right column and row of a position, as the catalogue computes them.
pub fn right_cell(asked: &Asked) -> [f64; 2] {
    asked.numbers().cell(asked.world)
}
