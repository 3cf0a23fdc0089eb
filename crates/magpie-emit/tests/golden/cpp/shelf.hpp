// This was emitted by rapid-magpie, and is replaced where that is done again.
// Positions come out as with `rapid-magpie convert`, to the last bit.
// The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

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

enum class Heading { West, East, North, South, NorthWest, NorthEast, SouthWest, SouthEast };

enum class Check { Edge, Void, Meets, Corner, Limit, Room };

enum class Outcome { Won, Lost, NeverSettles };

struct Piece {
    std::int64_t id;
    Kind kind;
    Cell cell;
    std::optional<Heading> heading;
};

struct Move {
    std::int64_t id;
    Cell from, to;
};

struct Answer {
    bool granted;
    std::optional<Check> check;
    std::int64_t line;
    std::vector<Move> moved;
};

using List = std::vector<int>;

inline constexpr int KIND_PORTER = 1;
inline constexpr int KIND_CRATE = 2;
inline constexpr int WEST = 0;
inline constexpr int EAST = 1;
inline constexpr int NORTH = 2;
inline constexpr int SOUTH = 3;
inline constexpr int STOP = 0;
inline constexpr int SHOVE = 2;
inline constexpr int CHECK_EDGE = 0;
inline constexpr int CHECK_VOID = 1;
inline constexpr int CHECK_MEETS = 2;
inline constexpr int CHECK_ROOM = 5;
inline constexpr int BY_NEXT = 2;
inline constexpr int KEY_RESTART = 0;
inline constexpr int KEY_NEXT = 1;
inline constexpr int KEY_TAP = 2;
inline constexpr int KEY_DRAG = 3;
inline constexpr int KEY_OTHER = 4;
inline constexpr int KEY_DOWN = 5;
inline constexpr int KEY_LEFT = 6;
inline constexpr int KEY_RIGHT = 7;
inline constexpr int KEY_UP = 8;
inline constexpr int LAYERS = 3;
inline constexpr int KINDS = 3;
inline constexpr int MAP_COUNT = 2;
inline constexpr int GROUND = 0;
inline constexpr int LAYER_OF[] = {0, 2, 2};
inline constexpr int FACING[] = {-1, -1, -1};
inline constexpr int STEP_X[] = {-1, 1, 0, 0, -1, 1, -1, 1};
inline constexpr int STEP_Y[] = {0, 0, -1, 1, -1, -1, 1, 1};
inline constexpr int MAP_COLUMNS[] = {3, 4};
inline constexpr int MAP_ROWS[] = {2, 1};
inline constexpr const char * GLYPH_OF[] = {".", "P", "C"};
inline constexpr int VERB_OF[] = {0, 2};
inline constexpr int HAS_EFFECTS[] = {0, 1};
inline constexpr int LINE_OF[] = {0, 23};
inline constexpr const char * PROMISES[] = {"always shoved < 100"};
inline constexpr bool FROM_TOP = true;
inline constexpr const char *DRAWING_1[] = {
    "P.C",
    ".. ",
};
inline constexpr const char *DRAWING_2[] = {
    "P...",
};
inline constexpr const char *const *DRAWINGS[] = {DRAWING_1, DRAWING_2};

inline int take_last(List &list) {
    const int last = list.back();
    list.pop_back();
    return last;
}

inline int letter_at(const std::string &text, int place) {
    return place < static_cast<int>(text.size()) ? static_cast<unsigned char>(text[static_cast<std::size_t>(place)]) : 0;
}

// A game: a copy of it is a game of its own, and putting one back takes back what was played since.
class Game {
public:
    std::int64_t shoved = 0; // a counter
    std::int64_t map = 0; // the number of the map, from 1
    std::int64_t turns = 0; // turns so far
    std::int64_t moves = 0; // turns of inputs in which something was granted
    std::optional<Outcome> outcome; // how the game stands
    std::vector<std::string> signals; // what the last input told

    explicit Game(std::vector<std::string> own = {}) : own(own) {
        this->map = this->own.empty() ? 1 : 2;
        this->newest = -1;
        this->begin_game();
    }

    // A game on a board of its own in place of the maps, drawn with their letters.
    static Game on_board_of(const std::vector<std::string> &lines) {
        return Game(lines);
    }

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
    }

    // The first promise that does not hold now, as the rulebook writes it.
    std::optional<std::string> broken() const {
        const int number = this->broken_promise();
        return number < 0 ? std::nullopt : std::optional<std::string>(PROMISES[number]);
    }

    // Does what an input asks for; false for a word that is none, and where nothing happens.
    bool input(const std::string &word) {
        const int key = this->key_of(word);
        if (key == KEY_RESTART) {
            this->signals.clear();
            this->stopped = 0;
            this->restart();
            this->show_chosen();
            return true;
        }
        if (key == KEY_NEXT) {
            if (this->outcome != std::optional<Outcome>(Outcome::Won) || this->map >= static_cast<std::int64_t>(MAP_COUNT)) {
                return false;
            }
            this->signals.clear();
            this->stopped = 0;
            this->next_map();
            this->show_chosen();
            return true;
        }
        if (key < 0 || this->outcome == std::optional<Outcome>(Outcome::Won) || this->outcome == std::optional<Outcome>(Outcome::Lost)) {
            return false;
        }
        this->signals.clear();
        this->turn(key);
        this->show_chosen();
        return true;
    }

private:
    std::vector<std::string> own;
    int tapped = 0;
    int dropped = 0;
    int reading = 0;
    std::int64_t entry_turns = 0;
    std::int64_t entry_moves = 0;
    List moved_piece;
    List moved_from;
    List was_at;
    std::int64_t entry_shoved = 0;
    int stopped = 0;
    bool granted = false;
    List mover;
    List mover_from;
    List mover_to;
    List mover_gone;
    List taken;
    List leaving;
    List asking;
    List asking_layer;
    List asking_refused;
    List decided_rule;
    List decided_verb;
    List decided_mover;
    List decided_met;
    List decided_place;
    List asking_most;
    int shoved_own = 0;
    int step_x = 0;
    int step_y = 0;
    int heading = 0;
    int seen = 0;
    bool falling = false;
    bool detour = false;
    int refused_by = 0;
    int refused_rule = 0;
    int refused_piece = 0;
    int refused_met = 0;
    int refused_place = 0;
    bool bounces = false;
    int last_check = 0;
    int last_line = 0;
    int columns = 0;
    int rows = 0;
    int cells = 0;
    List at;
    List kind_of;
    List cell_of;
    List heading_of;
    List count_of;
    int newest = 0;

    Cell cell(int place) const {
        return Cell{place % this->columns, place / this->columns};
    }

    std::string drawing(int line) const {
        return this->own.empty() ? DRAWINGS[this->map - 1][line] : this->own[line];
    }

    int drawing_columns() const {
        return this->own.empty() ? MAP_COLUMNS[this->map - 1] : static_cast<int>(this->own[0].size());
    }

    int drawing_rows() const {
        return this->own.empty() ? MAP_ROWS[this->map - 1] : static_cast<int>(this->own.size());
    }

    // The cell that everybody may see as chosen.
    void show_chosen() const {
    }

    // Reads a cell of a word from a place on, and stops behind it, at -1 where there is none. A place off the board is -1.
    int read_cell(const std::string &word, int place) {
        this->reading = place;
        const std::int64_t column = this->read_number(word);
        if (this->reading < 0 || letter_at(word, this->reading) != ',') {
            this->reading = -1;
            return -1;
        }
        this->reading += 1;
        const std::int64_t row = this->read_number(word);
        if (this->reading < 0 || column < 0 || column >= static_cast<std::int64_t>(this->columns) || row < 0 || row >= static_cast<std::int64_t>(this->rows)) {
            return -1;
        }
        return static_cast<int>(row * static_cast<std::int64_t>(this->columns) + column);
    }

    // Reads a whole number of a word, and stops behind it, at -1 where there is none.
    std::int64_t read_number(const std::string &word) {
        int place = this->reading;
        std::int64_t sign = 1;
        if (place < 0) {
            return 0;
        }
        if (letter_at(word, place) == '-') {
            sign = -1;
            place += 1;
        }
        const int first = place;
        std::int64_t value = 0;
        while (letter_at(word, place) >= '0' && letter_at(word, place) <= '9' && place - first < 16) {
            value = value * 10 + static_cast<std::int64_t>(letter_at(word, place) - '0');
            place += 1;
        }
        this->reading = place;
        if (place == first || place - first > 15) {
            this->reading = -1;
        }
        return sign * value;
    }

    // A turn: rules act, then the board settles, then the end is looked at.
    void turn(int key) {
        if (this->outcome == std::optional<Outcome>(Outcome::NeverSettles)) {
            this->outcome = std::nullopt;
        }
        this->stopped = 0;
        this->granted = false;
        this->turns += 1;
        this->act(key);
        if (this->stopped == 0 && this->granted) {
            this->moves += 1;
        }
        if (this->stopped == 0) {
            this->look_at_end();
        }
        this->tapped = -1;
        this->dropped = -1;
        const int ending = this->stopped;
        if (ending == BY_NEXT) {
            if (this->map < static_cast<std::int64_t>(MAP_COUNT)) {
                this->next_map();
            } else {
                this->outcome = std::optional<Outcome>(Outcome::Won);
            }
        }
        this->stopped = 0;
    }

    // Enters the map that follows.
    void next_map() {
        this->map += 1;
        this->note_entry();
        this->enter();
    }

    // Enters maps, as long as their beginning leads on.
    void enter() {
        this->begin_map();
        while (this->stopped == BY_NEXT && this->map < static_cast<std::int64_t>(MAP_COUNT)) {
            this->map += 1;
            this->note_entry();
            this->begin_map();
        }
    }

    // Lays the map out and lets it begin.
    void begin_map() {
        this->stopped = 0;
        this->outcome = std::nullopt;
        this->tapped = -1;
        this->dropped = -1;
        this->lay_out();
    }

    // An empty board of the size of the map.
    void make_board(int columns, int rows) {
        this->columns = columns;
        this->rows = rows;
        this->cells = columns * rows;
        this->clear_plan();
        this->at.assign(LAYERS * this->cells, -1);
        this->kind_of.assign(2 * LAYERS * this->cells, 0);
        this->cell_of.assign(2 * LAYERS * this->cells, -1);
        this->heading_of.assign(2 * LAYERS * this->cells, -1);
        this->leaving.assign(2 * LAYERS * this->cells, 0);
        this->count_of.assign(KINDS, 0);
        this->newest = -1;
    }

    // The pieces of a drawing.
    void draw_map() {
        this->make_board(this->drawing_columns(), this->drawing_rows());
        for (int line = 0; line < this->rows; line++) {
            for (int column = 0; column < this->columns; column++) {
                const int place = line * this->columns + column;
                this->lay(place, letter_at(this->drawing(line), column));
            }
        }
    }

    // The request of a piece with effects and slides and no turn round it; what it moved and who refused it stands in fields.
    bool ask_for(int piece, int heading) {
        this->signals.clear();
        this->moved_piece.clear();
        this->moved_from.clear();
        this->last_check = -1;
        this->last_line = 0;
        if (piece < 0 || piece >= 2 * LAYERS * this->cells) {
            return false;
        }
        this->stopped = 0;
        this->was_at.clear();
        for (int number = 0; number < 2 * LAYERS * this->cells; number++) {
            this->was_at.push_back(this->cell_of[number]);
        }
        const bool granted = this->ask_along(piece, heading);
        for (int number = 0; number < 2 * LAYERS * this->cells; number++) {
            if (this->was_at[number] >= 0 && this->cell_of[number] >= 0 && this->was_at[number] != this->cell_of[number]) {
                this->moved_piece.push_back(number);
                this->moved_from.push_back(this->was_at[number]);
            }
        }
        this->was_at.clear();
        this->stopped = 0;
        this->show_chosen();
        return granted;
    }

    // All porter, in reading order.
    void each_porter(List &found) const {
        const int left = this->count_of[KIND_PORTER];
        int place = 0;
        while (place < this->cells && static_cast<int>(found.size()) < left) {
            const int piece_1 = this->piece_at(2, place);
            if (piece_1 >= 0) {
                const int kind_2 = this->kind_of[piece_1];
                if (kind_2 == KIND_PORTER) {
                    found.push_back(piece_1);
                }
            }
            place += 1;
        }
    }

    // What happens on the key left.
    void on_left() {
        // 16: control porter with arrows
        List found_1;
        this->each_porter(found_1);
        this->step(found_1, WEST, 1);
        if (this->stopped != 0) {
            return;
        }
    }

    // What happens on the key right.
    void on_right() {
        // 16: control porter with arrows
        List found_1;
        this->each_porter(found_1);
        this->step(found_1, EAST, 1);
        if (this->stopped != 0) {
            return;
        }
    }

    // What happens on the key up.
    void on_up() {
        // 16: control porter with arrows
        List found_1;
        this->each_porter(found_1);
        this->step(found_1, NORTH, 1);
        if (this->stopped != 0) {
            return;
        }
    }

    // What happens on the key down.
    void on_down() {
        // 16: control porter with arrows
        List found_1;
        this->each_porter(found_1);
        this->step(found_1, SOUTH, 1);
        if (this->stopped != 0) {
            return;
        }
    }

    // What a key or a touch does.
    void act(int key) {
        if (key == KEY_LEFT) {
            this->on_left();
        }
        if (key == KEY_RIGHT) {
            this->on_right();
        }
        if (key == KEY_UP) {
            this->on_up();
        }
        if (key == KEY_DOWN) {
            this->on_down();
        }
    }

    // What a word means, -1 for one that means nothing.
    int key_of(const std::string &word) {
        this->tapped = -1;
        this->dropped = -1;
        if (word == "restart") {
            return KEY_RESTART;
        }
        if (word == "next") {
            return KEY_NEXT;
        }
        if (word == "left") {
            return KEY_LEFT;
        }
        if (word == "right") {
            return KEY_RIGHT;
        }
        if (word == "up") {
            return KEY_UP;
        }
        if (word == "down") {
            return KEY_DOWN;
        }
        if (word == "act") {
            return KEY_OTHER;
        }
        if (word == "alt") {
            return KEY_OTHER;
        }
        if (word.compare(0, 4, "key:") == 0) {
            const int letter = letter_at(word, 4);
            if (((letter >= 'a' && letter <= 'z') || (letter >= '0' && letter <= '9')) && letter_at(word, 5) == 0) {
                return KEY_OTHER;
            }
        }
        if (word.compare(0, 4, "tap:") == 0) {
            this->tapped = this->read_cell(word, 4);
            this->dropped = this->tapped;
            if (this->reading > 0 && letter_at(word, this->reading) == 0) {
                return KEY_TAP;
            }
        }
        if (word.compare(0, 5, "drag:") == 0) {
            this->tapped = this->read_cell(word, 5);
            if (this->reading > 0 && letter_at(word, this->reading) == '>') {
                this->dropped = this->read_cell(word, this->reading + 1);
                if (this->reading > 0 && letter_at(word, this->reading) == 0) {
                    return KEY_DRAG;
                }
            }
        }
        return -1;
    }

    // What the end of line 25 does.
    void end_25() {
        // 25: win when shoved > 1: next map
        this->stopped = BY_NEXT;
        return;
    }

    // Whether the game is won or lost.
    void look_at_end() {
        // 25: win when shoved > 1: next map
        if (this->shoved > 1) {
            this->outcome = std::optional<Outcome>(Outcome::Won);
            this->end_25();
            return;
        }
    }

    // The first promise that does not hold, by its number, -1 where all do.
    int broken_promise() const {
        // 24: always shoved < 100
        if (!(this->shoved < 100)) {
            return 0;
        }
        return -1;
    }

    // What the meeting of line 23 does besides.
    void into_23(int asker, int met, int place, int seen) {
        (void)asker;
        (void)met;
        (void)place;
        (void)seen;
        // 23: porter into crate: shove, add 1 to shoved
        this->shoved = this->bounded(this->shoved + 1);
    }

    // The rule that decides when a kind meets another, 0 for none.
    int meeting(int asker, int met, int place, int seen) const {
        (void)place;
        (void)seen;
        // 23: porter into crate: shove, add 1 to shoved
        if (asker == KIND_PORTER && met == KIND_CRATE) {
            return 1;
        }
        return 0;
    }

    // What a meeting does besides.
    void do_meeting(int rule, int asker, int met, int place, int seen) {
        if (rule == 1) {
            this->into_23(asker, met, place, seen);
        }
    }

    // Puts into a cell what a letter of a drawing stands for.
    void lay(int place, int letter) {
        if (letter == ' ') {
            this->at[place] = -2;
            return;
        }
        // P  porter
        if (letter == 'P') {
            this->add(place, KIND_PORTER);
        }
        // C  crate
        if (letter == 'C') {
            this->add(place, KIND_CRATE);
        }
        this->add(place, GROUND);
    }

    // The board of the map at its beginning.
    void lay_out() {
        this->draw_map();
    }

    // Begins a game on its map.
    void begin_game() {
        this->turns = 0;
        this->moves = 0;
        this->shoved = 0;
        this->note_entry();
        this->enter();
        this->show_chosen();
    }

    // Notes the state in which a map is entered.
    void note_entry() {
        this->entry_turns = this->turns;
        this->entry_moves = this->moves;
        this->entry_shoved = this->shoved;
    }

    // The map begins again.
    void restart() {
        this->turns = this->entry_turns;
        this->moves = this->entry_moves;
        this->shoved = this->entry_shoved;
        this->note_entry();
        this->enter();
    }

    // The letter that a cell is drawn with.
    const char * letter_of(int place) const {
        if (this->is_void(place)) {
            return " ";
        }
        const int kind = this->top_kind(place);
        if (kind < 0) {
            return "_";
        }
        return GLYPH_OF[kind];
    }

    // A request for every piece, the foremost first; each may ask so many times in a row. Whether one was granted.
    bool step(const List &pieces, int heading, int times) {
        List ordered;
        this->foremost_first(pieces, heading, ordered);
        bool granted = false;
        for (int number = 0; number < static_cast<int>(ordered.size()); number++) {
            int left = times;
            while (left > 0 && this->stopped == 0) {
                left -= 1;
                if (this->ask_along(ordered[number], heading)) {
                    granted = true;
                } else {
                    left = 0;
                }
            }
        }
        return granted;
    }

    // Forgets the plan of the request before.
    void clear_plan() {
        for (int number = 0; number < static_cast<int>(this->mover.size()); number++) {
            this->leaving[this->mover[number]] = 0;
        }
        for (int number = 0; number < static_cast<int>(this->taken.size()); number++) {
            this->leaving[this->taken[number]] = 0;
        }
        this->mover.clear();
        this->mover_from.clear();
        this->mover_to.clear();
        this->mover_gone.clear();
        this->taken.clear();
        this->asking.clear();
        this->asking_layer.clear();
        this->asking_refused.clear();
        this->decided_rule.clear();
        this->decided_verb.clear();
        this->decided_mover.clear();
        this->decided_met.clear();
        this->decided_place.clear();
        this->asking_most.clear();
        this->shoved_own = 0;
        this->detour = false;
        this->refused_by = -1;
        this->refused_rule = 0;
        this->bounces = false;
    }

    // Works out what a request would do; nothing on the board changes. Whether it is granted.
    bool plan(int piece, int columns, int rows, int heading, int seen, bool falling) {
        this->clear_plan();
        this->step_x = columns;
        this->step_y = rows;
        this->heading = heading;
        this->seen = seen;
        this->falling = falling;
        this->begin_asking(piece, 2147483647);
        while (static_cast<int>(this->asking.size()) > 0) {
            const int last = static_cast<int>(this->asking.size()) - 1;
            if (this->asking_layer[last] == -2) {
                this->look_at_target(last);
            } else {
                if (this->asking_layer[last] >= 0) {
                    this->look_at_layer(last);
                } else {
                    this->end_asking(last);
                }
            }
        }
        if (this->refused_by < 0) {
            this->check_room();
        }
        return this->refused_by < 0;
    }

    // A piece joins the plan and asks.
    void begin_asking(int piece, int most) {
        this->asking.push_back(static_cast<int>(this->mover.size()));
        this->asking_layer.push_back(-2);
        this->asking_refused.push_back(0);
        this->asking_most.push_back(most);
        this->add_mover(piece, this->cell_of[piece], this->cell_of[piece]);
    }

    // Adds a piece to those that the plan moves.
    void add_mover(int piece, int origin, int goal) {
        this->mover.push_back(piece);
        this->mover_from.push_back(origin);
        this->mover_to.push_back(goal);
        this->mover_gone.push_back(0);
        this->leaving[piece] = 1;
    }

    // Notes why a request is refused, the first reason only.
    void refuse(int last, int check, int rule, int piece, int met, int place) {
        if (this->refused_by < 0) {
            this->refused_by = check;
            this->refused_rule = rule;
            this->refused_piece = piece;
            this->refused_met = met;
            this->refused_place = place;
        }
        if (last >= 0) {
            this->asking_refused[last] = 1;
            this->asking_layer[last] = -1;
        }
    }

    // Notes a rule that decides a meeting, for what it does besides.
    void decide(int mover, int rule, int verb, int met, int place) {
        this->decided_rule.push_back(rule);
        this->decided_verb.push_back(verb);
        this->decided_mover.push_back(mover);
        this->decided_met.push_back(met);
        this->decided_place.push_back(place);
    }

    // Where the piece that asks would go: the edge, void, and the corners of a diagonal step.
    void look_at_target(int last) {
        const int mover = this->asking[last];
        const int piece = this->mover[mover];
        const int origin = this->mover_from[mover];
        const int goal = this->shifted(origin, this->step_x, this->step_y);
        if (goal < 0) {
            this->refuse(last, CHECK_EDGE, 0, piece, -1, origin);
            return;
        }
        if (this->is_void(goal)) {
            this->refuse(last, CHECK_VOID, 0, piece, -1, origin);
            return;
        }
        this->mover_to[mover] = goal;
        this->asking_layer[last] = LAYERS - 1;
    }

    // A rule refuses; one that bounces turns the piece whose own request this is.
    void refuse_at(int last, int mover, int check, int rule, int met, int place) {
        this->refuse(last, check, rule, this->mover[mover], met, place);
    }

    // The next layer of the target, from the top down.
    void look_at_layer(int last) {
        const int layer = this->asking_layer[last];
        this->asking_layer[last] = layer - 1;
        const int mover = this->asking[last];
        const int place = this->mover_to[mover];
        const int met = this->piece_at(layer, place);
        if (met < 0 || this->leaving[met] != 0) {
            return;
        }
        const int kind = this->kind_of[this->mover[mover]];
        const int rule = this->meeting(kind, this->kind_of[met], place, this->seen);
        if (rule == 0) {
            // Without a rule pieces of one layer stop each other.
            if (LAYER_OF[kind] == layer) {
                this->refuse_at(last, mover, CHECK_MEETS, 0, met, place);
            }
            return;
        }
        if (VERB_OF[rule] == SHOVE) {
            this->shove(last, mover, met, place, rule);
            return;
        }
        this->apply(last, mover, met, place, rule, VERB_OF[rule]);
    }

    // What a verb does to the plan.
    void apply(int last, int mover, int met, int place, int rule, int verb) {
        if (verb == STOP) {
            this->refuse_at(last, mover, CHECK_MEETS, rule, met, place);
            return;
        }
        this->decide(mover, rule, verb, met, place);
    }

    // What is met asks for the same step in the same plan.
    void shove(int last, int mover, int met, int place, int rule) {
        if (this->falling) {
            this->refuse_at(last, mover, CHECK_MEETS, rule, met, place);
            return;
        }
        const int most = this->asking_most[last];
        this->decide(mover, rule, SHOVE, met, place);
        this->begin_asking(met, most);
        this->shoved_own += 1;
    }

    // A piece has asked; a refusal goes to the one that shoved it, unless there is an else.
    void end_asking(int last) {
        const bool refused = this->asking_refused[last] != 0;
        this->asking.pop_back();
        this->asking_layer.pop_back();
        this->asking_refused.pop_back();
        this->asking_most.pop_back();
        if (refused && last > 0) {
            this->asking_refused[last - 1] = 1;
            this->asking_layer[last - 1] = -1;
        }
    }

    // Two pieces of the plan on one layer of a cell, or one where another stays.
    void check_room() {
        for (int number = 0; number < static_cast<int>(this->mover.size()); number++) {
            if (this->mover_gone[number] == 0) {
                const int piece = this->mover[number];
                const int layer = LAYER_OF[this->kind_of[piece]];
                const int place = this->mover_to[number];
                const int there = this->piece_at(layer, place);
                if (there >= 0 && this->leaving[there] == 0) {
                    this->refuse(-1, CHECK_ROOM, 0, piece, there, place);
                }
                for (int other = number + 1; other < static_cast<int>(this->mover.size()); other++) {
                    if (this->mover_gone[other] == 0 && this->mover_to[other] == place && LAYER_OF[this->kind_of[this->mover[other]]] == layer) {
                        this->refuse(-1, CHECK_ROOM, 0, piece, this->mover[other], place);
                    }
                }
            }
        }
    }

    // A piece asks for a step, and what slides by it asks on before anybody else. Whether the step was granted.
    bool ask(int piece, int columns, int rows, int heading, int seen) {
        return this->ask_once(piece, columns, rows, heading, seen);
    }

    // One request: planned, carried out or refused, with its effects.
    bool ask_once(int piece, int columns, int rows, int heading, int seen) {
        if (this->cell_of[piece] < 0) {
            return false;
        }
        const bool granted = this->plan(piece, columns, rows, heading, seen, false);
        this->last_check = this->refused_by;
        this->last_line = LINE_OF[this->refused_rule];
        if (granted) {
            this->granted = true;
            this->commit(piece);
        } else {
            this->refused(piece);
        }
        return granted;
    }

    // A step along a heading.
    bool ask_along(int piece, int heading) {
        return this->ask(piece, STEP_X[heading], STEP_Y[heading], heading, heading);
    }

    // Carries the plan out, then does the effects.
    void commit(int piece) {
        const int heading = this->heading;
        const int seen = this->seen;
        for (int number = 0; number < static_cast<int>(this->taken.size()); number++) {
            this->remove(this->taken[number]);
        }
        for (int number = 0; number < static_cast<int>(this->mover.size()); number++) {
            if (this->mover_gone[number] != 0) {
                this->remove(this->mover[number]);
            } else {
                this->lift(this->mover[number]);
            }
        }
        for (int number = 0; number < static_cast<int>(this->mover.size()); number++) {
            if (this->mover_gone[number] == 0) {
                this->put(this->mover[number], this->mover_to[number]);
            }
        }
        if (heading >= 0 && !this->falling && this->cell_of[piece] >= 0) {
            this->heading_of[piece] = heading;
        }
        List rules;
        List askers;
        List met;
        List places;
        this->in_order(rules, askers, met, places);
        for (int number = 0; number < static_cast<int>(rules.size()); number++) {
            if (this->stopped != 0) {
                return;
            }
            this->do_meeting(rules[number], askers[number], met[number], places[number], seen);
        }
    }

    // The meetings that were decided and do more, those of the piece that asked first.
    void in_order(List &rules, List &askers, List &met, List &places) const {
        for (int mover = 0; mover < static_cast<int>(this->mover.size()); mover++) {
            for (int number = 0; number < static_cast<int>(this->decided_rule.size()); number++) {
                if (this->decided_mover[number] == mover && HAS_EFFECTS[this->decided_rule[number]] != 0) {
                    rules.push_back(this->decided_rule[number]);
                    askers.push_back(this->mover[mover]);
                    met.push_back(this->decided_met[number]);
                    places.push_back(this->decided_place[number]);
                }
            }
        }
    }

    // What a refusal does: a bounce turns, and the effects of the rule that refused happen.
    void refused(int piece) {
        (void)piece;
        if (HAS_EFFECTS[this->refused_rule] != 0) {
            int place = this->refused_place;
            if (this->refused_by != CHECK_MEETS) {
                place = this->cell_of[this->refused_piece];
            }
            this->do_meeting(this->refused_rule, this->refused_piece, this->refused_met, place, this->seen);
        }
    }

    // The piece on a layer of a cell, -1 where there is none.
    int piece_at(int layer, int place) const {
        return this->at[layer * this->cells + place];
    }

    // The cell so many columns and rows away, -1 off the board.
    int shifted(int place, int columns, int rows) const {
        const int column = place % this->columns + columns;
        const int row = place / this->columns + rows;
        if (column < 0 || column >= this->columns || row < 0 || row >= this->rows) {
            return -1;
        }
        return row * this->columns + column;
    }

    // Whether the map has no cell here.
    bool is_void(int place) const {
        return this->at[place] == -2;
    }

    // Takes a piece out of its cell.
    void lift(int piece) {
        const int kind = this->kind_of[piece];
        this->at[LAYER_OF[kind] * this->cells + this->cell_of[piece]] = -1;
        this->cell_of[piece] = -1;
        this->count_of[kind] -= 1;
    }

    // Puts a piece that stands nowhere into a cell.
    void put(int piece, int place) {
        const int kind = this->kind_of[piece];
        this->at[LAYER_OF[kind] * this->cells + place] = piece;
        this->cell_of[piece] = place;
        this->count_of[kind] += 1;
    }

    // Takes a piece off the board.
    void remove(int piece) {
        if (this->cell_of[piece] >= 0) {
            this->lift(piece);
        }
    }

    // The number of a piece that is not on the board.
    int unused() {
        int piece = this->newest;
        bool taken = true;
        while (taken) {
            piece = (piece + 1) % (2 * LAYERS * this->cells);
            taken = this->cell_of[piece] >= 0;
        }
        this->newest = piece;
        return piece;
    }

    // Puts a new piece into a cell; -1 where its layer is taken or the map has no cell.
    int add(int place, int kind) {
        if (this->piece_at(LAYER_OF[kind], place) >= 0 || this->is_void(place)) {
            return -1;
        }
        const int piece = this->unused();
        this->kind_of[piece] = kind;
        this->heading_of[piece] = FACING[kind];
        this->put(piece, place);
        return piece;
    }

    // The topmost piece of a cell, the ground aside; -1 where there is none.
    int top_piece(int place) const {
        for (int below = 0; below < LAYERS; below++) {
            const int piece = this->piece_at(LAYERS - 1 - below, place);
            if (piece >= 0 && this->kind_of[piece] != GROUND) {
                return piece;
            }
        }
        return -1;
    }

    // The kind that stands topmost in a cell, the ground only where nothing else does; -1 for nothing.
    int top_kind(int place) const {
        const int piece = this->top_piece(place);
        if (piece >= 0) {
            return this->kind_of[piece];
        }
        if (this->piece_at(LAYER_OF[GROUND], place) >= 0) {
            return GROUND;
        }
        return -1;
    }

    // A counter within its bounds.
    std::int64_t bounded(std::int64_t value) const {
        if (value > 1000000000000000) {
            return 1000000000000000;
        }
        if (value < -1000000000000000) {
            return -1000000000000000;
        }
        return value;
    }

    // Puts pieces in order, the foremost along a heading first.
    void foremost_first(const List &pieces, int heading, List &ordered) const {
        ordered.clear();
        if (static_cast<int>(pieces.size()) == 1) {
            ordered.push_back(pieces[0]);
            return;
        }
        const int far = this->columns + this->rows;
        for (int back = 0; back < 2 * far + 1; back++) {
            for (int number = 0; number < static_cast<int>(pieces.size()); number++) {
                const int place = this->cell_of[pieces[number]];
                if (place >= 0 && place % this->columns * STEP_X[heading] + place / this->columns * STEP_Y[heading] == far - back) {
                    ordered.push_back(pieces[number]);
                }
            }
        }
    }

    // The pieces in reading order, the lowest layer of a cell first, the ground left out.
    void list_pieces(List &found) const {
        for (int place = 0; place < this->cells; place++) {
            for (int layer = 0; layer < LAYERS; layer++) {
                const int piece = this->piece_at(layer, place);
                if (piece >= 0 && this->kind_of[piece] != GROUND) {
                    found.push_back(piece);
                }
            }
        }
    }
};

} // namespace shelf
