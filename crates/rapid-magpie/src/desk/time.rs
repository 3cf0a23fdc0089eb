//! Time on the desk: the workbench's clock, the game's beside it, and what is on its way between cells.

use super::Desk;
use super::board::Ghost;
use super::keys::Keys;
use super::motion::{Motion, Spread};
use super::real_time::RealTime;
use magpie_core::input::Input;
use magpie_core::rulebook::KindId;
use magpie_core::space::WorldPoint;
use std::time::Duration;

/// Clocks and motion.
#[derive(Debug, Default)]
pub struct Time {
    /// Milliseconds since the workbench was opened; it stands still where nobody looks.
    pub clock: f64,
    /// Whether steps are drawn between cells.
    pub smooth: bool,
    /// Real time, for rulebooks with timers.
    pub real: RealTime,
    /// The bench in front lets the game's time pass.
    pub played: bool,
    /// What is on its way between cells.
    pub motion: Option<Motion>,
    /// Keys while a piece is on its way.
    pub keys: Keys,
    /// A flood that is still spreading on the screen.
    pub spread: Option<Spread>,
}

impl Time {
    /// Nothing is on its way any more.
    pub fn stop_motion(&mut self) {
        (self.motion, self.spread) = (None, None);
        self.keys.forget();
    }
}

impl Desk {
    /// Whether the game's clock goes on by itself now.
    pub fn time_runs(&self) -> bool {
        let over = self.game.grid().is_some_and(|grid| grid.outcome().is_some());
        self.time.real.runs && self.time.played && self.game.has_time() && !over
    }

    /// Time that has passed before an input comes before it on the tape.
    pub(super) fn give_owed(&mut self, input: &Input) {
        let is_turn = matches!(input, Input::Key(_) | Input::Tap(_) | Input::Drag(..));
        if !is_turn || !self.time_runs() {
            return;
        }
        if let Some(session) = &mut self.game.session {
            let ms = self.time.real.take(session.clock(), None);
            if ms > 0 {
                session.give(&Input::Wait(ms));
            }
        }
    }

    /// Timers that have become due fire, each as a wait of its own on the tape.
    fn fire_due(&mut self) {
        /// Firings at one look: more wait for the next, so that keys are never shut out.
        const MOST: usize = 50;
        for _ in 0..MOST {
            if !self.time_runs() {
                return;
            }
            let Some(session) = &mut self.game.session else { return };
            let game = session.clock();
            let Some((due, _)) = session.grid().next_due(u64::MAX) else { return };
            if !self.time.real.reaches(game, due) {
                return;
            }
            let wait = Input::Wait(self.time.real.take(game, Some(due)));
            session.give(&wait);
            self.begin_motion(&wait);
            self.game_changed();
        }
    }

    /// The clock goes on to the next timer.
    pub fn clock_step(&mut self) {
        let due = self.game.session.as_ref().and_then(|session| {
            let (due, _) = session.grid().next_due(u64::MAX)?;
            Some(due - session.clock())
        });
        match due {
            Some(ms) => self.play(&Input::Wait(ms)),
            None => self.say("nothing happens by itself in this game"),
        }
    }

    /// The game's clock goes on, or stands.
    pub fn pause(&mut self) {
        if self.game.has_time() {
            self.time.real.runs = !self.time.real.runs;
        } else {
            self.say("nothing happens by itself in this game");
        }
    }

    /// The game's clock, and floods on the screen, go faster or slower.
    pub fn change_speed(&mut self, by: i32) {
        self.time.real.change(by);
        if !self.game.has_time() {
            self.say(format!("floods spread at {}", self.time.real.words()));
        }
    }

    /// Steps are drawn between cells, or at once.
    pub fn toggle_smooth(&mut self) {
        self.time.smooth = !self.time.smooth;
        self.time.motion = None;
        self.time.keys.forget();
        self.say(if self.time.smooth { "steps are drawn between cells" } else { "steps are drawn at once" });
    }

    /// What the last input moved is drawn on its way.
    pub(super) fn begin_motion(&mut self, input: &Input) {
        (self.time.motion, self.time.spread) = (None, None);
        let (true, Some(session)) = (self.time.smooth && *input != Input::Undo, &self.game.session) else {
            return;
        };
        let (book, extent) = (session.grid().book(), session.grid().board().extent());
        let answers = session.played().last().map_or(&[][..], |entry| entry.answers.as_slice());
        self.time.motion = Motion::of(answers, book, extent, self.time.clock);
        self.time.spread = Spread::of(answers, extent, self.time.clock, self.time.real.factor());
    }

    /// The workbench's clock goes on.
    pub fn tick(&mut self, clock: f64) {
        self.time.clock = clock;
        self.time.real.pass(clock);
        self.fire_due();
        if self.time.motion.as_ref().is_some_and(|motion| motion.is_over(clock)) {
            self.time.motion = None;
        }
        if self.time.spread.as_ref().is_some_and(|spread| spread.is_over(clock)) {
            self.time.spread = None;
        }
        self.keys_pass();
    }

    /// Whether a kind is drawn on its way, or leans.
    pub(super) fn is_on_its_way(&self, kind: KindId) -> bool {
        self.time.motion.as_ref().is_some_and(|motion| motion.moves(kind, self.time.clock))
    }

    /// Where a kind is drawn on its way.
    pub(super) fn drawn_at(&self, kind: KindId) -> Option<WorldPoint> {
        self.on_their_way().into_iter().find(|ghost| ghost.kind == kind).map(|ghost| ghost.at)
    }

    /// The way of a kind begins where it was drawn.
    pub(super) fn begin_at(&mut self, kind: KindId, drawn: Option<WorldPoint>) {
        if let (Some(motion), Some(drawn)) = (&mut self.time.motion, drawn) {
            motion.begin_at(kind, drawn);
        }
    }

    /// Whether something is drawn on its way now.
    pub const fn is_moving(&self) -> bool {
        self.time.motion.is_some() || self.time.spread.is_some()
    }

    /// How long nothing has to be drawn; `None` where nothing happens by itself.
    pub fn sleep(&self, frame: Duration) -> Option<Duration> {
        let glides = || self.game.grid().is_some_and(|grid| grid.between_cells().next().is_some());
        if self.is_moving() || self.keys_want_time() || (self.time_runs() && glides()) {
            return Some(frame);
        }
        let session = self.game.session.as_ref().filter(|_| self.time_runs())?;
        let (due, _) = session.grid().next_due(u64::MAX)?;
        Some(self.time.real.sleep(session.clock(), due))
    }

    /// Gliders and riders, where they are at this moment of real time.
    pub fn between_cells(&self) -> Vec<Ghost> {
        let Some(grid) = self.game.grid() else { return Vec::new() };
        let (board, geometry) = (grid.board(), &grid.book().geometry);
        let ms = if self.time_runs() { self.time.real.owed() } else { 0 };
        let corner = geometry.corner_of_first(board.extent());
        let (pitch, gap) = (geometry.pitch(), geometry.gap);
        let drawn = grid.between_cells().filter_map(|piece| {
            let (x, y) = grid.at_in(piece, ms)?;
            let across = x * pitch.0 - gap.0 / 2.0;
            let at =
                WorldPoint { x: corner.x + across, y: corner.y + geometry.row_sign() * (y * pitch.1 - gap.1 / 2.0) };
            let hides = board.cell_of(piece).map(|cell| board.cell(cell));
            Some(Ghost { kind: board.kind_of(piece), at, size: None, claimed: None, hides })
        });
        // What is carried is drawn over what carries it.
        let mut drawn: Vec<Ghost> = drawn.collect();
        drawn.sort_by_key(|ghost| board.layer(ghost.kind));
        drawn
    }

    /// The pieces that are on their way after the last input.
    pub fn on_their_way(&self) -> Vec<Ghost> {
        self.time.motion.as_ref().map_or(Vec::new(), |motion| motion.ghosts(self.time.clock))
    }
}
