//! Curves that are drawn by points.

use crate::kinds::prelude::*;
use jugata_core::colour::curve::Curve;

/// A point of a curve.
#[parameters(item)]
pub struct CurvePoint {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// A value before.
    #[param(label = "From", default = 0.5, range = [-10.0, 100.0], slider = [0.0, 1.0], step = 0.005)]
    pub x: f32,
    /// What it becomes.
    #[param(label = "To", default = 0.5, range = [-10.0, 100.0], slider = [0.0, 1.0], step = 0.005)]
    pub y: f32,
}

/// A curve that changes nothing, with a point at either end.
pub(crate) fn identity() -> Vec<CurvePoint> {
    vec![CurvePoint { id: 1, x: 0.0, y: 0.0 }, CurvePoint { id: 2, x: 1.0, y: 1.0 }]
}

/// The curve through some points.
pub(crate) fn through(points: &[CurvePoint]) -> Curve {
    Curve::through(&points.iter().map(|p| [p.x, p.y]).collect::<Vec<_>>())
}
