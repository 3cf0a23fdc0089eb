//! The model beside a program: it is given what the program was given, and held against what the program says.

use super::line::{Header, Line, LineError, Told};
use crate::board::PieceId;
use crate::grid::{Answer, Dealt, Ended, Grid, LayoutError, Nobody, Taken};
use crate::input::Input;
use crate::limits::{LONGEST_PAUSE, LONGEST_WAIT};
use crate::mishap::{Played, Slip};
use crate::rulebook::{KindId, Rulebook};
use crate::space::{Cell, Extent, RowsFrom};
use hashbrown::HashMap;

/// One thing that is told, with what it says.
#[derive(Clone, Debug, PartialEq)]
pub enum Fact {
    /// The cell of the controlled piece.
    Cell(Option<Cell>),
    /// Its place in the flat array.
    Index(Option<i64>),
    /// The world position of its middle.
    Xy(Option<(f64, f64)>),
    /// The board as characters.
    Board(Vec<String>),
    /// Pieces of some kinds; the program's own name of each behind it.
    Pieces(Vec<(KindId, Cell, Option<String>)>),
    /// Counters.
    Counters(Vec<(String, i64)>),
    /// Something was granted.
    Granted(bool),
    /// How the game stands.
    Outcome(Option<Ended>),
    /// What is given instead of drawn: why it cannot be.
    Dealt(String),
}

impl Fact {
    /// The key of a log.
    pub const fn key(&self) -> &'static str {
        match self {
            Self::Cell(_) => "cell",
            Self::Index(_) => "index",
            Self::Xy(_) => "xy",
            Self::Board(_) => "board",
            Self::Pieces(_) => "pieces",
            Self::Counters(_) => "counters",
            Self::Granted(_) => "granted",
            Self::Outcome(_) => "outcome",
            Self::Dealt(_) => "drawn",
        }
    }
}

/// One thing in which the two differ.
#[derive(Clone, Debug, PartialEq)]
pub struct Differs {
    /// What the model says.
    pub expected: Fact,
    /// What the program said.
    pub got: Fact,
}

/// What came of one line.
#[derive(Clone, Debug, Default)]
pub struct Verdict {
    /// Everything in which the two differ.
    pub differs: Vec<Differs>,
    /// The line tells something of the state.
    pub is_report: bool,
}

/// The model of a game, played line by line.
#[derive(Debug)]
pub struct Beside {
    played: Played,
    start: Header,
    /// How far positions may lie apart, in px.
    within: f64,
    grid: Option<Grid>,
    /// Pieces by the program's own names.
    ids: HashMap<String, PieceId>,
    /// The last input did something, and can be taken back.
    is_taken: bool,
}

impl Beside {
    /// Before the first line. Where a header names a map or a seed, these hold.
    pub fn new(played: Played, start: Header, within: f64) -> Self {
        Self { played, start, within, grid: None, ids: HashMap::new(), is_taken: false }
    }

    /// The game as it stands; `None` before the first line.
    pub const fn grid(&self) -> Option<&Grid> {
        self.grid.as_ref()
    }

    /// What is played.
    pub(super) const fn played(&self) -> &Played {
        &self.played
    }

    /// Whether a game stands as another: the same seen, counted and told, and nothing waiting unseen.
    pub(super) fn stands_as(&self, right: &Self, asked: &Told) -> bool {
        let (Some(own), Some(other)) = (&self.grid, &right.grid) else { return false };
        let tells = |beside: &Self, grid: &Grid| Model::of(grid, &beside.played, asked).said(asked);
        let counters = |grid: &Grid| grid.counters().map(|(_, value)| value).collect::<Vec<_>>();
        !self.played.makes(Slip::ToldBefore)
            && !own.hides()
            && own.picture() == other.picture()
            && counters(own) == counters(other)
            && own.outcome() == other.outcome()
            && tells(self, own) == tells(right, other)
    }

    /// Enters the map.
    ///
    /// # Errors
    /// There is no such map.
    pub fn begin(&mut self, dealt: Option<Dealt>) -> Result<&mut Grid, LineError> {
        let map = self.start.map.unwrap_or(0);
        let made = (self.played.switches, dealt);
        let grid = Grid::with_switches(self.played.book.clone(), map, self.start.seed, made, &mut Nobody)
            .map_err(|error: LayoutError| LineError(error.to_string()))?;
        Ok(self.grid.insert(grid))
    }

    /// Plays a line, and holds it against what it tells.
    ///
    /// # Errors
    /// A line that cannot be played: its clock goes back, or too far on.
    pub fn take(&mut self, line: &Line) -> Result<Verdict, LineError> {
        let mut dealt = line.dealt.clone();
        if self.grid.is_none() {
            // A first line without an input reports on the state in which the map was entered.
            let at_entry = if line.input.is_none() { dealt.take() } else { None };
            let left = self.begin(at_entry)?.deal(None);
            dealt = dealt.or(left);
        }
        let tells_before =
            self.played.makes(Slip::ToldBefore) && line.input.as_ref().is_some_and(|input| *input != Input::Restart);
        let before = if tells_before { self.tell(&line.told) } else { None };
        let (granted, left) = self.play(line, dealt)?;
        let asks = matches!(line.input, Some(Input::Key(_) | Input::Tap(_) | Input::Drag(..)));
        let mut differs = Vec::new();
        if let Some(says) = left.and_then(|left| left.fault()) {
            differs.push(Differs { expected: Fact::Dealt(says), got: Fact::Dealt(String::new()) });
        }
        if !line.told.is_report() {
            return Ok(Verdict { differs, is_report: false });
        }
        let Some(told) = before.or_else(|| self.tell(&line.told)) else {
            return Ok(Verdict::default());
        };
        self.hold(&line.told, &told, &mut differs);
        if let Some(got) = line.told.granted.filter(|_| asks)
            && got != granted
        {
            differs.push(Differs { expected: Fact::Granted(granted), got: Fact::Granted(got) });
        }
        Ok(Verdict { differs, is_report: true })
    }

    /// Plays a line; whether something was granted, and what is left of what was given.
    fn play(&mut self, line: &Line, dealt: Option<Dealt>) -> Result<(bool, Option<Dealt>), LineError> {
        let Some(grid) = self.grid.as_mut() else { return Ok((false, dealt)) };
        grid.deal(dealt);
        if line.fired.is_some() {
            grid.stop_timers();
        }
        if let Some(at) = line.at {
            move_clock(grid, at)?;
        }
        for timer in line.fired.iter().flatten() {
            grid.fire_timer(*timer, &mut Nobody);
        }
        let mut granted = false;
        if let Some(input) = &line.input {
            let heard = self.played.heard(input);
            let taken = grid.input(&heard, &mut Nobody);
            self.is_taken = taken == Taken::Yes;
            granted = self.is_taken && grid.has_granted();
            // A piece is known by its name until the board is another.
            let meant = grid.book().input_of(&heard).clone();
            if matches!(meant, Input::Restart | Input::Undo | Input::Next) {
                self.ids.clear();
            }
        }
        Ok((granted, grid.deal(None)))
    }

    /// Takes the last input back and plays it again, with the report of its turn.
    pub fn answer(&mut self, line: &Line) -> Option<Answer> {
        let input = line.input.as_ref().filter(|_| self.is_taken)?;
        let heard = self.played.heard(input);
        let grid = self.grid.as_mut()?;
        if matches!(grid.book().input_of(&heard), Input::Undo) || !grid.undo() {
            return None;
        }
        if let Some(dealt) = &line.dealt {
            grid.deal(Some(dealt.clone()));
        }
        let (_, mut answers, entered) = grid.answer(&heard);
        grid.deal(None);
        answers.pop().or(entered)
    }

    /// What a version says of the state behind a line, as far as the line asks.
    pub(super) fn says(grid: &mut Grid, played: &Played, line: &Line) -> impl PartialEq + use<> {
        let before = played.makes(Slip::ToldBefore).then(|| Model::of(grid, played, &line.told));
        if let Some(input) = &line.input {
            grid.input(&played.heard(input), &mut Nobody);
        }
        let model = before.unwrap_or_else(|| Model::of(grid, played, &line.told));
        (model.said(&line.told), line.told.granted.map(|_| grid.has_granted()))
    }

    fn tell(&self, asked: &Told) -> Option<Model> {
        let grid = self.grid.as_ref()?;
        Some(Model::of(grid, &self.played, asked))
    }

    /// Holds what the model says against what was told.
    fn hold(&mut self, told: &Told, model: &Model, differs: &mut Vec<Differs>) {
        let mut differ = |expected: Fact, got: Fact| differs.push(Differs { expected, got });
        if let Some(got) = told.cell.filter(|got| *got != model.cell) {
            differ(Fact::Cell(model.cell), Fact::Cell(got));
        }
        if let Some(got) = told.index.filter(|got| *got != model.index) {
            differ(Fact::Index(model.index), Fact::Index(got));
        }
        if let Some(got) = told.xy {
            let near = match (got, model.xy) {
                (Some(got), Some(right)) => {
                    // A rounding of the sums themselves is no difference.
                    let slack = self.within + 1e-9 * right.0.abs().max(right.1.abs());
                    (got.0 - right.0).abs() <= slack && (got.1 - right.1).abs() <= slack
                }
                (got, right) => got.is_none() && right.is_none(),
            };
            if !near {
                differ(Fact::Xy(model.xy), Fact::Xy(got));
            }
        }
        if let (Some(got), Some(right)) = (&told.board, &model.board) {
            differ(Fact::Board(right.clone()), Fact::Board(got.clone()));
        }
        if told.pieces.is_some() || !told.kinds.is_empty() {
            let got = told.pieces.as_deref().unwrap_or_default();
            let mut said: Vec<(KindId, Cell)> = got.iter().map(|piece| (piece.kind, piece.cell)).collect();
            let mut right: Vec<(KindId, Cell)> = model.pieces.iter().map(|(_, kind, cell)| (*kind, *cell)).collect();
            said.sort_unstable_by_key(order);
            right.sort_unstable_by_key(order);
            let is_same = said == right && self.are_the_same(got, &model.pieces);
            if !is_same {
                let names: HashMap<PieceId, &String> = self.ids.iter().map(|(name, piece)| (*piece, name)).collect();
                let right = model.pieces.iter().map(|(piece, kind, cell)| {
                    (*kind, *cell, piece.and_then(|piece| Some((*names.get(&piece)?).clone())))
                });
                let said = got.iter().map(|piece| (piece.kind, piece.cell, piece.id.clone()));
                let sorted = |all: &mut Vec<(KindId, Cell, Option<String>)>| {
                    all.sort_by_key(|(kind, cell, _)| order(&(*kind, *cell)))
                };
                let (mut right, mut said): (Vec<_>, Vec<_>) = (right.collect(), said.collect());
                sorted(&mut right);
                sorted(&mut said);
                differ(Fact::Pieces(right), Fact::Pieces(said));
            }
        }
        let right: Vec<(String, i64)> =
            told.counters.iter().zip(&model.counters).map(|((name, ..), value)| (name.clone(), *value)).collect();
        let said: Vec<(String, i64)> = told.counters.iter().map(|(name, _, value)| (name.clone(), *value)).collect();
        if right != said {
            differ(Fact::Counters(right), Fact::Counters(said));
        }
        if let Some(got) = told.outcome.filter(|got| *got != model.outcome) {
            differ(Fact::Outcome(model.outcome), Fact::Outcome(got));
        }
    }

    /// Whether pieces that were told by name are still where these names say.
    fn are_the_same(&mut self, told: &[super::line::ToldPiece], model: &[Standing]) -> bool {
        for piece in told {
            let Some(id) = &piece.id else { continue };
            match self.ids.get(id) {
                Some(known) => {
                    let here = model.iter().find(|(other, ..)| *other == Some(*known));
                    if here.is_none_or(|(_, kind, cell)| *kind != piece.kind || *cell != piece.cell) {
                        return false;
                    }
                }
                None => {
                    let mut here = model.iter().filter(|(_, kind, cell)| *kind == piece.kind && *cell == piece.cell);
                    let free = here
                        .find(|(other, ..)| other.is_none_or(|other| !self.ids.values().any(|known| *known == other)));
                    match free {
                        Some((other, ..)) => {
                            self.ids.extend(other.map(|other| (id.clone(), other)));
                        }
                        None => return false,
                    }
                }
            }
        }
        true
    }
}

fn order(piece: &(KindId, Cell)) -> (u16, i64, i64) {
    (piece.0.0, piece.1.row, piece.1.column)
}

/// Moves the clock to an instant, as a wait.
fn move_clock(grid: &mut Grid, at: u64) -> Result<(), LineError> {
    let clock = grid.counter(crate::rulebook::CounterRead::Clock) as u64;
    if at < clock {
        return Err(LineError(format!("the clock goes back from {clock} to {at}")));
    }
    if at - clock > LONGEST_PAUSE {
        return Err(LineError(format!(
            "the clock would go on from {clock} to {at}: at most {LONGEST_PAUSE} ms may lie between two lines"
        )));
    }
    let mut left = at - clock;
    while left > 0 {
        let wait = left.min(LONGEST_WAIT);
        if grid.input(&Input::Wait(wait), &mut Nobody) == Taken::No {
            break;
        }
        left -= wait;
    }
    Ok(())
}

/// Whether a game is seen as a board was told: blanks at the ends may be missing, `?` is anything.
fn is_seen_as(grid: &Grid, told: &[String]) -> bool {
    let extent = grid.map_extent();
    let rows = i64::from(extent.rows);
    let from_top = grid.book().geometry.rows == RowsFrom::Top;
    let mut lines = told.iter();
    let all = (0..rows).all(|line| {
        let row = if from_top { line } else { rows - 1 - line };
        let mut told = lines.next().map_or("", String::as_str).chars();
        let alike = (0..i64::from(extent.columns)).all(|column| {
            let told = told.next().unwrap_or(' ');
            told == '?' || told == grid.glyph(Cell::new(column, row))
        });
        alike && told.all(|glyph| glyph == ' ' || glyph == '?')
    });
    all && lines.all(|line| line.trim_end().is_empty())
}

/// The cells in which two boards, or two lists of pieces, or two cells differ, in reading order.
pub fn differing_cells(book: &Rulebook, extent: Extent, differs: &[Differs]) -> Vec<Cell> {
    let mut cells: Vec<Cell> = Vec::new();
    for Differs { expected, got } in differs {
        match (expected, got) {
            (Fact::Board(right), Fact::Board(got)) => {
                let rows = i64::from(extent.rows);
                for line in 0..got.len().max(right.len()) {
                    let chars =
                        |rows: &[String]| rows.get(line).map_or(Vec::new(), |row| row.chars().collect::<Vec<_>>());
                    let (got, right) = (chars(got), chars(right));
                    for column in 0..got.len().max(right.len()) {
                        let glyph = |row: &[char]| row.get(column).copied().unwrap_or(' ');
                        if glyph(&got) != '?' && glyph(&got) != glyph(&right) {
                            let line = line as i64;
                            let row = if book.geometry.rows == RowsFrom::Top { line } else { rows - 1 - line };
                            cells.push(Cell::new(column as i64, row));
                        }
                    }
                }
            }
            (Fact::Pieces(right), Fact::Pieces(got)) => {
                let mut left = got.clone();
                for piece in right {
                    match left.iter().position(|other| other.0 == piece.0 && other.1 == piece.1) {
                        Some(at) => {
                            left.remove(at);
                        }
                        None => cells.push(piece.1),
                    }
                }
                cells.extend(left.iter().map(|piece| piece.1));
            }
            (Fact::Cell(right), Fact::Cell(got)) => cells.extend(right.iter().chain(got).copied()),
            _ => {}
        }
    }
    cells.sort_unstable_by_key(|cell| (cell.row, cell.column));
    cells.dedup();
    cells
}

/// A piece that stands in a cell; what a flood has laid has no number of its own.
type Standing = (Option<PieceId>, KindId, Cell);

/// What a game tells, as far as it was asked.
struct Model {
    cell: Option<Cell>,
    index: Option<i64>,
    xy: Option<(f64, f64)>,
    /// Where it is another than was told.
    board: Option<Vec<String>>,
    pieces: Vec<Standing>,
    counters: Vec<i64>,
    outcome: Option<Ended>,
}

impl Model {
    fn of(grid: &Grid, played: &Played, asked: &Told) -> Self {
        let (book, extent) = (grid.book(), grid.map_extent());
        let told_cell = |cell: Cell| {
            let cell = if played.makes(Slip::YTurnedRound) {
                Cell::new(cell.column, i64::from(extent.rows) - 1 - cell.row)
            } else {
                cell
            };
            if played.makes(Slip::CountedFromOne) {
                Cell::new(cell.column + 1, cell.row + 1)
            } else if played.makes(Slip::AxesSwapped) {
                Cell::new(cell.row, cell.column)
            } else {
                cell
            }
        };
        let asks_of_piece = asked.cell.is_some() || asked.index.is_some() || asked.xy.is_some();
        let first = if asks_of_piece { grid.first_controlled() } else { None };
        let at = first.and_then(|piece| grid.board().cell_of(piece));
        let cell = at.map(|at| grid.switches().margin.outer(grid.board().cell(at)));
        let xy = first.zip(cell).map(|(piece, cell)| middle(grid, played, piece, cell));
        let mut kinds: Vec<KindId> = asked.kinds.clone();
        kinds.extend(asked.pieces.iter().flatten().map(|piece| piece.kind));
        kinds.sort_unstable();
        kinds.dedup();
        let pieces = kinds.iter().flat_map(|kind| grid.standing(*kind));
        let pieces = pieces.map(|(piece, kind, cell)| (piece, kind, told_cell(cell))).collect();
        Self {
            cell: cell.map(told_cell),
            index: cell.and_then(|cell| book.geometry.index(extent, cell)),
            xy,
            board: asked.board.as_ref().filter(|told| !is_seen_as(grid, told)).map(|_| grid.picture()),
            pieces,
            counters: asked.counters.iter().map(|(_, counter, _)| grid.counter(*counter)).collect(),
            outcome: grid.outcome(),
        }
    }
}

impl Model {
    /// What it says of everything that is asked, to be held against another.
    fn said(self, asked: &Told) -> impl PartialEq + use<> {
        let mut pieces: Vec<(u16, i64, i64)> =
            self.pieces.iter().map(|(_, kind, cell)| order(&(*kind, *cell))).collect();
        pieces.sort_unstable();
        let xy = self.xy.map(|(x, y)| ((x * 100.0).round() as i64, (y * 100.0).round() as i64));
        (
            (asked.cell.map(|_| self.cell), asked.index.map(|_| self.index), asked.xy.map(|_| xy)),
            (self.board, pieces, self.counters, asked.outcome.map(|_| self.outcome)),
        )
    }
}

/// The world position of a piece's middle, as a program with mistakes tells it.
fn middle(grid: &Grid, played: &Played, piece: PieceId, cell: Cell) -> (f64, f64) {
    let (geometry, extent) = (&grid.book().geometry, grid.map_extent());
    let corner = geometry.corner_of_first(extent);
    let sign = geometry.row_sign();
    let (mut x, mut y) = match grid.at(piece) {
        Some((across, down)) => {
            let pitch = geometry.pitch();
            let from_first = (across * pitch.0 - geometry.gap.0 / 2.0, down * pitch.1 - geometry.gap.1 / 2.0);
            (corner.x + from_first.0, corner.y + sign * from_first.1)
        }
        None => {
            let centre = geometry.centre(extent, cell);
            (centre.x, centre.y)
        }
    };
    if played.makes(Slip::CornerForCentre) {
        let corner = geometry.corner(extent, cell);
        (x, y) = (corner.x, corner.y);
    }
    if played.makes(Slip::HalfCellTwice) {
        (x, y) = (x + geometry.size.0 / 2.0, y + sign * geometry.size.1 / 2.0);
    }
    if played.makes(Slip::SizeNotMultipliedBack) {
        (x, y) = (cell.column as f64, cell.row as f64);
    }
    if played.makes(Slip::OriginForgotten) {
        (x, y) = (x - corner.x, y - corner.y);
    }
    (x, y)
}
