//! The Rules bench: the rulebook's text, who meets what, and the settling of the last turn.

mod code;
mod editor;
mod scenarios;
mod settling;
mod table;
#[cfg(test)]
mod tests;

use super::{Bench, Effect, News, Raw};
use crate::desk::Desk;
use crate::ui::Hits;
use crate::ui::action::{Action, char, control, key};
use crate::ui::tabs::{digits, tabs};
use crate::ui::theme::Theme;
use crossterm::event::{KeyCode, KeyEventKind};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

/// The pages of the bench, in the order of their keys.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Page {
    /// The rulebook's text.
    #[default]
    Text,
    /// Who meets what.
    Meetings,
    /// The settling of the last turn, pass by pass.
    Settling,
    /// The scenarios of the file.
    Scenarios,
    /// A rule as code in another language.
    Code,
}

impl Page {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Text, Self::Meetings, Self::Settling, Self::Scenarios, Self::Code];

    const fn title(self) -> &'static str {
        match self {
            Self::Text => "text",
            Self::Meetings => "who meets what",
            Self::Settling => "settling",
            Self::Scenarios => "scenarios",
            Self::Code => "code",
        }
    }

    /// A sentence for the page of keys.
    const fn help(self) -> &'static str {
        match self {
            Self::Text => "the rulebook's text",
            Self::Meetings => "who meets what, as a table",
            Self::Settling => "the settling of the last turn, pass by pass",
            Self::Scenarios => "the scenarios of the file, run again at every change",
            Self::Code => "the rule under the cursor as code in your language",
        }
    }
}

/// What the keys of this bench ask for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Ask {
    /// A page.
    Turn(Page),
    /// The text is to be typed into.
    Type,
    /// The text is written into the file, and the tape played again.
    Save,
    /// The rulebook is opened in the programmer's own editor.
    External,
    /// The cursor goes so many lines or cells down and right.
    Move(i32, i32),
    /// The cursor goes to a cell of the table.
    Cell(usize, usize),
    /// Another verb is chosen for the pair under the cursor, or the chosen one is taken.
    Verb,
    /// A verb of the list.
    Pick(usize),
    /// The last change of the rules is taken back.
    TakeBack,
    /// To the clause of the pair under the cursor, in the text.
    Clause,
    /// To a line of the text.
    ToLine(u32),
    /// A scenario of the list.
    Scenario(usize),
    /// What came out of a scenario.
    Ran(scenarios::Ran),
    /// The chosen scenario is put on the board.
    WalkThrough,
    /// Back to the game that was put aside for a scenario.
    Back,
    /// The tape played so far becomes a scenario.
    KeepTape,
    /// To the word that a mistake of the list is about.
    Mistake(usize),
    /// To the next mistake, or with a negative number the one before.
    NextMistake(i32),
    /// The rule under the cursor as code.
    ShowCode,
    /// Code in the next language, or in one of the list.
    Speak(Option<usize>),
}

/// What the bench knows besides the game.
#[derive(Debug, Default)]
pub struct Rules {
    /// The page in front.
    page: Page,
    editor: editor::Editor,
    table: table::Cursor,
    /// The step of the settling that is shown.
    step: usize,
    scenarios: scenarios::Scenarios,
    code: code::Code,
    /// The bench is in front.
    front: bool,
}

impl Bench for Rules {
    type Ask = Ask;
    const TITLE: &'static str = "Rules";

    fn actions(&self) -> Vec<Action<Ask>> {
        let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, ask);
        let mut all = match self.page {
            Page::Text => vec![
                ask(&[key(KeyCode::Enter), char('i')], "type", "type into the text; Esc ends typing", Ask::Type),
                ask(&[key(KeyCode::Up)], "", "a line up", Ask::Move(-1, 0)),
                ask(&[key(KeyCode::Down)], "", "a line down", Ask::Move(1, 0)),
                ask(&[key(KeyCode::Left)], "", "a character to the left", Ask::Move(0, -1)),
                ask(&[key(KeyCode::Right)], "", "a character to the right", Ask::Move(0, 1)),
                ask(&[char(']')], "mistake", "to the word of the next mistake or warning", Ask::NextMistake(1)),
                ask(&[char('[')], "", "to that of the one before", Ask::NextMistake(-1)),
                ask(&[char('c')], "code", "the rule under the cursor as code in your language", Ask::ShowCode),
                ask(&[char('e')], "$EDITOR", "open the rulebook in your own editor", Ask::External),
            ],
            Page::Meetings => vec![
                ask(&[key(KeyCode::Up)], "", "the mover above", Ask::Move(-1, 0)),
                ask(&[key(KeyCode::Down)], "", "the mover below", Ask::Move(1, 0)),
                ask(&[key(KeyCode::Left)], "", "what stands left of it", Ask::Move(0, -1)),
                ask(&[key(KeyCode::Right)], "", "what stands right of it", Ask::Move(0, 1)),
                ask(&[key(KeyCode::Enter)], "verb", "choose another verb for this pair, and take it", Ask::Verb),
                ask(&[char('t')], "text", "to its clause in the text", Ask::Clause),
                ask(&[char('U')], "take back", "take the last change of the rules back", Ask::TakeBack),
            ],
            Page::Settling => vec![
                ask(&[key(KeyCode::Left), key(KeyCode::Up)], "", "the step before", Ask::Move(-1, 0)),
                ask(&[key(KeyCode::Right), key(KeyCode::Down)], "step", "the step behind", Ask::Move(1, 0)),
            ],
            Page::Code => vec![
                ask(&[key(KeyCode::Up)], "", "the rule above", Ask::Move(-1, 0)),
                ask(&[key(KeyCode::Down)], "rule", "the rule below", Ask::Move(1, 0)),
                ask(&[char('l')], "language", "the next language", Ask::Speak(None)),
                ask(&[char('t')], "text", "to the rule in the text", Ask::Clause),
            ],
            Page::Scenarios => vec![
                ask(&[key(KeyCode::Up)], "", "the scenario above", Ask::Move(-1, 0)),
                ask(&[key(KeyCode::Down)], "scenario", "the scenario below", Ask::Move(1, 0)),
                ask(&[key(KeyCode::Enter)], "walk", "put it on the board to be walked through", Ask::WalkThrough),
                ask(&[char('x')], "game", "back to the game that was put aside", Ask::Back),
                ask(&[char('k')], "keep", "keep the tape played so far as a new scenario", Ask::KeepTape),
                ask(&[char('U')], "take back", "take the last change of the rules back", Ask::TakeBack),
            ],
        };
        all.push(ask(&[control('s')], "save", "write the text into the file and play the tape again", Ask::Save));
        all.extend(digits(&Page::ALL, Page::help, Ask::Turn));
        all
    }

    fn ask(&mut self, desk: &mut Desk, ask: Ask) -> Effect<Ask> {
        match ask {
            Ask::Turn(page) => {
                self.page = page;
                self.table.choosing = None;
                if page == Page::Scenarios {
                    return self.scenarios.run(desk);
                }
                if page == Page::Code {
                    self.show_code(desk);
                }
            }
            Ask::ShowCode => self.show_code(desk),
            Ask::Speak(language) => self.code.speak(desk, language),
            Ask::Type => {
                self.editor.follow(desk);
                self.editor.set_typing(true);
            }
            Ask::Save => self.save(desk),
            Ask::External if self.editor.is_changed() || !desk.text.unwritten().is_empty() => {
                desk.say("there are changes that are not saved: write them first");
            }
            Ask::External => return Effect::Editor,
            Ask::Move(down, right) => match self.page {
                Page::Text => self.editor.walk(desk, down, right),
                Page::Meetings => self.table.walk(desk, down, right),
                Page::Settling => self.step = self.step.saturating_add_signed(down as isize),
                Page::Scenarios => self.scenarios.walk(down),
                Page::Code => self.code.walk(desk, down),
            },
            Ask::Scenario(number) => self.scenarios.choose(number),
            Ask::Ran(ran) => self.scenarios.take(ran),
            Ask::WalkThrough => self.walk_through(desk),
            Ask::Back => desk.back_to_game(),
            Ask::KeepTape => return self.keep_tape(desk),
            Ask::Cell(row, column) => self.go(desk, row, column),
            Ask::Verb => self.choose(desk),
            Ask::Pick(verb) => self.pick(desk, verb),
            Ask::TakeBack => {
                if desk.take_back(Self::TITLE) {
                    self.editor.follow(desk);
                } else {
                    desk.say("no rule has been changed here");
                }
            }
            Ask::Mistake(number) => self.editor.go_to_mistake(number),
            Ask::NextMistake(by) => {
                if !self.editor.turn_to_mistake(by) {
                    desk.say("there is no mistake and no warning");
                }
            }
            Ask::ToLine(line) => self.show_line(desk, line),
            Ask::Clause if self.page == Page::Code => self.show_line(desk, self.code.line()),
            Ask::Clause => match self.table.line(desk) {
                Some(line) => self.show_line(desk, line),
                None => desk.say("no clause is about this pair: Enter adds one"),
            },
        }
        Effect::Nothing
    }

    fn render(&self, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
        let (mut hits, area) = tabs((&Page::ALL, self.page), Page::title, Ask::Turn, theme, area, buffer);
        match self.page {
            Page::Text => hits.extend(editor::render(&self.editor, desk, theme, area, buffer)),
            Page::Meetings => hits.extend(table::render(&self.table, desk, theme, area, buffer)),
            Page::Settling => settling::render(self.step, desk, theme, area, buffer),
            Page::Scenarios => hits.extend(scenarios::render(&self.scenarios, desk, theme, area, buffer)),
            Page::Code => hits.extend(code::render(&self.code, desk, theme, area, buffer)),
        }
        hits
    }

    fn raw(&mut self, desk: &mut Desk, raw: Raw) -> Option<Effect<Ask>> {
        if !self.is_typing() {
            return None;
        }
        match raw {
            Raw::Key(event) if event.kind == KeyEventKind::Release => return None,
            Raw::Key(event) => {
                desk.note = None;
                editor::key(self, desk, event);
            }
            Raw::Paste(text) => self.editor.paste(desk, text),
        }
        Some(Effect::Nothing)
    }

    fn typing(&self) -> &'static [(&'static str, &'static str)] {
        if self.is_typing() { &editor::KEYS } else { &[] }
    }

    fn news(&mut self, desk: &mut Desk, news: News) -> Effect<Ask> {
        match news {
            News::Entered => {
                self.front = true;
                self.editor.follow(desk);
            }
            News::Left => self.front = false,
            News::Text => {
                if self.front {
                    self.editor.follow(desk);
                }
                if self.page == Page::Scenarios {
                    return self.scenarios.run(desk);
                }
                if self.page == Page::Code {
                    self.code.work_out(desk);
                }
            }
            News::Game => {}
        }
        Effect::Nothing
    }

    fn scroll(&mut self, lines: i32) {
        match self.page {
            Page::Text => self.editor.scroll(lines),
            Page::Meetings => self.table.scroll(lines.signum()),
            Page::Settling => self.step = self.step.saturating_add_signed(lines.signum() as isize),
            Page::Scenarios => self.scenarios.walk(lines.signum()),
            Page::Code => self.code.scroll(lines),
        }
    }

    fn close(&mut self, _desk: &mut Desk) -> bool {
        self.table.choosing.take().is_some() || self.editor.set_typing(false)
    }

    /// In the text itself.
    fn shows_mistakes(&self) -> bool {
        true
    }

    fn is_unsaved(&self) -> bool {
        self.editor.is_changed()
    }
}

impl Rules {
    /// Whether keys go into the text.
    fn is_typing(&self) -> bool {
        self.page == Page::Text && self.editor.typing
    }

    /// Shows the rule under the cursor, or the next one below it, as code.
    fn show_code(&mut self, desk: &Desk) {
        self.editor.follow(desk);
        self.code.show(desk, self.editor.line());
        self.page = Page::Code;
    }

    /// Goes to a line of the text.
    fn show_line(&mut self, desk: &Desk, line: u32) {
        self.editor.follow(desk);
        self.editor.go_to_line(line);
        self.page = Page::Text;
    }

    /// Writes what was typed into the file, else the rules that were changed here, and plays the tape again.
    fn save(&mut self, desk: &mut Desk) {
        if self.editor.is_changed() {
            self.editor.save(desk);
        } else if desk.text.is_changed_by(Self::TITLE) {
            if desk.write(Self::TITLE) {
                desk.say(format!("written to {}", desk.text.name()));
            }
        } else {
            desk.say("the file has these rules already");
        }
    }
}
