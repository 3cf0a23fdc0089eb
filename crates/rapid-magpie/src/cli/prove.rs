//! `prove`: what is true of every way to play.

use super::Answer;
use super::source::{Ready, ready};
use super::{complain, say, say_json};
use crate::files::{name_of, read_tape, tape_text, write_output};
use crate::hands::Hands;
use crate::json::cell;
use crate::words::proof as told;
use anyhow::{Context, bail};
use clap::{Args, ValueEnum};
use indicatif::{ProgressBar, ProgressStyle};
use magpie_core::grid::Ended;
use magpie_core::input::Input;
use magpie_core::proof::{Ask, Happens, Inputs, Limit, Limits, Progress, Proof, Report, has_win, prove};
use magpie_core::rulebook::{KindId, on_one_line};
use magpie_core::space::Cell;
use magpie_core::tape::{Session, Start};
use serde_json::{Map, Value, json};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Duration;

#[derive(Clone, Copy, Debug, ValueEnum)]
enum Asked {
    /// Whether it can be won: stops at the first win.
    Win,
    /// Whether every promise is kept: stops where one is broken.
    Promises,
    /// Everything.
    All,
}

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// The map, counted from 1, or `all`.
    #[arg(long)]
    map: Option<String>,
    /// Begin where this tape ends.
    #[arg(long)]
    from: Option<PathBuf>,
    /// Try these inputs only, such as "left right wait"; `tap` and `drag` mean all of them.
    #[arg(long)]
    inputs: Option<String>,
    /// What to find out.
    #[arg(long, value_enum, default_value = "all")]
    ask: Asked,
    /// Most states.
    #[arg(long, default_value_t = Limits::default().states, value_parser = clap::value_parser!(u32).range(1..))]
    states: u32,
    /// Most memory, in MiB.
    #[arg(long, default_value_t = (Limits::default().bytes >> 20) as u64, value_parser = clap::value_parser!(u64).range(1..=1 << 24))]
    memory: u64,
    /// Most time, in seconds.
    #[arg(long, default_value_t = 120, value_parser = clap::value_parser!(u64).range(1..=1 << 24))]
    seconds: u64,
    /// Where to write the winning tape, else that of the first broken promise.
    #[arg(long)]
    record: Option<PathBuf>,
    /// One JSON document instead of text.
    #[arg(long)]
    json: bool,
}

/// Searches maps: 1 where a promise is broken or nothing wins, 3 where a limit came first.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    if options.map.as_deref() == Some("all") {
        if options.from.is_some() || options.record.is_some() {
            bail!("`--map all` goes with neither `--from` nor `--record`: a tape is of one map");
        }
        return all(options, &ready);
    }
    let mut session = begun(options, &ready)?;
    let proof = search(options, &session)?;
    if options.json {
        say_json(&document(&ready, &session, &proof))?;
    } else {
        text(&ready, &session, &proof)?;
    }
    if let Some(path) = &options.record {
        record(options, &mut session, proof.report(), path)?;
    }
    Ok(verdict(&ready, proof.report()))
}

/// The game in whose state the search begins.
fn begun(options: &Options, ready: &Ready) -> anyhow::Result<Session> {
    let asked: Option<usize> = match &options.map {
        Some(map) => Some(map.parse().ok().with_context(|| format!("`{map}` is no map: write its number, or `all`"))?),
        None => None,
    };
    let Some(path) = &options.from else {
        return Ok(Session::new(Start::map(ready.book.clone(), ready.book.map_number(asked.unwrap_or(1))?))?);
    };
    let tape = read_tape(path)?;
    if asked.is_some_and(|map| map != tape.header.map) {
        bail!("the tape is for map {}", tape.header.map);
    }
    let map = ready.book.map_number(tape.header.map)?;
    let mut session = Session::new(Start { seed: tape.header.seed, ..Start::map(ready.book.clone(), map) })?;
    for (number, (at, input)) in tape.lines.iter().enumerate() {
        session.give_at(*at, input).with_context(|| format!("input {} of the tape", number + 1))?;
        if let Some(limit) = session.limit() {
            bail!("the tape cannot be played to its end: {limit}");
        }
    }
    Ok(session)
}

fn search(options: &Options, session: &Session) -> anyhow::Result<Proof> {
    let start = session.grid();
    let inputs = match &options.inputs {
        Some(words) => Inputs::named(start, words)?,
        None => Inputs::all(start),
    };
    let ask = match options.ask {
        Asked::Win => Ask::Win,
        Asked::Promises => Ask::Promises,
        Asked::All => Ask::All,
    };
    let limits = Limits { states: options.states, bytes: (options.memory as usize) << 20 };
    let entered = match &options.from {
        Some(_) => Some(Session::new(Start::map(start.book().clone(), start.map()))?),
        None => None,
    };
    // Standard error is where it stands; nothing is drawn where that is no terminal.
    let bar = ProgressBar::new_spinner().with_style(ProgressStyle::with_template("{spinner} {msg}")?);
    let shown = bar.clone();
    let hands = Hands::for_time(
        Duration::from_secs(options.seconds),
        Arc::default(),
        move |progress: Progress, time: Duration| {
            shown.set_message(told::so_far(progress, time));
            shown.tick();
        },
    );
    let proof = prove(start, entered.as_ref().map(Session::grid), &inputs, ask, limits, &hands);
    bar.finish_and_clear();
    Ok(proof)
}

/// The exit: a broken promise or a game that nothing wins is a no, whatever was asked.
fn verdict(ready: &Ready, report: &Report) -> Answer {
    let broken = report.promises.iter().any(|promise| promise.holds == Some(false));
    let unwinnable = has_win(&ready.book) && report.win.possible == Some(false);
    let limited = report.limit.is_some_and(|limit| limit != Limit::Answered);
    match (broken || unwinnable, limited) {
        (true, _) => Answer::No,
        (false, true) => Answer::Limit,
        (false, false) => Answer::Done,
    }
}

fn record(options: &Options, session: &mut Session, report: &Report, path: &Path) -> anyhow::Result<()> {
    let broken = report.promises.iter().find_map(|promise| promise.tape.as_ref());
    let Some(inputs) = report.win.tape.as_ref().or(broken) else { return Ok(()) };
    let map = session.start().map.as_ref().map_or_else(|map| map + 1, |_| 1);
    let seed = session.start().seed.unwrap_or(session.grid().book().seed);
    for input in inputs {
        session.give(input);
    }
    let name = name_of(&options.file);
    let text = tape_text(&name, map, seed, session.played())?;
    let read = [Some(options.file.as_path()), options.from.as_deref()];
    write_output(path, text.as_bytes(), read.into_iter().flatten())
}

/// One report a map: as a table, or as a JSON array.
fn all(options: &Options, ready: &Ready) -> anyhow::Result<Answer> {
    let mut documents = Vec::new();
    let mut answers = Vec::new();
    if !options.json {
        say!("{}", told::HEAD)?;
    }
    for map in 0..ready.book.maps.len() {
        let session = Session::new(Start::map(ready.book.clone(), map))?;
        let proof = search(options, &session)?;
        let report = proof.report();
        answers.push(verdict(ready, report));
        if options.json {
            documents.push(document(ready, &session, &proof));
        } else {
            row(map, &ready.book.maps[map].title, report)?;
        }
    }
    if options.json {
        say_json(&documents)?;
    }
    Ok(if answers.contains(&Answer::No) {
        Answer::No
    } else if answers.contains(&Answer::Limit) {
        Answer::Limit
    } else {
        Answer::Done
    })
}

/// A map as a row of the table, with a line below for everything that is wrong.
fn row(map: usize, title: &str, report: &Report) -> anyhow::Result<()> {
    say!("{}", told::row(map, title, report))?;
    if let Some(limit) = report.limit.and_then(Limit::word) {
        say!("     the search ended at the limit of {limit}")?;
    }
    for tape in report.promises.iter().filter_map(|promise| promise.tape.as_ref()) {
        say!("     a promise is broken after {}", told::tape(tape))?;
    }
    Ok(())
}

/// The answers as text, a line each.
fn text(ready: &Ready, session: &Session, proof: &Proof) -> anyhow::Result<()> {
    let (report, book) = (proof.report(), &ready.book);
    let grid = session.grid();
    let inputs = proof.inputs().words();
    say!("map {}  {}", grid.map() + 1, grid.map_title())?;
    say!("inputs         {}", if inputs.is_empty() { "none is heard".into() } else { inputs.join(" ") })?;
    say!("seen           {}", told::seen(report))?;
    match (report.win.possible, &report.win.tape) {
        (Some(true), Some(tape)) => {
            say!("win            {}", told::tape(tape))?;
            if let Some(ways) = told::ways(report) {
                say!("               {ways}")?;
            }
        }
        (Some(false), _) if !has_win(book) => say!("win            the rulebook has no win")?,
        (Some(false), _) => say!("win            there is none: no inputs win")?,
        (Some(true), None) | (None, _) => say!("win            not known: none so far")?,
    }
    let happens = [("lose", &report.lose), ("stuck", &report.stuck), ("never settles", &report.never_settles)];
    for (name, happens) in happens {
        say!("{name:<14} {}", told::happens(happens))?;
    }
    let at: Vec<_> = book.invariants.iter().map(|invariant| invariant.at.span).collect();
    let words = on_one_line(&ready.source, &at);
    for ((promise, invariant), words) in report.promises.iter().zip(&book.invariants).zip(words) {
        let (mark, said) = told::promise(promise);
        let said = if said.is_empty() { said } else { format!(", {said}") };
        say!("promise      {mark} line {}: {words}{said}", invariant.at.line)?;
    }
    if let Some(gone) = &report.no_way_back {
        let first = gone.tape.as_ref().map_or(String::new(), |tape| format!("; the first after {}", told::tape(tape)));
        say!("no way back    {} of {} states, {}{first}", gone.states, report.states, told::percent(gone.share))?;
    }
    for (kind, dead) in report.dead_cells.iter().flatten() {
        say!("dead cells     {} on {}", book.kind(*kind).name, told::cells(dead))?;
    }
    for (kind, stood) in &report.cells {
        say!("cells          {} gets to {}", book.kind(*kind).name, told::cells(stood))?;
    }
    if let Some(never) = &report.never {
        say!("never          {}", told::cells(never))?;
    }
    if let Some(unused) = &report.unused {
        let at: Vec<_> = unused.iter().map(|rule| rule.at(book).span).collect();
        for (rule, words) in unused.iter().zip(on_one_line(&ready.source, &at)) {
            say!("never used     line {}: {words}", rule.at(book).line)?;
        }
    }
    if grid.outcome() == Some(Ended::NeverSettles) {
        complain!("the last turn before the search never settled");
    }
    Ok(())
}

/// The answers as JSON (docs/formats.md).
fn document(ready: &Ready, session: &Session, proof: &Proof) -> Value {
    let (report, book) = (proof.report(), &ready.book);
    let tape = |tape: &Option<Vec<Input>>| {
        json!(tape.as_ref().map(|tape| tape.iter().map(Input::to_string).collect::<Vec<_>>()))
    };
    let happens = |happens: &Happens| json!({ "possible": happens.possible, "tape": tape(&happens.tape) });
    let places = |cells: &[Cell]| cells.iter().copied().map(cell).collect::<Value>();
    let by_kind = |all: &[(KindId, Vec<Cell>)]| {
        Value::Object(
            all.iter().map(|(kind, cells)| (book.kind(*kind).name.clone(), places(cells))).collect::<Map<_, _>>(),
        )
    };
    let lines = |at: &[(u32, magpie_core::rulebook::Span)]| {
        let words = on_one_line(&ready.source, &at.iter().map(|(_, span)| *span).collect::<Vec<_>>());
        at.iter().map(|(line, _)| *line).zip(words).collect::<Vec<_>>()
    };
    let promised = lines(&book.invariants.iter().map(|promise| (promise.at.line, promise.at.span)).collect::<Vec<_>>());
    let promises: Vec<Value> = report
        .promises
        .iter()
        .zip(promised)
        .map(|(promise, (line, text))| {
            json!({ "line": line, "text": text, "holds": promise.holds, "tape": tape(&promise.tape) })
        })
        .collect();
    let unused = report.unused.as_ref().map(|unused| {
        let at: Vec<_> = unused.iter().map(|rule| rule.at(book)).map(|at| (at.line, at.span)).collect();
        lines(&at).into_iter().map(|(line, text)| json!({ "line": line, "text": text })).collect::<Vec<_>>()
    });
    json!({
        "map": session.grid().map() + 1,
        "inputs": proof.inputs().words(),
        "states": report.states,
        "edges": report.edges,
        "depth": report.depth(),
        "levels": report.levels,
        "complete": report.is_complete(),
        "limit": report.limit.and_then(Limit::word),
        "win": {
            "possible": report.win.possible,
            "length": report.win.tape.as_ref().map(Vec::len),
            "tape": tape(&report.win.tape),
            "ways": report.win.ways,
            "forced": report.win.forced,
        },
        "lose": happens(&report.lose),
        "stuck": happens(&report.stuck),
        "never_settles": happens(&report.never_settles),
        "promises": promises,
        "no_way_back": report.no_way_back.as_ref().map(|gone| {
            json!({ "states": gone.states, "share": gone.share, "tape": tape(&gone.tape) })
        }),
        "dead_cells": report.dead_cells.as_ref().map(|all| by_kind(all)),
        "cells": by_kind(&report.cells),
        "never": report.never.as_ref().map(|cells| places(cells)),
        "unused": unused,
    })
}
