//! Conditions, effects and actions: names to numbers, and words that can only stand in some rules.

use super::super::diagnostic::{Code, Span};
use super::super::model::{
    Action, Area, Common, Compare, Cond, CountIn, Effect, HeadingWord, Pieces, Place, SetId, ShapeId, Spot, Sum, Term,
    TimerId, whole,
};
use super::super::syntax::{
    self, ActionNode, CommonNode, EffectNode, PiecesNode, Spawned, SpotNode, Test, TurnTo, Within,
};
use super::{Checker, NO_KIND};
use crate::space::{Cell, Heading};

/// What a rule matches.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum MatchSort {
    /// Two pieces, or one.
    Cells,
    /// Full rows.
    Rows,
    /// Full columns.
    Columns,
    /// Runs and patches.
    Areas,
}

/// Which words a rule may use.
#[derive(Clone)]
pub struct Scope {
    pub sort: Option<MatchSort>,
    pub matched: Vec<SetId>,
    /// Whom `become` turns.
    pub first: Option<SetId>,
    pub tap: bool,
    pub drag: bool,
}

impl Scope {
    /// A rule that matches nothing.
    pub fn plain() -> Self {
        Self { sort: None, matched: Vec::new(), first: None, tap: false, drag: false }
    }

    /// A rule that matches pieces of these sets, the first of them `first`.
    pub fn of_match(sort: MatchSort, matched: Vec<SetId>, first: SetId) -> Self {
        Self { sort: Some(sort), matched, first: Some(first), tap: false, drag: false }
    }

    fn lines(&self) -> bool {
        self.sort.is_some_and(|sort| sort != MatchSort::Cells)
    }

    fn here(&self) -> bool {
        self.sort == Some(MatchSort::Cells)
    }
}

impl Checker<'_> {
    fn misplaced(&mut self, span: Span, word: &str, wanted: &str) {
        self.report(span, Code::MisplacedWord, format!("`{word}` has no meaning here: it belongs {wanted}"));
    }

    pub(super) fn effects(&mut self, effects: &[syntax::Effect], scope: &Scope) -> Vec<Effect> {
        let mut cleared = false;
        let mut built = Vec::with_capacity(effects.len());
        for effect in effects {
            cleared |= matches!(effect.node, EffectNode::Clear);
            built.push(self.effect(effect, scope, cleared));
        }
        built
    }

    fn effect(&mut self, effect: &syntax::Effect, scope: &Scope, cleared: bool) -> Effect {
        match &effect.node {
            EffectNode::Common(common) => Effect::Common(self.common(common, scope)),
            EffectNode::Become(name) => {
                let kind = self.kind_made(name);
                match scope.first {
                    Some(first) if self.names.any != Some(first) => self.one_layer(name, kind, first),
                    Some(_) => {}
                    None => self.misplaced(effect.word, "become", "to `into`, `off` and `when` rules"),
                }
                Effect::Become(kind)
            }
            EffectNode::Clear => {
                if !scope.lines() {
                    self.misplaced(effect.word, "clear", "to rows, columns, runs and patches");
                }
                Effect::Clear
            }
            EffectNode::DropRows(heading) => {
                self.drop_rows(effect, *heading, scope, cleared);
                Effect::DropRows(*heading)
            }
        }
    }

    fn drop_rows(&mut self, effect: &syntax::Effect, heading: Heading, scope: &Scope, cleared: bool) {
        let rows = matches!(heading, Heading::North | Heading::South);
        let sort = if rows { MatchSort::Rows } else { MatchSort::Columns };
        let line = if rows { "row" } else { "column" };
        let word = Span::new(effect.word.start, effect.span.end);
        let text = self.words(word);
        if scope.sort != Some(sort) {
            self.misplaced(effect.word, &text, &format!("behind `when {line} full`"));
        } else if !cleared {
            self.misplaced(effect.word, &text, "behind a `clear` in the same rule");
        }
    }

    /// What effects and actions have in common.
    fn common(&mut self, common: &CommonNode, scope: &Scope) -> Common {
        if let Some(who) = common.bare()
            && scope.sort.is_some()
        {
            self.in_match(who, scope);
        }
        match common {
            CommonNode::Remove(pieces) => Common::Remove(self.pieces(pieces, scope)),
            CommonNode::Turn(pieces, TurnTo::Heading(heading)) => {
                let pieces = self.pieces(pieces, scope);
                Common::TurnHeading(pieces, self.heading(heading, scope))
            }
            CommonNode::Turn(pieces, TurnTo::Kind(name)) => self.turn_into(pieces, name, scope),
            CommonNode::Place(kind, place) => {
                let kind = self.kind_made(kind);
                Common::Place(kind, self.place_of(place, scope))
            }
            CommonNode::Spawn(Spawned::Kind(kind), place) => {
                let kind = self.kind_made(kind);
                Common::SpawnKind(kind, self.place_of(place, scope))
            }
            CommonNode::Spawn(Spawned::Shape(name), place) => {
                let shape: Option<ShapeId> = self.shape_named(name.as_ref());
                Common::SpawnShape(shape, self.place_of(place, scope))
            }
            CommonNode::Add(sum, counter) => {
                let sum = self.sum(sum, scope);
                Common::Add(sum, self.counter_made(counter))
            }
            CommonNode::Set(counter, sum) => {
                let counter = self.counter_made(counter);
                Common::Set(counter, self.sum(sum, scope))
            }
            CommonNode::Grow(times) => Common::Grow(self.times(times)),
            CommonNode::Fall(who, heading) => Common::Fall(self.set(who), *heading),
            CommonNode::Refill(who, edge) => {
                let set = self.set(who);
                for kind in self.kinds_of(set) {
                    self.made[usize::from(kind.0)] = true;
                }
                Common::Refill(set, *edge)
            }
            CommonNode::Quicken { timer, by, least } => {
                let by = self.per_cent(by);
                let least = least.as_ref().map_or(1, |least| self.beat(least));
                let known = timer.text == "turn";
                if known {
                    self.report(timer.span, Code::WrongName, "`turn` is no timer that can be quickened");
                }
                let id = if known { None } else { self.timer(timer) };
                Common::Quicken { timer: TimerId(id.unwrap_or(0)), by, least }
            }
            CommonNode::Signal(text) => Common::Signal(text.clone()),
            CommonNode::Win => Common::Win,
            CommonNode::Lose => Common::Lose,
            CommonNode::Restart => Common::Restart,
            CommonNode::Undo(span) => {
                let message = "`undo` has no meaning here: it is the whole of a rule about a key, or nothing";
                let help = "write `on key \"u\": undo`, with no `if` and nothing else";
                self.report_help(*span, Code::MisplacedWord, message, help);
                Common::Restart
            }
            CommonNode::NextMap => Common::NextMap,
        }
    }

    fn turn_into(&mut self, pieces: &syntax::Pieces, name: &syntax::Name, scope: &Scope) -> Common {
        let kind = self.kind_made(name);
        let pieces = self.pieces(pieces, scope);
        if let Pieces::Every(set, _) | Pieces::Matched(set, _) = &pieces
            && self.names.any != Some(*set)
        {
            self.one_layer(name, kind, *set);
        }
        Common::TurnInto(pieces, kind)
    }

    pub(super) fn actions(&mut self, actions: &[syntax::Action], scope: &Scope) -> Vec<Action> {
        actions.iter().map(|action| self.action(&action.node, scope)).collect()
    }

    fn action(&mut self, action: &ActionNode, scope: &Scope) -> Action {
        match action {
            ActionNode::Common(common) => Action::Common(self.common(common, scope)),
            ActionNode::Step(pieces, heading, times) => {
                let pieces = self.pieces(pieces, scope);
                let heading = self.heading(heading, scope);
                Action::Step { pieces, heading, times: times.as_ref().map_or(1, |times| self.times(times)) }
            }
            ActionNode::Leap(pieces, east, south) => {
                if east.int() == Some(0) && south.int() == Some(0) {
                    self.report(east.span, Code::OutOfRange, "a leap by 0, 0 goes nowhere");
                }
                Action::Leap(self.pieces(pieces, scope), whole(east), whole(south))
            }
            ActionNode::Drop(pieces, heading) => {
                let pieces = self.pieces(pieces, scope);
                Action::Drop(pieces, self.heading(heading, scope))
            }
            ActionNode::Walk(pieces, spot) => {
                let pieces = self.pieces(pieces, scope);
                Action::Walk(pieces, self.spot(spot, scope))
            }
            ActionNode::Swap { one, other, if_run } => {
                let one = self.spot(one, scope);
                Action::Swap { one, other: self.spot(other, scope), if_run: *if_run }
            }
            ActionNode::Flood { from, into, eight } => {
                let from = self.spot(from, scope);
                let kind = self.kind_made(into);
                if kind != NO_KIND {
                    self.floods.push((kind, into.span));
                }
                Action::Flood { from, into: kind, eight: *eight }
            }
            ActionNode::Choose(spot) => Action::Choose(spot.as_ref().map(|spot| self.spot(spot, scope))),
            ActionNode::Rotate { pieces, clockwise, tries } => {
                let tries = tries.iter().map(|(east, south)| (whole(east), whole(south))).collect();
                Action::Rotate { pieces: self.pieces(pieces, scope), clockwise: *clockwise, tries }
            }
            ActionNode::LockActive => Action::LockActive,
        }
    }

    /// A kind that others turn into must be of their layer.
    fn one_layer(&mut self, name: &syntax::Name, kind: super::KindId, from: SetId) {
        if kind == NO_KIND {
            return;
        }
        for other in self.kinds_of(from) {
            if let Some((a, b)) = self.layers_of(kind, other)
                && a != b
            {
                let other = self.names.kinds[usize::from(other.0)].0.text.clone();
                let message = format!("`{other}` and `{}` are of different layers", name.text);
                let help = format!(
                    "a piece stays on its layer: in `kinds` put both on one, or `remove` the `{other}` and `place` a `{}`",
                    name.text
                );
                self.report_help(name.span, Code::LayerClash, message, &help);
                return;
            }
        }
    }

    fn in_match(&mut self, who: &syntax::Who, scope: &Scope) {
        let syntax::Who::Named(name) = who else {
            return;
        };
        let set = self.set_of_name(name);
        let sets = &self.names.sets;
        let Some(kinds) = sets.get(set.0 as usize) else {
            return;
        };
        let known: Vec<_> = scope.matched.iter().filter_map(|matched| sets.get(matched.0 as usize)).collect();
        if known.len() == scope.matched.len() && !known.iter().any(|matched| matched.meets(kinds)) {
            let mut names: Vec<String> = known.iter().map(|set| format!("`{}`", set.name)).collect();
            names.dedup();
            self.report_help(
                name.span,
                Code::NotInMatch,
                format!("`{}` is not among the matched pieces, {}", name.text, names.join(" and ")),
                format!("write `every {}` for all on the board", name.text),
            );
        }
    }

    fn pieces(&mut self, pieces: &syntax::Pieces, scope: &Scope) -> Pieces {
        match &pieces.node {
            PiecesNode::Who { every, who, on } => {
                let set = self.set(who);
                let on_set = on.as_ref().map(|on| self.on(set, on));
                let matched = !every && scope.sort.is_some();
                if matched { Pieces::Matched(set, on_set) } else { Pieces::Every(set, on_set) }
            }
            PiecesNode::Active => Pieces::Active,
            PiecesNode::Tapped => {
                self.touched_word(pieces.span, "tapped", scope);
                Pieces::Tapped
            }
            PiecesNode::Dragged => {
                self.touched_word(pieces.span, "dragged", scope);
                Pieces::Dragged
            }
            PiecesNode::Dropped => {
                self.touched_word(pieces.span, "dropped", scope);
                Pieces::Dropped
            }
            PiecesNode::Chosen => Pieces::Chosen,
        }
    }

    fn touched_word(&mut self, span: Span, word: &str, scope: &Scope) {
        let (fits, rule) = if word == "tapped" { (scope.tap, "`on tap`") } else { (scope.drag, "`on drag`") };
        if !fits {
            self.misplaced(span, word, &format!("to {rule}"));
        }
    }

    pub(super) fn spot(&mut self, spot: &syntax::Spot, scope: &Scope) -> Spot {
        match &spot.node {
            SpotNode::Here => {
                if !scope.here() {
                    self.misplaced(spot.span, "here", "to `into`, `off` and `when WHO` rules");
                }
                Spot::Here
            }
            SpotNode::Tapped => {
                self.touched_word(spot.span, "tapped", scope);
                Spot::Tapped
            }
            SpotNode::Dragged => {
                self.touched_word(spot.span, "dragged", scope);
                Spot::Dragged
            }
            SpotNode::Dropped => {
                self.touched_word(spot.span, "dropped", scope);
                Spot::Dropped
            }
            SpotNode::Chosen => Spot::Chosen,
            SpotNode::AheadOf(kind) => Spot::AheadOf(self.kind(kind)),
            SpotNode::The(kind) => Spot::The(self.kind(kind)),
            SpotNode::At(at) => Spot::At(Cell::new(whole(&at.0), whole(&at.1))),
        }
    }

    fn place_of(&mut self, place: &syntax::Place, scope: &Scope) -> Place {
        match place {
            syntax::Place::At(spot) => Place::At(self.spot(spot, scope)),
            syntax::Place::RandomEmpty { on, within } => {
                let on = on.as_ref().map(|who| self.set(who));
                Place::RandomEmpty(on, within.as_ref().map_or(Area::Map, Area::of))
            }
        }
    }

    fn heading(&mut self, heading: &syntax::HeadingWord, scope: &Scope) -> HeadingWord {
        match heading {
            syntax::HeadingWord::Compass(heading) => HeadingWord::Compass(*heading),
            syntax::HeadingWord::Ahead => HeadingWord::Relative(0),
            syntax::HeadingWord::Right => HeadingWord::Relative(2),
            syntax::HeadingWord::Back => HeadingWord::Relative(4),
            syntax::HeadingWord::Left => HeadingWord::Relative(6),
            syntax::HeadingWord::Toward(spot) => HeadingWord::Toward(self.spot(spot, scope)),
            syntax::HeadingWord::Along(spot) => HeadingWord::Along(self.spot(spot, scope)),
        }
    }

    pub(super) fn cond(&mut self, cond: &syntax::Cond, scope: &Scope) -> Cond {
        match cond {
            syntax::Cond::Or(conds) => Cond::Or(conds.iter().map(|cond| self.cond(cond, scope)).collect()),
            syntax::Cond::And(conds) => Cond::And(conds.iter().map(|cond| self.cond(cond, scope)).collect()),
            syntax::Cond::Not(cond) => Cond::Not(Box::new(self.cond(cond, scope))),
            syntax::Cond::Test(test) => match test {
                Test::Heading(heading, span) => {
                    if !scope.here() {
                        self.misplaced(*span, "heading", "to `into`, `off` and `when WHO` rules");
                    }
                    Cond::Heading(*heading)
                }
                Test::Blocked => Cond::Blocked,
                Test::Spot(spot) => Cond::Spot(self.spot(spot, scope)),
                Test::Beside(one, other) => {
                    let one = self.spot(one, scope);
                    Cond::Beside(one, self.spot(other, scope))
                }
                Test::Compare(left, symbol, right) => {
                    let left = self.sum(left, scope);
                    Cond::Compare(left, Compare::of(symbol), self.sum(right, scope))
                }
            },
        }
    }

    fn sum(&mut self, sum: &syntax::Sum, scope: &Scope) -> Sum {
        Sum(sum.0.iter().map(|(minus, term)| (*minus, self.term(term, scope))).collect())
    }

    fn term(&mut self, term: &syntax::Term, scope: &Scope) -> Term {
        match term {
            syntax::Term::Int(number) => Term::Int(whole(number)),
            syntax::Term::Counter(name) => Term::Counter(self.counter_read(name)),
            syntax::Term::Count { who, on, off, within } => {
                let set = self.set(who);
                let on = match (on, off) {
                    (Some(on), _) => Some((true, self.on(set, on))),
                    (None, Some(off)) => Some((false, self.set(off))),
                    (None, None) => None,
                };
                let within = match within.as_deref() {
                    None => CountIn::Area(Area::Map),
                    Some(Within::In(region)) => CountIn::Area(Area::of(region)),
                    Some(Within::At(spot)) => CountIn::Spot(self.spot(spot, scope)),
                };
                Term::Count { who: set, on, within }
            }
            syntax::Term::Matches(span) => {
                if !scope.lines() {
                    self.misplaced(*span, "matches", "to rows, columns, runs and patches");
                }
                Term::Matches
            }
            syntax::Term::Matched(span) => {
                if !scope.lines() {
                    self.misplaced(*span, "matched", "to rows, columns, runs and patches");
                }
                Term::Matched
            }
        }
    }
}
