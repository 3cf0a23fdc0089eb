//! Watching the rulebook's folder, so that a save in any editor is seen at once.

use super::Event;
use notify::RecursiveMode;
use notify_debouncer_full::{DebounceEventResult, Debouncer, RecommendedCache, new_debouncer};
use std::path::Path;
use std::sync::mpsc::Sender;
use std::time::Duration;

/// Ends the watch when dropped.
pub type Watch = Debouncer<notify::RecommendedWatcher, RecommendedCache>;

/// Sends an event after every change in the folder of a file. Editors that rename a new file into place are seen too.
pub fn watch(path: &Path, events: Sender<Event>) -> anyhow::Result<Watch> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut watcher = new_debouncer(Duration::from_millis(60), None, move |result: DebounceEventResult| {
        let changed = result.is_ok_and(|found| found.iter().any(|event| !event.kind.is_access()));
        if changed {
            // The workbench has ended when nobody listens.
            let _ = events.send(Event::Changed);
        }
    })?;
    watcher.watch(folder, RecursiveMode::NonRecursive)?;
    Ok(watcher)
}
