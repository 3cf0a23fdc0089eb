// This was emitted by rapid-magpie, and is replaced where that is done again.
// Positions come out as with `rapid-magpie convert`, to the last bit.
// The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.

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

const HEADINGS = ["west", "east", "north", "south", "north-west", "north-east", "south-west", "south-east"];
const CHECKS = ["edge", "void", "meets", "corner", "limit", "room"];
const KINDS_OF = ["plank", "porter", "crate"];
const KIND_PORTER = 1;
const KIND_CRATE = 2;
const WEST = 0;
const EAST = 1;
const NORTH = 2;
const SOUTH = 3;
const STOP = 0;
const SHOVE = 2;
const CHECK_EDGE = 0;
const CHECK_VOID = 1;
const CHECK_MEETS = 2;
const CHECK_ROOM = 5;
const BY_NEXT = 2;
const KEY_RESTART = 0;
const KEY_NEXT = 1;
const KEY_TAP = 2;
const KEY_DRAG = 3;
const KEY_OTHER = 4;
const KEY_DOWN = 5;
const KEY_LEFT = 6;
const KEY_RIGHT = 7;
const KEY_UP = 8;
const LAYERS = 3;
const KINDS = 3;
const MAP_COUNT = 2;
const GROUND = 0;
const LAYER_OF = [0, 2, 2];
const FACING = [-1, -1, -1];
const STEP_X = [-1, 1, 0, 0, -1, 1, -1, 1];
const STEP_Y = [0, 0, -1, 1, -1, -1, 1, 1];
const MAP_COLUMNS = [3, 4];
const MAP_ROWS = [2, 1];
const GLYPH_OF = [".", "P", "C"];
const VERB_OF = [0, 2];
const HAS_EFFECTS = [0, 1];
const LINE_OF = [0, 23];
const PROMISES = ["always shoved < 100"];
const FROM_TOP = true;
const DRAWINGS = [
    [
        "P.C",
        ".. ",
    ],
    [
        "P...",
    ],
];

function letterAt(text, place) {
    return place < text.length ? text.charCodeAt(place) : 0;
}

/** A game: a copy of it is a game of its own, and going on with one takes back what was played since. */
export class Game {
    _tapped = 0;
    _dropped = 0;
    _reading = 0;
    _entryTurns = 0;
    _entryMoves = 0;
    _movedPiece = [];
    _movedFrom = [];
    _wasAt = [];
    /** a counter */
    shoved = 0;
    _entryShoved = 0;
    _stopped = 0;
    _granted = false;
    _mover = [];
    _moverFrom = [];
    _moverTo = [];
    _moverGone = [];
    _taken = [];
    _leaving = [];
    _asking = [];
    _askingLayer = [];
    _askingRefused = [];
    _decidedRule = [];
    _decidedVerb = [];
    _decidedMover = [];
    _decidedMet = [];
    _decidedPlace = [];
    _askingMost = [];
    _shovedOwn = 0;
    _stepX = 0;
    _stepY = 0;
    _heading = 0;
    _seen = 0;
    _falling = false;
    _detour = false;
    _refusedBy = 0;
    _refusedRule = 0;
    _refusedPiece = 0;
    _refusedMet = 0;
    _refusedPlace = 0;
    _bounces = false;
    _lastCheck = 0;
    _lastLine = 0;
    /** the number of the map, from 1 */
    map = 0;
    /** turns so far */
    turns = 0;
    /** turns of inputs in which something was granted */
    moves = 0;
    /** how the game stands */
    outcome = null;
    /** what the last input told */
    signals = [];
    _columns = 0;
    _rows = 0;
    _cells = 0;
    _at = [];
    _kindOf = [];
    _cellOf = [];
    _headingOf = [];
    _countOf = [];
    _newest = 0;
    _own = [];

    constructor(own = []) {
        this._own = own;
        this._newest = -1;
        this.map = own.length > 0 ? 2 : 1;
        this._beginGame();
    }

    /** A game on a board of its own in place of the maps, drawn with their letters. */
    static onBoardOf(lines) {
        return new Game(lines);
    }

    /** A game of its own that stands as this one does. */
    copy() {
        const other = Object.create(Game.prototype);
        for (const [name, value] of Object.entries(this)) {
            other[name] = Array.isArray(value) ? value.slice() : value;
        }
        return other;
    }

    /** The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy. */
    request(id, heading) {
        const granted = this._askFor(id, HEADINGS.indexOf(heading));
        const check = this._lastCheck < 0 ? null : CHECKS[this._lastCheck];
        const moved = this._movedPiece.map((piece, place) => ({
            id: piece,
            from: this._cell(this._movedFrom[place]),
            to: this._cell(this._cellOf[piece]),
        }));
        return { granted, check, line: this._lastLine, moved };
    }

    /** The board as lines of text, the top one first. */
    board() {
        const lines = [];
        for (let line = 0; line < this._rows; line++) {
            const row = FROM_TOP ? line : this._rows - 1 - line;
            let text = "";
            for (let column = 0; column < this._columns; column++) {
                text += this._letterOf(row * this._columns + column);
            }
            lines.push(text);
        }
        return lines;
    }

    /** The pieces in reading order, the lowest layer of a cell first, the ground left out. */
    pieces() {
        const found = [];
        this._listPieces(found);
        return found.map((piece) => ({
            id: piece,
            kind: KINDS_OF[this._kindOf[piece]],
            cell: this._cell(this._cellOf[piece]),
            heading: HEADINGS[this._headingOf[piece]] ?? null,
        }));
    }

    _cell(place) {
        return { column: place % this._columns, row: Math.floor(place / this._columns) };
    }

    _drawing(line) {
        return this._own.length > 0 ? this._own[line] : DRAWINGS[this.map - 1][line];
    }

    _drawingColumns() {
        return this._own.length > 0 ? this._own[0].length : MAP_COLUMNS[this.map - 1];
    }

    _drawingRows() {
        return this._own.length > 0 ? this._own.length : MAP_ROWS[this.map - 1];
    }

    /** The first promise that does not hold now, as the rulebook writes it. */
    broken() {
        return PROMISES[this._brokenPromise()] ?? null;
    }

    /** Does what an input asks for; false for a word that is none, and where nothing happens. */
    input(word) {
        const key = this._keyOf(word);
        if (key === KEY_RESTART) {
            this.signals = [];
            this._stopped = 0;
            this._restart();
            this._showChosen();
            return true;
        }
        if (key === KEY_NEXT) {
            if (this.outcome !== "won" || this.map >= MAP_COUNT) {
                return false;
            }
            this.signals = [];
            this._stopped = 0;
            this._nextMap();
            this._showChosen();
            return true;
        }
        if (key < 0 || this.outcome === "won" || this.outcome === "lost") {
            return false;
        }
        this.signals = [];
        this._turn(key);
        this._showChosen();
        return true;
    }

    /** The cell that everybody may see as chosen. */
    _showChosen() {
    }

    /** Reads a cell of a word from a place on, and stops behind it, at -1 where there is none. A place off the board is -1. */
    _readCell(word, place) {
        this._reading = place;
        const column = this._readNumber(word);
        if (this._reading < 0 || letterAt(word, this._reading) !== 44) {
            this._reading = -1;
            return -1;
        }
        this._reading += 1;
        const row = this._readNumber(word);
        if (this._reading < 0 || column < 0 || column >= this._columns || row < 0 || row >= this._rows) {
            return -1;
        }
        return (row * this._columns + column);
    }

    /** Reads a whole number of a word, and stops behind it, at -1 where there is none. */
    _readNumber(word) {
        let place = this._reading;
        let sign = 1;
        if (place < 0) {
            return 0;
        }
        if (letterAt(word, place) === 45) {
            sign = -1;
            place += 1;
        }
        const first = place;
        let value = 0;
        while (letterAt(word, place) >= 48 && letterAt(word, place) <= 57 && place - first < 16) {
            value = value * 10 + (letterAt(word, place) - 48);
            place += 1;
        }
        this._reading = place;
        if (place === first || place - first > 15) {
            this._reading = -1;
        }
        return sign * value;
    }

    /** A turn: rules act, then the board settles, then the end is looked at. */
    _turn(key) {
        if (this.outcome === "never settles") {
            this.outcome = null;
        }
        this._stopped = 0;
        this._granted = false;
        this.turns += 1;
        this._act(key);
        if (this._stopped === 0 && this._granted) {
            this.moves += 1;
        }
        if (this._stopped === 0) {
            this._lookAtEnd();
        }
        this._tapped = -1;
        this._dropped = -1;
        const ending = this._stopped;
        if (ending === BY_NEXT) {
            if (this.map < MAP_COUNT) {
                this._nextMap();
            } else {
                this.outcome = "won";
            }
        }
        this._stopped = 0;
    }

    /** Enters the map that follows. */
    _nextMap() {
        this.map += 1;
        this._noteEntry();
        this._enter();
    }

    /** Enters maps, as long as their beginning leads on. */
    _enter() {
        this._beginMap();
        while (this._stopped === BY_NEXT && this.map < MAP_COUNT) {
            this.map += 1;
            this._noteEntry();
            this._beginMap();
        }
    }

    /** Lays the map out and lets it begin. */
    _beginMap() {
        this._stopped = 0;
        this.outcome = null;
        this._tapped = -1;
        this._dropped = -1;
        this._layOut();
    }

    /** An empty board of the size of the map. */
    _makeBoard(columns, rows) {
        this._columns = columns;
        this._rows = rows;
        this._cells = columns * rows;
        this._clearPlan();
        this._at = new Array(LAYERS * this._cells).fill(-1);
        this._kindOf = new Array(2 * LAYERS * this._cells).fill(0);
        this._cellOf = new Array(2 * LAYERS * this._cells).fill(-1);
        this._headingOf = new Array(2 * LAYERS * this._cells).fill(-1);
        this._leaving = new Array(2 * LAYERS * this._cells).fill(0);
        this._countOf = new Array(KINDS).fill(0);
        this._newest = -1;
    }

    /** The pieces of a drawing. */
    _drawMap() {
        this._makeBoard(this._drawingColumns(), this._drawingRows());
        for (let line = 0; line < this._rows; line++) {
            for (let column = 0; column < this._columns; column++) {
                const place = line * this._columns + column;
                this._lay(place, letterAt(this._drawing(line), column));
            }
        }
    }

    /** The request of a piece with effects and slides and no turn round it; what it moved and who refused it stands in fields. */
    _askFor(piece, heading) {
        this.signals = [];
        this._movedPiece.length = 0;
        this._movedFrom.length = 0;
        this._lastCheck = -1;
        this._lastLine = 0;
        if (piece < 0 || piece >= 2 * LAYERS * this._cells) {
            return false;
        }
        this._stopped = 0;
        this._wasAt.length = 0;
        for (let number = 0; number < 2 * LAYERS * this._cells; number++) {
            this._wasAt.push(this._cellOf[number]);
        }
        const granted = this._askAlong(piece, heading);
        for (let number = 0; number < 2 * LAYERS * this._cells; number++) {
            if (this._wasAt[number] >= 0 && this._cellOf[number] >= 0 && this._wasAt[number] !== this._cellOf[number]) {
                this._movedPiece.push(number);
                this._movedFrom.push(this._wasAt[number]);
            }
        }
        this._wasAt.length = 0;
        this._stopped = 0;
        this._showChosen();
        return granted;
    }

    /** All porter, in reading order. */
    _eachPorter(found) {
        const left = this._countOf[KIND_PORTER];
        let place = 0;
        while (place < this._cells && found.length < left) {
            const piece1 = this._pieceAt(2, place);
            if (piece1 >= 0) {
                const kind2 = this._kindOf[piece1];
                if (kind2 === KIND_PORTER) {
                    found.push(piece1);
                }
            }
            place += 1;
        }
    }

    /** What happens on the key left. */
    _onLeft() {
        // 16: control porter with arrows
        const found1 = [];
        this._eachPorter(found1);
        this._step(found1, WEST, 1);
        if (this._stopped !== 0) {
            return;
        }
    }

    /** What happens on the key right. */
    _onRight() {
        // 16: control porter with arrows
        const found1 = [];
        this._eachPorter(found1);
        this._step(found1, EAST, 1);
        if (this._stopped !== 0) {
            return;
        }
    }

    /** What happens on the key up. */
    _onUp() {
        // 16: control porter with arrows
        const found1 = [];
        this._eachPorter(found1);
        this._step(found1, NORTH, 1);
        if (this._stopped !== 0) {
            return;
        }
    }

    /** What happens on the key down. */
    _onDown() {
        // 16: control porter with arrows
        const found1 = [];
        this._eachPorter(found1);
        this._step(found1, SOUTH, 1);
        if (this._stopped !== 0) {
            return;
        }
    }

    /** What a key or a touch does. */
    _act(key) {
        if (key === KEY_LEFT) {
            this._onLeft();
        }
        if (key === KEY_RIGHT) {
            this._onRight();
        }
        if (key === KEY_UP) {
            this._onUp();
        }
        if (key === KEY_DOWN) {
            this._onDown();
        }
    }

    /** What a word means, -1 for one that means nothing. */
    _keyOf(word) {
        this._tapped = -1;
        this._dropped = -1;
        if (word === "restart") {
            return KEY_RESTART;
        }
        if (word === "next") {
            return KEY_NEXT;
        }
        if (word === "left") {
            return KEY_LEFT;
        }
        if (word === "right") {
            return KEY_RIGHT;
        }
        if (word === "up") {
            return KEY_UP;
        }
        if (word === "down") {
            return KEY_DOWN;
        }
        if (word === "act") {
            return KEY_OTHER;
        }
        if (word === "alt") {
            return KEY_OTHER;
        }
        if (word.startsWith("key:")) {
            const letter = letterAt(word, 4);
            if (((letter >= 97 && letter <= 122) || (letter >= 48 && letter <= 57)) && letterAt(word, 5) === 0) {
                return KEY_OTHER;
            }
        }
        if (word.startsWith("tap:")) {
            this._tapped = this._readCell(word, 4);
            this._dropped = this._tapped;
            if (this._reading > 0 && letterAt(word, this._reading) === 0) {
                return KEY_TAP;
            }
        }
        if (word.startsWith("drag:")) {
            this._tapped = this._readCell(word, 5);
            if (this._reading > 0 && letterAt(word, this._reading) === 62) {
                this._dropped = this._readCell(word, this._reading + 1);
                if (this._reading > 0 && letterAt(word, this._reading) === 0) {
                    return KEY_DRAG;
                }
            }
        }
        return -1;
    }

    /** What the end of line 25 does. */
    _end25() {
        // 25: win when shoved > 1: next map
        this._stopped = BY_NEXT;
        return;
    }

    /** Whether the game is won or lost. */
    _lookAtEnd() {
        // 25: win when shoved > 1: next map
        if (this.shoved > 1) {
            this.outcome = "won";
            this._end25();
            return;
        }
    }

    /** The first promise that does not hold, by its number, -1 where all do. */
    _brokenPromise() {
        // 24: always shoved < 100
        if (!(this.shoved < 100)) {
            return 0;
        }
        return -1;
    }

    /** What the meeting of line 23 does besides. */
    _into23(asker, met, place, seen) {
        // 23: porter into crate: shove, add 1 to shoved
        this.shoved = this._bounded(this.shoved + 1);
    }

    /** The rule that decides when a kind meets another, 0 for none. */
    _meeting(asker, met, place, seen) {
        // 23: porter into crate: shove, add 1 to shoved
        if (asker === KIND_PORTER && met === KIND_CRATE) {
            return 1;
        }
        return 0;
    }

    /** What a meeting does besides. */
    _doMeeting(rule, asker, met, place, seen) {
        if (rule === 1) {
            this._into23(asker, met, place, seen);
        }
    }

    /** Puts into a cell what a letter of a drawing stands for. */
    _lay(place, letter) {
        if (letter === 32) {
            this._at[place] = -2;
            return;
        }
        // P  porter
        if (letter === 80) {
            this._add(place, KIND_PORTER);
        }
        // C  crate
        if (letter === 67) {
            this._add(place, KIND_CRATE);
        }
        this._add(place, GROUND);
    }

    /** The board of the map at its beginning. */
    _layOut() {
        this._drawMap();
    }

    /** Begins a game on its map. */
    _beginGame() {
        this.turns = 0;
        this.moves = 0;
        this.shoved = 0;
        this._noteEntry();
        this._enter();
        this._showChosen();
    }

    /** Notes the state in which a map is entered. */
    _noteEntry() {
        this._entryTurns = this.turns;
        this._entryMoves = this.moves;
        this._entryShoved = this.shoved;
    }

    /** The map begins again. */
    _restart() {
        this.turns = this._entryTurns;
        this.moves = this._entryMoves;
        this.shoved = this._entryShoved;
        this._noteEntry();
        this._enter();
    }

    /** The letter that a cell is drawn with. */
    _letterOf(place) {
        if (this._isVoid(place)) {
            return " ";
        }
        const kind = this._topKind(place);
        if (kind < 0) {
            return "_";
        }
        return GLYPH_OF[kind];
    }

    /** A request for every piece, the foremost first; each may ask so many times in a row. Whether one was granted. */
    _step(pieces, heading, times) {
        const ordered = [];
        this._foremostFirst(pieces, heading, ordered);
        let granted = false;
        for (let number = 0; number < ordered.length; number++) {
            let left = times;
            while (left > 0 && this._stopped === 0) {
                left -= 1;
                if (this._askAlong(ordered[number], heading)) {
                    granted = true;
                } else {
                    left = 0;
                }
            }
        }
        return granted;
    }

    /** Forgets the plan of the request before. */
    _clearPlan() {
        for (let number = 0; number < this._mover.length; number++) {
            this._leaving[this._mover[number]] = 0;
        }
        for (let number = 0; number < this._taken.length; number++) {
            this._leaving[this._taken[number]] = 0;
        }
        this._mover.length = 0;
        this._moverFrom.length = 0;
        this._moverTo.length = 0;
        this._moverGone.length = 0;
        this._taken.length = 0;
        this._asking.length = 0;
        this._askingLayer.length = 0;
        this._askingRefused.length = 0;
        this._decidedRule.length = 0;
        this._decidedVerb.length = 0;
        this._decidedMover.length = 0;
        this._decidedMet.length = 0;
        this._decidedPlace.length = 0;
        this._askingMost.length = 0;
        this._shovedOwn = 0;
        this._detour = false;
        this._refusedBy = -1;
        this._refusedRule = 0;
        this._bounces = false;
    }

    /** Works out what a request would do; nothing on the board changes. Whether it is granted. */
    _plan(piece, columns, rows, heading, seen, falling) {
        this._clearPlan();
        this._stepX = columns;
        this._stepY = rows;
        this._heading = heading;
        this._seen = seen;
        this._falling = falling;
        this._beginAsking(piece, 2147483647);
        while (this._asking.length > 0) {
            const last = this._asking.length - 1;
            if (this._askingLayer[last] === -2) {
                this._lookAtTarget(last);
            } else {
                if (this._askingLayer[last] >= 0) {
                    this._lookAtLayer(last);
                } else {
                    this._endAsking(last);
                }
            }
        }
        if (this._refusedBy < 0) {
            this._checkRoom();
        }
        return this._refusedBy < 0;
    }

    /** A piece joins the plan and asks. */
    _beginAsking(piece, most) {
        this._asking.push(this._mover.length);
        this._askingLayer.push(-2);
        this._askingRefused.push(0);
        this._askingMost.push(most);
        this._addMover(piece, this._cellOf[piece], this._cellOf[piece]);
    }

    /** Adds a piece to those that the plan moves. */
    _addMover(piece, origin, goal) {
        this._mover.push(piece);
        this._moverFrom.push(origin);
        this._moverTo.push(goal);
        this._moverGone.push(0);
        this._leaving[piece] = 1;
    }

    /** Notes why a request is refused, the first reason only. */
    _refuse(last, check, rule, piece, met, place) {
        if (this._refusedBy < 0) {
            this._refusedBy = check;
            this._refusedRule = rule;
            this._refusedPiece = piece;
            this._refusedMet = met;
            this._refusedPlace = place;
        }
        if (last >= 0) {
            this._askingRefused[last] = 1;
            this._askingLayer[last] = -1;
        }
    }

    /** Notes a rule that decides a meeting, for what it does besides. */
    _decide(mover, rule, verb, met, place) {
        this._decidedRule.push(rule);
        this._decidedVerb.push(verb);
        this._decidedMover.push(mover);
        this._decidedMet.push(met);
        this._decidedPlace.push(place);
    }

    /** Where the piece that asks would go: the edge, void, and the corners of a diagonal step. */
    _lookAtTarget(last) {
        const mover = this._asking[last];
        const piece = this._mover[mover];
        const origin = this._moverFrom[mover];
        const goal = this._shifted(origin, this._stepX, this._stepY);
        if (goal < 0) {
            this._refuse(last, CHECK_EDGE, 0, piece, -1, origin);
            return;
        }
        if (this._isVoid(goal)) {
            this._refuse(last, CHECK_VOID, 0, piece, -1, origin);
            return;
        }
        this._moverTo[mover] = goal;
        this._askingLayer[last] = LAYERS - 1;
    }

    /** A rule refuses; one that bounces turns the piece whose own request this is. */
    _refuseAt(last, mover, check, rule, met, place) {
        this._refuse(last, check, rule, this._mover[mover], met, place);
    }

    /** The next layer of the target, from the top down. */
    _lookAtLayer(last) {
        const layer = this._askingLayer[last];
        this._askingLayer[last] = layer - 1;
        const mover = this._asking[last];
        const place = this._moverTo[mover];
        const met = this._pieceAt(layer, place);
        if (met < 0 || this._leaving[met] !== 0) {
            return;
        }
        const kind = this._kindOf[this._mover[mover]];
        const rule = this._meeting(kind, this._kindOf[met], place, this._seen);
        if (rule === 0) {
            // Without a rule pieces of one layer stop each other.
            if (LAYER_OF[kind] === layer) {
                this._refuseAt(last, mover, CHECK_MEETS, 0, met, place);
            }
            return;
        }
        if (VERB_OF[rule] === SHOVE) {
            this._shove(last, mover, met, place, rule);
            return;
        }
        this._apply(last, mover, met, place, rule, VERB_OF[rule]);
    }

    /** What a verb does to the plan. */
    _apply(last, mover, met, place, rule, verb) {
        if (verb === STOP) {
            this._refuseAt(last, mover, CHECK_MEETS, rule, met, place);
            return;
        }
        this._decide(mover, rule, verb, met, place);
    }

    /** What is met asks for the same step in the same plan. */
    _shove(last, mover, met, place, rule) {
        if (this._falling) {
            this._refuseAt(last, mover, CHECK_MEETS, rule, met, place);
            return;
        }
        const most = this._askingMost[last];
        this._decide(mover, rule, SHOVE, met, place);
        this._beginAsking(met, most);
        this._shovedOwn += 1;
    }

    /** A piece has asked; a refusal goes to the one that shoved it, unless there is an else. */
    _endAsking(last) {
        const refused = this._askingRefused[last] !== 0;
        this._asking.pop();
        this._askingLayer.pop();
        this._askingRefused.pop();
        this._askingMost.pop();
        if (refused && last > 0) {
            this._askingRefused[last - 1] = 1;
            this._askingLayer[last - 1] = -1;
        }
    }

    /** Two pieces of the plan on one layer of a cell, or one where another stays. */
    _checkRoom() {
        for (let number = 0; number < this._mover.length; number++) {
            if (this._moverGone[number] === 0) {
                const piece = this._mover[number];
                const layer = LAYER_OF[this._kindOf[piece]];
                const place = this._moverTo[number];
                const there = this._pieceAt(layer, place);
                if (there >= 0 && this._leaving[there] === 0) {
                    this._refuse(-1, CHECK_ROOM, 0, piece, there, place);
                }
                for (let other = number + 1; other < this._mover.length; other++) {
                    if (this._moverGone[other] === 0 && this._moverTo[other] === place && LAYER_OF[this._kindOf[this._mover[other]]] === layer) {
                        this._refuse(-1, CHECK_ROOM, 0, piece, this._mover[other], place);
                    }
                }
            }
        }
    }

    /** A piece asks for a step, and what slides by it asks on before anybody else. Whether the step was granted. */
    _ask(piece, columns, rows, heading, seen) {
        return this._askOnce(piece, columns, rows, heading, seen);
    }

    /** One request: planned, carried out or refused, with its effects. */
    _askOnce(piece, columns, rows, heading, seen) {
        if (this._cellOf[piece] < 0) {
            return false;
        }
        const granted = this._plan(piece, columns, rows, heading, seen, false);
        this._lastCheck = this._refusedBy;
        this._lastLine = LINE_OF[this._refusedRule];
        if (granted) {
            this._granted = true;
            this._commit(piece);
        } else {
            this._refused(piece);
        }
        return granted;
    }

    /** A step along a heading. */
    _askAlong(piece, heading) {
        return this._ask(piece, STEP_X[heading], STEP_Y[heading], heading, heading);
    }

    /** Carries the plan out, then does the effects. */
    _commit(piece) {
        const heading = this._heading;
        const seen = this._seen;
        for (let number = 0; number < this._taken.length; number++) {
            this._remove(this._taken[number]);
        }
        for (let number = 0; number < this._mover.length; number++) {
            if (this._moverGone[number] !== 0) {
                this._remove(this._mover[number]);
            } else {
                this._lift(this._mover[number]);
            }
        }
        for (let number = 0; number < this._mover.length; number++) {
            if (this._moverGone[number] === 0) {
                this._put(this._mover[number], this._moverTo[number]);
            }
        }
        if (heading >= 0 && !this._falling && this._cellOf[piece] >= 0) {
            this._headingOf[piece] = heading;
        }
        const rules = [];
        const askers = [];
        const met = [];
        const places = [];
        this._inOrder(rules, askers, met, places);
        for (let number = 0; number < rules.length; number++) {
            if (this._stopped !== 0) {
                return;
            }
            this._doMeeting(rules[number], askers[number], met[number], places[number], seen);
        }
    }

    /** The meetings that were decided and do more, those of the piece that asked first. */
    _inOrder(rules, askers, met, places) {
        for (let mover = 0; mover < this._mover.length; mover++) {
            for (let number = 0; number < this._decidedRule.length; number++) {
                if (this._decidedMover[number] === mover && HAS_EFFECTS[this._decidedRule[number]] !== 0) {
                    rules.push(this._decidedRule[number]);
                    askers.push(this._mover[mover]);
                    met.push(this._decidedMet[number]);
                    places.push(this._decidedPlace[number]);
                }
            }
        }
    }

    /** What a refusal does: a bounce turns, and the effects of the rule that refused happen. */
    _refused(piece) {
        if (HAS_EFFECTS[this._refusedRule] !== 0) {
            let place = this._refusedPlace;
            if (this._refusedBy !== CHECK_MEETS) {
                place = this._cellOf[this._refusedPiece];
            }
            this._doMeeting(this._refusedRule, this._refusedPiece, this._refusedMet, place, this._seen);
        }
    }

    /** The piece on a layer of a cell, -1 where there is none. */
    _pieceAt(layer, place) {
        return this._at[layer * this._cells + place];
    }

    /** The cell so many columns and rows away, -1 off the board. */
    _shifted(place, columns, rows) {
        const column = place % this._columns + columns;
        const row = Math.floor(place / this._columns) + rows;
        if (column < 0 || column >= this._columns || row < 0 || row >= this._rows) {
            return -1;
        }
        return row * this._columns + column;
    }

    /** Whether the map has no cell here. */
    _isVoid(place) {
        return this._at[place] === -2;
    }

    /** Takes a piece out of its cell. */
    _lift(piece) {
        const kind = this._kindOf[piece];
        this._at[LAYER_OF[kind] * this._cells + this._cellOf[piece]] = -1;
        this._cellOf[piece] = -1;
        this._countOf[kind] -= 1;
    }

    /** Puts a piece that stands nowhere into a cell. */
    _put(piece, place) {
        const kind = this._kindOf[piece];
        this._at[LAYER_OF[kind] * this._cells + place] = piece;
        this._cellOf[piece] = place;
        this._countOf[kind] += 1;
    }

    /** Takes a piece off the board. */
    _remove(piece) {
        if (this._cellOf[piece] >= 0) {
            this._lift(piece);
        }
    }

    /** The number of a piece that is not on the board. */
    _unused() {
        let piece = this._newest;
        let taken = true;
        while (taken) {
            piece = (piece + 1) % (2 * LAYERS * this._cells);
            taken = this._cellOf[piece] >= 0;
        }
        this._newest = piece;
        return piece;
    }

    /** Puts a new piece into a cell; -1 where its layer is taken or the map has no cell. */
    _add(place, kind) {
        if (this._pieceAt(LAYER_OF[kind], place) >= 0 || this._isVoid(place)) {
            return -1;
        }
        const piece = this._unused();
        this._kindOf[piece] = kind;
        this._headingOf[piece] = FACING[kind];
        this._put(piece, place);
        return piece;
    }

    /** The topmost piece of a cell, the ground aside; -1 where there is none. */
    _topPiece(place) {
        for (let below = 0; below < LAYERS; below++) {
            const piece = this._pieceAt(LAYERS - 1 - below, place);
            if (piece >= 0 && this._kindOf[piece] !== GROUND) {
                return piece;
            }
        }
        return -1;
    }

    /** The kind that stands topmost in a cell, the ground only where nothing else does; -1 for nothing. */
    _topKind(place) {
        const piece = this._topPiece(place);
        if (piece >= 0) {
            return this._kindOf[piece];
        }
        if (this._pieceAt(LAYER_OF[GROUND], place) >= 0) {
            return GROUND;
        }
        return -1;
    }

    /** A counter within its bounds. */
    _bounded(value) {
        if (value > 1000000000000000) {
            return 1000000000000000;
        }
        if (value < -1000000000000000) {
            return -1000000000000000;
        }
        return value;
    }

    /** Puts pieces in order, the foremost along a heading first. */
    _foremostFirst(pieces, heading, ordered) {
        ordered.length = 0;
        if (pieces.length === 1) {
            ordered.push(pieces[0]);
            return;
        }
        const far = this._columns + this._rows;
        for (let back = 0; back < 2 * far + 1; back++) {
            for (let number = 0; number < pieces.length; number++) {
                const place = this._cellOf[pieces[number]];
                if (place >= 0 && place % this._columns * STEP_X[heading] + Math.floor(place / this._columns) * STEP_Y[heading] === far - back) {
                    ordered.push(pieces[number]);
                }
            }
        }
    }

    /** The pieces in reading order, the lowest layer of a cell first, the ground left out. */
    _listPieces(found) {
        for (let place = 0; place < this._cells; place++) {
            for (let layer = 0; layer < LAYERS; layer++) {
                const piece = this._pieceAt(layer, place);
                if (piece >= 0 && this._kindOf[piece] !== GROUND) {
                    found.push(piece);
                }
            }
        }
    }
}
