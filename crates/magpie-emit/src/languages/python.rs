//! Python 3.9, typed.

use crate::File;
use crate::names::KindName;
use crate::printer::{
    Deed, Lines, Printer, Syntax, Tester, asserts, body, double, expr, head, literal, number, quoted, upper,
};
use crate::tests_of::{Checks, Play};
use crate::tree::{Expr, Game, List, Method, Module, Store, Type, Values};
use magpie_core::grid::Ended;
use magpie_core::space::{Cell, Heading, Where};

/// Python; what a game lets nobody see begins with `_`.
pub struct Python<'g> {
    pub game: Option<&'g Game>,
}

fn kind(kind: &Type) -> String {
    match kind {
        Type::Int | Type::Small => "int".into(),
        Type::Float => "float".into(),
        Type::Bool => "bool".into(),
        Type::Cell => "Cell".into(),
        Type::Point => "Point".into(),
        Type::Rect => "Rect".into(),
        Type::Where => "Where".into(),
        Type::Kind => "Kind".into(),
        Type::Option(inner) => format!("Optional[{}]", self::kind(inner)),
        Type::Text => "str".into(),
        Type::List | Type::Items => "List[int]".into(),
        Type::Game => "\"Game\"".into(),
        Type::Nothing => "None".into(),
    }
}

impl Syntax for Python<'_> {
    fn name(&self, name: &str) -> String {
        name.to_owned()
    }
    fn own(&self, name: &str) -> String {
        match name {
            "origin_x" | "origin_y" => format!("self._{name}"),
            name if self.game.is_some_and(|game| !game.is_open(name)) => format!("self._{name}"),
            name => format!("self.{name}"),
        }
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        let hidden = if self.game.is_some() && name != "input" { "_" } else { "" };
        format!("self.{hidden}{name}({})", arguments.join(", "))
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
    fn declare(&self, name: &str, _: &Type, value: &str, _: bool) -> String {
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
    fn begin_while(&self, condition: &str) -> String {
        format!("while {condition}:")
    }
    fn begin_for(&self, name: &str, low: &str, high: &str) -> String {
        if low == "0" {
            format!("for {name} in range({high}):")
        } else {
            format!("for {name} in range({low}, {high}):")
        }
    }
    fn otherwise(&self) -> &'static str {
        "else:"
    }
    fn idle(&self) -> Option<&'static str> {
        Some("pass")
    }
    fn end(&self) -> &'static str {
        ""
    }
    fn comment(&self, text: &str) -> String {
        format!("# {text}")
    }
    fn letter(&self, letter: char) -> String {
        format!("ord(\"{letter}\")")
    }
    fn boolean(&self, value: bool) -> String {
        if value { "True".into() } else { "False".into() }
    }
    fn length(&self, list: &List) -> String {
        format!("len({})", self.list(list))
    }
    fn pop(&self, list: &List) -> String {
        format!("{}.pop()", self.list(list))
    }
    fn letter_at(&self, text: &str, place: &str) -> String {
        format!("_letter_at({text}, {place})")
    }
    fn begins(&self, text: &str, wanted: &str) -> String {
        format!("{text}.startswith({})", self.text(wanted))
    }
    fn drawing(&self, line: &str) -> String {
        format!("self._drawing({line})")
    }
    fn kept(&self, name: &str, field: &str) -> String {
        let hidden = if self.game.is_some_and(|game| game.is_open(field)) { "" } else { "_" };
        format!("{name}.{hidden}{field}")
    }
    fn outcome(&self, outcome: Option<Ended>) -> String {
        outcome.map_or("None".into(), |outcome| format!("Outcome.{}", upper(outcome.word())))
    }
    fn some_cell(&self, column: &str, row: &str) -> String {
        format!("Cell({column}, {row})")
    }
    fn deed(&self, deed: Deed) -> Vec<String> {
        let line = match deed {
            Deed::Empty(name) => format!("{name}: List[int] = []"),
            Deed::Push(list, value) => format!("{}.append({value})", self.list(list)),
            Deed::Drop(list) => format!("{}.pop()", self.list(list)),
            Deed::Clear(list) => format!("{}.clear()", self.list(list)),
            Deed::Sort(list) => format!("{}.sort()", self.list(list)),
            Deed::Fill(array, count, value) => format!("{array} = [{value}] * ({count})"),
            Deed::FillList(list, count, value) => format!("{}[:] = [{value}] * ({count})", self.list(list)),
            Deed::Free(_) | Deed::Forget(_) => return Vec::new(),
            Deed::Tell(text) => format!("self.signals.append({})", self.text(text)),
            Deed::TellNothing => "self.signals = []".into(),
            Deed::Keep(name) | Deed::KeepAgain(name) => format!("{name} = self.copy()"),
            Deed::Restore(name) => format!("self.__dict__.update({name}.copy().__dict__)"),
        };
        vec![line]
    }
}

/// Enumerations with the words of the formats.
fn words(name: &str, words: &[&str], out: &mut Lines) {
    out.line(format!("class {name}(enum.Enum):")).inside(|out| {
        out.lines(words.iter().map(|word| format!("{} = \"{word}\"", upper(word))));
    });
    out.gap().gap();
}

/// What a field begins with.
const fn first(store: Store) -> (&'static str, &'static str) {
    match store {
        Store::Int | Store::Small | Store::Random => ("int", "0"),
        Store::Bool => ("bool", "False"),
        Store::Outcome => ("Optional[Outcome]", "None"),
        Store::Cell => ("Optional[Cell]", "None"),
        Store::Texts => ("List[str]", "[]"),
        Store::Array(_) | Store::List(_) | Store::Scratch | Store::ScratchArray(_) => ("List[int]", "[]"),
    }
}

fn types(out: &mut Lines) {
    words("Heading", &Heading::ALL.map(Heading::word), out);
    words("Check", &["edge", "void", "meets", "corner", "limit", "room"], out);
    words("Outcome", &["won", "lost", "never settles"], out);
    for (name, fields) in [
        ("Piece", &["id: int", "kind: Kind", "cell: Cell", "heading: Optional[Heading]"][..]),
        ("Move", &["id: int", "from_: Cell", "to: Cell"]),
        ("Answer", &["granted: bool", "check: Optional[Check]", "line: int", "moved: List[Move]"]),
    ] {
        out.line(format!("class {name}(NamedTuple):")).inside(|out| {
            out.lines(fields);
        });
        out.gap().gap();
    }
}

fn tables(game: &Game, out: &mut Lines) {
    let python = Python { game: Some(game) };
    out.lines(game.constants.iter().map(|(name, value)| format!("{name} = {value}")));
    for (name, values) in &game.tables {
        let all: Vec<String> = match values {
            Values::Numbers(values) => values.iter().map(i64::to_string).collect(),
            Values::Texts(values) => values.iter().map(|text| python.text(text)).collect(),
        };
        out.line(format!("{name} = [{}]", all.join(", ")));
    }
    let promises: Vec<String> = game.promises.iter().map(|text| python.text(text)).collect();
    out.line(format!("PROMISES: List[str] = [{}]", promises.join(", ")));
    out.line(format!("FROM_TOP = {}", python.boolean(game.from_top)));
    out.line("DRAWINGS: List[List[str]] = [").inside(|out| {
        for lines in &game.drawings {
            out.line("[").inside(|out| {
                out.lines(lines.iter().map(|line| format!("{},", literal(line))));
            });
            out.line("],");
        }
    });
    out.line("]").gap().gap();
}

/// The part that plays.
fn game(game: &Game, out: &mut Lines) {
    let python = Python { game: Some(game) };
    types(out);
    tables(game, out);
    out.lines(LETTER_AT.lines()).gap().gap();
    out.line("class Game:").inside(|out| {
        out.line("\"\"\"A game: a copy of it is a game of its own, and going on with one takes back what was played since.\"\"\"").gap();
        let seed = game.seed.map_or(String::new(), |seed| format!(", seed: int = {seed}"));
        out.line(format!("def __init__(self{seed}, *, own: Optional[List[str]] = None) -> None:")).inside(|out| {
            for field in &game.fields {
                let (of, value) = first(field.store);
                let name = python.own(&field.name);
                out.line(format!("{name}: {of} = {value}"));
            }
            if game.seed.is_some() {
                out.line("self._seed = seed");
            }
            out.line("self._own = own or []").line("self._newest = -1");
            out.line(format!("self.map = {} if own else {}", game.drawings.len(), game.map)).line("self._begin_game()");
        });
        let calls = CALLS.lines();
        out.lines(calls);
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
            let params: Vec<String> = method.params.iter().map(|(name, of)| format!(", {name}: {}", kind(of))).collect();
            let params = params.concat();
            let hidden = if method.is_public { "" } else { "_" };
            out.gap().line(format!("def {hidden}{}(self{params}) -> {}:", method.name, kind(&method.returns)));
            out.inside(|out| {
                out.line(format!("\"\"\"{}\"\"\"", method.doc));
                body(&python, method, out);
            });
        }
    });
}

const LETTER_AT: &str = "\
def _letter_at(text: str, place: int) -> int:
    return ord(text[place]) if place < len(text) else 0";

const CALLS: &str = "
@staticmethod
def on_board_of(lines: List[str]) -> \"Game\":
    \"\"\"A game on a board of its own in place of the maps, drawn with their letters.\"\"\"
    return Game(own=lines)

def copy(self) -> \"Game\":
    \"\"\"A game of its own that stands as this one does.\"\"\"
    other = Game.__new__(Game)
    other.__dict__.update({name: list(value) if isinstance(value, list) else value for name, value in self.__dict__.items()})
    return other

def request(self, id: int, heading: Heading) -> Answer:
    \"\"\"The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy.\"\"\"
    granted = self._ask_for(id, list(Heading).index(heading))
    check = None if self._last_check < 0 else list(Check)[self._last_check]
    moved = [
        Move(piece, self._cell(place), self._cell(self._cell_of[piece]))
        for piece, place in zip(self._moved_piece, self._moved_from)
    ]
    return Answer(granted, check, self._last_line, moved)

def board(self) -> List[str]:
    \"\"\"The board as lines of text, the top one first.\"\"\"
    numbers = range(self._rows) if FROM_TOP else range(self._rows - 1, -1, -1)
    return [
        \"\".join(self._letter_of(row * self._columns + column) for column in range(self._columns)) for row in numbers
    ]

def pieces(self) -> List[Piece]:
    \"\"\"The pieces in reading order, the lowest layer of a cell first, the ground left out.\"\"\"
    found: List[int] = []
    self._list_pieces(found)
    headings = list(Heading)
    kinds = list(Kind)
    return [
        Piece(
            piece,
            kinds[self._kind_of[piece]],
            self._cell(self._cell_of[piece]),
            None if self._heading_of[piece] < 0 else headings[self._heading_of[piece]],
        )
        for piece in found
    ]

def _cell(self, place: int) -> Cell:
    return Cell(place % self._columns, place // self._columns)";

const DRAWING: &str = "
def _drawing(self, line: int) -> str:
    return self._own[line] if self._own else DRAWINGS[self.map - 1][line]

def _drawing_columns(self) -> int:
    return len(self._own[0]) if self._own else MAP_COLUMNS[self.map - 1]

def _drawing_rows(self) -> int:
    return len(self._own) if self._own else MAP_ROWS[self.map - 1]";

const BROKEN: &str = "
def broken(self) -> Optional[str]:
    \"\"\"The first promise that does not hold now, as the rulebook writes it.\"\"\"
    number = self._broken_promise()
    return None if number < 0 else PROMISES[number]";

const DRAWS: &str = "
def _begin_draws(self) -> None:
    self._draws_at = (self._seed + 109) % 2**64
    self._draw()

def _draw(self) -> int:
    \"\"\"The next random number of 32 bits (PCG-XSH-RR 64/32).\"\"\"
    x = self._draws_at
    self._draws_at = (x * 6364136223846793005 + 109) % 2**64
    word = (((x >> 18) ^ x) >> 27) % 2**32
    turn = x >> 59
    return (word >> turn | word << (-turn % 32)) % 2**32

def _draw_below(self, end: int) -> int:
    \"\"\"A random number from 0 to before another.\"\"\"
    least = 2**32 % end
    found = self._draw()
    while found < least:
        found = self._draw()
    return found % end";

impl Tester for Python<'_> {
    fn played(&self, play: &Play) -> Vec<String> {
        let list = |lines: &[String]| lines.iter().map(|line| self.text(line)).collect::<Vec<_>>().join(", ");
        let mut out = vec![format!("game = Game.on_board_of([{}])", list(&play.board))];
        out.extend(play.inputs.iter().map(|word| format!("game.input(\"{word}\")")));
        out.push(format!("assert game.board() == [{}]", list(&play.ends)));
        out.extend(play.counters.iter().map(|(name, value)| format!("assert game.{name} == {value}")));
        out
    }
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

/// The part that works positions out.
fn grid(module: &Module, out: &mut Lines) {
    for constant in &module.constants {
        out.line(format!("{} = {}  # {}", constant.name, number(constant.value), constant.doc));
    }
    out.gap().gap().line("class Grid:").inside(|out| {
        out.line("\"\"\"The grid of a map.\"\"\"").gap();
        out.line("def __init__(self, columns: int, rows: int, origin_x: float, origin_y: float, void: list) -> None:");
        out.inside(|out| {
            out.line("self.columns = columns").line("self.rows = rows").line("self._origin_x = origin_x");
            out.line("self._origin_y = origin_y").line("self._void = void");
        });
        out.gap().line("@staticmethod").line("def of_map(number: int) -> \"Grid\":").inside(|out| {
            out.line("\"\"\"The grid of a map, counted from 1.\"\"\"").line("return _MAPS[number - 1]");
        });
        for method in &module.methods {
            let params: Vec<String> = method.params.iter().map(|(name, of)| format!("{name}: {}", kind(of))).collect();
            out.gap().line(format!("def {}(self, {}) -> {}:", method.name, params.join(", "), kind(&method.returns)));
            out.inside(|out| {
                out.line(format!("\"\"\"{}\"\"\"", method.doc));
                body(&Python { game: None }, method, out);
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
}

impl Printer for Python<'_> {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let mut out = Lines::default();
        out.lines(head(module, "#"));
        let list = if module.game.is_some() { "List, " } else { "" };
        out.line("import enum")
            .line("import math")
            .line(format!("from typing import {list}NamedTuple, Optional"))
            .gap()
            .gap();
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
        if !module.methods.is_empty() {
            grid(module, &mut out);
        }
        if let Some(of) = &module.game {
            out.gap().gap();
            game(of, &mut out);
        }
        let name = &module.name;
        let mut test = Lines::default();
        test.line(format!("# python3 {name}_test.py")).lines(head(module, "#"));
        let kind = if module.kinds.is_empty() { "" } else { "Kind, " };
        let (has_grid, has_game) = (!module.methods.is_empty(), module.game.is_some());
        let mut names = if has_grid { format!("Cell, Grid, {kind}Point, Where") } else { String::new() };
        if has_game {
            names = if has_grid { names.replace("Grid", "Game, Grid") } else { "Game".into() };
        }
        test.line(format!("from {name} import {names}")).gap();
        if has_grid {
            test.line(format!("grid = Grid.of_map({})", checks.map));
        }
        test.lines(asserts(self, checks));
        vec![
            File { name: format!("{name}.py"), text: out.text() },
            File { name: format!("{name}_test.py"), text: test.text() },
        ]
    }
}
