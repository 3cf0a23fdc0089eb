//! C11.

mod game;

use crate::File;
use crate::names::KindName;
use crate::printer::{
    Deed, Lines, Printer, Syntax, Tester, asserts, body, double, expr, head, literal, looks_at_own, number, quoted,
    upper as upper_of,
};
use crate::tests_of::{Check, Checks, Play};
use crate::tree::{Expr, Game, List, Method, Module, Name, Number, Stmt, Store, Type};
use magpie_core::grid::Ended;
use magpie_core::space::{Cell, Where};

use game::GameOf;

pub struct Maker;

/// C with the name of its module before every other name.
struct C<'g> {
    name: String,
    game: Option<&'g Game>,
}

impl C<'_> {
    /// How a field of the game is kept.
    fn store(&self, name: &str) -> Option<Store> {
        let field = |game: &Game| game.fields.iter().find(|field| field.name == name).map(|field| field.store);
        self.game.and_then(field)
    }

    fn is_scratch(&self, name: &str) -> bool {
        matches!(self.store(name), Some(Store::Scratch | Store::ScratchArray(_)))
    }

    /// A list as its functions take it.
    fn pointer(&self, list: &List) -> String {
        match list {
            List::Param(name) => name.to_string(),
            list => format!("&{}", self.list(list)),
        }
    }

    /// A part of a list.
    fn part(&self, list: &List, part: &str) -> String {
        let arrow = if matches!(list, List::Param(_)) { "->" } else { "." };
        format!("{}{arrow}{part}", self.list(list))
    }

    /// Whether a list is part of the game itself.
    fn is_kept(&self, list: &List) -> bool {
        matches!(list, List::Own(name) if matches!(self.store(name), Some(Store::List(_))))
    }

    /// Whether statements look at the game itself: what is of no use between two calls stands elsewhere.
    fn looks_at_game(&self, statements: &[Stmt]) -> bool {
        let is_kept = |list: &List| self.is_kept(list);
        let mut looks = false;
        Stmt::every(statements, &mut |statement| {
            looks |= match statement {
                Stmt::Tell(_) | Stmt::TellNothing | Stmt::Keep(_) | Stmt::Restore(_) => true,
                Stmt::Push(list, _) | Stmt::Clear(list) => is_kept(list),
                _ => false,
            };
        });
        Stmt::each(statements, &mut |value| {
            looks |= match value {
                Expr::Own(name) => !self.is_scratch(name),
                Expr::Item(list, _) | Expr::Length(list) | Expr::Pop(list) => is_kept(list),
                Expr::Call(..) | Expr::Drawing(_) => true,
                _ => false,
            };
        });
        looks
    }

    fn receiver(&self) -> &'static str {
        if self.game.is_some() { "game" } else { "grid" }
    }

    fn free(open: &[Name]) -> Vec<String> {
        open.iter().map(|name| format!("free({name}.items);")).collect()
    }

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
            Type::Small => "int".into(),
            Type::Text => "const char *".into(),
            Type::List => format!("{}_list *", self.name),
            Type::Items => format!("const {}_list *", self.name),
            Type::Game => format!("const {}_game *", self.name),
            Type::Nothing => "void".into(),
        }
    }

    fn signature(&self, method: &Method) -> String {
        let own = match self.game {
            Some(_) if method.changes => format!("{}_game *game", self.name),
            Some(_) => format!("const {}_game *game", self.name),
            None => format!("const {}_grid *grid", self.name),
        };
        let mut params = vec![own];
        params.extend(method.params.iter().map(|(name, of)| {
            let of = self.kind(of);
            if of.ends_with('*') { format!("{of}{name}") } else { format!("{of} {name}") }
        }));
        let returns = match &method.returns {
            Type::Option(inner) => {
                params.push(format!("{} *found", self.kind(inner)));
                "bool".into()
            }
            other => self.kind(other),
        };
        let gap = if returns.ends_with('*') { "" } else { " " };
        format!("{returns}{gap}{}_{}({})", self.name, method.name, params.join(", "))
    }
}

impl Syntax for C<'_> {
    fn name(&self, name: &str) -> String {
        name.to_owned()
    }
    fn constant(&self, name: &str) -> String {
        let of_game = self.game.is_some_and(|game| {
            game.constants.iter().any(|(other, _)| other == name) || game.tables.iter().any(|(other, _)| other == name)
        });
        if of_game && !name.starts_with("KIND_") { name.to_owned() } else { format!("{}_{name}", self.upper()) }
    }
    fn own(&self, name: &str) -> String {
        if self.is_scratch(name) { format!("scratch.{name}") } else { format!("{}->{name}", self.receiver()) }
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        let arguments: Vec<&str> =
            std::iter::once(self.receiver()).chain(arguments.iter().map(String::as_str)).collect();
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
    fn declare(&self, name: &str, kind: &Type, value: &str, _: bool) -> String {
        format!("{} {name} = {value};", self.kind(kind))
    }
    fn begin_for(&self, name: &str, low: &str, high: &str) -> String {
        format!("for (int {name} = {low}; {name} < {high}; {name}++) {{")
    }
    fn text(&self, text: &str) -> String {
        // Two question marks and a sign stand for another sign.
        literal(text).replace('?', "\\?")
    }
    fn letter(&self, letter: char) -> String {
        format!("'{letter}'")
    }
    fn item(&self, list: &List, place: &str) -> String {
        format!("{}[{place}]", self.part(list, "items"))
    }
    fn length(&self, list: &List) -> String {
        self.part(list, "count")
    }
    fn pop(&self, list: &List) -> String {
        format!("{}_take_last({})", self.name, self.pointer(list))
    }
    fn pass(&self, list: &List, _: bool) -> String {
        self.pointer(list)
    }
    fn letter_at(&self, text: &str, place: &str) -> String {
        if text.contains('(') { format!("{text}[{place}]") } else { format!("(unsigned char){text}[{place}]") }
    }
    fn is(&self, text: &str, wanted: &str) -> String {
        format!("strcmp({text}, {}) == 0", self.text(wanted))
    }
    fn begins(&self, text: &str, wanted: &str) -> String {
        format!("strncmp({text}, {}, {}) == 0", self.text(wanted), wanted.len())
    }
    fn drawing(&self, line: &str) -> String {
        format!("{}_drawing(game, {line})", self.name)
    }
    fn wide(&self, value: &str) -> String {
        format!("(int64_t){value}")
    }
    fn narrow(&self, value: &str) -> String {
        format!("(int)({value})")
    }
    fn kept(&self, name: &str, field: &str) -> String {
        format!("{name}->{field}")
    }
    fn outcome(&self, outcome: Option<Ended>) -> String {
        format!("{}_{}", self.upper(), outcome.map_or("UNFINISHED".into(), |outcome| upper_of(outcome.word())))
    }
    fn some_cell(&self, column: &str, row: &str) -> String {
        format!("({}_cell){{{column}, {row}}}", self.name)
    }
    fn no_cell(&self) -> String {
        format!("({}_cell){{-1, -1}}", self.name)
    }
    fn give_freeing(&self, method: &Method, value: &Expr, open: &[Name]) -> Vec<String> {
        let text = expr(self, value);
        let mut lines = Vec::new();
        if matches!(value, Expr::Int(_) | Expr::Bool(_)) || matches!(value, Expr::Var(name) if !open.contains(name)) {
            lines.extend(Self::free(open));
            lines.push(format!("return {text};"));
        } else {
            lines.push(format!("const {} result = {text};", self.kind(&method.returns)));
            lines.extend(Self::free(open));
            lines.push("return result;".into());
        }
        lines
    }
    fn leave(&self, open: &[Name]) -> Vec<String> {
        let mut lines = Self::free(open);
        lines.push("return;".into());
        lines
    }
    fn deed(&self, deed: Deed) -> Vec<String> {
        let of = &self.name;
        let line = match deed {
            Deed::Empty(name) => format!("{of}_list {name} = {{0, 0, NULL}};"),
            Deed::Push(list, value) if self.is_kept(list) => {
                format!("{}[{}++] = {value};", self.part(list, "items"), self.part(list, "count"))
            }
            Deed::Push(list, value) => format!("{of}_push({}, {value});", self.pointer(list)),
            Deed::Drop(list) => format!("{}--;", self.part(list, "count")),
            Deed::Clear(list) => format!("{} = 0;", self.part(list, "count")),
            Deed::Sort(list) => format!("{of}_sort({});", self.pointer(list)),
            Deed::Fill(array, count, value) => format!("{of}_fill_array({array}, {count}, {value});"),
            Deed::FillList(list, count, value) => format!("{of}_fill({}, {count}, {value});", self.pointer(list)),
            Deed::Free(name) => format!("free({name}.items);"),
            Deed::Tell(text) => format!("{of}_tell(game, {});", self.text(text)),
            Deed::TellNothing => "game->signal_count = 0;".into(),
            Deed::Keep(name) => format!("{of}_game *{name} = {of}_kept(game);"),
            Deed::KeepAgain(name) => format!("*{name} = *game;"),
            Deed::Restore(name) => format!("*game = *{name};"),
            Deed::Forget(name) => format!("free({name});"),
        };
        vec![line]
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        match value {
            Expr::Some(inner) => vec![format!("*found = {};", expr(self, inner)), "return true;".into()],
            value => vec![format!("return {};", expr(self, value))],
        }
    }
}

impl Tester for C<'_> {
    fn played(&self, play: &Play) -> Vec<String> {
        let name = &self.name;
        let lines: Vec<String> = play.board.iter().map(|line| self.text(line)).collect();
        let ends = play.ends.join("\n") + "\n";
        let columns = play.board.first().map_or(0, String::len);
        let mut out = vec![
            "{".into(),
            format!("    static const char *const lines[] = {{{}}};", lines.join(", ")),
            format!("    {name}_start_on(&game, lines, {columns}, {});", lines.len()),
        ];
        out.extend(play.inputs.iter().map(|word| format!("    {name}_input(&game, \"{word}\");")));
        out.push(format!("    {name}_board(&game, text);"));
        out.push(format!("    assert(strcmp(text, {}) == 0);", self.text(&ends).replace('\n', "\\n")));
        out.extend(play.counters.iter().map(|(name, value)| format!("    assert(game.{name} == {value});")));
        out.push("}".into());
        out
    }
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

/// What who calls the module includes.
fn header(c: &C, module: &Module, playing: Option<&GameOf>) -> Lines {
    let (name, upper) = (&c.name, c.upper());
    let has_grid = !module.methods.is_empty();
    let mut header = Lines::default();
    header.lines(head(module, "//")).line(format!("#ifndef {upper}_H")).line(format!("#define {upper}_H")).gap();
    header.line("#include <stdbool.h>").line("#include <stdint.h>").gap();
    if has_grid {
        for constant in &module.constants {
            let value = match constant.value {
                Number::Float(value) if value < 0.0 => format!("({})", number(constant.value)),
                Number::Float(_) | Number::Int(_) => number(constant.value),
            };
            header.line(format!("#define {upper}_{} {value} // {}", constant.name, constant.doc));
        }
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
    if has_grid {
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
        header.gap();
    }
    if let Some(playing) = playing {
        playing.header(&mut header);
    }
    header.line("#endif");
    header
}

fn source(c: &C, module: &Module, playing: Option<&GameOf>) -> Lines {
    let name = &c.name;
    let has_grid = !module.methods.is_empty();
    let mut out = Lines::default();
    out.lines(head(module, "//")).line(format!("#include \"{name}.h\"")).gap().line("#include <math.h>");
    if playing.is_some() {
        out.line("#include <stdlib.h>").line("#include <string.h>");
    }
    out.gap();
    if has_grid {
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
                if !looks_at_own(&method.body) {
                    out.line("(void)grid;");
                }
                body(c, method, out);
            });
            out.line("}");
        }
    }
    if let Some(playing) = playing {
        out.gap();
        playing.source(&mut out);
    }
    out
}

fn test(c: &C, module: &Module, checks: &Checks) -> Lines {
    let (name, upper) = (&c.name, c.upper());
    let has_grid = !module.methods.is_empty();
    let mut test = Lines::default();
    test.line(format!("// cc -std=c11 -o {name}_test {name}_test.c {name}.c -lm && ./{name}_test"));
    test.lines(head(module, "//"))
        .line("#undef NDEBUG")
        .line("#include <assert.h>")
        .line(format!("#include \"{name}.h\""))
        .gap();
    let plays = checks.all.iter().any(|check| matches!(check, Check::Play(_)));
    if plays {
        test.line("#include <string.h>").gap();
    }
    if has_grid {
        test.line(format!("static bool is_cell({name}_cell got, int64_t column, int64_t row) {{ return got.column == column && got.row == row; }}"));
    }
    if has_grid {
        test.line(format!(
            "static bool is_point({name}_point got, double x, double y) {{ return got.x == x && got.y == y; }}"
        ))
        .gap();
    }
    test.line("int main(void) {").inside(|out| {
        if has_grid {
            out.line(format!("const {name}_grid *grid = {name}_grid_of_map({});", checks.map));
            out.line("int64_t index = 0;").line(format!("{name}_cell cell = {{0, 0}};"));
        }
        if plays {
            out.line(format!("static {name}_game game;")).line(format!("static char text[{upper}_BOARD_SIZE];"));
        }
        out.lines(asserts(c, checks));
        if has_grid {
            out.line("(void)index;").line("(void)cell;");
        }
        out.line("return 0;");
    });
    test.line("}");
    test
}

impl Printer for Maker {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let c = C { name: module.name.clone(), game: None };
        let playing = module.game.as_ref().map(|game| GameOf {
            c: C { name: module.name.clone(), game: Some(game) },
            game,
            kinds: &module.kinds,
        });
        let playing = playing.as_ref();
        let (header, out) = (header(&c, module, playing), source(&c, module, playing));
        let test = test(&c, module, checks);
        let name = &c.name;
        let file = |ending: &str, text: String| File { name: format!("{name}{ending}"), text };
        vec![file(".h", header.text()), file(".c", out.text()), file("_test.c", test.text())]
    }
}
