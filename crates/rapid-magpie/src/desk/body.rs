//! A free body among the cells: its box at half a character's height, the way it took, the corners that caught it.

use super::painter::Painter;
use crate::ui::theme::{self, Theme};
use magpie_core::rulebook::KindId;
use magpie_core::space::{Extent, WorldPoint};
use ratatui::buffer::Buffer;
use ratatui::style::{Modifier, Style};
use std::collections::BTreeMap;

/// What a way looks like in a character: by its quarters, the upper left, upper right, lower left and lower right one.
const QUARTERS: [&str; 16] = [" ", "▘", "▝", "▀", "▖", "▌", "▞", "▛", "▗", "▚", "▐", "▜", "▄", "▙", "▟", "█"];

impl Painter<'_> {
    /// A place of the world in characters and their halves, counted from the upper left of the screen.
    fn in_halves(&self, extent: Extent, at: WorldPoint) -> (f64, f64) {
        let (w, h) = self.layout.size;
        let (across, down) = self.book.geometry.as_seen(extent, at);
        let (across, down) = (across - f64::from(self.layout.first.0), down - f64::from(self.layout.first.1));
        (
            f64::from(self.layout.area.x) + across * f64::from(w),
            2.0 * (f64::from(self.layout.area.y) + down * f64::from(h)),
        )
    }

    /// The box of a body around its middle, and the glyph of its kind there.
    pub(super) fn body(&self, kind: KindId, (at, size): (WorldPoint, (f64, f64)), extent: Extent, buffer: &mut Buffer) {
        let side = |by: f64| WorldPoint { x: at.x + by * size.0 / 2.0, y: at.y + by * size.1 / 2.0 };
        let (one, other) = (self.in_halves(extent, side(-1.0)), self.in_halves(extent, side(1.0)));
        let (left, right) = (one.0.min(other.0), one.0.max(other.0));
        let (top, bottom) = (one.1.min(other.1), one.1.max(other.1));
        let area = self.layout.area;
        let found = self.book.kind(kind);
        let colour = theme::rgb(&found.colour);
        let inside = |x: u16, half: u32| {
            let (x, y) = (f64::from(x) + 0.5, f64::from(half) + 0.5);
            x >= left && x < right && y >= top && y < bottom
        };
        for place in area.positions() {
            let halves = [0, 1].map(|lower| inside(place.x, u32::from(place.y) * 2 + lower));
            // The lower half block alone reaches its edges in any terminal: as the ground below a body, or as the body.
            let (symbol, is_ground) = match halves {
                [true, true] => (" ", false),
                [true, false] => ("▄", true),
                [false, true] => ("▄", false),
                [false, false] => continue,
            };
            let Some(cell) = buffer.cell_mut(place) else { continue };
            let (ground, body) = (cell.bg, self.theme.colour(colour));
            cell.set_symbol(symbol);
            if self.theme.has_colour() {
                match (symbol, is_ground) {
                    ("▄", false) => cell.set_fg(body).set_bg(ground),
                    _ => cell.set_fg(ground).set_bg(body),
                };
            } else {
                cell.set_style(Style::new().add_modifier(Modifier::REVERSED));
            }
        }
        let (x, half) = self.in_halves(extent, at);
        let place = (x.max(0.0) as u16, (half / 2.0).max(0.0) as u16);
        if area.contains(place.into()) {
            let light = u32::from(colour.0) * 3 + u32::from(colour.1) * 6 + u32::from(colour.2) > 1200;
            let ink = if light { Theme::ground_rgb() } else { (240, 236, 226) };
            let style =
                Style::new().fg(self.theme.colour(ink)).bg(self.theme.colour(colour)).add_modifier(Modifier::BOLD);
            buffer.set_string(place.0, place.1, found.glyph.to_string(), style);
        }
    }

    /// The way of a body as a line through what is empty; where it has come elsewhere at once there is none.
    pub(super) fn way(&self, extent: Extent, buffer: &mut Buffer) {
        let pitch = self.book.geometry.pitch();
        let mut quarters: BTreeMap<(i64, i64), u8> = BTreeMap::new();
        for pair in self.marks.way.windows(2) {
            let leapt = (pair[1].x - pair[0].x).abs() > pitch.0 || (pair[1].y - pair[0].y).abs() > pitch.1;
            let (from, to) = (self.in_halves(extent, pair[0]), self.in_halves(extent, pair[1]));
            let steps = (2.0 * (to.0 - from.0).abs()).max((to.1 - from.1).abs()).ceil().max(1.0) as u32;
            for step in 0..=steps {
                let share = if leapt { 1.0 } else { f64::from(step) / f64::from(steps) };
                let (x, half) = (from.0 + (to.0 - from.0) * share, from.1 + (to.1 - from.1) * share);
                let (x, half) = ((2.0 * x).floor() as i64, half.floor() as i64);
                let bit = (half.rem_euclid(2) * 2 + x.rem_euclid(2)) as u8;
                *quarters.entry((half.div_euclid(2), x.div_euclid(2))).or_default() |= 1 << bit;
            }
        }
        for ((y, x), bits) in quarters {
            let (Ok(x), Ok(y)) = (u16::try_from(x), u16::try_from(y)) else { continue };
            let Some(cell) = buffer.cell_mut((x, y)).filter(|_| self.layout.area.contains((x, y).into())) else {
                continue;
            };
            if matches!(cell.symbol(), " " | "·") {
                cell.set_symbol(QUARTERS[usize::from(bits)]).set_fg(self.theme.colour(Theme::waiting_rgb()));
            }
        }
    }

    /// The corners that have caught a body.
    pub(super) fn corners(&self, extent: Extent, buffer: &mut Buffer) {
        for corner in &self.marks.corners {
            let (x, half) = self.in_halves(extent, *corner);
            let place = (x.max(0.0) as u16, (half / 2.0).max(0.0) as u16);
            if self.layout.area.contains(place.into()) {
                let style = Style::new().fg(self.theme.colour(Theme::refused_rgb())).add_modifier(Modifier::BOLD);
                buffer.set_string(place.0, place.1, "◆", style);
            }
        }
    }
}
