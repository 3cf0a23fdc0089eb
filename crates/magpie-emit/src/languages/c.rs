//! C11.

use crate::File;
use crate::names::KindName;
use crate::printer::{
    Lines, Printer, Syntax, Tester, asserts, body, double, expr, head, looks_at_grid, number, quoted,
};
use crate::tests_of::Checks;
use crate::tree::{Expr, Method, Module, Number, Type};
use magpie_core::space::{Cell, Where};

pub struct Maker;

/// C with the name of its module before every other name.
struct C {
    name: String,
}

impl C {
    fn upper(&self) -> String {
        self.name.to_uppercase()
    }

    fn kind(&self, kind: &Type) -> String {
        match kind {
            Type::Int => "int64_t".into(),
            Type::Float => "double".into(),
            Type::Bool => "bool".into(),
            Type::Cell => format!("{}_cell", self.name),
            Type::Point => format!("{}_point", self.name),
            Type::Rect => format!("{}_rect", self.name),
            Type::Where => format!("{}_where", self.name),
            Type::Kind => format!("{}_kind", self.name),
            Type::Option(inner) => self.kind(inner),
        }
    }

    fn signature(&self, method: &Method) -> String {
        let mut params = vec![format!("const {}_grid *grid", self.name)];
        params.extend(method.params.iter().map(|(name, of)| format!("{} {name}", self.kind(of))));
        let returns = match &method.returns {
            Type::Option(inner) => {
                params.push(format!("{} *found", self.kind(inner)));
                "bool".into()
            }
            other => self.kind(other),
        };
        format!("{returns} {}_{}({})", self.name, method.name, params.join(", "))
    }
}

impl Syntax for C {
    fn name(&self, name: &str) -> String {
        name.to_owned()
    }
    fn constant(&self, name: &str) -> String {
        format!("{}_{name}", self.upper())
    }
    fn own(&self, name: &str) -> String {
        format!("grid->{name}")
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        let arguments: Vec<&str> = std::iter::once("grid").chain(arguments.iter().map(String::as_str)).collect();
        format!("{}_{name}({})", self.name, arguments.join(", "))
    }
    fn make(&self, kind: &Type, arguments: &[String]) -> String {
        format!("({}){{{}}}", self.kind(kind), arguments.join(", "))
    }
    fn place(&self, place: Where) -> String {
        format!("{}_WHERE_{}", self.upper(), place.word().to_uppercase())
    }
    fn kind_name(&self, kind: &KindName) -> String {
        format!("{}_KIND_{}", self.upper(), kind.name.to_uppercase())
    }
    fn floor(&self, value: &str) -> String {
        format!("floor({value})")
    }
    fn floor_int(&self, value: &str) -> String {
        format!("(int64_t)floor({value})")
    }
    fn to_float(&self, value: &str) -> String {
        format!("(double){value}")
    }
    fn clamp(&self, value: &str, low: &str, high: &str) -> String {
        format!("{value} < {low} ? {low} : {value} > {high} ? {high} : {value}")
    }
    fn is_void(&self, cell: &str) -> String {
        format!("grid->nothing[{cell}.row][{cell}.column] == ' '")
    }
    fn nothing(&self) -> String {
        "false".into()
    }
    fn declare(&self, name: &str, kind: &Type, value: &str) -> String {
        format!("{} {name} = {value};", self.kind(kind))
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        match value {
            Expr::Some(inner) => vec![format!("*found = {};", expr(self, inner)), "return true;".into()],
            value => vec![format!("return {};", expr(self, value))],
        }
    }
}

impl Tester for C {
    fn ask(&self, name: &str, arguments: &[String]) -> String {
        self.call(name, arguments)
    }
    fn same_cell(&self, got: &str, cell: Cell) -> String {
        format!("assert(is_cell({got}, {}, {}));", cell.column, cell.row)
    }
    fn same_point(&self, got: &str, (x, y): (f64, f64)) -> String {
        format!("assert(is_point({got}, {}, {}));", double(x), double(y))
    }
    fn same_place(&self, got: &str, place: Where) -> String {
        format!("assert({got} == {});", self.place(place))
    }
    fn index_is(&self, at: Cell, index: Option<i64>) -> Vec<String> {
        let cell = self.cell(at);
        let ask = format!("{}_cell_to_index(grid, {cell}, &index)", self.name);
        match index {
            None => vec![format!("assert(!{ask});")],
            Some(index) => vec![
                format!("assert({ask} && index == {index});"),
                format!(
                    "assert({}_index_to_cell(grid, {index}, &cell) && is_cell(cell, {}, {}));",
                    self.name, at.column, at.row
                ),
            ],
        }
    }
}

impl Printer for Maker {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let c = C { name: module.name.clone() };
        let (name, upper) = (&c.name, c.upper());
        let mut header = Lines::default();
        header.lines(head(module, "//")).line(format!("#ifndef {upper}_H")).line(format!("#define {upper}_H")).gap();
        header.line("#include <stdbool.h>").line("#include <stdint.h>").gap();
        for constant in &module.constants {
            let value = match constant.value {
                Number::Float(value) if value < 0.0 => format!("({})", number(constant.value)),
                Number::Float(_) | Number::Int(_) => number(constant.value),
            };
            header.line(format!("#define {upper}_{} {value} // {}", constant.name, constant.doc));
        }
        header.gap().line("typedef struct {").inside(|out| {
            out.line("int64_t column, row;");
        });
        header.line(format!("}} {name}_cell;")).gap().line("typedef struct {").inside(|out| {
            out.line("double x, y;");
        });
        header.line(format!("}} {name}_point;")).gap().line("typedef struct {").inside(|out| {
            out.line("double x, y, w, h;");
        });
        header.line(format!("}} {name}_rect;")).gap();
        let places: Vec<String> = Where::ALL.iter().map(|place| c.place(*place)).collect();
        header.line(format!("typedef enum {{ {} }} {name}_where;", places.join(", "))).gap();
        if !module.kinds.is_empty() {
            let kinds: Vec<String> = module.kinds.iter().map(|kind| c.kind_name(kind)).collect();
            header.line(format!("typedef enum {{ {} }} {name}_kind;", kinds.join(", "))).gap();
        }
        header.line("// The grid of a map.").line("typedef struct {").inside(|out| {
            out.line("int64_t columns, rows;").line("double origin_x, origin_y;");
            if module.has_void {
                out.line("const char *const *nothing;");
            }
        });
        header.line(format!("}} {name}_grid;")).gap().line("// The grid of a map, counted from 1.");
        header.line(format!("const {name}_grid *{name}_grid_of_map(int number);")).gap();
        for method in &module.methods {
            header.line(format!("// {}", method.doc)).line(format!("{};", c.signature(method)));
        }
        header.gap().line("#endif");
        let mut out = Lines::default();
        out.lines(head(module, "//")).line(format!("#include \"{name}.h\"")).gap().line("#include <math.h>").gap();
        if module.has_void {
            for (at, map) in module.maps.iter().enumerate() {
                let rows: Vec<String> = map.rows.iter().map(|row| quoted(row)).collect();
                out.line(format!("static const char *const rows_{}[] = {{{}}};", at + 1, rows.join(", ")));
            }
            out.gap();
        }
        out.line(format!("static const {name}_grid maps[] = {{")).inside(|out| {
            for (at, map) in module.maps.iter().enumerate() {
                let rows = if module.has_void { format!(", rows_{}", at + 1) } else { String::new() };
                out.line(format!("// {}", quoted(&map.title)));
                out.line(format!(
                    "{{{}, {}, {}, {}{rows}}},",
                    map.size.0,
                    map.size.1,
                    double(map.origin.0),
                    double(map.origin.1)
                ));
            }
        });
        out.line("};").gap().line(format!("const {name}_grid *{name}_grid_of_map(int number) {{")).inside(|out| {
            out.line("return &maps[number - 1];");
        });
        out.line("}");
        for method in &module.methods {
            out.gap().line(format!("{} {{", c.signature(method)));
            out.inside(|out| {
                if !looks_at_grid(&method.body) {
                    out.line("(void)grid;");
                }
                body(&c, method, out);
            });
            out.line("}");
        }
        let mut test = Lines::default();
        test.line(format!("// cc -std=c11 -o {name}_test {name}_test.c {name}.c -lm && ./{name}_test"));
        test.lines(head(module, "//"))
            .line("#undef NDEBUG")
            .line("#include <assert.h>")
            .line(format!("#include \"{name}.h\""))
            .gap();
        test.line(format!("static bool is_cell({name}_cell got, int64_t column, int64_t row) {{ return got.column == column && got.row == row; }}"));
        test.line(format!(
            "static bool is_point({name}_point got, double x, double y) {{ return got.x == x && got.y == y; }}"
        ))
        .gap();
        test.line("int main(void) {").inside(|out| {
            out.line(format!("const {name}_grid *grid = {name}_grid_of_map({});", checks.map));
            out.line("int64_t index = 0;").line(format!("{name}_cell cell = {{0, 0}};"));
            out.lines(asserts(&c, checks)).line("(void)index;").line("(void)cell;").line("return 0;");
        });
        test.line("}");
        let file = |ending: &str, text: String| File { name: format!("{name}{ending}"), text };
        vec![file(".h", header.text()), file(".c", out.text()), file("_test.c", test.text())]
    }
}
