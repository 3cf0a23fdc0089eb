//! Drawings as golden files: `MAGPIE_BLESS=1 cargo test -p magpie-draw` writes them anew, to be looked at before a commit.
#![allow(clippy::unwrap_used)]

use crate::limits::MOST_SCENES;
use crate::sheet::clean;
use crate::{Curve, DrawError, Drawing, Scene, Written, board, meetings, pace, probe, proof, story};
use magpie_core::grid::{Grid, Nobody};
use magpie_core::pace::{Drive, Frames, Plan, Settings, TrackRun, notes, parse_keys, run};
use magpie_core::proof::{Alone, Ask, Inputs, Limits, prove};
use magpie_core::rulebook::{Rulebook, read_text};
use magpie_core::space::{Cell, Position, WindowPoint, convert};
use magpie_core::tape::{Session, Start};
use proptest::prelude::*;
use std::path::PathBuf;
use std::sync::Arc;

fn demo(name: &str) -> Arc<Rulebook> {
    let path = format!("{}/../../demos/{name}.magpie", env!("CARGO_MANIFEST_DIR"));
    let source = std::fs::read_to_string(path).unwrap();
    Arc::new(read_text(&source, &|_| Err("none".into())).rulebook.unwrap())
}

fn board_of(name: &str, map: usize, written: Written) -> Drawing {
    let book = demo(name);
    let session = Session::new(Start::map(book.clone(), map)).unwrap();
    board(&book, &book.maps[map].title, session.grid().board(), written).unwrap()
}

fn probe_of(name: &str, position: Position) -> Drawing {
    let book = demo(name);
    let extent = book.maps[0].extent;
    let found = convert(&book.geometry, extent, book.view.as_ref(), (0.0, 0.0), &|_| false, position).unwrap();
    probe("Probe", &book.geometry, extent, &found)
}

fn golden(name: &str, drawing: &Drawing) {
    let path = PathBuf::from(format!("{}/tests/golden/{name}.svg", env!("CARGO_MANIFEST_DIR")));
    if std::env::var_os("MAGPIE_BLESS").is_some() {
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(&path, drawing.svg()).unwrap();
    }
    let wanted = std::fs::read_to_string(&path).unwrap_or_default();
    assert!(wanted == drawing.svg(), "{name} is drawn differently: look at it, then bless it");
}

#[test]
fn boards_and_probes_are_drawn_as_before() {
    golden("kiosk", &board_of("kiosk", 0, Written::Index));
    golden("cog-loft", &board_of("cog-loft", 2, Written::Place));
    golden("kiosk-touch", &probe_of("kiosk", Position::Window(WindowPoint { x: 61.0, y: 140.0 })));
    golden("cog-loft-cell", &probe_of("cog-loft", Position::Cell(Cell::new(3, 2))));
}

#[test]
fn meetings_and_stories_are_drawn_as_before() {
    golden("cog-loft-meetings", &meetings(&demo("cog-loft")).unwrap());
    let book = demo("cog-loft");
    let mut session = Session::new(Start::map(book.clone(), 0)).unwrap();
    let scene = |session: &Session, input: &str, refused: bool| Scene {
        board: session.grid().board().clone(),
        input: input.into(),
        fact: format!("told <here> & in a line long enough to be broken: {input}"),
        refused,
    };
    let mut scenes = vec![scene(&session, "", false)];
    for input in ["right", "right", "up", "right"] {
        session.give(&input.parse().unwrap());
        scenes.push(scene(&session, input, session.grid().last_request().0 == Some(false)));
    }
    let drawn = story(&book, "Cog Loft", &scenes).unwrap();
    golden("cog-loft-story", &drawn);
    assert!(texts(&drawn).contains(&"4  right".to_owned()));
    let many = vec![scenes[0].clone(); MOST_SCENES + 1];
    assert!(matches!(story(&book, "Cog Loft", &many), Err(DrawError::TooLong(201, _))));
}

#[test]
fn a_proof_is_drawn_as_before() {
    let book = demo("cog-loft");
    let session = Session::new(Start::map(book.clone(), 4)).unwrap();
    let grid = session.grid();
    let found = prove(grid, None, &Inputs::all(grid), Ask::All, Limits::default(), &Alone);
    let words = ["351 states".to_owned(), "win 28 inputs".into()];
    let drawn = proof(&book, "The wrong bay", grid.board(), found.report(), &words).unwrap();
    golden("cog-loft-proof", &drawn);
    assert!(texts(&drawn).contains(&"34 inputs".to_owned()));
}

fn pace_of(clauses: &str, keys: Option<&str>) -> Drawing {
    let source = format!("game \"P\"\ncell 24 px\nkinds\n  ada A body\nmap \"M\"\n  A\npace\n  {clauses}\n");
    let book = read_text(&source, &|_| Err("none".into())).rulebook.unwrap();
    let movers = vec![("ada".to_owned(), Settings::of(&book.paces[0].settings))];
    let runs: Vec<(Frames, TrackRun)> = ["30", "144"]
        .into_iter()
        .map(|fps| {
            let keys = keys.map_or(Drive::Usual(3), |keys| Drive::Keys(parse_keys(keys).unwrap()));
            let plan = Plan { movers: movers.clone(), frames: Frames::rate(fps).unwrap(), keys, until: None };
            let run = run(&plan, &book.geometry, book.maps[0].extent, None).unwrap().remove(0);
            (plan.frames, run)
        })
        .collect();
    let told: Vec<Vec<String>> = runs.iter().map(|(frames, run)| notes(run, frames)).collect();
    let curves: Vec<Curve> = runs
        .iter()
        .zip(["30 fps", "144 fps"])
        .zip(&told)
        .map(|(((_, run), label), notes)| Curve { run, label, notes })
        .collect();
    pace("Pace", &curves, None).unwrap()
}

#[test]
fn charts_are_drawn_as_before_and_say_what_is_wrong() {
    golden("pace-held", &pace_of("timed 100 ms, ease-in-out, hold continuous", None));
    let never = pace_of("per-frame 5 px, test equal, hold continuous", None);
    golden("pace-never-lands", &never);
    assert!(texts(&never).iter().any(|text| text.starts_with("never lands: 5 px a frame does not divide 24")));
    let tapped = pace_of("timed 60 ms", Some("0:down 200:up"));
    assert!(texts(&tapped).contains(&"down".to_owned()), "presses are named under the chart");
}

#[test]
fn the_way_of_a_free_body_is_drawn_on_its_board() {
    let source = "game \"P\"\ncell 24 px\nkinds\n  cart C body copper\n  wall # body\nmap \"M\"\n  ___#\n  C___\n  ___#\npace\n  \
                  free 120 px/s, body 28 px\n";
    let book = Arc::new(read_text(source, &|_| Err("none".into())).rulebook.unwrap());
    let mut grid = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
    let board = grid.board().clone();
    let plan = Plan {
        movers: vec![("cart".into(), Settings::of(&book.paces[0].settings))],
        frames: Frames::rate("30").unwrap(),
        keys: Drive::Keys(parse_keys("0:right+ 900:right-").unwrap()),
        until: None,
    };
    let run = run(&plan, &book.geometry, board.extent(), Some(&mut grid)).unwrap().remove(0);
    let told = notes(&run, &plan.frames);
    let drawn = pace("Yard", &[Curve { run: &run, label: "30 fps", notes: &told }], Some((&book, &board))).unwrap();
    golden("pace-free", &drawn);
    let said = texts(&drawn).join("\n");
    assert!(said.contains("caught at") && said.contains("24 px for a body of 28"), "{said}");
}

/// Every text of a drawing, in its order.
fn texts(drawing: &Drawing) -> Vec<String> {
    let document = usvg::roxmltree::Document::parse(drawing.svg()).unwrap();
    let nodes = document.descendants().filter(|node| node.has_tag_name("text"));
    nodes.filter_map(|node| Some(node.text()?.trim().replace('\u{a0}', " "))).collect()
}

#[test]
fn a_board_says_its_numbers_and_its_kinds() {
    let found = texts(&board_of("kiosk", 0, Written::Index));
    for wanted in
        ["Morning post", "10 × 6 cells of 90 × 84 px, gap 10 × 16; origin 100, 700; rows from the bottom", "60"]
    {
        assert!(found.iter().any(|text| text == wanted), "{wanted}: {found:?}");
    }
    // Row 5 is at the top: its number comes before that of row 0, and index 1 after index 51.
    let at = |wanted: &str| found.iter().position(|text| text == wanted).unwrap();
    assert!(at("51") < at("1") || at("51") < found.iter().rposition(|text| text == "1").unwrap());
    assert_eq!(texts(&board_of("kiosk", 0, Written::Nothing)).iter().filter(|text| *text == "51").count(), 0);
    let touch = texts(&probe_of("kiosk", Position::Window(WindowPoint { x: 61.0, y: 140.0 })));
    assert!(touch.contains(&"column = floor(104 / 100) = floor(1.04) = 1".to_owned()));
    assert_eq!(touch.iter().filter(|text| text.ends_with(" gap")).count(), 7, "{touch:?}");
}

#[test]
fn too_large_a_board_is_refused() {
    let source = "game \"Wide\"\ncell 8 px\nkinds\n  tin t body\nmap \"W\" 201 x 200 of tin\n";
    let book = Arc::new(read_text(source, &|_| Err("none".into())).rulebook.unwrap());
    let session = Session::new(Start::map(book.clone(), 0)).unwrap();
    let drawn = board(&book, "W", session.grid().board(), Written::Index);
    assert_eq!(drawn.unwrap_err(), DrawError::TooLarge(40_200));
}

#[test]
#[cfg(feature = "pdf")]
fn a_pdf_has_its_text_as_text_and_the_same_bytes_every_time() {
    let drawing = board_of("cog-loft", 0, Written::Place);
    let pdf = drawing.pdf().unwrap();
    assert!(pdf.starts_with(b"%PDF") && pdf == drawing.pdf().unwrap());
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("board.pdf");
    std::fs::write(&path, &pdf).unwrap();
    let told = std::process::Command::new("pdftotext").arg("-layout").arg(&path).arg("-").output();
    let told = told.expect("pdftotext of poppler-utils, which ./test installs or names");
    let text = String::from_utf8(told.stdout).unwrap().replace('\u{a0}', " ");
    for wanted in ["First loft", "10 × 5 cells of 40 × 40 px; origin 0, 0; rows from the top", "apprentice", "8,1"] {
        assert!(text.contains(wanted), "{wanted}: {text}");
    }
}

proptest! {
    #[test]
    fn any_text_can_be_drawn(text in any::<String>()) {
        let mut sheet = crate::sheet::Sheet::new(&text, 100.0, 50.0);
        let look = crate::sheet::Type::new(10.0, (0, 0, 0));
        sheet.text((5.0, 20.0), crate::sheet::Anchor::Start, look, &text);
        let drawing = sheet.finish();
        let parsed = usvg::roxmltree::Document::parse(drawing.svg());
        prop_assert!(parsed.is_ok(), "{}", drawing.svg());
        if !text.is_empty() {
            prop_assert_eq!(texts(&drawing), [clean(&text).replace('\u{a0}', " ").trim().to_owned()]);
        }
    }
}

/// A rulebook with all its kinds on one map of these characters.
fn yard(map: &[String], size: (u32, u32), rows: &str) -> Arc<Rulebook> {
    let lines: Vec<String> = map.iter().map(|line| format!("  {line}\n")).collect();
    let source = format!(
        "game \"Yard\"\ncell {} x {} px\nrows from {rows}\nkinds\n  plank . floor ash\n  mat m mark sky\n  ada A body amber, facing east\n  \
         crate c body \"#8a6d3b\"\nground plank\nmap \"One\"\n{}",
        size.0,
        size.1,
        lines.concat()
    );
    let reading = read_text(&source, &|_| Err("none".into()));
    assert!(!reading.has_errors(), "{:?}\n{source}", reading.diagnostics);
    Arc::new(reading.rulebook.unwrap())
}

fn attribute(node: usvg::roxmltree::Node, name: &str) -> f64 {
    node.attribute(name).and_then(|value| value.parse().ok()).unwrap_or(0.0)
}

fn maps() -> impl Strategy<Value = Vec<String>> {
    let glyph = prop::sample::select(vec!['.', '.', 'm', 'A', 'c', ' ']);
    (1..9_usize, 1..7_usize)
        .prop_flat_map(move |(columns, rows)| {
            let line =
                prop::collection::vec(glyph.clone(), columns).prop_map(|line| line.into_iter().collect::<String>());
            prop::collection::vec(line, rows)
        })
        .prop_map(|mut lines| {
            // A drawing keeps what stands between its first and last characters.
            for line in &mut lines {
                let columns = line.chars().count();
                line.replace_range(0..1, ".");
                line.replace_range(columns - 1..columns, ".");
            }
            lines
        })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 80, ..ProptestConfig::default() })]

    /// Whatever stands on a board: the drawing is well formed, lies on its sheet, has every cell once and names every kind.
    #[test]
    fn any_board_lies_on_its_sheet_with_every_cell_and_kind(
        map in maps(), size in (1..60_u32, 1..60_u32), rows in prop::sample::select(vec!["top", "bottom"]),
        written in prop::sample::select(vec![Written::Index, Written::Place, Written::Nothing]),
    ) {
        let book = yard(&map, size, rows);
        let session = Session::new(Start::map(book.clone(), 0)).unwrap();
        let drawing = board(&book, "One", session.grid().board(), written).unwrap();
        let again = board(&book, "One", session.grid().board(), written).unwrap();
        prop_assert_eq!(drawing.svg(), again.svg());
        let document = usvg::roxmltree::Document::parse(drawing.svg()).unwrap();
        let sheet: Vec<f64> = document.root_element().attribute("viewBox").unwrap()
            .split_whitespace().map(|number| number.parse().unwrap()).collect();
        for node in document.descendants().filter(usvg::roxmltree::Node::is_element) {
            let (x, y) = (attribute(node, "x"), attribute(node, "y"));
            let (right, down) = (x + attribute(node, "width"), y + attribute(node, "height"));
            if node.has_tag_name("rect") || node.has_tag_name("text") {
                prop_assert!(x >= 0.0 && y >= 0.0 && right <= sheet[2] + 0.5 && down <= sheet[3] + 0.5, "{:?} of {:?}", node, sheet);
            }
        }
        let told = texts(&drawing);
        let glyphs: String = map.concat();
        for (glyph, name) in [('m', "mat"), ('A', "ada"), ('c', "crate")] {
            let named = told.iter().any(|text| text.contains(name));
            prop_assert_eq!(named, glyphs.contains(glyph), "{} among {:?}", name, told);
        }
        // In a cell that is much narrower than high there is no room for two digits.
        if written == Written::Index && size.0 >= size.1 {
            let (columns, lines) = (map[0].chars().count(), map.len());
            for index in 0..columns * lines {
                let line = if rows == "top" { index / columns } else { lines - 1 - index / columns };
                let void = map[line].chars().nth(index % columns) == Some(' ');
                prop_assert!(void || told.contains(&index.to_string()), "index {} among {:?}", index, told);
            }
        }
    }
}
