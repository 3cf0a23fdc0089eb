//! Committing a plan, and the effects and common actions that change pieces and counters.

use super::conditions::View;
use super::ledger::{Asked, CheckKind, Reason, Request, Shoved, Watch};
use super::plan::{Decided, Member, Step};
use super::report::{ActionReport, Fired};
use super::state::{Ended, Goes, Grid, Running};
use super::turn::Flow;
use crate::board::{CellId, PieceId};
use crate::rulebook::{Act, KindId, Pieces, Place, PlainVerb, SetId, ShapeId, Spot, Verb};
use crate::space::Cell;
use std::rc::Rc;

/// Most requests of falls in one turn; a turn with more is taken back as one that never settles.
/// Tests get there sooner.
const MOST_FALLEN: u32 = if cfg!(test) { 100_000 } else { 20_000_000 };

/// The pieces a rule is about.
#[derive(Clone, Debug, Default)]
pub enum Matched {
    /// The rule matches nothing.
    #[default]
    Nothing,
    /// Asker and occupant, leaver and what stays, or a piece and what shares its cell.
    Pair(PieceId, Option<PieceId>),
    /// A row, column, run or patch.
    Many(Rc<[PieceId]>),
}

impl Matched {
    /// The pieces, the first-named first.
    pub fn pieces(&self) -> impl Iterator<Item = PieceId> + '_ {
        let (first, second, many) = match self {
            Self::Nothing => (None, None, &[][..]),
            Self::Pair(first, second) => (Some(*first), *second, &[][..]),
            Self::Many(pieces) => (None, None, &pieces[..]),
        };
        first.into_iter().chain(second).chain(many.iter().copied())
    }
}

/// The pieces and the cell a rule is about.
#[derive(Clone, Debug, Default)]
pub struct Context {
    /// Its pieces.
    pub matched: Matched,
    /// What `here` and `heading` mean.
    pub view: View,
}

/// What a `spawn` asks for.
#[derive(Clone, Copy, Debug)]
enum Spawned {
    Kind(KindId),
    /// A shape, one of all by a draw where none is named.
    Shape(Option<ShapeId>),
}

/// Something asked for, to be put down when the board has settled.
#[derive(Clone, Debug)]
pub struct Spawn {
    what: Spawned,
    place: Where,
}

/// A place that has been looked up as far as it can be.
#[derive(Clone, Debug)]
enum Where {
    Cell(Option<CellId>),
    Random(Option<SetId>, crate::rulebook::Area),
}

impl Grid {
    /// A piece's body asks for a step, and what has slid by that asks on before anybody else; whether the first request
    /// was granted.
    pub(super) fn ask<W: Watch>(&mut self, piece: PieceId, step: Step, watch: &mut W) -> Result<bool, Flow> {
        self.sliding.clear();
        let granted = self.ask_once(piece, step, watch)?;
        self.slide_on(0, step, watch)?;
        Ok(granted)
    }

    /// Those that have entered by `slide` ask on until the list is as short as before.
    fn slide_on<W: Watch>(&mut self, before: usize, step: Step, watch: &mut W) -> Goes {
        while self.sliding.len() > before {
            let Some(slider) = self.sliding.pop() else { break };
            // Nobody asks twice from one cell by sliding: a closed ring ends where it began.
            let cell = self.state.board.cell_of(slider);
            if cell.is_some_and(|cell| !self.slid.contains(&(slider, cell))) {
                self.ask_once(slider, step, watch)?;
            }
        }
        Ok(())
    }

    /// One request: planned, committed or refused, with the effects; then whoever rides on what has moved is asked.
    fn ask_once<W: Watch>(&mut self, piece: PieceId, step: Step, watch: &mut W) -> Result<bool, Flow> {
        let Some(from) = self.state.board.cell_of(piece) else {
            return Ok(false);
        };
        if self.tables.slides {
            self.slid.insert((piece, from));
        }
        let granted = self.plan_request::<W>(piece, step);
        self.last_granted = Some(granted);
        self.last_refusal = self.plan.reason;
        self.granted_something |= granted;
        if granted {
            self.note_move(piece, step.heading);
        }
        self.carry_out(piece, from, step, watch)?;
        self.carry(watch)?;
        Ok(granted)
    }

    /// One step of a fall.
    pub(super) fn ask_falling<W: Watch>(&mut self, piece: PieceId, step: Step, watch: &mut W) -> Result<bool, Flow> {
        let Some(from) = self.state.board.cell_of(piece) else {
            return Ok(false);
        };
        self.fallen += 1;
        if self.fallen > MOST_FALLEN {
            return Err(Flow::NeverSettles);
        }
        let granted = self.plan_fall::<W>(piece, step);
        self.granted_something |= granted;
        let sliding = self.sliding.len();
        self.carry_out(piece, from, step, watch)?;
        // What falls onto something it slides on asks again anyway.
        self.sliding.truncate(sliding);
        self.carry(watch)?;
        Ok(granted)
    }

    /// A rider is carried into another cell, or over the edge; whether it was let in.
    pub(super) fn ask_carried<W: Watch>(
        &mut self,
        piece: PieceId,
        from: CellId,
        to: Cell,
        step: Step,
        watch: &mut W,
    ) -> Result<bool, Flow> {
        let granted = self.plan_carried::<W>(piece, from, to, step);
        let sliding = self.sliding.len();
        self.carry_out(piece, from, step, watch)?;
        self.slide_on(sliding, step, watch)?;
        Ok(granted)
    }

    /// Commits what was planned, or does what a refusal does, and tells it.
    fn carry_out<W: Watch>(&mut self, piece: PieceId, from: CellId, step: Step, watch: &mut W) -> Goes {
        let kind = self.state.board.kind_of(piece);
        let reason = self.plan.reason;
        let granted = reason.is_none();
        let checks = if W::LEDGER { std::mem::take(&mut self.plan.checks) } else { Vec::new() };
        let shoved = if W::LEDGER { self.shoved() } else { Vec::new() };
        let by = match (self.plan.carried, self.plan.falling) {
            (Some(_), _) => Asked::Carried,
            (None, true) => Asked::Falling,
            (None, false) => Asked::Own,
        };
        let flow = match reason {
            None => self.commit(piece, step, by, watch),
            // In a fall, and where a rider is asked, a refusal has no effects.
            Some(_) if by != Asked::Own => Ok(()),
            Some(reason) => self.refused(piece, step, &reason, watch),
        };
        if W::LEDGER {
            let to = self.state.board.cell_of(piece).map(|cell| self.state.board.cell(cell));
            watch.request(Request {
                by,
                kind,
                from: self.state.board.cell(from),
                to,
                heading: step.heading,
                granted,
                reason: reason.map(|reason| reason.check),
                refusal: reason,
                shoved,
                checks,
            });
        }
        flow
    }

    /// The pieces that the plan would move besides the asker.
    fn shoved(&self) -> Vec<Shoved> {
        let board = &self.state.board;
        let others = self.plan.members.iter().filter(|member| member.body > 0 && !member.gone && !member.swapped);
        others
            .map(|member| Shoved {
                kind: board.kind_of(member.piece),
                from: board.cell(member.from),
                to: board.cell(member.to),
            })
            .collect()
    }

    fn commit<W: Watch>(&mut self, asker: PieceId, step: Step, by: Asked, watch: &mut W) -> Goes {
        if self.plan.members.len() == 1
            && self.plan.taken.is_empty()
            && self.plan.decided.is_empty()
            && !self.tables.offs
            && !self.tables.ties
            && !self.tables.moves_between
        {
            let member = self.plan.members[0];
            self.state.board.step(asker, member.to, step.heading.filter(|_| by == Asked::Own));
            return Ok(());
        }
        let members = std::mem::take(&mut self.plan.members);
        let mut decided = std::mem::take(&mut self.plan.decided);
        let offs = if self.tables.offs { self.left_behind(&members, step) } else { Vec::new() };
        for at in 0..self.plan.taken.len() {
            self.state.board.remove(self.plan.taken[at]);
        }
        let heads = if self.book.trails.is_empty() { Vec::new() } else { self.heads_leaving(&members) };
        let mut moves = std::mem::take(&mut self.moves);
        moves.clear();
        for member in &members {
            if member.gone {
                self.state.board.remove(member.piece);
            } else if member.adrift {
                self.state.board.set_adrift(member.piece);
            } else {
                moves.push((member.piece, member.to));
            }
        }
        self.state.board.shift(&moves);
        self.moves = moves;
        self.leave_trails(&heads);
        if !self.state.bonds.bodies.is_empty() {
            for (at, member) in members.iter().enumerate() {
                let first = at == 0 || members[at - 1].body != member.body;
                if first && !member.gone && !member.swapped {
                    self.move_square(member.piece, step.columns, step.rows);
                }
            }
        }
        if step.heading.is_some() && by == Asked::Own {
            for member in members.iter().filter(|member| member.body == 0) {
                self.state.board.turn(member.piece, step.heading);
            }
        }
        self.warp(&decided, step);
        if self.tables.moves_between {
            for member in members.iter().filter(|member| !(by == Asked::Carried && member.body == 0)) {
                self.end_motion(member.piece);
            }
            self.board_carriers(&decided);
        }
        self.note_sliders(&decided, step);
        let flow = self.after_commit(&offs, &mut decided, step, watch);
        self.plan.members = members;
        self.plan.decided = decided;
        flow
    }

    /// Whoever entered by `ride` is carried from now on by what it met first.
    fn board_carriers(&mut self, decided: &[Decided]) {
        for decided in decided.iter().filter(|decided| decided.verb == Some(PlainVerb::Ride)) {
            let here = self.state.board.cell_of(decided.asker) == Some(decided.here);
            let alone = self.carrier_of(decided.asker).is_none() && !self.is_in_body(decided.asker);
            if let Some(carrier) = decided.occupant.filter(|_| here && alone) {
                self.begin_ride(decided.asker, carrier);
            }
        }
    }

    /// Whoever entered by `warp` goes on to the next place of its kind that has room for it.
    fn warp(&mut self, decided: &[Decided], step: Step) {
        for decided in decided {
            let Some(PlainVerb::Warp(kind)) = decided.verb else { continue };
            if self.state.board.cell_of(decided.asker) != Some(decided.here) || self.is_in_body(decided.asker) {
                continue;
            }
            let mut cells = Vec::new();
            self.state.board.cells_of(&self.book.sets[usize::from(kind.0)], &mut cells);
            let behind = cells.iter().position(|cell| *cell > decided.here).unwrap_or(cells.len());
            cells.rotate_left(behind);
            let room = |grid: &Self, cell: CellId| {
                let board = &grid.state.board;
                let own = board.places(cell).find(|place| board.kind_in(cell, *place) == Some(kind));
                board.places(cell).filter(|place| Some(*place) != own).all(|place| {
                    board.kind_in(cell, place).is_none_or(|other| {
                        grid.decide_kind(decided.asker, other, cell, step).0 == Verb::Plain(PlainVerb::Pass)
                    })
                })
            };
            let to = cells.into_iter().find(|cell| *cell != decided.here && room(self, *cell));
            if let Some(to) = to {
                self.state.board.shift(&[(decided.asker, to)]);
            }
        }
    }

    /// Those that entered by `slide` ask on, the foremost first.
    fn note_sliders(&mut self, decided: &[Decided], step: Step) {
        if !self.tables.slides || step.heading.is_none() {
            return;
        }
        let slides = decided.iter().filter(|decided| decided.verb == Some(PlainVerb::Slide));
        let place = |decided: &Decided| {
            let cell = self.state.board.cell_of(decided.asker)?;
            let at = self.state.board.cell(cell);
            Some((at.column * step.columns + at.row * step.rows, std::cmp::Reverse(cell), decided.asker))
        };
        let mut found: Vec<_> = slides.filter_map(place).collect();
        // The last of the list is the next to ask.
        found.sort_unstable();
        found.dedup();
        let mut pieces: Vec<PieceId> = found.into_iter().map(|(_, _, piece)| piece).collect();
        self.one_of_each_body(&mut pieces);
        self.sliding.extend(pieces);
    }

    fn after_commit<W: Watch>(
        &mut self,
        offs: &[(usize, PieceId, PieceId, CellId)],
        decided: &mut [Decided],
        step: Step,
        watch: &mut W,
    ) -> Goes {
        let book = self.book.clone();
        for (off, leaver, stays, here) in offs {
            let context =
                Context { matched: Matched::Pair(*leaver, Some(*stays)), view: View::of(Some(*here), step.heading) };
            watch.fired(Fired::Off(*off));
            for act in &book.offs[*off].effects {
                self.act(act, &context, watch)?;
            }
        }
        decided.sort_by_key(|decided| decided.body);
        for decided in decided.iter() {
            let effects = &book.meetings[decided.clause as usize].effects;
            let context = Context {
                matched: Matched::Pair(decided.asker, decided.occupant),
                view: View::of(Some(decided.here), step.heading),
            };
            for act in effects {
                self.act(act, &context, watch)?;
            }
        }
        Ok(())
    }

    /// For every piece of the plan that changes its cell, the `off` clauses of what it leaves behind, judged before
    /// anything has moved.
    fn left_behind(&mut self, members: &[Member], step: Step) -> Vec<(usize, PieceId, PieceId, CellId)> {
        let book = self.book.clone();
        let mut found = Vec::new();
        let mut order: Vec<&Member> =
            members.iter().filter(|member| !member.gone && member.from != member.to).collect();
        let carried = self.plan.carried.is_some();
        order.retain(|member| !(carried && member.body == 0));
        order.sort_by_key(|member| member.body);
        for member in order {
            // A rider leaves nothing but its carrier.
            let left: Vec<PieceId> = match self.carrier_of(member.piece) {
                Some(carrier) => vec![carrier],
                None => {
                    let places = self.state.board.places(member.from);
                    places.filter_map(|place| self.state.board.piece_in(member.from, place)).collect()
                }
            };
            for stays in left {
                if self.plan.is_leaving(stays) {
                    continue;
                }
                let kinds = (self.state.board.kind_of(member.piece), self.state.board.kind_of(stays));
                let view = View::of(Some(member.from), step.heading);
                let fits = book.offs.iter().position(|off| {
                    book.set(off.who).contains(kinds.0)
                        && book.set(off.other).contains(kinds.1)
                        && off.guard.as_ref().is_none_or(|guard| self.cond_holds(guard, &view))
                });
                if let Some(off) = fits {
                    found.push((off, member.piece, stays, member.from));
                }
            }
        }
        found
    }

    /// What a refusal does: `bounce` turns the asker, and the effects of the clause that decided happen.
    fn refused<W: Watch>(&mut self, asker: PieceId, step: Step, reason: &Reason, watch: &mut W) -> Goes {
        if reason.bounce
            && let Some(heading) = step.heading
        {
            self.state.board.turn(asker, Some(heading.opposite()));
        }
        let Some(clause) = reason.clause else {
            return Ok(());
        };
        let book = self.book.clone();
        let here = match reason.kind {
            CheckKind::Meets => self.state.board.id(reason.to),
            _ => self.state.board.cell_of(reason.asker),
        };
        let view = View::of(here, step.heading);
        let context = Context { matched: Matched::Pair(reason.asker, reason.occupant), view };
        for act in &book.meetings[clause].effects {
            self.act(act, &context, watch)?;
        }
        Ok(())
    }

    /// Does an effect or an action; whether it was granted.
    pub(super) fn act<W: Watch>(&mut self, act: &Act, context: &Context, watch: &mut W) -> Result<bool, Flow> {
        match act {
            Act::Remove(pieces) => {
                let pieces = self.pieces(pieces, context);
                pieces.iter().for_each(|piece| self.state.board.remove(*piece));
                Ok(!pieces.is_empty())
            }
            Act::TurnInto(pieces, kind) => {
                let pieces = self.pieces(pieces, context);
                pieces.iter().for_each(|piece| self.state.board.become_kind(*piece, *kind));
                Ok(!pieces.is_empty())
            }
            Act::TurnHeading(pieces, word) => {
                let mut turned = false;
                for piece in self.pieces(pieces, context) {
                    if let Some(heading) = self.heading_word(piece, word, &context.view) {
                        self.state.board.turn(piece, Some(heading));
                        turned = true;
                    }
                }
                Ok(turned)
            }
            Act::Become(kind) => Ok(self.become_kind(*kind, context)),
            Act::Place(kind, place) => Ok(self.put_down(*kind, place, context, watch)),
            Act::SpawnKind(kind, place) => {
                let place = self.place(place, context);
                self.spawns.push(Spawn { what: Spawned::Kind(*kind), place });
                Ok(true)
            }
            Act::SpawnShape(shape, place) => {
                let place = self.place(place, context);
                self.spawns.push(Spawn { what: Spawned::Shape(*shape), place });
                Ok(true)
            }
            Act::Grow(times) => {
                let matched = context.matched.pieces();
                let kinds: Vec<KindId> = matched.map(|piece| self.state.board.kind_of(piece)).collect();
                self.grow(*times, &kinds);
                Ok(true)
            }
            Act::Fall(set, heading) => self.fall(*set, *heading, watch),
            Act::Refill(set, edge) => self.refill(*set, *edge, watch),
            Act::Add(sum, counter) => {
                let value = self.state.counters[usize::from(counter.0)].saturating_add(self.sum(sum, &context.view));
                self.set_counter(*counter, value);
                Ok(true)
            }
            Act::Set(counter, sum) => {
                let value = self.sum(sum, &context.view);
                self.set_counter(*counter, value);
                Ok(true)
            }
            Act::Signal(text) => {
                watch.signal(text);
                self.signals.push(text.clone());
                Ok(true)
            }
            Act::Win | Act::Lose => {
                let outcome = if matches!(act, Act::Win) { Ended::Won } else { Ended::Lost };
                self.pending.get_or_insert(outcome);
                Ok(true)
            }
            Act::Quicken { timer, by, least } => {
                let number = usize::from(timer.0);
                if let Some(running) = self.state.timers.get(number).copied() {
                    let period = by.per_cent_less(running.period).max((*least).max(1) as u64);
                    self.set_timer(number, Running { period, ..running });
                }
                Ok(true)
            }
            Act::Restart => Err(Flow::Restart),
            Act::NextMap => Err(Flow::NextMap),
            _ => self.action(act, context, watch),
        }
    }

    /// Puts a piece down where its layer is free; whether it was.
    fn put_down<W: Watch>(&mut self, kind: KindId, place: &Place, context: &Context, watch: &mut W) -> bool {
        let place = self.place(place, context);
        let cell = self.free_cell(&place);
        let heading = self.book.kind(kind).facing;
        let placed = cell.and_then(|cell| self.state.board.add(cell, kind, heading)).is_some();
        if !placed && W::LEDGER {
            let why = if cell.is_none() { "there is no such cell" } else { "its layer is taken" };
            watch.note(&format!("place {}: {why}", self.book.kind(kind).name));
        }
        placed
    }

    /// The asker, the leaver, the first-named piece or each matched one turns into a kind; whether one did.
    fn become_kind(&mut self, kind: KindId, context: &Context) -> bool {
        let mut turned = match &context.matched {
            Matched::Pair(first, _) => vec![*first],
            matched => matched.pieces().collect(),
        };
        turned.retain(|piece| self.state.board.exists(*piece));
        turned.iter().for_each(|piece| self.state.board.become_kind(*piece, kind));
        !turned.is_empty()
    }

    /// The pieces meant, those that still stand on the board, in reading order, the top layer of a cell first.
    pub(super) fn pieces(&mut self, pieces: &Pieces, context: &Context) -> Vec<PieceId> {
        let (set, on) = match pieces {
            Pieces::Matched(set, on) => {
                let book = self.book.clone();
                return context
                    .matched
                    .pieces()
                    .filter(|piece| {
                        let board = &self.state.board;
                        board.cell_of(*piece).is_some_and(|cell| {
                            book.set(*set).contains(board.kind_of(*piece))
                                && on.is_none_or(|on| self.shares(*piece, cell, on))
                        })
                    })
                    .collect();
            }
            Pieces::Every(set, on) => (*set, *on),
            Pieces::Active => return self.active(),
            Pieces::Tapped => return self.topmost(&Spot::Tapped, context),
            Pieces::Dragged => return self.topmost(&Spot::Dragged, context),
            Pieces::Dropped => return self.topmost(&Spot::Dropped, context),
            Pieces::Chosen => return self.topmost(&Spot::Chosen, context),
        };
        let book = self.book.clone();
        let set = book.set(set);
        let mut cells = Vec::new();
        self.state.board.cells_of(set, &mut cells);
        let mut found = Vec::with_capacity(cells.len());
        for cell in cells {
            for place in self.state.board.places(cell) {
                if self.state.board.kind_in(cell, place).is_some_and(|kind| set.contains(kind))
                    && let Some(piece) = self.state.board.piece_in(cell, place)
                    && on.is_none_or(|on| self.shares(piece, cell, on))
                {
                    found.push(piece);
                }
            }
        }
        if self.settling {
            // What a `when` rule does leaves the active shape alone.
            found.retain(|piece| !self.is_active(*piece));
        }
        found
    }

    /// The topmost piece of a spot, the ground excepted.
    fn topmost(&mut self, spot: &Spot, context: &Context) -> Vec<PieceId> {
        self.spot(spot, &context.view).and_then(|cell| self.top_piece(cell)).into_iter().collect()
    }

    /// The topmost piece of a cell, the ground excepted.
    pub(super) fn top_piece(&mut self, cell: CellId) -> Option<PieceId> {
        let (board, ground) = (&mut self.state.board, self.book.ground);
        let place = board.places(cell).find(|place| {
            let kind = board.kind_in(cell, *place);
            kind.is_some() && kind != ground
        })?;
        board.piece_in(cell, place)
    }

    /// Whether a piece shares its cell with another of a set; of a rider, whether its carrier is one.
    pub(super) fn shares(&self, piece: PieceId, cell: CellId, with: SetId) -> bool {
        let board = &self.state.board;
        let with = self.book.set(with);
        if let Some(carrier) = self.carrier_of(piece) {
            return with.contains(board.kind_of(carrier));
        }
        let mut others = board.places(cell).filter(|place| board.known_piece_in(cell, *place) != Some(piece));
        others.any(|place| board.kind_in(cell, place).is_some_and(|kind| with.contains(kind)))
    }

    fn place(&self, place: &Place, context: &Context) -> Where {
        match place {
            Place::At(spot) => Where::Cell(self.spot(spot, &context.view)),
            Place::RandomEmpty(on, area) => Where::Random(*on, *area),
        }
    }

    /// The cell of a place; a random one takes its draw now.
    fn free_cell(&mut self, place: &Where) -> Option<CellId> {
        let (on, area) = match place {
            Where::Cell(cell) => return *cell,
            Where::Random(on, area) => (*on, *area),
        };
        let board = &self.state.board;
        let extent = board.extent();
        let ground = self.book.ground;
        let empty: Vec<CellId> = (0..board.cells())
            .map(CellId)
            .filter(|cell| match on {
                None => board.is_empty(*cell),
                Some(on) => {
                    let on = self.book.set(on);
                    let mut others = board.kinds_at(*cell).filter(|kind| Some(*kind) != ground || on.contains(*kind));
                    let first = others.next();
                    !board.is_void(*cell)
                        && first.is_some_and(|kind| on.contains(kind))
                        && others.all(|kind| Some(kind) == ground)
                }
            })
            .filter(|cell| area.contains(extent, board.cell(*cell)))
            .collect();
        if empty.is_empty() {
            return None;
        }
        Some(empty[self.state.small.random.below(empty.len() as u32) as usize])
    }

    /// Puts down what was asked for; a refusal sets `blocked`.
    pub(super) fn do_spawns<W: Watch>(&mut self, watch: &mut W) {
        let book = self.book.clone();
        for spawn in std::mem::take(&mut self.spawns) {
            let random = matches!(spawn.place, Where::Random(..));
            let shape = match spawn.what {
                Spawned::Kind(_) => None,
                Spawned::Shape(Some(shape)) => book.shapes.get(usize::from(shape.0)),
                Spawned::Shape(None) if book.shapes.is_empty() => None,
                Spawned::Shape(None) => {
                    let draw = self.state.small.random.below(book.shapes.len() as u32);
                    Some(&book.shapes[draw as usize])
                }
            };
            let made = match (self.free_cell(&spawn.place), spawn.what) {
                (None, _) if random => Err("board full"),
                (None, _) => Err("no such cell"),
                (Some(cell), Spawned::Kind(kind)) => {
                    let made = self.state.board.add(cell, kind, book.kind(kind).facing);
                    made.map(|_| ()).ok_or("the layer is taken")
                }
                (Some(cell), Spawned::Shape(_)) => {
                    shape.map_or(Err("no such shape"), |shape| self.spawn_shape(shape, cell))
                }
            };
            self.state.small.blocked |= made.is_err();
            watch.action(ActionReport::of("spawn", made.err()));
        }
    }
}
