//! `formula`: the programmer's own expressions against the right answers.

use super::Answer;
use super::convert::Space;
use super::source::ready;
use super::{complain, say, say_json};
use crate::json::whole_or_decimal;
use crate::words::plain;
use anyhow::{Context, bail};
use clap::Args;
use magpie_core::formula::{Comparison, Expression, Finding, MissAt, Names, Untold, compare, parse_expression, untold};
use magpie_core::mishap::{Given, Target};
use magpie_core::rulebook::Rulebook;
use magpie_core::space::show;
use serde_json::{Value, json};
use std::path::PathBuf;

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    #[command(flatten)]
    expressions: Expressions,
    /// What positions are: `win` for those that the window system reports.
    #[arg(long, value_enum, default_value = "px")]
    space: Space,
    /// A number of your own, as `TILE=16`.
    #[arg(long = "let", value_name = "NAME=NUM", allow_hyphen_values = true)]
    given: Vec<String>,
    /// All values are whole numbers, and `/` cuts towards zero.
    #[arg(long)]
    ints: bool,
    /// The map, counted from 1.
    #[arg(long, default_value_t = 1)]
    map: usize,
    /// The kind whose hotspot counts.
    #[arg(long)]
    kind: Option<String>,
    /// One JSON document instead of text.
    #[arg(long)]
    json: bool,
}

#[derive(Args, Debug)]
#[group(required = true, multiple = true)]
#[allow(clippy::struct_field_names)]
struct Expressions {
    /// Position to column.
    #[arg(long, value_name = "EXPR", allow_hyphen_values = true)]
    column: Option<String>,
    /// Position to row.
    #[arg(long, value_name = "EXPR", allow_hyphen_values = true)]
    row: Option<String>,
    /// Cell to index.
    #[arg(long, value_name = "EXPR", allow_hyphen_values = true)]
    index: Option<String>,
    /// Cell to the x of its centre.
    #[arg(long, value_name = "EXPR", allow_hyphen_values = true)]
    x: Option<String>,
    /// Cell to the y of its centre.
    #[arg(long, value_name = "EXPR", allow_hyphen_values = true)]
    y: Option<String>,
    /// Position to the x of the nearest cell's centre.
    #[arg(long, value_name = "EXPR", allow_hyphen_values = true)]
    snap_x: Option<String>,
    /// Position to the y of the nearest cell's centre.
    #[arg(long, value_name = "EXPR", allow_hyphen_values = true)]
    snap_y: Option<String>,
    /// Whether a cell is on the board.
    #[arg(long, value_name = "EXPR", allow_hyphen_values = true)]
    inside: Option<String>,
    /// Index to column.
    #[arg(long, value_name = "EXPR", allow_hyphen_values = true)]
    index_column: Option<String>,
    /// Index to row.
    #[arg(long, value_name = "EXPR", allow_hyphen_values = true)]
    index_row: Option<String>,
}

impl Expressions {
    fn all(&self) -> impl Iterator<Item = (Target, &str)> {
        let given = |target| match target {
            Target::Column => &self.column,
            Target::Row => &self.row,
            Target::Index => &self.index,
            Target::CentreX => &self.x,
            Target::CentreY => &self.y,
            Target::SnapX => &self.snap_x,
            Target::SnapY => &self.snap_y,
            Target::Inside => &self.inside,
            Target::IndexColumn => &self.index_column,
            Target::IndexRow => &self.index_row,
        };
        Target::ALL.into_iter().filter_map(move |target| Some((target, given(target).as_deref()?)))
    }
}

/// Compares expressions: 1 when any differs, 2 when one cannot be read, 3 when there is too much to look at.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    let book = &ready.book;
    let map = book.map_number(options.map)?;
    let kind = options.kind.as_deref().map(|name| book.kind_named(name)).transpose()?;
    let window = options.space == Space::Win;
    if window && book.view.is_none() {
        bail!("`--space win` needs a `view` in the rulebook");
    }
    let asked = Given { hotspot: book.hotspot_of(kind), window: Some(window), ..Given::of(book, map) };
    let given: Vec<(String, f64)> = options.given.iter().map(|text| named_number(text)).collect::<Result<_, _>>()?;
    let names = Names::of(&asked, &given, options.ints)?;
    let expressions: Vec<Expression> =
        options.expressions.all().map(|(target, source)| read(source, target, &names)).collect::<Result<_, _>>()?;
    let found = match compare(&asked, &expressions, (1, 1), &mut |_| true) {
        Ok(found) => found,
        Err(limit) => {
            complain!("{limit}");
            return Ok(Answer::Limit);
        }
    };
    // What is right here may be a mistake that this board cannot show.
    let right = |target: Target| found.findings.iter().any(|finding| finding.target == target && finding.differ == 0);
    let right: Vec<(Target, &str)> = options.expressions.all().filter(|(target, _)| right(*target)).collect();
    let untold = untold(&asked, &right, &given, options.ints);
    if options.json {
        say_json(&document(&found, &untold))?;
    } else {
        text(&found, &untold, book, window)?;
    }
    let differ = found.findings.iter().any(|finding| finding.differ > 0);
    Ok(if differ { Answer::No } else { Answer::Done })
}

/// Reads `NAME=NUM`.
pub fn named_number(text: &str) -> anyhow::Result<(String, f64)> {
    let (name, number) = text.split_once('=').with_context(|| format!("`{text}` is not written NAME=NUM"))?;
    let value: f64 = number
        .trim()
        .parse()
        .ok()
        .filter(|value: &f64| value.is_finite())
        .with_context(|| format!("`{number}` is no number for `{name}`"))?;
    Ok((name.trim().into(), value))
}

/// Reads an expression; what is wrong with it is underlined.
fn read(source: &str, target: Target, names: &Names) -> anyhow::Result<Expression> {
    match parse_expression(source, target, names) {
        Ok(expression) => Ok(expression),
        Err(error) => bail!("{}", underlined(source, target, &error)),
    }
}

/// The message of a wrong expression, with its place underlined.
fn underlined(source: &str, target: Target, error: &magpie_core::formula::ExpressionError) -> String {
    const REACH: usize = 60;
    // One column a character, whatever the expression holds.
    let line: Vec<char> = plain(source).chars().map(|c| if c.is_whitespace() { ' ' } else { c }).collect();
    let column = source[..error.at.start.min(source.len())].chars().count();
    let length = source.get(error.at.clone()).map_or(1, |text| text.chars().count()).clamp(1, REACH);
    let from = column.saturating_sub(REACH);
    let shown: String = line.iter().skip(from).take(2 * REACH).collect();
    let under = format!("{}{}", " ".repeat(column - from), "^".repeat(length));
    format!("the expression for {}: {}\n  {shown}\n  {under}", target.word(), error.message)
}

fn document(found: &Comparison, untold: &[Untold]) -> Value {
    let sampled = found.sampled;
    let ends = |ends: Option<(f64, f64)>| {
        ends.map_or(Value::Null, |(first, last)| json!([whole_or_decimal(first), whole_or_decimal(last)]))
    };
    let mut value = json!({
        "pixels": sampled.map(|sampled| sampled.pixels),
        "x": ends(sampled.map(|sampled| sampled.x)),
        "y": ends(sampled.map(|sampled| sampled.y)),
        "differ": sampled.map(|sampled| sampled.differ),
    });
    for finding in &found.findings {
        value[finding.target.word()] = entry(finding);
    }
    for Untold { target, mishap, board } in untold {
        value[target.word()]["untold"] = json!({ "mishap": mishap.id(), "board": [board.columns, board.rows] });
    }
    value
}

fn entry(finding: &Finding) -> Value {
    let first: Vec<Value> = finding
        .first
        .iter()
        .map(|miss| {
            let got = miss.got.map_or(Value::Null, whole_or_decimal);
            let right = whole_or_decimal(miss.right);
            match miss.at {
                MissAt::Position(x, y) => {
                    json!({ "x": whole_or_decimal(x), "y": whole_or_decimal(y), "right": right, "got": got })
                }
                MissAt::Cell(column, row) => json!({ "column": column, "row": row, "right": right, "got": got }),
                MissAt::Index(index) => json!({ "index": index, "right": right, "got": got }),
            }
        })
        .collect();
    let mut value = json!({ "expression": finding.expression, "differ": finding.differ, "on_board": finding.on_board });
    if finding.target.is_whole() {
        value["not_whole"] = finding.not_whole.into();
    }
    value["first"] = first.into();
    value["mishap"] = finding.mishap.map(magpie_core::mishap::Mishap::id).into();
    value
}

fn text(found: &Comparison, untold: &[Untold], book: &Rulebook, window: bool) -> anyhow::Result<()> {
    let space = if window { "win" } else { "px" };
    if let Some(sampled) = found.sampled {
        let (x, y) = (sampled.x, sampled.y);
        let ends = [x.0, x.1, y.0, y.1].map(show);
        say!(
            "{} positions of {}: x {} to {}, y {} to {}; {} differ",
            sampled.pixels,
            book.title,
            ends[0],
            ends[1],
            ends[2],
            ends[3],
            sampled.differ
        )?;
    }
    for finding in &found.findings {
        let mark = if finding.differ == 0 { "✓" } else { "✗" };
        let what = match finding.target {
            target if target.at_positions() => "positions",
            target if target.at_indices() => "indices",
            _ => "cells",
        };
        say!("{mark} {} = {}: {} {what} differ", finding.target.word(), finding.expression, finding.differ)?;
        if finding.differ > 0 && finding.on_board == 0 {
            say!("  right on the whole board, wrong beside it alone")?;
        }
        for Untold { mishap, board, .. } in untold.iter().filter(|untold| untold.target == finding.target) {
            say!(
                "  ? this board is square and cannot tell {} apart: on one of {} x {} cells this would be it",
                mishap.id(),
                board.columns,
                board.rows
            )?;
        }
        if finding.not_whole > 0 {
            say!("  {} values are not whole", finding.not_whole)?;
        }
        if let Some(mishap) = finding.mishap {
            say!("  {}: {}", mishap.id(), mishap.says())?;
        }
        for miss in &finding.first {
            let at = match miss.at {
                MissAt::Position(x, y) => format!("{space} {}, {}", show(x), show(y)),
                MissAt::Cell(column, row) => format!("cell {column}, {row}"),
                MissAt::Index(index) => format!("index {index}"),
            };
            let got = miss.got.map_or("no finite number".into(), show);
            say!("  at {at}: right {}, got {got}", show(miss.right))?;
        }
    }
    Ok(())
}
