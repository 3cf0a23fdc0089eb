//! A rulebook that has been checked: names resolved to numbers, ready to be played.

use super::diagnostic::Span;
use super::syntax::{GlideEnd, LineAt, Num, Region, SpeedUnit};
use crate::input::{Input, Key};
use crate::limits::COUNTER_BOUND;
use crate::space::{Cell, Extent, Geometry, Heading, View};

/// A kind's number, in the order of the file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct KindId(pub u16);

/// The number of a set of kinds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct SetId(pub u32);

/// A counter that rules may change.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct CounterId(pub u16);

/// A timer's number, in the order of the file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct TimerId(pub u16);

/// A shape's number, in the order of the file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct ShapeId(pub u16);

/// What a kind is drawn in.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Colour {
    /// A name of the palette.
    Named(String),
    /// Red, green, blue.
    Rgb(u8, u8, u8),
}

/// A sort of piece.
#[derive(Clone, Debug)]
pub struct Kind {
    /// Its name.
    pub name: String,
    /// Its character in drawings.
    pub glyph: char,
    /// Its layer, 0 the lowest.
    pub layer: u8,
    /// Its colour, `bone` where nothing is said.
    pub colour: Colour,
    /// The heading its pieces begin with.
    pub facing: Option<Heading>,
    /// Its own hotspot.
    pub hotspot: Option<(f64, f64)>,
}

/// A set of kinds.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct KindSet {
    /// The name in the rulebook, `any` or a kind or a group.
    pub name: String,
    bits: Vec<u64>,
    /// The kinds in the order they were named.
    order: Vec<KindId>,
}

impl KindSet {
    /// The set of these kinds.
    pub fn new(name: &str, kinds: impl IntoIterator<Item = KindId>) -> Self {
        let mut bits = Vec::new();
        let mut order = Vec::new();
        for kind in kinds {
            let known = bits.get(usize::from(kind.0 / 64)).is_some_and(|word: &u64| word >> (kind.0 % 64) & 1 == 1);
            if known {
                continue;
            }
            order.push(kind);
            let word = usize::from(kind.0 / 64);
            if bits.len() <= word {
                bits.resize(word + 1, 0);
            }
            bits[word] |= 1 << (kind.0 % 64);
        }
        Self { name: name.into(), bits, order }
    }

    /// Whether a kind belongs to the set.
    #[inline]
    pub fn contains(&self, kind: KindId) -> bool {
        self.bits.get(usize::from(kind.0 / 64)).is_some_and(|word| word >> (kind.0 % 64) & 1 == 1)
    }

    /// The kinds of the set, in the order of the file.
    pub fn iter(&self) -> impl Iterator<Item = KindId> + '_ {
        self.bits.iter().enumerate().flat_map(|(at, word)| {
            let mut left = *word;
            std::iter::from_fn(move || {
                let bit = left.trailing_zeros();
                left &= left.wrapping_sub(1);
                (bit < 64).then(|| KindId(at as u16 * 64 + bit as u16))
            })
        })
    }

    /// The kinds in the order in which the rulebook names them.
    pub fn in_order(&self) -> &[KindId] {
        &self.order
    }

    /// Whether the two have a kind in common.
    pub fn meets(&self, other: &Self) -> bool {
        self.bits.iter().zip(&other.bits).any(|(a, b)| a & b != 0)
    }

    /// The words of the set, 64 kinds each.
    pub fn words(&self) -> &[u64] {
        &self.bits
    }
}

/// Where a map's pieces come from.
#[derive(Clone, Debug)]
pub enum MapCells {
    /// For every cell, in reading order of the drawing, the number of its entry.
    Legend {
        /// Entry numbers, top line first.
        cells: Vec<u16>,
        /// `None` is void, else the kinds in the cell.
        entries: Vec<Option<Vec<KindId>>>,
    },
    /// One kind everywhere, and a share of another.
    Filled {
        /// The kind in every cell.
        of: KindId,
        /// Per cent, as a fraction, of this other kind.
        scatter: Option<(Ratio, KindId)>,
    },
}

/// A map.
#[derive(Clone, Debug)]
pub struct Map {
    /// Its title.
    pub title: String,
    /// Columns and rows.
    pub extent: Extent,
    /// Its cells.
    pub cells: MapCells,
}

impl Map {
    /// Whether some cell of its rectangle is no cell of the map.
    pub fn has_void(&self) -> bool {
        match &self.cells {
            MapCells::Legend { cells, entries } => cells.iter().any(|entry| entries[usize::from(*entry)].is_none()),
            MapCells::Filled { .. } => false,
        }
    }

    /// Whether the map has no cell at this place of the drawing: column, and line from the top.
    pub fn is_void(&self, column: u32, line: u32) -> bool {
        match &self.cells {
            MapCells::Legend { cells, entries } => {
                let at = line as usize * self.extent.columns as usize + column as usize;
                cells.get(at).is_none_or(|entry| entries[usize::from(*entry)].is_none())
            }
            MapCells::Filled { .. } => false,
        }
    }
}

/// An exact fraction.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Ratio {
    /// Above the line.
    pub above: i128,
    /// Below the line, over 0.
    pub below: i128,
}

impl Ratio {
    /// What is left of a whole number when this many per cent are taken from it, cut to a whole number.
    pub fn per_cent_less(self, number: u64) -> u64 {
        let left = i128::from(number) * (100 * self.below - self.above);
        u64::try_from(left.div_euclid(100 * self.below)).unwrap_or(0)
    }

    /// The exact value of a number as written, where it has at most 30 digits.
    pub fn of(number: &Num) -> Option<Self> {
        let plain = |text: &str| -> Option<Self> {
            let (whole, part) = text.split_once('.').unwrap_or((text, ""));
            if whole.len() + part.len() > 18 {
                return None;
            }
            let above: i128 = format!("{whole}{part}").parse().ok()?;
            Some(Self { above, below: 10_i128.pow(part.len() as u32) })
        };
        let Some((above, below)) = number.text.split_once('/') else {
            return plain(&number.text);
        };
        let (a, b) = (plain(above)?, plain(below)?);
        let sign = if b.above < 0 { -1 } else { 1 };
        (b.above != 0).then_some(Self { above: sign * a.above * b.below, below: sign * a.below * b.above })
    }
}

/// A counter.
#[derive(Clone, Debug)]
pub struct Counter {
    /// Its name.
    pub name: String,
    /// Its value at the beginning.
    pub start: i64,
}

/// A counter that can be read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum CounterRead {
    /// Turns of inputs in which something was granted.
    Moves,
    /// Turns.
    Turns,
    /// Milliseconds.
    Clock,
    /// A counter of the rulebook.
    Own(CounterId),
}

/// A cell in words.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs)]
pub enum Spot {
    Here,
    Tapped,
    Dragged,
    Dropped,
    Chosen,
    AheadOf(KindId),
    The(KindId),
    At(Cell),
}

/// Where something is placed, spawned or counted.
#[derive(Clone, Debug)]
pub enum Place {
    /// In a cell.
    At(Spot),
    /// In a random empty cell, on these kinds only, in this part only.
    RandomEmpty(Option<SetId>, Area),
}

/// A part of the board.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Area {
    /// All of it.
    Map,
    /// One row, `None` for the last.
    Row(Option<i64>),
    /// One column, `None` for the last.
    Column(Option<i64>),
}

impl Area {
    /// The area of a region in words.
    pub fn of(region: &Region) -> Self {
        match region {
            Region::Map => Self::Map,
            Region::Line { row, at } => {
                let number = match at {
                    LineAt::Number(number) => Some(whole(number)),
                    LineAt::First => Some(0),
                    LineAt::Last => None,
                };
                if *row { Self::Row(number) } else { Self::Column(number) }
            }
        }
    }

    /// Whether a cell of a board of this extent lies in the area.
    pub fn contains(self, extent: Extent, cell: Cell) -> bool {
        match self {
            Self::Map => true,
            Self::Row(row) => cell.row == row.unwrap_or(i64::from(extent.rows) - 1),
            Self::Column(column) => cell.column == column.unwrap_or(i64::from(extent.columns) - 1),
        }
    }
}

/// A whole number as written, kept within ±10^15.
pub fn whole(number: &Num) -> i64 {
    let bound = i128::from(COUNTER_BOUND);
    number.int.unwrap_or(0).clamp(-bound, bound) as i64
}

/// A sum of terms, those with the flag taken away.
#[derive(Clone, Debug)]
pub struct Sum(pub Vec<(bool, Term)>);

/// A number that can be added up.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Term {
    Int(i64),
    Counter(CounterRead),
    Count { who: SetId, on: Option<(bool, SetId)>, within: CountIn },
    Matches,
    Matched,
}

/// Where pieces are counted.
#[derive(Clone, Debug)]
pub enum CountIn {
    /// In one cell.
    Spot(Spot),
    /// In a part of the board.
    Area(Area),
}

/// How two numbers compare.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Compare {
    Equal,
    Unequal,
    Less,
    AtMost,
    More,
    AtLeast,
}

impl Compare {
    /// Whether it holds.
    pub const fn holds(self, left: i64, right: i64) -> bool {
        match self {
            Self::Equal => left == right,
            Self::Unequal => left != right,
            Self::Less => left < right,
            Self::AtMost => left <= right,
            Self::More => left > right,
            Self::AtLeast => left >= right,
        }
    }

    /// The comparison of a symbol of the rulebook.
    pub fn of(symbol: &str) -> Self {
        match symbol {
            "=" => Self::Equal,
            "!=" => Self::Unequal,
            "<" => Self::Less,
            "<=" => Self::AtMost,
            ">" => Self::More,
            _ => Self::AtLeast,
        }
    }
}

/// A condition.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Cond {
    Or(Vec<Cond>),
    And(Vec<Cond>),
    Not(Box<Cond>),
    Heading(Heading),
    Blocked,
    Spot(Spot),
    Beside(Spot, Spot),
    Compare(Sum, Compare, Sum),
}

/// Which pieces are meant.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Pieces {
    /// All of these on the board, in a cell with one of those where said.
    Every(SetId, Option<SetId>),
    /// Those of the matched pieces.
    Matched(SetId, Option<SetId>),
    Active,
    Tapped,
    Dragged,
    Dropped,
    Chosen,
}

/// A heading in words.
#[derive(Clone, Debug)]
pub enum HeadingWord {
    /// A fixed one.
    Compass(Heading),
    /// The own heading turned by so many eighths clockwise.
    Relative(usize),
    /// Along the axis of the larger distance to a cell.
    Toward(Spot),
}

/// What both an effect and an action may do.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Common {
    Remove(Pieces),
    TurnHeading(Pieces, HeadingWord),
    TurnInto(Pieces, KindId),
    Place(KindId, Place),
    SpawnKind(KindId, Place),
    SpawnShape(Option<ShapeId>, Place),
    Add(Sum, CounterId),
    Set(CounterId, Sum),
    Grow(u32),
    Fall(SetId, Heading),
    Refill(SetId, Heading),
    Quicken { timer: TimerId, by: Ratio, least: i64 },
    Signal(String),
    Win,
    Lose,
    Restart,
    NextMap,
}

/// What a meeting, a leaving, a match or an outcome does.
#[derive(Clone, Debug)]
pub enum Effect {
    /// What actions may do too.
    Common(Common),
    /// The asker, the leaver or the first-named piece turns into a kind.
    Become(KindId),
    /// The matched pieces leave the board.
    Clear,
    /// What stands on the far side of a cleared line moves this way.
    DropRows(Heading),
}

impl Effect {
    /// Whether it is done once for all matches of a `when` rule together, instead of once for each.
    pub const fn is_once_for_all(&self) -> bool {
        match self {
            Self::Clear | Self::DropRows(_) => true,
            Self::Become(_) => false,
            Self::Common(common) => match common {
                Common::Fall(..) | Common::Refill(..) => true,
                Common::Remove(_)
                | Common::TurnHeading(..)
                | Common::TurnInto(..)
                | Common::Place(..)
                | Common::SpawnKind(..)
                | Common::SpawnShape(..)
                | Common::Add(..)
                | Common::Set(..)
                | Common::Grow(_)
                | Common::Quicken { .. }
                | Common::Signal(_)
                | Common::Win
                | Common::Lose
                | Common::Restart
                | Common::NextMap => false,
            },
        }
    }
}

/// What an input or a timer does.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Action {
    /// What effects may do too.
    Common(Common),
    Step {
        pieces: Pieces,
        heading: HeadingWord,
        times: u32,
    },
    Leap(Pieces, i64, i64),
    Drop(Pieces, HeadingWord),
    Walk(Pieces, Spot),
    Swap {
        one: Spot,
        other: Spot,
        if_run: bool,
    },
    Flood {
        from: Spot,
        into: KindId,
        eight: bool,
    },
    Choose(Option<Spot>),
    Rotate {
        pieces: Pieces,
        clockwise: bool,
        tries: Vec<(i64, i64)>,
    },
    LockActive,
    /// A steering key: sets the heading and makes no request.
    Steer(SetId, Heading),
}

/// A meeting's verb that needs no other.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum PlainVerb {
    Stop,
    Pass,
    Swap,
    Take,
    Perish,
    Clash,
    Bounce,
    Slide,
    Ride,
    Wrap,
    Warp(KindId),
}

impl PlainVerb {
    /// The word of the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Stop => "stop",
            Self::Pass => "pass",
            Self::Swap => "swap",
            Self::Take => "take",
            Self::Perish => "perish",
            Self::Clash => "clash",
            Self::Bounce => "bounce",
            Self::Slide => "slide",
            Self::Ride => "ride",
            Self::Wrap => "wrap",
            Self::Warp(_) => "warp",
        }
    }

    /// Whether the verb lets the asker in.
    pub const fn enters(self) -> bool {
        !matches!(self, Self::Stop | Self::Bounce)
    }

    /// `Some(true)` where the verb needs pieces of one layer, `Some(false)` where it needs different ones.
    pub const fn same_layer(self) -> Option<bool> {
        match self {
            Self::Pass | Self::Slide | Self::Ride | Self::Warp(_) => Some(false),
            Self::Swap => Some(true),
            _ => None,
        }
    }
}

/// A meeting's verb.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Verb {
    /// The occupant is asked to move on; at most so many bodies in all; else the other verb decides.
    Shove {
        /// Most bodies set in motion.
        up_to: Option<u32>,
        /// What decides where the occupant cannot move.
        otherwise: Option<PlainVerb>,
    },
    /// Any other verb.
    Plain(PlainVerb),
}

/// What a clause is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Met {
    /// Pieces.
    Pieces(SetId),
    /// The board's edge.
    Edge,
    /// A cell that is no part of the board.
    Void,
}

/// Where a rule stands.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RuleAt {
    /// Its line, from 1.
    pub line: u32,
    /// Its words up to the guard or the colon, blanks folded.
    pub text: String,
    /// All its words.
    pub span: Span,
}

/// A clause of the form `A into B: verb`.
#[derive(Clone, Debug)]
pub struct Meeting {
    /// Askers.
    pub who: SetId,
    /// What they meet.
    pub met: Met,
    /// The condition.
    pub guard: Option<Cond>,
    /// The verb.
    pub verb: Verb,
    /// `Some` where `any` on a side restricts the clause to pairs of one layer (`true`) or of different ones.
    pub layers: Option<bool>,
    /// What happens besides.
    pub effects: Vec<Effect>,
    /// The whole clause, blanks folded.
    pub words: String,
    /// Where it stands.
    pub at: RuleAt,
}

/// A clause of the form `A off B: effects`.
#[derive(Clone, Debug)]
pub struct Off {
    /// Leavers.
    pub who: SetId,
    /// What stays behind.
    pub other: SetId,
    /// The condition.
    pub guard: Option<Cond>,
    /// What happens.
    pub effects: Vec<Effect>,
    /// Where it stands.
    pub at: RuleAt,
}

/// What a `when` rule looks for.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Match {
    Full { row: bool, of: SetId, ignoring: Option<SetId> },
    Run { length: u32, of: SetId, rows: bool, columns: bool },
    Patch { length: u32, of: SetId },
    On { who: SetId, on: Option<SetId> },
}

/// A `when` rule.
#[derive(Clone, Debug)]
pub struct When {
    /// What it looks for.
    pub what: Match,
    /// The condition.
    pub guard: Option<Cond>,
    /// What happens.
    pub effects: Vec<Effect>,
    /// Where it stands.
    pub at: RuleAt,
}

/// What a tap or drag looks at.
pub type Touched = Option<Met>;

/// What makes an input rule act.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Trigger {
    /// A map begins.
    Start,
    /// A key.
    Key(Key),
    /// A tap on this.
    Tap(Touched),
    /// A drag from this to that.
    Drag(Touched, Touched),
    /// A timer.
    Timer(TimerId),
    /// After every input turn in which something was granted.
    EachTurn,
}

/// An `on`, `each` or `control` rule.
#[derive(Clone, Debug)]
pub struct InputRule {
    /// When it acts.
    pub trigger: Trigger,
    /// The condition.
    pub guard: Option<Cond>,
    /// Lists of actions, each the `else` of the one before.
    pub actions: Vec<Vec<Action>>,
    /// For a control with `no reverse`: the pieces and the heading of the key.
    pub no_reverse: Option<(SetId, Heading)>,
    /// Where it stands.
    pub at: RuleAt,
}

/// A `win when` or `lose when` rule.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// A win.
    pub win: bool,
    /// The condition.
    pub cond: Cond,
    /// What happens then.
    pub effects: Vec<Effect>,
    /// Where it stands.
    pub at: RuleAt,
}

/// An `always` or `never` rule.
#[derive(Clone, Debug)]
pub struct Invariant {
    /// `always`, else `never`.
    pub always: bool,
    /// The condition.
    pub cond: Cond,
    /// Where it stands; the text is the whole rule.
    pub at: RuleAt,
}

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
    /// The kind of its pieces.
    pub kind: KindId,
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

    /// A set of kinds.
    #[inline]
    pub fn set(&self, id: SetId) -> &KindSet {
        // A name that could not be resolved stands for nobody while the rest is checked.
        static NOBODY: KindSet = KindSet { name: String::new(), bits: Vec::new(), order: Vec::new() };
        self.sets.get(id.0 as usize).unwrap_or(&NOBODY)
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

    /// The kind of a name.
    pub fn kind_of_name(&self, name: &str) -> Option<KindId> {
        self.kinds.iter().position(|kind| kind.name == name).map(|at| KindId(at as u16))
    }
}
