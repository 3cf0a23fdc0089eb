//! What a search of every state knows, in front of the player.

use super::Desk;
use magpie_core::input::Input;
use magpie_core::proof::{Move, Proof, ToWin};
use magpie_core::tape::Session;

/// A search that has ended, and what it says about the game as it stands.
pub struct Proven {
    /// The search.
    pub proof: Proof,
    /// The inputs that had been played when it began.
    pub before: Vec<Input>,
    /// Inputs that change the present state, with how far a win lies behind each; empty where the state is not known.
    pub moves: Vec<Move>,
    /// How far the game lies from a win, where that is known.
    pub to_win: Option<ToWin>,
    /// The first input of the tape after which no win can be reached any more.
    pub spoilt: Option<usize>,
    /// The tape for which that was worked out: how often it was cut, and how long it was.
    looked_at: Option<(u64, usize)>,
}

impl Proven {
    /// A search that began behind some inputs.
    pub const fn new(proof: Proof, before: Vec<Input>) -> Self {
        Self { proof, before, moves: Vec::new(), to_win: None, spoilt: None, looked_at: None }
    }

    /// Looks at the game as it stands.
    fn follow(&mut self, session: &Session) {
        /// More inputs than these would be too many to be told.
        const MOST_INPUTS: usize = 64;
        self.to_win = self.proof.to_win(session.grid());
        self.moves.clear();
        if self.proof.inputs().len() <= MOST_INPUTS {
            self.moves = self.proof.moves(session.grid());
        }
        let tape = (session.cuts(), session.entries().len());
        if self.looked_at != Some(tape) {
            self.looked_at = Some(tape);
            self.spoilt = self.first_spoilt(session);
        }
    }

    /// Plays the tape once more for it.
    fn first_spoilt(&mut self, session: &Session) -> Option<usize> {
        /// Longer tapes would make every key wait.
        const MOST_ENTRIES: usize = 2_000;
        if session.entries().len() > MOST_ENTRIES || self.proof.report().no_way_back.as_ref()?.states == 0 {
            return None;
        }
        let mut again = Session::new(session.start().clone()).ok()?;
        session.entries().iter().position(|entry| {
            again.give(&entry.input);
            self.proof.to_win(again.grid()) == Some(ToWin::Never)
        })
    }
}

impl Desk {
    /// Keeps what a search has found.
    pub fn take_proof(&mut self, proven: Proven) {
        self.proven = Some(proven);
        self.follow_proof();
    }

    /// What is known about the game as it stands now.
    pub(super) fn follow_proof(&mut self) {
        if let (Some(proven), Some(session)) = (&mut self.proven, &self.game.session) {
            proven.follow(session);
        }
    }

    /// Says with which input a shortest way to a win goes on.
    pub fn hint(&mut self) {
        let Some(proven) = &self.proven else {
            self.say("nothing is proved yet: the Proof bench searches");
            return;
        };
        let next = proven.moves.iter().find(|found| Some(found.to_win) == proven.to_win.and_then(ToWin::next));
        let word = match (proven.to_win, next) {
            (Some(ToWin::In(0)), _) => "this is a win".into(),
            (Some(ToWin::In(left)), Some(next)) => {
                let inputs = crate::words::counted(left as usize, "input");
                format!("a shortest way goes on with `{}`: {inputs} to a win", next.input)
            }
            (Some(ToWin::Never), _) => "no win can be reached from here any more: u takes back".into(),
            (Some(ToWin::In(_)) | None, _) => "what was proved knows nothing about this moment".into(),
        };
        self.say(word);
    }

    /// Puts inputs on the tape behind those of the moment where a search began, and stands at the end or before them; the
    /// tape of before is kept as a branch. Whether there was a rest of it to be kept.
    pub fn lay_tape(&mut self, inputs: &[Input], to_end: bool) -> bool {
        let (Some(proven), Some(session)) = (&self.proven, &mut self.game.session) else { return false };
        let begun = proven.before.len();
        let played = session.entries().iter().map(|entry| &entry.input).take(begun);
        if !played.eq(proven.before.iter()) {
            self.say("the tape before this search is another now: search again");
            return false;
        }
        let branches = session.branches().len();
        self.time.stop_motion();
        session.go(begun);
        for input in inputs {
            session.give(input);
        }
        if !to_end {
            session.go(begun);
        }
        let is_cut = session.branches().len() > branches;
        self.game_changed();
        is_cut
    }
}
