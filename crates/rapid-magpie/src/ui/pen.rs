//! Lines of text into an area, one below the other.

use super::theme::Theme;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use unicode_width::UnicodeWidthStr;

/// Writes lines into an area; what does not fit is left out and counted.
pub struct Pen<'a> {
    buffer: &'a mut Buffer,
    area: Rect,
    theme: Theme,
    y: u16,
    skip: usize,
    left_out: usize,
}

impl<'a> Pen<'a> {
    /// A pen at the top of an area; the first `skip` lines are passed over.
    pub fn new(buffer: &'a mut Buffer, area: Rect, theme: Theme, skip: usize) -> Self {
        Self { buffer, area, theme, y: area.y, skip, left_out: 0 }
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

    /// A line of styled parts.
    pub fn parts(&mut self, parts: &[(&str, Style)]) {
        if self.skip > 0 {
            self.skip -= 1;
            return;
        }
        if self.y >= self.area.bottom() {
            self.left_out += 1;
            return;
        }
        let spans: Vec<Span> = parts.iter().map(|(text, style)| Span::styled((*text).to_owned(), *style)).collect();
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
        let indent = " ".repeat(first.width());
        let room = usize::from(self.area.width).saturating_sub(first.width()).max(8);
        let mut line = String::new();
        let mut lead = first.to_owned();
        for word in text.split(' ') {
            if !line.is_empty() && line.width() + 1 + word.width() > room {
                self.parts(&[(&format!("{lead}{line}"), style)]);
                lead.clone_from(&indent);
                line.clear();
            }
            if !line.is_empty() {
                line.push(' ');
            }
            line.push_str(word);
        }
        self.parts(&[(&format!("{lead}{line}"), style)]);
    }

    /// An empty line.
    pub fn gap(&mut self) {
        self.line("", self.theme.text());
    }

    /// A rule with a title.
    pub fn heading(&mut self, title: &str) {
        let width = usize::from(self.area.width);
        let rule = "─".repeat(width.saturating_sub(title.width() + 4));
        let (faint, text) = (self.theme.rule(), self.theme.faint());
        self.parts(&[("── ", faint), (title, text), (" ", faint), (&rule, faint)]);
    }

    /// Says how many lines did not fit.
    pub fn finish(self) {
        if self.left_out > 0 && self.area.height > 0 {
            let text = format!(" {} more lines: PgDn ", self.left_out);
            let x = self.area.right().saturating_sub(text.width() as u16);
            self.buffer.set_string(x, self.area.bottom() - 1, text, self.theme.waiting());
        }
    }
}
