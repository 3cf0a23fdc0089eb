//! `convert`: pixels, cells and indices, forth and back.

use super::source::ready;
use super::{Answer, json};
use crate::say;
use anyhow::bail;
use clap::Args;
use magpie_core::rulebook::Rulebook;
use magpie_core::space::{Cell, Conversion, Position, RowsFrom, Where, convert, parse_position, show};
use serde_json::json;
use std::path::PathBuf;

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// `px:X,Y`, `win:X,Y`, `cell:COLUMN,ROW` or `index:I`, as many as wanted.
    #[arg(required = true)]
    positions: Vec<String>,
    /// The map, counted from 1.
    #[arg(long, default_value_t = 1)]
    map: usize,
    /// The kind whose hotspot counts.
    #[arg(long)]
    kind: Option<String>,
    /// One JSON document instead of text.
    #[arg(long)]
    json: bool,
}

/// Answers positions: 1 when an index is refused.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    let positions: Vec<Position> =
        options.positions.iter().map(|text| parse_position(text)).collect::<Result<_, _>>()?;
    let hotspot = hotspot(&ready.book, options.kind.as_deref())?;
    let map = map_number(&ready.book, options.map)?;
    let results: Vec<Conversion> =
        positions.iter().map(|position| convert_on(&ready.book, map, hotspot, *position)).collect::<Result<_, _>>()?;
    if options.json {
        let results: Vec<_> = results.iter().map(json::conversion).collect();
        say!("{}", serde_json::to_string_pretty(&json!({ "results": results }))?)?;
    } else {
        for (at, result) in results.iter().enumerate() {
            if at > 0 {
                say!()?;
            }
            text(&options.positions[at], result)?;
        }
    }
    let refused = results.iter().any(|result| result.cell.is_none());
    Ok(if refused { Answer::No } else { Answer::Done })
}

/// The number of a map from 0, given as counted from 1.
pub fn map_number(book: &Rulebook, map: usize) -> anyhow::Result<usize> {
    if map == 0 || map > book.maps.len() {
        bail!("there is no map {map}: the rulebook has {}, counted from 1", book.maps.len());
    }
    Ok(map - 1)
}

fn hotspot(book: &Rulebook, kind: Option<&str>) -> anyhow::Result<(f64, f64)> {
    let Some(name) = kind else {
        return Ok(book.geometry.hotspot);
    };
    match book.kind_of_name(name) {
        Some(kind) => Ok(book.kind(kind).hotspot.unwrap_or(book.geometry.hotspot)),
        None => bail!("`{name}` is no kind of this rulebook"),
    }
}

/// Answers one position on a map of a rulebook.
pub fn convert_on(
    book: &Rulebook,
    map: usize,
    hotspot: (f64, f64),
    position: Position,
) -> Result<Conversion, magpie_core::space::PositionError> {
    let map = &book.maps[map];
    let rows = i64::from(map.extent.rows);
    let is_void = |cell: Cell| {
        let line = if book.geometry.rows == RowsFrom::Top { cell.row } else { rows - 1 - cell.row };
        map.is_void(cell.column as u32, line as u32)
    };
    convert(&book.geometry, map.extent, book.view.as_ref(), hotspot, &is_void, position)
}

fn text(input: &str, result: &Conversion) -> anyhow::Result<()> {
    let cell = result.cell.map_or("none".into(), |cell| format!("column {}, row {}", cell.column, cell.row));
    let index = result.index.map_or("none".into(), |index| index.to_string());
    say!("{input}: {}, {cell}, index {index}", place(result.place))?;
    let pair = |x: f64, y: f64| format!("{}, {}", show(x), show(y));
    if let (Some(corner), Some(centre)) = (result.corner, result.centre) {
        say!("  corner {}   centre {}", pair(corner.x, corner.y), pair(centre.x, centre.y))?;
    }
    if let Some(snap) = result.snap {
        let Cell { column, row } = snap.cell;
        say!("  nearest cell {column},{row}, centre {}", pair(snap.centre.x, snap.centre.y))?;
    }
    if let Some(window) = result.window {
        say!("  window {}", pair(window.x, window.y))?;
    }
    for step in &result.steps {
        say!("  {step}")?;
    }
    Ok(())
}

const fn place(place: Where) -> &'static str {
    match place {
        Where::Cell => "in a cell",
        Where::Gap => "in a gap",
        Where::Void => "void",
        Where::Outside => "outside the board",
        Where::Bar => "in a bar beside the picture",
    }
}
