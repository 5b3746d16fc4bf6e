//! The newest request of a viewer cancels its older ones.

use jugata_core::Cancel;
use std::collections::HashMap;
use std::sync::Mutex;

/// Viewers remembered; a pane of a tab is one. Beyond that the memory is wiped, which only means that a
/// few stale pictures are computed to their end.
const MOST: usize = 1024;

/// Who waits for what.
#[derive(Default)]
pub struct Viewers(Mutex<HashMap<String, Cancel>>);

impl Viewers {
    /// A token for a new request of `viewer`; the token of its previous request is pulled.
    pub fn newest(&self, viewer: Option<&str>) -> Cancel {
        let cancel = Cancel::new();
        let (Some(viewer), Ok(mut waiting)) = (viewer, self.0.lock()) else { return cancel };
        if waiting.len() >= MOST {
            waiting.clear();
        }
        if let Some(old) = waiting.insert(viewer.to_owned(), cancel.clone()) {
            old.cancel();
        }
        cancel
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_newer_request_pulls_the_older_token_of_the_same_viewer_only() {
        let viewers = Viewers::default();
        let (a, other) = (viewers.newest(Some("a")), viewers.newest(Some("b")));
        let newer = viewers.newest(Some("a"));
        assert!(a.is_cancelled() && !other.is_cancelled() && !newer.is_cancelled());
        assert!(!viewers.newest(None).is_cancelled());
    }
}
