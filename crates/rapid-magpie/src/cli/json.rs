//! Core values as JSON (docs/formats.md).

use magpie_core::board::PieceId;
use magpie_core::grid::{ActionReport, Answer, Check, Grid, Request};
use magpie_core::rulebook::{CounterRead, KindId, Rulebook};
use magpie_core::space::{Cell, Conversion, Extent, Heading, Position, WindowPoint, WorldPoint};
use magpie_core::tape::Session;
use serde_json::{Map, Value, json};

/// A position with its space.
fn input(input: Position) -> Value {
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

fn point(point: Option<WorldPoint>) -> Value {
    point.map_or(Value::Null, |point| json!({ "x": point.x, "y": point.y }))
}

/// Everything known about a position.
pub fn conversion(found: &Conversion) -> Value {
    json!({
        "input": input(found.input),
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
        "steps": found.steps,
    })
}

fn heading(heading: Option<Heading>) -> Value {
    heading.map_or(Value::Null, |heading| heading.word().into())
}

fn cell(cell: Cell) -> Value {
    json!([cell.column, cell.row])
}

fn check(check: &Check, book: &Rulebook, extent: Extent) -> Value {
    json!({
        "check": check.kind.word(),
        "holds": check.holds,
        "text": check.text(book, extent),
        "line": check.line(book),
        "rule": check.rule(book),
    })
}

fn request(request: &Request, book: &Rulebook, extent: Extent, ledger: bool) -> Value {
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

/// What a board looked like after a turn, for `--show all`.
#[derive(Clone, Debug)]
pub struct After {
    /// The board.
    pub board: Vec<String>,
    /// The rulebook's counters.
    pub counters: Value,
}

/// The rulebook's counters with their values.
pub fn counters(session: &Session) -> Value {
    let values: Vec<i64> = session.grid().counters().map(|(_, value)| value).collect();
    named_counters(session, &values)
}

/// Values of the rulebook's counters, in its order, with their names.
pub fn named_counters(session: &Session, values: &[i64]) -> Value {
    let names = session.grid().counters().map(|(name, _)| name.to_owned());
    let counters: Map<String, Value> = names.zip(values.iter().map(|value| Value::from(*value))).collect();
    counters.into()
}

fn answer(found: &Answer, after: Option<&After>, session: &Session, show: Show) -> Value {
    let book = session.grid().book();
    let extent = session.grid().board().extent();
    let mut value = json!({ "turn": found.turn, "input": found.input });
    if let Some(after) = after {
        value["board"] = after.board.clone().into();
        value["counters"] = after.counters.clone();
        value["outcome"] = found.outcome.map(magpie_core::grid::Ended::word).into();
    }
    let ledger = show == Show::Ledger;
    value["requests"] = found.requests.iter().map(|asked| request(asked, book, extent, ledger)).collect();
    value["actions"] = found.actions.iter().map(action).collect();
    value
}

/// The state of a game and all answers so far; `after` holds one entry an answer, or nothing.
pub fn state(session: &Session, after: &[After], show: Show) -> Value {
    let grid = session.grid();
    let book = grid.book();
    let answers: Vec<Value> =
        session.answers().enumerate().map(|(at, found)| answer(found, after.get(at), session, show)).collect();
    let signals: Vec<&String> = session.signals().collect();
    let broken = session.answers().find_map(|answer| answer.broken).map(|number| &book.invariants[number].at.text);
    json!({
        "map": grid.map() + 1,
        "turns": grid.counter(CounterRead::Turns),
        "moves": grid.counter(CounterRead::Moves),
        "clock": grid.counter(CounterRead::Clock),
        "outcome": grid.outcome().map(magpie_core::grid::Ended::word),
        "counters": counters(session),
        "board": grid.picture(),
        "pieces": pieces(session),
        "signals": signals,
        "broken": broken,
        "answers": answers,
    })
}

/// All pieces but the ground, in reading order, the lowest layer of a cell first; behind them those out of every cell.
fn pieces(session: &Session) -> Vec<Value> {
    let grid = session.grid();
    let (board, book) = (grid.board(), grid.book());
    let mut found = Vec::new();
    for id in (0..board.cells()).map(magpie_core::board::CellId) {
        let mut places: Vec<_> = board.seats(id).collect();
        places.reverse();
        for place in places {
            let kind = board.kind_in(id, place).filter(|kind| Some(*kind) != book.ground);
            match (board.known_piece_in(id, place), kind) {
                (_, None) => {}
                (Some(piece), Some(_)) => found.push(one_piece(grid, piece)),
                // What a flood has laid has no number of its own.
                (None, Some(kind)) => found.push(piece_value(book, kind, Some(board.cell(id)), None)),
            }
        }
    }
    let out = grid.between_cells().filter(|piece| board.cell_of(*piece).is_none() && board.exists(*piece));
    found.extend(out.map(|piece| one_piece(grid, piece)));
    found
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
