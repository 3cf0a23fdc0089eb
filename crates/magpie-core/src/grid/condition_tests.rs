//! Conditions at random, written out, read back and judged by the grid; held against what counting by hand says of the
//! same board.

use super::property_tests::{cells, standing};
use super::tests::book_with;
use super::{Grid, Nobody};
use crate::rulebook::Rulebook;
use crate::space::{Cell, Heading};
use proptest::prelude::*;

/// A condition as it is written.
#[derive(Clone, Debug)]
enum Said {
    Or(Vec<Said>),
    And(Vec<Said>),
    Not(Box<Said>),
    Compare(Vec<(bool, Term)>, &'static str, Vec<(bool, Term)>),
    There(&'static str),
    Beside(&'static str, &'static str),
}

#[derive(Clone, Debug)]
enum Term {
    Int(i64),
    Score,
    Count { who: &'static str, with: Option<(bool, &'static str)>, within: Within },
}

#[derive(Clone, Copy, Debug)]
enum Within {
    Map,
    Row(i64),
    LastRow,
    Column(i64),
    LastColumn,
    Cell(&'static str),
}

fn sum_words(sum: &[(bool, Term)]) -> String {
    let part = |(at, (minus, term)): (usize, &(bool, Term))| {
        let sign = match (at, minus) {
            (0, _) => "",
            (_, true) => " - ",
            (_, false) => " + ",
        };
        format!("{sign}{}", term.words())
    };
    sum.iter().enumerate().map(part).collect::<Vec<_>>().concat()
}

impl Term {
    fn words(&self) -> String {
        let Self::Count { who, with, within } = self else {
            return if let Self::Int(value) = self { value.to_string() } else { "score".into() };
        };
        let with = with.map_or(String::new(), |(on, other)| format!(" {} {other}", if on { "on" } else { "off" }));
        let within = match within {
            Within::Map => String::new(),
            Within::Row(row) => format!(" in row {row}"),
            Within::LastRow => " in row last".into(),
            Within::Column(column) => format!(" in column {column}"),
            Within::LastColumn => " in column last".into(),
            Within::Cell(kind) => format!(" at the {kind}"),
        };
        format!("count {who}{with}{within}")
    }
}

impl Said {
    fn words(&self) -> String {
        let joined = |all: &[Self], word: &str| {
            all.iter().map(|said| format!("({})", said.words())).collect::<Vec<_>>().join(word)
        };
        match self {
            Self::Or(all) => joined(all, " or "),
            Self::And(all) => joined(all, " and "),
            Self::Not(said) => format!("not ({})", said.words()),
            Self::Compare(left, compare, right) => format!("{} {compare} {}", sum_words(left), sum_words(right)),
            Self::There(kind) => format!("the {kind}"),
            Self::Beside(one, other) => format!("the {one} beside the {other}"),
        }
    }
}

/// The board as a list, counted by hand.
struct Plain<'a> {
    book: &'a Rulebook,
    pieces: Vec<(Cell, &'a str)>,
    columns: i64,
    rows: i64,
    score: i64,
}

impl Plain<'_> {
    fn of<'a>(book: &'a Rulebook, grid: &Grid, score: i64) -> Plain<'a> {
        let extent = grid.board().extent();
        let mut pieces: Vec<(Cell, &str)> =
            standing(grid).into_iter().map(|(cell, kind, _)| (cell, book.kind(kind).name.as_str())).collect();
        pieces.sort_by_key(|(cell, _)| (cell.row, cell.column));
        Plain { book, pieces, columns: extent.columns.into(), rows: extent.rows.into(), score }
    }

    /// Whether a word covers a kind.
    fn covers(&self, word: &str, kind: &str) -> bool {
        match word {
            "thing" => kind == "box" || kind == "cog",
            "any" => self.book.ground.is_none_or(|ground| self.book.kind(ground).name != kind),
            word => word == kind,
        }
    }

    fn first(&self, kind: &str) -> Option<Cell> {
        self.pieces.iter().find(|(_, other)| *other == kind).map(|(cell, _)| *cell)
    }

    fn term(&self, term: &Term) -> i64 {
        let (who, with, within) = match term {
            Term::Int(value) => return *value,
            Term::Score => return self.score,
            Term::Count { who, with, within } => (who, with, within),
        };
        let inside = |cell: Cell| match within {
            Within::Map => true,
            Within::Row(row) => cell.row == *row,
            Within::LastRow => cell.row == self.rows - 1,
            Within::Column(column) => cell.column == *column,
            Within::LastColumn => cell.column == self.columns - 1,
            Within::Cell(kind) => self.first(kind) == Some(cell),
        };
        let shares = |at: usize, other: &str| {
            let mut others = self.pieces.iter().enumerate().filter(|(place, _)| *place != at);
            others.any(|(_, (cell, kind))| *cell == self.pieces[at].0 && self.covers(other, kind))
        };
        let counted = self.pieces.iter().enumerate().filter(|(at, (cell, kind))| {
            self.covers(who, kind) && inside(*cell) && with.is_none_or(|(on, other)| shares(*at, other) == on)
        });
        counted.count() as i64
    }

    fn sum(&self, sum: &[(bool, Term)]) -> i64 {
        sum.iter().map(|(minus, term)| if *minus { -self.term(term) } else { self.term(term) }).sum()
    }

    fn holds(&self, said: &Said) -> bool {
        match said {
            Said::Or(all) => all.iter().any(|said| self.holds(said)),
            Said::And(all) => all.iter().all(|said| self.holds(said)),
            Said::Not(said) => !self.holds(said),
            Said::Compare(left, compare, right) => {
                let (left, right) = (self.sum(left), self.sum(right));
                match *compare {
                    "=" => left == right,
                    "!=" => left != right,
                    "<" => left < right,
                    "<=" => left <= right,
                    ">" => left > right,
                    _ => left >= right,
                }
            }
            Said::There(kind) => self.first(kind).is_some(),
            Said::Beside(one, other) => self.first(one).zip(self.first(other)).is_some_and(|(one, other)| {
                let steps = [Heading::North, Heading::East, Heading::South, Heading::West].map(Heading::screen_step);
                steps.iter().any(|(columns, rows)| Cell::new(one.column + columns, one.row + rows) == other)
            }),
        }
    }
}

fn kind() -> impl Strategy<Value = &'static str> {
    prop::sample::select(vec!["ada", "box", "cog", "wall", "mat", "net", "fen", "gap", "plank"])
}

fn who() -> impl Strategy<Value = &'static str> {
    prop_oneof![3 => kind(), 1 => Just("thing"), 1 => Just("any")]
}

fn term() -> impl Strategy<Value = Term> {
    let within = prop_oneof![
        2 => Just(Within::Map),
        1 => (0..5_i64).prop_map(Within::Row),
        1 => Just(Within::LastRow),
        1 => (0..6_i64).prop_map(Within::Column),
        1 => Just(Within::LastColumn),
        1 => kind().prop_map(Within::Cell),
    ];
    let with = prop::option::of((any::<bool>(), who()));
    prop_oneof![
        1 => (0..9_i64).prop_map(Term::Int),
        1 => Just(Term::Score),
        4 => (who(), with, within).prop_map(|(who, with, within)| Term::Count { who, with, within }),
    ]
}

fn said() -> impl Strategy<Value = Said> {
    let sum = || {
        let rest = prop::collection::vec((any::<bool>(), term()), 0..3);
        (term(), rest).prop_map(|(first, rest)| [vec![(false, first)], rest].concat())
    };
    let compare = prop::sample::select(vec!["=", "!=", "<", "<=", ">", ">="]);
    let test = prop_oneof![
        4 => (sum(), compare, sum()).prop_map(|(left, compare, right)| Said::Compare(left, compare, right)),
        1 => kind().prop_map(Said::There),
        1 => (kind(), kind()).prop_map(|(one, other)| Said::Beside(one, other)),
    ];
    test.prop_recursive(3, 12, 3, |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 2..4).prop_map(Said::Or),
            prop::collection::vec(inner.clone(), 2..4).prop_map(Said::And),
            inner.prop_map(|said| Said::Not(Box::new(said))),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn conditions_are_what_counting_by_hand_says(said in prop::collection::vec(said(), 1..6), map in cells(), score in 0..9_i64) {
        let lines: Vec<String> = said.iter().map(|said| format!("always {}", said.words())).collect();
        let book = book_with(&format!("counter score = {score}"), &lines.join("\n"), &map);
        let grid = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
        let plain = Plain::of(&book, &grid, score);
        for (said, invariant) in said.iter().zip(&book.invariants) {
            prop_assert_eq!(grid.holds(&invariant.cond), plain.holds(said), "{}", said.words());
        }
    }
}
