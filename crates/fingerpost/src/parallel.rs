//! Work on several cores where the crate is built with the feature `parallel`, and in order where it
//! is not. The answers are the same.

#[cfg(feature = "parallel")]
mod cores {
    use rayon::prelude::*;

    pub(crate) fn threads() -> usize {
        rayon::current_num_threads()
    }

    pub(crate) fn join<A: Send, B: Send>(
        one: impl FnOnce() -> A + Send,
        other: impl FnOnce() -> B + Send,
    ) -> (A, B) {
        rayon::join(one, other)
    }

    pub(crate) fn map<T: Send, R: Send>(
        items: Vec<T>,
        of: impl Fn(T) -> R + Sync + Send,
    ) -> Vec<R> {
        items.into_par_iter().map(of).collect()
    }

    pub(crate) fn map_with<T: Send, S, R: Send>(
        items: Vec<T>,
        start: impl Fn() -> S + Sync + Send,
        of: impl Fn(&mut S, T) -> R + Sync + Send,
    ) -> Vec<R> {
        items.into_par_iter().map_init(start, of).collect()
    }
}

#[cfg(not(feature = "parallel"))]
mod cores {
    pub(crate) fn threads() -> usize {
        1
    }

    pub(crate) fn join<A, B>(one: impl FnOnce() -> A, other: impl FnOnce() -> B) -> (A, B) {
        (one(), other())
    }

    pub(crate) fn map<T, R>(items: Vec<T>, of: impl Fn(T) -> R) -> Vec<R> {
        items.into_iter().map(of).collect()
    }

    pub(crate) fn map_with<T, S, R>(
        items: Vec<T>,
        start: impl Fn() -> S,
        of: impl Fn(&mut S, T) -> R,
    ) -> Vec<R> {
        let mut kept = start();
        items.into_iter().map(|item| of(&mut kept, item)).collect()
    }
}

/// Two pieces of work, neither of which needs the other.
pub(crate) use cores::join;
/// A function of each item, in the order of the items.
pub(crate) use cores::map;
/// The same with something that each thread makes once and uses for many items.
pub(crate) use cores::map_with;
/// How many threads there are.
pub(crate) use cores::threads;
