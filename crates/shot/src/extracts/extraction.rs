//! What a kind of extraction can do.

use crate::error::ShotError;
use crate::inputs::Inputs;
use crate::kinds::Kind;
use jugata_core::{Raster, Role};

/// How a kind of extraction makes its pass.
pub trait Extraction: Kind {
    /// What the pass means.
    fn gives(&self) -> Role;
    /// Whether each sample is a mean over its pixel, as a picture's are, and not what is seen at its middle.
    fn is_mean(&self) -> bool {
        false
    }
    /// Whether it is made by itself where a change needs what it gives and there is none: it needs nothing that has to be set.
    fn by_itself(&self) -> bool {
        false
    }
    /// The pass, canonical, on the inputs' window.
    ///
    /// # Errors
    /// Missing inputs, shapes, cancellation.
    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError>;
}
