//! From one element to others: up, down and beside, in the tree of nodes and in the flat tree (CSS Scoping 1 § 3.4).

use super::{Document, ElementId, NodeId, ShadowRoot};

impl Document {
    /// The parent, when it is an element.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<ul><li>Boats</ul>"));
    /// let li = *document.elements().last().unwrap();
    /// let ul = document.parent_element(li).unwrap();
    /// assert!(document.element(ul).is_html("ul"));
    /// ```
    pub fn parent_element(&self, id: impl Into<NodeId>) -> Option<ElementId> {
        self.as_element(self.node(id).parent?)
    }

    /// The parent element, or the host where the parent is a shadow root.
    pub fn parent_or_host(&self, id: impl Into<NodeId>) -> Option<ElementId> {
        let parent = self.node(id).parent?;
        self.as_element(parent).or_else(|| self.host_of(parent))
    }

    /// The element and those above it, from itself to the root element, out of shadow trees to
    /// their hosts.
    pub fn ancestors_and_self(&self, id: ElementId) -> impl Iterator<Item = ElementId> {
        std::iter::successors(Some(id), |at| self.parent_or_host(*at))
    }

    /// The way from the root element down to and including `id`.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<ul><li>Boats</ul>"));
    /// let li = *document.elements().last().unwrap();
    /// let names: Vec<_> = document.trail(li).iter().map(|e| document.element(*e).name.to_string()).collect();
    /// assert_eq!(names, ["html", "body", "ul", "li"]);
    /// ```
    pub fn trail(&self, id: ElementId) -> Vec<ElementId> {
        let mut trail: Vec<_> = self.ancestors_and_self(id).collect();
        trail.reverse();
        trail
    }

    /// The shadow trees that the markup declares, in document order of their hosts.
    pub fn shadow_roots(&self) -> &[ShadowRoot] {
        &self.shadow_roots
    }

    /// The host of a shadow root.
    pub fn host_of(&self, root: NodeId) -> Option<ElementId> {
        let found = self.shadow_roots.iter().find(|s| s.root == root)?;
        Some(found.host)
    }

    /// The root of the shadow tree that a node is in.
    pub fn shadow_tree_of(&self, id: impl Into<NodeId>) -> Option<NodeId> {
        if self.shadow_roots.is_empty() {
            return None;
        }
        let top = std::iter::successors(Some(id.into()), |at| self.node(*at).parent).last()?;
        self.host_of(top).map(|_| top)
    }

    /// How many shadow trees a node is in, one inside the other.
    pub fn shadow_depth(&self, id: impl Into<NodeId>) -> u32 {
        let inner = |id: NodeId| self.host_of(self.shadow_tree_of(id)?).map(NodeId::from);
        std::iter::successors(inner(id.into()), |at| inner(*at)).count() as u32
    }

    /// The slot that a child of a shadow host goes to (DOM § 4.2.2.3).
    pub fn assigned_slot(&self, id: ElementId) -> Option<ElementId> {
        if self.shadow_roots.is_empty() {
            return None;
        }
        let root = self.element(self.parent_element(id)?).shadow_root?;
        let name = |id: ElementId, attribute| self.element(id).attribute(attribute);
        let wanted = name(id, "slot").unwrap_or("");
        self.descendant_elements(root)
            .filter(|at| self.element(*at).is_html("slot"))
            .find(|slot| name(*slot, "name").unwrap_or("") == wanted)
    }

    /// The parent in the flat tree, from which an element inherits (Scoping 1 § 3.4). What is in no
    /// slot has its own parent here.
    pub fn flat_parent(&self, id: ElementId) -> Option<ElementId> {
        self.assigned_slot(id).or_else(|| self.parent_or_host(id))
    }

    /// Whether an element is in the flat tree at all: a child of a shadow host that no slot takes
    /// is not, nor is what a slot would show were it empty.
    pub fn is_in_flat_tree(&self, id: ElementId) -> bool {
        if self.shadow_roots.is_empty() {
            return true;
        }
        std::iter::successors(Some(id), |at| self.flat_parent(*at)).all(|at| {
            let Some(parent) = self.parent_element(at) else {
                return true;
            };
            let above = self.element(parent);
            if above.shadow_root.is_some() {
                return self.assigned_slot(at).is_some();
            }
            !(above.is_html("slot") && self.is_slot_taken(parent))
        })
    }

    fn is_slot_taken(&self, slot: ElementId) -> bool {
        let Some(host) = self
            .shadow_tree_of(slot)
            .and_then(|root| self.host_of(root))
        else {
            return false;
        };
        // Text goes to the first slot without a name.
        let unnamed = |slot: &ElementId| {
            let element = self.element(*slot);
            element.is_html("slot") && element.attribute("name").unwrap_or("").is_empty()
        };
        let tree = self.shadow_tree_of(slot);
        let of_text = tree.and_then(|root| self.descendant_elements(root).find(unnamed));
        self.children(host)
            .any(|child| match self.as_element(child) {
                Some(child) => self.assigned_slot(child) == Some(slot),
                None => self.text_of(child).is_some() && of_text == Some(slot),
            })
    }

    /// The way from the root element down to and including `id` in the flat tree.
    pub fn flat_trail(&self, id: ElementId) -> Vec<ElementId> {
        let mut trail: Vec<_> =
            std::iter::successors(Some(id), |at| self.flat_parent(*at)).collect();
        trail.reverse();
        trail
    }

    /// The children of any kind.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<p>Boats <b>daily</b></p>"));
    /// let b = *document.elements().last().unwrap();
    /// let p = document.parent_element(b).unwrap();
    /// assert_eq!(document.children(p).count(), 2); // a text and an element
    /// ```
    pub fn children(&self, id: impl Into<NodeId>) -> impl Iterator<Item = NodeId> {
        std::iter::successors(self.node(id).first_child, |at| self.node(*at).next)
    }

    /// The children that are elements.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<ul><li>Boats<li>Fares</ul>"));
    /// let li = *document.elements().last().unwrap();
    /// let ul = document.parent_element(li).unwrap();
    /// assert_eq!(document.child_elements(ul).count(), 2);
    /// ```
    pub fn child_elements(&self, id: impl Into<NodeId>) -> impl Iterator<Item = ElementId> {
        self.children(id).filter_map(|c| self.as_element(c))
    }

    /// The element before this one among its siblings.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<ul><li>Boats<li>Fares</ul>"));
    /// let fares = *document.elements().last().unwrap();
    /// let boats = document.previous_element(fares).unwrap();
    /// assert_eq!(document.folded_text(boats, 20), "Boats");
    /// ```
    pub fn previous_element(&self, id: ElementId) -> Option<ElementId> {
        std::iter::successors(self.node(id).previous, |at| self.node(*at).previous)
            .find_map(|at| self.as_element(at))
    }

    /// The element after this one among its siblings.
    pub fn next_element(&self, id: ElementId) -> Option<ElementId> {
        std::iter::successors(self.node(id).next, |at| self.node(*at).next)
            .find_map(|at| self.as_element(at))
    }

    /// The elements below `id`, in document order.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<ul><li><b>Boats</b></ul>"));
    /// let body = document.elements()[2];
    /// assert_eq!(document.descendant_elements(body).count(), 3);
    /// ```
    pub fn descendant_elements(&self, id: impl Into<NodeId>) -> impl Iterator<Item = ElementId> {
        self.descendants(id).filter_map(|n| self.as_element(n))
    }

    /// The nodes below `id`, in document order.
    pub fn descendants(&self, id: impl Into<NodeId>) -> impl Iterator<Item = NodeId> {
        let id = id.into();
        std::iter::successors(self.following(id, id), move |at| self.following(*at, id))
    }

    /// The next node in document order that is below `top`.
    pub(super) fn following(&self, at: NodeId, top: NodeId) -> Option<NodeId> {
        if let Some(child) = self.node(at).first_child {
            return Some(child);
        }
        let mut at = at;
        while at != top {
            if let Some(next) = self.node(at).next {
                return Some(next);
            }
            at = self.node(at).parent?;
        }
        None
    }
}
