//! A pace as numbers and policies.

use crate::rulebook::{KindId, Rulebook, Setting, Size, SpeedUnit};
use crate::space::exact::{Fraction, decimal};
use num_traits::Zero;

/// A number with its unit, as written and exactly.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Amount {
    /// The characters of the rulebook.
    pub text: String,
    /// Its value.
    pub value: Fraction,
    /// Whether it counts cells; else pixels.
    pub cells: bool,
}

/// How a step goes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Mode {
    /// At the target at once.
    Instant,
    /// In so many milliseconds.
    Timed(Amount),
    /// So much a second.
    Rate(Amount),
    /// So much a frame.
    PerFrame(Amount),
    /// No steps: a body moves so much a second while a key is down.
    Free(Amount),
}

/// How the way of a timed step is spread over its time.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Easing {
    /// Evenly.
    #[default]
    Linear,
    /// p².
    In,
    /// 1-(1-p)².
    Out,
    /// p²(3-2p).
    InOut,
}

impl Easing {
    /// The word of the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Linear => "linear",
            Self::In => "ease-in",
            Self::Out => "ease-out",
            Self::InOut => "ease-in-out",
        }
    }

    /// The same as [`Self::of`], in f64.
    pub fn near(self, p: f64) -> f64 {
        match self {
            Self::Linear => p,
            Self::In => p * p,
            Self::Out => 1.0 - (1.0 - p) * (1.0 - p),
            Self::InOut => p * p * (3.0 - 2.0 * p),
        }
    }

    /// The share of the way after a share of the time.
    pub fn of(self, p: &Fraction) -> Fraction {
        let whole = |number: i64| Fraction::from_integer(number.into());
        match self {
            Self::Linear => p.clone(),
            Self::In => p * p,
            Self::Out => {
                let left = whole(1) - p;
                whole(1) - &left * &left
            }
            Self::InOut => p * p * (whole(3) - whole(2) * p),
        }
    }
}

/// What becomes of what is left over at an arrival.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Arrival {
    /// It is lost; the piece stands on its target.
    #[default]
    Snap,
    /// It goes to the next step.
    Carry,
    /// It is lost, and the piece stays where it is: a classic mistake.
    Drift,
}

impl Arrival {
    /// The word of the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Snap => "snap",
            Self::Carry => "carry",
            Self::Drift => "drift",
        }
    }
}

/// What becomes of a press while the piece moves.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Moving {
    /// Nothing.
    #[default]
    Ignored,
    /// It waits; a later one takes its place.
    Remembered,
    /// It waits behind at most so many others.
    Queued(u64),
    /// The step under way is given up for it: a classic mistake.
    Obeyed,
}

/// What a key that stays down does.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Hold {
    /// It asks whenever the piece stands.
    Continuous,
    /// The last two keys pressed count as down.
    Latched,
    /// Nothing.
    #[default]
    Off,
    /// It presses again, first after so many milliseconds, then every so many.
    Repeat(Amount, Amount),
    /// It presses at every frame: a classic mistake.
    EveryFrame,
}

/// Which of several keys is asked first.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum AxisOrder {
    /// The one that went down first.
    FirstPressed,
    /// The one that went down last.
    #[default]
    LastPressed,
    /// Horizontal ones.
    HorizontalFirst,
    /// Vertical ones.
    VerticalFirst,
    /// One of each together.
    Diagonal,
}

impl AxisOrder {
    const fn words(self) -> &'static str {
        match self {
            Self::FirstPressed => "first pressed",
            Self::LastPressed => "last pressed",
            Self::HorizontalFirst => "horizontal first",
            Self::VerticalFirst => "vertical first",
            Self::Diagonal => "diagonal",
        }
    }
}

/// A pace.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Settings {
    /// How a step goes.
    pub mode: Mode,
    /// How a timed step is spread.
    pub easing: Easing,
    /// A step arrives only where exactly its length is gone: a classic mistake.
    pub test_equal: bool,
    /// What becomes of what is left over.
    pub arrival: Arrival,
    /// What becomes of presses while the piece moves.
    pub moving: Moving,
    /// What a key that stays down does.
    pub hold: Hold,
    /// Which key is asked first.
    pub axis: AxisOrder,
    /// The request is committed at the arrival; else at the start.
    pub claim_at_arrival: bool,
    /// How long a piece leans against what refused it, in ms.
    pub lean: Option<Amount>,
    /// Width and height of what collides in free movement, in px; left out: one cell. A height left out is the width.
    pub body: Option<(Amount, Option<Amount>)>,
    /// How far a body may move across to get past a corner, in px.
    pub slack: Option<Amount>,
    /// The distance of the lines that a body comes to where no key of the axis is down, in px.
    pub lined: Option<Amount>,
}

impl Default for Settings {
    fn default() -> Self {
        Self {
            mode: Mode::Instant,
            easing: Easing::Linear,
            test_equal: false,
            arrival: Arrival::Snap,
            moving: Moving::Ignored,
            hold: Hold::Off,
            axis: AxisOrder::LastPressed,
            claim_at_arrival: false,
            lean: None,
            body: None,
            slack: None,
            lined: None,
        }
    }
}

/// The exact value of a number or a quotient of two; 0 where it is none.
pub(super) fn exact(text: &str) -> Fraction {
    match text.split_once('/') {
        None => decimal(text),
        Some((above, below)) => {
            let below = decimal(below);
            if below.is_zero() { below } else { decimal(above) / below }
        }
    }
}

impl Amount {
    /// A number as it is written.
    pub fn new(text: &str, cells: bool) -> Self {
        Self { text: text.into(), value: exact(text), cells }
    }

    /// The number in pixels, of a step of this length.
    pub fn pixels(&self, length: &Fraction) -> Fraction {
        if self.cells { &self.value * length } else { self.value.clone() }
    }
}

impl Settings {
    /// The settings of a `pace` section; what it leaves out is as the language says.
    pub fn of(settings: &[Setting]) -> Self {
        let mut found = Self::default();
        for setting in settings {
            let cells = |unit: &SpeedUnit| *unit == SpeedUnit::Cells;
            match setting {
                Setting::Instant => found.mode = Mode::Instant,
                Setting::Timed(number) => found.mode = Mode::Timed(Amount::new(&number.text, false)),
                Setting::Rate(number, unit) => found.mode = Mode::Rate(Amount::new(&number.text, cells(unit))),
                Setting::PerFrame(number, unit) => found.mode = Mode::PerFrame(Amount::new(&number.text, cells(unit))),
                Setting::TestEqual(equal) => found.test_equal = *equal,
                Setting::Easing(word) => {
                    found.easing = match *word {
                        "ease-in" => Easing::In,
                        "ease-out" => Easing::Out,
                        "ease-in-out" => Easing::InOut,
                        _ => Easing::Linear,
                    }
                }
                Setting::Arrival(word) => {
                    found.arrival = match *word {
                        "carry" => Arrival::Carry,
                        "drift" => Arrival::Drift,
                        _ => Arrival::Snap,
                    }
                }
                Setting::Moving(word) => {
                    found.moving = match *word {
                        "remembered" => Moving::Remembered,
                        "obeyed" => Moving::Obeyed,
                        _ => Moving::Ignored,
                    }
                }
                Setting::Queued(number) => {
                    found.moving = Moving::Queued(number.int().and_then(|int| u64::try_from(int).ok()).unwrap_or(1));
                }
                Setting::Hold(word) => {
                    found.hold = match *word {
                        "continuous" => Hold::Continuous,
                        "latched" => Hold::Latched,
                        "every frame" => Hold::EveryFrame,
                        _ => Hold::Off,
                    }
                }
                Setting::Repeat(after, every) => {
                    found.hold = Hold::Repeat(Amount::new(&after.text, false), Amount::new(&every.text, false));
                }
                Setting::Axis(word) => {
                    found.axis = match *word {
                        "first pressed" => AxisOrder::FirstPressed,
                        "horizontal first" => AxisOrder::HorizontalFirst,
                        "vertical first" => AxisOrder::VerticalFirst,
                        "diagonal" => AxisOrder::Diagonal,
                        _ => AxisOrder::LastPressed,
                    }
                }
                Setting::ClaimAtArrival(arrival) => found.claim_at_arrival = *arrival,
                Setting::Lean(number) => found.lean = Some(Amount::new(&number.text, false)),
                Setting::Free(number, unit) => found.mode = Mode::Free(Amount::new(&number.text, cells(unit))),
                Setting::Body(Size(width, height)) => {
                    let height = height.as_ref().map(|height| Amount::new(&height.text, false));
                    found.body = Some((Amount::new(&width.text, false), height));
                }
                Setting::Slack(number) => found.slack = Some(Amount::new(&number.text, false)),
                Setting::Lined(number) => found.lined = Some(Amount::new(&number.text, false)),
            }
        }
        found
    }

    /// The pace of a kind: the first section whose name covers it, else the one without a name.
    pub fn of_kind(book: &Rulebook, kind: KindId) -> Self {
        let named = book.paces.iter().find(|pace| pace.who.is_some_and(|who| book.set(who).contains(kind)));
        let pace = named.or_else(|| book.paces.iter().find(|pace| pace.who.is_none()));
        pace.map_or_else(Self::default, |pace| Self::of(&pace.settings))
    }

    /// The mode's clause, as `fmt` writes it.
    pub fn mode_words(&self) -> String {
        let unit = |speed: &Amount, px: &'static str, cells: &'static str| if speed.cells { cells } else { px };
        match &self.mode {
            Mode::Instant => "instant".into(),
            Mode::Timed(time) => format!("timed {} ms", time.text),
            Mode::Rate(speed) => format!("rate {} {}", speed.text, unit(speed, "px/s", "cells/s")),
            Mode::PerFrame(step) => format!("per-frame {} {}", step.text, unit(step, "px", "cells")),
            Mode::Free(speed) => format!("free {} {}", speed.text, unit(speed, "px/s", "cells/s")),
        }
    }

    /// Every setting as a rulebook would say it, with the sort it is of; `None` where it is left out and has no usual value.
    pub fn clauses(&self) -> [(&'static str, Option<String>); 12] {
        let arrival = self.arrival.word();
        let moving = match self.moving {
            Moving::Ignored => "ignored".into(),
            Moving::Remembered => "remembered".into(),
            Moving::Queued(most) => format!("queued {most}"),
            Moving::Obeyed => "obeyed".into(),
        };
        let hold = match &self.hold {
            Hold::Continuous => "continuous".into(),
            Hold::Latched => "latched".into(),
            Hold::Off => "off".into(),
            Hold::Repeat(after, every) => format!("repeat after {} ms every {} ms", after.text, every.text),
            Hold::EveryFrame => "every frame".into(),
        };
        let body = |(width, height): &(Amount, Option<Amount>)| match height {
            Some(height) => format!("body {} x {} px", width.text, height.text),
            None => format!("body {} px", width.text),
        };
        [
            ("mode", Some(self.mode_words())),
            ("body", self.body.as_ref().map(body)),
            ("slack", self.slack.as_ref().map(|slack| format!("slack {} px", slack.text))),
            ("lined up", self.lined.as_ref().map(|lined| format!("lined up by {} px", lined.text))),
            ("test", Some(if self.test_equal { "test equal" } else { "test reached" }.into())),
            ("easing", Some(self.easing.word().into())),
            ("on arrival", Some(format!("on arrival {arrival}"))),
            ("while moving", Some(format!("while moving {moving}"))),
            ("hold", Some(format!("hold {hold}"))),
            ("axis", Some(format!("axis {}", self.axis.words()))),
            ("claim", Some(if self.claim_at_arrival { "claim at arrival" } else { "claim at start" }.into())),
            ("lean", self.lean.as_ref().map(|lean| format!("lean {} ms", lean.text))),
        ]
    }

    /// Whether a sort of setting means anything beside this mode.
    pub fn counts(&self, sort: &str) -> bool {
        match sort {
            "mode" | "axis" => true,
            "body" | "slack" | "lined up" => self.is_free(),
            _ => !self.is_free(),
        }
    }

    /// Whether it moves by pixels, not by steps.
    pub const fn is_free(&self) -> bool {
        matches!(self.mode, Mode::Free(_))
    }

    /// The whole pace, as a rulebook would say it; what means nothing beside its mode and the usual test are not mentioned.
    pub fn words(&self) -> String {
        let clauses = self.clauses().into_iter().filter(|(sort, _)| self.counts(sort)).filter_map(|(_, words)| words);
        let said: Vec<String> = clauses.filter(|words| words != "test reached").collect();
        said.join(", ")
    }

    /// The clauses that make other settings into these, each with its sort; an empty one where it is to go.
    pub fn changes_from(&self, old: &Self) -> Vec<(&'static str, String)> {
        let both = self.clauses().into_iter().zip(old.clauses());
        both.filter(|(new, old)| new != old).map(|((sort, new), _)| (sort, new.unwrap_or_default())).collect()
    }
}
