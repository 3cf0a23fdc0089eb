//! Tokens to statements: what the indentation says about sections, bodies, continued lines and drawings.

use super::diagnostic::{Code, Diagnostic, Span};
use super::lexer::{Line, Token, bad_character, lines, tokens_of_line};
use crate::limits::MOST_TOKENS;

/// One row of a drawing.
#[derive(Clone, Copy, Debug)]
pub struct DrawnRow {
    /// Blank cells before the text.
    pub lead: usize,
    /// The characters, without blanks at the end.
    pub span: Span,
}

/// The rows below a header, top first.
#[derive(Clone, Debug, Default)]
pub struct Drawing {
    /// Rows, the common indentation cut off.
    pub rows: Vec<DrawnRow>,
    /// Just behind the header, where a missing drawing is reported.
    pub header_end: usize,
}

/// The tokens of a statement, over however many lines it goes on.
#[derive(Clone, Debug)]
pub struct Statement {
    /// Its tokens.
    pub tokens: Vec<Token>,
    /// Its drawing, where one belongs there.
    pub drawing: Option<Drawing>,
    /// Numbers of its first line and of the line behind its last, from 0.
    pub lines: (usize, usize),
    /// The byte behind its last token.
    pub end: usize,
}

/// A section: its head and the statements of its body.
#[derive(Clone, Debug)]
pub struct SectionLayout {
    /// The unindented statement.
    pub head: Statement,
    /// The statements below it, where its first word opens a body.
    pub body: Vec<Statement>,
}

/// The statements of a source.
#[derive(Clone, Debug)]
pub struct Layout {
    /// All lines.
    pub lines: Vec<Line>,
    /// Sections in order.
    pub sections: Vec<SectionLayout>,
}

/// Whether a section's first word opens a body.
pub fn has_body(word: &str) -> bool {
    matches!(word, "view" | "kinds" | "pace" | "rules" | "scenario" | "shapes")
}

/// Reads the layout of a source; mistakes of indentation and characters are added to `diagnostics`.
pub fn layout(source: &str, diagnostics: &mut Vec<Diagnostic>) -> Layout {
    let lines = lines(source);
    diagnostics.extend(lines.iter().filter_map(|line| bad_character(source, line)));
    let mut reader = Reader { source, lines: &lines, at: 0, diagnostics };
    let mut sections = Vec::new();
    while reader.skip_empty() {
        sections.push(reader.section());
    }
    Layout { lines, sections }
}

struct Reader<'a> {
    source: &'a str,
    lines: &'a [Line],
    at: usize,
    diagnostics: &'a mut Vec<Diagnostic>,
}

impl<'a> Reader<'a> {
    /// Moves to the next line with something on it.
    fn skip_empty(&mut self) -> bool {
        while self.lines.get(self.at).is_some_and(|line| line.blank || line.comment) {
            self.at += 1;
        }
        self.at < self.lines.len()
    }

    fn word(&self, statement: &Statement, at: usize) -> &'a str {
        statement.tokens.get(at).map_or("", |token| &self.source[token.span.start..token.span.end])
    }

    fn section(&mut self) -> SectionLayout {
        let line = self.lines[self.at];
        if line.indent > 0 {
            self.indentation(&line, "a section begins at the left edge");
        }
        let mut head = self.first_line();
        let word = self.word(&head, 0);
        if word == "glyph" {
            head.tokens.clear();
            tokens_of_line(self.source, &line, Some(1), &mut head.tokens);
            head.end = head.tokens.last().map_or(line.text, |token| token.span.end);
        }
        let mut body = Vec::new();
        if has_body(word) {
            self.body(word, &mut body);
        } else if word == "map" && head.tokens.len() <= 2 {
            self.drawing(&mut head, line.indent);
        } else {
            self.continued(&mut head, line.indent, None);
        }
        SectionLayout { head, body }
    }

    fn body(&mut self, section: &str, body: &mut Vec<Statement>) {
        let mut first: Option<usize> = None;
        while self.skip_empty() {
            let line = self.lines[self.at];
            if line.indent == 0 {
                return;
            }
            let indent = *first.get_or_insert(line.indent);
            if line.indent < indent {
                self.indentation(&line, "the lines of a section are all indented as far as its first one");
            }
            let glyph_at = (section == "kinds").then_some(1);
            let mut statement = self.first_line_with(glyph_at);
            let word = self.word(&statement, 0);
            let drawn = match section {
                "shapes" => true,
                "scenario" => matches!(word, "map" | "expect"),
                _ => false,
            };
            if drawn && statement.tokens.len() == 1 {
                self.drawing(&mut statement, line.indent);
            } else {
                self.continued(&mut statement, indent.max(line.indent), glyph_at);
            }
            body.push(statement);
        }
    }

    fn indentation(&mut self, line: &Line, rule: &str) {
        let message = format!("this line is indented by {} where it cannot be: {rule}", line.indent);
        let end = self.source[line.text..line.span.end].find([' ', '\t']).map_or(line.span.end, |at| line.text + at);
        self.diagnostics.push(Diagnostic::new(Span::new(line.text, end), Code::Indentation, message));
    }

    fn first_line(&mut self) -> Statement {
        self.first_line_with(None)
    }

    fn first_line_with(&mut self, glyph_at: Option<usize>) -> Statement {
        let line = &self.lines[self.at];
        let mut tokens = Vec::with_capacity(24);
        tokens_of_line(self.source, line, glyph_at, &mut tokens);
        self.at += 1;
        let end = tokens.last().map_or(line.text, |token| token.span.end);
        Statement { tokens, drawing: None, lines: (self.at - 1, self.at), end }
    }

    /// Adds the lines below that are indented deeper than the statement.
    fn continued(&mut self, statement: &mut Statement, indent: usize, glyph_at: Option<usize>) {
        while self.skip_empty() {
            let line = &self.lines[self.at];
            if line.indent <= indent {
                break;
            }
            tokens_of_line(self.source, line, glyph_at, &mut statement.tokens);
            self.at += 1;
            statement.lines.1 = self.at;
        }
        statement.end = statement.tokens.last().map_or(statement.end, |token| token.span.end);
        if let Some(token) = statement.tokens.get(MOST_TOKENS) {
            let message = format!("a statement of more than {MOST_TOKENS} words is too long");
            self.diagnostics.push(Diagnostic::new(token.span, Code::TooDeep, message).help("split it into several"));
            statement.tokens.clear();
        }
    }

    fn drawing(&mut self, statement: &mut Statement, indent: usize) {
        let mut rows: Vec<Option<&Line>> = Vec::new();
        let mut last = (0, self.at);
        while let Some(line) = self.lines.get(self.at) {
            if line.blank {
                if !rows.is_empty() {
                    rows.push(None);
                }
            } else if line.indent > indent {
                rows.push(Some(line));
                last = (rows.len(), self.at + 1);
            } else if !line.comment {
                break;
            }
            self.at += 1;
        }
        rows.truncate(last.0);
        self.at = last.1;
        let cut = rows.iter().flatten().map(|line| line.indent).min().unwrap_or(0);
        let rows = rows
            .into_iter()
            .map(|row| match row {
                None => DrawnRow { lead: 0, span: Span::new(statement.end, statement.end) },
                Some(line) => self.drawn_row(line, cut),
            })
            .collect();
        statement.lines.1 = self.at;
        statement.drawing = Some(Drawing { rows, header_end: statement.end });
    }

    fn drawn_row(&mut self, line: &Line, cut: usize) -> DrawnRow {
        let text = &self.source[line.text..line.span.end];
        let text = text.trim_end_matches([' ', '\t']);
        if let Some(at) = text.find('\t')
            && !text[..at].contains(|c: char| c.is_control())
        {
            let span = Span::new(line.text + at, line.text + at + 1);
            let message = "a tab cannot stand in a row of a drawing";
            self.diagnostics.push(
                Diagnostic::new(span, Code::BadCharacter, message).help("write blanks: each stands for a void cell"),
            );
        }
        DrawnRow { lead: line.indent - cut, span: Span::new(line.text, line.text + text.len()) }
    }
}
