//! Rules, conditions, effects and actions.

use super::super::diagnostic::{Code, Diagnostic, Span};
use super::super::lexer::TokenKind;
use super::super::syntax::{
    Action, ActionNode, Actions, CommonNode, Cond, Doing, Effect, EffectNode, Event, HeadingWord, LineAt, Match, On,
    Pieces, PiecesNode, Place, Region, Rule, RuleNode, Spawned, Spot, SpotNode, Sum, Term, Test, TurnTo, Verb,
    VerbNode, What, Who, Within,
};
use super::{Parse, Parser};
use crate::limits::DEEPEST_CONDITION;
use crate::space::Heading;

impl Parser<'_> {
    pub(super) fn rule(&mut self) -> Parse<Rule> {
        let start = self.here();
        let mut head_end = start.end;
        let node = match self.accept_one_of(&["when", "each", "on", "win", "lose", "always", "never"]) {
            Some("when") => {
                let what = self.match_of()?;
                head_end = self.behind();
                let guard = self.guard()?;
                RuleNode::When { what, guard, effects: self.effects()? }
            }
            Some("each") => {
                let timer = self.expect_name("the name of a timer or `turn`")?;
                head_end = self.behind();
                let guard = self.guard()?;
                RuleNode::Each { timer, guard, actions: self.actions()? }
            }
            Some("on") => {
                let event = self.event()?;
                head_end = self.behind();
                let guard = self.guard()?;
                RuleNode::On { event, guard, actions: self.actions()? }
            }
            Some(word @ ("win" | "lose")) => {
                self.expect_word("when")?;
                let cond = self.cond()?;
                head_end = self.behind();
                let effects = if self.accept_symbol(":") { self.effect_list()? } else { Vec::new() };
                RuleNode::Outcome { win: word == "win", cond, effects }
            }
            Some(word) => RuleNode::Invariant { always: word == "always", cond: self.cond()? },
            None => self.encounter(&mut head_end)?,
        };
        let head = Span::new(start.start, head_end);
        Ok(Rule { node, span: Span::new(start.start, self.behind()), head })
    }

    fn encounter(&mut self, head_end: &mut usize) -> Parse<RuleNode> {
        let who = self.who()?;
        if self.expect_one_of(&["into", "off"])? == "into" {
            let what = self.what()?;
            *head_end = self.behind();
            let guard = self.guard()?;
            self.expect_symbol(":")?;
            let verb = self.verb()?;
            let effects = if self.accept_symbol(",") { self.effect_list()? } else { Vec::new() };
            return Ok(RuleNode::Into { who, what, guard, verb, effects });
        }
        let other = self.who()?;
        *head_end = self.behind();
        let guard = self.guard()?;
        Ok(RuleNode::Off { who, other, guard, effects: self.effects()? })
    }

    fn guard(&mut self) -> Parse<Option<Cond>> {
        Ok(if self.accept_word("if") { Some(self.cond()?) } else { None })
    }

    fn effects(&mut self) -> Parse<Vec<Effect>> {
        self.expect_symbol(":")?;
        self.effect_list()
    }

    fn effect_list(&mut self) -> Parse<Vec<Effect>> {
        let mut effects = vec![self.effect()?];
        while self.accept_symbol(",") {
            effects.push(self.effect()?);
        }
        effects.shrink_to_fit();
        Ok(effects)
    }

    fn actions(&mut self) -> Parse<Actions> {
        self.expect_symbol(":")?;
        let mut lists = Vec::new();
        loop {
            let mut list = vec![self.action()?];
            while self.accept_symbol(",") {
                list.push(self.action()?);
            }
            list.shrink_to_fit();
            lists.push(list);
            if !self.accept_word("else") {
                lists.shrink_to_fit();
                return Ok(lists);
            }
        }
    }

    fn event(&mut self) -> Parse<Event> {
        Ok(match self.expect_one_of(&["start", "key", "tap", "drag"])? {
            "start" => Event::Start,
            "key" => Event::Key(self.key()?),
            "tap" => Event::Tap(self.maybe_what()),
            _ => {
                let from = self.maybe_what();
                let to = if self.accept_word("to") { Some(self.what()?) } else { None };
                Event::Drag(from, to)
            }
        })
    }

    fn match_of(&mut self) -> Parse<Match> {
        Ok(match self.accept_one_of(&["row", "column", "run", "patch"]) {
            Some(line @ ("row" | "column")) => {
                self.expect_word("full")?;
                self.expect_word("of")?;
                let of = self.who()?;
                let ignoring = if self.accept_word("ignoring") { Some(self.who()?) } else { None };
                Match::Full { row: line == "row", of, ignoring }
            }
            Some(shape) => {
                self.expect_word("of")?;
                let length = self.expect_int()?;
                self.expect_word("same")?;
                let of = self.who()?;
                if shape == "patch" {
                    return Ok(Match::Patch { length, of });
                }
                self.expect_word("in")?;
                let lines = self.expect_one_of(&["rows", "columns", "both"])?;
                Match::Run { length, of, rows: lines != "columns", columns: lines != "rows" }
            }
            None => {
                let who = self.who()?;
                Match::On { who, on: self.on_who()? }
            }
        })
    }

    fn verb(&mut self) -> Parse<Verb> {
        let span = self.here();
        if !self.accept_word("shove") {
            return self.plain_verb();
        }
        let up_to = if self.accept_word("up") {
            self.expect_word("to")?;
            Some(self.expect_int()?)
        } else {
            None
        };
        let otherwise = if self.accept_word("else") { Some(Box::new(self.plain_verb()?)) } else { None };
        Ok(Verb { node: VerbNode::Shove { up_to, otherwise }, span })
    }

    fn plain_verb(&mut self) -> Parse<Verb> {
        let span = self.here();
        const VERBS: [&str; 11] =
            ["stop", "pass", "swap", "take", "perish", "clash", "bounce", "slide", "ride", "wrap", "warp"];
        let node = match self.expect_one_of(&VERBS)? {
            "stop" => VerbNode::Stop,
            "pass" => VerbNode::Pass,
            "swap" => VerbNode::Swap,
            "take" => VerbNode::Take,
            "perish" => VerbNode::Perish,
            "clash" => VerbNode::Clash,
            "bounce" => VerbNode::Bounce,
            "slide" => VerbNode::Slide,
            "ride" => VerbNode::Ride,
            "wrap" => VerbNode::Wrap,
            _ => VerbNode::Warp(self.expect_name("the name of a kind")?),
        };
        Ok(Verb { node, span })
    }

    const COMMON: [&'static str; 16] = [
        "remove", "turn", "place", "spawn", "add", "set", "grow", "fall", "refill", "quicken", "signal", "win", "lose",
        "restart", "undo", "next",
    ];

    fn effect(&mut self) -> Parse<Effect> {
        let word = self.here();
        let node = if let Some(found) = self.accept_one_of(&Self::COMMON) {
            EffectNode::Common(self.common(found, word)?)
        } else {
            match self.expect_one_of(&["become", "clear", "drop"])? {
                "become" => EffectNode::Become(self.expect_name("the name of a kind")?),
                "clear" => EffectNode::Clear,
                _ => EffectNode::DropRows(match self.expect_one_of(&["above", "below", "left-of", "right-of"])? {
                    "above" => Heading::South,
                    "below" => Heading::North,
                    "left-of" => Heading::East,
                    _ => Heading::West,
                }),
            }
        };
        Ok(Doing { node, span: Span::new(word.start, self.behind()), word })
    }

    fn action(&mut self) -> Parse<Action> {
        const ACTIONS: [&str; 9] = ["step", "leap", "drop", "walk", "swap", "flood", "choose", "rotate", "lock"];
        let word = self.here();
        let node = if let Some(found) = self.accept_one_of(&Self::COMMON) {
            ActionNode::Common(self.common(found, word)?)
        } else {
            let found = self.expect_one_of(&ACTIONS)?;
            self.own_action(found)?
        };
        Ok(Doing { node, span: Span::new(word.start, self.behind()), word })
    }

    fn common(&mut self, word: &str, word_at: Span) -> Parse<CommonNode> {
        Ok(match word {
            "remove" => CommonNode::Remove(self.pieces()?),
            "turn" => {
                let pieces = self.pieces()?;
                let to = if self.accept_word("into") {
                    TurnTo::Kind(self.expect_name("the name of a kind")?)
                } else {
                    TurnTo::Heading(self.heading()?)
                };
                CommonNode::Turn(pieces, to)
            }
            "place" => {
                let kind = self.expect_name("the name of a kind")?;
                CommonNode::Place(kind, self.place()?)
            }
            "spawn" => {
                let what = if self.accept_word("shape") {
                    if self.accept_word("any") {
                        Spawned::Shape(None)
                    } else {
                        Spawned::Shape(Some(self.expect_name("the name of a shape")?))
                    }
                } else {
                    Spawned::Kind(self.expect_name("the name of a kind")?)
                };
                CommonNode::Spawn(what, self.place()?)
            }
            "add" => {
                let sum = self.sum()?;
                self.expect_word("to")?;
                CommonNode::Add(sum, self.expect_name("the name of a counter")?)
            }
            "set" => {
                let counter = self.expect_name("the name of a counter")?;
                self.expect_word("to")?;
                CommonNode::Set(counter, self.sum()?)
            }
            "grow" => CommonNode::Grow(self.expect_int()?),
            "fall" => {
                let who = self.who()?;
                CommonNode::Fall(who, self.compass()?)
            }
            "refill" => {
                let who = self.who()?;
                self.expect_word("at")?;
                CommonNode::Refill(who, self.straight()?)
            }
            "quicken" => self.quicken()?,
            "signal" => CommonNode::Signal(self.expect_text()?.text),
            "win" => CommonNode::Win,
            "lose" => CommonNode::Lose,
            "restart" => CommonNode::Restart,
            "undo" => CommonNode::Undo(word_at),
            _ => {
                self.expect_word("map")?;
                CommonNode::NextMap
            }
        })
    }

    fn quicken(&mut self) -> Parse<CommonNode> {
        let timer = self.expect_name("the name of a timer")?;
        self.expect_word("by")?;
        let by = self.share()?;
        let least = if self.accept_word("to") {
            self.expect_word("at")?;
            self.expect_word("least")?;
            Some(self.beat()?)
        } else {
            None
        };
        Ok(CommonNode::Quicken { timer, by, least })
    }

    fn own_action(&mut self, word: &str) -> Parse<ActionNode> {
        Ok(match word {
            "step" => {
                let pieces = self.pieces()?;
                let heading = self.heading()?;
                let times = if self.accept_word("by") { Some(self.expect_int()?) } else { None };
                ActionNode::Step(pieces, heading, times)
            }
            "leap" => {
                let pieces = self.pieces()?;
                self.expect_word("by")?;
                let east = self.expect_int()?;
                self.expect_symbol(",")?;
                ActionNode::Leap(pieces, east, self.expect_int()?)
            }
            "drop" => {
                let pieces = self.pieces()?;
                ActionNode::Drop(pieces, self.heading()?)
            }
            "walk" => {
                let pieces = self.pieces()?;
                self.expect_word("to")?;
                ActionNode::Walk(pieces, self.spot()?)
            }
            "swap" => {
                let one = self.spot()?;
                self.expect_word("with")?;
                let other = self.spot()?;
                let if_run = self.accept_word("if");
                if if_run {
                    self.expect_word("it")?;
                    self.expect_word("makes")?;
                    self.expect_word("run")?;
                }
                ActionNode::Swap { one, other, if_run }
            }
            "flood" => {
                self.expect_word("from")?;
                let from = self.spot()?;
                self.expect_word("into")?;
                let into = self.expect_name("the name of a kind")?;
                ActionNode::Flood { from, into, eight: self.accept_word("8-way") }
            }
            "choose" => {
                if self.accept_word("nothing") {
                    ActionNode::Choose(None)
                } else {
                    ActionNode::Choose(Some(self.spot()?))
                }
            }
            "rotate" => {
                let pieces = self.pieces()?;
                let clockwise = self.expect_one_of(&["clockwise", "counterclockwise"])? == "clockwise";
                let mut tries = Vec::new();
                while self.accept_word("try") {
                    let east = self.expect_int()?;
                    self.expect_symbol(",")?;
                    tries.push((east, self.expect_int()?));
                }
                tries.shrink_to_fit();
                ActionNode::Rotate { pieces, clockwise, tries }
            }
            _ => {
                self.expect_word("active")?;
                ActionNode::LockActive
            }
        })
    }

    /// `any` or a name.
    pub(super) fn who(&mut self) -> Parse<Who> {
        if self.accept_word("any") {
            return Ok(Who::Any);
        }
        Ok(Who::Named(self.expect_name("the name of a kind or group")?))
    }

    /// `any`, a name, `edge` or `void`.
    pub(super) fn what(&mut self) -> Parse<What> {
        match self.maybe_what() {
            Some(what) => Ok(what),
            None => Ok(What::Who(self.who()?)),
        }
    }

    fn on_who(&mut self) -> Parse<Option<On>> {
        let word = self.here();
        Ok(if self.accept_word("on") { Some(On { word, who: self.who()? }) } else { None })
    }

    fn maybe_what(&mut self) -> Option<What> {
        match self.accept_one_of(&["any", "edge", "void"]) {
            Some("any") => Some(What::Who(Who::Any)),
            Some("edge") => Some(What::Edge),
            Some(_) => Some(What::Void),
            None => self.accept_name("the name of a kind or group").map(|name| What::Who(Who::Named(name))),
        }
    }

    fn pieces(&mut self) -> Parse<Pieces> {
        let span = self.here();
        let node = match self.accept_one_of(&["active", "tapped", "dragged", "dropped", "chosen"]) {
            Some("active") => PiecesNode::Active,
            Some("tapped") => PiecesNode::Tapped,
            Some("dragged") => PiecesNode::Dragged,
            Some("dropped") => PiecesNode::Dropped,
            Some(_) => PiecesNode::Chosen,
            None => {
                let every = self.accept_word("every");
                let who = self.who()?;
                PiecesNode::Who { every, who, on: self.on_who()? }
            }
        };
        Ok(Pieces { node, span: Span::new(span.start, self.behind()) })
    }

    const SPOTS: [&'static str; 8] = ["here", "tapped", "dragged", "dropped", "chosen", "ahead", "the", "column"];

    fn spot(&mut self) -> Parse<Spot> {
        match self.maybe_spot()? {
            Some(spot) => Ok(spot),
            None => Err(self.unexpected()),
        }
    }

    fn maybe_spot(&mut self) -> Parse<Option<Spot>> {
        let span = self.here();
        let node = match self.accept_one_of(&Self::SPOTS) {
            None => return Ok(None),
            Some("here") => SpotNode::Here,
            Some("tapped") => SpotNode::Tapped,
            Some("dragged") => SpotNode::Dragged,
            Some("dropped") => SpotNode::Dropped,
            Some("chosen") => SpotNode::Chosen,
            Some("ahead") => {
                self.expect_word("of")?;
                SpotNode::AheadOf(self.expect_name("the name of a kind")?)
            }
            Some("the") => SpotNode::The(self.expect_name("the name of a kind")?),
            Some(_) => {
                let column = self.expect_int()?;
                self.expect_word("row")?;
                SpotNode::At(Box::new((column, self.expect_int()?)))
            }
        };
        Ok(Some(Spot { node, span: Span::new(span.start, self.behind()) }))
    }

    fn place(&mut self) -> Parse<Place> {
        let span = self.here();
        if self.expect_one_of(&["here", "at"])? == "here" {
            return Ok(Place::At(Spot { node: SpotNode::Here, span }));
        }
        if !self.accept_word("random") {
            return Ok(Place::At(self.spot()?));
        }
        self.expect_word("empty")?;
        let on = if self.accept_word("on") { Some(self.who()?) } else { None };
        let within = if self.accept_word("in") { Some(self.region()?) } else { None };
        Ok(Place::RandomEmpty { on, within })
    }

    fn region(&mut self) -> Parse<Region> {
        let line = self.expect_one_of(&["row", "column", "map"])?;
        if line == "map" {
            return Ok(Region::Map);
        }
        let at = match self.accept_one_of(&["first", "last"]) {
            Some("first") => LineAt::First,
            Some(_) => LineAt::Last,
            None => LineAt::Number(self.expect_int()?),
        };
        Ok(Region::Line { row: line == "row", at })
    }

    fn heading(&mut self) -> Parse<HeadingWord> {
        if let Some(heading) = self.accept_one_of(&Heading::ALL.map(Heading::word)).and_then(Heading::from_word) {
            return Ok(HeadingWord::Compass(heading));
        }
        Ok(match self.expect_one_of(&["ahead", "back", "left", "right", "toward", "along"])? {
            "ahead" => HeadingWord::Ahead,
            "back" => HeadingWord::Back,
            "left" => HeadingWord::Left,
            "right" => HeadingWord::Right,
            "along" => HeadingWord::Along(self.spot()?),
            _ => HeadingWord::Toward(self.spot()?),
        })
    }

    /// A condition: `or` of `and` of tests.
    pub(super) fn cond(&mut self) -> Parse<Cond> {
        let mut any = vec![self.both()?];
        while self.accept_word("or") {
            any.push(self.both()?);
        }
        any.shrink_to_fit();
        Ok(if any.len() == 1 { any.remove(0) } else { Cond::Or(any) })
    }

    fn both(&mut self) -> Parse<Cond> {
        let mut all = vec![self.one()?];
        while self.accept_word("and") {
            all.push(self.one()?);
        }
        all.shrink_to_fit();
        Ok(if all.len() == 1 { all.remove(0) } else { Cond::And(all) })
    }

    fn one(&mut self) -> Parse<Cond> {
        let mut not = false;
        while self.accept_word("not") {
            not = !not;
        }
        let span = self.here();
        let cond = if self.accept_symbol("(") {
            self.depth += 1;
            if self.depth > DEEPEST_CONDITION {
                let message = format!("more than {DEEPEST_CONDITION} parentheses inside each other are too deep");
                return Err(Box::new(
                    Diagnostic::new(span, Code::TooDeep, message).help("split the rule into several"),
                ));
            }
            let cond = self.cond()?;
            self.expect_symbol(")")?;
            self.depth -= 1;
            cond
        } else {
            Cond::Test(self.test()?)
        };
        Ok(if not { Cond::Not(Box::new(cond)) } else { cond })
    }

    fn test(&mut self) -> Parse<Test> {
        let span = self.here();
        if self.accept_word("heading") {
            return Ok(Test::Heading(self.compass()?, span));
        }
        if self.accept_word("blocked") {
            return Ok(Test::Blocked);
        }
        if let Some(spot) = self.maybe_spot()? {
            return Ok(if self.accept_word("beside") { Test::Beside(spot, self.spot()?) } else { Test::Spot(spot) });
        }
        let left = self.sum()?;
        for symbol in ["=", "!=", "<", "<=", ">", ">="] {
            if self.accept_symbol(symbol) {
                return Ok(Test::Compare(left, symbol, self.sum()?));
            }
        }
        Err(self.unexpected())
    }

    fn sum(&mut self) -> Parse<Sum> {
        let mut terms = vec![(false, self.term()?)];
        loop {
            let minus = !self.accept_symbol("+");
            if minus && !self.accept_symbol("-") {
                terms.shrink_to_fit();
                return Ok(Sum(terms));
            }
            terms.push((minus, self.term()?));
        }
    }

    fn term(&mut self) -> Parse<Term> {
        let span = self.here();
        if self.peek().is_some_and(|token| token.kind == TokenKind::Number) {
            return Ok(Term::Int(self.expect_int()?));
        }
        self.expected.push("a whole number");
        Ok(match self.accept_one_of(&["count", "matches", "matched"]) {
            Some("matches") => Term::Matches(span),
            Some("matched") => Term::Matched(span),
            Some(_) => {
                let who = self.who()?;
                let on = self.on_who()?;
                let off = if on.is_none() && self.accept_word("off") { Some(self.who()?) } else { None };
                Term::Count { who, on: on.map(Box::new), off: off.map(Box::new), within: self.within()?.map(Box::new) }
            }
            None => Term::Counter(self.accept_name("the name of a counter").ok_or_else(|| self.unexpected())?),
        })
    }

    fn within(&mut self) -> Parse<Option<Within>> {
        let span = self.here();
        Ok(match self.accept_one_of(&["here", "at", "in"]) {
            None => None,
            Some("here") => Some(Within::At(Spot { node: SpotNode::Here, span })),
            Some("at") => Some(Within::At(self.spot()?)),
            Some(_) => Some(Within::In(self.region()?)),
        })
    }
}
