//! What an input came to in other states, by what was looked at there: where the same stands again, it comes to the same.

use super::at_hand::Scratch;
use super::base::Base;
use crate::board::CellId;

/// Lessons that lie together are looked through one after the other: so many lists, and so many lessons in each, at most.
const MOST: (usize, usize) = if cfg!(test) { (3, 2) } else { (1 << 16, 8) };

/// Bytes of lessons of one input from which on only what lies in a full list makes room for another, at most.
const MOST_BYTES: usize = if cfg!(test) { 1 << 10 } else { 8 << 20 };

/// More slots are not kept of one lesson.
const MOST_SEEN: usize = 64;

/// What an input would come to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Foreseen {
    /// Everything stays as it is.
    Nothing,
    /// Pieces move, and nothing else happens before the turn is judged.
    Moves,
    /// Pieces move, and the turn is judged as the one before was: it ends nothing, and keeps all promises that were kept.
    OnlyMoves,
    /// More may be at stake: it has to be played.
    Unclear,
}

/// What an input came to once.
struct Lesson {
    /// What stood in all slots that were looked at.
    seen: Box<[u64]>,
    came: Foreseen,
    /// What came to stand elsewhere by it.
    touched: Box<[u64]>,
}

impl Lesson {
    fn bytes(&self) -> usize {
        size_of::<Self>() + size_of_val(&*self.seen) + size_of_val(&*self.touched)
    }
}

/// What an input came to.
pub(super) struct Lessons {
    /// By the slot of who is asked to move.
    lists: Vec<Vec<Lesson>>,
    /// Where the next one goes in a list that is full.
    next: usize,
    pub bytes: usize,
    most_bytes: usize,
}

impl Lessons {
    /// None yet, and only so many bytes of them.
    pub fn of_bytes(most: usize) -> Self {
        Self { lists: Vec::new(), next: 0, bytes: 0, most_bytes: most.min(MOST_BYTES) }
    }

    /// What the input comes to in the state at hand, where that is known; what moves is touched then.
    pub fn recall(&self, base: &Base, asker: u32, at_hand: &mut Scratch) -> Option<Foreseen> {
        let list = self.lists.get(asker as usize % MOST.0)?;
        let is_it = |lesson: &&Lesson| lesson.seen.iter().all(|record| at_hand.is_standing(base, *record));
        let lesson = list.iter().find(is_it)?;
        at_hand.touch_again(&lesson.touched);
        Some(lesson.came)
    }

    /// Learns what the input comes to in the state at hand, in which nothing but some cells was looked at.
    pub fn learn(&mut self, base: &Base, asker: u32, (cells, at_hand): (&[CellId], &Scratch), came: Foreseen) {
        let at = asker as usize % MOST.0;
        let is_full = self.lists.get(at).is_some_and(|list| list.len() == MOST.1);
        if cells.len() * base.layers() > MOST_SEEN || (self.bytes > self.most_bytes && !is_full) {
            return;
        }
        let seen = cells.iter().flat_map(|cell| at_hand.stands_in(base, *cell)).collect();
        if self.lists.len() <= at {
            self.lists.resize_with(at + 1, Vec::new);
        }
        let lesson = Lesson { seen, came, touched: at_hand.touched().into() };
        self.bytes += lesson.bytes();
        let list = &mut self.lists[at];
        if list.len() < MOST.1 {
            list.push(lesson);
        } else {
            let place = self.next % MOST.1;
            self.bytes -= std::mem::replace(&mut list[place], lesson).bytes();
            self.next += 1;
        }
    }
}
