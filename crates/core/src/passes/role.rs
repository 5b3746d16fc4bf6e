//! What a pass means.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// The meaning of a pass, in canonical form (see the conventions in the crate documentation).
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, JsonSchema, TS,
)]
#[serde(rename_all = "snake_case")]
pub enum Role {
    /// The finished picture, RGB or RGBA.
    Beauty,
    /// Coverage alone.
    Alpha,
    /// Planar depth.
    Depth,
    /// Surface direction.
    Normal,
    /// Place of the surface in camera space.
    Position,
    /// Place of the surface before it was moved or bent, in its own space.
    Rest,
    /// Texture coordinates.
    Uv,
    /// Vectors from this frame to the next.
    Motion,
    /// Whole numbers, one per object.
    ObjectId,
    /// Ranked pairs of hashed ID and coverage (Cryptomatte specification 1.2.0).
    HashedId,
    /// Surface colour without light.
    Albedo,
    /// Light that comes back from within the surface, coloured by it; what is gloss is not in it.
    Diffuse,
    /// Grey, evenly lit surface.
    Clay,
    /// Shadow or ambient occlusion.
    Shadow,
    /// Elevation of a surface.
    Height,
    /// Coordinate map.
    StMap,
    /// Kept and shown, read by no step.
    Other,
}

impl Role {
    /// Every role, in the order in which a tray shows them.
    pub const ALL: [Self; 17] = [
        Self::Beauty,
        Self::Alpha,
        Self::Depth,
        Self::Normal,
        Self::Position,
        Self::Rest,
        Self::Uv,
        Self::Motion,
        Self::ObjectId,
        Self::HashedId,
        Self::Albedo,
        Self::Diffuse,
        Self::Clay,
        Self::Shadow,
        Self::Height,
        Self::StMap,
        Self::Other,
    ];

    /// The trade's word for it.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Beauty => "beauty",
            Self::Alpha => "alpha",
            Self::Depth => "depth",
            Self::Normal => "normals",
            Self::Position => "position",
            Self::Rest => "rest position",
            Self::Uv => "UV",
            Self::Motion => "motion",
            Self::ObjectId => "object ID",
            Self::HashedId => "hashed IDs",
            Self::Albedo => "albedo",
            Self::Diffuse => "diffuse light",
            Self::Clay => "clay",
            Self::Shadow => "shadow",
            Self::Height => "height",
            Self::StMap => "ST map",
            Self::Other => "other",
        }
    }

    /// Canonical number of planes; `None` where any number will do.
    pub const fn channels(self) -> Option<usize> {
        match self {
            Self::Beauty => Some(4),
            Self::Albedo | Self::Diffuse | Self::Normal | Self::Position | Self::Rest | Self::Clay => Some(3),
            Self::Uv | Self::Motion | Self::StMap => Some(2),
            Self::Alpha | Self::Depth | Self::ObjectId | Self::Shadow | Self::Height => Some(1),
            Self::HashedId | Self::Other => None,
        }
    }

    /// Whether values are light or coverage, which a proxy averages; all else is picked.
    pub const fn averages(self) -> bool {
        matches!(self, Self::Beauty | Self::Alpha | Self::Albedo | Self::Diffuse | Self::Clay | Self::Shadow)
    }

    /// The value that stands where there is no sample.
    pub const fn outside(self) -> f32 {
        match self {
            Self::Depth => f32::INFINITY,
            _ => 0.0,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn labels_differ() {
        let mut labels: Vec<_> = Role::ALL.iter().map(|r| r.label()).collect();
        labels.sort_unstable();
        labels.dedup();
        assert_eq!(labels.len(), Role::ALL.len());
    }
}
