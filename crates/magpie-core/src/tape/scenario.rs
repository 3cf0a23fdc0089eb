//! Running a scenario of a rulebook.

use super::session::{Session, Start};
use crate::grid::{Ended, LayoutError, Taken};
use crate::rulebook::{Expect, Rulebook, Scenario, Scene};
use std::sync::Arc;

/// An expectation that was not met.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Failure {
    /// Its line, from 1.
    pub line: u32,
    /// What was expected and what was found.
    pub message: String,
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
    let start =
        Start { book: book.clone(), map: scenario.map.clone().map(Arc::new), seed: scenario.seed, endless: true };
    let mut session = Session::new(start)?;
    let mut failures = Vec::new();
    for (line, scene) in &scenario.scenes {
        match scene {
            Scene::Inputs(inputs) => {
                for input in inputs {
                    let before = session.position();
                    if session.give(input) == Taken::No
                        && let Some(limit) = session.limit()
                    {
                        failures.push(Failure { line: *line, message: limit });
                        break;
                    }
                    let new = session.played().get(before..).unwrap_or_default();
                    if let Some(broken) = new.iter().find_map(|entry| entry.broken) {
                        let rule = &book.invariants[broken].at;
                        let message = format!("after `{input}`: `{}` of line {} does not hold", rule.text, rule.line);
                        failures.push(Failure { line: *line, message });
                    }
                }
            }
            Scene::Expect(expect) => {
                if let Some(message) = unmet(&session, expect) {
                    failures.push(Failure { line: *line, message });
                }
            }
        }
    }
    Ok(ScenarioReport { title: scenario.title.clone(), line: scenario.line, failures })
}

/// Why an expectation is not met, `None` when it is.
fn unmet(session: &Session, expect: &Expect) -> Option<String> {
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
    (!met).then(|| format!("expected {wanted}; found {found}"))
}

fn counters(session: &Session) -> String {
    let counters: Vec<String> = session.grid().counters().map(|(name, value)| format!("{name} {value}")).collect();
    if counters.is_empty() { "that it does not".into() } else { format!("{} on this board", counters.join(", ")) }
}
