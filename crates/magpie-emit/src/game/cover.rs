//! What emitted code does not cover, told line by line; and the rulebook without it.

use magpie_core::rulebook::{
    Action, Common, Cond, CounterRead, Effect, HeadingWord, Pieces, PlainVerb, Rulebook, Spot, Sum, Term, Trigger,
};

/// A statement of a rulebook that needs something that is not covered.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Uncovered {
    /// Its line, from 1.
    pub line: u32,
    /// What is not covered.
    pub what: &'static str,
}

const CLOCK: &str = "`clock`";
const SHAPES: &str = "a shape";
const RIDE: &str = "`ride`";

fn of_sum(sum: &Sum) -> Option<&'static str> {
    let reads = |(_, term): &(bool, Term)| matches!(term, Term::Counter(CounterRead::Clock));
    sum.0.iter().any(reads).then_some(CLOCK)
}

fn of_cond(cond: &Cond) -> Option<&'static str> {
    match cond {
        Cond::Or(all) | Cond::And(all) => all.iter().find_map(of_cond),
        Cond::Not(inner) => of_cond(inner),
        Cond::Compare(left, _, right) => of_sum(left).or_else(|| of_sum(right)),
        Cond::Heading(_) | Cond::Blocked | Cond::Spot(_) | Cond::Beside(..) => None,
    }
}

const fn of_pieces(pieces: &Pieces) -> Option<&'static str> {
    match pieces {
        Pieces::Active => Some(SHAPES),
        Pieces::Every(..)
        | Pieces::Matched(..)
        | Pieces::Tapped
        | Pieces::Dragged
        | Pieces::Dropped
        | Pieces::Chosen => None,
    }
}

fn of_common(common: &Common) -> Option<&'static str> {
    match common {
        Common::Remove(pieces) | Common::TurnHeading(pieces, _) | Common::TurnInto(pieces, _) => of_pieces(pieces),
        Common::SpawnShape(..) => Some(SHAPES),
        Common::Quicken { .. } => Some("a timer"),
        Common::Add(sum, _) | Common::Set(_, sum) => of_sum(sum),
        Common::Place(..)
        | Common::SpawnKind(..)
        | Common::Grow(_)
        | Common::Fall(..)
        | Common::Refill(..)
        | Common::Signal(_)
        | Common::Win
        | Common::Lose
        | Common::Restart
        | Common::NextMap => None,
    }
}

fn of_effects(effects: &[Effect]) -> Option<&'static str> {
    effects.iter().find_map(|effect| match effect {
        Effect::Common(common) => of_common(common),
        Effect::Become(_) | Effect::Clear | Effect::DropRows(_) => None,
    })
}

fn of_action(action: &Action) -> Option<&'static str> {
    match action {
        Action::Common(common) => of_common(common),
        Action::Step { pieces, .. } | Action::Leap(pieces, ..) | Action::Drop(pieces, _) | Action::Walk(pieces, _) => {
            of_pieces(pieces)
        }
        Action::Rotate { .. } | Action::LockActive => Some(SHAPES),
        Action::Swap { .. } | Action::Flood { .. } | Action::Choose(_) | Action::Steer(..) => None,
    }
}

const fn of_verb(verb: PlainVerb) -> bool {
    matches!(verb, PlainVerb::Ride)
}

/// The rulebook without what is not covered, and what that is.
pub fn covered(book: &Rulebook, source: &str) -> (Rulebook, Vec<Uncovered>) {
    let mut out = book.clone();
    let mut found = Vec::new();
    for (number, line) in source.lines().enumerate() {
        let word =
            line.trim_start_matches('\u{feff}').split(|c: char| !c.is_ascii_lowercase()).next().unwrap_or_default();
        let what = match word {
            "glide" => "`glide`",
            "shapes" => "`shapes`",
            "timer" => "`timer`",
            _ => continue,
        };
        found.push(Uncovered { line: number as u32 + 1, what });
    }
    let mut keep = |line: u32, what: Option<&'static str>| {
        found.extend(what.map(|what| Uncovered { line, what }));
        what.is_none()
    };
    out.meetings.retain(|rule| {
        let rides = rule.verb.is_or_else(of_verb).then_some(RIDE);
        let what = rides.or_else(|| rule.guard.as_ref().and_then(of_cond)).or_else(|| of_effects(&rule.effects));
        keep(rule.at.line, what)
    });
    out.offs.retain(|rule| {
        let what = rule.guard.as_ref().and_then(of_cond).or_else(|| of_effects(&rule.effects));
        keep(rule.at.line, what)
    });
    out.whens.retain(|rule| {
        let what = rule.guard.as_ref().and_then(of_cond).or_else(|| of_effects(&rule.effects));
        keep(rule.at.line, what)
    });
    let mut controls: Vec<u32> = Vec::new();
    out.inputs.retain(|rule| {
        let timer = matches!(rule.trigger, Trigger::Timer(_)).then_some("a timer");
        let what = timer
            .or_else(|| rule.guard.as_ref().and_then(of_cond))
            .or_else(|| rule.actions.iter().flatten().find_map(of_action));
        // A control is one statement and several rules.
        if what.is_some() && controls.contains(&rule.at.line) {
            return false;
        }
        if what.is_some() {
            controls.push(rule.at.line);
        }
        keep(rule.at.line, what)
    });
    out.outcomes.retain(|rule| keep(rule.at.line, of_cond(&rule.cond).or_else(|| of_effects(&rule.effects))));
    out.invariants.retain(|rule| keep(rule.at.line, of_cond(&rule.cond)));
    out.shapes.clear();
    out.timers.clear();
    out.glides.clear();
    found.sort_by_key(|uncovered| uncovered.line);
    (out, found)
}

/// Whether some rule asks for a way.
pub fn walks(book: &Rulebook) -> bool {
    let along = |word: &HeadingWord| matches!(word, HeadingWord::Along(_));
    let common = book.commons().any(|common| matches!(common, Common::TurnHeading(_, word) if along(word)));
    common
        || book.actions().any(|action| match action {
            Action::Walk(..) => true,
            Action::Step { heading, .. } | Action::Drop(_, heading) => along(heading),
            Action::Common(_)
            | Action::Leap(..)
            | Action::Swap { .. }
            | Action::Flood { .. }
            | Action::Choose(_)
            | Action::Rotate { .. }
            | Action::LockActive
            | Action::Steer(..) => false,
        })
}

/// Whether some place of a rule is the chosen cell.
pub fn speaks_of_chosen(book: &Rulebook) -> bool {
    book.actions().any(|action| matches!(action, Action::Choose(_) | Action::Swap { one: Spot::Chosen, .. }))
        || format!("{:?}", (&book.inputs, &book.meetings, &book.offs, &book.whens, &book.outcomes, &book.invariants))
            .contains("Chosen")
}

/// Whether some rule asks whether a spawn was refused.
pub fn speaks_of_blocked(book: &Rulebook) -> bool {
    fn of(cond: &Cond) -> bool {
        match cond {
            Cond::Or(all) | Cond::And(all) => all.iter().any(of),
            Cond::Not(inner) => of(inner),
            Cond::Blocked => true,
            Cond::Heading(_) | Cond::Spot(_) | Cond::Beside(..) | Cond::Compare(..) => false,
        }
    }
    let guards = book.meetings.iter().map(|rule| &rule.guard).chain(book.offs.iter().map(|rule| &rule.guard));
    let guards =
        guards.chain(book.whens.iter().map(|rule| &rule.guard)).chain(book.inputs.iter().map(|rule| &rule.guard));
    guards.flatten().any(of)
        || book.outcomes.iter().any(|rule| of(&rule.cond))
        || book.invariants.iter().any(|rule| of(&rule.cond))
}
