//! `emit`: the rulebook as source code in another language, with a test program beside it.

use super::source::ready;
use super::{Answer, complain, say};
use crate::files::{bytes_of, name_of, replace};
use crate::limits::MOST_EMITTED_CELLS;
use anyhow::{Context, bail};
use clap::builder::PossibleValuesParser;
use clap::{Args, ValueEnum};
use magpie_emit::{EMITTED, Language, Part, emit, not_covered, renamed, situations};
use std::path::{Path, PathBuf};

#[derive(Clone, Copy, Debug, ValueEnum)]
enum Parts {
    /// Positions, cells and indices.
    Geometry,
    /// The board and its rules.
    Board,
    /// Both.
    All,
}

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// The language.
    #[arg(long, value_parser = PossibleValuesParser::new(Language::ALL.map(|(word, _)| word)))]
    lang: String,
    /// The map that the game begins on, whose vectors stand in the test program, counted from 1; all maps are in the module.
    #[arg(long, default_value_t = 1)]
    map: usize,
    /// What of the rulebook is written.
    #[arg(long, value_enum, default_value = "all")]
    part: Parts,
    /// Statements that are not covered are left out, and the rest is written.
    #[arg(long)]
    partial: bool,
    /// The folder for the files; made where it is missing.
    #[arg(long)]
    out: PathBuf,
}

/// Writes the module and its test program; tells their paths.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    let map = ready.book.map_number(options.map)?;
    let name = name_of(&options.file);
    let language = Language::ALL.into_iter().find(|(word, _)| *word == options.lang);
    let (_, language) = language.with_context(|| format!("`{}` is no language", options.lang))?;
    let stem = options.file.file_stem().map(|stem| stem.to_string_lossy().into_owned()).unwrap_or_default();
    if let Some(module) = renamed(&stem, language) {
        complain!("`{stem}` is a name that {} has for itself: the module is `{module}`", options.lang);
    }
    let cells: u64 = ready.book.maps.iter().map(|map| map.extent.cells()).sum();
    if cells > MOST_EMITTED_CELLS {
        complain!("the maps have {cells} cells, of which {MOST_EMITTED_CELLS} can be written: nothing is written");
        return Ok(Answer::Limit);
    }
    let part = match options.part {
        Parts::Geometry => Part::Geometry,
        Parts::Board => Part::Board,
        Parts::All => Part::All,
    };
    // The search takes a while, and a rulebook that is refused needs none.
    let uncovered = if part == Part::Geometry { Vec::new() } else { not_covered(&ready.book, &ready.source) };
    for uncovered in &uncovered {
        crate::words::tell(&format!(
            "{}:{}: {} is not covered",
            options.file.display(),
            uncovered.line,
            uncovered.what
        ));
    }
    if !uncovered.is_empty() && !options.partial {
        return Ok(Answer::No);
    }
    let plays = if part == Part::Geometry { Vec::new() } else { situations(&ready.book, &ready.source) };
    let emitted = emit(&ready.book, &ready.source, map, &name, (language, part), &plays);
    for (word, field) in &emitted.renamed {
        complain!("`{word}` is a name that {} or the module has for itself: the counter is `{field}`", options.lang);
    }
    let files = emitted.files;
    let paths: Vec<PathBuf> = files.iter().map(|file| options.out.join(&file.name)).collect();
    for path in &paths {
        may_replace(path)?;
    }
    std::fs::create_dir_all(&options.out).with_context(|| format!("cannot make `{}`", options.out.display()))?;
    for (path, file) in paths.iter().zip(&files) {
        replace(path, file.text.as_bytes())?;
        say!("{}", path.display())?;
    }
    Ok(Answer::Done)
}

/// Only what was emitted is replaced.
fn may_replace(path: &Path) -> anyhow::Result<()> {
    if !path.exists() {
        return Ok(());
    }
    let bytes = bytes_of(path)?;
    let text = String::from_utf8_lossy(&bytes);
    if !text.lines().take(3).any(|line| line.contains(EMITTED)) {
        bail!("`{}` was not emitted: it stays, and nothing is written", path.display());
    }
    Ok(())
}
