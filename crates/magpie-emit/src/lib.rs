//! Source code in other languages from a rulebook: the rulebook becomes a small tree of constants, methods, statements and
//! expressions, and one printer a language writes it down.
//!
//! `tree` is what a printer is given, `geometry` makes it, `tests_of` the checks that go with it, `printer` what all languages
//! share; a language is a file in `languages/` and a line in [`Language::ALL`].

mod geometry;
mod languages;
mod names;
mod printer;
#[cfg(test)]
mod tests;
mod tests_of;
mod tree;

pub use languages::Language;
pub use names::{module_name, renamed};

use magpie_core::Rulebook;

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

/// The geometry of a rulebook's maps in a language: a module, and a test program with vectors in it. `file` is the name of the
/// rulebook's file.
pub fn geometry(book: &Rulebook, map: usize, file: &str, language: Language) -> Vec<File> {
    let stem = file.rsplit_once('.').map_or(file, |(stem, _)| stem);
    let module = geometry::module(book, file, &module_name(stem, language));
    let checks = tests_of::checks(book, map);
    language.printer().files(&module, &checks)
}
