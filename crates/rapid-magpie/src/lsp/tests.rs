//! What holds of any document, however broken, in every counting of characters.
#![allow(clippy::unwrap_used)]

use super::answers::Server;
use super::text::{Document, Encoding};
use lsp_types::{InitializeResult, Position, PublishDiagnosticsParams, request};
use magpie_core::rulebook::{Reading, read_text};
use proptest::prelude::*;
use serde::Serialize;
use serde::de::DeserializeOwned;
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
    let answer = server.answer(&format!("textDocument/{method}"), &params)?;
    Ok(serde_json::from_str(answer.get()).unwrap())
}

/// Whether a value is one of a type of the protocol, and holds nothing that this does not.
fn is_a<T: DeserializeOwned + Serialize>(value: &Value) -> bool {
    let read = serde_json::from_value::<T>(value.clone());
    read.is_ok_and(|read| serde_json::to_value(read).unwrap() == *value)
}

/// Whether an answer is what the protocol's schema says of its method.
fn is_answer(method: &str, answer: &Value) -> bool {
    fn to<R: request::Request<Result: Serialize>>(answer: &Value) -> bool {
        is_a::<R::Result>(answer)
    }
    match method {
        "completion" => to::<request::Completion>(answer),
        "hover" => to::<request::HoverRequest>(answer),
        "definition" => to::<request::GotoDefinition>(answer),
        "references" => to::<request::References>(answer),
        "prepareRename" => to::<request::PrepareRenameRequest>(answer),
        "rename" => to::<request::Rename>(answer),
        "documentSymbol" => to::<request::DocumentSymbolRequest>(answer),
        "foldingRange" => to::<request::FoldingRangeRequest>(answer),
        "formatting" => to::<request::Formatting>(answer),
        "codeAction" => to::<request::CodeActionRequest>(answer),
        "semanticTokens/full" => to::<request::SemanticTokensFullRequest>(answer),
        "inlayHint" => to::<request::InlayHintRequest>(answer),
        "codeLens" => to::<request::CodeLensRequest>(answer),
        _ => false,
    }
}

#[test]
fn what_the_server_can_do_is_told_as_the_protocol_says() {
    let told = open(Encoding::Utf16, BOOKS[0]).0.capabilities();
    assert!(is_a::<InitializeResult>(&told), "{told}");
    assert!(!is_a::<InitializeResult>(&json!({ "capabilities": {}, "more": 1 })), "what is not in the schema is seen");
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

fn no_file(_: &str) -> Result<Vec<u8>, String> {
    Err("no file".into())
}

fn read(text: &str) -> Reading {
    read_text(text, &no_file)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 120, ..ProptestConfig::default() })]

    #[test]
    fn a_place_told_is_the_place_found_again(text in document(), encoding in encoding()) {
        let document = Document::new(text.clone(), &no_file);
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
        let document = Document::new(text, &no_file);
        let mut found = Vec::new();
        prop_assert!(is_a::<PublishDiagnosticsParams>(&told), "{}", told);
        ranges(&told, &mut found);
        for method in METHODS {
            match asked(&server, method, Position::new(line, character), "another-name") {
                Ok(answer) => {
                    prop_assert!(is_answer(method, &answer), "{}: {}", method, answer);
                    ranges(&answer, &mut found);
                }
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
        let document = Document::new(book.to_owned(), &no_file);
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
