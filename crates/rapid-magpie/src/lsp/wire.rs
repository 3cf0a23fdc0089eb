//! Frames of the protocol: a header with the length, then so many bytes.

use crate::limits::LARGEST_FRAME;
use lsp_server::Message;
use serde_json::Value;
use std::io::{BufRead, BufReader, Read};
use std::sync::mpsc::SyncSender;

/// What an editor has sent.
pub enum Received {
    Message(Message),
    /// JSON, and no message of the protocol.
    NoMessage,
    NoJson,
    /// Nothing comes any more.
    End,
    /// No frame, and why; nothing behind it can be read.
    Wrong(&'static str),
}

/// Reads messages, and hands those that came together over together.
pub fn listen(input: impl Read, send: &SyncSender<Vec<Received>>) {
    let mut input = BufReader::with_capacity(1 << 16, input);
    loop {
        let mut batch = vec![receive(&mut input)];
        while let Some(Received::Message(_) | Received::NoMessage | Received::NoJson) = batch.last() {
            // Another one that is here already, all of it.
            if !matches!(read_frame(&mut input.buffer()), Ok(Frame::Whole(_))) {
                break;
            }
            batch.push(receive(&mut input));
        }
        let is_last = matches!(batch.last(), Some(Received::End | Received::Wrong(_)));
        if send.send(batch).is_err() || is_last {
            return;
        }
    }
}

fn receive(input: &mut dyn BufRead) -> Received {
    match read_frame(input) {
        Ok(Frame::Whole(bytes)) => match serde_json::from_slice(&bytes) {
            Ok(message) => Received::Message(message),
            Err(_) if serde_json::from_slice::<Value>(&bytes).is_ok() => Received::NoMessage,
            Err(_) => Received::NoJson,
        },
        Ok(Frame::End) => Received::End,
        Ok(Frame::Wrong(why)) => Received::Wrong(why),
        Err(_) => Received::Wrong("it cannot be read"),
    }
}

/// What comes of reading a frame.
enum Frame {
    Whole(Vec<u8>),
    End,
    Wrong(&'static str),
}

/// Reads the next frame.
fn read_frame(input: &mut dyn BufRead) -> std::io::Result<Frame> {
    let mut length = None;
    let mut is_first = true;
    loop {
        let mut line = Vec::new();
        input.take(4096).read_until(b'\n', &mut line)?;
        if line.is_empty() {
            return Ok(if is_first { Frame::End } else { Frame::Wrong("it ends within its header") });
        }
        is_first = false;
        let Some(line) = line.strip_suffix(b"\r\n") else { return Ok(Frame::Wrong("a line of its header has no end")) };
        if line.is_empty() {
            break;
        }
        let text = String::from_utf8_lossy(line);
        let Some((name, value)) = text.split_once(':') else {
            return Ok(Frame::Wrong("a line of its header has no `:`"));
        };
        if name.eq_ignore_ascii_case("content-length") {
            length = value.trim().parse::<usize>().ok();
        }
    }
    let Some(length) = length else { return Ok(Frame::Wrong("its header tells no length")) };
    if length > LARGEST_FRAME {
        return Ok(Frame::Wrong("it is too long"));
    }
    let mut bytes = vec![0; length];
    match input.read_exact(&mut bytes) {
        Ok(()) => Ok(Frame::Whole(bytes)),
        Err(_) => Ok(Frame::Wrong("it is shorter than its header tells")),
    }
}
