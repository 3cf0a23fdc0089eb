use super::{Row, changed, rows};
use crate::bench::tests::loaded;
use magpie_core::pace::Settings;
use magpie_core::rulebook::edit::set_pace;
use magpie_core::rulebook::{KindId, Rulebook};
use proptest::prelude::*;

const HEAD: &str = "game \"P\"\ncell 24 px\nkinds\n  ada A body\nmap \"M\"\n  A__\ncontrol ada with arrows\n";

fn book(source: &str) -> Rulebook {
    let reading = loaded(source).reading;
    assert!(!reading.has_errors(), "{:?}\n{source}", reading.diagnostics);
    reading.rulebook.unwrap()
}

fn settings(source: &str) -> Settings {
    Settings::of_kind(&book(source), KindId(0))
}

const CELL: (f64, f64) = (24.0, 24.0);

/// The settings with one of their rows changed.
fn turned(settings: &Settings, row: usize, by: i32) -> (Row, Settings) {
    let row = rows(settings)[row % rows(settings).len()];
    (row, changed(settings, row, by, CELL))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, ..ProptestConfig::default() })]

    /// Whatever the keys make of a pace can be written, and is read back as it was; nothing else in the file changes.
    #[test]
    fn what_is_changed_is_written_and_read_back(
        turns in prop::collection::vec((0..20_usize, prop::sample::select(vec![-10, -1, 1, 10])), 0..30),
        written in prop::sample::select(vec![
            "", "pace\n  instant\n", "pace ada\n  timed 250 ms, linear // slow\n  hold continuous\n",
            "pace\n  rate 96 px/s, ease-in, while moving queued 2\n",
            "pace\n  lean 80 ms\n", "pace\n  free 120 px/s\n  slack 4 px, body 14 px\n  lined up by 16 px // slow\n",
            "pace\n  free 4 cells/s, slack 1 px, lined up by 8 px\n",
        ]),
        ends in prop::sample::select(vec!["\n", "\r\n"]),
    ) {
        let source = format!("{HEAD}{written}").replace('\n', ends);
        let own = settings(&source);
        let new = turns.into_iter().fold(own.clone(), |settings, (row, by)| turned(&settings, row, by).1);
        let changes = new.changes_from(&own);
        let who = (!written.starts_with("pace\n")).then_some("ada");
        let edited = if changes.is_empty() { source.clone() } else { set_pace(&source, who, &changes) };
        prop_assert_eq!(settings(&edited).clauses(), new.clauses(), "{}", edited);
        prop_assert!(edited.starts_with(&HEAD.replace('\n', ends)));
        prop_assert_eq!(edited.matches('\n').count(), edited.matches(ends).count(), "one sort of line ends");
        prop_assert_eq!(edited.contains("// slow"), written.contains("// slow"), "comments stay");
    }

    /// A value left is come back to, and every row has another value to offer.
    #[test]
    fn a_step_there_and_back_is_where_it_began(turns in prop::collection::vec((0..20_usize, prop::sample::select(vec![-1, 1])), 0..20)) {
        let mut now = settings(&format!("{HEAD}pace\n  timed 200 ms\n"));
        for (row, by) in turns {
            let (row, there) = turned(&now, row, by);
            // What may be left out begins at a usual number, and a body at the size of a cell.
            let numbers = [Row::Number, Row::Mode, Row::Lean, Row::Width, Row::Height, Row::Slack, Row::Lined];
            if !numbers.contains(&row) {
                prop_assert_eq!(changed(&there, row, -by, CELL).clauses(), now.clauses(), "{:?}", row);
                prop_assert_ne!(there.clauses(), now.clauses(), "{:?}", row);
            }
            now = there;
        }
    }
}
