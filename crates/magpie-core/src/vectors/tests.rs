//! Every mistake that changes anything fails on a vector, the right version passes, and none can be left out.

use super::{Asking, Vectors, convert, index, pace, situations};
use crate::formula::sampling;
use crate::grid::{Grid, Nobody};
use crate::mishap::{Given, Mishap, Numbers, Played, Slip, Sort, Target, slips_of};
use crate::rulebook::{Rulebook, read_text};
use crate::space::{Cell, Position, WorldPoint};
use proptest::prelude::*;
use std::collections::BTreeSet;
use std::sync::Arc;

fn book(source: &str) -> Arc<Rulebook> {
    let reading = read_text(source, &|_| Err("none".into()));
    assert!(!reading.has_errors(), "{:?}\n{source}", reading.diagnostics);
    Arc::new(reading.rulebook.unwrap())
}

fn names(vectors: &Vectors) -> BTreeSet<&str> {
    vectors.all.iter().flat_map(|vector| &vector.catches).map(String::as_str).collect()
}

/// The vectors that are positions, each with what it catches.
fn positions(vectors: &Vectors) -> impl Iterator<Item = (Position, &[String])> {
    vectors.all.iter().filter_map(|vector| match vector.asks {
        Asking::Position(position) => Some((position, vector.catches.as_slice())),
        Asking::Cell(_) | Asking::Situation(_) | Asking::Pace(_) => None,
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 16, ..ProptestConfig::default() })]

    /// Held to all sampled positions, one by one.
    #[test]
    fn every_way_to_be_wrong_about_a_position_is_caught(
        columns in 1_u32..6, rows in 1_u32..5, w in 8_u32..14, h in 8_u32..14, gap in 0_u32..4,
        x in -30_i32..60, y in -30_i32..60, hotspot in 0_u32..5, up in any::<bool>(), bottom in any::<bool>(),
    ) {
        let map = format!("  {}\n", ".".repeat(columns as usize)).repeat(rows as usize);
        let source = format!(
            "game \"T\"\ncell {w} x {h} px\ngap {gap} px\norigin {x},{y} px\nhotspot {hotspot},1 px\ny {}\nrows from {}\nkinds\n  plank . floor\n\
             ground plank\nmap \"One\"\n{map}",
            if up { "up" } else { "down" },
            if bottom { "bottom" } else { "top" },
        );
        let book = book(&source);
        let found = convert(&book, 0, 40);
        prop_assert!(found.missed.is_empty());
        let given = Given { window: Some(false), ..Given::of(&book, 0) };
        let (across, down) = (sampling(&given, false).positions(), sampling(&given, true).positions());
        let numbers = given.numbers();
        let right = |target: Target, WorldPoint { x, y }: WorldPoint| match target {
            Target::Column => numbers.x.cell(x),
            Target::Row => numbers.y.cell(y),
            Target::SnapX => numbers.x.snap(x),
            _ => numbers.y.snap(y),
        };
        for mishap in Mishap::ALL.into_iter().filter(|mishap| !mishap.is_of_view()) {
            for target in [Target::Column, Target::Row, Target::SnapX, Target::SnapY] {
                for version in mishap.versions(target, 0) {
                    let fails = |x: f64, y: f64| {
                        let asked = given.at(x, y);
                        let got = version.at_position(target, &asked);
                        !got.is_nan() && got != right(target, asked.world)
                    };
                    let anywhere = down.iter().any(|y| across.iter().any(|x| fails(*x, *y)));
                    let caught = positions(&found).any(|(position, catches)| match position {
                        Position::World(WorldPoint { x, y }) => {
                            let is_caught = fails(x, y);
                            assert!(!is_caught || catches.iter().any(|name| name == mishap.id()));
                            is_caught
                        }
                        Position::Window(_) | Position::Cell(_) | Position::Index(_) => false,
                    });
                    prop_assert_eq!(anywhere, caught, "{} {:?} {:?}", mishap.id(), target, version);
                    prop_assert!(!anywhere || !found.same_here.iter().any(|name| name == mishap.id()));
                }
            }
        }
    }
}

#[test]
fn indices_are_asked_where_the_wrong_ones_part() {
    let rows = "  .....\n  .....\n  .....\n";
    let book = book(&format!("game \"T\"\ncell 8 px\nkinds\n  plank . floor\nground plank\nmap \"One\"\n{rows}"));
    let found = index(&book, 0, 40);
    let wanted = ["axes-swapped", "y-turned-round", "counted-from-one", "far-edge-owned", "index-by-height"];
    assert!(wanted.iter().all(|name| names(&found).contains(name)), "{found:?}");
    assert!(found.missed.is_empty() && found.all.len() <= 5, "{found:?}");
    let few = index(&book, 0, 1);
    assert_eq!(few.all.len(), 1);
    assert!(!few.missed.is_empty(), "what the one does not catch is said");
    let numbers = Numbers::new(&book.geometry, book.maps[0].extent, (0.0, 0.0));
    for vector in &found.all {
        let Asking::Cell(cell) = vector.asks else { panic!("{vector:?}") };
        for mishap in Mishap::ALL {
            let fails = |target: Target, right: f64| {
                mishap.versions(target, 0).iter().any(|version| {
                    let got = version.at_cell(target, &book.geometry, book.maps[0].extent, &numbers, cell);
                    !got.is_nan() && got != right
                })
            };
            let right = book.geometry.index(book.maps[0].extent, cell);
            let fails = right.is_some_and(|index| fails(Target::Index, index as f64))
                || fails(Target::Inside, f64::from(u8::from(right.is_some())));
            assert_eq!(fails, vector.catches.iter().any(|name| name == mishap.id()), "{} at {cell:?}", mishap.id());
        }
    }
}

const LOFT: &str = include_str!("../../../../demos/cog-loft.magpie");

/// How a version ends a situation: its board, the last answer, where the piece stands.
fn ends(
    book: &Arc<Rulebook>,
    played: &Played,
    vector: &super::Vector,
) -> (Vec<String>, Option<bool>, Option<Cell>, Vec<i64>) {
    let Asking::Situation(situation) = &vector.asks else { panic!("{vector:?}") };
    let rows: Vec<Vec<char>> = situation.board.iter().map(|row| row.chars().collect()).collect();
    let map = Arc::new(book.map_of(&rows).unwrap());
    let mut grid = Grid::on_board(played.book.clone(), map, played.switches, &mut Nobody).unwrap();
    let mut granted = grid.last_request().0;
    for input in &situation.inputs {
        grid.input(&played.heard(input), &mut Nobody);
        granted = grid.last_request().0.or(granted);
    }
    let cell = grid.first_controlled().and_then(|piece| grid.board().cell_of(piece));
    let cell = cell.map(|cell| grid.switches().margin.outer(grid.board().cell(cell)));
    (grid.picture(), granted, cell, grid.counters().map(|(_, value)| value).collect())
}

#[test]
fn every_caught_mistake_of_a_step_fails_and_the_right_game_passes() {
    let rack = include_str!("../../../../demos/lantern-rack.magpie");
    for (source, sorts) in
        [(LOFT, &[Sort::Bounds, Sort::Meeting, Sort::Keeping][..]), (rack, &[Sort::Turn]), (rack, &[Sort::Bounds])]
    {
        let book = book(source);
        let found = situations(&book, sorts, 40).unwrap();
        assert!(found.missed.is_empty() && !found.all.is_empty());
        let slips: Vec<_> =
            slips_of(&book).into_iter().filter(|slipped| sorts.contains(&slipped.slip.sort())).collect();
        let mut only: Vec<usize> = vec![0; found.all.len()];
        for slipped in &slips {
            let wrong = Played::with(&book, [slipped], 6);
            let failing: Vec<usize> = (0..found.all.len())
                .filter(|at| {
                    let right = ends(&book, &Played::right(&book), &found.all[*at]);
                    ends(&book, &wrong, &found.all[*at]) != right
                })
                .collect();
            for (at, vector) in found.all.iter().enumerate().filter(|(at, _)| failing.contains(at)) {
                assert!(vector.catches.iter().any(|name| name == slipped.slip.id()), "{at}: {}", slipped.slip.id());
            }
            let is_same = found.same_here.iter().any(|name| name == slipped.slip.id());
            assert!(!is_same || failing.is_empty(), "{}", slipped.slip.id());
            if let [one] = failing[..] {
                only[one] += 1;
            }
        }
        assert!(only.iter().all(|count| *count > 0), "none can be left out: {only:?}");
        for vector in &found.all {
            let Asking::Situation(situation) = &vector.asks else { panic!("{vector:?}") };
            let shown = situation.ends(&book).unwrap();
            let (board, granted, cell, counters) = ends(&book, &Played::right(&book), vector);
            assert_eq!((shown.board, shown.granted, shown.cell, shown.counters), (board, granted, cell, counters));
        }
    }
}

#[test]
fn situations_are_as_small_as_they_go() {
    let book = book(LOFT);
    let found = situations(&book, &[Sort::Meeting], 40).unwrap();
    let of = |slip: Slip| found.all.iter().find(|vector| vector.catches.iter().any(|name| name == slip.id()));
    let Asking::Situation(situation) = &of(Slip::PusherStays).expect("it shows").asks else { panic!("a situation") };
    let cells: usize = situation.board.iter().map(|row| row.chars().count()).sum();
    assert!(cells <= 4 && situation.inputs.len() == 1, "{situation:?}");
}

#[test]
fn a_pace_with_another_setting_draws_other_frames() {
    let book = book(LOFT);
    let found = pace(&book, 0, 40);
    // `remembered` and `continuous`, eased in and out, snapping: the others differ.
    let wanted = [
        "on-arrival-carry",
        "on-arrival-drift",
        "while-moving-ignored",
        "while-moving-obeyed",
        "hold-off",
        "linear",
        "ease-in",
    ];
    assert!(wanted.iter().all(|name| names(&found).contains(name)), "{:?} {:?}", names(&found), found.same_here);
    assert!(
        !names(&found).contains("ease-in-out") && found.missed.is_empty() && found.all.len() <= 8,
        "{}",
        found.all.len()
    );
    for vector in &found.all {
        let Asking::Pace(asked) = &vector.asks else { panic!("{vector:?}") };
        let positions = asked.positions(&book, 0).unwrap();
        assert!(positions.len() > 1 && positions.len() <= 1_000);
    }
}

#[test]
fn the_settings_of_a_free_body_and_a_lean_are_told_from_others() {
    let yard = |clauses: &str| {
        book(&format!(
            "game \"Yard\"\ncell 16 px\nkinds\n  floor . floor\n  cart C body\n  wall # body\nground floor\nmap \"M\"\n  .....\n  .#.#.\n  .C...\n  \
             .#.#.\n  .....\ncontrol cart with arrows\npace\n  {clauses}\n"
        ))
    };
    let free = yard("free 80 px/s, body 14 px, slack 4 px, lined up by 16 px, hold off");
    let found = pace(&free, 0, 40);
    assert!(
        ["no-slack", "not-lined-up", "axis-first-pressed", "axis-diagonal"]
            .iter()
            .all(|name| names(&found).contains(name))
    );
    let mean_nothing = ["test-equal", "hold-continuous", "linear", "on-arrival-snap", "no-lean"];
    let told = |name: &str| found.missed.iter().any(|missed| missed == name) || names(&found).contains(name);
    assert!(!mean_nothing.iter().any(|name| told(name)), "{:?}", found.missed);
    let leaning = pace(&yard("timed 100 ms, lean 80 ms"), 0, 40);
    assert!(names(&leaning).contains("no-lean") && !names(&leaning).contains("no-slack"));
}
