//! Messages of one line: read within their limits, answered one after another.

use super::answers::{INTERNAL, INVALID, NO_METHOD, PARSE, Refusal, SERVER, refusal, result};
use super::calls;
use super::game::{Game, Served};
use crate::limits::LARGEST_MESSAGE;
use serde_json::Value;
use std::io::{Read, Write};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc::{Receiver, RecvTimeoutError, sync_channel};
use std::time::{Duration, Instant};

/// How long a message may take to be whole, and a client to read an answer.
pub const LONGEST_SILENCE: Duration = Duration::from_secs(10);
/// How often it is looked whether the program is to end.
const GLANCE: Duration = Duration::from_millis(50);

/// Why a connection ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ends {
    /// The other side has.
    Gone,
    /// The program was asked to end.
    Asked,
    /// A limit was passed, or a fault came up.
    Refused,
}

/// What comes of waiting for a line.
enum Next {
    Line(Vec<u8>),
    End(Ends),
    /// It is refused, and the connection ends.
    Refuse(i64, &'static str),
}

/// Bytes as they come, cut into lines.
struct Lines {
    chunks: Receiver<Vec<u8>>,
    waiting: Vec<u8>,
    /// How far the waiting bytes have been looked through.
    looked: usize,
    /// When the line that is not whole began.
    begun: Option<Instant>,
}

impl Lines {
    /// Reads on a thread of its own, since a read cannot be given up.
    fn new(mut input: Box<dyn Read + Send>) -> Self {
        let (sender, chunks) = sync_channel(4);
        let read = move || {
            let mut bytes = vec![0; 64 << 10];
            while let Ok(count) = input.read(&mut bytes) {
                if count == 0 || sender.send(bytes[..count].to_vec()).is_err() {
                    break;
                }
            }
        };
        // Without a thread the input is at its end at once.
        drop(std::thread::Builder::new().name("reader".into()).spawn(read));
        Self { chunks, waiting: Vec::new(), looked: 0, begun: None }
    }

    fn next(&mut self, ending: &AtomicBool) -> Next {
        loop {
            if let Some(at) = self.waiting[self.looked..].iter().position(|byte| *byte == b'\n') {
                let rest = self.waiting.split_off(self.looked + at + 1);
                let mut line = std::mem::replace(&mut self.waiting, rest);
                line.pop();
                self.looked = 0;
                self.begun = (!self.waiting.is_empty()).then(Instant::now);
                if line.len() > LARGEST_MESSAGE {
                    return Next::Refuse(INVALID, "a message may hold 1 MiB");
                }
                return Next::Line(line);
            }
            self.looked = self.waiting.len();
            if self.waiting.len() > LARGEST_MESSAGE {
                return Next::Refuse(INVALID, "a message may hold 1 MiB");
            }
            if self.begun.is_some_and(|begun| begun.elapsed() > LONGEST_SILENCE) {
                return Next::Refuse(SERVER, "the message was not whole after 10 s");
            }
            if ending.load(Ordering::Relaxed) {
                return Next::End(Ends::Asked);
            }
            match self.chunks.recv_timeout(GLANCE) {
                Ok(chunk) => {
                    self.begun = self.begun.or_else(|| Some(Instant::now()));
                    self.waiting.extend(chunk);
                }
                Err(RecvTimeoutError::Timeout) => {}
                // The last line needs no end.
                Err(RecvTimeoutError::Disconnected) if !self.waiting.is_empty() => {
                    self.looked = 0;
                    return Next::Line(std::mem::take(&mut self.waiting));
                }
                Err(RecvTimeoutError::Disconnected) => return Next::End(Ends::Gone),
            }
        }
    }
}

/// Whether a line begins a request of a web page that tries the port.
fn is_from_a_browser(line: &[u8]) -> bool {
    let text = String::from_utf8_lossy(line);
    let mut words = text.trim_end().split(' ');
    let method = words.next().unwrap_or_default();
    !method.is_empty()
        && method.bytes().all(|byte| byte.is_ascii_uppercase())
        && words.next_back().is_some_and(|version| version.starts_with("HTTP/"))
}

/// Answers messages until the connection ends.
pub fn converse(served: &Served, input: Box<dyn Read + Send>, output: &mut dyn Write, ending: &AtomicBool) -> Ends {
    let mut lines = Lines::new(input);
    let mut game = match served.begin() {
        Ok(game) => game,
        Err(why) => {
            let _ = writeln!(output, "{}", refusal(INTERNAL, &why.to_string()));
            return Ends::Refused;
        }
    };
    loop {
        let line = match lines.next(ending) {
            Next::Line(line) => line,
            Next::End(why) => return why,
            Next::Refuse(code, why) => {
                let _ = writeln!(output, "{}", refusal(code, why)).and_then(|()| output.flush());
                return Ends::Refused;
            }
        };
        if is_from_a_browser(&line) {
            return Ends::Refused;
        }
        if line.iter().all(u8::is_ascii_whitespace) {
            continue;
        }
        let mut broken = false;
        let answer = message(&mut game, &line, &mut broken);
        if let Some(answer) = answer
            && writeln!(output, "{answer}").and_then(|()| output.flush()).is_err()
        {
            return Ends::Gone;
        }
        if broken {
            return Ends::Refused;
        }
    }
}

/// The answer to a message, where there is one.
fn message(game: &mut Game, line: &[u8], broken: &mut bool) -> Option<Value> {
    let Ok(message) = serde_json::from_slice::<Value>(line) else {
        return Some(refusal(PARSE, "the line is no JSON"));
    };
    let Value::Array(calls) = message else { return call(game, &message, broken) };
    if calls.is_empty() {
        return Some(refusal(INVALID, "an empty batch"));
    }
    let mut answers = Vec::new();
    for one in &calls {
        answers.extend(call(game, one, broken));
        if *broken {
            break;
        }
    }
    (!answers.is_empty()).then(|| answers.into())
}

/// The answer to one call; nothing to a notification.
fn call(game: &mut Game, message: &Value, broken: &mut bool) -> Option<Value> {
    let id = message.get("id");
    let is_id = id.is_none_or(|id| id.is_string() || id.is_number() || id.is_null());
    let shown = id.filter(|_| is_id).cloned().unwrap_or(Value::Null);
    let is_call = message.get("jsonrpc").and_then(Value::as_str) == Some("2.0") && is_id;
    let params = message.get("params");
    let fits = params.is_none_or(|params| params.is_object() || params.is_array());
    let Some(method) = message.get("method").and_then(Value::as_str).filter(|_| is_call && fits) else {
        return Some(Refusal::of(INVALID, "no call of JSON-RPC 2.0").answer(&shown));
    };
    tracing::debug!(method, "a call");
    let answered = if !calls::METHODS.contains(&method) {
        Err(Refusal::of(NO_METHOD, format!("no method `{method}`: there are {}", calls::METHODS.join(" "))))
    } else if params.is_some_and(Value::is_array) {
        Err(Refusal::params("params are named: an object"))
    } else {
        let params = params.cloned().unwrap_or_else(|| Value::Object(serde_json::Map::new()));
        catch_unwind(AssertUnwindSafe(|| calls::call(game, method, params))).unwrap_or_else(|_| {
            *broken = true;
            Err(Refusal::of(INTERNAL, "a fault of the oracle: this connection ends"))
        })
    };
    id?;
    Some(match answered {
        Ok(value) => result(&value, &shown),
        Err(refusal) => refusal.answer(&shown),
    })
}
