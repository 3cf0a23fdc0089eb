//! Lua 5.4.

use crate::File;
use crate::names::KindName;
use crate::printer::{Lines, Printer, Syntax, Tester, asserts, body, double, expr, head, number, quoted};
use crate::tests_of::Checks;
use crate::tree::{Expr, Method, Module, Type};
use magpie_core::space::{Cell, Where};

pub struct Lua;

impl Syntax for Lua {
    fn name(&self, name: &str) -> String {
        name.to_owned()
    }
    fn own(&self, name: &str) -> String {
        format!("self.{name}")
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        format!("self:{name}({})", arguments.join(", "))
    }
    fn make(&self, kind: &Type, arguments: &[String]) -> String {
        let fields: Vec<String> =
            kind.fields().iter().zip(arguments).map(|(name, value)| format!("{name} = {value}")).collect();
        format!("{{ {} }}", fields.join(", "))
    }
    fn place(&self, place: Where) -> String {
        format!("\"{}\"", place.word())
    }
    fn kind_name(&self, kind: &KindName) -> String {
        format!("\"{}\"", kind.word)
    }
    fn floor(&self, value: &str) -> String {
        format!("math.floor({value})")
    }
    fn floor_int(&self, value: &str) -> String {
        format!("math.floor({value})")
    }
    fn to_float(&self, value: &str) -> String {
        value.to_owned()
    }
    fn clamp(&self, value: &str, low: &str, high: &str) -> String {
        format!("math.min(math.max({value}, {low}), {high})")
    }
    fn is_void(&self, cell: &str) -> String {
        format!("self.void[{cell}.row + 1]:sub({cell}.column + 1, {cell}.column + 1) == \" \"")
    }
    fn nothing(&self) -> String {
        "nil".into()
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
        format!("local {name} = {value}")
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![format!("return {}", expr(self, value))]
    }
    fn begin_if(&self, condition: &str) -> String {
        format!("if {condition} then")
    }
    fn end_if(&self) -> Option<&'static str> {
        Some("end")
    }
}

impl Tester for Lua {
    fn ask(&self, name: &str, arguments: &[String]) -> String {
        format!("grid:{name}({})", arguments.join(", "))
    }
    fn same_cell(&self, got: &str, cell: Cell) -> String {
        format!("same({got}, {})", self.cell(cell))
    }
    fn same_point(&self, got: &str, (x, y): (f64, f64)) -> String {
        format!("same({got}, {})", self.make(&Type::Point, &[double(x), double(y)]))
    }
    fn same_place(&self, got: &str, place: Where) -> String {
        format!("assert({got} == {})", self.place(place))
    }
    fn index_is(&self, cell: Cell, index: Option<i64>) -> Vec<String> {
        let cell = self.cell(cell);
        match index {
            None => vec![format!("assert(grid:cell_to_index({cell}) == nil)")],
            Some(index) => vec![
                format!("assert(grid:cell_to_index({cell}) == {index})"),
                format!("same(grid:index_to_cell({index}), {cell})"),
            ],
        }
    }
}

impl Printer for Lua {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let mut out = Lines::default();
        out.lines(head(module, "--")).gap();
        for constant in &module.constants {
            out.line(format!("local {} <const> = {} -- {}", constant.name, number(constant.value), constant.doc));
        }
        out.gap().line("-- The grid of a map.").line("local Grid = {}").line("Grid.__index = Grid").gap();
        for method in &module.methods {
            let params: Vec<&str> = method.params.iter().map(|(name, _)| *name).collect();
            out.line(format!("-- {}", method.doc));
            out.line(format!("function Grid:{}({})", method.name, params.join(", ")));
            out.inside(|out| body(self, method, out));
            out.line("end").gap();
        }
        out.line("local maps = {").inside(|out| {
            for map in &module.maps {
                let rows: Vec<String> = map.rows.iter().map(|row| quoted(row)).collect();
                let void = if module.has_void { format!(", void = {{ {} }}", rows.join(", ")) } else { String::new() };
                out.line(format!("-- {}", quoted(&map.title)));
                out.line(format!(
                    "{{ columns = {}, rows = {}, origin_x = {}, origin_y = {}{void} }},",
                    map.size.0,
                    map.size.1,
                    double(map.origin.0),
                    double(map.origin.1)
                ));
            }
        });
        out.line("}").gap().line("-- The grid of a map, counted from 1.").line("function Grid.of_map(number)");
        out.inside(|out| {
            out.line("return setmetatable(maps[number], Grid)");
        });
        out.line("end").gap().line("return { Grid = Grid }");
        let name = &module.name;
        let mut test = Lines::default();
        test.line(format!("-- lua5.4 {name}_test.lua")).lines(head(module, "--")).gap();
        test.line(format!("local Grid = require(\"{name}\").Grid")).gap();
        test.line("local function same(got, wanted)").inside(|out| {
            out.line("for key, value in pairs(wanted) do").inside(|out| {
                out.line("assert(got[key] == value)");
            });
            out.line("end");
        });
        test.line("end").gap().line(format!("local grid = Grid.of_map({})", checks.map)).lines(asserts(self, checks));
        vec![
            File { name: format!("{name}.lua"), text: out.text() },
            File { name: format!("{name}_test.lua"), text: test.text() },
        ]
    }
}
