//! What a request was told: checks in order, with their numbers.

use crate::board::PieceId;
use crate::rulebook::{ClauseId, KindId, Met, Rulebook, Verb};
use crate::space::{Cell, Extent, Heading};

/// What a check looks at.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum CheckKind {
    /// The arithmetic of the target; always holds.
    Target,
    /// Is the target on the board?
    Edge,
    /// Is it a cell of the map?
    Void,
    /// What does a piece there answer?
    Meets,
    /// A clause that is about the meeting, and is passed over because its `if` does not hold: it decides nothing.
    If,
    /// Does a straight neighbour close a diagonal step?
    Corner,
    /// Would a shove move more than it may?
    Limit,
    /// Would two pieces of one layer share a cell?
    Room,
}

impl CheckKind {
    /// The word of the formats.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Target => "target",
            Self::Edge => "edge",
            Self::Void => "void",
            Self::Meets => "meets",
            Self::If => "if",
            Self::Corner => "corner",
            Self::Limit => "limit",
            Self::Room => "room",
        }
    }
}

/// One check of a request, with its numbers.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Check {
    /// What was looked at.
    pub kind: CheckKind,
    /// Whether the request may go on.
    pub holds: bool,
    /// It belongs to a `shove` that was given up for its `else`.
    pub abandoned: bool,
    /// A piece that is shoved asks here, not the asker itself.
    pub shoved: bool,
    /// Who asks here: the asker or a piece it shoves.
    pub asker: KindId,
    /// Where that one stands.
    pub from: Cell,
    /// The target; the neighbour looked at for a corner.
    pub to: Cell,
    /// What is met there.
    pub occupant: Option<KindId>,
    /// What was answered.
    pub verb: Option<Verb>,
    /// The clause that decided, by its number among the rulebook's meetings.
    pub clause: Option<ClauseId>,
    /// For a limit, the most bodies.
    pub limit: u32,
    /// For an `if`, its words and the values it saw.
    pub seen: Option<Box<str>>,
}

impl Check {
    /// Whether its clause decided something that came about.
    pub fn decided(&self) -> bool {
        !self.abandoned && self.kind != CheckKind::If
    }

    /// The line of the rule that decided.
    pub fn line(&self, book: &Rulebook) -> Option<u32> {
        self.clause.map(|clause| book.meeting(clause).at.line)
    }

    /// For a meeting, who meets whom, in the words of the clause or of the kinds.
    pub fn rule(&self, book: &Rulebook) -> Option<String> {
        if !matches!(self.kind, CheckKind::Meets | CheckKind::If) {
            return None;
        }
        Some(match self.clause {
            Some(clause) => book.meeting(clause).at.text.clone(),
            None => {
                let occupant = self.occupant.map_or("", |kind| &book.kind(kind).name);
                format!("{} into {occupant}", book.kind(self.asker).name)
            }
        })
    }

    /// The check in words, with its numbers.
    pub fn text(&self, book: &Rulebook, extent: Extent) -> String {
        let (from, to) = (self.from, self.to);
        let at = format!("{},{}", to.column, to.row);
        let asker = &book.kind(self.asker).name;
        let verb = self.verb.map_or(String::new(), verb_text);
        let who = if self.shoved { format!("{asker} at {},{} meets ", from.column, from.row) } else { String::new() };
        match self.kind {
            CheckKind::Target => {
                let (east, south) = (to.column - from.column, to.row - from.row);
                format!("{asker}: ({},{}) + ({east},{south}) = ({at})", from.column, from.row)
            }
            CheckKind::Edge if self.verb.is_none() => {
                let Extent { columns, rows } = extent;
                format!("0 <= {} < {columns}, 0 <= {} < {rows}", to.column, to.row)
            }
            CheckKind::Edge => {
                let off = |value: i64, count: u32, what: &str| {
                    if value < 0 {
                        Some(format!("{what} {value} < 0"))
                    } else if value >= i64::from(count) {
                        Some(format!("{what} {value} >= {count}"))
                    } else {
                        None
                    }
                };
                let why: Vec<String> = [off(to.column, extent.columns, "column"), off(to.row, extent.rows, "row")]
                    .into_iter()
                    .flatten()
                    .collect();
                format!("{who}edge, {}: {verb}", why.join(", "))
            }
            CheckKind::Void if self.verb.is_none() => format!("{at} is a cell of the map"),
            CheckKind::Void => format!("{who}void at {at}: {verb}"),
            CheckKind::Meets => {
                let occupant = self.occupant.map_or("", |kind| &book.kind(kind).name);
                format!("{who}{occupant} at {at}: {verb}")
            }
            CheckKind::If => format!("{who}{}", self.seen.as_deref().unwrap_or_default()),
            CheckKind::Corner => {
                let what = self.occupant.map_or("no cell", |kind| &book.kind(kind).name);
                format!("{who}{what} at {at} closes the corner")
            }
            CheckKind::Limit => format!("{asker} would set more than {} in motion", self.limit),
            CheckKind::Room => {
                let occupant = self.occupant.map_or("", |kind| &book.kind(kind).name);
                format!("no room for {asker} at {at}: {occupant} stands on its layer")
            }
        }
    }
}

fn verb_text(verb: Verb) -> String {
    match verb {
        Verb::Shove { up_to: None, .. } => "shove".into(),
        Verb::Shove { up_to: Some(most), .. } => format!("shove up to {most}"),
        Verb::Plain(verb) => verb.word().into(),
    }
}

/// Why a request was refused: the first check that did not hold.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Reason {
    /// What was looked at.
    pub kind: CheckKind,
    /// Who asked there.
    pub asker: PieceId,
    /// What was met.
    pub occupant: Option<PieceId>,
    /// The kinds of both.
    pub kinds: (KindId, Option<KindId>),
    /// The clause that decided.
    pub clause: Option<ClauseId>,
    /// The verb was `bounce`.
    pub bounce: bool,
    /// Where the target lies.
    pub to: Cell,
    /// The number of the check in the ledger, where one is kept.
    pub check: usize,
}

impl Reason {
    /// Whether it is the meeting of one that `who` covers with what `met` covers.
    pub fn is_meeting(&self, book: &Rulebook, who: crate::rulebook::SetId, met: Met) -> bool {
        if !book.set(who).contains(self.kinds.0) {
            return false;
        }
        match met {
            Met::Edge => self.kind == CheckKind::Edge,
            Met::Void => self.kind == CheckKind::Void,
            Met::Pieces(set) => {
                self.kind == CheckKind::Meets && self.kinds.1.is_some_and(|kind| book.set(set).contains(kind))
            }
        }
    }
}

/// A piece that a request moved besides the asker, or would have.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Shoved {
    /// Its kind.
    pub kind: KindId,
    /// Where it stood.
    pub from: Cell,
    /// Where it stands now.
    pub to: Cell,
}

/// Who made a request.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Asked {
    /// A rule, for the piece.
    Own,
    /// A fall, cell by cell.
    Falling,
    /// What carries the piece.
    Carried,
}

/// A request and its answer.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Request {
    /// Who made it.
    pub by: Asked,
    /// The asker's kind.
    pub kind: KindId,
    /// Where it stood.
    pub from: Cell,
    /// Where it stands after the request and its effects; `None` when it is gone.
    pub to: Option<Cell>,
    /// The heading asked for, none for a leap.
    pub heading: Option<Heading>,
    /// Whether the plan was committed.
    pub granted: bool,
    /// Which check refused, by its number among `checks`.
    pub reason: Option<usize>,
    /// The facts of the refusal.
    pub refusal: Option<Reason>,
    /// Pieces moved besides the asker; for a refusal those that would have moved.
    pub shoved: Vec<Shoved>,
    /// All checks in the order made, where a ledger is kept.
    pub checks: Vec<Check>,
}
