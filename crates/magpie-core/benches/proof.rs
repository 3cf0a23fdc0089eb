//! The search of every state beside a general-purpose breadth-first search over cloned boards: the same level, the same
//! request, the same answers, in one run.
//!
//! `cargo bench -p magpie-core --bench proof`
#![allow(missing_docs, clippy::unwrap_used)]

use hands::Hands;
use magpie_core::board::CellId;
use magpie_core::grid::{Grid, Nobody};
use magpie_core::proof::{Ask, Inputs, Limits, Proof, prove};
use magpie_core::rulebook::{KindId, read_text};
use magpie_core::space::Heading;
use pathfinding::directed::bfs::bfs;
use std::cell::Cell;
use std::hash::{Hash, Hasher};
use std::sync::Arc;
use std::time::{Duration, Instant};

/// The threads of the program.
#[path = "../../rapid-magpie/src/hands.rs"]
#[allow(dead_code, unused_imports)]
mod hands;

/// The allocator of the program.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// A room in which three crates are pushed, by itself or as a part of a level of so many columns and rows whose other rooms
/// cannot be entered.
fn room(crates: [&str; 5], win: &str, (columns, rows): (usize, usize)) -> Grid {
    let mut lines = vec!["#".repeat(columns)];
    lines.extend(crates.map(|row| format!("#{row}#{}", elsewhere(columns - 10, true))));
    lines.push("#".repeat(columns));
    lines.extend((7..rows).map(|row| format!("#{}", elsewhere(columns - 1, row + 1 < rows))));
    let rows = format!("  {}\n", lines.join("\n  "));
    let source = format!(
        "game \"Bench\"\ncell 10 px\nkinds\n  slat . floor\n  wall # body\n  man M body\n  box c body\n  bay m mark\nground slat\n\
         map \"Room\"\n{rows}control man with arrows\nrules\n  man into box: shove\n  win when {win}\n"
    );
    let reading = read_text(&source, &|_| Err(String::new()));
    Grid::new(Arc::new(reading.rulebook.unwrap()), 0, None, &mut Nobody).unwrap()
}

/// Cells of rooms that nobody gets into: floor with a wall here and there.
fn elsewhere(columns: usize, is_open: bool) -> String {
    (0..columns).map(|column| if is_open && column % 5 != 3 && column + 1 < columns { '.' } else { '#' }).collect()
}

/// A board as the rival knows it: cloned, and told from others by what stands in every cell.
struct Cloned(Grid);

impl Clone for Cloned {
    fn clone(&self) -> Self {
        Self(self.0.copied())
    }
}

impl Cloned {
    fn standing(&self) -> impl Iterator<Item = Option<KindId>> + '_ {
        let board = self.0.board();
        let layer = (0..board.layers()).rev().find(|layer| board.kind_at(CellId(0), *layer).is_some()).unwrap_or(0);
        (0..board.cells()).map(move |cell| board.kind_at(CellId(cell), layer))
    }
}

impl PartialEq for Cloned {
    fn eq(&self, other: &Self) -> bool {
        self.standing().eq(other.standing())
    }
}

impl Eq for Cloned {}

impl Hash for Cloned {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.standing().for_each(|kind| state.write_u16(kind.map_or(0, |kind| kind.0 + 1)));
    }
}

fn next(from: &Cloned) -> Vec<Cloned> {
    let ways = [Heading::West, Heading::East, Heading::North, Heading::South];
    let after = |heading| {
        let mut board = from.clone();
        let man = board.0.controlled()[0];
        board.0.request(man, heading, &mut Nobody).then_some(board)
    };
    ways.into_iter().filter_map(after).collect()
}

/// Two searches beside each other that share nothing: no search with two threads could be quicker than so.
fn searched_apart(grid: &Grid) -> f64 {
    let (one, other) = (grid.copied(), grid.copied());
    let begun = Instant::now();
    std::thread::scope(|scope| {
        scope.spawn(|| searched(&one, 1));
        scope.spawn(|| searched(&other, 1));
    });
    begun.elapsed().as_secs_f64() / 2.0
}

/// Bytes of memory that are in use.
fn resident() -> usize {
    let text = std::fs::read_to_string("/proc/self/statm").unwrap_or_default();
    text.split_whitespace().nth(1).and_then(|pages| pages.parse::<usize>().ok()).unwrap_or(0) * 4096
}

/// How often each is measured: in turns, so that a machine that is busy for a while is so for all of them. The quickest counts;
/// of two threads beside one the round in the middle, as its two sides are measured one right after the other.
const ROUNDS: usize = 9;

/// How many times as quick as one thread something was in each round: in the round in the middle, and from where to where.
fn in_the_middle(mut times: Vec<f64>) -> String {
    times.sort_by(f64::total_cmp);
    format!("{:.2}  ({:.2} to {:.2}", times[times.len() / 2], times[0], times[times.len() - 1])
}

fn searched(grid: &Grid, hands: usize) -> (Proof, f64) {
    let hands = Hands::of(hands, Duration::MAX, Arc::default(), |_, _| ());
    let begun = Instant::now();
    let proof = prove(grid, None, &Inputs::all(grid), Ask::All, Limits::default(), &hands);
    (proof, begun.elapsed().as_secs_f64())
}

fn main() {
    // `cargo test` runs benches too; there is nothing to measure then.
    if !std::env::args().any(|argument| argument == "--bench") {
        return;
    }
    measure("A room of 10 by 7", (10, 7));
    measure("The same room in a level of 24 by 16", (24, 16));
}

fn measure(name: &str, extent: (usize, usize)) {
    let crates = ["M.......", "..c.....", "....c...", "..c.....", "........"];
    let won = "count box on bay > 0";
    let bay = crates.map(|row| row.replacen("....c...", "....c..m", 1));
    let with_bay = room(bay.each_ref().map(String::as_str), won, extent);
    let goal = with_bay.book().kind_named("bay").unwrap();
    let is_won = |node: &Cloned| {
        let board = node.0.board();
        let body =
            |cell: CellId| (0..board.layers()).filter_map(|layer| board.kind_at(cell, layer)).collect::<Vec<_>>();
        let crate_kind = node.0.book().kind_named("box").unwrap();
        (0..board.cells()).map(CellId).any(|cell| body(cell).contains(&goal) && body(cell).contains(&crate_kind))
    };
    let length = bfs(&Cloned(with_bay.copied()), next, is_won).map(|path| path.len() - 1);
    let (proof, _) = searched(&with_bay, 1);
    assert_eq!(proof.report().win.tape.as_ref().map(Vec::len), length, "both find ways of one length");

    // Everything that can be reached, where nothing wins.
    let start = room(crates, "count box > 3", extent);
    let (before, states) = (resident(), Cell::new(0_u32));
    let most = Cell::new(0_usize);
    let counted = |node: &Cloned| {
        states.set(states.get() + 1);
        if states.get() % 4096 == 0 {
            most.set(most.get().max(resident().saturating_sub(before)));
        }
        next(node)
    };
    let (mut rival, mut one_time, mut two_time, mut bytes) = (f64::MAX, f64::MAX, f64::MAX, 0.0);
    let (mut together, mut apart) = (Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        states.set(0);
        let begun = Instant::now();
        assert!(bfs(&Cloned(start.copied()), counted, |_| false).is_none());
        rival = rival.min(begun.elapsed().as_secs_f64());
        let [one, two] = [1, 2].map(|hands| {
            let (proof, time) = searched(&start, hands);
            assert_eq!(proof.report().states, states.get(), "all see as many states");
            bytes = proof.report().bytes as f64 / f64::from(states.get());
            time
        });
        (one_time, two_time) = (one_time.min(one), two_time.min(two));
        together.push(one / two);
        apart.push(one / searched_apart(&start));
    }
    let rival_bytes = most.get() as f64 / f64::from(states.get());
    let rate = |time: f64| f64::from(states.get()) / time;
    println!("{name}: {} states, both the same; a win in {length:?} inputs, both the same", states.get());
    println!("cloned boards        {:>9.0} states/s  {rival_bytes:>6.0} bytes a state", rate(rival));
    println!("proof, one thread    {:>9.0} states/s  {bytes:>6.0} bytes a state", rate(one_time));
    println!("proof, two threads   {:>9.0} states/s", rate(two_time));
    println!("times the rival      {:>9.1}  (limit: at least 8)", rival / one_time);
    println!("its memory           {:>9.2}  (limit: at most a quarter)", bytes / rival_bytes);
    println!("two threads               {}; limit: at least 1.6 times one)", in_the_middle(together));
    println!("two searches apart        {}; the most that this machine can give)", in_the_middle(apart));
}
