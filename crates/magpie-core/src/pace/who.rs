//! Who moves: the kinds of a run, each with its pace.

use super::run::Drive;
use super::settings::Settings;
use crate::rulebook::{KindId, NotThere, Rulebook, SetId};
use thiserror::Error;

/// Why nobody can be told to move.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[non_exhaustive]
pub enum NoMover {
    /// A name that is no kind.
    #[error(transparent)]
    NotThere(#[from] NotThere),
    /// The rulebook controls and paces nobody.
    #[error("nobody is controlled or paced: name a kind with `--kind`")]
    Nobody,
}

/// The kind that moves: the one named, else that of the first `control`, else that of the first `pace`.
///
/// # Errors
/// The name is no kind, or without one nobody is controlled or paced.
pub fn mover(book: &Rulebook, name: Option<&str>) -> Result<KindId, NoMover> {
    if let Some(name) = name {
        return Ok(book.kind_named(name)?);
    }
    let first = |set: SetId| book.set(set).iter().next();
    let controlled = book.controls.first().and_then(|control| first(control.who));
    let paced = || book.paces.first().map(|pace| pace.who.map_or(Some(KindId(0)), first));
    controlled.or_else(|| paced().flatten()).ok_or(NoMover::Nobody)
}

/// The kind that moves and those that a script names, in this order, each with its pace.
///
/// # Errors
/// The script names what is no kind.
pub fn movers(book: &Rulebook, kind: KindId, drive: &Drive) -> Result<Vec<(String, Settings)>, NoMover> {
    let mut kinds = vec![kind];
    if let Drive::Keys(keys) = drive {
        for name in keys.iter().filter_map(|event| event.kind.as_deref()) {
            let kind = book.kind_named(name)?;
            if !kinds.contains(&kind) {
                kinds.push(kind);
            }
        }
    }
    Ok(kinds.into_iter().map(|kind| (book.kind(kind).name.clone(), Settings::of_kind(book, kind))).collect())
}
