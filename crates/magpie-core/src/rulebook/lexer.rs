//! Characters to tokens, a line at a time.

use super::diagnostic::{Code, Diagnostic, Span};
use crate::limits::MOST_TOKENS;
use unicode_properties::{GeneralCategoryGroup, UnicodeGeneralCategory};
use unicode_width::UnicodeWidthChar;

/// What a token is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TokenKind {
    /// A word `[a-z][a-z0-9-]*`, `8-way`, `px/s` or `cells/s`.
    Word,
    /// A number or a quotient of two.
    Number,
    /// `"..."`, quotes included.
    Text,
    /// One of `, : = != < <= > >= + - ( ) %`.
    Symbol,
    /// A glyph, read as a whole by its place.
    Glyph,
    /// Something that is none of these; the code says what.
    Bad(Code),
}

/// A token and its place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Token {
    /// What it is.
    pub kind: TokenKind,
    /// Where it stands.
    pub span: Span,
}

/// One line of the source, without its end.
#[derive(Clone, Copy, Debug)]
pub struct Line {
    /// The bytes of the line.
    pub span: Span,
    /// The first byte that is no white space.
    pub text: usize,
    /// Columns of white space before it, tabs reaching up to multiples of four.
    pub indent: usize,
    /// Nothing or white space only.
    pub blank: bool,
    /// A comment and nothing else.
    pub comment: bool,
}

/// Splits a source into lines; LF and CRLF end one.
pub fn lines(source: &str) -> Vec<Line> {
    let mut found = Vec::with_capacity(1 + source.bytes().filter(|byte| *byte == b'\n').count());
    let mut start = if source.starts_with('\u{feff}') { '\u{feff}'.len_utf8() } else { 0 };
    while start <= source.len() {
        let end = source[start..].find('\n').map_or(source.len(), |at| start + at);
        let stop = if source[start..end].ends_with('\r') && end < source.len() { end - 1 } else { end };
        if start < source.len() || found.is_empty() {
            found.push(line(source, Span::new(start, stop)));
        }
        start = end + 1;
    }
    found
}

fn line(source: &str, span: Span) -> Line {
    let mut indent = 0;
    let mut text = span.start;
    for byte in source[span.start..span.end].bytes() {
        match byte {
            b' ' => indent += 1,
            b'\t' => indent = (indent / 4 + 1) * 4,
            _ => break,
        }
        text += 1;
    }
    let rest = &source[text..span.end];
    Line { span, text, indent, blank: rest.is_empty(), comment: rest.starts_with("//") }
}

/// The first control character of a line other than tab, as a diagnostic.
pub fn bad_character(source: &str, line: &Line) -> Option<Diagnostic> {
    let text = &source[line.span.start..line.span.end];
    // Control characters are these bytes, or begin with 0xC2; most lines have none.
    if text.bytes().all(|byte| byte >= 0x20 && byte != 0x7f && byte != 0xc2) {
        return None;
    }
    let (at, found) = text.char_indices().find(|(_, c)| c.is_control() && *c != '\t')?;
    let start = line.span.start + at;
    let span = Span::new(start, start + found.len_utf8());
    Some(
        Diagnostic::new(
            span,
            Code::BadCharacter,
            format!("the control character U+{:04X} cannot stand in a rulebook", found as u32),
        )
        .help("delete it; indent with blanks or tabs and end lines with LF or CRLF"),
    )
}

const SYMBOLS: [u8; 11] = *b",:=!<>+()%\"";

/// Reads the tokens of one line behind those already read; `glyph_at` is the place of a glyph among a statement's tokens.
pub fn tokens_of_line(source: &str, line: &Line, glyph_at: Option<usize>, into: &mut Vec<Token>) {
    let mut at = line.text;
    loop {
        let line_bytes = &source.as_bytes()[..line.span.end];
        while matches!(line_bytes.get(at), Some(b' ' | b'\t')) {
            at += 1;
        }
        let rest = &source[at..line.span.end];
        if rest.is_empty() || rest.starts_with("//") || into.len() > MOST_TOKENS {
            return;
        }
        let (kind, length) = if glyph_at == Some(into.len()) { glyph(rest) } else { token(rest) };
        into.push(Token { kind, span: Span::new(at, at + length) });
        at += length;
    }
}

fn glyph(rest: &str) -> (TokenKind, usize) {
    let field = rest.split([' ', '\t']).next().unwrap_or(rest);
    let mut chars = field.chars();
    let kind = match (chars.next(), chars.next()) {
        (Some(one), None) if is_glyph(one) => TokenKind::Glyph,
        _ if field.chars().any(char::is_control) => TokenKind::Bad(Code::BadCharacter),
        _ => TokenKind::Bad(Code::BadGlyph),
    };
    (kind, field.len())
}

/// Whether a character can be a glyph: visible by itself, of width one, not `"` or `_`.
pub fn is_glyph(one: char) -> bool {
    let seen = match one.general_category_group() {
        GeneralCategoryGroup::Letter
        | GeneralCategoryGroup::Number
        | GeneralCategoryGroup::Punctuation
        | GeneralCategoryGroup::Symbol => true,
        // What stands on another character, separates, formats, or is no character yet or not everywhere the same.
        GeneralCategoryGroup::Mark | GeneralCategoryGroup::Separator | GeneralCategoryGroup::Other => false,
    };
    // Two fillers are letters and symbols by their category, and nothing is seen of them.
    seen && one.width() == Some(1) && !matches!(one, '"' | '_' | '\u{2800}' | '\u{ffa0}')
}

fn token(rest: &str) -> (TokenKind, usize) {
    if let Some(text) = rest.strip_prefix('"') {
        return match text.find('"') {
            Some(end) if text[..end].chars().any(char::is_control) => (bad_control(&text[..end]), end + 2),
            Some(end) => (TokenKind::Text, end + 2),
            None => (TokenKind::Bad(Code::UnclosedText), rest.trim_end().len()),
        };
    }
    let first = rest.as_bytes()[0];
    if SYMBOLS.contains(&first) {
        if matches!(first, b'!' | b'<' | b'>') && rest.as_bytes().get(1) == Some(&b'=') {
            return (TokenKind::Symbol, 2);
        }
        if first != b'!' {
            return (TokenKind::Symbol, 1);
        }
    }
    // Everything that ends a run is ASCII, so that its bytes can be looked at one by one.
    let bytes = rest.as_bytes();
    let ends = |at: usize| match bytes[at] {
        b' ' | b'\t' => true,
        b'/' => bytes.get(at + 1) == Some(&b'/'),
        byte => SYMBOLS.contains(&byte),
    };
    let end = (1..bytes.len()).find(|at| ends(*at)).unwrap_or(bytes.len());
    (run(&rest[..end]), end)
}

fn bad_control(text: &str) -> TokenKind {
    // A tab is welcome in a text; every other control character has been reported with its line.
    if text.chars().any(|c| c.is_control() && c != '\t') { TokenKind::Bad(Code::BadCharacter) } else { TokenKind::Text }
}

fn run(run: &str) -> TokenKind {
    if run == "-" {
        TokenKind::Symbol
    } else if is_word(run) || matches!(run, "8-way" | "px/s" | "cells/s") {
        TokenKind::Word
    } else if is_number(run) || run.split_once('/').is_some_and(|(a, b)| is_number(a) && is_number(b)) {
        TokenKind::Number
    } else if run.chars().any(char::is_control) {
        TokenKind::Bad(Code::BadCharacter)
    } else {
        TokenKind::Bad(Code::BadWord)
    }
}

/// Whether a text is a word `[a-z][a-z0-9-]*`.
pub fn is_word(text: &str) -> bool {
    text.starts_with(|c: char| c.is_ascii_lowercase())
        && text.bytes().all(|b| b.is_ascii_lowercase() || b.is_ascii_digit() || b == b'-')
}

/// Whether a text is a number `-?[0-9]+(\.[0-9]+)?`.
pub fn is_number(text: &str) -> bool {
    let digits = |part: &str| !part.is_empty() && part.bytes().all(|b| b.is_ascii_digit());
    let text = text.strip_prefix('-').unwrap_or(text);
    match text.split_once('.') {
        Some((whole, part)) => digits(whole) && digits(part),
        None => digits(text),
    }
}

/// How a run that is no word and no number should have been written.
pub fn advice(run: &str) -> String {
    let split = run.find(|c: char| !c.is_ascii_digit() && c != '.').filter(|at| *at > 0);
    let lower = run.to_lowercase();
    if let Some(at) = split {
        let (number, unit) = run.split_at(at);
        if let Some(rows) = unit.strip_prefix('x').filter(|rows| is_number(rows)) {
            return format!("write `{number} x {rows}`");
        }
        if let Ok(value) = run.parse::<f64>()
            && value.is_finite()
            && value.abs() < 1e15
        {
            return format!("write `{value}`");
        }
        if is_number(number)
            && let "s" | "sec" | "second" | "seconds" = unit
            && let Ok(seconds) = number.parse::<f64>()
        {
            return format!("write `{} ms`: times are in milliseconds", (seconds * 1e6).round() / 1e3);
        }
        if is_number(number) && (is_word(unit) || unit == "px/s" || unit == "cells/s") {
            return format!("write `{number} {unit}`");
        }
        if is_number(number) && unit.starts_with('-') && is_number(&unit[1..]) {
            return format!("write `{number} - {}`", &unit[1..]);
        }
    }
    if run.starts_with('.') && is_number(&format!("0{run}")) {
        return format!("write `0{run}`");
    }
    if run.ends_with('.') && is_number(run.trim_end_matches('.')) {
        return format!("write `{}`", run.trim_end_matches('.'));
    }
    if run.contains('/') || lower.rsplit_once('.').is_some_and(|(_, ending)| ending == "txt") {
        return format!("write `\"{}\"`: the name of a file stands in quotes", run.trim_matches('"'));
    }
    let plain = lower.replace(['_', '.'], "-");
    if is_word(&plain) {
        return format!("write `{plain}`: words are lower case, with digits and `-`");
    }
    "words are lower-case letters, digits and `-`; numbers are digits with at most one point".into()
}
