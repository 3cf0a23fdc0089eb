//! `draw`: boards and positions on paper, as SVG or PDF.

use super::Answer;
use super::complain;
use super::source::ready;
use crate::files::{read_tape, write_output};
use crate::hands::{Hands, LONGEST_SEARCH};
use crate::words::{self, frames_words, plain};
use anyhow::bail;
use clap::{Args, ValueEnum};
use magpie_core::grid::Taken;
use magpie_core::input::{Input, parse_inputs};
use magpie_core::pace::{Drive, Frames, Plan, RunError, Settings, mover, movers, notes, parse_keys};
use magpie_core::proof::{Ask, Inputs as Searched, Limits, has_win, prove};
use magpie_core::rulebook::Rulebook;
use magpie_core::space::{Cell, Position, parse_position};
use magpie_core::tape::{Session, Start};
use magpie_draw::limits::MOST_SCENES;
use magpie_draw::{Curve, DrawError, Drawing, Scene, Written};
use std::path::{Path, PathBuf};

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
enum What {
    /// The board with rims, pieces and a legend.
    Board,
    /// One cell with its nine points, and the way of a position in numbers.
    Probe,
    /// Position over time between two cells.
    Pace,
    /// Who meets what, as a table.
    Meetings,
    /// Boards along a tape, the deciding fact under each.
    Story,
    /// What a search of every state has found: cells reached, never reached and dead, and states by depth.
    Proof,
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
    /// The kind whose pace is drawn; without it the one that is controlled.
    #[arg(long)]
    kind: Option<String>,
    /// Frame rates of a pace, separated by commas.
    #[arg(long, value_delimiter = ',', default_value = "30,60,144")]
    fps: Vec<String>,
    /// Keys of a pace with their times; without them three steps are held.
    #[arg(long)]
    keys: Option<String>,
    /// Inputs of a story, as `play` takes them.
    #[arg(long, conflicts_with = "tape")]
    inputs: Option<String>,
    /// A tape to tell as a story; its map and seed are taken.
    #[arg(long)]
    tape: Option<PathBuf>,
    /// The file, ending in `.svg` or `.pdf`.
    #[arg(long)]
    out: PathBuf,
}

/// Draws: 3 where a board is too large for paper.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let format = Format::of(&options.out)?;
    let ready = ready(&options.file)?;
    let map = ready.book.map_number(options.map)?;
    let drawing = match options.what {
        What::Board => board(&ready.book, map, options.write),
        What::Probe => Ok(probe(&ready.book, map, options.at.as_deref())?),
        What::Pace => pace(&ready.book, map, options),
        What::Meetings => magpie_draw::meetings(&ready.book).map_err(undrawn),
        What::Story => story(&ready.book, map, options),
        What::Proof => proof(&ready.book, map),
    };
    match drawing {
        Ok(drawing) => {
            let read = [Some(options.file.as_path()), options.tape.as_deref()];
            let bytes = bytes_of(&drawing, format)?;
            write_output(&options.out, &bytes, read.into_iter().flatten())?;
            Ok(Answer::Done)
        }
        Err(Undrawn::Limit(limit)) => {
            complain!("{limit}");
            Ok(Answer::Limit)
        }
        Err(Undrawn::TooLong(limit)) => {
            complain!("{limit}");
            Ok(Answer::Limit)
        }
        Err(Undrawn::Error(error)) => Err(error),
    }
}

enum Undrawn {
    Limit(DrawError),
    TooLong(RunError),
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

fn board(book: &std::sync::Arc<Rulebook>, map: usize, write: Write) -> Result<Drawing, Undrawn> {
    let written = match write {
        Write::Index => Written::Index,
        Write::Place => Written::Place,
        Write::Nothing => Written::Nothing,
    };
    let session = Session::new(Start::map(book.clone(), map)).map_err(|error| Undrawn::Error(error.into()))?;
    magpie_draw::board(book, &title(book, map), session.grid().board(), written).map_err(undrawn)
}

/// A search of a map, as `prove` makes it unless said otherwise.
fn proof(book: &std::sync::Arc<Rulebook>, map: usize) -> Result<Drawing, Undrawn> {
    let session = Session::new(Start::map(book.clone(), map)).map_err(|error| Undrawn::Error(error.into()))?;
    let grid = session.grid();
    let hands = Hands::for_time(LONGEST_SEARCH, std::sync::Arc::default(), |_, _| {});
    let found = prove(grid, None, &Searched::all(grid), Ask::All, Limits::default(), &hands);
    let words = words::proof::answers(found.report(), has_win(book));
    magpie_draw::proof(book, &title(book, map), grid.board(), found.report(), &words).map_err(undrawn)
}

fn undrawn(error: DrawError) -> Undrawn {
    match error {
        limit @ (DrawError::TooLarge(_) | DrawError::TooLong(..) | DrawError::TooMany(..)) => Undrawn::Limit(limit),
        error @ (DrawError::Chart(_) | DrawError::Pdf(_)) => Undrawn::Error(error.into()),
    }
}

/// Boards along a tape; without one the board as the game begins.
fn story(book: &std::sync::Arc<Rulebook>, map: usize, options: &Options) -> Result<Drawing, Undrawn> {
    let (map, seed, inputs) = told_inputs(book, map, options).map_err(Undrawn::Error)?;
    let start = Start { seed, ..Start::map(book.clone(), map) };
    let mut session = Session::new(start).map_err(|error| Undrawn::Error(error.into()))?;
    let scene = |session: &Session, input: String, fact: String, refused: bool| Scene {
        board: session.grid().board().clone(),
        input,
        fact,
        refused,
    };
    let opening = words::turn::short(session.opening(), book, session.grid().board().extent());
    let mut scenes = vec![scene(&session, String::new(), opening.join("; "), false)];
    for (at, input) in inputs {
        let before = session.position();
        let taken = session.give_at(at, &input).map_err(|error| Undrawn::Error(error.into()))?;
        if scenes.len() > MOST_SCENES {
            continue;
        }
        let extent = session.grid().board().extent();
        // Waits before an input are told with it; an `undo` takes entries back.
        let new = session.played().get(before..).unwrap_or_default();
        let mut facts: Vec<String> = new.iter().map(|entry| words::entry(entry, book, extent)).collect();
        if taken == Taken::No {
            facts.push(words::turn::not_taken(book.input_of(&input)).into());
        }
        let refused = taken == Taken::No || new.last().is_some_and(|entry| entry.is_refused);
        scenes.push(scene(&session, plain(&input.to_string()), facts.join("; "), refused));
    }
    magpie_draw::story(book, &title(book, map), &scenes).map_err(undrawn)
}

type Inputs = Vec<(Option<u64>, Input)>;

/// The inputs of a story with their map, from 0, and seed.
fn told_inputs(book: &Rulebook, map: usize, options: &Options) -> anyhow::Result<(usize, Option<u64>, Inputs)> {
    if let Some(path) = &options.tape {
        let tape = read_tape(path)?;
        let map = book.map_number(tape.header.map)?;
        return Ok((map, tape.header.seed, tape.lines));
    }
    let inputs = options.inputs.as_deref().map_or(Ok(Vec::new()), parse_inputs)?;
    Ok((map, None, inputs.into_iter().map(|input| (None, input)).collect()))
}

fn probe(book: &Rulebook, map: usize, at: Option<&str>) -> anyhow::Result<Drawing> {
    let extent = book.maps[map].extent;
    let position = match at {
        Some(text) => parse_position(text)?,
        None => Position::Cell(Cell::new(i64::from(extent.columns / 2), i64::from(extent.rows / 2))),
    };
    let found = book.convert(map, book.hotspot_of(None), position)?;
    if found.cell.is_none() {
        bail!("this index is outside the flat array");
    }
    Ok(magpie_draw::probe(&title(book, map), &book.geometry, extent, &found))
}

/// One curve a frame rate and mover.
fn pace(book: &std::sync::Arc<Rulebook>, map: usize, options: &Options) -> Result<Drawing, Undrawn> {
    let other = |error: anyhow::Error| Undrawn::Error(error);
    let kind = mover(book, options.kind.as_deref()).map_err(|error| other(error.into()))?;
    // A free body shows what it is among the cells of a map.
    let is_free = Settings::of_kind(book, kind).is_free();
    let script = options.keys.as_deref().or(is_free.then_some(words::HELD));
    let keys = match script {
        Some(text) => Drive::Keys(parse_keys(text).map_err(|error| other(error.into()))?),
        None => Drive::Usual(3),
    };
    let mut session = Session::new(Start::map(book.clone(), map)).map_err(|error| other(error.into()))?;
    let board = session.grid().board().clone();
    let movers = movers(book, kind, &keys).map_err(|error| other(error.into()))?;
    let mut runs = Vec::new();
    for fps in &options.fps {
        let frames = Frames::rate(fps.trim()).map_err(|error| other(error.into()))?;
        let plan = Plan { movers: movers.clone(), frames, keys: keys.clone(), until: None };
        let extent = board.extent();
        let made = if is_free {
            session.grid_mut().trial(|grid| magpie_core::pace::run(&plan, &book.geometry, extent, Some(grid)))
        } else {
            magpie_core::pace::run(&plan, &book.geometry, extent, None)
        };
        let made = made.map_err(|error| match error {
            RunError::TooLong => Undrawn::TooLong(error),
            error => other(error.into()),
        })?;
        runs.extend(made.into_iter().map(|run| {
            let told = notes(&run, &plan.frames);
            (frames_words(&plan.frames), run, told)
        }));
    }
    let curves: Vec<Curve> = runs.iter().map(|(label, run, notes)| Curve { run, label, notes }).collect();
    magpie_draw::pace(&format!("{}: pace", plain(&book.title)), &curves, Some((book, &board))).map_err(undrawn)
}

/// A drawing as a file.
fn bytes_of(drawing: &Drawing, format: Format) -> anyhow::Result<Vec<u8>> {
    Ok(match format {
        Format::Svg => drawing.svg().as_bytes().to_vec(),
        Format::Pdf => drawing.pdf()?,
    })
}
