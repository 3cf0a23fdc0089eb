//! `check`: what is wrong with rulebooks.

use super::Answer;
use super::source::render;
use super::{complain, say, say_json};
use crate::files::{Loaded, load};
use crate::json::{diagnostics, place};
use crate::words::counted;
use clap::{Args, ValueEnum};
use magpie_core::rulebook::{Code, Diagnostic, LineIndex, Severity, Unlisted};
use serde_json::{Value, json};
use std::path::PathBuf;

#[derive(Clone, Copy, Debug, ValueEnum)]
enum Format {
    /// For people.
    Text,
    /// One array for all files.
    Json,
    /// For code scanners.
    Sarif,
}

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebooks.
    #[arg(required = true)]
    files: Vec<PathBuf>,
    /// How to tell.
    #[arg(long, value_enum, default_value = "text")]
    format: Format,
}

/// Checks rulebooks: 1 with any error, 2 when a file cannot be read.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let mut unreadable = false;
    let mut loaded = Vec::new();
    for path in &options.files {
        match load(path) {
            Ok(file) => loaded.push(file),
            Err(error) => {
                complain!("{error:#}");
                unreadable = true;
            }
        }
    }
    match options.format {
        Format::Text => text(&loaded)?,
        Format::Json => {
            let all: Vec<Value> =
                loaded.iter().flat_map(|file| diagnostics(&file.path.display().to_string(), &file.reading)).collect();
            say_json(&all)?;
        }
        Format::Sarif => say_json(&sarif(&loaded))?,
    }
    if !matches!(options.format, Format::Text) {
        for Loaded { path, reading } in loaded.iter().filter(|file| file.reading.unlisted != Unlisted::default()) {
            let Unlisted { errors, warnings } = reading.unlisted;
            let (errors, warnings) = (counted(errors, "mistake"), counted(warnings, "warning"));
            complain!("{}: {errors} and {warnings} more are not listed", path.display());
        }
    }
    Ok(match loaded.iter().any(|file| file.reading.has_errors()) {
        _ if unreadable => Answer::Wrong,
        true => Answer::No,
        false => Answer::Done,
    })
}

fn text(loaded: &[Loaded]) -> anyhow::Result<()> {
    for file in loaded {
        let path = file.path.display().to_string();
        let found: Vec<&Diagnostic> = file.reading.diagnostics.iter().collect();
        let [errors, warnings] = [Severity::Error, Severity::Warning].map(|severity| file.reading.count(severity));
        say!(
            "{}{path}: {}, {}",
            render(&path, &file.reading.source, &found, errors + warnings),
            counted(errors, "mistake"),
            counted(warnings, "warning")
        )?;
    }
    Ok(())
}

/// The same as SARIF 2.1.0, for tools that collect findings.
fn sarif(loaded: &[Loaded]) -> Value {
    let rules: Vec<Value> = Code::ALL.iter().map(|code| json!({ "id": code.word() })).collect();
    let results: Vec<Value> = loaded
        .iter()
        .flat_map(|file| {
            let index = LineIndex::new(&file.reading.source);
            file.reading.diagnostics.iter().map(move |found| {
                let (at, length) = place(&file.reading, &index, found);
                let help = found.help.as_ref().map(|help| format!(" ({help})")).unwrap_or_default();
                json!({
                    "ruleId": found.code.word(),
                    "level": found.code.severity().word(),
                    "message": { "text": format!("{}{help}", found.message) },
                    "locations": [{ "physicalLocation": {
                        "artifactLocation": { "uri": file.path.display().to_string() },
                        "region": {
                            "startLine": at.line,
                            "startColumn": at.column,
                            "endColumn": at.column + length,
                        },
                    }}],
                })
            })
        })
        .collect();
    json!({
        "version": "2.1.0",
        "$schema": "https://json.schemastore.org/sarif-2.1.0.json",
        "runs": [{
            "tool": { "driver": { "name": "rapid-magpie", "version": env!("CARGO_PKG_VERSION"), "rules": rules } },
            "columnKind": "unicodeCodePoints",
            "results": results,
        }],
    })
}
