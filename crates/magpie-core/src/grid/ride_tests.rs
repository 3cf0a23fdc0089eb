//! A slow reference of its own for what moves by the clock: one walker who rides, two gliders, millisecond by millisecond
//! (docs/model.md, section 8). Positions are in units of 1/65536 pitch; the middle of cell c is at c + 1/2 pitches.

use super::motion_tests::game;
use crate::rulebook::KindId;
use crate::space::Cell;
use crate::tape::Session;
use proptest::prelude::*;

const PITCH: i128 = 65_536;
const COLUMNS: i64 = 5;
const ROWS: i64 = 4;

/// Where something is along columns and along rows.
type Point = [i128; 2];

fn middle(cell: [i64; 2]) -> Point {
    cell.map(|at| i128::from(at) * PITCH + PITCH / 2)
}

fn cell_of(point: Point) -> [i64; 2] {
    point.map(|at| at.div_euclid(PITCH) as i64)
}

/// A glider along one axis.
#[derive(Clone, Debug)]
struct Glider {
    axis: usize,
    sign: i128,
    /// Pixels a second, cells of 10 px.
    speed: i128,
    end: &'static str,
    began: i128,
    from: Point,
}

impl Glider {
    /// Where it is at a time: counted from its beginning, never summed.
    fn at(&self, now: i128) -> Point {
        let gone = (PITCH * self.speed * (now - self.began)).div_euclid(10_000);
        let cells = i128::from([COLUMNS, ROWS][self.axis]);
        let (first, last) = (PITCH / 2, cells * PITCH - PITCH / 2);
        let mut point = self.from;
        let free = point[self.axis] + self.sign * gone;
        point[self.axis] = match self.end {
            "stop" => free.clamp(first, last),
            "turning" => {
                // Unrolled: there and back is twice the way between the middles of the outer cells.
                let way = last - first;
                let along = (free - first).rem_euclid(2 * way);
                first + along.min(2 * way - along)
            }
            _ => (free + PITCH / 2).rem_euclid((cells + 1) * PITCH) - PITCH / 2,
        };
        point
    }
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum Stands {
    In([i64; 2]),
    /// On a glider, with what lies between the two centres, in a cell while she is on the board.
    On(usize, Point, Option<[i64; 2]>),
    Gone,
}

#[derive(Clone, Debug)]
struct Slow {
    now: i128,
    gliders: [Glider; 2],
    ada: Stands,
    /// Her verb at the edge.
    edge: &'static str,
    walls: Vec<[i64; 2]>,
}

impl Slow {
    fn is_outside(to: [i64; 2]) -> bool {
        !(0..COLUMNS).contains(&to[0]) || !(0..ROWS).contains(&to[1])
    }

    /// She meets the edge; whether she may go over it.
    fn meets_edge(&mut self) -> bool {
        if self.edge == "perish" {
            self.ada = Stands::Gone;
        }
        self.edge == "wrap"
    }

    fn step(&mut self, by: [i64; 2]) {
        let (Stands::In(here) | Stands::On(_, _, Some(here))) = self.ada else { return };
        let mut to = [here[0] + by[0], here[1] + by[1]];
        if Self::is_outside(to) {
            if !self.meets_edge() {
                return;
            }
            to = [to[0].rem_euclid(COLUMNS), to[1].rem_euclid(ROWS)];
        }
        if self.walls.contains(&to) {
            return;
        }
        // The mat lies above the fen: who rides meets nothing below.
        let carrier = (0..2).find(|glider| cell_of(self.gliders[*glider].at(self.now)) == to);
        self.ada = match carrier {
            Some(glider) => {
                let (own, under) = (middle(to), self.gliders[glider].at(self.now));
                Stands::On(glider, [own[0] - under[0], own[1] - under[1]], Some(to))
            }
            None => Stands::In(to),
        };
    }

    fn millisecond(&mut self) {
        self.now += 1;
        let Stands::On(glider, offset, here) = self.ada else { return };
        let under = self.gliders[glider].at(self.now);
        let to = cell_of([under[0] + offset[0], under[1] + offset[1]]);
        let outside = Self::is_outside(to);
        if Some(to) == here || outside && here.is_none() {
            return;
        }
        let may = if outside { self.meets_edge() } else { !self.walls.contains(&to) };
        self.ada = match (may, here) {
            // With `wrap` she rides on, in no cell while her centre is off the board.
            (true, _) => Stands::On(glider, offset, (!outside).then_some(to)),
            (false, _) if self.ada == Stands::Gone => Stands::Gone,
            (false, Some(here)) => Stands::In(here),
            (false, None) => Stands::On(glider, offset, None),
        };
    }

    /// What is seen: her cell, whether she rides, and the gliders' cells while they are in one.
    fn seen(&self) -> Vec<Option<[i64; 2]>> {
        let inside = |cell: &[i64; 2]| !Self::is_outside(*cell);
        let ada = match self.ada {
            Stands::In(cell) => Some(cell),
            Stands::On(_, _, cell) => cell,
            Stands::Gone => None,
        };
        let rides = matches!(self.ada, Stands::On(_, _, Some(_))).then_some([0, 0]);
        let gliders = self.gliders.iter().map(|glider| Some(cell_of(glider.at(self.now))).filter(inside));
        [ada, rides].into_iter().chain(gliders).collect()
    }
}

fn seen(session: &mut Session, kinds: [KindId; 3]) -> Vec<Option<[i64; 2]>> {
    let grid = session.grid_mut();
    let cells = kinds.map(|kind| grid.first_cell(kind).map(|Cell { column, row }| [column, row]));
    let ada = grid.first_piece(kinds[0]);
    let rides = ada.is_some_and(|piece| grid.between_cells().any(|other| other == piece)).then_some([0, 0]);
    vec![cells[0], rides, cells[1], cells[2]]
}

fn step() -> impl Strategy<Value = (&'static str, [i64; 2], u32)> {
    let keys = vec![("left", [-1, 0]), ("right", [1, 0]), ("up", [0, -1]), ("down", [0, 1])];
    (prop::sample::select(keys), 0_u32..700).prop_map(|((key, by), ms)| (key, by, ms))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, ..ProptestConfig::default() })]

    #[test]
    fn riders_and_gliders_go_as_the_slow_reference(
        steps in prop::collection::vec(step(), 1..14),
        speeds in [1_u32..60, 1_u32..60],
        ends in [prop::sample::select(vec!["wrapping", "turning", "stop"]), prop::sample::select(vec!["wrapping", "turning", "stop"])],
        ways in [prop::sample::select(vec![("east", 0, 1), ("west", 0, -1)]), prop::sample::select(vec![("north", 1, -1), ("south", 1, 1)])],
        edge in prop::sample::select(vec!["stop", "wrap", "perish"]),
    ) {
        let glide = |at: usize, kind: &str| format!("glide {kind} {} at {} px/s, {}\n", ways[at].0, speeds[at], ends[at]);
        let sections = glide(0, "mat") + &glide(1, "fen");
        let rules = format!("ada into mat: ride\nada into fen: ride\nada into edge: {edge}");
        let (map, places) = (".....\nA.m.#\n..f..\n#....", [[2, 1], [2, 2]]);
        let mut fast = game(&sections, &rules, map, "");
        let kinds = ["ada", "mat", "fen"].map(|name| fast.grid().book().kind_of_name(name).unwrap());
        let glider = |at: usize| Glider {
            axis: ways[at].1, sign: ways[at].2, speed: speeds[at].into(), end: ends[at], began: 0, from: middle(places[at]),
        };
        let mut slow = Slow {
            now: 0, gliders: [glider(0), glider(1)], ada: Stands::In([0, 1]), edge, walls: vec![[4, 1], [0, 3]],
        };
        prop_assert_eq!(seen(&mut fast, kinds), slow.seen());
        for (key, by, ms) in steps {
            fast.give(&key.parse().unwrap());
            slow.step(by);
            prop_assert_eq!(seen(&mut fast, kinds), slow.seen(), "after {} at {}", key, slow.now);
            fast.give(&format!("wait:{ms}").parse().unwrap());
            (0..ms).for_each(|_| slow.millisecond());
            prop_assert_eq!(seen(&mut fast, kinds), slow.seen(), "at {}", slow.now);
        }
    }
}
