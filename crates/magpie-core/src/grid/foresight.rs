//! What an input would come to, told before it is played: for searches, in which most inputs are refused or lead to a state
//! that is known. A short way beside [`Grid::input`], which must answer the same.

use super::at_hand::Scratch;
use super::base::Base;
use super::lessons::{Foreseen, Lessons};
use super::plan::{Plan, Step};
use super::report::Fired;
use super::state::Grid;
use super::watch::Watch;
use crate::input::Input;
use crate::rulebook::{Action, HeadingWord, KindId, Pieces, SetId, Trigger};

/// An input whose whole turn is one request of one piece, as far as the rules say, in every state that is not
/// [to end](Grid::is_to_end) anyway.
pub(crate) struct Foresight {
    rule: usize,
    who: SetId,
    step: Step,
    /// The slot of who is asked to move in the state in which a search begins, where there is one.
    home: Option<u32>,
    /// What it came to before; `None` where that hangs on more than on what stands in the cells that are looked at.
    lessons: Option<Lessons>,
}

impl Grid {
    /// The foresight of an input, where there can be one; what it learns may take so many bytes.
    pub(crate) fn foresight(&self, base: &Base, input: &Input, most: usize) -> Option<Foresight> {
        let (book, tables) = (&self.book, &self.tables);
        let Input::Key(key) = book.input_of(input) else { return None };
        let is_told = base.reads.moves || base.reads.turns;
        let goes_on = tables.offs || tables.slides || tables.warps || tables.moves_between || tables.no_reverse;
        if is_told || goes_on || !tables.plain || !self.switches.is_right() {
            return None;
        }
        if !book.whens.is_empty() || !tables.each_turn.is_empty() {
            return None;
        }
        let mut about = (0..book.inputs.len()).filter(|at| book.inputs[*at].trigger == Trigger::Key(key.clone()));
        let (Some(rule), None) = (about.next(), about.next()) else { return None };
        let ([list], None) = (book.inputs[rule].actions.as_slice(), &book.inputs[rule].guard) else { return None };
        let [Action::Step { pieces: Pieces::Every(who, None), heading: HeadingWord::Compass(heading), times: 1 }] =
            list.as_slice()
        else {
            return None;
        };
        Some(Foresight {
            rule,
            who: *who,
            step: Step::along(*heading, book.geometry.south()),
            home: base.alone(book.set(*who)),
            lessons: (!tables.guards).then(|| Lessons::of_bytes(most)),
        })
    }

    /// Whether any turn would end the game as it stands, be everything refused: so may a map that has just been entered.
    pub(crate) fn is_to_end(&self) -> bool {
        self.book.outcomes.iter().any(|clause| self.holds(&clause.cond))
    }

    /// Tells what an input would come to in the state at hand where it came to the same before; what moves is touched then.
    pub(crate) fn recall(&self, foresight: &Foresight, base: &Base, at_hand: &mut Scratch) -> Option<Foreseen> {
        let lessons = foresight.lessons.as_ref().filter(|_| at_hand.is_clear())?;
        lessons.recall(base, self.asker(foresight, base, at_hand)?, at_hand)
    }

    /// The slot of who is asked to move in the state at hand, where one alone is.
    fn asker(&self, foresight: &Foresight, base: &Base, at_hand: &mut Scratch) -> Option<u32> {
        at_hand.alone(base, (foresight.who, self.book.set(foresight.who)), foresight.home?)
    }

    /// Works out what an input would come to in the state at hand, in which the game stands. What moves is touched.
    pub(crate) fn foresee<W: Watch>(
        &mut self,
        foresight: &mut Foresight,
        base: &Base,
        at_hand: &mut Scratch,
        watch: &mut W,
    ) -> Foreseen {
        if !at_hand.is_clear() {
            return Foreseen::Unclear;
        }
        let Some(piece) = self.state.board.only_piece(self.book.set(foresight.who)) else { return Foreseen::Unclear };
        let granted = self.plan_request::<W>(piece, foresight.step);
        at_hand.touch_none();
        let came = self.foreseen(foresight, granted, base, at_hand, watch);
        at_hand.sort_touched();
        let asker = self.asker(foresight, base, at_hand);
        if let (Some(lessons), Some(asker)) = (&mut foresight.lessons, asker) {
            let looked = &mut self.plan.looked;
            // Their order tells soonest that something else stands there: where the way goes first, and the upper layers.
            looked.extend(self.state.board.cell_of(piece));
            looked.dedup();
            lessons.learn(base, asker, (looked, at_hand), came);
        }
        came
    }

    /// What the plan of a request comes to.
    fn foreseen<W: Watch>(
        &self,
        foresight: &Foresight,
        granted: bool,
        base: &Base,
        at_hand: &mut Scratch,
        watch: &mut W,
    ) -> Foreseen {
        let Plan { members, taken, decided, reason, used, .. } = &self.plan;
        let refusing = reason.as_ref().and_then(|reason| reason.clause);
        let has_effects = |clause| !self.book.meeting(clause).effects.is_empty();
        if !taken.is_empty()
            || reason.as_ref().is_some_and(|reason| reason.bounce)
            || members.iter().any(|member| member.gone || member.swapped || member.adrift)
            || decided.iter().any(|decided| has_effects(decided.clause))
            || refusing.is_some_and(has_effects)
        {
            return Foreseen::Unclear;
        }
        watch.used(Fired::Input(foresight.rule));
        used.iter().for_each(|clause| watch.used(Fired::Meeting(*clause)));
        refusing.into_iter().for_each(|clause| watch.used(Fired::Meeting(clause)));
        if !granted {
            return Foreseen::Nothing;
        }
        let board = &self.state.board;
        let mut came = Foreseen::OnlyMoves;
        for member in members {
            at_hand.touch(base, base.slot(member.from, board.layer(board.kind_of(member.piece))), 0);
        }
        for member in members {
            let kind = board.kind_of(member.piece);
            let turned = foresight.step.heading.filter(|_| member.body == 0);
            let now = base.layout.symbol(Some((kind, turned.or(board.heading_of(member.piece)))));
            at_hand.touch(base, base.slot(member.to, board.layer(kind)), now);
            if base.is_judged(kind) {
                came = Foreseen::Moves;
            }
        }
        came
    }

    /// The kinds of the pieces that come into other cells by what was worked out last.
    pub(crate) fn foreseen_kinds(&self, mut each: impl FnMut(KindId)) {
        for member in self.plan.members.iter().filter(|member| member.from != member.to) {
            each(self.state.board.kind_of(member.piece));
        }
    }

    /// Plays an input of which it was foreseen that pieces move; whether the state is the one that was foreseen, and not one in
    /// which the game has ended or from which it went on at once.
    pub(crate) fn come_true<W: Watch>(&mut self, foresight: &Foresight, watch: &mut W) -> bool {
        let piece = self.state.board.only_piece(self.book.set(foresight.who));
        self.remember();
        self.turn_of(None, false, watch, |grid, watch| {
            grid.turn.granted = true;
            let at = |piece| Some((piece, grid.state.board.cell_of(piece)?));
            let Some((piece, from)) = piece.and_then(at) else { return Ok(()) };
            grid.plan_request::<W>(piece, foresight.step);
            grid.carry_out(piece, from, foresight.step, watch)
        });
        self.state.small.outcome.is_none() && self.turn.left.is_none()
    }
}

impl Foresight {
    /// Bytes of what was learned.
    pub(crate) fn bytes(&self) -> usize {
        self.lessons.as_ref().map_or(0, |lessons| lessons.bytes)
    }
}
