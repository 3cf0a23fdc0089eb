//! The names of the mistakes.

/// A known mistake.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Mishap {
    /// Cut towards zero where floor is meant.
    Truncated,
    /// Rounded where floor is meant.
    Rounded,
    /// Rounded up where floor is meant.
    Ceiled,
    /// The quotient is not made whole.
    NotFloored,
    /// The board's origin is not subtracted, or not added on the way back.
    OriginForgotten,
    /// The origin is subtracted behind the division.
    OriginAfterDivision,
    /// Only the offset is divided: parentheses are missing.
    OnlyOffsetDivided,
    /// The hotspot is not added.
    HotspotForgotten,
    /// The hotspot is added behind the division.
    HotspotAfterDivision,
    /// Column and row are exchanged.
    AxesSwapped,
    /// Rows are counted from the other edge.
    YTurnedRound,
    /// The gap between cells is left out.
    GapForgotten,
    /// Columns, rows or indices are counted from one.
    CountedFromOne,
    /// Half a cell is added before the division.
    HalfCellAdded,
    /// A cell owns its far edges, or the board a column and a row more.
    FarEdgeOwned,
    /// The corner is given where the centre is meant.
    CornerForCentre,
    /// Half a cell is added twice on the way to the centre.
    HalfCellTwice,
    /// Cell numbers are used as pixels.
    SizeNotMultipliedBack,
    /// Snapping goes on beyond the board.
    NotClamped,
    /// The index is built with the height of the board.
    IndexByHeight,
    /// Only one axis is looked at.
    OneAxisChecked,
    /// Cells before the first are taken for cells of the board.
    LowerBoundForgotten,
    /// The scale of the window is left out.
    ScaleForgotten,
    /// The bar beside the picture is left out.
    BarForgotten,
    /// The camera is left out.
    CameraForgotten,
    /// The density of the touch screen is left out.
    DensityForgotten,
}

impl Mishap {
    /// The whole catalogue, the usual ones first.
    pub const ALL: [Self; 26] = [
        Self::Truncated,
        Self::Rounded,
        Self::Ceiled,
        Self::NotFloored,
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
        Self::CornerForCentre,
        Self::HalfCellTwice,
        Self::SizeNotMultipliedBack,
        Self::NotClamped,
        Self::IndexByHeight,
        Self::OneAxisChecked,
        Self::LowerBoundForgotten,
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
            Self::NotFloored => "not-floored",
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
            Self::CornerForCentre => "corner-for-centre",
            Self::HalfCellTwice => "half-cell-twice",
            Self::SizeNotMultipliedBack => "size-not-multiplied-back",
            Self::NotClamped => "not-clamped",
            Self::IndexByHeight => "index-by-height",
            Self::OneAxisChecked => "one-axis-checked",
            Self::LowerBoundForgotten => "lower-bound-forgotten",
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
            Self::NotFloored => "the quotient is not made whole",
            Self::OriginForgotten => "the board's origin is left out",
            Self::OriginAfterDivision => "the origin is subtracted behind the division, as if it were cells",
            Self::OnlyOffsetDivided => "parentheses are missing, so that only the origin is divided",
            Self::HotspotForgotten => "the sprite's corner is tested where its hotspot is meant",
            Self::HotspotAfterDivision => "the hotspot is added behind the division, as if it were cells",
            Self::AxesSwapped => "column and row are exchanged",
            Self::YTurnedRound => "rows are counted from the other edge",
            Self::GapForgotten => "the gap between cells is left out",
            Self::CountedFromOne => "counting begins at one",
            Self::HalfCellAdded => "half a cell is added before the division",
            Self::FarEdgeOwned => "`<=` stands where `<` is meant: the far edge is counted in",
            Self::CornerForCentre => "the corner is given where the centre is meant",
            Self::HalfCellTwice => "half a cell is added twice on the way to the centre",
            Self::SizeNotMultipliedBack => "cell numbers are used as pixels: the size is not multiplied back",
            Self::NotClamped => "beyond the board it snaps to cells that are not there",
            Self::IndexByHeight => "the index is built with the height of the board where its width is meant",
            Self::OneAxisChecked => "only one axis is looked at",
            Self::LowerBoundForgotten => "columns and rows below 0 are taken for cells of the board",
            Self::ScaleForgotten => "the scale between window and world is left out",
            Self::BarForgotten => "the bar beside the picture is not subtracted",
            Self::CameraForgotten => "the camera's position is not added",
            Self::DensityForgotten => "touch points are taken for pixels",
        }
    }

    /// Whether it is a step between window and world that is left out.
    pub const fn is_of_view(self) -> bool {
        matches!(self, Self::ScaleForgotten | Self::BarForgotten | Self::CameraForgotten | Self::DensityForgotten)
    }

    /// The mistake of a name.
    pub fn of_id(id: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|mishap| mishap.id() == id)
    }
}
