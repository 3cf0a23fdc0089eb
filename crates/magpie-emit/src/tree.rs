//! What a printer is given.

use crate::names::KindName;
use magpie_core::space::Where;

/// A type.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Type {
    /// A whole number of 64 bits.
    Int,
    /// A double.
    Float,
    /// True or false.
    Bool,
    /// A column and a row.
    Cell,
    /// x and y.
    Point,
    /// x, y, width and height.
    Rect,
    /// What lies at a position.
    Where,
    /// A kind of piece.
    Kind,
    /// A value of this type, or nothing.
    Option(Box<Type>),
}

/// An operator with two sides.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Op {
    Add,
    Sub,
    Mul,
    /// Of doubles.
    Div,
    /// Of whole numbers that are not negative.
    IntDiv,
    IntMod,
    Less,
    AtLeast,
    Equal,
    And,
    Or,
}

/// An expression.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs)]
pub enum Expr {
    Int(i64),
    Float(f64),
    /// A parameter or a local.
    Var(&'static str),
    /// A constant of the module.
    Const(&'static str),
    /// A field of the grid itself.
    Own(&'static str),
    Field(Box<Expr>, &'static str),
    Binary(Op, Box<Expr>, Box<Expr>),
    Not(Box<Expr>),
    Negative(Box<Expr>),
    /// The next whole number below, as a double.
    Floor(Box<Expr>),
    /// The next whole number below, as a whole number.
    FloorInt(Box<Expr>),
    ToFloat(Box<Expr>),
    /// A whole number brought between two others.
    Clamp(Box<Expr>, Box<Expr>, Box<Expr>),
    /// A method of the grid.
    Call(&'static str, Vec<Expr>),
    Make(Type, Vec<Expr>),
    Place(Where),
    Kind(KindName),
    /// Whether a cell of the board is no cell of the map.
    IsVoid(Box<Expr>),
    Some(Box<Expr>),
    Nothing,
}

impl Type {
    /// The names of what it is made of, in order.
    pub const fn fields(&self) -> &'static [&'static str] {
        match self {
            Self::Cell => &["column", "row"],
            Self::Point => &["x", "y"],
            Self::Rect => &["x", "y", "w", "h"],
            Self::Int | Self::Float | Self::Bool | Self::Where | Self::Kind | Self::Option(_) => &[],
        }
    }
}

impl Expr {
    /// Looks at this and at everything in it.
    pub fn each(&self, look: &mut dyn FnMut(&Self)) {
        look(self);
        match self {
            Self::Int(_)
            | Self::Float(_)
            | Self::Var(_)
            | Self::Const(_)
            | Self::Own(_)
            | Self::Place(_)
            | Self::Kind(_)
            | Self::Nothing => {}
            Self::Field(value, _)
            | Self::Not(value)
            | Self::Negative(value)
            | Self::Floor(value)
            | Self::FloorInt(value)
            | Self::ToFloat(value)
            | Self::IsVoid(value)
            | Self::Some(value) => value.each(look),
            Self::Binary(_, left, right) => [left, right].into_iter().for_each(|value| value.each(look)),
            Self::Clamp(value, low, high) => [value, low, high].into_iter().for_each(|value| value.each(look)),
            Self::Call(_, all) | Self::Make(_, all) => all.iter().for_each(|value| value.each(look)),
        }
    }
}

/// A statement.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs)]
pub enum Stmt {
    Let(&'static str, Type, Expr),
    If(Expr, Vec<Stmt>),
    Return(Expr),
}

impl Stmt {
    /// Looks at every expression of these statements.
    pub fn each(all: &[Self], look: &mut dyn FnMut(&Expr)) {
        for statement in all {
            match statement {
                Self::Let(_, _, value) | Self::Return(value) => value.each(look),
                Self::If(condition, inner) => {
                    condition.each(look);
                    Self::each(inner, look);
                }
            }
        }
    }
}

/// A method of the grid.
#[derive(Clone, Debug, PartialEq)]
pub struct Method {
    /// Its name, words joined by `_`.
    pub name: &'static str,
    /// What it gives, in a sentence.
    pub doc: &'static str,
    /// Its parameters.
    pub params: Vec<(&'static str, Type)>,
    /// What it gives.
    pub returns: Type,
    /// What it does.
    pub body: Vec<Stmt>,
}

/// A number of the rulebook.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Number {
    /// A whole one.
    Int(i64),
    /// A double.
    Float(f64),
}

/// A constant of the module.
#[derive(Clone, Debug, PartialEq)]
pub struct Constant {
    /// Its name, words joined by `_`.
    pub name: &'static str,
    /// Its value.
    pub value: Number,
    /// What it is.
    pub doc: &'static str,
}

/// A map: what of it the geometry needs.
#[derive(Clone, Debug, PartialEq)]
pub struct Map {
    /// Its title.
    pub title: String,
    /// Columns and rows.
    pub size: (u32, u32),
    /// The outer corner of the first cell.
    pub origin: (f64, f64),
    /// A line a row, counted as the rulebook counts rows: `.` for a cell, a blank for void.
    pub rows: Vec<String>,
}

/// A module.
#[derive(Clone, Debug, PartialEq)]
pub struct Module {
    /// Its name.
    pub name: String,
    /// The rulebook's file.
    pub source: String,
    /// The rulebook's title.
    pub title: String,
    /// Its numbers.
    pub constants: Vec<Constant>,
    /// Its maps.
    pub maps: Vec<Map>,
    /// Whether some cell of some map is void.
    pub has_void: bool,
    /// Its kinds, where a method asks for one.
    pub kinds: Vec<KindName>,
    /// The methods of its grid.
    pub methods: Vec<Method>,
}
