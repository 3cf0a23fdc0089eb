//! `measure`: steps, loops over pixels, the artwork's grid, headings.

use super::Answer;
use super::source::ready;
use super::{complain, say, say_json};
use crate::json::whole_or_decimal;
use crate::words::counted;
use anyhow::bail;
use clap::Args;
use magpie_core::space::measure::{
    self, Beside, HeadingNumbers, Loop, MeasureError, StepAlong, Visits, parse_loop, parse_picture, parse_step,
};
use magpie_core::space::show;
use serde_json::{Value, json};
use std::path::PathBuf;

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// A step of your own, in pixels along x and y: `36x24`; `--step=-60x24` with a sign.
    #[arg(long, allow_hyphen_values = true)]
    step: Option<String>,
    /// A loop over pixels: "x from 0 to < 400 by 60", over x or y, with <, <=, > or >=.
    #[arg(long = "loop")]
    over: Option<String>,
    /// The grid that the artwork was drawn on, cell size and origin: `25x18@3,0`.
    #[arg(long, allow_hyphen_values = true)]
    picture: Option<String>,
    /// All headings as cells, pixels, angles and numbers.
    #[arg(long)]
    headings: bool,
    /// The map, counted from 1.
    #[arg(long, default_value_t = 1)]
    map: usize,
    /// One JSON document instead of text.
    #[arg(long)]
    json: bool,
}

/// Measures what was asked: 0 where all of it comes out even, else 1.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let Options { step, over, picture, headings, .. } = options;
    if step.is_none() && over.is_none() && picture.is_none() && !headings {
        bail!("nothing to measure: ask for `--step`, `--loop`, `--picture` or `--headings`");
    }
    let ready = ready(&options.file)?;
    let map = ready.book.map_number(options.map)?;
    let (geometry, extent) = (&ready.book.geometry, ready.book.maps[map].extent);
    let step = step.as_deref().map(parse_step).transpose()?.map(|step| measure::step(geometry, step));
    let over = over.as_deref().map(parse_loop).transpose()?;
    let picture = picture.as_deref().map(parse_picture).transpose()?;
    let picture = picture.map(|picture| measure::beside(geometry, extent, &picture));
    let visits = match over.map(|over| measure::follow(geometry, extent, &over)).transpose() {
        Ok(visits) => over.zip(visits),
        Err(error @ MeasureError::TooLong) => {
            complain!("{error}");
            return Ok(Answer::Limit);
        }
        Err(error) => return Err(error.into()),
    };
    let numbers = headings.then(|| measure::headings(geometry));
    if options.json {
        let document = json!({
            "step": step.as_ref().map(|[x, y]| json!({ "columns": step_json(x), "rows": step_json(y) })),
            "loop": visits.as_ref().map(|(over, visits)| loop_json(over, visits)),
            "picture": picture.as_ref().map(|[x, y]| json!({ "x": beside_json(x), "y": beside_json(y) })),
            "headings": numbers.map(|numbers| numbers.iter().map(heading_json).collect::<Vec<_>>()),
        });
        say_json(&document)?;
    } else {
        step.iter().try_for_each(step_text)?;
        visits.iter().try_for_each(|(over, visits)| loop_text(over, visits))?;
        picture.iter().try_for_each(|axes| picture_text(axes, [extent.columns, extent.rows]))?;
        numbers.iter().try_for_each(headings_text)?;
    }
    let even = step.is_none_or(|axes| axes.iter().all(|along| along.whole))
        && visits.is_none_or(|(_, visits)| visits.is_even())
        && picture.is_none_or(|axes| axes.iter().all(Beside::is_even));
    Ok(if even { Answer::Done } else { Answer::No })
}

fn step_json(along: &StepAlong) -> Value {
    let [px, pitch, cells, below, above] =
        [along.px, along.pitch, along.cells, along.below, along.above].map(whole_or_decimal);
    json!({ "px": px, "pitch": pitch, "cells": cells, "whole": along.whole, "below": below, "above": above })
}

fn loop_json(over: &Loop, visits: &Visits) -> Value {
    json!({
        "axis": if over.vertical { "y" } else { "x" },
        "rounds": visits.rounds,
        "visits": visits.each,
        "missed": visits.those(|rounds| rounds == 0),
        "repeated": visits.those(|rounds| rounds > 1),
        "outside": visits.outside,
        "off_corner": visits.off_corner,
    })
}

fn beside_json(found: &Beside) -> Value {
    let [offset, size, pitch, drift, at_end] =
        [found.offset, found.size, found.pitch, found.drift, found.at_end].map(whole_or_decimal);
    let cell_after = found.cell_after.map(whole_or_decimal);
    json!({ "offset": offset, "size": size, "pitch": pitch, "drift": drift, "at_end": at_end, "cell_after": cell_after })
}

fn heading_json(numbers: &HeadingNumbers) -> Value {
    json!({
        "heading": numbers.heading.word(),
        "cells": [numbers.cells.0, numbers.cells.1],
        "px": [whole_or_decimal(numbers.px.0), whole_or_decimal(numbers.px.1)],
        "compass": numbers.compass, "maths": numbers.maths, "eighth": numbers.eighth, "quarter": numbers.quarter,
    })
}

/// A line with a mark: what comes out even, and what does not.
fn marked(even: bool, text: &str) -> std::io::Result<()> {
    say!("{} {text}", if even { "✓" } else { "✗" })
}

fn step_text(axes: &[StepAlong; 2]) -> std::io::Result<()> {
    for (cells, along) in ["columns", "rows"].into_iter().zip(axes) {
        let [px, count, pitch, below, above] = [along.px, along.cells, along.pitch, along.below, along.above].map(show);
        let rest = if along.whole { String::new() } else { format!(": {below} or {above} px would be whole") };
        marked(along.whole, &format!("a step of {px} px is {count} {cells} of {pitch} px{rest}"))?;
    }
    Ok(())
}

fn loop_text(over: &Loop, visits: &Visits) -> std::io::Result<()> {
    let (axis, cell) = if over.vertical { ("y", "row") } else { ("x", "column") };
    let [from, to, by] = [over.from, over.to, over.by].map(show);
    let rounds = counted(visits.rounds as usize, "round");
    say!("  {axis} from {from} to {} {to} by {by}: {rounds}", over.until.symbol())?;
    let once = visits.those(|rounds| rounds == 1).len();
    let all = visits.each.len();
    marked(once == all, &format!("{once} of {} visited once", counted(all, cell)))?;
    let listed = |found: &[usize]| found.iter().map(usize::to_string).collect::<Vec<_>>().join(" ");
    for (what, found) in
        [("missed", visits.those(|rounds| rounds == 0)), ("visited more than once", visits.those(|rounds| rounds > 1))]
    {
        if !found.is_empty() {
            marked(false, &format!("{} {what}: {}", counted(found.len(), cell), listed(&found)))?;
        }
    }
    if visits.outside > 0 {
        marked(false, &format!("{} off the board", counted(visits.outside as usize, "round")))?;
    }
    if visits.off_corner > 0 {
        say!("  {} not at the corner of a {cell}", counted(visits.off_corner as usize, "round"))?;
    }
    Ok(())
}

fn picture_text(axes: &[Beside; 2], counts: [u32; 2]) -> std::io::Result<()> {
    for ((axis, count), found) in ["x", "y"].into_iter().zip(counts).zip(axes) {
        let [offset, size, pitch, at_end] = [found.offset, found.size, found.pitch, found.at_end].map(show);
        marked(found.offset == 0.0, &format!("{axis}: the picture's grid begins {offset} px from the board's"))?;
        let text = match found.cell_after {
            None => format!("{axis}: its cells are {size} px, as the board's"),
            Some(after) => format!(
                "{axis}: its cells are {size} px, the board's {pitch}: {at_end} px off after {count}, a whole cell after {}",
                show(after)
            ),
        };
        marked(found.drift == 0.0, &text)?;
    }
    Ok(())
}

fn headings_text(numbers: &[HeadingNumbers; 8]) -> std::io::Result<()> {
    say!("  {:<11}{:>7}{:>12}{:>9}{:>7}{:>6}{:>6}", "heading", "cells", "px", "compass", "maths", "of 8", "of 4")?;
    for HeadingNumbers { heading, cells, px, compass, maths, eighth, quarter } in numbers {
        let cells = format!("{},{}", cells.0, cells.1);
        let px = format!("{},{}", show(px.0), show(px.1));
        let quarter = quarter.map_or(String::new(), |quarter| quarter.to_string());
        say!("  {:<11}{cells:>7}{px:>12}{compass:>8}°{maths:>6}°{eighth:>6}{quarter:>6}", heading.word())?;
    }
    Ok(())
}
