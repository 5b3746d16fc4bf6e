//! Depth of other elements, with the own.

use super::{ExtractInputs, Extraction, takes};
use crate::error::ShotError;
use crate::limit::few;
use crate::steps::Reads;
use jugata_core::depth::nearest;
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of With other elements.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct ElementsDepth {
    /// The other elements, by number.
    #[schemars(extend("x-label" = "Elements", "x-meaning" = "elements", "x-group" = "Elements"))]
    pub elements: Vec<u32>,
    /// Whether the element's own depth counts as well, where it has one.
    #[schemars(extend("x-label" = "With its own", "x-group" = "Elements"))]
    pub own: bool,
}

impl Extraction for ElementsDepth {
    const TITLE: &'static str = "From other elements";
    const ABOUT: &'static str = "The nearest depth of chosen elements at each place: depths merged, or lent to an element without one.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Depth
    }

    fn reads(&self) -> Vec<Reads> {
        if self.own { vec![takes(Role::Depth)] } else { Vec::new() }
    }

    fn elements(&self) -> Vec<u32> {
        self.elements.clone()
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

    fn check(&self) -> Result<(), String> {
        few("elements", self.elements.len(), 64)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let own = if self.own { given.pass(Role::Depth) } else { None };
        let start = own.cloned().unwrap_or_else(|| Raster::filled(given.window, 1, f32::INFINITY));
        given.others.iter().try_fold(start, |z, other| Ok(nearest(&z, other, given.cancel)?))
    }
}
