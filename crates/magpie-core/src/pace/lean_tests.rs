use super::{Drive, FrameState, Frames, Plan, Settings, TrackRun, parse_keys, run};
use crate::grid::{Grid, Nobody};
use crate::rulebook::read_text;
use crate::space::exact::nearest;
use std::sync::Arc;

/// Runs ada, who stands before a post to her east, at 100 frames a second.
fn walk(clauses: &str, keys: &str) -> TrackRun {
    let source = format!(
        "game \"P\"\ncell 24 px\nkinds\n  ada A body\n  post p body\nmap \"M\"\n  __\n  Ap\ncontrol ada with arrows\npace\n  {clauses}\n"
    );
    let book = Arc::new(read_text(&source, &|_| Err("none".into())).rulebook.unwrap());
    let mut grid = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
    let plan = Plan {
        movers: vec![("ada".into(), Settings::of_kind(&book, book.kind_of_name("ada").unwrap()))],
        frames: Frames::rate("100").unwrap(),
        keys: Drive::Keys(parse_keys(keys).unwrap()),
        until: None,
    };
    run(&plan, &book.geometry, book.maps[0].extent, Some(&mut grid)).unwrap().remove(0)
}

/// How far it is drawn to the east of its cell's middle.
fn east(run: &TrackRun) -> Vec<f64> {
    run.samples.iter().map(|sample| (sample.x - 12.0) * 10.0).map(|tenths| tenths.round() / 10.0).collect()
}

fn leaning(run: &TrackRun) -> Vec<usize> {
    (0..run.samples.len()).filter(|at| run.samples[*at].state == FrameState::Leaning).collect()
}

#[test]
fn a_refused_press_leans_a_quarter_of_the_way_and_back() {
    let run = walk("timed 100 ms, lean 100 ms", "0:right");
    assert_eq!(east(&run), [0.0, 1.2, 2.4, 3.6, 4.8, 6.0, 4.8, 3.6, 2.4, 1.2, 0.0]);
    assert_eq!(leaning(&run), (0..10).collect::<Vec<_>>());
    let figures = &run.figures;
    assert_eq!((figures.refused, figures.steps, figures.inputs_lost, figures.presses), (1, 0, 0, 1));
    assert_eq!((nearest(&figures.jump), nearest(&figures.error), &figures.latency), (1.2, 0.0, &None));
    assert!(run.settings.words().ends_with("claim at start, lean 100 ms"));
    // Without it a refused press takes no time.
    let stiff = walk("timed 100 ms", "0:right");
    assert_eq!((stiff.samples.len(), stiff.figures.refused), (1, 1));
    // An instant step leans too.
    assert_eq!(leaning(&walk("instant, lean 30 ms", "0:right")).len(), 3);
}

#[test]
fn keys_that_stay_down_do_not_lean_again_and_repeats_do() {
    let held = walk("timed 100 ms, hold continuous, lean 50 ms", "0:right+ 200:right-");
    assert_eq!((leaning(&held), held.figures.refused), ((0..5).collect(), 1));
    let repeated = walk("timed 100 ms, hold repeat after 100 ms every 100 ms, lean 50 ms", "0:right+ 190:right-");
    assert_eq!((leaning(&repeated), repeated.figures.refused), ((0..5).chain(10..15).collect(), 1));
}

#[test]
fn presses_while_it_leans_are_dealt_with_as_while_it_moves() {
    let with = |moving: &str| walk(&format!("timed 100 ms, while moving {moving}, lean 100 ms"), "0:right 50:up");
    let ignored = with("ignored");
    assert_eq!((ignored.figures.inputs_lost, ignored.figures.steps), (1, 0));
    for waits in ["remembered", "queued 2"] {
        let run = with(waits);
        assert_eq!((run.figures.inputs_lost, run.figures.steps, leaning(&run).len()), (0, 1, 10), "{waits}");
        assert_eq!((run.samples[10].state, run.samples[20].state), (FrameState::Moving, FrameState::Arrived));
    }
    let obeyed = with("obeyed");
    assert_eq!((leaning(&obeyed), obeyed.figures.steps), ((0..5).collect(), 1));
    assert_eq!((east(&obeyed)[5..].to_vec(), obeyed.given_up), (vec![6.0; 11], 0), "it goes on from where it is drawn");
}

#[test]
fn it_leans_along_the_first_request_that_a_press_had_part_in() {
    // Down is off the board, right is the post: the last pressed is asked first.
    let last = walk("timed 100 ms, lean 100 ms, while moving remembered", "0:right 0:down");
    assert_eq!((last.samples[5].x, last.samples[5].y), (12.0, 42.0));
    assert_eq!((last.figures.refused, leaning(&last).len()), (2, 20), "right waits for its turn and leans as well");
    let both = walk("timed 100 ms, lean 100 ms, axis diagonal", "0:right 0:down");
    assert_eq!((both.samples[5].x, both.samples[5].y), (18.0, 42.0), "along both axes");
    // A press refused beside one that is granted does not lean.
    let granted = walk("timed 100 ms, lean 100 ms, axis first pressed", "0:right 0:up");
    assert_eq!((leaning(&granted).len(), granted.figures.steps, granted.figures.refused), (0, 1, 1));
}
