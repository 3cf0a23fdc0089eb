//! What a search asks of whoever starts it: hands to work with, a word when to stop, an ear for how far it is.

use std::time::Duration;

/// Work that may be done beside other work.
pub type Job<'a> = Box<dyn FnOnce() + Send + 'a>;

/// Why a search ends before its time.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Halt {
    /// Its time is up.
    Seconds,
    /// Somebody has stopped it.
    Stopped,
}

/// How far a search is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Progress {
    /// States that are known.
    pub states: u32,
    /// States of which every input has been tried.
    pub done: u32,
    /// Changes from one state to another.
    pub edges: u64,
    /// How many inputs the deepest state lies behind the start.
    pub depth: u32,
    /// Bytes that it holds, with those that its last passes need.
    pub bytes: usize,
}

/// Stands in for the threads, the clock and the eyes that a search has none of.
pub trait Host: Sync {
    /// How many jobs can be done at once.
    fn hands(&self) -> usize {
        1
    }

    /// Does all jobs, beside each other where it can.
    fn work(&self, jobs: Vec<Job<'_>>) {
        jobs.into_iter().for_each(|job| job());
    }

    /// How long it has been going on: pieces of work are cut so that each takes some hundredths of a second. Where nobody
    /// tells the time they are as large as they may be.
    fn elapsed(&self) -> Duration {
        Duration::ZERO
    }

    /// Whether the search is to end now. It is asked often, from every job.
    fn halted(&self) -> Option<Halt> {
        None
    }

    /// Hears how far the search is.
    fn tell(&self, _: Progress) {}
}

/// One pair of hands, and all the time of the world.
#[derive(Clone, Copy, Debug, Default)]
pub struct Alone;

impl Host for Alone {}
