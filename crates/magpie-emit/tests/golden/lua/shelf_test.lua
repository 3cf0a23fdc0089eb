-- lua5.4 shelf_test.lua
-- This was emitted by rapid-magpie, and is replaced where that is done again.
-- Positions come out as with `rapid-magpie convert`, to the last bit.
-- The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.

local Grid = require("shelf").Grid
local Game = require("shelf").Game

local function same(got, wanted)
    for key, value in pairs(wanted) do
        assert(got[key] == value)
    end
end

local grid = Grid.of_map(1)
same(grid:world_to_cell(-17.0, -20.0), { column = -1, row = -1 })
assert(grid:world_where(-17.0, -20.0) == "outside")
same(grid:world_to_cell_of("crate", -17.0, -20.0), { column = -1, row = -2 })
same(grid:snap(-17.0, -20.0), { column = 0, row = 0 })
same(grid:cell_to_centre({ column = 0, row = 0 }), { x = 20.0, y = 16.0 })
same(grid:world_to_cell(56.0, 21.0), { column = 1, row = 0 })
assert(grid:world_where(56.0, 21.0) == "gap")
same(grid:world_to_cell_of("crate", 56.0, 21.0), { column = 1, row = 0 })
same(grid:snap(56.0, 21.0), { column = 1, row = 0 })
same(grid:cell_to_centre({ column = 1, row = 0 }), { x = 46.0, y = 16.0 })
same(grid:world_to_cell(60.0, 23.0), { column = 2, row = 1 })
assert(grid:world_where(60.0, 23.0) == "void")
same(grid:world_to_cell_of("crate", 60.0, 23.0), { column = 2, row = 0 })
same(grid:snap(60.0, 23.0), { column = 2, row = 1 })
same(grid:cell_to_centre({ column = 2, row = 1 }), { x = 72.0, y = 38.0 })
same(grid:world_to_cell(-18.0, 45.0), { column = -1, row = 2 })
assert(grid:world_where(-18.0, 45.0) == "outside")
same(grid:world_to_cell_of("crate", -18.0, 45.0), { column = -1, row = 1 })
same(grid:snap(-18.0, 45.0), { column = 0, row = 1 })
same(grid:cell_to_centre({ column = 0, row = 1 }), { x = 20.0, y = 38.0 })
same(grid:window_to_cell(64.0, 6.0), { column = 0, row = -1 })
assert(grid:window_where(64.0, 6.0) == "outside")
same(grid:window_to_cell(-1.0, 12.0), { column = -1, row = 0 })
assert(grid:window_where(-1.0, 12.0) == "bar")
same(grid:window_to_cell(16.0, 52.0), { column = 0, row = 0 })
assert(grid:window_where(16.0, 52.0) == "gap")
same(grid:cell_to_centre({ column = -1, row = 0 }), { x = -6.0, y = 16.0 })
assert(grid:cell_to_index({ column = -1, row = 0 }) == nil)
same(grid:cell_to_centre({ column = 1, row = 2 }), { x = 46.0, y = 60.0 })
assert(grid:cell_to_index({ column = 1, row = 2 }) == nil)
assert(grid:cell_to_index({ column = 0, row = -1 }) == nil)
assert(grid:cell_to_index({ column = 2, row = 0 }) == 3)
same(grid:index_to_cell(3), { column = 2, row = 0 })
assert(grid:cell_to_index({ column = 3, row = 0 }) == nil)
assert(grid:cell_to_index({ column = 0, row = 1 }) == 4)
same(grid:index_to_cell(4), { column = 0, row = 1 })
do
    local game = Game.on_board_of({ "P" })
    game:input("down")
    same(game:board(), { "P" })
    assert(game.shoved == 0)
end
do
    local game = Game.on_board_of({ "P", "." })
    game:input("right")
    same(game:board(), { "P", "." })
    assert(game.shoved == 0)
end
do
    local game = Game.on_board_of({ "P ." })
    game:input("right")
    same(game:board(), { "P ." })
    assert(game.shoved == 0)
end
do
    local game = Game.on_board_of({ "PC." })
    game:input("right")
    same(game:board(), { ".PC" })
    assert(game.shoved == 1)
end
do
    local game = Game.on_board_of({ ".P" })
    game:input("left")
    game:input("right")
    same(game:board(), { ".P" })
    assert(game.shoved == 0)
end
do
    local game = Game.on_board_of({ "PCC." })
    game:input("right")
    same(game:board(), { "PCC." })
    assert(game.shoved == 0)
end
