//! Every state that is known, as bytes in one place, found again by a table of their numbers.

use super::host::Job;
use super::search::NONE;
use hashbrown::DefaultHashBuilder;
use std::hash::BuildHasher as _;
use std::sync::atomic::{AtomicU32, Ordering};

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

/// From this place on slots are claimed for states by their places in the list of the new ones of a batch: where their keys
/// will lie is not known yet.
const CLAIMED: u32 = 0xF000_0000;

/// Nothing comes into the slots of this place any more.
const NEVER: u32 = u32::MAX - 1;

/// Chunks that may be added by one batch.
const SPARE: usize = 4096;

/// Places of keys, found again by the upper half of a hash: one number a slot, so that one look at the memory tells where a
/// key may lie. What does not fit into its slot lies in the next one that is free.
#[derive(Default)]
struct Table {
    /// A place + 1 below the upper half of its hash; 0 where there is none. As many as a power of two, or none.
    slots: Vec<u64>,
    count: usize,
    /// What was claimed for the last batch: slots, and places in its list of new states.
    claims: Vec<(u32, u32)>,
}

impl Table {
    const fn place(slot: u64) -> Option<u32> {
        (slot as u32).checked_sub(1)
    }

    const fn slot(hash: u64, place: u32) -> u64 {
        hash >> 32 << 32 | (place as u64 + 1)
    }

    const fn is_of(slot: u64, hash: u64) -> bool {
        slot >> 32 == hash >> 32
    }

    #[inline]
    fn first(&self, hash: u64) -> usize {
        (hash >> 32) as usize & self.slots.len().wrapping_sub(1)
    }

    /// The first answer of the slots in which a hash may be found.
    #[inline]
    fn probe<T>(&self, hash: u64, answer: impl Fn(u64) -> Option<T>) -> Option<T> {
        let mut at = self.first(hash);
        loop {
            let slot = self.slots.get(at).copied().filter(|slot| *slot != 0)?;
            if let Some(answer) = Some(slot).filter(|slot| Self::is_of(*slot, hash)).and_then(&answer) {
                return Some(answer);
            }
            at = (at + 1) & (self.slots.len() - 1);
        }
    }

    /// Finds the new state that has claimed a slot and is the same as one, or claims one for it.
    fn claim(&mut self, hash: u64, new: u32, is_same: impl Fn(u32) -> bool) -> u32 {
        if (self.count + 1) * 4 > self.slots.len() * 3 {
            self.grow();
        }
        let mut at = self.first(hash);
        while self.slots[at] != 0 {
            let other = Self::claimed(self.slots[at]).filter(|_| Self::is_of(self.slots[at], hash));
            if let Some(other) = other.filter(|other| is_same(*other)) {
                return other;
            }
            at = (at + 1) & (self.slots.len() - 1);
        }
        self.slots[at] = Self::slot(hash, CLAIMED + new);
        self.count += 1;
        self.claims.push((at as u32, new));
        new
    }

    /// Who has claimed a slot that has not been settled.
    fn claimed(slot: u64) -> Option<u32> {
        Self::place(slot).filter(|place| *place != NEVER)?.checked_sub(CLAIMED)
    }

    fn grow(&mut self) {
        let more = vec![0; (self.slots.len() * 2).max(4)];
        let old = std::mem::replace(&mut self.slots, more);
        for slot in old.into_iter().filter(|slot| *slot != 0) {
            let mut at = self.first(slot);
            while self.slots[at] != 0 {
                at = (at + 1) & (self.slots.len() - 1);
            }
            self.slots[at] = slot;
        }
        let claims = self.slots.iter().zip(0..).filter_map(|(slot, at)| Some((at, Self::claimed(*slot)?)));
        self.claims.clear();
        self.claims.extend(claims);
    }

    /// Puts the places of keys where they were claimed. What has claimed one and was never added is not found.
    fn settle(&mut self, place: impl Fn(u32) -> Option<u32>) {
        for (at, new) in self.claims.drain(..) {
            let slot = &mut self.slots[at as usize];
            *slot = Self::slot(*slot, place(new).unwrap_or(NEVER));
        }
    }

    const fn bytes(&self) -> usize {
        self.slots.capacity() * size_of::<u64>() + self.claims.capacity() * size_of::<(u32, u32)>()
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

/// The new states of a batch, in a list in which some are the same.
#[derive(Default)]
struct News {
    /// For each the one that stands for all that are the same.
    first: Vec<AtomicU32>,
    /// The numbers of these and where their keys lie; [`NONE`] where one was not added.
    added: Vec<(u32, u32)>,
}

impl News {
    /// Where the key of one lies.
    fn place(&self, new: u32) -> Option<u32> {
        self.added.get(new as usize).map(|(_, place)| *place).filter(|place| *place != NONE)
    }
}

/// Packed states by their numbers, and their numbers by what they are.
pub(super) struct Known {
    keys: Keys,
    places: Long<u32>,
    tables: Vec<Table>,
    hasher: DefaultHashBuilder,
    /// Those of the last batch.
    news: News,
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
            news: News::default(),
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
        self.keys.chunks.len() > CLAIMED as usize / (CHUNK / UNIT) - SPARE
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

    /// Where the key of a slot lies, if there is one.
    #[inline]
    fn place(&self, slot: u64) -> Option<u32> {
        let place = Table::place(slot)?;
        match place.checked_sub(CLAIMED) {
            Some(new) => self.news.place(new),
            None => Some(place),
        }
    }

    /// The number of a state that is known.
    #[inline]
    pub fn find(&self, hash: u64, key: &[u8]) -> Option<u32> {
        self.tables[Self::table(hash)].probe(hash, |slot| {
            let place = self.place(slot).filter(|place| self.keys.get(*place) == key)?;
            Some(self.keys.head(place).0)
        })
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
            let place = if Table::is_of(*slot, hash) { self.place(*slot) } else { None };
            let others = || self.tables[Self::table(hash)].probe(hash, |slot| self.place(slot));
            let place = place.or_else(|| if *slot == 0 { None } else { others() })?;
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

    /// Takes the new states of a batch, of which some are the same and none is known: so many of them, with their hashes and
    /// keys. They are told by their places in this list until they are added. Worked at by so many hands.
    pub fn expect<'k>(
        &mut self,
        all: usize,
        hashes: &(impl Iterator<Item = u64> + Clone + Sync),
        key: impl Fn(u32) -> &'k [u8] + Sync,
        (hands, work): (usize, impl FnOnce(Vec<Job<'_>>)),
    ) {
        let Self { tables, news, .. } = self;
        let first: Vec<AtomicU32> = (0..all).map(|_| AtomicU32::new(NONE)).collect();
        let share = tables.len().div_ceil(hands);
        let jobs = tables.chunks_mut(share).enumerate().map(|(number, tables)| -> Job {
            let (first, news, key) = (&first, &*news, &key);
            // Each hand looks after its share of the hashes, so that none waits for another.
            Box::new(move || {
                tables.iter_mut().for_each(|table| table.settle(|new| news.place(new)));
                hashes.clone().enumerate().for_each(|(new, hash)| {
                    let table = Self::table(hash).checked_sub(number * share).and_then(|at| tables.get_mut(at));
                    if let Some(table) = table {
                        let same = table.claim(hash, new as u32, |other| key(other) == key(new as u32));
                        first[new].store(same, Ordering::Relaxed);
                    }
                });
            })
        });
        work(jobs.collect());
        *news = News { first, added: vec![(NONE, NONE); all] };
        self.bytes = self.tables.iter().map(Table::bytes).sum();
    }

    /// The number of a state of the last batch, once it or one that is the same has been added; [`NONE`] before.
    #[inline]
    pub fn number(&self, new: usize) -> u32 {
        self.news.added[self.news.first[new].load(Ordering::Relaxed) as usize].0
    }

    /// Adds a state of the last batch that has no number yet; gives its number.
    pub fn add(&mut self, new: usize, key: &[u8]) -> u32 {
        let state = self.len() as u32;
        let place = self.keys.add(state, key);
        self.places.push(place);
        let News { first, added } = &mut self.news;
        added[*first[new].get_mut() as usize] = (state, place);
        state
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

        /// Few hashes for many keys, so that they get into each other's way; in batches in which some are the same and some are
        /// not added in the end, by several hands.
        #[test]
        fn known_states_are_found_by_their_numbers(
            batches in prop::collection::vec(prop::collection::vec((0_u64..6, 0_u16..2_000, 0..8), 0..300), 1..5),
            hands in 1_usize..4,
        ) {
            let hash = |hash: u64| (hash << 62) | (hash << 33) | (hash % 2);
            let mut known = Known::new();
            let mut all: Vec<(u64, Vec<u8>)> = Vec::new();
            let mut left: Vec<(u64, Vec<u8>)> = Vec::new();
            for batch in batches {
                let states = batch.iter().map(|(of, key, _)| (hash(*of), key.to_le_bytes().to_vec()));
                let states = states.zip(&batch).filter(|(state, _)| !all.contains(state));
                let (new, chances): (Vec<_>, Vec<_>) = states.map(|(state, (_, _, chance))| (state, *chance)).unzip();
                let work = |jobs: Vec<Job>| std::thread::scope(|scope| jobs.into_iter().for_each(|job| drop(scope.spawn(job))));
                let hashes = new.iter().map(|(hash, _)| *hash);
                known.expect(new.len(), &hashes, |at| new[at as usize].1.as_slice(), (hands, work));
                for (at, state) in new.iter().enumerate().filter(|(at, _)| chances[*at] > 0) {
                    let before = all.iter().position(|other| other == state).map_or(NONE, |number| number as u32);
                    prop_assert_eq!(known.number(at), before);
                    if before == NONE {
                        prop_assert_eq!(known.add(at, &state.1), all.len() as u32);
                        all.push(state.clone());
                    }
                }
                left.extend(new);
                left.retain(|state| !all.contains(state));
                // Others with the same hashes, and the same keys behind another hash, are not known.
                let longer = |(of, key): &(u64, Vec<u8>)| (*of, [key.as_slice(), &[0]].concat());
                let strange: Vec<_> = all.iter().map(longer).chain([(hash(7), vec![0, 0])]).chain(left.clone()).collect();
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
