use super::{Line, Typed};
use crate::ui::theme::Theme;
use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use proptest::prelude::*;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

fn after(text: &str, keys: &[(KeyCode, bool)]) -> String {
    let mut line = Line::new("", "", text);
    for (code, control) in keys {
        let modifiers = if *control { KeyModifiers::CONTROL } else { KeyModifiers::NONE };
        assert_eq!(line.key(&KeyEvent::new(*code, modifiers)), Typed::More);
    }
    line.text().to_owned()
}

#[test]
fn the_usual_editing_keys() {
    use KeyCode::{Backspace, Char, Delete, End, Home, Left, Right};
    let plain = |code| (code, false);
    let held = |code| (code, true);
    assert_eq!(after("win 3", &[plain(Home), plain(Delete), plain(End), plain(Char('4'))]), "in 34");
    assert_eq!(after("win 3", &[held(Char('a')), plain(Char('x')), held(Char('e')), plain(Backspace)]), "xwin ");
    assert_eq!(after("win 3", &[held(Char('u')), plain(Char('a'))]), "a");
    assert_eq!(after("one two three", &[held(Char('w')), plain(Char('!'))]), "one two !");
    assert_eq!(after("one two three", &[held(Left), held(Left), plain(Char('>'))]), "one >two three");
    assert_eq!(after("one two", &[held(Char('a')), held(Right), plain(Char('<'))]), "one <two");
    assert_eq!(after("ab", &[plain(Left), plain(Left), plain(Right), plain(Char('-'))]), "a-b");
    assert_eq!(after("ab", &[held(Char('q'))]), "ab", "no other control character goes in");
}

/// A line as its characters and the place of the cursor among them.
#[derive(Debug)]
struct Plain {
    text: Vec<char>,
    at: usize,
}

impl Plain {
    fn key(&mut self, code: KeyCode, control: bool) {
        match (code, control) {
            (KeyCode::Char('a'), true) | (KeyCode::Home, _) => self.at = 0,
            (KeyCode::Char('e'), true) | (KeyCode::End, _) => self.at = self.text.len(),
            (KeyCode::Char('u'), true) => {
                self.text.clear();
                self.at = 0;
            }
            (KeyCode::Char(character), false) => {
                self.text.insert(self.at, character);
                self.at += 1;
            }
            (KeyCode::Backspace, false) if self.at > 0 => {
                self.at -= 1;
                self.text.remove(self.at);
            }
            (KeyCode::Delete, false) if self.at < self.text.len() => {
                self.text.remove(self.at);
            }
            (KeyCode::Left, false) => self.at = self.at.saturating_sub(1),
            (KeyCode::Right, false) => self.at = (self.at + 1).min(self.text.len()),
            _ => {}
        }
    }
}

fn any_key() -> impl Strategy<Value = (KeyCode, bool)> {
    let codes = vec![
        (KeyCode::Home, false),
        (KeyCode::End, false),
        (KeyCode::Char('a'), true),
        (KeyCode::Char('e'), true),
        (KeyCode::Char('u'), true),
        (KeyCode::Backspace, false),
        (KeyCode::Delete, false),
        (KeyCode::Left, false),
        (KeyCode::Left, false),
        (KeyCode::Right, false),
        (KeyCode::F(5), false),
    ];
    let typed = prop::sample::select(vec!['a', '7', ',', ' ', 'é', '漢']);
    prop_oneof![2 => prop::sample::select(codes), 3 => typed.prop_map(|character| (KeyCode::Char(character), false))]
}

proptest! {
    /// Whatever is typed: the text and the cursor are those of a list of characters, and the cursor is always in sight.
    #[test]
    fn a_line_is_a_list_of_characters(keys in prop::collection::vec(any_key(), 0..60), width in 12..40_u16) {
        let (mut line, mut plain) = (Line::new("to ", "", "ab"), Plain { text: vec!['a', 'b'], at: 2 });
        for (code, control) in keys {
            let modifiers = if control { KeyModifiers::CONTROL } else { KeyModifiers::NONE };
            prop_assert_eq!(line.key(&KeyEvent::new(code, modifiers)), Typed::More);
            plain.key(code, control);
            prop_assert_eq!(line.text(), plain.text.iter().collect::<String>());
            let area = Rect::new(0, 0, width, 4);
            let mut buffer = Buffer::empty(area);
            let below = line.render(Theme::from_environment(), area, &mut buffer);
            prop_assert_eq!(below, Rect::new(0, 2, width, 2));
            let row: String = (0..width).map(|x| buffer[(x, 0)].symbol()).collect();
            prop_assert!(row.starts_with("to ") && row.contains('▏'), "{}", row);
            // What stands right before and behind the cursor is shown there.
            let before = plain.text[..plain.at].last().filter(|c| !c.is_whitespace());
            let shown = row.replace(' ', "");
            prop_assert!(before.is_none_or(|c| shown.contains(&format!("{c}▏"))), "{} before the cursor of {}", before.unwrap(), row);
        }
    }
}

#[test]
fn enter_takes_escape_leaves_and_what_was_refused_is_said_until_the_next_change() {
    let mut line = Line::new("to ", "X,Y", "1;2");
    let press = |line: &mut Line, code| line.key(&KeyEvent::new(code, KeyModifiers::NONE));
    let second = |line: &Line| {
        let area = Rect::new(0, 0, 50, 2);
        let mut buffer = Buffer::empty(area);
        line.render(Theme::from_environment(), area, &mut buffer);
        (0..50).map(|x| buffer[(x, 1)].symbol()).collect::<String>()
    };
    assert!(second(&line).contains("X,Y   Enter takes it, Esc does not"));
    assert_eq!((press(&mut line, KeyCode::Enter), line.text()), (Typed::Take, "1;2"));
    line.refuse("no comma");
    assert!(second(&line).contains("✗ no comma"));
    press(&mut line, KeyCode::Backspace);
    assert!(!second(&line).contains("no comma"));
    line.paste("\r\n3\u{1b}4\n");
    assert_eq!(line.text(), "1;34", "pasted line ends and control characters stay out");
    assert_eq!(press(&mut line, KeyCode::Esc), Typed::Leave);
}

#[test]
fn a_suggestion_gives_way_to_what_is_typed_and_stays_to_be_edited() {
    let press = |line: &mut Line, code: KeyCode| line.key(&KeyEvent::new(code, KeyModifiers::NONE));
    let begin = || Line::suggesting("column = ", "", "floor(x)");
    let mut typed = begin();
    press(&mut typed, KeyCode::Char('y'));
    press(&mut typed, KeyCode::Char('z'));
    assert_eq!(typed.text(), "yz");
    let mut edited = begin();
    press(&mut edited, KeyCode::Backspace);
    press(&mut edited, KeyCode::Char('!'));
    assert_eq!(edited.text(), "floor(x!");
    let mut pasted = begin();
    pasted.paste("x // 3");
    assert_eq!(pasted.text(), "x // 3");
    assert_eq!((press(&mut begin(), KeyCode::Enter), begin().text()), (Typed::Take, "floor(x)"));
}
