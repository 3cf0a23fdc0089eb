//! What a board cannot tell: expressions that are right on it, and would be a known mistake on another.

use super::comparison::compare;
use super::expression::{Names, parse_expression};
use crate::mishap::{Given, Mishap, Target};
use crate::space::Extent;

/// An expression that this board cannot tell from a mistake, and a board that could.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Untold {
    /// The function it is to compute.
    pub target: Target,
    /// What it would be on that board.
    pub mishap: Mishap,
    /// The size of that board.
    pub board: Extent,
}

/// For expressions that are right on a square board: those that on a board of one column more give the numbers of a mistake,
/// such as one with height and width exchanged.
pub fn untold(given: &Given, written: &[(Target, &str)], names: &[(String, f64)], ints: bool) -> Vec<Untold> {
    let Extent { columns, rows } = given.extent;
    if columns != rows {
        return Vec::new();
    }
    let board = Extent { columns: columns + 1, rows };
    let other = Given { extent: board, ..*given };
    let Ok(names) = Names::of(&other, names, ints) else { return Vec::new() };
    let tell = |(target, source): &(Target, &str)| {
        let expression = parse_expression(source, *target, &names).ok()?;
        let found = compare(&other, &[expression], (1, 1), &mut |_| true).ok()?;
        let mishap = found.findings.first()?.mishap?;
        Some(Untold { target: *target, mishap, board })
    };
    written.iter().filter_map(tell).collect()
}
