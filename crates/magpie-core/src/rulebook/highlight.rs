//! What each part of a rulebook's text is, and what could stand at a place: for editors.

use super::diagnostic::{Code, Expected, Findings, Span};
use super::document::Analysis;
use super::layout::{Layout, Statement};
use super::lexer::{Token, TokenKind};
use super::model::Colour;
use super::parser::{Parsed, parse};
use super::syntax::SectionNode;
use std::collections::HashSet;

/// What a part of the text is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Paint {
    /// A comment.
    Comment,
    /// The first word of a section.
    Section,
    /// Any other word of the language.
    Word,
    /// A name of the rulebook's own.
    Name,
    /// A number.
    Number,
    /// A text in quotes, or a drawing's glyph.
    Text,
    /// A comma, a colon, a comparison.
    Symbol,
    /// A character of a drawing, or the glyph of a kind.
    Glyph,
    /// What is no word and no number.
    Wrong,
}

/// A part of the text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Painted {
    /// Where it stands.
    pub span: Span,
    /// What it is.
    pub paint: Paint,
}

/// A kind as its line declares it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Declared {
    /// Its name.
    pub name: String,
    /// Its glyph.
    pub glyph: char,
    /// Its colour.
    pub colour: Colour,
}

/// The parts of a text in the order of their places; what lies between them is blank.
pub(super) fn highlight(source: &str, layout: &Layout, parsed: &Parsed) -> Vec<Painted> {
    let names: HashSet<usize> = parsed.names.iter().map(|(span, _)| span.start).collect();
    let mut painted = Vec::new();
    for section in &layout.sections {
        for (at, statement) in std::iter::once(&section.head).chain(&section.body).enumerate() {
            for (number, token) in statement.tokens.iter().enumerate() {
                let first = at == 0 && number == 0;
                painted.push(Painted { span: token.span, paint: paint(*token, first, &names) });
            }
            for row in statement.drawing.iter().flat_map(|drawing| &drawing.rows) {
                painted.push(Painted { span: row.span, paint: Paint::Glyph });
            }
        }
    }
    painted.sort_by_key(|part| part.span.start);
    painted.extend(comments(source, layout, &painted));
    painted.sort_by_key(|part| part.span.start);
    painted
}

fn paint(token: Token, first: bool, names: &HashSet<usize>) -> Paint {
    match token.kind {
        TokenKind::Word if first => Paint::Section,
        TokenKind::Word if names.contains(&token.span.start) => Paint::Name,
        TokenKind::Word => Paint::Word,
        TokenKind::Number => Paint::Number,
        TokenKind::Text => Paint::Text,
        TokenKind::Symbol => Paint::Symbol,
        TokenKind::Glyph => Paint::Glyph,
        TokenKind::Bad(_) => Paint::Wrong,
    }
}

/// Comments stand behind the last token of their line; rows of drawings have none.
fn comments(source: &str, layout: &Layout, painted: &[Painted]) -> Vec<Painted> {
    let mut found = Vec::new();
    for line in &layout.lines {
        let from = painted.partition_point(|part| part.span.start < line.span.start);
        let on_line = painted[from..].iter().take_while(|part| part.span.start < line.span.end);
        let last = on_line.last();
        if last.is_some_and(|part| part.paint == Paint::Glyph && part.span.end >= line.span.end) {
            continue;
        }
        let behind = last.map_or(line.span.start, |part| part.span.end).min(line.span.end);
        if let Some(at) = source[behind..line.span.end].find("//") {
            found.push(Painted { span: Span::new(behind + at, line.span.end), paint: Paint::Comment });
        }
    }
    found
}

/// Where the word begins that ends at a byte of the text.
pub fn word_before(source: &str, at: usize) -> usize {
    let is_part = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
    source[..at].char_indices().rev().take_while(|(_, c)| is_part(*c)).last().map_or(at, |(start, _)| start)
}

impl Analysis {
    /// The kinds the text declares, also one with mistakes.
    pub fn declared(&self) -> Vec<Declared> {
        let lines = self.parsed.sections.iter().filter_map(|section| match &section.node {
            SectionNode::Kinds(lines) => Some(lines),
            _ => None,
        });
        let declared = lines.flatten().map(|line| {
            let colour = line.colour.as_ref().map_or("bone", |colour| colour.text.as_str());
            let colour = match colour.strip_prefix('#').and_then(|digits| u32::from_str_radix(digits, 16).ok()) {
                Some(rgb) => Colour::Rgb((rgb >> 16) as u8, (rgb >> 8) as u8, rgb as u8),
                None => Colour::Named(colour.into()),
            };
            Declared { name: line.name.text.clone(), glyph: line.glyph.text.chars().next().unwrap_or('?'), colour }
        });
        declared.collect()
    }

    /// Words and names that could stand where the word begins that ends at a byte of the text, and that begin like it:
    /// names of the rulebook first, each sort in the order of the alphabet.
    pub fn completions(&self, at: usize) -> Vec<String> {
        let start = word_before(self.source(), at);
        let begun = &self.source()[start..at];
        let Some(expected) = expected_behind(&self.before(start)) else { return Vec::new() };
        let mut names = self.declared_as(&expected);
        names.sort_unstable();
        let mut words: Vec<String> = expected.words.iter().map(|word| String::from(*word)).collect();
        words.sort_unstable();
        names.extend(words);
        names.retain(|word| word.starts_with(begun) && word != begun);
        let mut seen = HashSet::new();
        names.retain(|word| seen.insert(word.clone()));
        names
    }

    /// The text before a byte as far as what can stand there depends on it: the head of its section and its statement.
    fn before(&self, at: usize) -> String {
        let begins = |statement: &Statement| self.layout.lines.get(statement.lines.0).map_or(0, |line| line.span.start);
        let sections = &self.layout.sections;
        let Some(section) = sections[..sections.partition_point(|section| begins(&section.head) < at)].last() else {
            return self.source()[..at].to_owned();
        };
        let is_before = |statement: &Statement| statement.tokens.first().map_or(0, |token| token.span.start) < at;
        let last = section.body[..section.body.partition_point(is_before)].last();
        let (head, start) = (begins(&section.head), last.map_or(at, begins));
        match last {
            Some(_) => format!("{}\n{}", &self.source()[head..section.head.end], &self.source()[start..at]),
            None => self.source()[head..at].to_owned(),
        }
    }

    /// Names of the sorts that could stand somewhere.
    fn declared_as(&self, expected: &Expected) -> Vec<String> {
        let wanted = |what: &str| {
            expected.names && expected.described.is_empty()
                || expected.described.iter().any(|described| described.contains(what))
        };
        let mut names: Vec<String> = Vec::new();
        for section in &self.parsed.sections {
            match &section.node {
                SectionNode::Kinds(lines) if wanted("kind") => {
                    names.extend(lines.iter().map(|line| line.name.text.clone()));
                }
                SectionNode::Group { name, .. } if wanted("group") => names.push(name.text.clone()),
                SectionNode::Counter { name, .. } if wanted("counter") => names.push(name.text.clone()),
                SectionNode::Timer { name, .. } if wanted("timer") => names.push(name.text.clone()),
                SectionNode::Layers(layers) if wanted("layer") => {
                    names.extend(layers.iter().map(|name| name.text.clone()));
                }
                SectionNode::Shapes { shapes, .. } if wanted("shape") => {
                    names.extend(shapes.iter().map(|(name, _)| name.text.clone()));
                }
                _ => {}
            }
        }
        names
    }
}

/// What the parser says could stand behind a text, where something can.
fn expected_behind(text: &str) -> Option<Box<Expected>> {
    let mut mistakes = Findings::default();
    // What cannot stand there makes the parser say it.
    let _ = parse(&format!("{text}?"), &mut mistakes);
    let found = mistakes.listed().0;
    let mut here = found.iter().filter(|found| found.span.start == text.len());
    // A line that begins where no line can begin has no word that could stand in it.
    if here.clone().any(|found| found.code == Code::Indentation) {
        return None;
    }
    here.find_map(|found| found.expected.clone())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rulebook::Diagnostic;
    use proptest::prelude::*;

    const SOURCE: &str = "game \"Yard\" // a yard\ncell 10 px\nkinds\n  plank . floor ash\n  key k body \"#102030\"\nlayers floor, body\n\
                          // a line\ncounter score\nmap \"M\"\n  k.//\nrules\n  key into plank: pass, add 1 to score\n";

    fn read(source: &str) -> Analysis {
        Analysis::new(source.into(), &|_| Err("none".into()))
    }

    fn parts() -> Vec<(&'static str, Paint)> {
        read(SOURCE).painted().iter().map(|part| (&SOURCE[part.span.start..part.span.end], part.paint)).collect()
    }

    #[test]
    fn every_part_is_what_it_is() {
        let found = parts();
        let wanted = [
            ("game", Paint::Section),
            ("\"Yard\"", Paint::Text),
            ("// a yard", Paint::Comment),
            ("10", Paint::Number),
            ("px", Paint::Word),
            ("plank", Paint::Name),
            ("// a line", Paint::Comment),
            ("k.//", Paint::Glyph),
            ("into", Paint::Word),
            (":", Paint::Symbol),
            ("score", Paint::Name),
        ];
        for part in wanted {
            assert!(found.contains(&part), "{part:?} in {found:?}");
        }
        // `key` is a word of the language elsewhere; here it is a kind.
        assert!(!found.contains(&("key", Paint::Word)), "{found:?}");
        let kinds: Vec<(String, char)> =
            read(SOURCE).declared().into_iter().map(|kind| (kind.name, kind.glyph)).collect();
        assert_eq!(kinds, [("plank".to_owned(), '.'), ("key".to_owned(), 'k')]);
        assert_eq!(read(SOURCE).declared()[1].colour, Colour::Rgb(0x10, 0x20, 0x30));
    }

    #[test]
    fn completions_are_what_could_stand_there() {
        let at = |before: &str| {
            let source = format!("{SOURCE}  {before}");
            read(&source).completions(source.len())
        };
        assert!(at("k").contains(&"key".to_owned()) && !at("k").contains(&"plank".to_owned()));
        assert_eq!(at("key in"), ["into"]);
        assert_eq!(at("key into plank: sh"), ["shove"]);
        assert_eq!(at("key into plank: pass, add 1 to s"), ["score"]);
        assert!(at("key into ").contains(&"edge".to_owned()));
        assert!(at("key into plank: pass, ").contains(&"remove".to_owned()));
        let source = "game \"A\"\nco";
        assert_eq!(read(source).completions(source.len()), ["control", "corners", "counter"]);
        assert_eq!(read("").completions(0).first().map(String::as_str), Some("board"));
    }

    /// Rulebooks of the yard with every sort of section.
    const BOOKS: [&str; 4] = [
        include_str!("../../../../demos/cog-loft.magpie"),
        include_str!("../../../../demos/kiosk.magpie"),
        include_str!("../../../../demos/lantern-rack.magpie"),
        include_str!("../../../../demos/towpath.magpie"),
    ];

    /// The mistakes of form in a text.
    fn mistakes(text: &str) -> Vec<Diagnostic> {
        let mut mistakes = Findings::default();
        let _ = parse(text, &mut mistakes);
        mistakes.listed().0
    }

    proptest! {
        /// The section and the statement at hand say what the whole text would.
        #[test]
        fn what_could_stand_somewhere_needs_no_reading_of_all_before(
            book in prop::sample::select(BOOKS.to_vec()),
            at in any::<prop::sample::Index>(),
        ) {
            let at = word_before(book, at.index(book.len()));
            prop_assert_eq!(expected_behind(&read(book).before(at)), expected_behind(&book[..at]));
        }

        /// A word that is offered can be accepted.
        #[test]
        fn an_accepted_word_is_no_mistake(
            book in prop::sample::select(BOOKS.to_vec()),
            at in any::<prop::sample::Index>(),
            choice in any::<prop::sample::Index>(),
        ) {
            let at = at.index(book.len());
            let start = word_before(book, at);
            let offered = read(book).completions(start);
            if offered.is_empty() {
                return Ok(());
            }
            let text = format!("{}{}", &book[..start], offered[choice.index(offered.len())]);
            // What is missing behind the word, and what was wrong before it, are none of its mistakes.
            let before = mistakes(&book[..start]);
            let wrong = mistakes(&text).into_iter().find(|found| found.span.start < text.len() && !before.contains(found));
            prop_assert!(wrong.is_none(), "{:?}", wrong);
        }

        /// Whatever is typed, parts lie in the text, one behind the other, and nothing panics.
        #[test]
        fn parts_never_overlap(text in "[ -~\n\té漢]{0,200}", cut in 0_usize..200) {
            for source in [text.clone(), format!("{SOURCE}{text}")] {
                let read = read(&source);
                let found = read.painted();
                for pair in found.windows(2) {
                    prop_assert!(pair[0].span.end <= pair[1].span.start, "{:?} in {:?}", pair, source);
                }
                prop_assert!(found.iter().all(|part| source.get(part.span.start..part.span.end).is_some()));
                let at = (0..=cut.min(source.len())).rev().find(|at| source.is_char_boundary(*at)).unwrap_or(0);
                let begun = &source[word_before(&source, at)..at];
                prop_assert!(read.completions(at).iter().all(|word| word.starts_with(begun)));
            }
        }
    }
}
