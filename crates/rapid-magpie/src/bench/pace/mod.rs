//! The Pace bench: what happens between two cells, under the rulebook's pace and under another one beside it.

mod chart;
mod list;
mod live;
mod settings;
#[cfg(test)]
mod tests;

use super::{Bench, Effect, News, Raw};
use crate::desk::Desk;
use crate::desk::board::Ghost;
use crate::desk::marks::{Mark, Marks, Truth};
use crate::desk::motion::drawn_share;
use crate::ui::Hits;
use crate::ui::action::{Action, char, held, key, shift};
use crate::ui::line::{KEYS, Line, Typed};
use crate::ui::pen::Pen;
use crate::ui::tabs::{digits, tabs};
use crate::ui::theme::Theme;
use crate::words::{HELD, frames_words};
use crossterm::event::{KeyCode, KeyEvent, KeyEventKind};
use live::Live;
use magpie_core::grid::Grid;
use magpie_core::pace::{
    AxisOrder, Drive, Frames, Gaps, Moving, Plan, RunError, Sample, Settings, TrackRun, body_size, gaps, keys_text,
    mover, movers, notes, parse_keys, run, with_key_at,
};
use magpie_core::rulebook::edit::set_pace;
use magpie_core::rulebook::{KindId, Rulebook, SetId};
use magpie_core::space::exact::{as_written, nearest};
use magpie_core::space::{Cell, Heading, WorldPoint};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use std::rc::Rc;

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
    /// Where a body gets on this map, and what is too narrow for it.
    Gaps,
}

impl Page {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Chart, Self::Figures, Self::Frames, Self::Sums, Self::Gaps];

    const fn title(self) -> &'static str {
        match self {
            Self::Chart => "chart",
            Self::Figures => "figures",
            Self::Frames => "frames",
            Self::Sums => "sums",
            Self::Gaps => "gaps",
        }
    }

    /// A sentence for the page of keys.
    const fn help(self) -> &'static str {
        match self {
            Self::Chart => "the chart, what is wrong, the settings",
            Self::Figures => "the figures by frame rate",
            Self::Frames => "every frame",
            Self::Sums => "the same sums exactly, in f64 and in f32",
            Self::Gaps => "where a body gets on this map, and what is too narrow for it",
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
    /// The cursor to the frame nearest to so many ms.
    At(i64),
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
    /// The same at so many ms.
    MarkAt(i64, Heading),
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
    page: Page,
    scroll: usize,
    kind: usize,
    rate: usize,
    /// Settings other than the rulebook's.
    changed: Option<Settings>,
    script: Option<String>,
    /// On the map as it stands, or on an endless track; else where it tells more.
    on_map: Option<bool>,
    /// Where the body gets, while its page is in front.
    gaps: Option<Gaps>,
    cursor: usize,
    chosen: usize,
    zoom: u32,
    /// Under the rulebook's settings, one for each frame rate.
    made: Vec<Made>,
    /// Under the changed ones.
    other: Vec<Made>,
    wrong: Option<String>,
    /// The line being typed.
    typing: Option<Line>,
    /// The arrows walk in real time.
    live: Option<Live>,
    /// Whether the terminal has told a key's release.
    releases_seen: bool,
    /// The bench is in front.
    front: bool,
}

/// Frame rates of the bench; the last is a jittered list.
const RATES: [&str; 4] = ["60", "30", "144", "jitter"];
/// Durations of the jittered list, in ms.
const JITTER: &str = "16,17,16,34,16,17,8,25";

fn frames_of(rate: &str) -> Option<Frames> {
    if rate == "jitter" { Frames::list(JITTER).ok() } else { Frames::rate(rate).ok() }
}

impl Bench for Pace {
    type Ask = Ask;
    const TITLE: &'static str = "Pace";

    fn actions(&self) -> Vec<Action<Ask>> {
        let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, ask);
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
            ask(&[char('U')], "", "the rulebook's settings again", Ask::Reset),
            ask(&[char('w')], "write", "write the changed settings into the rulebook", Ask::Write),
        ];
        all.extend(digits(&Page::ALL, Page::help, Ask::Turn));
        all
    }

    fn ask(&mut self, desk: &mut Desk, ask: Ask) -> Effect<Ask> {
        match ask {
            Ask::Turn(page) => {
                self.page = page;
                self.scroll = 0;
                self.find_gaps(desk);
            }
            Ask::Choose(by) => {
                let Some(book) = desk.game.book() else { return Effect::Nothing };
                let count = settings::rows(&self.settings(book)).len() as i32;
                self.chosen = (self.chosen as i32 + by).rem_euclid(count) as usize;
            }
            Ask::Change(by) => {
                self.change(desk, by);
                self.refresh(desk);
            }
            Ask::Cursor(by) => {
                let frames = self.run_in_front().map_or(0, |run| run.samples.len());
                let cursor = self.cursor.saturating_add_signed(by as isize);
                self.cursor = cursor.min(frames.saturating_sub(1));
            }
            Ask::At(ms) => {
                let samples = self.run_in_front().map_or(&[][..], |run| &run.samples);
                let off = |at: &usize| (samples[*at].t - ms as f64).abs();
                let nearest = (0..samples.len()).min_by(|one, other| off(one).total_cmp(&off(other)));
                self.cursor = nearest.unwrap_or(0);
            }
            Ask::Rate => {
                self.rate = (self.rate + 1) % RATES.len();
                self.refresh(desk);
            }
            Ask::Kind => {
                self.kind += 1;
                self.changed = None;
                self.refresh(desk);
            }
            Ask::Zoom(closer) => self.zoom = if closer { (self.zoom + 1).min(8) } else { self.zoom.saturating_sub(1) },
            Ask::Track => {
                let Some(book) = desk.game.book() else { return Effect::Nothing };
                let on_map = !self.is_on_map(book);
                self.on_map = Some(on_map);
                if on_map && self.script.is_none() {
                    self.script = Some(HELD.into());
                }
                self.refresh(desk);
            }
            Ask::Script => {
                let text = self.script.clone().unwrap_or_else(|| HELD.into());
                let hint = "MS:KEY+ down, MS:KEY- up, MS:KEY a tap; empty: the usual run.";
                self.typing = Some(Line::new("keys ", hint, text));
            }
            Ask::Mark(key) => {
                let at = self.frame_at_cursor().map_or(0.0, |sample| sample.t);
                self.mark(desk, key, at.round() as i64);
            }
            Ask::MarkAt(ms, key) => self.mark(desk, key, ms),
            Ask::Reset => {
                self.changed = None;
                self.refresh(desk);
            }
            Ask::Write => {
                self.write(desk);
                self.refresh(desk);
            }
            Ask::Live => self.begin_walk(desk),
        }
        Effect::Nothing
    }

    fn render(&self, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
        let (mut hits, mut area) = tabs((&Page::ALL, self.page), Page::title, Ask::Turn, theme, area, buffer);
        if let Some(line) = &self.typing {
            area = line.render(theme, area, buffer);
        }
        let Some(book) = desk.game.book() else { return hits };
        match self.page {
            Page::Chart => hits.extend(chart::render(self, book, theme, area, buffer)),
            page => {
                let mut pen = Pen::new(buffer, area, theme, self.scroll);
                match page {
                    Page::Figures => list::figures(self, theme, &mut pen),
                    Page::Frames => list::frames(self, theme, &mut pen),
                    Page::Gaps => list::gaps(self, book, theme, &mut pen),
                    Page::Chart | Page::Sums => list::sums(self, theme, &mut pen),
                }
                pen.finish();
            }
        }
        hits
    }

    fn raw(&mut self, desk: &mut Desk, raw: Raw) -> Option<Effect<Ask>> {
        match (raw, &mut self.typing) {
            (Raw::Key(event), _) if self.live.is_some() => self.walk(event).then_some(Effect::Nothing),
            (Raw::Key(event), Some(line)) if event.kind != KeyEventKind::Release => {
                match line.key(event) {
                    Typed::More => {}
                    Typed::Leave => self.typing = None,
                    Typed::Take => {
                        let text = line.text().trim().to_owned();
                        self.typed(desk, &text);
                    }
                }
                Some(Effect::Nothing)
            }
            (Raw::Paste(text), Some(line)) => {
                line.paste(text);
                Some(Effect::Nothing)
            }
            _ => None,
        }
    }

    fn typing(&self) -> &'static [(&'static str, &'static str)] {
        if self.typing.is_some() { KEYS } else { &[] }
    }

    fn news(&mut self, desk: &mut Desk, news: News) -> Effect<Ask> {
        match news {
            News::Entered => {
                self.front = true;
                self.refresh(desk);
            }
            News::Left => {
                self.front = false;
                self.live = None;
            }
            News::Text if self.front => self.refresh(desk),
            News::Text | News::Game => {}
        }
        Effect::Nothing
    }

    fn marks(&self, desk: &Desk) -> Marks {
        let marks = Marks { ghosts: self.ghosts(desk), ..desk.marks() };
        match (&self.gaps, self.page) {
            (Some(gaps), Page::Gaps) => shut_marks(gaps, marks),
            _ => self.way_marks(desk, marks),
        }
    }

    fn scroll(&mut self, lines: i32) {
        self.scroll = self.scroll.saturating_add_signed(lines as isize);
    }

    fn close(&mut self, _desk: &mut Desk) -> bool {
        self.live.take().is_some()
    }

    fn is_live(&self) -> bool {
        self.live.is_some()
    }

    fn tick(&mut self, desk: &mut Desk) {
        let clock = desk.time.clock;
        if let (Some(live), Some(session)) = (&mut self.live, &mut desk.game.session)
            && !live.tick(clock, session)
        {
            self.live = None;
        }
    }

    fn is_unsaved(&self) -> bool {
        self.changed.is_some()
    }
}

/// Two keys, the second while the first step is under way: what the usual run never shows.
const TWO_KEYS: &str = "0:right+ 80:down+ 420:right- 420:down-";

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

/// Cells the body gets into, those that are shut to it, and what is too near to what else.
fn shut_marks(gaps: &Gaps, marks: Marks) -> Marks {
    let reached = gaps.cells.iter().map(|cell| (*cell, Truth::Reached));
    let shut = gaps.shut.iter().map(|cell| (*cell, Truth::Never));
    let between = gaps.gaps.iter().flat_map(|gap| gap.between).map(|cell| (cell, Mark::Refuses));
    Marks { truths: reached.chain(shut).collect(), cells: between.collect(), ..marks }
}

/// Pieces that a run has shoved, on their way at an instant by the pace of their kind.
fn shoved_at(run: &TrackRun, grid: &Grid, t: f64) -> Vec<Ghost> {
    let (book, extent) = (grid.book(), grid.board().extent());
    let mut found: Vec<(Cell, Ghost)> = Vec::new();
    for shoved in run.shoved.iter().filter(|shoved| shoved.t <= t) {
        let [from, to] = [shoved.from, shoved.to].map(|cell| book.geometry.centre(extent, cell));
        let length = (to.x - from.x).abs().max((to.y - from.y).abs());
        let share = drawn_share(&Settings::of_kind(book, shoved.kind), length, t - shoved.t);
        let at = WorldPoint { x: from.x + (to.x - from.x) * share, y: from.y + (to.y - from.y) * share };
        match found.iter_mut().find(|(cell, ghost)| *cell == shoved.from && ghost.kind == shoved.kind) {
            // It goes on from where it has been shoved to before.
            Some((cell, ghost)) => (*cell, ghost.at) = (shoved.to, at),
            None => {
                let ghost = Ghost { kind: shoved.kind, at, size: None, claimed: None, hides: Some(shoved.from) };
                found.push((shoved.to, ghost));
            }
        }
    }
    found.into_iter().map(|(_, ghost)| ghost).collect()
}

impl Pace {
    /// Whether what is run is run on the map: a body that nothing blocks shows nothing.
    fn is_on_map(&self, book: &Rulebook) -> bool {
        self.on_map.unwrap_or_else(|| self.settings(book).is_free())
    }

    /// Where the body of the settings gets on the map as it stands, while its page is in front.
    fn find_gaps(&mut self, desk: &mut Desk) {
        self.gaps = None;
        let Some(book) = desk.game.book().cloned().filter(|_| self.page == Page::Gaps) else { return };
        let size = body_size(&self.settings(&book), &book.geometry);
        let (Some(session), Some(kind)) = (&mut desk.game.session, self.kind(&book)) else { return };
        self.gaps = session.grid_mut().trial(|grid| {
            let piece = grid.first_piece(kind)?;
            Some(gaps(grid, piece, Some(size)))
        });
    }

    /// The way of a free body up to the cursor, and the corners that caught it until then.
    fn way_marks(&self, desk: &Desk, marks: Marks) -> Marks {
        if !desk.game.book().is_some_and(|book| self.is_on_map(book)) {
            return marks;
        }
        let walked = self.live.as_ref().map(|live| live.walked());
        let (run, until) = match walked {
            Some(walked) => (walked, usize::MAX),
            None => (self.run_in_front(), self.cursor),
        };
        let Some((run, body)) = run.and_then(|run| Some((run, run.body.as_ref()?))) else { return marks };
        let way = run.samples.iter().take(until.saturating_add(1)).map(|at| WorldPoint { x: at.x, y: at.y }).collect();
        let corners = body.corners.iter().filter(|corner| corner.frame <= until as u64);
        let corners = corners.map(|corner| WorldPoint { x: corner.at.0, y: corner.at.1 }).collect();
        Marks { way, corners, ..marks }
    }

    /// The kind that is looked at.
    fn kind(&self, book: &Rulebook) -> Option<KindId> {
        let all = kinds(book);
        all.get(self.kind % all.len().max(1)).copied()
    }

    /// The settings in force: the changed ones, else the rulebook's.
    fn settings(&self, book: &Rulebook) -> Settings {
        let kind = self.kind(book);
        let own = || kind.map_or_else(Settings::default, |kind| Settings::of_kind(book, kind));
        self.changed.clone().unwrap_or_else(own)
    }

    /// The runs in front: under the changed settings where there are any.
    fn shown(&self) -> Option<&Made> {
        let all = if self.changed.is_some() { &self.other } else { &self.made };
        all.get(self.rate)
    }

    /// The first mover's run of them.
    fn run_in_front(&self) -> Option<&TrackRun> {
        self.shown()?.runs.first()
    }

    /// The frame of it at which the cursor stands.
    fn frame_at_cursor(&self) -> Option<&Sample> {
        self.run_in_front()?.samples.get(self.cursor)
    }

    /// Runs everything anew.
    fn refresh(&mut self, desk: &mut Desk) {
        let Some(book) = desk.game.book().cloned() else { return };
        let Some(kind) = self.kind(&book) else { return };
        let own = self.all_runs(desk, &book, kind, None);
        let other = match self.changed.clone() {
            Some(settings) => self.all_runs(desk, &book, kind, Some(&settings)),
            None => Ok(Vec::new()),
        };
        self.wrong = None;
        match (own, other) {
            (Ok(own), Ok(other)) => (self.made, self.other) = (own, other),
            (Err(error), _) | (_, Err(error)) => self.wrong = Some(error),
        }
        let frames = self.run_in_front().map_or(0, |run| run.samples.len());
        self.cursor = self.cursor.min(frames.saturating_sub(1));
        self.find_gaps(desk);
    }

    fn all_runs(
        &self,
        desk: &mut Desk,
        book: &Rulebook,
        kind: KindId,
        changed: Option<&Settings>,
    ) -> Result<Vec<Made>, String> {
        let keys = match self.script_of(book) {
            Some(text) => Drive::Keys(parse_keys(&text).map_err(|error| error.to_string())?),
            None => Drive::Usual(3),
        };
        let mut movers = movers(book, kind, &keys).map_err(|error| error.to_string())?;
        if let (Some(settings), Some(first)) = (changed, movers.first_mut()) {
            first.1 = settings.clone();
        }
        let mut all = Vec::new();
        for frames in RATES.iter().filter_map(|rate| frames_of(rate)) {
            let label = frames_words(&frames);
            let plan = Plan { movers: movers.clone(), frames, keys: keys.clone(), until: None };
            let runs = self.one_run(desk, book, &plan)?;
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

    /// The script that is run: the typed one; without it, for settings that tell with two keys alone, one with two keys.
    fn script_of(&self, book: &Rulebook) -> Option<String> {
        let settings = self.settings(book);
        let tells = settings.moving == Moving::Obeyed || settings.axis == AxisOrder::Diagonal;
        let usual = || {
            if tells { Some(TWO_KEYS) } else { self.is_on_map(book).then_some(HELD) }
        };
        self.script.clone().or_else(|| usual().map(str::to_owned))
    }

    fn one_run(&self, desk: &mut Desk, book: &Rulebook, plan: &Plan) -> Result<Vec<TrackRun>, String> {
        let Some(session) = &mut desk.game.session else { return Ok(Vec::new()) };
        let words = |error: RunError| error.to_string();
        let extent = session.grid().board().extent();
        if !self.is_on_map(book) {
            return run(plan, &book.geometry, extent, None).map_err(words);
        }
        // On the map as it stands now; what the run does to it is taken back.
        session.grid_mut().trial(|grid| run(plan, &book.geometry, extent, Some(grid))).map_err(words)
    }

    /// A key goes down at so many ms, or up where it is down already.
    fn mark(&mut self, desk: &mut Desk, key: Heading, ms: i64) {
        const HOLD: f64 = 200.0;
        let Some(book) = desk.game.book() else { return };
        let keys = self.script_of(book).and_then(|text| parse_keys(&text).ok()).unwrap_or_default();
        let new = with_key_at(&keys, key, &as_written(ms as f64), &as_written(HOLD));
        if new.is_empty() {
            desk.say("a run presses at least one key: s types others");
            return;
        }
        self.script = Some(keys_text(&new));
        self.refresh(desk);
    }

    /// The row that is chosen.
    fn row(&self, book: &Rulebook) -> settings::Row {
        let rows = settings::rows(&self.settings(book)).len();
        settings::rows(&self.settings(book))[self.chosen.min(rows - 1)]
    }

    fn change(&mut self, desk: &Desk, by: i32) {
        let Some(book) = desk.game.book() else { return };
        let before = self.settings(book);
        let new = settings::changed(&before, self.row(book), by, book.geometry.size);
        let own = self.kind(book).map(|kind| Settings::of_kind(book, kind));
        self.changed = (Some(&new) != own.as_ref()).then_some(new);
    }

    /// Takes a typed script; an empty one is the usual run, a wrong one stays to be mended.
    fn typed(&mut self, desk: &mut Desk, text: &str) {
        desk.note = None;
        self.script = match parse_keys(text) {
            _ if text.is_empty() => None,
            Ok(_) => Some(text.to_owned()),
            Err(error) => {
                if let Some(line) = &mut self.typing {
                    line.refuse(error.to_string());
                }
                return;
            }
        };
        self.typing = None;
        if self.script.is_none() {
            self.on_map = None;
        }
        self.refresh(desk);
    }

    /// Writes the changed settings into the pace that holds for the kind, and nothing else.
    fn write(&mut self, desk: &mut Desk) {
        let Some(book) = desk.game.book() else { return };
        let (Some(new), Some(kind)) = (&self.changed, self.kind(book)) else {
            desk.say("the rulebook has these settings already");
            return;
        };
        let own = Settings::of_kind(book, kind);
        let covers = |who: Option<SetId>| who.is_some_and(|who| book.set(who).contains(kind));
        let named = book.paces.iter().find(|pace| covers(pace.who));
        let name = match (named, book.paces.iter().any(|pace| pace.who.is_none())) {
            (Some(pace), _) => pace.who.map(|who| book.set(who).name.clone()),
            (None, true) => None,
            (None, false) => Some(book.kind(kind).name.clone()),
        };
        let changes = new.changes_from(&own);
        let edit = Rc::new(move |_: &_, source: &str| Some(set_pace(source, name.as_deref(), &changes)));
        if !desk.change(Self::TITLE, edit) {
            let why = desk.note.take().unwrap_or_default();
            desk.say(format!("these settings cannot be written: {why}"));
        } else if desk.write(Self::TITLE) {
            self.changed = None;
            desk.say(format!("written to {}", desk.text.name()));
        } else {
            // What cannot be written is not left in the text either; the note says why.
            let why = desk.note.take();
            desk.take_back(Self::TITLE);
            desk.note = why;
        }
    }

    /// A key while a piece is walked live: the arrows are its keys, and nobody else is told of a release.
    fn walk(&mut self, event: &KeyEvent) -> bool {
        let Some(live) = &mut self.live else { return false };
        let release = event.kind == KeyEventKind::Release;
        let key = match event.code {
            KeyCode::Left => Heading::West,
            KeyCode::Right => Heading::East,
            KeyCode::Up => Heading::North,
            KeyCode::Down => Heading::South,
            _ => return release,
        };
        self.releases_seen |= release;
        live.key(key, !release, self.releases_seen);
        true
    }

    /// The body in the middle of its cell, as the map stands.
    fn body_at_home(&self, grid: &Grid) -> Option<Ghost> {
        let book = grid.book();
        let kind = self.kind(book)?;
        let home = grid.first_cell(kind)?;
        let at = book.geometry.centre(grid.board().extent(), home);
        let size = body_size(&self.settings(book), &book.geometry).map(|side| nearest(&side));
        Some(Ghost { kind, at, size: Some(size.into()), claimed: None, hides: Some(home) })
    }

    /// What the board shows between its cells: every mover at the cursor, and the cell it has claimed.
    fn ghosts(&self, desk: &Desk) -> Vec<Ghost> {
        let Some(grid) = desk.game.grid() else { return Vec::new() };
        let (book, board) = (grid.book(), grid.board());
        if let Some(live) = &self.live {
            return live.ghost().into_iter().collect();
        }
        if self.page == Page::Gaps {
            return self.body_at_home(grid).into_iter().collect();
        }
        let Some(made) = self.shown() else { return Vec::new() };
        let mut found = Vec::new();
        for run in &made.runs {
            let Some(kind) = book.kind_of_name(&run.name) else { continue };
            let sample = run.samples.get(self.cursor).or(run.samples.last());
            let Some(sample) = sample else { continue };
            let Some(home) = grid.first_cell(kind) else { continue };
            // On a track the way is laid from where the piece stands; on the map the run's own places count.
            let centre = book.geometry.centre(board.extent(), home);
            let (at, claimed) = if self.is_on_map(book) {
                (WorldPoint { x: sample.x, y: sample.y }, sample.cell)
            } else {
                let start = book.geometry.centre(board.extent(), Cell::new(0, 0));
                let at = WorldPoint { x: centre.x + sample.x - start.x, y: centre.y + sample.y - start.y };
                (at, Cell::new(home.column + sample.cell.column, home.row + sample.cell.row))
            };
            let size = run.body.as_ref().map(|body| body.size);
            found.push(Ghost { kind, at, size, claimed: Some(claimed), hides: Some(home) });
            found.extend(shoved_at(run, grid, sample.t));
        }
        found
    }
}
