//! The checks of a test program: the vectors of `convert` and `index`, with the model's answers.

use crate::names::{KindName, kinds};
use crate::tree::Name;
use magpie_core::mishap::Sort;
use magpie_core::rulebook::Kind;
use magpie_core::space::{Cell, Position, Where};
use magpie_core::vectors::{Asking, Vector, convert, index, situations};
use magpie_core::{Input, Rulebook};
use std::sync::Arc;

/// Most vectors of each sort.
const MOST: usize = 40;

/// Something that must hold.
#[derive(Clone, Debug, PartialEq)]
pub enum Check {
    /// A position in the world (false) or the window (true), the cell it lies in and what lies there.
    Position { window: bool, at: (f64, f64), cell: Cell, place: Where },
    /// A world position of a kind's piece, and the cell it lies in.
    OfKind { kind: KindName, at: (f64, f64), cell: Cell },
    /// A world position, and the nearest cell with its middle.
    Snap { at: (f64, f64), cell: Cell, centre: (f64, f64) },
    /// A cell and its middle.
    Centre { cell: Cell, centre: (f64, f64) },
    /// A cell and its index.
    Index { cell: Cell, index: Option<i64> },
    /// A board with inputs, and how it stands behind them.
    Play(Play),
}

/// A board of its own, played.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Play {
    /// The board, in the letters of the module's drawings.
    pub board: Vec<String>,
    /// Words.
    pub inputs: Vec<String>,
    /// The board behind the last of them, as it is drawn.
    pub ends: Vec<String>,
    /// The counters' fields with what they hold.
    pub counters: Vec<(Name, i64)>,
}

/// The vectors of `step` and `rows` of a rulebook that is covered.
pub fn situations_of(book: &Arc<Rulebook>) -> Vec<Vector> {
    let sorts = [&[Sort::Bounds, Sort::Meeting, Sort::Keeping][..], &[Sort::Turn]];
    sorts.iter().filter_map(|sorts| situations(book, sorts, MOST)).flat_map(|vectors| vectors.all).collect()
}

/// Vectors as boards of their own to be played.
pub fn plays(
    book: &Arc<Rulebook>,
    vectors: &[Vector],
    letters: &dyn Fn(char) -> Option<char>,
    counters: &[Name],
) -> Vec<Check> {
    let play = |vector: &Vector| {
        let Asking::Situation(situation) = &vector.asks else { return None };
        let ends = situation.ends(book)?;
        let line = |line: &String| line.chars().map(letters).collect::<Option<String>>();
        let is_word = |input: &Input| !matches!(input, Input::Undo | Input::Wait(_));
        if !situation.inputs.iter().all(is_word) {
            return None;
        }
        Some(Check::Play(Play {
            board: situation.board.iter().map(line).collect::<Option<_>>()?,
            inputs: situation.inputs.iter().map(Input::to_string).collect(),
            ends: ends.board,
            counters: counters.iter().cloned().zip(ends.counters).collect(),
        }))
    };
    vectors.iter().filter_map(play).collect()
}

/// All checks, and the map on which they hold, counted from 1.
#[derive(Clone, Debug, PartialEq)]
pub struct Checks {
    /// The map.
    pub map: usize,
    /// What must hold there.
    pub all: Vec<Check>,
}

/// Where a position lies for each kind with a hotspot of its own.
fn of_kinds(book: &Rulebook, map: usize, asked: Position, at: (f64, f64)) -> Vec<Check> {
    let own = |(kind, name): (&Kind, KindName)| {
        let cell = book.convert(map, kind.hotspot?, asked).ok()?.cell?;
        Some(Check::OfKind { kind: name, at, cell })
    };
    book.kinds.iter().zip(kinds(book)).filter_map(own).collect()
}

/// The checks of a map.
pub fn checks(book: &Rulebook, map: usize) -> Checks {
    let mut all = Vec::new();
    let vectors = convert(book, map, MOST).all.into_iter().chain(index(book, map, MOST).all);
    for vector in vectors {
        match vector.asks {
            Asking::Position(asked) => {
                let hotspot = if matches!(asked, Position::World(_)) { book.geometry.hotspot } else { (0.0, 0.0) };
                let Ok(found) = book.convert(map, hotspot, asked) else { continue };
                let Some(cell) = found.cell else { continue };
                match asked {
                    Position::World(at) => {
                        let at = (at.x, at.y);
                        all.push(Check::Position { window: false, at, cell, place: found.place });
                        all.extend(of_kinds(book, map, asked, at));
                        all.extend(found.snap.map(|snap| Check::Snap {
                            at,
                            cell: snap.cell,
                            centre: (snap.centre.x, snap.centre.y),
                        }));
                    }
                    Position::Window(at) => {
                        all.push(Check::Position { window: true, at: (at.x, at.y), cell, place: found.place });
                    }
                    Position::Cell(cell) => {
                        all.extend(found.centre.map(|centre| Check::Centre { cell, centre: (centre.x, centre.y) }));
                        all.push(Check::Index { cell, index: found.index });
                    }
                    Position::Index(_) => {}
                }
            }
            Asking::Cell(cell) => {
                all.push(Check::Index { cell, index: book.geometry.index(book.maps[map].extent, cell) });
            }
            Asking::Situation(_) | Asking::Pace(_) => {}
        }
    }
    Checks { map: map + 1, all }
}
