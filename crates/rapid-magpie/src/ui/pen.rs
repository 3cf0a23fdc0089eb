//! Lines of text into an area, one below the other.

use super::theme::Theme;
use ratatui::buffer::{Buffer, Cell};
use ratatui::layout::Rect;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use ratatui::widgets::{Clear, Scrollbar, ScrollbarOrientation, ScrollbarState, StatefulWidget, Widget};
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

/// Writes lines into an area; what does not fit is left out and counted.
pub struct Pen<'a> {
    buffer: &'a mut Buffer,
    area: Rect,
    theme: Theme,
    y: u16,
    /// Lines passed over at the beginning, and how many of them are still to come.
    scrolled: usize,
    skip: usize,
    left_out: usize,
    muted: bool,
}

impl<'a> Pen<'a> {
    /// A pen at the top of an area; the first `skip` lines are passed over.
    pub fn new(buffer: &'a mut Buffer, area: Rect, theme: Theme, skip: usize) -> Self {
        Self { buffer, area, theme, y: area.y, scrolled: skip, skip, left_out: 0, muted: false }
    }

    /// Characters a line holds.
    pub fn width(&self) -> usize {
        usize::from(self.area.width)
    }

    /// Lines the area holds.
    pub const fn height(&self) -> u16 {
        self.area.height
    }

    /// Lines written so far.
    pub const fn lines(&self) -> u16 {
        self.y - self.area.y
    }

    /// What is written from now on stands back, whatever its style.
    pub const fn mute(&mut self) {
        self.muted = true;
    }

    /// A line of styled parts; one that is too long goes on below, a little further in than it began.
    pub fn parts(&mut self, parts: &[(&str, Style)]) {
        let first = parts.iter().map(|(text, _)| *text).collect::<String>();
        let begins = first.width() - first.trim_start_matches(' ').width();
        self.hanging(parts, begins + 2);
    }

    /// The same of parts that were made for it.
    pub fn owned(&mut self, parts: &[(String, Style)]) {
        let parts: Vec<(&str, Style)> = parts.iter().map(|(text, style)| (text.as_str(), *style)).collect();
        self.parts(&parts);
    }

    /// A line of styled parts, broken at blanks; what goes on below begins at a column of its own.
    pub fn hanging(&mut self, parts: &[(&str, Style)], column: usize) {
        let room = usize::from(self.area.width);
        if parts.iter().map(|(text, _)| text.width()).sum::<usize>() <= room {
            self.one_line(parts);
            return;
        }
        let column = column.min(room / 2);
        let indent = " ".repeat(column);
        let mut line: Vec<(&str, Style)> = Vec::new();
        let mut used = 0;
        for (text, style) in parts {
            // Words with the blanks before them.
            let mut rest = *text;
            while !rest.is_empty() {
                let blanks = rest.len() - rest.trim_start_matches(' ').len();
                let end = rest[blanks..].find(' ').map_or(rest.len(), |at| blanks + at);
                let (word, behind) = rest.split_at(end);
                rest = behind;
                if used + word.width() <= room {
                    used += word.width();
                    line.push((word, *style));
                    continue;
                }
                let mut word = word.trim_start_matches(' ');
                if used > column {
                    self.one_line(&line);
                    line = vec![(&indent, *style)];
                    used = column;
                }
                // A word longer than a line is broken where the line ends.
                while used + word.width() > room {
                    let at = fitting(word, room - used);
                    line.push((&word[..at], *style));
                    self.one_line(&line);
                    line = vec![(&indent, *style)];
                    (used, word) = (column, &word[at..]);
                }
                used += word.width();
                line.push((word, *style));
            }
        }
        if line.iter().any(|(text, _)| !text.trim().is_empty()) {
            self.one_line(&line);
        }
    }

    fn one_line(&mut self, parts: &[(&str, Style)]) {
        if self.skip > 0 {
            self.skip -= 1;
            return;
        }
        if self.y >= self.area.bottom() {
            self.left_out += 1;
            return;
        }
        let faint = self.muted.then(|| self.theme.faint());
        let span = |(text, style): &(&str, Style)| Span::styled((*text).to_owned(), faint.unwrap_or(*style));
        let spans: Vec<Span> = parts.iter().map(span).collect();
        self.buffer.set_line(self.area.x, self.y, &Line::from(spans), self.area.width);
        self.y += 1;
    }

    /// A line with a word at the right edge, which goes to a line of its own where there is no room.
    pub fn with_right(&mut self, parts: &[(&str, Style)], right: (&str, Style)) {
        let used: usize = parts.iter().map(|(text, _)| text.width()).sum();
        let room = usize::from(self.area.width);
        let free = room.saturating_sub(used + right.0.width());
        if right.0.is_empty() || free == 0 {
            self.parts(parts);
            if !right.0.is_empty() {
                let lead = " ".repeat(room.saturating_sub(right.0.width()));
                self.parts(&[(&lead, right.1), right]);
            }
            return;
        }
        let gap = " ".repeat(free);
        let all: Vec<(&str, Style)> = parts.iter().copied().chain([(gap.as_str(), right.1), right]).collect();
        self.parts(&all);
    }

    /// A line in one style.
    pub fn line(&mut self, text: &str, style: Style) {
        self.parts(&[(text, style)]);
    }

    /// A text broken at blanks into as many lines as it needs, those after the first indented.
    pub fn wrapped(&mut self, first: &str, text: &str, style: Style) {
        self.hanging(&[(first, style), (text, style)], first.width());
    }

    /// An empty line.
    pub fn gap(&mut self) {
        self.line("", self.theme.text());
    }

    /// A rule with a title.
    pub fn heading(&mut self, title: &str) {
        let width = usize::from(self.area.width);
        let title = &ellipsis(title, width.saturating_sub(4));
        let rule = "─".repeat(width.saturating_sub(title.width() + 4));
        let (faint, text) = (self.theme.rule(), self.theme.faint());
        self.parts(&[("── ", faint), (title, text), (" ", faint), (&rule, faint)]);
    }

    /// A widget of so many lines, which scrolls with the others.
    pub fn widget(&mut self, height: u16, draw: impl FnOnce(Rect, &mut Buffer)) {
        let room = Rect::new(0, 0, self.area.width, height);
        if self.area.is_empty() {
            return;
        }
        let mut blank = Cell::EMPTY;
        blank.set_bg(self.buffer[self.area.as_position()].bg);
        let mut drawn = Buffer::filled(room, blank);
        draw(room, &mut drawn);
        for y in 0..height {
            if self.skip > 0 {
                self.skip -= 1;
            } else if self.y >= self.area.bottom() {
                self.left_out += 1;
            } else {
                for x in 0..room.width {
                    self.buffer[(self.area.x + x, self.y)] = drawn[(x, y)].clone();
                }
                self.y += 1;
            }
        }
    }

    /// Says how many lines did not fit, and shows on the frame at the right where among all of them one is.
    pub fn finish(self) {
        let Rect { width, height, .. } = self.area;
        if self.left_out > 0 && height > 0 {
            let text = format!(" {} more lines: PgDn ", self.left_out + 1);
            let line = Rect { y: self.area.bottom() - 1, height: 1, ..self.area };
            Clear.render(line, self.buffer);
            let text = Line::styled(ellipsis(&text, usize::from(width)), self.theme.waiting());
            text.right_aligned().render(line, self.buffer);
        }
        let seen = usize::from(self.y - self.area.y);
        let all = self.scrolled + seen + self.left_out;
        if all > seen && self.area.right() < self.buffer.area.right() {
            let mut state = ScrollbarState::new(all - seen + 1).position(self.scrolled).viewport_content_length(seen);
            let bar = Scrollbar::new(ScrollbarOrientation::VerticalRight)
                .begin_symbol(None)
                .end_symbol(None)
                .style(self.theme.rule());
            bar.render(Rect { width: width + 1, ..self.area }, self.buffer, &mut state);
        }
    }
}

/// How many bytes of a word fit into a width, at least one character.
fn fitting(word: &str, width: usize) -> usize {
    let mut used = 0;
    let mut ends =
        word.char_indices().map(|(at, character)| (at + character.len_utf8(), character.width().unwrap_or(0)));
    let first = ends.next().map_or(word.len(), |(end, wide)| {
        used = wide;
        end
    });
    let fits = ends.take_while(|(_, wide)| {
        used += wide;
        used <= width
    });
    fits.last().map_or(first, |(end, _)| end)
}

/// A text as far as it fits into a width; what is missing is shown by an ellipsis, at the end of a word where there is one.
pub fn ellipsis(text: &str, width: usize) -> String {
    if text.width() <= width {
        return text.to_owned();
    }
    if width == 0 {
        return String::new();
    }
    let fits = &text[..fitting(text, width - 1)];
    let fits = if fits.width() > width - 1 { "" } else { fits };
    let word = fits.rfind(' ').filter(|at| *at * 2 > fits.len()).map_or(fits, |at| &fits[..at]);
    format!("{}…", word.trim_end())
}

#[cfg(test)]
#[path = "pen_tests.rs"]
mod tests;
