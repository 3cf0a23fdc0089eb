//! Cell, world and window positions, and the ways between them (docs/model.md, section 1).

mod around;
mod bulk;
mod convert;
pub mod exact;
mod geometry;
mod heading;
mod view;
mod walk;
pub mod whole;

pub use around::{Pass, Spot, pass_over, spots};
pub use bulk::Bulk;
pub use convert::{
    Conversion, Position, PositionError, Snap, Where, convert, locate, parse_pixels, parse_position, show,
};
pub use geometry::{Cell, CellBox, Extent, Geometry, IndexOrder, Origin, RowsFrom, WorldPoint, YAxis};
pub use heading::Heading;
pub use view::{Button, Fit, Frame, View, WindowPoint};
pub use walk::{LONGEST_WALK, cells_between};

#[cfg(test)]
mod tests;
