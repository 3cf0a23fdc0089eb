//! Which parts a rulebook uses.

use super::cover::{speaks_of_blocked, speaks_of_chosen, walks};
use magpie_core::rulebook::{
    Action, Common, Effect, HeadingWord, Map, MapCells, Match, Met, Place, PlainVerb, Rulebook, Trigger, Verb,
};
use magpie_core::space::RowsFrom;
use std::collections::BTreeSet;

/// The words by which the parts are kept.
pub fn of(book: &Rulebook) -> BTreeSet<&'static str> {
    let mut found = BTreeSet::new();
    let mut add = |word: &'static str, is: bool| {
        if is {
            found.insert(word);
        }
    };
    let uses = |wanted: fn(PlainVerb) -> bool| book.meetings.iter().any(|rule| rule.verb.is_or_else(wanted));
    let common = |wanted: fn(&Common) -> bool| book.commons().any(wanted);
    let action = |wanted: fn(&Action) -> bool| book.actions().any(wanted);
    let shoves = |wanted: fn(Option<u32>, Option<PlainVerb>) -> bool| {
        book.meetings
            .iter()
            .any(|rule| matches!(rule.verb, Verb::Shove { up_to, otherwise } if wanted(up_to, otherwise)))
    };
    let has_void = book.maps.iter().any(Map::has_void);
    add("ground", book.ground.is_some());
    add("void", has_void);
    add("corners", book.corners_closed);
    add("from_top", book.geometry.rows == RowsFrom::Top);
    add("edge_rules", book.meetings.iter().any(|rule| rule.met == Met::Edge));
    add("void_rules", has_void && book.meetings.iter().any(|rule| rule.met == Met::Void));
    add("meeting_effects", book.meetings.iter().any(|rule| !rule.effects.is_empty()));
    add("shove", shoves(|_, _| true));
    add("limit", shoves(|most, _| most.is_some()));
    add("else", shoves(|_, otherwise| otherwise.is_some()));
    add("swap", uses(|verb| verb == PlainVerb::Swap));
    add("takes", uses(|verb| matches!(verb, PlainVerb::Take | PlainVerb::Clash)));
    add("perishes", uses(|verb| matches!(verb, PlainVerb::Perish | PlainVerb::Clash)));
    add("bounce", uses(|verb| verb == PlainVerb::Bounce));
    add("wrap", uses(|verb| verb == PlainVerb::Wrap));
    let slides = uses(|verb| verb == PlainVerb::Slide);
    let warps = uses(|verb| matches!(verb, PlainVerb::Warp(_)));
    add("slides", slides);
    add("warps", warps);
    add("repeats", warps || uses(|verb| verb == PlainVerb::Wrap));
    add("offs", !book.offs.is_empty());
    add("trails", !book.trails.is_empty());
    add("no_reverse", book.inputs.iter().any(|rule| rule.no_reverse.is_some()));
    let falls = common(|common| matches!(common, Common::Fall(..) | Common::Refill(..)));
    let (restarts, nexts) =
        (common(|common| matches!(common, Common::Restart)), common(|common| matches!(common, Common::NextMap)));
    let spawns = common(|common| matches!(common, Common::SpawnKind(..)));
    add("falls", falls);
    add("restart_effect", restarts);
    add("next_effect", nexts);
    add("next_on_start", nexts);
    add("stops", falls || restarts || nexts);
    add("spawns", spawns);
    add("whens", !book.whens.is_empty());
    add("settling", spawns || !book.whens.is_empty());
    add("settles", falls || !book.whens.is_empty());
    add("pending", common(|common| matches!(common, Common::Win | Common::Lose)));
    add("blocked", speaks_of_blocked(book));
    add("chosen", speaks_of_chosen(book));
    add("each_turn", book.inputs.iter().any(|rule| rule.trigger == Trigger::EachTurn));
    add("on_start", book.inputs.iter().any(|rule| rule.trigger == Trigger::Start));
    let fixed = |word: &HeadingWord| matches!(word, HeadingWord::Compass(_));
    let own_way = book
        .actions()
        .any(|action| matches!(action, Action::Step { heading, .. } | Action::Drop(_, heading) if !fixed(heading)));
    add("steps", action(|action| matches!(action, Action::Step { heading: HeadingWord::Compass(_), .. })));
    add("step_each", own_way);
    add("leaps", action(|action| matches!(action, Action::Leap(..))));
    add("drop_action", action(|action| matches!(action, Action::Drop(..))));
    add("swaps", action(|action| matches!(action, Action::Swap { .. })));
    add("swap_runs", action(|action| matches!(action, Action::Swap { if_run: true, .. })));
    add("flood", action(|action| matches!(action, Action::Flood { .. })));
    add("walks", walks(book));
    add("lines", book.whens.iter().any(|rule| matches!(rule.what, Match::Full { .. })));
    add("line_rules", book.whens.iter().any(|rule| !matches!(rule.what, Match::On { .. })));
    add("drops", book.effects().any(|effect| matches!(effect, Effect::DropRows(_))));
    let draws = |map: &Map| matches!(map.cells, MapCells::Filled { scatter: Some(_), .. });
    let fills = |map: &Map| matches!(map.cells, MapCells::Filled { scatter: None, .. });
    let scatters = book.maps.iter().any(draws);
    let places = common(|common| match common {
        Common::Place(_, place) | Common::SpawnKind(_, place) => matches!(place, Place::RandomEmpty(..)),
        Common::Refill(..) => true,
        _ => false,
    });
    add("scatters", scatters);
    add("filled", book.maps.iter().any(fills));
    add("random", scatters || places);
    found
}
