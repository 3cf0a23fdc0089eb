//! `play`: inputs in, every answer out.

use super::Answer;
use super::source::ready;
use super::{complain, say, say_json};
use crate::files::{name_of, read_log, tape_text, write_output};
use crate::json::{self, Show};
use crate::words::turn::{self as told, Detail, Line, Sort};
use anyhow::bail;
use clap::{Args, ValueEnum};
use magpie_core::grid::{Answer as TurnAnswer, Ended, Grid, Taken};
use magpie_core::input::{Input, Written, parse_written};
use magpie_core::rulebook::CounterRead;
use magpie_core::tape::{Played, Session, Start, WrongTime};
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
    /// Inputs separated by blanks, such as "right right act"; touches also by pixels: "tap:px:40,60 drag:win:10,10>90,10".
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
    let mut dropped = Vec::new();
    for (number, (at, written)) in inputs.into_iter().enumerate() {
        let input = ready.book.input_written(session.grid().map(), &written)?;
        match session.give_at(at, &input) {
            Ok(Taken::Yes) => {}
            Ok(Taken::No) => {
                limit = session.limit();
                if limit.is_none() {
                    dropped.push((number + 1, input));
                }
            }
            Err(error @ WrongTime::Far { .. }) => limit = Some(error.to_string()),
            Err(error @ WrongTime::Back { .. }) => return Err(error.into()),
        }
        if limit.is_some() {
            break;
        }
    }
    if let Some(path) = &options.record {
        let name = name_of(&options.file);
        let text = tape_text(&name, map, seed.unwrap_or(ready.book.seed), session.played())?;
        let read = [Some(options.file.as_path()), options.tape.as_deref()];
        write_output(path, text.as_bytes(), read.into_iter().flatten())?;
    }
    if options.json {
        say_json(&json::State::new(&session, show))?;
    } else {
        text(&session, &dropped, show)?;
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

type Inputs = (usize, Option<u64>, Vec<(Option<u64>, Written)>);

fn inputs(options: &Options) -> anyhow::Result<Inputs> {
    if let Some(path) = &options.tape {
        let tape = read_log(path)?;
        if options.map.is_some_and(|map| map != tape.header.map) {
            bail!("the tape is for map {}", tape.header.map);
        }
        let lines = tape.lines.into_iter().map(|(at, input)| (at, Written::Input(input))).collect();
        return Ok((tape.header.map, tape.header.seed, lines));
    }
    let inputs = parse_written(options.inputs.as_deref().unwrap_or_default())?;
    Ok((options.map.unwrap_or(1), None, inputs.into_iter().map(|input| (None, input)).collect()))
}

/// A turn in words, with the board as it is after it.
fn turn(answer: &TurnAnswer, grid: &Grid, show: Show) -> std::io::Result<()> {
    say!("{}", told::title(answer, &answer.input))?;
    lines(answer, grid, show)?;
    for line in grid.picture() {
        say!("    {line}")?;
    }
    Ok(())
}

/// What a turn did, or what entering a map did, line by line.
fn lines(answer: &TurnAnswer, grid: &Grid, show: Show) -> std::io::Result<()> {
    let detail = if show == Show::Ledger { Detail::Everything } else { Detail::Answers };
    let verdict = |granted: bool| if granted { "granted" } else { "refused" };
    for Line { sort, text, rule_at } in told::report(answer, grid.book(), grid.board().extent(), detail) {
        let at = rule_at.map_or(String::new(), |line| format!("  line {line}"));
        match sort {
            Sort::Request { granted } => say!("  {text}: {}", verdict(granted))?,
            Sort::Check { holds, .. } => {
                let mark = holds.map_or("·", |holds| if holds { "✓" } else { "✗" });
                say!("    {mark} {text}{at}")?;
            }
            Sort::Deed { .. } | Sort::Decided { .. } | Sort::Moved => say!("    {text}")?,
            Sort::Signal => say!("  signal \"{text}\"")?,
            Sort::Rule | Sort::Settled | Sort::Action { .. } | Sort::Note | Sort::NeverSettles => say!("  {text}{at}")?,
        }
    }
    Ok(())
}

fn text(session: &Session, dropped: &[(usize, Input)], show: Show) -> anyhow::Result<()> {
    let grid = session.grid();
    let book = grid.book();
    if show != Show::Last {
        let mut told = Ok(());
        session.replay(|grid, played| {
            if told.is_ok() {
                told = match played {
                    Played::Opening(entered) if entered.is_empty() => Ok(()),
                    Played::Opening(entered) => say!("map {} \"{}\" begins", grid.map() + 1, grid.map_title())
                        .and_then(|()| lines(entered, grid, show)),
                    Played::Turn(answer) => turn(answer, grid, show),
                    Played::Entered(input, entered) => {
                        say!("{input}: map {} \"{}\" begins", grid.map() + 1, grid.map_title())
                            .and_then(|()| lines(entered, grid, show))
                    }
                };
            }
        })?;
        told?;
    }
    for (number, input) in dropped {
        say!("input {number} `{input}` is dropped: {}", told::not_taken(book.input_of(input)))?;
    }
    if show != Show::Last {
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
