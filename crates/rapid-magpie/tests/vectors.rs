//! `vectors` on the demos: what is written is what the other commands answer.
#![allow(clippy::unwrap_used)]

mod support;

use serde_json::{Value, json};
use std::path::Path;
use support::{demos, run};

fn written(folder: &Path, file: &str, what: &str, more: &[&str]) -> Value {
    let out = folder.join("out.json");
    let path = demos().join(file);
    let arguments = ["vectors", path.to_str().unwrap(), "--for", what, "--out", out.to_str().unwrap()];
    let (code, _, errors) = run(folder, &[&arguments[..], more].concat());
    assert_eq!(code, 0, "{errors}");
    serde_json::from_str(&std::fs::read_to_string(out).unwrap()).unwrap()
}

#[test]
fn vectors_for_positions_are_what_convert_answers() {
    let folder = tempfile::tempdir().unwrap();
    let found = written(folder.path(), "kiosk.magpie", "convert", &[]);
    let keys: Vec<&String> = found.as_object().unwrap().keys().collect();
    assert_eq!(keys, ["for", "rulebook", "map", "vectors", "missed", "same_here"]);
    assert_eq!(
        (&found["for"], &found["rulebook"], &found["missed"]),
        (&json!("convert"), &json!("kiosk.magpie"), &json!([]))
    );
    let vectors = found["vectors"].as_array().unwrap();
    let spaces: Vec<&str> = vectors.iter().map(|vector| vector["in"]["space"].as_str().unwrap()).collect();
    assert!(["world", "window", "cell"].iter().all(|space| spaces.contains(space)), "{spaces:?}");
    for vector in vectors {
        let input = &vector["in"];
        let position = match input["space"].as_str().unwrap() {
            "world" => format!("px:{},{}", input["x"], input["y"]),
            "window" => format!("win:{},{}", input["x"], input["y"]),
            _ => format!("cell:{},{}", input["column"], input["row"]),
        };
        let path = demos().join("kiosk.magpie");
        let (_, text, errors) = run(folder.path(), &["convert", path.to_str().unwrap(), &position, "--json"]);
        let answer: Value = serde_json::from_str(&text).unwrap_or_else(|_| panic!("{errors}"));
        for (key, value) in vector["out"].as_object().unwrap() {
            assert_eq!(&answer["results"][0][key], value, "{position}: {key}");
        }
        assert!(!vector["catches"].as_array().unwrap().is_empty());
    }
}

#[test]
fn vectors_for_steps_are_what_play_answers() {
    let folder = tempfile::tempdir().unwrap();
    let source = std::fs::read_to_string(demos().join("cog-loft.magpie")).unwrap();
    let found = written(folder.path(), "cog-loft.magpie", "step", &[]);
    let vectors = found["vectors"].as_array().unwrap();
    assert!(vectors.len() > 8);
    for vector in vectors {
        // The same on a rulebook whose first map is the situation.
        let rows: String = vector["in"]["board"]
            .as_array()
            .unwrap()
            .iter()
            .map(|row| format!("  {}\n", row.as_str().unwrap()))
            .collect::<Vec<_>>()
            .concat();
        let first = source.find("map \"").unwrap();
        let behind = source.find("\ncontrol ").unwrap();
        std::fs::write(
            folder.path().join("a.magpie"),
            format!("{}map \"First loft\"\n{rows}{}", &source[..first], &source[behind..]),
        )
        .unwrap();
        let inputs: Vec<&str> =
            vector["in"]["inputs"].as_array().unwrap().iter().map(|word| word.as_str().unwrap()).collect();
        let (_, text, errors) = run(folder.path(), &["play", "a.magpie", "--inputs", &inputs.join(" "), "--json"]);
        let played: Value = serde_json::from_str(&text).unwrap_or_else(|_| panic!("{errors} {vector}"));
        assert_eq!(
            (&played["board"], &played["counters"]),
            (&vector["out"]["board"], &vector["out"]["counters"]),
            "{vector}"
        );
        let last = played["answers"]
            .as_array()
            .unwrap()
            .iter()
            .flat_map(|answer| answer["requests"].as_array().unwrap())
            .next_back();
        if inputs.len() == 1 {
            assert_eq!(last.map_or(&Value::Null, |request| &request["granted"]), &vector["out"]["granted"], "{vector}");
        }
    }
}

#[test]
fn vectors_are_written_as_a_table_and_wrong_use_is_told() {
    let folder = tempfile::tempdir().unwrap();
    let path = demos().join("towpath.magpie");
    let path = path.to_str().unwrap();
    let (code, text, errors) = run(folder.path(), &["vectors", path, "--for", "index", "--out", "v.csv"]);
    assert!(code == 0 && text.contains("4 vectors that catch 7 mistakes"), "{text}{errors}");
    let table = std::fs::read_to_string(folder.path().join("v.csv")).unwrap();
    assert!(table.starts_with("in.column,in.row,out.index,catches\n"), "{table}");
    assert_eq!(table.lines().count(), 5);
    let (code, text, _) = run(folder.path(), &["vectors", path, "--for", "index", "--most", "1", "--out", "v.csv"]);
    assert!(code == 0 && text.contains("missed: "), "{text}");
    for (arguments, said) in [
        (&["--for", "index", "--out", "v.txt"][..], "neither a .json nor a .csv"),
        (&["--for", "fun", "--out", "v.csv"], "possible values"),
        (&["--for", "index", "--out", "v.csv", "--map", "9"], "no map 9"),
    ] {
        let (code, _, errors) = run(folder.path(), &[&["vectors", path], arguments].concat());
        assert!(code == 2 && errors.contains(said), "{errors}");
    }
    let pace = written(folder.path(), "towpath.magpie", "pace", &[]);
    let first = &pace["vectors"][0];
    assert!(first["in"]["keys"].is_string() && first["out"]["positions"][0].as_array().unwrap().len() == 2, "{first}");
    let rows = written(folder.path(), "lantern-rack.magpie", "rows", &[]);
    let catches = rows["vectors"].to_string();
    assert!(catches.contains("row-one-short") && catches.contains("falls-to-the-bottom"), "{catches}");
}
