//! A turn's report line by line: the command line and the Play bench write these, the tape and the story sheet their short
//! form.

use super::{counted, plain, settled};
use magpie_core::grid::{ActionReport, Answer, Asked, Check, CheckKind, Deed, Ended, Flow, Request, Told};
use magpie_core::rulebook::{RuleAt, Rulebook};
use magpie_core::space::{Cell, Extent, Heading};
use std::fmt::Write as _;

/// How much of a turn is told.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Detail {
    /// Every request and action with what refused it.
    Answers,
    /// And every check, and what rules did that no request or action tells.
    Checks,
    /// And every rule that acted, with all it did.
    Everything,
}

/// What a line of a report is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sort {
    /// The words of a rule that acted.
    Rule,
    /// What a rule did, or was refused.
    Deed { is_refused: bool },
    /// Somebody asked, and the answer.
    Request { granted: bool },
    /// A check of the request above, by its number; `holds` is none for a clause that was passed over.
    Check { number: usize, holds: Option<bool>, decides: bool },
    /// More about the check that decided.
    Decided { by_rule: bool },
    /// Who moved.
    Moved,
    /// An action that is no request, and the answer.
    Action { granted: bool },
    /// What a `when` rule found and changed.
    Settled,
    /// What was told to the outside.
    Signal,
    /// Anything else.
    Note,
    /// The turn was taken back.
    NeverSettles,
}

/// A line of a report.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Line {
    /// What it is.
    pub sort: Sort,
    /// Its words.
    pub text: String,
    /// The line of the rule that it is about.
    pub rule_at: Option<u32>,
}

/// Collects the lines of a report.
struct Report<'a> {
    book: &'a Rulebook,
    extent: Extent,
    detail: Detail,
    lines: Vec<Line>,
}

impl Report<'_> {
    fn add(&mut self, sort: Sort, text: impl Into<String>, rule_at: Option<u32>) {
        self.lines.push(Line { sort, text: text.into(), rule_at });
    }

    fn deeds(&mut self, did: &[Deed]) {
        for deed in did {
            self.add(Sort::Deed { is_refused: deed.is_refused }, plain(&deed.text), None);
        }
    }

    fn rule(&mut self, at: &RuleAt, did: &[Deed]) {
        let wanted = |deed: &&Deed| match self.detail {
            Detail::Answers => deed.is_refused && !deed.is_told,
            Detail::Checks => !deed.is_told,
            Detail::Everything => true,
        };
        let did: Vec<Deed> = did.iter().filter(wanted).cloned().collect();
        if !did.is_empty() || self.detail == Detail::Everything {
            self.add(Sort::Rule, plain(&at.text), Some(at.line));
            self.deeds(&did);
        }
    }

    fn request(&mut self, request: &Request) {
        let granted = request.granted;
        self.add(Sort::Request { granted }, asks(request, self.book), None);
        let reason = request.reason;
        for (at, check) in request.checks.iter().enumerate() {
            let decides = reason == Some(at);
            if decides || self.detail != Detail::Answers {
                self.check(at + 1, check, decides);
            }
        }
        if self.detail != Detail::Answers {
            self.add(Sort::Moved, moved(request, self.book), None);
        }
    }

    fn check(&mut self, number: usize, check: &Check, decides: bool) {
        let holds = (check.kind != CheckKind::If).then_some(check.holds);
        let given_up = if check.abandoned { ", given up for its `else`" } else { "" };
        let words = format!("{:<7} {}{given_up}", check.kind.word(), check.text(self.book, self.extent));
        self.add(Sort::Check { number, holds, decides }, words, check.line(self.book));
        if decides && self.detail == Detail::Checks {
            match check.clause {
                Some(clause) => self.add(Sort::Decided { by_rule: true }, &*self.book.meeting(clause).words, None),
                None if check.kind == CheckKind::Meets => {
                    let default = "no rule is about this: one layer holds one piece";
                    self.add(Sort::Decided { by_rule: false }, default, None);
                }
                None => {}
            }
        }
    }
}

/// The lines of a turn's report, in the order in which things happened.
pub fn report(answer: &Answer, book: &Rulebook, extent: Extent, detail: Detail) -> Vec<Line> {
    let mut report = Report { book, extent, detail, lines: Vec::new() };
    for told in answer.told() {
        match told {
            Told::Rule(acted) => report.rule(acted.rule.at(book), &acted.did),
            Told::Request(request) => report.request(request),
            Told::Action(action) => {
                report.add(Sort::Action { granted: action.granted }, self::action(action), None);
            }
            Told::Settled(found) => {
                let at = &book.whens[found.rule].at;
                let text = format!("pass {}  {}: {}", found.pass + 1, plain(&at.text), settled(found, book));
                report.add(Sort::Settled, text, Some(at.line));
                let refused = |deed: &&Deed| detail != Detail::Answers || deed.is_refused;
                let did: Vec<Deed> = found.did.iter().filter(refused).cloned().collect();
                report.deeds(&did);
            }
        }
    }
    for signal in &answer.signals {
        report.add(Sort::Signal, plain(signal), None);
    }
    for note in &answer.notes {
        report.add(Sort::Note, plain(note), None);
    }
    match answer.left {
        None | Some(Flow::NeverSettles) => {}
        Some(Flow::Restart) => report.add(Sort::Note, "the map begins again", None),
        Some(Flow::NextMap) => report.add(Sort::Note, "that was the end of this map", None),
    }
    if let Some(outcome @ (Ended::Won | Ended::Lost)) = answer.outcome {
        report.add(Sort::Note, outcome.word(), None);
    }
    if answer.untold > 0 {
        report.add(Sort::Note, format!("and {} more that are not told", answer.untold), None);
    }
    if !answer.feeding.is_empty() {
        report.add(Sort::NeverSettles, "the turn was taken back; these keep firing:", None);
        for rule in &answer.feeding {
            let at = &book.whens[*rule].at;
            report.add(Sort::Note, plain(&at.text), Some(at.line));
        }
    }
    report.lines
}

/// The turn and its input, as a heading: `turn 3: right`.
pub fn title(answer: &Answer, input: &str) -> String {
    let number = answer.number;
    match answer.turn {
        None => format!("turn {number}, taken back: {input}"),
        Some(turn) if turn != number => format!("turn {number}: {input} (turns is {turn} again)"),
        Some(_) => format!("turn {number}: {input}"),
    }
}

/// Who asks for what: `cog at 2,1 asks east`.
fn asks(request: &Request, book: &Rulebook) -> String {
    let Cell { column, row } = request.from;
    let name = &book.kind(request.kind).name;
    let heading = request.heading.map_or("a leap", Heading::word);
    match request.by {
        Asked::Own => format!("{name} at {column},{row} asks {heading}"),
        Asked::Falling => format!("{name} at {column},{row} falls {heading}"),
        Asked::Carried => format!("{name} at {column},{row} is carried on"),
    }
}

/// Who has moved by a request, or that nobody has.
fn moved(request: &Request, book: &Rulebook) -> String {
    let name = &book.kind(request.kind).name;
    let Cell { column, row } = request.from;
    if !request.granted {
        return "nothing moved".into();
    }
    let mut parts = vec![match request.to {
        None => format!("{name} has left the board"),
        Some(to) => format!("{name} {column},{row} to {},{}", to.column, to.row),
    }];
    parts.extend(request.shoved.iter().map(|shoved| {
        let (from, to) = (shoved.from, shoved.to);
        format!("{} {},{} to {},{}", book.kind(shoved.kind).name, from.column, from.row, to.column, to.row)
    }));
    parts.join(", ")
}

/// An action with its cells and its answer: `swap 1,1 2,1 refused: between two layers`.
pub fn action(action: &ActionReport) -> String {
    let mut text = action.action.to_owned();
    for cell in &action.cells {
        let _ = write!(text, " {},{}", cell.column, cell.row);
    }
    text.push_str(if action.granted { " granted" } else { " refused" });
    if let Some(size) = action.size {
        let _ = write!(text, ": {}", counted(size as usize, "cell"));
    }
    if let Some(rings) = &action.rings {
        let _ = write!(text, " in {}", counted(rings.ends.len(), "ring"));
    }
    if let Some(why) = &action.reason {
        let _ = write!(text, ": {why}");
    }
    text
}

/// The one fact that decided a request: the check that refused, else the clause that let it in, else where it went.
fn fact(asked: &Request, book: &Rulebook, extent: Extent) -> String {
    let deciding = asked.reason.and_then(|reason| asked.checks.get(reason));
    let deciding = deciding.or_else(|| asked.checks.iter().rfind(|check| check.clause.is_some() && check.decided()));
    match deciding {
        Some(check) => {
            let line = check.line(book).map_or(String::new(), |line| format!(" (line {line})"));
            format!("{}{line}", check.text(book, extent))
        }
        None => moved(asked, book),
    }
}

/// What decided a turn, and all it did: requests, what rules did besides, settling, signals, the outcome.
pub fn short(answer: &Answer, book: &Rulebook, extent: Extent) -> Vec<String> {
    let mut parts: Vec<String> = Vec::new();
    let mut asked = 0;
    for told in answer.told() {
        match told {
            Told::Rule(acted) => {
                parts.extend(acted.did.iter().filter(|deed| !deed.is_told).map(|deed| plain(&deed.text)));
            }
            Told::Request(request) => {
                asked += 1;
                if asked == 1 || !request.granted {
                    parts.push(fact(request, book, extent));
                }
            }
            Told::Action(action) => parts.push(self::action(action)),
            Told::Settled(found) => parts.push(settled(found, book)),
        }
    }
    parts.extend(answer.signals.iter().chain(&answer.notes).map(|text| plain(text)));
    match answer.left {
        None | Some(Flow::NeverSettles) => {}
        Some(Flow::Restart) => parts.push("the map begins again".into()),
        Some(Flow::NextMap) => parts.push("the end of this map".into()),
    }
    parts.extend(answer.outcome.map(|outcome| outcome.word().to_owned()));
    parts
}

/// Why an input was not taken.
pub const fn not_taken(input: &magpie_core::input::Input) -> &'static str {
    use magpie_core::input::Input;
    match input {
        Input::Undo => "nothing to take back",
        Input::Next => "`next` needs a win, and a map behind this one",
        Input::Key(_) | Input::Tap(_) | Input::Drag(..) | Input::Wait(_) | Input::Restart => "the game is over",
    }
}
