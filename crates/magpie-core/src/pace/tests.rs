use super::*;
use crate::grid::{Grid, Nobody};
use crate::rulebook::{Setting, read_text};
use crate::space::exact::{Fraction, nearest};
use crate::space::{Extent, Geometry};
use num_traits::Zero;
use proptest::prelude::*;
use std::sync::Arc;

const BOARD: Extent = Extent { columns: 12, rows: 8 };

/// The settings that a `pace` section with these clauses has.
fn pace(clauses: &str) -> Settings {
    let source = format!("game \"P\"\ncell 24 px\nkinds\n  ada A body\nmap \"M\"\n  A\npace\n  {clauses}\n");
    let reading = read_text(&source, &|_| Err("none".into()));
    assert!(!reading.has_errors(), "{clauses}: {:?}", reading.diagnostics);
    let settings: Vec<Setting> = reading.rulebook.unwrap().paces[0].settings.clone();
    Settings::of(&settings)
}

fn run_on(clauses: &str, fps: &str, drive: Drive, cell: f64) -> TrackRun {
    let plan = Plan {
        movers: vec![("ada".into(), pace(clauses))],
        frames: Frames::rate(fps).unwrap(),
        keys: drive,
        until: None,
    };
    run(&plan, &Geometry::of_cells(cell, cell), BOARD, None).unwrap().remove(0)
}

fn usual(clauses: &str, fps: &str, cells: u64) -> TrackRun {
    run_on(clauses, fps, Drive::Usual(cells), 24.0)
}

fn scripted(clauses: &str, keys: &str) -> TrackRun {
    run_on(clauses, "60", Drive::Keys(parse_keys(keys).unwrap()), 24.0)
}

fn float(fraction: &Fraction) -> f64 {
    nearest(fraction)
}

#[test]
fn the_example_of_the_formats_comes_out() {
    let run = usual("timed 250 ms, hold continuous", "60", 10);
    let figures = &run.figures;
    assert_eq!((figures.frames_per_step, figures.steps, figures.presses), (Some(15), 10, 1));
    let numbers = [&figures.ms_per_step, &figures.nominal_speed, &figures.mean_speed, &figures.latency];
    let numbers: Vec<f64> = numbers.iter().map(|number| float(number.as_ref().unwrap())).collect();
    assert_eq!(numbers, [250.0, 96.0, 96.0, 16.666_666_666_666_668]);
    assert_eq!((float(&figures.jump), float(&figures.error), figures.outcome), (1.6, 0.0, Outcome::Done));
    let first = &run.samples[0];
    assert_eq!((first.x, first.y, first.cell.column, first.state), (12.0, 12.0, 1, FrameState::Moving));
    assert_eq!(run.samples.len(), 151);
    assert_eq!(notes(&run, &Frames::rate("60").unwrap()), Vec::<String>::new());
    let words = "timed 250 ms, linear, on arrival snap, while moving ignored, hold continuous, axis last pressed, claim at start";
    assert_eq!(run.settings.words(), words);
}

/// Where each mode is at its first frames, in px from the start, and when it arrives.
#[test]
fn steps_go_as_their_mode_says() {
    let table: [(&str, &[f64], u64); 12] = [
        ("instant", &[24.0, 48.0, 72.0], 0),
        ("timed 100 ms, hold continuous", &[0.0, 4.0, 8.0, 12.0, 16.0, 20.0, 24.0], 6),
        ("timed 50 ms, ease-in, hold continuous", &[0.0, 24.0 / 9.0, 96.0 / 9.0, 24.0], 3),
        ("timed 50 ms, ease-out, hold continuous", &[0.0, 120.0 / 9.0, 192.0 / 9.0, 24.0], 3),
        ("timed 50 ms, ease-in-out, hold continuous", &[0.0, 24.0 * 7.0 / 27.0, 24.0 * 20.0 / 27.0, 24.0], 3),
        ("rate 480 px/s, hold continuous", &[0.0, 8.0, 16.0, 24.0, 32.0], 3),
        ("rate 10 cells/s, hold continuous", &[0.0, 4.0, 8.0, 12.0], 6),
        ("per-frame 10 px, hold continuous", &[0.0, 10.0, 20.0, 24.0, 34.0], 3),
        ("per-frame 10 px, on arrival carry, hold continuous", &[0.0, 10.0, 20.0, 30.0, 40.0, 50.0], 3),
        ("per-frame 10 px, on arrival drift, hold continuous", &[0.0, 10.0, 20.0, 30.0, 40.0, 50.0, 60.0], 3),
        ("timed 40 ms, on arrival drift, hold continuous", &[0.0, 10.0, 20.0, 20.0, 30.0], 3),
        ("timed 40 ms, on arrival carry, hold continuous", &[0.0, 10.0, 20.0, 30.0, 40.0], 3),
    ];
    for (clauses, places, frames) in table {
        let run = usual(clauses, "60", 4);
        for (sample, place) in run.samples.iter().zip(places) {
            let x = sample.x - 12.0;
            assert!((x - place).abs() < 1e-12, "{clauses}: {x} is not {place}");
        }
        assert_eq!(run.figures.frames_per_step, Some(frames), "{clauses}");
        assert_eq!(run.figures.steps, 4, "{clauses}");
    }
}

/// The first version took the last step's: a run that turns told the other axis' speed.
#[test]
fn the_nominal_speed_is_that_of_the_first_step() {
    let nominal = |keys: &str| {
        let plan = Plan {
            movers: vec![("ada".into(), pace("timed 250 ms, hold continuous"))],
            frames: Frames::rate("60").unwrap(),
            keys: Drive::Keys(parse_keys(keys).unwrap()),
            until: None,
        };
        let figures = run(&plan, &Geometry::of_cells(24.0, 40.0), BOARD, None).unwrap().remove(0).figures;
        assert_eq!(figures.steps, 2, "{keys}");
        float(&figures.nominal_speed.unwrap())
    };
    assert_eq!(nominal("0:right 400:down"), 96.0);
    assert_eq!(nominal("0:down 400:right"), 160.0);
}

#[test]
fn frames_of_a_list_come_over_and_over() {
    let plan = Plan {
        movers: vec![("ada".into(), pace("rate 480 px/s, hold continuous"))],
        frames: Frames::list("16, 17.5,40").unwrap(),
        keys: Drive::Usual(3),
        until: None,
    };
    let run = run(&plan, &Geometry::of_cells(24.0, 24.0), BOARD, None).unwrap().remove(0);
    let times: Vec<f64> = run.samples.iter().map(|sample| sample.t).collect();
    assert_eq!(&times[..5], [0.0, 16.0, 33.5, 73.5, 89.5]);
    assert_eq!(run.figures.nominal_speed, Some(Fraction::from_integer(480.into())));
    for wrong in ["", "0", "-1", "1e3", "60,", "1.2345", "1000001"] {
        assert!(Frames::rate(wrong).is_err() && (wrong == "60," || Frames::list(wrong).is_err()), "{wrong}");
    }
}

#[test]
fn presses_while_moving_are_dealt_with_as_the_pace_says() {
    // A step takes 100 ms; the second and third press come while it is under way.
    let keys = "0:right 30:down 60:left";
    let table =
        [("ignored", 1, 2, "1,0"), ("remembered", 2, 1, "0,0"), ("queued 1", 2, 1, "1,1"), ("queued 2", 3, 0, "0,1")];
    for (policy, steps, lost, end) in table {
        let run = scripted(&format!("timed 100 ms, while moving {policy}"), keys);
        let cell = run.samples.last().unwrap().cell;
        assert_eq!((run.figures.steps, run.figures.inputs_lost), (steps, lost), "{policy}");
        assert_eq!(format!("{},{}", cell.column, cell.row), end, "{policy}");
        assert!(run.figures.error.is_zero(), "{policy}");
    }
    let obeyed = scripted("timed 100 ms, while moving obeyed", keys);
    assert_eq!((obeyed.figures.steps, obeyed.given_up, obeyed.figures.inputs_lost), (1, 2, 0));
    assert!(!obeyed.figures.error.is_zero(), "what was given up leaves the piece beside its cell");
    let told = notes(&obeyed, &Frames::rate("60").unwrap());
    assert!(told.iter().any(|note| note.contains("given up")), "{told:?}");
}

#[test]
fn keys_held_ask_as_hold_says() {
    let table = [
        ("off", "0:right+ 500:right-", 1, 1),
        ("continuous", "0:right+ 450:right-", 5, 1),
        ("repeat after 200 ms every 100 ms", "0:right+ 450:right-", 4, 1),
        ("every frame", "0:right+ 450:right-", 5, 1),
        ("off", "0:right 150:right 300:right", 3, 3),
    ];
    for (hold, keys, steps, presses) in table {
        let run = scripted(&format!("timed 100 ms, hold {hold}"), keys);
        assert_eq!((run.figures.steps, run.figures.presses), (steps, presses), "{hold}");
        assert_eq!(run.figures.inputs_lost, 0, "{hold}");
    }
    let instant = scripted("instant, hold every frame", "0:right+ 100:right-");
    assert_eq!(instant.figures.steps, 6, "one a frame: the release is read at the seventh");
    assert!(notes(&instant, &Frames::rate("60").unwrap())[0].contains("a step at every frame"));
    let speed = usual("instant, hold continuous", "60", 5).figures.mean_speed.map(|speed| float(&speed));
    assert_eq!(speed, Some(1440.0), "a cell of 24 px a frame");
    // A latched key keeps the piece going, and it turns with the newest.
    let latched = usual("timed 100 ms, hold latched", "60", 3);
    assert_eq!(latched.figures.steps, 3);
}

#[test]
fn two_keys_are_asked_in_the_order_of_the_axis() {
    let keys = "0:right+ 0:down+ 200:right- 200:down-";
    let table = [
        ("first pressed", "2,0", 0),
        ("last pressed", "0,2", 0),
        ("horizontal first", "2,0", 0),
        ("vertical first", "0,2", 0),
        ("diagonal", "2,2", 2),
    ];
    for (axis, end, diagonals) in table {
        let run = scripted(&format!("timed 100 ms, hold continuous, axis {axis}"), keys);
        let cell = run.samples.last().unwrap().cell;
        assert_eq!(format!("{},{}", cell.column, cell.row), end, "{axis}");
        assert_eq!(run.figures.diagonals, diagonals, "{axis}");
    }
    let diagonal = scripted("timed 100 ms, hold continuous, axis diagonal", keys);
    let told = notes(&diagonal, &Frames::rate("60").unwrap());
    assert!(told.iter().any(|note| note.contains("both axes")), "{told:?}");
}

#[test]
fn the_classic_mistakes_are_named_and_vanish_with_what_is_proposed() {
    let frames = Frames::rate("60").unwrap();
    let named = |clauses: &str, word: &str| {
        let run = usual(clauses, "60", 100);
        let told = notes(&run, &frames);
        assert!(told.iter().any(|note| note.contains(word)), "{clauses}: {told:?}");
        run
    };
    let quiet = |clauses: &str| {
        let told = notes(&usual(clauses, "60", 100), &frames);
        assert_eq!(told, Vec::<String>::new(), "{clauses}");
    };
    let never = named(
        "per-frame 5 px, test equal, hold continuous",
        "never lands: 5 px a frame does not divide 24; 3, 4, 6 or 8 do",
    );
    assert_eq!(never.figures.outcome, Outcome::NeverLands);
    assert_eq!(float(&never.figures.overshoot), 216.0, "240 px is ten cells");
    quiet("per-frame 4 px, test equal, hold continuous");
    let drifting =
        named("per-frame 5 px, on arrival drift, hold continuous", "ends 100 px past the middle of its cell");
    assert_eq!(float(&drifting.figures.error), 100.0, "a pixel a step");
    quiet("per-frame 5 px, on arrival carry, hold continuous");
    named("per-frame 0.1 cells, test equal, hold continuous", "added frame after frame in f64");
    quiet("per-frame 0.125 cells, test equal, hold continuous");
    named("timed 180 ms, hold continuous", "end between two frames");
    quiet("timed 180 ms, on arrival carry, hold continuous");
}

/// Two pieces on a map, each under the same pace.
/// What rounding does is said of every run that adds up, whether or not it tests for equality.
#[test]
fn sums_in_f64_and_f32_are_said_of_every_run_that_adds_up() {
    let found = |clauses: &str, fps: &str, cell: f64| {
        let run = run_on(clauses, fps, Drive::Usual(3), cell);
        let frames = Frames::rate(fps).unwrap();
        let sums: Vec<_> = parting(&run.settings, &frames, &run.length)
            .into_iter()
            .map(|sum| (sum.name, sum.reached, sum.takes_others()))
            .collect();
        (sums, notes(&run, &frames).iter().filter(|note| note.contains("added frame after frame")).count())
    };
    let tenth = (Some(10), Some(11));
    assert_eq!(
        found("per-frame 0.1 cells", "60", 24.0),
        (vec![("f64", tenth, true), ("f32", (Some(10), Some(10)), false)], 1),
        "a tenth is no number of f64: ten of them are short of a cell"
    );
    assert_eq!(found("per-frame 2 px", "60", 24.0).0[0], ("f64", (Some(12), Some(12)), false));
    assert_eq!(
        found("rate 6 cells/s", "60", 24.0),
        (vec![("f64", tenth, true), ("f32", (Some(10), Some(10)), false)], 1)
    );
    assert_eq!(found("timed 100 ms", "60", 24.0), (Vec::new(), 0), "a timed step adds nothing up");
    let note =
        notes(&run_on("per-frame 0.1 cells", "60", Drive::Usual(3), 24.0), &Frames::rate("60").unwrap()).concat();
    assert!(note.contains("f64 a cell takes 11 frames, not 10, and ends 0.1 cells past it"), "{note}");
}

fn two(clauses: &str, map: &str, keys: &str) -> Vec<TrackRun> {
    let source = format!(
        "game \"P\"\ncell 24 px\nkinds\n  ada A body\n  bob B body\n  wall # body\nmap \"M\"\n{map}\ncontrol ada with arrows\npace\n  {clauses}\n"
    );
    let reading = read_text(&source, &|_| Err("none".into()));
    let book = Arc::new(reading.rulebook.unwrap_or_else(|| panic!("{:?}", reading.diagnostics)));
    let mut grid = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
    let settings = |name: &str| Settings::of_kind(&book, book.kind_of_name(name).unwrap());
    let movers = ["ada", "bob"].map(|name| (name.to_owned(), settings(name))).to_vec();
    let plan =
        Plan { movers, frames: Frames::rate("60").unwrap(), keys: Drive::Keys(parse_keys(keys).unwrap()), until: None };
    run(&plan, &book.geometry, book.maps[0].extent, Some(&mut grid)).unwrap()
}

#[test]
fn two_movers_want_one_cell() {
    let keys = "0:right 16:bob.left";
    let at_start = two("timed 100 ms", "  A_B", keys);
    assert_eq!((at_start[0].figures.steps, at_start[1].figures.steps), (1, 0));
    assert_eq!(at_start[1].figures.conflicts, 0);
    let at_arrival = two("timed 100 ms, claim at arrival", "  A_B", keys);
    assert_eq!((at_arrival[0].figures.steps, at_arrival[1].figures.steps), (1, 0));
    assert_eq!(at_arrival[1].figures.conflicts, 1, "it was on its way to a cell that was taken when it came");
    assert!(at_arrival[1].figures.error.is_zero(), "it is drawn at its start again");
    let told = notes(&at_arrival[1], &Frames::rate("60").unwrap());
    assert!(told.iter().any(|note| note.contains("claim at start")), "{told:?}");
    // Head-on: neither comes through, whoever is first.
    let head_on = two("timed 100 ms", "  AB", "0:right 0:bob.left");
    assert_eq!((head_on[0].figures.steps, head_on[1].figures.steps), (0, 0));
    let wall = two("timed 100 ms, hold continuous", "  A_#B", "0:right+ 500:right-");
    assert_eq!((wall[0].figures.steps, wall[0].samples.last().unwrap().cell.column), (1, 1));
}

#[test]
fn scripts_and_limits_are_told() {
    let wrong = [
        ("right", "is no key event"),
        ("0:east", "is no key event"),
        ("-5:right", "is no key event"),
        ("0:right+", "goes down and never up"),
        ("0:right-", "is up already"),
        ("0:right+ 5:right+ 9:right-", "is down already"),
        ("99999999:right", "later than"),
        ("0:.right", "is no key event"),
    ];
    for (script, message) in wrong {
        let error = parse_keys(script).unwrap_err().to_string();
        assert!(error.contains(message), "{script}: {error}");
    }
    assert_eq!(parse_keys("400:up 0:right+ 350.5:right-").unwrap().len(), 4);
    let plan = |keys: &str, clauses: &str| Plan {
        movers: vec![("ada".into(), pace(clauses))],
        frames: Frames::rate("60").unwrap(),
        keys: Drive::Keys(parse_keys(keys).unwrap()),
        until: None,
    };
    let geometry = Geometry::of_cells(24.0, 24.0);
    let nobody = run(&plan("0:bob.left", "instant"), &geometry, BOARD, None).unwrap_err();
    assert_eq!(nobody, RunError::NoMover("bob".into()));
    let many = run(
        &plan("0:right+ 9000:right-", "rate 1000000 px/s, on arrival carry, hold continuous"),
        &Geometry::of_cells(0.001, 1.0),
        BOARD,
        None,
    );
    assert_eq!(many.unwrap_err(), RunError::TooLong, "sixteen million steps a frame");
}

/// A slow reference for holding one key under `rate`: every frame is worked out from the beginning.
fn slow_rate(speed: i64, fps: i64, cells: i64, carry: bool, frames: usize) -> Vec<f64> {
    let whole = |number: i64| Fraction::from_integer(number.into());
    let (pitch, mut done, mut gone, mut places) = (whole(24), 0_i64, whole(0), Vec::new());
    let each = whole(speed) / whole(fps);
    let mut standing = false;
    for frame in 0..frames {
        if frame > 0 && !standing {
            gone += &each;
        }
        while !standing && gone >= pitch {
            done += 1;
            gone = if carry && done < cells { gone - &pitch } else { whole(0) };
            standing = done == cells;
            if !carry {
                break;
            }
        }
        places.push(float(&(whole(12 + 24 * done) + &gone)));
    }
    places
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn a_held_key_goes_as_the_slow_reference(speed in 1i64..4000, fps in 1i64..200, cells in 1i64..12, carry: bool) {
        let arrival = if carry { "carry" } else { "snap" };
        let run = usual(&format!("rate {speed} px/s, on arrival {arrival}, hold continuous"), &fps.to_string(), cells as u64);
        let places: Vec<f64> = run.samples.iter().map(|sample| sample.x).collect();
        prop_assert_eq!(&places, &slow_rate(speed, fps, cells, carry, places.len()));
        prop_assert_eq!(run.figures.steps, cells as u64);
        prop_assert!(run.figures.error.is_zero() && run.figures.overshoot.is_zero());
    }

    #[test]
    fn snap_and_carry_end_on_the_cell_and_drift_grows_evenly(
        ms in 20u32..400, fps in 10u32..150, cells in 1u64..20, timed: bool, easing in 0usize..4,
    ) {
        let easing = ["linear", "ease-in", "ease-out", "ease-in-out"][easing];
        let mode = if timed { format!("timed {ms} ms, {easing}") } else { format!("rate {} px/s", 24_000 / ms) };
        for arrival in ["snap", "carry"] {
            let run = usual(&format!("{mode}, on arrival {arrival}, hold continuous"), &fps.to_string(), cells);
            prop_assert!(run.figures.error.is_zero() && run.figures.steps == cells);
        }
        let error = |cells| usual(&format!("{mode}, on arrival drift, hold continuous"), &fps.to_string(), cells).figures.error;
        let one = error(1);
        prop_assert_eq!(error(cells), one * Fraction::from_integer(cells.into()));
    }

    #[test]
    fn no_policy_loses_more_presses_than_it_says(
        times in prop::collection::vec((0u32..60, 0usize..4), 1..12),
        policy in 0usize..4,
        axis in 0usize..4,
    ) {
        let policies = ["ignored", "remembered", "queued 3", "queued 100"];
        let axes = ["first pressed", "last pressed", "horizontal first", "vertical first"];
        let mut at = 0;
        let mut script = Vec::new();
        for (gap, key) in &times {
            at += gap + 1;
            script.push(format!("{at}:{}", ["left", "right", "up", "down"][*key]));
        }
        let script = script.join(" ");
        let run = scripted(&format!("timed 100 ms, while moving {}, axis {}", policies[policy], axes[axis]), &script);
        let figures = &run.figures;
        prop_assert_eq!(figures.presses, times.len() as u64);
        // On an endless track every press that is asked for is granted.
        prop_assert_eq!(figures.steps + figures.inputs_lost, figures.presses);
        if policy == 3 {
            prop_assert_eq!(figures.inputs_lost, 0);
        }
        prop_assert_eq!(figures.diagonals, 0, "one axis at a time never moves two");
        prop_assert!(figures.error.is_zero());
        let moved = run.samples.windows(2).all(|pair| pair[0].x == pair[1].x || pair[0].y == pair[1].y);
        prop_assert!(moved);
    }
}

#[test]
fn a_script_is_edited_at_an_instant() {
    use crate::space::Heading;
    let ms = |ms: i64| Fraction::from_integer(ms.into());
    let edited = |script: &str, key: Heading, at: i64| {
        keys_text(&with_key_at(&parse_keys(script).unwrap(), key, &ms(at), &ms(200)))
    };
    assert_eq!(edited("", Heading::East, 100), "100:right+ 300:right-");
    assert_eq!(edited("100:right+ 300:right-", Heading::East, 250), "100:right+ 250:right-");
    assert_eq!(edited("100:right+ 300:right-", Heading::North, 250), "100:right+ 250:up+ 300:right- 450:up-");
    assert_eq!(edited("100:right+ 300:right-", Heading::East, 20), "20:right+ 100:right- 100:right+ 300:right-");
    assert_eq!(
        edited("0:bob.right+ 90:bob.right-", Heading::East, 50),
        "0:bob.right+ 50:right+ 90:bob.right- 250:right-"
    );
    assert_eq!(edited("100:right+ 300:right-", Heading::East, 100), "", "a press is taken out with its release");
    assert_eq!(edited("20:right+ 100:right- 100:right+ 300:right-", Heading::East, 100), "20:right+ 100:right-");
}
