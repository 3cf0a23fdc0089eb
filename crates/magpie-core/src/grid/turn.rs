//! Turns: rules that act, settling, outcomes (docs/model.md, section 4).

use super::effects::Context;
use super::ledger::{Nobody, Reason, Watch};
use super::plan::Step;
use super::report::{Answer, Fired, Recorder};
use super::state::{Due, Ended, Goes, Grid, Running, Touch};
use crate::board::PieceId;
use crate::rulebook::{Key, Met, TimerId, Trigger};
use crate::space::{Cell, Heading};
use crate::tape::Input;

/// Why a turn ends before its time.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Flow {
    /// The map begins again.
    Restart,
    /// The next map begins.
    NextMap,
    /// The rules do not come to rest.
    NeverSettles,
}

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

/// Most turns of timers in one wait.
const MOST_FIRINGS: u32 = 1_000_000;

/// Time that passes, timer by timer.
struct Wait {
    until: u64,
    fired: u32,
    /// There was more to fire than a wait may hold.
    cut: bool,
    ended: bool,
}

impl Wait {
    const fn new(until: u64) -> Self {
        Self { until, fired: 0, cut: false, ended: false }
    }

    /// Lets what is due next happen, a turn of its own, and tells what it was; at the end moves the clock to it.
    fn fire<W: Watch>(&mut self, grid: &mut Grid, watch: &mut W) -> Option<Due> {
        if self.ended {
            return None;
        }
        let due = grid.next_due(self.until);
        let Some((due, what)) = due.filter(|_| self.fired < MOST_FIRINGS) else {
            self.cut = due.is_some();
            if !self.cut {
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
        self.ended = grid.left == Some(Flow::Restart) || grid.is_over();
        Some(what)
    }
}

/// What became of an input.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Taken {
    /// It did something and belongs on the tape.
    Yes,
    /// It did nothing.
    No,
}

/// What a request would answer now.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Preview {
    /// The heading asked for.
    pub heading: Heading,
    /// Whether it would be granted.
    pub granted: bool,
    /// Where the asker would stand, `None` when it would be gone.
    pub to: Option<Cell>,
    /// Why it would be refused.
    pub refusal: Option<Reason>,
    /// How many pieces it would shove.
    pub shoved: usize,
}

impl Grid {
    /// Plays one input. `undo` is none of these: it is [`Grid::undo`].
    pub fn input<W: Watch>(&mut self, input: &Input, watch: &mut W) -> Taken {
        let over = self.is_over();
        match input {
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
                self.turn(Cause::Tap(*cell), watch);
            }
            Input::Drag(from, to) => {
                self.remember();
                self.turn(Cause::Drag(*from, *to), watch);
            }
        }
        Taken::Yes
    }

    /// Plays one input and tells what it did: one answer for every turn in it.
    /// What is told to the outside on entering a map belongs to no turn and is told beside.
    pub fn answer(&mut self, input: &Input) -> (Taken, Vec<Answer>, Vec<String>) {
        if let Input::Wait(ms) = input
            && !self.is_over()
        {
            let (answers, signals) = self.answer_wait(*ms);
            return (Taken::Yes, answers, signals);
        }
        let mut recorder = Recorder::default();
        let taken = self.input(input, &mut recorder);
        let is_turn = matches!(input, Input::Key(_) | Input::Tap(_) | Input::Drag(..));
        let mut answer = recorder.answer;
        let signals = answer.signals.clone();
        if taken == Taken::No || !is_turn {
            return (taken, Vec::new(), signals);
        }
        answer.turn = (self.state.small.outcome != Some(Ended::NeverSettles)).then_some(self.state.small.turns);
        answer.input = input.to_string();
        answer.outcome = self.state.small.outcome;
        answer.broken = self.broken();
        (taken, vec![answer], signals)
    }

    /// Whether the game has ended and waits for `undo`, `restart` or `next`.
    fn is_over(&self) -> bool {
        matches!(self.state.small.outcome, Some(Ended::Won | Ended::Lost)) && !self.endless
    }

    /// A wait, told turn by turn.
    fn answer_wait(&mut self, ms: u64) -> (Vec<Answer>, Vec<String>) {
        /// Boards are kept for so many turns of a wait, on boards of so many cells.
        const KEPT: (usize, u32) = (1000, 10_000);
        let (mut answers, mut signals): (Vec<Answer>, Vec<String>) = (Vec::new(), Vec::new());
        self.remember();
        let mut wait = Wait::new(self.state.small.clock + ms);
        loop {
            let mut recorder = Recorder::default();
            let Some(what) = wait.fire(self, &mut recorder) else { break };
            let mut answer = recorder.answer;
            signals.extend(answer.signals.iter().cloned());
            answer.turn = (self.state.small.outcome != Some(Ended::NeverSettles)).then_some(self.state.small.turns);
            answer.input = match what {
                Due::Glide => "glide".into(),
                Due::Timer(timer) => format!("each {}", self.book.timers[timer].name),
            };
            answer.outcome = self.state.small.outcome;
            answer.broken = self.broken();
            let small = answers.len() < KEPT.0 && self.state.board.cells() <= KEPT.1;
            answer.after = small.then(|| (self.picture(), self.state.counters.clone()));
            answers.push(answer);
        }
        if let Some(last) = answers.last_mut().filter(|_| wait.cut) {
            last.notes.push(format!("the wait was cut after {MOST_FIRINGS} turns"));
        }
        (answers, signals)
    }

    /// The first invariant that does not hold, by its number.
    pub fn broken(&self) -> Option<usize> {
        self.book.invariants.iter().position(|invariant| self.holds(&invariant.cond) != invariant.always)
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
        self.left = None;
        if self.state.small.outcome == Some(Ended::NeverSettles) {
            self.state.small.outcome = None;
        }
        let before = self.moment();
        self.granted_something = false;
        self.fallen = 0;
        self.signals.clear();
        self.state.small.turns += 1;
        let book = self.book.clone();
        let about = |at: &usize| self.is_about(&book.inputs[*at].trigger, cause);
        let rules: Vec<usize> = (0..book.inputs.len()).filter(about).collect();
        self.touch = cause.touch();
        let glided = if matches!(cause, Cause::Glide) { self.glide(watch) } else { Ok(()) };
        let by_itself = matches!(cause, Cause::Timer(_) | Cause::Glide);
        let flow = glided.and_then(|()| self.act_and_settle(&rules, by_itself, watch));
        self.touch = None;
        self.start_gliders();
        match flow {
            Ok(()) => self.state.small.blocked = false,
            Err(Flow::Restart) => {
                self.left = Some(Flow::Restart);
                self.leave_map(false, watch);
            }
            Err(Flow::NextMap) => {
                self.left = Some(Flow::NextMap);
                self.next_or_win(watch);
            }
            Err(Flow::NeverSettles) => {
                let clock = self.state.small.clock;
                self.take_back(before);
                self.state.small.clock = clock;
                self.state.small.outcome = Some(Ended::NeverSettles);
                self.spawns.clear();
                self.signals.clear();
                self.pending = None;
            }
        }
    }

    fn next_or_win<W: Watch>(&mut self, watch: &mut W) {
        if self.has_next_map() {
            self.leave_map(true, watch);
        } else {
            self.state.small.outcome = Some(Ended::Won);
            self.state.small.blocked = false;
        }
    }

    fn act_and_settle<W: Watch>(&mut self, rules: &[usize], by_itself: bool, watch: &mut W) -> Goes {
        self.fire(rules, &Context::default(), watch)?;
        // Moves and `each turn` belong to inputs.
        if self.granted_something && !by_itself {
            self.state.small.moves += 1;
            let each = self.tables.clone();
            self.fire(&each.each_turn, &Context::default(), watch)?;
        }
        self.settle_all(watch)?;
        self.outcomes(watch)
    }

    /// Does the actions of rules in file order; all guards are judged before the first of them acts.
    pub(super) fn fire<W: Watch>(&mut self, rules: &[usize], context: &Context, watch: &mut W) -> Goes {
        let book = self.book.clone();
        let mut fitting: Vec<usize> = Vec::with_capacity(rules.len());
        for rule in rules {
            let guard = book.inputs[*rule].guard.as_ref();
            if guard.is_none_or(|guard| self.cond_holds(guard, &context.view)) {
                fitting.push(*rule);
            }
        }
        for rule in fitting {
            watch.fired(Fired::Input(rule));
            // Each list is done only where the last action of the one before was refused.
            self.not_back = book.inputs[rule].no_reverse.map(|(_, heading)| heading);
            for list in &book.inputs[rule].actions {
                let mut granted = true;
                for act in list {
                    granted = self.act(act, context, watch)?;
                }
                if granted {
                    break;
                }
            }
        }
        self.not_back = None;
        Ok(())
    }

    /// `win` and `lose`: effects first, then the clauses in file order; the first that holds ends the game.
    fn outcomes<W: Watch>(&mut self, watch: &mut W) -> Goes {
        if let Some(outcome) = self.pending.take() {
            self.state.small.outcome = Some(outcome);
            return Ok(());
        }
        let book = self.book.clone();
        let Some(number) = book.outcomes.iter().position(|clause| self.holds(&clause.cond)) else {
            return Ok(());
        };
        let clause = &book.outcomes[number];
        watch.fired(Fired::Outcome(number));
        self.state.small.outcome = Some(if clause.win { Ended::Won } else { Ended::Lost });
        for act in &clause.effects {
            self.act(act, &Context::default(), watch)?;
        }
        self.do_spawns(watch);
        self.pending = None;
        Ok(())
    }

    /// What a piece's request would answer now; nothing changes.
    pub fn preview(&mut self, piece: PieceId, heading: Heading) -> Preview {
        let step = Step::along(heading, self.book.geometry.south());
        let granted = self.plan_request::<Nobody>(piece, step);
        let asker = self.plan.members.first().filter(|member| !member.gone);
        Preview {
            heading,
            granted,
            to: asker.map(|member| self.state.board.cell(member.to)),
            refusal: self.plan.reason,
            shoved: self.plan.members.iter().filter(|member| member.body > 0 && !member.swapped).count(),
        }
    }

    /// The cells into which a piece gets by requests as they would be answered now, nothing shoved or exchanged: one flag
    /// a cell, in reading order.
    pub fn reachable(&mut self, piece: PieceId, headings: &[Heading]) -> Vec<bool> {
        let mut reached = vec![false; self.state.board.cells() as usize];
        let Some(start) = self.state.board.cell_of(piece) else {
            return reached;
        };
        let mark = self.state.board.mark();
        reached[start.0 as usize] = true;
        let mut open = vec![start];
        let layer = self.state.board.layer(self.state.board.kind_of(piece));
        while let Some(cell) = open.pop() {
            let here = self.state.board.cell_of(piece);
            if here != Some(cell) {
                // Something stands there already where it was reached by eating or passing: it cannot be asked from.
                if self.state.board.kind_at(cell, layer).is_some() {
                    continue;
                }
                self.state.board.shift(&[(piece, cell)]);
            }
            for heading in headings {
                let step = Step::along(*heading, self.book.geometry.south());
                let granted = self.plan_request::<Nobody>(piece, step);
                let alone = self.plan.members.len() == 1 && !self.plan.members[0].gone;
                let to = self.plan.members.first().map(|member| member.to);
                if granted
                    && alone
                    && let Some(to) = to
                    && !std::mem::replace(&mut reached[to.0 as usize], true)
                {
                    open.push(to);
                }
            }
            self.state.board.take_back(mark);
        }
        reached
    }

    /// A piece asks for a step outside any turn: no rule but the meetings' acts.
    pub fn request<W: Watch>(&mut self, piece: PieceId, heading: Heading, watch: &mut W) -> bool {
        let step = Step::along(heading, self.book.geometry.south());
        self.slid.clear();
        self.ask(piece, step, watch).unwrap_or(false)
    }

    /// The cell of the first piece of a kind in reading order.
    pub fn first_cell(&self, kind: crate::rulebook::KindId) -> Option<Cell> {
        self.first_of(kind).map(|cell| self.state.board.cell(cell))
    }

    /// The first piece of a kind in reading order.
    pub fn first_piece(&mut self, kind: crate::rulebook::KindId) -> Option<PieceId> {
        let cell = self.first_of(kind)?;
        let board = &mut self.state.board;
        let place = board.places(cell).find(|place| board.kind_in(cell, *place) == Some(kind))?;
        board.piece_in(cell, place)
    }

    /// The pieces the player moves, in reading order.
    pub fn controlled(&self) -> Vec<PieceId> {
        let board = &self.state.board;
        let mut found = Vec::new();
        let mut cells = Vec::new();
        for control in &self.book.controls {
            let set = self.book.set(control.who);
            board.cells_of(set, &mut cells);
            for cell in &cells {
                for place in board.places(*cell) {
                    let piece = board.known_piece_in(*cell, place);
                    found.extend(piece.filter(|piece| set.contains(board.kind_of(*piece)) && !found.contains(piece)));
                }
            }
        }
        found
    }

    /// What was told to the outside in the last turn.
    pub fn signals(&self) -> &[String] {
        &self.signals
    }

    /// Whether the last request was granted, and why not.
    pub const fn last_request(&self) -> (Option<bool>, Option<Reason>) {
        (self.last_granted, self.last_refusal)
    }
}
