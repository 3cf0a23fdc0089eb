//! Tapes as files: JSON Lines, a header and one input a line.

use super::source::bytes_of;
use anyhow::{Context, bail};
use magpie_core::limits::LARGEST_FILE;
use magpie_core::tape::{Entry, Input};
use serde::{Deserialize, Serialize};
use std::fmt::Write as _;
use std::path::Path;

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
    at: u64,
    input: String,
}

/// A tape that has been read.
#[derive(Debug)]
pub struct Tape {
    /// Its first line.
    pub header: Header,
    /// Inputs with the clock at which they begin.
    pub lines: Vec<(u64, Input)>,
}

/// Reads a tape.
pub fn read(path: &Path) -> anyhow::Result<Tape> {
    let bytes = bytes_of(path)?;
    if bytes.len() > LARGEST_FILE {
        bail!("`{}` is larger than 16 MiB", path.display());
    }
    let text = std::str::from_utf8(&bytes).with_context(|| format!("`{}` is no UTF-8", path.display()))?;
    parse(text).with_context(|| format!("`{}`", path.display()))
}

/// Reads the text of a tape.
pub fn parse(text: &str) -> anyhow::Result<Tape> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let mut lines = text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty());
    let (_, first) = lines.next().context("the tape is empty: its first line is {\"magpie-tape\":1, ...}")?;
    let header: Header = serde_json::from_str(first).context("line 1 is no header {\"magpie-tape\":1, ...}")?;
    if header.version != 1 {
        bail!("this is a tape of version {}, and only version 1 is known", header.version);
    }
    let mut inputs = Vec::new();
    for (number, line) in lines {
        let context = || format!("line {}", number + 1);
        let Line { at, input } = serde_json::from_str(line).with_context(context)?;
        inputs.push((at, input.parse().with_context(context)?));
    }
    Ok(Tape { header, lines: inputs })
}

/// A tape as text.
pub fn write(rulebook: &str, map: usize, seed: u64, entries: &[Entry]) -> anyhow::Result<String> {
    let header = Header { version: 1, rulebook: rulebook.into(), map, seed: Some(seed) };
    let mut text = serde_json::to_string(&header)?;
    text.push('\n');
    for entry in entries {
        let line = Line { at: entry.at, input: entry.input.to_string() };
        writeln!(text, "{}", serde_json::to_string(&line)?)?;
    }
    Ok(text)
}
