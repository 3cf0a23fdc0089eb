//! The limits of the program itself; those of the model and of drawings stand with them.

/// Most mistakes of a file that are written out for people, each with its line.
pub const MOST_SHOWN: usize = 100;

/// Most bytes of one row of a batch.
pub const LONGEST_ROW: usize = 1 << 20;

/// Most bytes of one line of a log, or of what a driven program prints.
pub const LONGEST_LINE: usize = 1 << 20;

/// Most lines of a log that the Trace bench keeps.
pub const MOST_LINES_KEPT: usize = 200_000;

/// Largest kept tape that is read, in bytes: room for the longest tape of a session.
pub const LARGEST_KEPT: usize = 64 << 20;

/// Most steps of one run of `pace`.
pub const MOST_PACE_CELLS: u64 = 1_000_000;

/// Most positions of a strip that are looked at for its overview and its list.
pub const LONGEST_STRIP: u64 = 400_000;

/// Most frames of a run that are listed.
pub const MOST_FRAMES_LISTED: usize = 2_000;

/// Most cells of all maps of a rulebook that is written as source code.
pub const MOST_EMITTED_CELLS: u64 = 65_536;

/// Largest message of a client, in bytes.
pub const LARGEST_MESSAGE: usize = 1 << 20;

/// Most connections that are served at a time.
pub const MOST_CONNECTIONS: usize = 64;

/// Largest message of an editor, in bytes: a whole rulebook with room for what stands in JSON round it.
pub const LARGEST_FRAME: usize = 64 << 20;
