//! A client of `serve` over standard input and output.

use super::PROGRAM;
use serde_json::{Value, json};
use std::io::{BufRead, BufReader, Write};
use std::path::Path;
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};

/// The program as an oracle that is asked line by line.
pub struct Oracle {
    child: Child,
    pub input: ChildStdin,
    output: BufReader<ChildStdout>,
    calls: u64,
}

impl Oracle {
    /// Of a rulebook in a folder.
    pub fn of(folder: &Path, file: &str) -> Self {
        let mut command = Command::new(PROGRAM);
        command.args(["serve", file, "--stdio"]).current_dir(folder).stdin(Stdio::piped()).stdout(Stdio::piped());
        let mut child = command.stderr(Stdio::null()).spawn().unwrap();
        let (input, output) = (child.stdin.take().unwrap(), BufReader::new(child.stdout.take().unwrap()));
        Self { child, input, output, calls: 0 }
    }

    /// What is answered to a line as it is.
    pub fn line(&mut self, text: &str) -> Value {
        writeln!(self.input, "{text}").unwrap();
        let mut line = String::new();
        self.output.read_line(&mut line).unwrap();
        serde_json::from_str(&line).unwrap_or_else(|error| panic!("{error}: {line}"))
    }

    fn answer(&mut self, method: &str, params: &Value) -> Value {
        self.calls += 1;
        self.line(&json!({ "jsonrpc": "2.0", "id": self.calls, "method": method, "params": params }).to_string())
    }

    /// The result of a method that must not be refused.
    #[allow(clippy::needless_pass_by_value)]
    pub fn call(&mut self, method: &str, params: Value) -> Value {
        let mut answer = self.answer(method, &params);
        let (version, id) = (answer["jsonrpc"].as_str(), answer["id"].as_u64());
        assert_eq!((version, id), (Some("2.0"), Some(self.calls)), "{answer}");
        assert!(answer["error"].is_null(), "{method} {params}: {answer}");
        answer["result"].take()
    }

    /// The code with which a method is refused.
    #[allow(clippy::needless_pass_by_value)]
    pub fn refused(&mut self, method: &str, params: Value) -> i64 {
        let answer = self.answer(method, &params);
        answer["error"]["code"].as_i64().unwrap_or_else(|| panic!("not refused: {answer}"))
    }

    /// Closes its input; gives its exit code.
    pub fn ends(mut self) -> i32 {
        drop(self.input);
        self.child.wait().unwrap().code().unwrap_or(-1)
    }
}
