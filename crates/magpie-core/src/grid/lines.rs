//! Full rows and columns, runs, patches, and what comes down or in after them (docs/model.md, section 6).

use super::context::{Context, Found, Matched};
use super::flow::Flow;
use super::plan::Step;
use super::state::Grid;
use super::switches::Switch;
use super::watch::Watch;
use crate::board::{Board, CellId, PieceId};
use crate::limits::{LEAST_FALLEN, MOST_FALLEN, MOST_ROUNDS};
use crate::rulebook::{KindId, KindSet, Match, Pieces, SetId};
use crate::space::{Cell, Heading};
use hashbrown::{HashMap, HashSet};

/// By kind that falls, whether it falls past each other kind.
type FreeFalls = HashMap<KindId, Vec<bool>>;

/// The cells that a body has come through in one fall.
#[derive(Default)]
struct Passed {
    cells: HashSet<CellId>,
    /// It has come back to one of them.
    ended: bool,
}

/// Kinds that a rule looks for, with their layers from the top: nearly always one.
struct Sought<'a> {
    set: &'a KindSet,
    top: Option<u8>,
    below: Vec<u8>,
}

impl<'a> Sought<'a> {
    fn new(set: &'a KindSet, board: &Board) -> Self {
        let layers = || set.iter().map(|kind| board.layer(kind));
        let top = layers().max();
        let mut below: Vec<u8> = layers().filter(|layer| Some(*layer) != top).collect();
        below.sort_unstable_by_key(|layer| std::cmp::Reverse(*layer));
        below.dedup();
        Self { set, top, below }
    }

    /// The layers from the top.
    #[inline]
    fn layers(&self) -> impl Iterator<Item = u8> + '_ {
        self.top.into_iter().chain(self.below.iter().copied())
    }

    /// Whether one of them stands on a layer of a cell, seen by rules or not.
    #[inline]
    fn is_in(&self, board: &Board, cell: CellId) -> bool {
        self.layers().any(|layer| board.kind_at(cell, layer).is_some_and(|kind| self.set.contains(kind)))
    }
}

/// The kind of a set on a layer of a cell, where `when` rules see it.
fn seen_kind(board: &Board, cell: CellId, layer: u8, of: &KindSet, active: &[PieceId]) -> Option<KindId> {
    let kind = board.kind_at(cell, layer).filter(|kind| of.contains(*kind))?;
    let hidden = board.known_piece_at(cell, layer).is_some_and(|piece| active.contains(&piece));
    (!hidden).then_some(kind)
}

impl Grid {
    /// The cells of a line, in reading order.
    fn line_cells(&self, row: bool, number: i64) -> impl Iterator<Item = CellId> + use<> {
        let extent = self.state.board.extent();
        let number = number as u32;
        let (first, step, count) =
            if row { (number * extent.columns, 1, extent.columns) } else { (number, extent.columns, extent.rows) };
        (0..count).map(move |at| CellId(first + at * step))
    }

    /// Rows or columns of which every cell, those of the ignored aside, holds one of a set.
    pub(super) fn full_lines(&mut self, row: bool, of: SetId, ignoring: Option<SetId>) -> Vec<Found> {
        let book = self.book.clone();
        let sought = |set: SetId| Sought::new(book.set(set), &self.state.board);
        let (of, ignoring) = (sought(of), ignoring.map(sought));
        let active = self.active();
        let extent = self.state.board.extent();
        let lines = if row { extent.rows } else { extent.columns };
        let cells = if row { extent.columns } else { extent.rows };
        let is_short = self.switches.has(Switch::RowOneShort);
        let counts =
            if is_short { None } else { self.counts_of_lines(row, of.set, ignoring.as_ref().map(|sought| sought.set)) };
        if counts.as_ref().is_some_and(Vec::is_empty) {
            return Vec::new();
        }
        let mut found = Vec::new();
        let mut pieces: Vec<PieceId> = Vec::new();
        for line in 0..i64::from(lines) {
            // Only lines that hold as many pieces as they have cells are looked at.
            let ignored = match counts.as_ref().map(|counts| counts[line as usize]) {
                Some([of, ignored]) if of + ignored < cells => continue,
                Some([_, ignored]) => ignored > 0,
                None => true,
            };
            let ignoring = ignoring.as_ref().filter(|_| ignored);
            pieces.clear();
            pieces.reserve(cells as usize);
            let last = self.line_cells(row, line).filter(|cell| !self.state.board.is_void(*cell)).last();
            let full = self.line_cells(row, line).all(|cell| {
                ignoring.is_some_and(|set| self.holds_seen(cell, set, &active))
                    || self.gather(cell, &of, &active, &mut pieces)
                    || self.state.board.is_void(cell)
                    || (is_short && Some(cell) == last)
            });
            if full && !pieces.is_empty() {
                found.push(Found { pieces: Matched::Many(pieces.as_slice().into()), line });
            }
        }
        found
    }

    /// Whether a cell holds a piece of a set that `when` rules see.
    #[inline]
    fn holds_seen(&self, cell: CellId, sought: &Sought, active: &[PieceId]) -> bool {
        let set = sought.set;
        let board = &self.state.board;
        if active.is_empty() && !board.has_loose(cell) {
            return sought.is_in(board, cell);
        }
        let mut places = board.seats(cell).filter(|place| !board.is_one_of(cell, *place, active));
        places.any(|place| board.kind_in(cell, place).is_some_and(|kind| set.contains(kind)))
    }

    /// Adds the pieces of a set in a cell that `when` rules see; whether there are any.
    #[inline]
    fn gather(&mut self, cell: CellId, sought: &Sought, active: &[PieceId], into: &mut Vec<PieceId>) -> bool {
        let before = into.len();
        let of = sought.set;
        let board = &mut self.state.board;
        if !board.has_loose(cell) {
            for layer in sought.layers() {
                if board.kind_at(cell, layer).is_some_and(|kind| of.contains(kind))
                    && let Some(piece) = board.piece_at(cell, layer)
                    && (active.is_empty() || !active.contains(&piece))
                {
                    into.push(piece);
                }
            }
            return into.len() > before;
        }
        for place in board.seats(cell) {
            if board.kind_in(cell, place).is_some_and(|kind| of.contains(kind)) {
                into.extend(board.piece_in(cell, place).filter(|piece| !active.contains(piece)));
            }
        }
        into.len() > before
    }

    /// How many pieces of the two sets stand in each line, nothing where there are too few of them for any to be full; `None`
    /// where some pieces are not listed or cells are missing, so that all lines have to be looked at.
    fn counts_of_lines(&self, row: bool, of: &KindSet, ignoring: Option<&KindSet>) -> Option<Vec<[u32; 2]>> {
        let board = &self.state.board;
        if board.has_bare(of) || ignoring.is_some_and(|set| board.has_bare(set)) || board.has_void() {
            return None;
        }
        let extent = board.extent();
        let (lines, cells) = if row { (extent.rows, extent.columns) } else { (extent.columns, extent.rows) };
        if board.count_set(of) + ignoring.map_or(0, |set| board.count_set(set)) < cells {
            return Some(Vec::new());
        }
        let mut counts = vec![[0_u32; 2]; lines as usize];
        for (set, at) in [(Some(of), 0), (ignoring, 1)] {
            for piece in set.into_iter().flat_map(KindSet::iter).flat_map(|kind| board.pieces_of(kind)) {
                if let Some(cell) = board.cell_of(piece) {
                    let line = if row { cell.0 / extent.columns } else { cell.0 % extent.columns };
                    counts[line as usize][at] += 1;
                }
            }
        }
        Some(counts)
    }

    /// Maximal straight runs of at least so many neighbours of one kind.
    pub(super) fn runs(&mut self, length: u32, of: SetId, rows: bool, columns: bool) -> Vec<Found> {
        let book = self.book.clone();
        let of = book.set(of);
        let active = self.active();
        let extent = self.state.board.extent();
        let layers: Vec<u8> = Sought::new(of, &self.state.board).layers().collect();
        let mut runs: Vec<(CellId, Vec<PieceId>)> = Vec::new();
        for (wanted, row, lines) in [(rows, true, extent.rows), (columns, false, extent.columns)] {
            for (layer, line) in layers.iter().flat_map(|layer| (0..lines).map(move |line| (*layer, line))) {
                if !wanted {
                    continue;
                }
                let cells: Vec<CellId> = self.line_cells(row, line.into()).collect();
                let board = &self.state.board;
                let kind = |cell: &CellId| seen_kind(board, *cell, layer, of, &active);
                let mut same: Vec<&[CellId]> = cells.chunk_by(|a, b| kind(a).is_some() && kind(a) == kind(b)).collect();
                same.retain(|run| run.len() >= length as usize && kind(&run[0]).is_some());
                let same: Vec<Vec<CellId>> = same.into_iter().map(<[CellId]>::to_vec).collect();
                for run in same {
                    let pieces = run.iter().filter_map(|cell| self.state.board.piece_at(*cell, layer)).collect();
                    runs.push((run[0], pieces));
                }
            }
        }
        // In reading order of their first cells; of two that begin in one cell the row comes first.
        runs.sort_by_key(|(first, _)| *first);
        runs.into_iter().map(|(_, pieces)| Found { pieces: Matched::Many(pieces.into()), line: 0 }).collect()
    }

    /// Areas of at least so many pieces of one kind, connected by their sides.
    pub(super) fn patches(&mut self, length: u32, of: SetId) -> Vec<Found> {
        let book = self.book.clone();
        let of = book.set(of);
        let active = self.active();
        let mut cells = Vec::new();
        self.state.board.cells_of(of, &mut cells);
        let mut seen: HashSet<(u8, CellId)> = HashSet::new();
        let mut found = Vec::new();
        for first in cells {
            for layer in (0..self.state.board.layers()).rev() {
                let board = &self.state.board;
                let kind_of = |cell: CellId| seen_kind(board, cell, layer, of, &active);
                let Some(kind) = kind_of(first) else { continue };
                if !seen.insert((layer, first)) {
                    continue;
                }
                let mut area = vec![first];
                let mut at = 0;
                while let Some(cell) = area.get(at).copied() {
                    at += 1;
                    for next in self.sides(cell) {
                        if kind_of(next) == Some(kind) && seen.insert((layer, next)) {
                            area.push(next);
                        }
                    }
                }
                if area.len() >= length as usize {
                    area.sort_unstable();
                    let pieces: Vec<PieceId> =
                        area.into_iter().filter_map(|cell| self.state.board.piece_at(cell, layer)).collect();
                    found.push(Found { pieces: Matched::Many(pieces.into()), line: 0 });
                }
            }
        }
        found
    }

    /// The cells that share a side with a cell.
    fn sides(&self, cell: CellId) -> impl Iterator<Item = CellId> + use<> {
        let extent = self.state.board.extent();
        let (column, row) = (cell.0 % extent.columns, cell.0 / extent.columns);
        let west = (column > 0).then(|| CellId(cell.0 - 1));
        let east = (column + 1 < extent.columns).then(|| CellId(cell.0 + 1));
        let less = (row > 0).then(|| CellId(cell.0 - extent.columns));
        let more = (row + 1 < extent.rows).then(|| CellId(cell.0 + extent.columns));
        [west, east, less, more].into_iter().flatten()
    }

    /// Whether a run of some `when run` rule holds one of two cells now.
    pub(super) fn makes_run(&mut self, cells: [CellId; 2]) -> bool {
        let book = self.book.clone();
        book.whens.iter().filter(|when| matches!(when.what, Match::Run { .. })).any(|when| {
            let found = self.find(&when.what);
            let board = &self.state.board;
            found.iter().any(|found| {
                let mut cells_of = found.pieces.pieces().filter_map(|piece| board.cell_of(piece));
                cells_of.any(|cell| cells.contains(&cell))
            })
        })
    }

    /// What stood on the far side of cleared lines comes nearer: every piece of the set by the number of cleared lines
    /// before it, cell by cell, and no further than a cell that is void or taken.
    pub(super) fn drop_lines(&mut self, of: SetId, lines: &[i64], heading: Heading) {
        let step = Step::along(heading, self.book.geometry.south());
        let along = |cell: Cell| cell.column * step.columns + cell.row * step.rows;
        let way = step.columns + step.rows;
        let mut pieces: Vec<(i64, CellId, PieceId)> = Vec::new();
        let book = self.book.clone();
        if self.state.board.has_bare(book.set(of)) {
            // What a flood has laid gets numbers first.
            self.pieces(&Pieces::Every(of, None), &Context::default());
        }
        let board = &self.state.board;
        let all = (0..book.kinds.len() as u16).map(KindId).filter(|kind| Some(*kind) != book.ground);
        let moving: Vec<KindId> =
            if self.switches.has(Switch::WallsDrop) { all.collect() } else { book.set(of).iter().collect() };
        for piece in moving.into_iter().flat_map(|kind| board.pieces_of(kind)) {
            let Some(id) = board.cell_of(piece) else { continue };
            let ahead = along(board.cell(id));
            if lines.iter().any(|line| *line * way > ahead) && !self.is_active(piece) {
                pieces.push((-ahead, id, piece));
            }
        }
        // The nearest to the cleared lines first.
        pieces.sort_unstable();
        for (ahead, from, piece) in pieces {
            let place = -ahead;
            let far = self.switches.has(Switch::FallsToTheBottom);
            let count = if far { usize::MAX } else { lines.iter().filter(|line| **line * way > place).count() };
            let board = &self.state.board;
            let layer = board.layer(board.kind_of(piece));
            let mut to = from;
            for _ in 0..count {
                let cell = board.cell(to);
                let next = board.id(Cell::new(cell.column + step.columns, cell.row + step.rows));
                let free = |next: &CellId| {
                    !board.is_void(*next) && (board.kind_at(*next, layer).is_none() || board.is_loose(piece))
                };
                match next.filter(free) {
                    Some(next) => to = next,
                    None => break,
                }
            }
            if to != from {
                self.state.board.shift(&[(piece, to)]);
                self.end_motion(piece);
            }
        }
        if !self.state.bonds.bodies.is_empty() {
            self.mend_bodies();
        }
    }

    /// Most requests of falls in one turn on this board.
    pub(super) fn most_fallen(&self) -> u64 {
        let extent = self.state.board.extent();
        let across = extent.cells().saturating_mul(extent.columns.max(extent.rows).into());
        across.saturating_mul(100).clamp(LEAST_FALLEN, MOST_FALLEN)
    }

    /// Every body of a set asks cell by cell until it is refused, the foremost first, until none moves; whether one did.
    pub(super) fn fall<W: Watch>(&mut self, of: SetId, heading: Heading, watch: &mut W) -> Result<bool, Flow> {
        let step = Step::along(heading, self.book.geometry.south());
        let mut seen: HashMap<PieceId, Passed> = HashMap::new();
        let free = self.free_falls(of, heading);
        let mut moved = false;
        for _ in 0..MOST_ROUNDS {
            let mut falling = self.pieces(&Pieces::Every(of, None), &Context::default());
            self.one_of_each_body(&mut falling);
            let mut order: Vec<(i64, usize, PieceId)> = Vec::with_capacity(falling.len());
            for (reading, piece) in falling.into_iter().enumerate() {
                order.push((-self.reach_along(piece, heading), reading, piece));
            }
            order.sort_unstable();
            let mut again = false;
            for (_, _, piece) in order {
                if let Some(free) = free.as_ref().filter(|_| !watch.wants_falls()) {
                    again |= self.fall_freely(piece, step, free)?;
                }
                again |= self.fall_one(piece, step, &mut seen, watch)?;
            }
            if !again {
                return Ok(moved);
            }
            moved = true;
        }
        Err(Flow::NeverSettles)
    }

    /// For every kind of a set which kinds it falls past with nothing decided, nothing done and nobody told; `None` where
    /// more is at stake for some of them.
    fn free_falls(&self, of: SetId, heading: Heading) -> Option<FreeFalls> {
        let tables = &self.tables;
        let corners = self.book.corners_closed && heading.is_diagonal();
        if corners || tables.offs || !tables.plain || tables.moves_between || tables.warps || tables.slides {
            return None;
        }
        let mut past = HashMap::new();
        for kind in self.book.set(of).iter() {
            // What an `if` answers may depend on where the piece is.
            if tables.clauses[usize::from(kind.0)].iter().any(|clause| clause.guarded) {
                return None;
            }
            let layer = self.state.board.layer(kind);
            let passes = |other: u16| {
                let other = KindId(other);
                let decided = tables.clauses[usize::from(kind.0)].iter().any(|clause| clause.meets(&self.book, other));
                !decided && self.state.board.layer(other) != layer
            };
            past.insert(kind, (0..self.book.kinds.len() as u16).map(passes).collect());
        }
        Some(past)
    }

    /// A piece falls as far as it is stopped by nothing and meets no clause, in one move: what so many single requests
    /// come to. Whether it moved.
    fn fall_freely(&mut self, piece: PieceId, step: Step, free: &FreeFalls) -> Result<bool, Flow> {
        let most = self.most_fallen();
        let board = &self.state.board;
        let Some((start, past)) = board.cell_of(piece).zip(free.get(&board.kind_of(piece))) else {
            return Ok(false);
        };
        let mut at = start;
        loop {
            let cell = board.cell(at);
            let next = board.id(Cell::new(cell.column + step.columns, cell.row + step.rows));
            let is_open = |next: &CellId| {
                let open = |layer| board.kind_at(*next, layer).is_none_or(|kind| past[usize::from(kind.0)]);
                !board.is_void(*next) && (0..board.layers()).all(open)
            };
            let Some(next) = next.filter(is_open) else { break };
            self.turn.fallen += 1;
            if self.turn.fallen > most {
                return Err(Flow::NeverSettles);
            }
            at = next;
        }
        if at == start {
            return Ok(false);
        }
        self.turn.granted = true;
        self.state.board.step(piece, at, None);
        Ok(true)
    }

    /// One body falls until it is refused or comes back to a cell of this fall; whether it moved.
    fn fall_one<W: Watch>(
        &mut self,
        piece: PieceId,
        step: Step,
        seen: &mut HashMap<PieceId, Passed>,
        watch: &mut W,
    ) -> Result<bool, Flow> {
        let Some(start) = self.state.board.cell_of(piece) else {
            return Ok(false);
        };
        // Without a warp nothing leads back to a cell that was fallen through.
        let tracked = self.tables.warps;
        if tracked {
            let passed = seen.entry(piece).or_default();
            if passed.ended && passed.cells.contains(&start) {
                return Ok(false);
            }
            passed.cells.insert(start);
        }
        let mut moved = false;
        while self.ask_falling(piece, step, watch)? {
            moved = true;
            let Some(cell) = self.state.board.cell_of(piece) else { break };
            if tracked {
                let passed = seen.entry(piece).or_default();
                passed.ended |= !passed.cells.insert(cell);
                if passed.ended {
                    break;
                }
            }
        }
        Ok(moved)
    }

    /// New pieces of a set come in at an edge and fall away from it until the line at the edge is full.
    pub(super) fn refill<W: Watch>(&mut self, of: SetId, edge: Heading, watch: &mut W) -> Result<bool, Flow> {
        let book = self.book.clone();
        let kinds = book.set(of).in_order();
        let Some(layer) = kinds.first().map(|kind| self.state.board.layer(*kind)) else {
            return Ok(false);
        };
        let extent = self.state.board.extent();
        let step = Step::along(edge, book.geometry.south());
        let (row, line) = match (step.columns, step.rows) {
            (0, way) => (true, if way < 0 { 0 } else { i64::from(extent.rows) - 1 }),
            (way, _) => (false, if way < 0 { 0 } else { i64::from(extent.columns) - 1 }),
        };
        let mut made = false;
        for _ in 0..MOST_ROUNDS {
            let board = &self.state.board;
            let empty = |cell: &CellId| !board.is_void(*cell) && board.kind_at(*cell, layer).is_none();
            let cells: Vec<CellId> = self.line_cells(row, line).filter(empty).collect();
            if cells.is_empty() {
                return Ok(made);
            }
            for cell in cells {
                let kind = kinds[self.draw_kind(kinds)];
                made |= self.state.board.add(cell, kind, book.kind(kind).facing).is_some();
            }
            self.fall(of, edge.opposite(), watch)?;
        }
        Err(Flow::NeverSettles)
    }
}
