//! The tape of a running session, kept on disk so that nothing is lost.
//!
//! Every session holds a lock, and beside it the file of its tape, which is only ever appended to, or replaced by renaming.
//! A tape whose lock nobody holds belongs to a session that ended without leaving; it stays until somebody has decided
//! about it.

use crate::desk::Desk;
use crate::files::{Tape, bytes_up_to, clear_temporaries_in, parse_whole_lines, replace, tape_head, tape_lines};
use crate::limits::LARGEST_KEPT;
use anyhow::Context;
use magpie_core::input::Input;
use magpie_core::tape::{Session, Start};
use std::fs::{File, OpenOptions};
use std::hash::{BuildHasher, Hasher};
use std::io::Write;
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant, SystemTime};

/// Keeps the tape of this session.
#[derive(Debug)]
pub struct Keeper {
    /// Held as long as the session lasts.
    lock: Lock,
    rulebook: String,
    /// What the file holds: the map, how often the tape had been cut, and how many inputs.
    written: Option<(usize, u64, usize)>,
    /// Something is written that may not have reached the disk yet, and since when.
    unsynced: Option<Instant>,
}

/// How long what is written may be on its way to the disk, where the machine itself fails.
const SYNCED_EVERY: Duration = Duration::from_secs(1);

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
    pub inputs: Vec<(Option<u64>, Input)>,
    /// When it was last written.
    pub written: SystemTime,
    /// Its map, counted from 1.
    pub map: usize,
    seed: Option<u64>,
    /// What of the file could not be read.
    pub lost: Option<String>,
    lock: Lock,
}

impl Kept {
    /// Plays it on the desk, on its own map and with its own seed; the reason where it does not come to its end. It is kept
    /// by the new session from then on; a file that is not whole is put aside.
    pub fn play(self, desk: &mut Desk) -> Option<String> {
        if let Err(why) = self.play_on(desk) {
            return Some(why);
        }
        let Self { lost, lock, .. } = self;
        let Some(lost) = lost else {
            lock.done();
            return None;
        };
        let aside = lock.tape().with_extension("broken");
        let moved = std::fs::rename(lock.tape(), &aside);
        let stays = if moved.is_ok() { aside } else { lock.tape() };
        Some(format!("played as far as it is whole: {lost}; the file stays as `{}`", stays.display()))
    }

    fn play_on(&self, desk: &mut Desk) -> Result<(), String> {
        let book = desk.game.book().ok_or("the rulebook has mistakes: the tape stays kept")?.clone();
        let map = book.map_number(self.map).map_err(|error| format!("the tape stays kept: {error}"))?;
        let start = Start { seed: self.seed, ..Start::map(book, map) };
        let mut session = Session::new(start).map_err(|error| error.to_string())?;
        for (at, input) in &self.inputs {
            // A tape whose times no longer fit is played input by input.
            if session.give_at(*at, input).is_err() {
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

/// What a session begins with.
#[derive(Debug)]
pub struct Begun {
    /// Keeps its tape.
    pub keeper: Keeper,
    /// The tapes of sessions that ended without leaving, the newest first.
    pub kept: Vec<Kept>,
    /// Files that should be such tapes and cannot be read.
    pub unreadable: Vec<PathBuf>,
}

/// Begins to keep tapes of a rulebook; `None` where nothing can be written.
pub fn begin(identity: &str, rulebook: &str) -> Option<Begun> {
    begin_in(&folder()?, identity, rulebook)
}

fn begin_in(folder: &Path, identity: &str, rulebook: &str) -> Option<Begun> {
    std::fs::create_dir_all(folder).ok()?;
    let prefix = prefix(identity);
    clear_temporaries_in(folder, &format!(".{prefix}"));
    let (kept, unreadable) = orphans(folder, &prefix);
    let free = |path: &PathBuf| !path.exists() && !path.with_extension("jsonl").exists();
    let path = (0..1000).map(|number| folder.join(format!("{prefix}{number}.lock"))).find(free)?;
    let keeper = Keeper { lock: Lock::take(path)?, rulebook: rulebook.into(), written: None, unsynced: None };
    Some(Begun { keeper, kept, unreadable })
}

/// The tapes that nobody holds, the newest first, and those that cannot be read.
fn orphans(folder: &Path, prefix: &str) -> (Vec<Kept>, Vec<PathBuf>) {
    let mut unreadable = Vec::new();
    let Ok(entries) = std::fs::read_dir(folder) else { return (Vec::new(), unreadable) };
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
        match whole_part(&path) {
            Ok((tape, lost)) if !tape.lines.is_empty() || lost.is_some() => {
                Some(Kept { inputs: tape.lines, written, map: tape.header.map, seed: tape.header.seed, lost, lock })
            }
            Ok(_) => {
                lock.done();
                None
            }
            // What cannot be read is not thrown away.
            Err(_) => {
                unreadable.push(path);
                None
            }
        }
    });
    (kept.collect(), unreadable)
}

/// Adds to a file; where that fails nothing half-written stays in it.
fn append(path: &Path, bytes: &[u8]) -> std::io::Result<()> {
    let mut file = OpenOptions::new().append(true).open(path)?;
    let length = file.metadata()?.len();
    file.write_all(bytes).inspect_err(|_| {
        // A file can be cut on a full disk too; where even that fails, reading passes over what is not whole.
        let _ = file.set_len(length);
    })
}

/// What of a kept tape is whole, and in words what is not.
fn whole_part(path: &Path) -> anyhow::Result<(Tape, Option<String>)> {
    let text = String::from_utf8_lossy(&bytes_up_to(path, LARGEST_KEPT)?).into_owned();
    let (tape, wrong) = parse_whole_lines(&text)?;
    Ok((tape, wrong.map(|wrong| format!("{wrong:#}"))))
}

impl Keeper {
    /// Writes the tape as it is now; what only goes on is appended. `anew` where it is another game's. Where that fails the
    /// file holds what it held before, and the next time all of it is written.
    pub fn write(&mut self, session: &Session, anew: bool) -> anyhow::Result<()> {
        let map = session.start().map.as_ref().err().copied().unwrap_or(0) + 1;
        let (cuts, length) = (session.cuts(), session.entries().len());
        let path = self.lock.tape();
        let written = self.written.take().filter(|_| !anew);
        match written {
            Some((known, old, from)) if (known, old) == (map, cuts) && from <= length => {
                if from < length {
                    append(&path, tape_lines(&session.entries()[from..])?.as_bytes())
                        .with_context(|| format!("`{}`", path.display()))?;
                    self.unsynced.get_or_insert_with(Instant::now);
                }
            }
            _ => {
                let seed = session.start().seed.unwrap_or(session.grid().book().seed);
                let text = tape_head(&self.rulebook, map, seed)? + &tape_lines(session.entries())?;
                replace(&path, text.as_bytes())?;
                self.unsynced = None;
            }
        }
        self.written = Some((map, cuts, length));
        self.settle()
    }

    /// Sees to it that what was written reaches the disk within a second.
    pub fn settle(&mut self) -> anyhow::Result<()> {
        if self.unsynced.is_some_and(|since| since.elapsed() >= SYNCED_EVERY) {
            let path = self.lock.tape();
            let synced = File::open(&path).and_then(|file| file.sync_data());
            synced.with_context(|| format!("`{}`", path.display()))?;
            self.unsynced = None;
        }
        Ok(())
    }

    /// How long until [`Self::settle`] has something to do.
    pub fn due(&self) -> Option<Duration> {
        Some(SYNCED_EVERY.saturating_sub(self.unsynced?.elapsed()))
    }

    /// The session is left as it should be: nothing needs to be kept.
    pub fn done(self) {
        self.lock.done();
    }
}

#[cfg(test)]
#[path = "kept_tests.rs"]
mod tests;
