//! What all hands bring from a batch, put together in the order of its pieces: first everything new is given its number, which
//! one hand can do quickly; then keys and edges are laid beside each other.

use super::brought::{Brought, Came, Event, Part};
use super::expand::{End, places};
use super::host::Job;
use super::known::{Double, News, Run, spread};
use super::passes::ways;
use super::search::{Ask, Found, Limit, NONE, Search, do_all};
use std::ops::Range;

/// What is to be laid of a batch.
struct Sum {
    /// The number of the next new state.
    states: u32,
    runs: Vec<Run>,
    doubles: Vec<Double>,
    /// Of each hand, what goes by another state that is the same.
    others: Vec<Vec<u32>>,
    /// The numbers of what each hand has found new.
    numbers: Vec<Vec<u32>>,
    parts: Vec<Laid>,
}

/// What is to be laid of a part.
struct Laid {
    hand: usize,
    edges: Range<usize>,
    degrees: Range<usize>,
    /// The state of the first task, and the first state of which the last input is not tried.
    first: u32,
    done: u32,
}

/// Where a search ends within a piece.
struct Cut {
    limit: Limit,
    /// The state and the input.
    at: (u32, u32),
    /// What of its part still counts.
    news: u32,
    edges: usize,
}

impl Cut {
    /// Whether something happened before it.
    fn is_behind(&self, of: (u32, u32), came: Came) -> bool {
        of < self.at || of == self.at && (self.limit == Limit::Answered || !came.is_there())
    }
}

impl Sum {
    fn new(states: u32, doubles: Vec<Double>, news: &[News]) -> Self {
        let mut others = vec![Vec::new(); news.len()];
        doubles.iter().for_each(|Double { other: (hand, new), .. }| others[*hand].push(*new));
        others.iter_mut().for_each(|others| others.sort_unstable());
        let numbers = news.iter().map(|news| vec![NONE; news.len()]).collect();
        Self { states, runs: Vec::new(), doubles, others, numbers, parts: Vec::new() }
    }

    /// What is new in a part and not the same as something before it.
    fn runs_of(&self, part: &Part) -> Vec<Range<u32>> {
        let others = &self.others[part.hand];
        let [first, end] = [part.news.start, part.news.end].map(|new| others.partition_point(|other| *other < new));
        let others = &others[first..end];
        let starts = [part.news.start].into_iter().chain(others.iter().map(|new| new + 1));
        let ends = others.iter().copied().chain([part.news.end]);
        starts.zip(ends).map(|(start, end)| start..end).filter(|run| !run.is_empty()).collect()
    }

    /// Gives numbers to a run of what a hand has found new.
    fn number(&mut self, hand: usize, news: Range<u32>) {
        let first = self.states;
        let numbers = &mut self.numbers[hand][spread(&news)];
        numbers.iter_mut().zip(first..).for_each(|(mine, number)| *mine = number);
        self.states += news.len() as u32;
        self.runs.push(Run { hand, news, number: first });
    }
}

impl Search<'_> {
    /// Puts what came of all pieces of a batch together.
    pub(super) fn put_together(&mut self, pieces: &[Range<u64>]) -> Option<Limit> {
        let (brought, mut news): (Vec<_>, Vec<_>) = self
            .workers
            .iter_mut()
            .map(|worker| (std::mem::take(&mut worker.brought), std::mem::take(&mut worker.news)))
            .unzip();
        let doubles = self.found.known.doubles(&mut news, |(hand, new)| brought[hand].at(new));
        let mut sum = Sum::new(self.found.states(), doubles, &news);
        let mut parts: Vec<&Part> = brought.iter().flat_map(Brought::parts).collect();
        parts.sort_unstable_by_key(|part| part.piece);
        let ended =
            parts.into_iter().find_map(|part| self.count(part, &pieces[part.piece], &brought[part.hand], &mut sum));
        for Double { first, other } in &sum.doubles {
            sum.numbers[other.0][other.1 as usize] = sum.numbers[first.0][first.1 as usize];
        }
        self.lay(&sum, &brought, &mut news);
        for (worker, (brought, news)) in self.workers.iter_mut().zip(brought.into_iter().zip(news)) {
            (worker.brought, worker.news) = (brought, news);
        }
        self.count_ways();
        ended
    }

    /// Counts the shortest ways once the depth before the first win is done.
    pub(super) fn count_ways(&mut self) {
        let won = self.found.won.filter(|won| self.found.ways.is_none() && *won < self.beyond);
        if let Some(won) = won {
            self.found.ways = ways(&self.found, won, self.host);
        }
    }

    /// Gives what is new in a part its numbers, and notes what happened in it.
    fn count(&mut self, part: &Part, piece: &Range<u64>, brought: &Brought, sum: &mut Sum) -> Option<Limit> {
        let each = places(self.inputs);
        if piece.start == u64::from(self.beyond) * each {
            self.beyond = sum.states;
        }
        let runs = sum.runs_of(part);
        let cut = self.cut(part, &runs, brought, sum.states);
        let last = cut.as_ref().map_or(part.news.end, |cut| cut.news);
        for run in runs {
            let news = run.start..run.end.min(last);
            if !news.is_empty() {
                self.add(part.hand, news, brought, sum);
            }
        }
        for event in &brought.events[part.events.clone()] {
            if cut.as_ref().is_none_or(|cut| cut.is_behind(event.of(), event.came)) {
                self.happened(event.of(), event.came, &sum.numbers[part.hand]);
            }
        }
        let mut laid = Laid {
            hand: part.hand,
            edges: part.edges.clone(),
            degrees: part.degrees.clone(),
            first: (piece.start / each) as u32,
            done: (piece.end / each) as u32,
        };
        let ended = match cut {
            None => {
                self.next = piece.end;
                None
            }
            Some(Cut { limit, at: (state, input), edges, .. }) => {
                laid.edges.end = edges;
                // With the last input of a depth all before the next one is known.
                let is_done = limit == Limit::Answered && state + 1 == self.beyond && u64::from(input) + 2 == each;
                laid.done = state + u32::from(is_done);
                laid.degrees.end = laid.degrees.start + (laid.done - laid.first) as usize;
                if is_done {
                    self.beyond = sum.states;
                }
                Some(limit)
            }
        };
        sum.parts.push(laid);
        ended
    }

    /// Where the search ends within a part: where there are too many states, or behind the input that answers what was asked.
    fn cut(&self, part: &Part, runs: &[Range<u32>], brought: &Brought, states: u32) -> Option<Cut> {
        let mut news = runs.iter().cloned().flatten();
        let to = |new: u32| (brought.at(new), brought.first_edge_to(new, part));
        let room = self.limits.states.saturating_sub(states) as usize;
        let full = news.clone().nth(room).map(|new| {
            let (at, edge) = to(new);
            Cut { limit: Limit::States, at, news: new, edges: edge }
        });
        let answer = match self.ask {
            Ask::All => None,
            Ask::Win => news.find(|new| brought.ends[*new as usize] == End::Won).map(|new| {
                let (at, edge) = to(new);
                Cut { limit: Limit::Answered, at, news: new + 1, edges: edge + 1 }
            }),
            Ask::Promises => {
                let events = &brought.events[part.events.clone()];
                let breaks = |came| matches!(came, Came::Broken(_) | Came::BrokenThere(_));
                let at = events.iter().find(|event| breaks(event.came)).map(Event::of);
                let last = at.and_then(|at| events.iter().rfind(|event| event.of() == at));
                last.map(|last| {
                    let behind = part.news.clone().find(|new| brought.at(*new) > last.of());
                    let edges = part.edges.start + last.edges as usize;
                    Cut { limit: Limit::Answered, at: last.of(), news: behind.unwrap_or(part.news.end), edges }
                })
            }
        };
        // A state that there is no room for does not answer anything.
        full.into_iter().chain(answer).min_by_key(|cut| cut.at)
    }

    /// Adds new states of a hand.
    fn add(&mut self, hand: usize, news: Range<u32>, brought: &Brought, sum: &mut Sum) {
        let first = sum.states;
        if first == self.beyond {
            self.found.levels.push(first);
        }
        let ends = &brought.ends[spread(&news)];
        for (first_of, end) in [(&mut self.found.won, End::Won), (&mut self.found.lost, End::Lost)] {
            if first_of.is_none() {
                *first_of = ends.iter().position(|is| *is == end).map(|at| first + at as u32);
            }
        }
        let worker = &mut self.workers[hand];
        if worker.base.whole {
            worker.kept[spread(&news)].iter_mut().for_each(|kept| self.wholes.push(kept.take()));
        }
        sum.number(hand, news);
    }

    /// Notes one thing that came of an input, tried by a hand that has found new states.
    fn happened(&mut self, (state, input): (u32, u32), came: Came, numbers: &[u32]) {
        match came {
            // The state is the one that was added last, or it was known by then and has been looked at.
            Came::Broken(promise) | Came::BrokenThere(promise) => {
                self.found.broken[promise as usize].get_or_insert((state, Some(input)));
            }
            Came::NeverSettled => {
                self.found.never_settles.get_or_insert((state, Some(input)));
            }
            // One that goes by another is noted with that one.
            Came::ToEnd(new) => self.to_end.extend(Some(numbers[new as usize]).filter(|number| *number != NONE)),
        }
    }

    /// Lays the states and the edges of a batch.
    fn lay(&mut self, sum: &Sum, brought: &[Brought], news: &mut [News]) {
        /// So many edges and fewer are sooner laid than handed out.
        const FEW: usize = if cfg!(test) { 8 } else { 256 };
        let Found { known, parents, by, ends, degrees, targets, stuck, .. } = &mut self.found;
        let degree = &mut self.degree;
        let of_run = |Run { hand, news, .. }: &Run| (&brought[*hand], spread(news));
        let lay_states = Box::new(|| {
            known.lay(news, &sum.runs, &sum.doubles);
            for (brought, news) in sum.runs.iter().map(of_run) {
                parents.extend(&brought.parents[news.clone()]);
                by.extend(&brought.by[news]);
            }
        });
        let lay_edges = Box::new(|| {
            sum.runs.iter().map(of_run).for_each(|(brought, news)| ends.extend(&brought.ends[news]));
            let mut numbered = Vec::new();
            for Laid { hand, edges, degrees: tasks, first, done } in &sum.parts {
                brought[*hand].number_edges(edges.clone(), &sum.numbers[*hand], &mut numbered);
                targets.extend(&numbered);
                for (task, state) in brought[*hand].degrees[tasks.clone()].iter().zip(*first..) {
                    *degree += task;
                    if state >= *done {
                        break;
                    }
                    if *degree == 0 && stuck.is_none() && ends.get(state as usize) == End::Open {
                        *stuck = Some(state);
                    }
                    degrees.push(std::mem::take(degree));
                }
            }
        });
        let jobs: [Job<'_>; 2] = [lay_states, lay_edges];
        if self.workers.len() > 1 && sum.parts.iter().map(|part| part.edges.len()).sum::<usize>() > FEW {
            do_all(self.host, jobs.into());
        } else {
            jobs.into_iter().for_each(|job| job());
        }
    }
}
