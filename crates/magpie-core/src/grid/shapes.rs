//! Rigid bodies: shapes that are spawned, turned, locked, and break when they lose a piece (docs/model.md, section 6a).

use super::bonds::Body;
use super::context::{Few, View};
use super::plan::Step;
use super::state::Grid;
use crate::board::{CellId, PieceId};
use crate::rulebook::{KindId, PlainVerb, Shape, Verb};
use crate::space::{Cell, Heading};
use std::sync::Arc;

impl Grid {
    /// The rigid body of a piece; one that has lost a piece is none any more.
    pub(super) fn body_of(&self, piece: PieceId) -> Option<&Body> {
        let bodies = &self.state.bonds.bodies;
        bodies.iter().find(|body| body.has(piece)).filter(|body| body.is_whole(&self.state.board))
    }

    /// The pieces that move as one with a piece, itself among them.
    pub(super) fn together(&self, piece: PieceId, into: &mut Vec<PieceId>) {
        into.clear();
        match self.body_of(piece) {
            Some(body) => into.extend(body.members.iter().map(|(piece, _)| *piece)),
            None => into.push(piece),
        }
    }

    /// Whether a piece moves together with others.
    pub(super) fn is_in_body(&self, piece: PieceId) -> bool {
        !self.state.bonds.bodies.is_empty() && self.body_of(piece).is_some_and(|body| body.members.len() > 1)
    }

    /// One piece of each body of these, the first of each.
    pub(super) fn one_of_each_body(&self, pieces: &mut Few) {
        if self.state.bonds.bodies.is_empty() {
            return;
        }
        let mut seen: Vec<u32> = Vec::new();
        pieces.retain(|piece| match self.body_of(*piece) {
            None => true,
            Some(body) if seen.contains(&body.number) => false,
            Some(body) => {
                seen.push(body.number);
                true
            }
        });
    }

    /// The active body, until it is locked or loses a piece.
    pub(super) fn active_body(&self) -> Option<&Body> {
        let active = self.state.bonds.active?;
        let body = self.state.bonds.bodies.iter().find(|body| body.number == active)?;
        body.is_whole(&self.state.board).then_some(body)
    }

    /// The pieces of the active shape.
    pub fn active(&self) -> Vec<PieceId> {
        self.active_body().map_or(Vec::new(), |body| body.members.iter().map(|(piece, _)| *piece).collect())
    }

    /// Whether a piece belongs to the active shape, which `when` rules do not see.
    #[inline]
    pub(super) fn is_active(&self, piece: PieceId) -> bool {
        self.state.bonds.active.is_some() && self.active_body().is_some_and(|body| body.has(piece))
    }

    /// The cells of places in a square.
    fn cells_of_square(
        &self,
        corner: Cell,
        places: impl Iterator<Item = (i64, i64)>,
    ) -> impl Iterator<Item = Option<CellId>> {
        let south = self.book.geometry.south();
        let board = &self.state.board;
        places.map(move |(east, down)| {
            let cell = board.id(Cell::new(corner.column + east, corner.row + down * south));
            cell.filter(|cell| !board.is_void(*cell))
        })
    }

    /// The places of a shape's pieces in reading order of the cells they come to: columns east and lines south.
    fn places_of(&self, shape: &Shape) -> Vec<(i64, i64)> {
        let mut places: Vec<(i64, i64)> = shape.cells.iter().map(|(x, y)| (i64::from(*x), i64::from(*y))).collect();
        let south = self.book.geometry.south();
        places.sort_unstable_by_key(|(x, y)| (y * south, *x));
        places
    }

    /// The kinds of a shape's pieces in reading order: its own, or one draw for each.
    pub(super) fn kinds_of_shape(&mut self, shape: &Shape) -> Vec<KindId> {
        let book = self.book.clone();
        let kinds = book.set(shape.of).in_order();
        let mut draw = |_| match (shape.is_drawn, kinds.first()) {
            (true, Some(_)) => kinds[self.draw_kind(kinds)],
            (_, first) => first.copied().unwrap_or(KindId(0)),
        };
        shape.cells.iter().map(&mut draw).collect()
    }

    /// Puts a shape down with its upper left cell at a place; the reason where it has no room.
    pub(super) fn spawn_shape(&mut self, shape: &Shape, kinds: &[KindId], at: CellId) -> Result<(), &'static str> {
        let corner = self.state.board.cell(at);
        let places = self.places_of(shape);
        let cells: Option<Vec<CellId>> = self.cells_of_square(corner, places.iter().copied()).collect();
        let cells = cells.ok_or("no such cell")?;
        let mark = self.state.board.mark();
        let mut members = Vec::with_capacity(cells.len());
        for ((cell, place), kind) in cells.into_iter().zip(places).zip(kinds) {
            let heading = self.book.kind(*kind).facing;
            let Some(piece) = self.state.board.add(cell, *kind, heading) else {
                self.state.board.take_back(mark);
                return Err("the layer is taken");
            };
            members.push((piece, place));
        }
        let side = i64::from(shape.size.0.max(shape.size.1));
        self.change_bonds(|bonds| {
            let number = bonds.bodies.iter().map(|body| body.number + 1).max().unwrap_or(0);
            let number = bonds.active.map_or(number, |active| number.max(active + 1));
            bonds.bodies.push(Body { number, members: members.into(), corner, side });
            bonds.active = Some(number);
        });
        Ok(())
    }

    /// The square of a body has moved with it.
    pub(super) fn move_square(&mut self, piece: PieceId, columns: i64, rows: i64) {
        if let Some(number) = self.body_of(piece).map(|body| body.number) {
            self.change_bonds(|bonds| {
                for body in bonds.bodies.iter_mut().filter(|body| body.number == number) {
                    body.corner = Cell::new(body.corner.column + columns, body.corner.row + rows);
                }
            });
        }
    }

    /// Bodies of which pieces were moved one by one: those that keep their form go on, the others break.
    pub(super) fn mend_bodies(&mut self) {
        let south = self.book.geometry.south();
        let board = &self.state.board;
        let stands = |body: &Body| {
            let cells = body.members.iter().map(|(piece, (east, down))| {
                let cell = board.cell(board.cell_of(*piece)?);
                Some(Cell::new(cell.column - east, cell.row - down * south))
            });
            let corners: Option<Vec<Cell>> = cells.collect();
            corners.filter(|corners| corners.windows(2).all(|pair| pair[0] == pair[1])).map(|corners| corners[0])
        };
        let bodies: Vec<Body> = self.state.bonds.bodies.clone();
        let mended: Vec<Body> =
            bodies.into_iter().filter_map(|body| stands(&body).map(|corner| Body { corner, ..body })).collect();
        self.change_bonds(|bonds| bonds.bodies = mended);
    }

    /// Makes every piece of the active shape a body of its own; false where there is none.
    pub(super) fn lock_active(&mut self) -> bool {
        let Some(number) = self.active_body().map(|body| body.number) else {
            return false;
        };
        self.change_bonds(|bonds| {
            bonds.bodies.retain(|body| body.number != number);
            bonds.active = None;
        });
        true
    }

    /// Turns a body within its square, tried at each of the offsets in columns east and rows south; the reason where it
    /// finds no room.
    pub(super) fn rotate(&mut self, piece: PieceId, clockwise: bool, tries: &[(i64, i64)]) -> Result<(), &'static str> {
        let body = self.body_of(piece).ok_or("no shape")?.clone();
        let last = body.side - 1;
        let turned: Arc<[(PieceId, (i64, i64))]> = body
            .members
            .iter()
            .map(|(piece, (x, y))| (*piece, if clockwise { (last - y, *x) } else { (*y, last - x) }))
            .collect();
        let south = self.book.geometry.south();
        for (east, down) in [(0, 0)].iter().chain(tries) {
            let corner = Cell::new(body.corner.column + east, body.corner.row + down * south);
            let cells =
                self.cells_of_square(corner, turned.iter().map(|(_, place)| *place)).collect::<Option<Vec<_>>>();
            let Some(cells) = cells else { continue };
            let moves: Vec<(PieceId, CellId)> = turned.iter().map(|(piece, _)| *piece).zip(cells).collect();
            if !moves.iter().all(|(piece, cell)| self.has_room(&body, *piece, *cell)) {
                continue;
            }
            self.state.board.shift(&moves);
            let (number, members) = (body.number, turned.clone());
            self.change_bonds(|bonds| {
                for found in bonds.bodies.iter_mut().filter(|found| found.number == number) {
                    (found.members, found.corner) = (members.clone(), corner);
                }
            });
            return Ok(());
        }
        Err("no room")
    }

    /// Whether everything in a cell but the body itself lets a piece of it pass.
    fn has_room(&self, body: &Body, piece: PieceId, cell: CellId) -> bool {
        let board = &self.state.board;
        board.seats(cell).all(|place| {
            let own = board.known_piece_in(cell, place).is_some_and(|other| body.has(other));
            own || board.kind_in(cell, place).is_none_or(|kind| {
                self.decide_in(piece, kind, View { here: Some(cell), ..View::default() }).0
                    == Verb::Plain(PlainVerb::Pass)
            })
        })
    }

    /// How far along a heading the foremost piece of a body stands.
    pub(super) fn reach_along(&self, piece: PieceId, heading: Heading) -> i64 {
        let way = Step::along(heading, self.book.geometry.south());
        let board = &self.state.board;
        let along = |piece: PieceId| {
            let cell = board.cell_of(piece).map_or(Cell::new(0, 0), |cell| board.cell(cell));
            cell.column * way.columns + cell.row * way.rows
        };
        match self.body_of(piece) {
            Some(body) => body.members.iter().map(|(piece, _)| along(*piece)).max().unwrap_or(0),
            None => along(piece),
        }
    }
}
