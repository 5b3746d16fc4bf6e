//! Linear light, the sRGB curve, exposure, luminance.

pub mod blend;
pub(crate) mod brightness;
pub mod composite;
pub mod curve;
pub mod glow;
pub mod grade;
pub mod lut;
pub mod primaries;
pub mod rays;
pub mod sharpen;
pub mod tone;
pub(crate) mod unmix;
pub mod wrap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;
use ts_rs::TS;

/// The encoding and primaries of a stored picture.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum ColourSpace {
    /// Scene-linear, Rec.709 primaries: the canonical form.
    #[default]
    Linear,
    /// sRGB (IEC 61966-2-1): Rec.709 primaries, sRGB curve.
    Srgb,
    /// Rec.709 as displays show it: Rec.709 primaries, the power 2.4 of ITU-R BT.1886.
    Rec709,
    /// ACEScg (AMPAS S-2014-004): linear, AP1 primaries.
    Acescg,
}

impl ColourSpace {
    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Linear => "linear Rec.709",
            Self::Srgb => "sRGB",
            Self::Rec709 => "Rec.709 video",
            Self::Acescg => "ACEScg",
        }
    }

    /// Scene-linear Rec.709 of stored, straight colour.
    pub fn to_linear(self, rgb: [f32; 3]) -> [f32; 3] {
        match self {
            Self::Linear => rgb,
            Self::Srgb => rgb.map(srgb_decode),
            Self::Rec709 => rgb.map(|v| v.abs().powf(2.4).copysign(v)),
            Self::Acescg => apply(&ACESCG_TO_REC709, rgb),
        }
    }

    /// Stored, straight colour with its curve taken off, in its own primaries.
    pub fn uncurved(self, rgb: [f32; 3]) -> [f32; 3] {
        match self {
            Self::Acescg => rgb,
            other => other.to_linear(rgb),
        }
    }

    /// The inverse of [`Self::to_linear`].
    pub fn from_linear(self, rgb: [f32; 3]) -> [f32; 3] {
        match self {
            Self::Linear => rgb,
            Self::Srgb => rgb.map(srgb_encode),
            Self::Rec709 => rgb.map(|v| v.abs().powf(1.0 / 2.4).copysign(v)),
            Self::Acescg => apply(&REC709_TO_ACESCG, rgb),
        }
    }
}

/// AP1 (D60) to Rec.709 (D65), Bradford adaptation. Computed from the primaries and white points of
/// AMPAS S-2014-004 and ITU-R BT.709-6 (the test derives it again from them).
pub const ACESCG_TO_REC709: [[f32; 3]; 3] = [
    [1.705_051, -0.621_792_1, -0.083_258_87],
    [-0.130_256_42, 1.140_804_7, -0.010_548_32],
    [-0.024_003_36, -0.128_968_98, 1.152_972_3],
];

/// Rec.709 (D65) to AP1 (D60), Bradford adaptation: the inverse of [`ACESCG_TO_REC709`].
pub const REC709_TO_ACESCG: [[f32; 3]; 3] = [
    [0.613_097_4, 0.339_523_15, 0.047_379_45],
    [0.070_193_72, 0.916_353_9, 0.013_452_4],
    [0.020_615_59, 0.109_569_77, 0.869_814_6],
];

fn apply(m: &[[f32; 3]; 3], v: [f32; 3]) -> [f32; 3] {
    m.map(|row| row[0] * v[0] + row[1] * v[1] + row[2] * v[2])
}

/// Luminance weights of the Rec.709 primaries (ITU-R BT.709-6, item 3.2).
pub const LUMINANCE: [f32; 3] = [0.2126, 0.7152, 0.0722];

/// Display value of a linear value (IEC 61966-2-1, sRGB). Mirrored for negative values so that the curve
/// can be undone; values above 1 follow the same power.
pub fn srgb_encode(linear: f32) -> f32 {
    let v = linear.abs();
    let e = if v <= 0.003_130_8 { v * 12.92 } else { 1.055 * v.powf(1.0 / 2.4) - 0.055 };
    e.copysign(linear)
}

/// Linear value of a display value (IEC 61966-2-1, sRGB); the inverse of [`srgb_encode`].
pub fn srgb_decode(encoded: f32) -> f32 {
    let v = encoded.abs();
    let l = if v <= 0.040_45 { v / 12.92 } else { ((v + 0.055) / 1.055).powf(2.4) };
    l.copysign(encoded)
}

/// Factor for an exposure change in stops: `2^stops`.
pub fn exposure_gain(stops: f32) -> f32 {
    stops.exp2()
}

/// Luminance of linear Rec.709 colour.
pub fn luminance(rgb: [f32; 3]) -> f32 {
    rgb[0] * LUMINANCE[0] + rgb[1] * LUMINANCE[1] + rgb[2] * LUMINANCE[2]
}

/// Entries in the 8-bit table. 2¹⁴ steps keep the slope of the linear toe below one code per step
/// (12.92 · 255 / 16384 ≈ 0.2), so a rounded table is off by at most one code at a rounding boundary.
const TABLE: usize = 1 << 14;

static ENCODED: LazyLock<Vec<u8>> = LazyLock::new(|| {
    (0..=TABLE).map(|i| (srgb_encode(i as f32 / TABLE as f32) * 255.0 + 0.5) as u8).collect()
});

/// A value clipped to 0..1; NaN gives 0, where `clamp` would keep it.
#[allow(clippy::manual_clamp)]
pub fn clipped(v: f32) -> f32 {
    v.max(0.0).min(1.0)
}

/// 8-bit sRGB code of a linear value, clipped to 0..1; NaN gives 0. Table-driven, for screens.
pub fn srgb_code(linear: f32) -> u8 {
    let v = clipped(linear) * TABLE as f32 + 0.5;
    ENCODED.get(v as usize).copied().unwrap_or(255)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn srgb_meets_the_points_of_the_standard() {
        // IEC 61966-2-1: thresholds 0.0031308 / 0.04045, slope 12.92, and the worked mid grey:
        // code 118/255 is close to 18 % reflectance; code 188 close to 50 %.
        assert!((srgb_encode(0.003_130_8) - 0.040_45).abs() < 1e-5);
        assert!((srgb_encode(0.001) - 0.012_92).abs() < 1e-8);
        assert_eq!((srgb_encode(0.18) * 255.0).round(), 118.0);
        assert_eq!((srgb_encode(0.5) * 255.0).round(), 188.0);
        assert_eq!(srgb_encode(0.0), 0.0);
        assert!((srgb_encode(1.0) - 1.0).abs() < 1e-6);
        assert!((srgb_decode(0.5) - 0.214_041).abs() < 1e-6);
    }

    type M = [[f64; 3]; 3];

    fn inverse(m: &M) -> M {
        let c = |a: usize, b: usize, d: usize, e: usize| m[a][b] * m[d][e] - m[a][e] * m[d][b];
        let det = m[0][0] * c(1, 1, 2, 2) - m[0][1] * c(1, 0, 2, 2) + m[0][2] * c(1, 0, 2, 1);
        let a = [
            [c(1, 1, 2, 2), -c(0, 1, 2, 2), c(0, 1, 1, 2)],
            [-c(1, 0, 2, 2), c(0, 0, 2, 2), -c(0, 0, 1, 2)],
            [c(1, 0, 2, 1), -c(0, 0, 2, 1), c(0, 0, 1, 1)],
        ];
        a.map(|row| row.map(|v| v / det))
    }

    fn times(a: &M, b: &M) -> M {
        std::array::from_fn(|i| std::array::from_fn(|j| (0..3).map(|k| a[i][k] * b[k][j]).sum()))
    }

    fn at(m: &M, v: [f64; 3]) -> [f64; 3] {
        m.map(|r| r[0] * v[0] + r[1] * v[1] + r[2] * v[2])
    }

    /// RGB to XYZ from chromaticities (SMPTE RP 177).
    fn to_xyz(primaries: [[f64; 2]; 3], white: [f64; 2]) -> M {
        let xyz = |c: [f64; 2]| [c[0] / c[1], 1.0, (1.0 - c[0] - c[1]) / c[1]];
        let p = primaries.map(xyz);
        let columns: M = std::array::from_fn(|i| std::array::from_fn(|j| p[j][i]));
        let s = at(&inverse(&columns), xyz(white));
        std::array::from_fn(|i| std::array::from_fn(|j| columns[i][j] * s[j]))
    }

    #[test]
    fn acescg_matrices_follow_from_the_primaries() {
        // Primaries and whites: ITU-R BT.709-6 item 1.3/1.4; AMPAS S-2014-004 (AP1, ACES white).
        let (d65, aces) = ([0.3127, 0.3290], [0.321_68, 0.337_67]);
        let rec = to_xyz([[0.64, 0.33], [0.30, 0.60], [0.15, 0.06]], d65);
        let ap1 = to_xyz([[0.713, 0.293], [0.165, 0.830], [0.128, 0.044]], aces);
        // Bradford cone matrix (Lam 1985, as in ICC.1:2022 annex E).
        let cone = [[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]];
        let xyz = |c: [f64; 2]| [c[0] / c[1], 1.0, (1.0 - c[0] - c[1]) / c[1]];
        let (from, to) = (at(&cone, xyz(aces)), at(&cone, xyz(d65)));
        let scale: M =
            std::array::from_fn(|i| std::array::from_fn(|j| if i == j { to[i] / from[i] } else { 0.0 }));
        let adapt = times(&inverse(&cone), &times(&scale, &cone));
        let want = times(&inverse(&rec), &times(&adapt, &ap1));
        let back = inverse(&want);
        for i in 0..3 {
            for j in 0..3 {
                assert!((want[i][j] - f64::from(ACESCG_TO_REC709[i][j])).abs() < 2e-4, "{want:?}");
                assert!((back[i][j] - f64::from(REC709_TO_ACESCG[i][j])).abs() < 2e-4, "{back:?}");
            }
        }
    }

    #[test]
    fn every_space_comes_back_and_keeps_white() {
        for space in [ColourSpace::Linear, ColourSpace::Srgb, ColourSpace::Rec709, ColourSpace::Acescg] {
            for rgb in [[1.0, 1.0, 1.0], [0.2, 0.5, 0.9], [4.0, 0.0, 0.01]] {
                let back = space.from_linear(space.to_linear(rgb));
                (0..3).for_each(|c| {
                    assert!((back[c] - rgb[c]).abs() < 2e-4 * (1.0 + rgb[c]), "{space:?} {back:?}");
                });
            }
            space.to_linear([1.0; 3]).iter().for_each(|v| assert!((v - 1.0).abs() < 2e-4, "{space:?}"));
        }
    }

    #[test]
    fn curve_and_inverse_undo_each_other() {
        for i in -200..400 {
            let v = i as f32 * 0.01;
            assert!((srgb_decode(srgb_encode(v)) - v).abs() < 2e-5 * (1.0 + v.abs()), "{v}");
        }
    }

    #[test]
    fn table_is_within_one_code_everywhere() {
        for i in 0..=100_000 {
            let v = i as f32 / 100_000.0;
            let exact = (srgb_encode(v) * 255.0).round();
            assert!((f32::from(srgb_code(v)) - exact).abs() <= 1.0, "{v}");
        }
        assert_eq!((srgb_code(f32::NAN), srgb_code(-1.0), srgb_code(f32::INFINITY)), (0, 0, 255));
        // Every display code survives the way back.
        for code in 0..=255u8 {
            assert_eq!(srgb_code(srgb_decode(f32::from(code) / 255.0)), code);
        }
    }
}
