//! Every state that is known, as bytes in one place, found again by a table of their numbers.

use super::host::Job;
use hashbrown::{DefaultHashBuilder, HashTable};
use std::hash::BuildHasher as _;

/// How many numbers of a list lie together; growing moves none of them.
const PART: usize = 1 << 14;

/// A list that grows without ever moving, or holding more room than it fills and a part.
#[derive(Debug)]
pub(super) struct Long<T> {
    parts: Vec<Vec<T>>,
}

impl<T> Default for Long<T> {
    fn default() -> Self {
        Self { parts: Vec::new() }
    }
}

impl<T: Copy> Long<T> {
    pub fn push(&mut self, value: T) {
        match self.parts.last_mut().filter(|part| part.len() < PART) {
            Some(part) => part.push(value),
            None => {
                // The first part grows with what is in it: most searches are small.
                let mut part = if self.parts.is_empty() { Vec::new() } else { Vec::with_capacity(PART) };
                part.push(value);
                self.parts.push(part);
            }
        }
    }

    #[inline]
    pub fn get(&self, at: usize) -> T {
        self.parts[at / PART][at % PART]
    }

    pub fn iter(&self) -> impl Iterator<Item = T> + '_ {
        self.parts.iter().flatten().copied()
    }

    pub fn len(&self) -> usize {
        self.parts.last().map_or(0, |last| (self.parts.len() - 1) * PART + last.len())
    }

    pub fn bytes(&self) -> usize {
        self.parts.last().map_or(0, |last| ((self.parts.len() - 1) * PART + last.capacity()) * size_of::<T>())
    }
}

/// Bytes of keys that lie together, and of the units in which places are counted.
const CHUNK: usize = 1 << 18;
const UNIT: usize = 4;

/// The tables of numbers are many, so that none of them takes long to grow.
const TABLES: usize = 256;

/// A state in a table: its number, and where its key lies.
#[derive(Clone, Copy)]
struct Entry {
    state: u32,
    place: u32,
}

/// Keys one behind the other, each behind its length, none of them cut by the end of a chunk.
#[derive(Default)]
struct Keys {
    chunks: Vec<Vec<u8>>,
    bytes: usize,
}

impl Keys {
    #[inline]
    fn get(&self, place: u32) -> &[u8] {
        let at = place as usize % (CHUNK / UNIT) * UNIT;
        let bytes = &self.chunks[place as usize / (CHUNK / UNIT)][at..];
        let length = u32::from_le_bytes([bytes[0], bytes[1], bytes[2], bytes[3]]) as usize;
        &bytes[4..4 + length]
    }

    /// Adds a key; gives its place.
    fn add(&mut self, key: &[u8]) -> u32 {
        let room = 4 + key.len().next_multiple_of(UNIT);
        // A place is told by its chunk, so that a chunk is never longer than one, except by a single key.
        if self.chunks.last().is_none_or(|last| last.len() + room > CHUNK) {
            // A small search keeps to a small chunk.
            let room = if self.chunks.is_empty() { room } else { CHUNK.max(room) };
            self.chunks.push(Vec::with_capacity(room));
            self.bytes += room;
        }
        let number = self.chunks.len() - 1;
        let chunk = &mut self.chunks[number];
        let (before, at) = (chunk.capacity(), chunk.len());
        chunk.extend_from_slice(&(key.len() as u32).to_le_bytes());
        chunk.extend_from_slice(key);
        chunk.resize(at + room, 0);
        self.bytes += chunk.capacity() - before;
        (number * (CHUNK / UNIT) + at / UNIT) as u32
    }
}

/// Packed states by their numbers, and their numbers by what they are.
pub(super) struct Known {
    keys: Keys,
    places: Long<u32>,
    tables: Vec<HashTable<Entry>>,
    hasher: DefaultHashBuilder,
    /// States that were added and are not in the tables yet.
    unlisted: Vec<(u64, Entry)>,
    /// Bytes of all tables.
    bytes: usize,
}

impl Known {
    pub fn new() -> Self {
        let tables = (0..TABLES).map(|_| HashTable::new()).collect();
        Self {
            keys: Keys::default(),
            places: Long::default(),
            tables,
            hasher: DefaultHashBuilder::default(),
            unlisted: Vec::new(),
            bytes: 0,
        }
    }

    pub fn len(&self) -> usize {
        self.places.len()
    }

    pub fn bytes(&self) -> usize {
        self.bytes + self.keys.bytes + self.places.bytes()
    }

    /// Whether places run short for as many keys again as a batch may bring.
    pub fn is_nearly_full(&self) -> bool {
        self.keys.chunks.len() > (u32::MAX as usize) / (CHUNK / UNIT) - 4096
    }

    #[inline]
    pub fn key(&self, state: u32) -> &[u8] {
        self.keys.get(self.places.get(state as usize))
    }

    #[inline]
    pub fn hash(&self, key: &[u8]) -> u64 {
        self.hasher.hash_one(key)
    }

    const fn table(hash: u64) -> usize {
        // The tables themselves look at the lowest and the highest bits.
        (hash >> 32) as usize % TABLES
    }

    /// The number of a state that is known.
    #[inline]
    pub fn find(&self, hash: u64, key: &[u8]) -> Option<u32> {
        let found = self.tables[Self::table(hash)].find(hash, |entry| self.keys.get(entry.place) == key);
        found.map(|entry| entry.state)
    }

    /// Adds a state that is not known; gives its number. It is found once it has been [`Known::list`]ed.
    pub fn add(&mut self, hash: u64, key: &[u8]) -> u32 {
        let state = self.len() as u32;
        let place = self.keys.add(key);
        self.places.push(place);
        self.unlisted.push((hash, Entry { state, place }));
        state
    }

    /// Lets the states that were added be found, with so many hands.
    pub fn list(&mut self, hands: usize, work: impl FnOnce(Vec<Job<'_>>)) {
        let Self { tables, keys, hasher, unlisted, .. } = self;
        let (keys, hasher, new) = (&*keys, &*hasher, &*unlisted);
        let share = tables.len().div_ceil(hands);
        let jobs = tables.chunks_mut(share).enumerate().map(|(number, tables)| -> Job {
            Box::new(move || {
                let first = number * share;
                for (hash, entry) in new {
                    if let Some(table) = Self::table(*hash).checked_sub(first).and_then(|at| tables.get_mut(at)) {
                        table.insert_unique(*hash, *entry, |entry| hasher.hash_one(keys.get(entry.place)));
                    }
                }
            })
        });
        work(jobs.collect());
        self.unlisted.clear();
        self.bytes = self.tables.iter().map(HashTable::allocation_size).sum();
    }

    /// Which of so many hands looks after a hash.
    pub const fn hand(hash: u64, hands: usize) -> usize {
        Self::table(hash) / TABLES.div_ceil(hands)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Enough keys for several chunks, of every length, some longer than a chunk.
        #[test]
        fn every_key_is_found_where_it_was_put(
            first in 0_usize..200,
            lengths in prop::collection::vec(prop_oneof![20 => 0_usize..20_000, 1 => Just(CHUNK + 3)], 20..60),
        ) {
            let key = |number: usize, length: usize| -> Vec<u8> { (0..length).map(|at| (at ^ number) as u8).collect() };
            let all: Vec<Vec<u8>> =
                [first].into_iter().chain(lengths).enumerate().map(|(number, length)| key(number, length)).collect();
            let mut keys = Keys::default();
            let places: Vec<u32> = all.iter().map(|key| keys.add(key)).collect();
            for (place, key) in places.into_iter().zip(&all) {
                prop_assert_eq!(keys.get(place), key.as_slice());
            }
            prop_assert_eq!(keys.bytes, keys.chunks.iter().map(Vec::capacity).sum::<usize>());
        }
    }
}
