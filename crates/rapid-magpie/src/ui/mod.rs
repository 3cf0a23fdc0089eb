//! What any terminal program could use: tables of actions, a typed line, tabs, the pen, the theme.

pub mod action;
pub mod line;
pub mod pen;
pub mod tabs;
pub mod theme;

use ratatui::layout::Rect;

/// What was drawn where, for the mouse.
pub type Hits<M> = Vec<(Rect, M)>;
