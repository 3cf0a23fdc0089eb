// This was emitted by rapid-magpie, and is replaced where that is done again.
// The same results as `rapid-magpie convert`, to the last bit.
// The grid of "Shelf", rulebook "shelf.magpie".
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <optional>

namespace shelf {

struct Cell {
    std::int64_t column, row;
    friend bool operator==(const Cell &a, const Cell &b) { return a.column == b.column && a.row == b.row; }
};

struct Point {
    double x, y;
    friend bool operator==(const Point &a, const Point &b) { return a.x == b.x && a.y == b.y; }
};

struct Rect {
    double x, y, w, h;
    friend bool operator==(const Rect &a, const Rect &b) { return a.x == b.x && a.y == b.y && a.w == b.w && a.h == b.h; }
};

enum class Where { Bar, Outside, Gap, Void, Cell };

enum class Kind { Plank, Porter, Crate };

inline constexpr double CELL_WIDTH = 24.0; // Width of a cell in px.
inline constexpr double CELL_HEIGHT = 20.0; // Height of a cell in px.
inline constexpr double PITCH_X = 26.0; // From one column to the next, in px.
inline constexpr double PITCH_Y = 22.0; // From one row to the next, in px.
inline constexpr double HOTSPOT_X = 0.0; // Added to the positions of pieces, in px.
inline constexpr double HOTSPOT_Y = 5.0; // The same along y, in px.
inline constexpr std::int64_t FIRST_INDEX = 1; // Index of the first cell.
inline constexpr double SCALE_X = 2.0; // Window px in a design px, along x.
inline constexpr double SCALE_Y = 2.0; // Window px in a design px, along y.
inline constexpr double BAR_X = 0.0; // Width of the bar left of the picture, in window px.
inline constexpr double BAR_Y = 0.0; // Height of the bar above the picture, in window px.
inline constexpr double DESIGN_WIDTH = 240.0; // Width of the picture in design px.
inline constexpr double DESIGN_HEIGHT = 120.0; // Height of the picture in design px.
inline constexpr double CAMERA_X = 0.0; // World x of the picture's upper left corner.
inline constexpr double CAMERA_Y = 0.0; // World y of the picture's upper left corner.

// The grid of a map.
struct Grid {
    std::int64_t columns, rows;
    double origin_x, origin_y;
    const char *const *nothing;

    // The grid of a map, counted from 1.
    static Grid of_map(int number);

    // The cell of a world position, on the board or off it.
    Cell world_to_cell(double x, double y) const {
        const std::int64_t column = static_cast<std::int64_t>(std::floor((x + HOTSPOT_X - origin_x) / PITCH_X));
        const std::int64_t row = static_cast<std::int64_t>(std::floor((y + HOTSPOT_Y - origin_y) / PITCH_Y));
        return Cell{column, row};
    }

    // What lies at a world position.
    Where world_where(double x, double y) const {
        const Cell cell = world_to_cell(x, y);
        if (!inside(cell)) {
            return Where::Outside;
        }
        const double across = x + HOTSPOT_X - origin_x;
        if (across - std::floor(across / PITCH_X) * PITCH_X >= CELL_WIDTH) {
            return Where::Gap;
        }
        const double down = y + HOTSPOT_Y - origin_y;
        if (down - std::floor(down / PITCH_Y) * PITCH_Y >= CELL_HEIGHT) {
            return Where::Gap;
        }
        if (nothing[cell.row][cell.column] == ' ') {
            return Where::Void;
        }
        return Where::Cell;
    }

    // The cell of the board that is nearest to a world position.
    Cell snap(double x, double y) const {
        const Cell cell = world_to_cell(x, y);
        return Cell{std::clamp<std::int64_t>(cell.column, 0, columns - 1), std::clamp<std::int64_t>(cell.row, 0, rows - 1)};
    }

    // The corner of a cell where counting starts, in world px.
    Point cell_to_corner(Cell cell) const {
        return Point{origin_x + static_cast<double>(cell.column) * PITCH_X, origin_y + static_cast<double>(cell.row) * PITCH_Y};
    }

    // The middle of a cell in world px.
    Point cell_to_centre(Cell cell) const {
        return Point{origin_x + (static_cast<double>(cell.column) * PITCH_X + CELL_WIDTH / 2.0), origin_y + (static_cast<double>(cell.row) * PITCH_Y + CELL_HEIGHT / 2.0)};
    }

    // The rectangle of a cell, from its smallest x and y.
    Rect cell_to_box(Cell cell) const {
        const Point corner = cell_to_corner(cell);
        return Rect{corner.x, corner.y, CELL_WIDTH, CELL_HEIGHT};
    }

    // Whether a cell lies on the board.
    bool inside(Cell cell) const {
        return cell.column >= 0 && cell.column < columns && cell.row >= 0 && cell.row < rows;
    }

    // The place of a cell in the flat array, nothing off the board.
    std::optional<std::int64_t> cell_to_index(Cell cell) const {
        if (!inside(cell)) {
            return std::nullopt;
        }
        return cell.row * columns + cell.column + FIRST_INDEX;
    }

    // The cell at a place in the flat array, nothing where there is none.
    std::optional<Cell> index_to_cell(std::int64_t index) const {
        const std::int64_t place = index - FIRST_INDEX;
        if (place < 0 || place >= columns * rows) {
            return std::nullopt;
        }
        return Cell{place % columns, place / columns};
    }

    // The cell of the world position of a piece of this kind, whose hotspot counts.
    Cell world_to_cell_of(Kind kind, double x, double y) const {
        if (kind == Kind::Crate) {
            const std::int64_t column = static_cast<std::int64_t>(std::floor((x + 3.0 - origin_x) / PITCH_X));
            const std::int64_t row = static_cast<std::int64_t>(std::floor((y + 0.0 - origin_y) / PITCH_Y));
            return Cell{column, row};
        }
        return world_to_cell(x, y);
    }

    // The world position of a window position.
    Point window_to_world(double x, double y) const {
        const double across = x / SCALE_X;
        const double down = y / SCALE_Y;
        return Point{CAMERA_X + across, CAMERA_Y + down};
    }

    // The window position of a world position.
    Point world_to_window(double x, double y) const {
        return Point{x * SCALE_X + BAR_X, y * SCALE_Y + BAR_Y};
    }

    // The cell of a world position without any hotspot.
    Cell cell_at(double x, double y) const {
        const std::int64_t column = static_cast<std::int64_t>(std::floor((x - origin_x) / PITCH_X));
        const std::int64_t row = static_cast<std::int64_t>(std::floor((y - origin_y) / PITCH_Y));
        return Cell{column, row};
    }

    // What lies at a world position without any hotspot.
    Where where_at(double x, double y) const {
        const Cell cell = cell_at(x, y);
        if (!inside(cell)) {
            return Where::Outside;
        }
        const double across = x - origin_x;
        if (across - std::floor(across / PITCH_X) * PITCH_X >= CELL_WIDTH) {
            return Where::Gap;
        }
        const double down = y - origin_y;
        if (down - std::floor(down / PITCH_Y) * PITCH_Y >= CELL_HEIGHT) {
            return Where::Gap;
        }
        if (nothing[cell.row][cell.column] == ' ') {
            return Where::Void;
        }
        return Where::Cell;
    }

    // The cell of a window position, on the board or off it.
    Cell window_to_cell(double x, double y) const {
        const Point world = window_to_world(x, y);
        return cell_at(world.x, world.y);
    }

    // What lies at a window position.
    Where window_where(double x, double y) const {
        const double across = x / SCALE_X;
        const double down = y / SCALE_Y;
        if (!(across >= 0.0 && across < DESIGN_WIDTH && down >= 0.0 && down < DESIGN_HEIGHT)) {
            return Where::Bar;
        }
        const Point world = window_to_world(x, y);
        return where_at(world.x, world.y);
    }

    // The window position of the middle of a cell.
    Point cell_to_window(Cell cell) const {
        const Point centre = cell_to_centre(cell);
        return world_to_window(centre.x, centre.y);
    }
};

inline Grid Grid::of_map(int number) {
    // "Left"
    static const char *const rows_1[] = {"...", ".. "};
    if (number == 1) {
        return Grid{3, 2, 8.0, 6.0, rows_1};
    }
    // "Right"
    static const char *const rows_2[] = {"...."};
    return Grid{4, 1, 8.0, 6.0, rows_2};
}

} // namespace shelf
