//! Which mistakes explain the numbers that somebody's program gave.

use super::back::{Back, IndexSlip, Unindex, right_cell_of_index, right_index};
use super::catalogue::Mishap;
use super::forth::{Asked, Numbers, Recipe, ViewSlip};
use super::samples::{Asks, Board, Samples};
use crate::rulebook::Rulebook;
use crate::space::{Cell, Extent, Geometry, Position, View, WindowPoint, WorldPoint};
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
    /// `Some(true)` where the positions are known to be of the window, `Some(false)` of the world.
    pub window: Option<bool>,
}

impl<'a> Given<'a> {
    /// A grid without a view, for positions of pieces with this hotspot.
    pub const fn of_world(geometry: &'a Geometry, extent: Extent, hotspot: (f64, f64)) -> Self {
        Self { geometry, extent, view: None, hotspot, window: None }
    }

    /// The numbers of a rulebook on one of its maps, from 0.
    pub fn of(book: &'a Rulebook, map: usize) -> Self {
        let extent = book.maps[map].extent;
        let (view, hotspot) = (book.view.as_ref(), book.geometry.hotspot);
        Self { geometry: &book.geometry, extent, view, hotspot, window: None }
    }

    /// The view, where positions are of the window.
    pub fn view_of_positions(&self) -> Option<&'a View> {
        self.view.filter(|_| self.window == Some(true))
    }

    /// The numbers that count for positions: those of the window have no hotspot.
    pub fn numbers(&self) -> Numbers {
        let hotspot = if self.window == Some(true) { (0.0, 0.0) } else { self.hotspot };
        Numbers::new(self.geometry, self.extent, hotspot)
    }

    /// A position as it is asked about, in the space that is known; of the world where none is.
    pub fn at(&self, x: f64, y: f64) -> Asked<'a> {
        let Self { geometry, extent, view, hotspot, .. } = *self;
        let window = self.view_of_positions().map(|_| WindowPoint { x, y });
        let world = match self.view_of_positions() {
            Some(view) => view.world(geometry.y, WindowPoint { x, y }),
            None => WorldPoint { x, y },
        };
        Asked { geometry, extent, view, hotspot, world, window }
    }

    /// The board, as samples are read for it.
    pub const fn board(&self) -> Board {
        Board { extent: self.extent, first_index: self.geometry.first_index }
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
    /// The hotspot with which the positions are explained, where it is another than the rulebook's.
    pub hotspot: Option<(f64, f64)>,
    /// How far the origin lies from the rulebook's, in world px.
    pub moved: (f64, f64),
    pub(super) way: Way,
}

impl Explanation {
    /// By how many halves of a cell its board lies beside the rulebook's, along x and y, where by nothing else.
    pub fn half_cells(&self) -> Option<(i32, i32)> {
        let halves = |moved: f64, size: f64| match moved {
            0.0 => Some(0),
            _ if moved == size / 2.0 => Some(1),
            _ if moved == -size / 2.0 => Some(-1),
            _ => None,
        };
        let found = (halves(self.moved.0, self.geometry.size.0)?, halves(self.moved.1, self.geometry.size.1)?);
        (self.fitted && found != (0, 0)).then_some(found)
    }

    /// Whether a step between window and world is left out.
    fn leaves_view_out(&self) -> bool {
        self.window && self.vertical.is_none() && self.mishap.is_some_and(Mishap::is_of_view)
    }

    /// Whether it says that nothing is wrong.
    pub fn is_correct(&self) -> bool {
        self.mishap.is_none() && !self.fitted
    }
}

/// How an explanation works its numbers out; by axes where each goes its own way.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Way {
    /// Position to column and row.
    Cell([Recipe; 2]),
    /// Position to index.
    Index(Recipe, Option<IndexSlip>),
    /// Position to the centre of the nearest cell, x and y.
    Snap([Snapping; 2]),
    /// Cell to centre, x and y.
    Centre([Back; 2]),
    /// Cell to index.
    IndexOfCell(Option<IndexSlip>),
    /// Index to cell.
    CellOfIndex(Option<Unindex>),
}

/// A way to the centre of the nearest cell.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(super) struct Snapping {
    forth: Recipe,
    back: Back,
    unclamped: bool,
}

/// What was found.
#[derive(Clone, Debug, PartialEq)]
pub struct Diagnosis {
    /// Everything that fits all samples, the simplest first.
    pub explanations: Vec<Explanation>,
    /// What would best tell the explanations apart: a position, a cell or an index.
    pub next: Option<Position>,
}

impl Diagnosis {
    /// Whether the samples are right in one space, and a step that is left out in the other gives the same numbers.
    pub fn is_of_two_spaces(&self) -> bool {
        let first = self.explanations.first();
        first.is_some_and(Explanation::leaves_view_out) && self.explanations.iter().any(Explanation::is_correct)
    }
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
/// let given = Given::of_world(&geometry, extent, (0.0, 0.0));
/// let samples = parse_samples("x,y,column,row\n7,2,1,0\n12,8,1,1\n4,4,0,0\n", given.board(), None).unwrap();
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
    let correct = found.first().is_some_and(Explanation::is_correct);
    if !correct {
        found.extend(search.half_cells());
    }
    if found.is_empty() {
        found.extend(search.hotspots());
        found.extend(search.fits());
        found.extend(search.pairs());
        // Keeping one of the numbers is simpler than two mistakes, two mistakes simpler than all numbers anew.
        found.sort_by_key(|explanation| search.changes(explanation));
    }
    // What is right in one space is no proof where a step of the other space left out gives the same numbers.
    if correct && !found[0].window {
        found.sort_by_key(|explanation| !explanation.leaves_view_out());
    }
    let next = search.telling(&found);
    Diagnosis { explanations: found, next }
}

pub(super) struct Search<'a> {
    pub given: &'a Given<'a>,
    pub samples: &'a Samples,
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
            Way::Snap(both) => {
                let along = |vertical: usize| {
                    let Snapping { forth, back, unclamped } = both[vertical];
                    let asked = self.asked(explanation, input)?;
                    // Where the positions' hotspot counts, a centre has none.
                    let numbers = asked.numbers();
                    let [column, row] = forth.answer(&asked)?;
                    let at =
                        if unclamped { [column, row] } else { [numbers.x.clamped(column), numbers.y.clamped(row)] };
                    Some(back.along(&numbers, at, vertical == 1))
                };
                Some([along(0)?, along(1)?])
            }
            Way::Centre(backs) => {
                let numbers = Numbers::new(geometry, extent, (0.0, 0.0));
                let at = [input.0, input.1];
                Some([backs[0].along(&numbers, at, false), backs[1].along(&numbers, at, true)])
            }
            Way::IndexOfCell(slip) => {
                let at = [input.0, input.1];
                let index = match slip {
                    None => right_index(geometry, extent, at),
                    Some(slip) => slip.index(geometry, extent, at),
                };
                Some([index, 0.0])
            }
            Way::CellOfIndex(slip) => Some(match slip {
                None => right_cell_of_index(geometry, extent, input.0),
                Some(slip) => slip.cell(geometry, extent, input.0),
            }),
        }
    }

    pub fn asked<'b>(&'b self, explanation: &'b Explanation, (x, y): (f64, f64)) -> Option<Asked<'b>> {
        let Given { extent, view, .. } = *self.given;
        let geometry = &explanation.geometry;
        let hotspot = explanation.hotspot.unwrap_or(self.given.hotspot);
        let window = explanation.window.then_some(WindowPoint { x, y });
        let world = match window {
            Some(point) => view?.world(geometry.y, point),
            None => WorldPoint { x, y },
        };
        Some(Asked { geometry, extent, view, hotspot, world, window })
    }

    pub fn fits_all(&self, explanation: &Explanation) -> bool {
        self.samples.all.iter().all(|sample| {
            self.answer(explanation, sample.input).is_some_and(|[one, other]| {
                (one - sample.output.0).abs() <= sample.slack.0
                    && (self.samples.asks.is_index() || (other - sample.output.1).abs() <= sample.slack.1)
            })
        })
    }

    pub fn explanation(&self, way: Way, window: bool) -> Explanation {
        let geometry = self.given.geometry.clone();
        Explanation {
            mishap: None,
            with: None,
            vertical: None,
            window,
            geometry,
            fitted: false,
            hotspot: None,
            moved: (0.0, 0.0),
            way,
        }
    }

    /// The spaces that positions may be in: with a view a program may be asked about window positions.
    pub fn spaces(&self) -> &'static [bool] {
        match (self.samples.asks.at_positions(), self.given.view, self.given.window) {
            (false, _, _) | (_, None, _) | (_, _, Some(false)) => &[false],
            (true, Some(_), Some(true)) => &[true],
            (true, Some(_), None) => &[false, true],
        }
    }

    pub fn right_way(&self) -> Way {
        match self.samples.asks {
            Asks::Cell => Way::Cell([Recipe::default(); 2]),
            Asks::Index => Way::Index(Recipe::default(), None),
            Asks::Snap => Way::Snap([Snapping::default(); 2]),
            Asks::Centre => Way::Centre([Back::default(); 2]),
            Asks::IndexOfCell => Way::IndexOfCell(None),
            Asks::CellOfIndex => Way::CellOfIndex(None),
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
                let slip = mishap.index_slip(first_index).map(|slip| Way::Index(Recipe::default(), Some(slip)));
                // Counting the cells from one or turning them round is known by the index: the same name for both.
                slip.into_iter().chain(mishap.recipes().into_iter().map(|recipe| Way::Index(recipe, None))).collect()
            }
            Asks::Snap => {
                let right = Snapping::default();
                let (recipes, backs) = (mishap.recipes(), mishap.backs());
                // The same number is usually forgotten on both ways; turned round on both is as good as on none.
                let both = recipes.first().zip(backs.first()).filter(|_| mishap != Mishap::YTurnedRound);
                let both = both.map(|(forth, back)| Snapping { forth: *forth, back: *back, ..right });
                let there = recipes.iter().map(|forth| Snapping { forth: *forth, ..right });
                let here = backs.iter().map(|back| Snapping { back: *back, ..right });
                let unclamped = (mishap == Mishap::NotClamped).then_some(Snapping { unclamped: true, ..right });
                let all = both.into_iter().chain(there).chain(here).chain(unclamped);
                all.map(|snapping| Way::Snap([snapping; 2])).collect()
            }
            Asks::Centre => mishap.backs().into_iter().map(|back| Way::Centre([back; 2])).collect(),
            Asks::IndexOfCell => {
                mishap.index_slip(first_index).map(|slip| Way::IndexOfCell(Some(slip))).into_iter().collect()
            }
            Asks::CellOfIndex => mishap.unindex_slips().iter().map(|slip| Way::CellOfIndex(Some(*slip))).collect(),
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
        match self.samples.asks {
            Asks::Cell | Asks::Index | Asks::Snap => {}
            Asks::Centre | Asks::IndexOfCell => {
                return cells
                    .into_iter()
                    .map(|cell| (cell.column as f64, cell.row as f64))
                    .collect::<Vec<_>>()
                    .into_iter();
            }
            Asks::CellOfIndex => {
                let on_board = cells.into_iter().filter_map(|cell| geometry.index(extent, cell));
                return on_board.map(|index| (index as f64, 0.0)).collect::<Vec<_>>().into_iter();
            }
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
    fn telling(&self, explanations: &[Explanation]) -> Option<Position> {
        /// More explanations than these are told apart among the simplest.
        const MOST: usize = 24;
        let explanations = &explanations[..explanations.len().min(MOST)];
        let mut best: Option<(usize, (f64, f64))> = None;
        let window = explanations.first().is_some_and(|explanation| explanation.window);
        for input in self.inputs(window) {
            let answers: Vec<Option<[f64; 2]>> =
                explanations.iter().map(|explanation| self.answer(explanation, input)).collect();
            let same: usize =
                answers.iter().map(|one| answers.iter().filter(|other| one == *other).count()).sum::<usize>();
            if best.is_none_or(|(least, _)| same < least) {
                best = Some((same, input));
            }
        }
        let (_, (x, y)) = best.filter(|(same, _)| *same < explanations.len() * explanations.len())?;
        Some(match self.samples.asks {
            Asks::Cell | Asks::Index | Asks::Snap if window => Position::Window(WindowPoint { x, y }),
            Asks::Cell | Asks::Index | Asks::Snap => Position::World(WorldPoint { x, y }),
            Asks::Centre | Asks::IndexOfCell => Position::Cell(Cell::new(x as i64, y as i64)),
            Asks::CellOfIndex => Position::Index(x as i64),
        })
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
        Way::Snap([snapping, _]) if snapping.forth.view == ViewSlip::Right => {
            Some(Way::Snap([0, 1].map(|at| if pick(at) { snapping } else { Snapping::default() })))
        }
        Way::Cell(_) | Way::Index(..) | Way::Snap(_) | Way::IndexOfCell(_) | Way::CellOfIndex(_) => None,
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
