//! Frames of the protocol: a header with the length, then so many bytes.

use crate::limits::LARGEST_FRAME;
use std::io::{BufRead, Read};

/// What comes of reading a frame.
pub enum Frame {
    Whole(Vec<u8>),
    End,
    Wrong(&'static str),
}

/// Reads the next frame.
pub fn read_frame(input: &mut dyn BufRead) -> std::io::Result<Frame> {
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
