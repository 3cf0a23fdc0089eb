//! `play`: inputs in, every answer out.

use super::Answer;
use super::json::{self, Show};
use super::source::ready;
use super::{complain, say, say_json};
use crate::files::{read_tape, tape_text, write_output};
use anyhow::bail;
use clap::{Args, ValueEnum};
use magpie_core::grid::{Answer as TurnAnswer, Ended, Grid, Taken};
use magpie_core::input::{Input, parse_inputs};
use magpie_core::rulebook::CounterRead;
use magpie_core::tape::{Session, Start, WrongTime};
use std::path::PathBuf;

#[derive(Clone, Copy, Debug, ValueEnum)]
enum Shown {
    /// The state at the end.
    Last,
    /// The state after every turn.
    All,
    /// And every check of every request.
    Ledger,
}

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// The map, counted from 1; a tape names its own.
    #[arg(long)]
    map: Option<usize>,
    /// Inputs separated by blanks, such as "right right act".
    #[arg(long, conflicts_with = "tape")]
    inputs: Option<String>,
    /// A tape to play.
    #[arg(long)]
    tape: Option<PathBuf>,
    /// Where to write what was played as a tape.
    #[arg(long)]
    record: Option<PathBuf>,
    /// How much to tell.
    #[arg(long, value_enum, default_value = "last")]
    show: Shown,
    /// One JSON document instead of text.
    #[arg(long)]
    json: bool,
}

/// Plays inputs; 0 whatever came out.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    let (map, seed, inputs) = inputs(options)?;
    let start = Start { seed, ..Start::map(ready.book.clone(), ready.book.map_number(map)?) };
    let mut session = Session::new(start)?;
    let show = match options.show {
        Shown::Last => Show::Last,
        Shown::All => Show::All,
        Shown::Ledger => Show::Ledger,
    };
    let mut limit = None;
    for (at, input) in inputs {
        match session.give_at(at, &input) {
            Ok(Taken::Yes) => {}
            Ok(Taken::No) => limit = session.limit(),
            Err(error @ WrongTime::Far { .. }) => limit = Some(error.to_string()),
            Err(error @ WrongTime::Back { .. }) => return Err(error.into()),
        }
        if limit.is_some() {
            break;
        }
    }
    if let Some(path) = &options.record {
        let name = options.file.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        let text = tape_text(&name, map, seed.unwrap_or(ready.book.seed), session.played())?;
        let read = [Some(options.file.as_path()), options.tape.as_deref()];
        write_output(path, text.as_bytes(), read.into_iter().flatten())?;
    }
    if options.json {
        say_json(&json::State::new(&session, show))?;
    } else {
        text(&session, show)?;
    }
    // What is known by then has been told.
    Ok(match limit {
        None => Answer::Done,
        Some(limit) => {
            complain!("{limit}; the inputs behind it are not played");
            Answer::Limit
        }
    })
}

type Inputs = (usize, Option<u64>, Vec<(Option<u64>, Input)>);

fn inputs(options: &Options) -> anyhow::Result<Inputs> {
    if let Some(path) = &options.tape {
        let tape = read_tape(path)?;
        if options.map.is_some_and(|map| map != tape.header.map) {
            bail!("the tape is for map {}", tape.header.map);
        }
        let lines = tape.lines.into_iter().map(|(at, input)| (Some(at), input)).collect();
        return Ok((tape.header.map, tape.header.seed, lines));
    }
    let inputs = parse_inputs(options.inputs.as_deref().unwrap_or_default())?;
    Ok((options.map.unwrap_or(1), None, inputs.into_iter().map(|input| (None, input)).collect()))
}

/// A turn in words, with the board as it is after it.
fn turn(answer: &TurnAnswer, grid: &Grid, show: Show) -> std::io::Result<()> {
    let book = grid.book();
    let turn = answer.turn.map_or("never settles".into(), |turn| format!("turn {turn}"));
    say!("{turn}: {}", answer.input)?;
    for request in &answer.requests {
        let name = &book.kind(request.kind).name;
        let heading = request.heading.map_or("a leap", magpie_core::space::Heading::word);
        let verdict = if request.granted { "granted" } else { "refused" };
        say!("  {name} at {},{} asks {heading}: {verdict}", request.from.column, request.from.row)?;
        let reason = request.reason.and_then(|reason| request.checks.get(reason));
        let ledger = show == Show::Ledger;
        for check in request.checks.iter().filter(|check| ledger || Some(*check) == reason) {
            let mark = if check.holds { "✓" } else { "✗" };
            let line = check.line(book).map_or(String::new(), |line| format!("  line {line}"));
            say!("    {mark} {:<7} {}{line}", check.kind.word(), check.text(book, grid.board().extent()))?;
        }
    }
    for action in &answer.actions {
        let verdict = if action.granted { "granted" } else { "refused" };
        let why = action.reason.as_ref().map_or(String::new(), |why| format!(", {why}"));
        say!("  {}: {verdict}{why}", action.action)?;
    }
    for signal in &answer.signals {
        say!("  signal \"{signal}\"")?;
    }
    for note in &answer.notes {
        say!("  {note}")?;
    }
    if answer.untold > 0 {
        say!("  and {} more that are not told", answer.untold)?;
    }
    for line in grid.picture() {
        say!("    {line}")?;
    }
    Ok(())
}

fn text(session: &Session, show: Show) -> anyhow::Result<()> {
    let grid = session.grid();
    let book = grid.book();
    if show != Show::Last {
        let mut told = Ok(());
        session.replay(|grid, answer| {
            if told.is_ok() {
                told = turn(answer, grid, show);
            }
        })?;
        told?;
        say!()?;
    }
    for line in grid.picture() {
        say!("{line}")?;
    }
    let count = |counter| grid.counter(counter);
    say!(
        "map {} \"{}\"  turns {}  moves {}  clock {} ms",
        grid.map() + 1,
        grid.map_title(),
        count(CounterRead::Turns),
        count(CounterRead::Moves),
        count(CounterRead::Clock)
    )?;
    for (name, value) in grid.counters() {
        say!("{name} {value}")?;
    }
    if let Some(outcome) = grid.outcome() {
        say!("{}", outcome.word())?;
        if outcome == Ended::NeverSettles
            && let Some(answer) = session.answers().next_back()
        {
            for rule in &answer.feeding {
                say!("  line {} keeps firing: {}", book.whens[*rule].at.line, book.whens[*rule].at.text)?;
            }
        }
    }
    if let Some(broken) = session.broken() {
        say!("broken: {}", book.invariants[broken].at.text)?;
    }
    Ok(())
}
