//! Who meets what: the meetings of a rulebook as a table, and changes to it in the rulebook's text.

use super::diagnostic::Findings;
use super::edit::line_end;
use super::layout::layout;
use super::lexer::TokenKind;
use super::model::{ClauseId, KindId, Meeting, Met, PlainVerb, Rulebook, SetId, Verb};

/// How many pairs of a clause are looked at.
pub const MOST_PAIRS: usize = 200;

/// What a mover meets in a cell it enters.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Entered {
    /// A piece of a kind.
    Kind(KindId),
    /// The board's edge.
    Edge,
    /// A cell that is no part of the board.
    Void,
}

/// What decides when one meets another.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Meet {
    /// The verb of the clause that decides where no condition holds before it; the default where none is about it.
    pub verb: Verb,
    /// That clause, by its number.
    pub clause: Option<ClauseId>,
    /// Clauses with a condition that come before it.
    pub guarded: Vec<ClauseId>,
    /// Clauses about the same two behind it, which never decide.
    pub shadowed: Vec<ClauseId>,
}

/// The table of movers against what they enter.
#[derive(Clone, Debug, Default)]
pub struct Table {
    /// Rows.
    pub movers: Vec<KindId>,
    /// Columns.
    pub entered: Vec<Entered>,
}

impl Table {
    /// The table of a rulebook: kinds that ask or are asked by a shove, against all kinds, the ground where a rule names
    /// it, the edge, and void where a map has some.
    pub fn of(book: &Rulebook) -> Self {
        let mut moves = book.askers();
        for meeting in &book.meetings {
            book.set(meeting.who).iter().for_each(|kind| moves[usize::from(kind.0)] = true);
        }
        let kinds = || (0..book.kinds.len()).map(|at| KindId(at as u16));
        let ground_named = |kind: KindId| {
            book.meetings.iter().any(|meeting| matches!(meeting.met, Met::Pieces(set) if book.set(set).contains(kind)))
        };
        let shown = |kind: &KindId| Some(*kind) != book.ground || ground_named(*kind);
        let mut entered: Vec<Entered> = kinds().filter(shown).map(Entered::Kind).collect();
        entered.push(Entered::Edge);
        let void_ruled = book.meetings.iter().any(|meeting| meeting.met == Met::Void);
        if void_ruled || book.maps.iter().any(super::model::Map::has_void) {
            entered.push(Entered::Void);
        }
        Self { movers: kinds().filter(|kind| moves[usize::from(kind.0)]).collect(), entered }
    }
}

/// Something about the meetings that is worth a look, with the line of its clause.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Finding {
    /// The line, from 1.
    pub line: u32,
    /// In words.
    pub text: String,
}

/// Movers that can leave the board, and clauses of which nobody ever asks.
pub fn findings(book: &Rulebook) -> Vec<Finding> {
    let asks = book.askers();
    let mut found = Vec::new();
    for meeting in &book.meetings {
        let who = &book.set(meeting.who).name;
        let asked = book.set(meeting.who).iter().any(|kind| asks[usize::from(kind.0)]);
        let perishes = match meeting.verb {
            Verb::Plain(verb) => verb == PlainVerb::Perish,
            Verb::Shove { otherwise, .. } => otherwise == Some(PlainVerb::Perish),
        };
        let text = match (asked, meeting.met) {
            (false, _) => format!("no `{who}` ever asks for a step: this clause never decides"),
            (true, Met::Edge) if perishes => format!("a `{who}` can leave the board over its edge"),
            (true, Met::Void) if perishes => format!("a `{who}` can leave the board into void"),
            _ => continue,
        };
        found.push(Finding { line: meeting.at.line, text });
    }
    found
}

/// Whether what is entered would be met in the mover's own layer.
fn in_own_layer(book: &Rulebook, mover: KindId, entered: Entered) -> bool {
    match entered {
        Entered::Kind(kind) => book.kind(kind).layer == book.kind(mover).layer,
        Entered::Edge | Entered::Void => true,
    }
}

/// Whether a meeting is about a mover and what it enters.
fn is_about(book: &Rulebook, meeting: &Meeting, mover: KindId, entered: Entered) -> bool {
    let met = match (meeting.met, entered) {
        (Met::Pieces(set), Entered::Kind(kind)) => {
            let wanted = |wanted| wanted == in_own_layer(book, mover, entered);
            book.set(set).contains(kind) && meeting.layers.is_none_or(wanted)
        }
        (Met::Edge, Entered::Edge) | (Met::Void, Entered::Void) => true,
        _ => false,
    };
    met && book.set(meeting.who).contains(mover)
}

/// What a clause decides, and what comes before it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Decided {
    /// The pairs it decides where its own condition holds, and none of `guarded` decides before it.
    pub pairs: Vec<(KindId, Entered)>,
    /// Pairs that clauses before it decide, each with the first of those.
    pub hidden: Vec<(KindId, Entered, ClauseId)>,
    /// Clauses with a condition that come before it for some of the pairs it decides.
    pub guarded: Vec<ClauseId>,
    /// It is about more pairs than were looked at.
    pub more: bool,
}

/// What a clause decides: of the first [`MOST_PAIRS`] pairs that it is about.
pub fn decided_by(book: &Rulebook, clause: ClauseId) -> Decided {
    let meeting = book.meeting(clause);
    let mut found = Decided::default();
    let entered: Vec<Entered> = match meeting.met {
        Met::Pieces(set) => book.set(set).iter().map(Entered::Kind).collect(),
        Met::Edge => vec![Entered::Edge],
        Met::Void => vec![Entered::Void],
    };
    let pairs = book.set(meeting.who).iter().flat_map(|who| entered.iter().map(move |met| (who, *met)));
    let mut pairs = pairs.filter(|(who, met)| is_about(book, meeting, *who, *met));
    let before = &book.meetings[..clause.0 as usize];
    for (who, met) in pairs.by_ref().take(MOST_PAIRS) {
        let mut earlier = before.iter().enumerate().filter(|(_, earlier)| is_about(book, earlier, who, met));
        let mut guarded = Vec::new();
        let hidden = earlier.find_map(|(number, earlier)| {
            let number = ClauseId(number as u32);
            if earlier.guard.is_none() {
                return Some(number);
            }
            guarded.push(number);
            None
        });
        match hidden {
            Some(by) => found.hidden.push((who, met, by)),
            None => {
                found.pairs.push((who, met));
                found.guarded.extend(guarded);
            }
        }
    }
    found.more = pairs.next().is_some();
    found.guarded.sort_unstable();
    found.guarded.dedup();
    found
}

impl Decided {
    /// In words, a line each: what is decided, what decides before it, what may.
    pub fn words(&self, book: &Rulebook) -> Vec<String> {
        let line = |clause: ClauseId| book.meeting(clause).at.line;
        let named = |(who, met): (KindId, Entered)| format!("{} into {}", book.kind(who).name, word_of(book, met));
        let listed = |pairs: &[(KindId, Entered)]| {
            let shown: Vec<String> = pairs.iter().take(4).map(|pair| named(*pair)).collect();
            let rest = pairs.len() - shown.len();
            let rest = if rest > 0 { format!(" and {rest} more") } else { String::new() };
            format!("{}{rest}", shown.join(", "))
        };
        let mut told = Vec::new();
        match (self.pairs.is_empty(), self.more) {
            (false, more) => {
                let more = if more { ", and pairs that were not looked at" } else { "" };
                told.push(format!("this clause decides {}{more}", listed(&self.pairs)));
            }
            (true, true) => told.push(format!("the first {MOST_PAIRS} pairs of this clause are decided before it")),
            (true, false) => told.push("this clause never decides".to_owned()),
        }
        let mut hiding: Vec<ClauseId> = self.hidden.iter().map(|(_, _, by)| *by).collect();
        hiding.sort_unstable();
        hiding.dedup();
        for by in hiding {
            let hidden = self.hidden.iter().filter(|(_, _, other)| *other == by);
            let pairs: Vec<(KindId, Entered)> = hidden.map(|(who, met, _)| (*who, *met)).collect();
            told.push(format!("line {} decides {} before it", line(by), listed(&pairs)));
        }
        if !self.guarded.is_empty() {
            let lines: Vec<String> = self.guarded.iter().map(|clause| line(*clause).to_string()).collect();
            let (lines, holds) = (lines.join(", "), if lines.len() == 1 { "line" } else { "lines" });
            told.push(format!("where the condition of {holds} {lines} holds, that comes first"));
        }
        told
    }
}

/// What decides when a kind meets something.
pub fn meet(book: &Rulebook, mover: KindId, entered: Entered) -> Meet {
    let same = in_own_layer(book, mover, entered);
    let default = Verb::Plain(if same { PlainVerb::Stop } else { PlainVerb::Pass });
    let mut found = Meet { verb: default, clause: None, guarded: Vec::new(), shadowed: Vec::new() };
    for (number, meeting) in book.meetings.iter().enumerate() {
        if !is_about(book, meeting, mover, entered) {
            continue;
        }
        let number = ClauseId(number as u32);
        if found.clause.is_some() {
            found.shadowed.push(number);
        } else if meeting.guard.is_some() {
            found.guarded.push(number);
        } else {
            found.verb = meeting.verb;
            found.clause = Some(number);
        }
    }
    found
}

/// The word of what is entered.
pub fn word_of(book: &Rulebook, entered: Entered) -> &str {
    match entered {
        Entered::Kind(kind) => &book.kind(kind).name,
        Entered::Edge => "edge",
        Entered::Void => "void",
    }
}

/// The verb of a meeting as the rulebook writes it.
pub fn verb_words(book: &Rulebook, verb: Verb) -> String {
    let plain = |verb: PlainVerb| match verb {
        PlainVerb::Warp(kind) => format!("warp {}", book.kind(kind).name),
        verb => verb.word().to_owned(),
    };
    match verb {
        Verb::Plain(verb) => plain(verb),
        Verb::Shove { up_to, otherwise } => {
            let most = up_to.map_or(String::new(), |most| format!(" up to {most}"));
            let otherwise = otherwise.map_or(String::new(), |verb| format!(" else {}", plain(verb)));
            format!("shove{most}{otherwise}")
        }
    }
}

/// The verbs that may stand for a pair, the plain ones that need no more words.
pub fn verbs_for(book: &Rulebook, mover: KindId, entered: Entered) -> Vec<&'static str> {
    let same = match entered {
        Entered::Edge => return vec!["stop", "wrap", "perish", "bounce"],
        Entered::Void => return vec!["stop", "perish", "bounce"],
        Entered::Kind(kind) => book.kind(kind).layer == book.kind(mover).layer,
    };
    let own = if same { ["stop", "shove", "swap"].as_slice() } else { &["pass", "stop", "shove", "slide", "ride"] };
    own.iter().copied().chain(["take", "perish", "clash", "bounce"]).collect()
}

/// The rulebook's text with another verb for a pair. A clause about just these two is rewritten; else one is added before
/// the clause that decides now, or behind the last rule. `None` where the text has no such clause any more.
pub fn set_verb(source: &str, book: &Rulebook, mover: KindId, entered: Entered, verb: &str) -> Option<String> {
    let decides = meet(book, mover, entered);
    let layout = layout(source, &mut Findings::default());
    let (who, what) = (&book.kind(mover).name, word_of(book, entered));
    let clause = decides.clause.map(|number| book.meeting(number));
    let single = |set: SetId, kind: KindId| book.set(set).iter().eq([kind]);
    let own = clause.filter(|meeting| {
        single(meeting.who, mover)
            && match (meeting.met, entered) {
                (Met::Pieces(set), Entered::Kind(kind)) => single(set, kind),
                _ => true,
            }
    });
    if let Some(meeting) = own {
        let statement = layout.statement_at(meeting.at.span.start)?;
        let text = |at: usize| statement.tokens.get(at).map(|token| &source[token.span.start..token.span.end]);
        let colon = (0..statement.tokens.len()).find(|at| text(*at) == Some(":"))?;
        let end = (colon..statement.tokens.len())
            .take_while(|at| text(*at) != Some(",") || statement.tokens[*at].kind != TokenKind::Symbol)
            .last()?;
        let (start, end) = (statement.tokens.get(colon + 1)?.span.start, statement.tokens[end].span.end);
        return Some(format!("{}{verb}{}", &source[..start], &source[end..]));
    }
    let line_end = line_end(source);
    let line_of = |at: usize| layout.lines.iter().find(|line| line.span.start <= at && at <= line.span.end);
    if let Some(meeting) = clause {
        let line = line_of(meeting.at.span.start)?;
        let indent = &source[line.span.start..line.text];
        let at = line.span.start;
        return Some(format!("{}{indent}{who} into {what}: {verb}{line_end}{}", &source[..at], &source[at..]));
    }
    let is_rules = |statement: &super::layout::Statement| {
        statement.tokens.first().is_some_and(|token| &source[token.span.start..token.span.end] == "rules")
    };
    let last = layout.sections.iter().rfind(|section| is_rules(&section.head)).and_then(|section| section.body.last());
    let Some(last) = last else {
        let gap = if source.ends_with('\n') { line_end.to_owned() } else { format!("{line_end}{line_end}") };
        return Some(format!("{source}{gap}rules{line_end}  {who} into {what}: {verb}{line_end}"));
    };
    let first = line_of(last.tokens.first()?.span.start)?;
    let indent = &source[first.span.start..first.text];
    let end = layout.lines.get(last.lines.1.checked_sub(1)?)?.span.end;
    Some(format!("{}{line_end}{indent}{who} into {what}: {verb}{}", &source[..end], &source[end..]))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rulebook::read_text;
    use proptest::prelude::*;

    const SOURCE: &str = "game \"Yard\"\ncell 10 px\nkinds\n  plank . floor\n  ada A body\n  cog c body\n  barrel O body\n  mat m mark\n\
                          group goods = cog, barrel\nground plank\nmap \"M\"\n  Acm\ncontrol ada with arrows\nrules\n  \
                          ada into goods: shove\n  cog into goods if turns > 3: take\n  goods into goods: stop // one at a time\n  \
                          cog into cog: swap, signal \"late\"\n  ada into mat: stop, signal \"no\"\n";

    fn book(source: &str) -> Rulebook {
        let reading = read_text(source, &|_| Err("none".into()));
        assert!(!reading.has_errors(), "{:?}\n{source}", reading.diagnostics);
        reading.rulebook.unwrap()
    }

    #[test]
    fn the_table_says_what_decides() {
        let book = book(SOURCE);
        let kind = |name: &str| book.kind_of_name(name).unwrap();
        let table = Table::of(&book);
        assert_eq!(table.movers, ["ada", "cog", "barrel"].map(kind));
        assert_eq!(table.entered.last(), Some(&Entered::Edge));
        let found = meet(&book, kind("cog"), Entered::Kind(kind("cog")));
        assert_eq!(
            (found.clause, found.guarded, found.shadowed),
            (Some(ClauseId(2)), vec![ClauseId(1)], vec![ClauseId(3)])
        );
        let default = meet(&book, kind("barrel"), Entered::Kind(kind("mat")));
        assert_eq!((default.verb, default.clause), (Verb::Plain(PlainVerb::Pass), None));
        assert_eq!(meet(&book, kind("ada"), Entered::Edge).verb, Verb::Plain(PlainVerb::Stop));
    }

    #[test]
    fn a_clause_says_what_it_decides_and_what_hides_it() {
        let book = book(SOURCE);
        let words = |clause: u32| decided_by(&book, ClauseId(clause)).words(&book);
        assert_eq!(words(0), ["this clause decides ada into cog, ada into barrel"]);
        assert_eq!(
            words(2),
            [
                "this clause decides cog into cog, cog into barrel, barrel into cog, barrel into barrel",
                "where the condition of line 16 holds, that comes first",
            ]
        );
        assert_eq!(words(3), ["this clause never decides", "line 17 decides cog into cog before it"]);
    }

    proptest! {
        /// What a clause says of a pair is what the table says of it.
        #[test]
        fn clauses_and_the_table_agree(order in Just((0..5).collect::<Vec<usize>>()).prop_shuffle()) {
            let rules = ["ada into goods: shove", "cog into goods if turns > 3: take", "goods into goods: stop",
                "cog into any: swap", "any into edge: bounce"];
            let head = &SOURCE[..SOURCE.find("rules").unwrap_or(0)];
            let rules = order.iter().map(|at| rules[*at]).collect::<Vec<_>>().join("\n  ");
            let book = book(&format!("{head}rules\n  {rules}\n"));
            let table = Table::of(&book);
            for clause in (0..book.meetings.len()).map(|at| ClauseId(at as u32)) {
                let decided = decided_by(&book, clause);
                for (who, met) in table.movers.iter().flat_map(|who| table.entered.iter().map(move |met| (*who, *met))) {
                    let told = meet(&book, who, met);
                    let decides = told.clause == Some(clause) || told.guarded.contains(&clause);
                    prop_assert_eq!(decided.pairs.contains(&(who, met)), decides);
                    let hides = decided.hidden.iter().find(|(other, with, _)| (*other, *with) == (who, met));
                    prop_assert_eq!(hides.is_some(), told.shadowed.contains(&clause));
                    prop_assert!(hides.is_none_or(|(_, _, by)| Some(*by) == told.clause));
                }
            }
        }
    }

    #[test]
    fn findings_name_who_leaves_and_who_never_asks() {
        let source =
            SOURCE.replace("  ada into mat", "  barrel into edge: perish\n  mat into cog: take\n  ada into mat");
        let found: Vec<String> = findings(&book(&source)).into_iter().map(|found| found.text).collect();
        assert_eq!(
            found,
            [
                "a `barrel` can leave the board over its edge",
                "no `mat` ever asks for a step: this clause never decides",
            ]
        );
        assert_eq!(findings(&book(SOURCE)), []);
    }

    #[test]
    fn every_verb_of_every_pair_is_written_and_read_back() {
        let before = book(SOURCE);
        let table = Table::of(&before);
        let mut tried = 0;
        for mover in &table.movers {
            for entered in &table.entered {
                for verb in verbs_for(&before, *mover, *entered) {
                    let source = set_verb(SOURCE, &before, *mover, *entered, verb).unwrap();
                    let after = book(&source);
                    let found = meet(&after, *mover, *entered);
                    assert_eq!(verb_words(&after, found.verb), verb, "{source}");
                    // Nothing else is decided otherwise.
                    for (other, met) in
                        table.movers.iter().flat_map(|other| table.entered.iter().map(move |met| (other, met)))
                    {
                        if (other, met) != (mover, entered) {
                            assert_eq!(meet(&after, *other, *met).verb, meet(&before, *other, *met).verb, "{source}");
                        }
                    }
                    tried += 1;
                }
            }
        }
        assert!(tried > 50);
    }

    #[test]
    fn a_clause_of_its_own_is_rewritten_and_keeps_its_effects() {
        let before = book(SOURCE);
        let kind = |name: &str| before.kind_of_name(name).unwrap();
        let source = set_verb(SOURCE, &before, kind("ada"), Entered::Kind(kind("mat")), "take").unwrap();
        assert_eq!(source, SOURCE.replace("ada into mat: stop,", "ada into mat: take,"));
        let added = set_verb(SOURCE, &before, kind("cog"), Entered::Kind(kind("cog")), "shove").unwrap();
        assert_eq!(
            added,
            SOURCE.replace("  goods into goods: stop", "  cog into cog: shove\n  goods into goods: stop")
        );
        let behind = set_verb(SOURCE, &before, kind("ada"), Entered::Edge, "wrap").unwrap();
        assert_eq!(behind, format!("{}\n  ada into edge: wrap\n", SOURCE.trim_end()));
        let bare = &SOURCE[..SOURCE.find("rules").unwrap()];
        let made = set_verb(bare, &book(bare), kind("ada"), Entered::Kind(kind("cog")), "shove").unwrap();
        assert!(made.ends_with("\nrules\n  ada into cog: shove\n"), "{made}");
    }
}
