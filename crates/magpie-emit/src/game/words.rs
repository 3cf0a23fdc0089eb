//! What rules look at, in the words of the parts: conditions, sums, cells, pieces.

use crate::names::KindName;
use magpie_core::rulebook::{
    Area, Cond, CountIn, CounterRead, HeadingWord, KindId, Pieces, Rulebook, SetId, Spot, Sum, Term,
};
use magpie_core::space::Heading;
use std::collections::BTreeSet;
use std::fmt::Write as _;

/// The pieces that a rule is about, by the names of what holds them.
#[derive(Clone, Copy, Debug)]
pub enum About {
    Nothing,
    /// A piece, or two.
    Pair(&'static str, Option<&'static str>),
    /// A list.
    Many(&'static str),
}

/// What a rule may speak of besides the board, by the names of what holds it.
#[derive(Clone, Copy, Debug)]
pub struct View {
    pub here: &'static str,
    pub seen: &'static str,
    pub matches: &'static str,
    pub matched: &'static str,
    pub about: About,
}

impl View {
    /// A rule that speaks of the board alone.
    pub const NOTHING: Self = Self { here: "-1", seen: "-1", matches: "0", matched: "0", about: About::Nothing };
}

/// Writes a rulebook in the words of the parts.
pub struct Writer<'b> {
    pub book: &'b Rulebook,
    pub source: &'b str,
    pub kinds: Vec<KindName>,
    /// The fields of the rulebook's counters.
    pub counters: Vec<String>,
    pub features: BTreeSet<&'static str>,
    /// Methods that were asked for, with what they are about.
    helpers: Vec<(String, String)>,
    /// Methods in words.
    pub methods: String,
    /// Tables of what belongs to a set.
    pub tables: Vec<(String, Vec<i64>)>,
    /// What spawns put down: the kind, and the method that draws the cell.
    pub spawns: Vec<(KindId, String)>,
    locals: usize,
}

/// A heading's constant.
pub fn heading(heading: Heading) -> String {
    heading.word().replace('-', "_").to_uppercase()
}

/// Lines moved in.
pub fn indented(lines: &str) -> String {
    lines.lines().fold(String::new(), |mut text, line| {
        let _ = writeln!(text, "    {line}");
        text
    })
}

impl<'b> Writer<'b> {
    pub const fn new(
        book: &'b Rulebook,
        source: &'b str,
        kinds: Vec<KindName>,
        counters: Vec<String>,
        features: BTreeSet<&'static str>,
    ) -> Self {
        Self {
            book,
            source,
            kinds,
            counters,
            features,
            helpers: Vec::new(),
            methods: String::new(),
            tables: Vec::new(),
            spawns: Vec::new(),
            locals: 0,
        }
    }

    /// The name of a local that nothing else in the method has.
    pub fn local(&mut self, what: &str) -> String {
        self.locals += 1;
        format!("{what}_{}", self.locals)
    }

    /// Locals are counted anew.
    pub const fn begin(&mut self) {
        self.locals = 0;
    }

    pub fn has(&self, feature: &str) -> bool {
        self.features.contains(feature)
    }

    pub fn kind(&self, kind: KindId) -> String {
        format!("KIND_{}", self.kinds[usize::from(kind.0)].name.to_uppercase())
    }

    /// A set's name as part of a method's.
    pub fn set_name(&self, set: SetId) -> String {
        self.book.set(set).name.replace('-', "_")
    }

    /// A comment with a rule as the rulebook has it.
    pub fn comment(&self, at: &magpie_core::rulebook::RuleAt) -> String {
        let words = self.source.get(at.span.start..at.span.end).unwrap_or(&at.text);
        let words: Vec<&str> = words.lines().map(|line| line.split(" //").next().unwrap_or(line)).collect();
        let folded = words.join(" ").split_whitespace().collect::<Vec<_>>().join(" ");
        format!("// {}: {folded}\n", at.line)
    }

    /// A method that is needed, made once for what it is about.
    pub fn helper(&mut self, about: String, stem: &str, make: impl FnOnce(&mut Self, &str) -> String) -> String {
        if let Some((_, name)) = self.helpers.iter().find(|(other, _)| *other == about) {
            return name.clone();
        }
        let stem = stem.to_lowercase();
        let taken = |name: &str| self.helpers.iter().any(|(_, other)| other == name);
        let name = if taken(&stem) {
            let mut number = 2;
            while taken(&format!("{stem}_{number}")) {
                number += 1;
            }
            format!("{stem}_{number}")
        } else {
            stem
        };
        self.helpers.push((about, name.clone()));
        // The method that asked for it goes on counting where it was.
        let locals = self.locals;
        let text = make(self, &name);
        self.locals = locals;
        self.methods.push_str(&text);
        self.methods.push('\n');
        name
    }

    /// Whether a kind, by the name of what holds it, belongs to a set.
    pub fn is_of(&mut self, set: SetId, kind: &str) -> String {
        let kinds: Vec<KindId> = self.book.set(set).iter().collect();
        match kinds.len() {
            0 => "false".into(),
            1 => format!("{kind} == {}", self.kind(kinds[0])),
            2 | 3 => {
                let all: Vec<String> = kinds.iter().map(|one| format!("{kind} == {}", self.kind(*one))).collect();
                format!("({})", all.join(" || "))
            }
            _ => format!("{}[{kind}] != 0", self.table_of(set)),
        }
    }

    fn table_of(&mut self, set: SetId) -> String {
        let members: Vec<i64> =
            (0..self.book.kinds.len()).map(|at| i64::from(self.book.set(set).contains(KindId(at as u16)))).collect();
        if let Some((name, _)) = self.tables.iter().find(|(_, other)| *other == members) {
            return name.clone();
        }
        let stem = format!("IS_{}", self.set_name(set).to_uppercase());
        let taken = |name: &str| self.tables.iter().any(|(other, _)| other == name);
        let name = if taken(&stem) { format!("{stem}_{}", self.tables.len()) } else { stem };
        self.tables.push((name.clone(), members));
        name
    }

    /// The layers on which pieces of a set stand, the top one first.
    fn layers_of(&self, set: SetId) -> Vec<u8> {
        let layers: BTreeSet<u8> = self.book.set(set).iter().map(|kind| self.book.kind(kind).layer).collect();
        layers.into_iter().rev().collect()
    }

    /// How many pieces of a set there are.
    pub fn count_all(&mut self, set: SetId) -> String {
        let kinds: Vec<KindId> = self.book.set(set).iter().collect();
        match kinds.len() {
            0 => "0".into(),
            1..=3 => {
                let all: Vec<String> =
                    kinds.iter().map(|kind| format!("self.count_of[{}]", self.kind(*kind))).collect();
                if all.len() == 1 { all.concat() } else { format!("({})", all.join(" + ")) }
            }
            _ => {
                let name = self.helper(format!("all {}", set.0), &format!("count_{}", self.set_name(set)), |writer, name| {
                    let table = writer.table_of(set);
                    format!(
                        "/// How many {} there are.\nfn {name}() -> int {{\n    let found: int = 0;\n    for kind in 0 .. KINDS {{\n        \
                         if ({table}[kind] != 0) {{\n            found = found + self.count_of[kind];\n        }}\n    }}\n    return found;\n}}\n",
                        writer.book.set(set).name
                    )
                });
                format!("{name}()")
            }
        }
    }

    /// Whether what stands on a layer of a cell shares it with another of a set.
    pub fn shares(&mut self, set: SetId, place: &str, layer: &str) -> String {
        let name = self.helper(format!("shares {}", set.0), &format!("shares_{}", self.set_name(set)), |writer, name| {
            let is = writer.is_of(set, "kind");
            format!(
                "/// Whether another layer of a cell holds {}.\nfn {name}(place: int, layer: int) -> bool {{\n    for other in 0 .. LAYERS {{\n        \
                 let kind: int = kind_on(other, place);\n        if (other != layer && kind >= 0) {{\n            if ({is}) {{\n                return true;\n            \
                 }}\n        }}\n    }}\n    return false;\n}}\n",
                writer.book.set(set).name
            )
        });
        format!("{name}({place}, {layer})")
    }

    /// Lines that do something with each piece of a set in a cell, the top layer first; `act` gets the layer.
    fn in_cell(&mut self, who: SetId, on: Option<(bool, SetId)>, act: &str) -> String {
        let mut text = String::new();
        for layer in self.layers_of(who) {
            let shares = on.map(|(wanted, other)| {
                let shares = self.shares(other, "place", &layer.to_string());
                if wanted { shares } else { format!("!{shares}") }
            });
            let piece = self.local("piece");
            let inner = match shares {
                Some(shares) => format!("if ({shares}) {{\n    {act}\n}}\n", act = act.replace("PIECE", &piece)),
                None => format!("{}\n", act.replace("PIECE", &piece)),
            };
            let kind = self.local("kind");
            let is = self.is_of(who, &kind);
            let _ = write!(
                text,
                "let {piece}: int = piece_at({layer}, place);\nif ({piece} >= 0) {{\n    let {kind}: int = self.kind_of[{piece}];\n    if ({is}) {{\n{}    }}\n}}\n",
                indented(&indented(&inner))
            );
        }
        text
    }

    /// Whether a cell, by its number, lies in a part of the board.
    fn in_area(area: Area) -> String {
        let within = |line: Option<i64>, of: &str, count: &str| match line {
            Some(number) if i32::try_from(number).is_err() => "false".into(),
            Some(number) => format!("{of} == {number}"),
            None => format!("{of} == self.{count} - 1"),
        };
        match area {
            Area::Map => "true".into(),
            Area::Row(line) => within(line, "place / self.columns", "rows"),
            Area::Column(line) => within(line, "place % self.columns", "columns"),
        }
    }

    fn count(&mut self, who: SetId, on: Option<(bool, SetId)>, within: &CountIn, view: &View) -> String {
        let area = match within {
            CountIn::Area(Area::Map) if on.is_none() => return self.count_all(who),
            CountIn::Area(area) => Some(*area),
            CountIn::Spot(_) => None,
        };
        let about = format!("count {} {on:?} {area:?}", who.0);
        let mut stem = format!("count_{}", self.set_name(who));
        if let Some((wanted, other)) = on {
            stem = format!("{stem}_{}_{}", if wanted { "on" } else { "off" }, self.set_name(other));
        }
        let name = self.helper(about, &format!("{stem}{}", if area.is_some() { "" } else { "_in" }), |writer, name| {
            writer.begin();
            let lines = writer.in_cell(who, on, "found = found + 1;");
            let doc = writer.book.set(who).name.clone();
            match area {
                Some(area) => {
                    let holds = Self::in_area(area);
                    let inner = if holds == "true" { lines } else { format!("if ({holds}) {{\n{}}}\n", indented(&lines)) };
                    format!(
                        "/// How many {doc} there are of which this holds.\nfn {name}() -> int {{\n    let found: int = 0;\n    for place in 0 .. self.cells {{\n{}    }}\n    return found;\n}}\n",
                        indented(&indented(&inner))
                    )
                }
                None => format!(
                    "/// How many {doc} stand in a cell.\nfn {name}(place: int) -> int {{\n    let found: int = 0;\n    if (place >= 0) {{\n{}    }}\n    return found;\n}}\n",
                    indented(&indented(&lines))
                ),
            }
        });
        match within {
            CountIn::Spot(spot) => format!("{name}({})", self.spot(spot, view)),
            CountIn::Area(_) => format!("{name}()"),
        }
    }

    pub fn spot(&mut self, spot: &Spot, view: &View) -> String {
        match spot {
            Spot::Here => view.here.into(),
            Spot::Tapped | Spot::Dragged => "on_board(self.tapped)".into(),
            Spot::Dropped => "on_board(self.dropped)".into(),
            Spot::Chosen => "chosen_now()".into(),
            Spot::AheadOf(kind) => format!("ahead_of({})", self.kind(*kind)),
            Spot::The(kind) => format!("first_of({})", self.kind(*kind)),
            Spot::At(cell) if i32::try_from(cell.column).is_ok() && i32::try_from(cell.row).is_ok() => {
                format!("cell_at({}, {})", cell.column, cell.row)
            }
            Spot::At(_) => "-1".into(),
        }
    }

    pub fn cond(&mut self, cond: &Cond, view: &View) -> String {
        let mut joined = |all: &[Cond], with: &str| {
            let all: Vec<String> = all.iter().map(|cond| self.cond(cond, view)).collect();
            format!("({})", all.join(with))
        };
        match cond {
            Cond::Or(all) => joined(all, " || "),
            Cond::And(all) => joined(all, " && "),
            Cond::Not(inner) => format!("!({})", self.cond(inner, view)),
            Cond::Heading(wanted) => format!("{} == {}", view.seen, heading(*wanted)),
            Cond::Blocked => "self.blocked".into(),
            Cond::Spot(spot) => format!("{} >= 0", self.spot(spot, view)),
            Cond::Beside(one, other) => format!("beside({}, {})", self.spot(one, view), self.spot(other, view)),
            Cond::Compare(left, compare, right) => {
                let sign = match compare.symbol() {
                    "=" => "==",
                    other => other,
                };
                format!("{} {sign} {}", self.sum(left, view), self.sum(right, view))
            }
        }
    }

    pub fn sum(&mut self, sum: &Sum, view: &View) -> String {
        let mut text = String::new();
        for (number, (minus, term)) in sum.0.iter().enumerate() {
            text.push_str(match (number, minus) {
                (0, true) => "-",
                (0, false) => "",
                (_, true) => " - ",
                (_, false) => " + ",
            });
            let words = match term {
                Term::Int(value) if *value < 0 => format!("({value})"),
                Term::Int(value) => value.to_string(),
                Term::Counter(CounterRead::Moves) => "self.moves".into(),
                Term::Counter(CounterRead::Turns) => "self.turns".into(),
                // What reads the clock is not covered.
                Term::Counter(CounterRead::Clock) => "0".into(),
                Term::Counter(CounterRead::Own(id)) => format!("self.{}", self.counters[usize::from(id.0)]),
                Term::Count { who, on, within } => format!("wide({})", self.count(*who, *on, within, view)),
                Term::Matches => format!("wide({})", view.matches),
                Term::Matched => format!("wide({})", view.matched),
            };
            text.push_str(&words);
        }
        text
    }

    /// The method that gathers all pieces of a set, in reading order, the top layer of a cell first.
    pub fn each(&mut self, who: SetId, on: Option<SetId>) -> String {
        let mut stem = format!("each_{}", self.set_name(who));
        if let Some(on) = on {
            stem = format!("{stem}_on_{}", self.set_name(on));
        }
        self.helper(format!("each {} {on:?}", who.0), &stem, |writer, name| {
            writer.begin();
            let lines = writer.in_cell(who, on.map(|on| (true, on)), "push(found, PIECE);");
            let all = writer.count_all(who);
            let doc = writer.book.set(who).name.clone();
            let with = on.map_or(String::new(), |on| format!(" on {}", writer.book.set(on).name));
            // Where all have been found the rest of the board is not looked at.
            let stop = if on.is_some() { String::new() } else { " && len(found) < left".into() };
            let left = if on.is_some() { String::new() } else { format!("    let left: int = {all};\n") };
            format!(
                "/// All {doc}{with}, in reading order.\nfn {name}(found: list) {{\n{left}    let place: int = 0;\n    while (place < self.cells{stop}) {{\n{}        place = place + 1;\n    }}\n}}\n",
                indented(&indented(&lines))
            )
        })
    }

    /// Lines that put the pieces meant into a new list; the list's name.
    pub fn pieces(&mut self, pieces: &Pieces, view: &View, out: &mut String) -> String {
        let name = self.local("found");
        let _ = writeln!(out, "let {name}: list;");
        match pieces {
            Pieces::Every(who, on) => {
                let each = self.each(*who, *on);
                let _ = writeln!(out, "{each}({name});");
            }
            Pieces::Matched(who, on) => match view.about {
                About::Nothing => {}
                About::Pair(first, second) => {
                    for piece in std::iter::once(first).chain(second) {
                        let is = self.is_meant(*who, *on, piece);
                        let _ = writeln!(out, "if ({is}) {{\n    push({name}, {piece});\n}}");
                    }
                }
                About::Many(list) => {
                    let (number, piece) = (self.local("number"), self.local("piece"));
                    let is = self.is_meant(*who, *on, &piece);
                    let _ = writeln!(
                        out,
                        "for {number} in 0 .. len({list}) {{\n    let {piece}: int = {list}[{number}];\n    if ({is}) {{\n        push({name}, {piece});\n    }}\n}}"
                    );
                }
            },
            Pieces::Active => {}
            Pieces::Tapped | Pieces::Dragged | Pieces::Dropped => {
                let spot = if matches!(pieces, Pieces::Dropped) { Spot::Dropped } else { Spot::Tapped };
                let (spot, place, piece) = (self.spot(&spot, view), self.local("place"), self.local("piece"));
                let _ = writeln!(
                    out,
                    "let {place}: int = {spot};\nif ({place} >= 0) {{\n    let {piece}: int = top_piece({place});\n    if ({piece} >= 0) {{\n        push({name}, {piece});\n    }}\n}}"
                );
            }
            Pieces::Chosen => {
                let _ = writeln!(out, "if (self.chosen_piece >= 0) {{\n    push({name}, self.chosen_piece);\n}}");
            }
        }
        name
    }

    /// Whether a matched piece stands on the board and is meant.
    pub fn is_meant(&mut self, who: SetId, on: Option<SetId>, piece: &str) -> String {
        let kind = format!("self.kind_of[{piece}]");
        let is = self.is_of(who, &kind);
        let shares = on.map_or(String::new(), |on| {
            let shares = self.shares(on, &format!("self.cell_of[{piece}]"), &format!("LAYER_OF[{kind}]"));
            format!(" && {shares}")
        });
        format!("{piece} >= 0 && self.cell_of[{piece}] >= 0 && {is}{shares}")
    }

    /// The heading that words give a piece.
    pub fn heading_of(word: &HeadingWord, piece: &str, goal: &str) -> String {
        match word {
            HeadingWord::Compass(fixed) => heading(*fixed),
            HeadingWord::Relative(eighths) => format!("turned(self.heading_of[{piece}], {eighths})"),
            HeadingWord::Toward(_) => format!("toward(self.cell_of[{piece}], {goal})"),
            HeadingWord::Along(_) => format!("along({piece}, {goal})"),
        }
    }

    /// The method that draws one of the empty cells of a part of the board, -1 where there is none.
    pub fn empty(&mut self, on: Option<SetId>, area: Area) -> String {
        self.helper(format!("empty {on:?} {area:?}"), "draw_empty", |writer, name| {
            writer.begin();
            let is_ground_meant = on.is_some_and(|on| writer.book.ground.is_some_and(|kind| writer.book.set(on).contains(kind)));
            let is = on.map(|on| writer.is_of(on, "kind"));
            let others = "pieces_in(place)";
            let holds = match (is, is_ground_meant) {
                (None, _) => format!("{others} == 0"),
                (Some(is), false) => format!("{others} == 1 && kind >= 0 && {is}"),
                (Some(is), true) => format!("{others} <= 1 && kind >= 0 && {is}"),
            };
            let kind = if on.is_some() { "        let kind: int = top_kind(place);\n" } else { "" };
            let void = if writer.has("void") { " && !is_void(place)" } else { "" };
            format!(
                "/// One of the empty cells, by a draw; -1 where there is none.\nfn {name}() -> int {{\n    let found: list;\n    for place in 0 .. self.cells {{\n{kind}        \
                 if ({} && {holds}{void}) {{\n            push(found, place);\n        }}\n    }}\n    if (len(found) == 0) {{\n        return -1;\n    }}\n    return found[draw_below(len(found))];\n}}\n",
                Self::in_area(area)
            )
        })
    }
}
