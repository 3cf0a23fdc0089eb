//! Cells drawn as floor that the controlled pieces can never get into.
//!
//! The search errs on the side of silence: only pieces that no rule ever moves, turns or removes count as walls.

use super::super::diagnostic::{Code, Span};
use super::super::layout::Drawing;
use super::super::model::{Act, KindId, MapCells, Meeting, Met, Pieces, PlainVerb, Rulebook, SetId, Verb};
use super::super::syntax::{MapBody, SectionNode};
use super::Checker;
use super::findings::moves_occupant;

struct Walls {
    movers: Vec<KindId>,
    fixed: Vec<bool>,
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

fn acts(book: &Rulebook) -> impl Iterator<Item = &Act> {
    let effects = book.meetings.iter().map(|rule| &rule.effects);
    let effects = effects.chain(book.offs.iter().map(|rule| &rule.effects));
    let effects = effects.chain(book.whens.iter().map(|rule| &rule.effects));
    let effects = effects.chain(book.outcomes.iter().map(|rule| &rule.effects));
    effects.chain(book.inputs.iter().flat_map(|rule| &rule.actions)).flatten()
}

/// What stands for ever, `None` where the rules are too free to tell.
fn walls(book: &Rulebook) -> Option<Walls> {
    let movers: Vec<KindId> = book.controls.iter().flat_map(|control| book.set(control.who).iter()).collect();
    if movers.is_empty() || !book.glides.is_empty() {
        return None;
    }
    let mut fixed = vec![true; book.kinds.len()];
    let mut free = |set: SetId| book.set(set).iter().for_each(|kind| fixed[usize::from(kind.0)] = false);
    let mut walls = Walls { movers, fixed: Vec::new(), diagonal: false, wraps: false };
    for control in &book.controls {
        free(control.who);
    }
    for act in acts(book) {
        match act {
            Act::Remove(Pieces::Every(set, _) | Pieces::Matched(set, _))
            | Act::TurnInto(Pieces::Every(set, _) | Pieces::Matched(set, _), _) => free(*set),
            Act::Step { pieces: Pieces::Every(set, _), heading, .. } => {
                walls.diagonal |=
                    !matches!(heading, super::super::model::HeadingWord::Compass(way) if !way.is_diagonal());
                free(*set);
            }
            Act::Add(..)
            | Act::Set(..)
            | Act::Signal(_)
            | Act::Win
            | Act::Lose
            | Act::Restart
            | Act::NextMap
            | Act::TurnHeading(..)
            | Act::Steer(..) => {}
            Act::Place(kind, _) | Act::SpawnKind(kind, _) if !walls.movers.contains(kind) => {}
            _ => return None,
        }
    }
    let warps = |meeting: &Meeting| match meeting.verb {
        Verb::Plain(verb) => matches!(verb, PlainVerb::Warp(_)),
        Verb::Shove { otherwise, .. } => matches!(otherwise, Some(PlainVerb::Warp(_))),
    };
    if book.meetings.iter().any(warps) {
        return None;
    }
    for meeting in &book.meetings {
        match (meeting.met, meeting.verb) {
            (Met::Edge, Verb::Plain(PlainVerb::Wrap)) => walls.wraps = true,
            (Met::Pieces(set), verb) => {
                let askers = book.set(meeting.who);
                let enters = matches!(verb, Verb::Plain(verb) if verb.enters());
                if moves_occupant(verb) || (enters && walls.movers.iter().any(|mover| askers.contains(*mover))) {
                    free(set);
                }
            }
            _ => {}
        }
    }
    walls.fixed = fixed;
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
    // Clauses with `stop` keep movers out of other layers too; a fixed piece met by one is a wall.
    let stops = |kind: &KindId| {
        walls.fixed[usize::from(kind.0)]
            && (of_movers(kind)
                || book.meetings.iter().any(|meeting| {
                    matches!(meeting.met, Met::Pieces(set) if book.set(set).contains(*kind))
                        && meeting.guard.is_none()
                        && matches!(meeting.verb, Verb::Plain(PlainVerb::Stop | PlainVerb::Bounce))
                        && walls.movers.iter().all(|mover| book.set(meeting.who).contains(*mover))
                }))
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
