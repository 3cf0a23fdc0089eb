//! The pages of a bench, as tabs with their digits.

use super::Hits;
use super::action::{Action, char};
use super::theme::Theme;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use unicode_width::UnicodeWidthStr;

/// Draws the tabs into the first line of an area; gives what was drawn where, and the area below.
pub fn tabs<P: Copy + PartialEq, M>(
    (pages, front): (&[P], P),
    title: impl Fn(P) -> &'static str,
    turn: impl Fn(P) -> M,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) -> (Hits<M>, Rect) {
    let mut hits = Vec::new();
    let mut x = area.x;
    let room: usize = pages.iter().map(|page| title(*page).width() + 4).sum();
    let gap = if room <= usize::from(area.width) { 2 } else { 1 };
    for (number, page) in pages.iter().enumerate() {
        let text = format!("{} {}", number + 1, title(*page));
        let width = text.width() as u16;
        if x + width > area.right() || area.height == 0 {
            break;
        }
        buffer.set_string(x, area.y, text, if *page == front { theme.accent() } else { theme.faint() });
        hits.push((Rect::new(x, area.y, width, 1), turn(*page)));
        x += width + gap;
    }
    (hits, Rect { y: area.y + 1.min(area.height), height: area.height.saturating_sub(1), ..area })
}

/// The digits that turn to the pages of a bench, with a sentence for each page.
pub fn digits<P: Copy, M>(
    pages: &[P],
    help: impl Fn(P) -> &'static str,
    turn: impl Fn(P) -> M,
) -> impl Iterator<Item = Action<M>> {
    pages.iter().zip('1'..).map(move |(page, digit)| Action::new(&[char(digit)], "", help(*page), turn(*page)))
}
