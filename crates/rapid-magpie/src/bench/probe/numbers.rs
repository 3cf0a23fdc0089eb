//! Page six: the numbers of the grid and its view, nudged in place and written back.

use super::{Ask, Bench, Probe};
use crate::desk::Desk;
use crate::desk::text::Edit;
use crate::ui::action::{Action, char, key, shift};
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crossterm::event::KeyCode;
use magpie_core::rulebook::Rulebook;
use magpie_core::rulebook::edit::{GridNumber, centre_origin, set_numbers};
use magpie_core::space::Origin;
use magpie_core::space::show;
use magpie_core::space::whole::{is_centred, middle_of_picture, remarks};
use std::rc::Rc;

/// What was nudged.
#[derive(Debug, Default)]
pub struct Numbers {
    chosen: usize,
}

/// A number on the page: a setting and which of its two.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Line {
    setting: GridNumber,
    second: bool,
}

/// The page's own keys.
pub fn actions() -> Vec<Action<Ask>> {
    let ask = |keys: &[_], label, help, ask| Action::new(keys, label, help, ask);
    vec![
        ask(&[key(KeyCode::Up)], "", "the number above", Ask::Choose(-1)),
        ask(&[key(KeyCode::Down)], "number", "the number below", Ask::Choose(1)),
        ask(&[key(KeyCode::Left)], "", "one less", Ask::Nudge(-1.0)),
        ask(&[key(KeyCode::Right)], "by 1", "one more", Ask::Nudge(1.0)),
        ask(&[shift(KeyCode::Left), char('H')], "", "ten less", Ask::Nudge(-10.0)),
        ask(&[shift(KeyCode::Right), char('L')], "by 10", "ten more", Ask::Nudge(10.0)),
        ask(&[char('[')], "", "a quarter less", Ask::Nudge(-0.25)),
        ask(&[char(']')], "", "a quarter more", Ask::Nudge(0.25)),
        ask(&[char('c')], "centre", "the board's middle into the picture's", Ask::Centre),
        ask(&[char('U')], "take back", "take the last change back", Ask::TakeBack),
        ask(&[char('w')], "write", "write the numbers into the rulebook, and nothing else", Ask::Write),
    ]
}

fn lines(book: &Rulebook) -> Vec<Line> {
    let mut all = Vec::new();
    for setting in GridNumber::ALL {
        if setting.is_of_view() && book.view.is_none() {
            continue;
        }
        all.push(Line { setting, second: false });
        if !setting.is_single() {
            all.push(Line { setting, second: true });
        }
    }
    all
}

/// The numbers of a setting as they are now.
fn pair(book: &Rulebook, setting: GridNumber) -> (f64, f64) {
    let geometry = &book.geometry;
    let view = book.view.as_ref();
    match setting {
        GridNumber::Cell => geometry.size,
        GridNumber::Gap => geometry.gap,
        GridNumber::Origin => match geometry.origin {
            Origin::Corner(point) | Origin::Centre(point) => (point.x, point.y),
        },
        GridNumber::Hotspot => geometry.hotspot,
        GridNumber::Window => view.map_or((0.0, 0.0), |view| view.window),
        GridNumber::Design => view.map_or((0.0, 0.0), |view| view.design),
        GridNumber::Density => view.map_or((1.0, 0.0), |view| (view.density, 0.0)),
        GridNumber::Camera => view.map_or((0.0, 0.0), |view| {
            let camera = view.camera(geometry.y);
            (camera.x, camera.y)
        }),
        GridNumber::Zoom => view.map_or((1.0, 0.0), |view| (view.zoom, 0.0)),
    }
}

impl Numbers {
    /// Another number.
    pub fn choose(&mut self, desk: &Desk, by: i32) {
        let Some(book) = desk.game.book() else { return };
        let count = lines(book).len() as i32;
        self.chosen = (self.chosen as i32 + by).rem_euclid(count) as usize;
    }

    /// Changes the chosen number.
    pub fn nudge(&self, desk: &mut Desk, by: f64) {
        let Some(book) = desk.game.book() else { return };
        let all = lines(book);
        let Some(line) = all.get(self.chosen).copied() else { return };
        // Factors go by tenths.
        let by = if line.setting.is_single() { by / 10.0 } else { by };
        let (mut first, mut second) = pair(book, line.setting);
        let number = if line.second { &mut second } else { &mut first };
        // Sums of tenths are kept as they would be written.
        *number = ((*number + by) * 1e6).round() / 1e6;
        change(desk, Rc::new(move |_, source| set_numbers(source, line.setting, (first, second))));
    }
}

/// Puts the board's middle into the picture's, or without a view where it is already, as `origin centre`.
pub fn centre(desk: &mut Desk) {
    let Some(book) = desk.game.book() else { return };
    let Some(view) = &book.view else {
        desk.say("a board is centred in the picture of a `view`: this rulebook has none");
        return;
    };
    let middle = middle_of_picture(view, book.geometry.y);
    change(desk, Rc::new(move |_, source| centre_origin(source, (middle.x, middle.y))));
}

/// Changes numbers, where that is a rulebook without mistakes.
fn change(desk: &mut Desk, edit: Edit) {
    if desk.change(Probe::TITLE, edit) {
        desk.note = None;
    }
}

/// Takes the last change back.
pub fn take_back(desk: &mut Desk) {
    let taken = desk.take_back(Probe::TITLE);
    desk.note = (!taken).then(|| "no number has been changed".into());
}

/// Writes the numbers back into the file, and nothing else.
pub fn write(desk: &mut Desk) {
    if !desk.text.is_changed_by(Probe::TITLE) {
        desk.say("the file has these numbers already");
    } else if desk.write(Probe::TITLE) {
        desk.say(format!("written to {}; U takes changes back, w writes that again", desk.text.name()));
    }
}

/// Draws the page.
pub fn render(probe: &Probe, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let Some(grid) = desk.game.grid() else { return };
    let (book, extent) = (grid.book(), grid.board().extent());
    pen.heading(if desk.text.is_changed_by(Probe::TITLE) {
        "the numbers, not written yet"
    } else {
        "the numbers of this grid"
    });
    for (at, line) in lines(book).into_iter().enumerate() {
        let chosen = at == probe.numbers.chosen;
        let (first, second) = pair(book, line.setting);
        let word = match (line.setting, line.second) {
            (GridNumber::Origin, false) if matches!(book.geometry.origin, Origin::Centre(_)) => "origin centre",
            (setting, false) => setting.word(),
            _ => "",
        };
        let part = match (line.setting, line.second) {
            (setting, _) if setting.is_single() => "",
            (GridNumber::Cell | GridNumber::Window | GridNumber::Design, false) => "w",
            (GridNumber::Cell | GridNumber::Window | GridNumber::Design, true) => "h",
            (_, false) => "x",
            (_, true) => "y",
        };
        let (mark, style) = if chosen { ("▸ ", theme.accent()) } else { ("  ", theme.text()) };
        let number = show(if line.second { second } else { first });
        let unit = if line.setting.is_single() { "" } else { " px" };
        pen.parts(&[
            (mark, style),
            (&format!("{word:<14}"), theme.faint()),
            (&format!("{part:<2}"), theme.faint()),
            (&format!("{number:>10}"), style),
            (unit, theme.faint()),
            (if chosen { "   ← →" } else { "" }, theme.waiting()),
        ]);
    }
    pen.gap();
    pen.heading("do they come out even?");
    for remark in remarks(&book.geometry, extent, book.view.as_ref()) {
        let (mark, style) = if remark.even { ("  ✓ ", theme.granted()) } else { ("  ! ", theme.waiting()) };
        let lead = Theme::text(theme);
        pen.wrapped(mark, &remark.text, if remark.even { lead } else { style });
    }
    if let Some(view) = book.view.as_ref().filter(|view| !is_centred(&book.geometry, extent, view)) {
        let middle = middle_of_picture(view, book.geometry.y);
        let text = format!("c: origin centre {}, {} px would centre the board", show(middle.x), show(middle.y));
        pen.parts(&[("  → ", theme.accent()), (&text, theme.accent())]);
    }
}
