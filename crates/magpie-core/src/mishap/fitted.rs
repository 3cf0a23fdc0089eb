//! Other numbers than the rulebook's that would explain samples: pitch and origin, half a cell, a hotspot.

use super::catalogue::Mishap;
use super::diagnosis::{Explanation, Given, Search, Way};
use super::fit::{self, Cut, Fitted, Point};
use super::forth::{AxisNumbers, Numbers};
use super::samples::{Asks, Sample};
use crate::space::{Cell, Geometry, Origin, WorldPoint};

impl Search<'_> {
    /// How far from the rulebook an explanation goes.
    pub fn changes(&self, explanation: &Explanation) -> usize {
        let (old, new) = (self.given.geometry, &explanation.geometry);
        if explanation.hotspot.is_some() {
            return 0;
        }
        let numbers = usize::from(old.pitch() != new.pitch())
            + usize::from(old.corner_of_first(self.given.extent) != new.corner_of_first(self.given.extent));
        match (explanation.fitted, explanation.mishap) {
            (true, None) => numbers * 2 - 1,
            (true, Some(_)) => numbers * 2 + 2,
            _ => 2,
        }
    }

    /// The right formula, or one that cuts, with numbers that the samples ask for.
    pub fn fits(&self) -> Vec<Explanation> {
        match self.samples.asks {
            Asks::Cell | Asks::Index => {}
            Asks::Centre => return self.fit_centres().into_iter().collect(),
            Asks::Snap | Asks::IndexOfCell | Asks::CellOfIndex => return Vec::new(),
        }
        let cuts = [(Cut::Floor, None), (Cut::Truncate, Some(Mishap::Truncated))];
        let all = cuts.into_iter().flat_map(|(cut, mishap)| {
            self.spaces().iter().filter_map(move |window| self.fit_cells(cut, mishap, *window))
        });
        let mut found: Vec<Explanation> = all.filter(|explanation| self.fits_all(explanation)).collect();
        // Where the right formula does with the same numbers, cutting explains nothing.
        found.dedup_by(|later, earlier| later.geometry == earlier.geometry && later.window == earlier.window);
        found
    }

    /// The right formula on a board that begins half a cell beside the rulebook's.
    pub fn half_cells(&self) -> Vec<Explanation> {
        if matches!(self.samples.asks, Asks::IndexOfCell | Asks::CellOfIndex) {
            return Vec::new();
        }
        let (w, h) = self.given.geometry.size;
        // Straight ones first: a board is off along one axis before it is off along both.
        let ways = [(1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (-1, -1), (1, -1), (-1, 1)];
        let shifted = ways.into_iter().flat_map(|(x, y)| {
            let by = (f64::from(x) * w / 2.0, f64::from(y) * h / 2.0);
            self.spaces().iter().map(move |window| self.shifted(by, *window))
        });
        shifted.filter(|explanation| self.fits_all(explanation)).take(1).collect()
    }

    /// The right formula with the board's origin so many pixels beside the rulebook's.
    fn shifted(&self, by: (f64, f64), window: bool) -> Explanation {
        let old = self.given.geometry.corner_of_first(self.given.extent);
        let origin = Origin::Corner(WorldPoint { x: old.x + by.0, y: old.y + by.1 });
        let geometry = Geometry { origin, ..self.given.geometry.clone() };
        Explanation { geometry, fitted: true, moved: by, ..self.explanation(self.right_way(), window) }
    }

    /// The right formula with a hotspot a few pixels beside the rulebook's, where that has one.
    pub fn hotspots(&self) -> Option<Explanation> {
        let Given { extent, geometry, hotspot, .. } = *self.given;
        let about = matches!(self.samples.asks, Asks::Cell | Asks::Index) && self.spaces().contains(&false);
        if hotspot == (0.0, 0.0) || !about {
            return None;
        }
        let right = self.explanation(self.right_way(), false);
        let (across, down) = self.points(&right)?;
        let numbers = Numbers::new(geometry, extent, (0.0, 0.0));
        let along = |points: &[Point], axis: AxisNumbers, old: f64| {
            let book = Fitted { pitch: axis.pitch(), origin: axis.sign * axis.origin };
            let moved = fit::nearest_origin(points, book)? - book.origin;
            // A sprite's feet are within it.
            (moved.abs() < axis.size / 2.0).then_some(old - axis.sign * moved)
        };
        let found = (along(&across, numbers.x, hotspot.0)?, along(&down, numbers.y, hotspot.1)?);
        let explanation = Explanation { hotspot: Some(found), fitted: true, ..right };
        (found != hotspot && self.fits_all(&explanation)).then_some(explanation)
    }

    /// The samples along both axes: positions with the hotspot, and the cells they were given.
    fn points(&self, explanation: &Explanation) -> Option<(Vec<Point>, Vec<Point>)> {
        let mut both = (Vec::new(), Vec::new());
        for sample in &self.samples.all {
            let asked = self.asked(explanation, sample.input)?;
            let cell = self.cell_of(sample)?;
            let numbers = asked.numbers();
            let point = |axis: AxisNumbers, p: f64, cell: f64| Point { p: axis.sign * (p + axis.hotspot), cell };
            both.0.push(point(numbers.x, asked.world.x, cell[0]));
            both.1.push(point(numbers.y, asked.world.y, cell[1]));
        }
        Some(both)
    }

    fn fit_cells(&self, cut: Cut, mishap: Option<Mishap>, window: bool) -> Option<Explanation> {
        let Given { extent, geometry, .. } = *self.given;
        let recipe = mishap.and_then(|mishap| mishap.recipes().first().copied()).unwrap_or_default();
        let way = match self.samples.asks {
            Asks::Index => Way::Index(recipe, None),
            _ => Way::Cell([recipe; 2]),
        };
        let explanation = Explanation { mishap, fitted: true, ..self.explanation(way, window) };
        let (across, down) = self.points(&explanation)?;
        let along = |vertical: bool| {
            let points = if vertical { &down } else { &across };
            let numbers = Numbers::new(geometry, extent, (0.0, 0.0));
            let axis = if vertical { numbers.y } else { numbers.x };
            let book = Fitted { pitch: axis.pitch(), origin: axis.sign * axis.origin };
            fit::fit(points, cut, book).map(|found| (found.pitch, axis.sign * found.origin, axis))
        };
        let (x, y) = (along(false)?, along(true)?);
        // What is not the gap is the cell; a gap that does not fit in is none.
        let split = |pitch: f64, gap: f64| if pitch > gap { (pitch - gap, gap) } else { (pitch, 0.0) };
        let (across, down) = (split(x.0, x.2.gap), split(y.0, y.2.gap));
        let geometry = Geometry {
            size: (across.0, down.0),
            gap: (across.1, down.1),
            origin: Origin::Corner(WorldPoint { x: x.1, y: y.1 }),
            ..geometry.clone()
        };
        Some(self.placed(Explanation { geometry, ..explanation }))
    }

    /// Notes how far the origin of an explanation lies from the rulebook's.
    fn placed(&self, explanation: Explanation) -> Explanation {
        let (old, new) = (self.given.geometry, &explanation.geometry);
        let extent = self.given.extent;
        let (old, new) = (old.corner_of_first(extent), new.corner_of_first(extent));
        Explanation { moved: (new.x - old.x, new.y - old.y), ..explanation }
    }

    /// Column and row that a sample's program gave.
    fn cell_of(&self, sample: &Sample) -> Option<[f64; 2]> {
        let Given { geometry, extent, .. } = *self.given;
        if self.samples.asks == Asks::Cell {
            return Some([sample.output.0, sample.output.1]);
        }
        let Cell { column, row } = geometry.cell_of_index(extent, sample.output.0 as i64)?;
        Some([column as f64, row as f64])
    }

    fn fit_centres(&self) -> Option<Explanation> {
        let Given { geometry, extent, .. } = *self.given;
        let numbers = Numbers::new(geometry, extent, (0.0, 0.0));
        let slack = self.samples.all.iter().map(|sample| sample.slack.0.max(sample.slack.1)).fold(0.0, f64::max);
        let along =
            |vertical: bool| {
                let axis = if vertical { numbers.y } else { numbers.x };
                let points: Vec<(f64, f64)> =
                    self.samples
                        .all
                        .iter()
                        .map(|sample| {
                            if vertical { (sample.input.1, sample.output.1) } else { (sample.input.0, sample.output.0) }
                        })
                        .collect();
                let (pitch, first) = fit::line(&points, slack)?;
                let (pitch, middle) = (axis.sign * pitch, axis.sign * (first - axis.origin));
                // The middle of cell 0 says either the size or the origin; the rulebook's origin is kept where it can be.
                if pitch <= 0.0 {
                    None
                } else if middle > 0.0 && middle * 2.0 <= pitch {
                    Some((middle * 2.0, pitch - middle * 2.0, axis.origin))
                } else {
                    let size = axis.size.min(pitch);
                    Some((size, pitch - size, first - axis.sign * size / 2.0))
                }
            };
        let (x, y) = (along(false)?, along(true)?);
        let geometry = Geometry {
            size: (x.0, y.0),
            gap: (x.1, y.1),
            origin: Origin::Corner(WorldPoint { x: x.2, y: y.2 }),
            ..geometry.clone()
        };
        let explanation = Explanation { geometry, fitted: true, ..self.explanation(self.right_way(), false) };
        let explanation = self.placed(explanation);
        self.fits_all(&explanation).then_some(explanation)
    }
}
