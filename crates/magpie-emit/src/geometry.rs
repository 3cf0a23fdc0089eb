//! The arithmetic between positions, cells and indices as a tree (docs/model.md, section 1): the same operations in the same
//! order as `convert`, so that the last bit is the same.

use crate::names::{self, KindName};
use crate::tree::{Constant, Expr, Map, Method, Module, Number, Op, Stmt, Type};
use magpie_core::rulebook::{Kind, MapCells, Rulebook};
use magpie_core::space::{IndexOrder, RowsFrom, Where, YAxis};

use std::collections::BTreeSet;

fn binary(op: Op, left: Expr, right: Expr) -> Expr {
    Expr::Binary(op, Box::new(left), Box::new(right))
}

fn add(left: Expr, right: Expr) -> Expr {
    binary(Op::Add, left, right)
}

fn sub(left: Expr, right: Expr) -> Expr {
    binary(Op::Sub, left, right)
}

fn mul(left: Expr, right: Expr) -> Expr {
    binary(Op::Mul, left, right)
}

fn div(left: Expr, right: Expr) -> Expr {
    binary(Op::Div, left, right)
}

fn all(conditions: Vec<Expr>) -> Expr {
    conditions.into_iter().reduce(|left, right| binary(Op::And, left, right)).unwrap_or(Expr::Int(1))
}

fn var(name: &'static str) -> Expr {
    Expr::Var(name.into())
}

fn of(name: &'static str, field: &'static str) -> Expr {
    Expr::Field(Box::new(var(name)), field.into())
}

fn when(condition: Expr, body: Vec<Stmt>) -> Stmt {
    Stmt::If(condition, body, Vec::new())
}

fn float(value: Expr) -> Expr {
    Expr::ToFloat(Box::new(value))
}

/// What is known while the tree is made.
struct Maker<'b> {
    book: &'b Rulebook,
    has_void: bool,
    constants: Vec<Constant>,
}

impl Maker<'_> {
    fn has_hotspot(&self) -> bool {
        self.book.geometry.hotspot != (0.0, 0.0)
    }

    /// A constant's value.
    fn value(&self, name: &str) -> Option<f64> {
        self.constants.iter().find(|constant| constant.name == name).and_then(|constant| match constant.value {
            Number::Float(value) => Some(value),
            Number::Int(_) => None,
        })
    }

    /// Times a constant; one that is 1 changes no bit.
    fn times(&self, value: Expr, by: &'static str) -> Expr {
        if self.value(by) == Some(1.0) { value } else { mul(value, Expr::Const(by.into())) }
    }

    /// Divided by a constant; one that is 1 changes no bit.
    fn div_by(&self, value: Expr, by: &'static str) -> Expr {
        if self.value(by) == Some(1.0) { value } else { div(value, Expr::Const(by.into())) }
    }

    /// Less a constant; 0 changes no bit (added, it makes 0 of -0).
    fn less(&self, value: Expr, by: &'static str) -> Expr {
        if self.value(by) == Some(0.0) { value } else { sub(value, Expr::Const(by.into())) }
    }

    fn has_gap(&self) -> bool {
        self.book.geometry.gap.0 > 0.0 || self.book.geometry.gap.1 > 0.0
    }

    /// Pixels from the first corner, counted the way columns or rows count, of a position to which `hotspot` is added.
    fn past_corner(&self, vertical: bool, at: Expr, hotspot: Option<Expr>) -> Expr {
        let origin = if vertical { "origin_y" } else { "origin_x" };
        let moved = match hotspot {
            Some(hotspot) => add(at, hotspot),
            None => at,
        };
        let along = sub(moved, Expr::Own(origin.into()));
        if vertical && self.book.geometry.row_sign() < 0.0 { Expr::Negative(Box::new(along)) } else { along }
    }

    /// The rulebook's hotspot along an axis, where it has one.
    fn hotspot(&self, vertical: bool) -> Option<Expr> {
        self.has_hotspot().then_some(Expr::Const(if vertical { "HOTSPOT_Y" } else { "HOTSPOT_X" }.into()))
    }

    fn cell_of(&self, hotspot: impl Fn(bool) -> Option<Expr>) -> Vec<Stmt> {
        let line = |vertical: bool, at: &'static str, pitch: &'static str| {
            let past = self.past_corner(vertical, var(at), hotspot(vertical));
            Expr::FloorInt(Box::new(div(past, Expr::Const(pitch.into()))))
        };
        vec![
            Stmt::Let("column".into(), Type::Int, line(false, "x", "PITCH_X")),
            Stmt::Let("row".into(), Type::Int, line(true, "y", "PITCH_Y")),
            Stmt::Return(Expr::Make(Type::Cell, vec![var("column"), var("row")])),
        ]
    }

    /// The cell of a position of a kind's piece, where kinds have hotspots of their own.
    fn cell_of_kind(&self) -> Option<Method> {
        let kinds = names::kinds(self.book);
        let own = |(kind, name): (&Kind, &KindName)| {
            let (x, y) = kind.hotspot?;
            let is = binary(Op::Equal, var("kind"), Expr::Kind(name.clone()));
            Some(when(is, self.cell_of(|vertical| Some(Expr::Float(if vertical { y } else { x })))))
        };
        let mut body: Vec<Stmt> = self.book.kinds.iter().zip(&kinds).filter_map(own).collect();
        if body.is_empty() {
            return None;
        }
        body.push(Stmt::Return(Expr::Call("world_to_cell".into(), vec![var("x"), var("y")])));
        Some(Method::new(
            "world_to_cell_of",
            "The cell of the world position of a piece of this kind, whose hotspot counts.",
            vec![("kind", Type::Kind), ("x", Type::Float), ("y", Type::Float)],
            Type::Cell,
            body,
        ))
    }

    /// What lies at a position whose cell is known.
    fn place(&self, hotspot: bool) -> Vec<Stmt> {
        let mut body = vec![when(
            Expr::Not(Box::new(Expr::Call("inside".into(), vec![var("cell")]))),
            vec![Stmt::Return(Expr::Place(Where::Outside))],
        )];
        if self.has_gap() {
            let axes = [
                (false, "x", "across", "PITCH_X", "CELL_WIDTH", self.book.geometry.gap.0),
                (true, "y", "down", "PITCH_Y", "CELL_HEIGHT", self.book.geometry.gap.1),
            ];
            for (vertical, at, name, pitch, size, _) in axes.into_iter().filter(|axis| axis.5 > 0.0) {
                let hotspot = if hotspot { self.hotspot(vertical) } else { None };
                body.push(Stmt::Let(name.into(), Type::Float, self.past_corner(vertical, var(at), hotspot)));
                let whole = Expr::Floor(Box::new(div(var(name), Expr::Const(pitch.into()))));
                let local = sub(var(name), mul(whole, Expr::Const(pitch.into())));
                let in_gap = binary(Op::AtLeast, local, Expr::Const(size.into()));
                body.push(when(in_gap, vec![Stmt::Return(Expr::Place(Where::Gap))]));
            }
        }
        if self.has_void {
            let is_void = Expr::IsVoid(Box::new(var("cell")));
            body.push(when(is_void, vec![Stmt::Return(Expr::Place(Where::Void))]));
        }
        body.push(Stmt::Return(Expr::Place(Where::Cell)));
        body
    }

    fn point(&self, half: bool) -> Vec<Stmt> {
        let along = |line: &'static str, pitch: &'static str, size: &'static str| {
            let corner = mul(float(of("cell", line)), Expr::Const(pitch.into()));
            if half { add(corner, div(Expr::Const(size.into()), Expr::Float(2.0))) } else { corner }
        };
        let x = add(Expr::Own("origin_x".into()), along("column", "PITCH_X", "CELL_WIDTH"));
        let down = along("row", "PITCH_Y", "CELL_HEIGHT");
        let op = if self.book.geometry.row_sign() < 0.0 { Op::Sub } else { Op::Add };
        let y = binary(op, Expr::Own("origin_y".into()), down);
        vec![Stmt::Return(Expr::Make(Type::Point, vec![x, y]))]
    }

    fn cells(&self) -> Vec<Method> {
        let xy = || vec![("x", Type::Float), ("y", Type::Float)];
        let cell = || vec![("cell", Type::Cell)];
        let method = |name, doc, params, returns, body| Method::new(name, doc, params, returns, body);
        let mut place =
            vec![Stmt::Let("cell".into(), Type::Cell, Expr::Call("world_to_cell".into(), vec![var("x"), var("y")]))];
        place.extend(self.place(true));
        let clamp = |line: &'static str, count: &'static str| {
            let last = sub(Expr::Own(count.into()), Expr::Int(1));
            Expr::Clamp(Box::new(of("cell", line)), Box::new(Expr::Int(0)), Box::new(last))
        };
        let snap = vec![
            Stmt::Let("cell".into(), Type::Cell, Expr::Call("world_to_cell".into(), vec![var("x"), var("y")])),
            Stmt::Return(Expr::Make(Type::Cell, vec![clamp("column", "columns"), clamp("row", "rows")])),
        ];
        let inside = |line: &'static str, count: &'static str| {
            [
                binary(Op::AtLeast, of("cell", line), Expr::Int(0)),
                binary(Op::Less, of("cell", line), Expr::Own(count.into())),
            ]
        };
        let inside = all([inside("column", "columns"), inside("row", "rows")].concat());
        let corner_y = if self.book.geometry.row_sign() < 0.0 {
            sub(of("corner", "y"), Expr::Const("CELL_HEIGHT".into()))
        } else {
            of("corner", "y")
        };
        let rect =
            vec![of("corner", "x"), corner_y, Expr::Const("CELL_WIDTH".into()), Expr::Const("CELL_HEIGHT".into())];
        let boxed = vec![
            Stmt::Let("corner".into(), Type::Point, Expr::Call("cell_to_corner".into(), vec![var("cell")])),
            Stmt::Return(Expr::Make(Type::Rect, rect)),
        ];
        vec![
            method(
                "world_to_cell",
                "The cell of a world position, on the board or off it.",
                xy(),
                Type::Cell,
                self.cell_of(|vertical| self.hotspot(vertical)),
            ),
            method("world_where", "What lies at a world position.", xy(), Type::Where, place),
            method("snap", "The cell of the board that is nearest to a world position.", xy(), Type::Cell, snap),
            method(
                "cell_to_corner",
                "The corner of a cell where counting starts, in world px.",
                cell(),
                Type::Point,
                self.point(false),
            ),
            method("cell_to_centre", "The middle of a cell in world px.", cell(), Type::Point, self.point(true)),
            method("cell_to_box", "The rectangle of a cell, from its smallest x and y.", cell(), Type::Rect, boxed),
            method("inside", "Whether a cell lies on the board.", cell(), Type::Bool, vec![Stmt::Return(inside)]),
            self.index(),
            self.unindex(),
        ]
    }

    fn with_first(&self, place: Expr) -> Expr {
        if self.book.geometry.first_index == 0 { place } else { add(place, Expr::Const("FIRST_INDEX".into())) }
    }

    fn index(&self) -> Method {
        let by_rows = self.book.geometry.order == IndexOrder::RowMajor;
        let place = if by_rows {
            add(mul(of("cell", "row"), Expr::Own("columns".into())), of("cell", "column"))
        } else {
            add(mul(of("cell", "column"), Expr::Own("rows".into())), of("cell", "row"))
        };
        let off = Expr::Not(Box::new(Expr::Call("inside".into(), vec![var("cell")])));
        Method::new(
            "cell_to_index",
            "The place of a cell in the flat array, nothing off the board.",
            vec![("cell", Type::Cell)],
            Type::Option(Box::new(Type::Int)),
            vec![
                when(off, vec![Stmt::Return(Expr::Nothing)]),
                Stmt::Return(Expr::Some(Box::new(self.with_first(place)))),
            ],
        )
    }

    fn unindex(&self) -> Method {
        let by_rows = self.book.geometry.order == IndexOrder::RowMajor;
        let from_zero = self.book.geometry.first_index == 0;
        let name = if from_zero { "index" } else { "place" };
        let width = Expr::Own(if by_rows { "columns" } else { "rows" }.into());
        let (rest, whole) = (binary(Op::IntMod, var(name), width.clone()), binary(Op::IntDiv, var(name), width));
        let parts = if by_rows { vec![rest, whole] } else { vec![whole, rest] };
        let cells = mul(Expr::Own("columns".into()), Expr::Own("rows".into()));
        let off = binary(Op::Or, binary(Op::Less, var(name), Expr::Int(0)), binary(Op::AtLeast, var(name), cells));
        let mut body = Vec::new();
        if !from_zero {
            body.push(Stmt::Let(name.into(), Type::Int, sub(var("index"), Expr::Const("FIRST_INDEX".into()))));
        }
        body.push(when(off, vec![Stmt::Return(Expr::Nothing)]));
        body.push(Stmt::Return(Expr::Some(Box::new(Expr::Make(Type::Cell, parts)))));
        Method::new(
            "index_to_cell",
            "The cell at a place in the flat array, nothing where there is none.",
            vec![("index", Type::Int)],
            Type::Option(Box::new(Type::Cell)),
            body,
        )
    }

    /// The way between window and world.
    fn window(&self) -> Vec<Method> {
        let xy = || vec![("x", Type::Float), ("y", Type::Float)];
        let is_up = self.book.geometry.y == YAxis::Up;
        let design = |at: &'static str, bar: &'static str, scale: &'static str| {
            self.div_by(self.less(self.times(var(at), "DENSITY"), bar), scale)
        };
        let lets = || {
            vec![
                Stmt::Let("across".into(), Type::Float, design("x", "BAR_X", "SCALE_X")),
                Stmt::Let("down".into(), Type::Float, design("y", "BAR_Y", "SCALE_Y")),
            ]
        };
        let mut to_world = lets();
        let world_x = add(Expr::Const("CAMERA_X".into()), self.div_by(var("across"), "ZOOM"));
        let op = if is_up { Op::Sub } else { Op::Add };
        let world_y = binary(op, Expr::Const("CAMERA_Y".into()), self.div_by(var("down"), "ZOOM"));
        to_world.push(Stmt::Return(Expr::Make(Type::Point, vec![world_x, world_y])));
        let back = |from: Expr, scale: &'static str, bar: &'static str| {
            let scaled = self.times(self.times(from, "ZOOM"), scale);
            self.div_by(add(scaled, Expr::Const(bar.into())), "DENSITY")
        };
        let from_y =
            if is_up { sub(Expr::Const("CAMERA_Y".into()), var("y")) } else { self.less(var("y"), "CAMERA_Y") };
        let to_window = vec![Stmt::Return(Expr::Make(
            Type::Point,
            vec![back(self.less(var("x"), "CAMERA_X"), "SCALE_X", "BAR_X"), back(from_y, "SCALE_Y", "BAR_Y")],
        ))];
        let world =
            || Stmt::Let("world".into(), Type::Point, Expr::Call("window_to_world".into(), vec![var("x"), var("y")]));
        // Without a hotspot a touch and a piece lie alike.
        let bare = self.has_hotspot();
        let (cell_at, where_at) = if bare { ("cell_at", "where_at") } else { ("world_to_cell", "world_where") };
        let bare_cell = Expr::Call(cell_at.into(), vec![of("world", "x"), of("world", "y")]);
        let cell = vec![world(), Stmt::Return(bare_cell)];
        let within = |at: &'static str, size: &'static str| {
            [binary(Op::AtLeast, var(at), Expr::Float(0.0)), binary(Op::Less, var(at), Expr::Const(size.into()))]
        };
        let mut place = lets();
        let drawn = all([within("across", "DESIGN_WIDTH"), within("down", "DESIGN_HEIGHT")].concat());
        place.push(when(Expr::Not(Box::new(drawn)), vec![Stmt::Return(Expr::Place(Where::Bar))]));
        place.push(world());
        place.push(Stmt::Return(Expr::Call(where_at.into(), vec![of("world", "x"), of("world", "y")])));
        let mut at = vec![Stmt::Let("cell".into(), Type::Cell, Expr::Call("cell_at".into(), vec![var("x"), var("y")]))];
        at.extend(self.place(false));
        let centre = vec![
            Stmt::Let("centre".into(), Type::Point, Expr::Call("cell_to_centre".into(), vec![var("cell")])),
            Stmt::Return(Expr::Call("world_to_window".into(), vec![of("centre", "x"), of("centre", "y")])),
        ];
        let method = |name, doc, params, returns, body| Method::new(name, doc, params, returns, body);
        let mut found = vec![
            method("window_to_world", "The world position of a window position.", xy(), Type::Point, to_world),
            method("world_to_window", "The window position of a world position.", xy(), Type::Point, to_window),
        ];
        if bare {
            let doc = "The cell of a world position without any hotspot.";
            found.push(method("cell_at", doc, xy(), Type::Cell, self.cell_of(|_| None)));
            let doc = "What lies at a world position without any hotspot.";
            found.push(method("where_at", doc, xy(), Type::Where, at));
        }
        found.extend([
            method("window_to_cell", "The cell of a window position, on the board or off it.", xy(), Type::Cell, cell),
            method("window_where", "What lies at a window position.", xy(), Type::Where, place),
            method(
                "cell_to_window",
                "The window position of the middle of a cell.",
                vec![("cell", Type::Cell)],
                Type::Point,
                centre,
            ),
        ]);
        found
    }
}

/// All numbers that the arithmetic may need.
fn constants(book: &Rulebook) -> Vec<Constant> {
    let geometry = &book.geometry;
    let constant = |name, value, doc| Constant { name, value: Number::Float(value), doc };
    let mut found = vec![
        constant("CELL_WIDTH", geometry.size.0, "Width of a cell in px."),
        constant("CELL_HEIGHT", geometry.size.1, "Height of a cell in px."),
        constant("PITCH_X", geometry.pitch().0, "From one column to the next, in px."),
        constant("PITCH_Y", geometry.pitch().1, "From one row to the next, in px."),
    ];
    if geometry.hotspot != (0.0, 0.0) {
        found.push(constant("HOTSPOT_X", geometry.hotspot.0, "Added to the positions of pieces, in px."));
        found.push(constant("HOTSPOT_Y", geometry.hotspot.1, "The same along y, in px."));
    }
    if geometry.first_index != 0 {
        let value = Number::Int(geometry.first_index);
        found.push(Constant { name: "FIRST_INDEX", value, doc: "Index of the first cell." });
    }
    if let Some(view) = &book.view {
        let (frame, camera) = (view.frame(), view.camera(geometry.y));
        found.extend([
            constant("DENSITY", view.density, "Window px in a reported unit."),
            constant("SCALE_X", frame.k.0, "Window px in a design px, along x."),
            constant("SCALE_Y", frame.k.1, "Window px in a design px, along y."),
            constant("BAR_X", frame.bar.0, "Width of the bar left of the picture, in window px."),
            constant("BAR_Y", frame.bar.1, "Height of the bar above the picture, in window px."),
            constant("DESIGN_WIDTH", view.design.0, "Width of the picture in design px."),
            constant("DESIGN_HEIGHT", view.design.1, "Height of the picture in design px."),
            constant("CAMERA_X", camera.x, "World x of the picture's upper left corner."),
            constant("CAMERA_Y", camera.y, "World y of the picture's upper left corner."),
            constant("ZOOM", view.zoom, "Design px in a world px."),
        ]);
    }
    found
}

/// The module of a rulebook's geometry.
pub fn module(book: &Rulebook, source: &str, name: &str) -> Module {
    let has_void = book.maps.iter().any(magpie_core::rulebook::Map::has_void);
    let maker = Maker { book, has_void, constants: constants(book) };
    let map = |map: &magpie_core::rulebook::Map| {
        let corner = book.geometry.corner_of_first(map.extent);
        let line = |line: u32| -> String {
            let glyph = |column: u32| match &map.cells {
                MapCells::Legend { .. } if map.is_void(column, line) => ' ',
                MapCells::Legend { .. } | MapCells::Filled { .. } => '.',
            };
            (0..map.extent.columns).map(glyph).collect()
        };
        let mut rows: Vec<String> = (0..map.extent.rows).map(line).collect();
        if book.geometry.rows == RowsFrom::Bottom {
            rows.reverse();
        }
        Map {
            title: map.title.clone(),
            size: (map.extent.columns, map.extent.rows),
            origin: (corner.x, corner.y),
            rows,
        }
    };
    let mut methods = maker.cells();
    let of_kind = maker.cell_of_kind();
    let kinds = if of_kind.is_some() { names::kinds(book) } else { Vec::new() };
    methods.extend(of_kind);
    if book.view.is_some() {
        methods.extend(maker.window());
    }
    let mut used = BTreeSet::from(["CELL_WIDTH", "CELL_HEIGHT", "PITCH_X", "PITCH_Y"].map(String::from));
    for method in &methods {
        Stmt::each(&method.body, &mut |value| {
            if let Expr::Const(name) = value {
                used.insert(name.to_string());
            }
        });
    }
    let constants = maker.constants.iter().filter(|constant| used.contains(constant.name)).cloned().collect();
    Module {
        name: name.to_owned(),
        source: source.to_owned(),
        title: book.title.clone(),
        constants,
        maps: book.maps.iter().map(map).collect(),
        has_void,
        kinds,
        methods,
        game: None,
    }
}
