//! Every mistake of a whole program: what it does by hand-drawn boards, that its log is explained by it, and where it is none.

use super::{Comparison, Header, Log, Tongue, TraceError, compare};
use crate::grid::{Grid, Nobody};
use crate::input::{Input, parse_inputs};
use crate::mishap::{Played, Slip, Slipped, Sort, slips_of};
use crate::rulebook::{Rulebook, read_text};
use crate::space::Cell;
use std::sync::Arc;

/// Lines in memory.
struct Lines<'t>(&'t str, std::str::Lines<'t>);

impl<'t> Lines<'t> {
    fn new(text: &'t str) -> Self {
        Self(text, text.lines())
    }
}

impl Log for Lines<'_> {
    fn rewind(&mut self) -> Result<(), String> {
        self.1 = self.0.lines();
        Ok(())
    }

    fn next(&mut self, into: &mut String) -> Result<bool, String> {
        let Some(line) = self.1.next() else { return Ok(false) };
        into.push_str(line);
        Ok(true)
    }
}

pub(super) fn yard(statements: &str, rules: &str, rows: &str) -> Arc<Rulebook> {
    let lines = |text: &str| text.split('/').flat_map(|line| ["  ", line, "\n"]).collect::<String>();
    let under = rules.split(';').flat_map(|line| ["  ", line, "\n"]).collect::<String>();
    let rules = if rules.is_empty() { String::new() } else { format!("rules\n{under}") };
    let source = format!(
        "game \"Yard\"\ncell 10 px\norigin 30,50 px\nkinds\n  plank . floor\n  wet ~ floor\n  dry : floor\n  mat m mark\n  raft R mark\n  ada A body\n  \
         box B body\n  cog C body\n  tile T body\n  rope r body\n  wall # body\nground plank\nmap \"One\"\n{}{}\n{rules}",
        lines(rows),
        statements.replace(';', "\n"),
    );
    let reading = read_text(&source, &|_| Err("none".into()));
    assert!(!reading.has_errors(), "{:?}\n{source}", reading.diagnostics);
    Arc::new(reading.rulebook.unwrap())
}

pub(super) fn compared(book: &Arc<Rulebook>, tongue: &Tongue, text: &str) -> Result<Comparison, TraceError> {
    compare(book, tongue, Header::default(), 0.01, &mut Lines::new(text))
}

fn cell_words(cell: Option<Cell>) -> String {
    cell.map_or("null".into(), |cell| format!("[{},{}]", cell.column, cell.row))
}

/// A game as some version plays it: its log and its last board.
pub(super) fn log_of(book: &Arc<Rulebook>, slipped: &[Slipped], inputs: &str) -> (String, String) {
    let played = Played::with(book, slipped, 12);
    let mut grid = Grid::with_switches(played.book.clone(), 0, None, (played.switches, None), &mut Nobody).unwrap();
    let mut lines = vec![report(book, &grid, None)];
    for input in parse_inputs(inputs).unwrap() {
        grid.input(&played.heard(&input), &mut Nobody);
        lines.push(report(book, &grid, Some(&input)));
    }
    (lines.iter().flat_map(|line| [line, "\n"]).collect(), grid.picture().join("/"))
}

/// What a program says of its game: where the controlled piece stands, and the board.
pub(super) fn report(book: &Rulebook, grid: &Grid, input: Option<&Input>) -> String {
    let cell = grid.first_controlled().and_then(|piece| grid.board().cell_of(piece));
    let cell = cell.map(|cell| grid.switches().margin.outer(grid.board().cell(cell)));
    let input = input.map_or(String::new(), |input| format!("\"input\":\"{input}\","));
    let board = grid.picture().iter().map(|row| format!("\"{row}\"")).collect::<Vec<_>>().join(",");
    let cell = if book.controls.is_empty() { String::new() } else { format!("\"cell\":{},", cell_words(cell)) };
    format!("{{{input}{cell}\"board\":[{board}]}}")
}

/// A mistake on two boards under the same rules: on the first it shows, on the second it does not.
struct Case {
    slip: Slip,
    statements: &'static str,
    rules: &'static str,
    board: &'static str,
    inputs: &'static str,
    right: &'static str,
    wrong: &'static str,
    same: (&'static str, &'static str),
}

pub(super) const ARROWS: &str = "control ada with arrows";
const SHOVE: &str = "ada into box: shove";

#[allow(clippy::too_many_arguments)] // a row of the tables below
const fn case(
    slip: Slip,
    statements: &'static str,
    rules: &'static str,
    board: &'static str,
    inputs: &'static str,
    right: &'static str,
    wrong: &'static str,
    same: (&'static str, &'static str),
) -> Case {
    Case { slip, statements, rules, board, inputs, right, wrong, same }
}

fn cases() -> Vec<Case> {
    cases_of_moves().into_iter().chain(cases_of_turns()).chain(cases_of_trails_and_floods()).collect()
}

fn cases_of_moves() -> Vec<Case> {
    vec![
        case(Slip::UpIsDown, ARROWS, "", ".../.A./...", "up", ".A./.../...", ".../.../.A.", (".A.", "left")),
        case(Slip::LeftIsRight, ARROWS, "", ".A.", "left", "A..", "..A", (".A./...", "down")),
        case(
            Slip::HeadingAxesSwapped,
            ARROWS,
            "",
            ".../.A./...",
            "left",
            ".../A../...",
            ".A./.../...",
            ("A", "left up"),
        ),
        case(Slip::EveryInputTwice, ARROWS, "", "A...", "right", ".A..", "..A.", ("A.", "right left")),
        case(Slip::BoundsForgotten, ARROWS, "", "A../...", "up", "A../...", ".../...", ("A../...", "right down")),
        case(Slip::FarEdgeOwned, ARROWS, "", "..A", "right", "..A", "...", ("..A", "left")),
        case(Slip::OnlyColumnsChecked, ARROWS, "", "A.", "up", "A.", "..", ("A.", "left right right")),
        case(Slip::OnlyRowsChecked, ARROWS, "", "A./..", "left", "A./..", "../..", ("A./..", "up down down")),
        case(Slip::RowWraps, ARROWS, "", "..A/...", "right", "..A/...", ".../A..", ("..A/...", "up left")),
        case(Slip::EdgesJoin, ARROWS, "", "..A/...", "right up", "..A/...", ".../A..", ("..A", "left")),
        case(Slip::VoidWalked, ARROWS, "", "A m", "right", "A m", ". m", ("A. m", "right left")),
        case(Slip::VacancyForgotten, ARROWS, "", "A#.", "right right", "A#.", ".#A", ("A.#", "right left")),
        case(Slip::ClauseIgnored, ARROWS, SHOVE, "AB.", "right", ".AB", "AB.", ("A.B", "right")),
        case(Slip::PushUnlimited, ARROWS, SHOVE, "ABB.", "right", "ABB.", ".ABB", ("AB..", "right")),
        case(
            Slip::PushOneOnly,
            ARROWS,
            "ada into box: shove;box into box: shove",
            "ABB.",
            "right",
            ".ABB",
            "ABB.",
            ("AB..", "right"),
        ),
        case(Slip::PushIntoPiece, ARROWS, SHOVE, "ABC.", "right", "ABC.", ".AB.", ("AB..", "right right")),
        case(Slip::PusherStays, ARROWS, SHOVE, "AB..", "right right", "..AB", ".AB.", ("A..", "right")),
        case(Slip::PusherEnters, ARROWS, SHOVE, "AB#", "right left", "AB#", "AB#", ("AB.", "right")),
        case(Slip::OldCellKept, ARROWS, "", "A..", "right left", "A..", ".A.", ("A..", "right right")),
        case(Slip::SwapHalf, ARROWS, "ada into box: swap", "AB", "right", "BA", ".A", ("A.B", "right")),
        case(
            Slip::StaysRegistered,
            "control ada with arrows;glide raft east at 10 px/s, stop",
            "ada into raft: ride",
            "AR..../......",
            "right wait:2000 down",
            "...R../...A..",
            "...R../.A....",
            ("A.R.../......", "right down"),
        ),
    ]
}

fn cases_of_turns() -> Vec<Case> {
    let drop = "when row full of tile: clear, drop above";
    vec![
        case(
            Slip::NotLookedAgain,
            ARROWS,
            "on key act: place box at column 0 row 0;when cog: become tile;when box: become cog",
            ".A",
            "act",
            "TA",
            "CA",
            (".A", "left"),
        ),
        case(
            Slip::RowOneShort,
            "",
            "when row full of tile: clear",
            "TT./T..",
            "",
            "TT./T..",
            ".../T..",
            ("T../...", ""),
        ),
        case(Slip::DropForgotten, "", drop, "T../TTT", "", ".../T..", "T../...", (".../TTT", "")),
        case(Slip::WallsDrop, "", drop, "#../TTT", "", "#../...", ".../#..", ("T../TTT", "")),
        case(
            Slip::FallsToTheBottom,
            "",
            drop,
            "T../.../TTT/...",
            "",
            ".../T../.../...",
            ".../.../.../T..",
            ("T../TTT", ""),
        ),
    ]
}

fn cases_of_trails_and_floods() -> Vec<Case> {
    let trail = "trail ada leaves rope, 3 long;control ada with arrows";
    vec![
        case(
            Slip::TailInTheWay,
            trail,
            "",
            "A./..",
            "right down left up",
            "Ar/rr",
            "rr/Ar",
            ("A../...", "right right"),
        ),
        case(
            Slip::TailOverlooked,
            "trail ada leaves rope, 3 long, tail leaves last;control ada with arrows",
            "",
            "A./..",
            "right down left up",
            "rr/Ar",
            "Ar/rr",
            ("A../...", "right right"),
        ),
        case(
            Slip::GrowsLate,
            "trail ada leaves rope, 1 long;control ada with arrows",
            "ada into box: take, grow 2",
            "AB...",
            "right right",
            "rrA..",
            ".rA..",
            ("A...B", "right right"),
        ),
        case(
            Slip::ReverseAllowed,
            "control ada with arrows, no reverse",
            "",
            "A..",
            "right left",
            ".A.",
            "A..",
            ("A..", "right right"),
        ),
        case(
            Slip::CornersLeak,
            ARROWS,
            "on key act: flood from column 0 row 0 into wet",
            ".:A/:..",
            "act",
            "~:A/:..",
            "~:A/:~~",
            (".../..A", "act"),
        ),
        case(
            Slip::CornersShut,
            ARROWS,
            "on key act: flood from column 0 row 0 into wet 8-way",
            ".:A/:..",
            "act",
            "~:A/:~~",
            "~:A/:..",
            (".../..A", "act"),
        ),
        case(
            Slip::SwapUnchecked,
            "",
            "on drag box to cog: swap dragged with dropped if it makes run;when run of 3 same box in rows: signal \"run\"",
            "BC.",
            "drag:0,0>1,0",
            "BC.",
            "CB.",
            ("BBCB", "drag:3,0>2,0"),
        ),
    ]
}

/// The mistake of a case in its rulebook; of an ignored rule that of the first.
fn slipped(book: &Rulebook, slip: Slip) -> Slipped {
    slips_of(book).into_iter().find(|slipped| slipped.slip == slip).unwrap_or_else(|| panic!("{} is tried", slip.id()))
}

#[test]
fn a_mistake_does_what_the_drawing_shows_and_nothing_where_it_changes_nothing() {
    for case in cases() {
        let name = case.slip.id();
        let book = yard(case.statements, case.rules, case.board);
        let wrong = [slipped(&book, case.slip)];
        assert_eq!(log_of(&book, &[], case.inputs).1, case.right, "{name}: the right one");
        // What lies under the floor is the ground: a board is seen from above.
        assert_eq!(log_of(&book, &wrong, case.inputs).1, case.wrong, "{name}");
        let same = yard(case.statements, case.rules, case.same.0);
        // A rule that is never asked is ignored without a trace.
        let wrong = slips_of(&same).into_iter().find(|slipped| slipped.slip == case.slip);
        let wrong: Vec<Slipped> = wrong.into_iter().collect();
        assert_eq!(log_of(&same, &wrong, case.same.1), log_of(&same, &[], case.same.1), "{name}: no difference there");
    }
}

#[test]
fn the_log_of_a_mistake_is_explained_by_it_and_the_right_one_by_nothing() {
    for case in cases() {
        let name = case.slip.id();
        let book = yard(case.statements, case.rules, case.board);
        let wrong = slipped(&book, case.slip);
        let right = compared(&book, &Tongue::default(), &log_of(&book, &[], case.inputs).0).unwrap();
        assert!(right.first.is_none() && right.mishaps.is_empty(), "{name}");
        assert_eq!(right.alike, right.reports, "{name}");
        let (log, _) = log_of(&book, std::slice::from_ref(&wrong), case.inputs);
        let found = compared(&book, &Tongue::default(), &log).unwrap();
        assert!(found.first.is_some(), "{name} differs: {log}");
        let explained = found.mishaps.iter().find(|mishap| mishap.slipped == wrong);
        let explained = explained.unwrap_or_else(|| panic!("{name} is found: {:?}", found.mishaps));
        assert!(explained.is_whole && explained.with.is_none() && explained.explains == found.reports, "{name}");
        assert!(!wrong.says(&book).contains('{'), "{}", wrong.says(&book));
    }
}

#[test]
fn every_mistake_of_a_game_has_a_case_and_every_one_that_is_told_has_a_line() {
    let told = telling().into_iter().map(|(slip, ..)| slip);
    let known: Vec<Slip> = cases().into_iter().map(|case| case.slip).chain(told).collect();
    for slip in Slip::ALL {
        assert!(known.contains(slip), "{}", slip.id());
        assert_eq!(Slip::of_id(slip.id()), Some(*slip));
    }
    let sorts: std::collections::BTreeSet<Sort> = Slip::ALL.iter().map(|slip| slip.sort()).collect();
    assert_eq!(sorts.len(), 6);
}

/// What a program with a mistake of telling says after `right` on `.A./...`, cells of 10 px and origin 30, 50; beside it what
/// the same program says of a board on which that is right as well.
fn telling() -> Vec<(Slip, &'static str)> {
    vec![
        (Slip::CountedFromOne, r#"{"input":"right","cell":[3,1]}"#),
        (Slip::AxesSwapped, r#"{"input":"right","cell":[0,2]}"#),
        (Slip::YTurnedRound, r#"{"input":"right","cell":[2,1]}"#),
        (Slip::ToldBefore, r#"{"input":"right","cell":[1,0],"board":[".A.","..."]}"#),
        (Slip::CornerForCentre, r#"{"input":"right","xy":[50,50]}"#),
        (Slip::HalfCellTwice, r#"{"input":"right","xy":[60,60]}"#),
        (Slip::SizeNotMultipliedBack, r#"{"input":"right","xy":[2,0]}"#),
        (Slip::OriginForgotten, r#"{"input":"right","xy":[25,5]}"#),
    ]
}

#[test]
fn what_is_told_wrong_is_named() {
    let book = yard(ARROWS, "", ".A./...");
    for (slip, line) in telling() {
        let found = compared(&book, &Tongue::default(), line).unwrap();
        let names: Vec<&str> = found.mishaps.iter().map(|mishap| mishap.slipped.slip.id()).collect();
        assert!(found.first.is_some() && names.contains(&slip.id()), "{}: {names:?}", slip.id());
    }
    let right = r#"{"input":"right","cell":[2,0],"xy":[55,55.004],"index":2,"counters":{"moves":1,"turns":1},"granted":true,"outcome":null}"#;
    let found = compared(&book, &Tongue::default(), right).unwrap();
    assert!(found.first.is_none(), "{:?}", found.first);
}

#[test]
fn two_mistakes_together_are_found_where_none_alone_explains() {
    let book = yard(ARROWS, SHOVE, ".AB./....");
    let log =
        [r#"{"input":"right","cell":[3,1]}"#, r#"{"input":"left","cell":[2,1]}"#, r#"{"input":"up","cell":[2,2]}"#];
    // Counted from one, and up and down exchanged.
    let found = compared(&book, &Tongue::default(), &log.join("\n")).unwrap();
    let pair = found.mishaps.first().expect("an explanation");
    assert!(pair.is_whole && pair.with.is_some(), "{pair:?}");
    assert_eq!(pair.made().map(|made| made.slip).collect::<Vec<_>>(), [Slip::UpIsDown, Slip::CountedFromOne]);
}

#[test]
fn what_nothing_explains_is_told_with_the_most() {
    let book = yard(ARROWS, "", ".A./...");
    let log =
        [r#"{"input":"up","cell":[1,1]}"#, r#"{"input":"left","cell":[0,1]}"#, r#"{"input":"left","cell":[7,7]}"#];
    let found = compared(&book, &Tongue::default(), &log.join("\n")).unwrap();
    assert_eq!((found.alike, found.first.as_ref().map(|first| first.line)), (0, Some(1)));
    let best = &found.mishaps[..];
    assert!(matches!(best, [best] if !best.is_whole && best.explains == 2), "{best:?}");
    let nothing = compared(&book, &Tongue::default(), r#"{"input":"up","cell":[9,9]}"#).unwrap();
    assert!(nothing.first.is_some() && nothing.mishaps.is_empty(), "{:?}", nothing.mishaps);
}

#[test]
fn printed_lines_words_and_glyphs_are_read() {
    let book = yard(ARROWS, SHOVE, ".AB.");
    let templates = ["step {input} -> ({column}, {row})  ok={granted}".to_owned()];
    let tongue = Tongue::new(&templates, "R=right L=left crate=box", "@=A $=B").unwrap();
    let text = "ready\nstep R -> (2,  0) ok=yes\n  step   L -> (1, 0)   ok=TRUE  \nstep L -> (0, 0) ok=0\n";
    let found = compared(&book, &tongue, text).unwrap();
    // `(2,  0)`: runs of blanks are alike; `ok=0` is not what the model says.
    assert_eq!((found.lines, found.inputs, found.reports, found.skipped, found.alike), (4, 3, 3, 1, 2));
    assert_eq!(found.first.unwrap().line, 4);
    assert_eq!(compared(&book, &tongue, "nothing\nfits\n").unwrap_err(), TraceError::NothingFits(2));
    let words = Tongue::new(&[], "crate=box", "@=A $=B").unwrap();
    let text = r#"{"board":[".@$."],"pieces":[{"kind":"crate","column":2,"row":0,"id":7}]}"#;
    assert!(compared(&book, &words, text).unwrap().first.is_none());
    for (template, said) in
        [("{input", "no `}`"), ("{inputs}", "is no field"), ("{row}", "needs both"), ("{t} {t}", "twice")]
    {
        let error = Tongue::new(&[template.to_owned()], "", "").unwrap_err().to_string();
        assert!(error.contains(said), "{template}: {error}");
    }
    assert!(Tongue::new(&[], "left", "").is_err() && Tongue::new(&[], "", "ab=c").is_err());
}

#[test]
fn a_line_that_says_what_cannot_be_is_told_with_its_number() {
    let book = yard(ARROWS, "", ".A.");
    for (line, said) in [
        (r#"{"input":"rihgt"}"#, "`rihgt` is no input"),
        (r#"{"cell":[1]}"#, "`cell` is no pair"),
        (r#"{"cell":[1.5,0]}"#, "`cell` is no whole number"),
        (r#"{"board":"A"}"#, "`board` is no list"),
        (r#"{"pieces":[{"kind":"axe","column":1,"row":0}]}"#, "there is no kind `axe`"),
        (r#"{"counters":{"coal":1}}"#, "there is no counter `coal`"),
        (r#"{"fired":["beat"]}"#, "there is no timer `beat`"),
        (r#"{"outcome":"fun"}"#, "is no outcome"),
        (r#"{"granted":1}"#, "`granted` is neither"),
        (r"[1]", "no JSON object"),
        (r#"{"at":5"#, "this is no JSON"),
    ] {
        let text = format!("{{}}\n\n{line}\n");
        let error = compared(&book, &Tongue::default(), &text).unwrap_err();
        assert!(matches!(error, TraceError::Line(3, _)) && error.to_string().contains(said), "{line}: {error}");
    }
    let error = compared(&book, &Tongue::default(), "{\"at\":9}\n{\"at\":8}").unwrap_err();
    assert!(error.to_string().contains("line 2: the clock goes back"), "{error}");
    let nobody = yard("", "", "...");
    assert!(
        compared(&nobody, &Tongue::default(), r#"{"cell":[0,0]}"#).unwrap_err().to_string().contains("no `control`")
    );
}

#[test]
fn unknown_keys_blanks_and_what_is_not_told_make_no_difference() {
    let book = yard(ARROWS, SHOVE, ".AB.");
    let text = r#"{"magpie-tape":1,"rulebook":"x","map":1,"seed":4}

{"board":["?AB.",""],"mood":"fine"}
{"input":"right","board":["..AB",""],"kinds":["cog"]}
{"input":"undo","board":[".AB."]}
{"input":"restart","pieces":[{"kind":"box","column":2,"row":0}]}"#;
    let found = compared(&book, &Tongue::default(), text).unwrap();
    assert!(found.first.is_none(), "{:?}", found.first);
    assert_eq!((found.lines, found.inputs, found.reports), (6, 3, 4));
}

#[test]
fn a_name_stays_with_its_piece() {
    let book = yard(ARROWS, SHOVE, "AB.B");
    let piece = |id: u32, column: u32| format!(r#"{{"kind":"box","column":{column},"row":0,"id":{id}}}"#);
    let begun = format!(r#"{{"pieces":[{},{}]}}"#, piece(1, 1), piece(2, 3));
    let after = |first: u32, second: u32| {
        format!("{begun}\n{{\"input\":\"right\",\"pieces\":[{},{}]}}", piece(first, 2), piece(second, 3))
    };
    assert!(compared(&book, &Tongue::default(), &after(1, 2)).unwrap().first.is_none());
    let exchanged = compared(&book, &Tongue::default(), &after(2, 1)).unwrap();
    assert_eq!(exchanged.first.unwrap().differs[0].expected.key(), "pieces");
    let new = format!("{}\n{{\"input\":\"restart\",\"pieces\":[{},{}]}}", after(1, 2), piece(2, 1), piece(1, 3));
    assert!(compared(&book, &Tongue::default(), &new).unwrap().first.is_none(), "a restart forgets names");
}

#[test]
fn draws_and_timers_are_taken_as_given() {
    let rules = "each beat: spawn box at random empty;on key act: refill ware at north";
    let statements = "timer beat 1000 ms;group ware = box, cog;control ada with arrows";
    let book = yard(statements, rules, "...A/TTTT");
    let tongue = Tongue::default();
    let given = r#"{"at":1003,"fired":["beat"],"spawned":[[1,0]],"board":[".B.A","TTTT"]}
{"at":2500,"fired":[],"board":[".B.A"]}
{"at":3001,"fired":["beat"],"spawned":[[0,0]],"board":["BB.A","TTTT"]}
{"input":"act","drawn":["cog"],"board":["BBCA","TTTT"]}"#
        .replace(r#"[".B.A"]"#, r#"[".B.A","TTTT"]"#);
    let found = compared(&book, &tongue, &given).unwrap();
    assert!(found.first.is_none(), "{:?}", found.first);
    for (one, other) in [("[[1,0]]", "[[3,0]]"), ("[\"cog\"]", "[\"cog\",\"cog\"]"), ("[\"cog\"]", "[\"wall\"]")] {
        let found = compared(&book, &tongue, &given.replace(one, other)).unwrap();
        assert_eq!(found.first.expect("not allowed").differs[0].expected.key(), "drawn", "{other}");
    }
}
