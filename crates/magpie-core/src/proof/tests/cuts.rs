//! Searches that end before everything is seen.

use super::*;

#[test]
fn an_answer_counts_the_whole_input_in_which_it_lies() {
    // The key and the wait lead to the same state, the wait by way of a broken promise.
    let book = yard(
        &format!("timer one 200 ms\ntimer two 200 ms\ntimer three 200 ms\n{ARROWS}"),
        "each one: step box east\neach two: step box west\neach three: add 1 to n\non key act: add 1 to n\nlose when n > 3\n\
         never count box at column 1 row 0 > 0",
        "B..#A",
    );
    for hands in [1, 2] {
        let game = begun(&book);
        let inputs = Inputs::all(game.grid());
        let proof = prove(game.grid(), None, &inputs, Ask::Promises, Limits::default(), &Threads(hands));
        let report = proof.report();
        assert_eq!(words(report.promises[0].tape.as_ref()).as_deref(), Some("wait:200"));
        assert_eq!((report.limit, report.states, report.edges), (Some(Limit::Answered), 2, 2));
    }
}

#[test]
fn whichever_comes_first_ends_a_search_the_answer_or_the_limit() {
    for (rule, ask) in
        [("win when count ada in column 2 > 0", Ask::Win), ("never count ada in column 2 > 0", Ask::Promises)]
    {
        let game = begun(&yard(ARROWS, rule, "...\n  .A.\n  ..."));
        let inputs = Inputs::all(game.grid());
        let of = |states| {
            let proof = prove(game.grid(), None, &inputs, ask, Limits { states, ..Limits::default() }, &Threads(2));
            let report = proof.report();
            (report.limit, report.states, report.edges)
        };
        let (limit, answered, edges) = of(100);
        assert_eq!(limit, Some(Limit::Answered));
        assert!((3..=5).contains(&answered), "another state comes before it from the start, {answered}");
        for states in 1..8 {
            // All edges go from the start to something new.
            let expected = if states < answered {
                (Some(Limit::States), states, u64::from(states - 1))
            } else {
                (Some(Limit::Answered), answered, edges)
            };
            assert_eq!(of(states), expected, "at most {states}");
        }
    }
}

#[test]
fn a_search_that_is_cut_says_by_what_and_what_it_knows() {
    let book = yard(ARROWS, "on key act: add 1 to n\nwin when n = 5\nnever n > 2", "A.");
    let game = begun(&book);
    let inputs = Inputs::all(game.grid());
    let of =
        |ask, limits: Limits, host: &dyn Host| prove(game.grid(), None, &inputs, ask, limits, host).report().clone();
    let win = of(Ask::Win, Limits::default(), &Alone);
    assert_eq!((win.limit, win.win.tape.map(|tape| tape.len())), (Some(Limit::Answered), Some(5)));
    let promise = of(Ask::Promises, Limits::default(), &Alone);
    assert_eq!((promise.limit, promise.win.possible, promise.levels.len()), (Some(Limit::Answered), None, 4));
    let few = of(Ask::All, Limits { states: 3, ..Limits::default() }, &Alone);
    assert_eq!((few.limit, few.states, few.win.possible), (Some(Limit::States), 3, None));
    assert!(few.unused.is_none() && few.no_way_back.is_none() && few.never.is_none());
    let endless = yard(ARROWS, "on key act: add 1 to n\nlose when n < 0", "A.");
    let game = begun(&endless);
    let inputs = Inputs::all(game.grid());
    let memory = prove(game.grid(), None, &inputs, Ask::All, Limits { bytes: 1 << 20, ..Limits::default() }, &Alone);
    assert_eq!(memory.report().limit, Some(Limit::Memory));
    assert!(memory.report().states > 1_000 && memory.report().bytes < 2 << 20, "{:?}", memory.report().states);
    struct Late;
    impl Host for Late {
        fn halted(&self) -> Option<Halt> {
            Some(Halt::Seconds)
        }
    }
    let late = prove(game.grid(), None, &inputs, Ask::All, Limits::default(), &Late);
    assert_eq!((late.report().limit, late.report().states), (Some(Limit::Seconds), 1));
}
