//! Expressions at random: a tree is written out, read back and worked out, and held against the tree worked out directly.

use super::{Names, parse_expression};
use crate::mishap::{Numbers, Target};
use crate::space::{Extent, Geometry};
use proptest::prelude::*;

#[derive(Clone, Debug)]
enum Tree {
    Number(u16),
    Decimal(u16),
    Name(&'static str),
    Minus(Box<Tree>),
    Two(Box<Tree>, &'static str, Box<Tree>),
    Call(&'static str, Vec<Tree>),
}

/// What the names stand for: cells of 24 × 18 px, 10 × 6 of them, and `x` 50, `y` 7.
const NAMES: [(&str, f64); 6] = [("x", 50.0), ("y", 7.0), ("w", 24.0), ("h", 18.0), ("columns", 10.0), ("k", -2.5)];

impl Tree {
    /// Written with no more parentheses than it takes: the level of what stands around decides.
    fn words(&self, around: u8) -> String {
        match self {
            Self::Number(number) => number.to_string(),
            Self::Decimal(number) => format!("{}.{:02}", number / 100, number % 100),
            Self::Name(name) => (*name).into(),
            Self::Minus(tree) => wrapped(format!("-{}", tree.words(3)), around > 2),
            Self::Two(left, sign, right) => {
                let level = if "+-".contains(sign) { 1 } else { 2 };
                let text = format!("{} {sign} {}", left.words(level), right.words(level + 1));
                wrapped(text, around > level)
            }
            Self::Call(name, all) => {
                let all: Vec<String> = all.iter().map(|tree| tree.words(0)).collect();
                format!("{name}({})", all.join(", "))
            }
        }
    }

    fn value(&self) -> f64 {
        match self {
            Self::Number(number) => f64::from(*number),
            Self::Decimal(number) => f64::from(*number) / 100.0,
            Self::Name(name) => NAMES.iter().find(|(other, _)| other == name).unwrap().1,
            Self::Minus(tree) => -tree.value(),
            Self::Two(left, sign, right) => {
                let (left, right) = (left.value(), right.value());
                match *sign {
                    "+" => left + right,
                    "-" => left - right,
                    "*" => left * right,
                    "/" => left / right,
                    _ => (left / right).floor(),
                }
            }
            Self::Call(name, all) => {
                let all: Vec<f64> = all.iter().map(Self::value).collect();
                match *name {
                    "floor" => all[0].floor(),
                    "ceil" => all[0].ceil(),
                    "int" | "trunc" => all[0].trunc(),
                    "abs" => all[0].abs(),
                    // A value that is none stays none.
                    _ if all.iter().any(|value| value.is_nan()) => f64::NAN,
                    "min" => all.iter().copied().fold(f64::INFINITY, f64::min),
                    _ => all.iter().copied().fold(f64::NEG_INFINITY, f64::max),
                }
            }
        }
    }
}

fn wrapped(text: String, wrap: bool) -> String {
    if wrap { format!("({text})") } else { text }
}

fn tree() -> impl Strategy<Value = Tree> {
    let leaf = prop_oneof![
        (0..200_u16).prop_map(Tree::Number),
        (0..2000_u16).prop_map(Tree::Decimal),
        prop::sample::select(NAMES.to_vec()).prop_map(|(name, _)| Tree::Name(name)),
    ];
    leaf.prop_recursive(5, 40, 4, |inner| {
        let sign = prop::sample::select(vec!["+", "-", "*", "/", "//"]);
        let one = prop::sample::select(vec!["floor", "ceil", "int", "trunc", "abs"]);
        let several = prop::sample::select(vec!["min", "max"]);
        prop_oneof![
            1 => inner.clone().prop_map(|tree| Tree::Minus(Box::new(tree))),
            4 => (inner.clone(), sign, inner.clone())
                .prop_map(|(left, sign, right)| Tree::Two(Box::new(left), sign, Box::new(right))),
            1 => (one, inner.clone()).prop_map(|(name, tree)| Tree::Call(name, vec![tree])),
            1 => (several, prop::collection::vec(inner, 2..4)).prop_map(|(name, all)| Tree::Call(name, all)),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 500, ..ProptestConfig::default() })]

    #[test]
    fn an_expression_is_worth_what_its_tree_is(tree in tree(), spaces in any::<bool>()) {
        let grid = Geometry::of_cells(24.0, 18.0);
        let numbers = Numbers::new(&grid, Extent { columns: 10, rows: 6 }, (0.0, 0.0));
        let names = Names::new(numbers, &[("k".to_owned(), -2.5)], false).unwrap();
        let words = tree.words(0);
        let words = if spaces { words } else { words.replace(' ', "") };
        let expression = parse_expression(&words, Target::Column, &names).unwrap();
        let (read, wanted) = (expression.value(50.0, 7.0, &mut Vec::new()), tree.value());
        prop_assert!(read == wanted || (read.is_nan() && wanted.is_nan()), "{} is {}, not {}", words, read, wanted);
    }
}
