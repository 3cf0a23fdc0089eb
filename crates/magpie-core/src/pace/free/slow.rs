//! Free movement counted pixel by pixel, on grids and bodies of whole numbers: what the fast way is held to.

use super::super::{Drive, Frames, Plan, Settings, gaps, parse_keys, run};
use crate::grid::{Grid, Nobody};
use crate::rulebook::read_text;
use crate::space::exact::Fraction;
use crate::space::{Cell, Heading};
use proptest::prelude::*;
use std::sync::Arc;

const PITCH: i64 = 16;

/// A yard of walls and planks that let eastward only.
#[derive(Clone, Debug)]
struct Yard {
    rows: Vec<String>,
    wraps: bool,
    /// Width and height of a cell; the rest of the pitch is a gap.
    cell: [i64; 2],
    body: [i64; 2],
    slack: i64,
    lined: Option<i64>,
    /// px a frame.
    way: i64,
    axis: &'static str,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
struct Place {
    at: [i64; 2],
    home: [i64; 2],
}

const fn axis(heading: Heading) -> (usize, i64) {
    match heading {
        Heading::West => (0, -1),
        Heading::East => (0, 1),
        Heading::North => (1, -1),
        _ => (1, 1),
    }
}

impl Yard {
    fn size(&self) -> [i64; 2] {
        [self.rows[0].len() as i64, self.rows.len() as i64]
    }

    fn round(&self, cell: [i64; 2]) -> [i64; 2] {
        let size = self.size();
        if self.wraps { [cell[0].rem_euclid(size[0]), cell[1].rem_euclid(size[1])] } else { cell }
    }

    fn blocks(&self, home: [i64; 2], heading: Heading, cell: [i64; 2]) -> bool {
        let cell = self.round(cell);
        let glyph = usize::try_from(cell[1]).ok().and_then(|row| self.rows.get(row));
        let glyph = glyph.and_then(|row| row.as_bytes().get(usize::try_from(cell[0]).ok()?));
        cell != home && glyph.is_none_or(|glyph| *glyph == b'#' || (*glyph == b'>' && heading != Heading::East))
    }

    /// The columns or rows that the box overlaps.
    fn overlapped(&self, axis: usize, at: i64) -> Vec<i64> {
        (-40..40).filter(|cell| 2 * (at - cell * PITCH).abs() < self.cell[axis] + self.body[axis]).collect()
    }

    fn blocking(&self, place: Place, heading: Heading, lines: &[i64]) -> Vec<[i64; 2]> {
        let (along, _) = axis(heading);
        let across = self.overlapped(1 - along, place.at[1 - along]);
        let cells = lines.iter().flat_map(|line| across.iter().map(move |cell| (*line, *cell)));
        let cells = cells.map(|(line, cell)| if along == 0 { [line, cell] } else { [cell, line] });
        cells.filter(|cell| self.blocks(place.home, heading, *cell)).collect()
    }

    /// Lines that the box overlaps with their middle further ahead than its own.
    fn held(&self, place: Place, heading: Heading) -> Vec<[i64; 2]> {
        let (along, sign) = axis(heading);
        let mut lines = self.overlapped(along, place.at[along]);
        lines.retain(|line| sign * (line * PITCH - place.at[along]) > 0);
        self.blocking(place, heading, &lines)
    }

    /// The line that one pixel more comes to.
    fn ahead(&self, place: Place, heading: Heading) -> Vec<i64> {
        let (along, sign) = axis(heading);
        let now = self.overlapped(along, place.at[along]);
        let mut next = self.overlapped(along, place.at[along] + sign);
        next.retain(|line| !now.contains(line));
        next
    }

    /// Pixel by pixel; gives how far it went, and whether a line has stopped it.
    fn go(&self, place: &mut Place, heading: Heading, way: i64) -> (i64, bool) {
        let (along, sign) = axis(heading);
        if way > 0 && !self.held(*place, heading).is_empty() {
            return (0, false);
        }
        for gone in 0..way {
            if !self.blocking(*place, heading, &self.ahead(*place, heading)).is_empty() {
                return (gone, true);
            }
            if place.at[along] == place.home[along] * PITCH + sign * PITCH / 2 {
                let mut next = place.home;
                next[along] += sign;
                if self.blocks(place.home, heading, next) {
                    return (gone, false);
                }
                place.home = self.round(next);
                place.at[along] += (place.home[along] - next[along]) * PITCH;
            }
            place.at[along] += sign;
        }
        (way, false)
    }

    fn key(&self, place: &mut Place, heading: Heading, slack: i64) -> bool {
        let (start, mut left) = (*place, self.way);
        let (along, _) = axis(heading);
        let sides = if along == 0 { [Heading::North, Heading::South] } else { [Heading::West, Heading::East] };
        loop {
            let (gone, stopped) = self.go(place, heading, left);
            left -= gone;
            if !stopped || left == 0 {
                break;
            }
            let lines = self.ahead(*place, heading);
            let all = (1..=slack).flat_map(|far| sides.map(|side| (far, side)));
            let lets = |(far, side): &(i64, Heading)| {
                let mut there = *place;
                there.at[axis(*side).0] += axis(*side).1 * far;
                let mut trial = *place;
                self.blocking(there, heading, &lines).is_empty() && self.go(&mut trial, *side, *far).0 == *far
            };
            let Some((far, side)) = all.into_iter().find(lets) else { break };
            left -= self.go(place, side, far.min(left)).0;
        }
        *place != start
    }

    fn frame(&self, place: &mut Place, down: &[Heading], first: bool) {
        let mut slid = [false; 2];
        let both = self.axis == "diagonal" && down.iter().any(|key| axis(*key).0 != axis(down[0]).0);
        let mut keys = down.to_vec();
        match self.axis {
            "last pressed" => keys.reverse(),
            "horizontal first" | "diagonal" => {
                keys.reverse();
                keys.sort_by_key(|key| axis(*key).0);
            }
            _ => {}
        }
        if self.axis == "diagonal" {
            keys.dedup_by_key(|key| axis(*key).0);
        }
        let mut asked = Vec::new();
        for key in keys.into_iter().filter(|_| !first) {
            let along = axis(key).0;
            asked.push(along);
            let slack = if both || asked.contains(&(1 - along)) { 0 } else { self.slack };
            let across = place.at[1 - along];
            let moved = self.key(place, key, slack);
            slid[1 - along] |= place.at[1 - along] != across;
            if moved && !both {
                break;
            }
        }
        for along in [0, 1] {
            let Some(lined) = self.lined else { break };
            if slid[along] || down.iter().any(|key| axis(*key).0 == along) {
                continue;
            }
            let at = place.at[along];
            let nearest = at.signum() * ((2 * at.abs() + lined) / (2 * lined)) * lined;
            let heading = match (along, nearest < at) {
                (0, true) => Heading::West,
                (0, false) => Heading::East,
                (_, true) => Heading::North,
                (_, false) => Heading::South,
            };
            let mut trial = *place;
            if self.go(&mut trial, heading, (nearest - at).abs()).0 == (nearest - at).abs() {
                *place = trial;
            }
        }
    }

    /// Where moves of a pixel lead from the middle of a cell, or from all places of it where the body fits: the cells that
    /// the box gets into, and the middle; and whether it fits.
    fn spread(&self, home: [i64; 2]) -> (bool, Vec<[i64; 2]>, Vec<[i64; 2]>) {
        const ALL: [Heading; 4] = [Heading::West, Heading::East, Heading::North, Heading::South];
        let is_free = |at: [i64; 2]| {
            let columns = self.overlapped(0, at[0]);
            let mut cells =
                columns.iter().flat_map(|column| self.overlapped(1, at[1]).into_iter().map(|row| [*column, row]));
            !cells.any(|cell| ALL.iter().all(|heading| self.blocks(home, *heading, cell)))
        };
        let middle = home.map(|cell| cell * PITCH);
        let fits = is_free(middle);
        let half = PITCH / 2;
        let around = (-half..=half).flat_map(|x| (-half..=half).map(move |y| [middle[0] + x, middle[1] + y]));
        let starts = if fits { vec![middle] } else { around.filter(|at| is_free(*at)).collect() };
        let mut open: Vec<Place> = starts.into_iter().map(|at| Place { at, home }).collect();
        let mut seen: std::collections::HashSet<Place> = open.iter().copied().collect();
        let (mut boxed, mut middles) = (std::collections::BTreeSet::new(), std::collections::BTreeSet::new());
        while let Some(place) = open.pop() {
            middles.insert(place.home);
            for column in self.overlapped(0, place.at[0]) {
                boxed.extend(self.overlapped(1, place.at[1]).into_iter().map(|row| self.round([column, row])));
            }
            for heading in ALL {
                let mut next = place;
                if self.go(&mut next, heading, 1).0 == 1 && seen.insert(next) {
                    open.push(next);
                }
            }
        }
        let size = self.size();
        boxed.retain(|cell| (0..size[0]).contains(&cell[0]) && (0..size[1]).contains(&cell[1]));
        (fits, boxed.into_iter().collect(), middles.into_iter().collect())
    }

    /// The cells that whole steps lead into.
    fn steps(&self, home: [i64; 2]) -> Vec<[i64; 2]> {
        let mut found = std::collections::BTreeSet::from([home]);
        let mut open = vec![home];
        while let Some(from) = open.pop() {
            for heading in [Heading::West, Heading::East, Heading::North, Heading::South] {
                let (along, sign) = axis(heading);
                let mut to = from;
                to[along] += sign;
                if !self.blocks([-9, -9], heading, to) && found.insert(self.round(to)) {
                    open.push(self.round(to));
                }
            }
        }
        found.into_iter().collect()
    }

    fn source(&self) -> String {
        let rows = self.rows.join("\n  ");
        let lined = self.lined.map_or(String::new(), |lined| format!(", lined up by {lined} px"));
        format!(
            "game \"P\"\ncell {} x {} px\ngap {} x {} px\nkinds\n  floor . floor\n  plank > mark\n  cart C body\n  wall # body\n\
             ground floor\nmap \"M\"\n  {rows}\ncontrol cart with arrows\npace\n  free {} px/s, body {} x {} px, slack {} px{lined}, axis {}\n\
             rules\n  cart into plank if heading east: pass\n  cart into plank: stop\n{}",
            self.cell[0],
            self.cell[1],
            PITCH - self.cell[0],
            PITCH - self.cell[1],
            self.way * 50,
            self.body[0],
            self.body[1],
            self.slack,
            self.axis,
            if self.wraps { "  cart into edge: wrap\n" } else { "" },
        )
    }
}

fn yards() -> impl Strategy<Value = Yard> {
    let rows = (2..7_usize, 2..6_usize).prop_flat_map(|(columns, rows)| {
        let glyph = prop::sample::select(vec!['.', '.', '.', '.', '#', '#', '>']);
        prop::collection::vec(prop::collection::vec(glyph, columns), rows)
    });
    let sizes = prop::sample::select(vec![16_i64, 16, 14, 10]);
    let bodies = prop::sample::select(vec![2_i64, 8, 12, 14, 16, 18, 24, 40]);
    let lined = prop::option::of(prop::sample::select(vec![4_i64, 8, 16, 20]));
    let axes = prop::sample::select(vec!["last pressed", "first pressed", "horizontal first", "diagonal"]);
    let numbers = (0..12_i64, lined, 1..20_i64, axes);
    (rows, any::<(usize, bool)>(), (sizes.clone(), sizes), (bodies.clone(), bodies), numbers).prop_map(
        |(mut rows, (cart, wraps), cell, body, (slack, lined, way, axis))| {
            let (columns, count) = (rows[0].len(), rows.len());
            rows[cart / columns % count][cart % columns] = 'C';
            let rows = rows.into_iter().map(|row| row.into_iter().collect()).collect();
            Yard { rows, wraps, cell: cell.into(), body: body.into(), slack, lined, way, axis }
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 500, ..ProptestConfig::default() })]

    /// Event by event a body comes to the same places as pixel by pixel.
    #[test]
    fn events_and_pixels_agree(
        yard in yards(),
        held in prop::collection::vec((prop::sample::select(vec!["left", "right", "up", "down"]), 0..14_u32, 1..9_u32), 1..6),
    ) {
        let source = yard.source();
        let book = Arc::new(read_text(&source, &|_| Err("none".into())).rulebook.ok_or_else(|| TestCaseError::fail(source.clone()))?);
        let mut grid = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
        let start = grid.first_cell(book.kind_of_name("cart").unwrap()).unwrap();
        // One stretch of each key, so that it goes down and up in turn.
        let mut stretches: Vec<(&str, u32, u32)> = Vec::new();
        held.into_iter().for_each(|new| if stretches.iter().all(|(key, ..)| *key != new.0) { stretches.push(new) });
        stretches.sort_by_key(|(_, from, _)| *from);
        let mut events: Vec<(u32, String)> = Vec::new();
        for (key, from, long) in &stretches {
            events.push((from * 20, format!("{}:{key}+", from * 20)));
            events.push(((from + long) * 20, format!("{}:{key}-", (from + long) * 20)));
        }
        events.sort_by_key(|(at, _)| *at);
        let script = events.into_iter().map(|(_, words)| words).collect::<Vec<_>>().join(" ");
        let plan = Plan {
            movers: vec![("cart".into(), Settings::of_kind(&book, book.kind_of_name("cart").unwrap()))],
            frames: Frames::rate("50").unwrap(),
            keys: Drive::Keys(parse_keys(&script).unwrap()),
            until: None,
        };
        let fast = run(&plan, &book.geometry, book.maps[0].extent, Some(&mut grid)).unwrap().remove(0);
        let home = [start.column, start.row];
        let mut place = Place { at: home.map(|cell| cell * PITCH), home };
        for (frame, sample) in fast.samples.iter().enumerate() {
            let frame = frame as u32;
            let is_down = |(_, from, long): &&(&str, u32, u32)| (*from..from + long).contains(&frame);
            let key = |word: &str| match word {
                "left" => Heading::West,
                "right" => Heading::East,
                "up" => Heading::North,
                _ => Heading::South,
            };
            let down: Vec<Heading> = stretches.iter().filter(is_down).map(|(word, ..)| key(word)).collect();
            yard.frame(&mut place, &down, frame == 0);
            let middle = [0, 1].map(|axis| place.at[axis] as f64 + yard.cell[axis] as f64 / 2.0);
            prop_assert_eq!((sample.x, sample.y), (middle[0], middle[1]), "frame {} of {}\n{}", frame, script, source);
            prop_assert_eq!(sample.cell, Cell::new(place.home[0], place.home[1]), "frame {}", frame);
        }
    }
}

fn squares(cells: &[Cell]) -> Vec<[i64; 2]> {
    let mut all: Vec<[i64; 2]> = cells.iter().map(|cell| [cell.column, cell.row]).collect();
    all.sort_unstable();
    all
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 100, ..ProptestConfig::default() })]

    /// Where a body gets is where moves of single pixels lead.
    #[test]
    fn gaps_and_pixels_agree(yard in yards()) {
        let source = yard.source();
        let book = Arc::new(read_text(&source, &|_| Err("none".into())).rulebook.unwrap());
        let mut grid = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
        let piece = grid.first_piece(book.kind_of_name("cart").unwrap()).unwrap();
        let start = grid.first_cell(book.kind_of_name("cart").unwrap()).unwrap();
        let home = [start.column, start.row];
        let found = gaps(&mut grid, piece, None);
        let steps = yard.steps(home);
        let (fits, boxed, middles) = yard.spread(home);
        prop_assert_eq!(found.fits, fits, "{}", source);
        prop_assert_eq!(squares(&found.cells), boxed.clone(), "{}", source);
        let beside: Vec<[i64; 2]> = boxed.iter().filter(|cell| !middles.contains(cell)).copied().collect();
        prop_assert_eq!(squares(&found.beside), beside, "{}", source);
        let shut: Vec<[i64; 2]> = steps.iter().filter(|cell| !boxed.contains(cell)).copied().collect();
        prop_assert_eq!(squares(&found.shut), shut.clone(), "{}", source);
        for gap in &found.gaps {
            let zero = Fraction::from_integer(0.into());
            prop_assert!(gap.short > zero && &gap.short + &gap.wide <= found.body.iter().max().unwrap().clone());
        }
        // Held on bodies of the same proportions whose halves are whole numbers.
        let good = |yard: &Yard| {
            let (fits, boxed, _) = yard.spread(home);
            fits && steps.iter().all(|cell| boxed.contains(cell))
        };
        let sized = |times: u64, of: [u64; 2]| Yard { body: of.map(|side| (side * times) as i64), ..yard.clone() };
        if let Some(largest) = found.largest
            && largest.iter().all(|side| side % 2 == 0)
        {
            prop_assert!(good(&sized(1, largest)), "{:?} {}", largest, source);
        }
        // Among walls alone a smaller body gets wherever a larger one does.
        if yard.rows.iter().any(|row| row.contains('>')) {
            let next = found.largest.map(|largest| largest.map(|side| side as i64));
            for more in [2, 4].into_iter().filter(|_| yard.body[0] == yard.body[1]) {
                let larger = next.map(|next| Yard { body: next.map(|side| side + more), ..yard.clone() });
                prop_assert!(!larger.is_some_and(|larger| larger.body[0] % 2 == 0 && good(&larger)), "{:?} {}", next, source);
            }
        } else if fits && shut.is_empty() {
            prop_assert!(found.largest.is_none_or(|largest| largest[0] as i64 >= yard.body[0]), "{}", source);
        } else if let Some(largest) = found.largest {
            prop_assert!((largest[0] as i64) < yard.body[0], "{:?} {}", largest, source);
        }
    }
}
