// This was emitted by rapid-magpie, and is replaced where that is done again.
// The same results as `rapid-magpie convert`, to the last bit.
// The grid of "Shelf", rulebook "shelf.magpie".

export const CELL_WIDTH = 24.0; // Width of a cell in px.
export const CELL_HEIGHT = 20.0; // Height of a cell in px.
export const PITCH_X = 26.0; // From one column to the next, in px.
export const PITCH_Y = 22.0; // From one row to the next, in px.
export const HOTSPOT_X = 0.0; // Added to the positions of pieces, in px.
export const HOTSPOT_Y = 5.0; // The same along y, in px.
export const FIRST_INDEX = 1; // Index of the first cell.
export const SCALE_X = 2.0; // Window px in a design px, along x.
export const SCALE_Y = 2.0; // Window px in a design px, along y.
export const BAR_X = 0.0; // Width of the bar left of the picture, in window px.
export const BAR_Y = 0.0; // Height of the bar above the picture, in window px.
export const DESIGN_WIDTH = 240.0; // Width of the picture in design px.
export const DESIGN_HEIGHT = 120.0; // Height of the picture in design px.
export const CAMERA_X = 0.0; // World x of the picture's upper left corner.
export const CAMERA_Y = 0.0; // World y of the picture's upper left corner.

/** The grid of a map. */
export class Grid {
    constructor(columns, rows, originX, originY, rowsOfCells) {
        this.columns = columns;
        this.rows = rows;
        this.originX = originX;
        this.originY = originY;
        this.void = rowsOfCells;
    }

    /** The grid of a map, counted from 1. */
    static ofMap(number) {
        return MAPS[number - 1];
    }

    /** The cell of a world position, on the board or off it. */
    worldToCell(x, y) {
        const column = Math.floor((x + HOTSPOT_X - this.originX) / PITCH_X) + 0;
        const row = Math.floor((y + HOTSPOT_Y - this.originY) / PITCH_Y) + 0;
        return { column, row };
    }

    /** What lies at a world position. */
    worldWhere(x, y) {
        const cell = this.worldToCell(x, y);
        if (!this.inside(cell)) {
            return "outside";
        }
        const across = x + HOTSPOT_X - this.originX;
        if (across - Math.floor(across / PITCH_X) * PITCH_X >= CELL_WIDTH) {
            return "gap";
        }
        const down = y + HOTSPOT_Y - this.originY;
        if (down - Math.floor(down / PITCH_Y) * PITCH_Y >= CELL_HEIGHT) {
            return "gap";
        }
        if (this.void[cell.row][cell.column] === " ") {
            return "void";
        }
        return "cell";
    }

    /** The cell of the board that is nearest to a world position. */
    snap(x, y) {
        const cell = this.worldToCell(x, y);
        return { column: Math.min(Math.max(cell.column, 0), this.columns - 1), row: Math.min(Math.max(cell.row, 0), this.rows - 1) };
    }

    /** The corner of a cell where counting starts, in world px. */
    cellToCorner(cell) {
        return { x: this.originX + cell.column * PITCH_X, y: this.originY + cell.row * PITCH_Y };
    }

    /** The middle of a cell in world px. */
    cellToCentre(cell) {
        return { x: this.originX + (cell.column * PITCH_X + CELL_WIDTH / 2.0), y: this.originY + (cell.row * PITCH_Y + CELL_HEIGHT / 2.0) };
    }

    /** The rectangle of a cell, from its smallest x and y. */
    cellToBox(cell) {
        const corner = this.cellToCorner(cell);
        return { x: corner.x, y: corner.y, w: CELL_WIDTH, h: CELL_HEIGHT };
    }

    /** Whether a cell lies on the board. */
    inside(cell) {
        return cell.column >= 0 && cell.column < this.columns && cell.row >= 0 && cell.row < this.rows;
    }

    /** The place of a cell in the flat array, nothing off the board. */
    cellToIndex(cell) {
        if (!this.inside(cell)) {
            return null;
        }
        return cell.row * this.columns + cell.column + FIRST_INDEX;
    }

    /** The cell at a place in the flat array, nothing where there is none. */
    indexToCell(index) {
        const place = index - FIRST_INDEX;
        if (place < 0 || place >= this.columns * this.rows) {
            return null;
        }
        return { column: place % this.columns, row: Math.floor(place / this.columns) };
    }

    /** The cell of the world position of a piece of this kind, whose hotspot counts. */
    worldToCellOf(kind, x, y) {
        if (kind === "crate") {
            const column = Math.floor((x + 3.0 - this.originX) / PITCH_X) + 0;
            const row = Math.floor((y + 0.0 - this.originY) / PITCH_Y) + 0;
            return { column, row };
        }
        return this.worldToCell(x, y);
    }

    /** The world position of a window position. */
    windowToWorld(x, y) {
        const across = x / SCALE_X;
        const down = y / SCALE_Y;
        return { x: CAMERA_X + across, y: CAMERA_Y + down };
    }

    /** The window position of a world position. */
    worldToWindow(x, y) {
        return { x: x * SCALE_X + BAR_X, y: y * SCALE_Y + BAR_Y };
    }

    /** The cell of a world position without any hotspot. */
    cellAt(x, y) {
        const column = Math.floor((x - this.originX) / PITCH_X) + 0;
        const row = Math.floor((y - this.originY) / PITCH_Y) + 0;
        return { column, row };
    }

    /** What lies at a world position without any hotspot. */
    whereAt(x, y) {
        const cell = this.cellAt(x, y);
        if (!this.inside(cell)) {
            return "outside";
        }
        const across = x - this.originX;
        if (across - Math.floor(across / PITCH_X) * PITCH_X >= CELL_WIDTH) {
            return "gap";
        }
        const down = y - this.originY;
        if (down - Math.floor(down / PITCH_Y) * PITCH_Y >= CELL_HEIGHT) {
            return "gap";
        }
        if (this.void[cell.row][cell.column] === " ") {
            return "void";
        }
        return "cell";
    }

    /** The cell of a window position, on the board or off it. */
    windowToCell(x, y) {
        const world = this.windowToWorld(x, y);
        return this.cellAt(world.x, world.y);
    }

    /** What lies at a window position. */
    windowWhere(x, y) {
        const across = x / SCALE_X;
        const down = y / SCALE_Y;
        if (!(across >= 0.0 && across < DESIGN_WIDTH && down >= 0.0 && down < DESIGN_HEIGHT)) {
            return "bar";
        }
        const world = this.windowToWorld(x, y);
        return this.whereAt(world.x, world.y);
    }

    /** The window position of the middle of a cell. */
    cellToWindow(cell) {
        const centre = this.cellToCentre(cell);
        return this.worldToWindow(centre.x, centre.y);
    }
}

const MAPS = [
    // "Left"
    new Grid(3, 2, 8.0, 6.0, ["...", ".. "]),
    // "Right"
    new Grid(4, 1, 8.0, 6.0, ["...."]),
];
