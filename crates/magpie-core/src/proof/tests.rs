//! The search against a slow reference that plays every tape from the beginning, and what counts as the same state.

use super::expand::Uses;
use super::search::Search;
use super::{Alone, Ask, Halt, Host, Inputs, InputsError, Job, Limit, Limits, Proof, Report, ToWin, prove};
use crate::board::CellId;
use crate::grid::{Due, Ended, Grid, Taken};
use crate::input::{Input, parse_inputs};
use crate::rulebook::{Rulebook, read_text};
use crate::space::Cell;
use crate::tape::{Session, Start};
use proptest::prelude::*;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

mod cuts;

/// Two letters of the yard, a mark, a floor; `rules` stand below a control with arrows.
fn yard(sections: &str, rules: &str, map: &str) -> Arc<Rulebook> {
    let lines = |text: &str| text.lines().flat_map(|line| ["  ", line.trim(), "\n"]).collect::<String>();
    let rules = if rules.is_empty() { String::new() } else { format!("rules\n{}", lines(rules)) };
    let source = format!(
        "game \"Yard\"\ncell 10 px\nkinds\n  plank . floor\n  gap : floor\n  mat m mark\n  ada A body\n  box B body\n  cog C body\n  \
         wall # body\ngroup thing = box, cog\nground plank\nmap \"One\"\n{}{sections}\n{rules}",
        lines(map)
    );
    let reading = read_text(&source, &|_| Err("none".into()));
    assert!(!reading.has_errors(), "{:?}\n{source}", reading.diagnostics);
    Arc::new(reading.rulebook.unwrap())
}

const ARROWS: &str = "control ada with arrows";

fn begun(book: &Arc<Rulebook>) -> Session {
    Session::new(Start::map(book.clone(), 0)).unwrap()
}

fn searched(book: &Arc<Rulebook>) -> Proof {
    let game = begun(book);
    let limits = Limits { states: 5_000, ..Limits::default() };
    let proof = prove(game.grid(), None, &Inputs::all(game.grid()), Ask::All, limits, &Alone);
    assert_eq!(proof.report().limit, None, "{} states", proof.report().states);
    proof
}

fn report(rules: &str, map: &str) -> Report {
    searched(&yard(ARROWS, rules, map)).report().clone()
}

fn words(tape: Option<&Vec<Input>>) -> Option<String> {
    Some(tape?.iter().map(Input::to_string).collect::<Vec<_>>().join(" "))
}

fn replayed(book: &Arc<Rulebook>, tape: &[Input]) -> Session {
    let mut game = begun(book);
    for input in tape {
        assert_eq!(game.give(input), Taken::Yes, "{input} of {tape:?}");
    }
    game
}

/// Jobs on threads.
struct Threads(usize);

impl Host for Threads {
    fn hands(&self) -> usize {
        self.0
    }

    fn work(&self, jobs: Vec<Job<'_>>) {
        std::thread::scope(|scope| jobs.into_iter().for_each(|job| drop(scope.spawn(job))));
    }
}

/// A random rulebook, and what of a state its rules can tell apart.
#[derive(Clone, Debug)]
struct Random {
    sections: String,
    rules: Vec<&'static str>,
    map: String,
}

impl Random {
    fn book(&self) -> Arc<Rulebook> {
        yard(&self.sections, &self.rules.join("\n"), &self.map)
    }

    fn reads(&self, word: &str) -> bool {
        self.rules.iter().any(|rule| rule.contains(word))
    }

    /// Everything about a state that counts, in words.
    fn state(&self, grid: &Grid) -> String {
        let board = grid.board();
        let mut all = vec![format!("{:?}", grid.outcome().filter(|outcome| *outcome != Ended::NeverSettles))];
        for id in (0..board.cells()).map(CellId) {
            for place in board.seats(id) {
                let kind = board.kind_in(id, place);
                let piece = board.known_piece_in(id, place);
                let heading = piece.and_then(|piece| board.heading_of(piece));
                // A cog that may turn into a box takes its heading along.
                let is_read = |name: &str| name == "box" || name == "cog" && self.reads("every cog into box");
                let heading = heading.filter(|_| self.reads("ahead"));
                let heading = heading.filter(|_| kind.is_some_and(|kind| is_read(&grid.book().kind(kind).name)));
                let trail = piece.and_then(|piece| grid.ties(piece).trail);
                all.push(format!("{id:?} {kind:?} {heading:?} {trail:?}"));
            }
        }
        if self.reads("score <") || self.reads("score =") {
            all.push(format!("{:?}", grid.counters().collect::<Vec<_>>()));
        }
        let timers: Vec<_> = grid.timers().map(|(_, period, left)| (period, left)).collect();
        all.push(format!("{timers:?} {:?} {:?}", grid.chosen(), grid.chosen_kind()));
        all.join("|")
    }
}

/// What the slow way finds.
#[derive(Debug, Default, PartialEq, Eq)]
struct Slow {
    levels: Vec<u32>,
    edges: u64,
    limited: bool,
    win: Option<String>,
    ways: Option<u64>,
    lose: Option<String>,
    stuck: Option<String>,
    broken: Vec<Option<String>>,
    no_way_back: Option<(u32, Option<String>)>,
    /// Where somebody controlled has stood.
    cells: BTreeSet<Cell>,
    /// Where somebody controlled could have stood in some state, and did in none.
    never: Option<BTreeSet<Cell>>,
    /// By kind, where one stands in no state from which a win can be reached; known where there is a win.
    dead: Option<BTreeMap<String, BTreeSet<Cell>>>,
}

/// What stands where in a state, by the names of the kinds; `bodies` are the cells that are taken.
#[derive(Default)]
struct Standing {
    all: BTreeSet<(String, Cell)>,
    bodies: BTreeSet<Cell>,
}

impl Standing {
    fn of(grid: &Grid) -> Self {
        let (board, book) = (grid.board(), grid.book());
        let layer = board.layer(book.kind_named("ada").unwrap());
        let mut standing = Self::default();
        for id in (0..board.cells()).map(CellId) {
            let named = board.kinds_at(id).map(|kind| (book.kind(kind).name.clone(), board.cell(id)));
            standing.all.extend(named);
            if board.kind_at(id, layer).is_some() || board.is_void(id) {
                standing.bodies.insert(board.cell(id));
            }
        }
        standing
    }

    fn ada(&self) -> impl Iterator<Item = Cell> + '_ {
        self.all.iter().filter(|(name, _)| name == "ada").map(|(_, cell)| *cell)
    }
}

struct Node {
    standing: Standing,
    tape: Vec<Input>,
    state: String,
    outcome: Option<Ended>,
    edges: Vec<usize>,
    ways: u64,
}

/// Plays every tape from the beginning, and compares every state with every other.
fn slow(random: &Random, most: usize) -> Slow {
    let book = random.book();
    let ended = |grid: &Grid| grid.outcome().filter(|outcome| *outcome != Ended::NeverSettles);
    let mut found = Slow { broken: vec![None; book.invariants.len()], ..Slow::default() };
    let start = begun(&book);
    let mut nodes = vec![Node {
        standing: Standing::of(start.grid()),
        tape: Vec::new(),
        state: random.state(start.grid()),
        outcome: ended(start.grid()),
        edges: Vec::new(),
        ways: 1,
    }];
    let text = |tape: &Vec<Input>| words(Some(tape)).unwrap();
    for (promise, broken) in found.broken.iter_mut().enumerate() {
        *broken = start.grid().breaks(promise).then(String::new);
    }
    let mut at = 0;
    'all: while at < nodes.len() {
        let tape = nodes[at].tape.clone();
        let open = nodes[at].outcome.is_none();
        let inputs = if open { inputs_of(&book, replayed(&book, &tape).grid()) } else { Vec::new() };
        for input in inputs {
            let mut game = replayed(&book, &tape);
            let longer: Vec<Input> = tape.iter().cloned().chain([input.clone()]).collect();
            let mut broken_on_the_way = vec![false; book.invariants.len()];
            let mut grid = game.grid().fork();
            grid.answer_each(&input, |grid, _| {
                for (promise, broken) in broken_on_the_way.iter_mut().enumerate() {
                    *broken |= grid.breaks(promise);
                }
            });
            game.give(&input);
            for (promise, broken) in found.broken.iter_mut().enumerate() {
                if broken_on_the_way[promise] && broken.is_none() {
                    *broken = Some(text(&longer));
                }
            }
            let state = random.state(game.grid());
            if state == nodes[at].state {
                continue;
            }
            let to = match nodes.iter().position(|node| node.state == state) {
                Some(to) => to,
                None if nodes.len() == most => {
                    found.limited = true;
                    break 'all;
                }
                None => {
                    let outcome = ended(game.grid());
                    let standing = Standing::of(game.grid());
                    nodes.push(Node { standing, tape: longer, state, outcome, edges: Vec::new(), ways: 0 });
                    nodes.len() - 1
                }
            };
            nodes[at].edges.push(to);
            if nodes[to].tape.len() == nodes[at].tape.len() + 1 {
                nodes[to].ways += nodes[at].ways;
            }
        }
        if nodes[at].edges.is_empty() && nodes[at].outcome.is_none() {
            found.stuck.get_or_insert_with(|| text(&nodes[at].tape));
        }
        at += 1;
    }
    found.cells = nodes.iter().flat_map(|node| node.standing.ada()).collect();
    if !found.limited {
        let board = start.grid().board();
        let all = (0..board.cells()).map(|id| board.cell(CellId(id)));
        let is_free = |cell: &Cell| nodes.iter().any(|node| !node.standing.bodies.contains(cell));
        found.never = Some(all.filter(|cell| !found.cells.contains(cell) && is_free(cell)).collect());
    }
    let depth = nodes.iter().map(|node| node.tape.len()).max().unwrap_or(0);
    let of_depth = |depth: usize| nodes.iter().filter(move |node| node.tape.len() == depth);
    found.levels = (0..=depth).map(|depth| of_depth(depth).count() as u32).collect();
    found.edges = nodes.iter().map(|node| node.edges.len() as u64).sum();
    let first = |outcome: Ended| nodes.iter().find(|node| node.outcome == Some(outcome));
    found.lose = first(Ended::Lost).map(|node| text(&node.tape));
    if let Some(won) = first(Ended::Won) {
        found.win = Some(text(&won.tape));
        let all = of_depth(won.tape.len()).filter(|node| node.outcome == Some(Ended::Won));
        let is_known = nodes.get(at).is_none_or(|open| open.tape.len() >= won.tape.len());
        found.ways = is_known.then(|| all.map(|node| node.ways).sum());
        if !found.limited {
            look_back(&nodes, &mut found);
        }
    }
    found
}

/// From which states no win can be reached, and what stands nowhere else.
fn look_back(nodes: &[Node], found: &mut Slow) {
    let mut wins: Vec<bool> = nodes.iter().map(|node| node.outcome == Some(Ended::Won)).collect();
    for _ in 0..nodes.len() {
        for (at, node) in nodes.iter().enumerate() {
            wins[at] |= node.edges.iter().any(|to| wins[*to]);
        }
    }
    let gone: Vec<&Node> = nodes.iter().zip(&wins).filter(|(_, wins)| !**wins).map(|(node, _)| node).collect();
    found.no_way_back = Some((gone.len() as u32, gone.first().map(|node| words(Some(&node.tape)).unwrap())));
    let winning = nodes.iter().zip(&wins).filter(|(_, wins)| **wins);
    let alive: BTreeSet<_> = winning.flat_map(|(node, _)| &node.standing.all).collect();
    let mut dead = BTreeMap::<_, BTreeSet<Cell>>::new();
    for (name, cell) in nodes.iter().flat_map(|node| &node.standing.all).filter(|stands| !alive.contains(stands)) {
        dead.entry(name.clone()).or_default().insert(*cell);
    }
    found.dead = Some(dead);
}

/// The inputs of the search, by hand: what the rulebooks of these tests hear.
fn inputs_of(book: &Rulebook, grid: &Grid) -> Vec<Input> {
    let mut all: Vec<Input> = Vec::new();
    for word in ["left", "right", "up", "down", "act", "key:b"] {
        let input: Input = word.parse().unwrap();
        let Input::Key(key) = &input else { continue };
        if book.uses_key(key) {
            all.push(input);
        }
    }
    if book.is_touched() {
        let board = grid.board();
        let cells = (0..board.cells()).map(CellId).filter(|id| !board.is_void(*id));
        all.extend(cells.map(|id| Input::Tap(board.cell(id))));
    }
    let clock = grid.counter(crate::rulebook::CounterRead::Clock) as u64;
    let due: Option<(u64, Due)> = grid.next_due(u64::MAX);
    all.extend(due.map(|(due, _)| Input::Wait(due - clock)));
    all
}

fn fast(report: &Report, book: &Rulebook) -> Slow {
    let text = |tape: &Option<Vec<Input>>| words(tape.as_ref());
    Slow {
        levels: report.levels.clone(),
        edges: report.edges,
        limited: report.limit == Some(Limit::States),
        win: text(&report.win.tape),
        ways: report.win.ways,
        lose: text(&report.lose.tape),
        stuck: text(&report.stuck.tape),
        broken: report.promises.iter().map(|promise| text(&promise.tape)).collect(),
        no_way_back: report.no_way_back.as_ref().map(|gone| (gone.states, text(&gone.tape))),
        cells: report.cells.iter().flat_map(|(_, cells)| cells).copied().collect(),
        never: report.never.as_ref().map(|cells| cells.iter().copied().collect()),
        dead: report.dead_cells.as_ref().map(|all| {
            let told = all.iter().filter(|(_, cells)| !cells.is_empty());
            told.map(|(kind, cells)| (book.kind(*kind).name.clone(), cells.iter().copied().collect())).collect()
        }),
    }
}

fn randoms() -> impl Strategy<Value = Random> {
    let glyph = prop::sample::select(vec!['.', '.', '.', '.', 'B', 'C', '#', 'm', ':', ' ']);
    let map = prop::collection::vec(prop::collection::vec(glyph, 4), 3).prop_map(|rows| {
        let mut rows: Vec<String> = rows.into_iter().map(|row| row.into_iter().collect()).collect();
        rows[1].replace_range(1..2, "A");
        rows.join("\n")
    });
    let push = vec![
        "thing into cog: shove else swap",
        "thing into thing if the cog beside the mat: swap",
        "thing into edge: wrap",
        "ada into thing: shove",
        "thing into thing: shove up to 2",
        "ada into box: swap",
        "ada into cog: take, add 1 to score",
        "thing into gap: perish",
        "ada into gap: slide",
        "ada into edge: wrap",
        "when cog on gap: remove cog, turn gap into plank",
        "when run of 3 same thing in rows: clear",
        "when row full of thing: clear, drop above",
        "ada off mat: add 1 to score",
        "on key act: swap column 0 row 0 with column 2 row 1",
        "on key act if score < 3: step every box ahead",
        "on key \"b\": step every cog east else turn every cog into box",
        "on key \"b\" if count ada = 1: restart",
        "on tap box: turn tapped into cog",
        "on tap: choose tapped",
        "each beat: step every box west",
        "each beat if score < 2: add 1 to score",
        "each knock: remove every mat",
        "win when count ada on mat > 0",
        "win when count box = 0",
        "lose when count cog > 2",
        "lose when score = 2",
        "always count ada = 1",
        "never count thing on mat > 0",
        "always score < 2",
        "win when the cog beside the mat",
        "lose when count thing in row 2 > 1",
        "always the cog beside the gap",
    ];
    let rules = prop::sample::subsequence(push, 2..8);
    (map, rules, any::<bool>()).prop_map(|(map, rules, trail)| {
        let mut sections = format!("counter score\n{ARROWS}\n");
        for (word, timer) in [("each beat", "timer beat 200 ms\n"), ("each knock", "timer knock 300 ms\n")] {
            if rules.iter().any(|rule| rule.starts_with(word)) {
                sections += timer;
            }
        }
        if trail && !rules.iter().any(|rule| rule.contains("swap") || rule.contains("restart")) {
            sections += "trail ada leaves mat, 2 long\n";
        }
        Random { sections, rules, map }
    })
}

/// Clauses about what a request meets that come before the others.
const ASIDE: [&str; 5] = [
    "thing into cog: shove else swap",
    "ada into box if count cog > 1: shove",
    "thing into thing if the cog beside the mat: swap",
    "thing into edge: wrap",
    "ada into thing: shove",
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(160))]

    #[test]
    fn finds_what_playing_every_tape_finds(random in randoms()) {
        const MOST: u32 = 120;
        let book = random.book();
        let game = begun(&book);
        let inputs = Inputs::all(game.grid());
        let limits = Limits { states: MOST, ..Limits::default() };
        let proof = prove(game.grid(), None, &inputs, Ask::All, limits, &Alone);
        let report = proof.report();
        let mut slow = slow(&random, MOST as usize);
        if let (Some(dead), Some(told)) = (&mut slow.dead, &report.dead_cells) {
            // Told of kinds that are moved and not controlled.
            dead.retain(|name, _| told.iter().any(|(kind, _)| book.kind(*kind).name == *name));
        }
        prop_assert_eq!(fast(report, &book), slow);
        let shared = prove(game.grid(), None, &inputs, Ask::All, limits, &Threads(3));
        let alike = Report { bytes: report.bytes, ..shared.report().clone() };
        prop_assert_eq!(&alike, report, "as many hands as there may be find the same");
    }

    /// Whatever joins, leaves, turns or is chosen between the two.
    #[test]
    fn any_state_is_gone_to_from_any_other(
        random in randoms(),
        order in prop::collection::vec(any::<prop::sample::Index>(), 2..60),
    ) {
        let book = random.book();
        let (game, limits) = (begun(&book), Limits { states: 60, ..Limits::default() });
        let inputs = Inputs::all(game.grid());
        let mut search = Search::new(game.grid(), &inputs, Ask::All, limits, &Alone, Uses::new(&book));
        search.run();
        let (mut worker, found) = search.into_parts();
        prop_assume!(!worker.base.whole);
        for at in order {
            let key = found.known.key(at.index(found.known.len()) as u32).to_vec();
            worker.scratch.arrive(&worker.base, &key);
            worker.grid.load(&worker.base, &key, &mut worker.scratch);
            prop_assert_eq!(worker.key(), key.as_slice());
        }
    }

    /// Rulebooks of which most turns are one request; what it comes to may hang on cells that are not in its way.
    #[test]
    fn what_is_foreseen_is_what_playing_comes_to(
        random in randoms(),
        first in prop::sample::subsequence(ASIDE.to_vec(), 0..=ASIDE.len()),
        corners in prop::sample::select(vec!["open", "closed"]),
        looks_ahead in any::<bool>(),
    ) {
        let goes_on = ["when", "each", "ada off", "ada into gap: slide"];
        let rules = random.rules.into_iter().filter(|rule| !goes_on.iter().any(|begin| rule.starts_with(begin)));
        let last = looks_ahead.then_some("always ahead of ada").into_iter().chain(["on key \"u\": step ada north-east"]);
        let rules = first.into_iter().chain(rules).chain(last).collect();
        let sections = format!("corners {corners}\ncounter score\n{ARROWS}\n");
        let book = Random { rules, sections, map: random.map }.book();
        let (game, limits) = (begun(&book), Limits { states: 2_000, ..Limits::default() });
        let inputs = Inputs::all(game.grid());
        let found = |foresees: bool| {
            let mut search = Search::new(game.grid(), &inputs, Ask::All, limits, &Alone, Uses::new(&book));
            let foresights = &mut search.workers[0].foresights;
            let told = foresights.iter().flatten().count();
            assert_eq!(told, 5, "each arrow and the diagonal step can be told");
            if !foresees {
                foresights.fill_with(|| None);
            }
            search.run();
            let (_, mut found) = search.into_parts();
            let states: Vec<_> = (0..found.states()).map(|state| found.known.key(state).to_vec()).collect();
            let lists = [&found.parents, &found.by, &found.degrees, &found.targets].map(|list| list.iter().collect::<Vec<_>>());
            let ends: Vec<_> = found.ends.iter().collect();
            (states, lists, ends, found.uses.unused(), found.moved, found.broken)
        };
        prop_assert_eq!(found(true), found(false));
    }
}

/// How many states there are, and edges.
fn counted(rules: &str, map: &str) -> (u32, u64) {
    let report = report(rules, map);
    (report.states, report.edges)
}

#[test]
fn what_no_rule_can_tell_apart_is_one_state() {
    // Two cells to stand in: what else is read makes more of them.
    assert_eq!(counted("", "A."), (2, 2));
    assert_eq!(
        counted("on key act: step ada ahead", "A."),
        (3, 3),
        "headings are read: none, and that of the last step"
    );
    assert_eq!(counted("on key act: add 1 to n", "A."), (2, 2), "adding to a counter does not read it");
    assert_eq!(counted("on key act: set n to 1\nnever n > 2", "A.").0, 4, "a promise reads one");
    assert_eq!(counted("on key act: set n to 1\non key alt: add n to o", "A.").0, 4, "adding it to another reads it");
    assert_eq!(counted("never moves > 9\nlose when moves = 3", "A.").0, 4, "moves are read");
    assert_eq!(counted("on key act: turn ada into cog", "A.").0, 4, "nobody to ask is a state too");
}

#[test]
fn a_win_has_a_shortest_tape_its_ways_and_its_forced_states() {
    // Round a wall: two ways of four steps to the mark.
    let map = "A..\n.#.\n..m";
    let found = report("win when count ada on mat > 0", map);
    assert_eq!(words(found.win.tape.as_ref()).as_deref(), Some("right right down down"));
    assert_eq!((found.win.ways, found.win.forced, found.levels.clone()), (Some(2), Some(0), vec![1, 2, 2, 2, 1]));
    assert_eq!((found.win.possible, found.lose.possible, found.stuck.possible), (Some(true), Some(false), Some(false)));
    assert_eq!(found.no_way_back.unwrap().states, 0);
    // Two inputs that lead to one state are two edges, and two ways.
    let found = report("on key act: step ada east\nwin when count ada on mat > 0", "A.m");
    assert_eq!((found.win.ways, found.win.forced), (Some(4), Some(0)));
    let found = report("win when count ada on mat > 0", "Am");
    assert_eq!((found.win.ways, found.win.forced), (Some(1), Some(1)), "the one edge wins");
    let over = report("on start: win", "A.");
    assert_eq!((over.states, over.edges, over.win.ways), (1, 0, Some(1)), "a game that begins won has no edges");
    assert_eq!(report("win when count box = 9", "A.").win.possible, Some(false));
}

#[test]
fn the_next_map_is_a_win_and_a_restart_leads_back() {
    let maps = format!("map \"Two\"\n  A.\n{ARROWS}");
    let next = yard(&maps, "on key act if count ada on mat > 0: next map", "A.m");
    let proof = searched(&next);
    assert_eq!(words(proof.report().win.tape.as_ref()).as_deref(), Some("right right act"));
    assert_eq!(proof.report().states, 4);
    let again = yard(
        &format!("counter tries, kept\n{ARROWS}"),
        "ada into wall: stop, set tries to 1, restart\nnever tries > 0",
        ".A#",
    );
    let found = searched(&again);
    // The two cells before the first try, and after it.
    assert_eq!(found.report().states, 4);
    assert_eq!(words(found.report().promises[0].tape.as_ref()).as_deref(), Some("right"));
}

#[test]
fn time_moves_to_what_is_due_and_every_turn_of_it_counts() {
    let book = yard(
        &format!("timer slow 300 ms\ntimer fast 200 ms\n{ARROWS}"),
        "each fast: step box east\neach slow: step box east\nlose when count box at column 3 row 0 > 0\nnever count box at column 2 row 0 > 0",
        "B...#A",
    );
    let found = searched(&book);
    let report = found.report();
    assert_eq!(words(report.lose.tape.as_ref()).as_deref(), Some("wait:200 wait:100 wait:100"));
    assert_eq!(words(report.promises[0].tape.as_ref()).as_deref(), Some("wait:200 wait:100"));
    let lost = replayed(&book, report.lose.tape.as_ref().unwrap());
    assert_eq!(lost.grid().outcome(), Some(Ended::Lost));
    // Two turns in one instant: what holds after both was broken in between.
    let book = yard(
        &format!("timer one 200 ms\ntimer two 200 ms\n{ARROWS}"),
        "each one: step box east\neach two: step box west\nnever count box at column 1 row 0 > 0",
        "B..#A",
    );
    let found = searched(&book);
    assert_eq!(words(found.report().promises[0].tape.as_ref()).as_deref(), Some("wait:200"));
    assert_eq!((found.report().states, found.report().edges), (1, 0), "nothing is otherwise afterwards");
}

#[test]
fn a_map_that_begins_where_a_turn_would_lose_is_not_reached_again() {
    // The box goes round in its row, and where it began it loses: not before a turn has led there.
    let rules = "on key act: step ada east\nada into box: shove\nthing into edge: wrap\nada into edge: wrap\n\
                 lose when count box in column 1 > 0";
    let proof = searched(&yard("", rules, "AB."));
    let report = proof.report();
    assert_eq!((report.states, report.edges), (4, 3));
    assert_eq!(words(report.lose.tape.as_ref()).as_deref(), Some("act act act"));
}

#[test]
fn a_turn_that_never_settles_is_noted_and_no_edge() {
    let found =
        report("when box on mat: turn box into cog\nwhen cog on mat: turn cog into box\nada into box: shove", ".AB.m");
    assert_eq!(found.never_settles.possible, Some(true));
    assert_eq!(words(found.never_settles.tape.as_ref()).as_deref(), Some("right right"));
    let begun = report("when box: turn box into cog\nwhen cog: turn cog into box", "B.A");
    assert_eq!(begun.never_settles.tape, Some(Vec::new()), "entering the map does not");
}

#[test]
fn dead_cells_cells_never_and_unused_lines_are_told() {
    let rules = "ada into box: shove\nbox into mat: pass\nbox into gap: stop\nada into cog: take\n\
                 when box on gap: remove box\nwin when count box on mat > 0";
    let book = yard(ARROWS, rules, "#....#\n#.AB.m\n##...#\n..####");
    let proof = searched(&book);
    let report = proof.report();
    let kind = |name: &str| book.kind_named(name).unwrap();
    assert_eq!(words(report.win.tape.as_ref()).as_deref(), Some("right right"));
    let dead = report.dead_cells.as_ref().unwrap();
    assert_eq!(dead.len(), 1);
    assert_eq!(dead[0].0, kind("box"));
    // Along the upper and the lower wall it never comes back to the row of the mark.
    for (column, row) in [(1, 0), (4, 0), (4, 2)] {
        assert!(dead[0].1.contains(&Cell::new(column, row)), "{column},{row} of {dead:?}");
    }
    assert!(!dead[0].1.contains(&Cell::new(3, 1)) && !dead[0].1.contains(&Cell::new(4, 1)), "{dead:?}");
    assert_eq!(report.cells.len(), 1);
    assert!(report.cells[0].1.contains(&Cell::new(1, 0)) && !report.cells[0].1.contains(&Cell::new(0, 3)));
    let never = report.never.as_ref().unwrap();
    assert!(never.contains(&Cell::new(0, 3)) && never.contains(&Cell::new(1, 3)), "{never:?}");
    assert!(!never.contains(&Cell::new(0, 0)), "a wall is never free");
    let lines: Vec<String> = report.unused.iter().flatten().map(|rule| rule.at(&book).text.clone()).collect();
    assert_eq!(lines, ["box into gap", "ada into cog", "when box on gap"]);
    let gone = report.no_way_back.as_ref().unwrap();
    let spoilt = replayed(&book, gone.tape.as_ref().unwrap());
    assert_eq!(searched_from(&spoilt).report().win.possible, Some(false));
}

fn searched_from(game: &Session) -> Proof {
    prove(game.grid(), Some(game.grid()), &Inputs::all(game.grid()), Ask::All, Limits::default(), &Alone)
}

#[test]
fn a_search_from_a_moment_knows_that_moment_alone() {
    let book = yard(ARROWS, "ada into box: shove\nwin when count box on mat > 0", "A.B.m\n.....");
    let game = replayed(&book, &parse_inputs("right right").unwrap());
    let proof = searched_from(&game);
    assert_eq!(words(proof.report().win.tape.as_ref()).as_deref(), Some("right"));
    let mut whole = searched(&book);
    assert_eq!(whole.to_win(game.grid()), Some(ToWin::In(1)), "the same state, found again");
    let moves: Vec<(String, ToWin)> =
        whole.moves(game.grid()).iter().map(|found| (found.input.to_string(), found.to_win)).collect();
    assert_eq!(moves[..2], [("left".into(), ToWin::In(2)), ("right".into(), ToWin::In(0))]);
}

#[test]
fn inputs_are_those_that_are_heard_in_their_order() {
    let touch = "on tap box: turn tapped into cog\non drag box to mat: remove dragged\non key \"9\": step ada east\n\
                 on key \"b\": step ada west\non key alt: step ada west\neach beat: step box east";
    let book = yard(&format!("timer beat 100 ms\n{ARROWS}"), touch, "AB \n.m.");
    let game = begun(&book);
    let all = Inputs::all(game.grid());
    assert_eq!(all.words().join(" "), "left right up down alt key:b key:9 tap drag wait");
    // Five cells; drags between neighbours in reading order, each to the west, east, north, south; none over the void.
    assert_eq!(all.len(), 7 + 5 + 10 + 1);
    let some = Inputs::named(game.grid(), "wait tap:1,0 drag:0,1>1,1 left").unwrap();
    assert_eq!(some.words().join(" "), "left tap:1,0 drag:0,1>1,1 wait");
    let all_taps = Inputs::named(game.grid(), "tap tap:1,0").unwrap();
    assert_eq!((all_taps.words().join(" "), all_taps.len()), ("tap".into(), 5));
    for word in
        ["undo", "restart", "next", "wait:300", "jump", "key:c", "tap:2,0", "tap:9,9", "drag:0,0>1,1", "act", ""]
    {
        assert!(Inputs::named(game.grid(), word).is_err(), "{word}");
    }
    assert!(matches!(Inputs::named(game.grid(), "up act"), Err(InputsError::Unheard(word, _)) if word == "act"));
}
