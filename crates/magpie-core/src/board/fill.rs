//! Areas filled at once: bare pieces laid in runs of cells, without a number for any of them.

use super::journal::Change;
use super::{BARE, Board, CellId, EMPTY, feature};
use crate::rulebook::KindId;
use crate::space::Heading;

/// Cells that were filled at once, as runs in one row each.
#[derive(Clone, Debug)]
pub(super) struct Fill {
    kind: KindId,
    /// What the slots held before.
    old: u32,
    /// First cells and lengths.
    runs: Vec<(u32, u32)>,
    /// Whether it is in the board's hash already: that is worked out only when somebody asks for it.
    hashed: bool,
}

impl Fill {
    /// Bytes held.
    pub const fn bytes(&self) -> usize {
        size_of::<Self>() + self.runs.capacity() * size_of::<(u32, u32)>()
    }
}

impl Board {
    /// Fills the connected area round a cell in which the layer of a kind holds the same kind, or nothing; what stood there
    /// leaves. Nothing happens where the kind stands there already. `cells` gives the area where it is known already.
    pub fn flood(
        &mut self,
        from: CellId,
        kind: KindId,
        heading: Option<Heading>,
        eight: bool,
        cells: impl FnOnce(&Self) -> Vec<CellId>,
    ) {
        let layer = self.layer(kind);
        let old = self.slots[self.slot(layer, from.0)];
        let was = self.kind_at(from, layer);
        if was == Some(kind) {
            return;
        }
        let numbered = was.is_some_and(|was| !self.by_kind[usize::from(was.0)].is_empty());
        let single = heading.is_some() || self.crowding[usize::from(kind.0)];
        if numbered || single || (self.has_void && old == EMPTY) {
            let cells = cells(self);
            self.replace(&cells, kind, heading, single);
            return;
        }
        let runs = self.run_over(layer, from, old, BARE | u32::from(kind.0), eight);
        self.note_fill(Fill { kind, old, runs, hashed: false });
    }

    /// Puts a kind into each of some cells.
    fn replace(&mut self, cells: &[CellId], kind: KindId, heading: Option<Heading>, single: bool) {
        let layer = self.layer(kind);
        for cell in cells {
            if let Some(piece) = self.piece_at(*cell, layer) {
                self.remove(piece);
            }
        }
        if single {
            cells.iter().for_each(|cell| {
                self.add(*cell, kind, heading);
            });
            return;
        }
        let runs: Vec<(u32, u32)> = cells.iter().map(|cell| (cell.0, 1)).collect();
        for (start, _) in &runs {
            let slot = self.slot(layer, *start);
            self.slots[slot] = BARE | u32::from(kind.0);
        }
        self.note_fill(Fill { kind, old: EMPTY, runs, hashed: false });
    }

    fn note_fill(&mut self, fill: Fill) {
        self.count_bare(&fill, true);
        self.fills.push(fill);
        self.journal.push(Change::Filled);
    }

    /// Run by run: each is filled whole, and the rows above and below it are looked at for where the area goes on.
    fn run_over(&mut self, layer: u8, from: CellId, old: u32, new: u32, eight: bool) -> Vec<(u32, u32)> {
        let (columns, rows) = (self.extent.columns as usize, self.extent.rows as usize);
        let start = self.slot(layer, 0);
        let slots = &mut self.slots[start..start + columns * rows];
        let reach = usize::from(eight);
        let mut open = vec![from.0 as usize];
        let mut runs = Vec::new();
        while let Some(cell) = open.pop() {
            if slots[cell] != old {
                continue;
            }
            let row = cell / columns;
            let line = &mut slots[row * columns..(row + 1) * columns];
            let at = cell % columns;
            let first = line[..at].iter().rposition(|slot| *slot != old).map_or(0, |before| before + 1);
            let end = line[at..].iter().position(|slot| *slot != old).map_or(columns, |behind| at + behind);
            line[first..end].fill(new);
            runs.push(((row * columns + first) as u32, (end - first) as u32));
            let (left, right) = (first.saturating_sub(reach), (end + reach).min(columns));
            for beside in [row.checked_sub(1), (row + 1 < rows).then_some(row + 1)].into_iter().flatten() {
                let line = &slots[beside * columns + left..beside * columns + right];
                let mut at = 0;
                while let Some(next) = line[at..].iter().position(|slot| *slot == old) {
                    open.push(beside * columns + left + at + next);
                    at += next + line[at + next..].iter().position(|slot| *slot != old).unwrap_or(line.len());
                    if at >= line.len() {
                        break;
                    }
                }
            }
        }
        runs
    }

    fn count_bare(&mut self, fill: &Fill, filled: bool) {
        let count: u32 = fill.runs.iter().map(|(_, length)| length).sum();
        let mut change = |kind: usize, more: bool| {
            let bare = &mut self.bare[kind];
            *bare = if more { *bare + count } else { *bare - count };
        };
        change(usize::from(fill.kind.0), filled);
        if fill.old >= BARE {
            change((fill.old ^ BARE) as usize, !filled);
        }
    }

    /// Brings fills into the hash that are not in it yet.
    pub(super) fn count_fills(&mut self) {
        let pending = self.fills.iter().rev().take_while(|fill| !fill.hashed).count();
        let first = self.fills.len() - pending;
        for at in first..self.fills.len() {
            self.hash ^= Self::hash_of(&self.fills[at]);
            self.fills[at].hashed = true;
        }
    }

    fn hash_of(fill: &Fill) -> u64 {
        let was = (fill.old >= BARE).then_some(KindId((fill.old ^ BARE) as u16));
        let cells = fill.runs.iter().flat_map(|(start, length)| *start..start + length);
        cells.fold(0, |hash, cell| {
            let before = was.map_or(0, |was| feature(cell, was, None));
            hash ^ before ^ feature(cell, fill.kind, None)
        })
    }

    /// Takes the newest fill back.
    pub(super) fn unfill(&mut self) {
        let Some(fill) = self.fills.pop() else { return };
        let layer = self.layer(fill.kind);
        for (start, length) in &fill.runs {
            let slot = self.slot(layer, *start);
            self.slots[slot..slot + *length as usize].fill(fill.old);
        }
        self.count_bare(&fill, false);
        if fill.hashed {
            self.hash ^= Self::hash_of(&fill);
        }
    }
}
