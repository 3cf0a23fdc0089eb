//! Cell, world and window positions, and the ways between them (docs/model.md, section 1).

mod around;
mod bulk;
mod convert;
pub mod exact;
mod geometry;
mod heading;
pub mod measure;
mod view;
mod walk;
pub mod whole;

pub use around::{Landmark, Pass, landmarks, pass_over};
pub use bulk::Bulk;
pub use convert::{
    Conversion, Position, PositionError, Snap, Where, convert, locate, parse_pixels, parse_position, show,
};
pub use geometry::{Cell, CellBox, Extent, Geometry, IndexOrder, Origin, RowsFrom, WorldPoint, YAxis};
pub use heading::Heading;
pub use view::{Button, Fit, Frame, View, WindowPoint};
pub use walk::cells_between;

#[cfg(test)]
mod tests;
