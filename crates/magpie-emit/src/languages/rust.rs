//! Rust, edition 2021.

use crate::File;
use crate::names::KindName;
use crate::printer::{
    Deed, Lines, Printer, Syntax, Tester, asserts, body, double, expr, head, literal, number, pascal, quoted,
};
use crate::tests_of::{Checks, Play};
use crate::tree::{Expr, Game, GameField, List, Method, Module, Number, Store, Type, Values};
use magpie_core::grid::Ended;
use magpie_core::space::{Cell, Heading, Where};
use std::fmt::Write as _;

pub struct Rust;

fn kind(kind: &Type) -> String {
    match kind {
        Type::Int => "i64".into(),
        Type::Float => "f64".into(),
        Type::Bool => "bool".into(),
        Type::Cell => "Cell".into(),
        Type::Point => "Point".into(),
        Type::Rect => "Rect".into(),
        Type::Where => "Where".into(),
        Type::Kind => "Kind".into(),
        Type::Option(inner) => format!("Option<{}>", self::kind(inner)),
        Type::Small => "i32".into(),
        Type::Text => "&str".into(),
        Type::List => "&mut Vec<i32>".into(),
        Type::Items => "&[i32]".into(),
        Type::Game => "&Game".into(),
        Type::Nothing => "()".into(),
    }
}

/// An index, cast.
fn index(place: &str) -> String {
    if place.bytes().all(|b| b.is_ascii_digit()) {
        place.to_owned()
    } else if place.contains(' ') {
        format!("({place}) as usize")
    } else {
        format!("{place} as usize")
    }
}

impl Syntax for Rust {
    fn name(&self, name: &str) -> String {
        name.to_owned()
    }
    fn own(&self, name: &str) -> String {
        format!("self.{name}")
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        format!("self.{name}({})", arguments.join(", "))
    }
    fn make(&self, kind: &Type, arguments: &[String]) -> String {
        let field = |(name, value): (&&str, &String)| {
            if *name == value { value.clone() } else { format!("{name}: {value}") }
        };
        let fields: Vec<String> = kind.fields().iter().zip(arguments).map(field).collect();
        format!("{} {{ {} }}", self::kind(kind), fields.join(", "))
    }
    fn place(&self, place: Where) -> String {
        format!("Where::{}", pascal(place.word()))
    }
    fn kind_name(&self, kind: &KindName) -> String {
        format!("Kind::{}", pascal(&kind.name))
    }
    fn floor(&self, value: &str) -> String {
        format!("({value}).floor()")
    }
    fn floor_int(&self, value: &str) -> String {
        format!("({value}).floor() as i64")
    }
    fn to_float(&self, value: &str) -> String {
        format!("{value} as f64")
    }
    fn clamp(&self, value: &str, low: &str, high: &str) -> String {
        format!("{value}.clamp({low}, {high})")
    }
    fn is_void(&self, cell: &str) -> String {
        format!("self.void[{cell}.row as usize].as_bytes()[{cell}.column as usize] == b' '")
    }
    fn some(&self, value: &str) -> String {
        format!("Some({value})")
    }
    fn nothing(&self) -> String {
        "None".into()
    }
    fn declare(&self, name: &str, of: &Type, value: &str, changes: bool) -> String {
        let changes = if changes { "mut " } else { "" };
        match of {
            Type::Small | Type::Int
                if changes.is_empty() && !value.starts_with(|c: char| c == '-' || c.is_ascii_digit()) =>
            {
                format!("let {name} = {value};")
            }
            Type::Small | Type::Int => format!("let {changes}{name}: {} = {value};", kind(of)),
            _ => format!("let {changes}{name} = {value};"),
        }
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![format!("return {};", expr(self, value))]
    }
    fn give_last(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![expr(self, value)]
    }
    fn begin_if(&self, condition: &str) -> String {
        format!("if {condition} {{")
    }
    fn begin_while(&self, condition: &str) -> String {
        format!("while {condition} {{")
    }
    fn begin_for(&self, name: &str, low: &str, high: &str) -> String {
        format!("for {name} in {low}..{high} {{")
    }
    fn text(&self, text: &str) -> String {
        literal(text).chars().fold(String::new(), |mut out, c| {
            // The compiler refuses what turns the direction of a text.
            if matches!(c, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}') {
                let _ = write!(out, "\\u{{{:x}}}", c as u32);
            } else {
                out.push(c);
            }
            out
        })
    }
    fn letter(&self, letter: char) -> String {
        format!("'{letter}' as i32")
    }
    fn at(&self, array: &str, place: &str) -> String {
        format!("{array}[{}]", index(place))
    }
    fn length(&self, list: &List) -> String {
        match list {
            List::Param(name) => format!("length_of({name})"),
            list => format!("length_of(&{})", self.list(list)),
        }
    }
    fn pop(&self, list: &List) -> String {
        format!("{}.pop().unwrap_or(0)", self.list(list))
    }
    fn pass(&self, list: &List, adds: bool) -> String {
        match (list, adds) {
            (List::Param(name), _) => name.to_string(),
            (list, true) => format!("&mut {}", self.list(list)),
            (list, false) => format!("&{}", self.list(list)),
        }
    }
    fn letter_at(&self, text: &str, place: &str) -> String {
        format!("letter_at({text}, {place})")
    }
    fn begins(&self, text: &str, wanted: &str) -> String {
        format!("{text}.starts_with({})", self.text(wanted))
    }
    fn drawing(&self, line: &str) -> String {
        format!("self.drawing({line})")
    }
    fn wide(&self, value: &str) -> String {
        format!("i64::from({value})")
    }
    fn casts_by_call(&self) -> bool {
        true
    }
    fn narrow(&self, value: &str) -> String {
        format!("({value}) as i32")
    }
    fn kept(&self, name: &str, field: &str) -> String {
        format!("{name}.{field}")
    }
    fn pass_kept(&self, name: &str) -> String {
        format!("&{name}")
    }
    fn outcome(&self, outcome: Option<Ended>) -> String {
        outcome.map_or("None".into(), |outcome| format!("Some(Outcome::{})", outcome_name(outcome)))
    }
    fn some_cell(&self, column: &str, row: &str) -> String {
        format!("Some(Cell {{ column: i64::from({column}), row: i64::from({row}) }})")
    }
    fn deed(&self, deed: Deed) -> Vec<String> {
        let line = match deed {
            Deed::Empty(name) => format!("let mut {name}: Vec<i32> = Vec::new();"),
            Deed::Push(list, value) => format!("{}.push({value});", self.list(list)),
            Deed::Drop(list) => format!("{}.pop();", self.list(list)),
            Deed::Clear(list) => format!("{}.clear();", self.list(list)),
            Deed::Sort(list) => format!("{}.sort_unstable();", self.list(list)),
            Deed::Fill(array, count, value) => format!("fill(&mut {array}, {count}, {value});"),
            Deed::FillList(List::Param(name), count, value) => format!("fill({name}, {count}, {value});"),
            Deed::FillList(list, count, value) => format!("fill(&mut {}, {count}, {value});", self.list(list)),
            Deed::Free(_) | Deed::Forget(_) => return Vec::new(),
            Deed::Tell(text) => format!("self.signals.push({});", self.text(text)),
            Deed::TellNothing => "self.signals.clear();".into(),
            Deed::Keep(name) => format!("let mut {name} = self.clone();"),
            Deed::KeepAgain(name) => format!("{name}.clone_from(self);"),
            Deed::Restore(name) => format!("self.clone_from(&{name});"),
        };
        vec![line]
    }
}

fn outcome_name(outcome: Ended) -> &'static str {
    match outcome {
        Ended::Won => "Won",
        Ended::Lost => "Lost",
        Ended::NeverSettles => "NeverSettles",
    }
}

fn stored(field: &GameField) -> &'static str {
    match field.store {
        Store::Int => "i64",
        Store::Small => "i32",
        Store::Bool => "bool",
        Store::Outcome => "Option<Outcome>",
        Store::Cell => "Option<Cell>",
        Store::Texts => "Vec<&'static str>",
        Store::Random => "u64",
        Store::Array(_) | Store::List(_) | Store::Scratch | Store::ScratchArray(_) => "Vec<i32>",
    }
}

/// The part that plays.
fn game(game: &Game, out: &mut Lines) {
    for (name, values) in &game.tables {
        match values {
            Values::Numbers(values) => {
                let all: Vec<String> = values.iter().map(i64::to_string).collect();
                out.line(format!("const {name}: [i32; {}] = [{}];", all.len(), all.join(", ")));
            }
            Values::Texts(values) => {
                let all: Vec<String> = values.iter().map(|text| Rust.text(text)).collect();
                out.line(format!("const {name}: [&str; {}] = [{}];", all.len(), all.join(", ")));
            }
        }
    }
    out.lines(game.constants.iter().map(|(name, value)| format!("const {name}: i32 = {value};")));
    let promises: Vec<String> = game.promises.iter().map(|text| Rust.text(text)).collect();
    if !promises.is_empty() {
        out.line(format!("const PROMISES: [&str; {}] = [{}];", promises.len(), promises.join(", ")));
    }
    out.gap().line("const DRAWINGS: &[&[&str]] = &[").inside(|out| {
        for lines in &game.drawings {
            out.line("&[").inside(|out| {
                out.lines(lines.iter().map(|line| format!("{},", Rust.text(line))));
            });
            out.line("],");
        }
    });
    out.line("];").gap();
    out.lines(HELPERS.lines()).gap();
    out.line("/// A game: a copy of it is a game of its own, and putting one back takes back what was played since.");
    out.line("#[derive(Clone, Debug, Default)]").line("pub struct Game {").inside(|out| {
        for field in &game.fields {
            if let Some(doc) = &field.doc {
                out.line(format!("/// {doc}")).line(format!("pub {}: {},", field.name, stored(field)));
            } else {
                out.line(format!("{}: {},", field.name, stored(field)));
            }
        }
        if game.seed.is_some() {
            out.line("seed: u64,");
        }
        out.line("own: Vec<String>,");
    });
    out.line("}").gap().line("impl Game {").inside(|out| {
        constructors(game, out);
        let calls = CALLS.lines().filter(|line| !game.is_numbered() || !line.contains("drawing"));
        out.lines(calls);
        broken(game, out);
        if game.seed.is_some() {
            out.lines(DRAWS.lines());
        }
        for method in &game.methods {
            let own = if method.changes { "&mut self" } else { "&self" };
            let params: Vec<String> =
                method.params.iter().map(|(name, of)| format!(", {name}: {}", kind(of))).collect();
            let params = params.concat();
            let returns = match &method.returns {
                Type::Nothing => String::new(),
                Type::Text => " -> &'static str".into(),
                of => format!(" -> {}", kind(of)),
            };
            let open = if method.is_public { "pub " } else { "" };
            out.gap().line(format!("/// {}", method.doc));
            out.line(format!("{open}fn {}({own}{params}){returns} {{", method.name));
            out.inside(|out| body(&Rust, method, out));
            out.line("}");
        }
    });
    out.line("}");
}

fn constructors(game: &Game, out: &mut Lines) {
    let seed = game.seed.map_or("", |_| "seed, ");
    let made =
        |map: usize, more: &str| format!("let mut game = Self {{ map: {map}, newest: -1, {more}..Self::default() }};");
    let begin = |out: &mut Lines| {
        out.line("game.begin_game();").line("game");
    };
    out.line("/// A game as its map is entered.").line("pub fn new() -> Self {").inside(|out| match game.seed {
        Some(seed) => {
            out.line(format!("Self::with_seed({seed})"));
        }
        None => {
            out.line(made(game.map, ""));
            begin(out);
        }
    });
    out.line("}");
    if game.seed.is_some() {
        out.gap().line("/// The same with other random draws.").line("pub fn with_seed(seed: u64) -> Self {");
        out.inside(|out| {
            out.line(made(game.map, seed));
            begin(out);
        });
        out.line("}");
    }
    if !game.is_numbered() {
        out.gap().line("/// A game on a board of its own in place of the maps, drawn with their letters.");
        out.line("pub fn on_board_of(lines: &[&str]) -> Self {").inside(|out| {
            out.line("let own = lines.iter().map(|line| line.to_string()).collect();");
            let seed = game.seed.map_or(String::new(), |seed| format!("seed: {seed}, "));
            out.line(made(game.drawings.len(), &format!("{seed}own, ")));
            begin(out);
        });
        out.line("}");
    }
}

fn broken(game: &Game, out: &mut Lines) {
    if !game.promises.is_empty() {
        out.gap().line("/// The first promise that does not hold now, as the rulebook writes it.");
        out.line("pub fn broken(&self) -> Option<&'static str> {").inside(|out| {
            out.line("let number = self.broken_promise();");
            out.line("if number < 0 { None } else { Some(PROMISES[number as usize]) }");
        });
        out.line("}");
    }
}

const HELPERS: &str = "\
fn length_of(list: &[i32]) -> i32 {
    list.len() as i32
}

fn fill(list: &mut Vec<i32>, count: i32, value: i32) {
    list.clear();
    list.resize(count as usize, value);
}

fn letter_at(text: &str, place: i32) -> i32 {
    text.as_bytes().get(place as usize).map_or(0, |letter| i32::from(*letter))
}";

const DRAWS: &str = "
/// Begins the random numbers of the seed.
fn begin_draws(&mut self) {
    self.draws_at = self.seed.wrapping_add(109);
    self.draw();
}

/// The next random number of 32 bits (PCG-XSH-RR 64/32).
fn draw(&mut self) -> u32 {
    let x = self.draws_at;
    self.draws_at = x.wrapping_mul(6364136223846793005).wrapping_add(109);
    ((((x >> 18) ^ x) >> 27) as u32).rotate_right((x >> 59) as u32)
}

/// A random number from 0 to before another.
fn draw_below(&mut self, end: i32) -> i32 {
    let end = end as u32;
    let least = ((1u64 << 32) % u64::from(end)) as u32;
    loop {
        let found = self.draw();
        if found >= least {
            return (found % end) as i32;
        }
    }
}";

const CALLS: &str = "
/// The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy.
pub fn request(&mut self, id: i64, heading: Heading) -> Answer {
    let granted = self.ask_for(i32::try_from(id).unwrap_or(-1), heading as i32);
    let check = if self.last_check < 0 { None } else { Some(CHECKS[self.last_check as usize]) };
    let moves = self.moved_piece.iter().zip(&self.moved_from);
    let moved = moves.map(|(id, from)| Move { id: i64::from(*id), from: self.cell(*from), to: self.cell(self.cell_of[*id as usize]) });
    Answer { granted, check, line: i64::from(self.last_line), moved: moved.collect() }
}

/// The board as lines of text, the top one first.
pub fn board(&self) -> Vec<String> {
    let row = |line: i32| {
        let row = if FROM_TOP { line } else { self.rows - 1 - line };
        (0..self.columns).map(|column| self.letter_of(row * self.columns + column)).collect()
    };
    (0..self.rows).map(row).collect()
}

/// The pieces in reading order, the lowest layer of a cell first, the ground left out.
pub fn pieces(&self) -> Vec<Piece> {
    let mut found = Vec::new();
    self.list_pieces(&mut found);
    let piece = |id: &i32| {
        let at = *id as usize;
        let heading = if self.heading_of[at] < 0 { None } else { Some(HEADINGS[self.heading_of[at] as usize]) };
        Piece { id: i64::from(*id), kind: KINDS_OF[self.kind_of[at] as usize], cell: self.cell(self.cell_of[at]), heading }
    };
    found.iter().map(piece).collect()
}

fn drawing(&self, line: i32) -> &str {
    if self.own.is_empty() { DRAWINGS[(self.map - 1) as usize][line as usize] } else { &self.own[line as usize] }
}

fn drawing_columns(&self) -> i32 {
    if self.own.is_empty() { MAP_COLUMNS[(self.map - 1) as usize] } else { self.own[0].len() as i32 }
}

fn drawing_rows(&self) -> i32 {
    if self.own.is_empty() { MAP_ROWS[(self.map - 1) as usize] } else { self.own.len() as i32 }
}

fn cell(&self, place: i32) -> Cell {
    Cell { column: i64::from(place % self.columns), row: i64::from(place / self.columns) }
}";

/// Types of who calls the game.
fn types(module: &Module, game: &Game, out: &mut Lines) {
    let list = |words: &[&str]| words.iter().map(|word| pascal(&word.replace('-', "_"))).collect::<Vec<_>>();
    let headings = list(&Heading::ALL.map(Heading::word));
    let checks = list(&["edge", "void", "meets", "corner", "limit", "room"]);
    let outcomes = list(&["won", "lost", "never-settles"]);
    for (name, variants) in [("Heading", &headings), ("Check", &checks), ("Outcome", &outcomes)] {
        out.line("#[derive(Clone, Copy, Debug, PartialEq, Eq)]");
        out.line(format!("pub enum {name} {{ {} }}", variants.join(", "))).gap();
    }
    let kinds: Vec<String> = module.kinds.iter().map(|kind| pascal(&kind.name)).collect();
    for (table, of, variants) in
        [("HEADINGS", "Heading", &headings), ("CHECKS", "Check", &checks), ("KINDS_OF", "Kind", &kinds)]
    {
        let all: Vec<String> = variants.iter().map(|variant| format!("{of}::{variant}")).collect();
        out.line(format!("const {table}: [{of}; {}] = [{}];", all.len(), all.join(", ")));
    }
    out.line(format!("const FROM_TOP: bool = {};", game.from_top)).gap();
    for (name, copies, fields) in [
        ("Piece", true, "pub id: i64, pub kind: Kind, pub cell: Cell, pub heading: Option<Heading>"),
        ("Move", true, "pub id: i64, pub from: Cell, pub to: Cell"),
        ("Answer", false, "pub granted: bool, pub check: Option<Check>, pub line: i64, pub moved: Vec<Move>"),
    ] {
        let copies = if copies { "Clone, Copy" } else { "Clone" };
        out.line(format!("#[derive({copies}, Debug, PartialEq)]"))
            .line(format!("pub struct {name} {{ {fields} }}"))
            .gap();
    }
}

/// The part that works positions out.
fn grid(module: &Module, out: &mut Lines) {
    for constant in &module.constants {
        let kind = if matches!(constant.value, Number::Int(_)) { "i64" } else { "f64" };
        out.line(format!("/// {}", constant.doc));
        out.line(format!("pub const {}: {kind} = {};", constant.name, number(constant.value)));
    }
    out.gap().line("/// The grid of a map.").line("#[derive(Clone, Copy, Debug)]").line("pub struct Grid {");
    out.inside(|out| {
        out.line("pub columns: i64,").line("pub rows: i64,").line("origin_x: f64,").line("origin_y: f64,");
        if module.has_void {
            out.line("void: &'static [&'static str],");
        }
    });
    out.line("}").gap().line("impl Grid {");
    out.inside(|out| {
        out.line("/// The grid of a map, counted from 1.").line("pub fn of_map(map: usize) -> Self {");
        out.inside(|out| {
            out.line("match map {");
            out.inside(|out| {
                let last = module.maps.len();
                for (number, map) in module.maps.iter().enumerate() {
                    out.line(format!("// {}", quoted(&map.title)));
                    let case = if number + 1 == last { "_".to_owned() } else { (number + 1).to_string() };
                    let void = if module.has_void {
                        let rows: Vec<String> = map.rows.iter().map(|row| quoted(row)).collect();
                        format!(", void: &[{}]", rows.join(", "))
                    } else {
                        String::new()
                    };
                    out.line(format!(
                        "{case} => Self {{ columns: {}, rows: {}, origin_x: {}, origin_y: {}{void} }},",
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
            let params: Vec<String> = method.params.iter().map(|(name, of)| format!("{name}: {}", kind(of))).collect();
            out.gap().line(format!("/// {}", method.doc));
            out.line(format!("pub fn {}(&self, {}) -> {} {{", method.name, params.join(", "), kind(&method.returns)));
            out.inside(|out| body(&Rust, method, out));
            out.line("}");
        }
    });
    out.line("}");
}

impl Printer for Rust {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let mut out = Lines::default();
        out.lines(head(module, "//!")).gap();
        out.line("#![allow(dead_code, unused_variables, unused_mut, unused_assignments, clippy::all)]").gap();
        for (name, fields) in [
            ("Cell", "pub column: i64, pub row: i64"),
            ("Point", "pub x: f64, pub y: f64"),
            ("Rect", "pub x: f64, pub y: f64, pub w: f64, pub h: f64"),
        ] {
            out.line("#[derive(Clone, Copy, Debug, PartialEq)]")
                .line(format!("pub struct {name} {{ {fields} }}"))
                .gap();
        }
        out.line("#[derive(Clone, Copy, Debug, PartialEq, Eq)]");
        let variants: Vec<String> = Where::ALL.iter().map(|place| pascal(place.word())).collect();
        out.line(format!("pub enum Where {{ {} }}", variants.join(", "))).gap();
        if !module.kinds.is_empty() {
            let kinds: Vec<String> = module.kinds.iter().map(|kind| pascal(&kind.name)).collect();
            out.line("#[derive(Clone, Copy, Debug, PartialEq, Eq)]");
            out.line(format!("pub enum Kind {{ {} }}", kinds.join(", "))).gap();
        }
        if !module.methods.is_empty() {
            grid(module, &mut out);
        }
        if let Some(of) = &module.game {
            out.gap();
            types(module, of, &mut out);
            game(of, &mut out);
        }
        vec![File { name: format!("{}.rs", module.name), text: out.text() }, test(module, checks)]
    }
}

impl Tester for Rust {
    fn played(&self, play: &Play) -> Vec<String> {
        let list = |lines: &[String]| lines.iter().map(|line| self.text(line)).collect::<Vec<_>>().join(", ");
        let mut out = vec!["{".into(), format!("    let mut game = Game::on_board_of(&[{}]);", list(&play.board))];
        out.extend(play.inputs.iter().map(|word| format!("    game.input(\"{word}\");")));
        out.push(format!("    assert_eq!(game.board(), [{}]);", list(&play.ends)));
        out.extend(play.counters.iter().map(|(name, value)| format!("    assert_eq!(game.{name}, {value});")));
        out.push("}".into());
        out
    }
    fn ask(&self, name: &str, arguments: &[String]) -> String {
        format!("grid.{name}({})", arguments.join(", "))
    }
    fn same_cell(&self, got: &str, cell: Cell) -> String {
        format!("assert_eq!({got}, {});", self.cell(cell))
    }
    fn same_point(&self, got: &str, (x, y): (f64, f64)) -> String {
        format!("assert_eq!({got}, {});", self.make(&Type::Point, &[double(x), double(y)]))
    }
    fn same_place(&self, got: &str, place: Where) -> String {
        format!("assert_eq!({got}, {});", self.place(place))
    }
    fn index_is(&self, cell: Cell, index: Option<i64>) -> Vec<String> {
        let cell = self.cell(cell);
        match index {
            None => vec![format!("assert_eq!(grid.cell_to_index({cell}), None);")],
            Some(index) => vec![
                format!("assert_eq!(grid.cell_to_index({cell}), Some({index}));"),
                format!("assert_eq!(grid.index_to_cell({index}), Some({cell}));"),
            ],
        }
    }
}

fn test(module: &Module, checks: &Checks) -> File {
    let name = &module.name;
    let mut out = Lines::default();
    out.line(format!("// rustc --edition 2021 {name}_test.rs && ./{name}_test"));
    out.lines(head(module, "//")).gap().line(format!("mod {name};")).gap().line(format!("use {name}::*;")).gap();
    out.line("fn main() {");
    out.inside(|out| {
        if !module.methods.is_empty() {
            out.line(format!("let grid = Grid::of_map({});", checks.map));
        }
        out.lines(asserts(&Rust, checks));
    });
    out.line("}");
    File { name: format!("{name}_test.rs"), text: out.text() }
}
