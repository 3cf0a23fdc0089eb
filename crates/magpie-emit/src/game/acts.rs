//! Effects and actions in the words of the parts.

use super::words::{About, View, Writer, heading, indented};
use magpie_core::rulebook::{Action, Common, Effect, HeadingWord, KindId, Pieces, Place, SetId, Trigger};
use magpie_core::space::Heading;
use std::fmt::Write as _;

impl Writer<'_> {
    /// Effects one after another, as the whole of a method.
    pub fn effects<'e>(&mut self, effects: impl IntoIterator<Item = &'e Effect>, view: &View) -> String {
        let mut out = String::new();
        for effect in effects {
            match effect {
                Effect::Common(common) => {
                    self.common(common, view, &mut out);
                    if Self::leave(common, &mut out) {
                        break;
                    }
                }
                Effect::Become(kind) => {
                    let kind = self.kind(*kind);
                    match view.about {
                        About::Pair(first, _) => {
                            let _ = writeln!(out, "turn_into({first}, {kind});");
                        }
                        About::Many(list) => {
                            let number = self.local("number");
                            let _ = writeln!(
                                out,
                                "for {number} in 0 .. len({list}) {{\n    turn_into({list}[{number}], {kind});\n}}"
                            );
                        }
                        About::Nothing => {}
                    }
                }
                // Done once for all matches, elsewhere.
                Effect::Clear | Effect::DropRows(_) => {}
            }
        }
        out
    }

    /// What ends the turn where it stands; true where nothing can come behind it.
    fn leave(common: &Common, out: &mut String) -> bool {
        match common {
            Common::Restart | Common::NextMap => {
                let _ = writeln!(out, "return;");
                return true;
            }
            Common::Fall(..) | Common::Refill(..) => {
                let _ = writeln!(out, "if (self.stopped != 0) {{\n    return;\n}}");
            }
            Common::Remove(_)
            | Common::TurnHeading(..)
            | Common::TurnInto(..)
            | Common::Place(..)
            | Common::SpawnKind(..)
            | Common::SpawnShape(..)
            | Common::Add(..)
            | Common::Set(..)
            | Common::Grow(_)
            | Common::Quicken { .. }
            | Common::Signal(_)
            | Common::Win
            | Common::Lose => {}
        }
        false
    }

    /// What effects and actions have in common; gives in words whether it was granted.
    pub fn common(&mut self, common: &Common, view: &View, out: &mut String) -> String {
        match common {
            Common::Remove(pieces) => self.for_pieces(pieces, view, "remove(PIECE);", out),
            Common::TurnInto(pieces, kind) => {
                let act = format!("turn_into(PIECE, {});", self.kind(*kind));
                self.for_pieces(pieces, view, &act, out)
            }
            Common::TurnHeading(pieces, word) => self.turn_pieces(pieces, word, view, out),
            Common::Place(kind, place) => {
                let (at, placed) = (self.local("place"), self.local("placed"));
                let place = match place {
                    Place::At(spot) => self.spot(spot, view),
                    Place::RandomEmpty(on, area) => format!("{}()", self.empty(*on, *area)),
                };
                let kind = self.kind(*kind);
                let _ = writeln!(
                    out,
                    "let {at}: int = {place};\nlet {placed}: int = -1;\nif ({at} >= 0) {{\n    {placed} = add({at}, {kind});\n}}"
                );
                format!("{placed} >= 0")
            }
            Common::SpawnKind(kind, place) => {
                self.spawn(*kind, place, view, out);
                "true".into()
            }
            Common::Add(sum, counter) => {
                let (name, sum) = (self.counters[usize::from(counter.0)].clone(), self.sum(sum, view));
                let _ = writeln!(out, "self.{name} = bounded(self.{name} + ({sum}));");
                "true".into()
            }
            Common::Set(counter, sum) => {
                let (name, sum) = (self.counters[usize::from(counter.0)].clone(), self.sum(sum, view));
                let _ = writeln!(out, "self.{name} = bounded({sum});");
                "true".into()
            }
            Common::Grow(by) => {
                self.grow(*by, view, out);
                "true".into()
            }
            Common::Fall(set, way) => {
                let (fall, moved) = (self.fall(*set, *way), self.local("moved"));
                let _ = writeln!(out, "let {moved}: bool = {fall}();");
                moved
            }
            Common::Refill(set, edge) => {
                let (refill, made) = (self.refill(*set, *edge), self.local("made"));
                let _ = writeln!(out, "let {made}: bool = {refill}();");
                made
            }
            Common::Signal(text) => {
                let _ = writeln!(out, "tell \"{text}\";");
                "true".into()
            }
            Common::Win | Common::Lose => {
                let word = if matches!(common, Common::Win) { "won" } else { "lost" };
                let _ = writeln!(out, "if (self.pending == unfinished) {{\n    self.pending = {word};\n}}");
                "true".into()
            }
            Common::Restart => {
                let _ = writeln!(out, "self.stopped = BY_RESTART;");
                "true".into()
            }
            Common::NextMap => {
                let _ = writeln!(out, "self.stopped = BY_NEXT;");
                "true".into()
            }
            // Statements with these are not covered and have been left out.
            Common::SpawnShape(..) | Common::Quicken { .. } => "true".into(),
        }
    }

    /// Does something with each of the pieces meant, `PIECE` in words; gives whether there are any.
    fn for_pieces(&mut self, pieces: &Pieces, view: &View, act: &str, out: &mut String) -> String {
        // One or two matched pieces need no list.
        if let (Pieces::Matched(who, None), About::Pair(first, second)) = (pieces, view.about) {
            for piece in std::iter::once(first).chain(second) {
                let is = self.is_meant(*who, None, piece);
                let _ = writeln!(out, "if ({is}) {{\n    {}\n}}", act.replace("PIECE", piece));
            }
            return "true".into();
        }
        let found = self.pieces(pieces, view, out);
        let number = self.local("number");
        let act = act.replace("PIECE", &format!("{found}[{number}]"));
        let _ = writeln!(out, "for {number} in 0 .. len({found}) {{\n    {act}\n}}");
        format!("len({found}) > 0")
    }

    fn turn_pieces(&mut self, pieces: &Pieces, word: &HeadingWord, view: &View, out: &mut String) -> String {
        let found = self.pieces(pieces, view, out);
        let goal = self.goal(word, view, out);
        let (number, way, turned) = (self.local("number"), self.local("way"), self.local("turned"));
        let piece = format!("{found}[{number}]");
        let of = Self::heading_of(word, &piece, &goal);
        let _ = writeln!(
            out,
            "let {turned}: bool = false;\nfor {number} in 0 .. len({found}) {{\n    let {way}: int = {of};\n    if ({way} >= 0) {{\n        \
             self.heading_of[{piece}] = {way};\n        {turned} = true;\n    }}\n}}"
        );
        turned
    }

    /// The cell that a heading in words is about, in a local.
    fn goal(&mut self, word: &HeadingWord, view: &View, out: &mut String) -> String {
        match word {
            HeadingWord::Compass(_) | HeadingWord::Relative(_) => String::new(),
            HeadingWord::Toward(spot) | HeadingWord::Along(spot) => {
                let (goal, spot) = (self.local("goal"), self.spot(spot, view));
                let _ = writeln!(out, "let {goal}: int = {spot};");
                goal
            }
        }
    }

    fn spawn(&mut self, kind: KindId, place: &Place, view: &View, out: &mut String) {
        let (drawn, place) = match place {
            Place::At(spot) => (String::new(), self.spot(spot, view)),
            Place::RandomEmpty(on, area) => (self.empty(*on, *area), "-1".into()),
        };
        let known = self.spawns.iter().position(|(other, by)| *other == kind && *by == drawn);
        let number = known.unwrap_or_else(|| {
            self.spawns.push((kind, drawn));
            self.spawns.len() - 1
        });
        let _ = writeln!(out, "push(self.spawn_number, {number});\npush(self.spawn_place, {place});");
    }

    fn grow(&mut self, by: u32, view: &View, out: &mut String) {
        if !self.has("trails") {
            return;
        }
        let heads = self.local("heads");
        let _ = writeln!(out, "let {heads}: list;");
        match view.about {
            About::Nothing => {}
            About::Pair(first, second) => {
                for piece in std::iter::once(first).chain(second) {
                    let _ = writeln!(out, "if ({piece} >= 0) {{\n    push({heads}, self.kind_of[{piece}]);\n}}");
                }
            }
            About::Many(list) => {
                let number = self.local("number");
                let _ = writeln!(
                    out,
                    "for {number} in 0 .. len({list}) {{\n    push({heads}, self.kind_of[{list}[{number}]]);\n}}"
                );
            }
        }
        let _ = writeln!(out, "grow({by}, {heads});");
    }

    /// The method by which a set falls.
    pub fn fall(&mut self, set: SetId, way: Heading) -> String {
        let each = self.each(set, None);
        let warps = self.has("warps");
        let stem = format!("fall_{}_{}", self.set_name(set), way.word().replace('-', "_"));
        self.helper(format!("fall {} {way:?}", set.0), &stem, |writer, name| {
            let (lists, more) =
                if warps { ("    let passed: list;\n    let ended: list;\n", ", passed, ended") } else { ("", "") };
            format!(
                "/// Lets {} fall until none moves; whether one did.\nfn {name}() -> bool {{\n    let moved: bool = false;\n    let again: bool = true;\n    let rounds: int = 0;\n{lists}    \
                 while (again && self.stopped == 0) {{\n        let falling: list;\n        {each}(falling);\n        again = fall_round(falling, {}{more});\n        moved = moved || again;\n        \
                 rounds = rounds + 1;\n        if (again && rounds >= 10000) {{\n            self.stopped = BY_NEVER;\n        }}\n    }}\n    return moved;\n}}\n",
                writer.book.set(set).name,
                heading(way)
            )
        })
    }

    /// The method by which new pieces of a set come in.
    fn refill(&mut self, set: SetId, edge: Heading) -> String {
        let fall = self.fall(set, edge.opposite());
        let stem = format!("refill_{}_{}", self.set_name(set), edge.word());
        self.helper(format!("refill {} {edge:?}", set.0), &stem, |writer, name| {
            let kinds = writer.book.set(set).in_order().to_vec();
            let layer = kinds.first().map_or(0, |kind| writer.book.kind(*kind).layer);
            let table = format!("{}_KINDS", name.to_uppercase());
            writer.tables.push((table.clone(), kinds.iter().map(|kind| i64::from(kind.0)).collect()));
            let (across, down) = edge.screen_step();
            let down = down * writer.book.geometry.south();
            let line = match (across, down) {
                (0, -1) => "number",
                (0, _) => "(self.rows - 1) * self.columns + number",
                (-1, _) => "number * self.columns",
                _ => "number * self.columns + self.columns - 1",
            };
            let count = if across == 0 { "columns" } else { "rows" };
            let void = if writer.has("void") { " && !is_void(place)" } else { "" };
            format!(
                "/// Lets new pieces of {} come in until the line at the edge is full; whether one did.\nfn {name}() -> bool {{\n    let made: bool = false;\n    let filling: bool = true;\n    let rounds: int = 0;\n    \
                 while (filling && self.stopped == 0) {{\n        let empty: list;\n        for number in 0 .. self.{count} {{\n            let place: int = {line};\n            \
                 if (piece_at({layer}, place) < 0{void}) {{\n                push(empty, place);\n            }}\n        }}\n        filling = len(empty) > 0;\n        \
                 for number in 0 .. len(empty) {{\n            let kind: int = {table}[draw_below({})];\n            if (add(empty[number], kind) >= 0) {{\n                made = true;\n            }}\n        }}\n        \
                 if (filling) {{\n            {fall}();\n            rounds = rounds + 1;\n            if (rounds >= 10000) {{\n                self.stopped = BY_NEVER;\n            }}\n        }}\n    }}\n    return made;\n}}\n",
                writer.book.set(set).name,
                kinds.len()
            )
        })
    }

    /// Lists of actions, each the `else` of the one before.
    pub fn actions(&mut self, lists: &[Vec<Action>], view: &View, not_back: Option<Heading>) -> String {
        let Some((first, rest)) = lists.split_first() else { return String::new() };
        let mut out = String::new();
        let mut granted = "true".to_owned();
        for action in first {
            granted = self.action(action, view, not_back, &mut out);
            if let Action::Common(common) = action {
                if Self::leave(common, &mut out) {
                    return out;
                }
            } else if self.has("stops") {
                let _ = writeln!(out, "if (self.stopped != 0) {{\n    return;\n}}");
            }
        }
        if !rest.is_empty() && granted != "true" {
            let other = self.actions(rest, view, not_back);
            let _ = writeln!(out, "if (!({granted})) {{\n{}}}", indented(&other));
        }
        out
    }

    /// The pieces meant, but those that would turn straight back.
    fn heeding(&mut self, pieces: &Pieces, view: &View, not_back: Option<Heading>, out: &mut String) -> String {
        let found = self.pieces(pieces, view, out);
        let Some(way) = not_back else { return found };
        let (heeding, number) = (self.local("heeding"), self.local("number"));
        let back = heading(way.opposite());
        let _ = writeln!(
            out,
            "let {heeding}: list;\nfor {number} in 0 .. len({found}) {{\n    if (self.went[{found}[{number}]] != {back}) {{\n        push({heeding}, {found}[{number}]);\n    }}\n}}"
        );
        heeding
    }

    fn action(&mut self, action: &Action, view: &View, not_back: Option<Heading>, out: &mut String) -> String {
        match action {
            Action::Common(common) => self.common(common, view, out),
            Action::Step { pieces, heading: word, times } => {
                let found = self.heeding(pieces, view, not_back, out);
                let granted = self.local("granted");
                if let HeadingWord::Compass(way) = word {
                    let _ = writeln!(out, "let {granted}: bool = step({found}, {}, {times});", heading(*way));
                } else {
                    self.each_own_way(&found, word, view, Some(*times), &granted, out);
                }
                granted
            }
            Action::Drop(pieces, word) => {
                let found = self.pieces(pieces, view, out);
                let granted = self.local("granted");
                if let HeadingWord::Compass(way) = word {
                    let (ordered, number) = (self.local("ordered"), self.local("number"));
                    let way = heading(*way);
                    let _ = writeln!(
                        out,
                        "{}let {granted}: bool = false;\nlet {ordered}: list;\nforemost_first({found}, {way}, {ordered});\nfor {number} in 0 .. len({ordered}) {{\n    \
                         if (drop({ordered}[{number}], {way})) {{\n        {granted} = true;\n    }}\n}}",
                        self.new_slides()
                    );
                } else {
                    self.each_own_way(&found, word, view, None, &granted, out);
                }
                granted
            }
            Action::Leap(pieces, east, south) => {
                let found = self.pieces(pieces, view, out);
                let granted = self.local("granted");
                let straight = *east == 0 || *south == 0 || east.abs() == south.abs();
                let seen = Heading::from_screen_step(*east, *south).filter(|_| straight).map_or("-1".into(), heading);
                // A leap over more cells than any board has lands off it all the same.
                let near = |cells: i64| cells.clamp(-100_000, 100_000);
                let rows = near(*south) * self.book.geometry.south();
                let _ = writeln!(out, "let {granted}: bool = leap({found}, {}, {rows}, {seen});", near(*east));
                granted
            }
            Action::Walk(pieces, spot) => {
                let found = self.pieces(pieces, view, out);
                let (spot, granted) = (self.spot(spot, view), self.local("granted"));
                let _ = writeln!(out, "let {granted}: bool = walk({found}, {spot});");
                granted
            }
            Action::Swap { one, other, if_run } => {
                let (one, other, granted) = (self.spot(one, view), self.spot(other, view), self.local("granted"));
                let _ = writeln!(out, "let {granted}: bool = exchange({one}, {other}, {if_run});");
                granted
            }
            Action::Flood { from, into, eight } => {
                let (spot, kind, granted) = (self.spot(from, view), self.kind(*into), self.local("granted"));
                let _ = writeln!(out, "let {granted}: bool = flood({spot}, {kind}, {eight});");
                granted
            }
            Action::Choose(None) => {
                let _ = writeln!(out, "self.chosen_cell = -1;\nself.chosen_piece = -1;");
                "true".into()
            }
            Action::Choose(Some(spot)) => {
                let (spot, granted) = (self.spot(spot, view), self.local("granted"));
                let _ = writeln!(out, "let {granted}: bool = choose({spot});");
                granted
            }
            Action::Steer(set, way) => {
                let found = self.heeding(&Pieces::Every(*set, None), view, not_back, out);
                let number = self.local("number");
                let _ = writeln!(
                    out,
                    "for {number} in 0 .. len({found}) {{\n    self.heading_of[{found}[{number}]] = {};\n}}",
                    heading(*way)
                );
                format!("len({found}) > 0")
            }
            // Statements with these are not covered and have been left out.
            Action::Rotate { .. } | Action::LockActive => "false".into(),
        }
    }

    fn new_slides(&self) -> &'static str {
        if self.has("slides") { "clear(self.slid);\n" } else { "" }
    }

    /// Steps, or drops where no times are given, of pieces of which each goes its own way.
    fn each_own_way(
        &mut self,
        found: &str,
        word: &HeadingWord,
        view: &View,
        times: Option<u32>,
        granted: &str,
        out: &mut String,
    ) {
        let goal = self.goal(word, view, out);
        let [headings, ordered, ways, number, piece, way, left] =
            ["headings", "ordered", "ways", "number", "piece", "way", "left"].map(|name| self.local(name));
        let of = Self::heading_of(word, &format!("{found}[{number}]"), &goal);
        let _ = writeln!(
            out,
            "{}let {headings}: list;\nfor {number} in 0 .. len({found}) {{\n    push({headings}, {of});\n}}\nlet {ordered}: list;\nlet {ways}: list;\n\
             each_own_way({found}, {headings}, {ordered}, {ways});\nlet {granted}: bool = false;",
            self.new_slides()
        );
        let act = match times {
            None => format!("if (drop({piece}, {way})) {{\n    {granted} = true;\n}}\n"),
            Some(times) => {
                let again = match word {
                    HeadingWord::Toward(spot) | HeadingWord::Along(spot) if times > 1 => {
                        let spot = self.spot(spot, view);
                        let of = Self::heading_of(word, &piece, &spot);
                        format!(
                            "        {way} = {of};\n        if ({way} < 0) {{\n            {left} = 0;\n        }}\n"
                        )
                    }
                    _ => String::new(),
                };
                format!(
                    "let {left}: int = {times};\nwhile ({left} > 0 && self.stopped == 0) {{\n    {left} = {left} - 1;\n    if (ask_along({piece}, {way})) {{\n        {granted} = true;\n{again}    }} else {{\n        {left} = 0;\n    }}\n}}\n"
                )
            }
        };
        let _ = writeln!(
            out,
            "for {number} in 0 .. len({ordered}) {{\n    let {piece}: int = {ordered}[{number}];\n    let {way}: int = {ways}[{number}];\n{}}}",
            indented(&act)
        );
    }

    /// The spot of a touch, as a condition of a rule about it.
    pub fn is_touched(&mut self, trigger: &Trigger) -> Vec<String> {
        let (down, up) = match trigger {
            Trigger::Tap(what) => (what.as_ref(), None),
            Trigger::Drag(what, onto) => (what.as_ref(), onto.as_ref()),
            Trigger::Start | Trigger::Key(_) | Trigger::Timer(_) | Trigger::EachTurn => (None, None),
        };
        let mut all = Vec::new();
        for (met, place) in [(down, "self.tapped"), (up, "self.dropped")] {
            match met {
                None => {}
                Some(magpie_core::rulebook::Met::Edge) => all.push(format!("{place} < 0")),
                Some(magpie_core::rulebook::Met::Void) => {
                    all.push(if self.has("void") {
                        format!("{place} >= 0 && is_void({place})")
                    } else {
                        "false".into()
                    });
                }
                Some(magpie_core::rulebook::Met::Pieces(set)) => {
                    let set = *set;
                    let name = self.helper(format!("touched {}", set.0), &format!("shows_{}", self.set_name(set)), |writer, name| {
                        let is = writer.is_of(set, "kind");
                        format!(
                            "/// Whether {} stands topmost in a cell.\nfn {name}(place: int) -> bool {{\n    if (on_board(place) < 0) {{\n        return false;\n    }}\n    let kind: int = top_kind(place);\n    return kind >= 0 && {is};\n}}\n",
                            writer.book.set(set).name
                        )
                    });
                    all.push(format!("{name}({place})"));
                }
            }
        }
        all
    }
}
