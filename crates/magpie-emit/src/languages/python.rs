//! Python 3.9, typed.

use crate::File;
use crate::names::KindName;
use crate::printer::{Lines, Printer, Syntax, Tester, asserts, body, double, expr, head, number, quoted};
use crate::tests_of::Checks;
use crate::tree::{Expr, Method, Module, Type};
use magpie_core::space::{Cell, Where};

pub struct Python;

fn kind(kind: &Type) -> String {
    match kind {
        Type::Int => "int".into(),
        Type::Float => "float".into(),
        Type::Bool => "bool".into(),
        Type::Cell => "Cell".into(),
        Type::Point => "Point".into(),
        Type::Rect => "Rect".into(),
        Type::Where => "Where".into(),
        Type::Kind => "Kind".into(),
        Type::Option(inner) => format!("Optional[{}]", self::kind(inner)),
    }
}

impl Syntax for Python {
    fn name(&self, name: &str) -> String {
        name.to_owned()
    }
    fn own(&self, name: &str) -> String {
        match name {
            "origin_x" | "origin_y" => format!("self._{name}"),
            name => format!("self.{name}"),
        }
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        format!("self.{name}({})", arguments.join(", "))
    }
    fn make(&self, kind: &Type, arguments: &[String]) -> String {
        format!("{}({})", self::kind(kind), arguments.join(", "))
    }
    fn place(&self, place: Where) -> String {
        format!("Where.{}", place.word().to_uppercase())
    }
    fn kind_name(&self, kind: &KindName) -> String {
        format!("Kind.{}", kind.name.to_uppercase())
    }
    fn floor(&self, value: &str) -> String {
        format!("float(math.floor({value}))")
    }
    fn floor_int(&self, value: &str) -> String {
        format!("math.floor({value})")
    }
    fn to_float(&self, value: &str) -> String {
        value.to_owned()
    }
    fn clamp(&self, value: &str, low: &str, high: &str) -> String {
        format!("min(max({value}, {low}), {high})")
    }
    fn is_void(&self, cell: &str) -> String {
        format!("self._void[{cell}.row][{cell}.column] == \" \"")
    }
    fn nothing(&self) -> String {
        "None".into()
    }
    fn and(&self) -> &'static str {
        "and"
    }
    fn or(&self) -> &'static str {
        "or"
    }
    fn int_div(&self, left: &str, right: &str) -> String {
        format!("{left} // {right}")
    }
    fn not(&self, value: &str) -> String {
        format!("not {value}")
    }
    fn declare(&self, name: &str, _: &Type, value: &str) -> String {
        format!("{name} = {value}")
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![format!("return {}", expr(self, value))]
    }
    fn begin_if(&self, condition: &str) -> String {
        format!("if {condition}:")
    }
    fn end_if(&self) -> Option<&'static str> {
        None
    }
}

impl Tester for Python {
    fn ask(&self, name: &str, arguments: &[String]) -> String {
        format!("grid.{name}({})", arguments.join(", "))
    }
    fn same_cell(&self, got: &str, cell: Cell) -> String {
        format!("assert {got} == {}", self.cell(cell))
    }
    fn same_point(&self, got: &str, (x, y): (f64, f64)) -> String {
        format!("assert {got} == {}", self.make(&Type::Point, &[double(x), double(y)]))
    }
    fn same_place(&self, got: &str, place: Where) -> String {
        format!("assert {got} is {}", self.place(place))
    }
    fn index_is(&self, cell: Cell, index: Option<i64>) -> Vec<String> {
        let cell = self.cell(cell);
        match index {
            None => vec![format!("assert grid.cell_to_index({cell}) is None")],
            Some(index) => vec![
                format!("assert grid.cell_to_index({cell}) == {index}"),
                format!("assert grid.index_to_cell({index}) == {cell}"),
            ],
        }
    }
}

impl Printer for Python {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let mut out = Lines::default();
        out.lines(head(module, "#"));
        out.line("import enum").line("import math").line("from typing import NamedTuple, Optional").gap().gap();
        for (name, fields) in [
            ("Cell", &["column: int", "row: int"][..]),
            ("Point", &["x: float", "y: float"]),
            ("Rect", &["x: float", "y: float", "w: float", "h: float"]),
        ] {
            out.line(format!("class {name}(NamedTuple):")).inside(|out| {
                out.lines(fields);
            });
            out.gap().gap();
        }
        out.line("class Where(enum.Enum):").inside(|out| {
            out.lines(Where::ALL.iter().map(|place| format!("{} = \"{}\"", place.word().to_uppercase(), place.word())));
        });
        out.gap().gap();
        if !module.kinds.is_empty() {
            out.line("class Kind(enum.Enum):").inside(|out| {
                out.lines(module.kinds.iter().map(|kind| format!("{} = \"{}\"", kind.name.to_uppercase(), kind.word)));
            });
            out.gap().gap();
        }
        for constant in &module.constants {
            out.line(format!("{} = {}  # {}", constant.name, number(constant.value), constant.doc));
        }
        out.gap().gap().line("class Grid:").inside(|out| {
            out.line("\"\"\"The grid of a map.\"\"\"").gap();
            out.line(
                "def __init__(self, columns: int, rows: int, origin_x: float, origin_y: float, void: list) -> None:",
            );
            out.inside(|out| {
                out.line("self.columns = columns").line("self.rows = rows").line("self._origin_x = origin_x");
                out.line("self._origin_y = origin_y").line("self._void = void");
            });
            out.gap().line("@staticmethod").line("def of_map(number: int) -> \"Grid\":").inside(|out| {
                out.line("\"\"\"The grid of a map, counted from 1.\"\"\"").line("return _MAPS[number - 1]");
            });
            for method in &module.methods {
                let params: Vec<String> =
                    method.params.iter().map(|(name, of)| format!("{name}: {}", kind(of))).collect();
                out.gap().line(format!(
                    "def {}(self, {}) -> {}:",
                    method.name,
                    params.join(", "),
                    kind(&method.returns)
                ));
                out.inside(|out| {
                    out.line(format!("\"\"\"{}\"\"\"", method.doc));
                    body(self, method, out);
                });
            }
        });
        out.gap().gap().line("_MAPS = [").inside(|out| {
            for map in &module.maps {
                let rows: Vec<String> =
                    if module.has_void { map.rows.iter().map(|row| quoted(row)).collect() } else { Vec::new() };
                out.line(format!("# {}", quoted(&map.title)));
                out.line(format!(
                    "Grid({}, {}, {}, {}, [{}]),",
                    map.size.0,
                    map.size.1,
                    double(map.origin.0),
                    double(map.origin.1),
                    rows.join(", ")
                ));
            }
        });
        out.line("]");
        let name = &module.name;
        let mut test = Lines::default();
        test.line(format!("# python3 {name}_test.py")).lines(head(module, "#"));
        let kind = if module.kinds.is_empty() { "" } else { "Kind, " };
        test.line(format!("from {name} import Cell, Grid, {kind}Point, Where")).gap();
        test.line(format!("grid = Grid.of_map({})", checks.map)).lines(asserts(self, checks));
        vec![
            File { name: format!("{name}.py"), text: out.text() },
            File { name: format!("{name}_test.py"), text: test.text() },
        ]
    }
}
