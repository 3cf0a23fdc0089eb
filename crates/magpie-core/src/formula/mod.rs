//! Somebody's own expressions held against the right answers (docs/formats.md, `formula`).

mod comparison;
mod expression;
mod telling;
mod usual;

#[cfg(test)]
mod tests;
#[cfg(test)]
mod value_tests;

pub use comparison::{
    Comparison, Finding, LimitReached, Miss, MissAt, Progress, Sampled, Sampling, Tally, compare, sampling,
};
pub use expression::{Expression, ExpressionError, Names, NamesError, parse_expression};
pub use telling::{Untold, untold};
pub use usual::usual;
