//! The view: its lines, and what is likely to be wrong with the picture and the buttons.

use super::super::diagnostic::{Code, Severity, Span};
use super::super::syntax::{Point, Size, ViewLine, ViewNode};
use super::Checker;
use super::sections::Draft;
use crate::space::whole::board_size;
use crate::space::{Button, Extent, Fit, Frame, Geometry, View, WorldPoint};

/// A rectangle in window px.
#[derive(Clone, Copy)]
struct Area {
    left: f64,
    top: f64,
    right: f64,
    bottom: f64,
}

impl Area {
    fn of(button: &Button) -> Self {
        let ((left, top), (w, h)) = (button.at, button.size);
        Self { left, top, right: left + w, bottom: top + h }
    }

    fn meets(self, other: Self) -> bool {
        self.left < other.right && other.left < self.right && self.top < other.bottom && other.top < self.bottom
    }

    /// What both have in common.
    fn within(self, other: Self) -> Self {
        Self {
            left: self.left.max(other.left),
            top: self.top.max(other.top),
            right: self.right.min(other.right),
            bottom: self.bottom.min(other.bottom),
        }
    }
}

/// The part of the window in which a board is drawn.
fn drawn(geometry: &Geometry, extent: Extent, view: &View) -> Area {
    let first = geometry.corner_of_first(extent);
    let (w, h) = board_size(geometry, extent);
    let last = WorldPoint { x: first.x + w, y: first.y + geometry.row_sign() * h };
    let [one, other] = [first, last].map(|corner| view.window_point(geometry.y, corner));
    let px = |a: f64, b: f64| (a.min(b) * view.density, a.max(b) * view.density);
    let ((left, right), (top, bottom)) = (px(one.x, other.x), px(one.y, other.y));
    let Frame { k, bar } = view.frame();
    let picture =
        Area { left: bar.0, top: bar.1, right: bar.0 + view.design.0 * k.0, bottom: bar.1 + view.design.1 * k.1 };
    Area { left, top, right, bottom }.within(picture)
}

impl Checker<'_> {
    pub(super) fn view(&mut self, draft: &mut Draft, lines: &[ViewLine], word: Span) {
        let mut view = View {
            window: (1.0, 1.0),
            design: (0.0, 0.0),
            fit: Fit::Letterbox,
            density: 1.0,
            camera: None,
            zoom: 1.0,
            buttons: Vec::new(),
        };
        let mut seen: Vec<String> = Vec::new();
        let spans = |size: &Size| (size.0.span, size.1.as_ref().map_or(size.0.span, |height| height.span));
        let (mut window, mut design) = (None, None);
        for line in lines {
            let mut key = self.words(line.word);
            match &line.node {
                ViewNode::Window(size) => {
                    view.window = self.size(size, Self::window_size);
                    window = Some(spans(size));
                }
                ViewNode::Design(size) => {
                    view.design = self.size(size, Self::window_size);
                    design = Some(spans(size));
                }
                ViewNode::Fit(fit) => view.fit = *fit,
                ViewNode::Density(number) => view.density = self.within(number, 0.001, 1000.0, "0.001 to 1,000"),
                ViewNode::Zoom(number) => view.zoom = self.within(number, 0.001, 1000.0, "0.001 to 1,000"),
                ViewNode::Camera(at) => {
                    let (x, y) = self.place(at);
                    view.camera = Some(WorldPoint { x, y });
                }
                ViewNode::Button { key: name, at: Point(x, y), size } => {
                    key = format!("button {}", name.0);
                    let at = self.place(&Point(x.clone(), y.clone()));
                    let size = self.size(size, |checker, number| {
                        checker.within(number, f64::MIN_POSITIVE, 1e6, "over 0, at most 1,000,000 px")
                    });
                    view.buttons.push(Button { key: name.0.clone(), at, size });
                    draft.buttons.push(line.word);
                }
            }
            if seen.contains(&key) {
                self.report(line.word, Code::RepeatedSection, format!("`{key}` has been said already"));
            }
            seen.push(key);
        }
        let missing_window = !seen.iter().any(|key| key == "window");
        // A broken `window` line has been reported; only a view without one lacks it.
        if missing_window && !self.body_has(word, "window") {
            let message = "a view needs its `window`";
            self.report_help(word, Code::MissingSection, message, "add `window 800 x 600 px`");
        }
        if design.is_none() {
            view.design = view.window;
        }
        if let Some((width, height)) = design.or(window) {
            let size = (view.design.0 / view.zoom, view.design.1 / view.zoom);
            draft.window = Some((width, height, size));
        }
        draft.view = Some(view);
    }

    /// Whether some line of the body below a section's word begins with `word`, readable or not.
    fn body_has(&self, section: Span, word: &str) -> bool {
        let rest = &self.source[section.end..];
        let body = rest.lines().skip(1).take_while(|line| line.is_empty() || line.starts_with([' ', '\t', '/']));
        body.into_iter().any(|line| line.split_whitespace().next() == Some(word))
    }

    /// A picture that is nearly a board on an axis.
    pub(super) fn ragged_windows(&mut self, draft: &Draft) {
        let Some((width, height, size)) = draft.window else { return };
        // A wrong number or map has been told; what follows from it is no finding of its own.
        if self.found.any(|code| code.severity() == Severity::Error) {
            return;
        }
        let (pitch, gap) = (draft.geometry.pitch(), draft.geometry.gap);
        let extents = draft.maps.iter().map(|map| map.extent);
        self.ragged_window(width, "columns", size.0, (pitch.0, gap.0), extents.clone().map(|extent| extent.columns));
        self.ragged_window(height, "rows", size.1, (pitch.1, gap.1), extents.map(|extent| extent.rows));
    }

    /// A picture that is nearly a board, but shows part of a cell at its edge or leaves part of one free.
    fn ragged_window(
        &mut self,
        span: Span,
        what: &str,
        size: f64,
        (pitch, gap): (f64, f64),
        counts: impl Iterator<Item = u32> + Clone,
    ) {
        // A board may be measured with the gap behind its last cell or without it.
        let boards = counts.flat_map(|count| [0.0, gap].map(|gap| (count, f64::from(count) * pitch - gap)));
        let same = |board: f64| (size - board).abs() < 1e-9 * board.abs().max(1.0);
        if boards.clone().any(|(_, board)| same(board)) {
            return;
        }
        let off = |(_, board): &(u32, f64)| (size - board).abs();
        let nearest = boards.filter(|board| off(board) < pitch).min_by(|one, other| off(one).total_cmp(&off(other)));
        if let Some((count, board)) = nearest {
            let [shown, board] = [size, board].map(crate::space::show);
            let message = format!("{shown} px, where a board of {count} {what} is {board} px: part of a cell");
            self.report(span, Code::RaggedWindow, message);
        }
    }

    /// Buttons that take touches from each other or from a board, and those that cannot be touched.
    pub(super) fn buttons(&mut self, draft: &Draft) {
        let Some(view) = &draft.view else { return };
        if self.found.any(|code| code.severity() == Severity::Error) {
            return;
        }
        let window = Area { left: 0.0, top: 0.0, right: view.window.0, bottom: view.window.1 };
        for (at, (button, word)) in view.buttons.iter().zip(&draft.buttons).enumerate() {
            let area = Area::of(button);
            if !area.meets(window) {
                let message = format!("the button of `{}` lies outside the window: it cannot be touched", button.key);
                self.report_help(
                    *word,
                    Code::ButtonPlace,
                    message,
                    "places of buttons are in window px, from the upper left",
                );
            } else if let Some(other) = view.buttons[..at].iter().find(|other| Area::of(other).meets(area)) {
                let message = format!(
                    "the button of `{}` lies over that of `{}`, which has the touches where both are",
                    button.key, other.key
                );
                self.report_help(*word, Code::ButtonPlace, message, "put them beside each other");
            } else if let Some(map) = draft.maps.iter().find(|map| drawn(&draft.geometry, map.extent, view).meets(area))
            {
                let message = format!(
                    "the button of `{}` lies over the board of \"{}\": a touch there is the key, and no tap",
                    button.key, map.title
                );
                self.report_help(
                    *word,
                    Code::ButtonPlace,
                    message,
                    "put it beside the board, in a bar or a wider window",
                );
            }
        }
    }
}
