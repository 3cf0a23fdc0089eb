//! What all languages share: expressions with as few parentheses as go, statements, lines with indents, names in their cases.

use crate::names::KindName;
use crate::tests_of::{Check, Checks};
use crate::tree::{Expr, Method, Module, Number, Op, Stmt, Type};
use crate::{EMITTED, File};
use magpie_core::space::{Cell, Where};

/// Writes a module and its test program.
pub trait Printer {
    /// The files, the module first.
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File>;
}

/// `two_words` as `twoWords`.
pub fn camel(name: &str) -> String {
    // A `_` at the beginning or the end is part of the name.
    let inner = name.trim_matches('_');
    let start = name.len() - name.trim_start_matches('_').len();
    let (before, after) = (&name[..start], &name[(start + inner.len())..]);
    let mut upper = false;
    let joined: String = inner
        .chars()
        .filter_map(|c| match c {
            '_' => {
                upper = true;
                None
            }
            c if std::mem::take(&mut upper) => Some(c.to_ascii_uppercase()),
            c => Some(c),
        })
        .collect();
    format!("{before}{joined}{after}")
}

/// `two_words` as `TwoWords`.
pub fn pascal(name: &str) -> String {
    let name = camel(name);
    let mut chars = name.chars();
    chars.next().map_or_else(String::new, |first| first.to_ascii_uppercase().to_string() + chars.as_str())
}

/// A double as every language reads it.
pub fn double(value: f64) -> String {
    format!("{value:?}")
}

/// The first words of everything that is emitted. Titles and names of files may hold anything: they stand in no first line,
/// where some languages look for orders, and at no end of a line.
pub fn head(module: &Module, comment: &str) -> Vec<String> {
    vec![
        format!("{comment} This was {EMITTED}, and is replaced where that is done again."),
        format!("{comment} The same results as `rapid-magpie convert`, to the last bit."),
        format!("{comment} The grid of {}, rulebook {}.", quoted(&module.title), quoted(&module.source)),
    ]
}

/// Lines with indents.
#[derive(Default)]
pub struct Lines {
    text: String,
    depth: usize,
}

impl Lines {
    /// One more line.
    pub fn line(&mut self, text: impl AsRef<str>) -> &mut Self {
        let text = text.as_ref();
        if !text.is_empty() {
            self.text.push_str(&"    ".repeat(self.depth));
            self.text.push_str(text);
        }
        self.text.push('\n');
        self
    }

    /// Several.
    pub fn lines(&mut self, all: impl IntoIterator<Item = impl AsRef<str>>) -> &mut Self {
        for line in all {
            self.line(line);
        }
        self
    }

    /// An empty one.
    pub fn gap(&mut self) -> &mut Self {
        self.line("")
    }

    /// What is written inside stands further in.
    pub fn inside(&mut self, write: impl FnOnce(&mut Self)) -> &mut Self {
        self.depth += 1;
        write(self);
        self.depth -= 1;
        self
    }

    /// The whole text.
    pub fn text(&self) -> String {
        self.text.clone()
    }
}

/// How a language writes expressions and statements.
pub trait Syntax {
    fn name(&self, name: &str) -> String;
    fn constant(&self, name: &str) -> String {
        name.to_owned()
    }
    fn own(&self, name: &str) -> String;
    fn field(&self, value: &str, name: &str) -> String {
        format!("{value}.{}", self.name(name))
    }
    fn call(&self, name: &str, arguments: &[String]) -> String;
    fn make(&self, kind: &Type, arguments: &[String]) -> String;
    fn place(&self, place: Where) -> String;
    fn kind_name(&self, kind: &KindName) -> String;
    fn floor(&self, value: &str) -> String;
    fn floor_int(&self, value: &str) -> String;
    fn to_float(&self, value: &str) -> String;
    fn clamp(&self, value: &str, low: &str, high: &str) -> String;
    fn is_void(&self, cell: &str) -> String;
    fn some(&self, value: &str) -> String {
        value.to_owned()
    }
    fn nothing(&self) -> String;
    fn op(&self, op: Op) -> &'static str {
        match op {
            Op::Add => "+",
            Op::Sub => "-",
            Op::Mul => "*",
            Op::Div | Op::IntDiv => "/",
            Op::IntMod => "%",
            Op::Less => "<",
            Op::AtLeast => ">=",
            Op::Equal => self.equal(),
            Op::And => self.and(),
            Op::Or => self.or(),
        }
    }
    fn and(&self) -> &'static str {
        "&&"
    }
    fn or(&self) -> &'static str {
        "||"
    }
    fn equal(&self) -> &'static str {
        "=="
    }
    fn int_div(&self, left: &str, right: &str) -> String {
        format!("{left} / {right}")
    }
    fn not(&self, value: &str) -> String {
        format!("!{value}")
    }
    fn declare(&self, name: &str, kind: &Type, value: &str) -> String;
    fn give(&self, method: &Method, value: &Expr) -> Vec<String>;
    /// The value of a method, in its last line.
    fn give_last(&self, method: &Method, value: &Expr) -> Vec<String> {
        self.give(method, value)
    }
    fn begin_if(&self, condition: &str) -> String {
        format!("if ({condition}) {{")
    }
    fn end_if(&self) -> Option<&'static str> {
        Some("}")
    }
}

const fn rank(op: Op) -> u8 {
    match op {
        Op::Or => 1,
        Op::And => 2,
        Op::Less | Op::AtLeast | Op::Equal => 3,
        Op::Add | Op::Sub => 4,
        Op::Mul | Op::Div | Op::IntDiv | Op::IntMod => 5,
    }
}

/// An expression, in parentheses where what stands round it binds closer.
pub fn expr(syntax: &dyn Syntax, value: &Expr) -> String {
    ranked(syntax, value, 0)
}

fn ranked(syntax: &dyn Syntax, value: &Expr, outer: u8) -> String {
    let all = |arguments: &[Expr]| arguments.iter().map(|argument| expr(syntax, argument)).collect::<Vec<_>>();
    let close = |text: String, own: u8| if own < outer { format!("({text})") } else { text };
    match value {
        Expr::Int(value) => value.to_string(),
        Expr::Float(value) if *value < 0.0 => format!("({})", double(*value)),
        Expr::Float(value) => double(*value),
        Expr::Var(name) => syntax.name(name),
        Expr::Const(name) => syntax.constant(name),
        Expr::Own(name) => syntax.own(name),
        Expr::Field(value, name) => syntax.field(&ranked(syntax, value, 9), name),
        Expr::Binary(op, left, right) => {
            let own = rank(*op);
            // The order of doubles is kept: what stands right binds closer, sums and products of `and` apart.
            let right_rank = if matches!(op, Op::And | Op::Or) { own } else { own + 1 };
            let (left, right) = (ranked(syntax, left, own), ranked(syntax, right, right_rank));
            let text = if *op == Op::IntDiv {
                syntax.int_div(&left, &right)
            } else {
                format!("{left} {} {right}", syntax.op(*op))
            };
            close(text, own)
        }
        Expr::Not(value) => syntax.not(&ranked(syntax, value, 8)),
        Expr::Negative(value) => close(format!("-{}", ranked(syntax, value, 7)), 6),
        Expr::Floor(value) => syntax.floor(&expr(syntax, value)),
        Expr::FloorInt(value) => syntax.floor_int(&expr(syntax, value)),
        Expr::ToFloat(value) => syntax.to_float(&ranked(syntax, value, 7)),
        Expr::Clamp(value, low, high) => syntax.clamp(&expr(syntax, value), &expr(syntax, low), &expr(syntax, high)),
        Expr::Call(name, arguments) => syntax.call(name, &all(arguments)),
        Expr::Make(kind, arguments) => syntax.make(kind, &all(arguments)),
        Expr::Place(place) => syntax.place(*place),
        Expr::Kind(kind) => syntax.kind_name(kind),
        Expr::IsVoid(cell) => syntax.is_void(&ranked(syntax, cell, 9)),
        Expr::Some(value) => syntax.some(&expr(syntax, value)),
        Expr::Nothing => syntax.nothing(),
    }
}

/// The statements of a method.
pub fn body(syntax: &dyn Syntax, method: &Method, out: &mut Lines) {
    let Some((Stmt::Return(value), before)) = method.body.split_last() else {
        return statements(syntax, method, &method.body, out);
    };
    statements(syntax, method, before, out);
    out.lines(syntax.give_last(method, value));
}

fn statements(syntax: &dyn Syntax, method: &Method, all: &[Stmt], out: &mut Lines) {
    for statement in all {
        match statement {
            Stmt::Let(name, kind, value) => {
                out.line(syntax.declare(&syntax.name(name), kind, &expr(syntax, value)));
            }
            Stmt::Return(value) => {
                out.lines(syntax.give(method, value));
            }
            Stmt::If(condition, inner) => {
                out.line(syntax.begin_if(&expr(syntax, condition)));
                out.inside(|out| statements(syntax, method, inner, out));
                if let Some(end) = syntax.end_if() {
                    out.line(end);
                }
            }
        }
    }
}

/// Whether a method looks at the grid that it belongs to.
pub fn looks_at_grid(statements: &[Stmt]) -> bool {
    let mut looks = false;
    Stmt::each(statements, &mut |value| looks |= matches!(value, Expr::Own(_) | Expr::Call(..) | Expr::IsVoid(_)));
    looks
}

/// A number of the rulebook.
pub fn number(value: Number) -> String {
    match value {
        Number::Int(value) => value.to_string(),
        Number::Float(value) => double(value),
    }
}

/// A text in double quotes. Titles may hold anything: what would end a line or a text in some language, or turn its
/// direction, becomes `_`.
pub fn quoted(text: &str) -> String {
    let ends = |c: char| {
        c.is_control()
            || matches!(c, '"' | '\\' | '\u{2028}' | '\u{2029}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
    };
    format!("\"{}\"", text.replace(ends, "_"))
}

/// How a language writes what must hold.
pub trait Tester: Syntax {
    /// A method of the grid under test.
    fn ask(&self, name: &str, arguments: &[String]) -> String;
    fn same_cell(&self, got: &str, cell: Cell) -> String;
    fn same_point(&self, got: &str, point: (f64, f64)) -> String;
    fn same_place(&self, got: &str, place: Where) -> String;
    /// A cell has this index, and back, or none.
    fn index_is(&self, cell: Cell, index: Option<i64>) -> Vec<String>;
    fn cell(&self, cell: Cell) -> String {
        self.make(&Type::Cell, &[cell.column.to_string(), cell.row.to_string()])
    }
}

/// Everything that must hold, line by line.
pub fn asserts(tester: &dyn Tester, checks: &Checks) -> Vec<String> {
    let pair = |(x, y): (f64, f64)| [double(x), double(y)];
    checks
        .all
        .iter()
        .flat_map(|check| match check {
            Check::Position { window, at, cell, place } => {
                let space = if *window { "window" } else { "world" };
                let at = pair(*at);
                vec![
                    tester.same_cell(&tester.ask(&format!("{space}_to_cell"), &at), *cell),
                    tester.same_place(&tester.ask(&format!("{space}_where"), &at), *place),
                ]
            }
            Check::OfKind { kind, at, cell } => {
                let [x, y] = pair(*at);
                vec![tester.same_cell(&tester.ask("world_to_cell_of", &[tester.kind_name(kind), x, y]), *cell)]
            }
            Check::Snap { at, cell, centre } => vec![
                tester.same_cell(&tester.ask("snap", &pair(*at)), *cell),
                tester.same_point(&tester.ask("cell_to_centre", &[tester.cell(*cell)]), *centre),
            ],
            Check::Centre { cell, centre } => {
                vec![tester.same_point(&tester.ask("cell_to_centre", &[tester.cell(*cell)]), *centre)]
            }
            Check::Index { cell, index } => tester.index_is(*cell, *index),
        })
        .collect()
}
