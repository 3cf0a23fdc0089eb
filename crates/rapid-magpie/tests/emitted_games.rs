//! Emitted games are played by the tapes of the demos and by random inputs, and stand as the model's after every turn, in every
//! language whose compiler or interpreter is here.
#![allow(clippy::unwrap_used)]

mod support;

use std::fmt::Write as _;
use magpie_core::rulebook::{Rulebook, Trigger};
use magpie_emit::{Language, Part};
use std::path::Path;
use support::demos;
use support::languages::{languages, names, shell};
use support::players::{Player, file};

/// Random numbers of a test.
struct Dice(u64);

impl Dice {
    fn below(&mut self, n: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as usize % n
    }
}

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
        std::fs::write(self.folder.join("words"), words.iter().flat_map(|word| [word, "\n"]).collect::<String>()).unwrap();
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

/// A rulebook of random rules: lines that do not fit are left out.
fn random_book(dice: &mut Dice) -> (String, Rulebook) {
    let pick = |dice: &mut Dice, all: &[&str]| all[dice.below(all.len())].to_owned();
    let mut text = String::from("game \"Yard\"\ncell 24 px\n");
    if dice.below(3) == 0 {
        text += "rows from bottom\n";
    }
    if dice.below(4) == 0 {
        text += "corners closed\n";
    }
    let _ = write!(text, "seed {}{}\n", dice.below(1000), if dice.below(3) == 0 { ", kept" } else { "" });
    text += "kinds\n  plank . floor\n  hole : floor\n  wall # body\n  ada A body, facing east\n  bob B body\n  cog C body\n  dot d mark\n  eel e mark, facing north\n";
    text += "group goods = bob, cog\ngroup marks = dot, eel\nglyph & = cog, dot\n";
    if dice.below(4) != 0 {
        text += "ground plank\n";
    }
    text += "counter score = 3\ncounter best, kept\n";
    for number in 0..2 {
        let (columns, rows) = (3 + dice.below(5), 3 + dice.below(4));
        if dice.below(6) == 0 {
            let share = ["", ", 20% of cog", ", 12.5% of dot", ", 30% of hole"][dice.below(4)];
            let _ = write!(text, "map \"M{number}\" {columns} x {rows} of plank{share}\n");
            continue;
        }
        let _ = write!(text, "map \"M{number}\"\n");
        for row in 0..rows {
            let line: String = (0..columns)
                .map(|column| {
                    if (row, column) == (1, 1) {
                        'A'
                    } else {
                        "......:_#BBCCCde& ".chars().nth(dice.below(17)).unwrap()
                    }
                })
                .collect();
            let _ = write!(
            text,
                "  {}\n",
                if line.trim().is_empty() {
                    "....".into()
                } else {
                    line.replacen(' ', ".", usize::from(line.starts_with(' ')))
                }
            );
        }
    }
    if dice.below(4) == 0 {
        let _ = write!(
            text,
            "trail {} leaves {}, {} long{}\n",
            pick(dice, &["ada", "bob"]),
            pick(dice, &["dot", "cog", "eel"]),
            dice.below(4),
            pick(dice, &["", ", tail leaves last"])
        );
    }
    let control = pick(dice, &["", "", ", no reverse", ", steering"]);
    let _ = write!(text, "control {} with arrows{control}\nrules\n", pick(dice, &["ada", "ada", "goods", "any"]));
    let book = |text: &str| {
        let reading = magpie_core::read_text(text, &|_| Err("none".into()));
        if reading.has_errors() { None } else { reading.rulebook }
    };
    let mut last = None;
    for _ in 0..40 {
        let line = random_rule(dice);
        let more = format!("{text}  {line}\n");
        if let Some(read) = book(&more) {
            text = more;
            last = Some(read);
        }
    }
    let read = last.unwrap_or_else(|| book(&text).unwrap());
    (text, read)
}

fn random_rule(dice: &mut Dice) -> String {
    let pick = |dice: &mut Dice, all: &[&str]| all[dice.below(all.len())].to_owned();
    let kind = |dice: &mut Dice| pick(dice, &["ada", "bob", "cog", "dot", "eel", "hole"]);
    let who = |dice: &mut Dice| pick(dice, &["ada", "bob", "cog", "dot", "eel", "goods", "marks", "any", "hole"]);
    let spot = |dice: &mut Dice| {
        pick(
            dice,
            &[
                "here",
                "tapped",
                "dropped",
                "chosen",
                "ahead of ada",
                "the cog",
                "the dot",
                "column 2 row 1",
                "column 0 row 2",
            ],
        )
    };
    let compass = |dice: &mut Dice| pick(dice, &["west", "east", "north", "south", "north-west", "south-east"]);
    let heading = |dice: &mut Dice| match dice.below(8) {
        0 => pick(dice, &["ahead", "back", "left", "right"]),
        1 => format!("toward {}", spot(dice)),
        2 => format!("along {}", spot(dice)),
        _ => compass(dice),
    };
    let cond = |dice: &mut Dice| match dice.below(10) {
        0 => format!("heading {}", compass(dice)),
        1 => "blocked".into(),
        2 => spot(dice),
        3 => format!("{} beside {}", spot(dice), spot(dice)),
        4 => format!("count {} on {} > 0", who(dice), who(dice)),
        5 => format!("not count {} at {} = 0", who(dice), spot(dice)),
        6 => format!("score {} {} or turns > 9", pick(dice, &["<", "<=", ">", ">=", "=", "!="]), dice.below(8)),
        7 => format!("count {} in row {} < 2 and moves >= 0", who(dice), pick(dice, &["first", "last", "1"])),
        8 => format!("count {} off {} - best + 1 >= score", who(dice), who(dice)),
        _ => format!("matches > {} or matched > 2", dice.below(2)),
    };
    let guard = |dice: &mut Dice| if dice.below(3) == 0 { format!(" if {}", cond(dice)) } else { String::new() };
    let place = |dice: &mut Dice| match dice.below(4) {
        0 => "at random empty".into(),
        1 => format!("at random empty on {}", pick(dice, &["plank", "hole", "marks", "dot"])),
        2 => format!("at random empty in {}", pick(dice, &["row first", "column last", "row 1"])),
        _ => format!("at {}", spot(dice)),
    };
    let pieces = |dice: &mut Dice| match dice.below(7) {
        0 => pick(dice, &["tapped", "dropped", "chosen"]),
        1 => format!("every {}", who(dice)),
        2 => format!("{} on {}", who(dice), who(dice)),
        _ => who(dice),
    };
    let common = |dice: &mut Dice| match dice.below(18) {
        0 | 1 => format!("remove {}", pieces(dice)),
        2 => format!("turn {} {}", pieces(dice), heading(dice)),
        3 | 4 => format!("turn {} into {}", pieces(dice), kind(dice)),
        5 => format!("place {} {}", kind(dice), place(dice)),
        6 => format!("spawn {} {}", kind(dice), place(dice)),
        7..=9 => format!(
            "add {} to {}",
            pick(dice, &["1", "2 - best", "count cog", "-1"]),
            pick(dice, &["score", "best", "seen"])
        ),
        10 => format!("set {} to {}", pick(dice, &["score", "best"]), pick(dice, &["0", "turns", "score + 1"])),
        11 => format!("grow {}", 1 + dice.below(2)),
        12 => format!("fall {} {}", who(dice), compass(dice)),
        13 => format!(
            "refill {} at {}",
            pick(dice, &["goods", "marks", "cog"]),
            pick(dice, &["north", "west", "south", "east"])
        ),
        14 | 15 => format!("signal \"{}\"", pick(dice, &["done", "late // no", "a\\b?"])),
        16 => pick(dice, &["win", "lose"]),
        _ => pick(dice, &["restart", "next map"]),
    };
    let effect = |dice: &mut Dice| match dice.below(8) {
        0 => format!("become {}", kind(dice)),
        1 => "clear".into(),
        2 => pick(dice, &["drop above", "drop below", "drop left-of", "drop right-of"]),
        _ => common(dice),
    };
    let effects = |dice: &mut Dice| (0..1 + dice.below(3)).map(|_| effect(dice)).collect::<Vec<_>>().join(", ");
    let action = |dice: &mut Dice| match dice.below(12) {
        0..=2 => format!("step {} {}{}", pieces(dice), heading(dice), pick(dice, &["", "", " by 2", " by 3"])),
        3 => format!("leap {} by {}, {}", pieces(dice), dice.below(5) as i64 - 2, dice.below(5) as i64 - 2),
        4 => format!("drop {} {}", pieces(dice), heading(dice)),
        5 => format!("walk {} to {}", pieces(dice), spot(dice)),
        6 => format!("swap {} with {}{}", spot(dice), spot(dice), pick(dice, &["", " if it makes run"])),
        7 => format!("flood from {} into {}{}", spot(dice), kind(dice), pick(dice, &["", " 8-way"])),
        8 => format!("choose {}", if dice.below(4) == 0 { "nothing".into() } else { spot(dice) }),
        _ => common(dice),
    };
    let actions = |dice: &mut Dice| {
        let list = |dice: &mut Dice| (0..1 + dice.below(2)).map(|_| action(dice)).collect::<Vec<_>>().join(", ");
        let first = list(dice);
        if dice.below(3) == 0 { format!("{first} else {}", list(dice)) } else { first }
    };
    match dice.below(20) {
        0..=6 => {
            let what = pick(
                dice,
                &["bob", "cog", "goods", "dot", "eel", "hole", "any", "edge", "void", "wall", "ada", "plank", "marks"],
            );
            let plain = |dice: &mut Dice| {
                pick(
                    dice,
                    &[
                        "stop",
                        "pass",
                        "swap",
                        "take",
                        "perish",
                        "clash",
                        "bounce",
                        "slide",
                        "wrap",
                        "warp dot",
                        "warp hole",
                    ],
                )
            };
            let verb = if dice.below(2) == 0 {
                format!(
                    "shove{}{}",
                    pick(dice, &["", " up to 1", " up to 2"]),
                    if dice.below(2) == 0 { format!(" else {}", plain(dice)) } else { String::new() }
                )
            } else {
                plain(dice)
            };
            let more = if dice.below(3) == 0 { format!(", {}", effects(dice)) } else { String::new() };
            format!("{} into {what}{}: {verb}{more}", who(dice), guard(dice))
        }
        7 => format!("{} off {}{}: {}", who(dice), who(dice), guard(dice), effects(dice)),
        8..=10 => {
            let what = match dice.below(7) {
                0 => format!(
                    "{} full of {}{}",
                    pick(dice, &["row", "column"]),
                    who(dice),
                    pick(dice, &["", " ignoring wall"])
                ),
                1 => format!(
                    "run of {} same {} in {}",
                    2 + dice.below(2),
                    who(dice),
                    pick(dice, &["rows", "columns", "both"])
                ),
                2 => format!("patch of {} same {}", 2 + dice.below(3), who(dice)),
                3 => who(dice),
                _ => format!("{} on {}", who(dice), who(dice)),
            };
            format!("when {what}{}: {}", guard(dice), effects(dice))
        }
        11..=15 => {
            let event = match dice.below(8) {
                0 => "on start".to_owned(),
                1 => format!("on tap{}", pick(dice, &["", " cog", " edge", " plank", " void"])),
                2 => format!("on drag{}", pick(dice, &["", " goods", " cog to edge", " any to plank"])),
                3 => "each turn".into(),
                _ => format!("on key {}", pick(dice, &["act", "alt", "left", "\"x\"", "\"7\""])),
            };
            format!("{event}{}: {}", guard(dice), actions(dice))
        }
        16 => format!("{} when {}", pick(dice, &["win", "lose"]), cond(dice)),
        17 => format!(
            "win when score > {}: {}",
            dice.below(9),
            pick(dice, &["next map", "add 1 to best", "spawn cog at random empty", "restart"])
        ),
        18 => pick(dice, &["on key \"r\": restart", "on key \"n\": next map", "on key \"u\": undo"]),
        _ => format!("{} {}", pick(dice, &["always", "never"]), cond(dice)),
    }
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
        let mut dice = Dice(88_172_645_463_325_252 ^ ((first + number) * 0x9e37_79b9));
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
