//! Files in memory, found by their hashes.
#![allow(clippy::unwrap_used)]

use jugata_core::Raster;
use jugata_exchange::exr_write::{About, Depth, NamedLayer, Packing, write_with};
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

/// An RGBA picture as a file; packing it would take longer than all that is done with it.
pub fn picture_file(picture: &Raster) -> Vec<u8> {
    let channels = &["R", "G", "B", "A"][..];
    let layer = NamedLayer { name: "", channels, raster: picture, depth: Depth::Float };
    write_with(&[layer], picture.window(), &About { packing: Packing::Plain, ..About::default() }).unwrap()
}
