//! What the states of a search are held against, and what their keys tell by it.

use super::records::Layout;
use super::state::Moment;
use crate::board::CellId;
use crate::rulebook::{KindId, KindSet, Reads};

/// Bytes of the state of the random numbers.
pub(super) const RANDOM: usize = 8;

/// What states are held against: the state in which a search begins.
pub(crate) struct Base {
    /// What stands in every slot, cell by cell, the layers of a cell beside each other.
    pub(super) symbols: Vec<u32>,
    pub(super) layers: u32,
    pub(super) layout: Layout,
    pub(super) reads: Reads,
    /// The kinds of whose places an outcome or a promise asks.
    pub(super) judged: Vec<bool>,
    pub(super) moment: Moment,
    /// How many numbers a packed state holds between how it has ended and who is chosen.
    pub(super) numbers: usize,
    /// States hold more than slots and numbers: they are kept whole.
    pub whole: bool,
}

/// Numbers read back.
pub(crate) struct Reader<'a>(pub &'a [u8]);

impl Reader<'_> {
    pub fn number(&mut self) -> u64 {
        let mut number = 0;
        for shift in (0..64).step_by(7) {
            let Some((first, rest)) = self.0.split_first() else { break };
            self.0 = rest;
            number |= u64::from(first & 127) << shift;
            if *first < 128 {
                break;
            }
        }
        number
    }
}

impl Base {
    /// Whether a record is of something else than stands in the base.
    #[inline]
    pub(super) fn differs(&self, record: u64) -> bool {
        let (slot, now) = self.layout.parts(record);
        now != self.symbols[slot as usize]
    }

    /// A layer of a cell.
    pub(super) const fn slot(&self, cell: CellId, layer: u8) -> u32 {
        cell.0 * self.layers + layer as u32
    }

    /// How many slots there are in a cell.
    pub const fn layers(&self) -> usize {
        self.layers as usize
    }

    /// Tells the slots that differ in a packed state, cell by cell, each with the symbol of what stands there now.
    #[inline]
    pub fn differing(&self, key: &[u8], mut each: impl FnMut(usize, u32)) {
        self.layout.read(key, |record| {
            let (slot, symbol) = self.layout.parts(record);
            each(slot as usize, symbol);
        });
    }

    /// The kind of what a symbol stands for.
    pub const fn kind(&self, symbol: u32) -> Option<KindId> {
        self.layout.kind(symbol)
    }

    /// For each symbol something that hangs on the kind of what it stands for.
    pub fn by_symbol<T>(&self, of_kind: impl Fn(Option<KindId>) -> T) -> Vec<T> {
        (0..self.layout.symbols()).map(|symbol| of_kind(self.layout.kind(symbol))).collect()
    }

    /// Pieces of a packed state that stand beside the layers: kinds and cells.
    pub fn beside<'a>(&'a self, key: &'a [u8]) -> impl Iterator<Item = (KindId, Option<u32>)> + 'a {
        let mut reader = Reader(self.layout.read(key, |_| {}));
        let beside = if self.whole { reader.number() } else { 0 };
        (0..beside).map(move |_| {
            let kind = KindId(reader.number() as u16);
            (kind, (reader.number() as u32).checked_sub(1))
        })
    }

    /// Whether nothing is chosen, no block is in force, and nothing has ended, by the numbers of a packed state.
    pub(super) fn is_clear(&self, numbers: &[u8]) -> bool {
        let mut reader = Reader(numbers);
        let head = reader.number();
        for _ in 0..self.numbers {
            reader.number();
        }
        let random = if self.reads.random { RANDOM.min(reader.0.len()) } else { 0 };
        reader.0 = &reader.0[random..];
        head == 0 && reader.number() == 0
    }

    /// Whether some outcome or promise asks for the places of a kind.
    pub fn is_judged(&self, kind: KindId) -> bool {
        self.judged[usize::from(kind.0)]
    }

    /// The slot of the only piece of a set, where there is one.
    pub fn alone(&self, set: &KindSet) -> Option<u32> {
        let mut all = self.symbols.iter().zip(0..).filter(|(symbol, _)| self.is_of(**symbol, set));
        let (_, first) = all.next()?;
        all.next().is_none().then_some(first)
    }

    pub(super) fn is_of(&self, symbol: u32, set: &KindSet) -> bool {
        self.layout.kind(symbol).is_some_and(|kind| set.contains(kind))
    }

    /// The kind that stands in a slot of the base.
    pub fn kind_at(&self, slot: usize) -> Option<KindId> {
        self.layout.kind(self.symbols[slot])
    }
}
