//! Source code in other languages from a rulebook: the rulebook becomes a small tree of constants, methods, statements and
//! expressions, and one printer a language writes it down.
//!
//! `tree` is what a printer is given, `geometry` makes it, `tests_of` the checks that go with it, `printer` what all languages
//! share; a language is a file in `languages/` and a line in [`Language::ALL`].

mod geometry;
mod languages;
mod printer;
mod tests_of;
mod tree;

pub use languages::Language;

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

/// The stem of a rulebook's file as a name: what is no letter or digit becomes `_`, with `_` before a digit at its beginning.
pub fn module_name(stem: &str) -> String {
    let plain: String =
        stem.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '_' }).collect();
    if plain.is_empty() || plain.starts_with(|c: char| c.is_ascii_digit()) { format!("_{plain}") } else { plain }
}

/// The geometry of a rulebook's maps in a language: a module, and a test program with vectors in it. `file` is the name of the
/// rulebook's file.
pub fn geometry(book: &Rulebook, map: usize, file: &str, language: Language) -> Vec<File> {
    let stem = file.rsplit_once('.').map_or(file, |(stem, _)| stem);
    let module = geometry::module(book, file, &module_name(stem));
    let checks = tests_of::checks(book, map);
    language.printer().files(&module, &checks)
}
