//! Rules: which words may stand where, and which verbs fit which pieces.

use super::super::diagnostic::{Code, Span};
use super::super::model::{
    Action, HeadingWord, InputRule, Invariant, KindId, Match, Meeting, Met, Off, Outcome, Pieces, PlainVerb, RuleAt,
    Rulebook, SetId, Spot, TimerId, Touched, Trigger, Verb, When,
};
use super::super::syntax::{
    self, ActionNode, CommonNode, ControlWith, Event, On, Rule, RuleNode, SectionNode, VerbNode, What, Who,
};
use super::Checker;
use super::acts::{MatchSort, Scope};
use crate::input::{Input, Key};
use crate::limits::MOST_CLAUSE_PAIRS;
use crate::space::Heading;

impl Checker<'_> {
    /// All rules and controls, in the order of the file.
    pub(super) fn rules(&mut self, book: &mut Rulebook) {
        self.kind_layers = book.kinds.iter().map(|kind| kind.layer).collect();
        let sections = &self.parsed.sections;
        self.floating = !book.glides.is_empty()
            || sections.iter().any(|section| match &section.node {
                SectionNode::Rules(rules) => rules.iter().any(
                    |rule| matches!(&rule.node, RuleNode::Into { verb, .. } if matches!(verb.node, VerbNode::Ride)),
                ),
                _ => false,
            });
        for section in sections {
            match &section.node {
                SectionNode::Rules(rules) => {
                    for rule in rules {
                        self.rule(book, rule);
                    }
                }
                SectionNode::Control { who, with } => {
                    let at = self.rule_at(
                        Span::new(section.word.start, section.end),
                        Span::new(section.word.start, section.end),
                    );
                    self.control(book, who, with, &at);
                }
                _ => {}
            }
        }
    }

    fn rule_at(&self, head: Span, span: Span) -> RuleAt {
        RuleAt { line: self.lines.line(head.start) as u32, text: self.words(head), span }
    }

    fn control(&mut self, book: &mut Rulebook, who: &Who, with: &ControlWith, at: &RuleAt) {
        let set = self.set(who);
        let ControlWith::Keys { keys, steering, no_reverse } = with else {
            let walk = Action::Walk(Pieces::Every(set, None), Spot::Tapped);
            book.inputs.push(InputRule {
                trigger: Trigger::Tap(None),
                guard: None,
                actions: vec![vec![walk]],
                no_reverse: None,
                at: at.clone(),
            });
            return;
        };
        let arrows = || ["left", "right", "up", "down"].map(|key| Key(key.into()));
        let keys = keys.clone().unwrap_or_else(arrows);
        let headings = [Heading::West, Heading::East, Heading::North, Heading::South];
        for (key, heading) in keys.into_iter().zip(headings) {
            let act = if *steering {
                Action::Steer(set, heading)
            } else {
                let pieces = Pieces::Every(set, None);
                Action::Step { pieces, heading: HeadingWord::Compass(heading), times: 1 }
            };
            book.inputs.push(InputRule {
                trigger: Trigger::Key(key),
                guard: None,
                actions: vec![vec![act]],
                no_reverse: no_reverse.then_some((set, heading)),
                at: at.clone(),
            });
        }
    }

    fn rule(&mut self, book: &mut Rulebook, rule: &Rule) {
        let at = self.rule_at(rule.head, rule.span);
        match &rule.node {
            RuleNode::Into { who, what, guard, verb, effects } => {
                let asker = self.set(who);
                let met = self.met(what);
                self.pairs += self.kinds_of(asker).len();
                if self.pairs > MOST_CLAUSE_PAIRS {
                    let word = Span::new(rule.span.start, rule.head.end);
                    self.too_many(word, "pairs of a kind and a meeting clause", MOST_CLAUSE_PAIRS);
                    self.pairs = 0;
                }
                let mut matched = vec![asker];
                matched.extend(if let Met::Pieces(set) = met { Some(set) } else { None });
                let scope = Scope::of_match(MatchSort::Cells, matched, asker);
                let guard = guard.as_ref().map(|cond| self.cond(cond, &scope));
                let effects = self.effects(effects, &scope);
                self.verb_fits(who, what, verb, asker, met);
                let (verb, layers) = self.verb(verb, who, what);
                let words = self.words(rule.span);
                book.meetings.push(Meeting { who: asker, met, guard, verb, layers, effects, words, at });
            }
            RuleNode::Off { who, other, guard, effects } => {
                let (who, other) = (self.set(who), self.set(other));
                let scope = Scope::of_match(MatchSort::Cells, vec![who, other], who);
                let guard = guard.as_ref().map(|cond| self.cond(cond, &scope));
                let effects = self.effects(effects, &scope);
                book.offs.push(Off { who, other, guard, effects, at });
            }
            RuleNode::When { what, guard, effects } => self.when(book, what, guard.as_ref(), effects, at),
            RuleNode::Each { timer, guard, actions } => {
                let trigger = if timer.text == "turn" {
                    Trigger::EachTurn
                } else {
                    Trigger::Timer(TimerId(self.timer(timer).unwrap_or(0)))
                };
                let scope = Scope::plain();
                self.input_rule(book, trigger, guard.as_ref(), actions, &scope, at);
            }
            RuleNode::On { event: Event::Key(key), guard: None, actions } if named_input(actions).is_some() => {
                // Of two for one key the first counts.
                if book.aliases.iter().all(|(used, _)| used != key) {
                    book.aliases.extend(named_input(actions).map(|input| (key.clone(), input)));
                }
            }
            RuleNode::On { event, guard, actions } => {
                let (trigger, scope) = self.event(event);
                self.input_rule(book, trigger, guard.as_ref(), actions, &scope, at);
            }
            RuleNode::Outcome { win, cond, effects } => {
                let scope = Scope::plain();
                let cond = self.cond(cond, &scope);
                let effects = self.effects(effects, &scope);
                book.outcomes.push(Outcome { win: *win, cond, effects, at });
            }
            RuleNode::Invariant { always, cond } => {
                let cond = self.cond(cond, &Scope::plain());
                let at = self.rule_at(rule.span, rule.span);
                book.invariants.push(Invariant { always: *always, cond, at });
            }
        }
    }

    fn input_rule(
        &mut self,
        book: &mut Rulebook,
        trigger: Trigger,
        guard: Option<&syntax::Cond>,
        actions: &syntax::Actions,
        scope: &Scope,
        at: RuleAt,
    ) {
        let guard = guard.map(|cond| self.cond(cond, scope));
        let actions = actions.iter().map(|list| self.actions(list, scope)).collect();
        book.inputs.push(InputRule { trigger, guard, actions, no_reverse: None, at });
    }

    fn when(
        &mut self,
        book: &mut Rulebook,
        what: &syntax::Match,
        guard: Option<&syntax::Cond>,
        effects: &[syntax::Effect],
        at: RuleAt,
    ) {
        let (what, scope) = match what {
            syntax::Match::Full { row, of, ignoring } => {
                let of = self.set(of);
                let ignoring = ignoring.as_ref().map(|who| self.set(who));
                let sort = if *row { MatchSort::Rows } else { MatchSort::Columns };
                (Match::Full { row: *row, of, ignoring }, Scope::of_match(sort, vec![of], of))
            }
            syntax::Match::Run { length, of, rows, columns } => {
                let (length, of) = (self.length(length), self.set(of));
                let what = Match::Run { length, of, rows: *rows, columns: *columns };
                (what, Scope::of_match(MatchSort::Areas, vec![of], of))
            }
            syntax::Match::Patch { length, of } => {
                let (length, of) = (self.length(length), self.set(of));
                (Match::Patch { length, of }, Scope::of_match(MatchSort::Areas, vec![of], of))
            }
            syntax::Match::On { who, on } => {
                let first = self.set(who);
                let second = on.as_ref().map(|on| self.on(first, on));
                let matched = std::iter::once(first).chain(second).collect();
                (Match::On { who: first, on: second }, Scope::of_match(MatchSort::Cells, matched, first))
            }
        };
        let guard = guard.map(|cond| self.cond(cond, &scope));
        let effects = self.effects(effects, &scope);
        book.whens.push(When { what, guard, effects, at });
    }

    fn event(&mut self, event: &Event) -> (Trigger, Scope) {
        match event {
            Event::Start => (Trigger::Start, Scope::plain()),
            Event::Key(key) => (Trigger::Key(key.clone()), Scope::plain()),
            Event::Tap(what) => (Trigger::Tap(self.touched(what.as_ref())), Scope { tap: true, ..Scope::plain() }),
            Event::Drag(from, to) => {
                let trigger = Trigger::Drag(self.touched(from.as_ref()), self.touched(to.as_ref()));
                (trigger, Scope { drag: true, ..Scope::plain() })
            }
        }
    }

    fn touched(&mut self, what: Option<&What>) -> Touched {
        what.map(|what| self.met(what))
    }

    pub(super) fn met(&mut self, what: &What) -> Met {
        match what {
            What::Who(who) => Met::Pieces(self.set(who)),
            What::Edge => Met::Edge,
            What::Void => Met::Void,
        }
    }

    fn verb(&mut self, verb: &syntax::Verb, who: &Who, what: &What) -> (Verb, Option<bool>) {
        let built = match &verb.node {
            VerbNode::Shove { up_to, otherwise } => {
                let up_to = up_to.as_ref().map(|number| self.times(number));
                let otherwise = otherwise.as_ref().map(|verb| self.plain_verb(verb));
                Verb::Shove { up_to, otherwise }
            }
            _ => Verb::Plain(self.plain_verb(verb)),
        };
        let any = matches!(who, Who::Any) || matches!(what, What::Who(Who::Any));
        let plain = match built {
            Verb::Plain(verb) => Some(verb),
            Verb::Shove { otherwise, .. } => otherwise,
        };
        (built, plain.and_then(PlainVerb::same_layer).filter(|_| any))
    }

    fn plain_verb(&mut self, verb: &syntax::Verb) -> PlainVerb {
        match &verb.node {
            VerbNode::Stop | VerbNode::Shove { .. } => PlainVerb::Stop,
            VerbNode::Pass => PlainVerb::Pass,
            VerbNode::Swap => PlainVerb::Swap,
            VerbNode::Take => PlainVerb::Take,
            VerbNode::Perish => PlainVerb::Perish,
            VerbNode::Clash => PlainVerb::Clash,
            VerbNode::Bounce => PlainVerb::Bounce,
            VerbNode::Slide => PlainVerb::Slide,
            VerbNode::Ride => PlainVerb::Ride,
            VerbNode::Wrap => PlainVerb::Wrap,
            VerbNode::Warp(kind) => PlainVerb::Warp(self.kind(kind)),
        }
    }

    /// `verb-not-here` and `pass-same-layer`, for the verb and for the one behind `else`.
    fn verb_fits(&mut self, who: &Who, what: &What, verb: &syntax::Verb, asker: SetId, met: Met) {
        let fits = match what {
            What::Edge => matches!(verb.node, VerbNode::Stop | VerbNode::Wrap | VerbNode::Perish | VerbNode::Bounce),
            What::Void => matches!(verb.node, VerbNode::Stop | VerbNode::Perish | VerbNode::Bounce),
            What::Who(_) => !matches!(verb.node, VerbNode::Wrap),
        };
        let word = self.words(verb.span);
        if !fits {
            let against = match what {
                What::Edge => "against `edge` only `stop`, `wrap`, `perish` and `bounce` can stand",
                What::Void => "against `void` only `stop`, `perish` and `bounce` can stand",
                What::Who(_) => "`wrap` can stand against `edge` only",
            };
            self.report(verb.span, Code::VerbNotHere, format!("`{word}` cannot stand here: {against}"));
            return;
        }
        if let VerbNode::Shove { otherwise: Some(verb), .. } = &verb.node {
            self.verb_fits(who, what, verb, asker, met);
        }
        let same = match verb.node {
            VerbNode::Pass | VerbNode::Slide | VerbNode::Ride | VerbNode::Warp(_) => false,
            VerbNode::Swap => true,
            _ => return,
        };
        let (Who::Named(_), What::Who(Who::Named(_)), Met::Pieces(met)) = (who, what, met) else {
            return;
        };
        let occupants = self.kinds_of(met);
        for one in self.kinds_of(asker) {
            for other in &occupants {
                if let Some((a, b)) = self.layers_of(one, *other)
                    && (a == b) != same
                {
                    let names = [one, *other].map(|kind| self.names.kinds[usize::from(kind.0)].0.text.clone());
                    let (relation, needed) =
                        if same { ("of different layers", "one layer") } else { ("of one layer", "different layers") };
                    let message =
                        format!("`{word}` needs {needed}, and `{}` and `{}` are {relation}", names[0], names[1]);
                    self.report(verb.span, Code::PassSameLayer, message);
                    return;
                }
            }
        }
    }

    /// The layers of two kinds, where both are known.
    pub(super) fn layers_of(&self, one: KindId, other: KindId) -> Option<(u8, u8)> {
        Some((self.layer_of_kind(one)?, self.layer_of_kind(other)?))
    }

    /// The layer of a kind, where it is known.
    pub(super) fn layer_of_kind(&self, kind: KindId) -> Option<u8> {
        self.kind_layers.get(usize::from(kind.0)).copied().filter(|layer| *layer != u8::MAX)
    }

    /// The second half of `A on B`; both of one layer never share a cell, unless something glides or rides.
    pub(super) fn on(&mut self, one: SetId, on: &On) -> SetId {
        let other = self.set(&on.who);
        let (ones, others) = (self.kinds_of(one), self.kinds_of(other));
        if ones.is_empty() || others.is_empty() || self.floating {
            return other;
        }
        let layers: Vec<Option<u8>> = ones.iter().chain(&others).map(|kind| self.layer_of_kind(*kind)).collect();
        if layers[0].is_some() && layers.iter().all(|layer| *layer == layers[0]) {
            self.report_help(
                on.word,
                Code::NeverTogether,
                "both are of one layer, so they never share a cell",
                "give one of them another layer",
            );
        }
        other
    }
}

/// The input for which a key is another name, where that is all its rule does.
fn named_input(actions: &syntax::Actions) -> Option<Input> {
    let [list] = actions.as_slice() else { return None };
    let [only] = list.as_slice() else { return None };
    match &only.node {
        ActionNode::Common(CommonNode::Restart) => Some(Input::Restart),
        ActionNode::Common(CommonNode::Undo(_)) => Some(Input::Undo),
        ActionNode::Common(CommonNode::NextMap) => Some(Input::Next),
        _ => None,
    }
}
