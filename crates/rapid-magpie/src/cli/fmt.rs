//! `fmt`: one layout for all rulebooks.

use super::Answer;
use super::source::bytes_of;
use crate::say;
use anyhow::Context;
use clap::Args;
use magpie_core::limits::LARGEST_FILE;
use magpie_core::rulebook::format;
use std::io::Write;
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
                eprintln!("rapid-magpie: {error:#}");
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

/// Writes a file by way of a temporary one beside it, so that no moment leaves half of it.
pub fn replace(path: &Path, bytes: &[u8]) -> anyhow::Result<()> {
    let context = || format!("cannot write `{}`", path.display());
    // A link is followed, so that the file it names is replaced and the link stays.
    let target = if path.exists() { path.canonicalize().with_context(context)? } else { path.to_path_buf() };
    let folder = target.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut builder = tempfile::Builder::new();
    #[cfg(unix)]
    let builder = {
        use std::os::unix::fs::PermissionsExt as _;
        // As for any new file, the user's mask takes from these.
        builder.permissions(std::fs::Permissions::from_mode(0o666))
    };
    let mut file = builder.tempfile_in(folder).with_context(context)?;
    file.write_all(bytes).with_context(context)?;
    if let Ok(data) = target.metadata() {
        file.as_file().set_permissions(data.permissions()).with_context(context)?;
    }
    file.as_file().sync_all().with_context(context)?;
    file.persist(&target).with_context(context)?;
    Ok(())
}
