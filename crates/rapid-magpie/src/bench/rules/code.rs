//! Page five: the rule under the cursor as code in another language.

use super::Ask;
use crate::desk::Desk;
use crate::ui::Hits;
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crate::words::plain;
use magpie_emit::{Language, not_covered, of_line};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

/// What the page shows, worked out when the rule, the text or the language changes.
#[derive(Debug, Default)]
pub struct Code {
    /// The language, by its place in the list.
    language: usize,
    /// The rule's line, from 1.
    line: u32,
    lines: Vec<String>,
    /// Why there is nothing to show.
    why: String,
    first: usize,
}

/// The lines of a rulebook on which rules stand, in order.
fn rules(desk: &Desk) -> Vec<u32> {
    let Some(book) = desk.game.book() else { return Vec::new() };
    let mut lines: Vec<u32> = book.meetings.iter().map(|rule| rule.at.line).collect();
    lines.extend(book.offs.iter().map(|rule| rule.at.line));
    lines.extend(book.whens.iter().map(|rule| rule.at.line));
    lines.extend(book.inputs.iter().map(|rule| rule.at.line));
    lines.extend(book.outcomes.iter().map(|rule| rule.at.line));
    lines.extend(book.invariants.iter().map(|rule| rule.at.line));
    lines.sort_unstable();
    lines.dedup();
    lines
}

impl Code {
    /// Shows the rule of a line, or the next one below it.
    pub fn show(&mut self, desk: &Desk, line: u32) {
        let rules = rules(desk);
        self.line = rules.iter().copied().find(|rule| *rule >= line).or(rules.last().copied()).unwrap_or(0);
        self.work_out(desk);
    }

    /// Works the code out anew.
    pub fn work_out(&mut self, desk: &Desk) {
        self.first = 0;
        self.lines.clear();
        let Some(book) = desk.game.book().filter(|_| self.line > 0) else {
            self.why = "There is no rule yet.".into();
            return;
        };
        let source = desk.text.source();
        self.lines = of_line(book, source, desk.text.name(), Language::ALL[self.language].1, self.line);
        let uncovered = not_covered(book, source).into_iter().find(|found| found.line == self.line);
        self.why = uncovered.map_or(String::new(), |found| format!("Emitted code does not cover {}.", found.what));
    }

    /// The rule so many before or behind this one.
    pub fn walk(&mut self, desk: &Desk, by: i32) {
        let rules = rules(desk);
        let here = rules.iter().position(|line| *line == self.line).unwrap_or(0);
        let next = here.saturating_add_signed(by as isize).min(rules.len().saturating_sub(1));
        if let Some(line) = rules.get(next) {
            self.show(desk, *line);
        }
    }

    /// The next language, or one of the list.
    pub fn speak(&mut self, desk: &Desk, language: Option<usize>) {
        self.language = language.unwrap_or(self.language + 1) % Language::ALL.len();
        self.work_out(desk);
    }

    /// The rule's line, from 1.
    pub const fn line(&self) -> u32 {
        self.line
    }

    /// Moves what is shown.
    pub const fn scroll(&mut self, lines: i32) {
        self.first = self.first.saturating_add_signed(lines as isize);
    }
}

/// Draws the page.
pub fn render(code: &Code, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
    let mut hits = Vec::new();
    let mut x = area.x;
    for (at, (word, _)) in Language::ALL.iter().enumerate() {
        let style = if at == code.language { theme.accent() } else { theme.faint() };
        let width = word.len() as u16;
        if x + width > area.right() {
            break;
        }
        buffer.set_string(x, area.y, word, style);
        hits.push((Rect::new(x, area.y, width, 1), Ask::Speak(Some(at))));
        x += width + 2;
    }
    let below = Rect { y: area.y + 1, height: area.height.saturating_sub(1), ..area };
    let mut pen = Pen::new(buffer, below, theme, 0);
    let source = desk.text.source();
    let rule = source.lines().nth(code.line.saturating_sub(1) as usize).unwrap_or_default();
    pen.gap();
    pen.with_right(&[(plain(rule.trim()).as_str(), theme.waiting())], (&format!("line {}", code.line), theme.faint()));
    pen.gap();
    if code.lines.is_empty() {
        let why =
            if code.why.is_empty() { "Nothing stands for this rule: an earlier one hides it." } else { &code.why };
        pen.wrapped("  ", why, theme.faint());
        return hits;
    }
    let room = usize::from(below.height.saturating_sub(3)).max(1);
    let first = code.first.min(code.lines.len().saturating_sub(room));
    for line in code.lines.iter().skip(first).take(room) {
        let shown = line.trim_start();
        let is_comment = ["//", "#", "--", "\"\"\"", "/**"].iter().any(|sign| shown.starts_with(sign));
        let is_rule = is_comment && shown.contains(&format!(" {}: ", code.line));
        pen.line(
            line,
            if is_rule {
                theme.accent()
            } else if is_comment {
                theme.faint()
            } else {
                theme.text()
            },
        );
    }
    hits
}
