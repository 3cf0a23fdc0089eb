//! Running a scenario of a rulebook.

use super::session::{Session, Start};
use crate::grid::{Ended, LayoutError, Taken};
use crate::rulebook::{Cond, Expect, Rulebook, Scenario, Scene};
use std::sync::Arc;

/// An expectation that was not met.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Failure {
    /// Its line, from 1.
    pub line: u32,
    /// What was expected and what was found.
    pub message: String,
    /// What was expected, line by line: the rows of a board where one was drawn.
    pub expected: Vec<String>,
    /// What was found instead.
    pub found: Vec<String>,
    /// The board as it stood, where `found` is none.
    pub board: Vec<String>,
}

impl Failure {
    /// A failure in words, with the board as it stands.
    fn of(line: u32, message: &str, session: &Session) -> Self {
        let message = format!("{message}{}", moved_on(session));
        Self { line, message, board: session.grid().picture(), ..Self::default() }
    }

    /// The message, and under it the board where it is not in it already.
    pub fn whole(&self) -> String {
        if self.board.is_empty() {
            return self.message.clone();
        }
        format!("{}\n{}", self.message, self.board.join("\n"))
    }
}

/// What became of a scenario.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ScenarioReport {
    /// Its title.
    pub title: String,
    /// Its line, from 1.
    pub line: u32,
    /// What was not met; nothing when it passed.
    pub failures: Vec<Failure>,
}

/// Plays a scenario and looks at everything it expects; invariants are looked at after every turn.
///
/// # Errors
/// A [`LayoutError`] where its board cannot be entered.
pub fn run_scenario(book: &Arc<Rulebook>, scenario: &Scenario) -> Result<ScenarioReport, LayoutError> {
    let mut session = Session::new(scenario_start(book, scenario))?;
    let mut failures = Vec::new();
    for (line, scene) in &scenario.scenes {
        match scene {
            Scene::Inputs(inputs) => {
                for input in inputs {
                    let before = session.position();
                    if session.give(input) == Taken::No
                        && let Some(limit) = session.limit()
                    {
                        failures.push(Failure::of(*line, &limit, &session));
                        break;
                    }
                    let new = session.played().get(before..).unwrap_or_default();
                    if let Some(broken) = new.iter().find_map(|entry| entry.broken) {
                        let rule = &book.invariants[broken].at;
                        let sides = sides(&session, &book.invariants[broken].cond);
                        let message =
                            format!("after `{input}`: `{}` of line {} does not hold: {sides}", rule.text, rule.line);
                        failures.push(Failure::of(*line, &message, &session));
                    }
                }
            }
            Scene::Expect(expect) => {
                failures.extend(unmet(&session, expect, *line));
            }
        }
    }
    Ok(ScenarioReport { title: scenario.title.clone(), line: scenario.line, failures })
}

/// Why an expectation is not met, `None` when it is.
fn unmet(session: &Session, expect: &Expect, line: u32) -> Option<Failure> {
    let book = session.grid().book();
    let grid = session.grid();
    let outcome = || {
        let words = [Ended::Won, Ended::Lost].into_iter().find(|outcome| session.ever(*outcome));
        words.map_or("unfinished", Ended::word)
    };
    let last = session.last_request();
    let answer = || match last {
        None => String::from("nothing has asked"),
        Some(request) if request.granted => {
            format!("the last request, of `{}`, was granted", book.kind(request.kind).name)
        }
        Some(request) => {
            let reason = request.reason.and_then(|check| request.checks.get(check));
            let text = reason.map(|check| check.text(book, grid.board().extent())).unwrap_or_default();
            format!("the last request, of `{}`, was refused: {text}", book.kind(request.kind).name)
        }
    };
    let (met, wanted, found) = match expect {
        Expect::Granted => (last.is_some_and(|request| request.granted), "granted".into(), answer()),
        Expect::Refused(by) => {
            let refusal = last.filter(|request| !request.granted).and_then(|request| request.refusal);
            let met = refusal.is_some_and(|reason| by.is_none_or(|(who, met)| reason.is_meeting(book, who, met)));
            (met, "refused, as written".into(), answer())
        }
        Expect::Won => (session.ever(Ended::Won), "won".into(), outcome().into()),
        Expect::Lost => (session.ever(Ended::Lost), "lost".into(), outcome().into()),
        Expect::Unfinished => {
            (!session.ever(Ended::Won) && !session.ever(Ended::Lost), "unfinished".into(), outcome().into())
        }
        Expect::NeverSettles => {
            let met = grid.outcome() == Some(Ended::NeverSettles);
            (met, "a turn that never settles".into(), "the last turn settled".into())
        }
        Expect::Signal(text) => {
            let told: Vec<&String> = session.signals().collect();
            let found = if told.is_empty() { "no signal".into() } else { format!("signals {told:?}") };
            (told.contains(&text), format!("the signal `{text}`"), found)
        }
        Expect::Cond(cond) => (grid.holds(cond), format!("`{}`", book.cond_words(cond)), sides(session, cond)),
        Expect::Drawn(rows) => {
            let board = grid.picture();
            let same = *rows == board;
            (same, format!("\n{}", rows.join("\n")), format!("\n{}", board.join("\n")))
        }
    };
    if met {
        return None;
    }
    let message = format!("expected {wanted}; found {found}");
    Some(match expect {
        Expect::Drawn(rows) => Failure {
            line,
            message: format!("{message}{}", moved_on(session)),
            expected: rows.clone(),
            found: grid.picture(),
            board: Vec::new(),
        },
        Expect::Cond(cond) => {
            let sides = grid.parts(cond).into_iter().map(|(text, _)| text).chain(counters(session)).collect();
            Failure { expected: vec![book.cond_words(cond)], found: sides, ..Failure::of(line, &message, session) }
        }
        Expect::Granted
        | Expect::Refused(_)
        | Expect::Won
        | Expect::Lost
        | Expect::Unfinished
        | Expect::Signal(_)
        | Expect::NeverSettles => {
            Failure { expected: vec![wanted], found: vec![found], ..Failure::of(line, &message, session) }
        }
    })
}

/// Every comparison of a condition with the numbers of both sides.
fn sides(session: &Session, cond: &Cond) -> String {
    let parts: Vec<String> = session.grid().parts(cond).into_iter().map(|(text, _)| text).collect();
    parts.join(", ")
}

/// Where the game has gone on to another map than it began on.
fn moved_on(session: &Session) -> String {
    let grid = session.grid();
    match session.start().map {
        Err(began) if began != grid.map() => {
            format!("; the game has moved on to map {} \"{}\"", grid.map() + 1, grid.map_title())
        }
        _ => String::new(),
    }
}

/// The start of a scenario: its board, its seed; play goes on after a win or a loss.
pub fn scenario_start(book: &Arc<Rulebook>, scenario: &Scenario) -> Start {
    Start { book: book.clone(), map: scenario.map.clone().map(Arc::new), seed: scenario.seed, endless: true }
}

/// The counters as they stand.
fn counters(session: &Session) -> Option<String> {
    let counters: Vec<String> = session.grid().counters().map(|(name, value)| format!("{name} {value}")).collect();
    (!counters.is_empty()).then(|| counters.join(", "))
}
