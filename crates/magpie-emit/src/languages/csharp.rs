//! C# 7.

use crate::File;
use crate::names::KindName;
use crate::printer::{
    Lines, Printer, Syntax, Tester, asserts, body, camel, double, expr, head, number, pascal, quoted,
};
use crate::tests_of::Checks;
use crate::tree::{Expr, Method, Module, Number, Type};
use magpie_core::space::{Cell, Where};

pub struct CSharp;

fn kind(kind: &Type) -> String {
    match kind {
        Type::Int => "long".into(),
        Type::Float => "double".into(),
        Type::Bool => "bool".into(),
        Type::Cell => "Cell".into(),
        Type::Point => "Point".into(),
        Type::Rect => "Rect".into(),
        Type::Where => "Where".into(),
        Type::Kind => "Kind".into(),
        Type::Option(inner) => format!("{}?", self::kind(inner)),
    }
}

/// A constant's name.
fn constant(name: &str) -> String {
    pascal(&name.to_lowercase())
}

impl Syntax for CSharp {
    fn name(&self, name: &str) -> String {
        camel(name)
    }
    fn constant(&self, name: &str) -> String {
        constant(name)
    }
    fn own(&self, name: &str) -> String {
        match name {
            "origin_x" | "origin_y" => camel(name),
            name => pascal(name),
        }
    }
    fn field(&self, value: &str, name: &str) -> String {
        format!("{value}.{}", pascal(name))
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        format!("{}({})", pascal(name), arguments.join(", "))
    }
    fn make(&self, kind: &Type, arguments: &[String]) -> String {
        format!("new {}({})", self::kind(kind), arguments.join(", "))
    }
    fn place(&self, place: Where) -> String {
        format!("Where.{}", pascal(place.word()))
    }
    fn kind_name(&self, kind: &KindName) -> String {
        format!("Kind.{}", pascal(&kind.name))
    }
    fn floor(&self, value: &str) -> String {
        format!("Math.Floor({value})")
    }
    fn floor_int(&self, value: &str) -> String {
        format!("(long)Math.Floor({value})")
    }
    fn to_float(&self, value: &str) -> String {
        format!("(double){value}")
    }
    fn clamp(&self, value: &str, low: &str, high: &str) -> String {
        format!("Math.Min(Math.Max({value}, {low}), {high})")
    }
    fn is_void(&self, cell: &str) -> String {
        format!("nothing[{cell}.Row][(int){cell}.Column] == ' '")
    }
    fn nothing(&self) -> String {
        "null".into()
    }
    fn declare(&self, name: &str, kind: &Type, value: &str) -> String {
        format!("{} {name} = {value};", self::kind(kind))
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![format!("return {};", expr(self, value))]
    }
}

impl Tester for CSharp {
    fn ask(&self, name: &str, arguments: &[String]) -> String {
        format!("grid.{}({})", pascal(name), arguments.join(", "))
    }
    fn same_cell(&self, got: &str, cell: Cell) -> String {
        format!("Check({got}.Equals({}));", self.cell(cell))
    }
    fn same_point(&self, got: &str, (x, y): (f64, f64)) -> String {
        format!("Check({got}.Equals({}));", self.make(&Type::Point, &[double(x), double(y)]))
    }
    fn same_place(&self, got: &str, place: Where) -> String {
        format!("Check({got} == {});", self.place(place))
    }
    fn index_is(&self, cell: Cell, index: Option<i64>) -> Vec<String> {
        let cell = self.cell(cell);
        match index {
            None => vec![format!("Check(grid.CellToIndex({cell}) == null);")],
            Some(index) => vec![
                format!("Check(grid.CellToIndex({cell}) == {index});"),
                format!("Check(grid.IndexToCell({index}).Equals({cell}));"),
            ],
        }
    }
}

impl Printer for CSharp {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let name = pascal(&module.name);
        let mut out = Lines::default();
        out.lines(head(module, "//")).line("using System;").gap().line(format!("namespace {name}")).line("{");
        out.inside(|out| {
            for (kind, of, fields) in [
                ("Cell", "long", &["column", "row"][..]),
                ("Point", "double", &["x", "y"]),
                ("Rect", "double", &["x", "y", "w", "h"]),
            ] {
                out.line(format!("public struct {kind}")).line("{").inside(|out| {
                    let names: Vec<String> = fields.iter().map(|field| pascal(field)).collect();
                    let params: Vec<String> = fields.iter().map(|field| format!("{of} {field}")).collect();
                    out.line(format!("public readonly {of} {};", names.join(", "))).gap();
                    out.line(format!("public {kind}({})", params.join(", "))).line("{").inside(|out| {
                        out.lines(names.iter().zip(fields).map(|(name, field)| format!("{name} = {field};")));
                    });
                    out.line("}");
                });
                out.line("}").gap();
            }
            let places: Vec<String> = Where::ALL.iter().map(|place| pascal(place.word())).collect();
            out.line(format!("public enum Where {{ {} }}", places.join(", "))).gap();
            if !module.kinds.is_empty() {
                let kinds: Vec<String> = module.kinds.iter().map(|kind| pascal(&kind.name)).collect();
                out.line(format!("public enum Kind {{ {} }}", kinds.join(", "))).gap();
            }
            out.line("/// <summary>The grid of a map.</summary>").line("public sealed class Grid").line("{");
            out.inside(|out| {
                for found in &module.constants {
                    let kind = if matches!(found.value, Number::Int(_)) { "long" } else { "double" };
                    out.line(format!(
                        "public const {kind} {} = {}; // {}",
                        constant(found.name),
                        number(found.value),
                        found.doc
                    ));
                }
                out.gap().line("public readonly long Columns, Rows;").line("private readonly double originX, originY;");
                if module.has_void {
                    out.line("private readonly string[] nothing;");
                }
                let (param, set) = if module.has_void { (", string[] nothing", true) } else { ("", false) };
                out.gap()
                    .line(format!("private Grid(long columns, long rows, double originX, double originY{param})"))
                    .line("{");
                out.inside(|out| {
                    out.line("Columns = columns;")
                        .line("Rows = rows;")
                        .line("this.originX = originX;")
                        .line("this.originY = originY;");
                    if set {
                        out.line("this.nothing = nothing;");
                    }
                });
                out.line("}").gap().line("/// <summary>The grid of a map, counted from 1.</summary>");
                out.line("public static Grid OfMap(int number)").line("{").inside(|out| {
                    out.line("switch (number)").line("{").inside(|out| {
                        for (at, map) in module.maps.iter().enumerate() {
                            let rows: Vec<String> = map.rows.iter().map(|row| quoted(row)).collect();
                            let rows = if set { format!(", new[] {{ {} }}", rows.join(", ")) } else { String::new() };
                            let case =
                                if at + 1 == module.maps.len() { "default".into() } else { format!("case {}", at + 1) };
                            out.line(format!("// {}", quoted(&map.title)));
                            out.line(format!(
                                "{case}: return new Grid({}, {}, {}, {}{rows});",
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
                        method.params.iter().map(|(name, of)| format!("{} {name}", kind(of))).collect();
                    out.gap().line(format!("/// <summary>{}</summary>", method.doc));
                    out.line(format!(
                        "public {} {}({})",
                        kind(&method.returns),
                        pascal(method.name),
                        params.join(", ")
                    ))
                    .line("{");
                    out.inside(|out| body(self, method, out));
                    out.line("}");
                }
            });
            out.line("}");
        });
        out.line("}");
        vec![File { name: format!("{name}.cs"), text: out.text() }, test(module, &name, checks)]
    }
}

fn test(module: &Module, name: &str, checks: &Checks) -> File {
    let mut test = Lines::default();
    test.line(format!("// mcs -langversion:7.2 -out:{name}Test.exe {name}Test.cs {name}.cs && mono {name}Test.exe"));
    test.lines(head(module, "//")).line("using System;").line(format!("using {name};")).gap();
    test.line(format!("static class {name}Test")).line("{").inside(|out| {
        out.line("static void Check(bool holds)").line("{").inside(|out| {
            out.line("if (!holds) throw new Exception(\"a vector does not hold\");");
        });
        out.line("}").gap().line("static int Main()").line("{").inside(|out| {
            out.line(format!("var grid = Grid.OfMap({});", checks.map))
                .lines(asserts(&CSharp, checks))
                .line("return 0;");
        });
        out.line("}");
    });
    test.line("}");
    File { name: format!("{name}Test.cs"), text: test.text() }
}
