//! What all benches share: the rulebook's text, the game, time, and the picture of the board.

pub mod board;
mod body;
pub mod game;
mod keys;
pub mod marks;
pub mod motion;
pub mod painter;
pub mod proof;
mod real_time;
#[cfg(test)]
mod tests;
pub mod text;
pub mod time;

use crate::files::{Loaded, bytes_of, name_of, replace};
use crate::words::plain;
use crate::words::turn::not_taken;
use board::{Finger, Picture};
use game::{Changed, Game};
use magpie_core::grid::Taken;
use magpie_core::input::Input;
use magpie_core::rulebook::KindId;
use magpie_core::space::{Cell, RowsFrom};
use magpie_core::tape::{Session, Start};
use proof::Proven;
use std::path::PathBuf;
use std::sync::Arc;
use text::{Edit, Owner, Text};
use time::Time;

/// What has become another since it was last asked.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct News {
    /// The rulebook's text.
    pub text: bool,
    /// The state of the game.
    pub game: bool,
}

/// Everything that benches share.
pub struct Desk {
    /// The rulebook's text.
    pub text: Text,
    /// The game.
    pub game: Game,
    /// Clocks and motion.
    pub time: Time,
    /// How the board is looked at.
    pub picture: Picture,
    /// What a search of every state knows.
    pub proven: Option<Proven>,
    /// A word about the last key.
    pub note: Option<String>,
    /// The tape of this session cannot be kept on disk now.
    pub unkept: bool,
    news: News,
}

impl Desk {
    /// A desk with a file that has been read.
    pub fn new(mut loaded: Loaded, bytes: Vec<u8>) -> Self {
        let name = name_of(&loaded.path);
        let mut text = Text::new(&loaded.path, plain(&name));
        text.take(&mut loaded);
        text.begin(bytes);
        let mut desk = Self {
            text,
            game: Game::default(),
            time: Time::default(),
            picture: Picture::default(),
            proven: None,
            note: None,
            unkept: false,
            news: News::default(),
        };
        desk.begin_game(loaded);
        desk
    }

    /// Says a word about the last key.
    pub fn say(&mut self, note: impl Into<String>) {
        self.note = Some(note.into());
    }

    /// What has become another since this was last asked.
    pub fn take_news(&mut self) -> News {
        std::mem::take(&mut self.news)
    }

    /// Takes a text as it is now: with mistakes the last good game stays, else the tape is played again.
    fn reload(&mut self, mut loaded: Loaded) {
        self.text.take(&mut loaded);
        self.news.text = true;
        self.begin_game(loaded);
    }

    fn begin_game(&mut self, loaded: Loaded) {
        let Some(book) = loaded.reading.rulebook else { return };
        let book = Arc::new(book);
        // What is walked through beside the game is of the old rules: the game is on the board again.
        let aside = self.game.aside.take();
        let back = aside.is_some();
        self.game.session = aside.or_else(|| self.game.session.take());
        let map = self.game.session.as_ref().map_or(0, |session| session.start().map.clone().err().unwrap_or(0));
        let start = Start::map(book.clone(), map.min(book.maps.len().saturating_sub(1)));
        let new = match &self.game.session {
            Some(session) => session.again(start),
            None => Session::new(start),
        };
        match new {
            Err(error) => self.say(error.to_string()),
            Ok(new) => {
                if let Some(old) = self.game.replace(new) {
                    self.note_change(old);
                }
                if let Some(note) = self.note.as_mut().filter(|_| back) {
                    note.push_str("; the game is on the board again");
                }
                if let (Some(_), Some(note)) = (self.proven.take(), self.note.as_mut()) {
                    note.push_str("; what was proved is dropped");
                }
                self.time.stop_motion();
                self.game_changed();
            }
        }
    }

    /// Finds the first entry of the tape whose result the reload changed.
    fn note_change(&mut self, old: Session) {
        let Some(new) = &self.game.session else { return };
        self.game.changed = new.first_change(&old).map(|entry| Changed { entry, old });
        self.note = Some(match &self.game.changed {
            Some(changed) => format!("reloaded: input {} comes out differently (d shows both)", changed.entry + 1),
            None => "reloaded: every input comes out as before".into(),
        });
    }

    /// Works out anew what follows from the state of the game.
    fn game_changed(&mut self) {
        self.game.forget_late_change();
        self.game.refresh();
        self.follow_proof();
        self.look();
        self.news.game = true;
    }

    /// Works out what is told of the cell in the eye.
    pub fn look(&mut self) {
        let cell = self.focus();
        self.game.look_at(cell);
    }

    /// Moves the cursor over the board, from where the eye rests.
    pub fn move_cursor(&mut self, columns: i64, down: i64) {
        let (Some(from), Some(extent), Some(book)) = (self.focus(), self.game.extent(), self.game.book()) else {
            return;
        };
        let rows = if book.geometry.rows == RowsFrom::Top { down } else { -down };
        let within = |at: i64, count: u32| at.clamp(0, i64::from(count) - 1);
        let to = Cell::new(within(from.column + columns, extent.columns), within(from.row + rows, extent.rows));
        self.picture.cursor = Some(to);
        self.look();
    }

    /// Shows the answers of the next controlled kind.
    pub fn follow_next(&mut self) {
        match self.game.controlled_kinds() {
            0 | 1 => self.say("only one kind is controlled on this board"),
            count => {
                self.game.followed = (self.game.followed + 1) % count;
                self.game.refresh();
                self.look();
            }
        }
    }

    /// Plays an input where the tape stands.
    pub fn play(&mut self, input: &Input) {
        // A key may be another name of an input.
        let Some(book) = self.game.book().cloned() else { return };
        let input = book.input_of(input);
        self.give_owed(input);
        let Some(session) = &mut self.game.session else { return };
        if session.give(input) == Taken::No {
            let why = session.limit().filter(|_| *input != Input::Undo);
            self.say(why.unwrap_or_else(|| match input {
                Input::Undo | Input::Next => not_taken(input).into(),
                Input::Key(_) | Input::Tap(_) | Input::Drag(..) | Input::Wait(_) | Input::Restart => {
                    format!("{}: u takes back, r begins again", not_taken(input))
                }
            }));
        }
        self.begin_motion(input);
        self.game_changed();
    }

    /// Goes over to a game of this rulebook with a tape of its own.
    pub fn take_session(&mut self, session: Session) {
        (self.game.aside, self.game.shown_for) = (None, None);
        self.game.session = Some(session);
        self.proven = None;
        self.news.text = true;
        self.game_changed();
    }

    /// Walks through a session beside the game, which is put aside and not touched.
    pub fn put_on_board(&mut self, owner: &'static str, session: Session) {
        self.time.stop_motion();
        self.game.shown_for = Some(owner);
        let old = self.game.replace(session);
        if self.game.aside.is_none() {
            self.game.aside = old;
        }
        self.picture.cursor = None;
        self.game.changed = None;
        self.game_changed();
    }

    /// Goes back to the game that was put aside.
    pub fn back_to_game(&mut self) {
        self.game.shown_for = None;
        let Some(game) = self.game.aside.take() else {
            self.say("the game is on the board");
            return;
        };
        self.time.stop_motion();
        self.game.replace(game);
        self.game_changed();
    }

    /// Winds the tape.
    pub fn go(&mut self, to: impl Fn(usize) -> usize) {
        if let Some(session) = &mut self.game.session {
            session.go(to(session.position()));
            self.game_changed();
        }
    }

    /// Opens the next map with an empty tape.
    pub fn next_map(&mut self) {
        let Some(grid) = self.game.grid() else { return };
        let book = grid.book().clone();
        let next = (grid.map() + 1) % book.maps.len();
        (self.game.aside, self.game.shown_for) = (None, None);
        match Session::new(Start::map(book, next)) {
            Ok(session) => self.game.session = Some(session),
            Err(error) => self.say(error.to_string()),
        }
        self.game.changed = None;
        self.proven = None;
        self.picture.cursor = None;
        self.news.text = true;
        self.game_changed();
    }

    /// Goes over to the tape that was cut off last.
    pub fn branch(&mut self) {
        let Some(session) = &mut self.game.session else { return };
        match session.branches().len() {
            0 => self.say("no tape has been cut off: playing on from an earlier input keeps the rest"),
            count => {
                session.switch(count - 1);
                self.say("this is the tape that was cut off; b goes back");
                self.game_changed();
            }
        }
    }

    /// The next kind on the board is counted on the rims; after the last none.
    pub fn count_next(&mut self) {
        let Some(grid) = self.game.grid() else { return };
        let (book, board) = (grid.book(), grid.board());
        let first = self.picture.counted.map_or(0, |kind| kind.0 + 1);
        let there = |kind: &KindId| Some(*kind) != book.ground && board.count(*kind) > 0;
        self.picture.counted = (first..book.kinds.len() as u16).map(KindId).find(there);
        self.note = Some(match self.picture.counted {
            Some(kind) => format!("the rims count {}: {} on the map", book.kind(kind).name, board.count(kind)),
            None => "the rims show columns and rows".into(),
        });
    }

    /// Shows the cells that the controlled piece gets into, or no longer.
    pub fn toggle_reach(&mut self) {
        /// Boards above this size would make every key wait.
        const CELLS: u32 = 300_000;
        let cells = self.game.grid().map_or(0, |grid| grid.board().cells());
        if cells > CELLS {
            self.say(format!("reach is shown on boards of at most {CELLS} cells"));
        } else if self.game.reach.take().is_none() {
            self.game.reach = Some(magpie_core::grid::Reach::default());
            self.game.refresh();
        }
    }

    /// Changes the text, where that is a rulebook without mistakes; board, benches and tape follow.
    pub fn change(&mut self, owner: Owner, edit: Edit) -> bool {
        let Some(source) = edit(&self.text, self.text.source()) else {
            self.say("the rulebook has no place for this");
            return false;
        };
        if !self.text.mistakes.is_empty() {
            self.say("the rulebook has mistakes: mend them first");
            return false;
        }
        let loaded = self.text.read(&source);
        if loaded.reading.rulebook.is_none() {
            let wrong =
                loaded.reading.diagnostics.first().map_or("the rulebook would have mistakes", |wrong| &wrong.message);
            self.say(wrong);
            return false;
        }
        self.text.note(owner, edit);
        self.reload(loaded);
        true
    }

    /// Takes an owner's last change back; false where there is none.
    pub fn take_back(&mut self, owner: Owner) -> bool {
        let Some(source) = self.text.take_back(owner) else { return false };
        let loaded = self.text.read(&source);
        self.reload(loaded);
        true
    }

    /// Writes an owner's changes into the file, and nobody else's; whether they are there now.
    pub fn write(&mut self, owner: Owner) -> bool {
        match self.text.write(owner) {
            Ok(()) => true,
            Err(error) => {
                self.say(format!("{error:#}"));
                false
            }
        }
    }

    /// Writes a whole text into the file, whatever it says, and plays the tape again; whether it is there now.
    pub fn write_whole(&mut self, text: &str) -> bool {
        if let Err(error) = self.text.write_whole(text) {
            self.say(format!("{error:#}"));
            return false;
        }
        self.begin_anew(text.as_bytes().to_vec());
        true
    }

    fn begin_anew(&mut self, bytes: Vec<u8>) {
        let loaded = crate::files::load_bytes(self.text.path(), &bytes);
        self.reload(loaded);
        self.text.begin(bytes);
    }

    /// The file may have been written by another program.
    pub fn file_changed(&mut self, bytes: Vec<u8>) {
        if self.text.has_seen(&bytes) {
            return;
        }
        let aside = self.text.put_aside();
        self.begin_anew(bytes);
        if aside {
            self.say("the file has changed: taking back brings the unwritten changes again");
        }
    }

    /// A file named on a bench lies beside the rulebook unless its path says otherwise.
    fn beside(&self, name: &str) -> PathBuf {
        let name = name.trim();
        self.text.path().parent().map_or_else(|| PathBuf::from(name), |folder| folder.join(name))
    }

    /// The text of a file beside the rulebook.
    pub fn read_beside(&self, name: &str) -> Result<String, String> {
        let bytes = bytes_of(&self.beside(name)).map_err(|error| format!("{error:#}"))?;
        String::from_utf8(bytes).map_err(|_| format!("`{name}` is not UTF-8"))
    }

    /// Reads a file beside the rulebook where there is one.
    pub fn look_beside(&self, name: &str) -> Option<Result<String, String>> {
        self.beside(name).exists().then(|| self.read_beside(name))
    }

    /// Writes a new file beside the rulebook; one that is there already stays.
    pub fn write_beside(&self, name: &str, text: &str) -> Result<PathBuf, String> {
        let path = self.beside(name);
        if path.exists() {
            return Err(format!("`{}` is there already: choose another name", path.display()));
        }
        replace(&path, text.as_bytes()).map_err(|error| format!("{error:#}"))?;
        Ok(path)
    }

    /// The cell on which the eye should rest: pointed at, or the controlled piece's.
    pub fn focus(&self) -> Option<Cell> {
        let board = self.game.grid()?.board();
        let piece = self.game.controlled();
        let cell = piece.and_then(|piece| board.cell_of(piece)).map(|cell| board.cell(cell));
        self.picture.cursor.or(cell)
    }

    /// The board was clicked: the cursor goes there, or is taken away.
    pub fn point_at(&mut self, finger: Finger) {
        if let Finger::Down { inside: Some((cell, _)), .. } = finger {
            self.picture.cursor = if self.picture.cursor == Some(cell) { None } else { Some(cell) };
            self.look();
        }
    }
}
