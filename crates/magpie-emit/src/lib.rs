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

/// What a statement of a rulebook becomes in a language: the methods, or the parts of them, that stand for the rule of a line.
/// Nothing for a line that is no rule, or one that is not covered.
///
/// # Examples
/// ```
/// use magpie_emit::{Language, of_line};
///
/// let text = "game \"Yard\"\ncell 24 px\nkinds\n  porter P body\n  crate C body\nmap \"One\"\n  PC_\nrules\n  porter into crate: shove\n";
/// let book = magpie_core::read_text(text, &|path| Err(format!("no file `{path}`"))).rulebook.unwrap();
/// let code = of_line(&book, text, "yard.magpie", Language::Python, 9);
/// assert!(code.iter().any(|line| line.contains("asker == KIND_PORTER and met == KIND_CRATE")));
/// ```
pub fn of_line(book: &Rulebook, source: &str, file: &str, language: Language, line: u32) -> Vec<String> {
    let files = emit(book, source, 0, file, (language, Part::Board), &[]).files;
    let text = files.iter().find(|file| file.text.contains(&format!(" {line}: ")) && !file.name.contains("est."));
    text.map_or(Vec::new(), |file| excerpts(&file.text, &format!(" {line}: ")))
}

/// Most lines of a method that is shown whole.
const MOST_WHOLE: usize = 16;

/// The methods in which a rule is named; of long ones their heads and what stands below the name.
fn excerpts(text: &str, named: &str) -> Vec<String> {
    let mut out: Vec<String> = Vec::new();
    // Methods stand apart by empty lines, and hold none.
    for part in text.split("\n\n") {
        let lines: Vec<&str> = part.lines().filter(|line| !line.is_empty()).collect();
        let is_named = |line: &&str| {
            let line = line.trim_start();
            ["//", "#", "--"].iter().any(|sign| line.strip_prefix(sign).is_some_and(|rest| rest.starts_with(named)))
        };
        let Some(at) = lines.iter().position(is_named) else { continue };
        if !out.is_empty() {
            out.push(String::new());
        }
        if lines.len() <= MOST_WHOLE {
            out.extend(lines.iter().map(|line| (*line).to_owned()));
            continue;
        }
        let indent = lines[at].len() - lines[at].trim_start().len();
        let deeper = |line: &&&str| line.len() - line.trim_start().len() > indent;
        let body = 1 + lines[at + 1..].iter().skip(1).take_while(deeper).count() + 1;
        out.extend(lines.iter().take(2).map(|line| (*line).to_owned()));
        out.push(format!("{}...", " ".repeat(indent)));
        out.extend(lines[at..].iter().take(1 + body).map(|line| (*line).to_owned()));
        out.push(format!("{}...", " ".repeat(indent)));
    }
    let least = out.iter().filter(|line| !line.is_empty()).map(|line| line.len() - line.trim_start().len()).min();
    out.into_iter().map(|line| line.get(least.unwrap_or(0)..).unwrap_or_default().to_owned()).collect()
}
