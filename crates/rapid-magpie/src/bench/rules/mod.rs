//! The Rules bench: the rulebook's text, who meets what, and the settling of the last turn.

mod editor;
mod settling;
mod table;

pub use editor::{KEYS as TYPING, key as typed, pasted};

use super::tabs::{digits, tabs};
use crate::stage::action::{Action, Message, char, control, key};
use crate::stage::draft;
use crate::stage::state::{Away, State};
use crate::stage::theme::Theme;
use crossterm::event::KeyCode;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

/// The pages of the bench, in the order of their keys.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Page {
    /// The rulebook's text.
    #[default]
    Text,
    /// Who meets what.
    Meetings,
    /// The settling of the last turn, pass by pass.
    Settling,
}

impl Page {
    /// All of them.
    pub const ALL: [Self; 3] = [Self::Text, Self::Meetings, Self::Settling];

    const fn title(self) -> &'static str {
        match self {
            Self::Text => "text",
            Self::Meetings => "who meets what",
            Self::Settling => "settling",
        }
    }
}

/// What the keys of this bench ask for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ask {
    /// A page.
    Turn(Page),
    /// The text is to be typed into.
    Type,
    /// The text is written into the file, and the tape played again.
    Save,
    /// The rulebook is opened in the programmer's own editor.
    External,
    /// The cursor goes so many lines or cells down and right.
    Move(i32, i32),
    /// The cursor goes to a cell of the table.
    Cell(usize, usize),
    /// Another verb is chosen for the pair under the cursor, or the chosen one is taken.
    Verb,
    /// A verb of the list.
    Pick(usize),
    /// The last change of the rules is taken back.
    TakeBack,
    /// The rulebook's text has changed under the bench.
    Follow,
    /// To the clause of the pair under the cursor, in the text.
    Clause,
}

/// What the bench knows besides the game.
#[derive(Debug, Default)]
pub struct Rules {
    /// The page in front.
    pub page: Page,
    editor: editor::Editor,
    table: table::Cursor,
    /// The step of the settling that is shown.
    step: usize,
}

impl Rules {
    /// Whether keys go into the text.
    pub fn is_typing(&self) -> bool {
        self.page == Page::Text && self.editor.typing
    }
}

/// The bench's own keys, on the page in front.
pub fn actions(page: Page) -> Vec<Action> {
    let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, Message::Rules(ask));
    let mut all = match page {
        Page::Text => vec![
            ask(&[key(KeyCode::Enter), char('i')], "type", "type into the text; Esc ends typing", Ask::Type),
            ask(&[key(KeyCode::Up)], "", "a line up", Ask::Move(-1, 0)),
            ask(&[key(KeyCode::Down)], "", "a line down", Ask::Move(1, 0)),
            ask(&[key(KeyCode::Left)], "", "a character to the left", Ask::Move(0, -1)),
            ask(&[key(KeyCode::Right)], "", "a character to the right", Ask::Move(0, 1)),
            ask(&[char('e')], "$EDITOR", "open the rulebook in your own editor", Ask::External),
        ],
        Page::Meetings => vec![
            ask(&[key(KeyCode::Up)], "", "the mover above", Ask::Move(-1, 0)),
            ask(&[key(KeyCode::Down)], "", "the mover below", Ask::Move(1, 0)),
            ask(&[key(KeyCode::Left)], "", "what stands left of it", Ask::Move(0, -1)),
            ask(&[key(KeyCode::Right)], "", "what stands right of it", Ask::Move(0, 1)),
            ask(&[key(KeyCode::Enter)], "verb", "choose another verb for this pair, and take it", Ask::Verb),
            ask(&[char('t')], "text", "to its clause in the text", Ask::Clause),
            ask(&[char('z')], "take back", "take the last change of the rules back", Ask::TakeBack),
        ],
        Page::Settling => vec![
            ask(&[key(KeyCode::Left), key(KeyCode::Up)], "", "the step before", Ask::Move(-1, 0)),
            ask(&[key(KeyCode::Right), key(KeyCode::Down)], "step", "the step behind", Ask::Move(1, 0)),
        ],
    };
    all.push(ask(&[control('s')], "save", "write the text into the file and play the tape again", Ask::Save));
    let helps = Page::ALL.map(|page| match page {
        Page::Text => "the rulebook's text",
        Page::Meetings => "who meets what, as a table",
        Page::Settling => "the settling of the last turn, pass by pass",
    });
    all.extend(digits(helps, |number| Message::Rules(Ask::Turn(Page::ALL[number]))));
    all
}

/// Does what a key of this bench asks for.
pub fn update(state: &mut State, ask: Ask) {
    match ask {
        Ask::Turn(page) => {
            state.rules.page = page;
            state.rules.table.choosing = None;
            state.scroll = 0;
        }
        Ask::Type => {
            editor::follow(state);
            editor::set_typing(state, true);
        }
        Ask::Follow => editor::follow(state),
        Ask::Save => save(state),
        Ask::External if is_unsaved(state) => {
            state.note = Some("there are changes that are not saved: Ctrl-s writes them first".into());
        }
        Ask::External => state.away = Some(Away::Editor),
        Ask::Move(down, right) => match state.rules.page {
            Page::Text => editor::walk(state, down, right),
            Page::Meetings => table::walk(state, down, right),
            Page::Settling => state.rules.step = state.rules.step.saturating_add_signed(down as isize),
        },
        Ask::Cell(row, column) => table::go(state, row, column),
        Ask::Verb => table::choose(state),
        Ask::Pick(verb) => table::pick(state, verb),
        Ask::TakeBack => {
            if draft::take_back(state) {
                editor::follow(state);
            } else {
                state.note = Some("no rule has been changed here".into());
            }
        }
        Ask::Clause => {
            if let Some(line) = table::line(state) {
                editor::follow(state);
                editor::to_line(state, line);
                update(state, Ask::Turn(Page::Text));
            } else {
                state.note = Some("no clause is about this pair: Enter adds one".into());
            }
        }
    }
}

/// Writes the text into the file, whatever it says, and plays the tape again.
fn save(state: &mut State) {
    match editor::text(state) {
        Some(text) if editor::is_changed(state) => editor::save(state, &text),
        _ if draft::is_changed(state) => {
            if draft::write(state) {
                state.note = Some(format!("written to {}", state.name));
            }
        }
        _ => state.note = Some("the file has this text already".into()),
    }
}

/// Whether the text on the screen is another than the file's.
pub fn is_unsaved(state: &State) -> bool {
    editor::is_changed(state) || draft::is_changed(state)
}

/// Esc: what is open on this bench is closed; false where nothing is.
pub fn close(state: &mut State) -> bool {
    if state.rules.table.choosing.take().is_some() {
        return true;
    }
    editor::set_typing(state, false)
}

/// Draws the bench.
pub fn render(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) -> Vec<(Rect, Message)> {
    let front = Page::ALL.iter().position(|page| *page == state.rules.page).unwrap_or(0);
    let turn = |number: usize| Message::Rules(Ask::Turn(Page::ALL[number]));
    let (mut hits, area) = tabs(&Page::ALL.map(Page::title), front, turn, theme, area, buffer);
    match state.rules.page {
        Page::Text => editor::render(state, theme, area, buffer),
        Page::Meetings => hits.extend(table::render(state, theme, area, buffer)),
        Page::Settling => settling::render(state, theme, area, buffer),
    }
    hits
}
