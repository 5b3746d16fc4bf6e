//! Primaries and white of colour, and their way to Rec.709.

use nalgebra::{Matrix3, Vector3};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Chromaticities x, y of red, green, blue and white (CIE 1931).
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(transparent)]
#[ts(type = "number[]")]
pub struct Primaries(pub [f32; 8]);

/// ITU-R BT.709-6, white D65.
pub const REC709: Primaries = Primaries([0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329]);
/// ITU-R BT.2020-2, white D65.
pub const REC2020: Primaries = Primaries([0.708, 0.292, 0.17, 0.797, 0.131, 0.046, 0.3127, 0.329]);
/// SMPTE RP 431-2 primaries with white D65, as displays have them (SMPTE EG 432-1).
pub const P3_D65: Primaries = Primaries([0.68, 0.32, 0.265, 0.69, 0.15, 0.06, 0.3127, 0.329]);
/// AMPAS S-2008-001 (SMPTE ST 2065-1).
pub const AP0: Primaries = Primaries([0.7347, 0.2653, 0.0, 1.0, 0.0001, -0.077, 0.32168, 0.33767]);
/// AMPAS S-2014-004.
pub const AP1: Primaries = Primaries([0.713, 0.293, 0.165, 0.83, 0.128, 0.044, 0.32168, 0.33767]);

/// Those that have names.
const NAMED: [(Primaries, &str); 5] = [
    (REC709, "Rec.709"),
    (REC2020, "Rec.2020"),
    (P3_D65, "P3 with white D65"),
    (AP0, "ACES AP0"),
    (AP1, "ACES AP1"),
];

/// White of the connection space of ICC profiles, D50 (ICC.1:2022, 7.2.16), as chromaticity.
pub const D50: [f32; 2] = [0.3457, 0.3585];

impl Primaries {
    /// Whether they are the same to a thousandth, as far as files are written.
    pub fn near(&self, other: &Self) -> bool {
        self.0.iter().zip(&other.0).all(|(a, b)| (a - b).abs() < 1e-3)
    }

    /// Their name, if they have one.
    pub fn name(&self) -> Option<&'static str> {
        NAMED.iter().find(|(p, _)| p.near(self)).map(|(_, n)| *n)
    }

    /// Whether colours can be made of them: finite, three that are apart, a white that is none of them.
    pub fn is_sound(&self) -> bool {
        self.0.iter().all(|v| v.is_finite() && v.abs() < 4.0)
            && [1, 3, 5, 7].iter().all(|y| self.0[*y].abs() > 1e-6)
            && self.to_xyz().is_some_and(|m| m.determinant().abs() > 1e-6)
    }

    /// To CIE XYZ, white at Y = 1 (SMPTE RP 177: the weights of the primaries are those that give white).
    fn to_xyz(self) -> Option<Matrix3<f64>> {
        let column = |i: usize| {
            let (x, y) = (f64::from(self.0[2 * i]), f64::from(self.0[2 * i + 1]));
            Vector3::new(x / y, 1.0, (1.0 - x - y) / y)
        };
        let m = Matrix3::from_columns(&[column(0), column(1), column(2)]);
        let weights = m.try_inverse()? * column(3);
        Some(m * Matrix3::from_diagonal(&weights))
    }

    /// Linear colour of these primaries to linear Rec.709, white to white by Bradford's adaptation; the identity for
    /// primaries of which no colour can be made.
    pub fn to_rec709(&self) -> [[f32; 3]; 3] {
        let matrix = || {
            let (own, other) = (self.to_xyz()?, REC709.to_xyz()?.try_inverse()?);
            Some(other * adaptation(self.white(), REC709.white()) * own)
        };
        let m = matrix().filter(|_| self.is_sound()).unwrap_or_else(Matrix3::identity);
        std::array::from_fn(|r| std::array::from_fn(|c| m[(r, c)] as f32))
    }

    fn white(&self) -> Vector3<f64> {
        let (x, y) = (f64::from(self.0[6]), f64::from(self.0[7]));
        Vector3::new(x / y, 1.0, (1.0 - x - y) / y)
    }
}

/// Bradford's chromatic adaptation from one white to another (Lam 1985; matrix as in ICC.1:2022, annex E).
fn adaptation(from: Vector3<f64>, to: Vector3<f64>) -> Matrix3<f64> {
    let cone = Matrix3::new(0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296);
    let (a, b) = (cone * from, cone * to);
    let scale = Matrix3::from_diagonal(&b.component_div(&a));
    cone.try_inverse().unwrap_or_else(Matrix3::identity) * scale * cone
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::colour::ACESCG_TO_REC709;

    #[test]
    fn white_stays_white_and_known_matrices_come_out() {
        for (p, _) in NAMED {
            let m = p.to_rec709();
            assert!(m.iter().all(|row| (row.iter().sum::<f32>() - 1.0).abs() < 1e-4), "{p:?} {m:?}");
            assert!(p.is_sound() && p.name().is_some());
        }
        let m = AP1.to_rec709();
        for (a, b) in m.iter().flatten().zip(ACESCG_TO_REC709.iter().flatten()) {
            assert!((a - b).abs() < 2e-4, "{m:?}");
        }
        // ITU-R BT.2087-0, the inverse of its matrix M2: the first row to four digits.
        let m = REC2020.to_rec709();
        assert!((m[0][0] - 1.6605).abs() < 1e-3 && (m[0][1] + 0.5876).abs() < 1e-3, "{m:?}");
    }

    #[test]
    fn what_makes_no_colour_is_refused() {
        assert!(!Primaries([0.3; 8]).is_sound() && !Primaries([f32::NAN; 8]).is_sound());
        assert_eq!(Primaries([0.0; 8]).to_rec709()[0], [1.0, 0.0, 0.0]);
    }
}
