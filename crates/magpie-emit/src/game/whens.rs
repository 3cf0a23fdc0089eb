//! `when` rules as methods in the words of the parts.

use super::rules::parts;
use super::words::{About, View, Writer, heading, indented};
use magpie_core::rulebook::{Common, Effect, Match, SetId, When};
use std::fmt::Write as _;

impl Writer<'_> {
    /// `when WHO [on WHO]`: all matches first, each looked at again before it is acted on.
    pub fn when_pieces(&mut self, rule: &When, name: &str) {
        let Match::On { who, on } = rule.what else { return };
        let line = rule.at.line;
        let matched = if on.is_some() { "2" } else { "1" };
        let second = on.map(|_| "second");
        let view =
            View { here: "place", seen: "seen", matches: "matches", matched, about: About::Pair("first", second) };
        self.find_pieces(who, on, line);
        self.still(rule, (who, on), &view);
        let (params, arguments) = if on.is_some() {
            ("first: int, second: int, matches: int", "firsts[number], seconds[number], matches")
        } else {
            ("first: int, matches: int", "firsts[number], matches")
        };
        let comment = self.comment(&rule.at);
        let mut body = String::new();
        for (number, (once, effects)) in parts(rule).into_iter().enumerate() {
            if once {
                let effects = self.once(&effects, rule);
                let _ = write!(
                    body,
                    "let any_{number}: bool = acted;\nfor number in 0 .. len(firsts) {{\n    any_{number} = any_{number} || still_{line}({arguments});\n}}\n\
                     if (any_{number} && self.stopped == 0) {{\n    acted = true;\n{}}}\n",
                    indented(&effects)
                );
                continue;
            }
            let each = format!("{name}_each{}", if number == 0 { String::new() } else { format!("_{number}") });
            let effects = self.effects(effects, &view);
            let _ = write!(
                self.methods,
                "/// What the rule of line {line} does with a match.\nfn {each}({params}) {{\n    let place: int = self.cell_of[first];\n    let seen: int = self.heading_of[first];\n{}}}\n\n",
                indented(&effects)
            );
            let _ = write!(
                body,
                "for number in 0 .. len(firsts) {{\n    if (self.stopped == 0) {{\n        if (still_{line}({arguments})) {{\n            acted = true;\n            {each}({arguments});\n        }}\n    }}\n}}\n"
            );
        }
        let (lists, found) =
            if on.is_some() { ("let seconds: list;\n    ", "firsts, seconds") } else { ("", "firsts") };
        let _ = write!(
            self.methods,
            "/// The rule of line {line}; whether it changed something.\nfn {name}() -> bool {{\n    {comment}    let firsts: list;\n    {lists}find_{line}({found});\n    let matches: int = len(firsts);\n    \
             if (matches == 0) {{\n        return false;\n    }}\n    keep before;\n    let acted: bool = false;\n{}    let changed: bool = acted && !same_as(before);\n    forget before;\n    return changed;\n}}\n\n",
            indented(&body)
        );
    }

    /// The method that finds all pieces of a set, each with every other of a second set in its cell.
    fn find_pieces(&mut self, who: SetId, on: Option<SetId>, line: u32) {
        let layers = |writer: &Self, set: SetId| -> Vec<u8> {
            let mut layers: Vec<u8> = writer.book.set(set).iter().map(|kind| writer.book.kind(kind).layer).collect();
            layers.sort_unstable();
            layers.dedup();
            layers.reverse();
            layers
        };
        let mut inner = String::new();
        for layer in layers(self, who) {
            let (piece, is) = (self.local("piece"), self.is_of(who, "kind"));
            let mut push = String::new();
            match on {
                None => {
                    let _ = writeln!(push, "push(firsts, {piece});");
                }
                Some(on) => {
                    for other in layers(self, on).into_iter().filter(|other| *other != layer) {
                        let (second, is) = (self.local("other"), self.is_of(on, "beside_it"));
                        let _ = write!(
                            push,
                            "let {second}: int = piece_at({other}, place);\nif ({second} >= 0) {{\n    beside_it = self.kind_of[{second}];\n    if ({is}) {{\n        push(firsts, {piece});\n        push(seconds, {second});\n    }}\n}}\n"
                        );
                    }
                }
            }
            let _ = write!(
                inner,
                "let {piece}: int = piece_at({layer}, place);\nif ({piece} >= 0) {{\n    kind = self.kind_of[{piece}];\n    if ({is}) {{\n{}    }}\n}}\n",
                indented(&indented(&push))
            );
        }
        let (params, with) = if on.is_some() {
            ("firsts: list, seconds: list", "    let beside_it: int = -1;\n")
        } else {
            ("firsts: list", "")
        };
        let mut none = format!("{} == 0", self.count_all(who));
        if let Some(on) = on {
            let _ = write!(none, " || {} == 0", self.count_all(on));
        }
        let doc = self.book.set(who).name.clone();
        let _ = write!(
            self.methods,
            "/// The matches of line {line}: {doc}, in reading order, the top layer of a cell first.\nfn find_{line}({params}) {{\n    if ({none}) {{\n        return;\n    }}\n    let kind: int = -1;\n{with}    for place in 0 .. self.cells {{\n{}    }}\n}}\n\n",
            indented(&indented(&inner))
        );
    }

    /// The method that looks whether a match still stands.
    fn still(&mut self, rule: &When, (who, on): (SetId, Option<SetId>), view: &View) {
        let line = rule.at.line;
        let first = self.is_of(who, "self.kind_of[first]");
        let (params, second) = match on {
            None => ("first: int, matches: int", String::new()),
            Some(on) => {
                let is = self.is_of(on, "self.kind_of[second]");
                ("first: int, second: int, matches: int", format!(" || self.cell_of[second] != place || !({is})"))
            }
        };
        let guard = rule.guard.as_ref().map_or("true".into(), |guard| self.cond(guard, view));
        let _ = write!(
            self.methods,
            "/// Whether a match of line {line} still stands.\nfn still_{line}({params}) -> bool {{\n    let place: int = self.cell_of[first];\n    let seen: int = self.heading_of[first];\n    \
             if (place < 0 || !({first}){second}) {{\n        return false;\n    }}\n    return {guard};\n}}\n\n"
        );
    }

    /// Effects that are done once for all matches together; of rows and columns the lists of matches are at hand.
    fn once(&mut self, effects: &[&Effect], rule: &When) -> String {
        let mut out = String::new();
        for effect in effects {
            match effect {
                Effect::Clear => {
                    let _ = writeln!(
                        out,
                        "for number in 0 .. len(ends) {{\n    if (acts[number] != 0) {{\n        let matched: list;\n        cut_out(pieces, ends, number, matched);\n        \
                         for cleared in 0 .. len(matched) {{\n            remove(matched[cleared]);\n        }}\n    }}\n}}"
                    );
                }
                Effect::DropRows(way) => {
                    if let Match::Full { of, .. } = rule.what {
                        let (each, way) = (self.each(of, None), heading(*way));
                        let [beyond, all, ahead] = ["beyond", "standing", "ahead"].map(|name| self.local(name));
                        let _ = writeln!(
                            out,
                            "let {beyond}: list;\nfor number in 0 .. len(ends) {{\n    if (acts[number] != 0) {{\n        push({beyond}, lines[number]);\n    }}\n}}\n\
                             let {all}: list;\n{each}({all});\nlet {ahead}: list;\nbefore_lines({all}, {beyond}, {way}, {ahead});\ndrop_lines({ahead}, {beyond}, {way});"
                        );
                    }
                }
                Effect::Common(Common::Fall(set, way)) => {
                    let fall = self.fall(*set, *way);
                    let _ = writeln!(out, "if (self.stopped == 0) {{\n    {fall}();\n}}");
                }
                Effect::Common(common) => {
                    let mut text = String::new();
                    self.common(common, &View::NOTHING, &mut text);
                    let _ = writeln!(out, "if (self.stopped == 0) {{\n{}}}", indented(&text));
                }
                Effect::Become(_) => {}
            }
        }
        out
    }

    /// Full rows and columns, runs and patches.
    pub fn when_lines(&mut self, rule: &When, name: &str) {
        let line = rule.at.line;
        match rule.what {
            Match::Full { row, of, ignoring } => self.find_full(line, row, of, ignoring),
            Match::Run { length, of, rows, columns } => self.find_runs(line, length, of, (rows, columns)),
            Match::Patch { length, of } => self.find_patches(line, length, of),
            Match::On { .. } => {}
        }
        let is_full = matches!(rule.what, Match::Full { .. });
        let lines = if is_full { ", lines" } else { "" };
        let guard_view = View { matches: "matches", matched: "count", ..View::NOTHING };
        let guard = rule.guard.as_ref().map_or("true".into(), |guard| self.cond(guard, &guard_view));
        let view = View { matches: "matches", matched: "len(matched)", about: About::Many("matched"), ..View::NOTHING };
        let comment = self.comment(&rule.at);
        let mut body = String::new();
        for (number, (once, effects)) in parts(rule).into_iter().enumerate() {
            if once {
                let effects = self.once(&effects, rule);
                let _ = write!(body, "if (any && self.stopped == 0) {{\n    acted = true;\n{}}}\n", indented(&effects));
                continue;
            }
            let each = format!("{name}_each{}", if number == 0 { String::new() } else { format!("_{number}") });
            let effects = self.effects(effects, &view);
            let _ = write!(
                self.methods,
                "/// What the rule of line {line} does with a match.\nfn {each}(matched: items, matches: int) {{\n{}}}\n\n",
                indented(&effects)
            );
            let _ = write!(
                body,
                "for number in 0 .. matches {{\n    if (acts[number] != 0 && self.stopped == 0) {{\n        let matched: list;\n        cut_out(pieces, ends, number, matched);\n        acted = true;\n        {each}(matched, matches);\n    }}\n}}\n"
            );
        }
        let list = if is_full { "    let lines: list;\n" } else { "" };
        let _ = write!(
            self.methods,
            "/// The rule of line {line}; whether it changed something.\nfn {name}() -> bool {{\n    {comment}    let pieces: list;\n    let ends: list;\n{list}    find_{line}(pieces, ends{lines});\n    let matches: int = len(ends);\n    \
             if (matches == 0) {{\n        return false;\n    }}\n    keep before;\n    let acts: list;\n    let any: bool = false;\n    let acted: bool = false;\n    let begin: int = 0;\n    for number in 0 .. matches {{\n        \
             let count: int = ends[number] - begin;\n        begin = ends[number];\n        push(acts, 0);\n        if (count > 0 && ({guard})) {{\n            acts[number] = 1;\n            any = true;\n        }}\n    }}\n{}    \
             let changed: bool = acted && !same_as(before);\n    forget before;\n    return changed;\n}}\n\n",
            indented(&body)
        );
    }

    fn layers_down(&self, of: SetId) -> Vec<u8> {
        let mut layers: Vec<u8> = self.book.set(of).iter().map(|kind| self.book.kind(kind).layer).collect();
        layers.sort_unstable();
        layers.dedup();
        layers.reverse();
        layers
    }

    fn find_full(&mut self, line: u32, row: bool, of: SetId, ignoring: Option<SetId>) {
        let mut inner = String::new();
        let kind = |writer: &mut Self, set: SetId, layer: u8, act: &str| {
            let kind = writer.local("kind");
            let is = writer.is_of(set, &kind);
            format!("let {kind}: int = kind_on({layer}, place);\nif ({kind} >= 0 && {is}) {{\n{}}}\n", indented(act))
        };
        if let Some(set) = ignoring {
            for layer in self.layers_down(set) {
                inner.push_str(&kind(self, set, layer, "return true;\n"));
            }
        }
        for layer in self.layers_down(of) {
            inner.push_str(&kind(self, of, layer, &format!("push(pieces, piece_at({layer}, place));\n")));
        }
        let void = if self.has("void") { " || is_void(place)" } else { "" };
        let (lines, across) = if row { ("rows", "true") } else { ("columns", "false") };
        let _ = write!(
            self.methods,
            "/// Whether a cell of line {line}'s rule counts as filled; its pieces are added.\nfn fills_{line}(place: int, pieces: list) -> bool {{\n    let before: int = len(pieces);\n{}    return len(pieces) > before{void};\n}}\n\n\
             /// The full lines of line {line}.\nfn find_{line}(pieces: list, ends: list, lines: list) {{\n    for line in 0 .. self.{lines} {{\n        let before: int = len(pieces);\n        let full: bool = true;\n        let number: int = 0;\n        \
             while (full && number < line_length({across})) {{\n            full = fills_{line}(line_first({across}, line) + number * line_step({across}), pieces);\n            number = number + 1;\n        }}\n        \
             if (full && len(pieces) > before) {{\n            push(ends, len(pieces));\n            push(lines, line);\n        }} else {{\n            while (len(pieces) > before) {{\n                pop(pieces);\n            }}\n        }}\n    }}\n}}\n\n",
            indented(&inner)
        );
    }

    fn find_runs(&mut self, line: u32, length: u32, of: SetId, (rows, columns): (bool, bool)) {
        let is = self.is_of(of, "kind");
        let mut inner = String::new();
        for (_, across) in [(rows, "true"), (columns, "false")].into_iter().filter(|(wanted, _)| *wanted) {
            for layer in self.layers_down(of) {
                let _ = writeln!(inner, "run_{line}(place, {layer}, {across}, pieces, ends);");
            }
        }
        let _ = write!(
            self.methods,
            "/// The runs of line {line}, in reading order of their first cells.\nfn find_{line}(pieces: list, ends: list) {{\n    for place in 0 .. self.cells {{\n{}    }}\n}}\n\n\
             /// A run of line {line} that begins in a cell.\nfn run_{line}(place: int, layer: int, across: bool, pieces: list, ends: list) {{\n    let kind: int = kind_on(layer, place);\n    if (kind < 0 || !({is})) {{\n        return;\n    }}\n    \
             let right: int = 0;\n    let down: int = 1;\n    if (across) {{\n        right = 1;\n        down = 0;\n    }}\n    let before: int = shifted(place, -right, -down);\n    \
             if (before >= 0) {{\n        if (kind_on(layer, before) == kind) {{\n            return;\n        }}\n    }}\n    let start: int = len(pieces);\n    let further: int = place;\n    \
             while (further >= 0) {{\n        push(pieces, piece_at(layer, further));\n        further = shifted(further, right, down);\n        if (further >= 0) {{\n            if (kind_on(layer, further) != kind) {{\n                further = -1;\n            }}\n        }}\n    }}\n    \
             if (len(pieces) - start >= {length}) {{\n        push(ends, len(pieces));\n    }} else {{\n        while (len(pieces) > start) {{\n            pop(pieces);\n        }}\n    }}\n}}\n\n",
            indented(&indented(&inner))
        );
    }

    fn find_patches(&mut self, line: u32, length: u32, of: SetId) {
        let is = self.is_of(of, "kind");
        let mut inner = String::new();
        for layer in self.layers_down(of) {
            let _ = writeln!(inner, "patch_{line}(place, {layer}, seen, pieces, ends);");
        }
        let _ = write!(
            self.methods,
            "/// The patches of line {line}, in reading order of their first cells.\nfn find_{line}(pieces: list, ends: list) {{\n    let seen: list;\n    fill(seen, LAYERS * self.cells, 0);\n    for place in 0 .. self.cells {{\n{}    }}\n}}\n\n\
             /// The patch of line {line} round a cell that was not seen before.\nfn patch_{line}(place: int, layer: int, seen: list, pieces: list, ends: list) {{\n    let kind: int = kind_on(layer, place);\n    \
             if (kind < 0 || !({is})) {{\n        return;\n    }}\n    if (seen[layer * self.cells + place] != 0) {{\n        return;\n    }}\n    let area: list;\n    push(area, place);\n    seen[layer * self.cells + place] = 1;\n    let number: int = 0;\n    \
             while (number < len(area)) {{\n        for heading in 0 .. 4 {{\n            let further: int = shifted(area[number], STEP_X[heading], STEP_Y[heading]);\n            if (further >= 0) {{\n                \
             if (seen[layer * self.cells + further] == 0 && kind_on(layer, further) == kind) {{\n                    seen[layer * self.cells + further] = 1;\n                    push(area, further);\n                }}\n            }}\n        }}\n        number = number + 1;\n    }}\n    \
             if (len(area) >= {length}) {{\n        sort(area);\n        for one in 0 .. len(area) {{\n            push(pieces, piece_at(layer, area[one]));\n        }}\n        push(ends, len(pieces));\n    }}\n}}\n\n",
            indented(&indented(&inner))
        );
    }
}
