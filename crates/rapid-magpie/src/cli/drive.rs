//! `drive`: somebody's program is given inputs, and every answer is held against the model.

use super::compare::{Reading, first_text, mishaps_text};
use super::source::{Ready, ready};
use super::{Answer, complain, say, say_json};
use crate::files::{name_of, tape_head, write_output};
use crate::foreign::Process;
use crate::json::compared::{first_value, mishaps_value};
use crate::words::counted;
use crate::words::trace::fault_words;
use anyhow::bail;
use clap::Args;
use magpie_core::input::Input;
use magpie_core::proof::Inputs;
use magpie_core::tape::{Session, Start};
use magpie_core::trace::{Driven, Fault, Header, Plan, drive, plan};
use serde_json::json;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::AtomicBool;
use std::time::{Duration, Instant};

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// The map, counted from 1.
    #[arg(long, default_value_t = 1)]
    map: usize,
    /// Random sequences of 50 inputs; as many inputs are spent on states and inputs not played yet before.
    #[arg(long, default_value_t = 200)]
    runs: usize,
    /// The seed, of the map and of what is played at random; without it the rulebook's.
    #[arg(long)]
    seed: Option<u64>,
    /// Some of the inputs only: "left right wait".
    #[arg(long, value_name = "WORDS")]
    inputs: Option<String>,
    /// Start the program anew for every sequence.
    #[arg(long)]
    respawn: bool,
    /// Stop after so many seconds.
    #[arg(long, value_name = "S")]
    seconds: Option<f64>,
    /// Where to write the shortest sequence that differs, with what the program said.
    #[arg(long, value_name = "OUT.jsonl")]
    record: Option<PathBuf>,
    /// For a game that is no pipe: write the inputs as a tape, start nothing.
    #[arg(long, value_name = "OUT.jsonl", conflicts_with_all = ["record", "command", "respawn"])]
    plan: Option<PathBuf>,
    #[command(flatten)]
    reading: Reading,
    /// One JSON document instead of text.
    #[arg(long)]
    json: bool,
    /// The program and its arguments, behind `--`.
    #[arg(last = true, value_name = "COMMAND")]
    command: Vec<String>,
}

/// Inputs of random sequences in a plan.
const PLANNED_RUNS: usize = 20;

/// Drives a program: 0 no difference, 1 a difference, 2 it cannot be started, 3 time was over first.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    let map = ready.book.map_number(options.map)?;
    let tongue = options.reading.tongue()?;
    let entered = Session::new(Start { seed: options.seed, ..Start::map(ready.book.clone(), map) })?;
    let inputs = match &options.inputs {
        Some(words) => Inputs::named(entered.grid(), words)?,
        None => Inputs::all(entered.grid()),
    };
    let task = Plan {
        start: Header { map: Some(map), seed: options.seed },
        runs: options.runs,
        seed: options.seed.unwrap_or(1),
        respawn: options.respawn,
        within: options.reading.within,
    };
    if let Some(path) = &options.plan {
        return write_plan(options, &ready, &task, (&entered, &inputs), path);
    }
    if options.command.is_empty() {
        bail!("drive needs the command of your program behind `--`, as in `-- python3 game.py`, or `--plan OUT.jsonl`");
    }
    let end = match options.seconds {
        Some(seconds) if seconds.is_finite() && seconds > 0.0 => {
            Some(Instant::now() + Duration::from_secs_f64(seconds.min(1e9)))
        }
        Some(_) => bail!("`--seconds` is a number over 0"),
        None => None,
    };
    // Interrupted, the program is ended before we go.
    let stop = Arc::new(AtomicBool::new(false));
    for signal in [signal_hook::consts::SIGINT, signal_hook::consts::SIGTERM, signal_hook::consts::SIGHUP] {
        signal_hook::flag::register(signal, stop.clone())?;
    }
    let mut process = Process::new(options.command.clone(), end, stop);
    let found = drive(&ready.book, &tongue, &task, (entered.grid(), &inputs), &mut process);
    let last_words = process.last_words();
    drop(process);
    if let (Some(path), false) = (&options.record, found.log.is_empty()) {
        let name = name_of(&options.file);
        let head = tape_head(&name, options.map, options.seed.unwrap_or(ready.book.seed))?;
        let text = found.log.iter().fold(head, |text, line| text + line + "\n");
        write_output(path, text.as_bytes(), [options.file.as_path()])?;
    }
    if options.json {
        say_json(&document(&found, &ready))?;
    } else {
        text(&found, &ready, &last_words)?;
    }
    let is_no_report = found.sent == 0 && found.sequences <= 1 && found.tape.is_some();
    Ok(match &found.fault {
        Some(Fault::NoStart(_)) => Answer::Wrong,
        Some(Fault::Unsteady | Fault::Restart) => Answer::No,
        Some(_) if is_no_report => Answer::Wrong,
        Some(_) => Answer::No,
        None if found.first.is_some() => Answer::No,
        None if found.is_cut => Answer::Limit,
        None => Answer::Done,
    })
}

/// The covering walk and some random sequences as a tape.
fn write_plan(
    options: &Options,
    ready: &Ready,
    task: &Plan,
    (entered, inputs): (&Session, &Inputs),
    path: &Path,
) -> anyhow::Result<Answer> {
    let tape = plan(task, (entered.grid(), inputs), options.runs * 50, PLANNED_RUNS.min(options.runs));
    let name = name_of(&options.file);
    let head = tape_head(&name, options.map, options.seed.unwrap_or(ready.book.seed))?;
    let text = tape.iter().fold(head, |text, input| text + &json!({ "input": input.to_string() }).to_string() + "\n");
    write_output(path, text.as_bytes(), [options.file.as_path()])?;
    let sequences = tape.iter().filter(|input| **input == Input::Restart).count();
    let inputs = tape.len() - sequences;
    if options.json {
        say_json(&json!({ "inputs": inputs, "sequences": sequences }))?;
    } else {
        say!(
            "{} in {} written: let the game play them, log each with its report, then `compare`",
            counted(inputs, "input"),
            counted(sequences, "sequence")
        )?;
    }
    Ok(Answer::Done)
}

fn document(found: &Driven, ready: &Ready) -> serde_json::Value {
    let book = &ready.book;
    json!({
        "same": found.is_same(),
        "sent": found.sent,
        "sequences": found.sequences,
        "pairs": found.pairs,
        "pairs_of": found.pairs_of,
        "skipped": found.skipped,
        "tape": found.tape.as_ref().map(|tape| tape.iter().map(ToString::to_string).collect::<Vec<_>>()),
        "fault": found.fault.as_ref().map(Fault::word),
        "first": found.first.as_ref().map(|first| first_value(first, book)),
        "mishaps": mishaps_value(&found.mishaps, book),
    })
}

fn text(found: &Driven, ready: &Ready, last_words: &[String]) -> anyhow::Result<()> {
    let is_all = found.is_same() && !found.is_cut && found.pairs_of == Some(found.pairs);
    let pairs = match found.pairs_of {
        Some(all) if is_all => format!("all {all} pairs of a state and an input"),
        Some(all) => format!("{} of {all} pairs of a state and an input", found.pairs),
        None if found.pairs > 0 => {
            format!("{} pairs of a state and an input; there are too many to count", found.pairs)
        }
        None => "at random: the rulebook draws by lot".into(),
    };
    say!("{} sent in {}: {pairs}", counted(found.sent, "input"), counted(found.sequences, "sequence"))?;
    if found.skipped > 0 {
        say!("{} passed over", counted(found.skipped, "line"))?;
    }
    if let Some(tape) = &found.tape {
        let words: Vec<String> = tape.iter().map(ToString::to_string).collect();
        let which = if words.is_empty() { "the start alone".into() } else { words.join(" ") };
        say!("{}: {which}", if found.fault.is_some() { "sequence" } else { "shortest sequence that differs" })?;
    }
    if let Some(fault) = &found.fault {
        say!("{}: {}", fault.word(), fault_words(fault))?;
        for line in &found.passed {
            say!("  it printed: {line}")?;
        }
        for line in last_words {
            say!("  on standard error: {line}")?;
        }
    }
    match &found.first {
        Some(first) => {
            first_text(first, &ready.book)?;
            mishaps_text(&found.mishaps, &ready.book)?;
        }
        None if found.fault.is_some() => {}
        None if found.is_cut => complain!("stopped before all was played; no difference until then"),
        None if is_all => {
            say!("all pairs alike: it answers every input in every reachable state of this map as the model does")?;
        }
        None => say!("no difference")?,
    }
    Ok(())
}
