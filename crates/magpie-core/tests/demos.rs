//! Every demo can be won, by a search that plays it; the tapes beside it do so.

#![allow(clippy::unwrap_used)]

use magpie_core::grid::{Ended, Grid, Nobody};
use magpie_core::rulebook::{Rulebook, read_text};
use magpie_core::tape::Input;
use std::collections::{HashSet, VecDeque};
use std::sync::Arc;

fn demo(name: &str) -> Arc<Rulebook> {
    let path = format!("{}/../../demos/{name}.magpie", env!("CARGO_MANIFEST_DIR"));
    let source = std::fs::read_to_string(path).unwrap();
    let reading = read_text(&source, &|_| Err("none".into()));
    assert!(reading.diagnostics.is_empty(), "{name}: {:?}", reading.diagnostics);
    Arc::new(reading.rulebook.unwrap())
}

/// The shortest inputs that win a map, by breadth: every input from every state, each state once.
fn shortest_win(book: &Arc<Rulebook>, map: usize) -> Option<String> {
    let keys: Vec<Input> = ["left", "right", "up", "down"].iter().map(|word| word.parse().unwrap()).collect();
    let mut grid = Grid::new(book.clone(), map, None, &mut Nobody).unwrap();
    let state = |grid: &Grid| {
        let board = grid.board();
        let mut pieces = Vec::new();
        for id in (0..board.cells()).map(magpie_core::board::CellId) {
            for layer in 0..board.layers() {
                let heading = board.known_piece_at(id, layer).and_then(|piece| board.heading_of(piece));
                pieces.push((board.kind_at(id, layer), heading));
            }
        }
        (pieces, grid.counters().map(|(_, value)| value).collect::<Vec<_>>())
    };
    let mut seen = HashSet::from([state(&grid)]);
    let mut queue = VecDeque::from([Vec::<usize>::new()]);
    while let Some(path) = queue.pop_front() {
        while grid.undo() {}
        for key in &path {
            grid.input(&keys[*key], &mut Nobody);
        }
        for key in 0..keys.len() {
            grid.input(&keys[key], &mut Nobody);
            if grid.outcome() == Some(Ended::Won) {
                let words = path.iter().chain([&key]).map(|key| keys[*key].to_string());
                return Some(words.collect::<Vec<_>>().join(" "));
            }
            if grid.outcome().is_none() && seen.insert(state(&grid)) {
                queue.push_back(path.iter().copied().chain([key]).collect());
            }
            grid.undo();
        }
    }
    None
}

#[test]
fn every_map_can_be_won_and_the_last_loft_takes_at_least_25_moves() {
    for name in ["cog-loft", "towpath"] {
        let book = demo(name);
        let lengths: Vec<usize> = (0..book.maps.len())
            .map(|map| {
                let win = shortest_win(&book, map);
                let win = win.unwrap_or_else(|| panic!("{name}: map {} cannot be won", map + 1));
                println!("{name} {}: {win}", map + 1);
                win.split(' ').count()
            })
            .collect();
        println!("{name}: {lengths:?}");
        if name == "cog-loft" {
            assert!(lengths.last().is_some_and(|last| *last >= 25), "{lengths:?}");
            assert!(lengths.windows(2).all(|pair| pair[0] < pair[1]), "from easy to tricky: {lengths:?}");
        }
    }
}
