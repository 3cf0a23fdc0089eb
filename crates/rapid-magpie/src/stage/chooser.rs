//! The demo yard's list.

use super::terminal::Screen;
use crate::ui::pen::Pen;
use crate::ui::theme::Theme;
use crate::yard::{DEMOS, Demo};
use crossterm::event::{self, Event, KeyCode, KeyEventKind, KeyModifiers, MouseButton, MouseEventKind};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

/// Lets a demo be chosen; `None` when nobody wants one.
pub fn choose(theme: Theme) -> anyhow::Result<Option<&'static Demo>> {
    let mut screen = Screen::new()?;
    let mut at = 0;
    loop {
        screen.draw(|frame| render(at, theme, frame.area(), frame.buffer_mut()))?;
        match event::read()? {
            Event::Key(key) if key.kind != KeyEventKind::Release => match key.code {
                KeyCode::Up => at = at.saturating_sub(1),
                KeyCode::Down => at = (at + 1).min(DEMOS.len() - 1),
                KeyCode::Enter => return Ok(Some(&DEMOS[at])),
                KeyCode::Char('c') if key.modifiers.contains(KeyModifiers::CONTROL) => {
                    return Ok(None);
                }
                KeyCode::Char('q') | KeyCode::Esc => return Ok(None),
                _ => {}
            },
            Event::Mouse(mouse) if mouse.kind == MouseEventKind::Down(MouseButton::Left) => {
                let row = usize::from(mouse.row.saturating_sub(FIRST));
                if mouse.row >= FIRST && row < DEMOS.len() {
                    return Ok(Some(&DEMOS[row]));
                }
            }
            _ => {}
        }
    }
}

/// The line of the first demo.
const FIRST: u16 = 5;

fn render(at: usize, theme: Theme, area: Rect, buffer: &mut Buffer) {
    buffer.set_style(area, theme.text());
    let inner = Rect {
        x: area.x + 3,
        y: area.y + 1,
        width: area.width.saturating_sub(6),
        height: area.height.saturating_sub(2),
    };
    let mut pen = Pen::new(buffer, inner, theme, 0);
    pen.line("RAPID MAGPIE", theme.accent());
    pen.line("the clockmakers' yard: choose a rulebook to open on a private copy", theme.faint());
    pen.gap();
    pen.heading("demos");
    for (number, demo) in DEMOS.iter().enumerate() {
        let (mark, style) = if number == at { ("› ", theme.chosen()) } else { ("  ", theme.text()) };
        pen.parts(&[
            (mark, theme.accent()),
            (&format!("{:<16}", demo.name), style),
            ("  ", theme.text()),
            (demo.shows, theme.faint()),
        ]);
    }
    pen.gap();
    pen.line("↑ ↓ choose   Enter open   q leave", theme.faint());
    pen.line("your own: rapid-magpie FILE.magpie   a new one: rapid-magpie new FILE", theme.faint());
}
