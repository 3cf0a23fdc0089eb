//! The Probe bench: positions, conversions and wrong formulas, on pages of one subject each.

mod formula;
mod numbers;
mod points;
mod samples;
mod steps;
mod strip;
mod way;

pub use formula::{Counted, Job};
pub use numbers::follow;
pub use points::dragged;

use super::tabs::{digits, tabs};
use crate::cli::convert::convert_on;
use crate::stage::action::{Action, Message, char, key, shift};
use crate::stage::pen::Pen;
use crate::stage::state::State;
use crate::stage::theme::Theme;
use crossterm::event::KeyCode;
use magpie_core::mishap::{Mishap, Target};
use magpie_core::space::{Cell, Conversion, Position, WindowPoint, WorldPoint, YAxis, parse_position};
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
            Self::Formula(target) => (target.word(), "as in your code: floor((x - ox) / pitch)"),
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
#[derive(Clone, Copy, Debug, PartialEq)]
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
}

/// What the bench knows besides the game.
#[derive(Debug)]
pub struct Probe {
    /// The page in front.
    pub page: Page,
    /// Where the pointer stands, as it was put there: in the world or in the window.
    pub pointer: Position,
    /// The line being typed.
    pub typing: Option<(Prompt, tui_input::Input)>,
    /// Where the finger went down, while a drag is looked at.
    pub pressed: Option<WorldPoint>,
    /// Where the mouse button is down.
    pub down: Option<WorldPoint>,
    strip: strip::Strip,
    /// The programmer's own formula.
    pub formula: formula::Formula,
    samples: samples::Taps,
    numbers: numbers::Numbers,
    steps: steps::Steps,
}

impl Default for Probe {
    fn default() -> Self {
        Self {
            page: Page::Way,
            pointer: Position::World(WorldPoint { x: 0.0, y: 0.0 }),
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

/// The bench's own keys, on the page in front.
pub fn actions(page: Page) -> Vec<Action> {
    let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, Message::Probe(ask));
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
    let helps = Page::ALL.map(|page| match page {
        Page::Way => "the way of this position, worked, and the usual wrong formulas",
        Page::Points => "the nine points of the cell, a pass over all cells, a drag",
        Page::Strip => "a strip of pixels: right formula over a wrong one",
        Page::Formula => "your own formula against the right answers",
        Page::Samples => "taps and samples, and the mistake behind them",
        Page::Numbers => "the numbers of the grid, nudged in place",
        Page::Steps => "steps and loops in pixels, headings, the picture's grid",
    });
    all.extend(digits(helps, |number| Message::Probe(Ask::Turn(Page::ALL[number]))));
    all
}

/// Where the pointer starts: the middle of the controlled piece's cell, else of the board's first.
pub fn home(state: &State) -> Position {
    let Some(session) = &state.session else {
        return Position::World(WorldPoint { x: 0.0, y: 0.0 });
    };
    let grid = session.grid();
    let cell = state.focus().unwrap_or(Cell::new(0, 0));
    Position::World(grid.book().geometry.centre(grid.board().extent(), cell))
}

/// Where the pointer stands in the world.
pub fn world(state: &State) -> WorldPoint {
    let view = state.session.as_ref().map(|session| session.grid().book());
    match (state.probe.pointer, view) {
        (Position::World(point), _) => point,
        (Position::Window(point), Some(book)) => match &book.view {
            Some(view) => view.world(book.geometry.y, point),
            None => WorldPoint { x: point.x, y: point.y },
        },
        _ => WorldPoint { x: 0.0, y: 0.0 },
    }
}

/// Puts the pointer to a place of the world, in the space in which it is moved now.
pub fn put(state: &mut State, point: WorldPoint) {
    let in_window = matches!(state.probe.pointer, Position::Window(_));
    let book = state.session.as_ref().map(|session| session.grid().book());
    let view = book.and_then(|book| book.view.as_ref().map(|view| view.window_point(book.geometry.y, point)));
    state.probe.pointer = match view {
        // Whole units, as a window system reports them.
        Some(WindowPoint { x, y }) if in_window => Position::Window(WindowPoint { x: x.floor(), y: y.floor() }),
        _ => Position::World(point),
    };
}

/// The pointer's hotspot: window positions have none.
pub fn hotspot(state: &State) -> (f64, f64) {
    match (state.probe.pointer, &state.session) {
        (Position::World(_), Some(session)) => session.grid().book().geometry.hotspot,
        _ => (0.0, 0.0),
    }
}

/// The cell under the pointer.
pub fn cell(state: &State) -> Option<Cell> {
    convert(state, state.probe.pointer)?.ok()?.cell
}

fn convert(state: &State, position: Position) -> Option<Result<Conversion, magpie_core::space::PositionError>> {
    let grid = state.session.as_ref()?.grid();
    let book = grid.book();
    Some(convert_on(book, grid.map(), book.geometry.hotspot, position))
}

/// Does what a key of this bench asks for.
pub fn update(state: &mut State, ask: Ask) {
    match ask {
        Ask::Turn(page) => {
            state.probe.page = page;
            state.scroll = 0;
        }
        Ask::Move(right, down) => move_pointer(state, right, down),
        Ask::Prompt(prompt) => {
            let line = match prompt {
                Prompt::Formula(target) => state.probe.formula.written(target).to_owned(),
                Prompt::Save | Prompt::Load => samples::file_name(state),
                _ => String::new(),
            };
            state.probe.typing = Some((prompt, tui_input::Input::new(line)));
        }
        Ask::EditFormula => update(state, Ask::Prompt(Prompt::Formula(state.probe.formula.chosen()))),
        Ask::Space => change_space(state),
        Ask::Press => {
            state.probe.pressed = if state.probe.pressed.is_some() { None } else { Some(world(state)) };
        }
        Ask::Axis => state.probe.strip.vertical = !state.probe.strip.vertical,
        Ask::Choose(by) => match state.probe.page {
            Page::Strip => state.probe.strip.choose(by),
            Page::Numbers => numbers::choose(state, by),
            Page::Steps => state.probe.steps.turn(by),
            _ => state.probe.formula.choose(by),
        },
        Ask::Ints => {
            state.probe.formula.ints = !state.probe.formula.ints;
            formula::count(state);
        }
        Ask::Stop => state.probe.formula.stop(),
        Ask::Clear if state.probe.page == Page::Samples => samples::take_out(state),
        Ask::Clear => formula::clear(state),
        Ask::Nudge(by) => numbers::nudge(state, by),
        Ask::Centre => numbers::centre(state),
        Ask::Write => numbers::write(state),
        Ask::TakeBack => numbers::take_back(state),
        Ask::Reverse => state.probe.steps.reverse(),
    }
}

/// Takes a typed line; what is wrong with it stays to be seen.
pub fn typed(state: &mut State, prompt: Prompt, text: &str) {
    let result = match prompt {
        Prompt::Position => go_to(state, text),
        Prompt::Formula(target) => {
            state.probe.formula.write(target, text);
            formula::count(state);
            Ok(())
        }
        Prompt::Expected => samples::expect(state, text),
        Prompt::Sample => samples::paste(state, text),
        Prompt::Load => samples::load(state, text),
        Prompt::Save => samples::save(state, text),
        Prompt::Step => state.probe.steps.set_step(text),
        Prompt::Loop => state.probe.steps.set_loop(text),
        Prompt::Picture => state.probe.steps.set_picture(text),
    };
    if let Err(error) = result {
        state.note = Some(error);
    }
}

/// Takes pasted text that is no typed line: samples, on their page.
pub fn pasted(state: &mut State, text: &str) {
    if state.probe.page == Page::Samples
        && let Err(error) = samples::paste(state, text)
    {
        state.note = Some(error);
    }
}

/// Moves the pointer by units of the screen: up is up, whichever way y points.
fn move_pointer(state: &mut State, right: i32, down: i32) {
    let Some(session) = &state.session else {
        return;
    };
    let within = |value: f64| value.clamp(-1e9, 1e9);
    let (right, down) = (f64::from(right), f64::from(down));
    state.probe.pointer = match state.probe.pointer {
        Position::Window(WindowPoint { x, y }) => {
            Position::Window(WindowPoint { x: within(x + right), y: within(y + down) })
        }
        Position::World(WorldPoint { x, y }) => {
            let sign = if session.grid().book().geometry.y == YAxis::Down { 1.0 } else { -1.0 };
            Position::World(WorldPoint { x: within(x + right), y: within(y + sign * down) })
        }
        other => other,
    };
}

fn change_space(state: &mut State) {
    let has_view = state.session.as_ref().is_some_and(|session| session.grid().book().view.is_some());
    if !has_view {
        state.note = Some("window positions need a `view` in the rulebook".into());
        return;
    }
    let point = world(state);
    state.probe.pointer = match state.probe.pointer {
        Position::Window(_) => Position::World(point),
        _ => Position::Window(WindowPoint { x: 0.0, y: 0.0 }),
    };
    put(state, point);
    let in_window = matches!(state.probe.pointer, Position::Window(_));
    state.note = Some(if in_window { "arrows move window positions" } else { "arrows move world pixels" }.into());
}

/// Sends the pointer to a typed position; a word about it where that cannot be.
fn go_to(state: &mut State, text: &str) -> Result<(), String> {
    let text = if text.contains(':') { text.to_owned() } else { format!("px:{text}") };
    let position = parse_position(text.trim()).map_err(|error| error.to_string())?;
    let found = convert(state, position).ok_or("there is no board")?.map_err(|error| error.to_string())?;
    state.probe.pointer = match (position, found.world) {
        (Position::Window(_), _) => position,
        (_, Some(world)) => Position::World(world),
        (_, None) => return Err(format!("`{text}` is outside the flat array")),
    };
    Ok(())
}

/// Whether a mistake is about the world alone: one axis or both, without a view.
fn about_world(mishap: Mishap) -> bool {
    !mishap.versions(Target::Column, 0).is_empty()
}

/// Draws the bench.
pub fn render(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) -> Vec<(Rect, Message)> {
    let front = Page::ALL.iter().position(|page| *page == state.probe.page).unwrap_or(0);
    let turn = |number: usize| Message::Probe(Ask::Turn(Page::ALL[number]));
    let (hits, area) = tabs(&Page::ALL.map(Page::title), front, turn, theme, area, buffer);
    let mut top = 0;
    if let Some((prompt, line)) = &state.probe.typing {
        let (before, hint) = prompt.words();
        let area = Rect { y: area.y + top, height: 2.min(area.height.saturating_sub(top)), ..area };
        let mut pen = Pen::new(buffer, area, theme, 0);
        let before = if before.ends_with(' ') { before.to_owned() } else { format!("{before} = ") };
        let (left, right) = line.value().split_at(byte_of(line.value(), line.cursor()));
        pen.parts(&[(&before, theme.accent()), (left, theme.text()), ("▏", theme.waiting()), (right, theme.text())]);
        pen.line(&format!("{}{hint}   Enter takes it, Esc does not", " ".repeat(before.len())), theme.faint());
        top += 2;
    }
    let area = Rect { y: area.y + top, height: area.height.saturating_sub(top), ..area };
    let mut pen = Pen::new(buffer, area, theme, state.scroll);
    match state.probe.page {
        Page::Way => way::render(state, theme, &mut pen),
        Page::Points => points::render(state, theme, &mut pen),
        Page::Strip => strip::render(state, theme, &mut pen),
        Page::Formula => formula::render(state, theme, &mut pen),
        Page::Samples => samples::render(state, theme, &mut pen),
        Page::Numbers => numbers::render(state, theme, &mut pen),
        Page::Steps => steps::render(state, theme, &mut pen),
    }
    pen.finish();
    hits
}

/// The byte before a character of a line.
fn byte_of(text: &str, character: usize) -> usize {
    text.char_indices().nth(character).map_or(text.len(), |(at, _)| at)
}
