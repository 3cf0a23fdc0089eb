//! What a turn did, kept for people and programs.

use super::ledger::{Request, Watch};
use super::state::Ended;

/// An action that was asked for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ActionReport {
    /// `spawn`, `swap`, `flood` ...
    pub action: &'static str,
    /// Whether it was done.
    pub granted: bool,
    /// Why not.
    pub reason: Option<String>,
    /// For a flood the number of cells.
    pub size: Option<u32>,
}

/// One turn: what was asked and what came of it.
#[derive(Clone, Debug, Default)]
pub struct Answer {
    /// The counter `turns` after this turn, `None` for one that never settled.
    pub turn: Option<u64>,
    /// The input in words.
    pub input: String,
    /// Requests in the order made.
    pub requests: Vec<Request>,
    /// Actions other than requests.
    pub actions: Vec<ActionReport>,
    /// What was told to the outside.
    pub signals: Vec<String>,
    /// What came to nothing, such as a `place` where the layer is taken.
    pub notes: Vec<String>,
    /// Numbers of the rules that keep firing, for a turn that never settled.
    pub feeding: Vec<usize>,
    /// The outcome after the turn.
    pub outcome: Option<Ended>,
    /// The first invariant that does not hold after the turn, by its number.
    pub broken: Option<usize>,
    /// The board and the rulebook's counters after a turn in the middle of a wait, where the board is not large.
    pub after: Option<(Vec<String>, Vec<i64>)>,
}

/// Keeps everything of the present turn.
#[derive(Debug, Default)]
pub struct Recorder {
    /// The turn so far.
    pub answer: Answer,
}

impl Watch for Recorder {
    const LEDGER: bool = true;

    fn request(&mut self, request: Request) {
        self.answer.requests.push(request);
    }

    fn action(&mut self, action: ActionReport) {
        self.answer.actions.push(action);
    }

    fn signal(&mut self, text: &str) {
        self.answer.signals.push(text.into());
    }

    fn note(&mut self, text: &str) {
        self.answer.notes.push(text.into());
    }

    fn never_settled(&mut self, rules: &[usize]) {
        self.answer.feeding = rules.to_vec();
        self.answer.signals.clear();
    }
}
