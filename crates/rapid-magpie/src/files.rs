//! Files: rulebooks read and replaced, tapes as JSON Lines.

use anyhow::{Context, bail};
use magpie_core::input::Input;
use magpie_core::limits::LARGEST_FILE;
use magpie_core::rulebook::{Reading, read};
use magpie_core::tape::Entry;
use serde::{Deserialize, Serialize};
use std::fmt::Write as _;
use std::fs::File;
use std::io::{Read, Write as _};
use std::path::{Component, Path, PathBuf};

/// A rulebook file that has been read.
#[derive(Debug)]
pub struct Loaded {
    /// Where it lies.
    pub path: PathBuf,
    /// What reading it gave.
    pub reading: Reading,
}

/// Refuses what is there and no regular file, whatever a link leads to: a pipe would be waited for, a device written to.
pub fn regular(path: &Path) -> anyhow::Result<()> {
    match path.metadata() {
        Ok(data) if data.is_dir() => bail!("`{}` is a folder", path.display()),
        Ok(data) if !data.is_file() => bail!("`{}` is no regular file", path.display()),
        // What is not there is told by whoever opens it.
        Ok(_) | Err(_) => Ok(()),
    }
}

/// Reads a file of at most so many bytes and one more, so that a larger one can be told.
pub fn bytes_of(path: &Path) -> anyhow::Result<Vec<u8>> {
    bytes_up_to(path, LARGEST_FILE)
}

/// The same, with a limit of its own.
pub fn bytes_up_to(path: &Path, most: usize) -> anyhow::Result<Vec<u8>> {
    regular(path)?;
    let file = File::open(path).with_context(|| format!("cannot read `{}`", path.display()))?;
    let mut bytes = Vec::new();
    file.take(most as u64 + 1).read_to_end(&mut bytes).with_context(|| format!("cannot read `{}`", path.display()))?;
    Ok(bytes)
}

/// The bytes of a file beside a rulebook.
pub fn beside(rulebook: &Path, name: &str) -> Result<Vec<u8>, String> {
    let inside = Path::new(name).components().all(|part| matches!(part, Component::Normal(_) | Component::CurDir));
    if !inside || name.is_empty() {
        return Err("the path must lie beside the rulebook".into());
    }
    let path = rulebook.parent().unwrap_or(Path::new("")).join(name);
    match path.metadata() {
        Ok(data) if data.is_file() => bytes_of(&path).map_err(|error| format!("{}", error.root_cause())),
        Ok(_) => Err("it is no file".into()),
        Err(error) => Err(error.to_string()),
    }
}

/// Reads a rulebook and the files its maps come from.
pub fn load(path: &Path) -> anyhow::Result<Loaded> {
    Ok(load_bytes(path, &bytes_of(path)?))
}

/// Reads a rulebook whose bytes are at hand; the files of its maps lie beside `path`.
pub fn load_bytes(path: &Path, bytes: &[u8]) -> Loaded {
    Loaded { path: path.into(), reading: read(bytes, &|name| beside(path, name)) }
}

/// The text of a file of at most the size that is allowed.
pub fn text_of(path: &Path) -> anyhow::Result<String> {
    let bytes = bytes_of(path)?;
    if bytes.len() > LARGEST_FILE {
        bail!("`{}` is larger than 16 MiB", path.display());
    }
    String::from_utf8(bytes).map_err(|_| anyhow::anyhow!("`{}` is no UTF-8", path.display()))
}

/// The end of the names of temporary files beside a file.
const TEMPORARY: &str = ".magpie-tmp";

/// The beginning of the names of temporary files beside a file.
fn temporary_name(target: &Path) -> String {
    format!(".{}.", target.file_name().unwrap_or_default().to_string_lossy())
}

/// Removes temporary files beside a file that a program left which was killed while it wrote.
pub fn clear_temporaries(target: &Path) {
    clear_temporaries_in(folder_of(target), &temporary_name(target));
}

/// The same for all of a folder whose names begin so; one that is being written is locked and stays.
pub fn clear_temporaries_in(folder: &Path, before: &str) {
    let Ok(entries) = std::fs::read_dir(folder) else { return };
    for entry in entries.flatten() {
        let name = entry.file_name().to_string_lossy().into_owned();
        let is_file = entry.file_type().is_ok_and(|sort| sort.is_file());
        if is_file && name.starts_with(before) && name.ends_with(TEMPORARY) {
            let left = File::open(entry.path()).is_ok_and(|file| file.try_lock().is_ok());
            if left {
                // What cannot be removed now is found again the next time.
                let _ = std::fs::remove_file(entry.path());
            }
        }
    }
}

/// The folder that a file lies in.
fn folder_of(path: &Path) -> &Path {
    path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."))
}

/// Writes a file by way of a temporary one beside it, so that no moment leaves half of it. Mode and owner stay.
pub fn replace(path: &Path, bytes: &[u8]) -> anyhow::Result<()> {
    let context = || format!("cannot write `{}`", path.display());
    regular(path).with_context(context)?;
    // A link is followed, so that the file it names is replaced and the link stays.
    let target = if path.exists() { path.canonicalize().with_context(context)? } else { path.to_path_buf() };
    clear_temporaries(&target);
    let before = temporary_name(&target);
    let mut builder = tempfile::Builder::new();
    builder.prefix(&before).suffix(TEMPORARY);
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt as _;
        // As for any new file, the user's mask takes from these.
        builder.permissions(std::fs::Permissions::from_mode(0o666));
    }
    let mut file = builder.tempfile_in(folder_of(&target)).with_context(context)?;
    // Held until the file has its name: whoever clears what was left behind passes it over.
    let _ = file.as_file().try_lock();
    file.write_all(bytes).with_context(context)?;
    if let Ok(old) = target.metadata() {
        keep_owner(file.as_file(), &old).with_context(context)?;
        file.as_file().set_permissions(old.permissions()).with_context(context)?;
    }
    file.as_file().sync_all().with_context(context)?;
    file.persist(&target).with_context(context)?;
    // The new name has to reach the disk too; a folder that cannot be synced still holds the file.
    let _ = File::open(folder_of(&target)).and_then(|folder| folder.sync_all());
    Ok(())
}

/// Gives a new file the owner and the group of the one it replaces.
#[cfg(unix)]
fn keep_owner(file: &File, old: &std::fs::Metadata) -> anyhow::Result<()> {
    use std::os::unix::fs::{MetadataExt as _, fchown};
    let new = file.metadata()?;
    if (new.uid(), new.gid()) == (old.uid(), old.gid()) {
        return Ok(());
    }
    fchown(file, Some(old.uid()), Some(old.gid())).context("it belongs to somebody else, and would not any more")
}

#[cfg(not(unix))]
fn keep_owner(_: &File, _: &std::fs::Metadata) -> anyhow::Result<()> {
    Ok(())
}

/// Writes what a command has made; never over a file that it has read.
pub fn write_output<'p>(path: &Path, bytes: &[u8], read: impl IntoIterator<Item = &'p Path>) -> anyhow::Result<()> {
    let same = |other: &&Path| {
        let file = |path: &Path| same_file::Handle::from_path(path).ok();
        file(path).is_some_and(|output| file(other) == Some(output))
    };
    // Whether a pipe is one of the inputs is not asked by opening it.
    regular(path)?;
    if let Some(input) = read.into_iter().find(same) {
        bail!("cannot write `{}`: `{}` is read here, choose another name", path.display(), input.display());
    }
    replace(path, bytes)
}

/// The first line of a tape.
#[derive(Debug, Clone, Serialize, Deserialize, PartialEq, Eq)]
pub struct Header {
    /// The version of the format: 1.
    #[serde(rename = "magpie-tape")]
    version: u32,
    /// The name of the rulebook's file.
    pub rulebook: String,
    /// The map, counted from 1.
    #[serde(default = "one")]
    pub map: usize,
    /// The seed, where it is not the rulebook's.
    #[serde(default)]
    pub seed: Option<u64>,
}

const fn one() -> usize {
    1
}

#[derive(Debug, Serialize, Deserialize)]
struct Line {
    /// Without one the clock stands.
    at: Option<u64>,
    /// A line without one reports on the state as it stands.
    input: Option<String>,
}

/// A tape that has been read.
#[derive(Debug)]
pub struct Tape {
    /// Its first line.
    pub header: Header,
    /// Inputs with the clock at which they begin, where that is told.
    pub lines: Vec<(Option<u64>, Input)>,
}

/// Reads a tape.
pub fn read_tape(path: &Path) -> anyhow::Result<Tape> {
    parse_tape(&text_of(path)?).with_context(|| format!("`{}`", path.display()))
}

/// Reads the text of a tape.
pub fn parse_tape(text: &str) -> anyhow::Result<Tape> {
    match parse_whole_lines(text)? {
        (tape, None) => Ok(tape),
        (_, Some(wrong)) => Err(wrong),
    }
}

/// Reads the text of a tape up to the first line that is none, and tells what is wrong with that.
pub fn parse_whole_lines(text: &str) -> anyhow::Result<(Tape, Option<anyhow::Error>)> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let mut lines = text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty());
    let (_, first) = lines.next().context("the tape is empty: its first line is {\"magpie-tape\":1, ...}")?;
    let header: Header = serde_json::from_str(first).context("line 1 is no header {\"magpie-tape\":1, ...}")?;
    parse_inputs_below(header, lines)
}

/// Reads a tape, or a log whose lines tell more than inputs, with or without a header.
pub fn read_log(path: &Path) -> anyhow::Result<Tape> {
    let text = text_of(path)?;
    let has_header =
        text.lines().find(|line| !line.trim().is_empty()).is_none_or(|line| line.contains("\"magpie-tape\""));
    let read = || {
        if has_header {
            return parse_tape(&text);
        }
        let header = Header { version: 1, rulebook: String::new(), map: 1, seed: None };
        let lines = text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty());
        match parse_inputs_below(header, lines)? {
            (tape, None) => Ok(tape),
            (_, Some(wrong)) => Err(wrong),
        }
    };
    read().with_context(|| format!("`{}`", path.display()))
}

/// Reads the lines below a header up to the first that is none, and tells what is wrong with that.
fn parse_inputs_below<'t>(
    header: Header,
    lines: impl Iterator<Item = (usize, &'t str)>,
) -> anyhow::Result<(Tape, Option<anyhow::Error>)> {
    if header.version != 1 {
        bail!("this is a tape of version {}, and only version 1 is known", header.version);
    }
    let read = |number: usize, line: &str| -> anyhow::Result<Option<(Option<u64>, Input)>> {
        let context = || format!("line {}", number + 1);
        let Line { at, input } = serde_json::from_str(line).with_context(context)?;
        Ok(match input {
            Some(input) => Some((at, input.parse().with_context(context)?)),
            None => None,
        })
    };
    let mut tape = Tape { header, lines: Vec::new() };
    for (number, line) in lines {
        match read(number, line) {
            Ok(line) => tape.lines.extend(line),
            Err(wrong) => return Ok((tape, Some(wrong))),
        }
    }
    Ok((tape, None))
}

/// A tape as text.
pub fn tape_text(rulebook: &str, map: usize, seed: u64, entries: &[Entry]) -> anyhow::Result<String> {
    let mut text = tape_head(rulebook, map, seed)?;
    text.push_str(&tape_lines(entries)?);
    Ok(text)
}

/// The name of a file, without its folder.
pub fn name_of(path: &Path) -> String {
    path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default()
}

/// The first line of a tape, as text.
pub fn tape_head(rulebook: &str, map: usize, seed: u64) -> anyhow::Result<String> {
    let header = Header { version: 1, rulebook: rulebook.into(), map, seed: Some(seed) };
    Ok(serde_json::to_string(&header)? + "\n")
}

/// Inputs of a tape, as text.
pub fn tape_lines(entries: &[Entry]) -> anyhow::Result<String> {
    let mut text = String::new();
    for entry in entries {
        let line = Line { at: Some(entry.at), input: Some(entry.input.to_string()) };
        writeln!(text, "{}", serde_json::to_string(&line)?)?;
    }
    Ok(text)
}

/// Tapes in the rulebook's folder whose header names it, in the order of their names.
pub fn tapes_beside(rulebook: &Path) -> Vec<PathBuf> {
    let name = name_of(rulebook);
    let Ok(entries) = std::fs::read_dir(folder_of(rulebook)) else {
        return Vec::new();
    };
    let mut found: Vec<PathBuf> = entries
        .filter_map(|entry| Some(entry.ok()?.path()))
        .filter(|path| path.extension().is_some_and(|ending| ending == "jsonl") && path.is_file())
        .filter(|path| read_tape(path).is_ok_and(|tape| tape.header.rulebook == name))
        .collect();
    found.sort();
    found
}

#[cfg(test)]
#[path = "files_tests.rs"]
mod tests;
