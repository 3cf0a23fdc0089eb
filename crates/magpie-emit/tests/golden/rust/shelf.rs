//! This was emitted by rapid-magpie, and is replaced where that is done again.
//! Positions come out as with `rapid-magpie convert`, to the last bit.
//! The game "Shelf", rulebook "shelf.magpie", played as `rapid-magpie play` plays it.

#![allow(dead_code, unused_variables, unused_mut, unused_assignments, clippy::all)]

#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Cell { pub column: i64, pub row: i64 }

#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Point { pub x: f64, pub y: f64 }

#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rect { pub x: f64, pub y: f64, pub w: f64, pub h: f64 }

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Where { Bar, Outside, Gap, Void, Cell }

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Kind { Plank, Porter, Crate }

/// Width of a cell in px.
pub const CELL_WIDTH: f64 = 24.0;
/// Height of a cell in px.
pub const CELL_HEIGHT: f64 = 20.0;
/// From one column to the next, in px.
pub const PITCH_X: f64 = 26.0;
/// From one row to the next, in px.
pub const PITCH_Y: f64 = 22.0;
/// Added to the positions of pieces, in px.
pub const HOTSPOT_X: f64 = 0.0;
/// The same along y, in px.
pub const HOTSPOT_Y: f64 = 5.0;
/// Index of the first cell.
pub const FIRST_INDEX: i64 = 1;
/// Window px in a design px, along x.
pub const SCALE_X: f64 = 2.0;
/// Window px in a design px, along y.
pub const SCALE_Y: f64 = 2.0;
/// Width of the bar left of the picture, in window px.
pub const BAR_X: f64 = 0.0;
/// Height of the bar above the picture, in window px.
pub const BAR_Y: f64 = 0.0;
/// Width of the picture in design px.
pub const DESIGN_WIDTH: f64 = 240.0;
/// Height of the picture in design px.
pub const DESIGN_HEIGHT: f64 = 120.0;
/// World x of the picture's upper left corner.
pub const CAMERA_X: f64 = 0.0;
/// World y of the picture's upper left corner.
pub const CAMERA_Y: f64 = 0.0;

/// The grid of a map.
#[derive(Clone, Copy, Debug)]
pub struct Grid {
    pub columns: i64,
    pub rows: i64,
    origin_x: f64,
    origin_y: f64,
    void: &'static [&'static str],
}

impl Grid {
    /// The grid of a map, counted from 1.
    pub fn of_map(map: usize) -> Self {
        match map {
            // "Left"
            1 => Self { columns: 3, rows: 2, origin_x: 8.0, origin_y: 6.0, void: &["...", ".. "] },
            // "Right"
            _ => Self { columns: 4, rows: 1, origin_x: 8.0, origin_y: 6.0, void: &["...."] },
        }
    }

    /// The cell of a world position, on the board or off it.
    pub fn world_to_cell(&self, x: f64, y: f64) -> Cell {
        let column = ((x + HOTSPOT_X - self.origin_x) / PITCH_X).floor() as i64;
        let row = ((y + HOTSPOT_Y - self.origin_y) / PITCH_Y).floor() as i64;
        Cell { column, row }
    }

    /// What lies at a world position.
    pub fn world_where(&self, x: f64, y: f64) -> Where {
        let cell = self.world_to_cell(x, y);
        if !self.inside(cell) {
            return Where::Outside;
        }
        let across = x + HOTSPOT_X - self.origin_x;
        if across - (across / PITCH_X).floor() * PITCH_X >= CELL_WIDTH {
            return Where::Gap;
        }
        let down = y + HOTSPOT_Y - self.origin_y;
        if down - (down / PITCH_Y).floor() * PITCH_Y >= CELL_HEIGHT {
            return Where::Gap;
        }
        if self.void[cell.row as usize].as_bytes()[cell.column as usize] == b' ' {
            return Where::Void;
        }
        Where::Cell
    }

    /// The cell of the board that is nearest to a world position.
    pub fn snap(&self, x: f64, y: f64) -> Cell {
        let cell = self.world_to_cell(x, y);
        Cell { column: cell.column.clamp(0, self.columns - 1), row: cell.row.clamp(0, self.rows - 1) }
    }

    /// The corner of a cell where counting starts, in world px.
    pub fn cell_to_corner(&self, cell: Cell) -> Point {
        Point { x: self.origin_x + cell.column as f64 * PITCH_X, y: self.origin_y + cell.row as f64 * PITCH_Y }
    }

    /// The middle of a cell in world px.
    pub fn cell_to_centre(&self, cell: Cell) -> Point {
        Point { x: self.origin_x + (cell.column as f64 * PITCH_X + CELL_WIDTH / 2.0), y: self.origin_y + (cell.row as f64 * PITCH_Y + CELL_HEIGHT / 2.0) }
    }

    /// The rectangle of a cell, from its smallest x and y.
    pub fn cell_to_box(&self, cell: Cell) -> Rect {
        let corner = self.cell_to_corner(cell);
        Rect { x: corner.x, y: corner.y, w: CELL_WIDTH, h: CELL_HEIGHT }
    }

    /// Whether a cell lies on the board.
    pub fn inside(&self, cell: Cell) -> bool {
        cell.column >= 0 && cell.column < self.columns && cell.row >= 0 && cell.row < self.rows
    }

    /// The place of a cell in the flat array, nothing off the board.
    pub fn cell_to_index(&self, cell: Cell) -> Option<i64> {
        if !self.inside(cell) {
            return None;
        }
        Some(cell.row * self.columns + cell.column + FIRST_INDEX)
    }

    /// The cell at a place in the flat array, nothing where there is none.
    pub fn index_to_cell(&self, index: i64) -> Option<Cell> {
        let place = index - FIRST_INDEX;
        if place < 0 || place >= self.columns * self.rows {
            return None;
        }
        Some(Cell { column: place % self.columns, row: place / self.columns })
    }

    /// The cell of the world position of a piece of this kind, whose hotspot counts.
    pub fn world_to_cell_of(&self, kind: Kind, x: f64, y: f64) -> Cell {
        if kind == Kind::Crate {
            let column = ((x + 3.0 - self.origin_x) / PITCH_X).floor() as i64;
            let row = ((y + 0.0 - self.origin_y) / PITCH_Y).floor() as i64;
            return Cell { column, row };
        }
        self.world_to_cell(x, y)
    }

    /// The world position of a window position.
    pub fn window_to_world(&self, x: f64, y: f64) -> Point {
        let across = x / SCALE_X;
        let down = y / SCALE_Y;
        Point { x: CAMERA_X + across, y: CAMERA_Y + down }
    }

    /// The window position of a world position.
    pub fn world_to_window(&self, x: f64, y: f64) -> Point {
        Point { x: x * SCALE_X + BAR_X, y: y * SCALE_Y + BAR_Y }
    }

    /// The cell of a world position without any hotspot.
    pub fn cell_at(&self, x: f64, y: f64) -> Cell {
        let column = ((x - self.origin_x) / PITCH_X).floor() as i64;
        let row = ((y - self.origin_y) / PITCH_Y).floor() as i64;
        Cell { column, row }
    }

    /// What lies at a world position without any hotspot.
    pub fn where_at(&self, x: f64, y: f64) -> Where {
        let cell = self.cell_at(x, y);
        if !self.inside(cell) {
            return Where::Outside;
        }
        let across = x - self.origin_x;
        if across - (across / PITCH_X).floor() * PITCH_X >= CELL_WIDTH {
            return Where::Gap;
        }
        let down = y - self.origin_y;
        if down - (down / PITCH_Y).floor() * PITCH_Y >= CELL_HEIGHT {
            return Where::Gap;
        }
        if self.void[cell.row as usize].as_bytes()[cell.column as usize] == b' ' {
            return Where::Void;
        }
        Where::Cell
    }

    /// The cell of a window position, on the board or off it.
    pub fn window_to_cell(&self, x: f64, y: f64) -> Cell {
        let world = self.window_to_world(x, y);
        self.cell_at(world.x, world.y)
    }

    /// What lies at a window position.
    pub fn window_where(&self, x: f64, y: f64) -> Where {
        let across = x / SCALE_X;
        let down = y / SCALE_Y;
        if !(across >= 0.0 && across < DESIGN_WIDTH && down >= 0.0 && down < DESIGN_HEIGHT) {
            return Where::Bar;
        }
        let world = self.window_to_world(x, y);
        self.where_at(world.x, world.y)
    }

    /// The window position of the middle of a cell.
    pub fn cell_to_window(&self, cell: Cell) -> Point {
        let centre = self.cell_to_centre(cell);
        self.world_to_window(centre.x, centre.y)
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Heading { West, East, North, South, NorthWest, NorthEast, SouthWest, SouthEast }

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Check { Edge, Void, Meets, Corner, Limit, Room }

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Outcome { Won, Lost, NeverSettles }

const HEADINGS: [Heading; 8] = [Heading::West, Heading::East, Heading::North, Heading::South, Heading::NorthWest, Heading::NorthEast, Heading::SouthWest, Heading::SouthEast];
const CHECKS: [Check; 6] = [Check::Edge, Check::Void, Check::Meets, Check::Corner, Check::Limit, Check::Room];
const KINDS_OF: [Kind; 3] = [Kind::Plank, Kind::Porter, Kind::Crate];
const FROM_TOP: bool = true;

#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Piece { pub id: i64, pub kind: Kind, pub cell: Cell, pub heading: Option<Heading> }

#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Move { pub id: i64, pub from: Cell, pub to: Cell }

#[derive(Clone, Debug, PartialEq)]
pub struct Answer { pub granted: bool, pub check: Option<Check>, pub line: i64, pub moved: Vec<Move> }

const LAYER_OF: [i32; 3] = [0, 2, 2];
const FACING: [i32; 3] = [-1, -1, -1];
const STEP_X: [i32; 8] = [-1, 1, 0, 0, -1, 1, -1, 1];
const STEP_Y: [i32; 8] = [0, 0, -1, 1, -1, -1, 1, 1];
const MAP_COLUMNS: [i32; 2] = [3, 4];
const MAP_ROWS: [i32; 2] = [2, 1];
const GLYPH_OF: [&str; 3] = [".", "P", "C"];
const VERB_OF: [i32; 2] = [0, 2];
const HAS_EFFECTS: [i32; 2] = [0, 1];
const LINE_OF: [i32; 2] = [0, 23];
const KIND_PORTER: i32 = 1;
const KIND_CRATE: i32 = 2;
const WEST: i32 = 0;
const EAST: i32 = 1;
const NORTH: i32 = 2;
const SOUTH: i32 = 3;
const STOP: i32 = 0;
const SHOVE: i32 = 2;
const CHECK_EDGE: i32 = 0;
const CHECK_VOID: i32 = 1;
const CHECK_MEETS: i32 = 2;
const CHECK_ROOM: i32 = 5;
const BY_NEXT: i32 = 2;
const KEY_RESTART: i32 = 0;
const KEY_NEXT: i32 = 1;
const KEY_TAP: i32 = 2;
const KEY_DRAG: i32 = 3;
const KEY_OTHER: i32 = 4;
const KEY_DOWN: i32 = 5;
const KEY_LEFT: i32 = 6;
const KEY_RIGHT: i32 = 7;
const KEY_UP: i32 = 8;
const LAYERS: i32 = 3;
const KINDS: i32 = 3;
const MAP_COUNT: i32 = 2;
const GROUND: i32 = 0;
const PROMISES: [&str; 1] = ["always shoved < 100"];

const DRAWINGS: &[&[&str]] = &[
    &[
        "P.C",
        ".. ",
    ],
    &[
        "P...",
    ],
];

fn length_of(list: &[i32]) -> i32 {
    list.len() as i32
}

fn fill(list: &mut Vec<i32>, count: i32, value: i32) {
    list.clear();
    list.resize(count as usize, value);
}

fn letter_at(text: &str, place: i32) -> i32 {
    text.as_bytes().get(place as usize).map_or(0, |letter| i32::from(*letter))
}

/// A game: a copy of it is a game of its own, and putting one back takes back what was played since.
#[derive(Clone, Debug, Default)]
pub struct Game {
    tapped: i32,
    dropped: i32,
    reading: i32,
    entry_turns: i64,
    entry_moves: i64,
    moved_piece: Vec<i32>,
    moved_from: Vec<i32>,
    was_at: Vec<i32>,
    /// a counter
    pub shoved: i64,
    entry_shoved: i64,
    stopped: i32,
    granted: bool,
    mover: Vec<i32>,
    mover_from: Vec<i32>,
    mover_to: Vec<i32>,
    mover_gone: Vec<i32>,
    taken: Vec<i32>,
    leaving: Vec<i32>,
    asking: Vec<i32>,
    asking_layer: Vec<i32>,
    asking_refused: Vec<i32>,
    decided_rule: Vec<i32>,
    decided_verb: Vec<i32>,
    decided_mover: Vec<i32>,
    decided_met: Vec<i32>,
    decided_place: Vec<i32>,
    asking_most: Vec<i32>,
    shoved_own: i32,
    step_x: i32,
    step_y: i32,
    heading: i32,
    seen: i32,
    falling: bool,
    detour: bool,
    refused_by: i32,
    refused_rule: i32,
    refused_piece: i32,
    refused_met: i32,
    refused_place: i32,
    bounces: bool,
    last_check: i32,
    last_line: i32,
    /// the number of the map, from 1
    pub map: i64,
    /// turns so far
    pub turns: i64,
    /// turns of inputs in which something was granted
    pub moves: i64,
    /// how the game stands
    pub outcome: Option<Outcome>,
    /// what the last input told
    pub signals: Vec<&'static str>,
    columns: i32,
    rows: i32,
    cells: i32,
    at: Vec<i32>,
    kind_of: Vec<i32>,
    cell_of: Vec<i32>,
    heading_of: Vec<i32>,
    count_of: Vec<i32>,
    newest: i32,
    own: Vec<String>,
}

impl Game {
    /// A game as its map is entered.
    pub fn new() -> Self {
        let mut game = Self { map: 1, newest: -1, ..Self::default() };
        game.begin_game();
        game
    }

    /// A game on a board of its own in place of the maps, drawn with their letters.
    pub fn on_board_of(lines: &[&str]) -> Self {
        let own = lines.iter().map(|line| line.to_string()).collect();
        let mut game = Self { map: 2, newest: -1, own, ..Self::default() };
        game.begin_game();
        game
    }

    /// The request of a piece, with effects and slides and no turn round it. To ask only, ask a copy.
    pub fn request(&mut self, id: i64, heading: Heading) -> Answer {
        let granted = self.ask_for(i32::try_from(id).unwrap_or(-1), heading as i32);
        let check = if self.last_check < 0 { None } else { Some(CHECKS[self.last_check as usize]) };
        let moves = self.moved_piece.iter().zip(&self.moved_from);
        let moved = moves.map(|(id, from)| Move { id: i64::from(*id), from: self.cell(*from), to: self.cell(self.cell_of[*id as usize]) });
        Answer { granted, check, line: i64::from(self.last_line), moved: moved.collect() }
    }

    /// The board as lines of text, the top one first.
    pub fn board(&self) -> Vec<String> {
        let row = |line: i32| {
            let row = if FROM_TOP { line } else { self.rows - 1 - line };
            (0..self.columns).map(|column| self.letter_of(row * self.columns + column)).collect()
        };
        (0..self.rows).map(row).collect()
    }

    /// The pieces in reading order, the lowest layer of a cell first, the ground left out.
    pub fn pieces(&self) -> Vec<Piece> {
        let mut found = Vec::new();
        self.list_pieces(&mut found);
        let piece = |id: &i32| {
            let at = *id as usize;
            let heading = if self.heading_of[at] < 0 { None } else { Some(HEADINGS[self.heading_of[at] as usize]) };
            Piece { id: i64::from(*id), kind: KINDS_OF[self.kind_of[at] as usize], cell: self.cell(self.cell_of[at]), heading }
        };
        found.iter().map(piece).collect()
    }

    fn drawing(&self, line: i32) -> &str {
        if self.own.is_empty() { DRAWINGS[(self.map - 1) as usize][line as usize] } else { &self.own[line as usize] }
    }

    fn drawing_columns(&self) -> i32 {
        if self.own.is_empty() { MAP_COLUMNS[(self.map - 1) as usize] } else { self.own[0].len() as i32 }
    }

    fn drawing_rows(&self) -> i32 {
        if self.own.is_empty() { MAP_ROWS[(self.map - 1) as usize] } else { self.own.len() as i32 }
    }

    fn cell(&self, place: i32) -> Cell {
        Cell { column: i64::from(place % self.columns), row: i64::from(place / self.columns) }
    }

    /// The first promise that does not hold now, as the rulebook writes it.
    pub fn broken(&self) -> Option<&'static str> {
        let number = self.broken_promise();
        if number < 0 { None } else { Some(PROMISES[number as usize]) }
    }

    /// Does what an input asks for; false for a word that is none, and where nothing happens.
    pub fn input(&mut self, word: &str) -> bool {
        let key = self.key_of(word);
        if key == KEY_RESTART {
            self.signals.clear();
            self.stopped = 0;
            self.restart();
            self.show_chosen();
            return true;
        }
        if key == KEY_NEXT {
            if self.outcome != Some(Outcome::Won) || self.map >= i64::from(MAP_COUNT) {
                return false;
            }
            self.signals.clear();
            self.stopped = 0;
            self.next_map();
            self.show_chosen();
            return true;
        }
        if key < 0 || self.outcome == Some(Outcome::Won) || self.outcome == Some(Outcome::Lost) {
            return false;
        }
        self.signals.clear();
        self.turn(key);
        self.show_chosen();
        true
    }

    /// The cell that everybody may see as chosen.
    fn show_chosen(&self) {
    }

    /// Reads a cell of a word from a place on, and stops behind it, at -1 where there is none. A place off the board is -1.
    fn read_cell(&mut self, word: &str, place: i32) -> i32 {
        self.reading = place;
        let column = self.read_number(word);
        if self.reading < 0 || letter_at(word, self.reading) != ',' as i32 {
            self.reading = -1;
            return -1;
        }
        self.reading += 1;
        let row = self.read_number(word);
        if self.reading < 0 || column < 0 || column >= i64::from(self.columns) || row < 0 || row >= i64::from(self.rows) {
            return -1;
        }
        (row * i64::from(self.columns) + column) as i32
    }

    /// Reads a whole number of a word, and stops behind it, at -1 where there is none.
    fn read_number(&mut self, word: &str) -> i64 {
        let mut place: i32 = self.reading;
        let mut sign: i64 = 1;
        if place < 0 {
            return 0;
        }
        if letter_at(word, place) == '-' as i32 {
            sign = -1;
            place += 1;
        }
        let first = place;
        let mut value: i64 = 0;
        while letter_at(word, place) >= '0' as i32 && letter_at(word, place) <= '9' as i32 && place - first < 16 {
            value = value * 10 + i64::from(letter_at(word, place) - '0' as i32);
            place += 1;
        }
        self.reading = place;
        if place == first || place - first > 15 {
            self.reading = -1;
        }
        sign * value
    }

    /// A turn: rules act, then the board settles, then the end is looked at.
    fn turn(&mut self, key: i32) {
        if self.outcome == Some(Outcome::NeverSettles) {
            self.outcome = None;
        }
        self.stopped = 0;
        self.granted = false;
        self.turns += 1;
        self.act(key);
        if self.stopped == 0 && self.granted {
            self.moves += 1;
        }
        if self.stopped == 0 {
            self.look_at_end();
        }
        self.tapped = -1;
        self.dropped = -1;
        let ending = self.stopped;
        if ending == BY_NEXT {
            if self.map < i64::from(MAP_COUNT) {
                self.next_map();
            } else {
                self.outcome = Some(Outcome::Won);
            }
        }
        self.stopped = 0;
    }

    /// Enters the map that follows.
    fn next_map(&mut self) {
        self.map += 1;
        self.note_entry();
        self.enter();
    }

    /// Enters maps, as long as their beginning leads on.
    fn enter(&mut self) {
        self.begin_map();
        while self.stopped == BY_NEXT && self.map < i64::from(MAP_COUNT) {
            self.map += 1;
            self.note_entry();
            self.begin_map();
        }
    }

    /// Lays the map out and lets it begin.
    fn begin_map(&mut self) {
        self.stopped = 0;
        self.outcome = None;
        self.tapped = -1;
        self.dropped = -1;
        self.lay_out();
    }

    /// An empty board of the size of the map.
    fn make_board(&mut self, columns: i32, rows: i32) {
        self.columns = columns;
        self.rows = rows;
        self.cells = columns * rows;
        self.clear_plan();
        fill(&mut self.at, LAYERS * self.cells, -1);
        fill(&mut self.kind_of, 2 * LAYERS * self.cells, 0);
        fill(&mut self.cell_of, 2 * LAYERS * self.cells, -1);
        fill(&mut self.heading_of, 2 * LAYERS * self.cells, -1);
        fill(&mut self.leaving, 2 * LAYERS * self.cells, 0);
        fill(&mut self.count_of, KINDS, 0);
        self.newest = -1;
    }

    /// The pieces of a drawing.
    fn draw_map(&mut self) {
        self.make_board(self.drawing_columns(), self.drawing_rows());
        for line in 0..self.rows {
            for column in 0..self.columns {
                let place = line * self.columns + column;
                self.lay(place, letter_at(self.drawing(line), column));
            }
        }
    }

    /// The request of a piece with effects and slides and no turn round it; what it moved and who refused it stands in fields.
    fn ask_for(&mut self, piece: i32, heading: i32) -> bool {
        self.signals.clear();
        self.moved_piece.clear();
        self.moved_from.clear();
        self.last_check = -1;
        self.last_line = 0;
        if piece < 0 || piece >= 2 * LAYERS * self.cells {
            return false;
        }
        self.stopped = 0;
        self.was_at.clear();
        for number in 0..2 * LAYERS * self.cells {
            self.was_at.push(self.cell_of[number as usize]);
        }
        let granted = self.ask_along(piece, heading);
        for number in 0..2 * LAYERS * self.cells {
            if self.was_at[number as usize] >= 0 && self.cell_of[number as usize] >= 0 && self.was_at[number as usize] != self.cell_of[number as usize] {
                self.moved_piece.push(number);
                self.moved_from.push(self.was_at[number as usize]);
            }
        }
        self.was_at.clear();
        self.stopped = 0;
        self.show_chosen();
        granted
    }

    /// All porter, in reading order.
    fn each_porter(&self, found: &mut Vec<i32>) {
        let left = self.count_of[KIND_PORTER as usize];
        let mut place: i32 = 0;
        while place < self.cells && length_of(found) < left {
            let piece_1 = self.piece_at(2, place);
            if piece_1 >= 0 {
                let kind_2 = self.kind_of[piece_1 as usize];
                if kind_2 == KIND_PORTER {
                    found.push(piece_1);
                }
            }
            place += 1;
        }
    }

    /// What happens on the key left.
    fn on_left(&mut self) {
        // 16: control porter with arrows
        let mut found_1: Vec<i32> = Vec::new();
        self.each_porter(&mut found_1);
        self.step(&found_1, WEST, 1);
        if self.stopped != 0 {
            return;
        }
    }

    /// What happens on the key right.
    fn on_right(&mut self) {
        // 16: control porter with arrows
        let mut found_1: Vec<i32> = Vec::new();
        self.each_porter(&mut found_1);
        self.step(&found_1, EAST, 1);
        if self.stopped != 0 {
            return;
        }
    }

    /// What happens on the key up.
    fn on_up(&mut self) {
        // 16: control porter with arrows
        let mut found_1: Vec<i32> = Vec::new();
        self.each_porter(&mut found_1);
        self.step(&found_1, NORTH, 1);
        if self.stopped != 0 {
            return;
        }
    }

    /// What happens on the key down.
    fn on_down(&mut self) {
        // 16: control porter with arrows
        let mut found_1: Vec<i32> = Vec::new();
        self.each_porter(&mut found_1);
        self.step(&found_1, SOUTH, 1);
        if self.stopped != 0 {
            return;
        }
    }

    /// What a key or a touch does.
    fn act(&mut self, key: i32) {
        if key == KEY_LEFT {
            self.on_left();
        }
        if key == KEY_RIGHT {
            self.on_right();
        }
        if key == KEY_UP {
            self.on_up();
        }
        if key == KEY_DOWN {
            self.on_down();
        }
    }

    /// What a word means, -1 for one that means nothing.
    fn key_of(&mut self, word: &str) -> i32 {
        self.tapped = -1;
        self.dropped = -1;
        if word == "restart" {
            return KEY_RESTART;
        }
        if word == "next" {
            return KEY_NEXT;
        }
        if word == "left" {
            return KEY_LEFT;
        }
        if word == "right" {
            return KEY_RIGHT;
        }
        if word == "up" {
            return KEY_UP;
        }
        if word == "down" {
            return KEY_DOWN;
        }
        if word == "act" {
            return KEY_OTHER;
        }
        if word == "alt" {
            return KEY_OTHER;
        }
        if word.starts_with("key:") {
            let letter = letter_at(word, 4);
            if ((letter >= 'a' as i32 && letter <= 'z' as i32) || (letter >= '0' as i32 && letter <= '9' as i32)) && letter_at(word, 5) == 0 {
                return KEY_OTHER;
            }
        }
        if word.starts_with("tap:") {
            self.tapped = self.read_cell(word, 4);
            self.dropped = self.tapped;
            if self.reading > 0 && letter_at(word, self.reading) == 0 {
                return KEY_TAP;
            }
        }
        if word.starts_with("drag:") {
            self.tapped = self.read_cell(word, 5);
            if self.reading > 0 && letter_at(word, self.reading) == '>' as i32 {
                self.dropped = self.read_cell(word, self.reading + 1);
                if self.reading > 0 && letter_at(word, self.reading) == 0 {
                    return KEY_DRAG;
                }
            }
        }
        -1
    }

    /// What the end of line 25 does.
    fn end_25(&mut self) {
        // 25: win when shoved > 1: next map
        self.stopped = BY_NEXT;
        return;
    }

    /// Whether the game is won or lost.
    fn look_at_end(&mut self) {
        // 25: win when shoved > 1: next map
        if self.shoved > 1 {
            self.outcome = Some(Outcome::Won);
            self.end_25();
            return;
        }
    }

    /// The first promise that does not hold, by its number, -1 where all do.
    fn broken_promise(&self) -> i32 {
        // 24: always shoved < 100
        if !(self.shoved < 100) {
            return 0;
        }
        -1
    }

    /// What the meeting of line 23 does besides.
    fn into_23(&mut self, asker: i32, met: i32, place: i32, seen: i32) {
        // 23: porter into crate: shove, add 1 to shoved
        self.shoved = self.bounded(self.shoved + 1);
    }

    /// The rule that decides when a kind meets another, 0 for none.
    fn meeting(&self, asker: i32, met: i32, place: i32, seen: i32) -> i32 {
        // 23: porter into crate: shove, add 1 to shoved
        if asker == KIND_PORTER && met == KIND_CRATE {
            return 1;
        }
        0
    }

    /// What a meeting does besides.
    fn do_meeting(&mut self, rule: i32, asker: i32, met: i32, place: i32, seen: i32) {
        if rule == 1 {
            self.into_23(asker, met, place, seen);
        }
    }

    /// Puts into a cell what a letter of a drawing stands for.
    fn lay(&mut self, place: i32, letter: i32) {
        if letter == ' ' as i32 {
            self.at[place as usize] = -2;
            return;
        }
        // P  porter
        if letter == 'P' as i32 {
            self.add(place, KIND_PORTER);
        }
        // C  crate
        if letter == 'C' as i32 {
            self.add(place, KIND_CRATE);
        }
        self.add(place, GROUND);
    }

    /// The board of the map at its beginning.
    fn lay_out(&mut self) {
        self.draw_map();
    }

    /// Begins a game on its map.
    fn begin_game(&mut self) {
        self.turns = 0;
        self.moves = 0;
        self.shoved = 0;
        self.note_entry();
        self.enter();
        self.show_chosen();
    }

    /// Notes the state in which a map is entered.
    fn note_entry(&mut self) {
        self.entry_turns = self.turns;
        self.entry_moves = self.moves;
        self.entry_shoved = self.shoved;
    }

    /// The map begins again.
    fn restart(&mut self) {
        self.turns = self.entry_turns;
        self.moves = self.entry_moves;
        self.shoved = self.entry_shoved;
        self.note_entry();
        self.enter();
    }

    /// The letter that a cell is drawn with.
    fn letter_of(&self, place: i32) -> &'static str {
        if self.is_void(place) {
            return " ";
        }
        let kind = self.top_kind(place);
        if kind < 0 {
            return "_";
        }
        GLYPH_OF[kind as usize]
    }

    /// A request for every piece, the foremost first; each may ask so many times in a row. Whether one was granted.
    fn step(&mut self, pieces: &[i32], heading: i32, times: i32) -> bool {
        let mut ordered: Vec<i32> = Vec::new();
        self.foremost_first(pieces, heading, &mut ordered);
        let mut granted = false;
        for number in 0..length_of(&ordered) {
            let mut left: i32 = times;
            while left > 0 && self.stopped == 0 {
                left -= 1;
                if self.ask_along(ordered[number as usize], heading) {
                    granted = true;
                } else {
                    left = 0;
                }
            }
        }
        return granted;
    }

    /// Forgets the plan of the request before.
    fn clear_plan(&mut self) {
        for number in 0..length_of(&self.mover) {
            self.leaving[(self.mover[number as usize]) as usize] = 0;
        }
        for number in 0..length_of(&self.taken) {
            self.leaving[(self.taken[number as usize]) as usize] = 0;
        }
        self.mover.clear();
        self.mover_from.clear();
        self.mover_to.clear();
        self.mover_gone.clear();
        self.taken.clear();
        self.asking.clear();
        self.asking_layer.clear();
        self.asking_refused.clear();
        self.decided_rule.clear();
        self.decided_verb.clear();
        self.decided_mover.clear();
        self.decided_met.clear();
        self.decided_place.clear();
        self.asking_most.clear();
        self.shoved_own = 0;
        self.detour = false;
        self.refused_by = -1;
        self.refused_rule = 0;
        self.bounces = false;
    }

    /// Works out what a request would do; nothing on the board changes. Whether it is granted.
    fn plan(&mut self, piece: i32, columns: i32, rows: i32, heading: i32, seen: i32, falling: bool) -> bool {
        self.clear_plan();
        self.step_x = columns;
        self.step_y = rows;
        self.heading = heading;
        self.seen = seen;
        self.falling = falling;
        self.begin_asking(piece, 2147483647);
        while length_of(&self.asking) > 0 {
            let last = length_of(&self.asking) - 1;
            if self.asking_layer[last as usize] == -2 {
                self.look_at_target(last);
            } else {
                if self.asking_layer[last as usize] >= 0 {
                    self.look_at_layer(last);
                } else {
                    self.end_asking(last);
                }
            }
        }
        if self.refused_by < 0 {
            self.check_room();
        }
        self.refused_by < 0
    }

    /// A piece joins the plan and asks.
    fn begin_asking(&mut self, piece: i32, most: i32) {
        self.asking.push(length_of(&self.mover));
        self.asking_layer.push(-2);
        self.asking_refused.push(0);
        self.asking_most.push(most);
        self.add_mover(piece, self.cell_of[piece as usize], self.cell_of[piece as usize]);
    }

    /// Adds a piece to those that the plan moves.
    fn add_mover(&mut self, piece: i32, origin: i32, goal: i32) {
        self.mover.push(piece);
        self.mover_from.push(origin);
        self.mover_to.push(goal);
        self.mover_gone.push(0);
        self.leaving[piece as usize] = 1;
    }

    /// Notes why a request is refused, the first reason only.
    fn refuse(&mut self, last: i32, check: i32, rule: i32, piece: i32, met: i32, place: i32) {
        if self.refused_by < 0 {
            self.refused_by = check;
            self.refused_rule = rule;
            self.refused_piece = piece;
            self.refused_met = met;
            self.refused_place = place;
        }
        if last >= 0 {
            self.asking_refused[last as usize] = 1;
            self.asking_layer[last as usize] = -1;
        }
    }

    /// Notes a rule that decides a meeting, for what it does besides.
    fn decide(&mut self, mover: i32, rule: i32, verb: i32, met: i32, place: i32) {
        self.decided_rule.push(rule);
        self.decided_verb.push(verb);
        self.decided_mover.push(mover);
        self.decided_met.push(met);
        self.decided_place.push(place);
    }

    /// Where the piece that asks would go: the edge, void, and the corners of a diagonal step.
    fn look_at_target(&mut self, last: i32) {
        let mover = self.asking[last as usize];
        let piece = self.mover[mover as usize];
        let origin = self.mover_from[mover as usize];
        let goal = self.shifted(origin, self.step_x, self.step_y);
        if goal < 0 {
            self.refuse(last, CHECK_EDGE, 0, piece, -1, origin);
            return;
        }
        if self.is_void(goal) {
            self.refuse(last, CHECK_VOID, 0, piece, -1, origin);
            return;
        }
        self.mover_to[mover as usize] = goal;
        self.asking_layer[last as usize] = LAYERS - 1;
    }

    /// A rule refuses; one that bounces turns the piece whose own request this is.
    fn refuse_at(&mut self, last: i32, mover: i32, check: i32, rule: i32, met: i32, place: i32) {
        self.refuse(last, check, rule, self.mover[mover as usize], met, place);
    }

    /// The next layer of the target, from the top down.
    fn look_at_layer(&mut self, last: i32) {
        let layer = self.asking_layer[last as usize];
        self.asking_layer[last as usize] = layer - 1;
        let mover = self.asking[last as usize];
        let place = self.mover_to[mover as usize];
        let met = self.piece_at(layer, place);
        if met < 0 || self.leaving[met as usize] != 0 {
            return;
        }
        let kind = self.kind_of[(self.mover[mover as usize]) as usize];
        let rule = self.meeting(kind, self.kind_of[met as usize], place, self.seen);
        if rule == 0 {
            // Without a rule pieces of one layer stop each other.
            if LAYER_OF[kind as usize] == layer {
                self.refuse_at(last, mover, CHECK_MEETS, 0, met, place);
            }
            return;
        }
        if VERB_OF[rule as usize] == SHOVE {
            self.shove(last, mover, met, place, rule);
            return;
        }
        self.apply(last, mover, met, place, rule, VERB_OF[rule as usize]);
    }

    /// What a verb does to the plan.
    fn apply(&mut self, last: i32, mover: i32, met: i32, place: i32, rule: i32, verb: i32) {
        if verb == STOP {
            self.refuse_at(last, mover, CHECK_MEETS, rule, met, place);
            return;
        }
        self.decide(mover, rule, verb, met, place);
    }

    /// What is met asks for the same step in the same plan.
    fn shove(&mut self, last: i32, mover: i32, met: i32, place: i32, rule: i32) {
        if self.falling {
            self.refuse_at(last, mover, CHECK_MEETS, rule, met, place);
            return;
        }
        let most = self.asking_most[last as usize];
        self.decide(mover, rule, SHOVE, met, place);
        self.begin_asking(met, most);
        self.shoved_own += 1;
    }

    /// A piece has asked; a refusal goes to the one that shoved it, unless there is an else.
    fn end_asking(&mut self, last: i32) {
        let refused = self.asking_refused[last as usize] != 0;
        self.asking.pop();
        self.asking_layer.pop();
        self.asking_refused.pop();
        self.asking_most.pop();
        if refused && last > 0 {
            self.asking_refused[(last - 1) as usize] = 1;
            self.asking_layer[(last - 1) as usize] = -1;
        }
    }

    /// Two pieces of the plan on one layer of a cell, or one where another stays.
    fn check_room(&mut self) {
        for number in 0..length_of(&self.mover) {
            if self.mover_gone[number as usize] == 0 {
                let piece = self.mover[number as usize];
                let layer = LAYER_OF[(self.kind_of[piece as usize]) as usize];
                let place = self.mover_to[number as usize];
                let there = self.piece_at(layer, place);
                if there >= 0 && self.leaving[there as usize] == 0 {
                    self.refuse(-1, CHECK_ROOM, 0, piece, there, place);
                }
                for other in number + 1..length_of(&self.mover) {
                    if self.mover_gone[other as usize] == 0 && self.mover_to[other as usize] == place && LAYER_OF[(self.kind_of[(self.mover[other as usize]) as usize]) as usize] == layer {
                        self.refuse(-1, CHECK_ROOM, 0, piece, self.mover[other as usize], place);
                    }
                }
            }
        }
    }

    /// A piece asks for a step, and what slides by it asks on before anybody else. Whether the step was granted.
    fn ask(&mut self, piece: i32, columns: i32, rows: i32, heading: i32, seen: i32) -> bool {
        self.ask_once(piece, columns, rows, heading, seen)
    }

    /// One request: planned, carried out or refused, with its effects.
    fn ask_once(&mut self, piece: i32, columns: i32, rows: i32, heading: i32, seen: i32) -> bool {
        if self.cell_of[piece as usize] < 0 {
            return false;
        }
        let granted = self.plan(piece, columns, rows, heading, seen, false);
        self.last_check = self.refused_by;
        self.last_line = LINE_OF[self.refused_rule as usize];
        if granted {
            self.granted = true;
            self.commit(piece);
        } else {
            self.refused(piece);
        }
        granted
    }

    /// A step along a heading.
    fn ask_along(&mut self, piece: i32, heading: i32) -> bool {
        self.ask(piece, STEP_X[heading as usize], STEP_Y[heading as usize], heading, heading)
    }

    /// Carries the plan out, then does the effects.
    fn commit(&mut self, piece: i32) {
        let heading = self.heading;
        let seen = self.seen;
        for number in 0..length_of(&self.taken) {
            self.remove(self.taken[number as usize]);
        }
        for number in 0..length_of(&self.mover) {
            if self.mover_gone[number as usize] != 0 {
                self.remove(self.mover[number as usize]);
            } else {
                self.lift(self.mover[number as usize]);
            }
        }
        for number in 0..length_of(&self.mover) {
            if self.mover_gone[number as usize] == 0 {
                self.put(self.mover[number as usize], self.mover_to[number as usize]);
            }
        }
        if heading >= 0 && !self.falling && self.cell_of[piece as usize] >= 0 {
            self.heading_of[piece as usize] = heading;
        }
        let mut rules: Vec<i32> = Vec::new();
        let mut askers: Vec<i32> = Vec::new();
        let mut met: Vec<i32> = Vec::new();
        let mut places: Vec<i32> = Vec::new();
        self.in_order(&mut rules, &mut askers, &mut met, &mut places);
        for number in 0..length_of(&rules) {
            if self.stopped != 0 {
                return;
            }
            self.do_meeting(rules[number as usize], askers[number as usize], met[number as usize], places[number as usize], seen);
        }
    }

    /// The meetings that were decided and do more, those of the piece that asked first.
    fn in_order(&self, rules: &mut Vec<i32>, askers: &mut Vec<i32>, met: &mut Vec<i32>, places: &mut Vec<i32>) {
        for mover in 0..length_of(&self.mover) {
            for number in 0..length_of(&self.decided_rule) {
                if self.decided_mover[number as usize] == mover && HAS_EFFECTS[(self.decided_rule[number as usize]) as usize] != 0 {
                    rules.push(self.decided_rule[number as usize]);
                    askers.push(self.mover[mover as usize]);
                    met.push(self.decided_met[number as usize]);
                    places.push(self.decided_place[number as usize]);
                }
            }
        }
    }

    /// What a refusal does: a bounce turns, and the effects of the rule that refused happen.
    fn refused(&mut self, piece: i32) {
        if HAS_EFFECTS[self.refused_rule as usize] != 0 {
            let mut place: i32 = self.refused_place;
            if self.refused_by != CHECK_MEETS {
                place = self.cell_of[self.refused_piece as usize];
            }
            self.do_meeting(self.refused_rule, self.refused_piece, self.refused_met, place, self.seen);
        }
    }

    /// The piece on a layer of a cell, -1 where there is none.
    fn piece_at(&self, layer: i32, place: i32) -> i32 {
        self.at[(layer * self.cells + place) as usize]
    }

    /// The cell so many columns and rows away, -1 off the board.
    fn shifted(&self, place: i32, columns: i32, rows: i32) -> i32 {
        let column = place % self.columns + columns;
        let row = place / self.columns + rows;
        if column < 0 || column >= self.columns || row < 0 || row >= self.rows {
            return -1;
        }
        row * self.columns + column
    }

    /// Whether the map has no cell here.
    fn is_void(&self, place: i32) -> bool {
        self.at[place as usize] == -2
    }

    /// Takes a piece out of its cell.
    fn lift(&mut self, piece: i32) {
        let kind = self.kind_of[piece as usize];
        self.at[(LAYER_OF[kind as usize] * self.cells + self.cell_of[piece as usize]) as usize] = -1;
        self.cell_of[piece as usize] = -1;
        self.count_of[kind as usize] -= 1;
    }

    /// Puts a piece that stands nowhere into a cell.
    fn put(&mut self, piece: i32, place: i32) {
        let kind = self.kind_of[piece as usize];
        self.at[(LAYER_OF[kind as usize] * self.cells + place) as usize] = piece;
        self.cell_of[piece as usize] = place;
        self.count_of[kind as usize] += 1;
    }

    /// Takes a piece off the board.
    fn remove(&mut self, piece: i32) {
        if self.cell_of[piece as usize] >= 0 {
            self.lift(piece);
        }
    }

    /// The number of a piece that is not on the board.
    fn unused(&mut self) -> i32 {
        let mut piece: i32 = self.newest;
        let mut taken = true;
        while taken {
            piece = (piece + 1) % (2 * LAYERS * self.cells);
            taken = self.cell_of[piece as usize] >= 0;
        }
        self.newest = piece;
        piece
    }

    /// Puts a new piece into a cell; -1 where its layer is taken or the map has no cell.
    fn add(&mut self, place: i32, kind: i32) -> i32 {
        if self.piece_at(LAYER_OF[kind as usize], place) >= 0 || self.is_void(place) {
            return -1;
        }
        let piece = self.unused();
        self.kind_of[piece as usize] = kind;
        self.heading_of[piece as usize] = FACING[kind as usize];
        self.put(piece, place);
        piece
    }

    /// The topmost piece of a cell, the ground aside; -1 where there is none.
    fn top_piece(&self, place: i32) -> i32 {
        for below in 0..LAYERS {
            let piece = self.piece_at(LAYERS - 1 - below, place);
            if piece >= 0 && self.kind_of[piece as usize] != GROUND {
                return piece;
            }
        }
        -1
    }

    /// The kind that stands topmost in a cell, the ground only where nothing else does; -1 for nothing.
    fn top_kind(&self, place: i32) -> i32 {
        let piece = self.top_piece(place);
        if piece >= 0 {
            return self.kind_of[piece as usize];
        }
        if self.piece_at(LAYER_OF[GROUND as usize], place) >= 0 {
            return GROUND;
        }
        -1
    }

    /// A counter within its bounds.
    fn bounded(&self, value: i64) -> i64 {
        if value > 1000000000000000 {
            return 1000000000000000;
        }
        if value < -1000000000000000 {
            return -1000000000000000;
        }
        value
    }

    /// Puts pieces in order, the foremost along a heading first.
    fn foremost_first(&self, pieces: &[i32], heading: i32, ordered: &mut Vec<i32>) {
        ordered.clear();
        if length_of(pieces) == 1 {
            ordered.push(pieces[0]);
            return;
        }
        let far = self.columns + self.rows;
        for back in 0..2 * far + 1 {
            for number in 0..length_of(pieces) {
                let place = self.cell_of[(pieces[number as usize]) as usize];
                if place >= 0 && place % self.columns * STEP_X[heading as usize] + place / self.columns * STEP_Y[heading as usize] == far - back {
                    ordered.push(pieces[number as usize]);
                }
            }
        }
    }

    /// The pieces in reading order, the lowest layer of a cell first, the ground left out.
    fn list_pieces(&self, found: &mut Vec<i32>) {
        for place in 0..self.cells {
            for layer in 0..LAYERS {
                let piece = self.piece_at(layer, place);
                if piece >= 0 && self.kind_of[piece as usize] != GROUND {
                    found.push(piece);
                }
            }
        }
    }
}
