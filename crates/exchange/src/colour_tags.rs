//! What the tags of a picture say of its colour: code points, chromaticities, a power, an ICC profile.

use jugata_core::colour::primaries::{self, Primaries};
use jugata_core::colour::{ColourSpace, srgb_decode};
use moxcms::{ColorProfile, ToneReprCurve};

/// How colour is encoded, and what is told of it.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Encoding {
    pub colour: ColourSpace,
    pub primaries: Option<Primaries>,
    pub gamma: Option<f32>,
    pub note: Option<String>,
}

impl Encoding {
    /// Plain sRGB with a word on it.
    pub fn srgb(note: Option<&str>) -> Self {
        Self { colour: ColourSpace::Srgb, note: note.map(str::to_owned), ..Self::default() }
    }

    /// Other primaries, unless they are those of Rec.709.
    fn with(mut self, own: Primaries) -> Self {
        self.primaries = Some(own).filter(|p| !p.near(&primaries::REC709) && p.is_sound());
        self
    }
}

/// Code points (ITU-T H.273, tables 2 and 3); `None` for those that are not applied.
pub(crate) fn code_points(colours: u8, transfer: u8) -> Option<Encoding> {
    let own = match colours {
        1 => primaries::REC709,
        9 => primaries::REC2020,
        12 => primaries::P3_D65,
        _ => return None,
    };
    let encoding = match transfer {
        8 => Encoding::default(),
        13 => Encoding::srgb(None),
        // The curve of cameras is shown by the power 2.4 (ITU-R BT.1886).
        1 | 6 | 14 | 15 => Encoding { colour: ColourSpace::Rec709, ..Encoding::default() },
        4 => Encoding { gamma: Some(2.2), ..Encoding::default() },
        _ => return None,
    };
    let name = own.name().unwrap_or("Rec.709");
    let note = Some(format!(
        "Its header gives code points: {name} primaries, transfer {transfer}; they are applied."
    ));
    Some(Encoding { note, ..encoding.with(own) })
}

/// A power and chromaticities, as PNG has them in gAMA and cHRM.
pub(crate) fn power(gamma: Option<f32>, chromaticities: Option<Primaries>) -> Option<Encoding> {
    let encoding = match gamma {
        Some(g) if (g - 1.0).abs() < 0.01 => {
            Encoding { note: Some("Its header says linear (gAMA 1).".into()), ..Encoding::default() }
        }
        // 0.45455 is how PNG says sRGB's power where it does not say sRGB (PNG, third edition, 11.3.2.2).
        Some(g) if (g - 0.454_55).abs() < 0.002 => Encoding::srgb(None),
        Some(g) if (0.1..1.0).contains(&g) => Encoding {
            gamma: Some(1.0 / g),
            note: Some(format!("Its header says gAMA {g:.4}; that is applied.")),
            ..Encoding::default()
        },
        _ => Encoding::srgb(None),
    };
    (gamma.is_some() || chromaticities.is_some()).then(|| match chromaticities {
        Some(c) => encoding.with(c),
        None => encoding,
    })
}

/// An ICC profile of three primaries and curves (ICC.1:2022, 8.3.3); any other is named and not applied.
pub(crate) fn profile(bytes: &[u8]) -> Encoding {
    let refused =
        || Encoding::srgb(Some("It carries an ICC profile that is not applied; it is taken for sRGB."));
    let read = std::panic::catch_unwind(|| ColorProfile::new_from_slice(bytes).ok()).ok().flatten();
    let Some(p) = read else { return refused() };
    let Some(curve) = &p.green_trc else { return refused() };
    let at = |c: moxcms::Xyzd| {
        let sum = c.x + c.y + c.z;
        [(c.x / sum) as f32, (c.y / sum) as f32]
    };
    let all = [at(p.red_colorant), at(p.green_colorant), at(p.blue_colorant), primaries::D50].concat();
    let Ok(own) = <[f32; 8]>::try_from(all).map(Primaries) else { return refused() };
    let Some(curved) = curve_of(curve).filter(|_| own.is_sound()) else { return refused() };
    // Colorants of sRGB, adapted to D50 as profiles hold them, are Rec.709 as far as files are exact.
    let m = own.to_rec709();
    let same = m
        .iter()
        .enumerate()
        .all(|(r, row)| row.iter().enumerate().all(|(c, v)| (v - f32::from(u8::from(r == c))).abs() < 0.01));
    let words = "It carries an ICC profile of primaries and curves; it is applied.";
    Encoding { primaries: (!same).then_some(own), note: (!same).then(|| words.into()), ..curved }
}

/// The curve that comes nearest: sRGB or a power; `None` for one that is neither.
fn curve_of(curve: &ToneReprCurve) -> Option<Encoding> {
    let value = |x: f32| -> Option<f32> {
        match curve {
            ToneReprCurve::Lut(table) if table.is_empty() => Some(x),
            // One number is a power, in 1/256 (ICC.1:2022, 10.6).
            ToneReprCurve::Lut(table) if table.len() == 1 => Some(x.powf(f32::from(table[0]) / 256.0)),
            ToneReprCurve::Lut(table) => {
                let at = x * (table.len() - 1) as f32;
                let (low, high) = (at.floor() as usize, at.ceil() as usize);
                let (a, b) = (f32::from(*table.get(low)?), f32::from(*table.get(high)?));
                Some((a + (b - a) * at.fract()) / 65_535.0)
            }
            ToneReprCurve::Parametric(p) => parametric(p, x),
        }
    };
    let places = [0.1, 0.25, 0.4, 0.5, 0.6, 0.75, 0.9];
    let values: Vec<f32> = places.iter().filter_map(|x| value(*x)).collect();
    if values.len() < places.len() || values.iter().any(|v| !v.is_finite() || *v <= 0.0) {
        return None;
    }
    let off = |of: &dyn Fn(f32) -> f32| {
        places.iter().zip(&values).map(|(x, v)| (of(*x) - v).abs()).fold(0.0, f32::max)
    };
    let gamma = places.iter().zip(&values).map(|(x, v)| v.ln() / x.ln()).sum::<f32>() / places.len() as f32;
    if off(&srgb_decode) < 0.003 {
        Some(Encoding::srgb(None))
    } else if (gamma - 1.0).abs() < 0.01 {
        Some(Encoding::default())
    } else {
        (off(&|x| x.powf(gamma)) < 0.01).then(|| Encoding { gamma: Some(gamma), ..Encoding::default() })
    }
}

/// The parametric curves (ICC.1:2022, 10.18, table 67), by the number of their parameters.
fn parametric(p: &[f32], x: f32) -> Option<f32> {
    let power = |v: f32, g: f32| v.max(0.0).powf(g);
    Some(match *p {
        [g] => power(x, g),
        [g, a, b] => {
            if x >= -b / a {
                power(a * x + b, g)
            } else {
                0.0
            }
        }
        [g, a, b, c] => {
            if x >= -b / a {
                power(a * x + b, g) + c
            } else {
                c
            }
        }
        [g, a, b, c, d] => {
            if x >= d {
                power(a * x + b, g)
            } else {
                c * x
            }
        }
        [g, a, b, c, d, e, f] => {
            if x >= d {
                power(a * x + b, g) + e
            } else {
                c * x + f
            }
        }
        _ => return None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn code_points_and_powers_say_how_colour_is_stored() {
        assert_eq!(code_points(1, 13).unwrap().colour, ColourSpace::Srgb);
        let p3 = code_points(12, 13).unwrap();
        assert!(p3.primaries.unwrap().near(&primaries::P3_D65) && p3.colour == ColourSpace::Srgb);
        assert_eq!(code_points(9, 8).unwrap().colour, ColourSpace::Linear);
        assert_eq!(code_points(9, 16), None, "perceptual quantiser: not applied");
        assert_eq!(power(Some(0.5), None).unwrap().gamma, Some(2.0));
        assert_eq!(power(Some(0.454_55), None).unwrap().colour, ColourSpace::Srgb);
        assert_eq!(power(None, None), None);
    }

    #[test]
    fn profiles_of_primaries_and_curves_are_applied() {
        let srgb = profile(&ColorProfile::new_srgb().encode().unwrap());
        assert_eq!((srgb.colour, srgb.primaries, srgb.gamma), (ColourSpace::Srgb, None, None));
        let p3 = profile(&ColorProfile::new_display_p3().encode().unwrap());
        assert_eq!(p3.colour, ColourSpace::Srgb);
        let (got, want) = (p3.primaries.unwrap().to_rec709(), primaries::P3_D65.to_rec709());
        for (a, b) in got.iter().flatten().zip(want.iter().flatten()) {
            assert!((a - b).abs() < 3e-3, "{got:?} {want:?}");
        }
        assert!(profile(b"no profile").note.unwrap().contains("not applied"));
    }
}
