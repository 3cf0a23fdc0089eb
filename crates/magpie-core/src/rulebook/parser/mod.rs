//! Statements to a syntax tree: recursive descent with one token of lookahead, recovering at the end of each statement.

mod bodies;
mod rules;
mod sections;

use super::diagnostic::{Code, Diagnostic, Expected, Findings, Span, nearest};
use super::layout::{self, Layout, Statement};
use super::lexer::{Token, TokenKind, advice, lines};
use super::syntax::{Name, Num, Section};

/// Reserved words of the language, sorted.
pub const RESERVED: &[&str] = &[
    "active",
    "ahead",
    "always",
    "and",
    "any",
    "at",
    "blocked",
    "chosen",
    "column",
    "count",
    "dragged",
    "dropped",
    "each",
    "edge",
    "else",
    "every",
    "from",
    "granted",
    "heading",
    "here",
    "if",
    "in",
    "into",
    "lose",
    "lost",
    "matched",
    "matches",
    "never",
    "not",
    "of",
    "off",
    "on",
    "or",
    "patch",
    "refused",
    "row",
    "run",
    "shape",
    "signal",
    "tapped",
    "the",
    "to",
    "unfinished",
    "void",
    "when",
    "win",
    "with",
    "won",
];

/// Whether a word is reserved.
fn is_reserved(word: &str) -> bool {
    RESERVED.binary_search(&word).is_ok()
}

/// The tree of a source and what could not be read.
#[derive(Debug, Default)]
pub struct Parsed {
    /// Sections that could be read, holes left out.
    pub sections: Vec<Section>,
    /// First words of all sections, also of those that could not be read.
    pub section_words: Vec<Name>,
    /// What the statements with mistakes of form declare all the same.
    pub salvaged: Vec<Salvaged>,
    /// First unknown first word of a section.
    pub unknown_section: Option<Span>,
    /// Where names stand that are the rulebook's own, and of what.
    pub names: Vec<(Span, &'static str)>,
}

/// A declaration found in a statement that could not be read.
#[derive(Debug, Clone, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Salvaged {
    Kind(Name, Option<char>),
    Glyph(Option<char>),
    Group(Name),
    Layer(Name),
    Counter(Name),
    Timer(Name),
    Shape(Name),
    Map(Name),
}

/// Parses all statements of a source.
pub fn parse(source: &str, findings: &mut Findings) -> Parsed {
    let lines = lines(source);
    parse_all(source, &mut layout::Reader::new(source, &lines, findings))
}

/// The same, with the layout that was read on the way.
pub fn parse_with_layout(source: &str, findings: &mut Findings) -> (Layout, Parsed) {
    let lines = lines(source);
    let mut reader = layout::Reader::new(source, &lines, findings).keeping();
    let parsed = parse_all(source, &mut reader);
    let sections = reader.kept.unwrap_or_default();
    (Layout { lines, sections }, parsed)
}

fn parse_all(source: &str, reader: &mut layout::Reader) -> Parsed {
    let mut parsed = Parsed::default();
    while let Some(head) = reader.next_section() {
        sections::section(source, head, reader, &mut parsed);
    }
    parsed
}

/// What a construct gives, or the mistake that ends its statement.
type Parse<T> = Result<T, Box<Diagnostic>>;

/// The tokens of one statement, and what would have been accepted at the current one.
struct Parser<'a> {
    source: &'a str,
    tokens: Box<[Token]>,
    at: usize,
    end: usize,
    /// Symbols and descriptions that would have been accepted.
    symbols: Vec<&'static str>,
    expected: Vec<&'static str>,
    words: Vec<&'static str>,
    names: bool,
    depth: usize,
    /// Names that were read.
    seen: Vec<(Span, &'static str)>,
    /// Nobody will read what a mistake says: it is only counted.
    quiet: bool,
}

impl<'a> Parser<'a> {
    fn new(source: &'a str) -> Self {
        Self {
            source,
            tokens: Box::default(),
            at: 0,
            end: 0,
            symbols: Vec::with_capacity(8),
            expected: Vec::with_capacity(4),
            words: Vec::with_capacity(32),
            names: false,
            depth: 0,
            seen: Vec::new(),
            quiet: false,
        }
    }

    /// Goes over to a statement and takes its tokens, keeping the lists.
    fn begin(&mut self, statement: &mut Statement) {
        self.tokens = std::mem::take(&mut statement.tokens);
        self.end = statement.end;
        self.depth = 0;
        self.at = 0;
        self.forget();
    }

    fn forget(&mut self) {
        self.symbols.clear();
        self.expected.clear();
        self.words.clear();
        self.names = false;
    }

    fn peek(&self) -> Option<Token> {
        self.tokens.get(self.at).copied()
    }

    fn text(&self, token: Token) -> &'a str {
        &self.source[token.span.start..token.span.end]
    }

    /// The current token's place, or an empty one behind the last.
    fn here(&self) -> Span {
        self.peek().map_or(Span::new(self.end, self.end), |token| token.span)
    }

    /// The end of the token read last.
    fn behind(&self) -> usize {
        self.at.checked_sub(1).and_then(|at| self.tokens.get(at)).map_or(self.end, |token| token.span.end)
    }

    fn advance(&mut self) {
        self.at += 1;
        self.forget();
    }

    fn is_word(&self, word: &str) -> bool {
        self.peek().is_some_and(|token| token.kind == TokenKind::Word && self.text(token) == word)
    }

    fn accept_word(&mut self, word: &'static str) -> bool {
        let found = self.is_word(word);
        if found {
            self.advance();
        } else {
            self.words.push(word);
        }
        found
    }

    fn accept_one_of(&mut self, words: &[&'static str]) -> Option<&'static str> {
        words.iter().copied().find(|word| self.accept_word(word))
    }

    fn expect_word(&mut self, word: &'static str) -> Parse<()> {
        if self.accept_word(word) { Ok(()) } else { Err(self.unexpected()) }
    }

    fn expect_one_of(&mut self, words: &[&'static str]) -> Parse<&'static str> {
        self.accept_one_of(words).ok_or_else(|| self.unexpected())
    }

    fn accept_symbol(&mut self, symbol: &'static str) -> bool {
        let found = self.peek().is_some_and(|token| token.kind == TokenKind::Symbol && self.text(token) == symbol);
        if found {
            self.advance();
        } else {
            self.symbols.push(symbol);
        }
        found
    }

    fn expect_symbol(&mut self, symbol: &'static str) -> Parse<()> {
        if self.accept_symbol(symbol) { Ok(()) } else { Err(self.unexpected()) }
    }

    /// The unit of a number: another word here has a code of its own.
    fn expect_unit(&mut self, units: &[&'static str]) -> Parse<&'static str> {
        if let Some(unit) = self.accept_one_of(units) {
            return Ok(unit);
        }
        let wanted = list(units.iter().map(|unit| format!("`{unit}`")).collect());
        match self.peek() {
            Some(token) if token.kind == TokenKind::Word && !self.others_expected(units) => {
                let found = self.text(token);
                Err(Box::new(
                    Diagnostic::new(token.span, Code::UnknownUnit, format!("`{found}` is no unit that can stand here"))
                        .help(format!("write {wanted}")),
                ))
            }
            _ => Err(self.unexpected()),
        }
    }

    fn others_expected(&self, units: &[&'static str]) -> bool {
        self.words.iter().any(|word| !units.contains(word) && self.is_word(word))
    }

    fn is_name(&self) -> bool {
        self.peek().is_some_and(|token| {
            let text = self.text(token);
            token.kind == TokenKind::Word && super::lexer::is_word(text) && !is_reserved(text)
        })
    }

    fn accept_name(&mut self, what: &'static str) -> Option<Name> {
        if self.is_name() {
            self.seen.push((self.here(), what));
            return self.take_token();
        }
        self.names = true;
        None
    }

    fn expect_name(&mut self, what: &'static str) -> Parse<Name> {
        if self.is_name()
            && let Some(name) = self.take_token()
        {
            self.seen.push((name.span, what));
            return Ok(name);
        }
        self.names = true;
        if let Some(token) = self.peek()
            && token.kind == TokenKind::Word
            && is_reserved(self.text(token))
            && self.words.is_empty()
            && self.symbols.is_empty()
            && self.expected.is_empty()
        {
            let word = self.text(token);
            return Err(Box::new(
                Diagnostic::new(
                    token.span,
                    Code::ReservedWord,
                    format!("`{word}` is a word of the language and cannot be {what}"),
                )
                .help("choose another name"),
            ));
        }
        self.expected.push(what);
        self.names = false;
        Err(self.unexpected())
    }

    fn take_token(&mut self) -> Option<Name> {
        let token = self.peek()?;
        let name = Name { text: self.text(token).into(), span: token.span };
        self.advance();
        Some(name)
    }

    fn expect_kind(&mut self, kind: TokenKind, what: &'static str) -> Parse<Name> {
        if self.peek().is_some_and(|token| token.kind == kind)
            && let Some(name) = self.take_token()
        {
            return Ok(name);
        }
        self.expected.push(what);
        Err(self.unexpected())
    }

    /// A text, without its quotes; the place keeps them.
    fn expect_text(&mut self) -> Parse<Name> {
        let mut name = self.expect_kind(TokenKind::Text, "a text in `\"`")?;
        name.text = name.text.trim_matches('"').into();
        Ok(name)
    }

    fn is_text(&self) -> bool {
        self.peek().is_some_and(|token| token.kind == TokenKind::Text)
    }

    fn is_int(&self) -> bool {
        self.peek().is_some_and(|token| token.kind == TokenKind::Number && !self.text(token).contains(['.', '/']))
    }

    fn expect_num(&mut self) -> Parse<Num> {
        let name = self.expect_kind(TokenKind::Number, "a number")?;
        number(name)
    }

    fn expect_int(&mut self) -> Parse<Num> {
        if !self.is_int() {
            self.expected.push("a whole number");
            return Err(self.unexpected());
        }
        self.expect_num()
    }

    fn expect_end(&mut self) -> Parse<()> {
        if self.at >= self.tokens.len() {
            return Ok(());
        }
        self.expected.push("the end of the statement");
        Err(self.unexpected())
    }

    /// The mistake at the current token: what is there, and what would have been accepted.
    #[allow(clippy::unnecessary_box_returns)] // the error of every `Parse`
    fn unexpected(&mut self) -> Box<Diagnostic> {
        if self.quiet {
            let code = match self.peek().map(|token| token.kind) {
                Some(TokenKind::Bad(code)) => code,
                _ => Code::Syntax,
            };
            return Box::new(Diagnostic::new(self.here(), code, ""));
        }
        let mut wanted: Vec<String> = self.words.iter().map(|word| format!("`{word}`")).collect();
        if self.names {
            wanted.push("a name".into());
        }
        wanted.extend(self.symbols.iter().map(|symbol| format!("`{symbol}`")));
        wanted.extend(self.expected.iter().map(|what| String::from(*what)));
        wanted.dedup();
        let wanted = list(wanted);
        let expected = Expected { words: self.words.clone(), described: self.expected.clone(), names: self.names };
        let mut mistake = match self.peek() {
            None => {
                Diagnostic::new(self.here(), Code::Syntax, format!("the statement ends too soon: expected {wanted}"))
            }
            Some(token) => {
                let found = self.text(token);
                let shown: String = found.chars().take(40).collect();
                match token.kind {
                    TokenKind::Bad(code) => bad_token(token.span, code, found),
                    _ => Diagnostic::new(token.span, Code::Syntax, format!("expected {wanted}, found `{shown}`"))
                        .maybe_help(self.habit(found).or_else(|| nearest(found, self.words.iter().copied()))),
                }
            }
        };
        mistake.expected = Some(Box::new(expected));
        Box::new(mistake)
    }

    /// What a word means that other languages have, where it may stand.
    fn habit(&self, found: &str) -> Option<String> {
        const HABITS: [(&str, &[&str]); 3] =
            [("move", &["step", "walk"]), ("delete", &["remove"]), ("create", &["place", "spawn"])];
        let (_, ours) = HABITS.iter().find(|(habit, _)| *habit == found)?;
        let here: Vec<String> =
            ours.iter().filter(|word| self.words.contains(word)).map(|word| format!("`{word}`")).collect();
        (!here.is_empty()).then(|| format!("did you mean {}?", here.join(" or ")))
    }
}

fn bad_token(span: Span, code: Code, found: &str) -> Diagnostic {
    let shown: String = found.chars().take(40).filter(|c| !c.is_control()).collect();
    match code {
        Code::UnclosedText => Diagnostic::new(span, code, "the text has no closing `\"` on this line").help("add `\"`"),
        Code::BadGlyph => Diagnostic::new(span, code, format!("`{shown}` is no glyph"))
            .help("a glyph is one visible character of width one, not a blank, `\"` or `_`"),
        _ => Diagnostic::new(span, code, format!("`{shown}` is no word and no number")).help(advice(found)),
    }
}

fn number(name: Name) -> Parse<Num> {
    let plain = |text: &str| text.parse::<f64>().unwrap_or(f64::INFINITY);
    let value = match name.text.split_once('/') {
        Some((_, below)) if plain(below) == 0.0 => {
            let message = format!("`{}` divides by 0", name.text);
            return Err(Box::new(Diagnostic::new(name.span, Code::OutOfRange, message).help("write another divisor")));
        }
        Some((above, below)) => plain(above) / plain(below),
        None => plain(&name.text),
    };
    Ok(Num { text: name.text, value, span: name.span })
}

/// `a, b or c`.
fn list(mut words: Vec<String>) -> String {
    match words.pop() {
        None => "nothing more".into(),
        Some(last) if words.is_empty() => last,
        Some(last) => format!("{} or {last}", words.join(", ")),
    }
}
