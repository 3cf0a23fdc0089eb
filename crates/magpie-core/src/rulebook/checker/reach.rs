//! Cells drawn as floor that the controlled pieces can never get into.
//!
//! The search errs on the side of silence: only pieces that no rule ever moves, turns or removes count as walls.

use super::super::diagnostic::{Code, Span};
use super::super::layout::Drawing;
use super::super::model::{
    Action, Common, Effect, HeadingWord, KindId, MapCells, Met, Pieces, PlainVerb, Rulebook, Verb,
};
use super::super::syntax::{MapBody, SectionNode};
use super::Checker;

struct Walls {
    movers: Vec<KindId>,
    fixed: Vec<bool>,
    /// Kinds that a clause without a condition keeps every mover out of, in whatever layer.
    stops: Vec<bool>,
    diagonal: bool,
    wraps: bool,
}

impl Checker<'_> {
    pub(super) fn never_reached(&mut self, book: &Rulebook) {
        let Some(walls) = walls(book) else { return };
        let drawn: Vec<Option<Drawing>> = self
            .nodes()
            .filter_map(|(_, node)| match node {
                SectionNode::Map { body: MapBody::Drawn(drawing), .. } => Some(Some(drawing.clone())),
                SectionNode::Map { .. } => Some(None),
                _ => None,
            })
            .collect();
        if drawn.len() != book.maps.len() {
            return;
        }
        for (map, drawing) in book.maps.iter().zip(drawn) {
            let (Some(drawing), MapCells::Legend { cells, entries }) = (drawing, &map.cells) else {
                continue;
            };
            let columns = map.extent.columns as usize;
            let lost = unreached(book, &walls, cells, entries, columns);
            let Some(first) = lost.first() else { continue };
            let (line, column) = (first / columns, first % columns);
            let row = &drawing.rows[line];
            let text = &self.source[row.span.start..row.span.end];
            let Some((at, glyph)) = text.char_indices().nth(column.saturating_sub(row.lead)) else {
                continue;
            };
            let at = row.span.start + at;
            let span = Span::new(at, at + glyph.len_utf8());
            let cells = if lost.len() == 1 { "1 cell".into() } else { format!("{} cells", lost.len()) };
            let message = format!("{cells} of this map, here the first, can never be entered by what the player moves");
            self.report_help(span, Code::NeverReached, message, "open a way, or draw void there");
        }
    }
}

/// What stands for ever, `None` where the rules are too free to tell.
fn walls(book: &Rulebook) -> Option<Walls> {
    let movers: Vec<KindId> = book.controls.iter().flat_map(|control| book.set(control.who).iter()).collect();
    if movers.is_empty() || !book.glides.is_empty() {
        return None;
    }
    let mut walls = Walls {
        movers,
        fixed: book.fixed_kinds(),
        stops: vec![false; book.kinds.len()],
        diagonal: false,
        wraps: false,
    };
    for effect in book.effects() {
        match effect {
            Effect::Common(_) => {}
            Effect::Become(_) | Effect::Clear | Effect::DropRows(_) => return None,
        }
    }
    for action in book.actions() {
        match action {
            Action::Common(_) | Action::Steer(..) => {}
            Action::Step { pieces: Pieces::Every(..), heading, .. } => {
                walls.diagonal |= !matches!(heading, HeadingWord::Compass(way) if !way.is_diagonal());
            }
            Action::Step { .. }
            | Action::Leap(..)
            | Action::Drop(..)
            | Action::Walk(..)
            | Action::Swap { .. }
            | Action::Flood { .. }
            | Action::Choose(_)
            | Action::Rotate { .. }
            | Action::LockActive => return None,
        }
    }
    for common in book.commons() {
        match common {
            Common::Remove(Pieces::Every(..) | Pieces::Matched(..))
            | Common::TurnInto(Pieces::Every(..) | Pieces::Matched(..), _)
            | Common::Add(..)
            | Common::Set(..)
            | Common::Signal(_)
            | Common::Win
            | Common::Lose
            | Common::Restart
            | Common::NextMap
            | Common::TurnHeading(..) => {}
            Common::Place(kind, _) | Common::SpawnKind(kind, _) if !walls.movers.contains(kind) => {}
            Common::Remove(_)
            | Common::TurnInto(..)
            | Common::Place(..)
            | Common::SpawnKind(..)
            | Common::SpawnShape(..)
            | Common::Grow(_)
            | Common::Fall(..)
            | Common::Refill(..)
            | Common::Quicken { .. } => return None,
        }
    }
    let warps = |verb| matches!(verb, PlainVerb::Warp(_));
    if book.meetings.iter().any(|meeting| meeting.verb.is_or_else(warps)) {
        return None;
    }
    for meeting in &book.meetings {
        match (meeting.met, meeting.verb) {
            (Met::Edge, Verb::Plain(PlainVerb::Wrap)) => walls.wraps = true,
            (Met::Pieces(set), verb) => {
                let askers = book.set(meeting.who);
                let enters = matches!(verb, Verb::Plain(verb) if verb.enters());
                if enters && walls.movers.iter().any(|mover| askers.contains(*mover)) {
                    book.set(set).iter().for_each(|kind| walls.fixed[usize::from(kind.0)] = false);
                }
                let stops = matches!(verb, Verb::Plain(PlainVerb::Stop | PlainVerb::Bounce)) && meeting.guard.is_none();
                if stops && walls.movers.iter().all(|mover| askers.contains(*mover)) {
                    book.set(set).iter().for_each(|kind| walls.stops[usize::from(kind.0)] = true);
                }
            }
            _ => {}
        }
    }
    Some(walls)
}

fn unreached(
    book: &Rulebook,
    walls: &Walls,
    cells: &[u16],
    entries: &[Option<Vec<KindId>>],
    columns: usize,
) -> Vec<usize> {
    let layers: Vec<u8> = walls.movers.iter().map(|mover| book.kind(*mover).layer).collect();
    let of_movers = |kind: &KindId| layers.contains(&book.kind(*kind).layer);
    // A fixed piece that movers cannot enter is a wall.
    let stops = |kind: &KindId| {
        let number = usize::from(kind.0);
        walls.fixed[number] && (of_movers(kind) || walls.stops[number])
    };
    let open: Vec<bool> =
        entries.iter().map(|entry| entry.as_ref().is_some_and(|kinds| !kinds.iter().any(stops))).collect();
    let floor: Vec<bool> =
        entries.iter().map(|entry| entry.as_ref().is_some_and(|kinds| !kinds.iter().any(of_movers))).collect();
    let starts: Vec<bool> = entries
        .iter()
        .map(|entry| entry.as_ref().is_some_and(|kinds| kinds.iter().any(|kind| walls.movers.contains(kind))))
        .collect();
    let mut seen: Vec<bool> = cells.iter().map(|entry| starts[usize::from(*entry)]).collect();
    let mut queue: Vec<usize> = (0..cells.len()).filter(|at| seen[*at]).collect();
    if queue.is_empty() {
        return Vec::new();
    }
    let rows = cells.len() / columns;
    let ways: &[(i64, i64)] = if walls.diagonal {
        &[(-1, 0), (1, 0), (0, -1), (0, 1), (-1, -1), (1, -1), (-1, 1), (1, 1)]
    } else {
        &[(-1, 0), (1, 0), (0, -1), (0, 1)]
    };
    while let Some(at) = queue.pop() {
        let (x, y) = ((at % columns) as i64, (at / columns) as i64);
        for (dx, dy) in ways {
            let (mut to_x, mut to_y) = (x + dx, y + dy);
            if to_x < 0 || to_y < 0 || to_x >= columns as i64 || to_y >= rows as i64 {
                if !walls.wraps {
                    continue;
                }
                (to_x, to_y) = (to_x.rem_euclid(columns as i64), to_y.rem_euclid(rows as i64));
            }
            let next = to_y as usize * columns + to_x as usize;
            if !seen[next] && open[usize::from(cells[next])] {
                seen[next] = true;
                queue.push(next);
            }
        }
    }
    (0..cells.len())
        .filter(|at| !seen[*at] && open[usize::from(cells[*at])] && floor[usize::from(cells[*at])])
        .collect()
}
