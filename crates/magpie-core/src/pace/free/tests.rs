use super::super::{Drive, Frames, Outcome, Plan, Settings, TrackRun, notes, parse_keys, run};
use super::*;
use crate::grid::{Grid, Nobody};
use crate::rulebook::{Rulebook, read_text};
use std::sync::Arc;

/// A yard of 16-px cells: `C` the cart, `#` a wall, `>` a plank that lets only eastward, `o` a crate that is shoved, `*` a
/// hole, `~` ice.
fn yard(head: &str, rows: &[&str], pace: &str, rules: &str) -> Arc<Rulebook> {
    let rows = rows.join("\n  ");
    let source = format!(
        "game \"P\"\ncell 16 px\n{head}kinds\n  floor . floor\n  hole * mark\n  plank > mark\n  ice ~ mark\n  cart C body\n  \
         wall # body\n  crate o body\nground floor\nmap \"M\"\n  {rows}\ncontrol cart with arrows\npace\n  {pace}\nrules\n  \
         cart into plank if heading east: pass\n  cart into plank: stop\n  cart into crate: shove\n  crate into crate: stop\n  \
         cart into hole: perish\n  cart into ice: slide\n{rules}"
    );
    let reading = read_text(&source, &|_| Err("none".into()));
    assert!(!reading.has_errors(), "{source}: {:?}", reading.diagnostics);
    Arc::new(reading.rulebook.unwrap())
}

fn grid_of(book: &Arc<Rulebook>) -> Grid {
    Grid::new(book.clone(), 0, None, &mut Nobody).unwrap()
}

fn walk(book: &Arc<Rulebook>, fps: &str, keys: &str) -> TrackRun {
    let kind = book.kind_of_name("cart").unwrap();
    let plan = Plan {
        movers: vec![("cart".into(), Settings::of_kind(book, kind))],
        frames: Frames::rate(fps).unwrap(),
        keys: Drive::Keys(parse_keys(keys).unwrap()),
        until: None,
    };
    run(&plan, &book.geometry, book.maps[0].extent, Some(&mut grid_of(book))).unwrap().remove(0)
}

fn places(run: &TrackRun) -> Vec<(f64, f64)> {
    run.samples.iter().map(|sample| (sample.x, sample.y)).collect()
}

fn states(run: &TrackRun) -> Vec<&'static str> {
    run.samples.iter().map(|sample| sample.state.word()).collect()
}

fn ends(run: &TrackRun) -> (f64, f64) {
    let last = run.samples.last().unwrap();
    (last.x, last.y)
}

#[test]
fn a_body_goes_by_its_speed_and_ends_touching() {
    // 60 px/s at 10 frames a second: 6 px a frame.
    let book = yard("", &["C..#"], "free 60 px/s, body 12 px", "");
    let run = walk(&book, "10", "0:right+ 1000:right-");
    assert_eq!(places(&run)[..6], [(8.0, 8.0), (14.0, 8.0), (20.0, 8.0), (26.0, 8.0), (32.0, 8.0), (38.0, 8.0)]);
    assert_eq!(ends(&run), (42.0, 8.0), "its front at 48");
    let figures = &run.figures;
    assert_eq!((figures.steps, figures.presses, figures.refused, figures.inputs_lost), (2, 1, 0, 0));
    assert_eq!((nearest(&figures.jump), nearest(&figures.error)), (6.0, 2.0));
    assert_eq!(
        (figures.caught, figures.slid, figures.outcome),
        (Some(0), Some(0), Outcome::Done),
        "a wall straight ahead"
    );
    assert_eq!(figures.latency.as_ref().map(nearest), Some(100.0));
    assert_eq!(figures.nominal_speed.as_ref().map(nearest), Some(60.0));
    // 34 px from the frame before the first movement, at 0 ms, to the last at 600.
    assert_eq!(figures.mean_speed.as_ref().map(|speed| (nearest(speed) * 1e6).round() / 1e6), Some(56.666_667));
    assert_eq!((figures.frames_per_step, &figures.ms_per_step, &figures.lined), (None, &None, &None));
    assert_eq!((run.samples.last().unwrap().cell, run.samples[2].cell), (Cell::new(2, 0), Cell::new(1, 0)));
    // However fast, nothing is tunnelled through.
    let fast = yard("", &["C.#."], "free 100000 px/s, body 12 px", "");
    assert_eq!(ends(&walk(&fast, "60", "0:right+ 100:right-")), (26.0, 8.0));
}

#[test]
fn a_press_into_a_wall_is_refused_and_a_tap_moves_for_one_frame() {
    let book = yard("", &["#C."], "free 60 px/s, body 16 px", "");
    let run = walk(&book, "10", "0:left+ 250:left- 300:right");
    assert_eq!((run.figures.refused, run.figures.presses, run.figures.inputs_lost), (1, 2, 0));
    assert_eq!(states(&run), ["standing", "standing", "standing", "moving", "standing"]);
    assert_eq!(ends(&run), (30.0, 8.0));
}

#[test]
fn what_is_shoved_taken_or_passed_does_not_block() {
    let book = yard("", &["C.o.#"], "free 60 px/s, body 16 px", "");
    let run = walk(&book, "10", "0:right+ 2000:right-");
    assert_eq!(ends(&run), (40.0, 8.0), "the crate is shoved to the wall, and then blocks");
    let one_way = yard("", &["C>.", "..."], "free 60 px/s, body 16 px", "");
    assert_eq!(ends(&walk(&one_way, "10", "0:right+ 600:right- 700:left+ 2000:left-")), (38.0, 8.0));
}

#[test]
fn a_corner_catches_and_the_least_slack_lets_past() {
    let rows = &["....", "C..#", "...."];
    let keys = "0:up+ 110:up- 200:right+ 1500:right-";
    // Up by 6 px: the body of 16 reaches 6 px into the row above, and 10 px into its own.
    let caught = yard("", &["...#", "C...", "...."], "free 60 px/s, body 16 px", "");
    let run = walk(&caught, "10", keys);
    assert_eq!(ends(&run), (40.0, 18.0));
    assert!(run.figures.caught > Some(3) && states(&run).contains(&"caught"), "{:?}", run.figures);
    assert_eq!(run.figures.touched, Some(vec![(48.0, 16.0)]));
    let frames = Frames::rate("10").unwrap();
    assert!(notes(&run, &frames).iter().any(|note| note.contains("`slack 6 px`")), "{:?}", notes(&run, &frames));
    for (slack, past) in [("slack 5 px", false), ("slack 6 px", true)] {
        let book = yard("", &["...#", "C...", "...."], &format!("free 60 px/s, body 16 px, {slack}"), "");
        let run = walk(&book, "10", keys);
        assert_eq!((ends(&run).0 > 48.0, run.figures.slid > Some(0)), (past, past), "{slack}: {:?}", places(&run));
    }
    // A wall straight ahead holds it, but does not catch it.
    let straight = walk(&yard("", rows, "free 60 px/s, body 16 px", ""), "10", "0:right+ 1500:right-");
    assert_eq!((straight.figures.caught, straight.figures.touched.clone()), (Some(0), Some(vec![])));
}

#[test]
fn a_gap_too_narrow_is_told_with_its_width() {
    let book = yard("", &["..#.", "C...", "..#."], "free 60 px/s, body 20 px, slack 10 px", "");
    let run = walk(&book, "10", "0:right+ 1500:right-");
    assert_eq!(run.figures.touched, Some(vec![(32.0, 16.0), (32.0, 32.0)]));
    let told = notes(&run, &Frames::rate("10").unwrap()).join("\n");
    assert!(told.contains("16 px") && told.contains("`body 16 px`"), "{told}");
}

#[test]
fn slack_takes_its_px_from_the_way_and_the_shorter_side() {
    // 10 px too low for the passage, at a way of 10 px a frame: 2 px on and 8 up, then 2 up and 8 on.
    let book = yard("", &["....", "C...", "...#"], "free 100 px/s, body 16 px, slack 10 px", "");
    let run = walk(&book, "10", "0:right+ 210:right- 210:down+ 270:down- 310:right+ 1000:right-");
    let at = places(&run);
    assert_eq!(at[2], (28.0, 24.0));
    assert_eq!(at[3], (28.0, 34.0), "down at one frame");
    assert_eq!((at[4], run.samples[4].state.word()), ((38.0, 34.0), "moving"));
    assert_eq!((at[5], run.samples[5].state.word()), ((40.0, 26.0), "slid"));
    assert_eq!((at[6], run.samples[6].state.word()), ((48.0, 24.0), "slid"));
}

#[test]
fn keys_are_asked_in_the_order_of_the_axis() {
    let rows = &["....", "C...", "...."];
    let keys = "0:right+ 0:down+ 210:right- 210:down-";
    let at = |axis: &str| {
        let book = yard("", rows, &format!("free 60 px/s, body 16 px, axis {axis}"), "");
        let run = walk(&book, "10", keys);
        (places(&run)[1], run.figures.diagonals, run.figures.inputs_lost)
    };
    assert_eq!(at("last pressed"), ((8.0, 30.0), 0, 0), "at frame 0 both are asked, and neither has a way");
    assert_eq!(at("first pressed"), ((14.0, 24.0), 0, 0));
    assert_eq!(at("horizontal first"), ((14.0, 24.0), 0, 0));
    assert_eq!(at("vertical first"), ((8.0, 30.0), 0, 0));
    assert_eq!(at("diagonal"), ((14.0, 30.0), 2, 0));
}

#[test]
fn lines_are_come_to_when_the_keys_of_the_axis_are_up() {
    let book = yard("", &["....", "C...", "...."], "free 50 px/s, body 8 px, lined up by 8 px", "");
    let run = walk(&book, "10", "0:right+ 110:right- 300:down+ 310:down-");
    // 5 px on; at the frame with the key up to the nearest of 8, which is 3 px on; then down.
    assert_eq!(places(&run)[..4], [(8.0, 24.0), (13.0, 24.0), (16.0, 24.0), (16.0, 29.0)]);
    assert_eq!(run.figures.lined.as_ref().map(nearest), Some(0.0));
    // From the middle of cell 3, 48 px on, the nearest of 20 is 40: at once.
    let off = yard("", &["...C."], "free 50 px/s, body 8 px, lined up by 20 px", "");
    assert_eq!(places(&walk(&off, "10", "100:right"))[0], (48.0, 8.0));
}

#[test]
fn what_leads_elsewhere_ends_the_frame_in_the_middle_of_that_cell() {
    let ice = yard("", &["C~~.."], "free 100 px/s, body 16 px", "");
    let run = walk(&ice, "10", "0:right+ 190:right-");
    assert_eq!(places(&run)[..2], [(8.0, 8.0), (56.0, 8.0)], "entering the ice it slides to its end");
    let hole = yard("", &["C*."], "free 100 px/s, body 16 px", "");
    let run = walk(&hole, "10", "0:right+ 290:right-");
    assert_eq!((ends(&run), run.samples.last().unwrap().cell), ((16.0, 8.0), Cell::new(0, 0)), "gone at the border");
    assert_eq!(run.figures.steps, 1);
}

#[test]
fn past_an_edge_that_wraps_it_goes_on_at_the_far_side() {
    let book = yard("", &["C..", "..."], "free 100 px/s, body 10 px", "  cart into edge: wrap\n");
    let run = walk(&book, "10", "0:left+ 190:left-");
    assert_eq!(places(&run)[..3], [(8.0, 8.0), (46.0, 8.0), (46.0, 8.0)]);
    assert_eq!((run.samples[1].cell, nearest(&run.figures.jump)), (Cell::new(2, 0), 10.0), "a wrap is no movement");
    // A wall on the far side blocks; without a way round the outside does.
    let wall = yard("", &["C.#"], "free 100 px/s, body 10 px", "  cart into edge: wrap\n");
    assert_eq!(ends(&walk(&wall, "10", "0:left+ 190:left-")), (5.0, 8.0));
    let perish = yard("", &["C.."], "free 100 px/s, body 10 px", "  cart into edge: perish\n");
    assert_eq!(ends(&walk(&perish, "10", "0:left+ 190:left-")), (5.0, 8.0));
}

#[test]
fn the_usual_run_enters_so_many_cells() {
    let book = yard("", &["C"], "free 100 px/s, hold off", "");
    let settings = Settings::of_kind(&book, book.kind_of_name("cart").unwrap());
    assert_eq!(settings.words(), "free 100 px/s, axis last pressed");
    let plan = |cells| Plan {
        movers: vec![("cart".into(), settings.clone())],
        frames: Frames::rate("10").unwrap(),
        keys: Drive::Usual(cells),
        until: None,
    };
    let made = run(&plan(3), &book.geometry, book.maps[0].extent, None).unwrap().remove(0);
    // 10 px a frame: the third border, at 48, is passed at frame 5; nothing moves at frame 6.
    assert_eq!((made.samples.len(), made.figures.steps, ends(&made)), (7, 3, (58.0, 8.0)));
    assert_eq!(made.keys.last().map(|key| (key.at, key.down)), Some((500.0, false)));
    assert!(run(&plan(10_000_000), &book.geometry, book.maps[0].extent, None).is_err());
}

#[test]
fn numbers_without_end_are_exact() {
    // A third of a pixel a frame, three frames to a pixel: after 48 frames exactly 16 px on.
    let book = yard("", &["C...."], "free 100/5 px/s, body 10/3 px", "");
    let run = walk(&book, "60", "0:right+ 801:right-");
    assert_eq!(places(&run)[48], (24.0, 8.0));
    assert_eq!((&run.figures.error, run.figures.steps), (&Fraction::zero(), 1));
    let far = yard(
        "",
        &["C...."],
        "free 999999.999/999999.997 px/s, body 999.983/999.979 x 997.009/99.991 px, slack 1/999.961 px",
        "",
    );
    assert_eq!(walk(&far, "59.94", "0:right+ 50:right- 100:down+ 150:down-").figures.presses, 2);
}

#[test]
fn rows_and_y_count_either_way() {
    let rows = &[".#..", "C..#", ".#..", "...."];
    let keys = "0:up+ 150:up- 200:right+ 900:right- 900:down+ 2400:down- 2500:left+ 3000:left-";
    let walked = |head: &str| {
        walk(&yard(head, rows, "free 70 px/s, body 14 x 12 px, slack 8 px, lined up by 8 px", ""), "20", keys)
    };
    let usual = walked("");
    assert!(states(&usual).contains(&"slid") && usual.figures.steps > 1, "{:?}", usual.figures);
    for (head, y, from_bottom) in
        [("y up\n", -1.0, false), ("rows from bottom\n", 1.0, true), ("y up\nrows from bottom\n", -1.0, true)]
    {
        let turned = walked(head);
        assert_eq!(states(&turned), states(&usual), "{head}");
        let moved = |run: &TrackRun, y: f64| -> Vec<(f64, f64)> {
            run.samples.iter().map(|sample| (sample.x, y * (sample.y - run.samples[0].y))).collect()
        };
        assert_eq!(moved(&turned, y), moved(&usual, 1.0), "{head}");
        let rows = |run: &TrackRun, turn: bool| -> Vec<i64> {
            run.samples.iter().map(|sample| if turn { 3 - sample.cell.row } else { sample.cell.row }).collect()
        };
        assert_eq!(rows(&turned, from_bottom), rows(&usual, false), "{head}");
        assert_eq!((turned.figures.caught, turned.figures.slid), (usual.figures.caught, usual.figures.slid));
    }
}
