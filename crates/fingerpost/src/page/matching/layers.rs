//! The cascade layers of a page, and the order in which they count (Cascading 5 § 6.4).

use crate::cascade::{LayerOrder, Origin};
use crate::markup::ElementId;
use std::collections::HashMap;
use std::sync::Arc;

/// An origin and a tree, by its host.
pub(super) type Whose = (Origin, Option<ElementId>);

/// The layers in order of first appearance.
#[derive(Default)]
pub(super) struct Layers {
    nodes: Vec<LayerNode>,
    by_name: HashMap<(Whose, Option<usize>, String), usize>,
}

struct LayerNode {
    name: Arc<str>,
    parent: Option<usize>,
}

impl Layers {
    /// The layer of a dotted name inside another; an empty name is a new anonymous layer.
    pub(super) fn enter(&mut self, whose: Whose, outer: Option<usize>, name: &str) -> usize {
        if name.is_empty() {
            return self.add(outer, "(anonymous)");
        }
        let mut at = outer;
        for part in name.split('.') {
            let key = (whose, at, part.trim().to_owned());
            at = Some(match self.by_name.get(&key) {
                Some(known) => *known,
                None => {
                    let new = self.add(at, part.trim());
                    self.by_name.insert(key, new);
                    new
                }
            });
        }
        at.expect("a name has at least one part")
    }

    /// The full name of a layer.
    pub(super) fn name(&self, place: usize) -> &Arc<str> {
        &self.nodes[place].name
    }

    fn add(&mut self, parent: Option<usize>, name: &str) -> usize {
        let full = match parent {
            Some(parent) => format!("{}.{name}", self.nodes[parent].name),
            None => name.to_owned(),
        };
        self.nodes.push(LayerNode {
            name: full.into(),
            parent,
        });
        self.nodes.len() - 1
    }

    /// § 6.4.4: layers in order of first appearance, what is directly in a layer after the layers
    /// inside it.
    pub(super) fn orders(&self) -> Vec<LayerOrder> {
        let mut children: HashMap<Option<usize>, Vec<usize>> = HashMap::new();
        for (at, node) in self.nodes.iter().enumerate() {
            children.entry(node.parent).or_default().push(at);
        }
        let mut orders = vec![LayerOrder(0); self.nodes.len()];
        let mut next = 0;
        // An explicit stack: a layer's name may have any number of dots.
        let mut open = vec![(None, 0)];
        while let Some((node, child)) = open.pop() {
            let below = children.get(&node).map_or(&[][..], Vec::as_slice);
            if let Some(inner) = below.get(child) {
                open.push((node, child + 1));
                open.push((Some(*inner), 0));
            } else if let Some(node) = node {
                orders[node] = LayerOrder(next);
                next += 1;
            }
        }
        orders
    }
}
