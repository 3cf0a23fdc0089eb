//! Actions: what inputs and timers ask for.

use super::context::{Context, Few};
use super::deeds::Requests;
use super::flow::Flow;
use super::plan::Step;
use super::report::ActionReport;
use super::state::{Chosen, Grid};
use super::switches::Switch;
use super::watch::{Nobody, Watch};
use crate::board::{CellId, PieceId};
use crate::rulebook::{Action, HeadingWord, KindId, Pieces, PlainVerb, Spot};
use crate::space::Heading;
use hashbrown::{HashMap, HashSet};
use smallvec::SmallVec;
use std::collections::VecDeque;

/// What an action of a body is to be told as: its name and cell before it acts.
type Named = Option<String>;

impl Grid {
    /// Does an action; whether it was granted.
    pub(super) fn action<W: Watch>(&mut self, action: &Action, context: &Context, watch: &mut W) -> Result<bool, Flow> {
        self.turn.slid.clear();
        match action {
            Action::Common(common) => self.common(common, context, watch),
            Action::Step { pieces, heading, times } => {
                let found = self.heeding(pieces, context);
                if found.is_empty() {
                    let is_ignored = W::LEDGER && !self.pieces(pieces, context).is_empty();
                    return Ok(self.nobody("step", pieces, is_ignored, watch));
                }
                self.step_all(found, heading, *times, context, watch)
            }
            Action::Steer(set, heading) => {
                let pieces = Pieces::Every(*set, None);
                let found = self.heeding(&pieces, context);
                found.iter().for_each(|piece| self.state.board.turn(*piece, Some(*heading)));
                let words = watch.wants_deeds().then(|| self.pieces_at(&found));
                let rest = format!(" {}", heading.word());
                self.did_to(("steered", "steer"), &pieces, words, &rest, watch);
                Ok(!found.is_empty())
            }
            Action::Choose(spot) => Ok(self.choose(spot.as_ref(), context, watch)),
            Action::Swap { one, other, if_run } => {
                let cells = [one, other].map(|spot| self.spot(spot, &context.view));
                let words = watch.wants_deeds().then(|| self.both_words([one, other], cells, context));
                let refusal = self.swap_cells(cells, *if_run).err();
                self.turn.granted |= refusal.is_none();
                self.carry(watch)?;
                Ok(self.told("swap", cells, refusal, ("swapped", "swap", words), watch))
            }
            Action::Leap(pieces, east, south) => self.leap_all(pieces, (*east, *south), context, watch),
            Action::Walk(pieces, spot) => self.walk_first(pieces, spot, context, watch),
            Action::Drop(pieces, word) => self.drop_all(pieces, word, context, watch),
            Action::Flood { from, into, eight } => Ok(self.flood_from(from, *into, *eight, context, watch)),
            Action::Rotate { pieces: who, clockwise, tries } => {
                let mut pieces = self.pieces(who, context);
                self.one_of_each_body(&mut pieces);
                let mut refusal = Some("nobody");
                for piece in pieces {
                    match self.rotate(piece, *clockwise, tries) {
                        Ok(()) => refusal = None,
                        Err(why) => refusal = refusal.map(|_| why),
                    }
                }
                let way = if *clockwise { "clockwise" } else { "counterclockwise" };
                let words = watch.wants_deeds().then(|| format!("{} {way}", self.book.pieces_words(who)));
                Ok(self.told("rotate", [], refusal, ("rotated", "rotate", words), watch))
            }
            Action::LockActive => {
                let refusal = (!self.lock_active()).then_some("nobody");
                let words = watch.wants_deeds().then(|| "active".into());
                Ok(self.told("lock", [], refusal, ("locked", "lock", words), watch))
            }
        }
    }

    /// Tells an action's answer and the cells concerned, and says it in a sentence; whether it was granted.
    fn told<W: Watch>(
        &self,
        action: &'static str,
        cells: impl IntoIterator<Item = Option<CellId>>,
        refusal: Option<&str>,
        (did, to_do, words): (&str, &str, Option<String>),
        watch: &mut W,
    ) -> bool {
        if W::LEDGER {
            let cells = cells.into_iter().flatten().map(|cell| self.state.board.cell(cell));
            watch.action(ActionReport::of(action, refusal).at(cells));
            let sentence = |words: String| match refusal {
                None => format!("{did} {words}"),
                Some(why) => format!("refused to {to_do} {words}: {why}"),
            };
            watch.told(refusal.is_some(), words.map(sentence));
        }
        refusal.is_none()
    }

    /// Nobody is there for an action, or nobody heeds the key: it is refused.
    fn nobody<W: Watch>(&self, to_do: &str, who: &Pieces, is_ignored: bool, watch: &mut W) -> bool {
        let text = || {
            let why = if is_ignored { "the key is ignored, nobody turns straight back" } else { "nobody" };
            format!("refused to {to_do} {}: {why}", self.book.pieces_words(who))
        };
        watch.did(true, watch.wants_deeds().then(text));
        false
    }

    /// Both spots of a swap, with what stands there.
    fn both_words(&mut self, spots: [&Spot; 2], cells: [Option<CellId>; 2], context: &Context) -> String {
        let mut words = [0, 1].map(|at| match cells[at] {
            Some(cell) => self.top_at(cell),
            None => self.spot_at(spots[at], &context.view),
        });
        let second = std::mem::take(&mut words[1]);
        format!("{} with {second}", words[0])
    }

    /// Marks a cell and the topmost piece in it, or takes the mark away.
    fn choose<W: Watch>(&mut self, spot: Option<&Spot>, context: &Context, watch: &mut W) -> bool {
        let Some(spot) = spot else {
            self.state.small.chosen = None;
            return self.told("choose", [], None, ("chose", "choose", Some("nothing".into())), watch);
        };
        let cell = self.spot(spot, &context.view);
        let refusal = cell.is_none().then_some("no such cell");
        if let Some(cell) = cell {
            self.state.small.chosen = Some(Chosen { cell, piece: self.top_piece(cell) });
        }
        let words = watch.wants_deeds().then(|| match cell {
            Some(cell) => self.top_at(cell),
            None => self.book.spot_words(spot),
        });
        self.told("choose", [cell], refusal, ("chose", "choose", words), watch)
    }

    /// Fills an area from a cell.
    fn flood_from<W: Watch>(
        &mut self,
        from: &Spot,
        into: KindId,
        eight: bool,
        context: &Context,
        watch: &mut W,
    ) -> bool {
        let cell = self.spot(from, &context.view);
        let at = watch.wants_deeds().then(|| self.spot_at(from, &context.view));
        let flooded = self.flood(cell, into, eight, W::LEDGER);
        let granted = flooded.is_ok();
        if W::LEDGER {
            let name = &self.book.kind(into).name;
            let why = flooded.as_ref().err().cloned();
            let rings = flooded.ok();
            let size = rings.as_ref().map(|rings| rings.cells.len() as u32);
            let text = at.map(|at| match (size, &why) {
                (Some(1), _) => format!("flooded 1 cell from {at} with {name}"),
                (Some(size), _) => format!("flooded {size} cells from {at} with {name}"),
                (None, why) => {
                    format!("refused to flood from {at} into {name}: {}", why.as_deref().unwrap_or_default())
                }
            });
            let cells = cell.map(|cell| self.state.board.cell(cell));
            watch.action(ActionReport { size, rings, ..ActionReport::of("flood", why.as_deref()).at(cells) });
            watch.told(!granted, text);
        }
        granted
    }

    /// What a body is called before it acts, where somebody wants to know.
    fn named<W: Watch>(&self, piece: PieceId, watch: &W) -> Named {
        watch.wants_deeds().then(|| self.piece_at(piece))
    }

    /// Notes the answer to a body that has acted.
    fn add_to(&self, requests: &mut Requests, named: Named, heading: Option<Heading>, piece: PieceId, granted: bool) {
        if let Some(body) = named {
            requests.add(self, &body, heading, self.state.board.cell_of(piece), granted);
        }
    }

    /// One request to a far cell for every piece.
    fn leap_all<W: Watch>(
        &mut self,
        who: &Pieces,
        (east, south): (i64, i64),
        context: &Context,
        watch: &mut W,
    ) -> Result<bool, Flow> {
        let step = Step::leap(east, south, self.book.geometry.south());
        let mut pieces = self.pieces(who, context);
        self.one_of_each_body(&mut pieces);
        let (mut granted, mut requests) = (false, Requests::default());
        let mut refusal = Some("nobody".to_owned());
        for piece in pieces {
            if !self.stands(piece) {
                continue;
            }
            let named = self.named(piece, watch);
            let leapt = self.ask(piece, step, watch)?;
            granted |= leapt;
            refusal = (!granted).then(|| self.refusal().to_owned());
            self.add_to(&mut requests, named, None, piece, leapt);
        }
        self.told_all("leap", ("leapt", "leap"), who, refusal.as_deref(), &requests, watch);
        Ok(granted)
    }

    /// Tells the answer of an action that made requests.
    fn told_all<W: Watch>(
        &self,
        action: &'static str,
        (did, to_do): (&str, &str),
        who: &Pieces,
        refusal: Option<&str>,
        requests: &Requests,
        watch: &mut W,
    ) {
        if !W::LEDGER {
            return;
        }
        watch.action(ActionReport::of(action, refusal));
        if refusal == Some("nobody") {
            self.nobody(to_do, who, false, watch);
        } else {
            watch.told(refusal.is_some(), watch.wants_deeds().then(|| requests.sentence(did, to_do)));
        }
    }

    /// The same step again and again for every piece.
    fn drop_all<W: Watch>(
        &mut self,
        who: &Pieces,
        word: &HeadingWord,
        context: &Context,
        watch: &mut W,
    ) -> Result<bool, Flow> {
        let pieces = self.pieces(who, context);
        let (mut granted, mut requests) = (false, Requests::default());
        let mut refusal = Some("nobody".to_owned());
        if let (true, Some(first)) = (W::LEDGER, pieces.first()) {
            refusal = Some(self.no_heading(*first, word, &context.view).into());
        }
        for (heading, piece) in self.foremost_first(pieces, word, context) {
            let named = self.named(piece, watch);
            let dropped = self.drop_one(piece, Step::along(heading, self.book.geometry.south()), watch)?;
            granted |= dropped;
            refusal = (!granted).then(|| self.refusal().to_owned());
            self.add_to(&mut requests, named, Some(heading), piece, dropped);
        }
        self.told_all("drop", ("dropped", "drop"), who, refusal.as_deref(), &requests, watch);
        Ok(granted)
    }

    /// The first piece that has a way goes it, step by step.
    fn walk_first<W: Watch>(
        &mut self,
        who: &Pieces,
        spot: &Spot,
        context: &Context,
        watch: &mut W,
    ) -> Result<bool, Flow> {
        let pieces = self.pieces(who, context);
        let goal = self.spot(spot, &context.view);
        let at = watch.wants_deeds().then(|| self.spot_at(spot, &context.view));
        let mut words = at.as_ref().map(|at| format!("{} to {at}", self.book.pieces_words(who)));
        let mut refusal = Some(if pieces.is_empty() { "nobody" } else { "no such cell" }.to_owned());
        for piece in pieces {
            let Some(goal) = goal else { break };
            let named = self.named(piece, watch);
            match self.way(piece, goal) {
                Err(why) => refusal = refusal.filter(|before| before == "no way").or(Some(why.into())),
                Ok(way) => {
                    let all = way.len();
                    let mut gone = 0;
                    for heading in way {
                        let step = Step::along(heading, self.book.geometry.south());
                        if !self.stands(piece) || !self.ask(piece, step, watch)? {
                            break;
                        }
                        gone += 1;
                    }
                    refusal = (gone == 0).then(|| self.refusal().to_owned());
                    words = named.zip(at.as_ref()).map(|(named, at)| {
                        let stopped = if gone < all { format!(", {gone} of {all} steps") } else { String::new() };
                        format!("{named} to {at}{stopped}")
                    });
                }
            }
            if refusal.is_none() {
                break;
            }
        }
        Ok(self.told("walk", [goal], refusal.as_deref(), ("walked", "walk", words), watch))
    }

    /// The pieces meant by a key's action: those that may not turn straight back do not heed it.
    fn heeding(&mut self, pieces: &Pieces, context: &Context) -> Few {
        let mut found = self.pieces(pieces, context);
        if let Some(heading) = self.turn.not_back {
            found.retain(|piece| !self.is_back(*piece, heading));
        }
        found
    }

    fn stands(&self, piece: PieceId) -> bool {
        self.state.board.cell_of(piece).is_some()
    }

    /// The same step again until it is refused; one that would come back to a cell of this drop is not asked for.
    fn drop_one<W: Watch>(&mut self, piece: PieceId, step: Step, watch: &mut W) -> Result<bool, Flow> {
        let mut seen: HashSet<CellId> = self.state.board.cell_of(piece).into_iter().collect();
        let mut granted = false;
        while self.stands(piece) {
            if self.plan_request::<Nobody>(piece, step) {
                let to = self.plan.members.first().filter(|member| !member.gone).map(|member| member.to);
                if to.is_some_and(|to| !seen.insert(to)) {
                    break;
                }
            }
            if !self.ask(piece, step, watch)? {
                break;
            }
            granted = true;
        }
        Ok(granted)
    }

    /// A shortest way of a piece by straight steps that nothing but `pass` and `take` decides, west before east before
    /// north before south among equals.
    pub(super) fn way(&mut self, piece: PieceId, goal: CellId) -> Result<Vec<Heading>, &'static str> {
        const ORDER: [Heading; 4] = [Heading::West, Heading::East, Heading::North, Heading::South];
        let start = self.state.board.cell_of(piece).ok_or("no way")?;
        if start == goal {
            return Err("already there");
        }
        let layer = self.state.board.layer(self.state.board.kind_of(piece));
        let mut from: HashMap<CellId, (CellId, Heading)> = HashMap::new();
        let mut queue = VecDeque::from([start]);
        let mark = self.state.board.mark();
        while let Some(cell) = queue.pop_front().filter(|_| !from.contains_key(&goal)) {
            if cell != start {
                // What would have been taken on the way there is gone by then.
                if let Some(taken) = self.state.board.piece_at(cell, layer) {
                    self.state.board.remove(taken);
                }
                self.state.board.shift(&[(piece, cell)]);
            }
            for heading in ORDER {
                let granted = self.plan_request::<Nobody>(piece, Step::along(heading, self.book.geometry.south()));
                let moves = |verb: PlainVerb| !matches!(verb, PlainVerb::Slide | PlainVerb::Warp(_));
                let plain = self.plan.decided.iter().all(|decided| decided.verb.is_some_and(moves));
                let alone = plain && self.plan.members.len() == 1 && !self.plan.members[0].gone;
                let next = self.state.board.id(self.book.geometry.neighbour(self.state.board.cell(cell), heading));
                // Round the edge is no step of a walk.
                let to = self.plan.members.first().map(|member| member.to).filter(|to| Some(*to) == next);
                if let Some(to) = to.filter(|to| granted && alone && *to != start && !from.contains_key(to)) {
                    from.insert(to, (cell, heading));
                    queue.push_back(to);
                }
            }
            self.state.board.take_back(mark);
        }
        let mut way = Vec::new();
        let mut at = goal;
        while at != start {
            let (before, heading) = *from.get(&at).ok_or("no way")?;
            way.push(heading);
            at = before;
        }
        way.reverse();
        Ok(way)
    }

    /// The topmost pieces of two cells exchange cells; the reason where they do not.
    fn swap_cells(&mut self, cells: [Option<CellId>; 2], if_run: bool) -> Result<(), &'static str> {
        let [Some(one), Some(other)] = cells else {
            return Err("no such cell");
        };
        if one == other {
            return Err("twice the same cell");
        }
        let mark = self.state.board.mark();
        let top = (self.top_piece(one), self.top_piece(other));
        let board = &self.state.board;
        let layer = |piece: PieceId| board.layer(board.kind_of(piece));
        let mut moves = match top {
            (None, None) => return Err("both cells are empty"),
            (Some(first), Some(second)) if layer(first) != layer(second) => return Err("between two layers"),
            (Some(first), Some(second)) => vec![(first, other), (second, one)],
            (Some(first), None) => vec![(first, other)],
            (None, Some(second)) => vec![(second, one)],
        };
        // What counts as emptiness goes the other way: the ground, for a piece of its own layer.
        if let [(piece, to)] = moves[..] {
            let (from, layer) = (if to == one { other } else { one }, layer(piece));
            if !self.state.board.is_loose(piece)
                && let Some(ground) = self.state.board.piece_at(to, layer)
            {
                moves.push((ground, from));
            }
        }
        if moves.iter().any(|(piece, _)| self.body_of(*piece).is_some()) {
            return Err("a shape");
        }
        if self.switches.has(Switch::SwapHalf) && moves.len() > 1 {
            moves.drain(1..).for_each(|(piece, _)| self.state.board.remove(piece));
        }
        self.state.board.shift(&moves);
        if if_run && !self.makes_run([one, other]) {
            self.state.board.take_back(mark);
            return Err("makes no run");
        }
        moves.iter().for_each(|(piece, _)| self.end_motion(*piece));
        Ok(())
    }

    /// Pieces with the headings that words give them, the foremost along its heading first: those going west before those
    /// going east, north, south and diagonally, ties in reading order.
    fn foremost_first(
        &mut self,
        mut pieces: Few,
        word: &HeadingWord,
        context: &Context,
    ) -> SmallVec<[(Heading, PieceId); 2]> {
        self.one_of_each_body(&mut pieces);
        if let [piece] = pieces[..] {
            let heading = self.heading_word(piece, word, &context.view).filter(|_| self.stands(piece));
            return heading.map(|heading| (heading, piece)).into_iter().collect();
        }
        let mut order: Vec<(Heading, i64, usize, PieceId)> = Vec::with_capacity(pieces.len());
        for (reading, piece) in pieces.into_iter().enumerate() {
            let Some(heading) = self.heading_word(piece, word, &context.view) else {
                continue;
            };
            if self.stands(piece) {
                order.push((heading, -self.reach_along(piece, heading), reading, piece));
            }
        }
        order.sort_unstable();
        order.into_iter().map(|(heading, _, _, piece)| (heading, piece)).collect()
    }

    /// One request for every piece, in an order fixed beforehand; each may ask several times in a row.
    fn step_all<W: Watch>(
        &mut self,
        pieces: Few,
        word: &HeadingWord,
        times: u32,
        context: &Context,
        watch: &mut W,
    ) -> Result<bool, Flow> {
        let (mut granted, mut requests) = (false, Requests::default());
        let first = pieces.first().copied();
        let order = self.foremost_first(pieces, word, context);
        if let (true, Some(piece)) = (order.is_empty() && watch.wants_deeds(), first) {
            let why = self.no_heading(piece, word, &context.view);
            let text = format!("refused to step {} {}: {why}", self.piece_at(piece), self.book.heading_words(word));
            watch.did(true, Some(text));
        }
        for (heading, piece) in &order {
            let mut heading = *heading;
            let (named, mut stepped) = (self.named(*piece, watch), false);
            for _ in 0..times {
                let step = Step::along(heading, self.book.geometry.south());
                if !self.ask(*piece, step, watch)? {
                    break;
                }
                stepped = true;
                if times > 1 && matches!(word, HeadingWord::Toward(_) | HeadingWord::Along(_)) {
                    match self.heading_word(*piece, word, &context.view) {
                        Some(next) => heading = next,
                        None => break,
                    }
                }
            }
            granted |= stepped;
            self.add_to(&mut requests, named, Some(heading), *piece, stepped);
        }
        if !order.is_empty() {
            watch.told(!granted, watch.wants_deeds().then(|| requests.sentence("stepped", "step")));
        }
        Ok(granted)
    }
}
