//! Where a texture that is laid on something is seen in the picture: for handles.

use crate::document::{Element, Shot};
use crate::engine::mattes::matte;
use crate::engine::reader::{Area, Reader, lacks};
use crate::engine::scene::Scene;
use crate::engine::{Engine, Hashes, Request, Target, key, wants};
use crate::error::ShotError;
use crate::kinds::Kind;
use crate::still::Still;
use crate::texture::aspect;
use crate::wants::{Want, cover, needs, takes};
use glam::Vec2;
use jugata_core::texture::outline::{MIDDLE, Sight};
use jugata_core::texture::surface::Surface;
use jugata_core::{Raster, Role, Scale};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use ts_rs::TS;

/// What lays a texture: a step, or an extracted pass.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Layer {
    /// A step by number.
    Step {
        /// Its number.
        id: u32,
    },
    /// An extracted pass by number.
    Extract {
        /// Its number.
        id: u32,
    },
}

/// Where a texture is seen; full-resolution px. Asked about a place, it says the UV there and no more.
#[derive(Clone, Debug, Default, PartialEq, Serialize, TS)]
pub struct LaidOut {
    /// Its border, each run of it that is seen.
    pub outline: Vec<Vec<[f32; 2]>>,
    /// Its middle, or what is seen nearest to it.
    #[ts(optional = nullable)]
    pub middle: Option<[f32; 2]>,
    /// The middle of its right side.
    #[ts(optional = nullable)]
    pub right: Option<[f32; 2]>,
    /// The middle of its upper side.
    #[ts(optional = nullable)]
    pub top: Option<[f32; 2]>,
    /// Width ÷ height of the texture's own picture.
    pub aspect: f32,
    /// UV at the place that was asked about, if the surface is seen there.
    #[ts(optional = nullable)]
    pub uv: Option<[f32; 2]>,
}

/// Handles are looked for in a picture no wider than this, px.
const WIDE: u32 = 800;

/// Steps along a side of the texture.
const STEPS: u32 = 32;

/// Finds where a texture is seen at a frame, and the UV at a place of the picture.
///
/// # Errors
/// No such element, step or pass; no UV.
pub fn lay_out(
    engine: &Engine,
    shot: &Shot,
    frame: i32,
    (element, layer): (u32, Layer),
    at: Option<[f32; 2]>,
) -> Result<LaidOut, ShotError> {
    let shot = Still::of(shot, frame)?;
    let element = shot.element(element).ok_or(ShotError::Missing { what: "element", id: element })?;
    let hashes = Hashes::of(&shot);
    let scene = Scene::new(engine, &hashes);
    let (kind, reader) = layer_of(element, layer)?;
    let scale = Scale::at_most(shot.display, WIDE);
    let request =
        Request { frame, ..Request::frame(&shot, Target::Untouched { element: element.id }, scale) };
    let Some((on, _)) = kind.lays(1.0) else { return Ok(LaidOut::default()) };
    let textures = kind.wants().into_iter().filter(|w| matches!(w, Want::Picture(_) | Want::PictureOf(_)));
    let mut asked = vec![needs(Role::Uv), takes(Role::ObjectId), cover(on)];
    asked.extend(textures);
    let found = wants::found(scene, reader, kind.about().title, asked, &request, Area::Window)?;
    let of = |is: &dyn Fn(&Want) -> bool| {
        found.iter().find(|(w, _)| is(w)).and_then(|(_, f)| f.raster()).map(AsRef::as_ref)
    };
    let role = |role: Role| of(&|w| w.role().is_some_and(|(r, _)| r == role));
    let whole = Raster::filled(request.window, 1, 1.0);
    let limit = limit_of(scene, element, layer, on, &request)?;
    let chosen = of(&|w| matches!(w, Want::Matte(_))).or(limit.as_deref());
    let on = chosen.or_else(|| role(Role::Alpha)).unwrap_or(&whole);
    let uv = role(Role::Uv).ok_or_else(|| lacks(element, kind.about().title, Role::Uv))?;
    let surface = Surface::new(uv, on, role(Role::ObjectId))?;
    let wide = of(&|w| matches!(w, Want::Picture(_) | Want::PictureOf(_))).map_or(1.0, aspect);
    let step = scale.step() as f32;
    if let Some(at) = at {
        let under = (Vec2::from(at) / step).floor().as_ivec2();
        let uv = surface.spot(under).map(|s| s.uv.to_array());
        return Ok(LaidOut { aspect: wide, uv, ..LaidOut::default() });
    }
    let Some((_, placing)) = kind.lays(wide) else { return Ok(LaidOut::default()) };
    let sight = Sight::of(&surface, &placing, chosen.is_none());
    // Picked data stand for the middle of their block.
    let full = |p: Vec2| (p * step).to_array();
    let corners = [Vec2::ZERO, Vec2::X, Vec2::ONE, Vec2::Y];
    let middle = sight.find(MIDDLE, None).or_else(|| sight.nearest(MIDDLE));
    let sides = (0..4).flat_map(|k| sight.line(corners[k], corners[(k + 1) % 4], STEPS, middle));
    Ok(LaidOut {
        outline: sides.map(|run| run.into_iter().map(full).collect()).collect(),
        middle: middle.map(full),
        right: sight.find(Vec2::new(1.0, 0.5), middle).map(full),
        top: sight.find(Vec2::new(0.5, 0.0), middle).map(full),
        aspect: wide,
        uv: None,
    })
}

/// What limits a step that has no matte chosen.
fn limit_of(
    scene: Scene<'_>,
    element: &Element,
    layer: Layer,
    on: Option<u32>,
    request: &Request,
) -> Result<Option<Arc<Raster>>, ShotError> {
    let Layer::Step { id } = layer else { return Ok(None) };
    let step = element.step(id).filter(|_| on.is_none());
    step.and_then(|s| key::limit_of(element, s)).map(|m| matte(scene, m, request)).transpose()
}

fn layer_of(element: &Element, layer: Layer) -> Result<(&dyn Kind, Reader<'_>), ShotError> {
    match layer {
        Layer::Step { id } => {
            let place = key::place_of(element, id)?;
            let step = &element.steps[place];
            Ok((step.does.kind(), Reader::at(element, &step.reads, place)))
        }
        Layer::Extract { id } => {
            let missing = ShotError::Missing { what: "extracted pass", id };
            let place = element.extracts.iter().position(|e| e.id == id).ok_or(missing)?;
            let extract = &element.extracts[place];
            Ok((extract.does.kind(), Reader { element, chosen: &extract.reads, seen: place, after: 0 }))
        }
    }
}
