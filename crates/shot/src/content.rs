//! Hashes of what decides pixels.

use jugata_core::{Scale, Window};
use serde::Serialize;

/// Raised when the engine itself gives other pixels for the same document.
const ENGINE_VERSION: u32 = 4;

/// Hash of what made a raster.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct ContentHash(pub(crate) [u8; 32]);

impl ContentHash {
    /// As hexadecimal digits.
    pub fn to_hex(self) -> String {
        blake3::Hash::from(self.0).to_hex().to_string()
    }

    /// The hash of this content and another.
    pub fn and(self, other: Self) -> Self {
        of(&("and", self.0, other.0))
    }

    /// The hash of this content on a window at a scale.
    pub fn at(self, window: Window, scale: Scale) -> Self {
        of(&("at", self.0, window, scale))
    }
}

/// The hash of anything that can be written down.
pub(crate) fn of(what: &impl Serialize) -> ContentHash {
    let mut hasher = blake3::Hasher::new();
    hasher.update(&ENGINE_VERSION.to_le_bytes());
    // Writing to a hasher cannot fail, and neither can turning plain numbers and names into JSON; were it
    // ever to, the hash would still be of all that was written before.
    let written = serde_json::to_writer(&mut hasher, what);
    debug_assert!(written.is_ok());
    ContentHash(hasher.finalize().into())
}
