//! Presets that the demo brings along: looks of letters, and a background that is kept apart.

use super::title::{element, gilt, title};
use crate::error::Failure;
use jugata_core::Scale;
use jugata_core::relief::bevel::Profile;
use jugata_shot::document::{Limit, NamedMatte, Shot, Step};
use jugata_shot::engine::{Engine, Request, Target};
use jugata_shot::look::small_png;
use jugata_shot::made::{Lettering, Solid};
use jugata_shot::parts::{DepthPart, NamedPart, PartKind};
use jugata_shot::preset::Preset;
use jugata_shot::steps::{
    Colour, EdgeLight, Emboss, Exposure, Gloss, Glow, LightWrap, ShadowFalls, SoftShadow, StepKind,
    SurroundFrom,
};
use jugata_store::Store;

/// The letters that looks are shown on, px of an em.
const LETTERS: f32 = 262.0;

/// Keeps the presets, each with its picture; `orrery` is the demo's shot of a render.
///
/// # Errors
/// The database; a picture that cannot be made.
pub(super) fn keep(store: &Store, engine: &Engine, orrery: &Shot) -> Result<(), Failure> {
    let letters = [
        ("Gilt letters", gilt(1.0)),
        ("Carved in", carved()),
        ("Cut glass", glass()),
        ("Lit from behind", behind()),
    ];
    // The last is shown first.
    for (name, does) in letters.into_iter().rev() {
        saved((store, engine), name, &lettered(does), 2)?;
    }
    let mut apart = orrery.clone();
    apart.elements[0].mattes.push(far());
    apart.elements[0].steps = background_apart();
    saved((store, engine), "Background kept apart", &apart, 1)
}

/// Saves all steps of an element under a name.
fn saved((store, engine): (&Store, &Engine), name: &str, shot: &Shot, id: u32) -> Result<(), Failure> {
    let Some(element) = shot.element(id) else { return Ok(()) };
    let steps: Vec<u32> = element.steps.iter().map(|s| s.id).collect();
    let preset = Preset::of(name, element, shot.display, &steps)?;
    let picture = small_png(engine, shot, &Request::frame(shot, Target::Shot, Scale::FULL))?;
    store.save_preset(&preset, Some(&picture))?;
    Ok(())
}

/// Letters with a look, over an even ground.
fn lettered(does: Vec<StepKind>) -> Shot {
    let ground = Solid { colour: [0.13, 0.14, 0.16], ..Solid::default() };
    let letters =
        Lettering { text: "Aa".into(), size: LETTERS, colour: [0.46, 0.265, 0.075], ..Lettering::default() };
    let mut shot = title(640);
    shot.elements =
        vec![element(1, "Ground", ground.into(), Vec::new()), element(2, "Letters", letters.into(), does)];
    shot
}

/// Letters that are sunk into their ground.
fn carved() -> Vec<StepKind> {
    let emboss = Emboss {
        width: 14.0,
        height: -1.2,
        profile: Profile::Chamfer,
        light_opacity: 0.5,
        dark_soft: 4.0,
        ..Emboss::default()
    };
    let within = SoftShadow {
        falls: ShadowFalls::Within,
        offset: 14.0,
        soft: 18.0,
        opacity: 0.8,
        ..SoftShadow::default()
    };
    let lip = EdgeLight { width: 3.0, soft: 1.5, from: 305.0, intensity: 0.5, ..EdgeLight::default() };
    vec![Exposure { stops: -0.6 }.into(), emboss.into(), within.into(), lip.into()]
}

/// Clear letters that mirror bars of light.
fn glass() -> Vec<StepKind> {
    let clear = Colour { saturation: 0.15, ..Colour::default() };
    let mirror = Gloss {
        width: 30.0,
        from: SurroundFrom::Bars,
        bars: 6,
        roughness: 0.06,
        intensity: 1.2,
        soft: 3.0,
        tint: [0.8, 0.93, 1.0],
        ..Gloss::default()
    };
    let rim = EdgeLight {
        width: 8.0,
        soft: 3.0,
        narrow: 0.0,
        colour: [0.7, 0.9, 1.0],
        intensity: 0.6,
        ..EdgeLight::default()
    };
    let shadow = SoftShadow { offset: 10.0, soft: 40.0, opacity: 0.5, ..SoftShadow::default() };
    vec![shadow.into(), clear.into(), Exposure { stops: -1.2 }.into(), mirror.into(), rim.into()]
}

/// Dark letters before a lamp.
fn behind() -> Vec<StepKind> {
    let rim = EdgeLight {
        width: 5.0,
        soft: 3.0,
        narrow: 0.0,
        colour: [1.0, 0.55, 0.2],
        intensity: 1.6,
        ..EdgeLight::default()
    };
    let glow = Glow { threshold: 0.35, size: 60.0, intensity: 1.4, ..Glow::default() };
    let wrap = LightWrap { width: 30.0, blur: 40.0, intensity: 2.0, ..LightWrap::default() };
    vec![Exposure { stops: -3.0 }.into(), wrap.into(), rim.into(), glow.into()]
}

/// What lies far off: the one matte of all steps that keep a background apart, so that it is set once.
fn far() -> NamedMatte {
    let by = PartKind::from(DepthPart { near: 8.0, far: 1e6, near_soft: 1.5, far_soft: 0.0 });
    NamedMatte { id: 90, name: "far off".into(), matte: Limit::of(by) }
}

/// Greyer and darker behind.
fn background_apart() -> Vec<Step> {
    let of_far = |id, does| {
        let mut step = Step::new(id, does);
        step.only_where = Some(Limit::of(NamedPart { matte: 90 }));
        step
    };
    let grey = Colour { saturation: 0.2, contrast: 0.85, ..Colour::default() };
    vec![of_far(1, grey.into()), of_far(2, Exposure { stops: -1.3 }.into())]
}
