//! A log in a file, of any size, line by line.

use crate::files::regular;
use crate::limits::LONGEST_LINE;
use anyhow::Context;
use magpie_core::trace::Log;
use std::fs::File;
use std::io::{BufRead, BufReader, Read as _, Seek as _};
use std::path::Path;

/// A log in a file.
#[derive(Debug)]
pub struct FileLog(BufReader<File>);

impl FileLog {
    /// Opens it.
    pub fn open(path: &Path) -> anyhow::Result<Self> {
        regular(path)?;
        let file = File::open(path).with_context(|| format!("cannot read `{}`", path.display()))?;
        Ok(Self(BufReader::with_capacity(1 << 16, file)))
    }
}

impl Log for FileLog {
    fn rewind(&mut self) -> Result<(), String> {
        self.0.rewind().map_err(|error| error.to_string())
    }

    fn next(&mut self, into: &mut String) -> Result<bool, String> {
        let mut bytes = std::mem::take(into).into_bytes();
        let read = self.0.by_ref().take(LONGEST_LINE as u64 + 1).read_until(b'\n', &mut bytes);
        let read = read.map_err(|error| error.to_string())?;
        if bytes.len() > LONGEST_LINE {
            return Err(format!("a line is longer than {LONGEST_LINE} bytes"));
        }
        *into = String::from_utf8(bytes).map_err(|_| "a line is no UTF-8".to_owned())?;
        Ok(read > 0)
    }
}
