//! Source code in other languages from a rulebook: the rulebook becomes a small tree of constants, methods, statements and
//! expressions, and one printer a language writes it down.
//!
//! `tree` is what a printer is given, `geometry` makes it, `tests_of` the checks that go with it, `printer` what all languages
//! share; a language is a file in `languages/` and a line in [`Language::ALL`].

mod game;
mod geometry;
mod languages;
mod names;
mod printer;
#[cfg(test)]
mod tests;
mod tests_of;
mod tree;

pub use game::Uncovered;
pub use languages::Language;
pub use names::{module_name, renamed};

use magpie_core::Rulebook;
use magpie_core::vectors::Vector;
use std::sync::Arc;

/// Words in the first lines of everything that is emitted.
pub const EMITTED: &str = "emitted by rapid-magpie";

/// A file that was made.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct File {
    /// Its name.
    pub name: String,
    /// Its text.
    pub text: String,
}

/// What of a rulebook is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Part {
    /// Positions, cells and indices.
    Geometry,
    /// The board and its rules.
    Board,
    /// Both.
    All,
}

/// The fields of a rulebook's counters, as a language writes them.
pub fn counter_fields(book: &Rulebook, language: Language) -> Vec<String> {
    let styled = |name: tree::Name| match language {
        Language::CSharp => printer::pascal(&name),
        Language::Js | Language::Ts => printer::camel(&name),
        Language::Rust | Language::C | Language::Cpp | Language::Python | Language::Lua => name.into_owned(),
    };
    names::counters(book, language).into_iter().map(styled).collect()
}

/// What is written.
#[derive(Clone, Debug)]
pub struct Emitted {
    /// The module and its test program.
    pub files: Vec<File>,
    /// Counters whose fields have other names, with these.
    pub renamed: Vec<(String, String)>,
}

/// Statements of a rulebook that need what is not covered.
pub fn not_covered(book: &Rulebook, source: &str) -> Vec<Uncovered> {
    game::covered(book, source).1
}

/// The vectors of `step` and `rows` for what is covered of a rulebook; they are searched for, which takes a while.
pub fn situations(book: &Rulebook, source: &str) -> Vec<Vector> {
    let (book, _) = game::covered(book, source);
    tests_of::situations_of(&Arc::new(book))
}

/// A rulebook, a map of it from 0, as code in a language: a module, and a test program with vectors in it. `file` is the name of
/// the rulebook's file, `source` its text, `plays` are vectors of [`situations`].
pub fn emit(
    book: &Rulebook,
    source: &str,
    map: usize,
    file: &str,
    (language, part): (Language, Part),
    plays: &[Vector],
) -> Emitted {
    let stem = file.rsplit_once('.').map_or(file, |(stem, _)| stem);
    let mut module = geometry::module(book, file, &module_name(stem, language));
    let mut checks = tests_of::checks(book, map);
    let mut renamed = Vec::new();
    if part != Part::Geometry {
        let (book, left_out) = game::covered(book, source);
        let told = left_out.iter().map(|found| format!("line {}: {}", found.line, found.what)).collect();
        let counters = names::counters(&book, language);
        renamed = names::renamed_counters(&book, language);
        module.kinds = names::kinds(&book);
        let made = game::game(&book, source, map, &counters, told);
        if part == Part::Board {
            module.methods.clear();
            checks.all.clear();
        }
        let book = Arc::new(book);
        checks.all.extend(tests_of::plays(&book, plays, &|letter| game::letter(&book, letter), &counters));
        module.game = Some(made);
    }
    Emitted { files: language.printer().files(&module, &checks), renamed }
}
