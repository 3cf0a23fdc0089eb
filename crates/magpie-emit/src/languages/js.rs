//! JavaScript as ES modules, and TypeScript under `--strict`.

use crate::File;
use crate::names::KindName;
use crate::printer::{Lines, Printer, Syntax, Tester, asserts, body, camel, double, expr, head, number, quoted};
use crate::tests_of::Checks;
use crate::tree::{Expr, Method, Module, Type};
use magpie_core::space::{Cell, Where};

pub struct Script {
    pub typed: bool,
}

fn kind(kind: &Type) -> String {
    match kind {
        Type::Int | Type::Float => "number".into(),
        Type::Bool => "boolean".into(),
        Type::Cell => "Cell".into(),
        Type::Point => "Point".into(),
        Type::Rect => "Rect".into(),
        Type::Where => "Where".into(),
        Type::Kind => "Kind".into(),
        Type::Option(inner) => format!("{} | null", self::kind(inner)),
    }
}

impl Syntax for Script {
    fn name(&self, name: &str) -> String {
        camel(name)
    }
    fn own(&self, name: &str) -> String {
        format!("this.{}", camel(name))
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        format!("this.{}({})", camel(name), arguments.join(", "))
    }
    fn make(&self, kind: &Type, arguments: &[String]) -> String {
        let field = |(name, value): (&&str, &String)| {
            if *name == value { value.clone() } else { format!("{name}: {value}") }
        };
        let fields: Vec<String> = kind.fields().iter().zip(arguments).map(field).collect();
        format!("{{ {} }}", fields.join(", "))
    }
    fn place(&self, place: Where) -> String {
        format!("\"{}\"", place.word())
    }
    fn kind_name(&self, kind: &KindName) -> String {
        format!("\"{}\"", kind.word)
    }
    fn floor(&self, value: &str) -> String {
        format!("Math.floor({value})")
    }
    fn floor_int(&self, value: &str) -> String {
        // There is no column -0.
        format!("Math.floor({value}) + 0")
    }
    fn to_float(&self, value: &str) -> String {
        value.to_owned()
    }
    fn clamp(&self, value: &str, low: &str, high: &str) -> String {
        format!("Math.min(Math.max({value}, {low}), {high})")
    }
    fn is_void(&self, cell: &str) -> String {
        let row = if self.typed { format!("this.void[{cell}.row]!") } else { format!("this.void[{cell}.row]") };
        format!("{row}[{cell}.column] === \" \"")
    }
    fn nothing(&self) -> String {
        "null".into()
    }
    fn equal(&self) -> &'static str {
        "==="
    }
    fn int_div(&self, left: &str, right: &str) -> String {
        format!("Math.floor({left} / {right})")
    }
    fn declare(&self, name: &str, _: &Type, value: &str) -> String {
        format!("const {name} = {value};")
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![format!("return {};", expr(self, value))]
    }
}

impl Tester for Script {
    fn ask(&self, name: &str, arguments: &[String]) -> String {
        format!("grid.{}({})", camel(name), arguments.join(", "))
    }
    fn same_cell(&self, got: &str, cell: Cell) -> String {
        format!("assert.deepStrictEqual({got}, {});", self.cell(cell))
    }
    fn same_point(&self, got: &str, (x, y): (f64, f64)) -> String {
        format!("assert.deepStrictEqual({got}, {});", self.make(&Type::Point, &[double(x), double(y)]))
    }
    fn same_place(&self, got: &str, place: Where) -> String {
        format!("assert.strictEqual({got}, {});", self.place(place))
    }
    fn index_is(&self, cell: Cell, index: Option<i64>) -> Vec<String> {
        let cell = self.cell(cell);
        match index {
            None => vec![format!("assert.strictEqual(grid.cellToIndex({cell}), null);")],
            Some(index) => vec![
                format!("assert.strictEqual(grid.cellToIndex({cell}), {index});"),
                format!("assert.deepStrictEqual(grid.indexToCell({index}), {cell});"),
            ],
        }
    }
}

impl Printer for Script {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let typed = |text: &str| if self.typed { text.to_owned() } else { String::new() };
        let mut out = Lines::default();
        out.lines(head(module, "//")).gap();
        if self.typed {
            out.line("export type Cell = { column: number; row: number };")
                .line("export type Point = { x: number; y: number };");
            out.line("export type Rect = { x: number; y: number; w: number; h: number };");
            let words: Vec<String> = Where::ALL.iter().map(|place| format!("\"{}\"", place.word())).collect();
            out.line(format!("export type Where = {};", words.join(" | "))).gap();
            if !module.kinds.is_empty() {
                let words: Vec<String> = module.kinds.iter().map(|kind| format!("\"{}\"", kind.word)).collect();
                out.line(format!("export type Kind = {};", words.join(" | "))).gap();
            }
        }
        for constant in &module.constants {
            out.line(format!("export const {} = {}; // {}", constant.name, number(constant.value), constant.doc));
        }
        out.gap().line("/** The grid of a map. */").line("export class Grid {").inside(|out| {
            if self.typed {
                out.line("readonly columns: number;")
                    .line("readonly rows: number;")
                    .line("private readonly originX: number;");
                out.line("private readonly originY: number;").line("protected readonly void: readonly string[];").gap();
            }
            let params = [
                ("columns", "number"),
                ("rows", "number"),
                ("originX", "number"),
                ("originY", "number"),
                ("rowsOfCells", "readonly string[]"),
            ];
            let params: Vec<String> =
                params.iter().map(|(name, of)| format!("{name}{}", typed(&format!(": {of}")))).collect();
            out.line(format!("constructor({}) {{", params.join(", "))).inside(|out| {
                out.line("this.columns = columns;").line("this.rows = rows;").line("this.originX = originX;");
                out.line("this.originY = originY;").line("this.void = rowsOfCells;");
            });
            out.line("}").gap().line("/** The grid of a map, counted from 1. */");
            out.line(format!("static ofMap(number{}){} {{", typed(": number"), typed(": Grid"))).inside(|out| {
                out.line(if self.typed { "return MAPS[number - 1]!;" } else { "return MAPS[number - 1];" });
            });
            out.line("}");
            for method in &module.methods {
                let params: Vec<String> = method
                    .params
                    .iter()
                    .map(|(name, of)| format!("{name}{}", typed(&format!(": {}", kind(of)))))
                    .collect();
                let returns = typed(&format!(": {}", kind(&method.returns)));
                out.gap().line(format!("/** {} */", method.doc));
                out.line(format!("{}({}){returns} {{", camel(method.name), params.join(", ")));
                out.inside(|out| body(self, method, out));
                out.line("}");
            }
        });
        out.line("}").gap().line(format!("const MAPS{} = [", typed(": readonly Grid[]"))).inside(|out| {
            for map in &module.maps {
                let rows: Vec<String> =
                    if module.has_void { map.rows.iter().map(|row| quoted(row)).collect() } else { Vec::new() };
                out.line(format!("// {}", quoted(&map.title)));
                out.line(format!(
                    "new Grid({}, {}, {}, {}, [{}]),",
                    map.size.0,
                    map.size.1,
                    double(map.origin.0),
                    double(map.origin.1),
                    rows.join(", ")
                ));
            }
        });
        out.line("];");
        let name = &module.name;
        let (ending, import) = if self.typed { ("ts", "js") } else { ("mjs", "mjs") };
        let mut test = Lines::default();
        test.line(if self.typed {
            format!("// tsc --strict --module nodenext --types node {name}_test.ts && node {name}_test.js")
        } else {
            format!("// node {name}_test.mjs")
        });
        test.lines(head(module, "//")).gap().line("import assert from \"node:assert\";");
        test.line(format!("import {{ Grid }} from \"./{name}.{import}\";")).gap();
        test.line(format!("const grid = Grid.ofMap({});", checks.map)).lines(asserts(self, checks));
        vec![
            File { name: format!("{name}.{ending}"), text: out.text() },
            File { name: format!("{name}_test.{ending}"), text: test.text() },
        ]
    }
}
