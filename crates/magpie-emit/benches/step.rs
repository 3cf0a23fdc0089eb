//! A turn of emitted Rust and C beside the core's own, in one run: at most three times its time. And emitting: at most 50 ms.
//!
//! `cargo bench -p magpie-emit`; needs `rustc` and `cc`.
#![allow(missing_docs, clippy::unwrap_used)]

use magpie_core::Input;
use magpie_core::grid::{Grid, Nobody};
use magpie_core::rulebook::{Rulebook, read};
use magpie_emit::{Language, Part, emit};
use std::path::{Path, PathBuf};
use std::process::Command;
use std::sync::Arc;
use std::time::Instant;

/// Turns of one measurement.
const TURNS: usize = 200_000;
/// Demos, with the words that are played again and again.
const DEMOS: [(&str, &[&str]); 4] = [
    ("cog-loft", &["right", "left", "down", "up"]),
    ("hawser", &["right", "down", "left", "up"]),
    ("damp-wall", &["tap:1,1", "restart"]),
    ("towpath", &["right", "left"]),
];

fn demo(stem: &str) -> (Rulebook, String) {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demos");
    let bytes = std::fs::read(folder.join(format!("{stem}.magpie"))).unwrap();
    let reading = read(&bytes, &|name| std::fs::read(folder.join(name)).map_err(|error| error.to_string()));
    (reading.rulebook.unwrap(), reading.source)
}

/// The best of several, in ns a turn.
fn best(mut turn: impl FnMut() -> f64) -> f64 {
    (0..5).map(|_| turn()).fold(f64::INFINITY, f64::min)
}

fn core(book: &Rulebook, words: &[&str]) -> (f64, Vec<String>) {
    let inputs: Vec<Input> = words.iter().map(|word| word.parse().unwrap()).collect();
    let mut picture = Vec::new();
    let time = best(|| {
        let mut grid = Grid::new(Arc::new(book.clone()), 0, None, &mut Nobody).unwrap();
        let begun = Instant::now();
        for turn in 0..TURNS {
            grid.input(&inputs[turn % inputs.len()], &mut Nobody);
            // A game keeps what can be taken back, but not for ever.
            if turn.is_multiple_of(1024) {
                grid.forget();
            }
        }
        let time = begun.elapsed().as_nanos() as f64 / TURNS as f64;
        picture = grid.picture();
        time
    });
    (time, picture)
}

/// Runs a program that prints its ns a turn, then its board.
fn emitted(folder: &Path, commands: &[&str]) -> (f64, Vec<String>) {
    for command in commands {
        let made = Command::new("sh").args(["-c", command]).current_dir(folder).status().unwrap();
        assert!(made.success(), "{command}");
    }
    let mut board = Vec::new();
    let time = best(|| {
        let ran = Command::new("./bench").current_dir(folder).output().unwrap();
        assert!(ran.status.success());
        let text = String::from_utf8(ran.stdout).unwrap();
        let mut lines = text.lines();
        let time = lines.next().unwrap().parse().unwrap();
        board = lines.map(str::to_owned).collect();
        time
    });
    (time, board)
}

fn written(book: &Rulebook, source: &str, stem: &str, language: Language) -> (tempfile::TempDir, f64) {
    let folder = tempfile::tempdir().unwrap();
    let begun = Instant::now();
    let made = emit(book, source, 0, &format!("{stem}.magpie"), (language, Part::All), &[]);
    let time = begun.elapsed().as_secs_f64() * 1e3;
    made.files.iter().for_each(|file| std::fs::write(folder.path().join(&file.name), &file.text).unwrap());
    (folder, time)
}

fn put(folder: &Path, name: &str, text: &str) -> PathBuf {
    let path = folder.join(name);
    std::fs::write(&path, text).unwrap();
    path
}

fn main() {
    println!(
        "a turn: the core, emitted Rust, emitted C (limit: 3 times the core); emitting without vectors (limit: 50 ms)"
    );
    for (stem, words) in DEMOS {
        let (book, source) = demo(stem);
        let name = stem.replace('-', "_");
        let (own, picture) = core(&book, words);
        let list = words.iter().map(|word| format!("\"{word}\"")).collect::<Vec<_>>().join(", ");
        let (rust, time) = written(&book, &source, stem, Language::Rust);
        put(
            rust.path(),
            "bench.rs",
            &format!(
                "mod {name};\nfn main() {{\n    let words = [{list}];\n    let mut game = {name}::Game::new();\n    let begun = std::time::Instant::now();\n    for turn in 0..{TURNS} {{\n        game.input(words[turn % words.len()]);\n    }}\n    \
                 println!(\"{{}}\", begun.elapsed().as_nanos() as f64 / {TURNS} as f64);\n    println!(\"{{}}\", game.board().join(\"\\n\"));\n}}\n"
            ),
        );
        let (in_rust, board) = emitted(rust.path(), &["rustc --edition 2021 -O bench.rs"]);
        assert_eq!(board, picture, "{stem}: equal results first");
        let (c, _) = written(&book, &source, stem, Language::C);
        put(
            c.path(),
            "bench.c",
            &format!(
                "#define _POSIX_C_SOURCE 199309L\n#include \"{name}.h\"\n#include <stdio.h>\n#include <time.h>\nint main(void) {{\n    static const char *const words[] = {{{list}}};\n    static {name}_game game;\n    static char text[{}_BOARD_SIZE];\n    \
                 struct timespec one, other;\n    {name}_start(&game);\n    clock_gettime(CLOCK_MONOTONIC, &one);\n    for (int turn = 0; turn < {TURNS}; turn++) {{\n        {name}_input(&game, words[turn % {}]);\n    }}\n    clock_gettime(CLOCK_MONOTONIC, &other);\n    \
                 printf(\"%f\\n\", ((double)(other.tv_sec - one.tv_sec) * 1e9 + (double)(other.tv_nsec - one.tv_nsec)) / {TURNS});\n    {name}_board(&game, text);\n    printf(\"%s\", text);\n    return 0;\n}}\n",
                name.to_uppercase(),
                words.len()
            ),
        );
        let (in_c, board) = emitted(c.path(), &[&format!("cc -std=c11 -O2 -o bench bench.c {name}.c -lm")]);
        assert_eq!(board, picture, "{stem}: equal results first");
        println!(
            "{stem:10} {own:8.0} ns  {in_rust:8.0} ns ({:.2})  {in_c:8.0} ns ({:.2})  {time:6.1} ms",
            in_rust / own,
            in_c / own
        );
    }
}
