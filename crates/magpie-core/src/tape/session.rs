//! A game and its tape: play, wind back, play on, and keep what was cut off.

use crate::grid::{Answer, Ended, Grid, LayoutError, Nobody, Recorder, Request, Settled, Taken};
use crate::input::Input;
use crate::limits::LONGEST_WAIT;
use crate::rulebook::{Map, Rulebook};
use std::sync::Arc;
use thiserror::Error;

/// One input on a tape, and what came of it.
#[derive(Clone, Debug)]
pub struct Entry {
    /// The clock when it was given, in ms.
    pub at: u64,
    /// The input.
    pub input: Input,
    /// The turns in it.
    pub answers: Vec<Answer>,
    /// What was told to the outside, also on entering a map.
    pub signals: Vec<String>,
}

/// A line of a tape that lies before the clock.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("the clock goes back from {clock} to {at} before `{input}`")]
#[non_exhaustive]
pub struct BackInTime {
    /// Where the clock stands, in ms.
    pub clock: u64,
    /// Where it would have to go.
    pub at: u64,
    /// The input.
    pub input: String,
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

    fn grid(&self, watch: &mut Recorder) -> Result<Grid, LayoutError> {
        let book = self.book.clone();
        match (&self.map, self.endless) {
            (Err(map), false) => Grid::new(book, *map, self.seed, watch),
            (map, _) => Grid::on_own_map(book, map.clone(), self.seed, watch),
        }
    }
}

/// A game and its tape.
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
    /// What was told to the outside on entering the first map.
    opening: Vec<String>,
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
        Ok(Self {
            start,
            grid,
            entries: Vec::new(),
            position: 0,
            branches: Vec::new(),
            cuts: 0,
            opening: recorder.answer.signals,
        })
    }

    /// The same inputs on another rulebook or map, wound to the same place.
    ///
    /// # Errors
    /// As [`Session::new`].
    pub fn again(&self, start: Start) -> Result<Self, LayoutError> {
        let mut session = Self::new(start)?;
        for entry in &self.entries {
            session.append(entry.input.clone());
        }
        session.go(self.position);
        session.branches.clone_from(&self.branches);
        Ok(session)
    }

    /// Plays an input from a tape: even one that does nothing now keeps its place.
    fn append(&mut self, input: Input) {
        let at = self.clock();
        let (taken, answers, signals) = self.grid.answer(&input);
        if taken == Taken::Yes {
            self.entries.push(Entry { at, input, answers, signals });
            self.position = self.entries.len();
            self.shed();
        }
    }

    /// Plays an input where the tape stands now. What lay behind it is cut and kept as a branch.
    pub fn give(&mut self, input: &Input) -> Taken {
        if *input == Input::Undo {
            return self.take_back();
        }
        let at = self.clock();
        let (taken, answers, signals) = self.grid.answer(input);
        if taken == Taken::No {
            return Taken::No;
        }
        let same = self.entries.get(self.position).is_some_and(|entry| entry.input == *input);
        if self.position < self.entries.len() && !same {
            let inputs = self.entries.iter().map(|entry| entry.input.clone()).collect();
            self.branches.push(Branch { from: self.position, inputs });
            self.cuts += 1;
            self.entries.truncate(self.position);
        }
        if same {
            self.entries[self.position] = Entry { at, input: input.clone(), answers, signals };
        } else {
            self.entries.push(Entry { at, input: input.clone(), answers, signals });
        }
        self.position += 1;
        self.shed();
        Taken::Yes
    }

    /// Plays a line of a tape: before its input the clock moves to its `at` as by a wait. A `restart` sets the clock back.
    ///
    /// # Errors
    /// The clock would go back in time.
    pub fn give_at(&mut self, at: Option<u64>, input: &Input) -> Result<Taken, BackInTime> {
        let clock = self.clock();
        let at = at.unwrap_or(clock);
        if at < clock {
            return Err(BackInTime { clock, at, input: input.to_string() });
        }
        let mut left = at - clock;
        while left > 0 {
            let wait = left.min(LONGEST_WAIT);
            self.give(&Input::Wait(wait));
            left -= wait;
        }
        Ok(self.give(input))
    }

    /// Boards of settlings and cells of floods are kept for the last entries only, so that a long game stays small.
    fn shed(&mut self) {
        /// Entries that keep everything.
        const KEPT: usize = 200;
        /// Floods above this size are kept for the last entry alone.
        const LARGE: usize = 100_000;
        let shed = |entry: &mut Entry, most: usize| {
            for answer in &mut entry.answers {
                for action in &mut answer.actions {
                    action.rings = action.rings.take().filter(|rings| rings.cells.len() <= most);
                }
                if most == 0 {
                    answer.settled.iter_mut().for_each(Settled::shed);
                }
            }
        };
        if let Some(entry) = self.position.checked_sub(2).and_then(|at| self.entries.get_mut(at)) {
            shed(entry, LARGE);
        }
        if let Some(entry) = self.position.checked_sub(KEPT + 1).and_then(|at| self.entries.get_mut(at)) {
            shed(entry, 0);
        }
    }

    /// Takes the last played entry off the tape.
    fn take_back(&mut self) -> Taken {
        if !self.grid.undo() {
            return Taken::No;
        }
        self.position = self.position.saturating_sub(1);
        self.cuts += 1;
        self.entries.truncate(self.position);
        Taken::Yes
    }

    /// Winds the tape so that its first `position` entries have been played.
    pub fn go(&mut self, position: usize) {
        let position = position.min(self.entries.len());
        while self.position > position && self.grid.undo() {
            self.position -= 1;
        }
        while self.position < position {
            let input = self.entries[self.position].input.clone();
            if self.grid.input(&input, &mut Nobody) == Taken::No {
                return;
            }
            self.position += 1;
        }
    }

    /// Goes over to a branch: the present tape becomes a branch in its place.
    pub fn switch(&mut self, branch: usize) {
        if branch >= self.branches.len() {
            return;
        }
        let Branch { from, inputs } = self.branches.remove(branch);
        let old = self.entries.iter().map(|entry| entry.input.clone()).collect();
        self.go(from);
        self.cuts += 1;
        self.entries.truncate(self.position);
        for input in inputs.into_iter().skip(self.position) {
            self.append(input);
        }
        self.branches.push(Branch { from, inputs: old });
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

    /// The clock in ms.
    pub fn clock(&self) -> u64 {
        self.grid.counter(crate::rulebook::CounterRead::Clock) as u64
    }

    /// All turns played so far, in order.
    pub fn answers(&self) -> impl DoubleEndedIterator<Item = &Answer> {
        self.played().iter().flat_map(|entry| &entry.answers)
    }

    /// Everything told to the outside so far, in order.
    pub fn signals(&self) -> impl Iterator<Item = &String> {
        self.opening.iter().chain(self.played().iter().flat_map(|entry| &entry.signals))
    }

    /// The last request made.
    pub fn last_request(&self) -> Option<&Request> {
        self.answers().rev().find_map(|answer| answer.requests.last())
    }

    /// Whether the game has been won or lost by now; for games that go on all the same.
    pub fn ever(&self, outcome: Ended) -> bool {
        self.grid.outcome() == Some(outcome) || self.answers().any(|answer| answer.outcome == Some(outcome))
    }
}
