//! What every bench promises.

use crate::desk::Desk;
use crate::desk::board::Finger;
use crate::desk::marks::Marks;
use crate::ui::Hits;
use crate::ui::action::Action;
use crate::ui::theme::Theme;
use crossterm::event::KeyEvent;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use std::fmt::Debug;

/// Work for a thread; what it tells comes back to its bench as questions.
pub type Work<A> = Box<dyn FnOnce(&mut dyn FnMut(A)) + Send>;

/// What a bench answers to a question, besides changing its state and the desk.
#[derive(Default)]
pub enum Effect<A> {
    /// Nothing more.
    #[default]
    Nothing,
    /// The rulebook is to be opened in the programmer's own editor.
    Editor,
    /// A line of the rulebook is to be shown, wherever its text is.
    Line(u32),
    /// A thread is to do this.
    Work(Work<A>),
}

impl<A: 'static> Effect<A> {
    /// The same with questions of another sort.
    pub fn map<B: 'static>(self, ask: fn(A) -> B) -> Effect<B> {
        match self {
            Self::Nothing => Effect::Nothing,
            Self::Editor => Effect::Editor,
            Self::Line(line) => Effect::Line(line),
            Self::Work(work) => Effect::Work(Box::new(move |tell| work(&mut |told| tell(ask(told))))),
        }
    }
}

/// Something that has happened.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum News {
    /// The bench has come in front.
    Entered,
    /// Another one has.
    Left,
    /// The rulebook's text or the map is another.
    Text,
    /// The game has gone on or back.
    Game,
}

/// What comes to a bench before any table of keys.
#[derive(Clone, Copy, Debug)]
pub enum Raw<'a> {
    /// A key: pressed, or, where the terminal tells it, released.
    Key(&'a KeyEvent),
    /// Pasted text.
    Paste(&'a str),
}

/// A bench: it owns its state and knows the rest as a desk.
pub trait Bench: Default + Debug {
    /// What its keys and the mouse ask for.
    type Ask: Clone + Debug + Send + 'static;

    /// The word on its tab; whose its changes of the text are.
    const TITLE: &'static str;

    /// Its own keys, on the page of it that is in front.
    fn actions(&self) -> Vec<Action<Self::Ask>>;

    /// Does what is asked.
    fn ask(&mut self, desk: &mut Desk, ask: Self::Ask) -> Effect<Self::Ask>;

    /// Draws it; gives what was drawn where. Drawing changes nothing.
    fn render(&self, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Self::Ask>;

    /// Keys while it types, and pasted text; `None` where it has no use for them now.
    fn raw(&mut self, _desk: &mut Desk, _raw: Raw) -> Option<Effect<Self::Ask>> {
        None
    }

    /// The keys of typing, for the line of keys; none while nothing is typed.
    fn typing(&self) -> &'static [(&'static str, &'static str)] {
        &[]
    }

    /// Something has happened.
    fn news(&mut self, _desk: &mut Desk, _news: News) -> Effect<Self::Ask> {
        Effect::Nothing
    }

    /// The mouse on the board.
    fn finger(&mut self, desk: &mut Desk, finger: Finger) {
        desk.point_at(finger);
    }

    /// What it wants to be marked on the board.
    fn marks(&self, desk: &Desk) -> Marks {
        desk.marks()
    }

    /// Scrolls what it shows.
    fn scroll(&mut self, _lines: i32) {}

    /// Closes what is open on it; false where nothing is.
    fn close(&mut self, _desk: &mut Desk) -> bool {
        false
    }

    /// Whether the arrows are the game's here, and its time passes.
    fn plays(&self) -> bool {
        false
    }

    /// Whether it shows the rulebook's mistakes itself.
    fn shows_mistakes(&self) -> bool {
        false
    }

    /// Whether something on it moves with the clock and wants to know when keys go up.
    fn is_live(&self) -> bool {
        false
    }

    /// The workbench's clock goes on.
    fn tick(&mut self, _desk: &mut Desk) {}

    /// Whether it has something that is not saved, besides its changes of the text.
    fn is_unsaved(&self) -> bool {
        false
    }
}
