// This was emitted by rapid-magpie, and is replaced where that is done again.
// Positions come out as with `rapid-magpie convert`, to the last bit.
// The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.

export type Cell = { column: number; row: number };
export type Point = { x: number; y: number };
export type Rect = { x: number; y: number; w: number; h: number };
export type Where = "bar" | "outside" | "gap" | "void" | "cell";

export type Kind = "plank" | "porter" | "crate";

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
    readonly columns: number;
    readonly rows: number;
    private readonly originX: number;
    private readonly originY: number;
    protected readonly void: readonly string[];

    constructor(columns: number, rows: number, originX: number, originY: number, rowsOfCells: readonly string[]) {
        this.columns = columns;
        this.rows = rows;
        this.originX = originX;
        this.originY = originY;
        this.void = rowsOfCells;
    }

    /** The grid of a map, counted from 1. */
    static ofMap(number: number): Grid {
        return MAPS[number - 1]!;
    }

    /** The cell of a world position, on the board or off it. */
    worldToCell(x: number, y: number): Cell {
        const column = Math.floor((x + HOTSPOT_X - this.originX) / PITCH_X) + 0;
        const row = Math.floor((y + HOTSPOT_Y - this.originY) / PITCH_Y) + 0;
        return { column, row };
    }

    /** What lies at a world position. */
    worldWhere(x: number, y: number): Where {
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
        if (this.void[cell.row]![cell.column] === " ") {
            return "void";
        }
        return "cell";
    }

    /** The cell of the board that is nearest to a world position. */
    snap(x: number, y: number): Cell {
        const cell = this.worldToCell(x, y);
        return { column: Math.min(Math.max(cell.column, 0), this.columns - 1), row: Math.min(Math.max(cell.row, 0), this.rows - 1) };
    }

    /** The corner of a cell where counting starts, in world px. */
    cellToCorner(cell: Cell): Point {
        return { x: this.originX + cell.column * PITCH_X, y: this.originY + cell.row * PITCH_Y };
    }

    /** The middle of a cell in world px. */
    cellToCentre(cell: Cell): Point {
        return { x: this.originX + (cell.column * PITCH_X + CELL_WIDTH / 2.0), y: this.originY + (cell.row * PITCH_Y + CELL_HEIGHT / 2.0) };
    }

    /** The rectangle of a cell, from its smallest x and y. */
    cellToBox(cell: Cell): Rect {
        const corner = this.cellToCorner(cell);
        return { x: corner.x, y: corner.y, w: CELL_WIDTH, h: CELL_HEIGHT };
    }

    /** Whether a cell lies on the board. */
    inside(cell: Cell): boolean {
        return cell.column >= 0 && cell.column < this.columns && cell.row >= 0 && cell.row < this.rows;
    }

    /** The place of a cell in the flat array, nothing off the board. */
    cellToIndex(cell: Cell): number | null {
        if (!this.inside(cell)) {
            return null;
        }
        return cell.row * this.columns + cell.column + FIRST_INDEX;
    }

    /** The cell at a place in the flat array, nothing where there is none. */
    indexToCell(index: number): Cell | null {
        const place = index - FIRST_INDEX;
        if (place < 0 || place >= this.columns * this.rows) {
            return null;
        }
        return { column: place % this.columns, row: Math.floor(place / this.columns) };
    }

    /** The cell of the world position of a piece of this kind, whose hotspot counts. */
    worldToCellOf(kind: Kind, x: number, y: number): Cell {
        if (kind === "crate") {
            const column = Math.floor((x + 3.0 - this.originX) / PITCH_X) + 0;
            const row = Math.floor((y + 0.0 - this.originY) / PITCH_Y) + 0;
            return { column, row };
        }
        return this.worldToCell(x, y);
    }

    /** The world position of a window position. */
    windowToWorld(x: number, y: number): Point {
        const across = x / SCALE_X;
        const down = y / SCALE_Y;
        return { x: CAMERA_X + across, y: CAMERA_Y + down };
    }

    /** The window position of a world position. */
    worldToWindow(x: number, y: number): Point {
        return { x: x * SCALE_X + BAR_X, y: y * SCALE_Y + BAR_Y };
    }

    /** The cell of a world position without any hotspot. */
    cellAt(x: number, y: number): Cell {
        const column = Math.floor((x - this.originX) / PITCH_X) + 0;
        const row = Math.floor((y - this.originY) / PITCH_Y) + 0;
        return { column, row };
    }

    /** What lies at a world position without any hotspot. */
    whereAt(x: number, y: number): Where {
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
        if (this.void[cell.row]![cell.column] === " ") {
            return "void";
        }
        return "cell";
    }

    /** The cell of a window position, on the board or off it. */
    windowToCell(x: number, y: number): Cell {
        const world = this.windowToWorld(x, y);
        return this.cellAt(world.x, world.y);
    }

    /** What lies at a window position. */
    windowWhere(x: number, y: number): Where {
        const across = x / SCALE_X;
        const down = y / SCALE_Y;
        if (!(across >= 0.0 && across < DESIGN_WIDTH && down >= 0.0 && down < DESIGN_HEIGHT)) {
            return "bar";
        }
        const world = this.windowToWorld(x, y);
        return this.whereAt(world.x, world.y);
    }

    /** The window position of the middle of a cell. */
    cellToWindow(cell: Cell): Point {
        const centre = this.cellToCentre(cell);
        return this.worldToWindow(centre.x, centre.y);
    }
}

const MAPS: readonly Grid[] = [
    // "Left"
    new Grid(3, 2, 8.0, 6.0, ["...", ".. "]),
    // "Right"
    new Grid(4, 1, 8.0, 6.0, ["...."]),
];

export type Heading = "west" | "east" | "north" | "south" | "north-west" | "north-east" | "south-west" | "south-east";
export type Check = "edge" | "void" | "meets" | "corner" | "limit" | "room";
export type Outcome = "won" | "lost" | "never settles";
export type Piece = { id: number; kind: Kind; cell: Cell; heading: Heading | null };
export type Move = { id: number; from: Cell; to: Cell };
export type Answer = { granted: boolean; check: Check | null; line: number; moved: Move[] };

const HEADINGS: readonly Heading[] = ["west", "east", "north", "south", "north-west", "north-east", "south-west", "south-east"];
const CHECKS: readonly Check[] = ["edge", "void", "meets", "corner", "limit", "room"];
const KINDS_OF: readonly Kind[] = ["plank", "porter", "crate"];
const KIND_PORTER: number = 1;
const KIND_CRATE: number = 2;
const WEST: number = 0;
const EAST: number = 1;
const NORTH: number = 2;
const SOUTH: number = 3;
const STOP: number = 0;
const SHOVE: number = 2;
const CHECK_EDGE: number = 0;
const CHECK_VOID: number = 1;
const CHECK_MEETS: number = 2;
const CHECK_ROOM: number = 5;
const BY_NEXT: number = 2;
const KEY_RESTART: number = 0;
const KEY_NEXT: number = 1;
const KEY_TAP: number = 2;
const KEY_DRAG: number = 3;
const KEY_OTHER: number = 4;
const KEY_DOWN: number = 5;
const KEY_LEFT: number = 6;
const KEY_RIGHT: number = 7;
const KEY_UP: number = 8;
const LAYERS: number = 3;
const KINDS: number = 3;
const MAP_COUNT: number = 2;
const GROUND: number = 0;
const LAYER_OF: readonly number[] = [0, 2, 2];
const FACING: readonly number[] = [-1, -1, -1];
const STEP_X: readonly number[] = [-1, 1, 0, 0, -1, 1, -1, 1];
const STEP_Y: readonly number[] = [0, 0, -1, 1, -1, -1, 1, 1];
const MAP_COLUMNS: readonly number[] = [3, 4];
const MAP_ROWS: readonly number[] = [2, 1];
const GLYPH_OF: readonly string[] = [".", "P", "C"];
const VERB_OF: readonly number[] = [0, 2];
const HAS_EFFECTS: readonly number[] = [0, 1];
const LINE_OF: readonly number[] = [0, 23];
const PROMISES: readonly string[] = ["always shoved < 100"];
const FROM_TOP: boolean = true;
const DRAWINGS: readonly (readonly string[])[] = [
    [
        "P.C",
        ".. ",
    ],
    [
        "P...",
    ],
];

function letterAt(text: string, place: number): number {
    return place < text.length ? text.charCodeAt(place) : 0;
}

/** A game: a copy of it is a game of its own, and going on with one takes back what was played since. */
export class Game {
    private _tapped: number = 0;
    private _dropped: number = 0;
    private _reading: number = 0;
    private _entryTurns: number = 0;
    private _entryMoves: number = 0;
    private _movedPiece: number[] = [];
    private _movedFrom: number[] = [];
    private _wasAt: number[] = [];
    /** a counter */
    shoved: number = 0;
    private _entryShoved: number = 0;
    private _stopped: number = 0;
    private _granted: boolean = false;
    private _mover: number[] = [];
    private _moverFrom: number[] = [];
    private _moverTo: number[] = [];
    private _moverGone: number[] = [];
    private _taken: number[] = [];
    private _leaving: number[] = [];
    private _asking: number[] = [];
    private _askingLayer: number[] = [];
    private _askingRefused: number[] = [];
    private _decidedRule: number[] = [];
    private _decidedVerb: number[] = [];
    private _decidedMover: number[] = [];
    private _decidedMet: number[] = [];
    private _decidedPlace: number[] = [];
    private _askingMost: number[] = [];
    private _shovedOwn: number = 0;
    private _stepX: number = 0;
    private _stepY: number = 0;
    private _heading: number = 0;
    private _seen: number = 0;
    private _falling: boolean = false;
    private _detour: boolean = false;
    private _refusedBy: number = 0;
    private _refusedRule: number = 0;
    private _refusedPiece: number = 0;
    private _refusedMet: number = 0;
    private _refusedPlace: number = 0;
    private _bounces: boolean = false;
    private _lastCheck: number = 0;
    private _lastLine: number = 0;
    /** the number of the map, from 1 */
    map: number = 0;
    /** turns so far */
    turns: number = 0;
    /** turns of inputs in which something was granted */
    moves: number = 0;
    /** how the game stands */
    outcome: Outcome | null = null;
    /** what the last input told */
    signals: string[] = [];
    private _columns: number = 0;
    private _rows: number = 0;
    private _cells: number = 0;
    private _at: number[] = [];
    private _kindOf: number[] = [];
    private _cellOf: number[] = [];
    private _headingOf: number[] = [];
    private _countOf: number[] = [];
    private _newest: number = 0;
    private _own: readonly string[] = [];

    constructor(own: readonly string[] = []) {
        this._own = own;
        this._newest = -1;
        this.map = own.length > 0 ? 2 : 1;
        this._beginGame();
    }

    /** A game on a board of its own in place of the maps, drawn with their letters. */
    static onBoardOf(lines: readonly string[]): Game {
        return new Game(lines);
    }

    /** A game of its own that stands as this one does. */
    copy(): Game {
        const other = Object.create(Game.prototype);
        for (const [name, value] of Object.entries(this)) {
            other[name] = Array.isArray(value) ? value.slice() : value;
        }
        return other;
    }

    /** The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy. */
    request(id: number, heading: Heading): Answer {
        const granted = this._askFor(id, HEADINGS.indexOf(heading));
        const check = this._lastCheck < 0 ? null : CHECKS[this._lastCheck]!;
        const moved = this._movedPiece.map((piece, place) => ({
            id: piece,
            from: this._cell(this._movedFrom[place]!),
            to: this._cell(this._cellOf[piece]!),
        }));
        return { granted, check, line: this._lastLine, moved };
    }

    /** The board as lines of text, the top one first. */
    board(): string[] {
        const lines: string[] = [];
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
    pieces(): Piece[] {
        const found: number[] = [];
        this._listPieces(found);
        return found.map((piece) => ({
            id: piece,
            kind: KINDS_OF[this._kindOf[piece]!]!,
            cell: this._cell(this._cellOf[piece]!),
            heading: HEADINGS[this._headingOf[piece]!] ?? null,
        }));
    }

    private _cell(place: number): Cell {
        return { column: place % this._columns, row: Math.floor(place / this._columns) };
    }

    private _drawing(line: number): string {
        return this._own.length > 0 ? this._own[line]! : DRAWINGS[this.map - 1]![line]!;
    }

    private _drawingColumns(): number {
        return this._own.length > 0 ? this._own[0]!.length : MAP_COLUMNS[this.map - 1]!;
    }

    private _drawingRows(): number {
        return this._own.length > 0 ? this._own.length : MAP_ROWS[this.map - 1]!;
    }

    /** The first promise that does not hold now, as the rulebook writes it. */
    broken(): string | null {
        return PROMISES[this._brokenPromise()] ?? null;
    }

    /** Does what an input asks for; false for a word that is none, and where nothing happens. */
    input(word: string): boolean {
        const key: number = this._keyOf(word);
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
    private _showChosen(): void {
    }

    /** Reads a cell of a word from a place on, and stops behind it, at -1 where there is none. A place off the board is -1. */
    private _readCell(word: string, place: number): number {
        this._reading = place;
        const column: number = this._readNumber(word);
        if (this._reading < 0 || letterAt(word, this._reading) !== 44) {
            this._reading = -1;
            return -1;
        }
        this._reading += 1;
        const row: number = this._readNumber(word);
        if (this._reading < 0 || column < 0 || column >= this._columns || row < 0 || row >= this._rows) {
            return -1;
        }
        return (row * this._columns + column);
    }

    /** Reads a whole number of a word, and stops behind it, at -1 where there is none. */
    private _readNumber(word: string): number {
        let place: number = this._reading;
        let sign: number = 1;
        if (place < 0) {
            return 0;
        }
        if (letterAt(word, place) === 45) {
            sign = -1;
            place += 1;
        }
        const first: number = place;
        let value: number = 0;
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
    private _turn(key: number): void {
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
        const ending: number = this._stopped;
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
    private _nextMap(): void {
        this.map += 1;
        this._noteEntry();
        this._enter();
    }

    /** Enters maps, as long as their beginning leads on. */
    private _enter(): void {
        this._beginMap();
        while (this._stopped === BY_NEXT && this.map < MAP_COUNT) {
            this.map += 1;
            this._noteEntry();
            this._beginMap();
        }
    }

    /** Lays the map out and lets it begin. */
    private _beginMap(): void {
        this._stopped = 0;
        this.outcome = null;
        this._tapped = -1;
        this._dropped = -1;
        this._layOut();
    }

    /** An empty board of the size of the map. */
    private _makeBoard(columns: number, rows: number): void {
        this._columns = columns;
        this._rows = rows;
        this._cells = columns * rows;
        this._clearPlan();
        this._at = new Array<number>(LAYERS * this._cells).fill(-1);
        this._kindOf = new Array<number>(2 * LAYERS * this._cells).fill(0);
        this._cellOf = new Array<number>(2 * LAYERS * this._cells).fill(-1);
        this._headingOf = new Array<number>(2 * LAYERS * this._cells).fill(-1);
        this._leaving = new Array<number>(2 * LAYERS * this._cells).fill(0);
        this._countOf = new Array<number>(KINDS).fill(0);
        this._newest = -1;
    }

    /** The pieces of a drawing. */
    private _drawMap(): void {
        this._makeBoard(this._drawingColumns(), this._drawingRows());
        for (let line = 0; line < this._rows; line++) {
            for (let column = 0; column < this._columns; column++) {
                const place: number = line * this._columns + column;
                this._lay(place, letterAt(this._drawing(line), column));
            }
        }
    }

    /** The request of a piece with effects and slides and no turn round it; what it moved and who refused it stands in fields. */
    private _askFor(piece: number, heading: number): boolean {
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
            this._wasAt.push(this._cellOf[number]!);
        }
        const granted: boolean = this._askAlong(piece, heading);
        for (let number = 0; number < 2 * LAYERS * this._cells; number++) {
            if (this._wasAt[number]! >= 0 && this._cellOf[number]! >= 0 && this._wasAt[number]! !== this._cellOf[number]!) {
                this._movedPiece.push(number);
                this._movedFrom.push(this._wasAt[number]!);
            }
        }
        this._wasAt.length = 0;
        this._stopped = 0;
        this._showChosen();
        return granted;
    }

    /** All porter, in reading order. */
    private _eachPorter(found: number[]): void {
        const left: number = this._countOf[KIND_PORTER]!;
        let place: number = 0;
        while (place < this._cells && found.length < left) {
            const piece1: number = this._pieceAt(2, place);
            if (piece1 >= 0) {
                const kind2: number = this._kindOf[piece1]!;
                if (kind2 === KIND_PORTER) {
                    found.push(piece1);
                }
            }
            place += 1;
        }
    }

    /** What happens on the key left. */
    private _onLeft(): void {
        // 16: control porter with arrows
        const found1: number[] = [];
        this._eachPorter(found1);
        this._step(found1, WEST, 1);
        if (this._stopped !== 0) {
            return;
        }
    }

    /** What happens on the key right. */
    private _onRight(): void {
        // 16: control porter with arrows
        const found1: number[] = [];
        this._eachPorter(found1);
        this._step(found1, EAST, 1);
        if (this._stopped !== 0) {
            return;
        }
    }

    /** What happens on the key up. */
    private _onUp(): void {
        // 16: control porter with arrows
        const found1: number[] = [];
        this._eachPorter(found1);
        this._step(found1, NORTH, 1);
        if (this._stopped !== 0) {
            return;
        }
    }

    /** What happens on the key down. */
    private _onDown(): void {
        // 16: control porter with arrows
        const found1: number[] = [];
        this._eachPorter(found1);
        this._step(found1, SOUTH, 1);
        if (this._stopped !== 0) {
            return;
        }
    }

    /** What a key or a touch does. */
    private _act(key: number): void {
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
    private _keyOf(word: string): number {
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
            const letter: number = letterAt(word, 4);
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
    private _end25(): void {
        // 25: win when shoved > 1: next map
        this._stopped = BY_NEXT;
        return;
    }

    /** Whether the game is won or lost. */
    private _lookAtEnd(): void {
        // 25: win when shoved > 1: next map
        if (this.shoved > 1) {
            this.outcome = "won";
            this._end25();
            return;
        }
    }

    /** The first promise that does not hold, by its number, -1 where all do. */
    private _brokenPromise(): number {
        // 24: always shoved < 100
        if (!(this.shoved < 100)) {
            return 0;
        }
        return -1;
    }

    /** What the meeting of line 23 does besides. */
    private _into23(asker: number, met: number, place: number, seen: number): void {
        // 23: porter into crate: shove, add 1 to shoved
        this.shoved = this._bounded(this.shoved + 1);
    }

    /** The rule that decides when a kind meets another, 0 for none. */
    private _meeting(asker: number, met: number, place: number, seen: number): number {
        // 23: porter into crate: shove, add 1 to shoved
        if (asker === KIND_PORTER && met === KIND_CRATE) {
            return 1;
        }
        return 0;
    }

    /** What a meeting does besides. */
    private _doMeeting(rule: number, asker: number, met: number, place: number, seen: number): void {
        if (rule === 1) {
            this._into23(asker, met, place, seen);
        }
    }

    /** Puts into a cell what a letter of a drawing stands for. */
    private _lay(place: number, letter: number): void {
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
    private _layOut(): void {
        this._drawMap();
    }

    /** Begins a game on its map. */
    private _beginGame(): void {
        this.turns = 0;
        this.moves = 0;
        this.shoved = 0;
        this._noteEntry();
        this._enter();
        this._showChosen();
    }

    /** Notes the state in which a map is entered. */
    private _noteEntry(): void {
        this._entryTurns = this.turns;
        this._entryMoves = this.moves;
        this._entryShoved = this.shoved;
    }

    /** The map begins again. */
    private _restart(): void {
        this.turns = this._entryTurns;
        this.moves = this._entryMoves;
        this.shoved = this._entryShoved;
        this._noteEntry();
        this._enter();
    }

    /** The letter that a cell is drawn with. */
    private _letterOf(place: number): string {
        if (this._isVoid(place)) {
            return " ";
        }
        const kind: number = this._topKind(place);
        if (kind < 0) {
            return "_";
        }
        return GLYPH_OF[kind]!;
    }

    /** A request for every piece, the foremost first; each may ask so many times in a row. Whether one was granted. */
    private _step(pieces: readonly number[], heading: number, times: number): boolean {
        const ordered: number[] = [];
        this._foremostFirst(pieces, heading, ordered);
        let granted: boolean = false;
        for (let number = 0; number < ordered.length; number++) {
            let left: number = times;
            while (left > 0 && this._stopped === 0) {
                left -= 1;
                if (this._askAlong(ordered[number]!, heading)) {
                    granted = true;
                } else {
                    left = 0;
                }
            }
        }
        return granted;
    }

    /** Forgets the plan of the request before. */
    private _clearPlan(): void {
        for (let number = 0; number < this._mover.length; number++) {
            this._leaving[this._mover[number]!] = 0;
        }
        for (let number = 0; number < this._taken.length; number++) {
            this._leaving[this._taken[number]!] = 0;
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
    private _plan(piece: number, columns: number, rows: number, heading: number, seen: number, falling: boolean): boolean {
        this._clearPlan();
        this._stepX = columns;
        this._stepY = rows;
        this._heading = heading;
        this._seen = seen;
        this._falling = falling;
        this._beginAsking(piece, 2147483647);
        while (this._asking.length > 0) {
            const last: number = this._asking.length - 1;
            if (this._askingLayer[last]! === -2) {
                this._lookAtTarget(last);
            } else {
                if (this._askingLayer[last]! >= 0) {
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
    private _beginAsking(piece: number, most: number): void {
        this._asking.push(this._mover.length);
        this._askingLayer.push(-2);
        this._askingRefused.push(0);
        this._askingMost.push(most);
        this._addMover(piece, this._cellOf[piece]!, this._cellOf[piece]!);
    }

    /** Adds a piece to those that the plan moves. */
    private _addMover(piece: number, origin: number, goal: number): void {
        this._mover.push(piece);
        this._moverFrom.push(origin);
        this._moverTo.push(goal);
        this._moverGone.push(0);
        this._leaving[piece] = 1;
    }

    /** Notes why a request is refused, the first reason only. */
    private _refuse(last: number, check: number, rule: number, piece: number, met: number, place: number): void {
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
    private _decide(mover: number, rule: number, verb: number, met: number, place: number): void {
        this._decidedRule.push(rule);
        this._decidedVerb.push(verb);
        this._decidedMover.push(mover);
        this._decidedMet.push(met);
        this._decidedPlace.push(place);
    }

    /** Where the piece that asks would go: the edge, void, and the corners of a diagonal step. */
    private _lookAtTarget(last: number): void {
        const mover: number = this._asking[last]!;
        const piece: number = this._mover[mover]!;
        const origin: number = this._moverFrom[mover]!;
        const goal: number = this._shifted(origin, this._stepX, this._stepY);
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
    private _refuseAt(last: number, mover: number, check: number, rule: number, met: number, place: number): void {
        this._refuse(last, check, rule, this._mover[mover]!, met, place);
    }

    /** The next layer of the target, from the top down. */
    private _lookAtLayer(last: number): void {
        const layer: number = this._askingLayer[last]!;
        this._askingLayer[last] = layer - 1;
        const mover: number = this._asking[last]!;
        const place: number = this._moverTo[mover]!;
        const met: number = this._pieceAt(layer, place);
        if (met < 0 || this._leaving[met]! !== 0) {
            return;
        }
        const kind: number = this._kindOf[this._mover[mover]!]!;
        const rule: number = this._meeting(kind, this._kindOf[met]!, place, this._seen);
        if (rule === 0) {
            // Without a rule pieces of one layer stop each other.
            if (LAYER_OF[kind]! === layer) {
                this._refuseAt(last, mover, CHECK_MEETS, 0, met, place);
            }
            return;
        }
        if (VERB_OF[rule]! === SHOVE) {
            this._shove(last, mover, met, place, rule);
            return;
        }
        this._apply(last, mover, met, place, rule, VERB_OF[rule]!);
    }

    /** What a verb does to the plan. */
    private _apply(last: number, mover: number, met: number, place: number, rule: number, verb: number): void {
        if (verb === STOP) {
            this._refuseAt(last, mover, CHECK_MEETS, rule, met, place);
            return;
        }
        this._decide(mover, rule, verb, met, place);
    }

    /** What is met asks for the same step in the same plan. */
    private _shove(last: number, mover: number, met: number, place: number, rule: number): void {
        if (this._falling) {
            this._refuseAt(last, mover, CHECK_MEETS, rule, met, place);
            return;
        }
        const most: number = this._askingMost[last]!;
        this._decide(mover, rule, SHOVE, met, place);
        this._beginAsking(met, most);
        this._shovedOwn += 1;
    }

    /** A piece has asked; a refusal goes to the one that shoved it, unless there is an else. */
    private _endAsking(last: number): void {
        const refused: boolean = this._askingRefused[last]! !== 0;
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
    private _checkRoom(): void {
        for (let number = 0; number < this._mover.length; number++) {
            if (this._moverGone[number]! === 0) {
                const piece: number = this._mover[number]!;
                const layer: number = LAYER_OF[this._kindOf[piece]!]!;
                const place: number = this._moverTo[number]!;
                const there: number = this._pieceAt(layer, place);
                if (there >= 0 && this._leaving[there]! === 0) {
                    this._refuse(-1, CHECK_ROOM, 0, piece, there, place);
                }
                for (let other = number + 1; other < this._mover.length; other++) {
                    if (this._moverGone[other]! === 0 && this._moverTo[other]! === place && LAYER_OF[this._kindOf[this._mover[other]!]!]! === layer) {
                        this._refuse(-1, CHECK_ROOM, 0, piece, this._mover[other]!, place);
                    }
                }
            }
        }
    }

    /** A piece asks for a step, and what slides by it asks on before anybody else. Whether the step was granted. */
    private _ask(piece: number, columns: number, rows: number, heading: number, seen: number): boolean {
        return this._askOnce(piece, columns, rows, heading, seen);
    }

    /** One request: planned, carried out or refused, with its effects. */
    private _askOnce(piece: number, columns: number, rows: number, heading: number, seen: number): boolean {
        if (this._cellOf[piece]! < 0) {
            return false;
        }
        const granted: boolean = this._plan(piece, columns, rows, heading, seen, false);
        this._lastCheck = this._refusedBy;
        this._lastLine = LINE_OF[this._refusedRule]!;
        if (granted) {
            this._granted = true;
            this._commit(piece);
        } else {
            this._refused(piece);
        }
        return granted;
    }

    /** A step along a heading. */
    private _askAlong(piece: number, heading: number): boolean {
        return this._ask(piece, STEP_X[heading]!, STEP_Y[heading]!, heading, heading);
    }

    /** Carries the plan out, then does the effects. */
    private _commit(piece: number): void {
        const heading: number = this._heading;
        const seen: number = this._seen;
        for (let number = 0; number < this._taken.length; number++) {
            this._remove(this._taken[number]!);
        }
        for (let number = 0; number < this._mover.length; number++) {
            if (this._moverGone[number]! !== 0) {
                this._remove(this._mover[number]!);
            } else {
                this._lift(this._mover[number]!);
            }
        }
        for (let number = 0; number < this._mover.length; number++) {
            if (this._moverGone[number]! === 0) {
                this._put(this._mover[number]!, this._moverTo[number]!);
            }
        }
        if (heading >= 0 && !this._falling && this._cellOf[piece]! >= 0) {
            this._headingOf[piece] = heading;
        }
        const rules: number[] = [];
        const askers: number[] = [];
        const met: number[] = [];
        const places: number[] = [];
        this._inOrder(rules, askers, met, places);
        for (let number = 0; number < rules.length; number++) {
            if (this._stopped !== 0) {
                return;
            }
            this._doMeeting(rules[number]!, askers[number]!, met[number]!, places[number]!, seen);
        }
    }

    /** The meetings that were decided and do more, those of the piece that asked first. */
    private _inOrder(rules: number[], askers: number[], met: number[], places: number[]): void {
        for (let mover = 0; mover < this._mover.length; mover++) {
            for (let number = 0; number < this._decidedRule.length; number++) {
                if (this._decidedMover[number]! === mover && HAS_EFFECTS[this._decidedRule[number]!]! !== 0) {
                    rules.push(this._decidedRule[number]!);
                    askers.push(this._mover[mover]!);
                    met.push(this._decidedMet[number]!);
                    places.push(this._decidedPlace[number]!);
                }
            }
        }
    }

    /** What a refusal does: a bounce turns, and the effects of the rule that refused happen. */
    private _refused(piece: number): void {
        if (HAS_EFFECTS[this._refusedRule]! !== 0) {
            let place: number = this._refusedPlace;
            if (this._refusedBy !== CHECK_MEETS) {
                place = this._cellOf[this._refusedPiece]!;
            }
            this._doMeeting(this._refusedRule, this._refusedPiece, this._refusedMet, place, this._seen);
        }
    }

    /** The piece on a layer of a cell, -1 where there is none. */
    private _pieceAt(layer: number, place: number): number {
        return this._at[layer * this._cells + place]!;
    }

    /** The cell so many columns and rows away, -1 off the board. */
    private _shifted(place: number, columns: number, rows: number): number {
        const column: number = place % this._columns + columns;
        const row: number = Math.floor(place / this._columns) + rows;
        if (column < 0 || column >= this._columns || row < 0 || row >= this._rows) {
            return -1;
        }
        return row * this._columns + column;
    }

    /** Whether the map has no cell here. */
    private _isVoid(place: number): boolean {
        return this._at[place]! === -2;
    }

    /** Takes a piece out of its cell. */
    private _lift(piece: number): void {
        const kind: number = this._kindOf[piece]!;
        this._at[LAYER_OF[kind]! * this._cells + this._cellOf[piece]!] = -1;
        this._cellOf[piece] = -1;
        this._countOf[kind]! -= 1;
    }

    /** Puts a piece that stands nowhere into a cell. */
    private _put(piece: number, place: number): void {
        const kind: number = this._kindOf[piece]!;
        this._at[LAYER_OF[kind]! * this._cells + place] = piece;
        this._cellOf[piece] = place;
        this._countOf[kind]! += 1;
    }

    /** Takes a piece off the board. */
    private _remove(piece: number): void {
        if (this._cellOf[piece]! >= 0) {
            this._lift(piece);
        }
    }

    /** The number of a piece that is not on the board. */
    private _unused(): number {
        let piece: number = this._newest;
        let taken: boolean = true;
        while (taken) {
            piece = (piece + 1) % (2 * LAYERS * this._cells);
            taken = this._cellOf[piece]! >= 0;
        }
        this._newest = piece;
        return piece;
    }

    /** Puts a new piece into a cell; -1 where its layer is taken or the map has no cell. */
    private _add(place: number, kind: number): number {
        if (this._pieceAt(LAYER_OF[kind]!, place) >= 0 || this._isVoid(place)) {
            return -1;
        }
        const piece: number = this._unused();
        this._kindOf[piece] = kind;
        this._headingOf[piece] = FACING[kind]!;
        this._put(piece, place);
        return piece;
    }

    /** The topmost piece of a cell, the ground aside; -1 where there is none. */
    private _topPiece(place: number): number {
        for (let below = 0; below < LAYERS; below++) {
            const piece: number = this._pieceAt(LAYERS - 1 - below, place);
            if (piece >= 0 && this._kindOf[piece]! !== GROUND) {
                return piece;
            }
        }
        return -1;
    }

    /** The kind that stands topmost in a cell, the ground only where nothing else does; -1 for nothing. */
    private _topKind(place: number): number {
        const piece: number = this._topPiece(place);
        if (piece >= 0) {
            return this._kindOf[piece]!;
        }
        if (this._pieceAt(LAYER_OF[GROUND]!, place) >= 0) {
            return GROUND;
        }
        return -1;
    }

    /** A counter within its bounds. */
    private _bounded(value: number): number {
        if (value > 1000000000000000) {
            return 1000000000000000;
        }
        if (value < -1000000000000000) {
            return -1000000000000000;
        }
        return value;
    }

    /** Puts pieces in order, the foremost along a heading first. */
    private _foremostFirst(pieces: readonly number[], heading: number, ordered: number[]): void {
        ordered.length = 0;
        if (pieces.length === 1) {
            ordered.push(pieces[0]!);
            return;
        }
        const far: number = this._columns + this._rows;
        for (let back = 0; back < 2 * far + 1; back++) {
            for (let number = 0; number < pieces.length; number++) {
                const place: number = this._cellOf[pieces[number]!]!;
                if (place >= 0 && place % this._columns * STEP_X[heading]! + Math.floor(place / this._columns) * STEP_Y[heading]! === far - back) {
                    ordered.push(pieces[number]!);
                }
            }
        }
    }

    /** The pieces in reading order, the lowest layer of a cell first, the ground left out. */
    private _listPieces(found: number[]): void {
        for (let place = 0; place < this._cells; place++) {
            for (let layer = 0; layer < LAYERS; layer++) {
                const piece: number = this._pieceAt(layer, place);
                if (piece >= 0 && this._kindOf[piece]! !== GROUND) {
                    found.push(piece);
                }
            }
        }
    }
}
