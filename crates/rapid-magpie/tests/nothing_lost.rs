//! Kills, full disks, folders that cannot be written: what was saved is there, old or new, and nothing is left lying about.
#![cfg(target_os = "linux")]
#![allow(clippy::unwrap_used)]

mod support;

use std::path::Path;
use std::process::Command;
use support::{PROGRAM, Terminal};

const ROOM: &str = "game \"Room\"\ncell 24 px\nkinds\n  man M body\n  box c body\nmap \"One\"\n  M_c____\n  _______\n\
                    control man with arrows\nrules\n  man into box: shove\n";

/// The same, as `fmt` does not leave it.
fn ragged() -> String {
    ROOM.replace("  man M body", "  man    M   body")
}

/// Names of what a folder holds, in order.
fn names(folder: &Path) -> Vec<String> {
    let entries = std::fs::read_dir(folder).unwrap();
    let mut names: Vec<String> =
        entries.map(|entry| entry.unwrap().file_name().to_string_lossy().into_owned()).collect();
    names.sort();
    names
}

/// Runs a command that is killed at the so-manieth call of a system call; whether it got there.
fn killed_at(folder: &Path, call: &str, when: usize, arguments: &[&str]) -> bool {
    let inject = format!("inject={call}:signal=SIGKILL:when={when}");
    let output = Command::new("strace")
        .args(["-f", "-o", "/dev/null", "-e", &format!("trace={call}"), "-e", &inject, PROGRAM])
        .args(arguments)
        .current_dir(folder)
        .output()
        .expect("strace is needed: ./test installs it");
    output.status.code().is_none() || output.status.code() == Some(137)
}

/// Killed at every system call of a save, one after the other: the file holds what it held or what it is to hold, and the
/// next save clears up what was left.
#[test]
fn a_save_that_is_killed_anywhere_leaves_the_old_file_or_the_new_one() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("a.magpie");
    let mut kills = 0;
    let mut left = 0;
    for call in ["openat", "write", "flock", "fchmod", "fsync", "rename", "close", "fstat,statx,newfstatat"] {
        for when in 1..60 {
            std::fs::write(&path, ragged()).unwrap();
            if !killed_at(folder.path(), call, when, &["fmt", "a.magpie"]) {
                break;
            }
            kills += 1;
            let text = std::fs::read_to_string(&path).unwrap();
            assert!(text == ragged() || text == ROOM, "killed at {call} {when}:\n{text}");
            left += usize::from(names(folder.path()).len() > 1);
        }
    }
    assert!(kills > 10 && left > 0, "{kills} kills, {left} of them left a temporary file");
    std::fs::write(&path, ragged()).unwrap();
    assert_eq!(support::run(folder.path(), &["fmt", "a.magpie"]).0, 0);
    assert_eq!((names(folder.path()), std::fs::read_to_string(&path).unwrap()), (vec!["a.magpie".into()], ROOM.into()));
}

/// Runs a script with a small file system of its own mounted on `full`; `None` where the machine does not let one.
fn on_a_small_disk(folder: &Path, script: &str) -> Option<(i32, String)> {
    std::fs::create_dir_all(folder.join("full")).unwrap();
    let mounted = "mount -t tmpfs -o size=64k none full || exit 99";
    let output = Command::new("unshare")
        .args(["-rm", "sh", "-c", &format!("{mounted}\n{script}"), PROGRAM])
        .current_dir(folder)
        .output();
    let output = output.ok().filter(|output| {
        let refused = !output.status.success() && String::from_utf8_lossy(&output.stderr).contains("unshare");
        !refused && output.status.code() != Some(99)
    });
    if output.is_none() {
        eprintln!("NOT RUN: this machine gives no file system of one's own (unshare, mount)");
    }
    output.map(|output| {
        let text = String::from_utf8_lossy(&output.stdout).into_owned() + &String::from_utf8_lossy(&output.stderr);
        (output.status.code().unwrap_or(-1), text)
    })
}

/// What every command that writes does on a disk without room: it says so with exit code 2, and all files are as they were.
#[test]
fn on_a_full_disk_the_old_file_stays_and_nothing_half_written() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("a.magpie"), ragged()).unwrap();
    std::fs::write(folder.path().join("good.magpie"), ROOM).unwrap();
    let script = "cp a.magpie full/a.magpie; cp a.magpie full/o.svg; cp a.magpie full/o.jsonl; cp a.magpie full/o.xml
        head -c 1000000 /dev/zero > full/ballast 2>/dev/null
        for command in 'fmt full/a.magpie' 'draw good.magpie --what board --out full/o.svg' 'play good.magpie --inputs right --record full/o.jsonl' \
            'test good.magpie --junit full/o.xml'; do
          $0 $command > /dev/null 2> told; echo \"code $?: $(cat told)\"
        done
        for file in a.magpie o.svg o.jsonl o.xml; do cmp a.magpie full/$file && echo same; done
        ls -A full | tr '\\n' ' '";
    let Some((_, told)) = on_a_small_disk(folder.path(), script) else { return };
    assert_eq!(told.matches("code 2: rapid-magpie: cannot write").count(), 4, "{told}");
    assert_eq!(told.matches("same").count(), 4, "{told}");
    assert!(told.contains("a.magpie ballast o.jsonl o.svg o.xml"), "{told}");
}

#[test]
fn in_a_folder_that_cannot_be_written_every_command_says_so() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("a.magpie"), ragged()).unwrap();
    let script = "cp a.magpie full/a.magpie; mount -o remount,ro none full || exit 99
        for command in 'fmt full/a.magpie' 'draw a.magpie --what board --out full/o.svg' 'new full/b.magpie'; do
          $0 $command > /dev/null 2> told; echo \"code $?: $(cat told)\"
        done
        cmp a.magpie full/a.magpie && ls -A full";
    let Some((_, told)) = on_a_small_disk(folder.path(), script) else { return };
    assert_eq!(told.matches("code 2: rapid-magpie: ").count(), 3, "{told}");
    assert!(told.ends_with("a.magpie\n"), "{told}");
}

/// A full or closed standard output is an error, never a panic.
#[test]
fn output_that_nobody_takes_is_no_fault() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("a.magpie"), ROOM).unwrap();
    let commands = [
        "check a.magpie",
        "check a.magpie --format json",
        "play a.magpie --inputs right --json",
        "convert a.magpie px:1,2",
        "demo --list",
        "completions bash",
        "pace a.magpie --cells 2",
        "test a.magpie",
        "--help",
        "check none.magpie",
        "nonsense",
        "play a.magpie --inputs up --show all",
    ];
    for command in commands {
        for target in ["> /dev/full", "2> /dev/full", "> /dev/full 2> /dev/full", ">&-", "2>&-", "| true"] {
            let script = format!("exec 3>&2; $0 {command} {target}; echo \"code $?\" >&3");
            let output = Command::new("sh").args(["-c", &script, PROGRAM]).current_dir(folder.path()).output().unwrap();
            let told = String::from_utf8_lossy(&output.stderr);
            assert!(!told.contains("panicked") && told.contains("code "), "{command} {target}: {told}");
            assert!(
                ["code 0", "code 1", "code 2"].iter().any(|code| told.contains(code)),
                "{command} {target}: {told}"
            );
        }
    }
}

/// Keys come in while the workbench is killed at some moment: what is offered next is what had come in, but for the last
/// input at most.
#[test]
fn a_workbench_killed_at_any_moment_loses_the_last_input_at_most() {
    let rounds: u64 = std::env::var("MAGPIE_KILLS").ok().and_then(|text| text.parse().ok()).unwrap_or(4);
    for round in 0..rounds {
        let terminal = Terminal::start(&[("room.magpie", ROOM)], "room.magpie", (120, 36));
        terminal.sees(&["0 of 0"]);
        let count = 5 + (round * 7 % 20) as usize;
        for at in 0..count {
            terminal.keys(if at % 2 == 0 { "Right" } else { "Left" });
        }
        let process = terminal.process();
        // The guard and the workbench both, as a machine does that runs out of memory.
        std::thread::sleep(std::time::Duration::from_millis(round * 3 % 17));
        let both = Command::new("pkill").args(["-KILL", "-P", &process]).status().unwrap();
        assert!(both.success());
        let shown = terminal.sees(&["[left with 137]", "ended by SIGKILL"]);
        assert!(!shown.contains("0 of 0"), "the screen is given back:\n{shown}");
        terminal.again("room.magpie", (120, 36));
        let offered = terminal.sees(&["a tape was kept", "tape of"]);
        let kept: usize = offered.split("tape of ").nth(1).unwrap().split(' ').next().unwrap().parse().unwrap();
        assert!((count - 1..=count).contains(&kept), "{kept} of {count} inputs are there");
    }
}
