//! A request: all moves it would make are worked out, committed whole or not at all (docs/model.md, section 3).
//!
//! Bodies that ask within one plan are worked through with a stack of frames, so that a shove of a million in a row
//! costs no recursion.

use super::context::View;
use super::ledger::{CheckKind, Reason};
use super::plan::{Decided, Facts, Fallback, Frame, Member, Snapshot, Step};
use super::state::Grid;
use super::switches::Switch;
use super::tables::{Clause, EDGE, VOID};
use super::watch::{Nobody, Watch};
use crate::board::{CellId, PieceId};
use crate::rulebook::{PlainVerb, Verb};
use crate::space::{Cell, Heading};

impl Grid {
    /// Works out what a request of a piece's body would do. Nothing on the board changes.
    pub(super) fn plan_request<W: Watch>(&mut self, piece: PieceId, step: Step) -> bool {
        self.plan.begin(&self.state.board);
        self.plan_step::<W>(piece, step)
    }

    /// Works out what a request of a piece's body would do with a cell so far off as its target.
    pub(super) fn plan_into(&mut self, piece: PieceId, step: Step, aim: (i64, i64)) -> bool {
        self.plan.begin(&self.state.board);
        self.plan.aim = Some(aim);
        self.plan_step::<Nobody>(piece, step)
    }

    /// Works out what one step of a fall would do.
    pub(super) fn plan_fall<W: Watch>(&mut self, piece: PieceId, step: Step) -> bool {
        self.plan.begin(&self.state.board);
        self.plan.falling = true;
        self.plan_step::<W>(piece, step)
    }

    #[inline]
    fn plan_step<W: Watch>(&mut self, piece: PieceId, step: Step) -> bool {
        if !W::LEDGER
            && self.tables.plain
            && let Some(granted) = self.plan_plain(piece, step)
        {
            return granted;
        }
        self.push_asker(piece, step);
        let granted = self.work_out::<W>(step);
        if !granted && self.switches.has(Switch::PusherEnters) && self.plan.shoved > 0 && !self.plan.falling {
            self.plan.begin(&self.state.board);
            self.plan.entering = true;
            self.push_asker(piece, step);
            return self.work_out::<W>(step);
        }
        granted
    }

    fn push_asker(&mut self, piece: PieceId, step: Step) {
        if let Some(mut from) = self.state.board.cell_of(piece) {
            if self.switches.has(Switch::StaysRegistered) {
                from = self.boarded_at(piece).unwrap_or(from);
            }
            self.push_body(piece, from, step, None, (u32::MAX, 0));
        }
    }

    /// Works out what it would do that a rider is carried into another cell.
    pub(super) fn plan_carried<W: Watch>(&mut self, piece: PieceId, from: CellId, to: Cell, step: Step) -> bool {
        self.plan.begin(&self.state.board);
        self.plan.carried = Some(to);
        self.push_body(piece, from, step, None, (u32::MAX, 0));
        self.work_out::<W>(step)
    }

    fn work_out<W: Watch>(&mut self, step: Step) -> bool {
        while let Some(frame) = self.plan.frames.last().copied() {
            if frame.looking {
                self.look::<W>(frame, step);
            } else if frame.member < frame.end {
                self.target::<W>(frame, step);
            } else {
                self.pop_body::<W>(frame);
            }
        }
        if self.plan.reason.is_none() {
            if !self.plan.tails.is_empty() {
                self.keep_tails();
            }
            self.check_room::<W>();
        }
        self.plan.reason.is_none()
    }

    /// The usual request, of which nobody keeps a ledger: onto a cell of the board where every piece lets it pass or the
    /// first one that matters stops it. `None` where more is at stake.
    #[inline]
    fn plan_plain(&mut self, piece: PieceId, step: Step) -> Option<bool> {
        let board = &self.state.board;
        let from = board.cell_of(piece)?;
        let cell = board.cell(from);
        let (columns, rows) = self.plan.aim.unwrap_or((step.columns, step.rows));
        let to = Cell::new(cell.column + columns, cell.row + rows);
        let target = board.id(to).filter(|target| !board.is_void(*target))?;
        self.plan.looked.push(target);
        if (self.book.corners_closed && step.columns != 0 && step.rows != 0) || board.has_loose(target) {
            return None;
        }
        for layer in (0..board.layers()).rev() {
            let Some(occupant) = board.kind_at(target, layer) else {
                continue;
            };
            match self.decide_kind(piece, occupant, target, step) {
                (Verb::Plain(PlainVerb::Pass), None) => {}
                (Verb::Plain(PlainVerb::Stop), clause) => {
                    let met = board.known_piece_at(target, layer)?;
                    if met == piece {
                        return None;
                    }
                    self.plan.reason = Some(Reason {
                        kind: CheckKind::Meets,
                        asker: piece,
                        occupant: Some(met),
                        kinds: (board.kind_of(piece), Some(occupant)),
                        clause: clause.map(|clause| clause.number),
                        bounce: false,
                        to,
                        check: 0,
                    });
                    return Some(false);
                }
                _ => return None,
            }
        }
        self.plan.members.push(Member { piece, from, to: target, body: 0, gone: false, swapped: false, adrift: false });
        Some(true)
    }

    /// A body joins the plan and asks.
    fn push_body(
        &mut self,
        piece: PieceId,
        from: CellId,
        step: Step,
        fallback: Option<Fallback>,
        (most, limit): (u32, u32),
    ) {
        let start = self.plan.members.len();
        let body = self.plan.bodies;
        self.plan.bodies += 1;
        let whole = |piece, from| Member { piece, from, to: from, body, gone: false, swapped: false, adrift: false };
        if self.tables.ties && self.is_in_body(piece) {
            self.push_members(piece, step, whole);
        } else {
            self.plan.members.push(whole(piece, from));
            self.plan.leave(piece);
        }
        if !self.book.trails.is_empty() {
            for at in start..self.plan.members.len() {
                let mut tails = std::mem::take(&mut self.plan.tails);
                let before = tails.len();
                let Member { piece, from, .. } = self.plan.members[at];
                self.leaving_tails(piece, from, &mut tails);
                tails[before..].iter().for_each(|end| self.plan.leave(end.piece));
                self.plan.tails = tails;
            }
        }
        let end = self.plan.members.len();
        self.plan.frames.push(Frame {
            body,
            member: start,
            end,
            target: from,
            places: 0,
            looking: false,
            refused: false,
            most,
            limit,
            fallback,
        });
    }

    /// The pieces of a rigid body, the foremost along the heading first, then in reading order.
    fn push_members(&mut self, piece: PieceId, step: Step, member: impl Fn(PieceId, CellId) -> Member) {
        let mut together = std::mem::take(&mut self.plan.together);
        self.together(piece, &mut together);
        let board = &self.state.board;
        let mut order: Vec<(i64, CellId, PieceId)> = Vec::with_capacity(together.len());
        for piece in &together {
            if let Some(cell) = board.cell_of(*piece) {
                let at = board.cell(cell);
                let ahead = at.column * step.columns + at.row * step.rows;
                order.push((if step.heading.is_some() { -ahead } else { 0 }, cell, *piece));
            }
        }
        order.sort_unstable();
        for (_, cell, piece) in order {
            self.plan.members.push(member(piece, cell));
            self.plan.leave(piece);
        }
        self.plan.together = together;
    }

    /// Moves on to the next member's target: the arithmetic, the edge, void, and corners.
    fn target<W: Watch>(&mut self, mut frame: Frame, step: Step) {
        let member = self.plan.members[frame.member];
        let from = self.state.board.cell(member.from);
        let (columns, rows) = self.plan.aim.filter(|_| frame.body == 0).unwrap_or((step.columns, step.rows));
        let to = Cell::new(from.column + columns, from.row + rows);
        let to = self.plan.carried.filter(|_| frame.body == 0).unwrap_or(to);
        let mut facts =
            Facts { kind: CheckKind::Target, asker: member.piece, from: member.from, to, occupant: None, met: None };
        self.note::<W>(&facts, None, None, true);
        if self.book.corners_closed && step.heading.is_some_and(Heading::is_diagonal) {
            self.corners::<W>(&mut frame, &facts, step);
        }
        let mut target = self.state.board.id(to);
        facts.kind = CheckKind::Edge;
        if target.is_some() {
            self.note::<W>(&facts, None, None, true);
        } else {
            target = if self.switches.is_right() { None } else { self.beyond_edge(to) };
            if target.is_none() {
                let decided = self.decide_border(EDGE, &facts, step);
                target = self.border::<W>(&mut frame, &facts, decided, step);
            }
        }
        if let Some(cell) = target {
            facts.to = self.state.board.cell(cell);
            facts.kind = CheckKind::Void;
            if self.state.board.is_void(cell) && !self.walks_void(cell) {
                let decided = self.decide_border(VOID, &facts, step);
                target = self.border::<W>(&mut frame, &facts, decided, step);
            } else {
                self.note::<W>(&facts, None, None, true);
            }
        }
        match target {
            Some(cell) => {
                self.plan.members[frame.member].to = cell;
                self.plan.looked.push(cell);
                frame.target = cell;
                frame.places = self.state.board.seat_count(cell);
                frame.looking = true;
            }
            None => frame.member += 1,
        }
        self.set_frame(frame);
    }

    fn set_frame(&mut self, frame: Frame) {
        if let Some(last) = self.plan.frames.last_mut() {
            *last = frame;
        }
    }

    /// The meeting with `edge` or `void`; gives the cell on the far side for `wrap`.
    fn border<W: Watch>(
        &mut self,
        frame: &mut Frame,
        facts: &Facts,
        (verb, clause): (PlainVerb, Option<Clause>),
        step: Step,
    ) -> Option<CellId> {
        let holds = verb.enters() && !self.plan.falling;
        if W::LEDGER && self.tables.guards {
            let border = if facts.kind == CheckKind::Edge { EDGE } else { VOID };
            self.note_passed_over(facts, Err(border), clause, &View::of(Some(facts.from), step.seen));
        }
        self.note::<W>(facts, Some(Verb::Plain(verb)), clause, holds);
        self.note_used::<W>(clause);
        if let Some(clause) = clause {
            let decided = Decided {
                body: frame.body,
                clause: clause.number,
                verb: Some(verb),
                asker: facts.asker,
                occupant: None,
                here: facts.from,
            };
            self.plan.decided.push(decided);
        }
        match verb {
            _ if self.plan.falling => {
                self.refuse(frame, facts, clause, false);
                None
            }
            PlainVerb::Wrap if self.is_carried(frame.body) => {
                self.plan.members[frame.member].adrift = true;
                None
            }
            PlainVerb::Wrap => {
                let extent = self.state.board.extent();
                let column = facts.to.column.rem_euclid(i64::from(extent.columns));
                let row = facts.to.row.rem_euclid(i64::from(extent.rows));
                self.state.board.id(Cell::new(column, row))
            }
            PlainVerb::Perish => {
                self.perish(frame.body);
                None
            }
            _ => {
                self.refuse(frame, facts, clause, verb == PlainVerb::Bounce);
                None
            }
        }
    }

    fn is_carried(&self, body: u32) -> bool {
        body == 0 && self.plan.carried.is_some()
    }

    fn perish(&mut self, body: u32) {
        for member in self.plan.members.iter_mut().rev() {
            if member.body == body {
                member.gone = true;
            }
        }
    }

    fn refuse(&mut self, frame: &mut Frame, facts: &Facts, clause: Option<Clause>, bounce: bool) {
        frame.refused = true;
        self.give_reason(facts, clause, bounce && frame.body == 0);
    }

    /// Notes why the plan is refused, where nothing has been noted before.
    pub(super) fn give_reason(&mut self, facts: &Facts, clause: Option<Clause>, bounce: bool) {
        if self.plan.reason.is_none() {
            let kind = self.state.board.kind_of(facts.asker);
            self.plan.reason = Some(Reason {
                kind: facts.kind,
                asker: facts.asker,
                occupant: facts.met,
                kinds: (kind, facts.occupant),
                clause: clause.map(|clause| clause.number),
                bounce,
                to: facts.to,
                check: self.plan.checks.len().saturating_sub(1),
            });
        }
    }

    /// Both straight neighbours of a diagonal step.
    fn corners<W: Watch>(&mut self, frame: &mut Frame, facts: &Facts, step: Step) {
        let from = self.state.board.cell(facts.from);
        let neighbours =
            [Cell::new(from.column + step.columns, from.row), Cell::new(from.column, from.row + step.rows)];
        for to in neighbours {
            let mut found = Facts { kind: CheckKind::Corner, to, occupant: None, met: None, ..*facts };
            let cell = self.state.board.id(to).filter(|cell| !self.state.board.is_void(*cell));
            let mut closed = cell.is_none();
            self.plan.looked.extend(cell);
            for place in cell.map(|cell| self.state.board.seats(cell)).into_iter().flatten() {
                let Some((cell, occupant)) =
                    cell.and_then(|cell| Some((cell, self.state.board.piece_in(cell, place)?)))
                else {
                    continue;
                };
                if closed || self.plan.is_leaving(occupant) {
                    continue;
                }
                let (verb, clause) = self.decide(facts.asker, occupant, cell, step);
                if W::LEDGER && self.tables.guards {
                    let kind = self.state.board.kind_of(occupant);
                    let about = Facts { occupant: Some(kind), kind: CheckKind::If, ..found };
                    self.note_passed_over(&about, Ok(kind), clause, &View::of(Some(cell), step.seen));
                }
                if matches!(verb, Verb::Plain(PlainVerb::Stop | PlainVerb::Bounce)) {
                    closed = true;
                    found.occupant = Some(self.state.board.kind_of(occupant));
                    found.met = Some(occupant);
                }
            }
            if closed {
                self.note::<W>(&found, None, None, false);
                self.refuse(frame, &found, None, false);
            }
        }
    }

    /// The next piece in the target, from the top layer down.
    fn look<W: Watch>(&mut self, mut frame: Frame, step: Step) {
        let Some(below) = frame.places.checked_sub(1) else {
            if self.switches.has(Switch::OldCellKept) {
                self.refuse_kept::<W>(&mut frame, step);
            }
            frame.looking = false;
            frame.member += 1;
            self.set_frame(frame);
            return;
        };
        frame.places = below;
        self.set_frame(frame);
        let place = self.state.board.nth_seat(frame.target, below);
        let Some(kind) = self.state.board.kind_in(frame.target, place) else {
            return;
        };
        let member = self.plan.members[frame.member];
        if self.state.board.known_piece_in(frame.target, place).is_some_and(|piece| self.plan.is_leaving(piece)) {
            return;
        }
        let board = &self.state.board;
        if self.is_carried(frame.body) && board.layer(kind) != board.layer(board.kind_of(member.piece)) {
            return;
        }
        let to = self.state.board.cell(frame.target);
        let (mut verb, mut clause) = self.decide_kind(member.piece, kind, frame.target, step);
        if !self.switches.is_right() {
            (verb, clause) = self.slipped(&frame, member.piece, kind, (verb, clause));
        }
        if W::LEDGER && self.tables.guards {
            let (asker, from, occupant) = (member.piece, member.from, Some(kind));
            let facts = Facts { kind: CheckKind::If, asker, from, to, occupant, met: None };
            self.note_passed_over(&facts, Ok(kind), clause, &View::of(Some(frame.target), step.seen));
        }
        let plain_pass = clause.is_none() && verb == Verb::Plain(PlainVerb::Pass);
        if plain_pass && !W::LEDGER {
            return;
        }
        if plain_pass && Some(kind) == self.book.ground {
            // Nobody needs to be told that the ground carries.
            return;
        }
        let Some(occupant) = self.state.board.piece_in(frame.target, place) else {
            return;
        };
        let facts = Facts {
            kind: CheckKind::Meets,
            asker: member.piece,
            from: member.from,
            to,
            occupant: Some(kind),
            met: Some(occupant),
        };
        self.meet::<W>(frame, &facts, verb, clause, step);
    }

    /// Refuses a cell that counts as taken by who has left it.
    fn refuse_kept<W: Watch>(&mut self, frame: &mut Frame, step: Step) {
        let Member { piece: asker, from, .. } = self.plan.members[frame.member];
        let to = self.state.board.cell(frame.target);
        let facts = Facts { kind: CheckKind::Room, asker, from, to, occupant: None, met: None };
        if self.is_kept_shut(&facts, step) {
            self.note::<W>(&facts, None, None, false);
            self.refuse(frame, &facts, None, false);
        }
    }

    /// Applies the verb of a meeting.
    fn meet<W: Watch>(&mut self, frame: Frame, facts: &Facts, verb: Verb, clause: Option<Clause>, step: Step) {
        let Some(occupant) = facts.met else { return };
        self.note_used::<W>(clause);
        let Verb::Shove { up_to, otherwise } = verb else {
            if let Verb::Plain(verb) = verb {
                self.plain::<W>(frame, facts, verb, clause);
            }
            return;
        };
        if self.plan.falling {
            let mut frame = frame;
            self.note::<W>(facts, Some(verb), clause, false);
            self.refuse(&mut frame, facts, clause, false);
            self.set_frame(frame);
            return;
        }
        let snapshot = self.snapshot();
        self.note::<W>(facts, Some(verb), clause, true);
        self.decided(frame.body, facts, clause, None);
        let own = up_to.map_or(u32::MAX, |most| self.plan.shoved.saturating_add(most));
        let (most, limit) =
            if own <= frame.most { (own, up_to.unwrap_or(frame.limit)) } else { (frame.most, frame.limit) };
        let fallback = match (otherwise, clause) {
            (Some(verb), Some(clause)) => Some(Fallback { verb, clause, snapshot, occupant }),
            _ => None,
        };
        if self.plan.shoved >= most {
            let mut frame = frame;
            let found = Facts { kind: CheckKind::Limit, ..*facts };
            self.note_limit::<W>(&found, limit);
            match fallback {
                Some(fallback) => {
                    self.abandon(&fallback);
                    self.plain::<W>(frame, facts, fallback.verb, clause);
                }
                None => {
                    self.refuse(&mut frame, &found, None, false);
                    self.set_frame(frame);
                }
            }
            return;
        }
        self.plan.shoved += 1;
        if let Some(from) = self.state.board.cell_of(occupant) {
            self.push_body(occupant, from, step, fallback, (most, limit));
        }
    }

    fn decided(&mut self, body: u32, facts: &Facts, clause: Option<Clause>, verb: Option<PlainVerb>) {
        if let Some(clause) = clause
            && let Some(here) = self.state.board.id(facts.to)
        {
            let (asker, occupant) = (facts.asker, facts.met);
            let decided = Decided { body, clause: clause.number, verb, asker, occupant, here };
            self.plan.decided.push(decided);
        }
    }

    fn plain<W: Watch>(&mut self, mut frame: Frame, facts: &Facts, verb: PlainVerb, clause: Option<Clause>) {
        let Some(occupant) = facts.met else { return };
        let rigid =
            verb == PlainVerb::Swap && (self.plan.falling || self.is_in_body(occupant) || self.is_in_body(facts.asker));
        // Who is carried by the asker cannot carry it.
        let in_a_ring = verb == PlainVerb::Ride && self.is_carried_by(occupant, facts.asker);
        let enters = verb.enters() && !rigid && !in_a_ring;
        self.note::<W>(facts, Some(Verb::Plain(verb)), clause, enters);
        if !enters {
            self.refuse(&mut frame, facts, clause, verb == PlainVerb::Bounce);
            self.set_frame(frame);
            return;
        }
        self.decided(frame.body, facts, clause, Some(verb));
        match verb {
            PlainVerb::Swap => {
                let (from, to) = (frame.target, facts.from);
                let body = self.plan.bodies;
                self.plan.bodies += 1;
                self.plan.leave(occupant);
                // The asker's own members stay together: the exchanged piece stands behind them.
                self.plan.members.push(Member {
                    piece: occupant,
                    from,
                    to,
                    body,
                    gone: false,
                    swapped: true,
                    adrift: false,
                });
            }
            // Who is carried meets nothing below what carries it.
            PlainVerb::Ride => {
                let layer = self.state.board.layer(self.state.board.kind_of(occupant));
                while frame.places > 0 {
                    let place = self.state.board.nth_seat(frame.target, frame.places - 1);
                    if self
                        .state
                        .board
                        .kind_in(frame.target, place)
                        .is_some_and(|kind| self.state.board.layer(kind) >= layer)
                    {
                        break;
                    }
                    frame.places -= 1;
                }
                self.set_frame(frame);
            }
            PlainVerb::Take => {
                self.plan.leave(occupant);
                self.plan.taken.push(occupant);
            }
            PlainVerb::Perish => self.perish(frame.body),
            PlainVerb::Clash => {
                self.plan.leave(occupant);
                self.plan.taken.push(occupant);
                self.perish(frame.body);
            }
            _ => {}
        }
    }

    fn snapshot(&self) -> Snapshot {
        Snapshot {
            bodies: self.plan.bodies,
            members: self.plan.members.len(),
            taken: self.plan.taken.len(),
            decided: self.plan.decided.len(),
            tails: self.plan.tails.len(),
            shoved: self.plan.shoved,
            checks: self.plan.checks.len(),
            refused: self.plan.reason.is_some(),
        }
    }

    /// A body has asked for all its members; a refusal goes to who shoved it, unless there is an `else`.
    fn pop_body<W: Watch>(&mut self, frame: Frame) {
        self.plan.frames.pop();
        if !frame.refused {
            return;
        }
        match frame.fallback {
            None => {
                if let Some(parent) = self.plan.frames.last_mut() {
                    parent.refused = true;
                }
            }
            Some(fallback) => {
                self.abandon(&fallback);
                let Some(parent) = self.plan.frames.last().copied() else {
                    return;
                };
                let member = self.plan.members[parent.member];
                let facts = Facts {
                    kind: CheckKind::Meets,
                    asker: member.piece,
                    from: member.from,
                    to: self.state.board.cell(parent.target),
                    occupant: Some(self.state.board.kind_of(fallback.occupant)),
                    met: Some(fallback.occupant),
                };
                self.plain::<W>(parent, &facts, fallback.verb, Some(fallback.clause));
            }
        }
    }

    /// Takes a branch of the plan back.
    fn abandon(&mut self, fallback: &Fallback) {
        let snapshot = fallback.snapshot;
        while self.plan.members.len() > snapshot.members {
            if let Some(member) = self.plan.members.pop() {
                self.plan.stay(member.piece);
            }
        }
        while self.plan.taken.len() > snapshot.taken {
            if let Some(piece) = self.plan.taken.pop() {
                self.plan.stay(piece);
            }
        }
        while self.plan.tails.len() > snapshot.tails {
            if let Some(end) = self.plan.tails.pop() {
                self.plan.stay(end.piece);
            }
        }
        self.plan.decided.truncate(snapshot.decided);
        self.plan.bodies = snapshot.bodies;
        self.plan.shoved = snapshot.shoved;
        for check in &mut self.plan.checks[snapshot.checks..] {
            check.abandoned = true;
        }
        if !snapshot.refused {
            self.plan.reason = None;
        }
    }
}
