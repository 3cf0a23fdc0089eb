//! Page three: the settling of the last turn, rule by rule and pass by pass, with small boards.

use crate::desk::Desk;
use crate::ui::pen::Pen;
use crate::ui::theme::{self, Theme};
use crate::words::{self, plain};
use magpie_core::grid::Settled;
use magpie_core::rulebook::Rulebook;
use magpie_core::space::{Cell, RowsFrom};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};

/// The steps of the last turn that settled anything, or of entering the map as long as nothing has been played; and whose
/// they are.
fn steps(desk: &Desk) -> Option<(&'static str, &[Settled])> {
    let session = desk.game.session.as_ref()?;
    let Some(entry) = session.played().last() else {
        let settled = &session.opening().settled;
        return (!settled.is_empty()).then_some(("entering the map settled", settled));
    };
    let answer = entry.answers.iter().rfind(|answer| !answer.settled.is_empty())?;
    Some(("the last turn settled", &answer.settled))
}

/// Draws the page.
pub fn render(step: usize, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(buffer, area, theme, 0);
    let (Some(session), Some((whose, steps))) = (&desk.game.session, steps(desk)) else {
        nothing(desk, theme, &mut pen);
        return;
    };
    let book = session.grid().book();
    let shown = step.min(steps.len() - 1);
    let passes = steps.last().map_or(0, |step| step.pass + 1);
    pen.heading(&format!("{whose} in {}", if passes == 1 { "1 pass".into() } else { format!("{passes} passes") }));
    // Half of the room for the list, at most; the chosen step stays in sight.
    let lines = usize::from(area.height / 2).saturating_sub(2).max(3);
    let first = shown.saturating_sub(lines / 2).min(steps.len().saturating_sub(lines));
    for (number, step) in steps.iter().enumerate().skip(first).take(lines) {
        let at = &book.whens[step.rule].at;
        let (mark, style) = if number == shown { ("▸ ", theme.accent()) } else { ("  ", theme.text()) };
        let text = format!("pass {:<3} {}", step.pass + 1, words::settled(step, book));
        pen.with_right(&[(mark, style), (&text, style)], (&format!("line {}", at.line), theme.faint()));
    }
    let step = &steps[shown];
    pen.gap();
    pen.wrapped("", &plain(&book.whens[step.rule].at.text), theme.waiting());
    let used = 3 + steps.len().min(lines) as u16 + 1;
    let below = Rect { y: area.y + used, height: area.height.saturating_sub(used), ..area };
    if step.board.is_empty() {
        Pen::new(buffer, below, theme, 0).line("the board is too large to be kept pass by pass", theme.faint());
        return;
    }
    board(step, book, theme, below, buffer);
}

/// Where nothing has settled: whether there is anything that could.
fn nothing(desk: &Desk, theme: Theme, pen: &mut Pen) {
    pen.heading("settling");
    let Some(session) = &desk.game.session else { return };
    let when = if session.position() == 0 { "on entering the map" } else { "in the last turn" };
    pen.wrapped("  ", &format!("No `when` rule changed anything {when}."), theme.faint());
    let book = session.grid().book();
    if book.whens.is_empty() {
        pen.wrapped("  ", "This rulebook has none: `when cog on hole: remove cog` would be one.", theme.faint());
        return;
    }
    pen.gap();
    pen.line("  These look at the board after every turn:", theme.text());
    for when in &book.whens {
        pen.wrapped(&format!("  line {:<5}", when.at.line), &plain(&when.at.text), theme.waiting());
    }
}

/// The board after the step: what was found is set off, what moved is marked where it stands now.
fn board(step: &Settled, book: &Rulebook, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let rows = step.board.len() as i64;
    let found = |cell: Cell| step.matches.iter().flatten().any(|matched| *matched == cell);
    let moved = |cell: Cell| step.changes.iter().any(|change| change.to == Some(cell));
    let wide = usize::from(area.width) >= step.board.first().map_or(0, |line| line.chars().count()) * 2;
    for (line, text) in step.board.iter().enumerate().take(usize::from(area.height)) {
        let row = if book.geometry.rows == RowsFrom::Top { line as i64 } else { rows - 1 - line as i64 };
        for (column, glyph) in text.chars().enumerate() {
            let x = area.x + (column * if wide { 2 } else { 1 }) as u16;
            if x >= area.right() {
                break;
            }
            let cell = Cell::new(column as i64, row);
            let kind = book.kinds.iter().find(|kind| kind.glyph == glyph);
            let colour = kind.map_or(Theme::dim((220, 216, 203), 120), |kind| theme::rgb(&kind.colour));
            let style = Style::new().fg(theme.colour(colour));
            let (glyph, style) = match (found(cell), moved(cell)) {
                (true, false) => (if glyph == ' ' { ' ' } else { '×' }, theme.waiting()),
                (_, true) => (glyph, style.add_modifier(Modifier::BOLD | Modifier::UNDERLINED)),
                _ => (glyph, style),
            };
            buffer.set_string(x, area.y + line as u16, glyph.to_string(), style);
        }
    }
}
