//! Which mistake does what to which function.

use super::back::{Back, Half, IndexSlip, InsideSlip, Scale, Taken, Unindex};
use super::catalogue::Mishap;
use super::forth::{Asked, HotspotSlip, Numbers, OriginSlip, Recipe, Rounding, Swap, Turn, ViewSlip};
use crate::space::{Cell, Extent, Geometry};

/// A function of the grid that somebody may have written wrong.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Target {
    /// Position to column.
    Column,
    /// Position to row.
    Row,
    /// Cell to index.
    Index,
    /// Cell to the x of its centre.
    CentreX,
    /// Cell to the y of its centre.
    CentreY,
    /// Position to the x of the nearest cell's centre.
    SnapX,
    /// Position to the y of the nearest cell's centre.
    SnapY,
    /// Whether a cell is on the board.
    Inside,
    /// Index to column.
    IndexColumn,
    /// Index to row.
    IndexRow,
}

impl Target {
    /// All of them, in the order of the formats.
    pub const ALL: [Self; 10] = [
        Self::Column,
        Self::Row,
        Self::Index,
        Self::CentreX,
        Self::CentreY,
        Self::SnapX,
        Self::SnapY,
        Self::Inside,
        Self::IndexColumn,
        Self::IndexRow,
    ];

    /// The word of the formats.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Column => "column",
            Self::Row => "row",
            Self::Index => "index",
            Self::CentreX => "centre_x",
            Self::CentreY => "centre_y",
            Self::SnapX => "snap_x",
            Self::SnapY => "snap_y",
            Self::Inside => "inside",
            Self::IndexColumn => "index_column",
            Self::IndexRow => "index_row",
        }
    }

    /// Whether it is asked at indices.
    pub const fn at_indices(self) -> bool {
        matches!(self, Self::IndexColumn | Self::IndexRow)
    }

    /// Whether it is asked at positions; else at cells or indices.
    pub const fn at_positions(self) -> bool {
        matches!(self, Self::Column | Self::Row | Self::SnapX | Self::SnapY)
    }

    /// Whether its answer is a whole number: a column, a row or a place in an array, not pixels.
    pub const fn is_whole(self) -> bool {
        matches!(self, Self::Column | Self::Row | Self::Index | Self::IndexColumn | Self::IndexRow)
    }

    /// Whether its answer depends on the vertical axis.
    pub const fn is_vertical(self) -> bool {
        matches!(self, Self::Row | Self::CentreY | Self::SnapY | Self::IndexRow)
    }
}

/// A wrong version of a function.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Version {
    /// Position to cell.
    Forth(Recipe),
    /// Cell to centre.
    Back(Back),
    /// Position to the centre of the nearest cell.
    Snap {
        /// On the way to the cell.
        forth: Recipe,
        /// On the way back.
        back: Back,
        /// Cells beyond the board are not brought back.
        unclamped: bool,
    },
    /// Cell to index.
    Index(IndexSlip),
    /// Whether a cell is on the board.
    Inside(InsideSlip),
    /// Index to cell.
    Unindex(Unindex),
}

impl Version {
    /// Whether its answer along one axis depends on the position along the other.
    pub fn crosses(&self) -> bool {
        match self {
            Self::Forth(recipe) => recipe.swap != Swap::Nothing,
            Self::Snap { forth, back, .. } => forth.swap != Swap::Nothing || back.cell == Taken::Swapped,
            Self::Back(_) | Self::Index(_) | Self::Inside(_) | Self::Unindex(_) => false,
        }
    }

    /// What the wrong version gives for a position: column, row, or the coordinate it snaps to. Not a number where the mistake
    /// has no meaning there.
    pub fn at_position(&self, target: Target, asked: &Asked) -> f64 {
        let pick = |[column, row]: [f64; 2]| if target.is_vertical() { row } else { column };
        match *self {
            Self::Forth(recipe) => recipe.answer(asked).map_or(f64::NAN, pick),
            Self::Snap { forth, back, unclamped } => {
                let numbers = asked.numbers();
                let Some([column, row]) = forth.answer(asked) else { return f64::NAN };
                let [column, row] =
                    if unclamped { [column, row] } else { [numbers.x.clamped(column), numbers.y.clamped(row)] };
                back.along(&numbers, [column, row], target.is_vertical())
            }
            Self::Back(_) | Self::Index(_) | Self::Inside(_) | Self::Unindex(_) => f64::NAN,
        }
    }

    /// What the wrong version gives for an index: column or row.
    pub fn at_index(&self, target: Target, geometry: &Geometry, extent: Extent, index: f64) -> f64 {
        match *self {
            Self::Unindex(slip) => slip.cell(geometry, extent, index)[usize::from(target.is_vertical())],
            Self::Forth(_) | Self::Back(_) | Self::Snap { .. } | Self::Index(_) | Self::Inside(_) => f64::NAN,
        }
    }

    /// What the wrong version gives for a cell: index, centre, or 1 and 0 for on and off the board.
    pub fn at_cell(&self, target: Target, geometry: &Geometry, extent: Extent, numbers: &Numbers, cell: Cell) -> f64 {
        let at = [cell.column as f64, cell.row as f64];
        match *self {
            Self::Back(back) => back.along(numbers, at, target.is_vertical()),
            Self::Index(slip) => slip.index(geometry, extent, at),
            Self::Inside(slip) => f64::from(u8::from(slip.says(extent, cell))),
            Self::Forth(_) | Self::Snap { .. } | Self::Unindex(_) => f64::NAN,
        }
    }
}

impl Mishap {
    /// The wrong ways from a position to a cell that go by this name, the usual one first.
    pub(super) fn recipes(self) -> Vec<Recipe> {
        let right = Recipe::default();
        let rounding = |rounding| Recipe { rounding, ..right };
        let origin = |origin| Recipe { origin, ..right };
        let hotspot = |hotspot| Recipe { hotspot, ..right };
        let view = |view| Recipe { view, ..right };
        let turn = |turn| Recipe { turn, ..right };
        match self {
            Self::Truncated => vec![rounding(Rounding::Truncate)],
            Self::Rounded => vec![rounding(Rounding::Round), rounding(Rounding::HalfUp)],
            Self::Ceiled => vec![rounding(Rounding::Ceil)],
            Self::NotFloored => vec![rounding(Rounding::Not)],
            Self::FarEdgeOwned => vec![rounding(Rounding::FarEdge)],
            Self::OriginForgotten => vec![origin(OriginSlip::Forgotten)],
            Self::OriginAfterDivision => vec![origin(OriginSlip::AfterDivision), origin(OriginSlip::AfterRounding)],
            Self::OnlyOffsetDivided => vec![origin(OriginSlip::OnlyItDivided)],
            Self::HotspotForgotten => vec![hotspot(HotspotSlip::Forgotten)],
            Self::HotspotAfterDivision => {
                vec![hotspot(HotspotSlip::AfterDivision), hotspot(HotspotSlip::AfterRounding)]
            }
            Self::AxesSwapped => {
                vec![Recipe { swap: Swap::Cells, ..right }, Recipe { swap: Swap::Pixels, ..right }]
            }
            Self::YTurnedRound => {
                vec![turn(Turn::OtherEdge), turn(Turn::OtherEdgePixels), turn(Turn::OtherWay)]
            }
            Self::GapForgotten => vec![Recipe { without_gap: true, ..right }],
            Self::CountedFromOne => vec![Recipe { from_one: true, ..right }],
            Self::HalfCellAdded => vec![Recipe { half_added: true, ..right }],
            Self::ScaleForgotten => vec![view(ViewSlip::Scale)],
            Self::BarForgotten => vec![view(ViewSlip::Bar)],
            Self::CameraForgotten => vec![view(ViewSlip::Camera)],
            Self::DensityForgotten => vec![view(ViewSlip::Density)],
            Self::CornerForCentre
            | Self::HalfCellTwice
            | Self::SizeNotMultipliedBack
            | Self::NotClamped
            | Self::IndexByHeight
            | Self::OneAxisChecked
            | Self::LowerBoundForgotten => Vec::new(),
        }
    }

    /// The wrong ways from a cell to its centre that go by this name.
    pub(super) fn backs(self) -> Vec<Back> {
        let right = Back::default();
        let scale = |scale| Back { scale, ..right };
        match self {
            Self::CornerForCentre => vec![Back { half: Half::Not, ..right }],
            Self::HalfCellTwice => vec![Back { half: Half::Twice, ..right }],
            Self::SizeNotMultipliedBack => {
                vec![scale(Scale::WithOrigin), scale(Scale::Bare), scale(Scale::WithHalf)]
            }
            Self::OriginForgotten => vec![Back { without_origin: true, ..right }],
            Self::GapForgotten => vec![scale(Scale::Size)],
            Self::AxesSwapped => vec![Back { cell: Taken::Swapped, ..right }],
            Self::YTurnedRound => vec![Back { cell: Taken::Turned, ..right }],
            Self::CountedFromOne => vec![Back { cell: Taken::FromOne, ..right }],
            _ => Vec::new(),
        }
    }

    pub(super) fn index_slip(self, first_index: i64) -> Option<IndexSlip> {
        match self {
            Self::IndexByHeight => Some(IndexSlip::ByHeight),
            Self::AxesSwapped => Some(IndexSlip::Swapped),
            Self::YTurnedRound => Some(IndexSlip::Turned),
            Self::CountedFromOne if first_index == 0 => Some(IndexSlip::FromOne),
            Self::CountedFromOne => Some(IndexSlip::FromZero),
            _ => None,
        }
    }

    pub(super) fn unindex_slips(self) -> &'static [Unindex] {
        match self {
            Self::IndexByHeight => &[Unindex::ByHeight],
            Self::AxesSwapped => &[Unindex::Swapped],
            Self::YTurnedRound => &[Unindex::Turned],
            Self::CountedFromOne => &[Unindex::FirstForgotten, Unindex::FromOne],
            Self::NotFloored => &[Unindex::NotFloored],
            Self::Rounded => &[Unindex::Rounded],
            Self::Ceiled => &[Unindex::Ceiled],
            _ => &[],
        }
    }

    fn inside_slips(self) -> &'static [InsideSlip] {
        match self {
            Self::FarEdgeOwned => &[InsideSlip::FarEdges],
            Self::OneAxisChecked => &[InsideSlip::ColumnAlone, InsideSlip::RowAlone],
            Self::LowerBoundForgotten => &[InsideSlip::NoLowerBound],
            Self::CountedFromOne => &[InsideSlip::FromOne],
            Self::AxesSwapped => &[InsideSlip::Swapped],
            _ => &[],
        }
    }

    /// The wrong versions of a function that go by this name, the usual one first; those about the view have a meaning for
    /// window positions only.
    pub fn versions(self, target: Target, first_index: i64) -> Vec<Version> {
        match target {
            Target::Column | Target::Row => self.recipes().into_iter().map(Version::Forth).collect(),
            Target::CentreX | Target::CentreY => self.backs().into_iter().map(Version::Back).collect(),
            Target::SnapX | Target::SnapY => {
                let (forth, back) = (Recipe::default(), Back::default());
                let snap = |forth, back| Version::Snap { forth, back, unclamped: false };
                let (recipes, backs) = (self.recipes(), self.backs());
                // The same number is usually forgotten on both ways; turned round on both is as good as on none.
                let both = recipes.first().zip(backs.first()).filter(|_| self != Self::YTurnedRound);
                let both = both.map(|(forth, back)| snap(*forth, *back));
                // What is cut to column 0 left of the board is brought back to column 0 anyway.
                let tells = |_: &&Recipe| self != Self::Truncated;
                let there = recipes.iter().filter(tells).map(|forth| snap(*forth, back));
                let here = backs.iter().map(|back| snap(forth, *back));
                let unclamped = (self == Self::NotClamped).then_some(Version::Snap { forth, back, unclamped: true });
                both.into_iter().chain(there).chain(here).chain(unclamped).collect()
            }
            Target::Index => self.index_slip(first_index).map(Version::Index).into_iter().collect(),
            Target::Inside => self.inside_slips().iter().copied().map(Version::Inside).collect(),
            Target::IndexColumn | Target::IndexRow => {
                self.unindex_slips().iter().copied().map(Version::Unindex).collect()
            }
        }
    }

    /// The column and row that the usual wrong formula gives; `None` where it is about something else, or has no meaning
    /// here, such as a scale without a view.
    pub fn cell(self, asked: &Asked) -> Option<[f64; 2]> {
        self.recipes().first()?.answer(asked)
    }
}
