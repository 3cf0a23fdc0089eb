//! `lsp` with a real client: everything an editor asks, in every counting of characters, and messages that are none.
#![allow(clippy::unwrap_used, clippy::needless_pass_by_value)]

mod support;

use serde_json::{Value, json};
use std::io::{BufRead, BufReader, Read, Write};
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::time::{Duration, Instant};
use support::PROGRAM;

const URI: &str = "file:///nowhere/yard.magpie";
const YARD: &str = "game \"Yärd\" // 🦜 a yard\ncell 24 px\nkinds\n  porter P body\n  crate c body\n  hatch h mark\nmap \"One\"\n  P_c_h\n\
                    control porter with arrows\nrules\n  porter into crate: shove\n  crate into any: stop\n  win when count crate on hatch > 0\n\
                    scenario \"shoved\"\n  inputs right\n  expect\n    _Pc_h\n";

struct Editor {
    child: Child,
    input: ChildStdin,
    output: BufReader<ChildStdout>,
    asked: u64,
}

impl Editor {
    fn begin(encodings: &[&str]) -> Self {
        let mut child = Command::new(PROGRAM)
            .arg("lsp")
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let (input, output) = (child.stdin.take().unwrap(), BufReader::new(child.stdout.take().unwrap()));
        let mut editor = Self { child, input, output, asked: 0 };
        let general = json!({ "capabilities": { "general": { "positionEncodings": encodings } } });
        let begun = editor.ask("initialize", general);
        let wanted = encodings.first().copied().unwrap_or("utf-16");
        assert_eq!(begun["capabilities"]["positionEncoding"], wanted);
        editor.tell("initialized", json!({}));
        editor
    }

    fn write(&mut self, text: &str) {
        write!(self.input, "Content-Length: {}\r\n\r\n{text}", text.len()).unwrap();
        self.input.flush().unwrap();
    }

    fn read(&mut self) -> Value {
        let mut length = 0;
        loop {
            let mut line = String::new();
            assert!(self.output.read_line(&mut line).unwrap() > 0, "the server has ended");
            match line.trim() {
                "" => break,
                line => length = line.strip_prefix("Content-Length: ").unwrap().parse().unwrap(),
            }
        }
        let mut bytes = vec![0; length];
        self.output.read_exact(&mut bytes).unwrap();
        serde_json::from_slice(&bytes).unwrap()
    }

    fn whole(&mut self, method: &str, params: Value) -> Value {
        self.asked += 1;
        self.write(&json!({ "jsonrpc": "2.0", "id": self.asked, "method": method, "params": params }).to_string());
        self.read()
    }

    fn ask(&mut self, method: &str, params: Value) -> Value {
        let mut answer = self.whole(method, params);
        assert!(answer.get("error").is_none(), "{method}: {answer}");
        answer["result"].take()
    }

    fn tell(&mut self, method: &str, params: Value) {
        self.write(&json!({ "jsonrpc": "2.0", "method": method, "params": params }).to_string());
    }

    /// Opens a document, or changes it, and gives what is told of it.
    fn open(&mut self, text: &str) -> Value {
        self.tell(
            "textDocument/didOpen",
            json!({ "textDocument": { "uri": URI, "languageId": "magpie", "version": 1, "text": text } }),
        );
        let told = self.read();
        assert_eq!(
            (told["method"].as_str(), told["params"]["uri"].as_str()),
            (Some("textDocument/publishDiagnostics"), Some(URI))
        );
        told["params"]["diagnostics"].clone()
    }

    fn at(&mut self, method: &str, line: u32, character: u32, more: Value) -> Value {
        let mut params =
            json!({ "textDocument": { "uri": URI }, "position": { "line": line, "character": character } });
        if let Value::Object(more) = more {
            params.as_object_mut().unwrap().extend(more);
        }
        self.whole(&format!("textDocument/{method}"), params)
    }

    fn of(&mut self, method: &str, more: Value) -> Value {
        let mut params = json!({ "textDocument": { "uri": URI } });
        if let Value::Object(more) = more {
            params.as_object_mut().unwrap().extend(more);
        }
        self.ask(&format!("textDocument/{method}"), params)
    }

    fn ends(mut self) -> i32 {
        self.ask("shutdown", Value::Null);
        assert_eq!(self.whole("textDocument/hover", json!({}))["error"]["code"], -32_600);
        self.tell("exit", Value::Null);
        self.child.wait().unwrap().code().unwrap()
    }
}

/// Edits of a document, from behind to front.
fn edited(text: &str, edits: &Value) -> String {
    let starts: Vec<usize> = std::iter::once(0).chain(text.match_indices('\n').map(|(at, _)| at + 1)).collect();
    let byte = |at: &Value| {
        let line = &text[starts[at["line"].as_u64().unwrap() as usize]..];
        let units = at["character"].as_u64().unwrap() as usize;
        let mut seen = 0;
        let inner = line.char_indices().find(|(_, c)| {
            let here = seen >= units;
            seen += c.len_utf16();
            here
        });
        starts[at["line"].as_u64().unwrap() as usize] + inner.map_or(line.len(), |(at, _)| at)
    };
    let mut all: Vec<(usize, usize, String)> = edits
        .as_array()
        .unwrap()
        .iter()
        .map(|edit| {
            (byte(&edit["range"]["start"]), byte(&edit["range"]["end"]), edit["newText"].as_str().unwrap().to_owned())
        })
        .collect();
    all.sort();
    let mut out = text.to_owned();
    for (from, to, new) in all.into_iter().rev() {
        out.replace_range(from..to, &new);
    }
    out
}

#[test]
fn a_kind_renamed_in_an_editor_is_renamed_everywhere_and_the_rulebook_still_plays() {
    let mut editor = Editor::begin(&[]);
    assert_eq!(editor.open(YARD), json!([]));
    let renamed = editor.at("rename", 10, 14, json!({ "newName": "barrel" }));
    let text = edited(YARD, &renamed["result"]["changes"][URI]);
    assert_eq!((text.matches("barrel").count(), text.matches("crate").count()), (4, 0), "{text}");
    assert_eq!(editor.open(&text), json!([]));
    assert_eq!(editor.of("codeLens", json!({}))[0]["command"]["title"], "test: passed");
    for new in ["porter", "if", "Barrel", ""] {
        assert_eq!(editor.at("rename", 10, 14, json!({ "newName": new }))["error"]["code"], -32_803, "{new}");
    }
    assert_eq!(editor.ends(), 0);
}

#[test]
fn a_typo_is_underlined_with_its_fix() {
    let mut editor = Editor::begin(&[]);
    let all = editor.open(&YARD.replace("into crate: shove", "into crte: shove"));
    let told = [all.as_array().unwrap().iter().find(|found| found["code"] == "unknown-name").unwrap().clone()];
    assert_eq!(told[0]["source"], "rapid-magpie");
    assert_eq!(
        told[0]["range"],
        json!({ "start": { "line": 10, "character": 14 }, "end": { "line": 10, "character": 18 } })
    );
    let fixes = editor.of("codeAction", json!({ "range": told[0]["range"], "context": { "diagnostics": [] } }));
    let text = YARD.replace("into crate: shove", "into crte: shove");
    assert_eq!(edited(&text, &fixes[0]["edit"]["changes"][URI]), YARD);
    // It is told of as soon as it is typed, and taken away when the document is closed.
    editor.tell(
        "textDocument/didChange",
        json!({ "textDocument": { "uri": URI, "version": 2 }, "contentChanges": [{ "text": YARD }] }),
    );
    assert_eq!(editor.read()["params"], json!({ "uri": URI, "version": 2, "diagnostics": [] }));
    editor.tell("textDocument/didClose", json!({ "textDocument": { "uri": URI } }));
    assert_eq!(editor.read()["params"]["diagnostics"], json!([]));
    assert_eq!(editor.at("hover", 0, 0, json!({}))["error"]["code"], -32_602, "it is open no more");
    assert_eq!(editor.ends(), 0);
}

#[test]
fn names_and_words_are_explained_and_found() {
    let mut editor = Editor::begin(&[]);
    editor.open(YARD);
    let hover = editor.at("hover", 4, 3, json!({}))["result"]["contents"]["value"].as_str().unwrap().to_owned();
    assert!(
        hover.contains("drawn as `c`") && hover.contains("1 on \"One\"") && hover.contains("into crate: stop"),
        "{hover}"
    );
    let word = editor.at("hover", 10, 23, json!({}))["result"]["contents"]["value"].as_str().unwrap().to_owned();
    assert!(word.starts_with("What is met asks for the same step"), "{word}");
    let place = editor.at("definition", 12, 18, json!({}))["result"].clone();
    assert_eq!(place[0]["range"]["start"], json!({ "line": 4, "character": 2 }));
    let all = editor.at("references", 4, 3, json!({ "context": { "includeDeclaration": false } }))["result"].clone();
    assert_eq!(all.as_array().unwrap().len(), 3);
    let offered = editor.at("completion", 10, 22, json!({}))["result"].clone();
    assert!(
        offered.as_array().unwrap().iter().all(|item| item["label"].as_str().unwrap().starts_with('s')),
        "{offered}"
    );
    assert!(offered.as_array().unwrap().iter().any(|item| item["label"] == "stop"), "{offered}");
    let symbols = editor.of("documentSymbol", json!({}));
    let names: Vec<&str> = symbols.as_array().unwrap().iter().map(|symbol| symbol["name"].as_str().unwrap()).collect();
    assert!(
        names.contains(&"One") && names.contains(&"shoved") && symbols[2]["children"].as_array().unwrap().len() == 3,
        "{names:?}"
    );
    assert!(editor.of("foldingRange", json!({})).as_array().unwrap().len() >= 4);
    let hints = editor.of(
        "inlayHint",
        json!({ "range": { "start": { "line": 0, "character": 0 }, "end": { "line": 99, "character": 0 } } }),
    );
    assert_eq!(
        (hints[0]["label"].as_str(), hints[0]["position"].clone()),
        (Some("5 x 1"), json!({ "line": 6, "character": 9 }))
    );
    let formatted = editor.of("formatting", json!({ "options": { "tabSize": 2, "insertSpaces": true } }));
    assert!(edited(YARD, &formatted).contains("porter P body"));
    assert_eq!(editor.ends(), 0);
}

#[test]
fn a_clause_tells_what_it_decides_and_what_hides_it() {
    let text = YARD.replace(
        "  crate into any: stop\n",
        "  porter into any if turns > 9: stop\n  any into crate: stop\n  crate into crate: take\n",
    );
    let mut editor = Editor::begin(&[]);
    let told = editor.open(&text);
    assert_eq!(told[0]["code"], "unreachable-clause");
    let mut hover =
        |line| editor.at("hover", line, 10, json!({}))["result"]["contents"]["value"].as_str().unwrap().to_owned();
    let any = hover(12);
    assert!(any.contains("this clause decides crate into crate, hatch into crate"), "{any}");
    assert!(any.contains("line 11 decides porter into crate before it"), "{any}");
    assert!(hover(13).contains("this clause never decides\nline 13 decides crate into crate before it"));
    let hints = editor.of("inlayHint", json!({ "range": told[0]["range"] }));
    let never = hints.as_array().unwrap().iter().find(|hint| hint["label"].as_str().unwrap().starts_with("never"));
    assert_eq!(
        never.map(|hint| (&hint["label"], &hint["position"])),
        Some((
            &json!("never decides: line 13 decides crate into crate before it"),
            &json!({ "line": 13, "character": 24 })
        ))
    );
    assert_eq!(editor.ends(), 0);
}

#[test]
fn a_cancelled_request_is_answered_as_such_and_the_next_as_ever() {
    let mut editor = Editor::begin(&[]);
    editor.open(YARD);
    let message = |value: Value| {
        let text = value.to_string();
        format!("Content-Length: {}\r\n\r\n{text}", text.len())
    };
    let symbols = |id: &str| {
        let params = json!({ "textDocument": { "uri": URI } });
        message(json!({ "jsonrpc": "2.0", "id": id, "method": "textDocument/documentSymbol", "params": params }))
    };
    let cancel = message(json!({ "jsonrpc": "2.0", "method": "$/cancelRequest", "params": { "id": "b" } }));
    let all = [symbols("a"), symbols("b"), cancel, symbols("c")].concat();
    editor.input.write_all(all.as_bytes()).unwrap();
    for (id, code) in [("a", None), ("b", Some(-32_800)), ("c", None)] {
        let answer = editor.read();
        assert_eq!((answer["id"].as_str(), answer["error"]["code"].as_i64()), (Some(id), code));
    }
    assert_eq!(editor.ends(), 0);
}

#[test]
fn characters_are_counted_as_was_agreed() {
    // `// 🦜 a yard` stands behind `game "Yärd" `.
    for (encoding, behind, length) in [("utf-8", 8, 14), ("utf-16", 7, 12), ("utf-32", 7, 11)] {
        let mut editor = Editor::begin(&[encoding]);
        editor.open(YARD);
        let data = editor.of("semanticTokens/full", json!({}))["data"].clone();
        let tokens: Vec<&[Value]> = data.as_array().unwrap().chunks(5).collect();
        assert_eq!(tokens[0][..3], [json!(0), json!(0), json!(4)], "`game`");
        assert_eq!(tokens[2], [json!(0), json!(behind), json!(length), json!(0), json!(0)], "{encoding}");
        assert_eq!(editor.ends(), 0);
    }
}

#[test]
fn what_is_no_message_is_answered_or_ends_it() {
    let mut editor = Editor::begin(&[]);
    editor.write("nonsense");
    assert_eq!(editor.read()["error"]["code"], -32_700);
    assert_eq!(editor.whole("textDocument/dance", json!({}))["error"]["code"], -32_601);
    assert_eq!(editor.at("hover", 0, 0, json!({}))["error"]["code"], -32_602, "nothing is open");
    editor.open("rubbish \u{0}");
    for method in ["hover", "completion", "definition", "references"] {
        assert!(editor.at(method, 0, 2, json!({})).get("error").is_none(), "{method}");
    }
    editor.input.write_all(b"GET / HTTP/1.1\r\n\r\n").unwrap();
    assert_eq!(editor.child.wait().unwrap().code(), Some(1), "what is no frame ends it");
    let mut child = Command::new(PROGRAM).arg("lsp").stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().unwrap();
    let asked = "{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"shutdown\"}";
    write!(child.stdin.take().unwrap(), "Content-Length: {}\r\n\r\n{asked}", asked.len()).unwrap();
    let out = child.wait_with_output().unwrap();
    assert!(String::from_utf8_lossy(&out.stdout).contains("-32002") && out.status.code() == Some(1));
}

#[test]
fn a_long_document_is_answered_soon() {
    let mut text = String::from(
        "game \"Long\"\ncell 24 px\nkinds\n  porter P body\n  crate c body\nmap \"One\"\n  P_c\ncontrol porter with arrows\nrules\n",
    );
    (0..10_000).for_each(|number| text.extend(["  on key act if turns > ", &number.to_string(), ": add 1 to late\n"]));
    let mut editor = Editor::begin(&[]);
    assert_eq!(editor.open(&text), json!([]));
    let mut slowest = Duration::ZERO;
    for method in ["hover", "completion", "definition", "references"] {
        let begun = Instant::now();
        assert!(
            editor.at(method, 5_000, 4, json!({ "context": { "includeDeclaration": true } })).get("error").is_none()
        );
        slowest = slowest.max(begun.elapsed());
    }
    for method in ["documentSymbol", "foldingRange", "semanticTokens/full", "codeLens"] {
        let begun = Instant::now();
        editor.of(method, json!({}));
        slowest = slowest.max(begun.elapsed());
    }
    // The limit is measured elsewhere; this holds that nothing is out of all proportion, in a slow build too.
    assert!(slowest < Duration::from_secs(5), "{slowest:?}");
    println!("slowest answer: {slowest:?}");
    assert_eq!(editor.ends(), 0);
}
