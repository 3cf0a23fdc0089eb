//! `test`: scenarios, and invariants along tapes.

use super::Answer;
use super::source::{Ready, ready};
use super::{say, say_json};
use crate::files::{read_tape, tapes_beside, write_output};
use crate::words::{counted, plain};
use anyhow::Context;
use clap::Args;
use magpie_core::grid::Taken;
use magpie_core::tape::{Session, Start, run_scenario};
use quick_junit::{NonSuccessKind, Report, TestCase, TestCaseStatus, TestSuite};
use serde_json::{Value, json};
use std::path::{Path, PathBuf};

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebooks; tapes beside them that name them are played too.
    #[arg(required = true)]
    files: Vec<PathBuf>,
    /// Where to write a `JUnit` XML report.
    #[arg(long)]
    junit: Option<PathBuf>,
    /// One JSON document instead of text.
    #[arg(long)]
    json: bool,
}

/// One scenario or tape, and what was wrong with it.
struct Case {
    name: String,
    line: Option<u32>,
    failures: Vec<(Option<u32>, String)>,
}

/// Runs scenarios and tapes: 1 when one fails.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let mut files = Vec::new();
    for path in &options.files {
        let ready = ready(path)?;
        let cases = cases(path, &ready).with_context(|| format!("`{}`", path.display()))?;
        files.push((path.display().to_string(), cases));
    }
    if let Some(path) = &options.junit {
        write_output(path, junit(&files).to_string()?.as_bytes(), options.files.iter().map(PathBuf::as_path))?;
    }
    let failed = files.iter().flat_map(|(_, cases)| cases).filter(|case| !case.failures.is_empty()).count();
    let total: usize = files.iter().map(|(_, cases)| cases.len()).sum();
    if options.json {
        let value = json!({ "passed": total - failed, "failed": failed, "files": files.iter().map(file_json).collect::<Vec<_>>() });
        say_json(&value)?;
    } else {
        for (file, cases) in &files {
            for case in cases {
                let mark = if case.failures.is_empty() { "✓" } else { "✗" };
                say!("{mark} {file}: {}", case.name)?;
                for (line, message) in &case.failures {
                    let line = line.map_or(String::new(), |line| format!("line {line}: "));
                    say!("    {line}{}", message.replace('\n', "\n    "))?;
                }
            }
        }
        say!("{} passed, {failed} failed, of {}", total - failed, counted(total, "scenario and tape"))?;
    }
    Ok(if failed == 0 { Answer::Done } else { Answer::No })
}

fn cases(path: &Path, ready: &Ready) -> anyhow::Result<Vec<Case>> {
    let mut cases = Vec::new();
    for scenario in &ready.book.scenarios {
        let report = run_scenario(&ready.book, scenario)?;
        let failures = report.failures.into_iter().map(|failure| (Some(failure.line), failure.whole())).collect();
        cases.push(Case { name: report.title, line: Some(report.line), failures });
    }
    for tape in tapes_beside(path) {
        cases.push(tape_case(&tape, ready)?);
    }
    Ok(cases)
}

fn tape_case(path: &Path, ready: &Ready) -> anyhow::Result<Case> {
    let tape = read_tape(path)?;
    let name = path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let map = tape.header.map.checked_sub(1).context("maps count from 1")?;
    let start = Start { seed: tape.header.seed, ..Start::map(ready.book.clone(), map) };
    let mut session = Session::new(start)?;
    let mut failures = Vec::new();
    for (number, (at, input)) in tape.lines.iter().enumerate() {
        let before = session.position();
        let taken = session.give_at(*at, input)?;
        let place = format!("input {} `{input}`", number + 1);
        for entry in session.played().get(before..).unwrap_or_default() {
            if let Some(broken) = entry.broken {
                let rule = &ready.book.invariants[broken].at;
                failures.push((Some(rule.line), format!("after {place}: `{}` does not hold", rule.text)));
            }
            if entry.unsettled > 0 {
                failures.push((None, format!("{place} never settles")));
            }
        }
        if let (Taken::No, Some(limit)) = (taken, session.limit()) {
            failures.push((None, format!("{place} is not played: {limit}")));
            break;
        }
    }
    Ok(Case { name: format!("tape {name}"), line: None, failures })
}

fn file_json((file, cases): &(String, Vec<Case>)) -> Value {
    let case = |case: &Case| {
        let failures: Vec<Value> =
            case.failures.iter().map(|(line, message)| json!({ "line": line, "message": message })).collect();
        json!({ "name": case.name, "line": case.line, "passed": case.failures.is_empty(), "failures": failures })
    };
    json!({ "file": file, "cases": cases.iter().map(case).collect::<Vec<_>>() })
}

fn junit(files: &[(String, Vec<Case>)]) -> Report {
    let mut report = Report::new("rapid-magpie");
    for (file, cases) in files {
        let mut suite = TestSuite::new(plain(file));
        for case in cases {
            let mut status = TestCaseStatus::success();
            if !case.failures.is_empty() {
                status = TestCaseStatus::non_success(NonSuccessKind::Failure);
                let messages: Vec<String> = case
                    .failures
                    .iter()
                    .map(|(line, message)| match line {
                        Some(line) => format!("line {line}: {}", plain(message)),
                        None => plain(message),
                    })
                    .collect();
                status.set_message(messages.join("\n"));
            }
            suite.add_test_case(TestCase::new(plain(&case.name), status));
        }
        report.add_test_suite(suite);
    }
    report
}
