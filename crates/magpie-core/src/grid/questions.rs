//! Questions about the game as it stands; none of them changes anything, requests apart.

use super::ledger::Reason;
use super::plan::Step;
use super::state::Grid;
use super::watch::{Nobody, Watch};
use crate::board::{CellId, PieceId};
use crate::rulebook::KindId;
use crate::space::{Cell, Heading};

/// What a request would answer now.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Preview {
    /// The heading asked for.
    pub heading: Heading,
    /// Whether it would be granted.
    pub granted: bool,
    /// Where the asker would stand, `None` when it would be gone.
    pub to: Option<Cell>,
    /// Why it would be refused.
    pub refusal: Option<Reason>,
    /// How many pieces it would shove.
    pub shoved: usize,
}

/// What a controlled piece would be answered on its way into a cell from one side.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Entering {
    /// The piece.
    pub piece: PieceId,
    /// The heading it would ask for.
    pub heading: Heading,
    /// The answer, `None` where it cannot stand on that side of the cell.
    pub answer: Option<Preview>,
}

/// What ties a piece to others.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Ties {
    /// How many pieces the body has that it belongs to, and whether that is the active one.
    pub body: Option<(usize, bool)>,
    /// What carries it.
    pub carrier: Option<PieceId>,
    /// How many ride on it.
    pub riders: usize,
    /// It moves by itself.
    pub glides: bool,
    /// Its place in a trail, from the newest, 1, to the oldest, and how many that is.
    pub trail: Option<(usize, usize)>,
}

/// Which cells a piece can get into, nothing shoved.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Reach {
    /// One flag a cell, in reading order.
    pub reached: Vec<bool>,
    /// Cells in which nothing stands in the way, and which yet cannot be reached; one flag a cell.
    pub lost: Vec<bool>,
    /// Places where a lost cell touches a reached one at a corner only: gaps that a piece of one cell does not pass.
    pub gaps: usize,
}

impl Grid {
    /// What a piece's request would answer now; nothing changes.
    pub fn preview(&mut self, piece: PieceId, heading: Heading) -> Preview {
        let step = Step::along(heading, self.book.geometry.south());
        // Ground that is met gets a number, which is taken back with the rest.
        let mark = self.state.board.mark();
        let granted = self.plan_request::<Nobody>(piece, step);
        self.state.board.take_back(mark);
        let asker = self.plan.members.iter().find(|member| member.piece == piece).filter(|member| !member.gone);
        Preview {
            heading,
            granted,
            to: asker.map(|member| self.state.board.cell(member.to)),
            refusal: self.plan.reason,
            shoved: self.plan.members.iter().filter(|member| member.body > 0 && !member.swapped).count(),
        }
    }

    /// What the first controlled piece of each kind would be answered on its way into a cell, from every side; nothing
    /// changes.
    pub fn entering(&mut self, cell: Cell) -> Vec<Entering> {
        let mut found = Vec::new();
        for piece in self.controlled_kinds() {
            for heading in self.book.headings() {
                let step = Step::along(heading, self.book.geometry.south());
                let side = Cell::new(cell.column - step.columns, cell.row - step.rows);
                found.push(Entering { piece, heading, answer: self.preview_from(piece, side, heading) });
            }
        }
        found
    }

    /// What a piece's request would answer if it stood in another cell; `None` where it cannot stand.
    fn preview_from(&mut self, piece: PieceId, from: Cell, heading: Heading) -> Option<Preview> {
        let id = self.state.board.id(from)?;
        let mut body = Vec::new();
        self.together(piece, &mut body);
        let mark = self.state.board.mark();
        let preview = self.put_body(&body, piece, id).then(|| self.preview(piece, heading));
        self.state.board.take_back(mark);
        preview
    }

    /// What ties a piece to others.
    pub fn ties(&self, piece: PieceId) -> Ties {
        let bonds = &self.state.bonds;
        let trail = bonds.tails.iter().find_map(|tail| {
            let at = tail.pieces.iter().position(|other| *other == piece)?;
            Some((tail.pieces.len() - at, tail.pieces.len()))
        });
        Ties {
            body: self.body_of(piece).map(|body| (body.members.len(), self.is_active(piece))),
            carrier: self.carrier_of(piece),
            riders: bonds.riders.iter().filter(|rider| rider.carrier == piece).count(),
            glides: bonds.glider(piece).is_some(),
            trail,
        }
    }

    /// The cells into which a piece gets by its requests as they would be answered now, nothing shoved; and those that
    /// stand open and which it does not get into.
    pub fn reach(&mut self, piece: PieceId) -> Reach {
        let reached = self.reachable(piece);
        let board = &self.state.board;
        let layer = board.layer(board.kind_of(piece));
        let open = |cell: CellId| !board.is_void(cell) && board.kind_at(cell, layer).is_none();
        let is_lost = |cell: CellId| open(cell) && !reached[cell.0 as usize];
        let lost: Vec<bool> = (0..board.cells()).map(|cell| is_lost(CellId(cell))).collect();
        let gap = |id: CellId| {
            let Cell { column, row } = board.cell(id);
            let at = |dx: i64, dy: i64| board.id(Cell::new(column + dx, row + dy));
            [(-1, -1), (1, -1), (-1, 1), (1, 1)].into_iter().any(|(dx, dy)| {
                let shut = |cell: Option<CellId>| cell.is_none_or(|cell| !open(cell) && !reached[cell.0 as usize]);
                at(dx, dy).is_some_and(|cell| reached[cell.0 as usize]) && shut(at(dx, 0)) && shut(at(0, dy))
            })
        };
        let gaps = (0..board.cells()).filter(|cell| lost[*cell as usize] && gap(CellId(*cell))).count();
        Reach { reached, lost, gaps }
    }

    /// The cells into which a piece gets by requests as they would be answered now, nothing shoved or exchanged: one flag
    /// a cell, in reading order. A piece of a body takes the body along.
    fn reachable(&mut self, piece: PieceId) -> Vec<bool> {
        let headings = self.book.headings();
        let mut reached = vec![false; self.state.board.cells() as usize];
        let Some(start) = self.state.board.cell_of(piece) else {
            return reached;
        };
        let mut body = Vec::new();
        self.together(piece, &mut body);
        let mark = self.state.board.mark();
        reached[start.0 as usize] = true;
        let mut open = vec![start];
        while let Some(cell) = open.pop() {
            // Something may stand there already where it was reached by eating or passing: it cannot be asked from.
            if !self.put_body(&body, piece, cell) {
                self.state.board.take_back(mark);
                continue;
            }
            for heading in &headings {
                let step = Step::along(*heading, self.book.geometry.south());
                let granted = self.plan_request::<Nobody>(piece, step);
                let alone = self.plan.members.iter().all(|member| body.contains(&member.piece) && !member.gone);
                let to = self.plan.members.iter().find(|member| member.piece == piece).map(|member| member.to);
                if granted
                    && alone
                    && let Some(to) = to
                    && !std::mem::replace(&mut reached[to.0 as usize], true)
                {
                    open.push(to);
                }
            }
            self.state.board.take_back(mark);
        }
        reached
    }

    /// Puts a body so that one of its pieces stands in a cell; false where another piece or the edge is in the way.
    fn put_body(&mut self, body: &[PieceId], piece: PieceId, cell: CellId) -> bool {
        let board = &mut self.state.board;
        let Some(from) = board.cell_of(piece) else { return false };
        if from == cell {
            return true;
        }
        let (from, to) = (board.cell(from), board.cell(cell));
        let moved = |board: &crate::board::Board, piece: PieceId| {
            let Cell { column, row } = board.cell(board.cell_of(piece)?);
            let id = board.id(Cell::new(column + to.column - from.column, row + to.row - from.row))?;
            let own = board.known_piece_at(id, board.layer(board.kind_of(piece)));
            let free = board.kind_at(id, board.layer(board.kind_of(piece))).is_none() || board.is_loose(piece);
            (!board.is_void(id) && (free || own.is_some_and(|own| body.contains(&own)))).then_some((piece, id))
        };
        let moves: Option<Vec<(PieceId, CellId)>> = body.iter().map(|piece| moved(board, *piece)).collect();
        moves.is_some_and(|moves| {
            board.shift(&moves);
            true
        })
    }

    /// A piece asks for a step outside any turn: no rule but the meetings' acts.
    ///
    /// Whether it was granted; `watch` hears every check behind the answer with its numbers.
    ///
    /// # Examples
    /// ```
    /// use magpie_core::grid::{Grid, Nobody, Recorder};
    /// use magpie_core::space::Heading;
    /// use magpie_core::read_text;
    /// use std::sync::Arc;
    ///
    /// let text = "game \"Yard\"\ncell 24 px\nkinds\n  porter P body\n  crate c body\nmap \"One\"\n  Pc\ncontrol porter with arrows\n";
    /// let book = read_text(text, &|path| Err(format!("no file `{path}`"))).rulebook.unwrap();
    /// let mut grid = Grid::new(Arc::new(book), 0, None, &mut Nobody).unwrap();
    /// let porter = grid.controlled()[0];
    /// let mut heard = Recorder::default();
    /// assert!(!grid.request(porter, Heading::East, &mut heard), "the crate does not move");
    /// ```
    pub fn request<W: Watch>(&mut self, piece: PieceId, heading: Heading, watch: &mut W) -> bool {
        let step = Step::along(heading, self.book.geometry.south());
        self.turn.slid.clear();
        self.ask(piece, step, watch).unwrap_or(false)
    }

    /// The cell of the first piece of a kind in reading order.
    pub fn first_cell(&self, kind: KindId) -> Option<Cell> {
        self.first_of(kind).map(|cell| self.state.board.cell(cell))
    }

    /// The first piece of a kind in reading order.
    pub fn first_piece(&mut self, kind: KindId) -> Option<PieceId> {
        let cell = self.first_of(kind)?;
        let board = &mut self.state.board;
        let place = board.seats(cell).find(|place| board.kind_in(cell, *place) == Some(kind))?;
        board.piece_in(cell, place)
    }

    /// The topmost piece of a cell, the ground aside, or the one of a kind.
    pub fn piece_in_cell(&mut self, cell: Cell, kind: Option<KindId>) -> Option<PieceId> {
        let id = self.state.board.id(cell)?;
        let Some(kind) = kind else { return self.top_piece(id) };
        let board = &mut self.state.board;
        let place = board.seats(id).find(|place| board.kind_in(id, *place) == Some(kind))?;
        board.piece_in(id, place)
    }

    /// What each heading that pieces ask for would answer a piece now.
    pub fn previews(&mut self, piece: PieceId) -> Vec<Preview> {
        self.book.headings().into_iter().map(|heading| self.preview(piece, heading)).collect()
    }

    /// The pieces the player moves, in reading order.
    pub fn controlled(&self) -> Vec<PieceId> {
        let board = &self.state.board;
        let mut found = Vec::new();
        let mut cells = Vec::new();
        for control in &self.book.controls {
            let set = self.book.set(control.who);
            board.cells_of(set, &mut cells);
            for cell in &cells {
                for place in board.seats(*cell) {
                    let piece = board.known_piece_in(*cell, place);
                    found.extend(piece.filter(|piece| set.contains(board.kind_of(*piece)) && !found.contains(piece)));
                }
            }
        }
        found
    }

    /// The first controlled piece of each kind; where rules move the active body, one of that too.
    pub fn controlled_kinds(&self) -> Vec<PieceId> {
        let mut kinds: Vec<KindId> = Vec::new();
        let active = self.book.moves_active().then(|| self.active().first().copied()).flatten();
        let mut pieces = self.controlled();
        pieces.extend(active);
        pieces.retain(|piece| {
            let kind = self.state.board.kind_of(*piece);
            let new = !kinds.contains(&kind);
            kinds.push(kind);
            new
        });
        pieces
    }

    /// The timers by name: their period, and how long it is until they fire next, in ms.
    pub fn timers(&self) -> impl Iterator<Item = (&str, u64, u64)> {
        let now = self.state.small.clock;
        let running = self.book.timers.iter().zip(&self.state.timers);
        running.map(move |(timer, running)| {
            let due = running.last.saturating_add(running.period);
            (timer.name.as_str(), running.period, due.saturating_sub(now))
        })
    }

    /// Whether the last request that a rule made for a piece itself was granted, and why not.
    pub const fn last_request(&self) -> (Option<bool>, Option<Reason>) {
        match self.turn.last {
            None => (None, None),
            Some(Ok(())) => (Some(true), None),
            Some(Err(reason)) => (Some(false), reason),
        }
    }
}

impl Grid {
    /// The first controlled piece in reading order, of the kinds of the first `control`.
    pub fn first_controlled(&self) -> Option<PieceId> {
        let board = &self.state.board;
        let set = self.book.set(self.book.controls.first()?.who);
        let pieces = set.iter().flat_map(|kind| board.pieces_of(kind));
        pieces.filter_map(|piece| Some((board.cell_of(piece)?, piece))).min().map(|(_, piece)| piece)
    }

    /// The pieces of a kind that stand in a cell, with their cells as the map counts them; what a flood has laid has no number
    /// of its own.
    pub(crate) fn standing(&self, kind: KindId) -> Vec<(Option<PieceId>, KindId, Cell)> {
        let board = &self.state.board;
        let place = |piece: Option<PieceId>, cell| (piece, kind, self.switches.margin.outer(board.cell(cell)));
        let known = board.pieces_of(kind).filter_map(|piece| Some(place(Some(piece), board.cell_of(piece)?)));
        let is_bare = |cell: &CellId| {
            let mut seats = board.seats(*cell);
            seats.any(|seat| board.kind_in(*cell, seat) == Some(kind) && board.known_piece_in(*cell, seat).is_none())
        };
        let cells = if board.count(kind) as usize > board.pieces_of(kind).count() { board.cells() } else { 0 };
        known.chain((0..cells).map(CellId).filter(is_bare).map(|cell| place(None, cell))).collect()
    }
}
