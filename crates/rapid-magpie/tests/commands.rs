//! The commands on files: output, errors and exit codes.
#![allow(clippy::unwrap_used)]

mod support;

use serde_json::Value;
use std::path::Path;
use support::{demos, run};

const ROOM: &str = "game \"Room\"\ncell 24 x 18 px\nkinds\n  man M body\n  box c body\n  wall # body\nmap \"One\"\n  M_c__#\n  ______\n\
                    control man with arrows\nrules\n  man into box: shove\n  on key act: add 1 to bells, signal \"ding\"\n";

fn folder(files: &[(&str, &str)]) -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    for (name, text) in files {
        std::fs::write(folder.path().join(name), text).unwrap();
    }
    folder
}

fn json(folder: &Path, arguments: &[&str]) -> (i32, Value) {
    let (code, output, errors) = run(folder, arguments);
    let value = serde_json::from_str(&output).unwrap_or_else(|error| panic!("{error}: {output}{errors}"));
    (code, value)
}

#[test]
fn check_tells_people_and_programs() {
    let broken = ROOM.replace("into box", "into bxo");
    let folder = folder(&[("a.magpie", ROOM), ("b.magpie", &broken)]);
    let (code, found) = json(folder.path(), &["check", "a.magpie", "b.magpie", "--format", "json"]);
    assert_eq!(code, 1);
    let expected = serde_json::json!([{
        "file": "b.magpie", "line": 12, "column": 12, "length": 3, "severity": "error", "code": "unknown-name",
        "message": "`bxo` is no kind or group", "help": "did you mean `box`?",
    }]);
    assert_eq!(found, expected);
    let (code, text, _) = run(folder.path(), &["check", "a.magpie"]);
    assert_eq!((code, text.as_str()), (0, "a.magpie: 0 mistakes, 0 warnings\n"));
    let (code, text, _) = run(folder.path(), &["check", "b.magpie"]);
    assert_eq!(code, 1);
    assert!(text.contains("b.magpie:12:12") && text.contains("^^^") && text.contains("did you mean"), "{text}");
    let (code, sarif) = json(folder.path(), &["check", "b.magpie", "--format", "sarif"]);
    assert_eq!((code, &sarif["runs"][0]["results"][0]["ruleId"]), (1, &"unknown-name".into()));
    let (code, found) = json(folder.path(), &["check", "none.magpie", "a.magpie", "--format", "json"]);
    assert_eq!((code, found), (2, serde_json::json!([])));
}

#[test]
fn fmt_rewrites_once_and_leaves_mistakes_alone() {
    let folder = folder(&[("a.magpie", &ROOM.replace("  box c", "  box    c")), ("b.magpie", "gamme")]);
    let (code, names, _) = run(folder.path(), &["fmt", "--check", "a.magpie"]);
    assert_eq!((code, names.as_str()), (1, "a.magpie\n"));
    assert_eq!(run(folder.path(), &["fmt", "a.magpie"]).0, 0);
    assert_eq!(run(folder.path(), &["fmt", "--check", "a.magpie"]).0, 0);
    let (code, _, errors) = run(folder.path(), &["fmt", "b.magpie"]);
    assert!(code == 2 && errors.contains("left alone"), "{errors}");
    assert_eq!(std::fs::read_to_string(folder.path().join("b.magpie")).unwrap(), "gamme");
}

#[test]
fn convert_answers_as_the_formats_say() {
    let folder = folder(&[("a.magpie", ROOM)]);
    let (code, found) = json(folder.path(), &["convert", "a.magpie", "px:101,40", "index:2", "--json"]);
    assert_eq!(code, 0);
    let first = &found["results"][0];
    assert_eq!(first["input"], serde_json::json!({ "space": "world", "x": 101.0, "y": 40.0 }));
    assert_eq!((&first["where"], &first["column"], &first["row"]), (&"outside".into(), &4.into(), &2.into()));
    assert_eq!(first["index"], Value::Null);
    assert_eq!(first["box"], serde_json::json!({ "x": 96.0, "y": 36.0, "w": 24.0, "h": 18.0 }));
    assert_eq!(first["snap"], serde_json::json!({ "column": 4, "row": 1, "x": 108.0, "y": 27.0 }));
    let keys: Vec<&String> = first.as_object().unwrap().keys().collect();
    let second: Vec<&String> = found["results"][1].as_object().unwrap().keys().collect();
    assert_eq!(keys, second, "a result always has the same keys");
    let (code, found) = json(folder.path(), &["convert", "a.magpie", "index:12", "cell:-1,0", "--json"]);
    assert_eq!(code, 1);
    assert_eq!((&found["results"][0]["where"], &found["results"][0]["column"]), (&"outside".into(), &Value::Null));
    assert_eq!(found["results"][1]["column"], -1);
    for wrong in
        [["px:1"].as_slice(), &["win:1,2"], &["px:1e3,2"], &["px:1,2", "--map", "2"], &["px:1,2", "--kind", "none"]]
    {
        let arguments: Vec<&str> = ["convert", "a.magpie"].into_iter().chain(wrong.iter().copied()).collect();
        let (code, output, errors) = run(folder.path(), &arguments);
        assert!(code == 2 && output.is_empty() && !errors.is_empty(), "{wrong:?}");
    }
}

#[test]
fn play_tells_the_state_and_every_answer() {
    let folder = folder(&[("a.magpie", ROOM)]);
    let inputs = "right right right right left act undo act";
    let (code, found) = json(folder.path(), &["play", "a.magpie", "--inputs", inputs, "--json", "--show", "ledger"]);
    assert_eq!(code, 0);
    assert_eq!((&found["turns"], &found["moves"], &found["clock"]), (&6.into(), &4.into(), &0.into()));
    assert_eq!(found["board"], serde_json::json!(["__M_c#", "______"]));
    assert_eq!((&found["counters"]["bells"], &found["signals"]), (&1.into(), &serde_json::json!(["ding"])));
    assert_eq!(found["pieces"][0], serde_json::json!({ "kind": "man", "column": 2, "row": 0, "heading": "west" }));
    let answers = found["answers"].as_array().unwrap();
    assert_eq!(answers.len(), 6, "what was undone is taken out");
    assert_eq!(answers[1]["requests"][0]["shoved"], serde_json::json!([["box", [2, 0], [3, 0]]]));
    let refused = &answers[3]["requests"][0];
    assert_eq!(
        (&refused["granted"], &refused["to"], &refused["from"]),
        (&false.into(), &serde_json::json!([3, 0]), &serde_json::json!([3, 0]))
    );
    assert_eq!((&refused["reason"]["check"], &refused["reason"]["rule"]), (&"meets".into(), &"box into wall".into()));
    let checks: Vec<&str> =
        refused["checks"].as_array().unwrap().iter().map(|check| check["check"].as_str().unwrap()).collect();
    assert_eq!(checks, ["target", "edge", "void", "meets", "target", "edge", "void", "meets"]);
    assert_eq!(answers[3]["board"], serde_json::json!(["___Mc#", "______"]));
    let (_, last) = json(folder.path(), &["play", "a.magpie", "--inputs", "right", "--json"]);
    assert!(last["answers"][0].get("board").is_none() && last["answers"][0]["requests"][0].get("checks").is_none());
    let (_, text, _) = run(folder.path(), &["play", "a.magpie", "--inputs", "right act", "--show", "ledger"]);
    for words in
        ["turn 1: right", "✓ target  man: (0,0) + (1,0) = (1,0)", "signal \"ding\"", "turns 2  moves 1", "bells 1"]
    {
        assert!(text.contains(words), "{words} in\n{text}");
    }
    let (code, _, errors) = run(folder.path(), &["play", "a.magpie", "--inputs", "right rihgt"]);
    assert!(code == 2 && errors.contains("`rihgt` is no input"), "{errors}");
}

/// With the ledger every answer has the same keys, and `entered` stands beside them.
#[test]
fn the_ledger_tells_rules_settling_signals_and_what_entering_did() {
    let rules = "  on start: signal \"hello\"\n  man into box if bells > 0: take\n  man into box: shove\n  when box on bell if bells = 0: add 1 to bells, \
                 place wall here\n  on key act: step box2 east\n  on key alt: add 1 to bells, restart\n"
        .replace("box2", "wall");
    let source = ROOM.split("rules").next().unwrap().replace("  wall # body", "  wall # body\n  bell b mark");
    let source = format!("{}rules\n{rules}", source.replace("M_c__#", "M_cb_"));
    let folder = folder(&[("a.magpie", &source)]);
    let inputs = "right right act alt";
    let (_, found) = json(folder.path(), &["play", "a.magpie", "--inputs", inputs, "--json", "--show", "ledger"]);
    for answer in found["answers"].as_array().unwrap() {
        let keys: Vec<&String> = answer.as_object().unwrap().keys().filter(|key| *key != "notes").collect();
        let wanted = [
            "turn", "input", "board", "counters", "outcome", "requests", "actions", "rules", "settling", "signals",
            "heading", "chosen",
        ];
        assert_eq!(keys, wanted);
    }
    assert_eq!(found["entered"]["rules"][0]["did"], serde_json::json!(["signalled \"hello\""]));
    assert_eq!(found["entered"]["signals"], serde_json::json!(["hello"]));
    let pushed = &found["answers"][1];
    let passed_over = &pushed["requests"][0]["checks"][3];
    let wanted = serde_json::json!({
        "check": "if", "holds": null, "text": "bells > 0: 0 > 0 does not hold", "line": 14, "rule": "man into box",
    });
    assert_eq!(passed_over, &wanted);
    let wanted = serde_json::json!([{
        "pass": 1, "line": 16, "rule": "when box on bell", "matches": 1, "gone": 0, "moved": 0, "made": 0, "turned": 0,
    }]);
    assert_eq!(pushed["settling"][0], wanted[0], "{}", pushed["settling"]);
    assert_eq!(pushed["heading"], "east");
    let nobody = &found["answers"][2]["rules"][0];
    assert_eq!(nobody["did"], serde_json::json!(["refused to step wall: nobody"]));
    let turns: Vec<&Value> = found["answers"].as_array().unwrap().iter().map(|answer| &answer["turn"]).collect();
    assert_eq!(turns, [1, 2, 3, 0]);
    let (_, text, _) = run(folder.path(), &["play", "a.magpie", "--inputs", inputs, "--show", "all"]);
    assert!(text.contains("refused to step wall: nobody"), "{text}");
    assert!(text.contains("turn 4: alt (turns is 0 again)") && text.contains("the map begins again"), "{text}");
    let (_, text, _) = run(folder.path(), &["play", "a.magpie", "--inputs", "undo right"]);
    assert!(text.contains("input 1 `undo` is dropped: nothing to take back"), "{text}");
}

#[test]
fn a_recorded_tape_plays_the_same_and_time_never_goes_back() {
    let folder = folder(&[("a.magpie", ROOM)]);
    let inputs = "right wait:250 right act undo restart right";
    let (_, first) = json(folder.path(), &["play", "a.magpie", "--inputs", inputs, "--json", "--record", "t.jsonl"]);
    let (_, second) = json(folder.path(), &["play", "a.magpie", "--tape", "t.jsonl", "--json"]);
    assert_eq!(first, second);
    let tape = std::fs::read_to_string(folder.path().join("t.jsonl")).unwrap();
    assert!(
        tape.starts_with(
            "{\"magpie-tape\":1,\"rulebook\":\"a.magpie\",\"map\":1,\"seed\":1}\n{\"at\":0,\"input\":\"right\"}\n"
        ),
        "{tape}"
    );
    let wrong = [
        ("", "empty"),
        ("[]\n", "line 1"),
        (
            "{\"magpie-tape\":1,\"rulebook\":\"a\",\"map\":1,\"seed\":1}\n{\"at\":5,\"input\":\"up\"}\n{\"at\":4,\"input\":\"up\"}\n",
            "goes back",
        ),
        ("{\"magpie-tape\":1,\"rulebook\":\"a\",\"map\":9,\"seed\":1}\n", "no map 9"),
        ("{\"magpie-tape\":1,\"rulebook\":\"a\",\"map\":1,\"seed\":1}\n{\"at\":0,\"input\":\"jump\"}\n", "no input"),
    ];
    for (text, words) in wrong {
        std::fs::write(folder.path().join("w.jsonl"), text).unwrap();
        let (code, _, errors) = run(folder.path(), &["play", "a.magpie", "--tape", "w.jsonl"]);
        assert!(code == 2 && errors.contains(words), "{errors}");
    }
}

#[test]
fn test_runs_scenarios_and_tapes() {
    let scenarios = "scenario \"good\"\n  inputs right\n  expect granted\nscenario \"bad\"\n  inputs left\n  expect granted\n  expect won\n";
    let folder = folder(&[("a.magpie", &format!("{ROOM}  never count man at column 2 row 0 > 0\n{scenarios}"))]);
    run(folder.path(), &["play", "a.magpie", "--inputs", "right right", "--record", "walk.jsonl"]);
    let (code, found) = json(folder.path(), &["test", "a.magpie", "--json", "--junit", "out.xml"]);
    assert_eq!((code, &found["passed"], &found["failed"]), (1, &1.into(), &2.into()));
    let cases = &found["files"][0]["cases"];
    assert_eq!((&cases[1]["name"], &cases[1]["failures"][0]["line"]), (&"bad".into(), &20.into()));
    assert!(cases[2]["failures"][0]["message"].as_str().unwrap().contains("does not hold"), "{cases}");
    let junit = std::fs::read_to_string(folder.path().join("out.xml")).unwrap();
    assert!(junit.contains("tests=\"3\"") && junit.contains("failures=\"2\""), "{junit}");
    let (code, text, _) = run(folder.path(), &["test", "a.magpie"]);
    assert!(code == 1 && text.contains("✓ a.magpie: good") && text.contains("1 passed, 2 failed"), "{text}");
}

/// A scenario that fails says both sides of every comparison, shows the board, and says where it has moved on.
#[test]
fn a_failed_scenario_says_both_sides_shows_the_board_and_names_the_map() {
    let scenarios = "  win when count man at column 2 row 0 > 0: next map\n  always bells < 1\nscenario \"S\"\n  map \"One\"\n  inputs right \
                     right\n  expect count box + bells = 7 and not bells > 0\n  expect lost\n  inputs act\n";
    let second = "map \"Two\"\n  __M\ncontrol man";
    let source = format!("{}{scenarios}", ROOM.replace("control man", second));
    let folder = folder(&[("a.magpie", &source)]);
    let (code, text, _) = run(folder.path(), &["test", "a.magpie"]);
    let wanted = "line 21: expected `count box + bells = 7 and not bells > 0`; found 0 = 7 does not hold, 0 > 0 does not hold; the game \
                  has moved on to map 2 \"Two\"\n    __M\n";
    assert!(code == 1 && text.contains(wanted), "{text}");
    assert!(text.contains("line 22: expected lost; found unfinished; the game has moved on to map 2"), "{text}");
    assert!(text.contains("after `act`: `always bells < 1` of line 17 does not hold: 1 < 1 does not hold"), "{text}");
    let (_, found) = json(folder.path(), &["test", "a.magpie", "--json"]);
    let message = found["files"][0]["cases"][0]["failures"][0]["message"].as_str().unwrap();
    assert!(message.ends_with("\n__M"), "{message}");
}

#[test]
fn new_never_overwrites_and_keeps_the_numbers() {
    let folder = folder(&[]);
    let numbers = [
        "new",
        "yard.magpie",
        "--columns",
        "20",
        "--rows",
        "15",
        "--cell",
        "32x24",
        "--origin",
        "40,60",
        "--window",
        "800x600",
    ];
    let (code, _, errors) = run(folder.path(), &numbers);
    assert_eq!(code, 0, "{errors}");
    let (_, found) = json(folder.path(), &["convert", "yard.magpie", "px:41,61", "index:299", "--json"]);
    assert_eq!((&found["results"][0]["column"], &found["results"][1]["row"]), (&0.into(), &14.into()));
    let before = std::fs::read_to_string(folder.path().join("yard.magpie")).unwrap();
    assert_eq!(run(folder.path(), &["new", "yard.magpie"]).0, 2);
    assert_eq!(std::fs::read_to_string(folder.path().join("yard.magpie")).unwrap(), before);
    assert_eq!(run(folder.path(), &["new", "loft.magpie", "--like", "cog-loft"]).0, 0);
    assert_eq!(run(folder.path(), &["test", "loft.magpie"]).0, 0);
    for wrong in [["--cell", "0"], ["--cell", "big"], ["--columns", "2"], ["--like", "nobody"]] {
        let (code, _, errors) = run(folder.path(), &["new", "x.magpie", wrong[0], wrong[1]]);
        assert!(code == 2 && !errors.is_empty() && !folder.path().join("x.magpie").exists(), "{wrong:?}");
    }
    assert_eq!(run(folder.path(), &["fmt", "--check", "yard.magpie"]).0, 1, "spaced comments are laid out anew");
}

#[test]
fn demos_list_and_play_themselves() {
    let folder = folder(&[]);
    let (code, list, _) = run(folder.path(), &["demo", "--list"]);
    assert!(code == 0 && list.contains("cog-loft") && list.contains("towpath"), "{list}");
    let (code, first, errors) = run(folder.path(), &["demo", "--run"]);
    assert_eq!(code, 0, "{first}{errors}");
    let files = |kind: &'static str| {
        let all = std::fs::read_dir(demos()).unwrap().map(|entry| entry.unwrap().path());
        all.filter(move |path| path.extension().is_some_and(|extension| extension == kind))
    };
    let tapes = files("jsonl").count();
    assert_eq!(first.lines().filter(|line| line.contains(", won")).count(), tapes, "{first}");
    assert_eq!(run(folder.path(), &["demo", "--run"]).1, first, "the same every time");
    for path in files("magpie") {
        assert_eq!(run(folder.path(), &["test", path.to_str().unwrap()]).0, 0, "{path:?}");
    }
}

#[test]
fn wrong_use_is_2_and_a_workbench_needs_a_terminal() {
    let folder = folder(&[("a.magpie", ROOM)]);
    for wrong in
        [["frobnicate", "a"].as_slice(), &["check"], &["play", "none.magpie"], &["a.magpie"], &["demo", "nobody"]]
    {
        let (code, _, errors) = run(folder.path(), wrong);
        assert!(code == 2 && !errors.is_empty(), "{wrong:?}: {errors}");
    }
    let (code, script, _) = run(folder.path(), &["completions", "bash"]);
    assert!(code == 0 && script.contains("rapid-magpie"));
}

#[test]
fn hostile_files_are_told_and_nothing_more() {
    let folder = folder(&[]);
    let path = folder.path().join("h.magpie");
    let long = "x".repeat(2_000_000);
    let files: Vec<(&str, Vec<u8>)> = vec![
        ("binary", (0..=255u8).cycle().take(100_000).collect()),
        ("NUL", b"game \"a\0b\"\ncell 4 px\n".to_vec()),
        ("a megabyte line", format!("game \"{long}\n{long}\n").into_bytes()),
        ("a megabyte of words", format!("game \"G\"\nrules\n  {}\n", "a ".repeat(700_000)).into_bytes()),
        ("parentheses", format!("game \"G\"\nrules\n  win when {}\n", "(".repeat(10_000)).into_bytes()),
        ("nots", format!("game \"G\"\nrules\n  win when {}count\n", "not ".repeat(9_000)).into_bytes()),
        ("control characters", "game \"\u{1b}[31mred\u{9b}\"\ncell 4 px\n".as_bytes().to_vec()),
        (
            "a deep board",
            format!("game \"G\"\ncell 1 px\nkinds\n  a a body\nmap \"M\"\n{}", "  a\n".repeat(300_000)).into_bytes(),
        ),
        ("too large", vec![b' '; (16 << 20) + 1]),
        ("empty", Vec::new()),
        (
            "many kinds",
            (0..70_000)
                .fold(String::from("game \"G\"\nkinds\n"), |text, n| text + &format!("  k{n} a body\n"))
                .into_bytes(),
        ),
    ];
    for (name, bytes) in files {
        std::fs::write(&path, bytes).unwrap();
        let start = std::time::Instant::now();
        let (code, text, errors) = run(folder.path(), &["check", "h.magpie"]);
        assert!(matches!(code, 0 | 1), "{name}: {code} {errors}");
        assert!(start.elapsed().as_secs() < 20, "{name} hangs");
        assert!(!text.chars().any(|c| c.is_control() && c != '\n'), "{name}");
    }
}

#[test]
fn a_batch_streams_every_row_with_its_answer() {
    let folder = folder(&[
        ("a.magpie", ROOM),
        ("in.csv", "\u{feff}name,x,y\r\n\"tap, one\",25,1\r\nfar,-1,40\r\nbad,oops,4\r\nlast,0,18\r\n"),
        ("short.csv", "x,y\n1,2\n3\n4,5\n"),
        ("twice.csv", "x,y,x\n1,2,3\n"),
    ]);
    let (code, output, errors) = run(folder.path(), &["convert", "a.magpie", "--batch", "in.csv"]);
    let expected = "name,x,y,column,row,index,where,centre_x,centre_y\n\"tap, one\",25,1,1,0,1,cell,36,9\n\
                    far,-1,40,-1,2,,outside,-12,45\nbad,oops,4,,,,,,\nlast,0,18,0,1,6,cell,12,27\n";
    assert_eq!((code, output.trim_start_matches('\u{feff}')), (2, expected));
    assert!(errors.contains("line 4") && errors.contains("oops"), "{errors}");
    let (code, output, errors) = run(folder.path(), &["convert", "a.magpie", "--batch", "short.csv"]);
    assert!(code == 2 && !output.contains("4,5") && !errors.is_empty(), "{output}{errors}");
    for wrong in [
        ["--batch", "twice.csv"].as_slice(),
        &["--batch", "none.csv"],
        &["--batch", "in.csv", "--json"],
        &["--batch", "in.csv", "--space", "win"],
    ] {
        let arguments: Vec<&str> = ["convert", "a.magpie"].into_iter().chain(wrong.iter().copied()).collect();
        assert_eq!(run(folder.path(), &arguments).0, 2, "{wrong:?}");
    }
}

/// A board of 4 × 3 cells of 16 × 20 px, 40 px from the left and 32 from the top.
const PLATE: &str = "game \"Plate\"\ncell 16 x 20 px\norigin 40, 32 px\nhotspot 3, 0 px\nkinds\n  tin t body, hotspot 0, 0 px\n  \
                     lid l body\nmap \"One\"\n  t___\n  ____\n  ___l\n";

#[test]
fn formula_counts_and_names_what_differs() {
    let folder = folder(&[("a.magpie", PLATE)]);
    let ask = |arguments: &[&str]| json(folder.path(), &[&["formula", "a.magpie", "--json"], arguments].concat());
    let (code, found) = ask(&["--kind", "tin", "--column", "int((x - ox) / cell)", "--row", "Math.floor((y-oy)/h)"]);
    assert_eq!(code, 1);
    assert_eq!((&found["pixels"], &found["x"], &found["y"]), (&9600.into(), &[24, 119].into(), &[12, 111].into()));
    assert_eq!(
        (&found["differ"], &found["column"]["differ"], &found["row"]["differ"]),
        (&1500.into(), &1500.into(), &0.into())
    );
    assert_eq!(found["column"]["first"][0], serde_json::json!({ "x": 25, "y": 12, "right": -1, "got": 0 }));
    assert_eq!((&found["column"]["mishap"], &found["row"]["mishap"]), (&"truncated".into(), &Value::Null));
    let (code, found) = ask(&["--column", "floor((x - ox) / w)"]);
    assert_eq!((code, &found["column"]["mishap"]), (1, &"hotspot-forgotten".into()));
    let (code, found) = ask(&["--index", "row * rows + column", "--inside", "column <= columns", "--let", "TILE=-2.5"]);
    assert_eq!((code, &found["pixels"], &found["x"], &found["differ"]), (1, &Value::Null, &Value::Null, &Value::Null));
    assert_eq!(found["index"]["mishap"], "index-by-height");
    assert_eq!(found["index"]["first"][0], serde_json::json!({ "column": 0, "row": 1, "right": 4, "got": 3 }));
    assert_eq!(found["inside"]["first"][0], serde_json::json!({ "column": -1, "row": -1, "right": 0, "got": 1 }));
    assert!(found["inside"].get("not_whole").is_none() && found["index"].get("not_whole").is_some());
    assert_eq!(ask(&["--row", "-(oy - y) // 20", "--ints"]).0, 0, "an expression may begin with a minus");
    let (code, found) = ask(&["--column", "(x + hx - ox) / 0"]);
    assert_eq!((code, &found["column"]["first"][0]["got"]), (1, &Value::Null));
    assert_eq!(found.as_object().unwrap().keys().collect::<Vec<_>>(), ["pixels", "x", "y", "differ", "column"]);
}

#[test]
fn formula_underlines_what_is_wrong_and_stops_at_limits() {
    let wide = PLATE.replace("map \"One\"\n  t___\n  ____\n  ___l\n", "map \"Wide\" 900 x 900 of tin\n");
    let folder = folder(&[("a.magpie", PLATE), ("wide.magpie", &wide)]);
    let wrong = |arguments: &[&str]| {
        let (code, output, errors) = run(folder.path(), &[&["formula", "a.magpie"], arguments].concat());
        assert_eq!((code, output.as_str()), (2, ""), "{arguments:?}: {errors}");
        errors
    };
    let told = wrong(&["--column", "floor((x - ox) / tile)"]);
    assert!(
        told.contains("`tile` is no name here")
            && told.ends_with("\n  floor((x - ox) / tile)\n                   ^^^^\n"),
        "{told}"
    );
    assert!(wrong(&[]).contains("--column"));
    assert!(wrong(&["--column", "x", "--let", "cell=3"]).contains("`cell` has a meaning of its own"));
    assert!(wrong(&["--column", "x", "--let", "k"]).contains("NAME=NUM"));
    assert!(wrong(&["--column", "x * .5", "--ints"]).contains("whole numbers only"));
    let (code, output, errors) = run(folder.path(), &["formula", "wide.magpie", "--column", "x + y"]);
    assert_eq!((code, output.as_str()), (3, ""));
    assert!(errors.contains("2^24"), "{errors}");
    assert_eq!(run(folder.path(), &["formula", "wide.magpie", "--column", "floor((x + hx - ox) / w)"]).0, 0);
}

#[test]
fn diagnose_names_the_mistake_and_the_next_sample() {
    let kiosk = demos().join("kiosk.magpie");
    let kiosk = kiosk.to_str().unwrap();
    let samples = demos().join("kiosk-samples.csv");
    let folder = folder(&[
        ("a.magpie", PLATE),
        ("cut.txt", "starting\n(37.0, 32.0) -> 0 0\n(20.0, 40.0) -> -1 0\n(36.0, 31.0) -> 0 0\n(66, 91) -> 1 2"),
        ("few.csv", "x,y,column,row\n60,40,1,0\n"),
        ("none.csv", "x,y,column,row\n60,40,77,31\n61,41,-5,8\n62,41,12,8\n"),
    ]);
    let (code, found) = json(folder.path(), &["diagnose", kiosk, samples.to_str().unwrap(), "--json"]);
    assert_eq!((code, &found["samples"], &found["next"]), (1, &12.into(), &Value::Null));
    assert_eq!(found["explanations"].as_array().unwrap().len(), 1);
    let only = &found["explanations"][0];
    assert_eq!(
        (&only["mishap"], &only["space"], &only["axis"]),
        (&"bar-forgotten".into(), &"window".into(), &"both".into())
    );
    assert_eq!(only["numbers"]["gap"], serde_json::json!([10, 16]));
    let (code, text, _) = run(folder.path(), &["diagnose", "a.magpie", "cut.txt"]);
    assert!(code == 1 && text.contains("4 samples: 1 explanation fit\n  truncated "), "{text}");
    let (code, text, _) = run(folder.path(), &["diagnose", "a.magpie", "few.csv"]);
    assert!(code == 0 && text.contains("  correct ") && text.contains("best next sample: px "), "{text}");
    let (code, text, _) = run(folder.path(), &["diagnose", "a.magpie", "none.csv"]);
    assert!(code == 1 && text.contains("no mistake of the catalogue fits"), "{text}");
    let (code, _, errors) = run(folder.path(), &["diagnose", "a.magpie", "a.magpie"]);
    assert!(code == 2 && errors.contains("line"), "{errors}");
}

#[test]
fn draw_writes_svg_and_pdf_and_refuses_the_rest() {
    let wide = PLATE.replace("map \"One\"\n  t___\n  ____\n  ___l\n", "map \"Wide\" 900 x 900 of tin\n");
    let folder = folder(&[("a.magpie", PLATE), ("wide.magpie", &wide)]);
    let draw = |arguments: &[&str]| run(folder.path(), &[&["draw"], arguments].concat());
    assert_eq!(draw(&["a.magpie", "--what", "board", "--out", "a.svg"]), (0, String::new(), String::new()));
    assert_eq!(draw(&["a.magpie", "--what", "probe", "--at", "px:60,50", "--out", "a.pdf"]).0, 0);
    let read = |name: &str| std::fs::read(folder.path().join(name)).unwrap();
    assert!(String::from_utf8(read("a.svg")).unwrap().contains("Plate\u{a0}·\u{a0}One"));
    assert!(read("a.pdf").starts_with(b"%PDF"));
    let (code, _, errors) = draw(&["wide.magpie", "--what", "board", "--out", "w.svg"]);
    assert!(code == 3 && errors.contains("the limit is 40000"), "{errors}");
    for wrong in [
        ["a.magpie", "--what", "board", "--out", "a.png"].as_slice(),
        &["a.magpie", "--what", "probe", "--at", "win:1,1", "--out", "b.svg"],
        &["a.magpie", "--what", "board", "--map", "2", "--out", "b.svg"],
        &["a.magpie", "--what", "board", "--out", "nowhere/b.svg"],
    ] {
        let (code, _, errors) = draw(wrong);
        assert!(code == 2 && !errors.is_empty(), "{wrong:?}");
    }
    assert!(!folder.path().join("w.svg").exists() && !folder.path().join("b.svg").exists());
    let later = PLATE.to_owned() + "rules\n  on tap: flood from tapped into lid\n";
    std::fs::write(folder.path().join("later.magpie"), later).unwrap();
    assert_eq!(draw(&["later.magpie", "--what", "board", "--out", "later.svg"]).0, 0, "drawing needs no rules");
    assert_eq!(read("later.svg"), read("a.svg"));
}

#[test]
fn pace_runs_rates_lists_scripts_and_maps() {
    let paced = format!("{ROOM}pace\n  timed 250 ms, hold continuous\npace box\n  per-frame 5 px, test equal\n");
    let folder = folder(&[("a.magpie", &paced), ("b.magpie", ROOM)]);
    let ask = |arguments: &[&str]| json(folder.path(), &[&["pace", "a.magpie", "--json"], arguments].concat());
    let (code, found) = ask(&["--fps", "144,59.94,60", "--frame-ms", "16,17.5"]);
    assert_eq!((code, &found["kind"]), (0, &"man".into()));
    let runs = found["runs"].as_array().unwrap();
    let rates: Vec<_> = runs.iter().map(|run| (run["fps"].clone(), run["frame_ms"].clone())).collect();
    let list = serde_json::json!([16, 17.5]);
    assert_eq!(
        rates,
        [(144.into(), Value::Null), (59.94.into(), Value::Null), (60.into(), Value::Null), (Value::Null, list)]
    );
    let run = &runs[2];
    assert_eq!(run["mode"], "timed 250 ms");
    let first =
        serde_json::json!({ "t": 0.0, "x": 12.0, "y": 9.0, "column": 1, "row": 0, "progress": 0.0, "state": "moving" });
    assert_eq!(run["frames"][0], first);
    let keys: Vec<&String> = run["figures"].as_object().unwrap().keys().collect();
    let wanted = "frames_per_step ms_per_step nominal_speed mean_speed overshoot error jump inputs_lost refused latency_ms conflicts steps \
                  presses diagonals outcome caught slid touched lined";
    assert_eq!(keys, wanted.split_whitespace().collect::<Vec<_>>());
    assert_eq!(run["figures"]["mean_speed"], 96.0);
    let (code, found) = ask(&["--kind", "box"]);
    assert_eq!((code, &found["runs"][0]["figures"]["outcome"]), (0, &"never lands".into()));
    assert!(found["runs"][0]["notes"][0].as_str().unwrap().contains("3, 4, 6 or 8 do"), "{found}");
    // Stopped by the box that is shoved against the wall: three cells, then the edge of the room.
    let (_, found) = ask(&["--keys", "0:right+ 2000:right- 0:box.left", "--map", "1"]);
    let kinds: Vec<&Value> = found["runs"].as_array().unwrap().iter().map(|run| &run["kind"]).collect();
    assert_eq!(kinds, ["man", "box"]);
    let csv = folder.path().join("out.csv");
    let (code, text, _) = run_pace(folder.path(), &["--cells", "1", "--csv", "out.csv"]);
    assert!(code == 0 && text.contains("man at 60 frames a second: timed 250 ms"), "{text}");
    let table = std::fs::read_to_string(csv).unwrap();
    assert!(
        table.starts_with("kind,fps,frame,t,x,y,column,row,progress,state\nman,60,0,0,12,9,1,0,0,moving\n"),
        "{table}"
    );
    assert_eq!(table.lines().count(), 17);
    for wrong in [
        ["--fps", "0"].as_slice(),
        &["--keys", "0:right+"],
        &["--keys", "0:nobody.right"],
        &["--map", "1"],
        &["--cells", "2", "--keys", "0:right"],
        &["--cells", "0"],
        &["--kind", "nobody"],
        &["--keys", "0:right", "--map", "2"],
    ] {
        let (code, _, errors) = run_pace(folder.path(), wrong);
        assert!(code == 2 && !errors.is_empty(), "{wrong:?}");
    }
    let (code, _, errors) = run_pace(folder.path(), &["--fps", "1000000", "--cells", "40"]);
    assert!(code == 3 && errors.contains("1000000 frames"), "{errors}");
    assert_eq!(json(folder.path(), &["pace", "b.magpie", "--json"]).1["runs"][0]["mode"], "instant");
}

fn run_pace(folder: &Path, arguments: &[&str]) -> (i32, String, String) {
    run(folder, &[&["pace", "a.magpie"], arguments].concat())
}

#[test]
fn timers_fire_in_waits_each_with_its_own_board() {
    let source = ROOM.replace("rules\n", "timer drip 100 ms\nrules\n  each drip: step man east, add 1 to drips\n");
    let folder = folder(&[("a.magpie", &source)]);
    let (code, found) = json(folder.path(), &["play", "a.magpie", "--inputs", "wait:250", "--show", "all", "--json"]);
    assert_eq!((code, &found["turns"], &found["moves"], &found["clock"]), (0, &2.into(), &0.into(), &250.into()));
    let answers = found["answers"].as_array().unwrap();
    let told: Vec<_> = answers.iter().map(|answer| (answer["input"].clone(), answer["board"][0].clone())).collect();
    assert_eq!(told, [("each drip".into(), "_Mc__#".into()), ("each drip".into(), "__Mc_#".into())]);
    assert_eq!(answers[0]["counters"]["drips"], 1);
    let (_, undone) = json(folder.path(), &["play", "a.magpie", "--inputs", "wait:250 undo", "--json"]);
    assert_eq!(
        (&undone["clock"], &undone["board"][0], &undone["answers"]),
        (&0.into(), &"M_c__#".into(), &serde_json::json!([]))
    );
}

/// A slip in a name must not cost the programmer a rulebook, a tape or a list of positions.
#[test]
fn no_command_writes_over_what_it_reads() {
    let folder = tempfile::tempdir().unwrap();
    let tape = "{\"magpie-tape\":1,\"rulebook\":\"room.magpie\"}\n{\"at\":0,\"input\":\"right\"}\n";
    std::fs::write(folder.path().join("room.magpie"), ROOM).unwrap();
    std::fs::write(folder.path().join("room.jsonl"), tape).unwrap();
    for (name, other) in [("room.magpie", "same.magpie"), ("room.magpie", "same.svg"), ("room.jsonl", "tape.svg")] {
        std::fs::hard_link(folder.path().join(name), folder.path().join(other)).unwrap();
    }
    let table: [&[&str]; 6] = [
        &["draw", "room.magpie", "--what", "board", "--out", "same.svg"],
        &["draw", "room.magpie", "--what", "story", "--tape", "room.jsonl", "--out", "tape.svg"],
        &["pace", "room.magpie", "--csv", "./room.magpie"],
        &["play", "room.magpie", "--inputs", "right", "--record", "same.magpie"],
        &["play", "room.magpie", "--tape", "room.jsonl", "--record", "room.jsonl"],
        &["test", "room.magpie", "--junit", "room.magpie"],
    ];
    for arguments in table {
        let (code, _, errors) = run(folder.path(), arguments);
        assert_eq!(code, 2, "{arguments:?}: {errors}");
        assert!(errors.contains("is read here"), "{arguments:?}: {errors}");
        assert_eq!(std::fs::read_to_string(folder.path().join("room.magpie")).unwrap(), ROOM, "{arguments:?}");
        assert_eq!(std::fs::read_to_string(folder.path().join("room.jsonl")).unwrap(), tape, "{arguments:?}");
    }
    // Any other name is written.
    let (code, _, errors) = run(folder.path(), &["play", "room.magpie", "--inputs", "right", "--record", "new.jsonl"]);
    assert_eq!(code, 0, "{errors}");
    assert!(folder.path().join("new.jsonl").exists());
}

#[cfg(unix)]
#[test]
fn pipes_and_devices_are_refused_at_once() {
    let folder = tempfile::tempdir().unwrap();
    for name in ["pipe", "pipe.svg"] {
        assert!(std::process::Command::new("mkfifo").arg(folder.path().join(name)).status().unwrap().success());
    }
    std::fs::write(folder.path().join("room.magpie"), ROOM).unwrap();
    let table: [&[&str]; 6] = [
        &["check", "pipe"],
        &["fmt", "pipe"],
        &["play", "pipe", "--inputs", "right"],
        &["play", "room.magpie", "--tape", "pipe"],
        &["convert", "room.magpie", "--batch", "pipe"],
        &["draw", "room.magpie", "--what", "board", "--out", "pipe.svg"],
    ];
    for arguments in table {
        let (code, _, errors) = run(folder.path(), arguments);
        assert_eq!(code, 2, "{arguments:?}: {errors}");
        assert!(errors.contains("` is no regular file"), "{arguments:?}: {errors}");
    }
}

/// Names from outside are shown without what a terminal would obey, and kept whole, escaped, in JSON.
#[cfg(unix)]
#[test]
fn no_name_reaches_the_terminal_with_control_or_turning_characters() {
    let folder = tempfile::tempdir().unwrap();
    let name = "x\u{1b}[31m\u{9b}7m\u{202e}y.magpie";
    std::fs::write(folder.path().join(name), ROOM.replace("man M body", "man  M  body")).unwrap();
    let wrong = "w\u{1b}[31m\u{202e}.magpie";
    std::fs::write(folder.path().join(wrong), ROOM.replace("box c", "box\u{2066}c")).unwrap();
    let table: [&[&str]; 13] = [
        &["check", name],
        &["check", wrong],
        &["check", wrong, "--format", "json"],
        &["check", name, wrong, "--format", "sarif"],
        &["fmt", "--check", name, wrong],
        &["play", wrong, "--inputs", "right"],
        &["play", "gone\u{1b}[31m\u{202e}", "--inputs", "right"],
        &["play", name, "--inputs", "ri\u{1b}[31m\u{202e}ght"],
        &["test", name],
        &["demo", "a\u{1b}[31m\u{202e}b"],
        &["new", "n\u{1b}[31m\u{202e}.magpie"],
        &["nonsense\u{1b}[31m\u{202e}", "--what\u{9b}"],
        &["play", name, "--show", "a\u{1b}[31m\u{202e}b"],
    ];
    let hidden = |c: char| {
        (c.is_control() && c != '\n')
            || ('\u{202a}'..='\u{202e}').contains(&c)
            || ('\u{2066}'..='\u{2069}').contains(&c)
    };
    for arguments in table {
        let (_, out, errors) = run(folder.path(), arguments);
        assert!(!out.is_empty() || !errors.is_empty(), "{arguments:?} says nothing");
        for text in [&out, &errors] {
            assert!(!text.chars().any(hidden), "{arguments:?}: {text:?}");
        }
        if arguments.contains(&"json") {
            let value: Value = serde_json::from_str(&out).unwrap();
            assert!(value.to_string().contains("w\\u001b[31m\u{202e}.magpie"), "{value}");
        }
    }
}

/// Characters that XML cannot hold come into the report as a mark, and it stays well-formed.
#[test]
fn a_junit_report_is_well_formed_whatever_titles_hold() {
    let odd = "odd \u{ffff}\u{fffe}\u{1fffe}\u{fdd0}]]><&\"title";
    let scenario = format!("scenario \"{}\"\n  inputs up\n  expect won\n", odd.replace('"', ""));
    let folder = folder(&[("a.magpie", &format!("{ROOM}{scenario}"))]);
    let (code, _, errors) = run(folder.path(), &["test", "a.magpie", "--junit", "out.xml"]);
    assert_eq!(code, 1, "{errors}");
    let text = std::fs::read_to_string(folder.path().join("out.xml")).unwrap();
    let allowed =
        |c: char| matches!(c, '\t' | '\n' | '\r' | ' '..='\u{d7ff}' | '\u{e000}'..='\u{fffd}' | '\u{10000}'..);
    assert!(text.chars().all(allowed), "{text:?}");
    assert!(text.contains("odd ") && text.contains("title"), "{text}");
    // Every `&` and `<` of the title is written as what stands for it.
    assert!(!text.contains("]]><&t") && text.contains("&lt;&amp;"), "{text}");
}
