//! `lsp`: the language server for editors.

use super::Answer;
use crate::lsp::{Ended, serve};

/// Serves an editor over standard input and output.
pub fn run() -> anyhow::Result<Answer> {
    Ok(match serve(std::io::stdin(), &mut std::io::stdout().lock())? {
        Ended::Well => Answer::Done,
        Ended::Otherwise => Answer::No,
    })
}
