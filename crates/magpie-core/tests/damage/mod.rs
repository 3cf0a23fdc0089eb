//! Damage for tests that want any: the same in every run of the same length.
#![allow(dead_code, clippy::unwrap_used)] // each test file uses its part

use std::path::Path;
use std::time::{Duration, Instant};

/// How long a test goes on: three seconds, or as `MAGPIE_FUZZ_SECONDS` says.
pub fn seconds() -> Duration {
    let wanted = std::env::var("MAGPIE_FUZZ_SECONDS").ok().and_then(|text| text.parse().ok());
    Duration::from_secs(wanted.unwrap_or(3))
}

/// Tries inputs one after the other for as long as it takes, none longer than five seconds; gives how many there were.
pub fn for_a_while(name: &str, mut one: impl FnMut(u64) -> String) -> u64 {
    let (begun, mut rounds) = (Instant::now(), 0);
    while begun.elapsed() < seconds() {
        let started = Instant::now();
        let input = one(rounds);
        assert!(started.elapsed() < Duration::from_secs(5), "{name} hangs on:\n{input}");
        rounds += 1;
    }
    println!("{name}: {rounds} inputs");
    rounds
}

/// The rulebooks of the demos and of the tests, in order.
pub fn rulebooks() -> Vec<String> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut paths = Vec::new();
    for folder in ["demos", "crates/magpie-core/tests/rulebooks/valid"] {
        let entries = std::fs::read_dir(root.join(folder)).unwrap();
        paths.extend(
            entries
                .map(|entry| entry.unwrap().path())
                .filter(|path| path.extension().is_some_and(|end| end == "magpie")),
        );
    }
    paths.sort();
    let mut all: Vec<String> = paths.iter().map(|path| std::fs::read_to_string(path).unwrap()).collect();
    // And those in the pages for users.
    for page in ["language", "tutorial", "model", "play", "rules", "pace", "probe"] {
        let text = std::fs::read_to_string(root.join("docs").join(format!("{page}.md"))).unwrap();
        all.extend(text.split("```").skip(1).step_by(2).filter(|block| block.contains("game \"")).map(str::to_owned));
    }
    assert!(all.len() > 9);
    all
}

/// A plain generator.
pub struct Draws(pub u64);

impl Draws {
    pub fn below(&mut self, n: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as usize % n.max(1)
    }

    pub fn of<'t, T>(&mut self, list: &'t [T]) -> &'t T {
        &list[self.below(list.len())]
    }
}

const PARTS: &[&str] = &[
    "(",
    ")",
    "\"",
    "\n",
    "\n  ",
    "\n    ",
    "\t",
    "//",
    ",",
    ":",
    " ",
    "-1",
    "99999999999999999999999",
    "0",
    "1/0",
    "shove",
    "when ",
    " on ",
    "any",
    "every ",
    "edge",
    "void",
    "map \"M\"",
    "rules",
    "kinds",
    "win when ",
    "\u{0}",
    "\u{7f}",
    "\u{feff}",
    "é",
    "漢",
    "_",
    "X",
    " else ",
    " if ",
    "count ",
    "\r",
    "\r\n",
    "scenario \"S\"",
    "expect",
    "inputs right",
    "game \"G\"",
    "%",
    "x",
    "group g = g",
];

/// Some bytes with something added, taken away, exchanged or repeated.
pub fn damage(source: &[u8], draws: &mut Draws, others: &[Vec<u8>]) -> Vec<u8> {
    let mut bytes = source.to_vec();
    for _ in 0..=draws.below(6) {
        let at = draws.below(bytes.len() + 1);
        match draws.below(6) {
            0 => {
                let end = (at + draws.below(30)).min(bytes.len());
                bytes.drain(at..end);
            }
            1 if !bytes.is_empty() => {
                let at = at.min(bytes.len() - 1);
                bytes[at] = draws.below(256) as u8;
            }
            2 => {
                let other = &others[draws.below(others.len())];
                let start = draws.below(other.len());
                let end = (start + draws.below(200)).min(other.len());
                bytes.splice(at..at, other[start..end].iter().copied());
            }
            3 => {
                let start = draws.below(bytes.len() + 1).min(at);
                let copy = bytes[start..at].to_vec();
                bytes.splice(at..at, copy.into_iter().take(2000));
            }
            _ => {
                let part = PARTS[draws.below(PARTS.len())];
                bytes.splice(at..at, part.bytes());
            }
        }
    }
    bytes
}
