//! The Trace bench: what somebody's game says it did, beside the model, line by line.

mod page;
#[cfg(test)]
mod tests;

use super::{Bench, Effect, News, Raw};
use crate::desk::Desk;
use crate::desk::marks::{Marks, Truth};
use crate::foreign::{Followed, Process, follow};
use crate::ui::Hits;
use crate::ui::action::{Action, char, key};
use crate::ui::line::{KEYS, Line as Typing, Typed};
use crate::ui::theme::Theme;
use crate::words::counted;
use crate::words::trace::fault_words;
use crossterm::event::KeyCode;
use magpie_core::grid::Grid;
use magpie_core::mishap::Played;
use magpie_core::proof::Inputs;
use magpie_core::space::Cell;
use magpie_core::tape::{Session, Start};
use magpie_core::trace::{
    Beside, Differs, Driven, Explained, Header, Known, Line, Plan, Read, Tongue, differing_cells, drive, explain_lines,
};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

/// Most lines of a log that are kept; those behind are counted.
const MOST_LINES: usize = crate::limits::MOST_LINES_KEPT;
/// Random sequences of a drive from the bench.
const RUNS: usize = 200;
/// How far positions may lie apart, in px.
const WITHIN: f64 = 0.01;

/// What is typed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Prompt {
    /// The path of a log.
    Log,
    /// A command that starts a program.
    Command,
}

/// What the keys of this bench ask for.
#[derive(Clone, Debug)]
pub enum Ask {
    /// A line to be typed.
    Prompt(Prompt),
    /// A log is read, and followed as it grows.
    Follow(PathBuf),
    /// What the threads tell.
    Told(Told),
    /// So many lines on, or back.
    Move(i32),
    /// A line of the list.
    Line(usize),
    /// To the line in which the two part, or to the last.
    Part,
    /// Nothing is read any more.
    Stop,
    /// The game that was on the board before is there again.
    Back,
}

/// What a thread tells.
#[derive(Clone, Debug)]
pub struct Told {
    generation: u64,
    what: What,
}

#[derive(Clone, Debug)]
enum What {
    Followed(Followed),
    Explained(Vec<Explained>, usize),
    Driven(Arc<Mutex<Option<Driven>>>, Vec<String>),
}

/// A line of the log, and what came of it.
#[derive(Debug)]
struct Row {
    /// Its number in the file.
    number: usize,
    line: Line,
    /// Whether it is alike; nothing where it tells nothing, or comes behind the first difference.
    is_alike: Option<bool>,
    /// Inputs on the tape behind it.
    position: usize,
}

/// Where lines come from.
#[derive(Clone, Debug, PartialEq, Eq)]
enum Source {
    Log(PathBuf),
    Command(String),
}

/// A log beside the model.
#[derive(Debug)]
struct Beheld {
    source: Source,
    start: Header,
    rows: Vec<Row>,
    /// Lines of the file, those that are not kept too.
    lines: usize,
    reports: usize,
    alike: usize,
    beside: Option<Beside>,
    /// The row in which the two part, and how.
    parts: Option<(usize, Vec<Differs>)>,
    mishaps: Vec<Explained>,
    /// Rows that the explanation has seen; nothing while it is looked for.
    explained: Option<usize>,
    /// Why no more is read.
    stopped: Option<String>,
    /// What driving came to, in words.
    driven: Vec<String>,
    is_live: bool,
}

/// What the bench knows besides the game.
#[derive(Debug, Default)]
pub struct Trace {
    beheld: Option<Beheld>,
    typing: Option<(Prompt, Typing)>,
    generation: u64,
    stop: Arc<AtomicBool>,
    /// The chosen row; nothing while it follows the newest.
    chosen: Option<usize>,
    scroll: usize,
    /// A command is running.
    is_driving: bool,
}

impl Bench for Trace {
    type Ask = Ask;
    const TITLE: &'static str = "Trace";

    fn actions(&self) -> Vec<Action<Ask>> {
        let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, ask);
        let mut all = vec![
            ask(&[char('f')], "log", "open the log of your game, and follow it as it grows", Ask::Prompt(Prompt::Log)),
            ask(&[char('d')], "drive", "start your program and give it inputs", Ask::Prompt(Prompt::Command)),
        ];
        if self.beheld.is_some() || self.is_driving {
            all.splice(
                0..0,
                [
                    ask(&[key(KeyCode::Up)], "", "the line above", Ask::Move(-1)),
                    ask(&[key(KeyCode::Down)], "line", "the line below: the board goes there", Ask::Move(1)),
                    ask(&[key(KeyCode::Enter)], "part", "to the line in which the two part", Ask::Part),
                ],
            );
            all.push(ask(&[char('x')], "stop", "read no more of it", Ask::Stop));
            all.push(ask(&[char('0')], "game", "back to the game that was on the board before", Ask::Back));
        }
        all
    }

    fn ask(&mut self, desk: &mut Desk, ask: Ask) -> Effect<Ask> {
        match ask {
            Ask::Prompt(prompt) => self.prompt(prompt),
            Ask::Follow(path) => return self.follow(desk, path),
            Ask::Told(told) if told.generation == self.generation => return self.take(desk, told.what),
            Ask::Told(_) => {}
            Ask::Move(by) => {
                let last = self.beheld.as_ref().map_or(0, |trace| trace.rows.len().saturating_sub(1));
                let from = self.shown();
                self.choose(desk, from.saturating_add_signed(by as isize).min(last));
            }
            Ask::Line(row) => self.choose(desk, row),
            Ask::Part => match self.beheld.as_ref().and_then(|trace| trace.parts.as_ref().map(|(row, _)| *row)) {
                Some(row) => self.choose(desk, row),
                None => desk.say("the two have not parted"),
            },
            Ask::Stop => {
                self.stop.store(true, Ordering::Relaxed);
                if let Some(trace) = &mut self.beheld {
                    trace.is_live = false;
                }
                desk.say("nothing is read any more: what is here stays");
            }
            Ask::Back => desk.back_to_game(),
        }
        Effect::Nothing
    }

    fn render(&self, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
        page::render(self, desk, theme, area, buffer)
    }

    fn raw(&mut self, desk: &mut Desk, raw: Raw) -> Option<Effect<Ask>> {
        let (prompt, line) = self.typing.as_mut()?;
        match raw {
            Raw::Key(event) => match line.key(event) {
                Typed::More => {}
                Typed::Leave => self.typing = None,
                Typed::Take => {
                    let (prompt, text) = (*prompt, line.text().trim().to_owned());
                    return Some(self.typed(desk, prompt, &text));
                }
            },
            Raw::Paste(text) => line.paste(text),
        }
        Some(Effect::Nothing)
    }

    fn typing(&self) -> &'static [(&'static str, &'static str)] {
        if self.typing.is_some() { KEYS } else { &[] }
    }

    fn news(&mut self, desk: &mut Desk, news: News) -> Effect<Ask> {
        match news {
            // The same lines beside the new rules.
            News::Text if is_on_board(desk) => self.again(desk),
            News::Text | News::Entered | News::Left | News::Game => Effect::Nothing,
        }
    }

    fn marks(&self, desk: &Desk) -> Marks {
        let mut marks = desk.marks();
        let cells = self.differing(desk);
        if !cells.is_empty() {
            marks.cells.clear();
            marks.truths.extend(cells.into_iter().map(|cell| (cell, Truth::Differs)));
        }
        marks
    }

    fn scroll(&mut self, lines: i32) {
        self.scroll = self.scroll.saturating_add_signed(lines as isize);
    }

    fn close(&mut self, desk: &mut Desk) -> bool {
        if !self.is_driving || self.stop.load(Ordering::Relaxed) {
            return false;
        }
        self.stop.store(true, Ordering::Relaxed);
        desk.say("the program is stopped");
        true
    }
}

/// Whether the game on the board is the one of the lines, or was until the text became another.
fn is_on_board(desk: &Desk) -> bool {
    desk.game.shown_for == Some(Trace::TITLE)
}

impl Trace {
    fn prompt(&mut self, prompt: Prompt) {
        let (label, hint) = match prompt {
            Prompt::Log => ("log of your game: ", "a file beside the rulebook, or any path; it need not be there yet"),
            Prompt::Command => {
                ("start ", "as in `python3 game.py`: it reads an input a line and answers each with a line")
            }
        };
        let before = match (prompt, self.beheld.as_ref().map(|trace| &trace.source)) {
            (Prompt::Log, Some(Source::Log(path))) => path.display().to_string(),
            (Prompt::Command, Some(Source::Command(command))) => command.clone(),
            _ => String::new(),
        };
        self.typing = Some((prompt, Typing::suggesting(label, hint, before)));
    }

    fn typed(&mut self, desk: &mut Desk, prompt: Prompt, text: &str) -> Effect<Ask> {
        if text.is_empty() {
            if let Some((_, line)) = &mut self.typing {
                line.refuse("nothing is typed");
            }
            return Effect::Nothing;
        }
        self.typing = None;
        match prompt {
            Prompt::Log => {
                let folder = desk.text.path().parent().map(Path::to_owned).unwrap_or_default();
                self.follow(desk, folder.join(text))
            }
            Prompt::Command => self.drive(desk, text),
        }
    }

    /// Lets threads of before go, and begins anew.
    fn renew(&mut self) -> (u64, Arc<AtomicBool>) {
        self.stop.store(true, Ordering::Relaxed);
        self.stop = Arc::default();
        self.generation += 1;
        self.chosen = None;
        self.scroll = 0;
        self.is_driving = false;
        (self.generation, self.stop.clone())
    }

    /// Reads a log and follows it.
    fn follow(&mut self, desk: &mut Desk, path: PathBuf) -> Effect<Ask> {
        let (generation, stop) = self.renew();
        self.begin(desk, Source::Log(path.clone()), true);
        Effect::Work(Box::new(move |tell| {
            follow(&path, &stop, |what| tell(Ask::Told(Told { generation, what: What::Followed(what) })));
        }))
    }

    /// Drives a program.
    fn drive(&mut self, desk: &mut Desk, command: &str) -> Effect<Ask> {
        let (Some(book), Some(grid)) = (desk.game.book().cloned(), desk.game.grid()) else { return Effect::Nothing };
        let map = grid.map();
        let Ok(entered) = Session::new(Start::map(book.clone(), map)) else { return Effect::Nothing };
        let folder = desk.text.path().parent().map(Path::to_owned).unwrap_or_default();
        let (generation, stop) = self.renew();
        self.is_driving = true;
        self.begin(desk, Source::Command(command.to_owned()), false);
        let command = vec!["sh".to_owned(), "-c".to_owned(), command.to_owned()];
        let entered = entered.grid().copied();
        Effect::Work(Box::new(move |tell| {
            let plan = Plan {
                start: Header { map: Some(map), seed: None },
                runs: RUNS,
                seed: 1,
                respawn: false,
                within: WITHIN,
            };
            let inputs = Inputs::all(&entered);
            let mut process = Process::new(command, None, stop).in_folder(folder);
            let found = drive(&book, &Tongue::default(), &plan, (&entered, &inputs), &mut process);
            let words = process.last_words();
            drop(process);
            let what = What::Driven(Arc::new(Mutex::new(Some(found))), words);
            tell(Ask::Told(Told { generation, what }));
        }))
    }

    /// An empty trace, and the game where its map is entered; the game of before is put aside.
    fn begin(&mut self, desk: &mut Desk, source: Source, is_live: bool) {
        self.beheld = Some(Beheld {
            source,
            start: Header { map: Some(desk.game.grid().map_or(0, Grid::map)), seed: None },
            rows: Vec::new(),
            lines: 0,
            reports: 0,
            alike: 0,
            beside: None,
            parts: None,
            mishaps: Vec::new(),
            explained: Some(0),
            stopped: None,
            driven: Vec::new(),
            is_live,
        });
        self.chosen = None;
        self.enter(desk);
    }

    /// Puts the game of the trace on the board, at its beginning.
    fn enter(&mut self, desk: &mut Desk) {
        let (Some(trace), Some(book)) = (&self.beheld, desk.game.book().cloned()) else { return };
        let start = Start { seed: trace.start.seed, ..Start::map(book, trace.start.map.unwrap_or(0)) };
        match Session::new(start) {
            Ok(session) => desk.put_on_board(Self::TITLE, session),
            Err(error) => desk.say(error.to_string()),
        }
    }

    /// Takes what the threads tell.
    fn take(&mut self, desk: &mut Desk, what: What) -> Effect<Ask> {
        match what {
            What::Followed(Followed::Begun) => {
                if let Some(Beheld { source, .. }) = self.beheld.take() {
                    self.begin(desk, source, true);
                }
            }
            What::Followed(Followed::Waiting(why)) => {
                if let Some(trace) = &mut self.beheld {
                    trace.stopped = Some(format!("waiting for it: {why}"));
                }
            }
            What::Followed(Followed::Endless) => {
                if let Some(trace) = &mut self.beheld {
                    trace.stopped = Some("a line has no end: no more is read".into());
                }
            }
            What::Followed(Followed::Lines(lines)) => {
                self.read(desk, &lines);
                return self.look_for_mishaps(desk);
            }
            What::Explained(mishaps, rows) => {
                if let Some(trace) = &mut self.beheld {
                    (trace.mishaps, trace.explained) = (mishaps, Some(rows));
                }
                return self.look_for_mishaps(desk);
            }
            What::Driven(found, words) => {
                self.is_driving = false;
                let found = found.lock().unwrap_or_else(PoisonError::into_inner).take();
                if let Some(found) = found {
                    self.take_driven(desk, found, &words);
                }
            }
        }
        Effect::Nothing
    }

    fn take_driven(&mut self, desk: &mut Desk, found: Driven, words: &[String]) {
        self.read(desk, &found.log);
        let Some(trace) = &mut self.beheld else { return };
        trace.mishaps = found.mishaps;
        trace.explained = Some(usize::MAX);
        let sent = format!("{} in {}", counted(found.sent, "input"), counted(found.sequences, "sequence"));
        let is_all = found.fault.is_none() && found.first.is_none() && found.pairs_of == Some(found.pairs);
        let pairs = match found.pairs_of {
            Some(all) if is_all && !found.is_cut => format!("all {all} pairs of a state and an input"),
            Some(all) => format!("{} of {all} pairs of a state and an input", found.pairs),
            None => "more pairs of a state and an input than are counted".into(),
        };
        trace.driven = vec![format!("{sent}: {pairs}")];
        match &found.fault {
            Some(fault) => {
                trace.driven.push(format!("✗ {}: {}", fault.word(), fault_words(fault)));
                if let Some(tape) = &found.tape {
                    let inputs: Vec<String> = tape.iter().map(ToString::to_string).collect();
                    trace.driven.push(format!(
                        "after: {}",
                        if inputs.is_empty() { "the start alone".into() } else { inputs.join(" ") }
                    ));
                }
                trace.driven.extend(found.passed.iter().chain(words).map(|line| format!("it said: {line}")));
            }
            None if found.first.is_none() && found.is_cut => {
                trace.driven.push("stopped; no difference until then".into())
            }
            None if is_all => trace.driven.push("✓ all pairs alike".into()),
            None if found.first.is_none() => trace.driven.push("✓ no difference".into()),
            None => {}
        }
        if let Some(row) = trace.parts.as_ref().map(|(row, _)| *row) {
            self.choose(desk, row);
        }
    }

    /// Reads lines as they come.
    fn read(&mut self, desk: &mut Desk, lines: &[String]) {
        let (Some(trace), Some(book)) = (&mut self.beheld, desk.game.book().cloned()) else { return };
        let mut inputs = Vec::new();
        let mut header = None;
        for text in lines {
            if trace.stopped.as_ref().is_some_and(|why| why.starts_with("waiting")) {
                trace.stopped = None;
            }
            trace.lines += 1;
            if trace.stopped.is_some() || trace.rows.len() >= MOST_LINES {
                continue;
            }
            match Tongue::default().read(text, &book) {
                Ok(Read::Passed) => {}
                Ok(Read::Header(found)) => header = header.or(trace.rows.is_empty().then_some(found)),
                Ok(Read::Line(line)) => {
                    if let Some(found) = header.take() {
                        trace.start = Header { map: found.map.or(trace.start.map), seed: found.seed };
                    }
                    trace.add(&book, *line, &mut inputs);
                }
                Err(error) => trace.stopped = Some(format!("line {}: {error}", trace.lines)),
            }
        }
        if header.is_some() || trace.rows.len() == inputs.len() {
            // The header names the map that is entered.
            self.enter(desk);
        }
        self.play(desk, &inputs);
    }

    /// Puts inputs on the tape, at its end.
    fn play(&mut self, desk: &mut Desk, inputs: &[(usize, Line)]) {
        let Some(trace) = &mut self.beheld else { return };
        let is_on_board = is_on_board(desk);
        if let Some(session) = desk.game.session.as_mut().filter(|_| is_on_board) {
            session.go(session.entries().len());
            for (row, line) in inputs {
                if let Some(input) = &line.input {
                    // The clock of a line that cannot be reached stays where it is.
                    if session.give_at(line.at, input).is_err() {
                        session.give(input);
                    }
                }
                trace.rows[*row].position = session.position();
            }
        }
        let last = self.chosen.unwrap_or_else(|| self.newest());
        self.stand_at(desk, last);
    }

    /// The row that is shown while none is chosen: the one in which the two part, or the last.
    fn newest(&self) -> usize {
        self.beheld
            .as_ref()
            .map_or(0, |trace| trace.parts.as_ref().map_or_else(|| trace.rows.len().saturating_sub(1), |(row, _)| *row))
    }

    fn choose(&mut self, desk: &mut Desk, row: usize) {
        let rows = self.beheld.as_ref().map_or(0, |trace| trace.rows.len());
        if rows > 0 {
            let row = row.min(rows - 1);
            self.chosen = Some(row);
            self.stand_at(desk, row);
        }
    }

    /// Winds the tape to behind a row.
    fn stand_at(&self, desk: &mut Desk, row: usize) {
        let position = self.beheld.as_ref().and_then(|trace| trace.rows.get(row)).map_or(0, |row| row.position);
        if is_on_board(desk) {
            desk.go(|_| position);
        }
    }

    /// The row that is shown.
    fn shown(&self) -> usize {
        self.chosen.unwrap_or_else(|| self.newest())
    }

    /// The cells in which the two differ, where the row that is shown is the one in which they part.
    fn differing(&self, desk: &Desk) -> Vec<Cell> {
        let found = self.beheld.as_ref().and_then(|trace| trace.parts.as_ref()).filter(|(row, _)| *row == self.shown());
        let (Some((_, differs)), Some(grid)) = (found, desk.game.grid()) else { return Vec::new() };
        differing_cells(grid.book(), grid.map_extent(), differs)
    }

    /// The same lines beside the rules as they are now.
    fn again(&mut self, desk: &mut Desk) -> Effect<Ask> {
        let Some(old) = self.beheld.take() else { return Effect::Nothing };
        let Some(book) = desk.game.book().cloned() else {
            self.beheld = Some(old);
            return Effect::Nothing;
        };
        let lines: Vec<String> = old.rows.iter().map(|row| row.line.to_json(&book).to_string()).collect();
        let (chosen, is_live) = (self.chosen, old.is_live);
        self.begin(desk, old.source, is_live);
        if let Some(trace) = &mut self.beheld {
            trace.start = old.start;
        }
        self.enter(desk);
        self.read(desk, &lines);
        if let Some(trace) = &mut self.beheld {
            trace.lines = old.lines.max(trace.lines);
            for (row, before) in trace.rows.iter_mut().zip(&old.rows) {
                row.number = before.number;
            }
        }
        self.chosen = chosen;
        self.look_for_mishaps(desk)
    }

    /// Looks for the mistake behind the first difference, on a thread, and anew where more lines have come.
    fn look_for_mishaps(&mut self, desk: &Desk) -> Effect<Ask> {
        let (Some(trace), Some(book)) = (&mut self.beheld, desk.game.book().cloned()) else { return Effect::Nothing };
        let seen = trace.explained.filter(|seen| trace.rows.len() > seen.saturating_add(seen / 4));
        if trace.parts.is_none() || seen.is_none() {
            return Effect::Nothing;
        }
        trace.explained = None;
        let lines: Vec<Line> = trace.rows.iter().map(|row| row.line.clone()).collect();
        let known = Known {
            start: trace.start,
            within: WITHIN,
            alike: trace.alike,
            reports: trace.reports,
            inputs: lines.iter().filter(|line| line.input.is_some()).count(),
        };
        let generation = self.generation;
        Effect::Work(Box::new(move |tell| {
            let mishaps = explain_lines(&book, &known, &lines);
            tell(Ask::Told(Told { generation, what: What::Explained(mishaps, lines.len()) }));
        }))
    }
}

impl Beheld {
    /// A line is held against the model, as long as the two have not parted.
    fn add(&mut self, book: &Arc<magpie_core::rulebook::Rulebook>, line: Line, inputs: &mut Vec<(usize, Line)>) {
        let row = self.rows.len();
        self.reports += usize::from(line.told.is_report());
        let mut is_alike = None;
        if self.parts.is_none() {
            let start = self.start;
            let beside = self.beside.get_or_insert_with(|| Beside::new(Played::right(book), start, WITHIN));
            match beside.take(&line) {
                Ok(verdict) if verdict.differs.is_empty() => {
                    is_alike = verdict.is_report.then_some(true);
                    self.alike += usize::from(verdict.is_report);
                }
                Ok(verdict) => {
                    is_alike = Some(false);
                    self.parts = Some((row, verdict.differs));
                }
                Err(error) => self.stopped = Some(format!("line {}: {error}", self.lines)),
            }
        }
        inputs.push((row, line.clone()));
        self.rows.push(Row { number: self.lines, line, is_alike, position: 0 });
    }
}
