//! Changes in the order they were made, the last one to be taken back first.

/// Changes of one sort. Moments count all that were ever made, so that they stay right when the oldest are forgotten.
#[derive(Clone, Debug)]
pub(crate) struct Journal<T> {
    forgotten: usize,
    list: Vec<T>,
    /// The last moment that may be gone back to.
    marked: usize,
}

impl<T> Default for Journal<T> {
    fn default() -> Self {
        Self { forgotten: 0, list: Vec::new(), marked: 0 }
    }
}

impl<T> Journal<T> {
    #[inline]
    pub fn push(&mut self, change: T) {
        self.list.push(change);
    }

    /// The present moment.
    #[inline]
    pub const fn moment(&self) -> usize {
        self.forgotten + self.list.len()
    }

    /// The present moment, to which somebody may go back.
    pub const fn mark(&mut self) -> usize {
        self.marked = self.moment();
        self.marked
    }

    /// The last change, where it was made since the last [`Self::mark`].
    pub fn last_since_mark(&self) -> Option<&T> {
        self.list.last().filter(|_| self.moment() > self.marked)
    }

    /// The last change since a moment, which is taken off.
    pub fn pop_since(&mut self, moment: usize) -> Option<T> {
        if self.moment() > moment { self.list.pop() } else { None }
    }

    /// The changes since a moment, the first first.
    pub fn since(&self, moment: usize) -> &[T] {
        &self.list[moment.saturating_sub(self.forgotten).min(self.list.len())..]
    }

    /// Forgets what was before a moment: it cannot be taken back any more.
    pub fn forget_before(&mut self, moment: usize) {
        let count = moment.saturating_sub(self.forgotten).min(self.list.len());
        self.list.drain(..count);
        self.forgotten += count;
    }

    /// Forgets everything.
    pub fn forget(&mut self) {
        self.forget_before(self.moment());
        self.list.shrink_to(1024);
    }

    /// Gives room back that one turn needed and the others do not.
    pub fn ease(&mut self) {
        if self.bytes() > 1 << 20 && self.list.len() < self.list.capacity() / 4 {
            self.list.shrink_to(self.list.len() * 2);
        }
    }

    /// Bytes held, what changes point to aside.
    pub const fn bytes(&self) -> usize {
        self.list.capacity() * size_of::<T>()
    }
}
