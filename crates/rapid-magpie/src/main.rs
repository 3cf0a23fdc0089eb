//! Rapid Magpie: a terminal workbench for people who program games on a grid.

mod bench;
mod cli;
mod desk;
mod files;
mod foreign;
mod hands;
mod json;
mod limits;
mod lsp;
mod oracle;
mod stage;
mod ui;
mod words;
mod yard;

use std::process::ExitCode;

#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() -> ExitCode {
    match cli::run() {
        cli::Run::Done(answer) => answer.into(),
        cli::Run::Open(what) => stage::open(what).unwrap_or_else(|error| cli::failed(&error).into()),
    }
}
