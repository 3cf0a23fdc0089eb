//! Names: what is a keyword, or a name that everything emitted uses, gets a `_` behind it.

use crate::Language;
use crate::printer::pascal;
use crate::tree::Name;
use magpie_core::Rulebook;

/// Names of what everything emitted has, for those who call it.
const CALLED: &str = "cell point rect piece move answer kind heading check outcome where grid game column row x y w h id from \
                      to granted line moved west east north south north_west north_east south_west south_east edge void meets \
                      corner limit room won lost never_settles bar outside gap of_map columns rows world_to_cell world_where \
                      snap world_to_cell_of window_to_cell window_where window_to_world world_to_window cell_to_window \
                      cell_to_corner cell_to_centre cell_to_box cell_to_index index_to_cell inside input request board pieces \
                      map turns moves chosen signals broken copy start start_with_seed with_seed";

/// The fields of a rulebook's counters in a language.
pub fn counters(book: &Rulebook, language: Language) -> Vec<Name> {
    let mut found: Vec<String> = Vec::new();
    for counter in &book.counters {
        let mut name = counter.name.replace('-', "_");
        let called = CALLED.split_whitespace().any(|word| word == name);
        // Where names begin in upper case no counter is a keyword.
        let keyword = language != Language::CSharp && keywords(language).split_whitespace().any(|word| word == name);
        if called || keyword {
            name.push('_');
        }
        while found.iter().any(|other| pascal(other) == pascal(&name)) {
            name.push('_');
        }
        found.push(name);
    }
    found.into_iter().map(Name::from).collect()
}

/// Counters that the language, or everything emitted, has the name of, with the names that they get.
pub fn renamed_counters(book: &Rulebook, language: Language) -> Vec<(String, String)> {
    let named = book.counters.iter().map(|counter| counter.name.clone()).zip(counters(book, language));
    named
        .filter(|(word, name)| name.ends_with('_') && word.replace('-', "_") != **name)
        .map(|(word, name)| (word, name.into()))
        .collect()
}

/// Names in lower case that a module cannot have, with blanks between them, besides keywords.
const fn taken(language: Language) -> &'static str {
    match language {
        // Headers that are included.
        Language::C => "assert math stdbool stdint stdlib string",
        Language::Cpp => "main",
        // Types of everything emitted: names begin in upper case there.
        Language::CSharp => "system cell point rect piece move answer kind heading check outcome where grid game",
        Language::Python => "math sys typing enum",
        Language::Lua => "coroutine debug io math os package string table utf8",
        Language::Rust | Language::Js | Language::Ts => "",
    }
}

/// The keywords of a language, with blanks between them.
const fn keywords(language: Language) -> &'static str {
    match language {
        Language::Rust => {
            "abstract alloc as async await become box break const continue core crate do dyn else enum extern \
             false final fn for if impl in let loop macro match mod move mut override priv pub ref return self \
             static std struct super trait true try type typeof unsafe unsized use virtual where while yield"
        }
        Language::C => {
            "alignas alignof auto break case char const continue default do double else enum extern float for goto if \
             inline int long register restrict return short signed sizeof static struct switch typedef union unsigned \
             void volatile while"
        }
        Language::Cpp => {
            "alignas alignof and asm auto bitand bitor bool break case catch char class compl const constexpr \
             continue decltype default delete do double else enum explicit export extern false float for friend \
             goto if inline int long mutable namespace new noexcept not nullptr operator or private protected \
             public register return short signed sizeof static std struct switch template this throw true try \
             typedef typeid typename union unsigned using virtual void volatile while xor"
        }
        Language::CSharp => {
            "abstract as base bool break byte case catch char checked class const continue decimal default delegate do \
             double else enum event explicit extern false finally fixed float for foreach goto if implicit in int \
             interface internal is lock long namespace new null object operator out override params private protected \
             public readonly ref return sbyte sealed short sizeof stackalloc static string struct switch this throw true \
             try typeof uint ulong unchecked unsafe ushort using virtual void volatile while"
        }
        Language::Js | Language::Ts => {
            "arguments await break case catch class const continue debugger default delete do else enum eval export \
             extends false finally for function if implements import in instanceof interface let new null package \
             private protected public return static super switch this throw true try typeof var void while with yield"
        }
        Language::Python => {
            "and as assert async await break class continue def del elif else except finally for from global if import in \
             is lambda nonlocal not or pass raise return try while with yield"
        }
        Language::Lua => {
            "and break do else elseif end false for function goto if in local nil not or repeat return then true until while"
        }
    }
}

fn is_taken(name: &str, language: Language) -> bool {
    taken(language).split_whitespace().chain(keywords(language).split_whitespace()).any(|word| word == name)
}

/// The stem of a rulebook's file as the name of a module: what is no letter or digit becomes `_`, with `_` before a digit at
/// its beginning and behind a name that the language has for itself.
pub fn module_name(stem: &str, language: Language) -> String {
    let plain: String =
        stem.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '_' }).collect();
    if plain.is_empty() || plain.starts_with(|c: char| c.is_ascii_digit()) {
        format!("_{plain}")
    } else if is_taken(&plain, language) {
        format!("{plain}_")
    } else {
        plain
    }
}

/// The name of a module where the language has the stem for itself.
pub fn renamed(stem: &str, language: Language) -> Option<String> {
    is_taken(&stem.to_ascii_lowercase(), language).then(|| module_name(stem, language))
}

/// A kind: its word, and its name with words joined by `_`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct KindName {
    /// The rulebook's word.
    pub word: String,
    /// The name, one of its own in every case style.
    pub name: String,
}

/// The kinds of a rulebook, in order.
pub fn kinds(book: &Rulebook) -> Vec<KindName> {
    let mut found: Vec<KindName> = Vec::new();
    for kind in &book.kinds {
        let mut name = kind.name.replace('-', "_");
        // `Self` is a keyword where names begin in upper case; `a-1` and `a1` are alike there.
        while pascal(&name) == "Self" || found.iter().any(|other| pascal(&other.name) == pascal(&name)) {
            name.push('_');
        }
        found.push(KindName { word: kind.name.clone(), name });
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_that_a_language_has_for_itself_get_something_behind_them() {
        for (stem, language, name) in [
            ("cog-loft", Language::Rust, "cog_loft"),
            ("2 Lofts", Language::Python, "_2_lofts"),
            ("class", Language::Python, "class_"),
            ("class", Language::Lua, "class"),
            ("enum", Language::Python, "enum_"),
            ("fn", Language::Rust, "fn_"),
            ("cell", Language::CSharp, "cell_"),
            ("union", Language::Cpp, "union_"),
            ("int", Language::C, "int_"),
            ("", Language::C, "_"),
        ] {
            assert_eq!(module_name(stem, language), name, "{stem} in {language:?}");
        }
        assert_eq!([pascal("_2_lofts"), pascal("cell_"), pascal("cog_loft")], ["_2Lofts", "Cell_", "CogLoft"]);
    }

    #[test]
    fn kinds_that_differ_by_a_dash_only_have_names_of_their_own() {
        let text = "game \"Yard\"\ncell 24 px\nkinds\n  self P body\n  a-1 Q body\n  a1 R body\nmap \"One\"\n  PQR\n";
        let book = magpie_core::read_text(text, &|_| Err("none".into())).rulebook.expect("a rulebook");
        let names: Vec<String> = kinds(&book).into_iter().map(|kind| pascal(&kind.name)).collect();
        assert_eq!(names, ["Self_", "A1", "A1_"]);
    }
}
