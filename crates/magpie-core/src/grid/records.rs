//! What stands otherwise than in a base, slot by slot: numbers of one width, which lie in a key one behind the other in the
//! order of their slots.

use crate::rulebook::KindId;
use crate::space::Heading;

/// How slots, kinds and headings share a number: the slot above the heading above the kind.
pub(super) struct Layout {
    /// The kinds of which a heading is told: that some rule reads.
    headings: Vec<bool>,
    kind_bits: u32,
    symbol_bits: u32,
    /// Bytes of a number.
    width: usize,
}

/// How many bits tell so many numbers apart.
const fn bits(numbers: usize) -> u32 {
    usize::BITS - numbers.saturating_sub(1).leading_zeros()
}

impl Layout {
    /// For so many slots, and the kinds of which some are told with their headings.
    pub fn new(slots: usize, headings: &[bool]) -> Self {
        // Nobody, and no heading, are told too.
        let kind_bits = bits(headings.len() + 1);
        let symbol_bits = kind_bits + if headings.contains(&true) { bits(Heading::ALL.len() + 1) } else { 0 };
        let width = match symbol_bits + bits(slots) {
            ..=16 => 2,
            17..=32 => 4,
            _ => 8,
        };
        Self { headings: headings.to_vec(), kind_bits, symbol_bits, width }
    }

    /// What stands in a slot as a number: 0 for nobody.
    #[inline]
    pub fn symbol(&self, stands: Option<(KindId, Option<Heading>)>) -> u32 {
        stands.map_or(0, |(kind, heading)| {
            let heading = heading.filter(|_| self.tells_heading(kind)).map_or(0, |heading| heading as u32 + 1);
            heading << self.kind_bits | (u32::from(kind.0) + 1)
        })
    }

    /// Whether pieces of a kind are told with their heading.
    pub fn tells_heading(&self, kind: KindId) -> bool {
        self.headings[usize::from(kind.0)]
    }

    /// How many symbols there may be.
    pub const fn symbols(&self) -> u32 {
        1 << self.symbol_bits
    }

    /// The kind of a symbol.
    pub const fn kind(&self, symbol: u32) -> Option<KindId> {
        match symbol & ((1 << self.kind_bits) - 1) {
            0 => None,
            kind => Some(KindId(kind as u16 - 1)),
        }
    }

    /// The heading of a symbol.
    pub fn heading(&self, symbol: u32) -> Option<Heading> {
        let number = (symbol >> self.kind_bits).checked_sub(1)?;
        Heading::ALL.into_iter().find(|heading| *heading as u32 == number)
    }

    /// A slot with what stands there.
    pub fn record(&self, slot: u32, symbol: u32) -> u64 {
        u64::from(slot) << self.symbol_bits | u64::from(symbol)
    }

    /// A record taken apart.
    pub const fn parts(&self, record: u64) -> (u32, u32) {
        ((record >> self.symbol_bits) as u32, (record & ((1 << self.symbol_bits) - 1)) as u32)
    }

    /// The greatest record of the slot of a record.
    pub const fn last_of_slot(&self, record: u64) -> u64 {
        record | ((1 << self.symbol_bits) - 1)
    }

    /// Writes a key: how many records there are, the records, and what is to lie behind them.
    pub fn write(&self, records: &[u64], behind: &[u8], into: &mut Vec<u8>) {
        let end = (1 + records.len()) * self.width;
        into.resize(end + behind.len(), 0);
        let (places, rest) = into.split_at_mut(end);
        let (count, places) = places.split_at_mut(self.width);
        self.fill(&[records.len() as u64], count);
        self.fill(records, places);
        rest.copy_from_slice(behind);
    }

    fn fill(&self, records: &[u64], places: &mut [u8]) {
        if self.width == 2 {
            let places = places.as_chunks_mut().0.iter_mut();
            places.zip(records).for_each(|(place, record)| *place = (*record as u16).to_le_bytes());
        } else {
            let places = places.chunks_exact_mut(self.width);
            places.zip(records).for_each(|(place, record)| place.copy_from_slice(&record.to_le_bytes()[..self.width]));
        }
    }

    /// Tells the records of a key, and gives what lies behind them.
    #[inline]
    pub fn read<'a>(&self, key: &'a [u8], mut each: impl FnMut(u64)) -> &'a [u8] {
        let number = |bytes: &[u8]| bytes.iter().rev().fold(0, |number, byte| number << 8 | u64::from(*byte));
        let (count, rest) = key.split_at(self.width);
        let (records, rest) = rest.split_at(number(count) as usize * self.width);
        if self.width == 2 {
            records.as_chunks().0.iter().for_each(|bytes| each(u16::from_le_bytes(*bytes).into()));
        } else {
            records.chunks_exact(self.width).for_each(|bytes| each(number(bytes)));
        }
        rest
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn heading() -> impl Strategy<Value = Option<Heading>> {
        prop::option::of(prop::sample::select(Heading::ALL.to_vec()))
    }

    proptest! {
        /// In every width: the most slots and kinds of it, and any number of records.
        #[test]
        fn records_are_read_as_they_were_written(
            (slots, kinds, headings) in prop_oneof![
                (1_usize..=256, 1_usize..=15, any::<bool>()),
                (1_usize..=1 << 20, 1_usize..=200, any::<bool>()),
                (1_usize..=1 << 32, 1_usize..=usize::from(u16::MAX), any::<bool>()),
            ],
            some in prop::collection::vec((any::<u32>(), any::<u16>(), heading()), 0..20),
            rest in prop::collection::vec(any::<u8>(), 0..5),
        ) {
            let layout = Layout::new(slots, &vec![headings; kinds]);
            let stands: Vec<_> = some
                .iter()
                .map(|(slot, kind, heading)| {
                    let slot = (*slot as usize % slots) as u32;
                    (slot, KindId((usize::from(*kind) % kinds) as u16), heading.filter(|_| headings))
                })
                .collect();
            let records: Vec<u64> =
                stands.iter().map(|(slot, kind, way)| layout.record(*slot, layout.symbol(Some((*kind, *way))))).collect();
            let mut key = vec![255; rest.len() * 9];
            layout.write(&records, &rest, &mut key);
            let mut read = Vec::new();
            let left = layout.read(&key, |record| {
                let (slot, symbol) = layout.parts(record);
                read.push((slot, layout.kind(symbol).unwrap(), layout.heading(symbol)));
            });
            prop_assert_eq!(read, stands);
            prop_assert_eq!(left, rest.as_slice());
            prop_assert_eq!(layout.kind(0), None);
            prop_assert_eq!(layout.parts(layout.record((slots - 1) as u32, 0)), ((slots - 1) as u32, 0));
        }
    }
}
