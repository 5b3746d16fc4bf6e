//! How depth, normals and focal length bear each other out.
//!
//! A direction foretells how distance changes from pixel to pixel, whatever the scale (own derivation): with
//! `X' = (x−cx)/f`, `Y' = (y−cy)/f` and a surface `n` at planar depth Z, `∂ ln Z/∂x = n.x / (f·(n.z + n.y·Y' − n.x·X'))`
//! and `∂ ln Z/∂y = −n.y / (f·(…))`. Depth and normals agree for one focal length and one order of the axes only.

use super::evidence::{ElementPasses, Evidence};
use super::statistics::spread;
use crate::passes::convention::{Axes, Convention, DepthMeasure, OWN_AXES, Space};
use crate::passes::solve::{all_axes, turned};
use crate::{Camera, Role};
use glam::{Vec2, Vec3};

/// The change of `ln Z` to the next pixel across or down that a direction on the camera's axes foretells, `at` px from the
/// middle of the picture; `None` where the surface is seen so flat that pixels are too coarse for it.
pub(super) fn foretold(n: Vec3, at: Vec2, across: bool, focal: f32) -> Option<f32> {
    let r = at / focal;
    let facing = n.z + n.y * r.y - n.x * r.x;
    (facing > 0.2).then(|| if across { n.x } else { -n.y } / (focal * facing))
}

/// Two neighbours on one surface: stored values, places from the middle of the picture (px), direction of the surface.
struct Change {
    value: f32,
    beside: f32,
    at: Vec2,
    across: bool,
    normal: Vec3,
}

impl Change {
    /// What the direction foretells for a focal length in px.
    fn foretold(&self, axes: &Axes, focal: f32) -> Option<f32> {
        let half = if self.across { Vec2::X } else { Vec2::Y } * 0.5;
        foretold(turned(axes, self.normal), self.at + half, self.across, focal)
    }

    /// The measured change of `ln Z` as a convention reads it.
    fn measured(&self, convention: &Convention, focal: f32) -> Option<f32> {
        let along = convention.depth == DepthMeasure::AlongRay;
        let ray = |at: Vec2| if along { 1.0 / (1.0 + (at / focal).length_squared()).sqrt() } else { 1.0 };
        let beside = self.at + if self.across { Vec2::X } else { Vec2::Y };
        let a = convention.decoded_depth(self.value) * ray(self.at);
        let b = convention.decoded_depth(self.beside) * ray(beside);
        (a > 0.0 && b > 0.0 && a.is_finite() && b.is_finite()).then(|| (b / a).ln())
    }
}

/// Pairs of neighbours that are looked at: the measure is a mean, and so many settle it.
const CHANGES: usize = 3000;

/// What is left unexplained at most where other axes need not be looked for.
const BORNE_OUT: f32 = 0.03;

/// Pairs that there must be.
const LEAST: usize = 400;

/// What depth and normals of an element say together.
pub struct View {
    changes: Vec<Change>,
    focals: Vec<f32>,
    /// Order of the axes by which the normals are read now.
    pub present: Axes,
    /// Order of the axes that explains most.
    pub axes: Axes,
    /// Focal length that explains most with it, px.
    pub focal: f32,
    /// What is left unexplained then: 0 nothing, 1 all.
    pub left: f32,
}

impl std::fmt::Debug for View {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "View {{ {:?}, {} px, {} }}", self.axes, self.focal, self.left)
    }
}

impl View {
    /// Looks at depth and normals as they are read now; with any focal length where the camera is not known. `None` where
    /// there are none, or too little of them says anything.
    pub(super) fn of(passes: &ElementPasses) -> Option<Self> {
        let depth = passes.pass(Role::Depth)?;
        let normals = passes.pass(Role::Normal).filter(|n| n.stored.channels() >= 3)?;
        let known = passes.known_camera();
        let width = passes.setting.display.width as f32;
        // 115° to 3° across.
        let focals = known
            .map_or_else(|| (0..24).map(|k| 0.32 * 1.34f32.powi(k) * width).collect(), |c| vec![c.focal]);
        let changes = changes(passes, depth, normals, known.map(|c| Vec2::new(c.centre_x, c.centre_y)));
        if changes.len() < LEAST {
            return None;
        }
        // What is of the world has been turned already, and its axes with it.
        let free = normals.convention.space == Space::Camera;
        let present = if free { normals.convention.axes } else { OWN_AXES };
        let mut view = Self { changes, focals, present, axes: present, focal: 0.0, left: 0.0 };
        (view.left, view.focal) = view.best(&depth.convention, &present);
        // A depth of which nothing can be read so explains nothing for any lens.
        if !view.left.is_finite() {
            (view.left, view.focal) = (9.0, view.focals[0]);
        }
        if known.is_none() {
            view.refine(&depth.convention);
        }
        // One plane alone is borne out by several focal lengths on several axes: the present ones are kept if they do.
        if free && view.left > BORNE_OUT {
            view.search(&depth.convention, known.is_none());
        }
        Some(view)
    }

    /// Looks for another order of the axes that explains far more.
    fn search(&mut self, depth: &Convention, any_focal: bool) {
        for axes in all_axes() {
            if self.rough(depth, &axes) > 0.7 * self.left {
                continue;
            }
            let (left, focal) = self.best(depth, &axes);
            if left < 0.5 * self.left {
                (self.left, self.focal, self.axes) = (left, focal, axes);
            }
        }
        if any_focal {
            self.refine(depth);
        }
    }

    /// Least unexplained share of a convention of the depth over the focal lengths, and the focal length.
    pub(super) fn best(&self, depth: &Convention, axes: &Axes) -> (f32, f32) {
        self.least(depth, axes, 1)
    }

    /// The same by a part of the pairs only, to find out where to look.
    pub(super) fn rough(&self, depth: &Convention, axes: &Axes) -> f32 {
        self.least(depth, axes, 6).0
    }

    fn least(&self, depth: &Convention, axes: &Axes, every: usize) -> (f32, f32) {
        let each = self.focals.iter().map(|f| (self.unexplained(depth, axes, *f, every), *f));
        each.fold((f32::INFINITY, 0.0), |a, b| if b.0 < a.0 { b } else { a })
    }

    /// Closes in on the focal length between the steps of the ladder.
    fn refine(&mut self, depth: &Convention) {
        let mut step = 1.34f32.sqrt();
        for _ in 0..9 {
            for focal in [self.focal / step, self.focal * step] {
                let left = self.unexplained(depth, &self.axes, focal, 1);
                if left < self.left {
                    (self.left, self.focal) = (left, focal);
                }
            }
            step = step.sqrt();
        }
    }

    /// How much of the foretold change a convention leaves unexplained: 0 all explained, 1 none, 2 reversed.
    fn unexplained(&self, depth: &Convention, axes: &Axes, focal: f32, every: usize) -> f32 {
        let (mut apart, mut whole, mut said) = (0f64, 0f64, 0usize);
        for c in self.changes.iter().step_by(every) {
            let (Some(foretold), Some(measured)) = (c.foretold(axes, focal), c.measured(depth, focal)) else {
                continue;
            };
            // Bounded, so that a step to another surface of like direction does not decide.
            let most = 4.0 * foretold.abs() + 1.0 / focal;
            let d = measured.max(-most).min(most);
            apart += f64::from((d - foretold).abs());
            whole += f64::from(foretold.abs());
            said += 1;
        }
        // A reading under which most of it faces away explains nothing.
        if whole > 0.0 && said * 3 * every > self.changes.len() {
            (apart / whole) as f32
        } else {
            f32::INFINITY
        }
    }
}

/// The camera of the element or the solved one; where there is none, cameras of 115° to 3° across.
pub(super) fn focals(passes: &ElementPasses) -> Vec<Camera> {
    let (d, known) = (passes.setting.display, passes.known_camera());
    let any = |k: i32| Camera::centred(0.32 * 1.34f32.powi(k) * d.width as f32, d);
    known.map_or_else(|| (0..14).map(any).collect(), |c| vec![c])
}

fn changes(
    passes: &ElementPasses,
    depth: &Evidence,
    normals: &Evidence,
    centre: Option<Vec2>,
) -> Vec<Change> {
    let w = depth.stored.window();
    let v = depth.stored.plane(0);
    let width = w.width as usize;
    let centre = centre.unwrap_or_else(|| {
        let middle = Camera::centred(1.0, passes.setting.display);
        Vec2::new(middle.centre_x, middle.centre_y)
    });
    let normal = |x: i32, y: i32| direction(normals, x, y);
    let all: Vec<Change> = spread(w.area())
        .flat_map(|i| [(i, true), (i, false)])
        .filter_map(|(i, across)| {
            let (x, y) = w.pixel_at(i);
            let (bx, by) = if across { (x + 1, y) } else { (x, y + 1) };
            if !w.contains(bx, by) {
                return None;
            }
            let j = if across { i + 1 } else { i + width };
            let (n, m) = (normal(x, y)?, normal(bx, by)?);
            let sound = |v: f32| v.is_finite() && depth.convention.background != Some(v);
            // One surface, smooth enough for one direction to stand for both.
            (n.dot(m) > 0.999 && sound(v[i]) && sound(v[j])).then(|| Change {
                value: v[i],
                beside: v[j],
                at: Vec2::new(x as f32 + 0.5, y as f32 + 0.5) - centre,
                across,
                normal: (n + m).normalize(),
            })
        })
        .collect();
    super::statistics::thinned(all, CHANGES)
}

/// A direction on its stored axes, of unit length; one of the world that has been turned on the camera's.
pub(super) fn direction(normals: &Evidence, x: i32, y: i32) -> Option<Vec3> {
    let of = |r: &crate::Raster| Some(Vec3::new(r.sample(0, x, y)?, r.sample(1, x, y)?, r.sample(2, x, y)?));
    let v = match normals.convention.space {
        Space::World => of(&normals.canonical)?,
        Space::Camera => normals.convention.decoded_normal(of(&normals.stored)?),
    };
    v.try_normalize()
}
