//! The demo yard's list.

use super::terminal::Screen;
use crate::desk::Desk;
use crate::desk::marks::Marks;
use crate::desk::painter;
use crate::files::Loaded;
use crate::ui::pen::{Pen, ellipsis};
use crate::ui::theme::Theme;
use crate::yard::{DEMOS, Demo};
use crossterm::event::{self, Event, KeyCode, KeyEventKind, KeyModifiers, MouseButton, MouseEventKind};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

/// Lets a demo be chosen; `None` when nobody wants one.
pub fn choose(theme: Theme) -> anyhow::Result<Option<&'static Demo>> {
    let mut screen = Screen::new()?;
    let mut list = Chooser::new(theme);
    loop {
        screen.draw(|frame| list.render(frame.area(), frame.buffer_mut()))?;
        match event::read()? {
            Event::Key(key) if key.kind != KeyEventKind::Release => match key.code {
                KeyCode::Up => list.go(list.at.saturating_sub(1)),
                KeyCode::Down => list.go((list.at + 1).min(DEMOS.len() - 1)),
                KeyCode::Home => list.go(0),
                KeyCode::End => list.go(DEMOS.len() - 1),
                KeyCode::Enter => return Ok(Some(&DEMOS[list.at])),
                KeyCode::Char('c') if key.modifiers.contains(KeyModifiers::CONTROL) => {
                    return Ok(None);
                }
                KeyCode::Char('q') | KeyCode::Esc => return Ok(None),
                _ => {}
            },
            Event::Mouse(mouse) if mouse.kind == MouseEventKind::Down(MouseButton::Left) => {
                let row = Chooser::row(mouse.row);
                // A first click shows what a second one opens.
                match row {
                    Some(row) if row == list.at => return Ok(Some(&DEMOS[row])),
                    Some(row) => list.go(row),
                    None => {}
                }
            }
            _ => {}
        }
    }
}

/// The list with the demo that is chosen, ready to be drawn.
pub struct Chooser {
    at: usize,
    desk: Desk,
    theme: Theme,
}

/// Lines that a demo takes in the list: its name, and what it shows.
const LINES: u16 = 2;
/// The line of the first demo.
const FIRST: u16 = 5;
/// From this width on the board stands beside the list.
const WIDE: u16 = 100;

impl Chooser {
    /// The list at its first demo.
    pub fn new(theme: Theme) -> Self {
        Self { at: 0, desk: desk_of(&DEMOS[0]), theme }
    }

    /// To another demo.
    pub fn go(&mut self, at: usize) {
        if at != self.at {
            self.at = at;
            self.desk = desk_of(&DEMOS[at]);
        }
    }

    /// The demo on a line of the screen.
    fn row(line: u16) -> Option<usize> {
        let row = usize::from(line.checked_sub(FIRST)? / LINES);
        (row < DEMOS.len()).then_some(row)
    }

    /// Draws the list, and the board beside it where there is room.
    pub fn render(&self, area: Rect, buffer: &mut Buffer) {
        let theme = self.theme;
        buffer.set_style(area, theme.text());
        let wide = area.width >= WIDE;
        let width = if wide { (area.width * 2 / 5).min(64) } else { area.width };
        let inner = Rect::new(area.x + 2, area.y + 1, width.saturating_sub(4), area.height.saturating_sub(2));
        let mut pen = Pen::new(buffer, inner, theme, 0);
        pen.line("RAPID MAGPIE", theme.accent());
        pen.line("↑ ↓ choose a game of the clockmakers' yard, Enter opens a copy of it", theme.waiting());
        pen.gap();
        pen.heading("demos");
        for (number, demo) in DEMOS.iter().enumerate() {
            let (mark, style) = if number == self.at { ("› ", theme.chosen()) } else { ("  ", theme.text()) };
            pen.parts(&[(mark, theme.accent()), (demo.name, style)]);
            pen.line(&ellipsis(&format!("    {}", demo.shows), usize::from(inner.width)), theme.faint());
        }
        pen.gap();
        pen.line("q leaves. Your own: rapid-magpie FILE.magpie; a new one: rapid-magpie new FILE", theme.faint());
        if wide {
            let beside = Rect { x: area.x + width, width: area.width - width, ..area };
            self.board(beside, buffer);
        }
    }

    /// The board of the chosen demo, as large as there is room.
    fn board(&self, area: Rect, buffer: &mut Buffer) {
        let theme = self.theme;
        let room = Rect::new(area.x + 1, area.y + 6, area.width.saturating_sub(3), area.height.saturating_sub(8));
        let needs = painter::needs(&self.desk, (room.width, room.height));
        let title = self.desk.game.grid().map_or(String::new(), |grid| {
            let maps = grid.book().maps.len();
            format!("{} · {}", grid.map_title(), if maps == 1 { "one map".into() } else { format!("{maps} maps") })
        });
        let mut pen = Pen::new(buffer, Rect { y: area.y + 1, height: 4, ..room }, theme, 0);
        pen.line(self.desk.game.book().map_or("", |book| &book.title), theme.accent());
        pen.line(&title, theme.faint());
        pen.line(DEMOS[self.at].shows, theme.text());
        let board = Rect { width: needs.0, height: needs.1, ..room };
        painter::render(&self.desk, &Marks::default(), theme, board, buffer);
    }
}

fn desk_of(demo: &Demo) -> Desk {
    let reading = magpie_core::rulebook::read_text(demo.rulebook, &|_| Err("a demo is one file".into()));
    Desk::new(Loaded { path: demo.name.into(), reading }, demo.rulebook.as_bytes().to_vec())
}
