//! The arrows walk the piece in real time under the chosen settings.

use crate::stage::board_view::Ghost;
use crate::stage::state::State;
use magpie_core::pace::{Drive, Frames, KeyEvent, Plan, Settings, TrackRun, run};
use magpie_core::rulebook::KindId;
use magpie_core::space::exact::as_written;
use magpie_core::space::{Cell, Heading, WorldPoint};
use magpie_core::tape::Session;

/// Longest walk, in ms: it is played again from its beginning at every frame.
const LONGEST: f64 = 60_000.0;

/// A walk under way.
#[derive(Debug)]
pub struct Live {
    kind: KindId,
    name: String,
    settings: Settings,
    /// Keys so far, every one with its release.
    keys: Vec<KeyEvent>,
    /// The time of the workbench's clock at which it began, in ms.
    began: f64,
    now: f64,
    walked: Option<TrackRun>,
    home: Cell,
}

/// Begins a walk, or ends it.
pub fn begin(state: &mut State) {
    if state.pace.live.take().is_some() {
        return;
    }
    let Some(session) = &state.session else { return };
    let grid = session.grid();
    let book = grid.book();
    let Some(kind) = state.pace.kind(book) else { return };
    let Some(home) = grid.first_cell(kind) else {
        state.note = Some(format!("there is no {} on this map", book.kind(kind).name));
        return;
    };
    let (name, settings) = (book.kind(kind).name.clone(), state.pace.settings(book));
    state.pace.live =
        Some(Live { kind, name, settings, keys: Vec::new(), began: state.clock, now: 0.0, walked: None, home });
}

impl Live {
    /// A key goes down, or up. Where the terminal tells no releases a press is a tap.
    pub fn key(&mut self, key: Heading, down: bool, releases: bool) {
        let at = as_written(self.now.round().max(0.0));
        let held = self.keys.iter().rev().find(|event| event.key == key).is_some_and(|event| event.down);
        let event = |down: bool| KeyEvent { at: at.clone(), kind: None, key, down };
        if down == held {
            return;
        }
        self.keys.push(event(down));
        if down && !releases {
            self.keys.push(event(false));
        }
    }

    /// Walks on to an instant of the workbench's clock; false where the walk is over.
    pub fn tick(&mut self, clock: f64, session: &mut Session) -> bool {
        self.now = clock - self.began;
        if self.now > LONGEST {
            return false;
        }
        let Ok(frames) = Frames::rate("60") else { return false };
        let plan = Plan {
            movers: vec![(self.name.clone(), self.settings.clone())],
            frames,
            keys: Drive::Keys(self.keys.clone()),
            until: Some(as_written(self.now.max(0.0))),
        };
        let (geometry, extent) = (session.grid().book().geometry.clone(), session.grid().board().extent());
        let walked = session.grid_mut().trial(|grid| run(&plan, &geometry, extent, Some(grid)));
        self.walked = walked.ok().and_then(|mut runs| runs.pop());
        true
    }

    /// The piece where it is now.
    pub fn ghost(&self) -> Option<Ghost> {
        let run = self.walked.as_ref()?;
        let sample = run.samples.last()?;
        let at = WorldPoint { x: sample.x, y: sample.y };
        Some(Ghost { kind: self.kind, at, claimed: Some(sample.cell), hides: Some(self.home) })
    }

    /// The figures so far.
    pub const fn walked(&self) -> Option<&TrackRun> {
        self.walked.as_ref()
    }
}
