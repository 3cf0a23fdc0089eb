// cc -std=c11 -o shelf_test shelf_test.c shelf.c -lm && ./shelf_test
// This was emitted by rapid-magpie, and is replaced where that is done again.
// Positions come out as with `rapid-magpie convert`, to the last bit.
// The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.
#undef NDEBUG
#include <assert.h>
#include "shelf.h"

#include <string.h>

static bool is_cell(shelf_cell got, int64_t column, int64_t row) { return got.column == column && got.row == row; }
static bool is_point(shelf_point got, double x, double y) { return got.x == x && got.y == y; }

int main(void) {
    const shelf_grid *grid = shelf_grid_of_map(1);
    int64_t index = 0;
    shelf_cell cell = {0, 0};
    static shelf_game game;
    static char text[SHELF_BOARD_SIZE];
    assert(is_cell(shelf_world_to_cell(grid, -17.0, -20.0), -1, -1));
    assert(shelf_world_where(grid, -17.0, -20.0) == SHELF_WHERE_OUTSIDE);
    assert(is_cell(shelf_world_to_cell_of(grid, SHELF_KIND_CRATE, -17.0, -20.0), -1, -2));
    assert(is_cell(shelf_snap(grid, -17.0, -20.0), 0, 0));
    assert(is_point(shelf_cell_to_centre(grid, (shelf_cell){0, 0}), 20.0, 16.0));
    assert(is_cell(shelf_world_to_cell(grid, 56.0, 21.0), 1, 0));
    assert(shelf_world_where(grid, 56.0, 21.0) == SHELF_WHERE_GAP);
    assert(is_cell(shelf_world_to_cell_of(grid, SHELF_KIND_CRATE, 56.0, 21.0), 1, 0));
    assert(is_cell(shelf_snap(grid, 56.0, 21.0), 1, 0));
    assert(is_point(shelf_cell_to_centre(grid, (shelf_cell){1, 0}), 46.0, 16.0));
    assert(is_cell(shelf_world_to_cell(grid, 60.0, 23.0), 2, 1));
    assert(shelf_world_where(grid, 60.0, 23.0) == SHELF_WHERE_VOID);
    assert(is_cell(shelf_world_to_cell_of(grid, SHELF_KIND_CRATE, 60.0, 23.0), 2, 0));
    assert(is_cell(shelf_snap(grid, 60.0, 23.0), 2, 1));
    assert(is_point(shelf_cell_to_centre(grid, (shelf_cell){2, 1}), 72.0, 38.0));
    assert(is_cell(shelf_world_to_cell(grid, -18.0, 45.0), -1, 2));
    assert(shelf_world_where(grid, -18.0, 45.0) == SHELF_WHERE_OUTSIDE);
    assert(is_cell(shelf_world_to_cell_of(grid, SHELF_KIND_CRATE, -18.0, 45.0), -1, 1));
    assert(is_cell(shelf_snap(grid, -18.0, 45.0), 0, 1));
    assert(is_point(shelf_cell_to_centre(grid, (shelf_cell){0, 1}), 20.0, 38.0));
    assert(is_cell(shelf_window_to_cell(grid, 64.0, 6.0), 0, -1));
    assert(shelf_window_where(grid, 64.0, 6.0) == SHELF_WHERE_OUTSIDE);
    assert(is_cell(shelf_window_to_cell(grid, -1.0, 12.0), -1, 0));
    assert(shelf_window_where(grid, -1.0, 12.0) == SHELF_WHERE_BAR);
    assert(is_cell(shelf_window_to_cell(grid, 16.0, 52.0), 0, 0));
    assert(shelf_window_where(grid, 16.0, 52.0) == SHELF_WHERE_GAP);
    assert(is_point(shelf_cell_to_centre(grid, (shelf_cell){-1, 0}), -6.0, 16.0));
    assert(!shelf_cell_to_index(grid, (shelf_cell){-1, 0}, &index));
    assert(is_point(shelf_cell_to_centre(grid, (shelf_cell){1, 2}), 46.0, 60.0));
    assert(!shelf_cell_to_index(grid, (shelf_cell){1, 2}, &index));
    assert(!shelf_cell_to_index(grid, (shelf_cell){0, -1}, &index));
    assert(shelf_cell_to_index(grid, (shelf_cell){2, 0}, &index) && index == 3);
    assert(shelf_index_to_cell(grid, 3, &cell) && is_cell(cell, 2, 0));
    assert(!shelf_cell_to_index(grid, (shelf_cell){3, 0}, &index));
    assert(shelf_cell_to_index(grid, (shelf_cell){0, 1}, &index) && index == 4);
    assert(shelf_index_to_cell(grid, 4, &cell) && is_cell(cell, 0, 1));
    {
        static const char *const lines[] = {"P"};
        shelf_start_on(&game, lines, 1, 1);
        shelf_input(&game, "down");
        shelf_board(&game, text);
        assert(strcmp(text, "P\n") == 0);
        assert(game.shoved == 0);
    }
    {
        static const char *const lines[] = {"P", "."};
        shelf_start_on(&game, lines, 1, 2);
        shelf_input(&game, "right");
        shelf_board(&game, text);
        assert(strcmp(text, "P\n.\n") == 0);
        assert(game.shoved == 0);
    }
    {
        static const char *const lines[] = {"P ."};
        shelf_start_on(&game, lines, 3, 1);
        shelf_input(&game, "right");
        shelf_board(&game, text);
        assert(strcmp(text, "P .\n") == 0);
        assert(game.shoved == 0);
    }
    {
        static const char *const lines[] = {"PC."};
        shelf_start_on(&game, lines, 3, 1);
        shelf_input(&game, "right");
        shelf_board(&game, text);
        assert(strcmp(text, ".PC\n") == 0);
        assert(game.shoved == 1);
    }
    {
        static const char *const lines[] = {".P"};
        shelf_start_on(&game, lines, 2, 1);
        shelf_input(&game, "left");
        shelf_input(&game, "right");
        shelf_board(&game, text);
        assert(strcmp(text, ".P\n") == 0);
        assert(game.shoved == 0);
    }
    {
        static const char *const lines[] = {"PCC."};
        shelf_start_on(&game, lines, 4, 1);
        shelf_input(&game, "right");
        shelf_board(&game, text);
        assert(strcmp(text, "PCC.\n") == 0);
        assert(game.shoved == 0);
    }
    (void)index;
    (void)cell;
    return 0;
}
