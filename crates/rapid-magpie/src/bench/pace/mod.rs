//! The Pace bench: what happens between two cells, under the rulebook's pace and under another one beside it.

mod chart;
mod list;
mod live;
mod settings;

pub use live::Live;

use super::tabs::{digits, tabs};
use crate::cli::fmt::replace;
use crate::cli::pace::mover;
use crate::cli::source::load_bytes;
use crate::stage::action::{Action, Message, char, held, key, shift};
use crate::stage::board_view::Ghost;
use crate::stage::pen::Pen;
use crate::stage::state::State;
use crate::stage::theme::Theme;
use crossterm::event::KeyCode;
use magpie_core::pace::{
    AxisOrder, Drive, Frames, Moving, Plan, RunError, Settings, TrackRun, keys_text, notes, parse_keys, run,
    with_key_at,
};
use magpie_core::rulebook::edit::set_pace;
use magpie_core::rulebook::{KindId, Rulebook};
use magpie_core::space::exact::as_written;
use magpie_core::space::{Cell, Heading, WorldPoint};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

/// The pages of the bench.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Page {
    /// The chart, what is wrong, and the settings.
    #[default]
    Chart,
    /// Figures by frame rate, and both settings side by side.
    Figures,
    /// Every frame.
    Frames,
    /// The same sums exactly, in f64 and in f32.
    Sums,
}

impl Page {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Chart, Self::Figures, Self::Frames, Self::Sums];

    const fn title(self) -> &'static str {
        match self {
            Self::Chart => "chart",
            Self::Figures => "figures",
            Self::Frames => "frames",
            Self::Sums => "sums",
        }
    }
}

/// What the keys of this bench ask for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ask {
    /// A page.
    Turn(Page),
    /// The setting above or below.
    Choose(i32),
    /// The chosen setting to another value, numbers by so much.
    Change(i32),
    /// The cursor by so many frames.
    Cursor(i32),
    /// The next frame rate.
    Rate,
    /// The next kind.
    Kind,
    /// The chart closer or wider.
    Zoom(bool),
    /// On an endless track, or on the map.
    Track,
    /// A script of keys is typed.
    Script,
    /// A key goes down at the cursor, or up where it is down.
    Mark(Heading),
    /// The rulebook's settings again.
    Reset,
    /// The changed settings into the file.
    Write,
    /// The arrows walk the piece in real time.
    Live,
}

/// A run with the frames it was made at and what is wrong with it.
#[derive(Debug)]
pub struct Made {
    /// When its frames are, in words.
    pub label: String,
    /// When its frames are.
    pub frames: Frames,
    /// One for each mover.
    pub runs: Vec<TrackRun>,
    /// What is wrong with the first mover's.
    pub notes: Vec<String>,
}

/// What the bench knows besides the game.
#[derive(Debug, Default)]
pub struct Pace {
    /// The page in front.
    pub page: Page,
    kind: usize,
    rate: usize,
    /// Settings other than the rulebook's.
    changed: Option<Settings>,
    script: Option<String>,
    on_map: bool,
    cursor: usize,
    chosen: usize,
    zoom: u32,
    /// Under the rulebook's settings, one for each frame rate.
    made: Vec<Made>,
    /// Under the changed ones.
    other: Vec<Made>,
    wrong: Option<String>,
    /// The line being typed.
    pub typing: Option<tui_input::Input>,
    /// The arrows walk in real time.
    pub live: Option<Live>,
}

/// Frame rates of the bench; the last is a jittered list.
const RATES: [&str; 4] = ["60", "30", "144", "jitter"];
/// Durations of the jittered list, in ms.
const JITTER: &str = "16,17,16,34,16,17,8,25";

fn frames_of(rate: &str) -> Option<Frames> {
    if rate == "jitter" { Frames::list(JITTER).ok() } else { Frames::rate(rate).ok() }
}

/// The bench's own keys.
pub fn actions() -> Vec<Action> {
    let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, Message::Pace(ask));
    let mut all = vec![
        ask(&[key(KeyCode::Up)], "", "the setting above", Ask::Choose(-1)),
        ask(&[key(KeyCode::Down)], "setting", "the setting below", Ask::Choose(1)),
        ask(&[key(KeyCode::Left)], "", "its value before, or a smaller number", Ask::Change(-1)),
        ask(&[key(KeyCode::Right)], "change", "its next value, or a larger number", Ask::Change(1)),
        ask(&[shift(KeyCode::Left), char('H')], "", "a much smaller number", Ask::Change(-10)),
        ask(&[shift(KeyCode::Right), char('L')], "", "a much larger number", Ask::Change(10)),
        ask(&[char('[')], "", "the cursor one frame back", Ask::Cursor(-1)),
        ask(&[char(']')], "frame", "the cursor one frame on", Ask::Cursor(1)),
        ask(&[char('{')], "", "the cursor ten frames back", Ask::Cursor(-10)),
        ask(&[char('}')], "", "the cursor ten frames on", Ask::Cursor(10)),
        ask(&[char('f')], "rate", "the next frame rate", Ask::Rate),
        ask(&[char('s')], "keys", "type keys with their times: 0:right+ 350:right-", Ask::Script),
        ask(
            &[held(KeyCode::Left)],
            "",
            "the key left down at the cursor, or up where it is down",
            Ask::Mark(Heading::West),
        ),
        ask(&[held(KeyCode::Right)], "", "the key right, likewise", Ask::Mark(Heading::East)),
        ask(&[held(KeyCode::Up)], "", "the key up, likewise", Ask::Mark(Heading::North)),
        ask(&[held(KeyCode::Down)], "", "the key down, likewise", Ask::Mark(Heading::South)),
        ask(&[char('t')], "", "on an endless track, or on this map", Ask::Track),
        ask(&[char('k')], "", "the pace of the next kind", Ask::Kind),
        ask(&[char('+'), char('=')], "", "the chart closer", Ask::Zoom(true)),
        ask(&[char('-')], "", "the chart wider", Ask::Zoom(false)),
        ask(&[char('l')], "live", "the arrows walk the piece in real time; Esc ends it", Ask::Live),
        ask(&[char('z')], "", "the rulebook's settings again", Ask::Reset),
        ask(&[char('w')], "write", "write the changed settings into the rulebook", Ask::Write),
    ];
    let helps = Page::ALL.map(|page| match page {
        Page::Chart => "the chart, what is wrong, the settings",
        Page::Figures => "the figures by frame rate",
        Page::Frames => "every frame",
        Page::Sums => "the same sums exactly, in f64 and in f32",
    });
    all.extend(digits(helps, |number| Message::Pace(Ask::Turn(Page::ALL[number]))));
    all
}

/// The kinds that may move: the one that is controlled, those with a pace, then the others that stand on the top layer.
fn kinds(book: &Rulebook) -> Vec<KindId> {
    let mut found: Vec<KindId> = mover(book, None).into_iter().collect();
    for pace in &book.paces {
        found.extend(pace.who.into_iter().flat_map(|who| book.set(who).iter()));
    }
    let top = book.layers.len().saturating_sub(1);
    found.extend(
        (0..book.kinds.len()).filter(|at| usize::from(book.kinds[*at].layer) == top).map(|at| KindId(at as u16)),
    );
    let mut seen = Vec::new();
    found.retain(|kind| {
        !seen.contains(kind) && {
            seen.push(*kind);
            true
        }
    });
    found
}

impl Pace {
    /// The kind that is looked at.
    pub fn kind(&self, book: &Rulebook) -> Option<KindId> {
        let all = kinds(book);
        all.get(self.kind % all.len().max(1)).copied()
    }

    /// The settings in force: the changed ones, else the rulebook's.
    pub fn settings(&self, book: &Rulebook) -> Settings {
        let kind = self.kind(book);
        let own = || kind.map_or_else(Settings::default, |kind| Settings::of_kind(book, kind));
        self.changed.clone().unwrap_or_else(own)
    }

    /// The runs in front: under the changed settings where there are any.
    fn front(&self) -> Option<&Made> {
        let all = if self.changed.is_some() { &self.other } else { &self.made };
        all.get(self.rate)
    }
}

/// Runs everything anew.
pub fn refresh(state: &mut State) {
    let Some(session) = &state.session else { return };
    let book = session.grid().book().clone();
    let Some(kind) = state.pace.kind(&book) else { return };
    let changed = state.pace.changed.clone();
    let own = all_runs(state, &book, kind, None);
    let other = changed.map_or_else(|| Ok(Vec::new()), |settings| all_runs(state, &book, kind, Some(&settings)));
    let pace = &mut state.pace;
    pace.wrong = None;
    match (own, other) {
        (Ok(own), Ok(other)) => (pace.made, pace.other) = (own, other),
        (Err(error), _) | (_, Err(error)) => pace.wrong = Some(error),
    }
    let frames = pace.front().and_then(|made| made.runs.first()).map_or(0, |run| run.samples.len());
    pace.cursor = pace.cursor.min(frames.saturating_sub(1));
}

fn all_runs(state: &mut State, book: &Rulebook, kind: KindId, changed: Option<&Settings>) -> Result<Vec<Made>, String> {
    let keys = match script_of(state, book) {
        Some(text) => Drive::Keys(parse_keys(&text).map_err(|error| error.to_string())?),
        None => Drive::Usual(3),
    };
    let mut movers = crate::cli::pace::movers(book, kind, &keys).map_err(|error| format!("{error:#}"))?;
    if let (Some(settings), Some(first)) = (changed, movers.first_mut()) {
        first.1 = settings.clone();
    }
    let mut all = Vec::new();
    for frames in RATES.iter().filter_map(|rate| frames_of(rate)) {
        let label = crate::cli::pace::frames_words(&frames);
        let plan = Plan { movers: movers.clone(), frames, keys: keys.clone(), until: None };
        let runs = one_run(state, book, &plan)?;
        let told = runs.first().map(|run| notes(run, &plan.frames)).unwrap_or_default();
        let told_others = runs.iter().skip(1).flat_map(|run| {
            let all = notes(run, &plan.frames).into_iter();
            all.map(|note| format!("{}: {note}", run.name))
        });
        let notes = told.into_iter().chain(told_others).collect();
        all.push(Made { label, frames: plan.frames, runs, notes });
    }
    Ok(all)
}

/// Two keys, the second while the first step is under way: what the usual run never shows.
const TWO_KEYS: &str = "0:right+ 80:down+ 420:right- 420:down-";

/// The script that is run: the typed one; without it, for settings that tell with two keys alone, one with two keys.
pub(super) fn script_of(state: &State, book: &Rulebook) -> Option<String> {
    let settings = state.pace.settings(book);
    let tells = settings.moving == Moving::Obeyed || settings.axis == AxisOrder::Diagonal;
    state.pace.script.clone().or_else(|| tells.then(|| TWO_KEYS.to_owned()))
}

fn one_run(state: &mut State, book: &Rulebook, plan: &Plan) -> Result<Vec<TrackRun>, String> {
    let on_map = state.pace.on_map;
    let Some(session) = &mut state.session else { return Ok(Vec::new()) };
    let words = |error: RunError| error.to_string();
    let extent = session.grid().board().extent();
    if !on_map {
        return run(plan, &book.geometry, extent, None).map_err(words);
    }
    // On the map as it stands now; what the run does to it is taken back.
    session.grid_mut().trial(|grid| run(plan, &book.geometry, extent, Some(grid))).map_err(words)
}

/// Does what a key of this bench asks for.
pub fn update(state: &mut State, ask: Ask) {
    match ask {
        Ask::Turn(page) => {
            state.pace.page = page;
            state.scroll = 0;
            return;
        }
        Ask::Choose(by) => {
            let count = settings::ROWS.len() as i32;
            state.pace.chosen = (state.pace.chosen as i32 + by).rem_euclid(count) as usize;
            return;
        }
        Ask::Change(by) => change(state, by),
        Ask::Cursor(by) => {
            let frames = state.pace.front().and_then(|made| made.runs.first()).map_or(0, |run| run.samples.len());
            let cursor = state.pace.cursor.saturating_add_signed(by as isize);
            state.pace.cursor = cursor.min(frames.saturating_sub(1));
            return;
        }
        Ask::Rate => state.pace.rate = (state.pace.rate + 1) % RATES.len(),
        Ask::Kind => {
            state.pace.kind += 1;
            state.pace.changed = None;
        }
        Ask::Zoom(closer) => {
            let zoom = state.pace.zoom;
            state.pace.zoom = if closer { (zoom + 1).min(8) } else { zoom.saturating_sub(1) };
            return;
        }
        Ask::Track => {
            state.pace.on_map = !state.pace.on_map;
            if state.pace.on_map && state.pace.script.is_none() {
                state.pace.script = Some("0:right+ 700:right-".into());
            }
        }
        Ask::Script => {
            let text = state.pace.script.clone().unwrap_or_else(|| "0:right+ 700:right-".into());
            state.pace.typing = Some(tui_input::Input::new(text));
            return;
        }
        Ask::Mark(key) => mark(state, key),
        Ask::Reset => state.pace.changed = None,
        Ask::Write => write(state),
        Ask::Live => live::begin(state),
    }
    refresh(state);
}

/// A key goes down at the cursor, or up where it is down already.
fn mark(state: &mut State, key: Heading) {
    const HOLD: f64 = 200.0;
    let Some(session) = &state.session else { return };
    let run = state.pace.front().and_then(|made| made.runs.first());
    let at = run.and_then(|run| run.samples.get(state.pace.cursor)).map_or(0.0, |sample| sample.t);
    let keys = script_of(state, session.grid().book()).and_then(|text| parse_keys(&text).ok()).unwrap_or_default();
    let new = with_key_at(&keys, key, &as_written(at.round()), &as_written(HOLD));
    state.pace.script = Some(keys_text(&new));
}

fn change(state: &mut State, by: i32) {
    let Some(session) = &state.session else { return };
    let book = session.grid().book();
    let before = state.pace.settings(book);
    let new = settings::changed(&before, settings::ROWS[state.pace.chosen], by);
    let own = state.pace.kind(book).map(|kind| Settings::of_kind(book, kind));
    state.pace.changed = (Some(&new) != own.as_ref()).then_some(new);
}

/// Takes a typed script; an empty one is the usual run.
pub fn typed(state: &mut State, text: &str) {
    let text = text.trim();
    match parse_keys(text) {
        _ if text.is_empty() => state.pace.script = None,
        Ok(_) => state.pace.script = Some(text.to_owned()),
        Err(error) => {
            state.note = Some(error.to_string());
            return;
        }
    }
    state.pace.on_map &= state.pace.script.is_some();
    refresh(state);
}

/// Writes the changed settings into the pace that holds for the kind.
fn write(state: &mut State) {
    let Some(session) = &state.session else { return };
    let book = session.grid().book();
    let (Some(new), Some(kind)) = (&state.pace.changed, state.pace.kind(book)) else {
        state.note = Some("the rulebook has these settings already".into());
        return;
    };
    let own = Settings::of_kind(book, kind);
    let covers = |who: Option<magpie_core::rulebook::SetId>| who.is_some_and(|who| book.set(who).contains(kind));
    let named = book.paces.iter().find(|pace| covers(pace.who));
    let name = match (named, book.paces.iter().any(|pace| pace.who.is_none())) {
        (Some(pace), _) => pace.who.map(|who| book.set(who).name.clone()),
        (None, true) => None,
        (None, false) => Some(book.kind(kind).name.clone()),
    };
    let changes: Vec<(&str, String)> =
        new.clauses().into_iter().zip(own.clauses()).filter(|(new, old)| new != old).map(|(new, _)| new).collect();
    let source = set_pace(&state.source, name.as_deref(), &changes);
    let loaded = load_bytes(&state.path, source.as_bytes());
    if loaded.reading.has_errors() {
        state.note = Some("these settings cannot be written: a number is out of its range".into());
        return;
    }
    match replace(&state.path, source.as_bytes()) {
        Ok(()) => {
            state.pace.changed = None;
            state.reload(loaded);
            state.note = Some(format!("written to {}", state.name));
        }
        Err(error) => state.note = Some(format!("{error:#}")),
    }
}

/// What the board shows between its cells: every mover at the cursor, and the cell it has claimed.
pub fn ghosts(state: &State) -> Vec<Ghost> {
    let Some(session) = &state.session else { return Vec::new() };
    let grid = session.grid();
    let (book, board) = (grid.book(), grid.board());
    if let Some(live) = &state.pace.live {
        return live.ghost().into_iter().collect();
    }
    let Some(made) = state.pace.front() else { return Vec::new() };
    let mut found = Vec::new();
    for run in &made.runs {
        let Some(kind) = book.kind_of_name(&run.name) else { continue };
        let sample = run.samples.get(state.pace.cursor).or(run.samples.last());
        let Some(sample) = sample else { continue };
        let Some(home) = grid.first_cell(kind) else { continue };
        // On a track the way is laid from where the piece stands; on the map the run's own places count.
        let centre = book.geometry.centre(board.extent(), home);
        let (at, claimed) = if state.pace.on_map {
            (WorldPoint { x: sample.x, y: sample.y }, sample.cell)
        } else {
            let start = book.geometry.centre(board.extent(), Cell::new(0, 0));
            let at = WorldPoint { x: centre.x + sample.x - start.x, y: centre.y + sample.y - start.y };
            (at, Cell::new(home.column + sample.cell.column, home.row + sample.cell.row))
        };
        found.push(Ghost { kind, at, claimed: Some(claimed), hides: Some(home) });
    }
    found
}

/// Draws the bench.
pub fn render(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) -> Vec<(Rect, Message)> {
    let front = Page::ALL.iter().position(|page| *page == state.pace.page).unwrap_or(0);
    let turn = |number: usize| Message::Pace(Ask::Turn(Page::ALL[number]));
    let (hits, mut area) = tabs(&Page::ALL.map(Page::title), front, turn, theme, area, buffer);
    if let Some(line) = &state.pace.typing {
        let top = Rect { height: 2.min(area.height), ..area };
        let mut pen = Pen::new(buffer, top, theme, 0);
        pen.parts(&[("keys ", theme.accent()), (line.value(), theme.text()), ("▏", theme.waiting())]);
        pen.line("     MS:KEY+ down, MS:KEY- up, MS:KEY a tap; empty: the usual run", theme.faint());
        area = Rect { y: area.y + 2, height: area.height.saturating_sub(2), ..area };
    }
    let Some(session) = &state.session else { return hits };
    let book = session.grid().book().clone();
    match state.pace.page {
        Page::Chart => chart::render(state, &book, theme, area, buffer),
        page => {
            let mut pen = Pen::new(buffer, area, theme, state.scroll);
            match page {
                Page::Figures => list::figures(state, theme, &mut pen),
                Page::Frames => list::frames(state, theme, &mut pen),
                _ => list::sums(state, theme, &mut pen),
            }
            pen.finish();
        }
    }
    hits
}
