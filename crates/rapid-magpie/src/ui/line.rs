//! One line that is typed, with the usual editing keys; one that is refused stays to be mended.

use super::pen::{Pen, ellipsis};
use super::theme::Theme;
use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use tui_input::{Input, InputRequest};
use unicode_width::UnicodeWidthStr;

/// A line being typed.
#[derive(Debug)]
pub struct Line {
    /// The words before it.
    label: String,
    /// What may be typed, below it.
    hint: String,
    input: Input,
    /// Why it was refused, until it is changed.
    refused: Option<String>,
    /// Its text is a suggestion: what is typed takes its place, unless the cursor is moved first.
    suggested: bool,
}

/// What its keys do, for the line of keys.
pub const KEYS: &[(&str, &str)] = &[("Enter", "takes it"), ("Esc", "leaves it"), ("Ctrl-u", "empties it")];

/// What became of a key.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Typed {
    /// The line goes on.
    More,
    /// It is to be taken as it stands.
    Take,
    /// It is to be left.
    Leave,
}

impl Line {
    /// A line that begins with a text.
    pub fn new(label: impl Into<String>, hint: impl Into<String>, text: impl Into<String>) -> Self {
        Self { label: label.into(), hint: hint.into(), input: Input::new(text.into()), refused: None, suggested: false }
    }

    /// A line that begins with a text which is only a suggestion.
    pub fn suggesting(label: impl Into<String>, hint: impl Into<String>, text: impl Into<String>) -> Self {
        Self { suggested: true, ..Self::new(label, hint, text) }
    }

    /// Something is typed: a suggestion gives way.
    fn begin(&mut self) {
        if std::mem::take(&mut self.suggested) {
            self.input.reset();
        }
    }

    /// What has been typed.
    pub fn text(&self) -> &str {
        self.input.value()
    }

    /// A key goes into the line.
    pub fn key(&mut self, event: &KeyEvent) -> Typed {
        match event.code {
            KeyCode::Esc => return Typed::Leave,
            KeyCode::Enter => return Typed::Take,
            _ => {}
        }
        if let Some(request) = request(event) {
            if matches!(request, InputRequest::InsertChar(_)) {
                self.begin();
            }
            self.suggested = false;
            self.input.handle(request);
            self.refused = None;
        }
        Typed::More
    }

    /// Pasted text goes in at the cursor, without line ends and other control characters.
    pub fn paste(&mut self, text: &str) {
        self.begin();
        for character in text.chars().filter(|c| !c.is_control()) {
            self.input.handle(InputRequest::InsertChar(character));
        }
        self.refused = None;
    }

    /// The line was not taken: it stays, and says why.
    pub fn refuse(&mut self, why: impl Into<String>) {
        self.refused = Some(why.into());
    }

    /// Draws the line and what is wrong with it, else the hint, into the first lines of an area; gives the area below.
    pub fn render(&self, theme: Theme, area: Rect, buffer: &mut ratatui::buffer::Buffer) -> Rect {
        // A reason may need more lines than a hint; it is never cut.
        let height = if self.refused.is_some() { 5 } else { 2 }.min(area.height);
        let mut pen = Pen::new(buffer, Rect { height, ..area }, theme, 0);
        // The part round the cursor stays in sight.
        let room = usize::from(area.width).saturating_sub(self.label.width() + 1).max(4);
        let scroll = self.input.visual_scroll(room);
        let cursor = byte_of(self.text(), self.input.cursor());
        let (left, right) = self.text().split_at(cursor);
        let left = without(left, scroll);
        let right = &ellipsis(right, room.saturating_sub(left.width()));
        let style = if self.suggested { theme.chosen() } else { theme.text() };
        pen.parts(&[(&self.label, theme.accent()), (left, style), ("▏", theme.waiting()), (right, style)]);
        match &self.refused {
            Some(why) => pen.wrapped("✗ ", why, theme.refused()),
            None => {
                let indent = " ".repeat(self.label.width());
                pen.line(&format!("{indent}{}   Enter takes it, Esc does not", self.hint), theme.faint());
            }
        }
        let used = pen.lines().min(height);
        Rect { y: area.y + used, height: area.height - used, ..area }
    }
}

/// What a key means to a line.
fn request(event: &KeyEvent) -> Option<InputRequest> {
    let control = event.modifiers.contains(KeyModifiers::CONTROL);
    Some(match (event.code, control) {
        (KeyCode::Char('a'), true) | (KeyCode::Home, _) => InputRequest::GoToStart,
        (KeyCode::Char('e'), true) | (KeyCode::End, _) => InputRequest::GoToEnd,
        (KeyCode::Char('u'), true) => InputRequest::DeleteLine,
        (KeyCode::Char('k'), true) => InputRequest::DeleteTillEnd,
        (KeyCode::Char('w') | KeyCode::Backspace, true) => InputRequest::DeletePrevWord,
        (KeyCode::Delete, true) => InputRequest::DeleteNextWord,
        (KeyCode::Left, true) => InputRequest::GoToPrevWord,
        (KeyCode::Right, true) => InputRequest::GoToNextWord,
        (KeyCode::Char(character), false) => InputRequest::InsertChar(character),
        (KeyCode::Backspace, false) => InputRequest::DeletePrevChar,
        (KeyCode::Delete, false) => InputRequest::DeleteNextChar,
        (KeyCode::Left, false) => InputRequest::GoToPrevChar,
        (KeyCode::Right, false) => InputRequest::GoToNextChar,
        _ => return None,
    })
}

/// The byte before a character of a line.
fn byte_of(text: &str, character: usize) -> usize {
    text.char_indices().nth(character).map_or(text.len(), |(at, _)| at)
}

/// A text without its first columns.
fn without(text: &str, columns: usize) -> &str {
    let mut gone = 0;
    for (at, character) in text.char_indices() {
        if gone >= columns {
            return &text[at..];
        }
        gone += unicode_width::UnicodeWidthChar::width(character).unwrap_or(0);
    }
    if columns == 0 { text } else { "" }
}

#[cfg(test)]
#[path = "line_tests.rs"]
mod tests;
