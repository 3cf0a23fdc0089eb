//! The part of a module in C that plays.

use super::C;
use crate::game::unused_params;
use crate::names::KindName;
use crate::printer::{Lines, Syntax, body, upper as upper_of};
use crate::tree::{Game, GameField, Stmt, Store, Values};
use magpie_core::space::Heading;

/// The game in C: its header and its source.
pub struct GameOf<'g> {
    pub c: C<'g>,
    pub game: &'g Game,
    pub kinds: &'g [KindName],
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

    pub fn header(&self, out: &mut Lines) {
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
        out.line(
            "// A game: a copy of it is a game of its own, and putting one back takes back what was played since.",
        );
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

    pub fn source(&self, out: &mut Lines) {
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
