//! Playing: inputs, timers, turns, outcomes (docs/model.md, sections 4 and 5).

use super::context::{Context, Rules};
use super::flow::{Due, Ended, Flow, Goes, Taken, Touch};
use super::report::{Answer, Fired};
use super::state::{Grid, Running};
use super::turn::Turn;
use super::watch::{Recorder, Watch};
use crate::input::{Input, Key};
use crate::limits::MOST_FIRINGS;
use crate::rulebook::{Met, TimerId, Trigger};
use crate::space::{Cell, Heading};

/// What begins a turn.
#[derive(Clone, Copy)]
enum Cause<'a> {
    Key(&'a Key),
    Tap(Cell),
    Drag(Cell, Cell),
    Timer(TimerId),
    Glide,
}

impl Cause<'_> {
    const fn touch(self) -> Option<Touch> {
        match self {
            Self::Key(_) | Self::Timer(_) | Self::Glide => None,
            Self::Tap(cell) => Some(Touch { down: cell, up: cell }),
            Self::Drag(down, up) => Some(Touch { down, up }),
        }
    }
}

/// Time that passes, timer by timer.
struct Wait {
    until: u64,
    fired: u32,
    ended: bool,
}

impl Wait {
    const fn new(until: u64) -> Self {
        Self { until, fired: 0, ended: false }
    }

    /// Lets what is due next happen, a turn of its own, and tells what it was; at the end moves the clock to it.
    fn fire<W: Watch>(&mut self, grid: &mut Grid, watch: &mut W) -> Option<Due> {
        if self.ended {
            return None;
        }
        let due = grid.next_due(self.until);
        let Some((due, what)) = due.filter(|_| self.fired < MOST_FIRINGS) else {
            // A wait with more to fire than it may hold ends with its last turn.
            if due.is_none() {
                grid.state.small.clock = self.until;
            }
            return None;
        };
        self.fired += 1;
        grid.state.small.clock = due;
        match what {
            Due::Glide => grid.turn(Cause::Glide, watch),
            Due::Timer(timer) => {
                let running = grid.state.timers[timer];
                // The next one is counted from when this one was to fire, even where it comes late.
                grid.set_timer(timer, Running { last: running.last.saturating_add(running.period), ..running });
                grid.turn(Cause::Timer(TimerId(timer as u16)), watch);
            }
        }
        // A restart ends the wait, and after a win or a loss the clock stands.
        self.ended = grid.turn.left == Some(Flow::Restart) || grid.is_over();
        Some(what)
    }
}

impl Grid {
    /// Plays one input. `undo` is none of these: it is [`Grid::undo`].
    pub fn input<W: Watch>(&mut self, input: &Input, watch: &mut W) -> Taken {
        let over = self.is_over();
        let book = self.book.clone();
        match book.input_of(input) {
            Input::Undo => {
                return if self.undo() { Taken::Yes } else { Taken::No };
            }
            Input::Restart => {
                self.remember();
                self.leave_map(false, watch);
            }
            Input::Next => {
                if self.state.small.outcome != Some(Ended::Won) || !self.has_next_map() {
                    return Taken::No;
                }
                self.remember();
                self.leave_map(true, watch);
            }
            _ if over => return Taken::No,
            Input::Wait(ms) => {
                self.remember();
                let mut wait = Wait::new(self.state.small.clock + ms);
                while wait.fire(self, watch).is_some() {}
            }
            Input::Key(key) => {
                self.remember();
                self.turn(Cause::Key(key), watch);
            }
            Input::Tap(cell) => {
                self.remember();
                self.turn(Cause::Tap(self.switches.margin.inner(*cell)), watch);
            }
            Input::Drag(from, to) => {
                self.remember();
                let margin = self.switches.margin;
                self.turn(Cause::Drag(margin.inner(*from), margin.inner(*to)), watch);
            }
        }
        Taken::Yes
    }

    /// Plays one input and tells what it did: one answer for every turn in it, and what entering a map did, which belongs to
    /// no turn.
    pub fn answer(&mut self, input: &Input) -> (Taken, Vec<Answer>, Option<Answer>) {
        let mut answers: Vec<Answer> = Vec::new();
        let (taken, entered) = self.answer_each(input, |_, answer| answers.push(answer));
        (taken, answers, entered)
    }

    /// Plays one input and tells every turn in it as soon as it has been played, with the game as it is then. Gives what
    /// entering a map did, where the input itself enters one: that belongs to no turn.
    pub fn answer_each(&mut self, input: &Input, mut each: impl FnMut(&Self, Answer)) -> (Taken, Option<Answer>) {
        if let Input::Wait(ms) = input
            && !self.is_over()
        {
            self.answer_wait(*ms, each);
            return (Taken::Yes, None);
        }
        let mut recorder = Recorder::default();
        let taken = self.input(input, &mut recorder);
        match (taken, input) {
            (Taken::No, _) | (Taken::Yes, Input::Undo | Input::Wait(_)) => (taken, None),
            (Taken::Yes, Input::Restart | Input::Next) => (taken, Some(self.entry_told(recorder.answer))),
            (Taken::Yes, Input::Key(_) | Input::Tap(_) | Input::Drag(..)) => {
                each(self, self.turn_told(recorder.answer, input.to_string()));
                (taken, None)
            }
        }
    }

    /// The report of a map that was entered, with what is known when it has begun.
    pub(crate) fn entry_told(&self, told: Answer) -> Answer {
        Answer { outcome: self.state.small.outcome, heading: self.first_heading(), chosen: self.chosen(), ..told }
    }

    /// The heading of the first controlled piece, in reading order, of the first control that has any.
    fn first_heading(&self) -> Option<Heading> {
        let board = &self.state.board;
        let mut cells = Vec::new();
        for set in self.book.controls.iter().map(|control| self.book.set(control.who)) {
            board.cells_of(set, &mut cells);
            let pieces =
                cells.iter().flat_map(|cell| board.seats(*cell).filter_map(|place| board.known_piece_in(*cell, place)));
            if let Some(piece) = pieces.into_iter().find(|piece| set.contains(board.kind_of(*piece))) {
                return board.heading_of(piece);
            }
        }
        None
    }

    /// The report of a turn, with what is known when it is over.
    fn turn_told(&self, told: Answer, input: String) -> Answer {
        let outcome = self.state.small.outcome;
        let turn = (outcome != Some(Ended::NeverSettles)).then_some(self.state.small.turns);
        let (number, left, broken) = (self.turn.number, self.turn.left, self.broken());
        Answer { turn, input, number, left, broken, ..self.entry_told(told) }
    }

    /// Whether the game has ended and waits for `undo`, `restart` or `next`.
    fn is_over(&self) -> bool {
        matches!(self.state.small.outcome, Some(Ended::Won | Ended::Lost)) && !self.endless
    }

    /// A wait, told turn by turn.
    fn answer_wait(&mut self, ms: u64, mut each: impl FnMut(&Self, Answer)) {
        self.remember();
        let mut wait = Wait::new(self.state.small.clock + ms);
        loop {
            let mut recorder = Recorder::default();
            let Some(what) = wait.fire(self, &mut recorder) else { break };
            let input = match what {
                Due::Glide => "glide".into(),
                Due::Timer(timer) => format!("each {}", self.book.timers[timer].name),
            };
            let mut answer = self.turn_told(recorder.answer, input);
            if wait.fired == MOST_FIRINGS && !wait.ended && self.next_due(wait.until).is_some() {
                answer.notes.push(format!("the wait was cut after {MOST_FIRINGS} turns"));
            }
            each(self, answer);
        }
    }

    /// From now on timers fire only when they are told to.
    pub const fn stop_timers(&mut self) {
        self.untimed = true;
    }

    /// Lets a timer fire now, as an input of its own; whether the game still goes on.
    pub fn fire_timer<W: Watch>(&mut self, timer: TimerId, watch: &mut W) -> bool {
        if self.is_over() {
            return false;
        }
        self.remember();
        self.turn(Cause::Timer(timer), watch);
        true
    }

    /// Whether a request or a swap of the last turn was granted.
    pub const fn has_granted(&self) -> bool {
        self.turn.granted
    }

    /// Lets everything happen that is due next, all of that instant, as one input; tells the game after each turn. Gives how
    /// many milliseconds that took, `None` where nothing is due.
    pub(crate) fn pass_to_next<W: Watch>(&mut self, watch: &mut W, mut each: impl FnMut(&Self)) -> Option<u64> {
        if self.is_over() {
            return None;
        }
        let due = self.next_instant()?;
        let begun = self.state.small.clock;
        self.remember();
        let mut wait = Wait::new(due);
        while wait.fire(self, watch).is_some() {
            each(self);
        }
        Some(due - begun)
    }

    /// The first invariant that does not hold, by its number.
    pub fn broken(&self) -> Option<usize> {
        (0..self.book.invariants.len()).find(|number| self.breaks(*number))
    }

    /// Whether an invariant does not hold.
    pub(crate) fn breaks(&self, number: usize) -> bool {
        let invariant = &self.book.invariants[number];
        self.holds(&invariant.cond) != invariant.always
    }

    /// Whether a rule is about what begins a turn, on the board as it is before it.
    fn is_about(&self, trigger: &Trigger, cause: Cause) -> bool {
        match (trigger, cause) {
            (Trigger::Key(wanted), Cause::Key(key)) => wanted == key,
            (Trigger::Timer(wanted), Cause::Timer(timer)) => *wanted == timer,
            (Trigger::Tap(what), Cause::Tap(cell)) => self.touches(what.as_ref(), cell),
            (Trigger::Drag(what, onto), Cause::Drag(from, to)) => {
                self.touches(what.as_ref(), from) && self.touches(onto.as_ref(), to)
            }
            _ => false,
        }
    }

    /// Whether the topmost piece of a touched cell is meant, the ground only where nothing else stands.
    fn touches(&self, what: Option<&Met>, cell: Cell) -> bool {
        let board = &self.state.board;
        let id = board.id(cell);
        let void = id.is_some_and(|id| board.is_void(id));
        match what {
            None => true,
            Some(Met::Edge) => id.is_none(),
            Some(Met::Void) => void,
            Some(Met::Pieces(set)) => id.filter(|_| !void).is_some_and(|id| {
                let ground = self.book.ground;
                let top = board.kinds_at(id).find(|kind| Some(*kind) != ground).or_else(|| board.kinds_at(id).next());
                top.is_some_and(|kind| self.book.set(*set).contains(kind))
            }),
        }
    }

    fn turn<W: Watch>(&mut self, cause: Cause, watch: &mut W) {
        let about = |at: &usize| self.is_about(&self.book.inputs[*at].trigger, cause);
        let rules: Rules = (0..self.book.inputs.len()).filter(about).collect();
        let by_itself = matches!(cause, Cause::Timer(_) | Cause::Glide);
        self.turn_of(cause.touch(), by_itself, watch, |grid, watch| {
            if matches!(cause, Cause::Glide) {
                grid.glide(watch)?;
            }
            grid.fire(&rules, &Context::default(), watch)
        });
    }

    /// A turn that begins with what is done there, and then goes on as every turn does.
    pub(super) fn turn_of<W: Watch>(
        &mut self,
        touch: Option<Touch>,
        by_itself: bool,
        watch: &mut W,
        act: impl FnOnce(&mut Self, &mut W) -> Goes,
    ) {
        if self.state.small.outcome == Some(Ended::NeverSettles) {
            self.state.small.outcome = None;
        }
        let before = self.moment();
        self.turn = Turn { touch, ..Turn::default() };
        self.state.small.turns += 1;
        let number = self.state.small.turns;
        let flow = act(self, watch).and_then(|()| self.settle_and_judge(by_itself, watch));
        self.turn.touch = None;
        self.start_gliders();
        match flow {
            Ok(()) => self.state.small.blocked = false,
            Err(Flow::Restart) => self.leave_map(false, watch),
            Err(Flow::NextMap) => self.next_or_win(watch),
            Err(Flow::NeverSettles) => {
                let clock = self.state.small.clock;
                self.take_back(before);
                self.state.small.clock = clock;
                self.state.small.outcome = Some(Ended::NeverSettles);
                self.turn = Turn { last: self.turn.last, ..Turn::default() };
            }
        }
        (self.turn.number, self.turn.left) = (number, flow.err());
    }

    fn next_or_win<W: Watch>(&mut self, watch: &mut W) {
        if self.has_next_map() {
            self.leave_map(true, watch);
        } else {
            self.state.small.outcome = Some(Ended::Won);
            self.state.small.blocked = false;
        }
    }

    /// What follows what a turn began with.
    fn settle_and_judge<W: Watch>(&mut self, by_itself: bool, watch: &mut W) -> Goes {
        // Moves and `each turn` belong to inputs.
        if self.turn.granted && !by_itself {
            self.state.small.moves += 1;
            if !self.tables.each_turn.is_empty() {
                let each = self.tables.clone();
                self.fire(&each.each_turn, &Context::default(), watch)?;
            }
        }
        self.settle_all(watch)?;
        self.outcomes(watch)
    }

    /// Does the actions of rules in file order; all guards are judged before the first of them acts.
    pub(super) fn fire<W: Watch>(&mut self, rules: &[usize], context: &Context, watch: &mut W) -> Goes {
        if rules.is_empty() {
            return Ok(());
        }
        let book = self.book.clone();
        let mut fitting = Rules::new();
        for rule in rules {
            let guard = book.inputs[*rule].guard.as_ref();
            if guard.is_none_or(|guard| self.cond_holds(guard, &context.view)) {
                fitting.push(*rule);
            }
        }
        for rule in fitting {
            self.turn.not_back = book.inputs[rule].no_reverse.map(|(_, heading)| heading);
            watch.used(Fired::Input(rule));
            self.acting(Fired::Input(rule), watch, |grid, watch| {
                // Each list is done only where the last action of the one before was refused.
                for list in &book.inputs[rule].actions {
                    let mut granted = true;
                    for action in list {
                        granted = grid.action(action, context, watch)?;
                    }
                    if granted {
                        break;
                    }
                }
                Ok(())
            })?;
        }
        self.turn.not_back = None;
        Ok(())
    }

    /// `win` and `lose`: effects first, then the clauses in file order; the first that holds ends the game.
    fn outcomes<W: Watch>(&mut self, watch: &mut W) -> Goes {
        if let Some(outcome) = self.turn.pending.take() {
            self.state.small.outcome = Some(outcome);
            return Ok(());
        }
        let Some(number) = self.book.outcomes.iter().position(|clause| self.holds(&clause.cond)) else {
            return Ok(());
        };
        let book = self.book.clone();
        let clause = &book.outcomes[number];
        self.state.small.outcome = Some(if clause.win { Ended::Won } else { Ended::Lost });
        watch.used(Fired::Outcome(number));
        self.acting(Fired::Outcome(number), watch, |grid, watch| {
            grid.do_effects(&clause.effects, &Context::default(), watch)
        })?;
        self.do_spawns(watch);
        self.turn.pending = None;
        Ok(())
    }

    /// What is due first, not later than an instant: what glides into another cell before timers, of several timers the
    /// first of the file. A timer whose time has passed is due now.
    pub fn next_due(&self, until: u64) -> Option<(u64, Due)> {
        if self.untimed {
            return self.next_glide(until).map(|due| (due, Due::Glide)).filter(|(due, _)| *due <= until);
        }
        let due = |timer: &Running| timer.last.saturating_add(timer.period).max(self.state.small.clock);
        let timers = self.state.timers.iter().enumerate().map(|(number, timer)| (due(timer), Due::Timer(number)));
        let glide = self.next_glide(until).map(|due| (due, Due::Glide));
        timers.chain(glide).min().filter(|(due, _)| *due <= until)
    }
}
