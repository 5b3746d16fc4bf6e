//! Bounds on what a file may ask for.

use crate::ExchangeError;
use crate::error::Damage;

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
    /// Decoded bytes per byte of file that renders are packed to at most, beyond `small_bytes`.
    pub packing: u64,
    /// Decoded bytes that any file may have.
    pub small_bytes: u64,
}

impl Default for Limits {
    /// Room for an 8K render with forty channels, and no more than half the memory of a small machine.
    fn default() -> Self {
        Self {
            file_bytes: 4 << 30,
            side: 65_536,
            channels: 1024,
            decoded_bytes: 6 << 30,
            expansion: 4096,
            packing: 64,
            small_bytes: 1 << 30,
        }
    }
}

impl Limits {
    /// Checks the size that a header promises before anything is allocated.
    pub(crate) fn hold_picture(
        &self,
        size: (u32, u32),
        channels: u64,
        file_bytes: usize,
    ) -> Result<(), ExchangeError> {
        let (w, h) = (u64::from(size.0), u64::from(size.1));
        if w == 0 || h == 0 {
            return Err(Damage::NoPixels.into());
        }
        Self::hold("its longest side", w.max(h), self.side)?;
        Self::hold("the number of channels", channels, self.channels)?;
        let decoded = w.saturating_mul(h).saturating_mul(channels).saturating_mul(4);
        self.hold_decoded(decoded, file_bytes as u64)
    }

    /// Checks the size of all samples as 32-bit floats against that of the file: what claims far more than any packing
    /// gives is refused as damaged, and what is small may not fill the memory however well it is packed.
    pub(crate) fn hold_decoded(&self, decoded: u64, file_bytes: u64) -> Result<(), ExchangeError> {
        if decoded / self.expansion > file_bytes {
            return Err(Damage::Hollow.into());
        }
        let most = file_bytes.saturating_mul(self.packing).max(self.small_bytes).min(self.decoded_bytes);
        Self::hold("its decoded size in bytes", decoded, most)
    }

    /// `Err` if `found` is above `most`.
    pub(crate) fn hold(what: &'static str, found: u64, most: u64) -> Result<(), ExchangeError> {
        if found > most { Err(ExchangeError::Limit { what, found, most }) } else { Ok(()) }
    }
}
