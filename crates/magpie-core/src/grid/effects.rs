//! Effects, and what actions have in common with them: pieces and counters change, things are put down.

use super::context::{Context, Few, Matched, Spawn, Spawned, Where};
use super::deeds;
use super::flow::{Ended, Flow, Goes};
use super::report::ActionReport;
use super::state::{Grid, Running};
use super::watch::Watch;
use crate::board::{CellId, PieceId};
use crate::rulebook::{Common, CounterId, CounterRead, Effect, HeadingWord, KindId, Pieces, Place, SetId, Spot, Sum};

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
            Effect::Become(kind) => Ok(self.become_kind(*kind, context, watch)),
            // These are done once for all matches of a line rule; nowhere else can they stand.
            Effect::Clear | Effect::DropRows(_) => Ok(false),
        }
    }

    /// Does what effects and actions have in common; whether it was granted.
    pub(super) fn common<W: Watch>(&mut self, common: &Common, context: &Context, watch: &mut W) -> Result<bool, Flow> {
        match common {
            Common::Remove(who) => {
                let pieces = self.pieces(who, context);
                let words = watch.wants_deeds().then(|| self.pieces_at(&pieces));
                pieces.iter().for_each(|piece| self.state.board.remove(*piece));
                self.did_to(("removed", "remove"), who, words, "", watch);
                Ok(!pieces.is_empty())
            }
            Common::TurnInto(who, kind) => {
                let pieces = self.pieces(who, context);
                let words = watch.wants_deeds().then(|| self.pieces_at(&pieces));
                pieces.iter().for_each(|piece| self.state.board.become_kind(*piece, *kind));
                let rest = || format!(" into {}", self.book.kind(*kind).name);
                self.did_to(("turned", "turn"), who, words, &rest(), watch);
                Ok(!pieces.is_empty())
            }
            Common::TurnHeading(who, word) => Ok(self.turn_pieces(who, word, context, watch)),
            Common::Place(kind, place) => Ok(self.put_down(*kind, place, context, watch)),
            Common::SpawnKind(kind, place) => Ok(self.ask_spawn(Spawned::Kind(*kind), place, context, watch)),
            Common::SpawnShape(shape, place) => Ok(self.ask_spawn(Spawned::Shape(*shape), place, context, watch)),
            Common::Grow(times) => {
                let matched = context.matched.pieces();
                let kinds: Vec<KindId> = matched.map(|piece| self.state.board.kind_of(piece)).collect();
                self.grow(*times, &kinds);
                watch.did(false, watch.wants_deeds().then(|| format!("let the trail grow by {times}")));
                Ok(true)
            }
            Common::Fall(set, heading) => {
                let moved = self.fall(*set, *heading, watch)?;
                let name = &self.book.set(*set).name;
                let (did, none) = if moved { ("let", "") } else { ("refused to let", ": none can") };
                let fell = || format!("{did} {name} fall {}{none}", heading.word());
                watch.did(!moved, watch.wants_deeds().then(fell));
                Ok(moved)
            }
            Common::Refill(set, edge) => {
                let made = self.refill(*set, *edge, watch)?;
                let name = &self.book.set(*set).name;
                let (did, full) = if made { ("refilled", "") } else { ("refused to refill", ": it is full") };
                let filled = || format!("{did} {name} at {}{full}", edge.word());
                watch.did(!made, watch.wants_deeds().then(filled));
                Ok(made)
            }
            Common::Add(sum, counter) => Ok(self.count_on(*counter, sum, true, context, watch)),
            Common::Set(counter, sum) => Ok(self.count_on(*counter, sum, false, context, watch)),
            Common::Signal(text) => {
                watch.signal(text);
                watch.told(false, watch.wants_deeds().then(|| format!("signalled \"{text}\"")));
                Ok(true)
            }
            Common::Win | Common::Lose => {
                let (ended, word) =
                    if matches!(common, Common::Win) { (Ended::Won, "won") } else { (Ended::Lost, "lost") };
                self.turn.pending.get_or_insert(ended);
                watch.told(false, watch.wants_deeds().then(|| format!("{word}, once the turn has settled")));
                Ok(true)
            }
            Common::Quicken { timer, by, least } => {
                let number = usize::from(timer.0);
                if let Some(running) = self.state.timers.get(number).copied() {
                    let period = by.per_cent_less(running.period).max((*least).max(1) as u64);
                    self.set_timer(number, Running { period, ..running });
                    watch.did(
                        false,
                        watch.wants_deeds().then(|| {
                            let name = self.book.timer_name(*timer);
                            format!("quickened {name}: {} ms to {period} ms", running.period)
                        }),
                    );
                }
                Ok(true)
            }
            Common::Restart => {
                watch.told(false, watch.wants_deeds().then(|| "began the map again".into()));
                Err(Flow::Restart)
            }
            Common::NextMap => {
                let words = if self.has_next_map() { "went on to the next map" } else { "won: there is no next map" };
                watch.told(false, watch.wants_deeds().then(|| words.into()));
                Err(Flow::NextMap)
            }
        }
    }

    /// Adds a sum to a counter, or sets it.
    fn count_on<W: Watch>(
        &mut self,
        counter: CounterId,
        sum: &Sum,
        adds: bool,
        context: &Context,
        watch: &mut W,
    ) -> bool {
        let by = self.sum(sum, &context.view);
        let old = self.state.counters[usize::from(counter.0)];
        self.set_counter(counter, if adds { old.saturating_add(by) } else { by });
        let text = || {
            let name = self.book.counter_name(CounterRead::Own(counter));
            let (now, sum) = (self.state.counters[usize::from(counter.0)], self.sum_is(sum, by));
            if adds {
                format!("added {sum} to {name}: {old} to {now}")
            } else {
                format!("set {name} to {sum}: {old} to {now}")
            }
        };
        watch.did(false, watch.wants_deeds().then(text));
        true
    }

    /// Sets headings; whether one was set.
    fn turn_pieces<W: Watch>(&mut self, who: &Pieces, word: &HeadingWord, context: &Context, watch: &mut W) -> bool {
        let pieces = self.pieces(who, context);
        let mut turned = Vec::with_capacity(pieces.len());
        let mut why = "nobody";
        for piece in pieces {
            match self.heading_word(piece, word, &context.view) {
                Some(heading) => {
                    self.state.board.turn(piece, Some(heading));
                    turned.push(piece);
                }
                None if W::LEDGER => why = self.no_heading(piece, word, &context.view),
                None => {}
            }
        }
        watch.did(
            turned.is_empty(),
            watch.wants_deeds().then(|| {
                let words = self.book.heading_words(word);
                if turned.is_empty() {
                    return format!("refused to turn {} {words}: {why}", self.book.pieces_words(who));
                }
                format!("turned {} {words}", self.pieces_at(&turned))
            }),
        );
        !turned.is_empty()
    }

    /// Asks for something to be put down when the board has settled; granted until then.
    fn ask_spawn<W: Watch>(&mut self, what: Spawned, place: &Place, context: &Context, watch: &mut W) -> bool {
        let at = self.place(place, context);
        self.turn.spawns.push(Spawn { what, place: at });
        watch.did(
            false,
            watch.wants_deeds().then(|| {
                format!("asked to spawn {} {}", self.spawned_words(what), self.place_at(place, &context.view))
            }),
        );
        true
    }

    /// What a `spawn` asks for, in words.
    fn spawned_words(&self, what: Spawned) -> String {
        match what {
            Spawned::Kind(kind) => self.book.kind(kind).name.clone(),
            Spawned::Shape(None) => "shape any".into(),
            Spawned::Shape(Some(shape)) => {
                let shape = self.book.shapes.get(usize::from(shape.0));
                format!("shape {}", shape.map_or("", |shape| &shape.name))
            }
        }
    }

    /// Puts a piece down where its layer is free; whether it was.
    fn put_down<W: Watch>(&mut self, kind: KindId, place: &Place, context: &Context, watch: &mut W) -> bool {
        let found = self.place(place, context);
        let cell = self.free_cell(&found);
        let heading = self.book.kind(kind).facing;
        let placed = cell.and_then(|cell| self.state.board.add(cell, kind, heading)).is_some();
        watch.did(
            !placed,
            watch.wants_deeds().then(|| {
                let name = &self.book.kind(kind).name;
                let at = cell.map_or_else(
                    || self.place_at(place, &context.view),
                    |cell| format!("at {}", deeds::at(self.state.board.cell(cell))),
                );
                match (placed, cell, place) {
                    (true, ..) => format!("placed {name} {at}"),
                    (false, None, Place::RandomEmpty(..)) => format!("refused to place {name} {at}: none is empty"),
                    (false, cell, _) => format!("refused to place {name} {at}: {}", self.why_not_placed(kind, cell)),
                }
            }),
        );
        placed
    }

    /// The asker, the leaver, the first-named piece or each matched one turns into a kind; whether one did.
    fn become_kind<W: Watch>(&mut self, kind: KindId, context: &Context, watch: &mut W) -> bool {
        let mut turned = match &context.matched {
            Matched::Pair(first, _) => vec![*first],
            matched => matched.pieces().collect(),
        };
        turned.retain(|piece| self.state.board.exists(*piece));
        let words = watch.wants_deeds().then(|| self.pieces_at(&turned));
        turned.iter().for_each(|piece| self.state.board.become_kind(*piece, kind));
        watch.did(
            turned.is_empty(),
            words.map(|words| {
                let name = &self.book.kind(kind).name;
                if turned.is_empty() {
                    format!("refused to become {name}: it is gone")
                } else {
                    format!("{words} became {name}")
                }
            }),
        );
        !turned.is_empty()
    }

    /// The pieces meant, those that still stand on the board, in reading order, the top layer of a cell first.
    pub(super) fn pieces(&mut self, pieces: &Pieces, context: &Context) -> Few {
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
            Pieces::Active => return self.active().into(),
            Pieces::Tapped => return self.topmost(&Spot::Tapped, context),
            Pieces::Dragged => return self.topmost(&Spot::Dragged, context),
            Pieces::Dropped => return self.topmost(&Spot::Dropped, context),
            Pieces::Chosen => {
                let marked = self.state.small.chosen.and_then(|chosen| chosen.piece);
                return marked.filter(|piece| self.state.board.exists(*piece)).into_iter().collect();
            }
        };
        let book = self.book.clone();
        let set = book.set(set);
        if on.is_none()
            && let Some(piece) = self.state.board.only_piece(set)
            && !self.turn.settling
        {
            return Few::from_slice(&[piece]);
        }
        let mut cells = Vec::new();
        self.state.board.cells_of(set, &mut cells);
        let mut found = Few::with_capacity(cells.len());
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
    fn topmost(&mut self, spot: &Spot, context: &Context) -> Few {
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
        if self.state.bonds.riders.is_empty() && !board.has_loose(cell) {
            let own = board.layer(board.kind_of(piece));
            let mut others = (0..board.layers()).filter(|layer| *layer != own);
            return others.any(|layer| board.kind_at(cell, layer).is_some_and(|kind| with.contains(kind)));
        }
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
        let extent = self.map_extent();
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
            .filter(|cell| area.contains(extent, self.switches.margin.outer(board.cell(*cell))))
            .collect();
        if empty.is_empty() {
            return None;
        }
        if let Some(given) = self.dealt_cell(&empty) {
            return Some(given);
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
                Spawned::Shape(None) => Some(&book.shapes[self.draw_shape()]),
            };
            let kinds = shape.map_or(Vec::new(), |shape| self.kinds_of_shape(shape));
            let cell = self.free_cell(&spawn.place);
            let made = match (cell, spawn.what) {
                (None, _) if random => Err("board full"),
                (None, _) => Err("no such cell"),
                (Some(cell), Spawned::Kind(kind)) => {
                    let made = self.state.board.add(cell, kind, book.kind(kind).facing);
                    made.map(|_| ()).ok_or("the layer is taken")
                }
                (Some(cell), Spawned::Shape(_)) => {
                    shape.map_or(Err("no such shape"), |shape| self.spawn_shape(shape, &kinds, cell))
                }
            };
            self.state.small.blocked |= made.is_err();
            if W::LEDGER {
                let at = cell.map(|cell| self.state.board.cell(cell));
                watch.action(ActionReport::of("spawn", made.err()).at(at));
            }
        }
    }
}
