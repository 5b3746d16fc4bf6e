//! Passes with too few levels for what they are used for.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind};
use super::statistics::spread;
use crate::Role;
use crate::passes::stored::{SampleKind, stepped};

/// How finely values are really stepped, whatever type they came in.
fn really_stepped(pass: &Evidence) -> SampleKind {
    let r = &pass.stored;
    let values: Vec<f32> = (0..r.channels().min(3))
        .flat_map(|c| spread(r.window().area()).map(move |i| r.plane(c)[i]))
        .collect();
    match stepped(&values) {
        // Halves are what is expected where the file says so.
        Some(SampleKind::Half) if pass.kind != SampleKind::Float => pass.kind,
        found => found.unwrap_or(pass.kind),
    }
}

/// Size of a texture for which the steps of UV are told, px.
const TEXTURE: f32 = 2048.0;

pub(super) fn check(case: &Case, pass: &Evidence) -> Vec<Finding> {
    if pass.stored.window().is_empty() {
        return Vec::new();
    }
    let kind = match pass.role {
        Role::Uv
        | Role::StMap
        | Role::Motion
        | Role::Normal
        | Role::Depth
        | Role::Position
        | Role::Height => really_stepped(pass),
        _ => return Vec::new(),
    };
    cost(case, pass, kind)
        .filter(|_| kind != SampleKind::Float)
        .map(|cost| {
            let words = format!(
                "Its values step as {} does, so what is made from it shows steps. Ask for it in 32-bit float.",
                kind.label()
            );
            Finding::new(pass, FindingKind::TooFewLevels, 0.97, words).costs(cost)
        })
        .into_iter()
        .collect()
}

/// The step in the unit that matters, where it matters.
fn cost(case: &Case, pass: &Evidence, kind: SampleKind) -> Option<String> {
    let display = case.setting().display;
    match pass.role {
        Role::Uv => {
            // A tenth of a texel is seen by nobody; half a texel shimmers. (Our own choice.)
            let px = kind.step_at(0.75) * TEXTURE;
            (px > 0.2).then(|| format!("steps of {px:.2} px on a texture of {TEXTURE} px"))
        }
        Role::StMap => {
            let px = kind.step_at(0.75) * display.width.max(display.height) as f32 * 0.5;
            (px > 0.05).then(|| format!("off by up to {px:.2} px"))
        }
        Role::Motion if kind <= SampleKind::Word => {
            let c = &pass.convention;
            let unit = if c.motion_unit == Default::default() { 1.0 } else { display.width as f32 };
            let px = kind.step_at(0.75) * unit * c.motion_scale[0].abs() * 2.0;
            (px > 0.05).then(|| format!("steps of {px:.2} px"))
        }
        Role::Normal if kind == SampleKind::Byte => {
            // Half a step of 2/255 against a unit vector, in degrees (reference.md, section 1).
            let degrees = (1.0f32 / 255.0).atan().to_degrees();
            Some(format!("directions off by up to {degrees:.2}° an axis; gloss shows rings"))
        }
        Role::Depth | Role::Height | Role::Position => {
            let (low, high) = range(pass)?;
            let step = kind.step_at(pass.surfaces().fold(0.0, |a, v| a.max(v.abs())));
            let scale = pass.stored_range().map_or(1.0, |r| (high - low) / r);
            let levels = (high - low) / (step * scale);
            (levels < 1000.0).then(|| format!("{levels:.0} levels of {:.3} units each", step * scale))
        }
        _ => None,
    }
}

/// Finite range of canonical values.
fn range(pass: &Evidence) -> Option<(f32, f32)> {
    let ends = pass
        .canonical
        .plane(0)
        .iter()
        .filter(|v| v.is_finite())
        .fold((f32::INFINITY, f32::NEG_INFINITY), |(a, b), v| (a.min(*v), b.max(*v)));
    (ends.1 > ends.0).then_some(ends)
}

impl Evidence {
    /// Stored values of the first plane that are no background.
    fn surfaces(&self) -> impl Iterator<Item = f32> {
        let nothing = self.convention.background;
        let is = move |s: f32, c: f32| s.is_finite() && c.is_finite() && nothing != Some(s);
        self.stored
            .plane(0)
            .iter()
            .zip(self.canonical.plane(0))
            .filter(move |(s, c)| is(**s, **c))
            .map(|(s, _)| *s)
    }

    /// Range of those values.
    fn stored_range(&self) -> Option<f32> {
        let (a, b) =
            self.surfaces().fold((f32::INFINITY, f32::NEG_INFINITY), |(a, b), v| (a.min(v), b.max(v)));
        (b > a).then_some(b - a)
    }
}
