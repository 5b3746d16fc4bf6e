//! The demo's title: gilt lettering with relief over paper on which dust lies.

use jugata_core::Window;
use jugata_shot::Step;
use jugata_shot::document::{Element, FORMAT, Shot};
use jugata_shot::made::{Lettering, MadeKind, OutlineRing, Pattern, PatternForm};
use jugata_shot::steps::{Blur, EdgeLight, Emboss, Gloss, Outline, SoftShadow, StepKind, Vignette};

/// Gilt lettering with relief over paper on which dust lies.
pub(super) fn title(width: u32) -> Shot {
    // Lengths are those of a frame 1920 px wide.
    let k = width as f32 / 1920.0;
    let paper = Pattern {
        size: 420.0 * k,
        detail: 7,
        rough: 0.6,
        contrast: 0.9,
        first: [0.20, 0.150, 0.095],
        second: [0.50, 0.415, 0.29],
        ..Pattern::default()
    };
    let dust = Pattern {
        form: PatternForm::Cells,
        size: 26.0 * k,
        detail: 2,
        seed: 9,
        threshold: 0.12,
        contrast: 9.0,
        first: [0.85, 0.80, 0.68],
        first_opacity: 0.4,
        second_opacity: 0.0,
        ..Pattern::default()
    };
    let letters = Lettering {
        text: "VELDMERE\nObservatory".into(),
        size: 262.0 * k,
        later: 0.5,
        tracking: 0.03,
        leading: 1.25,
        colour: [0.46, 0.265, 0.075],
        ..Lettering::default()
    };
    Shot {
        format: FORMAT,
        name: "Veldmere title".into(),
        display: Window::of_size(width, width * 9 / 16),
        frames: None,
        rate: 24.0,
        elements: vec![
            element(1, "Paper", paper.into(), vec![Vignette::default().into()]),
            element(2, "Dust", dust.into(), vec![Blur { size: 1.2 * k, ..Blur::default() }.into()]),
            element(3, "Title", letters.into(), gilt(k)),
        ],
        drives: Vec::new(),
    }
}

/// An element that is made of something, with its steps.
pub(super) fn element(id: u32, name: &str, made: MadeKind, does: Vec<StepKind>) -> Element {
    let steps = (1..).zip(does).map(|(id, does)| Step::new(id, does)).collect();
    Element { steps, ..Element::made(id, name.into(), made) }
}

/// Gold with a highlight, a mirror and a cool rim, where lengths are `k` times as long.
pub(super) fn gilt(k: f32) -> Vec<StepKind> {
    let shadow = SoftShadow { offset: 16.0 * k, soft: 26.0 * k, opacity: 0.75, ..SoftShadow::default() };
    let ring = OutlineRing { id: 1, width: 2.5 * k, colour: [0.03, 0.014, 0.004], ..OutlineRing::default() };
    let emboss = Emboss { width: 11.0 * k, light_soft: 1.5 * k, dark_soft: 3.0 * k, ..Emboss::default() };
    let gloss = Gloss { width: 14.0 * k, soft: 2.0 * k, intensity: 0.32, ..Gloss::default() };
    let rim = EdgeLight {
        width: 16.0 * k,
        soft: 6.0 * k,
        from: 320.0,
        colour: [0.55, 0.75, 1.0],
        intensity: 0.45,
        ..EdgeLight::default()
    };
    vec![
        shadow.into(),
        Outline { rings: vec![ring], ..Outline::default() }.into(),
        emboss.into(),
        gloss.into(),
        rim.into(),
    ]
}
