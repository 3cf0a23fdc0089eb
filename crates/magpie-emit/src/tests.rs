//! A small rulebook in all languages as golden files: `MAGPIE_BLESS=1 cargo test -p magpie-emit` writes them anew, to be read
//! before a commit.

use super::{Language, Part, emit, situations};
use std::path::Path;

const SHELF: &str = "game \"Shelf\"\ncell 24 x 20 px\ngap 2 px\norigin 8,6 px\nhotspot 0,5 px\nindex row-major from 1\nview\n  window 480 x 240 px\n  \
                     design 240 x 120 px\n  fit stretch\nkinds\n  plank . floor\n  porter P body\n  crate C body, hotspot 3,0 px\nground plank\ncontrol porter with arrows\n\
                     map \"Left\"\n  P.C\n  ..\nmap \"Right\"\n  P...\n\
                     rules\n  porter into crate: shove, add 1 to shoved\n  always shoved < 100\n  win when shoved > 1: next map\n";

#[test]
fn a_small_rulebook_in_all_languages() {
    let reading = magpie_core::read_text(SHELF, &|_| Err("none".into()));
    let book = reading.rulebook.unwrap_or_else(|| panic!("{:?}", reading.diagnostics));
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/golden");
    let plays = situations(&book, SHELF);
    let mut names = Vec::new();
    for (word, language) in Language::ALL {
        let emitted = emit(&book, SHELF, 0, "shelf.magpie", (language, Part::All), &plays);
        for file in emitted.files {
            let path = folder.join(word).join(&file.name);
            if std::env::var_os("MAGPIE_BLESS").is_some() {
                std::fs::create_dir_all(folder.join(word)).expect("a folder");
                std::fs::write(&path, &file.text).expect("a file");
            }
            let golden = std::fs::read_to_string(&path).unwrap_or_else(|error| panic!("{}: {error}", path.display()));
            assert_eq!(file.text, golden, "{}", path.display());
            names.push(path);
        }
    }
    assert_eq!(names.len(), 17, "a module and a test program each, in C a header too");
}
