//! The game's clock in the workbench: what falls due by itself, and what has passed before an input.

use super::state::State;
use crate::bench::Bench;
use magpie_core::tape::Input;

impl State {
    /// Whether time does anything in this game.
    pub fn has_timers(&self) -> bool {
        self.session.as_ref().is_some_and(|session| {
            let book = session.grid().book();
            !book.timers.is_empty() || !book.glides.is_empty()
        })
    }

    /// Whether the game's clock goes on by itself now.
    pub fn time_runs(&self) -> bool {
        let over = self.session.as_ref().is_some_and(|session| session.grid().outcome().is_some());
        self.real.runs && self.bench == Bench::Play && self.has_timers() && !over
    }

    /// Time that has passed before an input comes before it on the tape.
    pub(super) fn give_owed(&mut self, input: &Input) {
        let is_turn = matches!(input, Input::Key(_) | Input::Tap(_) | Input::Drag(..));
        if !is_turn || !self.time_runs() {
            return;
        }
        if let Some(session) = &mut self.session {
            let ms = self.real.take(session.clock(), None);
            if ms > 0 {
                session.give(&Input::Wait(ms));
            }
        }
    }

    /// Timers that have become due fire, each as a wait of its own on the tape.
    pub(super) fn fire_due(&mut self) {
        /// Firings at one look: more wait for the next, so that keys are never shut out.
        const MOST: usize = 50;
        for _ in 0..MOST {
            if !self.time_runs() {
                return;
            }
            let Some(session) = &mut self.session else { return };
            let game = session.clock();
            let Some((due, _)) = session.grid().next_due(u64::MAX) else { return };
            if !self.real.reaches(game, due) {
                return;
            }
            let ms = self.real.take(game, Some(due));
            let wait = Input::Wait(ms);
            session.give(&wait);
            self.begin_motion(&wait);
            self.forget_late_change();
            self.refresh();
        }
    }

    /// The clock goes on to the next timer.
    pub(super) fn clock_step(&mut self) {
        let due = self.session.as_ref().and_then(|session| {
            let (due, _) = session.grid().next_due(u64::MAX)?;
            Some(due - session.clock())
        });
        match due {
            Some(ms) => self.play(&Input::Wait(ms)),
            None => self.note = Some("nothing happens by itself in this game".into()),
        }
    }

    /// Whether something glides on the screen now.
    pub(super) fn glides(&self) -> bool {
        self.time_runs() && self.session.as_ref().is_some_and(|session| session.grid().between_cells().next().is_some())
    }

    /// How long nothing has to be drawn; `None` where nothing happens by itself.
    pub fn sleep(&self, frame: std::time::Duration) -> Option<std::time::Duration> {
        if self.is_moving() || self.glides() {
            return Some(frame);
        }
        let session = self.session.as_ref().filter(|_| self.time_runs())?;
        let (due, _) = session.grid().next_due(u64::MAX)?;
        Some(self.real.sleep(session.clock(), due))
    }
}
