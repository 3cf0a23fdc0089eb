//! The frame round the benches in a real terminal: the loop that handles events, the watch, the threads.

mod card;
mod chooser;
mod draw;
mod frame;
mod guard;
mod kept;
mod mend;
mod pages;
mod tape;
mod terminal;
mod watch;

#[cfg(test)]
mod tests;

use crate::bench;
use crate::files::{bytes_of, clear_temporaries, load_bytes};
use crate::ui::theme::Theme;
use crate::yard::{self, Demo, Open};
use anyhow::Context;
use crossterm::event::{self, MouseEventKind};
use frame::{Frame, Order};
use signal_hook::consts::{
    SIGALRM, SIGCONT, SIGHUP, SIGINT, SIGQUIT, SIGTERM, SIGTSTP, SIGUSR1, SIGUSR2, SIGXCPU, SIGXFSZ,
};
use std::path::{Path, PathBuf};
use std::process::ExitCode;
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::time::{Duration, Instant};
use terminal::Screen;

/// The time between two frames while a piece is on its way.
const FRAME: Duration = Duration::from_millis(33);

/// The longest time in which nothing is drawn while events are waiting.
const BUSY: Duration = Duration::from_millis(100);

/// Something the workbench reacts to.
#[derive(Debug)]
pub enum Event {
    /// From the terminal.
    Terminal(event::Event),
    /// The rulebook's folder has changed.
    Changed,
    /// A thread tells what came out of its work.
    Told(Box<bench::Ask>),
    /// A signal.
    Signal(i32),
    /// The terminal is gone.
    Gone,
}

/// Signals that end the workbench, besides those that cannot be caught.
const ENDS: [i32; 9] = [SIGTERM, SIGHUP, SIGINT, SIGQUIT, SIGUSR1, SIGUSR2, SIGALRM, SIGXCPU, SIGXFSZ];

/// Opens the workbench, in a process of its own that this one guards; gives what the program ends with.
pub fn open(what: Open) -> anyhow::Result<ExitCode> {
    if terminal::needed().is_ok()
        && let Some(left) = guard::guard()
    {
        return Ok(left);
    }
    open_here(what).map(|()| ExitCode::SUCCESS)
}

/// Opens the workbench; on the demo that is chosen from the list where no other is said.
fn open_here(what: Open) -> anyhow::Result<()> {
    match what {
        Open::File(path) => {
            let identity = path.canonicalize().unwrap_or_else(|_| path.clone()).display().to_string();
            run(&path, &identity, None)
        }
        Open::Following(path, log) => {
            let identity = path.canonicalize().unwrap_or_else(|_| path.clone()).display().to_string();
            run(&path, &identity, Some(log))
        }
        Open::Demo(demo) => open_demo(demo),
        Open::Yard => chooser::choose(Theme::from_environment())?.map_or(Ok(()), open_demo),
    }
}

/// Opens a demo on a private copy, so that it can be edited freely.
fn open_demo(demo: &Demo) -> anyhow::Result<()> {
    let folder = tempfile::Builder::new().prefix("rapid-magpie-").tempdir().context("cannot make a scratch folder")?;
    let path = yard::copy(demo, folder.path())?;
    let log = demo.follow.map(|log| folder.path().join(log));
    run(&path, &format!("demo {}", demo.name), log)
}

fn run(path: &Path, identity: &str, log: Option<PathBuf>) -> anyhow::Result<()> {
    // Everything that can fail does so before the terminal is taken, and before a kept tape is touched.
    let bytes = bytes_of(path)?;
    terminal::needed()?;
    clear_temporaries(&path.canonicalize().unwrap_or_else(|_| path.into()));
    let mut frame = Frame::new(load_bytes(path, &bytes), bytes, Theme::from_environment());
    frame.desk.time.smooth = true;
    let (sender, events) = channel();
    let _watch = watch::watch(path, sender.clone());
    listen_to_signals(sender.clone())?;
    if let Some(begun) = kept::begin(identity, frame.desk.text.name()) {
        frame.keep = Some(begun.keeper);
        frame.offer(begun.kept);
        if let Some(path) = begun.unreadable.first() {
            frame.desk.say(format!("a kept tape cannot be read and stays where it is: `{}`", path.display()));
        }
    } else {
        frame.desk.unkept = true;
        frame.desk.say("the tape of this session is not kept: its folder cannot be written");
    }
    if let Some(log) = log {
        frame.follow(log);
    }
    let mut screen = Screen::new()?;
    read_terminal(sender.clone());
    let left = Loop { frame: &mut frame, sender, path: path.into() }.run(&mut screen, &events);
    drop(screen);
    match left? {
        Left::Done => {
            if let Some(keep) = frame.keep.take() {
                keep.done();
            }
            Ok(())
        }
        // The tape stays on disk for the next start.
        Left::Killed(signal) => std::process::exit(128 + signal),
    }
}

/// Reads the terminal's events on a thread of their own; movements of the mouse alone are dropped at the source.
fn read_terminal(sender: Sender<Event>) {
    /// How long the rest of a key's sequence may take to come.
    const TORN: Duration = Duration::from_millis(5);
    std::thread::spawn(move || {
        let mut mender = mend::Mender::default();
        loop {
            let events = match event::read() {
                Ok(event::Event::Mouse(mouse)) if mouse.kind == MouseEventKind::Moved => continue,
                Ok(event) => {
                    let more = mender.waits_for(&event) && event::poll(TORN).unwrap_or(false);
                    mender.take(event, more).into_iter().map(Event::Terminal).collect()
                }
                Err(_) => vec![Event::Gone],
            };
            for event in events {
                let gone = matches!(event, Event::Gone);
                if sender.send(event).is_err() || gone {
                    return;
                }
            }
        }
    });
}

fn listen_to_signals(sender: Sender<Event>) -> anyhow::Result<()> {
    // Everything that would end the program with the screen taken, stops it or calls it back.
    let mut signals = signal_hook::iterator::Signals::new(ENDS.into_iter().chain([SIGTSTP, SIGCONT]))?;
    std::thread::spawn(move || {
        for signal in &mut signals {
            if sender.send(Event::Signal(signal)).is_err() {
                return;
            }
        }
    });
    Ok(())
}

/// Does a bench's work on a thread of its own.
fn work(work: bench::Work<bench::Ask>, sender: Sender<Event>) {
    std::thread::spawn(move || {
        work(&mut |told| {
            // A workbench that is being left wants no more.
            let _ = sender.send(Event::Told(Box::new(told)));
        });
    });
}

/// How the workbench was left.
enum Left {
    Done,
    Killed(i32),
}

struct Loop<'a> {
    frame: &'a mut Frame,
    sender: Sender<Event>,
    path: PathBuf,
}

impl Loop<'_> {
    /// Handles waiting events, then draws once; nothing is drawn when nothing has happened.
    fn run(&mut self, screen: &mut Screen, events: &Receiver<Event>) -> anyhow::Result<Left> {
        let began = Instant::now();
        let mut releases = false;
        loop {
            screen.draw(|drawn| {
                let area = drawn.area();
                self.frame.render(area, drawn.buffer_mut());
            })?;
            if self.orders(screen)? {
                return Ok(Left::Done);
            }
            // While a piece is on its way a frame is drawn thirty times a second; else the loop sleeps.
            let mut next = if let Some(sleep) = self.frame.sleep(FRAME) {
                match events.recv_timeout(sleep) {
                    Ok(event) => Some(event),
                    Err(RecvTimeoutError::Timeout) => None,
                    Err(RecvTimeoutError::Disconnected) => return Ok(Left::Killed(SIGHUP)),
                }
            } else {
                Some(events.recv()?)
            };
            self.frame.tick(began.elapsed().as_secs_f64() * 1000.0);
            let handled = Instant::now();
            while let Some(event) = next {
                if let Some(left) = self.event(event, screen)? {
                    return Ok(left);
                }
                if self.orders(screen)? {
                    return Ok(Left::Done);
                }
                // However many are waiting, what they do is seen on the way.
                next = if handled.elapsed() < BUSY { events.try_recv().ok() } else { None };
            }
            // Key releases are asked for only while they mean something.
            if self.frame.wants_releases() != releases {
                releases = !releases;
                terminal::report_releases(releases);
            }
        }
    }

    /// Does what the frame wants of the terminal and the threads; whether the workbench is to be left.
    fn orders(&mut self, screen: &mut Screen) -> anyhow::Result<bool> {
        for order in self.frame.take_orders() {
            match order {
                Order::Leave => return Ok(true),
                Order::Shell => stop(screen)?,
                Order::Editor => self.frame.desk.note = open_editor(screen, &self.path)?,
                Order::Work(job) => work(job, self.sender.clone()),
            }
        }
        Ok(false)
    }

    fn event(&mut self, event: Event, screen: &mut Screen) -> anyhow::Result<Option<Left>> {
        match event {
            Event::Terminal(event) => self.frame.event(&event),
            Event::Told(ask) => {
                self.frame.ask_bench(*ask);
                self.frame.tell();
            }
            Event::Gone => return Ok(Some(Left::Killed(SIGHUP))),
            Event::Signal(SIGTSTP) => stop(screen)?,
            Event::Signal(SIGCONT) => screen.resume()?,
            Event::Signal(signal) => return Ok(Some(Left::Killed(signal))),
            Event::Changed => {
                match bytes_of(&self.path) {
                    Ok(bytes) => self.frame.desk.file_changed(bytes),
                    // A file that is gone for a moment comes back with the next event.
                    Err(error) if self.path.exists() => self.frame.desk.say(format!("{error:#}")),
                    Err(_) => {}
                }
                self.frame.tell();
            }
        }
        Ok(None)
    }
}

/// Gives the terminal to the programmer's own editor on the rulebook; what it saves is seen as after any save.
fn open_editor(screen: &mut Screen, path: &Path) -> anyhow::Result<Option<String>> {
    let editor = std::env::var_os("VISUAL").or_else(|| std::env::var_os("EDITOR")).filter(|name| !name.is_empty());
    let Some(editor) = editor else {
        return Ok(Some("$EDITOR is not set".into()));
    };
    terminal::give_back();
    // The name may come with arguments of its own.
    let left = std::process::Command::new("sh")
        .arg("-c")
        .arg("$0 \"$1\"")
        .arg(&editor)
        .arg(path)
        .env_remove(guard::VARIABLE)
        .status();
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
    signal_hook::low_level::emulate_default_handler(SIGTSTP)?;
    screen.resume()
}
