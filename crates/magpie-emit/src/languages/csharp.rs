//! C# 7.

use crate::File;
use crate::names::KindName;
use crate::printer::{
    Deed, Lines, Printer, Syntax, Tester, asserts, body, camel, double, expr, head, literal, number, pascal, quoted,
};
use crate::tests_of::{Checks, Play};
use crate::tree::{Expr, Game, List, Method, Module, Number, Store, Type, Values};
use magpie_core::grid::Ended;
use magpie_core::space::{Cell, Heading, Where};

/// C#; the fields of a game that nobody sees begin in lower case.
pub struct CSharp<'g> {
    pub game: Option<&'g Game>,
}

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
        Type::Small => "int".into(),
        Type::Text => "string".into(),
        Type::List | Type::Items => "List<int>".into(),
        Type::Game => "Game".into(),
        Type::Nothing => "void".into(),
    }
}

/// A constant's name.
fn constant(name: &str) -> String {
    pascal(&name.to_lowercase())
}

impl Syntax for CSharp<'_> {
    fn name(&self, name: &str) -> String {
        camel(name)
    }
    fn constant(&self, name: &str) -> String {
        // Those of a game stay as they are, since its fields and methods begin in upper case too.
        if self.game.is_some() { name.to_owned() } else { constant(name) }
    }
    fn own(&self, name: &str) -> String {
        match name {
            "origin_x" | "origin_y" => camel(name),
            name if self.game.is_some_and(|game| !game.is_open(name)) => format!("this.{}", camel(name)),
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
    fn declare(&self, name: &str, kind: &Type, value: &str, _: bool) -> String {
        format!("{} {name} = {value};", self::kind(kind))
    }
    fn begin_for(&self, name: &str, low: &str, high: &str) -> String {
        format!("for (int {name} = {low}; {name} < {high}; {name}++) {{")
    }
    fn letter(&self, letter: char) -> String {
        format!("'{letter}'")
    }
    fn length(&self, list: &List) -> String {
        format!("{}.Count", self.list(list))
    }
    fn pop(&self, list: &List) -> String {
        format!("TakeLast({})", self.list(list))
    }
    fn letter_at(&self, text: &str, place: &str) -> String {
        format!("LetterAt({text}, {place})")
    }
    fn begins(&self, text: &str, wanted: &str) -> String {
        format!("{text}.StartsWith({}, StringComparison.Ordinal)", self.text(wanted))
    }
    fn drawing(&self, line: &str) -> String {
        format!("Drawing({line})")
    }
    fn narrow(&self, value: &str) -> String {
        format!("(int)({value})")
    }
    fn kept(&self, name: &str, field: &str) -> String {
        let open = self.game.is_some_and(|game| game.is_open(field));
        format!("{}.{}", camel(name), if open { pascal(field) } else { camel(field) })
    }
    fn outcome(&self, outcome: Option<Ended>) -> String {
        outcome.map_or("null".into(), |outcome| format!("OutcomeIs.{}", pascal(&outcome.word().replace(' ', "_"))))
    }
    fn some_cell(&self, column: &str, row: &str) -> String {
        format!("new Cell({column}, {row})")
    }
    fn deed(&self, deed: Deed) -> Vec<String> {
        let line = match deed {
            Deed::Empty(name) => format!("var {} = new List<int>();", camel(name)),
            Deed::Push(list, value) => format!("{}.Add({value});", self.list(list)),
            Deed::Drop(list) => format!("TakeLast({});", self.list(list)),
            Deed::Clear(list) => format!("{}.Clear();", self.list(list)),
            Deed::Sort(list) => format!("{}.Sort();", self.list(list)),
            Deed::Fill(array, count, value) => format!("{array} = Filled({count}, {value});"),
            Deed::FillList(list, count, value) => {
                let list = self.list(list);
                return vec![format!("{list}.Clear();"), format!("{list}.AddRange(Filled({count}, {value}));")];
            }
            Deed::Free(_) | Deed::Forget(_) => return Vec::new(),
            Deed::Tell(text) => format!("Signals.Add({});", self.text(text)),
            Deed::TellNothing => "Signals = new List<string>();".into(),
            Deed::Keep(name) => format!("var {} = Copy();", camel(name)),
            Deed::KeepAgain(name) => format!("{} = Copy();", camel(name)),
            Deed::Restore(name) => format!("PutBack({}.Copy());", camel(name)),
        };
        vec![line]
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![format!("return {};", expr(self, value))]
    }
}

/// The type of a field, and what it begins with.
const fn stored(store: Store) -> (&'static str, &'static str) {
    match store {
        Store::Int => ("long", ""),
        Store::Small => ("int", ""),
        Store::Random => ("ulong", ""),
        Store::Bool => ("bool", ""),
        Store::Outcome => ("Outcome?", ""),
        Store::Cell => ("Cell?", ""),
        Store::Texts => ("List<string>", " = new List<string>()"),
        Store::Array(_) | Store::ScratchArray(_) => ("int[]", " = new int[0]"),
        Store::List(_) | Store::Scratch => ("List<int>", " = new List<int>()"),
    }
}

fn types(out: &mut Lines) {
    let list = |words: &[&str]| words.iter().map(|word| pascal(&word.replace('-', "_"))).collect::<Vec<_>>().join(", ");
    out.line(format!("public enum Heading {{ {} }}", list(&Heading::ALL.map(Heading::word)))).gap();
    out.line(format!("public enum Check {{ {} }}", list(&["edge", "void", "meets", "corner", "limit", "room"]))).gap();
    out.line(format!("public enum Outcome {{ {} }}", list(&["won", "lost", "never-settles"]))).gap();
    for (name, fields) in [
        ("Piece", &[("long", "id"), ("Kind", "kind"), ("Cell", "cell"), ("Heading?", "heading")][..]),
        ("Move", &[("long", "id"), ("Cell", "from"), ("Cell", "to")]),
        ("Answer", &[("bool", "granted"), ("Check?", "check"), ("long", "line"), ("List<Move>", "moved")]),
    ] {
        out.line(format!("public struct {name}")).line("{").inside(|out| {
            out.lines(fields.iter().map(|(of, field)| format!("public readonly {of} {};", pascal(field)))).gap();
            let params: Vec<String> = fields.iter().map(|(of, field)| format!("{of} {field}")).collect();
            out.line(format!("public {name}({})", params.join(", "))).line("{").inside(|out| {
                out.lines(fields.iter().map(|(_, field)| format!("{} = {field};", pascal(field))));
            });
            out.line("}");
        });
        out.line("}").gap();
    }
}

fn tables(game: &Game, out: &mut Lines) {
    let line = |name: &str, value: i64| format!("private const int {name} = {value};");
    out.lines(game.constants.iter().map(|(name, value)| line(name, *value)));
    let array = |name: &str, of: &str, all: &[String]| {
        format!("private static readonly {of}[] {name} = {{ {} }};", all.join(", "))
    };
    for (name, values) in &game.tables {
        out.line(match values {
            Values::Numbers(values) => array(name, "int", &values.iter().map(i64::to_string).collect::<Vec<_>>()),
            Values::Texts(values) => {
                array(name, "string", &values.iter().map(|text| literal(text)).collect::<Vec<_>>())
            }
        });
    }
    if !game.promises.is_empty() {
        let promises: Vec<String> = game.promises.iter().map(|text| literal(text)).collect();
        out.line(array("PROMISES", "string", &promises));
    }
    out.line("private static readonly string[][] DRAWINGS =").line("{").inside(|out| {
        for lines in &game.drawings {
            out.line("new string[]").line("{").inside(|out| {
                out.lines(lines.iter().map(|line| format!("{},", literal(line))));
            });
            out.line("},");
        }
    });
    out.line("};").gap();
}

/// The part that plays.
fn game(game: &Game, out: &mut Lines) {
    let csharp = CSharp { game: Some(game) };
    types(out);
    out.line("/// <summary>A game: a copy of it is a game of its own, and going on with one takes back what was played since.</summary>");
    out.line("public sealed class Game").line("{").inside(|out| {
        tables(game, out);
        for field in &game.fields {
            let (of, first) = stored(field.store);
            match &field.doc {
                Some(doc) => out
                    .line(format!("/// <summary>{doc}</summary>"))
                    .line(format!("public {of} {}{first};", pascal(&field.name))),
                None => out.line(format!("private {of} {}{first};", camel(&field.name))),
            };
        }
        if game.seed.is_some() {
            out.line("private ulong seed;");
        }
        out.line("private IList<string> own;").gap();
        let (params, first) = match game.seed {
            Some(seed) => (format!("ulong seed = {seed}UL, "), format!("{seed}UL, ")),
            None => (String::new(), String::new()),
        };
        out.line(format!("public Game({params}IList<string> own = null)")).line("{").inside(|out| {
            if game.seed.is_some() {
                out.line("this.seed = seed;");
            }
            out.line("this.own = own;").line("this.newest = -1;");
            out.line(format!("Map = own == null ? {} : {};", game.map, game.drawings.len())).line("BeginGame();");
        });
        out.line("}").gap();
        out.line("/// <summary>A game on a board of its own in place of the maps, drawn with their letters.</summary>");
        out.line("public static Game OnBoardOf(IList<string> lines)").line("{").inside(|out| {
            out.line(format!("return new Game({first}lines);"));
        });
        out.line("}").gap();
        copies(game, &csharp, out);
        let from_top = if game.from_top { "line" } else { "this.rows - 1 - line" };
        out.lines(CALLS.replace("ROW", from_top).lines());
        if !game.is_numbered() {
            out.lines(DRAWING.lines());
        }
        if !game.promises.is_empty() {
            out.lines(BROKEN.lines());
        }
        if game.seed.is_some() {
            out.lines(DRAWS.lines());
        }
        for method in &game.methods {
            let params: Vec<String> =
                method.params.iter().map(|(name, of)| format!("{} {}", kind(of), camel(name))).collect();
            let open = if method.is_public { "public" } else { "private" };
            out.gap().line(format!("/// <summary>{}</summary>", method.doc));
            out.line(format!("{open} {} {}({})", kind(&method.returns), pascal(&method.name), params.join(", ")))
                .line("{");
            out.inside(|out| body(&csharp, method, out));
            out.line("}");
        }
    });
    out.line("}");
}

/// How a game is copied, and put back.
fn copies(game: &Game, csharp: &CSharp, out: &mut Lines) {
    let is_list = |store: Store| !matches!(stored(store).1, "");
    out.line("/// <summary>A game of its own that stands as this one does.</summary>")
        .line("public Game Copy()")
        .line("{");
    out.inside(|out| {
        out.line("var other = (Game)MemberwiseClone();");
        for field in game.fields.iter().filter(|field| is_list(field.store)) {
            let name = csharp.kept("other", &field.name);
            let own = csharp.own(&field.name);
            out.line(match field.store {
                Store::Array(_) | Store::ScratchArray(_) => format!("{name} = (int[]){own}.Clone();"),
                store => format!("{name} = new {}({own});", stored(store).0),
            });
        }
        out.line("return other;");
    });
    out.line("}").gap().line("private void PutBack(Game other)").line("{").inside(|out| {
        for field in &game.fields {
            out.line(format!("{} = {};", csharp.own(&field.name), csharp.kept("other", &field.name)));
        }
    });
    out.line("}");
}

const CALLS: &str = "
/// <summary>The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy.</summary>
public Answer Request(long id, Heading heading)
{
    bool granted = AskFor(id < 0 || id > int.MaxValue ? -1 : (int)id, (int)heading);
    Check? check = null;
    if (this.lastCheck >= 0) check = (Check)this.lastCheck;
    var moved = new List<Move>();
    for (int at = 0; at < this.movedPiece.Count; at++)
    {
        int piece = this.movedPiece[at];
        moved.Add(new Move(piece, CellOf(this.movedFrom[at]), CellOf(this.cellOf[piece])));
    }
    return new Answer(granted, check, this.lastLine, moved);
}

/// <summary>The board as lines of text, the top one first.</summary>
public List<string> Board()
{
    var lines = new List<string>();
    for (int line = 0; line < this.rows; line++)
    {
        var text = new StringBuilder();
        for (int column = 0; column < this.columns; column++) text.Append(LetterOf((ROW) * this.columns + column));
        lines.Add(text.ToString());
    }
    return lines;
}

/// <summary>The pieces in reading order, the lowest layer of a cell first, the ground left out.</summary>
public List<Piece> Pieces()
{
    var found = new List<int>();
    ListPieces(found);
    var pieces = new List<Piece>();
    foreach (int piece in found)
    {
        Heading? heading = null;
        if (this.headingOf[piece] >= 0) heading = (Heading)this.headingOf[piece];
        pieces.Add(new Piece(piece, (Kind)this.kindOf[piece], CellOf(this.cellOf[piece]), heading));
    }
    return pieces;
}

private Cell CellOf(int place)
{
    return new Cell(place % this.columns, place / this.columns);
}

private static int TakeLast(List<int> list)
{
    int last = list[list.Count - 1];
    list.RemoveAt(list.Count - 1);
    return last;
}

private static int[] Filled(int count, int value)
{
    var list = new int[count];
    for (int at = 0; at < count; at++) list[at] = value;
    return list;
}

private static int LetterAt(string text, int place)
{
    return place < text.Length ? text[place] : 0;
}";

const DRAWING: &str = "
private string Drawing(int line)
{
    return this.own == null ? DRAWINGS[Map - 1][line] : this.own[line];
}

private int DrawingColumns()
{
    return this.own == null ? MAP_COLUMNS[Map - 1] : this.own[0].Length;
}

private int DrawingRows()
{
    return this.own == null ? MAP_ROWS[Map - 1] : this.own.Count;
}";

const BROKEN: &str = "
/// <summary>The first promise that does not hold now, as the rulebook writes it.</summary>
public string Broken()
{
    int number = BrokenPromise();
    return number < 0 ? null : PROMISES[number];
}";

const DRAWS: &str = "
private void BeginDraws()
{
    this.drawsAt = unchecked(this.seed + 109UL);
    Draw();
}

/// <summary>The next random number of 32 bits (PCG-XSH-RR 64/32).</summary>
private uint Draw()
{
    ulong x = this.drawsAt;
    this.drawsAt = unchecked(x * 6364136223846793005UL + 109UL);
    uint word = unchecked((uint)(((x >> 18) ^ x) >> 27));
    int turn = (int)(x >> 59);
    return (word >> turn) | (word << ((32 - turn) & 31));
}

/// <summary>A random number from 0 to before another.</summary>
private int DrawBelow(int end)
{
    uint least = (uint)(4294967296UL % (ulong)end);
    uint found = Draw();
    while (found < least) found = Draw();
    return (int)(found % (uint)end);
}";

impl Tester for CSharp<'_> {
    fn played(&self, play: &Play) -> Vec<String> {
        let list = |lines: &[String]| lines.iter().map(|line| self.text(line)).collect::<Vec<_>>().join(", ");
        let mut out = vec!["{".into(), format!("    var game = Game.OnBoardOf(new[] {{ {} }});", list(&play.board))];
        out.extend(play.inputs.iter().map(|word| format!("    game.Input(\"{word}\");")));
        let ends = play.ends.iter().map(|line| self.text(line)).collect::<Vec<_>>().join(" + \"\\n\" + ");
        out.push(format!("    Check(string.Join(\"\\n\", game.Board()) == {ends});"));
        out.extend(play.counters.iter().map(|(name, value)| format!("    Check(game.{} == {value});", pascal(name))));
        out.push("}".into());
        out
    }
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

/// The part that works positions out.
fn grid(module: &Module, out: &mut Lines) {
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
                    let case = if at + 1 == module.maps.len() { "default".into() } else { format!("case {}", at + 1) };
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
            let params: Vec<String> = method.params.iter().map(|(name, of)| format!("{} {name}", kind(of))).collect();
            out.gap().line(format!("/// <summary>{}</summary>", method.doc));
            out.line(format!("public {} {}({})", kind(&method.returns), pascal(&method.name), params.join(", ")))
                .line("{");
            out.inside(|out| body(&CSharp { game: None }, method, out));
            out.line("}");
        }
    });
    out.line("}");
}

impl Printer for CSharp<'_> {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let name = pascal(&module.name);
        let mut out = Lines::default();
        out.lines(head(module, "//")).line("using System;");
        if module.game.is_some() {
            out.line("using System.Collections.Generic;").line("using System.Text;");
        }
        out.gap().line(format!("namespace {name}")).line("{");
        if module.game.is_some() {
            // The field of this name hides the type.
            out.inside(|out| {
                out.line(format!("using OutcomeIs = {name}.Outcome;")).gap();
            });
        }
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
            if !module.methods.is_empty() {
                grid(module, out);
            }
            if let Some(of) = &module.game {
                out.gap();
                game(of, out);
            }
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
            if !module.methods.is_empty() {
                out.line(format!("var grid = Grid.OfMap({});", checks.map));
            }
            out.lines(asserts(&CSharp { game: None }, checks)).line("return 0;");
        });
        out.line("}");
    });
    test.line("}");
    File { name: format!("{name}Test.cs"), text: test.text() }
}
