//! Depth of other elements, with the own.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::depth::nearest;

/// Parameters of With other elements.
#[parameters]
pub struct ElementsDepth {
    /// The other elements, by number.
    #[param(label = "Elements", item = "element", most = 64, means = "elements", group = "Elements")]
    pub elements: Vec<u32>,
    /// Whether the element's own depth counts as well, where it has one.
    #[param(label = "With its own", group = "Elements")]
    pub own: bool,
}

impl Kind for ElementsDepth {
    fn about(&self) -> About {
        About {
            title: "From other elements",
            about: "The nearest depth of chosen elements at each place: depths merged, or lent to an element without one.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let own = self.own.then(|| takes(Role::Depth));
        own.into_iter().chain(self.elements.iter().copied().map(Want::DepthOf)).collect()
    }

    fn sentence(&self) -> String {
        match (self.elements.len(), self.own) {
            (0, _) => "Depth of other elements: none chosen".into(),
            (1, false) => "Depth of another element".into(),
            (n, false) => format!("Nearest depth of {n} other elements"),
            (1, true) => "Nearest depth with another element".into(),
            (n, true) => format!("Nearest depth with {n} other elements"),
        }
    }
}

impl Extraction for ElementsDepth {
    fn gives(&self) -> Role {
        Role::Depth
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let own = if self.own { inputs.pass(Role::Depth) } else { None };
        let start = own.cloned().unwrap_or_else(|| Raster::filled(inputs.window, 1, f32::INFINITY));
        inputs.depths().try_fold(start, |z, other| Ok(nearest(&z, other, inputs.cancel)?))
    }
}
