//! What an edit of the rulebook changed.

use super::session::Session;
use crate::limits::MOST_CELLS_COMPARED;

impl Session {
    /// The first entry of the tape whose result is another than in an older game of the same tape; both are played again
    /// from their beginning.
    pub fn first_change(&self, old: &Self) -> Option<usize> {
        let small = |session: &Self| session.grid().board().cells() <= MOST_CELLS_COMPARED;
        let pictures = small(old) && small(self);
        // A game that ends sooner takes fewer inputs.
        let length = old.entries().len().min(self.entries().len());
        let again = |session: &Self| Self::new(session.start().clone()).ok();
        let (mut one, mut other) = (again(old)?, again(self)?);
        for at in 0..length {
            one.give(&old.entries()[at].input);
            other.give(&self.entries()[at].input);
            // Both have just been played, so that their reports are whole.
            let answers = |session: &Self| {
                let answers = session.played().last().map_or(&[][..], |entry| entry.answers.as_slice());
                let requests = answers.iter().flat_map(|answer| &answer.requests);
                let requests = requests.map(|request| (request.granted, request.from, request.to)).collect::<Vec<_>>();
                let signals = answers.iter().flat_map(|answer| answer.signals.iter().cloned()).collect::<Vec<_>>();
                (requests, signals)
            };
            let counters = |session: &Self| -> Vec<(String, i64)> {
                session.grid().counters().map(|(name, value)| (name.to_owned(), value)).collect()
            };
            if answers(&one) != answers(&other)
                || counters(&one) != counters(&other)
                || one.grid().outcome() != other.grid().outcome()
                || (pictures && one.grid().picture() != other.grid().picture())
            {
                return Some(at);
            }
        }
        (length < old.entries().len()).then_some(length)
    }

    /// The board after an entry of the tape, played again from the beginning; nothing of boards above `most` cells.
    pub fn picture_after(&self, entry: usize, most: u32) -> Vec<String> {
        if self.grid().board().cells() > most {
            return Vec::new();
        }
        let Ok(mut again) = Self::new(self.start().clone()) else {
            return Vec::new();
        };
        for played in self.entries().iter().take(entry + 1) {
            again.give(&played.input);
        }
        again.grid().picture()
    }
}
