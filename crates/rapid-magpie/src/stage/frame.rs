//! The frame round the benches: which one is in front, what lies over it, and the one way of every key. No terminal is in
//! it, so that tests feed it keys.

use super::kept::{Keeper, Kept};
use crate::bench::{self, Benches, Effect, News, Raw, Which, Work};
use crate::desk::Desk;
use crate::desk::board::Finger;
use crate::files::Loaded;
use crate::ui::Hits;
use crate::ui::action::{Action, Stroke, char, control, key, shift};
use crate::ui::theme::Theme;
use crate::words::counted;
use crossterm::event::{Event, KeyCode, KeyEvent, KeyEventKind, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use magpie_core::input::{Input, Key};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use std::time::Duration;

/// What a key or the mouse asks the frame for.
#[derive(Clone, Debug, PartialEq)]
pub enum Ask {
    /// An input of the game.
    Play(Input),
    /// A key of the game goes down; whether it repeats itself.
    Press(Input, bool),
    /// Leave the workbench.
    Quit,
    /// The next bench, or with a negative number the one before.
    Turn(i32),
    /// A bench.
    Bench(Which),
    /// The page of keys.
    Help,
    /// Back from a page, list or line.
    Close,
    /// What is written into the cells.
    Overlay,
    /// One turn back on the tape.
    Back,
    /// One turn forth on the tape.
    Forth,
    /// To a place on the tape.
    Go(usize),
    /// To its end.
    Last,
    /// To the next map.
    NextMap,
    /// The result of the last edit beside the old one.
    Difference,
    /// The tape that was cut off last.
    Branch,
    /// Scrolls what is in front.
    Scroll(i32),
    /// The kept tape is taken back, or forgotten.
    Kept(bool),
    /// The whole window to one of the two, or back to both.
    Room(Room),
    /// The cursor on the board, by columns and lines.
    Cursor(i64, i64),
    /// The stop key of the shell.
    Suspend,
}

/// What anything asks for.
#[derive(Clone, Debug)]
pub enum Message {
    /// Of the bench that it belongs to.
    Bench(bench::Ask),
    /// Of the frame.
    Frame(Ask),
}

/// What lies over the bench.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Page {
    /// The keys.
    Help,
    /// The old and the new result of the first turn that an edit changed.
    Difference,
    /// A tape kept from a session that ended without leaving.
    Kept,
}

/// Who has the window.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Room {
    /// Board and bench.
    #[default]
    Both,
    /// The bench alone.
    Bench,
    /// The board alone.
    Board,
}

/// What the frame wants of the terminal and the threads.
pub enum Order {
    /// The workbench is left.
    Leave,
    /// The terminal is the shell's for a while.
    Shell,
    /// The terminal is the programmer's own editor's for a while.
    Editor,
    /// A thread is to do this and tell what comes out.
    Work(Work<bench::Ask>),
}

/// The frame with everything in it.
pub struct Frame {
    /// What all benches share.
    pub desk: Desk,
    /// All benches.
    pub benches: Benches,
    /// The bench in front.
    pub front: Which,
    /// What lies over it.
    pub page: Option<Page>,
    /// Who has the window.
    pub room: Room,
    /// Lines scrolled off the page.
    pub scroll: usize,
    /// Tapes kept from sessions that ended without leaving, the newest first.
    pub kept: Vec<Kept>,
    /// Where the tape of this session is kept.
    pub keep: Option<Keeper>,
    /// The last message asked whether to leave without saving, and the one before it.
    leaving: bool,
    asked_to_leave: bool,
    theme: Theme,
    hits: Hits<Message>,
    orders: Vec<Order>,
}

impl Frame {
    /// A frame round a file that has been read.
    pub fn new(loaded: Loaded, bytes: Vec<u8>, theme: Theme) -> Self {
        let mut frame = Self {
            desk: Desk::new(loaded, bytes),
            benches: Benches::default(),
            front: Which::ALL[0],
            page: None,
            scroll: 0,
            room: Room::default(),
            leaving: false,
            asked_to_leave: false,
            kept: Vec::new(),
            keep: None,
            theme,
            hits: Vec::new(),
            orders: Vec::new(),
        };
        frame.desk.time.played = frame.benches.plays(frame.front);
        let effects = frame.benches.news(&mut frame.desk, News::Text);
        effects.into_iter().for_each(|effect| frame.effect(effect));
        frame.tell();
        frame
    }

    /// What is wanted of the terminal and the threads since this was last asked.
    pub fn take_orders(&mut self) -> Vec<Order> {
        std::mem::take(&mut self.orders)
    }

    /// The keys of every bench.
    pub fn common() -> Vec<Action<Ask>> {
        vec![
            Action::new(&[char('u')], "undo", "take the last input back", Ask::Play(Input::Undo)),
            Action::new(&[char('r')], "restart", "begin this map again", Ask::Play(Input::Restart)),
            Action::new(&[char(',')], "back", "one input back on the tape", Ask::Back),
            Action::new(&[char('.')], "forth", "one input forth on the tape", Ask::Forth),
            Action::new(&[char('?')], "keys", "this page", Ask::Help),
            Action::new(&[key(KeyCode::Esc)], "", "close what is open", Ask::Close),
            Action::new(&[key(KeyCode::Tab)], "bench", "the next bench", Ask::Turn(1)),
            Action::new(&[char('q'), control('c')], "leave", "leave the workbench", Ask::Quit),
            Action::new(
                &[char('o')],
                "overlay",
                "write content, column and row, index or nothing into the cells",
                Ask::Overlay,
            ),
            Action::new(&[char('m')], "map", "open the next map with an empty tape", Ask::NextMap),
            Action::new(&[char('z')], "room", "the whole window to the bench, and back", Ask::Room(Room::Bench)),
            Action::new(&[char('Z')], "", "the whole window to the board, and back", Ask::Room(Room::Board)),
            Action::new(&[shift(KeyCode::Left)], "", "the cursor on the board to the left", Ask::Cursor(-1, 0)),
            Action::new(&[shift(KeyCode::Right)], "", "to the right", Ask::Cursor(1, 0)),
            Action::new(&[shift(KeyCode::Up)], "", "up", Ask::Cursor(0, -1)),
            Action::new(&[shift(KeyCode::Down)], "", "down", Ask::Cursor(0, 1)),
            Action::new(&[key(KeyCode::Home), char('<')], "", "to the beginning of the tape", Ask::Go(0)),
            Action::new(&[key(KeyCode::End), char('>')], "", "to the end of the tape", Ask::Last),
            Action::new(&[char('n')], "", "after a win, on to the next map", Ask::Play(Input::Next)),
            Action::new(&[char('b')], "", "go over to the tape that was cut off last", Ask::Branch),
            Action::new(&[char('d')], "", "the last edit's result beside the old one", Ask::Difference),
            Action::new(&[key(KeyCode::PageUp)], "", "scroll the bench up", Ask::Scroll(-5)),
            Action::new(&[key(KeyCode::PageDown)], "", "scroll the bench down", Ask::Scroll(5)),
            Action::new(&[key(KeyCode::BackTab)], "", "the bench before", Ask::Turn(-1)),
            Action::new(&[control('z')], "", "stop, back to the shell", Ask::Suspend),
        ]
    }

    /// All keys that hold now, the bench's first.
    pub fn actions(&self) -> Vec<Action<Message>> {
        let own = self.benches.actions(self.front).into_iter().map(|action| action.map(Message::Bench));
        own.chain(Self::common().into_iter().map(|action| action.map(Message::Frame))).collect()
    }

    /// An event of the terminal.
    pub fn event(&mut self, event: &Event) {
        match event {
            Event::Key(key) => self.key(key),
            Event::Mouse(mouse) => self.mouse(*mouse),
            Event::Paste(text) if self.page.is_none() => self.raw(Raw::Paste(text)),
            _ => {}
        }
        self.tell();
    }

    /// A key: the question in front has it first, then a bench that types, then the game, then the tables of keys.
    fn key(&mut self, event: &KeyEvent) {
        if self.page == Some(Page::Kept) {
            match event.code {
                KeyCode::Enter => self.update(Message::Frame(Ask::Kept(true))),
                KeyCode::Esc => self.update(Message::Frame(Ask::Kept(false))),
                _ => {}
            }
            return;
        }
        if self.page.is_none()
            && let Some(effect) = self.benches.raw(self.front, &mut self.desk, Raw::Key(event))
        {
            self.effect(effect);
            return;
        }
        if event.kind == KeyEventKind::Release {
            if let Some(input) = self.game_key(event) {
                self.desk.release(&input);
            }
            return;
        }
        // Alt reaches the workbench's own command on a key that the game uses; Shift with an arrow moves the cursor.
        let arrow = !matches!(event.code, KeyCode::Char(_)) && event.modifiers.contains(KeyModifiers::SHIFT);
        if !arrow
            && !event.modifiers.contains(KeyModifiers::ALT)
            && let Some(input) = self.game_key(event)
        {
            self.update(Message::Frame(Ask::Press(input, event.kind == KeyEventKind::Repeat)));
            return;
        }
        let stroke = Stroke::of(event);
        let action = self.actions().into_iter().find(|action| action.keys.contains(&stroke));
        if let Some(action) = action {
            self.update(action.message);
        }
    }

    fn raw(&mut self, raw: Raw) {
        if let Some(effect) = self.benches.raw(self.front, &mut self.desk, raw) {
            self.effect(effect);
        }
    }

    /// What a key means to the game: the arrows where a bench plays, and every key the rulebook uses.
    fn game_key(&self, event: &KeyEvent) -> Option<Input> {
        if event.modifiers.contains(KeyModifiers::CONTROL) || self.desk.game.session.is_none() {
            return None;
        }
        let word = match event.code {
            KeyCode::Left => "left",
            KeyCode::Right => "right",
            KeyCode::Up => "up",
            KeyCode::Down => "down",
            KeyCode::Char(' ') => "act",
            KeyCode::Enter => "alt",
            KeyCode::Char(character) => {
                let word = character.to_string();
                return self.desk.game.uses_key(&word).then_some(Input::Key(Key(word)));
            }
            _ => return None,
        };
        let arrow = matches!(event.code, KeyCode::Left | KeyCode::Right | KeyCode::Up | KeyCode::Down);
        let plays =
            if arrow { self.benches.plays(self.front) && self.page.is_none() } else { self.desk.game.uses_key(word) };
        plays.then(|| Input::Key(Key(word.into())))
    }

    fn mouse(&mut self, mouse: MouseEvent) {
        let (column, line) = (mouse.column, mouse.row);
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) => {
                let hit = self.hits.iter().find(|(rect, _)| rect.contains((column, line).into()));
                match hit.map(|(_, message)| message.clone()) {
                    Some(message) => self.update(message),
                    None => self.finger(|inside, place| Finger::Down { inside, place }, column, line),
                }
            }
            MouseEventKind::Drag(MouseButton::Left) => {
                self.finger(|inside, _| Finger::Moved { inside }, column, line);
            }
            MouseEventKind::Up(MouseButton::Left) => self.finger(|_, place| Finger::Up { place }, column, line),
            MouseEventKind::ScrollUp => self.update(Message::Frame(Ask::Scroll(-3))),
            MouseEventKind::ScrollDown => self.update(Message::Frame(Ask::Scroll(3))),
            _ => {}
        }
    }

    /// The mouse on the board, where it lies on it.
    fn finger(
        &mut self,
        finger: impl Fn(Option<crate::desk::board::Within>, Option<magpie_core::space::Cell>) -> Finger,
        column: u16,
        line: u16,
    ) {
        let (Some(book), Some(extent)) = (self.desk.game.book(), self.desk.game.extent()) else { return };
        let layout = self.desk.picture.layout;
        let inside = layout.cell_at(book, extent, column, line);
        let place = layout.place_at(book, extent, column, line);
        self.benches.finger(self.front, &mut self.desk, finger(inside, place));
        self.tell();
    }

    /// Does what is asked.
    pub fn update(&mut self, message: Message) {
        self.asked_to_leave = std::mem::take(&mut self.leaving);
        self.desk.note = None;
        match message {
            Message::Bench(ask) => self.ask_bench(ask),
            Message::Frame(ask) => self.ask(ask),
        }
        self.tell();
    }

    /// Opens the Trace bench on a log, and follows it.
    pub fn follow(&mut self, log: std::path::PathBuf) {
        self.turn(Which::Trace);
        self.ask_bench(bench::Ask::Trace(bench::trace::Ask::Follow(log)));
    }

    /// Asks a bench; threads tell what came out of their work so.
    pub fn ask_bench(&mut self, ask: bench::Ask) {
        let effect = self.benches.ask(&mut self.desk, ask);
        self.effect(effect);
    }

    fn effect(&mut self, effect: Effect<bench::Ask>) {
        match effect {
            Effect::Nothing => {}
            Effect::Editor => self.orders.push(Order::Editor),
            Effect::Line(line) => {
                self.turn(Which::Rules);
                self.ask_bench(bench::Ask::Rules(bench::rules::Ask::ToLine(line)));
            }
            Effect::Work(work) => self.orders.push(Order::Work(work)),
        }
    }

    fn ask(&mut self, ask: Ask) {
        match ask {
            Ask::Play(input) => {
                self.desk.time.keys.forget();
                self.desk.play(&input);
            }
            Ask::Press(input, is_repeat) => self.desk.press(&input, is_repeat),
            Ask::Quit => self.quit(),
            Ask::Suspend => self.orders.push(Order::Shell),
            Ask::Help => self.show(if self.page == Some(Page::Help) { None } else { Some(Page::Help) }),
            Ask::Close => self.close(),
            Ask::Turn(by) => {
                let at = Which::ALL.iter().position(|which| *which == self.front).unwrap_or(0) as i32;
                self.turn(Which::ALL[(at + by).rem_euclid(Which::ALL.len() as i32) as usize]);
            }
            Ask::Bench(which) => self.turn(which),
            Ask::Overlay => self.desk.picture.overlay = self.desk.picture.overlay.next(),
            Ask::Back => self.desk.go(|position| position.saturating_sub(1)),
            Ask::Forth => self.desk.go(|position| position + 1),
            Ask::Go(position) => self.desk.go(|_| position),
            Ask::Last => self.desk.go(|_| usize::MAX),
            Ask::NextMap => self.desk.next_map(),
            Ask::Difference if self.page == Some(Page::Difference) => self.show(None),
            Ask::Difference if self.desk.game.changed.is_some() => self.show(Some(Page::Difference)),
            Ask::Difference => self.desk.say("no edit has changed anything on this tape"),
            Ask::Branch => self.desk.branch(),
            Ask::Scroll(lines) if self.is_covered() => {
                self.scroll = self.scroll.saturating_add_signed(lines as isize);
            }
            Ask::Scroll(lines) => self.benches.scroll(self.front, lines),
            Ask::Kept(take) => self.take_kept(take),
            Ask::Room(room) => self.room = if self.room == room { Room::Both } else { room },
            Ask::Cursor(columns, down) => self.desk.move_cursor(columns, down),
        }
    }

    /// Leaves, where something is not saved only when it is asked for twice in a row.
    fn quit(&mut self) {
        let owners = self.benches.unsaved(&self.desk);
        if owners.is_empty() || self.asked_to_leave {
            self.orders.push(Order::Leave);
            return;
        }
        self.leaving = true;
        self.desk.say(format!("not saved yet: changes of {}. q again leaves without them", owners.join(" and ")));
    }

    fn show(&mut self, page: Option<Page>) {
        self.page = page;
        self.scroll = 0;
    }

    /// Another bench comes in front.
    fn turn(&mut self, which: Which) {
        self.desk.time.stop_motion();
        let left = self.benches.news_to(self.front, &mut self.desk, News::Left);
        self.effect(left);
        self.front = which;
        self.desk.time.played = self.benches.plays(which);
        let entered = self.benches.news_to(which, &mut self.desk, News::Entered);
        self.effect(entered);
    }

    fn close(&mut self) {
        if self.page.is_some() {
            self.show(None);
        } else if !self.benches.close(self.front, &mut self.desk) {
            self.desk.picture.cursor = None;
            self.desk.game.reach = None;
            self.desk.look();
        }
    }

    /// Whether a page lies over the bench: one that was asked for, or the list of mistakes.
    pub fn is_covered(&self) -> bool {
        self.page.is_some() || (!self.desk.text.mistakes.is_empty() && !self.benches.shows_mistakes(self.front))
    }

    /// Tells the benches what has become another, and keeps the tape.
    pub fn tell(&mut self) {
        let news = self.desk.take_news();
        if news.text {
            // The list of mistakes comes in front of everything but the page of keys, and an older edit's result is old.
            let stays =
                |page: &Page| *page == Page::Help || (*page == Page::Kept && self.desk.text.mistakes.is_empty());
            self.page = self.page.filter(stays);
            self.scroll = 0;
            let effects = self.benches.news(&mut self.desk, News::Text);
            effects.into_iter().for_each(|effect| self.effect(effect));
        }
        if news.game {
            let effects = self.benches.news(&mut self.desk, News::Game);
            effects.into_iter().for_each(|effect| self.effect(effect));
            // What is walked through beside the game is not its tape.
            if let (Some(keep), Some(session), None) = (&mut self.keep, &self.desk.game.session, &self.desk.game.aside)
            {
                let written = keep.write(session, news.text);
                self.note_kept(written);
            }
        }
    }

    /// Says at once where the tape is no longer kept, and where it is again.
    fn note_kept(&mut self, written: anyhow::Result<()>) {
        let was_kept = !self.desk.unkept;
        self.desk.unkept = written.is_err();
        match written {
            Err(error) if was_kept => self.desk.say(format!("the tape is no longer kept: {error:#}")),
            Ok(()) if !was_kept => self.desk.say("the tape is kept again"),
            Ok(()) | Err(_) => {}
        }
    }

    /// The workbench's clock goes on.
    pub fn tick(&mut self, clock: f64) {
        self.desk.tick(clock);
        self.benches.tick(self.front, &mut self.desk);
        self.tell();
        if let Some(Err(error)) = self.keep.as_mut().map(Keeper::settle) {
            self.note_kept(Err(error));
        }
    }

    /// How long nothing has to be drawn; `None` where nothing happens by itself.
    pub fn sleep(&self, frame: Duration) -> Option<Duration> {
        let sleep = if self.benches.is_live(self.front) { Some(frame) } else { self.desk.sleep(frame) };
        let kept = self.keep.as_ref().and_then(Keeper::due);
        // The sooner of the two.
        sleep.into_iter().chain(kept).min()
    }

    /// Whether keys going up are worth asking for.
    pub fn wants_releases(&self) -> bool {
        self.benches.is_live(self.front) || (self.desk.wants_releases() && self.benches.plays(self.front))
    }

    /// Offers the tapes of sessions that ended without leaving, one after the other.
    pub fn offer(&mut self, kept: Vec<Kept>) {
        self.page = (!kept.is_empty()).then_some(Page::Kept);
        self.kept = kept;
    }

    fn take_kept(&mut self, take: bool) {
        self.show(None);
        let mut all = std::mem::take(&mut self.kept).into_iter();
        let Some(kept) = all.next() else { return };
        if !take {
            kept.forget();
            self.offer(all.collect());
            return;
        }
        // Nobody has decided about the others: they are offered at the next start.
        let left = all.len();
        if let Some(error) = kept.play(&mut self.desk) {
            self.desk.say(error);
        } else if left > 0 {
            self.desk.say(format!("{} more kept: offered at the next start", counted(left, "tape")));
        }
    }

    /// Draws everything.
    pub fn render(&mut self, area: Rect, buffer: &mut Buffer) {
        let (layout, hits) = super::draw::render(self, self.theme, area, buffer);
        self.desk.picture.layout = layout;
        self.hits = hits;
    }

    /// What was drawn where, for the mouse.
    #[cfg(test)]
    pub fn hits(&self) -> &Hits<Message> {
        &self.hits
    }
}
