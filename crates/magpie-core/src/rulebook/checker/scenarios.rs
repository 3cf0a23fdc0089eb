//! Scenarios: a board, inputs, and what is expected of them.

use super::super::diagnostic::{Code, Span};
use super::super::layout::Drawing;
use super::super::model::{Expect, Map, MapCells, Rulebook, Scenario, Scene, whole};
use super::super::syntax::{self, Expectation, Given, Name, Num, SceneNode, SectionNode};
use super::Checker;
use super::acts::Scope;
use crate::input::Input;
use crate::space::{Cell, Extent};

impl Checker<'_> {
    pub(super) fn scenarios(&mut self, book: &mut Rulebook) {
        let sections = &self.parsed.sections;
        for section in sections {
            if let SectionNode::Scenario { title, scenes } = &section.node {
                let line = self.lines.line(section.word.start) as u32;
                let scenario = self.scenario(book, title, scenes, line);
                book.scenarios.push(scenario);
            }
        }
    }

    fn scenario(&mut self, book: &Rulebook, title: &Name, scenes: &[syntax::Scene], line: u32) -> Scenario {
        let mut built = Scenario { title: title.text.clone(), line, map: Err(0), seed: None, scenes: Vec::new() };
        let mut extent = book.maps.first().map(|map| map.extent);
        let mut seen: Vec<&str> = Vec::new();
        let mut next = false;
        for scene in scenes {
            let line = self.lines.line(scene.span.start) as u32;
            let word = match &scene.node {
                SceneNode::MapDrawn(_) | SceneNode::MapTitle(_) => "map",
                SceneNode::Seed(_) => "seed",
                _ => "",
            };
            self.order_of_scene(&mut seen, word, scene.span);
            match &scene.node {
                SceneNode::MapDrawn(drawing) => {
                    let drawn = self.drawn(drawing);
                    extent = drawn.as_ref().map(|(extent, _)| *extent);
                    if let Some((extent, cells)) = drawn {
                        self.slots_fit(title.span, extent);
                        built.map = Ok(Map { title: title.text.clone(), extent, cells });
                    }
                }
                SceneNode::MapTitle(name) => {
                    if let Some(number) = self.map_number(name) {
                        built.map = Err(number);
                        extent = book.maps.get(number).map(|map| map.extent);
                    }
                }
                SceneNode::Seed(seed) => built.seed = Some(self.seed(seed)),
                SceneNode::Inputs(given) => {
                    next |= built.map.is_err() && given.iter().any(|(_, given)| matches!(given, Given::Next));
                    let inputs = given.iter().map(|(_, given)| self.given(given)).collect();
                    built.scenes.push((line, Scene::Inputs(inputs)));
                }
                SceneNode::ExpectDrawn(drawing) => {
                    let expected = self.expected_drawing(drawing, extent.filter(|_| !next));
                    built.scenes.push((line, Scene::Expect(Expect::Drawn(expected))));
                }
                SceneNode::Expect(expectation) => {
                    let expect = self.expectation(expectation);
                    built.scenes.push((line, Scene::Expect(expect)));
                }
            }
        }
        built
    }

    /// At most one `map` and one `seed`, before all inputs and expectations.
    fn order_of_scene(&mut self, seen: &mut Vec<&'static str>, word: &'static str, span: Span) {
        let at = Span::new(span.start, span.start + word.len());
        if !word.is_empty() && seen.contains(&word) {
            self.report(at, Code::RepeatedSection, format!("this scenario has its `{word}` already"));
        } else if !word.is_empty() && seen.contains(&"") {
            let message = format!("`{word}` stands before all `inputs` and `expect` of a scenario");
            self.report(at, Code::MisplacedWord, message);
        }
        seen.push(word);
    }

    fn given(&mut self, given: &Given) -> Input {
        let cell = |at: &[Num]| Cell::new(whole(&at[0]), whole(&at[1]));
        match given {
            Given::Key(key) => Input::Key(key.clone()),
            Given::Undo => Input::Undo,
            Given::Restart => Input::Restart,
            Given::Next => Input::Next,
            Given::Tap(at) => Input::Tap(cell(&at[..])),
            Given::Drag(at) => Input::Drag(cell(&at[..2]), cell(&at[2..])),
            Given::Wait(ms) => Input::Wait(self.int(ms, 0, 86_400_000, "0 to 86,400,000 ms") as u64),
        }
    }

    /// The rows of an expected board, as the board is drawn.
    fn expected_drawing(&mut self, drawing: &Drawing, extent: Option<Extent>) -> Vec<String> {
        let Some((found, MapCells::Legend { .. })) = self.drawn(drawing) else {
            return Vec::new();
        };
        if let (Some(extent), Some(row)) = (extent, drawing.rows.first())
            && extent != found
        {
            let message = format!(
                "the expected board has {} x {} cells, and the map {} x {}",
                found.columns, found.rows, extent.columns, extent.rows
            );
            self.report(row.span, Code::RowsDoNotFit, message);
        }
        let source = self.source;
        let rows = drawing.rows.iter().map(|row| {
            let text = &source[row.span.start..row.span.end];
            let drawn = format!("{}{text}", " ".repeat(row.lead));
            let missing = (found.columns as usize).saturating_sub(drawn.chars().count());
            drawn + &" ".repeat(missing)
        });
        rows.collect()
    }

    fn expectation(&mut self, expectation: &Expectation) -> Expect {
        match expectation {
            Expectation::Granted => Expect::Granted,
            Expectation::Refused(None) => Expect::Refused(None),
            Expectation::Refused(Some((who, what))) => {
                let who = self.set(who);
                Expect::Refused(Some((who, self.met(what))))
            }
            Expectation::Won => Expect::Won,
            Expectation::Lost => Expect::Lost,
            Expectation::Unfinished => Expect::Unfinished,
            Expectation::Signal(text) => Expect::Signal(text.clone()),
            Expectation::NeverSettles => Expect::NeverSettles,
            Expectation::Cond(cond) => Expect::Cond(self.cond(cond, &Scope::plain())),
        }
    }
}
