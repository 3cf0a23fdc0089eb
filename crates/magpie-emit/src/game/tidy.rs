//! Locals that nobody reads are left out, and what made them stays only where it does something.

use super::GIVEN;
use crate::tree::{Expr, List, Method, Stmt};
use std::collections::BTreeSet;

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
            Expr::Var(name) | Expr::Kept(name, _) => {
                found.insert(name.to_string());
            }
            Expr::Item(List::Local(name), _)
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
        Stmt::Assign(Expr::Var(_), value) => note(value),
        Stmt::Assign(one, other) | Stmt::For(_, one, other, _) | Stmt::Fill(one, other, _) => {
            note(one);
            note(other);
        }
        Stmt::Let(_, _, value)
        | Stmt::Return(value)
        | Stmt::Do(value)
        | Stmt::Push(_, value)
        | Stmt::If(value, ..)
        | Stmt::While(value, _)
        | Stmt::FillList(_, value, _) => note(value),
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
