//! Page four: the scenarios of the file with their verdict, run again at every change.

use super::{Ask, Bench, Effect, Rules};
use crate::desk::Desk;
use crate::desk::text::Edit;
use crate::ui::Hits;
use crate::ui::pen::{Pen, ellipsis};
use crate::ui::theme::Theme;
use crate::words::plain;
use magpie_core::grid::Ended;
use magpie_core::input::Input;
use magpie_core::rulebook::{Rulebook, Scenario, Scene};
use magpie_core::tape::{Failure, ScenarioReport, Session, run_scenario, scenario_start};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use std::fmt::Write as _;
use std::rc::Rc;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use unicode_width::UnicodeWidthStr;

/// What became of the scenarios so far.
#[derive(Debug, Default)]
pub struct Scenarios {
    /// Those that have been run, in the order of the file.
    reports: Vec<ScenarioReport>,
    chosen: usize,
    /// Which run is the newest; an older one stops.
    newest: Arc<AtomicU64>,
}

/// What a run tells: which run it is, and a scenario of it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Ran {
    run: u64,
    report: ScenarioReport,
}

impl Scenarios {
    /// Runs all scenarios of the rulebook anew, on a thread.
    pub fn run(&mut self, desk: &Desk) -> Effect<Ask> {
        let Some(book) = desk.game.book().cloned() else { return Effect::Nothing };
        let newest = self.newest.clone();
        let run = newest.fetch_add(1, Ordering::Relaxed) + 1;
        self.reports.clear();
        if book.scenarios.is_empty() {
            return Effect::Nothing;
        }
        Effect::Work(Box::new(move |tell| {
            for scenario in &book.scenarios {
                if newest.load(Ordering::Relaxed) != run {
                    return;
                }
                let unplayable = |error: magpie_core::grid::LayoutError| {
                    let failure = Failure { line: scenario.line, message: error.to_string(), ..Failure::default() };
                    ScenarioReport { title: scenario.title.clone(), line: scenario.line, failures: vec![failure] }
                };
                let report = run_scenario(&book, scenario).unwrap_or_else(unplayable);
                tell(Ask::Ran(Ran { run, report }));
            }
        }))
    }

    /// Takes what a run tells; what belongs to an older one is dropped.
    pub fn take(&mut self, ran: Ran) {
        if ran.run == self.newest.load(Ordering::Relaxed) {
            self.reports.push(ran.report);
        }
    }

    /// Another scenario.
    pub fn walk(&mut self, by: i32) {
        self.chosen = self.chosen.saturating_add_signed(by as isize).min(self.reports.len().saturating_sub(1));
    }

    pub const fn choose(&mut self, number: usize) {
        self.chosen = number;
    }
}

/// The inputs of a scenario in order.
fn inputs(scenario: &Scenario) -> impl Iterator<Item = &Input> {
    scenario.scenes.iter().flat_map(|(_, scene)| match scene {
        Scene::Inputs(inputs) => inputs.as_slice(),
        Scene::Expect(_) => &[],
    })
}

impl Rules {
    /// Puts the chosen scenario on the board, to be walked through from its beginning.
    pub(super) fn walk_through(&self, desk: &mut Desk) {
        let Some(book) = desk.game.book().cloned() else { return };
        let Some(scenario) = book.scenarios.get(self.scenarios.chosen) else { return };
        match Session::new(scenario_start(&book, scenario)) {
            Err(error) => desk.say(error.to_string()),
            Ok(mut session) => {
                inputs(scenario).for_each(|input| {
                    session.give(input);
                });
                session.go(0);
                desk.put_on_board(Rules::TITLE, session);
                desk.say(format!(
                    "scenario \"{}\": . walks through it, x goes back to the game",
                    plain(&scenario.title)
                ));
            }
        }
    }

    /// Writes the tape played so far into the text as a new scenario that ends as the game stands now.
    pub(super) fn keep_tape(&mut self, desk: &mut Desk) -> Effect<Ask> {
        if self.editor.is_changed() {
            desk.say("the text has changes that are not saved: Ctrl-s writes them first");
            return Effect::Nothing;
        }
        let Some(session) = desk.game.session.as_ref().filter(|session| session.position() > 0) else {
            desk.say("nothing has been played yet that could be kept");
            return Effect::Nothing;
        };
        if session.start().map.is_ok() {
            desk.say("this is a scenario's own board: x goes back to the game, whose tape can be kept");
            return Effect::Nothing;
        }
        if session.played().iter().any(|entry| entry.input == Input::Next) {
            desk.say("a scenario is played on one map: this tape goes on to another");
            return Effect::Nothing;
        }
        let (title, text) = as_scenario(session);
        let edit: Edit = Rc::new(move |_, source| Some(appended(source, &text)));
        if desk.change(Self::TITLE, edit) {
            self.editor.follow(desk);
            desk.say(format!("kept as the scenario \"{title}\"; U takes back, Ctrl-s writes"));
        }
        Effect::Nothing
    }
}

/// A source with a section behind everything else.
fn appended(source: &str, section: &str) -> String {
    let ends = if source.contains("\r\n") { "\r\n" } else { "\n" };
    let whole = format!("{}\n\n{section}", source.trim_end());
    if ends == "\n" { whole } else { whole.replace("\r\n", "\n").replace('\n', ends) }
}

/// A tape as a scenario of the language: its title and its text, ending in what can be seen now.
fn as_scenario(session: &Session) -> (String, String) {
    let grid = session.grid();
    let book = grid.book();
    let taken = |title: &str| book.scenarios.iter().any(|scenario| scenario.title == title);
    let place = session.start().map.as_ref().err().map_or("", |map| &book.maps[*map].title).to_owned();
    let title = (1..=book.scenarios.len() + 1)
        .map(|number| format!("played on {place}, {number}"))
        .find(|title| !taken(title))
        .unwrap_or_else(|| place.clone());
    let mut text = format!("scenario \"{title}\"\n  map \"{place}\"\n");
    if let Some(seed) = session.start().seed {
        // Writing to a String cannot fail.
        let _ = writeln!(text, "  seed {seed}");
    }
    let all: Vec<String> = session.played().iter().map(|entry| entry.input.to_string()).collect();
    for some in all.chunks(12) {
        let _ = writeln!(text, "  inputs {}", some.join(" "));
    }
    match grid.outcome() {
        Some(Ended::Won) => text.push_str("  expect won\n"),
        Some(Ended::Lost) => text.push_str("  expect lost\n"),
        Some(Ended::NeverSettles) => text.push_str("  expect never settles\n"),
        None => {
            text.push_str("  expect\n");
            for row in grid.picture() {
                let _ = writeln!(text, "    {row}");
            }
        }
    }
    (title, text)
}

/// Draws the page.
pub fn render(scenarios: &Scenarios, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
    let mut hits = Vec::new();
    let mut pen = Pen::new(buffer, area, theme, 0);
    let Some(book) = desk.game.book() else { return hits };
    if book.scenarios.is_empty() {
        pen.heading("no scenarios yet");
        pen.wrapped("  ", "A scenario plays inputs and says what is to come out. k keeps what you have played so far as one: it expects the board as it stands now.", theme.faint());
        return hits;
    }
    let failed = scenarios.reports.iter().filter(|report| !report.failures.is_empty()).count();
    let done = scenarios.reports.len();
    let left =
        if done < book.scenarios.len() { format!(", {} to run", book.scenarios.len() - done) } else { String::new() };
    pen.heading(&format!("{} passed, {failed} failed{left}", done - failed));
    let lines = usize::from(area.height / 2).saturating_sub(2).max(3);
    let first = scenarios.chosen.saturating_sub(lines / 2).min(done.saturating_sub(lines));
    for (number, report) in scenarios.reports.iter().enumerate().skip(first).take(lines) {
        hits.push((Rect { y: area.y + pen.lines(), height: 1, ..area }, Ask::Scenario(number)));
        let (mark, style) =
            if report.failures.is_empty() { ("✓ ", theme.granted()) } else { ("✗ ", theme.refused()) };
        let chosen = if number == scenarios.chosen { ("▸ ", theme.accent()) } else { ("  ", theme.text()) };
        let line = format!("line {}", report.line);
        let title = ellipsis(&plain(&report.title), pen.width().saturating_sub(line.width() + 6));
        pen.with_right(&[chosen, (mark, style), (&title, theme.text())], (&line, theme.faint()));
    }
    pen.gap();
    if let Some(report) = scenarios.reports.get(scenarios.chosen) {
        detail(report, book, theme, &mut pen);
    }
    pen.finish();
    hits
}

/// What the chosen scenario is, and for each failure what was expected beside what was found.
fn detail(report: &ScenarioReport, book: &Rulebook, theme: Theme, pen: &mut Pen) {
    pen.heading(&ellipsis(&plain(&report.title), pen.width().saturating_sub(6)));
    if let Some(scenario) = book.scenarios.iter().find(|scenario| scenario.line == report.line) {
        let words: Vec<String> = inputs(scenario).take(60).map(ToString::to_string).collect();
        let more = if inputs(scenario).nth(60).is_some() { " …" } else { "" };
        pen.wrapped("  inputs  ", &format!("{}{more}", words.join(" ")), theme.text());
    }
    if report.failures.is_empty() {
        pen.parts(&[("  ✓ ", theme.granted()), ("everything came out as expected", theme.text())]);
    }
    for failure in &report.failures {
        let line = format!("  ✗ line {}", failure.line);
        if failure.expected.is_empty() {
            pen.wrapped(&format!("{line}: "), &plain(&failure.message), theme.refused());
            continue;
        }
        pen.line(&line, theme.refused());
        beside(failure, theme, pen);
    }
    pen.gap();
    pen.wrapped(
        "  ",
        "Enter puts it on the board to be walked through, k keeps the tape played so far as a new one.",
        theme.faint(),
    );
}

/// Expected and found beside each other, one below the other where there is no room.
fn beside(failure: &Failure, theme: Theme, pen: &mut Pen) {
    let widest = |lines: &[String]| lines.iter().map(|line| line.width()).max().unwrap_or(0);
    let left = widest(&failure.expected).max("expected".len());
    if 4 + left + 4 + widest(&failure.found).max("found".len()) > pen.width() {
        for (title, lines) in [("expected", &failure.expected), ("found", &failure.found)] {
            pen.line(&format!("    {title}"), theme.faint());
            lines.iter().for_each(|line| pen.wrapped("      ", &plain(line), theme.text()));
        }
        return;
    }
    let row = |at: usize, lines: &[String]| lines.get(at).map_or(String::new(), |line| plain(line));
    pen.parts(&[(&format!("    {:<left$}    found", "expected"), theme.faint())]);
    for at in 0..failure.expected.len().max(failure.found.len()) {
        let (wanted, found) = (row(at, &failure.expected), row(at, &failure.found));
        let style = if wanted == found { theme.text() } else { theme.waiting() };
        let pad = " ".repeat(left - wanted.width() + 4);
        pen.parts(&[("    ", theme.text()), (&wanted, style), (&pad, theme.text()), (&found, style)]);
    }
}
