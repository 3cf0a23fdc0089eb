//! What the rules of a book can still tell apart: which counters are read, whether anything is drawn by lot, whose headings
//! count. What nobody reads is no difference between two states.

use super::model::{
    Action, Area, Common, Cond, CountIn, CounterRead, Effect, HeadingWord, KindId, Match, Met, Pieces, Place, Rulebook,
    SetId, Spot, Sum, Term, Touched, Trigger,
};

/// What the rules read of a state.
#[derive(Clone, Debug, PartialEq, Eq)]
#[allow(clippy::struct_excessive_bools)]
pub struct Reads {
    /// The rulebook's counters, by number.
    pub counters: Vec<bool>,
    /// The counter `moves`.
    pub moves: bool,
    /// The counter `turns`.
    pub turns: bool,
    /// The counter `clock`.
    pub clock: bool,
    /// Something is drawn by lot.
    pub random: bool,
    /// Headings of pieces, by kind.
    pub headings: Vec<bool>,
    /// The heading of the last granted move.
    pub last_move: bool,
}

/// Collects what rules read.
struct Reader<'a> {
    book: &'a Rulebook,
    reads: Reads,
    /// Whoever may be touched where the rule at hand acts: where the finger went down, and up.
    touched: [SetId; 2],
}

impl Rulebook {
    /// What its rules, promises and outcomes read of a state.
    pub fn reads(&self) -> Reads {
        let reads = Reads {
            counters: vec![false; self.counters.len()],
            moves: false,
            turns: false,
            clock: false,
            random: false,
            headings: vec![false; self.kinds.len()],
            last_move: self.inputs.iter().any(|rule| rule.no_reverse.is_some()),
        };
        let mut reader = Reader { book: self, reads, touched: [self.any; 2] };
        let guards = self.meetings.iter().filter_map(|rule| rule.guard.as_ref());
        let guards = guards.chain(self.offs.iter().filter_map(|rule| rule.guard.as_ref()));
        let guards = guards.chain(self.whens.iter().filter_map(|rule| rule.guard.as_ref()));
        let guards = guards.chain(self.inputs.iter().filter_map(|rule| rule.guard.as_ref()));
        let guards = guards.chain(self.outcomes.iter().map(|rule| &rule.cond));
        for cond in guards.chain(self.invariants.iter().map(|rule| &rule.cond)) {
            reader.cond(cond);
        }
        for when in &self.whens {
            // The heading in a `when` is the matched piece's own; elsewhere it is the one asked for.
            if let (Match::On { who, .. }, true) = (&when.what, when.guard.as_ref().is_some_and(names_heading)) {
                reader.heading_of(*who);
            }
        }
        self.effects().filter_map(common_of).for_each(|common| reader.common(common));
        for rule in &self.inputs {
            reader.touched = self.touched(&rule.trigger);
            rule.actions.iter().flatten().for_each(|action| reader.action(action));
        }
        reader.close_over_turns();
        reader.reads
    }
}

/// What a condition asks of the board.
enum Asks<'a> {
    Spot(&'a Spot),
    Term(&'a Term),
}

/// Tells all that a condition asks, part by part.
fn asks<'a>(cond: &'a Cond, each: &mut dyn FnMut(Asks<'a>)) {
    match cond {
        Cond::Or(all) | Cond::And(all) => all.iter().for_each(|cond| asks(cond, each)),
        Cond::Not(inner) => asks(inner, each),
        Cond::Heading(_) | Cond::Blocked => {}
        Cond::Spot(spot) => each(Asks::Spot(spot)),
        Cond::Beside(one, other) => [one, other].into_iter().for_each(|spot| each(Asks::Spot(spot))),
        Cond::Compare(left, _, right) => {
            left.0.iter().chain(&right.0).for_each(|(_, term)| each(Asks::Term(term)));
        }
    }
}

/// Collects the kinds of which conditions ask where they stand.
struct Judged<'a> {
    book: &'a Rulebook,
    kinds: Vec<bool>,
}

impl Rulebook {
    /// The kinds of which `win`, `lose`, `always` and `never` ask where they stand or face, by number: a step of any other
    /// changes none of these.
    pub fn judged(&self) -> Vec<bool> {
        let mut judged = Judged { book: self, kinds: vec![false; self.kinds.len()] };
        let conds = self.outcomes.iter().map(|rule| &rule.cond).chain(self.invariants.iter().map(|rule| &rule.cond));
        conds.for_each(|cond| judged.cond(cond));
        judged.kinds
    }
}

impl Judged<'_> {
    fn cond(&mut self, cond: &Cond) {
        asks(cond, &mut |asked| match asked {
            Asks::Spot(spot) => self.spot(spot),
            Asks::Term(term) => self.term(term),
        });
    }

    fn term(&mut self, term: &Term) {
        match term {
            // However they move, on the whole map they are as many.
            Term::Count { on: None, within: CountIn::Area(Area::Map), .. }
            | Term::Int(_)
            | Term::Counter(_)
            | Term::Matches
            | Term::Matched => {}
            Term::Count { who, on, within } => {
                let book = self.book;
                let sets = [Some(*who), on.map(|(_, set)| set)].into_iter().flatten();
                sets.flat_map(|set| book.set(set).iter()).for_each(|kind| self.kind(kind));
                match within {
                    CountIn::Spot(spot) => self.spot(spot),
                    CountIn::Area(_) => {}
                }
            }
        }
    }

    fn spot(&mut self, spot: &Spot) {
        match spot {
            Spot::AheadOf(kind) | Spot::The(kind) => self.kind(*kind),
            Spot::Here | Spot::Tapped | Spot::Dragged | Spot::Dropped | Spot::Chosen | Spot::At(_) => {}
        }
    }

    fn kind(&mut self, kind: KindId) {
        self.kinds[usize::from(kind.0)] = true;
    }
}

const fn common_of(effect: &Effect) -> Option<&Common> {
    match effect {
        Effect::Common(common) => Some(common),
        Effect::Become(_) | Effect::Clear | Effect::DropRows(_) => None,
    }
}

fn names_heading(cond: &Cond) -> bool {
    match cond {
        Cond::Or(all) | Cond::And(all) => all.iter().any(names_heading),
        Cond::Not(inner) => names_heading(inner),
        Cond::Heading(_) => true,
        Cond::Blocked | Cond::Spot(_) | Cond::Beside(..) | Cond::Compare(..) => false,
    }
}

impl Reader<'_> {
    fn cond(&mut self, cond: &Cond) {
        asks(cond, &mut |asked| match asked {
            Asks::Spot(spot) => self.spot(spot),
            Asks::Term(term) => self.term(term),
        });
    }

    fn sum(&mut self, sum: &Sum) {
        sum.0.iter().for_each(|(_, term)| self.term(term));
    }

    fn term(&mut self, term: &Term) {
        match term {
            Term::Counter(CounterRead::Moves) => self.reads.moves = true,
            Term::Counter(CounterRead::Turns) => self.reads.turns = true,
            Term::Counter(CounterRead::Clock) => self.reads.clock = true,
            Term::Counter(CounterRead::Own(own)) => self.reads.counters[usize::from(own.0)] = true,
            Term::Count { within: CountIn::Spot(spot), .. } => self.spot(spot),
            Term::Count { .. } | Term::Int(_) | Term::Matches | Term::Matched => {}
        }
    }

    fn spot(&mut self, spot: &Spot) {
        match spot {
            Spot::AheadOf(kind) => self.reads.headings[usize::from(kind.0)] = true,
            Spot::Here | Spot::Tapped | Spot::Dragged | Spot::Dropped | Spot::Chosen | Spot::The(_) | Spot::At(_) => {}
        }
    }

    fn place(&mut self, place: &Place) {
        match place {
            Place::At(spot) => self.spot(spot),
            Place::RandomEmpty(..) => self.reads.random = true,
        }
    }

    fn heading_of(&mut self, set: SetId) {
        let book = self.book;
        book.set(set).iter().for_each(|kind| self.reads.headings[usize::from(kind.0)] = true);
    }

    /// The headings that words for these pieces read.
    fn heading(&mut self, pieces: &Pieces, word: &HeadingWord) {
        match word {
            HeadingWord::Compass(_) => {}
            HeadingWord::Toward(spot) | HeadingWord::Along(spot) => self.spot(spot),
            HeadingWord::Relative(_) => match pieces {
                Pieces::Every(set, _) | Pieces::Matched(set, _) => self.heading_of(*set),
                Pieces::Tapped | Pieces::Dragged => self.heading_of(self.touched[0]),
                Pieces::Dropped => self.heading_of(self.touched[1]),
                // Whoever is chosen or active may be of any kind.
                Pieces::Active | Pieces::Chosen => self.heading_of(self.book.any),
            },
        }
    }

    fn common(&mut self, common: &Common) {
        match common {
            Common::TurnHeading(pieces, word) => self.heading(pieces, word),
            Common::Place(_, place) | Common::SpawnKind(_, place) => self.place(place),
            Common::SpawnShape(shape, place) => {
                self.place(place);
                let shapes = &self.book.shapes;
                let drawn = match shape {
                    None => true,
                    Some(shape) => shapes.get(usize::from(shape.0)).is_some_and(|shape| shape.is_drawn),
                };
                self.reads.random |= drawn;
            }
            // Adding to a counter does not read it; what is added may.
            Common::Add(sum, _) | Common::Set(_, sum) => self.sum(sum),
            Common::Refill(..) => self.reads.random = true,
            Common::Remove(_)
            | Common::TurnInto(..)
            | Common::Grow(_)
            | Common::Fall(..)
            | Common::Quicken { .. }
            | Common::Signal(_)
            | Common::Win
            | Common::Lose
            | Common::Restart
            | Common::NextMap => {}
        }
    }

    fn action(&mut self, action: &Action) {
        match action {
            Action::Step { pieces, heading, .. } | Action::Drop(pieces, heading) => self.heading(pieces, heading),
            Action::Walk(_, spot) | Action::Choose(Some(spot)) | Action::Flood { from: spot, .. } => self.spot(spot),
            Action::Swap { one, other, .. } => [one, other].into_iter().for_each(|spot| self.spot(spot)),
            Action::Common(common) => self.common(common),
            Action::Leap(..)
            | Action::Choose(None)
            | Action::Rotate { .. }
            | Action::LockActive
            | Action::Steer(..) => {}
        }
    }

    /// A heading stays when a piece turns into another kind: it is read where that kind's is.
    fn close_over_turns(&mut self) {
        let turns = self.book.turns();
        loop {
            let before = self.reads.headings.clone();
            for (from, into) in &turns {
                if before[usize::from(into.0)] {
                    self.reads.headings[usize::from(from.0)] = true;
                }
            }
            if self.reads.headings == before {
                return;
            }
        }
    }
}

impl Rulebook {
    /// Whoever may be touched where a rule acts, down and up; anybody where it does not say.
    fn touched(&self, trigger: &Trigger) -> [SetId; 2] {
        let set = |touched: &Touched| match touched {
            Some(Met::Pieces(set)) => *set,
            Some(Met::Edge | Met::Void) | None => self.any,
        };
        match trigger {
            Trigger::Tap(touched) => [set(touched); 2],
            Trigger::Drag(down, up) => [set(down), set(up)],
            Trigger::Start | Trigger::Key(_) | Trigger::Timer(_) | Trigger::EachTurn => [self.any; 2],
        }
    }

    /// Which kinds some rule may turn into which.
    fn turns(&self) -> Vec<(KindId, KindId)> {
        let mut found = Vec::new();
        let mut from = |set: SetId, into: KindId| found.extend(self.set(set).iter().map(|kind| (kind, into)));
        let mut turn = |common: &Common, [down, up]: [SetId; 2]| {
            if let Common::TurnInto(pieces, into) = common {
                let set = match pieces {
                    Pieces::Every(set, _) | Pieces::Matched(set, _) => *set,
                    Pieces::Tapped | Pieces::Dragged => down,
                    Pieces::Dropped => up,
                    Pieces::Active | Pieces::Chosen => self.any,
                };
                from(set, *into);
            }
        };
        self.effects().filter_map(common_of).for_each(|common| turn(common, [self.any; 2]));
        for rule in &self.inputs {
            let touched = self.touched(&rule.trigger);
            for action in rule.actions.iter().flatten() {
                if let Action::Common(common) = action {
                    turn(common, touched);
                }
            }
        }
        let own = self.meetings.iter().map(|rule| (rule.who, &rule.effects));
        let own = own.chain(self.offs.iter().map(|rule| (rule.who, &rule.effects)));
        let matched = self.whens.iter().map(|rule| match rule.what {
            Match::Full { of, .. } | Match::Run { of, .. } | Match::Patch { of, .. } => (of, &rule.effects),
            Match::On { who, .. } => (who, &rule.effects),
        });
        for (who, effects) in own.chain(matched) {
            for effect in effects {
                if let Effect::Become(into) = effect {
                    from(who, *into);
                }
            }
        }
        found
    }
}
