//! The newest request of a viewer cancels its older ones.

use crate::error::Failure;
use jugata_core::Cancel;
use rocket::http::Status;
use std::collections::HashMap;
use std::sync::{Mutex, PoisonError};

/// Viewers remembered; a pane of a tab is one. Beyond that the memory is wiped, which only means that a
/// few stale pictures are computed to their end.
const MOST: usize = 1024;

/// Who waits for what.
#[derive(Default)]
pub struct Viewers(Mutex<HashMap<String, Cancel>>);

/// Characters of a viewer's name, at most.
const NAME: usize = 100;

impl Viewers {
    /// A token for a new request of `viewer`; the token of its previous request is pulled.
    ///
    /// # Errors
    /// A name that is longer than any page gives.
    pub fn newest(&self, viewer: Option<&str>) -> Result<Cancel, Failure> {
        let cancel = Cancel::new();
        let Some(viewer) = viewer else { return Ok(cancel) };
        if viewer.len() > NAME {
            let sentence = format!("The name of a viewer has at most {NAME} characters.");
            return Err(Failure::new(Status::UnprocessableEntity, sentence));
        }
        let mut waiting = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if waiting.len() >= MOST {
            waiting.clear();
        }
        if let Some(old) = waiting.insert(viewer.to_owned(), cancel.clone()) {
            old.cancel();
        }
        Ok(cancel)
    }

    /// Stops what some viewers wait for: they have left, or want nothing for now.
    pub fn leave<'v>(&self, viewers: impl Iterator<Item = &'v str>) {
        let mut waiting = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        for viewer in viewers {
            if let Some(old) = waiting.remove(viewer) {
                old.cancel();
            }
        }
    }
}

#[cfg(test)]
#[allow(clippy::unwrap_used)]
mod tests {
    use super::*;

    #[test]
    fn a_newer_request_pulls_the_older_token_of_the_same_viewer_only() {
        let viewers = Viewers::default();
        let newest = |name: &str| viewers.newest(Some(name)).unwrap();
        let (a, other) = (newest("a"), newest("b"));
        let newer = newest("a");
        assert!(a.is_cancelled() && !other.is_cancelled() && !newer.is_cancelled());
        assert!(!viewers.newest(None).unwrap().is_cancelled());
        viewers.leave(["a", "c"].into_iter());
        assert!(newer.is_cancelled() && !other.is_cancelled());
        assert!(viewers.newest(Some(&"x".repeat(101))).is_err());
    }
}
