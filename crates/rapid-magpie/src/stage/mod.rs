//! The frame round the benches: board, tape, tabs, pages, and the loop that handles events.

pub mod action;
pub mod board_view;
mod chooser;
mod clock;
pub mod draft;
mod frame;
mod kept;
pub mod motion;
mod pages;
pub mod pen;
pub mod real_time;
pub mod state;
mod terminal;
pub mod theme;
mod watch;

#[cfg(test)]
mod tests;

use crate::bench::{Bench, pace, probe, rules};
use crate::cli::Answer;
use crate::cli::source::{bytes_of, load_bytes};
use action::{Message, Stroke};
use crossterm::event::{self, KeyCode, KeyEvent, KeyEventKind, KeyModifiers, MouseButton, MouseEventKind};
use magpie_core::rulebook::Key;
use magpie_core::space::Heading;
use magpie_core::tape::Input;
use ratatui::layout::Rect;
use state::{Away, Page, State};
use std::path::{Path, PathBuf};
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::time::{Duration, Instant};
use terminal::Screen;
use theme::Theme;
use tui_input::InputRequest;

/// The time between two frames while a piece is on its way.
const FRAME: Duration = Duration::from_millis(33);

/// Something the workbench reacts to.
#[derive(Debug)]
pub enum Event {
    /// From the terminal.
    Terminal(event::Event),
    /// The rulebook's folder has changed.
    Changed,
    /// Counting a formula has come so far.
    Counted(probe::Counted),
    /// A signal.
    Signal(i32),
    /// The terminal is gone.
    Gone,
}

/// Opens the workbench on a rulebook; without one, on the demo that is chosen from the list.
pub fn open(path: Option<PathBuf>) -> anyhow::Result<Answer> {
    match path {
        Some(path) => {
            let identity = path.canonicalize().unwrap_or_else(|_| path.clone()).display().to_string();
            run(&path, &identity)
        }
        None => match chooser::choose(Theme::from_environment())? {
            Some(demo) => crate::cli::demo::open(demo),
            None => Ok(Answer::Done),
        },
    }
}

/// Opens the workbench on the private copy of a demo.
pub fn open_demo(path: &Path) -> anyhow::Result<Answer> {
    let name = path.file_stem().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    run(path, &format!("demo {name}"))
}

fn run(path: &Path, identity: &str) -> anyhow::Result<Answer> {
    // Everything that can fail does so before the terminal is taken.
    let mut seen = bytes_of(path)?;
    let loaded = load_bytes(path, &seen);
    let theme = Theme::from_environment();
    let mut state = State::new(loaded);
    state.smooth = true;
    let (sender, events) = channel();
    let _watch = watch::watch(path, sender.clone());
    if let Some((keeper, inputs)) = kept::begin(identity, &state.name) {
        state.keep = Some(keeper);
        state.offer_kept(inputs);
    }
    listen_to_signals(sender.clone())?;
    let mut screen = Screen::new()?;
    read_terminal(sender.clone());
    let result = Loop { state: &mut state, theme, hits: Vec::new(), sender, releases_seen: false }.run(
        &mut screen,
        &events,
        path,
        &mut seen,
    );
    drop(screen);
    match result {
        Ok(Left::Done) => {
            if let Some(keep) = state.keep.take() {
                keep.done();
            }
            Ok(Answer::Done)
        }
        // The tape stays on disk for the next start.
        Ok(Left::Killed(signal)) => {
            std::process::exit(128 + signal);
        }
        Err(error) => Err(error),
    }
}

/// Reads the terminal's events on a thread of their own; movements of the mouse alone are dropped at the source.
fn read_terminal(sender: Sender<Event>) {
    std::thread::spawn(move || {
        loop {
            let event = match event::read() {
                Ok(event::Event::Mouse(mouse)) if mouse.kind == MouseEventKind::Moved => continue,
                Ok(event) => Event::Terminal(event),
                Err(_) => Event::Gone,
            };
            let gone = matches!(event, Event::Gone);
            if sender.send(event).is_err() || gone {
                return;
            }
        }
    });
}

fn listen_to_signals(sender: Sender<Event>) -> anyhow::Result<()> {
    use signal_hook::consts::{SIGCONT, SIGHUP, SIGINT, SIGTERM, SIGTSTP};
    let mut signals = signal_hook::iterator::Signals::new([SIGTERM, SIGHUP, SIGINT, SIGTSTP, SIGCONT])?;
    std::thread::spawn(move || {
        for signal in &mut signals {
            if sender.send(Event::Signal(signal)).is_err() {
                return;
            }
        }
    });
    Ok(())
}

/// Counts a formula on a thread of its own; progress is told at most twenty times a second.
fn count_formula(job: probe::Job, sender: Sender<Event>) {
    const PAUSE: Duration = Duration::from_millis(50);
    std::thread::spawn(move || {
        let mut last = Instant::now();
        job.run(&mut |counted| {
            if counted.is_done() || last.elapsed() >= PAUSE {
                last = Instant::now();
                // A workbench that is being left wants no more.
                let _ = sender.send(Event::Counted(counted));
            }
        });
    });
}

/// How the workbench was left.
enum Left {
    Done,
    Killed(i32),
}

struct Loop<'a> {
    state: &'a mut State,
    theme: Theme,
    hits: Vec<(Rect, Message)>,
    sender: Sender<Event>,
    /// Whether the terminal has told a key's release.
    releases_seen: bool,
}

impl Loop<'_> {
    /// Handles all waiting events, then draws once; nothing is drawn when nothing has happened.
    fn run(
        &mut self,
        screen: &mut Screen,
        events: &Receiver<Event>,
        path: &Path,
        seen: &mut Vec<u8>,
    ) -> anyhow::Result<Left> {
        let began = Instant::now();
        let mut releases = false;
        loop {
            let (state, theme) = (&mut *self.state, self.theme);
            let hits = &mut self.hits;
            let mut layout = board_view::BoardLayout::default();
            screen.draw(|frame| {
                let area = frame.area();
                (layout, *hits) = frame::render(state, theme, area, frame.buffer_mut());
            })?;
            self.state.layout = layout;
            // While a piece is on its way a frame is drawn thirty times a second; else the loop sleeps.
            let mut next = if let Some(sleep) = self.state.sleep(FRAME) {
                match events.recv_timeout(sleep) {
                    Ok(event) => Some(event),
                    Err(RecvTimeoutError::Timeout) => None,
                    Err(RecvTimeoutError::Disconnected) => return Ok(Left::Killed(signal_hook::consts::SIGHUP)),
                }
            } else {
                Some(events.recv()?)
            };
            self.state.tick(began.elapsed().as_secs_f64() * 1000.0);
            while let Some(event) = next {
                if let Some(left) = self.event(event, screen, path, seen)? {
                    return Ok(left);
                }
                next = events.try_recv().ok();
            }
            if self.state.leaving {
                return Ok(Left::Done);
            }
            // Key releases are asked for only while a piece is walked live.
            if self.state.pace.live.is_some() != releases {
                releases = !releases;
                self.releases_seen = false;
                terminal::report_releases(releases);
            }
            if let Some(job) = self.state.probe.formula.job() {
                count_formula(job, self.sender.clone());
            }
            match self.state.away.take() {
                Some(Away::Shell) => stop(screen)?,
                Some(Away::Editor) => self.state.note = open_editor(screen, path)?,
                None => {}
            }
        }
    }

    fn event(
        &mut self,
        event: Event,
        screen: &mut Screen,
        path: &Path,
        seen: &mut Vec<u8>,
    ) -> anyhow::Result<Option<Left>> {
        use signal_hook::consts::{SIGCONT, SIGTSTP};
        match event {
            Event::Terminal(event) => self.terminal(&event),
            Event::Counted(counted) => self.state.probe.formula.take(counted),
            Event::Gone => return Ok(Some(Left::Killed(signal_hook::consts::SIGHUP))),
            Event::Signal(SIGTSTP) => stop(screen)?,
            Event::Signal(SIGCONT) => screen.resume()?,
            Event::Signal(signal) => return Ok(Some(Left::Killed(signal))),
            Event::Changed => {
                // A file that is gone for a moment, or half written, comes back with the next event.
                if let Ok(bytes) = bytes_of(path)
                    && bytes != *seen
                {
                    // What the workbench has written itself is on the screen already.
                    if bytes != self.state.source.as_bytes() {
                        let old = self.state.source.clone();
                        self.state.reload(load_bytes(path, &bytes));
                        draft::file_changed(self.state, &old);
                        rules::update(self.state, rules::Ask::Follow);
                    }
                    *seen = bytes;
                }
            }
        }
        Ok(None)
    }

    fn terminal(&mut self, event: &event::Event) {
        match event {
            event::Event::Key(key) if self.walks(key) => {}
            event::Event::Key(key) if key.kind != KeyEventKind::Release => self.key(key),
            event::Event::Mouse(mouse) => match mouse.kind {
                MouseEventKind::Down(MouseButton::Left) => {
                    let hit = self.hits.iter().find(|(rect, _)| rect.contains((mouse.column, mouse.row).into()));
                    match hit.map(|(_, message)| message.clone()) {
                        Some(message) => self.state.update(message),
                        None => self.state.press(mouse.column, mouse.row),
                    }
                }
                MouseEventKind::Drag(MouseButton::Left) => self.state.drag(mouse.column, mouse.row),
                MouseEventKind::Up(MouseButton::Left) => self.state.release(mouse.column, mouse.row),
                MouseEventKind::ScrollUp => self.state.update(Message::Scroll(-3)),
                MouseEventKind::ScrollDown => self.state.update(Message::Scroll(3)),
                _ => {}
            },
            event::Event::Paste(text) if self.state.bench == Bench::Rules => rules::pasted(self.state, text),
            event::Event::Paste(text) => match &mut self.state.probe.typing {
                Some((_, line)) => {
                    for character in text.chars().filter(|c| !c.is_control()) {
                        line.handle(InputRequest::InsertChar(character));
                    }
                }
                // A line may end with LF, CR or both.
                None if self.state.bench == Bench::Probe => {
                    probe::pasted(self.state, &text.replace("\r\n", "\n").replace('\r', "\n"));
                }
                None => {}
            },
            _ => {}
        }
    }

    /// While a piece is walked live the arrows are its keys.
    fn walks(&mut self, event: &KeyEvent) -> bool {
        let Some(live) = &mut self.state.pace.live else {
            return false;
        };
        let key = match event.code {
            KeyCode::Left => Heading::West,
            KeyCode::Right => Heading::East,
            KeyCode::Up => Heading::North,
            KeyCode::Down => Heading::South,
            _ => return event.kind == KeyEventKind::Release,
        };
        self.releases_seen |= event.kind == KeyEventKind::Release;
        live.key(key, event.kind != KeyEventKind::Release, self.releases_seen);
        true
    }

    fn key(&mut self, event: &KeyEvent) {
        if self.state.pace.typing.is_some() {
            self.typed_script(event);
            return;
        }
        if self.state.probe.typing.is_some() {
            self.typed(event);
            return;
        }
        if self.state.bench == Bench::Rules && self.state.rules.is_typing() && self.state.page.is_none() {
            self.state.note = None;
            rules::typed(self.state, event);
            return;
        }
        if matches!(self.state.page, Some(Page::Kept(_))) {
            match event.code {
                KeyCode::Enter => self.state.update(Message::Kept(true)),
                KeyCode::Esc => self.state.update(Message::Kept(false)),
                _ => {}
            }
            return;
        }
        let alt = event.modifiers.contains(KeyModifiers::ALT);
        if !alt && let Some(input) = self.game_key(event) {
            self.state.update(Message::Play(input));
            return;
        }
        let stroke = Stroke::of(event);
        let actions = self.state.bench.actions(self.state.front()).into_iter().chain(action::common());
        if let Some(action) = actions.into_iter().find(|action| action.keys.contains(&stroke)) {
            self.state.update(action.message);
        }
    }

    /// What a key means to the game: the arrows on the Play bench, and every key the rulebook uses.
    fn game_key(&self, event: &KeyEvent) -> Option<Input> {
        if event.modifiers.contains(KeyModifiers::CONTROL) || self.state.session.is_none() {
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
                return self.state.uses_key(&word).then_some(Input::Key(Key(word)));
            }
            _ => return None,
        };
        let arrow = matches!(event.code, KeyCode::Left | KeyCode::Right | KeyCode::Up | KeyCode::Down);
        let plays =
            if arrow { self.state.arrows_play() && self.state.page.is_none() } else { self.state.uses_key(word) };
        plays.then(|| Input::Key(Key(word.into())))
    }

    fn typed_script(&mut self, event: &KeyEvent) {
        let Some(line) = &mut self.state.pace.typing else {
            return;
        };
        match event.code {
            KeyCode::Esc => self.state.pace.typing = None,
            KeyCode::Enter => {
                let text = line.value().to_owned();
                self.state.pace.typing = None;
                self.state.note = None;
                pace::typed(self.state, &text);
            }
            _ => {
                if let Some(request) = line_request(event) {
                    line.handle(request);
                }
            }
        }
    }

    fn typed(&mut self, event: &KeyEvent) {
        let Some((prompt, typing)) = &mut self.state.probe.typing else {
            return;
        };
        match event.code {
            KeyCode::Esc => self.state.probe.typing = None,
            KeyCode::Enter => {
                let (prompt, text) = (*prompt, typing.value().to_owned());
                self.state.probe.typing = None;
                self.state.note = None;
                probe::typed(self.state, prompt, &text);
            }
            _ => {
                if let Some(request) = line_request(event) {
                    typing.handle(request);
                }
            }
        }
    }
}

/// What a key means to a line that is typed.
const fn line_request(event: &KeyEvent) -> Option<InputRequest> {
    Some(match event.code {
        KeyCode::Char(character) if !event.modifiers.contains(KeyModifiers::CONTROL) => {
            InputRequest::InsertChar(character)
        }
        KeyCode::Backspace => InputRequest::DeletePrevChar,
        KeyCode::Delete => InputRequest::DeleteNextChar,
        KeyCode::Left => InputRequest::GoToPrevChar,
        KeyCode::Right => InputRequest::GoToNextChar,
        KeyCode::Home => InputRequest::GoToStart,
        KeyCode::End => InputRequest::GoToEnd,
        _ => return None,
    })
}

/// Gives the terminal to the programmer's own editor on the rulebook; what it saves is seen as after any save.
fn open_editor(screen: &mut Screen, path: &Path) -> anyhow::Result<Option<String>> {
    let editor = std::env::var_os("VISUAL").or_else(|| std::env::var_os("EDITOR")).filter(|name| !name.is_empty());
    let Some(editor) = editor else {
        return Ok(Some("$EDITOR is not set".into()));
    };
    terminal::give_back();
    // The name may come with arguments of its own.
    let left = std::process::Command::new("sh").arg("-c").arg("$0 \"$1\"").arg(&editor).arg(path).status();
    screen.resume()?;
    Ok(match left {
        Ok(status) if status.success() => None,
        Ok(status) => Some(format!("{} left with {status}", editor.to_string_lossy())),
        Err(error) => Some(format!("{}: {error}", editor.to_string_lossy())),
    })
}

/// Gives the terminal to the shell until the workbench is called back.
fn stop(screen: &mut Screen) -> anyhow::Result<()> {
    terminal::give_back();
    signal_hook::low_level::emulate_default_handler(signal_hook::consts::SIGTSTP)?;
    screen.resume()
}
