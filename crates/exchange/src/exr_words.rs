//! What the OpenEXR crate says, in words of ours; text of a header.

use crate::error::{Damage, ExchangeError};
use exr::error::Error as ExrError;
use exr::meta::attribute::Text;

/// Why a file is not read, in a sentence for people.
pub(crate) fn explain(error: ExrError) -> ExchangeError {
    match error {
        ExrError::NotSupported(what) if what.contains("deep") => {
            ExchangeError::Unsupported { what: "deep data" }
        }
        ExrError::NotSupported(what) if what.contains("compression") => {
            ExchangeError::Unsupported { what: "a compression that is not known here" }
        }
        ExrError::NotSupported(_) => ExchangeError::Unsupported { what: "a rare variant of the format" },
        ExrError::Invalid(what) if what.contains("reference to missing bytes") => {
            ExchangeError::damaged(Damage::CutOff, what)
        }
        ExrError::Invalid(what) if what.contains("promises more") => Damage::Hollow.into(),
        ExrError::Invalid(what) => ExchangeError::damaged(Damage::Header, what),
        ExrError::Io(e) if e.kind() == std::io::ErrorKind::UnexpectedEof => Damage::CutOff.into(),
        ExrError::Io(e) => ExchangeError::damaged(Damage::Garbled, e),
        ExrError::Aborted => Damage::Garbled.into(),
    }
}

/// Text of a header. The crate's `Display` reads bytes as Latin-1; files in use hold UTF-8.
pub(crate) fn text(t: &Text) -> String {
    String::from_utf8_lossy(t.as_slice()).into_owned()
}
