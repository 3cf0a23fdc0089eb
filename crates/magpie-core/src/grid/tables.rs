//! Rules arranged for quick answers.

use super::glide::Rate;
use crate::limits::MOST_CLAUSE_PAIRS;
use crate::rulebook::{ClauseId, KindId, Met, PlainVerb, Rulebook, SetId, Trigger, Verb};

/// A clause as the planner looks it up.
#[derive(Clone, Copy, Debug)]
pub struct Clause {
    /// Its number among the rulebook's meetings.
    pub number: ClauseId,
    /// What is met, by set number; `EDGE` and `VOID` stand for themselves.
    pub met: u32,
    /// The first 64 kinds that are met, so that most look-ups need no set.
    pub mask: u64,
    /// Pairs of one layer only, of different layers only, or all.
    pub layers: Option<bool>,
    /// It has a condition.
    pub guarded: bool,
    /// What it answers.
    pub verb: Verb,
}

impl Clause {
    /// Whether the clause is about meeting pieces of a kind.
    #[inline]
    pub fn meets(&self, book: &Rulebook, kind: KindId) -> bool {
        if kind.0 < 64 {
            self.mask >> kind.0 & 1 == 1
        } else {
            self.met < VOID && book.set(SetId(self.met)).contains(kind)
        }
    }
}

/// The set number that stands for the edge.
pub const EDGE: u32 = u32::MAX;
/// The set number that stands for void.
pub const VOID: u32 = u32::MAX - 1;

/// The glides of a rulebook, worked out for its grid.
#[derive(Clone, Debug)]
pub(super) struct Tracks {
    pub rates: Vec<Rate>,
    /// The first `glide` of each kind.
    pub of_kind: Vec<Option<usize>>,
}

impl Tracks {
    pub fn of(book: &Rulebook) -> Self {
        let covers =
            |kind: usize| book.glides.iter().position(|glide| book.set(glide.who).contains(KindId(kind as u16)));
        Self {
            rates: book.glides.iter().map(|glide| Rate::of(glide, &book.geometry)).collect(),
            of_kind: (0..book.kinds.len()).map(covers).collect(),
        }
    }
}

/// Rules by who asks.
#[allow(clippy::struct_excessive_bools)] // each says whether a rulebook needs some work at all
#[derive(Clone, Debug)]
pub struct Tables {
    /// Meetings by the asker's kind, in file order.
    pub clauses: Vec<Vec<Clause>>,
    /// Whether a clause of a meeting has an `if`.
    pub guards: bool,
    /// Whether there are `off` clauses.
    pub offs: bool,
    /// Whether anybody slides.
    pub slides: bool,
    /// Whether a cell may lead to a far one.
    pub warps: bool,
    /// Whether pieces are tied to others, as shapes and trails are.
    pub ties: bool,
    /// Whether nothing of that, and nothing done wrong, stands in the way of the short ways of planning.
    pub plain: bool,
    /// Whether anybody glides or rides.
    pub moves_between: bool,
    /// Whether a control lets nobody turn straight back.
    pub no_reverse: bool,
    /// How fast what glides.
    pub(super) tracks: Tracks,
    /// Rules that act after each input turn in which something was granted.
    pub each_turn: Vec<usize>,
    /// Rules that act when a map begins.
    pub start: Vec<usize>,
}

impl Tables {
    /// Arranges the rules of a rulebook; `None` where there are too many for so many kinds.
    pub fn new(book: &Rulebook) -> Option<Self> {
        let mut clauses = vec![Vec::new(); book.kinds.len()];
        let mut entries = 0;
        for (number, meeting) in book.meetings.iter().enumerate() {
            let met = match meeting.met {
                Met::Pieces(set) => set.0,
                Met::Edge => EDGE,
                Met::Void => VOID,
            };
            let clause = Clause {
                number: ClauseId(number as u32),
                met,
                mask: match meeting.met {
                    Met::Pieces(set) => book.set(set).words().first().copied().unwrap_or(0),
                    Met::Edge | Met::Void => 0,
                },
                layers: meeting.layers,
                guarded: meeting.guard.is_some(),
                verb: meeting.verb,
            };
            for kind in book.set(meeting.who).iter() {
                entries += 1;
                if entries > MOST_CLAUSE_PAIRS {
                    return None;
                }
                clauses[usize::from(kind.0)].push(clause);
            }
        }
        let uses = |wanted: fn(PlainVerb) -> bool| book.meetings.iter().any(|meeting| meeting.verb.is_or_else(wanted));
        let of = |trigger: &Trigger| {
            (0..book.inputs.len()).filter(|at| book.inputs[*at].trigger == *trigger).collect::<Vec<_>>()
        };
        Some(Self {
            clauses,
            guards: book.meetings.iter().any(|meeting| meeting.guard.is_some()),
            offs: !book.offs.is_empty(),
            ties: !book.shapes.is_empty() || !book.trails.is_empty(),
            plain: book.shapes.is_empty() && book.trails.is_empty(),
            slides: uses(|verb| verb == PlainVerb::Slide),
            warps: uses(|verb| matches!(verb, PlainVerb::Warp(_))),
            moves_between: !book.glides.is_empty() || uses(|verb| verb == PlainVerb::Ride),
            no_reverse: book.inputs.iter().any(|rule| rule.no_reverse.is_some()),
            tracks: Tracks::of(book),
            each_turn: of(&Trigger::EachTurn),
            start: of(&Trigger::Start),
        })
    }
}
