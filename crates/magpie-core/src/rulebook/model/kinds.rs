//! Kinds, sets of them, maps: what a board is made of.

use crate::rulebook::syntax::Num;
use crate::space::{Extent, Heading};

/// A kind's number, in the order of the file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct KindId(pub u16);

/// The number of an `into` clause, in the order of the file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct ClauseId(pub u32);

/// The number of a set of kinds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct SetId(pub u32);

/// A counter that rules may change.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct CounterId(pub u16);

/// A timer's number, in the order of the file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct TimerId(pub u16);

/// A shape's number, in the order of the file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct ShapeId(pub u16);

/// What a kind is drawn in.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Colour {
    /// A name of the palette.
    Named(String),
    /// Red, green, blue.
    Rgb(u8, u8, u8),
}

/// A sort of piece.
#[derive(Clone, Debug)]
pub struct Kind {
    /// Its name.
    pub name: String,
    /// Its character in drawings.
    pub glyph: char,
    /// Its layer, 0 the lowest.
    pub layer: u8,
    /// Its colour, `bone` where nothing is said.
    pub colour: Colour,
    /// The heading its pieces begin with.
    pub facing: Option<Heading>,
    /// Its own hotspot.
    pub hotspot: Option<(f64, f64)>,
}

/// A set of kinds.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct KindSet {
    /// The name in the rulebook, `any` or a kind or a group.
    pub name: String,
    bits: Vec<u64>,
    /// The kinds in the order they were named.
    order: Vec<KindId>,
}

impl KindSet {
    /// A name that could not be resolved stands for nobody while the rest is checked.
    pub(super) const NOBODY: &Self = &Self { name: String::new(), bits: Vec::new(), order: Vec::new() };

    /// The set of these kinds.
    pub fn new(name: &str, kinds: impl IntoIterator<Item = KindId>) -> Self {
        let mut bits = Vec::new();
        let mut order = Vec::new();
        for kind in kinds {
            let known = bits.get(usize::from(kind.0 / 64)).is_some_and(|word: &u64| word >> (kind.0 % 64) & 1 == 1);
            if known {
                continue;
            }
            order.push(kind);
            let word = usize::from(kind.0 / 64);
            if bits.len() <= word {
                bits.resize(word + 1, 0);
            }
            bits[word] |= 1 << (kind.0 % 64);
        }
        Self { name: name.into(), bits, order }
    }

    /// Whether a kind belongs to the set.
    #[inline]
    pub fn contains(&self, kind: KindId) -> bool {
        self.bits.get(usize::from(kind.0 / 64)).is_some_and(|word| word >> (kind.0 % 64) & 1 == 1)
    }

    /// The kinds of the set, in the order of the file.
    pub fn iter(&self) -> impl Iterator<Item = KindId> + '_ {
        self.bits.iter().enumerate().flat_map(|(at, word)| {
            let mut left = *word;
            std::iter::from_fn(move || {
                let bit = left.trailing_zeros();
                left &= left.wrapping_sub(1);
                (bit < 64).then(|| KindId(at as u16 * 64 + bit as u16))
            })
        })
    }

    /// The kinds in the order in which the rulebook names them.
    pub fn in_order(&self) -> &[KindId] {
        &self.order
    }

    /// Whether the two have a kind in common.
    pub fn meets(&self, other: &Self) -> bool {
        self.bits.iter().zip(&other.bits).any(|(a, b)| a & b != 0)
    }

    /// The words of the set, 64 kinds each.
    pub fn words(&self) -> &[u64] {
        &self.bits
    }
}

/// Where a map's pieces come from.
#[derive(Clone, Debug)]
pub enum MapCells {
    /// For every cell, in reading order of the drawing, the number of its entry.
    Legend {
        /// Entry numbers, top line first.
        cells: Vec<u16>,
        /// `None` is void, else the kinds in the cell.
        entries: Vec<Option<Vec<KindId>>>,
    },
    /// One kind everywhere, and a share of another.
    Filled {
        /// The kind in every cell.
        of: KindId,
        /// Per cent, as a fraction, of this other kind.
        scatter: Option<(Ratio, KindId)>,
    },
}

/// A map.
#[derive(Clone, Debug)]
pub struct Map {
    /// Its title.
    pub title: String,
    /// Columns and rows.
    pub extent: Extent,
    /// Its cells.
    pub cells: MapCells,
}

impl Map {
    /// Whether some cell of its rectangle is no cell of the map.
    pub fn has_void(&self) -> bool {
        match &self.cells {
            MapCells::Legend { cells, entries } => cells.iter().any(|entry| entries[usize::from(*entry)].is_none()),
            MapCells::Filled { .. } => false,
        }
    }

    /// Whether the map has no cell at this place of the drawing: column, and line from the top.
    pub fn is_void(&self, column: u32, line: u32) -> bool {
        match &self.cells {
            MapCells::Legend { cells, entries } => {
                let at = line as usize * self.extent.columns as usize + column as usize;
                cells.get(at).is_none_or(|entry| entries[usize::from(*entry)].is_none())
            }
            MapCells::Filled { .. } => false,
        }
    }
}

/// An exact fraction.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Ratio {
    /// Above the line.
    pub above: i128,
    /// Below the line, over 0.
    pub below: i128,
}

impl Ratio {
    /// What is left of a whole number when this many per cent are taken from it, cut to a whole number.
    pub fn per_cent_less(self, number: u64) -> u64 {
        let left = i128::from(number) * (100 * self.below - self.above);
        u64::try_from(left.div_euclid(100 * self.below)).unwrap_or(0)
    }

    /// The exact value of a number as written, where it has at most 30 digits.
    pub fn of(number: &Num) -> Option<Self> {
        let plain = |text: &str| -> Option<Self> {
            let (whole, part) = text.split_once('.').unwrap_or((text, ""));
            if whole.len() + part.len() > 18 {
                return None;
            }
            let above: i128 = format!("{whole}{part}").parse().ok()?;
            Some(Self { above, below: 10_i128.pow(part.len() as u32) })
        };
        let Some((above, below)) = number.text.split_once('/') else {
            return plain(&number.text);
        };
        let (a, b) = (plain(above)?, plain(below)?);
        let sign = if b.above < 0 { -1 } else { 1 };
        (b.above != 0).then_some(Self { above: sign * a.above * b.below, below: sign * a.below * b.above })
    }
}
