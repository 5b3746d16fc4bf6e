//! What a lens does to straight lines, both ways: Brown-Conrady (Brown 1966; the form that OpenCV documents under
//! *Camera calibration and 3D reconstruction*) and the division model (Fitzgibbon 2001).
//!
//! An *ideal* place is where a pinhole camera would show a point, a *bent* one where the lens shows it. Both models have a
//! radial part that is followed as long as it grows; beyond its turning point no place has an inverse.

use glam::{DMat2, DVec2};

/// Coefficients, for places measured in the lens's unit from its centre.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Model {
    /// `bent = ideal·(1 + k1·r² + k2·r⁴ + k3·r⁶)`, and the tangential terms p1 and p2.
    BrownConrady {
        /// k1, k2, k3.
        k: [f64; 3],
        /// p1, p2.
        p: [f64; 2],
    },
    /// `ideal = bent / (1 + k1·r² + k2·r⁴)`.
    Division {
        /// k1, k2.
        k: [f64; 2],
    },
}

/// A lens over a frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Lens {
    model: Model,
    centre: DVec2,
    unit: DVec2,
    /// Ideal and bent distance from the centre up to which there is an inverse.
    reach: [f64; 2],
}

/// Farthest distance that is followed, in units: no frame is wider.
const FARTHEST: f64 = 1e4;

impl Lens {
    /// A lens with its centre at a place of the picture, px, and the px of one unit across and down (two, since a squeezed
    /// picture has another unit on each axis).
    pub fn new(model: Model, centre: DVec2, unit: DVec2) -> Self {
        let mut lens = Self { model, centre, unit, reach: [FARTHEST; 2] };
        let own = lens.turning_point();
        let other = lens.radial(own).0;
        lens.reach = match model {
            Model::BrownConrady { .. } => [own, other],
            Model::Division { .. } => [other, own],
        };
        lens
    }

    /// Whether no place is moved.
    pub fn is_none(&self) -> bool {
        match self.model {
            Model::BrownConrady { k, p } => k == [0.0; 3] && p == [0.0; 2],
            Model::Division { k } => k == [0.0; 2],
        }
    }

    /// The radial part in the model's own direction at a distance, and how it grows.
    fn radial(&self, r: f64) -> (f64, f64) {
        let s = r * r;
        match self.model {
            Model::BrownConrady { k: [k1, k2, k3], .. } => (
                r * (1.0 + s * (k1 + s * (k2 + s * k3))),
                1.0 + s * (3.0 * k1 + s * (5.0 * k2 + s * 7.0 * k3)),
            ),
            Model::Division { k: [k1, k2] } => {
                let below = 1.0 + s * (k1 + s * k2);
                (r / below, (1.0 - s * (k1 + 3.0 * s * k2)) / (below * below))
            }
        }
    }

    /// Whether the radial part has turned, or has gone through infinity, at a distance.
    fn has_turned(&self, r: f64) -> bool {
        let (to, grows) = self.radial(r);
        let through = match self.model {
            Model::BrownConrady { .. } => false,
            Model::Division { k: [k1, k2] } => 1.0 + r * r * (k1 + r * r * k2) <= 1e-6,
        };
        through || grows <= 0.0 || !to.is_finite()
    }

    /// The distance at which the radial part stops to grow.
    fn turning_point(&self) -> f64 {
        // In steps that grow: close ones where lenses bend.
        let mut low = 0.0;
        let mut high = 0.01;
        while high < FARTHEST && !self.has_turned(high) {
            low = high;
            high *= 1.01;
        }
        if high >= FARTHEST {
            return FARTHEST;
        }
        for _ in 0..60 {
            let middle = 0.5 * (low + high);
            if self.has_turned(middle) { high = middle } else { low = middle }
        }
        low
    }

    /// The distance whose radial part is `to`; by Newton's method, kept between two ends.
    fn radial_back(&self, to: f64, farthest: f64) -> f64 {
        let (mut low, mut high) = (0.0, farthest);
        let mut r = to.min(farthest * 0.999);
        for _ in 0..80 {
            let (at, grows) = self.radial(r);
            let off = at - to;
            if off > 0.0 {
                high = r;
            } else {
                low = r;
            }
            if off.abs() <= 1e-15 * (1.0 + to) || high - low <= 1e-15 * (1.0 + r) {
                break;
            }
            let next = r - off / grows;
            r = if next > low && next < high { next } else { 0.5 * (low + high) };
        }
        r
    }

    /// The model in its own direction, units, with its slope. Beyond the turning point there is none.
    fn own(&self, v: DVec2, farthest: f64) -> Option<(DVec2, DMat2)> {
        let s = v.length_squared();
        if s > farthest * farthest {
            return None;
        }
        let outer = DMat2::from_cols(v * v.x, v * v.y);
        match self.model {
            Model::BrownConrady { k: [k1, k2, k3], p: [p1, p2] } => {
                let factor = 1.0 + s * (k1 + s * (k2 + s * k3));
                let grows = 2.0 * (k1 + s * (2.0 * k2 + s * 3.0 * k3));
                let DVec2 { x, y } = v;
                let beside = DVec2::new(
                    2.0 * p1 * x * y + p2 * (s + 2.0 * x * x),
                    p1 * (s + 2.0 * y * y) + 2.0 * p2 * x * y,
                );
                let cross = 2.0 * (p1 * x + p2 * y);
                let turned = DMat2::from_cols(
                    DVec2::new(2.0 * p1 * y + 6.0 * p2 * x, cross),
                    DVec2::new(cross, 6.0 * p1 * y + 2.0 * p2 * x),
                );
                Some((v * factor + beside, DMat2::IDENTITY * factor + outer * grows + turned))
            }
            Model::Division { k: [k1, k2] } => {
                let below = 1.0 + s * (k1 + s * k2);
                let slope = DMat2::IDENTITY / below - outer * (2.0 * (k1 + 2.0 * s * k2) / (below * below));
                Some((v / below, slope))
            }
        }
    }

    /// The other direction.
    fn other(&self, v: DVec2, [own, to]: [f64; 2]) -> Option<(DVec2, DMat2)> {
        let r = v.length();
        let tangential = matches!(self.model, Model::BrownConrady { p, .. } if p != [0.0; 2]);
        // The tangential terms move a little beyond what the radial part reaches.
        let radial = if tangential { r.min(to * 0.999_999) } else { r };
        if radial > to {
            return None;
        }
        let mut u = if r > 0.0 { v * (self.radial_back(radial, own) / r) } else { v };
        for _ in 0..if tangential { 30 } else { 1 } {
            let (at, slope) = self.own(u, own)?;
            let off = at - v;
            if off.length_squared() < 1e-26 * (1.0 + r * r) || slope.determinant() <= 1e-12 {
                break;
            }
            u -= slope.inverse() * off;
        }
        let (at, slope) = self.own(u, own)?;
        let found = (at - v).length() <= 1e-10 * (1.0 + r) && slope.determinant() > 1e-12;
        found.then(|| (u, slope.inverse()))
    }

    fn measured(
        &self,
        place: DVec2,
        map: impl Fn(DVec2) -> Option<(DVec2, DMat2)>,
    ) -> Option<(DVec2, DMat2)> {
        let (to, slope) = map((place - self.centre) / self.unit)?;
        let (px, unit) = (DMat2::from_diagonal(self.unit), DMat2::from_diagonal(1.0 / self.unit));
        // Where the picture would be turned over there is no picture.
        let sound = to.is_finite() && slope.determinant() > 1e-12;
        sound.then(|| (to * self.unit + self.centre, px * slope * unit))
    }

    /// Where the lens shows what a pinhole camera would show at a place, px, with its slope.
    pub fn bent(&self, ideal: DVec2) -> Option<(DVec2, DMat2)> {
        self.measured(ideal, |v| match self.model {
            Model::BrownConrady { .. } => self.own(v, self.reach[0]),
            Model::Division { .. } => self.other(v, [self.reach[1], self.reach[0]]),
        })
    }

    /// Where a pinhole camera would show what the lens shows at a place, px, with its slope.
    pub fn straightened(&self, bent: DVec2) -> Option<(DVec2, DMat2)> {
        self.measured(bent, |v| match self.model {
            Model::BrownConrady { .. } => self.other(v, self.reach),
            Model::Division { .. } => self.own(v, self.reach[1]),
        })
    }
}

impl Model {
    /// The same lens with places measured in a unit that is `k` times as long.
    pub fn in_units_of(self, factor: f64) -> Self {
        let f2 = factor * factor;
        match self {
            Self::BrownConrady { k: [k1, k2, k3], p } => {
                Self::BrownConrady { k: [k1 * f2, k2 * f2 * f2, k3 * f2 * f2 * f2], p: p.map(|p| p * factor) }
            }
            Self::Division { k: [k1, k2] } => Self::Division { k: [k1 * f2, k2 * f2 * f2] },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn barrel() -> Lens {
        let model = Model::BrownConrady { k: [-0.28, 0.07, -0.004], p: [0.0012, -0.0008] };
        Lens::new(model, DVec2::new(960.0, 540.0), DVec2::new(1100.0, 1100.0))
    }

    #[test]
    fn beyond_the_turning_point_there_is_no_inverse() {
        // r(1 − 0.2 r²) grows up to r = √(1/0.6).
        let lens =
            Lens::new(Model::BrownConrady { k: [-0.2, 0.0, 0.0], p: [0.0; 2] }, DVec2::ZERO, DVec2::ONE);
        let turns = (1.0f64 / 0.6).sqrt();
        assert!((lens.reach[0] - turns).abs() < 1e-9);
        assert!(lens.bent(DVec2::new(turns * 1.001, 0.0)).is_none());
        assert!(lens.straightened(DVec2::new(turns * (1.0 - 0.2 / 0.6) * 1.001, 0.0)).is_none());
        assert!(lens.straightened(DVec2::new(turns * (1.0 - 0.2 / 0.6) * 0.999, 0.0)).is_some());
        assert_eq!(lens.bent(DVec2::ZERO), Some((DVec2::ZERO, DMat2::IDENTITY)));
    }

    #[test]
    fn one_lens_in_two_units_is_one_lens() {
        let model = Model::BrownConrady { k: [-0.28, 0.07, -0.004], p: [0.0012, -0.0008] };
        let half = Lens::new(model.in_units_of(0.5), DVec2::new(960.0, 540.0), DVec2::splat(550.0));
        let place = DVec2::new(100.0, 900.0);
        assert!((half.bent(place).unwrap().0 - barrel().bent(place).unwrap().0).length() < 1e-9);
    }

    proptest! {
        #[test]
        fn both_ways_undo_each_other(
            k1 in -0.4f64..0.4, k2 in -0.1f64..0.1, k3 in -0.02f64..0.02,
            p1 in -0.005f64..0.005, p2 in -0.005f64..0.005,
            x in 0.0f64..1920.0, y in 0.0f64..1080.0, divides: bool, squeeze in 0.5f64..2.0,
        ) {
            let model = if divides { Model::Division { k: [k1, k2] } } else { Model::BrownConrady { k: [k1, k2, k3], p: [p1, p2] } };
            let lens = Lens::new(model, DVec2::new(950.0, 545.0), DVec2::new(1100.0, 1100.0 * squeeze));
            let place = DVec2::new(x, y);
            if let Some((bent, slope)) = lens.bent(place) && let Some((back, inverse)) = lens.straightened(bent) {
                prop_assert!((back - place).length() < 1e-6, "{place} {back}");
                prop_assert!((slope * inverse - DMat2::IDENTITY).to_cols_array().iter().all(|v| v.abs() < 1e-6));
            }
            // Both slopes are those of small steps.
            for map in [Lens::bent, Lens::straightened] {
                let h = 1e-3;
                let (Some((_, slope)), Some((a, _)), Some((b, _))) =
                    (map(&lens, place), map(&lens, place - DVec2::X * h), map(&lens, place + DVec2::X * h))
                else { continue };
                prop_assert!(((b - a) / (2.0 * h) - slope.x_axis).length() < 1e-4 * (1.0 + slope.x_axis.length()));
            }
        }
    }
}
