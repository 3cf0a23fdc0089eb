use super::{Ask, From, Page, Proof};
use crate::bench::Bench;
use crate::bench::play::Play;
use crate::bench::tests::Stand;
use crate::desk::marks::Truth;
use magpie_core::grid::Ended;
use magpie_core::proof::ToWin;
use magpie_core::space::Cell;

#[test]
fn a_search_answers_and_its_tape_is_played_from_where_it_began() {
    let mut stand = Stand::<Proof>::demo("cog-loft");
    stand.shows(&["Nothing has been searched yet"]);
    stand.ask(Ask::Lay(true));
    assert_eq!(stand.note(), "nothing is proved yet: f searches");
    stand.play("up").ask(Ask::Search(From::Here));
    stand.shows(&["all that can be reached", "from the moment behind 1 input", "win           ", "no way back"]);
    stand.play("up");
    stand.ask(Ask::Lay(true));
    assert_eq!(stand.desk.game.grid().unwrap().outcome(), Some(Ended::Won));
    assert!(stand.tape().starts_with("up "), "{}", stand.tape());
    assert!(stand.note().contains("b brings the tape of before back"));
    stand.desk.branch();
    assert_eq!(stand.tape(), "up up", "nothing is lost");
    stand.ask(Ask::Lay(false));
    assert_eq!(stand.desk.game.session.as_ref().unwrap().position(), 1, "it stands where the search began");
    // Another tape before that moment: the answer is of a moment that is gone.
    stand.desk.go(|_| 0);
    stand.play("left").ask(Ask::Lay(true));
    assert!(stand.note().contains("search again"));
}

#[test]
fn what_was_proved_stands_in_front_of_the_player_and_an_edit_drops_it() {
    let mut stand = Stand::<Proof>::demo("cog-loft");
    stand.ask(Ask::Search(From::Entry));
    let proven = stand.desk.proven.as_ref().unwrap();
    assert_eq!((proven.to_win, proven.spoilt), (Some(ToWin::In(7)), None));
    let best: Vec<String> =
        proven.moves.iter().filter(|found| found.to_win == ToWin::In(6)).map(|found| found.input.to_string()).collect();
    assert!(!best.is_empty());
    stand.desk.hint();
    assert!(stand.note().contains("7 inputs to a win"));
    // The shortest way into a state without one: the tape names the input that did it.
    stand.ask(Ask::Line(4)).ask(Ask::Lay(true));
    let proven = stand.desk.proven.as_ref().unwrap();
    let last = stand.desk.game.session.as_ref().unwrap().entries().len() - 1;
    assert_eq!((proven.to_win, proven.spoilt), (Some(ToWin::Never), Some(last)));
    stand.shows(&["no win can be reached from here any more", &format!("with input {} of the tape", last + 1)]);
    stand.desk.hint();
    assert!(stand.note().contains("u takes back"));
    let play = Stand { bench: Play::default(), desk: stand.desk };
    play.shows(&["no win can be reached from here any more"]);
    let mut stand = Stand { bench: Proof::default(), desk: play.desk };
    let text = stand.desk.text.source().replace("apprentice into hole: stop", "apprentice into hole: perish");
    stand.desk.file_changed(text.into_bytes());
    assert!(stand.note().contains("what was proved is dropped"));
    assert!(stand.desk.proven.is_none());
    stand.desk.hint();
    assert!(stand.note().contains("nothing is proved yet"));
}

#[test]
fn a_quick_search_begins_anew_by_itself_and_what_older_ones_tell_is_dropped() {
    let mut stand = Stand::<Proof>::demo("cog-loft");
    stand.ask(Ask::Search(From::Entry));
    let text = stand
        .desk
        .text
        .source()
        .replace("win when count apprentice on rope > 0", "win when count apprentice on hatch > 0");
    stand.desk.file_changed(text.into_bytes());
    stand.tell();
    assert!(stand.desk.proven.is_some(), "the last one took less than a second");
    stand.shows(&["none: no inputs win"]);
    stand.desk.next_map();
    stand.tell();
    assert!(matches!(stand.desk.proven.as_ref().unwrap().to_win, Some(ToWin::In(_))), "the next map has a hatch");
}

#[test]
fn cells_stand_on_the_board_and_every_page_says_its_own() {
    let mut stand = Stand::<Proof>::demo("cog-loft");
    (0..4).for_each(|_| stand.desk.next_map());
    stand.tell();
    stand.ask(Ask::Search(From::Entry)).ask(Ask::Turn(Page::Cells));
    let marks = stand.bench.marks(&stand.desk);
    assert_eq!(marks.truths.get(&Cell::new(1, 1)), Some(&Truth::Reached));
    stand.shows(&["apprentice gets to", "cog is dead on", "× never"]);
    stand.ask(Ask::Move(1));
    let marks = stand.bench.marks(&stand.desk);
    assert!(marks.truths.values().all(|truth| *truth == Truth::Dead) && !marks.truths.is_empty());
    stand.ask(Ask::Turn(Page::Promises)).shows(&["✓ always count apprentice = 1", "line "]);
    stand.ask(Ask::Turn(Page::Shape)).shows(&["states by depth", "34 inputs", "bytes a state"]);
    stand.ask(Ask::Turn(Page::Rules)).shows(&["barrel into hole: stop", "line "]);
    assert!(stand.bench.marks(&stand.desk).truths.is_empty());
}

#[test]
fn all_maps_stand_side_by_side_and_an_unused_rule_leads_to_its_line() {
    let mut stand = Stand::<Proof>::demo("cog-loft");
    stand.ask(Ask::Search(From::Entry)).ask(Ask::Turn(Page::Shape)).ask(Ask::Maps);
    stand.shows(&["all maps of the file", "in 7    3", "in 43    2", "The back"]);
    stand.desk.next_map();
    stand.tell();
    stand.shows(&["in 43    2"]);
    let text = stand.desk.text.source().replace("apprentice into hole: stop", "apprentice into hole: perish");
    stand.desk.file_changed(text.into_bytes());
    stand.tell();
    stand.shows(&["a searches them"]);
    stand.ask(Ask::Turn(Page::Rules)).ask(Ask::Move(1));
    let line = super::pages::rule(1, &stand.desk).unwrap() as usize;
    let shown = stand.desk.text.source().lines().nth(line - 1).unwrap();
    stand.shows(&[&format!("▸ line {line}"), shown.split("  //").next().unwrap().trim()]);
    assert!(
        matches!(stand.bench.ask(&mut stand.desk, Ask::Rule), crate::bench::Effect::Line(at) if at as usize == line)
    );
}

#[test]
fn a_broken_promise_is_put_on_the_tape() {
    let source =
        crate::yard::find("cog-loft").unwrap().rulebook.replace("never count cog on hole > 0", "never bridged > 0");
    let mut stand = Stand::<Proof>::new(&source);
    stand.ask(Ask::Search(From::Entry)).ask(Ask::Turn(Page::Promises)).ask(Ask::Line(1));
    stand.shows(&["✗ never bridged > 0", "broken after"]);
    stand.ask(Ask::Lay(true));
    assert_eq!(stand.desk.game.grid().unwrap().counters().next(), Some(("bridged", 1)));
}

#[test]
fn whoever_is_stuck_learns_which_input_it_was() {
    let mut stand = Stand::<Proof>::demo("cog-loft");
    (0..4).for_each(|_| stand.desk.next_map());
    stand.tell();
    stand.play("right right right right");
    stand.ask(Ask::Search(From::Here)).shows(&["none: no inputs win", "behind 4 inputs"]);
    stand.ask(Ask::Search(From::Entry)).shows(&["28 inputs: right", "lost with input 2 of the tape"]);
    // A game that has gone on to the next map is searched from where that was entered.
    let mut stand = Stand::<Proof>::demo("cog-loft");
    stand.play("right right right right right right up next up").ask(Ask::Search(From::Entry));
    let proven = stand.desk.proven.as_ref().unwrap();
    assert_eq!((proven.before.len(), proven.proof.report().win.tape.as_ref().map(Vec::len)), (8, Some(8)));
}
