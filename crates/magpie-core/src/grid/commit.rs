//! Asking: a plan is committed, or refused; what comes of it besides, and who asks on.

use super::context::{Context, Few, Matched, View};
use super::flow::{Flow, Goes};
use super::ledger::{Asked, CheckKind, Reason, Request, Shoved};
use super::plan::{Decided, Member, Step};
use super::report::Fired;
use super::state::Grid;
use super::switches::Switch;
use super::watch::Watch;
use crate::board::{CellId, PieceId};
use crate::rulebook::{KindId, PlainVerb, Verb};
use crate::space::Cell;

impl Grid {
    /// A piece's body asks for a step, and what has slid by that asks on before anybody else; whether the first request
    /// was granted.
    pub(super) fn ask<W: Watch>(&mut self, piece: PieceId, step: Step, watch: &mut W) -> Result<bool, Flow> {
        self.turn.sliding.clear();
        let granted = self.ask_once(piece, step, watch)?;
        self.slide_on(0, step, watch)?;
        Ok(granted)
    }

    /// Those that have entered by `slide` ask on until the list is as short as before.
    fn slide_on<W: Watch>(&mut self, before: usize, step: Step, watch: &mut W) -> Goes {
        while self.turn.sliding.len() > before {
            let Some(slider) = self.turn.sliding.pop() else { break };
            // Nobody asks twice from one cell by sliding: a closed ring ends where it began.
            let cell = self.state.board.cell_of(slider);
            if cell.is_some_and(|cell| !self.turn.slid.contains(&(slider, cell))) {
                self.ask_once(slider, step, watch)?;
            }
        }
        Ok(())
    }

    /// One request: planned, committed or refused, with the effects; then whoever rides on what has moved is asked.
    fn ask_once<W: Watch>(&mut self, piece: PieceId, step: Step, watch: &mut W) -> Result<bool, Flow> {
        let Some(from) = self.state.board.cell_of(piece) else {
            return Ok(false);
        };
        if self.tables.slides {
            self.turn.slid.insert((piece, from));
        }
        let granted = self.plan_request::<W>(piece, step);
        self.turn.last = Some(if granted { Ok(()) } else { Err(self.plan.reason) });
        self.turn.granted |= granted;
        if granted {
            self.note_move(piece, step.heading);
        }
        self.carry_out(piece, from, step, watch)?;
        self.carry(watch)?;
        Ok(granted)
    }

    /// One step of a fall.
    pub(super) fn ask_falling<W: Watch>(&mut self, piece: PieceId, step: Step, watch: &mut W) -> Result<bool, Flow> {
        let Some(from) = self.state.board.cell_of(piece) else {
            return Ok(false);
        };
        self.turn.fallen += 1;
        if self.turn.fallen > self.most_fallen() {
            return Err(Flow::NeverSettles);
        }
        let granted = self.plan_fall::<W>(piece, step);
        self.turn.granted |= granted;
        let sliding = self.turn.sliding.len();
        self.carry_out(piece, from, step, watch)?;
        // What falls onto something it slides on asks again anyway.
        self.turn.sliding.truncate(sliding);
        self.carry(watch)?;
        Ok(granted)
    }

    /// A rider is carried into another cell, or over the edge; whether it was let in.
    pub(super) fn ask_carried<W: Watch>(
        &mut self,
        piece: PieceId,
        from: CellId,
        to: Cell,
        step: Step,
        watch: &mut W,
    ) -> Result<bool, Flow> {
        let granted = self.plan_carried::<W>(piece, from, to, step);
        let sliding = self.turn.sliding.len();
        self.carry_out(piece, from, step, watch)?;
        self.slide_on(sliding, step, watch)?;
        Ok(granted)
    }

    /// Commits what was planned, or does what a refusal does, and tells it.
    pub(super) fn carry_out<W: Watch>(&mut self, piece: PieceId, from: CellId, step: Step, watch: &mut W) -> Goes {
        let reason = self.plan.reason;
        let by = match (self.plan.carried, self.plan.falling) {
            (Some(_), _) => Asked::Carried,
            (None, true) => Asked::Falling,
            (None, false) => Asked::Own,
        };
        let mut told = 0;
        let mut why = None;
        if W::USES {
            self.plan.used.drain(..).for_each(|clause| watch.used(Fired::Meeting(clause)));
            // The short way of planning looks for a refusal alone.
            let refused_by = reason.as_ref().and_then(|reason| reason.clause);
            refused_by.into_iter().for_each(|clause| watch.used(Fired::Meeting(clause)));
        }
        if W::LEDGER {
            let request = self.asked(piece, from, step, by);
            let refusing = request.reason.and_then(|check| request.checks.get(check)).filter(|_| by == Asked::Own);
            why = refusing.map(|check| check.text(&self.book, self.state.board.extent()));
            told = watch.request(request);
        }
        let flow = match reason {
            None => self.commit(piece, step, by, watch),
            // In a fall, and where a rider is asked, a refusal has no effects.
            Some(_) if by != Asked::Own => Ok(()),
            Some(reason) => self.refused(piece, step, &reason, watch),
        };
        if W::LEDGER {
            self.turn.why = why;
            watch.arrived(told, self.state.board.cell_of(piece).map(|cell| self.state.board.cell(cell)));
        }
        flow
    }

    /// The request that was planned, and its answer, before it is carried out.
    fn asked(&mut self, piece: PieceId, from: CellId, step: Step, by: Asked) -> Request {
        let reason = self.plan.reason;
        let from = self.state.board.cell(from);
        Request {
            by,
            kind: self.state.board.kind_of(piece),
            from,
            to: Some(from),
            heading: step.heading,
            granted: reason.is_none(),
            reason: reason.map(|reason| reason.check),
            refusal: reason,
            shoved: self.shoved(),
            checks: std::mem::take(&mut self.plan.checks),
        }
    }

    /// The pieces that the plan would move besides the asker.
    fn shoved(&self) -> Vec<Shoved> {
        let board = &self.state.board;
        let others = self.plan.members.iter().filter(|member| member.body > 0 && !member.gone && !member.swapped);
        others
            .map(|member| Shoved {
                kind: board.kind_of(member.piece),
                from: board.cell(member.from),
                to: board.cell(member.to),
            })
            .collect()
    }

    fn commit<W: Watch>(&mut self, asker: PieceId, step: Step, by: Asked, watch: &mut W) -> Goes {
        if self.plan.members.len() == 1
            && self.plan.taken.is_empty()
            && self.plan.decided.is_empty()
            && !self.tables.offs
            && self.tables.plain
            && !self.tables.moves_between
        {
            let member = self.plan.members[0];
            self.state.board.step(asker, member.to, step.heading.filter(|_| by == Asked::Own));
            return Ok(());
        }
        let mut members = std::mem::take(&mut self.plan.members);
        let mut decided = std::mem::take(&mut self.plan.decided);
        let offs = if self.tables.offs { self.left_behind(&members, step) } else { Vec::new() };
        let exits = if self.tables.warps { self.exits(&members, &decided, step) } else { Vec::new() };
        for at in 0..self.plan.taken.len() {
            self.state.board.remove(self.plan.taken[at]);
        }
        if self.switches.has(Switch::OldCellKept) {
            self.plan.members = members;
            self.keep_old_cells();
            members = std::mem::take(&mut self.plan.members);
        }
        if self.switches.has(Switch::PusherStays) && members.iter().any(|member| member.body > 0 && !member.swapped) {
            members.iter_mut().filter(|member| member.body == 0).for_each(|member| member.to = member.from);
        }
        let heads = if self.book.trails.is_empty() { Vec::new() } else { self.heads_leaving(&members) };
        let mut moves = std::mem::take(&mut self.moves);
        moves.clear();
        for member in &members {
            if member.gone || (member.swapped && self.switches.has(Switch::SwapHalf)) {
                self.state.board.remove(member.piece);
            } else if member.adrift {
                self.state.board.set_adrift(member.piece);
            } else {
                moves.push((member.piece, member.to));
            }
        }
        self.state.board.shift(&moves);
        self.moves = moves;
        self.leave_trails(&heads);
        if !self.state.bonds.bodies.is_empty() {
            for (at, member) in members.iter().enumerate() {
                let first = at == 0 || members[at - 1].body != member.body;
                if first && !member.gone && !member.swapped {
                    self.move_square(member.piece, step.columns, step.rows);
                }
            }
        }
        if step.heading.is_some() && by == Asked::Own {
            for member in members.iter().filter(|member| member.body == 0) {
                self.state.board.turn(member.piece, step.heading);
            }
        }
        for exit in exits {
            self.state.board.shift(&[exit]);
        }
        if self.tables.moves_between {
            for member in members.iter().filter(|member| !(by == Asked::Carried && member.body == 0)) {
                self.end_motion(member.piece);
            }
            self.board_carriers(&decided);
        }
        self.note_sliders(&decided, step);
        let flow = self.after_commit(&offs, &mut decided, step, watch);
        self.plan.members = members;
        self.plan.decided = decided;
        flow
    }

    /// Whoever entered by `ride` is carried from now on by what it met first.
    fn board_carriers(&mut self, decided: &[Decided]) {
        for decided in decided.iter().filter(|decided| decided.verb == Some(PlainVerb::Ride)) {
            let here = self.state.board.cell_of(decided.asker) == Some(decided.here);
            let alone = self.carrier_of(decided.asker).is_none() && !self.is_in_body(decided.asker);
            if let Some(carrier) = decided.occupant.filter(|_| here && alone) {
                self.begin_ride(decided.asker, carrier);
            }
        }
    }

    /// Where those that enter by `warp` go on to: the next place of its kind that has room for them once the plan is
    /// carried out. Every `if` is judged on the board as it still is.
    fn exits(&self, members: &[Member], decided: &[Decided], step: Step) -> Vec<(PieceId, CellId)> {
        let board = &self.state.board;
        let mut found: Vec<(PieceId, CellId)> = Vec::new();
        for decided in decided {
            let Some(PlainVerb::Warp(kind)) = decided.verb else { continue };
            let enters = |member: &Member| {
                member.piece == decided.asker && !member.gone && !member.adrift && member.to == decided.here
            };
            if !members.iter().any(enters) || self.is_in_body(decided.asker) {
                continue;
            }
            // Where one of the kind stands there is no room for another of its layer.
            let glides = self.tables.tracks.of_kind[usize::from(kind.0)].is_some();
            let crowded = board.layer(kind) == board.layer(board.kind_of(decided.asker));
            if crowded && !glides && !board.is_loose(decided.asker) {
                continue;
            }
            let mut cells = Vec::new();
            board.cells_of(&self.book.sets[usize::from(kind.0)], &mut cells);
            cells.extend(members.iter().filter(|member| board.kind_of(member.piece) == kind).map(|member| member.to));
            cells.sort_unstable();
            cells.dedup();
            let behind = cells.iter().position(|cell| *cell > decided.here).unwrap_or(cells.len());
            cells.rotate_left(behind);
            let to = cells.into_iter().filter(|cell| *cell != decided.here).find(|cell| {
                let mut own = false;
                self.kinds_after(*cell, members, &found).into_iter().all(|other| {
                    // One of the kind is where it comes out.
                    if other == kind && !std::mem::replace(&mut own, true) {
                        return true;
                    }
                    self.decide_kind(decided.asker, other, *cell, step).0 == Verb::Plain(PlainVerb::Pass)
                }) && own
            });
            found.extend(to.map(|to| (decided.asker, to)));
        }
        found
    }

    /// What stands in a cell once the plan is carried out and these have come out where they do.
    fn kinds_after(&self, cell: CellId, members: &[Member], exits: &[(PieceId, CellId)]) -> Vec<KindId> {
        let board = &self.state.board;
        let stays = board.seats(cell).filter_map(|place| {
            let leaves = board.known_piece_in(cell, place).is_some_and(|piece| self.plan.is_leaving(piece));
            board.kind_in(cell, place).filter(|_| !leaves)
        });
        let exit = |piece: PieceId| exits.iter().find(|(other, _)| *other == piece).map(|(_, to)| *to);
        let comes = members.iter().filter(|member| !member.gone && !member.adrift);
        let comes = comes.filter(|member| exit(member.piece).unwrap_or(member.to) == cell);
        stays.chain(comes.map(|member| board.kind_of(member.piece))).collect()
    }

    /// Those that entered by `slide` ask on, the foremost first.
    fn note_sliders(&mut self, decided: &[Decided], step: Step) {
        if !self.tables.slides || step.heading.is_none() {
            return;
        }
        let slides = decided.iter().filter(|decided| decided.verb == Some(PlainVerb::Slide));
        let place = |decided: &Decided| {
            let cell = self.state.board.cell_of(decided.asker)?;
            let at = self.state.board.cell(cell);
            Some((at.column * step.columns + at.row * step.rows, std::cmp::Reverse(cell), decided.asker))
        };
        let mut found: Vec<_> = slides.filter_map(place).collect();
        // The last of the list is the next to ask.
        found.sort_unstable();
        found.dedup();
        let mut pieces: Few = found.into_iter().map(|(_, _, piece)| piece).collect();
        self.one_of_each_body(&mut pieces);
        self.turn.sliding.extend(pieces);
    }

    fn after_commit<W: Watch>(
        &mut self,
        offs: &[(usize, PieceId, PieceId, CellId)],
        decided: &mut [Decided],
        step: Step,
        watch: &mut W,
    ) -> Goes {
        let book = self.book.clone();
        for (off, leaver, stays, here) in offs {
            let context =
                Context { matched: Matched::Pair(*leaver, Some(*stays)), view: View::of(Some(*here), step.seen) };
            watch.used(Fired::Off(*off));
            self.acting(Fired::Off(*off), watch, |grid, watch| {
                grid.do_effects(&book.offs[*off].effects, &context, watch)
            })?;
        }
        decided.sort_by_key(|decided| decided.body);
        for decided in decided.iter() {
            let effects = &book.meeting(decided.clause).effects;
            if effects.is_empty() {
                continue;
            }
            let context = Context {
                matched: Matched::Pair(decided.asker, decided.occupant),
                view: View::of(Some(decided.here), step.seen),
            };
            let rule = Fired::Meeting(decided.clause);
            self.acting(rule, watch, |grid, watch| grid.do_effects(effects, &context, watch))?;
        }
        Ok(())
    }

    /// For every piece of the plan that changes its cell, the `off` clauses of what it leaves behind, judged before
    /// anything has moved.
    fn left_behind(&mut self, members: &[Member], step: Step) -> Vec<(usize, PieceId, PieceId, CellId)> {
        let book = self.book.clone();
        let mut found = Vec::new();
        let mut order: Vec<&Member> =
            members.iter().filter(|member| !member.gone && member.from != member.to).collect();
        let carried = self.plan.carried.is_some();
        order.retain(|member| !(carried && member.body == 0));
        order.sort_by_key(|member| member.body);
        for member in order {
            // A rider leaves nothing but its carrier.
            let left: Vec<PieceId> = match self.carrier_of(member.piece) {
                Some(carrier) => vec![carrier],
                None => {
                    let places = self.state.board.seats(member.from);
                    places.filter_map(|place| self.state.board.piece_in(member.from, place)).collect()
                }
            };
            for stays in left {
                if self.plan.is_leaving(stays) {
                    continue;
                }
                let kinds = (self.state.board.kind_of(member.piece), self.state.board.kind_of(stays));
                let view = View::of(Some(member.from), step.seen);
                let fits = book.offs.iter().position(|off| {
                    book.set(off.who).contains(kinds.0)
                        && book.set(off.other).contains(kinds.1)
                        && off.guard.as_ref().is_none_or(|guard| self.cond_holds(guard, &view))
                });
                if let Some(off) = fits {
                    found.push((off, member.piece, stays, member.from));
                }
            }
        }
        found
    }

    /// What a refusal does: `bounce` turns the asker, and the effects of the clause that decided happen.
    fn refused<W: Watch>(&mut self, asker: PieceId, step: Step, reason: &Reason, watch: &mut W) -> Goes {
        if reason.bounce
            && let Some(heading) = step.heading
        {
            self.state.board.turn(asker, Some(heading.opposite()));
        }
        let Some(clause) = reason.clause else {
            return Ok(());
        };
        let book = self.book.clone();
        let here = match reason.kind {
            CheckKind::Meets => self.state.board.id(reason.to),
            _ => self.state.board.cell_of(reason.asker),
        };
        let view = View::of(here, step.seen);
        let context = Context { matched: Matched::Pair(reason.asker, reason.occupant), view };
        let effects = &book.meeting(clause).effects;
        if effects.is_empty() {
            return Ok(());
        }
        self.acting(Fired::Meeting(clause), watch, |grid, watch| grid.do_effects(effects, &context, watch))
    }
}
