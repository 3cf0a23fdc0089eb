//! One layout for all rulebooks: two blanks of indentation, one between words, kinds in columns, drawings cut and
//! indented anew, comments kept, at most one blank line together.

use super::diagnostic::{Findings, Severity, Span};
use super::layout::{Drawing, Layout, Statement, layout};
use super::lexer::{Token, TokenKind};
use super::parser;
use hashbrown::HashMap;
use unicode_width::UnicodeWidthStr;

/// Formats a source, `None` where it has mistakes of form.
pub fn format(source: &str) -> Option<String> {
    let mut findings = Findings::default();
    let (layout, _) = parser::parse_with_layout(source, &mut findings);
    if findings.any(|code| code.severity() == Severity::Error) {
        return None;
    }
    let mut writer = Writer { source, layout: &layout, done: 0, out: Vec::new(), in_body: false };
    for section in &layout.sections {
        writer.in_body = false;
        writer.statement(&section.head, 0, &[]);
        let word = writer.word(&section.head);
        writer.in_body = super::layout::has_body(word);
        let widths = if word == "kinds" { writer.widths(&section.body) } else { Vec::new() };
        for statement in &section.body {
            writer.statement(statement, 2, &widths);
        }
    }
    writer.comments_up_to(layout.lines.len(), 0);
    Some(writer.finish())
}

/// Rules of a source as [`format`] writes them, each on one line and without comments.
pub fn on_one_line(source: &str, rules: &[Span]) -> Vec<String> {
    let layout = layout(source, &mut Findings::default());
    let writer = Writer { source, layout: &layout, done: 0, out: Vec::new(), in_body: false };
    let statements = layout.sections.iter().flat_map(|section| std::iter::once(&section.head).chain(&section.body));
    let begins: HashMap<usize, &Statement> =
        statements.filter_map(|statement| Some((statement.tokens.first()?.span.start, statement))).collect();
    let one = |rule: &Span| begins.get(&rule.start).map_or_else(String::new, |statement| writer.words(statement));
    rules.iter().map(one).collect()
}

struct Writer<'a> {
    source: &'a str,
    layout: &'a Layout,
    /// Lines written so far.
    done: usize,
    out: Vec<String>,
    in_body: bool,
}

impl<'a> Writer<'a> {
    fn text(&self, token: Token) -> &'a str {
        &self.source[token.span.start..token.span.end]
    }

    fn word(&self, statement: &Statement) -> &'a str {
        statement.tokens.first().map_or("", |token| self.text(*token))
    }

    /// All words of a statement, as they stand apart.
    fn words(&self, statement: &Statement) -> String {
        let mut text = String::new();
        let mut before: Option<Token> = None;
        for token in &statement.tokens {
            if before.is_some_and(|last| self.apart(statement, last, *token)) {
                text.push(' ');
            }
            text.push_str(self.text(*token));
            before = Some(*token);
        }
        text
    }

    /// Writes blank lines and comments before a line; those inside a body stay indented.
    fn comments_up_to(&mut self, line: usize, indent: usize) {
        while self.done < line {
            let found = self.layout.lines[self.done];
            if found.blank {
                self.blank();
            } else if found.comment {
                let indent = if found.indent == 0 { 0 } else { indent.max(if self.in_body { 2 } else { 0 }) };
                let text = self.source[found.text..found.span.end].trim_end();
                self.out.push(" ".repeat(indent) + text);
            }
            self.done += 1;
        }
    }

    fn blank(&mut self) {
        if self.out.last().is_some_and(|last| !last.is_empty()) {
            self.out.push(String::new());
        }
    }

    fn statement(&mut self, statement: &Statement, indent: usize, widths: &[usize]) {
        self.comments_up_to(statement.lines.0, 0);
        let mut before: Option<Token> = None;
        let mut tokens = statement.tokens.iter().copied().enumerate().peekable();
        let head_lines = if statement.drawing.is_some() { statement.lines.0 + 1 } else { statement.lines.1 };
        let first = statement.lines.0;
        for at in first..head_lines {
            let line = self.layout.lines[at];
            if line.blank || line.comment {
                self.comments_up_to(at + 1, if at > first { indent + 2 } else { indent });
                continue;
            }
            let mut text = " ".repeat(if at == first { indent } else { indent + 2 });
            let start = text.len();
            let mut end = line.text;
            while let Some((number, token)) = tokens.next_if(|(_, token)| token.span.end <= line.span.end) {
                if text.len() > start && before.is_some_and(|last| self.apart(statement, last, token)) {
                    text.push(' ');
                }
                let column = number.checked_sub(1).and_then(|column| widths.get(column));
                if let (Some(width), true) = (column, number < 4 && !widths.is_empty()) {
                    let missing = (start + width).saturating_sub(text.width());
                    if !self.text(token).starts_with(',') {
                        text.push_str(&" ".repeat(missing));
                    }
                }
                text.push_str(self.text(token));
                before = Some(token);
                end = token.span.end;
            }
            let comment = self.source[end..line.span.end].trim();
            if !comment.is_empty() {
                text.push_str("  ");
                text.push_str(comment);
            }
            self.out.push(text);
            self.done = at + 1;
        }
        if let Some(drawing) = &statement.drawing {
            self.drawing(statement, drawing, indent);
        }
    }

    fn drawing(&mut self, statement: &Statement, drawing: &Drawing, indent: usize) {
        let rows: Vec<usize> = drawing.rows.iter().map(|row| row.span.start).collect();
        let mut at = 0;
        for number in self.done..statement.lines.1 {
            let line = self.layout.lines[number];
            let in_rows = at > 0 && at < rows.len();
            if line.blank && in_rows {
                self.out.push(String::new());
                at += 1;
            } else if at < rows.len() && rows[at] == line.text {
                let row = drawing.rows[at];
                let text = &self.source[row.span.start..row.span.end];
                self.out.push(" ".repeat(indent + 2 + row.lead) + text);
                at += 1;
            } else if line.comment {
                let text = self.source[line.text..line.span.end].trim_end();
                self.out.push(" ".repeat(if line.indent == 0 { 0 } else { indent }) + text);
            }
        }
        self.done = statement.lines.1;
    }

    /// The columns at which glyph, layer and colour of a `kinds` section begin, counted from the name.
    fn widths(&self, body: &[Statement]) -> Vec<usize> {
        let widest = |field: usize| {
            body.iter()
                .filter(|statement| statement.tokens.len() > field)
                .map(|statement| self.text(statement.tokens[field]).width())
                .max()
                .unwrap_or(0)
        };
        let glyph = widest(0) + 1;
        vec![glyph, glyph + 2, glyph + 2 + widest(2) + 1]
    }

    /// Whether a blank stands between two tokens.
    fn apart(&self, statement: &Statement, last: Token, next: Token) -> bool {
        let (a, b) = (self.text(last), self.text(next));
        let symbol = |token: Token| token.kind == TokenKind::Symbol;
        if symbol(next) && matches!(b, "," | ":" | ")" | "%") || symbol(last) && a == "(" {
            // `tap : 1 , 2` of an `inputs` line is written as one word.
            return false;
        }
        let inputs = self.word(statement) == "inputs" && statement.tokens.len() > 1;
        if inputs && (symbol(last) || symbol(next)) {
            return false;
        }
        true
    }

    fn finish(mut self) -> String {
        while self.out.last().is_some_and(String::is_empty) {
            self.out.pop();
        }
        let mut text = self.out.join("\n");
        text.push('\n');
        text
    }
}
