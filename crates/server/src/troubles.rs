//! What keeps files of the drop folder from coming in, and will pass.

use jugata_store::DeliveredFile;
use rocket::tokio::time::{Duration, Instant};
use std::collections::BTreeMap;

/// Pauses before a file that could not be kept is tried again: the first, and the longest.
const PAUSES: [Duration; 2] = [Duration::from_secs(1), Duration::from_secs(60)];

/// What keeps files from coming in, and will pass.
#[derive(Default)]
pub struct Troubles {
    /// By file.
    pub(crate) files: BTreeMap<(String, String), Trouble>,
    /// Of the whole folder: the folder or the database.
    pub(crate) all: Option<String>,
}

/// What is wrong with one file.
pub(crate) struct Trouble {
    sentence: String,
    pause: Duration,
    again: Instant,
}

impl Troubles {
    /// Whether a file should be left alone for now.
    pub(crate) fn rests(&self, key: &(String, String)) -> bool {
        self.files.get(key).is_some_and(|t| Instant::now() < t.again)
    }

    pub(crate) fn failed(&mut self, key: (String, String), sentence: String) {
        let pause = self.files.get(&key).map_or(PAUSES[0], |t| (t.pause * 2).min(PAUSES[1]));
        tracing::warn!("{}/{}: {sentence} Tried again in {} s.", key.0, key.1, pause.as_secs());
        self.files.insert(key, Trouble { sentence, pause, again: Instant::now() + pause });
    }

    pub(crate) fn ended(&mut self, files: &[DeliveredFile]) {
        files.iter().for_each(|f| drop(self.files.remove(&key(f))));
    }

    /// In sentences.
    pub(crate) fn told(&self) -> impl Iterator<Item = String> {
        let of_file = |((folder, name), t): (&(String, String), &Trouble)| {
            format!("{}: {} It is tried again.", path_of(folder, name), t.sentence)
        };
        self.all.iter().cloned().chain(self.files.iter().map(of_file))
    }
}

/// A file by its folder and its name.
pub(crate) fn key(f: &DeliveredFile) -> (String, String) {
    (f.folder.clone(), f.name.clone())
}

/// Where a file lies in the drop folder.
pub(crate) fn path_of(folder: &str, name: &str) -> String {
    if folder.is_empty() { name.to_owned() } else { format!("{folder}/{name}") }
}
