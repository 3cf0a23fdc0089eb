//! The program in a real terminal, and in folders of its own.
#![allow(dead_code, clippy::unwrap_used)] // each test file uses its part

pub mod languages;
pub mod oracle;
pub mod players;
pub mod random_books;

use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, Instant};

/// The program that is tested.
pub const PROGRAM: &str = env!("CARGO_BIN_EXE_rapid-magpie");

/// The folder of the demos.
pub fn demos() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demos")
}

/// Runs the program on arguments in an otherwise empty environment; gives exit code, output and errors.
pub fn run(folder: &Path, arguments: &[&str]) -> (i32, String, String) {
    let Output { status, stdout, stderr } =
        Command::new(PROGRAM).args(arguments).current_dir(folder).env_clear().env("HOME", folder).output().unwrap();
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
    (status.code().unwrap_or(-1), text(stdout), text(stderr))
}

/// A terminal with the program in it.
pub struct Terminal {
    socket: PathBuf,
    pub folder: tempfile::TempDir,
}

static NUMBER: AtomicUsize = AtomicUsize::new(0);

impl Terminal {
    /// Starts the program on arguments in a folder that holds these files.
    pub fn start(files: &[(&str, &str)], arguments: &str, size: (u16, u16)) -> Self {
        let folder = tempfile::tempdir().unwrap();
        for (name, text) in files {
            std::fs::write(folder.path().join(name), text).unwrap();
        }
        let number = NUMBER.fetch_add(1, Ordering::Relaxed);
        let socket = folder.path().join(format!("tmux-{number}"));
        let terminal = Self { socket, folder };
        terminal.program(arguments, size);
        terminal
    }

    fn program(&self, arguments: &str, size: (u16, u16)) {
        let home = self.folder.path().display();
        let command = format!(
            "cd {home} && HOME={home} COLORTERM=truecolor {PROGRAM} {arguments}; echo \"[left with $?]\"; exec sleep 60"
        );
        self.tmux(&["new-session", "-d", "-x", &size.0.to_string(), "-y", &size.1.to_string(), &command]);
        self.tmux(&["set", "-g", "status", "off"]);
        self.tmux(&["set", "-s", "escape-time", "0"]);
    }

    /// Ends the terminal as a closed window does, and starts the program again in the same folder.
    pub fn again(&self, arguments: &str, size: (u16, u16)) {
        self.tmux(&["kill-server"]);
        std::thread::sleep(Duration::from_millis(200));
        self.program(arguments, size);
    }

    pub fn tmux(&self, arguments: &[&str]) -> String {
        let output = Command::new("tmux")
            .arg("-S")
            .arg(&self.socket)
            .args(["-f", "/dev/null"])
            .args(arguments)
            .output()
            .expect("tmux is needed: ./test installs it");
        String::from_utf8_lossy(&output.stdout).into_owned()
    }

    /// Presses keys, named as tmux names them.
    pub fn keys(&self, keys: &str) -> &Self {
        for key in keys.split(' ') {
            self.tmux(&["send-keys", key]);
            std::thread::sleep(Duration::from_millis(15));
        }
        self
    }

    /// Types a text as it stands.
    pub fn types(&self, text: &str) -> &Self {
        self.tmux(&["send-keys", "-l", text]);
        self
    }

    /// Clicks a character, counted from 0.
    pub fn click(&self, column: usize, line: usize) -> &Self {
        let (column, line) = (column + 1, line + 1);
        self.types(&format!("\u{1b}[<0;{column};{line}M"));
        self.types(&format!("\u{1b}[<0;{column};{line}m"))
    }

    /// Presses the button on one character and lifts it on another.
    pub fn drag(&self, from: (usize, usize), to: (usize, usize)) -> &Self {
        self.types(&format!("\u{1b}[<0;{};{}M", from.0 + 1, from.1 + 1));
        self.types(&format!("\u{1b}[<32;{};{}M", to.0 + 1, to.1 + 1));
        self.types(&format!("\u{1b}[<0;{};{}m", to.0 + 1, to.1 + 1))
    }

    pub fn resize(&self, columns: u16, rows: u16) -> &Self {
        self.tmux(&["resize-window", "-x", &columns.to_string(), "-y", &rows.to_string()]);
        self
    }

    /// The screen as text.
    pub fn screen(&self) -> String {
        self.tmux(&["capture-pane", "-p"])
    }

    /// Waits until the screen shows all these words.
    pub fn sees(&self, words: &[&str]) -> String {
        let start = Instant::now();
        loop {
            let screen = self.screen();
            let missing: Vec<&&str> = words.iter().filter(|word| !screen.contains(**word)).collect();
            if missing.is_empty() {
                return screen;
            }
            assert!(start.elapsed() < Duration::from_secs(10), "missing {missing:?} on\n{screen}");
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// Waits until the screen shows none of these words.
    pub fn sees_no(&self, word: &str) -> String {
        let start = Instant::now();
        loop {
            let screen = self.screen();
            if !screen.contains(word) {
                return screen;
            }
            assert!(start.elapsed() < Duration::from_secs(10), "`{word}` stays on\n{screen}");
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// Waits until the screen from before is back, with the cursor and without the mouse.
    pub fn is_given_back(&self) {
        let start = Instant::now();
        let modes = || self.tmux(&["display-message", "-p", "#{alternate_on} #{mouse_any_flag} #{cursor_flag}"]);
        while modes().trim() != "0 0 1" {
            assert!(start.elapsed() < Duration::from_secs(10), "the terminal is not given back: {}", modes());
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// Where a text stands on the screen, waited for: column and line of its first character.
    pub fn find(&self, text: &str) -> (usize, usize) {
        let screen = self.sees(&[text]);
        let found = screen
            .lines()
            .enumerate()
            .find_map(|(line, row)| row.find(text).map(|at| (row[..at].chars().count(), line)));
        found.unwrap_or_else(|| panic!("no `{text}` on\n{screen}"))
    }

    /// The number of the process in front.
    pub fn process(&self) -> String {
        let shell = self.tmux(&["display-message", "-p", "#{pane_pid}"]);
        let output = Command::new("pgrep").args(["-P", shell.trim()]).output().unwrap();
        String::from_utf8_lossy(&output.stdout).trim().to_owned()
    }
}

impl Drop for Terminal {
    fn drop(&mut self) {
        self.tmux(&["kill-server"]);
    }
}
