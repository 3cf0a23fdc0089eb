//! A sheet of paper on which things are drawn, and the drawing it becomes.

use crate::palette::{PAPER, Rgb};
use svg::Document;
use svg::node::Blob;
use svg::node::element::{Circle, Group, Line, Path, Rectangle, Text, Title};

/// A finished drawing.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Drawing {
    /// Its title.
    pub title: String,
    svg: String,
}

impl Drawing {
    /// The drawing as an SVG document.
    pub fn svg(&self) -> &str {
        &self.svg
    }

    /// The drawing as a PDF of one page, the font of its text in it.
    ///
    /// # Errors
    /// A [`DrawError`](crate::DrawError) where the drawing cannot be made a PDF.
    #[cfg(feature = "pdf")]
    pub fn pdf(&self) -> Result<Vec<u8>, crate::DrawError> {
        crate::pdf::of_svg(&self.svg, &self.title)
    }
}

/// Which part of a text stands at its place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Anchor {
    Start,
    Middle,
    End,
}

/// How a text looks.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Type {
    pub size: f64,
    pub colour: Rgb,
    pub bold: bool,
    pub mono: bool,
}

impl Type {
    pub(crate) const fn new(size: f64, colour: Rgb) -> Self {
        Self { size, colour, bold: false, mono: false }
    }

    pub(crate) const fn bold(self) -> Self {
        Self { bold: true, ..self }
    }

    pub(crate) const fn mono(self) -> Self {
        Self { mono: true, ..self }
    }
}

/// A sheet of so many units.
pub(crate) struct Sheet {
    document: Document,
    title: String,
}

fn hex((r, g, b): Rgb) -> String {
    format!("#{r:02x}{g:02x}{b:02x}")
}

/// Two decimals are finer than any printer.
fn fine(number: f64) -> f64 {
    (number * 100.0).round() / 100.0 + 0.0
}

/// Text that SVG and PDF can hold: no control characters, and blanks that do not run together.
pub(crate) fn clean(text: &str) -> String {
    let safe = |c: char| match c {
        ' ' => '\u{a0}',
        c if c.is_control() || c == '\u{fffe}' || c == '\u{ffff}' => '\u{fffd}',
        c => c,
    };
    text.chars().map(safe).collect()
}

impl Sheet {
    pub(crate) fn new(title: &str, width: f64, height: f64) -> Self {
        let (width, height) = (fine(width), fine(height));
        let paper = Rectangle::new().set("width", width).set("height", height).set("fill", hex(PAPER));
        let title = clean(title);
        let document = Document::new()
            .set("width", width)
            .set("height", height)
            .set("viewBox", (0, 0, width, height))
            .set("font-family", "DejaVu Sans, sans-serif")
            .add(Title::new(title.clone()))
            .add(paper);
        Self { document, title }
    }

    fn add(&mut self, node: impl Into<Box<dyn svg::Node>>) {
        svg::Node::append(&mut self.document, node);
    }

    pub(crate) fn rect(&mut self, (x, y, w, h): (f64, f64, f64, f64), fill: Rgb, round: f64) {
        let mut node = Rectangle::new()
            .set("x", fine(x))
            .set("y", fine(y))
            .set("width", fine(w))
            .set("height", fine(h))
            .set("fill", hex(fill));
        if round > 0.0 {
            node = node.set("rx", fine(round));
        }
        self.add(node);
    }

    pub(crate) fn frame(&mut self, (x, y, w, h): (f64, f64, f64, f64), stroke: Rgb, width: f64) {
        let node = Rectangle::new()
            .set("x", fine(x))
            .set("y", fine(y))
            .set("width", fine(w))
            .set("height", fine(h))
            .set("fill", "none")
            .set("stroke", hex(stroke))
            .set("stroke-width", fine(width));
        self.add(node);
    }

    pub(crate) fn line(&mut self, from: (f64, f64), to: (f64, f64), stroke: Rgb, width: f64) {
        let node = Line::new()
            .set("x1", fine(from.0))
            .set("y1", fine(from.1))
            .set("x2", fine(to.0))
            .set("y2", fine(to.1))
            .set("stroke", hex(stroke))
            .set("stroke-width", fine(width));
        self.add(node);
    }

    pub(crate) fn disc(&mut self, (x, y): (f64, f64), r: f64, fill: Rgb) {
        let node = Circle::new().set("cx", fine(x)).set("cy", fine(y)).set("r", fine(r)).set("fill", hex(fill));
        self.add(node);
    }

    /// A closed shape through these points.
    pub(crate) fn shape(&mut self, points: &[(f64, f64)], fill: Rgb) {
        let steps: Vec<String> = points.iter().map(|(x, y)| format!("{},{}", fine(*x), fine(*y))).collect();
        let path = Path::new().set("d", format!("M{}Z", steps.join("L"))).set("fill", hex(fill));
        self.add(path);
    }

    pub(crate) fn text(&mut self, (x, y): (f64, f64), anchor: Anchor, look: Type, text: &str) {
        let text = clean(text);
        if text.is_empty() {
            return;
        }
        let mut node = Text::new(text)
            .set("x", fine(x))
            .set("y", fine(y))
            .set("font-size", fine(look.size))
            .set("fill", hex(look.colour));
        match anchor {
            Anchor::Start => {}
            Anchor::Middle => node = node.set("text-anchor", "middle"),
            Anchor::End => node = node.set("text-anchor", "end"),
        }
        if look.bold {
            node = node.set("font-weight", "bold");
        }
        if look.mono {
            node = node.set("font-family", "DejaVu Sans Mono, monospace");
        }
        self.add(node);
    }

    /// Lays a drawing whose units are so much finer over the sheet, corner on corner.
    pub(crate) fn inlay(&mut self, finer: f64, svg: &str) {
        let inside = svg.find('>').map_or(svg, |at| &svg[at + 1..]).trim_end().trim_end_matches("</svg>");
        let node = Group::new().set("transform", format!("scale({})", 1.0 / finer)).add(Blob::new(inside));
        self.add(node);
    }

    pub(crate) fn finish(self) -> Drawing {
        Drawing { title: self.title, svg: format!("{}\n", self.document) }
    }
}
