//! Rapid Magpie: a terminal workbench for people who program games on a grid.

mod bench;
mod cli;
mod desk;
mod files;
mod stage;
mod ui;
mod words;
mod yard;

use std::process::ExitCode;

#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() -> ExitCode {
    let answer = match cli::run() {
        cli::Run::Done(answer) => answer,
        cli::Run::Open(what) => stage::open(what).map_or_else(|error| cli::failed(&error), |()| cli::Answer::Done),
    };
    answer.into()
}
