//! Who is declared, and what a name means.

use super::super::diagnostic::{Code, Diagnostic, Span};
use super::super::model::{Counter, CounterId, CounterRead, KindId, KindSet, SetId};
use super::super::parser::Salvaged;
use super::super::syntax::{ActionNode, EffectNode, Name, RuleNode, SectionNode, Who};
use super::{Checker, NO_KIND, NO_SET};
use crate::limits::{MOST_COUNTERS, MOST_GROUPS, MOST_KINDS, MOST_LAYERS, MOST_SHAPES, MOST_TIMERS};
use hashbrown::HashMap;

/// Counters that every game has.
const GIVEN: [(&str, CounterRead); 3] =
    [("moves", CounterRead::Moves), ("turns", CounterRead::Turns), ("clock", CounterRead::Clock)];

/// Whether every game has a counter of that name.
pub fn is_given_counter(name: &str) -> bool {
    GIVEN.iter().any(|(given, _)| *given == name)
}

/// The tables of names.
#[derive(Default)]
pub struct Names {
    pub kinds: Vec<(Name, bool)>,
    pub kind_of: HashMap<String, KindId>,
    pub groups: HashMap<String, usize>,
    pub group_members: Vec<(Name, Vec<Name>)>,
    pub group_sets: Vec<SetId>,
    pub layers: Vec<String>,
    counters: HashMap<String, CounterId>,
    counter_values: Vec<Counter>,
    pub timers: Vec<(String, i64)>,
    timer_of: HashMap<String, u16>,
    shape_of: HashMap<String, u16>,
    pub sets: Vec<KindSet>,
    pub any: Option<SetId>,
    pub glyphs: HashMap<char, Vec<KindId>>,
    /// Some glyph is unknown because its statement could not be read.
    pub glyph_lost: bool,
    maps: HashMap<String, usize>,
    scenarios: std::collections::HashSet<String>,
}

impl Names {
    pub fn counter_list(&self) -> Vec<Counter> {
        self.counter_values.clone()
    }

    pub fn map_of_title(&self, title: &str) -> Option<usize> {
        self.maps.get(title).copied()
    }

    /// Groups and their sets, in the order of the file.
    pub fn group_list(&self) -> Vec<(String, SetId)> {
        self.group_members.iter().zip(&self.group_sets).map(|((name, _), set)| (name.text.clone(), *set)).collect()
    }
}

impl Checker<'_> {
    /// Declares all names, so that they can be used before.
    pub(super) fn declare(&mut self) {
        self.declare_layers();
        let sections = &self.parsed.sections;
        for section in sections {
            match &section.node {
                SectionNode::Kinds(lines) => {
                    for line in lines {
                        self.declare_kind(&line.name, false);
                    }
                }
                SectionNode::Group { name, members } => self.declare_group(name, members.clone()),
                SectionNode::Counter { name, value, kept } => {
                    let start = value.as_ref().map_or(0, super::super::model::whole);
                    self.declare_counter(name, start, *kept);
                }
                SectionNode::Timer { name, ms } => {
                    let ms = super::super::model::whole(ms);
                    self.declare_timer(name, ms);
                }
                SectionNode::Shapes { shapes, .. } => {
                    for (name, _) in shapes {
                        self.declare_shape(name);
                    }
                }
                SectionNode::Map { title, .. } => {
                    let number = self.names.maps.len();
                    if self.names.maps.insert(title.text.clone(), number).is_some() {
                        self.repeated(title, "a map of this title");
                    }
                }
                SectionNode::Scenario { title, .. } if !self.names.scenarios.insert(title.text.clone()) => {
                    self.repeated(title, "a scenario of this title");
                }
                _ => {}
            }
        }
        self.declare_salvaged();
        self.declare_made_counters();
        self.build_sets();
        self.made = vec![false; self.names.kinds.len()];
    }

    fn repeated(&mut self, name: &Name, what: &str) {
        self.report_help(
            name.span,
            Code::RepeatedName,
            format!("there is {what} already: `{}`", name.text),
            "choose another name",
        );
    }

    fn declare_layers(&mut self) {
        let declared = self.parsed.sections.iter().find_map(|section| match &section.node {
            SectionNode::Layers(names) => Some(names.clone()),
            _ => None,
        });
        let salvaged: Vec<Name> = self
            .parsed
            .salvaged
            .iter()
            .filter_map(|found| if let Salvaged::Layer(name) = found { Some(name.clone()) } else { None })
            .collect();
        let Some(names) = declared else {
            let plain = ["floor", "mark", "body"].map(String::from);
            self.names.layers = if salvaged.is_empty() {
                plain.into()
            } else {
                salvaged.into_iter().map(|name| name.text).filter(|text| text != ",").collect()
            };
            return;
        };
        for name in names {
            if self.names.layers.contains(&name.text) {
                self.repeated(&name, "a layer of this name");
                continue;
            }
            if self.names.layers.len() == MOST_LAYERS {
                self.too_many(name.span, "layers", MOST_LAYERS);
                break;
            }
            self.names.layers.push(name.text);
        }
    }

    /// The number of what is declared next. What is one too many is told, once, and shares the last number from then on, so
    /// that its name is known.
    fn number_of(&mut self, known: usize, span: Span, what: &str, most: usize) -> usize {
        if known == most {
            self.too_many(span, what, most);
        }
        known.min(most - 1)
    }

    fn declare_kind(&mut self, name: &Name, broken: bool) {
        if self.names.kind_of.contains_key(&name.text) || self.names.groups.contains_key(&name.text) {
            self.repeated(name, "a kind or group of this name");
            return;
        }
        let number = self.number_of(self.names.kind_of.len(), name.span, "kinds", MOST_KINDS);
        self.names.kind_of.insert(name.text.clone(), KindId(number as u16));
        if number == self.names.kinds.len() {
            self.names.kinds.push((name.clone(), broken));
        }
    }

    fn declare_group(&mut self, name: &Name, members: Vec<Name>) {
        if self.names.kind_of.contains_key(&name.text) || self.names.groups.contains_key(&name.text) {
            self.repeated(name, "a kind or group of this name");
            return;
        }
        let number = self.number_of(self.names.groups.len(), name.span, "groups", MOST_GROUPS);
        self.names.groups.insert(name.text.clone(), number);
        if number == self.names.group_members.len() {
            self.names.group_members.push((name.clone(), members));
        }
    }

    fn declare_counter(&mut self, name: &Name, start: i64, kept: bool) {
        if is_given_counter(&name.text) || self.names.counters.contains_key(&name.text) {
            self.repeated(name, "a counter of this name");
            return;
        }
        self.make_counter(name, start, kept);
    }

    fn make_counter(&mut self, name: &Name, start: i64, kept: bool) {
        let number = self.number_of(self.names.counters.len(), name.span, "counters", MOST_COUNTERS);
        self.names.counters.insert(name.text.clone(), CounterId(number as u16));
        if number == self.names.counter_values.len() {
            self.names.counter_values.push(Counter { name: name.text.clone(), start, kept });
        }
    }

    fn declare_timer(&mut self, name: &Name, ms: i64) {
        if name.text == "turn" || self.names.timer_of.contains_key(&name.text) {
            self.repeated(name, "a timer of this name");
            return;
        }
        let number = self.number_of(self.names.timer_of.len(), name.span, "timers", MOST_TIMERS);
        self.names.timer_of.insert(name.text.clone(), number as u16);
        if number == self.names.timers.len() {
            self.names.timers.push((name.text.clone(), ms));
        }
    }

    fn declare_shape(&mut self, name: &Name) {
        if self.names.shape_of.contains_key(&name.text) {
            self.repeated(name, "a shape of this name");
            return;
        }
        let number = self.number_of(self.names.shape_of.len(), name.span, "shapes", MOST_SHAPES);
        self.names.shape_of.insert(name.text.clone(), number as u16);
    }

    fn declare_salvaged(&mut self) {
        for found in self.parsed.salvaged.clone() {
            match found {
                Salvaged::Kind(name, glyph) => {
                    if !self.names.kind_of.contains_key(&name.text) {
                        self.declare_kind(&name, true);
                    }
                    match (glyph, self.names.kind_of.get(&name.text)) {
                        (Some(glyph), Some(id)) => {
                            self.names.glyphs.entry(glyph).or_insert_with(|| vec![*id]);
                        }
                        _ => self.names.glyph_lost = true,
                    }
                }
                Salvaged::Glyph(Some(glyph)) => {
                    self.names.glyphs.entry(glyph).or_default();
                }
                Salvaged::Glyph(None) => self.names.glyph_lost = true,
                Salvaged::Group(name) if !self.names.groups.contains_key(&name.text) => {
                    self.declare_group(&name, Vec::new());
                }
                Salvaged::Counter(name) if !self.names.counters.contains_key(&name.text) => {
                    self.make_counter(&name, 0, false);
                }
                Salvaged::Timer(name) if !self.names.timer_of.contains_key(&name.text) => {
                    self.declare_timer(&name, 1);
                }
                Salvaged::Shape(name) if !self.names.shape_of.contains_key(&name.text) => self.declare_shape(&name),
                Salvaged::Map(title) => {
                    let number = self.names.maps.len();
                    self.names.maps.entry(title.text).or_insert(number);
                }
                _ => {}
            }
        }
    }

    /// Counters that some rule adds to or sets.
    fn declare_made_counters(&mut self) {
        let sections = &self.parsed.sections;
        for section in sections {
            let SectionNode::Rules(rules) = &section.node else {
                continue;
            };
            for rule in rules {
                let mut made = |name: &Name| {
                    let given = is_given_counter(&name.text);
                    if !given && !self.names.counters.contains_key(&name.text) {
                        self.make_counter(name, 0, false);
                    }
                };
                match &rule.node {
                    RuleNode::Into { effects, .. }
                    | RuleNode::Off { effects, .. }
                    | RuleNode::When { effects, .. }
                    | RuleNode::Outcome { effects, .. } => {
                        for effect in effects {
                            if let EffectNode::Common(common) = &effect.node {
                                common.counter_made().into_iter().for_each(&mut made);
                            }
                        }
                    }
                    RuleNode::Each { actions, .. } | RuleNode::On { actions, .. } => {
                        for action in actions.iter().flatten() {
                            if let ActionNode::Common(common) = &action.node {
                                common.counter_made().into_iter().for_each(&mut made);
                            }
                        }
                    }
                    RuleNode::Invariant { .. } => {}
                }
            }
        }
    }

    fn build_sets(&mut self) {
        let kinds = self.names.kinds.len();
        for at in 0..kinds {
            let name = self.names.kinds[at].0.text.clone();
            self.names.sets.push(KindSet::new(&name, [KindId(at as u16)]));
        }
        let ground = self.nodes().find_map(|(_, node)| match node {
            SectionNode::Ground(name) => self.names.kind_of.get(&name.text).copied(),
            _ => None,
        });
        let all = (0..kinds).map(|at| KindId(at as u16)).filter(|kind| Some(*kind) != ground);
        self.names.any = Some(SetId(self.names.sets.len() as u32));
        self.names.sets.push(KindSet::new("any", all));
        self.build_groups();
    }

    pub(super) fn unknown(&mut self, name: &Name, what: &str, groups: bool) {
        let names = &self.names;
        let kinds = names.kinds.iter().map(|(name, _)| name.text.as_str());
        let groups = names.groups.keys().map(String::as_str).filter(|_| groups);
        let help = self.advice.nearest(&name.text, kinds.chain(groups));
        self.report_unknown(name, what, help);
    }

    fn report_unknown(&mut self, name: &Name, what: &str, help: Option<String>) {
        let mistake = Diagnostic::new(name.span, Code::UnknownName, format!("`{}` is no {what}", name.text));
        self.push(mistake.maybe_help(help));
    }

    /// One kind.
    pub(super) fn kind(&mut self, name: &Name) -> KindId {
        if let Some(kind) = self.names.kind_of.get(&name.text) {
            return *kind;
        }
        if self.names.groups.contains_key(&name.text) {
            self.report_help(
                name.span,
                Code::WrongName,
                format!("`{}` is a group, and one kind is needed here", name.text),
                "name one of its kinds",
            );
        } else {
            self.unknown(name, "kind", false);
        }
        NO_KIND
    }

    /// A kind that this place brings onto the board.
    pub(super) fn kind_made(&mut self, name: &Name) -> KindId {
        let kind = self.kind(name);
        if let Some(made) = self.made.get_mut(usize::from(kind.0)) {
            *made = true;
        }
        kind
    }

    /// A kind or a group.
    pub(super) fn set_of_name(&mut self, name: &Name) -> SetId {
        if let Some(kind) = self.names.kind_of.get(&name.text) {
            return SetId(u32::from(kind.0));
        }
        if let Some(group) = self.names.groups.get(&name.text) {
            return self.names.group_sets.get(*group).copied().unwrap_or(NO_SET);
        }
        self.unknown(name, "kind or group", true);
        NO_SET
    }

    /// `any`, a kind or a group.
    pub(super) fn set(&mut self, who: &Who) -> SetId {
        match who {
            Who::Any => self.names.any.unwrap_or(NO_SET),
            Who::Named(name) => self.set_of_name(name),
        }
    }

    /// The kinds of a set, nothing for one that could not be resolved.
    pub(super) fn kinds_of(&self, set: SetId) -> Vec<KindId> {
        self.names.sets.get(set.0 as usize).map_or_else(Vec::new, |set| set.iter().collect())
    }

    /// A counter that is read.
    pub(super) fn counter_read(&mut self, name: &Name) -> CounterRead {
        if let Some((_, given)) = GIVEN.iter().find(|(given, _)| *given == name.text) {
            return *given;
        }
        if let Some(id) = self.names.counters.get(&name.text) {
            let id = *id;
            self.used.read(id, name.span);
            return CounterRead::Own(id);
        }
        let candidates = self.names.counters.keys().map(String::as_str).chain(GIVEN.iter().map(|(given, _)| *given));
        let help = self.advice.nearest(&name.text, candidates);
        self.report_unknown(name, "counter", help);
        CounterRead::Moves
    }

    /// A counter that is changed.
    pub(super) fn counter_made(&mut self, name: &Name) -> CounterId {
        if is_given_counter(&name.text) {
            let message = format!("`{}` counts by itself and cannot be set", name.text);
            self.report_help(name.span, Code::WrongName, message, "use a counter of your own");
            return CounterId(0);
        }
        let id = self.names.counters.get(&name.text).copied().unwrap_or(CounterId(0));
        self.used.set(id);
        id
    }

    /// A layer's number.
    pub(super) fn layer(&mut self, name: &Name) -> u8 {
        if let Some(at) = self.names.layers.iter().position(|layer| *layer == name.text) {
            // One layer too many has been reported where it is declared.
            return u8::try_from(at).unwrap_or(u8::MAX);
        }
        let help = self.advice.nearest(&name.text, self.names.layers.iter().map(String::as_str));
        self.report_unknown(name, "layer", help);
        u8::MAX
    }

    /// A timer's number.
    pub(super) fn timer(&mut self, name: &Name) -> Option<u16> {
        if let Some(at) = self.names.timer_of.get(&name.text) {
            return Some(*at);
        }
        let timers = self.names.timers.iter().map(|(timer, _)| timer.as_str()).chain(["turn"]);
        let help = self.advice.nearest(&name.text, timers);
        self.report_unknown(name, "timer", help);
        None
    }

    /// A shape's number.
    pub(super) fn shape(&mut self, name: &Name) -> Option<u16> {
        if let Some(at) = self.names.shape_of.get(&name.text) {
            return Some(*at);
        }
        let help = self.advice.nearest(&name.text, self.names.shape_of.keys().map(String::as_str));
        self.report_unknown(name, "shape", help);
        None
    }

    /// The number of the map of a title.
    pub(super) fn map_number(&mut self, title: &Name) -> Option<usize> {
        let found = self.names.map_of_title(&title.text);
        if found.is_none() {
            let help = self.advice.nearest(&title.text, self.names.maps.keys().map(String::as_str));
            self.report_unknown(title, "title of a map", help);
        }
        found
    }

    /// The name of a palette colour.
    pub(super) fn palette(&mut self, name: &Name) -> String {
        const PALETTE: [&str; 12] =
            ["ink", "ash", "slate", "bone", "teal", "moss", "amber", "copper", "rose", "plum", "sky", "sand"];
        if !PALETTE.contains(&name.text.as_str()) {
            let help = self.advice.nearest(&name.text, PALETTE);
            self.report_unknown(name, "colour of the palette", help);
        }
        name.text.clone()
    }

    /// The words of a span, blanks folded.
    pub(super) fn words(&self, span: Span) -> String {
        let text = self.source.get(span.start..span.end).unwrap_or_default();
        let folds = |pair: &[u8]| matches!(pair, b"  " | b"//" | [_, b'\n' | b'\t']);
        if !text.as_bytes().windows(2).any(folds) {
            return text.into();
        }
        let plain = text.lines().map(|line| line.split("//").next().unwrap_or_default());
        plain.flat_map(str::split_whitespace).collect::<Vec<_>>().join(" ")
    }
}
