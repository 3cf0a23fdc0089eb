//! The languages of `emit` whose compilers or interpreters are here.
#![allow(dead_code)]

use super::run;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

fn is_here(command: &str) -> bool {
    let found = Command::new("sh").args(["-c", &format!("command -v {command}")]).output();
    found.is_ok_and(|output| output.status.success())
}

/// A compiler of TypeScript with the types of Node beside it, where one was installed for tests.
fn typescript() -> Option<PathBuf> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/languages/node_modules");
    folder.join(".bin/tsc").exists().then(|| folder.canonicalize().unwrap())
}

/// Languages with what they need, and the command that compiles and runs `MAIN` beside the module, warnings as errors.
pub fn languages() -> Vec<(&'static str, &'static str, String)> {
    let all = [
        ("rust", "rustc", "rs", "rustc --edition 2021 -D warnings -A dead_code MAIN.rs && ./MAIN"),
        ("c", "cc", "c", "cc -std=c11 -Wall -Wextra -Werror -o MAIN MAIN.c NAME.c -lm && ./MAIN"),
        ("cpp", "c++", "cpp", "c++ -std=c++17 -Wall -Wextra -Werror -o MAIN MAIN.cpp && ./MAIN"),
        ("csharp", "mcs", "cs", "mcs -langversion:7.2 -warnaserror -out:t.exe MAIN.cs NAME.cs && mono t.exe"),
        ("js", "node", "mjs", "node MAIN.mjs"),
        ("python", "python3", "py", "python3 MAIN.py"),
        ("lua", "lua5.4", "lua", "lua5.4 MAIN.lua"),
    ];
    let mut found = Vec::new();
    for (language, needs, ending, command) in all {
        if is_here(needs) {
            found.push((language, ending, command.to_owned()));
        } else {
            println!("not tested: {needs} is not here");
        }
    }
    match typescript().filter(|_| is_here("node")) {
        Some(modules) => found.push((
            "ts",
            "ts",
            format!(
                "ln -sf {} node_modules && echo '{{\"type\":\"module\"}}' > package.json && \
                 node_modules/.bin/tsc --strict --module nodenext --types node MAIN.ts && node MAIN.js",
                modules.display()
            ),
        )),
        None => println!("not tested: no TypeScript in target/languages"),
    }
    found
}

/// The name of a module, and of its test program, in a language.
pub fn names(language: &str, stem: &str) -> (String, String) {
    let plain = stem.replace('-', "_");
    if language != "csharp" {
        return (plain.clone(), format!("{plain}_test"));
    }
    let pascal: String = plain.split('_').map(|part| part[..1].to_uppercase() + &part[1..]).collect();
    (pascal.clone(), format!("{pascal}Test"))
}

pub fn shell(folder: &Path, command: &str) -> Output {
    Command::new("sh").args(["-c", command]).current_dir(folder).output().unwrap()
}

pub fn emitted(folder: &Path, rulebook: &Path, language: &str, part: &str) -> String {
    let out = folder.join(language);
    let arguments =
        ["emit", rulebook.to_str().unwrap(), "--lang", language, "--part", part, "--out", out.to_str().unwrap()];
    let (code, text, errors) = run(folder, &arguments);
    assert_eq!(code, 0, "{errors}");
    text
}
