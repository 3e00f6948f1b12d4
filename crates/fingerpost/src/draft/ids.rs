//! Sets of edits, by their numbers in the draft.

/// An edit, by its number in the draft.
pub(crate) type EditId = u32;

/// A set of edits: a bit each, so that a long draft keeps one set for every edit cheaply.
#[derive(Clone, Debug, Default)]
pub(crate) struct Ids {
    words: Vec<u64>,
}

impl Ids {
    pub fn contains(&self, id: EditId) -> bool {
        let word = self.words.get(id as usize / 64);
        word.is_some_and(|word| word & (1 << (id % 64)) != 0)
    }

    pub fn insert(&mut self, id: EditId) {
        let at = id as usize / 64;
        if self.words.len() <= at {
            self.words.resize(at + 1, 0);
        }
        if let Some(word) = self.words.get_mut(at) {
            *word |= 1 << (id % 64);
        }
    }

    pub fn remove(&mut self, id: EditId) {
        if let Some(word) = self.words.get_mut(id as usize / 64) {
            *word &= !(1 << (id % 64));
        }
    }

    /// The same set with one more.
    pub fn with(&self, id: EditId) -> Ids {
        let mut more = self.clone();
        more.insert(id);
        more
    }

    /// The numbers, ascending.
    pub fn iter(&self) -> impl Iterator<Item = EditId> {
        let words = self.words.iter().enumerate();
        words.flat_map(|(at, word)| {
            let base = at as u32 * 64;
            (0..64).filter_map(move |bit| (word & (1 << bit) != 0).then_some(base + bit))
        })
    }

    pub fn union(&self, other: &Ids) -> Ids {
        self.iter().chain(other.iter()).collect()
    }

    pub fn intersection(&self, other: &Ids) -> Ids {
        self.iter().filter(|id| other.contains(*id)).collect()
    }
}

impl FromIterator<EditId> for Ids {
    fn from_iter<I: IntoIterator<Item = EditId>>(ids: I) -> Self {
        let mut set = Ids::default();
        for id in ids {
            set.insert(id);
        }
        set
    }
}

impl PartialEq for Ids {
    fn eq(&self, other: &Ids) -> bool {
        self.iter().eq(other.iter())
    }
}

impl Eq for Ids {}
