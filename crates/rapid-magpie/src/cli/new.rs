//! `new`: a small commented rulebook to begin with.

use super::Answer;
use super::say;
use crate::yard;
use anyhow::{Context, bail};
use clap::Args;
use magpie_core::limits::MOST_CELLS;
use magpie_core::rulebook::{Severity, read_text};
use std::fmt::Write as _;
use std::io::Write as _;
use std::path::PathBuf;

#[derive(Args, Debug)]
pub struct Options {
    /// The file to write; never one that is there already.
    file: PathBuf,
    /// A copy of a demo of the yard.
    #[arg(long, conflicts_with_all = ["columns", "rows", "cell", "gap", "origin", "window"])]
    like: Option<String>,
    /// Columns of the room.
    #[arg(long, default_value_t = 12)]
    columns: u32,
    /// Rows of the room.
    #[arg(long, default_value_t = 8)]
    rows: u32,
    /// Cell width and height in pixels, such as 32x24 or 32.
    #[arg(long, default_value = "32")]
    cell: String,
    /// Pixels between cells, such as 2x2 or 2.
    #[arg(long)]
    gap: Option<String>,
    /// Corner of cell 0,0 in pixels, such as 40,60.
    #[arg(long, allow_hyphen_values = true)]
    origin: Option<String>,
    /// The window in pixels, such as 800x600.
    #[arg(long)]
    window: Option<String>,
    /// The world's y axis points up.
    #[arg(long)]
    y_up: bool,
    /// Rows count from the bottom.
    #[arg(long)]
    rows_from_bottom: bool,
}

/// Writes a rulebook; numbers that cannot be are told before anything is written.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let text = match &options.like {
        Some(name) => yard::find(name)?.rulebook.to_owned(),
        None => room(options)?,
    };
    let reading = read_text(&text, &|_| Err("no file".into()));
    if let Some(found) = reading.diagnostics.iter().find(|found| found.code.severity() == Severity::Error) {
        bail!("{}", found.message);
    }
    let mut file = std::fs::OpenOptions::new()
        .write(true)
        .create_new(true)
        .open(&options.file)
        .with_context(|| format!("cannot make `{}`", options.file.display()))?;
    file.write_all(text.as_bytes())?;
    for found in &reading.diagnostics {
        crate::words::tell(&format!("{}: {}", found.code.severity().word(), found.message));
    }
    say!("wrote {}; open it with `rapid-magpie {0}`", options.file.display())?;
    Ok(Answer::Done)
}

/// `32x24` or `32` as the rulebook writes it.
fn size(text: &str) -> anyhow::Result<String> {
    let number = |part: &str| part.parse::<f64>().is_ok_and(f64::is_finite) && !part.contains(['e', 'E', '+']);
    let parts: Vec<&str> = text.split('x').collect();
    if !(1..=2).contains(&parts.len()) || !parts.iter().all(|part| number(part)) {
        bail!("`{text}` is no size: write it as 32x24 or 32");
    }
    Ok(parts.join(" x "))
}

fn room(options: &Options) -> anyhow::Result<String> {
    let (columns, rows) = (options.columns, options.rows);
    if columns < 3 || rows < 3 {
        bail!("a walled room has at least 3 columns and 3 rows");
    }
    if u64::from(columns) * u64::from(rows) > MOST_CELLS {
        bail!("{columns} x {rows} cells are too many: at most 4,194,304, such as 2048 x 2048");
    }
    let mut text = String::from("game \"New Yard\"\n\n// The numbers of the grid, in pixels.\n");
    writeln!(text, "cell {} px", size(&options.cell)?)?;
    if let Some(gap) = &options.gap {
        writeln!(text, "gap {} px", size(gap)?)?;
    }
    if let Some(origin) = &options.origin {
        let Some((x, y)) = origin.split_once(',') else { bail!("`{origin}` is no point: write it as 40,60") };
        writeln!(text, "origin {}, {} px    // the outer corner of cell 0,0", x.trim(), y.trim())?;
    }
    if options.y_up {
        text.push_str("y up\n");
    }
    if options.rows_from_bottom {
        text.push_str("rows from bottom\n");
    }
    if let Some(window) = &options.window {
        write!(text, "\nview\n  window {} px\n", size(window)?)?;
    }
    text.push_str(concat!(
        "\n// A kind a line: its name, its character in maps, its layer, its colour.\n",
        "kinds\n",
        "  flagstone .  floor  ash\n",
        "  wall      #  body   slate\n",
        "  crate     c  body   copper\n",
        "  keeper    K  body   amber, facing east\n",
        "\nground flagstone    // lies wherever a cell is drawn without a floor\n",
        "\nmap \"First room\"\n",
    ));
    let wall = "#".repeat(columns as usize);
    for row in 0..rows {
        let line = if row == 0 || row + 1 == rows {
            wall.clone()
        } else {
            let mut cells: Vec<char> = format!("#{}#", ".".repeat(columns as usize - 2)).chars().collect();
            if row == rows / 2 {
                cells[1] = 'K';
                if columns > 5 {
                    cells[3] = 'c';
                }
            }
            cells.into_iter().collect()
        };
        writeln!(text, "  {line}")?;
    }
    text.push_str(concat!(
        "\ncontrol keeper with arrows\n",
        "\n// Who meets what: the first line that fits decides; without one, a taken layer stops.\n",
        "rules\n",
        "  keeper into crate: shove\n",
        "  crate into crate: stop\n",
    ));
    Ok(text)
}
