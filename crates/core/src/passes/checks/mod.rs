//! Checks on passes: what is wrong, how sure, where, what it costs, and what would put it right.
//!
//! Each file looks for one family of faults. A check says nothing on a clean render; what it cannot tell, it
//! asks, or leaves alone. Thresholds are our own, set on the stand-in renderer's clean and damaged renders
//! unless a source is named; each is given beside its use.
//!
//! | module | faults |
//! |---|---|
//! | [`finite`] | samples that are no numbers |
//! | [`lens`] | how depth, normals and focal length bear each other out |
//! | [`levels`] | too few levels |
//! | [`edges`] | antialiased depth and normals |
//! | [`depth`] | direction, coding, ray or axis, clipping |
//! | [`normals`] | coding, curve, length, axes, space |
//! | [`turn`] | normals of a world whose camera nobody knows |
//! | [`uv`] | flips, range, curve |
//! | [`motion`] | scale and sign |
//! | [`alpha`] | straight or premultiplied |
//! | [`camera`] | the space of positions, and the camera they were taken with |
//! | [`multiplied`] | data that was multiplied by alpha |
//! | [`agreement`] | passes that do not lie on the picture |
//! | [`loss`] | lossy files |

pub mod agreement;
pub mod alpha;
pub mod camera;
pub mod depth;
pub mod edges;
pub mod finite;
pub mod lens;
pub mod levels;
pub mod loss;
pub mod motion;
pub mod multiplied;
pub mod normals;
mod recedes;
pub mod surface;
pub mod turn;
pub mod uv;

use crate::passes::convention::{Convention, Setting};
use crate::passes::repair::Repair;
use crate::passes::solve::{self, Solved};
use crate::passes::stored::SampleKind;
use crate::{Camera, Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::sync::{Arc, OnceLock};
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
    fn new(pass: &Evidence, kind: FindingKind, confidence: f32, what: impl Into<String>) -> Self {
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

    fn costs(mut self, cost: impl Into<String>) -> Self {
        self.cost = Some(cost.into());
        self
    }

    fn convention(mut self, button: &str, convention: Convention) -> Self {
        self.remedy = Some((button.into(), Remedy::Convention { convention }));
        self
    }

    fn camera(mut self, button: &str, camera: Camera, convention: Convention) -> Self {
        self.remedy = Some((button.into(), Remedy::Camera { camera, convention }));
        self
    }

    fn repair(mut self, button: &str, repair: Repair) -> Self {
        self.remedy = Some((button.into(), Remedy::Repair { repair }));
        self
    }

    /// Marks samples by their index in the pass's window.
    fn at(mut self, pass: &Evidence, marked: impl Fn(usize) -> bool) -> Self {
        let window = pass.canonical.window();
        let data = (0..window.area()).map(|i| f32::from(u8::from(marked(i)))).collect();
        self.place = Raster::from_planar(window, 1, data).ok().map(Arc::new);
        self
    }
}

/// A pass, as the checks see it.
#[derive(Clone, Debug)]
pub struct Evidence {
    /// Number of the pass.
    pub id: u32,
    /// Name for people.
    pub name: String,
    /// What it is taken to mean.
    pub role: Role,
    /// Samples as stored, after repairs of place.
    pub stored: Arc<Raster>,
    /// Samples in canonical form under its convention.
    pub canonical: Arc<Raster>,
    /// How its coarsest channel is stored.
    pub kind: SampleKind,
    /// What its file loses, if anything.
    pub lossy: Option<&'static str>,
    /// Its convention.
    pub convention: Convention,
    /// Repairs made already.
    pub repairs: Vec<Repair>,
}

/// All passes of an element, and what belongs to them.
#[derive(Debug)]
pub struct Case {
    /// The passes.
    pub passes: Vec<Evidence>,
    /// Camera and frame.
    pub setting: Setting,
    /// The beauty of the next frame, canonical, if there is one.
    pub next: Option<Arc<Raster>>,
    reference: OnceLock<Option<surface::Surface>>,
    solved: OnceLock<Option<Solved>>,
    view: OnceLock<Option<lens::View>>,
    turn: OnceLock<Option<turn::Turn>>,
}

impl Case {
    /// A case.
    pub fn new(passes: Vec<Evidence>, setting: Setting, next: Option<Arc<Raster>>) -> Self {
        Self {
            passes,
            setting,
            next,
            reference: OnceLock::new(),
            solved: OnceLock::new(),
            view: OnceLock::new(),
            turn: OnceLock::new(),
        }
    }

    /// The first pass of a role.
    pub fn pass(&self, role: Role) -> Option<&Evidence> {
        self.passes.iter().find(|p| p.role == role)
    }

    /// The camera that the position pass was taken with, solved from the pass itself; made once.
    pub fn solved(&self) -> Option<&Solved> {
        let solve = || {
            let pass = self.pass(Role::Position)?;
            solve::camera(&pass.stored, self.setting.display)
        };
        self.solved.get_or_init(solve).as_ref()
    }

    /// What depth and normals say together; made once.
    pub fn view(&self) -> Option<&lens::View> {
        self.view.get_or_init(|| lens::View::of(self)).as_ref()
    }

    /// The turn by which the normals are those of the depth, where they are the world's and its camera is not known.
    pub fn turn(&self) -> Option<&turn::Turn> {
        self.turn.get_or_init(|| turn::Turn::of(self)).as_ref()
    }

    /// The camera by which depth is read: that of the element, else the solved one, else one whose focal length depth and
    /// normals agree for.
    pub fn camera(&self) -> Option<Camera> {
        let by_view = || {
            let view = self.view().filter(|v| v.left < AGREED)?;
            Some(Camera::centred(view.focal, self.setting.display))
        };
        self.setting.camera.or_else(|| self.solved().map(|s| s.camera)).or_else(by_view)
    }

    /// Whether the picture is empty at a pixel; `None` where it does not say.
    pub fn empty(&self, x: i32, y: i32) -> Option<bool> {
        let beauty = self.pass(Role::Beauty).filter(|b| b.stored.channels() >= 4)?;
        Some(beauty.stored.sample(3, x, y)? <= 0.0)
    }

    /// Directions of the surface derived from position, or from depth and camera; made once.
    pub fn surface(&self) -> Option<&surface::Surface> {
        self.reference.get_or_init(|| surface::Surface::of(self)).as_ref()
    }
}

/// What depth and normals may leave unexplained for their focal length to be believed.
const AGREED: f32 = 0.06;

/// One check of a pass.
type Check = fn(&Case, &Evidence) -> Vec<Finding>;

/// Every check. A new one is a file and a line here.
const CHECKS: [Check; 12] = [
    finite::check,
    levels::check,
    edges::check,
    depth::check,
    normals::check,
    uv::check,
    motion::check,
    alpha::check,
    camera::check,
    multiplied::check,
    agreement::check,
    loss::check,
];

/// Runs every check on every pass. Most certain first within a pass.
pub fn run(case: &Case) -> Vec<Finding> {
    use rayon::prelude::*;
    let mut all: Vec<Finding> = case
        .passes
        .par_iter()
        .flat_map_iter(|pass| CHECKS.iter().flat_map(move |check| check(case, pass)))
        .collect();
    let order = |id: u32| case.passes.iter().position(|p| p.id == id);
    all.sort_by(|a, b| order(a.pass).cmp(&order(b.pass)).then(b.confidence.total_cmp(&a.confidence)));
    all
}

/// Middle value of some numbers (they are reordered); `None` of none.
pub(crate) fn median(values: &mut [f32]) -> Option<f32> {
    let middle = values.len() / 2;
    (!values.is_empty()).then(|| *values.select_nth_unstable_by(middle, f32::total_cmp).1)
}

/// At most this many samples are looked at where a statistic needs no neighbours.
const SAMPLES: usize = 60_000;

/// Indexes of evenly spread samples.
pub(crate) fn spread(area: usize) -> impl Iterator<Item = usize> + Clone {
    (0..area).step_by((area / SAMPLES).max(1))
}

/// At most about so many of some things, evenly spread.
pub(crate) fn thinned<T>(all: Vec<T>, most: usize) -> Vec<T> {
    let step = (all.len() / most).max(1);
    all.into_iter().step_by(step).collect()
}

/// A share in words: "3 %", "0.02 %".
pub(crate) fn percent(share: f64) -> String {
    let p = share * 100.0;
    if p >= 1.0 || p == 0.0 { format!("{p:.0} %") } else { format!("{p:.2} %") }
}
