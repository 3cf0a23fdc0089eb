//! `lsp`: the language server for editors.

use super::Answer;
use crate::lsp::{Ended, serve};

/// Serves an editor over standard input and output.
pub fn run() -> anyhow::Result<Answer> {
    let (mut input, mut output) = (std::io::stdin().lock(), std::io::stdout().lock());
    Ok(match serve(&mut input, &mut output)? {
        Ended::Well => Answer::Done,
        Ended::Otherwise => Answer::No,
    })
}
