//! Keys in real time, where steps are drawn on their way: what a press comes to while a piece moves or leans, and what a key
//! that stays down does, as the kind's `pace` has it (docs/model.md, section 11).

use super::Desk;
use magpie_core::input::{Input, Key};
use magpie_core::pace::{AxisOrder, Hold, Moving, Settings};
use magpie_core::rulebook::KindId;
use magpie_core::space::Heading;
use magpie_core::space::exact::nearest;
use std::collections::VecDeque;

/// A key that is down.
#[derive(Clone, Debug)]
struct Down {
    input: Input,
    heading: Heading,
    /// When it presses again, on the workbench's clock.
    again: Option<f64>,
}

/// What the keys are doing.
#[derive(Debug, Default)]
pub struct Keys {
    /// Presses that wait for the step to end, the oldest first.
    waiting: VecDeque<Input>,
    /// The oldest first; asked only where the terminal tells releases.
    down: Vec<Down>,
    /// The last two keys pressed, the newest last.
    latched: Vec<(Input, Heading)>,
    /// Whether the terminal has told a release.
    releases_seen: bool,
    /// What became of the last press that was not played at once.
    told: Option<Told>,
}

/// What became of a press, in words.
#[derive(Debug)]
struct Told {
    words: String,
    /// Nothing is lost yet: the words no longer hold once the press is played.
    waits: bool,
}

impl Keys {
    /// Forgets every key; presses that waited are told.
    pub fn forget(&mut self) {
        let waited: Vec<String> = self.waiting.iter().map(Input::to_string).collect();
        *self = Self { releases_seen: self.releases_seen, ..Self::default() };
        if !waited.is_empty() {
            self.tell(format!("dropped, though waiting: {}", waited.join(" ")));
        }
    }

    /// What became of the last press that was not played at once.
    pub fn told(&self) -> Option<&str> {
        self.told.as_ref().map(|told| told.words.as_str())
    }

    fn tell(&mut self, words: String) {
        self.told = Some(Told { words, waits: false });
    }

    /// A press waits; it is told until it is played.
    fn wait(&mut self, input: &Input, until: &str) {
        self.waiting.push_back(input.clone());
        self.told = Some(Told { words: format!("{input} waits {until}"), waits: true });
    }
}

/// The piece that a key moves: its kind, its pace, and the heading that the key asks for.
struct Paced {
    kind: KindId,
    settings: Settings,
    heading: Heading,
}

impl Desk {
    /// Whose step a key asks for, where steps are drawn on their way.
    fn paced(&self, input: &Input) -> Option<Paced> {
        let grid = self.game.grid().filter(|_| self.time.smooth)?;
        let (book, kind) = (grid.book(), grid.board().kind_of(self.game.controlled()?));
        let Input::Key(key) = book.input_of(input) else { return None };
        let heading = book.step_of_key(kind, key)?;
        let settings = Settings::of_kind(book, kind);
        // A free body has no steps.
        (!settings.is_free()).then_some(Paced { kind, settings, heading })
    }

    /// A key of the player goes down, or repeats itself.
    pub fn press(&mut self, input: &Input, is_repeat: bool) {
        let Some(paced) = self.paced(input) else {
            if !matches!(input, Input::Wait(_)) {
                self.time.keys.forget();
            }
            return self.play(input);
        };
        self.time.keys.told = None;
        let (heading, clock) = (paced.heading, self.time.clock);
        let keys = &mut self.time.keys;
        if is_repeat && keys.releases_seen {
            return;
        }
        let again = match &paced.settings.hold {
            Hold::Repeat(after, _) => Some(clock + nearest(&after.value)),
            Hold::Continuous | Hold::Latched | Hold::Off | Hold::EveryFrame => None,
        };
        keys.down.retain(|down| down.heading != heading);
        keys.down.push(Down { input: input.clone(), heading, again });
        keys.latched.retain(|(_, other)| *other != heading);
        keys.latched.push((input.clone(), heading));
        if keys.latched.len() > 2 {
            keys.latched.remove(0);
        }
        self.pressed(input, &paced);
    }

    /// A press asks at once, or is dealt with as `while moving` says.
    fn pressed(&mut self, input: &Input, paced: &Paced) {
        if !self.is_on_its_way(paced.kind) {
            return self.play(input);
        }
        let name = self.game.book().map_or(String::new(), |book| book.kind(paced.kind).name.clone());
        let keys = &mut self.time.keys;
        let why = |moving: &str| format!("(`while moving {moving}`, v plays at once)");
        match paced.settings.moving {
            Moving::Ignored => keys.tell(format!("{input} is ignored: {name} is on its way {}", why("ignored"))),
            Moving::Remembered => {
                let before = keys.waiting.pop_front();
                keys.wait(input, &format!("for the step to end {}", why("remembered")));
                if let Some(before) = before {
                    let rest = if before == *input { "already" } else { "in its place" };
                    keys.tell(format!("{before} is dropped: {input} waits {rest} {}", why("remembered")));
                }
            }
            Moving::Queued(most) if (keys.waiting.len() as u64) < most => {
                keys.wait(input, &format!("as {} of {most} {}", keys.waiting.len() + 1, why("queued")));
            }
            Moving::Queued(most) => {
                keys.tell(format!("{input} is dropped: {most} wait already {}", why("queued")));
            }
            Moving::Obeyed => {
                let drawn = self.drawn_at(paced.kind);
                self.play(input);
                self.begin_at(paced.kind, drawn);
                let words = format!("the step under way is given up for {input} {}", why("obeyed"));
                self.time.keys.tell(words);
            }
        }
    }

    /// A key of the player goes up.
    pub fn release(&mut self, input: &Input) {
        let keys = &mut self.time.keys;
        keys.releases_seen = true;
        keys.down.retain(|down| down.input != *input);
    }

    /// Time has passed: what waits is played when the step has ended, and keys that stay down ask again.
    pub(super) fn keys_pass(&mut self) {
        let first = self.time.keys.waiting.front().or(self.time.keys.latched.last().map(|(input, _)| input)).cloned();
        let Some(paced) = first.and_then(|input| self.paced(&input)) else {
            return;
        };
        self.repeat(&paced);
        if self.is_on_its_way(paced.kind) {
            return;
        }
        if let Some(input) = self.time.keys.waiting.pop_front() {
            self.time.keys.told.take_if(|told| told.waits);
            return self.play(&input);
        }
        let keys = &self.time.keys;
        let candidates: Vec<(Input, Heading)> = match paced.settings.hold {
            Hold::Continuous if keys.releases_seen => {
                keys.down.iter().map(|down| (down.input.clone(), down.heading)).collect()
            }
            Hold::Latched => keys.latched.clone(),
            Hold::Continuous | Hold::Off | Hold::Repeat(..) | Hold::EveryFrame => Vec::new(),
        };
        // A key that stays down makes no turn of a request that would be refused.
        let granted =
            |heading: Heading| self.game.previews.iter().any(|preview| preview.heading == heading && preview.granted);
        let next = in_order(candidates, paced.settings.axis).into_iter().find(|(_, heading)| granted(*heading));
        if let Some((input, _)) = next {
            self.play(&input);
        }
    }

    /// Presses that keys which stay down make by themselves.
    fn repeat(&mut self, paced: &Paced) {
        let clock = self.time.clock;
        let mut due = Vec::new();
        for down in &mut self.time.keys.down {
            match &paced.settings.hold {
                Hold::Repeat(_, every) if down.again.is_some_and(|again| again <= clock) => {
                    down.again = Some(clock + nearest(&every.value));
                    due.push(down.input.clone());
                }
                Hold::EveryFrame => due.push(down.input.clone()),
                Hold::Repeat(..) | Hold::Continuous | Hold::Latched | Hold::Off => {}
            }
        }
        if !self.time.keys.releases_seen {
            return;
        }
        for input in due {
            if let Some(paced) = self.paced(&input) {
                self.pressed(&input, &paced);
            }
        }
    }

    /// Whether keys that stay down, or wait, want the clock to be looked at.
    pub(super) fn keys_want_time(&self) -> bool {
        let keys = &self.time.keys;
        self.time.smooth && (!keys.waiting.is_empty() || (!keys.down.is_empty() && keys.releases_seen))
    }

    /// Whether telling when keys go up would mean something.
    pub fn wants_releases(&self) -> bool {
        let arrows = ["left", "right", "up", "down"].map(|word| Input::Key(Key(word.into())));
        arrows.iter().filter_map(|arrow| self.paced(arrow)).any(|paced| paced.settings.hold != Hold::Off)
    }
}

/// Keys in the order in which they are asked.
fn in_order(mut keys: Vec<(Input, Heading)>, order: AxisOrder) -> Vec<(Input, Heading)> {
    let is_across = |heading: &Heading| matches!(heading, Heading::West | Heading::East);
    match order {
        AxisOrder::FirstPressed => {}
        // An input is one key: both axes together are none.
        AxisOrder::LastPressed | AxisOrder::Diagonal => keys.reverse(),
        AxisOrder::HorizontalFirst => {
            keys.reverse();
            keys.sort_by_key(|(_, heading)| !is_across(heading));
        }
        AxisOrder::VerticalFirst => {
            keys.reverse();
            keys.sort_by_key(|(_, heading)| is_across(heading));
        }
    }
    keys
}
