//! Linear light, the sRGB curve, exposure, luminance.

use std::sync::LazyLock;

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
