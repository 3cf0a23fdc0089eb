#[path = "../../magpie-core/tests/damage/mod.rs"]
mod damage;

use super::{bytes_of, load, parse_tape, parse_whole_lines, replace, tape_text, tapes_beside, text_of};
use magpie_core::input::parse_inputs;
use magpie_core::rulebook::read_text;
use magpie_core::tape::{Session, Start};
use std::path::PathBuf;
use std::sync::Arc;

const YARD: &str = "game \"Y\"\ncell 8 px\nkinds\n  keeper K body\nmap \"M\"\n  K__\ncontrol keeper with arrows\n";

fn folder() -> (tempfile::TempDir, PathBuf) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("yard.magpie");
    std::fs::write(&path, YARD).unwrap();
    (folder, path)
}

#[test]
fn a_file_is_replaced_whole_with_its_permissions_and_nothing_is_left_beside_it() {
    let (folder, path) = folder();
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt as _;
        std::fs::set_permissions(&path, std::fs::Permissions::from_mode(0o640)).unwrap();
        replace(&path, b"new").unwrap();
        assert_eq!(path.metadata().unwrap().permissions().mode() & 0o777, 0o640);
    }
    replace(&path, b"newer").unwrap();
    assert_eq!(std::fs::read(&path).unwrap(), b"newer");
    assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1);
    let error = replace(&folder.path().join("no/such/folder.txt"), b"x").unwrap_err();
    assert!(error.to_string().contains("cannot write"), "{error:#}");
}

#[cfg(unix)]
#[test]
fn a_link_stays_and_the_file_that_it_names_is_replaced() {
    let (folder, path) = folder();
    let link = folder.path().join("link.magpie");
    std::os::unix::fs::symlink(&path, &link).unwrap();
    replace(&link, b"through").unwrap();
    assert_eq!(std::fs::read(&path).unwrap(), b"through");
    assert!(link.symlink_metadata().unwrap().file_type().is_symlink());
}

#[test]
fn a_file_that_is_gone_or_no_text_is_said() {
    let (folder, path) = folder();
    let gone = folder.path().join("gone.magpie");
    assert!(bytes_of(&gone).unwrap_err().to_string().contains("gone.magpie"));
    assert!(load(&gone).is_err());
    std::fs::write(&path, [0xFF, 0xFE]).unwrap();
    assert!(text_of(&path).unwrap_err().to_string().contains("no UTF-8"));
    assert!(load(&path).unwrap().reading.rulebook.is_none(), "as a rulebook it is a mistake that is told");
}

#[test]
fn maps_come_from_files_beside_the_rulebook_alone() {
    let (folder, path) = folder();
    std::fs::create_dir(folder.path().join("maps")).unwrap();
    std::fs::write(folder.path().join("maps/one.txt"), "K,K,K\nK,K,K\n").unwrap();
    let with = |name: &str| {
        std::fs::write(&path, YARD.replace("map \"M\"\n  K__\n", &format!("map \"M\" from \"{name}\"\n"))).unwrap();
        load(&path).unwrap().reading
    };
    let book = with("maps/one.txt").rulebook.unwrap();
    assert_eq!((book.maps[0].extent.columns, book.maps[0].extent.rows), (3, 2));
    for wrong in ["../one.txt", "/etc/hostname", "maps", "maps/two.txt"] {
        let reading = with(wrong);
        assert!(reading.rulebook.is_none() && !reading.diagnostics.is_empty(), "{wrong}");
        assert_eq!(reading.diagnostics[0].code.word(), "map-file", "{wrong}");
    }
}

#[test]
fn a_tape_comes_back_as_it_was_written() {
    let book = Arc::new(read_text(YARD, &|_| Err("none".into())).rulebook.unwrap());
    let mut session = Session::new(Start::map(book, 0)).unwrap();
    let inputs = parse_inputs("right wait:250 key:x tap:1,0 drag:0,0>2,0 restart").unwrap();
    inputs.iter().for_each(|input| {
        session.give(input);
    });
    let text = tape_text("yard.magpie", 1, 9, session.entries()).unwrap();
    for text in [text.clone(), format!("\u{feff}{text}"), text.replace('\n', "\r\n"), text.replace('\n', "\n\n")] {
        let tape = parse_tape(&text).unwrap();
        let wanted: Vec<_> = session.entries().iter().map(|entry| (Some(entry.at), entry.input.clone())).collect();
        assert_eq!((tape.lines, tape.header.seed), (wanted, Some(9)));
    }
}

#[test]
fn a_wrong_tape_is_told_with_its_line() {
    let head = "{\"magpie-tape\":1,\"rulebook\":\"y\"}\n";
    let table = [
        (String::new(), "empty"),
        ("hello\n".into(), "line 1"),
        ("{\"magpie-tape\":2,\"rulebook\":\"y\"}\n".into(), "version 2"),
        (format!("{head}{{\"at\":0,\"input\":\"up\"}}\n{{\"at\":1,\"input\":3}}\n"), "line 3"),
        (format!("{head}{{\"at\":0,\"input\":\"jump\"}}\n"), "line 2"),
        (format!("{head}{{\"at\":-1,\"input\":\"up\"}}\n"), "line 2"),
    ];
    for (text, words) in table {
        let error = format!("{:#}", parse_tape(&text).unwrap_err());
        assert!(error.contains(words), "{text:?}: {error}");
    }
}

#[test]
fn tapes_of_this_rulebook_are_found_in_the_order_of_their_names() {
    let (folder, path) = folder();
    let tape = |name: &str, rulebook: &str| {
        std::fs::write(folder.path().join(name), format!("{{\"magpie-tape\":1,\"rulebook\":\"{rulebook}\"}}\n"))
            .unwrap();
    };
    tape("b.jsonl", "yard.magpie");
    tape("a.jsonl", "yard.magpie");
    tape("other.jsonl", "other.magpie");
    tape("c.txt", "yard.magpie");
    std::fs::write(folder.path().join("broken.jsonl"), "{").unwrap();
    let names: Vec<String> =
        tapes_beside(&path).iter().map(|path| path.file_name().unwrap().to_string_lossy().into_owned()).collect();
    assert_eq!(names, ["a.jsonl", "b.jsonl"]);
}

#[cfg(unix)]
#[test]
fn only_regular_files_are_read_and_replaced() {
    let (folder, _) = folder();
    let pipe = folder.path().join("pipe.magpie");
    assert!(std::process::Command::new("mkfifo").arg(&pipe).status().unwrap().success());
    let inner = folder.path().join("inner");
    std::fs::create_dir(&inner).unwrap();
    for (path, words) in [(pipe.as_path(), "pipe.magpie` is no regular file"), (inner.as_path(), "inner` is a folder")]
    {
        let read = format!("{:#}", bytes_of(path).unwrap_err());
        assert!(read.contains(words), "{read}");
        let replaced = format!("{:#}", replace(path, b"x").unwrap_err());
        assert!(replaced.contains(words), "{replaced}");
    }
    let device = format!("{:#}", replace(std::path::Path::new("/dev/null"), b"x").unwrap_err());
    assert!(device.contains("/dev/null` is no regular file"), "{device}");
    // A link to a device is the device.
    let link = folder.path().join("link");
    std::os::unix::fs::symlink("/dev/null", &link).unwrap();
    assert!(bytes_of(&link).is_err() && replace(&link, b"x").is_err());
    assert!(link.symlink_metadata().unwrap().file_type().is_symlink());
}

/// Tapes of damaged text: what is read well is written and read again as the same.
#[test]
fn fuzz_tapes() {
    let good: Vec<Vec<u8>> = [
        "{\"magpie-tape\":1,\"rulebook\":\"a.magpie\",\"map\":2,\"seed\":7}\n{\"at\":0,\"input\":\"right\"}\n{\"at\":250,\"input\":\"tap:3,4\"}\n",
        "{\"magpie-tape\":1,\"rulebook\":\"b\"}\r\n\r\n{\"at\":9,\"input\":\"drag:0,0>1,0\"}\r\n{\"at\":86400000,\"input\":\"wait:5\"}\r\n",
    ]
    .map(|text| text.as_bytes().to_vec())
    .into();
    let mut draws = damage::Draws(29);
    let mut whole = 0;
    damage::for_a_while("tapes", |_| {
        let text = String::from_utf8_lossy(&damage::damage(&good[draws.below(2)], &mut draws, &good)).into_owned();
        if let Ok((tape, wrong)) = parse_whole_lines(&text) {
            assert!(tape.lines.len() < text.lines().count());
            assert_eq!(parse_tape(&text).is_ok(), wrong.is_none());
            whole += usize::from(wrong.is_none());
        }
        text
    });
    assert!(whole > 10, "{whole} whole tapes");
}
