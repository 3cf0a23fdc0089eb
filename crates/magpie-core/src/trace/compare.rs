//! A whole log against the model: the first difference, and the mistake that explains it.

use super::beside::{Beside, Differs, differing_cells};
use super::line::{Header, Line, LineError, Read, Tongue};
use crate::grid::Answer;
use crate::input::Input;
use crate::mishap::{Played, Slip, Slipped, slips_of};
use crate::rulebook::Rulebook;
use crate::space::{Cell, Extent};
use std::sync::Arc;
use thiserror::Error;

/// Lines of text that can be gone through more than once.
pub trait Log {
    /// Goes back to the first line.
    ///
    /// # Errors
    /// Why it cannot be read.
    fn rewind(&mut self) -> Result<(), String>;

    /// Reads the next line into a text that is empty; false behind the last.
    ///
    /// # Errors
    /// Why it cannot be read.
    fn next(&mut self, into: &mut String) -> Result<bool, String>;
}

/// Why a log cannot be compared.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[non_exhaustive]
pub enum TraceError {
    /// A line says what cannot be.
    #[error("line {0}: {1}")]
    Line(usize, LineError),
    /// It cannot be read.
    #[error("{0}")]
    Unreadable(String),
    /// No line fits a template.
    #[error("none of its {0} lines fits the template")]
    NothingFits(usize),
}

/// The first line in which the program and the model differ.
#[derive(Clone, Debug)]
pub struct First {
    /// The line, from 1.
    pub line: usize,
    /// The counter `turns` then.
    pub turn: u64,
    /// What was given.
    pub input: Option<Input>,
    /// In what they differ.
    pub differs: Vec<Differs>,
    /// The cells in which boards or pieces differ.
    pub cells: Vec<Cell>,
    /// The report of the model's turn.
    pub answer: Option<Answer>,
    /// The extent of the map.
    pub extent: Extent,
    /// The board of the model as characters.
    pub board: Vec<String>,
    /// The counters of the rulebook.
    pub counters: Vec<(String, i64)>,
}

/// A mistake that explains what a program says.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Explained {
    /// The mistake.
    pub slipped: Slipped,
    /// A second one, of another sort, made together with it.
    pub with: Option<Slipped>,
    /// The reports alike before the first that is not.
    pub explains: usize,
    /// It explains every one.
    pub is_whole: bool,
}

/// What comparing a log comes to.
#[derive(Clone, Debug, Default)]
pub struct Comparison {
    /// Lines of the file.
    pub lines: usize,
    /// Inputs in it.
    pub inputs: usize,
    /// Lines that tell something of the state.
    pub reports: usize,
    /// Lines that no template fits.
    pub skipped: usize,
    /// Reports alike before the first difference.
    pub alike: usize,
    /// The first difference.
    pub first: Option<First>,
    /// What explains it.
    pub mishaps: Vec<Explained>,
}

/// Most versions that are played beside each other.
const BATCH: usize = 96;
/// How far a board goes on beyond its edges for a program that forgets them.
const FARTHEST: u32 = 64;

/// Goes through a log.
struct Reader<'l> {
    log: &'l mut dyn Log,
    tongue: &'l Tongue,
    book: &'l Rulebook,
    text: String,
    number: usize,
}

impl<'l> Reader<'l> {
    fn new(log: &'l mut dyn Log, tongue: &'l Tongue, book: &'l Rulebook) -> Result<Self, TraceError> {
        log.rewind().map_err(TraceError::Unreadable)?;
        Ok(Self { log, tongue, book, text: String::new(), number: 0 })
    }

    fn next(&mut self) -> Result<Option<Read>, TraceError> {
        self.text.clear();
        if !self.log.next(&mut self.text).map_err(TraceError::Unreadable)? {
            return Ok(None);
        }
        self.number += 1;
        self.tongue.read(&self.text, self.book).map(Some).map_err(|error| TraceError::Line(self.number, error))
    }
}

/// Compares a log with the model. `start` holds where the log has no header.
///
/// # Errors
/// A log that cannot be read or played, with the line.
pub fn compare(
    book: &Arc<Rulebook>,
    tongue: &Tongue,
    start: Header,
    within: f64,
    log: &mut dyn Log,
) -> Result<Comparison, TraceError> {
    let mut found = Comparison::default();
    let mut reader = Reader::new(log, tongue, book)?;
    let mut start = start;
    let mut beside = None;
    let mut is_first = true;
    while let Some(read) = reader.next()? {
        found.lines += 1;
        let line = match read {
            Read::Passed => {
                found.skipped += usize::from(tongue.has_templates() && !reader.text.trim().is_empty());
                continue;
            }
            Read::Header(header) if is_first => {
                start = Header { map: header.map.or(start.map), seed: header.seed.or(start.seed) };
                is_first = false;
                continue;
            }
            Read::Header(_) => continue,
            Read::Line(line) => line,
        };
        is_first = false;
        found.inputs += usize::from(line.input.is_some());
        found.reports += usize::from(line.told.is_report());
        if found.first.is_some() {
            continue;
        }
        let beside = beside.get_or_insert_with(|| Beside::new(Played::right(book), start, within));
        let verdict = beside.take(&line).map_err(|error| TraceError::Line(reader.number, error))?;
        if verdict.differs.is_empty() {
            found.alike += usize::from(verdict.is_report);
        } else {
            found.first = Some(first(book, beside, &line, reader.number, verdict.differs));
        }
    }
    if tongue.has_templates() && found.lines > 0 && found.skipped == found.lines {
        return Err(TraceError::NothingFits(found.lines));
    }
    if found.first.is_some() {
        let known = Known { start, within, alike: found.alike, reports: found.reports, inputs: found.inputs };
        found.mishaps = explain(book, tongue, &known, log)?;
    }
    Ok(found)
}

fn first(book: &Rulebook, beside: &mut Beside, line: &Line, number: usize, differs: Vec<Differs>) -> First {
    let answer = beside.answer(line);
    let grid = beside.grid();
    let extent = grid.map_or_else(|| book.maps[0].extent, crate::grid::Grid::map_extent);
    First {
        line: number,
        turn: grid.map_or(0, |grid| grid.counter(crate::rulebook::CounterRead::Turns) as u64),
        input: line.input.clone(),
        cells: differing_cells(book, extent, &differs),
        differs,
        answer,
        extent,
        board: grid.map_or(Vec::new(), crate::grid::Grid::picture),
        counters: grid
            .map_or(Vec::new(), |grid| grid.counters().map(|(name, value)| (name.to_owned(), value)).collect()),
    }
}

/// What is known of a log in which something differs.
#[derive(Clone, Copy, Debug)]
pub struct Known {
    /// The map and the seed.
    pub start: Header,
    /// How far positions may lie apart.
    pub within: f64,
    /// Reports alike before the first difference.
    pub alike: usize,
    /// All reports.
    pub reports: usize,
    /// All inputs.
    pub inputs: usize,
}

/// A version that is played along a log.
struct Candidate {
    slips: (usize, Option<usize>),
    beside: Beside,
    explains: usize,
    is_dead: bool,
}

/// The mistakes that explain a log, the simplest first: one alone, else two of different sorts; where none explains it all, the
/// one that explains the most, if that is more than the model itself does.
///
/// # Errors
/// A log that cannot be read.
pub fn explain(
    book: &Arc<Rulebook>,
    tongue: &Tongue,
    known: &Known,
    log: &mut dyn Log,
) -> Result<Vec<Explained>, TraceError> {
    let slips = slips_of(book);
    let reach = u32::try_from(known.inputs).unwrap_or(FARTHEST).clamp(1, FARTHEST);
    let singles: Vec<_> = (0..slips.len()).map(|at| (at, None)).collect();
    let mut found = Vec::new();
    let mut best: Option<Explained> = None;
    play_all(book, tongue, known, log, &slips, &singles, reach, &mut found, &mut best)?;
    if found.is_empty() {
        let sort = |at: usize| slips[at].slip.sort();
        let all = 0..slips.len();
        let pairs = all.clone().flat_map(|one| (one + 1..slips.len()).map(move |other| (one, Some(other))));
        let pairs: Vec<_> = pairs.filter(|(one, other)| other.is_some_and(|other| sort(*one) != sort(other))).collect();
        play_all(book, tongue, known, log, &slips, &pairs, reach, &mut found, &mut best)?;
    }
    if found.is_empty() {
        found.extend(best.filter(|best| best.explains > known.alike));
    }
    Ok(found)
}

#[allow(clippy::too_many_arguments)] // the two halves of `explain`
fn play_all(
    book: &Arc<Rulebook>,
    tongue: &Tongue,
    known: &Known,
    log: &mut dyn Log,
    slips: &[Slipped],
    wanted: &[(usize, Option<usize>)],
    reach: u32,
    found: &mut Vec<Explained>,
    best: &mut Option<Explained>,
) -> Result<(), TraceError> {
    for batch in wanted.chunks(BATCH) {
        let candidate = |(one, other): &(usize, Option<usize>)| {
            let made = std::iter::once(&slips[*one]).chain(other.map(|other| &slips[other]));
            let played = Played::with(book, made, reach);
            let beside = Beside::new(played, known.start, known.within);
            Candidate { slips: (*one, *other), beside, explains: 0, is_dead: false }
        };
        let mut candidates: Vec<Candidate> = batch.iter().map(candidate).collect();
        let mut reader = Reader::new(log, tongue, book)?;
        while candidates.iter().any(|candidate| !candidate.is_dead) {
            let Some(read) = reader.next()? else { break };
            let Read::Line(line) = read else { continue };
            for candidate in candidates.iter_mut().filter(|candidate| !candidate.is_dead) {
                match candidate.beside.take(&line) {
                    Ok(verdict) if verdict.differs.is_empty() => candidate.explains += usize::from(verdict.is_report),
                    Ok(_) | Err(_) => candidate.is_dead = true,
                }
            }
        }
        for candidate in candidates {
            let (one, other) = candidate.slips;
            let explained = Explained {
                slipped: slips[one].clone(),
                with: other.map(|other| slips[other].clone()),
                explains: candidate.explains,
                is_whole: !candidate.is_dead,
            };
            if explained.is_whole {
                found.push(explained);
            } else if best.as_ref().is_none_or(|best| explained.explains > best.explains) {
                *best = Some(explained);
            }
        }
    }
    Ok(())
}

impl Explained {
    /// The ids, `A with B`.
    pub fn name(&self) -> String {
        let with = self.with.as_ref().map_or(String::new(), |with| format!(" with {}", with.slip.id()));
        format!("{}{with}", self.slipped.slip.id())
    }

    /// The mistakes.
    pub fn slips(&self) -> impl Iterator<Item = Slip> {
        std::iter::once(self.slipped.slip).chain(self.with.as_ref().map(|with| with.slip))
    }
}
