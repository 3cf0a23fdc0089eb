//! What a game does that has a step done wrong, or that takes draws as given.

use super::plan::{Facts, Frame, Step};
use super::state::Grid;
use super::switches::{Dealt, Margin, Switch, Switches};
use super::tables::Clause;
use crate::board::{CellId, PieceId};
use crate::rulebook::{KindId, PlainVerb, Rulebook, Verb};
use crate::space::{Cell, Extent};

impl Rulebook {
    /// Whether pieces of a kind are shoved by somebody.
    pub fn is_shoved(&self, kind: KindId) -> bool {
        self.meetings.iter().any(|meeting| {
            let shoves = matches!(meeting.verb, Verb::Shove { .. });
            shoves && matches!(meeting.met, crate::rulebook::Met::Pieces(set) if self.set(set).contains(kind))
        })
    }

    /// Whether pieces of a kind are covered by a control.
    pub fn is_controlled(&self, kind: KindId) -> bool {
        self.controls.iter().any(|control| self.set(control.who).contains(kind))
    }
}

impl Grid {
    /// What it does wrong on purpose.
    pub const fn switches(&self) -> Switches {
        self.switches
    }

    /// Gives it what the next draws are to be; gives back what was left of the last ones.
    pub fn deal(&mut self, dealt: Option<Dealt>) -> Option<Dealt> {
        std::mem::replace(&mut self.dealt, dealt.map(Box::new)).map(|dealt| *dealt)
    }

    /// The place of a kind in a list: the one that is given, or a draw.
    pub(super) fn draw_kind(&mut self, kinds: &[KindId]) -> usize {
        let names = |at: usize, name: &str| self.book.kind(kinds[at]).name == name;
        let given = self.dealt.as_ref().and_then(|dealt| dealt.drawn.front());
        let found = given.and_then(|name| (0..kinds.len()).find(|at| names(*at, name)));
        self.drawn(given.is_some(), found).unwrap_or_else(|| self.state.small.random.below(kinds.len() as u32) as usize)
    }

    /// The place of a shape in the rulebook's list: the one that is given, or a draw.
    pub(super) fn draw_shape(&mut self) -> usize {
        let given = self.dealt.as_ref().and_then(|dealt| dealt.drawn.front());
        let found = given.and_then(|name| self.book.shapes.iter().position(|shape| shape.name == *name));
        self.drawn(given.is_some(), found)
            .unwrap_or_else(|| self.state.small.random.below(self.book.shapes.len() as u32) as usize)
    }

    /// Takes a given name, found among the choices or not.
    fn drawn(&mut self, is_given: bool, found: Option<usize>) -> Option<usize> {
        let dealt = self.dealt.as_mut().filter(|_| is_given)?;
        let name = dealt.drawn.pop_front();
        if found.is_none() {
            dealt.wrong =
                dealt.wrong.take().or_else(|| name.map(|name| format!("`{name}` is none of those to draw from")));
        }
        found
    }

    /// A given cell for something that is put down at random, where the rules allow it there.
    pub(super) fn dealt_cell(&mut self, empty: &[CellId]) -> Option<CellId> {
        let margin = self.switches.margin;
        let dealt = self.dealt.as_mut()?;
        let cell = dealt.spawned.pop_front()?;
        let found = self.state.board.id(margin.inner(cell)).filter(|id| empty.contains(id));
        if found.is_none() {
            let words = || format!("{},{} is no cell for what is put down", cell.column, cell.row);
            dealt.wrong = dealt.wrong.take().or_else(|| Some(words()));
        }
        found
    }

    /// Whether a void cell is walked all the same.
    pub(super) fn walks_void(&self, cell: CellId) -> bool {
        if self.switches.has(Switch::VoidWalked) {
            return true;
        }
        self.switches.has(Switch::MarginWalked) && {
            let Cell { column, row } = self.switches.margin.outer(self.state.board.cell(cell));
            let extent = self.map_extent();
            column < 0 || row < 0 || column >= i64::from(extent.columns) || row >= i64::from(extent.rows)
        }
    }

    /// The extent of the map that is played, without what was added around it.
    pub fn map_extent(&self) -> Extent {
        let Extent { columns, rows } = self.state.board.extent();
        let Margin { columns: west_east, rows: before_behind } = self.switches.margin;
        Extent { columns: columns - west_east.0 - west_east.1, rows: rows - before_behind.0 - before_behind.1 }
    }

    /// Where a step off an edge leads with rows that join, or with edges that do.
    pub(super) fn beyond_edge(&self, to: Cell) -> Option<CellId> {
        let extent = self.state.board.extent();
        let (columns, rows) = (i64::from(extent.columns), i64::from(extent.rows));
        let across = to.row >= 0 && to.row < rows;
        if self.switches.has(Switch::RowWraps) && across {
            let flat = to.row * columns + to.column;
            return (flat >= 0 && flat < columns * rows).then_some(CellId(flat as u32));
        }
        if self.switches.has(Switch::EdgesJoin) {
            return self.state.board.id(Cell::new(to.column.rem_euclid(columns), to.row.rem_euclid(rows)));
        }
        None
    }

    /// What a meeting answers in a game that does it wrong.
    pub(super) fn slipped(
        &self,
        frame: &Frame,
        asker: PieceId,
        occupant: KindId,
        (verb, clause): (Verb, Option<Clause>),
    ) -> (Verb, Option<Clause>) {
        const PASS: Verb = Verb::Plain(PlainVerb::Pass);
        const STOP: Verb = Verb::Plain(PlainVerb::Stop);
        let on = |switch| self.switches.has(switch);
        let kind = self.state.board.kind_of(asker);
        let is_shoved = frame.body > 0;
        if is_shoved && on(Switch::PushIntoPiece) {
            return (PASS, None);
        }
        if is_shoved && on(Switch::PushUnlimited) && verb == STOP && self.book.is_shoved(occupant) {
            return (Verb::Shove { up_to: None, otherwise: None }, None);
        }
        if on(Switch::PushUnlimited)
            && let Verb::Shove { otherwise, .. } = verb
        {
            return (Verb::Shove { up_to: None, otherwise }, clause);
        }
        if on(Switch::PushOneOnly)
            && let Verb::Shove { otherwise, .. } = verb
        {
            return (Verb::Shove { up_to: Some(1), otherwise }, clause);
        }
        if !is_shoved
            && on(Switch::VacancyForgotten)
            && clause.is_none()
            && verb == STOP
            && self.book.is_controlled(kind)
        {
            return (PASS, None);
        }
        if !is_shoved && self.plan.entering && matches!(verb, Verb::Shove { .. }) {
            return (PASS, clause);
        }
        (verb, clause)
    }

    /// Whether a cell still counts as taken by the controlled piece that has left it.
    pub(super) fn is_kept_shut(&self, facts: &Facts, step: Step) -> bool {
        let Some(cell) = self.state.board.id(facts.to) else {
            return false;
        };
        self.state.bonds.kept.iter().any(|(kept, kind)| {
            *kept == cell && !matches!(self.decide_kind(facts.asker, *kind, cell, step).0, Verb::Plain(PlainVerb::Pass))
        })
    }

    /// Whether a step done wrong has left something that is not seen on the board.
    pub(crate) fn hides(&self) -> bool {
        let bonds = &self.state.bonds;
        !bonds.kept.is_empty() || bonds.tails.iter().any(|tail| tail.late > 0)
    }

    /// Notes the cells that controlled pieces of the plan leave.
    pub(super) fn keep_old_cells(&mut self) {
        let board = &self.state.board;
        let moving = self.plan.members.iter().filter(|member| member.from != member.to);
        let left: Vec<(CellId, KindId)> = moving
            .map(|member| (member.from, board.kind_of(member.piece)))
            .filter(|(_, kind)| self.book.is_controlled(*kind))
            .collect();
        if !left.is_empty() {
            self.change_bonds(|bonds| {
                left.iter().for_each(|kept| {
                    if !bonds.kept.contains(kept) {
                        bonds.kept.push(*kept)
                    }
                })
            });
        }
    }
}
