//! Reading rulebooks from disk, and showing what is wrong with them.

use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use anyhow::{Context, bail};
use magpie_core::limits::LARGEST_FILE;
use magpie_core::rulebook::{Diagnostic, LineIndex, Reading, Rulebook, Severity, read};
use std::fmt::Write as _;
use std::fs::File;
use std::io::Read;
use std::path::{Component, Path, PathBuf};
use std::sync::Arc;

/// Most mistakes that are written out for people.
const MOST_SHOWN: usize = 100;

/// A rulebook file that has been read.
#[derive(Debug)]
pub struct Loaded {
    /// Where it lies.
    pub path: PathBuf,
    /// What reading it gave.
    pub reading: Reading,
}

/// A rulebook without mistakes.
#[derive(Clone, Debug)]
pub struct Ready {
    /// The rulebook.
    pub book: Arc<Rulebook>,
}

/// Reads a file of at most so many bytes and one more, so that a larger one can be told.
pub fn bytes_of(path: &Path) -> anyhow::Result<Vec<u8>> {
    let file = File::open(path).with_context(|| format!("cannot read `{}`", path.display()))?;
    let mut bytes = Vec::new();
    file.take(LARGEST_FILE as u64 + 1)
        .read_to_end(&mut bytes)
        .with_context(|| format!("cannot read `{}`", path.display()))?;
    Ok(bytes)
}

/// The bytes of a file beside a rulebook.
fn beside(rulebook: &Path, name: &str) -> Result<Vec<u8>, String> {
    let inside = Path::new(name).components().all(|part| matches!(part, Component::Normal(_) | Component::CurDir));
    if !inside || name.is_empty() {
        return Err("the path must lie beside the rulebook".into());
    }
    let path = rulebook.parent().unwrap_or(Path::new("")).join(name);
    match path.metadata() {
        Ok(data) if data.is_file() => bytes_of(&path).map_err(|error| format!("{}", error.root_cause())),
        Ok(_) => Err("it is no file".into()),
        Err(error) => Err(error.to_string()),
    }
}

/// Reads a rulebook and the files its maps come from.
pub fn load(path: &Path) -> anyhow::Result<Loaded> {
    Ok(load_bytes(path, &bytes_of(path)?))
}

/// Reads a rulebook whose bytes are at hand; the files of its maps lie beside `path`.
pub fn load_bytes(path: &Path, bytes: &[u8]) -> Loaded {
    Loaded { path: path.into(), reading: read(bytes, &|name| beside(path, name)) }
}

/// Reads a rulebook that is to be used; mistakes go to standard error.
pub fn ready(path: &Path) -> anyhow::Result<Ready> {
    let Loaded { reading, .. } = load(path)?;
    if let Some(book) = reading.rulebook {
        return Ok(Ready { book: Arc::new(book) });
    }
    let errors: Vec<&Diagnostic> =
        reading.diagnostics.iter().filter(|found| found.code.severity() == Severity::Error).collect();
    eprint!("{}", render(&path.display().to_string(), &reading.source, &errors));
    bail!("`{}` has {}; `check` tells the same", path.display(), counted(errors.len(), "mistake"))
}

/// `1 mistake`, `2 mistakes`.
pub fn counted(number: usize, what: &str) -> String {
    if number == 1 { format!("1 {what}") } else { format!("{number} {what}s") }
}

/// Text from a file without control characters, line ends and tabs excepted.
pub fn plain(text: &str) -> String {
    text.chars().map(|c| if c.is_control() && c != '\n' && c != '\t' { '\u{fffd}' } else { c }).collect()
}

/// Diagnostics as people read them, with the words underlined.
pub fn render(path: &str, source: &str, diagnostics: &[&Diagnostic]) -> String {
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
    if diagnostics.len() > MOST_SHOWN {
        let _ = writeln!(out, "... and {} more", diagnostics.len() - MOST_SHOWN);
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
            let text = render("a.magpie", &source, &[&found]);
            prop_assert!(text.contains("words"));
            prop_assert!(!text.chars().any(|c| c.is_control() && c != '\n'));
        }
    }
}
