//! One input on a tape, and what came of it.

use crate::grid::{Answer, Ended, Grid, Settled};
use crate::input::Input;
use crate::limits::{MOST_CELLS_KEPT, MOST_TURNS_KEPT};

/// The turns in an input.
#[derive(Clone, Debug, Default)]
pub struct Report {
    /// Their reports: the first of a long wait, and the newest.
    pub answers: Vec<Answer>,
}

impl Report {
    /// Adds a turn that was just played.
    pub fn tell(&mut self, grid: &Grid, mut answer: Answer) {
        if answer.input.starts_with("each ") || answer.input == "glide" {
            let small = self.answers.len() < MOST_TURNS_KEPT && grid.board().cells() <= MOST_CELLS_KEPT;
            answer.after = small.then(|| (grid.picture(), grid.counters().map(|(_, value)| value).collect()));
        }
        if self.answers.len() >= MOST_TURNS_KEPT {
            self.answers.pop();
        }
        self.answers.push(answer);
    }
}

/// What an input has led to by now.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Began {
    Nothing,
    Action,
    Request,
}

/// One input on a tape, and what came of it.
#[derive(Clone, Debug)]
pub struct Entry {
    /// The clock when it was given, in ms.
    pub at: u64,
    /// The input.
    pub input: Input,
    /// The turns in it: of a long wait the first ones and the newest, and nothing where [`Self::is_forgotten`].
    pub answers: Vec<Answer>,
    /// What entering a map did, where the input itself enters one.
    pub entered: Option<Box<Answer>>,
    /// What was told to the outside, also on entering a map.
    pub signals: Vec<String>,
    /// How many turns there were in it.
    pub turns: u64,
    /// Its first request was refused, or its first action where nobody asked.
    pub is_refused: bool,
    /// What has come first in it.
    began: Began,
    /// Its report is no longer kept; [`super::Session::report`] works it out again.
    pub is_forgotten: bool,
    /// Wins and losses after its turns, each once.
    pub(super) outcomes: Vec<Ended>,
    /// The first invariant that did not hold after one of its turns, by its number.
    pub broken: Option<usize>,
    /// Turns that never settled.
    pub unsettled: u64,
}

impl Entry {
    pub(super) const fn new(at: u64, input: Input) -> Self {
        Self {
            at,
            input,
            answers: Vec::new(),
            entered: None,
            signals: Vec::new(),
            turns: 0,
            is_refused: false,
            began: Began::Nothing,
            is_forgotten: false,
            outcomes: Vec::new(),
            broken: None,
            unsettled: 0,
        }
    }

    /// Adds a turn that was just played.
    pub(super) fn tell(&mut self, grid: &Grid, answer: Answer) {
        self.turns += 1;
        self.signals.extend(answer.signals.iter().cloned());
        // The first request decides, and as long as there is none the first action.
        if let Some(request) = answer.requests.first().filter(|_| self.began != Began::Request) {
            (self.is_refused, self.began) = (!request.granted, Began::Request);
        } else if let Some(action) = answer.actions.first().filter(|_| self.began == Began::Nothing) {
            (self.is_refused, self.began) = (!action.granted, Began::Action);
        } else if let Some(deed) = answer.rules.iter().find_map(|acted| acted.did.first())
            && self.began == Began::Nothing
        {
            // A step that was asked of nobody.
            self.is_refused = deed.is_refused;
        }
        self.broken = self.broken.or(answer.broken);
        match answer.outcome {
            Some(Ended::NeverSettles) => self.unsettled += 1,
            Some(outcome) if !self.outcomes.contains(&outcome) => self.outcomes.push(outcome),
            Some(_) | None => {}
        }
        let mut report = Report { answers: std::mem::take(&mut self.answers) };
        report.tell(grid, answer);
        self.answers = report.answers;
    }

    /// Adds what entering a map did.
    pub(super) fn enter(&mut self, mut entered: Answer) {
        self.signals.extend(entered.signals.iter().cloned());
        entered.settled.iter_mut().for_each(Settled::shed);
        self.entered = Some(Box::new(entered));
    }

    /// Whether there was a request in it.
    pub fn has_asked(&self) -> bool {
        self.began == Began::Request
    }

    /// How many turns between those that are told are not.
    pub fn untold(&self) -> u64 {
        if self.is_forgotten { 0 } else { self.turns - self.answers.len() as u64 }
    }

    /// Bytes that the reports hold, roughly.
    pub(super) fn bytes(&self) -> usize {
        self.answers.iter().chain(self.entered.as_deref()).map(Answer::bytes).sum()
    }

    /// Drops cells of floods above a size, and of none above 0 the boards of settlings too.
    pub(super) fn shed(&mut self, most: usize) {
        for answer in &mut self.answers {
            for action in &mut answer.actions {
                action.rings = action.rings.take().filter(|rings| rings.cells.len() <= most);
            }
            if most == 0 {
                answer.settled.iter_mut().for_each(Settled::shed);
            }
        }
    }

    /// Drops the report.
    pub(super) fn forget(&mut self) {
        self.entered = None;
        if !self.answers.is_empty() {
            self.answers = Vec::new();
            self.is_forgotten = true;
        }
    }
}
