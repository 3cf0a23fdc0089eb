//! Positions answered in exact fractions of the numbers as written, and in single precision, beside the usual f64.

use super::{Cell, Extent, Geometry, Origin, WorldPoint};
use num_rational::BigRational;
use num_traits::{One, ToPrimitive, Zero};

/// A whole number divided by another, without any rounding.
pub type Fraction = BigRational;

/// The exact value of a decimal without an exponent; of anything else 0.
pub fn decimal(text: &str) -> Fraction {
    let (whole, decimals) = text.split_once('.').unwrap_or((text, ""));
    let digits: Option<Fraction> = format!("{whole}{decimals}").parse().ok();
    let ten = Fraction::from_integer(10.into());
    digits.unwrap_or_else(Fraction::zero) / num_traits::pow(ten, decimals.len())
}

/// A number as it is written: the shortest decimal that reads back as this f64. Infinities and no numbers are 0.
pub fn as_written(number: f64) -> Fraction {
    // Rust writes the shortest decimal without an exponent.
    decimal(&number.to_string())
}

/// The number of pixels nearest to a fraction.
pub fn nearest(fraction: &Fraction) -> f64 {
    fraction.to_f64().unwrap_or(f64::NAN)
}

/// Size plus gap of both axes.
pub fn pitches(geometry: &Geometry) -> [Fraction; 2] {
    [(geometry.size.0, geometry.gap.0), (geometry.size.1, geometry.gap.1)]
        .map(|(size, gap)| as_written(size) + as_written(gap))
}

fn row_sign(geometry: &Geometry) -> Fraction {
    if geometry.row_sign() < 0.0 { -Fraction::one() } else { Fraction::one() }
}

/// The corner of the first cell, in world pixels.
pub fn corner_of_first(geometry: &Geometry, extent: Extent) -> [Fraction; 2] {
    let two = Fraction::from_integer(2.into());
    match geometry.origin {
        Origin::Corner(point) => [as_written(point.x), as_written(point.y)],
        Origin::Centre(middle) => {
            let half = |count: u32, pitch: &Fraction, gap: f64| {
                (Fraction::from_integer(count.into()) * pitch - as_written(gap)) / &two
            };
            let pitch = pitches(geometry);
            let width = half(extent.columns, &pitch[0], geometry.gap.0);
            let height = half(extent.rows, &pitch[1], geometry.gap.1);
            [as_written(middle.x) - width, as_written(middle.y) - row_sign(geometry) * height]
        }
    }
}

/// The middle of a cell, in world pixels.
pub fn centre(geometry: &Geometry, extent: Extent, cell: Cell) -> [Fraction; 2] {
    let two = Fraction::from_integer(2.into());
    let [x, y] = corner_of_first(geometry, extent);
    let [across, down] = pitches(geometry);
    let along = |i: i64, pitch: Fraction, size: f64| Fraction::from_integer(i.into()) * pitch + as_written(size) / &two;
    let (dx, dy) = (along(cell.column, across, geometry.size.0), along(cell.row, down, geometry.size.1));
    [x + dx, y + row_sign(geometry) * dy]
}

/// Column and row as fractions: where a position lies, counted in pitches from the first cell's corner.
pub fn quotients(geometry: &Geometry, extent: Extent, hotspot: (f64, f64), world: WorldPoint) -> [Fraction; 2] {
    let [pitch_x, pitch_y] = pitches(geometry);
    let [origin_x, origin_y] = corner_of_first(geometry, extent);
    let x = as_written(world.x) + as_written(hotspot.0) - origin_x;
    let y = as_written(world.y) + as_written(hotspot.1) - origin_y;
    [x / pitch_x, row_sign(geometry) * y / pitch_y]
}

/// The column and row of a position without any rounding.
pub fn exact_cell(geometry: &Geometry, extent: Extent, hotspot: (f64, f64), world: WorldPoint) -> Cell {
    let [column, row] = quotients(geometry, extent, hotspot, world);
    let whole = |fraction: Fraction| fraction.floor().to_integer().to_i64().unwrap_or(i64::MAX);
    Cell::new(whole(column), whole(row))
}

/// The column and row of a position as a program finds them that computes in f32.
pub fn single_cell(geometry: &Geometry, extent: Extent, hotspot: (f64, f64), world: WorldPoint) -> Cell {
    let origin = geometry.corner_of_first(extent);
    let along = |sign: f64, p: f64, hotspot: f64, origin: f64, size: f64, gap: f64| {
        let t = sign as f32 * (p as f32 + hotspot as f32 - origin as f32);
        (t / (size as f32 + gap as f32)).floor() as i64
    };
    Cell::new(
        along(1.0, world.x, hotspot.0, origin.x, geometry.size.0, geometry.gap.0),
        along(geometry.row_sign(), world.y, hotspot.1, origin.y, geometry.size.1, geometry.gap.1),
    )
}
