//! What stands in the docs holds: links lead somewhere, every bench and every mistake has its place, every demo answers
//! every command as the formats say.
#![allow(clippy::unwrap_used)]

mod support;

use magpie_core::rulebook::{Code, Severity};
use serde_json::Value;
use std::path::{Path, PathBuf};
use support::{demos, run};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").canonicalize().unwrap()
}

fn files(folder: &Path, ending: &str) -> Vec<PathBuf> {
    let all = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let mut found: Vec<PathBuf> = all.filter(|path| path.extension().is_some_and(|other| other == ending)).collect();
    found.sort();
    assert!(!found.is_empty(), "{}", folder.display());
    found
}

fn text(path: &Path) -> String {
    std::fs::read_to_string(path).unwrap()
}

/// The targets of a page's links, those of the web aside.
fn links(page: &str) -> Vec<&str> {
    let targets = page.split("](").skip(1).filter_map(|rest| rest.split_once(')')).map(|(target, _)| target);
    targets.map(|target| target.split('#').next().unwrap()).filter(|target| !target.is_empty()).collect()
}

#[test]
fn every_link_leads_to_a_file() {
    let pages = files(&root(), "md").into_iter().chain(files(&root().join("docs"), "md"));
    let mut seen = 0;
    for page in pages {
        for target in links(&text(&page)) {
            let path = page.parent().unwrap().join(target);
            assert!(path.exists(), "{}: `{target}` leads nowhere", page.display());
            seen += 1;
        }
    }
    assert!(seen > 20, "{seen} links");
}

#[test]
fn every_picture_is_shown_somewhere() {
    let pages: String =
        files(&root(), "md").into_iter().chain(files(&root().join("docs"), "md")).map(|page| text(&page)).collect();
    for picture in files(&root().join("docs/screenshots"), "png") {
        let name = picture.file_name().unwrap().to_string_lossy().into_owned();
        assert!(pages.contains(&format!("screenshots/{name}")), "{name} is linked from nowhere");
    }
}

#[test]
fn every_bench_has_its_page() {
    for entry in std::fs::read_dir(root().join("crates/rapid-magpie/src/bench")).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            let name = path.file_name().unwrap().to_string_lossy().into_owned();
            let page = root().join(format!("docs/{name}.md"));
            assert!(page.exists(), "docs/{name}.md is missing");
            assert!(
                text(&root().join("README.md")).contains(&format!("docs/{name}.md")),
                "the README does not name it"
            );
        }
    }
}

#[test]
fn every_mistake_stands_in_the_language_reference_once() {
    let reference = text(&root().join("docs/language.md"));
    for code in Code::ALL {
        let named = reference.matches(&format!("`{}`", code.word())).count();
        assert!(named > 0, "`{}` ({}) is not in docs/language.md", code.word(), code.severity().word());
    }
    let warnings = Code::ALL.iter().filter(|code| code.severity() == Severity::Warning).count();
    let told = reference.split("Warnings: ").nth(1).unwrap().split("\n\n").next().unwrap();
    let words = Code::ALL.iter().filter(|code| told.contains(&format!("`{}`", code.word()))).count();
    assert!(words >= warnings, "{warnings} warnings, and the paragraph names {words}");
}

#[test]
fn the_architecture_names_every_dependency_and_every_folder() {
    let page = text(&root().join("ARCHITECTURE.md"));
    for name in ["magpie-core", "magpie-draw", "rapid-magpie"] {
        let manifest = text(&root().join(format!("crates/{name}/Cargo.toml")));
        let tables = ["[dependencies]", "[dev-dependencies]"];
        for table in tables {
            let Some(list) = manifest.split(table).nth(1) else { continue };
            for line in list.split("\n[").next().unwrap().lines().filter(|line| line.contains('=')) {
                let dependency = line.split(['=', '.', ' ']).next().unwrap();
                assert!(page.contains(dependency), "ARCHITECTURE.md has no reason for `{dependency}` of {name}");
            }
        }
        for entry in std::fs::read_dir(root().join(format!("crates/{name}/src"))).unwrap() {
            let path = entry.unwrap().path();
            let folder = path.file_name().unwrap().to_string_lossy().into_owned();
            assert!(!path.is_dir() || page.contains(&format!("{folder}/")), "{folder}/ of {name} is not drawn");
        }
    }
}

/// A JSON answer of a command.
fn json(arguments: &[&str]) -> Value {
    let (code, out, errors) = run(&demos(), arguments);
    assert_eq!(code, 0, "{arguments:?}: {errors}");
    serde_json::from_str(&out).unwrap_or_else(|error| panic!("{arguments:?}: {error}\n{out}"))
}

#[test]
fn every_demo_answers_every_command() {
    for path in files(&demos(), "magpie") {
        let file = path.file_name().unwrap().to_string_lossy().into_owned();
        let file = file.as_str();
        assert_eq!(json(&["check", file, "--format", "json"]), Value::Array(Vec::new()), "{file} has no mistake");
        let (code, ..) = run(&demos(), &["fmt", "--check", file]);
        assert_eq!(code, 0, "{file} is laid out");
        let played = json(&["play", file, "--inputs", "right down left up act", "--json", "--show", "all"]);
        let board = played["board"].as_array().unwrap();
        assert!(!board.is_empty(), "{file}");
        let width = board[0].as_str().unwrap().chars().count();
        assert!(board.iter().all(|line| line.as_str().unwrap().chars().count() == width), "{file}: one width");
        for answer in played["answers"].as_array().unwrap() {
            assert_eq!(answer["board"].as_array().unwrap().len(), board.len(), "{file}");
            for request in answer["requests"].as_array().unwrap() {
                let (granted, reason) = (request["granted"].as_bool().unwrap(), &request["reason"]);
                assert_eq!(
                    granted,
                    reason.is_null(),
                    "{file}: a refusal has a reason, and nothing else has: {request}"
                );
            }
        }
        let at = json(&["convert", file, "cell:0,0", "--json"]);
        let at = &at["results"][0];
        assert_eq!((at["column"].as_i64(), at["row"].as_i64()), (Some(0), Some(0)), "{file}: {at}");
        let folder = tempfile::tempdir().unwrap();
        for what in ["board", "probe", "pace", "meetings"] {
            let out = folder.path().join(format!("{what}.svg"));
            let (code, _, errors) = run(&demos(), &["draw", "--what", what, "--out", out.to_str().unwrap(), file]);
            // A demo in which nobody is controlled has nobody to draw a pace of.
            let nobody = what == "pace" && errors.contains("nobody is controlled");
            assert!(nobody || (code == 0 && text(&out).contains("</svg>")), "{file} {what}: {errors}");
        }
    }
}

#[test]
fn the_catalogue_is_listed_whole() {
    let page = text(&root().join("docs/mishaps.md"));
    let rows: Vec<&str> = page.lines().filter(|line| line.starts_with("| `")).collect();
    let plain = |says: &str| says.replace(['{', '}'], "*");
    let expected: Vec<String> = magpie_core::mishap::catalogue()
        .iter()
        .map(|listed| format!("| `{}` | {} | {} |", listed.id, listed.sort, plain(listed.says)))
        .collect();
    assert_eq!(rows, expected, "docs/mishaps.md:\n{}", expected.join("\n"));
}

#[test]
fn every_word_is_explained_as_editors_explain_it() {
    let page = text(&root().join("docs/language.md"));
    let (_, table) = page.split_once("## 10. Words").unwrap();
    let rows: Vec<&str> = table.lines().filter(|line| line.starts_with("| `")).collect();
    let words = magpie_core::rulebook::lexicon::WORDS;
    let expected: Vec<String> = words.iter().map(|(word, says)| format!("| `{word}` | {says} |")).collect();
    assert_eq!(rows, expected, "docs/language.md, section 10");
}
