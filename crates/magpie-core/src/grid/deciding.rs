//! What decides within a plan: the clause of a meeting, the room, and what the ledger is told (docs/model.md, section 3).

use super::context::View;
use super::ledger::{Check, CheckKind};
use super::plan::{Facts, Step};
use super::state::Grid;
use super::tables::Clause;
use super::watch::Watch;
use crate::board::{CellId, PieceId};
use crate::rulebook::{KindId, PlainVerb, Verb};

impl Grid {
    /// Two pieces of the plan on one layer of a cell, or one where a staying piece of its layer stands.
    pub(super) fn check_room<W: Watch>(&mut self) {
        if self.switches.lets_share() {
            return;
        }
        let mut slots = std::mem::take(&mut self.plan.slots);
        slots.clear();
        for (at, member) in self.plan.members.iter().enumerate().filter(|(_, member)| !member.gone && !member.adrift) {
            if self.state.board.is_loose(member.piece) {
                continue;
            }
            slots.push((self.state.board.layer(self.state.board.kind_of(member.piece)), member.to, at));
        }
        if slots.len() > 1 {
            slots.sort_unstable();
        }
        let mut clash = None;
        for (at, (layer, cell, member)) in slots.iter().enumerate() {
            let twin = slots.get(at + 1).filter(|next| next.0 == *layer && next.1 == *cell);
            if let Some(twin) = twin {
                clash = Some((*member.max(&twin.2), Some(self.plan.members[*member.min(&twin.2)].piece)));
                break;
            }
            let stays = self.state.board.known_piece_at(*cell, *layer).filter(|piece| !self.plan.is_leaving(*piece));
            let bare = stays.is_none() && self.state.board.known_piece_at(*cell, *layer).is_none();
            if stays.is_some() || (bare && self.state.board.kind_at(*cell, *layer).is_some()) {
                clash = Some((*member, stays));
                break;
            }
        }
        self.plan.slots = slots;
        let Some((member, met)) = clash else { return };
        let member = self.plan.members[member];
        let facts = Facts {
            kind: CheckKind::Room,
            asker: member.piece,
            from: member.from,
            to: self.state.board.cell(member.to),
            occupant: met.map(|piece| self.state.board.kind_of(piece)),
            met,
        };
        self.note::<W>(&facts, None, None, false);
        self.give_reason(&facts, None, false);
    }

    pub(super) fn note<W: Watch>(&mut self, facts: &Facts, verb: Option<Verb>, clause: Option<Clause>, holds: bool) {
        if W::LEDGER {
            let check = Check {
                kind: facts.kind,
                holds,
                abandoned: false,
                shoved: self.plan.members.first().is_some_and(|asker| asker.piece != facts.asker),
                asker: self.state.board.kind_of(facts.asker),
                from: self.state.board.cell(facts.from),
                to: facts.to,
                occupant: facts.occupant,
                verb,
                clause: clause.map(|clause| clause.number),
                limit: 0,
                seen: None,
            };
            self.plan.checks.push(check);
        }
    }

    /// Notes a clause that decides.
    #[inline]
    pub(super) fn note_used<W: Watch>(&mut self, clause: Option<Clause>) {
        if W::USES
            && let Some(clause) = clause
        {
            self.plan.used.push(clause.number);
        }
    }

    pub(super) fn note_limit<W: Watch>(&mut self, facts: &Facts, limit: u32) {
        self.note::<W>(facts, None, None, false);
        if W::LEDGER
            && let Some(check) = self.plan.checks.last_mut()
        {
            check.limit = limit;
        }
    }

    /// Notes the clauses about a meeting that come before the one that decides, and are passed over because of their `if`.
    pub(super) fn note_passed_over(
        &mut self,
        facts: &Facts,
        met: Result<KindId, u32>,
        decides: Option<Clause>,
        view: &View,
    ) {
        let kind = self.state.board.kind_of(facts.asker);
        let tables = self.tables.clone();
        for clause in &tables.clauses[usize::from(kind.0)] {
            if decides.is_some_and(|decides| decides.number == clause.number) {
                break;
            }
            let about = match met {
                Ok(occupant) => {
                    let board = &self.state.board;
                    let same = board.layer(kind) == board.layer(occupant);
                    clause.meets(&self.book, occupant) && clause.layers.is_none_or(|wanted| wanted == same)
                }
                Err(border) => clause.met == border,
            };
            if let Some(guard) = self.book.meeting(clause.number).guard.as_ref().filter(|_| about) {
                let seen = self.seen(guard, view).into();
                self.note::<super::watch::Recorder>(
                    &Facts { kind: CheckKind::If, ..*facts },
                    None,
                    Some(*clause),
                    false,
                );
                if let Some(check) = self.plan.checks.last_mut() {
                    check.seen = Some(seen);
                }
            }
        }
    }

    /// The first clause that fits a meeting with the edge or void.
    pub(super) fn decide_border(&self, border: u32, facts: &Facts, step: Step) -> (PlainVerb, Option<Clause>) {
        let kind = self.state.board.kind_of(facts.asker);
        for clause in &self.tables.clauses[usize::from(kind.0)] {
            let view = View::of(Some(facts.from), step.seen);
            if clause.met == border && self.guard_holds(clause, &view) {
                let verb = if let Verb::Plain(verb) = clause.verb { verb } else { PlainVerb::Stop };
                return (verb, Some(*clause));
            }
        }
        (PlainVerb::Stop, None)
    }

    pub(super) fn decide(
        &mut self,
        asker: PieceId,
        occupant: PieceId,
        cell: CellId,
        step: Step,
    ) -> (Verb, Option<Clause>) {
        self.decide_kind(asker, self.state.board.kind_of(occupant), cell, step)
    }

    /// The first clause that fits a meeting with a piece, or the default.
    #[inline]
    pub(super) fn decide_kind(
        &self,
        asker: PieceId,
        occupant: KindId,
        here: CellId,
        step: Step,
    ) -> (Verb, Option<Clause>) {
        self.decide_in(asker, occupant, View::of(Some(here), step.seen))
    }

    #[inline]
    pub(super) fn decide_in(&self, asker: PieceId, occupant: KindId, view: View) -> (Verb, Option<Clause>) {
        let board = &self.state.board;
        let kind = board.kind_of(asker);
        let same = board.layer(kind) == board.layer(occupant);
        for clause in &self.tables.clauses[usize::from(kind.0)] {
            if clause.meets(&self.book, occupant)
                && clause.layers.is_none_or(|wanted| wanted == same)
                && self.guard_holds(clause, &view)
            {
                return (clause.verb, Some(*clause));
            }
        }
        (Verb::Plain(if same { PlainVerb::Stop } else { PlainVerb::Pass }), None)
    }

    #[inline]
    fn guard_holds(&self, clause: &Clause, view: &View) -> bool {
        if !clause.guarded {
            return true;
        }
        let Some(cond) = &self.book.meeting(clause.number).guard else {
            return true;
        };
        self.cond_holds(cond, view)
    }
}
