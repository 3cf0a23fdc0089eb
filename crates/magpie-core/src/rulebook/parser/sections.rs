//! Sections and the lines of their bodies, except rules.

use super::super::diagnostic::{Code, Diagnostic, Span};
use super::super::layout::{self, Statement};
use super::super::lexer::TokenKind;
use super::super::syntax::{
    ControlWith, GlideEnd, KindLine, MapBody, Name, Num, Point, Section, SectionNode, Size, SpeedUnit, ViewLine,
    ViewNode,
};
use super::{Parse, Parsed, Parser, Salvaged};
use crate::input::Key;
use crate::limits::MOST_KINDS;
use crate::space::{Fit, Heading};

const SECTIONS: [&str; 28] = [
    "game", "board", "cell", "gap", "origin", "hotspot", "y", "rows", "index", "corners", "number", "view", "layers",
    "kinds", "group", "glyph", "ground", "map", "shapes", "counter", "timer", "seed", "trail", "glide", "control",
    "pace", "rules", "scenario",
];

/// Parses one section into `parsed`.
pub fn section(source: &str, mut head: Statement, layout: &mut layout::Reader, parsed: &mut Parsed) {
    let mut parser = Parser::new(source);
    parser.begin(&mut head);
    let Some(token) = parser.peek() else { return };
    let word = Name { text: parser.text(token).into(), span: token.span };
    let known = SECTIONS.contains(&word.text.as_str()) && token.kind == TokenKind::Word;
    parser.quiet = layout.findings.is_beyond(word.span.start);
    if !known {
        parsed.unknown_section.get_or_insert(word.span);
    }
    if known || parsed.section_words.is_empty() {
        parsed.section_words.push(word.clone());
    }
    let mut reader = Reader { source, layout, parsed };
    let node = reader.node(&mut parser, &word.text, &head);
    reader.parsed.names.append(&mut parser.seen);
    match node {
        Ok(node) => {
            reader.parsed.sections.push(Section { node, word: word.span, end: head.end });
        }
        Err(mistake) => {
            reader.report(*mistake);
            head.tokens = parser.tokens;
            reader.salvage(&head);
            if !matches!(word.text.as_str(), "rules" | "view") && known {
                // The names of a body are known even where its head is wrong.
                while let Some(statement) = reader.layout.next_of_body() {
                    reader.salvage_body(&word.text, &statement);
                }
            }
        }
    }
}

struct Reader<'a, 's> {
    source: &'a str,
    layout: &'a mut layout::Reader<'s>,
    parsed: &'a mut Parsed,
}

impl Reader<'_, '_> {
    fn report(&mut self, mistake: Diagnostic) {
        // Control characters have been reported with their lines.
        if mistake.code != Code::BadCharacter {
            self.layout.findings.push(mistake);
        }
    }

    fn node(&mut self, p: &mut Parser, word: &str, head: &Statement) -> Parse<SectionNode> {
        if p.accept_one_of(&SECTIONS).is_none() {
            return Err(p.unexpected());
        }
        Ok(match word {
            "view" | "kinds" | "rules" | "pace" | "scenario" | "shapes" => {
                return self.with_body(p, word, head);
            }
            "map" => {
                let title = p.expect_text()?;
                let body = p.map_body(head)?;
                p.expect_end()?;
                SectionNode::Map { title, body }
            }
            _ => {
                let node = p.plain_section(word)?;
                p.expect_end()?;
                node
            }
        })
    }

    fn with_body(&mut self, p: &mut Parser, word: &str, head: &Statement) -> Parse<SectionNode> {
        let node = match word {
            "view" => {
                p.expect_end()?;
                SectionNode::View(self.body(word, head, |p, _| p.view_line())?)
            }
            "kinds" => {
                p.expect_end()?;
                SectionNode::Kinds(self.body(word, head, |p, _| p.kind_line())?)
            }
            "rules" => {
                p.expect_end()?;
                SectionNode::Rules(self.body(word, head, |p, _| p.rule())?)
            }
            "pace" => {
                let who = p.accept_name("the name of a kind or group");
                p.expect_end()?;
                SectionNode::Pace { who, settings: self.body(word, head, |p, _| p.pace_line())?.concat() }
            }
            "scenario" => {
                let title = p.expect_text()?;
                p.expect_end()?;
                SectionNode::Scenario {
                    title,
                    // A closure: the method alone is not general enough over lifetimes.
                    #[allow(clippy::redundant_closure_for_method_calls)]
                    scenes: self.body(word, head, |p, statement| p.scene(statement))?,
                }
            }
            _ => {
                p.expect_word("of")?;
                let of = p.expect_name("the name of a kind or group")?;
                p.expect_end()?;
                let shapes = self.body(word, head, |p, statement| {
                    let name = p.expect_name("the name of a shape")?;
                    p.expect_end()?;
                    Ok((name, statement.drawing.clone().unwrap_or_default()))
                })?;
                SectionNode::Shapes { of, shapes }
            }
        };
        Ok(node)
    }

    fn body<T>(
        &mut self,
        word: &str,
        head: &Statement,
        read: impl Fn(&mut Parser, &Statement) -> Parse<T>,
    ) -> Parse<Vec<T>> {
        let mut found = Vec::new();
        let mut parser = Parser::new(self.source);
        let mut empty = true;
        while let Some(mut statement) = self.layout.next_of_body() {
            empty = false;
            let Some(first) = statement.tokens.first() else { continue };
            parser.quiet = self.layout.findings.is_beyond(first.span.start);
            parser.begin(&mut statement);
            let result = read(&mut parser, &statement).and_then(|node| parser.expect_end().map(|()| node));
            match result {
                Ok(node) => found.push(node),
                Err(mistake) => {
                    self.report(*mistake);
                    statement.tokens = std::mem::take(&mut parser.tokens);
                    self.salvage_body(word, &statement);
                }
            }
        }
        if empty {
            let span = Span::new(head.end, head.end);
            return Err(Box::new(
                Diagnostic::new(span, Code::Syntax, format!("expected the lines of `{word}` below it"))
                    .help("indent them below this line"),
            ));
        }
        self.parsed.names.append(&mut parser.seen);
        found.shrink_to_fit();
        Ok(found)
    }

    fn names(&self, statement: &Statement) -> Vec<Name> {
        let name = |span: Span| Name { text: self.source[span.start..span.end].into(), span };
        statement.tokens.iter().map(|token| name(token.span)).collect()
    }

    /// What a section's statement declares although it could not be read.
    fn salvage(&mut self, statement: &Statement) {
        if self.parsed.salvaged.len() >= MOST_KINDS {
            return;
        }
        let names = self.names(statement);
        let Some(word) = names.first() else { return };
        let second = names.get(1).cloned();
        let declared = match (word.text.as_str(), second) {
            ("group", Some(name)) => Salvaged::Group(name),
            ("counter", Some(name)) => Salvaged::Counter(name),
            ("timer", Some(name)) => Salvaged::Timer(name),
            ("glyph", glyph) => Salvaged::Glyph(glyph.and_then(|glyph| glyph.text.chars().next())),
            ("map", Some(title)) => Salvaged::Map(Name { text: title.text.trim_matches('"').into(), span: title.span }),
            ("layers", _) => {
                self.parsed.salvaged.extend(names.into_iter().skip(1).map(Salvaged::Layer));
                return;
            }
            _ => return,
        };
        self.parsed.salvaged.push(declared);
    }

    fn salvage_body(&mut self, section: &str, statement: &Statement) {
        if self.parsed.salvaged.len() >= MOST_KINDS {
            return;
        }
        let names = self.names(statement);
        let Some(first) = names.first().cloned() else {
            return;
        };
        match section {
            "kinds" => {
                let glyph = statement.tokens.get(1).filter(|token| token.kind == TokenKind::Glyph);
                let glyph = glyph.and_then(|token| self.source[token.span.start..].chars().next());
                self.parsed.salvaged.push(Salvaged::Kind(first, glyph));
            }
            "shapes" => self.parsed.salvaged.push(Salvaged::Shape(first)),
            "rules" => {
                for pair in names.windows(2) {
                    if matches!(pair[0].text.as_str(), "to" | "set") {
                        self.parsed.salvaged.push(Salvaged::Counter(pair[1].clone()));
                    }
                }
            }
            _ => {}
        }
    }
}

impl Parser<'_> {
    fn plain_section(&mut self, word: &str) -> Parse<SectionNode> {
        Ok(match word {
            "game" => SectionNode::Game(self.expect_text()?),
            "board" => {
                let columns = self.expect_int()?;
                self.expect_word("x")?;
                SectionNode::Board { columns, rows: self.expect_int()? }
            }
            "cell" => SectionNode::Cell(self.size()?),
            "gap" => SectionNode::Gap(self.size()?),
            "origin" => SectionNode::Origin { centre: self.accept_word("centre"), at: self.point()? },
            "hotspot" => SectionNode::Hotspot(self.point()?),
            "y" => SectionNode::Y { up: self.expect_one_of(&["down", "up"])? == "up" },
            "rows" => {
                self.expect_word("from")?;
                SectionNode::Rows { bottom: self.expect_one_of(&["top", "bottom"])? == "bottom" }
            }
            "index" => {
                let column_major = self.expect_one_of(&["row-major", "column-major"])? == "column-major";
                let first = if self.accept_word("from") { Some(self.expect_int()?) } else { None };
                SectionNode::Index { column_major, first }
            }
            "corners" => SectionNode::Corners { closed: self.expect_one_of(&["open", "closed"])? == "closed" },
            "number" => {
                let value = self.expect_int()?;
                self.expect_symbol("=")?;
                SectionNode::Number { value, kinds: self.name_list("the name of a kind")? }
            }
            "layers" => SectionNode::Layers(self.name_list("the name of a layer")?),
            "group" => {
                let name = self.expect_name("the name of a group")?;
                self.expect_symbol("=")?;
                SectionNode::Group { name, members: self.name_list("the name of a kind or group")? }
            }
            "glyph" => {
                let glyph = self.expect_kind(TokenKind::Glyph, "a glyph")?;
                self.expect_symbol("=")?;
                SectionNode::Glyph { glyph, kinds: self.name_list("the name of a kind")? }
            }
            "ground" => SectionNode::Ground(self.expect_name("the name of a kind")?),
            "counter" => {
                let name = self.expect_name("the name of a counter")?;
                let value = if self.accept_symbol("=") { Some(self.expect_int()?) } else { None };
                SectionNode::Counter { name, value, kept: self.kept()? }
            }
            "timer" => SectionNode::Timer { name: self.expect_name("the name of a timer")?, ms: self.beat()? },
            "seed" => {
                let value = self.expect_int()?;
                SectionNode::Seed { value, kept: self.kept()? }
            }
            "trail" => self.trail()?,
            "glide" => self.glide()?,
            _ => self.control()?,
        })
    }

    /// `, kept` behind what outlives a restart.
    fn kept(&mut self) -> Parse<bool> {
        let kept = self.accept_symbol(",");
        if kept {
            self.expect_word("kept")?;
        }
        Ok(kept)
    }

    fn trail(&mut self) -> Parse<SectionNode> {
        let head = self.expect_name("the name of a kind")?;
        self.expect_word("leaves")?;
        let leaves = self.expect_name("the name of a kind")?;
        self.expect_symbol(",")?;
        let long = self.expect_int()?;
        self.expect_word("long")?;
        let mut tail_last = false;
        if self.accept_symbol(",") {
            self.expect_word("tail")?;
            self.expect_word("leaves")?;
            tail_last = self.expect_one_of(&["first", "last"])? == "last";
        }
        Ok(SectionNode::Trail { head, leaves, long, tail_last })
    }

    fn glide(&mut self) -> Parse<SectionNode> {
        let who = self.who()?;
        let heading = self.straight()?;
        self.expect_word("at")?;
        let (speed, unit) = self.speed()?;
        let mut end = GlideEnd::Stop;
        if self.accept_symbol(",") {
            end = match self.expect_one_of(&["wrapping", "turning", "stop"])? {
                "wrapping" => GlideEnd::Wrapping,
                "turning" => GlideEnd::Turning,
                _ => GlideEnd::Stop,
            };
        }
        Ok(SectionNode::Glide { who, heading, speed, unit, end })
    }

    fn control(&mut self) -> Parse<SectionNode> {
        let who = self.who()?;
        self.expect_word("with")?;
        let with = match self.expect_one_of(&["arrows", "keys", "taps"])? {
            "taps" => ControlWith::Taps,
            way => {
                let keys = if way == "keys" {
                    Some([self.key_text()?, self.key_text()?, self.key_text()?, self.key_text()?])
                } else {
                    None
                };
                let (mut steering, mut no_reverse) = (false, false);
                while self.accept_symbol(",") {
                    if self.expect_one_of(&["steering", "no"])? == "steering" {
                        steering = true;
                    } else {
                        self.expect_word("reverse")?;
                        no_reverse = true;
                    }
                }
                ControlWith::Keys { keys, steering, no_reverse }
            }
        };
        Ok(SectionNode::Control { who, with })
    }

    fn map_body(&mut self, head: &Statement) -> Parse<MapBody> {
        if let Some(drawing) = &head.drawing
            && self.at >= self.tokens.len()
        {
            return Ok(MapBody::Drawn(drawing.clone()));
        }
        if self.accept_word("from") {
            let path = self.expect_text()?;
            let columns = if self.accept_word("as") {
                let columns = self.expect_int()?;
                self.expect_word("columns")?;
                Some(columns)
            } else {
                None
            };
            return Ok(MapBody::File { path, columns });
        }
        let columns = self.expect_int()?;
        self.expect_word("x")?;
        let rows = self.expect_int()?;
        self.expect_word("of")?;
        let of = self.expect_name("the name of a kind")?;
        let scatter = if self.accept_symbol(",") {
            let share = self.share()?;
            self.expect_word("of")?;
            Some((share, self.expect_name("the name of a kind")?))
        } else {
            None
        };
        Ok(MapBody::Filled { columns, rows, of, scatter })
    }

    fn view_line(&mut self) -> Parse<ViewLine> {
        let word = self.here();
        const WORDS: [&str; 7] = ["window", "design", "fit", "density", "camera", "zoom", "button"];
        let node = match self.expect_one_of(&WORDS)? {
            "window" => ViewNode::Window(self.size()?),
            "design" => ViewNode::Design(self.size()?),
            "fit" => ViewNode::Fit(match self.expect_one_of(&["letterbox", "integer", "stretch", "none"])? {
                "letterbox" => Fit::Letterbox,
                "integer" => Fit::Integer,
                "stretch" => Fit::Stretch,
                _ => Fit::None,
            }),
            "density" => ViewNode::Density(self.expect_num()?),
            "camera" => ViewNode::Camera(self.point()?),
            "zoom" => ViewNode::Zoom(self.expect_num()?),
            _ => {
                let key = self.key()?;
                self.expect_word("at")?;
                let x = self.expect_num()?;
                self.expect_symbol(",")?;
                let y = self.expect_num()?;
                self.expect_word("size")?;
                ViewNode::Button { key, at: Point(x, y), size: self.size()? }
            }
        };
        Ok(ViewLine { word, node })
    }

    fn kind_line(&mut self) -> Parse<KindLine> {
        let name = self.expect_name("the name of a kind")?;
        let glyph = self.expect_kind(TokenKind::Glyph, "a glyph")?;
        let layer = self.expect_name("the name of a layer")?;
        let colour = if self.is_text() { Some(self.expect_text()?) } else { self.accept_name("a colour") };
        let mut line = KindLine { name, glyph, layer, colour, facing: Vec::new(), hotspot: Vec::new() };
        while self.accept_symbol(",") {
            let word = self.here();
            if self.expect_one_of(&["facing", "hotspot"])? == "facing" {
                line.facing.push((word, self.compass()?));
            } else {
                line.hotspot.push((word, self.point()?));
            }
        }
        Ok(line)
    }

    pub(super) fn size(&mut self) -> Parse<Size> {
        let width = self.expect_num()?;
        let height = if self.accept_word("x") { Some(self.expect_num()?) } else { None };
        self.expect_unit(&["px"])?;
        Ok(Size(width, height))
    }

    fn point(&mut self) -> Parse<Point> {
        let x = self.expect_num()?;
        self.expect_symbol(",")?;
        let y = self.expect_num()?;
        self.expect_unit(&["px"])?;
        Ok(Point(x, y))
    }

    /// `INT ms`.
    pub(super) fn beat(&mut self) -> Parse<Num> {
        let ms = self.expect_int()?;
        self.expect_unit(&["ms"])?;
        Ok(ms)
    }

    pub(super) fn duration(&mut self) -> Parse<Num> {
        let ms = self.expect_num()?;
        self.expect_unit(&["ms"])?;
        Ok(ms)
    }

    /// `NUM px`.
    pub(super) fn pixels(&mut self) -> Parse<Num> {
        let number = self.expect_num()?;
        self.expect_unit(&["px"])?;
        Ok(number)
    }

    pub(super) fn speed(&mut self) -> Parse<(Num, SpeedUnit)> {
        let speed = self.expect_num()?;
        let unit = self.expect_unit(&["px/s", "cells/s"])?;
        Ok((speed, if unit == "px/s" { SpeedUnit::Px } else { SpeedUnit::Cells }))
    }

    /// `NUM %`.
    pub(super) fn share(&mut self) -> Parse<Num> {
        let share = self.expect_num()?;
        self.expect_symbol("%")?;
        Ok(share)
    }

    fn name_list(&mut self, what: &'static str) -> Parse<Vec<Name>> {
        let mut names = vec![self.expect_name(what)?];
        while self.accept_symbol(",") {
            names.push(self.expect_name(what)?);
        }
        names.shrink_to_fit();
        Ok(names)
    }

    /// One of the eight headings.
    pub(super) fn compass(&mut self) -> Parse<Heading> {
        let word = self.expect_one_of(&Heading::ALL.map(Heading::word))?;
        Heading::from_word(word).ok_or_else(|| self.unexpected())
    }

    /// One of the four straight headings.
    pub(super) fn straight(&mut self) -> Parse<Heading> {
        let word = self.expect_one_of(&["west", "east", "north", "south"])?;
        Heading::from_word(word).ok_or_else(|| self.unexpected())
    }

    /// A key: a word or a text of one character.
    pub(super) fn key(&mut self) -> Parse<Key> {
        match self.accept_one_of(&["left", "right", "up", "down", "act", "alt"]) {
            Some(word) => Ok(Key(word.into())),
            None => self.key_text(),
        }
    }

    fn key_text(&mut self) -> Parse<Key> {
        let text = self.expect_text()?;
        key_of(&text)
    }

    pub(super) fn key_char(&mut self) -> Parse<Key> {
        match self.peek() {
            Some(token) if matches!(token.kind, TokenKind::Word | TokenKind::Number) => {
                let name = Name { text: self.text(token).into(), span: token.span };
                self.advance();
                key_of(&name)
            }
            _ => {
                self.expected.push("a letter a-z or a digit");
                Err(self.unexpected())
            }
        }
    }
}

fn key_of(name: &Name) -> Parse<Key> {
    let mut chars = name.text.chars();
    match (chars.next(), chars.next()) {
        (Some('a'..='z' | '0'..='9'), None) => Ok(Key(name.text.clone())),
        _ => Err(Box::new(
            Diagnostic::new(name.span, Code::BadWord, format!("`{}` is no key", name.text))
                .help("a key is one of the letters a-z or the digits 0-9"),
        )),
    }
}
