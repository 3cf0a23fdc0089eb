//! `vectors`: the fewest inputs on which every known mistake fails at least once, with the right answers.

use super::source::ready;
use super::{Answer, complain, say};
use crate::files::{name_of, write_output};
use crate::json::vectors::{For, document};
use crate::words::counted;
use anyhow::bail;
use clap::Args;
use magpie_core::limits::MOST_VERSIONS;
use magpie_core::vectors::Vectors;
use serde_json::Value;
use std::path::PathBuf;

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// What is to be tested.
    #[arg(long = "for", value_enum, value_name = "WHAT")]
    what: For,
    /// The map, counted from 1.
    #[arg(long, default_value_t = 1)]
    map: usize,
    /// Most vectors.
    #[arg(long, default_value_t = 40, value_parser = clap::value_parser!(u32).range(1..=1000))]
    most: u32,
    /// Where to write them: a .json or .csv.
    #[arg(long)]
    out: PathBuf,
}

/// Finds vectors and writes them; 0 also where a mistake is missed.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    let map = ready.book.map_number(options.map)?;
    let ending = options.out.extension().and_then(|ending| ending.to_str()).unwrap_or_default();
    if !["json", "csv"].contains(&ending) {
        bail!("`{}` is neither a .json nor a .csv", options.out.display());
    }
    let book = &ready.book;
    let found = options.what.vectors(book, map, options.most as usize);
    let Some(found) = found else {
        complain!(
            "the rulebook has more than {MOST_VERSIONS} mistakes to make, its rules left out one by one: nothing is written"
        );
        return Ok(Answer::Limit);
    };
    let name = name_of(&options.file);
    let document = document(options.what, (book, map), &name, &found)?;
    let bytes = if ending == "csv" {
        table(document["vectors"].as_array().map_or(&[][..], Vec::as_slice))?
    } else {
        (serde_json::to_string_pretty(&document)? + "\n").into_bytes()
    };
    write_output(&options.out, &bytes, [options.file.as_path()])?;
    text(&found)?;
    Ok(Answer::Done)
}

fn text(found: &Vectors) -> anyhow::Result<()> {
    let mut caught: Vec<&String> = found.all.iter().flat_map(|vector| &vector.catches).collect();
    caught.sort_unstable();
    caught.dedup();
    say!("{} that catch {}", counted(found.all.len(), "vector"), counted(caught.len(), "mistake"))?;
    if !found.missed.is_empty() {
        say!("missed: {}", found.missed.join(" "))?;
    }
    if !found.same_here.is_empty() {
        say!("nothing tells these from the right version on this rulebook: {}", found.same_here.join(" "))?;
    }
    Ok(())
}

/// One column a key, objects taken apart.
fn table(vectors: &[Value]) -> anyhow::Result<Vec<u8>> {
    fn flat(prefix: &str, value: &Value, into: &mut Vec<(String, String)>) {
        let plain = |value: &Value| match value {
            Value::Null => String::new(),
            Value::String(text) => text.clone(),
            value => value.to_string(),
        };
        match value {
            Value::Object(fields) => {
                for (key, value) in fields {
                    let name = if prefix.is_empty() { key.clone() } else { format!("{prefix}.{key}") };
                    flat(&name, value, into);
                }
            }
            Value::Array(list) => {
                let entry = |value: &Value| match value {
                    Value::Array(inner) => inner.iter().map(plain).collect::<Vec<_>>().join(" "),
                    value => plain(value),
                };
                into.push((prefix.to_owned(), list.iter().map(entry).collect::<Vec<_>>().join(";")));
            }
            value => into.push((prefix.to_owned(), plain(value))),
        }
    }
    let rows: Vec<Vec<(String, String)>> = vectors
        .iter()
        .map(|vector| {
            let mut row = Vec::new();
            flat("", vector, &mut row);
            row
        })
        .collect();
    let mut columns: Vec<&String> = Vec::new();
    for (name, _) in rows.iter().flatten() {
        if name != "catches" && !columns.contains(&name) {
            columns.push(name);
        }
    }
    columns.sort_by_key(|name| !name.starts_with("in."));
    let mut writer = csv::Writer::from_writer(Vec::new());
    let last = "catches".to_owned();
    columns.push(&last);
    writer.write_record(&columns)?;
    for row in &rows {
        let field =
            |name: &&String| row.iter().find(|(other, _)| other == *name).map_or("", |(_, value)| value.as_str());
        writer.write_record(columns.iter().map(field))?;
    }
    writer.into_inner().map_err(|error| anyhow::anyhow!("{error}"))
}
