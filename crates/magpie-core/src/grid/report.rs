//! What a turn did, kept for people and programs.

use super::flow::{Ended, Flow};
use super::ledger::{Check, Request, Shoved};
use crate::board::{CellId, Changed};
use crate::rulebook::{ClauseId, KindId, RuleAt, Rulebook};
use crate::space::{Cell, Heading};

/// An action that was asked for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ActionReport {
    /// `spawn`, `swap`, `flood` ...
    pub action: &'static str,
    /// Whether it was done.
    pub granted: bool,
    /// Why not.
    pub reason: Option<String>,
    /// The cells concerned: both of a swap, the one chosen, flooded from, walked to, or spawned in.
    pub cells: Vec<Cell>,
    /// For a flood the number of cells.
    pub size: Option<u32>,
    /// For a flood its cells, nearest first, with the number of those in each ring round the first.
    pub rings: Option<Rings>,
}

impl ActionReport {
    /// An action that was done, or the reason why it was not.
    pub fn of(action: &'static str, refusal: Option<&str>) -> Self {
        let reason = refusal.map(String::from);
        Self { action, granted: refusal.is_none(), reason, cells: Vec::new(), size: None, rings: None }
    }

    /// With the cells concerned.
    #[must_use]
    pub fn at(self, cells: impl IntoIterator<Item = Cell>) -> Self {
        Self { cells: cells.into_iter().collect(), ..self }
    }
}

/// One thing that a rule did, or was refused.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Deed {
    /// In a sentence, with what refused it.
    pub text: String,
    /// It was asked for, and not done.
    pub is_refused: bool,
    /// A request, an action or a signal of the report tells it too.
    pub is_told: bool,
}

/// A rule that acted, and what it did.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Acted {
    /// The rule.
    pub rule: Fired,
    /// A sentence for each of its actions and effects, in order.
    pub did: Vec<Deed>,
}

/// A place in a report: what happened next, by its number in the list of its sort.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Next {
    Rule(usize),
    Request(usize),
    Action(usize),
    Settled(usize),
}

/// What happened next in a turn.
#[derive(Clone, Copy, Debug)]
pub enum Told<'a> {
    /// A rule began to act.
    Rule(&'a Acted),
    /// Somebody asked.
    Request(&'a Request),
    /// An action was asked for that is no request.
    Action(&'a ActionReport),
    /// A `when` rule found matches and changed something.
    Settled(&'a Settled),
}

/// The cells of a flood, ring by ring.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Rings {
    /// All cells in the order reached.
    pub cells: Vec<CellId>,
    /// Where each ring ends in that list: distance 0, 1, 2 ...
    pub ends: Vec<u32>,
    /// The kind that stood there, `None` where nothing did.
    pub was: Option<KindId>,
    /// The kind that stands there now.
    pub into: Option<KindId>,
}

/// One turn: what was asked and what came of it.
#[derive(Clone, Debug, Default)]
pub struct Answer {
    /// The counter `turns` after this turn, `None` for one that never settled.
    pub turn: Option<u64>,
    /// The input in words.
    pub input: String,
    /// The number of the turn as it began: where it leads to the beginning of a map, `turn` goes back.
    pub number: u64,
    /// It led to the beginning of a map: the same one again, or the next.
    pub left: Option<Flow>,
    /// Requests in the order made.
    pub requests: Vec<Request>,
    /// Actions other than requests.
    pub actions: Vec<ActionReport>,
    /// What was told to the outside.
    pub signals: Vec<String>,
    /// What came to nothing, such as a `place` where the layer is taken.
    pub notes: Vec<String>,
    /// Numbers of the rules that keep firing, for a turn that never settled.
    pub feeding: Vec<usize>,
    /// How many requests, actions, signals and settlings there were besides those told here.
    pub untold: usize,
    /// The outcome after the turn.
    pub outcome: Option<Ended>,
    /// The first invariant that does not hold after the turn, by its number.
    pub broken: Option<usize>,
    /// The rules that acted or decided, each once.
    pub fired: Vec<Fired>,
    /// The rules that acted and what they did, in the order in which they began; those of `when` are in `settled`.
    pub rules: Vec<Acted>,
    /// What happened, in order.
    pub(super) order: Vec<Next>,
    /// The heading of the first controlled piece at the end of the turn.
    pub heading: Option<Heading>,
    /// The cell that is marked at the end of the turn.
    pub chosen: Option<Cell>,
    /// What the `when` rules found and changed, pass by pass.
    pub settled: Vec<Settled>,
    /// The board and the rulebook's counters after a turn in the middle of a wait, where the board is not large.
    pub after: Option<(Vec<String>, Vec<i64>)>,
}

impl Answer {
    /// All that happened, in the order in which it began.
    pub fn told(&self) -> impl Iterator<Item = Told<'_>> {
        self.order.iter().filter_map(|next| match next {
            Next::Rule(at) => self.rules.get(*at).map(Told::Rule),
            Next::Request(at) => self.requests.get(*at).map(Told::Request),
            Next::Action(at) => self.actions.get(*at).map(Told::Action),
            Next::Settled(at) => self.settled.get(*at).map(Told::Settled),
        })
    }

    /// Whether nothing happened.
    pub fn is_empty(&self) -> bool {
        self.order.is_empty() && self.outcome.is_none() && self.feeding.is_empty()
    }

    /// Adds a rule that begins to act; its place.
    pub(super) fn add_rule(&mut self, rule: Fired) -> usize {
        self.order.push(Next::Rule(self.rules.len()));
        self.rules.push(Acted { rule, did: Vec::new() });
        self.rules.len() - 1
    }

    /// Adds a request to the end, or in place of the last one, which is given with the place.
    pub(super) fn add_request(&mut self, request: Request, fits: bool) -> (usize, Option<Request>) {
        let gone = add(&mut self.requests, &mut self.order, Next::Request, request, fits, &mut self.untold);
        (self.requests.len() - 1, gone)
    }

    /// Adds an action to the end, or in place of the last one.
    pub(super) fn add_action(&mut self, action: ActionReport, fits: bool) {
        add(&mut self.actions, &mut self.order, Next::Action, action, fits, &mut self.untold);
    }

    /// Adds a settling.
    pub(super) fn add_settled(&mut self, settled: Settled) {
        self.order.push(Next::Settled(self.settled.len()));
        self.settled.push(settled);
    }

    /// Bytes that the report holds, roughly.
    pub fn bytes(&self) -> usize {
        let requests = self.requests.iter().map(|request| {
            size_of::<Request>()
                + request.checks.len() * size_of::<Check>()
                + request.shoved.len() * size_of::<Shoved>()
        });
        let actions = self.actions.iter().map(|action| {
            size_of::<ActionReport>() + action.rings.as_ref().map_or(0, |rings| rings.cells.len() * size_of::<CellId>())
        });
        let texts = |texts: &[String]| texts.iter().map(|text| size_of::<String>() + text.len()).sum::<usize>();
        let settled = self.settled.iter().map(|settled| {
            let matches = settled.matches.iter().map(|cells| 24 + cells.len() * size_of::<Cell>()).sum::<usize>();
            size_of::<Settled>()
                + matches
                + settled.changes.len() * size_of::<Changed>()
                + texts(&settled.board)
                + bytes_of(&settled.did)
        });
        let after = self.after.as_ref().map_or(0, |(board, counters)| texts(board) + counters.len() * 8);
        let rules = self.rules.iter().map(|acted| size_of::<Acted>() + bytes_of(&acted.did));
        let order = self.order.len() * size_of::<Next>() + rules.sum::<usize>();
        let lists = requests.sum::<usize>() + actions.sum::<usize>() + settled.sum::<usize>() + after + order;
        size_of::<Self>() + lists + texts(&self.signals) + texts(&self.notes) + self.input.len()
    }
}

/// Adds to a list of a report; beyond its limit the last one gives way, so that the newest is always told.
fn add<T>(
    list: &mut Vec<T>,
    order: &mut Vec<Next>,
    place: fn(usize) -> Next,
    told: T,
    fits: bool,
    untold: &mut usize,
) -> Option<T> {
    let gone = if fits { None } else { list.pop() };
    if gone.is_some() {
        *untold += 1;
        // It is nearly always the last thing that happened.
        if let Some(at) = order.iter().rposition(|next| *next == place(list.len())) {
            order.remove(at);
        }
    }
    order.push(place(list.len()));
    list.push(told);
    gone
}

fn bytes_of(deeds: &[Deed]) -> usize {
    deeds.iter().map(|deed| size_of::<Deed>() + deed.text.len()).sum()
}

/// A rule that acted, by its number among those of its sort.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Fired {
    /// `into`, as the answer to a request.
    Meeting(ClauseId),
    /// `off`.
    Off(usize),
    /// `when`.
    When(usize),
    /// `on`, `each` or `control`.
    Input(usize),
    /// `win` or `lose`.
    Outcome(usize),
}

impl Fired {
    /// Where the rule stands.
    pub fn at(self, book: &Rulebook) -> &RuleAt {
        match self {
            Self::Meeting(number) => &book.meeting(number).at,
            Self::Off(number) => &book.offs[number].at,
            Self::When(number) => &book.whens[number].at,
            Self::Input(number) => &book.inputs[number].at,
            Self::Outcome(number) => &book.outcomes[number].at,
        }
    }
}

/// A `when` rule that changed something in one pass of the settling.
#[derive(Clone, Debug)]
pub struct Settled {
    /// The pass, from 0.
    pub pass: usize,
    /// The rule, by its number.
    pub rule: usize,
    /// How many matches it acted on.
    pub found: usize,
    /// How many pieces these are.
    pub pieces: usize,
    /// What became of how many pieces.
    pub counts: Counts,
    /// A sentence for each of its effects, the first ones of many.
    pub did: Vec<Deed>,
    /// The cells of each match, as it was found; nothing of boards that are too large to keep.
    pub matches: Vec<Vec<Cell>>,
    /// What became of the pieces it changed; nothing of boards that are too large to keep.
    pub changes: Vec<Changed>,
    /// The board afterwards; empty where it is too large to keep.
    pub board: Vec<String>,
}

/// What became of how many pieces.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Counts {
    /// They have left the board.
    pub gone: usize,
    /// They stand in another cell.
    pub moved: usize,
    /// They were not there before.
    pub new: usize,
    /// They are of another kind.
    pub turned: usize,
}

impl Counts {
    /// Counts changes.
    pub fn of(changes: &[Changed]) -> Self {
        let count = |sort: fn(&&Changed) -> bool| changes.iter().filter(sort).count();
        Self {
            gone: count(|change| change.from.is_some() && change.to.is_none()),
            moved: count(|change| change.from.is_some() && change.to.is_some() && change.from != change.to),
            new: count(|change| change.from.is_none() && change.to.is_some()),
            turned: count(|change| change.from == change.to && change.was.is_some()),
        }
    }
}

impl Settled {
    /// Forgets boards and cells; the counts stay.
    pub fn shed(&mut self) {
        (self.matches, self.changes, self.board) = (Vec::new(), Vec::new(), Vec::new());
    }
}
