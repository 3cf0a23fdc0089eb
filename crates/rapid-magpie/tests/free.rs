//! Free movement from the outside: `pace` and `pace --gaps` on files, the sheet, and the Pace bench in a real terminal.
#![allow(clippy::unwrap_used)]

mod support;

use serde_json::{Value, json};
use std::path::Path;
use support::{Terminal, demos, run};

/// A keeper whose steps take a while.
const SLOW: &str = "game \"Slow\"\ncell 8 px\nkinds\n  keeper K body\nmap \"M\"\n  ____\n  _K__\n  ____\n\
                    control keeper with arrows\npace\n  timed 900 ms, while moving ignored\n";

/// The hand cart of the towpath's shed.
const CART: [&str; 4] = ["--kind", "handcart", "--map", "3"];

fn asked(folder: &Path, arguments: &[&str]) -> (i32, Value) {
    let (code, output, errors) = run(folder, &[&["pace", "towpath.magpie", "--json"], arguments, &CART].concat());
    (code, serde_json::from_str(&output).unwrap_or_else(|error| panic!("{error}: {output}{errors}")))
}

#[test]
fn a_run_tells_what_caught_the_body_and_what_would_let_it_through() {
    let (code, found) = asked(&demos(), &["--keys", "0:right+ 3000:right-"]);
    let run = &found["runs"][0];
    assert_eq!((code, &run["mode"]), (0, &json!("free 120 px/s")));
    assert_eq!(run["pace"], "free 120 px/s, body 44 px, slack 8 px, lined up by 16 px, axis last pressed");
    let figures = &run["figures"];
    assert_eq!((&figures["frames_per_step"], &figures["ms_per_step"]), (&Value::Null, &Value::Null));
    assert_eq!((&figures["touched"], &figures["outcome"]), (&json!([[272.0, 112.0]]), &json!("done")));
    let frames = run["frames"].as_array().unwrap();
    let count = |state: &str| frames.iter().filter(|frame| frame["state"] == state).count();
    assert_eq!((json!(count("caught")), json!(count("slid"))), (figures["caught"].clone(), figures["slid"].clone()));
    assert!(count("caught") > 50 && count("slid") > 0 && count("moving") > 50, "{figures}");
    assert!(run["notes"][0].as_str().unwrap().contains("32 px for a body of 44; `body 32 px`"), "{}", run["notes"]);
    // Of steps the figures of bodies are null.
    let (_, steps, _) = self::run(&demos(), &["pace", "towpath.magpie", "--json", "--cells", "1"]);
    let steps: Value = serde_json::from_str(&steps).unwrap();
    let figures = &steps["runs"][0]["figures"];
    assert!(["caught", "slid", "touched", "lined"].iter().all(|name| figures[name].is_null()), "{figures}");
}

#[test]
fn gaps_tell_what_is_shut_and_the_largest_body() {
    let (code, found) = asked(&demos(), &["--gaps"]);
    let keys: Vec<&String> = found.as_object().unwrap().keys().collect();
    assert_eq!(keys, ["body", "fits", "cells", "beside", "shut", "gaps", "largest"]);
    assert_eq!((code, &found["body"], &found["fits"]), (1, &json!([44, 44]), &json!(true)));
    assert_eq!(found["shut"], json!([[8, 2]]), "every passage but one");
    assert_eq!(found["gaps"], json!([{ "between": [[8, 1], [8, 3]], "wide": 32, "short": 12 }]));
    assert_eq!(found["largest"], json!([32, 32]));
    let (code, found) = asked(&demos(), &["--gaps", "--body", "32x20"]);
    assert_eq!((code, &found["shut"], &found["largest"]), (0, &json!([]), &json!([48, 30])));
    let (code, found) = asked(&demos(), &["--gaps", "--body", "500"]);
    assert_eq!((code, &found["fits"], &found["cells"]), (1, &json!(false), &json!([])));
    let (_, text, _) = run(&demos(), &[&["pace", "towpath.magpie", "--gaps"], &CART[..]].concat());
    assert!(text.contains("between 8,1 and 8,3: 32 px, 12 too few") && text.contains("32 x 32 px"), "{text}");
    for wrong in [
        &["--gaps", "--body", "0"][..],
        &["--gaps", "--body", "3x"],
        &["--gaps", "--keys", "0:right"],
        &["--gaps", "--fps", "60"],
        &["--body", "3"],
        &["--gaps", "--kind", "nobody"],
    ] {
        let (code, _, errors) = run(&demos(), &[&["pace", "towpath.magpie"], wrong].concat());
        assert!(code == 2 && !errors.is_empty(), "{wrong:?}: {code} {errors}");
    }
    let (code, _, errors) = run(&demos(), &["pace", "towpath.magpie", "--gaps", "--kind", "handcart"]);
    assert!(code == 2 && errors.contains("there is no `handcart` on this map"), "{errors}");
}

#[test]
fn the_sheet_shows_the_way_on_the_board() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::copy(demos().join("towpath.magpie"), folder.path().join("towpath.magpie")).unwrap();
    let drawn = |more: &[&str]| {
        let arguments = [&["draw", "towpath.magpie", "--what", "pace", "--out", "a.svg"], &CART[..], more].concat();
        assert_eq!(run(folder.path(), &arguments).0, 0);
        std::fs::read_to_string(folder.path().join("a.svg")).unwrap().replace('\u{a0}', " ")
    };
    let (usual, caught) = (drawn(&[]), drawn(&["--keys", "0:right+ 3000:right-"]));
    assert!(usual.contains("handcart") && caught.contains("32 px for a body of 44"), "{}", caught.len());
    assert!(!usual.contains("32 px for a body"), "in 700 ms it does not come to the door");
}

#[test]
fn the_bench_shows_the_body_its_way_and_what_is_shut() {
    let terminal = Terminal::start(&[], "demo towpath", (142, 42));
    terminal.sees(&["Lock to bridge", "Play"]);
    terminal.keys("m m Tab Tab k k");
    terminal.sees(&["The cart shed", "handcart on this map", "no corner caught it", "body width", "44 px"]);
    terminal.keys("5");
    terminal.sees(&["shut to it (×): 1 cell: 8,2", "between 8,1 and 8,3: 32 px, 12 too few", "32 x 32 px"]);
    // A body of 34 px is still too large for the door; the page follows what is changed.
    terminal.keys("1 Down Down H Down H 5");
    terminal.sees(&["a body of 34 x 34 px", "32 px, 2 too few"]);
    terminal.keys("1 Left Left 5");
    terminal.sees(&["a body of 34 x 32 px", "it gets everywhere"]);
}

#[test]
fn play_tells_what_became_of_a_key_on_the_way() {
    let terminal = Terminal::start(&[("slow.magpie", SLOW)], "slow.magpie", (142, 42));
    terminal.sees(&["nothing has been asked yet"]);
    terminal.keys("Right Up");
    terminal.sees(&["up is ignored: keeper is on its way (`while moving ignored`, v plays at once)", "1 of 1"]);
    terminal.keys("v Up");
    terminal.sees(&["2 of 2"]);
    terminal.sees_no("is ignored");
}
