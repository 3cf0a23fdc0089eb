//! Numbers of a rulebook's geometry changed in its text, everything else left as it is.

use super::diagnostic::{Findings, Span};
use super::layout::{Layout, Statement, layout};
use super::lexer::{Token, TokenKind};
use super::parser::{self, Parsed};
use super::syntax::{SectionNode, Setting};
use crate::space::show;

/// A number, or a pair of them, of the grid or the view.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum GridNumber {
    /// Width and height of a cell.
    Cell,
    /// Pixels between neighbours.
    Gap,
    /// Where the first cell's corner lies, or the middle of the board.
    Origin,
    /// Offset of positions.
    Hotspot,
    /// Size of the window.
    Window,
    /// Size of the design picture.
    Design,
    /// Window pixels a reported unit.
    Density,
    /// World position of the design's upper left corner.
    Camera,
    /// Design pixels a world pixel.
    Zoom,
}

impl GridNumber {
    /// All of them, in the order of a rulebook.
    pub const ALL: [Self; 9] = [
        Self::Cell,
        Self::Gap,
        Self::Origin,
        Self::Hotspot,
        Self::Window,
        Self::Design,
        Self::Density,
        Self::Camera,
        Self::Zoom,
    ];

    /// The word that begins its statement.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Cell => "cell",
            Self::Gap => "gap",
            Self::Origin => "origin",
            Self::Hotspot => "hotspot",
            Self::Window => "window",
            Self::Design => "design",
            Self::Density => "density",
            Self::Camera => "camera",
            Self::Zoom => "zoom",
        }
    }

    /// Whether it belongs to the view.
    pub const fn is_of_view(self) -> bool {
        matches!(self, Self::Window | Self::Design | Self::Density | Self::Camera | Self::Zoom)
    }

    /// Whether it is one number alone.
    pub const fn is_single(self) -> bool {
        matches!(self, Self::Density | Self::Zoom)
    }

    const fn is_size(self) -> bool {
        matches!(self, Self::Cell | Self::Gap | Self::Window | Self::Design)
    }

    /// The numbers as they are written.
    fn written(self, numbers: (&str, &str)) -> String {
        match self {
            _ if self.is_single() => numbers.0.into(),
            _ if self.is_size() => format!("{} x {}", numbers.0, numbers.1),
            _ => format!("{}, {}", numbers.0, numbers.1),
        }
    }
}

/// A statement of a source, and the indentation of its line.
fn find<'a>(source: &str, layout: &'a Layout, word: &str, in_view: bool) -> Option<&'a Statement> {
    let is =
        |statement: &Statement, word: &str| statement.tokens.first().is_some_and(|token| text(source, *token) == word);
    if in_view {
        let view = layout.sections.iter().find(|section| is(&section.head, "view"))?;
        return view.body.iter().find(|statement| is(statement, word));
    }
    layout.sections.iter().map(|section| &section.head).find(|head| is(head, word))
}

fn text(source: &str, token: Token) -> &str {
    &source[token.span.start..token.span.end]
}

fn value(text: &str) -> Option<f64> {
    match text.split_once('/') {
        Some((above, below)) => Some(above.parse::<f64>().ok()? / below.parse::<f64>().ok()?),
        None => text.parse().ok(),
    }
}

/// The source with other numbers for a setting; a statement that is missing is added behind `cell`, or in the view behind
/// `window`. `None` where the source has no place for it.
pub fn set_numbers(source: &str, setting: GridNumber, numbers: (f64, f64)) -> Option<String> {
    let layout = layout(source, &mut Findings::default());
    let Some(statement) = find(source, &layout, setting.word(), setting.is_of_view()) else {
        return added(source, &layout, setting, numbers);
    };
    let found: Vec<Token> = statement.tokens.iter().copied().filter(|token| token.kind == TokenKind::Number).collect();
    let (first, last) = (found.first()?, found.last()?);
    // A number that stays keeps its writing, a quotient for example.
    let keep = |token: Option<&Token>, number: f64| match token.map(|token| text(source, *token)) {
        Some(old) if value(old) == Some(number) => old.to_owned(),
        _ => show(number),
    };
    let single = found.len() == 1 && (setting.is_single() || numbers.0 == numbers.1);
    let (one, other) = (keep(Some(first), numbers.0), keep(found.get(1).or(Some(first)), numbers.1));
    let new = if single { one } else { setting.written((&one, &other)) };
    Some(format!("{}{new}{}", &source[..first.span.start], &source[last.span.end..]))
}

/// The line ends that a file has: new lines get the same.
pub(super) fn line_end(source: &str) -> &'static str {
    if source.contains("\r\n") { "\r\n" } else { "\n" }
}

fn added(source: &str, layout: &Layout, setting: GridNumber, numbers: (f64, f64)) -> Option<String> {
    let anchor = if setting.is_of_view() { "window" } else { "cell" };
    let anchor = find(source, layout, anchor, setting.is_of_view())?;
    let first = layout.lines.get(anchor.lines.0)?;
    let last = layout.lines.get(anchor.lines.1.checked_sub(1)?)?;
    let indent = &source[first.span.start..first.text];
    let unit = if setting.is_single() { "" } else { " px" };
    let (one, other) = (show(numbers.0), show(numbers.1));
    let line = format!("{indent}{} {}{unit}", setting.word(), setting.written((&one, &other)));
    let end = line_end(source);
    Some(format!("{}{end}{line}{}", &source[..last.span.end], &source[last.span.end..]))
}

/// The source with the middle of the board at a world position.
pub fn centre_origin(source: &str, (x, y): (f64, f64)) -> Option<String> {
    let whole = |source: &str| {
        let layout = layout(source, &mut Findings::default());
        let statement = find(source, &layout, "origin", false)?;
        let (first, second) = (statement.tokens.first()?, statement.tokens.get(1)?);
        let last = statement.tokens.last()?;
        let (start, end) = (second.span.start.max(first.span.end), last.span.end);
        Some(format!("{}centre {}, {} px{}", &source[..start], show(x), show(y), &source[end..]))
    };
    whole(source).or_else(|| whole(&set_numbers(source, GridNumber::Origin, (x, y))?))
}

/// The source with other settings for a pace: that of a name, or the one without. `changes` are sorts of settings with
/// their clauses, as [`crate::pace::Settings::changes_from`] gives them: one that is empty is taken out. A pace that is
/// missing is added at the end.
pub fn set_pace(source: &str, who: Option<&str>, changes: &[(&str, String)]) -> String {
    let (gone, changes): (Vec<_>, Vec<_>) = changes.iter().partition(|(_, clause)| clause.is_empty());
    let changed = if changes.is_empty() { source.to_owned() } else { with_settings(source, who, &changes) };
    gone.into_iter().fold(changed, |source, (sort, _)| without_setting(&source, who, sort).unwrap_or(source))
}

/// The settings of a pace as they stand in the source.
fn settings_of<'a>(parsed: &'a Parsed, who: Option<&str>) -> Option<&'a [(Span, Setting)]> {
    parsed.sections.iter().find_map(|section| match &section.node {
        SectionNode::Pace { who: name, settings } if name.as_ref().map(|name| name.text.as_str()) == who => {
            Some(settings.as_slice())
        }
        _ => None,
    })
}

/// The source without a setting of a pace; `None` where there is none.
fn without_setting(source: &str, who: Option<&str>, sort: &str) -> Option<String> {
    let (layout, parsed) = parser::parse_with_layout(source, &mut Findings::default());
    let settings = settings_of(&parsed, who)?;
    let (span, _) = settings.iter().find(|(_, setting)| setting.sort() == sort)?;
    let mut statements = layout.sections.iter().flat_map(|section| &section.body);
    let tokens = &statements.find(|statement| statement.tokens.iter().any(|token| token.span == *span))?.tokens;
    let first = tokens.iter().position(|token| token.span == *span)?;
    let end = first + tokens[first..].iter().take_while(|token| text(source, **token) != ",").count();
    let (from, to) = match (tokens.get(end + 1), first.checked_sub(1)) {
        (Some(next), _) => (span.start, next.span.start),
        (None, Some(comma)) => (tokens[comma].span.start, tokens[end - 1].span.end),
        // A pace says something: the usual mode.
        (None, None) if settings.len() == 1 => {
            return Some(format!("{}instant{}", &source[..span.start], &source[tokens[end - 1].span.end..]));
        }
        // A line of its own goes whole, unless a comment stands behind it.
        (None, None) => {
            let (from, to) = (span.start, tokens[end - 1].span.end);
            let line_end = source[to..].find('\n').map_or(source.len(), |at| to + at + 1);
            if source[to..line_end].trim().is_empty() {
                (source[..from].rfind('\n').map_or(0, |at| at + 1), line_end)
            } else {
                (from, to)
            }
        }
    };
    Some(format!("{}{}", &source[..from], &source[to..]))
}

fn with_settings(source: &str, who: Option<&str>, changes: &[&(&str, String)]) -> String {
    let mut mistakes = Findings::default();
    let (layout, parsed) = parser::parse_with_layout(source, &mut mistakes);
    let settings = settings_of(&parsed, who);
    let words = |all: Vec<&String>| all.into_iter().cloned().collect::<Vec<_>>().join(", ");
    let Some(settings) = settings.filter(|settings| !settings.is_empty()) else {
        let name = who.map_or(String::new(), |name| format!(" {name}"));
        let end = line_end(source);
        let gap = if source.ends_with('\n') { end.to_owned() } else { end.repeat(2) };
        let settings = words(changes.iter().map(|(_, clause)| clause).collect());
        return format!("{source}{gap}pace{name}{end}  {settings}{end}");
    };
    // A clause goes on to the comma behind it, or to the end of its statement.
    let statements = || layout.sections.iter().flat_map(|section| &section.body);
    let end_of = |start: usize| {
        let statement = statements().find(|statement| statement.tokens.iter().any(|token| token.span.start == start));
        let tokens = statement.map_or(&[][..], |statement| &statement.tokens[..]);
        let clause = tokens.iter().skip_while(|token| token.span.start < start);
        clause.take_while(|token| text(source, **token) != ",").last().map_or(start, |token| token.span.end)
    };
    let mut edits: Vec<(usize, usize, String)> = Vec::new();
    let mut new: Vec<&String> = Vec::new();
    for (sort, clause) in changes {
        match settings.iter().find(|(_, setting)| setting.sort() == *sort) {
            Some((span, _)) => edits.push((span.start, end_of(span.start), clause.clone())),
            None => new.push(clause),
        }
    }
    let end = settings.iter().map(|(span, _)| end_of(span.start)).max().unwrap_or(source.len());
    if !new.is_empty() {
        edits.push((end, end, format!(", {}", words(new))));
    }
    // From the back, so that the places before stay as they are; what is added stands behind what is changed.
    edits.sort_by_key(|(start, end, _)| std::cmp::Reverse((*end, *start)));
    let mut edited = source.to_owned();
    for (start, end, clause) in edits {
        edited.replace_range(start..end, &clause);
    }
    edited
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rulebook::read_text;
    use proptest::prelude::*;

    const SOURCE: &str = "game \"Yard\"\r\n\r\ncell   400/12 px // wide\r\nview\r\n    window 640 x 400 px\r\n    fit stretch\r\n\
                          kinds\r\n  ada A body\r\nmap \"One\"\r\n  A\r\n";

    #[test]
    fn numbers_change_and_nothing_else() {
        let set = |setting, numbers| set_numbers(SOURCE, setting, numbers).unwrap();
        let quotient = 400.0 / 12.0;
        assert_eq!(set(GridNumber::Cell, (quotient, quotient)), SOURCE);
        assert_eq!(set(GridNumber::Cell, (30.0, 30.0)), SOURCE.replace("400/12 px", "30 px"));
        assert_eq!(set(GridNumber::Cell, (quotient, 21.5)), SOURCE.replace("400/12 px", "400/12 x 21.5 px"));
        assert_eq!(set(GridNumber::Window, (641.0, 400.0)), SOURCE.replace("640 x", "641 x"));
        let origin = SOURCE.replace("// wide\r\n", "// wide\r\norigin -3, 4.25 px\r\n");
        assert_eq!(set(GridNumber::Origin, (-3.0, 4.25)), origin);
        let density = SOURCE.replace("400 px\r\n", "400 px\r\n    density 2\r\n");
        assert_eq!(set(GridNumber::Density, (2.0, 0.0)), density);
        let centred = origin.replace("-3, 4.25 px", "centre 320, 200 px");
        assert_eq!(centre_origin(&origin, (320.0, 200.0)).unwrap(), centred);
        assert_eq!(centre_origin(SOURCE, (320.0, 200.0)).unwrap(), centred);
        assert_eq!(set_numbers(&centred, GridNumber::Origin, (1.0, 200.0)).unwrap(), centred.replace("320,", "1,"));
        assert_eq!(set_numbers("game \"x\"\ncell 3 px", GridNumber::Zoom, (2.0, 0.0)), None, "there is no view");
    }

    #[test]
    fn a_pace_changes_in_its_place_and_nothing_else() {
        let source = "game \"P\"\ncell 24 px\nkinds\n  ada A body\npace\n  timed 250 ms, linear // slow\n  hold continuous\npace ada\n  \
                      instant\nmap \"M\"\n  A\n";
        let set = |who, changes: &[(&str, &str)]| {
            let changes: Vec<(&str, String)> =
                changes.iter().map(|(sort, clause)| (*sort, (*clause).to_owned())).collect();
            set_pace(source, who, &changes)
        };
        assert_eq!(set(None, &[("mode", "rate 96 px/s")]), source.replace("timed 250 ms", "rate 96 px/s"));
        let both = source.replace("linear", "ease-in").replace("hold continuous", "hold off, axis diagonal");
        assert_eq!(set(None, &[("easing", "ease-in"), ("hold", "hold off"), ("axis", "axis diagonal")]), both);
        assert_eq!(set(Some("ada"), &[("hold", "hold off")]), source.replace("instant", "instant, hold off"));
        let added = format!("{source}\npace bob\n  instant, claim at arrival\n");
        assert_eq!(set(Some("bob"), &[("mode", "instant"), ("claim", "claim at arrival")]), added);
        let crlf = source.replace('\n', "\r\n");
        assert_eq!(
            set_pace(&crlf, Some("bob"), &[("mode", "instant".into())]),
            format!("{crlf}\r\npace bob\r\n  instant\r\n")
        );
    }

    proptest! {
        #[test]
        fn what_is_set_is_read(x in -5000i32..5000, y in -5000i32..5000, at in 0..GridNumber::ALL.len()) {
            let setting = GridNumber::ALL[at];
            let positive = setting.is_size() || setting.is_single();
            let number = |number: i32| f64::from(if positive { number.abs() % 900 + 4 } else { number }) / 4.0;
            let numbers = (number(x), number(y));
            let source = set_numbers(SOURCE, setting, numbers).unwrap();
            let book = read_text(&source, &|_| Err("none".into())).rulebook.unwrap();
            let view = book.view.unwrap();
            let read = match setting {
                GridNumber::Cell => book.geometry.size,
                GridNumber::Gap => book.geometry.gap,
                GridNumber::Origin => {
                    let corner = book.geometry.corner_of_first(book.maps[0].extent);
                    (corner.x, corner.y)
                }
                GridNumber::Hotspot => book.geometry.hotspot,
                GridNumber::Window => view.window,
                GridNumber::Design => view.design,
                GridNumber::Density => (view.density, numbers.1),
                GridNumber::Camera => view.camera.map(|camera| (camera.x, camera.y)).unwrap(),
                GridNumber::Zoom => (view.zoom, numbers.1),
            };
            prop_assert_eq!(read, numbers, "{}", source);
        }
    }
}
