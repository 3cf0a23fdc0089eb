//! Rust, edition 2021.

use crate::File;
use crate::names::KindName;
use crate::printer::{Lines, Printer, Syntax, Tester, asserts, body, double, expr, head, number, pascal, quoted};
use crate::tests_of::Checks;
use crate::tree::{Expr, Method, Module, Number, Type};
use magpie_core::space::{Cell, Where};

pub struct Rust;

fn kind(kind: &Type) -> String {
    match kind {
        Type::Int => "i64".into(),
        Type::Float => "f64".into(),
        Type::Bool => "bool".into(),
        Type::Cell => "Cell".into(),
        Type::Point => "Point".into(),
        Type::Rect => "Rect".into(),
        Type::Where => "Where".into(),
        Type::Kind => "Kind".into(),
        Type::Option(inner) => format!("Option<{}>", self::kind(inner)),
    }
}

impl Syntax for Rust {
    fn name(&self, name: &str) -> String {
        name.to_owned()
    }
    fn own(&self, name: &str) -> String {
        format!("self.{name}")
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        format!("self.{name}({})", arguments.join(", "))
    }
    fn make(&self, kind: &Type, arguments: &[String]) -> String {
        let field = |(name, value): (&&str, &String)| {
            if *name == value { value.clone() } else { format!("{name}: {value}") }
        };
        let fields: Vec<String> = kind.fields().iter().zip(arguments).map(field).collect();
        format!("{} {{ {} }}", self::kind(kind), fields.join(", "))
    }
    fn place(&self, place: Where) -> String {
        format!("Where::{}", pascal(place.word()))
    }
    fn kind_name(&self, kind: &KindName) -> String {
        format!("Kind::{}", pascal(&kind.name))
    }
    fn floor(&self, value: &str) -> String {
        format!("({value}).floor()")
    }
    fn floor_int(&self, value: &str) -> String {
        format!("({value}).floor() as i64")
    }
    fn to_float(&self, value: &str) -> String {
        format!("{value} as f64")
    }
    fn clamp(&self, value: &str, low: &str, high: &str) -> String {
        format!("{value}.clamp({low}, {high})")
    }
    fn is_void(&self, cell: &str) -> String {
        format!("self.void[{cell}.row as usize].as_bytes()[{cell}.column as usize] == b' '")
    }
    fn some(&self, value: &str) -> String {
        format!("Some({value})")
    }
    fn nothing(&self) -> String {
        "None".into()
    }
    fn declare(&self, name: &str, _: &Type, value: &str) -> String {
        format!("let {name} = {value};")
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![format!("return {};", expr(self, value))]
    }
    fn give_last(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![expr(self, value)]
    }
    fn begin_if(&self, condition: &str) -> String {
        format!("if {condition} {{")
    }
}

impl Printer for Rust {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let mut out = Lines::default();
        out.lines(head(module, "//!")).gap();
        out.line("#![allow(dead_code, clippy::all)]").gap();
        for (name, fields) in [
            ("Cell", "pub column: i64, pub row: i64"),
            ("Point", "pub x: f64, pub y: f64"),
            ("Rect", "pub x: f64, pub y: f64, pub w: f64, pub h: f64"),
        ] {
            out.line("#[derive(Clone, Copy, Debug, PartialEq)]")
                .line(format!("pub struct {name} {{ {fields} }}"))
                .gap();
        }
        out.line("#[derive(Clone, Copy, Debug, PartialEq, Eq)]");
        let variants: Vec<String> = Where::ALL.iter().map(|place| pascal(place.word())).collect();
        out.line(format!("pub enum Where {{ {} }}", variants.join(", "))).gap();
        if !module.kinds.is_empty() {
            let kinds: Vec<String> = module.kinds.iter().map(|kind| pascal(&kind.name)).collect();
            out.line("#[derive(Clone, Copy, Debug, PartialEq, Eq)]");
            out.line(format!("pub enum Kind {{ {} }}", kinds.join(", "))).gap();
        }
        for constant in &module.constants {
            let kind = if matches!(constant.value, Number::Int(_)) { "i64" } else { "f64" };
            out.line(format!("/// {}", constant.doc));
            out.line(format!("pub const {}: {kind} = {};", constant.name, number(constant.value)));
        }
        out.gap().line("/// The grid of a map.").line("#[derive(Clone, Copy, Debug)]").line("pub struct Grid {");
        out.inside(|out| {
            out.line("pub columns: i64,").line("pub rows: i64,").line("origin_x: f64,").line("origin_y: f64,");
            if module.has_void {
                out.line("void: &'static [&'static str],");
            }
        });
        out.line("}").gap().line("impl Grid {");
        out.inside(|out| {
            out.line("/// The grid of a map, counted from 1.").line("pub fn of_map(map: usize) -> Self {");
            out.inside(|out| {
                out.line("match map {");
                out.inside(|out| {
                    let last = module.maps.len();
                    for (number, map) in module.maps.iter().enumerate() {
                        out.line(format!("// {}", quoted(&map.title)));
                        let case = if number + 1 == last { "_".to_owned() } else { (number + 1).to_string() };
                        let void = if module.has_void {
                            let rows: Vec<String> = map.rows.iter().map(|row| quoted(row)).collect();
                            format!(", void: &[{}]", rows.join(", "))
                        } else {
                            String::new()
                        };
                        out.line(format!(
                            "{case} => Self {{ columns: {}, rows: {}, origin_x: {}, origin_y: {}{void} }},",
                            map.size.0,
                            map.size.1,
                            double(map.origin.0),
                            double(map.origin.1)
                        ));
                    }
                });
                out.line("}");
            });
            out.line("}");
            for method in &module.methods {
                let params: Vec<String> =
                    method.params.iter().map(|(name, of)| format!("{name}: {}", kind(of))).collect();
                out.gap().line(format!("/// {}", method.doc));
                out.line(format!(
                    "pub fn {}(&self, {}) -> {} {{",
                    method.name,
                    params.join(", "),
                    kind(&method.returns)
                ));
                out.inside(|out| body(self, method, out));
                out.line("}");
            }
        });
        out.line("}");
        vec![File { name: format!("{}.rs", module.name), text: out.text() }, test(module, checks)]
    }
}

impl Tester for Rust {
    fn ask(&self, name: &str, arguments: &[String]) -> String {
        format!("grid.{name}({})", arguments.join(", "))
    }
    fn same_cell(&self, got: &str, cell: Cell) -> String {
        format!("assert_eq!({got}, {});", self.cell(cell))
    }
    fn same_point(&self, got: &str, (x, y): (f64, f64)) -> String {
        format!("assert_eq!({got}, {});", self.make(&Type::Point, &[double(x), double(y)]))
    }
    fn same_place(&self, got: &str, place: Where) -> String {
        format!("assert_eq!({got}, {});", self.place(place))
    }
    fn index_is(&self, cell: Cell, index: Option<i64>) -> Vec<String> {
        let cell = self.cell(cell);
        match index {
            None => vec![format!("assert_eq!(grid.cell_to_index({cell}), None);")],
            Some(index) => vec![
                format!("assert_eq!(grid.cell_to_index({cell}), Some({index}));"),
                format!("assert_eq!(grid.index_to_cell({index}), Some({cell}));"),
            ],
        }
    }
}

fn test(module: &Module, checks: &Checks) -> File {
    let name = &module.name;
    let mut out = Lines::default();
    out.line(format!("// rustc --edition 2021 {name}_test.rs && ./{name}_test"));
    out.lines(head(module, "//")).gap().line(format!("mod {name};")).gap().line(format!("use {name}::*;")).gap();
    out.line("fn main() {");
    out.inside(|out| {
        out.line(format!("let grid = Grid::of_map({});", checks.map)).lines(asserts(&Rust, checks));
    });
    out.line("}");
    File { name: format!("{name}_test.rs"), text: out.text() }
}
