//! A small generator of numbers (xorshift), the same for everybody.

pub struct Numbers(pub u64);

impl Numbers {
    pub fn below(&mut self, limit: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 % limit as u64) as usize
    }

    #[allow(dead_code)] // Not every test flips coins.
    /// True once in so many times.
    pub fn once_in(&mut self, many: usize) -> bool {
        self.below(many) == 0
    }

    #[allow(dead_code)] // Not every test picks words.
    pub fn one<'a>(&mut self, of: &[&'a str]) -> &'a str {
        of[self.below(of.len())]
    }
}
