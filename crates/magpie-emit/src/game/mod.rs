//! The game of a rulebook as a tree: the parts it uses and its rules, in one small language, are read into methods; what
//! nothing calls is left out.

mod acts;
mod cover;
mod features;
mod maps;
mod reader;
mod rules;
mod tidy;
mod whens;
mod words;

pub use cover::{Uncovered, covered};
pub use maps::letter;

use crate::names;
use crate::tree::{Expr, Game, List, Method, Name, Stmt, Type, Values};
use magpie_core::Rulebook;
use magpie_core::space::Heading;
use std::collections::{BTreeMap, BTreeSet};
use words::Writer;

const PARTS: [&str; 5] = [
    include_str!("parts/turns.txt"),
    include_str!("parts/lines.txt"),
    include_str!("parts/trails.txt"),
    include_str!("parts/request.txt"),
    include_str!("parts/board.txt"),
];

/// What is called from outside the tree: by everybody, or by what each language writes by itself.
const CALLED: [&str; 6] = ["input", "begin_game", "ask_for", "list_pieces", "letter_of", "broken_promise"];

/// What each language writes by itself.
const GIVEN: [&str; 2] = ["draw_below", "begin_draws"];

// `drawing_columns` and `drawing_rows` are written by each language too, and only ask.

/// The game of a rulebook whose statements are all covered. `counters` are the names of its counters' fields.
pub fn game(book: &Rulebook, source: &str, map: usize, counters: &[Name], left_out: Vec<String>) -> Game {
    let mut writer = Writer::new(
        book,
        source,
        names::kinds(book),
        // A name that nothing in the parts has; each gets its own back when the words are read.
        (0..counters.len()).map(|number| format!("counter__{number}")).collect(),
        features::of(book),
    );
    writer.meeting_tables();
    writer.inputs();
    writer.ends();
    writer.whens();
    writer.meetings();
    writer.do_spawns();
    let drawn = maps::write(&mut writer);
    let mut text = String::new();
    text.push_str(&reader::kept(PARTS[0], &writer.features));
    text.push_str(&writer.methods);
    for part in &PARTS[1..] {
        text.push_str(&reader::kept(part, &writer.features));
    }
    let parts = reader::read(&text, counters);
    let mut methods = parts.methods;
    tidy::known(&mut methods);
    let mut methods = used(methods, !book.invariants.is_empty());
    mark_changes(&mut methods);
    tidy::unread(&mut methods);
    let (mut words, mut calls) = (BTreeSet::new(), BTreeSet::new());
    for method in &methods {
        names_in(method, &mut words, &mut calls);
    }
    if calls.contains("drawing_columns") {
        words.extend(["MAP_COLUMNS".to_owned(), "MAP_ROWS".to_owned()]);
    }
    let is_drawn = calls.contains("draw_below") || calls.contains("begin_draws");
    let public = ["map", "turns", "moves", "outcome", "signals"];
    let mut fields = parts.fields;
    fields.retain(|field| {
        let always = public.contains(&&*field.name) || (field.doc.is_some() && field.name == "chosen");
        always || words.contains(&*field.name)
    });
    let constants = constants(&writer, book, &words);
    let mut tables = tables(&writer, book);
    tables.retain(|(name, _)| words.contains(&**name));
    let cells = book.maps.iter().map(|map| map.extent.cells()).max().unwrap_or(1) as usize;
    let cells = cells.max(maps::OWN_CELLS);
    Game {
        constants,
        tables,
        drawings: drawn.drawings,
        fields,
        methods,
        counters: counters.iter().cloned().zip(book.counters.iter().map(|counter| counter.name.clone())).collect(),
        seed: is_drawn.then_some(book.seed),
        chooses: writer.has("chosen"),
        promises: book.invariants.iter().map(|rule| rule.at.text.clone()).collect(),
        map: map + 1,
        layers: book.layers.len(),
        most_cells: cells,
        board_bytes: drawn.bytes,
        left_out,
        from_top: book.geometry.rows == magpie_core::space::RowsFrom::Top,
    }
}

/// The methods that something calls.
fn used(methods: Vec<Method>, promises: bool) -> Vec<Method> {
    let by_name: BTreeMap<&str, &Method> = methods.iter().map(|method| (&*method.name, method)).collect();
    let mut open: Vec<&str> = CALLED.to_vec();
    open.retain(|name| promises || *name != "broken_promise");
    let mut found: BTreeSet<String> = BTreeSet::new();
    while let Some(name) = open.pop() {
        let Some(method) = by_name.get(name) else { continue };
        if !found.insert(name.to_owned()) {
            continue;
        }
        Stmt::each(&method.body, &mut |value| {
            if let Expr::Call(name, _) = value {
                match by_name.get_key_value(&**name) {
                    Some((name, _)) => open.push(name),
                    None => debug_assert!(name.starts_with("draw") || name == "begin_draws", "`{name}` is no method"),
                }
            }
        });
    }
    let mut methods = methods;
    methods.retain(|method| found.contains(&*method.name));
    methods
}

/// The fields, constants and tables that a method names, and what it calls.
fn names_in(method: &Method, words: &mut BTreeSet<String>, calls: &mut BTreeSet<String>) {
    let list = |list: &List, words: &mut BTreeSet<String>| {
        if let List::Own(name) = list {
            words.insert(name.to_string());
        }
    };
    Stmt::every(&method.body, &mut |statement| match statement {
        Stmt::Push(of, _) | Stmt::Clear(of) | Stmt::Sort(of) => list(of, words),
        _ => {}
    });
    Stmt::each(&method.body, &mut |value| match value {
        Expr::Own(name) | Expr::Const(name) | Expr::Kept(_, name) => {
            words.insert(name.to_string());
        }
        Expr::Item(of, _) | Expr::Length(of) | Expr::Pop(of) | Expr::Pass(of, _) => list(of, words),
        Expr::Call(name, _) => {
            calls.insert(name.to_string());
        }
        _ => {}
    });
}

/// Whether a method changes the game by itself.
fn changes_itself(method: &Method) -> bool {
    let mut changes = false;
    let own = |value: &Expr| match value {
        Expr::Own(_) | Expr::Item(List::Own(_), _) => true,
        Expr::At(array, _) => matches!(&**array, Expr::Own(_)),
        _ => false,
    };
    Stmt::every(&method.body, &mut |statement| {
        changes |= match statement {
            Stmt::Assign(target, _) | Stmt::Fill(target, _, _) => own(target),
            Stmt::Push(List::Own(_), _)
            | Stmt::Clear(List::Own(_))
            | Stmt::Sort(List::Own(_))
            | Stmt::Tell(_)
            | Stmt::TellNothing
            | Stmt::Restore(_) => true,
            _ => false,
        };
    });
    Stmt::each(&method.body, &mut |value| {
        changes |= match value {
            Expr::Pop(List::Own(_)) => true,
            Expr::Call(name, _) => GIVEN.contains(&&**name),
            _ => false,
        };
    });
    changes
}

/// Notes which methods change the game.
fn mark_changes(methods: &mut [Method]) {
    for method in methods.iter_mut() {
        method.changes = changes_itself(method);
        method.is_public = method.name == "input";
    }
    loop {
        let changing: BTreeSet<String> =
            methods.iter().filter(|method| method.changes).map(|method| method.name.to_string()).collect();
        let mut more = false;
        for method in methods.iter_mut().filter(|method| !method.changes) {
            let mut calls = false;
            Stmt::each(&method.body, &mut |value| {
                calls |= matches!(value, Expr::Call(name, _) if changing.contains(&**name));
            });
            method.changes = calls;
            more |= calls;
        }
        if !more {
            return;
        }
    }
}

fn constants(writer: &Writer, book: &Rulebook, words: &BTreeSet<String>) -> Vec<(Name, i64)> {
    let mut all: Vec<(String, i64)> = Vec::new();
    all.extend(
        writer.kinds.iter().enumerate().map(|(at, kind)| (format!("KIND_{}", kind.name.to_uppercase()), at as i64)),
    );
    all.extend(Heading::ALL.iter().enumerate().map(|(at, heading)| (words::heading(*heading), at as i64)));
    all.extend(rules::VERBS.iter().map(|(name, value)| ((*name).to_owned(), *value)));
    all.push(("WARP".into(), 100));
    let checks = ["EDGE", "VOID", "MEETS", "CORNER", "LIMIT", "ROOM"];
    all.extend(checks.iter().enumerate().map(|(at, name)| (format!("CHECK_{name}"), at as i64)));
    all.extend([("BY_RESTART", 1), ("BY_NEXT", 2), ("BY_NEVER", 3)].map(|(name, value)| (name.to_owned(), value)));
    let mut keys: Vec<String> = rules::KEYS.iter().map(|name| format!("KEY_{name}")).collect();
    keys.extend(words.iter().filter(|word| word.starts_with("KEY_")).cloned());
    let mut seen = BTreeSet::new();
    keys.retain(|key| seen.insert(key.clone()));
    all.extend(keys.into_iter().enumerate().map(|(at, name)| (name, at as i64)));
    all.extend([
        ("LAYERS".to_owned(), book.layers.len() as i64),
        ("KINDS".to_owned(), book.kinds.len() as i64),
        ("MAP_COUNT".to_owned(), book.maps.len() as i64),
        ("TRAILS".to_owned(), book.trails.len() as i64),
        ("SOUTH_ROWS".to_owned(), book.geometry.south()),
        ("GROUND".to_owned(), book.ground.map_or(-1, |kind| i64::from(kind.0))),
    ]);
    // The numbers of a module's own fields are needed by every language.
    all.retain(|(name, _)| words.contains(name) || ["LAYERS", "KINDS"].contains(&name.as_str()));
    all.into_iter().map(|(name, value)| (name.into(), value)).collect()
}

fn tables(writer: &Writer, book: &Rulebook) -> Vec<(Name, Values)> {
    let numbers = |name: &str, values: Vec<i64>| (Name::from(name.to_owned()), Values::Numbers(values));
    let south = book.geometry.south();
    let steps: Vec<(i64, i64)> = Heading::ALL.iter().map(|heading| heading.screen_step()).collect();
    let place = |wanted: Heading| Heading::CLOCKWISE.iter().position(|heading| *heading == wanted).unwrap_or(0) as i64;
    let mut found = vec![
        numbers("LAYER_OF", book.kinds.iter().map(|kind| kind.layer.into()).collect()),
        numbers("FACING", book.kinds.iter().map(|kind| kind.facing.map_or(-1, |facing| facing as i64)).collect()),
        numbers("STEP_X", steps.iter().map(|step| step.0).collect()),
        numbers("STEP_Y", steps.iter().map(|step| step.1 * south).collect()),
        numbers("CLOCKWISE", Heading::CLOCKWISE.iter().map(|heading| *heading as i64).collect()),
        numbers("PLACE_OF", Heading::ALL.iter().map(|heading| place(*heading)).collect()),
        numbers("MAP_COLUMNS", book.maps.iter().map(|map| map.extent.columns.into()).collect()),
        numbers("MAP_ROWS", book.maps.iter().map(|map| map.extent.rows.into()).collect()),
        numbers("TRAIL_HEAD", book.trails.iter().map(|trail| trail.head.0.into()).collect()),
        numbers("TRAIL_LEAVES", book.trails.iter().map(|trail| trail.leaves.0.into()).collect()),
        numbers("TRAIL_LONG", book.trails.iter().map(|trail| trail.long.into()).collect()),
        numbers("TRAIL_TAIL_LAST", book.trails.iter().map(|trail| trail.tail_last.into()).collect()),
        ("GLYPH_OF".into(), Values::Texts(book.kinds.iter().map(|kind| kind.glyph.to_string()).collect())),
    ];
    found.extend(writer.tables.iter().map(|(name, values)| numbers(name, values.clone())));
    found
}

/// Parameters that a method does not use.
pub fn unused_params(method: &Method) -> Vec<&Name> {
    let mut words = BTreeSet::new();
    let mut note = |list: &List| {
        if let List::Param(name) = list {
            words.insert(name.to_string());
        }
    };
    Stmt::every(&method.body, &mut |statement| match statement {
        Stmt::Push(of, _) | Stmt::Clear(of) | Stmt::Sort(of) | Stmt::FillList(of, _, _) => note(of),
        _ => {}
    });
    let mut seen: Vec<String> = Vec::new();
    Stmt::each(&method.body, &mut |value| match value {
        Expr::Var(name) | Expr::Kept(name, _) => seen.push(name.to_string()),
        Expr::Item(of, _) | Expr::Length(of) | Expr::Pop(of) | Expr::Pass(of, _) => note(of),
        _ => {}
    });
    words.extend(seen);
    method
        .params
        .iter()
        .filter(|(name, of)| *of != Type::Nothing && !words.contains(&**name))
        .map(|(name, _)| name)
        .collect()
}
