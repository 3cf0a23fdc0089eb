//! What one pair of hands brings from a batch.

use super::expand::End;
use super::known::Is;

/// What an input came to that is more than an edge to a state that was known.
#[derive(Clone, Copy)]
pub(super) enum Came {
    /// A promise was broken within the input.
    Broken(u32),
    /// A turn of it never settled.
    NeverSettled,
    /// A state that was not known when the batch began, by its place in the list of what the hand has found new, and how it
    /// has ended where the hand has come to it for the first time.
    New { new: u32, end: End },
    /// In the state that it led to any turn would end the game.
    ToEnd,
    /// In that state a promise is broken.
    BrokenThere(u32),
}

impl Came {
    /// The input has led to where it leads.
    pub const fn is_there(self) -> bool {
        match self {
            Self::Broken(_) | Self::NeverSettled => false,
            Self::New { .. } | Self::ToEnd | Self::BrokenThere(_) => true,
        }
    }
}

/// Something that came of an input in a state.
#[derive(Clone, Copy)]
pub(super) struct Event {
    pub state: u32,
    pub input: u32,
    /// The edge to where it leads, by its place in the list of its piece; the next one where it has led nowhere so far.
    pub edge: u32,
    pub came: Came,
}

/// What came of some pieces of work, one behind the other.
#[derive(Default)]
pub(super) struct Brought {
    /// The numbers of these pieces, and where their events, their edges and their tasks end.
    pieces: Vec<(usize, [usize; 3])>,
    events: Vec<Event>,
    /// The states that inputs lead to, in order; something else where that is new.
    edges: Vec<u32>,
    /// How many edges each task has brought.
    degrees: Vec<u32>,
    /// Where the edges of the piece and of the task at hand begin.
    piece: usize,
    task: usize,
}

/// What came of one piece.
pub(super) struct Part<'a> {
    pub events: &'a [Event],
    pub edges: &'a mut [u32],
    pub degrees: &'a [u32],
}

impl Brought {
    pub fn clear(&mut self) {
        self.pieces.clear();
        self.events.clear();
        self.edges.clear();
        self.degrees.clear();
        (self.piece, self.task) = (0, 0);
    }

    pub const fn bytes(&self) -> usize {
        self.events.capacity() * size_of::<Event>()
            + (self.edges.capacity() + self.degrees.capacity()) * size_of::<u32>()
    }

    /// Notes something that came of an input.
    pub fn event(&mut self, (state, input): (u32, u32), came: Came) {
        let edge = self.edges.len() - self.piece - usize::from(came.is_there());
        self.events.push(Event { state, input, edge: edge as u32, came });
    }

    /// An input leads to a state that is known.
    pub fn edge(&mut self, to: u32) {
        self.edges.push(to);
    }

    /// An input leads to some state; gives the place of that edge, to be told later by [`Self::found`].
    pub fn asks(&mut self) -> usize {
        self.edges.push(0);
        self.edges.len() - 1
    }

    /// Where an input has led, told in the order of their edges, before any other event behind these.
    pub fn found(&mut self, of: (u32, u32), edge: usize, is: Is) {
        match is {
            Is::Known(to) => self.edges[edge] = to,
            Is::Again(new) | Is::New(new) => {
                let came = Came::New { new, end: End::Open };
                self.events.push(Event { state: of.0, input: of.1, edge: (edge - self.piece) as u32, came });
            }
            Is::Crowded => {}
        }
    }

    /// An input leads to a state that the hand has found new.
    pub fn leads_to_new(&mut self, of: (u32, u32), new: u32, end: End) {
        self.edges.push(0);
        self.event(of, Came::New { new, end });
    }

    pub fn task_done(&mut self) {
        self.degrees.push((self.edges.len() - self.task) as u32);
        self.task = self.edges.len();
    }

    pub fn piece_done(&mut self, number: usize) {
        self.pieces.push((number, [self.events.len(), self.edges.len(), self.degrees.len()]));
        self.piece = self.edges.len();
    }

    /// Each piece by its number, with what came of it.
    pub fn parts(&mut self) -> impl Iterator<Item = (usize, Part<'_>)> {
        let (mut events, mut edges, mut degrees) = (&self.events[..], &mut self.edges[..], &self.degrees[..]);
        let starts = [[0; 3]].into_iter().chain(self.pieces.iter().map(|(_, ends)| *ends));
        self.pieces.iter().zip(starts).map(move |((number, ends), starts)| {
            let counts = [0, 1, 2].map(|of| ends[of] - starts[of]);
            let part = Part {
                events: events.split_off(..counts[0]).unwrap_or_default(),
                edges: edges.split_off_mut(..counts[1]).unwrap_or_default(),
                degrees: degrees.split_off(..counts[2]).unwrap_or_default(),
            };
            (*number, part)
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// What an input comes to: nothing, where something known lies, something new, or something that is asked for, which then
    /// is known or new; before each a promise may be broken, unless it was only asked for.
    #[derive(Clone, Copy, Debug)]
    enum Input {
        Nothing,
        Known(u32),
        New(u32),
        Asked(u32, bool),
    }

    fn inputs() -> impl Strategy<Value = (bool, Input)> {
        let input = prop_oneof![
            Just(Input::Nothing),
            (0..99_u32).prop_map(Input::Known),
            (0..99_u32).prop_map(Input::New),
            (0..99_u32, any::<bool>()).prop_map(|(to, is_new)| Input::Asked(to, is_new)),
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
            for (number, tasks) in pieces.iter().enumerate() {
                let mut asked = Vec::new();
                for (state, task) in (0..).zip(tasks) {
                    for (input, (breaks, came)) in (0..).zip(task) {
                        let mut told = |brought: &mut Brought| {
                            let found = |((of, edge), is)| brought.found(of, edge, is);
                            asked.drain(..).for_each(found);
                        };
                        let of = (state, input);
                        match came {
                            Input::Asked(to, is_new) => {
                                let edge = brought.asks();
                                asked.push(((of, edge), if *is_new { Is::New(*to) } else { Is::Known(*to) }));
                                continue;
                            }
                            Input::Nothing | Input::Known(_) | Input::New(_) => told(&mut brought),
                        }
                        if *breaks {
                            brought.event(of, Came::Broken(5));
                        }
                        match came {
                            Input::Known(to) => brought.edge(*to),
                            Input::New(new) => {
                                brought.leads_to_new(of, *new, End::Won);
                                brought.event(of, Came::ToEnd);
                            }
                            Input::Nothing | Input::Asked(..) => {}
                        }
                    }
                    brought.task_done();
                }
                asked.drain(..).for_each(|((of, edge), is)| brought.found(of, edge, is));
                brought.piece_done(number + 3);
            }
            let mut parts = 0;
            for ((number, part), (at, tasks)) in brought.parts().zip(pieces.iter().enumerate()) {
                parts += 1;
                prop_assert_eq!(number, at + 3);
                let mut events = part.events.iter();
                let (mut edge, mut degrees) = (0, Vec::new());
                for (state, task) in (0..).zip(tasks) {
                    let before = edge;
                    for (input, (breaks, came)) in (0..).zip(task) {
                        let mut next = || events.next().map(|event| {
                            assert_eq!((event.state, event.input, event.edge), (state, input, edge));
                            event.came
                        });
                        if *breaks && !matches!(came, Input::Asked(..)) {
                            prop_assert!(matches!(next(), Some(Came::Broken(5))));
                        }
                        match came {
                            Input::Nothing => continue,
                            Input::Known(to) | Input::Asked(to, false) => prop_assert_eq!(part.edges[edge as usize], *to),
                            Input::New(to) => {
                                let is_new = |came| matches!(came, Some(Came::New { new, end: End::Won }) if new == *to);
                                prop_assert!(is_new(next()));
                                prop_assert!(matches!(next(), Some(Came::ToEnd)));
                            }
                            Input::Asked(to, true) => {
                                let is_new = |came| matches!(came, Some(Came::New { new, end: End::Open }) if new == *to);
                                prop_assert!(is_new(next()));
                            }
                        }
                        edge += 1;
                    }
                    degrees.push(edge - before);
                }
                prop_assert!(events.next().is_none());
                prop_assert_eq!((part.edges.len(), part.degrees), (edge as usize, degrees.as_slice()));
            }
            prop_assert_eq!(parts, pieces.len());
        }
    }
}
