//! Reads the parts from which a game is put together: a small language in which every method is written once. `//` before a
//! statement is a comment of the emitted code, `///` before a method says what it does; `#if word`, `#else` and `#end` keep
//! what a rulebook uses.

use crate::tree::{Expr, GameField, List, Method, Name, Op, Stmt, Store, Type};
use magpie_core::grid::Ended;
use std::collections::{BTreeMap, BTreeSet};

/// A word, a number, a letter, a text or a sign.
#[derive(Clone, Debug, PartialEq)]
enum Token {
    Word(String),
    Number(i64),
    Letter(char),
    Text(String),
    Sign(&'static str),
    /// A comment of the emitted code.
    Comment(String),
    /// What a method does.
    Doc(String),
}

const SIGNS: [&str; 29] = [
    "..", "->", "==", "!=", "<=", ">=", "&&", "||", "<", ">", "=", "+", "-", "*", "/", "%", "!", "(", ")", "{", "}",
    "[", "]", ",", ";", ":", ".", "&", "|",
];

/// The lines that a rulebook with these features has.
pub fn kept(text: &str, features: &BTreeSet<&str>) -> String {
    let mut open: Vec<bool> = Vec::new();
    let mut out = String::new();
    for line in text.lines() {
        let word = line.trim();
        if let Some(wanted) = word.strip_prefix("#if ") {
            let holds = |word: &str| match word.strip_prefix('!') {
                Some(word) => !features.contains(word),
                None => features.contains(word),
            };
            open.push(wanted.split(" or ").any(|all| all.split(" and ").all(|word| holds(word.trim()))));
        } else if word == "#else" {
            if let Some(last) = open.last_mut() {
                *last = !*last;
            }
        } else if word == "#end" {
            open.pop();
        } else if open.iter().all(|open| *open) {
            out.push_str(line);
            out.push('\n');
        }
    }
    out
}

fn tokens(text: &str) -> Vec<Token> {
    let mut found = Vec::new();
    let mut rest = text;
    while let Some(first) = rest.chars().next() {
        if first.is_whitespace() {
            rest = &rest[first.len_utf8()..];
        } else if let Some(comment) = rest.strip_prefix("//") {
            let end = comment.find('\n').unwrap_or(comment.len());
            let line = &comment[..end];
            found.push(match line.strip_prefix('/') {
                Some(doc) => Token::Doc(doc.trim().to_owned()),
                None => Token::Comment(line.trim().to_owned()),
            });
            rest = &comment[end..];
        } else if first.is_ascii_alphabetic() || first == '_' {
            let end = rest.find(|c: char| !c.is_ascii_alphanumeric() && c != '_').unwrap_or(rest.len());
            found.push(Token::Word(rest[..end].to_owned()));
            rest = &rest[end..];
        } else if first.is_ascii_digit() {
            let end = rest.find(|c: char| !c.is_ascii_digit()).unwrap_or(rest.len());
            found.push(Token::Number(rest[..end].parse().unwrap_or(i64::MAX)));
            rest = &rest[end..];
        } else if first == '\'' {
            let mut chars = rest.chars().skip(1);
            let letter = chars.next().unwrap_or(' ');
            found.push(Token::Letter(letter));
            rest = &rest[2 + letter.len_utf8()..];
        } else if first == '"' {
            let end = rest[1..].find('"').map_or(rest.len(), |at| at + 1);
            found.push(Token::Text(rest[1..end].to_owned()));
            rest = &rest[end + 1..];
        } else {
            let sign = SIGNS.iter().find(|sign| rest.starts_with(**sign));
            let sign = sign.unwrap_or_else(|| panic!("no sign of the parts: {:?}", &rest[..rest.len().min(40)]));
            found.push(Token::Sign(sign));
            rest = &rest[sign.len()..];
        }
    }
    found
}

/// What the parts declare.
#[derive(Debug, Default)]
pub struct Parts {
    pub fields: Vec<GameField>,
    pub methods: Vec<Method>,
}

struct Reader<'t> {
    tokens: &'t [Token],
    at: usize,
    fields: &'t BTreeMap<String, Store>,
    signatures: &'t BTreeMap<String, Vec<Type>>,
    /// Types of parameters and locals, and whether it is a parameter.
    known: BTreeMap<String, (Type, bool)>,
}

/// Words of the parts themselves, and what each language calls or writes by itself.
const OWN: &str = "fn let if else while for in return keep keep_again restore forget push clear sort fill tell tell_nothing \
                   true false self no_cell won lost never unfinished int long bool text list items game field outcome cell \
                   texts random slots pieces kinds trails trail scratch marks len pop wide narrow letter_at drawing is begins \
                   draw_below begin_draws begin_game ask_for list_pieces letter_of broken_promise columns rows draws_at \
                   last_check last_line moved_piece moved_from map turns moves chosen signals input";

/// A name without what tells case styles apart.
fn styleless(name: &str) -> String {
    let inner = name.trim_end_matches('_');
    inner.replace('_', "") + &name[inner.len()..]
}

/// Gives counters their own names, and other names to what the parts call like a counter.
fn renamed(tokens: Vec<Token>, counters: &[Name]) -> Vec<Token> {
    let taken: BTreeSet<String> = counters.iter().map(|name| styleless(name)).collect();
    let number = |word: &str, stem: &str| word.strip_prefix(stem)?.parse::<usize>().ok();
    let free = |name: String| if taken.contains(&styleless(&name)) { format!("{name}_own") } else { name };
    let own: BTreeSet<&str> = OWN.split_whitespace().collect();
    let new = |word: String| {
        if let Some(name) = number(&word, "counter__").and_then(|at| counters.get(at)) {
            return name.to_string();
        }
        if let Some(name) = number(&word, "entry__").and_then(|at| counters.get(at)) {
            return free(format!("entry_{name}"));
        }
        if own.contains(word.as_str()) { word } else { free(word) }
    };
    let words = tokens.into_iter().map(|token| match token {
        Token::Word(word) if word.starts_with(|c: char| c.is_ascii_lowercase()) => Token::Word(new(word)),
        other => other,
    });
    words.collect()
}

/// Reads parts. They are the project's own: what is wrong in them is found by its tests.
pub fn read(text: &str, counters: &[Name]) -> Parts {
    let tokens = renamed(tokens(text), counters);
    let (mut fields, mut stores, mut signatures) = (Vec::new(), BTreeMap::new(), BTreeMap::new());
    let nothing = (BTreeMap::new(), BTreeMap::new());
    let mut reader =
        Reader { tokens: &tokens, at: 0, fields: &nothing.0, signatures: &nothing.1, known: BTreeMap::new() };
    // What there is first, since it may be used before it is declared.
    while reader.at < tokens.len() {
        if reader.is_word("fn") {
            reader.at += 1;
            let (name, params, _) = reader.signature();
            signatures.insert(name, params.into_iter().map(|(_, of)| of).collect::<Vec<_>>());
        } else if reader.is_word("field") {
            let field = reader.field();
            stores.insert(field.name.to_string(), field.store);
            fields.push(field);
        } else {
            reader.at += 1;
        }
    }
    let mut reader =
        Reader { tokens: &tokens, at: 0, fields: &stores, signatures: &signatures, known: BTreeMap::new() };
    let mut methods = Vec::new();
    let mut doc = String::new();
    while reader.at < tokens.len() {
        match &tokens[reader.at] {
            Token::Doc(line) => {
                doc = if doc.is_empty() { line.clone() } else { format!("{doc} {line}") };
                reader.at += 1;
            }
            Token::Word(word) if word == "fn" => {
                reader.at += 1;
                methods.push(reader.method(std::mem::take(&mut doc)));
            }
            Token::Word(word) if word == "field" => {
                reader.field();
                doc.clear();
            }
            _ => reader.at += 1,
        }
    }
    Parts { fields, methods }
}

impl Reader<'_> {
    fn peek(&self) -> Option<&Token> {
        self.tokens.get(self.at)
    }

    fn is_word(&self, word: &str) -> bool {
        matches!(self.peek(), Some(Token::Word(found)) if found == word)
    }

    fn is(&self, sign: &str) -> bool {
        matches!(self.peek(), Some(Token::Sign(found)) if *found == sign)
    }

    fn take(&mut self, sign: &str) -> bool {
        let is = self.is(sign);
        self.at += usize::from(is);
        is
    }

    fn need(&mut self, sign: &str) {
        let near: Vec<_> = self.tokens[self.at.saturating_sub(8)..].iter().take(14).collect();
        assert!(self.take(sign), "`{sign}` is missing near {near:?}");
    }

    fn word(&mut self) -> String {
        let found = self.peek().cloned();
        self.at += 1;
        let near: Vec<_> = self.tokens[self.at.saturating_sub(8)..].iter().take(14).collect();
        match found {
            Some(Token::Word(word)) => word,
            other => panic!("a word is missing, not {other:?}, near {near:?}"),
        }
    }

    fn of_type(&mut self) -> Type {
        match self.word().as_str() {
            "int" => Type::Small,
            "long" => Type::Int,
            "bool" => Type::Bool,
            "text" => Type::Text,
            "list" => Type::List,
            "items" => Type::Items,
            "game" => Type::Game,
            other => panic!("`{other}` is no type of the parts"),
        }
    }

    /// `field NAME: STORE;` or `field NAME: STORE "what it is";`
    fn field(&mut self) -> GameField {
        self.at += 1;
        let name = self.word();
        self.need(":");
        let store = match self.word().as_str() {
            "long" => Store::Int,
            "int" => Store::Small,
            "bool" => Store::Bool,
            "outcome" => Store::Outcome,
            "cell" => Store::Cell,
            "texts" => Store::Texts,
            "random" => Store::Random,
            "slots" => Store::Array("MOST_SLOTS"),
            "pieces" => Store::Array("MOST_PIECES"),
            "kinds" => Store::Array("KINDS"),
            "trails" => Store::Array("TRAILS"),
            "trail" => Store::List("MOST_PIECES"),
            "scratch" => Store::Scratch,
            "marks" => Store::ScratchArray("MOST_PIECES"),
            other => panic!("`{other}` is no store"),
        };
        let doc = match self.peek() {
            Some(Token::Text(doc)) => Some(doc.clone()),
            _ => None,
        };
        self.at += usize::from(doc.is_some());
        self.need(";");
        GameField { name: name.into(), store, doc }
    }

    fn signature(&mut self) -> (String, Vec<(Name, Type)>, Type) {
        let name = self.word();
        self.need("(");
        let mut params = Vec::new();
        while !self.take(")") {
            let name = self.word();
            self.need(":");
            params.push((name.into(), self.of_type()));
            self.take(",");
        }
        let returns = if self.take("->") { self.of_type() } else { Type::Nothing };
        (name, params, returns)
    }

    fn method(&mut self, doc: String) -> Method {
        let (name, params, returns) = self.signature();
        self.known = params.iter().map(|(name, of)| (name.to_string(), (of.clone(), true))).collect();
        let body = self.block();
        Method { name: name.into(), doc: doc.into(), params, returns, body, changes: false, is_public: false }
    }

    fn block(&mut self) -> Vec<Stmt> {
        self.need("{");
        let mut all = Vec::new();
        while !self.take("}") {
            all.push(self.statement());
        }
        all
    }

    fn statement(&mut self) -> Stmt {
        if let Some(Token::Comment(text)) = self.peek().cloned() {
            self.at += 1;
            return Stmt::Comment(text);
        }
        if let Some(Token::Word(word)) = self.peek().cloned() {
            let found = self.keyword(&word);
            if let Some(found) = found {
                return found;
            }
        }
        let value = self.expr(0);
        let statement = if self.take("=") {
            let new = self.expr(0);
            Stmt::Assign(value, new)
        } else {
            Stmt::Do(value)
        };
        self.need(";");
        statement
    }

    fn keyword(&mut self, word: &str) -> Option<Stmt> {
        let start = self.at;
        self.at += 1;
        let found = match word {
            "let" => self.local(),
            "if" => return Some(self.condition()),
            "while" => {
                let condition = self.expr(0);
                return Some(Stmt::While(condition, self.block()));
            }
            "for" => {
                let name = self.word();
                self.known.insert(name.clone(), (Type::Small, false));
                assert_eq!(self.word(), "in", "of a for");
                let low = self.expr(4);
                self.need("..");
                let high = self.expr(4);
                return Some(Stmt::For(name.into(), low, high, self.block()));
            }
            "return" if self.is(";") => Stmt::Leave,
            "return" => Stmt::Return(self.expr(0)),
            "keep" => Stmt::Keep(self.kept_name()),
            "keep_again" => Stmt::KeepAgain(self.kept_name()),
            "restore" => Stmt::Restore(self.kept_name()),
            "forget" => Stmt::Forget(self.kept_name()),
            "push" | "clear" | "sort" | "fill" if self.is("(") => self.of_list(word),
            "tell" => {
                let text = match self.peek().cloned() {
                    Some(Token::Text(text)) => text,
                    other => panic!("a text to tell, not {other:?}"),
                };
                self.at += 1;
                Stmt::Tell(text)
            }
            "tell_nothing" => Stmt::TellNothing,
            _ => {
                self.at = start;
                return None;
            }
        };
        self.need(";");
        Some(found)
    }

    fn kept_name(&mut self) -> Name {
        let name = self.word();
        self.known.insert(name.clone(), (Type::Game, false));
        name.into()
    }

    fn local(&mut self) -> Stmt {
        let name = self.word();
        self.need(":");
        let of = self.of_type();
        self.known.insert(name.clone(), (of.clone(), false));
        if of == Type::List {
            return Stmt::LetList(name.into());
        }
        self.need("=");
        Stmt::Let(name.into(), of, self.expr(0))
    }

    fn condition(&mut self) -> Stmt {
        let condition = self.expr(0);
        let then = self.block();
        if !self.is_word("else") {
            return Stmt::If(condition, then, Vec::new());
        }
        self.at += 1;
        let other = if self.is_word("if") {
            self.at += 1;
            vec![self.condition()]
        } else {
            self.block()
        };
        Stmt::If(condition, then, other)
    }

    /// `push(list, value)` and its sisters.
    fn of_list(&mut self, word: &str) -> Stmt {
        self.need("(");
        let own = self.is_word("self");
        let target = self.expr(0);
        let list = Self::list_of(&target);
        let statement = match word {
            "push" => {
                self.need(",");
                Stmt::Push(list.unwrap_or_else(|| panic!("no list: {target:?}")), self.expr(0))
            }
            "fill" => {
                self.need(",");
                let count = self.expr(0);
                self.need(",");
                let value = match self.expr(0) {
                    Expr::Int(value) => value,
                    Expr::Negative(value) if matches!(*value, Expr::Int(_)) => -1,
                    other => panic!("a number to fill with, not {other:?}"),
                };
                match list {
                    Some(list) if !own => Stmt::FillList(list, count, value),
                    _ => Stmt::Fill(target, count, value),
                }
            }
            "clear" => Stmt::Clear(list.unwrap_or_else(|| panic!("no list: {target:?}"))),
            _ => Stmt::Sort(list.unwrap_or_else(|| panic!("no list: {target:?}"))),
        };
        self.need(")");
        statement
    }

    /// The list that an expression is.
    fn list_of(value: &Expr) -> Option<List> {
        match value {
            Expr::Pass(list, _) => Some(list.clone()),
            _ => None,
        }
    }

    fn expr(&mut self, least: u8) -> Expr {
        let mut left = self.unary();
        loop {
            let Some(Token::Sign(sign)) = self.peek() else { return left };
            let (op, rank) = match *sign {
                "||" => (Op::Or, 1),
                "&&" => (Op::And, 2),
                "==" => (Op::Equal, 3),
                "!=" => (Op::Unequal, 3),
                "<" => (Op::Less, 3),
                "<=" => (Op::AtMost, 3),
                ">" => (Op::More, 3),
                ">=" => (Op::AtLeast, 3),
                "+" => (Op::Add, 4),
                "-" => (Op::Sub, 4),
                "*" => (Op::Mul, 5),
                "/" => (Op::IntDiv, 5),
                "%" => (Op::IntMod, 5),
                _ => return left,
            };
            if rank < least.max(1) {
                return left;
            }
            self.at += 1;
            let right = self.expr(rank + 1);
            left = Expr::Binary(op, Box::new(left), Box::new(right));
        }
    }

    fn unary(&mut self) -> Expr {
        if self.take("!") {
            return Expr::Not(Box::new(self.unary()));
        }
        if self.take("-") {
            return match self.unary() {
                Expr::Int(value) => Expr::Int(-value),
                value => Expr::Negative(Box::new(value)),
            };
        }
        let value = self.primary();
        self.behind(value)
    }

    /// What stands in brackets behind a value.
    fn behind(&mut self, mut value: Expr) -> Expr {
        while self.take("[") {
            let place = Box::new(self.expr(0));
            self.need("]");
            value = match Self::list_of(&value) {
                Some(list) => Expr::Item(list, place),
                None => Expr::At(Box::new(value), place),
            };
        }
        value
    }

    fn primary(&mut self) -> Expr {
        let token = self.peek().cloned();
        self.at += 1;
        match token {
            Some(Token::Number(value)) => Expr::Int(value),
            Some(Token::Letter(letter)) => Expr::Letter(letter),
            Some(Token::Text(text)) => Expr::Text(text),
            Some(Token::Sign("(")) => {
                let value = self.expr(0);
                self.need(")");
                value
            }
            Some(Token::Word(word)) => self.named(word),
            other => {
                panic!("a value is missing, not {other:?}, near {:?}", &self.tokens[self.at.saturating_sub(8)..self.at])
            }
        }
    }

    fn named(&mut self, word: String) -> Expr {
        match word.as_str() {
            "true" => return Expr::Bool(true),
            "false" => return Expr::Bool(false),
            "self" => {
                self.need(".");
                let name = self.word();
                let store = self.fields.get(&name);
                assert!(store.is_some() || self.fields.is_empty(), "no field `{name}`");
                return match store {
                    Some(Store::List(_) | Store::Scratch) => Expr::Pass(List::Own(name.into()), false),
                    _ => Expr::Own(name.into()),
                };
            }
            "no_cell" => return Expr::NoCell,
            "won" => return Expr::Outcome(Some(Ended::Won)),
            "lost" => return Expr::Outcome(Some(Ended::Lost)),
            "never" => return Expr::Outcome(Some(Ended::NeverSettles)),
            "unfinished" => return Expr::Outcome(None),
            _ => {}
        }
        if self.is("(") {
            return self.call(word);
        }
        if word.starts_with(|c: char| c.is_ascii_uppercase()) {
            return Expr::Const(word.into());
        }
        let known = self.known.get(&word).cloned();
        match known {
            Some((Type::List | Type::Items, true)) => Expr::Pass(List::Param(word.into()), false),
            Some((Type::List | Type::Items, false)) => Expr::Pass(List::Local(word.into()), false),
            Some((Type::Game, _)) => {
                self.need(".");
                let field = self.word();
                Expr::Kept(word.into(), field.into())
            }
            Some(_) => Expr::Var(word.into()),
            None => panic!("`{word}` is not known, near {:?}", &self.tokens[self.at.saturating_sub(12)..self.at]),
        }
    }

    fn call(&mut self, word: String) -> Expr {
        self.need("(");
        let mut all = Vec::new();
        while !self.take(")") {
            // A kept state goes to a method as it is.
            if let (Some(Token::Word(name)), Some(Token::Sign("," | ")"))) =
                (self.peek().cloned(), self.tokens.get(self.at + 1))
                && matches!(self.known.get(&name), Some((Type::Game, _)))
            {
                self.at += 1;
                all.push(Expr::Make(Type::Game, vec![Expr::Var(name.into())]));
            } else {
                all.push(self.expr(0));
            }
            self.take(",");
        }
        let list = all.first().and_then(Self::list_of);
        let boxed = |value: &Expr| Box::new(value.clone());
        match (word.as_str(), &all[..]) {
            ("len", _) => Expr::Length(list.unwrap_or_else(|| panic!("no list: {all:?}"))),
            ("pop", _) => Expr::Pop(list.unwrap_or_else(|| panic!("no list: {all:?}"))),
            ("wide", [value]) => Expr::Wide(boxed(value)),
            ("narrow", [value]) => Expr::Narrow(boxed(value)),
            ("letter_at", [text, place]) => Expr::LetterAt(boxed(text), boxed(place)),
            ("drawing", [line]) => Expr::Drawing(boxed(line)),
            ("cell", [column, row]) => Expr::SomeCell(boxed(column), boxed(row)),
            ("begins", [text, Expr::Text(wanted)]) => Expr::Begins(boxed(text), wanted.clone()),
            ("is", [text, Expr::Text(wanted)]) => Expr::Is(boxed(text), wanted.clone()),
            _ => {
                if let Some(types) = self.signatures.get(&word) {
                    for (value, of) in all.iter_mut().zip(types) {
                        if let Expr::Pass(_, adds) = value {
                            *adds = *of == Type::List;
                        }
                    }
                }
                Expr::Call(word.into(), all)
            }
        }
    }
}
