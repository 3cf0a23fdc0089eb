-- This was emitted by rapid-magpie, and is replaced where that is done again.
-- Positions come out as with `rapid-magpie convert`, to the last bit.
-- The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.

local CELL_WIDTH <const> = 24.0 -- Width of a cell in px.
local CELL_HEIGHT <const> = 20.0 -- Height of a cell in px.
local PITCH_X <const> = 26.0 -- From one column to the next, in px.
local PITCH_Y <const> = 22.0 -- From one row to the next, in px.
local HOTSPOT_X <const> = 0.0 -- Added to the positions of pieces, in px.
local HOTSPOT_Y <const> = 5.0 -- The same along y, in px.
local FIRST_INDEX <const> = 1 -- Index of the first cell.
local SCALE_X <const> = 2.0 -- Window px in a design px, along x.
local SCALE_Y <const> = 2.0 -- Window px in a design px, along y.
local BAR_X <const> = 0.0 -- Width of the bar left of the picture, in window px.
local BAR_Y <const> = 0.0 -- Height of the bar above the picture, in window px.
local DESIGN_WIDTH <const> = 240.0 -- Width of the picture in design px.
local DESIGN_HEIGHT <const> = 120.0 -- Height of the picture in design px.
local CAMERA_X <const> = 0.0 -- World x of the picture's upper left corner.
local CAMERA_Y <const> = 0.0 -- World y of the picture's upper left corner.

-- The grid of a map.
local Grid = {}
Grid.__index = Grid

-- The cell of a world position, on the board or off it.
function Grid:world_to_cell(x, y)
    local column = math.floor((x + HOTSPOT_X - self.origin_x) / PITCH_X)
    local row = math.floor((y + HOTSPOT_Y - self.origin_y) / PITCH_Y)
    return { column = column, row = row }
end

-- What lies at a world position.
function Grid:world_where(x, y)
    local cell = self:world_to_cell(x, y)
    if not self:inside(cell) then
        return "outside"
    end
    local across = x + HOTSPOT_X - self.origin_x
    if across - math.floor(across / PITCH_X) * PITCH_X >= CELL_WIDTH then
        return "gap"
    end
    local down = y + HOTSPOT_Y - self.origin_y
    if down - math.floor(down / PITCH_Y) * PITCH_Y >= CELL_HEIGHT then
        return "gap"
    end
    if self.void[cell.row + 1]:sub(cell.column + 1, cell.column + 1) == " " then
        return "void"
    end
    return "cell"
end

-- The cell of the board that is nearest to a world position.
function Grid:snap(x, y)
    local cell = self:world_to_cell(x, y)
    return { column = math.min(math.max(cell.column, 0), self.columns - 1), row = math.min(math.max(cell.row, 0), self.rows - 1) }
end

-- The corner of a cell where counting starts, in world px.
function Grid:cell_to_corner(cell)
    return { x = self.origin_x + cell.column * PITCH_X, y = self.origin_y + cell.row * PITCH_Y }
end

-- The middle of a cell in world px.
function Grid:cell_to_centre(cell)
    return { x = self.origin_x + (cell.column * PITCH_X + CELL_WIDTH / 2.0), y = self.origin_y + (cell.row * PITCH_Y + CELL_HEIGHT / 2.0) }
end

-- The rectangle of a cell, from its smallest x and y.
function Grid:cell_to_box(cell)
    local corner = self:cell_to_corner(cell)
    return { x = corner.x, y = corner.y, w = CELL_WIDTH, h = CELL_HEIGHT }
end

-- Whether a cell lies on the board.
function Grid:inside(cell)
    return cell.column >= 0 and cell.column < self.columns and cell.row >= 0 and cell.row < self.rows
end

-- The place of a cell in the flat array, nothing off the board.
function Grid:cell_to_index(cell)
    if not self:inside(cell) then
        return nil
    end
    return cell.row * self.columns + cell.column + FIRST_INDEX
end

-- The cell at a place in the flat array, nothing where there is none.
function Grid:index_to_cell(index)
    local place = index - FIRST_INDEX
    if place < 0 or place >= self.columns * self.rows then
        return nil
    end
    return { column = place % self.columns, row = place // self.columns }
end

-- The cell of the world position of a piece of this kind, whose hotspot counts.
function Grid:world_to_cell_of(kind, x, y)
    if kind == "crate" then
        local column = math.floor((x + 3.0 - self.origin_x) / PITCH_X)
        local row = math.floor((y + 0.0 - self.origin_y) / PITCH_Y)
        return { column = column, row = row }
    end
    return self:world_to_cell(x, y)
end

-- The world position of a window position.
function Grid:window_to_world(x, y)
    local across = x / SCALE_X
    local down = y / SCALE_Y
    return { x = CAMERA_X + across, y = CAMERA_Y + down }
end

-- The window position of a world position.
function Grid:world_to_window(x, y)
    return { x = x * SCALE_X + BAR_X, y = y * SCALE_Y + BAR_Y }
end

-- The cell of a world position without any hotspot.
function Grid:cell_at(x, y)
    local column = math.floor((x - self.origin_x) / PITCH_X)
    local row = math.floor((y - self.origin_y) / PITCH_Y)
    return { column = column, row = row }
end

-- What lies at a world position without any hotspot.
function Grid:where_at(x, y)
    local cell = self:cell_at(x, y)
    if not self:inside(cell) then
        return "outside"
    end
    local across = x - self.origin_x
    if across - math.floor(across / PITCH_X) * PITCH_X >= CELL_WIDTH then
        return "gap"
    end
    local down = y - self.origin_y
    if down - math.floor(down / PITCH_Y) * PITCH_Y >= CELL_HEIGHT then
        return "gap"
    end
    if self.void[cell.row + 1]:sub(cell.column + 1, cell.column + 1) == " " then
        return "void"
    end
    return "cell"
end

-- The cell of a window position, on the board or off it.
function Grid:window_to_cell(x, y)
    local world = self:window_to_world(x, y)
    return self:cell_at(world.x, world.y)
end

-- What lies at a window position.
function Grid:window_where(x, y)
    local across = x / SCALE_X
    local down = y / SCALE_Y
    if not (across >= 0.0 and across < DESIGN_WIDTH and down >= 0.0 and down < DESIGN_HEIGHT) then
        return "bar"
    end
    local world = self:window_to_world(x, y)
    return self:where_at(world.x, world.y)
end

-- The window position of the middle of a cell.
function Grid:cell_to_window(cell)
    local centre = self:cell_to_centre(cell)
    return self:world_to_window(centre.x, centre.y)
end

local maps = {
    -- "Left"
    { columns = 3, rows = 2, origin_x = 8.0, origin_y = 6.0, void = { "...", ".. " } },
    -- "Right"
    { columns = 4, rows = 1, origin_x = 8.0, origin_y = 6.0, void = { "...." } },
}

-- The grid of a map, counted from 1.
function Grid.of_map(number)
    return setmetatable(maps[number], Grid)
end

local KINDS_OF = { "plank", "porter", "crate" }
local HEADINGS = { "west", "east", "north", "south", "north-west", "north-east", "south-west", "south-east" }
local CHECKS = { "edge", "void", "meets", "corner", "limit", "room" }

local K = {
    KIND_PORTER = 1,
    KIND_CRATE = 2,
    WEST = 0,
    EAST = 1,
    NORTH = 2,
    SOUTH = 3,
    STOP = 0,
    SHOVE = 2,
    CHECK_EDGE = 0,
    CHECK_VOID = 1,
    CHECK_MEETS = 2,
    CHECK_ROOM = 5,
    BY_NEXT = 2,
    KEY_RESTART = 0,
    KEY_NEXT = 1,
    KEY_TAP = 2,
    KEY_DRAG = 3,
    KEY_OTHER = 4,
    KEY_DOWN = 5,
    KEY_LEFT = 6,
    KEY_RIGHT = 7,
    KEY_UP = 8,
    LAYERS = 3,
    KINDS = 3,
    MAP_COUNT = 2,
    GROUND = 0,
    LAYER_OF = { 0, 2, 2 },
    FACING = { -1, -1, -1 },
    STEP_X = { -1, 1, 0, 0, -1, 1, -1, 1 },
    STEP_Y = { 0, 0, -1, 1, -1, -1, 1, 1 },
    MAP_COLUMNS = { 3, 4 },
    MAP_ROWS = { 2, 1 },
    GLYPH_OF = { ".", "P", "C" },
    VERB_OF = { 0, 2 },
    HAS_EFFECTS = { 0, 1 },
    LINE_OF = { 0, 23 },
}
local PROMISES = { "always shoved < 100" }
local FROM_TOP = true
local DRAWINGS = {
    {
        "P.C",
        ".. ",
    },
    {
        "P...",
    },
}

local function filled(list, count, value)
    for place = 1, count do
        list[place] = value
    end
    return list
end

local function put_back(game, before)
    for name in pairs(game) do
        game[name] = nil
    end
    for name, value in pairs(before) do
        game[name] = value
    end
end

-- A game: a copy of it is a game of its own, and going on with one takes back what was played since.
local Game = {}
Game.__index = Game

-- A game as its map is entered.
function Game.new()
    local game = setmetatable({}, Game)
    game._tapped = 0
    game._dropped = 0
    game._reading = 0
    game._entry_turns = 0
    game._entry_moves = 0
    game._moved_piece = {}
    game._moved_from = {}
    game._was_at = {}
    game.shoved = 0
    game._entry_shoved = 0
    game._stopped = 0
    game._granted = false
    game._mover = {}
    game._mover_from = {}
    game._mover_to = {}
    game._mover_gone = {}
    game._taken = {}
    game._leaving = {}
    game._asking = {}
    game._asking_layer = {}
    game._asking_refused = {}
    game._decided_rule = {}
    game._decided_verb = {}
    game._decided_mover = {}
    game._decided_met = {}
    game._decided_place = {}
    game._asking_most = {}
    game._shoved_own = 0
    game._step_x = 0
    game._step_y = 0
    game._heading = 0
    game._seen = 0
    game._falling = false
    game._detour = false
    game._refused_by = 0
    game._refused_rule = 0
    game._refused_piece = 0
    game._refused_met = 0
    game._refused_place = 0
    game._bounces = false
    game._last_check = 0
    game._last_line = 0
    game.map = 0
    game.turns = 0
    game.moves = 0
    game.outcome = nil
    game.signals = {}
    game._columns = 0
    game._rows = 0
    game._cells = 0
    game._at = {}
    game._kind_of = {}
    game._cell_of = {}
    game._heading_of = {}
    game._count_of = {}
    game._newest = 0
    game._own = {}
    game._newest = -1
    game.map = 1
    game:_begin_game()
    return game
end

-- A game on a board of its own in place of the maps, drawn with their letters.
function Game.on_board_of(lines)
    local game = setmetatable({}, Game)
    game._tapped = 0
    game._dropped = 0
    game._reading = 0
    game._entry_turns = 0
    game._entry_moves = 0
    game._moved_piece = {}
    game._moved_from = {}
    game._was_at = {}
    game.shoved = 0
    game._entry_shoved = 0
    game._stopped = 0
    game._granted = false
    game._mover = {}
    game._mover_from = {}
    game._mover_to = {}
    game._mover_gone = {}
    game._taken = {}
    game._leaving = {}
    game._asking = {}
    game._asking_layer = {}
    game._asking_refused = {}
    game._decided_rule = {}
    game._decided_verb = {}
    game._decided_mover = {}
    game._decided_met = {}
    game._decided_place = {}
    game._asking_most = {}
    game._shoved_own = 0
    game._step_x = 0
    game._step_y = 0
    game._heading = 0
    game._seen = 0
    game._falling = false
    game._detour = false
    game._refused_by = 0
    game._refused_rule = 0
    game._refused_piece = 0
    game._refused_met = 0
    game._refused_place = 0
    game._bounces = false
    game._last_check = 0
    game._last_line = 0
    game.map = 0
    game.turns = 0
    game.moves = 0
    game.outcome = nil
    game.signals = {}
    game._columns = 0
    game._rows = 0
    game._cells = 0
    game._at = {}
    game._kind_of = {}
    game._cell_of = {}
    game._heading_of = {}
    game._count_of = {}
    game._newest = 0
    game._own = lines
    game._newest = -1
    game.map = 2
    game:_begin_game()
    return game
end

function Game:_drawing(line)
    return #self._own > 0 and self._own[line + 1] or DRAWINGS[self.map][line + 1]
end

function Game:_drawing_columns()
    return #self._own > 0 and #self._own[1] or K.MAP_COLUMNS[self.map]
end

function Game:_drawing_rows()
    return #self._own > 0 and #self._own or K.MAP_ROWS[self.map]
end

-- A game of its own that stands as this one does.
function Game:copy()
    local other = setmetatable({}, Game)
    for name, value in pairs(self) do
        other[name] = value
        if type(value) == "table" then
            local list = {}
            for key, item in pairs(value) do
                list[key] = item
            end
            other[name] = list
        end
    end
    return other
end

-- The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy.
function Game:request(id, heading)
    local number = 0
    for place, word in ipairs(HEADINGS) do
        if word == heading then
            number = place - 1
        end
    end
    local granted = self:_ask_for(id, number)
    local moved = {}
    for place, piece in ipairs(self._moved_piece) do
        moved[place] = {
            id = piece,
            from = self:_cell(self._moved_from[place]),
            to = self:_cell(self._cell_of[piece + 1]),
        }
    end
    return { granted = granted, check = CHECKS[self._last_check + 1], line = self._last_line, moved = moved }
end

-- The board as lines of text, the top one first.
function Game:board()
    local lines = {}
    for line = 0, self._rows - 1 do
        local row = FROM_TOP and line or self._rows - 1 - line
        local letters = {}
        for column = 0, self._columns - 1 do
            letters[column + 1] = self:_letter_of(row * self._columns + column)
        end
        lines[line + 1] = table.concat(letters)
    end
    return lines
end

-- The pieces in reading order, the lowest layer of a cell first, the ground left out.
function Game:pieces()
    local found, pieces = {}, {}
    self:_list_pieces(found)
    for place, piece in ipairs(found) do
        pieces[place] = {
            id = piece,
            kind = KINDS_OF[self._kind_of[piece + 1] + 1],
            cell = self:_cell(self._cell_of[piece + 1]),
            heading = HEADINGS[self._heading_of[piece + 1] + 1],
        }
    end
    return pieces
end

function Game:_cell(place)
    return { column = place % self._columns, row = place // self._columns }
end

-- The first promise that does not hold now, as the rulebook writes it.
function Game:broken()
    return PROMISES[self:_broken_promise() + 1]
end

-- Does what an input asks for; false for a word that is none, and where nothing happens.
function Game:input(word)
    local key = self:_key_of(word)
    if key == K.KEY_RESTART then
        self.signals = {}
        self._stopped = 0
        self:_restart()
        self:_show_chosen()
        return true
    end
    if key == K.KEY_NEXT then
        if self.outcome ~= "won" or self.map >= K.MAP_COUNT then
            return false
        end
        self.signals = {}
        self._stopped = 0
        self:_next_map()
        self:_show_chosen()
        return true
    end
    if key < 0 or self.outcome == "won" or self.outcome == "lost" then
        return false
    end
    self.signals = {}
    self:_turn(key)
    self:_show_chosen()
    return true
end

-- The cell that everybody may see as chosen.
function Game:_show_chosen()
end

-- Reads a cell of a word from a place on, and stops behind it, at -1 where there is none. A place off the board is -1.
function Game:_read_cell(word, place)
    self._reading = place
    local column = self:_read_number(word)
    if self._reading < 0 or (word:byte(self._reading + 1) or 0) ~= 44 then
        self._reading = -1
        return -1
    end
    self._reading = self._reading + 1
    local row = self:_read_number(word)
    if self._reading < 0 or column < 0 or column >= self._columns or row < 0 or row >= self._rows then
        return -1
    end
    return (row * self._columns + column)
end

-- Reads a whole number of a word, and stops behind it, at -1 where there is none.
function Game:_read_number(word)
    local place = self._reading
    local sign = 1
    if place < 0 then
        return 0
    end
    if (word:byte(place + 1) or 0) == 45 then
        sign = -1
        place = place + 1
    end
    local first = place
    local value = 0
    while (word:byte(place + 1) or 0) >= 48 and (word:byte(place + 1) or 0) <= 57 and place - first < 16 do
        value = value * 10 + ((word:byte(place + 1) or 0) - 48)
        place = place + 1
    end
    self._reading = place
    if place == first or place - first > 15 then
        self._reading = -1
    end
    return sign * value
end

-- A turn: rules act, then the board settles, then the end is looked at.
function Game:_turn(key)
    if self.outcome == "never settles" then
        self.outcome = nil
    end
    self._stopped = 0
    self._granted = false
    self.turns = self.turns + 1
    self:_act(key)
    if self._stopped == 0 and self._granted then
        self.moves = self.moves + 1
    end
    if self._stopped == 0 then
        self:_look_at_end()
    end
    self._tapped = -1
    self._dropped = -1
    local ending = self._stopped
    if ending == K.BY_NEXT then
        if self.map < K.MAP_COUNT then
            self:_next_map()
        else
            self.outcome = "won"
        end
    end
    self._stopped = 0
end

-- Enters the map that follows.
function Game:_next_map()
    self.map = self.map + 1
    self:_note_entry()
    self:_enter()
end

-- Enters maps, as long as their beginning leads on.
function Game:_enter()
    self:_begin_map()
    while self._stopped == K.BY_NEXT and self.map < K.MAP_COUNT do
        self.map = self.map + 1
        self:_note_entry()
        self:_begin_map()
    end
end

-- Lays the map out and lets it begin.
function Game:_begin_map()
    self._stopped = 0
    self.outcome = nil
    self._tapped = -1
    self._dropped = -1
    self:_lay_out()
end

-- An empty board of the size of the map.
function Game:_make_board(columns, rows)
    self._columns = columns
    self._rows = rows
    self._cells = columns * rows
    self:_clear_plan()
    self._at = filled({}, K.LAYERS * self._cells, -1)
    self._kind_of = filled({}, 2 * K.LAYERS * self._cells, 0)
    self._cell_of = filled({}, 2 * K.LAYERS * self._cells, -1)
    self._heading_of = filled({}, 2 * K.LAYERS * self._cells, -1)
    self._leaving = filled({}, 2 * K.LAYERS * self._cells, 0)
    self._count_of = filled({}, K.KINDS, 0)
    self._newest = -1
end

-- The pieces of a drawing.
function Game:_draw_map()
    self:_make_board(self:_drawing_columns(), self:_drawing_rows())
    for line = 0, self._rows - 1 do
        for column = 0, self._columns - 1 do
            local place = line * self._columns + column
            self:_lay(place, (self:_drawing(line):byte(column + 1) or 0))
        end
    end
end

-- The request of a piece with effects and slides and no turn round it; what it moved and who refused it stands in fields.
function Game:_ask_for(piece, heading)
    self.signals = {}
    self._moved_piece = {}
    self._moved_from = {}
    self._last_check = -1
    self._last_line = 0
    if piece < 0 or piece >= 2 * K.LAYERS * self._cells then
        return false
    end
    self._stopped = 0
    self._was_at = {}
    for number = 0, 2 * K.LAYERS * self._cells - 1 do
        self._was_at[#self._was_at + 1] = self._cell_of[number + 1]
    end
    local granted = self:_ask_along(piece, heading)
    for number = 0, 2 * K.LAYERS * self._cells - 1 do
        if self._was_at[number + 1] >= 0 and self._cell_of[number + 1] >= 0 and self._was_at[number + 1] ~= self._cell_of[number + 1] then
            self._moved_piece[#self._moved_piece + 1] = number
            self._moved_from[#self._moved_from + 1] = self._was_at[number + 1]
        end
    end
    self._was_at = {}
    self._stopped = 0
    self:_show_chosen()
    return granted
end

-- All porter, in reading order.
function Game:_each_porter(found)
    local left = self._count_of[K.KIND_PORTER + 1]
    local place = 0
    while place < self._cells and #found < left do
        local piece_1 = self:_piece_at(2, place)
        if piece_1 >= 0 then
            local kind_2 = self._kind_of[piece_1 + 1]
            if kind_2 == K.KIND_PORTER then
                found[#found + 1] = piece_1
            end
        end
        place = place + 1
    end
end

-- What happens on the key left.
function Game:_on_left()
    -- 16: control porter with arrows
    local found_1 = {}
    self:_each_porter(found_1)
    self:_step(found_1, K.WEST, 1)
    if self._stopped ~= 0 then
        do return end
    end
end

-- What happens on the key right.
function Game:_on_right()
    -- 16: control porter with arrows
    local found_1 = {}
    self:_each_porter(found_1)
    self:_step(found_1, K.EAST, 1)
    if self._stopped ~= 0 then
        do return end
    end
end

-- What happens on the key up.
function Game:_on_up()
    -- 16: control porter with arrows
    local found_1 = {}
    self:_each_porter(found_1)
    self:_step(found_1, K.NORTH, 1)
    if self._stopped ~= 0 then
        do return end
    end
end

-- What happens on the key down.
function Game:_on_down()
    -- 16: control porter with arrows
    local found_1 = {}
    self:_each_porter(found_1)
    self:_step(found_1, K.SOUTH, 1)
    if self._stopped ~= 0 then
        do return end
    end
end

-- What a key or a touch does.
function Game:_act(key)
    if key == K.KEY_LEFT then
        self:_on_left()
    end
    if key == K.KEY_RIGHT then
        self:_on_right()
    end
    if key == K.KEY_UP then
        self:_on_up()
    end
    if key == K.KEY_DOWN then
        self:_on_down()
    end
end

-- What a word means, -1 for one that means nothing.
function Game:_key_of(word)
    self._tapped = -1
    self._dropped = -1
    if word == "restart" then
        return K.KEY_RESTART
    end
    if word == "next" then
        return K.KEY_NEXT
    end
    if word == "left" then
        return K.KEY_LEFT
    end
    if word == "right" then
        return K.KEY_RIGHT
    end
    if word == "up" then
        return K.KEY_UP
    end
    if word == "down" then
        return K.KEY_DOWN
    end
    if word == "act" then
        return K.KEY_OTHER
    end
    if word == "alt" then
        return K.KEY_OTHER
    end
    if word:sub(1, 4) == "key:" then
        local letter = (word:byte(5) or 0)
        if ((letter >= 97 and letter <= 122) or (letter >= 48 and letter <= 57)) and (word:byte(6) or 0) == 0 then
            return K.KEY_OTHER
        end
    end
    if word:sub(1, 4) == "tap:" then
        self._tapped = self:_read_cell(word, 4)
        self._dropped = self._tapped
        if self._reading > 0 and (word:byte(self._reading + 1) or 0) == 0 then
            return K.KEY_TAP
        end
    end
    if word:sub(1, 5) == "drag:" then
        self._tapped = self:_read_cell(word, 5)
        if self._reading > 0 and (word:byte(self._reading + 1) or 0) == 62 then
            self._dropped = self:_read_cell(word, self._reading + 1)
            if self._reading > 0 and (word:byte(self._reading + 1) or 0) == 0 then
                return K.KEY_DRAG
            end
        end
    end
    return -1
end

-- What the end of line 25 does.
function Game:_end_25()
    -- 25: win when shoved > 1: next map
    self._stopped = K.BY_NEXT
    do return end
end

-- Whether the game is won or lost.
function Game:_look_at_end()
    -- 25: win when shoved > 1: next map
    if self.shoved > 1 then
        self.outcome = "won"
        self:_end_25()
        do return end
    end
end

-- The first promise that does not hold, by its number, -1 where all do.
function Game:_broken_promise()
    -- 24: always shoved < 100
    if not (self.shoved < 100) then
        return 0
    end
    return -1
end

-- What the meeting of line 23 does besides.
function Game:_into_23(asker, met, place, seen)
    -- 23: porter into crate: shove, add 1 to shoved
    self.shoved = self:_bounded(self.shoved + 1)
end

-- The rule that decides when a kind meets another, 0 for none.
function Game:_meeting(asker, met, place, seen)
    -- 23: porter into crate: shove, add 1 to shoved
    if asker == K.KIND_PORTER and met == K.KIND_CRATE then
        return 1
    end
    return 0
end

-- What a meeting does besides.
function Game:_do_meeting(rule, asker, met, place, seen)
    if rule == 1 then
        self:_into_23(asker, met, place, seen)
    end
end

-- Puts into a cell what a letter of a drawing stands for.
function Game:_lay(place, letter)
    if letter == 32 then
        self._at[place + 1] = -2
        do return end
    end
    -- P  porter
    if letter == 80 then
        self:_add(place, K.KIND_PORTER)
    end
    -- C  crate
    if letter == 67 then
        self:_add(place, K.KIND_CRATE)
    end
    self:_add(place, K.GROUND)
end

-- The board of the map at its beginning.
function Game:_lay_out()
    self:_draw_map()
end

-- Begins a game on its map.
function Game:_begin_game()
    self.turns = 0
    self.moves = 0
    self.shoved = 0
    self:_note_entry()
    self:_enter()
    self:_show_chosen()
end

-- Notes the state in which a map is entered.
function Game:_note_entry()
    self._entry_turns = self.turns
    self._entry_moves = self.moves
    self._entry_shoved = self.shoved
end

-- The map begins again.
function Game:_restart()
    self.turns = self._entry_turns
    self.moves = self._entry_moves
    self.shoved = self._entry_shoved
    self:_note_entry()
    self:_enter()
end

-- The letter that a cell is drawn with.
function Game:_letter_of(place)
    if self:_is_void(place) then
        return " "
    end
    local kind = self:_top_kind(place)
    if kind < 0 then
        return "_"
    end
    return K.GLYPH_OF[kind + 1]
end

-- A request for every piece, the foremost first; each may ask so many times in a row. Whether one was granted.
function Game:_step(pieces, heading, times)
    local ordered = {}
    self:_foremost_first(pieces, heading, ordered)
    local granted = false
    for number = 0, #ordered - 1 do
        local left = times
        while left > 0 and self._stopped == 0 do
            left = left - 1
            if self:_ask_along(ordered[number + 1], heading) then
                granted = true
            else
                left = 0
            end
        end
    end
    return granted
end

-- Forgets the plan of the request before.
function Game:_clear_plan()
    for number = 0, #self._mover - 1 do
        self._leaving[self._mover[number + 1] + 1] = 0
    end
    for number = 0, #self._taken - 1 do
        self._leaving[self._taken[number + 1] + 1] = 0
    end
    self._mover = {}
    self._mover_from = {}
    self._mover_to = {}
    self._mover_gone = {}
    self._taken = {}
    self._asking = {}
    self._asking_layer = {}
    self._asking_refused = {}
    self._decided_rule = {}
    self._decided_verb = {}
    self._decided_mover = {}
    self._decided_met = {}
    self._decided_place = {}
    self._asking_most = {}
    self._shoved_own = 0
    self._detour = false
    self._refused_by = -1
    self._refused_rule = 0
    self._bounces = false
end

-- Works out what a request would do; nothing on the board changes. Whether it is granted.
function Game:_plan(piece, columns, rows, heading, seen, falling)
    self:_clear_plan()
    self._step_x = columns
    self._step_y = rows
    self._heading = heading
    self._seen = seen
    self._falling = falling
    self:_begin_asking(piece, 2147483647)
    while #self._asking > 0 do
        local last = #self._asking - 1
        if self._asking_layer[last + 1] == -2 then
            self:_look_at_target(last)
        else
            if self._asking_layer[last + 1] >= 0 then
                self:_look_at_layer(last)
            else
                self:_end_asking(last)
            end
        end
    end
    if self._refused_by < 0 then
        self:_check_room()
    end
    return self._refused_by < 0
end

-- A piece joins the plan and asks.
function Game:_begin_asking(piece, most)
    self._asking[#self._asking + 1] = #self._mover
    self._asking_layer[#self._asking_layer + 1] = -2
    self._asking_refused[#self._asking_refused + 1] = 0
    self._asking_most[#self._asking_most + 1] = most
    self:_add_mover(piece, self._cell_of[piece + 1], self._cell_of[piece + 1])
end

-- Adds a piece to those that the plan moves.
function Game:_add_mover(piece, origin, goal)
    self._mover[#self._mover + 1] = piece
    self._mover_from[#self._mover_from + 1] = origin
    self._mover_to[#self._mover_to + 1] = goal
    self._mover_gone[#self._mover_gone + 1] = 0
    self._leaving[piece + 1] = 1
end

-- Notes why a request is refused, the first reason only.
function Game:_refuse(last, check, rule, piece, met, place)
    if self._refused_by < 0 then
        self._refused_by = check
        self._refused_rule = rule
        self._refused_piece = piece
        self._refused_met = met
        self._refused_place = place
    end
    if last >= 0 then
        self._asking_refused[last + 1] = 1
        self._asking_layer[last + 1] = -1
    end
end

-- Notes a rule that decides a meeting, for what it does besides.
function Game:_decide(mover, rule, verb, met, place)
    self._decided_rule[#self._decided_rule + 1] = rule
    self._decided_verb[#self._decided_verb + 1] = verb
    self._decided_mover[#self._decided_mover + 1] = mover
    self._decided_met[#self._decided_met + 1] = met
    self._decided_place[#self._decided_place + 1] = place
end

-- Where the piece that asks would go: the edge, void, and the corners of a diagonal step.
function Game:_look_at_target(last)
    local mover = self._asking[last + 1]
    local piece = self._mover[mover + 1]
    local origin = self._mover_from[mover + 1]
    local goal = self:_shifted(origin, self._step_x, self._step_y)
    if goal < 0 then
        self:_refuse(last, K.CHECK_EDGE, 0, piece, -1, origin)
        do return end
    end
    if self:_is_void(goal) then
        self:_refuse(last, K.CHECK_VOID, 0, piece, -1, origin)
        do return end
    end
    self._mover_to[mover + 1] = goal
    self._asking_layer[last + 1] = K.LAYERS - 1
end

-- A rule refuses; one that bounces turns the piece whose own request this is.
function Game:_refuse_at(last, mover, check, rule, met, place)
    self:_refuse(last, check, rule, self._mover[mover + 1], met, place)
end

-- The next layer of the target, from the top down.
function Game:_look_at_layer(last)
    local layer = self._asking_layer[last + 1]
    self._asking_layer[last + 1] = layer - 1
    local mover = self._asking[last + 1]
    local place = self._mover_to[mover + 1]
    local met = self:_piece_at(layer, place)
    if met < 0 or self._leaving[met + 1] ~= 0 then
        do return end
    end
    local kind = self._kind_of[self._mover[mover + 1] + 1]
    local rule = self:_meeting(kind, self._kind_of[met + 1], place, self._seen)
    if rule == 0 then
        -- Without a rule pieces of one layer stop each other.
        if K.LAYER_OF[kind + 1] == layer then
            self:_refuse_at(last, mover, K.CHECK_MEETS, 0, met, place)
        end
        do return end
    end
    if K.VERB_OF[rule + 1] == K.SHOVE then
        self:_shove(last, mover, met, place, rule)
        do return end
    end
    self:_apply(last, mover, met, place, rule, K.VERB_OF[rule + 1])
end

-- What a verb does to the plan.
function Game:_apply(last, mover, met, place, rule, verb)
    if verb == K.STOP then
        self:_refuse_at(last, mover, K.CHECK_MEETS, rule, met, place)
        do return end
    end
    self:_decide(mover, rule, verb, met, place)
end

-- What is met asks for the same step in the same plan.
function Game:_shove(last, mover, met, place, rule)
    if self._falling then
        self:_refuse_at(last, mover, K.CHECK_MEETS, rule, met, place)
        do return end
    end
    local most = self._asking_most[last + 1]
    self:_decide(mover, rule, K.SHOVE, met, place)
    self:_begin_asking(met, most)
    self._shoved_own = self._shoved_own + 1
end

-- A piece has asked; a refusal goes to the one that shoved it, unless there is an else.
function Game:_end_asking(last)
    local refused = self._asking_refused[last + 1] ~= 0
    table.remove(self._asking)
    table.remove(self._asking_layer)
    table.remove(self._asking_refused)
    table.remove(self._asking_most)
    if refused and last > 0 then
        self._asking_refused[last] = 1
        self._asking_layer[last] = -1
    end
end

-- Two pieces of the plan on one layer of a cell, or one where another stays.
function Game:_check_room()
    for number = 0, #self._mover - 1 do
        if self._mover_gone[number + 1] == 0 then
            local piece = self._mover[number + 1]
            local layer = K.LAYER_OF[self._kind_of[piece + 1] + 1]
            local place = self._mover_to[number + 1]
            local there = self:_piece_at(layer, place)
            if there >= 0 and self._leaving[there + 1] == 0 then
                self:_refuse(-1, K.CHECK_ROOM, 0, piece, there, place)
            end
            for other = number + 1, #self._mover - 1 do
                if self._mover_gone[other + 1] == 0 and self._mover_to[other + 1] == place and K.LAYER_OF[self._kind_of[self._mover[other + 1] + 1] + 1] == layer then
                    self:_refuse(-1, K.CHECK_ROOM, 0, piece, self._mover[other + 1], place)
                end
            end
        end
    end
end

-- A piece asks for a step, and what slides by it asks on before anybody else. Whether the step was granted.
function Game:_ask(piece, columns, rows, heading, seen)
    return self:_ask_once(piece, columns, rows, heading, seen)
end

-- One request: planned, carried out or refused, with its effects.
function Game:_ask_once(piece, columns, rows, heading, seen)
    if self._cell_of[piece + 1] < 0 then
        return false
    end
    local granted = self:_plan(piece, columns, rows, heading, seen, false)
    self._last_check = self._refused_by
    self._last_line = K.LINE_OF[self._refused_rule + 1]
    if granted then
        self._granted = true
        self:_commit(piece)
    else
        self:_refused(piece)
    end
    return granted
end

-- A step along a heading.
function Game:_ask_along(piece, heading)
    return self:_ask(piece, K.STEP_X[heading + 1], K.STEP_Y[heading + 1], heading, heading)
end

-- Carries the plan out, then does the effects.
function Game:_commit(piece)
    local heading = self._heading
    local seen = self._seen
    for number = 0, #self._taken - 1 do
        self:_remove(self._taken[number + 1])
    end
    for number = 0, #self._mover - 1 do
        if self._mover_gone[number + 1] ~= 0 then
            self:_remove(self._mover[number + 1])
        else
            self:_lift(self._mover[number + 1])
        end
    end
    for number = 0, #self._mover - 1 do
        if self._mover_gone[number + 1] == 0 then
            self:_put(self._mover[number + 1], self._mover_to[number + 1])
        end
    end
    if heading >= 0 and not self._falling and self._cell_of[piece + 1] >= 0 then
        self._heading_of[piece + 1] = heading
    end
    local rules = {}
    local askers = {}
    local met = {}
    local places = {}
    self:_in_order(rules, askers, met, places)
    for number = 0, #rules - 1 do
        if self._stopped ~= 0 then
            do return end
        end
        self:_do_meeting(rules[number + 1], askers[number + 1], met[number + 1], places[number + 1], seen)
    end
end

-- The meetings that were decided and do more, those of the piece that asked first.
function Game:_in_order(rules, askers, met, places)
    for mover = 0, #self._mover - 1 do
        for number = 0, #self._decided_rule - 1 do
            if self._decided_mover[number + 1] == mover and K.HAS_EFFECTS[self._decided_rule[number + 1] + 1] ~= 0 then
                rules[#rules + 1] = self._decided_rule[number + 1]
                askers[#askers + 1] = self._mover[mover + 1]
                met[#met + 1] = self._decided_met[number + 1]
                places[#places + 1] = self._decided_place[number + 1]
            end
        end
    end
end

-- What a refusal does: a bounce turns, and the effects of the rule that refused happen.
function Game:_refused(piece)
    if K.HAS_EFFECTS[self._refused_rule + 1] ~= 0 then
        local place = self._refused_place
        if self._refused_by ~= K.CHECK_MEETS then
            place = self._cell_of[self._refused_piece + 1]
        end
        self:_do_meeting(self._refused_rule, self._refused_piece, self._refused_met, place, self._seen)
    end
end

-- The piece on a layer of a cell, -1 where there is none.
function Game:_piece_at(layer, place)
    return self._at[layer * self._cells + place + 1]
end

-- The cell so many columns and rows away, -1 off the board.
function Game:_shifted(place, columns, rows)
    local column = place % self._columns + columns
    local row = place // self._columns + rows
    if column < 0 or column >= self._columns or row < 0 or row >= self._rows then
        return -1
    end
    return row * self._columns + column
end

-- Whether the map has no cell here.
function Game:_is_void(place)
    return self._at[place + 1] == -2
end

-- Takes a piece out of its cell.
function Game:_lift(piece)
    local kind = self._kind_of[piece + 1]
    self._at[K.LAYER_OF[kind + 1] * self._cells + self._cell_of[piece + 1] + 1] = -1
    self._cell_of[piece + 1] = -1
    self._count_of[kind + 1] = self._count_of[kind + 1] - 1
end

-- Puts a piece that stands nowhere into a cell.
function Game:_put(piece, place)
    local kind = self._kind_of[piece + 1]
    self._at[K.LAYER_OF[kind + 1] * self._cells + place + 1] = piece
    self._cell_of[piece + 1] = place
    self._count_of[kind + 1] = self._count_of[kind + 1] + 1
end

-- Takes a piece off the board.
function Game:_remove(piece)
    if self._cell_of[piece + 1] >= 0 then
        self:_lift(piece)
    end
end

-- The number of a piece that is not on the board.
function Game:_unused()
    local piece = self._newest
    local taken = true
    while taken do
        piece = (piece + 1) % (2 * K.LAYERS * self._cells)
        taken = self._cell_of[piece + 1] >= 0
    end
    self._newest = piece
    return piece
end

-- Puts a new piece into a cell; -1 where its layer is taken or the map has no cell.
function Game:_add(place, kind)
    if self:_piece_at(K.LAYER_OF[kind + 1], place) >= 0 or self:_is_void(place) then
        return -1
    end
    local piece = self:_unused()
    self._kind_of[piece + 1] = kind
    self._heading_of[piece + 1] = K.FACING[kind + 1]
    self:_put(piece, place)
    return piece
end

-- The topmost piece of a cell, the ground aside; -1 where there is none.
function Game:_top_piece(place)
    for below = 0, K.LAYERS - 1 do
        local piece = self:_piece_at(K.LAYERS - 1 - below, place)
        if piece >= 0 and self._kind_of[piece + 1] ~= K.GROUND then
            return piece
        end
    end
    return -1
end

-- The kind that stands topmost in a cell, the ground only where nothing else does; -1 for nothing.
function Game:_top_kind(place)
    local piece = self:_top_piece(place)
    if piece >= 0 then
        return self._kind_of[piece + 1]
    end
    if self:_piece_at(K.LAYER_OF[K.GROUND + 1], place) >= 0 then
        return K.GROUND
    end
    return -1
end

-- A counter within its bounds.
function Game:_bounded(value)
    if value > 1000000000000000 then
        return 1000000000000000
    end
    if value < -1000000000000000 then
        return -1000000000000000
    end
    return value
end

-- Puts pieces in order, the foremost along a heading first.
function Game:_foremost_first(pieces, heading, ordered)
    table.move({}, 1, #ordered, 1, ordered)
    if #pieces == 1 then
        ordered[#ordered + 1] = pieces[1]
        do return end
    end
    local far = self._columns + self._rows
    for back = 0, 2 * far + 1 - 1 do
        for number = 0, #pieces - 1 do
            local place = self._cell_of[pieces[number + 1] + 1]
            if place >= 0 and place % self._columns * K.STEP_X[heading + 1] + place // self._columns * K.STEP_Y[heading + 1] == far - back then
                ordered[#ordered + 1] = pieces[number + 1]
            end
        end
    end
end

-- The pieces in reading order, the lowest layer of a cell first, the ground left out.
function Game:_list_pieces(found)
    for place = 0, self._cells - 1 do
        for layer = 0, K.LAYERS - 1 do
            local piece = self:_piece_at(layer, place)
            if piece >= 0 and self._kind_of[piece + 1] ~= K.GROUND then
                found[#found + 1] = piece
            end
        end
    end
end

return { Grid = Grid, Game = Game }
