//! The numbers of the grid, kinds, and the other statements outside rules and scenarios.

use super::super::diagnostic::{Code, Severity, Span};
use super::super::model::{
    Colour, Control, Glide, Kind, KindId, Map, Pace, Rulebook, SetId, Shape, ShapeId, Timer, Trail, whole,
};
use super::super::syntax::{ControlWith, KindLine, Name, Num, SectionNode, Setting, Size, SpeedUnit};
use super::{Checker, NO_KIND};
use crate::input::Key;
use crate::space::{Geometry, IndexOrder, Origin, RowsFrom, View, WorldPoint, YAxis};
use hashbrown::HashMap;

/// What the sections give, before rules.
pub struct Draft {
    title: String,
    pub(super) geometry: Geometry,
    corners_closed: bool,
    seed: u64,
    is_seed_kept: bool,
    pub(super) view: Option<View>,
    ground: Option<KindId>,
    kinds: Vec<Kind>,
    glyphs: Vec<(char, Vec<KindId>)>,
    trails: Vec<Trail>,
    glides: Vec<Glide>,
    shapes: Vec<Shape>,
    controls: Vec<Control>,
    paces: Vec<Pace>,
    pub(super) maps: Vec<Map>,
    pub numbers: HashMap<i64, Vec<KindId>>,
    pub board: Option<(i64, i64)>,
    pub(super) window: Option<(Span, Span, (f64, f64))>,
    /// The words of the view's buttons, in their order.
    pub(super) buttons: Vec<Span>,
    equal_steps: Vec<(Num, SpeedUnit)>,
}

impl Draft {
    /// The layer of a kind.
    pub(super) fn layer_of(&self, kind: KindId) -> Option<u8> {
        self.kinds.get(usize::from(kind.0)).map(|kind| kind.layer)
    }
}

impl Checker<'_> {
    pub(super) fn sections(&mut self) -> Draft {
        let mut draft = Draft {
            title: String::new(),
            geometry: Geometry::of_cells(1.0, 1.0),
            corners_closed: false,
            seed: 1,
            is_seed_kept: false,
            view: None,
            ground: None,
            kinds: Vec::new(),
            glyphs: Vec::new(),
            trails: Vec::new(),
            glides: Vec::new(),
            shapes: Vec::new(),
            controls: Vec::new(),
            paces: Vec::new(),
            maps: Vec::new(),
            numbers: HashMap::new(),
            board: None,
            window: None,
            buttons: Vec::new(),
            equal_steps: Vec::new(),
        };
        let parsed = self.parsed;
        let broken: Vec<KindId> =
            (0..self.names.kinds.len()).filter(|at| self.names.kinds[*at].1).map(|at| KindId(at as u16)).collect();
        self.kinds(&mut draft, parsed.sections.iter().map(|section| &section.node));
        for _ in &broken {
            draft.kinds.push(Kind {
                name: String::new(),
                glyph: '?',
                layer: u8::MAX,
                colour: Colour::Named("bone".into()),
                facing: None,
                hotspot: None,
            });
        }
        for section in &parsed.sections {
            self.number_section(&mut draft, &section.node, section.word);
            self.piece_section(&mut draft, &section.node);
        }
        self.whole_numbers(&draft);
        for section in &parsed.sections {
            match &section.node {
                SectionNode::Map { title, body } => {
                    if let Some(map) = self.map(&draft, title, body) {
                        draft.maps.push(map);
                    }
                }
                SectionNode::Shapes { of, shapes } => {
                    let of = self.kinds_of_shapes(&draft, of);
                    for (name, drawing) in shapes {
                        if let Some(shape) = self.shape_drawing(of, name, drawing) {
                            draft.shapes.push(shape);
                        }
                    }
                }
                _ => {}
            }
        }
        self.ragged_windows(&draft);
        self.buttons(&draft);
        draft
    }

    fn kinds<'n>(&mut self, draft: &mut Draft, nodes: impl Iterator<Item = &'n SectionNode>) {
        let mut seen = std::collections::HashSet::new();
        for node in nodes {
            let SectionNode::Kinds(lines) = node else {
                continue;
            };
            for line in lines {
                if !seen.insert(line.name.text.as_str()) {
                    continue;
                }
                let kind = self.kind_line(line, KindId(draft.kinds.len() as u16));
                draft.kinds.push(kind);
            }
        }
    }

    fn kind_line(&mut self, line: &KindLine, id: KindId) -> Kind {
        let glyph = line.glyph.text.chars().next().unwrap_or('?');
        self.declare_glyph(glyph, line.glyph.span, vec![id]);
        let again = [line.facing.get(1).map(|found| found.0), line.hotspot.get(1).map(|found| found.0)];
        for span in again.into_iter().flatten() {
            self.report(span, Code::RepeatedSection, format!("`{}` has this already", line.name.text));
        }
        Kind {
            name: line.name.text.clone(),
            glyph,
            layer: self.layer(&line.layer),
            colour: line.colour.as_ref().map_or(Colour::Named("bone".into()), |colour| self.colour(colour)),
            facing: line.facing.first().map(|(_, heading)| *heading),
            hotspot: line.hotspot.first().map(|(_, at)| self.place(at)),
        }
    }

    fn declare_glyph(&mut self, glyph: char, span: Span, kinds: Vec<KindId>) {
        if self.names.glyphs.get(&glyph).is_some_and(|found| !found.is_empty() && *found != kinds) {
            self.report_help(
                span,
                Code::RepeatedGlyph,
                format!("the glyph `{glyph}` has a meaning already"),
                "choose another character",
            );
        } else {
            self.names.glyphs.insert(glyph, kinds);
        }
    }

    fn colour(&mut self, colour: &Name) -> Colour {
        let quoted = self.source.as_bytes().get(colour.span.start) == Some(&b'"');
        if !quoted {
            return Colour::Named(self.palette(colour));
        }
        let part = |at: usize| colour.text.get(at..at + 2).and_then(|hex| u8::from_str_radix(hex, 16).ok());
        let hex = colour.text.len() == 7
            && colour.text.starts_with('#')
            && colour.text[1..].bytes().all(|byte| byte.is_ascii_hexdigit());
        match (hex, part(1), part(3), part(5)) {
            (true, Some(red), Some(green), Some(blue)) => Colour::Rgb(red, green, blue),
            _ => {
                self.report_help(
                    colour.span,
                    Code::BadColour,
                    format!("`{}` is no colour", colour.text),
                    "write `\"#rrggbb\"` or a name of the palette",
                );
                Colour::Rgb(0, 0, 0)
            }
        }
    }

    fn number_section(&mut self, draft: &mut Draft, node: &SectionNode, word: Span) {
        match node {
            SectionNode::Game(title) => draft.title.clone_from(&title.text),
            SectionNode::Board { columns, rows } => {
                let size = (self.extent(columns, rows), whole(columns), whole(rows));
                draft.board = size.0.map(|_| (size.1, size.2));
            }
            SectionNode::Cell(size) => draft.geometry.size = self.size(size, Self::cell_size),
            SectionNode::Gap(size) => draft.geometry.gap = self.size(size, Self::gap_size),
            SectionNode::Origin { centre, at } => {
                let (x, y) = self.place(at);
                let point = WorldPoint { x, y };
                draft.geometry.origin = if *centre { Origin::Centre(point) } else { Origin::Corner(point) };
            }
            SectionNode::Hotspot(at) => draft.geometry.hotspot = self.place(at),
            SectionNode::Y { up } => draft.geometry.y = if *up { YAxis::Up } else { YAxis::Down },
            SectionNode::Rows { bottom } => {
                draft.geometry.rows = if *bottom { RowsFrom::Bottom } else { RowsFrom::Top };
            }
            SectionNode::Index { column_major, first } => {
                draft.geometry.order = if *column_major { IndexOrder::ColumnMajor } else { IndexOrder::RowMajor };
                draft.geometry.first_index = first.as_ref().map_or(0, |first| self.int(first, 0, 1, "0 or 1"));
            }
            SectionNode::Corners { closed } => draft.corners_closed = *closed,
            SectionNode::Seed { value, kept } => (draft.seed, draft.is_seed_kept) = (self.seed(value), *kept),
            SectionNode::Counter { value: Some(value), .. } => {
                self.int(value, -1_000_000_000_000_000, 1_000_000_000_000_000, "-10^15 to 10^15");
            }
            SectionNode::Timer { ms, .. } => {
                self.beat(ms);
            }
            SectionNode::View(lines) => self.view(draft, lines, word),
            SectionNode::Pace { who, settings } => self.pace(draft, who.as_ref(), settings, word),
            _ => {}
        }
    }

    fn piece_section(&mut self, draft: &mut Draft, node: &SectionNode) {
        match node {
            SectionNode::Ground(name) => {
                let kind = self.kind_made(name);
                if draft.kinds.get(usize::from(kind.0)).is_some_and(|kind| kind.layer != 0 && kind.layer != u8::MAX) {
                    let lowest = self.names.layers.first().cloned().unwrap_or_default();
                    let message = format!("the ground must be of the lowest layer, `{lowest}`");
                    let help =
                        format!("in `kinds` put `{}` on layer `{lowest}`, or name a kind that is there", name.text);
                    self.report_help(name.span, Code::LayerClash, message, &help);
                }
                draft.ground = (kind != NO_KIND).then_some(kind);
            }
            SectionNode::Number { value, kinds } => {
                let number = whole(value);
                if draft.numbers.contains_key(&number) {
                    let message = format!("`number {number}` has a meaning already");
                    self.report_help(value.span, Code::RepeatedName, message, "choose another number");
                }
                let kinds = self.stack(draft, kinds);
                draft.numbers.entry(number).or_insert(kinds);
            }
            SectionNode::Glyph { glyph, kinds } => {
                let character = glyph.text.chars().next().unwrap_or('?');
                let kinds = self.stack(draft, kinds);
                if self.names.glyphs.get(&character).is_some_and(|found| !found.is_empty()) {
                    self.declare_glyph(character, glyph.span, Vec::new());
                } else {
                    self.names.glyphs.insert(character, kinds.clone());
                    draft.glyphs.push((character, kinds));
                }
            }
            SectionNode::Trail { head, leaves, long, tail_last } => {
                let trail = Trail {
                    head: self.kind(head),
                    leaves: self.kind_made(leaves),
                    long: self.int(long, 0, 1_000_000, "0 to 1,000,000") as u32,
                    tail_last: *tail_last,
                };
                draft.trails.push(trail);
            }
            SectionNode::Glide { who, heading, speed, unit, end } => {
                if speed.value <= 0.0 {
                    self.report(speed.span, Code::OutOfRange, "a speed must be over 0");
                }
                let who = self.set(who);
                draft.glides.push(Glide { who, heading: *heading, speed: speed.clone(), unit: *unit, end: *end });
            }
            SectionNode::Control { who, with } => {
                let who = self.set(who);
                let arrows = || ["left", "right", "up", "down"].map(|key| Key(key.into()));
                let keys = match with {
                    ControlWith::Keys { keys, .. } => Some(keys.clone().unwrap_or_else(arrows)),
                    ControlWith::Taps => None,
                };
                draft.controls.push(Control { who, keys });
            }
            _ => {}
        }
    }

    /// Kinds that stand in one cell, at most one a layer.
    fn stack(&mut self, draft: &Draft, names: &[Name]) -> Vec<KindId> {
        let mut kinds: Vec<KindId> = Vec::new();
        let layer = |kind: KindId| draft.kinds.get(usize::from(kind.0)).map_or(u8::MAX, |kind| kind.layer);
        for name in names {
            let kind = self.kind(name);
            let clash = |other: &&KindId| layer(**other) == layer(kind) && layer(kind) != u8::MAX;
            if let Some(other) = kinds.iter().find(clash) {
                let other = &draft.kinds[usize::from(other.0)].name;
                let message = format!("`{}` and `{other}` are of one layer and cannot share a cell", name.text);
                let help =
                    format!("in `kinds` put `{}` or `{other}` on another layer, or leave one out here", name.text);
                self.report_help(name.span, Code::LayerClash, message, &help);
            } else if kind != NO_KIND {
                kinds.push(kind);
            }
        }
        kinds
    }

    /// Steps that never meet a border.
    fn whole_numbers(&mut self, draft: &Draft) {
        // A wrong number has been told; what follows from it is no finding of its own.
        if self.found.any(|code| code.severity() == Severity::Error) {
            return;
        }
        let pitch = draft.geometry.pitch();
        let whole = |size: f64, pitch: f64| {
            let cells = size / pitch;
            (cells - cells.round()).abs() < 1e-9 * cells.abs().max(1.0)
        };
        for (step, unit) in &draft.equal_steps {
            let lands = |pitch: f64| match unit {
                SpeedUnit::Px => whole(pitch, step.value),
                SpeedUnit::Cells => whole(1.0, step.value),
            };
            if !lands(pitch.0) || !lands(pitch.1) {
                let message =
                    format!("{} a frame does not divide the way to the next cell: the piece never lands", step.text);
                self.push(
                    super::super::diagnostic::Diagnostic::new(step.span, Code::NeverLands, message)
                        .help("write `test reached`, or a step that divides the cell"),
                );
            }
        }
    }

    fn pace(&mut self, draft: &mut Draft, who: Option<&Name>, settings: &[(Span, Setting)], word: Span) {
        let set = who.map(|name| self.set_of_name(name));
        if draft.paces.iter().any(|pace| pace.who == set && set != Some(super::NO_SET)) {
            self.report(word, Code::RepeatedSection, "there is a `pace` for these already");
        }
        let mut seen: Vec<&'static str> = Vec::new();
        let mut step = None;
        let mut equal = false;
        for (span, setting) in settings {
            match setting {
                Setting::Timed(number)
                | Setting::Rate(number, _)
                | Setting::Lean(number)
                | Setting::Free(number, _)
                | Setting::Lined(number) => self.pace_number(number),
                Setting::Body(Size(width, height)) => {
                    self.pace_number(width);
                    height.iter().for_each(|height| self.pace_number(height));
                }
                Setting::Slack(number) => self.slack(number),
                Setting::PerFrame(number, unit) => {
                    self.pace_number(number);
                    step = (number.value > 0.0).then(|| (number.clone(), *unit));
                }
                Setting::TestEqual(value) => equal = *value,
                Setting::Queued(number) => {
                    self.times(number);
                }
                Setting::Repeat(after, every) => {
                    self.pace_number(after);
                    self.pace_number(every);
                }
                Setting::Instant
                | Setting::Easing(_)
                | Setting::Arrival(_)
                | Setting::Moving(_)
                | Setting::Hold(_)
                | Setting::Axis(_)
                | Setting::ClaimAtArrival(_) => {}
            }
            let sort = setting.sort();
            if seen.contains(&sort) {
                self.report(*span, Code::RepeatedSection, format!("this pace has its {sort} already"));
            }
            seen.push(sort);
        }
        draft.equal_steps.extend(step.filter(|_| equal));
        let settings = settings.iter().map(|(_, setting)| setting.clone()).collect();
        draft.paces.push(Pace { who: set, settings });
    }

    /// The rulebook without rules, `None` where there is no map to play on.
    pub(super) fn finish(&mut self, draft: Draft) -> Option<Rulebook> {
        let any = self.names.any.unwrap_or(SetId(0));
        let timers = self.names.timers.iter().map(|(name, ms)| Timer { name: name.clone(), ms: *ms }).collect();
        let complete = draft.kinds.len() == self.names.kinds.len();
        let rulebook = Rulebook {
            title: draft.title,
            geometry: draft.geometry,
            corners_closed: draft.corners_closed,
            view: draft.view,
            layers: self.names.layers.clone(),
            kinds: draft.kinds,
            sets: Vec::new(),
            any,
            groups: self.names.group_list(),
            numbers: std::collections::BTreeMap::from_iter(draft.numbers).into_iter().collect(),
            glyphs: draft.glyphs,
            ground: draft.ground,
            maps: draft.maps,
            counters: Vec::new(),
            seed: draft.seed,
            is_seed_kept: draft.is_seed_kept,
            timers,
            trails: draft.trails,
            glides: draft.glides,
            shapes: draft.shapes,
            controls: draft.controls,
            paces: draft.paces,
            meetings: Vec::new(),
            offs: Vec::new(),
            whens: Vec::new(),
            inputs: Vec::new(),
            aliases: Vec::new(),
            outcomes: Vec::new(),
            invariants: Vec::new(),
            scenarios: Vec::new(),
        };
        complete.then_some(rulebook)
    }

    fn shape_drawing(&mut self, of: SetId, name: &Name, drawing: &super::super::layout::Drawing) -> Option<Shape> {
        let cells = self.shape_cells(name, drawing)?;
        let width = cells.iter().map(|(x, _)| x + 1).max()?;
        let drawn = drawing.rows.iter().map(|row| row.lead as u32 + self.characters(row.span)).max()?;
        let is_drawn = of.0 as usize >= self.names.kinds.len();
        let size = (drawn.max(width), drawing.rows.len() as u32);
        Some(Shape { name: name.text.clone(), of, is_drawn, size, cells })
    }

    /// The shape a spawn names, `None` for any.
    pub(super) fn shape_named(&mut self, name: Option<&Name>) -> Option<ShapeId> {
        name.and_then(|name| self.shape(name)).map(ShapeId)
    }
}
