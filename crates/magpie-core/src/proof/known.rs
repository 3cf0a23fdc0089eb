//! Every state that is known, found again by a table of places. All hands look there at once, and each claims slots for the
//! states that it finds new, so that two of them seldom come with the same one.

use super::host::{Host, Job};
use super::search::{NONE, do_all};
use super::store::{Keys, Long, UNIT, chunks_below, key_of, set_number, write_record};
use hashbrown::DefaultHashBuilder;
use std::hash::BuildHasher as _;
use std::ops::Range;
use std::sync::atomic::{AtomicU64, Ordering};

/// The tables of places are many, so that none of them takes long to grow.
const TABLES: usize = 64;

/// From this place on slots are claimed: where the key will lie is not known yet.
const CLAIMED: u32 = 0xF000_0000;

/// Claims of a batch and of the one before it are told apart by this bit.
const TURN: u32 = 1 << 27;

/// Most hands, so that each of them can claim as many slots as there are inputs in a batch of all.
pub(super) const MOST_HANDS: usize = 64;

/// Chunks that may be added by one batch.
const SPARE: usize = 4096;

/// Places of keys, found again by the upper half of a hash: one number a slot, so that one look at the memory tells where a
/// key may lie. What does not fit into its slot lies in the next one that is free.
#[derive(Default)]
struct Table {
    /// A place + 1 below the upper half of its hash; 0 where there is none. As many as a power of two, or none.
    slots: Vec<AtomicU64>,
    count: usize,
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

    #[inline]
    fn get(&self, at: usize) -> u64 {
        self.slots.get(at).map_or(0, |slot| slot.load(Ordering::Relaxed))
    }

    /// All slots, from the first in which a hash may be found on.
    #[inline]
    fn probe(&self, hash: u64) -> impl Iterator<Item = usize> {
        let (first, mask) = (self.first(hash), self.slots.len().wrapping_sub(1));
        (0..self.slots.len()).map(move |step| (first + step) & mask)
    }

    /// The first answer of the slots in which a hash may be found.
    #[inline]
    fn find<T>(&self, hash: u64, mut answer: impl FnMut(u64) -> Option<T>) -> Option<T> {
        let all = self.probe(hash).map(|at| self.get(at)).take_while(|slot| *slot != 0);
        all.filter(|slot| Self::is_of(*slot, hash)).find_map(&mut answer)
    }

    /// How many slots there must be with so many more.
    fn size_with(&self, more: usize) -> usize {
        let mut size = self.slots.len().max(4);
        while self.count * 4 > size * 3 || (self.count + more) * 16 > size * 15 {
            size *= 2;
        }
        size
    }

    /// Makes room for so many more; slots that are still claimed are given the places that are known by now.
    fn make_room(&mut self, more: usize, place: impl Fn(u32) -> Option<u32>) {
        let slots = (0..self.size_with(more)).map(|_| AtomicU64::new(0)).collect();
        for slot in std::mem::replace(&mut self.slots, slots) {
            let slot = slot.into_inner();
            let Some(place) = Self::place(slot).and_then(&place) else { continue };
            let free = self.probe(slot).find(|at| self.get(*at) == 0);
            if let Some(free) = free {
                *self.slots[free].get_mut() = Self::slot(slot, place);
            }
        }
    }

    const fn bytes(&self) -> usize {
        self.slots.capacity() * size_of::<u64>()
    }
}

/// A state that a hand has found new.
#[derive(Clone, Copy)]
struct New {
    /// The slot that was claimed for it.
    at: u32,
    table: u8,
    /// Any turn would end the game in it.
    is_to_end: bool,
}

/// What a hand has found new, one behind the other, with the number of the first.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Run {
    pub hand: usize,
    pub news: Range<u32>,
    pub number: u32,
}

/// The places of some of what a hand has found new, in any list of it.
pub(super) const fn spread(news: &Range<u32>) -> Range<usize> {
    news.start as usize..news.end as usize
}

/// A state that two hands have found new, by the hands and the places in their lists: it goes by the first.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Double {
    pub first: (usize, u32),
    pub other: (usize, u32),
}

/// What a hand finds new in a batch.
#[derive(Default)]
pub(super) struct News {
    /// Added to the places in its list where it claims slots.
    first: u32,
    all: Vec<New>,
    /// Where their records lie: among these, and among all keys once they are laid there.
    places: Vec<u32>,
    records: Vec<u8>,
    /// Some of them, and whoever has claimed a slot for a state with the same half of a hash, in the order of the slots.
    doubts: Vec<(u32, u32)>,
}

impl News {
    pub const fn len(&self) -> usize {
        self.all.len()
    }

    pub fn clear(&mut self) {
        self.all.clear();
        self.places.clear();
        self.records.clear();
        self.doubts.clear();
    }

    /// Notes that any turn would end the game in one of them.
    pub fn set_to_end(&mut self, new: u32) {
        self.all[new as usize].is_to_end = true;
    }

    pub fn is_to_end(&self, new: u32) -> bool {
        self.all[new as usize].is_to_end
    }

    pub const fn bytes(&self) -> usize {
        let each = size_of::<New>() + size_of::<u32>();
        self.records.capacity() + self.all.capacity() * each + self.doubts.capacity() * size_of::<(u32, u32)>()
    }

    /// The one for which a slot was claimed, if this hand has done so.
    fn own(&self, claim: u32) -> Option<u32> {
        Some(claim.wrapping_sub(self.first)).filter(|new| (*new as usize) < self.len())
    }

    /// The key of one, before the keys of all are laid together.
    fn key(&self, new: u32) -> &[u8] {
        key_of(&self.records[self.places[new as usize] as usize * UNIT..])
    }

    /// Writes numbers into the records of some that lie one behind the other.
    fn set_numbers(&mut self, news: Range<u32>, first: u32) {
        for (place, number) in self.places[spread(&news)].iter().zip(first..) {
            set_number(&mut self.records[*place as usize * UNIT..], number);
        }
    }

    fn push(&mut self, key: &[u8], (table, at): (usize, usize)) {
        self.places.push((self.records.len() / UNIT) as u32);
        write_record(key, &mut self.records);
        self.all.push(New { at: at as u32, table: table as u8, is_to_end: false });
    }
}

/// Who is the same as a state that was looked up.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Is {
    Known(u32),
    /// One that the hand has found new before, by its place in the list of these.
    Again(u32),
    /// It has just been added to that list.
    New(u32),
    /// There was no slot left: the batch is to be tried once more, with more room.
    Crowded,
}

/// What a slot holds that is not free.
enum Holds {
    Place(u32),
    /// It was claimed in this batch.
    Claim(u32),
    /// It was claimed for a state that was never added.
    Nothing,
}

/// What was found for several states at once.
#[derive(Default)]
pub(super) struct Answers {
    slots: Vec<u64>,
    likely: Vec<Option<(u32, u32, usize)>>,
    found: Vec<Is>,
}

/// Packed states by their numbers, and their numbers by what they are.
pub(super) struct Known {
    keys: Keys,
    places: Long<u32>,
    tables: Vec<Table>,
    hasher: DefaultHashBuilder,
    /// The bit of the claims of this batch.
    turn: u32,
    /// How many claims each hand may have, as a power of two.
    shift: u32,
    /// What each hand found new in the last batch, and where that lies; [`NONE`] where it was not added.
    last: Vec<(Vec<New>, Vec<u32>)>,
    /// Bytes of all tables.
    bytes: usize,
}

impl Known {
    /// Nothing is known yet to so many hands.
    pub fn new(hands: usize) -> Self {
        let hands = hands.clamp(1, MOST_HANDS);
        Self {
            keys: Keys::default(),
            places: Long::default(),
            tables: (0..TABLES).map(|_| Table::default()).collect(),
            hasher: DefaultHashBuilder::default(),
            turn: 0,
            shift: TURN.ilog2() - hands.next_power_of_two().ilog2(),
            last: vec![(Vec::new(), Vec::new()); hands],
            bytes: 0,
        }
    }

    pub fn len(&self) -> usize {
        self.places.len()
    }

    pub fn bytes(&self) -> usize {
        let last: usize = self.last.iter().map(|(new, _)| new.capacity() * (size_of::<New>() + size_of::<u32>())).sum();
        self.bytes + self.keys.bytes() + self.places.bytes() + last
    }

    /// Bytes in which keys lie.
    pub const fn key_bytes(&self) -> usize {
        self.keys.bytes()
    }

    /// Whether places run short for as many keys again as a batch may bring.
    pub fn is_nearly_full(&self) -> bool {
        self.keys.chunks() > chunks_below(CLAIMED) - SPARE
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

    /// What a slot holds.
    #[inline]
    fn holds(&self, slot: u64) -> Holds {
        let place = (slot as u32).wrapping_sub(1);
        match place.checked_sub(CLAIMED) {
            None => Holds::Place(place),
            Some(claim) if claim & TURN == self.turn => Holds::Claim(claim),
            Some(claim) => self.place_of_last(claim).map_or(Holds::Nothing, Holds::Place),
        }
    }

    /// Whose claim it is, and the place in the list of what that hand found new.
    const fn who(&self, claim: u32) -> (usize, u32) {
        let claim = claim & !TURN;
        ((claim >> self.shift) as usize, claim & ((1 << self.shift) - 1))
    }

    /// Where the key lies for which a slot was claimed in the last batch.
    fn place_of_last(&self, claim: u32) -> Option<u32> {
        let (hand, new) = self.who(claim);
        self.last[hand].1.get(new as usize).copied().filter(|place| *place != NONE)
    }

    /// The number of a state that is known.
    pub fn find(&self, hash: u64, key: &[u8]) -> Option<u32> {
        self.find_with(hash, key, &News::default()).and_then(|is| match is {
            Is::Known(number) => Some(number),
            Is::Again(_) | Is::New(_) | Is::Crowded => None,
        })
    }

    /// The same, or the one that a hand has found new before.
    #[inline]
    pub fn find_with(&self, hash: u64, key: &[u8], news: &News) -> Option<Is> {
        self.tables[Self::table(hash)].find(hash, |slot| self.is_same(&self.holds(slot), key, news))
    }

    /// Whether a slot holds a state that is known or that a hand has found new before.
    #[inline]
    fn is_same(&self, holds: &Holds, key: &[u8], news: &News) -> Option<Is> {
        match *holds {
            Holds::Place(place) => self.is_in(place, key).map(Is::Known),
            Holds::Claim(claim) => news.own(claim).filter(|new| news.key(*new) == key).map(Is::Again),
            Holds::Nothing => None,
        }
    }

    fn is_in(&self, place: u32, key: &[u8]) -> Option<u32> {
        let (number, length) = self.keys.head(place);
        self.keys.is_there(place, length, key).then_some(number)
    }

    /// The same, or a slot is claimed for it.
    pub fn find_or_claim(&self, hash: u64, key: &[u8], news: &mut News) -> Is {
        let (of, new, doubts) = (Self::table(hash), news.len() as u32, news.doubts.len());
        let table = &self.tables[of];
        for at in table.probe(hash) {
            let mut slot = table.get(at);
            if slot == 0 {
                let claim = Table::slot(hash, CLAIMED + news.first + new);
                match table.slots[at].compare_exchange(0, claim, Ordering::Relaxed, Ordering::Relaxed) {
                    Ok(_) => {
                        news.push(key, (of, at));
                        return Is::New(new);
                    }
                    // Another hand has just claimed it.
                    Err(taken) => slot = taken,
                }
            }
            if !Table::is_of(slot, hash) {
                continue;
            }
            let holds = self.holds(slot);
            if let Some(is) = self.is_same(&holds, key, news) {
                news.doubts.truncate(doubts);
                return is;
            }
            if let Holds::Claim(claim) = holds
                && news.own(claim).is_none()
            {
                // Its key is with another hand.
                news.doubts.push((new, claim));
            }
        }
        Is::Crowded
    }

    /// The same for several at once: first all tables are looked at, then the heads of all keys, then the keys, so that the
    /// memory fetches for one while another waits.
    pub fn find_or_claim_all<'a, 'k>(
        &self,
        asked: impl Iterator<Item = (u64, &'k [u8])> + Clone,
        news: &mut News,
        Answers { slots, likely, found }: &'a mut Answers,
    ) -> &'a [Is] {
        slots.clear();
        slots.extend(asked.clone().map(|(hash, _)| {
            let table = &self.tables[Self::table(hash)];
            table.get(table.first(hash))
        }));
        likely.clear();
        likely.extend(slots.iter().zip(asked.clone()).map(|(slot, (hash, _))| {
            let place = |slot| match self.holds(slot) {
                Holds::Place(place) => Some(place),
                Holds::Claim(_) | Holds::Nothing => None,
            };
            let place = if *slot == 0 { None } else { self.tables[Self::table(hash)].find(hash, place) }?;
            let (number, length) = self.keys.head(place);
            Some((place, number, length))
        }));
        found.clear();
        found.extend(likely.iter().zip(asked).map(|(likely, (hash, key))| match *likely {
            Some((place, number, length)) if self.keys.is_there(place, length, key) => Is::Known(number),
            Some(_) | None => self.find_or_claim(hash, key, news),
        }));
        found
    }

    /// Begins the list of what a hand finds new, and puts the places of what it found in the last batch where it claimed them.
    pub fn begin(&self, hand: usize, news: &mut News) {
        news.clear();
        news.first = self.turn | (hand as u32) << self.shift;
        let claims = self.last[hand].0.iter().zip((self.turn ^ TURN) | (hand as u32) << self.shift..);
        for (new, claim) in claims {
            let Some(slot) = self.tables[usize::from(new.table)].slots.get(new.at as usize) else { continue };
            let is = slot.load(Ordering::Relaxed);
            // A table that has grown has put it elsewhere.
            if Table::place(is) == Some(CLAIMED + claim)
                && let Some(place) = self.place_of_last(claim)
            {
                slot.store(Table::slot(is, place), Ordering::Relaxed);
            }
        }
    }

    /// Makes room for what a batch of so many inputs is likely to bring.
    pub fn make_room(&mut self, inputs: usize, host: &dyn Host) {
        /// Fewer slots are sooner filled than handed out.
        const FEW: usize = if cfg!(test) { 64 } else { 1 << 12 };
        let mean = inputs.div_ceil(TABLES);
        // Hashes that are spread by chance do not go beyond.
        let most = if cfg!(test) { mean } else { mean + 8 * mean.isqrt() + 16 };
        let most = most.min(inputs);
        let mut tables = std::mem::take(&mut self.tables);
        let is_small = |table: &&mut Table| table.size_with(most) > table.slots.len();
        let mut small: Vec<&mut Table> = tables.iter_mut().filter(is_small).collect();
        let slots: usize = small.iter().map(|table| table.slots.len()).sum();
        let hands = if slots < FEW { 1 } else { host.hands().max(1) };
        let this = &*self;
        let place = |place: u32| match place.checked_sub(CLAIMED) {
            Some(claim) => this.place_of_last(claim),
            None => Some(place),
        };
        let share = small.len().div_ceil(hands).max(1);
        let jobs = small.chunks_mut(share).map(|tables| -> Job {
            Box::new(move || tables.iter_mut().for_each(|table| table.make_room(most, place)))
        });
        do_all(host, jobs.collect());
        self.bytes = tables.iter().map(Table::bytes).sum();
        self.tables = tables;
    }

    /// Gives back what a hand has claimed in a batch that was crowded.
    pub fn give_back(&mut self, news: &mut News) {
        for new in &news.all {
            *self.tables[usize::from(new.table)].slots[new.at as usize].get_mut() = 0;
        }
        news.clear();
    }

    /// Finds out which of the states that hands have found new are the same; the first of these is told by an order in which
    /// no two of them are alike.
    pub fn doubles<O: Ord>(&self, hands: &mut [News], order: impl Fn((usize, u32)) -> O) -> Vec<Double> {
        // By the claim that all who are the same have doubts about, and that has none about any of them.
        let mut claims: Vec<(u32, u32)> = Vec::new();
        for hand in 0..hands.len() {
            let mut doubts = std::mem::take(&mut hands[hand].doubts);
            doubts.retain(|(new, claim)| {
                let (other, of_other) = self.who(*claim);
                hands[hand].key(*new) == hands[other].key(of_other)
            });
            doubts.dedup_by_key(|(new, _)| *new);
            claims.extend(doubts.iter().flat_map(|(new, claim)| [(*claim, *claim), (*claim, hands[hand].first + new)]));
            hands[hand].doubts = doubts;
        }
        let with_order = |(owner, claim)| (owner, order(self.who(claim)), claim);
        let mut all: Vec<(u32, O, u32)> = claims.into_iter().map(with_order).collect();
        all.sort_unstable();
        all.dedup();
        let of_each = all.chunk_by(|one, other| one.0 == other.0);
        let double = |first, other| Double { first: self.who(first), other: self.who(other) };
        of_each.flat_map(|same| same[1..].iter().map(move |other| double(same[0].2, other.2))).collect()
    }

    /// Adds the states of a batch that have been given numbers, in the order of these. All hands have done with it.
    pub fn lay(&mut self, hands: &mut [News], runs: &[Run], doubles: &[Double]) {
        for Run { hand, news, number } in runs {
            hands[*hand].set_numbers(news.clone(), *number);
        }
        for ((all, laid), News { all: new, places, records, .. }) in self.last.iter_mut().zip(&mut *hands) {
            self.keys.lay(records, places);
            new.iter().for_each(|new| self.tables[usize::from(new.table)].count += 1);
            std::mem::swap(all, new);
            laid.clear();
            laid.resize(places.len(), NONE);
        }
        for Run { hand, news, .. } in runs {
            let news = spread(news);
            let places = &hands[*hand].places[news.clone()];
            self.last[*hand].1[news].copy_from_slice(places);
            self.places.extend(places);
        }
        for Double { first, other } in doubles {
            self.last[other.0].1[other.1 as usize] = self.last[first.0].1[first.1 as usize];
        }
        hands.iter_mut().for_each(News::clear);
        self.turn ^= TURN;
    }
}

#[cfg(test)]
mod tests {
    use super::super::host::Alone;
    use super::*;
    use proptest::prelude::*;

    type State = (u64, Vec<u8>);

    /// Each hand looks its states up beside the others, half of them at once; what was found, hand by hand, after as many
    /// tries as there had to be.
    fn looked_up(known: &mut Known, hands: &mut [(News, Vec<State>)]) -> Vec<Vec<Is>> {
        let all: usize = hands.iter().map(|(_, states)| states.len()).sum();
        let mut room = all / 2;
        loop {
            known.make_room(room, &Alone);
            let look_up = |(hand, (news, states)): (usize, &mut (News, Vec<State>))| {
                known.begin(hand, news);
                let (at_once, rest) = states.split_at(states.len() / 2);
                let at_once = at_once.iter().map(|(hash, key)| (*hash, key.as_slice()));
                let mut found = known.find_or_claim_all(at_once, news, &mut Answers::default()).to_vec();
                for (hash, key) in rest {
                    let before = known.find_with(*hash, key, news);
                    let is = known.find_or_claim(*hash, key, news);
                    assert!(before == Some(is) || before.is_none() && matches!(is, Is::New(_) | Is::Crowded));
                    found.push(is);
                }
                found
            };
            let found: Vec<Vec<Is>> = std::thread::scope(|scope| {
                let all: Vec<_> = hands.iter_mut().enumerate().map(|hand| scope.spawn(|| look_up(hand))).collect();
                all.into_iter().map(|hand| hand.join().unwrap()).collect()
            });
            if !found.iter().flatten().any(|is| *is == Is::Crowded) {
                return found;
            }
            hands.iter_mut().for_each(|(news, _)| known.give_back(news));
            room = room * 2 + 1;
        }
    }

    proptest! {
        /// Few hashes for many keys, so that they get into each other's way; in batches in which some are the same, some are
        /// known and, in the last, some are not added.
        #[test]
        fn known_states_are_found_by_their_numbers(
            batches in prop::collection::vec(
                prop::collection::vec(prop::collection::vec((0_u64..6, 0_u16..300), 0..120), 1..4),
                1..6,
            ),
            left_out in 0_u16..20,
        ) {
            let hash = |hash: u64| (hash << 62) | (hash << 33) | (hash % 2);
            let mut known = Known::new(3);
            let mut all: Vec<State> = Vec::new();
            let is_left_out = |state: &State| u16::from(state.1[0]) % 20 == left_out;
            let last = batches.len() - 1;
            for (number, batch) in batches.into_iter().enumerate() {
                let states = |of: &Vec<(u64, u16)>| of.iter().map(|(of, key)| (hash(*of), key.to_le_bytes().to_vec())).collect();
                let mut hands: Vec<(News, Vec<State>)> =
                    batch.iter().map(|of| (News::default(), states(of))).collect();
                hands.resize_with(3, Default::default);
                let found = looked_up(&mut known, &mut hands);
                let (mut news, states): (Vec<News>, Vec<_>) = hands.into_iter().unzip();
                // The hands are in some other order than by their numbers.
                let order = [1, 2, 0];
                let doubles = known.doubles(&mut news, |(hand, _)| order[hand]);
                let mut runs = Vec::new();
                let mut own: Vec<Vec<&State>> = vec![Vec::new(); 3];
                let added = all.len() as u32;
                for hand in [2, 0, 1] {
                    for (state, is) in states[hand].iter().zip(&found[hand]) {
                        let before = all.iter().position(|other| other == state).map(|number| number as u32);
                        match *is {
                            Is::Known(number) => prop_assert_eq!(Some(number), before.filter(|number| *number < added)),
                            Is::Again(new) => prop_assert_eq!(own[hand][new as usize], state),
                            Is::New(new) => {
                                prop_assert_eq!(new as usize, own[hand].len());
                                prop_assert!(!own[hand].contains(&state));
                                own[hand].push(state);
                                let same = doubles.iter().find(|double| double.other == (hand, new));
                                let is_first = own.iter().flatten().filter(|other| **other == state).count() == 1;
                                prop_assert_eq!(is_first, same.is_none());
                                if let Some(Double { first, .. }) = same {
                                    prop_assert_eq!(own[first.0][first.1 as usize], state);
                                } else if number < last || !is_left_out(state) {
                                    runs.push(Run { hand, news: new..new + 1, number: all.len() as u32 });
                                    all.push(state.clone());
                                }
                            }
                            Is::Crowded => prop_assert!(false, "it was tried until there was room"),
                        }
                    }
                }
                known.lay(&mut news, &runs, &doubles);
                // Others with the same hashes, and the same keys behind another hash, are not known.
                let longer = |(of, key): &State| (*of, [key.as_slice(), &[0]].concat());
                let left = states.iter().flatten().filter(|state| !all.contains(state)).cloned();
                let strange: Vec<_> = all.iter().map(longer).chain([(hash(7), vec![0, 0])]).chain(left).collect();
                for (state, expected) in all.iter().zip((0..).map(Some)).chain(strange.iter().map(|state| (state, None))) {
                    prop_assert_eq!(known.find(state.0, &state.1), expected);
                }
            }
            for (state, (_, key)) in (0..).zip(&all) {
                prop_assert_eq!(known.key(state), key.as_slice());
            }
        }
    }
}
