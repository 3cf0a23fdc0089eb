//! Vectors for steps and whole-grid rules: small boards with inputs after which a game with a mistake stands otherwise.

use super::{Asking, Candidate, Vectors, choose};
use crate::grid::{Ended, Grid, Nobody, Random};
use crate::input::Input;
use crate::limits::MOST_VERSIONS;
use crate::mishap::{Played, Slipped, Sort, slips_of};
use crate::proof::Inputs;
use crate::rulebook::{KindId, Rulebook};
use crate::space::Cell;
use fixedbitset::FixedBitSet;
use std::sync::Arc;

/// A board with the rulebook's characters, and what is played on it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Situation {
    /// Its lines, top first.
    pub board: Vec<String>,
    /// The inputs.
    pub inputs: Vec<Input>,
}

/// How a situation ends.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Shown {
    /// The board.
    pub board: Vec<String>,
    /// Whether the last request was granted; nothing where nobody asked.
    pub granted: Option<bool>,
    /// The cell of the first controlled piece.
    pub cell: Option<Cell>,
    /// The rulebook's counters.
    pub counters: Vec<i64>,
}

/// Sizes of boards that are tried, small ones first.
const SIZES: [(usize, usize); 16] = [
    (2, 1),
    (1, 2),
    (3, 1),
    (1, 3),
    (2, 2),
    (4, 1),
    (1, 4),
    (5, 1),
    (3, 2),
    (2, 3),
    (4, 2),
    (2, 4),
    (3, 3),
    (6, 1),
    (4, 3),
    (4, 4),
];
/// Boards of each size.
const BOARDS: usize = 500;
/// Inputs on one board.
const INPUTS: usize = 8;
/// Sizes that are tried again with longer sequences where something does not show yet, as a trail that bites its end.
const AGAIN: [(usize, usize); 4] = [(2, 2), (3, 2), (2, 3), (3, 3)];
/// Boards of each of these, and inputs on one.
const LONGER: (usize, usize) = (700, 16);
/// Sequences, and their length, on each of the rulebook's own maps.
const ON_MAPS: (usize, usize) = (24, 40);
/// How far beyond its edges a board goes on for a program that forgets them.
const REACH: u32 = 6;

/// One game, right or wrong, on boards of its own.
struct Version {
    played: Played,
}

/// Whether no line at a rim is void altogether: it would be lost where the board is drawn into a rulebook.
fn is_tight(board: &[Vec<char>]) -> bool {
    let is_shown = |glyph: Option<&char>| glyph.is_some_and(|glyph| *glyph != ' ');
    let row = |row: Option<&Vec<char>>| row.is_some_and(|row| row.iter().any(|glyph| is_shown(Some(glyph))));
    let columns = board.first().map_or(0, Vec::len);
    let column = |at: usize| board.iter().any(|row| is_shown(row.get(at)));
    row(board.first()) && row(board.last()) && column(0) && column(columns.saturating_sub(1))
}

/// A game on a board, and the answer to its last request.
struct Game {
    grid: Grid,
    granted: Option<bool>,
}

impl Version {
    fn on(&self, board: &[Vec<char>]) -> Option<Game> {
        let map = Arc::new(self.played.book.map_of(board)?);
        let grid = Grid::on_board(self.played.book.clone(), map, self.played.switches, &mut Nobody).ok()?;
        let granted = grid.last_request().0;
        Some(Game { grid, granted })
    }

    fn play(&self, game: &mut Game, input: &Input) {
        game.grid.input(&self.played.heard(input), &mut Nobody);
        // A turn in which nobody asks leaves the last request what it is.
        game.granted = game.grid.last_request().0.or(game.granted);
    }
}

impl Game {
    fn shown(&self) -> Shown {
        let grid = &self.grid;
        let cell = grid.first_controlled().and_then(|piece| grid.board().cell_of(piece));
        Shown {
            board: grid.picture(),
            granted: self.granted,
            cell: cell.map(|cell| grid.switches().margin.outer(grid.board().cell(cell))),
            counters: grid.counters().map(|(_, value)| value).collect(),
        }
    }

    fn is_over(&self) -> bool {
        self.grid.outcome().is_some()
    }

    fn is_settled(&self) -> bool {
        self.grid.outcome() != Some(Ended::NeverSettles)
    }
}

/// What is known in a search.
struct Search<'b> {
    book: &'b Arc<Rulebook>,
    right: Version,
    versions: Vec<Version>,
    found: Vec<Option<Situation>>,
    random: Random,
}

impl Situation {
    fn chars(&self) -> Vec<Vec<char>> {
        self.board.iter().map(|row| row.chars().collect()).collect()
    }

    /// How the model ends it, played on this board in place of the map.
    pub fn ends(&self, book: &Arc<Rulebook>) -> Option<Shown> {
        self.ends_in(&Version { played: Played::right(book) })
    }

    fn ends_in(&self, version: &Version) -> Option<Shown> {
        let mut game = version.on(&self.chars())?;
        for input in &self.inputs {
            version.play(&mut game, input);
        }
        Some(game.shown())
    }

    /// Whether every input comes before an end, every turn settles, and the board is as large as its drawing.
    fn is_fair(&self, right: &Version) -> bool {
        if !is_tight(&self.chars()) {
            return false;
        }
        let Some(mut game) = right.on(&self.chars()) else { return false };
        for input in &self.inputs {
            if game.is_over() {
                return false;
            }
            right.play(&mut game, input);
        }
        game.is_settled()
    }
}

impl Search<'_> {
    fn below(&mut self, n: usize) -> usize {
        self.random.below(n.max(1) as u32) as usize
    }

    /// A board of a few sorts of cell, with one controlled piece where there are any.
    fn board(&mut self, (columns, rows): (usize, usize)) -> Vec<Vec<char>> {
        let book = self.book.clone();
        let glyphs: Vec<char> =
            book.kinds.iter().map(|kind| kind.glyph).chain(book.glyphs.iter().map(|(glyph, _)| *glyph)).collect();
        let is_controlled = |glyph: char| {
            let kinds = book.kinds_of_glyph(glyph).unwrap_or_default();
            kinds.iter().any(|kind: &KindId| book.is_controlled(*kind))
        };
        let (own, others): (Vec<char>, Vec<char>) = glyphs.into_iter().partition(|glyph| is_controlled(*glyph));
        let bare = book.ground.map_or('_', |ground| book.kind(ground).glyph);
        let palette: Vec<char> =
            (0..2 + self.below(2)).map(|_| others.get(self.below(others.len())).copied().unwrap_or(bare)).collect();
        let mut board = vec![vec![bare; columns]; rows];
        for cell in board.iter_mut().flatten() {
            *cell = match self.random.below(8) {
                0..=2 => bare,
                _ => palette[self.random.below(palette.len() as u32) as usize],
            };
        }
        if !own.is_empty() {
            let (column, row) = (self.below(columns), self.below(rows));
            board[row][column] = own[self.below(own.len())];
        }
        if self.below(6) == 0 {
            let (column, row) = (self.below(columns), self.below(rows));
            if !is_controlled(board[row][column]) {
                board[row][column] = ' ';
            }
        }
        board
    }

    /// Plays the same on a board with every version that has not been told apart yet.
    fn try_board(&mut self, board: &[Vec<char>], length: usize) {
        let missing: Vec<usize> = (0..self.versions.len()).filter(|at| self.found[*at].is_none()).collect();
        let Some(mut right) = self.right.on(board) else { return };
        let mut wrong: Vec<(usize, Game)> =
            missing.into_iter().filter_map(|at| Some((at, self.versions[at].on(board)?))).collect();
        let heard = Inputs::all(&right.grid);
        let mut inputs = Vec::new();
        for step in 0..=length {
            if !right.is_settled() {
                return;
            }
            let told = right.shown();
            let found = &mut self.found;
            wrong.retain(|(at, game)| {
                let differs = game.shown() != told;
                if differs {
                    let rows = board.iter().map(|row| row.iter().collect()).collect();
                    found[*at] = Some(Situation { board: rows, inputs: inputs.clone() });
                }
                !differs
            });
            if right.is_over() || step == length || wrong.is_empty() || heard.is_empty() {
                return;
            }
            let number = self.below(heard.len());
            let Some(input) = heard.input_at(number, &right.grid) else { continue };
            self.right.play(&mut right, &input);
            for (at, game) in &mut wrong {
                self.versions[*at].play(game, &input);
            }
            inputs.push(input);
        }
    }

    /// Makes a situation as small as it goes while a version still ends it otherwise.
    fn shrink(&self, version: usize, mut situation: Situation) -> Situation {
        let book = self.book;
        let bare = book.ground.map_or('_', |ground| book.kind(ground).glyph);
        let fails = |tried: &Situation| {
            tried.is_fair(&self.right) && tried.ends_in(&self.right) != tried.ends_in(&self.versions[version])
        };
        loop {
            let mut smaller: Vec<Situation> = Vec::new();
            let rows = situation.board.len();
            let columns = situation.board.first().map_or(0, |row| row.chars().count());
            let with = |board: Vec<Vec<char>>, inputs: &[Input]| Situation {
                board: board.iter().map(|row| row.iter().collect()).collect(),
                inputs: inputs.to_vec(),
            };
            for row in (0..rows).filter(|_| rows > 1) {
                let mut board = situation.chars();
                board.remove(row);
                smaller.push(with(board, &situation.inputs));
            }
            for column in (0..columns).filter(|_| columns > 1) {
                let mut board = situation.chars();
                board.iter_mut().for_each(|row| {
                    row.remove(column);
                });
                smaller.push(with(board, &situation.inputs));
            }
            for at in 0..situation.inputs.len() {
                let mut inputs = situation.inputs.clone();
                inputs.remove(at);
                smaller.push(with(situation.chars(), &inputs));
            }
            for (row, column) in (0..rows).flat_map(|row| (0..columns).map(move |column| (row, column))) {
                let mut board = situation.chars();
                if board[row][column] != bare {
                    board[row][column] = bare;
                    smaller.push(with(board, &situation.inputs));
                }
            }
            match smaller.into_iter().find(fails) {
                Some(found) => situation = found,
                None => return situation,
            }
        }
    }
}

/// Vectors for `step` (sorts bounds, meeting, keeping) or `rows` (sort turn); nothing where the rulebook has more mistakes to
/// make than [`MOST_VERSIONS`].
pub fn situations(book: &Arc<Rulebook>, sorts: &[Sort], most: usize) -> Option<Vectors> {
    let slips: Vec<Slipped> =
        slips_of(book).into_iter().filter(|slipped| sorts.contains(&slipped.slip.sort())).collect();
    if slips.len() > MOST_VERSIONS {
        return None;
    }
    let versions: Vec<Version> =
        slips.iter().map(|slipped| Version { played: Played::with(book, [slipped], REACH) }).collect();
    let mut search = Search {
        book,
        right: Version { played: Played::right(book) },
        found: vec![None; versions.len()],
        versions,
        random: Random::new(1),
    };
    let rounds = SIZES.map(|size| (size, (BOARDS, INPUTS)));
    for (size, (boards, inputs)) in rounds.into_iter().chain(AGAIN.map(|size| (size, LONGER))) {
        for _ in 0..boards {
            if search.found.iter().all(Option::is_some) {
                break;
            }
            let board = search.board(size);
            if is_tight(&board) {
                search.try_board(&board, inputs);
            }
        }
    }
    for map in 0..book.maps.len() {
        let rows: Vec<Vec<char>> = match Grid::new(book.clone(), map, None, &mut Nobody) {
            Ok(_) => crate::grid::drawn(book, map).picture_of(book),
            Err(_) => continue,
        };
        for _ in 0..ON_MAPS.0 {
            if search.found.iter().all(Option::is_some) {
                break;
            }
            search.try_board(&rows, ON_MAPS.1);
        }
    }
    let found = std::mem::take(&mut search.found).into_iter().enumerate();
    let mut small: Vec<Situation> = found.filter_map(|(at, found)| Some(search.shrink(at, found?))).collect();
    small.sort_by_key(|situation| {
        (situation.board.concat().len() + 2 * situation.inputs.len(), situation.board.clone())
    });
    small.dedup();
    let candidate = |situation: Situation| {
        let right = situation.ends_in(&search.right);
        let mut fails = FixedBitSet::with_capacity(search.versions.len());
        for (at, version) in search.versions.iter().enumerate() {
            if situation.ends_in(version) != right {
                fails.insert(at);
            }
        }
        Candidate { asks: Asking::Situation(Box::new(situation)), fails }
    };
    let candidates: Vec<Candidate> = small.into_iter().map(candidate).collect();
    let names: Vec<String> = slips.iter().map(|slipped| slipped.slip.id().to_owned()).collect();
    Some(choose(&names, &candidates, most))
}
