//! A whole log against the model: the first difference, and the mistake that explains it.

use super::beside::{Beside, Differs, differing_cells};
use super::line::{Header, Line, LineError, Read, Tongue};
use crate::grid::Answer;
use crate::input::Input;
use crate::limits::MOST_PAIRS_TRIED;
use crate::mishap::{Played, Slipped, slips_of};
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

    fn read(&mut self) -> Result<Option<Read>, TraceError> {
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
    while let Some(read) = reader.read()? {
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
            found.first = Some(first_of(book, beside, &line, reader.number, verdict.differs));
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

/// What is known of the line in which the two part.
pub(super) fn first_of(
    book: &Rulebook,
    beside: &mut Beside,
    line: &Line,
    number: usize,
    differs: Vec<Differs>,
) -> First {
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

/// What comes next of what a program said.
pub(super) enum Feed {
    /// The map is entered anew.
    Anew,
    /// A line.
    Line(Box<Line>),
}

/// Lines that can be gone through more than once, already read.
pub(super) trait Source {
    fn rewind(&mut self) -> Result<(), TraceError>;
    fn next(&mut self) -> Result<Option<Feed>, TraceError>;
}

impl Source for Reader<'_> {
    fn rewind(&mut self) -> Result<(), TraceError> {
        self.number = 0;
        self.log.rewind().map_err(TraceError::Unreadable)
    }

    fn next(&mut self) -> Result<Option<Feed>, TraceError> {
        loop {
            match self.read()? {
                Some(Read::Line(line)) => return Ok(Some(Feed::Line(line))),
                Some(Read::Header(_) | Read::Passed) => {}
                None => return Ok(None),
            }
        }
    }
}

/// A version that is played along what a program said.
struct Candidate {
    explained: Explained,
    beside: Beside,
    is_dead: bool,
    /// It has played otherwise than the model.
    has_shown: bool,
}

impl Beside {
    /// The same version, its map entered anew.
    fn begin_anew(&mut self, known: &Known) {
        *self = Self::new(self.played().clone(), known.start, known.within);
    }

    /// Takes what comes; whether the program parts from it here.
    fn feed(&mut self, feed: &Feed, known: &Known) -> bool {
        match feed {
            Feed::Anew => {
                self.begin_anew(known);
                false
            }
            Feed::Line(line) => self.take(line).map_or(true, |verdict| !verdict.differs.is_empty()),
        }
    }
}

impl Candidate {
    fn feed(&mut self, feed: &Feed, known: &Known) {
        match feed {
            Feed::Anew => self.beside.begin_anew(known),
            Feed::Line(line) => match self.beside.take(line) {
                Ok(verdict) if verdict.differs.is_empty() => {
                    self.explained.explains += usize::from(verdict.is_report);
                }
                Ok(_) | Err(_) => self.is_dead = true,
            },
        }
    }
}

/// How far a board goes on beyond its edges: as far as the inputs lead.
pub(super) fn reach_of(known: &Known) -> u32 {
    u32::try_from(known.inputs).unwrap_or(FARTHEST).clamp(1, FARTHEST)
}

/// The mistakes that explain a log, the simplest first: one alone, else two of different sorts (the first
/// [`MOST_PAIRS_TRIED`]); where none explains it all, the one that explains the most, if that is more than the model itself does.
///
/// # Errors
/// A log that cannot be read.
pub fn explain(
    book: &Arc<Rulebook>,
    tongue: &Tongue,
    known: &Known,
    log: &mut dyn Log,
) -> Result<Vec<Explained>, TraceError> {
    explain_from(book, known, &mut Reader::new(log, tongue, book)?)
}

/// Lines in memory as a source.
struct Kept<'l> {
    lines: &'l [Line],
    at: usize,
}

impl Source for Kept<'_> {
    fn rewind(&mut self) -> Result<(), TraceError> {
        self.at = 0;
        Ok(())
    }

    fn next(&mut self) -> Result<Option<Feed>, TraceError> {
        let line = self.lines.get(self.at);
        self.at += 1;
        Ok(line.map(|line| Feed::Line(Box::new(line.clone()))))
    }
}

/// The same, of lines that have been read and kept.
pub fn explain_lines(book: &Arc<Rulebook>, known: &Known, lines: &[Line]) -> Vec<Explained> {
    explain_from(book, known, &mut Kept { lines, at: 0 }).unwrap_or_default()
}

/// The same, of lines from any source.
pub(super) fn explain_from(
    book: &Arc<Rulebook>,
    known: &Known,
    source: &mut dyn Source,
) -> Result<Vec<Explained>, TraceError> {
    let slips = slips_of(book);
    let singles: Vec<_> = slips.iter().map(|slipped| (slipped, None)).collect();
    let mut search = Search { book, known, source, found: Vec::new(), best: None };
    let shows = search.play_all(&singles)?;
    if search.found.is_empty() {
        // Two that both play as the model does up to where the program parts from it do so together too.
        let all = || slips.iter().zip(&shows);
        let pairs = all().enumerate().flat_map(|(at, (one, one_shows))| {
            let others = all().skip(at + 1);
            let others =
                others.filter(move |(other, shows)| other.slip.sort() != one.slip.sort() && (*one_shows || **shows));
            others.map(move |(other, _)| (one, Some(other)))
        });
        search.play_all(&pairs.take(MOST_PAIRS_TRIED).collect::<Vec<_>>())?;
    }
    let Search { mut found, best, .. } = search;
    if found.is_empty() {
        found.extend(best.filter(|best| best.explains > known.alike));
    }
    Ok(found)
}

/// A search for the mistake.
struct Search<'s> {
    book: &'s Arc<Rulebook>,
    known: &'s Known,
    source: &'s mut dyn Source,
    found: Vec<Explained>,
    best: Option<Explained>,
}

impl Search<'_> {
    /// Plays versions along, some at a time; gives which of them have shown: played otherwise than the model up to where the
    /// program parts from it.
    fn play_all(&mut self, wanted: &[(&Slipped, Option<&Slipped>)]) -> Result<Vec<bool>, TraceError> {
        let mut shows = Vec::with_capacity(wanted.len());
        for batch in wanted.chunks(BATCH) {
            let mut right = Beside::new(Played::right(self.book), self.known.start, self.known.within);
            let mut has_parted = false;
            let candidate = |(one, other): &(&Slipped, Option<&Slipped>)| {
                let explained =
                    Explained { slipped: (*one).clone(), with: other.cloned(), explains: 0, is_whole: false };
                candidate(self.book, self.known, explained)
            };
            let mut candidates: Vec<Candidate> = batch.iter().map(candidate).collect();
            self.source.rewind()?;
            while candidates.iter().any(|candidate| !candidate.is_dead) {
                let Some(feed) = self.source.next()? else { break };
                let parts = !has_parted && right.feed(&feed, self.known);
                for candidate in candidates.iter_mut().filter(|candidate| !candidate.is_dead) {
                    candidate.feed(&feed, self.known);
                    if parts && let Feed::Line(line) = &feed {
                        candidate.has_shown = !candidate.beside.stands_as(&right, &line.told);
                    } else if candidate.is_dead && !has_parted {
                        candidate.has_shown = true;
                    }
                }
                has_parted |= parts;
            }
            for Candidate { mut explained, is_dead, has_shown, .. } in candidates {
                shows.push(has_shown);
                explained.is_whole = !is_dead;
                if explained.is_whole {
                    self.found.push(explained);
                } else if self.best.as_ref().is_none_or(|best| explained.explains > best.explains) {
                    self.best = Some(explained);
                }
            }
        }
        Ok(shows)
    }
}

fn candidate(book: &Arc<Rulebook>, known: &Known, explained: Explained) -> Candidate {
    let played = Played::with(book, explained.made(), reach_of(known));
    let beside = Beside::new(played, known.start, known.within);
    Candidate { explained, beside, is_dead: false, has_shown: false }
}

/// Whether a mistake explains a sequence too.
pub(super) fn still_explains(book: &Arc<Rulebook>, known: &Known, explained: &Explained, lines: &[Line]) -> bool {
    let mut candidate = candidate(book, known, explained.clone());
    lines.iter().for_each(|line| candidate.feed(&Feed::Line(Box::new(line.clone())), known));
    !candidate.is_dead
}

impl Explained {
    /// The ids, `A with B`.
    pub fn name(&self) -> String {
        let with = self.with.as_ref().map_or(String::new(), |with| format!(" with {}", with.slip.id()));
        format!("{}{with}", self.slipped.slip.id())
    }

    /// The mistakes.
    pub fn made(&self) -> impl Iterator<Item = &Slipped> {
        std::iter::once(&self.slipped).chain(&self.with)
    }
}
