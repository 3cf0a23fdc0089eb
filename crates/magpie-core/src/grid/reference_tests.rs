//! A slow, obvious second version of requests, turns and settling, to hold the fast one against.
//!
//! It keeps pieces in a plain list, copies plans instead of taking branches back, and looks at everything anew each time.

use crate::grid::{CheckKind, Ended, Grid};
use crate::rulebook::{
    Action, Area, Common, Cond, CountIn, CounterRead, Effect, HeadingWord, KindId, Match, Met, Pieces, Place,
    PlainVerb, Rulebook, SetId, Spot, Sum, Term, Trigger, Verb,
};
use crate::space::{Cell, Heading};
use std::collections::BTreeSet;

#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Piece {
    pub id: usize,
    pub kind: KindId,
    pub cell: Cell,
    pub heading: Option<Heading>,
}

#[derive(Clone, Debug)]
pub struct Reference<'a> {
    book: &'a Rulebook,
    columns: i64,
    rows: i64,
    void: BTreeSet<Cell>,
    pub pieces: Vec<Piece>,
    pub counters: Vec<i64>,
    pub turns: i64,
    pub moves: i64,
    pub outcome: Option<Ended>,
    pub last: Option<Result<(), Why>>,
    next_id: usize,
    /// Who has asked from which cell in this action.
    slid: BTreeSet<(usize, Cell)>,
    granted: bool,
    over: Option<Ended>,
}

/// Pieces with their cells.
pub type Picture = Vec<(Cell, KindId, Option<Heading>)>;

/// Why a request was refused: the sort of check, who asked, who was met, and the clause.
pub type Why = (CheckKind, KindId, Option<KindId>, Option<usize>);

#[derive(Clone, Debug, Default)]
struct Plan {
    leaving: Vec<usize>,
    moves: Vec<(usize, Cell)>,
    gone: Vec<usize>,
    /// Effects: body, clause, asker, occupant, here.
    decided: Vec<(usize, usize, usize, Option<usize>, Cell)>,
    /// Who slides, and who warps to a kind from which cell.
    slides: Vec<usize>,
    warps: Vec<(usize, KindId, Cell)>,
    bodies: usize,
    shoved: u32,
    why: Option<Why>,
    bounce: bool,
    why_pieces: Option<(usize, Option<usize>, Cell)>,
}

#[derive(Clone, Copy)]
struct View {
    here: Option<Cell>,
    heading: Option<Heading>,
}

const NOWHERE: View = View { here: None, heading: None };

impl<'a> Reference<'a> {
    /// Begins where a freshly entered grid stands.
    pub fn of(book: &'a Rulebook, grid: &Grid) -> Self {
        let board = grid.board();
        let mut pieces = Vec::new();
        let mut void = BTreeSet::new();
        for id in (0..board.cells()).map(crate::board::CellId) {
            if board.is_void(id) {
                void.insert(board.cell(id));
            }
            for layer in 0..board.layers() {
                if let Some(kind) = board.kind_at(id, layer) {
                    let heading = board.known_piece_at(id, layer).and_then(|piece| board.heading_of(piece));
                    pieces.push(Piece { id: pieces.len(), kind, cell: board.cell(id), heading });
                }
            }
        }
        let extent = board.extent();
        let next_id = pieces.len();
        Self {
            book,
            columns: i64::from(extent.columns),
            rows: i64::from(extent.rows),
            void,
            pieces,
            counters: grid.counters().map(|(_, value)| value).collect(),
            turns: 0,
            moves: 0,
            outcome: None,
            last: None,
            next_id,
            slid: BTreeSet::new(),
            granted: false,
            over: None,
        }
    }

    /// Pieces in the order of cell and layer, numbers left out.
    pub fn picture(&self) -> Picture {
        let mut seen: Vec<_> = self.pieces.iter().map(|piece| (piece.cell, piece.kind, piece.heading)).collect();
        seen.sort();
        seen
    }

    fn is(&self, set: SetId, kind: KindId) -> bool {
        self.book.set(set).contains(kind)
    }

    fn layer(&self, kind: KindId) -> u8 {
        self.book.kind(kind).layer
    }

    fn get(&self, id: usize) -> Option<&Piece> {
        self.pieces.iter().find(|piece| piece.id == id)
    }

    fn inside(&self, cell: Cell) -> bool {
        cell.column >= 0 && cell.row >= 0 && cell.column < self.columns && cell.row < self.rows
    }

    /// Pieces of a cell from the top layer down.
    fn at(&self, cell: Cell) -> Vec<Piece> {
        let mut found: Vec<Piece> = self.pieces.iter().filter(|piece| piece.cell == cell).cloned().collect();
        found.sort_by_key(|piece| std::cmp::Reverse(self.layer(piece.kind)));
        found
    }

    fn clause(&self, asker: KindId, met: Option<KindId>, border: Option<Met>, view: View) -> Option<usize> {
        self.book.meetings.iter().position(|clause| {
            let covers = match (clause.met, met) {
                (Met::Pieces(set), Some(kind)) => {
                    self.is(set, kind)
                        && clause.layers.is_none_or(|same| (self.layer(asker) == self.layer(kind)) == same)
                }
                (other, None) => Some(other) == border,
                _ => false,
            };
            self.is(clause.who, asker) && covers && clause.guard.as_ref().is_none_or(|guard| self.cond(guard, view))
        })
    }

    fn ask(&self, plan: &mut Plan, id: usize, way: Heading, limits: &[(u32, u32)]) -> bool {
        let piece = self.get(id).unwrap().clone();
        let body = plan.bodies;
        plan.bodies += 1;
        plan.leaving.push(id);
        let (east, south) = way.screen_step();
        let (dc, dr) = (east, south * self.book.geometry.south());
        let mut to = Cell::new(piece.cell.column + dc, piece.cell.row + dr);
        let mut good = true;
        let refuse = |plan: &mut Plan, kind, met: Option<&Piece>, clause, bounce, to: Cell| {
            if plan.why.is_none() {
                plan.why = Some((kind, piece.kind, met.map(|met| met.kind), clause));
                plan.bounce = bounce && body == 0;
                plan.why_pieces = Some((id, met.map(|met| met.id), to));
            }
        };
        if self.book.corners_closed && way.is_diagonal() {
            for side in
                [Cell::new(piece.cell.column + dc, piece.cell.row), Cell::new(piece.cell.column, piece.cell.row + dr)]
            {
                if let Err(blocker) = self.passes_corner(plan, &piece, side, way) {
                    refuse(plan, CheckKind::Corner, blocker.as_ref(), None, false, side);
                    good = false;
                }
            }
        }
        let view = View { here: Some(piece.cell), heading: Some(way) };
        for border in [Met::Edge, Met::Void] {
            let off = if border == Met::Edge { !self.inside(to) } else { self.void.contains(&to) };
            if !off {
                continue;
            }
            let clause = self.clause(piece.kind, None, Some(border), view);
            let verb = clause.map_or(Verb::Plain(PlainVerb::Stop), |clause| self.book.meetings[clause].verb);
            if let Some(clause) = clause {
                plan.decided.push((body, clause, id, None, piece.cell));
            }
            match verb {
                Verb::Plain(PlainVerb::Wrap) => {
                    to = Cell::new(to.column.rem_euclid(self.columns), to.row.rem_euclid(self.rows));
                }
                Verb::Plain(PlainVerb::Perish) => {
                    plan.gone.push(id);
                    return good;
                }
                verb => {
                    let kind = if border == Met::Edge { CheckKind::Edge } else { CheckKind::Void };
                    refuse(plan, kind, None, clause, verb == Verb::Plain(PlainVerb::Bounce), to);
                    return false;
                }
            }
        }
        plan.moves.push((id, to));
        for met in self.at(to) {
            if plan.leaving.contains(&met.id) {
                continue;
            }
            let view = View { here: Some(to), heading: Some(way) };
            let (verb, clause) = self.verb(piece.kind, met.kind, view);
            let plain = match verb {
                Verb::Plain(plain) => plain,
                Verb::Shove { up_to, otherwise } => {
                    let mut tried = plan.clone();
                    tried.decided.extend(clause.map(|clause| (body, clause, id, Some(met.id), to)));
                    let mut inner = limits.to_vec();
                    inner.extend(up_to.map(|most| (plan.shoved, most)));
                    let full = inner.iter().any(|(start, most)| tried.shoved - start >= *most);
                    let moved = if full {
                        refuse(&mut tried, CheckKind::Limit, Some(&met), None, false, to);
                        false
                    } else {
                        tried.shoved += 1;
                        self.ask(&mut tried, met.id, way, &inner)
                    };
                    match (moved, otherwise) {
                        (false, Some(otherwise)) => otherwise,
                        _ => {
                            *plan = tried;
                            good &= moved;
                            continue;
                        }
                    }
                }
            };
            if plain.enters() {
                plan.decided.extend(clause.map(|clause| (body, clause, id, Some(met.id), to)));
            }
            match plain {
                PlainVerb::Stop | PlainVerb::Bounce => {
                    refuse(plan, CheckKind::Meets, Some(&met), clause, plain == PlainVerb::Bounce, to);
                    good = false;
                }
                verb => Self::enters(plan, verb, &piece, &met, to),
            }
        }
        good
    }

    /// What a verb that lets a piece in does to it and to the one it meets.
    fn enters(plan: &mut Plan, verb: PlainVerb, piece: &Piece, met: &Piece, to: Cell) {
        match verb {
            PlainVerb::Swap => {
                plan.bodies += 1;
                plan.leaving.push(met.id);
                plan.moves.push((met.id, piece.cell));
            }
            PlainVerb::Take => {
                plan.leaving.push(met.id);
                plan.gone.push(met.id);
            }
            PlainVerb::Slide => plan.slides.push(piece.id),
            PlainVerb::Warp(kind) => plan.warps.push((piece.id, kind, to)),
            PlainVerb::Perish => plan.gone.push(piece.id),
            PlainVerb::Clash => {
                plan.leaving.push(met.id);
                plan.gone.extend([met.id, piece.id]);
            }
            _ => {}
        }
    }

    /// Whether a step may go past a straight neighbour; else the piece that stops it, none where the border does.
    fn passes_corner(&self, plan: &Plan, piece: &Piece, side: Cell, way: Heading) -> Result<(), Option<Piece>> {
        if !self.inside(side) || self.void.contains(&side) {
            return Err(None);
        }
        let view = View { here: Some(side), heading: Some(way) };
        let mut stays = self.at(side).into_iter().filter(|other| !plan.leaving.contains(&other.id));
        let stops = |other: &Piece| {
            let verb = self.verb(piece.kind, other.kind, view).0;
            matches!(verb, Verb::Plain(PlainVerb::Stop | PlainVerb::Bounce))
        };
        stays.find(stops).map_or(Ok(()), |stop| Err(Some(stop)))
    }

    fn verb(&self, asker: KindId, met: KindId, view: View) -> (Verb, Option<usize>) {
        let same = self.layer(asker) == self.layer(met);
        let default = Verb::Plain(if same { PlainVerb::Stop } else { PlainVerb::Pass });
        let clause = self.clause(asker, Some(met), None, view);
        (clause.map_or(default, |clause| self.book.meetings[clause].verb), clause)
    }

    /// Whether two pieces would stand on one layer of a cell.
    fn crowded(&self, plan: &Plan) -> bool {
        let mut after = self.clone();
        after.apply(plan);
        let mut seen = BTreeSet::new();
        after.pieces.iter().any(|piece| !seen.insert((piece.cell, after.layer(piece.kind))))
    }

    fn apply(&mut self, plan: &Plan) {
        self.pieces.retain(|piece| !plan.gone.contains(&piece.id));
        for (id, to) in &plan.moves {
            if let Some(piece) = self.pieces.iter_mut().find(|piece| piece.id == *id) {
                piece.cell = *to;
            }
        }
    }

    /// Where a piece goes on to by a warp: the next cell in reading order, round the end, where nothing but `pass` meets it.
    /// Every `if` is judged on the board before.
    fn warped(&self, before: &Self, id: usize, kind: KindId, from: Cell, way: Heading) -> Option<Cell> {
        let piece = self.get(id)?.clone();
        let order = |cell: Cell| (cell.row, cell.column);
        let mut cells: Vec<Cell> =
            self.pieces.iter().filter(|piece| piece.kind == kind).map(|piece| piece.cell).collect();
        cells.sort_by_key(|cell| (order(*cell) <= order(from), order(*cell)));
        cells.into_iter().filter(|cell| *cell != from).find(|cell| {
            let view = View { here: Some(*cell), heading: Some(way) };
            self.at(*cell)
                .iter()
                .filter(|other| other.kind != kind)
                .all(|other| before.verb(piece.kind, other.kind, view).0 == Verb::Plain(PlainVerb::Pass))
        })
    }

    fn request(&mut self, id: usize, way: Heading) -> bool {
        if let Some(piece) = self.get(id) {
            self.slid.insert((id, piece.cell));
        }
        let mut plan = Plan::default();
        let mut good = self.ask(&mut plan, id, way, &[]);
        if good && self.crowded(&plan) {
            good = false;
            plan.why = None;
        }
        if !good {
            self.last = plan.why.map(Err);
            if plan.bounce {
                let turned = Some(way.opposite());
                self.pieces.iter_mut().filter(|piece| piece.id == id).for_each(|piece| piece.heading = turned);
            }
            if let (Some((kind, _, _, Some(clause))), Some((asker, met, to))) = (plan.why, plan.why_pieces) {
                let here = if kind == CheckKind::Meets { Some(to) } else { self.get(asker).map(|piece| piece.cell) };
                let effects = self.book.meetings[clause].effects.clone();
                self.effects(&effects, (Some(asker), met), View { here, heading: Some(way) });
            }
            return false;
        }
        self.last = Some(Ok(()));
        self.granted = true;
        let before = self.clone();
        let mut offs = Vec::new();
        for (id, to) in &plan.moves {
            let piece = before.get(*id).unwrap().clone();
            if plan.gone.contains(id) || piece.cell == *to {
                continue;
            }
            for stays in before.at(piece.cell).into_iter().filter(|other| !plan.leaving.contains(&other.id)) {
                let view = View { here: Some(piece.cell), heading: Some(way) };
                let off = self.book.offs.iter().find(|off| {
                    self.is(off.who, piece.kind)
                        && self.is(off.other, stays.kind)
                        && off.guard.as_ref().is_none_or(|guard| before.cond(guard, view))
                });
                offs.extend(off.map(|off| (off.effects.clone(), *id, stays.id, view)));
            }
        }
        self.apply(&plan);
        self.pieces.iter_mut().filter(|piece| piece.id == id).for_each(|piece| piece.heading = Some(way));
        for (warper, kind, from) in &plan.warps {
            if self.get(*warper).is_some_and(|piece| piece.cell == *from)
                && let Some(to) = self.warped(&before, *warper, *kind, *from, way)
            {
                self.pieces.iter_mut().filter(|piece| piece.id == *warper).for_each(|piece| piece.cell = to);
            }
        }
        let (east, south) = way.screen_step();
        let ahead = |piece: &Piece| piece.cell.column * east + piece.cell.row * south * self.book.geometry.south();
        let sliding = plan.slides.iter().filter_map(|id| self.get(*id));
        let mut sliding: Vec<_> =
            sliding.map(|piece| (-ahead(piece), piece.cell.row, piece.cell.column, piece.id)).collect();
        sliding.sort_unstable();
        sliding.dedup();
        for (effects, leaver, stays, view) in offs {
            self.effects(&effects, (Some(leaver), Some(stays)), view);
        }
        plan.decided.sort_by_key(|decided| decided.0);
        for (_, clause, asker, met, here) in plan.decided {
            let effects = self.book.meetings[clause].effects.clone();
            self.effects(&effects, (Some(asker), met), View { here: Some(here), heading: Some(way) });
        }
        for (_, _, _, slider) in sliding {
            let cell = self.get(slider).map(|piece| piece.cell);
            if cell.is_some_and(|cell| !self.slid.contains(&(slider, cell))) {
                self.request(slider, way);
            }
        }
        true
    }

    fn cond(&self, cond: &Cond, view: View) -> bool {
        match cond {
            Cond::Or(all) => all.iter().any(|cond| self.cond(cond, view)),
            Cond::And(all) => all.iter().all(|cond| self.cond(cond, view)),
            Cond::Not(cond) => !self.cond(cond, view),
            Cond::Heading(heading) => view.heading == Some(*heading),
            Cond::Compare(left, compare, right) => compare.holds(self.sum(left, view), self.sum(right, view)),
            other => unimplemented!("the random rulebooks have no {other:?}"),
        }
    }

    fn sum(&self, sum: &Sum, view: View) -> i64 {
        sum.0.iter().map(|(minus, term)| if *minus { -self.term(term, view) } else { self.term(term, view) }).sum()
    }

    fn term(&self, term: &Term, view: View) -> i64 {
        match term {
            Term::Int(value) => *value,
            Term::Counter(CounterRead::Own(id)) => self.counters[usize::from(id.0)],
            Term::Count { who, on, within } => {
                let counted =
                    self.pieces.iter().filter(|piece| self.is(*who, piece.kind)).filter(|piece| match within {
                        CountIn::Area(Area::Map) => true,
                        CountIn::Area(Area::Row(row)) => piece.cell.row == row.unwrap_or(self.rows - 1),
                        CountIn::Area(Area::Column(column)) => piece.cell.column == column.unwrap_or(self.columns - 1),
                        CountIn::Spot(Spot::Here) => Some(piece.cell) == view.here,
                        CountIn::Spot(other) => unimplemented!("{other:?}"),
                    });
                let counted = counted.filter(|piece| {
                    on.is_none_or(|(wanted, other)| {
                        let shares = self
                            .at(piece.cell)
                            .iter()
                            .any(|beside| beside.id != piece.id && self.is(other, beside.kind));
                        shares == wanted
                    })
                });
                counted.count() as i64
            }
            other => unimplemented!("the random rulebooks have no {other:?}"),
        }
    }

    fn meant(&self, pieces: &Pieces, matched: (Option<usize>, Option<usize>)) -> Vec<usize> {
        let shares = |piece: &Piece, with: SetId| {
            self.at(piece.cell).iter().any(|beside| beside.id != piece.id && self.is(with, beside.kind))
        };
        match pieces {
            Pieces::Matched(set, on) => [matched.0, matched.1]
                .into_iter()
                .flatten()
                .filter_map(|id| self.get(id))
                .filter(|piece| self.is(*set, piece.kind) && on.is_none_or(|on| shares(piece, on)))
                .map(|piece| piece.id)
                .collect(),
            Pieces::Every(set, on) => {
                let mut found: Vec<&Piece> = self
                    .pieces
                    .iter()
                    .filter(|piece| self.is(*set, piece.kind) && on.is_none_or(|on| shares(piece, on)))
                    .collect();
                found.sort_by_key(|piece| {
                    (piece.cell.row, piece.cell.column, std::cmp::Reverse(self.layer(piece.kind)))
                });
                found.iter().map(|piece| piece.id).collect()
            }
            other => unimplemented!("the random rulebooks have no {other:?}"),
        }
    }

    fn effects(&mut self, effects: &[Effect], matched: (Option<usize>, Option<usize>), view: View) {
        for effect in effects {
            match effect {
                Effect::Common(common) => {
                    self.common(common, matched, view);
                }
                Effect::Become(kind) => {
                    let first = matched.0.filter(|id| self.get(*id).is_some());
                    self.become_kind(&first.into_iter().collect::<Vec<_>>(), *kind);
                }
                other => unimplemented!("the random rulebooks have no {other:?}"),
            }
        }
    }

    fn common(&mut self, common: &Common, matched: (Option<usize>, Option<usize>), view: View) -> bool {
        match common {
            Common::Remove(pieces) => {
                let meant = self.meant(pieces, matched);
                self.pieces.retain(|piece| !meant.contains(&piece.id));
                !meant.is_empty()
            }
            Common::TurnInto(pieces, kind) => {
                let meant = self.meant(pieces, matched);
                self.become_kind(&meant, *kind);
                !meant.is_empty()
            }
            Common::TurnHeading(pieces, HeadingWord::Compass(heading)) => {
                let meant = self.meant(pieces, matched);
                for piece in self.pieces.iter_mut().filter(|piece| meant.contains(&piece.id)) {
                    piece.heading = Some(*heading);
                }
                !meant.is_empty()
            }
            Common::Place(kind, Place::At(Spot::Here)) => {
                let layer = self.layer(*kind);
                let free = view.here.filter(|cell| !self.at(*cell).iter().any(|piece| self.layer(piece.kind) == layer));
                if let Some(cell) = free {
                    let heading = self.book.kind(*kind).facing;
                    self.pieces.push(Piece { id: self.next_id, kind: *kind, cell, heading });
                    self.next_id += 1;
                }
                free.is_some()
            }
            Common::Add(sum, counter) => {
                self.counters[usize::from(counter.0)] += self.sum(sum, view);
                true
            }
            Common::Signal(_) => true,
            Common::Win | Common::Lose => {
                self.over.get_or_insert(if matches!(common, Common::Win) { Ended::Won } else { Ended::Lost });
                true
            }
            other => unimplemented!("the random rulebooks have no {other:?}"),
        }
    }

    fn actions(&mut self, actions: &[Action]) -> bool {
        actions.iter().map(|action| self.action(action)).last().unwrap_or(true)
    }

    fn action(&mut self, action: &Action) -> bool {
        self.slid.clear();
        match action {
            Action::Common(common) => self.common(common, (None, None), NOWHERE),
            Action::Step { pieces, heading, times } => {
                let meant = self.meant(pieces, (None, None));
                let mut order = Vec::new();
                for (reading, id) in meant.into_iter().enumerate() {
                    let piece = self.get(id).unwrap();
                    let heading = match heading {
                        HeadingWord::Compass(heading) => Some(*heading),
                        HeadingWord::Relative(eighths) => piece.heading.map(|heading| heading.turned(*eighths)),
                        HeadingWord::Toward(_) | HeadingWord::Along(_) => {
                            unimplemented!("the random rulebooks have no `toward` and `along`")
                        }
                    };
                    let Some(heading) = heading else { continue };
                    let (east, south) = heading.screen_step();
                    let ahead = piece.cell.column * east + piece.cell.row * south * self.book.geometry.south();
                    order.push((heading, -ahead, reading, id));
                }
                order.sort();
                let mut granted = false;
                for (heading, _, _, id) in order {
                    for _ in 0..*times {
                        if self.get(id).is_none() || !self.request(id, heading) {
                            break;
                        }
                        granted = true;
                    }
                }
                granted
            }
            other => unimplemented!("the random rulebooks have no {other:?}"),
        }
    }

    fn become_kind(&mut self, ids: &[usize], kind: KindId) {
        let layer = self.layer(kind);
        for at in 0..self.pieces.len() {
            if ids.contains(&self.pieces[at].id) && self.layer(self.pieces[at].kind) == layer {
                self.pieces[at].kind = kind;
            }
        }
    }

    fn state(&self) -> (Picture, Vec<i64>) {
        (self.picture(), self.counters.clone())
    }

    /// Whether the rules come to rest.
    fn settle(&mut self) -> bool {
        let mut seen = Vec::new();
        loop {
            let mut changed = false;
            for when in &self.book.whens {
                let Match::On { who, on } = when.what else { unimplemented!("only `when WHO`") };
                let before = self.state();
                let firsts = self.meant(&Pieces::Every(who, on), (None, None));
                let mut matches: Vec<(usize, Option<usize>)> = Vec::new();
                for first in firsts {
                    match on {
                        None => matches.push((first, None)),
                        Some(on) => {
                            let cell = self.get(first).unwrap().cell;
                            let beside =
                                self.at(cell).into_iter().filter(|other| other.id != first && self.is(on, other.kind));
                            matches.extend(beside.map(|other| (first, Some(other.id))));
                        }
                    }
                }
                for (first, second) in matches {
                    let Some(piece) = self.get(first).cloned() else {
                        continue;
                    };
                    let still = self.is(who, piece.kind)
                        && second.zip(on).is_none_or(|(second, on)| {
                            self.get(second).is_some_and(|other| other.cell == piece.cell && self.is(on, other.kind))
                        });
                    let view = View { here: Some(piece.cell), heading: piece.heading };
                    if still && when.guard.as_ref().is_none_or(|guard| self.cond(guard, view)) {
                        self.effects(&when.effects, (Some(first), second), view);
                    }
                }
                changed |= self.state() != before;
            }
            if !changed {
                return true;
            }
            let now = self.state();
            if seen.contains(&now) {
                return false;
            }
            seen.push(now);
        }
    }

    pub fn key(&mut self, trigger: &Trigger) {
        if matches!(self.outcome, Some(Ended::Won | Ended::Lost)) {
            return;
        }
        self.outcome = None;
        let before = self.clone();
        self.turns += 1;
        self.granted = false;
        self.over = None;
        self.fire(trigger);
        if self.granted {
            self.moves += 1;
            self.fire(&Trigger::EachTurn);
        }
        if !self.settle() {
            let last = self.last;
            *self = before;
            self.last = last;
            self.outcome = Some(Ended::NeverSettles);
            return;
        }
        let clause = self.book.outcomes.iter().find(|clause| self.cond(&clause.cond, NOWHERE));
        let by_clause = clause.map(|clause| if clause.win { Ended::Won } else { Ended::Lost });
        self.outcome = self.over.take().or(by_clause);
    }

    fn fire(&mut self, trigger: &Trigger) {
        let rules: Vec<_> = self
            .book
            .inputs
            .iter()
            .filter(|rule| rule.trigger == *trigger)
            .filter(|rule| rule.guard.as_ref().is_none_or(|guard| self.cond(guard, NOWHERE)))
            .collect();
        for rule in rules {
            for list in &rule.actions {
                if self.actions(list) {
                    break;
                }
            }
        }
    }
}
