//! Repairs of a pass: what no convention can put right. Recorded on the pass, never written into a file.

use super::blended;
use crate::raster::neighbours::neighbours;
use crate::{Raster, Role, Window};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// One repair.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Repair {
    /// Missing samples (NaN, infinity) take the value of the nearest sound one.
    Fill,
    /// Samples that lie between two surfaces take the value of the one that covers more of the pixel.
    SnapEdges,
    /// Moved by whole pixels.
    Shift {
        /// To the right.
        x: i32,
        /// Down.
        y: i32,
    },
    /// Stretched to the frame by picking samples.
    Fit,
    /// Turned upside down: its rows came from the bottom up.
    FlipRows,
    /// Divided by the alpha of the element's picture, which it was multiplied by.
    DivideByAlpha,
}

impl Repair {
    /// In words.
    pub fn label(&self) -> String {
        match self {
            Self::Fill => "missing samples filled".into(),
            Self::SnapEdges => "edges snapped to a surface".into(),
            Self::Shift { x, y } => format!("moved by {x}, {y} px"),
            Self::Fit => "stretched to the frame".into(),
            Self::FlipRows => "turned upside down".into(),
            Self::DivideByAlpha => "divided by alpha".into(),
        }
    }

    /// Whether it is done before conventions are taken off.
    pub const fn is_on_stored(&self) -> bool {
        !matches!(self, Self::SnapEdges)
    }
}

/// Applies the repairs that belong before conventions: they move, fill or divide stored samples. `alpha` is the first
/// plane of coverage that the element has, for [`Repair::DivideByAlpha`].
pub fn on_stored(
    mut stored: Raster,
    role: Role,
    repairs: &[Repair],
    display: Window,
    alpha: Option<&Raster>,
) -> Raster {
    for repair in repairs {
        match repair {
            Repair::Fill => fill(&mut stored, role),
            Repair::Shift { x, y } => stored = shifted(stored, *x, *y),
            Repair::Fit => stored = fitted(&stored, display),
            Repair::FlipRows => stored = upside_down(&stored),
            Repair::DivideByAlpha => {
                if let Some(alpha) = alpha {
                    divide(&mut stored, alpha);
                }
            }
            Repair::SnapEdges => {}
        }
    }
    stored
}

/// Applies the repairs that belong after conventions.
pub fn on_canonical(canonical: &mut Raster, role: Role, repairs: &[Repair]) {
    if repairs.contains(&Repair::SnapEdges) {
        match role {
            Role::Depth => snap_depth(canonical),
            Role::Normal => snap_normals(canonical),
            _ => {}
        }
    }
}

fn shifted(stored: Raster, x: i32, y: i32) -> Raster {
    let w = stored.window();
    let to = Window::new(w.x.saturating_add(x), w.y.saturating_add(y), w.width, w.height);
    let channels = stored.channels();
    Raster::from_planar(to, channels, stored.into_data()).unwrap_or_else(|_| Raster::zeros(to, channels))
}

fn upside_down(stored: &Raster) -> Raster {
    let w = stored.window();
    let mut out = Raster::zeros(w, stored.channels());
    for c in 0..stored.channels() {
        for y in w.rows() {
            let from = w.y + (w.bottom() - 1 - i64::from(y)) as i32;
            out.row_mut(c, y).copy_from_slice(stored.row(c, from));
        }
    }
    out
}

/// Coverage below which a quotient is mostly rounding: there is nothing to be had back.
const THIN: f32 = 1.0 / 512.0;

fn divide(stored: &mut Raster, alpha: &Raster) {
    let w = stored.window();
    let plane = alpha.channels() - 1;
    let by: Vec<f32> = (0..w.area())
        .map(|i| {
            let (x, y) = w.pixel_at(i);
            alpha.sample(plane, x, y).unwrap_or(1.0)
        })
        .collect();
    for values in stored.planes_mut() {
        for (v, a) in values.iter_mut().zip(&by) {
            // What is hardly covered stays what it was: nothing, or next to it.
            if *a < 1.0 {
                *v = if *a > THIN { *v / a } else { 0.0 };
            }
        }
    }
}

/// Every pixel of the frame picks the stored sample whose area its centre falls into.
fn fitted(stored: &Raster, display: Window) -> Raster {
    let from = stored.window();
    if from == display || from.is_empty() {
        return stored.clone();
    }
    let pick = |at: i32, start: i32, size: u32, from_start: i32, from_size: u32| {
        let along = (f64::from(at - start) + 0.5) / f64::from(size.max(1)) * f64::from(from_size);
        from_start + (along as i32).min(from_size as i32 - 1)
    };
    Raster::from_fn(display, stored.channels(), |c, x, y| {
        let sx = pick(x, display.x, display.width, from.x, from.width);
        let sy = pick(y, display.y, display.height, from.y, from.height);
        stored.sample(c, sx, sy).unwrap_or(0.0)
    })
}

/// Whether a stored sample is none: infinity is a depth like others ("nothing hit").
pub(crate) fn is_missing(role: Role, v: f32) -> bool {
    if role == Role::Depth { v.is_nan() || v == f32::NEG_INFINITY } else { !v.is_finite() }
}

/// Nearest sound sample, by growing inward from the edges of the hole, ring by ring; ties go to the first
/// in reading order, so that the result is the same on every run.
fn fill(raster: &mut Raster, role: Role) {
    let (w, h) = (raster.window().width as usize, raster.window().height as usize);
    for plane in raster.planes_mut() {
        let mut holes: Vec<usize> = (0..plane.len()).filter(|&i| is_missing(role, plane[i])).collect();
        if holes.len() == plane.len() {
            plane.fill(role.outside());
            continue;
        }
        while !holes.is_empty() {
            let ring: Vec<(usize, f32)> = holes
                .iter()
                .filter_map(|&i| {
                    let near = neighbours(i, w, h).find(|&n| !is_missing(role, plane[n]))?;
                    Some((i, plane[near]))
                })
                .collect();
            for &(i, v) in &ring {
                plane[i] = v;
            }
            holes.retain(|&i| is_missing(role, plane[i]));
        }
    }
}

/// Depths that lie on neither of two surfaces (see [`crate::passes::blended`]) take that of the surface that covers more.
fn snap_depth(depth: &mut Raster) {
    // A filter may leave two such samples side by side: the second round sees the first one's result.
    for _ in 0..3 {
        let between = blended::between(depth);
        if between.is_empty() {
            return;
        }
        let plane = depth.plane_mut(0);
        for (i, nearer) in between {
            plane[i] = nearer;
        }
    }
}

/// Normals that were blended of two take the direction of the neighbour that they are most like.
fn snap_normals(normals: &mut Raster) {
    let (w, h) = (normals.window().width as usize, normals.window().height as usize);
    let at = |r: &Raster, i: usize| glam::Vec3::new(r.plane(0)[i], r.plane(1)[i], r.plane(2)[i]);
    let changes: Vec<(usize, glam::Vec3)> = (0..w * h)
        .filter_map(|i| {
            let n = at(normals, i);
            if n == glam::Vec3::ZERO {
                return None;
            }
            let around: Vec<glam::Vec3> =
                neighbours(i, w, h).map(|j| at(normals, j)).filter(|m| *m != glam::Vec3::ZERO).collect();
            // On a surface some pair of opposite neighbours agrees with the middle.
            let alike = around.iter().filter(|m| m.dot(n) > 0.98).count();
            let best = around.iter().copied().max_by(|a, b| a.dot(n).total_cmp(&b.dot(n)))?;
            (alike < 2 && best.dot(n) < 0.98).then_some((i, best))
        })
        .collect();
    for (i, n) in changes {
        (0..3).for_each(|c| normals.plane_mut(c)[i] = n[c]);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const NONE: f32 = f32::NAN;

    #[test]
    fn holes_take_their_nearest_neighbour() {
        let w = Window::of_size(5, 1);
        let r = Raster::from_planar(w, 1, vec![1.0, NONE, NONE, NONE, 2.0]).unwrap();
        let filled = on_stored(r, Role::Position, &[Repair::Fill], w, None);
        assert_eq!(filled.data(), [1.0, 1.0, 1.0, 2.0, 2.0]);
        let all = Raster::filled(w, 1, NONE);
        assert_eq!(on_stored(all, Role::Depth, &[Repair::Fill], w, None).plane(0)[0], f32::INFINITY);
        // Infinity is a depth: nothing was hit.
        let depth = Raster::from_planar(w, 1, vec![f32::INFINITY, NONE, 3.0, 3.0, 3.0]).unwrap();
        assert_eq!(on_stored(depth, Role::Depth, &[Repair::Fill], w, None).data()[..2], [f32::INFINITY; 2]);
    }

    #[test]
    fn passes_are_moved_and_stretched() {
        let r = Raster::from_fn(Window::of_size(2, 1), 1, |_, x, _| x as f32);
        let moved = on_stored(r.clone(), Role::Uv, &[Repair::Shift { x: 3, y: -1 }], r.window(), None);
        assert_eq!((moved.window(), moved.data()), (Window::new(3, -1, 2, 1), r.data()));
        let wide = on_stored(r, Role::Uv, &[Repair::Fit], Window::new(1, 0, 4, 2), None);
        assert_eq!(wide.data(), [0.0, 0.0, 1.0, 1.0, 0.0, 0.0, 1.0, 1.0]);
    }

    #[test]
    fn a_blended_edge_snaps_to_a_surface_and_nothing_else_moves() {
        let w = Window::of_size(9, 3);
        let clean = |x: i32| if x < 4 { 2.0 + 0.01 * x as f32 } else { 8.0 };
        let mut depth = Raster::from_fn(w, 1, |_, x, _| if x == 4 { 4.0 } else { clean(x) });
        on_canonical(&mut depth, Role::Depth, &[Repair::SnapEdges]);
        for y in 0..3 {
            for x in 0..9 {
                let want = if x == 4 { clean(3) } else { clean(x) };
                assert!((depth.sample(0, x, y).unwrap() - want).abs() < 0.02, "{x}");
            }
        }
        let before = Raster::from_fn(w, 1, |_, x, _| clean(x));
        let mut after = before.clone();
        on_canonical(&mut after, Role::Depth, &[Repair::SnapEdges]);
        assert_eq!(before, after);
    }
}
