//! JavaScript as ES modules, and TypeScript under `--strict`.

use crate::File;
use crate::names::KindName;
use crate::printer::{
    Deed, Lines, Printer, Syntax, Tester, asserts, body, camel, double, expr, head, literal, number, quoted,
};
use crate::tests_of::{Checks, Play};
use crate::tree::{Expr, Game, List, Method, Module, Store, Type, Values};
use magpie_core::grid::Ended;
use magpie_core::space::{Cell, Heading, Where};

/// Both languages; what a game lets nobody see begins with `_`.
pub struct Script<'g> {
    pub typed: bool,
    pub game: Option<&'g Game>,
}

impl Script<'_> {
    fn hidden(&self, name: &str) -> &'static str {
        if self.game.is_some_and(|game| !game.is_open(name)) { "_" } else { "" }
    }
}

fn kind(kind: &Type) -> String {
    match kind {
        Type::Int | Type::Small | Type::Float => "number".into(),
        Type::Bool => "boolean".into(),
        Type::Cell => "Cell".into(),
        Type::Point => "Point".into(),
        Type::Rect => "Rect".into(),
        Type::Where => "Where".into(),
        Type::Kind => "Kind".into(),
        Type::Option(inner) => format!("{} | null", self::kind(inner)),
        Type::Text => "string".into(),
        Type::List => "number[]".into(),
        Type::Items => "readonly number[]".into(),
        Type::Game => "Game".into(),
        Type::Nothing => "void".into(),
    }
}

impl Syntax for Script<'_> {
    fn name(&self, name: &str) -> String {
        camel(name)
    }
    fn own(&self, name: &str) -> String {
        format!("this.{}{}", self.hidden(name), camel(name))
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        let hidden = if self.game.is_some() && name != "input" { "_" } else { "" };
        format!("this.{hidden}{}({})", camel(name), arguments.join(", "))
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
    fn declare(&self, name: &str, of: &Type, value: &str, changes: bool) -> String {
        let word = if changes { "let" } else { "const" };
        let of = if self.typed && self.game.is_some() { format!(": {}", kind(of)) } else { String::new() };
        format!("{word} {name}{of} = {value};")
    }
    fn begin_for(&self, name: &str, low: &str, high: &str) -> String {
        format!("for (let {name} = {low}; {name} < {high}; {name}++) {{")
    }
    fn unequal(&self) -> &'static str {
        "!=="
    }
    fn at(&self, array: &str, place: &str) -> String {
        format!("{array}[{place}]{}", if self.typed { "!" } else { "" })
    }
    fn length(&self, list: &List) -> String {
        format!("{}.length", self.list(list))
    }
    fn pop(&self, list: &List) -> String {
        format!("{}.pop(){}", self.list(list), if self.typed { "!" } else { "" })
    }
    fn letter_at(&self, text: &str, place: &str) -> String {
        format!("letterAt({text}, {place})")
    }
    fn begins(&self, text: &str, wanted: &str) -> String {
        format!("{text}.startsWith({})", self.text(wanted))
    }
    fn drawing(&self, line: &str) -> String {
        format!("this._drawing({line})")
    }
    fn kept(&self, name: &str, field: &str) -> String {
        format!("{}.{}{}", camel(name), self.hidden(field), camel(field))
    }
    fn outcome(&self, outcome: Option<Ended>) -> String {
        outcome.map_or("null".into(), |outcome| format!("\"{}\"", outcome.word()))
    }
    fn some_cell(&self, column: &str, row: &str) -> String {
        format!("{{ column: {column}, row: {row} }}")
    }
    fn assign(&self, target: &str, value: &str) -> String {
        // What may be missing is no longer so where it is set.
        format!("{} = {value};", target.strip_suffix('!').unwrap_or(target))
    }
    fn deed(&self, deed: Deed) -> Vec<String> {
        let of = if self.typed { ": number[]" } else { "" };
        let line = match deed {
            Deed::Empty(name) => format!("const {}{of} = [];", camel(name)),
            Deed::Push(list, value) => format!("{}.push({value});", self.list(list)),
            Deed::Drop(list) => format!("{}.pop();", self.list(list)),
            Deed::Clear(list) => format!("{}.length = 0;", self.list(list)),
            Deed::Sort(list) => format!("{}.sort((one, other) => one - other);", self.list(list)),
            Deed::Fill(array, count, value) => {
                format!("{array} = new Array{}({count}).fill({value});", if self.typed { "<number>" } else { "" })
            }
            Deed::FillList(list, count, value) => {
                let list = self.list(list);
                return vec![format!("{list}.length = {count};"), format!("{list}.fill({value});")];
            }
            Deed::Free(_) | Deed::Forget(_) => return Vec::new(),
            Deed::Tell(text) => format!("this.signals.push({});", self.text(text)),
            Deed::TellNothing => "this.signals = [];".into(),
            Deed::Keep(name) => format!("let {} = this.copy();", camel(name)),
            Deed::KeepAgain(name) => format!("{} = this.copy();", camel(name)),
            Deed::Restore(name) => format!("Object.assign(this, {}.copy());", camel(name)),
        };
        vec![line]
    }
    fn wide(&self, value: &str) -> String {
        value.to_owned()
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![format!("return {};", expr(self, value))]
    }
}

/// The type of a field, and what it begins with.
const fn first(store: Store) -> (&'static str, &'static str) {
    match store {
        Store::Int | Store::Small => ("number", "0"),
        Store::Random => ("bigint", "0n"),
        Store::Bool => ("boolean", "false"),
        Store::Outcome => ("Outcome | null", "null"),
        Store::Cell => ("Cell | null", "null"),
        Store::Texts => ("string[]", "[]"),
        Store::Array(_) | Store::List(_) | Store::Scratch | Store::ScratchArray(_) => ("number[]", "[]"),
    }
}

impl Script<'_> {
    /// What types alone need.
    fn typed(&self, text: &str) -> String {
        if self.typed { text.to_owned() } else { String::new() }
    }

    fn tables(&self, module: &Module, game: &Game, out: &mut Lines) {
        let words = |words: &[&str]| words.iter().map(|word| format!("\"{word}\"")).collect::<Vec<_>>();
        let kinds: Vec<&str> = module.kinds.iter().map(|kind| kind.word.as_str()).collect();
        let checks = ["edge", "void", "meets", "corner", "limit", "room"];
        let lists = [
            ("Heading", "HEADINGS", words(&Heading::ALL.map(Heading::word))),
            ("Check", "CHECKS", words(&checks)),
            ("Kind", "KINDS_OF", words(&kinds)),
        ];
        if self.typed {
            for (name, _, words) in &lists[..2] {
                out.line(format!("export type {name} = {};", words.join(" | ")));
            }
            out.lines([
                "export type Outcome = \"won\" | \"lost\" | \"never settles\";",
                "export type Piece = { id: number; kind: Kind; cell: Cell; heading: Heading | null };",
                "export type Move = { id: number; from: Cell; to: Cell };",
                "export type Answer = { granted: boolean; check: Check | null; line: number; moved: Move[] };",
            ]);
            out.gap();
        }
        for (name, table, words) in &lists {
            out.line(format!("const {table}{} = [{}];", self.typed(&format!(": readonly {name}[]")), words.join(", ")));
        }
        out.lines(
            game.constants.iter().map(|(name, value)| format!("const {name}{} = {value};", self.typed(": number"))),
        );
        for (name, values) in &game.tables {
            let (of, all): (_, Vec<String>) = match values {
                Values::Numbers(values) => ("number", values.iter().map(i64::to_string).collect()),
                Values::Texts(values) => ("string", values.iter().map(|text| literal(text)).collect()),
            };
            out.line(format!("const {name}{} = [{}];", self.typed(&format!(": readonly {of}[]")), all.join(", ")));
        }
        let texts = self.typed(": readonly string[]");
        let promises: Vec<String> = game.promises.iter().map(|text| literal(text)).collect();
        out.line(format!("const PROMISES{texts} = [{}];", promises.join(", ")));
        out.line(format!("const FROM_TOP{} = {};", self.typed(": boolean"), game.from_top));
        out.line(format!("const DRAWINGS{} = [", self.typed(": readonly (readonly string[])[]"))).inside(|out| {
            for lines in &game.drawings {
                out.line("[").inside(|out| {
                    out.lines(lines.iter().map(|line| format!("{},", literal(line))));
                });
                out.line("],");
            }
        });
        out.line("];").gap();
    }

    /// The part that works positions out.
    fn grid(&self, module: &Module, out: &mut Lines) {
        let typed = |text: &str| self.typed(text);
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
                out.line(format!("{}({}){returns} {{", camel(&method.name), params.join(", ")));
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
    }

    /// Lines in both languages: types stand between `‹` and `›`.
    fn lines(&self, text: &str) -> Vec<String> {
        let mut out = String::new();
        let mut rest = text;
        while let Some((before, behind)) = rest.split_once('‹') {
            let (of, after) = behind.split_once('›').unwrap_or((behind, ""));
            out.push_str(before);
            if self.typed {
                out.push_str(of);
            }
            rest = after;
        }
        out.push_str(rest);
        out.lines().map(str::to_owned).collect()
    }

    /// The part that plays.
    fn game(&self, module: &Module, game: &Game, out: &mut Lines) {
        let script = Script { typed: self.typed, game: Some(game) };
        self.tables(module, game, out);
        out.lines(self.lines(LETTER_AT)).gap();
        out.line(
            "/** A game: a copy of it is a game of its own, and going on with one takes back what was played since. */",
        );
        out.line("export class Game {").inside(|out| {
            for field in &game.fields {
                let (of, value) = first(field.store);
                let name = script.own(&field.name).replacen("this.", "", 1);
                let hidden = if field.doc.is_none() { self.typed("private ") } else { String::new() };
                if let Some(doc) = &field.doc {
                    out.line(format!("/** {doc} */"));
                }
                out.line(format!("{hidden}{name}{} = {value};", self.typed(&format!(": {of}"))));
            }
            if let Some(seed) = game.seed {
                out.line(format!("{}_seed{} = {seed}n;", self.typed("private "), self.typed(": bigint")));
            }
            out.line(format!("{}_own{} = [];", self.typed("private "), self.typed(": readonly string[]"))).gap();
            let typed = |name: &str, of: &str| format!("{name}{}", self.typed(&format!(": {of}")));
            let (seed, set) = match game.seed {
                Some(seed) => (format!("{} = {seed}n, ", typed("seed", "bigint")), true),
                None => (String::new(), false),
            };
            out.line(format!("constructor({seed}{} = []) {{", typed("own", "readonly string[]"))).inside(|out| {
                if set {
                    out.line("this._seed = seed;");
                }
                out.line("this._own = own;").line("this._newest = -1;");
                out.line(format!("this.map = own.length > 0 ? {} : {};", game.drawings.len(), game.map));
                out.line("this._beginGame();");
            });
            out.line("}").gap();
            let first_of = game.seed.map_or(String::new(), |seed| format!("{seed}n, "));
            out.line("/** A game on a board of its own in place of the maps, drawn with their letters. */");
            out.line(format!("static onBoardOf({}){} {{", typed("lines", "readonly string[]"), self.typed(": Game")));
            out.inside(|out| {
                out.line(format!("return new Game({first_of}lines);"));
            });
            out.line("}");
            out.lines(self.lines(CALLS));
            if !game.is_numbered() {
                out.lines(self.lines(DRAWING));
            }
            if !game.promises.is_empty() {
                out.lines(self.lines(BROKEN));
            }
            if game.seed.is_some() {
                out.lines(self.lines(DRAWS));
            }
            for method in &game.methods {
                let params: Vec<String> =
                    method.params.iter().map(|(name, of)| typed(&camel(name), &kind(of))).collect();
                let returns = self.typed(&format!(": {}", kind(&method.returns)));
                let hidden = if method.is_public { String::new() } else { format!("{}_", self.typed("private ")) };
                out.gap().line(format!("/** {} */", method.doc));
                out.line(format!("{hidden}{}({}){returns} {{", camel(&method.name), params.join(", ")));
                out.inside(|out| body(&script, method, out));
                out.line("}");
            }
        });
        out.line("}");
    }
}

const LETTER_AT: &str = "\
function letterAt(text‹: string›, place‹: number›)‹: number› {
    return place < text.length ? text.charCodeAt(place) : 0;
}";

const CALLS: &str = "
/** A game of its own that stands as this one does. */
copy()‹: Game› {
    const other = Object.create(Game.prototype);
    for (const [name, value] of Object.entries(this)) {
        other[name] = Array.isArray(value) ? value.slice() : value;
    }
    return other;
}

/** The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy. */
request(id‹: number›, heading‹: Heading›)‹: Answer› {
    const granted = this._askFor(id, HEADINGS.indexOf(heading));
    const check = this._lastCheck < 0 ? null : CHECKS[this._lastCheck]‹!›;
    const moved = this._movedPiece.map((piece, place) => ({
        id: piece,
        from: this._cell(this._movedFrom[place]‹!›),
        to: this._cell(this._cellOf[piece]‹!›),
    }));
    return { granted, check, line: this._lastLine, moved };
}

/** The board as lines of text, the top one first. */
board()‹: string[]› {
    const lines‹: string[]› = [];
    for (let line = 0; line < this._rows; line++) {
        const row = FROM_TOP ? line : this._rows - 1 - line;
        let text = \"\";
        for (let column = 0; column < this._columns; column++) {
            text += this._letterOf(row * this._columns + column);
        }
        lines.push(text);
    }
    return lines;
}

/** The pieces in reading order, the lowest layer of a cell first, the ground left out. */
pieces()‹: Piece[]› {
    const found‹: number[]› = [];
    this._listPieces(found);
    return found.map((piece) => ({
        id: piece,
        kind: KINDS_OF[this._kindOf[piece]‹!›]‹!›,
        cell: this._cell(this._cellOf[piece]‹!›),
        heading: HEADINGS[this._headingOf[piece]‹!›] ?? null,
    }));
}

‹private ›_cell(place‹: number›)‹: Cell› {
    return { column: place % this._columns, row: Math.floor(place / this._columns) };
}";

const DRAWING: &str = "
‹private ›_drawing(line‹: number›)‹: string› {
    return this._own.length > 0 ? this._own[line]‹!› : DRAWINGS[this.map - 1]‹!›[line]‹!›;
}

‹private ›_drawingColumns()‹: number› {
    return this._own.length > 0 ? this._own[0]‹!›.length : MAP_COLUMNS[this.map - 1]‹!›;
}

‹private ›_drawingRows()‹: number› {
    return this._own.length > 0 ? this._own.length : MAP_ROWS[this.map - 1]‹!›;
}";

const BROKEN: &str = "
/** The first promise that does not hold now, as the rulebook writes it. */
broken()‹: string | null› {
    return PROMISES[this._brokenPromise()] ?? null;
}";

const DRAWS: &str = "
‹private ›_beginDraws()‹: void› {
    this._drawsAt = BigInt.asUintN(64, this._seed + 109n);
    this._draw();
}

/** The next random number of 32 bits (PCG-XSH-RR 64/32). */
‹private ›_draw()‹: number› {
    const x = this._drawsAt;
    this._drawsAt = BigInt.asUintN(64, x * 6364136223846793005n + 109n);
    const word = Number(BigInt.asUintN(32, ((x >> 18n) ^ x) >> 27n));
    const turn = Number(x >> 59n);
    return ((word >>> turn) | (word << (-turn & 31))) >>> 0;
}

/** A random number from 0 to before another. */
‹private ›_drawBelow(end‹: number›)‹: number› {
    const least = 4294967296 % end;
    let found = this._draw();
    while (found < least) {
        found = this._draw();
    }
    return found % end;
}";

impl Tester for Script<'_> {
    fn played(&self, play: &Play) -> Vec<String> {
        let list = |lines: &[String]| lines.iter().map(|line| self.text(line)).collect::<Vec<_>>().join(", ");
        let mut out = vec!["{".into(), format!("    const game = Game.onBoardOf([{}]);", list(&play.board))];
        out.extend(play.inputs.iter().map(|word| format!("    game.input(\"{word}\");")));
        out.push(format!("    assert.deepStrictEqual(game.board(), [{}]);", list(&play.ends)));
        out.extend(
            play.counters.iter().map(|(name, value)| format!("    assert.strictEqual(game.{}, {value});", camel(name))),
        );
        out.push("}".into());
        out
    }
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

impl Printer for Script<'_> {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
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
        if !module.methods.is_empty() {
            self.grid(module, &mut out);
        }
        if let Some(of) = &module.game {
            out.gap();
            self.game(module, of, &mut out);
        }
        let name = &module.name;
        let (ending, import) = if self.typed { ("ts", "js") } else { ("mjs", "mjs") };
        let mut test = Lines::default();
        test.line(if self.typed {
            format!("// tsc --strict --module nodenext --types node {name}_test.ts && node {name}_test.js")
        } else {
            format!("// node {name}_test.mjs")
        });
        test.lines(head(module, "//")).gap().line("import assert from \"node:assert\";");
        let (has_grid, has_game) = (!module.methods.is_empty(), module.game.is_some());
        let names: Vec<&str> =
            [("Game", has_game), ("Grid", has_grid)].into_iter().filter_map(|(name, is)| is.then_some(name)).collect();
        test.line(format!("import {{ {} }} from \"./{name}.{import}\";", names.join(", "))).gap();
        if has_grid {
            test.line(format!("const grid = Grid.ofMap({});", checks.map));
        }
        test.lines(asserts(self, checks));
        vec![
            File { name: format!("{name}.{ending}"), text: out.text() },
            File { name: format!("{name}_test.{ending}"), text: test.text() },
        ]
    }
}
