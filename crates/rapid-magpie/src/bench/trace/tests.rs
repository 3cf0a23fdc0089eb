use super::{Ask, Prompt, Source, Told, Trace, What};
use crate::bench::tests::Stand;
use crate::desk::marks::Truth;
use crate::foreign::Followed;
use crate::yard;
use magpie_core::space::Cell;

/// The bench on the small loft, its log begun.
fn stand() -> Stand<Trace> {
    let mut stand = Stand::<Trace>::demo("foreign");
    stand.bench.begin(&mut stand.desk, Source::Log("moves.jsonl".into()), true);
    stand
}

fn hear(stand: &mut Stand<Trace>, what: Followed) {
    let generation = stand.bench.generation;
    stand.ask(Ask::Told(Told { generation, what: What::Followed(what) }));
}

fn lines(stand: &mut Stand<Trace>, text: &str) {
    hear(stand, Followed::Lines(text.lines().map(str::to_owned).collect()));
}

fn position(stand: &Stand<Trace>) -> usize {
    stand.desk.game.session.as_ref().unwrap().position()
}

fn log() -> &'static str {
    let files = yard::find("foreign").unwrap().files;
    files.iter().find(|(name, _)| *name == "loft.jsonl").unwrap().1
}

#[test]
fn a_log_is_played_along_and_the_picture_stops_where_the_two_part() {
    let mut stand = stand();
    let all: Vec<&str> = log().lines().collect();
    lines(&mut stand, &all[..4].join("\n"));
    stand.shows(&["moves.jsonl  4 lines, 3 reports", "✓ 3 reports alike", "the program's board, line 4"]);
    assert_eq!((position(&stand), stand.tape().as_str()), (2, "up left"));
    lines(&mut stand, &all[4..].join("\n"));
    stand.shows(&[
        "✗ they part in line 6, right: cell, board, counters, granted",
        "old-cell-kept",
        "explains all 12 reports",
    ]);
    stand.shows(&["counters model moves 4  program moves 3", "▸ ✗     6  right", "·    13  left"]);
    assert_eq!(position(&stand), 4, "the model stands there, though more was read");
    let differs = |stand: &Stand<Trace>| {
        let marks = crate::bench::Bench::marks(&stand.bench, &stand.desk).truths;
        let mut cells: Vec<Cell> =
            marks.into_iter().filter(|(_, truth)| *truth == Truth::Differs).map(|(cell, _)| cell).collect();
        cells.sort_unstable_by_key(|cell| cell.column);
        cells
    };
    assert_eq!(differs(&stand), [Cell::new(0, 1), Cell::new(1, 1)]);
    stand.ask(Ask::Move(-1));
    assert_eq!((position(&stand), differs(&stand)), (3, Vec::new()));
    stand.ask(Ask::Part);
    assert_eq!(position(&stand), 4);
}

#[test]
fn a_log_that_begins_anew_or_says_what_cannot_be_is_borne() {
    let mut stand = stand();
    lines(&mut stand, r#"{"input":"left","cell":[0,1]}"#);
    assert_eq!(stand.tape(), "left");
    hear(&mut stand, Followed::Begun);
    assert_eq!(stand.tape(), "");
    lines(&mut stand, "{\"input\":\"up\",\"cell\":[1,0]}\n{\"input\":\"sideways\"}\n{\"input\":\"up\"}");
    stand.shows(&["line 2: `sideways` is no input", "✓ 1 report alike"]);
    assert_eq!(stand.tape(), "up", "what was read before stays");
    hear(&mut stand, Followed::Begun);
    hear(&mut stand, Followed::Waiting("no such file".into()));
    stand.shows(&["waiting for it: no such file"]);
    // What an older thread tells is of a log that is gone.
    stand.ask(Ask::Told(Told { generation: 99, what: What::Followed(Followed::Lines(vec!["{}".into()])) }));
    stand.shows(&["0 lines"]);
}

#[test]
fn places_without_a_board_are_shown_on_the_models_and_the_game_of_before_comes_back() {
    let mut stand = Stand::<Trace>::demo("foreign");
    stand.play("left up");
    stand.bench.begin(&mut stand.desk, Source::Log("moves.jsonl".into()), true);
    lines(&mut stand, r#"{"input":"right","cell":[4,0]}"#);
    stand.shows(&["the program's places on the model's board, line 1", "cell     model 2,1  program 4,0"]);
    stand.ask(Ask::Back);
    assert_eq!(stand.tape(), "left up", "nothing is lost");
}

#[test]
fn an_edit_holds_the_same_lines_against_the_new_rules() {
    let mut stand = stand();
    lines(&mut stand, r#"{"input":"right","board":["..#...","..Ks.u",".s.#.."]}"#);
    stand.shows(&["✓ 1 report alike"]);
    let text = stand.desk.text.source().replace("keeper into sack: shove", "keeper into sack: stop");
    stand.desk.file_changed(text.into_bytes());
    stand.tell();
    stand.shows(&["✗ they part in line 1, right: board"]);
}

#[test]
fn a_program_is_driven_from_the_bench_and_its_mistake_named() {
    let demo = yard::find("foreign").unwrap();
    let (_folder, path) = crate::bench::tests::unpacked(demo);
    let mut stand = Stand::<Trace>::file(&path);
    stand.type_in(Ask::Prompt(Prompt::Command), "");
    stand.key(crossterm::event::KeyCode::Esc, crossterm::event::KeyModifiers::NONE);
    // It says that nothing ever moves.
    let still = r#"while read x; do echo '{"cell":[1,1]}'; done"#;
    stand.type_in(Ask::Prompt(Prompt::Command), still);
    stand.shows(&["✗ they part in line 2, left: cell", "model 0,1  program 1,1"]);
    stand.type_in(Ask::Prompt(Prompt::Command), "exit 4");
    stand.shows(&["✗ ended: the program has ended where a report was due"]);
}

/// Before anything is followed the page says what a right program could say; said after the inputs of the tape it is right.
#[test]
fn the_lines_that_are_shown_first_are_right() {
    for demo in ["foreign", "cog-loft", "hawser", "glass-mender"] {
        let mut stand = Stand::<Trace>::demo(demo);
        for inputs in ["", "right up", "left left up down"] {
            if !inputs.is_empty() {
                stand.play(inputs);
            }
            let tape = stand.tape();
            let mut said: Vec<String> =
                tape.split_whitespace().map(|input| format!(r#"{{"input":"{input}"}}"#)).collect();
            said.pop();
            let shown = super::page::right_lines(&stand.desk);
            stand.shows(&["Of the game as it stands", &shown[0][..shown[0].len().min(25)]]);
            for line in shown {
                let mut log = Stand::<Trace>::demo(demo);
                log.bench.begin(&mut log.desk, Source::Log("moves.jsonl".into()), true);
                said.push(line);
                lines(&mut log, &said.join("\n"));
                log.shows(&["✓ 1 report alike"]);
                said.pop();
            }
        }
    }
}
