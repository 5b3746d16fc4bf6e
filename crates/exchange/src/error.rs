//! What can go wrong with a file, each in one sentence.

use thiserror::Error;

/// Why a file was not read or written.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum ExchangeError {
    /// The bytes are not an image file that Jugata reads.
    #[error("This is not an image that Jugata reads; bring in OpenEXR, PNG, TIFF, Radiance HDR or JPEG.")]
    NotAnImage,
    /// The format allows it, Jugata does not read it.
    #[error("The file holds {what}, which Jugata does not read.")]
    Unsupported {
        /// What it holds.
        what: &'static str,
    },
    /// The file contradicts itself or breaks off.
    #[error("The file is damaged: {what}.")]
    Damaged {
        /// What is wrong with it.
        what: String,
    },
    /// More than the limits allow.
    #[error("The file is too large: {what} is {found}, and at most {most} is read.")]
    Limit {
        /// What there is too much of.
        what: &'static str,
        /// How much the file has.
        found: u64,
        /// How much is read.
        most: u64,
    },
    /// A picture that cannot be written.
    #[error("The picture cannot be written: {what}.")]
    Unwritable {
        /// Why.
        what: String,
    },
    /// Reading or writing failed below us.
    #[error("The file could not be read or written: {0}.")]
    Io(#[from] std::io::Error),
}
