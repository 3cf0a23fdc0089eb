//! Page one: the rulebook's text, typed into, coloured by what its words are, with mistakes under the words.

use super::{Ask, Bench, Rules};
use crate::desk::Desk;
use crate::ui::Hits;
use crate::ui::pen::{Pen, ellipsis};
use crate::ui::theme::{self, Theme};
use crate::words::{counted, plain};
use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use magpie_core::rulebook::document::Analysis;
use magpie_core::rulebook::highlight::{Declared, Paint, word_before};
use magpie_core::rulebook::meetings::decided_by;
use magpie_core::rulebook::{Diagnostic, LineIndex, Severity};
use ratatui::buffer::{Buffer, Cell};
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
    /// The text as it stands, with line ends of one sort, read once a change.
    now: Analysis,
    kinds: Vec<Declared>,
    /// What could stand where the cursor is.
    offers: Vec<String>,
}

/// A text without byte order mark and with LF alone.
fn plain_lines(source: &str) -> String {
    source.trim_start_matches('\u{feff}').replace("\r\n", "\n").replace('\r', "\n")
}

impl Editor {
    /// Whether the text is another than the one that was taken over.
    pub fn is_changed(&self) -> bool {
        !self.base.is_empty() && self.now.source() != plain_lines(&self.base)
    }

    /// The text as it would be written, with the byte order mark and the line ends of the one that was taken over.
    fn text(&self) -> String {
        let bom = if self.base.starts_with('\u{feff}') { "\u{feff}" } else { "" };
        let now = self.now.source();
        let ends = if self.base.contains("\r\n") { now.replace('\n', "\r\n") } else { now.to_owned() };
        format!("{bom}{ends}")
    }

    /// Takes the rulebook's text over where nothing has been typed that would be lost.
    pub fn follow(&mut self, desk: &Desk) {
        if self.base == desk.text.source() || self.is_changed() {
            return;
        }
        let (at, new) = (self.area.cursor(), self.base.is_empty());
        desk.text.source().clone_into(&mut self.base);
        let lines: Vec<String> = plain_lines(&self.base).split('\n').map(String::from).collect();
        self.area = TextArea::new(lines);
        self.area.set_tab_length(2);
        self.area.set_max_histories(1000);
        let theme = Theme::from_environment();
        self.area.set_style(theme.text());
        self.area.set_line_number_style(theme.faint());
        self.area.set_cursor_line_style(Style::new());
        self.area.set_selection_style(theme.chosen());
        self.area.move_cursor(CursorMove::Jump(at.0 as u16, at.1 as u16));
        self.set_typing(self.typing);
        self.read(desk);
        // The first look is at what has just acted.
        if let Some(line) = self.fired(desk).into_iter().max().filter(|_| new) {
            self.go_to_line(line);
        }
    }

    /// Reads the text as it stands, where it is another than before: its colours, its mistakes.
    fn read(&mut self, desk: &Desk) {
        let now = self.area.lines().join("\n");
        if now == self.now.source() {
            return;
        }
        self.now = desk.text.analysed(now);
        self.kinds = self.now.declared();
    }

    fn mistakes(&self) -> &[Diagnostic] {
        self.now.diagnostics()
    }

    /// The word of the language at the cursor, with what it means; within a clause, what that decides.
    fn meaning(&self) -> Option<(&str, String)> {
        let at = self.byte_at_cursor();
        let book = self.now.rulebook();
        let decided = book.zip(self.now.clause_at(at)).map(|(book, clause)| decided_by(book, clause).words(book));
        let decided = decided.map(|told| told.join("; "));
        match (self.now.word_at(at), decided) {
            (None, decided) => Some(("▸", decided?)),
            (Some((span, says)), decided) => {
                let decided = decided.map_or(String::new(), |told| format!("  {told}"));
                Some((&self.now.source()[span.start..span.end], format!("{says}{decided}")))
            }
        }
    }

    /// The byte of the text before the cursor.
    fn byte_at_cursor(&self) -> usize {
        let (row, column) = (self.area.cursor().0, self.area.cursor().1);
        let before: usize = self.area.lines().iter().take(row).map(|line| line.len() + 1).sum();
        let line = self.area.lines().get(row).map_or("", String::as_str);
        before + line.char_indices().nth(column).map_or(line.len(), |(at, _)| at)
    }

    /// Begins or ends typing, which the cursor shows; whether it was typed before.
    pub fn set_typing(&mut self, typing: bool) -> bool {
        let modifier = if typing { Modifier::REVERSED } else { Modifier::UNDERLINED };
        self.area.set_cursor_style(Style::new().add_modifier(modifier));
        std::mem::replace(&mut self.typing, typing)
    }

    /// Moves the cursor while nothing is typed.
    pub fn walk(&mut self, desk: &Desk, down: i32, right: i32) {
        self.follow(desk);
        let way = match (down, right) {
            (0, ..0) => CursorMove::Back,
            (0, _) => CursorMove::Forward,
            (..0, _) => CursorMove::Up,
            _ => CursorMove::Down,
        };
        for _ in 0..down.unsigned_abs().max(right.unsigned_abs()) {
            self.area.move_cursor(way);
        }
    }

    /// Moves the cursor by lines, and the text with it.
    pub fn scroll(&mut self, lines: i32) {
        let way = if lines < 0 { CursorMove::Up } else { CursorMove::Down };
        (0..lines.unsigned_abs()).for_each(|_| self.area.move_cursor(way));
    }

    /// Where Home goes: to the first word of the line, and from there to its beginning.
    fn head(&self) -> CursorMove {
        let (row, column) = (self.area.cursor().0, self.area.cursor().1);
        let line = self.area.lines().get(row).map_or("", String::as_str);
        let first = line.chars().take_while(|c| c.is_whitespace()).count();
        if column == first { CursorMove::Head } else { CursorMove::Jump(row as u16, first as u16) }
    }

    /// Mistakes first, then warnings, each in the order of the text.
    fn listed(&self) -> Vec<&Diagnostic> {
        let mut all: Vec<&Diagnostic> = self.mistakes().iter().collect();
        all.sort_by_key(|found| found.code.severity() != Severity::Error);
        all
    }

    /// Puts the cursor on the word that a mistake of the list is about.
    pub fn go_to_mistake(&mut self, number: usize) {
        let Some(start) = self.listed().get(number).map(|found| found.span.start) else { return };
        let before = self.now.source().get(..start).unwrap_or_default();
        let row = before.matches('\n').count();
        let column = before.rsplit('\n').next().map_or(0, |line| line.chars().count());
        self.area.move_cursor(CursorMove::Jump(row as u16, column as u16));
    }

    /// To the next mistake of the list, or the one before, counted from that at the cursor; false where there is none.
    pub fn turn_to_mistake(&mut self, by: i32) -> bool {
        let at = self.byte_at_cursor();
        let listed = self.listed();
        if listed.is_empty() {
            return false;
        }
        let here = listed.iter().position(|found| found.span.start <= at && at <= found.span.end);
        let next = match here {
            Some(here) => (here as i32 + by).rem_euclid(listed.len() as i32) as usize,
            None => 0,
        };
        self.go_to_mistake(next);
        true
    }

    /// The line of the cursor, from 1.
    pub fn line(&self) -> u32 {
        self.area.cursor().0 as u32 + 1
    }

    /// Puts the cursor on a line, from 1.
    pub fn go_to_line(&mut self, line: u32) {
        self.area.move_cursor(CursorMove::Jump(line.saturating_sub(1).min(65_535) as u16, 0));
    }

    /// Writes the text into the file; the tape is played again on it.
    pub fn save(&mut self, desk: &mut Desk) {
        if desk.text.is_cut_short() {
            desk.say("the file is no UTF-8, and only its beginning is shown: mend it elsewhere");
            return;
        }
        if self.base != desk.text.source() {
            desk.text.source().clone_into(&mut self.base);
            desk.say("the file has changed since: Ctrl-s again writes over it");
            return;
        }
        let text = self.text();
        if !desk.write_whole(&text) {
            return;
        }
        self.base = text;
        let told = desk.note.take();
        desk.say(match (desk.text.mistakes.len(), told) {
            (0, None) => "saved; the game goes on under these rules".into(),
            (0, Some(told)) => format!("saved; {told}"),
            (count, _) => format!("saved, with {}: the board keeps the last good rules", counted(count, "mistake")),
        });
    }

    /// Pasted text goes in at the cursor.
    pub fn paste(&mut self, desk: &Desk, text: &str) {
        self.area.insert_str(plain_lines(text));
        self.read(desk);
    }

    /// Lines of rules that acted in the last turn, from 1.
    fn fired(&self, desk: &Desk) -> Vec<u32> {
        let Some(session) = desk.game.session.as_ref().filter(|_| !self.is_changed()) else {
            return Vec::new();
        };
        let book = session.grid().book();
        let answers = session.played().last().map_or(&[][..], |entry| entry.answers.as_slice());
        answers.iter().flat_map(|answer| &answer.fired).map(|rule| rule.at(book).line).collect()
    }
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
pub fn key(rules: &mut Rules, desk: &mut Desk, event: &KeyEvent) {
    let control = event.modifiers.contains(KeyModifiers::CONTROL);
    let editor = &mut rules.editor;
    match event.code {
        KeyCode::Esc => {
            editor.set_typing(false);
            return;
        }
        KeyCode::Char('s') if control => {
            rules.ask(desk, Ask::Save);
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
        KeyCode::PageUp => editor.scroll(-15),
        KeyCode::PageDown => editor.scroll(15),
        KeyCode::Enter => new_line(editor),
        code => {
            let shift = event.modifiers.contains(KeyModifiers::SHIFT);
            let way = if code == KeyCode::Home && !control { Some(editor.head()) } else { arrow(code, control) };
            if let Some(way) = way {
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
    editor.read(desk);
    let at = editor.byte_at_cursor();
    editor.offers = if word_before(editor.now.source(), at) < at { editor.now.completions(at) } else { Vec::new() };
}

const fn arrow(code: KeyCode, word: bool) -> Option<CursorMove> {
    Some(match code {
        KeyCode::Left if word => CursorMove::WordBack,
        KeyCode::Right if word => CursorMove::WordForward,
        KeyCode::Home => CursorMove::Top,
        KeyCode::End if word => CursorMove::Bottom,
        KeyCode::End => CursorMove::End,
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
    let at = editor.byte_at_cursor();
    let begun = at - word_before(editor.now.source(), at);
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

/// Draws the page.
pub fn render(editor: &Editor, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
    let mut hits = Vec::new();
    if editor.base.is_empty() || area.height < 4 {
        return hits;
    }
    // A list of several mistakes has a line for each, as far as it leaves the text the most of the page.
    let listed = if editor.mistakes().len() > 1 { editor.mistakes().len() as u16 + 1 } else { 0 };
    let foot = (4 + listed).min(area.height / 3).max(4.min(area.height / 3));
    let text = Rect { x: area.x + 1, width: area.width - 1, height: area.height - foot, ..area };
    // Where the text is scrolled to is the widget's own affair; it keeps the cursor in sight.
    (&editor.area).render(text, buffer);
    let (top, left) = editor.area.scroll_offset();
    let lead = editor.area.line_number_width();
    let page =
        Shown { theme, area: text, top: usize::from(top), left: usize::from(left), lead, text: editor.now.source() };
    page.colour(editor, buffer);
    let mistakes = page.mistakes(editor.mistakes(), buffer);
    for line in editor.fired(desk) {
        if let Some(y) = page.y_of(line as usize - 1) {
            buffer.set_string(area.x, y, "▸", theme.waiting());
        }
    }
    let below = Rect { y: area.bottom() - foot, height: foot, ..area };
    let mut pen = Pen::new(buffer, below, theme, 0);
    let lines = LineIndex::new(editor.now.source());
    foot_lines(editor, &lines, theme, &mut pen);
    if editor.mistakes().len() > 1 {
        let warnings = editor.mistakes().len() - mistakes;
        pen.heading(&format!("{}, {}", counted(mistakes, "mistake"), counted(warnings, "warning")));
        let room = usize::from(below.height.saturating_sub(pen.lines()));
        let width = pen.width();
        for (number, found) in editor.listed().into_iter().enumerate().take(room) {
            let y = below.y + pen.lines();
            hits.push((Rect { y, height: 1, ..below }, Ask::Mistake(number)));
            let (mark, style, text) = told(editor, &lines, found, theme);
            pen.line(&ellipsis(&format!("{mark} {text}"), width), style);
        }
    }
    hits
}

/// A mistake in a line: its mark, its look, its words.
fn told(editor: &Editor, lines: &LineIndex, found: &Diagnostic, theme: Theme) -> (&'static str, Style, String) {
    let line = lines.line(found.span.start.min(editor.now.source().len()));
    let wrong = found.code.severity() == Severity::Error;
    let (mark, style) = if wrong { ("✗", theme.refused()) } else { ("!", theme.waiting()) };
    (mark, style, format!("line {line}: {}", plain(&found.message)))
}

/// Under the text: what could stand here, and the mistake at the cursor or the first one.
fn foot_lines(editor: &Editor, lines: &LineIndex, theme: Theme, pen: &mut Pen) {
    if editor.typing && !editor.offers.is_empty() {
        let offers: Vec<&str> = editor.offers.iter().take(8).map(String::as_str).collect();
        pen.parts(&[
            ("Tab ", theme.accent()),
            (offers[0], theme.text()),
            ("  ", theme.text()),
            (&offers[1..].join("  "), theme.faint()),
        ]);
    }
    let at = editor.byte_at_cursor();
    // A mistake before any warning, there as in the list.
    let listed = editor.listed();
    let near = listed.iter().find(|found| found.span.start <= at && at <= found.span.end.max(found.span.start));
    // Without a mistake there is room for what the word at the cursor means.
    match (near.or_else(|| listed.first()), editor.meaning()) {
        (Some(found), _) => {
            let (mark, style, text) = told(editor, lines, found, theme);
            let help = found.help.as_ref().map_or(String::new(), |help| format!("  → {}", plain(help)));
            pen.wrapped(&format!("{mark} "), &format!("{text}{help}"), style);
        }
        (None, Some((word, says))) => {
            if editor.typing {
                pen.line("✓ no mistakes", theme.granted());
            }
            pen.wrapped(&format!("{word}  "), &says, theme.faint());
        }
        (None, None) if editor.typing => pen.line("✓ no mistakes", theme.granted()),
        (None, None) => {
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
            editor.kinds.iter().find(|kind| wanted(kind)).map(|kind| theme::rgb(&kind.colour))
        };
        for (number, start, line) in self.lines() {
            let from = editor.now.painted().partition_point(|part| part.span.end <= start);
            for part in editor.now.painted()[from..].iter().take_while(|part| part.span.start <= start + line.len()) {
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
                    // The cursor and what is chosen are seen before the colours of words.
                    let chosen = self.theme.chosen();
                    let free = |cell: &&mut Cell| {
                        !cell.modifier.contains(Modifier::REVERSED) && cell.style().patch(chosen) != cell.style()
                    };
                    if let Some(cell) = buffer.cell_mut((x, y)).filter(free) {
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
            // Of a line the first mistake is written out; a warning only where there is none.
            let mut here: Vec<&Diagnostic> = mistakes.iter().filter(on_line).collect();
            here.sort_by_key(|found| found.code.severity() != Severity::Error);
            for (place, found) in here.into_iter().enumerate() {
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
                    let text = ellipsis(&plain(&found.message), room);
                    buffer.set_string(x, y, text, style.add_modifier(Modifier::ITALIC));
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
