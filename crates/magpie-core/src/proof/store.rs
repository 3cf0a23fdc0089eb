//! Every state that is known, as bytes in one place, found again by a table of their numbers.

use super::host::Job;
use hashbrown::DefaultHashBuilder;
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
    #[inline]
    pub fn push(&mut self, value: T) {
        match self.parts.last_mut().filter(|part| part.len() < part.capacity()) {
            Some(part) => part.push(value),
            None => self.push_further(value),
        }
    }

    /// The same where the last part is full.
    #[cold]
    fn push_further(&mut self, value: T) {
        match self.parts.last_mut().filter(|part| part.len() < PART) {
            // The first part grows with what is in it: most searches are small.
            Some(part) => {
                part.reserve_exact(part.len().min(PART - part.len()));
                part.push(value);
            }
            None => {
                let mut part = Vec::with_capacity(if self.parts.is_empty() { 4 } else { PART });
                part.push(value);
                self.parts.push(part);
            }
        }
    }

    #[inline]
    pub fn get(&self, at: usize) -> T {
        self.parts[at / PART][at % PART]
    }

    pub fn last(&self) -> Option<T> {
        self.parts.last().and_then(|part| part.last()).copied()
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

/// The tables of places are many, so that none of them takes long to grow.
const TABLES: usize = 256;

/// Places of keys, found again by the upper half of a hash: one number a slot, so that one look at the memory tells where a
/// key may lie. What does not fit into its slot lies in the next one that is free.
#[derive(Default)]
struct Table {
    /// A place + 1 below the upper half of its hash; 0 where there is none. As many as a power of two, or none.
    slots: Vec<u64>,
    count: usize,
}

impl Table {
    const fn place(slot: u64) -> Option<u32> {
        (slot as u32).checked_sub(1)
    }

    const fn is_of(slot: u64, hash: u64) -> bool {
        slot >> 32 == hash >> 32
    }

    #[inline]
    fn first(&self, hash: u64) -> usize {
        (hash >> 32) as usize & self.slots.len().wrapping_sub(1)
    }

    /// The slots in which a hash may be found, one after the other.
    #[inline]
    fn slots(&self, hash: u64) -> impl Iterator<Item = u64> + '_ {
        let (before, from) = self.slots.split_at(self.first(hash).min(self.slots.len()));
        let taken = from.iter().chain(before).copied().take_while(|slot| *slot != 0);
        taken.filter(move |slot| Self::is_of(*slot, hash))
    }

    fn add(&mut self, hash: u64, place: u32) {
        if (self.count + 1) * 4 > self.slots.len() * 3 {
            let more = vec![0; (self.slots.len() * 2).max(4)];
            let old = std::mem::replace(&mut self.slots, more);
            old.into_iter().filter(|slot| *slot != 0).for_each(|slot| self.put(slot));
        }
        self.put(hash >> 32 << 32 | (u64::from(place) + 1));
        self.count += 1;
    }

    fn put(&mut self, slot: u64) {
        let mut at = self.first(slot);
        while self.slots[at] != 0 {
            at = (at + 1) % self.slots.len();
        }
        self.slots[at] = slot;
    }

    const fn bytes(&self) -> usize {
        self.slots.capacity() * size_of::<u64>()
    }
}

/// What was found for several states at once.
#[derive(Default)]
pub(super) struct Answers {
    slots: Vec<u64>,
    likely: Vec<Option<(u32, u32, usize)>>,
    found: Vec<Option<u32>>,
}

/// Keys one behind the other, each behind its number and its length, none of them cut by the end of a chunk.
#[derive(Default)]
struct Keys {
    chunks: Vec<Vec<u8>>,
    bytes: usize,
}

/// Bytes before a key.
const HEAD: usize = 8;

impl Keys {
    #[inline]
    fn from(&self, place: u32) -> &[u8] {
        &self.chunks[place as usize / (CHUNK / UNIT)][place as usize % (CHUNK / UNIT) * UNIT..]
    }

    /// The number of the key in a place, and how long it is.
    #[inline]
    fn head(&self, place: u32) -> (u32, usize) {
        let bytes = self.from(place);
        let number = |at: usize| u32::from_le_bytes([bytes[at], bytes[at + 1], bytes[at + 2], bytes[at + 3]]);
        (number(0), number(4) as usize)
    }

    #[inline]
    fn get(&self, place: u32) -> &[u8] {
        let (_, length) = self.head(place);
        &self.from(place)[HEAD..HEAD + length]
    }

    /// Adds a key with its number; gives its place.
    fn add(&mut self, number: u32, key: &[u8]) -> u32 {
        let room = HEAD + key.len().next_multiple_of(UNIT);
        // A place is told by its chunk, so that a chunk is never longer than one, except by a single key.
        if self.chunks.last().is_none_or(|last| last.len() + room > CHUNK) {
            // A small search keeps to a small chunk.
            let room = if self.chunks.is_empty() { room } else { CHUNK.max(room) };
            self.chunks.push(Vec::with_capacity(room));
            self.bytes += room;
        }
        let last = self.chunks.len() - 1;
        let chunk = &mut self.chunks[last];
        let (before, at) = (chunk.capacity(), chunk.len());
        chunk.resize(at + room, 0);
        let place = &mut chunk[at..];
        place[..4].copy_from_slice(&number.to_le_bytes());
        place[4..HEAD].copy_from_slice(&(key.len() as u32).to_le_bytes());
        place[HEAD..HEAD + key.len()].copy_from_slice(key);
        self.bytes += chunk.capacity() - before;
        (last * (CHUNK / UNIT) + at / UNIT) as u32
    }
}

/// Packed states by their numbers, and their numbers by what they are.
pub(super) struct Known {
    keys: Keys,
    places: Long<u32>,
    tables: Vec<Table>,
    hasher: DefaultHashBuilder,
    /// Hashes and places of states that were added and are not in the tables yet.
    unlisted: Vec<(u64, u32)>,
    /// Bytes of all tables.
    bytes: usize,
}

impl Known {
    pub fn new() -> Self {
        Self {
            keys: Keys::default(),
            places: Long::default(),
            tables: (0..TABLES).map(|_| Table::default()).collect(),
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

    /// Bytes in which keys lie.
    pub const fn key_bytes(&self) -> usize {
        self.keys.bytes
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
        // The tables themselves look at the upper half.
        hash as usize % TABLES
    }

    /// The number of a state that is known.
    #[inline]
    pub fn find(&self, hash: u64, key: &[u8]) -> Option<u32> {
        let mut places = self.tables[Self::table(hash)].slots(hash).filter_map(Table::place);
        places.find(|place| self.keys.get(*place) == key).map(|place| self.keys.head(place).0)
    }

    /// The numbers of states that are known, for several at once: first all tables are looked at, then the heads of all keys,
    /// then the keys, so that the memory fetches for one while another waits.
    pub fn find_all<'a, 'k>(
        &self,
        asked: impl Iterator<Item = (u64, &'k [u8])> + Clone,
        Answers { slots, likely, found }: &'a mut Answers,
    ) -> &'a [Option<u32>] {
        slots.clear();
        slots.extend(asked.clone().map(|(hash, _)| {
            let table = &self.tables[Self::table(hash)];
            table.slots.get(table.first(hash)).copied().unwrap_or(0)
        }));
        likely.clear();
        likely.extend(slots.iter().zip(asked.clone()).map(|(slot, (hash, _))| {
            let place = Table::place(*slot).filter(|_| Table::is_of(*slot, hash));
            let place = place.or_else(|| self.tables[Self::table(hash)].slots(hash).find_map(Table::place))?;
            let (number, length) = self.keys.head(place);
            Some((place, number, length))
        }));
        found.clear();
        found.extend(likely.iter().zip(asked).map(|(likely, (hash, key))| {
            let (place, number, length) = (*likely)?;
            let is_it = length == key.len() && self.keys.from(place)[HEAD..HEAD + length] == *key;
            if is_it { Some(number) } else { self.find(hash, key) }
        }));
        found
    }

    /// Adds a state that is not known; gives its number. It is found once it has been [`Known::list`]ed.
    pub fn add(&mut self, hash: u64, key: &[u8]) -> u32 {
        let state = self.len() as u32;
        let place = self.keys.add(state, key);
        self.places.push(place);
        self.unlisted.push((hash, place));
        state
    }

    /// Lets the states that were added be found, with so many hands.
    pub fn list(&mut self, hands: usize, work: impl FnOnce(Vec<Job<'_>>)) {
        let Self { tables, unlisted, .. } = self;
        let share = tables.len().div_ceil(hands);
        let new = &*unlisted;
        let jobs = tables.chunks_mut(share).enumerate().map(|(number, tables)| -> Job {
            Box::new(move || {
                let first = number * share;
                for (hash, place) in new {
                    if let Some(table) = Self::table(*hash).checked_sub(first).and_then(|at| tables.get_mut(at)) {
                        table.add(*hash, *place);
                    }
                }
            })
        });
        work(jobs.collect());
        self.unlisted.clear();
        self.bytes = self.tables.iter().map(Table::bytes).sum();
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
            let places: Vec<u32> = all.iter().zip(7..).map(|(key, number)| keys.add(number, key)).collect();
            for ((place, key), number) in places.into_iter().zip(&all).zip(7..) {
                prop_assert_eq!(keys.get(place), key.as_slice());
                prop_assert_eq!(keys.head(place), (number, key.len()));
            }
            prop_assert_eq!(keys.bytes, keys.chunks.iter().map(Vec::capacity).sum::<usize>());
        }

        /// Few hashes for many keys, so that they get into each other's way; added in batches, by several hands.
        #[test]
        fn known_states_are_found_by_their_numbers(
            batches in prop::collection::vec(prop::collection::vec((0_u64..6, any::<u16>()), 0..300), 1..5),
            hands in 1_usize..4,
        ) {
            let hash = |hash: u64| (hash << 62) | (hash << 33) | (hash % 2);
            let mut known = Known::new();
            let mut all: Vec<(u64, Vec<u8>)> = Vec::new();
            for batch in batches {
                for (of, key) in batch {
                    let state = (hash(of), key.to_le_bytes().to_vec());
                    if !all.contains(&state) {
                        prop_assert_eq!(known.add(state.0, &state.1), all.len() as u32);
                        all.push(state);
                    }
                }
                known.list(hands, |jobs| jobs.into_iter().for_each(|job| job()));
                // Others with the same hashes, and the same keys behind another hash, are not known.
                let longer = |(of, key): &(u64, Vec<u8>)| (*of, [key.as_slice(), &[0]].concat());
                let strange: Vec<_> = all.iter().map(longer).chain([(hash(7), vec![0, 0])]).collect();
                let asked: Vec<_> = all.iter().chain(&strange).map(|(hash, key)| (*hash, key.as_slice())).collect();
                let expected: Vec<_> =
                    (0..all.len() as u32).map(Some).chain(strange.iter().map(|_| None)).collect();
                let one_by_one: Vec<_> = asked.iter().map(|(hash, key)| known.find(*hash, key)).collect();
                prop_assert_eq!(&one_by_one, &expected);
                let mut answers = Answers::default();
                prop_assert_eq!(known.find_all(asked.iter().copied(), &mut answers), expected.as_slice());
            }
            for (state, (_, key)) in (0..).zip(&all) {
                prop_assert_eq!(known.key(state), key.as_slice());
            }
        }
    }
}
