//! The tape of a running session, kept on disk so that nothing is lost.
//!
//! Every session holds a lock on its file. A file that nobody holds belongs to a session that ended without leaving.

use crate::cli::tape;
use magpie_core::tape::{Input, Session};
use std::fs::{File, TryLockError};
use std::hash::{BuildHasher, Hasher};
use std::io::{Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};

/// Longest tape that is written after every input; longer ones are written every so many inputs.
const SHORT: usize = 2000;
const EVERY: usize = 50;

/// Keeps the tape of this session.
#[derive(Debug)]
pub struct Keeper {
    file: File,
    path: PathBuf,
    rulebook: String,
    written: usize,
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

/// Begins to keep tapes of a rulebook; gives the inputs of a session of it that ended without leaving.
pub fn begin(identity: &str, rulebook: &str) -> Option<(Keeper, Vec<Input>)> {
    let folder = folder()?;
    std::fs::create_dir_all(&folder).ok()?;
    let prefix = prefix(identity);
    let found = orphan(&folder, &prefix);
    let path = (0..1000).map(|number| folder.join(format!("{prefix}{number}.jsonl"))).find(|path| !path.exists())?;
    let file = File::create_new(&path).ok()?;
    file.try_lock().ok()?;
    let keeper = Keeper { file, path, rulebook: rulebook.into(), written: 0 };
    Some((keeper, found))
}

/// Takes over the newest tape that nobody holds.
fn orphan(folder: &Path, prefix: &str) -> Vec<Input> {
    let Ok(entries) = std::fs::read_dir(folder) else {
        return Vec::new();
    };
    let mut found: Vec<(std::time::SystemTime, PathBuf)> = entries
        .filter_map(|entry| {
            let entry = entry.ok()?;
            let name = entry.file_name().to_string_lossy().into_owned();
            name.starts_with(prefix).then_some(())?;
            Some((entry.metadata().ok()?.modified().ok()?, entry.path()))
        })
        .collect();
    found.sort();
    let mut inputs = Vec::new();
    for (_, path) in found {
        let Ok(file) = File::open(&path) else {
            continue;
        };
        if matches!(file.try_lock(), Err(TryLockError::WouldBlock)) {
            continue;
        }
        if let Ok(tape) = tape::read(&path)
            && !tape.lines.is_empty()
        {
            inputs = tape.lines.into_iter().map(|(_, input)| input).collect();
        }
        // What is offered now is kept by the new session from here on.
        let _ = std::fs::remove_file(&path);
    }
    inputs
}

impl Keeper {
    /// Writes the tape as it is now.
    pub fn write(&mut self, session: &Session) {
        let length = session.entries().len();
        if length > SHORT && length.abs_diff(self.written) < EVERY {
            return;
        }
        self.written = length;
        let seed = session.start().seed.unwrap_or(session.grid().book().seed);
        let map = session.start().map.as_ref().err().copied().unwrap_or(0) + 1;
        if let Ok(text) = tape::write(&self.rulebook, map, seed, session.entries()) {
            // A full disk must not end the game; the tape is then simply not kept.
            let _ = self.file.set_len(0).and_then(|()| self.file.seek(SeekFrom::Start(0)));
            let _ = self.file.write_all(text.as_bytes()).and_then(|()| self.file.flush());
        }
    }

    /// The session is left as it should be: nothing needs to be kept.
    pub fn done(self) {
        let _ = std::fs::remove_file(&self.path);
    }
}
