//! Random numbers (PCG-XSH-RR 64/32; O'Neill 2014), the same on every machine.

/// Where a sequence of random numbers stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Random(pub u64);

const MULTIPLIER: u64 = 6_364_136_223_846_793_005;
const INCREMENT: u64 = 109;

impl Random {
    /// The sequence of a seed.
    pub fn new(seed: u64) -> Self {
        let mut random = Self(seed.wrapping_add(INCREMENT));
        random.output();
        random
    }

    fn output(&mut self) -> u32 {
        let x = self.0;
        self.0 = x.wrapping_mul(MULTIPLIER).wrapping_add(INCREMENT);
        ((((x >> 18) ^ x) >> 27) as u32).rotate_right((x >> 59) as u32)
    }

    /// A number from 0 to below `n`; `n` is over 0.
    pub fn below(&mut self, n: u32) -> u32 {
        let least = ((1_u64 << 32) % u64::from(n)) as u32;
        loop {
            let output = self.output();
            if output >= least {
                return output % n;
            }
        }
    }
}
