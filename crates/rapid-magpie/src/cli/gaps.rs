//! `pace --gaps`: where a body gets on a map, and what is too narrow for it.

use super::source::Ready;
use super::{Answer, say, say_json};
use crate::json::whole_or_decimal;
use crate::words::{cells_words, gap_line, largest_line, size_words};
use anyhow::bail;
use magpie_core::pace::{Gaps, gaps, parse_body};
use magpie_core::rulebook::KindId;
use magpie_core::space::Cell;
use magpie_core::space::exact::nearest;
use magpie_core::tape::{Session, Start};
use serde_json::{Value, json};

/// Tells where a body gets: 1 where something is shut to it, or it does not fit.
pub fn run(ready: &Ready, kind: KindId, map: usize, body: Option<&str>, as_json: bool) -> anyhow::Result<Answer> {
    let body = body.map(parse_body).transpose()?;
    let mut session = Session::new(Start::map(ready.book.clone(), map))?;
    let grid = session.grid_mut();
    let Some(piece) = grid.first_piece(kind) else {
        bail!("there is no `{}` on this map", ready.book.kind(kind).name);
    };
    let found = gaps(grid, piece, body);
    if as_json {
        say_json(&document(&found))?;
    } else {
        text(&ready.book.kind(kind).name, &found)?;
    }
    Ok(if found.is_good() { Answer::Done } else { Answer::No })
}

fn document(found: &Gaps) -> Value {
    let number = |fraction: &_| whole_or_decimal(nearest(fraction));
    let cells = |all: &[Cell]| -> Value { all.iter().map(|cell| json!([cell.column, cell.row])).collect() };
    let gap = |gap: &magpie_core::pace::Gap| json!({ "between": cells(&gap.between), "wide": number(&gap.wide), "short": number(&gap.short) });
    json!({
        "body": found.body.iter().map(number).collect::<Vec<_>>(),
        "fits": found.fits,
        "cells": cells(&found.cells),
        "beside": cells(&found.beside),
        "shut": cells(&found.shut),
        "gaps": found.gaps.iter().map(gap).collect::<Vec<_>>(),
        "largest": found.largest,
    })
}

fn text(name: &str, found: &Gaps) -> anyhow::Result<()> {
    let fits = if found.fits { "" } else { "; it does not fit in the middle of its own cell" };
    say!("{name}, a body of {}{fits}", size_words(&found.body))?;
    say!("  gets into      {}", cells_words(&found.cells))?;
    if !found.beside.is_empty() {
        say!("  at the edge    {}: its box gets there, its middle does not", cells_words(&found.beside))?;
    }
    say!("  shut           {}", cells_words(&found.shut))?;
    for gap in &found.gaps {
        say!("  ! {}", gap_line(gap))?;
    }
    say!("  {}", largest_line(found))?;
    Ok(())
}
