//! Mending what a flood of input has torn: where the terminal's buffer ends between an escape and the rest of a key's
//! sequence, the parts come in as keys of their own.

use crossterm::event::{Event, KeyCode, KeyEvent, KeyModifiers};

/// Takes events as they come and gives them whole.
#[derive(Debug, Default)]
pub struct Mender {
    /// An escape and what came behind it, as long as that may still be a sequence.
    torn: Vec<Event>,
}

/// The plain character of an event.
fn character(event: &Event) -> Option<char> {
    match event {
        Event::Key(KeyEvent { code: KeyCode::Char(character), modifiers, .. })
            if modifiers.difference(KeyModifiers::SHIFT).is_empty() =>
        {
            Some(*character)
        }
        _ => None,
    }
}

fn is_escape(event: &Event) -> bool {
    matches!(event, Event::Key(KeyEvent { code: KeyCode::Esc, modifiers: KeyModifiers::NONE, .. }))
}

/// The key of a sequence, by what stands behind its escape.
fn key_of(sequence: &str) -> Option<KeyCode> {
    Some(match sequence {
        "[A" => KeyCode::Up,
        "[B" => KeyCode::Down,
        "[C" => KeyCode::Right,
        "[D" => KeyCode::Left,
        "[H" | "[1~" => KeyCode::Home,
        "[F" | "[4~" => KeyCode::End,
        "[Z" => KeyCode::BackTab,
        "[3~" => KeyCode::Delete,
        "[5~" => KeyCode::PageUp,
        "[6~" => KeyCode::PageDown,
        _ => return None,
    })
}

impl Mender {
    /// Whether it matters with this event if another one is there already.
    pub fn waits_for(&self, event: &Event) -> bool {
        !self.torn.is_empty() || is_escape(event)
    }

    /// Takes an event; `more` tells whether another one is there already. Gives what is whole by now.
    pub fn take(&mut self, event: Event, more: bool) -> Vec<Event> {
        self.torn.push(event);
        if !is_escape(&self.torn[0]) {
            return std::mem::take(&mut self.torn);
        }
        let behind: Option<String> = self.torn[1..].iter().map(character).collect();
        let Some(sequence) = behind.filter(|text| text.is_empty() || text.starts_with('[')) else {
            return self.give_up(more);
        };
        // The byte that ends a sequence; the bracket at its beginning is none.
        let ends = sequence.chars().skip(1).last().is_some_and(|last| ('@'..='~').contains(&last));
        if ends {
            let torn = std::mem::take(&mut self.torn);
            // One that is no key is better passed over than typed.
            return match key_of(&sequence) {
                Some(code) => vec![Event::Key(KeyEvent::new(code, KeyModifiers::NONE))],
                None if sequence.len() > 2 => Vec::new(),
                None => torn,
            };
        }
        if more { Vec::new() } else { std::mem::take(&mut self.torn) }
    }

    /// It was an escape after all; what came behind it may be the next one.
    fn give_up(&mut self, more: bool) -> Vec<Event> {
        let last = self.torn.pop();
        let mut whole = std::mem::take(&mut self.torn);
        whole.extend(last.into_iter().flat_map(|last| self.take(last, more)));
        whole
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const fn key(code: KeyCode) -> Event {
        Event::Key(KeyEvent::new(code, KeyModifiers::NONE))
    }

    /// The events of a text as a terminal tells them when every byte comes alone.
    fn mended(text: &str, alone: bool) -> Vec<Event> {
        let mut mender = Mender::default();
        let events: Vec<Event> =
            text.chars().map(|c| key(if c == '\u{1b}' { KeyCode::Esc } else { KeyCode::Char(c) })).collect();
        let last = events.len() - 1;
        events.into_iter().enumerate().flat_map(|(at, event)| mender.take(event, !alone && at < last)).collect()
    }

    #[test]
    fn torn_keys_are_whole_again_and_an_escape_alone_is_one() {
        let table: [(&str, &[KeyCode]); 7] = [
            ("\u{1b}[C", &[KeyCode::Right]),
            ("\u{1b}[Cx\u{1b}[5~", &[KeyCode::Right, KeyCode::Char('x'), KeyCode::PageUp]),
            ("\u{1b}", &[KeyCode::Esc]),
            ("\u{1b}\u{1b}[A", &[KeyCode::Esc, KeyCode::Up]),
            ("\u{1b}x[C", &[KeyCode::Esc, KeyCode::Char('x'), KeyCode::Char('['), KeyCode::Char('C')]),
            ("[C", &[KeyCode::Char('['), KeyCode::Char('C')]),
            ("\u{1b}[<0;3;4Mq", &[KeyCode::Char('q')]),
        ];
        for (text, codes) in table {
            let wanted: Vec<Event> = codes.iter().map(|code| key(*code)).collect();
            assert_eq!(mended(text, false), wanted, "{text:?}");
        }
        // Keys that a person presses one after the other are what they are.
        assert_eq!(mended("\u{1b}[C", true), [KeyCode::Esc, KeyCode::Char('['), KeyCode::Char('C')].map(key));
    }

    proptest! {
        /// Without an escape nothing is changed, and nothing is kept back for ever.
        #[test]
        fn what_is_not_torn_stays(text in "[a-z\\[\\]0-9]{1,20}", escape in any::<bool>()) {
            let plain: Vec<Event> = text.chars().map(|c| key(KeyCode::Char(c))).collect();
            prop_assert_eq!(mended(&text, false), plain);
            let mut mender = Mender::default();
            let more = mender.take(key(KeyCode::Esc), escape);
            prop_assert_eq!(more.is_empty(), escape);
            let rest = mender.take(Event::FocusGained, false);
            prop_assert_eq!(rest.len() + more.len(), 2);
        }
    }
}
