//! What a program says beside the model, as JSON (docs/formats.md, compare).

use crate::json;
use crate::words::trace::explanation_words;
use magpie_core::mishap::Slipped;
use magpie_core::rulebook::Rulebook;
use magpie_core::trace::{Explained, First};
use serde_json::{Map, Value, json};

/// The first difference.
pub fn first_value(first: &First, book: &Rulebook) -> Value {
    let facts = |of: &dyn Fn(&magpie_core::trace::Differs) -> &magpie_core::trace::Fact| -> Value {
        let fields: Map<String, Value> =
            first.differs.iter().map(|differs| (of(differs).key().to_owned(), json::fact(of(differs), book))).collect();
        fields.into()
    };
    json!({
        "line": first.line,
        "turn": first.turn,
        "input": first.input.as_ref().map(ToString::to_string),
        "differs": first.differs.iter().map(|differs| differs.expected.key()).collect::<Vec<_>>(),
        "expected": facts(&|differs| &differs.expected),
        "got": facts(&|differs| &differs.got),
        "cells": first.cells.iter().copied().map(json::cell).collect::<Vec<_>>(),
        "answer": first.answer.as_ref().map(|answer| json::answer_of(answer, book, first)),
    })
}

/// The mistakes that explain it.
pub fn mishaps_value(mishaps: &[Explained], book: &Rulebook) -> Value {
    let entry = |explained: &Explained| {
        json!({
            "mishap": explained.slipped.slip.id(),
            "with": explained.with.as_ref().map(|with| with.slip.id()),
            "says": explanation_words(explained, book),
            "where": explained.slipped.place().or_else(|| explained.with.as_ref().and_then(Slipped::place)),
            "explains": explained.explains,
            "whole": explained.is_whole,
        })
    };
    mishaps.iter().map(entry).collect()
}
