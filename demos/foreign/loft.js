// The feed loft in one flat array of characters, as small browser games keep it.
//
// It reads one JSON line an input from standard input and answers each with one line of report.
// With --slip it forgets that a step of one to the side may leave the row.
const MAP = ["..#...", ".Ks..u", ".s.#.."];
const COLUMNS = MAP[0].length;
const ROWS = MAP.length;
const STEPS = { left: -1, right: 1, up: -COLUMNS, down: COLUMNS };
const SLIP = process.argv.includes("--slip");

let pieces; // "K", "s", "#" or "" for every cell
let bins; // whether a bin stands there
let moves;
let won;

function restart() {
  const cells = MAP.join("").split("");
  pieces = cells.map((glyph) => ("Ks#".includes(glyph) ? glyph : ""));
  bins = cells.map((glyph) => glyph === "u");
  moves = 0;
  won = false;
}

// The index one step on, or -1 off the board.
function beside(index, step) {
  const next = index + step;
  if (next < 0 || next >= pieces.length) return -1;
  const sideways = step === 1 || step === -1;
  const row = Math.floor(index / COLUMNS);
  if (sideways && !SLIP && Math.floor(next / COLUMNS) !== row) return -1;
  return next;
}

function move(from, to) {
  pieces[to] = pieces[from];
  pieces[from] = "";
}

function press(key) {
  const step = STEPS[key];
  if (step === undefined || won) return false;
  const keeper = pieces.indexOf("K");
  const ahead = beside(keeper, step);
  if (ahead < 0) return false;
  if (pieces[ahead] === "s") {
    const behind = beside(ahead, step);
    if (behind < 0 || pieces[behind] !== "") return false;
    move(ahead, behind);
  }
  if (pieces[ahead] !== "") return false;
  move(keeper, ahead);
  moves += 1;
  won = pieces.some((piece, index) => piece === "s" && bins[index]);
  return true;
}

function rows() {
  const glyphs = pieces.map((piece, index) => piece || (bins[index] ? "u" : "."));
  return MAP.map((_, row) => glyphs.slice(row * COLUMNS, (row + 1) * COLUMNS).join(""));
}

function report(granted) {
  const counters = { moves };
  return { index: pieces.indexOf("K"), board: rows(), counters, granted, outcome: won ? "won" : null };
}

restart();
const lines = require("node:readline").createInterface({ input: process.stdin });
lines.on("line", (line) => {
  const { input } = JSON.parse(line);
  let granted = false;
  if (input === "restart") restart();
  else granted = press(input);
  process.stdout.write(JSON.stringify(report(granted)) + "\n");
});
