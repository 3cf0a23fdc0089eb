//! The benches beside the board.

pub mod pace;
pub mod play;
pub mod probe;

use crate::stage::action::{Action, Message};
use crate::stage::state::State;
use crate::stage::theme::Theme;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

/// Which bench is in front.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Bench {
    /// Moves and their answers.
    Play,
    /// One position in every space.
    Probe,
    /// Motion between two cells.
    Pace,
}

impl Bench {
    /// All benches in the order of their tabs.
    pub const ALL: [Self; 3] = [Self::Play, Self::Probe, Self::Pace];

    /// The word on the tab.
    pub const fn title(self) -> &'static str {
        match self {
            Self::Play => "Play",
            Self::Probe => "Probe",
            Self::Pace => "Pace",
        }
    }

    /// The bench's own keys, on the page of it that is in front.
    pub fn actions(self, page: probe::Page) -> Vec<Action> {
        match self {
            Self::Play => play::actions(),
            Self::Probe => probe::actions(page),
            Self::Pace => pace::actions(),
        }
    }

    /// Draws the bench; gives what was drawn where for the mouse.
    pub fn render(self, state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) -> Vec<(Rect, Message)> {
        match self {
            Self::Play => play::render(state, theme, area, buffer),
            Self::Probe => probe::render(state, theme, area, buffer),
            Self::Pace => pace::render(state, theme, area, buffer),
        }
    }
}
