//! Rapid Magpie: a terminal workbench for people who program games on a grid.

mod bench;
mod cli;
mod stage;
mod told;

use std::process::ExitCode;

#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() -> ExitCode {
    cli::run()
}
