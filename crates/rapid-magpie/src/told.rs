//! What a turn did, in short words for screens and drawings.

use crate::cli::source::{counted, plain};
use magpie_core::grid::{Answer, Counts, Settled};
use magpie_core::rulebook::{Match, Rulebook};
use magpie_core::space::Extent;
use magpie_core::tape::Entry;

/// What a `when` rule found and changed.
pub fn settled(settled: &Settled, book: &Rulebook) -> String {
    let when = &book.whens[settled.rule];
    let count = settled.found;
    let pieces = counted(settled.pieces, "piece");
    let found = match &when.what {
        Match::Full { row: true, .. } => counted(count, "full row"),
        Match::Full { row: false, .. } => counted(count, "full column"),
        Match::Run { .. } => format!("{} of {pieces}", counted(count, "run")),
        Match::Patch { .. } if count == 1 => format!("1 patch of {pieces}"),
        Match::Patch { .. } => format!("{count} patches of {pieces}"),
        Match::On { .. } if count == 1 => "1 match".into(),
        Match::On { .. } => format!("{count} matches"),
    };
    let Counts { gone, moved, new, turned } = settled.counts;
    let parts = [(gone, "gone"), (moved, "moved"), (new, "new"), (turned, "turned")];
    let done: Vec<String> =
        parts.iter().filter(|(count, _)| *count > 0).map(|(count, what)| format!("{count} {what}")).collect();
    if done.is_empty() { found } else { format!("{found}: {}", done.join(", ")) }
}

/// The one fact that decided an answer: the check that refused, else the clause that let it in, else where it went.
fn request(answer: &Answer, book: &Rulebook, extent: Extent) -> Option<String> {
    let asked = answer.requests.first()?;
    let deciding = asked.reason.and_then(|reason| asked.checks.get(reason));
    let deciding = deciding.or_else(|| asked.checks.iter().rfind(|check| check.clause.is_some() && !check.abandoned));
    if let Some(check) = deciding {
        let line = check.line(book).map_or(String::new(), |line| format!(" (line {line})"));
        return Some(format!("{}{line}", check.text(book, extent)));
    }
    let (from, name) = (asked.from, &book.kind(asked.kind).name);
    asked.to.map(|to| format!("{name} {},{} to {},{}", from.column, from.row, to.column, to.row))
}

/// What decided the turns of an input: requests, settling, signals, the outcome.
pub fn entry(entry: &Entry, book: &Rulebook, extent: Extent) -> String {
    let mut parts: Vec<String> = Vec::new();
    for answer in &entry.answers {
        parts.extend(request(answer, book, extent));
        for action in answer.actions.iter().filter(|action| answer.requests.is_empty() || !action.granted) {
            let why = action.reason.as_ref().map_or(String::new(), |why| format!(": {why}"));
            let size = action.size.map_or(String::new(), |size| format!(", {}", counted(size as usize, "cell")));
            parts.push(format!("{}{why}{size}", action.action));
        }
        parts.extend(answer.settled.iter().map(|found| settled(found, book)));
        parts.extend(answer.signals.iter().map(|signal| plain(signal)));
        parts.extend(answer.outcome.map(|outcome| outcome.word().to_owned()));
    }
    parts.dedup();
    if parts.is_empty() { "nothing changed".into() } else { parts.join("; ") }
}

/// Whether the first request of an input was refused, or an action of it where nobody asked.
pub fn is_refused(entry: &Entry) -> bool {
    let request = entry.answers.iter().flat_map(|answer| &answer.requests).next();
    let action = entry.answers.iter().flat_map(|answer| &answer.actions).next();
    request.map_or_else(|| action.is_some_and(|action| !action.granted), |request| !request.granted)
}
