//! Mistakes at their places, the layout of `fmt`, and hostile input.

use super::{KindId, KindSet, LineIndex, Reading, Severity, format, read, read_text};
use proptest::prelude::*;

fn no_files(_: &str) -> Result<Vec<u8>, String> {
    Err("no file".into())
}

fn reading(source: &str) -> Reading {
    read_text(source, &no_files)
}

/// What is found, as `code words`, in the order of places.
fn found(source: &str) -> Vec<String> {
    let reading = reading(source);
    let words = |found: &super::Diagnostic| {
        format!("{} {}", found.code.word(), &reading.source[found.span.start..found.span.end])
    };
    reading.diagnostics.iter().map(words).collect()
}

/// Takes the marks `«` and `»` out of a source; gives what stood between each pair, with its first byte.
fn marked(source: &str) -> (String, Vec<(usize, String)>) {
    let mut plain = String::new();
    let mut marks = Vec::new();
    for (number, part) in source.split(['«', '»']).enumerate() {
        if number % 2 == 1 {
            marks.push((plain.len(), part.to_owned()));
        }
        plain.push_str(part);
    }
    (plain, marks)
}

const HEAD: &str = "game \"Yard\"\ncell 10 px\nkinds\n  plank . floor\n  wall # body\n  man M body\n  box c body\n  rope r mark\n\
                    group goods = box, wall\nmap \"One\"\n  M.c#\n  .r..\ncontrol man with arrows\n";

/// A mistake of every code at its words: the codes in order, and a source with the words marked. `@` stands for [`HEAD`].
const MISTAKES: &[(&str, &str)] = &[
    ("syntax", "@rules\n  man into box «pass»\n"),
    ("syntax", "@rules\n  man into«»\n"),
    ("syntax", "@«rulse»\n  man into box: shove\n"),
    ("syntax", "@rules\n  man into box: «shov»\n"),
    ("syntax", "@rules\n  on key act: step man east ,«,»\n"),
    ("syntax", "@origin 4 «px»\n"),
    ("unknown-unit", "@gap 4 «mm»\n"),
    ("unknown-unit", "@timer beat 500 «seconds»\n"),
    ("bad-character", "@// a bell «\u{7}» and another \u{7}\n"),
    ("bad-character", "@map \"Two\"\n  M.«\t».\n"),
    ("bad-word", "@gap «4px»\n"),
    ("bad-word", "@rules\n  «Man» into box: shove\n"),
    ("bad-word", "@gap «.5» px\n"),
    ("bad-word", "@gap «1e3» px\n"),
    ("bad-word", "@rules\n  on key «\"Q\"»: step man east\n"),
    ("unclosed-text", "@map «\"Two»\n  M\n"),
    ("bad-glyph", "@kinds\n  cog «cc» body\n"),
    ("bad-glyph", "@kinds\n  cog «_» body\n"),
    ("bad-glyph", "@kinds\n  cog «漢» body\n"),
    ("indentation", "@rules\n    man into box: shove\n  «box» into box: stop\n"),
    ("indentation", "  «game» \"G\"\ncell 10 px\nkinds\n  a A body\nmap \"M\"\n  A\n"),
    ("reserved-word", "@counter «count» = 4\n"),
    ("reserved-word", "@kinds\n  «edge» e body\n"),
    ("game-first", "«cell» 10 px\ngame \"Late\"\nkinds\n  a A body\nmap \"M\"\n  A\n"),
    ("game-first missing-section missing-section missing-section", "«»«»«»«»"),
    ("missing-section", "«game» \"Yard\"\nkinds\n  a A body\nmap \"M\"\n  A\n"),
    ("missing-section", "@«view»\n  fit integer\n"),
    ("repeated-section", "@«cell» 20 px\n"),
    ("repeated-section", "@view\n  window 40 x 20 px\n  «window» 40 px\n"),
    ("repeated-section", "@pace\n  timed 4 ms\n«pace»\n  instant\n"),
    ("repeated-section", "@pace\n  timed 4 ms, «instant»\n"),
    ("repeated-section", "@kinds\n  cat k body, facing east, «facing» west\nmap \"Two\"\n  k\n"),
    ("repeated-name", "@kinds\n  «box» b body\n"),
    ("repeated-name", "@map «\"One\"»\n  M\n"),
    ("repeated-name", "@counter sum\ncounter «sum»\nrules\n  on start: add 1 to sum\n"),
    ("repeated-name", "@timer «turn» 4 ms\n"),
    ("repeated-name", "@number 3 = box\nnumber «3» = wall\n"),
    ("repeated-glyph", "@kinds\n  cat «#» floor\nmap \"Two\" 2 x 2 of cat\n"),
    ("repeated-glyph", "@glyph «M» = man, rope\n"),
    ("unknown-name", "@rules\n  man into «bxo»: shove\n"),
    ("unknown-name", "@rules\n  win when «sum» > 1\n"),
    ("unknown-name", "@kinds\n  cat k «bodi»\nmap \"Two\"\n  k\n"),
    ("unknown-name", "@kinds\n  cat k body «tael»\nmap \"Two\"\n  k\n"),
    ("unknown-name", "@scenario \"S\"\n  map «\"Oen\"»\n  expect unfinished\n"),
    ("unknown-name unknown-name", "@rules\n  «mna» into «bxo»: shove\n"),
    ("wrong-name", "@rules\n  on start: place «goods» at random empty\n"),
    ("wrong-name", "@rules\n  on start: set «turns» to 4\n"),
    ("wrong-name wrong-name", "@group one = «two»\ngroup two = «one»\n"),
    ("unknown-glyph", "@map \"Two\"\n  M«?»?.\n"),
    ("drawing-missing", "@map \"Two\"«»\n"),
    ("drawing-missing", "@scenario \"S\"\n  expect«»\n"),
    ("bad-colour", "@kinds\n  cat k body «\"#12345\"»\nmap \"Two\"\n  k\n"),
    ("cell-size", "game \"G\"\ncell «0» px\nkinds\n  a A body\nmap \"M\"\n  A\n"),
    ("negative-gap", "@gap 2 x «-1» px\n"),
    ("out-of-range", "@seed «18446744073709551616»\n"),
    ("out-of-range", "@hotspot 0, «2000000000» px\n"),
    ("out-of-range", "@gap «1/0» px\n"),
    ("out-of-range", "@map \"Two\" «0» x 4 of box\n"),
    ("out-of-range", "@map \"Two\" 4 x 4 of box, «100» % of wall\n"),
    ("out-of-range", "@rules\n  man into box: shove up to «0»\n"),
    ("map-too-large", "@map \"Two\" «2049» x 2048 of box\n"),
    ("layer-clash", "@ground «rope»\n"),
    ("layer-clash", "@glyph & = man, «box»\n"),
    ("layer-clash", "@rules\n  when man on rope: become «rope»\n"),
    ("layer-clash", "@rules\n  on key act: turn box into «plank»\n"),
    ("pass-same-layer", "@rules\n  man into goods: «pass»\n"),
    ("pass-same-layer", "@rules\n  man into rope: «swap»\n"),
    ("pass-same-layer", "@rules\n  man into box: shove else «pass»\n"),
    ("verb-not-here", "@rules\n  man into edge: «take»\n"),
    ("verb-not-here", "@rules\n  man into void: «wrap»\n"),
    ("verb-not-here", "@rules\n  man into box: «wrap»\n"),
    ("misplaced-word", "@rules\n  on key act: place box at «tapped»\n"),
    ("misplaced-word", "@rules\n  when man on rope: «clear»\n"),
    ("misplaced-word", "@rules\n  win when count man «here» > 0\n"),
    ("misplaced-word", "@rules\n  when row full of box: «drop» above\n"),
    ("misplaced-word", "@rules\n  on key act if «heading» east: step man east\n"),
    ("not-in-match", "@rules\n  man into rope: take, remove «box»\n"),
    ("rows-do-not-fit", "@scenario \"S\"\n  expect\n    «M.c»\n    ...\n"),
    ("shape-not-connected", "@shapes of box\n  «pair»\n    X.X\n"),
    ("map-file", "game \"G\"\ncell 4 px\nkinds\n  a A body\nmap \"M\" from «\"none.csv\"»\n"),
    ("map-file", "@map \"Two\" from «\"none.csv\"»\n"),
    ("unreachable-clause", "@rules\n  man into goods: shove\n  «man» into box: take\n"),
    ("kind-never-made", "@kinds\n  «ghost» g body\n"),
    ("never-lands", "@pace\n  per-frame «3» px, test equal\n"),
    ("ragged-window", "@view\n  window «44» x 20 px\n"),
    ("feeds-itself", "@rules\n  «when» man on rope: add 1 to sum\n"),
    ("counter-never-set", "@counter sum\nrules\n  win when «sum» > 1\n"),
    ("never-together", "@rules\n  win when count man «on» box > 0\n"),
    ("flood-under", "@rules\n  on key act: flood from the man into «rope»\n"),
    ("button-place", "@view\n  window 100 x 100 px\n  «button» left at 200, 0 size 10 x 10 px\n"),
    ("ragged-drawing", "@board 4 x 2\nmap \"Two\"\n  «M..»\n  ...\n"),
    ("never-reached", "@map \"Two\"\n  M#«.»\n"),
];

/// The first version warned of every window that is no whole number of cells, one far larger than its board too.
#[test]
fn a_window_is_ragged_where_it_is_nearly_a_board() {
    let ragged = |lines: &str| found(&format!("{HEAD}{lines}")).iter().any(|line| line.starts_with("ragged-window"));
    let window = |size: &str| ragged(&format!("view\n  window {size} px\n"));
    for (size, wanted) in [
        ("40 x 20", false),
        ("44 x 20", true),
        ("40 x 14", true),
        ("50 x 20", false),
        ("25 x 20", false),
        ("405 x 233", false),
    ] {
        assert_eq!(window(size), wanted, "{size} over 4 x 2 cells of 10 px");
    }
    for (size, wanted) in [("48 x 24", false), ("46 x 22", false), ("47 x 22", true)] {
        assert_eq!(ragged(&format!("gap 2 px\nview\n  window {size} px\n")), wanted, "{size} with gaps of 2 px");
    }
    assert!(
        !ragged("view\n  window 95 x 55 px\n  design 80 x 40 px\n  zoom 2\n"),
        "the picture counts, not the window"
    );
    assert!(ragged("view\n  window 80 x 40 px\n  design 82 x 40 px\n  zoom 2\n"));
}

/// The first version counted layers in eight bits, and counters and timers without end.
#[test]
fn too_many_of_anything_is_told_at_the_first_one_too_many() {
    let words = |count: usize, word: &str| (0..count).map(|n| format!("{word}{n}")).collect::<Vec<_>>();
    let layers = |count: usize| {
        HEAD.replace("kinds\n", &format!("layers floor, mark, body, {}\nkinds\n", words(count, "l").join(", ")))
    };
    assert_eq!(found(&layers(252)), [""; 0], "255 layers are all there may be");
    assert_eq!(found(&layers(253)), ["too-many l252"]);
    assert_eq!(found(&layers(300)), ["too-many l252"], "said once");
    let message = reading(&layers(300)).diagnostics[0].message.clone();
    assert!(message.contains("255"), "{message}");
    let each = |count: usize, word: &str, tail: &str| {
        words(count, "n").iter().map(|name| format!("{word} {name}{tail}\n")).collect::<Vec<_>>().concat()
    };
    let counters = format!("{HEAD}{}", each(65_536, "counter", ""));
    assert_eq!(found(&counters), ["too-many n65535"]);
    let made: Vec<String> = words(65_536, "n").iter().map(|name| format!("add 1 to {name}")).collect();
    let made = made.chunks(50).map(|some| format!("  on key act: {}\n", some.join(", "))).collect::<Vec<_>>().concat();
    assert_eq!(found(&format!("{HEAD}rules\n{made}")), ["too-many n65535"], "made by rules they count too");
    let wide = format!("{}map \"Wide\" 2048 x 2048 of plank\n", layers(13));
    assert_eq!(found(&wide), [""; 0]);
    let wide = format!("{}map \"Wide\" 2048 x 2048 of plank\n", layers(14));
    assert_eq!(found(&wide), ["too-many \"Wide\""]);
}

/// The first version let counters that lie 256 places apart share bits: one up and one down was no change.
#[test]
fn counters_far_apart_are_told_apart() {
    let names = (0..300).map(|n| format!("counter n{n}\n")).collect::<Vec<_>>().concat();
    let source = format!(
        "{HEAD}{names}rules\n  on key act: set n0 to 7\n  when man if n256 = 7: set n1 to 5\n  \
         when man if n0 = 7: set n0 to 0, set n256 to 7\n"
    );
    let book = std::sync::Arc::new(reading(&source).rulebook.unwrap());
    let mut session = crate::tape::Session::new(crate::tape::Start::map(book, 0)).unwrap();
    session.give(&"act".parse().unwrap());
    let values: Vec<i64> = session.grid().counters().map(|(_, value)| value).collect();
    assert_eq!((values[0], values[256], values[1]), (0, 7, 5), "the settling went on after the exchange");
}

fn deep_rule() -> String {
    format!("  win when {}«(»count man > 0{}", "(".repeat(64), ")".repeat(65))
}

#[test]
fn every_mistake_is_told_at_its_words() {
    let deep = format!("@rules\n{}\n", deep_rule());
    let table = MISTAKES.iter().copied().chain([("too-deep", deep.as_str())]);
    let wrong: Vec<String> = table.filter_map(|(codes, source)| mismatch(codes, &source.replace('@', HEAD))).collect();
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn files_full_of_mistakes_are_told_whole() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/rulebooks/invalid");
    let mut wrong = Vec::new();
    let mut files = 0;
    for entry in std::fs::read_dir(folder).unwrap() {
        let text = std::fs::read_to_string(entry.unwrap().path()).unwrap();
        let (codes, source) = text.split_once('\n').unwrap();
        wrong.extend(mismatch(codes, source));
        files += 1;
    }
    assert!(wrong.is_empty() && files >= 3, "{}", wrong.join("\n"));
}

/// What is found in a source with marked words that is not the codes expected there.
fn mismatch(codes: &str, source: &str) -> Option<String> {
    let (source, marks) = marked(source);
    let expected: Vec<(String, usize)> =
        codes.split(' ').zip(&marks).map(|(code, (at, words))| (format!("{code} {words}"), *at)).collect();
    let reading = reading(&source);
    let starts: Vec<usize> = reading.diagnostics.iter().map(|found| found.span.start).collect();
    let got: Vec<(String, usize)> = found(&source).into_iter().zip(starts).collect();
    let errors = reading.diagnostics.iter().any(|found| found.code.severity() == Severity::Error);
    assert_eq!(reading.rulebook.is_none(), errors, "in\n{source}");
    (got != expected).then(|| format!("{got:?} for {expected:?} in\n{source}"))
}

proptest! {
    #[test]
    fn a_set_of_kinds_is_a_set(kinds in prop::collection::btree_set(0u16..400, 0..40), others in prop::collection::btree_set(0u16..400, 0..40)) {
        let set = |kinds: &std::collections::BTreeSet<u16>| KindSet::new("s", kinds.iter().map(|kind| KindId(*kind)));
        let (one, other) = (set(&kinds), set(&others));
        prop_assert_eq!(one.iter().map(|kind| kind.0).collect::<Vec<_>>(), kinds.iter().copied().collect::<Vec<_>>());
        prop_assert!((0..500).all(|kind| one.contains(KindId(kind)) == kinds.contains(&kind)));
        prop_assert_eq!(one.meets(&other), !kinds.is_disjoint(&others));
    }

    #[test]
    fn lines_and_columns_are_those_of_counting(source in "[a-zé漢\\n ]{0,60}", at in 0usize..80) {
        let at = (0..=at.min(source.len())).rev().find(|at| source.is_char_boundary(*at)).unwrap();
        let before = &source[..at];
        let place = LineIndex::new(&source).place(&source, at);
        prop_assert_eq!(place.line, before.matches('\n').count() + 1);
        prop_assert_eq!(place.column, before.rsplit('\n').next().unwrap().chars().count() + 1);
    }
}

#[test]
fn numbers_are_exact_as_written() {
    use super::syntax::Num;
    let ratio = |text: &str| {
        let num = Num { text: text.into(), value: 0.0, span: super::Span::default() };
        super::Ratio::of(&num).map(|ratio| (ratio.above, ratio.below))
    };
    assert_eq!(ratio("12.50"), Some((1250, 100)));
    assert_eq!(ratio("-3"), Some((-3, 1)));
    assert_eq!(ratio("400/12"), Some((400, 12)));
    assert_eq!(ratio("1.5/-0.25"), Some((-1500, 250)));
    assert_eq!(ratio("1/0"), None);
    assert_eq!(ratio("1.0000000000000000001"), None, "more digits than are kept exactly");
}

#[test]
fn reserved_words_are_sorted() {
    assert!(super::RESERVED.is_sorted());
}

#[test]
fn guesses_name_what_was_meant() {
    let table = [
        ("@rules\n  man into bxo: shove\n", "did you mean `box`?"),
        ("@rules\n  man into box: shov\n", "did you mean `shove`?"),
        ("@rulse\n", "did you mean `rules`?"),
        ("@kinds\n  cat k bdy\nmap \"Two\"\n  k\n", "did you mean `body`?"),
        ("@gap 4px\n", "write `4 px`"),
        ("@gap 4x5 px\n", "write `4 x 5`"),
        ("@gap 1e3 px\n", "write `1000`"),
        ("@gap .5 px\n", "write `0.5`"),
        ("@rules\n  Man into box: shove\n", "write `man`"),
        ("@pace\n  timed 0.3s\n", "write `300 ms`"),
        ("@pace\n  timed 0.07s\n", "write `70 ms`"),
        ("@pace\n  timed 250ms\n", "write `250 ms`"),
        ("@map \"Two\" from maps/two.txt\n", "write `\"maps/two.txt\"`"),
        ("@map \"Two\" from two.txt\n", "write `\"two.txt\"`"),
        ("@rules\n  on key act: move man\n", "did you mean `step` or `walk`?"),
        ("@rules\n  on key act: delete man\n", "did you mean `remove`?"),
        ("@ground man\n", "in `kinds` put `man` on layer `floor`"),
        ("@glyph z = man, box\n", "in `kinds` put `box` or `man` on another layer"),
        (
            "@rules\n  on key act: turn box into rope\n",
            "a piece stays on its layer: in `kinds` put both on one, or `remove` the",
        ),
    ];
    for (source, help) in table {
        let reading = reading(&source.replace('@', HEAD));
        let given = reading.diagnostics[0].help.clone().unwrap_or_default();
        assert!(given.starts_with(help), "{given:?} for {source}");
    }
}

#[test]
fn ten_mistakes_in_one_file_are_all_told() {
    let source = "game \"Ten\"\ncell 0 px\ngap -1 px\nkinds\n  man M bodi\n  wall # body \"red\"\n  box cc body\nmap \"One\"\n  M#?\n\
                  map \"One\"\n  M#\nrules\n  man into wlal: stop\n  man into edge: take\n  when man on box: clear\n  box into hole: stop\n  win when x\n";
    let codes: Vec<String> = found(source).iter().map(|line| line.split(' ').next().unwrap().to_owned()).collect();
    let expected = [
        "cell-size",
        "negative-gap",
        "unknown-name",
        "bad-colour",
        "bad-glyph",
        "repeated-name",
        "unknown-name",
        "verb-not-here",
        "misplaced-word",
        "unknown-name",
        "syntax",
    ];
    assert_eq!(codes, expected, "the `?` may be the glyph of `box`, which could not be read");
}

#[test]
fn a_section_that_is_not_known_may_have_declared_anything() {
    let source =
        "game \"G\"\ncell 10 px\nkindz\n  man M body\nmap \"One\"\n  M\nrules\n  man into box: stop\n  man into: x\n";
    assert_eq!(found(source), ["syntax kindz", "syntax :"]);
}

#[test]
fn places_count_characters_and_skip_a_byte_order_mark() {
    let source = "\u{feff}game \"Yärd\" x\r\n";
    let reading = reading(source);
    let index = LineIndex::new(&reading.source);
    let wrong = reading.diagnostics.iter().find(|found| found.code.word() == "syntax").unwrap();
    let place = index.place(&reading.source, wrong.span.start);
    assert_eq!((place.line, place.column), (1, 13));
    let bytes = read(b"game \"a\"\n  \xff", &no_files);
    assert_eq!(bytes.diagnostics.len(), 1);
    let place = LineIndex::new(&bytes.source).place(&bytes.source, bytes.diagnostics[0].span.start);
    assert_eq!((bytes.diagnostics[0].code.word(), place.line, place.column), ("not-utf8", 2, 3));
}

#[test]
fn drawings_keep_void_between_and_skip_comments_at_the_edge() {
    let source = "game \"G\"\ncell 10 px\nkinds\n  man M body\n  slash / floor\nmap \"One\"\n\n    M\n\n  // //\n// a comment ends nothing\n     M\n\nseed 2\n";
    let book = reading(source).rulebook.unwrap();
    let map = &book.maps[0];
    assert_eq!((map.extent.columns, map.extent.rows), (5, 4));
    let void: Vec<bool> = (0..5).map(|column| map.is_void(column, 0)).collect();
    assert_eq!(void, [true, true, false, true, true]);
    assert!((0..5).all(|column| map.is_void(column, 1)), "a blank line between rows is void");
    assert!(!map.is_void(0, 2) && map.is_void(2, 2), "`// //` is a row of slashes");
}

#[test]
fn maps_come_from_files_with_any_delimiter() {
    let source = "game \"G\"\ncell 10 px\nkinds\n  man M body\n  mat m mark\nnumber 7 = man, mat\nmap \"A\" from \"a.csv\"\nmap \"B\" from \"b.csv\" as 2 columns\n";
    let files = |name: &str| -> Result<Vec<u8>, String> {
        Ok(match name {
            "a.csv" => b"\xef\xbb\xbf7;\"m\";\r\nman+mat;;M\r\n".to_vec(),
            _ => b"M\t\tm\n7\n".to_vec(),
        })
    };
    let reading = read(source.as_bytes(), &files);
    assert_eq!(reading.diagnostics, []);
    let book = reading.rulebook.unwrap();
    let extents: Vec<(u32, u32)> = book.maps.iter().map(|map| (map.extent.columns, map.extent.rows)).collect();
    assert_eq!(extents, [(3, 2), (2, 2)]);
    assert!(book.maps[0].is_void(2, 0) && book.maps[0].is_void(1, 1) && !book.maps[0].is_void(2, 1));
}

/// A rulebook that uses everything, the examples of the language reference, and the demos.
fn valid() -> Vec<(String, String)> {
    let root = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");
    let text = |path: &str| std::fs::read_to_string(format!("{root}/{path}")).unwrap();
    let paths = [
        "crates/magpie-core/tests/rulebooks/valid/everything.magpie",
        "demos/cog-loft.magpie",
        "demos/damp-wall.magpie",
        "demos/glass-mender.magpie",
        "demos/hawser.magpie",
        "demos/hoists.magpie",
        "demos/kiosk.magpie",
        "demos/lantern-rack.magpie",
        "demos/sluice.magpie",
        "demos/towpath.magpie",
    ];
    let mut found: Vec<(String, String)> = paths.iter().map(|path| ((*path).to_owned(), text(path))).collect();
    let reference = text("docs/language.md");
    let examples = reference.split("```magpie\n").skip(1).filter_map(|rest| rest.split("```").next());
    found.extend(examples.enumerate().map(|(number, source)| (format!("example {}", number + 1), source.to_owned())));
    assert_eq!(found.len(), 13);
    found
}

#[test]
fn valid_rulebooks_have_no_mistake_and_one_layout() {
    for (path, source) in valid() {
        let first = reading(&source);
        assert!(!first.has_errors(), "{path}: {:?}", first.diagnostics);
        let laid_out = format(&source).unwrap();
        assert_eq!(format(&laid_out).as_deref(), Some(laid_out.as_str()), "{path}: twice is once");
        let second = reading(&laid_out);
        let meaning = |reading: &Reading| {
            let book = reading.rulebook.as_ref().unwrap();
            // Places differ; everything else is the same.
            let text = format!("{book:?}");
            let plain = without_places(&text);
            (plain, reading.diagnostics.iter().map(|found| found.code).collect::<Vec<_>>())
        };
        assert_eq!(meaning(&first), meaning(&second), "{path}");
    }
}

/// A debug text without the numbers of lines and places.
fn without_places(text: &str) -> String {
    let mut out = String::new();
    let mut rest = text;
    while let Some(at) = ["line: ", "start: ", "end: ", "scenes: [("]
        .iter()
        .filter_map(|key| rest.find(key).map(|at| at + key.len()))
        .min()
    {
        out.push_str(&rest[..at]);
        rest = rest[at..].trim_start_matches(|c: char| c.is_ascii_digit());
    }
    // Lines of a scenario's parts are the only bare numbers in front of a scene.
    (out + rest).replace(|c: char| c.is_ascii_digit(), "")
}

#[test]
fn fmt_keeps_comments_and_cuts_drawings() {
    let source = "\u{feff}game   \"G\"   // title\r\n\r\n\r\n\r\n// free\r\ncell 10   x 4 px\r\nkinds\r\n\tman   M   body   amber , facing east\r\n\t// inside\r\n\ta-long-name # body\r\nmap \"M\"\r\n        M#\r\n         #\r\nrules\r\n      man into a-long-name :shove ,\r\n            add 1 to sum\r\n      win when ( sum>3 )and sum < 9\r\n";
    let expected = "game \"G\"  // title\n\n// free\ncell 10 x 4 px\nkinds\n  man         M body amber, facing east\n  // inside\n  a-long-name # body\nmap \"M\"\n  M#\n   #\nrules\n  man into a-long-name: shove,\n    add 1 to sum\n  win when (sum > 3) and sum < 9\n";
    assert_eq!(format(source).as_deref(), Some(expected));
    assert_eq!(format("game \"G\"\ncell 10px\n"), None, "a file with mistakes of form is left alone");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn no_text_panics_and_every_place_lies_in_it(source in "(game|rules|kinds|map|[ -~\n\t\u{0}-\u{20}«»é漢]){0,120}") {
        let reading = read(source.as_bytes(), &no_files);
        for found in &reading.diagnostics {
            prop_assert!(found.span.start <= found.span.end && found.span.end <= reading.source.len());
            prop_assert!(reading.source.get(found.span.start..found.span.end).is_some(), "on a character's border");
        }
        if let Some(laid_out) = format(&source) {
            prop_assert_eq!(format(&laid_out), Some(laid_out.clone()));
        }
    }

    #[test]
    fn a_damaged_rulebook_never_panics(at in 0usize..4000, cut in 0usize..40, put in "[ -~\n]{0,12}", which in 0usize..6) {
        let (_, source) = valid().swap_remove(which);
        let clamp = |at: usize| (0..=at.min(source.len())).rev().find(|at| source.is_char_boundary(*at)).unwrap_or(0);
        let (start, end) = (clamp(at), clamp(at + cut));
        let damaged = format!("{}{put}{}", &source[..start], &source[end..]);
        let first = reading(&damaged);
        if let Some(laid_out) = format(&damaged) {
            prop_assert_eq!(format(&laid_out), Some(laid_out.clone()), "{}", damaged);
            prop_assert_eq!(first.has_errors(), reading(&laid_out).has_errors(), "{}", laid_out);
        }
    }
}

/// A glyph fills one cell by itself and can be seen there; the first version let fillers, formats and marks through.
#[test]
fn glyphs_are_characters_that_can_be_seen_alone() {
    for seen in "A#/,7=.c·█é☂λЖ①─▲ñ∑{|}~".chars() {
        assert!(super::is_glyph(seen), "`{seen}`");
    }
    let unseen = "\" _\t\u{0}\u{7f}\u{a0}\u{ad}\u{300}\u{301}\u{600}\u{61c}\u{115f}\u{1160}\u{180e}\u{200b}\u{200e}\u{2028}\u{202e}\u{2060}\u{2800}\
                  \u{3000}\u{3164}\u{fe0f}\u{feff}\u{ffa0}\u{fff9}\u{fffe}\u{ffff}\u{e000}\u{10ffff}\u{e0041}漢ｗ👍";
    for unseen in unseen.chars() {
        assert!(!super::is_glyph(unseen), "U+{:04X}", u32::from(unseen));
        if !unseen.is_whitespace() && unseen != '"' {
            let codes = found(&format!("{HEAD}kinds\n  odd {unseen} body\n"));
            assert!(codes.iter().any(|found| found.starts_with("bad-")), "U+{:04X}: {codes:?}", u32::from(unseen));
        }
    }
}

/// A board of 40 × 20 px, drawn four times as large in a window of 200 × 80 px: 20 px of bar left and right.
#[test]
fn buttons_in_each_other_s_way_or_out_of_reach_are_warned_of() {
    let head = "game \"Yard\"\ncell 10 px\nkinds\n  man M body\nmap \"One\"\n  M___\n  ____\nview\n  window 200 x 80 px\n  design 40 x 20 px\n";
    let table = [
        ("in a bar", "  button left at 0, 0 size 20 x 20 px\n", None),
        ("beside each other", "  button left at 0, 0 size 10 x 20 px\n  button right at 10, 0 size 10 x 20 px\n", None),
        ("partly outside", "  button left at -5, 0 size 10 x 20 px\n", None),
        ("outside", "  button left at 200, 0 size 10 x 20 px\n", Some("outside the window")),
        (
            "over another",
            "  button left at 0, 0 size 10 x 20 px\n  button act at 9, 19 size 5 x 5 px\n",
            Some("over that of `left`"),
        ),
        ("over the board", "  button left at 15, 0 size 6 x 20 px\n", Some("over the board of \"One\"")),
        ("up to the board", "  button left at 15, 0 size 5 x 20 px\n", None),
    ];
    for (name, buttons, wanted) in table {
        let found = read_text(&format!("{head}{buttons}"), &|_| Err("none".into()));
        let told: Vec<&str> = found
            .diagnostics
            .iter()
            .filter(|found| found.code == super::Code::ButtonPlace)
            .map(|found| found.message.as_str())
            .collect();
        assert_eq!(told.len(), usize::from(wanted.is_some()), "{name}: {told:?}");
        assert!(wanted.is_none_or(|wanted| told[0].contains(wanted)), "{name}: {told:?}");
    }
}
