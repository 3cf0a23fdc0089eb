//! `demo`: the demo yard, from the binary alone.

use super::say;
use super::{Answer, Run};
use crate::files::parse_tape;
use crate::yard::{DEMOS, Demo, Open, find};
use anyhow::bail;
use clap::Args;
use magpie_core::grid::Ended;
use magpie_core::rulebook::read_text;
use magpie_core::tape::{Session, Start};
use std::sync::Arc;

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

/// Opens, lists or plays demos.
pub fn run(options: &Options) -> anyhow::Result<Run> {
    if options.list {
        for demo in DEMOS {
            say!("{:<14} {}", demo.name, demo.shows)?;
        }
        return Ok(Run::Done(Answer::Done));
    }
    let chosen: Vec<&'static Demo> = match &options.name {
        Some(name) => vec![find(name)?],
        None => DEMOS.iter().collect(),
    };
    if options.run {
        return play_all(&chosen).map(Run::Done);
    }
    Ok(Run::Open(if options.name.is_some() { Open::Demo(chosen[0]) } else { Open::Yard }))
}

/// Plays every tape: 1 when a tape that should win does not, or a rule fails on the way.
fn play_all(demos: &[&Demo]) -> anyhow::Result<Answer> {
    let mut good = true;
    for demo in demos {
        let reading = read_text(demo.rulebook, &|_| Err("a demo is one file".into()));
        let Some(book) = reading.rulebook else { bail!("the demo `{}` has mistakes", demo.name) };
        let book = Arc::new(book);
        for (name, text) in demo.tapes {
            let tape = parse_tape(text)?;
            let start = Start::map(book.clone(), tape.header.map.saturating_sub(1));
            let mut session = Session::new(Start { seed: tape.header.seed, ..start })?;
            for (at, input) in &tape.lines {
                session.give_at(*at, input)?;
            }
            let broken = session.broken().is_some();
            let outcome = session.grid().outcome();
            good &= !broken && outcome == Some(Ended::Won);
            say!(
                "{:<14} {name}: {} inputs, {} turns, {}{}",
                demo.name,
                tape.lines.len(),
                session.turns(),
                outcome.map_or("unfinished", Ended::word),
                if broken { ", a rule that always holds was broken" } else { "" }
            )?;
        }
    }
    Ok(if good { Answer::Done } else { Answer::No })
}
