//! Positions with the answers that somebody's program gave.

use crate::limits::{LARGEST_SAMPLE, MOST_SAMPLES};
use thiserror::Error;

/// One position and what a program said of it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sample {
    /// x and y, or column and row.
    pub input: (f64, f64),
    /// Column and row, or x and y of the centre; of an index only the first counts.
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
    /// Cell to centre.
    Centre,
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
    #[error("the header names neither `x,y` with `column,row` or `index`, nor `column,row` with `centre_x,centre_y`")]
    Header,
    /// A name twice in the header.
    #[error("the header names `{0}` twice")]
    Twice(String),
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
        /// Numbers in the lines before.
        wanted: String,
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

/// Reads samples: a CSV with a header, or lines as a program printed them.
///
/// # Errors
/// A [`SampleError`] where there are none or too many, or where a line is of another sort than the first.
pub fn parse_samples(text: &str) -> Result<Samples, SampleError> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let first = text.lines().find(|line| !line.trim().is_empty()).ok_or(SampleError::Empty)?;
    let has_number = !numbers(first).is_empty();
    let samples = if !has_number && first.contains(',') { from_csv(text)? } else { pasted(text)? };
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
    let names: [(Asks, &[&str]); 3] = [
        (Asks::Cell, &["x", "y", "column", "row"]),
        (Asks::Index, &["x", "y", "index"]),
        (Asks::Centre, &["column", "row", "centre_x", "centre_y"]),
    ];
    let mut chosen = None;
    for (asks, names) in names {
        let at: Vec<Option<usize>> = names.iter().map(|name| find(name)).collect::<Result<_, _>>()?;
        if let Some(at) = at.into_iter().collect::<Option<Vec<usize>>>() {
            chosen = Some((asks, names, at));
            break;
        }
    }
    let (asks, names, at) = chosen.ok_or(SampleError::Header)?;
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
        let last = fields.get(3).copied().unwrap_or((0.0, 0.0));
        all.push(Sample {
            input: (fields[0].0, fields[1].0),
            output: (fields[2].0, last.0),
            slack: (fields[2].1, last.1),
        });
        if all.len() > MOST_SAMPLES {
            return Err(SampleError::TooMany);
        }
    }
    Ok(Samples { asks, all })
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

/// Lines as a program printed them; those without a number are passed over.
fn pasted(text: &str) -> Result<Samples, SampleError> {
    let mut lines: Vec<Vec<Labelled>> = Vec::new();
    for (at, line) in text.lines().enumerate() {
        let found = numbers(line);
        if found.is_empty() {
            continue;
        }
        let count = found.len();
        let wanted = lines.first().map_or("3 to 5".into(), |first| first.len().to_string());
        if !(3..=5).contains(&count) || lines.first().is_some_and(|first| first.len() != count) {
            return Err(SampleError::Count { line: at + 1, found: count, wanted });
        }
        lines.push(found);
        if lines.len() > MOST_SAMPLES {
            return Err(SampleError::TooMany);
        }
    }
    let Some(count) = lines.first().map(Vec::len) else {
        return Err(SampleError::Empty);
    };
    // Of three coordinates the one that never changes says nothing; without one the last.
    let same = |at: usize| lines.iter().all(|line| line[at].value == lines[0][at].value);
    let inputs: [usize; 2] = match count {
        5 if same(2) => [0, 1],
        5 if same(1) => [0, 2],
        5 if same(0) => [1, 2],
        _ => [0, 1],
    };
    let asks = if count == 3 { Asks::Index } else { Asks::Cell };
    let all = lines.iter().map(|line| sample(line, inputs, asks)).collect();
    Ok(Samples { asks, all })
}

fn sample(line: &[Labelled], inputs: [usize; 2], asks: Asks) -> Sample {
    let [mut x, mut y] = inputs.map(|at| &line[at]);
    if x.label.starts_with('y') && y.label.starts_with('x') {
        (x, y) = (y, x);
    }
    let last = &line[line.len() - 1];
    if asks == Asks::Index {
        return Sample { input: (x.value, y.value), output: (last.value, 0.0), slack: (last.slack, 0.0) };
    }
    let (mut column, mut row) = (&line[line.len() - 2], last);
    // The words say which is which, where there are words.
    if column.label.starts_with("row") && row.label.starts_with("col") {
        (column, row) = (row, column);
    }
    Sample { input: (x.value, y.value), output: (column.value, row.value), slack: (column.slack, row.slack) }
}
