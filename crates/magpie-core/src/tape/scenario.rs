//! Running a scenario of a rulebook.

use super::session::{Session, Start};
use crate::grid::{Ended, LayoutError, Taken};
use crate::rulebook::{Expect, Rulebook, Scenario, Scene};
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
}

impl Failure {
    /// A failure in words alone.
    fn of(line: u32, message: String) -> Self {
        Self { line, message, expected: Vec::new(), found: Vec::new() }
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
                        failures.push(Failure::of(*line, limit));
                        break;
                    }
                    let new = session.played().get(before..).unwrap_or_default();
                    if let Some(broken) = new.iter().find_map(|entry| entry.broken) {
                        let rule = &book.invariants[broken].at;
                        let message = format!("after `{input}`: `{}` of line {} does not hold", rule.text, rule.line);
                        failures.push(Failure::of(*line, message));
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
        Expect::Cond(cond) => (grid.holds(cond), "the condition to hold".into(), counters(session)),
        Expect::Drawn(rows) => {
            let board = grid.picture();
            let same = *rows == board;
            (same, format!("\n{}", rows.join("\n")), format!("\n{}", board.join("\n")))
        }
    };
    let (expected, told): (Vec<String>, Vec<String>) = match expect {
        Expect::Drawn(rows) => (rows.clone(), grid.picture()),
        Expect::Cond(cond) => {
            let sides = grid.compared(cond).into_iter().filter(|(_, holds)| !holds);
            let sides = sides.map(|(text, _)| format!("{text} does not hold"));
            (vec![wanted.clone()], sides.chain([found.clone()]).collect())
        }
        Expect::Granted
        | Expect::Refused(_)
        | Expect::Won
        | Expect::Lost
        | Expect::Unfinished
        | Expect::Signal(_)
        | Expect::NeverSettles => (vec![wanted.clone()], vec![found.clone()]),
    };
    let message = format!("expected {wanted}; found {found}");
    (!met).then_some(Failure { line, message, expected, found: told })
}

/// The start of a scenario: its board, its seed; play goes on after a win or a loss.
pub fn scenario_start(book: &Arc<Rulebook>, scenario: &Scenario) -> Start {
    Start { book: book.clone(), map: scenario.map.clone().map(Arc::new), seed: scenario.seed, endless: true }
}

fn counters(session: &Session) -> String {
    let counters: Vec<String> = session.grid().counters().map(|(name, value)| format!("{name} {value}")).collect();
    if counters.is_empty() { "that it does not".into() } else { format!("{} on this board", counters.join(", ")) }
}
