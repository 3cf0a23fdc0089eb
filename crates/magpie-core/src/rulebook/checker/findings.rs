//! Warnings: what can be played but is probably not what was meant.

use super::super::diagnostic::{Code, Span};
use super::super::model::{
    Common, Cond, CounterId, Effect, KindSet, Match, Met, Pieces, Place, Rulebook, SetId, Spot, Term,
};
use super::super::syntax::{RuleNode, SectionNode};
use super::Checker;
use std::borrow::Cow;
use std::collections::{BTreeMap, HashSet};

/// How many 64-kind words the search for unreachable clauses may look at before it gives up.
const WORK: usize = 40_000_000;

/// Which counters are read and which are set.
#[derive(Default)]
pub struct Used {
    read: BTreeMap<u16, Span>,
    set: HashSet<u16>,
}

impl Used {
    pub fn read(&mut self, counter: CounterId, span: Span) {
        let first = self.read.entry(counter.0).or_insert(span);
        if span.start < first.start {
            *first = span;
        }
    }

    pub fn set(&mut self, counter: CounterId) {
        self.set.insert(counter.0);
    }
}

impl Checker<'_> {
    pub(super) fn findings(&mut self, book: &mut Rulebook) {
        self.never_made(book);
        self.counters_never_set(book);
        self.unreachable_meetings(book);
        self.feeding(book);
        self.floods_under(book);
        self.never_reached(book);
    }

    fn never_made(&mut self, book: &Rulebook) {
        // A map that could not be read may have held anything.
        let unread = [Code::MapFile, Code::MapTooLarge, Code::DrawingMissing];
        if unread.iter().any(|code| self.found.has(*code)) {
            return;
        }
        for at in 0..book.kinds.len() {
            let (name, broken) = self.names.kinds[at].clone();
            if !self.made[at] && !broken {
                let message = format!("no map and no rule ever makes a `{}`", name.text);
                self.report_help(name.span, Code::KindNeverMade, message, "draw one, or leave the kind out");
            }
        }
    }

    /// Floods on a layer below what looks like their walls.
    fn floods_under(&mut self, book: &Rulebook) {
        let floods = std::mem::take(&mut self.floods);
        if floods.is_empty() {
            return;
        }
        let fixed = book.fixed_kinds();
        // The highest of all tells of every flood whether there is one above it.
        let walls = (0..book.kinds.len()).filter(|at| fixed[*at] && self.made[*at] && !self.names.kinds[*at].1);
        let Some(at) = walls.rev().max_by_key(|at| book.kinds[*at].layer) else { return };
        for (kind, span) in floods {
            if book.kinds[at].layer > book.kind(kind).layer {
                let (wall, flood) = (&book.kinds[at].name, &book.kind(kind).name);
                let message = format!("`{flood}` floods under `{wall}`, which is of a higher layer and never moves");
                let help =
                    format!("a flood stops at pieces of its own layer: put `{flood}` on that of `{wall}` in `kinds`");
                self.report_help(span, Code::FloodUnder, message, help);
            }
        }
    }

    fn counters_never_set(&mut self, book: &Rulebook) {
        let never: Vec<(u16, Span)> =
            self.used.read.iter().filter(|(id, _)| !self.used.set.contains(id)).map(|(id, at)| (*id, *at)).collect();
        for (id, span) in never {
            let Some(counter) = book.counters.get(usize::from(id)) else {
                continue;
            };
            let message = format!("no rule adds to or sets `{}`: it stays {}", counter.name, counter.start);
            self.report(span, Code::CounterNeverSet, message);
        }
    }

    /// Clauses all of whose pairs are decided by clauses before them.
    fn unreachable_meetings(&mut self, book: &Rulebook) {
        let mut work = 0;
        let sides = book.meetings.iter().map(|meeting| {
            let pieces = if let Met::Pieces(set) = meeting.met { Some(set) } else { None };
            let place = match meeting.met {
                Met::Pieces(_) => 0,
                Met::Edge => 1,
                Met::Void => 2,
            };
            (meeting.who, pieces, place, meeting.guard.is_some(), meeting.layers, &meeting.at)
        });
        let offs = book.offs.iter().map(|off| (off.who, Some(off.other), 3, off.guard.is_some(), None, &off.at));
        let mut decided: Vec<Vec<Vec<u64>>> = vec![vec![Vec::new(); book.kinds.len()]; 4];
        let mut unreachable = Vec::new();
        for (who, met, place, guarded, layers, at) in sides.chain(offs) {
            let askers = book.set(who);
            let mut open = false;
            for asker in askers.iter() {
                let layer = |kind: super::KindId| book.kind(kind).layer;
                let words: Cow<[u64]> = match met.and_then(|set| book.sets.get(set.0 as usize)) {
                    None => Cow::Borrowed(&[1]),
                    Some(set) => match layers {
                        None => Cow::Borrowed(set.words()),
                        Some(same) => {
                            let fit = set.iter().filter(|kind| (layer(*kind) == layer(asker)) == same);
                            Cow::Owned(KindSet::new("", fit).words().to_vec())
                        }
                    },
                };
                work += words.len() + 1;
                let known = &mut decided[place][usize::from(asker.0)];
                if known.len() < words.len() {
                    known.resize(words.len(), 0);
                }
                open |= words.iter().zip(known.iter()).any(|(new, old)| new & !old != 0);
                if !guarded {
                    known.iter_mut().zip(words.iter()).for_each(|(old, new)| *old |= new);
                }
            }
            if work > WORK {
                return;
            }
            if !open && askers.iter().next().is_some() {
                unreachable.push(at.span);
            }
        }
        for span in unreachable {
            let word = self.source[span.start..].split([' ', '\t', '\r', '\n']).next().unwrap_or_default();
            let span = Span::new(span.start, span.start + word.len());
            self.report_help(
                span,
                Code::UnreachableClause,
                "the clauses above decide every meeting this one is about",
                "move it up, or leave it out",
            );
        }
    }

    /// `when` rules that nothing ends.
    fn feeding(&mut self, book: &Rulebook) {
        let spans = self.parsed.sections.iter().flat_map(|section| match &section.node {
            SectionNode::Rules(rules) => rules.as_slice(),
            _ => &[],
        });
        let whens: Vec<Span> =
            spans.filter(|rule| matches!(rule.node, RuleNode::When { .. })).map(|rule| rule.span).collect();
        for (when, span) in book.whens.iter().zip(whens) {
            let matched: Vec<SetId> = match when.what {
                Match::Full { of, .. } | Match::Run { of, .. } | Match::Patch { of, .. } => {
                    vec![of]
                }
                Match::On { who, on } => std::iter::once(who).chain(on).collect(),
            };
            if matched.iter().any(|set| book.sets.get(set.0 as usize).is_none()) {
                continue;
            }
            let ends = when.effects.iter().any(|act| ends_match(book, act, &matched));
            let guard_may_end = when.guard.as_ref().is_some_and(reads_numbers)
                && when.effects.iter().any(|act| matches!(act, Effect::Common(Common::Add(..) | Common::Set(..))));
            let changes = when.effects.iter().any(|act| match act {
                Effect::Common(Common::Add(sum, _)) => sum.0.iter().any(|(_, term)| !matches!(term, Term::Int(0))),
                Effect::Common(Common::Grow(_) | Common::SpawnKind(..) | Common::SpawnShape(..)) => true,
                _ => false,
            });
            if (!ends && !guard_may_end && changes) || makes_again(book, &when.effects) {
                let word = Span::new(span.start, span.start + "when".len());
                self.report_help(
                    word,
                    Code::FeedsItself,
                    "nothing this rule does ends its own match: it would never settle",
                    "remove or turn one of the matched pieces",
                );
            }
        }
    }
}

fn reads_numbers(cond: &Cond) -> bool {
    match cond {
        Cond::Or(conds) | Cond::And(conds) => conds.iter().any(reads_numbers),
        Cond::Not(cond) => reads_numbers(cond),
        Cond::Compare(..) => true,
        _ => false,
    }
}

/// Whether an effect can take a matched piece out of the match.
fn ends_match(book: &Rulebook, effect: &Effect, matched: &[SetId]) -> bool {
    let among = |set: SetId| matched.iter().any(|known| book.set(*known).meets(book.set(set)));
    let leaves = |kind: super::KindId| {
        matched.iter().any(|known| !book.sets.get(known.0 as usize).is_some_and(|set| set.contains(kind)))
    };
    match effect {
        Effect::Become(kind) => leaves(*kind),
        Effect::Clear | Effect::DropRows(_) => true,
        Effect::Common(common) => match common {
            Common::Remove(Pieces::Every(set, _) | Pieces::Matched(set, _)) => among(*set),
            Common::TurnInto(Pieces::Every(set, _) | Pieces::Matched(set, _), kind) => among(*set) && leaves(*kind),
            Common::Remove(_)
            | Common::TurnInto(..)
            | Common::Fall(..)
            | Common::Refill(..)
            | Common::Restart
            | Common::NextMap => true,
            Common::TurnHeading(..)
            | Common::Place(..)
            | Common::SpawnKind(..)
            | Common::SpawnShape(..)
            | Common::Add(..)
            | Common::Set(..)
            | Common::Grow(_)
            | Common::Quicken { .. }
            | Common::Signal(_)
            | Common::Win
            | Common::Lose => false,
        },
    }
}

/// Whether the effects make again what they remove.
fn makes_again(book: &Rulebook, effects: &[Effect]) -> bool {
    effects.iter().any(|effect| {
        let Effect::Common(Common::Remove(Pieces::Matched(set, _))) = effect else {
            return false;
        };
        effects.iter().any(|other| match other {
            Effect::Common(Common::Place(kind, Place::At(Spot::Here))) => {
                book.sets.get(set.0 as usize).is_some_and(|set| set.contains(*kind))
            }
            _ => false,
        })
    })
}
