//! Keys with their times: `0:right+ 350:right- 400:up`.

use super::settings::exact;
use crate::limits::{LATEST_KEY, MOST_KEY_EVENTS};
use crate::space::Heading;
use crate::space::exact::{Fraction, nearest};
use crate::space::show;
use thiserror::Error;

/// A key that goes down or up.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct KeyEvent {
    /// When, in ms.
    pub at: Fraction,
    /// Whose key, by the name of its kind; `None` is the first mover's.
    pub kind: Option<String>,
    /// Which one, by the heading it asks for.
    pub key: Heading,
    /// It goes down; else up.
    pub down: bool,
}

/// A script, in the order of time.
pub type Keys = Vec<KeyEvent>;

/// What is wrong with a script.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum ScriptError {
    /// Not written as it should be.
    #[error(
        "`{0}` is no key event: write MS:KEY+ (down), MS:KEY- (up) or MS:KEY (a tap), KEY one of left right up down"
    )]
    Form(String),
    /// Later than the limit.
    #[error("`{0}` is later than 86,400,000 ms")]
    Late(String),
    /// Goes down twice, or up without having gone down.
    #[error("`{event}`: this key is {state} already")]
    Twice {
        /// The event.
        event: String,
        /// `down` or `up`.
        state: &'static str,
    },
    /// Never comes up.
    #[error("the key `{0}` goes down and never up")]
    Down(String),
    /// Too many.
    #[error("more than {MOST_KEY_EVENTS} key events")]
    TooMany,
}

fn heading(word: &str) -> Option<Heading> {
    Some(match word {
        "left" => Heading::West,
        "right" => Heading::East,
        "up" => Heading::North,
        "down" => Heading::South,
        _ => return None,
    })
}

/// The name of a key.
pub(super) const fn word(key: Heading) -> &'static str {
    match key {
        Heading::West => "left",
        Heading::East => "right",
        Heading::North => "up",
        _ => "down",
    }
}

/// Reads a script: events separated by blanks. Those of one time stay in the order in which they are written.
///
/// # Errors
/// A [`ScriptError`] with the first word that is no key event.
pub fn parse_keys(text: &str) -> Result<Keys, ScriptError> {
    let mut keys = Keys::new();
    for event in text.split_whitespace() {
        let form = || ScriptError::Form(event.chars().filter(|c| !c.is_control()).take(60).collect());
        let (time, rest) = event.split_once(':').ok_or_else(form)?;
        let digits = |part: &str| !part.is_empty() && part.len() <= 12 && part.bytes().all(|b| b.is_ascii_digit());
        let (whole, decimals) = time.split_once('.').unwrap_or((time, "0"));
        if !digits(whole) || !digits(decimals) {
            return Err(form());
        }
        let at = exact(time);
        if at > Fraction::from_integer(LATEST_KEY.into()) {
            return Err(ScriptError::Late(event.into()));
        }
        let (name, downs): (&str, &[bool]) = match (rest.strip_suffix('+'), rest.strip_suffix('-')) {
            (Some(name), _) => (name, &[true]),
            (_, Some(name)) => (name, &[false]),
            _ => (rest, &[true, false]),
        };
        let (kind, key) = match name.rsplit_once('.') {
            Some((kind, key)) => (Some(kind.to_owned()), key),
            None => (None, name),
        };
        let key = heading(key).ok_or_else(form)?;
        if kind.as_deref() == Some("") {
            return Err(form());
        }
        keys.extend(downs.iter().map(|down| KeyEvent { at: at.clone(), kind: kind.clone(), key, down: *down }));
        if keys.len() > MOST_KEY_EVENTS {
            return Err(ScriptError::TooMany);
        }
    }
    keys.sort_by(|one, other| one.at.cmp(&other.at));
    check(&keys)?;
    Ok(keys)
}

/// A script as it is written.
pub fn keys_text(keys: &[KeyEvent]) -> String {
    let event = |event: &KeyEvent| {
        let kind = event.kind.as_ref().map_or(String::new(), |kind| format!("{kind}."));
        format!("{}:{kind}{}{}", show(nearest(&event.at)), word(event.key), if event.down { '+' } else { '-' })
    };
    keys.iter().map(event).collect::<Vec<_>>().join(" ")
}

/// A script with the first mover's key down from an instant on, or, where it is down already, up at it. A key that goes
/// down goes up again after `hold` ms, or before it is pressed the next time. At the very instant of a press that press is
/// taken out with its release.
pub fn with_key_at(keys: &[KeyEvent], key: Heading, at: &Fraction, hold: &Fraction) -> Keys {
    let own = |event: &KeyEvent| event.kind.is_none() && event.key == key;
    let mut new: Keys = keys.to_vec();
    let is_down = keys.iter().rev().find(|event| own(event) && event.at <= *at).is_some_and(|event| event.down);
    let next = new.iter().position(|event| own(event) && event.at > *at);
    let press = keys.iter().position(|event| own(event) && event.down && event.at == *at);
    if let (Some(press), Some(up)) = (press, next) {
        new.remove(up);
        new.remove(press);
    } else if is_down {
        if let Some(up) = next {
            new[up].at = at.clone();
        }
    } else {
        let up = at + hold;
        let up = next.map_or(up.clone(), |next| new[next].at.clone().min(up));
        let event = |at: &Fraction, down: bool| KeyEvent { at: at.clone(), kind: None, key, down };
        new.insert(0, event(&up, false));
        new.push(event(at, true));
    }
    // At one instant a key goes up before it goes down again.
    new.sort_by(|one, other| one.at.cmp(&other.at));
    if check(&new).is_ok() { new } else { keys.to_vec() }
}

/// Every key goes down before it goes up, and up before it goes down again.
fn check(keys: &[KeyEvent]) -> Result<(), ScriptError> {
    let mut down: Vec<(&Option<String>, Heading)> = Vec::new();
    for event in keys {
        let name = || match &event.kind {
            Some(kind) => format!("{kind}.{}", word(event.key)),
            None => word(event.key).into(),
        };
        let held = down.iter().position(|held| *held == (&event.kind, event.key));
        match (event.down, held) {
            (true, Some(_)) => return Err(ScriptError::Twice { event: name(), state: "down" }),
            (false, None) => return Err(ScriptError::Twice { event: name(), state: "up" }),
            (true, None) => down.push((&event.kind, event.key)),
            (false, Some(at)) => {
                down.remove(at);
            }
        }
    }
    match down.first() {
        None => Ok(()),
        Some((kind, key)) => {
            let kind = kind.as_ref().map_or(String::new(), |kind| format!("{kind}."));
            Err(ScriptError::Down(format!("{kind}{}", word(*key))))
        }
    }
}
