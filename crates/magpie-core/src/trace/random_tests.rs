//! Random rulebooks and random mistakes: a right program is never called wrong, a wrong one never right, and what is said to
//! explain it does.

use super::tests::{ARROWS, compared, log_of, report, yard};
use super::{Explained, Fault, Header, Plan, Program, Tongue, drive};
use crate::grid::{Grid, Nobody};
use crate::input::Input;
use crate::mishap::{Played, Slipped, Sort, slips_of};
use crate::proof::Inputs;
use crate::rulebook::Rulebook;
use proptest::prelude::*;
use serde_json::Value;
use std::collections::VecDeque;
use std::sync::Arc;

/// How far the boards of these tests go on beyond their edges: farther than anybody walks.
const REACH: u32 = 12;

fn books() -> impl Strategy<Value = Arc<Rulebook>> {
    let rules = vec![
        "ada into box: shove",
        "ada into cog: shove",
        "box into box: shove up to 1",
        "box into cog: swap",
        "ada into tile: take",
        "ada into mat if count box = 0: stop",
        "box into mat: perish",
        "ada into edge: wrap",
        "on key act: step every box east",
        "on key act if count cog > 0: turn every cog into tile",
        "each turn: step every cog toward the ada",
        "when row full of box: clear, drop above",
        "when run of 2 same cog in columns: clear",
        "win when count box on mat > 0",
        "lose when count tile = 0",
    ];
    let glyph = prop::sample::select(vec!['.', '.', '.', 'B', 'B', 'C', 'T', '#', 'm', ' ']);
    let rows = prop::collection::vec(prop::collection::vec(glyph, 4), 3);
    (rows, prop::sample::subsequence(rules, 1..6)).prop_map(|(rows, rules)| {
        let mut rows: Vec<String> = rows.into_iter().map(|row| row.into_iter().collect()).collect();
        rows[1].replace_range(1..2, "A");
        yard(ARROWS, &rules.join(";"), &rows.join("/"))
    })
}

fn inputs(most: usize) -> impl Strategy<Value = String> {
    let word = prop::sample::select(vec!["left", "right", "up", "down", "act"]);
    prop::collection::vec(word, 1..most).prop_map(|words| words.join(" "))
}

/// A mistake of a game, not of how it is told.
fn a_mistake(book: &Rulebook, pick: prop::sample::Index) -> Slipped {
    let all: Vec<Slipped> = slips_of(book).into_iter().filter(|slipped| slipped.slip.sort() != Sort::Telling).collect();
    all[pick.index(all.len())].clone()
}

/// A program in memory that plays with a mistake, and may remember something of what it has played before.
struct Made<'b> {
    book: &'b Rulebook,
    played: Played,
    grid: Grid,
    said: VecDeque<String>,
    /// Every so many inputs, counted over all sequences, the right answer is told wrong.
    falters: Option<u32>,
    heard: u32,
}

impl<'b> Made<'b> {
    fn new(book: &'b Arc<Rulebook>, slipped: &[Slipped]) -> Self {
        let played = Played::with(book, slipped, REACH);
        let grid = Self::begun(&played);
        Self { book, played, grid, said: VecDeque::new(), falters: None, heard: 0 }
    }

    fn begun(played: &Played) -> Grid {
        Grid::with_switches(played.book.clone(), 0, None, (played.switches, None), &mut Nobody).unwrap()
    }

    /// Plays a sequence from the start; what is told at the end of each input.
    fn told(&mut self, inputs: &[Input]) -> Vec<String> {
        self.grid = Self::begun(&self.played);
        let mut told = vec![report(self.book, &self.grid, None)];
        for input in inputs {
            self.grid.input(&self.played.heard(input), &mut Nobody);
            told.push(report(self.book, &self.grid, Some(input)));
        }
        told
    }
}

impl Program for Made<'_> {
    fn send(&mut self, line: &str) -> Result<(), Fault> {
        let line: Value = serde_json::from_str(line).unwrap();
        let input: Input = line["input"].as_str().unwrap().parse().unwrap();
        if input == Input::Restart {
            self.grid = Self::begun(&self.played);
            self.said.push_back(report(self.book, &self.grid, None));
            return Ok(());
        }
        self.heard += 1;
        self.grid.input(&self.played.heard(&input), &mut Nobody);
        let told = report(self.book, &self.grid, Some(&input));
        let is_wrong = self.falters.is_some_and(|every| self.heard.is_multiple_of(every));
        self.said.push_back(if is_wrong { told.replace("\"cell\":[", "\"cell\":[7") } else { told });
        Ok(())
    }

    fn receive(&mut self) -> Result<String, Fault> {
        self.said.pop_front().ok_or(Fault::Silent)
    }

    fn respawn(&mut self) -> Result<(), Fault> {
        self.heard = 0;
        self.grid = Self::begun(&self.played);
        Ok(())
    }

    fn is_halted(&self) -> bool {
        false
    }
}

const PLAN: Plan = Plan { start: Header { map: None, seed: None }, runs: 20, seed: 5, respawn: false, within: 0.01 };

fn entered(book: &Arc<Rulebook>) -> Grid {
    Grid::new(book.clone(), 0, None, &mut Nobody).unwrap()
}

/// The shortest sequences after which two programs say different things, as long as they may be.
fn parts_within(book: &Arc<Rulebook>, wrong: &mut Made, most: usize) -> Option<usize> {
    let mut right = Made::new(book, &[]);
    let all: Vec<Input> = ["left", "right", "up", "down", "act"].map(|word| word.parse().unwrap()).to_vec();
    let heard = |input: &&Input| matches!(input, Input::Key(key) if book.uses_key(key));
    let all: Vec<&Input> = all.iter().filter(heard).collect();
    let mut level: Vec<Vec<Input>> = vec![Vec::new()];
    for length in 0..=most {
        if level.iter().any(|tape| right.told(tape) != wrong.told(tape)) {
            return Some(length);
        }
        let longer = |tape: &Vec<Input>| {
            all.iter().map(|input| tape.iter().chain([*input]).cloned().collect()).collect::<Vec<Vec<Input>>>()
        };
        level = level.iter().flat_map(longer).collect();
    }
    None
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn a_log_differs_in_the_line_in_which_it_does_and_what_was_done_wrong_explains_it(
        book in books(),
        pick in any::<prop::sample::Index>(),
        inputs in inputs(11),
    ) {
        let wrong = a_mistake(&book, pick);
        let (right, _) = log_of(&book, &[], &inputs);
        let (log, _) = log_of(&book, std::slice::from_ref(&wrong), &inputs);
        let found = compared(&book, &Tongue::default(), &right).unwrap();
        prop_assert!(found.first.is_none() && found.mishaps.is_empty(), "the right one");
        let found = compared(&book, &Tongue::default(), &log).unwrap();
        let differs = right.lines().zip(log.lines()).position(|(right, log)| right != log);
        prop_assert_eq!(found.first.as_ref().map(|first| first.line), differs.map(|at| at + 1), "{}", wrong.slip.id());
        if differs.is_some() {
            let whole = found.mishaps.iter().filter(|mishap| mishap.is_whole);
            let names: Vec<&str> = whole.clone().flat_map(Explained::made).map(|made| made.slip.id()).collect();
            prop_assert!(whole.clone().any(|mishap| mishap.slipped == wrong), "{}: {names:?}\n{log}", wrong.slip.id());
            for mishap in whole.filter(|mishap| mishap.slipped.slip.sort() != Sort::Telling && mishap.with.is_none()) {
                let (again, _) = log_of(&book, std::slice::from_ref(&mishap.slipped), &inputs);
                prop_assert_eq!(&again, &log, "{} is said to explain it", mishap.slipped.slip.id());
            }
        }
    }

    #[test]
    fn one_word_told_wrong_is_found_where_it_stands(
        book in books(),
        inputs in inputs(11),
        at in any::<prop::sample::Index>(),
        east in prop::sample::select(vec![-1_i64, 1, 2]),
    ) {
        let (right, _) = log_of(&book, &[], &inputs);
        let mut lines: Vec<Value> = right.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
        let at = at.index(lines.len());
        prop_assume!(!lines[at]["cell"].is_null());
        let column = lines[at]["cell"][0].as_i64().unwrap();
        lines[at]["cell"][0] = (column + east).into();
        let text = lines.iter().map(Value::to_string).collect::<Vec<_>>().join("\n");
        let found = compared(&book, &Tongue::default(), &text).unwrap();
        prop_assert_eq!(found.first.as_ref().map(|first| first.line), Some(at + 1));
        prop_assert_eq!(found.alike, at, "all before it are alike");
    }

    #[test]
    fn a_wrong_program_is_never_called_right_nor_a_right_one_wrong(book in books(), pick in any::<prop::sample::Index>()) {
        let entered = entered(&book);
        let inputs = Inputs::all(&entered);
        let right = drive(&book, &Tongue::default(), &PLAN, (&entered, &inputs), &mut Made::new(&book, &[]));
        prop_assert!(right.is_same() && !right.is_cut, "{:?}", right.first);
        prop_assert!(right.pairs_of.is_none_or(|all| right.pairs <= all));

        let wrong = a_mistake(&book, pick);
        let mut program = Made::new(&book, std::slice::from_ref(&wrong));
        let found = drive(&book, &Tongue::default(), &PLAN, (&entered, &inputs), &mut program);
        prop_assert_eq!(&found.fault, &None);
        let shortest = parts_within(&book, &mut program, 3);
        let Some(tape) = &found.tape else {
            prop_assert_eq!(shortest, None, "{} can be told in so many inputs", wrong.slip.id());
            return Ok(());
        };
        let mut model = Made::new(&book, &[]);
        let mut differs = |tape: &[Input]| model.told(tape) != program.told(tape);
        prop_assert!(differs(tape), "{} differs in {tape:?}", wrong.slip.id());
        prop_assert!(shortest.is_none_or(|shortest| tape.len() >= shortest));
        for from in 0..tape.len() {
            let without: Vec<Input> = tape[..from].iter().chain(&tape[from + 1..]).cloned().collect();
            prop_assert!(!differs(&without), "nothing can be left out of {tape:?}");
        }
        let whole: Vec<_> = found.mishaps.iter().filter(|mishap| mishap.is_whole).collect();
        prop_assert!(whole.iter().any(|mishap| mishap.slipped == wrong), "{}: {whole:?}", wrong.slip.id());
    }

    /// A program that tells every so many answers wrong is not the same twice; it is never called right.
    #[test]
    fn a_program_that_falters_is_called_unsteady_or_wrong(book in books(), every in 2_u32..9) {
        let entered = entered(&book);
        let inputs = Inputs::all(&entered);
        let mut program = Made { falters: Some(every), ..Made::new(&book, &[]) };
        let found = drive(&book, &Tongue::default(), &PLAN, (&entered, &inputs), &mut program);
        prop_assert!(!found.is_same());
        let named = matches!(found.fault, Some(Fault::Unsteady | Fault::Restart)) || found.first.is_some();
        prop_assert!(named, "{:?}", found.fault);
    }
}
