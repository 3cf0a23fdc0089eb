use super::{Pen, ellipsis};
use crate::bench::tests::text;
use crate::ui::theme::Theme;
use proptest::prelude::*;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;

/// What a pen writes into an area, without blanks at the ends of lines.
fn written(width: u16, height: u16, write: impl FnOnce(&mut Pen)) -> Vec<String> {
    let area = Rect::new(0, 0, width, height);
    let mut buffer = Buffer::empty(area);
    let mut pen = Pen::new(&mut buffer, area, Theme::from_environment(), 0);
    write(&mut pen);
    text(&buffer).lines().map(|line| line.trim_end().to_owned()).collect()
}

#[test]
fn long_lines_go_on_below_where_they_are_told_to() {
    let style = Style::new();
    let ledger = written(24, 4, |pen| {
        pen.hanging(&[("  1 ✓ ", style), ("meets   ", style), ("the cog at 4,2: shove", style)], 14)
    });
    assert_eq!(ledger, ["  1 ✓ meets   the cog at", "            4,2: shove", "", ""]);
    let plain = written(12, 4, |pen| pen.line("  one two three four", style));
    assert_eq!(plain, ["  one two", "    three", "    four", ""]);
    let word = written(8, 4, |pen| pen.wrapped("- ", "unbreakable", style));
    assert_eq!(word, ["- unbrea", "  kable", "", ""]);
}

#[test]
fn an_ellipsis_says_that_something_is_missing() {
    let table = [
        ("apprentice", 10, "apprentice"),
        ("apprentice", 6, "appre…"),
        ("two words here", 12, "two words…"),
        ("漢字漢字", 4, "漢…"),
        ("a", 0, ""),
        ("ab", 1, "…"),
    ];
    for (text, width, wanted) in table {
        assert_eq!(ellipsis(text, width), wanted);
    }
}

proptest! {
    /// Whatever is written at whatever width: every word stands there whole, in order, unless it is longer than a line.
    #[test]
    fn no_word_is_lost_or_broken(words in prop::collection::vec("[a-zé]{1,9}", 1..20), lead in 0usize..5, width in 24u16..60) {
        let line = format!("{}{}", " ".repeat(lead), words.join(" "));
        let lines = written(width, 40, |pen| pen.line(&line, Style::new()));
        let all = lines.join(" ");
        let seen: Vec<&str> = all.split_whitespace().collect();
        prop_assert_eq!(seen, words.iter().map(String::as_str).collect::<Vec<_>>());
    }
}
