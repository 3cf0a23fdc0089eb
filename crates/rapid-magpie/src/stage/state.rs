//! The state of the workbench and how messages change it; nothing here draws.

use super::action::Message;
use super::board_view::{self, BoardLayout, Overlay};
use super::draft::Draft;
use super::kept;
use super::motion::{Motion, Spread};
use super::real_time::RealTime;
use crate::bench::pace::{self, Pace};
use crate::bench::probe::{self, Probe};
use crate::bench::rules::{self, Rules};
use crate::bench::{Bench, Front};
use crate::cli::source::{Loaded, plain};
use magpie_core::board::{CellId, PieceId};
use magpie_core::grid::{Asked, Preview, Request, Taken};
use magpie_core::rulebook::{
    Act, Diagnostic, Key, KindId, Met, Pieces, PlainVerb, Rulebook, SetId, Severity, Trigger, Verb,
};
use magpie_core::space::{Cell, Heading, WorldPoint};
use magpie_core::tape::{Input, Session, Start};
use std::path::PathBuf;
use std::sync::Arc;

/// What lies over the bench.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Page {
    /// The keys.
    Help,
    /// The old and the new result of the first turn that an edit changed.
    Difference,
    /// A tape kept from a session that ended without leaving, with the number of its inputs.
    Kept(usize),
}

/// What a rulebook's last reload changed.
#[derive(Debug)]
pub struct Changed {
    /// The first entry of the tape whose result is another.
    pub entry: usize,
    /// The game under the old rules.
    pub old: Session,
}

/// Which cells the controlled piece can get into, nothing shoved.
#[derive(Debug, Default)]
pub struct Reach {
    /// One flag a cell, in reading order.
    pub reached: Vec<bool>,
    /// Cells in which nothing stands in the way, and which yet cannot be reached; one flag a cell.
    pub lost: Vec<bool>,
    /// Places where a lost cell touches a reached one at a corner only: gaps that a piece of one cell does not pass.
    pub gaps: usize,
}

/// Who gets the terminal until the workbench is called back.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Away {
    /// The shell.
    Shell,
    /// The programmer's own editor, on the rulebook.
    Editor,
}

/// Everything the workbench knows.
pub struct State {
    /// Its name.
    pub name: String,
    /// The game, where there has ever been a rulebook without mistakes.
    pub session: Option<Session>,
    /// What is wrong with the file as it is now.
    pub mistakes: Vec<Diagnostic>,
    /// Warnings about the file as it is now.
    pub warnings: Vec<Diagnostic>,
    /// The text of the file as it is now.
    pub source: String,
    /// Kinds that nothing ever moves.
    pub fixed: Vec<bool>,
    /// What the last edit changed.
    pub changed: Option<Changed>,
    /// The bench in front.
    pub bench: Bench,
    /// What is written into the cells.
    pub overlay: Overlay,
    /// What lies over the bench.
    pub page: Option<Page>,
    /// The cell that was clicked.
    pub cursor: Option<Cell>,
    /// Where the finger is down on the board.
    pub finger: Option<Cell>,
    /// Where it has been drawn to.
    pub finger_at: Option<Cell>,
    /// The Pace bench.
    pub pace: Pace,
    /// Milliseconds since the workbench was opened; it stands still where nobody looks.
    pub clock: f64,
    /// Whether steps are drawn between cells.
    pub smooth: bool,
    /// Real time, for rulebooks with timers.
    pub real: RealTime,
    /// What is on its way between cells.
    pub motion: Option<Motion>,
    /// A flood that is still spreading on the screen.
    pub spread: Option<Spread>,
    /// The kind that is counted on the rims.
    pub counted: Option<KindId>,
    /// The Probe bench.
    pub probe: Probe,
    /// The Rules bench.
    pub rules: Rules,
    /// What the benches have changed in the text and not written.
    pub draft: Draft,
    /// Where the rulebook lies.
    pub path: PathBuf,
    /// A word about the last key.
    pub note: Option<String>,
    /// Lines scrolled off the bench's list.
    pub scroll: usize,
    /// Cells that can be reached, while they are shown.
    pub reach: Option<Reach>,
    /// What every heading would answer now, for the first controlled piece.
    pub previews: Vec<Preview>,
    /// Where the board was drawn last.
    pub layout: BoardLayout,
    /// Where the tape is kept.
    pub keep: Option<kept::Keeper>,
    /// Inputs kept from a session that ended without leaving.
    pub kept_inputs: Vec<Input>,
    /// The workbench is to be left.
    pub leaving: bool,
    /// Whom the terminal is to be given for a while.
    pub away: Option<Away>,
}

impl State {
    /// A workbench on a file that has been read.
    pub fn new(loaded: Loaded) -> Self {
        let name = loaded.path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        let mut state = Self {
            name: plain(&name),
            session: None,
            mistakes: Vec::new(),
            warnings: Vec::new(),
            source: String::new(),
            fixed: Vec::new(),
            changed: None,
            bench: Bench::Play,
            overlay: Overlay::Content,
            page: None,
            cursor: None,
            finger: None,
            finger_at: None,
            pace: Pace::default(),
            clock: 0.0,
            smooth: false,
            real: RealTime::default(),
            motion: None,
            spread: None,
            counted: None,
            probe: Probe::default(),
            rules: Rules::default(),
            draft: Draft::default(),
            path: loaded.path.clone(),
            note: None,
            scroll: 0,
            reach: None,
            previews: Vec::new(),
            layout: BoardLayout::default(),
            keep: None,
            kept_inputs: Vec::new(),
            leaving: false,
            away: None,
        };
        state.reload(loaded);
        state.probe.pointer = probe::home(&state);
        state
    }

    /// Takes a file as it is now: with mistakes the last good game stays, else the tape is played again.
    pub fn reload(&mut self, loaded: Loaded) {
        let (mistakes, warnings) =
            loaded.reading.diagnostics.into_iter().partition(|found| found.code.severity() == Severity::Error);
        self.mistakes = mistakes;
        self.warnings = warnings;
        self.source = loaded.reading.source;
        self.scroll = 0;
        let Some(book) = loaded.reading.rulebook else {
            // The list of mistakes comes in front of everything but the page of keys.
            self.page = self.page.take().filter(|page| *page == Page::Help);
            return;
        };
        let book = Arc::new(book);
        let map = self.session.as_ref().map_or(0, |session| session.start().map.clone().err().unwrap_or(0));
        let start = Start::map(book.clone(), map.min(book.maps.len().saturating_sub(1)));
        let new = match &self.session {
            Some(session) => session.again(start),
            None => Session::new(start),
        };
        match new {
            Err(error) => self.note = Some(error.to_string()),
            Ok(new) => {
                self.fixed = fixed_kinds(&book);
                let old = self.session.replace(new);
                self.note_change(old);
                self.refresh();
                probe::follow(self);
                (self.motion, self.spread) = (None, None);
                if self.bench == Bench::Pace {
                    pace::refresh(self);
                }
            }
        }
    }

    /// Finds the first entry of the tape whose result the reload changed.
    fn note_change(&mut self, old: Option<Session>) {
        let (Some(old), Some(new)) = (old, &self.session) else {
            return;
        };
        self.changed = first_change(&old, new).map(|entry| Changed { entry, old });
        self.note = Some(match &self.changed {
            Some(changed) => format!("reloaded: input {} comes out differently (d shows both)", changed.entry + 1),
            None => "reloaded: every input comes out as before".into(),
        });
        if self.page == Some(Page::Difference) {
            self.page = None;
        }
    }

    /// Works out anew what follows from the state of the game.
    pub(super) fn refresh(&mut self) {
        self.previews.clear();
        let Some(session) = &mut self.session else {
            return;
        };
        let grid = session.grid_mut();
        let headings = headings_of(grid.book());
        if let Some(piece) = grid.controlled().first().copied() {
            self.previews = headings.into_iter().map(|heading| grid.preview(piece, heading)).collect();
        }
        if self.reach.is_some() {
            self.reach = Some(self.reachable());
        }
        if let (Some(keep), Some(session)) = (&mut self.keep, &self.session) {
            keep.write(session);
        }
    }

    /// Whether the rulebook uses a key of the keyboard.
    pub fn uses_key(&self, word: &str) -> bool {
        let key = Trigger::Key(Key(word.into()));
        self.session.as_ref().is_some_and(|session| session.grid().book().inputs.iter().any(|rule| rule.trigger == key))
    }

    /// The pages in front.
    pub fn front(&self) -> Front {
        Front { probe: self.probe.page, rules: self.rules.page }
    }

    /// Whether the arrow keys belong to the game now.
    pub fn arrows_play(&self) -> bool {
        self.bench == Bench::Play
    }

    /// The last request that a rule made for a piece itself, of the entry played last.
    pub fn last_request(&self) -> Option<&Request> {
        let session = self.session.as_ref()?;
        let own = |request: &&Request| request.by == Asked::Own;
        session.played().last()?.answers.iter().rev().find_map(|answer| answer.requests.iter().rfind(own))
    }

    /// The cell on which the eye should rest: chosen, pointed at, or the controlled piece's.
    pub fn focus(&self) -> Option<Cell> {
        let session = self.session.as_ref()?;
        let grid = session.grid();
        let board = grid.board();
        if self.bench == Bench::Probe {
            return probe::cell(self);
        }
        let piece = grid.controlled().first().copied();
        let cell = piece.and_then(|piece| board.cell_of(piece)).map(|cell| board.cell(cell));
        self.cursor.or(cell)
    }

    /// Changes the state by a message.
    pub fn update(&mut self, message: Message) {
        self.note = None;
        match message {
            Message::Play(input) => self.play(&input),
            Message::Quit => self.leaving = true,
            Message::Suspend => self.away = Some(Away::Shell),
            Message::Help => self.page = if self.page == Some(Page::Help) { None } else { Some(Page::Help) },
            Message::Close => self.close(),
            Message::NextBench => self.turn_bench(1),
            Message::LastBench => self.turn_bench(Bench::ALL.len() - 1),
            Message::Bench(number) => {
                self.bench = Bench::ALL.get(number).copied().unwrap_or(Bench::Play);
                self.scroll = 0;
                (self.motion, self.spread) = (None, None);
                self.pace.live = None;
                if self.bench == Bench::Pace {
                    pace::refresh(self);
                }
                if self.bench == Bench::Rules {
                    rules::update(self, rules::Ask::Follow);
                }
            }
            Message::Overlay => self.overlay = self.overlay.next(),
            Message::Back => self.go(|position| position.saturating_sub(1)),
            Message::Forth => self.go(|position| position + 1),
            Message::First => self.go(|_| 0),
            Message::Last => self.go(|_| usize::MAX),
            Message::Go(position) => self.go(|_| position),
            Message::NextMap => self.next_map(),
            Message::Reach => self.toggle_reach(),
            Message::Difference => self.difference(),
            Message::Branch => self.branch(),
            Message::Scroll(lines) => {
                self.scroll = self.scroll.saturating_add_signed(lines as isize);
            }
            Message::Rules(ask) => rules::update(self, ask),
            Message::Probe(ask) => probe::update(self, ask),
            Message::Pace(ask) => pace::update(self, ask),
            Message::Pause if !self.has_timers() => self.note = Some("nothing happens by itself in this game".into()),
            Message::Pause => self.real.runs = !self.real.runs,
            Message::ClockStep => self.clock_step(),
            Message::Speed(by) => {
                self.real.change(by);
                if !self.has_timers() {
                    self.note = Some(format!("floods spread at {}", self.real.words()));
                }
            }
            Message::Count => self.count_next(),
            Message::Smooth => {
                self.smooth = !self.smooth;
                self.motion = None;
                self.note =
                    Some(if self.smooth { "steps are drawn between cells" } else { "steps are drawn at once" }.into());
            }
            Message::Kept(take) => self.take_kept(take),
        }
    }

    fn toggle_reach(&mut self) {
        /// Boards above this size would make every key wait.
        const CELLS: u32 = 300_000;
        let cells = self.session.as_ref().map_or(0, |session| session.grid().board().cells());
        if cells > CELLS {
            self.note = Some(format!("reach is shown on boards of at most {CELLS} cells"));
        } else if self.reach.take().is_none() {
            self.reach = Some(self.reachable());
        }
    }

    fn close(&mut self) {
        if self.bench == Bench::Rules && self.page.is_none() && rules::close(self) {
            return;
        }
        if self.pace.live.take().is_some() {
            return;
        }
        if self.page.take().is_none() {
            self.cursor = None;
            self.reach = None;
        }
        self.scroll = 0;
    }

    fn turn_bench(&mut self, by: usize) {
        let at = Bench::ALL.iter().position(|bench| *bench == self.bench).unwrap_or(0);
        self.update(Message::Bench((at + by) % Bench::ALL.len()));
    }

    pub(super) fn play(&mut self, input: &Input) {
        self.give_owed(input);
        let Some(session) = &mut self.session else {
            return;
        };
        if session.give(input) == Taken::No {
            self.note = Some(match input {
                Input::Undo => "nothing to take back".into(),
                Input::Next => "`next` needs a win, and a map behind this one".into(),
                _ => "the game is over: u takes back, r begins again".into(),
            });
        }
        self.scroll = 0;
        self.begin_motion(input);
        self.forget_late_change();
        self.refresh();
    }

    /// What the last input moved is drawn on its way.
    pub(super) fn begin_motion(&mut self, input: &Input) {
        (self.motion, self.spread) = (None, None);
        let (true, Some(session)) = (self.smooth && *input != Input::Undo, &self.session) else {
            return;
        };
        let (book, extent) = (session.grid().book(), session.grid().board().extent());
        let answers = session.played().last().map_or(&[][..], |entry| entry.answers.as_slice());
        self.motion = Motion::of(answers, book, extent, self.clock);
        self.spread = Spread::of(answers, extent, self.clock, self.real.factor());
    }

    /// The next kind on the board is counted on the rims; after the last none.
    fn count_next(&mut self) {
        let Some(session) = &self.session else { return };
        let (book, board) = (session.grid().book(), session.grid().board());
        let first = self.counted.map_or(0, |kind| kind.0 + 1);
        let there = |kind: &KindId| Some(*kind) != book.ground && board.count(*kind) > 0;
        self.counted = (first..book.kinds.len() as u16).map(KindId).find(there);
        self.note = Some(match self.counted {
            Some(kind) => format!("the rims count {}: {} on the map", book.kind(kind).name, board.count(kind)),
            None => "the rims show columns and rows".into(),
        });
    }

    /// Whether something is drawn between cells now.
    pub const fn is_moving(&self) -> bool {
        self.motion.is_some() || self.spread.is_some() || self.pace.live.is_some()
    }

    /// The workbench's clock goes on.
    pub fn tick(&mut self, clock: f64) {
        self.clock = clock;
        self.real.pass(clock);
        self.fire_due();
        if self.motion.as_ref().is_some_and(|motion| motion.is_over(clock)) {
            self.motion = None;
        }
        if self.spread.as_ref().is_some_and(|spread| spread.is_over(clock)) {
            self.spread = None;
        }
        if let (Some(live), Some(session)) = (&mut self.pace.live, &mut self.session)
            && !live.tick(clock, session)
        {
            self.pace.live = None;
        }
    }

    /// Pieces that are drawn elsewhere than in their cells.
    pub fn ghosts(&self) -> Vec<board_view::Ghost> {
        match (self.bench, &self.motion) {
            (Bench::Pace, _) => pace::ghosts(self),
            (Bench::Play, Some(motion)) => [self.between_cells(), motion.ghosts(self.clock)].concat(),
            (Bench::Play, None) | (Bench::Rules, _) => self.between_cells(),
            (Bench::Probe, _) => Vec::new(),
        }
    }

    /// Gliders and riders, where they are at this moment of real time.
    fn between_cells(&self) -> Vec<board_view::Ghost> {
        let Some(session) = &self.session else { return Vec::new() };
        let grid = session.grid();
        let (board, geometry) = (grid.board(), &grid.book().geometry);
        let ms = if self.time_runs() { self.real.owed() } else { 0 };
        let corner = geometry.corner_of_first(board.extent());
        let (pitch, gap) = (geometry.pitch(), geometry.gap);
        let drawn = grid.between_cells().filter_map(|piece| {
            let (x, y) = grid.at_in(piece, ms)?;
            let across = x * pitch.0 - gap.0 / 2.0;
            let at =
                WorldPoint { x: corner.x + across, y: corner.y + geometry.row_sign() * (y * pitch.1 - gap.1 / 2.0) };
            let hides = board.cell_of(piece).map(|cell| board.cell(cell));
            Some(board_view::Ghost { kind: board.kind_of(piece), at, claimed: None, hides })
        });
        // What is carried is drawn over what carries it.
        let mut drawn: Vec<board_view::Ghost> = drawn.collect();
        drawn.sort_by_key(|ghost| board.layer(ghost.kind));
        drawn
    }

    /// A change at an entry that is no longer on the tape is nothing to show.
    pub(super) fn forget_late_change(&mut self) {
        let length = self.session.as_ref().map_or(0, |session| session.entries().len());
        if self.changed.as_ref().is_some_and(|changed| changed.entry >= length) {
            self.changed = None;
        }
    }

    fn go(&mut self, to: impl Fn(usize) -> usize) {
        if let Some(session) = &mut self.session {
            session.go(to(session.position()));
            self.scroll = 0;
            self.refresh();
        }
    }

    fn next_map(&mut self) {
        let Some(session) = &self.session else { return };
        let book = session.grid().book().clone();
        let next = (session.grid().map() + 1) % book.maps.len();
        match Session::new(Start::map(book, next)) {
            Ok(session) => self.session = Some(session),
            Err(error) => self.note = Some(error.to_string()),
        }
        self.changed = None;
        self.cursor = None;
        self.refresh();
        probe::follow(self);
    }

    fn difference(&mut self) {
        if self.page == Some(Page::Difference) {
            self.page = None;
        } else if self.changed.is_some() {
            self.page = Some(Page::Difference);
        } else {
            self.note = Some("no edit has changed anything on this tape".into());
        }
    }

    fn branch(&mut self) {
        let Some(session) = &mut self.session else {
            return;
        };
        match session.branches().len() {
            0 => {
                self.note = Some("no tape has been cut off: playing on from an earlier input keeps the rest".into());
            }
            count => {
                session.switch(count - 1);
                self.note = Some("this is the tape that was cut off; b goes back".into());
                self.refresh();
            }
        }
    }

    /// Offers the tape of a session that ended without leaving.
    pub fn offer_kept(&mut self, inputs: Vec<Input>) {
        if !inputs.is_empty() {
            self.page = Some(Page::Kept(inputs.len()));
            self.kept_inputs = inputs;
        }
    }

    fn take_kept(&mut self, take: bool) {
        self.page = None;
        let inputs = std::mem::take(&mut self.kept_inputs);
        if !take {
            return;
        }
        if let Some(session) = &mut self.session {
            for input in &inputs {
                session.give(input);
            }
        }
        self.refresh();
    }

    /// Whether the rulebook has a rule about touches: then the mouse is the finger.
    pub fn is_touched(&self) -> bool {
        let touch = |trigger: &Trigger| matches!(trigger, Trigger::Tap(_) | Trigger::Drag(..));
        self.session
            .as_ref()
            .is_some_and(|session| session.grid().book().inputs.iter().any(|rule| touch(&rule.trigger)))
    }

    /// The mouse button goes down on the board.
    pub fn press(&mut self, column: u16, line: u16) {
        let Some(session) = &self.session else { return };
        let (book, extent) = (session.grid().book(), session.grid().board().extent());
        match self.bench {
            Bench::Play if self.is_touched() => self.finger = self.layout.place_at(book, extent, column, line),
            Bench::Play | Bench::Pace | Bench::Rules => {
                if let Some((cell, _)) = self.layout.cell_at(book, extent, column, line) {
                    self.cursor = if self.cursor == Some(cell) { None } else { Some(cell) };
                }
            }
            Bench::Probe => {
                (self.probe.pressed, self.probe.down) = (None, None);
                self.drag(column, line);
                self.probe.down = Some(probe::world(self));
            }
        }
    }

    /// The mouse button goes up: on the cell where it went down a tap, elsewhere a drag.
    pub fn release(&mut self, column: u16, line: u16) {
        self.probe.down = None;
        self.finger_at = None;
        let (Some(from), Some(session)) = (self.finger.take(), &self.session) else {
            return;
        };
        let to = self.layout.place_at(session.grid().book(), session.grid().board().extent(), column, line);
        match to {
            Some(to) if to == from => {
                self.cursor = Some(to);
                self.update(Message::Play(Input::Tap(to)));
            }
            Some(to) => self.update(Message::Play(Input::Drag(from, to))),
            None => {}
        }
    }

    /// The mouse moves with its button down.
    pub fn drag(&mut self, column: u16, line: u16) {
        let Some(session) = &self.session else { return };
        let grid = session.grid();
        let Some((cell, part)) = self.layout.cell_at(grid.book(), grid.board().extent(), column, line) else {
            return;
        };
        match self.bench {
            Bench::Play if self.finger.is_some() => self.finger_at = Some(cell),
            Bench::Play | Bench::Pace | Bench::Rules => {}
            Bench::Probe => {
                self.probe.pressed = self.probe.pressed.or(self.probe.down);
                let point = board_view::world_of(grid.book(), grid.board().extent(), cell, part);
                probe::put(self, point);
            }
        }
    }

    /// Cells that the first controlled piece gets into by its requests as they would be answered now, nothing shoved.
    fn reachable(&mut self) -> Reach {
        let Some(session) = &mut self.session else {
            return Reach::default();
        };
        let headings = headings_of(session.grid().book());
        let grid = session.grid_mut();
        let Some(piece) = grid.controlled().first().copied() else {
            return Reach::default();
        };
        let reached = grid.reachable(piece, &headings);
        let board = grid.board();
        let layer = board.layer(board.kind_of(piece));
        let open = |cell: CellId| !board.is_void(cell) && board.kind_at(cell, layer).is_none();
        let is_lost = |cell: CellId| open(cell) && !reached[cell.0 as usize];
        let lost: Vec<bool> = (0..board.cells()).map(|cell| is_lost(CellId(cell))).collect();
        let gap = |id: CellId| {
            let Cell { column, row } = board.cell(id);
            let at = |dx: i64, dy: i64| board.id(Cell::new(column + dx, row + dy));
            [(-1, -1), (1, -1), (-1, 1), (1, 1)].into_iter().any(|(dx, dy)| {
                let shut = |cell: Option<CellId>| cell.is_none_or(|cell| !open(cell) && !reached[cell.0 as usize]);
                at(dx, dy).is_some_and(|cell| reached[cell.0 as usize]) && shut(at(dx, 0)) && shut(at(0, dy))
            })
        };
        let gaps = (0..board.cells()).filter(|cell| lost[*cell as usize] && gap(CellId(*cell))).count();
        Reach { reached, lost, gaps }
    }

    /// The controlled piece whose answers are shown.
    pub fn controlled(&self) -> Option<PieceId> {
        self.session.as_ref().and_then(|session| session.grid().controlled().first().copied())
    }
}

/// The headings that a rulebook's pieces ask for: the straight ones, and the diagonals where some rule steps so.
pub fn headings_of(book: &Rulebook) -> Vec<Heading> {
    use magpie_core::rulebook::{Act, HeadingWord};
    let steps_diagonally =
        |act: &Act| matches!(act, Act::Step { heading: HeadingWord::Compass(heading), .. } if heading.is_diagonal());
    let diagonal = book.inputs.iter().flat_map(|rule| &rule.actions).flatten().any(steps_diagonally);
    let straight = [Heading::North, Heading::East, Heading::South, Heading::West];
    let rest = [Heading::NorthEast, Heading::SouthEast, Heading::SouthWest, Heading::NorthWest];
    straight.into_iter().chain(rest.into_iter().filter(|_| diagonal)).collect()
}

/// Kinds that no rule ever moves: they are drawn as solid blocks.
fn fixed_kinds(book: &Rulebook) -> Vec<bool> {
    let mut fixed = vec![true; book.kinds.len()];
    let mut free = |set| {
        book.set(set).iter().for_each(|kind| fixed[usize::from(kind.0)] = false);
    };
    for control in &book.controls {
        free(control.who);
    }
    book.glides.iter().for_each(|glide| free(glide.who));
    let own = |kind: KindId| SetId(kind.0.into());
    book.trails.iter().for_each(|trail| free(own(trail.leaves)));
    book.shapes.iter().for_each(|shape| free(own(shape.kind)));
    let inputs = book.inputs.iter().flat_map(|rule| rule.actions.iter().flatten());
    let effects = book.whens.iter().flat_map(|rule| &rule.effects);
    for act in inputs.chain(effects).chain(book.meetings.iter().flat_map(|rule| &rule.effects)) {
        match act {
            Act::Step { pieces: Pieces::Every(set, _), .. } | Act::Fall(set, _) | Act::Refill(set, _) => free(*set),
            Act::SpawnKind(kind, _) | Act::Place(kind, _) | Act::Flood { into: kind, .. } => free(own(*kind)),
            _ => {}
        }
    }
    for rule in &book.inputs {
        let (one, other) = match &rule.trigger {
            Trigger::Tap(what) => (*what, None),
            Trigger::Drag(what, onto) => (*what, *onto),
            _ => (None, None),
        };
        for touched in [one, other].into_iter().flatten() {
            if let Met::Pieces(set) = touched {
                free(set);
            }
        }
    }
    for meeting in &book.meetings {
        if let (Met::Pieces(set), Verb::Shove { .. } | Verb::Plain(PlainVerb::Swap | PlainVerb::Take)) =
            (meeting.met, meeting.verb)
        {
            free(set);
        }
    }
    fixed
}

/// The first entry whose result differs between two games of the same tape.
fn first_change(old: &Session, new: &Session) -> Option<usize> {
    /// Boards above this size are compared by their answers alone.
    const CELLS: u32 = 100_000;
    let pictures = old.grid().board().cells() <= CELLS && new.grid().board().cells() <= CELLS;
    let length = old.entries().len();
    if new.entries().len() < length {
        return Some(new.entries().len());
    }
    let again = |session: &Session| Session::new(session.start().clone()).ok();
    let (mut one, mut other) = (again(old)?, again(new)?);
    for at in 0..length {
        let answers = |session: &Session| {
            let requests = session.entries()[at].answers.iter().flat_map(|answer| &answer.requests);
            requests.map(|request| (request.granted, request.from, request.to)).collect::<Vec<_>>()
        };
        one.give(&old.entries()[at].input);
        other.give(&new.entries()[at].input);
        let counters = |session: &Session| -> Vec<(String, i64)> {
            session.grid().counters().map(|(name, value)| (name.to_owned(), value)).collect()
        };
        if answers(old) != answers(new)
            || counters(&one) != counters(&other)
            || one.grid().outcome() != other.grid().outcome()
            || (pictures && one.grid().picture() != other.grid().picture())
        {
            return Some(at);
        }
    }
    None
}
