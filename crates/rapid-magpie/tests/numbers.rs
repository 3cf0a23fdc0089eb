//! The commands about numbers: what they measure, convert and judge.
#![allow(clippy::unwrap_used)]

mod support;

use serde_json::{Value, json};
use std::path::Path;
use support::run;

/// A board of 6 × 4 cells of 24 × 18 px.
const YARD: &str = "game \"Yard\"\ncell 24 x 18 px\nkinds\n  slat . floor\n  man M body\n  cog c body\n  bell b mark\n  wall # body\nglyph & = cog, \
                    bell\nground slat\nmap \"One\"\n  M.&...\n  ....##\n  ......\n  .. ...\ncontrol man with arrows\n";

fn folder(files: &[(&str, &str)]) -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    for (name, text) in files {
        std::fs::write(folder.path().join(name), text).unwrap();
    }
    folder
}

fn answer(folder: &Path, arguments: &[&str]) -> (i32, Value) {
    let (code, output, errors) = run(folder, arguments);
    let value = serde_json::from_str(&output).unwrap_or_else(|error| panic!("{error}: {output}{errors}"));
    (code, value)
}

#[test]
fn measure_tells_steps_loops_pictures_and_headings() {
    let folder = folder(&[("a.magpie", YARD)]);
    let of = |arguments: &[&str]| answer(folder.path(), &[&["measure", "a.magpie", "--json"], arguments].concat());
    let (code, found) = of(&["--step", "36x18"]);
    let wanted = json!({
        "columns": {"px": 36, "pitch": 24, "cells": 1.5, "whole": false, "below": 24, "above": 48},
        "rows": {"px": 18, "pitch": 18, "cells": 1, "whole": true, "below": 18, "above": 18},
    });
    assert_eq!((code, &found["step"], &found["loop"], &found["headings"]), (1, &wanted, &Value::Null, &Value::Null));
    let (code, found) = of(&["--step=-48x0"]);
    assert_eq!((code, &found["step"]["columns"]["cells"]), (0, &json!(-2)));
    let (_, found) = of(&["--step=-60x24.5"]);
    assert_eq!(found["step"]["columns"]["below"], -72);
    assert_eq!(found["step"]["columns"]["above"], -48);
    // Seven rounds: 0, 60 and 120 on the board; the corners are at multiples of 24.
    let (code, found) = of(&["--loop", "x from 0 to < 400 by 60"]);
    let wanted = json!({
        "axis": "x", "rounds": 7, "visits": [1, 0, 1, 0, 0, 1], "missed": [1, 3, 4], "repeated": [], "outside": 4, "off_corner": 1,
    });
    assert_eq!((code, &found["loop"]), (1, &wanted));
    for (over, rounds, outside, code) in [
        ("x from 0 to < 144 by 24", 6, 0, 0),
        ("x from 0 to <= 144 by 24", 7, 1, 1),
        ("x from 120 to >= 0 by -24", 6, 0, 0),
        ("y from 54 to > 0 by -18", 3, 0, 1),
        ("x from 5 to < 5 by 0", 0, 0, 1),
    ] {
        let (found_code, found) = of(&["--loop", over]);
        assert_eq!(
            (&found["loop"]["rounds"], &found["loop"]["outside"], found_code),
            (&json!(rounds), &json!(outside), code),
            "{over}"
        );
    }
    let (code, found) = of(&["--picture", "25x18@3,0"]);
    let wanted = json!({
        "x": {"offset": 3, "size": 25, "pitch": 24, "drift": 1, "at_end": 6, "cell_after": 24},
        "y": {"offset": 0, "size": 18, "pitch": 18, "drift": 0, "at_end": 0, "cell_after": null},
    });
    assert_eq!((code, &found["picture"]), (1, &wanted));
    assert_eq!(of(&["--picture", "24x18@0,0"]).0, 0);
    let (code, found) = of(&["--headings"]);
    let north = json!({"heading": "north", "cells": [0, -1], "px": [0, -18], "compass": 0, "maths": 90, "eighth": 0, "quarter": 0});
    let south_west = json!({"heading": "south-west", "cells": [-1, 1], "px": [-24, 18], "compass": 225, "maths": 225, "eighth": 5, "quarter": null});
    assert_eq!((code, &found["headings"][0], &found["headings"][5]), (0, &north, &south_west));
    let (_, text, _) =
        run(folder.path(), &["measure", "a.magpie", "--loop", "x from 0 to < 400 by 60", "--step", "36x18"]);
    assert!(text.contains("✗ a step of 36 px is 1.5 columns of 24 px: 24 or 48 px would be whole"), "{text}");
    assert!(text.contains("✗ 3 columns missed: 1 3 4") && text.contains("✗ 4 rounds off the board"), "{text}");
}

#[test]
fn measure_refuses_what_makes_no_sense() {
    let folder = folder(&[("a.magpie", YARD)]);
    for (arguments, code, said) in [
        (&[][..], 2, "nothing to measure"),
        (&["--step", "36"], 2, "no step"),
        (&["--step", "36xa"], 2, "no number of pixels"),
        (&["--loop", "x from 0 to 400 by 60"], 2, "no loop"),
        (&["--loop", "x from 0 to < 400 by 0"], 2, "never ends"),
        (&["--loop", "x from 0 to < 400 by -1"], 2, "never ends"),
        (&["--loop", "x from 0 to >= -5 by 1"], 2, "never ends"),
        (&["--loop", "x from 0 to < 2000000 by 1"], 3, "too-long"),
        (&["--picture", "0x18@0,0"], 2, "larger than 0"),
        (&["--picture", "24x18"], 2, "grid of a picture"),
        (&["--headings", "--map", "2"], 2, "no map 2"),
    ] {
        let (found, _, errors) = run(folder.path(), &[&["measure", "a.magpie"], arguments].concat());
        assert!(found == code && errors.contains(said), "{arguments:?}: {found} {errors}");
    }
}

#[test]
fn convert_tells_what_stands_there_and_which_button() {
    let view = "view\n  window 300 x 200 px\n  design 150 x 100 px\n  density 2\n  button left at 10, 150 size 40 x 40 px\n  button \"x\" at 30, 150 size 40 \
                x 40 px\n";
    let folder = folder(&[("a.magpie", &format!("{YARD}{view}"))]);
    let positions =
        ["cell:2,0", "cell:4,1", "cell:2,3", "cell:9,9", "index:99", "win:10,80", "win:34.5,76", "win:4,80", "px:50,5"];
    let (code, found) = answer(folder.path(), &[&["convert", "a.magpie", "--json"], &positions[..]].concat());
    assert_eq!(code, 1, "an index is refused");
    let told: Vec<(&Value, &Value)> =
        found["results"].as_array().unwrap().iter().map(|result| (&result["holds"], &result["button"])).collect();
    let null = Value::Null;
    let (stack, wall) = (json!(["cog", "bell", "slat"]), json!(["wall", "slat"]));
    let (left, x) = (json!("left"), json!("key:x"));
    assert_eq!(told[..5], [(&stack, &null), (&wall, &null), (&null, &null), (&null, &null), (&null, &null)]);
    // In window pixels, twice what is reported: 20,160 lies on the left button, 69,152 on the other, 8,160 beside both.
    assert_eq!([told[5].1, told[6].1, told[7].1], [&left, &x, &null]);
    assert_eq!(told[8].0, &stack);
    let (_, text, _) = run(folder.path(), &["convert", "a.magpie", "cell:2,0", "win:10,80"]);
    assert!(text.contains("holds cog, bell, slat") && text.contains("on the button of `left`"), "{text}");
}

#[test]
fn play_takes_touches_by_pixels() {
    let view = "view\n  window 288 x 144 px\n  design 144 x 72 px\n  button \"x\" at 250, 100 size 30 x 30 px\n";
    let rules = "rules\n  on tap: place bell at tapped\n  on drag: swap dragged with dropped\n  on key \"x\": signal \"ding\"\n";
    let source = format!("{YARD}{view}{rules}").replace("cell 24 x 18 px", "cell 24 x 18 px\nhotspot 12, 9 px");
    let folder = folder(&[("a.magpie", &source), ("b.magpie", YARD)]);
    let inputs = "tap:px:47,17 tap:win:100,100 px:0,71 drag:px:1,1>25,37 drag:win:100,4>win:2,40 tap:win:260,120";
    let (code, found) =
        answer(folder.path(), &["play", "a.magpie", "--inputs", inputs, "--json", "--record", "t.jsonl"]);
    let told: Vec<&Value> = found["answers"].as_array().unwrap().iter().map(|turn| &turn["input"]).collect();
    assert_eq!(
        (code, told),
        (
            0,
            [
                &json!("tap:1,0"),
                &json!("tap:2,2"),
                &json!("tap:0,3"),
                &json!("drag:0,0>1,2"),
                &json!("drag:2,0>0,1"),
                &json!("key:x"),
            ]
            .to_vec()
        ),
        "a touch has no hotspot; the tape keeps cells"
    );
    let tape = std::fs::read_to_string(folder.path().join("t.jsonl")).unwrap();
    assert!(tape.contains("tap:2,2") && !tape.contains("win"), "{tape}");
    for (inputs, said) in [
        ("tap:win:1,1", "no `view`"),
        ("tap:px:1", "no input"),
        ("tap:px:1,1>2,2", "no input"),
        ("drag:px:1,1", "no input"),
    ] {
        let (code, _, errors) = run(folder.path(), &["play", "b.magpie", "--inputs", inputs]);
        assert!(code == 2 && errors.contains(said), "{inputs}: {code} {errors}");
    }
}

/// A view without bars, of twice the pixels that are reported: a forgotten density is right for world positions.
const TOUCH: &str = "view\n  window 288 x 144 px\n  design 144 x 72 px\n  density 2\n";

#[test]
fn diagnose_never_calls_a_forgotten_density_correct() {
    let view = TOUCH.replace("window 288 x 144", "window 144 x 72");
    let folder = folder(&[
        ("a.magpie", &format!("{YARD}{view}")),
        ("b.magpie", YARD),
        ("s.csv", "x,y,column,row\n3,5,0,0\n26,40,1,2\n100,71,4,3\n60,20,2,1\n"),
        ("lines.txt", "3 4 -> 0 0\n30 40 -> 1 2\n"),
        ("cells.txt", "1 1 -> 7\n5 3 -> 23\n"),
        ("same.txt", "1 1 -> 7\n2 2 -> 14\n"),
        ("snap.csv", "x,y,centre_x,centre_y\n3,5,12,9\n-4,80,12,63\n101,40,108,45\n"),
    ]);
    let of = |arguments: &[&str]| answer(folder.path(), &[&["diagnose"], arguments, &["--json"]].concat());
    let (code, found) = of(&["a.magpie", "s.csv"]);
    let told: Vec<(&Value, &Value)> =
        found["explanations"].as_array().unwrap().iter().map(|e| (&e["mishap"], &e["space"])).collect();
    assert_eq!(
        (code, &told[..2]),
        (1, &[(&json!("density-forgotten"), &json!("window")), (&json!("correct"), &json!("world"))][..])
    );
    assert_eq!(found["next"]["space"], "window", "other mistakes can be told apart");
    let (_, text, _) = run(folder.path(), &["diagnose", "a.magpie", "s.csv"]);
    assert!(text.contains("--space px or win settles it"), "{text}");
    let (code, found) = of(&["a.magpie", "s.csv", "--space", "px"]);
    assert_eq!((code, &found["explanations"][0]["mishap"]), (0, &json!("correct")));
    let (code, found) = of(&["a.magpie", "s.csv", "--space", "win"]);
    assert_eq!((code, &found["explanations"][0]["mishap"]), (1, &json!("density-forgotten")));
    assert_eq!(of(&["b.magpie", "s.csv"]).0, 0);
    let (code, found) = of(&["b.magpie", "snap.csv"]);
    assert_eq!((code, &found["explanations"][0]["mishap"]), (0, &json!("correct")));
    let (code, found) = of(&["b.magpie", "cells.txt", "--as", "column,row,index"]);
    assert_eq!((code, &found["explanations"][0]["space"], &found["next"]), (0, &Value::Null, &Value::Null));
    let (_, found) = of(&["b.magpie", "same.txt", "--as", "column,row,index"]);
    assert_eq!(
        (&found["explanations"][1]["mishap"], &found["next"]["space"]),
        (&json!("axes-swapped"), &json!("cell"))
    );
    for (arguments, said) in [
        (&["b.magpie", "lines.txt", "--space", "win"][..], "needs a `view`"),
        (&["b.magpie", "cells.txt"], "can be read as"),
        (&["b.magpie", "lines.txt", "--as", "x,y,row"], "no pair"),
        (&["b.magpie", "lines.txt", "--as", "x,y,index"], "4 numbers, where 3 are wanted"),
        (&["b.magpie", "lines.txt", "--kind", "nobody"], "nobody"),
    ] {
        let (code, _, errors) = run(folder.path(), &[&["diagnose"], arguments].concat());
        assert!(code == 2 && errors.contains(said), "{arguments:?}: {code} {errors}");
    }
}

#[test]
fn diagnose_says_half_a_cell_and_names_the_hotspot_of_a_kind() {
    let kinds = YARD.replace("  man M body", "  man M body amber, hotspot 12, 17 px");
    let half: String = (0..30)
        .map(|at| (at * 13 % 120 + 14, at * 7 % 60 + 10))
        .map(|(x, y)| format!("{x},{y},{},{}\n", (x - 12) / 24, (y - 9) / 18))
        .collect::<Vec<_>>()
        .concat();
    let feet: String = (0..200)
        .map(|at| (at * 13 % 119, at * 7 % 51))
        .map(|(x, y)| format!("{x},{y},{},{}\n", (x + 10) / 24, (y + 17) / 18))
        .collect::<Vec<_>>()
        .concat();
    let folder = folder(&[
        ("a.magpie", &kinds),
        ("half.csv", &format!("x,y,column,row\n{half}")),
        ("feet.csv", &format!("x,y,column,row\n{feet}")),
    ]);
    let (code, found) = answer(folder.path(), &["diagnose", "a.magpie", "half.csv", "--json"]);
    let first = &found["explanations"][0];
    assert_eq!((code, &first["fitted"], &first["numbers"]["origin"]), (1, &json!(true), &json!([12, 9])), "{found}");
    let says = first["says"].as_str().unwrap();
    assert!(says.contains("half a cell") && says.contains("the origin 12, 9 would fit"), "{says}");
    let (code, found) = answer(folder.path(), &["diagnose", "a.magpie", "feet.csv", "--kind", "man", "--json"]);
    let says = found["explanations"][0]["says"].as_str().unwrap();
    assert_eq!(code, 1);
    assert!(says.contains("the hotspot 10, 17, where the rulebook has 12, 17"), "{says}");
}

#[test]
fn formula_is_asked_at_window_positions_and_at_indices() {
    let folder = folder(&[("a.magpie", &format!("{YARD}{TOUCH}")), ("b.magpie", YARD)]);
    let of = |arguments: &[&str]| answer(folder.path(), &[&["formula"], arguments, &["--json"]].concat());
    // 24 px of the world are 24 reported: twice the pixels, half the size.
    let (code, found) =
        of(&["a.magpie", "--space", "win", "--column", "floor((x * density - bar_x) / scale_x / zoom / w)"]);
    assert_eq!((code, &found["x"], &found["y"]), (0, &json!([-24, 167]), &json!([-18, 89])));
    let (code, found) =
        of(&["a.magpie", "--space", "win", "--column", "floor((x - bar_x) / scale_x / w)", "--row", "floor(y / h)"]);
    assert_eq!(
        (code, &found["column"]["mishap"], &found["row"]["differ"]),
        (1, &json!("density-forgotten"), &json!(0))
    );
    let (_, found) = of(&["a.magpie", "--space", "win", "--column", "floor(x * density / w)"]);
    assert_eq!(found["column"]["mishap"], "scale-forgotten");
    let (code, found) = of(&["b.magpie", "--index-column", "index % columns", "--index-row", "floor(index / rows)"]);
    assert_eq!((code, &found["index_column"]["differ"], &found["pixels"]), (1, &json!(0), &Value::Null));
    let row = &found["index_row"];
    assert_eq!(
        (&row["mishap"], &row["first"][0]),
        (&json!("index-by-height"), &json!({"index": 4, "right": 0, "got": 1}))
    );
    assert_eq!(row["on_board"], row["differ"]);
    let (_, found) = of(&["b.magpie", "--index-row", "index / columns"]);
    assert_eq!((&found["index_row"]["mishap"], &found["index_row"]["not_whole"]), (&json!("not-floored"), &json!(20)));
    for (arguments, said) in [
        (&["b.magpie", "--space", "win", "--column", "x"][..], "needs a `view`"),
        (&["b.magpie", "--column", "x * density"], "density"),
        (&["b.magpie", "--index-row", "index / w"], "index columns rows"),
        (&["a.magpie", "--space", "win", "--let", "density=3", "--column", "x"], "has a meaning"),
    ] {
        let (code, _, errors) = run(folder.path(), &[&["formula"], arguments].concat());
        assert!(code == 2 && errors.contains(said), "{arguments:?}: {code} {errors}");
    }
}

#[test]
fn formula_says_what_is_wrong_outside_alone_and_what_the_board_cannot_tell() {
    let square = YARD.replace("  M.&...\n  ....##\n  ......\n  .. ...\n", "  M.&.\n  ....\n  ....\n  ....\n");
    let folder = folder(&[("a.magpie", YARD), ("b.magpie", &square)]);
    let of = |arguments: &[&str]| answer(folder.path(), &[&["formula"], arguments, &["--json"]].concat());
    let (code, found) = of(&["a.magpie", "--snap-x", "floor(x / w) * w + w / 2"]);
    let snap = &found["snap_x"];
    assert_eq!(
        (code, &snap["mishap"], &snap["on_board"], &snap["not_whole"]),
        (1, &json!("not-clamped"), &json!(0), &Value::Null)
    );
    let (_, text, _) = run(folder.path(), &["formula", "a.magpie", "--snap-x", "floor(x / w) * w + w / 2"]);
    assert!(text.contains("right on the whole board, wrong beside it alone") && text.contains("not-clamped"), "{text}");
    // Height for width: right on a square board, and said to be untold there.
    let (code, found) = of(&[
        "b.magpie",
        "--index",
        "row * rows + column",
        "--inside",
        "column >= 0 and column < rows and row >= 0 and row < columns",
    ]);
    assert_eq!((code, &found["index"]["differ"]), (0, &json!(0)));
    assert_eq!(found["index"]["untold"], json!({"mishap": "index-by-height", "board": [5, 4]}));
    assert_eq!(found["inside"]["untold"], json!({"mishap": "axes-swapped", "board": [5, 4]}));
    let (_, text, _) = run(folder.path(), &["formula", "b.magpie", "--index", "row * rows + column"]);
    assert!(text.contains("cannot tell index-by-height apart: on one of 5 x 4 cells"), "{text}");
    let (_, found) = of(&["b.magpie", "--index", "row * columns + column"]);
    assert_eq!(found["index"].get("untold"), None, "the right one is right on every board");
}
