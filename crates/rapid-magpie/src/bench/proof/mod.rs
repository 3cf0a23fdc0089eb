//! The Proof bench: a search of every state that can be reached, on threads of its own, and its answers.

mod pages;
#[cfg(test)]
mod tests;

use super::{Bench, Effect, News};
use crate::desk::Desk;
use crate::desk::marks::{Marks, Truth};
use crate::desk::proof::Proven;
use crate::hands::{Hands, LONGEST_SEARCH};
use crate::ui::Hits;
use crate::ui::action::{Action, char, key};
use crate::ui::tabs::{digits, tabs};
use crate::ui::theme::Theme;
use crate::words::counted;
use crossterm::event::KeyCode;
use magpie_core::grid::{Grid, LayoutError};
use magpie_core::input::Input;
use magpie_core::proof::{Ask as Question, Inputs, Limits, Progress, Proof as Search, Report, prove};
use magpie_core::rulebook::{KindId, Rulebook};
use magpie_core::tape::{Session, Start};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError, mpsc};
use std::time::{Duration, Instant};

/// The pages of the bench, in the order of their keys.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Page {
    /// Whether and how it is won.
    #[default]
    Win,
    /// Where pieces get.
    Cells,
    /// What is promised.
    Promises,
    /// States by depth.
    Shape,
    /// Rules that nothing ever used.
    Rules,
}

impl Page {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Win, Self::Cells, Self::Promises, Self::Shape, Self::Rules];

    const fn title(self) -> &'static str {
        match self {
            Self::Win => "win",
            Self::Cells => "cells",
            Self::Promises => "promises",
            Self::Shape => "shape",
            Self::Rules => "unused",
        }
    }

    /// A sentence for the page of keys.
    const fn help(self) -> &'static str {
        match self {
            Self::Win => "whether it can be won, lost or spoilt, and how",
            Self::Cells => "where pieces get, never get, and stand only where no win is left",
            Self::Promises => "every promise, and what breaks it",
            Self::Shape => "how many states lie how deep",
            Self::Rules => "rules that nothing ever used",
        }
    }
}

/// Where a search begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum From {
    /// Where the map is entered.
    Entry,
    /// At the moment on the board.
    Here,
}

/// What the keys of this bench ask for.
#[derive(Clone, Debug)]
pub enum Ask {
    /// A page.
    Turn(Page),
    /// Every state is searched.
    Search(From),
    /// The search ends, and what is known stays.
    Stop,
    /// What the threads tell.
    Told(Told),
    /// The line below, or above.
    Move(i32),
    /// A line of a list.
    Line(usize),
    /// What is chosen goes on the tape: to its end, or to be stepped through.
    Lay(bool),
    /// All maps of the file are searched, one after the other.
    Maps,
    /// To the chosen rule, in the text.
    Rule,
}

/// What a search tells: how far it is, or what it has found.
#[derive(Clone, Debug)]
pub struct Told {
    generation: u64,
    what: What,
}

#[derive(Clone, Debug)]
enum What {
    SoFar(Progress, Duration),
    /// What was found of a map of the file.
    Map(usize, Box<Report>),
    /// All maps of the file have been searched.
    AllMaps,
    Found(Arc<Mutex<Option<Search>>>, Duration),
}

/// A search that is under way.
#[derive(Debug)]
struct Running {
    so_far: Option<(Progress, Duration)>,
    before: Vec<Input>,
}

/// What the bench knows besides the game.
#[derive(Debug, Default)]
pub struct Proof {
    page: Page,
    running: Option<Running>,
    /// Which search is the newest; what older ones tell is dropped.
    generation: u64,
    stop: Arc<AtomicBool>,
    /// How long the last search took.
    took: Option<Duration>,
    /// What was found of the maps of a rulebook.
    maps: Vec<(usize, Report)>,
    maps_of: Option<Arc<Rulebook>>,
    /// The bench is in front.
    front: bool,
    scroll: usize,
    /// The chosen line of the page's list.
    line: usize,
}

impl Bench for Proof {
    type Ask = Ask;
    const TITLE: &'static str = "Proof";

    fn actions(&self) -> Vec<Action<Ask>> {
        let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, ask);
        let mut all = match self.page {
            Page::Win | Page::Promises => vec![
                ask(&[key(KeyCode::Up)], "", "the answer above", Ask::Move(-1)),
                ask(&[key(KeyCode::Down)], "answer", "the answer below", Ask::Move(1)),
                ask(&[key(KeyCode::Enter)], "tape", "put the chosen tape on the tape and play it", Ask::Lay(true)),
                ask(&[char('s')], "step", "put it on the tape and stand before it: . steps", Ask::Lay(false)),
            ],
            Page::Cells => vec![
                ask(&[key(KeyCode::Up)], "", "the kind above", Ask::Move(-1)),
                ask(&[key(KeyCode::Down)], "kind", "the kind below: its cells on the board", Ask::Move(1)),
            ],
            Page::Shape => vec![ask(&[char('a')], "all maps", "search all maps of the file, side by side", Ask::Maps)],
            Page::Rules => vec![
                ask(&[key(KeyCode::Up)], "", "the rule above", Ask::Move(-1)),
                ask(&[key(KeyCode::Down)], "rule", "the rule below", Ask::Move(1)),
                ask(&[key(KeyCode::Enter)], "text", "to the chosen rule in the text", Ask::Rule),
            ],
        };
        all.push(ask(&[char('f')], "search", "search every way to play this map", Ask::Search(From::Entry)));
        all.push(ask(&[char('g')], "from here", "search every way to go on from this moment", Ask::Search(From::Here)));
        if self.running.is_some() {
            all.push(ask(&[char('x')], "stop", "stop the search and keep what is known", Ask::Stop));
        }
        all.extend(digits(&Page::ALL, Page::help, Ask::Turn));
        all
    }

    fn ask(&mut self, desk: &mut Desk, ask: Ask) -> Effect<Ask> {
        match ask {
            Ask::Turn(page) => {
                self.page = page;
                (self.scroll, self.line) = (0, 0);
            }
            Ask::Search(from) => return self.search(desk, from),
            Ask::Stop => self.stop.store(true, Ordering::Relaxed),
            Ask::Told(told) if told.generation == self.generation => self.take(desk, told.what),
            Ask::Told(_) => {}
            Ask::Move(by) => self.choose(desk, self.line.saturating_add_signed(by as isize)),
            Ask::Line(line) => self.choose(desk, line),
            Ask::Lay(to_end) => self.lay(desk, to_end),
            Ask::Maps => return self.search_maps(desk),
            Ask::Rule => match pages::rule(self.line, desk) {
                Some(line) => return Effect::Line(line),
                None => desk.say("no rule is listed here"),
            },
        }
        Effect::Nothing
    }

    fn render(&self, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
        let (mut hits, area) = tabs((&Page::ALL, self.page), Page::title, Ask::Turn, theme, area, buffer);
        hits.extend(pages::render(self, desk, theme, area, buffer));
        hits
    }

    fn news(&mut self, desk: &mut Desk, news: News) -> Effect<Ask> {
        match news {
            News::Entered => self.front = true,
            News::Left => self.front = false,
            News::Text => {
                // What the threads are at is of the old rules.
                self.stop.store(true, Ordering::Relaxed);
                self.generation += 1;
                self.running = None;
                // Another map of the same rules changes nothing about all of them.
                if !self.maps_of.iter().zip(desk.game.book()).any(|(of, book)| Arc::ptr_eq(of, book)) {
                    self.maps.clear();
                }
                (self.scroll, self.line) = (0, 0);
                let is_quick = self.took.is_some_and(|took| took < Duration::from_secs(1));
                if is_quick && desk.text.mistakes.is_empty() {
                    return self.search(desk, From::Entry);
                }
            }
            News::Game => {}
        }
        Effect::Nothing
    }

    /// What was proved of cells stands on the board.
    fn marks(&self, desk: &Desk) -> Marks {
        let mut marks = desk.marks();
        let Some(proven) = desk.proven.as_ref().filter(|_| self.page == Page::Cells) else { return marks };
        let report = proven.proof.report();
        marks.cells.clear();
        let Some((kind, is_controlled)) = pages::kinds(report).get(self.line).copied() else { return marks };
        let of = |all: &[(KindId, Vec<_>)]| {
            all.iter().find(|(known, _)| *known == kind).map_or_else(Vec::new, |(_, cells)| cells.clone())
        };
        if is_controlled {
            marks.truths.extend(report.never.iter().flatten().map(|cell| (*cell, Truth::Never)));
            marks.truths.extend(of(&report.cells).into_iter().map(|cell| (cell, Truth::Reached)));
        } else {
            let dead = report.dead_cells.as_deref().unwrap_or_default();
            marks.truths.extend(of(dead).into_iter().map(|cell| (cell, Truth::Dead)));
        }
        marks
    }

    fn scroll(&mut self, lines: i32) {
        self.scroll = self.scroll.saturating_add_signed(lines as isize);
    }

    fn close(&mut self, desk: &mut Desk) -> bool {
        if self.running.is_none() || self.stop.load(Ordering::Relaxed) {
            return false;
        }
        self.stop.store(true, Ordering::Relaxed);
        desk.say("the search is stopped: what is known by now stays");
        true
    }
}

/// The same game where its present map was entered.
fn entered(session: &Session) -> Result<Session, LayoutError> {
    let mut again = Session::new(session.start().clone())?;
    let mut map = again.grid().map();
    let mut entry = 0;
    for (number, played) in session.played().iter().enumerate() {
        again.give(&played.input);
        if again.grid().map() != map {
            (map, entry) = (again.grid().map(), number + 1);
        }
    }
    again.go(entry);
    Ok(again)
}

/// Searches everything on threads of its own, and tells ten times a second how far it is.
fn watched(
    start: &Grid,
    entered: Option<&Grid>,
    stop: &Arc<AtomicBool>,
    mut tell: impl FnMut(Progress, Duration),
) -> Search {
    let (sender, receiver) = mpsc::channel();
    std::thread::scope(|scope| {
        let search = scope.spawn(move || {
            let told = AtomicU64::new(0);
            let ear = |progress: Progress, time: Duration| {
                let tenth = time.as_millis() as u64 / 100;
                if told.swap(tenth, Ordering::Relaxed) != tenth {
                    // Nobody may be listening any more.
                    let _ = sender.send((progress, time));
                }
            };
            let hands = Hands::for_time(LONGEST_SEARCH, stop.clone(), ear);
            prove(start, entered, &Inputs::all(start), Question::All, Limits::default(), &hands)
        });
        receiver.into_iter().for_each(|(progress, time)| tell(progress, time));
        search.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
    })
}

impl Proof {
    /// Begins a search.
    fn search(&mut self, desk: &mut Desk, from: From) -> Effect<Ask> {
        let Some(session) = &desk.game.session else { return Effect::Nothing };
        let begun = match from {
            From::Here => None,
            From::Entry => match entered(session) {
                Ok(begun) => Some(begun),
                Err(error) => {
                    desk.say(error.to_string());
                    return Effect::Nothing;
                }
            },
        };
        let start = begun.as_ref().unwrap_or(session);
        self.stop.store(true, Ordering::Relaxed);
        self.stop = Arc::default();
        self.generation += 1;
        let before: Vec<Input> = start.played().iter().map(|entry| entry.input.clone()).collect();
        let start = start.grid().copied();
        self.running = Some(Running { so_far: None, before });
        let (generation, stop) = (self.generation, self.stop.clone());
        Effect::Work(Box::new(move |tell| {
            let mut tell = |what| tell(Ask::Told(Told { generation, what }));
            let begun = Instant::now();
            let entered = (from == From::Here).then_some(&start);
            let proof = watched(&start, entered, &stop, |progress, time| tell(What::SoFar(progress, time)));
            tell(What::Found(Arc::new(Mutex::new(Some(proof))), begun.elapsed()));
        }))
    }

    /// Searches all maps of the file, each from where it is entered.
    fn search_maps(&mut self, desk: &Desk) -> Effect<Ask> {
        let Some(book) = desk.game.book().cloned() else { return Effect::Nothing };
        self.stop.store(true, Ordering::Relaxed);
        self.stop = Arc::default();
        self.generation += 1;
        self.maps.clear();
        self.maps_of = Some(book.clone());
        self.running = Some(Running { so_far: None, before: Vec::new() });
        let (generation, stop) = (self.generation, self.stop.clone());
        Effect::Work(Box::new(move |tell| {
            let mut tell = |what| tell(Ask::Told(Told { generation, what }));
            for map in 0..book.maps.len() {
                let Ok(session) = Session::new(Start::map(book.clone(), map)) else { continue };
                if stop.load(Ordering::Relaxed) {
                    break;
                }
                let proof = watched(session.grid(), None, &stop, |progress, time| tell(What::SoFar(progress, time)));
                tell(What::Map(map, Box::new(proof.report().clone())));
            }
            tell(What::AllMaps);
        }))
    }

    /// Takes what the threads tell.
    fn take(&mut self, desk: &mut Desk, what: What) {
        match what {
            What::SoFar(progress, time) => {
                if let Some(running) = &mut self.running {
                    running.so_far = Some((progress, time));
                }
            }
            What::Map(map, report) => self.maps.push((map, *report)),
            What::AllMaps => self.running = None,
            What::Found(found, took) => {
                let Some(running) = self.running.take() else { return };
                self.took = Some(took);
                let found = found.lock().unwrap_or_else(PoisonError::into_inner).take();
                if let Some(proof) = found {
                    desk.take_proof(Proven::new(proof, running.before));
                }
            }
        }
    }

    fn choose(&mut self, desk: &Desk, line: usize) {
        let lines = pages::lines(self.page, desk);
        self.line = line.min(lines.saturating_sub(1));
    }

    /// Puts the chosen tape behind the moment where the search began.
    fn lay(&self, desk: &mut Desk, to_end: bool) {
        let Some(proven) = &desk.proven else {
            desk.say("nothing is proved yet: f searches");
            return;
        };
        match pages::tape(self.page, self.line, proven.proof.report()).cloned() {
            None => desk.say("this answer has no tape"),
            Some(tape) => {
                let is_cut = desk.lay_tape(&tape, to_end);
                if desk.note.is_none() {
                    let word = if to_end { "played" } else { "on the tape: . steps through it" };
                    let back = if is_cut { "; b brings the tape of before back" } else { "" };
                    desk.say(format!("{} {word}{back}", counted(tape.len(), "input")));
                }
            }
        }
    }
}
