//! Lua 5.4.

use crate::File;
use crate::names::KindName;
use crate::printer::{
    Deed, Lines, Printer, Syntax, Tester, asserts, body, double, expr, head, literal, number, quoted,
};
use crate::tests_of::{Checks, Play};
use crate::tree::{Expr, Game, List, Method, Module, Store, Type, Values};
use magpie_core::grid::Ended;
use magpie_core::space::{Cell, Heading, Where};

/// Lua; what a game lets nobody see begins with `_`.
pub struct Lua<'g> {
    pub game: Option<&'g Game>,
}

/// The place behind another: lists begin at 1.
fn behind(place: &str) -> String {
    match place.parse::<i64>() {
        Ok(number) => (number + 1).to_string(),
        Err(_) => place.strip_suffix(" - 1").map_or_else(|| format!("{place} + 1"), str::to_owned),
    }
}

impl Syntax for Lua<'_> {
    fn name(&self, name: &str) -> String {
        name.to_owned()
    }
    fn own(&self, name: &str) -> String {
        let hidden = if self.game.is_some_and(|game| !game.is_open(name)) { "_" } else { "" };
        format!("self.{hidden}{name}")
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        let hidden = if self.game.is_some() && name != "input" { "_" } else { "" };
        format!("self:{hidden}{name}({})", arguments.join(", "))
    }
    fn constant(&self, name: &str) -> String {
        let of_game = self.game.is_some_and(|game| {
            game.constants.iter().any(|(other, _)| other == name) || game.tables.iter().any(|(other, _)| other == name)
        });
        if of_game { format!("K.{name}") } else { name.to_owned() }
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
    fn declare(&self, name: &str, _: &Type, value: &str, _: bool) -> String {
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
    fn begin_while(&self, condition: &str) -> String {
        format!("while {condition} do")
    }
    fn begin_for(&self, name: &str, low: &str, high: &str) -> String {
        let last = high.parse::<i64>().map_or_else(|_| format!("{high} - 1"), |high| (high - 1).to_string());
        format!("for {name} = {low}, {last} do")
    }
    fn otherwise(&self) -> &'static str {
        "else"
    }
    fn end(&self) -> &'static str {
        ""
    }
    fn unequal(&self) -> &'static str {
        "~="
    }
    fn comment(&self, text: &str) -> String {
        format!("-- {text}")
    }
    fn at(&self, array: &str, place: &str) -> String {
        format!("{array}[{}]", behind(place))
    }
    fn length(&self, list: &List) -> String {
        format!("#{}", self.list(list))
    }
    fn pop(&self, list: &List) -> String {
        format!("table.remove({})", self.list(list))
    }
    fn letter_at(&self, text: &str, place: &str) -> String {
        format!("({text}:byte({}) or 0)", behind(place))
    }
    fn begins(&self, text: &str, wanted: &str) -> String {
        format!("{text}:sub(1, {}) == {}", wanted.len(), self.text(wanted))
    }
    fn adds_up(&self) -> bool {
        false
    }
    fn drawing(&self, line: &str) -> String {
        format!("self:_drawing({line})")
    }
    fn kept(&self, name: &str, field: &str) -> String {
        let hidden = if self.game.is_some_and(|game| game.is_open(field)) { "" } else { "_" };
        format!("{name}.{hidden}{field}")
    }
    fn outcome(&self, outcome: Option<Ended>) -> String {
        outcome.map_or("nil".into(), |outcome| format!("\"{}\"", outcome.word()))
    }
    fn some_cell(&self, column: &str, row: &str) -> String {
        format!("{{ column = {column}, row = {row} }}")
    }
    fn leave(&self, _: &[crate::tree::Name]) -> Vec<String> {
        vec!["do return end".into()]
    }
    fn deed(&self, deed: Deed) -> Vec<String> {
        let line = match deed {
            Deed::Empty(name) => format!("local {name} = {{}}"),
            Deed::Push(list, value) => {
                let list = self.list(list);
                format!("{list}[#{list} + 1] = {value}")
            }
            Deed::Drop(list) => format!("table.remove({})", self.list(list)),
            Deed::Clear(List::Own(name)) => format!("{} = {{}}", self.own(name)),
            Deed::Clear(list) => format!("table.move({{}}, 1, #{0}, 1, {0})", self.list(list)),
            Deed::Sort(list) => format!("table.sort({})", self.list(list)),
            Deed::Fill(array, count, value) => format!("{array} = filled({{}}, {count}, {value})"),
            Deed::FillList(list, count, value) => format!("filled({}, {count}, {value})", self.list(list)),
            Deed::Free(_) | Deed::Forget(_) => return Vec::new(),
            Deed::Tell(text) => format!("self.signals[#self.signals + 1] = {}", self.text(text)),
            Deed::TellNothing => "self.signals = {}".into(),
            Deed::Keep(name) => format!("local {name} = self:copy()"),
            Deed::KeepAgain(name) => format!("{name} = self:copy()"),
            Deed::Restore(name) => format!("put_back(self, {name}:copy())"),
        };
        vec![line]
    }
}

/// What a field begins with.
const fn first(store: Store) -> &'static str {
    match store {
        Store::Int | Store::Small | Store::Random => "0",
        Store::Bool => "false",
        Store::Outcome | Store::Cell => "nil",
        Store::Texts | Store::Array(_) | Store::List(_) | Store::Scratch | Store::ScratchArray(_) => "{}",
    }
}

fn tables(module: &Module, game: &Game, out: &mut Lines) {
    let words = |words: &[&str]| words.iter().map(|word| format!("\"{word}\"")).collect::<Vec<_>>().join(", ");
    let kinds: Vec<&str> = module.kinds.iter().map(|kind| kind.word.as_str()).collect();
    out.line(format!("local KINDS_OF = {{ {} }}", words(&kinds)));
    out.line(format!("local HEADINGS = {{ {} }}", words(&Heading::ALL.map(Heading::word))));
    out.line(format!("local CHECKS = {{ {} }}", words(&["edge", "void", "meets", "corner", "limit", "room"])));
    out.gap().line("local K = {").inside(|out| {
        out.lines(game.constants.iter().map(|(name, value)| format!("{name} = {value},")));
        for (name, values) in &game.tables {
            let all: Vec<String> = match values {
                Values::Numbers(values) => values.iter().map(i64::to_string).collect(),
                Values::Texts(values) => values.iter().map(|text| literal(text)).collect(),
            };
            out.line(format!("{name} = {{ {} }},", all.join(", ")));
        }
    });
    out.line("}");
    let promises: Vec<String> = game.promises.iter().map(|text| literal(text)).collect();
    out.line(format!("local PROMISES = {{ {} }}", promises.join(", ")));
    out.line(format!("local FROM_TOP = {}", game.from_top)).line("local DRAWINGS = {").inside(|out| {
        for lines in &game.drawings {
            out.line("{").inside(|out| {
                out.lines(lines.iter().map(|line| format!("{},", literal(line))));
            });
            out.line("},");
        }
    });
    out.line("}").gap();
}

/// The part that plays.
fn game(module: &Module, game: &Game, out: &mut Lines) {
    let lua = Lua { game: Some(game) };
    tables(module, game, out);
    out.lines(HELPERS.lines());
    let seed = if game.seed.is_some() { "seed" } else { "" };
    let begin = |out: &mut Lines, own: &str, map: &str| {
        out.line("local game = setmetatable({}, Game)");
        for field in &game.fields {
            out.line(format!("{} = {}", lua.own(&field.name).replacen("self", "game", 1), first(field.store)));
        }
        if let Some(seed) = game.seed {
            let given = if own == "{}" { "seed or " } else { "" };
            out.line(format!("game._seed = {given}{}", seed as i64));
        }
        out.line(format!("game._own = {own}")).line("game._newest = -1").line(format!("game.map = {map}"));
        out.line("game:_begin_game()").line("return game");
    };
    out.gap().line("-- A game as its map is entered.").line(format!("function Game.new({seed})"));
    out.inside(|out| begin(out, "{}", &game.map.to_string()));
    out.line("end");
    if !game.is_numbered() {
        out.gap().line("-- A game on a board of its own in place of the maps, drawn with their letters.");
        out.line("function Game.on_board_of(lines)");
        out.inside(|out| begin(out, "lines", &game.drawings.len().to_string()));
        out.line("end");
        out.lines(DRAWING.lines());
    }
    out.lines(CALLS.lines());
    if !game.promises.is_empty() {
        out.lines(BROKEN.lines());
    }
    if game.seed.is_some() {
        out.lines(DRAWS.lines());
    }
    for method in &game.methods {
        let params: Vec<&str> = method.params.iter().map(|(name, _)| &**name).collect();
        let hidden = if method.is_public { "" } else { "_" };
        out.gap().line(format!("-- {}", method.doc));
        out.line(format!("function Game:{hidden}{}({})", method.name, params.join(", ")));
        out.inside(|out| body(&lua, method, out));
        out.line("end");
    }
    out.gap();
}

const HELPERS: &str = "\
local function filled(list, count, value)
    for place = 1, count do
        list[place] = value
    end
    return list
end

local function put_back(game, before)
    for name in pairs(game) do
        game[name] = nil
    end
    for name, value in pairs(before) do
        game[name] = value
    end
end

-- A game: a copy of it is a game of its own, and going on with one takes back what was played since.
local Game = {}
Game.__index = Game";

const DRAWING: &str = "
function Game:_drawing(line)
    return #self._own > 0 and self._own[line + 1] or DRAWINGS[self.map][line + 1]
end

function Game:_drawing_columns()
    return #self._own > 0 and #self._own[1] or K.MAP_COLUMNS[self.map]
end

function Game:_drawing_rows()
    return #self._own > 0 and #self._own or K.MAP_ROWS[self.map]
end";

const CALLS: &str = "
-- A game of its own that stands as this one does.
function Game:copy()
    local other = setmetatable({}, Game)
    for name, value in pairs(self) do
        other[name] = value
        if type(value) == \"table\" then
            local list = {}
            for key, item in pairs(value) do
                list[key] = item
            end
            other[name] = list
        end
    end
    return other
end

-- The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy.
function Game:request(id, heading)
    local number = 0
    for place, word in ipairs(HEADINGS) do
        if word == heading then
            number = place - 1
        end
    end
    local granted = self:_ask_for(id, number)
    local moved = {}
    for place, piece in ipairs(self._moved_piece) do
        moved[place] = {
            id = piece,
            from = self:_cell(self._moved_from[place]),
            to = self:_cell(self._cell_of[piece + 1]),
        }
    end
    return { granted = granted, check = CHECKS[self._last_check + 1], line = self._last_line, moved = moved }
end

-- The board as lines of text, the top one first.
function Game:board()
    local lines = {}
    for line = 0, self._rows - 1 do
        local row = FROM_TOP and line or self._rows - 1 - line
        local letters = {}
        for column = 0, self._columns - 1 do
            letters[column + 1] = self:_letter_of(row * self._columns + column)
        end
        lines[line + 1] = table.concat(letters)
    end
    return lines
end

-- The pieces in reading order, the lowest layer of a cell first, the ground left out.
function Game:pieces()
    local found, pieces = {}, {}
    self:_list_pieces(found)
    for place, piece in ipairs(found) do
        pieces[place] = {
            id = piece,
            kind = KINDS_OF[self._kind_of[piece + 1] + 1],
            cell = self:_cell(self._cell_of[piece + 1]),
            heading = HEADINGS[self._heading_of[piece + 1] + 1],
        }
    end
    return pieces
end

function Game:_cell(place)
    return { column = place % self._columns, row = place // self._columns }
end";

const BROKEN: &str = "
-- The first promise that does not hold now, as the rulebook writes it.
function Game:broken()
    return PROMISES[self:_broken_promise() + 1]
end";

const DRAWS: &str = "
function Game:_begin_draws()
    self._draws_at = self._seed + 109
    self:_draw()
end

-- The next random number of 32 bits (PCG-XSH-RR 64/32).
function Game:_draw()
    local x = self._draws_at
    self._draws_at = x * 6364136223846793005 + 109
    local word = (((x >> 18) ~ x) >> 27) & 0xffffffff
    local turn = x >> 59
    return ((word >> turn) | (word << (-turn & 31))) & 0xffffffff
end

-- A random number from 0 to before another.
function Game:_draw_below(limit)
    local least = 4294967296 % limit
    local found = self:_draw()
    while found < least do
        found = self:_draw()
    end
    return found % limit
end";

impl Tester for Lua<'_> {
    fn played(&self, play: &Play) -> Vec<String> {
        let list = |lines: &[String]| lines.iter().map(|line| self.text(line)).collect::<Vec<_>>().join(", ");
        let mut out = vec!["do".into(), format!("    local game = Game.on_board_of({{ {} }})", list(&play.board))];
        out.extend(play.inputs.iter().map(|word| format!("    game:input(\"{word}\")")));
        out.push(format!("    same(game:board(), {{ {} }})", list(&play.ends)));
        out.extend(play.counters.iter().map(|(name, value)| format!("    assert(game.{name} == {value})")));
        out.push("end".into());
        out
    }
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

/// The part that works positions out.
fn grid(module: &Module, out: &mut Lines) {
    for constant in &module.constants {
        out.line(format!("local {} <const> = {} -- {}", constant.name, number(constant.value), constant.doc));
    }
    out.gap().line("-- The grid of a map.").line("local Grid = {}").line("Grid.__index = Grid").gap();
    for method in &module.methods {
        let params: Vec<&str> = method.params.iter().map(|(name, _)| &**name).collect();
        out.line(format!("-- {}", method.doc));
        out.line(format!("function Grid:{}({})", method.name, params.join(", ")));
        out.inside(|out| body(&Lua { game: None }, method, out));
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
    out.line("end").gap();
}

impl Printer for Lua<'_> {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let mut out = Lines::default();
        out.lines(head(module, "--")).gap();
        if !module.methods.is_empty() {
            grid(module, &mut out);
        }
        if let Some(of) = &module.game {
            game(module, of, &mut out);
        }
        let names: Vec<&str> = [("Grid = Grid", !module.methods.is_empty()), ("Game = Game", module.game.is_some())]
            .into_iter()
            .filter_map(|(name, is)| is.then_some(name))
            .collect();
        out.line(format!("return {{ {} }}", names.join(", ")));
        let name = &module.name;
        let mut test = Lines::default();
        test.line(format!("-- lua5.4 {name}_test.lua")).lines(head(module, "--")).gap();
        let (has_grid, has_game) = (!module.methods.is_empty(), module.game.is_some());
        if has_grid {
            test.line(format!("local Grid = require(\"{name}\").Grid"));
        }
        if has_game {
            test.line(format!("local Game = require(\"{name}\").Game"));
        }
        test.gap();
        test.line("local function same(got, wanted)").inside(|out| {
            out.line("for key, value in pairs(wanted) do").inside(|out| {
                out.line("assert(got[key] == value)");
            });
            out.line("end");
        });
        test.line("end").gap();
        if has_grid {
            test.line(format!("local grid = Grid.of_map({})", checks.map));
        }
        test.lines(asserts(self, checks));
        vec![
            File { name: format!("{name}.lua"), text: out.text() },
            File { name: format!("{name}_test.lua"), text: test.text() },
        ]
    }
}
