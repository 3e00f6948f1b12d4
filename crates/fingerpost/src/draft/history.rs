//! Steps of the draft, and undoing them.

use super::{Draft, EditState, Group, Step};

impl Draft {
    pub(super) fn did(&mut self, step: Step) {
        self.done.push(step);
        self.undone.clear();
    }

    /// Switches an edit on or off; says whether that changed anything. `None` where there is none of
    /// that number.
    pub fn switch(&mut self, id: u32, on: bool) -> Option<bool> {
        let state = self.edit(id)?.state;
        let wanted = if on { EditState::On } else { EditState::Off };
        if state == wanted {
            return Some(false);
        }
        self.entry_mut(id)?.state = wanted;
        self.did(Step::Switched { id });
        Some(true)
    }

    /// Throws an edit away. `None` where there is none of that number.
    pub fn discard(&mut self, id: u32) -> Option<()> {
        let was = self.edit(id)?.state;
        self.entry_mut(id)?.state = EditState::Discarded;
        self.did(Step::Discarded { id, was });
        Some(())
    }

    /// Throws all edits away, which can be undone in one step; says how many there were.
    pub fn empty(&mut self) -> usize {
        let was: Vec<(u32, EditState)> = self.edits().map(|t| (t.id, t.state)).collect();
        for (id, _) in &was {
            if let Some(entry) = self.entry_mut(*id) {
                entry.state = EditState::Discarded;
            }
        }
        let count = was.len();
        if count > 0 {
            self.did(Step::Emptied { was });
        }
        count
    }

    /// Makes one step of the last ones, which added these changes.
    pub(crate) fn group(&mut self, name: &str, ids: &[u32]) {
        let Some(first) = ids.first().copied() else {
            return;
        };
        let is_one = |step: &Step| matches!(step, Step::Added { id } if ids.contains(id));
        while self.done.last().is_some_and(is_one) {
            self.done.pop();
        }
        for entry in self
            .edits
            .iter_mut()
            .filter(|entry| ids.contains(&entry.id))
        {
            entry.group = Some(Group {
                first,
                name: name.to_owned(),
            });
        }
        self.did(Step::Grouped {
            ids: ids.to_vec(),
            name: name.to_owned(),
        });
    }

    /// Undoes what was done last.
    pub fn undo(&mut self) -> Option<Step> {
        let step = self.done.pop()?;
        self.turn(&step, true);
        self.undone.push(step.clone());
        Some(step)
    }

    /// Does again what was undone last.
    pub fn redo(&mut self) -> Option<Step> {
        let step = self.undone.pop()?;
        self.turn(&step, false);
        self.done.push(step.clone());
        Some(step)
    }

    fn turn(&mut self, step: &Step, back: bool) {
        let mut set = |id: u32, state: EditState| {
            if let Some(entry) = self.edits.iter_mut().find(|t| t.id == id) {
                entry.state = state;
            }
        };
        let discarded = EditState::Discarded;
        match step {
            Step::Added { id } => set(*id, if back { discarded } else { EditState::On }),
            Step::Grouped { ids, .. } => {
                for id in ids {
                    set(*id, if back { discarded } else { EditState::On });
                }
            }
            Step::Discarded { id, was } => set(*id, if back { *was } else { discarded }),
            Step::Emptied { was } => {
                for (id, was) in was {
                    set(*id, if back { *was } else { discarded });
                }
            }
            Step::Retargeted {
                id,
                instead_of,
                was,
            } => {
                set(*id, if back { discarded } else { EditState::On });
                set(*instead_of, if back { *was } else { discarded });
            }
            Step::Switched { id } => {
                if let Some(entry) = self.entry_mut(*id) {
                    entry.state = match entry.state {
                        EditState::On => EditState::Off,
                        _ => EditState::On,
                    };
                }
            }
        }
    }
}
