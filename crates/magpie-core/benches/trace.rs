//! Logs against the model: lines a second of one that is alike, all mistakes of the catalogue tried on one that is not, and what
//! driving adds to a program that answers at once; each beside its limit.
//!
//! `cargo bench -p magpie-core --bench trace`
#![allow(missing_docs, clippy::unwrap_used)]

use magpie_core::grid::{Grid, Nobody};
use magpie_core::input::{Input, Key};
use magpie_core::mishap::{Played, Slip, slips_of};
use magpie_core::proof::Inputs;
use magpie_core::rulebook::{CounterRead, Rulebook, read_text};
use magpie_core::trace::{Fault, Header, Log, Plan, Program, Tongue, compare, drive};
use std::fmt::Write as _;
use std::sync::Arc;
use std::time::Instant;

/// The allocator of the program.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

const LINES: usize = 100_000;

fn loft() -> Arc<Rulebook> {
    let source = include_str!("../../../demos/cog-loft.magpie");
    Arc::new(read_text(source, &|_| Err(String::new())).rulebook.unwrap())
}

struct Lines<'t>(&'t str, std::str::Lines<'t>);

impl Log for Lines<'_> {
    fn rewind(&mut self) -> Result<(), String> {
        self.1 = self.0.lines();
        Ok(())
    }

    fn next(&mut self, into: &mut String) -> Result<bool, String> {
        let line = self.1.next();
        into.push_str(line.unwrap_or_default());
        Ok(line.is_some())
    }
}

/// What a game says of itself.
fn report(grid: &Grid, input: &str) -> String {
    let man = grid.first_controlled().and_then(|piece| grid.board().cell_of(piece));
    let cell = man.map(|cell| grid.board().cell(cell)).unwrap();
    let board = grid.picture().iter().map(|row| format!("\"{row}\"")).collect::<Vec<_>>().join(",");
    let moves = grid.counter(CounterRead::Moves);
    format!("{{{input}\"cell\":[{},{}],\"board\":[{board}],\"counters\":{{\"moves\":{moves}}}}}", cell.column, cell.row)
}

/// A log of so many lines: keys by a plain rule, a restart now and then.
fn log(played: &Played, lines: usize) -> String {
    let mut grid = Grid::with_switches(played.book.clone(), 5, None, (played.switches, None), &mut Nobody).unwrap();
    let mut text = String::from("{\"magpie-tape\":1,\"map\":6}\n");
    let mut dice = 12_345_u32;
    for number in 0..lines {
        dice = dice.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        let word =
            if number % 60 == 59 { "restart" } else { ["left", "right", "up", "down"][(dice >> 28) as usize % 4] };
        let input: Input = word.parse().unwrap();
        grid.input(&played.heard(&input), &mut Nobody);
        let _ = writeln!(text, "{}", report(&grid, &format!("\"input\":\"{word}\",")));
    }
    text
}

/// A program in this process: it answers at once.
struct Here {
    start: Grid,
    grid: Grid,
    answer: String,
}

impl Program for Here {
    fn send(&mut self, line: &str) -> Result<(), Fault> {
        let word = line.split('"').nth(3).unwrap_or_default();
        if word == "restart" {
            self.grid = self.start.copied();
        } else {
            self.grid.input(&Input::Key(Key(word.into())), &mut Nobody);
        }
        self.answer = report(&self.grid, "");
        Ok(())
    }

    fn receive(&mut self) -> Result<String, Fault> {
        Ok(std::mem::take(&mut self.answer))
    }

    fn respawn(&mut self) -> Result<(), Fault> {
        self.grid = self.start.copied();
        Ok(())
    }

    fn is_halted(&self) -> bool {
        false
    }
}

fn main() {
    // `cargo test` runs benches too; there is nothing to measure then.
    if !std::env::args().any(|argument| argument == "--bench") {
        return;
    }
    let book = loft();
    let right = log(&Played::right(&book), LINES);
    let timed = |text: &str| {
        let begun = Instant::now();
        let found =
            compare(&book, &Tongue::default(), Header::default(), 0.01, &mut Lines(text, text.lines())).unwrap();
        (found, begun.elapsed().as_secs_f64())
    };
    let (found, time) = timed(&right);
    assert!(found.first.is_none() && found.alike == LINES);
    println!("alike                {:>9.0} lines/s  (limit: at least 20,000)", LINES as f64 / time);
    let slips = slips_of(&book);
    let slip = slips.iter().find(|slipped| slipped.slip == Slip::PushIntoPiece).unwrap();
    let wrong = log(&Played::with(&book, [slip], 1), LINES);
    let (found, time) = timed(&wrong);
    assert!(found.mishaps.iter().any(|mishap| mishap.slipped == *slip && mishap.is_whole));
    println!("a mistake, named     {time:>9.2} s  (limit: at most 10; {} tried)", slips.len());
    // The worst: nothing differs but in the very last line, and nothing explains that.
    let mut late = right.trim_end().to_owned();
    let at = late.rfind("\"cell\":[").unwrap();
    late.replace_range(at + 8..=at + 8, "9");
    let (found, time) = timed(&late);
    assert_eq!(found.first.as_ref().map(|first| first.line), Some(LINES + 1));
    println!("a last line wrong    {time:>9.2} s  (limit: at most 10; {} explain it)", found.mishaps.len());
    let start = Grid::new(book.clone(), 5, None, &mut Nobody).unwrap();
    let mut here = Here { start: start.copied(), grid: start.copied(), answer: String::new() };
    let plan = Plan { start: Header { map: Some(5), seed: None }, runs: 400, seed: 1, respawn: false, within: 0.01 };
    let begun = Instant::now();
    let driven = drive(&book, &Tongue::default(), &plan, (&start, &Inputs::all(&start)), &mut here);
    let time = begun.elapsed().as_secs_f64();
    assert!(driven.is_same());
    println!(
        "driving              {:>9.1} µs a line  (limit: less than 50; {} pairs)",
        time / driven.sent as f64 * 1e6,
        driven.pairs
    );
}
