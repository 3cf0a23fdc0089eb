//! Random rulebooks on random boards: the grid against its slow reference, with a recorder and with nobody watching.

use super::reference_tests::{Picture, Reference};
use super::tests::{book_with, text_with};
use super::{Ended, Grid, Nobody, Reason, Recorder};
use crate::board::CellId;
use crate::input::{Input, Key};
use crate::rulebook::Trigger;
use crate::tape::{Session, Start};
use proptest::prelude::*;

/// Every piece on a layer of its own: cell, kind, heading.
pub fn standing(grid: &Grid) -> Picture {
    let board = grid.board();
    let mut seen = Vec::new();
    for id in (0..board.cells()).map(CellId) {
        for layer in 0..board.layers() {
            if let Some(kind) = board.kind_at(id, layer) {
                let heading = board.known_piece_at(id, layer).and_then(|piece| board.heading_of(piece));
                seen.push((board.cell(id), kind, heading));
            }
        }
    }
    seen.sort();
    seen
}

/// Rules of the random rulebooks.
fn clause() -> impl Strategy<Value = String> {
    let who = prop::sample::select(vec!["ada", "box", "cog", "thing", "any"]);
    let body = prop::sample::select(vec!["ada", "box", "cog", "wall", "thing"]);
    let mark = prop::sample::select(vec!["mat", "net", "fen", "gap"]);
    let guard = prop::sample::select(vec!["", "", "", " if score < 3", " if count mat > 1", " if heading east"]);
    let effect = prop::sample::select(vec![
        "",
        "",
        ", add 1 to score",
        ", remove every net",
        ", place mat here",
        ", turn every fen into gap",
        ", signal \"told\"",
    ]);
    let verb = prop::sample::select(vec![
        "stop",
        "shove",
        "shove up to 1",
        "shove up to 2",
        "shove else take",
        "shove else stop",
        "take",
        "perish",
        "clash",
        "bounce",
        "swap",
        "shove else swap",
        "shove up to 1 else clash",
    ]);
    let low = prop::sample::select(vec![
        "pass",
        "stop",
        "take",
        "perish",
        "clash",
        "bounce",
        "shove",
        "shove else pass",
        "slide",
        "slide",
        "shove else slide",
        "warp net",
        "warp gap",
    ]);
    let border = prop::sample::select(vec![
        "edge: wrap",
        "edge: perish",
        "edge: bounce",
        "edge: stop, add 1 to score",
        "void: perish",
        "void: bounce",
    ]);
    prop_oneof![
        4 => (who.clone(), body, guard.clone(), verb, effect.clone()).prop_map(|(who, met, guard, verb, effect)| {
            // Marks never ask here, so `any` needs no other layer than the body's.
            let who = if who == "any" && verb.contains("swap") { "ada" } else { who };
            format!("{who} into {met}{guard}: {verb}{effect}")
        }),
        2 => (who.clone(), mark.clone(), guard.clone(), low, effect.clone()).prop_map(|(who, met, guard, verb, effect)| {
            let who = if who == "any" { "thing" } else { who };
            format!("{who} into {met}{guard}: {verb}{effect}")
        }),
        1 => (who.clone(), border).prop_map(|(who, border)| format!("{who} into {border}")),
        1 => (who, mark.clone(), guard, prop::sample::select(vec!["remove mat", "turn every net into mat", "become box"]))
            .prop_map(|(who, mark, guard, effect)| {
                let who = if who == "any" { "ada" } else { who };
                let effect = if effect == "remove mat" { format!("remove {mark}") } else { effect.to_owned() };
                format!("{who} off {mark}{guard}: {effect}")
            }),
        1 => prop::sample::select(vec![
            "when box on mat: remove box, add 1 to score",
            "when cog on fen: turn cog into box",
            "when thing on gap: remove thing, turn gap into fen",
            "when net: turn net into mat",
            "when mat if score > 1: turn mat into net",
            "when ada on net if score < 4: add 1 to score",
            "each turn: step every cog west",
            "each turn if score < 2: step every thing ahead",
            "on key act: step every thing north by 2 else add 1 to score",
            "on key act if score > 0: step ada north-east",
            "win when score > 5",
            "lose when count ada = 0",
        ]).prop_map(String::from),
    ]
}

pub fn cells() -> impl Strategy<Value = String> {
    let glyph = prop::sample::select(vec!['.', '.', '.', '.', 'B', 'C', '#', 'm', 'n', 'f', 'g', ' ']);
    prop::collection::vec(prop::collection::vec(glyph, 6), 5).prop_map(|rows| {
        let mut lines: Vec<String> = rows.into_iter().map(|row| row.into_iter().collect()).collect();
        lines[2].replace_range(2..3, "A");
        lines[0].replace_range(0..1, "A");
        lines.join("\n")
    })
}

fn inputs() -> impl Strategy<Value = Vec<&'static str>> {
    prop::collection::vec(prop::sample::select(vec!["left", "right", "up", "down", "act"]), 1..25)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

    #[test]
    fn the_fast_engine_is_the_slow_one(
        rules in prop::collection::vec(clause(), 0..9),
        map in cells(),
        inputs in inputs(),
        corners in prop::sample::select(vec!["", "corners closed", "rows from bottom"]),
    ) {
        let source = text_with(&format!("{corners}\ncounter score"), &rules.join("\n"), &map);
        let book = book_with(&format!("{corners}\ncounter score"), &rules.join("\n"), &map);
        let mut grid = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
        if grid.outcome() == Some(Ended::NeverSettles) {
            return Ok(());
        }
        let mut unseen = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
        let mut slow = Reference::of(&book, &grid);
        let mut boards = vec![(grid.picture(), slow.counters.clone())];
        for input in inputs {
            let key = Trigger::Key(Key(input.into()));
            let mut recorder = Recorder::default();
            grid.input(&Input::Key(Key(input.into())), &mut recorder);
            slow.key(&key);
            prop_assert_eq!(grid.outcome(), slow.outcome, "outcome after {} of\n{}", input, source);
            prop_assert_eq!(&standing(&grid), &slow.picture(), "board after {} of\n{}", input, source);
            let counters: Vec<i64> = grid.counters().map(|(_, value)| value).collect();
            prop_assert_eq!(&counters, &slow.counters, "counters after {} of\n{}", input, source);
            if let (Some(Err(why)), (Some(false), Some(reason))) = (slow.last, grid.last_request()) {
                prop_assert_eq!(why, (reason.kind, reason.kinds.0, reason.kinds.1, reason.clause.map(|clause| clause.0 as usize)), "reason in\n{}", source);
            }
            // Whom nobody watches answers the same, by the short way of a plain step too.
            unseen.input(&Input::Key(Key(input.into())), &mut Nobody);
            prop_assert_eq!(standing(&unseen), standing(&grid), "board after {} with nobody watching\n{}", input, source);
            let told = |grid: &Grid| {
                let (granted, reason) = grid.last_request();
                let counters: Vec<i64> = grid.counters().map(|(_, value)| value).collect();
                (granted, reason.map(|reason| Reason { check: 0, ..reason }), counters, grid.outcome())
            };
            prop_assert_eq!(told(&unseen), told(&grid), "answer to {} with nobody watching\n{}", input, source);
            boards.push((grid.picture(), counters));
        }
        // Undo takes every turn back, one by one.
        while boards.len() > 1 {
            let depth = grid.depth();
            if depth + 1 < boards.len() {
                // Inputs after the end are not on the tape.
                boards.pop();
                continue;
            }
            boards.pop();
            prop_assert!(grid.undo());
            let counters: Vec<i64> = grid.counters().map(|(_, value)| value).collect();
            prop_assert_eq!(&(grid.picture(), counters), boards.last().unwrap(), "undo in\n{}", source);
        }
    }

    #[test]
    fn two_pieces_never_share_a_layer_and_the_same_tape_ends_the_same(
        rules in prop::collection::vec(clause(), 0..9),
        map in cells(),
        inputs in inputs(),
    ) {
        let book = book_with("counter score", &rules.join("\n"), &map);
        let run = || {
            let mut session = Session::new(Start::map(book.clone(), 0)).unwrap();
            for input in &inputs {
                session.give(&input.parse().unwrap());
                let board = session.grid().board();
                let mut standing = 0;
                for id in (0..board.cells()).map(CellId) {
                    standing += board.kinds_at(id).count();
                    assert!(!board.is_void(id) || board.kinds_at(id).count() == 0, "a piece in void");
                }
                let counted: u32 = (0..9).map(|kind| board.count(crate::rulebook::KindId(kind))).sum();
                assert_eq!(standing, counted as usize, "every piece stands on a layer of its own");
            }
            session
        };
        let (one, other) = (run(), run());
        prop_assert_eq!(one.grid().picture(), other.grid().picture());
        // Winding back and forth comes to the same place.
        let mut wound = one;
        let end = wound.position();
        wound.go(0);
        wound.go(end);
        prop_assert_eq!(wound.grid().picture(), other.grid().picture());
    }

    /// What the rulebook says of itself as a whole holds whatever is played.
    #[test]
    fn who_never_asks_never_does_and_what_never_moves_stays(
        rules in prop::collection::vec(clause(), 0..9), map in cells(), inputs in inputs(),
    ) {
        let book = book_with("counter score", &rules.join("\n"), &map);
        let mut session = Session::new(Start::map(book.clone(), 0)).unwrap();
        let (asks, fixed) = (book.askers(), book.fixed_kinds());
        let stands = |session: &Session| -> Picture {
            standing(session.grid()).into_iter().filter(|(_, kind, _)| fixed[usize::from(kind.0)]).collect()
        };
        let before = stands(&session);
        for input in inputs {
            let maps = session.grid().outcome();
            session.give(&input.parse().unwrap());
            prop_assert_eq!(stands(&session), before.clone(), "after {} ({:?})", input, maps);
        }
        for request in session.answers().flat_map(|answer| &answer.requests) {
            prop_assert!(asks[usize::from(request.kind.0)], "{} asked", book.kind(request.kind).name);
        }
    }

    /// Looking ahead leaves everything as it was: the board, its hash, what is told next.
    #[test]
    fn looking_ahead_changes_nothing(
        rules in prop::collection::vec(clause(), 0..9), map in cells(), inputs in inputs(),
    ) {
        let book = book_with("counter score", &rules.join("\n"), &map);
        let mut looks = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
        let mut plain = Grid::new(book, 0, None, &mut Nobody).unwrap();
        for input in inputs {
            for piece in looks.controlled().clone() {
                let previews = looks.previews(piece);
                let reached = looks.reach(piece);
                prop_assert_eq!(reached.reached.len(), looks.board().cells() as usize);
                let granted: Vec<bool> =
                    looks.book().headings().into_iter().map(|way| looks.preview(piece, way).granted).collect();
                prop_assert_eq!(granted, previews.iter().map(|preview| preview.granted).collect::<Vec<_>>());
            }
            let tried = looks.trial(|grid| {
                grid.input(&input.parse().unwrap(), &mut Nobody);
                standing(grid)
            });
            prop_assert_eq!(standing(&looks), standing(&plain));
            let input = input.parse().unwrap();
            let (one, other) = (looks.answer(&input), plain.answer(&input));
            prop_assert_eq!(&standing(&looks), &tried, "what was tried is what happens");
            prop_assert_eq!(format!("{one:?}"), format!("{other:?}"));
        }
    }
}
