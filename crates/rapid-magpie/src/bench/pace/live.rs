//! The arrows walk the piece in real time under the chosen settings.

use super::Pace;
use crate::desk::Desk;
use crate::desk::board::Ghost;
use magpie_core::pace::{Drive, Frames, KeyEvent, Plan, Settings, TrackRun, run};
use magpie_core::rulebook::KindId;
use magpie_core::space::exact::{Fraction, as_written};
use magpie_core::space::{Cell, Heading, WorldPoint};
use magpie_core::tape::Session;

/// How long a key counts as down where the terminal tells no releases, in ms: until its next repeat comes.
const HELD_ON: f64 = 160.0;

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

impl Pace {
    /// Begins a walk, or ends it.
    pub(super) fn begin_walk(&mut self, desk: &mut Desk) {
        if self.live.take().is_some() {
            return;
        }
        let Some(grid) = desk.game.grid() else { return };
        let book = grid.book();
        let Some(kind) = self.kind(book) else { return };
        let name = book.kind(kind).name.clone();
        let Some(home) = grid.first_cell(kind) else {
            desk.say(format!("there is no {name} on this map"));
            return;
        };
        let (settings, began) = (self.settings(book), desk.time.clock);
        self.live = Some(Live { kind, name, settings, keys: Vec::new(), began, now: 0.0, walked: None, home });
        self.releases_seen = false;
    }
}

impl Live {
    /// A key goes down, or up. Where the terminal tells no releases a press is a tap.
    pub fn key(&mut self, key: Heading, down: bool, releases: bool) {
        let at = as_written(self.now.round().max(0.0));
        let held = self.keys.iter().rev().find(|event| event.key == key).is_some_and(|event| event.down);
        let event = |down: bool| KeyEvent { at: at.clone(), kind: None, key, down };
        if !releases && self.settings.is_free() {
            return self.hold_on(key, &at);
        }
        if down == held {
            return;
        }
        self.keys.push(event(down));
        if down && !releases {
            self.keys.push(event(false));
        }
    }

    /// A key of a body, which a tap would move by a frame only: without releases it stays down until its repeats end.
    fn hold_on(&mut self, key: Heading, at: &Fraction) {
        let until = at + as_written(HELD_ON);
        let event = |at: &Fraction, down: bool| KeyEvent { at: at.clone(), kind: None, key, down };
        // A release that has not come yet is put off; another key takes its turn.
        let pending = self.keys.iter().rposition(|event| event.key == key && !event.down && event.at > *at);
        match pending {
            Some(pending) => drop(self.keys.remove(pending)),
            None => {
                self.keys
                    .iter_mut()
                    .filter(|event| !event.down && event.at > *at)
                    .for_each(|event| event.at = at.clone());
                self.keys.push(event(at, true));
            }
        }
        self.keys.push(event(&until, false));
        self.keys.sort_by(|one, other| one.at.cmp(&other.at));
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
        let size = run.body.as_ref().map(|body| body.size);
        Some(Ghost { kind: self.kind, at, size, claimed: Some(sample.cell), hides: Some(self.home) })
    }

    /// The figures so far.
    pub const fn walked(&self) -> Option<&TrackRun> {
        self.walked.as_ref()
    }
}
