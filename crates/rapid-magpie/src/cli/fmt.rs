//! `fmt`: one layout for all rulebooks.

use super::Answer;
use super::{complain, say};
use crate::files::{bytes_of, replace};
use clap::Args;
use magpie_core::limits::LARGEST_FILE;
use magpie_core::rulebook::format;
use std::path::{Path, PathBuf};

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebooks.
    #[arg(required = true)]
    files: Vec<PathBuf>,
    /// Write nothing, name the files that would change.
    #[arg(long)]
    check: bool,
}

/// Formats rulebooks in place; a file with mistakes of form is left alone.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let (mut wrong, mut would_change) = (false, false);
    for path in &options.files {
        match formatted(path) {
            Err(error) => {
                complain!("{error:#}");
                wrong = true;
            }
            Ok((old, new)) if old != new => {
                would_change = true;
                if options.check {
                    say!("{}", path.display())?;
                } else {
                    replace(path, &new)?;
                }
            }
            Ok(_) => {}
        }
    }
    Ok(match (wrong, options.check && would_change) {
        (true, _) => Answer::Wrong,
        (false, true) => Answer::No,
        (false, false) => Answer::Done,
    })
}

fn formatted(path: &Path) -> anyhow::Result<(Vec<u8>, Vec<u8>)> {
    let bytes = bytes_of(path)?;
    if bytes.len() > LARGEST_FILE {
        anyhow::bail!("`{}` is larger than 16 MiB", path.display());
    }
    let new = std::str::from_utf8(&bytes).ok().and_then(format);
    match new {
        Some(new) => Ok((bytes, new.into_bytes())),
        None => anyhow::bail!("`{}` has mistakes of form and is left alone; `check` names them", path.display()),
    }
}
