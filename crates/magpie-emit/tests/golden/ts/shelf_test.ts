// tsc --strict --module nodenext --types node shelf_test.ts && node shelf_test.js
// This was emitted by rapid-magpie, and is replaced where that is done again.
// Positions come out as with `rapid-magpie convert`, to the last bit.
// The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.

import assert from "node:assert";
import { Game, Grid } from "./shelf.js";

const grid = Grid.ofMap(1);
assert.deepStrictEqual(grid.worldToCell(-17.0, -20.0), { column: -1, row: -1 });
assert.strictEqual(grid.worldWhere(-17.0, -20.0), "outside");
assert.deepStrictEqual(grid.worldToCellOf("crate", -17.0, -20.0), { column: -1, row: -2 });
assert.deepStrictEqual(grid.snap(-17.0, -20.0), { column: 0, row: 0 });
assert.deepStrictEqual(grid.cellToCentre({ column: 0, row: 0 }), { x: 20.0, y: 16.0 });
assert.deepStrictEqual(grid.worldToCell(56.0, 21.0), { column: 1, row: 0 });
assert.strictEqual(grid.worldWhere(56.0, 21.0), "gap");
assert.deepStrictEqual(grid.worldToCellOf("crate", 56.0, 21.0), { column: 1, row: 0 });
assert.deepStrictEqual(grid.snap(56.0, 21.0), { column: 1, row: 0 });
assert.deepStrictEqual(grid.cellToCentre({ column: 1, row: 0 }), { x: 46.0, y: 16.0 });
assert.deepStrictEqual(grid.worldToCell(60.0, 23.0), { column: 2, row: 1 });
assert.strictEqual(grid.worldWhere(60.0, 23.0), "void");
assert.deepStrictEqual(grid.worldToCellOf("crate", 60.0, 23.0), { column: 2, row: 0 });
assert.deepStrictEqual(grid.snap(60.0, 23.0), { column: 2, row: 1 });
assert.deepStrictEqual(grid.cellToCentre({ column: 2, row: 1 }), { x: 72.0, y: 38.0 });
assert.deepStrictEqual(grid.worldToCell(-18.0, 45.0), { column: -1, row: 2 });
assert.strictEqual(grid.worldWhere(-18.0, 45.0), "outside");
assert.deepStrictEqual(grid.worldToCellOf("crate", -18.0, 45.0), { column: -1, row: 1 });
assert.deepStrictEqual(grid.snap(-18.0, 45.0), { column: 0, row: 1 });
assert.deepStrictEqual(grid.cellToCentre({ column: 0, row: 1 }), { x: 20.0, y: 38.0 });
assert.deepStrictEqual(grid.windowToCell(64.0, 6.0), { column: 0, row: -1 });
assert.strictEqual(grid.windowWhere(64.0, 6.0), "outside");
assert.deepStrictEqual(grid.windowToCell(-1.0, 12.0), { column: -1, row: 0 });
assert.strictEqual(grid.windowWhere(-1.0, 12.0), "bar");
assert.deepStrictEqual(grid.windowToCell(16.0, 52.0), { column: 0, row: 0 });
assert.strictEqual(grid.windowWhere(16.0, 52.0), "gap");
assert.deepStrictEqual(grid.cellToCentre({ column: -1, row: 0 }), { x: -6.0, y: 16.0 });
assert.strictEqual(grid.cellToIndex({ column: -1, row: 0 }), null);
assert.deepStrictEqual(grid.cellToCentre({ column: 1, row: 2 }), { x: 46.0, y: 60.0 });
assert.strictEqual(grid.cellToIndex({ column: 1, row: 2 }), null);
assert.strictEqual(grid.cellToIndex({ column: 0, row: -1 }), null);
assert.strictEqual(grid.cellToIndex({ column: 2, row: 0 }), 3);
assert.deepStrictEqual(grid.indexToCell(3), { column: 2, row: 0 });
assert.strictEqual(grid.cellToIndex({ column: 3, row: 0 }), null);
assert.strictEqual(grid.cellToIndex({ column: 0, row: 1 }), 4);
assert.deepStrictEqual(grid.indexToCell(4), { column: 0, row: 1 });
{
    const game = Game.onBoardOf(["P"]);
    game.input("down");
    assert.deepStrictEqual(game.board(), ["P"]);
    assert.strictEqual(game.shoved, 0);
}
{
    const game = Game.onBoardOf(["P", "."]);
    game.input("right");
    assert.deepStrictEqual(game.board(), ["P", "."]);
    assert.strictEqual(game.shoved, 0);
}
{
    const game = Game.onBoardOf(["P ."]);
    game.input("right");
    assert.deepStrictEqual(game.board(), ["P ."]);
    assert.strictEqual(game.shoved, 0);
}
{
    const game = Game.onBoardOf(["PC."]);
    game.input("right");
    assert.deepStrictEqual(game.board(), [".PC"]);
    assert.strictEqual(game.shoved, 1);
}
{
    const game = Game.onBoardOf([".P"]);
    game.input("left");
    game.input("right");
    assert.deepStrictEqual(game.board(), [".P"]);
    assert.strictEqual(game.shoved, 0);
}
{
    const game = Game.onBoardOf(["PCC."]);
    game.input("right");
    assert.deepStrictEqual(game.board(), ["PCC."]);
    assert.strictEqual(game.shoved, 0);
}
