//! The Probe bench: positions, conversions and wrong formulas, on pages of one subject each.

mod formula;
mod numbers;
mod points;
mod samples;
mod steps;
mod strip;
#[cfg(test)]
mod tests;
mod way;

use super::{Bench, Effect, News, Raw};
use crate::desk::Desk;
use crate::desk::board::{Finger, Within};
use crate::desk::marks::{Mark, Marks};
use crate::ui::Hits;
use crate::ui::action::{Action, char, key, shift};
use crate::ui::line::{KEYS, Line, Typed};
use crate::ui::pen::Pen;
use crate::ui::tabs::{digits, tabs};
use crate::ui::theme::Theme;
use crossterm::event::{KeyCode, KeyEventKind};
use magpie_core::mishap::{Mishap, Target};
use magpie_core::rulebook::Rulebook;
use magpie_core::space::{
    Cell, Conversion, Extent, Position, PositionError, RowsFrom, WindowPoint, WorldPoint, YAxis, parse_position, show,
};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

/// The pages of the bench, in the order of their keys.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Page {
    /// The position's way, worked, and the usual wrong formulas.
    #[default]
    Way,
    /// The nine points of the cell, all cells, and a drag.
    Points,
    /// A strip of pixels along one axis.
    Strip,
    /// The programmer's own formula.
    Formula,
    /// Positions with the cells that were expected.
    Samples,
    /// The numbers of the geometry, nudged in place.
    Numbers,
    /// Steps, loops, headings, the picture's grid.
    Steps,
}

impl Page {
    /// All of them.
    pub const ALL: [Self; 7] =
        [Self::Way, Self::Points, Self::Strip, Self::Formula, Self::Samples, Self::Numbers, Self::Steps];

    const fn title(self) -> &'static str {
        match self {
            Self::Way => "way",
            Self::Points => "points",
            Self::Strip => "strip",
            Self::Formula => "formula",
            Self::Samples => "samples",
            Self::Numbers => "numbers",
            Self::Steps => "steps",
        }
    }

    /// A sentence for the page of keys.
    const fn help(self) -> &'static str {
        match self {
            Self::Way => "the way of this position, worked, and the usual wrong formulas",
            Self::Points => "the nine points of the cell, a pass over all cells, a drag",
            Self::Strip => "a strip of pixels: right formula over a wrong one",
            Self::Formula => "your own formula against the right answers",
            Self::Samples => "taps and samples, and the mistake behind them",
            Self::Numbers => "the numbers of the grid, nudged in place",
            Self::Steps => "steps and loops in pixels, headings, the picture's grid",
        }
    }
}

/// What a typed line is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Prompt {
    /// Where the pointer goes.
    Position,
    /// An expression.
    Formula(Target),
    /// The cell that was expected at the pointer.
    Expected,
    /// A line of samples.
    Sample,
    /// A file of samples to read.
    Load,
    /// A file of samples to write.
    Save,
    /// Pixels a step.
    Step,
    /// Start, end and step of a loop over pixels.
    Loop,
    /// Cell size and origin of the artwork.
    Picture,
}

impl Prompt {
    /// The words before the line, and a hint behind it.
    const fn words(self) -> (&'static str, &'static str) {
        match self {
            Self::Position => ("go to ", "px:X,Y win:X,Y cell:C,R index:I"),
            Self::Formula(target) => (target.word(), " as in your code: floor((x - ox) / pitch)"),
            Self::Expected => ("expected here ", "column row"),
            Self::Sample => ("sample ", "(101.0, 40.0) -> 4 2"),
            Self::Load => ("read samples from ", "a CSV, or lines as printed"),
            Self::Save => ("write samples to ", "a CSV beside the rulebook"),
            Self::Step => ("step of ", "X,Y px"),
            Self::Loop => ("loop over x ", "START END STEP px"),
            Self::Picture => ("the picture's cells ", "W x H at X,Y px"),
        }
    }
}

/// What the keys of this bench ask for.
#[derive(Clone, Debug)]
pub enum Ask {
    /// A page.
    Turn(Page),
    /// The pointer goes so many pixels to the right and down the screen.
    Move(i32, i32),
    /// A line is to be typed.
    Prompt(Prompt),
    /// The expression that is chosen is to be typed.
    EditFormula,
    /// The arrows move by window positions, or by world pixels.
    Space,
    /// A drag begins at the pointer, or ends.
    Press,
    /// The strip lies along the other axis.
    Axis,
    /// The next or the last of what can be chosen on a page.
    Choose(i32),
    /// Whole numbers, or not.
    Ints,
    /// Counting stops.
    Stop,
    /// What is chosen is emptied or taken out.
    Clear,
    /// A number by so much.
    Nudge(f64),
    /// The board's middle into the picture's.
    Centre,
    /// Numbers back into the file.
    Write,
    /// The last nudge is taken back.
    TakeBack,
    /// The other way round.
    Reverse,
    /// The hotspot of the next kind counts.
    NextKind,
    /// Counting a formula has come so far.
    Counted(formula::Counted),
}

/// What the bench knows besides the game.
#[derive(Debug)]
pub struct Probe {
    /// The page in front.
    page: Page,
    scroll: usize,
    /// Where the pointer stands, as it was put there: in the world or in the window.
    pointer: Position,
    /// The pointer has been put somewhere.
    placed: bool,
    /// The kind whose hotspot counts, by name; without one the rulebook's.
    kind: Option<String>,
    /// The line being typed, and what it is for.
    typing: Option<(Prompt, Line)>,
    /// Where the finger went down, while a drag is looked at.
    pressed: Option<WorldPoint>,
    /// Where the mouse button is down.
    down: Option<WorldPoint>,
    strip: strip::Strip,
    /// The programmer's own formula.
    formula: formula::Formula,
    samples: samples::Taps,
    numbers: numbers::Numbers,
    steps: steps::Steps,
}

impl Default for Probe {
    fn default() -> Self {
        Self {
            page: Page::Way,
            scroll: 0,
            pointer: Position::World(WorldPoint { x: 0.0, y: 0.0 }),
            placed: false,
            kind: None,
            typing: None,
            pressed: None,
            down: None,
            strip: strip::Strip::default(),
            formula: formula::Formula::default(),
            samples: samples::Taps::default(),
            numbers: numbers::Numbers::default(),
            steps: steps::Steps::default(),
        }
    }
}

impl Bench for Probe {
    type Ask = Ask;
    const TITLE: &'static str = "Probe";

    fn actions(&self) -> Vec<Action<Ask>> {
        let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, ask);
        let page = self.page;
        let mut all = Vec::new();
        if page == Page::Numbers {
            all.extend(numbers::actions());
        } else {
            all.extend([
                ask(&[key(KeyCode::Left)], "", "the pointer 1 px to the left", Ask::Move(-1, 0)),
                ask(&[key(KeyCode::Right)], "1 px", "the pointer 1 px to the right", Ask::Move(1, 0)),
                ask(&[key(KeyCode::Up)], "", "the pointer 1 px up the screen", Ask::Move(0, -1)),
                ask(&[key(KeyCode::Down)], "", "the pointer 1 px down the screen", Ask::Move(0, 1)),
                ask(&[shift(KeyCode::Left), char('H')], "", "10 px to the left", Ask::Move(-10, 0)),
                ask(&[shift(KeyCode::Right), char('L')], "10 px", "10 px to the right", Ask::Move(10, 0)),
                ask(&[shift(KeyCode::Up), char('K')], "", "10 px up the screen", Ask::Move(0, -10)),
                ask(&[shift(KeyCode::Down), char('J')], "", "10 px down the screen", Ask::Move(0, 10)),
            ]);
        }
        all.push(ask(
            &[char('y')],
            "",
            "the hotspot of the next kind counts, after the last the rulebook's",
            Ask::NextKind,
        ));
        all.push(ask(
            &[char('g')],
            "go to",
            "type a position: px:X,Y win:X,Y cell:C,R index:I",
            Ask::Prompt(Prompt::Position),
        ));
        all.push(ask(&[char('v')], "", "move by window positions, or by world pixels", Ask::Space));
        all.extend(match page {
            Page::Way | Page::Numbers => Vec::new(),
            Page::Points => points::actions(),
            Page::Strip => strip::actions(),
            Page::Formula => formula::actions(),
            Page::Samples => samples::actions(),
            Page::Steps => steps::actions(),
        });
        all.extend(digits(&Page::ALL, Page::help, Ask::Turn));
        all
    }

    fn ask(&mut self, desk: &mut Desk, ask: Ask) -> Effect<Ask> {
        match ask {
            Ask::Turn(page) => {
                self.page = page;
                self.scroll = 0;
                if page == Page::Samples {
                    self.samples.begin(desk);
                }
                if page == Page::Formula && self.formula.begin(desk) {
                    return self.count(desk);
                }
            }
            Ask::NextKind => {
                self.next_kind(desk);
                return self.count(desk);
            }
            Ask::Move(right, down) => self.move_pointer(desk, right, down),
            Ask::Prompt(prompt) => self.prompt(desk, prompt),
            Ask::EditFormula => self.prompt(desk, Prompt::Formula(self.formula.chosen())),
            Ask::Space => self.change_space(desk),
            Ask::Press => self.pressed = if self.pressed.is_some() { None } else { Some(self.world(desk)) },
            Ask::Axis => self.strip.vertical = !self.strip.vertical,
            Ask::Choose(by) => match self.page {
                Page::Strip => self.strip.choose(by),
                Page::Numbers => self.numbers.choose(desk, by),
                Page::Steps => self.steps.turn(by),
                Page::Way | Page::Points | Page::Formula | Page::Samples => self.formula.choose(by),
            },
            Ask::Ints => {
                self.formula.ints = !self.formula.ints;
                return self.count(desk);
            }
            Ask::Stop => self.formula.stop(),
            Ask::Clear if self.page == Page::Samples => self.samples.take_out(desk),
            Ask::Clear => {
                let target = self.formula.chosen();
                self.formula.write(target, "");
                return self.count(desk);
            }
            Ask::Nudge(by) => self.numbers.nudge(desk, by),
            Ask::Centre => numbers::centre(desk),
            Ask::Write => numbers::write(desk),
            Ask::TakeBack => numbers::take_back(desk),
            Ask::Reverse => self.steps.reverse(),
            Ask::Counted(counted) => self.formula.take(counted),
        }
        Effect::Nothing
    }

    fn render(&self, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
        let (hits, mut area) = tabs((&Page::ALL, self.page), Page::title, Ask::Turn, theme, area, buffer);
        if let Some((_, line)) = &self.typing {
            area = line.render(theme, area, buffer);
        }
        let mut pen = Pen::new(buffer, area, theme, self.scroll);
        match self.page {
            Page::Way => way::render(self, desk, theme, &mut pen),
            Page::Points => points::render(self, desk, theme, &mut pen),
            Page::Strip => strip::render(self, desk, theme, &mut pen),
            Page::Formula => formula::render(self, desk, theme, &mut pen),
            Page::Samples => samples::render(self, desk, theme, &mut pen),
            Page::Numbers => numbers::render(self, desk, theme, &mut pen),
            Page::Steps => steps::render(self, desk, theme, &mut pen),
        }
        pen.finish();
        hits
    }

    fn raw(&mut self, desk: &mut Desk, raw: Raw) -> Option<Effect<Ask>> {
        match (raw, &mut self.typing) {
            (Raw::Key(event), Some((prompt, line))) if event.kind != KeyEventKind::Release => {
                match line.key(event) {
                    Typed::More => {}
                    Typed::Leave => self.typing = None,
                    Typed::Take => {
                        let (prompt, text) = (*prompt, line.text().to_owned());
                        return Some(self.typed(desk, prompt, &text));
                    }
                }
                Some(Effect::Nothing)
            }
            (Raw::Paste(text), Some((_, line))) => {
                line.paste(text);
                Some(Effect::Nothing)
            }
            // A line may end with LF, CR or both.
            (Raw::Paste(text), None) if self.page == Page::Samples => {
                if let Err(error) = self.samples.paste(desk, &text.replace("\r\n", "\n").replace('\r', "\n")) {
                    desk.say(error);
                }
                Some(Effect::Nothing)
            }
            _ => None,
        }
    }

    fn news(&mut self, desk: &mut Desk, news: News) -> Effect<Ask> {
        match news {
            News::Text => {
                if !self.placed {
                    self.pointer = home(desk);
                    self.placed = desk.game.session.is_some();
                }
                self.samples.refresh(desk);
                if self.page == Page::Samples {
                    self.samples.begin(desk);
                }
                self.count(desk)
            }
            News::Entered | News::Left | News::Game => Effect::Nothing,
        }
    }

    /// The pointer follows the mouse; a drag is looked at from where its button went down.
    fn finger(&mut self, desk: &mut Desk, finger: Finger) {
        match finger {
            Finger::Down { inside, .. } => {
                (self.pressed, self.down) = (None, None);
                self.point(desk, inside);
                self.down = Some(self.world(desk));
            }
            Finger::Moved { inside } => {
                self.pressed = self.pressed.or(self.down);
                self.point(desk, inside);
            }
            Finger::Up { .. } => self.down = None,
        }
    }

    fn marks(&self, desk: &Desk) -> Marks {
        let way = self.dragged(desk).into_iter().flatten();
        let cell = self.cell(desk);
        let (at, hotspot) = (self.world(desk), self.hotspot(desk));
        Marks {
            focus: cell,
            cells: way.map(|cell| (cell, Mark::Way)).collect(),
            ghosts: Vec::new(),
            pointer: cell.map(|cell| (cell, WorldPoint { x: at.x + hotspot.0, y: at.y + hotspot.1 })),
            cut: true,
            ..Marks::default()
        }
    }

    fn scroll(&mut self, lines: i32) {
        self.scroll = self.scroll.saturating_add_signed(lines as isize);
    }

    fn typing(&self) -> &'static [(&'static str, &'static str)] {
        if self.typing.is_some() { KEYS } else { &[] }
    }
}

impl Probe {
    fn prompt(&mut self, desk: &Desk, prompt: Prompt) {
        let text = match prompt {
            Prompt::Formula(target) => self.formula.written(target).to_owned(),
            Prompt::Save | Prompt::Load => samples::file_name(desk),
            Prompt::Position | Prompt::Expected | Prompt::Sample | Prompt::Step | Prompt::Loop | Prompt::Picture => {
                String::new()
            }
        };
        let (label, hint) = prompt.words();
        let label = if label.ends_with(' ') { label.to_owned() } else { format!("{label} = ") };
        let usual = matches!(prompt, Prompt::Formula(target) if self.formula.is_usual(desk, target));
        let line = if usual { Line::suggesting(label, hint, text) } else { Line::new(label, hint, text) };
        self.typing = Some((prompt, line));
    }

    /// Takes a typed line; one that cannot be taken stays to be mended.
    fn typed(&mut self, desk: &mut Desk, prompt: Prompt, text: &str) -> Effect<Ask> {
        desk.note = None;
        let result = match prompt {
            Prompt::Position => self.go_to(desk, text),
            Prompt::Formula(target) => {
                self.formula.write(target, text);
                self.typing = None;
                return self.count(desk);
            }
            Prompt::Expected => self.expect(desk, text),
            Prompt::Sample => self.samples.paste(desk, text),
            Prompt::Load => self.samples.load(desk, text),
            Prompt::Save => self.samples.save(desk, text),
            Prompt::Step => self.steps.set_step(text),
            Prompt::Loop => self.steps.set_loop(text),
            Prompt::Picture => self.steps.set_picture(text),
        };
        match (result, &mut self.typing) {
            (Ok(()), typing) => *typing = None,
            (Err(error), Some((_, line))) => line.refuse(error),
            (Err(error), None) => desk.say(error),
        }
        Effect::Nothing
    }

    fn count(&mut self, desk: &Desk) -> Effect<Ask> {
        let hotspot = self.hotspot(desk);
        self.formula.count(desk, hotspot)
    }

    /// Where the pointer stands in the world.
    fn world(&self, desk: &Desk) -> WorldPoint {
        match (self.pointer, desk.game.book()) {
            (Position::World(point), _) => point,
            (Position::Window(point), Some(book)) => match &book.view {
                Some(view) => view.world(book.geometry.y, point),
                None => WorldPoint { x: point.x, y: point.y },
            },
            _ => WorldPoint { x: 0.0, y: 0.0 },
        }
    }

    /// Puts the pointer to a place of the world, in the space in which it is moved now.
    fn put(&mut self, desk: &Desk, point: WorldPoint) {
        let in_window = matches!(self.pointer, Position::Window(_));
        let book = desk.game.book();
        let view = book.and_then(|book| book.view.as_ref().map(|view| view.window_point(book.geometry.y, point)));
        self.pointer = match view {
            // Whole units, as a window system reports them.
            Some(WindowPoint { x, y }) if in_window => Position::Window(WindowPoint { x: x.floor(), y: y.floor() }),
            _ => Position::World(point),
        };
    }

    /// Puts the pointer to where the mouse is on the board.
    fn point(&mut self, desk: &Desk, inside: Option<Within>) {
        if let (Some((cell, part)), Some(book), Some(extent)) = (inside, desk.game.book(), desk.game.extent()) {
            self.put(desk, world_of(book, extent, cell, part));
        }
    }

    /// The pointer's hotspot: window positions have none.
    fn hotspot(&self, desk: &Desk) -> (f64, f64) {
        match (self.pointer, desk.game.book()) {
            (Position::World(_), Some(_)) => self.hotspot_of_kind(desk),
            _ => (0.0, 0.0),
        }
    }

    /// The hotspot of positions of the kind that was chosen.
    fn hotspot_of_kind(&self, desk: &Desk) -> (f64, f64) {
        let Some(book) = desk.game.book() else { return (0.0, 0.0) };
        // A kind that an edit has taken away is none any more.
        book.hotspot_of(self.kind.as_deref().and_then(|name| book.kind_of_name(name)))
    }

    /// The next kind with a hotspot of its own.
    fn next_kind(&mut self, desk: &mut Desk) {
        let Some(book) = desk.game.book().cloned() else { return };
        let own = || book.kinds.iter().filter(|kind| kind.hotspot.is_some()).map(|kind| kind.name.clone());
        let mut behind = own().skip_while(|name| self.kind.as_ref().is_some_and(|kind| kind != name));
        self.kind = if self.kind.is_some() { behind.nth(1) } else { behind.next() };
        let (x, y) = self.hotspot_of_kind(desk);
        let whose = self.kind.as_deref().unwrap_or("the rulebook");
        let none = if own().next().is_none() { ": no kind has one of its own" } else { "" };
        desk.say(format!("the hotspot of {whose} counts: {}, {} px{none}", show(x), show(y)));
    }

    /// What is known about a position under the hotspot that counts.
    fn convert(&self, desk: &Desk, position: Position) -> Option<Result<Conversion, PositionError>> {
        let grid = desk.game.grid()?;
        Some(grid.book().convert(grid.map(), self.hotspot_of_kind(desk), position))
    }

    /// The cell under the pointer.
    fn cell(&self, desk: &Desk) -> Option<Cell> {
        self.convert(desk, self.pointer)?.ok()?.cell
    }

    /// Moves the pointer by units of the screen: up is up, whichever way y points.
    fn move_pointer(&mut self, desk: &Desk, right: i32, down: i32) {
        let Some(book) = desk.game.book() else {
            return;
        };
        let within = |value: f64| value.clamp(-1e9, 1e9);
        let (right, down) = (f64::from(right), f64::from(down));
        self.pointer = match self.pointer {
            Position::Window(WindowPoint { x, y }) => {
                Position::Window(WindowPoint { x: within(x + right), y: within(y + down) })
            }
            Position::World(WorldPoint { x, y }) => {
                let sign = if book.geometry.y == YAxis::Down { 1.0 } else { -1.0 };
                Position::World(WorldPoint { x: within(x + right), y: within(y + sign * down) })
            }
            other => other,
        };
    }

    fn change_space(&mut self, desk: &mut Desk) {
        if desk.game.book().is_none_or(|book| book.view.is_none()) {
            desk.say("window positions need a `view` in the rulebook");
            return;
        }
        let point = self.world(desk);
        self.pointer = match self.pointer {
            Position::Window(_) => Position::World(point),
            _ => Position::Window(WindowPoint { x: 0.0, y: 0.0 }),
        };
        self.put(desk, point);
        let in_window = matches!(self.pointer, Position::Window(_));
        desk.say(if in_window { "arrows move window positions" } else { "arrows move world pixels" });
    }

    /// Sends the pointer to a typed position; a word about it where that cannot be.
    fn go_to(&mut self, desk: &Desk, text: &str) -> Result<(), String> {
        let text = if text.contains(':') { text.to_owned() } else { format!("px:{text}") };
        let position = parse_position(text.trim()).map_err(|error| error.to_string())?;
        let found = self.convert(desk, position).ok_or("there is no board")?.map_err(|error| error.to_string())?;
        self.pointer = match (position, found.world) {
            (Position::Window(_), _) => position,
            (_, Some(world)) => Position::World(world),
            (_, None) => return Err(format!("`{text}` is outside the flat array")),
        };
        Ok(())
    }
}

/// Where the pointer starts: the middle of the controlled piece's cell, else of the board's first.
fn home(desk: &Desk) -> Position {
    let Some(grid) = desk.game.grid() else {
        return Position::World(WorldPoint { x: 0.0, y: 0.0 });
    };
    let cell = desk.focus().unwrap_or(Cell::new(0, 0));
    Position::World(grid.book().geometry.centre(grid.board().extent(), cell))
}

/// The world position of a place within a cell, as the screen shows it.
fn world_of(book: &Rulebook, extent: Extent, cell: Cell, (across, down): (f64, f64)) -> WorldPoint {
    let geometry = &book.geometry;
    let pitch = geometry.pitch();
    let down = if geometry.rows == RowsFrom::Top { down } else { 1.0 - down };
    // Whole pixels, as a mouse reports them.
    let local = ((across * pitch.0).floor(), (down * pitch.1).floor());
    geometry.point_in(extent, cell, local)
}

/// Whether a mistake is about the world alone: one axis or both, without a view.
fn about_world(mishap: Mishap) -> bool {
    !mishap.is_of_view() && !mishap.versions(Target::Column, 0).is_empty()
}
