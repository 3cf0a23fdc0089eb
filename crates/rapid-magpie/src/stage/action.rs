//! Keys, messages and help from one table a bench.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use magpie_core::tape::Input;

/// What a key or the mouse asks for.
#[derive(Clone, Debug, PartialEq)]
pub enum Message {
    /// An input of the game.
    Play(Input),
    /// Leave the workbench.
    Quit,
    /// The next bench.
    NextBench,
    /// The bench before.
    LastBench,
    /// One bench by its place.
    Bench(usize),
    /// The page of keys.
    Help,
    /// Back from a page, list or line.
    Close,
    /// What is written into the cells.
    Overlay,
    /// One turn back on the tape.
    Back,
    /// One turn forth on the tape.
    Forth,
    /// To a place on the tape.
    Go(usize),
    /// To the beginning of the tape.
    First,
    /// To its end.
    Last,
    /// To the next map.
    NextMap,
    /// Cells that can be reached now.
    Reach,
    /// The result of the last edit beside the old one.
    Difference,
    /// The tape that was cut off last.
    Branch,
    /// Scrolls the list in front.
    Scroll(i32),
    /// Something of the Pace bench.
    Pace(crate::bench::pace::Ask),
    /// Steps are drawn between cells, or at once.
    Smooth,
    /// The game's clock goes on, or stands.
    Pause,
    /// The clock goes on to the next timer.
    ClockStep,
    /// The rims count the pieces of the next kind.
    Count,
    /// The clock goes faster or slower.
    Speed(i32),
    /// Something of the Rules bench.
    Rules(crate::bench::rules::Ask),
    /// Something of the Probe bench.
    Probe(crate::bench::probe::Ask),
    /// The kept tape is taken back, or forgotten.
    Kept(bool),
    /// The stop key of the shell.
    Suspend,
}

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
pub struct Action {
    /// The keys.
    pub keys: Vec<Stroke>,
    /// A word or two for the line of keys; empty keeps it off that line.
    pub label: &'static str,
    /// A sentence for the page of keys.
    pub help: &'static str,
    /// What it asks for.
    pub message: Message,
}

impl Action {
    /// A line of a table.
    pub fn new(keys: &[Stroke], label: &'static str, help: &'static str, message: Message) -> Self {
        Self { keys: keys.to_vec(), label, help, message }
    }
}

/// The keys of every bench.
pub fn common() -> Vec<Action> {
    vec![
        Action::new(&[char('u')], "undo", "take the last input back", Message::Play(Input::Undo)),
        Action::new(&[char('r')], "restart", "begin this map again", Message::Play(Input::Restart)),
        Action::new(&[char(',')], "back", "one input back on the tape", Message::Back),
        Action::new(&[char('.')], "forth", "one input forth on the tape", Message::Forth),
        Action::new(&[char('?')], "keys", "this page", Message::Help),
        Action::new(&[key(KeyCode::Esc)], "", "close what is open", Message::Close),
        Action::new(&[key(KeyCode::Tab)], "bench", "the next bench", Message::NextBench),
        Action::new(&[char('q'), control('c')], "leave", "leave the workbench", Message::Quit),
        Action::new(
            &[char('o')],
            "overlay",
            "write content, column and row, index or nothing into the cells",
            Message::Overlay,
        ),
        Action::new(&[char('m')], "map", "open the next map with an empty tape", Message::NextMap),
        Action::new(&[key(KeyCode::Home), char('<')], "", "to the beginning of the tape", Message::First),
        Action::new(&[key(KeyCode::End), char('>')], "", "to the end of the tape", Message::Last),
        Action::new(&[char('n')], "", "after a win, on to the next map", Message::Play(Input::Next)),
        Action::new(&[char('b')], "", "go over to the tape that was cut off last", Message::Branch),
        Action::new(&[char('d')], "", "the last edit's result beside the old one", Message::Difference),
        Action::new(&[key(KeyCode::PageUp)], "", "scroll the bench up", Message::Scroll(-5)),
        Action::new(&[key(KeyCode::PageDown)], "", "scroll the bench down", Message::Scroll(5)),
        Action::new(&[key(KeyCode::BackTab)], "", "the bench before", Message::LastBench),
        Action::new(&[control('z')], "", "stop, back to the shell", Message::Suspend),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench::{Bench, Front, probe, rules};

    #[test]
    fn no_key_has_two_meanings_and_every_action_says_what_it_does() {
        let fronts = probe::Page::ALL.map(|probe| Front { probe, ..Front::default() }).into_iter();
        let fronts = fronts.chain(rules::Page::ALL.map(|rules| Front { rules, ..Front::default() }));
        let pages = fronts.flat_map(|front| Bench::ALL.map(|bench| (bench, front)));
        for (bench, front) in pages {
            let actions: Vec<Action> = bench.actions(front).into_iter().chain(common()).collect();
            let mut seen: Vec<(Stroke, &str)> = Vec::new();
            for action in &actions {
                assert!(!action.keys.is_empty() && !action.help.is_empty(), "{action:?}");
                for stroke in &action.keys {
                    let twin = seen.iter().find(|(known, _)| known == stroke);
                    assert!(twin.is_none(), "{} is both `{}` and `{}`", stroke.words(), twin.unwrap().1, action.help);
                    seen.push((*stroke, action.help));
                }
            }
        }
    }
}
