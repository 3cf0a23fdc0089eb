//! C11.

use crate::File;
use crate::names::KindName;
use crate::game::unused_params;
use crate::printer::{
    Deed, Lines, Printer, Syntax, Tester, asserts, body, double, expr, head, literal, looks_at_own, number, quoted, upper as upper_of,
};
use crate::tests_of::{Check, Checks, Play};
use crate::tree::{Expr, Game, GameField, List, Method, Module, Name, Number, Stmt, Store, Type, Values};
use magpie_core::grid::Ended;
use magpie_core::space::{Cell, Heading, Where};

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

    fn free(&self, open: &[Name]) -> Vec<String> {
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
        let arguments: Vec<&str> = std::iter::once(self.receiver()).chain(arguments.iter().map(String::as_str)).collect();
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
            lines.extend(self.free(open));
            lines.push(format!("return {text};"));
        } else {
            lines.push(format!("const {} result = {text};", self.kind(&method.returns)));
            lines.extend(self.free(open));
            lines.push("return result;".into());
        }
        lines
    }
    fn leave(&self, open: &[Name]) -> Vec<String> {
        let mut lines = self.free(open);
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

/// The game in C: its header and its source.
struct GameOf<'g> {
    c: C<'g>,
    game: &'g Game,
    kinds: &'g [KindName],
}

impl GameOf<'_> {
    fn field(&self, field: &GameField) -> String {
        let name = &self.c.name;
        let of = &field.name;
        match field.store {
            Store::Int if of == "map" => "int map;".into(),
            Store::Int => format!("int64_t {of};"),
            Store::Small => format!("int {of};"),
            Store::Bool => format!("bool {of};"),
            Store::Outcome => format!("{name}_outcome {of};"),
            Store::Cell => format!("{name}_cell {of};"),
            Store::Texts => format!("const char *{of}[64]; int signal_count;"),
            Store::Random => format!("uint64_t {of};"),
            Store::Array(most) | Store::ScratchArray(most) => format!("int {of}[{}_{most}];", self.c.upper()),
            Store::List(most) => format!("struct {{ int count; int items[{}_{most}]; }} {of};", self.c.upper()),
            Store::Scratch => format!("{name}_list {of};"),
        }
    }

    fn header(&self, out: &mut Lines) {
        let (name, upper, game) = (&self.c.name, self.c.upper(), self.game);
        let slots = game.most_cells * game.layers;
        let trails = game.constants.iter().find(|(name, _)| name == "TRAILS").map_or(1, |(_, count)| *count);
        for (what, value) in [
            ("BOARD_SIZE", game.board_bytes),
            ("MOST_SLOTS", slots),
            ("MOST_PIECES", 2 * slots),
            ("KINDS", self.kinds.len()),
            ("TRAILS", trails as usize),
        ] {
            out.line(format!("#define {upper}_{what} {value}"));
        }
        out.gap();
        let list = |prefix: &str, words: &[&str], none: &str| {
            let words: Vec<String> = words.iter().map(|word| format!("{upper}_{prefix}{}", upper_of(word))).collect();
            format!("{upper}_{none} = -1, {}", words.join(", "))
        };
        for (of, body) in [
            ("heading", list("", &Heading::ALL.map(Heading::word), "NO_HEADING")),
            ("check", list("CHECK_", &["edge", "void", "meets", "corner", "limit", "room"], "NO_CHECK")),
            ("outcome", list("", &["won", "lost", "never settles"], "UNFINISHED")),
        ] {
            out.line(format!("typedef enum {{ {body} }} {name}_{of};")).gap();
        }
        out.line("typedef struct {").inside(|out| {
            out.line("int id;").line(format!("{name}_kind kind;")).line(format!("{name}_cell cell;"));
            out.line(format!("{name}_heading heading;"));
        });
        out.line(format!("}} {name}_piece;")).gap().line("typedef struct {").inside(|out| {
            out.line("int id;").line(format!("{name}_cell from, to;"));
        });
        out.line(format!("}} {name}_move;")).gap().line("typedef struct {").inside(|out| {
            out.line("bool granted;").line(format!("{name}_check check;")).line("int64_t line;");
            out.line(format!("{name}_move moved[{upper}_MOST_PIECES];")).line("int moved_count;");
        });
        out.line(format!("}} {name}_answer;")).gap();
        out.line("// A game: a copy of it is a game of its own, and putting one back takes back what was played since.");
        out.line("typedef struct {").inside(|out| {
            for field in game.fields.iter().filter(|field| !self.c.is_scratch(&field.name)) {
                let doc = field.doc.as_ref().map_or(String::new(), |doc| format!(" // {doc}"));
                out.line(format!("{}{doc}", self.field(field)));
            }
            out.line("uint64_t seed;").line("const char *const *own;").line("int own_columns, own_rows;");
        });
        out.line(format!("}} {name}_game;")).gap();
        out.line("// A game as its map is entered.").line(format!("void {name}_start({name}_game *game);"));
        if game.seed.is_some() {
            out.line(format!("void {name}_start_with_seed({name}_game *game, uint64_t seed);"));
        }
        out.line("// The same on a board of its own in place of the maps, drawn with their letters; the lines stay with the caller.");
        out.line(format!("void {name}_start_on({name}_game *game, const char *const *lines, int columns, int rows);"));
        out.line("// Does what an input asks for; false for a word that is none, and where nothing happens.");
        out.line(format!("bool {name}_input({name}_game *game, const char *word);"));
        out.line("// The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy.");
        out.line(format!("{name}_answer {name}_request({name}_game *game, int id, {name}_heading heading);"));
        out.line("// The board as lines of text, the top one first, into BOARD_SIZE bytes.");
        out.line(format!("void {name}_board(const {name}_game *game, char *text);"));
        out.line("// The pieces in reading order, the lowest layer of a cell first, the ground left out; how many.");
        out.line(format!("int {name}_pieces(const {name}_game *game, {name}_piece *pieces);"));
        if !game.promises.is_empty() {
            out.line("// The first promise that does not hold now, as the rulebook writes it, or NULL.");
            out.line(format!("const char *{name}_broken(const {name}_game *game);"));
        }
        out.gap();
    }

    fn source(&self, out: &mut Lines) {
        let (name, game) = (&self.c.name, self.game);
        out.line("// What the rulebook says, in numbers.").line("enum {").inside(|out| {
            for (constant, value) in game.constants.iter().filter(|(constant, _)| !constant.starts_with("KIND_")) {
                out.line(format!("{constant} = {value},"));
            }
            out.line(format!("FROM_TOP = {}", u8::from(game.from_top)));
        });
        out.line("};").gap();
        for (table, values) in &game.tables {
            let (of, all): (_, Vec<String>) = match values {
                Values::Numbers(values) => ("int ", values.iter().map(i64::to_string).collect()),
                Values::Texts(values) => ("char *const ", values.iter().map(|text| self.c.text(text)).collect()),
            };
            let all = if all.is_empty() { "0".to_owned() } else { all.join(", ") };
            out.line(format!("static const {of}{table}[] = {{{all}}};"));
        }
        if !game.promises.is_empty() {
            let promises: Vec<String> = game.promises.iter().map(|text| self.c.text(text)).collect();
            out.line(format!("static const char *const PROMISES[] = {{{}}};", promises.join(", ")));
        }
        for (at, lines) in game.drawings.iter().enumerate().filter(|(_, lines)| !lines.is_empty()) {
            out.line(format!("static const char *const DRAWING_{}[] = {{", at + 1)).inside(|out| {
                out.lines(lines.iter().map(|line| format!("{},", self.c.text(line))));
            });
            out.line("};");
        }
        if !game.is_numbered() {
            let all: Vec<String> = game
                .drawings
                .iter()
                .enumerate()
                .map(|(at, lines)| if lines.is_empty() { "NULL".into() } else { format!("DRAWING_{}", at + 1) })
                .collect();
            out.line(format!("static const char *const *const DRAWINGS[] = {{{}}};", all.join(", ")));
        }
        out.gap().line(format!("typedef struct {{ int count, room; int *items; }} {name}_list;")).gap();
        out.line("// Room for the plan of one request: of no use between two calls.");
        out.line("static _Thread_local struct {").inside(|out| {
            for field in game.fields.iter().filter(|field| self.c.is_scratch(&field.name)) {
                out.line(self.field(field));
            }
        });
        out.line("} scratch;").gap();
        for method in &game.methods {
            let open = if method.is_public { "" } else { "static " };
            out.line(format!("{open}{};", self.c.signature(method)));
        }
        let has = |wanted: &dyn Fn(&Stmt) -> bool| {
            let mut found = false;
            for method in &game.methods {
                Stmt::every(&method.body, &mut |statement| found |= wanted(statement));
            }
            found
        };
        let mut text = HELPERS.to_owned();
        for (wanted, part) in [
            (has(&|statement| matches!(statement, Stmt::FillList(..))), FILL),
            (has(&|statement| matches!(statement, Stmt::Sort(_))), SORT),
            (has(&|statement| matches!(statement, Stmt::Keep(_))), KEPT),
            (has(&|statement| matches!(statement, Stmt::Tell(_))), TELL),
            (!game.is_numbered(), DRAWING),
            (game.seed.is_some(), DRAWS),
            (true, CALLS),
            (game.seed.is_some(), WITH_SEED),
            (game.seed.is_none(), WITHOUT_SEED),
            (!game.promises.is_empty(), BROKEN),
        ] {
            if wanted {
                text.push_str(part);
            }
        }
        let seed = game.seed.unwrap_or(0);
        let text = text.replace("NAME_", &format!("{name}_")).replace("UPPER_", &format!("{}_", self.c.upper()));
        let text = text.replace("SEED", &format!("{seed}u")).replace("FIRST_MAP", &game.map.to_string());
        let text = text.replace("LAST_MAP", &game.drawings.len().to_string());
        out.lines(text.lines());
        for method in &game.methods {
            let open = if method.is_public { "" } else { "static " };
            out.gap().line(format!("// {}", method.doc)).line(format!("{open}{} {{", self.c.signature(method)));
            out.inside(|out| {
                out.lines(unused_params(method).iter().map(|name| format!("(void){name};")));
                if !self.c.looks_at_game(&method.body) {
                    out.line("(void)game;");
                }
                body(&self.c, method, out);
            });
            out.line("}");
        }
    }
}

const HELPERS: &str = "
static void NAME_push(NAME_list *list, int value) {
    if (list->count == list->room) {
        list->room = list->room == 0 ? 16 : 2 * list->room;
        list->items = realloc(list->items, (size_t)list->room * sizeof *list->items);
        if (list->items == NULL) {
            abort();
        }
    }
    list->items[list->count++] = value;
}

static inline int NAME_take_last(NAME_list *list) {
    return list->items[--list->count];
}

static void NAME_fill_array(int *array, int count, int value) {
    for (int at = 0; at < count; at++) {
        array[at] = value;
    }
}
";

const FILL: &str = "
static void NAME_fill(NAME_list *list, int count, int value) {
    list->count = 0;
    for (int at = 0; at < count; at++) {
        NAME_push(list, value);
    }
}
";

const SORT: &str = "
static int NAME_compare(const void *one, const void *other) {
    const int a = *(const int *)one, b = *(const int *)other;
    return (a > b) - (a < b);
}

static void NAME_sort(NAME_list *list) {
    if (list->count > 1) {
        qsort(list->items, (size_t)list->count, sizeof *list->items, NAME_compare);
    }
}
";

const KEPT: &str = "
static NAME_game *NAME_kept(const NAME_game *game) {
    NAME_game *copy = malloc(sizeof *copy);
    if (copy == NULL) {
        abort();
    }
    *copy = *game;
    return copy;
}
";

const TELL: &str = "
static void NAME_tell(NAME_game *game, const char *text) {
    if (game->signal_count < 64) {
        game->signals[game->signal_count++] = text;
    }
}
";

const DRAWING: &str = "
static const char *NAME_drawing(const NAME_game *game, int line) {
    return game->own != NULL ? game->own[line] : DRAWINGS[game->map - 1][line];
}

static int NAME_drawing_columns(const NAME_game *game) {
    return game->own != NULL ? game->own_columns : MAP_COLUMNS[game->map - 1];
}

static int NAME_drawing_rows(const NAME_game *game) {
    return game->own != NULL ? game->own_rows : MAP_ROWS[game->map - 1];
}
";

const DRAWS: &str = "
// The next random number of 32 bits (PCG-XSH-RR 64/32).
static uint32_t NAME_draw(NAME_game *game) {
    const uint64_t x = game->draws_at;
    game->draws_at = x * 6364136223846793005u + 109u;
    const uint32_t word = (uint32_t)(((x >> 18) ^ x) >> 27);
    const unsigned turn = (unsigned)(x >> 59);
    return (word >> turn) | (word << ((32u - turn) & 31u));
}

static void NAME_begin_draws(NAME_game *game) {
    game->draws_at = game->seed + 109u;
    NAME_draw(game);
}

// A random number from 0 to before another.
static int NAME_draw_below(NAME_game *game, int end) {
    const uint32_t below = (uint32_t)end;
    const uint32_t least = (uint32_t)(UINT64_C(4294967296) % below);
    uint32_t found = NAME_draw(game);
    while (found < least) {
        found = NAME_draw(game);
    }
    return (int)(found % below);
}
";

const CALLS: &str = "
static NAME_cell NAME_cell_of_place(const NAME_game *game, int place) {
    return (NAME_cell){place % game->columns, place / game->columns};
}

NAME_answer NAME_request(NAME_game *game, int id, NAME_heading heading) {
    NAME_answer answer;
    answer.granted = NAME_ask_for(game, id, (int)heading);
    answer.check = (NAME_check)game->last_check;
    answer.line = game->last_line;
    answer.moved_count = 0;
    for (int at = 0; at < scratch.moved_piece.count; at++) {
        const int piece = scratch.moved_piece.items[at];
        const NAME_cell from = NAME_cell_of_place(game, scratch.moved_from.items[at]);
        answer.moved[answer.moved_count++] = (NAME_move){piece, from, NAME_cell_of_place(game, game->cell_of[piece])};
    }
    return answer;
}

void NAME_board(const NAME_game *game, char *text) {
    for (int line = 0; line < game->rows; line++) {
        const int row = FROM_TOP ? line : game->rows - 1 - line;
        for (int column = 0; column < game->columns; column++) {
            const char *letter = NAME_letter_of(game, row * game->columns + column);
            while (*letter != '\\0') {
                *text++ = *letter++;
            }
        }
        *text++ = '\\n';
    }
    *text = '\\0';
}

int NAME_pieces(const NAME_game *game, NAME_piece *pieces) {
    NAME_list found = {0, 0, NULL};
    NAME_list_pieces(game, &found);
    for (int at = 0; at < found.count; at++) {
        const int id = found.items[at];
        const NAME_cell cell = NAME_cell_of_place(game, game->cell_of[id]);
        pieces[at] = (NAME_piece){id, (NAME_kind)game->kind_of[id], cell, (NAME_heading)game->heading_of[id]};
    }
    free(found.items);
    return found.count;
}

static void NAME_start_as(NAME_game *game, int map, uint64_t seed, const char *const *own, int columns, int rows) {
    memset(game, 0, sizeof *game);
    game->map = map;
    game->newest = -1;
    game->seed = seed;
    game->own = own;
    game->own_columns = columns;
    game->own_rows = rows;
    NAME_begin_game(game);
}

void NAME_start_on(NAME_game *game, const char *const *lines, int columns, int rows) {
    NAME_start_as(game, LAST_MAP, SEED, lines, columns, rows);
}
";

const WITH_SEED: &str = "
void NAME_start_with_seed(NAME_game *game, uint64_t seed) {
    NAME_start_as(game, FIRST_MAP, seed, NULL, 0, 0);
}

void NAME_start(NAME_game *game) {
    NAME_start_with_seed(game, SEED);
}
";

const WITHOUT_SEED: &str = "
void NAME_start(NAME_game *game) {
    NAME_start_as(game, FIRST_MAP, SEED, NULL, 0, 0);
}
";

const BROKEN: &str = "
const char *NAME_broken(const NAME_game *game) {
    const int number = NAME_broken_promise(game);
    return number < 0 ? NULL : PROMISES[number];
}
";

impl Tester for C<'_> {
    fn played(&self, play: &Play) -> Vec<String> {
        let name = &self.name;
        let lines: Vec<String> = play.board.iter().map(|line| self.text(line)).collect();
        let ends: String = play.ends.iter().map(|line| format!("{line}\n")).collect();
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

impl Printer for Maker {
    fn files(&self, module: &Module, checks: &Checks) -> Vec<File> {
        let c = C { name: module.name.clone(), game: None };
        let playing = module.game.as_ref().map(|game| GameOf {
            c: C { name: module.name.clone(), game: Some(game) },
            game,
            kinds: &module.kinds,
        });
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
        header.gap();
        if let Some(playing) = &playing {
            playing.header(&mut header);
        }
        header.line("#endif");
        let mut out = Lines::default();
        out.lines(head(module, "//")).line(format!("#include \"{name}.h\"")).gap().line("#include <math.h>");
        if playing.is_some() {
            out.line("#include <stdlib.h>").line("#include <string.h>");
        }
        out.gap();
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
                body(&c, method, out);
            });
            out.line("}");
        }
        if let Some(playing) = &playing {
            out.gap();
            playing.source(&mut out);
        }
        let mut test = Lines::default();
        test.line(format!("// cc -std=c11 -o {name}_test {name}_test.c {name}.c -lm && ./{name}_test"));
        test.lines(head(module, "//"))
            .line("#undef NDEBUG")
            .line("#include <assert.h>")
            .line(format!("#include \"{name}.h\""))
            .gap();
        let has_grid = !module.methods.is_empty();
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
            out.lines(asserts(&c, checks));
            if has_grid {
                out.line("(void)index;").line("(void)cell;");
            }
            out.line("return 0;");
        });
        test.line("}");
        let file = |ending: &str, text: String| File { name: format!("{name}{ending}"), text };
        vec![file(".h", header.text()), file(".c", out.text()), file("_test.c", test.text())]
    }
}
