//! Page five: positions with the cells that were expected, and the mistake behind them.

use super::{Ask, Probe, Prompt};
use crate::desk::Desk;
use crate::ui::action::{Action, char};
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crate::words::{counted, explanation_name, explanation_numbers, explanation_says};
use magpie_core::mishap::{Asks, AxisNumbers, Diagnosis, Given, Numbers, Sample, Samples, diagnose, parse_samples};
use magpie_core::space::{Cell, Position, WindowPoint, WorldPoint, show};
use std::fmt::Write as _;

/// Samples with what explains them.
#[derive(Debug)]
struct Explained {
    samples: Samples,
    /// Nothing while there are no samples, or no board.
    diagnosis: Option<Diagnosis>,
}

impl Explained {
    fn new(desk: &Desk, samples: Samples) -> Self {
        let grid = desk.game.grid().filter(|_| !samples.all.is_empty());
        let diagnosis = grid.map(|grid| diagnose(&Given::of(grid.book(), grid.map()), &samples));
        Self { samples, diagnosis }
    }
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
    let Some(read) = desk.look_beside(&name) else {
        let title = "For example, a program that rounds:".to_owned();
        return Some(Example { title, shown: Ok(Explained::new(desk, rounded(desk)?)) });
    };
    let samples = read.and_then(|text| parse_samples(&text).map_err(|error| error.to_string()));
    let shown = samples.map(|samples| Explained::new(desk, samples));
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
        format!("({x}, {y}) -> {column} {row}\n")
    });
    parse_samples(&lines.concat()).ok()
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
        self.own = self.own.take().map(|own| Explained::new(desk, own.samples));
    }

    /// Looks for something to show while the list is empty.
    pub fn begin(&mut self, desk: &Desk) {
        self.example = example(desk);
    }

    /// The samples of the list, where there are some.
    fn list(&self) -> Option<&Explained> {
        self.own.as_ref().filter(|own| !own.samples.all.is_empty())
    }

    fn add(&mut self, desk: &Desk, new: Samples) -> Result<(), String> {
        let samples = match self.own.take() {
            Some(old) if !old.samples.all.is_empty() => {
                if old.samples.asks != new.asks {
                    self.own = Some(old);
                    return Err("these samples are of another sort than those in the list: x takes them out".into());
                }
                let mut samples = old.samples;
                samples.all.extend(new.all);
                samples
            }
            _ => new,
        };
        self.own = Some(Explained::new(desk, samples));
        Ok(())
    }

    /// Adds samples as a program prints them.
    pub fn paste(&mut self, desk: &mut Desk, text: &str) -> Result<(), String> {
        let samples = parse_samples(text).map_err(|error| error.to_string())?;
        let count = samples.all.len();
        self.add(desk, samples)?;
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
        let mut text = String::from(match samples.asks {
            Asks::Cell => "x,y,column,row\n",
            Asks::Index => "x,y,index\n",
            Asks::Centre => "column,row,centre_x,centre_y\n",
        });
        for Sample { input, output, .. } in &samples.all {
            let last = if samples.asks == Asks::Index { String::new() } else { format!(",{}", output.1) };
            // Writing to a String cannot fail.
            let _ = writeln!(text, "{},{},{}{last}", input.0, input.1, output.0);
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
        let (x, y) = match self.pointer {
            Position::Window(WindowPoint { x, y }) => (x, y),
            _ => {
                let WorldPoint { x, y } = self.world(desk);
                (x, y)
            }
        };
        let here = if text.trim().is_empty() {
            let Cell { column, row } = self.cell(desk).ok_or("there is no board")?;
            format!("{column} {row}")
        } else {
            text.to_owned()
        };
        let samples = parse_samples(&format!("{x} {y} -> {here}")).map_err(|error| error.to_string())?;
        self.samples.add(desk, samples)
    }
}

/// What the right formula says of a sample's input, in the space that the first explanation has.
fn right(desk: &Desk, samples: &Samples, sample: &Sample, window: bool) -> Option<(f64, f64)> {
    let (x, y) = sample.input;
    let position = match samples.asks {
        Asks::Centre => Position::Cell(Cell::new(x as i64, y as i64)),
        _ if window => Position::Window(WindowPoint { x, y }),
        _ => Position::World(WorldPoint { x, y }),
    };
    let grid = desk.game.grid()?;
    let book = grid.book();
    let found = book.convert(grid.map(), book.geometry.hotspot, position).ok()?;
    match samples.asks {
        Asks::Cell => found.cell.map(|cell| (cell.column as f64, cell.row as f64)),
        Asks::Index => Some((found.index.map_or(f64::NAN, |index| index as f64), 0.0)),
        Asks::Centre => found.centre.map(|centre| (centre.x, centre.y)),
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
    let Explained { samples, diagnosis } = shown;
    explanations(diagnosis.as_ref(), desk, theme, pen);
    pen.gap();
    pen.heading(&counted(samples.all.len(), "sample"));
    let first = diagnosis.as_ref().and_then(|found| found.explanations.first());
    let window = first.map_or(matches!(probe.pointer, Position::Window(_)), |first| first.window);
    for sample in &samples.all {
        let right = right(desk, samples, sample, window);
        let index = samples.asks == Asks::Index;
        let pair = |(a, b): (f64, f64)| {
            if index { format!("{:>7}", show(a)) } else { format!("{:>5}, {:<5}", show(a), show(b)) }
        };
        let good = right.is_some_and(|(a, b)| {
            (a - sample.output.0).abs() <= sample.slack.0 && (index || (b - sample.output.1).abs() <= sample.slack.1)
        });
        let (mark, style) = if good { ("  ✓ ", theme.granted()) } else { ("  ✗ ", theme.refused()) };
        let at = format!("{:>10}, {:<10}", show(sample.input.0), show(sample.input.1));
        let told =
            if good { String::new() } else { right.map_or(String::new(), |right| format!("right {}", pair(right))) };
        pen.parts(&[(mark, style), (&at, theme.text()), (&pair(sample.output), style), (&told, theme.granted())]);
    }
}

fn explanations(diagnosis: Option<&Diagnosis>, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let (Some(found), Some(extent)) = (diagnosis, desk.game.extent()) else {
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
            pen.wrapped("      ", &explanation_says(explanation), theme.text());
        }
        if explanation.fitted {
            pen.wrapped("      ", &explanation_numbers(explanation, extent), theme.text());
        }
    }
    if let Some((x, y)) = found.next {
        let text = format!("best next sample: {}, {}", show(x), show(y));
        pen.parts(&[("  ? ", theme.accent()), (&text, theme.accent())]);
    }
}
