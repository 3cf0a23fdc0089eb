//! Who follows what happens, and keeps it.

use super::ledger::{Asked, Request};
use super::report::{ActionReport, Answer, Deed, Fired, Settled};
use crate::limits::{MOST_DEEDS, MOST_FACTS, MOST_SETTLED, MOST_TOLD};
use crate::space::Cell;
use hashbrown::HashSet;

/// Who follows what happens; the grid does no work for what nobody wants to know.
pub trait Watch {
    /// Whether requests and checks are to be told.
    const LEDGER: bool = false;
    /// Whether it is to be told which clauses and rules are used.
    const USES: bool = false;
    /// A clause has decided, or a rule has acted.
    fn used(&mut self, _: Fired) {}
    /// A rule begins to act: what is done from now on is its doing, until it ends.
    fn begins(&mut self, _: Fired) {}
    /// The rule that began last has done all it does.
    fn ends(&mut self) {}
    /// Whether a further sentence about the rule that began last is worth making.
    fn wants_deeds(&self) -> bool {
        false
    }
    /// The rule that began last has done something, or was refused: in a sentence, where one was wanted.
    fn did(&mut self, _is_refused: bool, _text: Option<String>) {}
    /// The same of what a request, an action or a signal tells too.
    fn told(&mut self, _is_refused: bool, _text: Option<String>) {}
    /// A request has been answered, and its effects have not begun; its place.
    fn request(&mut self, _: Request) -> u64 {
        0
    }
    /// Where the asker of a request stands after its effects.
    fn arrived(&mut self, _request: u64, _to: Option<Cell>) {}
    /// Whether a further step of a fall is worth telling.
    fn wants_falls(&self) -> bool {
        false
    }
    /// Whether the cells and the board of a further settling are worth keeping.
    fn wants_boards(&self) -> bool {
        false
    }
    /// An action has been done.
    fn action(&mut self, _: ActionReport) {}
    /// Something is told to the outside.
    fn signal(&mut self, _: &str) {}
    /// The `when` rule that began last has changed something.
    fn settled(&mut self, _: Settled) {}
    /// The turn was taken back because it never settled; these rules keep firing.
    fn never_settled(&mut self, _: &[usize]) {}
}

/// Nobody watches.
#[derive(Debug)]
pub struct Nobody;

impl Watch for Nobody {}

/// A rule that is acting.
#[derive(Debug)]
struct Acting {
    rule: Fired,
    /// Its place in the report; none for one that settles, or that is not told.
    at: Option<usize>,
    /// What one that settles has done.
    did: Vec<Deed>,
}

/// Keeps everything of the present turn, up to the limits of one report; what is left out is counted.
#[derive(Debug, Default)]
pub struct Recorder {
    /// The turn so far.
    pub answer: Answer,
    /// Checks, shoved pieces, cells, sentences and changes in it.
    facts: usize,
    /// What signals have told, once there are many.
    texts: HashSet<String>,
    /// The rules that are acting, one within the other.
    acting: Vec<Acting>,
    /// How many requests there were.
    requests: u64,
    /// The last requests that are told, and their places.
    asking: Vec<(u64, usize)>,
}

impl Recorder {
    /// Adds a sentence to what the rule that began last has done.
    fn add(&mut self, is_refused: bool, is_told: bool, text: Option<String>) {
        let Some(acting) = self.acting.last_mut() else { return };
        let Some(text) = text else {
            self.answer.untold += usize::from(acting.at.is_some());
            return;
        };
        self.facts += 1;
        let deed = Deed { text, is_refused, is_told };
        match acting.at {
            Some(at) => self.answer.rules[at].did.push(deed),
            None => acting.did.push(deed),
        }
    }

    /// Notes a rule that decided or acted.
    fn fired(&mut self, rule: Fired) {
        if !self.answer.fired.contains(&rule) {
            self.answer.fired.push(rule);
        }
    }
}

impl Watch for Recorder {
    const LEDGER: bool = true;

    fn begins(&mut self, rule: Fired) {
        let mut at = None;
        match rule {
            Fired::When(_) => {}
            Fired::Meeting(_) | Fired::Off(_) | Fired::Input(_) | Fired::Outcome(_) => {
                self.fired(rule);
                if self.answer.rules.len() < MOST_TOLD {
                    at = Some(self.answer.add_rule(rule));
                } else {
                    self.answer.untold += 1;
                }
            }
        }
        self.acting.push(Acting { rule, at, did: Vec::new() });
    }

    fn ends(&mut self) {
        let Some(ended) = self.acting.pop() else { return };
        // What a rule was refused that changed nothing is told once.
        for deed in ended.did.into_iter().filter(|deed| deed.is_refused) {
            if self.answer.notes.len() < MOST_SETTLED && !self.answer.notes.contains(&deed.text) {
                self.answer.notes.push(deed.text);
            }
        }
    }

    fn wants_deeds(&self) -> bool {
        let fits = |acting: &Acting| match (acting.at, acting.rule) {
            (Some(_), _) => true,
            // The counts of a settling tell the rest.
            (None, Fired::When(_)) => acting.did.len() < MOST_DEEDS,
            (None, Fired::Meeting(_) | Fired::Off(_) | Fired::Input(_) | Fired::Outcome(_)) => false,
        };
        self.facts < MOST_FACTS && self.acting.last().is_some_and(fits)
    }

    fn did(&mut self, is_refused: bool, text: Option<String>) {
        self.add(is_refused, false, text);
    }

    fn told(&mut self, is_refused: bool, text: Option<String>) {
        self.add(is_refused, true, text);
    }

    fn request(&mut self, request: Request) -> u64 {
        self.requests += 1;
        let clauses: Vec<_> =
            request.checks.iter().filter(|check| check.decided()).filter_map(|check| check.clause).collect();
        clauses.into_iter().for_each(|clause| self.fired(Fired::Meeting(clause)));
        // Where everything falls, only those that moved are told, and not without end.
        if request.by == Asked::Falling && (!request.granted || !self.wants_falls()) {
            return 0;
        }
        let facts = |request: &Request| request.checks.len() + request.shoved.len();
        self.facts += facts(&request);
        let fits = self.wants_falls();
        let (at, gone) = self.answer.add_request(request, fits);
        self.facts -= gone.as_ref().map_or(0, facts);
        self.asking.retain(|(_, place)| *place < at);
        self.asking.push((self.requests, at));
        self.requests
    }

    fn arrived(&mut self, request: u64, to: Option<Cell>) {
        if let Some(at) = self.asking.iter().rposition(|(number, _)| *number == request) {
            let (_, place) = self.asking.remove(at);
            self.answer.requests[place].to = to;
        }
    }

    fn wants_falls(&self) -> bool {
        self.answer.requests.len() < MOST_TOLD && self.facts < MOST_FACTS
    }

    fn wants_boards(&self) -> bool {
        self.facts < MOST_FACTS && self.answer.settled.len() < MOST_SETTLED
    }

    fn action(&mut self, action: ActionReport) {
        self.facts += action.rings.as_ref().map_or(0, |rings| rings.cells.len());
        let fits = self.answer.actions.len() < MOST_TOLD;
        self.answer.add_action(action, fits);
    }

    fn signal(&mut self, text: &str) {
        // Beyond the limit each text is still told once: a scenario may ask for it.
        if self.answer.signals.len() == MOST_TOLD {
            self.texts.extend(self.answer.signals.iter().cloned());
        }
        if self.answer.signals.len() < MOST_TOLD || self.texts.insert(text.into()) {
            self.answer.signals.push(text.into());
        } else {
            self.answer.untold += 1;
        }
    }

    fn settled(&mut self, mut settled: Settled) {
        if let Some(acting) = self.acting.last_mut() {
            settled.did = std::mem::take(&mut acting.did);
        }
        self.fired(Fired::When(settled.rule));
        if self.answer.settled.len() < MOST_SETTLED {
            let cells = settled.board.iter().map(String::len).sum::<usize>() + settled.changes.len();
            self.facts += cells + settled.matches.iter().map(|cells| 2 + cells.len()).sum::<usize>();
            self.answer.add_settled(settled);
        } else {
            self.answer.untold += 1;
        }
    }

    fn never_settled(&mut self, rules: &[usize]) {
        self.answer.feeding = rules.to_vec();
        self.answer.signals.clear();
        self.acting.clear();
    }
}
