//! The pages of a bench, as tabs with their digits.

use super::Hits;
use super::action::{Action, char};
use super::theme::Theme;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::widgets::{Tabs, Widget};
use unicode_width::UnicodeWidthStr;

/// Draws the tabs into the first line of an area, and into more where they need them; gives what was drawn where, and the
/// area below.
pub fn tabs<P: Copy + PartialEq, M>(
    (pages, front): (&[P], P),
    title: impl Fn(P) -> &'static str,
    turn: impl Fn(P) -> M,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) -> (Hits<M>, Rect) {
    let words: Vec<String> = pages.iter().zip(1..).map(|(page, digit)| format!("{digit} {}", title(*page))).collect();
    let all: usize = words.iter().map(|word| word.width() + 2).sum();
    let gap = if all <= usize::from(area.width) + 2 { "  " } else { " " };
    let mut hits = Vec::new();
    let (mut first, mut y) = (0, area.y);
    while first < words.len() && y < area.bottom() {
        let mut x = area.x;
        let fits = words[first..].iter().take_while(|word| {
            let from = x;
            x += (word.width() + gap.len()) as u16;
            from == area.x || from + word.width() as u16 <= area.right()
        });
        let end = first + fits.count();
        let line = Rect { y, height: 1, ..area };
        let chosen = pages[first..end].iter().position(|page| *page == front);
        Tabs::new(words[first..end].iter().map(String::as_str))
            .padding("", "")
            .divider(gap)
            .style(theme.faint())
            .highlight_style(theme.accent())
            .select(chosen)
            .render(line, buffer);
        let mut x = area.x;
        for at in first..end {
            let width = (words[at].width() as u16).min(area.right().saturating_sub(x));
            hits.push((Rect::new(x, y, width, 1), turn(pages[at])));
            x += width + gap.len() as u16;
        }
        (first, y) = (end, y + 1);
    }
    (hits, Rect { y, height: area.bottom().saturating_sub(y), ..area })
}

/// The digits that turn to the pages of a bench, with a sentence for each page.
pub fn digits<P: Copy, M>(
    pages: &[P],
    help: impl Fn(P) -> &'static str,
    turn: impl Fn(P) -> M,
) -> impl Iterator<Item = Action<M>> {
    pages.iter().zip('1'..).map(move |(page, digit)| Action::new(&[char(digit)], "", help(*page), turn(*page)))
}
