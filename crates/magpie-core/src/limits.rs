//! Every limit of the model, in one place. Each is checked where the thing is declared or asked for, and named in the error.

/// Largest rulebook, and largest file beside it, in bytes.
pub const LARGEST_FILE: usize = 16 << 20;

/// Most cells of a map.
pub const MOST_CELLS: u64 = 4_194_304;

/// Most layers of a rulebook.
pub const MOST_LAYERS: usize = 255;

/// Most cells of a map times layers: what a board keeps a slot for.
pub const MOST_SLOTS: u64 = 16 * MOST_CELLS;

/// Most kinds of a rulebook.
pub const MOST_KINDS: usize = 65_534;

/// Most counters, declared and made by rules together.
pub const MOST_COUNTERS: usize = 65_535;

/// Most timers of a rulebook.
pub const MOST_TIMERS: usize = 65_535;

/// Most shapes of a rulebook.
pub const MOST_SHAPES: usize = 65_535;

/// Most groups of a rulebook.
pub const MOST_GROUPS: usize = 65_535;

/// Most kinds in all groups of a rulebook together.
pub const MOST_MEMBERS: usize = 16_000_000;

/// Most cells of all drawn maps and drawings of scenarios together.
pub const MOST_DRAWN: u64 = 64_000_000;

/// Most bytes of all files that the maps of a rulebook come from.
pub const LARGEST_MAP_FILES: u64 = 256 << 20;

/// Most mistakes of a rulebook that are listed, and most warnings; those behind them are counted.
pub const MOST_FINDINGS: usize = 1_000;

/// Most letters of names that are compared to find what was meant by unknown ones, as letters of one times letters of the
/// other; after that there is no advice.
pub const MOST_COMPARED: u64 = 300_000_000;

/// Most sorts of cell (of the same kinds in it) in one map.
pub const MOST_CELL_SORTS: usize = 65_535;

/// Most pairs of an asker's kind and a meeting clause.
pub const MOST_CLAUSE_PAIRS: usize = 16_000_000;

/// Longest wait in one input, in ms.
pub const LONGEST_WAIT: u64 = 86_400_000;

/// Most turns of timers and gliders in one wait.
pub const MOST_FIRINGS: u32 = 1_000_000;

/// Most passes of one settling; a turn with more never settles.
pub const MOST_PASSES: usize = 10_000;

/// Most rounds of one fall or refill.
pub const MOST_ROUNDS: usize = 10_000;

/// Most requests of falls in one turn on the largest boards; a turn with more is taken back as one that never settles. On a
/// smaller board it is a hundred times what all of it takes to fall from side to side, and [`LEAST_FALLEN`] at least. Tests
/// get there sooner.
pub const MOST_FALLEN: u64 = if cfg!(test) { 100_000 } else { 20_000_000 };

/// The same on the smallest boards. Tests get there sooner.
pub const LEAST_FALLEN: u64 = if cfg!(test) { 50_000 } else { 200_000 };

/// Counters stay within this on either side of 0.
pub const COUNTER_BOUND: i64 = 1_000_000_000_000_000;

/// Farthest position that may be asked about, in pixels on either side of 0.
pub const FARTHEST_PIXEL: f64 = 1e9;

/// Farthest column, row or index that may be asked about, on either side of 0.
pub const FARTHEST_CELL: u64 = 1_000_000_000_000_000;

/// Most positions at which an expression of both coordinates is looked at, one by one.
pub const MOST_PIXELS: u64 = 1 << 24;

/// Most positions along an axis at which an expression is looked at.
pub const LONGEST_AXIS: u64 = 1 << 30;

/// Longest expression, in characters.
pub const LONGEST_EXPRESSION: usize = 4096;

/// Most parentheses, calls and signs inside each other in an expression.
pub const DEEPEST_EXPRESSION: usize = 64;

/// Most steps of one run of a pace. Tests get there sooner.
pub const MOST_STEPS: u64 = if cfg!(test) { 10_000 } else { 1_000_000 };

/// Most frames of one run of a pace.
pub const MOST_FRAMES: u64 = 1_000_000;

/// Most events of a script of keys.
pub const MOST_KEY_EVENTS: usize = 100_000;

/// Latest event of a script of keys, in ms.
pub const LATEST_KEY: i64 = 86_400_000;

/// Longest way of a finger that is walked, in cells.
pub const LONGEST_WALK: u64 = 10_000;

/// Most parentheses inside each other in a condition.
pub const DEEPEST_CONDITION: usize = 64;

/// Most words of one statement.
pub const MOST_TOKENS: usize = 10_000;

/// Most rounds of a loop over pixels that are followed.
pub const MOST_LOOP_ROUNDS: usize = 1_000_000;

/// Most samples of a file.
pub const MOST_SAMPLES: usize = 100_000;

/// Largest number of a sample, either side of 0.
pub const LARGEST_SAMPLE: f64 = 1e15;

/// Most bytes that a game holds for going back, roughly. What is older is forgotten; a session plays it again where
/// somebody asks for it. Tests get there sooner.
pub const MOST_BYTES_BACK: usize = if cfg!(test) { 256 << 10 } else { 192 << 20 };

/// Most bytes of reports that a session holds, roughly; older ones are worked out again. Tests get there sooner.
pub const MOST_BYTES_REPORTS: usize = if cfg!(test) { 256 << 10 } else { 192 << 20 };

/// Most requests, actions, signals and settlings that the report of one turn tells, of each; the others are counted.
pub const MOST_TOLD: usize = if cfg!(test) { 1_000 } else { 10_000 };

/// Most sentences that the report of one turn tells of one settling of a rule; its counts tell the rest.
pub const MOST_DEEDS: usize = 100;

/// Most checks, shoved pieces, cells and changes that the report of one turn holds together.
pub const MOST_FACTS: usize = if cfg!(test) { 50_000 } else { 1_000_000 };

/// Most settlings of one rule in one pass that the report of one turn tells.
pub const MOST_SETTLED: usize = 400;

/// Largest board, in cells, that is kept pass by pass of a settling and turn by turn of a wait.
pub const MOST_CELLS_KEPT: u32 = 10_000;

/// Largest board, in cells, that is compared picture by picture to find what an edit has changed first.
pub const MOST_CELLS_COMPARED: u32 = 100_000;

/// Most inputs whose settlings a session keeps with their boards, and whose floods with their cells.
pub const MOST_WHOLE_REPORTS: usize = 200;

/// Largest flood, in cells, that is kept cell by cell for more than the last input.
pub const MOST_FLOOD_KEPT: usize = 100_000;

/// Most turns of one wait whose reports a session keeps; the newest are always among them.
pub const MOST_TURNS_KEPT: usize = 1_000;

/// Most matches that `when` rules act on in one turn; a turn with more is taken back as one that never settles. Tests get
/// there sooner.
pub const MOST_ACTED: u64 = if cfg!(test) { 1_000_000 } else { 20_000_000 };

/// Longest time between two inputs of a tape, in ms: a thousand days.
pub const LONGEST_PAUSE: u64 = 1_000 * LONGEST_WAIT;

/// Most inputs of a session.
pub const MOST_INPUTS: usize = 1_000_000;

/// Most turns of a session. Tests get there sooner.
pub const MOST_TURNS: u64 = if cfg!(test) { 100_000 } else { 10_000_000 };

/// Most signals of a session.
pub const MOST_SIGNALS: usize = 1_000_000;

/// Most tapes that a session keeps when they are cut off.
pub const MOST_BRANCHES: usize = 100;

/// Most pairs of mistakes that are tried together on what a program said.
pub const MOST_PAIRS_TRIED: usize = 20_000;

/// Most mistakes of a rulebook, its rules left out one by one among them, for which vectors are looked for.
pub const MOST_VERSIONS: usize = 400;
