//! Page five: positions with the cells that were expected, and the mistake behind them.

use super::{Ask, Probe, Prompt};
use crate::desk::Desk;
use crate::ui::action::{Action, char};
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crate::words::{counted, explanation_name, explanation_numbers, explanation_says, position_words};
use magpie_core::mishap::{Asks, AxisNumbers, Diagnosis, Given, Numbers, Sample, Samples, diagnose, parse_samples};
use magpie_core::space::{Cell, Position, WindowPoint, WorldPoint, show};
use std::fmt::Write as _;

/// Samples with what explains them.
#[derive(Debug)]
struct Explained {
    samples: Samples,
    /// Whether all of them are known to be window positions, or world positions; `None` where nobody has said.
    window: Option<bool>,
    /// Nothing while there are no samples, or no board.
    diagnosis: Option<Diagnosis>,
}

impl Explained {
    fn new(desk: &Desk, samples: Samples, window: Option<bool>) -> Self {
        let diagnosis = given(desk, window).filter(|_| !samples.all.is_empty()).map(|given| diagnose(&given, &samples));
        Self { samples, window, diagnosis }
    }
}

/// The grid that samples are held against.
fn given(desk: &Desk, window: Option<bool>) -> Option<Given<'_>> {
    let grid = desk.game.grid()?;
    let window = window.filter(|window| !window || grid.book().view.is_some());
    Some(Given { window, ..Given::of(grid.book(), grid.map()) })
}

/// Reads samples for the board at hand.
fn read(desk: &Desk, text: &str) -> Result<Samples, String> {
    let board = given(desk, None).ok_or("there is no board")?.board();
    parse_samples(text, board, None).map_err(|error| error.to_string())
}

/// What stands on the page while the list is empty.
#[derive(Debug)]
struct Example {
    title: String,
    /// Or why the file that is there cannot be shown.
    shown: Result<Explained, String>,
}

/// The list of samples.
#[derive(Debug, Default)]
pub struct Taps {
    own: Option<Explained>,
    example: Option<Example>,
}

/// The file that `w` offers to write where there is one, else what a program would print that rounds.
fn example(desk: &Desk) -> Option<Example> {
    let name = file_name(desk);
    let Some(found) = desk.look_beside(&name) else {
        let title = "For example, a program that rounds:".to_owned();
        return Some(Example { title, shown: Ok(Explained::new(desk, rounded(desk)?, Some(false))) });
    };
    let samples = found.and_then(|text| read(desk, &text));
    let shown = samples.map(|samples| Explained::new(desk, samples, None));
    Some(Example { title: format!("Beside the rulebook lies `{name}`; f reads it into the list:"), shown })
}

/// Positions on this board with the cells of a program that takes the nearest corner for the corner before.
fn rounded(desk: &Desk) -> Option<Samples> {
    const PLACES: [((f64, f64), (f64, f64)); 4] = [
        ((0.0, 0.75), (0.0, 0.25)),
        ((1.0, 0.25), (1.0, 0.75)),
        ((2.0, 0.75), (1.0, 0.75)),
        ((3.0, 0.25), (2.0, 0.25)),
    ];
    let grid = desk.game.grid()?;
    let geometry = &grid.book().geometry;
    let numbers = Numbers::new(geometry, grid.board().extent(), geometry.hotspot);
    let along = |axis: AxisNumbers, (cell, part): (f64, f64)| {
        let cell = axis.clamped(cell);
        (axis.origin - axis.hotspot + axis.sign * (cell + part) * axis.pitch(), cell + part.round())
    };
    let lines = PLACES.map(|(across, down)| {
        let ((x, column), (y, row)) = (along(numbers.x, across), along(numbers.y, down));
        format!("x {x} y {y} -> column {column} row {row}\n")
    });
    read(desk, &lines.concat()).ok()
}

/// The page's own keys.
pub fn actions() -> Vec<Action<Ask>> {
    let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, ask);
    vec![
        ask(
            &[char('a')],
            "add",
            "add the pointer's position with the cell that was expected",
            Ask::Prompt(Prompt::Expected),
        ),
        ask(
            &[char('p')],
            "type",
            "type a sample as your program prints it; a paste adds many",
            Ask::Prompt(Prompt::Sample),
        ),
        ask(&[char('f')], "file", "read samples from a file", Ask::Prompt(Prompt::Load)),
        ask(&[char('w')], "write", "write the samples to a file", Ask::Prompt(Prompt::Save)),
        ask(&[char('x')], "", "take the last sample out", Ask::Clear),
    ]
}

/// The name that is offered for a file of samples.
pub fn file_name(desk: &Desk) -> String {
    let stem = desk.text.path().file_stem().map(|stem| stem.to_string_lossy().into_owned()).unwrap_or_default();
    format!("{stem}-samples.csv")
}

impl Taps {
    /// Diagnoses anew.
    pub fn refresh(&mut self, desk: &Desk) {
        self.own = self.own.take().map(|own| Explained::new(desk, own.samples, own.window));
    }

    /// Looks for something to show while the list is empty.
    pub fn begin(&mut self, desk: &Desk) {
        self.example = example(desk);
    }

    /// The samples of the list, where there are some.
    fn list(&self) -> Option<&Explained> {
        self.own.as_ref().filter(|own| !own.samples.all.is_empty())
    }

    fn add(&mut self, desk: &Desk, new: Samples, window: Option<bool>) -> Result<(), String> {
        let (samples, window) = match self.own.take() {
            Some(old) if !old.samples.all.is_empty() => {
                if old.samples.asks != new.asks {
                    self.own = Some(old);
                    return Err("these samples are of another sort than those in the list: x takes them out".into());
                }
                let mut samples = old.samples;
                samples.all.extend(new.all);
                (samples, window.filter(|_| window == old.window))
            }
            _ => (new, window),
        };
        self.own = Some(Explained::new(desk, samples, window));
        Ok(())
    }

    /// Adds samples as a program prints them.
    pub fn paste(&mut self, desk: &mut Desk, text: &str) -> Result<(), String> {
        let samples = read(desk, text)?;
        let count = samples.all.len();
        self.add(desk, samples, None)?;
        desk.say(format!("{} added", counted(count, "sample")));
        Ok(())
    }

    /// Reads a file of samples.
    pub fn load(&mut self, desk: &mut Desk, name: &str) -> Result<(), String> {
        let text = desk.read_beside(name)?;
        self.paste(desk, &text)
    }

    /// Writes the samples; a file that is there already stays.
    pub fn save(&self, desk: &mut Desk, name: &str) -> Result<(), String> {
        let Some(Explained { samples, .. }) = &self.own else {
            return Err("there are no samples yet".into());
        };
        let mut text = samples.asks.header() + "\n";
        for Sample { input, output, .. } in &samples.all {
            let second = if samples.asks == Asks::CellOfIndex { String::new() } else { format!(",{}", input.1) };
            let last = if samples.asks.is_index() { String::new() } else { format!(",{}", output.1) };
            // Writing to a String cannot fail.
            let _ = writeln!(text, "{}{second},{}{last}", input.0, output.0);
        }
        let path = desk.write_beside(name, &text)?;
        desk.say(format!("{} written to `{}`", counted(samples.all.len(), "sample"), path.display()));
        Ok(())
    }

    /// Takes the last sample out.
    pub fn take_out(&mut self, desk: &Desk) {
        if let Some(own) = &mut self.own {
            own.samples.all.pop();
        }
        self.refresh(desk);
    }
}

impl Probe {
    /// Adds the pointer's position with a cell.
    pub(super) fn expect(&mut self, desk: &Desk, text: &str) -> Result<(), String> {
        let (x, y, window) = match self.pointer {
            Position::Window(WindowPoint { x, y }) => (x, y, true),
            _ => {
                let WorldPoint { x, y } = self.world(desk);
                (x, y, false)
            }
        };
        let here = if text.trim().is_empty() {
            let Cell { column, row } = self.cell(desk).ok_or("there is no board")?;
            format!("{column} {row}")
        } else {
            text.to_owned()
        };
        let words: Vec<&str> = here.split_whitespace().collect();
        let said = match words[..] {
            [column, row] => format!("x {x} y {y} column {column} row {row}"),
            [index] => format!("x {x} y {y} index {index}"),
            _ => format!("{x} {y} -> {here}"),
        };
        let samples = read(desk, &said)?;
        self.samples.add(desk, samples, Some(window))
    }
}

/// What the right formula says of a sample's input, in the space that the first explanation has.
fn right(desk: &Desk, samples: &Samples, sample: &Sample, window: bool) -> Option<(f64, f64)> {
    let (x, y) = sample.input;
    let position = match samples.asks {
        Asks::Centre | Asks::IndexOfCell => Position::Cell(Cell::new(x as i64, y as i64)),
        Asks::CellOfIndex => Position::Index(x as i64),
        Asks::Cell | Asks::Index | Asks::Snap if window => Position::Window(WindowPoint { x, y }),
        Asks::Cell | Asks::Index | Asks::Snap => Position::World(WorldPoint { x, y }),
    };
    let grid = desk.game.grid()?;
    let book = grid.book();
    let found = book.convert(grid.map(), book.geometry.hotspot, position).ok()?;
    match samples.asks {
        Asks::Cell | Asks::CellOfIndex => found.cell.map(|cell| (cell.column as f64, cell.row as f64)),
        Asks::Index | Asks::IndexOfCell => Some((found.index.map_or(f64::NAN, |index| index as f64), 0.0)),
        Asks::Centre => found.centre.map(|centre| (centre.x, centre.y)),
        Asks::Snap => found.snap.map(|snap| (snap.centre.x, snap.centre.y)),
    }
}

/// Draws the page.
pub fn render(probe: &Probe, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let taps = &probe.samples;
    let shown = match (taps.list(), &taps.example) {
        (Some(own), _) => own,
        (None, example) => {
            pen.heading("samples");
            pen.wrapped(
                "  ",
                "What did your program say, and where? a adds the pointer's position with the cell your program gave; p \
                 types a line as it was printed, (101.0, 40.0) -> 4 2, and pasted text adds many; f reads a file.",
                theme.faint(),
            );
            let Some(Example { title, shown }) = example else { return };
            pen.gap();
            pen.mute();
            pen.wrapped("  ", title, theme.faint());
            pen.gap();
            match shown {
                Ok(shown) => shown,
                Err(error) => return pen.wrapped("  ✗ ", error, theme.refused()),
            }
        }
    };
    let Explained { samples, diagnosis, window: known } = shown;
    explanations(diagnosis.as_ref(), desk, theme, pen);
    pen.gap();
    pen.heading(&counted(samples.all.len(), "sample"));
    let first = diagnosis.as_ref().and_then(|found| found.explanations.first());
    let pointed = matches!(probe.pointer, Position::Window(_));
    let window = known.unwrap_or_else(|| first.map_or(pointed, |first| first.window));
    for sample in &samples.all {
        let right = right(desk, samples, sample, window);
        let index = samples.asks.is_index();
        let pair = |(a, b): (f64, f64)| {
            if index { format!("{:>7}", show(a)) } else { format!("{:>5}, {:<5}", show(a), show(b)) }
        };
        let good = right.is_some_and(|(a, b)| {
            (a - sample.output.0).abs() <= sample.slack.0 && (index || (b - sample.output.1).abs() <= sample.slack.1)
        });
        let (mark, style) = if good { ("  ✓ ", theme.granted()) } else { ("  ✗ ", theme.refused()) };
        let (first, second) = (show(sample.input.0), show(sample.input.1));
        let at = match samples.asks {
            Asks::CellOfIndex => format!("{first:>10}            "),
            _ => format!("{first:>10}, {second:<10}"),
        };
        let told =
            if good { String::new() } else { right.map_or(String::new(), |right| format!("right {}", pair(right))) };
        pen.parts(&[(mark, style), (&at, theme.text()), (&pair(sample.output), style), (&told, theme.granted())]);
    }
}

fn explanations(diagnosis: Option<&Diagnosis>, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let (Some(found), Some(given)) = (diagnosis, given(desk, None)) else {
        return;
    };
    pen.heading("what explains them all");
    if found.explanations.is_empty() {
        pen.line("  ✗ no mistake of the catalogue, nor two of them together", theme.refused());
    }
    for (number, explanation) in found.explanations.iter().enumerate() {
        let correct = explanation.is_correct();
        let style = if correct { theme.granted() } else { theme.waiting() };
        let mark = if correct { "✓" } else { "✗" };
        pen.parts(&[("  ", theme.text()), (mark, style), (&format!(" {}", explanation_name(explanation)), style)]);
        if number < 3 {
            pen.wrapped("      ", &explanation_says(explanation, &given), theme.text());
        }
        if explanation.fitted {
            pen.wrapped("      ", &explanation_numbers(explanation, given.extent), theme.text());
        }
    }
    if found.is_of_two_spaces() {
        let text = "right for world positions, and the same as a step left out for window positions: add the pointer's \
                    position with a, with v in the space that is meant";
        pen.wrapped("  ? ", text, theme.waiting());
    }
    if let Some(next) = found.next {
        let text = format!("best next sample: {}", position_words(next));
        pen.parts(&[("  ? ", theme.accent()), (&text, theme.accent())]);
    }
}
