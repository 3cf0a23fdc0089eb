//! A log that a running game writes: read as it grows, from the beginning again where it was cut off or replaced.

use crate::limits::LONGEST_LINE;
use std::fs::File;
use std::io::Read;
use std::os::unix::fs::MetadataExt as _;
use std::path::Path;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

/// How often the file is looked at.
const GLANCE: Duration = Duration::from_millis(15);
/// Most bytes that are read at once, so that what they say is seen on the way.
const GULP: usize = 1 << 18;

/// What following a log brings.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Followed {
    /// It begins, or begins anew.
    Begun,
    /// Whole lines that have come.
    Lines(Vec<String>),
    /// It is not there, or cannot be read; it is waited for.
    Waiting(String),
    /// A line has no end.
    Endless,
}

/// Follows a log until told to stop; whoever listens hears it line by line.
pub fn follow(path: &Path, stop: &AtomicBool, mut tell: impl FnMut(Followed)) {
    let mut reader: Option<Reader> = None;
    let mut waits = false;
    while !stop.load(Ordering::Relaxed) {
        let here = path.metadata();
        let is_same = |reader: &Reader| {
            here.as_ref().is_ok_and(|here| (here.dev(), here.ino()) == reader.identity && here.len() >= reader.at)
        };
        if !reader.as_ref().is_some_and(is_same) {
            match Reader::open(path) {
                Ok(new) => {
                    reader = Some(new);
                    waits = false;
                    tell(Followed::Begun);
                }
                Err(error) => {
                    reader = None;
                    if !std::mem::replace(&mut waits, true) {
                        tell(Followed::Waiting(error.to_string()));
                    }
                }
            }
        }
        match reader.as_mut().map(Reader::more) {
            Some(Ok(lines)) if !lines.is_empty() => {
                tell(Followed::Lines(lines));
                continue;
            }
            Some(Err(())) => {
                tell(Followed::Endless);
                return;
            }
            Some(Ok(_)) | None => {}
        }
        std::thread::sleep(GLANCE);
    }
}

/// An open log, and how far it has been read.
struct Reader {
    file: File,
    identity: (u64, u64),
    at: u64,
    /// The beginning of a line that is not whole yet.
    rest: Vec<u8>,
}

impl Reader {
    fn open(path: &Path) -> std::io::Result<Self> {
        let file = File::open(path)?;
        let data = file.metadata()?;
        if !data.is_file() {
            return Err(std::io::Error::other("it is no regular file"));
        }
        Ok(Self { file, identity: (data.dev(), data.ino()), at: 0, rest: Vec::new() })
    }

    /// The whole lines that have come.
    fn more(&mut self) -> Result<Vec<String>, ()> {
        let before = self.rest.len();
        // What came before an error is there, and is gone on from.
        let _ = self.file.by_ref().take(GULP as u64).read_to_end(&mut self.rest);
        self.at += (self.rest.len() - before) as u64;
        let Some(end) = self.rest.iter().rposition(|byte| *byte == b'\n') else {
            return if self.rest.len() > LONGEST_LINE { Err(()) } else { Ok(Vec::new()) };
        };
        let behind = self.rest.split_off(end + 1);
        let whole = std::mem::replace(&mut self.rest, behind);
        Ok(String::from_utf8_lossy(&whole).lines().map(str::to_owned).collect())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::Write as _;
    use std::sync::Arc;
    use std::sync::mpsc::{Receiver, channel};

    struct Following {
        heard: Receiver<Followed>,
        stop: Arc<AtomicBool>,
    }

    impl Following {
        fn begin(path: &Path) -> Self {
            let (sender, heard) = channel();
            let stop = Arc::new(AtomicBool::new(false));
            let (path, until) = (path.to_owned(), stop.clone());
            std::thread::spawn(move || follow(&path, &until, |told| sender.send(told).unwrap_or_default()));
            Self { heard, stop }
        }

        /// Everything heard until so many lines have come since the last beginning.
        fn lines(&self, count: usize) -> Vec<String> {
            let mut lines = Vec::new();
            while lines.len() < count {
                match self.heard.recv_timeout(Duration::from_secs(10)).expect("something comes") {
                    Followed::Begun => lines.clear(),
                    Followed::Lines(more) => lines.extend(more),
                    Followed::Waiting(_) | Followed::Endless => {}
                }
            }
            lines
        }
    }

    impl Drop for Following {
        fn drop(&mut self) {
            self.stop.store(true, Ordering::Relaxed);
        }
    }

    #[test]
    fn a_log_is_heard_as_it_grows_is_cut_off_replaced_and_half_written() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("log");
        let following = Following::begin(&path);
        let waiting = following.heard.recv_timeout(Duration::from_secs(10)).unwrap();
        assert!(matches!(waiting, Followed::Waiting(_)), "{waiting:?}");
        std::fs::write(&path, "one\ntwo\nth").unwrap();
        assert_eq!(following.lines(2), ["one", "two"]);
        let mut file = std::fs::OpenOptions::new().append(true).open(&path).unwrap();
        file.write_all(b"ree\n").unwrap();
        assert_eq!(following.lines(1), ["three"], "a half-written line is waited for");
        drop(file);
        std::fs::write(&path, "a\n").unwrap();
        assert_eq!(following.lines(1), ["a"], "cut off: it begins anew");
        let other = folder.path().join("other");
        std::fs::write(&other, "b\nc\n").unwrap();
        std::fs::rename(&other, &path).unwrap();
        assert_eq!(following.lines(2), ["b", "c"], "replaced: it begins anew");
    }

    #[test]
    fn many_lines_and_one_without_an_end_are_borne() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("log");
        let text: String = (0..50_000).map(|number| format!("{number}\n")).collect::<Vec<_>>().concat();
        std::fs::write(&path, &text).unwrap();
        let lines = Following::begin(&path).lines(50_000);
        assert_eq!((lines.len(), lines[49_999].as_str()), (50_000, "49999"));
        std::fs::write(&path, vec![b'x'; LONGEST_LINE + GULP]).unwrap();
        let following = Following::begin(&path);
        let heard: Vec<Followed> = following.heard.iter().collect();
        assert_eq!(heard.last(), Some(&Followed::Endless));
    }
}
