//! The colours of the language's palette, and those of paper.

use magpie_core::rulebook::Colour;

/// Red, green, blue.
pub type Rgb = (u8, u8, u8);

/// Dark blue-grey, nearly black.
pub const INK: Rgb = (0x23, 0x29, 0x31);
/// Dark grey.
pub const ASH: Rgb = (0x4a, 0x4f, 0x55);
/// Blue-grey.
pub const SLATE: Rgb = (0x5c, 0x68, 0x76);
/// Pale, the colour of text.
pub const BONE: Rgb = (0xdc, 0xd8, 0xcb);
/// Blue-green, the accent.
pub const TEAL: Rgb = (0x2f, 0xb0, 0xa6);
/// Yellow-green.
pub const MOSS: Rgb = (0x7f, 0x9c, 0x52);
/// Warm yellow.
pub const AMBER: Rgb = (0xe3, 0xa8, 0x3f);
/// Brown-orange.
pub const COPPER: Rgb = (0xc6, 0x7b, 0x4b);
/// Red.
pub const ROSE: Rgb = (0xe0, 0x5a, 0x6e);
/// Violet.
pub const PLUM: Rgb = (0x9c, 0x72, 0xb4);
/// Light blue.
pub const SKY: Rgb = (0x6c, 0xa6, 0xd6);
/// Pale brown.
pub const SAND: Rgb = (0xc9, 0xb4, 0x7e);

/// The paper of drawings.
pub const PAPER: Rgb = (0xfd, 0xfc, 0xf8);
/// Text on paper.
pub const TEXT: Rgb = (0x1d, 0x22, 0x28);
/// Labels on paper.
pub const FAINT: Rgb = (0x6b, 0x72, 0x7a);
/// Rules on paper.
pub const RULE: Rgb = (0xc3, 0xc6, 0xc6);
/// The accent on paper, dark enough to be read.
pub const ACCENT: Rgb = (0x0f, 0x7d, 0x75);
/// What is wrong, on paper.
pub const WRONG: Rgb = (0xb8, 0x2f, 0x48);

/// The numbers of a rulebook's colour; names that are not in the palette are bone.
pub fn rgb(colour: &Colour) -> Rgb {
    match colour {
        Colour::Rgb(r, g, b) => (*r, *g, *b),
        Colour::Named(name) => match name.as_str() {
            "ink" => INK,
            "ash" => ASH,
            "slate" => SLATE,
            "teal" => TEAL,
            "moss" => MOSS,
            "amber" => AMBER,
            "copper" => COPPER,
            "rose" => ROSE,
            "plum" => PLUM,
            "sky" => SKY,
            "sand" => SAND,
            _ => BONE,
        },
    }
}

/// A colour mixed with another; 255 is the first alone.
pub fn mix(one: Rgb, other: Rgb, share: u8) -> Rgb {
    let part = |one: u8, other: u8| {
        let share = u16::from(share);
        ((u16::from(one) * share + u16::from(other) * (255 - share)) / 255) as u8
    };
    (part(one.0, other.0), part(one.1, other.1), part(one.2, other.2))
}

/// Whether dark text reads better on a colour than pale text.
pub fn is_light((r, g, b): Rgb) -> bool {
    u32::from(r) * 3 + u32::from(g) * 6 + u32::from(b) > 1200
}
