//! `vectors`: the fewest inputs on which every known mistake fails at least once, with the right answers.

use super::json::{cell, point, position, whole_or_decimal};
use super::source::ready;
use super::{Answer, complain, say};
use crate::files::{name_of, write_output};
use crate::words::counted;
use anyhow::{Context, bail};
use clap::{Args, ValueEnum};
use magpie_core::limits::MOST_VERSIONS;
use magpie_core::mishap::Sort;
use magpie_core::rulebook::Rulebook;
use magpie_core::space::Position;
use magpie_core::vectors::{Asking, PaceVector, Situation, Vector, Vectors, convert, index, pace, situations};
use serde_json::{Map, Value, json};
use std::path::PathBuf;
use std::sync::Arc;

#[derive(Clone, Copy, Debug, ValueEnum, PartialEq, Eq)]
enum For {
    Convert,
    Index,
    Step,
    Rows,
    Pace,
}

impl For {
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

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// What is to be tested.
    #[arg(long = "for", value_enum, value_name = "WHAT")]
    what: For,
    /// The map, counted from 1.
    #[arg(long, default_value_t = 1)]
    map: usize,
    /// Most vectors.
    #[arg(long, default_value_t = 40, value_parser = clap::value_parser!(u32).range(1..=1000))]
    most: u32,
    /// Where to write them: a .json or .csv.
    #[arg(long)]
    out: PathBuf,
}

/// Finds vectors and writes them; 0 also where a mistake is missed.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    let map = ready.book.map_number(options.map)?;
    let ending = options.out.extension().and_then(|ending| ending.to_str()).unwrap_or_default();
    if !["json", "csv"].contains(&ending) {
        bail!("`{}` is neither a .json nor a .csv", options.out.display());
    }
    let (book, most) = (&ready.book, options.most as usize);
    let found = match options.what {
        For::Convert => Some(convert(book, map, most)),
        For::Index => Some(index(book, map, most)),
        For::Step => situations(book, &[Sort::Bounds, Sort::Meeting, Sort::Keeping], most),
        For::Rows => situations(book, &[Sort::Turn], most),
        For::Pace => Some(pace(book, map, most)),
    };
    let Some(found) = found else {
        complain!(
            "the rulebook has more than {MOST_VERSIONS} mistakes to make, its rules left out one by one: nothing is written"
        );
        return Ok(Answer::Limit);
    };
    let vectors: Vec<Value> = found.all.iter().map(|vector| value(vector, book, map)).collect::<Result<_, _>>()?;
    let name = name_of(&options.file);
    let bytes = if ending == "csv" {
        table(&vectors)?
    } else {
        let document = json!({
            "for": options.what.word(), "rulebook": name, "map": options.map, "vectors": vectors,
            "missed": found.missed, "same_here": found.same_here,
        });
        (serde_json::to_string_pretty(&document)? + "\n").into_bytes()
    };
    write_output(&options.out, &bytes, [options.file.as_path()])?;
    text(&found)?;
    Ok(Answer::Done)
}

fn text(found: &Vectors) -> anyhow::Result<()> {
    let mut caught: Vec<&String> = found.all.iter().flat_map(|vector| &vector.catches).collect();
    caught.sort_unstable();
    caught.dedup();
    say!("{} that catch {}", counted(found.all.len(), "vector"), counted(caught.len(), "mistake"))?;
    if !found.missed.is_empty() {
        say!("missed: {}", found.missed.join(" "))?;
    }
    if !found.same_here.is_empty() {
        say!("nothing tells these from the right version on this rulebook: {}", found.same_here.join(" "))?;
    }
    Ok(())
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

/// One column a key, objects taken apart.
fn table(vectors: &[Value]) -> anyhow::Result<Vec<u8>> {
    fn flat(prefix: &str, value: &Value, into: &mut Vec<(String, String)>) {
        let plain = |value: &Value| match value {
            Value::Null => String::new(),
            Value::String(text) => text.clone(),
            value => value.to_string(),
        };
        match value {
            Value::Object(fields) => {
                for (key, value) in fields {
                    let name = if prefix.is_empty() { key.clone() } else { format!("{prefix}.{key}") };
                    flat(&name, value, into);
                }
            }
            Value::Array(list) => {
                let entry = |value: &Value| match value {
                    Value::Array(inner) => inner.iter().map(plain).collect::<Vec<_>>().join(" "),
                    value => plain(value),
                };
                into.push((prefix.to_owned(), list.iter().map(entry).collect::<Vec<_>>().join(";")));
            }
            value => into.push((prefix.to_owned(), plain(value))),
        }
    }
    let rows: Vec<Vec<(String, String)>> = vectors
        .iter()
        .map(|vector| {
            let mut row = Vec::new();
            flat("", vector, &mut row);
            row
        })
        .collect();
    let mut columns: Vec<&String> = Vec::new();
    for (name, _) in rows.iter().flatten() {
        if name != "catches" && !columns.contains(&name) {
            columns.push(name);
        }
    }
    columns.sort_by_key(|name| !name.starts_with("in."));
    let mut writer = csv::Writer::from_writer(Vec::new());
    let last = "catches".to_owned();
    columns.push(&last);
    writer.write_record(&columns)?;
    for row in &rows {
        let field =
            |name: &&String| row.iter().find(|(other, _)| other == *name).map_or("", |(_, value)| value.as_str());
        writer.write_record(columns.iter().map(field))?;
    }
    writer.into_inner().map_err(|error| anyhow::anyhow!("{error}"))
}
