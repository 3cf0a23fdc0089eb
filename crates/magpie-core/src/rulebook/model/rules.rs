//! Verbs, effects, actions and the rules that hold them.

use super::{Cond, CounterId, KindId, Place, Ratio, SetId, ShapeId, Spot, Sum, TimerId};
use crate::input::Key;
use crate::rulebook::diagnostic::Span;
use crate::space::Heading;

/// Which pieces are meant.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Pieces {
    /// All of these on the board, in a cell with one of those where said.
    Every(SetId, Option<SetId>),
    /// Those of the matched pieces.
    Matched(SetId, Option<SetId>),
    Active,
    Tapped,
    Dragged,
    Dropped,
    Chosen,
}

/// A heading in words.
#[derive(Clone, Debug)]
pub enum HeadingWord {
    /// A fixed one.
    Compass(Heading),
    /// The own heading turned by so many eighths clockwise.
    Relative(usize),
    /// Along the axis of the larger distance to a cell.
    Toward(Spot),
    /// Along the first step of a shortest way to a cell.
    Along(Spot),
}

/// What both an effect and an action may do.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Common {
    Remove(Pieces),
    TurnHeading(Pieces, HeadingWord),
    TurnInto(Pieces, KindId),
    Place(KindId, Place),
    SpawnKind(KindId, Place),
    SpawnShape(Option<ShapeId>, Place),
    Add(Sum, CounterId),
    Set(CounterId, Sum),
    Grow(u32),
    Fall(SetId, Heading),
    Refill(SetId, Heading),
    Quicken { timer: TimerId, by: Ratio, least: i64 },
    Signal(String),
    Win,
    Lose,
    Restart,
    NextMap,
}

/// What a meeting, a leaving, a match or an outcome does.
#[derive(Clone, Debug)]
pub enum Effect {
    /// What actions may do too.
    Common(Common),
    /// The asker, the leaver or the first-named piece turns into a kind.
    Become(KindId),
    /// The matched pieces leave the board.
    Clear,
    /// What stands on the far side of a cleared line moves this way.
    DropRows(Heading),
}

impl Effect {
    /// Whether it is done once for all matches of a `when` rule together, instead of once for each.
    pub const fn is_once_for_all(&self) -> bool {
        match self {
            Self::Clear | Self::DropRows(_) => true,
            Self::Become(_) => false,
            Self::Common(common) => match common {
                Common::Fall(..) | Common::Refill(..) => true,
                Common::Remove(_)
                | Common::TurnHeading(..)
                | Common::TurnInto(..)
                | Common::Place(..)
                | Common::SpawnKind(..)
                | Common::SpawnShape(..)
                | Common::Add(..)
                | Common::Set(..)
                | Common::Grow(_)
                | Common::Quicken { .. }
                | Common::Signal(_)
                | Common::Win
                | Common::Lose
                | Common::Restart
                | Common::NextMap => false,
            },
        }
    }
}

/// What an input or a timer does.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Action {
    /// What effects may do too.
    Common(Common),
    Step {
        pieces: Pieces,
        heading: HeadingWord,
        times: u32,
    },
    Leap(Pieces, i64, i64),
    Drop(Pieces, HeadingWord),
    Walk(Pieces, Spot),
    Swap {
        one: Spot,
        other: Spot,
        if_run: bool,
    },
    Flood {
        from: Spot,
        into: KindId,
        eight: bool,
    },
    Choose(Option<Spot>),
    Rotate {
        pieces: Pieces,
        clockwise: bool,
        tries: Vec<(i64, i64)>,
    },
    LockActive,
    /// A steering key: sets the heading and makes no request.
    Steer(SetId, Heading),
}

/// A meeting's verb that needs no other.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum PlainVerb {
    Stop,
    Pass,
    Swap,
    Take,
    Perish,
    Clash,
    Bounce,
    Slide,
    Ride,
    Wrap,
    Warp(KindId),
}

impl PlainVerb {
    /// The word of the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Stop => "stop",
            Self::Pass => "pass",
            Self::Swap => "swap",
            Self::Take => "take",
            Self::Perish => "perish",
            Self::Clash => "clash",
            Self::Bounce => "bounce",
            Self::Slide => "slide",
            Self::Ride => "ride",
            Self::Wrap => "wrap",
            Self::Warp(_) => "warp",
        }
    }

    /// Whether the verb lets the asker in.
    pub const fn enters(self) -> bool {
        !matches!(self, Self::Stop | Self::Bounce)
    }

    /// `Some(true)` where the verb needs pieces of one layer, `Some(false)` where it needs different ones.
    pub const fn same_layer(self) -> Option<bool> {
        match self {
            Self::Pass | Self::Slide | Self::Ride | Self::Warp(_) => Some(false),
            Self::Swap => Some(true),
            _ => None,
        }
    }
}

/// A meeting's verb.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Verb {
    /// The occupant is asked to move on; at most so many bodies in all; else the other verb decides.
    Shove {
        /// Most bodies set in motion.
        up_to: Option<u32>,
        /// What decides where the occupant cannot move.
        otherwise: Option<PlainVerb>,
    },
    /// Any other verb.
    Plain(PlainVerb),
}

impl Verb {
    /// Whether the verb is one of some, or falls back on one with its `else`.
    pub fn is_or_else(self, wanted: impl Fn(PlainVerb) -> bool) -> bool {
        match self {
            Self::Plain(verb) => wanted(verb),
            Self::Shove { otherwise, .. } => otherwise.is_some_and(wanted),
        }
    }
}

/// What a clause is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Met {
    /// Pieces.
    Pieces(SetId),
    /// The board's edge.
    Edge,
    /// A cell that is no part of the board.
    Void,
}

/// Where a rule stands.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RuleAt {
    /// Its line, from 1.
    pub line: u32,
    /// Its words up to the guard or the colon, blanks folded.
    pub text: String,
    /// All its words.
    pub span: Span,
}

/// A clause of the form `A into B: verb`.
#[derive(Clone, Debug)]
pub struct Meeting {
    /// Askers.
    pub who: SetId,
    /// What they meet.
    pub met: Met,
    /// The condition.
    pub guard: Option<Cond>,
    /// The verb.
    pub verb: Verb,
    /// `Some` where `any` on a side restricts the clause to pairs of one layer (`true`) or of different ones.
    pub layers: Option<bool>,
    /// What happens besides.
    pub effects: Vec<Effect>,
    /// The whole clause, blanks folded.
    pub words: String,
    /// Where it stands.
    pub at: RuleAt,
}

/// A clause of the form `A off B: effects`.
#[derive(Clone, Debug)]
pub struct Off {
    /// Leavers.
    pub who: SetId,
    /// What stays behind.
    pub other: SetId,
    /// The condition.
    pub guard: Option<Cond>,
    /// What happens.
    pub effects: Vec<Effect>,
    /// Where it stands.
    pub at: RuleAt,
}

/// What a `when` rule looks for.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Match {
    Full { row: bool, of: SetId, ignoring: Option<SetId> },
    Run { length: u32, of: SetId, rows: bool, columns: bool },
    Patch { length: u32, of: SetId },
    On { who: SetId, on: Option<SetId> },
}

/// A `when` rule.
#[derive(Clone, Debug)]
pub struct When {
    /// What it looks for.
    pub what: Match,
    /// The condition.
    pub guard: Option<Cond>,
    /// What happens.
    pub effects: Vec<Effect>,
    /// Where it stands.
    pub at: RuleAt,
}

/// What a tap or drag looks at.
pub type Touched = Option<Met>;

/// What makes an input rule act.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Trigger {
    /// A map begins.
    Start,
    /// A key.
    Key(Key),
    /// A tap on this.
    Tap(Touched),
    /// A drag from this to that.
    Drag(Touched, Touched),
    /// A timer.
    Timer(TimerId),
    /// After every input turn in which something was granted.
    EachTurn,
}

/// An `on`, `each` or `control` rule.
#[derive(Clone, Debug)]
pub struct InputRule {
    /// When it acts.
    pub trigger: Trigger,
    /// The condition.
    pub guard: Option<Cond>,
    /// Lists of actions, each the `else` of the one before.
    pub actions: Vec<Vec<Action>>,
    /// For a control with `no reverse`: the pieces and the heading of the key.
    pub no_reverse: Option<(SetId, Heading)>,
    /// Where it stands.
    pub at: RuleAt,
}

/// A `win when` or `lose when` rule.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// A win.
    pub win: bool,
    /// The condition.
    pub cond: Cond,
    /// What happens then.
    pub effects: Vec<Effect>,
    /// Where it stands.
    pub at: RuleAt,
}

/// An `always` or `never` rule.
#[derive(Clone, Debug)]
pub struct Invariant {
    /// `always`, else `never`.
    pub always: bool,
    /// The condition.
    pub cond: Cond,
    /// Where it stands; the text is the whole rule.
    pub at: RuleAt,
}
