//! `draw`: boards and positions on paper, as SVG or PDF.

use super::Answer;
use super::convert::{convert_on, hotspot, map_number};
use super::fmt::replace;
use super::source::{plain, ready};
use anyhow::bail;
use clap::{Args, ValueEnum};
use magpie_core::rulebook::Rulebook;
use magpie_core::space::{Cell, Position, parse_position};
use magpie_core::tape::{Session, Start};
use magpie_draw::{DrawError, Drawing, Written};
use std::path::{Path, PathBuf};

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
enum What {
    /// The board with rims, pieces and a legend.
    Board,
    /// One cell with its nine points, and the way of a position in numbers.
    Probe,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
enum Write {
    /// The place in the flat array.
    Index,
    /// Column and row.
    Place,
    /// Nothing.
    Nothing,
}

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// What to draw.
    #[arg(long, value_enum)]
    what: What,
    /// The map, counted from 1.
    #[arg(long, default_value_t = 1)]
    map: usize,
    /// What is written into the cells of a board.
    #[arg(long, value_enum, default_value = "index")]
    write: Write,
    /// The position that is probed, as for `convert`; without it the middle of the board's middle cell.
    #[arg(long)]
    at: Option<String>,
    /// The file, ending in `.svg` or `.pdf`.
    #[arg(long)]
    out: PathBuf,
}

/// Draws: 3 where a board is too large for paper.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let format = Format::of(&options.out)?;
    let ready = ready(&options.file)?;
    let map = map_number(&ready.book, options.map)?;
    let drawing = match options.what {
        What::Board => board(&ready.book, &ready.source, map, options.write),
        What::Probe => Ok(probe(&ready.book, map, options.at.as_deref())?),
    };
    match drawing {
        Ok(drawing) => {
            save(&drawing, &options.out, format)?;
            Ok(Answer::Done)
        }
        Err(Undrawn::Limit(limit)) => {
            eprintln!("rapid-magpie: {limit}");
            Ok(Answer::Limit)
        }
        Err(Undrawn::Error(error)) => Err(error),
    }
}

enum Undrawn {
    Limit(DrawError),
    Error(anyhow::Error),
}

/// What a drawing is written as.
#[derive(Clone, Copy, Debug)]
enum Format {
    Svg,
    Pdf,
}

impl Format {
    fn of(path: &Path) -> anyhow::Result<Self> {
        match path.extension().and_then(|ending| ending.to_str()) {
            Some("svg") => Ok(Self::Svg),
            Some("pdf") => Ok(Self::Pdf),
            _ => bail!("`{}` ends in neither `.svg` nor `.pdf`", path.display()),
        }
    }
}

fn title(book: &Rulebook, map: usize) -> String {
    format!("{} · {}", plain(&book.title), plain(&book.maps[map].title))
}

fn board(book: &std::sync::Arc<Rulebook>, source: &str, map: usize, write: Write) -> Result<Drawing, Undrawn> {
    let written = match write {
        Write::Index => Written::Index,
        Write::Place => Written::Place,
        Write::Nothing => Written::Nothing,
    };
    let session = Session::new(Start::map(book.clone(), source, map)).map_err(|error| Undrawn::Error(error.into()))?;
    magpie_draw::board(book, &title(book, map), session.grid().board(), written).map_err(|error| match error {
        limit @ DrawError::TooLarge(_) => Undrawn::Limit(limit),
        error @ DrawError::Pdf(_) => Undrawn::Error(error.into()),
    })
}

fn probe(book: &Rulebook, map: usize, at: Option<&str>) -> anyhow::Result<Drawing> {
    let extent = book.maps[map].extent;
    let position = match at {
        Some(text) => parse_position(text)?,
        None => Position::Cell(Cell::new(i64::from(extent.columns / 2), i64::from(extent.rows / 2))),
    };
    let found = convert_on(book, map, hotspot(book, None)?, position)?;
    if found.cell.is_none() {
        bail!("this index is outside the flat array");
    }
    Ok(magpie_draw::probe(&title(book, map), &book.geometry, extent, &found))
}

/// Writes a drawing beside its name first, then in its place.
fn save(drawing: &Drawing, path: &Path, format: Format) -> anyhow::Result<()> {
    let bytes = match format {
        Format::Svg => drawing.svg().as_bytes().to_vec(),
        Format::Pdf => drawing.pdf()?,
    };
    replace(path, &bytes)
}
