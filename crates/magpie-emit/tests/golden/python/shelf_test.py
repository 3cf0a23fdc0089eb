# python3 shelf_test.py
# This was emitted by rapid-magpie, and is replaced where that is done again.
# Positions come out as with `rapid-magpie convert`, to the last bit.
# The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.
from shelf import Cell, Game, Grid, Kind, Point, Where

grid = Grid.of_map(1)
assert grid.world_to_cell(-17.0, -20.0) == Cell(-1, -1)
assert grid.world_where(-17.0, -20.0) is Where.OUTSIDE
assert grid.world_to_cell_of(Kind.CRATE, -17.0, -20.0) == Cell(-1, -2)
assert grid.snap(-17.0, -20.0) == Cell(0, 0)
assert grid.cell_to_centre(Cell(0, 0)) == Point(20.0, 16.0)
assert grid.world_to_cell(56.0, 21.0) == Cell(1, 0)
assert grid.world_where(56.0, 21.0) is Where.GAP
assert grid.world_to_cell_of(Kind.CRATE, 56.0, 21.0) == Cell(1, 0)
assert grid.snap(56.0, 21.0) == Cell(1, 0)
assert grid.cell_to_centre(Cell(1, 0)) == Point(46.0, 16.0)
assert grid.world_to_cell(60.0, 23.0) == Cell(2, 1)
assert grid.world_where(60.0, 23.0) is Where.VOID
assert grid.world_to_cell_of(Kind.CRATE, 60.0, 23.0) == Cell(2, 0)
assert grid.snap(60.0, 23.0) == Cell(2, 1)
assert grid.cell_to_centre(Cell(2, 1)) == Point(72.0, 38.0)
assert grid.world_to_cell(-18.0, 45.0) == Cell(-1, 2)
assert grid.world_where(-18.0, 45.0) is Where.OUTSIDE
assert grid.world_to_cell_of(Kind.CRATE, -18.0, 45.0) == Cell(-1, 1)
assert grid.snap(-18.0, 45.0) == Cell(0, 1)
assert grid.cell_to_centre(Cell(0, 1)) == Point(20.0, 38.0)
assert grid.window_to_cell(64.0, 6.0) == Cell(0, -1)
assert grid.window_where(64.0, 6.0) is Where.OUTSIDE
assert grid.window_to_cell(-1.0, 12.0) == Cell(-1, 0)
assert grid.window_where(-1.0, 12.0) is Where.BAR
assert grid.window_to_cell(16.0, 52.0) == Cell(0, 0)
assert grid.window_where(16.0, 52.0) is Where.GAP
assert grid.cell_to_centre(Cell(-1, 0)) == Point(-6.0, 16.0)
assert grid.cell_to_index(Cell(-1, 0)) is None
assert grid.cell_to_centre(Cell(1, 2)) == Point(46.0, 60.0)
assert grid.cell_to_index(Cell(1, 2)) is None
assert grid.cell_to_index(Cell(0, -1)) is None
assert grid.cell_to_index(Cell(2, 0)) == 3
assert grid.index_to_cell(3) == Cell(2, 0)
assert grid.cell_to_index(Cell(3, 0)) is None
assert grid.cell_to_index(Cell(0, 1)) == 4
assert grid.index_to_cell(4) == Cell(0, 1)
game = Game.on_board_of(["P"])
game.input("down")
assert game.board() == ["P"]
assert game.shoved == 0
game = Game.on_board_of(["P", "."])
game.input("right")
assert game.board() == ["P", "."]
assert game.shoved == 0
game = Game.on_board_of(["P ."])
game.input("right")
assert game.board() == ["P ."]
assert game.shoved == 0
game = Game.on_board_of(["PC."])
game.input("right")
assert game.board() == [".PC"]
assert game.shoved == 1
game = Game.on_board_of([".P"])
game.input("left")
game.input("right")
assert game.board() == [".P"]
assert game.shoved == 0
game = Game.on_board_of(["PCC."])
game.input("right")
assert game.board() == ["PCC."]
assert game.shoved == 0
