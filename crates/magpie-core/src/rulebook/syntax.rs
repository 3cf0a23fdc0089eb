//! The syntax tree of a rulebook: what was written, with places, before names mean anything.

use super::diagnostic::Span;
use super::layout::Drawing;
use crate::input::Key;
use crate::space::{Fit, Heading};

/// A name and its place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Name {
    /// The word.
    pub text: String,
    /// Its place.
    pub span: Span,
}

/// A number as written.
#[derive(Clone, Debug, PartialEq)]
pub struct Num {
    /// The characters.
    pub text: String,
    /// The value; of a quotient the quotient.
    pub value: f64,
    /// Its place.
    pub span: Span,
}

impl Num {
    /// The value of a whole number, at the bounds of `i128` where it is beyond them.
    pub fn int(&self) -> Option<i128> {
        let bound = if self.text.starts_with('-') { i128::MIN } else { i128::MAX };
        (!self.text.contains(['.', '/'])).then(|| self.text.parse().unwrap_or(bound))
    }
}

/// Width and height; the height left out is the width.
#[derive(Clone, Debug)]
pub struct Size(pub Num, pub Option<Num>);

/// x and y.
#[derive(Clone, Debug)]
pub struct Point(pub Num, pub Num);

/// `any` or a name.
#[derive(Clone, Debug)]
pub enum Who {
    /// `any`.
    Any,
    /// A kind or a group.
    Named(Name),
}

/// The second half of `A on B`.
#[derive(Clone, Debug)]
pub struct On {
    /// The word `on`.
    pub word: Span,
    /// Who lies in the same cell.
    pub who: Who,
}

/// What is entered.
#[derive(Clone, Debug)]
pub enum What {
    /// Pieces.
    Who(Who),
    /// The board's edge.
    Edge,
    /// A cell that is no part of the board.
    Void,
}

/// One section.
#[derive(Clone, Debug)]
pub struct Section {
    /// What it says.
    pub node: SectionNode,
    /// Its first word.
    pub word: Span,
    /// The byte behind its head.
    pub end: usize,
}

/// What a section says.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum SectionNode {
    Game(Name),
    Board { columns: Num, rows: Num },
    Cell(Size),
    Gap(Size),
    Origin { centre: bool, at: Point },
    Hotspot(Point),
    Y { up: bool },
    Rows { bottom: bool },
    Index { column_major: bool, first: Option<Num> },
    Corners { closed: bool },
    Number { value: Num, kinds: Vec<Name> },
    View(Vec<ViewLine>),
    Layers(Vec<Name>),
    Kinds(Vec<KindLine>),
    Group { name: Name, members: Vec<Name> },
    Glyph { glyph: Name, kinds: Vec<Name> },
    Ground(Name),
    Map { title: Name, body: MapBody },
    Shapes { of: Name, shapes: Vec<(Name, Drawing)> },
    Counter { name: Name, value: Option<Num>, kept: bool },
    Timer { name: Name, ms: Num },
    Seed { value: Num, kept: bool },
    Trail { head: Name, leaves: Name, long: Num, tail_last: bool },
    Glide { who: Who, heading: Heading, speed: Num, unit: SpeedUnit, end: GlideEnd },
    Control { who: Who, with: ControlWith },
    Pace { who: Option<Name>, settings: Vec<(Span, Setting)> },
    Rules(Vec<Rule>),
    Scenario { title: Name, scenes: Vec<Scene> },
}

/// A line of a view.
#[derive(Clone, Debug)]
pub struct ViewLine {
    /// Its first word.
    pub word: Span,
    /// What it says.
    pub node: ViewNode,
}

/// What a line of a view says.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum ViewNode {
    Window(Size),
    Design(Size),
    Fit(Fit),
    Density(Num),
    Camera(Point),
    Zoom(Num),
    Button { key: Key, at: Point, size: Size },
}

/// A line of `kinds`.
#[derive(Clone, Debug)]
pub struct KindLine {
    /// The kind's name.
    pub name: Name,
    /// Its glyph.
    pub glyph: Name,
    /// Its layer.
    pub layer: Name,
    /// A palette name or a text.
    pub colour: Option<Name>,
    /// `facing`, with the places of the word.
    pub facing: Vec<(Span, Heading)>,
    /// `hotspot`, with the places of the word.
    pub hotspot: Vec<(Span, Point)>,
}

/// Where a map's cells come from.
#[derive(Clone, Debug)]
pub enum MapBody {
    /// The rows below.
    Drawn(Drawing),
    /// Columns, rows, the kind everywhere and a share of another.
    Filled {
        /// Columns.
        columns: Num,
        /// Rows.
        rows: Num,
        /// The kind in every cell.
        of: Name,
        /// Per cent of another kind.
        scatter: Option<(Num, Name)>,
    },
    /// A delimited file beside the rulebook.
    File {
        /// Its path.
        path: Name,
        /// For a flat list, the number of columns.
        columns: Option<Num>,
    },
}

/// Units of a speed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SpeedUnit {
    /// Pixels a second.
    Px,
    /// Cells a second.
    Cells,
}

/// What a glider does at the end of its line.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum GlideEnd {
    /// Comes in again on the other side.
    Wrapping,
    /// Turns back.
    Turning,
    /// Stays.
    Stop,
}

/// How a piece is steered.
#[derive(Clone, Debug)]
pub enum ControlWith {
    /// By keys for left, right, up and down.
    Keys {
        /// The four keys, `None` for the arrows.
        keys: Option<[Key; 4]>,
        /// Keys only set the heading.
        steering: bool,
        /// Keys straight back are ignored.
        no_reverse: bool,
    },
    /// By taps.
    Taps,
}

/// One setting of a pace.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Setting {
    Instant,
    Timed(Num),
    Rate(Num, SpeedUnit),
    PerFrame(Num, SpeedUnit),
    TestEqual(bool),
    Easing(&'static str),
    Arrival(&'static str),
    Moving(&'static str),
    Queued(Num),
    Hold(&'static str),
    Repeat(Num, Num),
    Axis(&'static str),
    ClaimAtArrival(bool),
    Lean(Num),
    Free(Num, SpeedUnit),
    Body(Size),
    Slack(Num),
    Lined(Num),
}

impl Setting {
    /// What it is about; a pace says each once.
    pub const fn sort(&self) -> &'static str {
        match self {
            Self::Instant | Self::Timed(_) | Self::Rate(..) | Self::PerFrame(..) | Self::Free(..) => "mode",
            Self::TestEqual(_) => "test",
            Self::Easing(_) => "easing",
            Self::Arrival(_) => "on arrival",
            Self::Moving(_) | Self::Queued(_) => "while moving",
            Self::Hold(_) | Self::Repeat(..) => "hold",
            Self::Axis(_) => "axis",
            Self::ClaimAtArrival(_) => "claim",
            Self::Lean(_) => "lean",
            Self::Body(_) => "body",
            Self::Slack(_) => "slack",
            Self::Lined(_) => "lined up",
        }
    }
}

/// A rule and the words it takes up.
#[derive(Clone, Debug)]
pub struct Rule {
    /// What it says.
    pub node: RuleNode,
    /// All its words.
    pub span: Span,
    /// The words before the guard or the colon.
    pub head: Span,
}

/// What a rule says.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum RuleNode {
    Into { who: Who, what: What, guard: Option<Cond>, verb: Verb, effects: Vec<Effect> },
    Off { who: Who, other: Who, guard: Option<Cond>, effects: Vec<Effect> },
    When { what: Match, guard: Option<Cond>, effects: Vec<Effect> },
    Each { timer: Name, guard: Option<Cond>, actions: Actions },
    On { event: Event, guard: Option<Cond>, actions: Actions },
    Outcome { win: bool, cond: Cond, effects: Vec<Effect> },
    Invariant { always: bool, cond: Cond },
}

/// Lists of actions, each the `else` of the one before.
pub type Actions = Vec<Vec<Action>>;

/// What an `on` rule answers.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Event {
    Start,
    Key(Key),
    Tap(Option<What>),
    Drag(Option<What>, Option<What>),
}

/// What a `when` rule looks for.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Match {
    Full { row: bool, of: Who, ignoring: Option<Who> },
    Run { length: Num, of: Who, rows: bool, columns: bool },
    Patch { length: Num, of: Who },
    On { who: Who, on: Option<On> },
}

/// A meeting's verb and its place.
#[derive(Clone, Debug)]
pub struct Verb {
    /// The verb.
    pub node: VerbNode,
    /// Its first word.
    pub span: Span,
}

/// A meeting's verb.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum VerbNode {
    Shove { up_to: Option<Num>, otherwise: Option<Box<Verb>> },
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
    Warp(Name),
}

/// An effect or an action, and its place.
#[derive(Clone, Debug)]
pub struct Doing<N> {
    /// What it does.
    pub node: N,
    /// Its words.
    pub span: Span,
    /// Its first word.
    pub word: Span,
}

/// An effect and its place.
pub type Effect = Doing<EffectNode>;

/// An action and its place.
pub type Action = Doing<ActionNode>;

/// What both an effect and an action may do.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum CommonNode {
    Remove(Pieces),
    Turn(Pieces, TurnTo),
    Place(Name, Place),
    Spawn(Spawned, Place),
    Add(Sum, Name),
    Set(Name, Sum),
    Grow(Num),
    Fall(Who, Heading),
    Refill(Who, Heading),
    Quicken { timer: Name, by: Num, least: Option<Num> },
    Signal(String),
    Win,
    Lose,
    Restart,
    Undo(Span),
    NextMap,
}

impl CommonNode {
    /// The name that `remove` or `turn` is about, where it is a bare one.
    pub fn bare(&self) -> Option<&Who> {
        match self {
            Self::Remove(pieces) | Self::Turn(pieces, _) => match &pieces.node {
                PiecesNode::Who { every: false, who, .. } => Some(who),
                _ => None,
            },
            _ => None,
        }
    }

    /// The counter that it makes, where some rule has to make it.
    pub const fn counter_made(&self) -> Option<&Name> {
        match self {
            Self::Add(_, name) | Self::Set(name, _) => Some(name),
            _ => None,
        }
    }
}

/// What an effect does.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum EffectNode {
    Common(CommonNode),
    Become(Name),
    Clear,
    DropRows(Heading),
}

/// What an action does.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum ActionNode {
    Common(CommonNode),
    Step(Pieces, HeadingWord, Option<Num>),
    Leap(Pieces, Num, Num),
    Drop(Pieces, HeadingWord),
    Walk(Pieces, Spot),
    Swap { one: Spot, other: Spot, if_run: bool },
    Flood { from: Spot, into: Name, eight: bool },
    Choose(Option<Spot>),
    Rotate { pieces: Pieces, clockwise: bool, tries: Vec<(Num, Num)> },
    LockActive,
}

/// What `turn` turns into.
#[derive(Clone, Debug)]
pub enum TurnTo {
    /// A heading.
    Heading(HeadingWord),
    /// Another kind.
    Kind(Name),
}

/// What is spawned.
#[derive(Clone, Debug)]
pub enum Spawned {
    /// One piece.
    Kind(Name),
    /// A shape, `None` for any.
    Shape(Option<Name>),
}

/// Which pieces are meant.
#[derive(Clone, Debug)]
pub struct Pieces {
    /// The pieces.
    pub node: PiecesNode,
    /// The words.
    pub span: Span,
}

/// Which pieces are meant.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum PiecesNode {
    Who { every: bool, who: Who, on: Option<On> },
    Active,
    Tapped,
    Dragged,
    Dropped,
    Chosen,
}

/// A cell in words.
#[derive(Clone, Debug)]
pub struct Spot {
    /// The cell.
    pub node: SpotNode,
    /// The words.
    pub span: Span,
}

/// A cell in words.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum SpotNode {
    Here,
    Tapped,
    Dragged,
    Dropped,
    Chosen,
    AheadOf(Name),
    The(Name),
    At(Box<(Num, Num)>),
}

/// Where something is placed or spawned.
#[derive(Clone, Debug)]
pub enum Place {
    /// In a cell.
    At(Spot),
    /// In a random empty cell.
    RandomEmpty {
        /// Only on these.
        on: Option<Who>,
        /// Only in this part of the board.
        within: Option<Region>,
    },
}

/// A part of the board.
#[derive(Clone, Debug)]
pub enum Region {
    /// A row or a column.
    Line {
        /// A row.
        row: bool,
        /// Which one.
        at: LineAt,
    },
    /// All of it.
    Map,
}

/// Which row or column.
#[derive(Clone, Debug)]
pub enum LineAt {
    /// By number.
    Number(Num),
    /// Number 0.
    First,
    /// The one with the largest number.
    Last,
}

/// Where pieces are counted.
#[derive(Clone, Debug)]
pub enum Within {
    /// In one cell.
    At(Spot),
    /// In a part of the board.
    In(Region),
}

/// A heading in words.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum HeadingWord {
    Compass(Heading),
    Ahead,
    Back,
    Left,
    Right,
    Toward(Spot),
    Along(Spot),
}

/// A condition.
#[derive(Clone, Debug)]
pub enum Cond {
    /// One of these holds.
    Or(Vec<Cond>),
    /// All of these hold.
    And(Vec<Cond>),
    /// It does not hold.
    Not(Box<Cond>),
    /// A single test.
    Test(Test),
}

/// A single test.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Test {
    Heading(Heading, Span),
    Blocked,
    Spot(Spot),
    Beside(Spot, Spot),
    Compare(Sum, &'static str, Sum),
}

/// Terms added, or taken away where the flag is set.
#[derive(Clone, Debug)]
pub struct Sum(pub Vec<(bool, Term)>);

/// A number that can be added up.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Term {
    Int(Num),
    Counter(Name),
    Count { who: Who, on: Option<Box<On>>, off: Option<Box<Who>>, within: Option<Box<Within>> },
    Matches(Span),
    Matched(Span),
}

/// A line of a scenario.
#[derive(Clone, Debug)]
pub struct Scene {
    /// What it says.
    pub node: SceneNode,
    /// Its words.
    pub span: Span,
}

/// A line of a scenario.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum SceneNode {
    MapDrawn(Drawing),
    MapTitle(Name),
    Seed(Num),
    Inputs(Vec<(Span, Given)>),
    ExpectDrawn(Drawing),
    Expect(Expectation),
}

/// An input of a scenario.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Given {
    Key(Key),
    Undo,
    Restart,
    Next,
    Tap(Box<[Num; 2]>),
    Drag(Box<[Num; 4]>),
    Wait(Box<Num>),
}

/// What a scenario expects.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Expectation {
    Granted,
    Refused(Option<(Who, What)>),
    Won,
    Lost,
    Unfinished,
    Signal(String),
    NeverSettles,
    Cond(Cond),
}
