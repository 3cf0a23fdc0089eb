//! What a player does: keys and inputs, and the words they are written in. Both the rulebook and the tape speak of them.

use crate::limits::LONGEST_WAIT;
use crate::space::{Cell, Position, parse_position};
use std::fmt;
use thiserror::Error;

/// A key of the player: `left right up down act alt` or a character.
#[derive(Clone, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Key(pub String);

/// Something a player does.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Input {
    /// A key.
    Key(Key),
    /// A touch of a cell, or of a place outside the board.
    Tap(Cell),
    /// A finger put down in one cell and lifted in another.
    Drag(Cell, Cell),
    /// So many milliseconds pass.
    Wait(u64),
    /// The last entry of the tape is taken back.
    Undo,
    /// The map begins again.
    Restart,
    /// On to the next map after a win.
    Next,
}

impl fmt::Display for Input {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Key(Key(key)) if key.len() == 1 => write!(f, "key:{key}"),
            Self::Key(Key(key)) => f.write_str(key),
            Self::Tap(cell) => write!(f, "tap:{},{}", cell.column, cell.row),
            Self::Drag(from, to) => write!(f, "drag:{},{}>{},{}", from.column, from.row, to.column, to.row),
            Self::Wait(ms) => write!(f, "wait:{ms}"),
            Self::Undo => f.write_str("undo"),
            Self::Restart => f.write_str("restart"),
            Self::Next => f.write_str("next"),
        }
    }
}

/// A word that is no input.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[non_exhaustive]
#[error("`{0}` is no input: write left right up down act alt key:x tap:C,R drag:C,R>C,R wait:MS undo restart next")]
pub struct InputError(pub String);

impl std::str::FromStr for Input {
    type Err = InputError;

    fn from_str(word: &str) -> Result<Self, InputError> {
        let wrong = || InputError(word.chars().filter(|c| !c.is_control()).take(60).collect());
        Ok(match word {
            "undo" => Self::Undo,
            "restart" => Self::Restart,
            "next" => Self::Next,
            "left" | "right" | "up" | "down" | "act" | "alt" => Self::Key(Key(word.into())),
            _ => match word.split_once(':').ok_or_else(wrong)? {
                ("key", key) if key.len() == 1 && key.bytes().all(|b| b.is_ascii_lowercase() || b.is_ascii_digit()) => {
                    Self::Key(Key(key.into()))
                }
                ("tap", at) => Self::Tap(cell(at).ok_or_else(wrong)?),
                ("drag", way) => {
                    let (from, to) = way.split_once('>').ok_or_else(wrong)?;
                    Self::Drag(cell(from).ok_or_else(wrong)?, cell(to).ok_or_else(wrong)?)
                }
                ("wait", ms) if ms.bytes().all(|b| b.is_ascii_digit()) => {
                    Self::Wait(ms.parse().ok().filter(|ms| *ms <= LONGEST_WAIT).ok_or_else(wrong)?)
                }
                _ => return Err(wrong()),
            },
        })
    }
}

fn cell(text: &str) -> Option<Cell> {
    let whole = |text: &str| -> Option<i64> {
        let digits = text.strip_prefix('-').unwrap_or(text);
        let plain = !digits.is_empty() && digits.len() <= 15 && digits.bytes().all(|b| b.is_ascii_digit());
        plain.then(|| text.parse().ok()).flatten()
    };
    let (column, row) = text.split_once(',')?;
    Some(Cell::new(whole(column)?, whole(row)?))
}

/// Reads inputs separated by blanks.
///
/// # Errors
/// An [`InputError`] with the first word that is no input.
pub fn parse_inputs(text: &str) -> Result<Vec<Input>, InputError> {
    text.split_whitespace().map(str::parse).collect()
}

/// An input as people write it: a touch may be given by pixels.
#[derive(Clone, Debug, PartialEq)]
pub enum Written {
    /// An input.
    Input(Input),
    /// A tap, or a drag where it ends somewhere, at positions of the world or the window.
    Touch {
        /// Where the finger goes down.
        from: Position,
        /// Where it is lifted.
        to: Option<Position>,
    },
}

impl std::str::FromStr for Written {
    type Err = InputError;

    fn from_str(word: &str) -> Result<Self, InputError> {
        let way = word.strip_prefix("tap:").or_else(|| word.strip_prefix("drag:")).unwrap_or(word);
        if !(way.starts_with("px:") || way.starts_with("win:")) {
            return word.parse().map(Self::Input);
        }
        let wrong = || InputError(word.chars().filter(|c| !c.is_control()).take(60).collect());
        let position = |text: &str| parse_position(text).map_err(|_| wrong());
        let (from, to) = match way.split_once('>') {
            None => (position(way)?, None),
            // The second position is in the space of the first unless it says otherwise.
            Some((from, to)) if to.contains(':') => (position(from)?, Some(position(to)?)),
            Some((from, to)) => {
                let space = from.split(':').next().unwrap_or_default();
                (position(from)?, Some(position(&format!("{space}:{to}"))?))
            }
        };
        let is_pixels = |position: &Position| matches!(position, Position::World(_) | Position::Window(_));
        let is_other = if to.is_some() { word.starts_with("tap:") } else { word.starts_with("drag:") };
        if is_other || !is_pixels(&from) || !to.iter().all(is_pixels) {
            return Err(wrong());
        }
        Ok(Self::Touch { from, to })
    }
}

/// Reads inputs separated by blanks, touches by pixels among them.
///
/// # Errors
/// An [`InputError`] with the first word that is no input.
pub fn parse_written(text: &str) -> Result<Vec<Written>, InputError> {
    text.split_whitespace().map(str::parse).collect()
}
