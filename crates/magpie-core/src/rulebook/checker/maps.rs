//! Drawings, filled maps, maps from files, shapes.

use super::super::diagnostic::{Code, Diagnostic, Span};
use super::super::layout::Drawing;
use super::super::model::{KindId, Map, MapCells, SetId};
use super::super::syntax::{MapBody, Name, Num};
use super::sections::Draft;
use super::{Checker, NO_KIND};
use crate::limits::{LARGEST_FILE, LARGEST_MAP_FILES, MOST_CELL_SORTS, MOST_CELLS, MOST_DRAWN, MOST_SLOTS};
use crate::space::Extent;
use hashbrown::HashMap;

/// Collects the cells of a map by the sorts of cell there are.
#[derive(Default)]
struct Legend {
    entries: Vec<Option<Vec<KindId>>>,
    known: HashMap<Option<Vec<KindId>>, u16>,
}

impl Legend {
    fn entry(&mut self, kinds: Option<Vec<KindId>>) -> u16 {
        if let Some(at) = self.known.get(&kinds) {
            return *at;
        }
        let at = self.entries.len().min(usize::from(u16::MAX)) as u16;
        self.known.insert(kinds.clone(), at);
        self.entries.push(kinds);
        at
    }
}

/// The entry of cells that are no cells of the map.
const VOID: u16 = 0;

/// A delimited file as sorts of cell.
struct Fields {
    entries: Vec<Option<Vec<KindId>>>,
    /// The entry of every field, line after line.
    cells: Vec<u16>,
    /// Where each line ends among them.
    ends: Vec<usize>,
}

impl Checker<'_> {
    pub(super) fn map(&mut self, draft: &Draft, title: &Name, body: &MapBody) -> Option<Map> {
        let (extent, cells) = match body {
            MapBody::Drawn(drawing) => self.drawn(drawing)?,
            MapBody::Filled { columns, rows, of, scatter } => {
                let extent = self.extent(columns, rows);
                let of = self.kind_made(of);
                let scatter = scatter.as_ref().map(|(share, kind)| (self.per_cent(share), self.kind_made(kind)));
                if of == NO_KIND || scatter.is_some_and(|(_, kind)| kind == NO_KIND) {
                    return None;
                }
                (extent?, MapCells::Filled { of, scatter })
            }
            MapBody::File { path, columns } => self.map_file(draft, path, columns.as_ref())?,
        };
        self.slots_fit(title.span, extent);
        if let MapCells::Legend { entries, .. } = &cells
            && entries.len() > MOST_CELL_SORTS
        {
            self.too_many(title.span, "sorts of cell in one map", MOST_CELL_SORTS);
        }
        if let (MapBody::Drawn(drawing), Some((columns, rows))) = (body, draft.board)
            && (i64::from(extent.columns), i64::from(extent.rows)) != (columns, rows)
        {
            let span = drawing.rows.first().map_or(title.span, |row| row.span);
            let message = format!(
                "this map has {} x {} cells, and `board` promises {columns} x {rows}",
                extent.columns, extent.rows
            );
            self.report(span, Code::RaggedDrawing, message);
        }
        Some(Map { title: title.text.clone(), extent, cells })
    }

    /// Whether a board keeps no more slots, one a cell and layer, than there may be.
    pub(super) fn slots_fit(&mut self, span: Span, extent: Extent) {
        let layers = self.names.layers.len() as u64;
        if extent.cells().saturating_mul(layers) > MOST_SLOTS {
            let Extent { columns, rows } = extent;
            let most = MOST_SLOTS / extent.cells();
            let message = format!("too many layers for a map of {columns} x {rows} cells: it may have {most}");
            self.report_help(span, Code::TooMany, message, "take layers away, or make the map smaller");
        }
    }

    /// Columns and rows of a board: at least one cell, at most so many.
    pub(super) fn extent(&mut self, columns: &Num, rows: &Num) -> Option<Extent> {
        let (c, r) = (columns.int().unwrap_or(0), rows.int().unwrap_or(0));
        for (number, value) in [(columns, c), (rows, r)] {
            if value < 1 {
                let message = format!("`{}` is out of range: a board has at least one cell", number.text);
                self.report(number.span, Code::OutOfRange, message);
            }
        }
        if c < 1 || r < 1 {
            return None;
        }
        if c.saturating_mul(r) > i128::from(MOST_CELLS) {
            self.too_large(columns.span, &format!("{} x {}", columns.text, rows.text));
            return None;
        }
        Some(Extent { columns: c as u32, rows: r as u32 })
    }

    fn too_large(&mut self, span: Span, size: &str) {
        let message = format!("a board of {size} cells is too large: at most 4,194,304 cells, such as 2048 x 2048");
        self.report(span, Code::MapTooLarge, message);
    }

    pub(super) fn characters(&self, span: Span) -> u32 {
        self.source[span.start..span.end].chars().count() as u32
    }

    /// Columns and rows of a drawing; what is wrong with it is reported.
    pub(super) fn drawn_extent(&mut self, drawing: &Drawing) -> Option<Extent> {
        let Some(first) = drawing.rows.first() else {
            let span = Span::new(drawing.header_end, drawing.header_end);
            self.report_help(span, Code::DrawingMissing, "the rows of the drawing are missing", "indent them below");
            return None;
        };
        let width = drawing.rows.iter().map(|row| row.lead as u64 + u64::from(self.characters(row.span))).max()?;
        let rows = drawing.rows.len() as u64;
        if width.saturating_mul(rows) > MOST_CELLS {
            self.too_large(first.span, &format!("{width} x {rows}"));
            return None;
        }
        let extent = Extent { columns: width as u32, rows: rows as u32 };
        self.cells_fit(first.span, extent).then_some(extent)
    }

    /// Counts the cells of a drawing or file; those of all together have a limit, which is told once.
    fn cells_fit(&mut self, span: Span, extent: Extent) -> bool {
        let before = self.drawn;
        self.drawn = before.saturating_add(extent.cells());
        let fits = self.drawn <= MOST_DRAWN;
        if !fits && before <= MOST_DRAWN {
            self.too_many(span, "cells of drawings", MOST_DRAWN as usize);
        }
        fits
    }

    pub(super) fn drawn(&mut self, drawing: &Drawing) -> Option<(Extent, MapCells)> {
        let extent = self.drawn_extent(drawing)?;
        let mut legend = Legend::default();
        let void = legend.entry(None);
        let mut cells = Vec::with_capacity(extent.cells() as usize);
        let mut by_glyph: HashMap<char, u16> = HashMap::from([(' ', void), ('\t', void)]);
        by_glyph.insert('_', legend.entry(Some(Vec::new())));
        let source = self.source;
        // Neighbours are mostly alike, so that most cells need no look-up.
        let mut last = (' ', void);
        for row in &drawing.rows {
            let start = cells.len();
            cells.resize(start + row.lead, void);
            for (at, glyph) in source[row.span.start..row.span.end].char_indices() {
                if glyph != last.0 {
                    let at = row.span.start + at;
                    let known = by_glyph.get(&glyph).copied();
                    let entry = known.unwrap_or_else(|| {
                        let kinds = self.glyph(glyph, Span::new(at, at + glyph.len_utf8()));
                        legend.entry(Some(kinds))
                    });
                    by_glyph.insert(glyph, entry);
                    last = (glyph, entry);
                }
                cells.push(last.1);
            }
            cells.resize(start + extent.columns as usize, void);
        }
        Some((extent, MapCells::Legend { cells, entries: legend.entries }))
    }

    /// What a glyph stands for; nothing for an unknown one, which is reported.
    fn glyph(&mut self, glyph: char, span: Span) -> Vec<KindId> {
        if let Some(kinds) = self.names.glyphs.get(&glyph) {
            for kind in kinds {
                if let Some(made) = self.made.get_mut(usize::from(kind.0)) {
                    *made = true;
                }
            }
            return kinds.clone();
        }
        if !self.names.glyph_lost && !glyph.is_control() {
            self.push(
                Diagnostic::new(span, Code::UnknownGlyph, format!("no kind has the glyph `{glyph}`"))
                    .help("declare it in `kinds` or with `glyph`; a blank is void and `_` an empty cell"),
            );
        }
        Vec::new()
    }

    /// The kind of a shape's pieces, or the group from which each gets one: all of one layer.
    pub(super) fn kinds_of_shapes(&mut self, draft: &Draft, of: &Name) -> SetId {
        let set = self.set_of_name(of);
        let kinds = self.kinds_of(set);
        for kind in &kinds {
            self.made[usize::from(kind.0)] = true;
        }
        let mut layers = kinds.iter().filter_map(|kind| draft.layer_of(*kind));
        let first = layers.next();
        if layers.any(|layer| Some(layer) != first) {
            let message = format!("the kinds of `{}` are of several layers", of.text);
            let help = "a shape moves as one, on one layer: in `kinds` put them all on it, or draw shapes of one kind";
            self.report_help(of.span, Code::LayerClash, message, help);
        }
        set
    }

    /// The pieces of a shape's drawing, columns east and lines south.
    pub(super) fn shape_cells(&mut self, name: &Name, drawing: &Drawing) -> Option<Vec<(u32, u32)>> {
        self.drawn_extent(drawing)?;
        let mut cells = Vec::new();
        let mut unknown: Vec<char> = Vec::new();
        let source = self.source;
        for (y, row) in drawing.rows.iter().enumerate() {
            for (x, (at, glyph)) in source[row.span.start..row.span.end].char_indices().enumerate() {
                match glyph {
                    'X' => cells.push((row.lead as u32 + x as u32, y as u32)),
                    '.' | ' ' | '\t' => {}
                    _ if unknown.contains(&glyph) => {}
                    _ => {
                        unknown.push(glyph);
                        let at = row.span.start + at;
                        let span = Span::new(at, at + glyph.len_utf8());
                        let message = format!("`{glyph}` cannot stand in a shape");
                        self.report_help(span, Code::UnknownGlyph, message, "`X` is a piece, `.` a blank");
                    }
                }
            }
        }
        if !unknown.is_empty() {
            return None;
        }
        if !connected(&cells) {
            let message = format!("the pieces of the shape `{}` do not hang together", name.text);
            self.report_help(name.span, Code::ShapeNotConnected, message, "join them by their edges");
            return None;
        }
        Some(cells)
    }

    fn map_file(&mut self, draft: &Draft, path: &Name, columns: Option<&Num>) -> Option<(Extent, MapCells)> {
        let columns = columns.map(|number| self.int(number, 1, i128::from(MOST_CELLS), "1 to 4,194,304") as usize);
        let bytes = self.map_bytes(&path.text);
        let read = bytes.and_then(|bytes| self.fields(draft, &bytes));
        let Fields { entries, cells, mut ends } = match read {
            Ok(fields) => fields,
            Err(problem) => {
                self.report(path.span, Code::MapFile, format!("`{}`: {problem}", path.text));
                return None;
            }
        };
        if let Some(columns) = columns {
            if cells.is_empty() || !cells.len().is_multiple_of(columns) {
                let message = format!("`{}` holds {} fields, which {columns} does not divide", path.text, cells.len());
                self.report(path.span, Code::MapFile, message);
                return None;
            }
            ends = (1..=cells.len() / columns).map(|line| line * columns).collect();
        }
        let starts = std::iter::once(0).chain(ends.iter().copied());
        let width = starts.zip(&ends).map(|(start, end)| end - start).max().unwrap_or(0);
        if width == 0 {
            self.report(path.span, Code::MapFile, format!("`{}` holds no cell", path.text));
            return None;
        }
        if (width as u64).saturating_mul(ends.len() as u64) > MOST_CELLS {
            self.too_large(path.span, &format!("{width} x {}", ends.len()));
            return None;
        }
        let extent = Extent { columns: width as u32, rows: ends.len() as u32 };
        if !self.cells_fit(path.span, extent) {
            return None;
        }
        let mut whole = Vec::with_capacity(extent.cells() as usize);
        let mut start = 0;
        for (line, end) in ends.into_iter().enumerate() {
            whole.extend_from_slice(&cells[start..end]);
            whole.resize((line + 1) * width, VOID);
            start = end;
        }
        Some((extent, MapCells::Legend { cells: whole, entries }))
    }

    /// The bytes of a map's file, as long as those of all together are within their limit.
    fn map_bytes(&mut self, path: &str) -> Result<Vec<u8>, String> {
        if self.files > LARGEST_MAP_FILES {
            return Err("the files of all maps together are larger than 256 MiB".into());
        }
        let bytes = (self.loader)(path)?;
        self.files += bytes.len() as u64;
        Ok(bytes)
    }

    /// The fields of a delimited file as sorts of cell: tab where its first line has one, else `;`, else `,`.
    fn fields(&mut self, draft: &Draft, bytes: &[u8]) -> Result<Fields, String> {
        if bytes.len() > LARGEST_FILE {
            return Err("the file is larger than 16 MiB".into());
        }
        let text = std::str::from_utf8(bytes).map_err(|_| String::from("the file is no UTF-8"))?;
        let text = text.strip_prefix('\u{feff}').unwrap_or(text);
        let first = text.lines().next().unwrap_or_default();
        let delimiter = [b'\t', b';'].into_iter().find(|mark| first.as_bytes().contains(mark)).unwrap_or(b',');
        let mut reader = csv::ReaderBuilder::new()
            .has_headers(false)
            .flexible(true)
            .delimiter(delimiter)
            .from_reader(text.as_bytes());
        let mut legend = Legend::default();
        // The first entry is that of void cells.
        legend.entry(None);
        let (mut cells, mut ends) = (Vec::new(), Vec::new());
        let mut known: HashMap<String, u16> = HashMap::new();
        let mut record = csv::StringRecord::new();
        while reader.read_record(&mut record).map_err(|error| error.to_string())? {
            for field in &record {
                let entry = match known.get(field) {
                    Some(entry) => *entry,
                    None => {
                        let kinds =
                            self.field(draft, field).map_err(|problem| format!("row {}: {problem}", ends.len() + 1))?;
                        let entry = legend.entry(kinds);
                        known.insert(field.into(), entry);
                        entry
                    }
                };
                cells.push(entry);
            }
            ends.push(cells.len());
        }
        Ok(Fields { entries: legend.entries, cells, ends })
    }

    /// What a field of a delimited file stands for; `None` is void.
    fn field(&mut self, draft: &Draft, field: &str) -> Result<Option<Vec<KindId>>, String> {
        let field = field.trim();
        if field.is_empty() {
            return Ok(None);
        }
        let kinds = if let Some(kinds) = field.parse::<i64>().ok().and_then(|number| draft.numbers.get(&number)) {
            kinds.clone()
        } else {
            let mut chars = field.chars();
            match (chars.next(), chars.next()) {
                (Some('_'), None) => Vec::new(),
                (Some(glyph), None) if self.names.glyphs.contains_key(&glyph) => self.names.glyphs[&glyph].clone(),
                _ => self.field_kinds(field)?,
            }
        };
        for kind in &kinds {
            if let Some(made) = self.made.get_mut(usize::from(kind.0)) {
                *made = true;
            }
        }
        Ok(Some(kinds))
    }

    fn field_kinds(&self, field: &str) -> Result<Vec<KindId>, String> {
        let shown: String = field.chars().filter(|c| !c.is_control()).take(40).collect();
        field
            .split('+')
            .map(|part| {
                let kind = self.names.kind_of.get(part.trim()).copied();
                kind.ok_or_else(|| format!("`{shown}` is no declared `number`, no glyph and no kind"))
            })
            .collect()
    }
}

fn connected(cells: &[(u32, u32)]) -> bool {
    let Some(first) = cells.first() else {
        return false;
    };
    let mut left: std::collections::HashSet<(u32, u32)> = cells.iter().copied().collect();
    left.remove(first);
    let mut open = vec![*first];
    while let Some((x, y)) = open.pop() {
        let around = [(x.wrapping_sub(1), y), (x + 1, y), (x, y.wrapping_sub(1)), (x, y + 1)];
        open.extend(around.into_iter().filter(|next| left.remove(next)));
    }
    left.is_empty()
}
