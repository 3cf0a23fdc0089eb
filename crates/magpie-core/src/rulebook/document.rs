//! A rulebook's text as editors see it: where names stand and what they name, what can be folded, what the parts are.

use super::checker::{check, is_given_counter};
use super::diagnostic::{Diagnostic, Findings, Span};
use super::highlight::{Paint, Painted, highlight};
use super::layout::{Layout, SectionLayout, Statement};
use super::lexicon;
use super::model::{ClauseId, Rulebook};
use super::parser::{Parsed, RESERVED, parse_with_layout};
use super::syntax::{SceneNode, SectionNode};
use super::{Loader, Reading};
use std::collections::HashSet;
use std::sync::{Arc, OnceLock};

/// A rulebook's text that has been read once, for all that editors ask of it.
#[derive(Debug, Default)]
pub struct Analysis {
    source: String,
    pub(super) layout: Layout,
    pub(super) parsed: Parsed,
    diagnostics: Vec<Diagnostic>,
    rulebook: Option<Arc<Rulebook>>,
    painted: OnceLock<Vec<Painted>>,
    names: OnceLock<Vec<Occurrence>>,
}

/// What a name names.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Group {
    /// A kind, or a group of kinds.
    Kind,
    /// A layer.
    Layer,
    /// A counter.
    Counter,
    /// A timer.
    Timer,
    /// A shape.
    Shape,
    /// A map, by its title.
    Map,
}

/// A name in the text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Occurrence {
    /// Where it stands; of a title the words within the quotes.
    pub span: Span,
    /// What it names.
    pub group: Group,
    /// It is declared here.
    pub declares: bool,
}

/// A section, or a part of one, for outlines.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Part {
    /// What it is called.
    pub name: String,
    /// The first word of its section.
    pub sort: String,
    /// All of it.
    pub span: Span,
    /// Its name's place, or that of its first word.
    pub at: Span,
}

impl Analysis {
    /// Reads a text; `loader` gives the files its maps come from.
    pub fn new(source: String, loader: Loader) -> Self {
        let mut findings = Findings::default();
        let (layout, parsed) = parse_with_layout(&source, &mut findings);
        let reading = Reading::of(&source, check(&source, &parsed, loader, &mut findings), findings);
        Self {
            source,
            layout,
            parsed,
            diagnostics: reading.diagnostics,
            rulebook: reading.rulebook.map(Arc::new),
            painted: OnceLock::new(),
            names: OnceLock::new(),
        }
    }

    /// The text.
    pub fn source(&self) -> &str {
        &self.source
    }

    pub(super) fn text(&self, span: Span) -> &str {
        self.source.get(span.start..span.end).unwrap_or_default()
    }

    /// Mistakes and warnings, in the order of their places.
    pub fn diagnostics(&self) -> &[Diagnostic] {
        &self.diagnostics
    }

    /// The rulebook, where there is no mistake.
    pub const fn rulebook(&self) -> Option<&Arc<Rulebook>> {
        self.rulebook.as_ref()
    }

    /// The parts of the text in the order of their places; what lies between them is blank.
    pub fn painted(&self) -> &[Painted] {
        self.painted.get_or_init(|| highlight(&self.source, &self.layout, &self.parsed))
    }

    /// Where names stand, in the order of the text.
    pub fn names(&self) -> &[Occurrence] {
        self.names.get_or_init(|| names(&self.source, &self.parsed))
    }

    /// The name at a byte of the text.
    fn name_at(&self, at: usize) -> Option<&Occurrence> {
        self.names().iter().find(|occurrence| occurrence.span.start <= at && at <= occurrence.span.end)
    }

    /// The name at a byte of the text, and all places of the same name.
    pub fn same_names(&self, at: usize) -> Option<(&Occurrence, Vec<&Occurrence>)> {
        let here = self.name_at(at)?;
        let is_same = |other: &&Occurrence| other.group == here.group && self.text(other.span) == self.text(here.span);
        Some((here, self.names().iter().filter(is_same).collect()))
    }

    /// The name at a byte with all its places, when it is one that the rulebook gives itself.
    ///
    /// # Errors
    /// Why it cannot be given another.
    pub fn renamable(&self, at: usize) -> Result<(&Occurrence, Vec<&Occurrence>), String> {
        let Some((here, same)) = self.same_names(at) else { return Err("no name stands here".into()) };
        if same.iter().any(|one| one.declares) {
            return Ok((here, same));
        }
        Err(format!("`{}` is declared nowhere in this rulebook", self.text(here.span)))
    }

    /// Why a new name cannot be given to what is in a group.
    pub fn why_not_renamed(&self, group: Group, new: &str) -> Option<String> {
        let is_taken = || self.names().iter().any(|other| other.group == group && self.text(other.span) == new);
        if group == Group::Map {
            let fits = !new.is_empty() && !new.contains(['"', '\n', '\r']) && !new.chars().any(char::is_control);
            return match (fits, is_taken()) {
                (false, _) => Some(format!("`{new}` is no title")),
                (true, true) => Some(format!("there is a map `{new}` already")),
                (true, false) => None,
            };
        }
        if !super::lexer::is_word(new) {
            return Some(format!("`{new}` is no name: a letter a to z, then letters, digits and `-`"));
        }
        let given = group == Group::Counter && is_given_counter(new);
        if RESERVED.binary_search(&new).is_ok() || given || (group == Group::Timer && new == "turn") {
            return Some(format!("`{new}` is a word of the language"));
        }
        is_taken().then(|| format!("there is `{new}` already"))
    }

    /// The word of the language at a byte of the text, and what it means.
    pub fn word_at(&self, at: usize) -> Option<(Span, &'static str)> {
        let painted = self.painted();
        let from = painted.partition_point(|part| part.span.end < at);
        let is_word = |part: &&Painted| matches!(part.paint, Paint::Word | Paint::Section);
        let part = painted[from..].iter().take_while(|part| part.span.start <= at).find(is_word)?;
        Some((part.span, lexicon::meaning(self.text(part.span))?))
    }

    /// The clause about who meets what that is written at a byte of the text.
    pub fn clause_at(&self, at: usize) -> Option<ClauseId> {
        let book = self.rulebook.as_ref()?;
        let start = self.layout.statement_at(at)?.tokens.first()?.span.start;
        let number = book.meetings.iter().position(|meeting| meeting.at.span.start == start)?;
        Some(ClauseId(number as u32))
    }

    /// The sections of the text with their parts, in order.
    pub fn outline(&self) -> Vec<(Part, Vec<Part>)> {
        let of_section = |section| self.outlined(section);
        self.layout.sections.iter().filter_map(of_section).collect()
    }

    fn outlined(&self, section: &SectionLayout) -> Option<(Part, Vec<Part>)> {
        let first = section.head.tokens.first()?;
        let sort = self.text(first.span).to_owned();
        let name = section.head.tokens.get(1).map_or("", |token| self.text(token.span)).trim_matches('"').to_owned();
        let end_of = |statement: &Statement| {
            let last = statement.lines.1.checked_sub(1).and_then(|last| self.layout.lines.get(last));
            last.map_or(statement.end, |line| line.span.end.max(statement.end))
        };
        let part = Part {
            name: if name.is_empty() { sort.clone() } else { name },
            sort: sort.clone(),
            span: Span::new(first.span.start, end_of(section.body.last().unwrap_or(&section.head))),
            at: section.head.tokens.get(1).map_or(first.span, |token| token.span),
        };
        let named = ["kinds", "shapes"].contains(&sort.as_str());
        let parts = section.body.iter().filter(|_| named).filter_map(|statement| {
            let token = statement.tokens.first()?;
            let span = Span::new(token.span.start, end_of(statement));
            Some(Part { name: self.text(token.span).to_owned(), sort: sort.clone(), span, at: token.span })
        });
        Some((part, parts.collect()))
    }
}

fn names(source: &str, parsed: &Parsed) -> Vec<Occurrence> {
    let text = |span: Span| source.get(span.start..span.end).unwrap_or_default();
    let (declared, titles) = declarations(parsed);
    let named = parsed.names.iter().filter_map(|(span, what)| {
        Some(Occurrence { span: *span, group: group_of(what)?, declares: declared.contains(span) })
    });
    let inner = |span: Span| Span::new(span.start + 1, span.end.saturating_sub(1).max(span.start + 1));
    let titled =
        titles.into_iter().map(|(span, declares)| Occurrence { span: inner(span), group: Group::Map, declares });
    let mut found: Vec<Occurrence> = named.chain(titled).collect();
    found.sort_by_key(|occurrence| (occurrence.span.start, !occurrence.declares));
    found.dedup_by_key(|occurrence| occurrence.span.start);
    // A counter that is declared nowhere is made where it is named first.
    let counters = found.iter().filter(|one| one.group == Group::Counter && one.declares);
    let mut made: HashSet<&str> = counters.map(|one| text(one.span)).collect();
    for one in found.iter_mut().filter(|one| one.group == Group::Counter) {
        let name = text(one.span);
        one.declares |= !is_given_counter(name) && made.insert(name);
    }
    found
}

fn group_of(what: &str) -> Option<Group> {
    Some(match what {
        "a colour" => return None,
        what if what.contains("timer") => Group::Timer,
        what if what.contains("counter") => Group::Counter,
        what if what.contains("shape") => Group::Shape,
        what if what.contains("layer") => Group::Layer,
        _ => Group::Kind,
    })
}

/// Where names are declared, and the titles of maps with whether they are declared there.
fn declarations(parsed: &Parsed) -> (HashSet<Span>, Vec<(Span, bool)>) {
    let (mut declared, mut titles) = (HashSet::new(), Vec::new());
    for section in &parsed.sections {
        match &section.node {
            SectionNode::Kinds(lines) => declared.extend(lines.iter().map(|line| line.name.span)),
            SectionNode::Group { name, .. } | SectionNode::Counter { name, .. } | SectionNode::Timer { name, .. } => {
                declared.insert(name.span);
            }
            SectionNode::Layers(layers) => declared.extend(layers.iter().map(|name| name.span)),
            SectionNode::Shapes { shapes, .. } => declared.extend(shapes.iter().map(|(name, _)| name.span)),
            SectionNode::Map { title, .. } => titles.push((title.span, true)),
            SectionNode::Scenario { scenes, .. } => {
                titles.extend(scenes.iter().filter_map(|scene| match &scene.node {
                    SceneNode::MapTitle(title) => Some((title.span, false)),
                    _ => None,
                }));
            }
            _ => {}
        }
    }
    (declared, titles)
}

#[cfg(test)]
mod tests {
    use super::*;

    const SOURCE: &str = "game \"Yard\"\ncell 24 px\nkinds\n  porter P body\n  crate c body red\ngroup goods = crate\nmap \"One\"\n  Pc\n\
                          control porter with arrows\nrules\n  porter into goods: shove, add 1 to late\n  win when late > 3 and turns > 1\n\
                          scenario \"x\"\n  map \"One\"\n  inputs right\n";

    #[test]
    fn every_name_is_found_with_its_group() {
        let read = Analysis::new(SOURCE.into(), &|_| Err("none".into()));
        let found = read.names();
        let of = |group: Group| {
            found
                .iter()
                .filter(|one| one.group == group)
                .map(|one| (&SOURCE[one.span.start..one.span.end], one.declares))
                .collect::<Vec<_>>()
        };
        assert_eq!(
            of(Group::Kind),
            [
                ("porter", true),
                ("crate", true),
                ("goods", true),
                ("crate", false),
                ("porter", false),
                ("porter", false),
                ("goods", false)
            ]
        );
        assert_eq!(of(Group::Layer), [("body", false), ("body", false)]);
        assert_eq!(
            of(Group::Counter),
            [("late", true), ("late", false), ("turns", false)],
            "it is made where it is named first"
        );
        assert_eq!(of(Group::Map), [("One", true), ("One", false)]);
        let at = SOURCE.find("goods:").unwrap_or(0);
        assert_eq!(read.same_names(at + 2).map(|(_, same)| same.len()), Some(2));
        let renamable_at = |text: &str| read.renamable(SOURCE.find(text).unwrap_or(0)).is_ok();
        assert!(renamable_at("goods:") && renamable_at("late\n") && renamable_at("One"));
        assert!(
            !renamable_at("body") && !renamable_at("turns") && !renamable_at("game"),
            "these are the language's own"
        );
        for (new, refused) in [("cart", false), ("crate", true), ("if", true), ("Cart", true), ("", true)] {
            assert_eq!(read.why_not_renamed(Group::Kind, new).is_some(), refused, "{new}");
        }
        let parts: Vec<(String, usize)> =
            read.outline().into_iter().map(|(part, parts)| (part.name, parts.len())).collect();
        assert_eq!(parts[2], ("kinds".to_owned(), 2));
        assert!(parts.contains(&("One".to_owned(), 0)), "{parts:?}");
    }
}
