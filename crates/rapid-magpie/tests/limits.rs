//! Small inputs that ask for a great deal: every one is answered within one gigabyte of memory, and `docs/limits.md` names
//! every limit.
#![allow(clippy::unwrap_used)]

mod support;

use std::fmt::Write as _;
use std::path::Path;
use std::process::Command;
use support::PROGRAM;

/// Address space that a command gets, in KiB: a gigabyte, and room for the program itself.
const MEMORY: u32 = 1_200_000;

const HEAD: &str = "game \"Yard\"\ncell 10 px\nkinds\n  ada A body\n  plank . floor\ncounter n\ntimer t 1 ms\n";
const MAP: &str = "map \"One\"\n  A__\n";

/// Runs a command on a rulebook within [`MEMORY`]; its exit code and the end of what it said.
fn within(rulebook: &str, tape: Option<&str>, arguments: &[&str]) -> (i32, String, String) {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("a.magpie"), rulebook).unwrap();
    if let Some(tape) = tape {
        std::fs::write(folder.path().join("a.jsonl"), tape).unwrap();
    }
    let output = Command::new("sh")
        .args(["-c", &format!("ulimit -v {MEMORY}; exec \"$0\" \"$@\""), PROGRAM])
        .args(arguments)
        .current_dir(folder.path())
        .output()
        .unwrap();
    let end = |bytes: &[u8]| String::from_utf8_lossy(&bytes[bytes.len().saturating_sub(400)..]).into_owned();
    let code = output.status.code().unwrap_or(-1);
    (code, end(&output.stdout), end(&output.stderr))
}

fn lines(count: usize, line: impl Fn(usize) -> String) -> String {
    (0..count).fold(String::new(), |mut all, number| {
        let _ = writeln!(all, "{}", line(number));
        all
    })
}

/// A rulebook, and how checking it ends.
fn checked(rulebook: &str, code: i32, said: &str) {
    let (found, end, wrong) = within(rulebook, None, &["check", "a.magpie"]);
    assert!(found == code && end.contains(said), "{found}: {end}{wrong}");
}

#[test]
fn checking_a_file_of_nothing_but_mistakes_counts_them() {
    checked(&"x\n".repeat(1_500_000), 1, "1500000 mistakes");
    checked(&format!("{HEAD}{MAP}rules\n{}", " x\n".repeat(800_000)), 1, "800000 mistakes");
}

#[test]
fn checking_takes_what_the_file_takes_and_not_its_square() {
    let groups = lines(60_000, |n| if n == 0 { "group g0 = ada".into() } else { format!("group g{n} = g{}", n - 1) });
    checked(&format!("{HEAD}{groups}{MAP}"), 0, "0 mistakes");
    let unknown = lines(30_000, |n| format!("  kond{n} into kynd{n}: stop"));
    checked(&format!("{HEAD}{MAP}rules\n{unknown}"), 1, "60000 mistakes");
    let timers = lines(60_000, |n| format!("timer t{n} 10 ms"));
    let rules = lines(60_000, |n| format!("  each t{n}: fall ada south"));
    checked(&format!("{HEAD}{timers}{MAP}rules\n{rules}"), 0, "0 mistakes");
    let numbers = lines(100_000, |n| format!("number {n} = ada"));
    checked(&format!("{HEAD}{MAP}{numbers}"), 0, "0 mistakes");
    let shapes = lines(60_000, |n| format!("  s{n}\n    X"));
    checked(&format!("{HEAD}{MAP}shapes of ada\n{shapes}"), 0, "0 mistakes");
}

#[test]
fn checking_large_statements_and_maps_stays_within_memory() {
    let sum = format!("  win when {}\n", vec!["n = 1"; 2400].join(" or "));
    checked(&format!("{HEAD}{MAP}rules\n{}", sum.repeat(150)), 0, "0 mistakes");
    let inputs = format!("  inputs {}\n", "up ".repeat(5000));
    checked(&format!("{HEAD}{MAP}scenario \"S\"\n{}", inputs.repeat(300)), 0, "0 mistakes");
    // One long row and two thousand blank ones, four hundred times.
    let wide = format!("{}\n{}", format_args!("  {}", "A".repeat(2000)), "  _\n".repeat(2046));
    let maps = lines(400, |n| format!("map \"M{n}\"\n{}", wide.trim_end()));
    checked(&format!("{HEAD}{maps}"), 1, "1 mistake, ");
}

#[test]
fn playing_without_end_ends() {
    let beat = format!("{HEAD}{MAP}rules\n  each t: add 1 to n\n");
    let (code, end, wrong) =
        within(&beat, None, &["play", "a.magpie", "--inputs", "wait:86400000 wait:86400000", "--json"]);
    assert!(code == 0 && end.contains("2000000"), "{code}: {end}{wrong}");
    let tape = "{\"magpie-tape\":1,\"rulebook\":\"a.magpie\"}\n{\"at\":0,\"input\":\"right\"}\n{\"at\":1000000000000000000,\"input\":\"right\"}\n";
    let (code, end, wrong) = within(&beat, Some(tape), &["play", "a.magpie", "--tape", "a.jsonl"]);
    assert!(code == 3 && end.contains("turns 1 ") && wrong.contains("too-long"), "{code}: {end}{wrong}");
    let far = format!("{HEAD}{MAP}rules\n  ada into edge: wrap\n  on key act: step every ada east by 1000000\n");
    let (code, end, wrong) = within(&far, None, &["play", "a.magpie", "--inputs", "act", "--show", "ledger", "--json"]);
    assert!(code == 0 && end.contains("\"untold\": 990000"), "{code}: {end}{wrong}");
}

#[test]
fn large_boards_are_told_and_left_within_memory() {
    let large = format!("{HEAD}map \"Large\" 1024 x 1024 of plank\ncontrol ada with arrows\n");
    let (code, end, wrong) = within(&large, None, &["play", "a.magpie", "--json"]);
    assert!(code == 0 && end.trim_end().ends_with('}'), "{code}: {end}{wrong}");
    let again = "restart ".repeat(60);
    let (code, end, wrong) = within(&large, None, &["play", "a.magpie", "--inputs", again.trim_end()]);
    assert!(code == 0 && end.contains("turns 0"), "{code}: {end}{wrong}");
}

#[test]
fn every_input_of_a_long_tape_is_shown_in_time() {
    let tape = format!(
        "{{\"magpie-tape\":1,\"rulebook\":\"a.magpie\"}}\n{}",
        "{\"at\":0,\"input\":\"act\"}\n".repeat(100_000)
    );
    let book = format!("{HEAD}{MAP}");
    let (code, end, wrong) = within(&book, Some(&tape), &["play", "a.magpie", "--tape", "a.jsonl", "--show", "all"]);
    assert!(code == 0 && end.contains("turn 100000: act"), "{code}: {end}{wrong}");
}

#[test]
fn a_row_of_a_batch_has_an_end() {
    let book = format!("{HEAD}{MAP}");
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("a.magpie"), book).unwrap();
    let batch = |name: &str, text: &str| {
        std::fs::write(folder.path().join(name), text).unwrap();
        support::run(folder.path(), &["convert", "a.magpie", "--batch", name])
    };
    let (code, told, _) = batch("a.csv", &format!("x,y,note\n1,2,{}\n", "n".repeat(1_000_000)));
    assert!(code == 0 && told.ends_with(",0,0,0,cell,5,5\n"), "{code}");
    let (code, told, wrong) =
        batch("b.csv", &format!("x,y,note\n1,2,good\n1,2,{}\n3,4,never\n", "n".repeat(1_200_000)));
    assert!(code == 2 && wrong.contains("line 3") && wrong.contains("1 MiB"), "{code}: {wrong}");
    assert!(told.contains("1,2,good,0,0,0,cell,5,5\n"), "what came before is answered: {told}");
}

/// Every limit of the three crates stands in the list with its name and its value, and the list names no other.
#[test]
fn the_list_of_limits_is_the_code_s() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let page = std::fs::read_to_string(root.join("docs/limits.md")).unwrap();
    let row = |line: &str| -> Option<(String, String)> {
        let mut fields = line.strip_prefix("| `")?.split("` | `");
        Some((fields.next()?.into(), fields.next()?.split('`').next()?.into()))
    };
    let mut listed: Vec<(String, String)> = page.lines().filter_map(row).collect();
    let declaration = |line: &str| -> Option<(String, String)> {
        let (name, value) = line.strip_prefix("pub const ")?.split_once(": ")?;
        let value = value.split_once(" = ")?.1.trim_end_matches(';');
        // Tests get to some limits sooner; the list has what everybody else gets.
        let value = value.split_once("else { ").map_or(value, |(_, usual)| usual.trim_end_matches(" }"));
        Some((name.into(), value.into()))
    };
    let mut declared = Vec::new();
    for name in ["magpie-core", "magpie-draw", "rapid-magpie"] {
        let source = std::fs::read_to_string(root.join("crates").join(name).join("src/limits.rs")).unwrap();
        declared.extend(source.lines().filter_map(declaration));
    }
    listed.sort();
    declared.sort();
    assert_eq!(listed, declared, "docs/limits.md and the code");
    assert!(declared.len() > 50, "{declared:?}");
}
