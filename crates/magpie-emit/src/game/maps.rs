//! Maps, and how the board is drawn, in the words of the parts.

use super::words::Writer;
use magpie_core::rulebook::{KindId, Map, MapCells, Rulebook};
use std::fmt::Write as _;

/// The drawings of the maps.
pub struct Drawn {
    pub drawings: Vec<Vec<String>>,
    /// Bytes of the longest printed board.
    pub bytes: usize,
}

/// Cells that a board of one's own may have in any case.
pub const OWN_CELLS: usize = 64;

/// What a letter of a drawing stands for.
type Legend = Vec<(Option<Vec<KindId>>, char)>;

/// Letters of one byte that are the same in every language.
fn is_plain(letter: char) -> bool {
    letter.is_ascii_graphic() && !matches!(letter, '"' | '\'' | '\\' | '?')
}

/// A letter for everything that lies in some cell; nothing where there is more than there are letters.
fn legend(book: &Rulebook) -> Option<Legend> {
    let mut found: Legend = vec![(None, ' ')];
    let entries = book.maps.iter().filter_map(|map| match &map.cells {
        MapCells::Legend { entries, .. } => Some(entries),
        MapCells::Filled { .. } => None,
    });
    let mut wanted: Vec<Vec<KindId>> = Vec::new();
    for kinds in entries.flatten().flatten() {
        let kinds = sorted(kinds, book.ground);
        if !wanted.contains(&kinds) {
            wanted.push(kinds);
        }
    }
    // What stands on no map may still stand on a board of one's own.
    let glyphs = book.kinds.iter().map(|kind| kind.glyph).chain(book.glyphs.iter().map(|(glyph, _)| *glyph));
    for kinds in glyphs.filter_map(|glyph| book.kinds_of_glyph(glyph)) {
        let kinds = sorted(&kinds, book.ground);
        if wanted.len() < 60 && !wanted.contains(&kinds) {
            wanted.push(kinds);
        }
    }
    // The rulebook's own letters first, so that no other takes them.
    let own = |kinds: &[KindId]| -> Option<char> {
        let letters = (' '..='~').filter(|letter| is_plain(*letter));
        let mut letters = letters.filter(|letter| {
            let of = book.kinds_of_glyph(*letter);
            of.is_some_and(|of| sorted(&of, book.ground) == kinds)
        });
        // The ground has a letter of its own, and so has nothing at all.
        let ground = book.ground.map(|ground| book.kind(ground).glyph).filter(|letter| is_plain(*letter));
        if kinds.is_empty() { ground.or_else(|| letters.next()) } else { letters.next() }
    };
    for kinds in &wanted {
        if let Some(letter) = own(kinds) {
            found.push((Some(kinds.clone()), letter));
        }
    }
    let taken: Vec<char> = found.iter().map(|(_, letter)| *letter).collect();
    let mut free = ('a'..='z').chain('A'..='Z').chain('0'..='9').chain('!'..='/').chain(':'..='@').chain('['..='~');
    for kinds in &wanted {
        if !found.iter().any(|(of, _)| of.as_ref() == Some(kinds)) {
            let letter = free.find(|letter| is_plain(*letter) && !taken.contains(letter))?;
            found.push((Some(kinds.clone()), letter));
        }
    }
    Some(found)
}

/// The letter of a drawing for one of the rulebook's own.
pub fn letter(book: &Rulebook, glyph: char) -> Option<char> {
    let wanted = if glyph == ' ' { None } else { Some(sorted(&book.kinds_of_glyph(glyph)?, book.ground)) };
    legend(book)?.into_iter().find(|(kinds, _)| *kinds == wanted).map(|(_, letter)| letter)
}

/// The kinds of a cell without the ground, in order.
fn sorted(kinds: &[KindId], ground: Option<KindId>) -> Vec<KindId> {
    let mut kinds: Vec<KindId> = kinds.iter().copied().filter(|kind| Some(*kind) != ground).collect();
    kinds.sort_unstable();
    kinds.dedup();
    kinds
}

/// Writes how maps are laid out and the board is drawn.
pub fn write(writer: &mut Writer) -> Drawn {
    let legend = legend(writer.book);
    let numbered = legend.is_none();
    if numbered {
        writer.features.insert("numbered");
    }
    let entries: Legend = legend.unwrap_or_else(|| every_sort(writer));
    let mut drawings = Vec::new();
    let (mut drawn, mut starts) = (Vec::new(), Vec::new());
    for map in &writer.book.maps {
        let numbers = numbers_of(map, &entries, writer.book.ground);
        starts.push(drawn.len() as i64);
        if numbered {
            drawn.extend(numbers.iter().map(|number| *number as i64));
            drawings.push(Vec::new());
        } else {
            let columns = map.extent.columns as usize;
            let line = |line: &[usize]| line.iter().map(|number| entries[*number].1).collect::<String>();
            drawings.push(numbers.chunks(columns).map(line).collect());
        }
    }
    writer.tables.push(("DRAWN".into(), drawn));
    writer.tables.push(("MAP_START".into(), starts));
    lay(writer, &entries, numbered);
    lay_out(writer);
    entering(writer);
    glyphs(writer);
    let widest = writer.book.kinds.iter().map(|kind| kind.glyph.len_utf8());
    let widest = widest.chain(writer.book.glyphs.iter().map(|(glyph, _)| glyph.len_utf8())).max().unwrap_or(1);
    let bytes = |map: &Map| map.extent.rows as usize * (map.extent.columns as usize * widest + 1);
    let largest = writer.book.maps.iter().map(bytes).max().unwrap_or(0);
    // A board of one's own may be a little larger than a tiny map.
    Drawn { drawings, bytes: largest.max(OWN_CELLS * (widest + 1)) + 1 }
}

/// Everything that lies in some cell, by numbers only.
fn every_sort(writer: &Writer) -> Legend {
    let mut found: Legend = vec![(None, ' ')];
    for map in &writer.book.maps {
        if let MapCells::Legend { entries, .. } = &map.cells {
            for kinds in entries.iter().flatten() {
                let kinds = Some(sorted(kinds, writer.book.ground));
                if !found.iter().any(|(other, _)| *other == kinds) {
                    found.push((kinds, ' '));
                }
            }
        }
    }
    found
}

fn numbers_of(map: &Map, legend: &Legend, ground: Option<KindId>) -> Vec<usize> {
    let MapCells::Legend { cells, entries } = &map.cells else { return Vec::new() };
    let number = |entry: &Option<Vec<KindId>>| {
        let kinds = entry.as_ref().map(|kinds| sorted(kinds, ground));
        legend.iter().position(|(other, _)| *other == kinds).unwrap_or(0)
    };
    let known: Vec<usize> = entries.iter().map(number).collect();
    cells.iter().map(|entry| known[usize::from(*entry)]).collect()
}

/// What a letter, or a number, of a drawing puts into a cell.
fn lay(writer: &mut Writer, legend: &Legend, numbered: bool) {
    let mut text = String::from(
        "/// Puts into a cell what a letter of a drawing stands for.\nfn lay(place: int, letter: int) {\n",
    );
    for (number, (kinds, letter)) in legend.iter().enumerate() {
        let is = if numbered { number.to_string() } else { format!("'{letter}'") };
        let Some(kinds) = kinds else {
            if writer.has("void") {
                let _ =
                    write!(text, "    if (letter == {is}) {{\n        self.at[place] = -2;\n        return;\n    }}\n");
            }
            continue;
        };
        if kinds.is_empty() {
            continue;
        }
        let words: Vec<&str> = kinds.iter().map(|kind| writer.book.kind(*kind).name.as_str()).collect();
        let shown = if numbered { number.to_string() } else { letter.to_string() };
        let _ = write!(text, "    // {shown}  {}\n    if (letter == {is}) {{\n", words.join(", "));
        for kind in kinds {
            let _ = writeln!(text, "        add(place, {});", writer.kind(*kind));
        }
        text.push_str("    }\n");
    }
    if writer.has("ground") {
        text.push_str("    add(place, GROUND);\n");
    }
    let _ = write!(writer.methods, "{text}}}\n\n");
}

fn lay_out(writer: &mut Writer) {
    let mut text = String::from("/// The board of the map at its beginning.\nfn lay_out() {\n");
    for (number, map) in writer.book.maps.iter().enumerate() {
        let MapCells::Filled { of, scatter } = &map.cells else { continue };
        let (columns, rows, of) = (map.extent.columns, map.extent.rows, writer.kind(*of));
        let act = match scatter {
            None => format!("fill_map({columns}, {rows}, {of});"),
            Some((share, other)) => {
                // A draw below ten thousand hits where it is less than a hundred times the per cent.
                let least = (100 * share.above + share.below - 1).div_euclid(share.below);
                format!("scatter({columns}, {rows}, {of}, {least}, {});", writer.kind(*other))
            }
        };
        let _ = write!(text, "    if (self.map == {}) {{\n        {act}\n        return;\n    }}\n", number + 1);
    }
    let drawn = writer.book.maps.iter().any(|map| matches!(map.cells, MapCells::Legend { .. }));
    let _ = write!(writer.methods, "{text}{}}}\n\n", if drawn { "    draw_map();\n" } else { "" });
}

/// What is kept of the state in which a map is entered, and how a restart brings it back.
fn entering(writer: &mut Writer) {
    let (mut fields, mut begin, mut note, mut back, mut same) =
        (String::new(), String::new(), String::new(), String::new(), String::new());
    for (number, counter) in writer.book.counters.iter().enumerate() {
        let name = &writer.counters[number];
        let _ = writeln!(fields, "field {name}: long \"a counter\";");
        let _ = writeln!(begin, "    self.{name} = {};", counter.start);
        let _ = write!(same, "    if (self.{name} != before.{name}) {{\n        return false;\n    }}\n");
        if !counter.kept {
            let _ = writeln!(fields, "field entry__{number}: long;");
            let _ = writeln!(note, "    self.entry__{number} = self.{name};");
            let _ = writeln!(back, "    self.{name} = self.entry__{number};");
        }
    }
    if writer.has("random") {
        begin.push_str("    begin_draws();\n");
        note.push_str("    self.entry_random = self.draws_at;\n");
        same.push_str("    if (self.draws_at != before.draws_at) {\n        return false;\n    }\n");
        if !writer.book.is_seed_kept {
            back.push_str("    self.draws_at = self.entry_random;\n");
        }
    }
    let _ = write!(
        writer.methods,
        "{fields}\n/// Begins a game on its map.\nfn begin_game() {{\n    self.turns = 0;\n    self.moves = 0;\n{begin}    note_entry();\n    enter();\n    show_chosen();\n}}\n\n\
         /// Notes the state in which a map is entered.\nfn note_entry() {{\n    self.entry_turns = self.turns;\n    self.entry_moves = self.moves;\n{note}}}\n\n\
         /// The map begins again.\nfn restart() {{\n    self.turns = self.entry_turns;\n    self.moves = self.entry_moves;\n{back}    note_entry();\n    enter();\n}}\n\n\
         /// Whether the counters are as they were.\nfn same_counters(before: game) -> bool {{\n{same}    return true;\n}}\n\n"
    );
}

/// How a cell is drawn.
fn glyphs(writer: &mut Writer) {
    let mut stacks = String::new();
    for (glyph, kinds) in &writer.book.glyphs {
        let kinds = sorted(kinds, writer.book.ground);
        if kinds.len() < 2 {
            continue;
        }
        let all: Vec<String> = kinds.iter().map(|kind| format!("holds(place, {})", writer.kind(*kind))).collect();
        let _ = write!(
            stacks,
            "    if (count == {} && {}) {{\n        return \"{glyph}\";\n    }}\n",
            kinds.len(),
            all.join(" && ")
        );
    }
    if !stacks.is_empty() {
        stacks = format!("    let count: int = pieces_in(place);\n{stacks}");
    }
    let void = if writer.has("void") { "    if (is_void(place)) {\n        return \" \";\n    }\n" } else { "" };
    let _ = write!(
        writer.methods,
        "/// The letter that a cell is drawn with.\nfn letter_of(place: int) -> text {{\n{void}{stacks}    let kind: int = top_kind(place);\n    if (kind < 0) {{\n        return \"_\";\n    }}\n    return GLYPH_OF[kind];\n}}\n\n"
    );
}
