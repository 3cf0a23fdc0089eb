//! Whether the numbers of a grid and its view come out even, in words.

use super::{Extent, Fit, Geometry, Origin, View, WorldPoint, YAxis, show};

/// Something about the numbers of a grid that is worth a look.
#[derive(Clone, Debug, PartialEq)]
pub struct Remark {
    /// Whether it comes out even.
    pub even: bool,
    /// What it says.
    pub text: String,
}

fn even(text: String) -> Remark {
    Remark { even: true, text }
}

fn odd(text: String) -> Remark {
    Remark { even: false, text }
}

/// The size of the world's part that the design picture shows.
fn seen(view: &View) -> (f64, f64) {
    (view.design.0 / view.zoom, view.design.1 / view.zoom)
}

/// The size of a board in pixels, without the gap behind the last cell.
pub fn board_size(geometry: &Geometry, extent: Extent) -> (f64, f64) {
    let pitch = geometry.pitch();
    (f64::from(extent.columns) * pitch.0 - geometry.gap.0, f64::from(extent.rows) * pitch.1 - geometry.gap.1)
}

/// The world position in the middle of the design picture.
pub fn middle_of_picture(view: &View, y: YAxis) -> WorldPoint {
    view.world_of_design(y, (view.design.0 / 2.0, view.design.1 / 2.0))
}

/// Whether a board stands in the middle of the design picture, up to half a pixel.
pub fn is_centred(geometry: &Geometry, extent: Extent, view: &View) -> bool {
    let size = board_size(geometry, extent);
    let corner = geometry.corner_of_first(extent);
    let middle = WorldPoint { x: corner.x + size.0 / 2.0, y: corner.y + geometry.row_sign() * size.1 / 2.0 };
    let wanted = middle_of_picture(view, geometry.y);
    (middle.x - wanted.x).abs() <= 0.5 && (middle.y - wanted.y).abs() <= 0.5
}

/// What is to be said about the numbers of a board: cells in the picture, pixels left over, pixels of one side, scale.
pub fn remarks(geometry: &Geometry, extent: Extent, view: Option<&View>) -> Vec<Remark> {
    let mut found = Vec::new();
    let pitch = geometry.pitch();
    let (width, height) = board_size(geometry, extent);
    let axes = [
        ("columns", "wide", extent.columns, pitch.0, geometry.gap.0, width),
        ("rows", "high", extent.rows, pitch.1, geometry.gap.1, height),
    ];
    for (cells, wide, count, pitch, _, size) in axes {
        let text = format!("{count} {cells} of {} px are {} px {wide}", show(pitch), show(size));
        found.push(if size.fract() == 0.0 { even(text) } else { odd(format!("{text}, no whole number")) });
    }
    if let Some(view) = view {
        let (seen_x, seen_y) = seen(view);
        for ((cells, wide, count, pitch, gap, size), seen) in axes.into_iter().zip([seen_x, seen_y]) {
            let fits = |whole: f64| whole.fract().abs() < 1e-9;
            let whole = [seen / pitch, (seen + gap) / pitch].into_iter().find(|whole| fits(*whole));
            found.push(match whole {
                Some(whole) => even(format!("the picture, {} px {wide}, is {} {cells}", show(seen), show(whole))),
                None => {
                    let whole = (seen / pitch).floor();
                    let rest = seen - whole * pitch;
                    odd(format!(
                        "the picture, {} px {wide}, is {} {cells} and {} px of another: {} or {} px would be whole",
                        show(seen),
                        show(whole),
                        show(rest),
                        show(whole * pitch),
                        show((whole + 1.0) * pitch)
                    ))
                }
            });
            if size > seen {
                found.push(odd(format!("{count} {cells} do not fit: {} px of {} are seen", show(seen), show(size))));
            }
        }
        found.push(scale(view));
        found.push(sides(geometry, extent, view));
    }
    found
}

/// How many pixels are left over on each side of the board.
fn sides(geometry: &Geometry, extent: Extent, view: &View) -> Remark {
    let (width, height) = board_size(geometry, extent);
    let (seen_x, seen_y) = seen(view);
    let corner = geometry.corner_of_first(extent);
    let camera = view.camera(geometry.y);
    let left = corner.x - camera.x;
    let top = match geometry.y {
        YAxis::Down => corner.y.min(corner.y + geometry.row_sign() * height) - camera.y,
        YAxis::Up => camera.y - corner.y.max(corner.y + geometry.row_sign() * height),
    };
    let text = format!(
        "left over: {} px left, {} px right, {} px above, {} px below",
        show(left),
        show(seen_x - left - width),
        show(top),
        show(seen_y - top - height)
    );
    if is_centred(geometry, extent, view) {
        even(format!("{text}: the board is centred"))
    } else if matches!(geometry.origin, Origin::Centre(_)) {
        odd(format!("{text}: `origin centre` is not the picture's middle"))
    } else {
        odd(text)
    }
}

fn scale(view: &View) -> Remark {
    let frame = view.frame();
    let k = frame.k;
    let bars = format!("bars {} px left and right, {} px above and below", show(frame.bar.0), show(frame.bar.1));
    if k.0 != k.1 {
        return odd(format!("stretched: {} times as wide, {} times as high", show(k.0), show(k.1)));
    }
    let text = format!("one design pixel is {} window px; {bars}", show(k.0));
    if k.0.fract() == 0.0 || view.fit == Fit::None { even(text) } else { odd(text) }
}
