//! Page two: the nine points of the cell, a pass over all cells, and a drag from cell to cell.

use super::{Ask, Probe};
use crate::desk::Desk;
use crate::desk::board::arrow;
use crate::ui::action::{Action, char};
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crate::words::counted;
use magpie_core::limits::LONGEST_WALK;
use magpie_core::space::{Cell, Heading, Where, cells_between, landmarks, locate, pass_over, show};

/// The page's own keys.
pub fn actions() -> Vec<Action<Ask>> {
    vec![Action::new(
        &[char('s')],
        "press",
        "put the finger down at the pointer, or lift it: the way between is walked",
        Ask::Press,
    )]
}

impl Probe {
    /// The cells of the drag that is looked at.
    pub(super) fn dragged(&self, desk: &Desk) -> Option<Vec<Cell>> {
        let grid = desk.game.grid()?;
        let from = self.pressed?;
        cells_between(&grid.book().geometry, grid.board().extent(), self.hotspot(desk), from, self.world(desk))
    }
}

/// Draws the page.
pub fn render(probe: &Probe, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let (Some(grid), Some(cell)) = (desk.game.grid(), probe.cell(desk)) else {
        return;
    };
    let (geometry, extent) = (&grid.book().geometry, grid.board().extent());
    drag(probe, desk, theme, pen);
    pen.heading(&format!("nine points of cell {},{}", cell.column, cell.row));
    for (number, spot) in landmarks(geometry, extent, cell).iter().enumerate() {
        if number == 9 {
            pen.line("  one pixel beyond", theme.faint());
        }
        let (owner, place) = locate(geometry, extent, None, (0.0, 0.0), &|_| false, (spot.world.x, spot.world.y));
        let own = owner == cell;
        let (mark, style) = match (own, place) {
            (true, Where::Gap) => ("○", theme.waiting()),
            (true, _) => ("●", theme.granted()),
            (false, _) => ("○", theme.refused()),
        };
        let note = match (own, place) {
            (true, Where::Gap) => "  its gap".to_owned(),
            (false, Where::Outside) => "  off the board".to_owned(),
            (false, _) => "  another cell".to_owned(),
            _ => String::new(),
        };
        let name = spot.name.trim_start_matches("beyond ");
        pen.parts(&[
            ("  ", theme.text()),
            (mark, style),
            (&format!(" {name:<11}"), theme.faint()),
            (&format!("{:>9} {:>9}", show(spot.world.x), show(spot.world.y)), theme.text()),
            (&format!("   {:>3},{:<3}", owner.column, owner.row), style),
            (&note, theme.faint()),
        ]);
    }
    all_cells(desk, theme, pen);
}

fn all_cells(desk: &Desk, theme: Theme, pen: &mut Pen) {
    /// Larger boards would make every key wait.
    const CELLS: u64 = 250_000;
    let Some(grid) = desk.game.grid() else { return };
    let (geometry, extent) = (&grid.book().geometry, grid.board().extent());
    pen.heading("all cells, there and back");
    if extent.cells() > CELLS {
        pen.line(&format!("  looked at on boards of at most {CELLS} cells"), theme.faint());
        return;
    }
    let pass = pass_over(geometry, extent);
    let all = counted(pass.cells as usize, "cell");
    for (what, (count, first)) in
        [("centre → cell", pass.centres), ("index → cell", pass.indices), ("corner → cell", pass.corners)]
    {
        match first {
            None => pen.parts(&[("  ✓ ", theme.granted()), (&format!("{what:<15} {all} come back"), theme.text())]),
            Some(Cell { column, row }) => {
                let text = format!("{what:<15} {count} of {all} do not, the first {column},{row}");
                pen.parts(&[("  ✗ ", theme.refused()), (&text, theme.waiting())]);
            }
        }
    }
    if pass.corners.0 > 0 {
        pen.line("    sums of these numbers are rounded: a corner may fall to its neighbour", theme.faint());
    }
}

fn drag(probe: &Probe, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let Some(from) = probe.pressed else {
        return;
    };
    let to = probe.world(desk);
    pen.heading("press, drag, release");
    let ends = format!("  {}, {} → {}, {}", show(from.x), show(from.y), show(to.x), show(to.y));
    pen.line(&ends, theme.text());
    let Some(cells) = probe.dragged(desk) else {
        pen.line(&format!("  longer than {LONGEST_WALK} cells"), theme.waiting());
        return;
    };
    let (first, last) = (cells[0], cells[cells.len() - 1]);
    let between = counted(cells.len().saturating_sub(2), "cell");
    pen.parts(&[
        ("  from ", theme.faint()),
        (&format!("{},{}", first.column, first.row), theme.accent()),
        ("  to ", theme.faint()),
        (&format!("{},{}", last.column, last.row), theme.accent()),
        (
            &format!("  {between} between, {} columns, {} rows", last.column - first.column, last.row - first.row),
            theme.faint(),
        ),
    ]);
    let south = desk.game.book().map_or(1, |book| book.geometry.south());
    let mut way = format!("{},{}", first.column, first.row);
    for pair in cells.windows(2).take(60) {
        let (columns, rows) = (pair[1].column - pair[0].column, pair[1].row - pair[0].row);
        let sign = Heading::from_screen_step(columns, rows * south).map_or('·', arrow);
        way.extend([" ", &sign.to_string(), " ", &format!("{},{}", pair[1].column, pair[1].row)]);
    }
    if cells.len() > 61 {
        way.push_str(" ...");
    }
    pen.wrapped("  ", &way, theme.text());
}
