//! What one pair of hands brings from a batch.

use super::expand::End;
use super::known::Is;
use std::ops::Range;

/// What an input came to that is more than an edge.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Came {
    /// A promise was broken within the input.
    Broken(u32),
    /// A turn of it never settled.
    NeverSettled,
    /// In the state that it led to, and that the hand has found new, any turn would end the game.
    ToEnd(u32),
    /// In that state a promise is broken.
    BrokenThere(u32),
}

impl Came {
    /// The input has led to where it leads.
    pub const fn is_there(self) -> bool {
        match self {
            Self::Broken(_) | Self::NeverSettled => false,
            Self::ToEnd(_) | Self::BrokenThere(_) => true,
        }
    }
}

/// Something that came of an input in a state.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Event {
    pub state: u32,
    pub input: u32,
    /// How many edges of its piece there are up to this input; the last event of an input counts its own too.
    pub edges: u32,
    pub came: Came,
}

impl Event {
    /// The state and the input of which it came.
    pub const fn of(&self) -> (u32, u32) {
        (self.state, self.input)
    }
}

/// An edge to a state that the hand has found new is told by this bit and its place in the list of these. States have no such
/// numbers: each of them takes two of the places of their keys at least.
const NEW: u32 = 1 << 31;

/// What came of some pieces of work, one behind the other.
#[derive(Default)]
pub(super) struct Brought {
    pieces: Vec<Part>,
    pub events: Vec<Event>,
    /// Where inputs lead to, in order.
    edges: Vec<u32>,
    /// How many edges each task has brought.
    pub degrees: Vec<u32>,
    /// Of each state that was found new: from which state and by which input, and how it has ended.
    pub parents: Vec<u32>,
    pub by: Vec<u32>,
    pub ends: Vec<End>,
    /// Where the edges of the piece and of the task at hand begin.
    piece: usize,
    task: usize,
}

/// Where that lies in the lists of a hand which came of one piece.
#[derive(Clone, Debug)]
pub(super) struct Part {
    /// The numbers of the piece and of the hand.
    pub piece: usize,
    pub hand: usize,
    pub events: Range<usize>,
    pub edges: Range<usize>,
    pub degrees: Range<usize>,
    pub news: Range<u32>,
}

impl Brought {
    pub fn clear(&mut self) {
        self.pieces.clear();
        self.events.clear();
        self.edges.clear();
        self.degrees.clear();
        self.parents.clear();
        self.by.clear();
        self.ends.clear();
        (self.piece, self.task) = (0, 0);
    }

    pub const fn bytes(&self) -> usize {
        let numbers = self.edges.capacity() + self.degrees.capacity() + self.parents.capacity() + self.by.capacity();
        self.events.capacity() * size_of::<Event>() + numbers * size_of::<u32>() + self.ends.capacity()
    }

    /// Notes something that came of an input.
    pub fn event(&mut self, (state, input): (u32, u32), came: Came) {
        self.events.push(Event { state, input, edges: (self.edges.len() - self.piece) as u32, came });
    }

    /// Notes where an input leads, and how that has ended if it is new.
    pub fn leads_to(&mut self, of: (u32, u32), is: Is, end: End) {
        let edge = self.asks();
        self.found(of, edge, is, end);
        // Something may have come of it on its way.
        if let Some(last) = self.events.last_mut().filter(|last| last.of() == of) {
            last.edges = (self.edges.len() - self.piece) as u32;
        }
    }

    /// An input leads to some state; gives the place of that edge, to be told later by [`Self::found`].
    pub fn asks(&mut self) -> usize {
        self.edges.push(0);
        self.edges.len() - 1
    }

    /// Where an input has led, told in the order of their edges, before anything behind these that is new.
    pub fn found(&mut self, (state, input): (u32, u32), edge: usize, is: Is, end: End) {
        match is {
            Is::Known(to) => self.edges[edge] = to,
            Is::Again(new) => self.edges[edge] = NEW | new,
            Is::New(new) => {
                self.edges[edge] = NEW | new;
                self.parents.push(state);
                self.by.push(input);
                self.ends.push(end);
            }
            Is::Crowded => {}
        }
    }

    pub fn task_done(&mut self) {
        self.degrees.push((self.edges.len() - self.task) as u32);
        self.task = self.edges.len();
    }

    pub fn piece_done(&mut self, piece: usize, hand: usize) {
        let last = self.pieces.last();
        self.pieces.push(Part {
            piece,
            hand,
            events: last.map_or(0, |last| last.events.end)..self.events.len(),
            edges: self.piece..self.edges.len(),
            degrees: last.map_or(0, |last| last.degrees.end)..self.degrees.len(),
            news: last.map_or(0, |last| last.news.end)..self.parents.len() as u32,
        });
        self.piece = self.edges.len();
    }

    /// What came of each piece.
    pub fn parts(&self) -> &[Part] {
        &self.pieces
    }

    /// Where a state was reached first that the hand has found new.
    pub fn at(&self, new: u32) -> (u32, u32) {
        (self.parents[new as usize], self.by[new as usize])
    }

    /// The first edge of a part that leads to a state that the hand has found new.
    pub fn first_edge_to(&self, new: u32, part: &Part) -> usize {
        let is_it = |edge: &u32| *edge == NEW | new;
        self.edges[part.edges.clone()].iter().position(is_it).map_or(part.edges.end, |at| part.edges.start + at)
    }

    /// The edges of a part, with the numbers that new states have been given.
    pub fn number_edges(&self, edges: Range<usize>, numbers: &[u32], numbered: &mut Vec<u32>) {
        let number = |edge: &u32| if *edge & NEW == 0 { *edge } else { numbers[(*edge & !NEW) as usize] };
        numbered.clear();
        numbered.extend(self.edges[edges].iter().map(number));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// What an input comes to: nothing, where something known lies, something new, that once more, or something that is asked
    /// for, which then is known; before each a promise may be broken, unless it was only asked for.
    #[derive(Clone, Copy, Debug)]
    enum Input {
        Nothing,
        Known(u32),
        New,
        Again(u32),
        Asked(u32),
    }

    fn inputs() -> impl Strategy<Value = (bool, Input)> {
        let input = prop_oneof![
            Just(Input::Nothing),
            (1000..1099_u32).prop_map(Input::Known),
            Just(Input::New),
            (0..5_u32).prop_map(Input::Again),
            (1000..1099_u32).prop_map(Input::Asked),
        ];
        (any::<bool>(), input)
    }

    proptest! {
        /// Pieces of tasks of inputs.
        #[test]
        fn each_piece_is_given_back_with_what_came_of_it(
            pieces in prop::collection::vec(prop::collection::vec(prop::collection::vec(inputs(), 0..6), 0..5), 0..5),
        ) {
            let mut brought = Brought::default();
            let mut found = 0;
            // Events, edges and degrees of each piece, and what is new by then.
            let mut expected = Vec::new();
            for (number, tasks) in pieces.iter().enumerate() {
                let (mut events, mut edges, mut degrees, mut asked) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
                for (state, task) in (number as u32 * 10..).zip(tasks) {
                    let before = edges.len();
                    for (input, (breaks, came)) in (0..).zip(task) {
                        let of = (state, input);
                        if let Input::Asked(to) = came {
                            asked.push((of, brought.asks(), Is::Known(*to)));
                            edges.push(*to);
                            continue;
                        }
                        asked.drain(..).for_each(|(of, edge, is)| brought.found(of, edge, is, End::Open));
                        if *breaks {
                            brought.event(of, Came::Broken(5));
                        }
                        match came {
                            Input::Known(to) => {
                                brought.leads_to(of, Is::Known(*to), End::Open);
                                edges.push(*to);
                            }
                            Input::New => {
                                brought.leads_to(of, Is::New(found), End::Won);
                                prop_assert_eq!(brought.at(found), of);
                                edges.push(found);
                                found += 1;
                            }
                            Input::Again(new) if *new < found => {
                                brought.leads_to(of, Is::Again(*new), End::Won);
                                edges.push(*new);
                            }
                            Input::Nothing | Input::Asked(_) | Input::Again(_) => {}
                        }
                        let edges = edges.len() as u32;
                        if *breaks {
                            events.push(Event { state, input, edges, came: Came::Broken(5) });
                        }
                        if matches!(came, Input::New) {
                            brought.event(of, Came::ToEnd(found - 1));
                            events.push(Event { state, input, edges, came: Came::ToEnd(found - 1) });
                        }
                    }
                    brought.task_done();
                    degrees.push((edges.len() - before) as u32);
                }
                asked.drain(..).for_each(|(of, edge, is)| brought.found(of, edge, is, End::Open));
                brought.piece_done(number + 3, 2);
                expected.push((events, edges, degrees, found));
            }
            prop_assert_eq!(brought.parts().len(), pieces.len());
            prop_assert!(brought.ends.iter().all(|end| *end == End::Won));
            let parts = brought.parts().to_vec();
            let numbers: Vec<u32> = (0..found).collect();
            let mut start = 0;
            for ((at, part), (events, edges, degrees, end)) in parts.into_iter().enumerate().zip(expected) {
                prop_assert_eq!((part.piece, part.hand, &part.news), (at + 3, 2, &(start..end)));
                for new in start..end {
                    let edge = edges.iter().position(|to| *to == new);
                    prop_assert_eq!(brought.first_edge_to(new, &part), part.edges.start + edge.unwrap());
                }
                prop_assert_eq!(&brought.events[part.events], events.as_slice());
                prop_assert_eq!(&brought.degrees[part.degrees], degrees.as_slice());
                let mut numbered = vec![7];
                brought.number_edges(part.edges, &numbers, &mut numbered);
                prop_assert_eq!(numbered, edges);
                start = end;
            }
        }
    }
}
