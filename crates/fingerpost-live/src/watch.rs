//! Files that change on disk: another editor saved, the command changed the draft.

use std::path::Path;
use std::sync::{Arc, Weak};
use std::time::Duration;

use fingerpost::text::SitePath;
use notify::{EventKind, RecommendedWatcher, RecursiveMode, Watcher};
use tokio::sync::mpsc;

use crate::events::Event;
use crate::shared::Shared;

/// Editors write a file in several steps; what comes within this time is one change.
const SETTLE: Duration = Duration::from_millis(60);

/// The folder of the program's own files.
const OWN: &str = ".fingerpost";

/// Watches the site's folder. Without a watcher the desk works all the same, and says so once.
pub(crate) fn watch(shared: &Arc<Shared>) -> Option<RecommendedWatcher> {
    let root = shared.workspace().site.root().to_owned();
    let (send, receive) = mpsc::unbounded_channel();
    let base = root.clone();
    let told = move |event: notify::Result<notify::Event>| {
        let Ok(event) = event else { return };
        if matches!(event.kind, EventKind::Access(_)) {
            return;
        }
        for path in event.paths {
            if let Some(name) = name_of(&path, &base) {
                let _ = send.send(name);
            }
        }
    };
    let mut watcher = notify::recommended_watcher(told).ok()?;
    watcher.watch(&root, RecursiveMode::Recursive).ok()?;
    let shared = Arc::downgrade(shared);
    std::thread::spawn(move || follow(&shared, receive));
    Some(watcher)
}

/// The name in the site of a file that counts: `draft.json` of the program's own, no other hidden one.
fn name_of(path: &Path, root: &Path) -> Option<String> {
    let rest = path.strip_prefix(root).ok()?.to_str()?.replace('\\', "/");
    let hidden = rest.split('/').any(|part| part.starts_with('.'));
    match hidden {
        true if rest == format!("{OWN}/draft.json") => Some(String::new()),
        true => None,
        false => SitePath::new(&rest).ok().map(String::from),
    }
}

fn follow(shared: &Weak<Shared>, mut changed: mpsc::UnboundedReceiver<String>) {
    while let Some(first) = changed.blocking_recv() {
        let mut names = vec![first];
        loop {
            std::thread::sleep(SETTLE);
            let before = names.len();
            while let Ok(name) = changed.try_recv() {
                names.push(name);
            }
            if names.len() == before {
                break;
            }
        }
        let Some(shared) = shared.upgrade() else {
            return;
        };
        names.sort();
        names.dedup();
        names.retain(|name| !name.is_empty());
        let mut workspace = shared.workspace();
        let done = workspace.refresh(&names);
        let version = workspace.version();
        drop(workspace);
        match done {
            Ok(files) if files.is_empty() => {}
            Ok(files) => shared.events.send(Event::Changed {
                version,
                files,
                from_disk: true,
            }),
            Err(error) => shared.events.send(Event::Trouble {
                message: error.to_string(),
            }),
        }
    }
}
