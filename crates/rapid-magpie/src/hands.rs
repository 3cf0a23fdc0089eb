//! Threads and a clock for a search: what the core has none of.

use magpie_core::proof::{Halt, Host, Job, Progress};
use rayon::{ThreadPool, ThreadPoolBuilder};
use std::num::NonZero;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, AtomicUsize, Ordering};
use std::time::{Duration, Instant};

/// How long a search goes on unless said otherwise.
pub const LONGEST_SEARCH: Duration = Duration::from_mins(2);

/// Threads beside the one that asks. What they are asked for comes in short rounds, closely one behind the other, and to wake a
/// thread takes longer than many a round: so all of them stay awake for a while.
struct Others {
    pool: ThreadPool,
    /// How often they have been asked.
    rounds: Arc<AtomicU64>,
}

impl Others {
    /// How long one stays awake without anything to do.
    const AWAKE: Duration = Duration::from_micros(500);

    fn work<'j>(&self, own: impl FnOnce(), jobs: impl ExactSizeIterator<Item = Job<'j>>) {
        let round = self.rounds.fetch_add(1, Ordering::Relaxed) + 1;
        let left = AtomicUsize::new(jobs.len());
        self.pool.in_place_scope(|scope| {
            for job in jobs {
                let (left, rounds) = (&left, Arc::clone(&self.rounds));
                scope.spawn(move |_| {
                    job();
                    left.fetch_sub(1, Ordering::Relaxed);
                    rayon::spawn(move || Self::stay_awake(|| rounds.load(Ordering::Relaxed) == round));
                });
            }
            own();
            Self::stay_awake(|| left.load(Ordering::Relaxed) > 0);
        });
    }

    fn stay_awake(is_waiting: impl Fn() -> bool) {
        let begun = Instant::now();
        while is_waiting() && begun.elapsed() < Self::AWAKE {
            std::thread::yield_now();
        }
    }
}

/// The hands that a search works with, and who hears how far it is.
pub struct Hands<E> {
    /// None where the thread that asks does all by itself.
    others: Option<Others>,
    begun: Instant,
    time: Duration,
    stop: Arc<AtomicBool>,
    ear: E,
}

impl<E: Fn(Progress, Duration)> Hands<E> {
    /// As many as the machine has, for so long, or until somebody stops them.
    pub fn for_time(time: Duration, stop: Arc<AtomicBool>, ear: E) -> Self {
        Self::of(std::thread::available_parallelism().map_or(1, NonZero::get), time, stop, ear)
    }

    /// So many.
    pub fn of(hands: usize, time: Duration, stop: Arc<AtomicBool>, ear: E) -> Self {
        let pool = |others| ThreadPoolBuilder::new().num_threads(others).build().ok();
        let pool = Some(hands.saturating_sub(1)).filter(|others| *others > 0).and_then(pool);
        let others = pool.map(|pool| Others { pool, rounds: Arc::default() });
        Self { others, begun: Instant::now(), time, stop, ear }
    }
}

impl<E: Fn(Progress, Duration) + Sync> Host for Hands<E> {
    fn hands(&self) -> usize {
        self.others.as_ref().map_or(0, |others| others.pool.current_num_threads()) + 1
    }

    fn work(&self, jobs: Vec<Job<'_>>) {
        let mut jobs = jobs.into_iter();
        let own = jobs.next();
        let own = || own.into_iter().for_each(|job| job());
        match &self.others {
            Some(others) => others.work(own, jobs),
            None => {
                own();
                jobs.for_each(|job| job());
            }
        }
    }

    fn elapsed(&self) -> Duration {
        self.begun.elapsed()
    }

    fn halted(&self) -> Option<Halt> {
        if self.stop.load(Ordering::Relaxed) {
            return Some(Halt::Stopped);
        }
        (self.begun.elapsed() >= self.time).then_some(Halt::Seconds)
    }

    fn tell(&self, progress: Progress) {
        (self.ear)(progress, self.begun.elapsed());
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_job_of_every_round_is_done_by_its_end() {
        for hands in 1..4 {
            let hands = Hands::of(hands, LONGEST_SEARCH, Arc::default(), |_, _| ());
            for round in 0..200 {
                if round % 50 == 49 {
                    // Whoever has gone to sleep in between wakes up again.
                    std::thread::sleep(Duration::from_millis(2));
                }
                let mut done = [0; 3];
                let jobs = done.iter_mut().zip(1..).map(|(done, number)| -> Job { Box::new(move || *done = number) });
                hands.work(jobs.collect());
                assert_eq!(done, [1, 2, 3]);
            }
        }
    }
}
