//! Threads and a clock for a search: what the core has none of.

use magpie_core::proof::{Halt, Host, Job, Progress};
use rayon::{ThreadPool, ThreadPoolBuilder};
use std::num::NonZero;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

/// How long a search goes on unless said otherwise.
pub const LONGEST_SEARCH: Duration = Duration::from_mins(2);

/// The hands that a search works with, and who hears how far it is.
pub struct Hands<E> {
    /// Those beside the thread that asks; none where it does all by itself.
    others: Option<ThreadPool>,
    begun: Instant,
    time: Duration,
    stop: Arc<AtomicBool>,
    ear: E,
}

impl<E: Fn(Progress, Duration)> Hands<E> {
    /// As many as the machine has, for so long, or until somebody stops them.
    pub fn for_time(time: Duration, stop: Arc<AtomicBool>, ear: E) -> Self {
        let others = std::thread::available_parallelism().map_or(0, |threads| NonZero::get(threads) - 1);
        let pool = |others| ThreadPoolBuilder::new().num_threads(others).build().ok();
        let others = Some(others).filter(|others| *others > 0).and_then(pool);
        Self { others, begun: Instant::now(), time, stop, ear }
    }
}

impl<E: Fn(Progress, Duration) + Sync> Host for Hands<E> {
    fn hands(&self) -> usize {
        self.others.as_ref().map_or(0, ThreadPool::current_num_threads) + 1
    }

    fn work(&self, jobs: Vec<Job<'_>>) {
        let mut jobs = jobs.into_iter();
        let own = jobs.next();
        let own = || own.into_iter().for_each(|job| job());
        match &self.others {
            Some(others) => others.in_place_scope(|scope| {
                jobs.for_each(|job| scope.spawn(|_| job()));
                own();
            }),
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
