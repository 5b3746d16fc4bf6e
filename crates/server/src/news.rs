//! News of shots that change because files arrive, here or at another server on the same database.

use crate::wire;
use rocket::tokio::sync::broadcast::{Receiver, Sender};
use std::collections::VecDeque;
use std::sync::{Mutex, PoisonError};
use uuid::Uuid;

/// News that a slow page may be behind.
const BEHIND: usize = 64;

/// Revisions of which it is remembered that they were told: many more than arrive while they are looked for.
const TOLD: usize = 4096;

/// Tells pages of what arrives, each revision once.
pub struct News {
    pages: Sender<wire::News>,
    told: Mutex<VecDeque<(Uuid, i32)>>,
}

impl Default for News {
    fn default() -> Self {
        Self { pages: Sender::new(BEHIND), told: Mutex::default() }
    }
}

impl News {
    /// For a page that listens.
    pub fn subscribe(&self) -> Receiver<wire::News> {
        self.pages.subscribe()
    }

    /// Whether a page listens.
    pub fn is_heard(&self) -> bool {
        self.pages.receiver_count() > 0
    }

    /// Tells every page, unless it was told before.
    pub fn tell(&self, news: wire::News) {
        let mut told = self.told.lock().unwrap_or_else(PoisonError::into_inner);
        let one = (news.shot, news.revision);
        if told.contains(&one) {
            return;
        }
        if told.len() == TOLD {
            told.pop_front();
        }
        told.push_back(one);
        // An error means that nobody listens.
        let _ = self.pages.send(news);
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]
    use super::*;

    #[test]
    fn each_revision_is_told_once() {
        let (news, shot) = (News::default(), Uuid::from_u128(7));
        let mut page = news.subscribe();
        for revision in [2, 3, 2, 3, 4] {
            news.tell(wire::News { shot, revision, words: String::new() });
        }
        let heard: Vec<i32> = std::iter::from_fn(|| page.try_recv().ok().map(|n| n.revision)).collect();
        assert_eq!(heard, [2, 3, 4]);
        for revision in 0..2 * TOLD as i32 {
            news.tell(wire::News { shot, revision, words: String::new() });
        }
        assert_eq!(news.told.lock().unwrap().len(), TOLD);
    }
}
