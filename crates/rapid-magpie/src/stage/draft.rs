//! The rulebook's text as it is on the screen, where a bench has changed it and not written it yet.

use super::state::State;
use crate::cli::fmt::replace;
use crate::cli::source::{Loaded, load_bytes};

/// What was changed and not written.
#[derive(Debug, Default)]
pub struct Draft {
    /// The texts before each change, the newest last.
    before: Vec<String>,
    /// The text as the file has it.
    written: Option<String>,
}

/// Takes a text with a change, where it is a rulebook without mistakes; board, bench and tape follow.
pub fn take(state: &mut State, source: Option<String>) -> bool {
    let Some(source) = source else {
        state.note = Some("the rulebook has no place for this".into());
        return false;
    };
    if !state.mistakes.is_empty() {
        state.note = Some("the rulebook has mistakes: mend them first".into());
        return false;
    }
    let loaded = load_bytes(&state.path, source.as_bytes());
    if let Some(wrong) = loaded.reading.diagnostics.iter().find(|_| loaded.reading.rulebook.is_none()) {
        state.note = Some(wrong.message.clone());
        return false;
    }
    let old = std::mem::take(&mut state.source);
    state.draft.written.get_or_insert_with(|| old.clone());
    state.draft.before.push(old);
    apply(state, loaded);
    true
}

fn apply(state: &mut State, loaded: Loaded) {
    let scroll = state.scroll;
    state.reload(loaded);
    state.scroll = scroll;
}

/// Takes the last change back; false where there is none.
pub fn take_back(state: &mut State) -> bool {
    let Some(source) = state.draft.before.pop() else {
        return false;
    };
    let loaded = load_bytes(&state.path, source.as_bytes());
    apply(state, loaded);
    true
}

/// Writes the text back into the file; whether it is there now.
pub fn write(state: &mut State) -> bool {
    match replace(&state.path, state.source.as_bytes()) {
        Ok(()) => {
            state.draft.written = Some(state.source.clone());
            true
        }
        Err(error) => {
            state.note = Some(format!("{error:#}"));
            false
        }
    }
}

/// Whether the text is another than the file's.
pub fn is_changed(state: &State) -> bool {
    state.draft.written.as_ref().is_some_and(|written| *written != state.source)
}

/// The file has changed under the benches: what was not written can still be taken back to.
pub fn file_changed(state: &mut State, old: &str) {
    if is_changed(state) {
        state.draft.before.push(old.to_owned());
        state.note = Some("the file has changed: taking back brings the unwritten changes again".into());
    }
    state.draft.written = None;
}
