//! The guard: a second process that does nothing but wait for the workbench, and gives the terminal back where the
//! workbench itself no longer can: after a stack overflow, a failed allocation, a kill.
//!
//! The program that was started is the guard; it starts itself once more for the workbench. The shell waits for the guard,
//! so that nothing else writes on the terminal before it has been given back. No signal handler of our own runs in a
//! process that has lost its stack.

use super::terminal;
use crate::words;
use rustix::process::{Pid, Signal, WaitOptions, getpid, getppid, kill_process, waitpid};
use rustix::termios::{OptionalActions, tcgetattr, tcsetattr};
use signal_hook::consts::{SIGCONT, SIGTSTP};
use signal_hook::low_level::{emulate_default_handler, signal_name};
use std::ffi::OsString;
use std::process::{Command, ExitCode};

/// Tells the workbench which process guards it.
pub const VARIABLE: &str = "RAPID_MAGPIE_GUARD";

/// Guards a workbench in a process of its own and gives what it ended with; `None` where this process is the workbench.
pub fn guard() -> Option<ExitCode> {
    let is_guarded = std::env::var(VARIABLE).ok().and_then(|pid| pid.parse().ok());
    if is_guarded.is_some() && is_guarded == getppid().map(Pid::as_raw_nonzero) {
        // A workbench whose guard was killed gives the terminal back itself.
        let _ = rustix::process::set_parent_process_death_signal(Some(Signal::TERM));
        return None;
    }
    let stdin = std::io::stdin();
    let modes = tcgetattr(&stdin).ok()?;
    let arguments: Vec<OsString> = std::env::args_os().skip(1).collect();
    let own = getpid().as_raw_nonzero().to_string();
    // Where there can be no second process the workbench runs unguarded.
    let program = std::env::current_exe().ok()?;
    let signals = signal_hook::iterator::Signals::new(super::ENDS.into_iter().chain([SIGTSTP, SIGCONT])).ok()?;
    let child = Command::new(program).args(arguments).env(VARIABLE, own).spawn().ok()?;
    let workbench = Pid::from_child(&child);
    hand_on(signals, workbench);
    let signal = loop {
        match waitpid(Some(workbench), WaitOptions::UNTRACED) {
            Ok(Some((_, status))) if status.stopped() => {
                // The shell waits for the guard: it stops with the workbench, and both are called back.
                let _ = emulate_default_handler(SIGTSTP);
            }
            Ok(Some((_, status))) => match status.terminating_signal() {
                Some(signal) => break signal,
                None => return Some(ExitCode::from(status.exit_status().unwrap_or(2) as u8)),
            },
            Ok(None) | Err(rustix::io::Errno::INTR) => {}
            Err(_) => return Some(ExitCode::from(2)),
        }
    };
    terminal::give_back();
    let _ = tcsetattr(&stdin, OptionalActions::Flush, &modes);
    let name = signal_name(signal).unwrap_or("a signal");
    words::tell(&format!("rapid-magpie: ended by {name}; the tape is kept and offered at the next start"));
    let _ = emulate_default_handler(signal);
    Some(ExitCode::from(128_u8.wrapping_add(signal as u8)))
}

/// Hands signals on that somebody sends to the program by its number.
fn hand_on(mut signals: signal_hook::iterator::Signals, workbench: Pid) {
    std::thread::spawn(move || {
        for signal in &mut signals {
            if let Some(signal) = Signal::from_named_raw(signal) {
                // It may have ended by now.
                let _ = kill_process(workbench, signal);
            }
        }
    });
}
