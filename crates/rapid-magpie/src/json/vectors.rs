//! Test vectors as JSON (docs/formats.md, vectors).

use super::{cell, point, position, whole_or_decimal};
use anyhow::Context;
use clap::ValueEnum;
use magpie_core::mishap::Sort;
use magpie_core::rulebook::Rulebook;
use magpie_core::space::Position;
use magpie_core::vectors::{Asking, PaceVector, Situation, Vector, Vectors, convert, index, pace, situations};
use serde::Deserialize;
use serde_json::{Map, Value, json};
use std::sync::Arc;

/// What vectors are for.
#[derive(Clone, Copy, Debug, ValueEnum, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum For {
    Convert,
    Index,
    Step,
    Rows,
    Pace,
}

impl For {
    /// The vectors of a map, from 0; nothing where the rulebook has more mistakes to make than are tried.
    pub fn vectors(self, book: &Arc<Rulebook>, map: usize, most: usize) -> Option<Vectors> {
        match self {
            Self::Convert => Some(convert(book, map, most)),
            Self::Index => Some(index(book, map, most)),
            Self::Step => situations(book, &[Sort::Bounds, Sort::Meeting, Sort::Keeping], most),
            Self::Rows => situations(book, &[Sort::Turn], most),
            Self::Pace => Some(pace(book, map, most)),
        }
    }

    const fn word(self) -> &'static str {
        match self {
            Self::Convert => "convert",
            Self::Index => "index",
            Self::Step => "step",
            Self::Rows => "rows",
            Self::Pace => "pace",
        }
    }
}

/// All vectors of a map, from 0, of a rulebook whose file is called so.
pub fn document(what: For, (book, map): (&Arc<Rulebook>, usize), name: &str, found: &Vectors) -> anyhow::Result<Value> {
    let vectors: Vec<Value> = found.all.iter().map(|vector| value(vector, book, map)).collect::<Result<_, _>>()?;
    Ok(json!({
        "for": what.word(), "rulebook": name, "map": map + 1, "vectors": vectors,
        "missed": found.missed, "same_here": found.same_here,
    }))
}

fn value(vector: &Vector, book: &Arc<Rulebook>, map: usize) -> anyhow::Result<Value> {
    let (input, output) = match &vector.asks {
        Asking::Position(asked) => converted(*asked, book, map)?,
        Asking::Cell(asked) => {
            let index = book.geometry.index(book.maps[map].extent, *asked);
            (json!({ "column": asked.column, "row": asked.row }), json!({ "index": index }))
        }
        Asking::Situation(situation) => played(situation, book)?,
        Asking::Pace(asked) => drawn(asked, book, map)?,
    };
    Ok(json!({ "in": input, "out": output, "catches": vector.catches }))
}

fn converted(asked: Position, book: &Rulebook, map: usize) -> anyhow::Result<(Value, Value)> {
    let hotspot = if matches!(asked, Position::World(_)) { book.geometry.hotspot } else { (0.0, 0.0) };
    let found = book.convert(map, hotspot, asked)?;
    let place = json!({
        "column": found.cell.map(|cell| cell.column),
        "row": found.cell.map(|cell| cell.row),
        "index": found.index,
        "where": found.place.word(),
    });
    let output = match (asked, place) {
        (Position::Cell(_) | Position::Index(_), _) => {
            json!({ "index": found.index, "where": found.place.word(), "centre": point(found.centre) })
        }
        (Position::World(_), Value::Object(mut fields)) => {
            let snap = found.snap.map(|snap| {
                json!({ "column": snap.cell.column, "row": snap.cell.row, "x": snap.centre.x, "y": snap.centre.y })
            });
            fields.insert("snap".into(), snap.unwrap_or(Value::Null));
            fields.into()
        }
        (Position::World(_) | Position::Window(_), place) => place,
    };
    Ok((position(asked), output))
}

fn played(situation: &Situation, book: &Arc<Rulebook>) -> anyhow::Result<(Value, Value)> {
    let ends = situation.ends(book).context("a situation cannot be played")?;
    let counters: Map<String, Value> = book
        .counters
        .iter()
        .zip(&ends.counters)
        .map(|(counter, value)| (counter.name.clone(), (*value).into()))
        .collect();
    let inputs: Vec<String> = situation.inputs.iter().map(ToString::to_string).collect();
    let output = json!({
        "board": ends.board, "granted": ends.granted, "cell": ends.cell.map(cell), "counters": counters,
    });
    Ok((json!({ "board": situation.board, "inputs": inputs }), output))
}

fn drawn(asked: &PaceVector, book: &Arc<Rulebook>, map: usize) -> anyhow::Result<(Value, Value)> {
    let positions = asked.positions(book, map).context("a run cannot be made")?;
    let positions: Vec<Value> =
        positions.into_iter().map(|(x, y)| json!([whole_or_decimal(x), whole_or_decimal(y)])).collect();
    let input = match asked.fps {
        Some(fps) => json!({ "kind": asked.kind, "fps": fps, "keys": asked.keys }),
        None => json!({ "kind": asked.kind, "frame_ms": asked.frame_ms, "keys": asked.keys }),
    };
    Ok((input, json!({ "positions": positions })))
}
