//! A rulebook's text as editors see it: where names stand and what they name, what can be folded, what the parts are.

use super::checker::is_given_counter;
use super::diagnostic::{Findings, Span};
use super::layout::layout;
use super::parser::{Parsed, RESERVED, parse};
use super::syntax::{SceneNode, SectionNode};

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

/// Where names stand, in the order of the text.
pub fn names(source: &str) -> Vec<Occurrence> {
    let mut findings = Findings::default();
    let parsed = parse(source, &mut findings);
    let mut found: Vec<Occurrence> = parsed
        .names
        .iter()
        .filter_map(|(span, what)| Some((*span, group_of(what)?)))
        .map(|(span, group)| Occurrence { span, group, declares: false })
        .collect();
    let mut titles = Vec::new();
    declarations(&parsed, &mut found, &mut titles);
    let inner = |span: Span| Span::new(span.start + 1, span.end.saturating_sub(1).max(span.start + 1));
    found.extend(titles.into_iter().map(|(span, declares)| Occurrence {
        span: inner(span),
        group: Group::Map,
        declares,
    }));
    found.sort_by_key(|occurrence| (occurrence.span.start, !occurrence.declares));
    found.dedup_by_key(|occurrence| occurrence.span.start);
    // A counter that is declared nowhere is made where it is named first.
    let mut made: Vec<String> = Vec::new();
    let text = |span: Span| source.get(span.start..span.end).unwrap_or_default().to_owned();
    for at in 0..found.len() {
        let name = text(found[at].span);
        if found[at].group != Group::Counter || is_given_counter(&name) || made.contains(&name) {
            continue;
        }
        let declared =
            found.iter().any(|other| other.group == Group::Counter && other.declares && text(other.span) == name);
        found[at].declares |= !declared;
        made.push(name);
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

fn declarations(parsed: &Parsed, found: &mut [Occurrence], titles: &mut Vec<(Span, bool)>) {
    let mut declare = |span: Span| {
        found.iter_mut().filter(|occurrence| occurrence.span == span).for_each(|occurrence| occurrence.declares = true);
    };
    for section in &parsed.sections {
        match &section.node {
            SectionNode::Kinds(lines) => lines.iter().for_each(|line| declare(line.name.span)),
            SectionNode::Group { name, .. } | SectionNode::Counter { name, .. } | SectionNode::Timer { name, .. } => {
                declare(name.span);
            }
            SectionNode::Layers(layers) => layers.iter().for_each(|name| declare(name.span)),
            SectionNode::Shapes { shapes, .. } => shapes.iter().for_each(|(name, _)| declare(name.span)),
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
}

/// The name at a byte of the text, and all places of the same name.
pub fn same_names(source: &str, at: usize) -> Option<(Occurrence, Vec<Occurrence>)> {
    let all = names(source);
    let text = |occurrence: &Occurrence| source.get(occurrence.span.start..occurrence.span.end);
    let here = all.iter().find(|occurrence| occurrence.span.start <= at && at <= occurrence.span.end)?.clone();
    let same = all.iter().filter(|other| other.group == here.group && text(other) == text(&here)).cloned().collect();
    Some((here, same))
}

/// The name at a byte with all its places, when it is one that the rulebook gives itself.
///
/// # Errors
/// Why it cannot be given another.
pub fn renamable(source: &str, at: usize) -> Result<(Occurrence, Vec<Occurrence>), String> {
    let Some((here, same)) = same_names(source, at) else { return Err("no name stands here".into()) };
    if same.iter().any(|one| one.declares) {
        return Ok((here, same));
    }
    let name = source.get(here.span.start..here.span.end).unwrap_or_default();
    Err(format!("`{name}` is declared nowhere in this rulebook"))
}

/// Why a new name cannot be given to what stands at a byte.
pub fn why_not_renamed(source: &str, group: Group, new: &str) -> Option<String> {
    let is_taken = || {
        let text = |other: &Occurrence| source.get(other.span.start..other.span.end);
        names(source).iter().any(|other| other.group == group && text(other) == Some(new))
    };
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

/// The sections of the text with their parts, in order.
pub fn outline(source: &str) -> Vec<(Part, Vec<Part>)> {
    let mut findings = Findings::default();
    let layout = layout(source, &mut findings);
    let text = |span: Span| source.get(span.start..span.end).unwrap_or_default();
    let mut found = Vec::new();
    for section in &layout.sections {
        let Some(first) = section.head.tokens.first() else { continue };
        let sort = text(first.span).to_owned();
        let name = section.head.tokens.get(1).map_or("", |token| text(token.span)).trim_matches('"').to_owned();
        let end_of = |lines: (usize, usize), least: usize| {
            lines
                .1
                .checked_sub(1)
                .and_then(|last| layout.lines.get(last))
                .map_or(least, |line| line.span.end.max(least))
        };
        let last = section.body.last().unwrap_or(&section.head);
        let part = Part {
            name: if name.is_empty() { sort.clone() } else { name },
            sort: sort.clone(),
            span: Span::new(first.span.start, end_of(last.lines, last.end)),
            at: section.head.tokens.get(1).map_or(first.span, |token| token.span),
        };
        let named = ["kinds", "shapes"].contains(&sort.as_str());
        let parts = section.body.iter().filter(|_| named).filter_map(|statement| {
            let token = statement.tokens.first()?;
            let span = Span::new(token.span.start, end_of(statement.lines, statement.end));
            Some(Part { name: text(token.span).to_owned(), sort: sort.clone(), span, at: token.span })
        });
        found.push((part, parts.collect()));
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    const SOURCE: &str = "game \"Yard\"\ncell 24 px\nkinds\n  porter P body\n  crate c body red\ngroup goods = crate\nmap \"One\"\n  Pc\n\
                          control porter with arrows\nrules\n  porter into goods: shove, add 1 to late\n  win when late > 3 and turns > 1\n\
                          scenario \"x\"\n  map \"One\"\n  inputs right\n";

    #[test]
    fn every_name_is_found_with_its_group() {
        let found = names(SOURCE);
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
        assert_eq!(same_names(SOURCE, at + 2).map(|(_, same)| same.len()), Some(2));
        let renamable_at = |text: &str| renamable(SOURCE, SOURCE.find(text).unwrap_or(0)).is_ok();
        assert!(renamable_at("goods:") && renamable_at("late\n") && renamable_at("One"));
        assert!(
            !renamable_at("body") && !renamable_at("turns") && !renamable_at("game"),
            "these are the language's own"
        );
        for (new, refused) in [("cart", false), ("crate", true), ("if", true), ("Cart", true), ("", true)] {
            assert_eq!(why_not_renamed(SOURCE, Group::Kind, new).is_some(), refused, "{new}");
        }
        let parts: Vec<(String, usize)> =
            outline(SOURCE).into_iter().map(|(part, parts)| (part.name, parts.len())).collect();
        assert_eq!(parts[2], ("kinds".to_owned(), 2));
        assert!(parts.contains(&("One".to_owned(), 0)), "{parts:?}");
    }
}
