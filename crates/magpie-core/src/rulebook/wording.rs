//! The parts of a rule as words again, as the rulebook would write them.

use super::model::{
    Area, Cond, CountIn, CounterRead, HeadingWord, Pieces, Place, Rulebook, SetId, Spot, Sum, Term, TimerId,
};

impl Rulebook {
    /// A condition.
    pub fn cond_words(&self, cond: &Cond) -> String {
        self.cond_inside(cond, 0)
    }

    /// A condition inside another: 0 stands alone, 1 is part of an `or`, 2 of an `and`, 3 follows a `not`.
    fn cond_inside(&self, cond: &Cond, depth: u8) -> String {
        let joined = |all: &[Cond], word: &str, own: u8| {
            let parts: Vec<String> = all.iter().map(|cond| self.cond_inside(cond, own)).collect();
            let text = parts.join(word);
            if depth > own || (depth == own && own > 0) { format!("({text})") } else { text }
        };
        match cond {
            Cond::Or(all) => joined(all, " or ", 1),
            Cond::And(all) => joined(all, " and ", 2),
            Cond::Not(inner) => format!("not {}", self.cond_inside(inner, 3)),
            Cond::Heading(heading) => format!("heading {}", heading.word()),
            Cond::Blocked => "blocked".into(),
            Cond::Spot(spot) => self.spot_words(spot),
            Cond::Beside(one, other) => format!("{} beside {}", self.spot_words(one), self.spot_words(other)),
            Cond::Compare(left, compare, right) => {
                format!("{} {} {}", self.sum_words(left), compare.symbol(), self.sum_words(right))
            }
        }
    }

    /// A sum.
    pub fn sum_words(&self, sum: &Sum) -> String {
        let mut text = String::new();
        for (at, (minus, term)) in sum.0.iter().enumerate() {
            match (at, minus) {
                (0, false) => {}
                (0, true) => text.push('-'),
                (_, false) => text.push_str(" + "),
                (_, true) => text.push_str(" - "),
            }
            text.push_str(&self.term_words(term));
        }
        text
    }

    fn term_words(&self, term: &Term) -> String {
        match term {
            Term::Int(value) => value.to_string(),
            Term::Counter(counter) => self.counter_name(*counter).into(),
            Term::Count { who, on, within } => {
                let with = on.map_or(String::new(), |(on, other)| {
                    format!(" {} {}", if on { "on" } else { "off" }, self.set(other).name)
                });
                let place = match within {
                    CountIn::Spot(Spot::Here) => " here".into(),
                    CountIn::Spot(spot) => format!(" at {}", self.spot_words(spot)),
                    CountIn::Area(Area::Map) => String::new(),
                    CountIn::Area(area) => format!(" in {}", area_words(*area)),
                };
                format!("count {}{with}{place}", self.set(*who).name)
            }
            Term::Matches => "matches".into(),
            Term::Matched => "matched".into(),
        }
    }

    /// The name of a counter.
    pub fn counter_name(&self, counter: CounterRead) -> &str {
        match counter {
            CounterRead::Moves => "moves",
            CounterRead::Turns => "turns",
            CounterRead::Clock => "clock",
            CounterRead::Own(own) => self.counters.get(usize::from(own.0)).map_or("", |counter| &counter.name),
        }
    }

    /// The name of a timer.
    pub fn timer_name(&self, timer: TimerId) -> &str {
        self.timers.get(usize::from(timer.0)).map_or("", |timer| &timer.name)
    }

    /// A cell in words.
    pub fn spot_words(&self, spot: &Spot) -> String {
        match spot {
            Spot::Here => "here".into(),
            Spot::Tapped => "tapped".into(),
            Spot::Dragged => "dragged".into(),
            Spot::Dropped => "dropped".into(),
            Spot::Chosen => "chosen".into(),
            Spot::AheadOf(kind) => format!("ahead of {}", self.kind(*kind).name),
            Spot::The(kind) => format!("the {}", self.kind(*kind).name),
            Spot::At(cell) => format!("column {} row {}", cell.column, cell.row),
        }
    }

    /// A place for something new.
    pub fn place_words(&self, place: &Place) -> String {
        match place {
            Place::At(Spot::Here) => "here".into(),
            Place::At(spot) => format!("at {}", self.spot_words(spot)),
            Place::RandomEmpty(on, area) => {
                let on = on.map_or(String::new(), |on| format!(" on {}", self.set(on).name));
                let area = if *area == Area::Map { String::new() } else { format!(" in {}", area_words(*area)) };
                format!("at random empty{on}{area}")
            }
        }
    }

    /// Pieces in words.
    pub fn pieces_words(&self, pieces: &Pieces) -> String {
        let with = |set: SetId, on: Option<SetId>| {
            let on = on.map_or(String::new(), |on| format!(" on {}", self.set(on).name));
            format!("{}{on}", self.set(set).name)
        };
        match pieces {
            Pieces::Every(set, on) | Pieces::Matched(set, on) => with(*set, *on),
            Pieces::Active => "active".into(),
            Pieces::Tapped => "tapped".into(),
            Pieces::Dragged => "dragged".into(),
            Pieces::Dropped => "dropped".into(),
            Pieces::Chosen => "chosen".into(),
        }
    }

    /// A heading in words.
    pub fn heading_words(&self, word: &HeadingWord) -> String {
        match word {
            HeadingWord::Compass(heading) => heading.word().into(),
            HeadingWord::Relative(eighths) => match eighths {
                0 => "ahead".into(),
                4 => "back".into(),
                eighths if *eighths > 4 => "left".into(),
                _ => "right".into(),
            },
            HeadingWord::Toward(spot) => format!("toward {}", self.spot_words(spot)),
            HeadingWord::Along(spot) => format!("along {}", self.spot_words(spot)),
        }
    }
}

fn area_words(area: Area) -> String {
    let line = |what: &str, at: Option<i64>| match at {
        None => format!("{what} last"),
        Some(at) => format!("{what} {at}"),
    };
    match area {
        Area::Map => "map".into(),
        Area::Row(at) => line("row", at),
        Area::Column(at) => line("column", at),
    }
}
