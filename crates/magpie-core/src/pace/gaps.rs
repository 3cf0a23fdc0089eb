//! Where a body gets among the cells of a map, whatever the length of its moves, and what shuts it out (docs/model.md,
//! section 12).
//!
//! Along an axis a body meets something new only where its box comes to a line of cells, where its middle passes the middle
//! of a cell, and at borders. Between these places all places are alike: a slot is one of them, or what lies between two.

mod pairs;

use super::free::body_size;
use super::ground::standing_for;
use super::run::{FramesError, number};
use super::settings::Settings;
use crate::board::PieceId;
use crate::grid::{Entry, Grid};
use crate::rulebook::Rulebook;
use crate::space::exact::{Fraction, as_written, pitches};
use crate::space::{Cell, Extent, Heading};
use num_traits::{One, Signed, ToPrimitive, Zero};
use pairs::PairSearch;
use std::collections::BTreeMap;

/// Two cells with less room between them than a body needs.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Gap {
    /// Both cells, in reading order; one may lie outside.
    pub between: [Cell; 2],
    /// px across the way.
    pub wide: Fraction,
    /// px that the body lacks.
    pub short: Fraction,
}

/// Where a body gets.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Gaps {
    /// Its width and height, in px.
    pub body: [Fraction; 2],
    /// In the middle of its own cell it overlaps nothing that blocks all four headings.
    pub fits: bool,
    /// Cells that its box gets into, in reading order, as all that follow.
    pub cells: Vec<Cell>,
    /// Of them those that its middle does not.
    pub beside: Vec<Cell>,
    /// Cells that whole steps get into and the box does not.
    pub shut: Vec<Cell>,
    /// What keeps it from a step that a whole cell could make.
    pub gaps: Vec<Gap>,
    /// The greatest size of whole px, in proportion, that fits and leaves nothing shut; `None` where there is none, or no
    /// limit.
    pub largest: Option<[u64; 2]>,
}

impl Gaps {
    /// Whether the body fits and gets everywhere.
    pub const fn is_good(&self) -> bool {
        self.fits && self.shut.is_empty()
    }
}

/// The four headings of keys, with their axis and sign on the screen.
const WAYS: [(Heading, usize, i64); 4] =
    [(Heading::West, 0, -1), (Heading::East, 0, 1), (Heading::North, 1, -1), (Heading::South, 1, 1)];

/// Reads the size of a body: `WxH`, or `W` for both.
///
/// # Errors
/// A [`FramesError`] where a side is no positive number, or one beyond the limits.
pub fn parse_body(text: &str) -> Result<[Fraction; 2], FramesError> {
    let (width, height) = text.split_once('x').unwrap_or((text, text));
    Ok([number(width.trim(), "side of a body in px")?, number(height.trim(), "side of a body in px")?])
}

/// Tells where a body gets as the map stands; its size is that of the kind's pace where none is given.
///
/// # Examples
/// ```
/// use magpie_core::grid::{Grid, Nobody};
/// use magpie_core::pace::gaps;
/// use magpie_core::read_text;
/// use std::sync::Arc;
///
/// let text = "game \"Yard\"\ncell 16 px\nkinds\n  cart C body\n  wall # body\nmap \"One\"\n  C#_\n  ___\n";
/// let book = Arc::new(read_text(text, &|path| Err(format!("no file `{path}`"))).rulebook.unwrap());
/// let mut grid = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
/// let cart = grid.first_piece(book.kind_of_name("cart").unwrap()).unwrap();
/// let found = gaps(&mut grid, cart, None);
/// assert!(found.is_good());
/// assert_eq!(found.largest, Some([16, 16]), "a larger body does not get round the wall");
/// ```
pub fn gaps(grid: &mut Grid, piece: PieceId, body: Option<[Fraction; 2]>) -> Gaps {
    let book = grid.book().clone();
    let body = body.unwrap_or_else(|| own_size(grid, &book, piece));
    let Some(yard) = Yard::of(grid, piece) else {
        let (cells, gaps) = (Vec::new(), Vec::new());
        return Gaps { body, fits: false, cells, beside: Vec::new(), shut: Vec::new(), gaps, largest: None };
    };
    let steps = yard.whole_steps();
    let found = yard.reach(&body);
    let shut: Vec<bool> = steps.iter().zip(&found.boxed).map(|(step, boxed)| *step && !boxed).collect();
    let list = |flags: &dyn Fn(usize) -> bool| yard.listed(flags);
    let gaps =
        if found.boxed.contains(&true) { yard.gaps(&body, &found.boxed, &shut) } else { yard.gaps_at_home(&body) };
    Gaps {
        fits: found.fits,
        cells: list(&|at| found.boxed[at]),
        beside: list(&|at| found.boxed[at] && !found.middle[at]),
        shut: list(&|at| shut[at]),
        gaps,
        largest: yard.largest(&body, &steps),
        body,
    }
}

fn own_size(grid: &Grid, book: &Rulebook, piece: PieceId) -> [Fraction; 2] {
    let kind = grid.board().kind_of(piece);
    body_size(&Settings::of_kind(book, kind), &book.geometry)
}

/// What every cell answers the piece, on the board and around it, and the sizes of the grid.
struct Yard {
    extent: Extent,
    south: i64,
    /// The piece's own cell: column, and row counted to the south.
    home: [i64; 2],
    pitch: [Fraction; 2],
    cell: [Fraction; 2],
    wraps: [bool; 4],
    /// By heading and cell of the board with one around it.
    answers: [Vec<Entry>; 4],
    /// Cells that are none.
    void: Vec<bool>,
}

/// Where a body gets: one flag a cell.
struct Found {
    fits: bool,
    boxed: Vec<bool>,
    middle: Vec<bool>,
}

/// A place of the middle along an axis of its cell, or all between two.
#[derive(Clone, Copy, Debug)]
struct Slot {
    /// The columns or rows that the box overlaps, counted from its cell.
    overlapped: (i64, i64),
    /// The line it touches behind and ahead.
    touched: [Option<i64>; 2],
    /// The last line behind with its middle further back, and the first with its middle further on.
    further: (i64, i64),
}

/// The slots of an axis, from the border behind to the one ahead.
fn slots(pitch: &Fraction, cell: &Fraction, body: &Fraction) -> Vec<Slot> {
    let two = Fraction::from_integer(2.into());
    let (half, reach) = (pitch / &two, (body + cell) / &two);
    let within = |place: Fraction| &place - (&place / pitch + Fraction::one() / &two).floor() * pitch;
    let mut places = vec![-half.clone(), Fraction::zero(), half.clone(), within(reach.clone()), within(-reach.clone())];
    places.sort();
    places.dedup();
    let whole = |fraction: Fraction| fraction.to_integer().to_i64().unwrap_or(i64::MAX);
    let slot = |at: &Fraction, is_place: bool| {
        let (first, last) = ((at - &reach) / pitch, (at + &reach) / pitch);
        let touches = |line: &Fraction| (is_place && line.is_integer()).then(|| whole(line.clone()));
        Slot {
            overlapped: (whole(first.floor()) + 1, whole(last.ceil()) - 1),
            touched: [touches(&first), touches(&last)],
            further: (if at.is_positive() { 0 } else { -1 }, i64::from(!at.is_negative())),
        }
    };
    let mut found = Vec::new();
    for (number, place) in places.iter().enumerate() {
        found.push(slot(place, true));
        if let Some(next) = places.get(number + 1) {
            found.push(slot(&((place + next) / &two), false));
        }
    }
    found
}

/// Counts of flags in rectangles, over cells of the board and some around it.
struct Sums {
    from: [i64; 2],
    size: [i64; 2],
    totals: Vec<u32>,
}

impl Sums {
    fn of(from: [i64; 2], size: [i64; 2], flag: impl Fn([i64; 2]) -> bool) -> Self {
        let wide = (size[0] + 1) as usize;
        let mut totals = vec![0_u32; wide * (size[1] + 1) as usize];
        for y in 0..size[1] as usize {
            let mut row = 0;
            for x in 0..size[0] as usize {
                row += u32::from(flag([from[0] + x as i64, from[1] + y as i64]));
                totals[(y + 1) * wide + x + 1] = totals[y * wide + x + 1] + row;
            }
        }
        Self { from, size, totals }
    }

    /// How many flags there are in columns and rows, both ends included.
    fn count(&self, columns: (i64, i64), rows: (i64, i64)) -> u32 {
        let within = |axis: usize, at: i64| (at - self.from[axis]).clamp(0, self.size[axis]) as usize;
        let (left, right) = (within(0, columns.0), within(0, columns.1 + 1));
        let (top, bottom) = (within(1, rows.0), within(1, rows.1 + 1));
        if left >= right || top >= bottom {
            return 0;
        }
        let wide = (self.size[0] + 1) as usize;
        let at = |x: usize, y: usize| self.totals[y * wide + x];
        at(right, bottom) + at(left, top) - at(left, bottom) - at(right, top)
    }
}

impl Yard {
    fn of(grid: &mut Grid, piece: PieceId) -> Option<Self> {
        let book = grid.book().clone();
        let (geometry, extent) = (&book.geometry, grid.board().extent());
        let own = grid.board().cell(grid.board().cell_of(piece)?);
        let south = geometry.south();
        let (columns, rows) = (i64::from(extent.columns), i64::from(extent.rows));
        let around = || (-1..=rows).flat_map(move |row| (-1..=columns).map(move |column| Cell::new(column, row)));
        let answers = WAYS.map(|(heading, ..)| around().map(|cell| grid.entry(piece, heading, cell)).collect());
        let board = grid.board();
        Some(Self {
            extent,
            south,
            home: [own.column, own.row * south],
            pitch: pitches(geometry),
            cell: [geometry.size.0, geometry.size.1].map(as_written),
            wraps: WAYS.map(|(heading, ..)| grid.wraps(piece, heading)),
            answers,
            void: (0..board.cells()).map(|cell| board.is_void(crate::board::CellId(cell))).collect(),
        })
    }

    /// How many columns, and how many rows.
    const fn counts(&self) -> [i64; 2] {
        [self.extent.columns as i64, self.extent.rows as i64]
    }

    /// The first column, and the first row counted to the south.
    const fn first(&self) -> [i64; 2] {
        [0, if self.south < 0 { 1 - self.extent.rows as i64 } else { 0 }]
    }

    /// A column and a row counted to the south as the cell that they stand for along a heading.
    fn cell(&self, way: usize, [column, south]: [i64; 2]) -> Cell {
        standing_for(self.extent, self.wraps[way], Cell::new(column, south * self.south))
    }

    fn answer(&self, way: usize, square: [i64; 2]) -> Entry {
        let cell = self.cell(way, square);
        self.answers[way][((cell.row + 1) * (self.counts()[0] + 2) + cell.column + 1) as usize]
    }

    fn is_shut(&self, way: usize, square: [i64; 2]) -> bool {
        self.answer(way, square) == Entry::Shut
    }

    fn shuts_all(&self, square: [i64; 2]) -> bool {
        (0..4).all(|way| self.is_shut(way, square))
    }

    /// The number of a cell of the board in reading order; `None` outside.
    fn number(&self, cell: Cell) -> Option<usize> {
        let [columns, rows] = self.counts();
        let inside = (0..columns).contains(&cell.column) && (0..rows).contains(&cell.row);
        inside.then(|| (cell.row * columns + cell.column) as usize)
    }

    fn listed(&self, flag: &dyn Fn(usize) -> bool) -> Vec<Cell> {
        let columns = self.counts()[0] as usize;
        let cells = (0..self.void.len()).filter(|at| !self.void[*at] && flag(*at));
        cells.map(|at| Cell::new((at % columns) as i64, (at / columns) as i64)).collect()
    }

    /// The cells that whole steps get into.
    fn whole_steps(&self) -> Vec<bool> {
        let mut reached = vec![false; self.void.len()];
        let mut open = vec![self.home];
        reached.iter_mut().zip(0..).for_each(|(flag, at)| *flag = self.number_of(self.home) == Some(at));
        while let Some(from) = open.pop() {
            for (way, (_, axis, sign)) in WAYS.into_iter().enumerate() {
                let mut to = from;
                to[axis] += sign;
                let (cell, answer) = (self.cell(way, to), self.answer(way, to));
                let Some(number) = self.number(cell).filter(|_| answer != Entry::Shut) else { continue };
                if !std::mem::replace(&mut reached[number], true) && answer == Entry::Open {
                    open.push([cell.column, cell.row * self.south]);
                }
            }
        }
        reached
    }

    fn number_of(&self, square: [i64; 2]) -> Option<usize> {
        self.number(Cell::new(square[0], square[1] * self.south))
    }

    /// Where a body of some size gets.
    fn reach(&self, body: &[Fraction; 2]) -> Found {
        let slots = self.slots(body);
        Walk::of(self, &slots).run()
    }

    /// What lacks for each step from where the box gets into where it does not.
    fn gaps(&self, body: &[Fraction; 2], boxed: &[bool], shut: &[bool]) -> Vec<Gap> {
        let columns = self.counts()[0];
        let mut found: BTreeMap<[(i64, i64); 2], (Fraction, Fraction)> = BTreeMap::new();
        let searches = [0, 1].map(|axis| PairSearch::of(self, body, axis));
        for number in (0..boxed.len()).filter(|at| boxed[*at]) {
            let (column, row) = (number as i64 % columns, number as i64 / columns);
            let from = [column, row * self.south];
            for (way, (_, axis, sign)) in WAYS.into_iter().enumerate() {
                let mut to = from;
                to[axis] += sign;
                let into = self.number(self.cell(way, to)).filter(|number| shut[*number]);
                if into.is_none() || self.is_shut(way, to) {
                    continue;
                }
                let Some((between, wide, short)) = searches[axis].narrowest(way, from, to) else { continue };
                let entry = found.entry(between).or_insert_with(|| (short.clone(), wide.clone()));
                if short < entry.0 {
                    *entry = (short, wide);
                }
            }
        }
        let cell = |(row, column)| Cell::new(column, row);
        found.into_iter().map(|(between, (short, wide))| Gap { between: between.map(cell), wide, short }).collect()
    }

    /// Where the body fits nowhere in its own cell: the nearest that block on either side, if they are too near.
    fn gaps_at_home(&self, body: &[Fraction; 2]) -> Vec<Gap> {
        let mut found = Vec::new();
        for axis in [0, 1] {
            let nearest = |sign: i64| {
                (1..=self.counts()[axis]).find_map(|far| {
                    let mut square = self.home;
                    square[axis] += sign * far;
                    self.shuts_all(square).then_some((far, square))
                })
            };
            let (Some((before, one)), Some((behind, other))) = (nearest(-1), nearest(1)) else { continue };
            let wide = Fraction::from_integer((before + behind).into()) * &self.pitch[axis] - &self.cell[axis];
            if wide < body[axis] {
                let mut between = [one, other].map(|square| self.cell(0, square));
                between.sort_by_key(|cell| (cell.row, cell.column));
                found.push(Gap { between, short: &body[axis] - &wide, wide });
            }
        }
        found.sort_by_key(|gap| gap.between.map(|cell| (cell.row, cell.column)));
        found
    }

    /// The same with nothing but the cells that block all four headings, and none that takes the piece away.
    fn walls(&self) -> Self {
        let solid = |at: usize| (0..4).all(|way| self.answers[way][at] == Entry::Shut);
        let answer = |at: usize| if solid(at) { Entry::Shut } else { Entry::Open };
        let answers: Vec<Entry> = (0..self.answers[0].len()).map(answer).collect();
        let Self { extent, south, home, pitch, cell, wraps, void, .. } = self;
        Self {
            extent: *extent,
            south: *south,
            home: *home,
            pitch: pitch.clone(),
            cell: cell.clone(),
            wraps: *wraps,
            answers: std::array::from_fn(|_| answers.clone()),
            void: void.clone(),
        }
    }

    /// Whether a body fits and gets everywhere that whole steps get.
    fn is_good(&self, body: &[Fraction; 2], steps: &[bool]) -> bool {
        let slots = self.slots(body);
        let walk = Walk::of(self, &slots);
        walk.fits() && steps.iter().zip(walk.run().boxed).all(|(step, boxed)| !step || boxed)
    }

    fn slots(&self, body: &[Fraction; 2]) -> [Vec<Slot>; 2] {
        [0, 1].map(|axis| slots(&self.pitch[axis], &self.cell[axis], &body[axis]))
    }

    /// The greatest whole size in proportion that fits and leaves nothing shut.
    ///
    /// Among walls alone a smaller body gets wherever a larger one does, so that the largest is found by halving. What else
    /// stands there may let a larger one into what it overlaps from the start: those are tried one by one.
    fn largest(&self, body: &[Fraction; 2], steps: &[bool]) -> Option<[u64; 2]> {
        let ratio = &body[0] / &body[1];
        let sides = [ratio.numer().clone(), ratio.denom().clone()];
        let sized = |times: u64| sides.each_ref().map(|side| Fraction::from_integer(side * times));
        // Beyond twice the board a body overlaps all there is, however large it is.
        let most = [0, 1].map(|axis| {
            let all = Fraction::from_integer((2 * self.counts()[axis] + 4).into()) * &self.pitch[axis];
            (all / Fraction::from_integer(sides[axis].clone())).ceil().to_integer().to_u64().unwrap_or(u64::MAX)
        });
        let most = most[0].max(most[1]).max(1);
        let walls = self.walls();
        let among_walls = |times: u64| walls.is_good(&sized(times), steps);
        if !among_walls(1) || self.is_good(&sized(most), steps) {
            return None;
        }
        // It holds of the first and not of the last.
        let (mut first, mut last) = (1, most);
        while last - first > 1 {
            let middle = first + (last - first) / 2;
            if among_walls(middle) { first = middle } else { last = middle }
        }
        let times = (1..=first).rev().find(|times| self.is_good(&sized(*times), steps))?;
        let [width, height] = sized(times).map(|side| side.to_integer().to_u64());
        Some([width?, height?])
    }
}

/// A walk over all places of a body.
struct Walk<'a> {
    yard: &'a Yard,
    slots: &'a [Vec<Slot>; 2],
    /// Cells that block, by heading, and those that block all four.
    shut: Vec<Sums>,
    from: [i64; 2],
    size: [i64; 2],
}

/// A place: the cell along both axes, counted from the board's first, and the slots in it.
#[derive(Clone, Copy)]
struct Place {
    cell: [u32; 2],
    slot: [u32; 2],
}

impl<'a> Walk<'a> {
    fn of(yard: &'a Yard, slots: &'a [Vec<Slot>; 2]) -> Self {
        let counts = yard.counts();
        let reach = [0, 1].map(|axis| {
            let far = slots[axis].iter().map(|slot| slot.overlapped.1.max(-slot.overlapped.0)).max().unwrap_or(0);
            far.min(counts[axis]) + 1
        });
        let from = [0, 1].map(|axis| yard.first()[axis] - reach[axis]);
        let size = [0, 1].map(|axis| counts[axis] + 2 * reach[axis]);
        let mut shut: Vec<Sums> = (0..4).map(|way| Sums::of(from, size, |square| yard.is_shut(way, square))).collect();
        shut.push(Sums::of(from, size, |square| yard.shuts_all(square)));
        Self { yard, slots, shut, from, size }
    }

    fn home(&self) -> [u32; 2] {
        [0, 1].map(|axis| (self.yard.home[axis] - self.yard.first()[axis]) as u32)
    }

    /// How many cells of some lines and the overlapped ones across block; its own is left out.
    fn blocking(&self, way: usize, place: Place, (axis, lines): (usize, (i64, i64))) -> u32 {
        let cell = [0, 1].map(|axis| i64::from(place.cell[axis]) + self.yard.first()[axis]);
        let other = 1 - axis;
        let (first, last) = self.slots[other][place.slot[other] as usize].overlapped;
        let mut ranges = [(0, 0); 2];
        ranges[axis] = (cell[axis] + lines.0, cell[axis] + lines.1);
        ranges[other] = (cell[other] + first, cell[other] + last);
        let all = self.shut[way].count(ranges[0], ranges[1]);
        if all == 0 || self.shut[way].count((cell[0], cell[0]), (cell[1], cell[1])) == 0 {
            return all;
        }
        // Round a board that wraps its own cell comes again.
        let round = if way < 4 { self.yard.wraps[way] } else { self.yard.wraps == [true; 4] };
        let own = [0, 1].map(|axis| {
            let (first, last) =
                (ranges[axis].0.max(self.from[axis]), ranges[axis].1.min(self.from[axis] + self.size[axis] - 1));
            let count = self.yard.counts()[axis];
            if round {
                // How many of them are as far from it as the board is wide, or so many times.
                ((last - cell[axis]).div_euclid(count) - (first - 1 - cell[axis]).div_euclid(count)).max(0)
            } else {
                i64::from((first..=last).contains(&cell[axis]))
            }
        });
        all - (own[0] * own[1]) as u32
    }

    /// Whether nothing that blocks all four headings is overlapped in a place.
    fn is_free(&self, place: Place) -> bool {
        self.blocking(4, place, (0, self.slots[0][place.slot[0] as usize].overlapped)) == 0
    }

    fn middle_slots(&self) -> [u32; 2] {
        // The middle of a cell is a place of its own, with one before and one behind for each other place.
        [0, 1].map(|axis| {
            let slots = &self.slots[axis];
            slots.iter().position(|slot| slot.further == (-1, 1)).unwrap_or(slots.len() / 2) as u32
        })
    }

    fn fits(&self) -> bool {
        self.is_free(Place { cell: self.home(), slot: self.middle_slots() })
    }

    fn starts(&self) -> Vec<Place> {
        let middle = Place { cell: self.home(), slot: self.middle_slots() };
        if self.is_free(middle) {
            return vec![middle];
        }
        let of = |axis: usize| 0..self.slots[axis].len() as u32;
        let all = of(0).flat_map(|x| of(1).map(move |y| [x, y]));
        all.map(|slot| Place { slot, ..middle }).filter(|place| self.is_free(*place)).collect()
    }

    /// Walks everywhere.
    fn run(&self) -> Found {
        let counts = self.yard.counts().map(|count| count as u32);
        let slots = [self.slots[0].len() as u32, self.slots[1].len() as u32];
        let wide = (counts[0] * slots[0]) as usize;
        let number = |place: Place| {
            let at = [0, 1].map(|axis| (place.cell[axis] * slots[axis] + place.slot[axis]) as usize);
            at[1] * wide + at[0]
        };
        let mut seen = fixedbitset::FixedBitSet::with_capacity(wide * (counts[1] * slots[1]) as usize);
        let mut middle = vec![false; self.yard.void.len()];
        let mut corners = vec![0_i32; ((self.size[0] + 1) * (self.size[1] + 1)) as usize];
        let mut open = self.starts();
        open.iter().for_each(|place| seen.insert(number(*place)));
        while let Some(place) = open.pop() {
            self.overlap(place, &mut corners);
            if let Some(own) = self.number(place.cell) {
                middle[own] = true;
            }
            for (way, (_, axis, sign)) in WAYS.into_iter().enumerate() {
                let next = match self.step(way, place, (axis, sign)) {
                    Step::None => continue,
                    Step::Leaves(cell) => {
                        middle.get_mut(cell).into_iter().for_each(|flag| *flag = true);
                        continue;
                    }
                    Step::To(next) => next,
                };
                if !seen.put(number(next)) {
                    open.push(next);
                }
            }
        }
        let boxed = self.boxed(&corners);
        Found { fits: self.fits(), boxed, middle }
    }

    fn number(&self, cell: [u32; 2]) -> Option<usize> {
        let first = self.yard.first();
        self.yard.number_of([0, 1].map(|axis| i64::from(cell[axis]) + first[axis]))
    }

    /// The next place along a heading.
    fn step(&self, way: usize, place: Place, (axis, sign): (usize, i64)) -> Step {
        let slot = &self.slots[axis][place.slot[axis] as usize];
        let ahead = if sign > 0 {
            (slot.overlapped.0.max(slot.further.1), slot.overlapped.1)
        } else {
            (slot.overlapped.0, slot.overlapped.1.min(slot.further.0))
        };
        if ahead.0 <= ahead.1 && self.blocking(way, place, (axis, ahead)) > 0 {
            return Step::None;
        }
        let touched = slot.touched[usize::from(sign > 0)];
        if touched.is_some_and(|line| self.blocking(way, place, (axis, (line, line))) > 0) {
            return Step::None;
        }
        let last = self.slots[axis].len() as u32 - 1;
        let at_border = place.slot[axis] == if sign > 0 { last } else { 0 };
        let mut next = place;
        if !at_border {
            next.slot[axis] = place.slot[axis].wrapping_add_signed(sign as i32);
            return Step::To(next);
        }
        let mut square = [0, 1].map(|axis| i64::from(place.cell[axis]) + self.yard.first()[axis]);
        square[axis] += sign;
        let cell = self.yard.cell(way, square);
        match (self.yard.answer(way, square), self.yard.number(cell)) {
            (Entry::Shut, _) | (_, None) => Step::None,
            (Entry::Leaves, Some(number)) => Step::Leaves(number),
            (Entry::Open, Some(_)) => {
                let square = [cell.column, cell.row * self.yard.south];
                next.cell[axis] = (square[axis] - self.yard.first()[axis]) as u32;
                next.slot[axis] = if sign > 0 { 1 } else { last - 1 };
                Step::To(next)
            }
        }
    }

    /// Marks the cells that the box overlaps in a place, by the corners of their rectangle.
    fn overlap(&self, place: Place, corners: &mut [i32]) {
        let range = [0, 1].map(|axis| {
            let cell = i64::from(place.cell[axis]) + self.yard.first()[axis] - self.from[axis];
            let (first, last) = self.slots[axis][place.slot[axis] as usize].overlapped;
            ((cell + first).clamp(0, self.size[axis]), (cell + last + 1).clamp(0, self.size[axis]))
        });
        if range[0].0 >= range[0].1 || range[1].0 >= range[1].1 {
            return;
        }
        let wide = self.size[0] + 1;
        for (x, y, by) in [
            (range[0].0, range[1].0, 1),
            (range[0].1, range[1].0, -1),
            (range[0].0, range[1].1, -1),
            (range[0].1, range[1].1, 1),
        ] {
            corners[(y * wide + x) as usize] += by;
        }
    }

    /// The cells of the board under all rectangles.
    fn boxed(&self, corners: &[i32]) -> Vec<bool> {
        let mut boxed = vec![false; self.yard.void.len()];
        let wide = (self.size[0] + 1) as usize;
        let mut above = vec![0_i32; wide];
        let round = self.yard.wraps.contains(&true);
        let counts = self.yard.counts();
        for y in 0..self.size[1] {
            let mut sum = 0;
            for x in 0..self.size[0] {
                above[x as usize] += corners[y as usize * wide + x as usize];
                sum += above[x as usize];
                if sum > 0 {
                    let (column, row) = (self.from[0] + x, (self.from[1] + y) * self.yard.south);
                    let cell = if round {
                        Cell::new(column.rem_euclid(counts[0]), row.rem_euclid(counts[1]))
                    } else {
                        Cell::new(column, row)
                    };
                    self.yard.number(cell).into_iter().for_each(|number| boxed[number] = true);
                }
            }
        }
        boxed
    }
}

/// What a move to the next place comes to.
enum Step {
    None,
    /// It takes the piece off the board, in this cell.
    Leaves(usize),
    To(Place),
}

#[cfg(test)]
#[path = "gaps_tests.rs"]
mod tests;
