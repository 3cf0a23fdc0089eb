//! Rulebooks of random rules.
#![allow(dead_code, clippy::unwrap_used)]

use magpie_core::rulebook::Rulebook;
use std::fmt::Write as _;

/// Random numbers of a test.
pub struct Dice(pub u64);

impl Dice {
    pub fn below(&mut self, n: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as usize % n
    }
}

fn pick(dice: &mut Dice, all: &[&str]) -> String {
    all[dice.below(all.len())].to_owned()
}

/// A rulebook of random rules: lines that do not fit are left out.
pub fn random_book(dice: &mut Dice) -> (String, Rulebook) {
    let mut text = String::from("game \"Yard\"\ncell 24 px\n");
    if dice.below(3) == 0 {
        text += "rows from bottom\n";
    }
    if dice.below(4) == 0 {
        text += "corners closed\n";
    }
    let _ = writeln!(text, "seed {}{}", dice.below(1000), if dice.below(3) == 0 { ", kept" } else { "" });
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
            let _ = writeln!(text, "map \"M{number}\" {columns} x {rows} of plank{share}");
            continue;
        }
        let _ = writeln!(text, "map \"M{number}\"");
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
            let _ = writeln!(
                text,
                "  {}",
                if line.trim().is_empty() {
                    "....".into()
                } else {
                    line.replacen(' ', ".", usize::from(line.starts_with(' ')))
                }
            );
        }
    }
    if dice.below(4) == 0 {
        let _ = writeln!(
            text,
            "trail {} leaves {}, {} long{}",
            pick(dice, &["ada", "bob"]),
            pick(dice, &["dot", "cog", "eel"]),
            dice.below(4),
            pick(dice, &["", ", tail leaves last"])
        );
    }
    let control = pick(dice, &["", "", ", no reverse", ", steering"]);
    let _ = writeln!(text, "control {} with arrows{control}\nrules", pick(dice, &["ada", "ada", "goods", "any"]));
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

fn kind(dice: &mut Dice) -> String {
    pick(dice, &["ada", "bob", "cog", "dot", "eel", "hole"])
}

fn who(dice: &mut Dice) -> String {
    pick(dice, &["ada", "bob", "cog", "dot", "eel", "goods", "marks", "any", "hole"])
}

fn spot(dice: &mut Dice) -> String {
    {
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
    }
}

fn compass(dice: &mut Dice) -> String {
    pick(dice, &["west", "east", "north", "south", "north-west", "south-east"])
}

fn heading(dice: &mut Dice) -> String {
    match dice.below(8) {
        0 => pick(dice, &["ahead", "back", "left", "right"]),
        1 => format!("toward {}", spot(dice)),
        2 => format!("along {}", spot(dice)),
        _ => compass(dice),
    }
}

fn cond(dice: &mut Dice) -> String {
    match dice.below(10) {
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
    }
}

fn guard(dice: &mut Dice) -> String {
    if dice.below(3) == 0 { format!(" if {}", cond(dice)) } else { String::new() }
}

fn place(dice: &mut Dice) -> String {
    match dice.below(4) {
        0 => "at random empty".into(),
        1 => format!("at random empty on {}", pick(dice, &["plank", "hole", "marks", "dot"])),
        2 => format!("at random empty in {}", pick(dice, &["row first", "column last", "row 1"])),
        _ => format!("at {}", spot(dice)),
    }
}

fn pieces(dice: &mut Dice) -> String {
    match dice.below(7) {
        0 => pick(dice, &["tapped", "dropped", "chosen"]),
        1 => format!("every {}", who(dice)),
        2 => format!("{} on {}", who(dice), who(dice)),
        _ => who(dice),
    }
}

fn common(dice: &mut Dice) -> String {
    match dice.below(18) {
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
    }
}

fn effect(dice: &mut Dice) -> String {
    match dice.below(8) {
        0 => format!("become {}", kind(dice)),
        1 => "clear".into(),
        2 => pick(dice, &["drop above", "drop below", "drop left-of", "drop right-of"]),
        _ => common(dice),
    }
}

fn effects(dice: &mut Dice) -> String {
    (0..=dice.below(3)).map(|_| effect(dice)).collect::<Vec<_>>().join(", ")
}

fn action(dice: &mut Dice) -> String {
    match dice.below(12) {
        0..=2 => format!("step {} {}{}", pieces(dice), heading(dice), pick(dice, &["", "", " by 2", " by 3"])),
        3 => format!("leap {} by {}, {}", pieces(dice), dice.below(5) as i64 - 2, dice.below(5) as i64 - 2),
        4 => format!("drop {} {}", pieces(dice), heading(dice)),
        5 => format!("walk {} to {}", pieces(dice), spot(dice)),
        6 => format!("swap {} with {}{}", spot(dice), spot(dice), pick(dice, &["", " if it makes run"])),
        7 => format!("flood from {} into {}{}", spot(dice), kind(dice), pick(dice, &["", " 8-way"])),
        8 => format!("choose {}", if dice.below(4) == 0 { "nothing".into() } else { spot(dice) }),
        _ => common(dice),
    }
}

fn actions(dice: &mut Dice) -> String {
    {
        let list = |dice: &mut Dice| (0..=dice.below(2)).map(|_| action(dice)).collect::<Vec<_>>().join(", ");
        let first = list(dice);
        if dice.below(3) == 0 { format!("{first} else {}", list(dice)) } else { first }
    }
}

fn random_rule(dice: &mut Dice) -> String {
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
