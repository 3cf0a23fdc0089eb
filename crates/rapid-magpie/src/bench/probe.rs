//! The Probe bench: one position in every space, with the arithmetic line by line.

use crate::cli::convert::convert_on;
use crate::stage::action::{Action, Message, char, key, shift};
use crate::stage::pen::Pen;
use crate::stage::state::State;
use crate::stage::theme::Theme;
use crossterm::event::KeyCode;
use magpie_core::mishap::{Asked, Mishap, right_cell};
use magpie_core::space::{Cell, Conversion, Position, Where, WorldPoint, parse_position, show};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

/// The bench's own keys.
pub fn actions() -> Vec<Action> {
    vec![
        Action::new(&[key(KeyCode::Left)], "", "the pointer 1 px to the left", Message::Pointer(-1, 0)),
        Action::new(&[key(KeyCode::Right)], "1 px", "the pointer 1 px to the right", Message::Pointer(1, 0)),
        Action::new(&[key(KeyCode::Up)], "", "the pointer 1 px up the screen", Message::Pointer(0, -1)),
        Action::new(&[key(KeyCode::Down)], "", "the pointer 1 px down the screen", Message::Pointer(0, 1)),
        Action::new(&[shift(KeyCode::Left), char('H')], "", "10 px to the left", Message::Pointer(-10, 0)),
        Action::new(&[shift(KeyCode::Right), char('L')], "10 px", "10 px to the right", Message::Pointer(10, 0)),
        Action::new(&[shift(KeyCode::Up), char('K')], "", "10 px up the screen", Message::Pointer(0, -10)),
        Action::new(&[shift(KeyCode::Down), char('J')], "", "10 px down the screen", Message::Pointer(0, 10)),
        Action::new(&[char('g')], "go to", "type a position: px:X,Y win:X,Y cell:C,R index:I", Message::AskPosition),
    ]
}

/// Where the pointer starts: the middle of the controlled piece's cell, else of the board's first.
pub fn home(state: &State) -> WorldPoint {
    let Some(session) = &state.session else {
        return WorldPoint { x: 0.0, y: 0.0 };
    };
    let grid = session.grid();
    let cell = state.focus().unwrap_or(Cell::new(0, 0));
    grid.book().geometry.centre(grid.board().extent(), cell)
}

/// Moves the pointer by pixels of the screen: up is up, whichever way y points.
pub fn move_pointer(state: &mut State, right: i32, down: i32) {
    use magpie_core::space::YAxis;
    let Some(session) = &state.session else {
        return;
    };
    let sign = if session.grid().book().geometry.y == YAxis::Down { 1.0 } else { -1.0 };
    let within = |value: f64| value.clamp(-1e9, 1e9);
    state.pointer.x = within(state.pointer.x + f64::from(right));
    state.pointer.y = within(state.pointer.y + sign * f64::from(down));
}

/// Sends the pointer to a typed position; a word about it where that cannot be.
pub fn go_to(state: &mut State, text: &str) -> Result<(), String> {
    let text = if text.contains(':') { text.to_owned() } else { format!("px:{text}") };
    let position = parse_position(text.trim()).map_err(|error| error.to_string())?;
    let found = convert(state, position).ok_or("there is no board")?.map_err(|error| error.to_string())?;
    match found.world {
        Some(world) => {
            state.pointer = world;
            Ok(())
        }
        None => Err(format!("`{text}` is outside the flat array")),
    }
}

fn convert(state: &State, position: Position) -> Option<Result<Conversion, magpie_core::space::PositionError>> {
    let grid = state.session.as_ref()?.grid();
    let book = grid.book();
    Some(convert_on(book, grid.map(), book.geometry.hotspot, position))
}

/// Draws the bench.
pub fn render(state: &State, theme: Theme, area: Rect, buffer: &mut Buffer) -> Vec<(Rect, Message)> {
    let mut pen = Pen::new(buffer, area, theme, state.scroll);
    let Some(Ok(found)) = convert(state, Position::World(state.pointer)) else {
        return Vec::new();
    };
    if let Some(typing) = &state.typing {
        pen.parts(&[
            ("go to ", theme.accent()),
            (typing.value(), theme.text()),
            ("▏", theme.waiting()),
            ("  px:X,Y win:X,Y cell:C,R index:I", theme.faint()),
        ]);
        pen.gap();
    }
    answer(&found, state.pointer, theme, &mut pen);
    pen.gap();
    way(&found, theme, &mut pen);
    pen.gap();
    round_trip(state, &found, theme, &mut pen);
    pen.gap();
    wrong_formulas(state, &found, theme, &mut pen);
    pen.finish();
    Vec::new()
}

/// The answer at a glance.
fn answer(found: &Conversion, pointer: WorldPoint, theme: Theme, pen: &mut Pen) {
    pen.heading(&format!("px {}, {}", show(pointer.x), show(pointer.y)));
    let cell = found.cell.unwrap_or(Cell::new(0, 0));
    let (words, style) = match found.place {
        Where::Cell => ("in a cell", theme.granted()),
        Where::Gap => ("in the gap behind this cell", theme.waiting()),
        Where::Void => ("void: the map has no cell here", theme.waiting()),
        Where::Outside => ("outside the board", theme.refused()),
        Where::Bar => ("in a bar beside the picture", theme.refused()),
    };
    let index = found.index.map_or("none".into(), |index| index.to_string());
    pen.parts(&[
        ("  column ", theme.faint()),
        (&format!("{:<6}", cell.column), theme.accent()),
        ("row ", theme.faint()),
        (&format!("{:<6}", cell.row), theme.accent()),
        ("index ", theme.faint()),
        (&format!("{index:<8}"), theme.accent()),
        (words, style),
    ]);
    let pair = |x: f64, y: f64| format!("{:>12} {:>12}", show(x), show(y));
    let mut row = |label: &str, text: String| {
        pen.parts(&[(&format!("  {label:<8}"), theme.faint()), (&text, theme.text())]);
    };
    if let (Some(corner), Some(centre), Some((x, y))) = (found.corner, found.centre, found.local) {
        row("corner", pair(corner.x, corner.y));
        row("centre", pair(centre.x, centre.y));
        row("local", pair(x, y));
    }
    if let Some(window) = found.window {
        row("window", pair(window.x, window.y));
    }
    if let Some(snap) = found.snap.filter(|snap| Some(snap.cell) != found.cell) {
        row(
            "nearest",
            format!("{}   of cell {},{}", pair(snap.centre.x, snap.centre.y), snap.cell.column, snap.cell.row),
        );
    }
}

/// The arithmetic, line by line.
fn way(found: &Conversion, theme: Theme, pen: &mut Pen) {
    pen.heading("the way, worked");
    for step in &found.steps {
        // The result behind the last `=` is what the eye looks for.
        match step.rsplit_once(" = ") {
            Some((way, result)) => pen.parts(&[
                ("  ", theme.text()),
                (way, theme.text()),
                (" = ", theme.faint()),
                (result, theme.accent()),
            ]),
            None => pen.line(&format!("  {step}"), theme.text()),
        }
    }
}

/// From the cell's centre back to the cell.
fn round_trip(state: &State, found: &Conversion, theme: Theme, pen: &mut Pen) {
    let (Some(session), Some(cell), Some(centre)) = (&state.session, found.cell, found.centre) else {
        return;
    };
    let grid = session.grid();
    let back = grid.book().geometry.cell_at(grid.board().extent(), centre);
    pen.heading("and back");
    let (mark, style) = if back == cell { ("✓", theme.granted()) } else { ("✗", theme.refused()) };
    let text = format!(" centre {}, {} lies in {},{}", show(centre.x), show(centre.y), back.column, back.row);
    pen.parts(&[("  ", theme.text()), (mark, style), (&text, theme.text())]);
    let (dx, dy) = (state.pointer.x - centre.x, state.pointer.y - centre.y);
    pen.line(&format!("    the pointer is {}, {} px off the centre", show(dx), show(dy)), theme.faint());
}

/// The same position under the usual wrong formulas; those that differ here are set off.
fn wrong_formulas(state: &State, found: &Conversion, theme: Theme, pen: &mut Pen) {
    let Some(session) = &state.session else { return };
    let grid = session.grid();
    let (book, extent) = (grid.book(), grid.board().extent());
    let piece = Asked {
        geometry: &book.geometry,
        extent,
        view: book.view.as_ref(),
        hotspot: book.geometry.hotspot,
        world: state.pointer,
        window: None,
    };
    // Mistakes of the view are asked about as the window reports the position.
    let touch = Asked { window: found.window, ..piece };
    pen.heading("usual wrong formulas");
    let mut same: Vec<&str> = Vec::new();
    for mishap in Mishap::ALL {
        let wrong = mishap.cell(&piece).map(|wrong| (wrong, right_cell(&piece)));
        let wrong = wrong.or_else(|| mishap.cell(&touch).map(|wrong| (wrong, right_cell(&touch))));
        match wrong {
            Some((wrong, right)) if wrong != right => {
                let cell = format!("{:>5},{:<5}", show(wrong[0]), show(wrong[1]));
                pen.parts(&[
                    ("  ✗ ", theme.refused()),
                    (&format!("{:<23}", mishap.id()), theme.waiting()),
                    (&cell, theme.refused()),
                ]);
                pen.wrapped("      ", mishap.says(), theme.faint());
            }
            Some(_) => same.push(mishap.id()),
            None => {}
        }
    }
    if !same.is_empty() {
        pen.wrapped("  ✓ right here too: ", &same.join(", "), theme.faint());
    }
}
