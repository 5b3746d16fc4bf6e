//! How a surface answers light: Lambert with wrap, and GGX.

use std::f32::consts::PI;

/// Smallest GGX width α. Below it the peak (1/πα²) of a directional lamp outgrows what half float can
/// store next to ordinary values; 0.02 keeps it under 800. Our own bound.
pub const MIN_ALPHA: f32 = 0.02;

/// Cosine factor of Lambert's law with wrap `w` in 0..=1, normalised so that a lamp gives the same total
/// light over all directions whatever the wrap: `max(0, n·l + w) / (1 + w)²` (∫ over the sphere = π).
#[inline]
pub fn wrapped_cosine(n_dot_l: f32, wrap: f32) -> f32 {
    let k = 1.0 / ((1.0 + wrap) * (1.0 + wrap));
    (n_dot_l + wrap).max(0.0) * k
}

/// GGX distribution of normals (Walter et al. 2007, eq. 33) for cosine `n_dot_h` and `a2 = α²`.
#[inline]
pub fn ggx_distribution(n_dot_h: f32, a2: f32) -> f32 {
    let d = n_dot_h * n_dot_h * (a2 - 1.0) + 1.0;
    a2 / (PI * d * d)
}

/// Smith masking of one direction (Walter et al. 2007, eq. 34), divided by `2 cos θ`:
/// `1 / (c + √(α² + (1 − α²) c²))`.
#[inline]
pub fn smith_over_2cos(cosine: f32, a2: f32) -> f32 {
    1.0 / (cosine + (a2 + (1.0 - a2) * cosine * cosine).sqrt())
}

/// Schlick's Fresnel term (Schlick 1994): `f0 + (1 − f0)(1 − v·h)⁵`.
#[inline]
pub fn schlick(v_dot_h: f32, f0: f32) -> f32 {
    let m = (1.0 - v_dot_h).clamp(0.0, 1.0);
    let m2 = m * m;
    f0 + (1.0 - f0) * (m2 * m2 * m)
}

/// GGX α from perceptual roughness 0..=1: its square, not under [`MIN_ALPHA`] (*common practice*).
pub fn alpha(roughness: f32) -> f32 {
    (roughness * roughness).max(MIN_ALPHA)
}

/// Single-scatter GGX reflection with separable Smith masking, *times* the cosine of the light:
/// `D·G·F / (4 n·l n·v) · n·l`. Zero where light or viewer is behind the surface.
#[inline]
pub fn ggx_times_cosine(n_dot_l: f32, n_dot_v: f32, n_dot_h: f32, v_dot_h: f32, a2: f32, f0: f32) -> f32 {
    let lit = n_dot_l > 0.0 && n_dot_v > 0.0;
    let d = ggx_distribution(n_dot_h, a2);
    // G1(l)·G1(v) / (4 n·l n·v) = smith_over_2cos(l) · smith_over_2cos(v).
    let g = smith_over_2cos(n_dot_l, a2) * smith_over_2cos(n_dot_v, a2);
    let k = d * g * schlick(v_dot_h, f0) * n_dot_l;
    if lit { k } else { 0.0 }
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::Vec3;

    /// ∫ f over the hemisphere of light directions around +z, midpoint rule in θ and φ.
    fn hemisphere(f: impl Fn(Vec3) -> f32) -> f64 {
        let (nt, np) = (600, 240);
        let mut sum = 0.0f64;
        for i in 0..nt {
            let t = (i as f32 + 0.5) / nt as f32 * PI / 2.0;
            for j in 0..np {
                let p = (j as f32 + 0.5) / np as f32 * 2.0 * PI;
                let l = Vec3::new(t.sin() * p.cos(), t.sin() * p.sin(), t.cos());
                sum += f64::from(f(l) * t.sin());
            }
        }
        sum * f64::from(PI / 2.0 / nt as f32) * f64::from(2.0 * PI / np as f32)
    }

    /// Share of a white environment that a white (F = 1) GGX surface returns to a viewer at `cos_v`.
    fn furnace(alpha: f32, cos_v: f32) -> f64 {
        let v = Vec3::new((1.0 - cos_v * cos_v).sqrt(), 0.0, cos_v);
        hemisphere(|l| {
            let h = (l + v).normalize();
            ggx_times_cosine(l.z, v.z, h.z, v.dot(h), alpha * alpha, 1.0)
        })
    }

    #[test]
    fn lambert_and_wrap_give_their_closed_forms() {
        // ∫ cos θ over the hemisphere = π; with wrap, over the whole sphere, π again.
        assert!((hemisphere(|l| wrapped_cosine(l.z, 0.0)) - f64::from(PI)).abs() < 1e-4);
        for w in [0.25, 1.0] {
            let sphere = hemisphere(|l| wrapped_cosine(l.z, w) + wrapped_cosine(-l.z, w));
            assert!((sphere - f64::from(PI)).abs() < 1e-3, "wrap {w}: {sphere}");
        }
    }

    #[test]
    fn white_furnace_loses_no_more_than_single_scattering_must() {
        // At normal incidence with α = 1 the integral is elementary: D = 1/π and Smith's G1(l) =
        // 2μ/(1+μ), so the share returned is ∫₀¹ μ/(1+μ) dμ = 1 − ln 2 (own derivation from Walter et
        // al. 2007, eq. 33–34).
        let rough = furnace(1.0, 1.0);
        assert!((rough - (1.0 - std::f64::consts::LN_2)).abs() < 1e-3, "{rough}");
        // Never more than came in, and a smooth surface returns nearly all (Heitz 2014 discusses the
        // loss: it is what the masked rays would have brought at their second bounce).
        for a in [0.1, 0.3, 0.6, 1.0] {
            for c in [1.0, 0.8, 0.5, 0.2] {
                let e = furnace(a, c);
                assert!(e < 1.001, "α {a}, cos {c}: {e}");
                assert!(e > 0.25, "α {a}, cos {c}: {e}");
            }
        }
        assert!(furnace(0.1, 1.0) > 0.98);
    }

    #[test]
    fn distribution_is_normalised() {
        // ∫ D(h) (n·h) dh = 1 (Walter et al. 2007, eq. 5 applied to a flat patch).
        for a in [0.2f32, 0.5, 1.0] {
            let whole = hemisphere(|h| ggx_distribution(h.z, a * a) * h.z);
            assert!((whole - 1.0).abs() < 2e-3, "α {a}: {whole}");
        }
    }

    #[test]
    fn schlick_ends() {
        assert_eq!(schlick(1.0, 0.04), 0.04);
        assert_eq!(schlick(0.0, 0.04), 1.0);
    }
}
