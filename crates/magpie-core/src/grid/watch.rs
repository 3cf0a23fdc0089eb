//! Who follows what happens, and keeps it.

use super::ledger::{Asked, Request};
use super::report::{ActionReport, Answer, Fired, Settled};

/// Who follows what happens; the grid does no work for what nobody wants to know.
pub trait Watch {
    /// Whether requests and checks are to be told.
    const LEDGER: bool;
    /// A rule acts.
    fn fired(&mut self, rule: Fired);
    /// A request has been answered.
    fn request(&mut self, request: Request);
    /// Whether a further step of a fall is worth telling.
    fn wants_falls(&self) -> bool;
    /// An action has been done.
    fn action(&mut self, action: ActionReport);
    /// Something is told to the outside.
    fn signal(&mut self, text: &str);
    /// Something asked for came to nothing, in words.
    fn note(&mut self, text: &str);
    /// A `when` rule has changed something.
    fn settled(&mut self, settled: Settled);
    /// The turn was taken back because it never settled; these rules keep firing.
    fn never_settled(&mut self, rules: &[usize]);
}

/// Nobody watches.
#[derive(Debug)]
pub struct Nobody;

impl Watch for Nobody {
    const LEDGER: bool = false;
    fn fired(&mut self, _: Fired) {}
    fn request(&mut self, _: Request) {}
    fn wants_falls(&self) -> bool {
        false
    }
    fn action(&mut self, _: ActionReport) {}
    fn signal(&mut self, _: &str) {}
    fn note(&mut self, _: &str) {}
    fn settled(&mut self, _: Settled) {}
    fn never_settled(&mut self, _: &[usize]) {}
}

/// Rules told in one turn; what comes after them is not kept.
const MOST_SETTLED: usize = 400;
/// Requests of falls told in one turn.
const MOST_REQUESTS: usize = 10_000;

/// Keeps everything of the present turn.
#[derive(Debug, Default)]
pub struct Recorder {
    /// The turn so far.
    pub answer: Answer,
}

impl Watch for Recorder {
    const LEDGER: bool = true;

    fn fired(&mut self, rule: Fired) {
        if !self.answer.fired.contains(&rule) {
            self.answer.fired.push(rule);
        }
    }

    fn request(&mut self, request: Request) {
        let clauses: Vec<_> =
            request.checks.iter().filter(|check| !check.abandoned).filter_map(|check| check.clause).collect();
        clauses.into_iter().for_each(|clause| self.fired(Fired::Meeting(clause)));
        // Where everything falls, only those that moved are told, and not without end.
        if request.by == Asked::Falling && (!request.granted || !self.wants_falls()) {
            return;
        }
        self.answer.requests.push(request);
    }

    fn wants_falls(&self) -> bool {
        self.answer.requests.len() < MOST_REQUESTS
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

    fn settled(&mut self, settled: Settled) {
        if self.answer.settled.len() < MOST_SETTLED {
            self.answer.settled.push(settled);
        }
    }

    fn never_settled(&mut self, rules: &[usize]) {
        self.answer.feeding = rules.to_vec();
        self.answer.signals.clear();
    }
}
