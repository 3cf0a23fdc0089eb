//! The language server: rulebooks in any editor, by the Language Server Protocol 3.17 over standard input and output.

mod answers;
#[cfg(test)]
mod tests;
mod text;
mod wire;

use answers::Server;
use lsp_server::{ErrorCode, Message, Notification, Request, Response};
use serde_json::{Value, json};
use std::io::{BufRead, Write};
use wire::{Frame, read_frame};

/// What came of a session.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ended {
    /// It was shut down, and ended.
    Well,
    /// It ended without that.
    Otherwise,
}

/// Serves an editor until it ends the session.
pub fn serve(input: &mut dyn BufRead, output: &mut dyn Write) -> std::io::Result<Ended> {
    let mut session = Session { server: None, is_shut_down: false, output };
    loop {
        let bytes = match read_frame(input)? {
            Frame::Whole(bytes) => bytes,
            Frame::End => return Ok(if session.is_shut_down { Ended::Well } else { Ended::Otherwise }),
            Frame::Wrong(why) => {
                crate::words::tell(&format!("rapid-magpie: no frame of the protocol: {why}"));
                return Ok(Ended::Otherwise);
            }
        };
        match serde_json::from_slice::<Message>(&bytes) {
            Ok(Message::Request(request)) => session.request(&request)?,
            Ok(Message::Notification(notification)) if notification.method == "exit" => {
                return Ok(if session.is_shut_down { Ended::Well } else { Ended::Otherwise });
            }
            Ok(Message::Notification(notification)) => session.notification(&notification)?,
            // Nothing is asked of editors.
            Ok(Message::Response(_)) => {}
            Err(_) => {
                let is_json = serde_json::from_slice::<Value>(&bytes).is_ok();
                let (code, why) = if is_json {
                    (ErrorCode::InvalidRequest, "no message")
                } else {
                    (ErrorCode::ParseError, "no JSON")
                };
                session
                    .say(&json!({ "jsonrpc": "2.0", "id": null, "error": { "code": code as i32, "message": why } }))?;
            }
        }
    }
}

struct Session<'o> {
    /// Once it has been begun.
    server: Option<Server>,
    is_shut_down: bool,
    output: &'o mut dyn Write,
}

impl Session<'_> {
    fn say(&mut self, value: &Value) -> std::io::Result<()> {
        let text = value.to_string();
        write!(self.output, "Content-Length: {}\r\n\r\n{text}", text.len())?;
        self.output.flush()
    }

    fn answer(&mut self, response: Response) -> std::io::Result<()> {
        let value = match response.response_result {
            Ok(result) => json!({ "jsonrpc": "2.0", "id": response.id, "result": result }),
            Err(error) => json!({ "jsonrpc": "2.0", "id": response.id, "error": error }),
        };
        self.say(&value)
    }

    fn request(&mut self, request: &Request) -> std::io::Result<()> {
        let refuse = |code: ErrorCode, why: &str| Response::new_err(request.id.clone(), code as i32, why.into());
        let response = if self.is_shut_down {
            refuse(ErrorCode::InvalidRequest, "the session has been shut down")
        } else if request.method == "initialize" {
            if self.server.is_some() {
                refuse(ErrorCode::InvalidRequest, "the session has begun")
            } else {
                let server = Server::new(&request.params);
                let result = server.capabilities();
                self.server = Some(server);
                Response::new_ok(request.id.clone(), result)
            }
        } else if let Some(server) = &self.server {
            if request.method == "shutdown" {
                self.is_shut_down = true;
                Response::new_ok(request.id.clone(), Value::Null)
            } else {
                match server.answer(&request.method, &request.params) {
                    Ok(result) => Response::new_ok(request.id.clone(), result),
                    Err((code, why)) => Response::new_err(request.id.clone(), code, why),
                }
            }
        } else {
            refuse(ErrorCode::ServerNotInitialized, "`initialize` comes first")
        };
        self.answer(response)
    }

    fn notification(&mut self, notification: &Notification) -> std::io::Result<()> {
        let Some(server) = self.server.as_mut().filter(|_| !self.is_shut_down) else { return Ok(()) };
        if let Some(told) = server.hear(&notification.method, &notification.params) {
            self.say(&json!({ "jsonrpc": "2.0", "method": "textDocument/publishDiagnostics", "params": told }))?;
        }
        Ok(())
    }
}
