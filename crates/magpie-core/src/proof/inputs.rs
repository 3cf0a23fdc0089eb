//! Which inputs are tried in every state, and in which order (docs/proof.md).

use crate::grid::{Fired, Grid};
use crate::input::{Input, Key};
use crate::rulebook::Trigger;
use crate::space::{Cell, Heading};
use hashbrown::HashSet;
use thiserror::Error;

/// A word that names no input that could be searched.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[non_exhaustive]
pub enum InputsError {
    /// It names none.
    #[error("`{0}` is no input of a search: write left right up down act alt key:x tap tap:C,R drag drag:A>B wait")]
    Word(String),
    /// The rulebook has nothing that hears it.
    #[error("nothing in the rulebook hears `{0}`: {heard}", heard = heard(.1))]
    Unheard(String, Vec<String>),
}

fn heard(words: &[String]) -> String {
    if words.is_empty() { "it hears no input at all".into() } else { format!("it hears {}", words.join(" ")) }
}

/// An input that is tried.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Tried {
    Input(Input),
    /// The clock moves to the next thing that is due.
    Wait,
}

/// What is tried in every state, in this order.
#[derive(Clone, Debug)]
pub struct Inputs {
    pub(super) tried: Vec<Tried>,
    words: Vec<String>,
}

/// A sort of input, in the order of the search.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Sort<'a> {
    Key(&'a Key),
    Taps,
    Drags,
    Wait,
}

impl Sort<'_> {
    fn word(self) -> String {
        match self {
            Self::Key(key) => Input::Key(key.clone()).to_string(),
            Self::Taps => "tap".into(),
            Self::Drags => "drag".into(),
            Self::Wait => "wait".into(),
        }
    }
}

/// All keys, in the order of the search.
fn keys() -> Vec<Key> {
    let named = ["left", "right", "up", "down", "act", "alt"].map(String::from);
    let letters = ('a'..='z').chain('0'..='9').map(String::from);
    named.into_iter().chain(letters).map(Key).collect()
}

fn is_cell(grid: &Grid, cell: Cell) -> bool {
    let board = grid.board();
    board.id(cell).is_some_and(|id| !board.is_void(id))
}

/// All taps of a board, in reading order.
fn taps(grid: &Grid) -> impl Iterator<Item = Cell> + '_ {
    let board = grid.board();
    let all = (0..board.cells()).map(crate::board::CellId);
    all.filter(|id| !board.is_void(*id)).map(|id| board.cell(id))
}

/// All drags from a cell to one beside it.
fn drags(grid: &Grid) -> impl Iterator<Item = (Cell, Cell)> + '_ {
    let ways = [Heading::West, Heading::East, Heading::North, Heading::South];
    taps(grid).flat_map(move |from| {
        let beside = ways.into_iter().map(move |way| grid.book().geometry.neighbour(from, way));
        beside.filter(|to| is_cell(grid, *to)).map(move |to| (from, to))
    })
}

impl Inputs {
    /// One of them as an input of a game as it stands; `None` for a wait where nothing is due.
    pub fn input_at(&self, number: usize, grid: &Grid) -> Option<Input> {
        match self.tried.get(number)? {
            Tried::Input(input) => Some(input.clone()),
            Tried::Wait => {
                let clock = grid.counter(crate::rulebook::CounterRead::Clock) as u64;
                Some(Input::Wait(grid.next_instant()?.saturating_sub(clock)))
            }
        }
    }

    /// Everything that a rulebook hears, on the board that a game stands on.
    pub fn all(grid: &Grid) -> Self {
        let keys = keys();
        Self::of(grid, &sorts(grid, &keys), |_, _| true)
    }

    /// The inputs among them that some words name: `tap`, `drag` alone mean all of these, `tap:3,1` that one.
    ///
    /// # Errors
    /// An [`InputsError`] at the first word that names none, or nothing that the rulebook hears.
    pub fn named(grid: &Grid, text: &str) -> Result<Self, InputsError> {
        let keys = keys();
        let sorts = sorts(grid, &keys);
        let words = || sorts.iter().map(|sort| sort.word()).collect();
        let mut asked = HashSet::new();
        for word in text.split_whitespace() {
            let sort = match word {
                "tap" => Sort::Taps,
                "drag" => Sort::Drags,
                "wait" => Sort::Wait,
                _ => match word.parse() {
                    Ok(Input::Key(key)) => keys.iter().find(|known| **known == key).map(Sort::Key),
                    Ok(Input::Tap(_)) => Some(Sort::Taps),
                    Ok(Input::Drag(..)) => Some(Sort::Drags),
                    Ok(Input::Wait(_) | Input::Undo | Input::Restart | Input::Next) | Err(_) => None,
                }
                .ok_or_else(|| InputsError::Word(word.into()))?,
            };
            let exists = sorts.contains(&sort)
                && match word.parse() {
                    Ok(Input::Tap(cell)) => is_cell(grid, cell),
                    Ok(Input::Drag(from, to)) => {
                        is_cell(grid, from)
                            && is_cell(grid, to)
                            && from.column.abs_diff(to.column) + from.row.abs_diff(to.row) == 1
                    }
                    _ => true,
                };
            if !exists {
                return Err(InputsError::Unheard(word.into(), words()));
            }
            asked.insert(word.to_string());
        }
        if asked.is_empty() {
            return Err(InputsError::Word(String::new()));
        }
        Ok(Self::of(grid, &sorts, |whole, word| asked.contains(whole) || asked.contains(&word())))
    }

    /// The inputs of these sorts that are wanted: by the word of their sort, or their own.
    fn of(grid: &Grid, sorts: &[Sort], wanted: impl Fn(&str, &dyn Fn() -> String) -> bool) -> Self {
        let (mut tried, mut words) = (Vec::new(), Vec::new());
        for sort in sorts {
            let whole = sort.word();
            if wanted(&whole, &String::new) {
                words.push(whole.clone());
            }
            let mut add = |input: Input| {
                let word = || input.to_string();
                if wanted(&whole, &word) {
                    if words.last() != Some(&whole) {
                        words.push(word());
                    }
                    tried.push(Tried::Input(input));
                }
            };
            match sort {
                Sort::Key(key) => add(Input::Key((*key).clone())),
                Sort::Taps => taps(grid).for_each(|cell| add(Input::Tap(cell))),
                Sort::Drags => drags(grid).for_each(|(from, to)| add(Input::Drag(from, to))),
                Sort::Wait if words.last() == Some(&whole) => tried.push(Tried::Wait),
                Sort::Wait => {}
            }
        }
        Self { tried, words }
    }

    /// The words that name them.
    pub fn words(&self) -> &[String] {
        &self.words
    }

    /// How many are tried in every state.
    pub fn len(&self) -> usize {
        self.tried.len()
    }

    /// Whether there is nothing to try.
    pub fn is_empty(&self) -> bool {
        self.tried.is_empty()
    }

    /// Whether a rule can ever be asked to act by these inputs.
    pub(super) fn reach(&self, trigger: &Trigger) -> bool {
        let some = |fits: fn(&Tried) -> bool| self.tried.iter().any(fits);
        match trigger {
            Trigger::Start | Trigger::EachTurn => true,
            Trigger::Key(key) => self.tried.iter().any(|tried| *tried == Tried::Input(Input::Key(key.clone()))),
            Trigger::Tap(_) => some(|tried| matches!(tried, Tried::Input(Input::Tap(_)))),
            Trigger::Drag(..) => some(|tried| matches!(tried, Tried::Input(Input::Drag(..)))),
            Trigger::Timer(_) => some(|tried| *tried == Tried::Wait),
        }
    }

    /// Whether a rule that was never used is worth telling of: it could have been asked.
    pub(super) fn could_use(&self, grid: &Grid, rule: Fired) -> bool {
        match rule {
            Fired::Meeting(_) | Fired::Off(_) | Fired::When(_) | Fired::Outcome(_) => true,
            Fired::Input(number) => self.reach(&grid.book().inputs[number].trigger),
        }
    }
}

/// The sorts of input that a rulebook hears.
fn sorts<'a>(grid: &Grid, keys: &'a [Key]) -> Vec<Sort<'a>> {
    let book = grid.book();
    let named = |key: &&Key| {
        let is_other_name = book.aliases.iter().any(|(used, _)| used == *key);
        !is_other_name && book.inputs.iter().any(|rule| matches!(&rule.trigger, Trigger::Key(used) if used == *key))
    };
    let some = |fits: fn(&Trigger) -> bool| book.inputs.iter().any(|rule| fits(&rule.trigger));
    let mut sorts: Vec<Sort> = keys.iter().filter(named).map(Sort::Key).collect();
    if some(|trigger| matches!(trigger, Trigger::Tap(_))) {
        sorts.push(Sort::Taps);
    }
    if some(|trigger| matches!(trigger, Trigger::Drag(..))) {
        sorts.push(Sort::Drags);
    }
    if some(|trigger| matches!(trigger, Trigger::Timer(_))) || !book.glides.is_empty() {
        sorts.push(Sort::Wait);
    }
    sorts
}
