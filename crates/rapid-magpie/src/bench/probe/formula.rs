//! Page four: the programmer's own expressions, counted against the right answers on a thread.

use super::{Ask, Effect, Probe, Prompt};
use crate::desk::Desk;
use crate::ui::action::{Action, char};
use crate::ui::pen::Pen;
use crate::ui::theme::{Rgb, Theme};
use crate::words::{counted, plain};
use magpie_core::formula::{
    Comparison, Expression, Finding, MissAt, Names, Progress, Tally, compare, parse_expression, sampling, usual,
};
use magpie_core::mishap::{Given, Target};
use magpie_core::space::{Extent, Geometry, YAxis, show};
use ratatui::style::Style;
use ratatui::widgets::{LineGauge, Widget};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

/// The expressions and what came out for them.
#[derive(Debug, Default)]
pub struct Formula {
    written: [String; Target::ALL.len()],
    chosen: usize,
    /// The page has been looked at: what stands on it now is the programmer's.
    begun: bool,
    /// Whole numbers: `/` cuts towards zero.
    pub ints: bool,
    /// Expressions that cannot be read, with what is wrong.
    wrong: Vec<(Target, String)>,
    generation: u64,
    progress: Option<Progress>,
    result: Option<Result<Comparison, String>>,
    stop: Arc<AtomicBool>,
}

/// How far counting has come, or what came out.
#[derive(Clone, Debug)]
pub struct Counted {
    generation: u64,
    progress: Option<Progress>,
    result: Option<Result<Comparison, String>>,
}

/// Expressions to be counted; a thread does it.
struct Job {
    generation: u64,
    geometry: Geometry,
    extent: Extent,
    hotspot: (f64, f64),
    expressions: Vec<Expression>,
    map: (usize, usize),
    stop: Arc<AtomicBool>,
}

impl Job {
    /// Counts, telling how far it has come at most twenty times a second; ends early when it is stopped.
    fn run(self, tell: &mut dyn FnMut(Ask)) {
        const PAUSE: Duration = Duration::from_millis(50);
        let Self { generation, geometry, extent, hotspot, expressions, map, stop } = self;
        let mut last = Instant::now();
        let mut progress = |progress: Progress| {
            if last.elapsed() >= PAUSE {
                last = Instant::now();
                tell(Ask::Counted(Counted { generation, progress: Some(progress), result: None }));
            }
            !stop.load(Ordering::Relaxed)
        };
        let result = compare(&Given::of_world(&geometry, extent, hotspot), &expressions, map, &mut progress);
        let result = Some(result.map_err(|limit| limit.to_string()));
        tell(Ask::Counted(Counted { generation, progress: None, result }));
    }
}

impl Formula {
    /// The expression of a function, as it was typed.
    pub fn written(&self, target: Target) -> &str {
        &self.written[place(target)]
    }

    /// Begins the page with the usual right expressions, to be edited; whether it had been empty.
    pub fn begin(&mut self, desk: &Desk) -> bool {
        let Some(book) = desk.game.book() else { return false };
        if std::mem::replace(&mut self.begun, true) {
            return false;
        }
        let mut empty = false;
        for (written, target) in self.written.iter_mut().zip(Target::ALL).filter(|(written, _)| written.is_empty()) {
            *written = usual(target, &book.geometry);
            empty = true;
        }
        empty
    }

    /// Whether a function has the usual expression that the page began with.
    pub fn is_usual(&self, desk: &Desk, target: Target) -> bool {
        desk.game.book().is_some_and(|book| self.written(target) == usual(target, &book.geometry))
    }

    /// Takes an expression.
    pub fn write(&mut self, target: Target, text: &str) {
        self.written[place(target)] = text.trim().into();
        self.chosen = place(target);
    }

    /// The function whose expression is chosen.
    pub const fn chosen(&self) -> Target {
        Target::ALL[self.chosen]
    }

    /// Another function.
    pub fn choose(&mut self, by: i32) {
        self.chosen = (self.chosen as i32 + by).rem_euclid(Target::ALL.len() as i32) as usize;
    }

    /// Ends a count under way.
    pub fn stop(&mut self) {
        self.stop.store(true, Ordering::Relaxed);
    }

    /// Reads the expressions anew and begins to count.
    pub fn count(&mut self, desk: &Desk, hotspot: (f64, f64)) -> Effect<Ask> {
        let Some(grid) = desk.game.grid() else { return Effect::Nothing };
        let (geometry, extent) = (grid.book().geometry.clone(), grid.board().extent());
        let given = Given::of_world(&geometry, extent, hotspot);
        self.stop();
        self.stop = Arc::default();
        self.generation += 1;
        self.wrong.clear();
        self.result = None;
        self.progress = None;
        let written = Target::ALL.into_iter().filter(|target| !self.written(*target).is_empty());
        let written: Vec<Target> = written.collect();
        let names = match Names::of(&given, &[], self.ints) {
            Ok(names) => names,
            Err(error) => {
                self.wrong.extend(written.into_iter().map(|target| (target, error.to_string())));
                return Effect::Nothing;
            }
        };
        let mut expressions = Vec::new();
        for target in written {
            match parse_expression(self.written(target), target, &names) {
                Ok(expression) => expressions.push(expression),
                Err(error) => {
                    let before = &self.written(target)[..error.at.start.min(self.written(target).len())];
                    let column = before.chars().count() + 1;
                    self.wrong.push((target, format!("at character {column}: {}", error.message)));
                }
            }
        }
        if expressions.is_empty() {
            return Effect::Nothing;
        }
        self.progress = Some(Progress { done: 0, all: 1, differ: 0 });
        let (stop, generation) = (self.stop.clone(), self.generation);
        let map = fields(&given);
        let job = Job { generation, geometry, extent, hotspot, expressions, map, stop };
        Effect::Work(Box::new(move |tell| job.run(tell)))
    }

    /// Takes what a thread tells; what belongs to older expressions is dropped.
    pub fn take(&mut self, counted: Counted) {
        if counted.generation != self.generation {
            return;
        }
        self.progress = counted.progress;
        if counted.result.is_some() {
            self.result = counted.result;
        }
    }
}

fn place(target: Target) -> usize {
    Target::ALL.iter().position(|other| *other == target).unwrap_or(0)
}

/// The page's own keys.
pub fn actions() -> Vec<Action<Ask>> {
    let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, ask);
    vec![
        ask(&[char('[')], "", "the function before", Ask::Choose(-1)),
        ask(&[char(']')], "function", "the next function", Ask::Choose(1)),
        ask(&[char('e')], "edit", "type the expression of the chosen function", Ask::EditFormula),
        ask(&[char('c')], "", "type the expression for the column", Ask::Prompt(Prompt::Formula(Target::Column))),
        ask(&[char('i')], "ints", "whole numbers: `/` cuts towards zero", Ask::Ints),
        ask(&[char('x')], "", "empty the chosen expression", Ask::Clear),
        ask(&[char('k')], "", "stop counting", Ask::Stop),
    ]
}

/// The size of the coarse map: fields about as wide as high.
fn fields(given: &Given) -> (usize, usize) {
    const MOST: (f64, f64) = (56.0, 34.0);
    let length = |vertical: bool| {
        let sampling = sampling(given, vertical);
        sampling.count() as f64 * sampling.unit
    };
    let (width, height) = (length(false), length(true));
    let scale = (MOST.0 / width).min(MOST.1 / height);
    (((width * scale) as usize).clamp(4, 56), ((height * scale) as usize).clamp(4, 34))
}

/// Draws the page.
pub fn render(probe: &Probe, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let formula = &probe.formula;
    let ints = if formula.ints { ", whole numbers" } else { "" };
    pen.heading(&format!("your formula against the right answers{ints}"));
    if formula.written.iter().all(String::is_empty) {
        pen.wrapped(
            "  ",
            "e types the expression of the chosen function as it stands in your code: floor((x - ox) / pitch). Every pixel \
             of the board and one cell around it is compared.",
            theme.faint(),
        );
    } else if Target::ALL.into_iter().all(|target| formula.is_usual(desk, target)) {
        pen.wrapped(
            "  ",
            "The usual ones of this grid, for a start: e makes the chosen one your own.",
            theme.waiting(),
        );
    }
    let shown = |target: &Target| *target == formula.chosen() || !formula.written(*target).is_empty();
    for target in Target::ALL.into_iter().filter(shown) {
        line(formula, target, theme, pen);
    }
    let others: Vec<&str> = Target::ALL.into_iter().filter(|target| !shown(target)).map(label).collect();
    let others = if others.is_empty() { String::new() } else { format!(": {}", others.join(", ")) };
    pen.wrapped("  ", &format!("[ ] choose another{others}"), theme.faint());
    if let Some(progress) = formula.progress {
        let share = progress.done as f64 / progress.all.max(1) as f64;
        let gauge = LineGauge::default()
            .ratio(share.clamp(0.0, 1.0))
            .filled_style(theme.waiting())
            .unfilled_style(theme.rule())
            .label(format!("  counting: {:.0} %", share * 100.0));
        pen.widget(1, |room, buffer| gauge.render(room, buffer));
        let text = format!("  of {}, {} differ   k stops", progress.all, progress.differ);
        pen.line(&text, theme.waiting());
        return;
    }
    match &formula.result {
        Some(Ok(found)) => outcome(probe, desk, found, theme, pen),
        Some(Err(limit)) => pen.wrapped("  ✗ ", limit, theme.refused()),
        None => {}
    }
}

const fn label(target: Target) -> &'static str {
    match target {
        Target::CentreX => "x of centre",
        Target::CentreY => "y of centre",
        Target::SnapX => "x snapped",
        Target::SnapY => "y snapped",
        Target::IndexColumn => "column of index",
        Target::IndexRow => "row of index",
        other => other.word(),
    }
}

/// A function, its expression and what came out.
fn line(formula: &Formula, target: Target, theme: Theme, pen: &mut Pen) {
    let chosen = formula.chosen() == target;
    let (mark, name) = if chosen { ("▸ ", theme.accent()) } else { ("  ", theme.faint()) };
    let text = plain(formula.written(target));
    let result = formula.result.as_ref().and_then(|result| result.as_ref().ok());
    let finding = result.and_then(|found| found.findings.iter().find(|finding| finding.target == target));
    let right = finding.is_some_and(|finding| finding.differ == 0);
    let name_of = format!("{:<12}", label(target));
    pen.hanging(
        &[(mark, name), (&name_of, name), (&text, theme.text()), (if right { "  ✓" } else { "" }, theme.granted())],
        14,
    );
    if let Some((_, error)) = formula.wrong.iter().find(|(other, _)| *other == target) {
        pen.wrapped("    ✗ ", error, theme.refused());
    }
    if let Some(finding) = finding.filter(|finding| finding.differ > 0) {
        verdict(finding, theme, pen);
    }
}

fn verdict(finding: &Finding, theme: Theme, pen: &mut Pen) {
    let places = if finding.target.at_positions() { "pixel" } else { "cell" };
    let differ = format!("{} differ", counted(finding.differ as usize, places));
    let name = finding.mishap.map_or("", |mishap| mishap.id());
    let whole = if finding.not_whole > 0 { format!(", {} not whole", finding.not_whole) } else { String::new() };
    pen.parts(&[
        ("    ✗ ", theme.refused()),
        (&format!("{differ}{whole}   "), theme.refused()),
        (name, theme.waiting()),
    ]);
}

/// The chosen function's first differences and its mistake, and where on the board positions differ.
fn outcome(probe: &Probe, desk: &Desk, found: &Comparison, theme: Theme, pen: &mut Pen) {
    let chosen = probe.formula.chosen();
    let worst = || found.findings.iter().find(|finding| finding.differ > 0);
    let of_chosen = found.findings.iter().find(|finding| finding.target == chosen && finding.differ > 0);
    if let Some(finding) = of_chosen.or_else(worst) {
        pen.gap();
        if let Some(mishap) = finding.mishap {
            pen.wrapped("  = ", &format!("{}: {}", mishap.id(), mishap.says()), theme.waiting());
        }
        for miss in finding.first.iter().take(4) {
            let at = match miss.at {
                MissAt::Position(x, y) => format!("px {}, {}", show(x), show(y)),
                MissAt::Cell(column, row) => format!("cell {column}, {row}"),
                MissAt::Index(index) => format!("index {index}"),
            };
            let got = miss.got.map_or("no finite number".into(), show);
            pen.parts(&[
                (&format!("    {at:<20}"), theme.text()),
                (&format!("right {:<10}", show(miss.right)), theme.granted()),
                (&format!("yours {got}"), theme.refused()),
            ]);
        }
    }
    if let Some(sampled) = found.sampled {
        let share = sampled.differ as f64 / sampled.pixels.max(1) as f64 * 100.0;
        pen.gap();
        let every = if sampled.differ == 0 { ": right at every one" } else { "" };
        pen.heading(&format!("{} of {} pixels differ, {share:.1} %{every}", sampled.differ, sampled.pixels));
        map(probe, desk, &found.map, theme, pen);
    }
}

/// Where on the board, and around it, positions differ: two fields a character.
fn map(probe: &Probe, desk: &Desk, tally: &Tally, theme: Theme, pen: &mut Pen) {
    let Some(grid) = desk.game.grid() else { return };
    let (geometry, extent) = (&grid.book().geometry, grid.board().extent());
    let given = Given::of_world(geometry, extent, probe.hotspot(desk));
    let numbers = given.numbers();
    let (across, down) = (sampling(&given, false), sampling(&given, true));
    let (columns, rows) = tally.size;
    let middle =
        |field: usize, fields: usize, count: u64| ((2 * field as u64 + 1) * count / (2 * fields as u64)) as i64;
    // The top of the screen is the smallest y, or with y up the largest.
    let row_of = |line: usize| if geometry.y == YAxis::Down { line } else { rows - 1 - line };
    let field = |column: usize, line: usize| -> Option<(char, Rgb)> {
        let row = (line < rows).then(|| row_of(line))?;
        let at = row * columns + column;
        let (differ, all) = (*tally.differ.get(at)?, *tally.all.get(at)?);
        let x = numbers.x.cell(across.at(across.first + middle(column, columns, across.count())));
        let y = numbers.y.cell(down.at(down.first + middle(row, rows, down.count())));
        let inside = x >= 0.0 && y >= 0.0 && x < f64::from(extent.columns) && y < f64::from(extent.rows);
        Some(match (differ, inside) {
            (0, true) if (x + y).rem_euclid(2.0) < 1.0 => ('+', Theme::dim((220, 216, 203), 70)),
            (0, true) => ('+', Theme::dim((220, 216, 203), 54)),
            (0, false) => ('·', Theme::dim((220, 216, 203), 20)),
            (differ, _) if differ == all => ('█', Theme::refused_rgb()),
            _ => ('▒', Theme::waiting_rgb()),
        })
    };
    for line in (0..rows).step_by(2) {
        let mut parts: Vec<(String, Style)> = vec![("  ".into(), theme.text())];
        for column in 0..columns {
            let (upper, lower) = (field(column, line), field(column, line + 1));
            let (sign, style) = match (theme.has_colour(), upper, lower) {
                (true, Some((_, upper)), Some((_, lower))) => {
                    ('▀', Style::new().fg(theme.colour(upper)).bg(theme.colour(lower)))
                }
                (true, Some((_, upper)), None) => ('▀', theme.text().fg(theme.colour(upper))),
                (_, Some((sign, _)), _) => (sign, theme.text()),
                _ => (' ', theme.text()),
            };
            match parts.last_mut() {
                Some((text, last)) if *last == style => text.push(sign),
                _ => parts.push((sign.to_string(), style)),
            }
        }
        pen.owned(&parts);
    }
    let key = [
        ("  ", theme.text()),
        ("█", theme.refused()),
        (" every pixel differs   ", theme.faint()),
        ("▒", theme.waiting()),
        (" some do   pale: the board", theme.faint()),
    ];
    pen.parts(&key);
}
