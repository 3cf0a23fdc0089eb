//! `diagnose`: the mistake behind the numbers that somebody's program printed, and what is wrong with a recorded motion.

use super::Answer;
use super::convert::Space;
use super::source::ready;
use super::{say, say_json};
use crate::files::text_of;
use crate::json::whole_or_decimal;
use crate::words::{counted, explanation_name, explanation_numbers, explanation_says, plain, position_words};
use anyhow::{Context, bail};
use clap::Args;
use magpie_core::limits::LARGEST_FILE;
use magpie_core::mishap::{Diagnosis, Explanation, Given, Mishap, Samples, diagnose, parse_samples};
use magpie_core::rulebook::Rulebook;
use magpie_core::space::{Cell, Position, WindowPoint, WorldPoint, show};
use magpie_core::trace::{Finding, Judged, Measured, Run, is_frames, judge, parse_frames};
use serde_json::{Map, Value, json};
use std::io::Read;
use std::path::{Path, PathBuf};

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// A CSV, or lines as a program printed them, or frames with the columns t,x,y and run; `-` is standard input.
    samples: PathBuf,
    /// What the positions are; without it both are tried.
    #[arg(long, value_enum)]
    space: Option<Space>,
    /// What the numbers of printed lines are, in their order: `x,y,column,row`; `_` for one to pass over.
    #[arg(long = "as", value_name = "NAME,NAME,...")]
    names: Option<String>,
    /// The kind whose hotspot counts.
    #[arg(long)]
    kind: Option<String>,
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
    let book = &ready.book;
    let map = book.map_number(options.map)?;
    let kind = options.kind.as_deref().map(|name| book.kind_named(name)).transpose()?;
    let window = options.space.map(|space| space == Space::Win);
    if window == Some(true) && book.view.is_none() {
        bail!("`--space win` needs a `view` in the rulebook");
    }
    let given_text = text_at(&options.samples)?;
    if options.names.is_none() && is_frames(given_text.lines().next().unwrap_or_default()) {
        if options.space == Some(Space::Win) {
            bail!("frames are positions of the world: `--space win` is about samples");
        }
        return frames(options, book, map, &given_text);
    }
    let given = Given { hotspot: book.hotspot_of(kind), window, ..Given::of(book, map) };
    let names = options.names.as_deref().map(str::parse).transpose()?;
    let samples = parse_samples(&given_text, given.board(), names.as_ref())
        .with_context(|| format!("`{}`", options.samples.display()))?;
    let found = diagnose(&given, &samples);
    if options.json {
        say_json(&document(&samples, &found, &given))?;
    } else {
        text(&samples, &found, &given)?;
    }
    let correct = found.explanations.first().is_some_and(Explanation::is_correct);
    Ok(if correct { Answer::Done } else { Answer::No })
}

/// The text of a file, or of standard input.
fn text_at(path: &Path) -> anyhow::Result<String> {
    if path != Path::new("-") {
        return text_of(path);
    }
    let mut bytes = Vec::new();
    std::io::stdin().take(LARGEST_FILE as u64 + 1).read_to_end(&mut bytes)?;
    if bytes.len() > LARGEST_FILE {
        bail!("standard input is larger than 16 MiB");
    }
    String::from_utf8(bytes).map_err(|_| anyhow::anyhow!("standard input is no UTF-8"))
}

/// Judges recorded frames: 0 without findings, else 1.
fn frames(options: &Options, book: &Rulebook, map: usize, text: &str) -> anyhow::Result<Answer> {
    let runs = parse_frames(text).with_context(|| format!("`{}`", options.samples.display()))?;
    let judged = judge(&runs, &book.geometry, book.maps[map].extent);
    if options.json {
        say_json(&judged_document(&runs, &judged))?;
    } else {
        judged_text(&runs, &judged)?;
    }
    Ok(if judged.findings.is_empty() { Answer::Done } else { Answer::No })
}

/// As many decimals as people write of a time.
fn thousandths(number: f64) -> Value {
    whole_or_decimal((number * 1000.0).round() / 1000.0)
}

fn judged_document(runs: &[Run], judged: &Judged) -> Value {
    let run = |(run, measured): (&Run, &Measured)| {
        json!({
            "run": run.label,
            "rows": run.rows.len(),
            "steps": measured.steps,
            "ms_per_frame": thousandths(measured.ms_per_frame),
            "px_per_frame": thousandths(measured.px_per_frame),
            "fits": measured.fits.as_ref().map(|(pace, _)| pace),
            "off": measured.fits.as_ref().map(|(_, off)| thousandths(*off)),
        })
    };
    let finding = |finding: &Finding| {
        let numbers: Map<String, Value> =
            finding.numbers.iter().map(|(name, value)| ((*name).to_owned(), whole_or_decimal(*value))).collect();
        json!({
            "finding": finding.fault.word(),
            "run": runs[finding.run].label,
            "row": finding.row,
            "t": whole_or_decimal(runs[finding.run].rows[finding.row].t),
            "says": finding.says,
            "numbers": numbers,
        })
    };
    json!({
        "frames": runs.iter().map(|run| run.rows.len()).sum::<usize>(),
        "runs": runs.iter().zip(&judged.runs).map(run).collect::<Vec<_>>(),
        "findings": judged.findings.iter().map(finding).collect::<Vec<_>>(),
    })
}

fn judged_text(runs: &[Run], judged: &Judged) -> anyhow::Result<()> {
    let name = |run: &Run| run.label.as_ref().map_or("frames".into(), |label| format!("run {}", plain(label)));
    for (run, measured) in runs.iter().zip(&judged.runs) {
        say!(
            "{}: {}, {}, {:.3} ms a frame, {} px a frame",
            name(run),
            counted(run.rows.len(), "row"),
            counted(measured.steps, "step"),
            measured.ms_per_frame,
            show((measured.px_per_frame * 1000.0).round() / 1000.0)
        )?;
        match &measured.fits {
            Some((pace, off)) => say!("  moves like: {pace} (at most {off:.3} px off)")?,
            None => say!("  no pace moves like it")?,
        }
    }
    if judged.findings.is_empty() {
        say!("nothing is wrong with the motion")?;
    }
    for finding in &judged.findings {
        let run = &runs[finding.run];
        let of = if runs.len() > 1 { format!("{}, ", name(run)) } else { String::new() };
        say!("{}: {}", finding.fault.word(), finding.says)?;
        say!("  {of}row {}, {} ms", finding.row, show(run.rows[finding.row].t))?;
    }
    Ok(())
}

fn document(samples: &Samples, found: &Diagnosis, given: &Given) -> Value {
    let pair = |(x, y): (f64, f64)| json!([whole_or_decimal(x), whole_or_decimal(y)]);
    let entry = |explanation: &Explanation| {
        let origin = explanation.geometry.corner_of_first(given.extent);
        json!({
            "mishap": explanation.mishap.map_or("correct", Mishap::id),
            "with": explanation.with.map(Mishap::id),
            "axis": match explanation.vertical { None => "both", Some(false) => "column", Some(true) => "row" },
            "space": samples.asks.at_positions().then_some(if explanation.window { "window" } else { "world" }),
            "fitted": explanation.fitted,
            "says": explanation_says(explanation, given),
            "numbers": {
                "cell": pair(explanation.geometry.size),
                "gap": pair(explanation.geometry.gap),
                "origin": pair((origin.x, origin.y)),
            },
        })
    };
    json!({
        "samples": samples.all.len(),
        "explanations": found.explanations.iter().map(entry).collect::<Vec<_>>(),
        "next": found.next.map(next),
    })
}

/// A position as an input of `convert`, whole numbers without a point.
fn next(position: Position) -> Value {
    match position {
        Position::World(WorldPoint { x, y }) => {
            json!({ "space": "world", "x": whole_or_decimal(x), "y": whole_or_decimal(y) })
        }
        Position::Window(WindowPoint { x, y }) => {
            json!({ "space": "window", "x": whole_or_decimal(x), "y": whole_or_decimal(y) })
        }
        Position::Cell(Cell { column, row }) => json!({ "space": "cell", "column": column, "row": row }),
        Position::Index(index) => json!({ "space": "index", "index": index }),
    }
}

fn text(samples: &Samples, found: &Diagnosis, given: &Given) -> anyhow::Result<()> {
    let all = counted(samples.all.len(), "sample");
    match found.explanations.len() {
        0 => say!("{all}: no mistake of the catalogue fits them all")?,
        count => say!("{all}: {} fit", counted(count, "explanation"))?,
    }
    for explanation in &found.explanations {
        say!("  {:<24} {}", explanation_name(explanation), explanation_says(explanation, given))?;
        say!("  {:<24} {}", "", explanation_numbers(explanation, given.extent))?;
    }
    if found.is_of_two_spaces() {
        say!(
            "right for world positions, and the same as a step left out for window positions: --space px or win settles it"
        )?;
    }
    if let Some(next) = found.next {
        say!("best next sample: {}", position_words(next))?;
    }
    Ok(())
}
