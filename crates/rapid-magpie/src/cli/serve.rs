//! `serve`: a running game asks the model.

use super::source::ready;
use super::{Answer, say};
use crate::files::name_of;
use crate::oracle::{Served, listen, stdio};
use anyhow::Context;
use clap::Args;
use std::path::{Path, PathBuf};
use std::sync::Mutex;

#[derive(Args, Debug)]
pub struct Options {
    /// The rulebook.
    file: PathBuf,
    /// Over standard input and output.
    #[arg(long, required_unless_present = "listen", conflicts_with = "listen")]
    stdio: bool,
    /// Over a socket of this machine: 127.0.0.1 and a port, 0 for any free one.
    #[arg(long, value_name = "127.0.0.1:PORT")]
    listen: Option<String>,
    /// What happens is written into this file; `-` for standard error.
    #[arg(long, value_name = "FILE")]
    log: Option<PathBuf>,
}

/// Serves until the input ends, or SIGTERM.
pub fn run(options: &Options) -> anyhow::Result<Answer> {
    let ready = ready(&options.file)?;
    if let Some(path) = &options.log {
        log_to(path)?;
    }
    let served = Served { book: ready.book, name: name_of(&options.file) };
    match &options.listen {
        Some(address) => listen(served, address, |address| say!("listening on {address}"))?,
        None => stdio(&served)?,
    }
    Ok(Answer::Done)
}

/// Logs into a file, or to standard error; never to standard output.
pub fn log_to(path: &Path) -> anyhow::Result<()> {
    let builder = tracing_subscriber::fmt().with_max_level(tracing::Level::DEBUG).with_ansi(false);
    if path == Path::new("-") {
        builder.with_writer(std::io::stderr).init();
        return Ok(());
    }
    let file = std::fs::OpenOptions::new().create(true).append(true).open(path);
    let file = file.with_context(|| format!("cannot write `{}`", path.display()))?;
    builder.with_writer(Mutex::new(file)).init();
    Ok(())
}
