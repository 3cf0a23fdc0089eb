//! The benches beside the board. Each owns its state, knows the rest as a desk, and is one line in the list below.

mod contract;
pub mod pace;
pub mod play;
pub mod probe;
pub mod proof;
pub mod rules;
#[cfg(test)]
pub mod tests;
pub mod trace;

pub use contract::{Bench, Effect, News, Raw, Work};

use crate::desk::Desk;
use crate::desk::board::Finger;
use crate::desk::marks::Marks;
use crate::desk::text::Owner;
use crate::ui::Hits;
use crate::ui::action::Action;
use crate::ui::theme::Theme;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

/// Makes everything that has to know all benches from their list: which there are, what they can be asked, and the way of
/// every question to the bench that it is for.
macro_rules! benches {
    ($($name:ident $folder:ident;)*) => {
        /// Which bench.
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        #[allow(missing_docs)]
        pub enum Which { $($name,)* }

        impl Which {
            /// All benches in the order of their tabs.
            pub const ALL: &'static [Self] = &[$(Self::$name,)*];

            /// The word on the tab.
            pub const fn title(self) -> &'static str {
                match self { $(Self::$name => <$folder::$name as Bench>::TITLE,)* }
            }
        }

        /// What a bench is asked.
        #[derive(Clone, Debug)]
        #[allow(missing_docs)]
        pub enum Ask { $($name($folder::Ask),)* }

        /// All benches.
        #[derive(Debug, Default)]
        #[allow(missing_docs)]
        pub struct Benches { $(pub $folder: $folder::$name,)* }

        impl Benches {
            /// A bench's own keys, on the page of it that is in front.
            pub fn actions(&self, which: Which) -> Vec<Action<Ask>> {
                match which {
                    $(Which::$name => {
                        self.$folder.actions().into_iter().map(|action| action.map(Ask::$name)).collect()
                    })*
                }
            }

            /// Does what a bench is asked.
            pub fn ask(&mut self, desk: &mut Desk, ask: Ask) -> Effect<Ask> {
                match ask {
                    $(Ask::$name(ask) => self.$folder.ask(desk, ask).map(Ask::$name),)*
                }
            }

            /// Draws a bench; gives what was drawn where for the mouse.
            pub fn render(&self, which: Which, desk: &Desk, theme: Theme, area: Rect, buffer: &mut Buffer) -> Hits<Ask> {
                match which {
                    $(Which::$name => {
                        let hits = self.$folder.render(desk, theme, area, buffer);
                        hits.into_iter().map(|(rect, ask)| (rect, Ask::$name(ask))).collect()
                    })*
                }
            }

            /// Keys and pasted text before any table of keys; `None` where the bench has no use for them.
            pub fn raw(&mut self, which: Which, desk: &mut Desk, raw: Raw) -> Option<Effect<Ask>> {
                match which {
                    $(Which::$name => Some(self.$folder.raw(desk, raw)?.map(Ask::$name)),)*
                }
            }

            /// Tells every bench what has happened.
            pub fn news(&mut self, desk: &mut Desk, news: News) -> Vec<Effect<Ask>> {
                vec![$(self.$folder.news(desk, news).map(Ask::$name),)*]
            }

            /// Tells one bench.
            pub fn news_to(&mut self, which: Which, desk: &mut Desk, news: News) -> Effect<Ask> {
                match which {
                    $(Which::$name => self.$folder.news(desk, news).map(Ask::$name),)*
                }
            }

            /// The mouse on the board.
            pub fn finger(&mut self, which: Which, desk: &mut Desk, finger: Finger) {
                match which { $(Which::$name => self.$folder.finger(desk, finger),)* }
            }

            /// What a bench wants to be marked on the board.
            pub fn marks(&self, which: Which, desk: &Desk) -> Marks {
                match which { $(Which::$name => self.$folder.marks(desk),)* }
            }

            /// Scrolls what a bench shows.
            pub fn scroll(&mut self, which: Which, lines: i32) {
                match which { $(Which::$name => self.$folder.scroll(lines),)* }
            }

            /// Closes what is open on a bench; false where nothing is.
            pub fn close(&mut self, which: Which, desk: &mut Desk) -> bool {
                match which { $(Which::$name => self.$folder.close(desk),)* }
            }

            /// The keys of typing, for the line of keys; none while nothing is typed.
            pub fn typing(&self, which: Which) -> &'static [(&'static str, &'static str)] {
                match which { $(Which::$name => self.$folder.typing(),)* }
            }

            /// Whether the arrows are the game's, and its time passes.
            pub fn plays(&self, which: Which) -> bool {
                match which { $(Which::$name => self.$folder.plays(),)* }
            }

            /// Whether a bench shows the rulebook's mistakes itself.
            pub fn shows_mistakes(&self, which: Which) -> bool {
                match which { $(Which::$name => self.$folder.shows_mistakes(),)* }
            }

            /// Whether something moves on a bench, and whether it wants to know when keys go up.
            pub fn is_live(&self, which: Which) -> bool {
                match which { $(Which::$name => self.$folder.is_live(),)* }
            }

            /// The workbench's clock goes on.
            pub fn tick(&mut self, which: Which, desk: &mut Desk) {
                match which { $(Which::$name => self.$folder.tick(desk),)* }
            }

            /// Who has something that is not saved, each once: on the benches, or in the text.
            pub fn unsaved(&self, desk: &Desk) -> Vec<Owner> {
                let mut owners = desk.text.unwritten();
                $(if self.$folder.is_unsaved() && !owners.contains(&<$folder::$name as Bench>::TITLE) {
                    owners.push(<$folder::$name as Bench>::TITLE);
                })*
                owners
            }
        }
    };
}

// A new bench is a folder, a line here, a `mod` above, and its page in `docs/`.
benches! {
    Play play;
    Probe probe;
    Pace pace;
    Rules rules;
    Proof proof;
    Trace trace;
}
