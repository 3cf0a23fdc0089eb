//! The cell card: everything about one cell, beside the board on every bench.

use crate::desk::Desk;
use crate::desk::board::arrow;
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crate::words::counted;
use magpie_core::board::PieceId;
use magpie_core::grid::{Entering, Grid, Ties};
use magpie_core::rulebook::Rulebook;
use magpie_core::space::{Cell, WorldPoint, show};
use ratatui::style::Style;

/// The cell in one line, for where there is no room for more.
pub fn line(desk: &Desk, focus: Option<Cell>) -> String {
    let (Some(grid), Some(cell)) = (desk.game.grid(), focus) else { return String::new() };
    let contents: Vec<String> = pieces(grid, cell).into_iter().map(|(text, _)| text).collect();
    let contents = if contents.is_empty() { nothing(grid, cell).to_owned() } else { contents.join(", ") };
    format!("{},{}: {contents}", cell.column, cell.row)
}

/// Draws the card.
pub fn render(desk: &Desk, focus: Option<Cell>, theme: Theme, pen: &mut Pen) {
    let Some(grid) = desk.game.grid() else { return };
    let Some(cell) = focus else {
        pen.wrapped(
            "",
            "Shift with an arrow moves a cursor over the board, a click puts it there: its cell is told here.",
            theme.faint(),
        );
        return;
    };
    let book = grid.book();
    contents(grid, cell, theme, pen);
    if pen.height() >= ROOMY {
        pen.gap();
    }
    places(grid, cell, theme, pen);
    let entering = desk.game.entering.as_ref().filter(|(of, _)| *of == cell);
    if let Some((_, entering)) = entering {
        enters(book, grid, entering, theme, pen);
    }
}

/// The title of the card's pane.
pub fn title(desk: &Desk, focus: Option<Cell>) -> String {
    let (Some(grid), Some(cell)) = (desk.game.grid(), focus) else { return "cell".into() };
    let index = grid.book().geometry.index(grid.board().extent(), cell);
    let index = index.map_or(String::new(), |index| format!(" · index {index}"));
    let whose = match focus {
        _ if desk.picture.cursor == focus => "cell under the cursor",
        _ if desk.focus() == focus => "cell of the controlled piece",
        _ => "cell under the pointer",
    };
    format!("{whose} · column {}, row {}{index}", cell.column, cell.row)
}

fn nothing(grid: &Grid, cell: Cell) -> &'static str {
    match grid.board().id(cell) {
        None => "off the board",
        Some(id) if grid.board().is_void(id) => "void: no cell of the map",
        Some(_) => "nothing stands here",
    }
}

/// What stands in a cell, top layer first: kind and heading, and what ties it to others.
fn pieces(grid: &Grid, cell: Cell) -> Vec<(String, String)> {
    let (book, board) = (grid.book(), grid.board());
    let Some(id) = board.id(cell).filter(|id| !board.is_void(*id)) else { return Vec::new() };
    let seats = board.seats(id).filter_map(|seat| Some((board.kind_in(id, seat)?, board.known_piece_in(id, seat))));
    seats
        .map(|(kind, piece)| {
            let found = book.kind(kind);
            let heading = piece.and_then(|piece| board.heading_of(piece));
            let heading = heading.map_or(String::new(), |heading| format!(" {} {}", arrow(heading), heading.word()));
            let mut ties = vec![book.layers[usize::from(found.layer)].clone()];
            ties.extend(piece.into_iter().flat_map(|piece| ties_in_words(grid, piece)));
            (format!("{}{heading}", found.name), ties.join(", "))
        })
        .collect()
}

fn ties_in_words(grid: &Grid, piece: PieceId) -> Vec<String> {
    let Ties { body, carrier, riders, glides, trail } = grid.ties(piece);
    let name = |piece: PieceId| grid.book().kind(grid.board().kind_of(piece)).name.clone();
    let mut words = Vec::new();
    words.extend(body.map(|(count, active)| {
        format!("one of a body of {}{}", counted(count, "piece"), if active { ", the active one" } else { "" })
    }));
    words.extend(carrier.map(|carrier| format!("carried by {}", name(carrier))));
    words.extend((riders > 0).then(|| format!("carries {}", counted(riders, "piece"))));
    words.extend(glides.then(|| "glides".to_owned()));
    words.extend(trail.map(|(at, count)| format!("place {at} of {count} in its trail")));
    words.extend(grid.controlled().contains(&piece).then(|| "controlled".to_owned()));
    words
}

fn contents(grid: &Grid, cell: Cell, theme: Theme, pen: &mut Pen) {
    let all = pieces(grid, cell);
    if all.is_empty() {
        pen.line(nothing(grid, cell), theme.faint());
    }
    for (what, ties) in all {
        pen.hanging(&[(&what, theme.text()), ("  ", theme.text()), (&ties, theme.faint())], 2);
    }
}

/// Where the cell lies, in pixels.
fn places(grid: &Grid, cell: Cell, theme: Theme, pen: &mut Pen) {
    let (book, extent) = (grid.book(), grid.board().extent());
    let geometry = &book.geometry;
    let point = |at: WorldPoint| format!("{}, {}", show(at.x), show(at.y));
    let (corner, centre, area) =
        (geometry.corner(extent, cell), geometry.centre(extent, cell), geometry.cell_box(extent, cell));
    let far = WorldPoint { x: area.x + area.w, y: area.y + area.h };
    let mut all = vec![
        ("corner", format!("{} px", point(corner))),
        ("centre", format!("{} px", point(centre))),
        ("box", format!("{} to {} px", point(WorldPoint { x: area.x, y: area.y }), point(far))),
    ];
    all.extend(book.view.as_ref().map(|view| {
        let window = view.window_point(geometry.y, centre);
        ("in the window", format!("{}, {} px", show(window.x), show(window.y)))
    }));
    // A line each where there is room, else one behind the other.
    if pen.height() >= ROOMY {
        for (name, value) in &all {
            pen.hanging(&[(&format!("{name:<14}"), theme.faint()), (value, theme.text())], 14);
        }
        return;
    }
    let parts: Vec<(String, Style)> = all
        .iter()
        .flat_map(|(name, value)| [(format!("{name} "), theme.faint()), (format!("{value}   "), theme.text())])
        .collect();
    pen.owned(&parts);
}

/// From this height on a card has a line for everything.
const ROOMY: u16 = 10;

/// Who of the controlled pieces may enter from which side.
fn enters(book: &Rulebook, grid: &Grid, entering: &[Entering], theme: Theme, pen: &mut Pen) {
    let mut rest = entering;
    while let Some(first) = rest.first() {
        let count = rest.iter().take_while(|found| found.piece == first.piece).count();
        let (own, others) = rest.split_at(count);
        rest = others;
        let name = &book.kind(grid.board().kind_of(first.piece)).name;
        let mut parts: Vec<(String, Style)> = vec![(format!("{name} enters from"), theme.faint())];
        for Entering { heading, answer, .. } in own {
            let (mark, style) = match answer {
                None => ("–", theme.faint()),
                Some(preview) if preview.granted => ("✓", theme.granted()),
                Some(_) => ("✗", theme.refused()),
            };
            // Who asks for a heading stands on the other side.
            let side = heading.opposite().word();
            let shoved = answer.as_ref().filter(|answer| answer.granted && answer.shoved > 0);
            let shoved = shoved.map_or(String::new(), |answer| format!(" shoves {}", answer.shoved));
            parts.push((format!("   {side} "), theme.text()));
            parts.push((format!("{mark}{shoved}"), style));
        }
        pen.owned(&parts);
    }
}
