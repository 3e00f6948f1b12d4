//! How the engine combines components: one after another, one of several, in any order, again and again.

use super::definition::{Definition, Multiplier};
use super::engine::{Engine, Seen, State};

impl Engine<'_> {
    /// The ends of all alternatives, the longest first, so that what follows sees the whole of it.
    pub fn one_of(
        &mut self,
        parts: &[Definition],
        from: State,
        limit: usize,
        depth: usize,
    ) -> Vec<State> {
        let mut ends = Vec::new();
        let mut seen = Seen::default();
        for part in parts {
            let found = self.ends(part, from, limit, depth);
            ends.extend(found.into_iter().filter(|end| seen.insert((end.at, 0))));
        }
        ends.sort_by_key(|end| std::cmp::Reverse(end.at));
        ends
    }

    /// One after another. A comma may be left out when what is before it in the sequence, or
    /// what follows it up to the next comma, is nothing (CSS Values 4 § 2.1).
    pub fn sequence(
        &mut self,
        parts: &[Definition],
        from: State,
        limit: usize,
        depth: usize,
    ) -> Vec<State> {
        let mut states = vec![(from, false)];
        for part in parts {
            let mut next: Vec<(State, bool)> = Vec::new();
            let mut seen = Seen::default();
            let mut push = |state: State, empty: bool| {
                if seen.insert((state.at, usize::from(empty))) {
                    next.push((state, empty));
                }
            };
            for (state, must_be_empty) in states {
                if *part == Definition::Mark(',') {
                    for end in self.ends(part, state, limit, depth) {
                        push(end, false);
                    }
                    if state.at == from.at {
                        push(state, false);
                    } else {
                        push(state, true);
                    }
                    continue;
                }
                for end in self.ends(part, state, limit, depth) {
                    if !must_be_empty || end.at == state.at {
                        push(end, must_be_empty);
                    }
                }
            }
            states = next;
            if states.is_empty() {
                return Vec::new();
            }
        }
        let mut seen = Seen::default();
        let ends = states.into_iter().map(|(state, _)| state);
        ends.filter(|end| seen.insert((end.at, 0))).collect()
    }

    /// `&&` and `||`: which parts have been taken is a set of bits.
    pub fn any_order(
        &mut self,
        parts: &[Definition],
        all: bool,
        from: State,
        limit: usize,
        depth: usize,
    ) -> Vec<State> {
        let everything = (1u32 << parts.len()) - 1;
        let mut seen = Seen::default();
        let mut open = vec![(from, 0u32)];
        let mut ends: Vec<State> = Vec::new();
        let mut ended = Seen::default();
        while let Some((state, taken)) = open.pop() {
            let done = if all { taken == everything } else { taken != 0 };
            // Of those at the same position the first is preferred.
            if done && ended.insert((state.at, 0)) {
                ends.push(state);
            }
            // Pushed in reverse, so that the first part is tried first.
            for (at, part) in parts.iter().enumerate().rev() {
                let bit = 1 << at;
                if taken & bit != 0 {
                    continue;
                }
                for end in self.ends(part, state, limit, depth) {
                    // In `||` a part that takes nothing is left out instead.
                    if !all && end.at == state.at {
                        continue;
                    }
                    if seen.insert((end.at, (taken | bit) as usize)) {
                        open.push((end, taken | bit));
                    }
                }
            }
        }
        ends.sort_by_key(|end| std::cmp::Reverse(end.at));
        ends
    }

    pub fn repeated(
        &mut self,
        part: &Definition,
        multiplier: Multiplier,
        from: State,
        limit: usize,
        depth: usize,
    ) -> Vec<State> {
        let mut ends = Vec::new();
        let mut reached = Seen::default();
        let mut frontier = vec![from];
        let mut count = 0;
        if multiplier.least == 0 {
            ends.push(from);
            reached.insert((from.at, 0));
        }
        while !frontier.is_empty() && multiplier.most.is_none_or(|most| count < most) {
            let mut next: Vec<State> = Vec::new();
            let mut met = Seen::default();
            for state in &frontier {
                let mut start = *state;
                if multiplier.commas && count > 0 {
                    match self.ends(&Definition::Mark(','), start, limit, depth).pop() {
                        Some(after) => start = after,
                        None => continue,
                    }
                }
                for end in self.ends(part, start, limit, depth) {
                    // Taking nothing again and again leads nowhere.
                    let further = end.at > state.at || count < multiplier.least;
                    if further && met.insert((end.at, 0)) {
                        next.push(end);
                    }
                }
            }
            count += 1;
            if count >= multiplier.least {
                ends.extend(next.iter().filter(|end| reached.insert((end.at, 0))));
            }
            frontier = next;
        }
        // As many as there are, first.
        ends.sort_by_key(|end| std::cmp::Reverse(end.at));
        ends
    }
}
