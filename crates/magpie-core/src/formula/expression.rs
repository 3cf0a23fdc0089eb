//! Expressions as programmers write them, read once and worked out often.

use crate::limits::{DEEPEST_EXPRESSION, LONGEST_EXPRESSION};
use crate::mishap::{Given, Numbers, Target};
use crate::space::{Frame, Geometry, View};
use std::collections::BTreeMap;
use std::ops::Range;
use thiserror::Error;

/// Cells smaller than this are sampled at fractions of a pixel, which whole numbers cannot name.
const LEAST_WHOLE_PITCH: f64 = 8.0;

/// What is wrong with an expression, and where.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
#[error("{message}")]
pub struct ExpressionError {
    /// Bytes of the expression.
    pub at: Range<usize>,
    /// What is wrong and what to do.
    pub message: String,
}

/// Why names or whole numbers cannot be used here.
#[derive(Clone, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum NamesError {
    /// A name with a meaning.
    #[error("`{0}` has a meaning of its own: choose another name")]
    Taken(String),
    /// No name.
    #[error("`{0}` is no name: a letter or `_`, then letters, digits and `_`")]
    Form(String),
    /// Named twice.
    #[error("`{0}` is named twice")]
    Twice(String),
    /// Whole numbers are wanted.
    #[error("whole numbers only: {name} is {value}")]
    NotWhole {
        /// Whose number it is.
        name: String,
        /// The number.
        value: f64,
    },
    /// Cells too small for whole positions.
    #[error("whole numbers only: a pitch of {0} px, under 8, is looked at in fractions of a pixel")]
    SmallPitch(f64),
}

/// The names that expressions may use, and how they count.
#[derive(Clone, Debug)]
pub struct Names {
    numbers: Numbers,
    /// The numbers of the view, where positions are of the window.
    window: Vec<(&'static str, f64)>,
    given: BTreeMap<String, f64>,
    ints: bool,
}

/// Words with a meaning that are no numbers.
const FUNCTIONS: [&str; 8] = ["floor", "ceil", "round", "trunc", "int", "abs", "min", "max"];
const WORDS: [&str; 5] = ["and", "or", "not", "Math", "math"];
const COORDINATES: [&str; 5] = ["x", "y", "column", "row", "index"];
const NUMBERS: [&str; 13] = ["columns", "rows", "w", "h", "gx", "gy", "ox", "oy", "hx", "hy", "cell", "gap", "pitch"];

impl Names {
    /// The numbers of a grid, and names given on top; with `ints` all values are whole numbers and `/` cuts.
    ///
    /// # Errors
    /// A [`NamesError`] where a given name is none, has a meaning already, or is given twice.
    pub fn new(numbers: Numbers, given: &[(String, f64)], ints: bool) -> Result<Self, NamesError> {
        Self::with(numbers, Vec::new(), given, ints)
    }

    /// The names for what was given: those of the view too, where positions are of the window.
    ///
    /// # Errors
    /// As [`Names::new`].
    pub fn of(asked: &Given, given: &[(String, f64)], ints: bool) -> Result<Self, NamesError> {
        let window = match asked.view_of_positions() {
            None => Vec::new(),
            Some(view) => window_numbers(view, asked.geometry),
        };
        Self::with(asked.numbers(), window, given, ints)
    }

    fn with(
        numbers: Numbers,
        window: Vec<(&'static str, f64)>,
        given: &[(String, f64)],
        ints: bool,
    ) -> Result<Self, NamesError> {
        let mut names = Self { numbers, window, given: BTreeMap::new(), ints };
        for (name, value) in given {
            let mut characters = name.chars();
            let begins = characters.next().is_some_and(|first| first.is_ascii_alphabetic() || first == '_');
            if !begins || !characters.all(|c| c.is_ascii_alphanumeric() || c == '_') {
                return Err(NamesError::Form(name.clone()));
            }
            let lists: [&[&str]; 4] = [&FUNCTIONS, &WORDS, &COORDINATES, &NUMBERS];
            let of_window = names.window.iter().any(|(known, _)| known == name);
            if of_window || lists.iter().any(|list| list.contains(&name.as_str())) {
                return Err(NamesError::Taken(name.clone()));
            }
            if names.given.insert(name.clone(), *value).is_some() {
                return Err(NamesError::Twice(name.clone()));
            }
        }
        if ints {
            names.check_whole()?;
        }
        Ok(names)
    }

    fn check_whole(&self) -> Result<(), NamesError> {
        let (x, y) = (self.numbers.x, self.numbers.y);
        let grid = [
            ("the cell's width", x.size),
            ("the cell's height", y.size),
            ("the gap between columns", x.gap),
            ("the gap between rows", y.gap),
            ("the origin's x", x.origin),
            ("the origin's y", y.origin),
            ("the hotspot's x", x.hotspot),
            ("the hotspot's y", y.hotspot),
        ];
        let given = self.given.iter().map(|(name, value)| (name.as_str(), *value));
        for (name, value) in grid.into_iter().chain(self.window.iter().copied()).chain(given) {
            if value.fract() != 0.0 {
                return Err(NamesError::NotWhole { name: name.into(), value });
            }
        }
        match [x.pitch(), y.pitch()].into_iter().find(|pitch| *pitch < LEAST_WHOLE_PITCH) {
            Some(pitch) => Err(NamesError::SmallPitch(pitch)),
            None => Ok(()),
        }
    }

    fn value(&self, name: &str, target: Target) -> Option<Op> {
        let (x, y) = (self.numbers.x, self.numbers.y);
        let own = if target.is_vertical() { y } else { x };
        let number = match name {
            "x" if target.at_positions() => return Some(Op::First),
            "y" if target.at_positions() => return Some(Op::Second),
            "index" if target.at_indices() => return Some(Op::First),
            "column" if !target.at_positions() && !target.at_indices() => return Some(Op::First),
            "row" if !target.at_positions() && !target.at_indices() => return Some(Op::Second),
            "columns" => f64::from(x.count),
            "rows" => f64::from(y.count),
            // Pixels say nothing about an index.
            name if target.at_indices() => *self.given.get(name)?,
            "w" => x.size,
            "h" => y.size,
            "gx" => x.gap,
            "gy" => y.gap,
            "ox" => x.origin,
            "oy" => y.origin,
            "hx" => x.hotspot,
            "hy" => y.hotspot,
            "cell" => own.size,
            "gap" => own.gap,
            "pitch" => own.pitch(),
            name => {
                let of_window = self.window.iter().find(|(known, _)| target.at_positions() && *known == name);
                of_window.map(|(_, number)| *number).or_else(|| self.given.get(name).copied())?
            }
        };
        Some(Op::Number(number))
    }

    /// The names that may be used for a function, for the message about one that may not.
    fn known(&self, target: Target) -> String {
        let given: Vec<&str> = self.given.keys().map(String::as_str).collect();
        if target.at_indices() {
            return [vec!["index columns rows"], given].concat().join(" ");
        }
        let coordinates = if target.at_positions() { "x y" } else { "column row" };
        let window: Vec<&str> = self.window.iter().filter(|_| target.at_positions()).map(|(name, _)| *name).collect();
        let all = [vec![coordinates], NUMBERS.to_vec(), window, given].concat();
        all.join(" ")
    }
}

/// The numbers between window and world: window px = bar + design × scale, world = cam + design / zoom.
fn window_numbers(view: &View, geometry: &Geometry) -> Vec<(&'static str, f64)> {
    let Frame { k, bar } = view.frame();
    let camera = view.camera(geometry.y);
    vec![
        ("density", view.density),
        ("zoom", view.zoom),
        ("scale_x", k.0),
        ("scale_y", k.1),
        ("bar_x", bar.0),
        ("bar_y", bar.1),
        ("cam_x", camera.x),
        ("cam_y", camera.y),
    ]
}

/// A step of the work; values wait on a stack.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Op {
    Number(f64),
    /// x or column.
    First,
    /// y or row.
    Second,
    Neg,
    Not,
    Call(Function),
    Pair(Operator),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Function {
    Floor,
    Ceil,
    Round,
    Trunc,
    Abs,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Operator {
    Add,
    Sub,
    Mul,
    Div,
    /// Divided, then cut towards zero.
    CutDiv,
    /// Divided, then floor.
    FloorDiv,
    Rem,
    Min,
    Max,
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    Equal,
    NotEqual,
    And,
    Or,
}

impl Operator {
    fn of(self, a: f64, b: f64) -> f64 {
        let yes = |holds: bool| f64::from(u8::from(holds));
        // A value that is no number stays none, whichever is smaller.
        let nan = a.is_nan() || b.is_nan();
        match self {
            Self::Add => a + b,
            Self::Sub => a - b,
            Self::Mul => a * b,
            Self::Div => a / b,
            Self::CutDiv => (a / b).trunc(),
            Self::FloorDiv => (a / b).floor(),
            Self::Rem => a % b,
            Self::Min | Self::Max if nan => f64::NAN,
            Self::Min => a.min(b),
            Self::Max => a.max(b),
            Self::Less => yes(a < b),
            Self::LessEqual => yes(a <= b),
            Self::Greater => yes(a > b),
            Self::GreaterEqual => yes(a >= b),
            Self::Equal => yes(a == b),
            Self::NotEqual => yes(a != b),
            Self::And => yes(a != 0.0 && b != 0.0),
            Self::Or => yes(a != 0.0 || b != 0.0),
        }
    }
}

/// An expression that has been read, for one function of the grid.
#[derive(Clone, Debug, PartialEq)]
pub struct Expression {
    /// As it was written.
    pub source: String,
    /// The function that it is to compute.
    pub target: Target,
    ops: Vec<Op>,
    most: usize,
}

impl Expression {
    /// Whether it names x or column.
    pub fn names_first(&self) -> bool {
        self.ops.contains(&Op::First)
    }

    /// Whether it names y or row.
    pub fn names_second(&self) -> bool {
        self.ops.contains(&Op::Second)
    }

    /// Its value at a position or a cell. `stack` is scratch room, kept from call to call.
    pub fn value(&self, first: f64, second: f64, stack: &mut Vec<f64>) -> f64 {
        stack.clear();
        stack.reserve(self.most);
        for op in &self.ops {
            match op {
                Op::Number(number) => stack.push(*number),
                Op::First => stack.push(first),
                Op::Second => stack.push(second),
                Op::Neg => one(stack, |a| -a),
                Op::Not => one(stack, |a| f64::from(u8::from(a == 0.0))),
                Op::Call(Function::Floor) => one(stack, f64::floor),
                Op::Call(Function::Ceil) => one(stack, f64::ceil),
                Op::Call(Function::Round) => one(stack, f64::round),
                Op::Call(Function::Trunc) => one(stack, f64::trunc),
                Op::Call(Function::Abs) => one(stack, f64::abs),
                Op::Pair(operator) => {
                    let b = stack.pop().unwrap_or(f64::NAN);
                    one(stack, |a| operator.of(a, b));
                }
            }
        }
        stack.pop().unwrap_or(f64::NAN)
    }
}

fn one(stack: &mut [f64], change: impl FnOnce(f64) -> f64) {
    if let Some(last) = stack.last_mut() {
        *last = change(*last);
    }
}

#[derive(Clone, Debug, PartialEq)]
enum Token {
    Number(f64, bool),
    Name(String),
    Sign(&'static str),
    End,
}

const SIGNS: [&str; 21] =
    ["//", "<=", ">=", "!=", "==", "&&", "||", "+", "-", "*", "/", "%", "(", ")", ",", "<", ">", "=", ".", "!", "^"];

fn tokens(source: &str) -> Result<Vec<(Token, Range<usize>)>, ExpressionError> {
    let mut found = Vec::new();
    let mut at = 0;
    while let Some(first) = source[at..].chars().next() {
        let rest = &source[at..];
        if first.is_whitespace() {
            at += first.len_utf8();
            continue;
        }
        let digit = |text: &str| text.starts_with(|c: char| c.is_ascii_digit());
        let (token, length) = if digit(rest) || (first == '.' && digit(&rest[1..])) {
            number(rest, at)?
        } else if first.is_ascii_alphabetic() || first == '_' {
            let length = rest.find(|c: char| !c.is_ascii_alphanumeric() && c != '_').unwrap_or(rest.len());
            (Token::Name(rest[..length].into()), length)
        } else if let Some(sign) = SIGNS.iter().find(|sign| rest.starts_with(**sign)) {
            (Token::Sign(sign), sign.len())
        } else {
            let message = format!("`{first}` means nothing in an expression");
            return Err(ExpressionError { at: at..at + first.len_utf8(), message });
        };
        found.push((token, at..at + length));
        at += length;
    }
    found.push((Token::End, source.len()..source.len()));
    Ok(found)
}

fn number(rest: &str, at: usize) -> Result<(Token, usize), ExpressionError> {
    let digits = |text: &str| text.find(|c: char| !c.is_ascii_digit()).unwrap_or(text.len());
    let mut length = digits(rest);
    let mut point = false;
    if rest[length..].starts_with('.') {
        point = true;
        length += 1;
        length += digits(&rest[length..]);
    }
    let tail = rest[length..].find(|c: char| !c.is_ascii_alphanumeric() && c != '_' && c != '.');
    let tail = tail.unwrap_or(rest.len() - length);
    match rest[..length].parse::<f64>() {
        Ok(value) if tail == 0 && value.is_finite() => Ok((Token::Number(value, point), length)),
        _ => Err(ExpressionError {
            at: at..at + length + tail,
            message: format!("`{}` is no number: write digits, with one point at most", &rest[..length + tail]),
        }),
    }
}

/// Reads an expression for a function of the grid.
///
/// # Errors
/// An [`ExpressionError`] with the bytes of `source` where the first mistake stands, and what is wrong there.
pub fn parse_expression(source: &str, target: Target, names: &Names) -> Result<Expression, ExpressionError> {
    if source.chars().count() > LONGEST_EXPRESSION {
        let at = source.char_indices().nth(LONGEST_EXPRESSION).map_or(0, |(at, _)| at);
        let message = format!("an expression has at most {LONGEST_EXPRESSION} characters");
        return Err(ExpressionError { at: at..source.len(), message });
    }
    let tokens = tokens(source)?;
    let mut parser = Parser { tokens, at: 0, ops: Vec::new(), depth: 0, target, names };
    parser.parse_or()?;
    parser.expect_end()?;
    let most = parser.ops.len();
    Ok(Expression { source: source.into(), target, ops: parser.ops, most })
}

struct Parser<'a> {
    tokens: Vec<(Token, Range<usize>)>,
    at: usize,
    ops: Vec<Op>,
    depth: usize,
    target: Target,
    names: &'a Names,
}

type Parsed = Result<(), ExpressionError>;

impl Parser<'_> {
    fn peek(&self) -> &Token {
        &self.tokens[self.at].0
    }

    fn place(&self) -> Range<usize> {
        let at = self.tokens[self.at].1.clone();
        // The end has no character: the underline stands behind the last one.
        if at.is_empty() { at.start..at.start + 1 } else { at }
    }

    fn next(&mut self) {
        self.at = (self.at + 1).min(self.tokens.len() - 1);
    }

    fn accept(&mut self, signs: &[&str]) -> Option<&'static str> {
        match self.peek() {
            Token::Sign(sign) if signs.contains(sign) => {
                let sign = *sign;
                self.next();
                Some(sign)
            }
            _ => None,
        }
    }

    fn fail<T>(&self, message: impl Into<String>) -> Result<T, ExpressionError> {
        Err(ExpressionError { at: self.place(), message: message.into() })
    }

    fn found(&self) -> String {
        match self.peek() {
            Token::Number(value, _) => format!("`{value}`"),
            Token::Name(name) => format!("`{name}`"),
            Token::Sign(sign) => format!("`{sign}`"),
            Token::End => "its end".into(),
        }
    }

    fn expect(&mut self, sign: &'static str) -> Parsed {
        match self.accept(&[sign]) {
            Some(_) => Ok(()),
            None => self.fail(format!("expected `{sign}`, found {}", self.found())),
        }
    }

    fn expect_end(&self) -> Parsed {
        match self.peek() {
            Token::End => Ok(()),
            Token::Sign(")") => self.fail("a `)` without its `(`"),
            _ => self.fail(format!("expected an operator, found {}", self.found())),
        }
    }

    fn nested(&mut self, inner: impl FnOnce(&mut Self) -> Parsed) -> Parsed {
        self.depth += 1;
        if self.depth > DEEPEST_EXPRESSION {
            return self.fail(format!("an expression is at most {DEEPEST_EXPRESSION} deep"));
        }
        inner(self)?;
        self.depth -= 1;
        Ok(())
    }

    /// Questions belong to the inside test: nothing else has yes and no for an answer.
    fn question(&self) -> Parsed {
        if self.target == Target::Inside {
            Ok(())
        } else {
            self.fail(format!("{} asks yes or no: only the inside test does", self.found()))
        }
    }

    fn parse_or(&mut self) -> Parsed {
        self.parse_and()?;
        while matches!(self.peek(), Token::Sign("||")) || matches!(self.peek(), Token::Name(name) if name == "or") {
            self.question()?;
            self.next();
            self.parse_and()?;
            self.ops.push(Op::Pair(Operator::Or));
        }
        Ok(())
    }

    fn parse_and(&mut self) -> Parsed {
        self.parse_not()?;
        while matches!(self.peek(), Token::Sign("&&")) || matches!(self.peek(), Token::Name(name) if name == "and") {
            self.question()?;
            self.next();
            self.parse_not()?;
            self.ops.push(Op::Pair(Operator::And));
        }
        Ok(())
    }

    fn parse_not(&mut self) -> Parsed {
        if !matches!(self.peek(), Token::Name(name) if name == "not") {
            return self.parse_comparison();
        }
        self.question()?;
        self.next();
        self.nested(Self::parse_not)?;
        self.ops.push(Op::Not);
        Ok(())
    }

    fn parse_comparison(&mut self) -> Parsed {
        const SIGNS: [&str; 7] = ["<", "<=", ">", ">=", "=", "==", "!="];
        self.parse_sum()?;
        let is_sign = |parser: &Self| matches!(parser.peek(), Token::Sign(sign) if SIGNS.contains(sign));
        if !is_sign(self) {
            return Ok(());
        }
        self.question()?;
        let operator = match self.accept(&SIGNS) {
            Some("<") => Operator::Less,
            Some("<=") => Operator::LessEqual,
            Some(">") => Operator::Greater,
            Some(">=") => Operator::GreaterEqual,
            Some("!=") => Operator::NotEqual,
            _ => Operator::Equal,
        };
        self.parse_sum()?;
        self.ops.push(Op::Pair(operator));
        if is_sign(self) {
            return self.fail("two comparisons in a row: write `a < b and b < c`");
        }
        Ok(())
    }

    fn parse_sum(&mut self) -> Parsed {
        self.parse_product()?;
        while let Some(sign) = self.accept(&["+", "-"]) {
            self.parse_product()?;
            self.ops.push(Op::Pair(if sign == "+" { Operator::Add } else { Operator::Sub }));
        }
        Ok(())
    }

    fn parse_product(&mut self) -> Parsed {
        self.parse_signed()?;
        while let Some(sign) = self.accept(&["*", "//", "/", "%"]) {
            self.parse_signed()?;
            self.ops.push(Op::Pair(match sign {
                "*" => Operator::Mul,
                "//" => Operator::FloorDiv,
                "%" => Operator::Rem,
                _ if self.names.ints => Operator::CutDiv,
                _ => Operator::Div,
            }));
        }
        Ok(())
    }

    fn parse_signed(&mut self) -> Parsed {
        match self.accept(&["-", "+"]) {
            Some("-") => {
                self.nested(Self::parse_signed)?;
                self.ops.push(Op::Neg);
                Ok(())
            }
            Some(_) => self.nested(Self::parse_signed),
            None => self.parse_operand(),
        }
    }

    fn parse_operand(&mut self) -> Parsed {
        match self.peek().clone() {
            Token::Number(value, point) => {
                if point && self.names.ints {
                    return self.fail("whole numbers only: a number without a point is wanted");
                }
                self.ops.push(Op::Number(value));
                self.next();
                Ok(())
            }
            Token::Sign("(") => {
                self.next();
                self.nested(Self::parse_or)?;
                self.expect(")")
            }
            Token::Name(name) => self.parse_name(&name),
            _ => self.fail(format!("expected a number, a name or `(`, found {}", self.found())),
        }
    }

    fn parse_name(&mut self, name: &str) -> Parsed {
        let prefix = name == "Math" || name == "math";
        if prefix && matches!(self.tokens.get(self.at + 1), Some((Token::Sign("."), _))) {
            self.next();
            self.next();
            return match self.peek().clone() {
                Token::Name(name) if FUNCTIONS.contains(&name.as_str()) => self.parse_call(&name),
                _ => self.fail(format!("expected one of {}, found {}", FUNCTIONS.join(" "), self.found())),
            };
        }
        if FUNCTIONS.contains(&name) {
            return self.parse_call(name);
        }
        match self.names.value(name, self.target) {
            Some(op) => {
                self.ops.push(op);
                self.next();
                Ok(())
            }
            None if COORDINATES.contains(&name) => {
                let place = if self.target.at_positions() { "a position: x and y" } else { "a cell: column and row" };
                self.fail(format!("`{name}` is not known here: this is asked at {place}"))
            }
            None if WORDS.contains(&name) => self.fail(format!("expected a number, a name or `(`, found `{name}`")),
            None => {
                self.fail(format!("`{name}` is no name here; there are {}, and `--let`", self.names.known(self.target)))
            }
        }
    }

    fn parse_call(&mut self, name: &str) -> Parsed {
        let call = self.place();
        self.next();
        self.expect("(")?;
        self.nested(Self::parse_or)?;
        let pair = match name {
            "min" => Some(Operator::Min),
            "max" => Some(Operator::Max),
            _ => None,
        };
        let mut count = 1;
        while self.accept(&[","]).is_some() {
            count += 1;
            self.nested(Self::parse_or)?;
            if let Some(operator) = pair {
                self.ops.push(Op::Pair(operator));
            }
        }
        self.expect(")")?;
        match (pair, count) {
            (Some(_), 1) => {
                Err(ExpressionError { at: call, message: format!("`{name}` takes two values or more, here is one") })
            }
            (None, 2..) => {
                Err(ExpressionError { at: call, message: format!("`{name}` takes one value, here are {count}") })
            }
            (Some(_), _) => Ok(()),
            (None, _) => {
                self.ops.push(Op::Call(match name {
                    "floor" => Function::Floor,
                    "ceil" => Function::Ceil,
                    "round" => Function::Round,
                    "abs" => Function::Abs,
                    _ => Function::Trunc,
                }));
                Ok(())
            }
        }
    }
}
