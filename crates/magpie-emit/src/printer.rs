//! What all languages share: expressions with as few parentheses as go, statements, lines with indents, names in their cases.

use crate::names::KindName;
use crate::tests_of::{Check, Checks, Play};
use crate::tree::{Expr, List, Method, Module, Name, Number, Op, Stmt, Type};
use crate::{EMITTED, File};
use magpie_core::grid::Ended;
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

/// A word of the formats as a name in upper case.
pub fn upper(word: &str) -> String {
    word.replace(['-', ' '], "_").to_uppercase()
}

/// A double as every language reads it.
pub fn double(value: f64) -> String {
    format!("{value:?}")
}

/// The first words of everything that is emitted. Titles and names of files may hold anything: they stand in no first line,
/// where some languages look for orders, and at no end of a line.
pub fn head(module: &Module, comment: &str) -> Vec<String> {
    let (title, source) = (quoted(&module.title), quoted(&module.source));
    let mut lines = vec![format!("{comment} This was {EMITTED}, and is replaced where that is done again.")];
    if !module.methods.is_empty() {
        lines.push(format!("{comment} Positions come out as with `rapid-magpie convert`, to the last bit."));
    }
    match &module.game {
        None => lines.push(format!("{comment} The grid of {title}, rulebook {source}.")),
        Some(game) => {
            lines.push(format!(
                "{comment} The game {title}, rulebook {source}, played as `rapid-magpie play` plays it."
            ));
            lines.extend(game.left_out.iter().map(|told| format!("{comment} Not covered and left out: {told}.")));
        }
    }
    lines
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
            Op::AtMost => "<=",
            Op::More => ">",
            Op::AtLeast => ">=",
            Op::Equal => self.equal(),
            Op::Unequal => self.unequal(),
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
    fn unequal(&self) -> &'static str {
        "!="
    }
    fn int_div(&self, left: &str, right: &str) -> String {
        format!("{left} / {right}")
    }
    fn not(&self, value: &str) -> String {
        format!("!{value}")
    }
    fn declare(&self, name: &str, kind: &Type, value: &str, changes: bool) -> String;
    fn give(&self, method: &Method, value: &Expr) -> Vec<String>;
    /// The value of a method, in its last line.
    fn give_last(&self, method: &Method, value: &Expr) -> Vec<String> {
        self.give(method, value)
    }
    /// The value of a method where lists are open that have to be freed first.
    fn give_freeing(&self, method: &Method, value: &Expr, _: &[Name]) -> Vec<String> {
        self.give(method, value)
    }
    fn leave(&self, _: &[Name]) -> Vec<String> {
        vec![format!("return{}", self.end())]
    }
    fn begin_if(&self, condition: &str) -> String {
        format!("if ({condition}) {{")
    }
    fn begin_while(&self, condition: &str) -> String {
        format!("while ({condition}) {{")
    }
    fn begin_for(&self, name: &str, low: &str, high: &str) -> String;
    fn otherwise(&self) -> &'static str {
        "} else {"
    }
    fn end_if(&self) -> Option<&'static str> {
        Some("}")
    }
    /// What stands in a block that does nothing.
    fn idle(&self) -> Option<&'static str> {
        None
    }
    /// The end of a statement.
    fn end(&self) -> &'static str {
        ";"
    }
    fn comment(&self, text: &str) -> String {
        format!("// {text}")
    }
    /// A text in quotes, exactly.
    fn text(&self, text: &str) -> String {
        literal(text)
    }
    fn letter(&self, letter: char) -> String {
        (letter as u32).to_string()
    }
    fn boolean(&self, value: bool) -> String {
        value.to_string()
    }
    fn list(&self, list: &List) -> String {
        match list {
            List::Local(name) | List::Param(name) => self.name(name),
            List::Own(name) => self.own(name),
        }
    }
    fn at(&self, array: &str, place: &str) -> String {
        format!("{array}[{place}]")
    }
    fn item(&self, list: &List, place: &str) -> String {
        self.at(&self.list(list), place)
    }
    fn length(&self, list: &List) -> String;
    fn pop(&self, list: &List) -> String;
    fn pass(&self, list: &List, _adds: bool) -> String {
        self.list(list)
    }
    fn letter_at(&self, text: &str, place: &str) -> String;
    fn is(&self, text: &str, wanted: &str) -> String {
        format!("{text} {} {}", self.equal(), self.text(wanted))
    }
    fn begins(&self, text: &str, wanted: &str) -> String;
    fn drawing(&self, line: &str) -> String;
    fn wide(&self, value: &str) -> String {
        value.to_owned()
    }
    fn narrow(&self, value: &str) -> String {
        value.to_owned()
    }
    /// Whether the two stand round their value like a call.
    fn casts_by_call(&self) -> bool {
        false
    }
    /// A field of a state that was kept.
    fn kept(&self, name: &str, field: &str) -> String;
    /// That state as an argument.
    fn pass_kept(&self, name: &str) -> String {
        self.name(name)
    }
    fn outcome(&self, outcome: Option<Ended>) -> String;
    fn some_cell(&self, column: &str, row: &str) -> String;
    fn no_cell(&self) -> String {
        self.nothing()
    }
    /// Whether there are signs that add to what is there.
    fn adds_up(&self) -> bool {
        true
    }
    fn assign(&self, target: &str, value: &str) -> String {
        format!("{target} = {value}{}", self.end())
    }
    /// A statement that is one of its own in every language.
    fn deed(&self, deed: Deed) -> Vec<String>;
}

/// Statements about lists, texts that are told, and states that are kept.
#[derive(Clone, Copy, Debug)]
#[allow(missing_docs)]
pub enum Deed<'a> {
    Empty(&'a Name),
    Push(&'a List, &'a str),
    /// Takes the last one away.
    Drop(&'a List),
    Clear(&'a List),
    Sort(&'a List),
    /// An array of the game, as the language calls it.
    Fill(&'a str, &'a str, i64),
    FillList(&'a List, &'a str, i64),
    /// A list is needed no more.
    Free(&'a Name),
    Tell(&'a str),
    TellNothing,
    Keep(&'a Name),
    KeepAgain(&'a Name),
    Restore(&'a Name),
    Forget(&'a Name),
}

/// A text in double quotes with what needs it behind a backslash.
pub fn literal(text: &str) -> String {
    let mut out = String::from("\"");
    for c in text.chars() {
        match c {
            '"' | '\\' => {
                out.push('\\');
                out.push(c);
            }
            '\t' => out.push_str("\\t"),
            c => out.push(c),
        }
    }
    out.push('"');
    out
}

/// A text as a comment may hold it.
pub fn plain(text: &str) -> String {
    let ends = |c: char| {
        c.is_control() || matches!(c, '\u{2028}' | '\u{2029}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
    };
    let text = text.replace(ends, "_").replace("??/", "??_").replace("*/", "*_").replace("--[", "--_");
    text.trim_end_matches('\\').to_owned()
}

const fn rank(op: Op) -> u8 {
    match op {
        Op::Or => 1,
        Op::And => 2,
        Op::Less | Op::AtMost | Op::More | Op::AtLeast | Op::Equal | Op::Unequal => 3,
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
            let side = |value: &Expr, rank: u8| {
                // `and` within `or` binds closer everywhere, and readers like to see it.
                let closer = *op == Op::Or && matches!(value, Expr::Binary(Op::And, ..));
                ranked(syntax, value, if closer { 3 } else { rank })
            };
            let (left, right) = (side(left, own), side(right, right_rank));
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
        Expr::Make(Type::Game, arguments) => match &arguments[..] {
            [Expr::Var(name)] => syntax.pass_kept(name),
            _ => String::new(),
        },
        Expr::Make(kind, arguments) => syntax.make(kind, &all(arguments)),
        Expr::Place(place) => syntax.place(*place),
        Expr::Kind(kind) => syntax.kind_name(kind),
        Expr::IsVoid(cell) => syntax.is_void(&ranked(syntax, cell, 9)),
        Expr::Some(value) => syntax.some(&expr(syntax, value)),
        Expr::Nothing => syntax.nothing(),
        Expr::Bool(value) => syntax.boolean(*value),
        Expr::Text(text) => syntax.text(text),
        Expr::Letter(letter) => syntax.letter(*letter),
        Expr::Kept(name, field) => syntax.kept(name, field),
        Expr::Wide(value) => syntax.wide(&ranked(syntax, value, if syntax.casts_by_call() { 0 } else { 9 })),
        Expr::Narrow(value) => syntax.narrow(&ranked(syntax, value, if syntax.casts_by_call() { 0 } else { 9 })),
        Expr::At(array, place) => syntax.at(&ranked(syntax, array, 9), &expr(syntax, place)),
        Expr::Item(list, place) => syntax.item(list, &expr(syntax, place)),
        Expr::Length(list) => syntax.length(list),
        Expr::Pop(list) => syntax.pop(list),
        Expr::Pass(list, adds) => syntax.pass(list, *adds),
        Expr::LetterAt(text, place) => syntax.letter_at(&expr(syntax, text), &expr(syntax, place)),
        Expr::Is(text, wanted) => close(syntax.is(&ranked(syntax, text, 9), wanted), 3),
        Expr::Begins(text, wanted) => close(syntax.begins(&ranked(syntax, text, 9), wanted), 3),
        Expr::Drawing(line) => syntax.drawing(&expr(syntax, line)),
        Expr::Outcome(outcome) => syntax.outcome(*outcome),
        Expr::SomeCell(column, row) => {
            let rank = if syntax.casts_by_call() { 0 } else { 9 };
            syntax.some_cell(&ranked(syntax, column, rank), &ranked(syntax, row, rank))
        }
        Expr::NoCell => syntax.no_cell(),
    }
}

/// The statements of a method.
pub fn body(syntax: &dyn Syntax, method: &Method, out: &mut Lines) {
    let changed = Stmt::changed(&method.body);
    let mut writing = Writing { syntax, method, changed: &changed, open: Vec::new() };
    match method.body.split_last() {
        Some((Stmt::Return(value), before)) => {
            writing.statements(before, out);
            if writing.open.is_empty() {
                out.lines(syntax.give_last(method, value));
            } else {
                out.lines(syntax.give_freeing(method, value, &writing.open));
            }
        }
        Some(_) => writing.block(&method.body, out),
        None => {
            out.lines(syntax.idle());
        }
    }
}

/// A method that is being written.
struct Writing<'a> {
    syntax: &'a dyn Syntax,
    method: &'a Method,
    changed: &'a std::collections::BTreeSet<Name>,
    /// Lists that were made and are still needed.
    open: Vec<Name>,
}

impl Writing<'_> {
    /// A block, behind which its own lists are needed no more.
    fn block(&mut self, all: &[Stmt], out: &mut Lines) {
        let before = self.open.len();
        self.statements(all, out);
        if all.iter().all(|statement| matches!(statement, Stmt::Comment(_))) {
            out.lines(self.syntax.idle());
        }
        let ends = matches!(all.last(), Some(Stmt::Return(_) | Stmt::Leave));
        for list in self.open.split_off(before).iter().filter(|_| !ends) {
            out.lines(self.syntax.deed(Deed::Free(list)));
        }
    }

    fn statements(&mut self, all: &[Stmt], out: &mut Lines) {
        for statement in all {
            self.statement(statement, out);
        }
    }

    fn end(&self, out: &mut Lines) {
        if let Some(end) = self.syntax.end_if() {
            out.line(end);
        }
    }

    fn statement(&mut self, statement: &Stmt, out: &mut Lines) {
        let syntax = self.syntax;
        let value_of = |value: &Expr| expr(syntax, value);
        match statement {
            Stmt::Comment(text) => {
                out.line(syntax.comment(&plain(text)));
            }
            Stmt::Let(name, kind, value) => {
                out.line(syntax.declare(&syntax.name(name), kind, &value_of(value), self.changed.contains(name)));
            }
            Stmt::Return(value) if self.open.is_empty() => {
                out.lines(syntax.give(self.method, value));
            }
            Stmt::Return(value) => {
                out.lines(syntax.give_freeing(self.method, value, &self.open));
            }
            Stmt::Leave => {
                out.lines(syntax.leave(&self.open));
            }
            Stmt::If(condition, inner, other) => {
                out.line(syntax.begin_if(&value_of(condition)));
                out.inside(|out| self.block(inner, out));
                if !other.is_empty() {
                    out.line(syntax.otherwise());
                    out.inside(|out| self.block(other, out));
                }
                self.end(out);
            }
            Stmt::While(condition, inner) => {
                out.line(syntax.begin_while(&value_of(condition)));
                out.inside(|out| self.block(inner, out));
                self.end(out);
            }
            Stmt::For(name, low, high, inner) => {
                out.line(syntax.begin_for(&syntax.name(name), &value_of(low), &value_of(high)));
                out.inside(|out| self.block(inner, out));
                self.end(out);
            }
            Stmt::Assign(target, Expr::Binary(op @ (Op::Add | Op::Sub), old, by))
                if **old == *target && syntax.adds_up() =>
            {
                out.line(format!("{} {}= {}{}", value_of(target), syntax.op(*op), value_of(by), syntax.end()));
            }
            Stmt::Assign(target, value) => {
                out.line(syntax.assign(&value_of(target), &value_of(value)));
            }
            Stmt::Do(Expr::Pop(list)) => {
                out.lines(syntax.deed(Deed::Drop(list)));
            }
            Stmt::Do(value) => {
                out.line(format!("{}{}", value_of(value), syntax.end()));
            }
            Stmt::LetList(name) => {
                self.open.push(name.clone());
                out.lines(syntax.deed(Deed::Empty(name)));
            }
            Stmt::Push(list, value) => {
                out.lines(syntax.deed(Deed::Push(list, &value_of(value))));
            }
            Stmt::Fill(target, count, value) => {
                out.lines(syntax.deed(Deed::Fill(&value_of(target), &value_of(count), *value)));
            }
            Stmt::FillList(list, count, value) => {
                out.lines(syntax.deed(Deed::FillList(list, &value_of(count), *value)));
            }
            Stmt::Clear(list) => {
                out.lines(syntax.deed(Deed::Clear(list)));
            }
            Stmt::Sort(list) => {
                out.lines(syntax.deed(Deed::Sort(list)));
            }
            Stmt::Tell(text) => {
                out.lines(syntax.deed(Deed::Tell(text)));
            }
            Stmt::TellNothing => {
                out.lines(syntax.deed(Deed::TellNothing));
            }
            Stmt::Keep(name) => {
                out.lines(syntax.deed(Deed::Keep(name)));
            }
            Stmt::KeepAgain(name) => {
                out.lines(syntax.deed(Deed::KeepAgain(name)));
            }
            Stmt::Restore(name) => {
                out.lines(syntax.deed(Deed::Restore(name)));
            }
            Stmt::Forget(name) => {
                out.lines(syntax.deed(Deed::Forget(name)));
            }
        }
    }
}

/// Whether a method looks at the grid, or the game, that it belongs to.
pub fn looks_at_own(statements: &[Stmt]) -> bool {
    let mut looks = false;
    Stmt::every(statements, &mut |statement| {
        looks |= matches!(statement, Stmt::Tell(_) | Stmt::TellNothing | Stmt::Keep(_) | Stmt::Restore(_));
    });
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
    /// A board of its own is played.
    fn played(&self, play: &Play) -> Vec<String>;
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
            Check::Play(play) => tester.played(play),
        })
        .collect()
}
