// This was emitted by rapid-magpie, and is replaced where that is done again.
// The same results as `rapid-magpie convert`, to the last bit.
// The grid of "Shelf", rulebook "shelf.magpie".
#include "shelf.h"

#include <math.h>

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
