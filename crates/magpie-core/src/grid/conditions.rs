//! Conditions, sums and cells in words, judged on the board as it stands.

use super::context::View;
use super::state::Grid;
use crate::board::{CellId, PieceId, Seat};
use crate::rulebook::{Area, Cond, CountIn, HeadingWord, KindId, SetId, Spot, Sum, Term};
use crate::space::{Cell, Heading};

impl Grid {
    /// Whether a condition of a scenario or an invariant holds now.
    pub fn holds(&self, cond: &Cond) -> bool {
        self.cond_holds(cond, &View::default())
    }

    /// The parts of a condition of a scenario or an invariant, with what each sees and whether it holds now.
    pub fn parts(&self, cond: &Cond) -> Vec<(String, bool)> {
        self.states(cond, &View::default())
    }

    pub(super) fn cond_holds(&self, cond: &Cond, view: &View) -> bool {
        match cond {
            Cond::Or(conds) => conds.iter().any(|cond| self.cond_holds(cond, view)),
            Cond::And(conds) => conds.iter().all(|cond| self.cond_holds(cond, view)),
            Cond::Not(cond) => !self.cond_holds(cond, view),
            Cond::Heading(heading) => view.heading == Some(*heading),
            Cond::Blocked => self.state.small.blocked,
            Cond::Spot(spot) => self.spot(spot, view).is_some(),
            Cond::Beside(one, other) => match (self.spot(one, view), self.spot(other, view)) {
                (Some(one), Some(other)) => {
                    let (one, other) = (self.state.board.cell(one), self.state.board.cell(other));
                    one.column.abs_diff(other.column) + one.row.abs_diff(other.row) == 1
                }
                _ => false,
            },
            Cond::Compare(left, compare, right) => compare.holds(self.sum(left, view), self.sum(right, view)),
        }
    }

    pub(super) fn sum(&self, sum: &Sum, view: &View) -> i64 {
        sum.0.iter().fold(0_i64, |total, (minus, term)| {
            let value = self.term(term, view);
            if *minus { total.saturating_sub(value) } else { total.saturating_add(value) }
        })
    }

    fn term(&self, term: &Term, view: &View) -> i64 {
        match term {
            Term::Int(value) => *value,
            Term::Counter(counter) => self.counter(*counter),
            Term::Count { who, on, within } => self.count(*who, *on, within, view),
            Term::Matches => view.found.0.into(),
            Term::Matched => view.found.1.into(),
        }
    }

    fn count(&self, who: SetId, on: Option<(bool, SetId)>, within: &CountIn, view: &View) -> i64 {
        let board = &self.state.board;
        let set = self.book.set(who);
        if on.is_none() && matches!(within, CountIn::Area(Area::Map)) {
            return i64::from(board.count_set(set));
        }
        if let (Some((wanted, other)), CountIn::Area(Area::Map)) = (on, within)
            && !board.has_bare(set)
        {
            let pieces = set.iter().flat_map(|kind| board.pieces_of(kind));
            let on_board = pieces.filter_map(|piece| Some((piece, board.cell_of(piece)?)));
            return on_board.filter(|(piece, cell)| self.shares(*piece, *cell, other) == wanted).count() as i64;
        }
        let mut cells = Vec::new();
        match within {
            CountIn::Spot(spot) => cells.extend(self.spot(spot, view)),
            CountIn::Area(_) => board.cells_of(set, &mut cells),
        }
        let counted = cells.into_iter().filter(|cell| match within {
            CountIn::Area(area) => area.contains(board.extent(), board.cell(*cell)),
            CountIn::Spot(_) => true,
        });
        counted.map(|cell| self.count_in_cell(cell, who, on)).sum()
    }

    /// Pieces of a set in a cell, those only that share it (or do not) with another of a second set.
    fn count_in_cell(&self, cell: CellId, who: SetId, on: Option<(bool, SetId)>) -> i64 {
        let board = &self.state.board;
        let set = self.book.set(who);
        let counted = board.seats(cell).filter(|place| {
            board.kind_in(cell, *place).is_some_and(|kind| set.contains(kind))
                && on.is_none_or(|(wanted, other)| self.place_shares(cell, *place, other) == wanted)
        });
        counted.count() as i64
    }

    /// Whether what stands in a place shares its cell with another of a set; a rider, its carrier alone.
    fn place_shares(&self, cell: CellId, place: Seat, with: SetId) -> bool {
        let board = &self.state.board;
        if let Some(piece) = board.known_piece_in(cell, place) {
            return self.shares(piece, cell, with);
        }
        let with = self.book.set(with);
        let mut others = board.seats(cell).filter(|other| *other != place);
        others.any(|other| board.kind_in(cell, other).is_some_and(|kind| with.contains(kind)))
    }

    /// The first piece of a kind in reading order.
    pub(super) fn first_of(&self, kind: KindId) -> Option<CellId> {
        let mut cells = Vec::new();
        self.state.board.cells_of(&self.book.sets[usize::from(kind.0)], &mut cells);
        cells.first().copied()
    }

    /// The cell a spot names, where it is a cell of the board.
    pub(super) fn spot(&self, spot: &Spot, view: &View) -> Option<CellId> {
        let board = &self.state.board;
        let cell = match spot {
            Spot::Here => view.here,
            Spot::Tapped | Spot::Dragged => board.id(self.turn.touch?.down),
            Spot::Dropped => board.id(self.turn.touch?.up),
            Spot::Chosen => self.chosen_cell(),
            Spot::The(kind) => self.first_of(*kind),
            Spot::AheadOf(kind) => {
                let cell = self.first_of(*kind)?;
                let piece = board.known_piece_of(cell, *kind)?;
                let heading = board.heading_of(piece)?;
                board.id(self.book.geometry.neighbour(board.cell(cell), heading))
            }
            Spot::At(cell) => board.id(self.switches.margin.inner(*cell)),
        };
        cell.filter(|cell| !board.is_void(*cell))
    }

    /// The heading that words give a piece, `None` where they give none.
    pub(super) fn heading_word(&mut self, piece: PieceId, word: &HeadingWord, view: &View) -> Option<Heading> {
        match word {
            HeadingWord::Compass(heading) => Some(*heading),
            HeadingWord::Relative(eighths) => Some(self.state.board.heading_of(piece)?.turned(*eighths)),
            HeadingWord::Toward(spot) => {
                let goal = self.state.board.cell(self.spot(spot, view)?);
                let from = self.state.board.cell(self.state.board.cell_of(piece)?);
                self.toward(from, goal)
            }
            HeadingWord::Along(spot) => {
                let goal = self.spot(spot, view)?;
                self.way(piece, goal).ok()?.first().copied()
            }
        }
    }

    /// Along the axis of the larger distance, ties along the row.
    fn toward(&self, from: Cell, goal: Cell) -> Option<Heading> {
        let east = goal.column - from.column;
        let south = (goal.row - from.row) * self.book.geometry.south();
        if east.abs() >= south.abs() { Heading::from_screen_step(east, 0) } else { Heading::from_screen_step(0, south) }
    }
}
