//! A rulebook that has been checked: names resolved to numbers, ready to be played.

mod conditions;
mod kinds;
mod rules;

pub use conditions::*;
pub use kinds::*;
pub use rules::*;

use super::syntax::{GlideEnd, Num, SpeedUnit};
use crate::input::{Input, Key};
use crate::space::{Extent, Geometry, Heading, View};

/// A timer.
#[derive(Clone, Debug)]
pub struct Timer {
    /// Its name.
    pub name: String,
    /// Its period in ms.
    pub ms: i64,
}

/// A trail.
#[derive(Clone, Debug)]
pub struct Trail {
    /// The kind that leaves it.
    pub head: KindId,
    /// The kind left.
    pub leaves: KindId,
    /// How many at the beginning.
    pub long: u32,
    /// The oldest piece still counts when the head asks.
    pub tail_last: bool,
}

/// A statement that moves pieces continuously.
#[derive(Clone, Debug)]
pub struct Glide {
    /// Which pieces.
    pub who: SetId,
    /// Where to.
    pub heading: Heading,
    /// How fast.
    pub speed: Num,
    /// Of what.
    pub unit: SpeedUnit,
    /// What happens at the end of the line.
    pub end: GlideEnd,
}

/// A rigid shape.
#[derive(Clone, Debug)]
pub struct Shape {
    /// Its name.
    pub name: String,
    /// The kind of its pieces, or the group of which each gets a kind.
    pub of: SetId,
    /// Each piece's kind is drawn.
    pub is_drawn: bool,
    /// Width and height of the drawing.
    pub size: (u32, u32),
    /// Its pieces, columns east and lines south of the upper left corner.
    pub cells: Vec<(u32, u32)>,
}

/// Who is controlled, and the keys.
#[derive(Clone, Debug)]
pub struct Control {
    /// Whose pieces.
    pub who: SetId,
    /// Keys for left, right, up, down; none for taps.
    pub keys: Option<[Key; 4]>,
}

/// A pace as written, for the kinds it holds for.
#[derive(Clone, Debug)]
pub struct Pace {
    /// The kinds, all others where nothing is said.
    pub who: Option<SetId>,
    /// Its settings.
    pub settings: Vec<super::syntax::Setting>,
}

/// An expectation of a scenario.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Expect {
    Drawn(Vec<String>),
    Granted,
    Refused(Option<(SetId, Met)>),
    Won,
    Lost,
    Unfinished,
    Signal(String),
    NeverSettles,
    Cond(Cond),
}

/// One line of a scenario.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Scene {
    Inputs(Vec<Input>),
    Expect(Expect),
}

/// A scenario.
#[derive(Clone, Debug)]
pub struct Scenario {
    /// Its title.
    pub title: String,
    /// Its line, from 1.
    pub line: u32,
    /// A board of its own, or the number of a map.
    pub map: Result<Map, usize>,
    /// Its seed.
    pub seed: Option<u64>,
    /// Its lines, with their numbers.
    pub scenes: Vec<(u32, Scene)>,
}

/// A rulebook without mistakes.
///
/// # Examples
/// ```
/// use magpie_core::read_text;
///
/// let text = "game \"Yard\"\ncell 24 px\nkinds\n  porter P body\nmap \"One\"\n  PQ\n";
/// let none = |path: &str| Err(format!("no file `{path}`"));
/// let wrong = read_text(text, &none);
/// assert!(wrong.rulebook.is_none());
/// assert_eq!(wrong.diagnostics[0].code.word(), "unknown-glyph");
///
/// let book = read_text(&text.replace("PQ", "P_"), &none).rulebook.unwrap();
/// assert_eq!((book.title.as_str(), book.maps[0].extent.columns), ("Yard", 2));
/// ```
#[derive(Clone, Debug)]
pub struct Rulebook {
    /// The game's title.
    pub title: String,
    /// The numbers of its grid.
    pub geometry: Geometry,
    /// Diagonal steps look at both straight neighbours.
    pub corners_closed: bool,
    /// Its view.
    pub view: Option<View>,
    /// Layers, bottom to top.
    pub layers: Vec<String>,
    /// Kinds in the order of the file.
    pub kinds: Vec<Kind>,
    /// Sets of kinds; the first ones are the kinds themselves, in order.
    pub sets: Vec<KindSet>,
    /// The set of all kinds but the ground.
    pub any: SetId,
    /// Names of groups and their sets.
    pub groups: Vec<(String, SetId)>,
    /// What the numbers of delimited maps stand for.
    pub numbers: Vec<(i64, Vec<KindId>)>,
    /// Glyphs of several pieces.
    pub glyphs: Vec<(char, Vec<KindId>)>,
    /// The kind that lies where nothing else of its layer does.
    pub ground: Option<KindId>,
    /// Maps.
    pub maps: Vec<Map>,
    /// Counters.
    pub counters: Vec<Counter>,
    /// The seed of the random numbers.
    pub seed: u64,
    /// The random numbers go on when a map begins again.
    pub is_seed_kept: bool,
    /// Timers.
    pub timers: Vec<Timer>,
    /// Trails.
    pub trails: Vec<Trail>,
    /// Gliders.
    pub glides: Vec<Glide>,
    /// Shapes.
    pub shapes: Vec<Shape>,
    /// Controls.
    pub controls: Vec<Control>,
    /// Paces.
    pub paces: Vec<Pace>,
    /// `into` clauses.
    pub meetings: Vec<Meeting>,
    /// `off` clauses.
    pub offs: Vec<Off>,
    /// `when` rules.
    pub whens: Vec<When>,
    /// `on`, `each` and `control` rules.
    pub inputs: Vec<InputRule>,
    /// Keys that are other names of `restart`, `undo` and `next`.
    pub aliases: Vec<(Key, Input)>,
    /// `win` and `lose` rules.
    pub outcomes: Vec<Outcome>,
    /// `always` and `never` rules.
    pub invariants: Vec<Invariant>,
    /// Scenarios.
    pub scenarios: Vec<Scenario>,
}

impl Rulebook {
    /// A kind.
    pub fn kind(&self, id: KindId) -> &Kind {
        &self.kinds[usize::from(id.0)]
    }

    /// An `into` clause.
    #[inline]
    pub fn meeting(&self, id: ClauseId) -> &Meeting {
        &self.meetings[id.0 as usize]
    }

    /// A set of kinds.
    #[inline]
    pub fn set(&self, id: SetId) -> &KindSet {
        self.sets.get(id.0 as usize).unwrap_or(KindSet::NOBODY)
    }

    /// All effects of its rules.
    pub fn effects(&self) -> impl Iterator<Item = &Effect> {
        let effects = self.meetings.iter().map(|rule| &rule.effects);
        let effects = effects.chain(self.offs.iter().map(|rule| &rule.effects));
        let effects = effects.chain(self.whens.iter().map(|rule| &rule.effects));
        effects.chain(self.outcomes.iter().map(|rule| &rule.effects)).flatten()
    }

    /// All actions of its rules.
    pub fn actions(&self) -> impl Iterator<Item = &Action> {
        self.inputs.iter().flat_map(|rule| rule.actions.iter().flatten())
    }

    /// What its rules do that effects and actions have in common.
    pub fn commons(&self) -> impl Iterator<Item = &Common> {
        let of_effects = self.effects().filter_map(|effect| match effect {
            Effect::Common(common) => Some(common),
            Effect::Become(_) | Effect::Clear | Effect::DropRows(_) => None,
        });
        let of_actions = self.actions().filter_map(|action| match action {
            Action::Common(common) => Some(common),
            Action::Step { .. }
            | Action::Leap(..)
            | Action::Drop(..)
            | Action::Walk(..)
            | Action::Swap { .. }
            | Action::Flood { .. }
            | Action::Choose(_)
            | Action::Rotate { .. }
            | Action::LockActive
            | Action::Steer(..) => None,
        });
        of_effects.chain(of_actions)
    }

    /// The character of a cell in which pieces of these kinds stand, the top layer first; `_` where nothing does.
    pub fn glyph_of(&self, kinds: &[KindId]) -> char {
        let is_ground = |kind: &&KindId| Some(**kind) == self.ground;
        let sorted = |kinds: &[KindId]| {
            let mut without: Vec<KindId> = kinds.iter().filter(|kind| !is_ground(kind)).copied().collect();
            without.sort_unstable();
            without
        };
        let pieces = sorted(kinds);
        if pieces.len() > 1
            && let Some((glyph, _)) = self.glyphs.iter().find(|(_, stack)| sorted(stack) == pieces)
        {
            return *glyph;
        }
        let shown = kinds.iter().find(|kind| !is_ground(kind)).or_else(|| kinds.first());
        shown.map_or('_', |kind| self.kind(*kind).glyph)
    }

    /// What a character of a drawing stands for, the ground left out; nothing for one that is none of the rulebook's.
    pub fn kinds_of_glyph(&self, glyph: char) -> Option<Vec<KindId>> {
        if glyph == '_' {
            return Some(Vec::new());
        }
        if let Some((_, stack)) = self.glyphs.iter().find(|(other, _)| *other == glyph) {
            return Some(stack.clone());
        }
        let kind = KindId(self.kinds.iter().position(|kind| kind.glyph == glyph)? as u16);
        Some(if Some(kind) == self.ground { Vec::new() } else { vec![kind] })
    }

    /// A map from a drawing: a blank, or a character that is none of the rulebook's, is no cell of it. Nothing where there is no
    /// cell at all.
    pub fn map_of(&self, rows: &[Vec<char>]) -> Option<Map> {
        let columns = rows.iter().map(Vec::len).max().filter(|columns| *columns > 0)?;
        let mut entries: Vec<Option<Vec<KindId>>> = vec![None];
        let mut known: Vec<(char, u16)> = vec![(' ', 0)];
        let mut cells = Vec::with_capacity(columns * rows.len());
        for row in rows {
            for column in 0..columns {
                let glyph = row.get(column).copied().unwrap_or(' ');
                let entry = known.iter().find(|(other, _)| *other == glyph).map(|(_, entry)| *entry);
                cells.push(entry.unwrap_or_else(|| {
                    entries.push(self.kinds_of_glyph(glyph));
                    known.push((glyph, entries.len() as u16 - 1));
                    entries.len() as u16 - 1
                }));
            }
        }
        let extent = Extent { columns: columns as u32, rows: rows.len() as u32 };
        Some(Map { title: "drawn".into(), extent, cells: MapCells::Legend { cells, entries } })
    }

    /// The kind of a name.
    pub fn kind_of_name(&self, name: &str) -> Option<KindId> {
        self.kinds.iter().position(|kind| kind.name == name).map(|at| KindId(at as u16))
    }
}
