//! What is known beforehand is worked out; locals that nobody reads are left out, and what made them stays only where it does
//! something.

use super::GIVEN;
use crate::tree::{Expr, List, Method, Op, Stmt};
use std::collections::BTreeSet;

/// Works out what is known beforehand: a place that a rule cannot have, a number against a number.
pub fn known(methods: &mut [Method]) {
    for method in methods {
        method.body = worked_out(std::mem::take(&mut method.body));
    }
}

fn number(value: &Expr) -> Option<i64> {
    match value {
        Expr::Int(value) => Some(*value),
        Expr::Wide(value) => number(value),
        Expr::Negative(value) => number(value).map(|value| -value),
        Expr::Binary(Op::Add, left, right) => Some(number(left)? + number(right)?),
        Expr::Binary(Op::Sub, left, right) => Some(number(left)? - number(right)?),
        _ => None,
    }
}

fn folded(value: Expr) -> Expr {
    match value {
        Expr::Not(inner) => match folded(*inner) {
            Expr::Bool(value) => Expr::Bool(!value),
            inner => Expr::Not(Box::new(inner)),
        },
        Expr::Binary(op, left, right) => {
            let (left, right) = (folded(*left), folded(*right));
            let known = match (op, &left, &right) {
                (Op::And, Expr::Bool(false), _) | (Op::And, _, Expr::Bool(false)) => Some(Expr::Bool(false)),
                (Op::Or, Expr::Bool(true), _) | (Op::Or, _, Expr::Bool(true)) => Some(Expr::Bool(true)),
                (Op::And, Expr::Bool(true), other)
                | (Op::And, other, Expr::Bool(true))
                | (Op::Or, Expr::Bool(false), other)
                | (Op::Or, other, Expr::Bool(false)) => Some(other.clone()),
                // No constant that is compared is below 0.
                (Op::Equal, Expr::Int(value), Expr::Const(_)) if *value < 0 => Some(Expr::Bool(false)),
                _ => number(&left).zip(number(&right)).and_then(|(left, right)| {
                    let holds = match op {
                        Op::Less => left < right,
                        Op::AtMost => left <= right,
                        Op::More => left > right,
                        Op::AtLeast => left >= right,
                        Op::Equal => left == right,
                        Op::Unequal => left != right,
                        Op::Add | Op::Sub | Op::Mul | Op::Div | Op::IntDiv | Op::IntMod | Op::And | Op::Or => {
                            return None;
                        }
                    };
                    Some(Expr::Bool(holds))
                }),
            };
            known.unwrap_or_else(|| Expr::Binary(op, Box::new(left), Box::new(right)))
        }
        other => other,
    }
}

fn worked_out(body: Vec<Stmt>) -> Vec<Stmt> {
    let mut out = Vec::with_capacity(body.len());
    for statement in body {
        match statement {
            Stmt::If(condition, inner, other) => match folded(condition) {
                Expr::Bool(true) => out.extend(worked_out(inner)),
                Expr::Bool(false) => out.extend(worked_out(other)),
                condition => out.push(Stmt::If(condition, worked_out(inner), worked_out(other))),
            },
            Stmt::While(condition, inner) => out.push(Stmt::While(folded(condition), worked_out(inner))),
            Stmt::For(name, low, high, inner) => out.push(Stmt::For(name, low, high, worked_out(inner))),
            Stmt::Let(name, of, value) => out.push(Stmt::Let(name, of, folded(value))),
            Stmt::Assign(target, value) => out.push(Stmt::Assign(target, folded(value))),
            Stmt::Return(value) => out.push(Stmt::Return(folded(value))),
            other => out.push(other),
        }
        // Nothing is done behind the end.
        if matches!(out.last(), Some(Stmt::Return(_) | Stmt::Leave)) {
            break;
        }
    }
    out
}

/// Leaves out what is never read.
pub fn unread(methods: &mut [Method]) {
    let changing: BTreeSet<String> =
        methods.iter().filter(|method| method.changes).map(|method| method.name.to_string()).collect();
    for method in methods {
        loop {
            let read = read(&method.body);
            let before = method.body.clone();
            method.body = kept(std::mem::take(&mut method.body), &read, &changing);
            if method.body == before {
                break;
            }
        }
    }
}

/// The locals that some expression reads.
fn read(body: &[Stmt]) -> BTreeSet<String> {
    let mut found = BTreeSet::new();
    let mut note = |value: &Expr| {
        value.each(&mut |value| match value {
            Expr::Var(name)
            | Expr::Kept(name, _)
            | Expr::Item(List::Local(name), _)
            | Expr::Length(List::Local(name))
            | Expr::Pop(List::Local(name))
            | Expr::Pass(List::Local(name), _) => {
                found.insert(name.to_string());
            }
            _ => {}
        });
    };
    Stmt::every(body, &mut |statement| match statement {
        // To set a local is not to read it.
        Stmt::Assign(Expr::Var(_), value)
        | Stmt::Let(_, _, value)
        | Stmt::Return(value)
        | Stmt::Do(value)
        | Stmt::Push(_, value)
        | Stmt::If(value, ..)
        | Stmt::While(value, _)
        | Stmt::FillList(_, value, _) => note(value),
        Stmt::Assign(one, other) | Stmt::For(_, one, other, _) | Stmt::Fill(one, other, _) => {
            note(one);
            note(other);
        }
        Stmt::Comment(_)
        | Stmt::LetList(_)
        | Stmt::Leave
        | Stmt::Clear(_)
        | Stmt::Sort(_)
        | Stmt::Tell(_)
        | Stmt::TellNothing
        | Stmt::Keep(_)
        | Stmt::KeepAgain(_)
        | Stmt::Restore(_)
        | Stmt::Forget(_) => {}
    });
    found
}

/// Whether an expression does something besides having a value.
fn does(value: &Expr, changing: &BTreeSet<String>) -> bool {
    let mut does = false;
    value.each(&mut |value| {
        does |= match value {
            Expr::Pop(_) => true,
            Expr::Pass(_, adds) => *adds,
            Expr::Call(name, _) => changing.contains(&**name) || GIVEN.contains(&&**name),
            _ => false,
        };
    });
    does
}

fn kept(body: Vec<Stmt>, read: &BTreeSet<String>, changing: &BTreeSet<String>) -> Vec<Stmt> {
    let mut out = Vec::with_capacity(body.len());
    for statement in body {
        match statement {
            Stmt::Let(name, _, value) | Stmt::Assign(Expr::Var(name), value) if !read.contains(&*name) => {
                if does(&value, changing) {
                    out.push(Stmt::Do(value));
                }
            }
            Stmt::If(condition, inner, other) => {
                let (inner, other) = (kept(inner, read, changing), kept(other, read, changing));
                let idle = |all: &[Stmt]| all.iter().all(|statement| matches!(statement, Stmt::Comment(_)));
                if !idle(&inner) || !idle(&other) || does(&condition, changing) {
                    out.push(Stmt::If(condition, inner, other));
                }
            }
            Stmt::While(condition, inner) => out.push(Stmt::While(condition, kept(inner, read, changing))),
            Stmt::For(name, low, high, inner) => {
                let inner = kept(inner, read, changing);
                if !inner.is_empty() {
                    out.push(Stmt::For(name, low, high, inner));
                }
            }
            other => out.push(other),
        }
    }
    out
}
