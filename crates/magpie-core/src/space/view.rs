//! How the world reaches the window: density, fit, bars, camera and zoom.

use super::{WorldPoint, YAxis};

/// A position as the window system reports it, in pixels or touch points.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct WindowPoint {
    /// To the right from the window's upper left corner.
    pub x: f64,
    /// Downwards from the window's upper left corner.
    pub y: f64,
}

/// How the design picture is fitted into the window.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Fit {
    /// As large as fits, with bars.
    Letterbox,
    /// The largest whole factor that fits, at least 1, with bars.
    Integer,
    /// Filling the window, each axis by its own factor.
    Stretch,
    /// Factor 1, at the upper left corner.
    None,
}

impl Fit {
    /// The word of the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Letterbox => "letterbox",
            Self::Integer => "integer",
            Self::Stretch => "stretch",
            Self::None => "none",
        }
    }
}

/// A touch area of the window that acts as a key.
#[derive(Clone, Debug, PartialEq)]
pub struct Button {
    /// The key, as in `on key`.
    pub key: String,
    /// Upper left corner, in window pixels.
    pub at: (f64, f64),
    /// Width and height, in window pixels.
    pub size: (f64, f64),
}

/// The `view` of a rulebook.
#[derive(Clone, Debug, PartialEq)]
pub struct View {
    /// Window size in window pixels.
    pub window: (f64, f64),
    /// Size of the design picture in design pixels.
    pub design: (f64, f64),
    /// How the design fits the window.
    pub fit: Fit,
    /// Window pixels a reported unit.
    pub density: f64,
    /// World position of the design's upper left corner, where given.
    pub camera: Option<WorldPoint>,
    /// Design pixels a world pixel.
    pub zoom: f64,
    /// Touch areas.
    pub buttons: Vec<Button>,
}

/// Factors and bars of a view: window px = bar + design * k.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Frame {
    /// Window pixels a design pixel, both axes.
    pub k: (f64, f64),
    /// Width of the left bar and height of the upper one, in window pixels.
    pub bar: (f64, f64),
}

impl View {
    /// The factors and bars of the fit.
    pub fn frame(&self) -> Frame {
        let ((ww, wh), (dw, dh)) = (self.window, self.design);
        let centred = |k: f64| Frame { k: (k, k), bar: ((ww - dw * k) / 2.0, (wh - dh * k) / 2.0) };
        let least = (ww / dw).min(wh / dh);
        match self.fit {
            Fit::Letterbox => centred(least),
            Fit::Integer => centred(least.floor().max(1.0)),
            Fit::Stretch => Frame { k: (ww / dw, wh / dh), bar: (0.0, 0.0) },
            Fit::None => Frame { k: (1.0, 1.0), bar: (0.0, 0.0) },
        }
    }

    /// World position of the design's upper left corner.
    pub fn camera(&self, y: YAxis) -> WorldPoint {
        self.camera.unwrap_or(match y {
            YAxis::Down => WorldPoint { x: 0.0, y: 0.0 },
            YAxis::Up => WorldPoint { x: 0.0, y: self.design.1 / self.zoom },
        })
    }

    /// The design position of a window position.
    pub fn design_point(&self, point: WindowPoint) -> (f64, f64) {
        let Frame { k, bar } = self.frame();
        ((point.x * self.density - bar.0) / k.0, (point.y * self.density - bar.1) / k.1)
    }

    /// Whether a design position lies in the drawn picture.
    pub fn drawn(&self, design: (f64, f64)) -> bool {
        design.0 >= 0.0 && design.0 < self.design.0 && design.1 >= 0.0 && design.1 < self.design.1
    }

    /// The button under a window position, the first of the rulebook where two overlap. A button owns its upper and left
    /// edge.
    pub fn button_at(&self, point: WindowPoint) -> Option<&Button> {
        let (x, y) = (point.x * self.density, point.y * self.density);
        self.buttons.iter().find(|button| {
            let (left, top) = button.at;
            x >= left && x < left + button.size.0 && y >= top && y < top + button.size.1
        })
    }

    /// The world position of a design position.
    pub fn world_of_design(&self, y: YAxis, design: (f64, f64)) -> WorldPoint {
        let camera = self.camera(y);
        let down = design.1 / self.zoom;
        WorldPoint {
            x: camera.x + design.0 / self.zoom,
            y: if y == YAxis::Up { camera.y - down } else { camera.y + down },
        }
    }

    /// The world position of a window position.
    pub fn world(&self, y: YAxis, point: WindowPoint) -> WorldPoint {
        self.world_of_design(y, self.design_point(point))
    }

    /// The window position of a world position.
    pub fn window_point(&self, y: YAxis, point: WorldPoint) -> WindowPoint {
        let camera = self.camera(y);
        let Frame { k, bar } = self.frame();
        let down = if y == YAxis::Up { camera.y - point.y } else { point.y - camera.y };
        WindowPoint {
            x: ((point.x - camera.x) * self.zoom * k.0 + bar.0) / self.density,
            y: (down * self.zoom * k.1 + bar.1) / self.density,
        }
    }
}
