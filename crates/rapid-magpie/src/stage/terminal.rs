//! The terminal: taken over, and always given back.

use crossterm::event::{
    DisableBracketedPaste, DisableMouseCapture, EnableBracketedPaste, EnableMouseCapture, KeyboardEnhancementFlags,
    PopKeyboardEnhancementFlags, PushKeyboardEnhancementFlags,
};
use crossterm::execute;
use crossterm::terminal::{
    Clear, ClearType, EnterAlternateScreen, LeaveAlternateScreen, SetTitle, disable_raw_mode, enable_raw_mode,
};
use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;
use std::io::{IsTerminal, Stdout, stdout};

/// Whether there is a terminal, which the workbench needs.
pub fn needed() -> anyhow::Result<()> {
    if !stdout().is_terminal() || !std::io::stdin().is_terminal() {
        anyhow::bail!("the workbench needs a terminal; `play`, `check` and the others work without one");
    }
    Ok(())
}

/// The screen while the workbench has it.
pub struct Screen {
    terminal: Terminal<CrosstermBackend<Stdout>>,
}

impl Screen {
    /// Takes the terminal over; it is given back when this is dropped, and by a panic of this thread.
    pub fn new() -> anyhow::Result<Self> {
        needed()?;
        restore_on_panic();
        let terminal = Terminal::new(CrosstermBackend::new(stdout()))?;
        take()?;
        Ok(Self { terminal })
    }

    /// Takes the terminal again after a stop.
    pub fn resume(&mut self) -> anyhow::Result<()> {
        take()?;
        // What the shell has written is wiped, and everything drawn anew.
        execute!(stdout(), Clear(ClearType::All))?;
        self.terminal = Terminal::new(CrosstermBackend::new(stdout()))?;
        Ok(())
    }

    /// Draws one frame.
    pub fn draw(&mut self, render: impl FnOnce(&mut ratatui::Frame)) -> anyhow::Result<()> {
        self.terminal.draw(render)?;
        Ok(())
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        give_back();
    }
}

fn take() -> anyhow::Result<()> {
    enable_raw_mode()?;
    execute!(
        stdout(),
        EnterAlternateScreen,
        EnableMouseCapture,
        EnableBracketedPaste,
        crossterm::cursor::Hide,
        SetTitle("rapid magpie")
    )?;
    Ok(())
}

/// Asks the terminal to tell when keys go up, or no longer; one that cannot passes it over.
pub fn report_releases(on: bool) {
    let flags = KeyboardEnhancementFlags::DISAMBIGUATE_ESCAPE_CODES | KeyboardEnhancementFlags::REPORT_EVENT_TYPES;
    let _ = if on {
        execute!(stdout(), PushKeyboardEnhancementFlags(flags))
    } else {
        execute!(stdout(), PopKeyboardEnhancementFlags)
    };
}

/// Gives the terminal back; safe to call more than once. A terminal that is gone takes nothing back.
pub fn give_back() {
    report_releases(false);
    let _ =
        execute!(stdout(), DisableBracketedPaste, DisableMouseCapture, LeaveAlternateScreen, crossterm::cursor::Show);
    let _ = disable_raw_mode();
}

/// A fault of the program ends it on whatever thread it happens: an answer that never comes would be silence.
fn restore_on_panic() {
    let usual = std::panic::take_hook();
    std::panic::set_hook(Box::new(move |info| {
        give_back();
        usual(info);
        std::process::exit(101);
    }));
}
