//! The lines of the bodies of `pace` and `scenario`.

use super::super::diagnostic::Span;
use super::super::layout::Statement;
use super::super::syntax::{Expectation, Given, Num, Scene, SceneNode, Setting, SpeedUnit};
use super::{Parse, Parser};
use crate::input::Key;

impl Parser<'_> {
    pub(super) fn pace_line(&mut self) -> Parse<Vec<(Span, Setting)>> {
        let mut settings = Vec::new();
        loop {
            let span = self.here();
            settings.push((span, self.setting()?));
            if !self.accept_symbol(",") {
                settings.shrink_to_fit();
                return Ok(settings);
            }
        }
    }

    fn setting(&mut self) -> Parse<Setting> {
        const WORDS: [&str; 19] = [
            "instant",
            "timed",
            "rate",
            "per-frame",
            "test",
            "linear",
            "ease-in",
            "ease-out",
            "ease-in-out",
            "on",
            "while",
            "hold",
            "axis",
            "claim",
            "lean",
            "free",
            "body",
            "slack",
            "lined",
        ];
        Ok(match self.expect_one_of(&WORDS)? {
            "instant" => Setting::Instant,
            "timed" => Setting::Timed(self.duration()?),
            "rate" => {
                let (speed, unit) = self.speed()?;
                Setting::Rate(speed, unit)
            }
            "per-frame" => {
                let step = self.expect_num()?;
                let cells = self.expect_unit(&["px", "cells"])? == "cells";
                Setting::PerFrame(step, if cells { SpeedUnit::Cells } else { SpeedUnit::Px })
            }
            "test" => Setting::TestEqual(self.expect_one_of(&["reached", "equal"])? == "equal"),
            "on" => {
                self.expect_word("arrival")?;
                Setting::Arrival(self.expect_one_of(&["snap", "carry", "drift"])?)
            }
            "while" => {
                self.expect_word("moving")?;
                match self.expect_one_of(&["ignored", "remembered", "queued", "obeyed"])? {
                    "queued" => Setting::Queued(self.expect_int()?),
                    policy => Setting::Moving(policy),
                }
            }
            "hold" => self.hold()?,
            "axis" => match self.expect_one_of(&["first", "last", "horizontal", "vertical", "diagonal"])? {
                "diagonal" => Setting::Axis("diagonal"),
                way @ ("first" | "last") => {
                    self.expect_word("pressed")?;
                    Setting::Axis(if way == "first" { "first pressed" } else { "last pressed" })
                }
                way => {
                    self.expect_word("first")?;
                    Setting::Axis(if way == "horizontal" { "horizontal first" } else { "vertical first" })
                }
            },
            "claim" => {
                self.expect_word("at")?;
                Setting::ClaimAtArrival(self.expect_one_of(&["start", "arrival"])? == "arrival")
            }
            "lean" => Setting::Lean(self.duration()?),
            "free" => {
                let (speed, unit) = self.speed()?;
                Setting::Free(speed, unit)
            }
            "body" => Setting::Body(self.size()?),
            "slack" => Setting::Slack(self.pixels()?),
            "lined" => {
                self.expect_word("up")?;
                self.expect_word("by")?;
                Setting::Lined(self.pixels()?)
            }
            easing => Setting::Easing(easing),
        })
    }

    fn hold(&mut self) -> Parse<Setting> {
        Ok(match self.expect_one_of(&["continuous", "latched", "repeat", "off", "every"])? {
            "repeat" => {
                self.expect_word("after")?;
                let after = self.duration()?;
                self.expect_word("every")?;
                Setting::Repeat(after, self.duration()?)
            }
            "every" => {
                self.expect_word("frame")?;
                Setting::Hold("every frame")
            }
            policy => Setting::Hold(policy),
        })
    }

    pub(super) fn scene(&mut self, statement: &Statement) -> Parse<Scene> {
        let span = self.here();
        let drawing = statement.drawing.clone();
        let node = match self.expect_one_of(&["map", "seed", "inputs", "expect"])? {
            "map" => match drawing {
                Some(drawing) if self.at >= self.tokens.len() => SceneNode::MapDrawn(drawing),
                _ => SceneNode::MapTitle(self.expect_text()?),
            },
            "seed" => SceneNode::Seed(self.expect_int()?),
            "inputs" => {
                let mut inputs = Vec::new();
                while self.at < self.tokens.len() || inputs.is_empty() {
                    let start = self.here();
                    let given = self.given()?;
                    inputs.push((Span::new(start.start, self.behind()), given));
                }
                inputs.shrink_to_fit();
                SceneNode::Inputs(inputs)
            }
            _ => match drawing {
                Some(drawing) if self.at >= self.tokens.len() => SceneNode::ExpectDrawn(drawing),
                _ => SceneNode::Expect(self.expectation()?),
            },
        };
        Ok(Scene { node, span: Span::new(span.start, self.behind()) })
    }

    fn given(&mut self) -> Parse<Given> {
        const WORDS: [&str; 13] =
            ["left", "right", "up", "down", "act", "alt", "undo", "restart", "next", "key", "tap", "drag", "wait"];
        Ok(match self.expect_one_of(&WORDS)? {
            "undo" => Given::Undo,
            "restart" => Given::Restart,
            "next" => Given::Next,
            "key" => {
                self.expect_symbol(":")?;
                Given::Key(self.key_char()?)
            }
            "tap" => {
                self.expect_symbol(":")?;
                let (column, row) = self.at_cell()?;
                Given::Tap(Box::new([column, row]))
            }
            "drag" => {
                self.expect_symbol(":")?;
                let (column, row) = self.at_cell()?;
                self.expect_symbol(">")?;
                let (to_column, to_row) = self.at_cell()?;
                Given::Drag(Box::new([column, row, to_column, to_row]))
            }
            "wait" => {
                self.expect_symbol(":")?;
                Given::Wait(Box::new(self.expect_int()?))
            }
            key => Given::Key(Key(key.into())),
        })
    }

    fn at_cell(&mut self) -> Parse<(Num, Num)> {
        let column = self.expect_int()?;
        self.expect_symbol(",")?;
        Ok((column, self.expect_int()?))
    }

    fn expectation(&mut self) -> Parse<Expectation> {
        const WORDS: [&str; 7] = ["granted", "refused", "won", "lost", "unfinished", "signal", "never"];
        Ok(match self.accept_one_of(&WORDS) {
            Some("granted") => Expectation::Granted,
            Some("refused") => {
                if self.accept_word("by") {
                    let who = self.who()?;
                    self.expect_word("into")?;
                    Expectation::Refused(Some((who, self.what()?)))
                } else {
                    Expectation::Refused(None)
                }
            }
            Some("won") => Expectation::Won,
            Some("lost") => Expectation::Lost,
            Some("unfinished") => Expectation::Unfinished,
            Some("signal") => Expectation::Signal(self.expect_text()?.text),
            Some(_) => {
                self.expect_word("settles")?;
                Expectation::NeverSettles
            }
            None => Expectation::Cond(self.cond()?),
        })
    }
}
