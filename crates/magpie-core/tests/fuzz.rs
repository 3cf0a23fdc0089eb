//! Every reader of the core on damaged input: whatever comes in, reading ends, places lie in the text, and what can be
//! played is played. `./test soak N` goes on for N seconds instead of three.
#![allow(clippy::unwrap_used)]

mod damage;

use damage::{Draws, damage, for_a_while, rulebooks};
use magpie_core::formula::{Names, parse_expression};
use magpie_core::input::parse_inputs;
use magpie_core::mishap::{Board, Numbers, Target, parse_samples};
use magpie_core::pace::parse_keys;
use magpie_core::rulebook::document::Analysis;
use magpie_core::rulebook::{format, highlight, read};
use magpie_core::space::{Extent, Geometry, parse_position};
use magpie_core::tape::{Session, Start};
use std::sync::Arc;

const INPUTS: &str = "right up act wait:700 alt tap:2,1 drag:1,1>2,1 left key:d undo wait:9000 restart down act next";

#[test]
fn fuzz_rulebooks() {
    let sources: Vec<Vec<u8>> = rulebooks().into_iter().map(String::into_bytes).collect();
    let inputs = parse_inputs(INPUTS).unwrap();
    let mut draws = Draws(11);
    let mut played = 0;
    let rounds = for_a_while("rulebooks", |_| {
        let source = &sources[draws.below(sources.len())];
        let bytes = damage(source, &mut draws, &sources);
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
            inputs.iter().for_each(|input| {
                session.give(input);
            });
            session.go(0);
            played += 1;
        }
        String::from_utf8_lossy(&bytes).into_owned()
    });
    assert!(rounds > 50 && played > 5, "{rounds} rounds, {played} played: the damage is too heavy to test anything");
}

/// Files of maps: every field is a kind, a glyph, a number or a mistake of the map.
#[test]
fn fuzz_map_files() {
    let book = "game \"Y\"\ncell 8 px\nkinds\n  keeper K body\n  plank . floor\n  mat m mark\nnumber 3 = keeper\nmap \"M\" from \"m.csv\"\n";
    let flat = book.replace("m.csv\"", "m.csv\" as 3 columns");
    let good: Vec<Vec<u8>> =
        ["K,.,m\n3,_,keeper\n", "K;plank+mat;\n.;.;.\n", "\"K\"\t3\n\t.\n", "3,3,3,K,K,K\n"].map(Into::into).into();
    let mut draws = Draws(5);
    let mut read_well = 0;
    for_a_while("map files", |round| {
        let bytes = damage(&good[draws.below(good.len())], &mut draws, &good);
        let source = if round % 2 == 0 { book } else { &flat };
        let reading = read(source.as_bytes(), &|_| Ok(bytes.clone()));
        if let Some(book) = &reading.rulebook {
            let cells = u64::from(book.maps[0].extent.columns) * u64::from(book.maps[0].extent.rows);
            assert!(cells > 0 && cells <= bytes.len() as u64 * bytes.len() as u64 + 1);
            read_well += 1;
        } else {
            assert!(!reading.diagnostics.is_empty());
        }
        String::from_utf8_lossy(&bytes).into_owned()
    });
    assert!(read_well > 10, "{read_well} files could be read");
}

/// The small readers: words and numbers as people type them. What is read well says so in the same words again.
#[test]
fn fuzz_words_and_numbers() {
    let good: Vec<Vec<u8>> = [
        "right up key:x tap:3,4 drag:1,2>3,4 wait:250 undo",
        "px:101,40",
        "win:-3.5,2e2",
        "cell:4,-2",
        "index:17",
        "floor((x - 12) / (w + gap)) % 3 + max(1, abs(y))",
        "index % columns * 2.5e-1 - min(x, y) // 3",
        "0 down right\n120 up right\n200 down left\n",
        "x,y,column,row\n10,20,1,2\n30.5,40,3,4\n",
        "10 20 -> 1 2\n30 40 -> 3 4\n",
    ]
    .map(|text| text.as_bytes().to_vec())
    .into();
    let numbers = Numbers::new(&Geometry::of_cells(24.0, 18.0), Extent { columns: 9, rows: 5 }, (0.0, 0.0));
    let names = Names::new(numbers, &[], false).unwrap();
    let mut draws = Draws(3);
    let board = Board { extent: Extent { columns: 8, rows: 6 }, first_index: 0 };
    let mut read_well = [0_usize; 5];
    for_a_while("words and numbers", |_| {
        let bytes = damage(&good[draws.below(good.len())], &mut draws, &good);
        let text = String::from_utf8_lossy(&bytes).into_owned();
        if let Ok(inputs) = parse_inputs(&text) {
            let again: Vec<String> = inputs.iter().map(ToString::to_string).collect();
            assert_eq!(parse_inputs(&again.join(" ")).as_ref(), Ok(&inputs));
            read_well[0] += 1;
        }
        read_well[1] += usize::from(parse_position(&text).is_ok());
        for target in [Target::Column, Target::Index] {
            read_well[2] += usize::from(parse_expression(&text, target, &names).is_ok());
        }
        read_well[3] += usize::from(parse_keys(&text).is_ok());
        read_well[4] += usize::from(parse_samples(&text, board, None).is_ok());
        text
    });
    assert!(read_well.iter().all(|count| *count > 0), "{read_well:?}");
}

/// What the editor asks of a text while it is typed: colours, names, what could stand at the cursor.
#[test]
fn fuzz_the_editor_s_questions() {
    let sources: Vec<Vec<u8>> = rulebooks().into_iter().map(String::into_bytes).collect();
    let mut draws = Draws(7);
    for_a_while("editor", |_| {
        let text =
            String::from_utf8_lossy(&damage(&sources[draws.below(sources.len())], &mut draws, &sources)).into_owned();
        let read = Analysis::new(text.clone(), &|_| Err("none".into()));
        assert!(
            read.painted().iter().all(|part| text.get(part.span.start..part.span.end).is_some()),
            "colours lie in the text"
        );
        let mut at = draws.below(text.len() + 1);
        while !text.is_char_boundary(at) {
            at -= 1;
        }
        assert!(highlight::word_before(&text, at) <= at);
        read.completions(at);
        read.declared();
        read.outline();
        read.word_at(at);
        read.clause_at(at);
        assert!(read.names().iter().all(|name| text.get(name.span.start..name.span.end).is_some()), "so do names");
        text
    });
}
