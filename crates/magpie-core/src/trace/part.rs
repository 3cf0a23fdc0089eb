//! The shortest inputs on which two explanations part.

use super::beside::Beside;
use super::compare::{Explained, Known};
use super::line::{Line, Told};
use crate::grid::{Grid, Nobody};
use crate::input::{Input, Key};
use crate::mishap::Played;
use crate::rulebook::{Rulebook, Trigger};
use std::collections::VecDeque;
use std::sync::Arc;

/// Most pairs of states that are looked at.
const MOST_PAIRS: usize = 4_000;
/// Longest sequence.
const LONGEST: usize = 24;

/// The shortest sequence after which two mistakes would tell different things, where one is found.
pub(super) fn parting(
    book: &Arc<Rulebook>,
    known: &Known,
    explained: [&Explained; 2],
    asked: &Told,
) -> Option<Vec<Input>> {
    let reach = super::compare::reach_of(known);
    let played = explained.map(|explained| Played::with(book, explained.made(), reach));
    let begun = |played: &Played| {
        let made = (played.switches, None);
        Grid::with_switches(played.book.clone(), known.start.map.unwrap_or(0), known.start.seed, made, &mut Nobody).ok()
    };
    let first = [begun(&played[0])?, begun(&played[1])?];
    let keys = keys_of(book);
    let mut open: VecDeque<([Grid; 2], Vec<Input>)> = VecDeque::from([(first, Vec::new())]);
    let mut seen: hashbrown::HashSet<[Vec<String>; 2]> = hashbrown::HashSet::new();
    while let Some((grids, way)) = open.pop_front() {
        if way.len() >= LONGEST || seen.len() >= MOST_PAIRS {
            return None;
        }
        for key in &keys {
            let mut next = [grids[0].copied(), grids[1].copied()];
            let line = Line { input: Some(key.clone()), told: asked.clone(), ..Line::default() };
            let says = [0, 1].map(|at| Beside::says(&mut next[at], &played[at], &line));
            let mut longer = way.clone();
            longer.push(key.clone());
            if says[0] != says[1] {
                return Some(longer);
            }
            let pictures = [next[0].picture(), next[1].picture()];
            if seen.insert(pictures) {
                open.push_back((next, longer));
            }
        }
    }
    None
}

/// The keys that a rulebook listens to.
fn keys_of(book: &Rulebook) -> Vec<Input> {
    let of_rules = book.inputs.iter().filter_map(|rule| match &rule.trigger {
        Trigger::Key(key) => Some(key.clone()),
        _ => None,
    });
    let mut keys: Vec<Key> = of_rules.collect();
    keys.sort_unstable();
    keys.dedup();
    keys.into_iter().map(Input::Key).collect()
}
