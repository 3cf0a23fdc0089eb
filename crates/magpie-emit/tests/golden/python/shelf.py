# This was emitted by rapid-magpie, and is replaced where that is done again.
# Positions come out as with `rapid-magpie convert`, to the last bit.
# The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.
import enum
import math
from typing import List, NamedTuple, Optional


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


class Heading(enum.Enum):
    WEST = "west"
    EAST = "east"
    NORTH = "north"
    SOUTH = "south"
    NORTH_WEST = "north-west"
    NORTH_EAST = "north-east"
    SOUTH_WEST = "south-west"
    SOUTH_EAST = "south-east"


class Check(enum.Enum):
    EDGE = "edge"
    VOID = "void"
    MEETS = "meets"
    CORNER = "corner"
    LIMIT = "limit"
    ROOM = "room"


class Outcome(enum.Enum):
    WON = "won"
    LOST = "lost"
    NEVER_SETTLES = "never settles"


class Piece(NamedTuple):
    id: int
    kind: Kind
    cell: Cell
    heading: Optional[Heading]


class Move(NamedTuple):
    id: int
    from_: Cell
    to: Cell


class Answer(NamedTuple):
    granted: bool
    check: Optional[Check]
    line: int
    moved: List[Move]


KIND_PORTER = 1
KIND_CRATE = 2
WEST = 0
EAST = 1
NORTH = 2
SOUTH = 3
STOP = 0
SHOVE = 2
CHECK_EDGE = 0
CHECK_VOID = 1
CHECK_MEETS = 2
CHECK_ROOM = 5
BY_NEXT = 2
KEY_RESTART = 0
KEY_NEXT = 1
KEY_TAP = 2
KEY_DRAG = 3
KEY_OTHER = 4
KEY_DOWN = 5
KEY_LEFT = 6
KEY_RIGHT = 7
KEY_UP = 8
LAYERS = 3
KINDS = 3
MAP_COUNT = 2
GROUND = 0
LAYER_OF = [0, 2, 2]
FACING = [-1, -1, -1]
STEP_X = [-1, 1, 0, 0, -1, 1, -1, 1]
STEP_Y = [0, 0, -1, 1, -1, -1, 1, 1]
MAP_COLUMNS = [3, 4]
MAP_ROWS = [2, 1]
GLYPH_OF = [".", "P", "C"]
VERB_OF = [0, 2]
HAS_EFFECTS = [0, 1]
LINE_OF = [0, 23]
PROMISES: List[str] = ["always shoved < 100"]
FROM_TOP = True
DRAWINGS: List[List[str]] = [
    [
        "P.C",
        ".. ",
    ],
    [
        "P...",
    ],
]


def _letter_at(text: str, place: int) -> int:
    return ord(text[place]) if place < len(text) else 0


class Game:
    """A game: a copy of it is a game of its own, and going on with one takes back what was played since."""

    def __init__(self, *, own: Optional[List[str]] = None) -> None:
        self._tapped: int = 0
        self._dropped: int = 0
        self._reading: int = 0
        self._entry_turns: int = 0
        self._entry_moves: int = 0
        self._moved_piece: List[int] = []
        self._moved_from: List[int] = []
        self._was_at: List[int] = []
        self.shoved: int = 0
        self._entry_shoved: int = 0
        self._stopped: int = 0
        self._granted: bool = False
        self._mover: List[int] = []
        self._mover_from: List[int] = []
        self._mover_to: List[int] = []
        self._mover_gone: List[int] = []
        self._taken: List[int] = []
        self._leaving: List[int] = []
        self._asking: List[int] = []
        self._asking_layer: List[int] = []
        self._asking_refused: List[int] = []
        self._decided_rule: List[int] = []
        self._decided_verb: List[int] = []
        self._decided_mover: List[int] = []
        self._decided_met: List[int] = []
        self._decided_place: List[int] = []
        self._asking_most: List[int] = []
        self._shoved_own: int = 0
        self._step_x: int = 0
        self._step_y: int = 0
        self._heading: int = 0
        self._seen: int = 0
        self._falling: bool = False
        self._detour: bool = False
        self._refused_by: int = 0
        self._refused_rule: int = 0
        self._refused_piece: int = 0
        self._refused_met: int = 0
        self._refused_place: int = 0
        self._bounces: bool = False
        self._last_check: int = 0
        self._last_line: int = 0
        self.map: int = 0
        self.turns: int = 0
        self.moves: int = 0
        self.outcome: Optional[Outcome] = None
        self.signals: List[str] = []
        self._columns: int = 0
        self._rows: int = 0
        self._cells: int = 0
        self._at: List[int] = []
        self._kind_of: List[int] = []
        self._cell_of: List[int] = []
        self._heading_of: List[int] = []
        self._count_of: List[int] = []
        self._newest: int = 0
        self._own = own or []
        self._newest = -1
        self.map = 2 if own else 1
        self._begin_game()

    @staticmethod
    def on_board_of(lines: List[str]) -> "Game":
        """A game on a board of its own in place of the maps, drawn with their letters."""
        return Game(own=lines)

    def copy(self) -> "Game":
        """A game of its own that stands as this one does."""
        other = Game.__new__(Game)
        other.__dict__.update({name: list(value) if isinstance(value, list) else value for name, value in self.__dict__.items()})
        return other

    def request(self, id: int, heading: Heading) -> Answer:
        """The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy."""
        granted = self._ask_for(id, list(Heading).index(heading))
        check = None if self._last_check < 0 else list(Check)[self._last_check]
        moved = [
            Move(piece, self._cell(place), self._cell(self._cell_of[piece]))
            for piece, place in zip(self._moved_piece, self._moved_from)
        ]
        return Answer(granted, check, self._last_line, moved)

    def board(self) -> List[str]:
        """The board as lines of text, the top one first."""
        numbers = range(self._rows) if FROM_TOP else range(self._rows - 1, -1, -1)
        return [
            "".join(self._letter_of(row * self._columns + column) for column in range(self._columns)) for row in numbers
        ]

    def pieces(self) -> List[Piece]:
        """The pieces in reading order, the lowest layer of a cell first, the ground left out."""
        found: List[int] = []
        self._list_pieces(found)
        headings = list(Heading)
        kinds = list(Kind)
        return [
            Piece(
                piece,
                kinds[self._kind_of[piece]],
                self._cell(self._cell_of[piece]),
                None if self._heading_of[piece] < 0 else headings[self._heading_of[piece]],
            )
            for piece in found
        ]

    def _cell(self, place: int) -> Cell:
        return Cell(place % self._columns, place // self._columns)

    def _drawing(self, line: int) -> str:
        return self._own[line] if self._own else DRAWINGS[self.map - 1][line]

    def _drawing_columns(self) -> int:
        return len(self._own[0]) if self._own else MAP_COLUMNS[self.map - 1]

    def _drawing_rows(self) -> int:
        return len(self._own) if self._own else MAP_ROWS[self.map - 1]

    def broken(self) -> Optional[str]:
        """The first promise that does not hold now, as the rulebook writes it."""
        number = self._broken_promise()
        return None if number < 0 else PROMISES[number]

    def input(self, word: str) -> bool:
        """Does what an input asks for; false for a word that is none, and where nothing happens."""
        key = self._key_of(word)
        if key == KEY_RESTART:
            self.signals = []
            self._stopped = 0
            self._restart()
            self._show_chosen()
            return True
        if key == KEY_NEXT:
            if self.outcome != Outcome.WON or self.map >= MAP_COUNT:
                return False
            self.signals = []
            self._stopped = 0
            self._next_map()
            self._show_chosen()
            return True
        if key < 0 or self.outcome == Outcome.WON or self.outcome == Outcome.LOST:
            return False
        self.signals = []
        self._turn(key)
        self._show_chosen()
        return True

    def _show_chosen(self) -> None:
        """The cell that everybody may see as chosen."""
        pass

    def _read_cell(self, word: str, place: int) -> int:
        """Reads a cell of a word from a place on, and stops behind it, at -1 where there is none. A place off the board is -1."""
        self._reading = place
        column = self._read_number(word)
        if self._reading < 0 or _letter_at(word, self._reading) != ord(","):
            self._reading = -1
            return -1
        self._reading += 1
        row = self._read_number(word)
        if self._reading < 0 or column < 0 or column >= self._columns or row < 0 or row >= self._rows:
            return -1
        return (row * self._columns + column)

    def _read_number(self, word: str) -> int:
        """Reads a whole number of a word, and stops behind it, at -1 where there is none."""
        place = self._reading
        sign = 1
        if place < 0:
            return 0
        if _letter_at(word, place) == ord("-"):
            sign = -1
            place += 1
        first = place
        value = 0
        while _letter_at(word, place) >= ord("0") and _letter_at(word, place) <= ord("9") and place - first < 16:
            value = value * 10 + (_letter_at(word, place) - ord("0"))
            place += 1
        self._reading = place
        if place == first or place - first > 15:
            self._reading = -1
        return sign * value

    def _turn(self, key: int) -> None:
        """A turn: rules act, then the board settles, then the end is looked at."""
        if self.outcome == Outcome.NEVER_SETTLES:
            self.outcome = None
        self._stopped = 0
        self._granted = False
        self.turns += 1
        self._act(key)
        if self._stopped == 0 and self._granted:
            self.moves += 1
        if self._stopped == 0:
            self._look_at_end()
        self._tapped = -1
        self._dropped = -1
        ending = self._stopped
        if ending == BY_NEXT:
            if self.map < MAP_COUNT:
                self._next_map()
            else:
                self.outcome = Outcome.WON
        self._stopped = 0

    def _next_map(self) -> None:
        """Enters the map that follows."""
        self.map += 1
        self._note_entry()
        self._enter()

    def _enter(self) -> None:
        """Enters maps, as long as their beginning leads on."""
        self._begin_map()
        while self._stopped == BY_NEXT and self.map < MAP_COUNT:
            self.map += 1
            self._note_entry()
            self._begin_map()

    def _begin_map(self) -> None:
        """Lays the map out and lets it begin."""
        self._stopped = 0
        self.outcome = None
        self._tapped = -1
        self._dropped = -1
        self._lay_out()

    def _make_board(self, columns: int, rows: int) -> None:
        """An empty board of the size of the map."""
        self._columns = columns
        self._rows = rows
        self._cells = columns * rows
        self._clear_plan()
        self._at = [-1] * (LAYERS * self._cells)
        self._kind_of = [0] * (2 * LAYERS * self._cells)
        self._cell_of = [-1] * (2 * LAYERS * self._cells)
        self._heading_of = [-1] * (2 * LAYERS * self._cells)
        self._leaving = [0] * (2 * LAYERS * self._cells)
        self._count_of = [0] * (KINDS)
        self._newest = -1

    def _draw_map(self) -> None:
        """The pieces of a drawing."""
        self._make_board(self._drawing_columns(), self._drawing_rows())
        for line in range(self._rows):
            for column in range(self._columns):
                place = line * self._columns + column
                self._lay(place, _letter_at(self._drawing(line), column))

    def _ask_for(self, piece: int, heading: int) -> bool:
        """The request of a piece with effects and slides and no turn round it; what it moved and who refused it stands in fields."""
        self.signals = []
        self._moved_piece.clear()
        self._moved_from.clear()
        self._last_check = -1
        self._last_line = 0
        if piece < 0 or piece >= 2 * LAYERS * self._cells:
            return False
        self._stopped = 0
        self._was_at.clear()
        for number in range(2 * LAYERS * self._cells):
            self._was_at.append(self._cell_of[number])
        granted = self._ask_along(piece, heading)
        for number in range(2 * LAYERS * self._cells):
            if self._was_at[number] >= 0 and self._cell_of[number] >= 0 and self._was_at[number] != self._cell_of[number]:
                self._moved_piece.append(number)
                self._moved_from.append(self._was_at[number])
        self._was_at.clear()
        self._stopped = 0
        self._show_chosen()
        return granted

    def _each_porter(self, found: List[int]) -> None:
        """All porter, in reading order."""
        left = self._count_of[KIND_PORTER]
        place = 0
        while place < self._cells and len(found) < left:
            piece_1 = self._piece_at(2, place)
            if piece_1 >= 0:
                kind_2 = self._kind_of[piece_1]
                if kind_2 == KIND_PORTER:
                    found.append(piece_1)
            place += 1

    def _on_left(self) -> None:
        """What happens on the key left."""
        # 16: control porter with arrows
        found_1: List[int] = []
        self._each_porter(found_1)
        self._step(found_1, WEST, 1)
        if self._stopped != 0:
            return

    def _on_right(self) -> None:
        """What happens on the key right."""
        # 16: control porter with arrows
        found_1: List[int] = []
        self._each_porter(found_1)
        self._step(found_1, EAST, 1)
        if self._stopped != 0:
            return

    def _on_up(self) -> None:
        """What happens on the key up."""
        # 16: control porter with arrows
        found_1: List[int] = []
        self._each_porter(found_1)
        self._step(found_1, NORTH, 1)
        if self._stopped != 0:
            return

    def _on_down(self) -> None:
        """What happens on the key down."""
        # 16: control porter with arrows
        found_1: List[int] = []
        self._each_porter(found_1)
        self._step(found_1, SOUTH, 1)
        if self._stopped != 0:
            return

    def _act(self, key: int) -> None:
        """What a key or a touch does."""
        if key == KEY_LEFT:
            self._on_left()
        if key == KEY_RIGHT:
            self._on_right()
        if key == KEY_UP:
            self._on_up()
        if key == KEY_DOWN:
            self._on_down()

    def _key_of(self, word: str) -> int:
        """What a word means, -1 for one that means nothing."""
        self._tapped = -1
        self._dropped = -1
        if word == "restart":
            return KEY_RESTART
        if word == "next":
            return KEY_NEXT
        if word == "left":
            return KEY_LEFT
        if word == "right":
            return KEY_RIGHT
        if word == "up":
            return KEY_UP
        if word == "down":
            return KEY_DOWN
        if word == "act":
            return KEY_OTHER
        if word == "alt":
            return KEY_OTHER
        if word.startswith("key:"):
            letter = _letter_at(word, 4)
            if ((letter >= ord("a") and letter <= ord("z")) or (letter >= ord("0") and letter <= ord("9"))) and _letter_at(word, 5) == 0:
                return KEY_OTHER
        if word.startswith("tap:"):
            self._tapped = self._read_cell(word, 4)
            self._dropped = self._tapped
            if self._reading > 0 and _letter_at(word, self._reading) == 0:
                return KEY_TAP
        if word.startswith("drag:"):
            self._tapped = self._read_cell(word, 5)
            if self._reading > 0 and _letter_at(word, self._reading) == ord(">"):
                self._dropped = self._read_cell(word, self._reading + 1)
                if self._reading > 0 and _letter_at(word, self._reading) == 0:
                    return KEY_DRAG
        return -1

    def _end_25(self) -> None:
        """What the end of line 25 does."""
        # 25: win when shoved > 1: next map
        self._stopped = BY_NEXT
        return

    def _look_at_end(self) -> None:
        """Whether the game is won or lost."""
        # 25: win when shoved > 1: next map
        if self.shoved > 1:
            self.outcome = Outcome.WON
            self._end_25()
            return

    def _broken_promise(self) -> int:
        """The first promise that does not hold, by its number, -1 where all do."""
        # 24: always shoved < 100
        if not (self.shoved < 100):
            return 0
        return -1

    def _into_23(self, asker: int, met: int, place: int, seen: int) -> None:
        """What the meeting of line 23 does besides."""
        # 23: porter into crate: shove, add 1 to shoved
        self.shoved = self._bounded(self.shoved + 1)

    def _meeting(self, asker: int, met: int, place: int, seen: int) -> int:
        """The rule that decides when a kind meets another, 0 for none."""
        # 23: porter into crate: shove, add 1 to shoved
        if asker == KIND_PORTER and met == KIND_CRATE:
            return 1
        return 0

    def _do_meeting(self, rule: int, asker: int, met: int, place: int, seen: int) -> None:
        """What a meeting does besides."""
        if rule == 1:
            self._into_23(asker, met, place, seen)

    def _lay(self, place: int, letter: int) -> None:
        """Puts into a cell what a letter of a drawing stands for."""
        if letter == ord(" "):
            self._at[place] = -2
            return
        # P  porter
        if letter == ord("P"):
            self._add(place, KIND_PORTER)
        # C  crate
        if letter == ord("C"):
            self._add(place, KIND_CRATE)
        self._add(place, GROUND)

    def _lay_out(self) -> None:
        """The board of the map at its beginning."""
        self._draw_map()

    def _begin_game(self) -> None:
        """Begins a game on its map."""
        self.turns = 0
        self.moves = 0
        self.shoved = 0
        self._note_entry()
        self._enter()
        self._show_chosen()

    def _note_entry(self) -> None:
        """Notes the state in which a map is entered."""
        self._entry_turns = self.turns
        self._entry_moves = self.moves
        self._entry_shoved = self.shoved

    def _restart(self) -> None:
        """The map begins again."""
        self.turns = self._entry_turns
        self.moves = self._entry_moves
        self.shoved = self._entry_shoved
        self._note_entry()
        self._enter()

    def _letter_of(self, place: int) -> str:
        """The letter that a cell is drawn with."""
        if self._is_void(place):
            return " "
        kind = self._top_kind(place)
        if kind < 0:
            return "_"
        return GLYPH_OF[kind]

    def _step(self, pieces: List[int], heading: int, times: int) -> bool:
        """A request for every piece, the foremost first; each may ask so many times in a row. Whether one was granted."""
        ordered: List[int] = []
        self._foremost_first(pieces, heading, ordered)
        granted = False
        for number in range(len(ordered)):
            left = times
            while left > 0 and self._stopped == 0:
                left -= 1
                if self._ask_along(ordered[number], heading):
                    granted = True
                else:
                    left = 0
        return granted

    def _clear_plan(self) -> None:
        """Forgets the plan of the request before."""
        for number in range(len(self._mover)):
            self._leaving[self._mover[number]] = 0
        for number in range(len(self._taken)):
            self._leaving[self._taken[number]] = 0
        self._mover.clear()
        self._mover_from.clear()
        self._mover_to.clear()
        self._mover_gone.clear()
        self._taken.clear()
        self._asking.clear()
        self._asking_layer.clear()
        self._asking_refused.clear()
        self._decided_rule.clear()
        self._decided_verb.clear()
        self._decided_mover.clear()
        self._decided_met.clear()
        self._decided_place.clear()
        self._asking_most.clear()
        self._shoved_own = 0
        self._detour = False
        self._refused_by = -1
        self._refused_rule = 0
        self._bounces = False

    def _plan(self, piece: int, columns: int, rows: int, heading: int, seen: int, falling: bool) -> bool:
        """Works out what a request would do; nothing on the board changes. Whether it is granted."""
        self._clear_plan()
        self._step_x = columns
        self._step_y = rows
        self._heading = heading
        self._seen = seen
        self._falling = falling
        self._begin_asking(piece, 2147483647)
        while len(self._asking) > 0:
            last = len(self._asking) - 1
            if self._asking_layer[last] == -2:
                self._look_at_target(last)
            else:
                if self._asking_layer[last] >= 0:
                    self._look_at_layer(last)
                else:
                    self._end_asking(last)
        if self._refused_by < 0:
            self._check_room()
        return self._refused_by < 0

    def _begin_asking(self, piece: int, most: int) -> None:
        """A piece joins the plan and asks."""
        self._asking.append(len(self._mover))
        self._asking_layer.append(-2)
        self._asking_refused.append(0)
        self._asking_most.append(most)
        self._add_mover(piece, self._cell_of[piece], self._cell_of[piece])

    def _add_mover(self, piece: int, origin: int, goal: int) -> None:
        """Adds a piece to those that the plan moves."""
        self._mover.append(piece)
        self._mover_from.append(origin)
        self._mover_to.append(goal)
        self._mover_gone.append(0)
        self._leaving[piece] = 1

    def _refuse(self, last: int, check: int, rule: int, piece: int, met: int, place: int) -> None:
        """Notes why a request is refused, the first reason only."""
        if self._refused_by < 0:
            self._refused_by = check
            self._refused_rule = rule
            self._refused_piece = piece
            self._refused_met = met
            self._refused_place = place
        if last >= 0:
            self._asking_refused[last] = 1
            self._asking_layer[last] = -1

    def _decide(self, mover: int, rule: int, verb: int, met: int, place: int) -> None:
        """Notes a rule that decides a meeting, for what it does besides."""
        self._decided_rule.append(rule)
        self._decided_verb.append(verb)
        self._decided_mover.append(mover)
        self._decided_met.append(met)
        self._decided_place.append(place)

    def _look_at_target(self, last: int) -> None:
        """Where the piece that asks would go: the edge, void, and the corners of a diagonal step."""
        mover = self._asking[last]
        piece = self._mover[mover]
        origin = self._mover_from[mover]
        goal = self._shifted(origin, self._step_x, self._step_y)
        if goal < 0:
            self._refuse(last, CHECK_EDGE, 0, piece, -1, origin)
            return
        if self._is_void(goal):
            self._refuse(last, CHECK_VOID, 0, piece, -1, origin)
            return
        self._mover_to[mover] = goal
        self._asking_layer[last] = LAYERS - 1

    def _refuse_at(self, last: int, mover: int, check: int, rule: int, met: int, place: int) -> None:
        """A rule refuses; one that bounces turns the piece whose own request this is."""
        self._refuse(last, check, rule, self._mover[mover], met, place)

    def _look_at_layer(self, last: int) -> None:
        """The next layer of the target, from the top down."""
        layer = self._asking_layer[last]
        self._asking_layer[last] = layer - 1
        mover = self._asking[last]
        place = self._mover_to[mover]
        met = self._piece_at(layer, place)
        if met < 0 or self._leaving[met] != 0:
            return
        kind = self._kind_of[self._mover[mover]]
        rule = self._meeting(kind, self._kind_of[met], place, self._seen)
        if rule == 0:
            # Without a rule pieces of one layer stop each other.
            if LAYER_OF[kind] == layer:
                self._refuse_at(last, mover, CHECK_MEETS, 0, met, place)
            return
        if VERB_OF[rule] == SHOVE:
            self._shove(last, mover, met, place, rule)
            return
        self._apply(last, mover, met, place, rule, VERB_OF[rule])

    def _apply(self, last: int, mover: int, met: int, place: int, rule: int, verb: int) -> None:
        """What a verb does to the plan."""
        if verb == STOP:
            self._refuse_at(last, mover, CHECK_MEETS, rule, met, place)
            return
        self._decide(mover, rule, verb, met, place)

    def _shove(self, last: int, mover: int, met: int, place: int, rule: int) -> None:
        """What is met asks for the same step in the same plan."""
        if self._falling:
            self._refuse_at(last, mover, CHECK_MEETS, rule, met, place)
            return
        most = self._asking_most[last]
        self._decide(mover, rule, SHOVE, met, place)
        self._begin_asking(met, most)
        self._shoved_own += 1

    def _end_asking(self, last: int) -> None:
        """A piece has asked; a refusal goes to the one that shoved it, unless there is an else."""
        refused = self._asking_refused[last] != 0
        self._asking.pop()
        self._asking_layer.pop()
        self._asking_refused.pop()
        self._asking_most.pop()
        if refused and last > 0:
            self._asking_refused[last - 1] = 1
            self._asking_layer[last - 1] = -1

    def _check_room(self) -> None:
        """Two pieces of the plan on one layer of a cell, or one where another stays."""
        for number in range(len(self._mover)):
            if self._mover_gone[number] == 0:
                piece = self._mover[number]
                layer = LAYER_OF[self._kind_of[piece]]
                place = self._mover_to[number]
                there = self._piece_at(layer, place)
                if there >= 0 and self._leaving[there] == 0:
                    self._refuse(-1, CHECK_ROOM, 0, piece, there, place)
                for other in range(number + 1, len(self._mover)):
                    if self._mover_gone[other] == 0 and self._mover_to[other] == place and LAYER_OF[self._kind_of[self._mover[other]]] == layer:
                        self._refuse(-1, CHECK_ROOM, 0, piece, self._mover[other], place)

    def _ask(self, piece: int, columns: int, rows: int, heading: int, seen: int) -> bool:
        """A piece asks for a step, and what slides by it asks on before anybody else. Whether the step was granted."""
        return self._ask_once(piece, columns, rows, heading, seen)

    def _ask_once(self, piece: int, columns: int, rows: int, heading: int, seen: int) -> bool:
        """One request: planned, carried out or refused, with its effects."""
        if self._cell_of[piece] < 0:
            return False
        granted = self._plan(piece, columns, rows, heading, seen, False)
        self._last_check = self._refused_by
        self._last_line = LINE_OF[self._refused_rule]
        if granted:
            self._granted = True
            self._commit(piece)
        else:
            self._refused(piece)
        return granted

    def _ask_along(self, piece: int, heading: int) -> bool:
        """A step along a heading."""
        return self._ask(piece, STEP_X[heading], STEP_Y[heading], heading, heading)

    def _commit(self, piece: int) -> None:
        """Carries the plan out, then does the effects."""
        heading = self._heading
        seen = self._seen
        for number in range(len(self._taken)):
            self._remove(self._taken[number])
        for number in range(len(self._mover)):
            if self._mover_gone[number] != 0:
                self._remove(self._mover[number])
            else:
                self._lift(self._mover[number])
        for number in range(len(self._mover)):
            if self._mover_gone[number] == 0:
                self._put(self._mover[number], self._mover_to[number])
        if heading >= 0 and not self._falling and self._cell_of[piece] >= 0:
            self._heading_of[piece] = heading
        rules: List[int] = []
        askers: List[int] = []
        met: List[int] = []
        places: List[int] = []
        self._in_order(rules, askers, met, places)
        for number in range(len(rules)):
            if self._stopped != 0:
                return
            self._do_meeting(rules[number], askers[number], met[number], places[number], seen)

    def _in_order(self, rules: List[int], askers: List[int], met: List[int], places: List[int]) -> None:
        """The meetings that were decided and do more, those of the piece that asked first."""
        for mover in range(len(self._mover)):
            for number in range(len(self._decided_rule)):
                if self._decided_mover[number] == mover and HAS_EFFECTS[self._decided_rule[number]] != 0:
                    rules.append(self._decided_rule[number])
                    askers.append(self._mover[mover])
                    met.append(self._decided_met[number])
                    places.append(self._decided_place[number])

    def _refused(self, piece: int) -> None:
        """What a refusal does: a bounce turns, and the effects of the rule that refused happen."""
        if HAS_EFFECTS[self._refused_rule] != 0:
            place = self._refused_place
            if self._refused_by != CHECK_MEETS:
                place = self._cell_of[self._refused_piece]
            self._do_meeting(self._refused_rule, self._refused_piece, self._refused_met, place, self._seen)

    def _piece_at(self, layer: int, place: int) -> int:
        """The piece on a layer of a cell, -1 where there is none."""
        return self._at[layer * self._cells + place]

    def _shifted(self, place: int, columns: int, rows: int) -> int:
        """The cell so many columns and rows away, -1 off the board."""
        column = place % self._columns + columns
        row = place // self._columns + rows
        if column < 0 or column >= self._columns or row < 0 or row >= self._rows:
            return -1
        return row * self._columns + column

    def _is_void(self, place: int) -> bool:
        """Whether the map has no cell here."""
        return self._at[place] == -2

    def _lift(self, piece: int) -> None:
        """Takes a piece out of its cell."""
        kind = self._kind_of[piece]
        self._at[LAYER_OF[kind] * self._cells + self._cell_of[piece]] = -1
        self._cell_of[piece] = -1
        self._count_of[kind] -= 1

    def _put(self, piece: int, place: int) -> None:
        """Puts a piece that stands nowhere into a cell."""
        kind = self._kind_of[piece]
        self._at[LAYER_OF[kind] * self._cells + place] = piece
        self._cell_of[piece] = place
        self._count_of[kind] += 1

    def _remove(self, piece: int) -> None:
        """Takes a piece off the board."""
        if self._cell_of[piece] >= 0:
            self._lift(piece)

    def _unused(self) -> int:
        """The number of a piece that is not on the board."""
        piece = self._newest
        taken = True
        while taken:
            piece = (piece + 1) % (2 * LAYERS * self._cells)
            taken = self._cell_of[piece] >= 0
        self._newest = piece
        return piece

    def _add(self, place: int, kind: int) -> int:
        """Puts a new piece into a cell; -1 where its layer is taken or the map has no cell."""
        if self._piece_at(LAYER_OF[kind], place) >= 0 or self._is_void(place):
            return -1
        piece = self._unused()
        self._kind_of[piece] = kind
        self._heading_of[piece] = FACING[kind]
        self._put(piece, place)
        return piece

    def _top_piece(self, place: int) -> int:
        """The topmost piece of a cell, the ground aside; -1 where there is none."""
        for below in range(LAYERS):
            piece = self._piece_at(LAYERS - 1 - below, place)
            if piece >= 0 and self._kind_of[piece] != GROUND:
                return piece
        return -1

    def _top_kind(self, place: int) -> int:
        """The kind that stands topmost in a cell, the ground only where nothing else does; -1 for nothing."""
        piece = self._top_piece(place)
        if piece >= 0:
            return self._kind_of[piece]
        if self._piece_at(LAYER_OF[GROUND], place) >= 0:
            return GROUND
        return -1

    def _bounded(self, value: int) -> int:
        """A counter within its bounds."""
        if value > 1000000000000000:
            return 1000000000000000
        if value < -1000000000000000:
            return -1000000000000000
        return value

    def _foremost_first(self, pieces: List[int], heading: int, ordered: List[int]) -> None:
        """Puts pieces in order, the foremost along a heading first."""
        ordered.clear()
        if len(pieces) == 1:
            ordered.append(pieces[0])
            return
        far = self._columns + self._rows
        for back in range(2 * far + 1):
            for number in range(len(pieces)):
                place = self._cell_of[pieces[number]]
                if place >= 0 and place % self._columns * STEP_X[heading] + place // self._columns * STEP_Y[heading] == far - back:
                    ordered.append(pieces[number])

    def _list_pieces(self, found: List[int]) -> None:
        """The pieces in reading order, the lowest layer of a cell first, the ground left out."""
        for place in range(self._cells):
            for layer in range(LAYERS):
                piece = self._piece_at(layer, place)
                if piece >= 0 and self._kind_of[piece] != GROUND:
                    found.append(piece)
