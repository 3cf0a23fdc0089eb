//! The usual right expression of every function of a grid, as a programmer would write it.

use crate::mishap::Target;
use crate::space::{Geometry, IndexOrder};

/// The expression that gives the right answer on a grid, in the names of [`super::Names`].
///
/// # Examples
/// ```
/// use magpie_core::formula::usual;
/// use magpie_core::mishap::Target;
/// use magpie_core::space::Geometry;
///
/// assert_eq!(usual(Target::Column, &Geometry::of_cells(24.0, 18.0)), "floor((x + hx - ox) / (w + gx))");
/// ```
pub fn usual(target: Target, geometry: &Geometry) -> String {
    let down = geometry.row_sign() > 0.0;
    let column = "floor((x + hx - ox) / (w + gx))";
    let row = if down { "floor((y + hy - oy) / (h + gy))" } else { "floor((oy - y - hy) / (h + gy))" };
    let across = |column: &str| format!("ox + {column} * (w + gx) + w / 2");
    let along = |row: &str| {
        if down { format!("oy + {row} * (h + gy) + h / 2") } else { format!("oy - {row} * (h + gy) - h / 2") }
    };
    let within = |cell: &str, count: &str| format!("max(0, min({count} - 1, {cell}))");
    match target {
        Target::Column => column.into(),
        Target::Row => row.into(),
        Target::Index => {
            let plain = match geometry.order {
                IndexOrder::RowMajor => "row * columns + column",
                IndexOrder::ColumnMajor => "column * rows + row",
            };
            if geometry.first_index == 0 { plain.into() } else { format!("{plain} + {}", geometry.first_index) }
        }
        Target::CentreX => across("column"),
        Target::CentreY => along("row"),
        Target::SnapX => across(&within(column, "columns")),
        Target::SnapY => along(&within(row, "rows")),
        Target::IndexColumn | Target::IndexRow => {
            let place =
                if geometry.first_index == 0 { "index".into() } else { format!("(index - {})", geometry.first_index) };
            let (is_rest, length) = match geometry.order {
                IndexOrder::RowMajor => (target == Target::IndexColumn, "columns"),
                IndexOrder::ColumnMajor => (target == Target::IndexRow, "rows"),
            };
            if is_rest { format!("{place} % {length}") } else { format!("floor({place} / {length})") }
        }
        Target::Inside => "column >= 0 and column < columns and row >= 0 and row < rows".into(),
    }
}
