//! Documents as editors count them: lines, and characters in the encoding that was agreed on.

use lsp_types::{Position, Range};
use magpie_core::rulebook::document::Analysis;
use magpie_core::rulebook::{Loader, Span};

/// How characters are counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Encoding {
    Utf8,
    Utf16,
    Utf32,
}

impl Encoding {
    /// The first of the client's list that is known.
    pub fn agreed(list: &[String]) -> Self {
        let known = |word: &String| match word.as_str() {
            "utf-8" => Some(Self::Utf8),
            "utf-16" => Some(Self::Utf16),
            "utf-32" => Some(Self::Utf32),
            _ => None,
        };
        list.iter().find_map(known).unwrap_or(Self::Utf16)
    }

    pub const fn word(self) -> &'static str {
        match self {
            Self::Utf8 => "utf-8",
            Self::Utf16 => "utf-16",
            Self::Utf32 => "utf-32",
        }
    }

    pub fn length(self, text: &str) -> usize {
        match self {
            Self::Utf8 => text.len(),
            // Most of a rulebook is ASCII, whose characters count one in each.
            _ if text.is_ascii() => text.len(),
            Self::Utf16 => text.encode_utf16().count(),
            Self::Utf32 => text.chars().count(),
        }
    }
}

/// A document that is open in the editor, read once.
#[derive(Debug)]
pub struct Document {
    pub read: Analysis,
    starts: Vec<usize>,
}

impl Document {
    pub fn new(text: String, loader: Loader) -> Self {
        let ends = text.bytes().enumerate().filter(|(_, byte)| *byte == b'\n').map(|(at, _)| at + 1);
        let starts = std::iter::once(0).chain(ends).collect();
        Self { read: Analysis::new(text, loader), starts }
    }

    pub fn text(&self) -> &str {
        self.read.source()
    }

    /// The text of a line without its end.
    fn line(&self, number: usize) -> &str {
        let start = self.starts.get(number).copied().unwrap_or(self.text().len());
        let end = self.starts.get(number + 1).copied().unwrap_or(self.text().len());
        self.text()[start..end].trim_end_matches(['\n', '\r'])
    }

    /// The byte of a position; beyond a line's end, that end.
    pub fn byte(&self, at: Position, encoding: Encoding) -> usize {
        let line = at.line as usize;
        if line >= self.starts.len() {
            return self.text().len();
        }
        let text = self.line(line);
        let mut left = at.character as usize;
        let mut byte = 0;
        for c in text.chars() {
            let wide = encoding.length(c.encode_utf8(&mut [0; 4]));
            if left < wide {
                break;
            }
            left -= wide;
            byte += c.len_utf8();
        }
        self.starts[line] + byte
    }

    /// The position of a byte.
    pub fn position(&self, byte: usize, encoding: Encoding) -> Position {
        let byte = byte.min(self.text().len());
        let line = self.starts.partition_point(|start| *start <= byte) - 1;
        let before = self.text().get(self.starts[line]..byte).unwrap_or_default();
        Position::new(line as u32, encoding.length(before) as u32)
    }

    pub fn range(&self, span: Span, encoding: Encoding) -> Range {
        Range::new(self.position(span.start, encoding), self.position(span.end, encoding))
    }

    /// All of it.
    pub fn whole(&self, encoding: Encoding) -> Range {
        self.range(Span::new(0, self.text().len()), encoding)
    }
}
