//! A program as a process: given lines, asked for lines, and gone without a trace behind it.

use crate::limits::LONGEST_LINE;
use magpie_core::trace::{Fault, Program};
use rustix::process::{Pid, Signal, kill_process_group};
use std::collections::VecDeque;
use std::io::{BufRead, BufReader, Read, Write};
use std::os::unix::process::CommandExt as _;
use std::path::PathBuf;
use std::process::{Child, Command, Stdio};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, SyncSender, channel, sync_channel};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

/// How long a report is waited for.
const PATIENCE: Duration = Duration::from_secs(5);
/// How long an ended program is waited for.
const FAREWELL: Duration = Duration::from_millis(200);
/// How often a wait looks whether it is to stop.
const GLANCE: Duration = Duration::from_millis(50);
/// Lines that may wait to be read.
const WAITING: usize = 256;

/// What its output brings.
enum Heard {
    Line(String),
    /// A line without an end.
    Flood,
    /// A line that is no UTF-8.
    Garbled,
}

/// A running child with its pipes.
struct Running {
    child: Child,
    /// Lines for it; a thread writes them, so that a program that never reads stops nobody.
    lines: Sender<String>,
    heard: Receiver<Heard>,
}

/// The last words of a program on its standard error.
type LastWords = Arc<Mutex<VecDeque<String>>>;

/// A command that is run as often as it is asked for.
pub struct Process {
    command: Vec<String>,
    folder: Option<PathBuf>,
    running: Option<Running>,
    /// Until when the next report is waited for.
    until: Instant,
    /// When everything is to end.
    end: Option<Instant>,
    stop: Arc<AtomicBool>,
    last_words: LastWords,
}

impl Process {
    /// A command with its arguments, not started yet. It is to be done by an instant, or when somebody stops it.
    pub fn new(command: Vec<String>, end: Option<Instant>, stop: Arc<AtomicBool>) -> Self {
        Self {
            command,
            folder: None,
            running: None,
            until: Instant::now(),
            end,
            stop,
            last_words: LastWords::default(),
        }
    }

    /// It is started in this folder.
    pub fn in_folder(mut self, folder: PathBuf) -> Self {
        self.folder = Some(folder).filter(|folder| !folder.as_os_str().is_empty());
        self
    }

    /// What it has said on its standard error, the last lines.
    pub fn last_words(&self) -> Vec<String> {
        self.last_words.lock().map(|words| words.iter().cloned().collect()).unwrap_or_default()
    }

    fn start(&mut self) -> Result<Running, Fault> {
        let [name, arguments @ ..] = self.command.as_slice() else {
            return Err(Fault::NoStart("there is no command".into()));
        };
        let mut command = Command::new(name);
        command.args(arguments).stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped()).process_group(0);
        if let Some(folder) = &self.folder {
            command.current_dir(folder);
        }
        let mut child = command.spawn().map_err(|error| Fault::NoStart(format!("`{name}`: {error}")))?;
        let (lines, to_write) = channel::<String>();
        let (heard_by, heard) = sync_channel(WAITING);
        let pipes = (child.stdin.take(), child.stdout.take(), child.stderr.take());
        let (Some(mut stdin), Some(stdout), Some(stderr)) = pipes else {
            return Err(Fault::NoStart(format!("`{name}` has no pipes")));
        };
        std::thread::spawn(move || {
            for line in to_write {
                if stdin.write_all(line.as_bytes()).and_then(|()| stdin.flush()).is_err() {
                    return;
                }
            }
        });
        std::thread::spawn(move || listen(BufReader::new(stdout), &heard_by));
        let last_words = self.last_words.clone();
        std::thread::spawn(move || note_words(BufReader::new(stderr), &last_words));
        Ok(Running { child, lines, heard })
    }

    /// Ends the program, and everybody in its group.
    fn end(&mut self) {
        let Some(Running { mut child, lines, heard }) = self.running.take() else { return };
        // Its input ends: most programs end with it, and take their own along.
        drop(lines);
        drop(heard);
        let begun = Instant::now();
        while begun.elapsed() < FAREWELL && matches!(child.try_wait(), Ok(None)) {
            std::thread::sleep(Duration::from_millis(2));
        }
        if let Some(group) = i32::try_from(child.id()).ok().and_then(Pid::from_raw) {
            // Nobody may be left in it; that is no mistake.
            let _ = kill_process_group(group, Signal::KILL);
        }
        let _ = child.wait();
    }
}

/// Reads lines until the pipe ends or nobody listens.
fn listen(mut from: impl BufRead, to: &SyncSender<Heard>) {
    loop {
        let mut bytes = Vec::new();
        match from.by_ref().take(LONGEST_LINE as u64 + 1).read_until(b'\n', &mut bytes) {
            Ok(0) | Err(_) => return,
            Ok(_) if bytes.len() > LONGEST_LINE => {
                let _ = to.send(Heard::Flood);
                return;
            }
            Ok(_) => {
                let heard = String::from_utf8(bytes).map_or(Heard::Garbled, Heard::Line);
                if to.send(heard).is_err() {
                    return;
                }
            }
        }
    }
}

/// Reads everything, and keeps the last lines.
fn note_words(mut from: impl BufRead, words: &LastWords) {
    loop {
        let mut bytes = Vec::new();
        match from.by_ref().take(4096).read_until(b'\n', &mut bytes) {
            Ok(0) | Err(_) => return,
            Ok(_) => {
                let text: String = String::from_utf8_lossy(&bytes).chars().filter(|c| !c.is_control()).collect();
                if let Ok(mut words) = words.lock() {
                    words.push_back(text);
                    if words.len() > 5 {
                        words.pop_front();
                    }
                }
            }
        }
    }
}

impl Program for Process {
    fn send(&mut self, line: &str) -> Result<(), Fault> {
        if self.running.is_none() {
            self.running = Some(self.start()?);
        }
        self.until = Instant::now() + PATIENCE;
        let Some(running) = &self.running else { return Err(Fault::Ended) };
        // A program that has ended says so when it is listened to.
        let _ = running.lines.send(format!("{line}\n"));
        Ok(())
    }

    fn receive(&mut self) -> Result<String, Fault> {
        loop {
            if self.is_halted() {
                return Err(Fault::Halted);
            }
            let Some(running) = &self.running else { return Err(Fault::Ended) };
            let left = self.until.saturating_duration_since(Instant::now());
            if left.is_zero() {
                return Err(Fault::Silent);
            }
            match running.heard.recv_timeout(left.min(GLANCE)) {
                Ok(Heard::Line(line)) => return Ok(line),
                Ok(Heard::Flood) => return Err(Fault::Flood),
                Ok(Heard::Garbled) => return Err(Fault::NotJson("a line is no UTF-8".into())),
                Err(RecvTimeoutError::Timeout) => {}
                Err(RecvTimeoutError::Disconnected) => return Err(Fault::Ended),
            }
        }
    }

    fn respawn(&mut self) -> Result<(), Fault> {
        self.end();
        self.running = Some(self.start()?);
        Ok(())
    }

    fn is_halted(&self) -> bool {
        self.stop.load(Ordering::Relaxed) || self.end.is_some_and(|end| Instant::now() >= end)
    }
}

impl Drop for Process {
    fn drop(&mut self) {
        self.end();
    }
}
