//! What rules do and are refused, in sentences.

use super::context::View;
use super::flow::Flow;
use super::report::Fired;
use super::state::Grid;
use super::watch::Watch;
use crate::board::{CellId, PieceId};
use crate::rulebook::{Cond, HeadingWord, KindId, Pieces, Place, Spot, Sum};
use crate::space::{Cell, Heading};

/// Most pieces that one sentence names.
const MOST_NAMED: usize = 6;

/// A cell as sentences name it.
pub(super) fn at(cell: Cell) -> String {
    format!("{},{}", cell.column, cell.row)
}

/// Parts of a sentence, of many the first.
pub(super) fn listed(parts: &[String], all: usize) -> String {
    let shown = parts.iter().take(MOST_NAMED).map(String::as_str).collect::<Vec<_>>().join(", ");
    if all > MOST_NAMED { format!("{shown} and {} more", all - MOST_NAMED) } else { shown }
}

/// The requests of one action, as they are told.
#[derive(Default)]
pub(super) struct Requests {
    parts: Vec<String>,
    refused: Vec<String>,
    granted: usize,
    all: usize,
}

impl Requests {
    /// Adds the answer to a body: where it came from and where it is now, or why it is still there.
    pub fn add(&mut self, grid: &Grid, body: &str, heading: Option<Heading>, to: Option<CellId>, granted: bool) {
        self.all += 1;
        self.granted += usize::from(granted);
        if self.parts.len() + self.refused.len() >= MOST_NAMED {
            return;
        }
        let heading = heading.map_or(String::new(), |heading| format!(" {}", heading.word()));
        if granted {
            let to = to.map_or(" and off the board".into(), |to| format!(" to {}", at(grid.state.board.cell(to))));
            self.parts.push(format!("{body}{heading}{to}"));
        } else {
            self.refused.push(format!("{body}{heading}: {}", grid.refusal()));
        }
    }

    /// The sentence: `done` for what was granted, `asked` for what was not.
    pub fn sentence(&self, done: &str, asked: &str) -> String {
        let refused = || listed(&self.refused, self.all - self.granted);
        match (self.parts.is_empty(), self.refused.is_empty()) {
            (true, true) => format!("refused to {asked}"),
            (true, false) => format!("refused to {asked} {}", refused()),
            (false, true) => format!("{done} {}", listed(&self.parts, self.granted)),
            (false, false) => format!("{done} {}; refused {}", listed(&self.parts, self.granted), refused()),
        }
    }
}

impl Grid {
    /// Lets a rule act, as one that is told.
    pub(super) fn acting<W: Watch, T>(
        &mut self,
        rule: Fired,
        watch: &mut W,
        act: impl FnOnce(&mut Self, &mut W) -> Result<T, Flow>,
    ) -> Result<T, Flow> {
        watch.begins(rule);
        let done = act(self, watch);
        watch.ends();
        done
    }

    /// A piece and where it stands.
    pub(super) fn piece_at(&self, piece: PieceId) -> String {
        let board = &self.state.board;
        let name = &self.book.kind(board.kind_of(piece)).name;
        match board.cell_of(piece) {
            Some(cell) => format!("{name} at {}", at(board.cell(cell))),
            None => format!("{name}, in no cell,"),
        }
    }

    /// Pieces and where they stand.
    pub(super) fn pieces_at(&self, pieces: &[PieceId]) -> String {
        let named: Vec<String> = pieces.iter().take(MOST_NAMED).map(|piece| self.piece_at(*piece)).collect();
        listed(&named, pieces.len())
    }

    /// Why the last request was refused.
    pub(super) fn refusal(&self) -> &str {
        self.turn.why.as_deref().unwrap_or("refused")
    }

    /// A spot, and the cell it is.
    pub(super) fn spot_at(&self, spot: &Spot, view: &View) -> String {
        match (spot, self.spot(spot, view)) {
            (_, None) => self.book.spot_words(spot),
            (_, Some(cell)) => at(self.state.board.cell(cell)),
        }
    }

    /// What stands topmost in a cell, with the cell.
    pub(super) fn top_at(&mut self, cell: CellId) -> String {
        match self.top_piece(cell) {
            Some(piece) => self.piece_at(piece),
            None => format!("nothing at {}", at(self.state.board.cell(cell))),
        }
    }

    /// Why a piece gets no heading from words.
    pub(super) fn no_heading(&mut self, piece: PieceId, word: &HeadingWord, view: &View) -> &'static str {
        match word {
            HeadingWord::Compass(_) => "refused",
            HeadingWord::Relative(_) => "it has no heading",
            HeadingWord::Toward(spot) | HeadingWord::Along(spot) => match (self.spot(spot, view), word) {
                (None, _) => "no such cell",
                (Some(goal), HeadingWord::Along(_)) => self.way(piece, goal).err().unwrap_or("no way"),
                (Some(_), _) => "already there",
            },
        }
    }

    /// Tells that a rule did something to pieces, or found none.
    pub(super) fn did_to<W: Watch>(
        &self,
        (did, to_do): (&str, &str),
        who: &Pieces,
        pieces: Option<String>,
        rest: &str,
        watch: &mut W,
    ) {
        let is_refused = pieces.as_ref().is_some_and(String::is_empty);
        let nobody = || format!("refused to {to_do} {}{rest}: nobody", self.book.pieces_words(who));
        let text = pieces.map(|pieces| if is_refused { nobody() } else { format!("{did} {pieces}{rest}") });
        watch.did(is_refused, text);
    }

    /// Where a `place` or `spawn` puts something, in words.
    pub(super) fn place_at(&self, place: &Place, view: &View) -> String {
        match place {
            Place::At(spot) => format!("at {}", self.spot_at(spot, view)),
            Place::RandomEmpty(..) => self.book.place_words(place),
        }
    }

    /// Why a kind cannot be put into a cell.
    pub(super) fn why_not_placed(&self, kind: KindId, cell: Option<CellId>) -> String {
        let Some(cell) = cell else { return "no such cell".into() };
        let board = &self.state.board;
        match board.kind_at(cell, board.layer(kind)) {
            Some(other) => format!("its layer is taken by {}", self.book.kind(other).name),
            None => "its layer is taken".into(),
        }
    }

    /// A condition with the values it sees: every comparison with the numbers of both sides.
    pub(super) fn seen(&self, cond: &Cond, view: &View) -> String {
        let states: Vec<String> = self.states(cond, view).into_iter().map(|(text, _)| text).collect();
        format!("{}: {}", self.book.cond_words(cond), states.join(", "))
    }

    /// Each part of a condition, with what it sees and whether it holds.
    pub(super) fn states(&self, cond: &Cond, view: &View) -> Vec<(String, bool)> {
        let holds = self.cond_holds(cond, view);
        let state = match cond {
            Cond::Or(all) | Cond::And(all) => return all.iter().flat_map(|cond| self.states(cond, view)).collect(),
            Cond::Not(inner) => {
                return self.states(inner, view).into_iter().map(|(text, holds)| (text, !holds)).collect();
            }
            Cond::Heading(_) => match view.heading {
                Some(heading) => format!("the heading is {}", heading.word()),
                None => "there is no heading".into(),
            },
            Cond::Blocked if holds => "a spawn was refused".into(),
            Cond::Blocked => "no spawn was refused".into(),
            Cond::Spot(spot) if holds => format!("{} is {}", self.book.spot_words(spot), self.spot_at(spot, view)),
            Cond::Spot(spot) => format!("{} is no cell", self.book.spot_words(spot)),
            Cond::Beside(one, other) => {
                let [one, other] = [one, other].map(|spot| self.spot_at(spot, view));
                format!("{one} is {} {other}", if holds { "beside" } else { "not beside" })
            }
            Cond::Compare(left, compare, right) => {
                let sides = format!("{} {} {}", self.sum(left, view), compare.symbol(), self.sum(right, view));
                format!("{sides} {}", if holds { "holds" } else { "does not hold" })
            }
        };
        vec![(state, holds)]
    }

    /// A sum, with its value where that is not what is written.
    pub(super) fn sum_is(&self, sum: &Sum, value: i64) -> String {
        let words = self.book.sum_words(sum);
        if words == value.to_string() { words } else { format!("{words} ({value})") }
    }
}
