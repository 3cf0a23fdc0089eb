//! The rulebook: from the bytes of a file to rules that can be played (docs/language.md).
//!
//! The phases are the files: `lexer` (characters to tokens), `layout` (indentation to statements), `parser`
//! (statements to the tree of `syntax`), `checker` (the tree to a [`Rulebook`]), and beside them [`format()`].

mod checker;
mod diagnostic;
pub mod document;
pub mod edit;
mod format;
pub mod highlight;
mod layout;
mod lexer;
pub mod lexicon;
pub mod meetings;
mod model;
mod parser;
mod questions;
mod reads;
mod syntax;
mod wording;

use crate::limits::LARGEST_FILE;
use diagnostic::Findings;
pub use diagnostic::{Code, Diagnostic, Expected, LineIndex, Place as SourcePlace, Severity, Span, Unlisted};
pub use format::{format, on_one_line};
pub use lexer::{Token, TokenKind, is_glyph};
pub use model::{
    Action, Area, ClauseId, Colour, Common, Compare, Cond, Control, CountIn, Counter, CounterId, CounterRead, Effect,
    Expect, Glide, HeadingWord, InputRule, Invariant, Kind, KindId, KindSet, Map, MapCells, Match, Meeting, Met, Off,
    Outcome, Pace, Pieces, Place, PlainVerb, Ratio, RuleAt, Rulebook, Scenario, Scene, SetId, Shape, ShapeId, Spot,
    Sum, Term, Timer, TimerId, Trail, Trigger, Verb, When,
};
pub use parser::RESERVED;
pub use questions::NotThere;
pub use reads::Reads;
pub use syntax::{GlideEnd, LineAt, Num, Region, Setting, Size, SpeedUnit};

#[cfg(test)]
mod bounds_tests;
#[cfg(test)]
mod tests;

/// Gives the bytes of a file that a `map ... from` names, by its path as written.
pub type Loader<'a> = &'a dyn Fn(&str) -> Result<Vec<u8>, String>;

/// What reading a rulebook gives.
#[derive(Debug)]
pub struct Reading {
    /// The text, empty where it is no UTF-8.
    pub source: String,
    /// Mistakes and warnings, in the order of their places: the first of each.
    pub diagnostics: Vec<Diagnostic>,
    /// How many there are beyond those.
    pub unlisted: Unlisted,
    /// The rulebook, where there is no mistake.
    pub rulebook: Option<Rulebook>,
}

impl Reading {
    /// Whether there is any error.
    pub fn has_errors(&self) -> bool {
        self.diagnostics.iter().any(|found| found.code.severity() == Severity::Error)
    }
}

impl Reading {
    fn of(source: &str, rulebook: Option<Rulebook>, findings: Findings) -> Self {
        let rulebook = rulebook.filter(|_| !findings.any(|code| code.severity() == Severity::Error));
        let (diagnostics, unlisted) = findings.listed();
        Self { source: source.into(), diagnostics, unlisted, rulebook }
    }

    /// How many mistakes or warnings there are, those that are not listed too.
    pub fn count(&self, severity: Severity) -> usize {
        let unlisted = match severity {
            Severity::Error => self.unlisted.errors,
            Severity::Warning => self.unlisted.warnings,
        };
        unlisted + self.diagnostics.iter().filter(|found| found.code.severity() == severity).count()
    }
}

/// Reads a rulebook. `loader` gives the files its maps come from.
pub fn read(bytes: &[u8], loader: Loader) -> Reading {
    let alone = |diagnostic| Reading {
        source: String::new(),
        diagnostics: vec![diagnostic],
        unlisted: Unlisted::default(),
        rulebook: None,
    };
    if bytes.len() > LARGEST_FILE {
        let message = format!("the file holds {} bytes; a rulebook may hold 16 MiB", bytes.len());
        return alone(Diagnostic::new(Span::default(), Code::OutOfRange, message));
    }
    match std::str::from_utf8(bytes) {
        Ok(source) => read_text(source, loader),
        Err(error) => {
            let at = error.valid_up_to();
            let message = format!("the byte 0x{:02X} is no UTF-8", bytes[at]);
            let help = "save the file as UTF-8";
            let span = Span::new(at, at + 1);
            Reading {
                // Every byte becomes a character here, so that the place can be found.
                source: String::from_utf8_lossy(&bytes[..at]).into_owned() + "\u{fffd}",
                ..alone(Diagnostic::new(span, Code::NotUtf8, message).help(help))
            }
        }
    }
}

/// Reads a rulebook that is text already.
pub fn read_text(source: &str, loader: Loader) -> Reading {
    let mut findings = Findings::default();
    let parsed = parser::parse(source, &mut findings);
    Reading::of(source, checker::check(source, &parsed, loader, &mut findings), findings)
}
