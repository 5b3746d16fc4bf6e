//! Bounds on what a file may ask for.

use crate::ExchangeError;

/// Bounds, checked before anything is allocated.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// Bytes of a file.
    pub file_bytes: u64,
    /// Longest side of a data or display window, px.
    pub side: u64,
    /// Channels in all parts together.
    pub channels: u64,
    /// Bytes of all samples once decoded to 32-bit float.
    pub decoded_bytes: u64,
    /// Decoded bytes per byte of file: ZIP packs a constant picture about a thousandfold, and what
    /// claims far more is an attack on memory.
    pub expansion: u64,
}

impl Default for Limits {
    /// Room for an 8K render with forty channels, and no more than half the memory of a small machine.
    fn default() -> Self {
        Self { file_bytes: 4 << 30, side: 65_536, channels: 1024, decoded_bytes: 6 << 30, expansion: 4096 }
    }
}

impl Limits {
    /// `Err` if `found` is above `most`.
    pub(crate) fn hold(what: &'static str, found: u64, most: u64) -> Result<(), ExchangeError> {
        if found > most { Err(ExchangeError::Limit { what, found, most }) } else { Ok(()) }
    }
}
