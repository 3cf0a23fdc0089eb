// This was emitted by rapid-magpie, and is replaced where that is done again.
// Positions come out as with `rapid-magpie convert`, to the last bit.
// The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.
using System;
using System.Collections.Generic;
using System.Text;

namespace Shelf
{
    using OutcomeIs = Shelf.Outcome;

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

    public enum Heading { West, East, North, South, NorthWest, NorthEast, SouthWest, SouthEast }

    public enum Check { Edge, Void, Meets, Corner, Limit, Room }

    public enum Outcome { Won, Lost, NeverSettles }

    public struct Piece
    {
        public readonly long Id;
        public readonly Kind Kind;
        public readonly Cell Cell;
        public readonly Heading? Heading;

        public Piece(long id, Kind kind, Cell cell, Heading? heading)
        {
            Id = id;
            Kind = kind;
            Cell = cell;
            Heading = heading;
        }
    }

    public struct Move
    {
        public readonly long Id;
        public readonly Cell From;
        public readonly Cell To;

        public Move(long id, Cell from, Cell to)
        {
            Id = id;
            From = from;
            To = to;
        }
    }

    public struct Answer
    {
        public readonly bool Granted;
        public readonly Check? Check;
        public readonly long Line;
        public readonly List<Move> Moved;

        public Answer(bool granted, Check? check, long line, List<Move> moved)
        {
            Granted = granted;
            Check = check;
            Line = line;
            Moved = moved;
        }
    }

    /// <summary>A game: a copy of it is a game of its own, and going on with one takes back what was played since.</summary>
    public sealed class Game
    {
        private const int KIND_PORTER = 1;
        private const int KIND_CRATE = 2;
        private const int WEST = 0;
        private const int EAST = 1;
        private const int NORTH = 2;
        private const int SOUTH = 3;
        private const int STOP = 0;
        private const int SHOVE = 2;
        private const int CHECK_EDGE = 0;
        private const int CHECK_VOID = 1;
        private const int CHECK_MEETS = 2;
        private const int CHECK_ROOM = 5;
        private const int BY_NEXT = 2;
        private const int KEY_RESTART = 0;
        private const int KEY_NEXT = 1;
        private const int KEY_TAP = 2;
        private const int KEY_DRAG = 3;
        private const int KEY_OTHER = 4;
        private const int KEY_DOWN = 5;
        private const int KEY_LEFT = 6;
        private const int KEY_RIGHT = 7;
        private const int KEY_UP = 8;
        private const int LAYERS = 3;
        private const int KINDS = 3;
        private const int MAP_COUNT = 2;
        private const int GROUND = 0;
        private static readonly int[] LAYER_OF = { 0, 2, 2 };
        private static readonly int[] FACING = { -1, -1, -1 };
        private static readonly int[] STEP_X = { -1, 1, 0, 0, -1, 1, -1, 1 };
        private static readonly int[] STEP_Y = { 0, 0, -1, 1, -1, -1, 1, 1 };
        private static readonly int[] MAP_COLUMNS = { 3, 4 };
        private static readonly int[] MAP_ROWS = { 2, 1 };
        private static readonly string[] GLYPH_OF = { ".", "P", "C" };
        private static readonly int[] VERB_OF = { 0, 2 };
        private static readonly int[] HAS_EFFECTS = { 0, 1 };
        private static readonly int[] LINE_OF = { 0, 23 };
        private static readonly string[] PROMISES = { "always shoved < 100" };
        private static readonly string[][] DRAWINGS =
        {
            new string[]
            {
                "P.C",
                ".. ",
            },
            new string[]
            {
                "P...",
            },
        };

        private int tapped;
        private int dropped;
        private int reading;
        private long entryTurns;
        private long entryMoves;
        private List<int> movedPiece = new List<int>();
        private List<int> movedFrom = new List<int>();
        private List<int> wasAt = new List<int>();
        /// <summary>a counter</summary>
        public long Shoved;
        private long entryShoved;
        private int stopped;
        private bool granted;
        private List<int> mover = new List<int>();
        private List<int> moverFrom = new List<int>();
        private List<int> moverTo = new List<int>();
        private List<int> moverGone = new List<int>();
        private List<int> taken = new List<int>();
        private int[] leaving = new int[0];
        private List<int> asking = new List<int>();
        private List<int> askingLayer = new List<int>();
        private List<int> askingRefused = new List<int>();
        private List<int> decidedRule = new List<int>();
        private List<int> decidedVerb = new List<int>();
        private List<int> decidedMover = new List<int>();
        private List<int> decidedMet = new List<int>();
        private List<int> decidedPlace = new List<int>();
        private List<int> askingMost = new List<int>();
        private int shovedOwn;
        private int stepX;
        private int stepY;
        private int heading;
        private int seen;
        private bool falling;
        private bool detour;
        private int refusedBy;
        private int refusedRule;
        private int refusedPiece;
        private int refusedMet;
        private int refusedPlace;
        private bool bounces;
        private int lastCheck;
        private int lastLine;
        /// <summary>the number of the map, from 1</summary>
        public long Map;
        /// <summary>turns so far</summary>
        public long Turns;
        /// <summary>turns of inputs in which something was granted</summary>
        public long Moves;
        /// <summary>how the game stands</summary>
        public Outcome? Outcome;
        /// <summary>what the last input told</summary>
        public List<string> Signals = new List<string>();
        private int columns;
        private int rows;
        private int cells;
        private int[] at = new int[0];
        private int[] kindOf = new int[0];
        private int[] cellOf = new int[0];
        private int[] headingOf = new int[0];
        private int[] countOf = new int[0];
        private int newest;
        private IList<string> own;

        public Game(IList<string> own = null)
        {
            this.own = own;
            this.newest = -1;
            Map = own == null ? 1 : 2;
            BeginGame();
        }

        /// <summary>A game on a board of its own in place of the maps, drawn with their letters.</summary>
        public static Game OnBoardOf(IList<string> lines)
        {
            return new Game(lines);
        }

        /// <summary>A game of its own that stands as this one does.</summary>
        public Game Copy()
        {
            var other = (Game)MemberwiseClone();
            other.movedPiece = new List<int>(this.movedPiece);
            other.movedFrom = new List<int>(this.movedFrom);
            other.wasAt = new List<int>(this.wasAt);
            other.mover = new List<int>(this.mover);
            other.moverFrom = new List<int>(this.moverFrom);
            other.moverTo = new List<int>(this.moverTo);
            other.moverGone = new List<int>(this.moverGone);
            other.taken = new List<int>(this.taken);
            other.leaving = (int[])this.leaving.Clone();
            other.asking = new List<int>(this.asking);
            other.askingLayer = new List<int>(this.askingLayer);
            other.askingRefused = new List<int>(this.askingRefused);
            other.decidedRule = new List<int>(this.decidedRule);
            other.decidedVerb = new List<int>(this.decidedVerb);
            other.decidedMover = new List<int>(this.decidedMover);
            other.decidedMet = new List<int>(this.decidedMet);
            other.decidedPlace = new List<int>(this.decidedPlace);
            other.askingMost = new List<int>(this.askingMost);
            other.Signals = new List<string>(Signals);
            other.at = (int[])this.at.Clone();
            other.kindOf = (int[])this.kindOf.Clone();
            other.cellOf = (int[])this.cellOf.Clone();
            other.headingOf = (int[])this.headingOf.Clone();
            other.countOf = (int[])this.countOf.Clone();
            return other;
        }

        private void PutBack(Game other)
        {
            this.tapped = other.tapped;
            this.dropped = other.dropped;
            this.reading = other.reading;
            this.entryTurns = other.entryTurns;
            this.entryMoves = other.entryMoves;
            this.movedPiece = other.movedPiece;
            this.movedFrom = other.movedFrom;
            this.wasAt = other.wasAt;
            Shoved = other.Shoved;
            this.entryShoved = other.entryShoved;
            this.stopped = other.stopped;
            this.granted = other.granted;
            this.mover = other.mover;
            this.moverFrom = other.moverFrom;
            this.moverTo = other.moverTo;
            this.moverGone = other.moverGone;
            this.taken = other.taken;
            this.leaving = other.leaving;
            this.asking = other.asking;
            this.askingLayer = other.askingLayer;
            this.askingRefused = other.askingRefused;
            this.decidedRule = other.decidedRule;
            this.decidedVerb = other.decidedVerb;
            this.decidedMover = other.decidedMover;
            this.decidedMet = other.decidedMet;
            this.decidedPlace = other.decidedPlace;
            this.askingMost = other.askingMost;
            this.shovedOwn = other.shovedOwn;
            this.stepX = other.stepX;
            this.stepY = other.stepY;
            this.heading = other.heading;
            this.seen = other.seen;
            this.falling = other.falling;
            this.detour = other.detour;
            this.refusedBy = other.refusedBy;
            this.refusedRule = other.refusedRule;
            this.refusedPiece = other.refusedPiece;
            this.refusedMet = other.refusedMet;
            this.refusedPlace = other.refusedPlace;
            this.bounces = other.bounces;
            this.lastCheck = other.lastCheck;
            this.lastLine = other.lastLine;
            Map = other.Map;
            Turns = other.Turns;
            Moves = other.Moves;
            Outcome = other.Outcome;
            Signals = other.Signals;
            this.columns = other.columns;
            this.rows = other.rows;
            this.cells = other.cells;
            this.at = other.at;
            this.kindOf = other.kindOf;
            this.cellOf = other.cellOf;
            this.headingOf = other.headingOf;
            this.countOf = other.countOf;
            this.newest = other.newest;
        }

        /// <summary>The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy.</summary>
        public Answer Request(long id, Heading heading)
        {
            bool granted = AskFor(id < 0 || id > int.MaxValue ? -1 : (int)id, (int)heading);
            Check? check = null;
            if (this.lastCheck >= 0) check = (Check)this.lastCheck;
            var moved = new List<Move>();
            for (int at = 0; at < this.movedPiece.Count; at++)
            {
                int piece = this.movedPiece[at];
                moved.Add(new Move(piece, CellOf(this.movedFrom[at]), CellOf(this.cellOf[piece])));
            }
            return new Answer(granted, check, this.lastLine, moved);
        }

        /// <summary>The board as lines of text, the top one first.</summary>
        public List<string> Board()
        {
            var lines = new List<string>();
            for (int line = 0; line < this.rows; line++)
            {
                var text = new StringBuilder();
                for (int column = 0; column < this.columns; column++) text.Append(LetterOf((line) * this.columns + column));
                lines.Add(text.ToString());
            }
            return lines;
        }

        /// <summary>The pieces in reading order, the lowest layer of a cell first, the ground left out.</summary>
        public List<Piece> Pieces()
        {
            var found = new List<int>();
            ListPieces(found);
            var pieces = new List<Piece>();
            foreach (int piece in found)
            {
                Heading? heading = null;
                if (this.headingOf[piece] >= 0) heading = (Heading)this.headingOf[piece];
                pieces.Add(new Piece(piece, (Kind)this.kindOf[piece], CellOf(this.cellOf[piece]), heading));
            }
            return pieces;
        }

        private Cell CellOf(int place)
        {
            return new Cell(place % this.columns, place / this.columns);
        }

        private static int TakeLast(List<int> list)
        {
            int last = list[list.Count - 1];
            list.RemoveAt(list.Count - 1);
            return last;
        }

        private static int[] Filled(int count, int value)
        {
            var list = new int[count];
            for (int at = 0; at < count; at++) list[at] = value;
            return list;
        }

        private static int LetterAt(string text, int place)
        {
            return place < text.Length ? text[place] : 0;
        }

        private string Drawing(int line)
        {
            return this.own == null ? DRAWINGS[Map - 1][line] : this.own[line];
        }

        private int DrawingColumns()
        {
            return this.own == null ? MAP_COLUMNS[Map - 1] : this.own[0].Length;
        }

        private int DrawingRows()
        {
            return this.own == null ? MAP_ROWS[Map - 1] : this.own.Count;
        }

        /// <summary>The first promise that does not hold now, as the rulebook writes it.</summary>
        public string Broken()
        {
            int number = BrokenPromise();
            return number < 0 ? null : PROMISES[number];
        }

        /// <summary>Does what an input asks for; false for a word that is none, and where nothing happens.</summary>
        public bool Input(string word)
        {
            int key = KeyOf(word);
            if (key == KEY_RESTART) {
                Signals = new List<string>();
                this.stopped = 0;
                Restart();
                ShowChosen();
                return true;
            }
            if (key == KEY_NEXT) {
                if (Outcome != OutcomeIs.Won || Map >= MAP_COUNT) {
                    return false;
                }
                Signals = new List<string>();
                this.stopped = 0;
                NextMap();
                ShowChosen();
                return true;
            }
            if (key < 0 || Outcome == OutcomeIs.Won || Outcome == OutcomeIs.Lost) {
                return false;
            }
            Signals = new List<string>();
            Turn(key);
            ShowChosen();
            return true;
        }

        /// <summary>The cell that everybody may see as chosen.</summary>
        private void ShowChosen()
        {
        }

        /// <summary>Reads a cell of a word from a place on, and stops behind it, at -1 where there is none. A place off the board is -1.</summary>
        private int ReadCell(string word, int place)
        {
            this.reading = place;
            long column = ReadNumber(word);
            if (this.reading < 0 || LetterAt(word, this.reading) != ',') {
                this.reading = -1;
                return -1;
            }
            this.reading += 1;
            long row = ReadNumber(word);
            if (this.reading < 0 || column < 0 || column >= this.columns || row < 0 || row >= this.rows) {
                return -1;
            }
            return (int)((row * this.columns + column));
        }

        /// <summary>Reads a whole number of a word, and stops behind it, at -1 where there is none.</summary>
        private long ReadNumber(string word)
        {
            int place = this.reading;
            long sign = 1;
            if (place < 0) {
                return 0;
            }
            if (LetterAt(word, place) == '-') {
                sign = -1;
                place += 1;
            }
            int first = place;
            long value = 0;
            while (LetterAt(word, place) >= '0' && LetterAt(word, place) <= '9' && place - first < 16) {
                value = value * 10 + (LetterAt(word, place) - '0');
                place += 1;
            }
            this.reading = place;
            if (place == first || place - first > 15) {
                this.reading = -1;
            }
            return sign * value;
        }

        /// <summary>A turn: rules act, then the board settles, then the end is looked at.</summary>
        private void Turn(int key)
        {
            if (Outcome == OutcomeIs.NeverSettles) {
                Outcome = null;
            }
            this.stopped = 0;
            this.granted = false;
            Turns += 1;
            Act(key);
            if (this.stopped == 0 && this.granted) {
                Moves += 1;
            }
            if (this.stopped == 0) {
                LookAtEnd();
            }
            this.tapped = -1;
            this.dropped = -1;
            int ending = this.stopped;
            if (ending == BY_NEXT) {
                if (Map < MAP_COUNT) {
                    NextMap();
                } else {
                    Outcome = OutcomeIs.Won;
                }
            }
            this.stopped = 0;
        }

        /// <summary>Enters the map that follows.</summary>
        private void NextMap()
        {
            Map += 1;
            NoteEntry();
            Enter();
        }

        /// <summary>Enters maps, as long as their beginning leads on.</summary>
        private void Enter()
        {
            BeginMap();
            while (this.stopped == BY_NEXT && Map < MAP_COUNT) {
                Map += 1;
                NoteEntry();
                BeginMap();
            }
        }

        /// <summary>Lays the map out and lets it begin.</summary>
        private void BeginMap()
        {
            this.stopped = 0;
            Outcome = null;
            this.tapped = -1;
            this.dropped = -1;
            LayOut();
        }

        /// <summary>An empty board of the size of the map.</summary>
        private void MakeBoard(int columns, int rows)
        {
            this.columns = columns;
            this.rows = rows;
            this.cells = columns * rows;
            ClearPlan();
            this.at = Filled(LAYERS * this.cells, -1);
            this.kindOf = Filled(2 * LAYERS * this.cells, 0);
            this.cellOf = Filled(2 * LAYERS * this.cells, -1);
            this.headingOf = Filled(2 * LAYERS * this.cells, -1);
            this.leaving = Filled(2 * LAYERS * this.cells, 0);
            this.countOf = Filled(KINDS, 0);
            this.newest = -1;
        }

        /// <summary>The pieces of a drawing.</summary>
        private void DrawMap()
        {
            MakeBoard(DrawingColumns(), DrawingRows());
            for (int line = 0; line < this.rows; line++) {
                for (int column = 0; column < this.columns; column++) {
                    int place = line * this.columns + column;
                    Lay(place, LetterAt(Drawing(line), column));
                }
            }
        }

        /// <summary>The request of a piece with effects and slides and no turn round it; what it moved and who refused it stands in fields.</summary>
        private bool AskFor(int piece, int heading)
        {
            Signals = new List<string>();
            this.movedPiece.Clear();
            this.movedFrom.Clear();
            this.lastCheck = -1;
            this.lastLine = 0;
            if (piece < 0 || piece >= 2 * LAYERS * this.cells) {
                return false;
            }
            this.stopped = 0;
            this.wasAt.Clear();
            for (int number = 0; number < 2 * LAYERS * this.cells; number++) {
                this.wasAt.Add(this.cellOf[number]);
            }
            bool granted = AskAlong(piece, heading);
            for (int number = 0; number < 2 * LAYERS * this.cells; number++) {
                if (this.wasAt[number] >= 0 && this.cellOf[number] >= 0 && this.wasAt[number] != this.cellOf[number]) {
                    this.movedPiece.Add(number);
                    this.movedFrom.Add(this.wasAt[number]);
                }
            }
            this.wasAt.Clear();
            this.stopped = 0;
            ShowChosen();
            return granted;
        }

        /// <summary>All porter, in reading order.</summary>
        private void EachPorter(List<int> found)
        {
            int left = this.countOf[KIND_PORTER];
            int place = 0;
            while (place < this.cells && found.Count < left) {
                int piece1 = PieceAt(2, place);
                if (piece1 >= 0) {
                    int kind2 = this.kindOf[piece1];
                    if (kind2 == KIND_PORTER) {
                        found.Add(piece1);
                    }
                }
                place += 1;
            }
        }

        /// <summary>What happens on the key left.</summary>
        private void OnLeft()
        {
            // 16: control porter with arrows
            var found1 = new List<int>();
            EachPorter(found1);
            Step(found1, WEST, 1);
            if (this.stopped != 0) {
                return;
            }
        }

        /// <summary>What happens on the key right.</summary>
        private void OnRight()
        {
            // 16: control porter with arrows
            var found1 = new List<int>();
            EachPorter(found1);
            Step(found1, EAST, 1);
            if (this.stopped != 0) {
                return;
            }
        }

        /// <summary>What happens on the key up.</summary>
        private void OnUp()
        {
            // 16: control porter with arrows
            var found1 = new List<int>();
            EachPorter(found1);
            Step(found1, NORTH, 1);
            if (this.stopped != 0) {
                return;
            }
        }

        /// <summary>What happens on the key down.</summary>
        private void OnDown()
        {
            // 16: control porter with arrows
            var found1 = new List<int>();
            EachPorter(found1);
            Step(found1, SOUTH, 1);
            if (this.stopped != 0) {
                return;
            }
        }

        /// <summary>What a key or a touch does.</summary>
        private void Act(int key)
        {
            if (key == KEY_LEFT) {
                OnLeft();
            }
            if (key == KEY_RIGHT) {
                OnRight();
            }
            if (key == KEY_UP) {
                OnUp();
            }
            if (key == KEY_DOWN) {
                OnDown();
            }
        }

        /// <summary>What a word means, -1 for one that means nothing.</summary>
        private int KeyOf(string word)
        {
            this.tapped = -1;
            this.dropped = -1;
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
            if (word.StartsWith("key:", StringComparison.Ordinal)) {
                int letter = LetterAt(word, 4);
                if (((letter >= 'a' && letter <= 'z') || (letter >= '0' && letter <= '9')) && LetterAt(word, 5) == 0) {
                    return KEY_OTHER;
                }
            }
            if (word.StartsWith("tap:", StringComparison.Ordinal)) {
                this.tapped = ReadCell(word, 4);
                this.dropped = this.tapped;
                if (this.reading > 0 && LetterAt(word, this.reading) == 0) {
                    return KEY_TAP;
                }
            }
            if (word.StartsWith("drag:", StringComparison.Ordinal)) {
                this.tapped = ReadCell(word, 5);
                if (this.reading > 0 && LetterAt(word, this.reading) == '>') {
                    this.dropped = ReadCell(word, this.reading + 1);
                    if (this.reading > 0 && LetterAt(word, this.reading) == 0) {
                        return KEY_DRAG;
                    }
                }
            }
            return -1;
        }

        /// <summary>What the end of line 25 does.</summary>
        private void End25()
        {
            // 25: win when shoved > 1: next map
            this.stopped = BY_NEXT;
            return;
        }

        /// <summary>Whether the game is won or lost.</summary>
        private void LookAtEnd()
        {
            // 25: win when shoved > 1: next map
            if (Shoved > 1) {
                Outcome = OutcomeIs.Won;
                End25();
                return;
            }
        }

        /// <summary>The first promise that does not hold, by its number, -1 where all do.</summary>
        private int BrokenPromise()
        {
            // 24: always shoved < 100
            if (!(Shoved < 100)) {
                return 0;
            }
            return -1;
        }

        /// <summary>What the meeting of line 23 does besides.</summary>
        private void Into23(int asker, int met, int place, int seen)
        {
            // 23: porter into crate: shove, add 1 to shoved
            Shoved = Bounded(Shoved + 1);
        }

        /// <summary>The rule that decides when a kind meets another, 0 for none.</summary>
        private int Meeting(int asker, int met, int place, int seen)
        {
            // 23: porter into crate: shove, add 1 to shoved
            if (asker == KIND_PORTER && met == KIND_CRATE) {
                return 1;
            }
            return 0;
        }

        /// <summary>What a meeting does besides.</summary>
        private void DoMeeting(int rule, int asker, int met, int place, int seen)
        {
            if (rule == 1) {
                Into23(asker, met, place, seen);
            }
        }

        /// <summary>Puts into a cell what a letter of a drawing stands for.</summary>
        private void Lay(int place, int letter)
        {
            if (letter == ' ') {
                this.at[place] = -2;
                return;
            }
            // P  porter
            if (letter == 'P') {
                Add(place, KIND_PORTER);
            }
            // C  crate
            if (letter == 'C') {
                Add(place, KIND_CRATE);
            }
            Add(place, GROUND);
        }

        /// <summary>The board of the map at its beginning.</summary>
        private void LayOut()
        {
            DrawMap();
        }

        /// <summary>Begins a game on its map.</summary>
        private void BeginGame()
        {
            Turns = 0;
            Moves = 0;
            Shoved = 0;
            NoteEntry();
            Enter();
            ShowChosen();
        }

        /// <summary>Notes the state in which a map is entered.</summary>
        private void NoteEntry()
        {
            this.entryTurns = Turns;
            this.entryMoves = Moves;
            this.entryShoved = Shoved;
        }

        /// <summary>The map begins again.</summary>
        private void Restart()
        {
            Turns = this.entryTurns;
            Moves = this.entryMoves;
            Shoved = this.entryShoved;
            NoteEntry();
            Enter();
        }

        /// <summary>The letter that a cell is drawn with.</summary>
        private string LetterOf(int place)
        {
            if (IsVoid(place)) {
                return " ";
            }
            int kind = TopKind(place);
            if (kind < 0) {
                return "_";
            }
            return GLYPH_OF[kind];
        }

        /// <summary>A request for every piece, the foremost first; each may ask so many times in a row. Whether one was granted.</summary>
        private bool Step(List<int> pieces, int heading, int times)
        {
            var ordered = new List<int>();
            ForemostFirst(pieces, heading, ordered);
            bool granted = false;
            for (int number = 0; number < ordered.Count; number++) {
                int left = times;
                while (left > 0 && this.stopped == 0) {
                    left -= 1;
                    if (AskAlong(ordered[number], heading)) {
                        granted = true;
                    } else {
                        left = 0;
                    }
                }
            }
            return granted;
        }

        /// <summary>Forgets the plan of the request before.</summary>
        private void ClearPlan()
        {
            for (int number = 0; number < this.mover.Count; number++) {
                this.leaving[this.mover[number]] = 0;
            }
            for (int number = 0; number < this.taken.Count; number++) {
                this.leaving[this.taken[number]] = 0;
            }
            this.mover.Clear();
            this.moverFrom.Clear();
            this.moverTo.Clear();
            this.moverGone.Clear();
            this.taken.Clear();
            this.asking.Clear();
            this.askingLayer.Clear();
            this.askingRefused.Clear();
            this.decidedRule.Clear();
            this.decidedVerb.Clear();
            this.decidedMover.Clear();
            this.decidedMet.Clear();
            this.decidedPlace.Clear();
            this.askingMost.Clear();
            this.shovedOwn = 0;
            this.detour = false;
            this.refusedBy = -1;
            this.refusedRule = 0;
            this.bounces = false;
        }

        /// <summary>Works out what a request would do; nothing on the board changes. Whether it is granted.</summary>
        private bool Plan(int piece, int columns, int rows, int heading, int seen, bool falling)
        {
            ClearPlan();
            this.stepX = columns;
            this.stepY = rows;
            this.heading = heading;
            this.seen = seen;
            this.falling = falling;
            BeginAsking(piece, 2147483647);
            while (this.asking.Count > 0) {
                int last = this.asking.Count - 1;
                if (this.askingLayer[last] == -2) {
                    LookAtTarget(last);
                } else {
                    if (this.askingLayer[last] >= 0) {
                        LookAtLayer(last);
                    } else {
                        EndAsking(last);
                    }
                }
            }
            if (this.refusedBy < 0) {
                CheckRoom();
            }
            return this.refusedBy < 0;
        }

        /// <summary>A piece joins the plan and asks.</summary>
        private void BeginAsking(int piece, int most)
        {
            this.asking.Add(this.mover.Count);
            this.askingLayer.Add(-2);
            this.askingRefused.Add(0);
            this.askingMost.Add(most);
            AddMover(piece, this.cellOf[piece], this.cellOf[piece]);
        }

        /// <summary>Adds a piece to those that the plan moves.</summary>
        private void AddMover(int piece, int origin, int goal)
        {
            this.mover.Add(piece);
            this.moverFrom.Add(origin);
            this.moverTo.Add(goal);
            this.moverGone.Add(0);
            this.leaving[piece] = 1;
        }

        /// <summary>Notes why a request is refused, the first reason only.</summary>
        private void Refuse(int last, int check, int rule, int piece, int met, int place)
        {
            if (this.refusedBy < 0) {
                this.refusedBy = check;
                this.refusedRule = rule;
                this.refusedPiece = piece;
                this.refusedMet = met;
                this.refusedPlace = place;
            }
            if (last >= 0) {
                this.askingRefused[last] = 1;
                this.askingLayer[last] = -1;
            }
        }

        /// <summary>Notes a rule that decides a meeting, for what it does besides.</summary>
        private void Decide(int mover, int rule, int verb, int met, int place)
        {
            this.decidedRule.Add(rule);
            this.decidedVerb.Add(verb);
            this.decidedMover.Add(mover);
            this.decidedMet.Add(met);
            this.decidedPlace.Add(place);
        }

        /// <summary>Where the piece that asks would go: the edge, void, and the corners of a diagonal step.</summary>
        private void LookAtTarget(int last)
        {
            int mover = this.asking[last];
            int piece = this.mover[mover];
            int origin = this.moverFrom[mover];
            int goal = Shifted(origin, this.stepX, this.stepY);
            if (goal < 0) {
                Refuse(last, CHECK_EDGE, 0, piece, -1, origin);
                return;
            }
            if (IsVoid(goal)) {
                Refuse(last, CHECK_VOID, 0, piece, -1, origin);
                return;
            }
            this.moverTo[mover] = goal;
            this.askingLayer[last] = LAYERS - 1;
        }

        /// <summary>A rule refuses; one that bounces turns the piece whose own request this is.</summary>
        private void RefuseAt(int last, int mover, int check, int rule, int met, int place)
        {
            Refuse(last, check, rule, this.mover[mover], met, place);
        }

        /// <summary>The next layer of the target, from the top down.</summary>
        private void LookAtLayer(int last)
        {
            int layer = this.askingLayer[last];
            this.askingLayer[last] = layer - 1;
            int mover = this.asking[last];
            int place = this.moverTo[mover];
            int met = PieceAt(layer, place);
            if (met < 0 || this.leaving[met] != 0) {
                return;
            }
            int kind = this.kindOf[this.mover[mover]];
            int rule = Meeting(kind, this.kindOf[met], place, this.seen);
            if (rule == 0) {
                // Without a rule pieces of one layer stop each other.
                if (LAYER_OF[kind] == layer) {
                    RefuseAt(last, mover, CHECK_MEETS, 0, met, place);
                }
                return;
            }
            if (VERB_OF[rule] == SHOVE) {
                Shove(last, mover, met, place, rule);
                return;
            }
            Apply(last, mover, met, place, rule, VERB_OF[rule]);
        }

        /// <summary>What a verb does to the plan.</summary>
        private void Apply(int last, int mover, int met, int place, int rule, int verb)
        {
            if (verb == STOP) {
                RefuseAt(last, mover, CHECK_MEETS, rule, met, place);
                return;
            }
            Decide(mover, rule, verb, met, place);
        }

        /// <summary>What is met asks for the same step in the same plan.</summary>
        private void Shove(int last, int mover, int met, int place, int rule)
        {
            if (this.falling) {
                RefuseAt(last, mover, CHECK_MEETS, rule, met, place);
                return;
            }
            int most = this.askingMost[last];
            Decide(mover, rule, SHOVE, met, place);
            BeginAsking(met, most);
            this.shovedOwn += 1;
        }

        /// <summary>A piece has asked; a refusal goes to the one that shoved it, unless there is an else.</summary>
        private void EndAsking(int last)
        {
            bool refused = this.askingRefused[last] != 0;
            TakeLast(this.asking);
            TakeLast(this.askingLayer);
            TakeLast(this.askingRefused);
            TakeLast(this.askingMost);
            if (refused && last > 0) {
                this.askingRefused[last - 1] = 1;
                this.askingLayer[last - 1] = -1;
            }
        }

        /// <summary>Two pieces of the plan on one layer of a cell, or one where another stays.</summary>
        private void CheckRoom()
        {
            for (int number = 0; number < this.mover.Count; number++) {
                if (this.moverGone[number] == 0) {
                    int piece = this.mover[number];
                    int layer = LAYER_OF[this.kindOf[piece]];
                    int place = this.moverTo[number];
                    int there = PieceAt(layer, place);
                    if (there >= 0 && this.leaving[there] == 0) {
                        Refuse(-1, CHECK_ROOM, 0, piece, there, place);
                    }
                    for (int other = number + 1; other < this.mover.Count; other++) {
                        if (this.moverGone[other] == 0 && this.moverTo[other] == place && LAYER_OF[this.kindOf[this.mover[other]]] == layer) {
                            Refuse(-1, CHECK_ROOM, 0, piece, this.mover[other], place);
                        }
                    }
                }
            }
        }

        /// <summary>A piece asks for a step, and what slides by it asks on before anybody else. Whether the step was granted.</summary>
        private bool Ask(int piece, int columns, int rows, int heading, int seen)
        {
            return AskOnce(piece, columns, rows, heading, seen);
        }

        /// <summary>One request: planned, carried out or refused, with its effects.</summary>
        private bool AskOnce(int piece, int columns, int rows, int heading, int seen)
        {
            if (this.cellOf[piece] < 0) {
                return false;
            }
            bool granted = Plan(piece, columns, rows, heading, seen, false);
            this.lastCheck = this.refusedBy;
            this.lastLine = LINE_OF[this.refusedRule];
            if (granted) {
                this.granted = true;
                Commit(piece);
            } else {
                Refused(piece);
            }
            return granted;
        }

        /// <summary>A step along a heading.</summary>
        private bool AskAlong(int piece, int heading)
        {
            return Ask(piece, STEP_X[heading], STEP_Y[heading], heading, heading);
        }

        /// <summary>Carries the plan out, then does the effects.</summary>
        private void Commit(int piece)
        {
            int heading = this.heading;
            int seen = this.seen;
            for (int number = 0; number < this.taken.Count; number++) {
                Remove(this.taken[number]);
            }
            for (int number = 0; number < this.mover.Count; number++) {
                if (this.moverGone[number] != 0) {
                    Remove(this.mover[number]);
                } else {
                    Lift(this.mover[number]);
                }
            }
            for (int number = 0; number < this.mover.Count; number++) {
                if (this.moverGone[number] == 0) {
                    Put(this.mover[number], this.moverTo[number]);
                }
            }
            if (heading >= 0 && !this.falling && this.cellOf[piece] >= 0) {
                this.headingOf[piece] = heading;
            }
            var rules = new List<int>();
            var askers = new List<int>();
            var met = new List<int>();
            var places = new List<int>();
            InOrder(rules, askers, met, places);
            for (int number = 0; number < rules.Count; number++) {
                if (this.stopped != 0) {
                    return;
                }
                DoMeeting(rules[number], askers[number], met[number], places[number], seen);
            }
        }

        /// <summary>The meetings that were decided and do more, those of the piece that asked first.</summary>
        private void InOrder(List<int> rules, List<int> askers, List<int> met, List<int> places)
        {
            for (int mover = 0; mover < this.mover.Count; mover++) {
                for (int number = 0; number < this.decidedRule.Count; number++) {
                    if (this.decidedMover[number] == mover && HAS_EFFECTS[this.decidedRule[number]] != 0) {
                        rules.Add(this.decidedRule[number]);
                        askers.Add(this.mover[mover]);
                        met.Add(this.decidedMet[number]);
                        places.Add(this.decidedPlace[number]);
                    }
                }
            }
        }

        /// <summary>What a refusal does: a bounce turns, and the effects of the rule that refused happen.</summary>
        private void Refused(int piece)
        {
            if (HAS_EFFECTS[this.refusedRule] != 0) {
                int place = this.refusedPlace;
                if (this.refusedBy != CHECK_MEETS) {
                    place = this.cellOf[this.refusedPiece];
                }
                DoMeeting(this.refusedRule, this.refusedPiece, this.refusedMet, place, this.seen);
            }
        }

        /// <summary>The piece on a layer of a cell, -1 where there is none.</summary>
        private int PieceAt(int layer, int place)
        {
            return this.at[layer * this.cells + place];
        }

        /// <summary>The cell so many columns and rows away, -1 off the board.</summary>
        private int Shifted(int place, int columns, int rows)
        {
            int column = place % this.columns + columns;
            int row = place / this.columns + rows;
            if (column < 0 || column >= this.columns || row < 0 || row >= this.rows) {
                return -1;
            }
            return row * this.columns + column;
        }

        /// <summary>Whether the map has no cell here.</summary>
        private bool IsVoid(int place)
        {
            return this.at[place] == -2;
        }

        /// <summary>Takes a piece out of its cell.</summary>
        private void Lift(int piece)
        {
            int kind = this.kindOf[piece];
            this.at[LAYER_OF[kind] * this.cells + this.cellOf[piece]] = -1;
            this.cellOf[piece] = -1;
            this.countOf[kind] -= 1;
        }

        /// <summary>Puts a piece that stands nowhere into a cell.</summary>
        private void Put(int piece, int place)
        {
            int kind = this.kindOf[piece];
            this.at[LAYER_OF[kind] * this.cells + place] = piece;
            this.cellOf[piece] = place;
            this.countOf[kind] += 1;
        }

        /// <summary>Takes a piece off the board.</summary>
        private void Remove(int piece)
        {
            if (this.cellOf[piece] >= 0) {
                Lift(piece);
            }
        }

        /// <summary>The number of a piece that is not on the board.</summary>
        private int Unused()
        {
            int piece = this.newest;
            bool taken = true;
            while (taken) {
                piece = (piece + 1) % (2 * LAYERS * this.cells);
                taken = this.cellOf[piece] >= 0;
            }
            this.newest = piece;
            return piece;
        }

        /// <summary>Puts a new piece into a cell; -1 where its layer is taken or the map has no cell.</summary>
        private int Add(int place, int kind)
        {
            if (PieceAt(LAYER_OF[kind], place) >= 0 || IsVoid(place)) {
                return -1;
            }
            int piece = Unused();
            this.kindOf[piece] = kind;
            this.headingOf[piece] = FACING[kind];
            Put(piece, place);
            return piece;
        }

        /// <summary>The topmost piece of a cell, the ground aside; -1 where there is none.</summary>
        private int TopPiece(int place)
        {
            for (int below = 0; below < LAYERS; below++) {
                int piece = PieceAt(LAYERS - 1 - below, place);
                if (piece >= 0 && this.kindOf[piece] != GROUND) {
                    return piece;
                }
            }
            return -1;
        }

        /// <summary>The kind that stands topmost in a cell, the ground only where nothing else does; -1 for nothing.</summary>
        private int TopKind(int place)
        {
            int piece = TopPiece(place);
            if (piece >= 0) {
                return this.kindOf[piece];
            }
            if (PieceAt(LAYER_OF[GROUND], place) >= 0) {
                return GROUND;
            }
            return -1;
        }

        /// <summary>A counter within its bounds.</summary>
        private long Bounded(long value)
        {
            if (value > 1000000000000000) {
                return 1000000000000000;
            }
            if (value < -1000000000000000) {
                return -1000000000000000;
            }
            return value;
        }

        /// <summary>Puts pieces in order, the foremost along a heading first.</summary>
        private void ForemostFirst(List<int> pieces, int heading, List<int> ordered)
        {
            ordered.Clear();
            if (pieces.Count == 1) {
                ordered.Add(pieces[0]);
                return;
            }
            int far = this.columns + this.rows;
            for (int back = 0; back < 2 * far + 1; back++) {
                for (int number = 0; number < pieces.Count; number++) {
                    int place = this.cellOf[pieces[number]];
                    if (place >= 0 && place % this.columns * STEP_X[heading] + place / this.columns * STEP_Y[heading] == far - back) {
                        ordered.Add(pieces[number]);
                    }
                }
            }
        }

        /// <summary>The pieces in reading order, the lowest layer of a cell first, the ground left out.</summary>
        private void ListPieces(List<int> found)
        {
            for (int place = 0; place < this.cells; place++) {
                for (int layer = 0; layer < LAYERS; layer++) {
                    int piece = PieceAt(layer, place);
                    if (piece >= 0 && this.kindOf[piece] != GROUND) {
                        found.Add(piece);
                    }
                }
            }
        }
    }
}
