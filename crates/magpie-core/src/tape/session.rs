//! A game and its tape: play, wind back, play on, and keep what was cut off.

use super::entry::{Entry, Report};
use crate::grid::{Answer, Ended, Grid, LayoutError, Nobody, Recorder, Request, Taken};
use crate::input::Input;
use crate::limits::{
    LONGEST_PAUSE, LONGEST_WAIT, MOST_BRANCHES, MOST_BYTES_REPORTS, MOST_FLOOD_KEPT, MOST_INPUTS, MOST_SIGNALS,
    MOST_TURNS, MOST_WHOLE_REPORTS,
};
use crate::rulebook::{Map, Rulebook};
use crate::space::Extent;
use std::borrow::Cow;
use std::sync::Arc;
use thiserror::Error;

/// A line of a tape that cannot be played at its time.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum WrongTime {
    /// It lies before the clock.
    #[error("the clock goes back from {clock} to {at} before `{input}`")]
    Back {
        /// Where the clock stands, in ms.
        clock: u64,
        /// Where it would have to go.
        at: u64,
        /// The input.
        input: String,
    },
    /// It lies too far behind the input before it.
    #[error(
        "too-long: the clock would go on from {clock} to {at} before `{input}`; at most {LONGEST_PAUSE} ms may lie between two inputs"
    )]
    Far {
        /// Where the clock stands, in ms.
        clock: u64,
        /// Where it would have to go.
        at: u64,
        /// The input.
        input: String,
    },
}

/// The rest of a tape that was cut when play went on from an earlier turn.
#[derive(Clone, Debug)]
pub struct Branch {
    /// How many entries it shares with the tape it was cut from.
    pub from: usize,
    /// All inputs of the old tape, those it shares included.
    pub inputs: Vec<Input>,
}

/// What a game is played on.
#[derive(Clone, Debug)]
pub struct Start {
    /// The rulebook.
    pub book: Arc<Rulebook>,
    /// A board of its own, or the number of a map from 0.
    pub map: Result<Arc<Map>, usize>,
    /// A seed that wins over the rulebook's.
    pub seed: Option<u64>,
    /// Play goes on after a win or a loss, as in a scenario.
    pub endless: bool,
}

impl Start {
    /// A map of a rulebook, from 0, with the rulebook's own seed.
    pub fn map(book: Arc<Rulebook>, map: usize) -> Self {
        Self { book, map: Err(map), seed: None, endless: false }
    }

    /// The size of the board it begins on.
    pub fn extent(&self) -> Extent {
        match &self.map {
            Ok(map) => map.extent,
            Err(map) => self.book.maps.get(*map).map_or(Extent { columns: 0, rows: 0 }, |map| map.extent),
        }
    }

    fn grid(&self, watch: &mut Recorder) -> Result<Grid, LayoutError> {
        let book = self.book.clone();
        match (&self.map, self.endless) {
            (Err(map), false) => Grid::new(book, *map, self.seed, watch),
            (map, _) => Grid::on_own_map(book, map.clone(), self.seed, watch),
        }
    }
}

/// What [`Session::replay`] tells.
#[derive(Clone, Copy, Debug)]
pub enum Played<'a> {
    /// The first map was entered.
    Opening(&'a Answer),
    /// A turn.
    Turn(&'a Answer),
    /// An input entered a map, which is no turn.
    Entered(&'a Input, &'a Answer),
}

/// A game and its tape.
///
/// A long game stays small: reports of older inputs are dropped beyond [`MOST_BYTES_REPORTS`], and worked out again by playing
/// when somebody asks for them.
#[derive(Debug)]
pub struct Session {
    start: Start,
    grid: Grid,
    /// Everything on the tape; the first `position` entries have been played.
    entries: Vec<Entry>,
    position: usize,
    branches: Vec<Branch>,
    /// How often entries were cut off or replaced.
    cuts: u64,
    /// What entering the first map did.
    opening: Answer,
    /// Bytes that the reports of the entries hold, roughly.
    bytes: usize,
    /// The first entry that may hold a report.
    first_told: usize,
    /// An entry before that one that holds its report all the same.
    kept_back: Option<usize>,
    /// Turns and signals of the entries that have been played.
    turns: u64,
    signals: usize,
}

impl Session {
    /// A new game.
    ///
    /// # Errors
    /// A [`LayoutError`] where the map cannot be entered as the rulebook has it.
    ///
    /// # Examples
    /// ```
    /// use magpie_core::{Input, Session, Start, read_text};
    /// use std::sync::Arc;
    ///
    /// let text = "game \"Yard\"\ncell 24 px\nkinds\n  porter P body\nmap \"One\"\n  P__\ncontrol porter with arrows\n";
    /// let book = read_text(text, &|path| Err(format!("no file `{path}`"))).rulebook.unwrap();
    /// let mut game = Session::new(Start::map(Arc::new(book), 0)).unwrap();
    /// for word in ["right", "right", "undo"] {
    ///     game.give(&word.parse::<Input>().unwrap());
    /// }
    /// assert_eq!(game.grid().picture(), ["_P_"]);
    /// ```
    pub fn new(start: Start) -> Result<Self, LayoutError> {
        let mut recorder = Recorder::default();
        let grid = start.grid(&mut recorder)?;
        let opening = grid.entry_told(recorder.answer);
        Ok(Self {
            start,
            grid,
            entries: Vec::new(),
            position: 0,
            branches: Vec::new(),
            cuts: 0,
            opening,
            bytes: 0,
            first_told: 0,
            kept_back: None,
            turns: 0,
            signals: 0,
        })
    }

    /// The same inputs on another rulebook or map, wound to the same place.
    ///
    /// # Errors
    /// As [`Session::new`].
    pub fn again(&self, start: Start) -> Result<Self, LayoutError> {
        let mut session = Self::new(start)?;
        for entry in &self.entries {
            session.append(&entry.input);
        }
        session.go(self.position);
        session.branches.clone_from(&self.branches);
        Ok(session)
    }

    /// Plays an input from a tape: even one that does nothing now keeps its place.
    fn append(&mut self, input: &Input) {
        if let Some(entry) = self.play(input) {
            self.push(entry);
        }
    }

    /// Plays an input where the tape stands.
    fn play(&mut self, input: &Input) -> Option<Entry> {
        if self.limit().is_some() {
            return None;
        }
        let mut entry = Entry::new(self.clock(), input.clone());
        let (taken, entered) = self.grid.answer_each(input, |grid, answer| entry.tell(grid, answer));
        if let Some(entered) = entered {
            entry.enter(entered);
        }
        (taken == Taken::Yes).then_some(entry)
    }

    /// Puts what was just played behind the entries played so far.
    fn push(&mut self, entry: Entry) {
        self.turns += entry.turns;
        self.signals += entry.signals.len();
        self.bytes += entry.bytes();
        if let Some(old) = self.entries.get_mut(self.position) {
            self.bytes -= old.bytes();
            *old = entry;
        } else {
            self.entries.push(entry);
        }
        self.position += 1;
        self.first_told = self.first_told.min(self.position - 1);
        self.shed();
    }

    /// Plays an input where the tape stands now. What lay behind it is cut and kept as a branch. A key that is another name of
    /// an input is kept as that input.
    pub fn give(&mut self, input: &Input) -> Taken {
        let book = self.start.book.clone();
        let input = book.input_of(input);
        if *input == Input::Undo {
            return self.take_back();
        }
        let Some(entry) = self.play(input) else {
            return Taken::No;
        };
        let same = self.entries.get(self.position).is_some_and(|entry| entry.input == *input);
        if self.position < self.entries.len() && !same {
            let inputs = self.entries.iter().map(|entry| entry.input.clone()).collect();
            self.keep_branch(Branch { from: self.position, inputs });
            self.cut();
        }
        self.push(entry);
        Taken::Yes
    }

    /// Cuts off what has not been played.
    fn cut(&mut self) {
        self.cuts += 1;
        let cut = self.entries.drain(self.position..);
        self.bytes -= cut.map(|entry| entry.bytes()).sum::<usize>();
    }

    /// Keeps a tape that was cut off; of very many the oldest go.
    fn keep_branch(&mut self, branch: Branch) {
        self.branches.push(branch);
        let inputs = |branches: &[Branch]| branches.iter().map(|branch| branch.inputs.len()).sum::<usize>();
        while self.branches.len() > MOST_BRANCHES || (self.branches.len() > 1 && inputs(&self.branches) > MOST_INPUTS) {
            self.branches.remove(0);
        }
    }

    /// Plays a line of a tape: before its input the clock moves to its `at` as by a wait. A `restart` sets the clock back.
    ///
    /// # Errors
    /// The clock would go back in time, or too far on.
    pub fn give_at(&mut self, at: Option<u64>, input: &Input) -> Result<Taken, WrongTime> {
        let clock = self.clock();
        let at = at.unwrap_or(clock);
        if at < clock {
            return Err(WrongTime::Back { clock, at, input: input.to_string() });
        }
        if at - clock > LONGEST_PAUSE {
            return Err(WrongTime::Far { clock, at, input: input.to_string() });
        }
        let mut left = at - clock;
        while left > 0 {
            let wait = left.min(LONGEST_WAIT);
            self.give(&Input::Wait(wait));
            left -= wait;
        }
        Ok(self.give(input))
    }

    /// Why no further input is taken, where a limit of the session has been reached.
    pub fn limit(&self) -> Option<String> {
        let reached = |what: &str, most: u64| Some(format!("too-many: a session may have {most} {what}"));
        if self.position >= MOST_INPUTS {
            reached("inputs", MOST_INPUTS as u64)
        } else if self.turns >= MOST_TURNS {
            reached("turns", MOST_TURNS)
        } else if self.signals >= MOST_SIGNALS {
            reached("signals", MOST_SIGNALS as u64)
        } else {
            None
        }
    }

    /// Boards of settlings and cells of floods are kept for the last entries only, and reports of older ones only while
    /// there is room, so that a long game stays small.
    fn shed(&mut self) {
        let kept =
            [(self.position.checked_sub(2), MOST_FLOOD_KEPT), (self.position.checked_sub(MOST_WHOLE_REPORTS + 1), 0)];
        for (at, most) in kept {
            if let Some(entry) = at.and_then(|at| self.entries.get_mut(at)) {
                self.bytes -= entry.bytes();
                entry.shed(most);
                self.bytes += entry.bytes();
            }
        }
        if self.bytes <= MOST_BYTES_REPORTS {
            return;
        }
        // The last request is asked for by people and scenarios: its report stays until there is a newer one.
        let asked = self.played().iter().rposition(Entry::has_asked);
        if let Some(old) = self.kept_back.take_if(|at| Some(*at) != asked) {
            self.forget(old);
        }
        while self.bytes > MOST_BYTES_REPORTS && self.first_told + 1 < self.position {
            if Some(self.first_told) == asked {
                self.kept_back = asked;
            } else {
                self.forget(self.first_told);
            }
            self.first_told += 1;
        }
        // What lies behind the position of a tape that was wound far back.
        let mut last = self.entries.len();
        while self.bytes > MOST_BYTES_REPORTS && last > self.position {
            last -= 1;
            self.forget(last);
        }
    }

    /// Drops the report of an entry.
    fn forget(&mut self, at: usize) {
        if let Some(entry) = self.entries.get_mut(at) {
            self.bytes -= entry.bytes();
            entry.forget();
        }
    }

    /// Takes the last played entry off the tape.
    fn take_back(&mut self) -> Taken {
        if self.position == 0 {
            return Taken::No;
        }
        self.go(self.position - 1);
        self.cut();
        Taken::Yes
    }

    /// Winds the tape so that its first `position` entries have been played.
    pub fn go(&mut self, position: usize) {
        let position = position.min(self.entries.len());
        if self.position > position + self.grid.depth() {
            // Older than what can be taken back: played again from the beginning.
            if let Some(grid) = self.grid_after(position) {
                (self.grid, self.position) = (grid, position);
            }
        }
        while self.position > position && self.grid.undo() {
            self.position -= 1;
        }
        while self.position < position {
            let input = self.entries[self.position].input.clone();
            if self.grid.input(&input, &mut Nobody) == Taken::No {
                break;
            }
            self.position += 1;
        }
        self.turns = self.played().iter().map(|entry| entry.turns).sum();
        self.signals = self.played().iter().map(|entry| entry.signals.len()).sum();
        self.work_out_last();
    }

    /// The game after the first entries of the tape, played from its beginning.
    fn grid_after(&self, position: usize) -> Option<Grid> {
        let mut grid = self.start.grid(&mut Recorder::default()).ok()?;
        for entry in &self.entries[..position] {
            if grid.input(&entry.input, &mut Nobody) == Taken::No {
                return None;
            }
        }
        Some(grid)
    }

    /// Works out the reports again that people see where the tape stands: that of the last input, and that of the last one
    /// with a request.
    fn work_out_last(&mut self) {
        let asked = self.played().iter().rposition(Entry::has_asked);
        for at in [self.position.checked_sub(1), asked].into_iter().flatten() {
            if self.entries[at].is_forgotten {
                let mut report = Report::default();
                if at + 1 == self.position && self.grid.undo() {
                    self.grid.answer_each(&self.entries[at].input, |grid, answer| report.tell(grid, answer));
                } else {
                    report = self.report_again(at);
                }
                let entry = &mut self.entries[at];
                (entry.answers, entry.is_forgotten) = (report.answers, false);
                self.bytes += entry.bytes();
                self.first_told = self.first_told.min(at);
            }
        }
    }

    /// What an entry's report was, played again.
    fn report_again(&self, at: usize) -> Report {
        let mut report = Report::default();
        if let Some(mut grid) = self.grid_after(at) {
            grid.answer_each(&self.entries[at].input, |grid, answer| report.tell(grid, answer));
        }
        report
    }

    /// The turns in an entry, worked out again where its report is no longer kept.
    pub fn report(&self, entry: usize) -> Cow<'_, [Answer]> {
        match self.entries.get(entry) {
            None => Cow::Borrowed(&[]),
            Some(entry) if !entry.is_forgotten => Cow::Borrowed(&entry.answers),
            Some(_) => Cow::Owned(self.report_again(entry).answers),
        }
    }

    /// Plays all that has been played once more and tells everything with the game as it was then; nothing of it is kept.
    ///
    /// # Errors
    /// As [`Session::new`].
    pub fn replay(&self, mut each: impl FnMut(&Grid, Played)) -> Result<(), LayoutError> {
        let mut grid = self.start.grid(&mut Recorder::default())?;
        each(&grid, Played::Opening(&self.opening));
        for entry in self.played() {
            let (_, entered) = grid.answer_each(&entry.input, |grid, answer| each(grid, Played::Turn(&answer)));
            if let Some(entered) = entered {
                each(&grid, Played::Entered(&entry.input, &entered));
            }
            grid.forget();
        }
        Ok(())
    }

    /// Goes over to a branch: the present tape becomes a branch in its place.
    pub fn switch(&mut self, branch: usize) {
        if branch >= self.branches.len() {
            return;
        }
        let Branch { from, inputs } = self.branches.remove(branch);
        let old = self.entries.iter().map(|entry| entry.input.clone()).collect();
        self.go(from);
        self.cut();
        for input in inputs.iter().skip(self.position) {
            self.append(input);
        }
        self.keep_branch(Branch { from, inputs: old });
    }

    /// How often entries of the tape were cut off: as long as it is the same, the tape has only been added to.
    pub const fn cuts(&self) -> u64 {
        self.cuts
    }

    /// Tapes that were cut off, the newest last.
    pub fn branches(&self) -> &[Branch] {
        &self.branches
    }

    /// What the game was started with.
    pub const fn start(&self) -> &Start {
        &self.start
    }

    /// The game.
    pub const fn grid(&self) -> &Grid {
        &self.grid
    }

    /// The game, for questions that need its scratch lists.
    pub const fn grid_mut(&mut self) -> &mut Grid {
        &mut self.grid
    }

    /// Everything on the tape.
    pub fn entries(&self) -> &[Entry] {
        &self.entries
    }

    /// The entries that have been played.
    pub fn played(&self) -> &[Entry] {
        &self.entries[..self.position]
    }

    /// How many entries have been played.
    pub const fn position(&self) -> usize {
        self.position
    }

    /// How many turns have been played, those of timers and gliders too.
    pub const fn turns(&self) -> u64 {
        self.turns
    }

    /// The clock in ms.
    pub fn clock(&self) -> u64 {
        self.grid.counter(crate::rulebook::CounterRead::Clock) as u64
    }

    /// The turns played so far, in order, as far as their reports are kept; [`Self::replay`] tells all.
    pub fn answers(&self) -> impl DoubleEndedIterator<Item = &Answer> {
        self.played().iter().flat_map(|entry| &entry.answers)
    }

    /// Everything told to the outside so far, in order.
    pub fn signals(&self) -> impl Iterator<Item = &String> {
        self.opening.signals.iter().chain(self.played().iter().flat_map(|entry| &entry.signals))
    }

    /// What entering the first map did: it is no turn, and has no number.
    pub const fn opening(&self) -> &Answer {
        &self.opening
    }

    /// The last request made.
    pub fn last_request(&self) -> Option<&Request> {
        self.answers().rev().find_map(|answer| answer.requests.last())
    }

    /// Whether the game has been won or lost by now; for games that go on all the same.
    pub fn ever(&self, outcome: Ended) -> bool {
        self.grid.outcome() == Some(outcome) || self.played().iter().any(|entry| entry.outcomes.contains(&outcome))
    }

    /// The first invariant that did not hold after some turn, by its number.
    pub fn broken(&self) -> Option<usize> {
        self.played().iter().find_map(|entry| entry.broken)
    }
}
