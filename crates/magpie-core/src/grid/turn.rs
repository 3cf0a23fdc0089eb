//! What lives during one turn, and no longer.

use super::context::Spawn;
use super::flow::{Ended, Flow, Touch};
use super::ledger::Reason;
use crate::board::{CellId, PieceId};
use crate::space::Heading;
use hashbrown::HashSet;

/// A turn under way; every turn begins with a new one.
#[derive(Debug, Default)]
pub(super) struct Turn {
    /// Where the finger went down and up.
    pub touch: Option<Touch>,
    /// Some request or swap was granted.
    pub granted: bool,
    /// What is to be put down when the board has settled.
    pub spawns: Vec<Spawn>,
    /// A `win` or `lose` that was an effect, until the turn has settled.
    pub pending: Option<Ended>,
    /// The heading of the key at hand, where pieces that would turn straight back do not heed it.
    pub not_back: Option<Heading>,
    /// Pieces that have entered by `slide` and are to ask on, the next one last.
    pub sliding: Vec<PieceId>,
    /// Who has asked from which cell in this action.
    pub slid: HashSet<(PieceId, CellId)>,
    /// Steps of falls.
    pub fallen: u64,
    /// Matches that `when` rules have acted on.
    pub acted: u64,
    /// A `when` rule is at work.
    pub settling: bool,
    /// Its number as it began.
    pub number: u64,
    /// How it left its map.
    pub left: Option<Flow>,
    /// Why the last request of a rule was refused, in words, where a ledger is kept.
    pub why: Option<String>,
    /// The last request that a rule made for a piece itself: granted, or why not.
    pub last: Option<Result<(), Option<Reason>>>,
}
