//! The rules of a rulebook as methods in the words of the parts.

use super::words::{About, View, Writer, indented};
use magpie_core::Input;
use magpie_core::rulebook::{Effect, InputRule, Match, Met, PlainVerb, Trigger, Verb, When};
use std::fmt::Write as _;

/// The verb's constant; a warp's holds its kind too.
fn verb(verb: PlainVerb) -> i64 {
    match verb {
        PlainVerb::Stop => 0,
        PlainVerb::Pass => 1,
        PlainVerb::Swap => 3,
        PlainVerb::Take => 4,
        PlainVerb::Perish => 5,
        PlainVerb::Clash => 6,
        PlainVerb::Bounce => 7,
        PlainVerb::Slide => 8,
        PlainVerb::Wrap => 9,
        // Rules with a ride are not covered and have been left out.
        PlainVerb::Ride => 10,
        PlainVerb::Warp(kind) => 100 + i64::from(kind.0),
    }
}

/// Constants of the verbs.
pub const VERBS: [(&str, i64); 10] = [
    ("STOP", 0),
    ("PASS", 1),
    ("SHOVE", 2),
    ("SWAP", 3),
    ("TAKE", 4),
    ("PERISH", 5),
    ("CLASH", 6),
    ("BOUNCE", 7),
    ("SLIDE", 8),
    ("WRAP", 9),
];

/// Keys with a name, and what no rule is about.
pub const KEYS: [&str; 5] = ["RESTART", "NEXT", "TAP", "DRAG", "OTHER"];

impl Writer<'_> {
    /// Tables of the meetings, the first entry for none.
    pub fn meeting_tables(&mut self) {
        let book = self.book;
        let column = |of: &dyn Fn(&magpie_core::rulebook::Meeting) -> i64, first: i64| -> Vec<i64> {
            std::iter::once(first).chain(book.meetings.iter().map(of)).collect()
        };
        let verbs = column(
            &|rule| match rule.verb {
                Verb::Plain(plain) => verb(plain),
                Verb::Shove { .. } => 2,
            },
            0,
        );
        let most = column(
            &|rule| match rule.verb {
                Verb::Shove { up_to, .. } => up_to.map_or(0, i64::from),
                Verb::Plain(_) => 0,
            },
            0,
        );
        let other = column(
            &|rule| match rule.verb {
                Verb::Shove { otherwise, .. } => otherwise.map_or(-1, verb),
                Verb::Plain(_) => -1,
            },
            -1,
        );
        let effects = column(&|rule| i64::from(!rule.effects.is_empty()), 0);
        let lines = column(&|rule| rule.at.line.into(), 0);
        for (name, values) in
            [("VERB_OF", verbs), ("MOST_OF", most), ("ELSE_OF", other), ("HAS_EFFECTS", effects), ("LINE_OF", lines)]
        {
            self.tables.push((name.into(), values));
        }
    }

    /// Who decides when pieces meet, and what the rules do besides.
    pub fn meetings(&mut self) {
        let view = View { here: "place", seen: "seen", about: About::Pair("asker", Some("met")), ..View::NOTHING };
        let mut pieces = String::from(
            "/// The rule that decides when a kind meets another, 0 for none.\nfn meeting(asker: int, met: int, place: int, seen: int) -> int {\n",
        );
        let mut edge = String::from(
            "/// The rule that decides at the edge, 0 for none.\nfn meeting_edge(asker: int, place: int, seen: int) -> int {\n",
        );
        let mut void = String::from(
            "/// The rule that decides before a place that is no cell, 0 for none.\nfn meeting_void(asker: int, place: int, seen: int) -> int {\n",
        );
        let mut doing = String::from(
            "/// What a meeting does besides.\nfn do_meeting(rule: int, asker: int, met: int, place: int, seen: int) {\n",
        );
        for (number, rule) in self.book.meetings.iter().enumerate() {
            self.begin();
            let mut holds = self.is_of(rule.who, "asker");
            if let Met::Pieces(set) = rule.met {
                let met = self.is_of(set, "met");
                let _ = write!(holds, " && {met}");
            }
            if let Some(same) = rule.layers {
                let _ = write!(holds, " && LAYER_OF[asker] {} LAYER_OF[met]", if same { "==" } else { "!=" });
            }
            if let Some(guard) = &rule.guard {
                let guard = self.cond(guard, &view);
                let _ = write!(holds, " && ({guard})");
            }
            let comment = self.comment(&rule.at);
            let into = match rule.met {
                Met::Pieces(_) => &mut pieces,
                Met::Edge => &mut edge,
                Met::Void => &mut void,
            };
            let _ = write!(into, "    {comment}    if ({holds}) {{\n        return {};\n    }}\n", number + 1);
            if !rule.effects.is_empty() {
                let name = format!("into_{}", rule.at.line);
                let _ = writeln!(
                    doing,
                    "    if (rule == {}) {{\n        {name}(asker, met, place, seen);\n    }}",
                    number + 1
                );
                let effects = self.effects(&rule.effects, &view);
                let doc = format!("/// What the meeting of line {} does besides.\n", rule.at.line);
                let _ = write!(
                    self.methods,
                    "{doc}fn {name}(asker: int, met: int, place: int, seen: int) {{\n    {comment}{}}}\n\n",
                    indented(&effects)
                );
            }
        }
        for text in [pieces, edge, void] {
            let _ = write!(self.methods, "{text}    return 0;\n}}\n\n");
        }
        let _ = write!(self.methods, "{doing}}}\n\n");
        self.offs();
    }

    fn offs(&mut self) {
        let view = View { here: "place", seen: "seen", about: About::Pair("leaver", Some("stays")), ..View::NOTHING };
        let mut which = String::from(
            "/// The rule about a kind that leaves another, 0 for none.\nfn leaving_rule(leaver: int, stays: int, place: int, seen: int) -> int {\n",
        );
        let mut doing = String::from(
            "/// What such a rule does.\nfn do_off(rule: int, leaver: int, stays: int, place: int, seen: int) {\n",
        );
        for (number, rule) in self.book.offs.iter().enumerate() {
            self.begin();
            let (who, other) = (self.is_of(rule.who, "leaver"), self.is_of(rule.other, "stays"));
            let guard = rule.guard.as_ref().map_or(String::new(), |guard| format!(" && ({})", self.cond(guard, &view)));
            let comment = self.comment(&rule.at);
            let name = format!("off_{}", rule.at.line);
            let _ = write!(
                which,
                "    {comment}    if ({who} && {other}{guard}) {{\n        return {};\n    }}\n",
                number + 1
            );
            let _ = writeln!(
                doing,
                "    if (rule == {}) {{\n        {name}(leaver, stays, place, seen);\n    }}",
                number + 1
            );
            let effects = self.effects(&rule.effects, &view);
            let _ = write!(
                self.methods,
                "/// What the leaving of line {} does.\nfn {name}(leaver: int, stays: int, place: int, seen: int) {{\n    {comment}{}}}\n\n",
                rule.at.line,
                indented(&effects)
            );
        }
        let _ = write!(self.methods, "{which}    return 0;\n}}\n\n{doing}}}\n\n");
    }

    /// What keys and touches do, and what begins and ends a turn.
    pub fn inputs(&mut self) {
        let mut causes: Vec<(&Trigger, String, String)> = Vec::new();
        for rule in &self.book.inputs {
            let (name, key) = match &rule.trigger {
                Trigger::Start => ("on_start".to_owned(), String::new()),
                Trigger::EachTurn => ("each_turn".to_owned(), String::new()),
                Trigger::Tap(_) => ("on_tap".to_owned(), "KEY_TAP".to_owned()),
                Trigger::Drag(..) => ("on_drag".to_owned(), "KEY_DRAG".to_owned()),
                Trigger::Key(key) => (format!("on_{}", key.0), format!("KEY_{}", key.0.to_uppercase())),
                // Timers are not covered and have been left out.
                Trigger::Timer(_) => continue,
            };
            if !causes.iter().any(|(_, other, _)| *other == name) {
                causes.push((&rule.trigger, name, key));
            }
        }
        let book = self.book;
        let mut act = String::from("/// What a key or a touch does.\nfn act(key: int) {\n");
        for (_, name, key) in &causes {
            let rules: Vec<&InputRule> =
                book.inputs.iter().filter(|rule| Self::cause(&rule.trigger) == *name).collect();
            self.rules_of(name, &rules);
            if !key.is_empty() {
                let _ = writeln!(act, "    if (key == {key}) {{\n        {name}();\n    }}");
            }
        }
        let _ = write!(self.methods, "{act}}}\n\n");
        self.words_of_keys();
    }

    fn cause(trigger: &Trigger) -> String {
        match trigger {
            Trigger::Start => "on_start".into(),
            Trigger::EachTurn => "each_turn".into(),
            Trigger::Tap(_) => "on_tap".into(),
            Trigger::Drag(..) => "on_drag".into(),
            Trigger::Key(key) => format!("on_{}", key.0),
            Trigger::Timer(_) => String::new(),
        }
    }

    /// The rules of one cause: all are judged before the first acts.
    fn rules_of(&mut self, name: &str, rules: &[&InputRule]) {
        let view = View::NOTHING;
        let mut judged = String::new();
        let mut acted = String::new();
        let alone = rules.len() == 1;
        for (number, rule) in rules.iter().enumerate() {
            self.begin();
            let mut holds = self.is_touched(&rule.trigger);
            holds.extend(rule.guard.as_ref().map(|guard| format!("({})", self.cond(guard, &view))));
            let comment = self.comment(&rule.at);
            let acts = self.actions(&rule.actions, &view, rule.no_reverse.map(|(_, heading)| heading));
            let mut call = acts;
            if !alone {
                let _ = write!(
                    self.methods,
                    "/// What a rule of line {} does.\nfn {name}_{}() {{\n    {comment}{}}}\n\n",
                    rule.at.line,
                    number + 1,
                    indented(&call)
                );
                call = format!("{name}_{}();\n", number + 1);
            }
            let condition = match (holds.is_empty(), alone) {
                (true, _) => String::new(),
                (false, true) => holds.join(" && "),
                (false, false) => {
                    let _ = writeln!(judged, "    let fits_{}: bool = {};", number + 1, holds.join(" && "));
                    format!("fits_{}", number + 1)
                }
            };
            if !alone && number > 0 && self.has("stops") {
                let _ = writeln!(acted, "    if (self.stopped != 0) {{\n        return;\n    }}");
            }
            if alone {
                let _ = write!(acted, "    {comment}");
            }
            if condition.is_empty() {
                acted.push_str(&indented(&call));
            } else {
                let _ = writeln!(acted, "    if ({condition}) {{\n{}    }}", indented(&indented(&call)));
            }
        }
        let _ = write!(
            self.methods,
            "/// What happens {}.\nfn {name}() {{\n{judged}{acted}}}\n\n",
            match name {
                "on_start" => "when a map begins".to_owned(),
                "each_turn" => "after every turn in which something was granted".to_owned(),
                "on_tap" => "on a tap".to_owned(),
                "on_drag" => "on a drag".to_owned(),
                name => format!("on the key {}", name.trim_start_matches("on_")),
            }
        );
    }

    /// The word of an input as a key, by the names of the rulebook.
    fn words_of_keys(&mut self) {
        let mut text = String::from(
            "/// What a word means, -1 for one that means nothing.\nfn key_of(word: text) -> int {\n    self.tapped = -1;\n    self.dropped = -1;\n",
        );
        let mut is = |word: &str, key: &str| {
            let _ = write!(text, "    if (is(word, \"{word}\")) {{\n        return {key};\n    }}\n");
        };
        is("restart", "KEY_RESTART");
        is("next", "KEY_NEXT");
        let written = |key: &str| if key.len() == 1 { format!("key:{key}") } else { key.to_owned() };
        let mut known: Vec<&str> = Vec::new();
        for (key, input) in &self.book.aliases {
            if known.contains(&key.0.as_str()) {
                continue;
            }
            known.push(&key.0);
            let to = match input {
                Input::Restart => "KEY_RESTART",
                Input::Next => "KEY_NEXT",
                // To take back is to put an older copy in place.
                _ => "-1",
            };
            is(&written(&key.0), to);
        }
        for rule in &self.book.inputs {
            if let Trigger::Key(key) = &rule.trigger
                && !known.contains(&key.0.as_str())
            {
                known.push(&key.0);
                is(&written(&key.0), &format!("KEY_{}", key.0.to_uppercase()));
            }
        }
        for key in ["left", "right", "up", "down", "act", "alt"] {
            if !known.contains(&key) {
                is(key, "KEY_OTHER");
            }
        }
        let _ = write!(
            text,
            "    if (begins(word, \"key:\")) {{\n        let letter: int = letter_at(word, 4);\n        \
             if (((letter >= 'a' && letter <= 'z') || (letter >= '0' && letter <= '9')) && letter_at(word, 5) == 0) {{\n            return KEY_OTHER;\n        }}\n    }}\n    \
             if (begins(word, \"tap:\")) {{\n        self.tapped = read_cell(word, 4);\n        self.dropped = self.tapped;\n        \
             if (self.reading > 0 && letter_at(word, self.reading) == 0) {{\n            return KEY_TAP;\n        }}\n    }}\n    \
             if (begins(word, \"drag:\")) {{\n        self.tapped = read_cell(word, 5);\n        if (self.reading > 0 && letter_at(word, self.reading) == '>') {{\n            \
             self.dropped = read_cell(word, self.reading + 1);\n            if (self.reading > 0 && letter_at(word, self.reading) == 0) {{\n                return KEY_DRAG;\n            }}\n        }}\n    }}\n    return -1;\n}}\n\n"
        );
        self.methods.push_str(&text);
    }

    /// The `when` rules, and a pass over all of them.
    pub fn whens(&mut self) {
        let mut pass = String::from(
            "/// Lets every rule of settling act once; whether one changed something.\nfn one_pass() -> bool {\n    let changed: bool = false;\n",
        );
        let mut runs = Vec::new();
        for rule in &self.book.whens {
            self.begin();
            let name = format!("when_{}", rule.at.line);
            match rule.what {
                Match::On { .. } => self.when_pieces(rule, &name),
                Match::Full { .. } | Match::Run { .. } | Match::Patch { .. } => self.when_lines(rule, &name),
            }
            if matches!(rule.what, Match::Run { .. }) {
                runs.push(format!("find_{}", rule.at.line));
            }
            let _ = write!(
                pass,
                "    if (self.stopped == 0) {{\n        if ({name}()) {{\n            changed = true;\n        }}\n    }}\n"
            );
        }
        let _ = write!(self.methods, "{pass}    return changed;\n}}\n\n");
        let mut makes = String::from(
            "/// Whether a run holds one of two cells now.\nfn makes_run(one: int, other: int) -> bool {\n",
        );
        for find in runs {
            let (pieces, ends, number, place) =
                (self.local("pieces"), self.local("ends"), self.local("number"), self.local("place"));
            let _ = write!(
                makes,
                "    let {pieces}: list;\n    let {ends}: list;\n    {find}({pieces}, {ends});\n    for {number} in 0 .. len({pieces}) {{\n        \
                 let {place}: int = self.cell_of[{pieces}[{number}]];\n        if ({place} == one || {place} == other) {{\n            return true;\n        }}\n    }}\n"
            );
        }
        let _ = write!(self.methods, "{makes}    return false;\n}}\n\n");
    }

    /// The end of a turn, and the promises.
    pub fn ends(&mut self) {
        let pending = if self.has("pending") {
            "    if (self.pending != unfinished) {\n        self.outcome = self.pending;\n        self.pending = unfinished;\n        return;\n    }\n"
        } else {
            ""
        };
        let mut text = format!("/// Whether the game is won or lost.\nfn look_at_end() {{\n{pending}");
        for rule in &self.book.outcomes {
            self.begin();
            let cond = self.cond(&rule.cond, &View::NOTHING);
            let comment = self.comment(&rule.at);
            let word = if rule.win { "won" } else { "lost" };
            let mut inner = format!("self.outcome = {word};\n");
            if !rule.effects.is_empty() {
                let name = format!("end_{}", rule.at.line);
                let effects = self.effects(&rule.effects, &View::NOTHING);
                let _ = write!(
                    self.methods,
                    "/// What the end of line {} does.\nfn {name}() {{\n    {comment}{}}}\n\n",
                    rule.at.line,
                    indented(&effects)
                );
                let _ = writeln!(inner, "{name}();");
                if self.has("spawns") {
                    let _ = writeln!(inner, "if (self.stopped == 0) {{\n    do_spawns();\n}}");
                }
            }
            if self.has("pending") {
                let _ = writeln!(inner, "self.pending = unfinished;");
            }
            let _ = write!(
                text,
                "    {comment}    if ({cond}) {{\n{}        return;\n    }}\n",
                indented(&indented(&inner))
            );
        }
        let _ = write!(self.methods, "{text}}}\n\n");
        let mut text = String::from(
            "/// The first promise that does not hold, by its number, -1 where all do.\nfn broken_promise() -> int {\n",
        );
        for (number, rule) in self.book.invariants.iter().enumerate() {
            self.begin();
            let cond = self.cond(&rule.cond, &View::NOTHING);
            let comment = self.comment(&rule.at);
            let holds = if rule.always { format!("!({cond})") } else { cond };
            let _ = write!(text, "    {comment}    if ({holds}) {{\n        return {number};\n    }}\n");
        }
        let _ = write!(self.methods, "{text}    return -1;\n}}\n\n");
    }

    /// Puts down what was asked for.
    pub fn do_spawns(&mut self) {
        if !self.has("spawns") {
            return;
        }
        let kinds = self.spawns.iter().map(|(kind, _)| i64::from(kind.0)).collect();
        self.tables.push(("SPAWN_KIND".into(), kinds));
        let blocks = if self.has("blocked") { "self.blocked = true;" } else { "placed = true;" };
        let mut draws = String::new();
        for (number, (_, by)) in self.spawns.iter().enumerate().filter(|(_, (_, by))| !by.is_empty()) {
            let _ =
                write!(draws, "        if (numbers[number] == {number}) {{\n            place = {by}();\n        }}\n");
        }
        let _ = write!(
            self.methods,
            "/// Puts down what was asked for.\nfn do_spawns() {{\n    let numbers: list;\n    let places: list;\n    for number in 0 .. len(self.spawn_number) {{\n        \
             push(numbers, self.spawn_number[number]);\n        push(places, self.spawn_place[number]);\n    }}\n    clear(self.spawn_number);\n    clear(self.spawn_place);\n    \
             for number in 0 .. len(numbers) {{\n        let place: int = places[number];\n{draws}        let placed: bool = false;\n        if (place >= 0) {{\n            \
             placed = add(place, SPAWN_KIND[numbers[number]]) >= 0;\n        }}\n        if (!placed) {{\n            {blocks}\n        }}\n    }}\n}}\n\n"
        );
    }
}

/// Whether an effect is done once for all matches.
pub fn is_once(effect: &Effect) -> bool {
    effect.is_once_for_all()
}

/// The effects of a rule in parts: those done for each match, and those done once for all.
pub fn parts(rule: &When) -> Vec<(bool, Vec<&Effect>)> {
    let mut found: Vec<(bool, Vec<&Effect>)> = Vec::new();
    for effect in &rule.effects {
        match found.last_mut() {
            Some((once, all)) if *once == is_once(effect) => all.push(effect),
            _ => found.push((is_once(effect), vec![effect])),
        }
    }
    found
}
