//! The languages, a file each.

mod c;
mod cpp;
mod csharp;
mod js;
mod lua;
mod python;
mod rust;

use crate::printer::Printer;

/// A language.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Language {
    Rust,
    C,
    Cpp,
    CSharp,
    Js,
    Ts,
    Python,
    Lua,
}

impl Language {
    /// All of them, with their words on the command line.
    pub const ALL: [(&'static str, Self); 8] = [
        ("rust", Self::Rust),
        ("c", Self::C),
        ("cpp", Self::Cpp),
        ("csharp", Self::CSharp),
        ("js", Self::Js),
        ("ts", Self::Ts),
        ("python", Self::Python),
        ("lua", Self::Lua),
    ];

    pub(crate) fn printer(self) -> Box<dyn Printer> {
        match self {
            Self::Rust => Box::new(rust::Rust),
            Self::C => Box::new(c::Maker),
            Self::Cpp => Box::new(cpp::Cpp { game: false }),
            Self::CSharp => Box::new(csharp::CSharp { game: None }),
            Self::Js => Box::new(js::Script { typed: false, game: None }),
            Self::Ts => Box::new(js::Script { typed: true, game: None }),
            Self::Python => Box::new(python::Python { game: None }),
            Self::Lua => Box::new(lua::Lua { game: None }),
        }
    }
}
