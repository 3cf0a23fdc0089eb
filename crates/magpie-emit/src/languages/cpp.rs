//! C++17, a header.

use crate::File;
use crate::game::unused_params;
use crate::names::KindName;
use crate::printer::{
    Deed, Lines, Printer, Syntax, Tester, asserts, body, double, expr, head, literal, number, pascal, quoted,
};
use crate::tests_of::{Checks, Play};
use crate::tree::{Expr, Game, List, Method, Module, Number, Store, Type, Values};
use magpie_core::grid::Ended;
use magpie_core::space::{Cell, Heading, Where};

/// C++; a game says `this` to its fields, since locals may have their names.
pub struct Cpp {
    pub game: bool,
}

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
        Type::Small => "int".into(),
        Type::Text => "const std::string &".into(),
        Type::List => "List &".into(),
        Type::Items => "const List &".into(),
        Type::Game => "const Game &".into(),
        Type::Nothing => "void".into(),
    }
}

impl Syntax for Cpp {
    fn name(&self, name: &str) -> String {
        name.to_owned()
    }
    fn own(&self, name: &str) -> String {
        if self.game { format!("this->{name}") } else { name.to_owned() }
    }
    fn call(&self, name: &str, arguments: &[String]) -> String {
        format!("{}{name}({})", if self.game { "this->" } else { "" }, arguments.join(", "))
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
    fn declare(&self, name: &str, kind: &Type, value: &str, changes: bool) -> String {
        format!("{}{} {name} = {value};", if changes { "" } else { "const " }, self::kind(kind))
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
    fn length(&self, list: &List) -> String {
        format!("static_cast<int>({}.size())", self.list(list))
    }
    fn pop(&self, list: &List) -> String {
        format!("take_last({})", self.list(list))
    }
    fn letter_at(&self, text: &str, place: &str) -> String {
        format!("letter_at({text}, {place})")
    }
    fn begins(&self, text: &str, wanted: &str) -> String {
        format!("{text}.compare(0, {}, {}) == 0", wanted.len(), self.text(wanted))
    }
    fn drawing(&self, line: &str) -> String {
        format!("this->drawing({line})")
    }
    fn wide(&self, value: &str) -> String {
        format!("static_cast<std::int64_t>({value})")
    }
    fn casts_by_call(&self) -> bool {
        true
    }
    fn narrow(&self, value: &str) -> String {
        format!("static_cast<int>({value})")
    }
    fn kept(&self, name: &str, field: &str) -> String {
        format!("{name}.{field}")
    }
    fn outcome(&self, outcome: Option<Ended>) -> String {
        outcome.map_or("std::nullopt".into(), |outcome| {
            format!("std::optional<Outcome>(Outcome::{})", pascal(&outcome.word().replace(' ', "_")))
        })
    }
    fn some_cell(&self, column: &str, row: &str) -> String {
        format!("Cell{{{column}, {row}}}")
    }
    fn deed(&self, deed: Deed) -> Vec<String> {
        let line = match deed {
            Deed::Empty(name) => format!("List {name};"),
            Deed::Push(list, value) => format!("{}.push_back({value});", self.list(list)),
            Deed::Drop(list) => format!("{}.pop_back();", self.list(list)),
            Deed::Clear(list) => format!("{}.clear();", self.list(list)),
            Deed::Sort(list) => {
                let list = self.list(list);
                format!("std::sort({list}.begin(), {list}.end());")
            }
            Deed::Fill(array, count, value) => format!("{array}.assign({count}, {value});"),
            Deed::FillList(list, count, value) => format!("{}.assign({count}, {value});", self.list(list)),
            Deed::Free(_) | Deed::Forget(_) => return Vec::new(),
            Deed::Tell(text) => format!("this->signals.push_back({});", self.text(text)),
            Deed::TellNothing => "this->signals.clear();".into(),
            Deed::Keep(name) => format!("Game {name} = *this;"),
            Deed::KeepAgain(name) => format!("{name} = *this;"),
            Deed::Restore(name) => format!("*this = {name};"),
        };
        vec![line]
    }
    fn give(&self, _: &Method, value: &Expr) -> Vec<String> {
        vec![format!("return {};", expr(self, value))]
    }
}

fn stored(store: Store) -> (&'static str, &'static str) {
    match store {
        Store::Int => ("std::int64_t", " = 0"),
        Store::Small => ("int", " = 0"),
        Store::Random => ("std::uint64_t", " = 0"),
        Store::Bool => ("bool", " = false"),
        Store::Outcome => ("std::optional<Outcome>", ""),
        Store::Cell => ("std::optional<Cell>", ""),
        Store::Texts => ("std::vector<std::string>", ""),
        Store::Array(_) | Store::List(_) | Store::Scratch | Store::ScratchArray(_) => ("List", ""),
    }
}

fn tables(module: &Module, game: &Game, out: &mut Lines) {
    let cpp = Cpp { game: true };
    let list = |words: &[&str]| words.iter().map(|word| pascal(&word.replace('-', "_"))).collect::<Vec<_>>();
    let checks = ["edge", "void", "meets", "corner", "limit", "room"];
    for (name, words) in [
        ("Heading", list(&Heading::ALL.map(Heading::word))),
        ("Check", list(&checks)),
        ("Outcome", list(&["won", "lost", "never-settles"])),
    ] {
        out.line(format!("enum class {name} {{ {} }};", words.join(", "))).gap();
    }
    for (name, fields) in [
        ("Piece", &["std::int64_t id;", "Kind kind;", "Cell cell;", "std::optional<Heading> heading;"][..]),
        ("Move", &["std::int64_t id;", "Cell from, to;"]),
        ("Answer", &["bool granted;", "std::optional<Check> check;", "std::int64_t line;", "std::vector<Move> moved;"]),
    ] {
        out.line(format!("struct {name} {{")).inside(|out| {
            out.lines(fields);
        });
        out.line("};").gap();
    }
    let _ = module;
    out.line("using List = std::vector<int>;").gap();
    out.lines(game.constants.iter().map(|(name, value)| format!("inline constexpr int {name} = {value};")));
    let array = |name: &str, of: &str, all: &[String]| {
        let all = if all.is_empty() { vec!["{}".to_owned()] } else { all.to_vec() };
        format!("inline constexpr {of} {name}[] = {{{}}};", all.join(", "))
    };
    for (name, values) in &game.tables {
        out.line(match values {
            Values::Numbers(values) => array(name, "int", &values.iter().map(i64::to_string).collect::<Vec<_>>()),
            Values::Texts(values) => {
                array(name, "const char *", &values.iter().map(|text| cpp.text(text)).collect::<Vec<_>>())
            }
        });
    }
    if !game.promises.is_empty() {
        let promises: Vec<String> = game.promises.iter().map(|text| cpp.text(text)).collect();
        out.line(array("PROMISES", "const char *", &promises));
    }
    out.line(format!("inline constexpr bool FROM_TOP = {};", game.from_top));
    for (at, lines) in game.drawings.iter().enumerate().filter(|(_, lines)| !lines.is_empty()) {
        out.line(format!("inline constexpr const char *DRAWING_{}[] = {{", at + 1)).inside(|out| {
            out.lines(lines.iter().map(|line| format!("{},", literal(line))));
        });
        out.line("};");
    }
    let all: Vec<String> = game
        .drawings
        .iter()
        .enumerate()
        .map(|(at, lines)| if lines.is_empty() { "nullptr".into() } else { format!("DRAWING_{}", at + 1) })
        .collect();
    out.line(format!("inline constexpr const char *const *DRAWINGS[] = {{{}}};", all.join(", "))).gap();
    out.lines(HELPERS.lines()).gap();
}

/// The part that plays.
fn game(module: &Module, game: &Game, out: &mut Lines) {
    let cpp = Cpp { game: true };
    tables(module, game, out);
    out.line("// A game: a copy of it is a game of its own, and putting one back takes back what was played since.");
    out.line("class Game {").line("public:").inside(|out| {
        for field in game.fields.iter().filter(|field| field.doc.is_some()) {
            let (of, first) = stored(field.store);
            out.line(format!("{of} {}{first}; // {}", field.name, field.doc.as_deref().unwrap_or_default()));
        }
        out.gap();
        let begin = |out: &mut Lines| {
            out.line(format!("this->map = this->own.empty() ? {} : {};", game.map, game.drawings.len()));
            out.line("this->newest = -1;").line("this->begin_game();");
        };
        match game.seed {
            Some(seed) => {
                let params = format!("std::uint64_t seed = {seed}u, std::vector<std::string> own = {{}}");
                out.line(format!("explicit Game({params}) : seed(seed), own(own) {{")).inside(begin);
            }
            None => {
                out.line("explicit Game(std::vector<std::string> own = {}) : own(own) {").inside(begin);
            }
        }
        out.line("}").gap().line("// A game on a board of its own in place of the maps, drawn with their letters.");
        let first = game.seed.map_or(String::new(), |seed| format!("{seed}u, "));
        out.line("static Game on_board_of(const std::vector<std::string> &lines) {").inside(|out| {
            out.line(format!("return Game({first}lines);"));
        });
        out.line("}");
        out.lines(CALLS.lines());
        if !game.promises.is_empty() {
            out.lines(BROKEN.lines());
        }
        methods(&cpp, game, true, out);
    });
    out.gap().line("private:").inside(|out| {
        if game.seed.is_some() {
            out.line("std::uint64_t seed = 0;");
        }
        out.line("std::vector<std::string> own;");
        for field in game.fields.iter().filter(|field| field.doc.is_none()) {
            let (of, first) = stored(field.store);
            out.line(format!("{of} {}{first};", field.name));
        }
        out.lines(OF_CELLS.lines());
        if !game.is_numbered() {
            out.lines(DRAWING.lines());
        }
        if game.seed.is_some() {
            out.lines(DRAWS.lines());
        }
        methods(&cpp, game, false, out);
    });
    out.line("};").gap();
}

fn methods(cpp: &Cpp, game: &Game, open: bool, out: &mut Lines) {
    for method in game.methods.iter().filter(|method| method.is_public == open) {
        let param = |(name, of): &(crate::tree::Name, Type)| {
            let of = kind(of);
            if of.ends_with('&') { format!("{of}{name}") } else { format!("{of} {name}") }
        };
        let params: Vec<String> = method.params.iter().map(param).collect();
        let returns = if method.returns == Type::Text { "const char *".into() } else { kind(&method.returns) };
        let constant = if method.changes { "" } else { " const" };
        out.gap().line(format!("// {}", method.doc));
        out.line(format!("{returns} {}({}){constant} {{", method.name, params.join(", ")));
        out.inside(|out| {
            out.lines(unused_params(method).iter().map(|name| format!("(void){name};")));
            body(cpp, method, out);
        });
        out.line("}");
    }
}

const HELPERS: &str = "\
inline int take_last(List &list) {
    const int last = list.back();
    list.pop_back();
    return last;
}

inline int letter_at(const std::string &text, int place) {
    return place < static_cast<int>(text.size()) ? static_cast<unsigned char>(text[static_cast<std::size_t>(place)]) : 0;
}";

const CALLS: &str = "
// The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy.
Answer request(std::int64_t id, Heading heading) {
    const int piece = id < 0 || id > 2147483647 ? -1 : static_cast<int>(id);
    Answer answer{this->ask_for(piece, static_cast<int>(heading)), std::nullopt, 0, {}};
    answer.line = this->last_line;
    if (this->last_check >= 0) {
        answer.check = static_cast<Check>(this->last_check);
    }
    for (std::size_t at = 0; at < this->moved_piece.size(); at++) {
        const int moved = this->moved_piece[at];
        answer.moved.push_back(Move{moved, this->cell(this->moved_from[at]), this->cell(this->cell_of[moved])});
    }
    return answer;
}

// The board as lines of text, the top one first.
std::vector<std::string> board() const {
    std::vector<std::string> lines;
    for (int line = 0; line < this->rows; line++) {
        const int row = FROM_TOP ? line : this->rows - 1 - line;
        std::string text;
        for (int column = 0; column < this->columns; column++) {
            text += this->letter_of(row * this->columns + column);
        }
        lines.push_back(text);
    }
    return lines;
}

// The pieces in reading order, the lowest layer of a cell first, the ground left out.
std::vector<Piece> pieces() const {
    List found;
    this->list_pieces(found);
    std::vector<Piece> pieces;
    for (const int piece : found) {
        const int heading = this->heading_of[piece];
        pieces.push_back(Piece{piece, static_cast<Kind>(this->kind_of[piece]), this->cell(this->cell_of[piece]), std::nullopt});
        if (heading >= 0) {
            pieces.back().heading = static_cast<Heading>(heading);
        }
    }
    return pieces;
}";

const OF_CELLS: &str = "
Cell cell(int place) const {
    return Cell{place % this->columns, place / this->columns};
}";

const DRAWING: &str = "
std::string drawing(int line) const {
    return this->own.empty() ? DRAWINGS[this->map - 1][line] : this->own[line];
}

int drawing_columns() const {
    return this->own.empty() ? MAP_COLUMNS[this->map - 1] : static_cast<int>(this->own[0].size());
}

int drawing_rows() const {
    return this->own.empty() ? MAP_ROWS[this->map - 1] : static_cast<int>(this->own.size());
}";

const BROKEN: &str = "
// The first promise that does not hold now, as the rulebook writes it.
std::optional<std::string> broken() const {
    const int number = this->broken_promise();
    return number < 0 ? std::nullopt : std::optional<std::string>(PROMISES[number]);
}";

const DRAWS: &str = "
void begin_draws() {
    this->draws_at = this->seed + 109u;
    this->draw();
}

// The next random number of 32 bits (PCG-XSH-RR 64/32).
std::uint32_t draw() {
    const std::uint64_t x = this->draws_at;
    this->draws_at = x * 6364136223846793005u + 109u;
    const std::uint32_t word = static_cast<std::uint32_t>(((x >> 18) ^ x) >> 27);
    const unsigned turn = static_cast<unsigned>(x >> 59);
    return (word >> turn) | (word << ((32u - turn) & 31u));
}

// A random number from 0 to before another.
int draw_below(int end) {
    const std::uint32_t below = static_cast<std::uint32_t>(end);
    const std::uint32_t least = static_cast<std::uint32_t>(4294967296u % below);
    std::uint32_t found = this->draw();
    while (found < least) {
        found = this->draw();
    }
    return static_cast<int>(found % below);
}";

impl Tester for Cpp {
    fn played(&self, play: &Play) -> Vec<String> {
        let list = |lines: &[String]| lines.iter().map(|line| self.text(line)).collect::<Vec<_>>().join(", ");
        let mut out = vec!["{".into(), format!("    Game game = Game::on_board_of({{{}}});", list(&play.board))];
        out.extend(play.inputs.iter().map(|word| format!("    game.input(\"{word}\");")));
        out.push(format!("    assert((game.board() == std::vector<std::string>{{{}}}));", list(&play.ends)));
        out.extend(play.counters.iter().map(|(name, value)| format!("    assert(game.{name} == {value});")));
        out.push("}".into());
        out
    }
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

/// The part that works positions out.
fn grid(module: &Module, out: &mut Lines) {
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
            let params: Vec<String> = method.params.iter().map(|(name, of)| format!("{} {name}", kind(of))).collect();
            out.gap().line(format!("// {}", method.doc));
            out.line(format!("{} {}({}) const {{", kind(&method.returns), method.name, params.join(", ")));
            out.inside(|out| body(&Cpp { game: false }, method, out));
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
    out.line("}").gap();
}

impl Printer for Cpp {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let name = &module.name;
        let mut out = Lines::default();
        out.lines(head(module, "//")).line("#pragma once").gap();
        out.lines(["algorithm", "cmath", "cstdint", "optional"].map(|file| format!("#include <{file}>")));
        if module.game.is_some() {
            out.lines(["string", "vector"].map(|file| format!("#include <{file}>")));
        }
        out.gap();
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
        if !module.methods.is_empty() {
            grid(module, &mut out);
        }
        if let Some(of) = &module.game {
            game(module, of, &mut out);
        }
        out.line(format!("}} // namespace {name}"));
        let mut test = Lines::default();
        test.line(format!("// c++ -std=c++17 -o {name}_test {name}_test.cpp && ./{name}_test"));
        test.lines(head(module, "//"))
            .line("#undef NDEBUG")
            .line("#include <cassert>")
            .line(format!("#include \"{name}.hpp\""))
            .gap();
        test.line(format!("using namespace {name};")).gap().line("int main() {").inside(|out| {
            if !module.methods.is_empty() {
                out.line(format!("const Grid grid = Grid::of_map({});", checks.map));
            }
            out.lines(asserts(self, checks));
        });
        test.line("}");
        vec![
            File { name: format!("{name}.hpp"), text: out.text() },
            File { name: format!("{name}_test.cpp"), text: test.text() },
        ]
    }
}
