//! The demo yard, built into the program.

use anyhow::Context;
use std::path::{Path, PathBuf};

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
    /// The name of its rulebook's file, without its end.
    pub file: &'static str,
    /// A log beside it that is followed.
    pub follow: Option<&'static str>,
}

macro_rules! demo {
    ($name:literal, $shows:literal, [$($tape:literal),*]) => {
        demo!($name, $shows, [$($tape),*], [])
    };
    ($name:literal, $shows:literal, [$($tape:literal),*], [$($file:literal),*]) => {
        Demo {
            name: $name,
            shows: $shows,
            rulebook: include_str!(concat!("../../../demos/", $name, ".magpie")),
            tapes: &[$(($tape, include_str!(concat!("../../../demos/", $tape, ".jsonl")))),*],
            files: &[$(($file, include_str!(concat!("../../../demos/", $file)))),*],
            file: $name,
            follow: None,
        }
    };
}

/// Three small programs of other people, and the rulebook of their game.
macro_rules! foreign {
    ($($file:literal),*) => {
        Demo {
            name: "foreign",
            shows: "a program's own log beside the model, its mistake by name",
            rulebook: include_str!("../../../demos/foreign/loft.magpie"),
            tapes: &[],
            files: &[$(($file, include_str!(concat!("../../../demos/foreign/", $file)))),*],
            file: "loft",
            follow: Some("loft.jsonl"),
        }
    };
}

/// What the workbench is to be opened on.
#[derive(Debug)]
pub enum Open {
    /// A rulebook.
    File(PathBuf),
    /// A rulebook, and a log that is followed.
    Following(PathBuf, PathBuf),
    /// The private copy of a demo.
    Demo(&'static Demo),
    /// The list of demos.
    Yard,
}

/// The demos of the yard.
pub const DEMOS: &[Demo] = &[
    demo!(
        "cog-loft",
        "cogs shoved into holes of a loft's floor",
        ["cog-loft-1", "cog-loft-2", "cog-loft-3", "cog-loft-4", "cog-loft-5", "cog-loft-6"]
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
    foreign!("loft.py", "loft.js", "loft.c", "loft.jsonl"),
];

/// The demo of a name.
pub fn find(name: &str) -> anyhow::Result<&'static Demo> {
    let names: Vec<&str> = DEMOS.iter().map(|demo| demo.name).collect();
    DEMOS
        .iter()
        .find(|demo| demo.name == name)
        .with_context(|| format!("`{name}` is no demo: choose one of {}", names.join(", ")))
}

/// Writes a demo's files into a folder; gives the path of its rulebook.
pub fn copy(demo: &Demo, folder: &Path) -> anyhow::Result<PathBuf> {
    let path = folder.join(format!("{}.magpie", demo.file));
    std::fs::write(&path, demo.rulebook)?;
    for (name, text) in demo.tapes {
        std::fs::write(folder.join(format!("{name}.jsonl")), text)?;
    }
    for (name, text) in demo.files {
        std::fs::write(folder.join(name), text)?;
    }
    Ok(path)
}
