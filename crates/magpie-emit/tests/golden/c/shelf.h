// This was emitted by rapid-magpie, and is replaced where that is done again.
// Positions come out as with `rapid-magpie convert`, to the last bit.
// The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.
#ifndef SHELF_H
#define SHELF_H

#include <stdbool.h>
#include <stdint.h>

#define SHELF_CELL_WIDTH 24.0 // Width of a cell in px.
#define SHELF_CELL_HEIGHT 20.0 // Height of a cell in px.
#define SHELF_PITCH_X 26.0 // From one column to the next, in px.
#define SHELF_PITCH_Y 22.0 // From one row to the next, in px.
#define SHELF_HOTSPOT_X 0.0 // Added to the positions of pieces, in px.
#define SHELF_HOTSPOT_Y 5.0 // The same along y, in px.
#define SHELF_FIRST_INDEX 1 // Index of the first cell.
#define SHELF_SCALE_X 2.0 // Window px in a design px, along x.
#define SHELF_SCALE_Y 2.0 // Window px in a design px, along y.
#define SHELF_BAR_X 0.0 // Width of the bar left of the picture, in window px.
#define SHELF_BAR_Y 0.0 // Height of the bar above the picture, in window px.
#define SHELF_DESIGN_WIDTH 240.0 // Width of the picture in design px.
#define SHELF_DESIGN_HEIGHT 120.0 // Height of the picture in design px.
#define SHELF_CAMERA_X 0.0 // World x of the picture's upper left corner.
#define SHELF_CAMERA_Y 0.0 // World y of the picture's upper left corner.

typedef struct {
    int64_t column, row;
} shelf_cell;

typedef struct {
    double x, y;
} shelf_point;

typedef struct {
    double x, y, w, h;
} shelf_rect;

typedef enum { SHELF_WHERE_BAR, SHELF_WHERE_OUTSIDE, SHELF_WHERE_GAP, SHELF_WHERE_VOID, SHELF_WHERE_CELL } shelf_where;

typedef enum { SHELF_KIND_PLANK, SHELF_KIND_PORTER, SHELF_KIND_CRATE } shelf_kind;

// The grid of a map.
typedef struct {
    int64_t columns, rows;
    double origin_x, origin_y;
    const char *const *nothing;
} shelf_grid;

// The grid of a map, counted from 1.
const shelf_grid *shelf_grid_of_map(int number);

// The cell of a world position, on the board or off it.
shelf_cell shelf_world_to_cell(const shelf_grid *grid, double x, double y);
// What lies at a world position.
shelf_where shelf_world_where(const shelf_grid *grid, double x, double y);
// The cell of the board that is nearest to a world position.
shelf_cell shelf_snap(const shelf_grid *grid, double x, double y);
// The corner of a cell where counting starts, in world px.
shelf_point shelf_cell_to_corner(const shelf_grid *grid, shelf_cell cell);
// The middle of a cell in world px.
shelf_point shelf_cell_to_centre(const shelf_grid *grid, shelf_cell cell);
// The rectangle of a cell, from its smallest x and y.
shelf_rect shelf_cell_to_box(const shelf_grid *grid, shelf_cell cell);
// Whether a cell lies on the board.
bool shelf_inside(const shelf_grid *grid, shelf_cell cell);
// The place of a cell in the flat array, nothing off the board.
bool shelf_cell_to_index(const shelf_grid *grid, shelf_cell cell, int64_t *found);
// The cell at a place in the flat array, nothing where there is none.
bool shelf_index_to_cell(const shelf_grid *grid, int64_t index, shelf_cell *found);
// The cell of the world position of a piece of this kind, whose hotspot counts.
shelf_cell shelf_world_to_cell_of(const shelf_grid *grid, shelf_kind kind, double x, double y);
// The world position of a window position.
shelf_point shelf_window_to_world(const shelf_grid *grid, double x, double y);
// The window position of a world position.
shelf_point shelf_world_to_window(const shelf_grid *grid, double x, double y);
// The cell of a world position without any hotspot.
shelf_cell shelf_cell_at(const shelf_grid *grid, double x, double y);
// What lies at a world position without any hotspot.
shelf_where shelf_where_at(const shelf_grid *grid, double x, double y);
// The cell of a window position, on the board or off it.
shelf_cell shelf_window_to_cell(const shelf_grid *grid, double x, double y);
// What lies at a window position.
shelf_where shelf_window_where(const shelf_grid *grid, double x, double y);
// The window position of the middle of a cell.
shelf_point shelf_cell_to_window(const shelf_grid *grid, shelf_cell cell);

#define SHELF_BOARD_SIZE 129
#define SHELF_MOST_SLOTS 192
#define SHELF_MOST_PIECES 384
#define SHELF_KINDS 3
#define SHELF_TRAILS 1

typedef enum { SHELF_NO_HEADING = -1, SHELF_WEST, SHELF_EAST, SHELF_NORTH, SHELF_SOUTH, SHELF_NORTH_WEST, SHELF_NORTH_EAST, SHELF_SOUTH_WEST, SHELF_SOUTH_EAST } shelf_heading;

typedef enum { SHELF_NO_CHECK = -1, SHELF_CHECK_EDGE, SHELF_CHECK_VOID, SHELF_CHECK_MEETS, SHELF_CHECK_CORNER, SHELF_CHECK_LIMIT, SHELF_CHECK_ROOM } shelf_check;

typedef enum { SHELF_UNFINISHED = -1, SHELF_WON, SHELF_LOST, SHELF_NEVER_SETTLES } shelf_outcome;

typedef struct {
    int id;
    shelf_kind kind;
    shelf_cell cell;
    shelf_heading heading;
} shelf_piece;

typedef struct {
    int id;
    shelf_cell from, to;
} shelf_move;

typedef struct {
    bool granted;
    shelf_check check;
    int64_t line;
    shelf_move moved[SHELF_MOST_PIECES];
    int moved_count;
} shelf_answer;

// A game: a copy of it is a game of its own, and putting one back takes back what was played since.
typedef struct {
    int tapped;
    int dropped;
    int reading;
    int64_t entry_turns;
    int64_t entry_moves;
    int64_t shoved; // a counter
    int64_t entry_shoved;
    int stopped;
    bool granted;
    int shoved_own;
    int step_x;
    int step_y;
    int heading;
    int seen;
    bool falling;
    bool detour;
    int refused_by;
    int refused_rule;
    int refused_piece;
    int refused_met;
    int refused_place;
    bool bounces;
    int last_check;
    int last_line;
    int map; // the number of the map, from 1
    int64_t turns; // turns so far
    int64_t moves; // turns of inputs in which something was granted
    shelf_outcome outcome; // how the game stands
    const char *signals[64]; int signal_count; // what the last input told
    int columns;
    int rows;
    int cells;
    int at[SHELF_MOST_SLOTS];
    int kind_of[SHELF_MOST_PIECES];
    int cell_of[SHELF_MOST_PIECES];
    int heading_of[SHELF_MOST_PIECES];
    int count_of[SHELF_KINDS];
    int newest;
    uint64_t seed;
    const char *const *own;
    int own_columns, own_rows;
} shelf_game;

// A game as its map is entered.
void shelf_start(shelf_game *game);
// The same on a board of its own in place of the maps, drawn with their letters; the lines stay with the caller.
void shelf_start_on(shelf_game *game, const char *const *lines, int columns, int rows);
// Does what an input asks for; false for a word that is none, and where nothing happens.
bool shelf_input(shelf_game *game, const char *word);
// The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy.
shelf_answer shelf_request(shelf_game *game, int id, shelf_heading heading);
// The board as lines of text, the top one first, into BOARD_SIZE bytes.
void shelf_board(const shelf_game *game, char *text);
// The pieces in reading order, the lowest layer of a cell first, the ground left out; how many.
int shelf_pieces(const shelf_game *game, shelf_piece *pieces);
// The first promise that does not hold now, as the rulebook writes it, or NULL.
const char *shelf_broken(const shelf_game *game);

#endif
