//! `demo`: the demo yard, from the binary alone.

use super::play::play_line;
use super::{Answer, tape};
use crate::say;
use anyhow::{Context, bail};
use clap::Args;
use magpie_core::grid::Ended;
use magpie_core::rulebook::read_text;
use magpie_core::tape::{Session, Start};
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// A demo: its rulebook and the tapes that show it.
#[derive(Debug)]
pub struct Demo {
    /// Its name.
    pub name: &'static str,
    /// What it shows, in a few words.
    pub shows: &'static str,
    /// The rulebook's text.
    pub rulebook: &'static str,
    /// Names and texts of its tapes.
    pub tapes: &'static [(&'static str, &'static str)],
    /// Names and texts of other files beside it.
    pub files: &'static [(&'static str, &'static str)],
}

macro_rules! demo {
    ($name:literal, $shows:literal, [$($tape:literal),*]) => {
        demo!($name, $shows, [$($tape),*], [])
    };
    ($name:literal, $shows:literal, [$($tape:literal),*], [$($file:literal),*]) => {
        Demo {
            name: $name,
            shows: $shows,
            rulebook: include_str!(concat!("../../../../demos/", $name, ".magpie")),
            tapes: &[$(($tape, include_str!(concat!("../../../../demos/", $tape, ".jsonl")))),*],
            files: &[$(($file, include_str!(concat!("../../../../demos/", $file)))),*],
        }
    };
}

/// The demos of the yard.
pub const DEMOS: &[Demo] = &[
    demo!(
        "cog-loft",
        "cogs shoved into holes of a loft's floor",
        ["cog-loft-1", "cog-loft-2", "cog-loft-3", "cog-loft-4", "cog-loft-5"]
    ),
    demo!(
        "kiosk",
        "a touch panel with bars, tickets, samples to diagnose",
        ["kiosk-1", "kiosk-2"],
        ["kiosk-samples.csv"]
    ),
    demo!("towpath", "a lamplighter's smooth steps, and a second walker", ["towpath-1", "towpath-2", "towpath-held"]),
    demo!("hoists", "riding hoists between cells, past a swinging weight", ["hoists-1"]),
    demo!("glass-mender", "panes tapped or dragged to change places", ["glass-mender-1", "glass-mender-2"]),
    demo!("lantern-rack", "crates shoved and turned until a shelf is shipped", ["lantern-rack-1"]),
    demo!("hawser", "a tug whose hawser grows with every mooring ring", ["hawser-1"]),
    demo!("sluice", "floats drift sideways, four alike are lifted out", ["sluice-1"]),
    demo!("damp-wall", "damp floods plaster round bricks and through gaps", ["damp-wall-1", "damp-wall-2"]),
];

#[derive(Args, Debug)]
pub struct Options {
    /// The demo; without one, the list to choose from.
    name: Option<String>,
    /// Name the demos.
    #[arg(long, conflicts_with_all = ["name", "run"])]
    list: bool,
    /// Play every demo's tapes without a screen.
    #[arg(long)]
    run: bool,
}

/// The demo of a name.
pub fn find(name: &str) -> anyhow::Result<&'static Demo> {
    let names: Vec<&str> = DEMOS.iter().map(|demo| demo.name).collect();
    DEMOS
        .iter()
        .find(|demo| demo.name == name)
        .with_context(|| format!("`{name}` is no demo: choose one of {}", names.join(", ")))
}

/// Opens, lists or plays demos.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    if options.list {
        for demo in DEMOS {
            say!("{:<14} {}", demo.name, demo.shows)?;
        }
        return Ok(Answer::Done);
    }
    let chosen: Vec<&Demo> = match &options.name {
        Some(name) => vec![find(name)?],
        None => DEMOS.iter().collect(),
    };
    if options.run {
        return play_all(&chosen);
    }
    match options.name {
        Some(_) => open(chosen[0]),
        None => crate::stage::open(None),
    }
}

/// Opens a demo on a private copy, so that it can be edited freely.
pub fn open(demo: &Demo) -> anyhow::Result<Answer> {
    let folder = tempfile::Builder::new().prefix("rapid-magpie-").tempdir().context("cannot make a scratch folder")?;
    let path = copy(demo, folder.path())?;
    crate::stage::open_demo(&path)
}

/// Writes a demo's files into a folder; gives the path of its rulebook.
fn copy(demo: &Demo, folder: &Path) -> anyhow::Result<PathBuf> {
    let path = folder.join(format!("{}.magpie", demo.name));
    std::fs::write(&path, demo.rulebook)?;
    for (name, text) in demo.tapes {
        std::fs::write(folder.join(format!("{name}.jsonl")), text)?;
    }
    for (name, text) in demo.files {
        std::fs::write(folder.join(name), text)?;
    }
    Ok(path)
}

/// Plays every tape: 1 when a tape that should win does not, or a rule fails on the way.
fn play_all(demos: &[&Demo]) -> anyhow::Result<Answer> {
    let mut good = true;
    for demo in demos {
        let reading = read_text(demo.rulebook, &|_| Err("a demo is one file".into()));
        let Some(book) = reading.rulebook else { bail!("the demo `{}` has mistakes", demo.name) };
        let book = Arc::new(book);
        for (name, text) in demo.tapes {
            let tape = tape::parse(text)?;
            let start = Start::map(book.clone(), tape.header.map.saturating_sub(1));
            let mut session = Session::new(Start { seed: tape.header.seed, ..start })?;
            for (at, input) in &tape.lines {
                play_line(&mut session, Some(*at), input)?;
            }
            let broken = session.answers().any(|answer| answer.broken.is_some());
            let outcome = session.grid().outcome();
            good &= !broken && outcome == Some(Ended::Won);
            say!(
                "{:<14} {name}: {} inputs, {} turns, {}{}",
                demo.name,
                tape.lines.len(),
                session.answers().count(),
                outcome.map_or("unfinished", Ended::word),
                if broken { ", a rule that always holds was broken" } else { "" }
            )?;
        }
    }
    Ok(if good { Answer::Done } else { Answer::No })
}
