//! Colours: one palette, with fallbacks for terminals that have fewer.

use magpie_draw::palette::{AMBER, BONE, PLUM, ROSE, SLATE, TEAL, mix};
pub use magpie_draw::palette::{Rgb, rgb};
use ratatui::style::{Color, Modifier, Style};

/// How many colours the terminal has.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Depth {
    /// 24 bits.
    Full,
    /// 256 colours.
    Table,
    /// 16 colours.
    Sixteen,
    /// None: weight and marks alone.
    None,
}

/// The colours of the workbench.
#[derive(Clone, Copy, Debug)]
pub struct Theme {
    depth: Depth,
}

const GROUND: Rgb = (0x10, 0x12, 0x15);

impl Theme {
    /// The theme for the terminal that the environment describes.
    pub fn from_environment() -> Self {
        let is = |name: &str, part: &str| std::env::var(name).is_ok_and(|value| value.contains(part));
        let depth = if std::env::var_os("NO_COLOR").is_some_and(|value| !value.is_empty()) || is("TERM", "dumb") {
            Depth::None
        } else if is("COLORTERM", "truecolor") || is("COLORTERM", "24bit") || is("TERM", "direct") {
            Depth::Full
        } else if is("TERM", "256") {
            Depth::Table
        } else {
            Depth::Sixteen
        };
        Self { depth }
    }

    /// A colour mixed with the ground of the screen; 255 is the colour alone.
    pub fn dim(rgb: Rgb, share: u8) -> Rgb {
        mix(rgb, GROUND, share)
    }

    /// The terminal's colour nearest to these numbers.
    pub fn colour(self, rgb: Rgb) -> Color {
        match self.depth {
            Depth::Full => Color::Rgb(rgb.0, rgb.1, rgb.2),
            Depth::Table => {
                let level = |part: u8| (u16::from(part) * 5 + 127) / 255;
                let (r, g, b) = (level(rgb.0), level(rgb.1), level(rgb.2));
                if r == g && g == b {
                    let sum = u16::from(rgb.0) + u16::from(rgb.1) + u16::from(rgb.2);
                    return Color::Indexed((232 + (sum * 23 / 765)) as u8);
                }
                Color::Indexed((16 + 36 * r + 6 * g + b) as u8)
            }
            Depth::Sixteen => sixteen(rgb),
            Depth::None => Color::Reset,
        }
    }

    /// Whether there are colours at all.
    pub fn has_colour(self) -> bool {
        self.depth != Depth::None
    }

    fn on_ground(self, rgb: Rgb) -> Style {
        Style::new().fg(self.colour(rgb)).bg(self.colour(GROUND))
    }

    /// Plain text.
    pub fn text(self) -> Style {
        self.on_ground(BONE)
    }

    /// Text of less weight: labels, hints, rims.
    pub fn faint(self) -> Style {
        self.on_ground(Self::dim(BONE, 150))
    }

    /// Borders and rules.
    pub fn rule(self) -> Style {
        self.on_ground(Self::dim(SLATE, 150))
    }

    /// The one accent.
    pub fn accent(self) -> Style {
        self.on_ground(TEAL).add_modifier(Modifier::BOLD)
    }

    /// What waits for the user.
    pub fn waiting(self) -> Style {
        self.on_ground(AMBER).add_modifier(Modifier::BOLD)
    }

    /// What holds.
    pub fn granted(self) -> Style {
        self.on_ground(TEAL)
    }

    /// What is refused or wrong.
    pub fn refused(self) -> Style {
        self.on_ground(ROSE).add_modifier(Modifier::BOLD)
    }

    /// A chosen tab or row.
    pub fn chosen(self) -> Style {
        if self.has_colour() {
            Style::new().fg(self.colour(GROUND)).bg(self.colour(TEAL)).add_modifier(Modifier::BOLD)
        } else {
            Style::new().add_modifier(Modifier::REVERSED | Modifier::BOLD)
        }
    }

    /// A touch area that stands for a key.
    pub fn button(self) -> Style {
        if self.has_colour() {
            Style::new().fg(self.colour(GROUND)).bg(self.colour(Self::dim(BONE, 200))).add_modifier(Modifier::BOLD)
        } else {
            Style::new().add_modifier(Modifier::REVERSED | Modifier::BOLD)
        }
    }

    /// Numbers of the accent's colour for backgrounds.
    pub const fn accent_rgb() -> Rgb {
        TEAL
    }

    /// Numbers of the refusing colour for backgrounds.
    pub const fn refused_rgb() -> Rgb {
        ROSE
    }

    /// Numbers of the waiting colour for backgrounds.
    pub const fn waiting_rgb() -> Rgb {
        AMBER
    }

    /// Numbers of a second curve beside the accent's.
    pub const fn other_rgb() -> Rgb {
        PLUM
    }

    /// Numbers of the screen's ground.
    pub const fn ground_rgb() -> Rgb {
        GROUND
    }
}

fn sixteen((r, g, b): Rgb) -> Color {
    let (most, least) = (r.max(g).max(b), r.min(g).min(b));
    if most - least < 36 {
        return match most {
            0..60 => Color::Black,
            60..130 => Color::DarkGray,
            130..200 => Color::Gray,
            _ => Color::White,
        };
    }
    let high = |part: u8| part > least + (most - least) / 2;
    match (high(r), high(g), high(b)) {
        (true, false, false) => Color::Red,
        (false, true, false) => Color::Green,
        (true, true, false) => Color::Yellow,
        (false, false, true) => Color::Blue,
        (true, false, true) => Color::Magenta,
        (false, true, true) => Color::Cyan,
        _ => Color::White,
    }
}
