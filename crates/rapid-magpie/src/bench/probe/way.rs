//! Page one: the position in every space, the arithmetic line by line, and the usual wrong formulas.

use super::Probe;
use crate::desk::Desk;
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use magpie_core::mishap::{Asked, Mishap, right_cell};
use magpie_core::space::exact::{exact_cell, nearest, quotients, single_cell};
use magpie_core::space::{Cell, Conversion, Position, View, Where, WindowPoint, show};
use ratatui::layout::Constraint;
use ratatui::text::{Line, Span, Text};
use ratatui::widgets::{Row, Table, Widget};
use unicode_width::UnicodeWidthStr;

/// Draws the page.
pub fn render(probe: &Probe, desk: &Desk, theme: Theme, pen: &mut Pen) {
    let Some(Ok(found)) = probe.convert(desk, probe.pointer) else {
        return;
    };
    // Where there is little room the arithmetic comes first.
    const LITTLE: u16 = 20;
    let little = pen.height() < LITTLE;
    answer(&found, theme, pen);
    if !little {
        window_picture(desk, &found, theme, pen);
    }
    way(&found, theme, pen);
    round_trip(desk, &found, theme, pen);
    precision(probe, desk, &found, theme, pen);
    wrong_formulas(probe, desk, &found, theme, pen);
    if little {
        window_picture(desk, &found, theme, pen);
    }
}

/// The answer at a glance.
fn answer(found: &Conversion, theme: Theme, pen: &mut Pen) {
    pen.heading(&match found.input {
        Position::Window(point) => format!("win {}, {}", show(point.x), show(point.y)),
        _ => found.world.map_or(String::new(), |point| format!("px {}, {}", show(point.x), show(point.y))),
    });
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
    let pair = |x: f64, y: f64| format!("{}, {}", show(x), show(y));
    let mut row = |one: (&str, String), other: (&str, String)| {
        pen.parts(&[
            (&format!("  {:<7} ", one.0), theme.faint()),
            (&format!("{:<20}", one.1), theme.text()),
            (&format!("{:<7} ", other.0), theme.faint()),
            (&other.1, theme.text()),
        ]);
    };
    if let (Some(corner), Some(centre)) = (found.corner, found.centre) {
        row(("corner", pair(corner.x, corner.y)), ("centre", pair(centre.x, centre.y)));
    }
    let elsewhere = match (found.input, found.window, found.world) {
        (Position::Window(_), _, Some(world)) => ("world", pair(world.x, world.y)),
        (_, Some(window), _) => ("window", pair(window.x, window.y)),
        _ => ("", String::new()),
    };
    if let Some((x, y)) = found.local {
        row(("local", pair(x, y)), elsewhere);
    }
    if let Some(snap) = found.snap.filter(|snap| Some(snap.cell) != found.cell) {
        let cell = format!("{},{}", snap.cell.column, snap.cell.row);
        row(("nearest", cell), ("centre", pair(snap.centre.x, snap.centre.y)));
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

/// From the cell's centre back to the cell, and through the view and back.
fn round_trip(desk: &Desk, found: &Conversion, theme: Theme, pen: &mut Pen) {
    let (Some(grid), Some(cell), Some(centre), Some(at)) = (desk.game.grid(), found.cell, found.centre, found.world)
    else {
        return;
    };
    let book = grid.book();
    let back = book.geometry.cell_at(grid.board().extent(), centre);
    pen.heading("and back");
    let (mark, style) = if back == cell { ("✓", theme.granted()) } else { ("✗", theme.refused()) };
    let (dx, dy) = (at.x - centre.x, at.y - centre.y);
    let text = format!(" the centre lies in {},{}", back.column, back.row);
    let off = format!("; the pointer is {}, {} px off it", show(dx), show(dy));
    pen.parts(&[("  ", theme.text()), (mark, style), (&text, theme.text()), (&off, theme.faint())]);
    if let Some(view) = &book.view {
        let again = view.world(book.geometry.y, view.window_point(book.geometry.y, at));
        let (dx, dy) = (again.x - at.x, again.y - at.y);
        let text = if dx == 0.0 && dy == 0.0 {
            "    to the window and back: no difference".to_owned()
        } else {
            format!("    to the window and back: {dx:e}, {dy:e} px of difference")
        };
        pen.line(&text, theme.faint());
    }
}

/// f64 against the exact fractions of the numbers as written, and against f32; said only where they part.
fn precision(probe: &Probe, desk: &Desk, found: &Conversion, theme: Theme, pen: &mut Pen) {
    let (Some(grid), Some(cell), Some(at)) = (desk.game.grid(), found.cell, found.world) else {
        return;
    };
    let (geometry, extent) = (&grid.book().geometry, grid.board().extent());
    let hotspot = probe.hotspot(desk);
    let exact = exact_cell(geometry, extent, hotspot, at);
    let single = single_cell(geometry, extent, hotspot, at);
    if exact == cell && single == cell {
        pen.line("    exact fractions, f64 and f32 agree here", theme.faint());
        return;
    }
    let [x, y] = quotients(geometry, extent, hotspot, at).map(|quotient| show(nearest(&quotient)));
    for (name, other) in [("exact fractions", exact), ("f32", single)] {
        if other != cell {
            let text = format!("  {name}: {},{}, not {},{}", other.column, other.row, cell.column, cell.row);
            pen.parts(&[("  ✗", theme.refused()), (&text, theme.waiting())]);
        }
    }
    pen.line(&format!("    the quotients are {x} and {y}: on or beside an edge"), theme.faint());
}

/// The whole window, small: bars, the drawn picture, the pointer.
fn window_picture(desk: &Desk, found: &Conversion, theme: Theme, pen: &mut Pen) {
    let view = desk.game.book().and_then(|book| book.view.as_ref());
    let (Some(view), Some(at)) = (view, found.window) else {
        return;
    };
    match view.button_at(at) {
        Some(button) => pen.heading(&format!("the window: here is the button of `{}`", button.key)),
        None => pen.heading("the window"),
    }
    let frame = view.frame();
    let pair = |(x, y): (f64, f64)| format!("{} × {}", show(x), show(y));
    let factor = if frame.k.0 == frame.k.1 { show(frame.k.0) } else { pair(frame.k) };
    let beside = [
        format!("   window {} px", pair(view.window)),
        format!("   picture {} px, drawn at {factor}", pair(view.design)),
        format!("   bars {} px left and right", show(frame.bar.0)),
        format!("        {} px above and below", show(frame.bar.1)),
        format!("   positions count {} px each", show(view.density)),
    ];
    let lines = window_lines(view, at);
    for (number, line) in lines.iter().enumerate() {
        let mut parts = vec![("  ", theme.text())];
        for (sort, text) in line {
            let style = match sort {
                'b' => theme.rule(),
                'p' => theme.waiting(),
                'k' => theme.text(),
                _ => theme.granted(),
            };
            parts.push((text.as_str(), style));
        }
        parts.push((beside.get(number).map_or("", |text| text.as_str()), theme.faint()));
        pen.parts(&parts);
    }
}

/// Runs of one sort in a line of the small window: `b` bar, `d` drawn, `k` button, `p` pointer.
type Runs = Vec<(char, String)>;

fn window_lines(view: &View, at: WindowPoint) -> Vec<Runs> {
    const LINES: u16 = 5;
    let (width, height) = view.window;
    // A character is about twice as high as wide.
    let columns = ((f64::from(LINES) * 2.0 * width / height).round() as u16).clamp(4, 26);
    let pixel = |x: u16, y: u16| WindowPoint {
        x: (f64::from(x) + 0.5) / f64::from(columns) * width / view.density,
        y: (f64::from(y) + 0.5) / f64::from(LINES) * height / view.density,
    };
    let share = |p: f64, size: f64, parts: u16| (p * view.density / size * f64::from(parts)).floor();
    let pointer = (share(at.x, width, columns), share(at.y, height, LINES));
    // A bar too narrow for a character is shown all the same.
    let bar = view.frame().bar;
    let in_bar =
        |x: u16, y: u16| (bar.0 > 0.0 && (x == 0 || x + 1 == columns)) || (bar.1 > 0.0 && (y == 0 || y + 1 == LINES));
    let mut lines = Vec::new();
    for y in 0..LINES {
        let mut line: Runs = Vec::new();
        for x in 0..columns {
            let (sort, sign) = if pointer == (f64::from(x), f64::from(y)) {
                ('p', '●')
            } else if view.button_at(pixel(x, y)).is_some() {
                ('k', '▓')
            } else if view.drawn(view.design_point(pixel(x, y))) && !in_bar(x, y) {
                ('d', '░')
            } else {
                ('b', '╱')
            };
            match line.last_mut() {
                Some((last, text)) if *last == sort => text.push(sign),
                _ => line.push((sort, sign.to_string())),
            }
        }
        lines.push(line);
    }
    lines
}

/// The same position under the usual wrong formulas; those that differ here are set off.
fn wrong_formulas(probe: &Probe, desk: &Desk, found: &Conversion, theme: Theme, pen: &mut Pen) {
    let Some(grid) = desk.game.grid() else { return };
    let (book, extent) = (grid.book(), grid.board().extent());
    let piece = Asked {
        geometry: &book.geometry,
        extent,
        view: book.view.as_ref(),
        hotspot: probe.hotspot_of_kind(desk),
        world: probe.world(desk),
        window: None,
    };
    // Mistakes of the view are asked about as the window reports the position.
    let touch = Asked { window: found.window, ..piece };
    pen.heading("usual wrong formulas");
    let mut same: Vec<&str> = Vec::new();
    let mut differ: Vec<(&str, String)> = Vec::new();
    for mishap in Mishap::ALL {
        let wrong = mishap.cell(&piece).map(|wrong| (wrong, right_cell(&piece)));
        let wrong = wrong.or_else(|| mishap.cell(&touch).map(|wrong| (wrong, right_cell(&touch))));
        match wrong {
            Some((wrong, right)) if wrong != right => {
                differ.push((mishap.id(), format!("{},{}", show(wrong[0]), show(wrong[1]))));
            }
            Some(_) => same.push(mishap.id()),
            None => {}
        }
    }
    if !differ.is_empty() {
        table(&differ, theme, pen);
    }
    if !same.is_empty() {
        pen.wrapped("  ✓ right here too: ", &same.join(", "), theme.faint());
    }
}

/// Mistakes with the cell that each of them gives, two a line where there is room.
fn table(found: &[(&str, String)], theme: Theme, pen: &mut Pen) {
    let widest = |texts: &mut dyn Iterator<Item = &str>| texts.map(UnicodeWidthStr::width).max().unwrap_or(0) as u16;
    let name = widest(&mut found.iter().map(|(name, _)| *name)) + 4;
    let cell = widest(&mut found.iter().map(|(_, cell)| cell.as_str()).chain(["cell"]));
    let twice = usize::from(2 * (name + cell) + 3) <= pen.width();
    let per_line = if twice { 2 } else { 1 };
    let row = |pairs: &[(&str, String)]| {
        Row::new(pairs.iter().flat_map(|(name, cell)| {
            let name = Line::from_iter(
                [("  ✗ ", theme.refused()), (name, theme.waiting())]
                    .map(|(text, style)| Span::styled(text.to_owned(), style)),
            );
            [Text::from(name), Text::styled(cell.clone(), theme.refused()).right_aligned()]
        }))
    };
    let header =
        Row::new((0..per_line).flat_map(|_| [Text::raw(""), Text::raw("cell").right_aligned()])).style(theme.faint());
    let widths = [Constraint::Length(name), Constraint::Length(cell)].repeat(per_line);
    let table = Table::new(found.chunks(per_line).map(row), widths).header(header).column_spacing(1);
    pen.widget(found.len().div_ceil(per_line) as u16 + 1, |room, buffer| Widget::render(table, room, buffer));
}
