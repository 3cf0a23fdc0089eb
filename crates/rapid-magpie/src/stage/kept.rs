//! The tape of a running session, kept on disk so that nothing is lost.
//!
//! Every session holds a lock, and beside it the file of its tape, which is only ever appended to, or replaced by renaming.
//! A tape whose lock nobody holds belongs to a session that ended without leaving; it stays until somebody has decided
//! about it.

use crate::desk::Desk;
use crate::files::{read_tape, replace, tape_head, tape_lines};
use anyhow::Context;
use magpie_core::input::Input;
use magpie_core::tape::{Session, Start};
use std::fs::{File, OpenOptions};
use std::hash::{BuildHasher, Hasher};
use std::io::Write;
use std::path::{Path, PathBuf};
use std::time::SystemTime;

/// Keeps the tape of this session.
#[derive(Debug)]
pub struct Keeper {
    /// Held as long as the session lasts.
    lock: Lock,
    rulebook: String,
    /// What the file holds: the map, how often the tape had been cut, and how many inputs.
    written: Option<(usize, u64, usize)>,
}

/// A lock that is held, and the tape that belongs to it.
#[derive(Debug)]
struct Lock {
    _file: File,
    path: PathBuf,
}

impl Lock {
    /// Takes a lock that nobody holds.
    fn take(path: PathBuf) -> Option<Self> {
        let file = OpenOptions::new().create(true).truncate(false).write(true).open(&path).ok()?;
        file.try_lock().ok()?;
        Some(Self { _file: file, path })
    }

    /// The file of the tape.
    fn tape(&self) -> PathBuf {
        self.path.with_extension("jsonl")
    }

    /// Nothing needs to be kept any more.
    fn done(self) {
        // What cannot be removed is offered again, and no harm is done.
        let _ = std::fs::remove_file(self.tape());
        let _ = std::fs::remove_file(&self.path);
    }
}

/// A tape of a session that ended without leaving.
#[derive(Debug)]
pub struct Kept {
    /// Its inputs, with the clock at which each begins.
    pub inputs: Vec<(u64, Input)>,
    /// When it was last written.
    pub written: SystemTime,
    /// Its map, counted from 1.
    pub map: usize,
    seed: Option<u64>,
    lock: Lock,
}

impl Kept {
    /// Plays it on the desk, on its own map and with its own seed; the reason where it does not come to its end. It is kept
    /// by the new session from then on.
    pub fn play(self, desk: &mut Desk) -> Option<String> {
        let told = self.play_on(desk).err();
        if told.is_none() {
            self.lock.done();
        }
        told
    }

    fn play_on(&self, desk: &mut Desk) -> Result<(), String> {
        let book = desk.game.book().ok_or("the rulebook has mistakes: the tape stays kept")?.clone();
        let map = book.map_number(self.map).map_err(|error| format!("the tape stays kept: {error}"))?;
        let start = Start { seed: self.seed, ..Start::map(book, map) };
        let mut session = Session::new(start).map_err(|error| error.to_string())?;
        for (at, input) in &self.inputs {
            // A tape whose times no longer fit is played input by input.
            if session.give_at(Some(*at), input).is_err() {
                session.give(input);
            }
        }
        desk.take_session(session);
        Ok(())
    }

    /// Forgets it.
    pub fn forget(self) {
        self.lock.done();
    }
}

/// The folder of kept tapes.
fn folder() -> Option<PathBuf> {
    let folders = directories::ProjectDirs::from("", "", "rapid-magpie")?;
    let state = folders.state_dir().unwrap_or_else(|| folders.data_local_dir());
    Some(state.join("tapes"))
}

/// The beginning of the names of a rulebook's kept tapes.
fn prefix(identity: &str) -> String {
    // A fixed hasher: the same rulebook has the same name in every session.
    let mut hasher = std::hash::BuildHasherDefault::<std::hash::DefaultHasher>::default().build_hasher();
    hasher.write(identity.as_bytes());
    format!("{:016x}-", hasher.finish())
}

/// Begins to keep tapes of a rulebook; gives the tapes of sessions of it that ended without leaving, the newest first.
pub fn begin(identity: &str, rulebook: &str) -> Option<(Keeper, Vec<Kept>)> {
    begin_in(&folder()?, identity, rulebook)
}

fn begin_in(folder: &Path, identity: &str, rulebook: &str) -> Option<(Keeper, Vec<Kept>)> {
    std::fs::create_dir_all(folder).ok()?;
    let prefix = prefix(identity);
    let kept = orphans(folder, &prefix);
    let free = |path: &PathBuf| !path.exists() && !path.with_extension("jsonl").exists();
    let path = (0..1000).map(|number| folder.join(format!("{prefix}{number}.lock"))).find(free)?;
    let keeper = Keeper { lock: Lock::take(path)?, rulebook: rulebook.into(), written: None };
    Some((keeper, kept))
}

/// The tapes that nobody holds, the newest first.
fn orphans(folder: &Path, prefix: &str) -> Vec<Kept> {
    let Ok(entries) = std::fs::read_dir(folder) else { return Vec::new() };
    let mut found: Vec<(SystemTime, PathBuf)> = entries
        .filter_map(|entry| {
            let entry = entry.ok()?;
            let path = entry.path();
            let own = entry.file_name().to_string_lossy().starts_with(prefix);
            (own && path.extension().is_some_and(|ending| ending == "jsonl")).then_some(())?;
            Some((entry.metadata().ok()?.modified().ok()?, path))
        })
        .collect();
    found.sort();
    let kept = found.into_iter().rev().filter_map(|(written, path)| {
        let lock = Lock::take(path.with_extension("lock"))?;
        match read_tape(&path) {
            Ok(tape) if !tape.lines.is_empty() => {
                Some(Kept { inputs: tape.lines, written, map: tape.header.map, seed: tape.header.seed, lock })
            }
            Ok(_) => {
                lock.done();
                None
            }
            // What cannot be read is not thrown away.
            Err(_) => None,
        }
    });
    kept.collect()
}

impl Keeper {
    /// Writes the tape as it is now; what only goes on is appended. `anew` where it is another game's.
    pub fn write(&mut self, session: &Session, anew: bool) -> anyhow::Result<()> {
        let map = session.start().map.as_ref().err().copied().unwrap_or(0) + 1;
        let (cuts, length) = (session.cuts(), session.entries().len());
        let path = self.lock.tape();
        let context = || format!("`{}`", path.display());
        match self.written.filter(|_| !anew) {
            Some((known, old, from)) if (known, old) == (map, cuts) && from <= length => {
                if from < length {
                    let mut file = OpenOptions::new().append(true).open(&path).with_context(context)?;
                    file.write_all(tape_lines(&session.entries()[from..])?.as_bytes()).with_context(context)?;
                }
            }
            _ => {
                let seed = session.start().seed.unwrap_or(session.grid().book().seed);
                let text = tape_head(&self.rulebook, map, seed)? + &tape_lines(session.entries())?;
                replace(&path, text.as_bytes())?;
            }
        }
        self.written = Some((map, cuts, length));
        Ok(())
    }

    /// The session is left as it should be: nothing needs to be kept.
    pub fn done(self) {
        self.lock.done();
    }
}

#[cfg(test)]
#[path = "kept_tests.rs"]
mod tests;
