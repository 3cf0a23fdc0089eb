// rustc --edition 2021 shelf_test.rs && ./shelf_test
// This was emitted by rapid-magpie, and is replaced where that is done again.
// Positions come out as with `rapid-magpie convert`, to the last bit.
// The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.

mod shelf;

use shelf::*;

fn main() {
    let grid = Grid::of_map(1);
    assert_eq!(grid.world_to_cell(-17.0, -20.0), Cell { column: -1, row: -1 });
    assert_eq!(grid.world_where(-17.0, -20.0), Where::Outside);
    assert_eq!(grid.world_to_cell_of(Kind::Crate, -17.0, -20.0), Cell { column: -1, row: -2 });
    assert_eq!(grid.snap(-17.0, -20.0), Cell { column: 0, row: 0 });
    assert_eq!(grid.cell_to_centre(Cell { column: 0, row: 0 }), Point { x: 20.0, y: 16.0 });
    assert_eq!(grid.world_to_cell(56.0, 21.0), Cell { column: 1, row: 0 });
    assert_eq!(grid.world_where(56.0, 21.0), Where::Gap);
    assert_eq!(grid.world_to_cell_of(Kind::Crate, 56.0, 21.0), Cell { column: 1, row: 0 });
    assert_eq!(grid.snap(56.0, 21.0), Cell { column: 1, row: 0 });
    assert_eq!(grid.cell_to_centre(Cell { column: 1, row: 0 }), Point { x: 46.0, y: 16.0 });
    assert_eq!(grid.world_to_cell(60.0, 23.0), Cell { column: 2, row: 1 });
    assert_eq!(grid.world_where(60.0, 23.0), Where::Void);
    assert_eq!(grid.world_to_cell_of(Kind::Crate, 60.0, 23.0), Cell { column: 2, row: 0 });
    assert_eq!(grid.snap(60.0, 23.0), Cell { column: 2, row: 1 });
    assert_eq!(grid.cell_to_centre(Cell { column: 2, row: 1 }), Point { x: 72.0, y: 38.0 });
    assert_eq!(grid.world_to_cell(-18.0, 45.0), Cell { column: -1, row: 2 });
    assert_eq!(grid.world_where(-18.0, 45.0), Where::Outside);
    assert_eq!(grid.world_to_cell_of(Kind::Crate, -18.0, 45.0), Cell { column: -1, row: 1 });
    assert_eq!(grid.snap(-18.0, 45.0), Cell { column: 0, row: 1 });
    assert_eq!(grid.cell_to_centre(Cell { column: 0, row: 1 }), Point { x: 20.0, y: 38.0 });
    assert_eq!(grid.window_to_cell(64.0, 6.0), Cell { column: 0, row: -1 });
    assert_eq!(grid.window_where(64.0, 6.0), Where::Outside);
    assert_eq!(grid.window_to_cell(-1.0, 12.0), Cell { column: -1, row: 0 });
    assert_eq!(grid.window_where(-1.0, 12.0), Where::Bar);
    assert_eq!(grid.window_to_cell(16.0, 52.0), Cell { column: 0, row: 0 });
    assert_eq!(grid.window_where(16.0, 52.0), Where::Gap);
    assert_eq!(grid.cell_to_centre(Cell { column: -1, row: 0 }), Point { x: -6.0, y: 16.0 });
    assert_eq!(grid.cell_to_index(Cell { column: -1, row: 0 }), None);
    assert_eq!(grid.cell_to_centre(Cell { column: 1, row: 2 }), Point { x: 46.0, y: 60.0 });
    assert_eq!(grid.cell_to_index(Cell { column: 1, row: 2 }), None);
    assert_eq!(grid.cell_to_index(Cell { column: 0, row: -1 }), None);
    assert_eq!(grid.cell_to_index(Cell { column: 2, row: 0 }), Some(3));
    assert_eq!(grid.index_to_cell(3), Some(Cell { column: 2, row: 0 }));
    assert_eq!(grid.cell_to_index(Cell { column: 3, row: 0 }), None);
    assert_eq!(grid.cell_to_index(Cell { column: 0, row: 1 }), Some(4));
    assert_eq!(grid.index_to_cell(4), Some(Cell { column: 0, row: 1 }));
    {
        let mut game = Game::on_board_of(&["P"]);
        game.input("down");
        assert_eq!(game.board(), ["P"]);
        assert_eq!(game.shoved, 0);
    }
    {
        let mut game = Game::on_board_of(&["P", "."]);
        game.input("right");
        assert_eq!(game.board(), ["P", "."]);
        assert_eq!(game.shoved, 0);
    }
    {
        let mut game = Game::on_board_of(&["P ."]);
        game.input("right");
        assert_eq!(game.board(), ["P ."]);
        assert_eq!(game.shoved, 0);
    }
    {
        let mut game = Game::on_board_of(&["PC."]);
        game.input("right");
        assert_eq!(game.board(), [".PC"]);
        assert_eq!(game.shoved, 1);
    }
    {
        let mut game = Game::on_board_of(&[".P"]);
        game.input("left");
        game.input("right");
        assert_eq!(game.board(), [".P"]);
        assert_eq!(game.shoved, 0);
    }
    {
        let mut game = Game::on_board_of(&["PCC."]);
        game.input("right");
        assert_eq!(game.board(), ["PCC."]);
        assert_eq!(game.shoved, 0);
    }
}
