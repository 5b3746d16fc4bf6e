//! Where the bytes of a media file come from.

use crate::document::{MediaId, Source};
use crate::error::ShotError;
use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::sync::Mutex;

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
pub struct Held(pub Vec<u8>);

impl Library for Held {
    fn bytes(&self, source: &Source) -> Result<Vec<u8>, ShotError> {
        if MediaId::of(&self.0) == source.media {
            Ok(self.0.clone())
        } else {
            Err(ShotError::NoMedia { file: source.file.clone() })
        }
    }
}

/// Files in folders, found by the name they came under and accepted by their hash; also by hash alone in
/// a media store's layout. For the command line.
#[derive(Debug)]
pub struct Folders {
    folders: Vec<PathBuf>,
    known: Mutex<HashMap<MediaId, PathBuf>>,
}

impl Folders {
    /// Looks into these folders, in order.
    pub fn new(folders: Vec<PathBuf>) -> Self {
        Self { folders, known: Mutex::default() }
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
        for path in self.candidates(source) {
            let Ok(bytes) = std::fs::read(&path) else { continue };
            if MediaId::of(&bytes) == source.media {
                if let Ok(mut known) = self.known.lock() {
                    known.insert(source.media.clone(), path);
                }
                return Ok(bytes);
            }
        }
        Err(ShotError::NoMedia { file: source.file.clone() })
    }
}
