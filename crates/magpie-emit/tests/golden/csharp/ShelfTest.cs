// mcs -langversion:7.2 -out:ShelfTest.exe ShelfTest.cs Shelf.cs && mono ShelfTest.exe
// This was emitted by rapid-magpie, and is replaced where that is done again.
// Positions come out as with `rapid-magpie convert`, to the last bit.
// The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.
using System;
using Shelf;

static class ShelfTest
{
    static void Check(bool holds)
    {
        if (!holds) throw new Exception("a vector does not hold");
    }

    static int Main()
    {
        var grid = Grid.OfMap(1);
        Check(grid.WorldToCell(-17.0, -20.0).Equals(new Cell(-1, -1)));
        Check(grid.WorldWhere(-17.0, -20.0) == Where.Outside);
        Check(grid.WorldToCellOf(Kind.Crate, -17.0, -20.0).Equals(new Cell(-1, -2)));
        Check(grid.Snap(-17.0, -20.0).Equals(new Cell(0, 0)));
        Check(grid.CellToCentre(new Cell(0, 0)).Equals(new Point(20.0, 16.0)));
        Check(grid.WorldToCell(56.0, 21.0).Equals(new Cell(1, 0)));
        Check(grid.WorldWhere(56.0, 21.0) == Where.Gap);
        Check(grid.WorldToCellOf(Kind.Crate, 56.0, 21.0).Equals(new Cell(1, 0)));
        Check(grid.Snap(56.0, 21.0).Equals(new Cell(1, 0)));
        Check(grid.CellToCentre(new Cell(1, 0)).Equals(new Point(46.0, 16.0)));
        Check(grid.WorldToCell(60.0, 23.0).Equals(new Cell(2, 1)));
        Check(grid.WorldWhere(60.0, 23.0) == Where.Void);
        Check(grid.WorldToCellOf(Kind.Crate, 60.0, 23.0).Equals(new Cell(2, 0)));
        Check(grid.Snap(60.0, 23.0).Equals(new Cell(2, 1)));
        Check(grid.CellToCentre(new Cell(2, 1)).Equals(new Point(72.0, 38.0)));
        Check(grid.WorldToCell(-18.0, 45.0).Equals(new Cell(-1, 2)));
        Check(grid.WorldWhere(-18.0, 45.0) == Where.Outside);
        Check(grid.WorldToCellOf(Kind.Crate, -18.0, 45.0).Equals(new Cell(-1, 1)));
        Check(grid.Snap(-18.0, 45.0).Equals(new Cell(0, 1)));
        Check(grid.CellToCentre(new Cell(0, 1)).Equals(new Point(20.0, 38.0)));
        Check(grid.WindowToCell(64.0, 6.0).Equals(new Cell(0, -1)));
        Check(grid.WindowWhere(64.0, 6.0) == Where.Outside);
        Check(grid.WindowToCell(-1.0, 12.0).Equals(new Cell(-1, 0)));
        Check(grid.WindowWhere(-1.0, 12.0) == Where.Bar);
        Check(grid.WindowToCell(16.0, 52.0).Equals(new Cell(0, 0)));
        Check(grid.WindowWhere(16.0, 52.0) == Where.Gap);
        Check(grid.CellToCentre(new Cell(-1, 0)).Equals(new Point(-6.0, 16.0)));
        Check(grid.CellToIndex(new Cell(-1, 0)) == null);
        Check(grid.CellToCentre(new Cell(1, 2)).Equals(new Point(46.0, 60.0)));
        Check(grid.CellToIndex(new Cell(1, 2)) == null);
        Check(grid.CellToIndex(new Cell(0, -1)) == null);
        Check(grid.CellToIndex(new Cell(2, 0)) == 3);
        Check(grid.IndexToCell(3).Equals(new Cell(2, 0)));
        Check(grid.CellToIndex(new Cell(3, 0)) == null);
        Check(grid.CellToIndex(new Cell(0, 1)) == 4);
        Check(grid.IndexToCell(4).Equals(new Cell(0, 1)));
        {
            var game = Game.OnBoardOf(new[] { "P" });
            game.Input("down");
            Check(string.Join("\n", game.Board()) == "P");
            Check(game.Shoved == 0);
        }
        {
            var game = Game.OnBoardOf(new[] { "P", "." });
            game.Input("right");
            Check(string.Join("\n", game.Board()) == "P" + "\n" + ".");
            Check(game.Shoved == 0);
        }
        {
            var game = Game.OnBoardOf(new[] { "P ." });
            game.Input("right");
            Check(string.Join("\n", game.Board()) == "P .");
            Check(game.Shoved == 0);
        }
        {
            var game = Game.OnBoardOf(new[] { "PC." });
            game.Input("right");
            Check(string.Join("\n", game.Board()) == ".PC");
            Check(game.Shoved == 1);
        }
        {
            var game = Game.OnBoardOf(new[] { ".P" });
            game.Input("left");
            game.Input("right");
            Check(string.Join("\n", game.Board()) == ".P");
            Check(game.Shoved == 0);
        }
        {
            var game = Game.OnBoardOf(new[] { "PCC." });
            game.Input("right");
            Check(string.Join("\n", game.Board()) == "PCC.");
            Check(game.Shoved == 0);
        }
        return 0;
    }
}
