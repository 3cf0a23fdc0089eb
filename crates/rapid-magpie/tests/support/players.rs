//! Programs that play an emitted game by the words they read, and tell after each how it stands; and the same of the model.
#![allow(dead_code, clippy::unwrap_used)]

use magpie_core::Input;
use magpie_core::grid::Taken;
use magpie_core::rulebook::Rulebook;
use magpie_core::tape::{Session, Start};
use magpie_emit::{Language, counter_fields};
use std::path::Path;
use std::sync::Arc;

/// What a player program needs to know of a game.
pub struct Player<'b> {
    pub book: &'b Rulebook,
    /// The module's name.
    pub name: &'b str,
    /// A seed of its own.
    pub seed: Option<u64>,
}

impl Player<'_> {
    fn chooses(&self) -> bool {
        format!(
            "{:?}",
            (
                &self.book.inputs,
                &self.book.meetings,
                &self.book.offs,
                &self.book.whens,
                &self.book.outcomes,
                &self.book.invariants
            )
        )
        .contains("Cho")
    }

    fn promises(&self) -> bool {
        !self.book.invariants.is_empty()
    }

    /// The program in a language: after each word a line with what happened, the board, the numbers, and what was told.
    pub fn program(&self, language: Language) -> String {
        let counters = counter_fields(self.book, language);
        let text = match language {
            Language::Python => PYTHON,
            Language::Js | Language::Ts => JS,
            Language::Lua => LUA,
            Language::Rust => RUST,
            Language::C => C,
            Language::Cpp => CPP,
            Language::CSharp => CSHARP,
        };
        let joined = |of: &dyn Fn(&String) -> String, with: &str, none: &str| {
            if counters.is_empty() { none.to_owned() } else { counters.iter().map(of).collect::<Vec<_>>().join(with) }
        };
        let (counted, chosen, broken, made) = match language {
            Language::Python => (
                joined(&|name| format!("str(g.{name})"), " + ',' + ", "''"),
                "g.chosen",
                "g.broken()",
                self.seed.map_or(String::new(), |seed| seed.to_string()),
            ),
            Language::Js | Language::Ts => (
                joined(&|name| format!("g.{name}"), " + ',' + ", "''"),
                "g.chosen",
                "g.broken()",
                self.seed.map_or(String::new(), |seed| format!("{seed}n")),
            ),
            Language::Lua => (
                joined(&|name| format!("g.{name}"), " .. ',' .. ", "''"),
                "g.chosen",
                "g:broken()",
                self.seed.map_or(String::new(), |seed| (seed as i64).to_string()),
            ),
            Language::Rust => (
                joined(&|name| format!("g.{name}.to_string()"), " + \",\" + &", "String::new()"),
                "g.chosen",
                "g.broken()",
                self.seed.map_or("new()".into(), |seed| format!("with_seed({seed})")),
            ),
            Language::C => (
                joined(&|name| format!("printf(\"%lld\", (long long)g.{name});"), " printf(\",\"); ", ""),
                "g.chosen",
                "NAME_broken(&g)",
                self.seed.map_or("start(&g)".into(), |seed| format!("start_with_seed(&g, {seed}u)")),
            ),
            Language::Cpp => (
                joined(&|name| format!("std::to_string(g.{name})"), " + \",\" + ", "std::string()"),
                "g.chosen",
                "g.broken()",
                self.seed.map_or(String::new(), |seed| format!("{{{seed}u}}")),
            ),
            Language::CSharp => (
                joined(&|name| format!("g.{name}"), " + \",\" + ", "\"\""),
                "g.Chosen",
                "g.Broken()",
                self.seed.map_or(String::new(), |seed| format!("{seed}UL")),
            ),
        };
        let none = match language {
            Language::Python | Language::Rust => "None",
            Language::Js | Language::Ts | Language::CSharp => "null",
            Language::Lua => "nil",
            Language::C => "NULL",
            Language::Cpp => "std::nullopt",
        };
        let (no_cell, no_text) = match language {
            Language::Rust => ("None::<Cell>", "None::<&str>"),
            Language::C => ("(NAME_cell){-1, -1}", "(const char *)NULL"),
            Language::Cpp => ("std::optional<Cell>()", "std::optional<std::string>()"),
            Language::CSharp => ("(Cell?)null", "(string)null"),
            Language::Ts => ("(null as { column: number; row: number } | null)", "(null as string | null)"),
            Language::Python | Language::Js | Language::Lua => (none, none),
        };
        text.replace("COUNTED", &counted)
            .replace("CHOSEN", if self.chooses() { chosen } else { no_cell })
            .replace("BROKEN", if self.promises() { broken } else { no_text })
            .replace("MADE", &made)
            .replace("MODULE", if language == Language::Ts { "NAME.js" } else { "NAME.mjs" })
            .replace("NAME", self.name)
    }

    /// What the model says, line by line; the words that a game may take at any time.
    pub fn model(&self, map: usize, words: &[String]) -> Vec<String> {
        let start = Start { seed: self.seed, ..Start::map(Arc::new(self.book.clone()), map) };
        let mut session = Session::new(start).unwrap();
        let mut signals: Vec<String> = session.signals().cloned().collect();
        let mut lines = vec![Self::line(&session, self.book, "-", &signals)];
        for word in words {
            let taken = word.parse::<Input>().map_or(Taken::No, |input| {
                // To take back is to put an older copy in place.
                if *self.book.input_of(&input) == Input::Undo { Taken::No } else { session.give(&input) }
            });
            if taken == Taken::Yes {
                signals = session.played().last().map_or(Vec::new(), |entry| entry.signals.clone());
            }
            if session.grid().outcome() == Some(magpie_core::grid::Ended::NeverSettles) && self.name.is_empty() {
                lines.push("\tnever settles\t".into());
                return lines;
            }
            lines.push(Self::line(&session, self.book, if taken == Taken::Yes { "1" } else { "0" }, &signals));
        }
        lines
    }

    fn line(session: &Session, book: &Rulebook, taken: &str, signals: &[String]) -> String {
        let grid = session.grid();
        let counters: Vec<String> = grid.counters().map(|(_, value)| value.to_string()).collect();
        let small = |read| grid.counter(read).to_string();
        [
            taken.to_owned(),
            grid.picture().join("~~"),
            small(magpie_core::rulebook::CounterRead::Turns),
            small(magpie_core::rulebook::CounterRead::Moves),
            (grid.map() + 1).to_string(),
            grid.outcome().map_or("-", magpie_core::grid::Ended::word).to_owned(),
            counters.join(","),
            grid.chosen().map_or("-".into(), |cell| format!("{},{}", cell.column, cell.row)),
            signals.join(";"),
            grid.broken().map_or("-".into(), |number| book.invariants[number].at.text.clone()),
        ]
        .join("\t")
    }
}

/// The name of the file of a player program.
pub fn file(folder: &Path, language: &str, ending: &str) -> std::path::PathBuf {
    folder.join(language).join(format!("player.{ending}"))
}

const PYTHON: &str = "import sys\nfrom NAME import *\nsys.stdout.reconfigure(encoding='utf-8')\ng = Game(MADE)\ndef show(taken):\n    c, b = CHOSEN, BROKEN\n    print('\\t'.join([taken, '~~'.join(g.board()), str(g.turns), str(g.moves), str(g.map), g.outcome.value if g.outcome else '-', COUNTED, f'{c.column},{c.row}' if c else '-', ';'.join(g.signals), b or '-']))\nshow('-')\nfor line in sys.stdin:\n    before = g.copy()\n    left = before.board()\n    taken = g.input(line.rstrip('\\n'))\n    assert before.board() == left, 'a copy is a game of its own'\n    show('1' if taken else '0')\n";

const JS: &str = "import { Game } from './MODULE';\nimport fs from 'node:fs';\nconst g = new Game(MADE);\nconst out = [''];\nout.length = 0;\nfunction show(taken) {\n  const c = CHOSEN, b = BROKEN;\n  out.push([taken, g.board().join('~~'), g.turns, g.moves, g.map, g.outcome ?? '-', COUNTED, c ? `${c.column},${c.row}` : '-', g.signals.join(';'), b ?? '-'].join('\\t'));\n}\nshow('-');\nconst text = fs.readFileSync(0, 'utf8');\nfor (const line of text === '' ? [] : text.replace(/\\n$/, '').split('\\n')) {\n  const before = g.copy();\n  const left = before.board().join();\n  const taken = g.input(line);\n  if (before.board().join() !== left) throw new Error('a copy is a game of its own');\n  show(taken ? '1' : '0');\n}\nfs.writeSync(1, out.join('\\n') + '\\n');\n";

const LUA: &str = "local g = require('NAME').Game.new(MADE)\nlocal function show(taken)\n  local c, b = CHOSEN, BROKEN\n  print(table.concat({ taken, table.concat(g:board(), '~~'), tostring(g.turns), tostring(g.moves), tostring(g.map), g.outcome or '-', COUNTED, c and (c.column .. ',' .. c.row) or '-', table.concat(g.signals, ';'), b or '-' }, '\\t'))\nend\nshow('-')\nfor line in io.lines() do\n  local before = g:copy()\n  local left = table.concat(before:board())\n  local taken = g:input(line)\n  assert(table.concat(before:board()) == left, 'a copy is a game of its own')\n  show(taken and '1' or '0')\nend\n";

const RUST: &str = "mod NAME;\nuse NAME::*;\nuse std::io::BufRead;\nfn show(g: &Game, taken: &str) {\n    let c: Option<Cell> = CHOSEN;\n    let b: Option<&str> = BROKEN;\n    let outcome = match g.outcome { None => \"-\", Some(Outcome::Won) => \"won\", Some(Outcome::Lost) => \"lost\", Some(Outcome::NeverSettles) => \"never settles\" };\n    let counted: String = COUNTED;\n    println!(\"{taken}\\t{}\\t{}\\t{}\\t{}\\t{outcome}\\t{counted}\\t{}\\t{}\\t{}\", g.board().join(\"~~\"), g.turns, g.moves, g.map, c.map_or(\"-\".to_string(), |c| format!(\"{},{}\", c.column, c.row)), g.signals.join(\";\"), b.unwrap_or(\"-\"));\n}\nfn main() {\n    let mut g = Game::MADE;\n    show(&g, \"-\");\n    for line in std::io::stdin().lock().lines() {\n        let line = line.unwrap();\n        let before = g.clone();\n        let left = before.board();\n        let taken = g.input(&line);\n        assert!(before.board() == left, \"a copy is a game of its own\");\n        show(&g, if taken { \"1\" } else { \"0\" });\n    }\n}\n";

const C: &str = "#include \"NAME.h\"\n#include <stdio.h>\n#include <string.h>\nstatic NAME_game g, before;\nstatic char text[4096], left[1 << 20], now[1 << 20];\nstatic void show(const char *taken) {\n  static const char *const ends[] = {\"won\", \"lost\", \"never settles\"};\n  const NAME_cell c = CHOSEN;\n  const char *b = BROKEN;\n  NAME_board(&g, now);\n  printf(\"%s\\t\", taken);\n  for (size_t i = 0; now[i] != 0; i++) {\n    if (now[i] == '\\n') { if (now[i + 1] != 0) printf(\"~~\"); } else putchar(now[i]);\n  }\n  printf(\"\\t%lld\\t%lld\\t%d\\t%s\\t\", (long long)g.turns, (long long)g.moves, g.map, (int)g.outcome < 0 ? \"-\" : ends[g.outcome]);\n  COUNTED\n  if (c.column < 0) printf(\"\\t-\\t\"); else printf(\"\\t%lld,%lld\\t\", (long long)c.column, (long long)c.row);\n  for (int i = 0; i < g.signal_count; i++) printf(\"%s%s\", i > 0 ? \";\" : \"\", g.signals[i]);\n  printf(\"\\t%s\\n\", b != NULL ? b : \"-\");\n}\nint main(void) {\n  NAME_MADE;\n  show(\"-\");\n  while (fgets(text, sizeof text, stdin) != NULL) {\n    text[strcspn(text, \"\\n\")] = 0;\n    before = g;\n    NAME_board(&before, left);\n    const bool taken = NAME_input(&g, text);\n    NAME_board(&before, now);\n    if (strcmp(left, now) != 0) return 1;\n    show(taken ? \"1\" : \"0\");\n  }\n  return 0;\n}\n";

const CPP: &str = "#include \"NAME.hpp\"\n#include <iostream>\nusing namespace NAME;\nstatic std::string joined(const std::vector<std::string> &all, const char *with) {\n  std::string text;\n  for (std::size_t i = 0; i < all.size(); i++) text += (i > 0 ? with : \"\") + all[i];\n  return text;\n}\nstatic void show(const Game &g, const char *taken) {\n  const std::optional<Cell> c = CHOSEN;\n  const std::optional<std::string> b = BROKEN;\n  const std::string counted = COUNTED;\n  const char *end = !g.outcome ? \"-\" : *g.outcome == Outcome::Won ? \"won\" : *g.outcome == Outcome::Lost ? \"lost\" : \"never settles\";\n  std::cout << taken << '\\t' << joined(g.board(), \"~~\") << '\\t' << g.turns << '\\t' << g.moves << '\\t' << g.map << '\\t' << end << '\\t' << counted << '\\t';\n  if (c) std::cout << c->column << ',' << c->row; else std::cout << '-';\n  std::cout << '\\t' << joined(g.signals, \";\") << '\\t' << (b ? *b : \"-\") << '\\n';\n}\nint main() {\n  Game g MADE;\n  show(g, \"-\");\n  std::string line;\n  while (std::getline(std::cin, line)) {\n    const Game before = g;\n    const auto left = before.board();\n    const bool taken = g.input(line);\n    if (before.board() != left) return 1;\n    show(g, taken ? \"1\" : \"0\");\n  }\n}\n";

const CSHARP: &str = "using System;\nusing NAME;\nstatic class Player\n{\n    static void Show(Game g, string taken)\n    {\n        Cell? c = CHOSEN;\n        string b = BROKEN;\n        string end = g.Outcome == null ? \"-\" : g.Outcome == Outcome.Won ? \"won\" : g.Outcome == Outcome.Lost ? \"lost\" : \"never settles\";\n        Console.Write(taken + \"\\t\" + string.Join(\"~~\", g.Board()) + \"\\t\" + g.Turns + \"\\t\" + g.Moves + \"\\t\" + g.Map + \"\\t\" + end + \"\\t\" + COUNTED + \"\\t\" + (c == null ? \"-\" : c.Value.Column + \",\" + c.Value.Row) + \"\\t\" + string.Join(\";\", g.Signals) + \"\\t\" + (b ?? \"-\") + \"\\n\");\n    }\n    static int Main()\n    {\n        Console.OutputEncoding = new System.Text.UTF8Encoding(false);\n        var g = new Game(MADE);\n        Show(g, \"-\");\n        string line;\n        while ((line = Console.ReadLine()) != null)\n        {\n            var before = g.Copy();\n            string left = string.Join(\"\\n\", before.Board());\n            bool taken = g.Input(line);\n            if (string.Join(\"\\n\", before.Board()) != left) return 1;\n            Show(g, taken ? \"1\" : \"0\");\n        }\n        return 0;\n    }\n}\n";
