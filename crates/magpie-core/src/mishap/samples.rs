//! Positions with the answers that somebody's program gave.

use crate::limits::{LARGEST_SAMPLE, MOST_SAMPLES};
use crate::space::Extent;
use thiserror::Error;

/// What a program was given and what it said.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sample {
    /// x and y, column and row, or an index and nothing.
    pub input: (f64, f64),
    /// Column and row, or x and y of a centre; of an index only the first counts.
    pub output: (f64, f64),
    /// How far a printed number may lie beside the computed one, for each output.
    pub slack: (f64, f64),
}

/// What samples ask for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Asks {
    /// Position to column and row.
    Cell,
    /// Position to index.
    Index,
    /// Position to the centre of the nearest cell.
    Snap,
    /// Cell to centre.
    Centre,
    /// Cell to index.
    IndexOfCell,
    /// Index to cell.
    CellOfIndex,
}

impl Asks {
    const ALL: [Self; 6] = [Self::Cell, Self::Index, Self::Snap, Self::Centre, Self::IndexOfCell, Self::CellOfIndex];

    /// The names of what is given and of what is answered.
    const fn names(self) -> (&'static [Name], &'static [Name]) {
        const XY: &[Name] = &[Name::X, Name::Y];
        const CELL: &[Name] = &[Name::Column, Name::Row];
        const CENTRE: &[Name] = &[Name::CentreX, Name::CentreY];
        const INDEX: &[Name] = &[Name::Index];
        match self {
            Self::Cell => (XY, CELL),
            Self::Index => (XY, INDEX),
            Self::Snap => (XY, CENTRE),
            Self::Centre => (CELL, CENTRE),
            Self::IndexOfCell => (CELL, INDEX),
            Self::CellOfIndex => (INDEX, CELL),
        }
    }

    /// The header of a CSV of such samples.
    pub fn header(self) -> String {
        let (given, told) = self.names();
        let all: Vec<&str> = given.iter().chain(told).map(|name| name.word()).collect();
        all.join(",")
    }

    /// Whether positions are given, of the world or of the window.
    pub const fn at_positions(self) -> bool {
        matches!(self, Self::Cell | Self::Index | Self::Snap)
    }

    /// Whether an index alone is answered.
    pub const fn is_index(self) -> bool {
        matches!(self, Self::Index | Self::IndexOfCell)
    }
}

/// What a number of a sample is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Name {
    /// Of a position.
    X,
    /// Of a position.
    Y,
    /// Of a cell.
    Column,
    /// Of a cell.
    Row,
    /// A place in the flat array.
    Index,
    /// Of the middle of a cell.
    CentreX,
    /// Of the middle of a cell.
    CentreY,
}

impl Name {
    const ALL: [Self; 7] = [Self::X, Self::Y, Self::Column, Self::Row, Self::Index, Self::CentreX, Self::CentreY];

    /// Its word in a header.
    pub const fn word(self) -> &'static str {
        match self {
            Self::X => "x",
            Self::Y => "y",
            Self::Column => "column",
            Self::Row => "row",
            Self::Index => "index",
            Self::CentreX => "centre_x",
            Self::CentreY => "centre_y",
        }
    }

    /// What a word before a printed number says that it is.
    fn of_label(label: &str) -> Option<Self> {
        let other = match label {
            "col" | "cols" => Some(Self::Column),
            "idx" | "i" => Some(Self::Index),
            "center_x" | "cx" => Some(Self::CentreX),
            "center_y" | "cy" => Some(Self::CentreY),
            _ => None,
        };
        other.or_else(|| Self::ALL.into_iter().find(|name| name.word() == label))
    }
}

/// The names of a line's numbers in their order, as `--as` writes them: `x,y,column,row`, `_` for one to pass over.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Names(Vec<Option<Name>>);

impl std::str::FromStr for Names {
    type Err = SampleError;

    fn from_str(text: &str) -> Result<Self, SampleError> {
        let name = |word: &str| match word.trim() {
            "_" => Ok(None),
            word => Name::ALL
                .into_iter()
                .find(|name| name.word() == word)
                .map(Some)
                .ok_or_else(|| SampleError::Name(word.chars().filter(|c| !c.is_control()).take(40).collect())),
        };
        let names = Self(text.split(',').map(name).collect::<Result<_, _>>()?);
        names.asks().map(|_| names.clone()).ok_or(SampleError::NoPair)
    }
}

impl Names {
    /// What samples of these names ask for: of cell and index the one named first was given. `None` where they are no pair.
    fn asks(&self) -> Option<Asks> {
        let named: Vec<Name> = self.0.iter().flatten().copied().collect();
        Asks::ALL.into_iter().find(|asks| {
            let (given, told) = asks.names();
            let all = given.len() + told.len();
            let has = |name: &Name| named.iter().filter(|other| *other == name).count() == 1;
            let index_first = named.first() == Some(&Name::Index);
            named.len() == all
                && given.iter().chain(told).all(has)
                && (*asks != Asks::CellOfIndex || index_first)
                && (*asks != Asks::IndexOfCell || !index_first)
        })
    }

    /// Where the numbers of given and told stand in a line.
    fn places(&self, asks: Asks) -> Vec<usize> {
        let (given, told) = asks.names();
        let at = |name: &Name| self.0.iter().position(|other| other.as_ref() == Some(name)).unwrap_or(0);
        given.iter().chain(told).map(at).collect()
    }
}

/// The board that samples are about: which numbers are cells and indices of it.
#[derive(Clone, Copy, Debug)]
pub struct Board {
    /// Its size in cells.
    pub extent: Extent,
    /// The index of its first cell.
    pub first_index: i64,
}

impl Board {
    fn has_cell(self, column: f64, row: f64) -> bool {
        let within = |value: f64, count: u32| value.fract() == 0.0 && value >= 0.0 && value < f64::from(count);
        within(column, self.extent.columns) && within(row, self.extent.rows)
    }

    fn has_index(self, index: f64) -> bool {
        let place = index - self.first_index as f64;
        place.fract() == 0.0 && place >= 0.0 && place < self.extent.cells() as f64
    }
}

/// Samples of one sort.
#[derive(Clone, Debug, PartialEq)]
pub struct Samples {
    /// What they ask for.
    pub asks: Asks,
    /// The samples, in their order.
    pub all: Vec<Sample>,
}

/// Why samples cannot be read.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum SampleError {
    /// There are none.
    #[error("there are no samples: a CSV with a header, or lines such as `(101.0, 40.0) -> 4 2`")]
    Empty,
    /// Too many.
    #[error("more than {MOST_SAMPLES} samples")]
    TooMany,
    /// A header that names too little.
    #[error(
        "the header names neither `x,y` with `column,row`, `index` or `centre_x,centre_y`, nor `column,row` with `centre_x,centre_y` or `index`, nor `index` with `column,row`"
    )]
    Header,
    /// A name twice in the header.
    #[error("the header names `{0}` twice")]
    Twice(String),
    /// A word that names no number of a sample.
    #[error("`{0}` names no number of a sample: x y column row index centre_x centre_y, or _ for one to pass over")]
    Name(String),
    /// Names that are no pair of given and told.
    #[error(
        "these names are no pair: `x,y` with `column,row`, `index` or `centre_x,centre_y`; `column,row` with `centre_x,centre_y` or `index`; `index` with `column,row`"
    )]
    NoPair,
    /// Lines that may mean two things.
    #[error("these lines can be read as `{0}` and as `{1}`: say which with `--as`, or in a first line")]
    Ambiguous(String, String),
    /// A field without a number.
    #[error("line {line}: `{field}` is no number for `{name}`")]
    Number {
        /// The line, from 1.
        line: usize,
        /// The field.
        field: String,
        /// The column of the file.
        name: String,
    },
    /// A line with too few or too many numbers.
    #[error(
        "line {line}: {found} numbers, where {wanted} are wanted: two or three in, two out, or two in and an index"
    )]
    Count {
        /// The line, from 1.
        line: usize,
        /// Numbers in it.
        found: usize,
        /// Numbers in the lines before, or names.
        wanted: String,
    },
    /// A line whose words name other numbers than the first one's.
    #[error("line {line}: its words name other numbers than those of the first line")]
    OtherNames {
        /// The line, from 1.
        line: usize,
    },
    /// Not CSV.
    #[error("line {line}: {message}")]
    Form {
        /// The line, from 1.
        line: u64,
        /// What is wrong.
        message: String,
    },
}

/// A printed number: its value, and half a unit of its last decimal.
fn printed(text: &str) -> Option<(f64, f64)> {
    let value: f64 = text.parse().ok()?;
    let decimals = text.split_once('.').map_or(0, |(_, tail)| tail.bytes().take_while(u8::is_ascii_digit).count());
    let exact = 1e-9 * value.abs().max(1.0);
    let scientific = text.contains(['e', 'E']);
    let slack = if decimals == 0 || scientific { exact } else { exact + 0.5 * 10f64.powi(-(decimals as i32)) };
    (value.abs() <= LARGEST_SAMPLE).then_some((value, slack))
}

/// Reads samples: a CSV with a header, or lines as a program printed them, the numbers of which `names` may name.
///
/// # Errors
/// A [`SampleError`] where there are none or too many, where a line is of another sort than the first, or where nothing says
/// which of two ways to read the lines is meant.
pub fn parse_samples(text: &str, board: Board, names: Option<&Names>) -> Result<Samples, SampleError> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let first = text.lines().find(|line| !line.trim().is_empty()).ok_or(SampleError::Empty)?;
    let has_number = !numbers(first).is_empty();
    let samples = if names.is_none() && !has_number && first.contains(',') {
        from_csv(text)?
    } else {
        pasted(text, board, names)?
    };
    match samples.all.len() {
        0 => Err(SampleError::Empty),
        1..=MOST_SAMPLES => Ok(samples),
        _ => Err(SampleError::TooMany),
    }
}

fn from_csv(text: &str) -> Result<Samples, SampleError> {
    let mut reader = csv::ReaderBuilder::new().trim(csv::Trim::All).from_reader(text.as_bytes());
    let form = |error: &csv::Error| SampleError::Form {
        line: error.position().map_or(1, csv::Position::line),
        message: match error.kind() {
            csv::ErrorKind::UnequalLengths { expected_len, len, .. } => {
                format!("{len} fields, where the header has {expected_len}")
            }
            _ => error.to_string(),
        },
    };
    let headers = reader.headers().map_err(|error| form(&error))?.clone();
    let find = |name: &str| -> Result<Option<usize>, SampleError> {
        let mut found = headers.iter().enumerate().filter(|(_, field)| *field == name).map(|(at, _)| at);
        match (found.next(), found.next()) {
            (_, Some(_)) => Err(SampleError::Twice(name.into())),
            (at, None) => Ok(at),
        }
    };
    let mut found: Vec<(Asks, Vec<&str>, Vec<usize>)> = Vec::new();
    for asks in Asks::ALL {
        let (given, told) = asks.names();
        let names: Vec<&str> = given.iter().chain(told).map(|name| name.word()).collect();
        let at: Vec<Option<usize>> = names.iter().map(|name| find(name)).collect::<Result<_, _>>()?;
        if let Some(at) = at.into_iter().collect::<Option<Vec<usize>>>() {
            found.push((asks, names, at));
        }
    }
    // Of cell and index the one named first was given.
    let is_meant = |(asks, _, at): &&(Asks, Vec<&str>, Vec<usize>)| match asks {
        Asks::IndexOfCell => at[0].min(at[1]) < at[2],
        Asks::CellOfIndex => at[0] < at[1].min(at[2]),
        Asks::Cell | Asks::Index | Asks::Snap | Asks::Centre => true,
    };
    let (asks, names, at) = found.iter().find(is_meant).ok_or(SampleError::Header)?;
    let mut all = Vec::new();
    for record in reader.records() {
        let record = record.map_err(|error| form(&error))?;
        let line = record.position().map_or(0, |position| position.line() as usize);
        let mut fields = Vec::new();
        for (at, name) in at.iter().zip(names) {
            let field = record.get(*at).unwrap_or_default();
            let wrong = || SampleError::Number { line, field: field.into(), name: (*name).into() };
            fields.push(printed(field).ok_or_else(wrong)?);
        }
        all.push(sample(*asks, &fields));
        if all.len() > MOST_SAMPLES {
            return Err(SampleError::TooMany);
        }
    }
    Ok(Samples { asks: *asks, all })
}

/// A number of a line and the word before it.
#[derive(Clone, Debug)]
struct Labelled {
    value: f64,
    slack: f64,
    label: String,
}

/// All numbers of a line. Digits within a word (`Vector2`) are no number; a minus behind a number is a separator.
fn numbers(line: &str) -> Vec<Labelled> {
    let bytes = line.as_bytes();
    let digit = |at: usize| bytes.get(at).is_some_and(u8::is_ascii_digit);
    let mut found = Vec::new();
    let mut label = String::new();
    let mut at = 0;
    while at < bytes.len() {
        let byte = bytes[at];
        let point = byte == b'.' && digit(at + 1);
        let minus = byte == b'-' && (digit(at + 1) || (bytes.get(at + 1) == Some(&b'.') && digit(at + 2)));
        if digit(at) || point || minus {
            let start = at;
            at += 1;
            while digit(at) || (bytes.get(at) == Some(&b'.') && digit(at + 1)) {
                at += 1;
            }
            let exponent = matches!(bytes.get(at), Some(b'e' | b'E'));
            let sign = usize::from(matches!(bytes.get(at + 1), Some(b'-' | b'+')));
            if exponent && digit(at + 1 + sign) {
                at += 1 + sign;
                while digit(at) {
                    at += 1;
                }
            }
            if let Some((value, slack)) = printed(&line[start..at]) {
                found.push(Labelled { value, slack, label: std::mem::take(&mut label) });
            }
            // A suffix such as `f` or `px` is no word of its own.
            while bytes.get(at).is_some_and(u8::is_ascii_alphabetic) {
                at += 1;
            }
        } else if byte.is_ascii_alphabetic() || byte == b'_' {
            let start = at;
            while bytes.get(at).is_some_and(|byte| byte.is_ascii_alphanumeric() || *byte == b'_') {
                at += 1;
            }
            label = line[start..at].to_ascii_lowercase();
        } else {
            at += 1;
        }
    }
    found
}

/// A sample of its numbers, what was given first.
fn sample(asks: Asks, fields: &[(f64, f64)]) -> Sample {
    let given = asks.names().0.len();
    let at = |place: usize| fields.get(place).copied().unwrap_or((0.0, 0.0));
    let second = if given == 2 { at(1).0 } else { 0.0 };
    let (one, other) = (at(given), at(given + 1));
    Sample { input: (at(0).0, second), output: (one.0, other.0), slack: (one.1, other.1) }
}

/// Lines as a program printed them; those without a number are passed over.
fn pasted(text: &str, board: Board, names: Option<&Names>) -> Result<Samples, SampleError> {
    let mut lines: Vec<(usize, Vec<Labelled>)> = Vec::new();
    for (at, line) in text.lines().enumerate() {
        let found = numbers(line);
        if found.is_empty() {
            continue;
        }
        let count = found.len();
        let wanted = match (names, lines.first()) {
            (Some(names), _) => Some(names.0.len()),
            (None, first) => first.map(|(_, first)| first.len()),
        };
        let fits = wanted.map_or((3..=5).contains(&count), |wanted| wanted == count);
        if !fits {
            let wanted = wanted.map_or("3 to 5".into(), |wanted| wanted.to_string());
            return Err(SampleError::Count { line: at + 1, found: count, wanted });
        }
        lines.push((at + 1, found));
        if lines.len() > MOST_SAMPLES {
            return Err(SampleError::TooMany);
        }
    }
    let Some((_, first)) = lines.first() else {
        return Err(SampleError::Empty);
    };
    if let Some(names) = names {
        let asks = names.asks().ok_or(SampleError::NoPair)?;
        let all = lines.iter().map(|(_, line)| placed(asks, line, &names.places(asks))).collect();
        return Ok(Samples { asks, all });
    }
    if let Some(asks) = labels(first).asks() {
        return labelled(asks, &lines);
    }
    let lines: Vec<Vec<Labelled>> = lines.into_iter().map(|(_, line)| line).collect();
    unnamed(&lines, board)
}

/// The numbers of a line at the places of what was given and told.
fn placed(asks: Asks, line: &[Labelled], places: &[usize]) -> Sample {
    let fields: Vec<(f64, f64)> = places.iter().map(|at| (line[*at].value, line[*at].slack)).collect();
    sample(asks, &fields)
}

/// What the words of a line say its numbers are.
fn labels(line: &[Labelled]) -> Names {
    Names(line.iter().map(|number| Name::of_label(&number.label)).collect())
}

/// Lines whose words name every number that counts.
fn labelled(asks: Asks, lines: &[(usize, Vec<Labelled>)]) -> Result<Samples, SampleError> {
    let mut all = Vec::with_capacity(lines.len());
    for (number, line) in lines {
        let names = labels(line);
        if names.asks() != Some(asks) {
            return Err(SampleError::OtherNames { line: *number });
        }
        all.push(placed(asks, line, &names.places(asks)));
    }
    Ok(Samples { asks, all })
}

/// Lines whose numbers only their count and their values tell apart.
fn unnamed(lines: &[Vec<Labelled>], board: Board) -> Result<Samples, SampleError> {
    let count = lines[0].len();
    let every = |holds: &dyn Fn(&[Labelled]) -> bool| lines.iter().all(|line| holds(line));
    let whole = |number: &Labelled| number.value.fract() == 0.0;
    let two_ways = |one: Asks, other: Asks| Err(SampleError::Ambiguous(one.header(), other.header()));
    // Of three coordinates the one that never changes says nothing; without one the last.
    let same = |at: usize| lines.iter().all(|line| line[at].value == lines[0][at].value);
    let [x, y] = match count {
        5 if same(2) => [0, 1],
        5 if same(1) => [0, 2],
        5 if same(0) => [1, 2],
        _ => [0, 1],
    };
    let begins_with_cell = every(&|line| board.has_cell(line[0].value, line[1].value));
    let asks = match count {
        3 if every(&|line| board.has_index(line[0].value) && whole(&line[1]) && whole(&line[2])) => {
            return two_ways(Asks::Index, Asks::CellOfIndex);
        }
        3 if begins_with_cell => return two_ways(Asks::Index, Asks::IndexOfCell),
        3 => Asks::Index,
        _ => {
            // A column is a whole number in every line; the middle of a cell need not be.
            let told =
                if every(&|line| whole(&line[count - 2]) && whole(&line[count - 1])) { Asks::Cell } else { Asks::Snap };
            if count == 4 && begins_with_cell {
                return two_ways(told, Asks::Centre);
            }
            told
        }
    };
    let places = if count == 3 { vec![0, 1, 2] } else { vec![x, y, count - 2, count - 1] };
    let all = lines.iter().map(|line| placed(asks, line, &in_order(line, &places))).collect();
    Ok(Samples { asks, all })
}

/// Single words exchange what they name: `y: 40 x: 101`, `row: 2 col: 4`.
fn in_order(line: &[Labelled], places: &[usize]) -> Vec<usize> {
    let mut places = places.to_vec();
    let begins = |at: usize, word: &str| line[at].label.starts_with(word);
    if begins(places[0], "y") && begins(places[1], "x") {
        places.swap(0, 1);
    }
    if places.len() == 4 && begins(places[2], "row") && begins(places[3], "col") {
        places.swap(2, 3);
    }
    places
}
