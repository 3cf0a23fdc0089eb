//! `emit` in every language whose compiler or interpreter is here: its own test program holds, and ten thousand positions in an
//! odd geometry come out as `convert` gives them, to the last bit.
#![allow(clippy::unwrap_used)]

mod support;

use std::fmt::Write as _;
use std::path::Path;
use support::languages::{emitted, languages, names, shell};
use support::{demos, run};

#[test]
fn every_language_holds_its_own_vectors() {
    let folder = tempfile::tempdir().unwrap();
    let here = languages();
    assert!(here.iter().any(|(language, ..)| *language == "rust"), "what builds this is here");
    let odd = folder.path().join("odd.magpie");
    std::fs::write(&odd, ODD).unwrap();
    let demo = |stem: &str| demos().join(format!("{stem}.magpie"));
    for (book, part) in
        [(demo("kiosk"), "geometry"), (demo("cog-loft"), "all"), (demo("damp-wall"), "board"), (odd, "all")]
    {
        let stem = book.file_stem().unwrap().to_str().unwrap();
        for (language, ending, command) in &here {
            let told = emitted(folder.path(), &book, language, part);
            let (name, main) = names(language, stem);
            let out = folder.path().join(language);
            assert!(
                told.lines().all(|path| Path::new(path).exists()) && told.contains(&format!("{main}.{ending}")),
                "{told}"
            );
            let ran = shell(&out, &command.replace("NAME", &name).replace("MAIN", &main));
            let errors = String::from_utf8_lossy(&ran.stderr);
            assert!(ran.status.success(), "{stem} in {language}: {errors}{}", String::from_utf8_lossy(&ran.stdout));
            // One vector made wrong: the program notices.
            let path = out.join(format!("{main}.{ending}"));
            let text = std::fs::read_to_string(&path).unwrap();
            let is_vector = |line: &&str| {
                line.contains("to_cell(")
                    || line.contains("ToCell(")
                    || line.contains("laths ==")
                    || line.contains("laths,")
                    || line.contains("Laths ==")
            };
            let line = text.lines().find(is_vector).unwrap();
            let digit = line.rfind(|c: char| c.is_ascii_digit()).unwrap();
            let wrong = format!("{}7{}", &line[..digit], &line[digit + 1..]);
            std::fs::write(&path, text.replacen(line, &wrong, 1)).unwrap();
            let ran = shell(&out, &command.replace("NAME", &name).replace("MAIN", &main));
            assert!(!ran.status.success() || line == wrong, "{stem} in {language} tests something");
        }
    }
}

/// A geometry in which nothing is round.
const ODD: &str = "game \"coding: odd ??/\"\ncell 400/12 x 23.7 px\ngap 1.3 x 0.7 px\norigin -17.31,255.17 px\nhotspot 3.7,-2.9 px\ny up\nrows from top\n\
                   index column-major from 1\nview\n  window 1234 x 777 px\n  design 611 x 402.5 px\n  fit letterbox\n  density 1.25\n  zoom 0.7\n\
                   kinds\n  plank . floor\n  cart C body, hotspot 4, -8.5 px\nground plank\nmap \"One */ ]] \u{2028} ??/ \\\"\n  ..... ..\n  ........\n  .. .....\n";

/// What each driver prints of a position: cell, what lies there, the nearest cell, its middle, and where that is in the window.
fn driver(language: &str) -> Option<&'static str> {
    Some(match language {
        "python" => {
            "import sys\nfrom odd import Grid\ng = Grid.of_map(1)\nfor line in sys.stdin:\n    x, y = map(float, line.split())\n    a, w, s = g.world_to_cell(x, y), g.world_where(x, y), g.snap(x, y)\n    c = g.cell_to_centre(s)\n    v = g.window_to_cell(x, y)\n    print(a.column, a.row, w.value, s.column, s.row, repr(c.x), repr(c.y), v.column, v.row, g.window_where(x, y).value)\n"
        }
        "js" => {
            "import { Grid } from './odd.mjs';\nimport fs from 'node:fs';\nconst g = Grid.ofMap(1);\nconst out = [];\nfor (const line of fs.readFileSync(0, 'utf8').trim().split('\\n')) {\n  const [x, y] = line.split(' ').map(Number);\n  const a = g.worldToCell(x, y), s = g.snap(x, y), c = g.cellToCentre(s), v = g.windowToCell(x, y);\n  out.push([a.column, a.row, g.worldWhere(x, y), s.column, s.row, c.x, c.y, v.column, v.row, g.windowWhere(x, y)].join(' '));\n}\nconsole.log(out.join('\\n'));\n"
        }
        "lua" => {
            "local g = require('odd').Grid.of_map(1)\nfor line in io.lines() do\n  local x, y = line:match('(%S+) (%S+)')\n  x, y = tonumber(x) + 0.0, tonumber(y) + 0.0\n  local a, s = g:world_to_cell(x, y), g:snap(x, y)\n  local c, v = g:cell_to_centre(s), g:window_to_cell(x, y)\n  print(string.format('%d %d %s %d %d %.17g %.17g %d %d %s', a.column, a.row, g:world_where(x, y), s.column, s.row, c.x, c.y, v.column, v.row, g:window_where(x, y)))\nend\n"
        }
        "c" => {
            "#include \"odd.h\"\n#include <stdio.h>\nint main(void) {\n  static const char *const words[] = {\"bar\", \"outside\", \"gap\", \"void\", \"cell\"};\n  const odd_grid *g = odd_grid_of_map(1);\n  double x, y;\n  while (scanf(\"%lf %lf\", &x, &y) == 2) {\n    odd_cell a = odd_world_to_cell(g, x, y), s = odd_snap(g, x, y), v = odd_window_to_cell(g, x, y);\n    odd_point c = odd_cell_to_centre(g, s);\n    printf(\"%lld %lld %s %lld %lld %.17g %.17g %lld %lld %s\\n\", (long long)a.column, (long long)a.row, words[odd_world_where(g, x, y)], (long long)s.column, (long long)s.row, c.x, c.y, (long long)v.column, (long long)v.row, words[odd_window_where(g, x, y)]);\n  }\n  return 0;\n}\n"
        }
        "rust" => {
            "mod odd;\nuse std::io::BufRead;\nfn main() {\n    let g = odd::Grid::of_map(1);\n    for line in std::io::stdin().lock().lines() {\n        let line = line.unwrap();\n        let (x, y) = line.split_once(' ').unwrap();\n        let (x, y): (f64, f64) = (x.parse().unwrap(), y.parse().unwrap());\n        let (a, s, v) = (g.world_to_cell(x, y), g.snap(x, y), g.window_to_cell(x, y));\n        let c = g.cell_to_centre(s);\n        let word = |w: odd::Where| format!(\"{w:?}\").to_lowercase();\n        println!(\"{} {} {} {} {} {:?} {:?} {} {} {}\", a.column, a.row, word(g.world_where(x, y)), s.column, s.row, c.x, c.y, v.column, v.row, word(g.window_where(x, y)));\n    }\n}\n"
        }
        _ => return None,
    })
}

#[test]
fn ten_thousand_positions_of_an_odd_geometry_are_alike_to_the_last_bit() {
    let folder = tempfile::tempdir().unwrap();
    let book = folder.path().join("odd.magpie");
    std::fs::write(&book, ODD).unwrap();
    let reading = magpie_core::read_text(ODD, &|_| Err("none".into()));
    let rules = reading.rulebook.unwrap_or_else(|| panic!("{:?}", reading.diagnostics));
    // Positions on and beside every edge, and others between them.
    let mut dice = 88_172_645_463_325_252_u64;
    let mut asked = String::new();
    let mut right = Vec::new();
    for number in 0..10_000 {
        dice ^= dice << 13;
        dice ^= dice >> 7;
        dice ^= dice << 17;
        let share = |bits: u64| (bits & 0xffff) as f64 / 65_536.0;
        let (mut x, mut y) = (share(dice) * 460.0 - 100.0, share(dice >> 16) * 260.0 + 80.0);
        if number % 3 == 0 {
            let cell = magpie_core::Cell::new((share(dice) * 9.0) as i64, (share(dice >> 16) * 4.0) as i64);
            let corner = rules.geometry.corner(rules.maps[0].extent, cell);
            (x, y) = (corner.x - rules.geometry.hotspot.0, corner.y - rules.geometry.hotspot.1);
        }
        let _ = writeln!(asked, "{x:?} {y:?}");
        let hotspot = rules.geometry.hotspot;
        let world = rules
            .convert(0, hotspot, magpie_core::space::Position::World(magpie_core::space::WorldPoint { x, y }))
            .unwrap();
        let window = rules
            .convert(0, (0.0, 0.0), magpie_core::space::Position::Window(magpie_core::space::WindowPoint { x, y }))
            .unwrap();
        let (cell, snap, seen) = (world.cell.unwrap(), world.snap.unwrap(), window.cell.unwrap());
        let words = [world.place.word(), window.place.word()];
        right.push(((cell, snap.cell, seen), words, (snap.centre.x.to_bits(), snap.centre.y.to_bits())));
    }
    std::fs::write(folder.path().join("asked"), asked).unwrap();
    let mut tested = 0;
    for (language, ending, command) in languages() {
        let Some(text) = driver(language) else { continue };
        emitted(folder.path(), &book, language, "geometry");
        let out = folder.path().join(language);
        std::fs::write(out.join(format!("driver.{ending}")), text).unwrap();
        let command = command.replace("NAME", "odd").replace("MAIN", "driver") + " < ../asked";
        let ran = shell(&out, &command);
        assert!(ran.status.success(), "{language}: {}", String::from_utf8_lossy(&ran.stderr));
        let said = String::from_utf8(ran.stdout).unwrap();
        assert_eq!(said.lines().count(), right.len(), "{language}");
        for (line, ((cell, snap, seen), words, centre)) in said.lines().zip(&right) {
            let parts: Vec<&str> = line.split(' ').collect();
            let bits = |at: usize| parts[at].parse::<f64>().unwrap().to_bits();
            let wanted =
                [cell.column, cell.row, snap.column, snap.row, seen.column, seen.row].map(|number| number.to_string());
            let got = [parts[0], parts[1], parts[3], parts[4], parts[7], parts[8]];
            assert_eq!(
                (&got[..], [parts[2], parts[9]]),
                (&wanted.each_ref().map(String::as_str)[..], *words),
                "{language}: {line}"
            );
            assert_eq!((bits(5), bits(6)), *centre, "{language}: {line}");
        }
        tested += 1;
    }
    assert!(tested > 0);
}

#[test]
fn only_what_was_emitted_is_replaced() {
    let folder = tempfile::tempdir().unwrap();
    let book = demos().join("cog-loft.magpie");
    let emit = || {
        run(folder.path(), &["emit", book.to_str().unwrap(), "--lang", "python", "--part", "geometry", "--out", "out"])
    };
    assert_eq!(emit().0, 0);
    assert_eq!(emit().0, 0, "again");
    let own = folder.path().join("out/cog_loft.py");
    std::fs::write(&own, "mine = 1\n").unwrap();
    let (code, text, errors) = emit();
    assert!(code == 2 && text.is_empty() && errors.contains("was not emitted"), "{code} {text} {errors}");
    assert_eq!(std::fs::read_to_string(&own).unwrap(), "mine = 1\n");
    // A name that the language has for itself, and more cells than are written.
    let text = std::fs::read_to_string(&book).unwrap();
    std::fs::write(folder.path().join("class.magpie"), &text).unwrap();
    let (code, text, errors) =
        run(folder.path(), &["emit", "class.magpie", "--lang", "python", "--part", "geometry", "--out", "out"]);
    assert!(code == 0 && text.contains("class_.py") && errors.contains("the module is `class_`"), "{text} {errors}");
    let wide = "game \"Yard\"\ncell 24 px\nkinds\n  plank . floor\nground plank\nmap \"One\" 257 x 256 of plank\n";
    std::fs::write(folder.path().join("wide.magpie"), wide).unwrap();
    let (code, text, errors) = run(folder.path(), &["emit", "wide.magpie", "--lang", "c", "--out", "wide"]);
    assert!(code == 3 && text.is_empty() && errors.contains("65792 cells"), "{code} {errors}");
    assert!(!folder.path().join("wide").exists());
    let (code, _, errors) = run(folder.path(), &["emit", book.to_str().unwrap(), "--lang", "latin", "--out", "out"]);
    assert!(code == 2 && errors.contains("possible values"), "{errors}");
}

#[test]
fn what_is_not_covered_is_told_line_by_line() {
    let folder = tempfile::tempdir().unwrap();
    let text = "game \"Yard\"\ncell 24 px\nkinds\n  plank . floor\n  porter P body\n  cart c body\nground plank\nmap \"One\"\n  P.c\n\
                counter late\ntimer beat 200 ms\ncontrol porter with arrows\nrules\n  porter into cart: ride\n  \
                each beat: add 1 to late\n  lose when clock > 900\n  win when turns > 3\n";
    std::fs::write(folder.path().join("yard.magpie"), text.replace("ride", "shove")).unwrap();
    let emit = |more: &[&str]| {
        let arguments = ["emit", "yard.magpie", "--lang", "python", "--out", "out"];
        run(folder.path(), &[&arguments[..], more].concat())
    };
    let (code, text, errors) = emit(&[]);
    let told: Vec<&str> = errors.lines().collect();
    assert_eq!((code, text.as_str(), folder.path().join("out").exists()), (1, "", false));
    assert_eq!(
        told,
        [
            "yard.magpie:11: `timer` is not covered",
            "yard.magpie:15: a timer is not covered",
            "yard.magpie:16: `clock` is not covered"
        ]
    );
    let (code, text, errors) = emit(&["--partial"]);
    assert_eq!((code, text.lines().count(), errors.lines().count()), (0, 2, 3), "{errors}");
    let module = std::fs::read_to_string(folder.path().join("out/yard.py")).unwrap();
    assert!(module.lines().take(8).any(|line| line.contains("line 16: `clock`")), "the head names them");
    assert!(module.contains("# 17: win when turns > 3") && !module.contains("# 16: "), "the rest is written");
    // A counter whose name the module has for itself.
    let taken = "game \"Yard\"\ncell 24 px\nkinds\n  porter P body\nmap \"One\"\n  P_\ncounter moved\ncontrol porter with arrows\nrules\n  on key act: add 1 to moved\n";
    std::fs::write(folder.path().join("yard.magpie"), taken).unwrap();
    let (code, _, errors) = emit(&[]);
    assert!(code == 0 && errors.contains("the counter is `moved_`"), "{errors}");
    let ran = shell(
        &folder.path().join("out"),
        "python3 -c \"import yard; g = yard.Game(); g.input('act'); print(g.moved_)\"",
    );
    assert_eq!(String::from_utf8_lossy(&ran.stdout).trim(), "1");
}
