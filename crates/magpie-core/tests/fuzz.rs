//! Damaged rulebooks for a bounded time: whatever comes in, reading ends, places lie in the text, and what can be
//! played is played. `MAGPIE_FUZZ_SECONDS` makes the time longer than the usual three seconds.
#![allow(clippy::unwrap_used)]

use magpie_core::rulebook::{format, read};
use magpie_core::tape::{Session, Start};
use std::sync::Arc;
use std::time::{Duration, Instant};

/// A plain generator: the same damage in every run of the same length.
struct Draws(u64);

impl Draws {
    fn below(&mut self, n: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as usize % n.max(1)
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

fn damage(source: &[u8], draws: &mut Draws, others: &[Vec<u8>]) -> Vec<u8> {
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

#[test]
fn no_damage_panics_or_hangs() {
    let seconds = std::env::var("MAGPIE_FUZZ_SECONDS").ok().and_then(|text| text.parse().ok()).unwrap_or(3);
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/rulebooks/valid");
    let mut paths: Vec<_> = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    paths.extend(
        ["cog-loft", "damp-wall", "glass-mender", "hawser", "hoists", "kiosk", "lantern-rack", "sluice", "towpath"]
            .map(|name| format!("{}/../../demos/{name}.magpie", env!("CARGO_MANIFEST_DIR")).into()),
    );
    paths.sort();
    let sources: Vec<Vec<u8>> = paths.iter().map(|path| std::fs::read(path).unwrap()).collect();
    let mut draws = Draws(11);
    let (mut rounds, mut played) = (0, 0);
    let start = Instant::now();
    while start.elapsed() < Duration::from_secs(seconds) {
        let source = &sources[draws.below(sources.len())];
        let bytes = damage(source, &mut draws, &sources);
        let begun = Instant::now();
        let reading = read(&bytes, &|_| Err("none".into()));
        for found in &reading.diagnostics {
            assert!(found.span.start <= found.span.end, "{found:?}");
        }
        if let Ok(text) = std::str::from_utf8(&bytes)
            && let Some(laid_out) = format(text)
        {
            assert_eq!(format(&laid_out).as_ref(), Some(&laid_out), "twice is once:\n{text}");
        }
        if let Some(book) = reading.rulebook
            && let Ok(mut session) = Session::new(Start::map(Arc::new(book), 0))
        {
            for input in [
                "right",
                "up",
                "act",
                "wait:700",
                "alt",
                "tap:2,1",
                "drag:1,1>2,1",
                "left",
                "key:d",
                "undo",
                "wait:9000",
                "restart",
                "down",
                "act",
                "next",
            ] {
                session.give(&input.parse().unwrap());
            }
            session.go(0);
            played += 1;
        }
        assert!(begun.elapsed() < Duration::from_secs(5), "hangs on:\n{}", String::from_utf8_lossy(&bytes));
        rounds += 1;
    }
    assert!(rounds > 50 && played > 5, "{rounds} rounds, {played} played: the damage is too heavy to test anything");
}
