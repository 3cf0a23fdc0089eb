//! Position over time: one curve a run, cell borders as rules, frames as dots.

use crate::DrawError;
use crate::board::{Layout, Written, draw_cell, laid_out, rims, seen_cells};
use crate::limits::MOST_CELLS;
use crate::palette::{ACCENT, AMBER, COPPER, FAINT, INK, PAPER, PLUM, RULE, Rgb, SLATE, TEXT, WRONG, mix};
use crate::sheet::{Anchor, Drawing, Sheet, Type};
use magpie_core::board::Board;
use magpie_core::pace::{FrameState, TrackRun};
use magpie_core::rulebook::Rulebook;
use magpie_core::space::exact::nearest;
use magpie_core::space::show;
use magpie_core::space::{Heading, WorldPoint};
use plotters::coord::ranged1d::{DefaultFormatting, KeyPointHint};
use plotters::coord::types::RangedCoordf64;
use plotters::prelude::*;
use plotters_svg::SVGBackend;
use std::ops::Range;

const MARGIN: f64 = 30.0;
const TOP: f64 = 76.0;
const LEFT: f64 = 86.0;
const WIDTH: f64 = 760.0;
const HEIGHT: f64 = 300.0;
const LINE: f64 = 16.0;
/// Room for the numbers on the rims of a board.
const RIM: f64 = 26.0;
/// Room under the chart for its times.
const AXIS: f64 = 24.0;
/// The chart is drawn in whole units: so many of them are one of the sheet's.
const FINER: f64 = 10.0;
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

/// The values that the chart spans: from 0 ms, and from the lowest place to the highest.
struct Axes {
    time: f64,
    low: f64,
    high: f64,
}

impl Axes {
    /// Where an instant lies on the sheet.
    fn x(&self, t: f64) -> f64 {
        LEFT + t / self.time * WIDTH
    }

    /// The borders of cells, at most about sixty of them.
    fn borders(&self, start: f64, length: f64) -> Vec<f64> {
        const MOST: u32 = 60;
        let step = ((self.high - self.low) / length / f64::from(MOST)).ceil().max(1.0) * length;
        let first = start + length / 2.0;
        let first = first + ((self.low - first) / length).ceil() * length;
        (0..=MOST).map(|at| first + f64::from(at) * step).take_while(|border| *border <= self.high).collect()
    }
}

/// Draws runs into one chart, with what is to be said about them below; free bodies on a board have their way on it beside
/// the chart.
///
/// # Errors
/// [`DrawError::Chart`] where the chart cannot be drawn, [`DrawError::TooLarge`] where the board has more cells than a
/// drawing may have.
pub fn pace(title: &str, curves: &[Curve], ground: Option<(&Rulebook, &Board)>) -> Result<Drawing, DrawError> {
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
    let ground = ground.filter(|_| curves.iter().any(|curve| curve.run.body.is_some()));
    let beside = ground.map(|(book, board)| Beside::of(book, board)).transpose()?;
    let (right, foot) = beside.as_ref().map_or((0.0, 0.0), Beside::room);
    let height = (bottom + notes as f64 * LINE).max(foot) + MARGIN;
    let mut sheet = Sheet::new(title, LEFT + WIDTH + right + MARGIN, height);
    sheet.text((MARGIN, MARGIN + 14.0), Anchor::Start, Type::new(17.0, TEXT).bold(), title);
    let axis = if vertical { "y" } else { "x" };
    let under = format!("{axis} of the piece's middle in px over time in ms; a rule stands at every border of a cell");
    sheet.text((MARGIN, MARGIN + 32.0), Anchor::Start, Type::new(11.0, FAINT), &under);
    let borders = axes.borders(samples().next().map_or(0.0, &place), length);
    let lines: Vec<(&TrackRun, Rgb)> = curves.iter().map(|curve| curve.run).zip(COLOURS.into_iter().cycle()).collect();
    let size = (LEFT + WIDTH + MARGIN, TOP + HEIGHT + AXIS);
    sheet.inlay(FINER, &chart(size, &axes, borders, &lines, vertical)?);
    if let Some(curve) = curves.first() {
        keys(&mut sheet, &axes, curve.run);
    }
    if let Some(beside) = &beside {
        beside.draw(&mut sheet, &lines);
    }
    let mut y = bottom;
    for (number, curve) in curves.iter().enumerate() {
        let colour = COLOURS[number % COLOURS.len()];
        sheet.disc((MARGIN + 6.0, y - 4.0), 5.0, colour);
        let figures = &curve.run.figures;
        let maybe = |number: Option<f64>, unit: &str| number.map_or("none".into(), |n| format!("{} {unit}", show(n)));
        let words = match (figures.caught, figures.slid) {
            (Some(caught), Some(slid)) => format!(
                "{} at {}: {} borders passed, {} on average, caught at {caught} frames, past corners by slack at {slid}",
                curve.run.name,
                curve.label,
                figures.steps,
                maybe(figures.mean_speed.as_ref().map(nearest), "px/s"),
            ),
            _ => format!(
                "{} at {}: {} steps, {} a step, {} on average, {} px beside the cell at the end",
                curve.run.name,
                curve.label,
                figures.steps,
                maybe(figures.ms_per_step.as_ref().map(nearest), "ms"),
                maybe(figures.mean_speed.as_ref().map(nearest), "px/s"),
                show(nearest(&figures.error))
            ),
        };
        sheet.text((MARGIN + 20.0, y), Anchor::Start, Type::new(11.5, TEXT), &words);
        y += LINE;
        sheet.text((MARGIN + 20.0, y), Anchor::Start, Type::new(10.0, FAINT), &curve.run.settings.words());
        y += LINE;
        for note in curve.notes {
            sheet.text((MARGIN + 20.0, y), Anchor::Start, Type::new(11.0, WRONG), note);
            y += LINE;
        }
    }
    Ok(sheet.finish())
}

/// The board on which free bodies went, right of the chart.
struct Beside<'a> {
    book: &'a Rulebook,
    board: &'a Board,
    layout: Layout,
    room: (f64, f64),
}

impl<'a> Beside<'a> {
    fn of(book: &'a Rulebook, board: &'a Board) -> Result<Self, DrawError> {
        let extent = board.extent();
        if extent.cells() > MOST_CELLS {
            return Err(DrawError::TooLarge(extent.cells()));
        }
        let (layout, room) = laid_out(book, extent, (LEFT + WIDTH + 2.0 * MARGIN + RIM, TOP + RIM));
        Ok(Self { book, board, layout, room })
    }

    /// How far it reaches to the right of the chart, and down.
    fn room(&self) -> (f64, f64) {
        (self.room.0 + RIM + MARGIN, TOP + RIM + self.room.1)
    }

    /// Where a place of the world lies on the sheet.
    fn place(&self, (x, y): (f64, f64)) -> (f64, f64) {
        let (across, down) = self.book.geometry.as_seen(self.board.extent(), WorldPoint { x, y });
        let Layout { left, top, pitch, .. } = self.layout;
        (left + across * pitch.0, top + down * pitch.1)
    }

    /// Every body's way in its curve's colour, its box at the end of it, and the corners that caught it.
    fn draw(&self, sheet: &mut Sheet, curves: &[(&TrackRun, Rgb)]) {
        rims(sheet, self.book, self.board, &self.layout);
        for (_, id, rect) in seen_cells(self.book, self.board, &self.layout) {
            draw_cell(sheet, self.book, self.board, id, rect, Written::Nothing);
        }
        let pitch = self.book.geometry.pitch();
        for (run, rgb) in curves {
            let Some(body) = &run.body else { continue };
            for pair in run.samples.windows(2) {
                // A wrap or a leap is no way.
                if (pair[1].x - pair[0].x).abs() <= pitch.0 && (pair[1].y - pair[0].y).abs() <= pitch.1 {
                    let ends = [&pair[0], &pair[1]].map(|sample| self.place((sample.x, sample.y)));
                    sheet.line(ends[0], ends[1], *rgb, 1.6);
                }
            }
            if let Some(last) = run.samples.last() {
                let corner =
                    |x: f64, y: f64| self.place((last.x + x * body.size.0 / 2.0, last.y + y * body.size.1 / 2.0));
                let corners = [corner(-1.0, -1.0), corner(1.0, -1.0), corner(1.0, 1.0), corner(-1.0, 1.0)];
                for (at, from) in corners.iter().enumerate() {
                    sheet.line(*from, corners[(at + 1) % 4], *rgb, 2.0);
                }
            }
            for corner in &body.corners {
                sheet.disc(self.place(corner.at), 4.5, WRONG);
            }
        }
    }
}

/// Places between two, with a rule at every border of a cell.
struct Places {
    all: RangedCoordf64,
    borders: Vec<f64>,
}

impl Ranged for Places {
    type FormatOption = DefaultFormatting;
    type ValueType = f64;

    fn map(&self, place: &f64, limit: (i32, i32)) -> i32 {
        self.all.map(place, limit)
    }

    fn key_points<Hint: KeyPointHint>(&self, _: Hint) -> Vec<f64> {
        self.borders.clone()
    }

    fn range(&self) -> Range<f64> {
        self.all.range()
    }
}

/// Curves over the borders of cells and round times, as an SVG document of its own.
fn chart(
    (width, height): (f64, f64),
    axes: &Axes,
    borders: Vec<f64>,
    curves: &[(&TrackRun, Rgb)],
    vertical: bool,
) -> Result<String, DrawError> {
    let fine = |number: f64| (number * FINER).round();
    let colour = |(r, g, b): Rgb| RGBColor(r, g, b);
    let place = along(vertical);
    let failed = |error: DrawingAreaErrorKind<_>| DrawError::Chart(error.to_string());
    let mut svg = String::new();
    {
        let size = (fine(width) as u32, fine(height) as u32);
        let area = SVGBackend::with_string(&mut svg, size).into_drawing_area();
        let mut chart = ChartBuilder::on(&area)
            .margin_top(fine(TOP))
            .margin_right(fine(MARGIN))
            .set_label_area_size(LabelAreaPosition::Left, fine(LEFT))
            .set_label_area_size(LabelAreaPosition::Bottom, fine(AXIS))
            .build_cartesian_2d(0.0..axes.time, Places { all: (axes.low..axes.high).into(), borders })
            .map_err(failed)?;
        let type_of = ("DejaVu Sans", fine(12.4)).with_color(colour(FAINT));
        chart
            .configure_mesh()
            .disable_x_mesh()
            .bold_line_style(colour(mix(RULE, PAPER, 150)).stroke_width(8))
            .light_line_style(TRANSPARENT)
            .axis_style(colour(RULE).stroke_width(10))
            .x_labels(9)
            .x_label_formatter(&|t| show(*t))
            .y_label_formatter(&|border| show(*border))
            .label_style(type_of)
            .set_all_tick_mark_size(fine(4.0))
            .draw()
            .map_err(failed)?;
        for (run, rgb) in curves {
            let points = || run.samples.iter().map(|sample| (sample.t, place(sample)));
            let line = colour(*rgb).stroke_width(14);
            chart.draw_series(LineSeries::new(points(), line)).map_err(failed)?;
            let arrived = run.samples.iter().filter(|sample| sample.state == FrameState::Arrived);
            let rings =
                arrived.map(|sample| Circle::new((sample.t, place(sample)), fine(3.6), colour(*rgb).stroke_width(12)));
            chart.draw_series(rings).map_err(failed)?;
            if run.samples.len() <= MOST_DOTS {
                let going = run.samples.iter().filter(|sample| sample.state != FrameState::Arrived);
                let dots = going.map(|sample| Circle::new((sample.t, place(sample)), fine(1.7), colour(*rgb).filled()));
                chart.draw_series(dots).map_err(failed)?;
            }
        }
        area.present().map_err(failed)?;
    }
    Ok(svg)
}

/// Presses and releases under the chart.
fn keys(sheet: &mut Sheet, axes: &Axes, run: &TrackRun) {
    const MOST: usize = 60;
    let y = TOP + HEIGHT + 34.0;
    sheet.text((LEFT - 6.0, y + 4.0), Anchor::End, Type::new(10.0, FAINT), "keys");
    for mark in run.keys.iter().take(MOST) {
        let x = axes.x(mark.at);
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
