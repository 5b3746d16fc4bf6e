//! The demo shots: the Veldmere orrery with one lamp added, and the observatory's title.

use crate::App;
use crate::error::Failure;
use jugata_core::{Scale, Window};
use jugata_shot::document::{Element, FORMAT, Limit, LimitBy, Shot};
use jugata_shot::engine::{Engine, Request, Target};
use jugata_shot::lamp::Lamp;
use jugata_shot::made::{Lettering, MadeKind, OutlineRing, Pattern, PatternForm};
use jugata_shot::steps::{Blur, EdgeLight, Emboss, Exposure, Gloss, Outline, SoftShadow, StepKind, Vignette};
use jugata_shot::{Step, intake};
use jugata_standin::orrery::object_id;
use jugata_standin::{Settings, export, render};
use rocket::http::Status;
use rocket::tokio::task::spawn_blocking;
use uuid::Uuid;

/// Renders the orrery with the stand-in renderer and makes a shot of it.
///
/// # Errors
/// The database or the media store.
pub async fn make(rooms: &App, settings: Settings) -> Result<Uuid, Failure> {
    let limits = rooms.config.limits;
    let broken = |e: rocket::tokio::task::JoinError| Failure::new(Status::InternalServerError, e.to_string());
    let (bytes, file) = spawn_blocking(move || {
        let bytes = export::exr(&render(&settings))?;
        let file = jugata_exchange::read(&bytes, &limits)?;
        Ok::<_, jugata_exchange::ExchangeError>((bytes, file))
    })
    .await
    .map_err(broken)??;
    let size = bytes.len() as u64;
    let id = rooms.media.put(bytes).await?;
    let mut shot = intake::shot_of(&file, "veldmere_orrery.exr", id.clone());
    shot.name = "Veldmere orrery".into();
    let element = &mut shot.elements[0];
    element.name = "Orrery".into();
    element.steps = steps();
    let (store, engine) = (rooms.store.clone(), rooms.engine.clone());
    spawn_blocking(move || {
        finish(&engine, &mut shot)?;
        store.note_media(&id, "veldmere_orrery.exr", size)?;
        Ok(store.create(&shot, "Bring in the orrery")?)
    })
    .await
    .map_err(broken)?
}

/// Lets the lamps of the first step fall on brass as on brass, as one click in the deck does.
fn finish(engine: &Engine, shot: &mut Shot) -> Result<(), Failure> {
    let element = shot.elements[0].id;
    let request = Request::frame(shot, Target::Untouched { element }, Scale::FULL);
    let told = engine.finishes(shot, element, &request)?;
    if let Some(StepKind::Relight(r)) = shot.elements[0].steps.first_mut().map(|s| &mut s.does) {
        r.finishes = told.finishes;
    }
    Ok(())
}

/// Makes the shot of the observatory's title on a frame of this width (16:9).
///
/// # Errors
/// The database.
pub async fn make_title(rooms: &App, width: u32) -> Result<Uuid, Failure> {
    let store = rooms.store.clone();
    spawn_blocking(move || store.create(&title(width), "Make the title"))
        .await
        .map_err(|e| Failure::new(Status::InternalServerError, e.to_string()))?
        .map_err(Failure::from)
}

/// Gilt lettering with relief over paper on which dust lies.
fn title(width: u32) -> Shot {
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
    let shadow = SoftShadow { offset: 16.0 * k, soft: 26.0 * k, opacity: 0.75, ..SoftShadow::default() };
    let outline =
        OutlineRing { id: 1, width: 2.5 * k, colour: [0.03, 0.014, 0.004], ..OutlineRing::default() };
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
    let steps = |all: Vec<StepKind>| (1..).zip(all).map(|(id, does)| Step::new(id, does)).collect();
    let element = |id, name: &str, made: MadeKind, does| Element {
        steps: steps(does),
        ..Element::made(id, name.into(), made)
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
            element(
                3,
                "Title",
                letters.into(),
                vec![
                    shadow.into(),
                    Outline { rings: vec![outline], ..Outline::default() }.into(),
                    emboss.into(),
                    gloss.into(),
                    rim.into(),
                ],
            ),
        ],
        drives: Vec::new(),
    }
}

/// A cool light from the right on everything but the wall, and a darker wall.
fn steps() -> Vec<Step> {
    let wall = || Limit::of(LimitBy::Objects { ids: vec![object_id("Wall")] });
    let lamp =
        Lamp { toward: [0.78, 0.35, 0.52], colour: [0.55, 0.78, 1.0], intensity: 0.5, ..Lamp::default() };
    let mut light = Step::new(1, StepKind::Relight(lamp.into()));
    light.only_where = Some(wall().inverted());
    let mut darker = Step::new(2, StepKind::Exposure(Exposure { stops: -0.6 }));
    darker.only_where = Some(wall());
    vec![light, darker]
}
