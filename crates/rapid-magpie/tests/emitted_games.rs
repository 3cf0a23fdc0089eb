//! Emitted games are played by the tapes of the demos and by random inputs, and stand as the model's after every turn, in every
//! language whose compiler or interpreter is here.
#![allow(clippy::unwrap_used)]

mod support;

use magpie_core::rulebook::{Rulebook, Trigger};
use magpie_emit::{Language, Part};
use std::path::Path;
use support::demos;
use support::languages::{languages, names, shell};
use support::players::{Player, file};
use support::random_books::{Dice, random_book};

/// Words that a game may be given: keys and touches of its rules and others, some that are none.
fn words(book: &Rulebook, count: usize, dice: &mut Dice) -> Vec<String> {
    let mut keys: Vec<String> = Vec::new();
    for rule in &book.inputs {
        if let Trigger::Key(key) = &rule.trigger {
            keys.push(if key.0.len() == 1 { format!("key:{}", key.0) } else { key.0.clone() });
        }
    }
    let touched = book.is_touched();
    (0..count)
        .map(|_| {
            let mut at = || format!("{},{}", dice.below(12) as i64 - 1, dice.below(10) as i64 - 1);
            let (one, other) = (at(), at());
            match dice.below(40) {
                0 => ["key:q", "alt", "tap:1", "sideways", "key:", "drag:1,1", "tap:-1,9999999999999999", "next"]
                    [dice.below(8)]
                .into(),
                1 => "restart".into(),
                2 | 3 => "next".into(),
                4..=19 if touched => format!("tap:{one}"),
                20..=27 if touched => format!("drag:{one}>{other}"),
                _ if keys.is_empty() => "left".into(),
                _ => keys[dice.below(keys.len())].clone(),
            }
        })
        .collect()
}

/// The inputs of a demo's tape.
fn tape(path: &Path) -> (usize, Vec<String>) {
    let text = std::fs::read_to_string(path).unwrap();
    let lines = text.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap());
    let lines: Vec<serde_json::Value> = lines.collect();
    let map = lines[0]["map"].as_u64().unwrap_or(1) as usize;
    (map, lines[1..].iter().filter_map(|line| Some(line["input"].as_str()?.to_owned())).collect())
}

/// A game in a language, compiled where that has to be.
struct Made<'p> {
    player: &'p Player<'p>,
    folder: std::path::PathBuf,
    run: String,
}

impl<'p> Made<'p> {
    fn new(folder: &Path, player: &'p Player, (language, ending, command): &(&str, &str, String)) -> Self {
        let (_, of) = Language::ALL.into_iter().find(|(word, _)| word == language).unwrap();
        let program = player.program(of);
        let program =
            if *language == "ts" { program.replace("show(taken) {", "show(taken: string) {") } else { program };
        std::fs::write(file(folder, language, ending), program).unwrap();
        let command = command.replace("NAME", player.name).replace("MAIN", "player");
        let mut steps: Vec<&str> = command.split(" && ").collect();
        let run = steps.pop().unwrap().to_owned();
        let folder = folder.join(language);
        if !steps.is_empty() {
            let made = shell(&folder, &steps.join(" && "));
            let told = format!("{}{}", String::from_utf8_lossy(&made.stderr), String::from_utf8_lossy(&made.stdout));
            assert!(made.status.success(), "{} in {language}: {}", player.name, &told[..told.len().min(4000)]);
        }
        Self { player, folder, run }
    }

    /// Plays words: the game stands as the model's after each.
    fn plays(&self, map: usize, words: &[String]) {
        std::fs::write(self.folder.join("words"), words.iter().flat_map(|word| [word, "\n"]).collect::<String>())
            .unwrap();
        let ran = shell(&self.folder, &format!("{} < words", self.run));
        let at = self.folder.display();
        assert!(ran.status.success(), "{at}: {}", String::from_utf8_lossy(&ran.stderr));
        let said: Vec<String> = String::from_utf8(ran.stdout).unwrap().lines().map(str::to_owned).collect();
        alike(self.player, map, words, &at.to_string(), &said);
    }
}

fn alike(player: &Player, map: usize, words: &[String], language: &str, said: &[String]) {
    let right = player.model(map, words);
    for (at, (right, said)) in right.iter().zip(said).enumerate() {
        assert_eq!(
            right,
            said,
            "{} map {} in {language} after {at} words: {:?}",
            player.name,
            map + 1,
            &words[at.saturating_sub(5)..at]
        );
    }
    assert_eq!(right.len(), said.len(), "{} in {language}", player.name);
}

/// Writes a module; false where the rulebook is not covered whole.
fn emit(folder: &Path, (book, text): (&Rulebook, &str), file: &str, language: &str, map: usize) -> bool {
    let (_, of) = Language::ALL.into_iter().find(|(word, _)| *word == language).unwrap();
    if !magpie_emit::not_covered(book, text).is_empty() {
        return false;
    }
    let emitted = magpie_emit::emit(book, text, map, file, (of, Part::All), &[]);
    std::fs::create_dir_all(folder.join(language)).unwrap();
    for file in emitted.files {
        std::fs::write(folder.join(language).join(file.name), file.text).unwrap();
    }
    true
}

#[test]
fn demos_are_played_as_the_model_plays_them() {
    let here = &languages();
    let mut covered = 0;
    let mut stems: Vec<String> = std::fs::read_dir(demos())
        .unwrap()
        .filter_map(|entry| Some(entry.unwrap().file_name().to_str()?.strip_suffix(".magpie")?.to_owned()))
        .collect();
    stems.sort();
    for stem in stems {
        let path = demos().join(format!("{stem}.magpie"));
        let folder = tempfile::tempdir().unwrap();
        let text = std::fs::read_to_string(&path).unwrap();
        let book =
            magpie_core::read_text(&text, &|name| std::fs::read(demos().join(name)).map_err(|error| error.to_string()))
                .rulebook
                .unwrap();
        let file = format!("{stem}.magpie");
        if !emit(folder.path(), (&book, &text), &file, "rust", 0) {
            println!("{stem} is not covered: {:?}", magpie_emit::not_covered(&book, &text));
            continue;
        }
        covered += 1;
        let mut tapes: Vec<(usize, Vec<String>)> = Vec::new();
        for number in 1..10 {
            let path = demos().join(format!("{stem}-{number}.jsonl"));
            if path.exists() {
                let (map, mut words) = tape(&path);
                words.retain(|word| word != "undo" && !word.starts_with("wait:"));
                tapes.push((map - 1, words));
            }
        }
        let mut dice = Dice(88_172_645_463_325_252);
        // All maps of a demo in one game, each begun on once.
        let last = book.maps.len() - 1;
        tapes.push((0, words(&book, 200, &mut dice)));
        tapes.push((last, words(&book, 200, &mut dice)));
        let mut maps: Vec<usize> = tapes.iter().map(|(map, _)| *map).collect();
        maps.sort_unstable();
        maps.dedup();
        let play = |found: &(&'static str, &'static str, String)| {
            for map in &maps {
                assert!(emit(folder.path(), (&book, &text), &file, found.0, *map));
                let (name, _) = names(found.0, &stem);
                let player = Player { book: &book, name: &name, seed: None };
                let made = Made::new(folder.path(), &player, found);
                tapes.iter().filter(|(of, _)| of == map).for_each(|(map, words)| made.plays(*map, words));
            }
        };
        // Compilers take their time: two at once.
        std::thread::scope(|scope| {
            let halves = [0, 1].map(|half| {
                let play = &play;
                scope.spawn(move || here.iter().skip(half).step_by(2).for_each(play))
            });
            halves.into_iter().for_each(|half| half.join().unwrap());
        });
    }
    assert!(covered >= 5, "{covered} demos are covered");
}

#[test]
fn random_rulebooks_are_played_as_the_model_plays_them() {
    let here = languages();
    let rounds = std::env::var("MAGPIE_ROUNDS").ok().and_then(|text| text.parse().ok()).unwrap_or(60);
    let first: u64 = std::env::var("MAGPIE_SEED").ok().and_then(|text| text.parse().ok()).unwrap_or(1);
    // What needs no compiler plays many, the others a few.
    let quick: Vec<_> = here.iter().filter(|(language, ..)| matches!(*language, "js" | "python" | "lua")).collect();
    let slow: Vec<_> = here.iter().filter(|(language, ..)| !matches!(*language, "js" | "python" | "lua")).collect();
    for number in 0..rounds {
        let begun = std::time::Instant::now();
        let mut dice = Dice(0x0139_408d_cbbf_7a44 ^ ((first + number) * 0x9e37_79b9));
        let (text, book) = random_book(&mut dice);
        let mut words = words(&book, 60, &mut dice);
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("odd-yard.magpie");
        std::fs::write(&path, &text).unwrap();
        if !settles_soon(&path, &words) {
            continue;
        }
        // Turns that never settle take long: one of a game is enough.
        let plain = Player { book: &book, name: "", seed: Some(7 + number) };
        let ends = plain.model(0, &words).iter().position(|line| line.contains("\tnever settles\t"));
        words.truncate(ends.unwrap_or(words.len()));
        let pick = |list: &[&(&'static str, &'static str, String)], at: usize| {
            (!list.is_empty()).then(|| list[at % list.len()].clone())
        };
        let one = pick(&quick, number as usize);
        let other = if number % 10 == 0 { pick(&slow, number as usize / 10) } else { None };
        for found in one.iter().chain(&other) {
            assert!(emit(folder.path(), (&book, &text), "odd-yard.magpie", found.0, 0));
            let (name, _) = names(found.0, "odd-yard");
            let seeded = std::fs::read_to_string(folder.path().join(found.0).join(format!("{name}.{}", header(found))))
                .unwrap()
                .contains("draws_at")
                || std::fs::read_to_string(folder.path().join(found.0).join(format!("{name}.{}", header(found))))
                    .unwrap()
                    .contains("rawsAt");
            let player = Player { book: &book, name: &name, seed: seeded.then_some(7 + number) };
            let played = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| {
                Made::new(folder.path(), &player, found).plays(0, &words);
            }));
            assert!(played.is_ok(), "round {number} in {}:\n{text}", found.0);
            println!("round {number} in {}: {:?}", found.0, begun.elapsed());
        }
    }
}

/// Whether the model itself plays these words in a moment.
fn settles_soon(path: &Path, words: &[String]) -> bool {
    let words: Vec<&str> =
        words.iter().map(String::as_str).filter(|word| word.parse::<magpie_core::Input>().is_ok()).collect();
    let command = format!(
        "timeout 1 {} play {} --inputs '{}' > /dev/null 2>&1",
        support::PROGRAM,
        path.display(),
        words.join(" ")
    );
    shell(path.parent().unwrap(), &command).status.code() != Some(124)
}

/// The ending of the file in which a module's game is.
fn header(found: &(&str, &str, String)) -> &'static str {
    match found.0 {
        "c" => "h",
        "cpp" => "hpp",
        "csharp" => "cs",
        "rust" => "rs",
        "js" => "mjs",
        "ts" => "ts",
        "python" => "py",
        _ => "lua",
    }
}
