//! Core values as JSON (docs/formats.md).

pub mod compared;
pub mod vectors;

use magpie_core::board::{Board, PieceId};
use magpie_core::grid::{Acted, ActionReport, Answer, Check, CheckKind, Grid, Request, Settled};
use magpie_core::input::{Input, Key};
use magpie_core::rulebook::{CounterRead, Diagnostic, KindId, LineIndex, Reading, Rulebook, SourcePlace};
use magpie_core::space::{Cell, Conversion, Extent, Heading, Position, WindowPoint, WorldPoint};
use magpie_core::tape::{Played, Session};
use magpie_core::trace::{Fact, First};
use serde::ser::{Error as _, SerializeSeq as _};
use serde::{Serialize, Serializer};
use serde_json::{Map, Value, json};

/// A position as it was asked about.
pub fn position(input: Position) -> Value {
    match input {
        Position::World(WorldPoint { x, y }) => json!({ "space": "world", "x": x, "y": y }),
        Position::Window(WindowPoint { x, y }) => json!({ "space": "window", "x": x, "y": y }),
        Position::Cell(Cell { column, row }) => {
            json!({ "space": "cell", "column": column, "row": row })
        }
        Position::Index(index) => json!({ "space": "index", "index": index }),
    }
}

/// A number without a point where it is whole.
pub fn whole_or_decimal(number: f64) -> Value {
    if number.fract() == 0.0 && number.abs() < 9e15 { json!(number as i64) } else { json!(number) }
}

/// The names of what the map has in the cell, top layer first; `None` off the board and in void.
pub fn held<'b>(book: &'b Rulebook, board: &Board, result: &Conversion) -> Option<Vec<&'b str>> {
    let cell = board.id(result.cell?).filter(|cell| !board.is_void(*cell))?;
    Some(board.kinds_at(cell).map(|kind| book.kind(kind).name.as_str()).collect())
}

/// The key of the button under a window position, as an input.
pub fn button(book: &Rulebook, result: &Conversion) -> Option<String> {
    let Position::Window(point) = result.input else { return None };
    let button = book.view.as_ref()?.button_at(point)?;
    Some(Input::Key(Key(button.key.clone())).to_string())
}

pub fn point(point: Option<WorldPoint>) -> Value {
    point.map_or(Value::Null, |point| json!({ "x": point.x, "y": point.y }))
}

/// Everything known about a position.
pub fn conversion(found: &Conversion, holds: Option<&[&str]>, button: Option<&str>) -> Value {
    json!({
        "input": position(found.input),
        "where": found.place.word(),
        "column": found.cell.map(|cell| cell.column),
        "row": found.cell.map(|cell| cell.row),
        "index": found.index,
        "corner": point(found.corner),
        "centre": point(found.centre),
        "box": found.cell_box.map(|b| json!({ "x": b.x, "y": b.y, "w": b.w, "h": b.h })),
        "local": found.local.map(|(x, y)| json!({ "x": x, "y": y })),
        "world": point(found.world),
        "window": found.window.map(|window| json!({ "x": window.x, "y": window.y })),
        "snap": found.snap.map(|snap| json!({
            "column": snap.cell.column, "row": snap.cell.row, "x": snap.centre.x, "y": snap.centre.y,
        })),
        "holds": holds,
        "button": button,
        "steps": found.steps,
    })
}

fn heading(heading: Option<Heading>) -> Value {
    heading.map_or(Value::Null, |heading| heading.word().into())
}

pub fn cell(cell: Cell) -> Value {
    json!([cell.column, cell.row])
}

fn check(check: &Check, book: &Rulebook, extent: Extent) -> Value {
    json!({
        "check": check.kind.word(),
        "holds": (check.kind != CheckKind::If).then_some(check.holds),
        "text": check.text(book, extent),
        "line": check.line(book),
        "rule": check.rule(book),
    })
}

/// A request with its answer, and with the ledger its checks.
pub fn request(request: &Request, book: &Rulebook, extent: Extent, ledger: bool) -> Value {
    let reason = request.reason.and_then(|number| request.checks.get(number));
    let shoved = if request.granted { request.shoved.as_slice() } else { &[] };
    let mut value = json!({
        "kind": book.kind(request.kind).name,
        "from": cell(request.from),
        "to": request.to.map(cell),
        "heading": heading(request.heading),
        "granted": request.granted,
        "reason": reason.map(|reason| check(reason, book, extent)),
        "shoved": shoved.iter().map(|shoved| json!([book.kind(shoved.kind).name, cell(shoved.from), cell(shoved.to)])).collect::<Vec<_>>(),
    });
    if ledger {
        value["checks"] = request.checks.iter().map(|found| check(found, book, extent)).collect();
    }
    value
}

fn action(action: &ActionReport) -> Value {
    let mut value = json!({ "action": action.action, "granted": action.granted, "reason": action.reason });
    if !action.cells.is_empty() {
        value["cells"] = action.cells.iter().map(|at| cell(*at)).collect();
    }
    if let Some(size) = action.size {
        value["size"] = size.into();
    }
    value
}

/// How much of every answer is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Show {
    /// Requests and actions.
    Last,
    /// And the board, the counters and the outcome after each turn.
    All,
    /// And every check.
    Ledger,
}

/// The rulebook's counters with their values.
fn counters(grid: &Grid) -> Value {
    let counters: Map<String, Value> = grid.counters().map(|(name, value)| (name.to_owned(), value.into())).collect();
    counters.into()
}

/// A turn, with the game as it is after it.
pub fn answer(found: &Answer, grid: &Grid, show: Show) -> Value {
    let book = grid.book();
    let extent = grid.board().extent();
    let mut value = json!({ "turn": found.turn, "input": found.input });
    if show != Show::Last {
        value["board"] = grid.picture().into();
        value["counters"] = counters(grid);
        value["outcome"] = found.outcome.map(magpie_core::grid::Ended::word).into();
    }
    let Value::Object(mut fields) = value else { return value };
    fields.extend(happened(found, book, extent, show == Show::Ledger));
    fields.into()
}

/// A turn in which a program and the model differ, with the model's game behind it.
pub fn answer_of(found: &Answer, book: &Rulebook, first: &First) -> Value {
    let counters: Map<String, Value> =
        first.counters.iter().map(|(name, value)| (name.clone(), (*value).into())).collect();
    let mut value = Map::new();
    value.insert("turn".into(), found.turn.into());
    value.insert("input".into(), found.input.clone().into());
    value.insert("board".into(), first.board.clone().into());
    value.insert("counters".into(), counters.into());
    value.insert("outcome".into(), found.outcome.map(magpie_core::grid::Ended::word).into());
    value.extend(happened(found, book, first.extent, true));
    value.into()
}

/// What the model or a program says of one thing.
pub fn fact(fact: &Fact, book: &Rulebook) -> Value {
    match fact {
        Fact::Cell(place) => place.map_or(Value::Null, cell),
        Fact::Index(index) => json!(index),
        Fact::Xy(xy) => xy.map_or(Value::Null, |(x, y)| json!([whole_or_decimal(x), whole_or_decimal(y)])),
        Fact::Board(rows) => json!(rows),
        Fact::Pieces(pieces) => {
            let piece = |(kind, at, id): &(_, Cell, Option<String>)| {
                let mut value = json!({ "kind": book.kind(*kind).name, "column": at.column, "row": at.row });
                if let Some(id) = id {
                    value["id"] = id.clone().into();
                }
                value
            };
            pieces.iter().map(piece).collect()
        }
        Fact::Counters(counters) => {
            let all: Map<String, Value> =
                counters.iter().map(|(name, value)| (name.clone(), (*value).into())).collect();
            all.into()
        }
        Fact::Granted(granted) => json!(granted),
        Fact::Outcome(outcome) => json!(outcome.map(magpie_core::grid::Ended::word)),
        Fact::Dealt(why) => json!(why),
    }
}

/// What happened in a turn, or on entering a map: requests and actions, and with the ledger everything else.
fn happened(found: &Answer, book: &Rulebook, extent: Extent, ledger: bool) -> Map<String, Value> {
    let mut value = Map::new();
    let requests: Vec<Value> = found.requests.iter().map(|asked| request(asked, book, extent, ledger)).collect();
    value.insert("requests".into(), requests.into());
    value.insert("actions".into(), found.actions.iter().map(action).collect());
    if ledger {
        let rule = |acted: &Acted| {
            let (at, did) = (acted.rule.at(book), acted.did.iter().map(|deed| &deed.text).collect::<Vec<_>>());
            json!({ "line": at.line, "rule": at.text, "did": did })
        };
        value.insert("rules".into(), found.rules.iter().map(rule).collect());
        let settled = |settled: &Settled| {
            let (at, counts) = (&book.whens[settled.rule].at, settled.counts);
            json!({
                "pass": settled.pass + 1, "line": at.line, "rule": at.text, "matches": settled.found,
                "gone": counts.gone, "moved": counts.moved, "made": counts.new, "turned": counts.turned,
            })
        };
        value.insert("settling".into(), found.settled.iter().map(settled).collect());
        value.insert("signals".into(), found.signals.clone().into());
        value.insert("heading".into(), heading(found.heading));
        value.insert("chosen".into(), found.chosen.map_or(Value::Null, cell));
        if !found.notes.is_empty() {
            value.insert("notes".into(), found.notes.clone().into());
        }
    }
    if found.untold > 0 {
        value.insert("untold".into(), found.untold.into());
    }
    value
}

/// What entering the first map did; null where nothing did anything.
fn entered(session: &Session) -> Value {
    let (found, grid) = (session.opening(), session.grid());
    if found.is_empty() {
        return Value::Null;
    }
    let extent = session.start().extent();
    happened(found, grid.book(), extent, true).into()
}

/// The state of a game and all turns so far, written turn by turn and piece by piece.
#[derive(Serialize)]
pub struct State<'s> {
    map: usize,
    turns: i64,
    moves: i64,
    clock: i64,
    outcome: Option<&'static str>,
    counters: Value,
    board: Vec<String>,
    pieces: Pieces<'s>,
    signals: Vec<&'s String>,
    broken: Option<&'s String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    entered: Option<Value>,
    #[serde(skip_serializing_if = "Option::is_none")]
    answers: Option<Answers<'s>>,
}

impl<'s> State<'s> {
    /// The state of a session.
    pub fn new(session: &'s Session, show: Show) -> Self {
        let grid = session.grid();
        Self {
            map: grid.map() + 1,
            turns: grid.counter(CounterRead::Turns),
            moves: grid.counter(CounterRead::Moves),
            clock: grid.counter(CounterRead::Clock),
            outcome: grid.outcome().map(magpie_core::grid::Ended::word),
            counters: counters(grid),
            board: grid.picture(),
            pieces: Pieces(grid),
            signals: session.signals().collect(),
            broken: session.broken().map(|number| &grid.book().invariants[number].at.text),
            entered: (show == Show::Ledger).then(|| entered(session)),
            answers: Some(Answers { session, show }),
        }
    }

    /// The state alone, without the turns that led to it.
    pub fn alone(session: &'s Session) -> Self {
        Self { answers: None, ..Self::new(session, Show::Last) }
    }
}

/// All turns of a session: played once more while they are written.
struct Answers<'s> {
    session: &'s Session,
    show: Show,
}

impl Serialize for Answers<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut list = serializer.serialize_seq(None)?;
        let mut wrong = None;
        let replayed = self.session.replay(|grid, played| {
            if let (None, Played::Turn(found)) = (&wrong, played) {
                wrong = list.serialize_element(&answer(found, grid, self.show)).err();
            }
        });
        match (wrong, replayed) {
            (Some(wrong), _) => Err(wrong),
            (None, Err(error)) => Err(S::Error::custom(error)),
            (None, Ok(())) => list.end(),
        }
    }
}

/// All pieces but the ground, in reading order, the lowest layer of a cell first; behind them those out of every cell.
struct Pieces<'g>(&'g Grid);

impl Serialize for Pieces<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let grid = self.0;
        let (board, book) = (grid.board(), grid.book());
        let mut list = serializer.serialize_seq(None)?;
        for id in (0..board.cells()).map(magpie_core::board::CellId) {
            let mut places: Vec<_> = board.seats(id).collect();
            places.reverse();
            for place in places {
                let kind = board.kind_in(id, place).filter(|kind| Some(*kind) != book.ground);
                match (board.known_piece_in(id, place), kind) {
                    (_, None) => {}
                    (Some(piece), Some(_)) => list.serialize_element(&one_piece(grid, piece))?,
                    // What a flood has laid has no number of its own.
                    (None, Some(kind)) => {
                        list.serialize_element(&piece_value(book, kind, Some(board.cell(id)), None))?;
                    }
                }
            }
        }
        let out = grid.between_cells().filter(|piece| board.cell_of(*piece).is_none() && board.exists(*piece));
        for piece in out {
            list.serialize_element(&one_piece(grid, piece))?;
        }
        list.end()
    }
}

/// A piece; one between cells with its centre, one out of every cell without column and row.
fn one_piece(grid: &Grid, piece: PieceId) -> Value {
    let board = grid.board();
    let cell = board.cell_of(piece).map(|id| board.cell(id));
    let mut value = piece_value(grid.book(), board.kind_of(piece), cell, board.heading_of(piece));
    if let Some((x, y)) = grid.at(piece) {
        value["at"] = json!([x, y]);
    }
    value
}

fn piece_value(book: &Rulebook, kind: KindId, cell: Option<Cell>, facing: Option<Heading>) -> Value {
    json!({
        "kind": book.kind(kind).name,
        "column": cell.map(|cell| cell.column),
        "row": cell.map(|cell| cell.row),
        "heading": heading(facing),
    })
}

/// The place of a diagnostic and its length in characters.
pub fn place(reading: &Reading, index: &LineIndex, found: &Diagnostic) -> (SourcePlace, usize) {
    let source = &reading.source;
    let length = source.get(found.span.start..found.span.end).map_or(1, |text| text.chars().count());
    (index.place(source, found.span.start), length)
}

/// What is wrong with a rulebook, as `check` tells it.
pub fn diagnostics(file: &str, reading: &Reading) -> Vec<Value> {
    let index = LineIndex::new(&reading.source);
    let entry = |found: &Diagnostic| {
        let (at, length) = place(reading, &index, found);
        json!({
            "file": file,
            "line": at.line,
            "column": at.column,
            "length": length,
            "severity": found.code.severity().word(),
            "code": found.code.word(),
            "message": found.message,
            "help": found.help,
        })
    };
    reading.diagnostics.iter().map(entry).collect()
}
