//! A bench on a desk, without the frame round it; and what holds for the tables of all benches.

use super::{Bench, Benches, Effect, News, Raw, Which};
use crate::desk::Desk;
use crate::desk::board::Finger;
use crate::files::{Loaded, load};
use crate::ui::theme::Theme;
use crate::yard::{self, Demo};
use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use magpie_core::rulebook::read_text;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use std::path::PathBuf;

/// The text of a buffer, line by line.
pub fn text(buffer: &Buffer) -> String {
    let area = buffer.area;
    let line = |y: u16| (0..area.width).map(|x| buffer[(x, y)].symbol()).collect::<String>();
    (0..area.height).map(line).collect::<Vec<_>>().join("\n")
}

/// A rulebook as it is read from a file that lies nowhere.
pub fn loaded(source: &str) -> Loaded {
    Loaded { path: "/nowhere/yard.magpie".into(), reading: read_text(source, &|_| Err("none".into())) }
}

/// A demo's files in a folder of their own.
pub fn unpacked(demo: &Demo) -> (tempfile::TempDir, PathBuf) {
    let folder = tempfile::tempdir().unwrap();
    let path = yard::copy(demo, folder.path()).unwrap();
    (folder, path)
}

/// A bench with the desk before it.
pub struct Stand<B: Bench> {
    pub desk: Desk,
    pub bench: B,
}

impl<B: Bench> Stand<B> {
    fn on(loaded: Loaded, bytes: Vec<u8>) -> Self {
        let mut stand = Self { desk: Desk::new(loaded, bytes), bench: B::default() };
        stand.desk.time.played = stand.bench.plays();
        stand.news(News::Text);
        stand.news(News::Entered);
        stand.tell();
        stand
    }

    /// A bench on a text.
    pub fn new(source: &str) -> Self {
        Self::on(loaded(source), source.as_bytes().to_vec())
    }

    /// A bench on a file.
    pub fn file(path: &std::path::Path) -> Self {
        Self::on(load(path).unwrap(), std::fs::read(path).unwrap())
    }

    /// A bench on a demo.
    pub fn demo(name: &str) -> Self {
        Self::new(yard::find(name).unwrap().rulebook)
    }

    /// Asks the bench, and lets it do its work at once.
    pub fn ask(&mut self, ask: B::Ask) -> &mut Self {
        self.desk.note = None;
        let effect = self.bench.ask(&mut self.desk, ask);
        self.effect(effect);
        self.tell();
        self
    }

    pub fn news(&mut self, news: News) {
        let effect = self.bench.news(&mut self.desk, news);
        self.effect(effect);
    }

    /// The bench hears what has become another, as the frame tells it.
    pub fn tell(&mut self) {
        let news = self.desk.take_news();
        if news.text {
            self.news(News::Text);
        }
        if news.game {
            self.news(News::Game);
        }
    }

    fn effect(&mut self, effect: Effect<B::Ask>) {
        if let Effect::Work(work) = effect {
            let mut told = Vec::new();
            work(&mut |ask| told.push(ask));
            for ask in told {
                let effect = self.bench.ask(&mut self.desk, ask);
                self.effect(effect);
            }
        }
    }

    /// A key that comes to the bench before any table; whether the bench had a use for it.
    pub fn key(&mut self, code: KeyCode, modifiers: KeyModifiers) -> bool {
        let event = KeyEvent::new(code, modifiers);
        let effect = self.bench.raw(&mut self.desk, Raw::Key(&event));
        let used = effect.is_some();
        self.effect(effect.unwrap_or_default());
        self.tell();
        used
    }

    /// Opens a line, types into it from nothing, and lets it be taken.
    pub fn type_in(&mut self, open: B::Ask, words: &str) -> &mut Self {
        self.ask(open);
        self.key(KeyCode::Char('u'), KeyModifiers::CONTROL);
        words.chars().for_each(|character| {
            assert!(self.key(KeyCode::Char(character), KeyModifiers::NONE), "a line is open");
        });
        self.key(KeyCode::Enter, KeyModifiers::NONE);
        self
    }

    pub fn paste(&mut self, words: &str) {
        let effect = self.bench.raw(&mut self.desk, Raw::Paste(words));
        self.effect(effect.unwrap_or_default());
    }

    pub fn finger(&mut self, finger: Finger) {
        self.bench.finger(&mut self.desk, finger);
        self.tell();
    }

    /// Plays inputs.
    pub fn play(&mut self, words: &str) -> &mut Self {
        for word in words.split(' ') {
            self.desk.play(&word.parse().unwrap());
            self.tell();
        }
        self
    }

    /// What the bench shows at a usual size.
    pub fn shown(&self) -> String {
        let area = Rect::new(0, 0, 62, 38);
        let mut buffer = Buffer::empty(area);
        self.bench.render(&self.desk, Theme::from_environment(), area, &mut buffer);
        text(&buffer)
    }

    /// Holds that words stand on the bench.
    pub fn shows(&self, words: &[&str]) -> String {
        let shown = self.shown();
        for word in words {
            assert!(shown.contains(word), "no `{word}` on\n{shown}");
        }
        shown
    }

    /// The word about the last key, which is then gone.
    pub fn note(&mut self) -> String {
        self.desk.note.take().unwrap_or_default()
    }

    /// The board as characters.
    pub fn picture(&self) -> Vec<String> {
        self.desk.game.grid().unwrap().picture()
    }

    /// The inputs on the tape.
    pub fn tape(&self) -> String {
        let entries = self.desk.game.session.as_ref().unwrap().entries();
        entries.iter().map(|entry| entry.input.to_string()).collect::<Vec<_>>().join(" ")
    }
}

#[test]
fn every_bench_has_a_title_of_its_own() {
    let titles: std::collections::HashSet<&str> = Which::ALL.iter().map(|which| which.title()).collect();
    assert_eq!(titles.len(), Which::ALL.len());
}

/// A bench on each of its pages: the keys `1` to `9` turn them.
fn pages(which: Which) -> Vec<Benches> {
    let digits = |benches: &Benches| {
        let all = benches.actions(which).into_iter();
        all.filter(|action| action.keys.iter().any(|key| matches!(key.code, KeyCode::Char('1'..='9'))))
            .collect::<Vec<_>>()
    };
    let mut found = vec![Benches::default()];
    let source = yard::find("cog-loft").unwrap().rulebook;
    for action in digits(&found[0]) {
        let mut desk = Desk::new(loaded(source), source.as_bytes().to_vec());
        let mut benches = Benches::default();
        benches.ask(&mut desk, action.message);
        found.push(benches);
    }
    found
}

#[test]
fn no_key_means_two_things_and_every_key_is_explained() {
    for which in Which::ALL {
        let pages = pages(*which);
        // Play and Trace have one page; every other bench turns its own.
        assert!(pages.len() > 2 || [Which::Play, Which::Trace].contains(which), "{}", which.title());
        for benches in pages {
            let actions = benches.actions(*which);
            let mut seen = Vec::new();
            for action in &actions {
                assert!(!action.keys.is_empty() && !action.help.is_empty(), "{}: {action:?}", which.title());
                assert!(!action.help.ends_with('.'), "{}: {}", which.title(), action.help);
                for key in &action.keys {
                    assert!(!seen.contains(key), "{}: {} twice", which.title(), key.words());
                    seen.push(*key);
                }
            }
            // The line of keys has something to say on every page.
            assert!(actions.iter().any(|action| !action.label.is_empty()), "{}", which.title());
        }
    }
}

#[test]
fn every_bench_says_something_on_every_page_of_every_demo() {
    for demo in yard::DEMOS {
        for which in Which::ALL {
            for mut benches in pages(*which) {
                let mut desk = Desk::new(loaded(demo.rulebook), demo.rulebook.as_bytes().to_vec());
                benches.news(&mut desk, News::Text);
                benches.news_to(*which, &mut desk, News::Entered);
                let area = Rect::new(0, 0, 62, 38);
                let mut buffer = Buffer::empty(area);
                let hits = benches.render(*which, &desk, Theme::from_environment(), area, &mut buffer);
                let shown = text(&buffer);
                let lines = shown.lines().filter(|line| !line.trim().is_empty()).count();
                assert!(lines >= 2, "{} of {} is empty:\n{shown}", which.title(), demo.name);
                assert!(hits.iter().all(|(rect, _)| rect.right() <= 62 && rect.bottom() <= 38), "{}", which.title());
            }
        }
    }
}
