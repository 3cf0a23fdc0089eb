//! What a search of every state has found, in words.

use super::counted;
use magpie_core::input::Input;
use magpie_core::proof::{Happens, Limit, Progress, Promise, Report};
use magpie_core::space::Cell;
use std::time::Duration;

/// A tape: how long it is, and its inputs.
pub fn tape(tape: &[Input]) -> String {
    if tape.is_empty() {
        return "no input at all".into();
    }
    let words: Vec<String> = tape.iter().map(Input::to_string).collect();
    format!("{}: {}", counted(tape.len(), "input"), words.join(" "))
}

/// Cells: how many, and which.
pub fn cells(cells: &[Cell]) -> String {
    if cells.is_empty() {
        return "none".into();
    }
    let words: Vec<String> = cells.iter().map(|cell| format!("{},{}", cell.column, cell.row)).collect();
    format!("{}: {}", counted(cells.len(), "cell"), words.join(" "))
}

/// A share of all states: a few of very many are not none of them.
pub fn percent(share: f64) -> String {
    match share * 100.0 {
        0.0 => "0 %".into(),
        100.0 => "100 %".into(),
        percent if percent < 0.1 => "< 0.1 %".into(),
        percent if percent > 99.9 => "> 99.9 %".into(),
        percent => format!("{percent:.1} %"),
    }
}

/// Whether something can happen.
pub fn happens(happens: &Happens) -> String {
    match (happens.possible, &happens.tape) {
        (Some(true), found) => format!("after {}", tape(found.as_deref().unwrap_or_default())),
        (Some(false), _) => "never".into(),
        (None, _) => "not known: not so far".into(),
    }
}

/// The mark of a promise, and what breaks it.
pub fn promise(promise: &Promise) -> (&'static str, String) {
    match (promise.holds, &promise.tape) {
        (Some(true), _) => ("✓", String::new()),
        (Some(false), found) => ("✗", format!("broken after {}", tape(found.as_deref().unwrap_or_default()))),
        (None, _) => ("?", "not broken so far".into()),
    }
}

/// How much was seen.
pub fn seen(report: &Report) -> String {
    let scope = match report.limit {
        None => "all that can be reached".into(),
        Some(Limit::Answered) => "as far as the answer".into(),
        Some(Limit::Stopped) => "stopped before the end".into(),
        Some(limit @ (Limit::States | Limit::Memory | Limit::Seconds)) => {
            format!("as far as the limit of {}", limit.word().unwrap_or_default())
        }
    };
    let mean = report.edges as f64 / f64::from(report.states);
    let (states, depth) = (counted(report.states as usize, "state"), report.depth());
    format!("{states}, {scope}; {} edges, {mean:.2} a state, depth {depth}", report.edges)
}

/// What is known of the shortest ways to win, besides the first.
pub fn ways(report: &Report) -> Option<String> {
    let ways = report.win.ways.map(|ways| counted(ways as usize, "shortest way"));
    let forced = report.win.forced.map(|forced| match forced {
        0 => "every state on this one has another input that still wins".into(),
        1 => "1 state on this one has a single input that still wins".into(),
        forced => format!("{forced} states on this one have a single input that still wins"),
    });
    let both: Vec<String> = ways.into_iter().chain(forced).collect();
    (!both.is_empty()).then(|| both.join("; "))
}

/// The answers, a line each.
pub fn answers(report: &Report, has_win: bool) -> Vec<String> {
    let win = match (report.win.possible, &report.win.tape) {
        (Some(true), Some(found)) => tape(found),
        (Some(false), _) if !has_win => "the rulebook has none".into(),
        (Some(false), _) => "no inputs win".into(),
        (Some(true), None) | (None, _) => "none so far, not known".into(),
    };
    let mut lines = vec![seen(report), format!("win: {win}")];
    lines.extend(ways(report));
    let all = [("lose", &report.lose), ("stuck", &report.stuck), ("never settles", &report.never_settles)];
    lines.extend(all.map(|(name, found)| format!("{name}: {}", happens(found))));
    if let Some(gone) = &report.no_way_back {
        let first = gone.tape.as_ref().map_or(String::new(), |found| format!("; the first after {}", tape(found)));
        lines.push(format!("no way back: {} of {} states, {}{first}", gone.states, report.states, percent(gone.share)));
    }
    lines
}

/// The head of a table with a row a map.
pub const HEAD: &str = "map       win ways forced depth    states  no way  title";

/// A map as a row of that table.
pub fn row(map: usize, title: &str, report: &Report) -> String {
    let number = |value: Option<u64>| value.map_or("-".to_string(), |value| value.to_string());
    let win = match (report.win.possible, &report.win.tape) {
        (Some(true), Some(tape)) => format!("in {}", tape.len()),
        (Some(false), _) => "none".into(),
        (Some(true), None) | (None, _) => "not known".into(),
    };
    let gone = report.no_way_back.as_ref().map_or("-".to_string(), |gone| percent(gone.share));
    let states = format!("{}{}", report.states, if report.is_complete() { "" } else { "+" });
    let (ways, forced, depth) = (number(report.win.ways), number(report.win.forced), report.depth());
    format!("{:>3} {win:>9} {ways:>4} {forced:>6} {depth:>5} {states:>9} {gone:>7}  {title}", map + 1)
}

/// How far a search is.
pub fn so_far(progress: Progress, time: Duration) -> String {
    let rate = f64::from(progress.states) / time.as_secs_f64().max(1e-3);
    let (states, depth, memory) = (progress.states, progress.depth, progress.bytes >> 20);
    format!("{states} states   {rate:.0} states/s   depth {depth}   {memory} MiB")
}
