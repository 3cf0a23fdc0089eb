// This was emitted by rapid-magpie, and is replaced where that is done again.
// The same results as `rapid-magpie convert`, to the last bit.
// The grid of "Shelf", rulebook "shelf.magpie".
using System;

namespace Shelf
{
    public struct Cell
    {
        public readonly long Column, Row;

        public Cell(long column, long row)
        {
            Column = column;
            Row = row;
        }
    }

    public struct Point
    {
        public readonly double X, Y;

        public Point(double x, double y)
        {
            X = x;
            Y = y;
        }
    }

    public struct Rect
    {
        public readonly double X, Y, W, H;

        public Rect(double x, double y, double w, double h)
        {
            X = x;
            Y = y;
            W = w;
            H = h;
        }
    }

    public enum Where { Bar, Outside, Gap, Void, Cell }

    public enum Kind { Plank, Porter, Crate }

    /// <summary>The grid of a map.</summary>
    public sealed class Grid
    {
        public const double CellWidth = 24.0; // Width of a cell in px.
        public const double CellHeight = 20.0; // Height of a cell in px.
        public const double PitchX = 26.0; // From one column to the next, in px.
        public const double PitchY = 22.0; // From one row to the next, in px.
        public const double HotspotX = 0.0; // Added to the positions of pieces, in px.
        public const double HotspotY = 5.0; // The same along y, in px.
        public const long FirstIndex = 1; // Index of the first cell.
        public const double ScaleX = 2.0; // Window px in a design px, along x.
        public const double ScaleY = 2.0; // Window px in a design px, along y.
        public const double BarX = 0.0; // Width of the bar left of the picture, in window px.
        public const double BarY = 0.0; // Height of the bar above the picture, in window px.
        public const double DesignWidth = 240.0; // Width of the picture in design px.
        public const double DesignHeight = 120.0; // Height of the picture in design px.
        public const double CameraX = 0.0; // World x of the picture's upper left corner.
        public const double CameraY = 0.0; // World y of the picture's upper left corner.

        public readonly long Columns, Rows;
        private readonly double originX, originY;
        private readonly string[] nothing;

        private Grid(long columns, long rows, double originX, double originY, string[] nothing)
        {
            Columns = columns;
            Rows = rows;
            this.originX = originX;
            this.originY = originY;
            this.nothing = nothing;
        }

        /// <summary>The grid of a map, counted from 1.</summary>
        public static Grid OfMap(int number)
        {
            switch (number)
            {
                // "Left"
                case 1: return new Grid(3, 2, 8.0, 6.0, new[] { "...", ".. " });
                // "Right"
                default: return new Grid(4, 1, 8.0, 6.0, new[] { "...." });
            }
        }

        /// <summary>The cell of a world position, on the board or off it.</summary>
        public Cell WorldToCell(double x, double y)
        {
            long column = (long)Math.Floor((x + HotspotX - originX) / PitchX);
            long row = (long)Math.Floor((y + HotspotY - originY) / PitchY);
            return new Cell(column, row);
        }

        /// <summary>What lies at a world position.</summary>
        public Where WorldWhere(double x, double y)
        {
            Cell cell = WorldToCell(x, y);
            if (!Inside(cell)) {
                return Where.Outside;
            }
            double across = x + HotspotX - originX;
            if (across - Math.Floor(across / PitchX) * PitchX >= CellWidth) {
                return Where.Gap;
            }
            double down = y + HotspotY - originY;
            if (down - Math.Floor(down / PitchY) * PitchY >= CellHeight) {
                return Where.Gap;
            }
            if (nothing[cell.Row][(int)cell.Column] == ' ') {
                return Where.Void;
            }
            return Where.Cell;
        }

        /// <summary>The cell of the board that is nearest to a world position.</summary>
        public Cell Snap(double x, double y)
        {
            Cell cell = WorldToCell(x, y);
            return new Cell(Math.Min(Math.Max(cell.Column, 0), Columns - 1), Math.Min(Math.Max(cell.Row, 0), Rows - 1));
        }

        /// <summary>The corner of a cell where counting starts, in world px.</summary>
        public Point CellToCorner(Cell cell)
        {
            return new Point(originX + (double)cell.Column * PitchX, originY + (double)cell.Row * PitchY);
        }

        /// <summary>The middle of a cell in world px.</summary>
        public Point CellToCentre(Cell cell)
        {
            return new Point(originX + ((double)cell.Column * PitchX + CellWidth / 2.0), originY + ((double)cell.Row * PitchY + CellHeight / 2.0));
        }

        /// <summary>The rectangle of a cell, from its smallest x and y.</summary>
        public Rect CellToBox(Cell cell)
        {
            Point corner = CellToCorner(cell);
            return new Rect(corner.X, corner.Y, CellWidth, CellHeight);
        }

        /// <summary>Whether a cell lies on the board.</summary>
        public bool Inside(Cell cell)
        {
            return cell.Column >= 0 && cell.Column < Columns && cell.Row >= 0 && cell.Row < Rows;
        }

        /// <summary>The place of a cell in the flat array, nothing off the board.</summary>
        public long? CellToIndex(Cell cell)
        {
            if (!Inside(cell)) {
                return null;
            }
            return cell.Row * Columns + cell.Column + FirstIndex;
        }

        /// <summary>The cell at a place in the flat array, nothing where there is none.</summary>
        public Cell? IndexToCell(long index)
        {
            long place = index - FirstIndex;
            if (place < 0 || place >= Columns * Rows) {
                return null;
            }
            return new Cell(place % Columns, place / Columns);
        }

        /// <summary>The cell of the world position of a piece of this kind, whose hotspot counts.</summary>
        public Cell WorldToCellOf(Kind kind, double x, double y)
        {
            if (kind == Kind.Crate) {
                long column = (long)Math.Floor((x + 3.0 - originX) / PitchX);
                long row = (long)Math.Floor((y + 0.0 - originY) / PitchY);
                return new Cell(column, row);
            }
            return WorldToCell(x, y);
        }

        /// <summary>The world position of a window position.</summary>
        public Point WindowToWorld(double x, double y)
        {
            double across = x / ScaleX;
            double down = y / ScaleY;
            return new Point(CameraX + across, CameraY + down);
        }

        /// <summary>The window position of a world position.</summary>
        public Point WorldToWindow(double x, double y)
        {
            return new Point(x * ScaleX + BarX, y * ScaleY + BarY);
        }

        /// <summary>The cell of a world position without any hotspot.</summary>
        public Cell CellAt(double x, double y)
        {
            long column = (long)Math.Floor((x - originX) / PitchX);
            long row = (long)Math.Floor((y - originY) / PitchY);
            return new Cell(column, row);
        }

        /// <summary>What lies at a world position without any hotspot.</summary>
        public Where WhereAt(double x, double y)
        {
            Cell cell = CellAt(x, y);
            if (!Inside(cell)) {
                return Where.Outside;
            }
            double across = x - originX;
            if (across - Math.Floor(across / PitchX) * PitchX >= CellWidth) {
                return Where.Gap;
            }
            double down = y - originY;
            if (down - Math.Floor(down / PitchY) * PitchY >= CellHeight) {
                return Where.Gap;
            }
            if (nothing[cell.Row][(int)cell.Column] == ' ') {
                return Where.Void;
            }
            return Where.Cell;
        }

        /// <summary>The cell of a window position, on the board or off it.</summary>
        public Cell WindowToCell(double x, double y)
        {
            Point world = WindowToWorld(x, y);
            return CellAt(world.X, world.Y);
        }

        /// <summary>What lies at a window position.</summary>
        public Where WindowWhere(double x, double y)
        {
            double across = x / ScaleX;
            double down = y / ScaleY;
            if (!(across >= 0.0 && across < DesignWidth && down >= 0.0 && down < DesignHeight)) {
                return Where.Bar;
            }
            Point world = WindowToWorld(x, y);
            return WhereAt(world.X, world.Y);
        }

        /// <summary>The window position of the middle of a cell.</summary>
        public Point CellToWindow(Cell cell)
        {
            Point centre = CellToCentre(cell);
            return WorldToWindow(centre.X, centre.Y);
        }
    }
}
