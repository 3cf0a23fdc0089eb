//! Page seven: a step of so many pixels, a loop over pixels, headings, and the picture's grid.

use super::{Ask, Probe, Prompt};
use crate::desk::Desk;
use crate::desk::board::arrow;
use crate::limits::MOST_LOOP_ROUNDS;
use crate::ui::action::{Action, char};
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use magpie_core::mishap::{AxisNumbers, Numbers};
use magpie_core::space::{Heading, parse_pixels, show};

/// What was typed on this page; until then the grid's own numbers stand there.
#[derive(Debug, Default)]
pub struct Steps {
    step: Option<(f64, f64)>,
    over: Option<[f64; 3]>,
    picture: Option<[f64; 4]>,
    /// The heading with number 0, in eighths from north.
    first: i32,
    counterclockwise: bool,
}

/// The page's own keys.
pub fn actions() -> Vec<Action<Ask>> {
    let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, ask);
    vec![
        ask(&[char('s')], "step", "type a step in pixels", Ask::Prompt(Prompt::Step)),
        ask(&[char('l')], "loop", "type start, end and step of a loop over pixels", Ask::Prompt(Prompt::Loop)),
        ask(&[char('p')], "picture", "type the artwork's cell size and origin", Ask::Prompt(Prompt::Picture)),
        ask(&[char('[')], "", "number 0 one heading back", Ask::Choose(-1)),
        ask(&[char(']')], "number 0", "number 0 one heading on", Ask::Choose(1)),
        ask(&[char('x')], "", "count headings the other way round", Ask::Reverse),
    ]
}

/// All numbers of a line, whatever stands between them.
fn numbers_of<const N: usize>(text: &str, wanted: &str) -> Result<[f64; N], String> {
    let words: Vec<&str> =
        text.split(|c: char| !(c.is_ascii_digit() || c == '-' || c == '.')).filter(|word| !word.is_empty()).collect();
    let found: Vec<f64> =
        words.iter().map(|word| parse_pixels(word)).collect::<Result<_, _>>().map_err(|e| e.to_string())?;
    found.try_into().map_err(|_| format!("write {wanted}"))
}

impl Steps {
    /// Takes a step.
    pub fn set_step(&mut self, text: &str) -> Result<(), String> {
        let [x, y] = numbers_of(text, "two numbers: pixels along x and y")?;
        self.step = Some((x, y));
        Ok(())
    }

    /// Takes a loop.
    pub fn set_loop(&mut self, text: &str) -> Result<(), String> {
        let over: [f64; 3] = numbers_of(text, "three numbers: start, end, step")?;
        if over[2] == 0.0 {
            return Err("a loop with a step of 0 never ends".into());
        }
        self.over = Some(over);
        Ok(())
    }

    /// Takes the artwork's grid.
    pub fn set_picture(&mut self, text: &str) -> Result<(), String> {
        let picture: [f64; 4] = numbers_of(text, "four numbers: width, height, and x, y of its origin")?;
        if picture[0] <= 0.0 || picture[1] <= 0.0 {
            return Err("a cell is larger than 0 px".into());
        }
        self.picture = Some(picture);
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
    let numbers = Numbers::new(&grid.book().geometry, grid.board().extent(), probe.hotspot(desk));
    step(&probe.steps, &numbers, theme, pen);
    pen.gap();
    over_pixels(&probe.steps, numbers.x, theme, pen);
    pen.gap();
    headings(probe, desk, theme, pen);
    pen.gap();
    picture(&probe.steps, &numbers, theme, pen);
}

fn verdict(good: bool, text: &str, theme: Theme, pen: &mut Pen) {
    let (mark, style) = if good { ("  ✓ ", theme.granted()) } else { ("  ✗ ", theme.refused()) };
    pen.wrapped(mark, text, if good { theme.text() } else { style });
}

fn step(steps: &Steps, numbers: &Numbers, theme: Theme, pen: &mut Pen) {
    let (title, (x, y)) = match steps.step {
        Some(step) => ("your step", step),
        None => ("a step of one cell; s types yours", (numbers.x.pitch(), numbers.y.sign * numbers.y.pitch())),
    };
    pen.heading(title);
    for (cells, p, axis) in [("column", x, numbers.x), ("row", y, numbers.y)] {
        let count = axis.sign * p / axis.pitch() + 0.0;
        let whole = count.fract() == 0.0;
        let plural = if count.abs() == 1.0 { "" } else { "s" };
        let rest = if whole {
            String::new()
        } else {
            let (below, above) = (count.floor() * axis.pitch(), count.ceil() * axis.pitch());
            format!(": no whole number, {} or {} px would be", show(axis.sign * below), show(axis.sign * above))
        };
        verdict(
            whole,
            &format!("{} px are {} {cells}{plural} of {} px{rest}", show(p), show(count), show(axis.pitch())),
            theme,
            pen,
        );
    }
}

/// A loop over pixels of x: the cells it visits, misses and leaves.
fn over_pixels(steps: &Steps, axis: AxisNumbers, theme: Theme, pen: &mut Pen) {
    let (title, [start, end, step]) = match steps.over {
        Some(over) => ("your loop over x", over),
        None => {
            let start = axis.origin - axis.hotspot;
            (
                "a loop over this board's columns; l types yours",
                [start, start + f64::from(axis.count) * axis.pitch(), axis.pitch()],
            )
        }
    };
    pen.heading(title);
    let rounds = ((end - start) / step).ceil().max(0.0);
    if rounds > MOST_LOOP_ROUNDS as f64 {
        pen.line(&format!("  {} rounds: at most {MOST_LOOP_ROUNDS} are followed", show(rounds)), theme.waiting());
        return;
    }
    let mut visits = vec![0_u32; axis.count.min(1 << 20) as usize];
    let (mut outside, mut beside) = (0_u32, 0_u32);
    for round in 0..rounds as usize {
        let p = start + round as f64 * step;
        let cell = axis.cell(p);
        match visits.get_mut(cell as usize).filter(|_| cell >= 0.0) {
            Some(count) => *count += 1,
            None => outside += 1,
        }
        let corner = axis.origin + axis.sign * cell * axis.pitch();
        beside += u32::from(p + axis.hotspot != corner);
    }
    let text = format!("for x = {}; x < {}; x += {}: {} rounds", show(start), show(end), show(step), show(rounds));
    pen.line(&format!("  {text}"), theme.text());
    let named = |wanted: &dyn Fn(u32) -> bool| {
        let found: Vec<String> =
            visits.iter().enumerate().filter(|(_, count)| wanted(**count)).map(|(at, _)| at.to_string()).collect();
        let more = if found.len() > 24 { " ..." } else { "" };
        (found.len(), format!("{}{more}", found[..found.len().min(24)].join(" ")))
    };
    let (once, _) = named(&|count| count == 1);
    let (missed, list) = named(&|count| count == 0);
    verdict(once == visits.len(), &format!("{once} of {} columns visited once", visits.len()), theme, pen);
    if missed > 0 {
        verdict(false, &format!("{missed} missed: {list}"), theme, pen);
    }
    let (twice, list) = named(&|count| count > 1);
    if twice > 0 {
        verdict(false, &format!("{twice} visited more than once: {list}"), theme, pen);
    }
    if outside > 0 {
        verdict(false, &format!("{outside} rounds off the board"), theme, pen);
    }
    if beside > 0 {
        verdict(false, &format!("{beside} rounds not at the corner of a column"), theme, pen);
    }
}

/// Headings as vectors, angles and numbers.
fn headings(probe: &Probe, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let Some(book) = desk.game.book() else { return };
    let geometry = &book.geometry;
    let steps = &probe.steps;
    pen.heading("headings");
    let titles =
        format!("  {:<13}{:>6}{:>10}{:>8}{:>8}{:>6}{:>6}", "", "cells", "px", "compass", "maths", "of 8", "of 4");
    pen.line(&titles, theme.faint());
    let pitch = geometry.pitch();
    let down = if geometry.y == magpie_core::space::YAxis::Down { 1.0 } else { -1.0 };
    for (eighth, heading) in Heading::CLOCKWISE.into_iter().enumerate() {
        let (east, south) = heading.screen_step();
        let cells = format!("{east},{}", south * geometry.south());
        let px = format!("{},{}", show(east as f64 * pitch.0), show(south as f64 * pitch.1 * down));
        let from_first = (eighth as i32 - steps.first).rem_euclid(8);
        let number = if steps.counterclockwise { (8 - from_first) % 8 } else { from_first };
        let quarter = if number % 2 == 0 { (number / 2).to_string() } else { String::new() };
        let style = if number == 0 { theme.accent() } else { theme.text() };
        pen.parts(&[
            (&format!("  {} {:<11}", arrow(heading), heading.word()), style),
            (&format!("{cells:>6}{px:>10}"), theme.text()),
            (&format!("{:>7}°{:>7}°", eighth * 45, (90 + 360 - eighth as i64 * 45) % 360), theme.faint()),
            (&format!("{number:>6}{quarter:>6}"), style),
        ]);
    }
}

/// The artwork's grid laid over the board's, and the offset between both.
fn picture(steps: &Steps, numbers: &Numbers, theme: Theme, pen: &mut Pen) {
    let (title, [w, h, x, y]) = match steps.picture {
        Some(picture) => ("the picture's grid", picture),
        None => {
            let (x, y) = (numbers.x, numbers.y);
            ("a picture with this board's grid; p types yours", [x.pitch(), y.pitch(), x.origin, y.origin])
        }
    };
    pen.heading(title);
    for (name, size, origin, axis, cells) in [("x", w, x, numbers.x, "column"), ("y", h, y, numbers.y, "row")] {
        let offset = origin - axis.origin;
        let drift = size - axis.pitch();
        let text = format!("{name}: begins {} px from the board's corner", show(offset));
        verdict(offset == 0.0, &text, theme, pen);
        let far = drift * f64::from(axis.count);
        let text = if drift == 0.0 {
            format!("{name}: its {cells}s are {} px, as the board's", show(size))
        } else {
            format!(
                "{name}: its {cells}s are {} px, the board's {}: {} px off after {}, one whole {cells} after {}",
                show(size),
                show(axis.pitch()),
                show(far),
                axis.count,
                show((axis.pitch() / drift.abs()).ceil())
            )
        };
        verdict(drift == 0.0, &text, theme, pen);
    }
    // One line a scale: where the borders of both fall along the board's first cells.
    let width = pen.width().saturating_sub(12).max(16);
    let span = numbers.x.pitch() * 6.0;
    let marks = |size: f64, origin: f64| -> String {
        let border = |at: usize| ((at as f64 / width as f64 * span + numbers.x.origin - origin) / size).floor();
        (0..width).map(|at| if at == 0 || border(at) != border(at - 1) { '┃' } else { '─' }).collect()
    };
    pen.parts(&[("  board    ", theme.faint()), (&marks(numbers.x.pitch(), numbers.x.origin), theme.granted())]);
    pen.parts(&[("  picture  ", theme.faint()), (&marks(w, x), theme.waiting())]);
}
