//! Page one: the rulebook's text, typed into, coloured by what its words are, with mistakes under the words.

use crate::cli::fmt::replace;
use crate::cli::source::{load_bytes, plain};
use crate::stage::pen::Pen;
use crate::stage::state::State;
use crate::stage::theme::Theme;
use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use magpie_core::rulebook::highlight::{Declared, Paint, Painted, completions, declared, highlight, word_before};
use magpie_core::rulebook::{Code, Diagnostic, LineIndex, Severity};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};
use ratatui::widgets::Widget;
use ratatui_textarea::{CursorMove, Input, Key, TextArea};
use unicode_width::UnicodeWidthChar;

/// The text as it is typed.
#[derive(Debug, Default)]
pub struct Editor {
    area: TextArea<'static>,
    /// Keys go into the text.
    pub typing: bool,
    /// The rulebook's text when it was taken over.
    base: String,
    /// The text as it stands, with line ends of one sort.
    now: String,
    painted: Vec<Painted>,
    kinds: Vec<Declared>,
    mistakes: Vec<Diagnostic>,
    /// What could stand where the cursor is.
    offers: Vec<String>,
}

/// A text without byte order mark and with LF alone.
fn plain_lines(source: &str) -> String {
    source.trim_start_matches('\u{feff}').replace("\r\n", "\n").replace('\r', "\n")
}

/// Whether the text is another than the one that was taken over.
pub fn is_changed(state: &State) -> bool {
    let editor = &state.rules.editor;
    !editor.base.is_empty() && editor.now != plain_lines(&editor.base)
}

/// The text as it would be written, `None` before it was ever looked at.
pub fn text(state: &State) -> Option<String> {
    let editor = &state.rules.editor;
    if editor.base.is_empty() {
        return None;
    }
    let bom = if editor.base.starts_with('\u{feff}') { "\u{feff}" } else { "" };
    let ends = if editor.base.contains("\r\n") { editor.now.replace('\n', "\r\n") } else { editor.now.clone() };
    Some(format!("{bom}{ends}"))
}

/// Takes the rulebook's text over where nothing has been typed that would be lost.
pub fn follow(state: &mut State) {
    if state.rules.editor.base == state.source || is_changed(state) {
        return;
    }
    let editor = &mut state.rules.editor;
    let (at, new) = (editor.area.cursor(), editor.base.is_empty());
    editor.base.clone_from(&state.source);
    let lines: Vec<String> = plain_lines(&state.source).split('\n').map(String::from).collect();
    editor.area = TextArea::new(lines);
    editor.area.set_tab_length(2);
    editor.area.set_max_histories(1000);
    let theme = Theme::from_environment();
    editor.area.set_style(theme.text());
    editor.area.set_line_number_style(theme.faint());
    editor.area.set_cursor_line_style(Style::new());
    editor.area.set_selection_style(theme.chosen());
    editor.area.move_cursor(CursorMove::Jump(at.0 as u16, at.1 as u16));
    let typing = state.rules.editor.typing;
    set_typing(state, typing);
    read(state);
    // The first look is at what has just acted.
    if let Some(line) = fired(state).into_iter().max().filter(|_| new) {
        to_line(state, line);
    }
}

/// Reads the text as it stands, where it is another than before: its colours, its mistakes.
fn read(state: &mut State) {
    let editor = &mut state.rules.editor;
    let now = editor.area.lines().join("\n");
    if now == editor.now {
        return;
    }
    editor.now = now;
    editor.painted = highlight(&editor.now);
    editor.kinds = declared(&editor.now);
    editor.mistakes = load_bytes(&state.path, editor.now.as_bytes()).reading.diagnostics;
}

/// The byte of the text before the cursor.
fn byte_at_cursor(editor: &Editor) -> usize {
    let (row, column) = (editor.area.cursor().0, editor.area.cursor().1);
    let before: usize = editor.area.lines().iter().take(row).map(|line| line.len() + 1).sum();
    let line = editor.area.lines().get(row).map_or("", String::as_str);
    before + line.char_indices().nth(column).map_or(line.len(), |(at, _)| at)
}

/// Begins or ends typing, which the cursor shows.
pub fn set_typing(state: &mut State, typing: bool) -> bool {
    let editor = &mut state.rules.editor;
    editor.area.set_cursor_style(Style::new().add_modifier(if typing {
        Modifier::REVERSED
    } else {
        Modifier::UNDERLINED
    }));
    std::mem::replace(&mut editor.typing, typing)
}

/// Moves the cursor while nothing is typed.
pub fn walk(state: &mut State, down: i32, right: i32) {
    follow(state);
    let way = match (down, right) {
        (0, ..0) => CursorMove::Back,
        (0, _) => CursorMove::Forward,
        (..0, _) => CursorMove::Up,
        _ => CursorMove::Down,
    };
    for _ in 0..down.unsigned_abs().max(right.unsigned_abs()) {
        state.rules.editor.area.move_cursor(way);
    }
}

/// Puts the cursor on a line, from 1.
pub fn to_line(state: &mut State, line: u32) {
    state.rules.editor.area.move_cursor(CursorMove::Jump(line.saturating_sub(1).min(65_535) as u16, 0));
}

/// Writes the text into the file; the tape is played again on it.
pub fn save(state: &mut State, text: &str) {
    if state.mistakes.iter().any(|found| found.code == Code::NotUtf8) {
        state.note = Some("the file is no UTF-8, and only its beginning is shown: mend it elsewhere".into());
        return;
    }
    if state.rules.editor.base != state.source {
        state.rules.editor.base.clone_from(&state.source);
        state.note = Some("the file has changed since: Ctrl-s again writes over it".into());
        return;
    }
    if let Err(error) = replace(&state.path, text.as_bytes()) {
        state.note = Some(format!("{error:#}"));
        return;
    }
    text.clone_into(&mut state.rules.editor.base);
    let loaded = load_bytes(&state.path, text.as_bytes());
    state.draft = crate::stage::draft::Draft::default();
    state.reload(loaded);
    let told = state.note.take().filter(|_| state.mistakes.is_empty());
    let mistakes = format!("with {} mistakes: the board keeps the last good rules", state.mistakes.len());
    state.note = Some(format!("saved; {}", told.unwrap_or(mistakes)));
}

/// Pasted text goes in at the cursor, while the text is typed into.
pub fn pasted(state: &mut State, text: &str) {
    if !state.rules.is_typing() {
        return;
    }
    state.rules.editor.area.insert_str(plain_lines(text));
    read(state);
}

/// The keys of typing, for the line of keys.
pub const KEYS: [(&str, &str); 6] = [
    ("Esc", "ends typing"),
    ("Ctrl-s", "save"),
    ("Tab", "complete"),
    ("Ctrl-z", "undo"),
    ("Ctrl-y", "redo"),
    ("Ctrl-c x v", "copy, cut, paste"),
];

/// A key while the text is typed into.
pub fn key(state: &mut State, event: &KeyEvent) {
    let control = event.modifiers.contains(KeyModifiers::CONTROL);
    let editor = &mut state.rules.editor;
    match event.code {
        KeyCode::Esc => {
            set_typing(state, false);
            return;
        }
        KeyCode::Char('s') if control => {
            super::update(state, super::Ask::Save);
            return;
        }
        KeyCode::Char('z') if control => {
            editor.area.undo();
        }
        KeyCode::Char('y') if control => {
            editor.area.redo();
        }
        KeyCode::Char('a') if control => editor.area.select_all(),
        KeyCode::Char('c') if control => editor.area.copy(),
        KeyCode::Char('x') if control => {
            editor.area.cut();
        }
        KeyCode::Char('v') if control => {
            editor.area.paste();
        }
        KeyCode::Tab => take_offer(editor),
        KeyCode::Home => editor.area.move_cursor(CursorMove::Head),
        KeyCode::End => editor.area.move_cursor(CursorMove::End),
        KeyCode::PageUp => (0..15).for_each(|_| editor.area.move_cursor(CursorMove::Up)),
        KeyCode::PageDown => (0..15).for_each(|_| editor.area.move_cursor(CursorMove::Down)),
        KeyCode::Enter => new_line(editor),
        code => {
            let shift = event.modifiers.contains(KeyModifiers::SHIFT);
            if let Some(way) = arrow(code, control) {
                if shift && !editor.area.is_selecting() {
                    editor.area.start_selection();
                } else if !shift {
                    editor.area.cancel_selection();
                }
                editor.area.move_cursor(way);
            } else if let Some(key) = plain_key(code).filter(|_| !control) {
                editor.area.input_without_shortcuts(Input { key, ctrl: false, alt: false, shift });
            }
        }
    }
    read(state);
    let editor = &mut state.rules.editor;
    let at = byte_at_cursor(editor);
    editor.offers = if word_before(&editor.now, at) < at { completions(&editor.now, at) } else { Vec::new() };
}

const fn arrow(code: KeyCode, word: bool) -> Option<CursorMove> {
    Some(match code {
        KeyCode::Left if word => CursorMove::WordBack,
        KeyCode::Right if word => CursorMove::WordForward,
        KeyCode::Left => CursorMove::Back,
        KeyCode::Right => CursorMove::Forward,
        KeyCode::Up => CursorMove::Up,
        KeyCode::Down => CursorMove::Down,
        _ => return None,
    })
}

const fn plain_key(code: KeyCode) -> Option<Key> {
    Some(match code {
        KeyCode::Char(character) => Key::Char(character),
        KeyCode::Backspace => Key::Backspace,
        KeyCode::Delete => Key::Delete,
        _ => return None,
    })
}

/// A new line begins under the first word of the one it leaves.
fn new_line(editor: &mut Editor) {
    let row = editor.area.cursor().0;
    let line = editor.area.lines().get(row).cloned().unwrap_or_default();
    let indent: String = line.chars().take_while(|c| *c == ' ').take(editor.area.cursor().1).collect();
    editor.area.insert_newline();
    editor.area.insert_str(indent);
}

/// The first offer is completed; where there is none, the text is indented.
fn take_offer(editor: &mut Editor) {
    let at = byte_at_cursor(editor);
    let begun = at - word_before(&editor.now, at);
    match editor.offers.first() {
        Some(offer) if begun > 0 => {
            let rest = offer[begun.min(offer.len())..].to_owned();
            editor.area.insert_str(rest);
        }
        _ => {
            editor.area.insert_str("  ");
        }
    }
}

/// Lines of rules that acted in the last turn, from 1.
fn fired(state: &State) -> Vec<u32> {
    let Some(session) = state.session.as_ref().filter(|_| !is_changed(state)) else {
        return Vec::new();
    };
    let book = session.grid().book();
    let answers = session.played().last().map_or(&[][..], |entry| entry.answers.as_slice());
    answers.iter().flat_map(|answer| &answer.fired).map(|rule| rule.at(book).line).collect()
}

/// Draws the page.
pub fn render(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let editor = &state.rules.editor;
    if editor.base.is_empty() || area.height < 4 {
        return;
    }
    let foot = 3.min(area.height / 3);
    let text = Rect { x: area.x + 1, width: area.width - 1, height: area.height - foot, ..area };
    // Where the text is scrolled to is the widget's own affair; it keeps the cursor in sight.
    (&editor.area).render(text, buffer);
    let (top, left) = editor.area.scroll_offset();
    let lead = editor.area.line_number_width();
    let page = Shown { theme, area: text, top: usize::from(top), left: usize::from(left), lead, text: &editor.now };
    page.colour(editor, buffer);
    let mistakes = page.mistakes(&editor.mistakes, buffer);
    for line in fired(state) {
        if let Some(y) = page.y_of(line as usize - 1) {
            buffer.set_string(area.x, y, "▸", theme.waiting());
        }
    }
    let below = Rect { y: area.bottom() - foot, height: foot, ..area };
    let mut pen = Pen::new(buffer, below, theme, 0);
    foot_lines(editor, mistakes, theme, &mut pen);
}

/// Under the text: what could stand here, and the mistake at the cursor or the first one.
fn foot_lines(editor: &Editor, mistakes: usize, theme: Theme, pen: &mut Pen) {
    if editor.typing && !editor.offers.is_empty() {
        let offers: Vec<&str> = editor.offers.iter().take(8).map(String::as_str).collect();
        pen.parts(&[
            ("Tab ", theme.accent()),
            (offers[0], theme.text()),
            ("  ", theme.text()),
            (&offers[1..].join("  "), theme.faint()),
        ]);
    }
    let at = byte_at_cursor(editor);
    let near =
        editor.mistakes.iter().find(|found| found.span.start <= at && at <= found.span.end.max(found.span.start));
    match near.or_else(|| editor.mistakes.first()) {
        Some(found) => {
            let line = LineIndex::new(&editor.now).line(found.span.start.min(editor.now.len()));
            let wrong = found.code.severity() == Severity::Error;
            let (mark, style) = if wrong { ("✗", theme.refused()) } else { ("!", theme.waiting()) };
            let help = found.help.as_ref().map_or(String::new(), |help| format!("  → {}", plain(help)));
            let more = if mistakes > 1 { format!("  (of {mistakes})") } else { String::new() };
            pen.wrapped(&format!("{mark} line {line}: "), &format!("{}{help}{more}", plain(&found.message)), style);
        }
        None if editor.typing => pen.line("✓ no mistakes", theme.granted()),
        None => {
            pen.parts(&[("✓ no mistakes", theme.granted()), ("   ▸ rules that acted in the last turn", theme.faint())])
        }
    }
}

/// The part of the text that is seen, and where.
struct Shown<'a> {
    theme: Theme,
    area: Rect,
    top: usize,
    left: usize,
    lead: u16,
    text: &'a str,
}

impl Shown<'_> {
    /// The screen line of a line of the text, from 0.
    fn y_of(&self, line: usize) -> Option<u16> {
        let down = line.checked_sub(self.top)?;
        (down < usize::from(self.area.height)).then(|| self.area.y + down as u16)
    }

    /// Calls back with the screen place of every seen character of a part of a line, and the character.
    fn places(&self, line: usize, text: &str, from: usize, to: usize, mut each: impl FnMut(u16, u16, char)) {
        let Some(y) = self.y_of(line) else { return };
        let mut column = 0;
        for (at, character) in text.char_indices() {
            let width = character.width().unwrap_or(0);
            if at >= from && at < to && column >= self.left {
                let x = self.area.x + self.lead + (column - self.left) as u16;
                if x < self.area.right() {
                    each(x, y, character);
                }
            }
            column += width;
        }
    }

    /// The lines that are seen: their number, the byte at which they begin, their text.
    fn lines(&self) -> impl Iterator<Item = (usize, usize, &str)> {
        let mut start = 0;
        let all = self.text.split('\n').enumerate().map(move |(number, line)| {
            let at = start;
            start += line.len() + 1;
            (number, at, line)
        });
        all.skip(self.top).take(usize::from(self.area.height))
    }

    fn colour(&self, editor: &Editor, buffer: &mut Buffer) {
        let colour_of = |wanted: &dyn Fn(&Declared) -> bool| {
            editor.kinds.iter().find(|kind| wanted(kind)).map(|kind| Theme::rgb(&kind.colour))
        };
        for (number, start, line) in self.lines() {
            let from = editor.painted.partition_point(|part| part.span.end <= start);
            for part in editor.painted[from..].iter().take_while(|part| part.span.start <= start + line.len()) {
                let (begin, end) = (part.span.start.max(start) - start, part.span.end.min(start + line.len()) - start);
                let word = &self.text[part.span.start..part.span.end];
                self.places(number, line, begin, end, |x, y, character| {
                    let style = match part.paint {
                        Paint::Comment => self.theme.faint(),
                        Paint::Section => self.theme.accent(),
                        Paint::Word | Paint::Symbol => {
                            Style::new().fg(self.theme.colour(Theme::dim((0xa8, 0xb4, 0xc0), 230)))
                        }
                        Paint::Number => Style::new().fg(self.theme.colour((0x9f, 0xc5, 0xe0))),
                        Paint::Text => Style::new().fg(self.theme.colour((0xd9, 0xc3, 0x8c))),
                        Paint::Wrong => self.theme.refused(),
                        Paint::Name => match colour_of(&|kind| kind.name == word) {
                            Some(rgb) => Style::new().fg(self.theme.colour(readable(rgb))).add_modifier(Modifier::BOLD),
                            None => self.theme.text(),
                        },
                        Paint::Glyph => match colour_of(&|kind| kind.glyph == character) {
                            Some(rgb) => Style::new().fg(self.theme.colour(readable(rgb))),
                            None => self.theme.text(),
                        },
                    };
                    if let Some(cell) =
                        buffer.cell_mut((x, y)).filter(|cell| !cell.modifier.contains(Modifier::REVERSED))
                    {
                        cell.set_style(style);
                    }
                });
            }
        }
    }

    /// Underlines the words of mistakes, and writes the first of a line behind it; gives how many errors there are.
    fn mistakes(&self, mistakes: &[Diagnostic], buffer: &mut Buffer) -> usize {
        for (number, start, line) in self.lines() {
            let on_line = |found: &&Diagnostic| found.span.start >= start && found.span.start <= start + line.len();
            for (place, found) in mistakes.iter().filter(on_line).enumerate() {
                let wrong = found.code.severity() == Severity::Error;
                let style = if wrong { self.theme.refused() } else { self.theme.waiting() };
                let (from, to) =
                    (found.span.start - start, found.span.end.min(start + line.len()).max(found.span.start) - start);
                self.places(number, line, from, to, |x, y, _| {
                    if let Some(cell) = buffer.cell_mut((x, y)) {
                        cell.set_style(style.add_modifier(Modifier::UNDERLINED));
                    }
                });
                let Some(y) = self.y_of(number).filter(|_| place == 0) else { continue };
                let width: usize = line.chars().map(|c| c.width().unwrap_or(0)).sum();
                let x = self.area.x + self.lead + width.saturating_sub(self.left) as u16 + 2;
                if x + 12 < self.area.right() {
                    let room = usize::from(self.area.right() - x);
                    buffer.set_stringn(x, y, plain(&found.message), room, style.add_modifier(Modifier::ITALIC));
                }
            }
        }
        mistakes.iter().filter(|found| found.code.severity() == Severity::Error).count()
    }
}

/// A colour light enough to be read on the ground.
fn readable(rgb: (u8, u8, u8)) -> (u8, u8, u8) {
    let light = u32::from(rgb.0) + u32::from(rgb.1) + u32::from(rgb.2);
    if light < 300 { (0x96, 0xa0, 0xac) } else { rgb }
}
