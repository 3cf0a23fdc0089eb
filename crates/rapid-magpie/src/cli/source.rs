//! Rulebooks that a command needs, and what is wrong with them.

use crate::files::{Loaded, load};
use crate::limits::MOST_SHOWN;
use crate::words::{counted, plain};
use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use anyhow::bail;
use magpie_core::rulebook::{Diagnostic, LineIndex, Rulebook, Severity};
use std::fmt::Write as _;
use std::path::Path;
use std::sync::Arc;

/// A rulebook without mistakes.
#[derive(Clone, Debug)]
pub struct Ready {
    /// The rulebook.
    pub book: Arc<Rulebook>,
    /// Its text.
    pub source: String,
}

/// Reads a rulebook that is to be used; mistakes go to standard error.
pub fn ready(path: &Path) -> anyhow::Result<Ready> {
    let Loaded { reading, .. } = load(path)?;
    if let Some(book) = reading.rulebook {
        return Ok(Ready { book: Arc::new(book), source: reading.source });
    }
    let errors: Vec<&Diagnostic> =
        reading.diagnostics.iter().filter(|found| found.code.severity() == Severity::Error).collect();
    let count = reading.count(Severity::Error);
    crate::words::tell(render(&path.display().to_string(), &reading.source, &errors, count).trim_end());
    bail!("`{}` has {}; `check` tells the same", path.display(), counted(count, "mistake"))
}

/// The first of so many diagnostics as people read them, with the words underlined.
pub fn render(path: &str, source: &str, diagnostics: &[&Diagnostic], count: usize) -> String {
    let index = LineIndex::new(source);
    let renderer = Renderer::plain();
    let mut out = String::new();
    for found in diagnostics.iter().take(MOST_SHOWN) {
        let place = index.place(source, found.span.start.min(source.len()));
        let shown = window(source, found.span.start, found.span.end);
        let level = if found.code.severity() == Severity::Error { Level::ERROR } else { Level::WARNING };
        let title = plain(&found.message);
        let help = found.help.as_deref().map(plain);
        let path = format!("{}:{}:{}", plain(path), place.line, place.column);
        let mut group = level.primary_title(&title).id(found.code.word()).element(
            Snippet::source(&shown.text)
                .line_start(place.line)
                .annotation(AnnotationKind::Primary.span(shown.start..shown.end)),
        );
        if let Some(help) = &help {
            group = group.element(Level::HELP.message(help));
        }
        // Writing to a String cannot fail.
        let _ = writeln!(out, "{path}\n{}", renderer.render(&[group]));
    }
    if count > MOST_SHOWN {
        let _ = writeln!(out, "... and {} more", count - MOST_SHOWN);
    }
    out
}

/// A line of a source around some words, safe to print and not too long.
struct Window {
    text: String,
    start: usize,
    end: usize,
}

fn window(source: &str, start: usize, end: usize) -> Window {
    const REACH: usize = 100;
    let border = |mut at: usize| {
        at = at.min(source.len());
        while !source.is_char_boundary(at) {
            at -= 1;
        }
        at
    };
    let (start, end) = (border(start), border(end.max(start)));
    let line_start = source[..start].rfind('\n').map_or(0, |at| at + 1);
    let line_end = source[start..].find(['\n', '\r']).map_or(source.len(), |at| start + at);
    let end = end.clamp(start, line_end.max(start));
    let from = border(line_start.max(start.saturating_sub(REACH)));
    let to = border(line_end.min(start.max(from) + 2 * REACH)).max(start);
    let safe = |text: &str| -> String {
        text.chars().map(|c| if c.is_control() || c == '\u{feff}' { ' ' } else { c }).collect()
    };
    let (before, words) = (safe(&source[from..start]), safe(&source[start..end.min(to)]));
    let after = safe(&source[end.min(to)..to]);
    let (start, end) = (before.len(), before.len() + words.len());
    Window { text: before + &words + &after, start, end }
}

#[cfg(test)]
mod tests {
    use super::*;
    use magpie_core::rulebook::{Code, Span};
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn any_span_of_any_text_can_be_shown(source in ".{0,60}(\r?\n.{0,300})?", start in 0usize..400, length in 0usize..400) {
            let found = Diagnostic::new(Span::new(start, start + length), Code::Syntax, "words");
            let text = render("a.magpie", &source, &[&found], 1);
            prop_assert!(text.contains("words"));
            prop_assert!(!text.chars().any(|c| c.is_control() && c != '\n'));
        }
    }
}
