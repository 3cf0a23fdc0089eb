//! The methods, each with its parameters.

use super::answers::{INTERNAL, MISTAKES, Refusal, SERVER};
use super::game::Game;
use crate::json::compared::{first_value, mishaps_value};
use crate::json::vectors::{For, document};
use crate::json::{self, Show, State};
use magpie_core::board::PieceId;
use magpie_core::grid::{Grid, Recorder, Taken, drawn};
use magpie_core::input::Written;
use magpie_core::limits::MOST_VERSIONS;
use magpie_core::rulebook::read_text;
use magpie_core::space::{Cell, Heading, Position, WindowPoint, WorldPoint};
use magpie_core::tape::Played;
use magpie_core::trace::{Header, Tongue, compare};
use magpie_core::{Input, rulebook::Rulebook};
use serde::Deserialize;
use serde::de::DeserializeOwned;
use serde_json::{Map, Value, json};
use std::sync::Arc;

/// All methods.
pub const METHODS: [&str; 12] = [
    "hello", "load", "state", "undo", "restart", "input", "ledger", "request", "preview", "convert", "vectors",
    "report",
];

/// Carries a call out.
pub fn call(game: &mut Game, method: &str, params: Value) -> Result<Value, Refusal> {
    assert!(std::env::var("MAGPIE_PANIC").as_deref() != Ok(method), "as it was asked for");
    match method {
        "hello" => none(params).map(|()| hello(game)),
        "load" => load(game, &given(params)?),
        "state" => none(params).and_then(|()| state(game)),
        "undo" => none(params).and_then(|()| played(game, &Input::Undo, false)),
        "restart" => none(params).and_then(|()| played(game, &Input::Restart, false)),
        "input" => input(game, &given(params)?),
        "ledger" => none(params).map(|()| ledger(game)),
        "request" => request(game, &given(params)?),
        "preview" => preview(game, &given(params)?),
        "convert" => convert(game, params),
        "vectors" => vectors(game, &given(params)?),
        "report" => report(game, &params),
        other => Err(Refusal::of(INTERNAL, format!("`{other}` is listed and not written"))),
    }
}

/// Parameters as a method takes them.
fn given<T: DeserializeOwned>(params: Value) -> Result<T, Refusal> {
    serde_json::from_value(params).map_err(Refusal::params)
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Nothing {}

fn none(params: Value) -> Result<(), Refusal> {
    given::<Nothing>(params).map(|Nothing {}| ())
}

fn hello(game: &Game) -> Value {
    let extent = game.session.grid().map_extent();
    json!({
        "name": "rapid-magpie",
        "version": env!("CARGO_PKG_VERSION"),
        "rulebook": game.name,
        "maps": game.book.maps.iter().map(|map| &map.title).collect::<Vec<_>>(),
        "columns": extent.columns,
        "rows": extent.rows,
        "methods": METHODS,
    })
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Load {
    text: Option<String>,
    map: Option<usize>,
    seed: Option<u64>,
}

/// Begins anew, with another text where one is given; one with mistakes leaves the game as it was.
fn load(game: &mut Game, load: &Load) -> Result<Value, Refusal> {
    let book = match &load.text {
        None => game.book.clone(),
        Some(text) => {
            let reading = read_text(text, &|path| Err(format!("`{path}`: a text that was sent may name no file")));
            match reading.rulebook {
                Some(book) => Arc::new(book),
                None => {
                    let data = json::diagnostics(&game.name, &reading).into();
                    let message = "the rulebook has mistakes".to_owned();
                    return Err(Refusal { code: MISTAKES, message, data: Some(data) });
                }
            }
        }
    };
    let map = book.map_number(load.map.unwrap_or(1)).map_err(Refusal::params)?;
    *game = Game::new(book, game.name.clone(), map, load.seed).map_err(Refusal::params)?;
    state(game)
}

fn state(game: &Game) -> Result<Value, Refusal> {
    serde_json::to_value(State::alone(&game.session)).map_err(|error| Refusal::of(INTERNAL, error))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Word {
    input: String,
}

fn input(game: &mut Game, word: &Word) -> Result<Value, Refusal> {
    let written: Written = word.input.parse().map_err(Refusal::params)?;
    let input = game.book.input_written(game.session.grid().map(), &written).map_err(Refusal::params)?;
    played(game, &input, true)
}

/// Plays an input; with the turns that it made, each with the game as it is after it.
fn played(game: &mut Game, input: &Input, answers: bool) -> Result<Value, Refusal> {
    let mut turns = Vec::new();
    let is_undo = *game.book.input_of(input) == Input::Undo;
    if answers && !is_undo {
        let mut copy = game.session.grid().copied();
        copy.answer_each(input, |grid, answer| turns.push(json::answer(&answer, grid, Show::All)));
    }
    let taken = game.session.give(input);
    if let Some(limit) = game.session.limit().filter(|_| taken == Taken::No) {
        return Err(Refusal::of(SERVER, limit));
    }
    if taken == Taken::Yes {
        game.note(input);
    } else {
        turns.clear();
    }
    let mut state = state(game)?;
    if answers {
        state["answers"] = turns.into();
    }
    Ok(state)
}

/// The last turn with everything that happened in it.
fn ledger(game: &Game) -> Value {
    let last = game.session.played().last().filter(|entry| !entry.is_forgotten);
    if let Some(answer) = last.and_then(|entry| entry.answers.last()) {
        return json::answer(answer, game.session.grid(), Show::Ledger);
    }
    // The last input made no turn: the one before it did, on the board as it was then.
    let mut found = Value::Null;
    let replayed = game.session.replay(|grid, played| {
        if let Played::Turn(answer) = played {
            found = json::answer(answer, grid, Show::Ledger);
        }
    });
    if replayed.is_ok() { found } else { Value::Null }
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct At {
    column: i64,
    row: i64,
    kind: Option<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Asked {
    column: i64,
    row: i64,
    heading: String,
    kind: Option<String>,
}

/// A copy of the game, and the piece that is meant: the topmost of a cell, the ground aside, or the one of a kind.
fn meant(game: &Game, at: &At) -> Result<(Grid, PieceId), Refusal> {
    let mut grid = game.session.grid().copied();
    let kind = at.kind.as_deref().map(|name| game.book.kind_named(name)).transpose().map_err(Refusal::params)?;
    let cell = Cell::new(at.column, at.row);
    let piece = grid.piece_in_cell(cell, kind);
    let nobody = || Refusal::params(format!("no piece stands at {},{}", at.column, at.row));
    piece.map(|piece| (grid, piece)).ok_or_else(nobody)
}

/// What a request of a piece would be answered, on a copy of its own.
fn answered(mut grid: Grid, piece: PieceId, heading: Heading) -> Value {
    let mut heard = Recorder::default();
    grid.request(piece, heading, &mut heard);
    let extent = grid.board().extent();
    heard.answer.requests.first().map_or(Value::Null, |asked| json::request(asked, grid.book(), extent, true))
}

fn request(game: &Game, asked: &Asked) -> Result<Value, Refusal> {
    let heading = Heading::from_word(&asked.heading)
        .ok_or_else(|| Refusal::params(format!("`{}` is no heading", asked.heading)))?;
    let at = At { column: asked.column, row: asked.row, kind: asked.kind.clone() };
    let (grid, piece) = meant(game, &at)?;
    Ok(answered(grid, piece, heading))
}

fn preview(game: &Game, at: &At) -> Result<Value, Refusal> {
    let mut found = Map::new();
    for heading in Heading::ALL {
        let (grid, piece) = meant(game, at)?;
        found.insert(heading.word().into(), answered(grid, piece, heading));
    }
    Ok(found.into())
}

/// A position as `convert` writes its input.
#[derive(Deserialize)]
#[serde(tag = "space", rename_all = "lowercase")]
enum Place {
    World { x: f64, y: f64 },
    Window { x: f64, y: f64 },
    Cell { column: i64, row: i64 },
    Index { index: i64 },
}

fn convert(game: &Game, params: Value) -> Result<Value, Refusal> {
    let kind = params.get("kind").cloned();
    let name = match &kind {
        None | Some(Value::Null) => None,
        Some(Value::String(name)) => Some(name.as_str()),
        Some(other) => return Err(Refusal::params(format!("`kind` is a name, not {other}"))),
    };
    let kind = name.map(|name| game.book.kind_named(name)).transpose().map_err(Refusal::params)?;
    let position = match given::<Place>(params)? {
        Place::World { x, y } => Position::World(WorldPoint { x, y }),
        Place::Window { x, y } => Position::Window(WindowPoint { x, y }),
        Place::Cell { column, row } => Position::Cell(Cell::new(column, row)),
        Place::Index { index } => Position::Index(index),
    };
    within(position)?;
    let book: &Rulebook = &game.book;
    let map = game.session.grid().map();
    let found = book.convert(map, book.hotspot_of(kind), position).map_err(Refusal::params)?;
    if found.cell.is_none() {
        return Err(Refusal::params("the index is refused: no cell of this map has it"));
    }
    let board = drawn(book, map);
    let holds = json::held(book, &board, &found);
    let mut value = json::conversion(&found, holds.as_deref(), json::button(book, &found).as_deref());
    if let Value::Object(fields) = &mut value {
        fields.remove("steps");
    }
    Ok(value)
}

/// Positions that lie too far away for the arithmetic are refused, as on the command line.
fn within(position: Position) -> Result<(), Refusal> {
    let (far_px, far_cell) = (magpie_core::limits::FARTHEST_PIXEL, magpie_core::limits::FARTHEST_CELL);
    let near = match position {
        Position::World(WorldPoint { x, y }) | Position::Window(WindowPoint { x, y }) => {
            [x, y].iter().all(|at| at.is_finite() && at.abs() <= far_px)
        }
        Position::Cell(Cell { column, row }) => [column, row].iter().all(|at| at.unsigned_abs() <= far_cell),
        Position::Index(index) => index.unsigned_abs() <= far_cell,
    };
    if near { Ok(()) } else { Err(Refusal::params("the position is too far away")) }
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Wanted {
    #[serde(rename = "for")]
    what: For,
    most: Option<usize>,
}

fn vectors(game: &Game, wanted: &Wanted) -> Result<Value, Refusal> {
    let most = wanted.most.unwrap_or(40);
    if !(1..=1_000).contains(&most) {
        return Err(Refusal::params("`most` is 1 to 1000"));
    }
    let map = game.session.grid().map();
    let found = wanted.what.vectors(&game.book, map, most);
    let found = found
        .ok_or_else(|| Refusal::of(SERVER, format!("the rulebook has more than {MOST_VERSIONS} mistakes to make")))?;
    document(wanted.what, (&game.book, map), &game.name, &found).map_err(|error| Refusal::of(INTERNAL, error))
}

/// What the caller's own game shows now, beside the model; an input in it is played first.
fn report(game: &mut Game, params: &Value) -> Result<Value, Refusal> {
    let tongue = Tongue::default();
    let line = params.to_string();
    let read = tongue.read(&line, &game.book).map_err(Refusal::params)?;
    let magpie_core::trace::Read::Line(read) = read else {
        return Err(Refusal::params("keys of a line of a log are wanted"));
    };
    if let Some(input) = &read.input {
        let input = input.clone();
        game.session.give(&input);
    }
    game.log.all.push(line);
    let start = Header { map: Some(game.map), seed: game.seed };
    let book = game.book.clone();
    let found = compare(&book, &tongue, start, 0.01, &mut game.log);
    let found = found.map_err(|error| {
        game.log.all.pop();
        Refusal::params(error)
    })?;
    let difference = match &found.first {
        None => Value::Null,
        Some(first) => {
            // What differed once would hide all that follows: only its input stays.
            game.log.all.pop();
            if let Some(input) = &read.input {
                game.log.all.push(json!({ "input": input.to_string() }).to_string());
            }
            let value = first_value(first, &book);
            json!({ "differs": value["differs"], "expected": value["expected"], "got": value["got"], "cells": value["cells"] })
        }
    };
    Ok(json!({ "difference": difference, "mishaps": mishaps_value(&found.mishaps, &book) }))
}
