//! The pages of a bench, as tabs with their digits.

use super::Hits;
use super::action::{Action, char};
use super::theme::Theme;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use unicode_width::UnicodeWidthStr;

/// Draws the tabs into the first line of an area; gives what was drawn where, and the area below.
pub fn tabs<M>(
    titles: &[&str],
    front: usize,
    turn: impl Fn(usize) -> M,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) -> (Hits<M>, Rect) {
    let mut hits = Vec::new();
    let mut x = area.x;
    let room: usize = titles.iter().map(|title| title.width() + 4).sum();
    let gap = if room <= usize::from(area.width) { 2 } else { 1 };
    for (number, title) in titles.iter().enumerate() {
        let text = format!("{} {title}", number + 1);
        let width = text.width() as u16;
        if x + width > area.right() || area.height == 0 {
            break;
        }
        buffer.set_string(x, area.y, text, if number == front { theme.accent() } else { theme.faint() });
        hits.push((Rect::new(x, area.y, width, 1), turn(number)));
        x += width + gap;
    }
    (hits, Rect { y: area.y + 1.min(area.height), height: area.height.saturating_sub(1), ..area })
}

/// The digits that turn to the pages of a bench, with a sentence for each page.
pub fn digits<'h, M: 'h>(
    helps: impl IntoIterator<Item = &'static str> + 'h,
    turn: impl Fn(usize) -> M + 'h,
) -> impl Iterator<Item = Action<M>> + 'h {
    helps.into_iter().enumerate().map(move |(number, help)| {
        let digit = char::from_digit(number as u32 + 1, 10).unwrap_or('1');
        Action::new(&[char(digit)], "", help, turn(number))
    })
}
