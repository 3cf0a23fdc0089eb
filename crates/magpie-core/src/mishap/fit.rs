//! Pitch and origin of one axis, from samples alone.

/// A position with the column or row that somebody's program gave for it.
#[derive(Clone, Copy, Debug)]
pub(super) struct Point {
    /// The position, hotspot added, times the sign of the axis.
    pub p: f64,
    /// The whole number it gave.
    pub cell: f64,
}

/// Numbers of an axis that explain all points.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Fitted {
    /// Size plus gap.
    pub pitch: f64,
    /// The origin times the sign of the axis.
    pub origin: f64,
}

/// How quotients became whole numbers.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Cut {
    Floor,
    Truncate,
}

impl Cut {
    /// The quotients that give this cell lie from the first to the second.
    fn quotients(self, cell: f64) -> (f64, f64) {
        match self {
            Self::Truncate if cell == 0.0 => (-1.0, 1.0),
            Self::Truncate if cell < 0.0 => (cell - 1.0, cell),
            _ => (cell, cell + 1.0),
        }
    }

    fn cell(self, quotient: f64) -> f64 {
        if self == Self::Floor { quotient.floor() } else { quotient.trunc() }
    }

    /// Between which origins a pitch explains all points; empty where the first is not below the second.
    fn origins(self, points: &[Point], pitch: f64) -> (f64, f64) {
        points.iter().fold((f64::NEG_INFINITY, f64::INFINITY), |(low, high), point| {
            let (from, to) = self.quotients(point.cell);
            (low.max(point.p - to * pitch), high.min(point.p - from * pitch))
        })
    }

    fn explains(self, points: &[Point], fitted: Fitted) -> bool {
        points.iter().all(|point| self.cell((point.p - fitted.origin) / fitted.pitch) == point.cell)
    }
}

/// The roundest number from `low` to `high` for which `good` holds.
fn roundest(low: f64, high: f64, good: &dyn Fn(f64) -> bool) -> Option<f64> {
    /// Steps from coarse to fine; sizes of cells are multiples of eight and ten most often.
    const STEPS: [f64; 12] = [100.0, 50.0, 16.0, 10.0, 8.0, 5.0, 4.0, 2.0, 1.0, 0.5, 0.1, 0.01];
    /// Multiples that are tried of each.
    const TRIES: i32 = 2000;
    for step in STEPS {
        let first = (low / step).ceil();
        let multiples = (0..TRIES).map(|at| (first + f64::from(at)) * step).take_while(|number| *number <= high);
        if let Some(found) = multiples.into_iter().find(|number| good(*number)) {
            return Some(found);
        }
    }
    None
}

/// Numbers of an axis under which every point has its cell; the rulebook's own where they can be kept. `None` where no
/// pitch and origin explain the points, or where they lie in one cell alone and say nothing.
pub(super) fn fit(points: &[Point], cut: Cut, book: Fitted) -> Option<Fitted> {
    let low = points.iter().min_by(|a, b| a.cell.total_cmp(&b.cell))?;
    let high = points.iter().max_by(|a, b| a.cell.total_cmp(&b.cell))?;
    let steps = high.cell - low.cell;
    if steps < 1.0 {
        return None;
    }
    let with_pitch = |pitch: f64| -> Option<Fitted> {
        let (from, to) = cut.origins(points, pitch);
        let good = |origin: f64| pitch > 0.0 && cut.explains(points, Fitted { pitch, origin });
        if good(book.origin) {
            return Some(Fitted { pitch, origin: book.origin });
        }
        if from > to {
            return None;
        }
        let origin = roundest(from, to, &good)?;
        Some(Fitted { pitch, origin })
    };
    if let Some(found) = with_pitch(book.pitch) {
        return Some(found);
    }
    let reach = high.p - low.p;
    let bounds = (reach / (steps + 2.0), reach / (steps - 1.0).max(0.25));
    let whole =
        roundest(bounds.0, bounds.1, &|pitch| with_pitch(pitch).is_some_and(|fitted| fitted.origin == book.origin));
    let pitch = whole.or_else(|| roundest(bounds.0, bounds.1, &|pitch| with_pitch(pitch).is_some()))?;
    with_pitch(pitch)
}

/// The origin nearest to the rulebook's with which its pitch explains every point: at a whole number of pixels from it where
/// there is one.
pub(super) fn nearest_origin(points: &[Point], book: Fitted) -> Option<f64> {
    let explains = |origin: f64| Cut::Floor.explains(points, Fitted { origin, ..book });
    if explains(book.origin) {
        return Some(book.origin);
    }
    let (from, to) = Cut::Floor.origins(points, book.pitch);
    let edge = if from > book.origin { from } else { to };
    let away = (edge - book.origin).signum();
    let first = (edge - book.origin).abs();
    let whole = [first.ceil(), first.ceil() + 1.0].map(|px| book.origin + away * px);
    whole.into_iter().chain([f64::midpoint(from, to)]).find(|origin| explains(*origin))
}

/// Pitch and place of the middle of cell 0 along an axis, from middles of cells; `None` where they lie on no line.
pub(super) fn line(points: &[(f64, f64)], slack: f64) -> Option<(f64, f64)> {
    let low = points.iter().min_by(|a, b| a.0.total_cmp(&b.0))?;
    let high = points.iter().max_by(|a, b| a.0.total_cmp(&b.0))?;
    if high.0 <= low.0 {
        return None;
    }
    let pitch = (high.1 - low.1) / (high.0 - low.0);
    let first = low.1 - low.0 * pitch;
    points.iter().all(|(i, p)| (first + i * pitch - p).abs() <= slack * 2.0).then_some((pitch, first))
}
