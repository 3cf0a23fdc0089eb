//! One line of a log: what somebody's program says it did.

use crate::grid::{Dealt, Ended};
use crate::input::Input;
use crate::rulebook::{CounterRead, KindId, Rulebook, TimerId};
use crate::space::Cell;
use regex_lite::Regex;
use serde_json::{Map, Value, json};
use thiserror::Error;

/// A line, or words about how to read one, that cannot be read.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[error("{0}")]
#[non_exhaustive]
pub struct LineError(pub String);

fn wrong<T>(text: impl Into<String>) -> Result<T, LineError> {
    Err(LineError(text.into()))
}

/// A piece as it was told.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ToldPiece {
    /// Its kind.
    pub kind: KindId,
    /// Where it stands.
    pub cell: Cell,
    /// What the program calls it.
    pub id: Option<String>,
}

/// What a line tells of the state.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Told {
    /// The cell of the controlled piece; inside, `None` when it is gone.
    pub cell: Option<Option<Cell>>,
    /// Its place in the flat array.
    pub index: Option<Option<i64>>,
    /// The world position of its middle.
    pub xy: Option<Option<(f64, f64)>>,
    /// The board as lines of characters, `?` for a cell that is not told.
    pub board: Option<Vec<String>>,
    /// All pieces of the kinds named in it.
    pub pieces: Option<Vec<ToldPiece>>,
    /// Kinds that are told completely, also when none of them is left.
    pub kinds: Vec<KindId>,
    /// Counters with their values.
    pub counters: Vec<(String, CounterRead, i64)>,
    /// A request or swap of this turn was granted.
    pub granted: Option<bool>,
    /// How the game stands.
    pub outcome: Option<Option<Ended>>,
}

impl Told {
    /// Whether it tells anything.
    pub fn is_report(&self) -> bool {
        self.cell.is_some()
            || self.index.is_some()
            || self.xy.is_some()
            || self.board.is_some()
            || self.pieces.is_some()
            || !self.kinds.is_empty()
            || !self.counters.is_empty()
            || self.granted.is_some()
            || self.outcome.is_some()
    }
}

/// A line of a log.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Line {
    /// What the program was given.
    pub input: Option<Input>,
    /// Where the clock stands before that.
    pub at: Option<u64>,
    /// Timers that fired since the line before, in order; `None` where the model's own clock is to fire them.
    pub fired: Option<Vec<TimerId>>,
    /// Draws that are taken as given.
    pub dealt: Option<Dealt>,
    /// What it says of the state.
    pub told: Told,
}

impl Line {
    /// The line as a log has it.
    pub fn to_json(&self, book: &Rulebook) -> Value {
        let cell = |cell: &Cell| json!([cell.column, cell.row]);
        let mut fields = Map::new();
        let mut put = |key: &str, value: Value| {
            fields.insert(key.into(), value);
        };
        if let Some(at) = self.at {
            put("at", at.into());
        }
        if let Some(input) = &self.input {
            put("input", input.to_string().into());
        }
        if let Some(fired) = &self.fired {
            put("fired", fired.iter().map(|timer| Value::from(book.timer_name(*timer))).collect());
        }
        if let Some(dealt) = &self.dealt {
            put("spawned", dealt.spawned.iter().map(cell).collect());
            put("drawn", dealt.drawn.iter().map(|name| Value::from(name.clone())).collect());
        }
        let Told { cell: place, index, xy, board, pieces, kinds, counters, granted, outcome } = &self.told;
        if let Some(place) = place {
            put("cell", place.as_ref().map_or(Value::Null, cell));
        }
        if let Some(index) = index {
            put("index", json!(index));
        }
        if let Some(xy) = xy {
            put("xy", xy.map_or(Value::Null, |(x, y)| json!([x, y])));
        }
        if let Some(board) = board {
            put("board", json!(board));
        }
        if let Some(pieces) = pieces {
            let piece = |piece: &ToldPiece| {
                let mut value =
                    json!({ "kind": book.kind(piece.kind).name, "column": piece.cell.column, "row": piece.cell.row });
                if let Some(id) = &piece.id {
                    value["id"] = id.clone().into();
                }
                value
            };
            put("pieces", pieces.iter().map(piece).collect());
        }
        if !kinds.is_empty() {
            put("kinds", kinds.iter().map(|kind| Value::from(book.kind(*kind).name.clone())).collect());
        }
        if !counters.is_empty() {
            let all: Map<String, Value> =
                counters.iter().map(|(name, _, value)| (name.clone(), Value::from(*value))).collect();
            put("counters", all.into());
        }
        if let Some(granted) = granted {
            put("granted", (*granted).into());
        }
        if let Some(outcome) = outcome {
            put("outcome", json!(outcome.map(Ended::word)));
        }
        fields.into()
    }
}

/// The header of a log: that of a tape.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Header {
    /// The map, counted from 0.
    pub map: Option<usize>,
    /// The seed.
    pub seed: Option<u64>,
}

/// What a piece of text in a log is.
#[derive(Clone, Debug, PartialEq)]
pub enum Read {
    /// A line.
    Line(Box<Line>),
    /// The header.
    Header(Header),
    /// Nothing that a template fits, or a blank line.
    Passed,
}

/// What a field of a template stands for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Field {
    Input,
    Column,
    Row,
    Index,
    X,
    Y,
    Granted,
    At,
}

/// A line of printed text, as a pattern with fields.
#[derive(Clone, Debug)]
struct Template {
    pattern: Regex,
    fields: Vec<Field>,
}

impl Template {
    fn parse(text: &str) -> Result<Self, LineError> {
        let mut pattern = String::from(r"^\s*");
        let mut fields = Vec::new();
        let mut rest = text.trim();
        while let Some(first) = rest.chars().next() {
            if first == '{' {
                let Some((name, behind)) = rest[1..].split_once('}') else {
                    return wrong(format!("`{rest}` in the template has no `}}`"));
                };
                const NUMBER: &str = r"([+-]?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?)";
                const WHOLE: &str = r"([+-]?\d+)";
                let (field, part) = match name {
                    "input" => (Some(Field::Input), r"(\S+)"),
                    "column" => (Some(Field::Column), WHOLE),
                    "row" => (Some(Field::Row), WHOLE),
                    "index" => (Some(Field::Index), WHOLE),
                    "x" => (Some(Field::X), NUMBER),
                    "y" => (Some(Field::Y), NUMBER),
                    "granted" => (Some(Field::Granted), r"((?i:true|yes|1|false|no|0))"),
                    "t" => (Some(Field::At), r"(\d+)"),
                    "skip" => (None, r".*?"),
                    _ => {
                        return wrong(format!(
                            "`{{{name}}}` is no field of a template: write input column row index x y granted t skip"
                        ));
                    }
                };
                if field.is_some_and(|field| fields.contains(&field)) {
                    return wrong(format!("`{{{name}}}` stands twice in the template"));
                }
                pattern.push_str(part);
                fields.extend(field);
                rest = behind;
            } else if first.is_whitespace() {
                pattern.push_str(r"\s+");
                rest = rest.trim_start();
            } else {
                pattern.push_str(&regex_lite::escape(first.encode_utf8(&mut [0; 4])));
                rest = &rest[first.len_utf8()..];
            }
        }
        pattern.push_str(r"\s*$");
        let has = |field| fields.contains(&field);
        if has(Field::Column) != has(Field::Row) || has(Field::X) != has(Field::Y) {
            return wrong("a template needs both {column} and {row}, both {x} and {y}");
        }
        let pattern = Regex::new(&pattern).map_err(|error| LineError(error.to_string()))?;
        Ok(Self { pattern, fields })
    }
}

/// How lines of a log are read.
#[derive(Clone, Debug, Default)]
pub struct Tongue {
    templates: Vec<Template>,
    words: Vec<(String, String)>,
    glyphs: Vec<(char, char)>,
}

impl Tongue {
    /// How logs are read that were printed as text, in other words or with other characters.
    ///
    /// # Errors
    /// A template, or a `THEIRS=OURS`, that cannot be read.
    pub fn new(templates: &[String], words: &str, glyphs: &str) -> Result<Self, LineError> {
        let templates = templates.iter().map(|text| Template::parse(text)).collect::<Result<_, _>>()?;
        let pair = |word: &str| match word.rsplit_once('=') {
            Some((theirs, ours)) if !theirs.is_empty() && !ours.is_empty() => Ok((theirs.to_owned(), ours.to_owned())),
            _ => wrong(format!("`{word}` says nothing: write THEIRS=OURS, as in `L=left box=weight`")),
        };
        let words = words.split_whitespace().map(pair).collect::<Result<_, _>>()?;
        let glyph = |word: &str| match word.chars().collect::<Vec<_>>()[..] {
            [theirs, '=', ours] => Ok((theirs, ours)),
            _ => wrong(format!("`{word}` is no pair of characters: write THEIRS=OURS, as in `@=F $=w`")),
        };
        let glyphs = glyphs.split_whitespace().map(glyph).collect::<Result<_, _>>()?;
        Ok(Self { templates, words, glyphs })
    }

    /// Whether lines are read by templates.
    pub const fn has_templates(&self) -> bool {
        !self.templates.is_empty()
    }

    fn ours<'w>(&'w self, word: &'w str) -> &'w str {
        self.words.iter().find(|(theirs, _)| theirs == word).map_or(word, |(_, ours)| ours)
    }

    /// Reads one line of a log.
    ///
    /// # Errors
    /// What it says that cannot be: a known key of a wrong type, or an input, kind, shape, timer or counter that is none.
    pub fn read(&self, text: &str, book: &Rulebook) -> Result<Read, LineError> {
        let text = text.trim_matches(['\u{feff}', ' ', '\t', '\r', '\n']);
        if text.is_empty() {
            return Ok(Read::Passed);
        }
        if !self.templates.is_empty() && !text.starts_with("{\"magpie-tape\"") {
            let found = self.templates.iter().find_map(|template| {
                let found = template.pattern.captures(text)?;
                Some((template, found))
            });
            let Some((template, found)) = found else { return Ok(Read::Passed) };
            let texts = (1..found.len()).map(|at| found.get(at).map_or("", |part| part.as_str()));
            return self.printed(&template.fields, texts, book).map(|line| Read::Line(line.into()));
        }
        match serde_json::from_str(text) {
            Ok(Value::Object(fields)) if fields.contains_key("magpie-tape") => header(&fields).map(Read::Header),
            Ok(Value::Object(fields)) => {
                Reader { tongue: self, book }.line(&fields).map(|line| Read::Line(line.into()))
            }
            Ok(_) => wrong("this is no JSON object {...}"),
            Err(error) => wrong(format!("this is no JSON: {error}")),
        }
    }

    fn printed<'t>(
        &self,
        fields: &[Field],
        texts: impl Iterator<Item = &'t str>,
        book: &Rulebook,
    ) -> Result<Line, LineError> {
        let mut line = Line::default();
        let (mut cell, mut xy) = ([None; 2], [None; 2]);
        let whole = |text: &str| text.parse::<i64>().map_err(|_| LineError(format!("`{text}` is too large")));
        for (field, text) in fields.iter().zip(texts) {
            match field {
                Field::Input => line.input = Some(self.input(text)?),
                Field::Column => cell[0] = Some(whole(text)?),
                Field::Row => cell[1] = Some(whole(text)?),
                Field::Index => line.told.index = Some(Some(whole(text)?)),
                Field::X => xy[0] = text.parse().ok(),
                Field::Y => xy[1] = text.parse().ok(),
                Field::Granted => {
                    line.told.granted = Some(matches!(text.to_ascii_lowercase().as_str(), "true" | "yes" | "1"));
                }
                Field::At => line.at = Some(text.parse().map_err(|_| LineError(format!("`{text}` is too late")))?),
            }
        }
        if let [Some(column), Some(row)] = cell {
            line.told.cell = Some(Some(Cell::new(column, row)));
        }
        if let [Some(x), Some(y)] = xy {
            line.told.xy = Some(Some((x, y)));
        }
        needs_control(&line.told, book)?;
        Ok(line)
    }

    fn input(&self, word: &str) -> Result<Input, LineError> {
        self.ours(word).parse().map_err(|error: crate::input::InputError| LineError(error.to_string()))
    }
}

/// `cell`, `index` and `xy` are about the controlled piece.
fn needs_control(told: &Told, book: &Rulebook) -> Result<(), LineError> {
    let about = [("cell", told.cell.is_some()), ("index", told.index.is_some()), ("xy", told.xy.is_some())];
    match about.into_iter().find(|(_, is_told)| *is_told) {
        Some((key, _)) if book.controls.is_empty() => {
            wrong(format!("`{key}` is told of the controlled piece, and the rulebook has no `control`"))
        }
        _ => Ok(()),
    }
}

fn header(fields: &Map<String, Value>) -> Result<Header, LineError> {
    if fields.get("magpie-tape") != Some(&Value::from(1)) {
        return wrong("only tapes of version 1 are known");
    }
    let number = |key: &str| match fields.get(key) {
        None | Some(Value::Null) => Ok(None),
        Some(value) => value.as_u64().map(Some).ok_or_else(|| LineError(format!("`{key}` is no whole number"))),
    };
    let map =
        number("map")?.map(|map| (map as usize).checked_sub(1).ok_or_else(|| LineError("maps count from 1".into())));
    Ok(Header { map: map.transpose()?, seed: number("seed")? })
}

/// Reads the fields of a line.
struct Reader<'r> {
    tongue: &'r Tongue,
    book: &'r Rulebook,
}

fn text<'v>(key: &str, value: &'v Value) -> Result<&'v str, LineError> {
    value.as_str().ok_or_else(|| LineError(format!("`{key}` is no text")))
}

fn whole(key: &str, value: &Value) -> Result<i64, LineError> {
    let number =
        value.as_i64().or_else(|| value.as_f64().filter(|n| n.fract() == 0.0 && n.abs() < 9e15).map(|n| n as i64));
    number.ok_or_else(|| LineError(format!("`{key}` is no whole number")))
}

fn list<'v>(key: &str, value: &'v Value) -> Result<&'v [Value], LineError> {
    value.as_array().map(Vec::as_slice).ok_or_else(|| LineError(format!("`{key}` is no list")))
}

fn pair<'v>(key: &str, value: &'v Value) -> Result<[&'v Value; 2], LineError> {
    match value.as_array().map(Vec::as_slice) {
        Some([first, second]) => Ok([first, second]),
        _ => wrong(format!("`{key}` is no pair [.., ..]")),
    }
}

fn cell(key: &str, value: &Value) -> Result<Cell, LineError> {
    let [column, row] = pair(key, value)?;
    Ok(Cell::new(whole(key, column)?, whole(key, row)?))
}

impl Reader<'_> {
    fn line(&self, fields: &Map<String, Value>) -> Result<Line, LineError> {
        let mut line = Line::default();
        let mut dealt = Dealt::default();
        let mut is_dealt = false;
        for (key, value) in fields {
            match key.as_str() {
                "input" => line.input = Some(self.tongue.input(text(key, value)?)?),
                "at" => {
                    let at = whole(key, value)?;
                    line.at = Some(u64::try_from(at).map_err(|_| LineError("`at` is before 0".into()))?);
                }
                "fired" => {
                    let timer = |value: &Value| self.timer(text("fired", value)?);
                    line.fired = Some(list(key, value)?.iter().map(timer).collect::<Result<_, _>>()?);
                }
                "spawned" => {
                    dealt.spawned = list(key, value)?.iter().map(|place| cell(key, place)).collect::<Result<_, _>>()?;
                    is_dealt = true;
                }
                "drawn" => {
                    dealt.drawn =
                        list(key, value)?.iter().map(|name| self.drawn(text(key, name)?)).collect::<Result<_, _>>()?;
                    is_dealt = true;
                }
                _ => self.told(&mut line.told, key, value)?,
            }
        }
        line.dealt = is_dealt.then_some(dealt);
        needs_control(&line.told, self.book)?;
        Ok(line)
    }

    fn told(&self, told: &mut Told, key: &str, value: &Value) -> Result<(), LineError> {
        match key {
            "cell" => told.cell = Some(if value.is_null() { None } else { Some(cell(key, value)?) }),
            "index" => told.index = Some(if value.is_null() { None } else { Some(whole(key, value)?) }),
            "xy" if value.is_null() => told.xy = Some(None),
            "xy" => {
                let numbers = pair(key, value)?.map(Value::as_f64);
                let [Some(x), Some(y)] = numbers else { return wrong("`xy` is no pair of numbers") };
                told.xy = Some(Some((x, y)));
            }
            "board" => told.board = Some(list(key, value)?.iter().map(|row| self.row(row)).collect::<Result<_, _>>()?),
            "pieces" => {
                told.pieces = Some(list(key, value)?.iter().map(|piece| self.piece(piece)).collect::<Result<_, _>>()?);
            }
            "kinds" => {
                let kind = |value: &Value| self.kind(text(key, value)?);
                told.kinds = list(key, value)?.iter().map(kind).collect::<Result<_, _>>()?;
            }
            "counters" => {
                let Some(counters) = value.as_object() else { return wrong("`counters` is no object {NAME: NUMBER}") };
                let counter = |(name, value): (&String, &Value)| {
                    let name = self.tongue.ours(name).to_owned();
                    let counter = self.counter(&name)?;
                    Ok((name, counter, whole("counters", value)?))
                };
                told.counters = counters.iter().map(counter).collect::<Result<_, LineError>>()?;
            }
            "granted" => {
                told.granted =
                    Some(value.as_bool().ok_or_else(|| LineError("`granted` is neither true nor false".into()))?);
            }
            "outcome" => {
                let known = [Ended::Won, Ended::Lost, Ended::NeverSettles];
                told.outcome = Some(match value {
                    Value::Null => None,
                    value => {
                        let word = text(key, value)?;
                        let found = known.into_iter().find(|ended| ended.word() == word);
                        Some(found.ok_or_else(|| {
                            LineError(format!(
                                "`{}` is no outcome: write won, lost, never settles or null",
                                shown(word)
                            ))
                        })?)
                    }
                });
            }
            _ => {}
        }
        Ok(())
    }

    fn kind(&self, name: &str) -> Result<KindId, LineError> {
        let name = self.tongue.ours(name);
        self.book.kind_of_name(name).ok_or_else(|| LineError(format!("there is no kind `{}`", shown(name))))
    }

    fn counter(&self, name: &str) -> Result<CounterRead, LineError> {
        match name {
            "moves" => Ok(CounterRead::Moves),
            "turns" => Ok(CounterRead::Turns),
            "clock" => Ok(CounterRead::Clock),
            _ => {
                let found = self.book.counters.iter().position(|counter| counter.name == name);
                let found = found.ok_or_else(|| LineError(format!("there is no counter `{}`", shown(name))))?;
                Ok(CounterRead::Own(crate::rulebook::CounterId(found as u16)))
            }
        }
    }

    fn timer(&self, name: &str) -> Result<TimerId, LineError> {
        let name = self.tongue.ours(name);
        let found = self.book.timers.iter().position(|timer| timer.name == name);
        found.map(|at| TimerId(at as u16)).ok_or_else(|| LineError(format!("there is no timer `{}`", shown(name))))
    }

    fn drawn(&self, name: &str) -> Result<String, LineError> {
        let name = self.tongue.ours(name);
        let is_shape = self.book.shapes.iter().any(|shape| shape.name == name);
        if is_shape || self.book.kind_of_name(name).is_some() {
            return Ok(name.to_owned());
        }
        wrong(format!("there is no kind and no shape `{}`", shown(name)))
    }

    fn piece(&self, value: &Value) -> Result<ToldPiece, LineError> {
        let field = |key: &str| value.get(key).ok_or_else(|| LineError(format!("a piece in `pieces` has no `{key}`")));
        let id = match value.get("id") {
            None | Some(Value::Null) => None,
            Some(Value::String(id)) => Some(id.clone()),
            Some(Value::Number(id)) => Some(id.to_string()),
            Some(_) => return wrong("`id` is neither text nor a number"),
        };
        let cell = Cell::new(whole("column", field("column")?)?, whole("row", field("row")?)?);
        Ok(ToldPiece { kind: self.kind(text("kind", field("kind")?)?)?, cell, id })
    }

    /// A line of the board: characters, or numbers as delimited maps have them.
    fn row(&self, value: &Value) -> Result<String, LineError> {
        if let Some(numbers) = value.as_array() {
            let glyph = |number: &Value| {
                let number = whole("board", number)?;
                let found = self.book.numbers.iter().find(|(known, _)| *known == number);
                let (_, kinds) = found.ok_or_else(|| LineError(format!("there is no `number {number}`")))?;
                let mut kinds: Vec<KindId> = kinds.clone();
                kinds.sort_by_key(|kind| std::cmp::Reverse(self.book.kind(*kind).layer));
                Ok(if kinds.is_empty() {
                    self.book.ground.map_or('_', |kind| self.book.kind(kind).glyph)
                } else {
                    self.book.glyph_of(&kinds)
                })
            };
            return numbers.iter().map(glyph).collect();
        }
        let ours = |glyph: char| {
            self.tongue.glyphs.iter().find(|(theirs, _)| *theirs == glyph).map_or(glyph, |(_, ours)| *ours)
        };
        Ok(text("board", value)?.chars().map(ours).collect())
    }
}

/// A word of a log as it may be repeated.
fn shown(word: &str) -> String {
    word.chars().filter(|c| !c.is_control()).take(60).collect()
}
