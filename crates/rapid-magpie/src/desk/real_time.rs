//! Real time for rulebooks with timers: what has passed becomes waits on the tape.

use std::time::Duration;

/// Fewest and most powers of two by which the game's time goes faster than the clock.
const SPEEDS: std::ops::RangeInclusive<i32> = -2..=3;

/// The game's clock beside the real one.
#[derive(Clone, Copy, Debug)]
pub struct RealTime {
    /// Time passes; else it stands until a key lets it go on.
    pub runs: bool,
    /// The game's time goes two to this power as fast.
    power: i32,
    /// Milliseconds of the game that have passed and are on no tape yet.
    owed: f64,
    /// The workbench's clock when it was looked at last.
    seen: f64,
}

impl Default for RealTime {
    fn default() -> Self {
        Self { runs: false, power: 0, owed: 0.0, seen: 0.0 }
    }
}

impl RealTime {
    /// How much faster than the clock.
    pub fn factor(self) -> f64 {
        2f64.powi(self.power)
    }

    /// The speed as people read it.
    pub fn words(self) -> String {
        match self.power {
            power @ ..0 => format!("×1/{}", 1 << -power),
            power => format!("×{}", 1 << power),
        }
    }

    /// Faster or slower.
    pub fn change(&mut self, by: i32) {
        self.power = (self.power + by).clamp(*SPEEDS.start(), *SPEEDS.end());
    }

    /// Real time has come to an instant of the workbench's clock.
    pub fn pass(&mut self, clock: f64) {
        if self.runs {
            self.owed += (clock - self.seen).max(0.0) * self.factor();
        }
        self.seen = clock;
    }

    /// The whole milliseconds that have passed and are on no tape yet.
    pub fn owed(self) -> u64 {
        self.owed.floor().max(0.0) as u64
    }

    /// The whole milliseconds owed up to a time of the game, given its clock; they are owed no longer.
    pub fn take(&mut self, game: u64, until: Option<u64>) -> u64 {
        let all = self.owed();
        let ms = until.map_or(all, |until| until.saturating_sub(game)).min(all);
        self.owed -= ms as f64;
        ms
    }

    /// Whether what is owed reaches a time of the game.
    pub fn reaches(self, game: u64, due: u64) -> bool {
        game as f64 + self.owed >= due as f64
    }

    /// How long the workbench may sleep until a time of the game.
    pub fn sleep(self, game: u64, due: u64) -> Duration {
        let left = (due as f64 - game as f64 - self.owed).max(0.0) / self.factor();
        Duration::from_millis(left.ceil().clamp(1.0, 60_000.0) as u64)
    }
}
