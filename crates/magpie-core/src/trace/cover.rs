//! Which pairs of a state and an input have been played, and the nearest one that has not.

use crate::grid::{Base, Ended, Grid, Kept, Nobody, Scratch};
use crate::proof::Inputs;
use hashbrown::HashMap;
use std::collections::VecDeque;

/// What is known of an input in a state.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Tried {
    /// It has not been played.
    Untried,
    /// There is nothing to play: a wait where nothing is due.
    Nothing,
    /// It leads to this state.
    To(usize),
}

/// A state that has been seen.
struct State {
    tried: Vec<Tried>,
    /// The first input that may not have been tried.
    next: usize,
    is_over: bool,
}

/// The way to the nearest pair that has not been played.
pub(super) struct Way {
    /// It begins with a restart.
    pub is_from_start: bool,
    /// The inputs by their numbers, the pair's own last.
    pub inputs: Vec<usize>,
}

/// The states seen so far.
pub(super) struct Cover {
    base: Base,
    scratch: Scratch,
    key: Vec<u8>,
    numbers: HashMap<Vec<u8>, usize>,
    states: Vec<State>,
    /// Where it stands.
    here: usize,
    map: usize,
    start: Kept,
    model: Grid,
    /// Pairs that have been played.
    pub pairs: usize,
}

impl Cover {
    pub fn new(entered: &Grid, inputs: &Inputs) -> Self {
        let mut grid = entered.copied();
        let base = grid.base(&entered.book().reads());
        let mut cover = Self {
            base,
            scratch: Scratch::default(),
            key: Vec::new(),
            numbers: HashMap::new(),
            states: Vec::new(),
            here: 0,
            map: entered.map(),
            start: grid.keep(),
            model: grid,
            pairs: 0,
        };
        let own = entered.copied();
        cover.here = cover.state_of(&own, inputs.len());
        cover
    }

    /// The number of the state that a game is in.
    fn state_of(&mut self, grid: &Grid, inputs: usize) -> usize {
        let is_elsewhere = grid.map() != self.map;
        if is_elsewhere {
            // The map has been left: nothing more is played there.
            self.key.clear();
            self.key.extend_from_slice(b"left");
        } else {
            grid.pack_any(&self.base, &mut self.scratch, &mut self.key);
        }
        if let Some(known) = self.numbers.get(&self.key) {
            return *known;
        }
        let number = self.states.len();
        let is_over = is_elsewhere || matches!(grid.outcome(), Some(Ended::Won | Ended::Lost));
        self.states.push(State { tried: vec![Tried::Untried; if is_over { 0 } else { inputs }], next: 0, is_over });
        self.numbers.insert(self.key.clone(), number);
        number
    }

    /// The first input of a state that has not been tried.
    fn untried(&mut self, state: usize) -> Option<usize> {
        let found = &mut self.states[state];
        while found.tried.get(found.next).is_some_and(|tried| *tried != Tried::Untried) {
            found.next += 1;
        }
        (found.next < found.tried.len()).then_some(found.next)
    }

    /// Notes that an input was played, and where it has led.
    pub fn note(&mut self, input: usize, grid: &Grid) {
        let inputs = self.states[self.here].tried.len();
        let all = self.states[0].tried.len().max(inputs);
        let to = self.state_of(grid, all);
        if let Some(tried) = self.states[self.here].tried.get_mut(input)
            && *tried == Tried::Untried
        {
            *tried = Tried::To(to);
            self.pairs += 1;
        }
        self.here = to;
    }

    /// The way to the nearest pair that has not been played, from where it stands or from the start, whichever is shorter;
    /// `None` where every pair that can be reached has been.
    pub fn next(&mut self, inputs: &Inputs, grid: Option<&Grid>) -> Option<Way> {
        if let Some(grid) = grid {
            self.leave_out_waits(inputs, grid);
        }
        let from_here = self.nearest(self.here);
        let is_near = from_here.as_ref().is_some_and(|way| way.len() <= 1);
        let from_start = if is_near { None } else { self.nearest(0) };
        match (from_here, from_start) {
            (Some(here), Some(start)) if start.len() + 1 < here.len() => Some(self.restarted(start)),
            (Some(inputs), _) => Some(Way { is_from_start: false, inputs }),
            (None, Some(start)) => Some(self.restarted(start)),
            (None, None) => None,
        }
    }

    fn restarted(&mut self, inputs: Vec<usize>) -> Way {
        self.here = 0;
        Way { is_from_start: true, inputs }
    }

    /// A wait where nothing is due is no pair.
    fn leave_out_waits(&mut self, inputs: &Inputs, grid: &Grid) {
        let state = &mut self.states[self.here];
        for (number, tried) in state.tried.iter_mut().enumerate().skip(state.next) {
            if *tried == Tried::Untried && inputs.input_at(number, grid).is_none() {
                *tried = Tried::Nothing;
            }
        }
    }

    fn nearest(&mut self, from: usize) -> Option<Vec<usize>> {
        let mut came: HashMap<usize, (usize, usize)> = HashMap::new();
        let mut open = VecDeque::from([from]);
        while let Some(state) = open.pop_front() {
            if let Some(input) = self.untried(state) {
                let mut way = vec![input];
                let mut at = state;
                while at != from {
                    let (before, by) = came[&at];
                    way.push(by);
                    at = before;
                }
                way.reverse();
                return Some(way);
            }
            for (input, tried) in self.states[state].tried.iter().enumerate() {
                if let Tried::To(to) = tried
                    && *to != from
                    && !came.contains_key(to)
                {
                    came.insert(*to, (state, input));
                    open.push_back(*to);
                }
            }
        }
        None
    }

    /// How many pairs there are in the model, played or not; `None` where there are more than so many states.
    pub fn all_pairs(&mut self, inputs: &Inputs, most: usize) -> Option<usize> {
        let mut model = self.model.copied();
        let mut kept: Vec<Option<Kept>> = Vec::new();
        kept.push(Some(self.start.clone()));
        let mut whole = Self {
            base: self.model.base(&self.model.book().reads()),
            scratch: Scratch::default(),
            key: Vec::new(),
            numbers: HashMap::new(),
            states: Vec::new(),
            here: 0,
            map: self.map,
            start: self.start.clone(),
            model: self.model.copied(),
            pairs: 0,
        };
        model.go_to(&self.start);
        whole.state_of(&model, inputs.len());
        let mut pairs = 0;
        let mut at = 0;
        while at < whole.states.len() {
            let from = kept.get_mut(at).and_then(Option::take)?;
            let is_over = whole.states[at].is_over;
            at += 1;
            if is_over {
                continue;
            }
            for number in 0..inputs.len() {
                model.go_to(&from);
                let Some(input) = inputs.input_at(number, &model) else { continue };
                pairs += 1;
                model.input(&input, &mut Nobody);
                let before = whole.states.len();
                whole.state_of(&model, inputs.len());
                if whole.states.len() > before {
                    kept.push(Some(model.keep()));
                }
                if whole.states.len() > most.max(1) {
                    return None;
                }
            }
        }
        Some(pairs)
    }
}
