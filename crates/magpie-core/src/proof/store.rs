//! Every state that is known, as bytes in one place, found again by a table of their numbers.

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

/// Bytes of keys that lie together.
const CHUNK: usize = 1 << 18;

/// The tables of numbers are many, so that none of them takes long to grow.
const TABLES: usize = 256;

/// Packed states by their numbers, and their numbers by what they are.
pub(super) struct Known {
    /// Keys one behind the other, none of them cut by the end of a chunk.
    chunks: Vec<Vec<u8>>,
    /// Where a key begins (chunk and place) and how long it is.
    places: Long<(u32, u32)>,
    lengths: Long<u32>,
    tables: Vec<HashTable<u32>>,
    hasher: DefaultHashBuilder,
    /// Bytes of all chunks and tables.
    bytes: usize,
}

impl Known {
    pub fn new() -> Self {
        let tables = (0..TABLES).map(|_| HashTable::new()).collect();
        Self {
            chunks: Vec::new(),
            places: Long::default(),
            lengths: Long::default(),
            tables,
            hasher: DefaultHashBuilder::default(),
            bytes: 0,
        }
    }

    pub fn len(&self) -> usize {
        self.places.len()
    }

    pub fn bytes(&self) -> usize {
        self.bytes + self.places.bytes() + self.lengths.bytes()
    }

    #[inline]
    pub fn key(&self, state: u32) -> &[u8] {
        let (chunk, start) = self.places.get(state as usize);
        let length = self.lengths.get(state as usize);
        &self.chunks[chunk as usize][start as usize..(start + length) as usize]
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
        self.tables[Self::table(hash)].find(hash, |state| self.key(*state) == key).copied()
    }

    /// Adds a state that is not known; gives its number.
    pub fn add(&mut self, hash: u64, key: &[u8]) -> u32 {
        let number = self.len() as u32;
        if self.chunks.last().is_none_or(|last| last.len() + key.len() > last.capacity().max(CHUNK)) {
            // A small search keeps to a small chunk.
            let room = if self.chunks.is_empty() { key.len() } else { CHUNK.max(key.len()) };
            self.chunks.push(Vec::with_capacity(room));
            self.bytes += room;
        }
        let last = self.chunks.len() - 1;
        let chunk = &mut self.chunks[last];
        let before = chunk.capacity();
        self.places.push((last as u32, chunk.len() as u32));
        self.lengths.push(key.len() as u32);
        chunk.extend_from_slice(key);
        self.bytes += chunk.capacity() - before;
        let Self { tables, chunks, places, lengths, hasher, bytes, .. } = self;
        let table = &mut tables[Self::table(hash)];
        let before = table.allocation_size();
        table.insert_unique(hash, number, |state| {
            let (chunk, start) = places.get(*state as usize);
            let length = lengths.get(*state as usize);
            hasher.hash_one(&chunks[chunk as usize][start as usize..(start + length) as usize])
        });
        *bytes += table.allocation_size() - before;
        number
    }
}
