//! The house of `ARCHITECTURE.md`: which folder may know which, and how long a file or a function may be. The sources are
//! parsed, so that a path written in full counts like a `use`.
#![allow(clippy::unwrap_used)]

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};
use syn::spanned::Spanned;
use syn::visit::{self, Visit};

/// Lines of a file, and of a function.
const LONGEST_FILE: usize = 700;
const LONGEST_FUNCTION: usize = 100;

/// A source file: its module path in its crate, and what stands in it.
struct Source {
    path: PathBuf,
    module: Vec<String>,
    text: String,
    file: syn::File,
}

fn crates() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap().into()
}

fn rust_files(folder: &Path, found: &mut Vec<PathBuf>) {
    let Ok(entries) = std::fs::read_dir(folder) else { return };
    for path in entries.map(|entry| entry.unwrap().path()) {
        if path.is_dir() {
            rust_files(&path, found);
        } else if path.extension().is_some_and(|ending| ending == "rs") {
            found.push(path);
        }
    }
    found.sort();
}

/// The files of a folder of a crate.
fn sources(folder: &str) -> Vec<Source> {
    let folder = crates().join(folder);
    let mut paths = Vec::new();
    rust_files(&folder, &mut paths);
    assert!(!paths.is_empty(), "no sources in {}", folder.display());
    let source = |path: PathBuf| {
        let text = std::fs::read_to_string(&path).unwrap();
        let file = syn::parse_file(&text).unwrap();
        let inner = path.strip_prefix(&folder).unwrap().with_extension("");
        let mut module: Vec<String> = inner.iter().map(|part| part.to_string_lossy().into_owned()).collect();
        if module.last().is_some_and(|last| ["mod", "lib", "main"].contains(&last.as_str())) {
            module.pop();
        }
        Source { path, module, text, file }
    };
    paths.into_iter().map(source).collect()
}

/// Collects the paths that a file names, from the root of its crate, and those that begin with another crate.
struct Paths {
    module: Vec<String>,
    found: Vec<Vec<String>>,
}

impl Paths {
    fn of(source: &Source) -> Vec<Vec<String>> {
        let mut paths = Self { module: source.module.clone(), found: Vec::new() };
        paths.visit_file(&source.file);
        paths.found
    }

    fn note(&mut self, parts: &[String]) {
        let ups = parts.iter().take_while(|part| *part == "super").count();
        let absolute = match parts.first().map(String::as_str) {
            Some("crate") => parts[1..].to_vec(),
            Some("self") => [&self.module[..], &parts[1..]].concat(),
            Some("super") => [&self.module[..self.module.len() - ups], &parts[ups..]].concat(),
            Some(other) if other.starts_with("magpie_") => parts.to_vec(),
            _ => return,
        };
        self.found.push(absolute);
    }

    fn tree(&mut self, tree: &syn::UseTree, before: &mut Vec<String>) {
        match tree {
            syn::UseTree::Path(path) => {
                before.push(path.ident.to_string());
                self.tree(&path.tree, before);
                before.pop();
            }
            syn::UseTree::Group(group) => group.items.iter().for_each(|item| self.tree(item, before)),
            syn::UseTree::Name(name) => self.note(&[&before[..], &[name.ident.to_string()]].concat()),
            syn::UseTree::Rename(name) => self.note(&[&before[..], &[name.ident.to_string()]].concat()),
            syn::UseTree::Glob(_) => self.note(before),
        }
    }
}

impl<'ast> Visit<'ast> for Paths {
    fn visit_item_mod(&mut self, item: &'ast syn::ItemMod) {
        // Tests may look at everything.
        let test = item.attrs.iter().any(|attribute| attribute.path().is_ident("cfg"));
        if item.content.is_some() && !test {
            self.module.push(item.ident.to_string());
            visit::visit_item_mod(self, item);
            self.module.pop();
        }
    }

    fn visit_item_use(&mut self, item: &'ast syn::ItemUse) {
        self.tree(&item.tree, &mut Vec::new());
    }

    fn visit_path(&mut self, path: &'ast syn::Path) {
        let parts: Vec<String> = path.segments.iter().map(|segment| segment.ident.to_string()).collect();
        self.note(&parts);
        visit::visit_path(self, path);
    }
}

/// Whether a file holds tests alone.
fn is_test(source: &Source) -> bool {
    source.module.last().is_some_and(|last| last == "tests" || last.ends_with("_tests"))
}

/// The arrows between the parts of a crate, each with a file that draws it.
fn arrows(folder: &str, part: impl Fn(&[String]) -> Option<String>) -> BTreeMap<(String, String), PathBuf> {
    let mut found = BTreeMap::new();
    for source in sources(folder).iter().filter(|source| !is_test(source)) {
        let from = part(&source.module);
        for to in Paths::of(source) {
            if let (Some(from), Some(to)) = (&from, part(&to))
                && *from != to
            {
                found.entry((from.clone(), to)).or_insert_with(|| source.path.clone());
            }
        }
    }
    found
}

/// The parts that lie on a circle of arrows.
fn circles(arrows: &BTreeMap<(String, String), PathBuf>) -> BTreeSet<String> {
    let mut reached: BTreeSet<(String, String)> = arrows.keys().cloned().collect();
    loop {
        let further: Vec<(String, String)> = reached
            .iter()
            .flat_map(|(from, to)| {
                let next = reached.iter().filter(move |(at, _)| at == to);
                next.map(move |(_, end)| (from.clone(), end.clone()))
            })
            .filter(|pair| !reached.contains(pair))
            .collect();
        if further.is_empty() {
            break;
        }
        reached.extend(further);
    }
    reached.into_iter().filter(|(from, to)| from == to).map(|(from, _)| from).collect()
}

/// What each part of the workbench may know; `main` is the file of that name.
const ALLOWED: [(&str, &[&str]); 15] = [
    ("main", &["cli", "stage"]),
    (
        "cli",
        &[
            "files",
            "foreign",
            "hands",
            "json",
            "limits",
            "lsp",
            "oracle",
            "words",
            "yard",
            "magpie_core",
            "magpie_draw",
            "magpie_emit",
        ],
    ),
    ("oracle", &["json", "limits", "magpie_core"]),
    ("json", &["words", "magpie_core"]),
    ("lsp", &["files", "limits", "words", "magpie_core"]),
    ("stage", &["bench", "desk", "ui", "files", "limits", "words", "yard", "magpie_core"]),
    ("bench", &["desk", "ui", "foreign", "hands", "limits", "words", "magpie_core", "magpie_emit"]),
    ("desk", &["ui", "files", "words", "magpie_core"]),
    // One palette for the screen and the sheets.
    ("ui", &["magpie_draw"]),
    ("files", &["magpie_core"]),
    ("foreign", &["files", "limits", "words", "magpie_core"]),
    ("hands", &["magpie_core"]),
    ("words", &["magpie_core"]),
    ("yard", &[]),
    ("limits", &[]),
];

#[test]
fn no_arrow_of_the_workbench_goes_upwards() {
    let part = |path: &[String]| Some(path.first().map_or("main", String::as_str).to_owned());
    let arrows = arrows("rapid-magpie/src", part);
    let seen: BTreeSet<&str> = arrows.keys().map(|(from, _)| from.as_str()).collect();
    for ((from, to), file) in &arrows {
        let allowed = ALLOWED.iter().find(|(part, _)| part == from);
        let allowed = allowed.is_some_and(|(_, parts)| parts.contains(&to.as_str()));
        assert!(allowed, "{} knows `{to}`, which `{from}` may not", file.display());
    }
    assert!(seen.len() > 5 && circles(&arrows).is_empty(), "{seen:?}");
}

#[test]
fn no_bench_knows_another() {
    let part = |path: &[String]| match path {
        [first, bench, ..] if first == "bench" && bench.starts_with(char::is_lowercase) => Some(bench.clone()),
        _ => None,
    };
    let arrows = arrows("rapid-magpie/src", part);
    for ((from, to), file) in &arrows {
        assert!(["contract", "tests"].contains(&to.as_str()), "{}: `{from}` knows the bench `{to}`", file.display());
    }
}

#[test]
fn the_folders_of_the_core_stand_in_no_circle() {
    let part = |path: &[String]| path.first().cloned();
    let arrows = arrows("magpie-core/src", part);
    assert_eq!(circles(&arrows), BTreeSet::new(), "{:?}", arrows.keys());
    for crates in ["magpie_draw", "magpie_emit", "rapid_magpie"] {
        assert!(arrows.keys().all(|(_, to)| to != crates), "the core knows {crates}");
    }
}

#[test]
fn the_files_of_the_grid_stand_in_no_circle() {
    let part = |path: &[String]| match path {
        [first, file, ..] if first == "grid" && file.starts_with(char::is_lowercase) => Some(file.clone()),
        _ => None,
    };
    let arrows = arrows("magpie-core/src", part);
    assert_eq!(circles(&arrows), BTreeSet::new(), "{:?}", arrows.keys());
}

/// The functions of a file with their lines.
struct Functions(Vec<(String, usize, usize)>);

impl Functions {
    fn note(&mut self, name: &syn::Ident, block: &syn::Block) {
        let span = block.span();
        self.0.push((name.to_string(), span.start().line, span.end().line + 1 - span.start().line));
    }
}

impl<'ast> Visit<'ast> for Functions {
    fn visit_item_fn(&mut self, item: &'ast syn::ItemFn) {
        self.note(&item.sig.ident, &item.block);
        visit::visit_item_fn(self, item);
    }

    fn visit_impl_item_fn(&mut self, item: &'ast syn::ImplItemFn) {
        self.note(&item.sig.ident, &item.block);
        visit::visit_impl_item_fn(self, item);
    }
}

#[test]
fn no_file_is_over_700_lines_and_no_function_over_100() {
    let mut long = Vec::new();
    for source in ["magpie-core", "magpie-draw", "rapid-magpie"].iter().flat_map(|name| sources(name)) {
        let lines = source.text.lines().count();
        if lines > LONGEST_FILE {
            long.push(format!("{}: {lines} lines", source.path.display()));
        }
        let mut functions = Functions(Vec::new());
        functions.visit_file(&source.file);
        let over = functions.0.iter().filter(|(.., lines)| *lines > LONGEST_FUNCTION);
        long.extend(over.map(|(name, at, lines)| format!("{}:{at} {name}: {lines} lines", source.path.display())));
    }
    assert!(long.is_empty(), "{}", long.join("\n"));
}

/// Writing that cuts at a width without a word is left to `ui`, which ends what it cuts in an ellipsis or wraps it.
#[test]
fn nothing_but_the_pen_cuts_text() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut paths = Vec::new();
    rust_files(&root, &mut paths);
    let mut wrong = Vec::new();
    for path in paths.iter().filter(|path| !path.starts_with(root.join("ui"))) {
        let source = std::fs::read_to_string(path).unwrap();
        for (number, line) in source.lines().enumerate() {
            if ["set_stringn(", "set_line(", "set_span("].iter().any(|call| line.contains(call)) {
                wrong.push(format!("{}:{}", path.display(), number + 1));
            }
        }
    }
    assert!(paths.len() > 40 && wrong.is_empty(), "{wrong:?}");
}
