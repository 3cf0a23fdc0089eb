//! C++17, a header.

use crate::File;
use crate::names::KindName;
use crate::printer::{Lines, Printer, Syntax, Tester, asserts, body, double, expr, head, number, pascal, quoted};
use crate::tests_of::Checks;
use crate::tree::{Expr, Method, Module, Number, Type};
use magpie_core::space::{Cell, Where};

pub struct Cpp;

fn kind(kind: &Type) -> String {
    match kind {
        Type::Int => "std::int64_t".into(),
        Type::Float => "double".into(),
        Type::Bool => "bool".into(),
        Type::Cell => "Cell".into(),
        Type::Point => "Point".into(),
        Type::Rect => "Rect".into(),
        Type::Where => "Where".into(),
        Type::Kind => "Kind".into(),
        Type::Option(inner) => format!("std::optional<{}>", self::kind(inner)),
    }
}

impl Syntax for Cpp {
    fn name(&self, name: &str) -> String {
        name.to_owned()
    }
    fn own(&self, name: &str) -> String {
        name.to_owned()
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        format!("{name}({})", arguments.join(", "))
    }
    fn make(&self, kind: &Type, arguments: &[String]) -> String {
        format!("{}{{{}}}", self::kind(kind), arguments.join(", "))
    }
    fn place(&self, place: Where) -> String {
        format!("Where::{}", pascal(place.word()))
    }
    fn kind_name(&self, kind: &KindName) -> String {
        format!("Kind::{}", pascal(&kind.name))
    }
    fn floor(&self, value: &str) -> String {
        format!("std::floor({value})")
    }
    fn floor_int(&self, value: &str) -> String {
        format!("static_cast<std::int64_t>(std::floor({value}))")
    }
    fn to_float(&self, value: &str) -> String {
        format!("static_cast<double>({value})")
    }
    fn clamp(&self, value: &str, low: &str, high: &str) -> String {
        format!("std::clamp<std::int64_t>({value}, {low}, {high})")
    }
    fn is_void(&self, cell: &str) -> String {
        format!("nothing[{cell}.row][{cell}.column] == ' '")
    }
    fn nothing(&self) -> String {
        "std::nullopt".into()
    }
    fn declare(&self, name: &str, kind: &Type, value: &str) -> String {
        format!("const {} {name} = {value};", self::kind(kind))
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![format!("return {};", expr(self, value))]
    }
}

impl Tester for Cpp {
    fn ask(&self, name: &str, arguments: &[String]) -> String {
        format!("grid.{name}({})", arguments.join(", "))
    }
    fn same_cell(&self, got: &str, cell: Cell) -> String {
        format!("assert(({got} == {}));", self.cell(cell))
    }
    fn same_point(&self, got: &str, (x, y): (f64, f64)) -> String {
        format!("assert(({got} == {}));", self.make(&Type::Point, &[double(x), double(y)]))
    }
    fn same_place(&self, got: &str, place: Where) -> String {
        format!("assert({got} == {});", self.place(place))
    }
    fn index_is(&self, cell: Cell, index: Option<i64>) -> Vec<String> {
        let cell = self.cell(cell);
        match index {
            None => vec![format!("assert((!grid.cell_to_index({cell})));")],
            Some(index) => vec![
                format!("assert((grid.cell_to_index({cell}) == {index}));"),
                format!("assert((grid.index_to_cell({index}) == {cell}));"),
            ],
        }
    }
}

impl Printer for Cpp {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let name = &module.name;
        let mut out = Lines::default();
        out.lines(head(module, "//")).line("#pragma once").gap();
        out.lines(["algorithm", "cmath", "cstdint", "optional"].map(|file| format!("#include <{file}>"))).gap();
        out.line(format!("namespace {name} {{")).gap();
        for (kind, fields, same) in [
            ("Cell", "std::int64_t column, row;", "a.column == b.column && a.row == b.row"),
            ("Point", "double x, y;", "a.x == b.x && a.y == b.y"),
            ("Rect", "double x, y, w, h;", "a.x == b.x && a.y == b.y && a.w == b.w && a.h == b.h"),
        ] {
            out.line(format!("struct {kind} {{")).inside(|out| {
                out.line(fields)
                    .line(format!("friend bool operator==(const {kind} &a, const {kind} &b) {{ return {same}; }}"));
            });
            out.line("};").gap();
        }
        let places: Vec<String> = Where::ALL.iter().map(|place| pascal(place.word())).collect();
        out.line(format!("enum class Where {{ {} }};", places.join(", "))).gap();
        if !module.kinds.is_empty() {
            let kinds: Vec<String> = module.kinds.iter().map(|kind| pascal(&kind.name)).collect();
            out.line(format!("enum class Kind {{ {} }};", kinds.join(", "))).gap();
        }
        for constant in &module.constants {
            let kind = if matches!(constant.value, Number::Int(_)) { "std::int64_t" } else { "double" };
            out.line(format!(
                "inline constexpr {kind} {} = {}; // {}",
                constant.name,
                number(constant.value),
                constant.doc
            ));
        }
        out.gap().line("// The grid of a map.").line("struct Grid {").inside(|out| {
            out.line("std::int64_t columns, rows;").line("double origin_x, origin_y;");
            if module.has_void {
                out.line("const char *const *nothing;");
            }
            out.gap().line("// The grid of a map, counted from 1.").line("static Grid of_map(int number);");
            for method in &module.methods {
                let params: Vec<String> =
                    method.params.iter().map(|(name, of)| format!("{} {name}", kind(of))).collect();
                out.gap().line(format!("// {}", method.doc));
                out.line(format!("{} {}({}) const {{", kind(&method.returns), method.name, params.join(", ")));
                out.inside(|out| body(self, method, out));
                out.line("}");
            }
        });
        out.line("};").gap().line("inline Grid Grid::of_map(int number) {").inside(|out| {
            for (at, map) in module.maps.iter().enumerate() {
                out.line(format!("// {}", quoted(&map.title)));
                let rows = if module.has_void {
                    let rows: Vec<String> = map.rows.iter().map(|row| quoted(row)).collect();
                    out.line(format!("static const char *const rows_{}[] = {{{}}};", at + 1, rows.join(", ")));
                    format!(", rows_{}", at + 1)
                } else {
                    String::new()
                };
                let grid = format!(
                    "return Grid{{{}, {}, {}, {}{rows}}};",
                    map.size.0,
                    map.size.1,
                    double(map.origin.0),
                    double(map.origin.1)
                );
                if at + 1 == module.maps.len() {
                    out.line(grid);
                } else {
                    out.line(format!("if (number == {}) {{", at + 1)).inside(|out| {
                        out.line(grid);
                    });
                    out.line("}");
                }
            }
            if module.maps.len() == 1 {
                out.line("(void)number;");
            }
        });
        out.line("}").gap().line(format!("}} // namespace {name}"));
        let mut test = Lines::default();
        test.line(format!("// c++ -std=c++17 -o {name}_test {name}_test.cpp && ./{name}_test"));
        test.lines(head(module, "//"))
            .line("#undef NDEBUG")
            .line("#include <cassert>")
            .line(format!("#include \"{name}.hpp\""))
            .gap();
        test.line(format!("using namespace {name};")).gap().line("int main() {").inside(|out| {
            out.line(format!("const Grid grid = Grid::of_map({});", checks.map)).lines(asserts(self, checks));
        });
        test.line("}");
        vec![
            File { name: format!("{name}.hpp"), text: out.text() },
            File { name: format!("{name}_test.cpp"), text: test.text() },
        ]
    }
}
