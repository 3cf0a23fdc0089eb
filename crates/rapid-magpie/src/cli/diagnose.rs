//! `diagnose`: the mistake behind the numbers that somebody's program printed.

use super::Answer;
use super::json::whole_or_decimal;
use super::source::ready;
use super::{say, say_json};
use crate::files::text_of;
use crate::words::{counted, explanation_name, explanation_numbers, explanation_says};
use anyhow::{Context, bail};
use clap::Args;
use magpie_core::limits::LARGEST_FILE;
use magpie_core::mishap::{Asks, Diagnosis, Explanation, Given, Mishap, Samples, diagnose, parse_samples};
use magpie_core::space::{Extent, show};
use serde_json::{Value, json};
use std::io::Read;
use std::path::{Path, PathBuf};

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// A CSV, or lines as a program printed them; `-` is standard input.
    samples: PathBuf,
    /// The map, counted from 1.
    #[arg(long, default_value_t = 1)]
    map: usize,
    /// One JSON document instead of text.
    #[arg(long)]
    json: bool,
}

/// Explains samples: 0 where the right formula fits them all, else 1.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    let map = ready.book.map_number(options.map)?;
    let samples = samples_of(&options.samples)?;
    let found = diagnose(&Given::of(&ready.book, map), &samples);
    let extent = ready.book.maps[map].extent;
    if options.json {
        say_json(&document(&samples, &found, extent))?;
    } else {
        text(&samples, &found, extent)?;
    }
    let correct = found.explanations.first().is_some_and(Explanation::is_correct);
    Ok(if correct { Answer::Done } else { Answer::No })
}

fn samples_of(path: &Path) -> anyhow::Result<Samples> {
    let text = if path == Path::new("-") {
        let mut bytes = Vec::new();
        std::io::stdin().take(LARGEST_FILE as u64 + 1).read_to_end(&mut bytes)?;
        if bytes.len() > LARGEST_FILE {
            bail!("standard input is larger than 16 MiB");
        }
        String::from_utf8(bytes).map_err(|_| anyhow::anyhow!("standard input is no UTF-8"))?
    } else {
        text_of(path)?
    };
    parse_samples(&text).with_context(|| format!("`{}`", path.display()))
}

fn document(samples: &Samples, found: &Diagnosis, extent: Extent) -> Value {
    let pair = |(x, y): (f64, f64)| json!([whole_or_decimal(x), whole_or_decimal(y)]);
    let entry = |explanation: &Explanation| {
        let origin = explanation.geometry.corner_of_first(extent);
        json!({
            "mishap": explanation.mishap.map_or("correct", Mishap::id),
            "with": explanation.with.map(Mishap::id),
            "axis": match explanation.vertical { None => "both", Some(false) => "column", Some(true) => "row" },
            "space": if explanation.window { "window" } else { "world" },
            "fitted": explanation.fitted,
            "says": explanation_says(explanation),
            "numbers": {
                "cell": pair(explanation.geometry.size),
                "gap": pair(explanation.geometry.gap),
                "origin": pair((origin.x, origin.y)),
            },
        })
    };
    let names = if asks_centre(samples) { ["column", "row"] } else { ["x", "y"] };
    let next = found.next.map(|(x, y)| json!({ names[0]: whole_or_decimal(x), names[1]: whole_or_decimal(y) }));
    json!({
        "samples": samples.all.len(),
        "explanations": found.explanations.iter().map(entry).collect::<Vec<_>>(),
        "next": next,
    })
}

fn asks_centre(samples: &Samples) -> bool {
    samples.asks == Asks::Centre
}

fn text(samples: &Samples, found: &Diagnosis, extent: Extent) -> anyhow::Result<()> {
    let all = counted(samples.all.len(), "sample");
    match found.explanations.len() {
        0 => say!("{all}: no mistake of the catalogue fits them all")?,
        count => say!("{all}: {} fit", counted(count, "explanation"))?,
    }
    for explanation in &found.explanations {
        say!("  {:<24} {}", explanation_name(explanation), explanation_says(explanation))?;
        say!("  {:<24} {}", "", explanation_numbers(explanation, extent))?;
    }
    if let Some((x, y)) = found.next {
        let what = if asks_centre(samples) { "the centre of cell" } else { "the position" };
        say!("best next sample: {what} {}, {}", show(x), show(y))?;
    }
    Ok(())
}
