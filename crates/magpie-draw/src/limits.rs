//! Every limit of drawings. Each is named in the error that it gives.

/// Largest board that is drawn, in cells.
pub const MOST_CELLS: u64 = 40_000;

/// Most boards of a story.
pub const MOST_SCENES: usize = 200;

/// Most cells of all boards of a story together.
pub const MOST_STORY_CELLS: u64 = 80_000;

/// Most meetings of a table: movers times what they enter.
pub const MOST_MEETINGS: usize = 40_000;

/// Most clauses that are looked at for all meetings of a table together.
pub const MOST_LOOKS: usize = 400_000_000;
