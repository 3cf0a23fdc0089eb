//! What a program said beside the model, in words.

use super::{counted, plain};
use magpie_core::rulebook::Rulebook;
use magpie_core::space::{Cell, show};
use magpie_core::trace::{Explained, Fact, Fault};

fn cell_words(cell: Option<Cell>) -> String {
    cell.map_or("gone".into(), |cell| format!("{},{}", cell.column, cell.row))
}

/// What a fact says, line by line.
pub fn fact_words(fact: &Fact, book: &Rulebook) -> Vec<String> {
    match fact {
        Fact::Cell(cell) => vec![cell_words(*cell)],
        Fact::Index(index) => vec![index.map_or("none".into(), |index| index.to_string())],
        Fact::Xy(xy) => vec![xy.map_or("gone".into(), |(x, y)| format!("{},{} px", show(x), show(y)))],
        Fact::Board(rows) => rows.iter().map(|row| plain(row)).collect(),
        Fact::Pieces(pieces) if pieces.is_empty() => vec!["none".into()],
        Fact::Pieces(pieces) => {
            let piece = |(kind, cell, id): &(_, Cell, Option<String>)| {
                let id = id.as_ref().map_or(String::new(), |id| format!(" ({})", plain(id)));
                format!("{} at {},{}{id}", book.kind(*kind).name, cell.column, cell.row)
            };
            const SHOWN: usize = 12;
            let mut lines: Vec<String> = pieces.iter().take(SHOWN).map(piece).collect();
            if pieces.len() > SHOWN {
                lines.push(format!("and {} more", pieces.len() - SHOWN));
            }
            lines
        }
        Fact::Counters(counters) => counters.iter().map(|(name, value)| format!("{} {value}", plain(name))).collect(),
        Fact::Granted(granted) => vec![if *granted { "granted".into() } else { "refused".into() }],
        Fact::Outcome(outcome) => vec![outcome.map_or("not over".into(), |ended| ended.word().into())],
        Fact::Dealt(why) if why.is_empty() => vec!["said so".into()],
        Fact::Dealt(why) => vec![plain(why)],
    }
}

/// A mistake, or two, as a sentence.
pub fn explanation_words(explained: &Explained, book: &Rulebook) -> String {
    let first = explained.slipped.says(book);
    match &explained.with {
        None => first,
        Some(with) => format!("{first}; and {}", with.says(book)),
    }
}

/// How much of a log an explanation covers.
pub fn coverage_words(explained: &Explained) -> String {
    let reports = counted(explained.explains, "report");
    if explained.is_whole {
        format!("explains all {reports}")
    } else {
        format!("explains {reports}: nothing explains all")
    }
}

/// What is wrong with a program itself.
pub fn fault_words(fault: &Fault) -> String {
    match fault {
        Fault::Ended => "the program has ended where a report was due".into(),
        Fault::Silent => "no report came for 5 s: does it flush its output behind every line?".into(),
        Fault::Flood => "it printed a line of more than 1 MiB".into(),
        Fault::NotJson(why) => plain(why),
        Fault::Unsteady => "it answers the same sequence differently a second time".into(),
        Fault::Restart => "it differs only where it has played before: `restart` does not bring everything back".into(),
        Fault::Halted => "it was stopped".into(),
        Fault::NoStart(why) => format!("it cannot be started: {}", plain(why)),
    }
}
