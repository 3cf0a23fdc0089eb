//! Wrong ways from a position to a column and a row.

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

/// A known mistake on the way from a position to a cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Mishap {
    /// Cut towards zero where floor is meant.
    Truncated,
    /// Rounded where floor is meant.
    Rounded,
    /// Rounded up where floor is meant.
    Ceiled,
    /// The board's origin is not subtracted.
    OriginForgotten,
    /// The origin is subtracted behind the division.
    OriginAfterDivision,
    /// The hotspot is not added.
    HotspotForgotten,
    /// The hotspot is added behind the division.
    HotspotAfterDivision,
    /// Only the offset is divided: parentheses are missing.
    OnlyOffsetDivided,
    /// Column and row are exchanged.
    AxesSwapped,
    /// Rows are counted from the other edge.
    YTurnedRound,
    /// The gap between cells is left out.
    GapForgotten,
    /// Columns and rows are counted from one.
    CountedFromOne,
    /// Half a cell is added before the division.
    HalfCellAdded,
    /// A cell owns its far edges instead of its near ones.
    FarEdgeOwned,
    /// The scale of the window is left out.
    ScaleForgotten,
    /// The bar beside the picture is left out.
    BarForgotten,
    /// The camera is left out.
    CameraForgotten,
    /// The density of the touch screen is left out.
    DensityForgotten,
}

/// The numbers of one axis.
#[derive(Clone, Copy)]
struct Axis {
    p: f64,
    hotspot: f64,
    origin: f64,
    sign: f64,
    size: f64,
    gap: f64,
}

impl Axis {
    fn t(self) -> f64 {
        self.sign * (self.p + self.hotspot - self.origin)
    }

    fn pitch(self) -> f64 {
        self.size + self.gap
    }

    fn right(self) -> f64 {
        (self.t() / self.pitch()).floor()
    }
}

impl Asked<'_> {
    fn axes(&self) -> [Axis; 2] {
        let geometry = self.geometry;
        let origin = geometry.corner_of_first(self.extent);
        let hotspot = if self.window.is_some() { (0.0, 0.0) } else { self.hotspot };
        [
            Axis {
                p: self.world.x,
                hotspot: hotspot.0,
                origin: origin.x,
                sign: 1.0,
                size: geometry.size.0,
                gap: geometry.gap.0,
            },
            Axis {
                p: self.world.y,
                hotspot: hotspot.1,
                origin: origin.y,
                sign: geometry.row_sign(),
                size: geometry.size.1,
                gap: geometry.gap.1,
            },
        ]
    }

    /// The right cell of another world position of the same grid.
    fn right_at(&self, world: WorldPoint) -> [f64; 2] {
        Asked { world, ..*self }.axes().map(Axis::right)
    }

    /// The world position that a wrong way through the view gives.
    fn world_without(&self, mishap: Mishap) -> Option<WorldPoint> {
        let (view, window) = (self.view?, self.window?);
        let Frame { k, bar } = view.frame();
        let density = if mishap == Mishap::DensityForgotten { 1.0 } else { view.density };
        let bar = if mishap == Mishap::BarForgotten { (0.0, 0.0) } else { bar };
        let (k, zoom) = if mishap == Mishap::ScaleForgotten { ((1.0, 1.0), 1.0) } else { (k, view.zoom) };
        let up = self.geometry.y == YAxis::Up;
        let camera = view.camera(self.geometry.y);
        let camera = if mishap == Mishap::CameraForgotten { WorldPoint { x: 0.0, y: 0.0 } } else { camera };
        let design = ((window.x * density - bar.0) / k.0, (window.y * density - bar.1) / k.1);
        let down = design.1 / zoom;
        Some(WorldPoint { x: camera.x + design.0 / zoom, y: if up { camera.y - down } else { camera.y + down } })
    }
}

/// The right column and row of a position, as the catalogue computes them.
pub fn right_cell(asked: &Asked) -> [f64; 2] {
    asked.axes().map(Axis::right)
}

impl Mishap {
    /// The whole catalogue, the usual ones first.
    pub const ALL: [Self; 18] = [
        Self::Truncated,
        Self::Rounded,
        Self::Ceiled,
        Self::OriginForgotten,
        Self::OriginAfterDivision,
        Self::OnlyOffsetDivided,
        Self::HotspotForgotten,
        Self::HotspotAfterDivision,
        Self::AxesSwapped,
        Self::YTurnedRound,
        Self::GapForgotten,
        Self::CountedFromOne,
        Self::HalfCellAdded,
        Self::FarEdgeOwned,
        Self::ScaleForgotten,
        Self::BarForgotten,
        Self::CameraForgotten,
        Self::DensityForgotten,
    ];

    /// The name in the formats.
    pub const fn id(self) -> &'static str {
        match self {
            Self::Truncated => "truncated",
            Self::Rounded => "rounded",
            Self::Ceiled => "ceiled",
            Self::OriginForgotten => "origin-forgotten",
            Self::OriginAfterDivision => "origin-after-division",
            Self::OnlyOffsetDivided => "only-offset-divided",
            Self::HotspotForgotten => "hotspot-forgotten",
            Self::HotspotAfterDivision => "hotspot-after-division",
            Self::AxesSwapped => "axes-swapped",
            Self::YTurnedRound => "y-turned-round",
            Self::GapForgotten => "gap-forgotten",
            Self::CountedFromOne => "counted-from-one",
            Self::HalfCellAdded => "half-cell-added",
            Self::FarEdgeOwned => "far-edge-owned",
            Self::ScaleForgotten => "scale-forgotten",
            Self::BarForgotten => "bar-forgotten",
            Self::CameraForgotten => "camera-forgotten",
            Self::DensityForgotten => "density-forgotten",
        }
    }

    /// What is wrong, in one sentence.
    pub const fn says(self) -> &'static str {
        match self {
            Self::Truncated => {
                "the quotient is cut towards zero, so left of and above the board becomes column or row 0"
            }
            Self::Rounded => "the quotient is rounded, so the second half of every cell belongs to the next",
            Self::Ceiled => "the quotient is rounded up, so everything but a cell's first pixel belongs to the next",
            Self::OriginForgotten => "the board's origin is not subtracted",
            Self::OriginAfterDivision => "the origin is subtracted behind the division, as if it were cells",
            Self::OnlyOffsetDivided => "parentheses are missing, so that only the origin is divided",
            Self::HotspotForgotten => "the sprite's corner is tested where its hotspot is meant",
            Self::HotspotAfterDivision => "the hotspot is added behind the division, as if it were cells",
            Self::AxesSwapped => "column and row are exchanged",
            Self::YTurnedRound => "rows are counted from the other edge",
            Self::GapForgotten => "the gap between cells is left out of the division",
            Self::CountedFromOne => "columns and rows are counted from one",
            Self::HalfCellAdded => "half a cell is added before the division",
            Self::FarEdgeOwned => "`<=` stands where `<` is meant: a cell owns its far edge",
            Self::ScaleForgotten => "the scale between window and world is left out",
            Self::BarForgotten => "the bar beside the picture is not subtracted",
            Self::CameraForgotten => "the camera's position is not added",
            Self::DensityForgotten => "touch points are taken for pixels",
        }
    }

    /// The column and row that the wrong formula gives; `None` where it has no meaning, such as a scale without a view.
    pub fn cell(self, asked: &Asked) -> Option<[f64; 2]> {
        let each = |formula: fn(Axis) -> f64| Some(asked.axes().map(formula));
        match self {
            Self::Truncated => each(|a| (a.t() / a.pitch()).trunc()),
            Self::Rounded => each(|a| (a.t() / a.pitch()).round()),
            Self::Ceiled => each(|a| (a.t() / a.pitch()).ceil()),
            Self::OriginForgotten => each(|a| (a.sign * (a.p + a.hotspot) / a.pitch()).floor()),
            Self::OriginAfterDivision => each(|a| (a.sign * ((a.p + a.hotspot) / a.pitch() - a.origin)).floor()),
            Self::OnlyOffsetDivided => each(|a| (a.sign * (a.p + a.hotspot - a.origin / a.pitch())).floor()),
            Self::HotspotForgotten => each(|a| (a.sign * (a.p - a.origin) / a.pitch()).floor()),
            Self::HotspotAfterDivision => each(|a| (a.sign * ((a.p - a.origin) / a.pitch() + a.hotspot)).floor()),
            Self::AxesSwapped => {
                let [column, row] = right_cell(asked);
                Some([row, column])
            }
            Self::YTurnedRound => {
                let [column, row] = right_cell(asked);
                Some([column, f64::from(asked.extent.rows) - 1.0 - row])
            }
            Self::GapForgotten => each(|a| (a.t() / a.size).floor()),
            Self::CountedFromOne => each(|a| a.right() + 1.0),
            Self::HalfCellAdded => each(|a| ((a.t() + a.size / 2.0) / a.pitch()).floor()),
            Self::FarEdgeOwned => each(|a| (a.t() / a.pitch()).ceil() - 1.0),
            Self::ScaleForgotten | Self::BarForgotten | Self::CameraForgotten | Self::DensityForgotten => {
                asked.world_without(self).map(|world| asked.right_at(world))
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::space::{Fit, Origin};
    use proptest::prelude::*;
    use std::collections::HashSet;

    const BOARD: Extent = Extent { columns: 7, rows: 5 };

    /// A grid on which every number matters.
    fn telling() -> (Geometry, View) {
        let origin = Origin::Corner(WorldPoint { x: 41.0, y: -13.0 });
        let geometry = Geometry { gap: (3.0, 5.0), origin, ..Geometry::of_cells(20.0, 30.0) };
        let view = View {
            window: (800.0, 500.0),
            design: (300.0, 250.0),
            fit: Fit::Letterbox,
            density: 1.5,
            camera: Some(WorldPoint { x: 12.0, y: -40.0 }),
            zoom: 0.75,
            buttons: Vec::new(),
        };
        (geometry, view)
    }

    fn asked<'a>(geometry: &'a Geometry, view: &'a View, world: WorldPoint, window: bool) -> Asked<'a> {
        let window = window.then(|| view.window_point(geometry.y, world));
        Asked { geometry, extent: BOARD, view: Some(view), hotspot: (7.0, -4.0), world, window }
    }

    #[test]
    fn every_mishap_differs_somewhere_and_each_from_every_other() {
        let (geometry, view) = telling();
        let mut pictures = HashSet::new();
        for mishap in Mishap::ALL {
            let mut picture = Vec::new();
            let mut differs = 0;
            for window in [false, true] {
                for at in 0..1500 {
                    let world = WorldPoint { x: f64::from(at % 50) * 4.25 - 20.0, y: f64::from(at / 50) * 7.5 - 40.0 };
                    let asked = asked(&geometry, &view, world, window);
                    let wrong = mishap.cell(&asked);
                    differs += u32::from(wrong.is_some_and(|wrong| wrong != right_cell(&asked)));
                    picture.push(wrong.map(|wrong| wrong.map(|part| part as i64)));
                }
            }
            assert!(differs > 0, "{} never differs", mishap.id());
            assert!(pictures.insert(picture), "{} is another mishap", mishap.id());
            assert!(!mishap.says().is_empty());
        }
        let ids: HashSet<&str> = Mishap::ALL.iter().map(|mishap| mishap.id()).collect();
        assert_eq!(ids.len(), Mishap::ALL.len());
    }

    #[test]
    fn mishaps_are_right_where_their_number_is_nothing() {
        let plain = Geometry::of_cells(16.0, 16.0);
        let asked = |x: f64, y: f64| Asked {
            geometry: &plain,
            extent: BOARD,
            view: None,
            hotspot: (0.0, 0.0),
            world: WorldPoint { x, y },
            window: None,
        };
        for (x, y) in [(0.0, 0.0), (15.0, 31.0), (40.0, 3.0), (100.0, 70.0)] {
            let asked = asked(x, y);
            let right = Some(right_cell(&asked));
            for mishap in [
                Mishap::Truncated,
                Mishap::OriginForgotten,
                Mishap::OriginAfterDivision,
                Mishap::HotspotForgotten,
                Mishap::HotspotAfterDivision,
                Mishap::GapForgotten,
            ] {
                assert_eq!(mishap.cell(&asked), right, "{} at {x},{y}", mishap.id());
            }
            assert_eq!(Mishap::ScaleForgotten.cell(&asked), None, "there is no view");
        }
        assert_ne!(Mishap::Truncated.cell(&asked(-1.0, 4.0)), Some(right_cell(&asked(-1.0, 4.0))));
    }

    proptest! {
        #[test]
        fn the_catalogue_s_right_answer_is_the_grid_s(x in -400.0..400.0, y in -400.0..400.0) {
            let (geometry, view) = telling();
            let world = WorldPoint { x, y };
            let found = right_cell(&Asked { hotspot: (0.0, 0.0), ..asked(&geometry, &view, world, false) });
            let cell = geometry.cell_at(BOARD, world);
            prop_assert_eq!(found, [cell.column as f64, cell.row as f64]);
        }
    }
}
