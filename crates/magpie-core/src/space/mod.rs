//! Cell, world and window positions, and the ways between them (docs/model.md, section 1).

mod convert;
mod geometry;
mod heading;
mod view;

pub use convert::{
    Conversion, Position, PositionError, Snap, Where, convert, locate, parse_pixels, parse_position, show,
};
pub use geometry::{Cell, CellBox, Extent, Geometry, IndexOrder, Origin, RowsFrom, WorldPoint, YAxis};
pub use heading::Heading;
pub use view::{Button, Fit, Frame, View, WindowPoint};

#[cfg(test)]
mod tests;
