//! Settling: the `when` rules, each on all its matches, until a pass leaves everything as it was (docs/model.md,
//! sections 4 and 6).

use super::context::{Context, Found, Matched, View};
use super::flow::{Flow, Goes};
use super::report::{Counts, Fired, Settled};
use super::state::Grid;
use super::switches::Switch;
use super::watch::Watch;
use crate::board::{CellId, Mark, PieceId, Seat};
use crate::limits::{MOST_ACTED, MOST_CELLS_KEPT, MOST_PASSES};
use crate::rulebook::{Common, Cond, Effect, KindSet, Match, SetId, When};
use crate::space::Cell;
use hashbrown::HashSet;

/// The matches on which a rule has acted; which ones, only where somebody keeps a ledger.
#[derive(Default)]
struct Acted {
    any: bool,
    list: Vec<Found>,
    /// First and second piece and line: two runs may begin in one cell.
    known: HashSet<(Option<PieceId>, Option<PieceId>, i64)>,
}

impl Acted {
    fn note<W: Watch>(&mut self, found: &Found) {
        self.any = true;
        if W::LEDGER {
            let mut pieces = found.pieces.pieces();
            if self.known.insert((pieces.next(), pieces.next(), found.line)) {
                self.list.push(found.clone());
            }
        }
    }
}

impl Grid {
    /// Settles, puts down what was spawned, and settles again; a rule that asks for a spawn after every settling, though the
    /// board is what it was before, never ends.
    pub(super) fn settle_all<W: Watch>(&mut self, watch: &mut W) -> Goes {
        if self.book.whens.is_empty() && self.turn.spawns.is_empty() {
            return Ok(());
        }
        let mut passes = 0;
        let mut seen: HashSet<u64> = HashSet::new();
        loop {
            self.turn.settling = true;
            let settled = self.settle(&mut passes, watch);
            self.turn.settling = false;
            settled?;
            if self.turn.spawns.is_empty() || self.switches.has(Switch::NotLookedAgain) {
                self.do_spawns(watch);
                return Ok(());
            }
            self.do_spawns(watch);
            passes += 1;
            if passes >= MOST_PASSES || !seen.insert(self.hash()) {
                watch.never_settled(&self.spawners());
                return Err(Flow::NeverSettles);
            }
        }
    }

    /// The `when` rules that spawn, by number.
    fn spawners(&self) -> Vec<usize> {
        let spawns = |effect: &Effect| matches!(effect, Effect::Common(Common::SpawnKind(..) | Common::SpawnShape(..)));
        let whens = self.book.whens.iter().enumerate();
        whens.filter(|(_, when)| when.effects.iter().any(spawns)).map(|(number, _)| number).collect()
    }

    fn settle<W: Watch>(&mut self, passes: &mut usize, watch: &mut W) -> Goes {
        let book = self.book.clone();
        if book.whens.is_empty() {
            return Ok(());
        }
        // Most turns settle in a pass or two, and MOST_PASSES bounds the rest.
        let mut seen: Vec<u64> = Vec::new();
        let mut fired: Vec<usize> = Vec::new();
        loop {
            fired.clear();
            for (number, when) in book.whens.iter().enumerate() {
                let before = self.hash();
                let mark = self.state.board.mark();
                let changed = self.acting(Fired::When(number), watch, |grid, watch| {
                    let acted = grid.apply(when, watch).inspect_err(|flow| {
                        if *flow == Flow::NeverSettles {
                            watch.never_settled(&[number]);
                        }
                    })?;
                    if acted.any {
                        watch.used(Fired::When(number));
                    }
                    let changed = acted.any && grid.hash() != before;
                    if changed && W::LEDGER {
                        grid.tell_settled(*passes, number, &acted.list, mark, watch);
                    }
                    Ok(changed)
                })?;
                if changed {
                    fired.push(number);
                }
            }
            if fired.is_empty() {
                return Ok(());
            }
            *passes += 1;
            if self.switches.has(Switch::NotLookedAgain) {
                return Ok(());
            }
            let now = self.hash();
            if *passes >= MOST_PASSES || seen.contains(&now) {
                watch.never_settled(&fired);
                return Err(Flow::NeverSettles);
            }
            seen.push(now);
        }
    }

    /// What one rule found and changed in one pass.
    fn tell_settled<W: Watch>(&self, pass: usize, rule: usize, found: &[Found], mark: Mark, watch: &mut W) {
        let board = &self.state.board;
        let before = board.cells_before(mark);
        let place = |piece: PieceId| before.get(&piece).copied().unwrap_or_else(|| board.cell_of(piece));
        let cells = |found: &Found| -> Vec<Cell> {
            found.pieces.pieces().filter_map(place).map(|cell| board.cell(cell)).collect()
        };
        let changes = board.changes_since(mark);
        let small = board.cells() <= MOST_CELLS_KEPT && watch.wants_boards();
        watch.settled(Settled {
            pass,
            rule,
            found: found.len(),
            pieces: found.iter().map(|found| found.pieces.pieces().count()).sum(),
            counts: Counts::of(&changes),
            did: Vec::new(),
            matches: if small { found.iter().map(cells).collect() } else { Vec::new() },
            changes: if small { changes } else { Vec::new() },
            board: if small { self.picture() } else { Vec::new() },
        });
    }

    /// A `when` rule on all its matches as they stand when its turn comes; gives those on which it acted.
    fn apply<W: Watch>(&mut self, when: &When, watch: &mut W) -> Result<Acted, Flow> {
        let mut acted = Acted::default();
        let found = self.find(&when.what);
        if found.is_empty() {
            return Ok(acted);
        }
        let matches = found.len() as u32;
        let guard = when.guard.as_ref();
        let cells = matches!(when.what, Match::On { .. });
        // Cell by cell each match is looked at again before it is applied; of lines and areas all are found first.
        let kept: Vec<Found> = if cells {
            found
        } else {
            found.into_iter().filter(|found| self.guard_of(guard, &self.context(found, matches))).collect()
        };
        let mut rest: &[Effect] = &when.effects;
        while let Some(first) = rest.first() {
            if first.is_once_for_all() {
                let now: Vec<&Found> = kept.iter().filter(|found| !cells || self.still(found, when, matches)).collect();
                if !now.is_empty() || acted.any {
                    self.once_for_all(first, when, &now, watch)?;
                    now.into_iter().for_each(|found| acted.note::<W>(found));
                }
                rest = &rest[1..];
                continue;
            }
            let length = rest.iter().position(Effect::is_once_for_all).unwrap_or(rest.len());
            for found in &kept {
                if cells && !self.still(found, when, matches) {
                    continue;
                }
                let context = self.context(found, matches);
                acted.note::<W>(found);
                self.turn.acted += 1;
                if self.turn.acted > MOST_ACTED {
                    return Err(Flow::NeverSettles);
                }
                for effect in &rest[..length] {
                    self.effect(effect, &context, watch)?;
                }
            }
            rest = &rest[length..];
        }
        Ok(acted)
    }

    /// Whether a match of `when WHO [on WHO]` still stands and its condition holds.
    fn still(&self, found: &Found, when: &When, matches: u32) -> bool {
        let (Matched::Pair(first, second), Match::On { who, on }) = (&found.pieces, &when.what) else {
            return true;
        };
        let (board, book) = (&self.state.board, &self.book);
        let Some(cell) = board.cell_of(*first) else {
            return false;
        };
        let with_second = match (second, on) {
            (Some(second), Some(on)) => {
                let together = match self.carrier_of(*first) {
                    Some(carrier) => carrier == *second,
                    None => board.cell_of(*second) == Some(cell),
                };
                together && book.set(*on).contains(board.kind_of(*second))
            }
            _ => true,
        };
        with_second
            && book.set(*who).contains(board.kind_of(*first))
            && self.guard_of(when.guard.as_ref(), &self.context(found, matches))
    }

    fn guard_of(&self, guard: Option<&Cond>, context: &Context) -> bool {
        guard.is_none_or(|guard| self.cond_holds(guard, &context.view))
    }

    fn context(&self, found: &Found, matches: u32) -> Context {
        let board = &self.state.board;
        let (here, heading, matched) = match &found.pieces {
            Matched::Pair(first, second) => {
                (board.cell_of(*first), board.heading_of(*first), 1 + u32::from(second.is_some()))
            }
            Matched::Many(pieces) => (None, None, pieces.len() as u32),
            Matched::Nothing => (None, None, 0),
        };
        Context { matched: found.pieces.clone(), view: View { here, heading, found: (matches, matched) } }
    }

    /// An effect that is done once for all matches together.
    fn once_for_all<W: Watch>(&mut self, effect: &Effect, when: &When, found: &[&Found], watch: &mut W) -> Goes {
        match effect {
            Effect::Clear => {
                let cleared: usize = found.iter().map(|found| found.pieces.pieces().count()).sum();
                watch.did(
                    false,
                    watch.wants_deeds().then(|| {
                        let pieces: Vec<PieceId> = found.iter().flat_map(|found| found.pieces.pieces()).collect();
                        format!("cleared {cleared}: {}", self.pieces_at(&pieces))
                    }),
                );
                for found in found {
                    found.pieces.pieces().for_each(|piece| self.state.board.remove(piece));
                }
            }
            Effect::DropRows(heading) => {
                if let Match::Full { of, .. } = when.what {
                    let lines: Vec<i64> = found.iter().map(|found| found.line).collect();
                    self.drop_lines(of, &lines, *heading);
                    watch.did(
                        false,
                        watch.wants_deeds().then(|| {
                            let (name, way) = (&self.book.set(of).name, heading.word());
                            format!("let {name} beyond {} cleared come {way}", lines.len())
                        }),
                    );
                }
            }
            Effect::Become(_) | Effect::Common(_) => {
                self.effect(effect, &Context::default(), watch)?;
            }
        }
        Ok(())
    }

    /// All matches of a rule as the board stands, in reading order of their first cells.
    pub(super) fn find(&mut self, what: &Match) -> Vec<Found> {
        match what {
            Match::On { who, on } => {
                let pairs = self.matches(*who, *on);
                let seen = pairs.into_iter().filter(|(first, second)| {
                    !self.is_active(*first) && !second.is_some_and(|second| self.is_active(second))
                });
                seen.map(|(first, second)| Found { pieces: Matched::Pair(first, second), line: 0 }).collect()
            }
            Match::Full { row, of, ignoring } => self.full_lines(*row, *of, *ignoring),
            Match::Run { length, of, rows, columns } => self.runs(*length, *of, *rows, *columns),
            Match::Patch { length, of } => self.patches(*length, *of),
        }
    }

    /// Pieces of a set, each with every other piece of a second set in its cell: reading order, top layer first.
    fn matches(&mut self, who: SetId, on: Option<SetId>) -> Vec<(PieceId, Option<PieceId>)> {
        let book = self.book.clone();
        let set = book.set(who);
        let mut cells = std::mem::take(&mut self.match_cells);
        let board = &self.state.board;
        // The rarer of the two is looked for, but riders may stand in another cell than what carries them.
        match on.map(|on| book.set(on)).filter(|_| self.state.bonds.riders.is_empty()) {
            Some(other) if board.count_set(other) < board.count_set(set) => board.cells_of(other, &mut cells),
            _ => board.cells_of(set, &mut cells),
        }
        let mut found = Vec::new();
        for cell in &cells {
            for place in self.state.board.seats(*cell) {
                if !self.state.board.kind_in(*cell, place).is_some_and(|kind| set.contains(kind)) {
                    continue;
                }
                match on.map(|on| book.set(on)) {
                    None => found.extend(self.state.board.piece_in(*cell, place).map(|piece| (piece, None))),
                    Some(other) => self.matches_in_cell(*cell, place, other, &mut found),
                }
            }
        }
        self.match_cells = cells;
        found
    }

    fn matches_in_cell(
        &mut self,
        cell: CellId,
        place: Seat,
        other: &KindSet,
        found: &mut Vec<(PieceId, Option<PieceId>)>,
    ) {
        let piece = self.state.board.known_piece_in(cell, place);
        if let Some((rider, carrier)) = piece.and_then(|rider| Some((rider, self.carrier_of(rider)?))) {
            if other.contains(self.state.board.kind_of(carrier)) {
                found.push((rider, Some(carrier)));
            }
            return;
        }
        for beside in self.state.board.seats(cell) {
            let fits =
                beside != place && self.state.board.kind_in(cell, beside).is_some_and(|kind| other.contains(kind));
            if fits
                && let Some(first) = self.state.board.piece_in(cell, place)
                && let Some(second) = self.state.board.piece_in(cell, beside)
            {
                found.push((first, Some(second)));
            }
        }
    }
}
