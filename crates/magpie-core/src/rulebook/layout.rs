//! Tokens to statements: what the indentation says about sections, bodies, continued lines and drawings.

use super::diagnostic::{Code, Diagnostic, Findings, Span};
use super::lexer::{Line, Token, bad_character, lines, tokens_of_line};
use crate::limits::{MOST_CELLS, MOST_TOKENS};

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
    pub tokens: Box<[Token]>,
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
#[derive(Clone, Debug, Default)]
pub struct Layout {
    /// All lines.
    pub lines: Vec<Line>,
    /// Sections in order.
    pub sections: Vec<SectionLayout>,
}

impl Layout {
    /// The statement round a byte of the text.
    pub fn statement_at(&self, at: usize) -> Option<&Statement> {
        let statements = self.sections.iter().flat_map(|section| std::iter::once(&section.head).chain(&section.body));
        let mut holding = statements.filter(|statement| {
            statement.tokens.first().is_some_and(|token| token.span.start <= at) && statement.end >= at
        });
        holding.next()
    }
}

/// Whether a section's first word opens a body.
pub fn has_body(word: &str) -> bool {
    matches!(word, "view" | "kinds" | "pace" | "rules" | "scenario" | "shapes")
}

/// Reads the layout of a source; mistakes of indentation and characters are added to `findings`.
pub fn layout(source: &str, findings: &mut Findings) -> Layout {
    let lines = lines(source);
    let mut reader = Reader::new(source, &lines, findings).keeping();
    while reader.next_section().is_some() {}
    let sections = reader.kept.unwrap_or_default();
    Layout { lines, sections }
}

/// Reads a source statement by statement, so that not all of its layout has to be kept.
pub struct Reader<'a> {
    source: &'a str,
    lines: &'a [Line],
    at: usize,
    /// Mistakes of all that has been read.
    pub findings: &'a mut Findings,
    /// The tokens of the statement at hand.
    tokens: Vec<Token>,
    body: Option<Body<'a>>,
    /// All that has been read, where it is wanted.
    pub kept: Option<Vec<SectionLayout>>,
}

/// A section whose body is being read.
struct Body<'a> {
    word: &'a str,
    /// How far its first line is indented.
    indent: Option<usize>,
}

impl<'a> Reader<'a> {
    /// Begins at the first of the lines of a source.
    pub fn new(source: &'a str, lines: &'a [Line], findings: &'a mut Findings) -> Self {
        lines.iter().filter_map(|line| bad_character(source, line)).for_each(|found| findings.push(found));
        Self { source, lines, at: 0, findings, tokens: Vec::with_capacity(32), body: None, kept: None }
    }

    /// Keeps all that is read.
    pub fn keeping(self) -> Self {
        Self { kept: Some(Vec::new()), ..self }
    }

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

    /// The head of the next section; what is left of the present one is passed over.
    pub fn next_section(&mut self) -> Option<Statement> {
        while self.next_of_body().is_some() {}
        if !self.skip_empty() {
            return None;
        }
        let line = self.lines[self.at];
        if line.indent > 0 {
            self.indentation(&line, "a section begins at the left edge");
        }
        let mut head = self.first_line();
        let word = self.word(&head, 0);
        if word == "glyph" {
            self.tokens.clear();
            tokens_of_line(self.source, &line, Some(1), &mut self.tokens);
            head.tokens = self.tokens.as_slice().into();
            head.end = head.tokens.last().map_or(line.text, |token| token.span.end);
        }
        if has_body(word) {
            self.body = Some(Body { word, indent: None });
        } else if word == "map" && head.tokens.len() <= 2 {
            self.drawing(&mut head, line.indent);
        } else {
            self.continued(&mut head, line.indent, None);
        }
        if let Some(kept) = &mut self.kept {
            kept.push(SectionLayout { head: head.clone(), body: Vec::new() });
        }
        Some(head)
    }

    /// The next statement of the present section's body.
    pub fn next_of_body(&mut self) -> Option<Statement> {
        let Body { word: section, indent } = self.body.take()?;
        if !self.skip_empty() || self.lines[self.at].indent == 0 {
            return None;
        }
        let line = self.lines[self.at];
        let indent = indent.unwrap_or(line.indent);
        self.body = Some(Body { word: section, indent: Some(indent) });
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
        if let Some(section) = self.kept.as_mut().and_then(|kept| kept.last_mut()) {
            section.body.push(statement.clone());
        }
        Some(statement)
    }

    fn indentation(&mut self, line: &Line, rule: &str) {
        let message = format!("this line is indented by {} where it cannot be: {rule}", line.indent);
        let end = self.source[line.text..line.span.end].find([' ', '\t']).map_or(line.span.end, |at| line.text + at);
        self.findings.push(Diagnostic::new(Span::new(line.text, end), Code::Indentation, message));
    }

    fn first_line(&mut self) -> Statement {
        self.first_line_with(None)
    }

    fn first_line_with(&mut self, glyph_at: Option<usize>) -> Statement {
        let line = &self.lines[self.at];
        self.tokens.clear();
        tokens_of_line(self.source, line, glyph_at, &mut self.tokens);
        self.at += 1;
        let end = self.tokens.last().map_or(line.text, |token| token.span.end);
        Statement { tokens: self.tokens.as_slice().into(), drawing: None, lines: (self.at - 1, self.at), end }
    }

    /// Adds the lines below that are indented deeper than the statement.
    fn continued(&mut self, statement: &mut Statement, indent: usize, glyph_at: Option<usize>) {
        while self.skip_empty() {
            let line = &self.lines[self.at];
            if line.indent <= indent {
                break;
            }
            tokens_of_line(self.source, line, glyph_at, &mut self.tokens);
            self.at += 1;
            statement.lines.1 = self.at;
        }
        if self.tokens.len() > statement.tokens.len() {
            statement.tokens = self.tokens.as_slice().into();
        }
        statement.end = statement.tokens.last().map_or(statement.end, |token| token.span.end);
        if let Some(token) = statement.tokens.get(MOST_TOKENS) {
            let message = format!("a statement of more than {MOST_TOKENS} words is too long");
            self.findings.push(Diagnostic::new(token.span, Code::TooDeep, message).help("split it into several"));
            statement.tokens = Box::default();
        }
    }

    fn drawing(&mut self, statement: &mut Statement, indent: usize) {
        let mut rows: Vec<Option<&Line>> = Vec::new();
        let mut last = (0, self.at);
        while let Some(line) = self.lines.get(self.at) {
            // A drawing with more rows is too large, whatever stands in them.
            let fits = rows.len() as u64 <= MOST_CELLS;
            if line.blank {
                if !rows.is_empty() && fits {
                    rows.push(None);
                }
            } else if line.indent > indent {
                if fits {
                    rows.push(Some(line));
                }
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
            self.findings.push(
                Diagnostic::new(span, Code::BadCharacter, message).help("write blanks: each stands for a void cell"),
            );
        }
        DrawnRow { lead: line.indent - cut, span: Span::new(line.text, line.text + text.len()) }
    }
}
