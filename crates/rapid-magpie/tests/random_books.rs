//! Commands on random rulebooks: none crashes, all of them speak of the same game.
#![allow(clippy::unwrap_used)]

mod support;

use serde_json::{Value, json};
use std::path::Path;
use support::oracle::Oracle;
use support::random_books::{Dice, random_book};
use support::run;

/// Rulebooks that are tried.
const BOOKS: usize = 8;

/// A rulebook in a folder of its own, and inputs for it.
struct Tried {
    folder: tempfile::TempDir,
    text: String,
    inputs: String,
}

impl Tried {
    fn new(number: u64) -> Self {
        let mut dice = Dice(0x9e37_79b9_7f4a_7c15 ^ (number + 1).wrapping_mul(0x2545_f491_4f6c_dd1d));
        // Rules that keep each other busy take long to be found out; other tests are about `when`.
        let settles = |text: &str| !text.lines().any(|line| line.trim_start().starts_with("when "));
        let text = std::iter::repeat_with(|| random_book(&mut dice).0).find(|text| settles(text)).unwrap();
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join("yard.magpie"), &text).unwrap();
        let words = ["left", "right", "up", "down", "act", "key:b", "tap:1,1", "drag:1,1>2,1", "undo", "restart"];
        let inputs: Vec<&str> = (0..14).map(|_| words[dice.below(words.len())]).collect();
        Self { folder, text, inputs: inputs.join(" ") }
    }

    fn path(&self) -> &Path {
        self.folder.path()
    }

    /// Runs a command on the rulebook; it ends with one of these codes, or the test fails.
    fn run(&self, command: &str, more: &[&str], codes: &[i32]) -> String {
        let (code, output, errors) = run(self.path(), &[&[command, "yard.magpie"], more].concat());
        assert!(
            codes.contains(&code) && !errors.contains("panicked"),
            "{command} {more:?}: {code}\n{errors}\n{output}\n{}",
            self.text
        );
        output
    }

    fn json(&self, command: &str, more: &[&str], codes: &[i32]) -> Value {
        let output = self.run(command, &[more, &["--json"]].concat(), codes);
        serde_json::from_str(&output).unwrap_or_else(|error| panic!("{command} {more:?}: {error}\n{output}"))
    }

    /// What `play` says of the state after some inputs, the answers aside.
    fn state(&self, more: &[&str]) -> Value {
        let mut state = self.json("play", more, &[0]);
        state.as_object_mut().unwrap().remove("answers");
        state
    }
}

fn all() -> impl Iterator<Item = Tried> {
    (0..BOOKS as u64).map(Tried::new)
}

#[test]
fn commands_that_look_at_a_rulebook_take_any() {
    for tried in all() {
        tried.run("check", &[], &[0]);
        tried.run("test", &[], &[0]);
        tried.json("convert", &["px:30,40", "cell:1,1"], &[0]);
        tried.json("measure", &["--headings"], &[0]);
        tried.json("pace", &["--cells", "3"], &[0]);
        tried.run("pace", &["--gaps"], &[0, 1, 2]);
        for what in ["board", "probe", "pace", "meetings", "story"] {
            tried.run("draw", &["--what", what, "--out", "sheet.svg"], &[0]);
            let sheet = std::fs::read_to_string(tried.path().join("sheet.svg")).unwrap();
            assert!(sheet.starts_with("<svg") && sheet.trim_end().ends_with("</svg>"), "{what}");
        }
        tried.run("drive", &["--runs", "2", "--plan", "plan.jsonl"], &[0]);
        tried.run("play", &["--tape", "plan.jsonl"], &[0]);
    }
}

#[test]
fn a_rulebook_that_is_laid_out_anew_is_the_same_game() {
    for tried in all() {
        let inputs = ["--inputs", &tried.inputs, "--record", "tape.jsonl"];
        let before = tried.state(&inputs);
        assert_eq!(tried.state(&["--tape", "tape.jsonl"]), before, "the tape plays the same\n{}", tried.text);
        tried.run("fmt", &[], &[0]);
        tried.run("fmt", &["--check"], &[0]);
        assert_eq!(tried.state(&inputs[..2]), before, "{}", tried.text);
    }
}

#[test]
fn what_is_proved_is_played_and_what_is_played_is_no_difference() {
    let mut proved = 0;
    for tried in all() {
        let found = tried.json("prove", &["--states", "400"], &[0, 1, 3]);
        for (answer, outcome) in [("win", "won"), ("lose", "lost")] {
            let Some(tape) = found[answer]["tape"].as_array() else { continue };
            let inputs: Vec<&str> = tape.iter().map(|input| input.as_str().unwrap()).collect();
            let state = tried.state(&["--inputs", &inputs.join(" ")]);
            let next = state["map"] != json!(1);
            assert!(state["outcome"] == outcome || next, "{answer} {inputs:?}: {state}\n{}", tried.text);
            proved += 1;
        }
        // The log of a program that is right.
        let mut log = Vec::new();
        let words: Vec<&str> = tried.inputs.split(' ').collect();
        for count in 0..=words.len() {
            let state = tried.state(&["--inputs", &words[..count].join(" ")]);
            let mut line = json!({ "board": state["board"], "outcome": state["outcome"] });
            if count > 0 {
                line["input"] = words[count - 1].into();
            }
            log.push(line.to_string());
        }
        std::fs::write(tried.path().join("moves.jsonl"), log.join("\n")).unwrap();
        let compared = tried.json("compare", &["moves.jsonl"], &[0]);
        assert!(compared["first"].is_null(), "{compared}\n{log:?}\n{}", tried.text);
    }
    assert!(proved >= 4, "some of the rulebooks are won or lost: {proved}");
}

#[test]
fn the_oracle_says_what_play_says() {
    let first = Tried::new(0);
    let mut oracle = Oracle::of(first.path(), "yard.magpie");
    for tried in all() {
        oracle.call("load", json!({ "text": tried.text }));
        for input in tried.inputs.split(' ') {
            oracle.call("input", json!({ "input": input }));
        }
        let state = oracle.call("state", json!({}));
        let right = tried.state(&["--inputs", &tried.inputs]);
        assert_eq!(state, right, "{}\n{}", tried.inputs, tried.text);
    }
    assert_eq!(oracle.ends(), 0);
}
