//! The second part of the catalogue: mistakes of a whole program, each as a game that is played with it.

use crate::grid::{Margin, Switch, Switches};
use crate::input::{Input, Key};
use crate::rulebook::{Action, Common, Effect, Match, Met, PlainVerb, RuleAt, Rulebook, SetId, Trigger, Verb};
use std::sync::Arc;

/// What part of a program a mistake is in; two of one sort are never made together.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Sort {
    /// What a key asks for.
    Input,
    /// Where the board ends.
    Bounds,
    /// What a piece meets.
    Meeting,
    /// What the board remembers.
    Keeping,
    /// What a turn does.
    Turn,
    /// How the state is told.
    Telling,
}

impl Sort {
    /// The word of the docs.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Input => "input",
            Self::Bounds => "bounds",
            Self::Meeting => "meeting",
            Self::Keeping => "keeping",
            Self::Turn => "turn",
            Self::Telling => "telling",
        }
    }
}

macro_rules! slips {
    ($($name:ident $sort:ident $id:literal $says:literal;)*) => {
        /// A known mistake of a program that plays a game on a grid.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
        pub enum Slip {
            $(#[doc = $says] $name,)*
        }

        impl Slip {
            /// All of them, by sort, the usual ones first.
            pub const ALL: &'static [Self] = &[$(Self::$name),*];

            /// The name in the formats.
            pub const fn id(self) -> &'static str {
                match self { $(Self::$name => $id),* }
            }

            /// The part of a program it is made in.
            pub const fn sort(self) -> Sort {
                match self { $(Self::$name => Sort::$sort),* }
            }

            /// What the program does, in one sentence; `{who}`, `{shoved}`, `{line}` and others stand for names of a rulebook.
            pub const fn sentence(self) -> &'static str {
                match self { $(Self::$name => $says),* }
            }
        }
    };
}

slips! {
    UpIsDown Input "up-is-down" "the keys for up and down are exchanged";
    LeftIsRight Input "left-is-right" "the keys for left and right are exchanged";
    HeadingAxesSwapped Input "heading-axes-swapped" "left and up, right and down are exchanged: the axes of the headings are";
    EveryInputTwice Input "every-input-twice" "one key makes the request of {who} twice in a row";
    BoundsForgotten Bounds "bounds-forgotten" "{who} walks off the board on every side: nobody looks at its bounds";
    FarEdgeOwned Bounds "far-edge-owned" "the board is a column and a row too large at the far ends: `<=` stands where `<` is meant";
    OnlyColumnsChecked Bounds "only-columns-checked" "only columns are looked at: {who} walks off the board north and south";
    OnlyRowsChecked Bounds "only-rows-checked" "only rows are looked at: {who} walks off the board west and east";
    RowWraps Bounds "row-wraps" "a step off the east or west edge goes on in the next or previous row: the flat index is changed by one";
    EdgesJoin Bounds "edges-join" "a step off an edge comes in on the far side";
    VoidWalked Bounds "void-walked" "void is walked as bare ground";
    VacancyForgotten Meeting "vacancy-forgotten" "{who} enters cells without a look at what stands there";
    ClauseIgnored Meeting "clause-ignored" "the rule `{rule}` is not there";
    PushUnlimited Meeting "push-unlimited" "a whole line of {shoved} moves: neither the limit nor a stop between them is looked at";
    PushOneOnly Meeting "push-one-only" "only one {shoved} is ever set in motion: what stands behind it stops it";
    PushIntoPiece Meeting "push-into-piece" "a shoved {shoved} enters whatever stands there";
    PusherStays Meeting "pusher-stays" "{shoved} moves, but who shoves it stays where it is";
    PusherEnters Meeting "pusher-enters" "where {shoved} cannot move, who shoves it enters all the same";
    OldCellKept Keeping "old-cell-kept" "the cell that {who} leaves still counts as taken";
    SwapHalf Keeping "swap-half" "of a swap only the first side moves: the other is lost";
    StaysRegistered Keeping "stays-registered" "who gets off a carrier steps from the cell where it got on";
    NotLookedAgain Turn "not-looked-again" "the `when` rules run through once: what they bring about is not looked at";
    RowOneShort Turn "row-one-short" "a line counts as full though its last cell is not: the loop ends one cell too early";
    DropForgotten Turn "drop-forgotten" "behind a cleared line nothing comes down";
    WallsDrop Turn "walls-drop" "behind a cleared line pieces of every kind come down";
    FallsToTheBottom Turn "falls-to-the-bottom" "behind a cleared line each piece comes down as far as it can";
    TailInTheWay Turn "tail-in-the-way" "the oldest {trail} is still in the way when {who} steps";
    TailOverlooked Turn "tail-overlooked" "the oldest {trail} is out of the way before {who} steps";
    GrowsLate Turn "grows-late" "the trail grows one move late";
    ReverseAllowed Turn "reverse-allowed" "{who} may turn straight back";
    CornersLeak Turn "corners-leak" "the flood spreads over corners too";
    CornersShut Turn "corners-shut" "the flood does not spread over corners";
    SwapUnchecked Turn "swap-unchecked" "a swap is made though it makes no run";
    CountedFromOne Telling "counted-from-one" "columns and rows are told counted from one";
    AxesSwapped Telling "axes-swapped" "column and row are exchanged where they are told";
    YTurnedRound Telling "y-turned-round" "rows are told counted from the other end";
    ToldBefore Telling "told-before" "the state before the input is told";
    CornerForCentre Telling "corner-for-centre" "the corner of the cell is told where its middle is meant";
    HalfCellTwice Telling "half-cell-twice" "half a cell is added twice on the way to the middle";
    SizeNotMultipliedBack Telling "size-not-multiplied-back" "column and row are told as if they were pixels";
    OriginForgotten Telling "origin-forgotten" "the board's origin is left out of the position";
}

impl Slip {
    /// The mistake of a name.
    pub fn of_id(id: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|slip| slip.id() == id)
    }

    /// The step of the machinery that it leaves out, where no rewriting does it.
    const fn switch(self) -> Option<Switch> {
        Some(match self {
            Self::RowWraps => Switch::RowWraps,
            Self::EdgesJoin => Switch::EdgesJoin,
            Self::VoidWalked => Switch::VoidWalked,
            Self::BoundsForgotten | Self::FarEdgeOwned | Self::OnlyColumnsChecked | Self::OnlyRowsChecked => {
                Switch::MarginWalked
            }
            Self::VacancyForgotten => Switch::VacancyForgotten,
            Self::PushUnlimited => Switch::PushUnlimited,
            Self::PushOneOnly => Switch::PushOneOnly,
            Self::PushIntoPiece => Switch::PushIntoPiece,
            Self::PusherStays => Switch::PusherStays,
            Self::PusherEnters => Switch::PusherEnters,
            Self::OldCellKept => Switch::OldCellKept,
            Self::SwapHalf => Switch::SwapHalf,
            Self::StaysRegistered => Switch::StaysRegistered,
            Self::NotLookedAgain => Switch::NotLookedAgain,
            Self::RowOneShort => Switch::RowOneShort,
            Self::WallsDrop => Switch::WallsDrop,
            Self::FallsToTheBottom => Switch::FallsToTheBottom,
            Self::GrowsLate => Switch::GrowsLate,
            Self::UpIsDown
            | Self::LeftIsRight
            | Self::HeadingAxesSwapped
            | Self::EveryInputTwice
            | Self::ClauseIgnored
            | Self::DropForgotten
            | Self::TailInTheWay
            | Self::TailOverlooked
            | Self::ReverseAllowed
            | Self::CornersLeak
            | Self::CornersShut
            | Self::SwapUnchecked
            | Self::CountedFromOne
            | Self::AxesSwapped
            | Self::YTurnedRound
            | Self::ToldBefore
            | Self::CornerForCentre
            | Self::HalfCellTwice
            | Self::SizeNotMultipliedBack
            | Self::OriginForgotten => return None,
        })
    }

    /// How far the board goes on beyond its edges, at most so many cells.
    const fn margin(self, reach: u32) -> Margin {
        let (all, none) = ((reach, reach), (0, 0));
        match self {
            Self::BoundsForgotten => Margin { columns: all, rows: all },
            Self::FarEdgeOwned => Margin { columns: (0, 1), rows: (0, 1) },
            Self::OnlyColumnsChecked => Margin { columns: none, rows: all },
            Self::OnlyRowsChecked => Margin { columns: all, rows: none },
            _ => Margin { columns: none, rows: none },
        }
    }
}

/// A mistake made in one rulebook.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Slipped {
    /// The mistake.
    pub slip: Slip,
    /// The rule concerned: its line, and its words on one line.
    pub rule: Option<(u32, String)>,
}

/// Where a rule stands, and what it says.
fn rule_of(at: &RuleAt, words: &str) -> (u32, String) {
    (at.line, words.to_owned())
}

/// The rules of the `rules` section, promises apart, each once, by line.
fn rule_lines(book: &Rulebook) -> Vec<(u32, String)> {
    let meetings = book.meetings.iter().map(|rule| rule_of(&rule.at, &rule.words));
    let rest = book.offs.iter().map(|rule| &rule.at).chain(book.whens.iter().map(|rule| &rule.at));
    let rest = rest.chain(book.inputs.iter().filter(|rule| !rule.at.text.starts_with("control")).map(|rule| &rule.at));
    let rest = rest.chain(book.outcomes.iter().map(|rule| &rule.at));
    let mut all: Vec<_> = meetings.chain(rest.map(|at| rule_of(at, &at.text))).collect();
    all.sort();
    all.dedup_by_key(|(line, _)| *line);
    all
}

/// Whether a verb stops between two that are shoved.
fn stops_between(book: &Rulebook, who: SetId, met: Met, verb: Verb) -> bool {
    let is_shoved = |set: SetId| book.set(set).iter().any(|kind| book.is_shoved(kind));
    let both = is_shoved(who) && matches!(met, Met::Pieces(other) if is_shoved(other));
    both && verb == Verb::Plain(PlainVerb::Stop)
}

/// The rule that a mistake is about, where there is one.
struct Concern(Option<(u32, String)>);

impl Slip {
    /// The rule that the mistake is about, where it changes something in a rulebook; `None` where it changes nothing.
    #[allow(clippy::too_many_lines)] // a row for each mistake
    fn concerns(self, book: &Rulebook) -> Option<Concern> {
        let meeting = |wanted: &dyn Fn(Verb) -> bool| {
            let found = book.meetings.iter().find(|meeting| wanted(meeting.verb));
            found.map(|meeting| Concern(Some(rule_of(&meeting.at, &meeting.words))))
        };
        let when = |wanted: &dyn Fn(&crate::rulebook::When) -> bool| {
            book.whens.iter().find(|when| wanted(when)).map(|when| Concern(Some(rule_of(&when.at, &when.at.text))))
        };
        let action = |wanted: &dyn Fn(&Action) -> bool| {
            let has = |rule: &&crate::rulebook::InputRule| rule.actions.iter().flatten().any(wanted);
            book.inputs.iter().find(has).map(|rule| Concern(Some(rule_of(&rule.at, &rule.at.text))))
        };
        let where_moved = || (!book.controls.is_empty()).then_some(Concern(None));
        let shoves = |verb: Verb| matches!(verb, Verb::Shove { .. });
        let drops = |effect: &Effect| matches!(effect, Effect::DropRows(_));
        let listens = |keys: &[usize]| {
            let words = ["left", "right", "up", "down"];
            let of_controls = book.controls.iter().filter_map(|control| control.keys.as_ref());
            let by_control = of_controls.clone().count() > 0;
            let wanted = |rule: &crate::rulebook::InputRule| matches!(&rule.trigger, Trigger::Key(Key(key)) if keys.iter().any(|at| words[*at] == key));
            (by_control || book.inputs.iter().any(wanted)).then_some(Concern(None))
        };
        match self {
            Self::UpIsDown => listens(&[2, 3]),
            Self::LeftIsRight => listens(&[0, 1]),
            Self::HeadingAxesSwapped => listens(&[0, 1, 2, 3]),
            Self::EveryInputTwice => {
                book.inputs.iter().any(|rule| matches!(rule.trigger, Trigger::Key(_))).then_some(Concern(None))
            }
            Self::BoundsForgotten
            | Self::FarEdgeOwned
            | Self::OnlyColumnsChecked
            | Self::OnlyRowsChecked
            | Self::RowWraps
            | Self::EdgesJoin
            | Self::CountedFromOne
            | Self::AxesSwapped
            | Self::YTurnedRound
            | Self::ToldBefore
            | Self::CornerForCentre
            | Self::HalfCellTwice
            | Self::SizeNotMultipliedBack => Some(Concern(None)),
            Self::VoidWalked => book.maps.iter().any(crate::rulebook::Map::has_void).then_some(Concern(None)),
            Self::VacancyForgotten | Self::OldCellKept => where_moved(),
            Self::ClauseIgnored => None,
            Self::PushUnlimited => {
                let found = book.meetings.iter().find(|meeting| {
                    matches!(meeting.verb, Verb::Shove { up_to: Some(_), .. })
                        || stops_between(book, meeting.who, meeting.met, meeting.verb)
                });
                let rule = found.map(|meeting| rule_of(&meeting.at, &meeting.words));
                meeting(&shoves).map(|_| Concern(rule))
            }
            Self::PushOneOnly | Self::PushIntoPiece | Self::PusherStays | Self::PusherEnters => meeting(&shoves),
            Self::SwapHalf => meeting(&|verb| verb.is_or_else(|verb| verb == PlainVerb::Swap))
                .or_else(|| action(&|action| matches!(action, Action::Swap { .. }))),
            Self::StaysRegistered => meeting(&|verb| verb.is_or_else(|verb| verb == PlainVerb::Ride)),
            Self::NotLookedAgain => when(&|_| true),
            Self::RowOneShort => when(&|when| matches!(when.what, Match::Full { .. })),
            Self::DropForgotten | Self::WallsDrop | Self::FallsToTheBottom => {
                when(&|when| when.effects.iter().any(drops))
            }
            Self::TailInTheWay => book.trails.iter().any(|trail| !trail.tail_last).then_some(Concern(None)),
            Self::TailOverlooked => book.trails.iter().any(|trail| trail.tail_last).then_some(Concern(None)),
            Self::GrowsLate => {
                let grows = book.commons().any(|common| matches!(common, Common::Grow(_)));
                (grows && !book.trails.is_empty()).then_some(Concern(None))
            }
            Self::ReverseAllowed => {
                let found = book.inputs.iter().find(|rule| rule.no_reverse.is_some());
                found.map(|rule| Concern(Some(rule_of(&rule.at, &rule.at.text))))
            }
            Self::CornersLeak => action(&|action| matches!(action, Action::Flood { eight: false, .. })),
            Self::CornersShut => action(&|action| matches!(action, Action::Flood { eight: true, .. })),
            Self::SwapUnchecked => action(&|action| matches!(action, Action::Swap { if_run: true, .. })),
            Self::OriginForgotten => {
                let lies_off = |map: &crate::rulebook::Map| {
                    let corner = book.geometry.corner_of_first(map.extent);
                    (corner.x, corner.y) != (0.0, 0.0)
                };
                book.maps.iter().any(lies_off).then_some(Concern(None))
            }
        }
    }
}

/// Every mistake that changes something in a rulebook, in the order of the catalogue; `clause-ignored` once for each rule.
pub fn slips_of(book: &Rulebook) -> Vec<Slipped> {
    let of = |slip: &Slip| -> Vec<Slipped> {
        let rules = match slip {
            Slip::ClauseIgnored => rule_lines(book).into_iter().map(Some).collect(),
            _ => slip.concerns(book).into_iter().map(|Concern(rule)| rule).collect::<Vec<_>>(),
        };
        rules.into_iter().map(|rule| Slipped { slip: *slip, rule }).collect()
    };
    Slip::ALL.iter().flat_map(of).collect()
}

/// A game as a program with some mistakes plays and tells it; the right one has none.
#[derive(Clone, Debug)]
pub struct Played {
    /// The rulebook as the program has it.
    pub book: Arc<Rulebook>,
    /// The steps that are done wrong.
    pub switches: Switches,
    /// The mistakes.
    pub slips: Vec<Slip>,
}

impl Played {
    /// The game as it is.
    pub fn right(book: &Arc<Rulebook>) -> Self {
        Self { book: book.clone(), switches: Switches::default(), slips: Vec::new() }
    }

    /// The game with mistakes; what lies beyond the edges is at most so many cells wide.
    pub fn with<'a>(book: &Arc<Rulebook>, slipped: impl IntoIterator<Item = &'a Slipped>, reach: u32) -> Self {
        let mut played = Self::right(book);
        for Slipped { slip, rule } in slipped {
            played.slips.push(*slip);
            if let Some(switch) = slip.switch() {
                played.switches = played.switches.with(switch);
            }
            if slip.sort() == Sort::Bounds {
                played.switches.margin = slip.margin(reach);
            }
            rewrite(&mut played.book, *slip, rule.as_ref().map(|(line, _)| *line));
        }
        played
    }

    /// Whether it makes a mistake.
    pub fn makes(&self, slip: Slip) -> bool {
        self.slips.contains(&slip)
    }

    /// What the program takes an input for.
    pub fn heard(&self, input: &Input) -> Input {
        let Input::Key(Key(key)) = input else {
            return input.clone();
        };
        // Left, right, up, down.
        let exchanged: [usize; 4] = if self.makes(Slip::UpIsDown) {
            [0, 1, 3, 2]
        } else if self.makes(Slip::LeftIsRight) {
            [1, 0, 2, 3]
        } else if self.makes(Slip::HeadingAxesSwapped) {
            [2, 3, 0, 1]
        } else {
            return input.clone();
        };
        let arrows = ["left", "right", "up", "down"].map(|word| Key(word.into()));
        let all = self.book.controls.iter().filter_map(|control| control.keys.clone()).chain([arrows]);
        let found = all.into_iter().find_map(|keys| {
            let at = keys.iter().position(|Key(other)| other == key)?;
            Some(keys[exchanged[at]].clone())
        });
        found.map_or_else(|| input.clone(), Input::Key)
    }
}

/// Rewrites a rulebook as a program with a mistake has it.
fn rewrite(book: &mut Arc<Rulebook>, slip: Slip, line: Option<u32>) {
    fn actions(book: &mut Arc<Rulebook>, change: impl Fn(&mut Action)) {
        let rules = &mut Arc::make_mut(book).inputs;
        rules.iter_mut().flat_map(|rule| rule.actions.iter_mut().flatten()).for_each(change);
    }
    match slip {
        Slip::EveryInputTwice => {
            for rule in &mut Arc::make_mut(book).inputs {
                if matches!(rule.trigger, Trigger::Key(_)) {
                    for list in &mut rule.actions {
                        let again = list.clone();
                        list.extend(again);
                    }
                }
            }
        }
        Slip::ClauseIgnored => {
            let book = Arc::make_mut(book);
            let stays = |at: &RuleAt| Some(at.line) != line;
            book.meetings.retain(|rule| stays(&rule.at));
            book.offs.retain(|rule| stays(&rule.at));
            book.whens.retain(|rule| stays(&rule.at));
            book.inputs.retain(|rule| stays(&rule.at));
            book.outcomes.retain(|rule| stays(&rule.at));
        }
        Slip::DropForgotten => {
            for when in &mut Arc::make_mut(book).whens {
                let cleared = when.effects.iter().position(|effect| matches!(effect, Effect::Clear));
                let mut at = 0;
                when.effects.retain(|effect| {
                    at += 1;
                    let falls = matches!(effect, Effect::DropRows(_) | Effect::Common(Common::Fall(..)));
                    !(falls && cleared.is_some_and(|cleared| at > cleared))
                });
            }
        }
        Slip::TailInTheWay => Arc::make_mut(book).trails.iter_mut().for_each(|trail| trail.tail_last = true),
        Slip::TailOverlooked => Arc::make_mut(book).trails.iter_mut().for_each(|trail| trail.tail_last = false),
        Slip::ReverseAllowed => Arc::make_mut(book).inputs.iter_mut().for_each(|rule| rule.no_reverse = None),
        Slip::CornersLeak | Slip::CornersShut => actions(book, |action| {
            if let Action::Flood { eight, .. } = action {
                *eight = slip == Slip::CornersLeak;
            }
        }),
        Slip::SwapUnchecked => actions(book, |action| {
            if let Action::Swap { if_run, .. } = action {
                *if_run = false;
            }
        }),
        Slip::UpIsDown
        | Slip::LeftIsRight
        | Slip::HeadingAxesSwapped
        | Slip::BoundsForgotten
        | Slip::FarEdgeOwned
        | Slip::OnlyColumnsChecked
        | Slip::OnlyRowsChecked
        | Slip::RowWraps
        | Slip::EdgesJoin
        | Slip::VoidWalked
        | Slip::VacancyForgotten
        | Slip::PushUnlimited
        | Slip::PushOneOnly
        | Slip::PushIntoPiece
        | Slip::PusherStays
        | Slip::PusherEnters
        | Slip::OldCellKept
        | Slip::SwapHalf
        | Slip::StaysRegistered
        | Slip::NotLookedAgain
        | Slip::RowOneShort
        | Slip::WallsDrop
        | Slip::FallsToTheBottom
        | Slip::GrowsLate
        | Slip::CountedFromOne
        | Slip::AxesSwapped
        | Slip::YTurnedRound
        | Slip::ToldBefore
        | Slip::CornerForCentre
        | Slip::HalfCellTwice
        | Slip::SizeNotMultipliedBack
        | Slip::OriginForgotten => {}
    }
}

impl Slipped {
    /// What the program does, with the names of a rulebook.
    pub fn says(&self, book: &Rulebook) -> String {
        let set = |set: SetId| book.set(set).name.clone();
        let who = book.controls.first().map_or_else(|| "the piece".into(), |control| set(control.who));
        let shoved = book.meetings.iter().find_map(|meeting| match (meeting.verb, meeting.met) {
            (Verb::Shove { .. }, Met::Pieces(met)) => Some(set(met)),
            _ => None,
        });
        let trail = book.trails.first().map_or_else(String::new, |trail| book.kind(trail.leaves).name.clone());
        let rule = self.rule.as_ref().map_or("", |(_, words)| words);
        let text = self.slip.sentence().replace("{who}", &who).replace("{trail}", &trail).replace("{rule}", rule);
        text.replace("{shoved}", shoved.as_deref().unwrap_or("piece"))
    }

    /// The line concerned, as `line N: WORDS`.
    pub fn place(&self) -> Option<String> {
        self.rule.as_ref().map(|(line, words)| format!("line {line}: {words}"))
    }
}

/// A row of the catalogue, of either part.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Listed {
    /// The name in the formats.
    pub id: &'static str,
    /// Of positions, or the part of a program.
    pub sort: &'static str,
    /// What is wrong, in one sentence.
    pub says: &'static str,
}

/// The whole catalogue: mistakes of positions first, then those of a whole program.
pub fn catalogue() -> Vec<Listed> {
    let positions =
        super::Mishap::ALL.into_iter().map(|mishap| Listed { id: mishap.id(), sort: "position", says: mishap.says() });
    let programs =
        Slip::ALL.iter().map(|slip| Listed { id: slip.id(), sort: slip.sort().word(), says: slip.sentence() });
    positions.chain(programs).collect()
}
