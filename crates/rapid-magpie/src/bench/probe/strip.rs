//! Page three: for every pixel along one axis, the column or row it belongs to, the right formula over a wrong one.

use super::{Ask, Probe, about_world};
use crate::desk::Desk;
use crate::limits::LONGEST_STRIP;
use crate::ui::action::{Action, char};
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use magpie_core::formula::{Sampling, sampling};
use magpie_core::mishap::{Given, Mishap, Numbers, Target, Version};
use magpie_core::space::show;

/// Which strip is looked at.
#[derive(Debug, Default)]
pub struct Strip {
    /// Along rows.
    pub vertical: bool,
    chosen: usize,
}

impl Strip {
    /// Another wrong formula.
    pub fn choose(&mut self, by: i32) {
        let count = wrongs().len() as i32;
        self.chosen = (self.chosen as i32 + by).rem_euclid(count) as usize;
    }
}

fn wrongs() -> Vec<Mishap> {
    Mishap::ALL.into_iter().filter(|mishap| about_world(*mishap)).collect()
}

/// The page's own keys.
pub fn actions() -> Vec<Action<Ask>> {
    let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, ask);
    vec![
        ask(&[char('[')], "", "the wrong formula before", Ask::Choose(-1)),
        ask(&[char(']')], "wrong formula", "the next wrong formula", Ask::Choose(1)),
        ask(&[char('x')], "axis", "along columns, or along rows", Ask::Axis),
    ]
}

/// The two formulas along one axis.
struct Line<'a> {
    given: Given<'a>,
    numbers: Numbers,
    sampling: Sampling,
    target: Target,
    version: Version,
    other: f64,
}

impl Line<'_> {
    /// Right and wrong at a sampled position.
    fn at(&self, multiple: i64) -> (f64, f64) {
        let p = self.sampling.at(multiple);
        let vertical = self.target.is_vertical();
        let right = if vertical { self.numbers.y.cell(p) } else { self.numbers.x.cell(p) };
        let (x, y) = if vertical { (self.other, p) } else { (p, self.other) };
        (right, self.version.at_position(self.target, &self.given.at(x, y)))
    }
}

/// Draws the page.
pub fn render(probe: &Probe, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let Some(grid) = desk.game.grid() else { return };
    let strip = &probe.strip;
    let mishap = wrongs()[strip.chosen];
    let given = Given::of_world(&grid.book().geometry, grid.board().extent(), probe.hotspot(desk));
    let numbers = given.numbers();
    let target = if strip.vertical { Target::Row } else { Target::Column };
    let Some(version) = mishap.versions(target, 0).first().copied() else { return };
    let at = probe.world(desk);
    let other = if strip.vertical { at.x } else { at.y };
    let line = Line { given, numbers, sampling: sampling(&given, strip.vertical), target, version, other };
    let axis = if strip.vertical { "y" } else { "x" };
    let cells = target.word();
    pen.heading(&format!(
        "{axis} {} to {}: which {cells}",
        show(line.sampling.at(line.sampling.first)),
        show(line.sampling.at(line.sampling.last))
    ));
    pen.parts(&[("  right over ", theme.faint()), (mishap.id(), theme.waiting())]);
    pen.wrapped("  ", mishap.says(), theme.faint());
    pen.gap();
    overview(&line, theme, pen);
    pen.gap();
    let here = if strip.vertical { at.y } else { at.x };
    close(&line, here, theme, pen);
    pen.gap();
    stretches(&line, axis, theme, pen);
}

/// The whole strip: the cells in two shades, and where the wrong formula differs.
fn overview(line: &Line, theme: Theme, pen: &mut Pen) {
    if line.sampling.count() > LONGEST_STRIP {
        pen.line("  too long to be shown whole", theme.faint());
        return;
    }
    let width = pen.width().saturating_sub(4).max(8);
    let (mut right, mut wrong) = (Vec::new(), Vec::new());
    let count = line.sampling.count();
    for field in 0..width as u64 {
        let begin = line.sampling.first + (field * count / width as u64) as i64;
        let end = line.sampling.first + ((field + 1) * count / width as u64) as i64;
        let all: Vec<(f64, f64)> = (begin..end.max(begin + 1)).map(|at| line.at(at)).collect();
        right.push(shade(all[0].0));
        let differ = all.iter().filter(|(right, wrong)| right != wrong).count();
        wrong.push(match differ {
            0 => '·',
            differ if differ == all.len() => '█',
            _ => '▒',
        });
    }
    pen.parts(&[("  ", theme.text()), (&right.iter().collect::<String>(), theme.granted())]);
    pen.parts(&[("  ", theme.text()), (&wrong.iter().collect::<String>(), theme.refused())]);
    pen.line("  █ differs at every pixel, ▒ at some, · nowhere", theme.faint());
}

/// Neighbouring cells in different shades.
fn shade(cell: f64) -> char {
    if cell.rem_euclid(2.0) < 1.0 { '█' } else { '▓' }
}

/// Every pixel around the pointer, its cell by the right formula and by the wrong one.
fn close(line: &Line, here: f64, theme: Theme, pen: &mut Pen) {
    let width = pen.width().saturating_sub(14).clamp(8, 64) as i64;
    let middle = ((here / line.sampling.unit).round() as i64).clamp(line.sampling.first, line.sampling.last);
    let first =
        (middle - width / 2).clamp(line.sampling.first, (line.sampling.last - width + 1).max(line.sampling.first));
    let shown: Vec<i64> = (first..first + width).filter(|at| *at <= line.sampling.last).collect();
    // The last digit of the cell, a pixel a character; before the first cell and past the last a sign.
    let digit = |cell: f64| {
        if cell < 0.0 {
            '-'
        } else if cell.fract() == 0.0 {
            char::from_digit((cell.min(1e12) as u64 % 10) as u32, 10).unwrap_or('?')
        } else {
            '~'
        }
    };
    let marks: String = shown.iter().map(|at| if *at == middle { '▼' } else { ' ' }).collect();
    let from = format!("{:>9}", show(line.sampling.at(first)));
    pen.parts(&[(&from, theme.faint()), ("  ", theme.text()), (&marks, theme.waiting())]);
    let right: String = shown.iter().map(|at| digit(line.at(*at).0)).collect();
    pen.parts(&[("    right  ", theme.faint()), (&right, theme.granted())]);
    let mut parts: Vec<(String, _)> = vec![("    wrong  ".into(), theme.faint())];
    for at in &shown {
        let (right, wrong) = line.at(*at);
        let style = if right == wrong { theme.faint() } else { theme.refused() };
        match parts.last_mut() {
            Some((text, last)) if *last == style && text.len() < 80 && !text.starts_with("    w") => {
                text.push(digit(wrong))
            }
            _ => parts.push((digit(wrong).to_string(), style)),
        }
    }
    pen.owned(&parts);
    let (right, wrong) = line.at(middle);
    let same = right == wrong;
    let style = if same { theme.granted() } else { theme.refused() };
    let text = format!("at {}: right {}, wrong {}", show(line.sampling.at(middle)), show(right), show(wrong));
    pen.parts(&[("           ", theme.faint()), (&text, style)]);
}

/// The stretches along which the wrong formula differs.
fn stretches(line: &Line, axis: &str, theme: Theme, pen: &mut Pen) {
    const MOST: usize = 200;
    pen.heading("where it differs");
    if line.sampling.count() > LONGEST_STRIP {
        pen.line("  too many pixels to list", theme.faint());
        return;
    }
    let mut found: Vec<(i64, i64, f64, f64)> = Vec::new();
    for at in line.sampling.first..=line.sampling.last {
        let (right, wrong) = line.at(at);
        if right == wrong {
            continue;
        }
        if let Some((_, last, a, b)) = found.last_mut()
            && *last + 1 == at
            && (*a, *b) == (right, wrong)
        {
            *last = at;
        } else if found.len() < MOST {
            found.push((at, at, right, wrong));
        } else {
            break;
        }
    }
    if found.is_empty() {
        pen.parts(&[("  ✓ ", theme.granted()), ("nowhere: on this grid it is as good as the right one", theme.text())]);
    }
    for (first, last, right, wrong) in found {
        let ends = format!("{} … {}", show(line.sampling.at(first)), show(line.sampling.at(last)));
        pen.parts(&[
            (&format!("  {axis} {ends:<22}"), theme.text()),
            (&format!("right {:<6}", show(right)), theme.granted()),
            (&format!("wrong {}", show(wrong)), theme.refused()),
        ]);
    }
}
