//! `convert`: pixels, cells and indices, forth and back.

use super::Answer;
use super::source::ready;
use super::{complain, say, say_json};
use crate::files::regular;
use crate::json;
use crate::limits::LONGEST_ROW;
use anyhow::{Context, bail};
use clap::{Args, ValueEnum};
use magpie_core::grid::drawn;
use magpie_core::rulebook::Rulebook;
use magpie_core::space::{Cell, Conversion, Position, View, Where, locate, parse_pixels, parse_position, show};
use serde_json::json;
use std::fs::File;
use std::io::{BufWriter, Read};
use std::path::{Path, PathBuf};
use std::rc::Rc;

/// What positions are.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum Space {
    /// World pixels of pieces.
    Px,
    /// Window pixels or touch points.
    Win,
}

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// `px:X,Y`, `win:X,Y`, `cell:COLUMN,ROW` or `index:I`, as many as wanted.
    #[arg(required_unless_present = "batch")]
    positions: Vec<String>,
    /// A CSV file with columns `x` and `y`, `-` for standard input; every row comes out with its answer.
    #[arg(long, conflicts_with_all = ["positions", "json"])]
    batch: Option<PathBuf>,
    /// What the positions of a batch are.
    #[arg(long, value_enum, default_value = "px", requires = "batch")]
    space: Space,
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
    let book = &ready.book;
    let kind = options.kind.as_deref().map(|name| book.kind_named(name)).transpose()?;
    let hotspot = book.hotspot_of(kind);
    let map = book.map_number(options.map)?;
    if let Some(path) = &options.batch {
        let view = ready.book.view.as_ref().filter(|_| options.space == Space::Win);
        if options.space == Space::Win && view.is_none() {
            bail!("`--space win` needs a `view` in the rulebook");
        }
        return batch(path, &ready.book, map, view, hotspot);
    }
    let results: Vec<Conversion> =
        positions.iter().map(|position| book.convert(map, hotspot, *position)).collect::<Result<_, _>>()?;
    let board = drawn(book, map);
    let holds = |result: &Conversion| json::held(book, &board, result);
    let button = |result: &Conversion| json::button(book, result);
    if options.json {
        let results: Vec<_> = results
            .iter()
            .map(|result| json::conversion(result, holds(result).as_deref(), button(result).as_deref()))
            .collect();
        say_json(&json!({ "results": results }))?;
    } else {
        for (at, result) in results.iter().enumerate() {
            if at > 0 {
                say!()?;
            }
            text(&options.positions[at], result, holds(result), button(result))?;
        }
    }
    let refused = results.iter().any(|result| result.cell.is_none());
    Ok(if refused { Answer::No } else { Answer::Done })
}

/// What a batch is read from: it ends where a row becomes too long, instead of filling the memory with it.
struct Rows<R> {
    input: R,
    /// Bytes read since the last whole row.
    since_row: Rc<std::cell::Cell<usize>>,
}

impl<R: Read> Read for Rows<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        // The reader asks anew only when it has gone through everything it had.
        if self.since_row.get() > LONGEST_ROW {
            return Err(std::io::Error::other("too-long: a row of a batch may hold 1 MiB"));
        }
        let count = self.input.read(into)?;
        self.since_row.set(self.since_row.get() + count);
        Ok(count)
    }
}

/// Answers every row of a CSV as it is read: 2 where some row has no position.
fn batch(path: &Path, book: &Rulebook, map: usize, view: Option<&View>, hotspot: (f64, f64)) -> anyhow::Result<Answer> {
    let input: Box<dyn Read> = if path == Path::new("-") {
        Box::new(std::io::stdin().lock())
    } else {
        regular(path)?;
        Box::new(File::open(path).with_context(|| format!("cannot read `{}`", path.display()))?)
    };
    let since_row = Rc::new(std::cell::Cell::new(0));
    let mut reader = csv::Reader::from_reader(Rows { input, since_row: since_row.clone() });
    let headers = reader.byte_headers().context("the batch")?.clone();
    since_row.set(0);
    let column = |name: &[u8]| {
        let plain = |field: &[u8]| field.strip_prefix(b"\xef\xbb\xbf").unwrap_or(field) == name;
        let mut found = headers.iter().enumerate().filter(|(_, field)| plain(field)).map(|(at, _)| at);
        match (found.next(), found.next()) {
            (Some(at), None) => Ok(at),
            _ => bail!("the header of a batch names `x` and `y` once each"),
        }
    };
    let (x_at, y_at) = (column(b"x")?, column(b"y")?);
    let (geometry, extent) = (&book.geometry, book.maps[map].extent);
    let is_void = |cell| book.is_void(map, cell);
    let mut writer = csv::Writer::from_writer(BufWriter::new(std::io::stdout().lock()));
    let answers = ["column", "row", "index", "where", "centre_x", "centre_y"].map(str::as_bytes);
    writer.write_record(headers.iter().chain(answers))?;
    let mut record = csv::ByteRecord::new();
    // Lines are counted here: a field in quotes may hold several.
    let lines = |record: &csv::ByteRecord| 1 + record.iter().flatten().filter(|byte| **byte == b'\n').count();
    let mut line = 1 + lines(&headers);
    let mut good = true;
    while reader.read_byte_record(&mut record).with_context(|| format!("line {line}"))? {
        since_row.set(0);
        let number = |at: usize| {
            let field = record.get(at).and_then(|field| std::str::from_utf8(field).ok()).unwrap_or_default();
            parse_pixels(field.trim())
        };
        let answer: [String; 6] = match (number(x_at), number(y_at)) {
            (Ok(x), Ok(y)) => {
                let (cell, place) = locate(geometry, extent, view, hotspot, &is_void, (x, y));
                let index = geometry.index(extent, cell).map_or(String::new(), |index| index.to_string());
                let centre = geometry.centre(extent, cell);
                [
                    cell.column.to_string(),
                    cell.row.to_string(),
                    index,
                    place.word().into(),
                    centre.x.to_string(),
                    centre.y.to_string(),
                ]
            }
            (Err(error), _) | (_, Err(error)) => {
                complain!("line {line}: {error}");
                good = false;
                Default::default()
            }
        };
        writer.write_record(record.iter().chain(answer.iter().map(String::as_bytes)))?;
        line += lines(&record);
    }
    writer.flush()?;
    Ok(if good { Answer::Done } else { Answer::Wrong })
}

fn text(input: &str, result: &Conversion, holds: Option<Vec<&str>>, button: Option<String>) -> anyhow::Result<()> {
    let cell = result.cell.map_or("none".into(), |cell| format!("column {}, row {}", cell.column, cell.row));
    let index = result.index.map_or("none".into(), |index| index.to_string());
    say!("{input}: {}, {cell}, index {index}", place(result.place))?;
    match holds {
        Some(holds) if holds.is_empty() => say!("  nothing stands there")?,
        Some(holds) => say!("  holds {}", holds.join(", "))?,
        None => {}
    }
    if let Some(button) = button {
        say!("  on the button of `{button}`")?;
    }
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
