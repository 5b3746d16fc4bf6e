//! Where the bytes of a media file come from.

use crate::document::{MediaId, Source};
use crate::error::ShotError;
use std::collections::{BTreeSet, HashMap};
use std::path::{Path, PathBuf};
use std::sync::Mutex;

impl<L: Library + ?Sized> Library for std::sync::Arc<L> {
    fn bytes(&self, source: &Source) -> Result<Vec<u8>, ShotError> {
        self.as_ref().bytes(source)
    }
}

/// A place that holds media files by their hash.
pub trait Library: Send + Sync {
    /// All bytes of a file.
    ///
    /// # Errors
    /// [`ShotError::NoMedia`] if it is not there, or is not what its hash says.
    fn bytes(&self, source: &Source) -> Result<Vec<u8>, ShotError>;
}

/// One file that is in memory already.
#[derive(Debug)]
pub struct InMemory(pub Vec<u8>);

impl Library for InMemory {
    fn bytes(&self, source: &Source) -> Result<Vec<u8>, ShotError> {
        if MediaId::of(&self.0) == source.media {
            Ok(self.0.clone())
        } else {
            Err(ShotError::NoMedia { file: source.file.clone() })
        }
    }
}

/// Files in folders, found by the name they came under or by their hash in a media store's layout. One of that name
/// whose hash is another is used where there is no better, and told. For the command line.
#[derive(Debug)]
pub struct Folders {
    folders: Vec<PathBuf>,
    known: Mutex<HashMap<MediaId, PathBuf>>,
    other: Mutex<BTreeSet<String>>,
}

impl Folders {
    /// Looks into these folders, in order.
    pub fn new(folders: Vec<PathBuf>) -> Self {
        Self { folders, known: Mutex::default(), other: Mutex::default() }
    }

    /// Names of files that were found by name and hold something else than the shot was made with.
    pub fn differing(&self) -> Vec<String> {
        self.other.lock().map(|o| o.iter().cloned().collect()).unwrap_or_default()
    }

    fn candidates(&self, source: &Source) -> Vec<PathBuf> {
        let digits = source.media.as_str();
        // Only the last component: a shot file from elsewhere must not reach into other folders.
        let name = Path::new(&source.file).file_name().map(PathBuf::from).unwrap_or_default();
        let known = self.known.lock().map(|k| k.get(&source.media).cloned()).unwrap_or_default();
        let in_folders = self.folders.iter().flat_map(|f| [f.join(&name), f.join(media_path(digits))]);
        known.into_iter().chain(in_folders).collect()
    }
}

/// Path of a file inside a media store, by the digits of its hash.
pub fn media_path(digits: &str) -> String {
    format!("{}/{}", digits.get(..2).unwrap_or("__"), digits)
}

impl Library for Folders {
    fn bytes(&self, source: &Source) -> Result<Vec<u8>, ShotError> {
        let mut other = None;
        for path in self.candidates(source) {
            let Ok(bytes) = std::fs::read(&path) else { continue };
            if MediaId::of(&bytes) == source.media {
                if let Ok(mut known) = self.known.lock() {
                    known.insert(source.media.clone(), path);
                }
                return Ok(bytes);
            }
            other.get_or_insert(bytes);
        }
        // A file of that name which was made anew since: it is used, and told.
        if let Some(bytes) = other {
            if let Ok(mut names) = self.other.lock() {
                names.insert(source.file.clone());
            }
            return Ok(bytes);
        }
        Err(ShotError::NoMedia { file: source.file.clone() })
    }
}
