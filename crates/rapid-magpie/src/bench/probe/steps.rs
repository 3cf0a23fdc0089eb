//! Page seven: a step of so many pixels, a loop over pixels, headings, and the picture's grid.

use super::{Ask, Probe, Prompt};
use crate::desk::Desk;
use crate::desk::board::arrow;
use crate::ui::action::{Action, char};
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use magpie_core::space::measure::{
    self, HeadingNumbers, Loop, Picture, StepAlong, Until, parse_loop, parse_picture, parse_step,
};
use magpie_core::space::{Extent, Geometry, show};

/// What was typed on this page; until then the grid's own numbers stand there.
#[derive(Debug, Default)]
pub struct Steps {
    step: Option<(f64, f64)>,
    over: Option<Loop>,
    picture: Option<Picture>,
    /// The heading with number 0, in eighths from north.
    first: i32,
    counterclockwise: bool,
}

/// The page's own keys.
pub fn actions() -> Vec<Action<Ask>> {
    let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, ask);
    vec![
        ask(&[char('s')], "step", "type a step in pixels", Ask::Prompt(Prompt::Step)),
        ask(&[char('l')], "loop", "type a loop over pixels: start, end, step", Ask::Prompt(Prompt::Loop)),
        ask(&[char('p')], "picture", "type the artwork's cell size and origin", Ask::Prompt(Prompt::Picture)),
        ask(&[char('[')], "", "number 0 one heading back", Ask::Choose(-1)),
        ask(&[char(']')], "number 0", "number 0 one heading on", Ask::Choose(1)),
        ask(&[char('x')], "", "count headings the other way round", Ask::Reverse),
    ]
}

/// All numbers of a line, whatever stands between them.
fn numbers_of(text: &str) -> Vec<&str> {
    text.split(|c: char| !(c.is_ascii_digit() || c == '-' || c == '.')).filter(|word| !word.is_empty()).collect()
}

impl Steps {
    /// Takes a step: as `measure` does, or two numbers.
    pub fn set_step(&mut self, text: &str) -> Result<(), String> {
        let text = match numbers_of(text)[..] {
            [x, y] => format!("{x}x{y}"),
            _ => return Err("write two numbers: pixels along x and y".into()),
        };
        self.step = Some(parse_step(&text).map_err(|error| error.to_string())?);
        Ok(())
    }

    /// Takes a loop: as `measure` does, or three numbers.
    pub fn set_loop(&mut self, text: &str) -> Result<(), String> {
        let numbers = numbers_of(text);
        let text = match numbers[..] {
            [from, to, by] if !text.contains("from") => {
                let until = if by.starts_with('-') { '>' } else { '<' };
                format!("x from {from} to {until} {to} by {by}")
            }
            _ if text.contains("from") => text.to_owned(),
            _ => return Err("write three numbers: start, end, step, or `y from 0 to <= 400 by 60`".into()),
        };
        self.over = Some(parse_loop(&text).map_err(|error| error.to_string())?);
        Ok(())
    }

    /// Takes the artwork's grid: as `measure` does, or four numbers.
    pub fn set_picture(&mut self, text: &str) -> Result<(), String> {
        let text = match numbers_of(text)[..] {
            [w, h, x, y] => format!("{w}x{h}@{x},{y}"),
            _ => return Err("write four numbers: width, height, and x, y of its origin".into()),
        };
        self.picture = Some(parse_picture(&text).map_err(|error| error.to_string())?);
        Ok(())
    }

    /// Turns the numbering of headings.
    pub fn turn(&mut self, by: i32) {
        self.first = (self.first + by).rem_euclid(8);
    }

    /// Counts headings the other way round.
    pub const fn reverse(&mut self) {
        self.counterclockwise = !self.counterclockwise;
    }
}

/// Draws the page.
pub fn render(probe: &Probe, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let Some(grid) = desk.game.grid() else { return };
    let (geometry, extent) = (&grid.book().geometry, grid.board().extent());
    step(&probe.steps, geometry, theme, pen);
    pen.gap();
    over_pixels(&probe.steps, geometry, extent, theme, pen);
    pen.gap();
    headings(&probe.steps, geometry, theme, pen);
    pen.gap();
    picture(&probe.steps, geometry, extent, theme, pen);
}

fn verdict(good: bool, text: &str, theme: Theme, pen: &mut Pen) {
    let (mark, style) = if good { ("  ✓ ", theme.granted()) } else { ("  ✗ ", theme.refused()) };
    pen.wrapped(mark, text, if good { theme.text() } else { style });
}

fn step(steps: &Steps, geometry: &Geometry, theme: Theme, pen: &mut Pen) {
    let (title, step) = match steps.step {
        Some(step) => ("your step", step),
        None => ("a step of one cell; s types yours", geometry.pitch()),
    };
    pen.heading(title);
    for (cells, StepAlong { px, pitch, cells: count, whole, below, above }) in
        ["column", "row"].into_iter().zip(measure::step(geometry, step))
    {
        let plural = if count.abs() == 1.0 { "" } else { "s" };
        let rest = if whole {
            String::new()
        } else {
            format!(": no whole number, {} or {} px would be", show(below), show(above))
        };
        let text = format!("{} px are {} {cells}{plural} of {} px{rest}", show(px), show(count), show(pitch));
        verdict(whole, &text, theme, pen);
    }
}

/// A loop over pixels: the cells it visits, misses and leaves.
fn over_pixels(steps: &Steps, geometry: &Geometry, extent: Extent, theme: Theme, pen: &mut Pen) {
    let (title, over) = match steps.over {
        Some(over) => ("your loop", over),
        None => {
            let (from, pitch) = (geometry.corner_of_first(extent).x, geometry.pitch().0);
            let to = from + f64::from(extent.columns) * pitch;
            (
                "a loop over this board's columns; l types yours",
                Loop { vertical: false, from, until: Until::Less, to, by: pitch },
            )
        }
    };
    let Loop { vertical, from, until, to, by } = over;
    let (axis, cell) = if vertical { ("y", "row") } else { ("x", "column") };
    pen.heading(title);
    let sentence =
        format!("for {axis} = {}; {axis} {} {}; {axis} += {}", show(from), until.symbol(), show(to), show(by));
    let visits = match measure::follow(geometry, extent, &over) {
        Ok(visits) => visits,
        Err(error) => {
            verdict(false, &format!("{sentence}: {error}"), theme, pen);
            return;
        }
    };
    pen.line(&format!("  {sentence}: {} rounds", visits.rounds), theme.text());
    let named = |found: &[usize]| {
        let more = if found.len() > 24 { " ..." } else { "" };
        let shown: Vec<String> = found.iter().take(24).map(usize::to_string).collect();
        format!("{}{more}", shown.join(" "))
    };
    let once = visits.those(|rounds| rounds == 1).len();
    let all = visits.each.len();
    verdict(once == all, &format!("{once} of {all} {cell}s visited once"), theme, pen);
    let missed = visits.those(|rounds| rounds == 0);
    if !missed.is_empty() {
        verdict(false, &format!("{} missed: {}", missed.len(), named(&missed)), theme, pen);
    }
    let twice = visits.those(|rounds| rounds > 1);
    if !twice.is_empty() {
        verdict(false, &format!("{} visited more than once: {}", twice.len(), named(&twice)), theme, pen);
    }
    if visits.outside > 0 {
        verdict(false, &format!("{} rounds off the board", visits.outside), theme, pen);
    }
    if visits.off_corner > 0 {
        verdict(false, &format!("{} rounds not at the corner of a {cell}", visits.off_corner), theme, pen);
    }
}

/// Headings as vectors, angles and numbers.
fn headings(steps: &Steps, geometry: &Geometry, theme: Theme, pen: &mut Pen) {
    pen.heading("headings");
    let titles =
        format!("  {:<13}{:>6}{:>10}{:>8}{:>8}{:>6}{:>6}", "", "cells", "px", "compass", "maths", "of 8", "of 4");
    pen.line(&titles, theme.faint());
    for HeadingNumbers { heading, cells, px, compass, maths, eighth, .. } in measure::headings(geometry) {
        let cells = format!("{},{}", cells.0, cells.1);
        let px = format!("{},{}", show(px.0), show(px.1));
        let from_first = (eighth as i32 - steps.first).rem_euclid(8);
        let number = if steps.counterclockwise { (8 - from_first) % 8 } else { from_first };
        let quarter = if number % 2 == 0 { (number / 2).to_string() } else { String::new() };
        let style = if number == 0 { theme.accent() } else { theme.text() };
        pen.parts(&[
            (&format!("  {} {:<11}", arrow(heading), heading.word()), style),
            (&format!("{cells:>6}{px:>10}"), theme.text()),
            (&format!("{compass:>7}°{maths:>7}°"), theme.faint()),
            (&format!("{number:>6}{quarter:>6}"), style),
        ]);
    }
}

/// The artwork's grid laid over the board's, and the offset between both.
fn picture(steps: &Steps, geometry: &Geometry, extent: Extent, theme: Theme, pen: &mut Pen) {
    let corner = geometry.corner_of_first(extent);
    let (title, picture) = match steps.picture {
        Some(picture) => ("the picture's grid", picture),
        None => (
            "a picture with this board's grid; p types yours",
            Picture { size: geometry.pitch(), origin: (corner.x, corner.y) },
        ),
    };
    pen.heading(title);
    let axes = [("x", "column", extent.columns), ("y", "row", extent.rows)];
    for ((name, cells, count), found) in axes.into_iter().zip(measure::beside(geometry, extent, &picture)) {
        let text = format!("{name}: begins {} px from the board's corner", show(found.offset));
        verdict(found.offset == 0.0, &text, theme, pen);
        let size = show(found.size);
        let text = match found.cell_after {
            None => format!("{name}: its {cells}s are {size} px, as the board's"),
            Some(after) => format!(
                "{name}: its {cells}s are {size} px, the board's {}: {} px off after {count}, one whole {cells} after {}",
                show(found.pitch),
                show(found.at_end),
                show(after)
            ),
        };
        verdict(found.drift == 0.0, &text, theme, pen);
    }
    // One line a scale: where the borders of both fall along the board's first cells.
    let width = pen.width().saturating_sub(12).max(16);
    let (pitch, (w, _), (x, _)) = (geometry.pitch().0, picture.size, picture.origin);
    let span = pitch * 6.0;
    let marks = |size: f64, origin: f64| -> String {
        let border = |at: usize| ((at as f64 / width as f64 * span + corner.x - origin) / size).floor();
        (0..width).map(|at| if at == 0 || border(at) != border(at - 1) { '┃' } else { '─' }).collect()
    };
    pen.parts(&[("  board    ", theme.faint()), (&marks(pitch, corner.x), theme.granted())]);
    pen.parts(&[("  picture  ", theme.faint()), (&marks(w, x), theme.waiting())]);
}
