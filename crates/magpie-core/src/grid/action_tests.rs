//! Leaps, drops, walks and exchanges on random boards, held against a board of characters on which each is done by hand
//! (docs/model.md, section 4).

use super::property_tests::cells;
use super::tests::{book_with, game_on};
use crate::tape::Session;
use proptest::prelude::*;
use std::collections::VecDeque;

type Place = (i64, i64);

const COLUMNS: i64 = 6;
const ROWS: i64 = 5;
/// West, east, north, south: the order in which ways are looked for.
const SIDES: [Place; 4] = [(-1, 0), (1, 0), (0, -1), (0, 1)];

/// What stands where: a body, a mark and a floor for every cell, `.` where there is none; none at all in void.
#[derive(Clone, Debug)]
struct Plain {
    cells: Vec<Option<[char; 3]>>,
    /// What `ada` does to boxes and cogs.
    verb: &'static str,
}

impl Plain {
    fn of(map: &str, verb: &'static str) -> Self {
        let cell = |glyph: char| match glyph {
            ' ' => None,
            '.' => Some(['.'; 3]),
            'm' | 'n' => Some(['.', glyph, '.']),
            'f' | 'g' => Some(['.', '.', glyph]),
            body => Some([body, '.', '.']),
        };
        Self { cells: map.lines().flat_map(|line| line.chars().map(cell)).collect(), verb }
    }

    fn at(&self, (column, row): Place) -> Option<[char; 3]> {
        let inside = (0..COLUMNS).contains(&column) && (0..ROWS).contains(&row);
        inside.then(|| self.cells[(row * COLUMNS + column) as usize]).flatten()
    }

    fn put(&mut self, (column, row): Place, body: char) {
        self.cells[(row * COLUMNS + column) as usize].as_mut().unwrap()[0] = body;
    }

    /// The cells of the adas, in reading order.
    fn adas(&self) -> Vec<Place> {
        let all = (0..ROWS).flat_map(|row| (0..COLUMNS).map(move |column| (column, row)));
        all.filter(|place| self.at(*place).is_some_and(|cell| cell[0] == 'A')).collect()
    }

    /// Whether an ada may come into a cell.
    fn enters(&self, to: Place) -> bool {
        match self.at(to) {
            Some([body, ..]) => body == '.' || (self.verb == "take" && "BC".contains(body)),
            None => false,
        }
    }

    /// One request of one ada; whether it was granted.
    fn moved(&mut self, from: Place, to: Place) -> bool {
        let may = self.enters(to);
        if may {
            self.put(from, '.');
            self.put(to, 'A');
        }
        may
    }

    fn leap(&mut self, by: Place) {
        for from in self.adas() {
            self.moved(from, (from.0 + by.0, from.1 + by.1));
        }
    }

    /// Each to its end, the foremost first; of equals the first in reading order.
    fn drop(&mut self, way: Place) {
        let mut adas = self.adas();
        adas.sort_by_key(|place| -(place.0 * way.0 + place.1 * way.1));
        for mut at in adas {
            loop {
                let to = (at.0 + way.0, at.1 + way.1);
                if !self.moved(at, to) {
                    break;
                }
                at = to;
            }
        }
    }

    /// A shortest way on the board as it stands, gone step by step.
    fn walk(&mut self, goal: Place) {
        let mut from = self.adas()[0];
        let mut before = vec![None; (COLUMNS * ROWS) as usize];
        let number = |place: Place| (place.1 * COLUMNS + place.0) as usize;
        let mut waiting = VecDeque::from([from]);
        while let Some(at) = waiting.pop_front() {
            for (columns, rows) in SIDES {
                let next = (at.0 + columns, at.1 + rows);
                if self.enters(next) && next != from && before[number(next)].is_none() {
                    before[number(next)] = Some(at);
                    waiting.push_back(next);
                }
            }
        }
        let mut way = vec![goal];
        if self.at(goal).is_none() || before[number(goal)].is_none() {
            return;
        }
        while let Some(at) = before[number(way[way.len() - 1])].filter(|at| *at != from) {
            way.push(at);
        }
        for to in way.into_iter().rev() {
            self.moved(from, to);
            from = to;
        }
    }

    /// The topmost pieces of two cells change places; an empty cell changes its emptiness.
    fn exchange(&mut self, one: Place, other: Place) {
        let (Some(first), Some(second)) = (self.at(one), self.at(other)) else { return };
        let top = |cell: [char; 3]| cell.iter().position(|glyph| *glyph != '.');
        let layer = match (top(first), top(second)) {
            (Some(first), Some(second)) if first != second => return,
            (None, None) => return,
            (first, second) => first.or(second).unwrap(),
        };
        if one == other {
            return;
        }
        for (place, glyph) in [(one, second[layer]), (other, first[layer])] {
            self.cells[(place.1 * COLUMNS + place.0) as usize].as_mut().unwrap()[layer] = glyph;
        }
    }

    fn picture(&self) -> Vec<String> {
        let glyph = |cell: &Option<[char; 3]>| match cell {
            None => ' ',
            Some(layers) => layers.iter().copied().find(|glyph| *glyph != '.').unwrap_or('.'),
        };
        self.cells.chunks(COLUMNS as usize).map(|row| row.iter().map(glyph).collect()).collect()
    }
}

/// What is done: the input, the rule that answers it, and the same by hand.
#[derive(Clone, Copy, Debug)]
enum Deed {
    Leap(Place),
    Drop(usize),
    Walk(Place),
    Exchange(Place, Place),
}

impl Deed {
    fn rule(self, key: usize) -> String {
        let key = char::from(b'a' + key as u8);
        match self {
            Self::Leap((columns, rows)) => format!("on key \"{key}\": leap ada by {columns}, {rows}"),
            Self::Drop(side) => format!("on key \"{key}\": drop ada {}", ["west", "east", "north", "south"][side]),
            Self::Walk((column, row)) => format!("on key \"{key}\": walk ada to column {column} row {row}"),
            Self::Exchange(one, other) => {
                format!("on key \"{key}\": swap column {} row {} with column {} row {}", one.0, one.1, other.0, other.1)
            }
        }
    }

    fn by_hand(self, plain: &mut Plain) {
        match self {
            Self::Leap(by) => plain.leap(by),
            Self::Drop(side) => plain.drop(SIDES[side]),
            Self::Walk(goal) => plain.walk(goal),
            Self::Exchange(one, other) => plain.exchange(one, other),
        }
    }
}

fn place() -> impl Strategy<Value = Place> {
    (0..COLUMNS, 0..ROWS)
}

fn deed() -> impl Strategy<Value = Deed> {
    let by = (-2..3_i64, -2..3_i64).prop_filter("a leap goes somewhere", |by| *by != (0, 0));
    prop_oneof![
        by.prop_map(Deed::Leap),
        (0..4_usize).prop_map(Deed::Drop),
        place().prop_map(Deed::Walk),
        (place(), place()).prop_map(|(one, other)| Deed::Exchange(one, other)),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn actions_are_what_is_done_by_hand(
        map in cells(), deeds in prop::collection::vec(deed(), 1..10), verb in prop::sample::select(vec!["stop", "take"]),
    ) {
        // One ada alone: whose turn comes when is the affair of other tests.
        let map = map.replacen('A', ".", 1);
        let mut rules: Vec<String> = deeds.iter().enumerate().map(|(key, deed)| deed.rule(key)).collect();
        rules.push(format!("ada into thing: {verb}"));
        let book = book_with("", &rules.join("\n"), &map);
        let mut session: Session = game_on(&book);
        let mut plain = Plain::of(&map, verb);
        prop_assert_eq!(session.grid().picture(), plain.picture());
        let mut pictures = vec![plain.picture()];
        for (key, deed) in deeds.iter().enumerate() {
            session.give(&format!("key:{}", char::from(b'a' + key as u8)).parse().unwrap());
            deed.by_hand(&mut plain);
            prop_assert_eq!(session.grid().picture(), plain.picture(), "after {:?}", deed);
            pictures.push(plain.picture());
        }
        for (at, picture) in pictures.iter().enumerate().rev() {
            session.go(at);
            prop_assert_eq!(&session.grid().picture(), picture);
        }
    }
}
