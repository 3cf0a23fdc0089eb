//! Position over time: one curve a run, cell borders as rules, frames as dots.

use crate::palette::{ACCENT, AMBER, COPPER, FAINT, INK, PLUM, RULE, Rgb, SLATE, TEXT, WRONG, mix};
use crate::sheet::{Anchor, Drawing, Sheet, Type};
use magpie_core::pace::{FrameState, TrackRun};
use magpie_core::space::Heading;
use magpie_core::space::exact::nearest;
use magpie_core::space::show;

const MARGIN: f64 = 30.0;
const TOP: f64 = 76.0;
const LEFT: f64 = 86.0;
const WIDTH: f64 = 760.0;
const HEIGHT: f64 = 300.0;
const LINE: f64 = 16.0;
/// More frames than these are drawn as a curve without dots.
const MOST_DOTS: usize = 240;

/// A run, what it is called and what is to be said about it.
#[derive(Clone, Copy, Debug)]
pub struct Curve<'a> {
    /// The run.
    pub run: &'a TrackRun,
    /// Its frames, in words.
    pub label: &'a str,
    /// What is wrong with it.
    pub notes: &'a [String],
}

/// The place of a sample along the axis that a run moves along.
fn along(vertical: bool) -> impl Fn(&magpie_core::pace::Sample) -> f64 {
    move |sample| if vertical { sample.y } else { sample.x }
}

struct Axes {
    time: f64,
    low: f64,
    high: f64,
}

impl Axes {
    fn at(&self, t: f64, place: f64) -> (f64, f64) {
        (LEFT + t / self.time * WIDTH, TOP + (self.high - place) / (self.high - self.low) * HEIGHT)
    }
}

/// Draws runs into one chart, with what is to be said about them below.
pub fn pace(title: &str, curves: &[Curve]) -> Drawing {
    const COLOURS: [Rgb; 6] = [ACCENT, COPPER, PLUM, AMBER, SLATE, INK];
    let vertical = curves.first().is_some_and(|curve| curve.run.is_vertical());
    let place = along(vertical);
    let samples = || curves.iter().flat_map(|curve| &curve.run.samples);
    let time = samples().map(|sample| sample.t).fold(1.0, f64::max);
    let (low, high) =
        samples().map(&place).fold((f64::MAX, f64::MIN), |(low, high), place| (low.min(place), high.max(place)));
    let length = curves.first().map_or(1.0, |curve| nearest(&curve.run.length));
    let axes = Axes { time, low: low - length / 2.0, high: high.max(low) + length / 2.0 };
    let notes: usize = curves.iter().map(|curve| 2 + curve.notes.len()).sum();
    let bottom = TOP + HEIGHT + 74.0;
    let mut sheet = Sheet::new(title, LEFT + WIDTH + MARGIN, bottom + notes as f64 * LINE + MARGIN);
    sheet.text((MARGIN, MARGIN + 14.0), Anchor::Start, Type::new(17.0, TEXT).bold(), title);
    let axis = if vertical { "y" } else { "x" };
    let under = format!("{axis} of the piece's middle in px over time in ms; a rule stands at every border of a cell");
    sheet.text((MARGIN, MARGIN + 32.0), Anchor::Start, Type::new(11.0, FAINT), &under);
    rules(&mut sheet, &axes, samples().next().map_or(0.0, &place), length);
    for (number, curve) in curves.iter().enumerate() {
        let colour = COLOURS[number % COLOURS.len()];
        draw_curve(&mut sheet, &axes, curve.run, vertical, colour);
    }
    if let Some(curve) = curves.first() {
        keys(&mut sheet, &axes, curve.run);
    }
    let mut y = bottom;
    for (number, curve) in curves.iter().enumerate() {
        let colour = COLOURS[number % COLOURS.len()];
        sheet.disc((MARGIN + 6.0, y - 4.0), 5.0, colour);
        let figures = &curve.run.figures;
        let maybe = |number: Option<f64>, unit: &str| number.map_or("none".into(), |n| format!("{} {unit}", show(n)));
        let words = format!(
            "{} at {}: {} steps, {} a step, {} on average, {} px beside the cell at the end",
            curve.run.name,
            curve.label,
            figures.steps,
            maybe(figures.ms_per_step.as_ref().map(nearest), "ms"),
            maybe(figures.mean_speed.as_ref().map(nearest), "px/s"),
            show(nearest(&figures.error))
        );
        sheet.text((MARGIN + 20.0, y), Anchor::Start, Type::new(11.5, TEXT), &words);
        y += LINE;
        sheet.text((MARGIN + 20.0, y), Anchor::Start, Type::new(10.0, FAINT), &curve.run.settings.words());
        y += LINE;
        for note in curve.notes {
            sheet.text((MARGIN + 20.0, y), Anchor::Start, Type::new(11.0, WRONG), note);
            y += LINE;
        }
    }
    sheet.finish()
}

/// Borders of cells across, times down.
fn rules(sheet: &mut Sheet, axes: &Axes, start: f64, length: f64) {
    const MOST: f64 = 60.0;
    sheet.frame((LEFT, TOP, WIDTH, HEIGHT), RULE, 1.0);
    let borders = (axes.high - axes.low) / length;
    let step = if borders > MOST { (borders / MOST).ceil() } else { 1.0 };
    let mut border = start + length / 2.0 + ((axes.low - start - length / 2.0) / length).ceil() * length;
    while border <= axes.high {
        let (_, y) = axes.at(0.0, border);
        sheet.line((LEFT, y), (LEFT + WIDTH, y), mix(RULE, crate::palette::PAPER, 150), 0.8);
        sheet.text((LEFT - 6.0, y + 3.5), Anchor::End, Type::new(10.0, FAINT), &show(border));
        border += length * step;
    }
    // Round times, about eight of them.
    let rough = axes.time / 8.0;
    let power = 10f64.powf(rough.log10().floor());
    let step = [1.0, 2.0, 5.0, 10.0].into_iter().map(|by| by * power).find(|step| *step >= rough).unwrap_or(rough);
    let mut t = 0.0;
    while t <= axes.time {
        let (x, _) = axes.at(t, axes.low);
        sheet.line((x, TOP + HEIGHT), (x, TOP + HEIGHT + 4.0), RULE, 1.0);
        sheet.text((x, TOP + HEIGHT + 16.0), Anchor::Middle, Type::new(10.0, FAINT), &show(t));
        t += step;
    }
}

fn draw_curve(sheet: &mut Sheet, axes: &Axes, run: &TrackRun, vertical: bool, colour: Rgb) {
    let place = along(vertical);
    let points: Vec<(f64, f64)> = run.samples.iter().map(|sample| axes.at(sample.t, place(sample))).collect();
    sheet.way(&points, colour, 1.4);
    let dots = points.len() <= MOST_DOTS;
    for (point, sample) in points.iter().zip(&run.samples) {
        if sample.state == FrameState::Arrived {
            sheet.ring(*point, 3.6, colour);
        } else if dots {
            sheet.disc(*point, 1.7, colour);
        }
    }
}

/// Presses and releases under the chart.
fn keys(sheet: &mut Sheet, axes: &Axes, run: &TrackRun) {
    const MOST: usize = 60;
    let y = TOP + HEIGHT + 34.0;
    sheet.text((LEFT - 6.0, y + 4.0), Anchor::End, Type::new(10.0, FAINT), "keys");
    for mark in run.keys.iter().take(MOST) {
        let (x, _) = axes.at(mark.at, axes.low);
        let (up, down) = ((x, y - 5.0), (x, y + 5.0));
        let triangle = if mark.down {
            [(x - 4.0, up.1), (x + 4.0, up.1), down]
        } else {
            [(x - 4.0, down.1), (x + 4.0, down.1), up]
        };
        sheet.shape(&triangle, if mark.down { ACCENT } else { FAINT });
        if mark.down {
            let word = match mark.key {
                Heading::West => "left",
                Heading::East => "right",
                Heading::North => "up",
                _ => "down",
            };
            sheet.text((x, y + 18.0), Anchor::Middle, Type::new(9.0, FAINT), word);
        }
    }
}
