//! `serve` with real clients: every method, and clients that are wrong, slow or hostile.
#![allow(clippy::unwrap_used, clippy::needless_pass_by_value)]

mod support;

use serde_json::{Value, json};
use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};
use support::oracle::Oracle;
use support::{PROGRAM, demos, run};

fn demo(stem: &str) -> String {
    demos().join(format!("{stem}.magpie")).to_str().unwrap().to_owned()
}

/// What `play` says of the same.
fn play(stem: &str, inputs: &str, show: &str) -> Value {
    let (code, text, errors) = run(&demos(), &["play", &demo(stem), "--inputs", inputs, "--json", "--show", show]);
    assert_eq!(code, 0, "{errors}");
    serde_json::from_str(&text).unwrap()
}

#[test]
fn a_game_that_asks_at_every_step_never_disagrees() {
    let mut oracle = Oracle::of(&demos(), &demo("cog-loft"));
    let mut played = String::new();
    for word in ["right", "up", "right", "undo", "left", "down", "act", "right", "restart", "right"] {
        let state = oracle.call("input", json!({ "input": word }));
        played = format!("{played} {word}");
        let mut right = play("cog-loft", &played, "all");
        let answers = right["answers"].take();
        right.as_object_mut().unwrap().remove("answers");
        let turns = state["answers"].clone();
        let mut state = state;
        state.as_object_mut().unwrap().remove("answers");
        assert_eq!(state, right, "after{played}");
        assert_eq!(oracle.call("state", json!({})), right);
        if word == "right" {
            assert_eq!(turns[0], answers.as_array().unwrap().last().unwrap().clone(), "after{played}");
        }
    }
    let last = play("cog-loft", &played, "ledger")["answers"].as_array().unwrap().last().unwrap().clone();
    assert_eq!(oracle.call("ledger", json!({})), last);
    // What a request would be answered is what it is answered.
    let asked = oracle.call("request", json!({ "column": 3, "row": 2, "heading": "east" }));
    let all = oracle.call("preview", json!({ "column": 3, "row": 2, "kind": "apprentice" }));
    assert_eq!((all["east"].clone(), all.as_object().unwrap().len()), (asked.clone(), 8));
    let played = oracle.call("input", json!({ "input": "right" }));
    assert_eq!(played["answers"][0]["requests"][0]["granted"], asked["granted"]);
    assert_eq!(oracle.ends(), 0);
}

#[test]
fn every_method_answers_and_refuses() {
    let mut oracle = Oracle::of(&demos(), &demo("kiosk"));
    let hello = oracle.call("hello", json!({}));
    assert_eq!((hello["name"].as_str(), hello["rulebook"].as_str()), (Some("rapid-magpie"), Some("kiosk.magpie")));
    assert_eq!(hello["methods"].as_array().unwrap().len(), 12);
    let (_, text, _) = run(&demos(), &["convert", &demo("kiosk"), "px:99,658", "--json"]);
    let mut right = serde_json::from_str::<Value>(&text).unwrap()["results"][0].take();
    right.as_object_mut().unwrap().remove("steps");
    assert_eq!(oracle.call("convert", json!({ "space": "world", "x": 99.0, "y": 658.0 })), right);
    let vectors = oracle.call("vectors", json!({ "for": "convert", "most": 3 }));
    assert_eq!(vectors["vectors"].as_array().unwrap().len(), 3);
    assert!(oracle.call("ledger", json!({})).is_null(), "nothing has been played");
    for (method, params) in [
        ("convert", json!({ "space": "index", "index": 999_999 })),
        ("convert", json!({ "space": "world", "x": 1e99, "y": 0 })),
        ("convert", json!({ "space": "moon" })),
        ("convert", json!({ "space": "cell", "column": 0, "row": 0, "kind": "moon" })),
        ("input", json!({ "input": "sideways" })),
        ("input", json!({})),
        ("input", json!([1])),
        ("state", json!({ "more": 1 })),
        ("request", json!({ "column": 99, "row": 0, "heading": "east" })),
        ("request", json!({ "column": 0, "row": 0, "heading": "up" })),
        ("load", json!({ "map": 99 })),
        ("vectors", json!({ "for": "rain" })),
        ("report", json!({ "input": "sideways" })),
    ] {
        assert_eq!(oracle.refused(method, params.clone()), -32_602, "{method} {params}");
    }
    assert_eq!(oracle.refused("dance", json!({})), -32_601);
    assert_eq!(oracle.line("nonsense")["error"]["code"], -32_700);
    for wrong in [
        "[]",
        "3",
        "{\"jsonrpc\":\"1.0\",\"method\":\"state\",\"id\":1}",
        "{\"jsonrpc\":\"2.0\",\"id\":{},\"method\":\"state\"}",
    ] {
        assert_eq!(oracle.line(wrong)["error"]["code"], -32_600, "{wrong}");
    }
    // A batch is answered in its order; notifications in it, and batches of them alone, are not.
    let batch = oracle
        .line("[{\"jsonrpc\":\"2.0\",\"method\":\"state\"},{\"jsonrpc\":\"2.0\",\"method\":\"hello\",\"id\":\"a\"},1]");
    assert_eq!((batch[0]["id"].as_str(), batch[1]["error"]["code"].as_i64()), (Some("a"), Some(-32_600)));
    writeln!(oracle.input, "[{{\"jsonrpc\":\"2.0\",\"method\":\"restart\"}}]\r\n\r\n   ").unwrap();
    assert_eq!(oracle.call("state", json!({}))["turns"], 0);
    assert_eq!(oracle.ends(), 0);
}

#[test]
fn another_text_is_loaded_or_refused_with_its_mistakes() {
    let mut oracle = Oracle::of(&demos(), &demo("cog-loft"));
    oracle.call("input", json!({ "input": "right" }));
    let before = oracle.call("state", json!({}));
    let wrong = "game \"Yard\"\ncell 24 px\nkinds\n  porter P body\nmap \"One\"\n  PQ\n";
    let answer =
        oracle.line(&json!({ "jsonrpc": "2.0", "id": 1, "method": "load", "params": { "text": wrong } }).to_string());
    assert_eq!(
        (answer["error"]["code"].as_i64(), answer["error"]["data"][0]["code"].as_str()),
        (Some(1), Some("unknown-glyph"))
    );
    assert_eq!(oracle.call("state", json!({})), before, "the game is as it was");
    let files = "game \"Yard\"\ncell 24 px\nkinds\n  porter P body\nmap \"One\" from \"/etc/hosts\"\n";
    assert_eq!(oracle.refused("load", json!({ "text": files })), 1);
    let state =
        oracle.call("load", json!({ "text": wrong.replace("PQ", "P_") + "control porter with arrows\n", "seed": 4 }));
    assert_eq!(state["board"], json!(["P_"]));
    // What the caller's own game shows, beside the model.
    let alike = oracle.call("report", json!({ "input": "right", "board": ["_P"], "granted": true }));
    assert_eq!(alike, json!({ "difference": null, "mishaps": [] }));
    let differs = oracle.call("report", json!({ "input": "right", "board": ["P_"] }));
    assert_eq!(differs["difference"]["differs"], json!(["board"]));
    assert_eq!(differs["difference"]["expected"]["board"], json!(["_P"]));
    assert!(differs["mishaps"].as_array().is_some());
    assert_eq!(oracle.ends(), 0);
}

/// A server on a port of its own.
struct Listening {
    child: Child,
    address: String,
}

impl Listening {
    fn new(more: &[(&str, &str)]) -> Self {
        let mut command = Command::new(PROGRAM);
        command
            .args(["serve", &demo("cog-loft"), "--listen", "127.0.0.1:0"])
            .stdout(Stdio::piped())
            .stderr(Stdio::null());
        more.iter().for_each(|(name, value)| {
            command.env(name, value);
        });
        let mut child = command.spawn().unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.as_mut().unwrap()).read_line(&mut line).unwrap();
        let address = line.trim().strip_prefix("listening on ").unwrap().to_owned();
        Self { child, address }
    }

    fn connect(&self) -> TcpStream {
        let stream = TcpStream::connect(&self.address).unwrap();
        stream.set_read_timeout(Some(Duration::from_secs(20))).unwrap();
        stream
    }
}

impl Drop for Listening {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

fn asked(stream: &mut TcpStream, method: &str) -> Value {
    writeln!(stream, "{{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"{method}\"}}").unwrap();
    let mut line = String::new();
    BufReader::new(stream.try_clone().unwrap()).read_line(&mut line).unwrap();
    serde_json::from_str(&line).unwrap_or_else(|error| panic!("{error}: {line}"))
}

/// Everything a connection still says.
fn rest(stream: &mut TcpStream) -> String {
    let mut text = Vec::new();
    let _ = stream.read_to_end(&mut text);
    String::from_utf8_lossy(&text).into_owned()
}

#[test]
fn hostile_clients_hurt_nobody_else() {
    let server = Listening::new(&[("MAGPIE_PANIC", "undo")]);
    let mut good = server.connect();
    assert_eq!(asked(&mut good, "state")["result"]["turns"], 0);
    // One sends half a message and nothing more; it is told after ten seconds.
    let mut slow = server.connect();
    write!(slow, "{{\"jsonrpc\":").unwrap();
    let begun = Instant::now();
    // One floods, one tries the port as a web page would, one makes us panic.
    let mut flood = server.connect();
    let junk = vec![b'x'; 64 << 10];
    while begun.elapsed() < Duration::from_secs(5) && flood.write_all(&junk).is_ok() {}
    assert!(rest(&mut flood).contains("-32600") || begun.elapsed() < Duration::from_secs(5), "it is cut off");
    let mut web = server.connect();
    write!(web, "POST / HTTP/1.1\r\nHost: x\r\n\r\n{{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"restart\"}}\r\n")
        .unwrap();
    assert_eq!(rest(&mut web), "", "nothing is carried out");
    let mut panics = server.connect();
    assert_eq!(asked(&mut panics, "undo")["error"]["code"], -32_603);
    assert_eq!(rest(&mut panics), "", "that connection ends");
    assert_eq!(asked(&mut good, "state")["result"]["turns"], 0, "the others go on");
    assert!(rest(&mut slow).contains("-32000"));
    assert!(begun.elapsed() >= Duration::from_secs(9), "{:?}", begun.elapsed());
    assert_eq!(asked(&mut good, "hello")["result"]["columns"], 10);
}

#[test]
fn sixty_four_are_served_and_told_of_the_end() {
    let mut server = Listening::new(&[]);
    let mut all: Vec<TcpStream> = (0..64).map(|_| server.connect()).collect();
    all.iter_mut().for_each(|stream| assert!(asked(stream, "state")["result"].is_object()));
    let mut one_more = server.connect();
    assert!(rest(&mut one_more).contains("-32000"), "the 65th is told and ends");
    // Every connection has a game of its own.
    writeln!(all[0], "{{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"input\",\"params\":{{\"input\":\"right\"}}}}")
        .unwrap();
    let mut line = String::new();
    BufReader::new(all[0].try_clone().unwrap()).read_line(&mut line).unwrap();
    assert_eq!(
        (
            asked(&mut all[0], "state")["result"]["turns"].clone(),
            asked(&mut all[1], "state")["result"]["turns"].clone()
        ),
        (json!(1), json!(0))
    );
    drop(all.pop());
    std::thread::sleep(Duration::from_millis(300));
    let mut again = server.connect();
    assert!(asked(&mut again, "state")["result"].is_object(), "who leaves makes room");
    let killed = Command::new("kill").args(["-TERM", &server.child.id().to_string()]).status().unwrap();
    assert!(killed.success());
    assert!(rest(&mut all[5]).contains("\"closing\""));
    assert_eq!(server.child.wait().unwrap().code(), Some(0));
}

#[test]
fn only_this_machine_is_served() {
    let folder = tempfile::tempdir().unwrap();
    for address in ["0.0.0.0:0", "[::]:0", "8.8.8.8:80", "here"] {
        let (code, text, errors) = run(folder.path(), &["serve", &demo("cog-loft"), "--listen", address]);
        assert!(code == 2 && text.is_empty() && !errors.is_empty(), "{address}: {code} {errors}");
    }
    let log = folder.path().join("log");
    let mut child = Command::new(PROGRAM)
        .args(["serve", &demo("cog-loft"), "--stdio", "--log", log.to_str().unwrap()])
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    writeln!(child.stdin.take().unwrap(), "{{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"hello\"}}").unwrap();
    let out = child.wait_with_output().unwrap();
    assert_eq!((out.status.code(), String::from_utf8_lossy(&out.stdout).lines().count()), (Some(0), 1));
    assert!(std::fs::read_to_string(&log).unwrap().contains("hello"), "calls are logged, and to the file alone");
}
