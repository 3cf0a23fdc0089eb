// c++ -std=c++17 -o shelf_test shelf_test.cpp && ./shelf_test
// This was emitted by rapid-magpie, and is replaced where that is done again.
// Positions come out as with `rapid-magpie convert`, to the last bit.
// The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.
#undef NDEBUG
#include <cassert>
#include "shelf.hpp"

using namespace shelf;

int main() {
    const Grid grid = Grid::of_map(1);
    assert((grid.world_to_cell(-17.0, -20.0) == Cell{-1, -1}));
    assert(grid.world_where(-17.0, -20.0) == Where::Outside);
    assert((grid.world_to_cell_of(Kind::Crate, -17.0, -20.0) == Cell{-1, -2}));
    assert((grid.snap(-17.0, -20.0) == Cell{0, 0}));
    assert((grid.cell_to_centre(Cell{0, 0}) == Point{20.0, 16.0}));
    assert((grid.world_to_cell(56.0, 21.0) == Cell{1, 0}));
    assert(grid.world_where(56.0, 21.0) == Where::Gap);
    assert((grid.world_to_cell_of(Kind::Crate, 56.0, 21.0) == Cell{1, 0}));
    assert((grid.snap(56.0, 21.0) == Cell{1, 0}));
    assert((grid.cell_to_centre(Cell{1, 0}) == Point{46.0, 16.0}));
    assert((grid.world_to_cell(60.0, 23.0) == Cell{2, 1}));
    assert(grid.world_where(60.0, 23.0) == Where::Void);
    assert((grid.world_to_cell_of(Kind::Crate, 60.0, 23.0) == Cell{2, 0}));
    assert((grid.snap(60.0, 23.0) == Cell{2, 1}));
    assert((grid.cell_to_centre(Cell{2, 1}) == Point{72.0, 38.0}));
    assert((grid.world_to_cell(-18.0, 45.0) == Cell{-1, 2}));
    assert(grid.world_where(-18.0, 45.0) == Where::Outside);
    assert((grid.world_to_cell_of(Kind::Crate, -18.0, 45.0) == Cell{-1, 1}));
    assert((grid.snap(-18.0, 45.0) == Cell{0, 1}));
    assert((grid.cell_to_centre(Cell{0, 1}) == Point{20.0, 38.0}));
    assert((grid.window_to_cell(64.0, 6.0) == Cell{0, -1}));
    assert(grid.window_where(64.0, 6.0) == Where::Outside);
    assert((grid.window_to_cell(-1.0, 12.0) == Cell{-1, 0}));
    assert(grid.window_where(-1.0, 12.0) == Where::Bar);
    assert((grid.window_to_cell(16.0, 52.0) == Cell{0, 0}));
    assert(grid.window_where(16.0, 52.0) == Where::Gap);
    assert((grid.cell_to_centre(Cell{-1, 0}) == Point{-6.0, 16.0}));
    assert((!grid.cell_to_index(Cell{-1, 0})));
    assert((grid.cell_to_centre(Cell{1, 2}) == Point{46.0, 60.0}));
    assert((!grid.cell_to_index(Cell{1, 2})));
    assert((!grid.cell_to_index(Cell{0, -1})));
    assert((grid.cell_to_index(Cell{2, 0}) == 3));
    assert((grid.index_to_cell(3) == Cell{2, 0}));
    assert((!grid.cell_to_index(Cell{3, 0})));
    assert((grid.cell_to_index(Cell{0, 1}) == 4));
    assert((grid.index_to_cell(4) == Cell{0, 1}));
    {
        Game game = Game::on_board_of({"P"});
        game.input("down");
        assert((game.board() == std::vector<std::string>{"P"}));
        assert(game.shoved == 0);
    }
    {
        Game game = Game::on_board_of({"P", "."});
        game.input("right");
        assert((game.board() == std::vector<std::string>{"P", "."}));
        assert(game.shoved == 0);
    }
    {
        Game game = Game::on_board_of({"P ."});
        game.input("right");
        assert((game.board() == std::vector<std::string>{"P ."}));
        assert(game.shoved == 0);
    }
    {
        Game game = Game::on_board_of({"PC."});
        game.input("right");
        assert((game.board() == std::vector<std::string>{".PC"}));
        assert(game.shoved == 1);
    }
    {
        Game game = Game::on_board_of({".P"});
        game.input("left");
        game.input("right");
        assert((game.board() == std::vector<std::string>{".P"}));
        assert(game.shoved == 0);
    }
    {
        Game game = Game::on_board_of({"PCC."});
        game.input("right");
        assert((game.board() == std::vector<std::string>{"PCC."}));
        assert(game.shoved == 0);
    }
}
