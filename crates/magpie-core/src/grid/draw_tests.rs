//! What is drawn by the random numbers, held against drawing by hand from the same generator (docs/model.md, section 10).

use super::property_tests::standing;
use super::random::Random;
use super::tests::{book_with, game_on};
use crate::space::Cell;
use crate::tape::Session;
use proptest::prelude::*;

/// A cell as characters from the top: body, mark, floor.
type Stack = [Option<char>; 3];

fn stacks(map: &str) -> Vec<(Cell, Stack)> {
    let mut found = Vec::new();
    for (row, line) in map.lines().enumerate() {
        for (column, glyph) in line.chars().enumerate() {
            let stack = match glyph {
                ' ' => continue,
                '.' => [None; 3],
                'm' | 'n' => [None, Some(glyph), None],
                'f' | 'g' => [None, None, Some(glyph)],
                body => [Some(body), None, None],
            };
            found.push((Cell::new(column as i64, row as i64), stack));
        }
    }
    found
}

/// A region in words, and whether a cell lies in it.
type Region = (&'static str, fn(Cell) -> bool);

#[derive(Clone, Copy, Debug)]
struct Where {
    on: Option<(&'static str, char)>,
    region: Option<Region>,
}

impl Where {
    fn words(self) -> String {
        let on = self.on.map_or(String::new(), |(name, _)| format!(" on {name}"));
        let region = self.region.map_or(String::new(), |(words, _)| format!(" in {words}"));
        format!("{on}{region}")
    }

    /// The cells that may be drawn, in reading order.
    fn cells(self, stacks: &[(Cell, Stack)]) -> Vec<usize> {
        let fits = |(cell, stack): &(Cell, Stack)| {
            let things: Vec<char> = stack.iter().flatten().copied().collect();
            let wanted: Vec<char> = self.on.map(|(_, glyph)| glyph).into_iter().collect();
            things == wanted && self.region.is_none_or(|(_, inside)| inside(*cell))
        };
        (0..stacks.len()).filter(|at| fits(&stacks[*at])).collect()
    }
}

fn wheres() -> impl Strategy<Value = Where> {
    let on = prop::option::of(prop::sample::select(vec![("mat", 'm'), ("net", 'n')]));
    let regions: Vec<Region> = vec![
        ("row 2", |cell| cell.row == 2),
        ("row last", |cell| cell.row == 4),
        ("column first", |cell| cell.column == 0),
        ("column 3", |cell| cell.column == 3),
        ("map", |_| true),
    ];
    let region = prop::option::of(prop::sample::select(regions));
    (on, region).prop_map(|(on, region)| Where { on, region })
}

fn seen(session: &Session) -> Vec<(Cell, String)> {
    let book = session.grid().book();
    let mut found: Vec<(Cell, String)> = standing(session.grid())
        .into_iter()
        .filter(|(_, kind, _)| Some(*kind) != book.ground)
        .map(|(cell, kind, _)| (cell, book.kind(kind).name.clone()))
        .collect();
    found.sort();
    found
}

fn name(glyph: char) -> &'static str {
    let names = [
        ('A', "ada"),
        ('B', "box"),
        ('C', "cog"),
        ('#', "wall"),
        ('m', "mat"),
        ('n', "net"),
        ('f', "fen"),
        ('g', "gap"),
    ];
    names.iter().find(|(other, _)| *other == glyph).unwrap().1
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 150, ..ProptestConfig::default() })]

    /// Every spawn is one draw over the cells that fit, in reading order; an empty list draws nothing.
    #[test]
    fn spawns_are_drawn_as_by_hand(
        map in super::property_tests::cells(), seed in 0..5_000_u64, wheres in prop::collection::vec(wheres(), 1..6),
        presses in prop::collection::vec(0..6_usize, 1..20),
    ) {
        let rule = |(key, place): (usize, &Where)| {
            format!("on key \"{}\": spawn cog at random empty{}", char::from(b'a' + key as u8), place.words())
        };
        let rules: Vec<String> = wheres.iter().enumerate().map(rule).collect();
        let book = book_with(&format!("seed {seed}"), &rules.join("\n"), &map);
        let mut session = game_on(&book);
        let (mut random, mut plain) = (Random::new(seed), stacks(&map));
        for press in presses {
            let Some(place) = wheres.get(press) else { continue };
            session.give(&format!("key:{}", char::from(b'a' + press as u8)).parse().unwrap());
            let cells = place.cells(&plain);
            if !cells.is_empty() {
                plain[cells[random.below(cells.len() as u32) as usize]].1[0] = Some('C');
            }
            let mut wanted: Vec<(Cell, String)> = plain
                .iter()
                .flat_map(|(cell, stack)| stack.iter().flatten().map(|glyph| (*cell, name(*glyph).to_owned())))
                .collect();
            wanted.sort();
            prop_assert_eq!(seen(&session), wanted, "{}", place.words());
        }
        let end = seen(&session);
        let length = session.position();
        session.go(0);
        session.go(length);
        prop_assert_eq!(seen(&session), end, "the same draws come again");
    }
}
