//! The coordinate map of steps that move the picture.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use crate::limit::united;
use jugata_core::geometry::chain::Chain;
use jugata_core::geometry::map_of::{MapOf, map_of, offsets_of};
use jugata_core::passes::convention::MapHolds;

/// Which way the map goes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum MapGoes {
    /// For each pixel after the steps the place that it comes from.
    #[default]
    AsTheSteps,
    /// For each pixel before the steps the place that it goes to: it undoes them.
    BackAgain,
}

/// Parameters of Map of moves.
#[parameters]
pub struct MovesMap {
    /// The first of the steps; none is the first of all.
    #[param(label = "From step", means = "step", group = "Steps")]
    #[ts(optional = nullable)]
    pub first: Option<u32>,
    /// The last of the steps; none is the last of all.
    #[param(label = "To step", means = "step", group = "Steps")]
    #[ts(optional = nullable)]
    pub last: Option<u32>,
    /// As the steps, or undoing them.
    #[param(label = "Goes", group = "Steps")]
    pub goes: MapGoes,
    /// What it holds: places, or offsets from each pixel to its place, right and down.
    #[param(label = "Holds", means = "choice-list", group = "Steps")]
    pub holds: MapHolds,
    /// Whether the map reaches as far beyond the frame as the picture does after the steps.
    #[param(label = "With overscan", default = true, group = "Steps")]
    pub overscan: bool,
}

impl Kind for MovesMap {
    fn about(&self) -> About {
        About {
            title: "Map of moves",
            about: "The ST map of steps that move the picture: of a lens, warps, places, all of them as one. Without any it moves nothing.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![Want::Moves(self.first, self.last)]
    }

    fn sentence(&self) -> String {
        let steps = match (self.first, self.last) {
            (None, None) => "all moves",
            (a, b) if a == b => "one move",
            _ => "some of the moves",
        };
        let holds = match self.holds {
            MapHolds::Places => String::new(),
            holds => format!(", as {}", holds.label()),
        };
        match self.goes {
            MapGoes::AsTheSteps => format!("Map of {steps}{holds}"),
            MapGoes::BackAgain => format!("Map that undoes {steps}{holds}"),
        }
    }
}

impl Extraction for MovesMap {
    fn gives(&self) -> Role {
        // Offsets would be read as places by whatever reads ST maps here; they are for others.
        match self.holds {
            MapHolds::Places => Role::StMap,
            _ => Role::Other,
        }
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let none = Chain::default();
        let chain = inputs.moves().unwrap_or(&none);
        let mut window = inputs.window;
        if self.overscan && self.goes == MapGoes::AsTheSteps && !window.is_empty() {
            let frame = inputs.frame;
            let within = frame.grown(frame.width.max(frame.height));
            window = united(window, inputs.scale.window(chain.extent(frame, within)));
        }
        let way = match self.goes {
            MapGoes::AsTheSteps => MapOf::Moves,
            MapGoes::BackAgain => MapOf::WayBack,
        };
        let on = (window, inputs.scale);
        Ok(match self.holds.px(inputs.frame) {
            Some(unit) => offsets_of(chain, way, unit, on, inputs.cancel)?,
            None => map_of(chain, way, inputs.frame, on, inputs.cancel)?,
        })
    }
}
