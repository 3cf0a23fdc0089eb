//! Tables of actions: keys, words and help from one place.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

/// A key with its modifiers.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Stroke {
    /// The key.
    pub code: KeyCode,
    /// Shift, for keys that are no characters.
    pub shift: bool,
    /// Control.
    pub control: bool,
}

/// A plain key.
pub const fn key(code: KeyCode) -> Stroke {
    Stroke { code, shift: false, control: false }
}

/// A character.
pub const fn char(character: char) -> Stroke {
    key(KeyCode::Char(character))
}

/// A key with Shift.
pub const fn shift(code: KeyCode) -> Stroke {
    Stroke { code, shift: true, control: false }
}

/// A key that is no character, with Control.
pub const fn held(code: KeyCode) -> Stroke {
    Stroke { code, shift: false, control: true }
}

/// A character with Control.
pub const fn control(character: char) -> Stroke {
    Stroke { code: KeyCode::Char(character), shift: false, control: true }
}

impl Stroke {
    /// The stroke of an event; Shift counts only where it is not in the character already.
    pub fn of(event: &KeyEvent) -> Self {
        let character = matches!(event.code, KeyCode::Char(_));
        Self {
            code: event.code,
            shift: event.modifiers.contains(KeyModifiers::SHIFT) && !character && event.code != KeyCode::BackTab,
            control: event.modifiers.contains(KeyModifiers::CONTROL),
        }
    }

    /// The key in words.
    pub fn words(self) -> String {
        let name = match self.code {
            KeyCode::Char(' ') => "Space".into(),
            KeyCode::Char(character) => character.to_string(),
            KeyCode::Left => "←".into(),
            KeyCode::Right => "→".into(),
            KeyCode::Up => "↑".into(),
            KeyCode::Down => "↓".into(),
            KeyCode::Esc => "Esc".into(),
            KeyCode::PageUp => "PgUp".into(),
            KeyCode::PageDown => "PgDn".into(),
            KeyCode::BackTab => "Shift-Tab".into(),
            code => format!("{code:?}"),
        };
        match (self.control, self.shift) {
            (true, _) => format!("Ctrl-{name}"),
            (_, true) => format!("Shift-{name}"),
            _ => name,
        }
    }
}

/// A line of an action table.
#[derive(Clone, Debug)]
pub struct Action<M> {
    /// The keys.
    pub keys: Vec<Stroke>,
    /// A word or two for the line of keys; empty keeps it off that line.
    pub label: &'static str,
    /// A sentence for the page of keys.
    pub help: &'static str,
    /// What it asks for.
    pub message: M,
}

impl<M> Action<M> {
    /// A line of a table.
    pub fn new(keys: &[Stroke], label: &'static str, help: &'static str, message: M) -> Self {
        Self { keys: keys.to_vec(), label, help, message }
    }

    /// The same line in a table of other messages.
    pub fn map<N>(self, message: impl FnOnce(M) -> N) -> Action<N> {
        Action { keys: self.keys, label: self.label, help: self.help, message: message(self.message) }
    }
}
