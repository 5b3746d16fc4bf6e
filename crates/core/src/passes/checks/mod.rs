//! Checks on passes: what is wrong, how sure, where, what it costs, and what would put it right.
//!
//! Each file looks for one family of faults. A check says nothing on a clean render; what it cannot tell, it
//! asks, or leaves alone. Thresholds are our own, set on the stand-in renderer's clean and damaged renders
//! unless a source is named; each is given beside its use.
//!
//! | module | faults |
//! |---|---|
//! | [`case`], [`evidence`], [`finding`] | what is looked at, and what is said |
//! | [`finite`] | samples that are no numbers |
//! | [`lens`] | how depth, normals and focal length bear each other out |
//! | [`levels`] | too few levels |
//! | [`edges`] | antialiased depth and normals |
//! | [`depth`] | direction, coding, ray or axis, clipping |
//! | [`normals`] | coding, curve, length, axes, space |
//! | [`turn`] | normals of a world whose camera nobody knows |
//! | [`uv`] | flips, range, curve |
//! | [`motion`] | scale and sign |
//! | [`exposed`] | motion blur that the picture has already |
//! | [`alpha`] | straight or premultiplied |
//! | [`camera`] | the space of positions, and the camera they were taken with |
//! | [`multiplied`] | data that was multiplied by alpha |
//! | [`agreement`] | passes that do not lie on the picture |
//! | [`loss`] | lossy files |

pub mod agreement;
pub mod alpha;
pub mod camera;
pub mod case;
pub mod depth;
pub mod edges;
pub mod evidence;
pub mod exposed;
pub mod finding;
pub mod finite;
pub mod lens;
pub mod levels;
pub mod loss;
pub mod motion;
pub mod multiplied;
pub mod normals;
mod recedes;
mod statistics;
pub mod surface;
pub mod turn;
mod unit_range;
pub mod uv;

pub use case::Case;
pub use evidence::{ElementPasses, Evidence};
pub use finding::{Finding, FindingKind, Remedy};

/// One check of a pass.
type Check = fn(&Case, &Evidence) -> Vec<Finding>;

/// Every check. A new one is a file and a line here.
const CHECKS: [Check; 13] = [
    finite::check,
    levels::check,
    edges::check,
    depth::check,
    normals::check,
    uv::check,
    motion::check,
    exposed::check,
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
        .each
        .par_iter()
        .flat_map_iter(|pass| CHECKS.iter().flat_map(move |check| check(case, pass)))
        .collect();
    let order = |id: u32| case.passes.each.iter().position(|p| p.id == id);
    all.sort_by(|a, b| order(a.pass).cmp(&order(b.pass)).then(b.confidence.total_cmp(&a.confidence)));
    all
}
