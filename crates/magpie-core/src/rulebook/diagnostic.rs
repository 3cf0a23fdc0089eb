//! What is wrong with a rulebook, and where.

use crate::limits::{MOST_COMPARED, MOST_FINDINGS};
use std::cmp::Ordering;

/// A range of bytes of the source.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub struct Span {
    /// First byte.
    pub start: usize,
    /// The byte behind the last.
    pub end: usize,
}

impl Span {
    /// The bytes from `start` up to `end`.
    pub const fn new(start: usize, end: usize) -> Self {
        Self { start, end }
    }

    /// The smallest span over both.
    #[must_use]
    pub fn to(self, other: Self) -> Self {
        Self { start: self.start.min(other.start), end: self.end.max(other.end) }
    }
}

/// How bad it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Severity {
    /// The rulebook cannot be played.
    Error,
    /// It can, but probably does not do what was meant.
    Warning,
}

impl Severity {
    /// The word of the formats.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Error => "error",
            Self::Warning => "warning",
        }
    }
}

macro_rules! codes {
    ($($variant:ident $word:literal $severity:ident $form:literal,)*) => {
        /// The kind of a mistake (docs/language.md, section 6).
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
        #[allow(missing_docs)]
        pub enum Code { $($variant,)* }

        impl Code {
            /// Every code, in the order of the language reference.
            pub const ALL: &'static [Self] = &[$(Self::$variant,)*];

            /// The code as `check` prints it.
            pub const fn word(self) -> &'static str {
                match self { $(Self::$variant => $word,)* }
            }

            /// Whether it is an error or a warning.
            pub const fn severity(self) -> Severity {
                match self { $(Self::$variant => Severity::$severity,)* }
            }

            /// Whether it is a mistake of form: the statement is not looked at further.
            pub const fn is_form(self) -> bool {
                match self { $(Self::$variant => $form,)* }
            }
        }
    };
}

codes! {
    Syntax "syntax" Error true,
    BadCharacter "bad-character" Error true,
    BadWord "bad-word" Error true,
    UnclosedText "unclosed-text" Error true,
    BadGlyph "bad-glyph" Error true,
    NotUtf8 "not-utf8" Error true,
    Indentation "indentation" Error true,
    ReservedWord "reserved-word" Error true,
    TooDeep "too-deep" Error true,
    UnknownUnit "unknown-unit" Error true,
    GameFirst "game-first" Error false,
    MissingSection "missing-section" Error false,
    RepeatedSection "repeated-section" Error false,
    RepeatedName "repeated-name" Error false,
    RepeatedGlyph "repeated-glyph" Error false,
    UnknownName "unknown-name" Error false,
    WrongName "wrong-name" Error false,
    UnknownGlyph "unknown-glyph" Error false,
    DrawingMissing "drawing-missing" Error false,
    BadColour "bad-colour" Error false,
    CellSize "cell-size" Error false,
    NegativeGap "negative-gap" Error false,
    OutOfRange "out-of-range" Error false,
    MapTooLarge "map-too-large" Error false,
    TooMany "too-many" Error false,
    LayerClash "layer-clash" Error false,
    PassSameLayer "pass-same-layer" Error false,
    VerbNotHere "verb-not-here" Error false,
    MisplacedWord "misplaced-word" Error false,
    NotInMatch "not-in-match" Error false,
    RowsDoNotFit "rows-do-not-fit" Error false,
    ShapeNotConnected "shape-not-connected" Error false,
    MapFile "map-file" Error false,
    UnreachableClause "unreachable-clause" Warning false,
    KindNeverMade "kind-never-made" Warning false,
    NeverLands "never-lands" Warning false,
    RaggedWindow "ragged-window" Warning false,
    FeedsItself "feeds-itself" Warning false,
    CounterNeverSet "counter-never-set" Warning false,
    NeverTogether "never-together" Warning false,
    FloodUnder "flood-under" Warning false,
    ButtonPlace "button-place" Warning false,
    RaggedDrawing "ragged-drawing" Warning false,
    NeverReached "never-reached" Warning false,
}

/// What could stand where a mistake of form is.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Expected {
    /// Words of the language.
    pub words: Vec<&'static str>,
    /// Other things, described: `the name of a kind`.
    pub described: Vec<&'static str>,
    /// A name.
    pub names: bool,
}

/// One mistake: its place, its kind, what is wrong and what would be right.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Diagnostic {
    /// The words it is about.
    pub span: Span,
    /// What sort of mistake.
    pub code: Code,
    /// What is wrong, lower case, the words of the rulebook in backticks.
    pub message: String,
    /// What would be right.
    pub help: Option<String>,
    /// What could stand there, for a token that cannot.
    pub expected: Option<Box<Expected>>,
}

impl Diagnostic {
    /// A mistake without advice.
    pub fn new(span: Span, code: Code, message: impl Into<String>) -> Self {
        Self { span, code, message: message.into(), help: None, expected: None }
    }

    /// Adds advice.
    #[must_use]
    pub fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(help.into());
        self
    }

    /// Adds advice where there is some.
    #[must_use]
    pub fn maybe_help(mut self, help: Option<String>) -> Self {
        self.help = help.or(self.help);
        self
    }
}

/// A line and a column, both from 1; columns count characters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Place {
    /// Line, from 1.
    pub line: usize,
    /// Column in characters, from 1.
    pub column: usize,
}

/// Finds lines and columns of byte offsets.
#[derive(Clone, Debug)]
pub struct LineIndex {
    starts: Vec<usize>,
    bom: usize,
}

impl LineIndex {
    /// Indexes a source.
    pub fn new(source: &str) -> Self {
        let bom = if source.starts_with('\u{feff}') { '\u{feff}'.len_utf8() } else { 0 };
        let starts = std::iter::once(0)
            .chain(source.bytes().enumerate().filter(|(_, byte)| *byte == b'\n').map(|(at, _)| at + 1))
            .collect();
        Self { starts, bom }
    }

    /// The line of a byte, from 1.
    pub fn line(&self, at: usize) -> usize {
        self.starts.partition_point(|start| *start <= at)
    }

    /// The place of a byte of the source that was indexed.
    pub fn place(&self, source: &str, at: usize) -> Place {
        let line = self.line(at);
        let start = self.starts[line - 1];
        let start = if line == 1 { start.max(self.bom.min(at)) } else { start };
        let column = source.get(start..at).map_or(1, |text| text.chars().count() + 1);
        Place { line, column }
    }
}

/// Puts diagnostics in the order of their places, dropping what is said twice.
fn in_order(diagnostics: &mut Vec<Diagnostic>) {
    let key = |d: &Diagnostic| (d.span.start, d.span.end);
    diagnostics.sort_by(|a, b| match key(a).cmp(&key(b)) {
        Ordering::Equal => (a.code as u8).cmp(&(b.code as u8)),
        other => other,
    });
    diagnostics.dedup();
}

/// How many mistakes and warnings a file has beyond those that are listed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Unlisted {
    /// Mistakes.
    pub errors: usize,
    /// Warnings.
    pub warnings: usize,
}

/// The first of a file's mistakes, or of its warnings; the others are counted.
#[derive(Debug, Default)]
struct First {
    kept: Vec<Diagnostic>,
    more: usize,
    /// Where the last one kept begins, once some have been counted only.
    bound: Option<usize>,
}

impl First {
    fn is_beyond(&self, start: usize) -> bool {
        self.bound.is_some_and(|bound| start > bound)
    }

    fn push(&mut self, found: Diagnostic) {
        if self.is_beyond(found.span.start) {
            self.more += 1;
            return;
        }
        self.kept.push(found);
        if self.kept.len() >= 2 * MOST_FINDINGS {
            self.cut();
        }
    }

    fn cut(&mut self) {
        in_order(&mut self.kept);
        if self.kept.len() > MOST_FINDINGS {
            self.more += self.kept.len() - MOST_FINDINGS;
            self.kept.truncate(MOST_FINDINGS);
            self.bound = self.kept.last().map(|last| last.span.start);
        }
    }
}

/// Mistakes and warnings while they are found: those that come first in the file are kept, [`MOST_FINDINGS`] of each.
#[derive(Debug, Default)]
pub(super) struct Findings {
    errors: First,
    warnings: First,
    /// One bit a code.
    codes: u64,
}

impl Findings {
    const fn of(&mut self, severity: Severity) -> &mut First {
        match severity {
            Severity::Error => &mut self.errors,
            Severity::Warning => &mut self.warnings,
        }
    }

    pub fn push(&mut self, found: Diagnostic) {
        self.codes |= 1 << found.code as u8;
        self.of(found.code.severity()).push(found);
    }

    /// Whether an error that begins at a byte would only be counted: nobody will read what it says.
    pub fn is_beyond(&self, start: usize) -> bool {
        self.errors.is_beyond(start)
    }

    /// Whether something of this kind was found.
    pub const fn has(&self, code: Code) -> bool {
        self.codes >> code as u8 & 1 == 1
    }

    /// Whether some kind of mistake was found.
    pub fn any(&self, which: impl Fn(Code) -> bool) -> bool {
        Code::ALL.iter().any(|code| self.has(*code) && which(*code))
    }

    /// Adds what another phase has found.
    pub fn extend(&mut self, other: Self) {
        self.codes |= other.codes;
        for (into, from) in [(&mut self.errors, other.errors), (&mut self.warnings, other.warnings)] {
            into.more += from.more;
            from.kept.into_iter().for_each(|found| into.push(found));
        }
    }

    /// What is listed, in the order of the file, and how much is not.
    pub fn listed(mut self) -> (Vec<Diagnostic>, Unlisted) {
        self.errors.cut();
        self.warnings.cut();
        let unlisted = Unlisted { errors: self.errors.more, warnings: self.warnings.more };
        let mut all = self.errors.kept;
        all.append(&mut self.warnings.kept);
        in_order(&mut all);
        (all, unlisted)
    }
}

/// How much may still be compared for advice; a file with endless wrong names gets none for the last of them.
#[derive(Debug)]
pub(super) struct Advice(u64);

impl Default for Advice {
    fn default() -> Self {
        Self(MOST_COMPARED)
    }
}

impl Advice {
    /// [`nearest`], as long as there is something left.
    pub fn nearest<'a>(&mut self, word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<String> {
        let left = &mut self.0;
        nearest(
            word,
            candidates.into_iter().take_while(|candidate| {
                let cost = 8 + (word.len() * candidate.len()) as u64;
                *left = left.saturating_sub(cost);
                *left > 0
            }),
        )
    }
}

/// The nearest of `candidates` with at most two letters added, left out, changed or exchanged.
pub(super) fn nearest<'a>(word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<String> {
    let length = word.chars().count();
    if length > 64 {
        return None;
    }
    candidates
        .into_iter()
        .filter(|candidate| *candidate != word && candidate.len().abs_diff(word.len()) <= 8)
        .map(|candidate| (strsim::osa_distance(word, candidate), candidate))
        .filter(|(distance, _)| *distance <= 2 && *distance < length)
        // Of several as near, the first in the alphabet: the same advice in every run.
        .min()
        .map(|(_, candidate)| format!("did you mean `{candidate}`?"))
}
