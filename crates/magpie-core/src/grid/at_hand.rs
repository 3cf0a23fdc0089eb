//! The state of a search that is at hand: what differs in it from the base, and what differs in the one that comes next.

use super::base::Base;
use crate::board::{CellId, Mark, PieceId};
use crate::rulebook::{KindSet, SetId};

/// Scratch lists of packing. Everything that differs from the base is kept as [records](Layout::record), in their order.
#[derive(Default)]
pub(crate) struct Scratch {
    /// What differs in the state at hand.
    pub(super) loaded: Vec<u64>,
    /// What stands in every slot in it.
    standing: Vec<u32>,
    /// Nothing is chosen in it, no block is in force, and it has not ended.
    is_clear: bool,
    /// The only one of a set in it, by its slot: most inputs ask for the same one.
    alone: Option<(SetId, Option<u32>)>,
    /// What differs in the state from which the next one is gone to: the last one, where nobody had to join or to leave.
    pub(super) anchor: Vec<u64>,
    /// Where that state lies in the journal of the board.
    pub(super) anchored: Option<Mark>,
    /// Where in the key of the state at hand the numbers begin.
    pub(super) numbers: usize,
    pub(super) cells: Vec<u32>,
    /// Slots with what stands there now.
    pub(super) touched: Vec<u64>,
    entries: Vec<u64>,
    pub(super) changed: Vec<Slot>,
    pub(super) moves: Vec<(PieceId, CellId)>,
}

/// A slot in which something else is to stand than stands there.
#[derive(Clone, Copy)]
pub(super) struct Slot {
    pub(super) cell: CellId,
    pub(super) layer: u8,
    pub(super) was: u32,
    pub(super) now: u32,
    /// Who stands there and has no other place yet.
    pub(super) leaving: Option<PieceId>,
}

impl Scratch {
    /// Takes the state of a key at hand.
    pub(crate) fn arrive(&mut self, base: &Base, key: &[u8]) {
        let Self { loaded, standing, .. } = self;
        if standing.is_empty() {
            standing.clone_from(&base.symbols);
        }
        for record in loaded.drain(..) {
            let (slot, _) = base.layout.parts(record);
            standing[slot as usize] = base.symbols[slot as usize];
        }
        let numbers = base.layout.read(key, |record| {
            let (slot, symbol) = base.layout.parts(record);
            standing[slot as usize] = symbol;
            loaded.push(record);
        });
        self.numbers = key.len() - numbers.len();
        self.is_clear = base.is_clear(numbers);
        self.alone = None;
    }

    /// Whether nothing is chosen in the state at hand, no block is in force, and it has not ended.
    pub(super) const fn is_clear(&self) -> bool {
        self.is_clear
    }

    /// What stands in the slots of a cell in the state at hand, each as a record, the upper layers first.
    pub(super) fn stands_in<'a>(&'a self, base: &'a Base, cell: CellId) -> impl Iterator<Item = u64> + 'a {
        let slots = (0..base.layers as u8).rev().map(move |layer| base.slot(cell, layer));
        slots.map(|slot| base.layout.record(slot, self.standing[slot as usize]))
    }

    /// Whether in a slot of the state at hand stands what a record tells.
    #[inline]
    pub(super) fn is_standing(&self, base: &Base, record: u64) -> bool {
        let (slot, symbol) = base.layout.parts(record);
        self.standing[slot as usize] == symbol
    }

    /// The slot of the only piece of a set in the state at hand, where `home` is that of the only one in the base.
    pub(super) fn alone(&mut self, base: &Base, (of, set): (SetId, &KindSet), home: u32) -> Option<u32> {
        match self.alone {
            Some((known, slot)) if known == of => slot,
            _ => {
                let parts = self.loaded.iter().map(|record| base.layout.parts(*record));
                let is_home = base.is_of(self.standing[home as usize], set);
                let others = parts.filter(|(slot, symbol)| *slot != home && base.is_of(*symbol, set));
                let mut all = is_home.then_some(home).into_iter().chain(others.map(|(slot, _)| slot));
                let slot = all.next().filter(|_| all.next().is_none());
                self.alone.insert((of, slot)).1
            }
        }
    }

    /// Nobody is touched yet.
    pub(super) fn touch_none(&mut self) {
        self.touched.clear();
    }

    /// Something else comes to stand in a slot than in the state at hand.
    #[inline]
    pub(super) fn touch(&mut self, base: &Base, slot: u32, now: u32) {
        let record = base.layout.record(slot, now);
        let same = self.touched.iter_mut().find(|other| base.layout.parts(**other).0 == slot);
        match same {
            Some(other) => *other = record,
            None => self.touched.push(record),
        }
    }

    /// All have been touched: puts them in their order.
    pub(super) fn sort_touched(&mut self) {
        self.touched.sort_unstable();
    }

    /// What is touched, in the order of the slots.
    pub(super) fn touched(&self) -> &[u64] {
        &self.touched
    }

    /// Touches as often before.
    pub(super) fn touch_again(&mut self, touched: &[u64]) {
        self.touched.clear();
        self.touched.extend_from_slice(touched);
    }

    /// The state at hand, whose key is given, but for the slots that were touched, as bytes.
    pub(crate) fn pack_touched(&mut self, base: &Base, own: &[u8], into: &mut Vec<u8>) {
        self.splice(base, &own[self.numbers..], into);
    }

    /// A key of what differs from the base: what differs in the state at hand, but for the slots that were touched, in their
    /// order.
    pub(super) fn splice(&mut self, base: &Base, behind: &[u8], into: &mut Vec<u8>) {
        let Self { loaded, touched, entries, .. } = self;
        entries.clear();
        let mut rest = loaded.as_slice();
        for next in touched.iter().copied() {
            let last = base.layout.last_of_slot(next);
            while let Some((record, others)) = rest.split_first()
                && *record <= last
            {
                // What stood in the same slot gives way.
                if base.layout.last_of_slot(*record) != last {
                    entries.push(*record);
                }
                rest = others;
            }
            if base.differs(next) {
                entries.push(next);
            }
        }
        entries.extend_from_slice(rest);
        base.layout.write(entries, behind, into);
    }

    /// The slots in which the state to load differs from the anchor.
    pub(super) fn compare(&mut self, base: &Base) {
        self.changed.clear();
        let Self { loaded, anchor, changed, .. } = self;
        let mut change = |slot: u32, was: u32, now: u32| {
            let (cell, layer) = (CellId(slot / base.layers), (slot % base.layers) as u8);
            changed.push(Slot { cell, layer, was, now, leaving: None });
        };
        let of_base = |slot: u32| base.symbols[slot as usize];
        let (mut old, mut new) = (anchor.as_slice(), loaded.as_slice());
        loop {
            match (old, new) {
                ([first, old_rest @ ..], [second, new_rest @ ..]) if first == second => {
                    (old, new) = (old_rest, new_rest)
                }
                ([], []) => return,
                _ => {
                    let parts = |records: &[u64]| records.first().map(|record| base.layout.parts(*record));
                    let (before, after) = (parts(old), parts(new));
                    let slot = before.into_iter().chain(after).map(|(slot, _)| slot).min().unwrap_or(0);
                    let symbol =
                        |found: Option<(u32, u32)>| found.filter(|(at, _)| *at == slot).map(|(_, symbol)| symbol);
                    let (was, now) = (symbol(before), symbol(after));
                    change(slot, was.unwrap_or_else(|| of_base(slot)), now.unwrap_or_else(|| of_base(slot)));
                    old = &old[usize::from(was.is_some())..];
                    new = &new[usize::from(now.is_some())..];
                }
            }
        }
    }
}
