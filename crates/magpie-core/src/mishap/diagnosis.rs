//! Which mistakes explain the numbers that somebody's program gave.

use super::back::{Back, IndexSlip, right_index};
use super::catalogue::Mishap;
use super::fit::{self, Cut, Fitted, Point};
use super::forth::{Asked, Numbers, Recipe, ViewSlip};
use super::samples::{Asks, Sample, Samples};
use super::version::{Target, Version};
use crate::rulebook::Rulebook;
use crate::space::{Cell, Extent, Geometry, Origin, View, WindowPoint, WorldPoint};
use std::collections::HashSet;

/// The grid that the program was to know.
#[derive(Clone, Copy, Debug)]
pub struct Given<'a> {
    /// The numbers of the grid.
    pub geometry: &'a Geometry,
    /// The size of the board in cells.
    pub extent: Extent,
    /// How the world reaches the window.
    pub view: Option<&'a View>,
    /// The hotspot that counts for world positions.
    pub hotspot: (f64, f64),
}

impl<'a> Given<'a> {
    /// The numbers of a rulebook on one of its maps, from 0.
    pub fn of(book: &'a Rulebook, map: usize) -> Self {
        let extent = book.maps[map].extent;
        Self { geometry: &book.geometry, extent, view: book.view.as_ref(), hotspot: book.geometry.hotspot }
    }
}

/// A way that gives all the samples' numbers.
#[derive(Clone, Debug, PartialEq)]
pub struct Explanation {
    /// The mistake; `None` where the formula is the right one.
    pub mishap: Option<Mishap>,
    /// A second mistake made together with it.
    pub with: Option<Mishap>,
    /// `Some(false)`: made for columns only; `Some(true)`: for rows only.
    pub vertical: Option<bool>,
    /// Whether the positions are taken for window positions.
    pub window: bool,
    /// The numbers of the grid behind it.
    pub geometry: Geometry,
    /// Whether these numbers are others than the rulebook's.
    pub fitted: bool,
    way: Way,
}

impl Explanation {
    /// Whether it says that nothing is wrong.
    pub fn is_correct(&self) -> bool {
        self.mishap.is_none() && !self.fitted
    }
}

/// How an explanation works its numbers out.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Way {
    /// Position to column and row, each by a recipe of its own.
    Cell([Recipe; 2]),
    /// Position to index.
    Index(Recipe, Option<IndexSlip>),
    /// Cell to centre, x and y each by a way of its own.
    Centre([Back; 2]),
}

/// What was found.
#[derive(Clone, Debug, PartialEq)]
pub struct Diagnosis {
    /// Everything that fits all samples, the simplest first.
    pub explanations: Vec<Explanation>,
    /// The position, or for samples of centres the cell, that would best tell the explanations apart.
    pub next: Option<(f64, f64)>,
}

/// Finds every explanation of the catalogue that fits all samples, the simplest first. Two mistakes together, and other
/// numbers than the rulebook's, are looked for where nothing simpler fits.
///
/// # Examples
/// ```
/// use magpie_core::mishap::{Given, Mishap, diagnose, parse_samples};
/// use magpie_core::space::{Extent, Geometry};
///
/// // Cells of 10 px, but the program rounds where it should cut: 7 px are in column 0, and it says 1.
/// let (geometry, extent) = (Geometry::of_cells(10.0, 10.0), Extent { columns: 8, rows: 8 });
/// let given = Given { geometry: &geometry, extent, view: None, hotspot: (0.0, 0.0) };
/// let samples = parse_samples("x,y,column,row\n7,2,1,0\n12,8,1,1\n4,4,0,0\n").unwrap();
/// let found = diagnose(&given, &samples);
/// assert_eq!(found.explanations[0].mishap, Some(Mishap::Rounded));
/// ```
pub fn diagnose(given: &Given, samples: &Samples) -> Diagnosis {
    let search = Search { given, samples };
    let mut found = search.right();
    for mishap in Mishap::ALL {
        found.extend(search.single(mishap));
    }
    // Made on both axes is simpler than made on one of them.
    found.sort_by_key(|explanation| explanation.vertical.is_some());
    if found.is_empty() {
        found.extend(search.fits());
        found.extend(search.pairs());
        // Keeping one of the numbers is simpler than two mistakes, two mistakes simpler than all numbers anew.
        found.sort_by_key(|explanation| search.changes(explanation));
    }
    let next = search.telling(&found);
    Diagnosis { explanations: found, next }
}

struct Search<'a> {
    given: &'a Given<'a>,
    samples: &'a Samples,
}

impl Search<'_> {
    /// What an explanation gives for an input; `None` where its mistake has no meaning.
    fn answer(&self, explanation: &Explanation, input: (f64, f64)) -> Option<[f64; 2]> {
        let geometry = &explanation.geometry;
        let extent = self.given.extent;
        let cell = |recipe: Recipe| self.asked(explanation, input).and_then(|asked| recipe.answer(&asked));
        match explanation.way {
            Way::Cell([column, row]) if column == row => cell(column),
            Way::Cell([column, row]) => Some([cell(column)?[0], cell(row)?[1]]),
            Way::Index(recipe, slip) => {
                let at = cell(recipe)?;
                let index = match slip {
                    None => right_index(geometry, extent, at),
                    Some(slip) => slip.index(geometry, extent, at),
                };
                Some([index, 0.0])
            }
            Way::Centre(backs) => {
                let numbers = Numbers::new(geometry, extent, (0.0, 0.0));
                let at = [input.0, input.1];
                Some([backs[0].along(&numbers, at, false), backs[1].along(&numbers, at, true)])
            }
        }
    }

    fn asked<'b>(&'b self, explanation: &'b Explanation, (x, y): (f64, f64)) -> Option<Asked<'b>> {
        let Given { extent, view, hotspot, .. } = *self.given;
        let geometry = &explanation.geometry;
        let window = explanation.window.then_some(WindowPoint { x, y });
        let world = match window {
            Some(point) => view?.world(geometry.y, point),
            None => WorldPoint { x, y },
        };
        Some(Asked { geometry, extent, view, hotspot, world, window })
    }

    fn fits_all(&self, explanation: &Explanation) -> bool {
        self.samples.all.iter().all(|sample| {
            self.answer(explanation, sample.input).is_some_and(|[one, other]| {
                (one - sample.output.0).abs() <= sample.slack.0
                    && (self.samples.asks == Asks::Index || (other - sample.output.1).abs() <= sample.slack.1)
            })
        })
    }

    fn explanation(&self, way: Way, window: bool) -> Explanation {
        let geometry = self.given.geometry.clone();
        Explanation { mishap: None, with: None, vertical: None, window, geometry, fitted: false, way }
    }

    /// The spaces that positions may be in: with a view a program may be asked about window positions.
    fn spaces(&self) -> &'static [bool] {
        match (self.samples.asks, self.given.view) {
            (Asks::Centre, _) | (_, None) => &[false],
            (_, Some(_)) => &[false, true],
        }
    }

    fn right_way(&self) -> Way {
        match self.samples.asks {
            Asks::Cell => Way::Cell([Recipe::default(); 2]),
            Asks::Index => Way::Index(Recipe::default(), None),
            Asks::Centre => Way::Centre([Back::default(); 2]),
        }
    }

    fn right(&self) -> Vec<Explanation> {
        let all = self.spaces().iter().map(|window| self.explanation(self.right_way(), *window));
        all.filter(|explanation| self.fits_all(explanation)).collect()
    }

    /// All ways to make one mistake.
    fn ways(&self, mishap: Mishap) -> Vec<Way> {
        let first_index = self.given.geometry.first_index;
        match self.samples.asks {
            Asks::Cell => mishap.recipes().into_iter().map(|recipe| Way::Cell([recipe; 2])).collect(),
            Asks::Index => {
                let slips =
                    mishap.versions(Target::Index, first_index).into_iter().filter_map(|version| match version {
                        Version::Index(slip) => Some(Way::Index(Recipe::default(), Some(slip))),
                        _ => None,
                    });
                // Counting the cells from one or turning them round is known by the index: the same name for both.
                slips.chain(mishap.recipes().into_iter().map(|recipe| Way::Index(recipe, None))).collect()
            }
            Asks::Centre => {
                let versions = mishap.versions(Target::CentreX, first_index).into_iter();
                let backs = versions.filter_map(|version| match version {
                    Version::Back(back) => Some(Way::Centre([back; 2])),
                    _ => None,
                });
                backs.collect()
            }
        }
    }

    fn fitting(&self, mishap: Mishap, way: Way, vertical: Option<bool>) -> Option<Explanation> {
        let with = |window: &bool| Explanation { mishap: Some(mishap), vertical, ..self.explanation(way, *window) };
        // A mistake that changes nothing at these samples' grid explains nothing.
        let matters = |explanation: &Explanation| self.matters(explanation);
        self.spaces().iter().map(with).find(|explanation| self.fits_all(explanation) && matters(explanation))
    }

    /// Whether an explanation ever says something else than the right formula.
    fn matters(&self, explanation: &Explanation) -> bool {
        let right = Explanation { mishap: None, with: None, way: self.right_way(), ..explanation.clone() };
        self.inputs(explanation.window).any(|input| self.answer(explanation, input) != self.answer(&right, input))
    }

    /// A mistake for both axes; where that does not fit, for one of them.
    fn single(&self, mishap: Mishap) -> Option<Explanation> {
        let ways = self.ways(mishap);
        let both = ways.iter().find_map(|way| self.fitting(mishap, *way, None));
        both.or_else(|| {
            ways.iter().find_map(|way| {
                [false, true]
                    .into_iter()
                    .find_map(|vertical| self.fitting(mishap, one_axis(*way, vertical)?, Some(vertical)))
            })
        })
    }

    fn pairs(&self) -> Vec<Explanation> {
        let mut found: Vec<Explanation> = Vec::new();
        for (at, first) in Mishap::ALL.into_iter().enumerate() {
            for second in &Mishap::ALL[at + 1..] {
                let ways = self
                    .ways(first)
                    .into_iter()
                    .flat_map(|one| self.ways(*second).into_iter().filter_map(move |other| both(one, other)));
                let explanation = ways.into_iter().find_map(|way| self.fitting(first, way, None));
                found.extend(explanation.map(|found| Explanation { with: Some(*second), ..found }));
            }
        }
        found
    }

    /// How far from the rulebook an explanation goes.
    fn changes(&self, explanation: &Explanation) -> usize {
        let (old, new) = (self.given.geometry, &explanation.geometry);
        let numbers = usize::from(old.pitch() != new.pitch())
            + usize::from(old.corner_of_first(self.given.extent) != new.corner_of_first(self.given.extent));
        match (explanation.fitted, explanation.mishap) {
            (true, None) => numbers * 2 - 1,
            (true, Some(_)) => numbers * 2 + 2,
            _ => 2,
        }
    }

    /// The right formula, or one that cuts, with numbers that the samples ask for.
    fn fits(&self) -> Vec<Explanation> {
        if self.samples.asks == Asks::Centre {
            return self.fit_centres().into_iter().collect();
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

    fn fit_cells(&self, cut: Cut, mishap: Option<Mishap>, window: bool) -> Option<Explanation> {
        let Given { extent, geometry, .. } = *self.given;
        let recipe = mishap.and_then(|mishap| mishap.recipes().first().copied()).unwrap_or_default();
        let way = match self.samples.asks {
            Asks::Index => Way::Index(recipe, None),
            _ => Way::Cell([recipe; 2]),
        };
        let explanation = Explanation { mishap, fitted: true, ..self.explanation(way, window) };
        let asked: Vec<(Asked, [f64; 2])> = self
            .samples
            .all
            .iter()
            .map(|sample| Some((self.asked(&explanation, sample.input)?, self.cell_of(sample)?)))
            .collect::<Option<_>>()?;
        let along = |vertical: bool| {
            let points: Vec<Point> = asked
                .iter()
                .map(|(asked, cell)| {
                    let numbers = asked.numbers();
                    let (axis, p, cell) = if vertical {
                        (numbers.y, asked.world.y, cell[1])
                    } else {
                        (numbers.x, asked.world.x, cell[0])
                    };
                    Point { p: axis.sign * (p + axis.hotspot), cell }
                })
                .collect();
            let numbers = Numbers::new(geometry, extent, (0.0, 0.0));
            let axis = if vertical { numbers.y } else { numbers.x };
            let book = Fitted { pitch: axis.pitch(), origin: axis.sign * axis.origin };
            fit::fit(&points, cut, book).map(|found| (found.pitch, axis.sign * found.origin, axis))
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
        Some(Explanation { geometry, ..explanation })
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
        self.fits_all(&explanation).then_some(explanation)
    }

    /// Inputs at which explanations are likely to part: the first, the middle and the last cells and those beside the
    /// board, at their corners, quarters, middles and last pixels.
    fn inputs(&self, window: bool) -> impl Iterator<Item = (f64, f64)> {
        let Given { geometry, extent, view, .. } = *self.given;
        let places = |count: u32| {
            let last = i64::from(count) - 1;
            // Places on the board come first: of two that tell as much the one that is easier to touch is named.
            let mut all = vec![last / 2, 0, 1, last - 1, last, -1, last + 1];
            let mut seen = HashSet::new();
            all.retain(|place| seen.insert(*place));
            all
        };
        let cells: Vec<Cell> = places(extent.rows)
            .iter()
            .flat_map(|row| places(extent.columns).into_iter().map(|column| Cell::new(column, *row)))
            .collect();
        if self.samples.asks == Asks::Centre {
            return cells.into_iter().map(|cell| (cell.column as f64, cell.row as f64)).collect::<Vec<_>>().into_iter();
        }
        // Spread over the cell, each share of the width and of the height once; the last is its last pixel.
        let spread = (0..16).map(|at| (f64::from(at) / 16.0, f64::from(at * 7 % 16) / 16.0));
        let shares: Vec<(f64, f64)> = spread.chain([(0.999, 0.999)]).collect();
        let (w, h) = geometry.pitch();
        let whole = |p: f64| if w.min(h) >= 8.0 { p.floor() } else { p };
        let mut all = Vec::new();
        for cell in cells {
            for (across, down) in shares.iter().copied() {
                let point = geometry.point_in(extent, cell, (across * w, down * h));
                match view.filter(|_| window) {
                    Some(view) => {
                        let point = view.window_point(geometry.y, point);
                        all.push((whole(point.x), whole(point.y)));
                    }
                    None => all.push((whole(point.x), whole(point.y))),
                }
            }
        }
        all.into_iter()
    }

    /// The input at which the explanations fall into the most and smallest groups.
    fn telling(&self, explanations: &[Explanation]) -> Option<(f64, f64)> {
        /// More explanations than these are told apart among the simplest.
        const MOST: usize = 24;
        let explanations = &explanations[..explanations.len().min(MOST)];
        let mut best: Option<(usize, (f64, f64))> = None;
        let window = explanations.iter().any(|explanation| explanation.window);
        for input in self.inputs(window) {
            let answers: Vec<Option<[f64; 2]>> =
                explanations.iter().map(|explanation| self.answer(explanation, input)).collect();
            let same: usize =
                answers.iter().map(|one| answers.iter().filter(|other| one == *other).count()).sum::<usize>();
            if best.is_none_or(|(least, _)| same < least) {
                best = Some((same, input));
            }
        }
        best.filter(|(same, _)| *same < explanations.len() * explanations.len()).map(|(_, input)| input)
    }
}

/// The way with its mistake on one axis only; `None` where that is no way of its own.
fn one_axis(way: Way, vertical: bool) -> Option<Way> {
    let pick = |at: usize| (at == 1) == vertical;
    match way {
        Way::Cell([recipe, _]) if recipe.view == ViewSlip::Right => {
            Some(Way::Cell([0, 1].map(|at| if pick(at) { recipe } else { Recipe::default() })))
        }
        Way::Centre([back, _]) => Some(Way::Centre([0, 1].map(|at| if pick(at) { back } else { Back::default() }))),
        _ => None,
    }
}

/// Two mistakes made together, where they are made at different stages.
fn both(one: Way, other: Way) -> Option<Way> {
    match (one, other) {
        (Way::Cell([one, _]), Way::Cell([other, _])) => Some(Way::Cell([one.and(other)?; 2])),
        (Way::Index(one, None), Way::Index(other, slip)) | (Way::Index(one, slip), Way::Index(other, None)) => {
            Some(Way::Index(one.and(other)?, slip))
        }
        _ => None,
    }
}
