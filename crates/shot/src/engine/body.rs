//! How a body of an element lies now beside another frame: the ways that it went from each frame to the next, one after the
//! other. Each of them is worked out once for as long as the passes of its two frames stay.

use super::key::{self, ContentHash, Hashes};
use super::reader::{Area, Reader, lacks};
use super::request::Request;
use super::scene::Scene;
use super::wants::found;
use crate::error::ShotError;
use crate::inputs::Body;
use crate::wants::{Want, cover, needs};
use glam::{DAffine3, DMat3, DVec3};
use jugata_core::track::body;
use jugata_core::{Camera, Raster, Role, Scale, Window};
use std::sync::Arc;

/// What asks, in words.
const WHAT: &str = "Following a body";

/// Raised when the same passes give another way.
const VERSION: u32 = 1;

/// Frames between the one on which a body is fitted and the one that is seen, at most.
const MOST: u32 = 2000;

/// What is read of a frame.
fn wants(matte: Option<u32>) -> Vec<Want> {
    vec![needs(Role::Position), cover(matte), needs(Role::Motion)]
}

/// Content of positions, of what shows the body, and of motion on each frame between now and another one; `None` where bodies
/// are not followed.
pub(super) fn content(
    known: &Hashes<'_>,
    reader: Reader<'_>,
    matte: Option<u32>,
    at: u32,
) -> Option<ContentHash> {
    let by = known.until(at);
    if !known.follows_bodies() || by.unsigned_abs() > MOST {
        return None;
    }
    Some(key::of(&("body", VERSION, by < 0, contents(known, reader, matte, by).ok()?)))
}

/// The same of each frame, from the first on.
fn contents(
    known: &Hashes<'_>,
    reader: Reader<'_>,
    matte: Option<u32>,
    by: i32,
) -> Result<Vec<Contents>, ShotError> {
    let of = |by: i32| {
        let still = known.later(by.into())?;
        let element = key::element_of(&still, reader.element.id)?;
        let reader = Reader { element, after: 0, ..reader };
        Ok(key::contents(&known.of_other(&still), reader, &wants(matte)))
    };
    (by.min(0)..=by.max(0)).map(of).collect()
}

/// Content of what is read of a frame: places first.
type Contents = Vec<Option<ContentHash>>;

/// A body as it lay on another frame of the shot, and how it went on; `None` where bodies are not followed.
pub(super) fn body(
    scene: Scene<'_>,
    reader: Reader<'_>,
    matte: Option<u32>,
    at: u32,
    request: &Request,
) -> Result<Option<Body>, ShotError> {
    if !scene.hashes.follows_bodies() {
        return Ok(None);
    }
    let by = scene.hashes.until(at);
    if by.unsigned_abs() > MOST {
        let what = format!("it is not followed through more than {MOST} frames; fit it on a nearer one");
        return Err(ShotError::Parameter { place: WHAT.into(), what });
    }
    let followed = Followed { scene, reader, matte, request };
    let then = followed.frame(by, request.scale)?;
    // From the earlier of the two on.
    let frames = contents(scene.hashes, reader, matte, by)?;
    let mut way = DAffine3::IDENTITY;
    for (step, pair) in (by.min(0)..).zip(frames.windows(2)) {
        request.cancel.check()?;
        way = body::settled(followed.step(step, &pair[0], &pair[1])? * way);
    }
    let back = if by < 0 { way.inverse() } else { way };
    Ok(Some(Body { places: then.places, on: then.on, camera: then.camera, back }))
}

/// A body that is followed.
struct Followed<'a, 's> {
    scene: Scene<'s>,
    reader: Reader<'a>,
    matte: Option<u32>,
    request: &'a Request,
}

/// What a frame shows of it, all on one window.
struct Frame {
    places: Arc<Raster>,
    on: Arc<Raster>,
    motion: Arc<Raster>,
    camera: Option<Camera>,
}

impl Followed<'_, '_> {
    /// What a frame, so many from now, shows.
    fn frame(&self, by: i32, scale: Scale) -> Result<Frame, ShotError> {
        let hashes = self.scene.hashes;
        let still = hashes.later(by.into())?;
        let hashes = hashes.of_other(&still);
        let then = Scene::new(self.scene.engine, &hashes);
        let element = key::element_of(&still, self.reader.element.id)?;
        let window = scale.window(self.request.display);
        let frame = self.request.frame.saturating_add(by);
        let request = Request { frame, scale, window, trace: None, ..self.request.clone() };
        let reader = Reader { element, after: 0, ..self.reader };
        let found = found(then, reader, WHAT, wants(self.matte), &request, Area::Window)?;
        let raster =
            |want: &Want| found.iter().find(|(w, _)| w == want).and_then(|(_, f)| f.raster().cloned());
        let need = |role| raster(&needs(role)).ok_or_else(|| lacks(element, WHAT, role));
        Ok(Frame {
            places: need(Role::Position)?,
            on: raster(&cover(self.matte)).unwrap_or_else(|| Arc::new(Raster::filled(window, 1, 1.0))),
            motion: need(Role::Motion)?,
            camera: self.scene.engine.camera(element, still.display)?,
        })
    }

    /// How it went from one frame, so many from now, to the next; both with the content of what is read of them.
    fn step(&self, by: i32, now: &Contents, next: &Contents) -> Result<DAffine3, ShotError> {
        if now.first() == next.first() {
            // A frame without a file of its own shows what the one before shows.
            return Ok(DAffine3::IDENTITY);
        }
        let content = key::of(&("step of a body", VERSION, now, next.first()));
        let make = || {
            let (now, next) = (self.frame(by, Scale::FULL)?, self.frame(by + 1, Scale::FULL)?);
            let found = body::moved(&now.places, &now.on, &now.motion, &next.places)?;
            Ok(kept(found.map(|found| found.by)))
        };
        let (way, _) = self.scene.engine.keep(content, make)?;
        read(&way).ok_or_else(|| {
            let frame = self.request.frame.saturating_add(by);
            let next = frame.saturating_add(1);
            ShotError::Parameter {
                place: WHAT.into(),
                what: format!(
                    "from frame {frame} to {next} too little of it is seen, or its positions and motion vectors do not agree on how it moved; \
                     fit it on a frame on this side, or choose what is stiff by a matte"
                ),
            }
        })
    }
}

/// A way as samples; none for none.
fn kept(way: Option<DAffine3>) -> Raster {
    let Some(way) = way else { return Raster::zeros(Window::default(), 1) };
    let all = [way.matrix3.x_axis, way.matrix3.y_axis, way.matrix3.z_axis, way.translation];
    Raster::from_fn(Window::of_size(4, 1), 3, |c, x, _| all[x as usize][c] as f32)
}

fn read(kept: &Raster) -> Option<DAffine3> {
    if kept.window().is_empty() {
        return None;
    }
    let column = |x| DVec3::from_array([0, 1, 2].map(|c| f64::from(kept.sample(c, x, 0).unwrap_or(0.0))));
    let matrix3 = DMat3::from_cols(column(0), column(1), column(2));
    Some(DAffine3 { matrix3, translation: column(3) })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_way_is_kept_and_read() {
        let turn = DMat3::from_rotation_z(0.3);
        let way = DAffine3 { matrix3: turn, translation: DVec3::new(1.0, -2.0, 30.0) };
        let got = read(&kept(Some(way))).unwrap();
        assert!(got.abs_diff_eq(way, 1e-6), "{got:?}");
        assert_eq!(read(&kept(None)), None);
    }
}
