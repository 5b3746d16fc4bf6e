//! A finding: what is wrong with a pass, how sure, where, and what would put it right.

use super::evidence::Evidence;
use crate::passes::convention::Convention;
use crate::passes::repair::Repair;
use crate::{Camera, Raster};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use ts_rs::TS;

/// What can be wrong with a pass.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, JsonSchema, TS,
)]
#[serde(rename_all = "snake_case")]
pub enum FindingKind {
    /// Rows or samples are missing, or are no numbers.
    NotFinite,
    /// Too few levels for what it is used for.
    TooFewLevels,
    /// Values between two surfaces at edges.
    Antialiased,
    /// Depth runs the other way, or is coded.
    DepthDirection,
    /// Depth ends at a distance.
    DepthClipped,
    /// Depth along the ray.
    AlongRay,
    /// Normals stored as 0..1.
    NormalsCoded,
    /// Normals of other lengths than 1.
    NormalsLength,
    /// Normals on other axes.
    NormalsAxes,
    /// Normals in world space.
    WorldSpace,
    /// UV upside down or mirrored.
    UvFlipped,
    /// UV outside 0..1.
    UvRange,
    /// Motion of another size or sign.
    MotionScale,
    /// Straight alpha taken for premultiplied, or the other way round.
    Alpha,
    /// A curve on data.
    ColourManaged,
    /// Another size or place than the picture, or upside down.
    Disagrees,
    /// Stored in a lossy file.
    Lossy,
    /// The camera that a pass was taken with, or one that does not fit it.
    Camera,
    /// Data multiplied by alpha.
    Multiplied,
    /// Two passes that say different things of the same surface.
    Contradicts,
    /// The picture was exposed while things moved.
    Exposed,
}

impl FindingKind {
    /// Title for people.
    pub const fn label(self) -> &'static str {
        match self {
            Self::NotFinite => "samples missing",
            Self::TooFewLevels => "too few levels",
            Self::Antialiased => "antialiased",
            Self::DepthDirection => "direction of depth",
            Self::DepthClipped => "clipped",
            Self::AlongRay => "along the ray",
            Self::NormalsCoded => "coded 0..1",
            Self::NormalsLength => "not unit length",
            Self::NormalsAxes => "axes",
            Self::WorldSpace => "world space",
            Self::UvFlipped => "flipped",
            Self::UvRange => "outside 0..1",
            Self::MotionScale => "scale of motion",
            Self::Alpha => "alpha state",
            Self::ColourManaged => "colour managed",
            Self::Disagrees => "does not agree",
            Self::Lossy => "lossy file",
            Self::Camera => "camera",
            Self::Multiplied => "multiplied by alpha",
            Self::Contradicts => "contradicts another pass",
            Self::Exposed => "motion blur already",
        }
    }
}

/// What would put a finding right.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Remedy {
    /// The pass is read by this convention.
    Convention {
        /// The whole convention after it.
        convention: Convention,
    },
    /// The pass is repaired.
    Repair {
        /// How.
        repair: Repair,
    },
    /// The element takes a camera that was solved, and the pass is read by this convention with it.
    Camera {
        /// The camera.
        camera: Camera,
        /// The whole convention of the pass.
        convention: Convention,
    },
    /// Nobody can tell from the passes: a near place and a far one have to be pointed at.
    PointNearAndFar,
}

/// A finding.
#[derive(Clone, Debug)]
pub struct Finding {
    /// Number of the pass.
    pub pass: u32,
    /// What is wrong.
    pub kind: FindingKind,
    /// How sure, 0..1.
    pub confidence: f32,
    /// What, in a sentence, with the evidence.
    pub what: String,
    /// What it costs, in its own unit.
    pub cost: Option<String>,
    /// What the remedy's button says, and what it does.
    pub remedy: Option<(String, Remedy)>,
    /// Where: one plane over the pass's window, 1 = here. None where it is everywhere.
    pub place: Option<Arc<Raster>>,
}

impl Finding {
    pub(super) fn new(pass: &Evidence, kind: FindingKind, confidence: f32, what: impl Into<String>) -> Self {
        Self {
            pass: pass.id,
            kind,
            confidence: confidence.clamp(0.0, 1.0),
            what: what.into(),
            cost: None,
            remedy: None,
            place: None,
        }
    }

    pub(super) fn costs(mut self, cost: impl Into<String>) -> Self {
        self.cost = Some(cost.into());
        self
    }

    pub(super) fn convention(mut self, button: &str, convention: Convention) -> Self {
        self.remedy = Some((button.into(), Remedy::Convention { convention }));
        self
    }

    pub(super) fn camera(mut self, button: &str, camera: Camera, convention: Convention) -> Self {
        self.remedy = Some((button.into(), Remedy::Camera { camera, convention }));
        self
    }

    pub(super) fn repair(mut self, button: &str, repair: Repair) -> Self {
        self.remedy = Some((button.into(), Remedy::Repair { repair }));
        self
    }

    /// Marks samples by their index in the pass's window.
    pub(super) fn at(mut self, pass: &Evidence, marked: impl Fn(usize) -> bool) -> Self {
        let window = pass.canonical.window();
        let data = (0..window.area()).map(|i| f32::from(u8::from(marked(i)))).collect();
        self.place = Raster::from_planar(window, 1, data).ok().map(Arc::new);
        self
    }
}

/// A share in words: "3 %", "0.02 %".
pub(super) fn percent(share: f64) -> String {
    let p = share * 100.0;
    if p >= 1.0 || p == 0.0 { format!("{p:.0} %") } else { format!("{p:.2} %") }
}
