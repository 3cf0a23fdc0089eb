//! The workbench in a real terminal: keys, mouse, resize, reload, signals.

mod support;

use std::process::Command;
use support::Terminal;

const LOFT: &str = include_str!("../../../demos/cog-loft.magpie");
const SIZE: (u16, u16) = (142, 42);

fn loft() -> Terminal {
    let terminal = Terminal::start(&[("loft.magpie", LOFT)], "loft.magpie", SIZE);
    terminal.sees(&["Cog Loft", "nothing has been asked yet"]);
    // The keys of the tests come faster than the apprentice walks.
    terminal.keys("v");
    terminal
}

#[test]
fn walking_a_refusal_with_its_reason_undo_and_the_tape() {
    let terminal = loft();
    terminal.keys("Right Right Up Right");
    terminal.sees(&["REFUSED", "✗ meets   hole at 5,1: stop", "apprentice into hole: stop", "nothing moved", "4 of 4"]);
    terminal.keys("u");
    terminal.sees(&["GRANTED", "turn 3: up", "3 of 3"]);
    terminal.keys(", ,");
    terminal.sees(&["turn 1: right", "1 of 3", "cog 3,2 to 4,2"]);
    terminal.keys(".");
    terminal.sees(&["turn 2: right", "2 of 3"]);
    // Playing on from here cuts the tape; the old one can be gone back to.
    terminal.keys("Left");
    terminal.sees(&["3 of 3", "turn 3: left"]);
    terminal.keys("b");
    terminal.sees(&["turn 3: up", "3 of 3"]);
    terminal.keys("r");
    terminal.sees(&["restart: map 1 begins, no turn", "4 of 4"]);
}

#[test]
fn a_click_shows_what_is_in_a_cell_and_the_overlay_changes() {
    let terminal = loft();
    let (column, line) = terminal.find("rope");
    terminal.click(column, line);
    terminal.sees(&["column 8, row 1 · index 18", "rope  mark", "plank  floor", "340, 60 px", "enters from"]);
    terminal.keys("Escape");
    terminal.sees_no("index 18");
    terminal.keys("o");
    terminal.sees(&["shows column,row", "8,1"]);
    terminal.keys("o");
    terminal.sees(&["shows index", "49"]);
    terminal.keys("c");
    terminal.sees(&["cells can be entered now", "stand open and cannot be reached", "nothing shoved"]);
}

/// One cog at a time, and two in a row.
const LINE: &str = "game \"Line\"\ncell 10 px\nkinds\n  plank . floor\n  ada A body\n  cog c body\nground plank\nmap \"One\"\n  \
                    Acc..\ncontrol ada with arrows\nrules\n  ada into cog: shove\n  cog into cog: stop // one at a time\n";

#[test]
fn another_verb_in_the_table_ends_the_same_tape_differently_and_is_taken_back() {
    let terminal = Terminal::start(&[("line.magpie", LINE)], "line.magpie", SIZE);
    terminal.sees(&["Line", "nothing has been asked yet"]);
    terminal.keys("Right Right");
    terminal.sees(&["REFUSED", "cog into cog: stop", "2 of 2"]);
    terminal.keys("Tab Tab Tab 2");
    terminal.sees(&["who moves ↓", "ada into ada", "stop"]);
    terminal.keys("Down Right");
    terminal.sees(&["cog into cog: the cog is refused (line 13)"]);
    terminal.keys("Enter Right");
    terminal.sees(&["another verb for cog into cog", "cog into cog: shove"]);
    terminal.keys("Enter");
    let screen = terminal.sees(&[
        "input 1 comes out differently",
        "not saved yet: changes of Rules",
        "the cog is asked to move on",
    ]);
    assert!(!screen.contains("✗→"), "{screen}");
    let path = terminal.folder.path().join("line.magpie");
    assert_eq!(std::fs::read_to_string(&path).unwrap(), LINE, "nothing is written before it is asked for");
    terminal.keys("U");
    terminal.sees(&["✗→", "cog into cog: the cog is refused"]);
    terminal.sees_no("not saved yet");
    // The same by mouse, and written.
    let (column, line) = terminal.find("shove");
    terminal.click(column, line);
    terminal.sees(&["ada into cog: the cog is asked"]);
    terminal.click(column, line);
    terminal.sees(&["another verb for ada into cog"]);
    let (column, line) = terminal.find(" take ");
    terminal.click(column + 1, line);
    terminal.sees(&["ada into cog: the cog leaves the board"]);
    terminal.keys("C-s");
    terminal.sees(&["written to line.magpie"]);
    assert_eq!(std::fs::read_to_string(&path).unwrap(), LINE.replace("ada into cog: shove", "ada into cog: take"));
}

#[test]
fn the_text_is_typed_into_completed_and_saved() {
    let terminal = Terminal::start(&[("line.magpie", LINE)], "line.magpie", SIZE);
    terminal.sees(&["nothing has been asked yet"]);
    terminal.keys("Right Tab Tab Tab");
    terminal.sees(&["▸ 12", "▸ 13", "control ada with arrows"]);
    // Behind the last rule a line is begun; names and words are completed as they are typed.
    terminal.keys("Enter End Enter");
    terminal.types("co");
    terminal.sees(&["Tab", "cog", "✗ line 14"]);
    terminal.keys("Tab");
    terminal.types(" into edge: per");
    terminal.sees(&["Tab perish"]);
    terminal.keys("Tab");
    terminal.sees(&["cog into edge: perish", "✓ no mistakes", "not saved yet: changes of Rules"]);
    terminal.types("x");
    terminal.sees(&["✗ line 14"]);
    terminal.keys("C-z");
    terminal.sees(&["✓ no mistakes"]);
    terminal.keys("C-s");
    terminal.sees(&["saved", "every input comes out as before"]);
    let path = terminal.folder.path().join("line.magpie");
    let wanted = LINE.replace("// one at a time\n", "// one at a time\n  cog into edge: perish\n");
    assert_eq!(std::fs::read_to_string(&path).unwrap(), wanted);
    // Esc gives the keys back to the bench; the digits are pages again.
    terminal.keys("Escape");
    terminal.keys("2");
    terminal.sees(&["worth a look", "can leave the board over its edge"]);
    terminal.keys("1 Enter");
    terminal.types("é");
    terminal.keys("Escape Tab Tab Tab");
    // What was typed and not saved waits on its bench.
    terminal.sees(&["Play"]);
    terminal.keys("Tab Tab Tab");
    terminal.sees(&["not saved yet: changes of Rules", "é"]);
    terminal.resize(80, 24);
    terminal.sees(&["1 text"]);
}

#[test]
fn what_another_editor_saved_is_not_written_over_unasked() {
    let terminal = Terminal::start(&[("line.magpie", LINE)], "line.magpie", SIZE);
    terminal.sees(&["nothing has been asked yet"]);
    terminal.keys("Tab Tab Tab Enter End");
    terminal.types(" // mine");
    terminal.sees(&["not saved yet: changes of Rules"]);
    let path = terminal.folder.path().join("line.magpie");
    let theirs = LINE.replace("Acc..", "Acc...");
    std::fs::write(&path, &theirs).unwrap();
    terminal.sees(&["6 × 1 cells"]);
    terminal.keys("C-s");
    terminal.sees(&["the file has changed since"]);
    assert_eq!(std::fs::read_to_string(&path).unwrap(), theirs);
    terminal.keys("C-s");
    terminal.sees(&["saved", "5 × 1 cells"]);
    assert!(std::fs::read_to_string(&path).unwrap().starts_with("game \"Line\" // mine\n"));
}

#[test]
fn the_page_of_keys_comes_from_the_table() {
    let terminal = loft();
    terminal.keys("?");
    let page = terminal.sees(&["on the Play bench", "everywhere", "take the last input back"]);
    for words in ["one input back on the tape", "leave the workbench", "the next bench"] {
        assert!(page.contains(words), "{page}");
    }
    terminal.keys("Escape");
    terminal.sees_no("take the last input back");
}

#[test]
fn an_edit_in_another_editor_plays_the_same_tape_again_and_marks_the_change() {
    let terminal = loft();
    let tape = "Up Left Down Right Up Right Down Up Down";
    terminal.keys(tape);
    terminal.sees(&["9 of 9"]);
    let path = terminal.folder.path().join("loft.magpie");
    std::fs::write(&path, LOFT.replace("\n  #..c.:...#", "\n  #.cc.:...#")).unwrap();
    terminal.sees(&["reloaded: input", "comes out differently", "≠"]);
    terminal.keys("d");
    terminal.sees(&["before the edit", "after the edit"]);
    terminal.keys("d");
    // With mistakes the list is shown and the last good game stays.
    std::fs::write(&path, LOFT.replace("apprentice into goods: shove", "apprentice into goods: shov")).unwrap();
    terminal.sees(&["1 mistake", "did you mean `shove`?", "the last good rulebook", "First loft"]);
    terminal.keys("Left");
    std::fs::write(&path, LOFT).unwrap();
    terminal.sees(&["● live"]);
    terminal.sees_no("1 mistake");
}

#[test]
fn stop_changed_to_shove_turns_the_ninth_input() {
    let line = LOFT.replace("\n  #.Ac.:...#", "\n  #.A.c.c..#").replace("\n  #....:..r#", "\n  #.......r#");
    let map = line.replace("\n  #..c.:...#", "\n  #........#");
    let terminal = Terminal::start(&[("loft.magpie", &map)], "loft.magpie", SIZE);
    terminal.sees(&["Cog Loft"]);
    terminal.keys("v Up Down Up Down Left Right Right Right Right");
    terminal.sees(&["9 of 9", "REFUSED", "cog at 5,2 meets cog at 6,2: stop"]);
    let path = terminal.folder.path().join("loft.magpie");
    std::fs::write(path, map.replace("goods into goods: stop  ", "goods into goods: shove ")).unwrap();
    terminal.sees(
        &["reloaded: input 9 comes out differently", "≠ ✗→", "GRANTED"].map(|words| words.trim_start_matches("≠ ✗")),
    );
    terminal.sees(&["≠ from input 9", "cog 5,2 to 6,2, cog 6,2 to 7,2"]);
    terminal.keys("d");
    terminal.sees(&["before the edit", "after the edit", "REFUSED", "GRANTED"]);
}

#[test]
fn a_file_with_mistakes_opens_with_their_list() {
    let broken = LOFT.replace("into hole", "into hoel");
    let terminal = Terminal::start(&[("loft.magpie", &broken)], "loft.magpie", SIZE);
    terminal.sees(&["3 mistakes", "`hoel` is no kind or group", "did you mean `hole`?"]);
    std::fs::write(terminal.folder.path().join("loft.magpie"), LOFT).unwrap();
    terminal.sees(&["Cog Loft", "nothing has been asked yet"]);
}

#[test]
fn the_probe_follows_keys_mouse_and_a_typed_position() {
    let terminal = loft();
    terminal.keys("Tab");
    terminal.sees(&["px 100, 100", "column 2", "the way, worked", "column = floor(100 / 40) = floor(2.5) = 2"]);
    terminal.keys("Right L Down");
    terminal.sees(&["px 111, 101", "index = 2 * 10 + 2 = 22"]);
    let (column, line) = terminal.find("rope");
    terminal.click(column, line);
    terminal.sees(&["column 8", "row 1", "index 18"]);
    terminal.keys("g").types("px:-1,40");
    terminal.keys("Enter");
    terminal.sees(&["column -1", "outside the board", "nearest", "✗ truncated"]);
    terminal.keys("g").types("px:oops");
    terminal.keys("Enter");
    terminal.sees(&["is no"]);
}

#[test]
fn a_small_window_and_back() {
    let terminal = loft();
    terminal.keys("Right Right Up Right");
    terminal.resize(80, 24);
    terminal.sees(&["Cog Loft", "REFUSED", "4 of 4"]);
    terminal.keys("Tab");
    terminal.sees(&["the way, worked"]);
    terminal.resize(200, 55);
    terminal.sees(&["the way, worked", "and back"]);
    terminal.resize(30, 8);
    terminal.sees(&["too small"]);
    terminal.resize(142, 42);
    terminal.sees(&["Cog Loft", "and back"]);
}

#[test]
fn leaving_gives_the_terminal_back() {
    let terminal = loft();
    terminal.keys("q");
    let screen = terminal.sees(&["[left with 0]"]);
    assert!(!screen.contains("Cog Loft"), "the screen from before is back:\n{screen}");
    terminal.is_given_back();
}

#[test]
fn signals_give_the_terminal_back_and_keep_the_tape() {
    for signal in ["TERM", "HUP", "QUIT", "USR1", "USR2", "ALRM", "XFSZ", "KILL"] {
        let terminal = loft();
        terminal.keys("Right Right Up");
        terminal.sees(&["3 of 3"]);
        let process = terminal.process();
        Command::new("kill").args(["-s", signal, &process]).status().unwrap();
        if signal != "KILL" {
            terminal.sees(&["[left with 1"]);
        }
        // Where the guard is killed the workbench gives the terminal back, a moment after the shell goes on.
        terminal.is_given_back();
        terminal.again("loft.magpie", SIZE);
        terminal.sees(&["a tape was kept", "tape of 3 inputs"]);
        terminal.keys("Enter");
        terminal.sees(&["3 of 3", "turn 3: up"]);
        // Left as it should be, nothing is offered any more.
        terminal.keys("q");
        terminal.sees(&["[left with 0]"]);
        terminal.again("loft.magpie", SIZE);
        terminal.sees(&["nothing has been asked yet", "0 of 0"]);
    }
}

/// What a program cannot catch or does not survive: the guard gives the terminal back, modes and all.
#[test]
fn a_workbench_that_dies_leaves_the_terminal_as_it_was() {
    for signal in ["ABRT", "SEGV", "BUS", "KILL"] {
        let terminal =
            Terminal::start(&[("loft.magpie", LOFT)], "loft.magpie; stty -a | tr ';' '\\n' | grep icanon", SIZE);
        terminal.sees(&["0 of 0"]);
        terminal.keys("Right");
        terminal.sees(&["1 of 1"]);
        // What a fault raises is passed over once where nothing is wrong, and ends the program the second time.
        for _ in 0..2 {
            Command::new("pkill").args([&format!("-{signal}"), "-P", &terminal.process()]).status().unwrap();
        }
        let screen = terminal.sees(&[&format!("ended by SIG{signal}"), "the tape is kept", " icanon"]);
        assert!(!screen.contains("-icanon"), "after {signal} the terminal reads lines again:\n{screen}");
        terminal.is_given_back();
    }
}

#[test]
fn memory_that_cannot_be_had_leaves_the_terminal_as_it_was() {
    let source = "game \"Large\"\ncell 8 px\nlayers a, b, c, d, e, f, g, h\nkinds\n  keeper K h\n  plank . a\nmap \"Small\"\n  K.\n\
                  map \"Large\" 2048 x 2048 of plank\ncontrol keeper with arrows\nrules\n  on key act if count keeper = 1: next map\n";
    let program = support::PROGRAM;
    let start = format!("--version; (ulimit -v 400000; exec {program} large.magpie)");
    let terminal = Terminal::start(&[("large.magpie", source)], &start, SIZE);
    terminal.sees(&["0 of 0"]);
    terminal.keys("Space");
    terminal.sees(&["ended by SIGABRT", "[left with 134]"]);
    terminal.is_given_back();
}

#[test]
fn five_thousand_keys_at_once_are_worked_off_and_hold_nothing_up() {
    let terminal = loft();
    let keys = "\u{1b}[C\u{1b}[D".repeat(2500);
    terminal.types(&keys);
    terminal.sees(&["5000 of 5000"]);
    terminal.types(&format!("{keys}q"));
    terminal.sees(&["[left with 0]"]);
}

#[test]
fn a_closed_window_keeps_the_tape() {
    let terminal = loft();
    terminal.keys("Right Right");
    terminal.sees(&["2 of 2"]);
    terminal.again("loft.magpie", SIZE);
    terminal.sees(&["a tape was kept"]);
    terminal.keys("Escape");
    terminal.sees(&["nothing has been asked yet"]);
}

#[test]
fn stopping_goes_to_the_shell_and_back() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("loft.magpie"), LOFT).unwrap();
    let terminal = Terminal::start(&[("loft.magpie", LOFT)], "--version; exec bash --norc -i", SIZE);
    terminal.sees(&["rapid-magpie 0"]);
    terminal.types(&format!("{} loft.magpie\n", support::PROGRAM));
    terminal.sees(&["Cog Loft"]);
    terminal.keys("Right");
    terminal.sees(&["1 of 1"]);
    terminal.keys("C-z");
    terminal.sees(&["Stopped"]);
    terminal.types("fg\n");
    terminal.sees(&["Cog Loft", "1 of 1"]);
    terminal.keys("Right");
    terminal.sees(&["2 of 2"]);
}

#[test]
fn every_demo_opens_from_the_list() {
    let terminal = Terminal::start(&[], "", SIZE);
    terminal.sees(&["RAPID MAGPIE", "cog-loft", "towpath"]);
    terminal.keys("Down Down Enter");
    terminal.sees(&["Towpath", "Lock to bridge", "what lamplighter"]);
    terminal.keys("m");
    terminal.sees(&["Round the basin"]);
}

#[test]
fn a_key_of_the_game_takes_the_workbench_key_to_alt() {
    let source = LOFT.replace("\nrules\n", "\nrules\n  on key \"u\": step apprentice north\n");
    let terminal = Terminal::start(&[("loft.magpie", &source)], "loft.magpie", SIZE);
    terminal.sees(&["Alt-u undo"]);
    terminal.keys("u");
    terminal.sees(&["apprentice 2,2 to 2,1", "1 of 1"]);
    terminal.keys("M-u");
    terminal.sees(&["0 of 0"]);
}

#[test]
fn a_winning_tape_ends_with_the_next_map() {
    let terminal = loft();
    terminal.keys("Right Right Right Right Right Right Up");
    terminal.sees(&["WON", "● won"]);
    terminal.keys("Left");
    terminal.sees(&["the game is over"]);
    terminal.keys("n");
    terminal.sees(&["The hatch 2/6", "8 of 8"]);
}

const KIOSK: &str = include_str!("../../../demos/kiosk.magpie");
const SAMPLES: &str = include_str!("../../../demos/kiosk-samples.csv");

/// The kiosk on a page of the Probe bench.
fn kiosk(page: &str) -> Terminal {
    let terminal = Terminal::start(&[("kiosk.magpie", KIOSK), ("kiosk-samples.csv", SAMPLES)], "kiosk.magpie", SIZE);
    terminal.sees(&["Kiosk"]);
    terminal.keys(&format!("Tab {page}"));
    terminal.sees(&["7 steps"]);
    terminal
}

#[test]
fn a_touch_that_is_off_at_the_left_edge_is_named() {
    let terminal = kiosk("5");
    terminal.keys("f Enter");
    terminal.sees(&["bar-forgotten", "12 samples"]);
    terminal.keys("1 g");
    terminal.types("win:34,171");
    terminal.keys("Enter");
    terminal.sees(&["outside the board", "truncated", "bars 20 px left and right"]);
}

#[test]
fn a_formula_is_typed_counted_on_a_thread_and_named() {
    let terminal = kiosk("4");
    terminal.keys("c");
    terminal.types("int((x - ox + 0 * y) / pitch)");
    terminal.keys("Enter");
    terminal.sees(&["79200 pixels differ   truncated", "79200 of 960000 pixels differ"]);
    terminal.keys("e");
    terminal.keys("BSpace");
    terminal.keys("Enter");
    terminal.sees(&["at character 29: expected `)`"]);
}

#[test]
fn numbers_are_nudged_and_written_and_nothing_else_is_changed() {
    let terminal = kiosk("6");
    terminal.keys("Down Down Down Right Right");
    terminal.sees(&["not written yet", "18 px"]);
    terminal.keys("U w");
    terminal.sees(&["written to kiosk.magpie"]);
    let file = std::fs::read_to_string(terminal.folder.path().join("kiosk.magpie")).unwrap();
    assert_eq!(file, KIOSK.replace("gap 10 x 16 px", "gap 10 x 17 px"));
}

#[test]
fn the_mouse_probes_and_drags_and_is_the_finger_in_play() {
    let terminal = kiosk("2");
    let (column, line) = terminal.find("quay");
    terminal.drag((column, line), (column + 12, line + 3));
    let screen = terminal.sees(&["press, drag, release", "from 3,2  to 5,1"]);
    assert!(screen.contains("cells between"), "{screen}");
    terminal.keys("BTab");
    terminal.sees(&["filed 0"]);
    let (tray_column, tray_line) = terminal.find(" q ");
    terminal.drag((column, line), (tray_column + 1, tray_line));
    terminal.sees(&["filed 1", "drag:3,2>1,4"]);
    let (column, line) = terminal.find(" lock ");
    terminal.click(column + 1, line);
    terminal.sees(&["tap:6,2"]);
}

#[test]
fn a_pace_is_changed_written_and_walked_live() {
    let source = include_str!("../../../demos/towpath.magpie");
    let terminal = Terminal::start(&[("towpath.magpie", source)], "towpath.magpie", SIZE);
    terminal.sees(&["Towpath"]);
    terminal.keys("Tab Tab");
    terminal.sees(&["1 chart", "lands exactly"]);
    terminal.keys("Down Right w");
    terminal.sees(&["written to towpath.magpie", "190 ms"]);
    let file = std::fs::read_to_string(terminal.folder.path().join("towpath.magpie")).unwrap();
    assert_eq!(file, source.replace("timed 180 ms", "timed 190 ms"));
    terminal.keys("l Right");
    terminal.sees(&["LIVE", "steps 1"]);
    terminal.keys("Escape s");
    terminal.sees(&["MS:KEY+ down"]);
    terminal.keys("Escape Escape");
    terminal.sees_no("LIVE");
}

/// A demo of the yard in a terminal of its own.
fn demo(name: &str, sees: &str) -> Terminal {
    let terminal = Terminal::start(&[], &format!("demo {name}"), SIZE);
    terminal.sees(&[sees, "Play"]);
    terminal
}

#[test]
fn riding_a_hoist_in_real_time() {
    let terminal = demo("hoists", "The clock tower");
    terminal.keys("Left Right p");
    terminal.sees(&["oil 3", "▶ ×1"]);
    // The cage comes over by itself; each change is a turn.
    terminal.sees(&["(wait:", "what glides has come into other cells"]);
    terminal.keys("p");
    terminal.sees(&["clock stands"]);
    terminal.keys("u u u u u u u u");
    terminal.sees(&["0 of 0"]);
}

#[test]
fn panes_change_places_by_taps_drags_and_buttons() {
    let terminal = demo("glass-mender", "The porch");
    let (column, line) = terminal.find("buttons");
    terminal.click(column + 11, line);
    terminal.sees(&["signal", "1 of 1"]);
    terminal.drag(terminal_cell(&terminal, 1), terminal_cell(&terminal, 3));
    terminal.sees(&["only neighbours change places"]);
    terminal.click(terminal_cell(&terminal, 1).0, terminal_cell(&terminal, 1).1);
    terminal.sees(&["✓ choose"]);
    terminal.click(terminal_cell(&terminal, 2).0, terminal_cell(&terminal, 2).1);
    terminal.sees(&["✓ swap", "changes 1"]);
}

/// The middle of a cell of the board's first line.
fn terminal_cell(terminal: &Terminal, column: usize) -> (usize, usize) {
    let screen = terminal.screen();
    let rim = screen.lines().nth(2).expect("a screen of three lines");
    let at = rim.find(&format!(" {column} ")).unwrap_or_else(|| panic!("no column {column} in {rim}"));
    (rim[..at].chars().count() + 1, 5)
}

#[test]
fn whole_grid_rules_are_played_and_told() {
    let rack = demo("lantern-rack", "The long rack");
    rack.keys("v Left Left Left Up Up Enter");
    rack.sees(&["✓ rotate"]);
    rack.keys("Space");
    rack.sees(&["signal the bell hangs in the corner"]);
    let hawser = demo("hawser", "The basin");
    hawser.keys("v Right Right Right Right Left");
    hawser.sees(&["rings 1", "5 of 5"]);
    hawser.keys("k k");
    hawser.sees(&["rims count"]);
    let shelf = "game \"Shelf\"\ncell 10 px\nkinds\n  slat . floor\n  crate c body\nground slat\nmap \"One\"\n  c..\n  .cc\nrules\n  \
                 on key act: place crate at column 0 row 1\n  when row full of crate: clear, drop above\n  \
                 when crate if count crate = 1: turn crate west\n";
    let shelf = Terminal::start(&[("shelf.magpie", shelf)], "shelf.magpie", SIZE);
    shelf.sees(&["Shelf"]);
    shelf.keys("Space");
    shelf.sees(&["pass 1  when row full of crate: 1 full row: 3 gone, 1 moved", "line 12"]);
    shelf.keys("Tab Tab Tab 3");
    shelf.sees(&[
        "the last turn settled in 1 pass",
        "▸ pass 1   1 full row: 3 gone, 1 moved",
        "when row full of crate",
    ]);
    let wall = demo("damp-wall", "The cellar");
    wall.keys("Space");
    wall.sees(&[": 94 cells in 20 rings"]);
    wall.keys("d");
    wall.sees(&["flood", "2 of 2"]);
    wall.keys("d");
    wall.sees(&["already plaster", "signal the wall is dry"]);
}

#[test]
fn a_flood_of_four_million_cells_leaves_the_screen_alive() {
    let source = "game \"Wide\"\ncell 4 px\nlayers course, face\nkinds\n  mortar . course\n  damp d face\nground mortar\n\
                  map \"Wide\" 2048 x 2048 of mortar\nrules\n  on key act: flood from column 1000 row 1000 into damp\n";
    let terminal = Terminal::start(&[("wide.magpie", source)], "wide.magpie", SIZE);
    terminal.sees(&["2048 × 2048 cells"]);
    terminal.keys("Space");
    terminal.sees(&[": 4194304 cells in 2095 rings"]);
    terminal.keys("o");
    terminal.sees(&["shows column,row"]);
    terminal.keys("u");
    terminal.sees(&["0 of 0"]);
}

/// A view, a pace, and a rulebook whose lines end as on another system.
const WALK: &str = "game \"Walk\"\r\ncell 20 px\r\nkinds\r\n  ada A body\r\nmap \"One\"\r\n  A____\r\ncontrol ada with arrows\r\npace\r\n  timed 200 ms\r\n";

#[test]
fn one_bench_writes_what_it_changed_and_no_more_with_the_line_ends_of_the_file() {
    let terminal = Terminal::start(&[("walk.magpie", WALK)], "walk.magpie", SIZE);
    let file = || std::fs::read_to_string(terminal.folder.path().join("walk.magpie")).unwrap();
    terminal.sees(&["Walk"]);
    // A number on Probe, not written.
    terminal.keys("Tab");
    let page = terminal.sees(&["numbers"]);
    let number = page.lines().find(|line| line.contains(" numbers")).unwrap();
    let digit = number.split(" numbers").next().unwrap().chars().rev().find(char::is_ascii_digit).unwrap();
    terminal.keys(&digit.to_string());
    terminal.sees(&["▸ cell", "the numbers of this grid"]);
    terminal.keys("Right");
    terminal.sees(&["not saved yet: changes of Probe", "21"]);
    // A setting on Pace, written.
    terminal.keys("Tab Down Right");
    terminal.sees(&["not saved yet: changes of Probe and Pace", "≠ "]);
    assert_eq!(file(), WALK);
    terminal.keys("w");
    terminal.sees(&["written to walk.magpie", "not saved yet: changes of Probe"]);
    assert_eq!(file(), WALK.replace("timed 200 ms", "timed 210 ms"));
    // Another program saves: the number waits to be brought back.
    std::fs::write(terminal.folder.path().join("walk.magpie"), WALK.replace("Walk", "Stroll")).unwrap();
    terminal.sees(&["Stroll"]);
    terminal.sees_no("not saved yet");
    terminal.keys("BTab U");
    terminal.sees(&["not saved yet: changes of Probe", "21"]);
    assert_eq!(file(), WALK.replace("Walk", "Stroll"));
}

#[test]
fn a_refused_line_stays_to_be_mended_with_the_usual_keys() {
    let terminal = loft();
    terminal.keys("Tab g C-u");
    terminal.types("cell:3;1");
    terminal.keys("Enter");
    terminal.sees(&["cell:3;1", "✗"]);
    // Over the semicolon and the number behind it.
    terminal.keys("BSpace BSpace");
    terminal.types(",2");
    terminal.keys("C-a Right Right C-e Enter");
    let screen = terminal.sees(&["column", "140"]);
    assert!(!screen.contains("Enter takes it"), "the line is taken:\n{screen}");
    terminal.keys("g");
    terminal.types("99");
    terminal.keys("Escape");
    terminal.sees_no("Enter takes it");
}

#[test]
fn two_workbenches_on_one_rulebook_keep_a_tape_each() {
    let terminal = loft();
    terminal.keys("Right");
    terminal.sees(&["1 of 1"]);
    // A second one beside it, in a window of its own.
    let second = format!("cd {0} && HOME={0} {1} loft.magpie", terminal.folder.path().display(), support::PROGRAM);
    terminal.tmux(&["new-window", &second]);
    terminal.sees(&["nothing has been asked yet", "0 of 0"]);
    terminal.keys("Right Right");
    terminal.sees(&["2 of 2"]);
    // Both windows are closed at once; both tapes are offered, one after the other.
    terminal.again("loft.magpie", SIZE);
    let first = terminal.sees(&["a tape was kept", "1 tape behind it"]).contains("tape of 2 inputs");
    // One is forgotten, the other offered at once, and played.
    terminal.keys("Escape");
    let (other, place) = if first { ("tape of 1 input", "1 of 1") } else { ("tape of 2 inputs", "2 of 2") };
    terminal.sees(&["a tape was kept", other, "minute"]);
    terminal.keys("Enter");
    terminal.sees(&[place]);
    terminal.keys("q");
    terminal.sees(&["[left with 0]"]);
    terminal.again("loft.magpie", SIZE);
    terminal.sees(&["nothing has been asked yet"]);
}

#[test]
fn rides_in_a_ring_are_refused_and_the_workbench_goes_on() {
    let ring = "game \"Ring\"\ncell 10 px\nkinds\n  cat C body\n  man M head\nlayers floor, body, head\nmap \"One\"\n  C\n  M\n  _\n\
                control man with arrows\nrules\n  cat into man: ride\n  man into cat: ride\n  man into edge: wrap\n  on key \"a\": step cat south\n";
    let terminal = Terminal::start(&[("ring.magpie", ring)], "ring.magpie", SIZE);
    terminal.sees(&["Ring"]);
    terminal.keys("a Right");
    terminal.sees(&["2 of 2"]);
    terminal.keys("u u q");
    terminal.sees(&["[left with 0]"]);
}

#[test]
fn proof_is_searched_stopped_and_told_on_play_and_on_the_tape() {
    let terminal = loft();
    terminal.keys("m m m m Right Right Right BTab BTab");
    terminal.sees(&["The wrong bay", "Nothing has been searched yet"]);
    terminal.keys("f");
    terminal.sees(&[
        "351 states, all that can be reached",
        "no way back from input 2",
        "no win can be reached from here any more",
    ]);
    terminal.keys(", ,");
    terminal.sees(&["27 inputs to a win at best"]);
    terminal.keys("BTab BTab BTab BTab h");
    terminal.sees(&["what apprentice at 2,2 would be answered", "✗ spoilt", "a shortest way goes on with `down`"]);
    // A search without end is stopped by Esc, and what is known stays.
    let endless = "game \"Endless\"\ncell 8 px\nkinds\n  plank . floor\n  keeper K body\nground plank\nmap \"One\"\n  K...\n\
                   control keeper with arrows\nrules\n  on key act: add 1 to n\n  win when n < 0\n";
    let terminal = Terminal::start(&[("endless.magpie", endless)], "endless.magpie", SIZE);
    terminal.sees(&["Endless"]);
    terminal.keys("BTab BTab f");
    terminal.sees(&["searching every state", "of the limit of", "states/s"]);
    terminal.keys("Right");
    terminal.sees(&["searching every state"]);
    terminal.keys("Escape");
    terminal.sees(&["stopped before the end", "win           not known"]);
}
