//! What an input would come to, told before it is played: for searches, in which most inputs are refused or lead to a state
//! that is known. A short way beside [`Grid::input`], which must answer the same.

use super::packing::{Base, Scratch};
use super::plan::{Plan, Step};
use super::report::Fired;
use super::state::Grid;
use super::watch::Watch;
use crate::board::PieceId;
use crate::input::Input;
use crate::rulebook::{Action, HeadingWord, KindId, Pieces, SetId, Trigger};

/// An input whose whole turn is one request of one piece, as far as the rules say, in every state that is not
/// [to end](Grid::is_to_end) anyway.
pub(crate) struct Foresight {
    rule: usize,
    who: SetId,
    step: Step,
    /// The kinds of whose places an outcome or a promise asks.
    judged: Vec<bool>,
}

/// What an input would come to.
pub(crate) enum Foreseen {
    /// Everything stays as it is.
    Nothing,
    /// Pieces move, and nothing else happens before the turn is judged.
    Moves(PieceId),
    /// Pieces move, and the turn is judged as the one before was: it ends nothing, and keeps all promises that were kept.
    OnlyMoves,
    /// More may be at stake: it has to be played.
    Unclear,
}

impl Grid {
    /// The foresight of an input, where there can be one.
    pub(crate) fn foresight(&self, base: &Base, input: &Input) -> Option<Foresight> {
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
        Some(Foresight { rule, who: *who, step: Step::along(*heading, book.geometry.south()), judged: book.judged() })
    }

    /// Whether any turn would end the game as it stands, be everything refused: so may a map that has just been entered.
    pub(crate) fn is_to_end(&self) -> bool {
        self.book.outcomes.iter().any(|clause| self.holds(&clause.cond))
    }

    /// Works out what an input would come to in the state that was gone to by its key. Where pieces move, that state is
    /// packed, and the plan waits for [`Grid::come_true`].
    pub(crate) fn foresee<W: Watch>(
        &mut self,
        foresight: &Foresight,
        (base, own): (&Base, &[u8]),
        scratch: &mut Scratch,
        into: &mut Vec<u8>,
        watch: &mut W,
    ) -> Foreseen {
        let small = &self.state.small;
        if small.blocked || small.chosen.is_some() || small.outcome.is_some() {
            return Foreseen::Unclear;
        }
        let only = |set: SetId| self.state.board.only_piece(self.book.set(set));
        let Some(piece) = scratch.only_piece(foresight.who, only) else { return Foreseen::Unclear };
        let granted = self.plan_request::<W>(piece, foresight.step);
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
        let mut is_judged_anew = false;
        scratch.touch_none();
        for member in members {
            scratch.touch(base, base.slot(member.from, board.layer(board.kind_of(member.piece))), 0);
        }
        for member in members {
            let kind = board.kind_of(member.piece);
            let turned = foresight.step.heading.filter(|_| member.body == 0);
            let now = base.layout.symbol(Some((kind, turned.or(board.heading_of(member.piece)))));
            scratch.touch(base, base.slot(member.to, board.layer(kind)), now);
            is_judged_anew |= foresight.judged[usize::from(kind.0)];
        }
        scratch.pack_touched(base, own, into);
        if is_judged_anew { Foreseen::Moves(piece) } else { Foreseen::OnlyMoves }
    }

    /// The kinds of the pieces that come into other cells by what was foreseen.
    pub(crate) fn foreseen_kinds(&self, mut each: impl FnMut(KindId)) {
        for member in self.plan.members.iter().filter(|member| member.from != member.to) {
            each(self.state.board.kind_of(member.piece));
        }
    }

    /// Plays what was foreseen; whether the state is the one that was packed, and not one in which the game has ended or
    /// from which it went on at once.
    pub(crate) fn come_true<W: Watch>(&mut self, foresight: &Foresight, piece: PieceId, watch: &mut W) -> bool {
        self.remember();
        self.turn_of(None, false, watch, |grid, watch| {
            grid.turn.granted = true;
            let Some(from) = grid.state.board.cell_of(piece) else { return Ok(()) };
            grid.carry_out(piece, from, foresight.step, watch)
        });
        self.state.small.outcome.is_none() && self.turn.left.is_none()
    }
}
