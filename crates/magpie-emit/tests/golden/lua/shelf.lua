-- This was emitted by rapid-magpie, and is replaced where that is done again.
-- The same results as `rapid-magpie convert`, to the last bit.
-- The grid of "Shelf", rulebook "shelf.magpie".

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

return { Grid = Grid }
