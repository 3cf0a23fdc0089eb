//! `pace`: motion between two cells, frame by frame.

use super::Answer;
use super::source::{Ready, ready};
use super::{complain, say, say_json};
use crate::files::write_output;
use crate::json::whole_or_decimal;
use crate::limits::MOST_PACE_CELLS;
use crate::words::{figure_lines, frames_words, sum_lines};
use anyhow::bail;
use clap::Args;
use magpie_core::pace::{
    Drive, Figures, Frames, Parting, Plan, RunError, TrackRun, mover, movers, notes, parse_keys, parting,
    run as run_plan,
};
use magpie_core::space::exact::{Fraction, nearest};
use magpie_core::tape::{Session, Start};
use serde_json::{Value, json};
use std::path::PathBuf;

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// The kind that moves; without it the one that is controlled.
    #[arg(long)]
    kind: Option<String>,
    /// Frame rates, separated by commas; 60 unless frames are said otherwise.
    #[arg(long, value_delimiter = ',')]
    fps: Vec<String>,
    /// Durations of frames in ms, separated by commas, used over and over: one more run.
    #[arg(long)]
    frame_ms: Option<String>,
    /// Steps of the usual run; 10 unless said.
    #[arg(long, conflicts_with = "keys")]
    cells: Option<u64>,
    /// Keys with their times: "0:right+ 350:right-".
    #[arg(long)]
    keys: Option<String>,
    /// A map to move on, counted from 1; without it an endless track.
    #[arg(long)]
    map: Option<usize>,
    /// Where a body gets on a map, and what is too narrow for it; on the first map unless said.
    #[arg(long, conflicts_with_all = ["fps", "frame_ms", "cells", "keys", "csv"])]
    gaps: bool,
    /// The size of that body in px, as "14x12"; left out: that of the pace.
    #[arg(long, requires = "gaps")]
    body: Option<String>,
    /// A CSV of all frames.
    #[arg(long)]
    csv: Option<PathBuf>,
    /// One JSON document instead of text.
    #[arg(long)]
    json: bool,
}

/// A run with the frames it was made at.
struct Made {
    frames: Frames,
    run: TrackRun,
}

/// Runs a pace: 3 where it does not end within the limit.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    let kind = mover(&ready.book, options.kind.as_deref())?;
    let map = options.map.map(|map| ready.book.map_number(map)).transpose()?;
    if options.gaps {
        return super::gaps::run(&ready, kind, map.unwrap_or(0), options.body.as_deref(), options.json);
    }
    if map.is_some() && options.keys.is_none() {
        bail!("`--map` is for `--keys` or `--gaps`: say which keys are pressed on it");
    }
    let mut all = options.fps.iter().map(|fps| Frames::rate(fps.trim())).collect::<Result<Vec<_>, _>>()?;
    if let Some(list) = &options.frame_ms {
        all.push(Frames::list(list)?);
    }
    if all.is_empty() {
        all.push(Frames::rate("60")?);
    }
    let drive = match &options.keys {
        Some(text) => Drive::Keys(parse_keys(text)?),
        None => Drive::Usual(options.cells.unwrap_or(10)),
    };
    if !(1..=MOST_PACE_CELLS).contains(&options.cells.unwrap_or(10)) {
        bail!("`--cells` is 1 to {MOST_PACE_CELLS}");
    }
    let movers = movers(&ready.book, kind, &drive)?;
    let mut made = Vec::new();
    for frames in all {
        let plan = Plan { movers: movers.clone(), frames, keys: drive.clone(), until: None };
        match run_on(&ready, map, &plan) {
            Ok(runs) => made.extend(runs.into_iter().map(|run| Made { frames: plan.frames.clone(), run })),
            Err(Failed::Run(RunError::TooLong)) => {
                complain!("{}", RunError::TooLong);
                return Ok(Answer::Limit);
            }
            Err(Failed::Run(error)) => return Err(error.into()),
            Err(Failed::Other(error)) => return Err(error),
        }
    }
    if let Some(path) = &options.csv {
        write_output(path, &table(&made)?, [options.file.as_path()])?;
    }
    let name = &ready.book.kind(kind).name;
    if options.json {
        let runs: Vec<Value> = made.iter().map(document).collect();
        say_json(&json!({ "kind": name, "runs": runs }))?;
    } else {
        text(&made)?;
    }
    Ok(Answer::Done)
}

enum Failed {
    Run(RunError),
    Other(anyhow::Error),
}

fn run_on(ready: &Ready, map: Option<usize>, plan: &Plan) -> Result<Vec<TrackRun>, Failed> {
    let book = &ready.book;
    let extent = book.maps[map.unwrap_or(0)].extent;
    let Some(map) = map else {
        return run_plan(plan, &book.geometry, extent, None).map_err(Failed::Run);
    };
    let start = Start::map(book.clone(), map);
    let mut session = Session::new(start).map_err(|error| Failed::Other(error.into()))?;
    run_plan(plan, &book.geometry, extent, Some(session.grid_mut())).map_err(Failed::Run)
}

fn optional(number: Option<&Fraction>) -> Value {
    number.map_or(Value::Null, |number| json!(nearest(number)))
}

fn document(made: &Made) -> Value {
    let Made { frames, run } = made;
    let (fps, list) = match frames {
        Frames::Rate(_, fps) => (whole_or_decimal(nearest(fps)), Value::Null),
        Frames::List(list) => (Value::Null, list.iter().map(|ms| whole_or_decimal(nearest(ms))).collect()),
    };
    let samples: Vec<Value> = run
        .samples
        .iter()
        .map(|sample| {
            json!({
                "t": sample.t, "x": sample.x, "y": sample.y, "column": sample.cell.column, "row": sample.cell.row,
                "progress": sample.progress, "state": sample.state.word(),
            })
        })
        .collect();
    json!({
        "kind": run.name,
        "fps": fps,
        "frame_ms": list,
        "mode": run.settings.mode_words(),
        "pace": run.settings.words(),
        "frames": samples,
        "figures": figures(&run.figures),
        "sums": sums(run, frames),
        "notes": notes(run, frames),
    })
}

/// The frames of a cell added up in f64 and in f32; null for a pace that adds nothing up.
fn sums(run: &TrackRun, frames: &Frames) -> Value {
    let all = parting(&run.settings, frames, &run.length);
    let entry = |found: &Parting| {
        json!({
            "type": found.name, "unit": if found.cells { "cells" } else { "px" },
            "frames": found.reached.1, "exact_frames": found.reached.0, "past": found.past,
        })
    };
    if all.is_empty() { Value::Null } else { all.iter().map(entry).collect() }
}

fn figures(found: &Figures) -> Value {
    json!({
        "frames_per_step": found.frames_per_step,
        "ms_per_step": optional(found.ms_per_step.as_ref()),
        "nominal_speed": optional(found.nominal_speed.as_ref()),
        "mean_speed": optional(found.mean_speed.as_ref()),
        "overshoot": nearest(&found.overshoot),
        "error": nearest(&found.error),
        "jump": nearest(&found.jump),
        "inputs_lost": found.inputs_lost,
        "refused": found.refused,
        "latency_ms": optional(found.latency.as_ref()),
        "conflicts": found.conflicts,
        "steps": found.steps,
        "presses": found.presses,
        "diagonals": found.diagonals,
        "outcome": found.outcome.words(),
        "caught": found.caught,
        "slid": found.slid,
        "touched": found.touched.as_ref().map(|all| all.iter().map(|(x, y)| [x, y]).collect::<Vec<_>>()),
        "lined": optional(found.lined.as_ref()),
    })
}

/// Every frame of every run, one row each.
fn table(made: &[Made]) -> anyhow::Result<Vec<u8>> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(["kind", "fps", "frame", "t", "x", "y", "column", "row", "progress", "state"])?;
    for Made { frames, run } in made {
        let fps = match frames {
            Frames::Rate(text, _) => text.as_str(),
            Frames::List(_) => "",
        };
        for (number, sample) in run.samples.iter().enumerate() {
            let decimal = |number: f64| number.to_string();
            writer.write_record([
                &run.name,
                fps,
                &number.to_string(),
                &decimal(sample.t),
                &decimal(sample.x),
                &decimal(sample.y),
                &sample.cell.column.to_string(),
                &sample.cell.row.to_string(),
                &decimal(sample.progress),
                sample.state.word(),
            ])?;
        }
    }
    writer.into_inner().map_err(|error| anyhow::anyhow!("{error}"))
}

fn text(made: &[Made]) -> anyhow::Result<()> {
    for (number, Made { frames, run }) in made.iter().enumerate() {
        if number > 0 {
            say!()?;
        }
        say!("{} at {}: {}", run.name, frames_words(frames), run.settings.words())?;
        for (name, value) in figure_lines(&run.figures) {
            say!("  {name:<17} {value}")?;
        }
        for (name, value) in sum_lines(run, frames) {
            say!("  {name:<17} {value}")?;
        }
        for note in notes(run, frames) {
            say!("  ! {note}")?;
        }
    }
    Ok(())
}
