//! Ranges of numbers.

use super::super::diagnostic::Code;
use super::super::model::{Ratio, whole};
use super::super::syntax::{Num, Point, Size};
use super::Checker;

impl Checker<'_> {
    fn out_of_range(&mut self, number: &Num, range: &str) {
        self.report(
            number.span,
            Code::OutOfRange,
            format!("`{}` is out of range: expected {range}", short(&number.text)),
        );
    }

    /// A whole number within bounds, both included.
    pub(super) fn int(&mut self, number: &Num, least: i128, most: i128, range: &str) -> i64 {
        let value = number.int().unwrap_or(0);
        if value < least || value > most {
            self.out_of_range(number, range);
        }
        whole(number)
    }

    /// Milliseconds of a timer.
    pub(super) fn beat(&mut self, number: &Num) -> i64 {
        self.int(number, 1, 86_400_000, "1 to 86,400,000 ms")
    }

    /// How often, from 1 to 1,000,000.
    pub(super) fn times(&mut self, number: &Num) -> u32 {
        self.int(number, 1, 1_000_000, "1 to 1,000,000") as u32
    }

    /// The length of a run or a patch.
    pub(super) fn length(&mut self, number: &Num) -> u32 {
        self.int(number, 2, 1000, "2 to 1,000") as u32
    }

    /// A seed.
    pub(super) fn seed(&mut self, number: &Num) -> u64 {
        self.int(number, 0, i128::from(u64::MAX), "0 to 2^64-1");
        number.int().and_then(|value| u64::try_from(value).ok()).unwrap_or(1)
    }

    /// A number within bounds, both included.
    pub(super) fn within(&mut self, number: &Num, least: f64, most: f64, range: &str) -> f64 {
        if !(least..=most).contains(&number.value) {
            self.out_of_range(number, range);
        }
        number.value
    }

    /// A share over 0 and under 100 per cent.
    pub(super) fn per_cent(&mut self, number: &Num) -> Ratio {
        if number.value <= 0.0 || number.value >= 100.0 {
            self.out_of_range(number, "over 0 and under 100 %");
        }
        match Ratio::of(number) {
            Some(ratio) => ratio,
            None => {
                self.out_of_range(number, "at most 18 digits");
                Ratio { above: 1, below: 1 }
            }
        }
    }

    /// A place in pixels.
    pub(super) fn place(&mut self, at: &Point) -> (f64, f64) {
        let range = "-1,000,000,000 to 1,000,000,000 px";
        (self.within(&at.0, -1e9, 1e9, range), self.within(&at.1, -1e9, 1e9, range))
    }

    /// Width and height, each checked by `one`.
    pub(super) fn size(&mut self, size: &Size, one: impl Fn(&mut Self, &Num) -> f64) -> (f64, f64) {
        let width = one(self, &size.0);
        let height = size.1.as_ref().map_or(width, |height| one(self, height));
        (width, height)
    }

    /// A cell's width or height.
    pub(super) fn cell_size(&mut self, number: &Num) -> f64 {
        if number.value <= 0.0 {
            self.report_help(
                number.span,
                Code::CellSize,
                format!("a cell cannot be {} px", short(&number.text)),
                "write a size over 0",
            );
            return 1.0;
        }
        self.within(number, 0.001, 1e6, "0.001 to 1,000,000 px")
    }

    /// A gap's width or height.
    pub(super) fn gap_size(&mut self, number: &Num) -> f64 {
        if number.value < 0.0 {
            self.report_help(
                number.span,
                Code::NegativeGap,
                format!("a gap cannot be {} px", short(&number.text)),
                "write 0 or more",
            );
            return 0.0;
        }
        self.within(number, 0.0, 1e6, "0 to 1,000,000 px")
    }

    /// Width or height of a window or design.
    pub(super) fn window_size(&mut self, number: &Num) -> f64 {
        self.within(number, 1.0, 1e6, "1 to 1,000,000 px")
    }

    /// A number of a pace: over 0, at most 1,000,000, at most three decimals in each number as written.
    pub(super) fn pace_number(&mut self, number: &Num) {
        self.number_of_pace(number, false);
    }

    /// The same, but it may be 0.
    pub(super) fn slack(&mut self, number: &Num) {
        self.number_of_pace(number, true);
    }

    fn number_of_pace(&mut self, number: &Num, or_zero: bool) {
        let decimals = |text: &str| text.split_once('.').map_or(0, |(_, part)| part.len());
        let too_low = if or_zero { number.value < 0.0 } else { number.value <= 0.0 };
        if too_low || number.value > 1e6 || number.text.split('/').any(|part| decimals(part) > 3) {
            let least = if or_zero { "0 to 1,000,000" } else { "over 0, at most 1,000,000" };
            self.out_of_range(number, &format!("{least}, with at most 3 decimals"));
        }
    }
}

fn short(text: &str) -> String {
    if text.len() > 24 { format!("{}...", &text[..24]) } else { text.into() }
}
