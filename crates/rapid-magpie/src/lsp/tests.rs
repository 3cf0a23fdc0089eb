//! What holds of any document, however broken, in every counting of characters.
#![allow(clippy::unwrap_used)]

use super::answers::Server;
use super::text::{Document, Encoding};
use lsp_types::Position;
use magpie_core::rulebook::{Reading, read_text};
use proptest::prelude::*;
use serde_json::{Value, json};

const URI: &str = "untitled:one";
const BOOKS: [&str; 7] = [
    include_str!("../../../../demos/cog-loft.magpie"),
    include_str!("../../../../demos/hawser.magpie"),
    include_str!("../../../../demos/damp-wall.magpie"),
    include_str!("../../../../demos/kiosk.magpie"),
    include_str!("../../../../demos/lantern-rack.magpie"),
    include_str!("../../../../demos/glass-mender.magpie"),
    include_str!("../../../../demos/towpath.magpie"),
];
/// What is typed into a document.
const TYPED: [&str; 12] = ["\n", "\r\n", "🦜", "ä", "\"", "//", "if ", ":", " porter", "\t", "9999999999", ""];
const METHODS: [&str; 13] = [
    "completion",
    "hover",
    "definition",
    "references",
    "prepareRename",
    "rename",
    "documentSymbol",
    "foldingRange",
    "formatting",
    "codeAction",
    "semanticTokens/full",
    "inlayHint",
    "codeLens",
];

fn encoding() -> impl Strategy<Value = Encoding> {
    prop::sample::select(vec![Encoding::Utf8, Encoding::Utf16, Encoding::Utf32])
}

/// A rulebook with some places typed over.
fn document() -> impl Strategy<Value = String> {
    let place = (any::<prop::sample::Index>(), 0..6_usize, prop::sample::select(TYPED.to_vec()));
    (prop::sample::select(BOOKS.to_vec()), prop::collection::vec(place, 0..4)).prop_map(|(book, places)| {
        let mut text: Vec<char> = book.chars().collect();
        for (at, length, new) in places {
            let from = at.index(text.len());
            let to = (from + length).min(text.len());
            text.splice(from..to, new.chars());
        }
        text.into_iter().collect()
    })
}

fn open(encoding: Encoding, text: &str) -> (Server, Value) {
    let general = json!({ "capabilities": { "general": { "positionEncodings": [encoding.word()] } } });
    let mut server = Server::new(&general);
    let told = server.hear("textDocument/didOpen", &json!({ "textDocument": { "uri": URI, "text": text } })).unwrap();
    (server, told)
}

fn asked(server: &Server, method: &str, at: Position, new: &str) -> Result<Value, (i32, String)> {
    let range = json!({ "start": Position::new(0, 0), "end": at });
    let params = json!({ "textDocument": { "uri": URI }, "position": at, "range": range, "newName": new });
    server.answer(&format!("textDocument/{method}"), &params)
}

/// Every range of an answer.
fn ranges(value: &Value, into: &mut Vec<[Position; 2]>) {
    match value {
        Value::Object(parts) => {
            if let (Some(start), Some(end)) = (parts.get("start"), parts.get("end")) {
                let position = |at: &Value| serde_json::from_value(at.clone()).unwrap();
                into.push([position(start), position(end)]);
            }
            parts.values().for_each(|part| ranges(part, into));
        }
        Value::Array(parts) => parts.iter().for_each(|part| ranges(part, into)),
        _ => {}
    }
}

fn read(text: &str) -> Reading {
    read_text(text, &|_| Err("no file".into()))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 120, ..ProptestConfig::default() })]

    #[test]
    fn a_place_told_is_the_place_found_again(text in document(), encoding in encoding()) {
        let document = Document::new(text.clone());
        for (byte, c) in text.char_indices().filter(|(_, c)| !matches!(c, '\r' | '\n')) {
            prop_assert_eq!(document.byte(document.position(byte, encoding), encoding), byte, "{:?}", c);
        }
        prop_assert_eq!(document.byte(Position::new(u32::MAX, u32::MAX), encoding), text.len());
    }

    #[test]
    fn everything_is_answered_everywhere_and_within_the_document(
        text in document(),
        encoding in encoding(),
        line in 0..200_u32,
        character in 0..60_u32,
    ) {
        let (server, told) = open(encoding, &text);
        let document = Document::new(text);
        let mut found = Vec::new();
        ranges(&told, &mut found);
        for method in METHODS {
            match asked(&server, method, Position::new(line, character), "another-name") {
                Ok(answer) => ranges(&answer, &mut found),
                Err((code, why)) => prop_assert_eq!((method, code), ("rename", -32_803), "{}", why),
            }
        }
        for [start, end] in found {
            prop_assert!(start <= end);
            for at in [start, end] {
                prop_assert_eq!(document.position(document.byte(at, encoding), encoding), at);
            }
        }
    }

    #[test]
    fn a_name_renamed_and_renamed_back_is_the_same_text(
        book in prop::sample::select(BOOKS.to_vec()),
        encoding in encoding(),
        at in any::<prop::sample::Index>(),
    ) {
        let document = Document::new(book.to_owned());
        let at = document.position((0..=at.index(book.len())).rev().find(|at| book.is_char_boundary(*at)).unwrap(), encoding);
        let (server, _) = open(encoding, book);
        let Ok(renamed) = asked(&server, "rename", at, "another-name") else { return Ok(()) };
        let mut edits: Vec<(usize, usize)> = Vec::new();
        for edit in renamed["changes"][URI].as_array().unwrap() {
            let [start, end] = ["start", "end"].map(|end| serde_json::from_value(edit["range"][end].clone()).unwrap());
            edits.push((document.byte(start, encoding), document.byte(end, encoding)));
        }
        edits.sort_unstable();
        let old = &book[edits[0].0..edits[0].1];
        let mut text = book.to_owned();
        for (from, to) in edits.iter().rev() {
            prop_assert_eq!(&book[*from..*to], old);
            text.replace_range(*from..*to, "another-name");
        }
        prop_assert!(read(&text).rulebook.is_some() == read(book).rulebook.is_some(), "{}", text);
        prop_assert_eq!(read(&text).diagnostics.len(), read(book).diagnostics.len());
        prop_assert_eq!(text.replace("another-name", old), book);
    }
}
