//! Who follows what happens, and keeps it.

use super::ledger::{Asked, Request};
use super::report::{ActionReport, Answer, Fired, Settled};
use crate::limits::{MOST_FACTS, MOST_SETTLED, MOST_TOLD};
use hashbrown::HashSet;

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
    /// Whether the cells and the board of a further settling are worth keeping.
    fn wants_boards(&self) -> bool;
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
    fn wants_boards(&self) -> bool {
        false
    }
    fn action(&mut self, _: ActionReport) {}
    fn signal(&mut self, _: &str) {}
    fn note(&mut self, _: &str) {}
    fn settled(&mut self, _: Settled) {}
    fn never_settled(&mut self, _: &[usize]) {}
}

/// Keeps everything of the present turn, up to the limits of one report; what is left out is counted.
#[derive(Debug, Default)]
pub struct Recorder {
    /// The turn so far.
    pub answer: Answer,
    /// Checks, shoved pieces, cells and changes in it.
    facts: usize,
    /// What signals have told, once there are many.
    texts: HashSet<String>,
}

/// Adds to a list of a report; beyond its limit the last one gives way, so that the newest is always told.
fn tell<T>(list: &mut Vec<T>, fits: bool, untold: &mut usize, told: T) {
    if !fits && list.pop().is_some() {
        *untold += 1;
    }
    list.push(told);
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
        self.facts += request.checks.len() + request.shoved.len();
        let fits = self.wants_falls();
        tell(&mut self.answer.requests, fits, &mut self.answer.untold, request);
    }

    fn wants_falls(&self) -> bool {
        self.answer.requests.len() < MOST_TOLD && self.facts < MOST_FACTS
    }

    fn wants_boards(&self) -> bool {
        self.facts < MOST_FACTS && self.answer.settled.len() < MOST_SETTLED
    }

    fn action(&mut self, action: ActionReport) {
        self.facts += action.rings.as_ref().map_or(0, |rings| rings.cells.len());
        let fits = self.answer.actions.len() < MOST_TOLD;
        tell(&mut self.answer.actions, fits, &mut self.answer.untold, action);
    }

    fn signal(&mut self, text: &str) {
        // Beyond the limit each text is still told once: a scenario may ask for it.
        if self.answer.signals.len() == MOST_TOLD {
            self.texts.extend(self.answer.signals.iter().cloned());
        }
        if self.answer.signals.len() < MOST_TOLD || self.texts.insert(text.into()) {
            self.answer.signals.push(text.into());
        } else {
            self.answer.untold += 1;
        }
    }

    fn note(&mut self, text: &str) {
        let fits = self.answer.notes.len() < MOST_TOLD;
        tell(&mut self.answer.notes, fits, &mut self.answer.untold, text.into());
    }

    fn settled(&mut self, settled: Settled) {
        if self.answer.settled.len() < MOST_SETTLED {
            let cells = settled.board.iter().map(String::len).sum::<usize>() + settled.changes.len();
            self.facts += cells + settled.matches.iter().map(|cells| 2 + cells.len()).sum::<usize>();
            self.answer.settled.push(settled);
        } else {
            self.answer.untold += 1;
        }
    }

    fn never_settled(&mut self, rules: &[usize]) {
        self.answer.feeding = rules.to_vec();
        self.answer.signals.clear();
    }
}
