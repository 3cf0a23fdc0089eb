// This was emitted by rapid-magpie, and is replaced where that is done again.
// Positions come out as with `rapid-magpie convert`, to the last bit.
// The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.
#include "shelf.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

static const char *const rows_1[] = {"...", ".. "};
static const char *const rows_2[] = {"...."};

static const shelf_grid maps[] = {
    // "Left"
    {3, 2, 8.0, 6.0, rows_1},
    // "Right"
    {4, 1, 8.0, 6.0, rows_2},
};

const shelf_grid *shelf_grid_of_map(int number) {
    return &maps[number - 1];
}

shelf_cell shelf_world_to_cell(const shelf_grid *grid, double x, double y) {
    int64_t column = (int64_t)floor((x + SHELF_HOTSPOT_X - grid->origin_x) / SHELF_PITCH_X);
    int64_t row = (int64_t)floor((y + SHELF_HOTSPOT_Y - grid->origin_y) / SHELF_PITCH_Y);
    return (shelf_cell){column, row};
}

shelf_where shelf_world_where(const shelf_grid *grid, double x, double y) {
    shelf_cell cell = shelf_world_to_cell(grid, x, y);
    if (!shelf_inside(grid, cell)) {
        return SHELF_WHERE_OUTSIDE;
    }
    double across = x + SHELF_HOTSPOT_X - grid->origin_x;
    if (across - floor(across / SHELF_PITCH_X) * SHELF_PITCH_X >= SHELF_CELL_WIDTH) {
        return SHELF_WHERE_GAP;
    }
    double down = y + SHELF_HOTSPOT_Y - grid->origin_y;
    if (down - floor(down / SHELF_PITCH_Y) * SHELF_PITCH_Y >= SHELF_CELL_HEIGHT) {
        return SHELF_WHERE_GAP;
    }
    if (grid->nothing[cell.row][cell.column] == ' ') {
        return SHELF_WHERE_VOID;
    }
    return SHELF_WHERE_CELL;
}

shelf_cell shelf_snap(const shelf_grid *grid, double x, double y) {
    shelf_cell cell = shelf_world_to_cell(grid, x, y);
    return (shelf_cell){cell.column < 0 ? 0 : cell.column > grid->columns - 1 ? grid->columns - 1 : cell.column, cell.row < 0 ? 0 : cell.row > grid->rows - 1 ? grid->rows - 1 : cell.row};
}

shelf_point shelf_cell_to_corner(const shelf_grid *grid, shelf_cell cell) {
    return (shelf_point){grid->origin_x + (double)cell.column * SHELF_PITCH_X, grid->origin_y + (double)cell.row * SHELF_PITCH_Y};
}

shelf_point shelf_cell_to_centre(const shelf_grid *grid, shelf_cell cell) {
    return (shelf_point){grid->origin_x + ((double)cell.column * SHELF_PITCH_X + SHELF_CELL_WIDTH / 2.0), grid->origin_y + ((double)cell.row * SHELF_PITCH_Y + SHELF_CELL_HEIGHT / 2.0)};
}

shelf_rect shelf_cell_to_box(const shelf_grid *grid, shelf_cell cell) {
    shelf_point corner = shelf_cell_to_corner(grid, cell);
    return (shelf_rect){corner.x, corner.y, SHELF_CELL_WIDTH, SHELF_CELL_HEIGHT};
}

bool shelf_inside(const shelf_grid *grid, shelf_cell cell) {
    return cell.column >= 0 && cell.column < grid->columns && cell.row >= 0 && cell.row < grid->rows;
}

bool shelf_cell_to_index(const shelf_grid *grid, shelf_cell cell, int64_t *found) {
    if (!shelf_inside(grid, cell)) {
        return false;
    }
    *found = cell.row * grid->columns + cell.column + SHELF_FIRST_INDEX;
    return true;
}

bool shelf_index_to_cell(const shelf_grid *grid, int64_t index, shelf_cell *found) {
    int64_t place = index - SHELF_FIRST_INDEX;
    if (place < 0 || place >= grid->columns * grid->rows) {
        return false;
    }
    *found = (shelf_cell){place % grid->columns, place / grid->columns};
    return true;
}

shelf_cell shelf_world_to_cell_of(const shelf_grid *grid, shelf_kind kind, double x, double y) {
    if (kind == SHELF_KIND_CRATE) {
        int64_t column = (int64_t)floor((x + 3.0 - grid->origin_x) / SHELF_PITCH_X);
        int64_t row = (int64_t)floor((y + 0.0 - grid->origin_y) / SHELF_PITCH_Y);
        return (shelf_cell){column, row};
    }
    return shelf_world_to_cell(grid, x, y);
}

shelf_point shelf_window_to_world(const shelf_grid *grid, double x, double y) {
    (void)grid;
    double across = x / SHELF_SCALE_X;
    double down = y / SHELF_SCALE_Y;
    return (shelf_point){SHELF_CAMERA_X + across, SHELF_CAMERA_Y + down};
}

shelf_point shelf_world_to_window(const shelf_grid *grid, double x, double y) {
    (void)grid;
    return (shelf_point){x * SHELF_SCALE_X + SHELF_BAR_X, y * SHELF_SCALE_Y + SHELF_BAR_Y};
}

shelf_cell shelf_cell_at(const shelf_grid *grid, double x, double y) {
    int64_t column = (int64_t)floor((x - grid->origin_x) / SHELF_PITCH_X);
    int64_t row = (int64_t)floor((y - grid->origin_y) / SHELF_PITCH_Y);
    return (shelf_cell){column, row};
}

shelf_where shelf_where_at(const shelf_grid *grid, double x, double y) {
    shelf_cell cell = shelf_cell_at(grid, x, y);
    if (!shelf_inside(grid, cell)) {
        return SHELF_WHERE_OUTSIDE;
    }
    double across = x - grid->origin_x;
    if (across - floor(across / SHELF_PITCH_X) * SHELF_PITCH_X >= SHELF_CELL_WIDTH) {
        return SHELF_WHERE_GAP;
    }
    double down = y - grid->origin_y;
    if (down - floor(down / SHELF_PITCH_Y) * SHELF_PITCH_Y >= SHELF_CELL_HEIGHT) {
        return SHELF_WHERE_GAP;
    }
    if (grid->nothing[cell.row][cell.column] == ' ') {
        return SHELF_WHERE_VOID;
    }
    return SHELF_WHERE_CELL;
}

shelf_cell shelf_window_to_cell(const shelf_grid *grid, double x, double y) {
    shelf_point world = shelf_window_to_world(grid, x, y);
    return shelf_cell_at(grid, world.x, world.y);
}

shelf_where shelf_window_where(const shelf_grid *grid, double x, double y) {
    double across = x / SHELF_SCALE_X;
    double down = y / SHELF_SCALE_Y;
    if (!(across >= 0.0 && across < SHELF_DESIGN_WIDTH && down >= 0.0 && down < SHELF_DESIGN_HEIGHT)) {
        return SHELF_WHERE_BAR;
    }
    shelf_point world = shelf_window_to_world(grid, x, y);
    return shelf_where_at(grid, world.x, world.y);
}

shelf_point shelf_cell_to_window(const shelf_grid *grid, shelf_cell cell) {
    shelf_point centre = shelf_cell_to_centre(grid, cell);
    return shelf_world_to_window(grid, centre.x, centre.y);
}

// What the rulebook says, in numbers.
enum {
    WEST = 0,
    EAST = 1,
    NORTH = 2,
    SOUTH = 3,
    STOP = 0,
    SHOVE = 2,
    CHECK_EDGE = 0,
    CHECK_VOID = 1,
    CHECK_MEETS = 2,
    CHECK_ROOM = 5,
    BY_NEXT = 2,
    KEY_RESTART = 0,
    KEY_NEXT = 1,
    KEY_TAP = 2,
    KEY_DRAG = 3,
    KEY_OTHER = 4,
    KEY_DOWN = 5,
    KEY_LEFT = 6,
    KEY_RIGHT = 7,
    KEY_UP = 8,
    LAYERS = 3,
    KINDS = 3,
    MAP_COUNT = 2,
    GROUND = 0,
    FROM_TOP = 1
};

static const int LAYER_OF[] = {0, 2, 2};
static const int FACING[] = {-1, -1, -1};
static const int STEP_X[] = {-1, 1, 0, 0, -1, 1, -1, 1};
static const int STEP_Y[] = {0, 0, -1, 1, -1, -1, 1, 1};
static const int MAP_COLUMNS[] = {3, 4};
static const int MAP_ROWS[] = {2, 1};
static const char *const GLYPH_OF[] = {".", "P", "C"};
static const int VERB_OF[] = {0, 2};
static const int HAS_EFFECTS[] = {0, 1};
static const int LINE_OF[] = {0, 23};
static const char *const PROMISES[] = {"always shoved < 100"};
static const char *const DRAWING_1[] = {
    "P.C",
    ".. ",
};
static const char *const DRAWING_2[] = {
    "P...",
};
static const char *const *const DRAWINGS[] = {DRAWING_1, DRAWING_2};

typedef struct { int count, room; int *items; } shelf_list;

// Room for the plan of one request: of no use between two calls.
static _Thread_local struct {
    shelf_list moved_piece;
    shelf_list moved_from;
    shelf_list was_at;
    shelf_list mover;
    shelf_list mover_from;
    shelf_list mover_to;
    shelf_list mover_gone;
    shelf_list taken;
    int leaving[SHELF_MOST_PIECES];
    shelf_list asking;
    shelf_list asking_layer;
    shelf_list asking_refused;
    shelf_list decided_rule;
    shelf_list decided_verb;
    shelf_list decided_mover;
    shelf_list decided_met;
    shelf_list decided_place;
    shelf_list asking_most;
} scratch;

bool shelf_input(shelf_game *game, const char *word);
static void shelf_show_chosen(const shelf_game *game);
static int shelf_read_cell(shelf_game *game, const char *word, int place);
static int64_t shelf_read_number(shelf_game *game, const char *word);
static void shelf_turn(shelf_game *game, int key);
static void shelf_next_map(shelf_game *game);
static void shelf_enter(shelf_game *game);
static void shelf_begin_map(shelf_game *game);
static void shelf_make_board(shelf_game *game, int columns, int rows);
static void shelf_draw_map(shelf_game *game);
static bool shelf_ask_for(shelf_game *game, int piece, int heading);
static void shelf_each_porter(const shelf_game *game, shelf_list *found);
static void shelf_on_left(shelf_game *game);
static void shelf_on_right(shelf_game *game);
static void shelf_on_up(shelf_game *game);
static void shelf_on_down(shelf_game *game);
static void shelf_act(shelf_game *game, int key);
static int shelf_key_of(shelf_game *game, const char *word);
static void shelf_end_25(shelf_game *game);
static void shelf_look_at_end(shelf_game *game);
static int shelf_broken_promise(const shelf_game *game);
static void shelf_into_23(shelf_game *game, int asker, int met, int place, int seen);
static int shelf_meeting(const shelf_game *game, int asker, int met, int place, int seen);
static void shelf_do_meeting(shelf_game *game, int rule, int asker, int met, int place, int seen);
static void shelf_lay(shelf_game *game, int place, int letter);
static void shelf_lay_out(shelf_game *game);
static void shelf_begin_game(shelf_game *game);
static void shelf_note_entry(shelf_game *game);
static void shelf_restart(shelf_game *game);
static const char *shelf_letter_of(const shelf_game *game, int place);
static bool shelf_step(shelf_game *game, const shelf_list *pieces, int heading, int times);
static void shelf_clear_plan(shelf_game *game);
static bool shelf_plan(shelf_game *game, int piece, int columns, int rows, int heading, int seen, bool falling);
static void shelf_begin_asking(shelf_game *game, int piece, int most);
static void shelf_add_mover(shelf_game *game, int piece, int origin, int goal);
static void shelf_refuse(shelf_game *game, int last, int check, int rule, int piece, int met, int place);
static void shelf_decide(shelf_game *game, int mover, int rule, int verb, int met, int place);
static void shelf_look_at_target(shelf_game *game, int last);
static void shelf_refuse_at(shelf_game *game, int last, int mover, int check, int rule, int met, int place);
static void shelf_look_at_layer(shelf_game *game, int last);
static void shelf_apply(shelf_game *game, int last, int mover, int met, int place, int rule, int verb);
static void shelf_shove(shelf_game *game, int last, int mover, int met, int place, int rule);
static void shelf_end_asking(shelf_game *game, int last);
static void shelf_check_room(shelf_game *game);
static bool shelf_ask(shelf_game *game, int piece, int columns, int rows, int heading, int seen);
static bool shelf_ask_once(shelf_game *game, int piece, int columns, int rows, int heading, int seen);
static bool shelf_ask_along(shelf_game *game, int piece, int heading);
static void shelf_commit(shelf_game *game, int piece);
static void shelf_in_order(const shelf_game *game, shelf_list *rules, shelf_list *askers, shelf_list *met, shelf_list *places);
static void shelf_refused(shelf_game *game, int piece);
static int shelf_piece_at(const shelf_game *game, int layer, int place);
static int shelf_shifted(const shelf_game *game, int place, int columns, int rows);
static bool shelf_is_void(const shelf_game *game, int place);
static void shelf_lift(shelf_game *game, int piece);
static void shelf_put(shelf_game *game, int piece, int place);
static void shelf_remove(shelf_game *game, int piece);
static int shelf_unused(shelf_game *game);
static int shelf_add(shelf_game *game, int place, int kind);
static int shelf_top_piece(const shelf_game *game, int place);
static int shelf_top_kind(const shelf_game *game, int place);
static int64_t shelf_bounded(const shelf_game *game, int64_t value);
static void shelf_foremost_first(const shelf_game *game, const shelf_list *pieces, int heading, shelf_list *ordered);
static void shelf_list_pieces(const shelf_game *game, shelf_list *found);

static void shelf_push(shelf_list *list, int value) {
    if (list->count == list->room) {
        list->room = list->room == 0 ? 16 : 2 * list->room;
        list->items = realloc(list->items, (size_t)list->room * sizeof *list->items);
        if (list->items == NULL) {
            abort();
        }
    }
    list->items[list->count++] = value;
}

static inline int shelf_take_last(shelf_list *list) {
    return list->items[--list->count];
}

static void shelf_fill_array(int *array, int count, int value) {
    for (int at = 0; at < count; at++) {
        array[at] = value;
    }
}

static const char *shelf_drawing(const shelf_game *game, int line) {
    return game->own != NULL ? game->own[line] : DRAWINGS[game->map - 1][line];
}

static int shelf_drawing_columns(const shelf_game *game) {
    return game->own != NULL ? game->own_columns : MAP_COLUMNS[game->map - 1];
}

static int shelf_drawing_rows(const shelf_game *game) {
    return game->own != NULL ? game->own_rows : MAP_ROWS[game->map - 1];
}

static shelf_cell shelf_cell_of_place(const shelf_game *game, int place) {
    return (shelf_cell){place % game->columns, place / game->columns};
}

shelf_answer shelf_request(shelf_game *game, int id, shelf_heading heading) {
    shelf_answer answer;
    answer.granted = shelf_ask_for(game, id, (int)heading);
    answer.check = (shelf_check)game->last_check;
    answer.line = game->last_line;
    answer.moved_count = 0;
    for (int at = 0; at < scratch.moved_piece.count; at++) {
        const int piece = scratch.moved_piece.items[at];
        const shelf_cell from = shelf_cell_of_place(game, scratch.moved_from.items[at]);
        answer.moved[answer.moved_count++] = (shelf_move){piece, from, shelf_cell_of_place(game, game->cell_of[piece])};
    }
    return answer;
}

void shelf_board(const shelf_game *game, char *text) {
    for (int line = 0; line < game->rows; line++) {
        const int row = FROM_TOP ? line : game->rows - 1 - line;
        for (int column = 0; column < game->columns; column++) {
            const char *letter = shelf_letter_of(game, row * game->columns + column);
            while (*letter != '\0') {
                *text++ = *letter++;
            }
        }
        *text++ = '\n';
    }
    *text = '\0';
}

int shelf_pieces(const shelf_game *game, shelf_piece *pieces) {
    shelf_list found = {0, 0, NULL};
    shelf_list_pieces(game, &found);
    for (int at = 0; at < found.count; at++) {
        const int id = found.items[at];
        const shelf_cell cell = shelf_cell_of_place(game, game->cell_of[id]);
        pieces[at] = (shelf_piece){id, (shelf_kind)game->kind_of[id], cell, (shelf_heading)game->heading_of[id]};
    }
    free(found.items);
    return found.count;
}

static void shelf_start_as(shelf_game *game, int map, uint64_t seed, const char *const *own, int columns, int rows) {
    memset(game, 0, sizeof *game);
    game->map = map;
    game->newest = -1;
    game->seed = seed;
    game->own = own;
    game->own_columns = columns;
    game->own_rows = rows;
    shelf_begin_game(game);
}

void shelf_start_on(shelf_game *game, const char *const *lines, int columns, int rows) {
    shelf_start_as(game, 2, 0u, lines, columns, rows);
}

void shelf_start(shelf_game *game) {
    shelf_start_as(game, 1, 0u, NULL, 0, 0);
}

const char *shelf_broken(const shelf_game *game) {
    const int number = shelf_broken_promise(game);
    return number < 0 ? NULL : PROMISES[number];
}

// Does what an input asks for; false for a word that is none, and where nothing happens.
bool shelf_input(shelf_game *game, const char *word) {
    int key = shelf_key_of(game, word);
    if (key == KEY_RESTART) {
        game->signal_count = 0;
        game->stopped = 0;
        shelf_restart(game);
        shelf_show_chosen(game);
        return true;
    }
    if (key == KEY_NEXT) {
        if (game->outcome != SHELF_WON || game->map >= (int64_t)MAP_COUNT) {
            return false;
        }
        game->signal_count = 0;
        game->stopped = 0;
        shelf_next_map(game);
        shelf_show_chosen(game);
        return true;
    }
    if (key < 0 || game->outcome == SHELF_WON || game->outcome == SHELF_LOST) {
        return false;
    }
    game->signal_count = 0;
    shelf_turn(game, key);
    shelf_show_chosen(game);
    return true;
}

// The cell that everybody may see as chosen.
static void shelf_show_chosen(const shelf_game *game) {
    (void)game;
}

// Reads a cell of a word from a place on, and stops behind it, at -1 where there is none. A place off the board is -1.
static int shelf_read_cell(shelf_game *game, const char *word, int place) {
    game->reading = place;
    int64_t column = shelf_read_number(game, word);
    if (game->reading < 0 || (unsigned char)word[game->reading] != ',') {
        game->reading = -1;
        return -1;
    }
    game->reading += 1;
    int64_t row = shelf_read_number(game, word);
    if (game->reading < 0 || column < 0 || column >= (int64_t)game->columns || row < 0 || row >= (int64_t)game->rows) {
        return -1;
    }
    return (int)((row * (int64_t)game->columns + column));
}

// Reads a whole number of a word, and stops behind it, at -1 where there is none.
static int64_t shelf_read_number(shelf_game *game, const char *word) {
    int place = game->reading;
    int64_t sign = 1;
    if (place < 0) {
        return 0;
    }
    if ((unsigned char)word[place] == '-') {
        sign = -1;
        place += 1;
    }
    int first = place;
    int64_t value = 0;
    while ((unsigned char)word[place] >= '0' && (unsigned char)word[place] <= '9' && place - first < 16) {
        value = value * 10 + (int64_t)((unsigned char)word[place] - '0');
        place += 1;
    }
    game->reading = place;
    if (place == first || place - first > 15) {
        game->reading = -1;
    }
    return sign * value;
}

// A turn: rules act, then the board settles, then the end is looked at.
static void shelf_turn(shelf_game *game, int key) {
    if (game->outcome == SHELF_NEVER_SETTLES) {
        game->outcome = SHELF_UNFINISHED;
    }
    game->stopped = 0;
    game->granted = false;
    game->turns += 1;
    shelf_act(game, key);
    if (game->stopped == 0 && game->granted) {
        game->moves += 1;
    }
    if (game->stopped == 0) {
        shelf_look_at_end(game);
    }
    game->tapped = -1;
    game->dropped = -1;
    int ending = game->stopped;
    if (ending == BY_NEXT) {
        if (game->map < (int64_t)MAP_COUNT) {
            shelf_next_map(game);
        } else {
            game->outcome = SHELF_WON;
        }
    }
    game->stopped = 0;
}

// Enters the map that follows.
static void shelf_next_map(shelf_game *game) {
    game->map += 1;
    shelf_note_entry(game);
    shelf_enter(game);
}

// Enters maps, as long as their beginning leads on.
static void shelf_enter(shelf_game *game) {
    shelf_begin_map(game);
    while (game->stopped == BY_NEXT && game->map < (int64_t)MAP_COUNT) {
        game->map += 1;
        shelf_note_entry(game);
        shelf_begin_map(game);
    }
}

// Lays the map out and lets it begin.
static void shelf_begin_map(shelf_game *game) {
    game->stopped = 0;
    game->outcome = SHELF_UNFINISHED;
    game->tapped = -1;
    game->dropped = -1;
    shelf_lay_out(game);
}

// An empty board of the size of the map.
static void shelf_make_board(shelf_game *game, int columns, int rows) {
    game->columns = columns;
    game->rows = rows;
    game->cells = columns * rows;
    shelf_clear_plan(game);
    shelf_fill_array(game->at, LAYERS * game->cells, -1);
    shelf_fill_array(game->kind_of, 2 * LAYERS * game->cells, 0);
    shelf_fill_array(game->cell_of, 2 * LAYERS * game->cells, -1);
    shelf_fill_array(game->heading_of, 2 * LAYERS * game->cells, -1);
    shelf_fill_array(scratch.leaving, 2 * LAYERS * game->cells, 0);
    shelf_fill_array(game->count_of, KINDS, 0);
    game->newest = -1;
}

// The pieces of a drawing.
static void shelf_draw_map(shelf_game *game) {
    shelf_make_board(game, shelf_drawing_columns(game), shelf_drawing_rows(game));
    for (int line = 0; line < game->rows; line++) {
        for (int column = 0; column < game->columns; column++) {
            int place = line * game->columns + column;
            shelf_lay(game, place, shelf_drawing(game, line)[column]);
        }
    }
}

// The request of a piece with effects and slides and no turn round it; what it moved and who refused it stands in fields.
static bool shelf_ask_for(shelf_game *game, int piece, int heading) {
    game->signal_count = 0;
    scratch.moved_piece.count = 0;
    scratch.moved_from.count = 0;
    game->last_check = -1;
    game->last_line = 0;
    if (piece < 0 || piece >= 2 * LAYERS * game->cells) {
        return false;
    }
    game->stopped = 0;
    scratch.was_at.count = 0;
    for (int number = 0; number < 2 * LAYERS * game->cells; number++) {
        shelf_push(&scratch.was_at, game->cell_of[number]);
    }
    bool granted = shelf_ask_along(game, piece, heading);
    for (int number = 0; number < 2 * LAYERS * game->cells; number++) {
        if (scratch.was_at.items[number] >= 0 && game->cell_of[number] >= 0 && scratch.was_at.items[number] != game->cell_of[number]) {
            shelf_push(&scratch.moved_piece, number);
            shelf_push(&scratch.moved_from, scratch.was_at.items[number]);
        }
    }
    scratch.was_at.count = 0;
    game->stopped = 0;
    shelf_show_chosen(game);
    return granted;
}

// All porter, in reading order.
static void shelf_each_porter(const shelf_game *game, shelf_list *found) {
    int left = game->count_of[SHELF_KIND_PORTER];
    int place = 0;
    while (place < game->cells && found->count < left) {
        int piece_1 = shelf_piece_at(game, 2, place);
        if (piece_1 >= 0) {
            int kind_2 = game->kind_of[piece_1];
            if (kind_2 == SHELF_KIND_PORTER) {
                shelf_push(found, piece_1);
            }
        }
        place += 1;
    }
}

// What happens on the key left.
static void shelf_on_left(shelf_game *game) {
    // 16: control porter with arrows
    shelf_list found_1 = {0, 0, NULL};
    shelf_each_porter(game, &found_1);
    shelf_step(game, &found_1, WEST, 1);
    if (game->stopped != 0) {
        free(found_1.items);
        return;
    }
    free(found_1.items);
}

// What happens on the key right.
static void shelf_on_right(shelf_game *game) {
    // 16: control porter with arrows
    shelf_list found_1 = {0, 0, NULL};
    shelf_each_porter(game, &found_1);
    shelf_step(game, &found_1, EAST, 1);
    if (game->stopped != 0) {
        free(found_1.items);
        return;
    }
    free(found_1.items);
}

// What happens on the key up.
static void shelf_on_up(shelf_game *game) {
    // 16: control porter with arrows
    shelf_list found_1 = {0, 0, NULL};
    shelf_each_porter(game, &found_1);
    shelf_step(game, &found_1, NORTH, 1);
    if (game->stopped != 0) {
        free(found_1.items);
        return;
    }
    free(found_1.items);
}

// What happens on the key down.
static void shelf_on_down(shelf_game *game) {
    // 16: control porter with arrows
    shelf_list found_1 = {0, 0, NULL};
    shelf_each_porter(game, &found_1);
    shelf_step(game, &found_1, SOUTH, 1);
    if (game->stopped != 0) {
        free(found_1.items);
        return;
    }
    free(found_1.items);
}

// What a key or a touch does.
static void shelf_act(shelf_game *game, int key) {
    if (key == KEY_LEFT) {
        shelf_on_left(game);
    }
    if (key == KEY_RIGHT) {
        shelf_on_right(game);
    }
    if (key == KEY_UP) {
        shelf_on_up(game);
    }
    if (key == KEY_DOWN) {
        shelf_on_down(game);
    }
}

// What a word means, -1 for one that means nothing.
static int shelf_key_of(shelf_game *game, const char *word) {
    game->tapped = -1;
    game->dropped = -1;
    if (strcmp(word, "restart") == 0) {
        return KEY_RESTART;
    }
    if (strcmp(word, "next") == 0) {
        return KEY_NEXT;
    }
    if (strcmp(word, "left") == 0) {
        return KEY_LEFT;
    }
    if (strcmp(word, "right") == 0) {
        return KEY_RIGHT;
    }
    if (strcmp(word, "up") == 0) {
        return KEY_UP;
    }
    if (strcmp(word, "down") == 0) {
        return KEY_DOWN;
    }
    if (strcmp(word, "act") == 0) {
        return KEY_OTHER;
    }
    if (strcmp(word, "alt") == 0) {
        return KEY_OTHER;
    }
    if (strncmp(word, "key:", 4) == 0) {
        int letter = (unsigned char)word[4];
        if (((letter >= 'a' && letter <= 'z') || (letter >= '0' && letter <= '9')) && (unsigned char)word[5] == 0) {
            return KEY_OTHER;
        }
    }
    if (strncmp(word, "tap:", 4) == 0) {
        game->tapped = shelf_read_cell(game, word, 4);
        game->dropped = game->tapped;
        if (game->reading > 0 && (unsigned char)word[game->reading] == 0) {
            return KEY_TAP;
        }
    }
    if (strncmp(word, "drag:", 5) == 0) {
        game->tapped = shelf_read_cell(game, word, 5);
        if (game->reading > 0 && (unsigned char)word[game->reading] == '>') {
            game->dropped = shelf_read_cell(game, word, game->reading + 1);
            if (game->reading > 0 && (unsigned char)word[game->reading] == 0) {
                return KEY_DRAG;
            }
        }
    }
    return -1;
}

// What the end of line 25 does.
static void shelf_end_25(shelf_game *game) {
    // 25: win when shoved > 1: next map
    game->stopped = BY_NEXT;
    return;
}

// Whether the game is won or lost.
static void shelf_look_at_end(shelf_game *game) {
    // 25: win when shoved > 1: next map
    if (game->shoved > 1) {
        game->outcome = SHELF_WON;
        shelf_end_25(game);
        return;
    }
}

// The first promise that does not hold, by its number, -1 where all do.
static int shelf_broken_promise(const shelf_game *game) {
    // 24: always shoved < 100
    if (!(game->shoved < 100)) {
        return 0;
    }
    return -1;
}

// What the meeting of line 23 does besides.
static void shelf_into_23(shelf_game *game, int asker, int met, int place, int seen) {
    (void)asker;
    (void)met;
    (void)place;
    (void)seen;
    // 23: porter into crate: shove, add 1 to shoved
    game->shoved = shelf_bounded(game, game->shoved + 1);
}

// The rule that decides when a kind meets another, 0 for none.
static int shelf_meeting(const shelf_game *game, int asker, int met, int place, int seen) {
    (void)place;
    (void)seen;
    (void)game;
    // 23: porter into crate: shove, add 1 to shoved
    if (asker == SHELF_KIND_PORTER && met == SHELF_KIND_CRATE) {
        return 1;
    }
    return 0;
}

// What a meeting does besides.
static void shelf_do_meeting(shelf_game *game, int rule, int asker, int met, int place, int seen) {
    if (rule == 1) {
        shelf_into_23(game, asker, met, place, seen);
    }
}

// Puts into a cell what a letter of a drawing stands for.
static void shelf_lay(shelf_game *game, int place, int letter) {
    if (letter == ' ') {
        game->at[place] = -2;
        return;
    }
    // P  porter
    if (letter == 'P') {
        shelf_add(game, place, SHELF_KIND_PORTER);
    }
    // C  crate
    if (letter == 'C') {
        shelf_add(game, place, SHELF_KIND_CRATE);
    }
    shelf_add(game, place, GROUND);
}

// The board of the map at its beginning.
static void shelf_lay_out(shelf_game *game) {
    shelf_draw_map(game);
}

// Begins a game on its map.
static void shelf_begin_game(shelf_game *game) {
    game->turns = 0;
    game->moves = 0;
    game->shoved = 0;
    shelf_note_entry(game);
    shelf_enter(game);
    shelf_show_chosen(game);
}

// Notes the state in which a map is entered.
static void shelf_note_entry(shelf_game *game) {
    game->entry_turns = game->turns;
    game->entry_moves = game->moves;
    game->entry_shoved = game->shoved;
}

// The map begins again.
static void shelf_restart(shelf_game *game) {
    game->turns = game->entry_turns;
    game->moves = game->entry_moves;
    game->shoved = game->entry_shoved;
    shelf_note_entry(game);
    shelf_enter(game);
}

// The letter that a cell is drawn with.
static const char *shelf_letter_of(const shelf_game *game, int place) {
    if (shelf_is_void(game, place)) {
        return " ";
    }
    int kind = shelf_top_kind(game, place);
    if (kind < 0) {
        return "_";
    }
    return GLYPH_OF[kind];
}

// A request for every piece, the foremost first; each may ask so many times in a row. Whether one was granted.
static bool shelf_step(shelf_game *game, const shelf_list *pieces, int heading, int times) {
    shelf_list ordered = {0, 0, NULL};
    shelf_foremost_first(game, pieces, heading, &ordered);
    bool granted = false;
    for (int number = 0; number < ordered.count; number++) {
        int left = times;
        while (left > 0 && game->stopped == 0) {
            left -= 1;
            if (shelf_ask_along(game, ordered.items[number], heading)) {
                granted = true;
            } else {
                left = 0;
            }
        }
    }
    free(ordered.items);
    return granted;
}

// Forgets the plan of the request before.
static void shelf_clear_plan(shelf_game *game) {
    for (int number = 0; number < scratch.mover.count; number++) {
        scratch.leaving[scratch.mover.items[number]] = 0;
    }
    for (int number = 0; number < scratch.taken.count; number++) {
        scratch.leaving[scratch.taken.items[number]] = 0;
    }
    scratch.mover.count = 0;
    scratch.mover_from.count = 0;
    scratch.mover_to.count = 0;
    scratch.mover_gone.count = 0;
    scratch.taken.count = 0;
    scratch.asking.count = 0;
    scratch.asking_layer.count = 0;
    scratch.asking_refused.count = 0;
    scratch.decided_rule.count = 0;
    scratch.decided_verb.count = 0;
    scratch.decided_mover.count = 0;
    scratch.decided_met.count = 0;
    scratch.decided_place.count = 0;
    scratch.asking_most.count = 0;
    game->shoved_own = 0;
    game->detour = false;
    game->refused_by = -1;
    game->refused_rule = 0;
    game->bounces = false;
}

// Works out what a request would do; nothing on the board changes. Whether it is granted.
static bool shelf_plan(shelf_game *game, int piece, int columns, int rows, int heading, int seen, bool falling) {
    shelf_clear_plan(game);
    game->step_x = columns;
    game->step_y = rows;
    game->heading = heading;
    game->seen = seen;
    game->falling = falling;
    shelf_begin_asking(game, piece, 2147483647);
    while (scratch.asking.count > 0) {
        int last = scratch.asking.count - 1;
        if (scratch.asking_layer.items[last] == -2) {
            shelf_look_at_target(game, last);
        } else {
            if (scratch.asking_layer.items[last] >= 0) {
                shelf_look_at_layer(game, last);
            } else {
                shelf_end_asking(game, last);
            }
        }
    }
    if (game->refused_by < 0) {
        shelf_check_room(game);
    }
    return game->refused_by < 0;
}

// A piece joins the plan and asks.
static void shelf_begin_asking(shelf_game *game, int piece, int most) {
    shelf_push(&scratch.asking, scratch.mover.count);
    shelf_push(&scratch.asking_layer, -2);
    shelf_push(&scratch.asking_refused, 0);
    shelf_push(&scratch.asking_most, most);
    shelf_add_mover(game, piece, game->cell_of[piece], game->cell_of[piece]);
}

// Adds a piece to those that the plan moves.
static void shelf_add_mover(shelf_game *game, int piece, int origin, int goal) {
    (void)game;
    shelf_push(&scratch.mover, piece);
    shelf_push(&scratch.mover_from, origin);
    shelf_push(&scratch.mover_to, goal);
    shelf_push(&scratch.mover_gone, 0);
    scratch.leaving[piece] = 1;
}

// Notes why a request is refused, the first reason only.
static void shelf_refuse(shelf_game *game, int last, int check, int rule, int piece, int met, int place) {
    if (game->refused_by < 0) {
        game->refused_by = check;
        game->refused_rule = rule;
        game->refused_piece = piece;
        game->refused_met = met;
        game->refused_place = place;
    }
    if (last >= 0) {
        scratch.asking_refused.items[last] = 1;
        scratch.asking_layer.items[last] = -1;
    }
}

// Notes a rule that decides a meeting, for what it does besides.
static void shelf_decide(shelf_game *game, int mover, int rule, int verb, int met, int place) {
    (void)game;
    shelf_push(&scratch.decided_rule, rule);
    shelf_push(&scratch.decided_verb, verb);
    shelf_push(&scratch.decided_mover, mover);
    shelf_push(&scratch.decided_met, met);
    shelf_push(&scratch.decided_place, place);
}

// Where the piece that asks would go: the edge, void, and the corners of a diagonal step.
static void shelf_look_at_target(shelf_game *game, int last) {
    int mover = scratch.asking.items[last];
    int piece = scratch.mover.items[mover];
    int origin = scratch.mover_from.items[mover];
    int goal = shelf_shifted(game, origin, game->step_x, game->step_y);
    if (goal < 0) {
        shelf_refuse(game, last, CHECK_EDGE, 0, piece, -1, origin);
        return;
    }
    if (shelf_is_void(game, goal)) {
        shelf_refuse(game, last, CHECK_VOID, 0, piece, -1, origin);
        return;
    }
    scratch.mover_to.items[mover] = goal;
    scratch.asking_layer.items[last] = LAYERS - 1;
}

// A rule refuses; one that bounces turns the piece whose own request this is.
static void shelf_refuse_at(shelf_game *game, int last, int mover, int check, int rule, int met, int place) {
    shelf_refuse(game, last, check, rule, scratch.mover.items[mover], met, place);
}

// The next layer of the target, from the top down.
static void shelf_look_at_layer(shelf_game *game, int last) {
    int layer = scratch.asking_layer.items[last];
    scratch.asking_layer.items[last] = layer - 1;
    int mover = scratch.asking.items[last];
    int place = scratch.mover_to.items[mover];
    int met = shelf_piece_at(game, layer, place);
    if (met < 0 || scratch.leaving[met] != 0) {
        return;
    }
    int kind = game->kind_of[scratch.mover.items[mover]];
    int rule = shelf_meeting(game, kind, game->kind_of[met], place, game->seen);
    if (rule == 0) {
        // Without a rule pieces of one layer stop each other.
        if (LAYER_OF[kind] == layer) {
            shelf_refuse_at(game, last, mover, CHECK_MEETS, 0, met, place);
        }
        return;
    }
    if (VERB_OF[rule] == SHOVE) {
        shelf_shove(game, last, mover, met, place, rule);
        return;
    }
    shelf_apply(game, last, mover, met, place, rule, VERB_OF[rule]);
}

// What a verb does to the plan.
static void shelf_apply(shelf_game *game, int last, int mover, int met, int place, int rule, int verb) {
    if (verb == STOP) {
        shelf_refuse_at(game, last, mover, CHECK_MEETS, rule, met, place);
        return;
    }
    shelf_decide(game, mover, rule, verb, met, place);
}

// What is met asks for the same step in the same plan.
static void shelf_shove(shelf_game *game, int last, int mover, int met, int place, int rule) {
    if (game->falling) {
        shelf_refuse_at(game, last, mover, CHECK_MEETS, rule, met, place);
        return;
    }
    int most = scratch.asking_most.items[last];
    shelf_decide(game, mover, rule, SHOVE, met, place);
    shelf_begin_asking(game, met, most);
    game->shoved_own += 1;
}

// A piece has asked; a refusal goes to the one that shoved it, unless there is an else.
static void shelf_end_asking(shelf_game *game, int last) {
    (void)game;
    bool refused = scratch.asking_refused.items[last] != 0;
    scratch.asking.count--;
    scratch.asking_layer.count--;
    scratch.asking_refused.count--;
    scratch.asking_most.count--;
    if (refused && last > 0) {
        scratch.asking_refused.items[last - 1] = 1;
        scratch.asking_layer.items[last - 1] = -1;
    }
}

// Two pieces of the plan on one layer of a cell, or one where another stays.
static void shelf_check_room(shelf_game *game) {
    for (int number = 0; number < scratch.mover.count; number++) {
        if (scratch.mover_gone.items[number] == 0) {
            int piece = scratch.mover.items[number];
            int layer = LAYER_OF[game->kind_of[piece]];
            int place = scratch.mover_to.items[number];
            int there = shelf_piece_at(game, layer, place);
            if (there >= 0 && scratch.leaving[there] == 0) {
                shelf_refuse(game, -1, CHECK_ROOM, 0, piece, there, place);
            }
            for (int other = number + 1; other < scratch.mover.count; other++) {
                if (scratch.mover_gone.items[other] == 0 && scratch.mover_to.items[other] == place && LAYER_OF[game->kind_of[scratch.mover.items[other]]] == layer) {
                    shelf_refuse(game, -1, CHECK_ROOM, 0, piece, scratch.mover.items[other], place);
                }
            }
        }
    }
}

// A piece asks for a step, and what slides by it asks on before anybody else. Whether the step was granted.
static bool shelf_ask(shelf_game *game, int piece, int columns, int rows, int heading, int seen) {
    return shelf_ask_once(game, piece, columns, rows, heading, seen);
}

// One request: planned, carried out or refused, with its effects.
static bool shelf_ask_once(shelf_game *game, int piece, int columns, int rows, int heading, int seen) {
    if (game->cell_of[piece] < 0) {
        return false;
    }
    bool granted = shelf_plan(game, piece, columns, rows, heading, seen, false);
    game->last_check = game->refused_by;
    game->last_line = LINE_OF[game->refused_rule];
    if (granted) {
        game->granted = true;
        shelf_commit(game, piece);
    } else {
        shelf_refused(game, piece);
    }
    return granted;
}

// A step along a heading.
static bool shelf_ask_along(shelf_game *game, int piece, int heading) {
    return shelf_ask(game, piece, STEP_X[heading], STEP_Y[heading], heading, heading);
}

// Carries the plan out, then does the effects.
static void shelf_commit(shelf_game *game, int piece) {
    int heading = game->heading;
    int seen = game->seen;
    for (int number = 0; number < scratch.taken.count; number++) {
        shelf_remove(game, scratch.taken.items[number]);
    }
    for (int number = 0; number < scratch.mover.count; number++) {
        if (scratch.mover_gone.items[number] != 0) {
            shelf_remove(game, scratch.mover.items[number]);
        } else {
            shelf_lift(game, scratch.mover.items[number]);
        }
    }
    for (int number = 0; number < scratch.mover.count; number++) {
        if (scratch.mover_gone.items[number] == 0) {
            shelf_put(game, scratch.mover.items[number], scratch.mover_to.items[number]);
        }
    }
    if (heading >= 0 && !game->falling && game->cell_of[piece] >= 0) {
        game->heading_of[piece] = heading;
    }
    shelf_list rules = {0, 0, NULL};
    shelf_list askers = {0, 0, NULL};
    shelf_list met = {0, 0, NULL};
    shelf_list places = {0, 0, NULL};
    shelf_in_order(game, &rules, &askers, &met, &places);
    for (int number = 0; number < rules.count; number++) {
        if (game->stopped != 0) {
            free(rules.items);
            free(askers.items);
            free(met.items);
            free(places.items);
            return;
        }
        shelf_do_meeting(game, rules.items[number], askers.items[number], met.items[number], places.items[number], seen);
    }
    free(rules.items);
    free(askers.items);
    free(met.items);
    free(places.items);
}

// The meetings that were decided and do more, those of the piece that asked first.
static void shelf_in_order(const shelf_game *game, shelf_list *rules, shelf_list *askers, shelf_list *met, shelf_list *places) {
    (void)game;
    for (int mover = 0; mover < scratch.mover.count; mover++) {
        for (int number = 0; number < scratch.decided_rule.count; number++) {
            if (scratch.decided_mover.items[number] == mover && HAS_EFFECTS[scratch.decided_rule.items[number]] != 0) {
                shelf_push(rules, scratch.decided_rule.items[number]);
                shelf_push(askers, scratch.mover.items[mover]);
                shelf_push(met, scratch.decided_met.items[number]);
                shelf_push(places, scratch.decided_place.items[number]);
            }
        }
    }
}

// What a refusal does: a bounce turns, and the effects of the rule that refused happen.
static void shelf_refused(shelf_game *game, int piece) {
    (void)piece;
    if (HAS_EFFECTS[game->refused_rule] != 0) {
        int place = game->refused_place;
        if (game->refused_by != CHECK_MEETS) {
            place = game->cell_of[game->refused_piece];
        }
        shelf_do_meeting(game, game->refused_rule, game->refused_piece, game->refused_met, place, game->seen);
    }
}

// The piece on a layer of a cell, -1 where there is none.
static int shelf_piece_at(const shelf_game *game, int layer, int place) {
    return game->at[layer * game->cells + place];
}

// The cell so many columns and rows away, -1 off the board.
static int shelf_shifted(const shelf_game *game, int place, int columns, int rows) {
    int column = place % game->columns + columns;
    int row = place / game->columns + rows;
    if (column < 0 || column >= game->columns || row < 0 || row >= game->rows) {
        return -1;
    }
    return row * game->columns + column;
}

// Whether the map has no cell here.
static bool shelf_is_void(const shelf_game *game, int place) {
    return game->at[place] == -2;
}

// Takes a piece out of its cell.
static void shelf_lift(shelf_game *game, int piece) {
    int kind = game->kind_of[piece];
    game->at[LAYER_OF[kind] * game->cells + game->cell_of[piece]] = -1;
    game->cell_of[piece] = -1;
    game->count_of[kind] -= 1;
}

// Puts a piece that stands nowhere into a cell.
static void shelf_put(shelf_game *game, int piece, int place) {
    int kind = game->kind_of[piece];
    game->at[LAYER_OF[kind] * game->cells + place] = piece;
    game->cell_of[piece] = place;
    game->count_of[kind] += 1;
}

// Takes a piece off the board.
static void shelf_remove(shelf_game *game, int piece) {
    if (game->cell_of[piece] >= 0) {
        shelf_lift(game, piece);
    }
}

// The number of a piece that is not on the board.
static int shelf_unused(shelf_game *game) {
    int piece = game->newest;
    bool taken = true;
    while (taken) {
        piece = (piece + 1) % (2 * LAYERS * game->cells);
        taken = game->cell_of[piece] >= 0;
    }
    game->newest = piece;
    return piece;
}

// Puts a new piece into a cell; -1 where its layer is taken or the map has no cell.
static int shelf_add(shelf_game *game, int place, int kind) {
    if (shelf_piece_at(game, LAYER_OF[kind], place) >= 0 || shelf_is_void(game, place)) {
        return -1;
    }
    int piece = shelf_unused(game);
    game->kind_of[piece] = kind;
    game->heading_of[piece] = FACING[kind];
    shelf_put(game, piece, place);
    return piece;
}

// The topmost piece of a cell, the ground aside; -1 where there is none.
static int shelf_top_piece(const shelf_game *game, int place) {
    for (int below = 0; below < LAYERS; below++) {
        int piece = shelf_piece_at(game, LAYERS - 1 - below, place);
        if (piece >= 0 && game->kind_of[piece] != GROUND) {
            return piece;
        }
    }
    return -1;
}

// The kind that stands topmost in a cell, the ground only where nothing else does; -1 for nothing.
static int shelf_top_kind(const shelf_game *game, int place) {
    int piece = shelf_top_piece(game, place);
    if (piece >= 0) {
        return game->kind_of[piece];
    }
    if (shelf_piece_at(game, LAYER_OF[GROUND], place) >= 0) {
        return GROUND;
    }
    return -1;
}

// A counter within its bounds.
static int64_t shelf_bounded(const shelf_game *game, int64_t value) {
    (void)game;
    if (value > 1000000000000000) {
        return 1000000000000000;
    }
    if (value < -1000000000000000) {
        return -1000000000000000;
    }
    return value;
}

// Puts pieces in order, the foremost along a heading first.
static void shelf_foremost_first(const shelf_game *game, const shelf_list *pieces, int heading, shelf_list *ordered) {
    ordered->count = 0;
    if (pieces->count == 1) {
        shelf_push(ordered, pieces->items[0]);
        return;
    }
    int far = game->columns + game->rows;
    for (int back = 0; back < 2 * far + 1; back++) {
        for (int number = 0; number < pieces->count; number++) {
            int place = game->cell_of[pieces->items[number]];
            if (place >= 0 && place % game->columns * STEP_X[heading] + place / game->columns * STEP_Y[heading] == far - back) {
                shelf_push(ordered, pieces->items[number]);
            }
        }
    }
}

// The pieces in reading order, the lowest layer of a cell first, the ground left out.
static void shelf_list_pieces(const shelf_game *game, shelf_list *found) {
    for (int place = 0; place < game->cells; place++) {
        for (int layer = 0; layer < LAYERS; layer++) {
            int piece = shelf_piece_at(game, layer, place);
            if (piece >= 0 && game->kind_of[piece] != GROUND) {
                shelf_push(found, piece);
            }
        }
    }
}
