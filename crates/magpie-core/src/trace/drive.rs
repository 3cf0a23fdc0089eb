//! A program that is driven: every answer it gives is held against the model, as many pairs of a state and an input as possible
//! first, then at random; a difference is shrunk to a shortest sequence that still differs.

use super::beside::{Beside, Verdict};
use super::compare::{Explained, Feed, First, Known, Source, TraceError, explain_from, first_of, still_explains};
use super::cover::Cover;
use super::line::{Header, Line, Read, Tongue};
use super::part::parting;
use crate::grid::{Grid, Random};
use crate::input::Input;
use crate::mishap::Played;
use crate::proof::Inputs;
use crate::rulebook::Rulebook;
use serde_json::json;
use std::collections::VecDeque;
use std::sync::Arc;

/// Inputs of one random sequence.
const SEQUENCE: usize = 50;
/// Keys that are played past an end.
const PAST_END: usize = 5;
/// Most sequences that are tried while one is made shorter.
const MOST_TRIED: usize = 2_000;
/// Most sequences that are played to tell explanations apart.
const MOST_PARTED: usize = 20;
/// Most lines that are kept as evidence.
const MOST_EVIDENCE: usize = 20_000;

/// What is wrong with a program itself.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Fault {
    /// It has ended.
    Ended,
    /// It gave no report in time.
    Silent,
    /// It printed a line without an end.
    Flood,
    /// It printed something else than a report; what is wrong with that.
    NotJson(String),
    /// It answers the same sequence differently a second time.
    Unsteady,
    /// It differs only where it has played before.
    Restart,
    /// It was told to stop, or time is over; no fault of the program.
    Halted,
    /// It cannot be started.
    NoStart(String),
}

impl Fault {
    /// The word of the formats.
    pub const fn word(&self) -> &'static str {
        match self {
            Self::Ended => "ended",
            Self::Silent => "silent",
            Self::Flood => "flood",
            Self::NotJson(_) => "not-json",
            Self::Unsteady => "unsteady",
            Self::Restart => "restart",
            Self::Halted => "halted",
            Self::NoStart(_) => "no-start",
        }
    }
}

/// A program that reads a line an input and answers each with a line.
pub trait Program {
    /// Gives it a line.
    ///
    /// # Errors
    /// It has ended.
    fn send(&mut self, line: &str) -> Result<(), Fault>;

    /// The next line that it prints.
    ///
    /// # Errors
    /// It prints none in time, or has ended.
    fn receive(&mut self) -> Result<String, Fault>;

    /// Starts it anew.
    ///
    /// # Errors
    /// It cannot be started.
    fn respawn(&mut self) -> Result<(), Fault>;

    /// Whether to stop.
    fn is_halted(&self) -> bool;
}

/// What is to be done.
#[derive(Clone, Debug)]
pub struct Plan {
    /// The map, counted from 0, and the seed.
    pub start: Header,
    /// Random sequences.
    pub runs: usize,
    /// The seed of what is played at random.
    pub seed: u64,
    /// The program is started anew for every sequence.
    pub respawn: bool,
    /// How far positions may lie apart.
    pub within: f64,
}

/// What driving came to.
#[derive(Debug, Default)]
pub struct Driven {
    /// Inputs sent.
    pub sent: usize,
    /// Sequences begun.
    pub sequences: usize,
    /// Pairs of a state and an input that were played.
    pub pairs: usize,
    /// Pairs in the model; `None` where they are too many to be counted, or where it draws at random.
    pub pairs_of: Option<usize>,
    /// Lines that are no reports.
    pub skipped: usize,
    /// The last of them.
    pub passed: VecDeque<String>,
    /// The sequence that differs, or with which the program is at fault.
    pub tape: Option<Vec<Input>>,
    /// What is wrong with the program itself.
    pub fault: Option<Fault>,
    /// The first difference of the sequence.
    pub first: Option<First>,
    /// What explains it.
    pub mishaps: Vec<Explained>,
    /// The sequence with what the program said, as lines of a log.
    pub log: Vec<String>,
    /// It was stopped before all was done.
    pub is_cut: bool,
}

impl Driven {
    /// Whether nothing differed.
    pub const fn is_same(&self) -> bool {
        self.first.is_none() && self.fault.is_none()
    }
}

/// What a sequence came to.
struct Ran {
    lines: Vec<Line>,
    /// After how many inputs it differs.
    differs: Option<usize>,
}

/// Everything the program said, sequence by sequence.
#[derive(Default)]
struct Evidence {
    sequences: VecDeque<Vec<Line>>,
    lines: usize,
    at: (usize, usize),
}

impl Evidence {
    fn begin(&mut self) {
        self.sequences.push_back(Vec::new());
    }

    fn add(&mut self, line: Line) {
        if let Some(last) = self.sequences.back_mut() {
            last.push(line);
            self.lines += 1;
        }
        while self.lines > MOST_EVIDENCE && self.sequences.len() > 1 {
            self.lines -= self.sequences.pop_front().map_or(0, |lines| lines.len());
        }
    }
}

impl Source for Evidence {
    fn rewind(&mut self) -> Result<(), TraceError> {
        self.at = (0, 0);
        Ok(())
    }

    fn next(&mut self) -> Result<Option<Feed>, TraceError> {
        let (sequence, line) = self.at;
        let Some(lines) = self.sequences.get(sequence) else { return Ok(None) };
        match lines.get(line) {
            Some(found) => {
                self.at.1 += 1;
                Ok(Some(Feed::Line(Box::new(found.clone()))))
            }
            None => {
                self.at = (sequence + 1, 0);
                if sequence + 1 < self.sequences.len() { Ok(Some(Feed::Anew)) } else { Ok(None) }
            }
        }
    }
}

/// The one who drives.
struct Driver<'d> {
    book: &'d Arc<Rulebook>,
    tongue: &'d Tongue,
    plan: &'d Plan,
    program: &'d mut dyn Program,
    beside: Beside,
    evidence: Evidence,
    sequence: Vec<Input>,
    found: Driven,
}

/// Drives a program. `entered` is the map as it is entered, `inputs` what it is given.
pub fn drive(
    book: &Arc<Rulebook>,
    tongue: &Tongue,
    plan: &Plan,
    (entered, inputs): (&Grid, &Inputs),
    program: &mut dyn Program,
) -> Driven {
    let beside = Beside::new(Played::right(book), plan.start, plan.within);
    let mut driver = Driver {
        book,
        tongue,
        plan,
        program,
        beside,
        evidence: Evidence::default(),
        sequence: Vec::new(),
        found: Driven::default(),
    };
    match driver.all(entered, inputs) {
        Ok(()) => {}
        Err(Fault::Halted) => driver.found.is_cut = true,
        Err(fault) => {
            driver.found.tape = Some(driver.sequence.clone());
            driver.found.fault = Some(fault);
        }
    }
    driver.found
}

impl Driver<'_> {
    fn all(&mut self, entered: &Grid, inputs: &Inputs) -> Result<(), Fault> {
        let draws = book_draws(self.book);
        let mut cover = (!draws).then(|| Cover::new(entered, inputs));
        if let Some(cover) = &mut cover {
            let found = self.cover(cover, inputs);
            self.found.pairs = cover.pairs;
            self.found.pairs_of = cover.all_pairs(inputs, self.plan.runs * SEQUENCE);
            if found? {
                return Ok(());
            }
        }
        let mut random = Random::new(self.plan.seed);
        for _ in 0..self.plan.runs {
            if self.random_sequence(&mut random, inputs)? {
                return Ok(());
            }
        }
        Ok(())
    }

    /// Walks the states of the model; whether something differed.
    fn cover(&mut self, cover: &mut Cover, inputs: &Inputs) -> Result<bool, Fault> {
        let most = self.plan.runs * SEQUENCE;
        if self.anew()?.is_some_and(|verdict| !verdict.differs.is_empty()) {
            return self.differs().map(|()| true);
        }
        while self.found.sent < most {
            let Some(way) = cover.next(inputs, self.beside.grid()) else { return Ok(false) };
            if way.is_from_start && self.anew()?.is_some_and(|verdict| !verdict.differs.is_empty()) {
                return self.differs().map(|()| true);
            }
            for number in way.inputs {
                let Some(input) = self.beside.grid().and_then(|grid| inputs.input_at(number, grid)) else { break };
                let verdict = self.step(&input)?;
                if let Some(grid) = self.beside.grid() {
                    cover.note(number, grid);
                }
                if !verdict.differs.is_empty() {
                    return self.differs().map(|()| true);
                }
            }
        }
        Ok(false)
    }

    fn random_sequence(&mut self, random: &mut Random, inputs: &Inputs) -> Result<bool, Fault> {
        if self.anew()?.is_some_and(|verdict| !verdict.differs.is_empty()) {
            return self.differs().map(|()| true);
        }
        let mut past = 0;
        for _ in 0..SEQUENCE {
            if inputs.is_empty() {
                return Ok(false);
            }
            let Some(grid) = self.beside.grid() else { return Ok(false) };
            let is_over = matches!(grid.outcome(), Some(crate::grid::Ended::Won | crate::grid::Ended::Lost));
            past += usize::from(is_over);
            if past > PAST_END || grid.map() != self.plan.start.map.unwrap_or(0) {
                break;
            }
            let number = random.below(inputs.len() as u32) as usize;
            let Some(input) = inputs.input_at(number, grid) else { continue };
            if !self.step(&input)?.differs.is_empty() {
                return self.differs().map(|()| true);
            }
        }
        Ok(false)
    }

    /// Lets program and model begin anew.
    fn anew(&mut self) -> Result<Option<Verdict>, Fault> {
        if self.plan.respawn && self.found.sequences > 0 {
            self.program.respawn()?;
        }
        self.sequence.clear();
        self.found.sequences += 1;
        let seed = self.plan.start.seed.unwrap_or(self.book.seed);
        let line = json!({ "input": "restart", "map": self.plan.start.map.unwrap_or(0) + 1, "seed": seed });
        let said = self.ask(&line.to_string())?;
        self.beside = Beside::new(Played::right(self.book), self.plan.start, self.plan.within);
        let line = Line { input: None, ..said };
        self.evidence.begin();
        self.take(line).map(Some)
    }

    /// Gives both an input.
    fn step(&mut self, input: &Input) -> Result<Verdict, Fault> {
        self.sequence.push(input.clone());
        self.found.sent += 1;
        let said = self.ask(&json!({ "input": input.to_string() }).to_string())?;
        self.take(Line { input: Some(input.clone()), ..said })
    }

    fn take(&mut self, line: Line) -> Result<Verdict, Fault> {
        let verdict = self.beside.take(&line).map_err(|error| Fault::NotJson(error.to_string()))?;
        self.evidence.add(line);
        Ok(verdict)
    }

    /// Sends a line and waits for the report.
    fn ask(&mut self, line: &str) -> Result<Line, Fault> {
        if self.program.is_halted() {
            return Err(Fault::Halted);
        }
        self.program.send(line)?;
        let mut has_passed = false;
        loop {
            let text = match self.program.receive() {
                Err(Fault::Silent) if has_passed => {
                    let last = self.found.passed.back().cloned().unwrap_or_default();
                    return Err(Fault::NotJson(format!("it printed `{last}`, and no report")));
                }
                other => other?,
            };
            let is_report = self.tongue.has_templates() || text.trim_start().starts_with('{');
            match if is_report { self.tongue.read(&text, self.book) } else { Ok(Read::Passed) } {
                Ok(Read::Line(line)) => return Ok(*line),
                Ok(Read::Header(_) | Read::Passed) => {
                    has_passed = true;
                    self.found.skipped += 1;
                    let shown: String = text.chars().filter(|c| !c.is_control()).take(200).collect();
                    self.found.passed.push_back(shown);
                    if self.found.passed.len() > 5 {
                        self.found.passed.pop_front();
                    }
                }
                Err(error) => return Err(Fault::NotJson(error.to_string())),
            }
        }
    }

    /// Plays a sequence from the start, until it differs.
    fn run(&mut self, inputs: &[Input]) -> Result<Ran, Fault> {
        let began = self.anew()?;
        let mut differs = began.filter(|verdict| !verdict.differs.is_empty()).map(|_| 0);
        for (number, input) in inputs.iter().enumerate() {
            if differs.is_some() {
                break;
            }
            if !self.step(input)?.differs.is_empty() {
                differs = Some(number + 1);
            }
        }
        let lines = self.evidence.sequences.back().cloned().unwrap_or_default();
        Ok(Ran { lines, differs })
    }

    /// Something differed: makes the sequence short, plays it again, and looks for the mistake.
    fn differs(&mut self) -> Result<(), Fault> {
        let mut shortest = self.sequence.clone();
        if self.run(&shortest)?.differs.is_none() {
            // Not a second time: it throws dice of its own, or remembers what was played before.
            self.sequence.clone_from(&shortest);
            return Err(Fault::Unsteady);
        }
        self.shorten(&mut shortest)?;
        let again = self.run(&shortest)?;
        self.program.respawn()?;
        let anew = self.run(&shortest)?;
        self.sequence.clone_from(&shortest);
        let place = match (again.differs, anew.differs) {
            (Some(_), None) => return Err(Fault::Restart),
            (None, _) => return Err(Fault::Unsteady),
            (Some(_), Some(_)) if again.lines != anew.lines => return Err(Fault::Unsteady),
            (Some(_), Some(place)) => place,
        };
        self.found.tape = Some(shortest);
        self.found.log = anew.lines.iter().map(|line| line.to_json(self.book).to_string()).collect();
        // The sequence once more beside a model of its own, for the report of the turn in which they part.
        let mut beside = Beside::new(Played::right(self.book), self.plan.start, self.plan.within);
        for (number, line) in anew.lines.iter().enumerate() {
            let Ok(verdict) = beside.take(line) else { break };
            if number == place {
                // The header is the first line of the log.
                self.found.first = Some(first_of(self.book, &mut beside, line, number + 2, verdict.differs));
            }
        }
        self.explain()
    }

    /// Leaves out runs of inputs as long as it still differs.
    fn shorten(&mut self, shortest: &mut Vec<Input>) -> Result<(), Fault> {
        let mut tried = 0;
        let mut length = shortest.len();
        while length > 0 {
            let mut has_shortened = false;
            let mut from = 0;
            while from + length <= shortest.len() && tried < MOST_TRIED {
                let mut without = shortest.clone();
                without.drain(from..from + length);
                tried += 1;
                match self.run(&without)?.differs {
                    Some(place) => {
                        without.truncate(place);
                        *shortest = without;
                        has_shortened = true;
                    }
                    None => from += 1,
                }
            }
            // A run that could not go before may go now.
            length = if has_shortened { shortest.len() } else { length - 1 };
            length = length.min(shortest.len());
            if tried >= MOST_TRIED {
                break;
            }
        }
        Ok(())
    }

    /// Looks for the mistake behind all that the program has said.
    fn explain(&mut self) -> Result<(), Fault> {
        let Some(last) = self.found.log.len().checked_sub(1) else { return Ok(()) };
        let all: usize = self.evidence.sequences.iter().flatten().filter(|line| line.told.is_report()).count();
        let known = Known {
            start: self.plan.start,
            within: self.plan.within,
            alike: 0,
            reports: all,
            inputs: self.evidence.sequences.iter().map(Vec::len).max().unwrap_or(last),
        };
        let Ok(mut mishaps) = explain_from(self.book, &known, &mut self.evidence) else { return Ok(()) };
        let asked = self.evidence.sequences.back().and_then(|lines| lines.last()).map(|line| line.told.clone());
        let mut parted = 0;
        while let (true, Some(asked)) = (parted < MOST_PARTED, &asked) {
            let whole: Vec<&Explained> = mishaps.iter().filter(|explained| explained.is_whole).collect();
            let pairs =
                whole.iter().enumerate().flat_map(|(at, one)| whole[at + 1..].iter().map(move |other| (*one, *other)));
            let way = pairs.into_iter().find_map(|(one, other)| parting(self.book, &known, [one, other], asked));
            let Some(way) = way else { break };
            parted += 1;
            self.run_whole(&way)?;
            let Some(lines) = self.evidence.sequences.back() else { break };
            let before = mishaps.len();
            mishaps.retain(|explained| still_explains(self.book, &known, explained, lines));
            if mishaps.len() == before {
                break;
            }
        }
        self.found.mishaps = mishaps;
        Ok(())
    }

    /// Plays a whole sequence, whatever differs.
    fn run_whole(&mut self, inputs: &[Input]) -> Result<(), Fault> {
        self.anew()?;
        for input in inputs {
            self.step(input)?;
        }
        Ok(())
    }
}

/// Whether a rulebook draws at random while it is played.
fn book_draws(book: &Rulebook) -> bool {
    book.reads().random
}

/// The covering walk and random sequences of the model alone, each behind a `restart`, as inputs of a tape.
pub fn plan(plan: &Plan, (entered, inputs): (&Grid, &Inputs), most: usize, random_runs: usize) -> Vec<Input> {
    let mut tape = Vec::new();
    let mut grid = entered.copied();
    let begin = |tape: &mut Vec<Input>, grid: &mut Grid| {
        tape.push(Input::Restart);
        *grid = entered.copied();
    };
    begin(&mut tape, &mut grid);
    let draws = book_draws(entered.book());
    let mut cover = Cover::new(entered, inputs);
    while tape.len() < most && !draws {
        let Some(way) = cover.next(inputs, Some(&grid)) else { break };
        if way.is_from_start {
            begin(&mut tape, &mut grid);
        }
        for number in way.inputs {
            let Some(input) = inputs.input_at(number, &grid) else { break };
            grid.input(&input, &mut crate::grid::Nobody);
            tape.push(input);
            cover.note(number, &grid);
        }
    }
    let mut random = Random::new(plan.seed);
    for _ in 0..if inputs.is_empty() { 0 } else { random_runs } {
        begin(&mut tape, &mut grid);
        for _ in 0..SEQUENCE {
            let number = random.below(inputs.len() as u32) as usize;
            let Some(input) = inputs.input_at(number, &grid) else { continue };
            if grid.map() != entered.map() {
                break;
            }
            grid.input(&input, &mut crate::grid::Nobody);
            tape.push(input);
        }
    }
    tape
}
