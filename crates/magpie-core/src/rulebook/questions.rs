//! What can be asked of a rulebook as a whole, answered here once: who ever moves, which headings are used, what lies where.

use super::model::{
    Action, Common, Effect, HeadingWord, KindId, Match, Met, Pieces, PlainVerb, Rulebook, SetId, Trigger, Verb,
};
use crate::input::{Input, Key, Written};
use crate::space::{Cell, Conversion, Heading, Position, PositionError, RowsFrom, convert};
use thiserror::Error;

/// A name or number that the rulebook does not have.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[non_exhaustive]
pub enum NotThere {
    /// No map of this number, counted from 1.
    #[error("there is no map {0}: the rulebook has {1}, counted from 1")]
    Map(usize, usize),
    /// No kind of this name.
    #[error("`{0}` is no kind of this rulebook")]
    Kind(String),
}

impl Rulebook {
    /// The number of a map from 0, given as counted from 1.
    ///
    /// # Errors
    /// There is no such map.
    pub fn map_number(&self, map: usize) -> Result<usize, NotThere> {
        let number = map.checked_sub(1).filter(|number| *number < self.maps.len());
        number.ok_or(NotThere::Map(map, self.maps.len()))
    }

    /// The kind of a name.
    ///
    /// # Errors
    /// There is no such kind.
    pub fn kind_named(&self, name: &str) -> Result<KindId, NotThere> {
        let shown = || name.chars().filter(|c| !c.is_control()).take(60).collect();
        self.kind_of_name(name).ok_or_else(|| NotThere::Kind(shown()))
    }

    /// The hotspot of a kind's pieces, in world px; without a kind, and for kinds without one of their own, the rulebook's.
    pub fn hotspot_of(&self, kind: Option<KindId>) -> (f64, f64) {
        kind.and_then(|kind| self.kind(kind).hotspot).unwrap_or(self.geometry.hotspot)
    }

    /// Whether a map, from 0, has no cell here.
    pub fn is_void(&self, map: usize, cell: Cell) -> bool {
        let map = &self.maps[map];
        let rows = i64::from(map.extent.rows);
        let line = if self.geometry.rows == RowsFrom::Top { cell.row } else { rows - 1 - cell.row };
        map.is_void(cell.column as u32, line as u32)
    }

    /// Answers one position on a map, from 0, with the hotspot that counts.
    ///
    /// # Errors
    /// A window position in a rulebook without a view.
    pub fn convert(&self, map: usize, hotspot: (f64, f64), position: Position) -> Result<Conversion, PositionError> {
        let is_void = |cell: Cell| self.is_void(map, cell);
        convert(&self.geometry, self.maps[map].extent, self.view.as_ref(), hotspot, &is_void, position)
    }

    /// The input that a written one is on a map, from 0. A touch by pixels is one of the computed cell, and has no hotspot; a
    /// tap on a button of the view is its key.
    ///
    /// # Errors
    /// A window position in a rulebook without a view.
    pub fn input_written(&self, map: usize, written: &Written) -> Result<Input, PositionError> {
        let cell = |position: Position| {
            let found = self.convert(map, (0.0, 0.0), position)?;
            Ok(found.cell.unwrap_or(Cell::new(-1, -1)))
        };
        match written {
            Written::Input(input) => Ok(input.clone()),
            Written::Touch { from, to: Some(to) } => Ok(Input::Drag(cell(*from)?, cell(*to)?)),
            Written::Touch { from, to: None } => {
                let button = match (from, &self.view) {
                    (Position::Window(point), Some(view)) => view.button_at(*point),
                    _ => None,
                };
                match button {
                    Some(button) => Ok(Input::Key(Key(button.key.clone()))),
                    None => Ok(Input::Tap(cell(*from)?)),
                }
            }
        }
    }

    /// Whether some rule is about a key.
    pub fn uses_key(&self, key: &Key) -> bool {
        let named = self.aliases.iter().any(|(used, _)| used == key);
        named || self.inputs.iter().any(|rule| matches!(&rule.trigger, Trigger::Key(used) if used == key))
    }

    /// What an input is: that for which its key is another name, or itself.
    pub fn input_of<'a>(&'a self, input: &'a Input) -> &'a Input {
        let Input::Key(key) = input else { return input };
        self.aliases.iter().find(|(used, _)| used == key).map_or(input, |(_, named)| named)
    }

    /// The heading for which a key makes all pieces of a kind ask; `None` where it makes them ask for no one step.
    pub fn step_of_key(&self, kind: KindId, key: &Key) -> Option<Heading> {
        let of_key = self.inputs.iter().filter(|rule| matches!(&rule.trigger, Trigger::Key(used) if used == key));
        let mut actions = of_key.filter_map(|rule| rule.actions.first()?.first());
        actions.find_map(|action| match action {
            Action::Step { pieces: Pieces::Every(set, None), heading: HeadingWord::Compass(heading), times: 1 } => {
                self.set(*set).contains(kind).then_some(*heading)
            }
            _ => None,
        })
    }

    /// The kinds that a control covers.
    pub fn controlled(&self) -> Vec<KindId> {
        let covers = |kind: &KindId| self.controls.iter().any(|control| self.set(control.who).contains(*kind));
        (0..self.kinds.len()).map(|number| KindId(number as u16)).filter(covers).collect()
    }

    /// Whether some rule is about touches.
    pub fn is_touched(&self) -> bool {
        self.inputs.iter().any(|rule| matches!(rule.trigger, Trigger::Tap(_) | Trigger::Drag(..)))
    }

    /// Whether something happens by itself as time passes.
    pub fn has_time(&self) -> bool {
        !self.timers.is_empty() || !self.glides.is_empty()
    }

    /// Whether some rule moves the active body by steps.
    pub fn moves_active(&self) -> bool {
        self.actions().any(|action| {
            matches!(
                action,
                Action::Step { pieces: Pieces::Active, .. }
                    | Action::Leap(Pieces::Active, ..)
                    | Action::Drop(Pieces::Active, _)
            )
        })
    }

    /// The headings that pieces ask for: the straight ones, and the diagonals where some rule steps so.
    pub fn headings(&self) -> Vec<Heading> {
        let diagonal = self.actions().any(|action| match action {
            Action::Step { heading: HeadingWord::Compass(heading), .. }
            | Action::Drop(_, HeadingWord::Compass(heading)) => heading.is_diagonal(),
            _ => false,
        });
        let straight = [Heading::North, Heading::East, Heading::South, Heading::West];
        let rest = [Heading::NorthEast, Heading::SouthEast, Heading::SouthWest, Heading::NorthWest];
        straight.into_iter().chain(rest.into_iter().filter(|_| diagonal)).collect()
    }

    /// Which kinds ever ask for a step, by number: controlled, moved by an action, falling, carried, shoved by one that asks,
    /// or what such a one becomes on its way.
    pub fn askers(&self) -> Vec<bool> {
        let mut asks = Flags::new(self);
        self.controls.iter().for_each(|control| asks.mark(control.who));
        for action in self.actions() {
            match action {
                Action::Step { pieces, .. }
                | Action::Leap(pieces, ..)
                | Action::Drop(pieces, _)
                | Action::Walk(pieces, _) => asks.mark_pieces(pieces),
                Action::Common(_)
                | Action::Swap { .. }
                | Action::Flood { .. }
                | Action::Choose(_)
                | Action::Rotate { .. }
                | Action::LockActive
                | Action::Steer(..) => {}
            }
        }
        for common in self.commons() {
            if let Common::Fall(set, _) | Common::Refill(set, _) = common {
                asks.mark(*set);
            }
        }
        self.shapes.iter().for_each(|shape| asks.mark(shape.of));
        // What is shoved by one that asks, asks too.
        loop {
            let before = asks.flags.clone();
            for meeting in &self.meetings {
                if let (Verb::Shove { .. }, Met::Pieces(set)) = (meeting.verb, meeting.met)
                    && asks.any(meeting.who)
                {
                    asks.mark(set);
                }
            }
            // Who becomes another kind on its way asks on as that.
            let own = self.meetings.iter().map(|rule| (rule.who, &rule.effects));
            for (who, effects) in own.chain(self.offs.iter().map(|rule| (rule.who, &rule.effects))) {
                for effect in effects {
                    if let Effect::Become(kind) = effect
                        && asks.any(who)
                    {
                        asks.mark_kind(*kind);
                    }
                }
            }
            for common in self.commons() {
                if let Common::TurnInto(pieces, kind) = common
                    && asks.any_of(pieces)
                {
                    asks.mark_kind(*kind);
                }
            }
            if asks.flags == before {
                return before;
            }
        }
    }

    /// Which kinds stand for ever where the map has them, by number: no rule moves, makes, turns or removes a piece of them.
    pub fn fixed_kinds(&self) -> Vec<bool> {
        let mut free = Flags { flags: self.askers(), book: self };
        self.glides.iter().for_each(|glide| free.mark(glide.who));
        self.trails.iter().for_each(|trail| free.mark_kind(trail.leaves));
        for action in self.actions() {
            if let Action::Flood { into, .. } = action {
                free.mark_kind(*into);
            }
        }
        for common in self.commons() {
            match common {
                Common::Remove(pieces) => free.mark_known(pieces),
                Common::TurnInto(pieces, kind) => {
                    free.mark_known(pieces);
                    free.mark_kind(*kind);
                }
                Common::Place(kind, _) | Common::SpawnKind(kind, _) => free.mark_kind(*kind),
                Common::Fall(set, _) | Common::Refill(set, _) => free.mark(*set),
                Common::TurnHeading(..)
                | Common::SpawnShape(..)
                | Common::Add(..)
                | Common::Set(..)
                | Common::Grow(_)
                | Common::Quicken { .. }
                | Common::Signal(_)
                | Common::Win
                | Common::Lose
                | Common::Restart
                | Common::NextMap => {}
            }
        }
        // Whoever becomes another kind in a meeting or an `off` has asked for it.
        for effect in self.effects() {
            if let Effect::Become(kind) = effect {
                free.mark_kind(*kind);
            }
        }
        for when in &self.whens {
            let of = match when.what {
                Match::Full { of, .. } | Match::Run { of, .. } | Match::Patch { of, .. } => of,
                Match::On { who, .. } => who,
            };
            let changes = |effect: &Effect| match effect {
                Effect::Become(_) | Effect::Clear | Effect::DropRows(_) => true,
                Effect::Common(_) => false,
            };
            if when.effects.iter().any(changes) {
                free.mark(of);
            }
        }
        for rule in &self.inputs {
            let (one, other) = match &rule.trigger {
                Trigger::Tap(what) => (*what, None),
                Trigger::Drag(what, onto) => (*what, *onto),
                Trigger::Start | Trigger::Key(_) | Trigger::Timer(_) | Trigger::EachTurn => (None, None),
            };
            for touched in [one, other].into_iter().flatten() {
                if let Met::Pieces(set) = touched {
                    free.mark(set);
                }
            }
        }
        for meeting in &self.meetings {
            if let Met::Pieces(set) = meeting.met
                && moves_occupant(meeting.verb)
            {
                free.mark(set);
            }
        }
        free.flags.into_iter().map(|free| !free).collect()
    }
}

/// Whether a verb may ever move, remove or exchange what is met.
pub(super) fn moves_occupant(verb: Verb) -> bool {
    match verb {
        Verb::Shove { .. } => true,
        Verb::Plain(verb) => match verb {
            PlainVerb::Swap | PlainVerb::Take | PlainVerb::Clash => true,
            PlainVerb::Stop
            | PlainVerb::Pass
            | PlainVerb::Perish
            | PlainVerb::Bounce
            | PlainVerb::Slide
            | PlainVerb::Ride
            | PlainVerb::Wrap
            | PlainVerb::Warp(_) => false,
        },
    }
}

/// One flag a kind.
struct Flags<'a> {
    flags: Vec<bool>,
    book: &'a Rulebook,
}

impl<'a> Flags<'a> {
    fn new(book: &'a Rulebook) -> Self {
        Self { flags: vec![false; book.kinds.len()], book }
    }

    fn mark(&mut self, set: SetId) {
        self.book.set(set).iter().for_each(|kind| self.flags[usize::from(kind.0)] = true);
    }

    /// Whether one of a set is marked.
    fn any(&self, set: SetId) -> bool {
        self.book.set(set).iter().any(|kind| self.flags[usize::from(kind.0)])
    }

    /// Whether one of some pieces may be of a kind that is marked.
    fn any_of(&self, pieces: &Pieces) -> bool {
        match pieces {
            Pieces::Every(set, _) | Pieces::Matched(set, _) => self.any(*set),
            Pieces::Active | Pieces::Tapped | Pieces::Dragged | Pieces::Dropped | Pieces::Chosen => true,
        }
    }

    fn mark_kind(&mut self, kind: KindId) {
        if let Some(flag) = self.flags.get_mut(usize::from(kind.0)) {
            *flag = true;
        }
    }

    /// Whoever is touched, chosen or active may be of any kind.
    fn mark_pieces(&mut self, pieces: &Pieces) {
        match pieces {
            Pieces::Every(set, _) | Pieces::Matched(set, _) => self.mark(*set),
            Pieces::Active | Pieces::Tapped | Pieces::Dragged | Pieces::Dropped | Pieces::Chosen => {
                self.mark(self.book.any);
            }
        }
    }

    /// Whoever is touched is marked with what the rule's touch is about.
    fn mark_known(&mut self, pieces: &Pieces) {
        match pieces {
            Pieces::Every(set, _) | Pieces::Matched(set, _) => self.mark(*set),
            Pieces::Active | Pieces::Tapped | Pieces::Dragged | Pieces::Dropped | Pieces::Chosen => {}
        }
    }
}
