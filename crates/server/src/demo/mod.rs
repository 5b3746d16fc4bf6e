//! The demo shots: the Veldmere orrery with one lamp added, a take of it turning, a ship of paper that drifts past the take, a
//! streak of the orrery's light on its table, and the observatory's title.

mod drift;
mod presets;
mod streak;
mod title;

use crate::app::App;
use crate::error::Failure;
use drift::drift;
use jugata_core::{Raster, Scale, Window};
use jugata_shot::document::{Limit, Shot};
use jugata_shot::drives::{Drift, Drive, DrivenBy, Goes, Key};
use jugata_shot::engine::{Engine, Request, Target};
use jugata_shot::files::MediaFile;
use jugata_shot::handoff::{FileForm, Format, encode_made};
use jugata_shot::lamp::Lamp;
use jugata_shot::parts::{DepthPart, ObjectsPart, PartKind};
use jugata_shot::steps::{Exposure, Refocus, StepKind};
use jugata_shot::{ShotError, Step, intake};
use jugata_standin::orrery::object_id;
use jugata_standin::{Passes, Settings, export, render};
use rocket::http::Status;
use rocket::tokio::task::{JoinError, spawn_blocking};
use std::sync::Arc;
use title::title;
use uuid::Uuid;

/// What a thread that broke off is to whoever waited for it.
fn broken(e: JoinError) -> Failure {
    Failure::new(Status::InternalServerError, e.to_string())
}

/// A render of the stand-in, kept as a file of a name, as a shot of its own that is not kept yet.
async fn brought(rooms: &App, settings: Settings, name: &'static str) -> Result<Shot, Failure> {
    let limits = rooms.config.limits;
    let (bytes, file) = spawn_blocking(move || {
        let bytes = export::exr(&render(&settings))?;
        let file = jugata_exchange::read(&bytes, &limits)?;
        Ok::<_, jugata_exchange::ExchangeError>((bytes, file))
    })
    .await
    .map_err(broken)??;
    let kept = kept(rooms, name.into(), bytes).await?;
    Ok(intake::shot_of(&file, name, kept.media))
}

/// A file of a name, kept and noted.
async fn kept(rooms: &App, name: String, bytes: Vec<u8>) -> Result<MediaFile, Failure> {
    let size = bytes.len() as u64;
    let media = rooms.media.put(bytes).await?;
    let (store, file) = (rooms.store.clone(), MediaFile { name, media });
    spawn_blocking(move || {
        store.note_media(&file.media, &file.name, size)?;
        Ok(file)
    })
    .await
    .map_err(broken)?
}

/// Renders the orrery with the stand-in renderer and makes a shot of it.
///
/// # Errors
/// The database or the media store.
pub async fn make(rooms: &App, settings: Settings) -> Result<Uuid, Failure> {
    let mut shot = brought(rooms, settings, "veldmere_orrery.exr").await?;
    shot.name = "Veldmere orrery".into();
    let element = &mut shot.elements[0];
    element.name = "Orrery".into();
    element.steps = steps();
    let (store, engine) = (rooms.store.clone(), rooms.engine.clone());
    spawn_blocking(move || {
        finish(&engine, &mut shot)?;
        Ok(store.create(&shot, "Bring in the orrery")?)
    })
    .await
    .map_err(broken)?
}

/// Frames of the take.
pub const FRAMES: i32 = 48;

/// The orrery's own frames from one of the take to the next.
const PACE: i32 = 3;

/// Renders a take of the orrery turning and makes a shot of it: the focus goes from one planet to another, a lamp drifts, and
/// what is near comes out of the dark.
///
/// # Errors
/// The database or the media store.
pub async fn make_take(rooms: &App, settings: Settings, frames: i32) -> Result<Uuid, Failure> {
    let mut files = Vec::new();
    let mut seen = Vec::new();
    for frame in 1..=frames {
        let settings = Settings { frame: PACE * frame, ..settings.clone() };
        let (bytes, far) = spawn_blocking(move || {
            let passes = render(&settings);
            Ok::<_, jugata_exchange::ExchangeError>((
                export::slim(&passes)?,
                RACK.map(|name| far(&passes, name)),
            ))
        })
        .await
        .map_err(broken)??;
        files.push(kept(rooms, format!("veldmere_take.{frame:04}.exr"), bytes).await?);
        seen.push(far);
    }
    let (store, engine) = (rooms.store.clone(), rooms.engine.clone());
    spawn_blocking(move || {
        let mut shot = intake::shot_of_files(&files, engine.as_ref())?;
        shot.name = "Veldmere take".into();
        let element = &mut shot.elements[0];
        element.name = "Orrery".into();
        (element.steps, shot.drives) = take_steps(frames, &seen);
        Ok(store.create(&shot, "Bring in the take")?)
    })
    .await
    .map_err(broken)?
}

/// Renders a ship of paper as large as a take's frames, and makes a shot of it drifting past that take.
///
/// # Errors
/// The database or the media store; no such shot.
pub async fn make_drift(rooms: &App, take: Uuid) -> Result<Uuid, Failure> {
    let store = rooms.store.clone();
    let take = spawn_blocking(move || store.load(take)).await.map_err(broken)??.shot;
    let size = Settings::sized(take.display.width, take.display.height, 4);
    let ship = brought(rooms, Settings { ship: true, ..size }, "veldmere_ship.exr").await?;
    let ship = ship.elements.into_iter().next().ok_or(ShotError::Missing { what: "element", id: 1 })?;
    let store = rooms.store.clone();
    spawn_blocking(move || Ok(store.create(&drift(take, ship), "Let the ship drift")?))
        .await
        .map_err(broken)?
}

/// Lifts the sun out of a take's picture, and makes a shot of it lying as a streak of light on the table.
///
/// # Errors
/// The database or the media store; no such shot.
pub async fn make_streak(rooms: &App, take: Uuid) -> Result<Uuid, Failure> {
    let (store, engine) = (rooms.store.clone(), rooms.engine.clone());
    let (take, lifted) = spawn_blocking(move || {
        let take = store.load(take)?.shot;
        let element = take.elements.first().map_or(1, |e| e.id);
        let whole = Request::frame(&take, Target::Untouched { element }, Scale::FULL);
        let part = Request { window: streak::sun(take.display), frame: take.first_frame(), ..whole };
        let mut seen = engine.evaluate(&take, &part)?;
        // It is a picture of its own, whose frame begins at its own corner.
        let own = Window::of_size(part.window.width, part.window.height);
        let lifted = seen.raster.clone();
        let at = |c, x, y| lifted.sample(c, x + part.window.x, y + part.window.y).unwrap_or(0.0);
        seen.raster = Arc::new(Raster::from_fn(own, lifted.channels(), at));
        let form = FileForm { format: Format::ExrHalf, ..FileForm::default() };
        let alone = Shot { display: own, ..take.clone() };
        let request = Request { window: own, ..part };
        Ok::<_, Failure>((take, encode_made(&engine, &seen, &[], &alone, &request, &form)?))
    })
    .await
    .map_err(broken)??;
    let sun = kept(rooms, "veldmere_sun.exr".into(), lifted).await?;
    let store = rooms.store.clone();
    spawn_blocking(move || Ok(store.create(&streak::streak(take, sun), "Lay the light on the table")?))
        .await
        .map_err(broken)?
}

/// The planets between which the focus goes.
const RACK: [&str; 2] = ["Ringed", "Enamel"];

/// Depth of the middle of an object, scene units.
fn far(passes: &Passes, name: &str) -> f32 {
    let id = object_id(name) as f32;
    let (ids, depths) = (passes.id.plane(0), passes.depth.plane(0));
    let mut own: Vec<f32> =
        ids.iter().zip(depths).filter(|(i, z)| **i == id && z.is_finite()).map(|(_, z)| *z).collect();
    own.sort_by(f32::total_cmp);
    own.get(own.len() / 2).copied().unwrap_or(9.0)
}

/// What is done in the take, and what moves it. `seen` has the depths of both planets on each frame.
fn take_steps(frames: i32, seen: &[[f32; 2]]) -> (Vec<Step>, Vec<Drive>) {
    let at = |share: f32| 1.0 + (share * (frames - 1) as f32).round();
    let depth = |share: f32, planet: usize| seen.get(at(share) as usize - 1).map_or(9.0, |far| far[planet]);
    let near = |near: f32| PartKind::from(DepthPart { near, far: 100.0, near_soft: 1.5, far_soft: 0.0 });
    let mut dark = Step::new(1, StepKind::Exposure(Exposure { stops: -3.5 }));
    dark.only_where = Some(Limit::of(near(20.0)).inverted());
    let lamp =
        Lamp { toward: [0.78, 0.35, 0.52], colour: [0.55, 0.78, 1.0], intensity: 0.6, ..Lamp::default() };
    let light = Step::new(2, StepKind::Relight(lamp.into()));
    let blur = Refocus { far_px: 20.0, near_px: 20.0, ..Refocus::default() };
    let rack = Step::new(3, blur.into());
    let keyed = |id, at: &str, keys: &[(f32, f32)]| Drive {
        id,
        at: format!("elements/1/steps/{at}"),
        by: Some(DrivenBy::Keys {
            keys: keys
                .iter()
                .map(|&(frame, v)| Key { frame, value: vec![v].into(), goes: Goes::Smooth })
                .collect(),
        }),
        drift: None,
    };
    let drives = vec![
        // All but the wall is dark at first; then the threshold comes nearer, and what is farther than it is seen.
        keyed(1, "1/only_where/parts/1/by/near", &[(at(0.0), 13.0), (at(0.3), 1.0)]),
        Drive {
            id: 2,
            at: "elements/1/steps/2/does/lamps/1/toward".into(),
            by: None,
            drift: Some(Drift { amount: 0.35, period: 16.0, seed: 4 }),
        },
        keyed(3, "3/does/focus", &[(at(0.35), depth(0.35, 0)), (at(0.75), depth(0.75, 1))]),
    ];
    (vec![dark, light, rack], drives)
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
        .map_err(broken)?
        .map_err(Failure::from)
}

/// Keeps some presets: looks of letters, and a background that is kept apart, as seen on the shot of the orrery.
///
/// # Errors
/// The database; no such shot.
pub async fn make_presets(rooms: &App, orrery: Uuid) -> Result<(), Failure> {
    let (store, engine) = (rooms.store.clone(), rooms.engine.clone());
    spawn_blocking(move || presets::keep(&store, &engine, &store.load(orrery)?.shot)).await.map_err(broken)?
}

/// A cool light from the right on everything but the wall, and a darker wall.
fn steps() -> Vec<Step> {
    let wall = || Limit::of(ObjectsPart { ids: vec![object_id("Wall")] });
    let lamp =
        Lamp { toward: [0.78, 0.35, 0.52], colour: [0.55, 0.78, 1.0], intensity: 0.5, ..Lamp::default() };
    let mut light = Step::new(1, StepKind::Relight(lamp.into()));
    light.only_where = Some(wall().inverted());
    let mut darker = Step::new(2, StepKind::Exposure(Exposure { stops: -0.6 }));
    darker.only_where = Some(wall());
    vec![light, darker]
}
