//! The rulebook's text: as the file has it, and as the benches have changed it. Nothing else writes the rulebook.
//!
//! A bench changes the text by edits. Each belongs to the bench that made it and can be done again on another text, so
//! that one bench's changes are written, or taken back, without those of the others.

use crate::files::{Loaded, beside, load_bytes, replace};
use magpie_core::rulebook::document::Analysis;
use magpie_core::rulebook::{Code, Diagnostic, Severity};
use std::path::{Path, PathBuf};
use std::rc::Rc;

/// Whose a change is: the title of a bench.
pub type Owner = &'static str;

/// A change of a text of this rulebook; `None` where the text has no place for it.
pub type Edit = Rc<dyn Fn(&Text, &str) -> Option<String>>;

/// An edit of a bench.
#[derive(Clone)]
struct Change {
    owner: Owner,
    edit: Edit,
    /// The file has it.
    written: bool,
    /// The text on the screen has it.
    shown: bool,
}

/// The text of a rulebook.
pub struct Text {
    path: PathBuf,
    name: String,
    /// The bytes of the file when it was last read or written.
    seen: Vec<u8>,
    /// The file's text before the changes that are listed.
    base: String,
    /// The text on the screen.
    source: String,
    changes: Vec<Change>,
    /// Unwritten changes of a text that another program has written over since.
    aside: Vec<Change>,
    /// What is wrong with the file as it is now.
    pub mistakes: Vec<Diagnostic>,
    /// Warnings about the text as it is now.
    pub warnings: Vec<Diagnostic>,
}

impl Text {
    /// The text of a file that has been read.
    pub fn new(path: &Path, name: String) -> Self {
        Self {
            path: path.into(),
            name,
            seen: Vec::new(),
            base: String::new(),
            source: String::new(),
            changes: Vec::new(),
            aside: Vec::new(),
            mistakes: Vec::new(),
            warnings: Vec::new(),
        }
    }

    /// Where the rulebook lies.
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// The name of its file.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The text on the screen: the file's with what the benches have changed.
    pub fn source(&self) -> &str {
        &self.source
    }

    /// Whether only the beginning of the file can be shown, because it is no UTF-8.
    pub fn is_cut_short(&self) -> bool {
        self.mistakes.iter().any(|found| found.code == Code::NotUtf8)
    }

    /// Reads a text of this rulebook.
    pub fn read(&self, source: &str) -> Loaded {
        load_bytes(&self.path, source.as_bytes())
    }

    /// Reads a text of this rulebook for all that its editor asks of it.
    pub fn analysed(&self, source: String) -> Analysis {
        Analysis::new(source, &|name| beside(&self.path, name))
    }

    /// Takes over what reading a text gave: its mistakes, its warnings, the text itself.
    pub(super) fn take(&mut self, loaded: &mut Loaded) {
        let found = std::mem::take(&mut loaded.reading.diagnostics);
        (self.mistakes, self.warnings) = found.into_iter().partition(|found| found.code.severity() == Severity::Error);
        self.source = std::mem::take(&mut loaded.reading.source);
    }

    /// The file is what was read last; nothing has been changed.
    pub(super) fn begin(&mut self, bytes: Vec<u8>) {
        self.base.clone_from(&self.source);
        self.seen = bytes;
        self.changes.clear();
    }

    /// Whether the file holds what was last read or written here.
    pub fn has_seen(&self, bytes: &[u8]) -> bool {
        self.seen == bytes
    }

    /// Another program has written the file: what was not written here is put aside; whether there is any.
    pub(super) fn put_aside(&mut self) -> bool {
        let unwritten = self.changes.drain(..).filter(|change| change.shown && !change.written);
        let unwritten: Vec<Change> = unwritten.collect();
        if !unwritten.is_empty() {
            self.aside = unwritten;
            return true;
        }
        false
    }

    /// The text with some of the changes.
    fn with(&self, wanted: impl Fn(&Change) -> bool) -> String {
        let wanted = self.changes.iter().filter(|change| wanted(change));
        wanted.fold(self.base.clone(), |text, change| (change.edit)(self, &text).unwrap_or(text))
    }

    /// Notes a change that is shown already.
    pub(super) fn note(&mut self, owner: Owner, edit: Edit) {
        self.changes.push(Change { owner, edit, written: false, shown: true });
    }

    /// Takes back an owner's last change, written or not; what was put aside comes again where there is none. Gives
    /// the text to be read anew, `None` where there is nothing to take back.
    pub(super) fn take_back(&mut self, owner: Owner) -> Option<String> {
        let last = self.changes.iter().rposition(|change| change.owner == owner && change.shown);
        if let Some(at) = last {
            if self.changes[at].written {
                self.changes[at].shown = false;
            } else {
                self.changes.remove(at);
            }
        } else if self.aside.iter().any(|change| change.owner == owner) {
            let (own, rest) = std::mem::take(&mut self.aside).into_iter().partition(|change| change.owner == owner);
            self.aside = rest;
            self.changes.extend::<Vec<Change>>(own);
        } else {
            return None;
        }
        Some(self.with(|change| change.shown))
    }

    /// Writes an owner's changes into the file, and nobody else's.
    pub(super) fn write(&mut self, owner: Owner) -> anyhow::Result<()> {
        let text = self.with(|change| if change.owner == owner { change.shown } else { change.written });
        replace(&self.path, text.as_bytes())?;
        self.seen = text.into_bytes();
        for change in self.changes.iter_mut().filter(|change| change.owner == owner) {
            change.written = change.shown;
        }
        self.changes.retain(|change| change.written || change.shown);
        Ok(())
    }

    /// Writes a whole text into the file.
    pub(super) fn write_whole(&mut self, text: &str) -> anyhow::Result<()> {
        replace(&self.path, text.as_bytes())?;
        self.seen = text.as_bytes().to_vec();
        Ok(())
    }

    /// Whether an owner has changes that are not written.
    pub fn is_changed_by(&self, owner: Owner) -> bool {
        self.changes.iter().any(|change| change.owner == owner && change.shown != change.written)
    }

    /// Who has changes that are not written, each once.
    pub fn unwritten(&self) -> Vec<Owner> {
        let mut owners: Vec<Owner> = Vec::new();
        for change in self.changes.iter().filter(|change| change.shown != change.written) {
            if !owners.contains(&change.owner) {
                owners.push(change.owner);
            }
        }
        owners
    }
}
