# This was emitted by rapid-magpie, and is replaced where that is done again.
# The same results as `rapid-magpie convert`, to the last bit.
# The grid of "Shelf", rulebook "shelf.magpie".
import enum
import math
from typing import NamedTuple, Optional


class Cell(NamedTuple):
    column: int
    row: int


class Point(NamedTuple):
    x: float
    y: float


class Rect(NamedTuple):
    x: float
    y: float
    w: float
    h: float


class Where(enum.Enum):
    BAR = "bar"
    OUTSIDE = "outside"
    GAP = "gap"
    VOID = "void"
    CELL = "cell"


class Kind(enum.Enum):
    PLANK = "plank"
    PORTER = "porter"
    CRATE = "crate"


CELL_WIDTH = 24.0  # Width of a cell in px.
CELL_HEIGHT = 20.0  # Height of a cell in px.
PITCH_X = 26.0  # From one column to the next, in px.
PITCH_Y = 22.0  # From one row to the next, in px.
HOTSPOT_X = 0.0  # Added to the positions of pieces, in px.
HOTSPOT_Y = 5.0  # The same along y, in px.
FIRST_INDEX = 1  # Index of the first cell.
SCALE_X = 2.0  # Window px in a design px, along x.
SCALE_Y = 2.0  # Window px in a design px, along y.
BAR_X = 0.0  # Width of the bar left of the picture, in window px.
BAR_Y = 0.0  # Height of the bar above the picture, in window px.
DESIGN_WIDTH = 240.0  # Width of the picture in design px.
DESIGN_HEIGHT = 120.0  # Height of the picture in design px.
CAMERA_X = 0.0  # World x of the picture's upper left corner.
CAMERA_Y = 0.0  # World y of the picture's upper left corner.


class Grid:
    """The grid of a map."""

    def __init__(self, columns: int, rows: int, origin_x: float, origin_y: float, void: list) -> None:
        self.columns = columns
        self.rows = rows
        self._origin_x = origin_x
        self._origin_y = origin_y
        self._void = void

    @staticmethod
    def of_map(number: int) -> "Grid":
        """The grid of a map, counted from 1."""
        return _MAPS[number - 1]

    def world_to_cell(self, x: float, y: float) -> Cell:
        """The cell of a world position, on the board or off it."""
        column = math.floor((x + HOTSPOT_X - self._origin_x) / PITCH_X)
        row = math.floor((y + HOTSPOT_Y - self._origin_y) / PITCH_Y)
        return Cell(column, row)

    def world_where(self, x: float, y: float) -> Where:
        """What lies at a world position."""
        cell = self.world_to_cell(x, y)
        if not self.inside(cell):
            return Where.OUTSIDE
        across = x + HOTSPOT_X - self._origin_x
        if across - float(math.floor(across / PITCH_X)) * PITCH_X >= CELL_WIDTH:
            return Where.GAP
        down = y + HOTSPOT_Y - self._origin_y
        if down - float(math.floor(down / PITCH_Y)) * PITCH_Y >= CELL_HEIGHT:
            return Where.GAP
        if self._void[cell.row][cell.column] == " ":
            return Where.VOID
        return Where.CELL

    def snap(self, x: float, y: float) -> Cell:
        """The cell of the board that is nearest to a world position."""
        cell = self.world_to_cell(x, y)
        return Cell(min(max(cell.column, 0), self.columns - 1), min(max(cell.row, 0), self.rows - 1))

    def cell_to_corner(self, cell: Cell) -> Point:
        """The corner of a cell where counting starts, in world px."""
        return Point(self._origin_x + cell.column * PITCH_X, self._origin_y + cell.row * PITCH_Y)

    def cell_to_centre(self, cell: Cell) -> Point:
        """The middle of a cell in world px."""
        return Point(self._origin_x + (cell.column * PITCH_X + CELL_WIDTH / 2.0), self._origin_y + (cell.row * PITCH_Y + CELL_HEIGHT / 2.0))

    def cell_to_box(self, cell: Cell) -> Rect:
        """The rectangle of a cell, from its smallest x and y."""
        corner = self.cell_to_corner(cell)
        return Rect(corner.x, corner.y, CELL_WIDTH, CELL_HEIGHT)

    def inside(self, cell: Cell) -> bool:
        """Whether a cell lies on the board."""
        return cell.column >= 0 and cell.column < self.columns and cell.row >= 0 and cell.row < self.rows

    def cell_to_index(self, cell: Cell) -> Optional[int]:
        """The place of a cell in the flat array, nothing off the board."""
        if not self.inside(cell):
            return None
        return cell.row * self.columns + cell.column + FIRST_INDEX

    def index_to_cell(self, index: int) -> Optional[Cell]:
        """The cell at a place in the flat array, nothing where there is none."""
        place = index - FIRST_INDEX
        if place < 0 or place >= self.columns * self.rows:
            return None
        return Cell(place % self.columns, place // self.columns)

    def world_to_cell_of(self, kind: Kind, x: float, y: float) -> Cell:
        """The cell of the world position of a piece of this kind, whose hotspot counts."""
        if kind == Kind.CRATE:
            column = math.floor((x + 3.0 - self._origin_x) / PITCH_X)
            row = math.floor((y + 0.0 - self._origin_y) / PITCH_Y)
            return Cell(column, row)
        return self.world_to_cell(x, y)

    def window_to_world(self, x: float, y: float) -> Point:
        """The world position of a window position."""
        across = x / SCALE_X
        down = y / SCALE_Y
        return Point(CAMERA_X + across, CAMERA_Y + down)

    def world_to_window(self, x: float, y: float) -> Point:
        """The window position of a world position."""
        return Point(x * SCALE_X + BAR_X, y * SCALE_Y + BAR_Y)

    def cell_at(self, x: float, y: float) -> Cell:
        """The cell of a world position without any hotspot."""
        column = math.floor((x - self._origin_x) / PITCH_X)
        row = math.floor((y - self._origin_y) / PITCH_Y)
        return Cell(column, row)

    def where_at(self, x: float, y: float) -> Where:
        """What lies at a world position without any hotspot."""
        cell = self.cell_at(x, y)
        if not self.inside(cell):
            return Where.OUTSIDE
        across = x - self._origin_x
        if across - float(math.floor(across / PITCH_X)) * PITCH_X >= CELL_WIDTH:
            return Where.GAP
        down = y - self._origin_y
        if down - float(math.floor(down / PITCH_Y)) * PITCH_Y >= CELL_HEIGHT:
            return Where.GAP
        if self._void[cell.row][cell.column] == " ":
            return Where.VOID
        return Where.CELL

    def window_to_cell(self, x: float, y: float) -> Cell:
        """The cell of a window position, on the board or off it."""
        world = self.window_to_world(x, y)
        return self.cell_at(world.x, world.y)

    def window_where(self, x: float, y: float) -> Where:
        """What lies at a window position."""
        across = x / SCALE_X
        down = y / SCALE_Y
        if not (across >= 0.0 and across < DESIGN_WIDTH and down >= 0.0 and down < DESIGN_HEIGHT):
            return Where.BAR
        world = self.window_to_world(x, y)
        return self.where_at(world.x, world.y)

    def cell_to_window(self, cell: Cell) -> Point:
        """The window position of the middle of a cell."""
        centre = self.cell_to_centre(cell)
        return self.world_to_window(centre.x, centre.y)


_MAPS = [
    # "Left"
    Grid(3, 2, 8.0, 6.0, ["...", ".. "]),
    # "Right"
    Grid(4, 1, 8.0, 6.0, ["...."]),
]
