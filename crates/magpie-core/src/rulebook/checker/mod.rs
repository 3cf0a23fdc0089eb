//! The tree to a rulebook: names to numbers, and everything about meaning that can be wrong.

mod acts;
mod findings;
mod groups;
mod maps;
mod names;
mod numbers;
mod reach;
mod rules;
mod scenarios;
mod sections;
mod view;

use super::Loader;
use super::diagnostic::{Advice, Code, Diagnostic, Findings, LineIndex, Severity, Span};
use super::model::{KindId, Rulebook, SetId};
use super::parser::Parsed;
use super::syntax::SectionNode;
use names::Names;
pub use names::is_given_counter;
use sections::Draft;

/// Checks a tree; the rulebook is given where there is enough of one, and counts only without errors.
pub fn check(source: &str, parsed: &Parsed, loader: Loader, findings: &mut Findings) -> Option<Rulebook> {
    let broken = findings.any(Code::is_form);
    let mut checker = Checker {
        source,
        lines: LineIndex::new(source),
        parsed,
        loader,
        found: Findings::default(),
        broken,
        advice: Advice::default(),
        names: Names::default(),
        made: Vec::new(),
        used: findings::Used::default(),
        floods: Vec::new(),
        kind_layers: Vec::new(),
        pairs: 0,
        drawn: 0,
        files: 0,
        floating: false,
    };
    checker.order_of_sections();
    checker.declare();
    let draft = checker.sections();
    let rulebook = checker.rulebook(draft);
    findings.extend(checker.found);
    rulebook
}

/// A number with its thousands set apart.
fn grouped(number: usize) -> String {
    let digits = number.to_string();
    let groups: Vec<&str> =
        digits.as_bytes().rchunks(3).rev().filter_map(|group| std::str::from_utf8(group).ok()).collect();
    groups.join(",")
}

/// A kind that could not be resolved: nothing more is said about it.
const NO_KIND: KindId = KindId(u16::MAX);
/// A set that could not be resolved.
const NO_SET: SetId = SetId(u32::MAX);

struct Checker<'a> {
    source: &'a str,
    lines: LineIndex,
    parsed: &'a Parsed,
    loader: Loader<'a>,
    found: Findings,
    /// Some statement could not be read: what follows from its absence is no finding of its own.
    broken: bool,
    advice: Advice,
    names: Names,
    /// Kinds that some map, rule or scenario brings onto the board.
    made: Vec<bool>,
    used: findings::Used,
    /// Kinds that floods make, where they are named.
    floods: Vec<(KindId, Span)>,
    kind_layers: Vec<u8>,
    /// Pairs of an asker's kind and a meeting clause so far.
    pairs: usize,
    /// Cells of drawings so far.
    drawn: u64,
    /// Bytes of files of maps so far.
    files: u64,
    /// Something glides or rides, so that pieces of one layer may meet in a cell.
    floating: bool,
}

impl Checker<'_> {
    fn push(&mut self, found: Diagnostic) {
        let unknown = self.parsed.unknown_section.map(|span| span.start);
        let after_unknown = unknown.is_some_and(|start| found.span.start >= start);
        let because = (unknown.is_some() && found.code == Code::MissingSection)
            || (self.broken && found.code.severity() == Severity::Warning);
        if !after_unknown && !because {
            self.found.push(found);
        }
    }

    fn report(&mut self, span: Span, code: Code, message: impl Into<String>) {
        self.push(Diagnostic::new(span, code, message));
    }

    /// More of something than a limit allows, said where the first one too many stands.
    fn too_many(&mut self, span: Span, what: &str, most: usize) {
        let message = format!("too many {what}: a rulebook may have {}", grouped(most));
        self.report(span, Code::TooMany, message);
    }

    fn report_help(&mut self, span: Span, code: Code, message: impl Into<String>, help: impl Into<String>) {
        self.push(Diagnostic::new(span, code, message).help(help));
    }

    /// What comes first, what is missing, what is there twice.
    fn order_of_sections(&mut self) {
        const ONCE: [&str; 15] = [
            "game", "board", "cell", "gap", "origin", "hotspot", "y", "rows", "index", "corners", "view", "layers",
            "ground", "seed", "",
        ];
        let words = &self.parsed.section_words;
        let game = words.iter().find(|word| word.text == "game");
        if words.first().is_none_or(|word| word.text != "game") {
            let span = words.first().map_or(Span::default(), |word| word.span);
            self.report_help(span, Code::GameFirst, "a rulebook begins with `game`", "write `game \"A Title\"` first");
        }
        let at = game.map_or(Span::default(), |word| word.span);
        for needed in ["cell", "kinds", "map"] {
            if !words.iter().any(|word| word.text == needed) {
                let help = match needed {
                    "cell" => "write `cell 32 px`",
                    "kinds" => "write `kinds` and below it a line a kind, such as `wall # body`",
                    _ => "write `map \"Title\"` and the rows below it",
                };
                self.report_help(at, Code::MissingSection, format!("the section `{needed}` is missing"), help);
            }
        }
        let mut seen: Vec<&str> = Vec::new();
        for word in words {
            let text = word.text.as_str();
            if ONCE.contains(&text) && seen.contains(&text) {
                self.report(word.span, Code::RepeatedSection, format!("`{text}` has been said already"));
            }
            if ONCE.contains(&text) {
                seen.push(text);
            }
        }
    }

    fn nodes(&self) -> impl Iterator<Item = (Span, &SectionNode)> + use<'_> {
        self.parsed.sections.iter().map(|section| (section.word, &section.node))
    }

    fn rulebook(&mut self, draft: Draft) -> Option<Rulebook> {
        let mut rulebook = self.finish(draft)?;
        self.rules(&mut rulebook);
        self.scenarios(&mut rulebook);
        rulebook.sets = std::mem::take(&mut self.names.sets);
        rulebook.counters = self.names.counter_list();
        self.findings(&mut rulebook);
        Some(rulebook)
    }
}
