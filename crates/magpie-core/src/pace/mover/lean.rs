//! Leaning: what a refused press does where the pace has a `lean`.

use super::{Mover, Point, same};
use crate::space::exact::Fraction;
use num_traits::Signed;

/// A piece leans against what refused it.
#[derive(Clone, Debug)]
pub(super) struct Lean {
    from: Point,
    /// One pitch along the heading, in x and y.
    way: Point,
    began: Fraction,
}

impl Mover {
    /// The lean under way goes on; false where none is, or where it ends at this frame.
    pub(super) fn leans_on(&mut self, now: &Fraction) -> bool {
        let (Some(lean), Some(time)) = (&self.lean, &self.settings.lean) else {
            return false;
        };
        let gone = (now - &lean.began) / &time.value;
        let one = Fraction::from_integer(1.into());
        if gone >= one {
            self.at = lean.from.clone();
            self.lean = None;
            return false;
        }
        // A quarter of the way, there and back.
        let two = Fraction::from_integer(2.into());
        let share = (&one - (&one - two * gone).abs()) / Fraction::from_integer(4.into());
        self.at = (&lean.from.0 + &lean.way.0 * &share, &lean.from.1 + &lean.way.1 * &share);
        true
    }

    /// Nothing was granted: where a press was asked, the piece leans along the first request that it had part in.
    pub(super) fn lean_against(&mut self, now: &Fraction) {
        let leans = self.settings.lean.is_some() && !self.granted_now;
        let Some((heading, presses)) = self.pressed.take().filter(|_| leans) else {
            return;
        };
        // Those are answered by the lean; what else was pressed is dealt with as while moving.
        self.fresh.retain(|fresh| !presses.iter().any(|press| same(press, fresh)));
        self.lean = Some(Lean { from: self.at.clone(), way: self.way(heading), began: now.clone() });
    }
}
