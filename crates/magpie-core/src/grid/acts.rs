//! Actions: what inputs and timers ask for.

use super::context::Context;
use super::flow::Flow;
use super::plan::Step;
use super::report::ActionReport;
use super::state::Grid;
use super::watch::{Nobody, Watch};
use crate::board::{CellId, PieceId};
use crate::rulebook::{Action, HeadingWord, Pieces, PlainVerb, Spot};
use crate::space::Heading;
use hashbrown::{HashMap, HashSet};
use std::collections::VecDeque;

/// Why an action on pieces was refused.
const fn refused(nobody: bool, granted: bool) -> Option<&'static str> {
    match (nobody, granted) {
        (true, _) => Some("nobody"),
        (false, false) => Some("refused"),
        (false, true) => None,
    }
}

/// Tells an action's answer; whether it was granted.
fn told<W: Watch>(action: &'static str, refusal: Option<&str>, watch: &mut W) -> bool {
    let granted = refusal.is_none();
    watch.action(ActionReport::of(action, refusal));
    granted
}

impl Grid {
    /// Does an action; whether it was granted.
    pub(super) fn action<W: Watch>(&mut self, action: &Action, context: &Context, watch: &mut W) -> Result<bool, Flow> {
        self.turn.slid.clear();
        match action {
            Action::Common(common) => self.common(common, context, watch),
            Action::Step { pieces, heading, times } => {
                let pieces = self.heeding(pieces, context);
                self.step_all(pieces, heading, *times, context, watch)
            }
            Action::Steer(set, heading) => {
                let pieces = self.heeding(&Pieces::Every(*set, None), context);
                pieces.iter().for_each(|piece| self.state.board.turn(*piece, Some(*heading)));
                Ok(!pieces.is_empty())
            }
            Action::Choose(spot) => {
                let cell = spot.as_ref().map(|spot| self.spot(spot, &context.view));
                let refusal = (cell == Some(None)).then_some("no such cell");
                if refusal.is_none() {
                    self.state.small.chosen = cell.flatten();
                }
                Ok(told("choose", refusal, watch))
            }
            Action::Swap { one, other, if_run } => {
                let cells = [one, other].map(|spot| self.spot(spot, &context.view));
                let refusal = self.swap_cells(cells, *if_run).err();
                self.turn.granted |= refusal.is_none();
                self.carry(watch)?;
                Ok(told("swap", refusal, watch))
            }
            Action::Leap(pieces, east, south) => self.leap_all(pieces, (*east, *south), context, watch),
            Action::Walk(pieces, spot) => self.walk_first(pieces, spot, context, watch),
            Action::Drop(pieces, word) => {
                let pieces = self.pieces(pieces, context);
                let nobody = pieces.is_empty();
                let mut granted = false;
                for (heading, piece) in self.foremost_first(pieces, word, context) {
                    granted |= self.drop_one(piece, Step::along(heading, self.book.geometry.south()), watch)?;
                }
                Ok(told("drop", refused(nobody, granted), watch))
            }
            Action::Flood { from, into, eight } => {
                let from = self.spot(from, &context.view);
                let flooded = self.flood(from, *into, *eight, W::LEDGER);
                let granted = flooded.is_ok();
                if W::LEDGER {
                    let mut report = ActionReport::of("flood", flooded.as_ref().err().map(String::as_str));
                    report.rings = flooded.ok();
                    report.size = report.rings.as_ref().map(|rings| rings.cells.len() as u32);
                    watch.action(report);
                }
                Ok(granted)
            }
            Action::Rotate { pieces, clockwise, tries } => {
                let mut pieces = self.pieces(pieces, context);
                self.one_of_each_body(&mut pieces);
                let mut refusal = Some("nobody");
                for piece in pieces {
                    match self.rotate(piece, *clockwise, tries) {
                        Ok(()) => refusal = None,
                        Err(why) => refusal = refusal.map(|_| why),
                    }
                }
                Ok(told("rotate", refusal, watch))
            }
            Action::LockActive => {
                let refusal = (!self.lock_active()).then_some("nobody");
                Ok(told("lock", refusal, watch))
            }
        }
    }

    /// One request to a far cell for every piece.
    fn leap_all<W: Watch>(
        &mut self,
        pieces: &Pieces,
        (east, south): (i64, i64),
        context: &Context,
        watch: &mut W,
    ) -> Result<bool, Flow> {
        let step = Step { columns: east, rows: south * self.book.geometry.south(), heading: None };
        let mut pieces = self.pieces(pieces, context);
        self.one_of_each_body(&mut pieces);
        let (nobody, mut granted) = (pieces.is_empty(), false);
        for piece in pieces {
            granted |= self.stands(piece) && self.ask(piece, step, watch)?;
        }
        Ok(told("leap", refused(nobody, granted), watch))
    }

    /// The first piece that has a way goes it, step by step.
    fn walk_first<W: Watch>(
        &mut self,
        pieces: &Pieces,
        spot: &Spot,
        context: &Context,
        watch: &mut W,
    ) -> Result<bool, Flow> {
        let pieces = self.pieces(pieces, context);
        let goal = self.spot(spot, &context.view);
        let mut refusal = Some(if pieces.is_empty() { "nobody" } else { "no such cell" });
        for piece in pieces {
            let Some(goal) = goal else { break };
            match self.way(piece, goal) {
                Err(why) => refusal = refusal.filter(|before| *before == "no way").or(Some(why)),
                Ok(way) => {
                    for heading in way {
                        let step = Step::along(heading, self.book.geometry.south());
                        if !self.stands(piece) || !self.ask(piece, step, watch)? {
                            break;
                        }
                        refusal = None;
                    }
                }
            }
            if refusal.is_none() {
                break;
            }
        }
        Ok(told("walk", refusal, watch))
    }

    /// The pieces meant by a key's action: those that may not turn straight back do not heed it.
    fn heeding(&mut self, pieces: &Pieces, context: &Context) -> Vec<PieceId> {
        let mut found = self.pieces(pieces, context);
        if let Some(heading) = self.turn.not_back {
            found.retain(|piece| !self.is_back(*piece, heading));
        }
        found
    }

    fn stands(&self, piece: PieceId) -> bool {
        self.state.board.cell_of(piece).is_some()
    }

    /// The same step again until it is refused; one that would come back to a cell of this drop is not asked for.
    fn drop_one<W: Watch>(&mut self, piece: PieceId, step: Step, watch: &mut W) -> Result<bool, Flow> {
        let mut seen: HashSet<CellId> = self.state.board.cell_of(piece).into_iter().collect();
        let mut granted = false;
        while self.stands(piece) {
            if self.plan_request::<Nobody>(piece, step) {
                let to = self.plan.members.first().filter(|member| !member.gone).map(|member| member.to);
                if to.is_some_and(|to| !seen.insert(to)) {
                    break;
                }
            }
            if !self.ask(piece, step, watch)? {
                break;
            }
            granted = true;
        }
        Ok(granted)
    }

    /// A shortest way of a piece by straight steps that nothing but `pass` and `take` decides, west before east before
    /// north before south among equals.
    fn way(&mut self, piece: PieceId, goal: CellId) -> Result<Vec<Heading>, &'static str> {
        const ORDER: [Heading; 4] = [Heading::West, Heading::East, Heading::North, Heading::South];
        let start = self.state.board.cell_of(piece).ok_or("no way")?;
        if start == goal {
            return Err("already there");
        }
        let layer = self.state.board.layer(self.state.board.kind_of(piece));
        let mut from: HashMap<CellId, (CellId, Heading)> = HashMap::new();
        let mut queue = VecDeque::from([start]);
        let mark = self.state.board.mark();
        while let Some(cell) = queue.pop_front().filter(|_| !from.contains_key(&goal)) {
            if cell != start {
                // What would have been taken on the way there is gone by then.
                if let Some(taken) = self.state.board.piece_at(cell, layer) {
                    self.state.board.remove(taken);
                }
                self.state.board.shift(&[(piece, cell)]);
            }
            for heading in ORDER {
                let granted = self.plan_request::<Nobody>(piece, Step::along(heading, self.book.geometry.south()));
                let moves = |verb: PlainVerb| !matches!(verb, PlainVerb::Slide | PlainVerb::Warp(_));
                let plain = self.plan.decided.iter().all(|decided| decided.verb.is_some_and(moves));
                let alone = plain && self.plan.members.len() == 1 && !self.plan.members[0].gone;
                let next = self.state.board.id(self.book.geometry.neighbour(self.state.board.cell(cell), heading));
                // Round the edge is no step of a walk.
                let to = self.plan.members.first().map(|member| member.to).filter(|to| Some(*to) == next);
                if let Some(to) = to.filter(|to| granted && alone && *to != start && !from.contains_key(to)) {
                    from.insert(to, (cell, heading));
                    queue.push_back(to);
                }
            }
            self.state.board.take_back(mark);
        }
        let mut way = Vec::new();
        let mut at = goal;
        while at != start {
            let (before, heading) = *from.get(&at).ok_or("no way")?;
            way.push(heading);
            at = before;
        }
        way.reverse();
        Ok(way)
    }

    /// The topmost pieces of two cells exchange cells; the reason where they do not.
    fn swap_cells(&mut self, cells: [Option<CellId>; 2], if_run: bool) -> Result<(), &'static str> {
        let [Some(one), Some(other)] = cells else {
            return Err("no such cell");
        };
        if one == other {
            return Err("twice the same cell");
        }
        let mark = self.state.board.mark();
        let top = (self.top_piece(one), self.top_piece(other));
        let board = &self.state.board;
        let layer = |piece: PieceId| board.layer(board.kind_of(piece));
        let mut moves = match top {
            (None, None) => return Err("both cells are empty"),
            (Some(first), Some(second)) if layer(first) != layer(second) => return Err("between two layers"),
            (Some(first), Some(second)) => vec![(first, other), (second, one)],
            (Some(first), None) => vec![(first, other)],
            (None, Some(second)) => vec![(second, one)],
        };
        // What counts as emptiness goes the other way: the ground, for a piece of its own layer.
        if let [(piece, to)] = moves[..] {
            let (from, layer) = (if to == one { other } else { one }, layer(piece));
            if !self.state.board.is_loose(piece)
                && let Some(ground) = self.state.board.piece_at(to, layer)
            {
                moves.push((ground, from));
            }
        }
        if moves.iter().any(|(piece, _)| self.body_of(*piece).is_some()) {
            return Err("a shape");
        }
        self.state.board.shift(&moves);
        if if_run && !self.makes_run([one, other]) {
            self.state.board.take_back(mark);
            return Err("makes no run");
        }
        moves.iter().for_each(|(piece, _)| self.end_motion(*piece));
        Ok(())
    }

    /// Pieces with the headings that words give them, the foremost along its heading first: those going west before those
    /// going east, north, south and diagonally, ties in reading order.
    fn foremost_first(
        &self,
        mut pieces: Vec<PieceId>,
        word: &HeadingWord,
        context: &Context,
    ) -> Vec<(Heading, PieceId)> {
        self.one_of_each_body(&mut pieces);
        let mut order: Vec<(Heading, i64, usize, PieceId)> = Vec::with_capacity(pieces.len());
        for (reading, piece) in pieces.into_iter().enumerate() {
            let Some(heading) = self.heading_word(piece, word, &context.view) else {
                continue;
            };
            if self.stands(piece) {
                order.push((heading, -self.reach_along(piece, heading), reading, piece));
            }
        }
        order.sort_unstable();
        order.into_iter().map(|(heading, _, _, piece)| (heading, piece)).collect()
    }

    /// One request for every piece, in an order fixed beforehand; each may ask several times in a row.
    fn step_all<W: Watch>(
        &mut self,
        pieces: Vec<PieceId>,
        word: &HeadingWord,
        times: u32,
        context: &Context,
        watch: &mut W,
    ) -> Result<bool, Flow> {
        let mut granted = false;
        for (heading, piece) in self.foremost_first(pieces, word, context) {
            let mut heading = heading;
            for _ in 0..times {
                let step = Step::along(heading, self.book.geometry.south());
                if !self.ask(piece, step, watch)? {
                    break;
                }
                granted = true;
                if times > 1 && matches!(word, HeadingWord::Toward(_)) {
                    match self.heading_word(piece, word, &context.view) {
                        Some(next) => heading = next,
                        None => break,
                    }
                }
            }
        }
        Ok(granted)
    }
}
