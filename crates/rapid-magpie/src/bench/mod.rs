//! The benches beside the board.

pub mod pace;
pub mod play;
pub mod probe;
pub mod rules;
mod tabs;

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
    /// The rulebook's text, who meets what, the settling.
    Rules,
}

/// The pages in front on the benches that have some with keys of their own.
#[derive(Clone, Copy, Debug, Default)]
pub struct Front {
    /// Of the Probe.
    pub probe: probe::Page,
    /// Of the Rules bench.
    pub rules: rules::Page,
}

impl Bench {
    /// All benches in the order of their tabs.
    pub const ALL: [Self; 4] = [Self::Play, Self::Probe, Self::Pace, Self::Rules];

    /// The word on the tab.
    pub const fn title(self) -> &'static str {
        match self {
            Self::Play => "Play",
            Self::Probe => "Probe",
            Self::Pace => "Pace",
            Self::Rules => "Rules",
        }
    }

    /// The bench's own keys, on the page of it that is in front.
    pub fn actions(self, front: Front) -> Vec<Action> {
        match self {
            Self::Play => play::actions(),
            Self::Probe => probe::actions(front.probe),
            Self::Pace => pace::actions(),
            Self::Rules => rules::actions(front.rules),
        }
    }

    /// Draws the bench; gives what was drawn where for the mouse.
    pub fn render(self, state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) -> Vec<(Rect, Message)> {
        match self {
            Self::Play => play::render(state, theme, area, buffer),
            Self::Probe => probe::render(state, theme, area, buffer),
            Self::Pace => pace::render(state, theme, area, buffer),
            Self::Rules => rules::render(state, theme, area, buffer),
        }
    }
}
