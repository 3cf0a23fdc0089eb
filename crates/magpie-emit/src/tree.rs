//! What a printer is given.

use crate::names::KindName;
use magpie_core::grid::Ended;
use magpie_core::space::Where;
use std::borrow::Cow;
use std::collections::BTreeSet;

/// A name, words joined by `_`.
pub type Name = Cow<'static, str>;

/// A type.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Type {
    /// A whole number of 64 bits.
    Int,
    /// A whole number for cells, pieces and counts of them.
    Small,
    /// A double.
    Float,
    /// True or false.
    Bool,
    /// A text.
    Text,
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
    /// A list of small numbers that a method adds to.
    List,
    /// A list of small numbers that a method only reads.
    Items,
    /// Another state of the game, to look at.
    Game,
    /// Nothing: a method that only does something.
    Nothing,
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
    AtMost,
    More,
    AtLeast,
    Equal,
    Unequal,
    And,
    Or,
}

/// A list: a local, a parameter, or a field of the game.
#[derive(Clone, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum List {
    Local(Name),
    Param(Name),
    Own(Name),
}

/// An expression.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs)]
pub enum Expr {
    Int(i64),
    Float(f64),
    Bool(bool),
    Text(String),
    /// A letter as a number.
    Letter(char),
    /// A parameter or a local.
    Var(Name),
    /// A constant of the module.
    Const(Name),
    /// A field of the grid, or of the game, itself.
    Own(Name),
    /// A field of a state that was kept.
    Kept(Name, Name),
    Field(Box<Expr>, Name),
    Binary(Op, Box<Expr>, Box<Expr>),
    Not(Box<Expr>),
    Negative(Box<Expr>),
    /// The next whole number below, as a double.
    Floor(Box<Expr>),
    /// The next whole number below, as a whole number.
    FloorInt(Box<Expr>),
    ToFloat(Box<Expr>),
    /// A small number as one of 64 bits.
    Wide(Box<Expr>),
    /// The other way.
    Narrow(Box<Expr>),
    /// A whole number brought between two others.
    Clamp(Box<Expr>, Box<Expr>, Box<Expr>),
    /// A method of the grid or the game.
    Call(Name, Vec<Expr>),
    Make(Type, Vec<Expr>),
    Place(Where),
    Kind(KindName),
    /// Whether a cell of the board is no cell of the map.
    IsVoid(Box<Expr>),
    Some(Box<Expr>),
    Nothing,
    /// A number of an array of the game, or of a table of the module.
    At(Box<Expr>, Box<Expr>),
    /// A number of a list.
    Item(List, Box<Expr>),
    /// How many numbers a list has.
    Length(List),
    /// Takes the last number of a list.
    Pop(List),
    /// A list as an argument; whether the method adds to it.
    Pass(List, bool),
    /// The letter at a place of a text as a number, 0 behind its end.
    LetterAt(Box<Expr>, Box<Expr>),
    /// Whether a text is this one.
    Is(Box<Expr>, String),
    /// Whether a text begins with this.
    Begins(Box<Expr>, String),
    /// A line, from the top, of the drawing of the map.
    Drawing(Box<Expr>),
    /// How the game stands.
    Outcome(Option<Ended>),
    /// A cell, or nothing, as a field of the game.
    SomeCell(Box<Expr>, Box<Expr>),
    NoCell,
}

impl Type {
    /// The names of what it is made of, in order.
    pub const fn fields(&self) -> &'static [&'static str] {
        match self {
            Self::Cell => &["column", "row"],
            Self::Point => &["x", "y"],
            Self::Rect => &["x", "y", "w", "h"],
            Self::Int
            | Self::Small
            | Self::Float
            | Self::Bool
            | Self::Text
            | Self::Where
            | Self::Kind
            | Self::Option(_)
            | Self::List
            | Self::Items
            | Self::Game
            | Self::Nothing => &[],
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
            | Self::Bool(_)
            | Self::Text(_)
            | Self::Letter(_)
            | Self::Var(_)
            | Self::Const(_)
            | Self::Own(_)
            | Self::Kept(..)
            | Self::Place(_)
            | Self::Kind(_)
            | Self::Length(_)
            | Self::Pop(_)
            | Self::Pass(..)
            | Self::Outcome(_)
            | Self::NoCell
            | Self::Nothing => {}
            Self::Field(value, _)
            | Self::Not(value)
            | Self::Negative(value)
            | Self::Floor(value)
            | Self::FloorInt(value)
            | Self::ToFloat(value)
            | Self::Wide(value)
            | Self::Narrow(value)
            | Self::IsVoid(value)
            | Self::Drawing(value)
            | Self::Is(value, _)
            | Self::Begins(value, _)
            | Self::Item(_, value)
            | Self::Some(value) => value.each(look),
            Self::Binary(_, left, right)
            | Self::At(left, right)
            | Self::LetterAt(left, right)
            | Self::SomeCell(left, right) => [left, right].into_iter().for_each(|value| value.each(look)),
            Self::Clamp(value, low, high) => [value, low, high].into_iter().for_each(|value| value.each(look)),
            Self::Call(_, all) | Self::Make(_, all) => all.iter().for_each(|value| value.each(look)),
        }
    }
}

/// A statement.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs)]
pub enum Stmt {
    Comment(String),
    Let(Name, Type, Expr),
    /// An empty list.
    LetList(Name),
    Assign(Expr, Expr),
    If(Expr, Vec<Stmt>, Vec<Stmt>),
    While(Expr, Vec<Stmt>),
    /// From the first number to before the second.
    For(Name, Expr, Expr, Vec<Stmt>),
    Return(Expr),
    Leave,
    Do(Expr),
    Push(List, Expr),
    /// Takes everything out of a list.
    Clear(List),
    Sort(List),
    /// So many times the same number, in an array of the game or a list of it.
    Fill(Expr, Expr, i64),
    /// So many times the same number, in a local list.
    FillList(List, Expr, i64),
    /// Adds a text to those that are told.
    Tell(String),
    /// Takes all of them away.
    TellNothing,
    /// Keeps the state of the game as it is.
    Keep(Name),
    /// Keeps it anew.
    KeepAgain(Name),
    /// Brings it back.
    Restore(Name),
    /// It is needed no more.
    Forget(Name),
}

impl Stmt {
    /// Looks at every statement, and those within.
    pub fn every(all: &[Self], look: &mut dyn FnMut(&Self)) {
        for statement in all {
            look(statement);
            match statement {
                Self::If(_, inner, other) => {
                    Self::every(inner, look);
                    Self::every(other, look);
                }
                Self::While(_, inner) | Self::For(_, _, _, inner) => Self::every(inner, look),
                Self::Comment(_)
                | Self::Let(..)
                | Self::LetList(_)
                | Self::Assign(..)
                | Self::Return(_)
                | Self::Leave
                | Self::Do(_)
                | Self::Push(..)
                | Self::Clear(_)
                | Self::Sort(_)
                | Self::Fill(..)
                | Self::FillList(..)
                | Self::Tell(_)
                | Self::TellNothing
                | Self::Keep(_)
                | Self::KeepAgain(_)
                | Self::Restore(_)
                | Self::Forget(_) => {}
            }
        }
    }

    /// Looks at every expression of these statements.
    pub fn each(all: &[Self], look: &mut dyn FnMut(&Expr)) {
        Self::every(all, &mut |statement| match statement {
            Self::Let(_, _, value)
            | Self::Return(value)
            | Self::Do(value)
            | Self::Push(_, value)
            | Self::If(value, ..)
            | Self::While(value, _)
            | Self::FillList(_, value, _) => value.each(look),
            Self::Assign(one, other) | Self::For(_, one, other, _) | Self::Fill(one, other, _) => {
                one.each(look);
                other.each(look);
            }
            Self::Comment(_)
            | Self::LetList(_)
            | Self::Leave
            | Self::Clear(_)
            | Self::Sort(_)
            | Self::Tell(_)
            | Self::TellNothing
            | Self::Keep(_)
            | Self::KeepAgain(_)
            | Self::Restore(_)
            | Self::Forget(_) => {}
        });
    }

    /// The locals that are set again after they were made.
    pub fn changed(all: &[Self]) -> BTreeSet<Name> {
        let mut found = BTreeSet::new();
        Self::every(all, &mut |statement| {
            if let Self::Assign(Expr::Var(name), _) | Self::KeepAgain(name) = statement {
                found.insert(name.clone());
            }
        });
        found
    }
}

/// A method of the grid or the game.
#[derive(Clone, Debug, PartialEq)]
pub struct Method {
    /// Its name, words joined by `_`.
    pub name: Name,
    /// What it gives or does, in a sentence.
    pub doc: Name,
    /// Its parameters.
    pub params: Vec<(Name, Type)>,
    /// What it gives.
    pub returns: Type,
    /// What it does.
    pub body: Vec<Stmt>,
    /// It changes the game.
    pub changes: bool,
    /// It is there for who calls the module.
    pub is_public: bool,
}

impl Method {
    /// A method that only asks, for everybody.
    pub fn new(
        name: &'static str,
        doc: &'static str,
        params: Vec<(&'static str, Type)>,
        returns: Type,
        body: Vec<Stmt>,
    ) -> Self {
        let params = params.into_iter().map(|(name, of)| (name.into(), of)).collect();
        Self { name: name.into(), doc: doc.into(), params, returns, body, changes: false, is_public: true }
    }
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

/// What a table of the game holds.
#[derive(Clone, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Values {
    Numbers(Vec<i64>),
    Texts(Vec<String>),
}

/// How a field of the game is kept.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Store {
    Int,
    Small,
    Bool,
    Outcome,
    /// A cell or nothing.
    Cell,
    /// Texts that were told.
    Texts,
    /// Where the random numbers stand.
    Random,
    /// So many small numbers at most, by a constant; all of them at any time.
    Array(&'static str),
    /// A list of at most so many small numbers.
    List(&'static str),
    /// A list, or an array, that is of no use between two calls.
    Scratch,
    ScratchArray(&'static str),
}

/// A field of the game.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct GameField {
    /// Its name, words joined by `_`.
    pub name: Name,
    /// What it holds.
    pub store: Store,
    /// What it is, for those that everybody may read.
    pub doc: Option<String>,
}

/// The game: the part of a module that plays.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Game {
    /// Small numbers with names.
    pub constants: Vec<(Name, i64)>,
    /// Tables of numbers and texts.
    pub tables: Vec<(Name, Values)>,
    /// The drawings of the maps, top line first, letters of one byte; no line of one that is filled.
    pub drawings: Vec<Vec<String>>,
    /// Its fields.
    pub fields: Vec<GameField>,
    /// Its methods.
    pub methods: Vec<Method>,
    /// The counters' names, with the rulebook's words.
    pub counters: Vec<(Name, String)>,
    /// The seed, where anything is drawn.
    pub seed: Option<u64>,
    /// Whether a cell may be chosen.
    pub chooses: bool,
    /// The promises, as written.
    pub promises: Vec<String>,
    /// The map it begins on, from 1.
    pub map: usize,
    /// Layers.
    pub layers: usize,
    /// Most cells of a map, and bytes of a drawn board.
    pub most_cells: usize,
    /// Bytes of the longest printed board, its end included.
    pub board_bytes: usize,
    /// What is not covered and was left out, for the head of the module.
    pub left_out: Vec<String>,
    /// Whether rows count from the top.
    pub from_top: bool,
}

impl Game {
    /// Whether who calls the module may read a field.
    pub fn is_open(&self, name: &str) -> bool {
        self.fields.iter().any(|field| field.name == name && field.doc.is_some())
    }

    /// Whether its drawings are numbers, since there is more than letters can say.
    pub fn is_numbered(&self) -> bool {
        self.tables.iter().any(|(name, _)| name == "DRAWN")
    }
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
    /// The methods of its grid; none where the geometry is left out.
    pub methods: Vec<Method>,
    /// The game, where it is wanted.
    pub game: Option<Game>,
}
