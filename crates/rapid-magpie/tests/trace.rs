//! `compare` and `drive` on files and on real programs: small games in three languages, and programs that behave badly.
#![allow(clippy::unwrap_used)]

mod support;

use serde_json::{Value, json};
use std::path::{Path, PathBuf};
use std::process::Command;
use support::{PROGRAM, Terminal, demos, run};

fn foreign() -> PathBuf {
    demos().join("foreign")
}

/// Runs the program in a folder with the usual search path; gives the exit code, the JSON and what went to standard error.
fn told(folder: &Path, arguments: &[&str]) -> (i32, Value, String) {
    let output = Command::new(PROGRAM).args(arguments).current_dir(folder).output().unwrap();
    let errors = String::from_utf8(output.stderr).unwrap();
    let value = serde_json::from_slice(&output.stdout).unwrap_or(Value::Null);
    (output.status.code().unwrap_or(-1), value, errors)
}

fn driven(folder: &Path, options: &[&str], command: &[&str]) -> (i32, Value, String) {
    told(folder, &[&["drive", "loft.magpie", "--json"], options, &["--"], command].concat())
}

fn sh(script: &str) -> (i32, Value, String) {
    driven(&foreign(), &["--runs", "2"], &["sh", "-c", script])
}

/// The small games whose language is there, as commands, with the mistake that `--slip` lets in.
fn games(folder: &Path) -> Vec<(Vec<String>, &'static str)> {
    let has = |name: &str| Command::new(name).arg("--version").output().is_ok_and(|output| output.status.success());
    let mut found = Vec::new();
    for (language, file, slip) in [("python3", "loft.py", "old-cell-kept"), ("node", "loft.js", "row-wraps")] {
        if has(language) {
            found.push((vec![language.to_owned(), file.to_owned()], slip));
        } else {
            println!("not tested: {language} is not here");
        }
    }
    let program = folder.join("loft");
    let mut compiler = Command::new("cc");
    compiler.args(["-O2", "-Wall", "-Wextra", "-Werror", "-o"]).arg(&program).arg("loft.c").current_dir(foreign());
    if compiler.status().is_ok_and(|status| status.success()) {
        found.push((vec![program.display().to_string()], "push-into-piece"));
    } else {
        println!("not tested: there is no C compiler");
    }
    found
}

#[test]
fn small_games_in_three_languages_are_right_or_their_mistake_is_named() {
    let folder = tempfile::tempdir().unwrap();
    for (command, slip) in games(folder.path()) {
        let mut command: Vec<&str> = command.iter().map(String::as_str).collect();
        let (code, right, errors) = driven(&foreign(), &["--runs", "60"], &command);
        assert_eq!((code, &right["same"], &right["fault"]), (0, &json!(true), &Value::Null), "{command:?} {errors}");
        assert_eq!((&right["pairs"], &right["pairs_of"]), (&json!(1656), &json!(1656)), "{command:?}");
        command.push("--slip");
        let log = folder.path().join("found.jsonl");
        let (code, wrong, errors) = driven(&foreign(), &["--record", log.to_str().unwrap()], &command);
        assert_eq!((code, &wrong["same"]), (1, &json!(false)), "{command:?} {errors}");
        let mishaps = wrong["mishaps"].as_array().unwrap();
        assert_eq!(mishaps.len(), 1, "{command:?}: {mishaps:?}");
        assert_eq!((&mishaps[0]["mishap"], &mishaps[0]["whole"]), (&json!(slip), &json!(true)));
        // What was recorded is a log that differs in its last line, and is explained by the same.
        let (code, again, errors) = told(&foreign(), &["compare", "loft.magpie", log.to_str().unwrap(), "--json"]);
        assert_eq!((code, &again["first"]["line"]), (1, &again["lines"]), "{errors}");
        assert_eq!(again["first"]["differs"], wrong["first"]["differs"]);
        let tape = wrong["tape"].as_array().unwrap().len();
        assert_eq!(again["inputs"], json!(tape), "{command:?}");
        assert!(again["mishaps"].as_array().unwrap().iter().any(|mishap| mishap["mishap"] == slip), "{again}");
    }
}

#[test]
fn a_plan_is_played_by_a_game_that_is_no_pipe_and_compared() {
    let folder = tempfile::tempdir().unwrap();
    let plan = folder.path().join("plan.jsonl");
    let written = told(&foreign(), &["drive", "loft.magpie", "--plan", plan.to_str().unwrap(), "--json"]);
    assert_eq!((written.0, &written.1["sequences"].as_u64().map(|n| n > 20)), (0, &Some(true)), "{}", written.2);
    let text = std::fs::read_to_string(&plan).unwrap();
    let Some((command, _)) = games(folder.path()).into_iter().next() else { return };
    for (slip, expected) in [(None, 0), (Some("--slip"), 1)] {
        // The game replays the file, line by line, and logs each with what it says.
        let mut child = Command::new(&command[0]);
        child.args(&command[1..]).args(slip).current_dir(foreign());
        let inputs: Vec<&str> = text.lines().skip(1).collect();
        let file = folder.path().join("inputs");
        std::fs::write(&file, inputs.join("\n") + "\n").unwrap();
        let output = child.stdin(std::fs::File::open(&file).unwrap()).output().unwrap();
        let reports = String::from_utf8(output.stdout).unwrap();
        let lines = inputs.iter().zip(reports.lines()).map(|(input, report)| {
            let (mut input, report): (Value, Value) =
                (serde_json::from_str(input).unwrap(), serde_json::from_str(report).unwrap());
            input.as_object_mut().unwrap().extend(report.as_object().unwrap().clone());
            input.to_string() + "\n"
        });
        let log = folder.path().join("log.jsonl");
        std::fs::write(&log, lines.collect::<String>()).unwrap();
        let (code, found, errors) = told(&foreign(), &["compare", "loft.magpie", log.to_str().unwrap(), "--json"]);
        assert_eq!((code, &found["lines"]), (expected, &json!(inputs.len())), "{errors}");
    }
}

/// A program that answers every line with the start of the map.
const START: &str = r#"{"cell":[1,1]}"#;

#[test]
fn programs_that_behave_badly_are_told_as_what_they_are() {
    let fault = |script: &str| {
        let (code, found, errors) = sh(script);
        (code, found["fault"].as_str().unwrap_or("none").to_owned(), errors)
    };
    let is = |script: &str, code: i32, word: &str| {
        let found = fault(script);
        assert_eq!((found.0, found.1.as_str()), (code, word), "{script}: {}", found.2);
    };
    is("exit 0", 2, "ended");
    is("echo hello; read x; echo '[1]'; while read x; do :; done", 2, "not-json");
    is(&format!("read x; echo '{START}'; exit 3"), 1, "ended");
    is("read x; echo '{\"cell\":1}'; while read x; do :; done", 2, "not-json");
    is("read x; echo '{'; while read x; do :; done", 2, "not-json");
    is("while :; do printf xxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxx; done", 2, "flood");
    is(
        // Every second answer is another, whatever is asked.
        "while read x; do n=$((n+1)); if [ $((n % 7)) = 3 ]; then echo '{\"cell\":[9,9]}'; else echo '{}'; fi; done",
        1,
        "unsteady",
    );
    is(
        // It counts on through a restart.
        "while read x; do case $x in *restart*) ;; *) n=$((n+1));; esac; \
         if [ \"$n\" ] && case $x in *restart*) true;; *) false;; esac; then echo '{\"cell\":[0,0]}'; else echo '{}'; fi; done",
        1,
        "restart",
    );
    let (code, _, errors) = driven(&foreign(), &[], &["no-such-program-anywhere"]);
    assert_eq!(code, 2, "{errors}");
    let (code, found, _) = driven(&foreign(), &["--seconds", "0.3"], &["sh", "-c", "while read x; do :; done"]);
    assert_eq!((code, &found["fault"]), (3, &Value::Null), "time is over before the program is called silent");
}

#[test]
fn a_program_that_says_nothing_is_asked_whether_it_flushes() {
    let output = Command::new(PROGRAM)
        .args(["drive", "loft.magpie", "--", "sh", "-c", "echo '\u{1b}[31mloading' >&2; while read x; do :; done"])
        .current_dir(foreign())
        .output()
        .unwrap();
    let text = String::from_utf8(output.stdout).unwrap();
    assert_eq!(output.status.code(), Some(2));
    assert!(text.contains("silent:") && text.contains("does it flush"), "{text}");
    assert!(
        text.contains("loading") && !text.contains('\u{1b}'),
        "what it says reaches no terminal unfiltered: {text}"
    );
}

#[test]
fn no_process_is_left_behind() {
    // A number that no other process sleeps for.
    let seconds = 86_400 + u64::from(std::process::id());
    let script =
        format!("trap '' TERM INT HUP; sleep {seconds} & while read x; do echo '{START}'; done; sleep {seconds}");
    let (code, found, errors) = sh(&script);
    assert_eq!(code, 1, "{found} {errors}");
    let sleeps = || {
        std::fs::read_dir("/proc").map_or(0, |all| {
            let lines = all.flatten().filter_map(|entry| std::fs::read(entry.path().join("cmdline")).ok());
            lines.filter(|line| String::from_utf8_lossy(line).contains(&format!("sleep\0{seconds}"))).count()
        })
    };
    // They are killed when the program is done; the system takes them away a moment later.
    let begun = std::time::Instant::now();
    while sleeps() > 0 && begun.elapsed().as_secs() < 5 {
        std::thread::sleep(std::time::Duration::from_millis(10));
    }
    assert_eq!(sleeps(), 0);
}

#[test]
fn lines_that_are_no_reports_are_counted_and_banners_do_no_harm() {
    let script = format!("echo 'engine 4'; while read x; do echo 'tick'; echo '{START}'; done");
    let (code, found, _) = sh(&script);
    assert_eq!((code, &found["same"]), (1, &json!(false)));
    assert!(found["skipped"].as_u64().unwrap() > 2, "{found}");
    assert_eq!(found["first"]["expected"]["cell"], json!([0, 1]), "{found}");
}

#[test]
fn play_reads_a_log_as_a_tape() {
    let folder = tempfile::tempdir().unwrap();
    let log = folder.path().join("log.jsonl");
    let lines = "{\"board\":[]}\n{\"input\":\"right\",\"cell\":[9,9]}\n\n{\"at\":500,\"input\":\"left\"}\n";
    for text in [lines.to_owned(), format!("{{\"magpie-tape\":1,\"rulebook\":\"loft.magpie\"}}\n{lines}")] {
        std::fs::write(&log, text).unwrap();
        let (code, played, errors) =
            told(&foreign(), &["play", "loft.magpie", "--tape", log.to_str().unwrap(), "--json"]);
        assert_eq!((code, &played["moves"], &played["clock"]), (0, &json!(2), &json!(500)), "{errors}");
    }
}

#[test]
fn compare_tells_what_the_format_says() {
    let folder = tempfile::tempdir().unwrap();
    let book = std::fs::read_to_string(foreign().join("loft.magpie")).unwrap();
    std::fs::write(folder.path().join("loft.magpie"), book).unwrap();
    let log = "{\"board\":[\"..#...\",\".Ks..u\",\".s.#..\"]}\nnothing\n";
    std::fs::write(folder.path().join("log"), log).unwrap();
    let (code, _, errors) = run(folder.path(), &["compare", "loft.magpie", "log"]);
    assert!(code == 2 && errors.contains("line 2") && errors.contains("no JSON"), "{code} {errors}");
    let printed = "start\n> R: 2,1 yes\n> R: 4,1 yes\n";
    std::fs::write(folder.path().join("log"), printed).unwrap();
    let line = ["--line", "> {input}: {column},{row} {granted}", "--words", "R=right"];
    let (code, text, errors) = run(folder.path(), &[&["compare", "loft.magpie", "log", "--json"], &line[..]].concat());
    let found: Value = serde_json::from_str(&text).unwrap_or_else(|_| panic!("{errors}"));
    let keys: Vec<&String> = found.as_object().unwrap().keys().collect();
    assert_eq!(keys, ["lines", "inputs", "reports", "skipped", "same", "first", "mishaps"]);
    assert_eq!((code, &found["lines"], &found["skipped"], &found["same"]), (1, &json!(3), &json!(1), &json!(false)));
    let first = &found["first"];
    let keys: Vec<&String> = first.as_object().unwrap().keys().collect();
    assert_eq!(keys, ["line", "turn", "input", "differs", "expected", "got", "cells", "answer"]);
    assert_eq!((&first["line"], &first["turn"], &first["input"]), (&json!(3), &json!(2), &json!("right")));
    assert_eq!((&first["expected"], &first["got"]), (&json!({"cell":[3,1]}), &json!({"cell":[4,1]})));
    assert_eq!(first["cells"], json!([[3, 1], [4, 1]]));
    assert_eq!(first["answer"]["requests"][0]["to"], json!([3, 1]));
    let text = run(folder.path(), &["compare", "loft.magpie", "log", "--line", "> {input} {row}"]);
    assert!(text.0 == 2 && text.2.contains("{column} and {row}"), "{}", text.2);
    std::fs::write(folder.path().join("log"), "{\"magpie-tape\":1,\"map\":2}\n{\"input\":\"left\",\"cell\":[0,1]}\n")
        .unwrap();
    let (code, _, errors) = run(folder.path(), &["compare", "loft.magpie", "log"]);
    assert!(code == 2 && errors.contains("there is no map 2"), "{code} {errors}");
}

/// Frames of a pace as `pace --csv` writes them, on cells of 32 px.
fn recorded(pace: &str, more: &[&str]) -> (tempfile::TempDir, String) {
    let folder = tempfile::tempdir().unwrap();
    let book =
        std::fs::read_to_string(foreign().join("loft.magpie")).unwrap() + "\npace\n  " + pace + ", hold continuous\n";
    std::fs::write(folder.path().join("loft.magpie"), book).unwrap();
    let (code, _, errors) =
        run(folder.path(), &[&["pace", "loft.magpie", "--csv", "out.csv", "--cells", "5"], more].concat());
    assert_eq!(code, 0, "{errors}");
    let text = std::fs::read_to_string(folder.path().join("out.csv")).unwrap();
    (folder, text)
}

/// Judges frames: the exit, the pace they fit and the findings by name.
fn judged(folder: &Path, text: &str) -> (i32, Value, Vec<String>) {
    std::fs::write(folder.join("frames.csv"), text).unwrap();
    let (code, output, errors) = run(folder, &["diagnose", "loft.magpie", "frames.csv", "--json"]);
    let found: Value = serde_json::from_str(&output).unwrap_or_else(|_| panic!("{errors}"));
    let names = found["findings"].as_array().unwrap().iter().map(|finding| finding["finding"].as_str().unwrap().into());
    (code, found.clone(), names.collect())
}

#[test]
fn frames_of_a_pace_are_recognised_as_that_pace() {
    for (pace, expected) in [
        ("timed 180 ms, linear, on arrival carry", "timed 180 ms, linear, on arrival carry"),
        ("timed 180 ms, ease-in-out, on arrival snap", "timed 180 ms, ease-in-out, on arrival snap"),
        ("timed 290 ms, ease-out, on arrival carry", "timed 290 ms, ease-out, on arrival carry"),
        // 18 frames a step, exactly: nothing is left over.
        ("timed 300 ms, ease-in, on arrival carry", "timed 300 ms, ease-in, on arrival snap"),
        ("rate 130 px/s, on arrival carry", "rate 130 px/s, on arrival carry"),
        ("per-frame 3 px, on arrival snap", "per-frame 3 px, on arrival snap"),
        // The same frames, by a clause that stands before it.
        ("per-frame 5 px, on arrival drift", "rate 300 px/s, on arrival carry"),
    ] {
        let (folder, text) = recorded(pace, &["--fps", "60"]);
        let (_, found, names) = judged(folder.path(), &text);
        assert_eq!(found["runs"][0]["fits"], expected, "{pace}");
        assert!(found["runs"][0]["off"].as_f64().unwrap() <= 0.001, "{pace}: {found}");
        let wrong: &[&str] = if pace.contains("drift") { &["never-lands"] } else { &[] };
        assert_eq!(names, wrong, "{pace}");
    }
}

#[test]
fn a_motion_that_goes_wrong_is_named() {
    let folder = recorded("timed 250 ms", &[]).0;
    // The first centre of the board lies at 32,32.
    let rows = |places: &[(f64, f64)]| {
        let lines = places.iter().enumerate().map(|(row, (x, y))| format!("{},{x},{y}\n", row * 16));
        format!("t,x,y\n{}", lines.collect::<String>())
    };
    let line = |from: f64, step: f64, count: usize| (0..count).map(move |row| (from + step * row as f64, 32.0));
    let rest = |x: f64| vec![(x, 32.0); 4];
    let has = |places: Vec<(f64, f64)>, name: &str, row: u64| {
        let (code, found, names) = judged(folder.path(), &rows(&places));
        let finding = found["findings"].as_array().unwrap().iter().find(|finding| finding["finding"] == name);
        let finding = finding.unwrap_or_else(|| panic!("{name}: {names:?}"));
        assert_eq!((code, &finding["row"]), (1, &json!(row)), "{name}: {found}");
    };
    has([rest(16.0), line(20.0, 4.0, 7).collect(), rest(48.0)].concat(), "off-centre", 0);
    has(
        [rest(32.0), line(36.0, 4.0, 8).collect(), rest(65.0), line(68.0, 4.0, 8).collect(), rest(98.0)].concat(),
        "drifts",
        12,
    );
    has([rest(32.0), line(37.0, 5.0, 30).collect()].concat(), "never-lands", 3);
    has([rest(32.0), line(36.0, 4.0, 9).collect(), rest(64.0)].concat(), "overshoots", 12);
    has([rest(32.0), rest(96.0)].concat(), "jumps", 4);
    has([rest(32.0), vec![(36.0, 36.0), (40.0, 40.0)], rest(64.0)].concat(), "diagonal", 4);
    has([rest(32.0), vec![(36.0, 32.0), (40.0, 32.0), (40.0, 36.0), (40.0, 40.0)]].concat(), "turns-between", 6);
    has(
        [rest(32.0), line(36.0, 4.0, 8).collect(), vec![(64.0, 32.0)], line(68.0, 4.0, 8).collect(), rest(96.0)]
            .concat(),
        "hitches",
        12,
    );
    let two = |steps: &[(&str, u32)]| {
        let run = |(name, ms): &(&str, u32)| -> Vec<String> {
            (0..20).map(|row| format!("{name},{},{},32", row * ms, 32 + 2 * row)).collect()
        };
        format!("run,t,x,y\n{}\n", steps.iter().flat_map(run).collect::<Vec<_>>().join("\n"))
    };
    let (code, found, names) = judged(folder.path(), &two(&[("60", 16), ("30", 33)]));
    assert_eq!((code, names), (1, vec!["frame-bound".to_owned()]), "{found}");
    assert_eq!(found["findings"][0]["run"], "30");
    assert_eq!(judged(folder.path(), &two(&[("60", 16), ("again", 16)])).0, 0);
    for (text, said) in [
        ("t,x,y\n0,1,1\n0,2,2\n", "does not lie behind"),
        ("t,x,y\n0,1,1\n", "fewer than two rows"),
        ("t,x,y,run\n0,1,1,a\n5,1,1,a\n0,1,1,b\n", "run `b`"),
        ("t,x,x,y\n", "`x` twice"),
        ("t,x,y\n0,one,1\n", "`one` is no number"),
    ] {
        std::fs::write(folder.path().join("frames.csv"), text).unwrap();
        let (code, _, errors) = run(folder.path(), &["diagnose", "loft.magpie", "frames.csv"]);
        assert!(code == 2 && errors.contains(said), "{text}: {errors}");
    }
}

#[test]
fn a_log_is_followed_while_a_game_writes_it() {
    let loft = include_str!("../../../demos/foreign/loft.magpie");
    let terminal = Terminal::start(&[("loft.magpie", loft)], "loft.magpie --follow moves.jsonl", (142, 42));
    terminal.sees(&["waiting for it"]);
    let path = terminal.folder.path().join("moves.jsonl");
    let write = |text: &str| {
        use std::io::Write as _;
        let mut file = std::fs::OpenOptions::new().create(true).append(true).open(&path).unwrap();
        file.write_all(text.as_bytes()).unwrap();
    };
    write("{\"input\":\"left\",\"cell\":[0,1]}\n{\"input\":\"up\",\"ce");
    terminal.sees(&["1 line, 1 report", "✓ 1 report alike"]);
    write("ll\":[0,0]}\n{\"input\":\"left\",\"cell\":[5,0]}\n");
    terminal.sees(&[
        "✗ they part in line 3, left: cell",
        "edges-join",
        "explains all 3 reports",
        "model 0,0  program 5,0",
    ]);
    // Play tells the same moment.
    terminal.keys("Tab");
    terminal.sees(&["REFUSED   keeper at 0,0 asks west", "turn 3: left"]);
    terminal.keys("BTab d");
    terminal.keys("e c h o Space h i Enter");
    terminal.sees(&["ended: the program has ended where a report was due", "it said: hi"]);
    std::fs::write(&path, "{\"input\":\"up\",\"cell\":[1,0]}\n").unwrap();
    terminal.keys("f m o v e s . j s o n l Enter");
    terminal.sees(&["1 line, 1 report", "✓ 1 report alike"]);
}
