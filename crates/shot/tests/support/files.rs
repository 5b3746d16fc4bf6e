//! Files in memory, found by their hashes.

use jugata_shot::ShotError;
use jugata_shot::document::{MediaId, Source};
use jugata_shot::media::Library;

/// All files that a test has.
pub struct Files(pub Vec<Vec<u8>>);

impl Library for Files {
    fn bytes(&self, source: &Source) -> Result<Vec<u8>, ShotError> {
        let found = self.0.iter().find(|b| MediaId::of(b) == source.media);
        found.cloned().ok_or_else(|| ShotError::NoMedia { file: source.file.clone() })
    }
}
