//! Effects, and what actions have in common with them: pieces and counters change, things are put down.

use super::context::{Context, Matched, Spawn, Spawned, Where};
use super::flow::{Ended, Flow, Goes};
use super::report::ActionReport;
use super::state::{Grid, Running};
use super::watch::Watch;
use crate::board::{CellId, PieceId};
use crate::rulebook::{Common, Effect, KindId, Pieces, Place, SetId, Spot};

impl Grid {
    /// Does effects in their order.
    pub(super) fn do_effects<W: Watch>(&mut self, effects: &[Effect], context: &Context, watch: &mut W) -> Goes {
        for effect in effects {
            self.effect(effect, context, watch)?;
        }
        Ok(())
    }

    /// Does an effect; whether it was granted.
    pub(super) fn effect<W: Watch>(&mut self, effect: &Effect, context: &Context, watch: &mut W) -> Result<bool, Flow> {
        match effect {
            Effect::Common(common) => self.common(common, context, watch),
            Effect::Become(kind) => Ok(self.become_kind(*kind, context)),
            // These are done once for all matches of a line rule; nowhere else can they stand.
            Effect::Clear | Effect::DropRows(_) => Ok(false),
        }
    }

    /// Does what effects and actions have in common; whether it was granted.
    pub(super) fn common<W: Watch>(&mut self, common: &Common, context: &Context, watch: &mut W) -> Result<bool, Flow> {
        match common {
            Common::Remove(pieces) => {
                let pieces = self.pieces(pieces, context);
                pieces.iter().for_each(|piece| self.state.board.remove(*piece));
                Ok(!pieces.is_empty())
            }
            Common::TurnInto(pieces, kind) => {
                let pieces = self.pieces(pieces, context);
                pieces.iter().for_each(|piece| self.state.board.become_kind(*piece, *kind));
                Ok(!pieces.is_empty())
            }
            Common::TurnHeading(pieces, word) => {
                let mut turned = false;
                for piece in self.pieces(pieces, context) {
                    if let Some(heading) = self.heading_word(piece, word, &context.view) {
                        self.state.board.turn(piece, Some(heading));
                        turned = true;
                    }
                }
                Ok(turned)
            }
            Common::Place(kind, place) => Ok(self.put_down(*kind, place, context, watch)),
            Common::SpawnKind(kind, place) => Ok(self.ask_spawn(Spawned::Kind(*kind), place, context)),
            Common::SpawnShape(shape, place) => Ok(self.ask_spawn(Spawned::Shape(*shape), place, context)),
            Common::Grow(times) => {
                let matched = context.matched.pieces();
                let kinds: Vec<KindId> = matched.map(|piece| self.state.board.kind_of(piece)).collect();
                self.grow(*times, &kinds);
                Ok(true)
            }
            Common::Fall(set, heading) => self.fall(*set, *heading, watch),
            Common::Refill(set, edge) => self.refill(*set, *edge, watch),
            Common::Add(sum, counter) => {
                let value = self.state.counters[usize::from(counter.0)].saturating_add(self.sum(sum, &context.view));
                self.set_counter(*counter, value);
                Ok(true)
            }
            Common::Set(counter, sum) => {
                let value = self.sum(sum, &context.view);
                self.set_counter(*counter, value);
                Ok(true)
            }
            Common::Signal(text) => {
                watch.signal(text);
                Ok(true)
            }
            Common::Win => {
                self.turn.pending.get_or_insert(Ended::Won);
                Ok(true)
            }
            Common::Lose => {
                self.turn.pending.get_or_insert(Ended::Lost);
                Ok(true)
            }
            Common::Quicken { timer, by, least } => {
                let number = usize::from(timer.0);
                if let Some(running) = self.state.timers.get(number).copied() {
                    let period = by.per_cent_less(running.period).max((*least).max(1) as u64);
                    self.set_timer(number, Running { period, ..running });
                }
                Ok(true)
            }
            Common::Restart => Err(Flow::Restart),
            Common::NextMap => Err(Flow::NextMap),
        }
    }

    /// Asks for something to be put down when the board has settled; granted until then.
    fn ask_spawn(&mut self, what: Spawned, place: &Place, context: &Context) -> bool {
        let place = self.place(place, context);
        self.turn.spawns.push(Spawn { what, place });
        true
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
            for place in self.state.board.seats(cell) {
                if self.state.board.kind_in(cell, place).is_some_and(|kind| set.contains(kind))
                    && let Some(piece) = self.state.board.piece_in(cell, place)
                    && on.is_none_or(|on| self.shares(piece, cell, on))
                {
                    found.push(piece);
                }
            }
        }
        if self.turn.settling {
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
        let place = board.seats(cell).find(|place| {
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
        let mut others = board.seats(cell).filter(|place| board.known_piece_in(cell, *place) != Some(piece));
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
        for spawn in std::mem::take(&mut self.turn.spawns) {
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
