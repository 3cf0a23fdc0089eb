//! Lists and keys that grow without being moved.

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

    /// Pushes several, as many at once as a part has room for.
    pub fn extend(&mut self, mut values: &[T]) {
        while let Some((first, others)) = values.split_first() {
            self.push(*first);
            let room = self.parts.last().map_or(0, |part| part.capacity() - part.len());
            let (now, later) = others.split_at(room.min(others.len()));
            if let Some(part) = self.parts.last_mut() {
                part.extend_from_slice(now);
            }
            values = later;
        }
    }

    /// Pushes one where the last part is full.
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
pub(super) const UNIT: usize = 4;

/// The chunk of a place, and the byte of it.
const fn spot(place: u32) -> (usize, usize) {
    (place as usize / (CHUNK / UNIT), place as usize % (CHUNK / UNIT) * UNIT)
}

/// Chunks of which places can be told by a number below one.
pub(super) const fn chunks_below(place: u32) -> usize {
    spot(place).0
}

/// Bytes before a key.
const HEAD: usize = 8;

/// Writes a key as keys are kept: behind its number, which is not known yet, and its length.
pub(super) fn write_record(key: &[u8], records: &mut Vec<u8>) {
    records.extend_from_slice(&u32::MAX.to_le_bytes());
    records.extend_from_slice(&(key.len() as u32).to_le_bytes());
    records.extend_from_slice(key);
    records.resize(records.len().next_multiple_of(UNIT), 0);
}

/// Writes the number of a record.
#[inline]
pub(super) fn set_number(record: &mut [u8], number: u32) {
    record[..4].copy_from_slice(&number.to_le_bytes());
}

/// The key of a record that others may follow.
#[inline]
pub(super) fn key_of(record: &[u8]) -> &[u8] {
    &record[HEAD..HEAD + number(record, 4) as usize]
}

fn number(bytes: &[u8], at: usize) -> u32 {
    u32::from_le_bytes([bytes[at], bytes[at + 1], bytes[at + 2], bytes[at + 3]])
}

/// Keys one behind the other, each behind its number and its length, none of them cut by the end of a chunk.
#[derive(Default)]
pub(super) struct Keys {
    chunks: Vec<Vec<u8>>,
    bytes: usize,
}

impl Keys {
    pub const fn bytes(&self) -> usize {
        self.bytes
    }

    pub const fn chunks(&self) -> usize {
        self.chunks.len()
    }

    #[inline]
    fn from(&self, place: u32) -> &[u8] {
        let (chunk, at) = spot(place);
        &self.chunks[chunk][at..]
    }

    /// The number of the key in a place, and how long it is.
    #[inline]
    pub fn head(&self, place: u32) -> (u32, usize) {
        let bytes = self.from(place);
        (number(bytes, 0), number(bytes, 4) as usize)
    }

    #[inline]
    pub fn get(&self, place: u32) -> &[u8] {
        key_of(self.from(place))
    }

    /// Whether a key lies in a place where one of so many bytes does.
    #[inline]
    pub fn is_there(&self, place: u32, length: usize, key: &[u8]) -> bool {
        length == key.len() && self.from(place)[HEAD..HEAD + length] == *key
    }

    /// Adds [records](write_record) that lie one behind the other, as many at once as a chunk has room for. Of each it is told
    /// how many units it lies behind the first; that becomes its place.
    pub fn lay(&mut self, records: &[u8], places: &mut [u32]) {
        let end = records.len() / UNIT;
        let mut rest = places;
        while let Some(begin) = rest.first().map(|place| *place as usize) {
            let used = self.chunks.last().map_or(CHUNK, Vec::len);
            let limit = begin + CHUNK.saturating_sub(used) / UNIT;
            let mut count =
                if end <= limit { rest.len() } else { rest.partition_point(|place| *place as usize <= limit) - 1 };
            let after = |count: usize, rest: &[u32]| rest.get(count).map_or(end, |place| *place as usize);
            if count == 0 {
                // A place is told by its chunk, so that a chunk is never longer than one, except by a single key.
                let one = (after(1, rest) - begin) * UNIT;
                // A small search keeps to a small chunk.
                let room = if self.chunks.is_empty() { (end - begin) * UNIT } else { CHUNK };
                self.chunks.push(Vec::with_capacity(room.min(CHUNK).max(one)));
                self.bytes += self.chunks.last().map_or(0, Vec::capacity);
                if one <= CHUNK {
                    continue;
                }
                count = 1;
            }
            let until = after(count, rest);
            let last = self.chunks.len() - 1;
            let chunk = &mut self.chunks[last];
            let (before, first) = (chunk.capacity(), last * (CHUNK / UNIT) + chunk.len() / UNIT);
            chunk.extend_from_slice(&records[begin * UNIT..until * UNIT]);
            self.bytes += chunk.capacity() - before;
            let (laid, others) = rest.split_at_mut(count);
            laid.iter_mut().for_each(|place| *place = (first + *place as usize - begin) as u32);
            rest = others;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Singly and many at once, over the ends of parts.
        #[test]
        fn a_list_holds_what_was_added_in_its_order(counts in prop::collection::vec(0_usize..PART * 2, 1..8)) {
            let (mut list, mut expected) = (Long::default(), Vec::new());
            for count in counts {
                let more: Vec<u32> = (expected.len() as u32..).take(count).collect();
                list.extend(&more);
                expected.extend(more);
                list.push(7);
                expected.push(7);
                prop_assert_eq!(list.len(), expected.len());
                prop_assert_eq!(list.get(expected.len() / 2), expected[expected.len() / 2]);
                prop_assert!(list.bytes() <= expected.len().next_multiple_of(PART) * size_of::<u32>());
            }
            prop_assert_eq!(list.iter().collect::<Vec<_>>(), expected);
        }

        /// Enough keys for several chunks, of every length, some longer than a chunk, laid a few at once.
        #[test]
        fn every_key_is_found_where_it_was_put(
            lengths in prop::collection::vec(prop_oneof![20 => 0_usize..20_000, 1 => Just(CHUNK + 3)], 20..60),
            together in prop::collection::vec(1_usize..30, 60),
        ) {
            let key = |number: usize| -> Vec<u8> { (0..lengths[number]).map(|at| (at ^ number) as u8).collect() };
            let mut keys = Keys::default();
            let mut all: Vec<u32> = Vec::new();
            for count in together {
                let (mut records, mut places) = (Vec::new(), Vec::new());
                for number in all.len()..lengths.len().min(all.len() + count) {
                    places.push((records.len() / UNIT) as u32);
                    write_record(&key(number), &mut records);
                    let last = places.last().map_or(0, |place| *place as usize * UNIT);
                    prop_assert_eq!(key_of(&records[last..]), key(number));
                }
                for (place, number) in places.iter().zip(all.len()..) {
                    set_number(&mut records[*place as usize * UNIT..], number as u32 + 7);
                }
                keys.lay(&records, &mut places);
                all.extend(places);
            }
            prop_assert_eq!(all.len(), lengths.len());
            for (number, place) in all.into_iter().enumerate() {
                let (found, length) = keys.head(place);
                prop_assert_eq!((found, length), (number as u32 + 7, lengths[number]));
                prop_assert_eq!(keys.get(place), key(number));
                prop_assert!(keys.is_there(place, length, &key(number)));
                prop_assert!(chunks_below(place) < keys.chunks());
            }
            prop_assert_eq!(keys.bytes, keys.chunks.iter().map(Vec::capacity).sum::<usize>());
            prop_assert!(keys.chunks.iter().all(|chunk| chunk.len() <= CHUNK || chunk.len() == (HEAD + CHUNK + 4)));
        }
    }
}
