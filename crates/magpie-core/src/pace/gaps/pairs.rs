//! What is too near to what else: the pair of cells that keeps a body from a step.

use super::Yard;
use crate::space::exact::Fraction;
use num_traits::{One, ToPrimitive};

/// Two cells on both sides of a way.
pub(super) struct PairSearch<'a> {
    yard: &'a Yard,
    axis: usize,
    body: &'a [Fraction; 2],
    /// The most columns or rows apart that leave less room than the body needs: along the way, and across it.
    most: [i64; 2],
}

/// A pair that leaves too little room: how far its line crosses from the cell entered, as a part of a whole; its cells as
/// row and column; and how far they are apart across the way.
type Near = ((i64, i64), [(i64, i64); 2], i64);

/// Two cells as row and column each, what is between them, and what lacks.
pub(super) type Pair = ([(i64, i64); 2], Fraction, Fraction);

impl<'a> PairSearch<'a> {
    pub(super) fn of(yard: &'a Yard, body: &'a [Fraction; 2], axis: usize) -> Self {
        let most = [axis, 1 - axis].map(|axis| {
            let apart = ((&body[axis] + &yard.cell[axis]) / &yard.pitch[axis]).ceil() - Fraction::one();
            apart.to_integer().to_i64().unwrap_or(i64::MAX).min(yard.counts()[axis] + 2)
        });
        Self { yard, axis, body, most }
    }

    /// The pair with the fewest columns plus rows apart, its line crossing the way of a step.
    pub(super) fn narrowest(&self, way: usize, from: [i64; 2], to: [i64; 2]) -> Option<Pair> {
        let other = 1 - self.axis;
        for apart in 2..=self.most[0] + self.most[1] {
            let mut best: Option<Near> = None;
            for across in 2.max(apart - self.most[0])..=apart.min(self.most[1]) {
                let along = apart - across;
                for slope in if along == 0 { vec![0] } else { vec![-along, along] } {
                    for before in 1..across {
                        self.lines(way, (from, to), (across, slope, before), &mut best);
                    }
                }
            }
            if let Some((_, between, across)) = best {
                let wide = Fraction::from_integer(across.into()) * &self.yard.pitch[other] - &self.yard.cell[other];
                let short = &self.body[other] - &wide;
                return Some((between, wide, short));
            }
        }
        None
    }

    /// Pairs `across` apart over the way and `slope` along it, the first of them so many before the way.
    fn lines(
        &self,
        way: usize,
        (from, to): ([i64; 2], [i64; 2]),
        (across, slope, before): (i64, i64, i64),
        best: &mut Option<Near>,
    ) {
        let (axis, other) = (self.axis, 1 - self.axis);
        let sign = to[axis] - from[axis];
        // The line crosses at first + slope × before / across, which lies from `from` to `to`.
        let reach = slope.abs() + 1;
        for shift in -reach..=reach {
            let first = from[axis] + shift;
            let crossing = (first - from[axis]) * across + slope * before;
            let ahead = crossing * sign;
            if !(0..=across).contains(&ahead) {
                continue;
            }
            let square = |along: i64, beside: i64| {
                let mut square = [0, 0];
                (square[axis], square[other]) = (along, beside);
                square
            };
            let pair = [square(first, from[other] - before), square(first + slope, from[other] - before + across)];
            if !pair.iter().all(|square| self.yard.is_shut(way, *square)) {
                continue;
            }
            let mut between = pair.map(|square| self.yard.cell(way, square)).map(|cell| (cell.row, cell.column));
            between.sort_unstable();
            // Of crossings over different distances the nearest to the cell entered, as a fraction of the way.
            let key = (across - ahead, across);
            let nearer = |(left, of): (i64, i64)| {
                (key.0 * of).cmp(&(left * key.1)).then_with(|| between.cmp(&best.map_or(between, |best| best.1)))
            };
            if best.is_none_or(|(other, ..)| nearer(other).is_lt()) {
                *best = Some((key, between, across));
            }
        }
    }
}
