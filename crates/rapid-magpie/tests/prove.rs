//! `prove` on files: what it says, what it writes, and how it ends.
#![allow(clippy::unwrap_used)]

mod support;

use serde_json::{Value, json};
use std::path::Path;
use support::{demos, run};

/// A corridor with a corner in which the box is stuck, and a second map that nothing wins.
const STORE: &str = "game \"Store\"\ncell 10 px\nkinds\n  slat . floor\n  bay m mark\n  man M body\n  box c body\n  wall # body\nground slat\n\
                     map \"One\"\n  #....#\n  #.Mc.m\n  ##...#\nmap \"Two\"\n  M#m\ncontrol man with arrows\nrules\n  man into box: shove\n  \
                     box into wall: stop  // as ever\n  on key act: signal \"here\"\n  on key alt: next map\n  win when count box on bay > 0\n  \
                     always count\n    man = 1\n";

fn folder(files: &[(&str, &str)]) -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    for (name, text) in files {
        std::fs::write(folder.path().join(name), text).unwrap();
    }
    folder
}

fn proved(folder: &Path, arguments: &[&str]) -> (i32, Value) {
    let (code, output, errors) = run(folder, &[&["prove"], arguments, &["--json"]].concat());
    (code, serde_json::from_str(&output).unwrap_or_else(|error| panic!("{error}: {output}{errors}")))
}

#[test]
fn one_map_is_told_in_json_and_in_words() {
    let folder = folder(&[("a.magpie", STORE)]);
    let (code, found) = proved(folder.path(), &["a.magpie"]);
    assert_eq!(code, 0);
    let keys: Vec<&String> = found.as_object().unwrap().keys().collect();
    let names = "map inputs states edges depth levels complete limit win lose stuck never_settles promises no_way_back dead_cells cells \
                 never unused";
    assert_eq!(keys, names.split(' ').collect::<Vec<_>>());
    assert_eq!(found["inputs"], json!(["left", "right", "up", "down", "act"]), "`alt` is another name for `next`");
    assert_eq!(found["win"]["tape"], json!(["right", "right"]));
    assert_eq!((&found["win"]["length"], &found["win"]["ways"]), (&json!(2), &json!(1)));
    let levels: u64 = found["levels"].as_array().unwrap().iter().map(|count| count.as_u64().unwrap()).sum();
    assert_eq!(
        (Some(levels), &found["complete"], &found["limit"]),
        (found["states"].as_u64(), &json!(true), &Value::Null)
    );
    assert_eq!(found["promises"], json!([{ "line": 23, "text": "always count man = 1", "holds": true, "tape": null }]));
    assert!(found["dead_cells"]["box"].as_array().unwrap().contains(&json!([1, 0])), "{}", found["dead_cells"]);
    assert!(found["cells"]["man"].as_array().unwrap().contains(&json!([1, 1])));
    let gone = &found["no_way_back"];
    assert_eq!(gone["share"].as_f64(), Some(gone["states"].as_f64().unwrap() / found["states"].as_f64().unwrap()));
    let (code, text, _) = run(folder.path(), &["prove", "a.magpie"]);
    assert_eq!(code, 0);
    for said in [
        "win            2 inputs: right right",
        "✓ line 23: always count man = 1",
        "dead cells     box on",
        "stuck          never",
    ] {
        assert!(text.contains(said), "{said}: {text}");
    }
    // A mark is free of bodies, and the box alone gets there.
    assert_eq!(found["unused"], json!([]), "walls stop the box, and `act` is a rule");
}

#[test]
fn exits_say_whether_the_asked_is_answered() {
    let broken = STORE.replace("always count\n    man = 1", "never count box at column 4 row 1 = 1");
    let never = STORE.replace("  win when count box on bay > 0\n", "");
    let folder = folder(&[("a.magpie", STORE), ("broken.magpie", &broken), ("never.magpie", &never)]);
    let of = |arguments: &[&str]| proved(folder.path(), arguments);
    let (code, found) = of(&["a.magpie", "--map", "2"]);
    assert_eq!((code, &found["win"]["possible"], &found["no_way_back"]), (1, &json!(false), &Value::Null));
    let (code, found) = of(&["broken.magpie", "--ask", "promises"]);
    assert_eq!((code, &found["promises"][0]["tape"], &found["complete"]), (1, &json!(["right"]), &json!(false)));
    assert_eq!(found["limit"], Value::Null, "an answer is no limit");
    assert_eq!(of(&["broken.magpie"]).0, 1, "whatever was asked");
    let (code, found) = of(&["a.magpie", "--ask", "win"]);
    assert_eq!((code, &found["win"]["length"], &found["win"]["forced"]), (0, &json!(2), &Value::Null));
    let (code, found) = of(&["a.magpie", "--states", "3"]);
    assert_eq!(
        (code, &found["states"], &found["limit"], &found["unused"]),
        (3, &json!(3), &json!("states"), &Value::Null)
    );
    assert_eq!(of(&["never.magpie"]).0, 0, "a rulebook that has no win is not told that it has none");
    let (code, found) = of(&["a.magpie", "--inputs", "up left"]);
    assert_eq!((code, &found["inputs"]), (1, &json!(["left", "up"])));
    let (code, found) = of(&["a.magpie", "--map", "all"]);
    let lengths: Vec<&Value> = found.as_array().unwrap().iter().map(|map| &map["win"]["length"]).collect();
    assert_eq!((code, lengths), (1, vec![&json!(2), &Value::Null]));
    let (_, table, _) = run(folder.path(), &["prove", "a.magpie", "--map", "all"]);
    assert!(table.contains("  1      in 2    1"), "{table}");
    assert!(table.contains("  2      none"), "{table}");
}

#[test]
fn a_recorded_tape_wins_and_a_search_begins_where_one_ends() {
    let folder = folder(&[("a.magpie", STORE)]);
    let plays = |tape: &str| run(folder.path(), &["play", "a.magpie", "--tape", tape, "--json"]).1;
    assert_eq!(proved(folder.path(), &["a.magpie", "--record", "win.jsonl"]).0, 0);
    let played: Value = serde_json::from_str(&plays("win.jsonl")).unwrap();
    assert_eq!(played["outcome"], "won");
    let recorded = ["play", "a.magpie", "--inputs", "right", "--record", "begun.jsonl"];
    assert_eq!(run(folder.path(), &recorded).0, 0);
    let (code, found) = proved(folder.path(), &["a.magpie", "--from", "begun.jsonl", "--record", "rest.jsonl"]);
    assert_eq!((code, &found["win"]["tape"]), (0, &json!(["right"])));
    let played: Value = serde_json::from_str(&plays("rest.jsonl")).unwrap();
    assert_eq!((&played["outcome"], &played["turns"]), (&json!("won"), &json!(2)));
}

#[test]
fn wrong_use_is_named() {
    let folder = folder(&[
        ("a.magpie", STORE),
        ("t.jsonl", "{\"magpie-tape\":1,\"rulebook\":\"a.magpie\",\"map\":1,\"seed\":1}\n"),
    ]);
    for (arguments, said) in [
        (&["--map", "all", "--record", "x.jsonl"][..], "neither `--from` nor `--record`"),
        (&["--map", "all", "--from", "t.jsonl"], "neither `--from` nor `--record`"),
        (&["--from", "t.jsonl", "--map", "2"], "the tape is for map 1"),
        (&["--map", "3"], "map"),
        (&["--map", "one"], "`one` is no map"),
        (&["--inputs", "jump"], "`jump` is no input of a search"),
        (&["--inputs", "tap:1,1"], "nothing in the rulebook hears `tap:1,1`"),
        (&["--states", "0"], "0 is not in"),
        (&["--from", "none.jsonl"], "none.jsonl"),
    ] {
        let (code, _, errors) = run(folder.path(), &[&["prove", "a.magpie"], arguments].concat());
        assert!(code == 2 && errors.contains(said), "{arguments:?}: {code} {errors}");
    }
}

#[test]
fn endless_games_end_by_a_limit() {
    let grows = STORE.replace("signal \"here\"", "add 1 to n").replace("always count\n    man = 1", "never n < 0");
    let taps = "game \"Wide\"\ncell 4 px\nkinds\n  mortar . floor\n  damp d mark\nground mortar\nmap \"Wide\" 1000 x 1000 of mortar\nrules\n  \
                on tap: place damp at tapped\n  win when count damp > 9\n";
    let folder = folder(&[("grows.magpie", &grows), ("taps.magpie", taps)]);
    let (code, found) = proved(folder.path(), &["grows.magpie", "--memory", "8"]);
    assert_eq!((code, &found["limit"]), (3, &json!("memory")));
    let begun = std::time::Instant::now();
    let (code, found) = proved(folder.path(), &["taps.magpie", "--seconds", "1"]);
    assert_eq!((code, &found["limit"]), (3, &json!("seconds")), "{} states", found["states"]);
    assert!(begun.elapsed().as_secs() < 30, "a wide board is given up in time");
}

#[test]
fn demos_are_won_as_their_files_say() {
    for (file, said, lengths) in [
        ("cog-loft", "won in 7, 8, 9, 11, 28 and 43 inputs", &[7, 8, 9, 11, 28, 43][..]),
        ("towpath", "won in 16, 21 and 28 inputs", &[16, 21, 28]),
    ] {
        let file = format!("{file}.magpie");
        assert!(std::fs::read_to_string(demos().join(&file)).unwrap().contains(said), "{file}");
        let (code, found) = proved(&demos(), &[&file, "--map", "all"]);
        let maps = found.as_array().unwrap();
        let all: Vec<&Value> = maps.iter().map(|map| &map["win"]["length"]).collect();
        assert_eq!(
            (code, all),
            (0, lengths.iter().map(|length| json!(length)).collect::<Vec<_>>().iter().collect()),
            "{file}"
        );
        assert!(maps.iter().all(|map| map["complete"] == true), "{file}");
    }
    // The way on looks like the first hole: the very first shove spoils it.
    let (_, found) = proved(&demos(), &["cog-loft.magpie", "--map", "5"]);
    assert_eq!(found["no_way_back"]["tape"], json!(["right", "right"]));
}

#[test]
fn every_map_of_the_yard_is_searched_to_its_end_or_a_limit() {
    for entry in std::fs::read_dir(demos()).unwrap() {
        let path = entry.unwrap().path();
        if path.extension().is_none_or(|extension| extension != "magpie") {
            continue;
        }
        let name = path.file_name().unwrap().to_str().unwrap();
        let (code, output, errors) = run(&demos(), &["prove", name, "--map", "all", "--states", "1000", "--json"]);
        let maps: Value = serde_json::from_str(&output).unwrap_or_else(|_| panic!("{name}: {errors}"));
        for map in maps.as_array().unwrap() {
            let is_whole = map["complete"] == json!(true);
            assert_eq!(is_whole, map["limit"].is_null(), "{name}");
            assert!(is_whole || map["states"] == json!(1000), "{name}: {}", map["states"]);
            assert!(is_whole || code == 3, "{name}: {code}");
        }
    }
}
