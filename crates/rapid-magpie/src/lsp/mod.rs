//! The language server: rulebooks in any editor, by the Language Server Protocol 3.17 over standard input and output.

mod answers;
#[cfg(test)]
mod tests;
mod text;
mod wire;

use answers::{Refused, Server};
use lsp_server::{ErrorCode, Message, Notification, Request, RequestId};
use serde_json::value::{RawValue, to_raw_value};
use serde_json::{Value, json};
use std::collections::VecDeque;
use std::io::{Read, Write};
use std::sync::mpsc::sync_channel;
use wire::{Received, listen};

/// So many messages are read ahead of the one that is being answered, to see which of them were cancelled.
const READ_AHEAD: usize = 256;

/// What came of a session.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ended {
    /// It was shut down, and ended.
    Well,
    /// It ended without that.
    Otherwise,
}

/// Serves an editor until it ends the session.
pub fn serve(input: impl Read + Send + 'static, output: &mut dyn Write) -> std::io::Result<Ended> {
    let (send, read) = sync_channel(READ_AHEAD);
    std::thread::spawn(move || listen(input, &send));
    let mut session = Session { server: None, is_shut_down: false, output };
    let mut waiting: VecDeque<Received> = VecDeque::new();
    loop {
        if waiting.is_empty() {
            waiting.extend(read.recv().unwrap_or_else(|_| vec![Received::End]));
        }
        while waiting.len() < READ_AHEAD
            && let Ok(more) = read.try_recv()
        {
            waiting.extend(more);
        }
        let refuse = |session: &mut Session, code: ErrorCode, why: &str| {
            session.say(&json!({ "jsonrpc": "2.0", "id": null, "error": { "code": code as i32, "message": why } }))
        };
        match waiting.pop_front().unwrap_or(Received::End) {
            Received::Message(Message::Request(request)) if is_cancelled(&request.id, &waiting) => {
                session.answer(&request.id, Err((ErrorCode::RequestCanceled as i32, "it was cancelled".into())))?;
            }
            Received::Message(Message::Request(request)) => session.request(&request)?,
            Received::Message(Message::Notification(notification)) if notification.method == "exit" => {
                return Ok(if session.is_shut_down { Ended::Well } else { Ended::Otherwise });
            }
            Received::Message(Message::Notification(notification)) => session.notification(&notification)?,
            // Nothing is asked of editors.
            Received::Message(Message::Response(_)) => {}
            Received::NoMessage => refuse(&mut session, ErrorCode::InvalidRequest, "no message")?,
            Received::NoJson => refuse(&mut session, ErrorCode::ParseError, "no JSON")?,
            Received::End => return Ok(if session.is_shut_down { Ended::Well } else { Ended::Otherwise }),
            Received::Wrong(why) => {
                crate::words::tell(&format!("rapid-magpie: no frame of the protocol: {why}"));
                return Ok(Ended::Otherwise);
            }
        }
    }
}

/// Whether a request is cancelled by one of the messages behind it.
fn is_cancelled(request: &RequestId, waiting: &VecDeque<Received>) -> bool {
    waiting.iter().any(|one| match one {
        Received::Message(Message::Notification(told)) if told.method == "$/cancelRequest" => told
            .params
            .get("id")
            .is_some_and(|id| serde_json::from_value(id.clone()).is_ok_and(|id: RequestId| id == *request)),
        _ => false,
    })
}

struct Session<'o> {
    /// Once it has been begun.
    server: Option<Server>,
    is_shut_down: bool,
    output: &'o mut dyn Write,
}

impl Session<'_> {
    fn say(&mut self, value: &Value) -> std::io::Result<()> {
        self.write(&value.to_string())
    }

    fn write(&mut self, text: &str) -> std::io::Result<()> {
        write!(self.output, "Content-Length: {}\r\n\r\n{text}", text.len())?;
        self.output.flush()
    }

    fn answer(&mut self, id: &RequestId, answer: Result<Box<RawValue>, Refused>) -> std::io::Result<()> {
        let text = match answer {
            Ok(result) => format!("{{\"jsonrpc\":\"2.0\",\"id\":{},\"result\":{result}}}", json!(id)),
            Err((code, why)) => {
                json!({ "jsonrpc": "2.0", "id": id, "error": { "code": code, "message": why } }).to_string()
            }
        };
        self.write(&text)
    }

    fn request(&mut self, request: &Request) -> std::io::Result<()> {
        let refuse = |code: ErrorCode, why: &str| Err((code as i32, why.into()));
        let answer = if self.is_shut_down {
            refuse(ErrorCode::InvalidRequest, "the session has been shut down")
        } else if request.method == "initialize" {
            if self.server.is_some() {
                refuse(ErrorCode::InvalidRequest, "the session has begun")
            } else {
                let server = Server::new(&request.params);
                let result = to_raw_value(&server.capabilities())?;
                self.server = Some(server);
                Ok(result)
            }
        } else if let Some(server) = &self.server {
            if request.method == "shutdown" {
                self.is_shut_down = true;
                Ok(RawValue::NULL.to_owned())
            } else {
                server.answer(&request.method, &request.params)
            }
        } else {
            refuse(ErrorCode::ServerNotInitialized, "`initialize` comes first")
        };
        self.answer(&request.id, answer)
    }

    fn notification(&mut self, notification: &Notification) -> std::io::Result<()> {
        let Some(server) = self.server.as_mut().filter(|_| !self.is_shut_down) else { return Ok(()) };
        if let Some(told) = server.hear(&notification.method, &notification.params) {
            self.say(&json!({ "jsonrpc": "2.0", "method": "textDocument/publishDiagnostics", "params": told }))?;
        }
        Ok(())
    }
}
