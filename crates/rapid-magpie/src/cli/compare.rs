//! `compare`: what somebody's program says it did, beside the model.

use super::source::ready;
use super::{Answer, say, say_json};
use crate::foreign::FileLog;
use crate::json::compared::{first_value, mishaps_value};
use crate::words::counted;
use crate::words::trace::{coverage_words, explanation_words, fact_words};
use crate::words::turn::{self as told, Detail};
use anyhow::Context;
use clap::Args;
use magpie_core::mishap::Slipped;
use magpie_core::rulebook::Rulebook;
use magpie_core::trace::{Comparison, Explained, First, Header, Tongue, compare};
use serde_json::{Value, json};
use std::path::PathBuf;

/// How a log is read.
#[derive(Args, Debug)]
pub struct Reading {
    /// A line as it was printed: text with {input} {column} {row} {index} {x} {y} {granted} {t} {skip}; may stand several times.
    #[arg(long = "line", value_name = "TEMPLATE")]
    templates: Vec<String>,
    /// Its words for ours: "L=left R=right crate=box".
    #[arg(long, default_value = "", value_name = "THEIRS=OURS ...")]
    words: String,
    /// Its characters of boards for ours: "@=F $=w".
    #[arg(long, default_value = "", value_name = "THEIRS=OURS ...")]
    glyphs: String,
    /// How far positions may lie apart, in px.
    #[arg(long, default_value_t = 0.01, value_name = "PX")]
    pub within: f64,
}

impl Reading {
    pub fn tongue(&self) -> anyhow::Result<Tongue> {
        if !(self.within.is_finite() && self.within >= 0.0) {
            anyhow::bail!("`--within` is a number of px, 0 or more");
        }
        Ok(Tongue::new(&self.templates, &self.words, &self.glyphs)?)
    }
}

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// The log.
    log: PathBuf,
    #[command(flatten)]
    reading: Reading,
    /// One JSON document instead of text.
    #[arg(long)]
    json: bool,
}

/// Compares a log: 0 where it is alike, 1 where not.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    let tongue = options.reading.tongue()?;
    let mut log = FileLog::open(&options.log)?;
    let found = compare(&ready.book, &tongue, Header::default(), options.reading.within, &mut log)
        .with_context(|| format!("`{}`", options.log.display()))?;
    if options.json {
        say_json(&document(&found, &ready.book))?;
    } else {
        text(&found, &ready.book)?;
    }
    Ok(if found.first.is_none() { Answer::Done } else { Answer::No })
}

fn document(found: &Comparison, book: &Rulebook) -> Value {
    json!({
        "lines": found.lines,
        "inputs": found.inputs,
        "reports": found.reports,
        "skipped": found.skipped,
        "same": found.first.is_none(),
        "first": found.first.as_ref().map(|first| first_value(first, book)),
        "mishaps": mishaps_value(&found.mishaps, book),
    })
}

fn text(found: &Comparison, book: &Rulebook) -> anyhow::Result<()> {
    let passed = if found.skipped > 0 { format!(", {} passed over", found.skipped) } else { String::new() };
    let read = format!("{}, {}{passed}", counted(found.lines, "line"), counted(found.reports, "report"));
    let Some(first) = &found.first else {
        if found.reports == 0 {
            say!("{read}: nothing is told that could be held against the model")?;
        } else {
            say!("{read}: alike, every one")?;
        }
        return Ok(());
    };
    say!("{read}, {} alike before the first difference", counted(found.alike, "report"))?;
    first_text(first, book)?;
    mishaps_text(&found.mishaps, book)
}

/// The first difference, both sides and the turn.
pub fn first_text(first: &First, book: &Rulebook) -> anyhow::Result<()> {
    let input = first.input.as_ref().map_or(String::new(), |input| format!(", `{input}`"));
    say!("line {}, turn {}{input}", first.line, first.turn)?;
    for differs in &first.differs {
        let key = differs.expected.key();
        for (side, fact) in [("model", &differs.expected), ("program", &differs.got)] {
            for (number, line) in fact_words(fact, book).into_iter().enumerate() {
                let (key, side) = if number == 0 { (key, side) } else { ("", "") };
                say!("  {key:<9} {side:<8} {line}")?;
            }
        }
    }
    if !first.cells.is_empty() {
        let cells: Vec<String> = first.cells.iter().map(|cell| format!("{},{}", cell.column, cell.row)).collect();
        say!("  differing cells: {}", cells.join(" "))?;
    }
    if let Some(answer) = &first.answer {
        say!("the model's turn:")?;
        let extent = first.extent;
        for line in told::report(answer, book, extent, Detail::Everything) {
            let at = line.rule_at.map_or(String::new(), |line| format!("  line {line}"));
            say!("  {}{at}", line.text)?;
        }
    }
    Ok(())
}

/// The mistakes that explain it, in words.
pub fn mishaps_text(mishaps: &[Explained], book: &Rulebook) -> anyhow::Result<()> {
    if mishaps.is_empty() {
        say!("no mistake of the catalogue explains it")?;
    }
    for explained in mishaps {
        say!("{}: {}", explained.name(), explanation_words(explained, book))?;
        let places = [explained.slipped.place(), explained.with.as_ref().and_then(Slipped::place)];
        for place in places.iter().flatten() {
            say!("  {place}")?;
        }
        say!("  {}", coverage_words(explained))?;
    }
    Ok(())
}
