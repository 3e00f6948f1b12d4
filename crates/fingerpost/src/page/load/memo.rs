//! Answers by number, each worked out when a person first asks. They are in blocks, which two states of a sheet
//! share where an edit does not touch them.

use std::ops::Range;
use std::sync::{Arc, OnceLock};

/// How many answers one block holds: few enough that an edit makes few again, enough that a sheet has few blocks.
const BLOCK: usize = 64;

/// Answers by number.
#[derive(Debug)]
pub(in crate::page) struct Memo<T> {
    blocks: Vec<Arc<[OnceLock<T>]>>,
}

impl<T: Clone> Memo<T> {
    /// So many answers, none of them known yet.
    pub fn new(count: usize) -> Memo<T> {
        let blocks = block_ranges(count).map(|range| range.map(|_| OnceLock::new()).collect());
        Memo {
            blocks: blocks.collect(),
        }
    }

    /// An answer, worked out where it is not known.
    pub fn get_or_init(&self, at: usize, answer: impl FnOnce() -> T) -> &T {
        self.blocks[at / BLOCK][at % BLOCK].get_or_init(answer)
    }

    /// The next state: the answers `touched` are open again, all others stay, with the number that `before` says they
    /// had.
    pub fn renewed(
        &self,
        count: usize,
        touched: &Range<usize>,
        before: impl Fn(usize) -> Option<usize>,
    ) -> Memo<T> {
        let slot = |at: usize| self.blocks.get(at / BLOCK)?.get(at % BLOCK);
        let blocks = block_ranges(count).map(|range| {
            let untouched = range.end <= touched.start || range.start >= touched.end;
            if let Some(block) = self.blocks.get(range.start / BLOCK)
                && untouched
                && block.len() == range.len()
                && before(range.start) == Some(range.start)
            {
                return block.clone();
            }
            let renewed = range.map(|at| {
                let known = before(at).and_then(slot).and_then(OnceLock::get);
                known.cloned().map_or_else(OnceLock::new, OnceLock::from)
            });
            renewed.collect()
        });
        Memo {
            blocks: blocks.collect(),
        }
    }
}

/// The numbers of each block.
fn block_ranges(count: usize) -> impl Iterator<Item = Range<usize>> {
    let starts = (0..count).step_by(BLOCK);
    starts.map(move |start| start..(start + BLOCK).min(count))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A memo in which every answer is its number.
    fn full(count: usize) -> Memo<usize> {
        let memo = Memo::new(count);
        for at in 0..count {
            memo.get_or_init(at, || at);
        }
        memo
    }

    fn known(memo: &Memo<usize>) -> Vec<Option<usize>> {
        let slots = memo.blocks.iter().flat_map(|block| block.iter());
        slots.map(|slot| slot.get().copied()).collect()
    }

    #[test]
    fn what_is_not_touched_is_shared() {
        let memo = full(200);
        let before = |at: usize| (at != 70).then_some(at);
        let next = memo.renewed(200, &(70..71), before);
        let shared = memo.blocks.iter().zip(&next.blocks);
        let shared: Vec<bool> = shared.map(|(a, b)| Arc::ptr_eq(a, b)).collect();
        assert_eq!(shared, [true, false, true, true]);
        let wanted: Vec<_> = (0..200).map(|at| (at != 70).then_some(at)).collect();
        assert_eq!(known(&next), wanted);
    }

    #[test]
    fn what_moves_keeps_its_answer() {
        let memo = full(150);
        // One more came in after the tenth.
        let before = |at: usize| match at {
            at if at < 10 => Some(at),
            10 => None,
            at => Some(at - 1),
        };
        let next = memo.renewed(151, &(10..11), before);
        let wanted: Vec<_> = (0..151).map(before).collect();
        assert_eq!(known(&next), wanted);
        // And one less.
        let less = memo.renewed(149, &(0..0), |at| Some(at + 1));
        assert_eq!(known(&less), (1..150).map(Some).collect::<Vec<_>>());
    }
}
