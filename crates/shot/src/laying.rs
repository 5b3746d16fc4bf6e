//! Where a texture that is laid on something is seen in the picture, and the flat texture beside it: for handles.

use crate::document::{Element, Shot};
use crate::engine::mattes::matte;
use crate::engine::reader::{Area, Reader, lacks};
use crate::engine::scene::Scene;
use crate::engine::{Engine, Hashes, Request, Target, key, wants};
use crate::error::ShotError;
use crate::kinds::{Kind, Lays};
use crate::look::plain_png;
use crate::still::Still;
use crate::texture::{aspect, chosen};
use crate::wants::{Want, cover, needs, takes};
use glam::{IVec2, Vec2};
use jugata_core::geometry::chain::Chain;
use jugata_core::raster::scale::average;
use jugata_core::texture::flat::{self, Span};
use jugata_core::texture::outline::{MIDDLE, Sight};
use jugata_core::texture::placing::Placing;
use jugata_core::texture::pyramid::{Pyramid, stacked};
use jugata_core::texture::surface::{Spot, Surface};
use jugata_core::{Cancel, Raster, Role, Scale, Window};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
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

/// Where a texture is seen; full-resolution px.
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
}

/// A place that is looked for on the other side.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum LaidAt {
    /// Of the picture, full-resolution px: which UV is seen there?
    Picture([f32; 2]),
    /// Of UV: where is it seen?
    Uv([f32; 2]),
}

/// A place of the picture and the UV that is seen there.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, TS)]
pub struct LaidPlace {
    /// UV, if the surface is seen there.
    #[ts(optional = nullable)]
    pub uv: Option<[f32; 2]>,
    /// Full-resolution px, if that UV is seen.
    #[ts(optional = nullable)]
    pub at: Option<[f32; 2]>,
    /// Width ÷ height of the texture's own picture.
    pub aspect: f32,
}

/// The flat texture: a part of UV with what lies on it, dark where it is not seen.
#[derive(Clone, Debug, PartialEq)]
pub struct FlatTexture {
    /// The least u and v.
    pub low: [f32; 2],
    /// The largest.
    pub high: [f32; 2],
    /// Width ÷ height of the texture's own picture.
    pub aspect: f32,
    /// The picture of that part, v upward.
    pub png: Vec<u8>,
}

/// Handles are looked for in a picture no wider than this, px.
const WIDE: u32 = 800;

/// Steps along a side of the texture.
const STEPS: u32 = 32;

/// The longer side of the flat texture, px, and the widest texture that it is made from.
const FLAT: u32 = 560;
const SOURCE: u32 = 1024;

/// A surface that gets a texture, at a scale for handles.
struct Getting<'a> {
    surface: Surface<'a>,
    lays: Lays,
    /// The texture, while one is chosen.
    texture: Option<Cow<'a, Raster>>,
    /// Whether something says which part of the picture gets it.
    limited: bool,
    /// Full-resolution px of one of its px.
    step: f32,
    /// The way back from the shot, where places are told as the shot shows them.
    back: Option<Chain>,
    cancel: &'a Cancel,
}

impl Getting<'_> {
    fn aspect(&self) -> f32 {
        self.texture.as_deref().map_or(1.0, aspect)
    }

    fn placing(&self) -> Placing {
        self.lays.placing(self.aspect())
    }

    /// Where one of its px is seen, full-resolution px.
    fn full(&self, p: Vec2) -> Option<[f32; 2]> {
        // Picked data stand for the middle of their block.
        let own = (p * self.step).as_dvec2();
        let seen = self.back.as_ref().map_or(Some(own), |b| b.source(own))?;
        seen.is_finite().then(|| seen.as_vec2().to_array())
    }

    /// The px of it that is seen at a place, full-resolution px.
    fn under(&self, at: [f32; 2]) -> Option<IVec2> {
        let at = Vec2::from(at).as_dvec2();
        let own = self.back.as_ref().map_or(Some(at), |b| b.forward(at))?;
        own.is_finite().then(|| (own.as_vec2() / self.step).floor().as_ivec2())
    }
}

/// What lays a texture, and at which frame of which element.
#[derive(Clone, Copy, Debug)]
pub struct LaidBy {
    /// The element.
    pub element: u32,
    /// What lays it.
    pub layer: Layer,
    /// The frame.
    pub frame: i32,
    /// Whether places are told as the shot shows them: where steps after it, and where the element is put, have moved them.
    pub placed: bool,
}

/// Looks at the surface that gets a texture.
fn on_surface<T>(
    engine: &Engine,
    shot: &Shot,
    LaidBy { element, layer, frame, placed }: LaidBy,
    look: impl FnOnce(&Getting<'_>) -> Result<T, ShotError>,
) -> Result<Option<T>, ShotError> {
    let shot = Still::of(shot, frame)?;
    let element = shot.element(element).ok_or(ShotError::Missing { what: "element", id: element })?;
    let hashes = Hashes::of(&shot);
    let scene = Scene::new(engine, &hashes);
    let (kind, reader) = layer_of(element, layer)?;
    let scale = Scale::at_most(shot.display, WIDE);
    let request =
        Request { frame, ..Request::frame(&shot, Target::Untouched { element: element.id }, scale) };
    let Some(lays) = kind.lays() else { return Ok(None) };
    let textures = kind.wants().into_iter().filter(|w| matches!(w, Want::Picture(_) | Want::PictureOf(_)));
    let mut asked = vec![needs(Role::Uv), takes(Role::ObjectId), cover(lays.on)];
    asked.extend(textures);
    let found = wants::found(scene, reader, kind.about().title, asked, &request, Area::Window)?;
    let of = |is: &dyn Fn(&Want) -> bool| {
        found.iter().find(|(w, _)| is(w)).and_then(|(_, f)| f.raster()).map(AsRef::as_ref)
    };
    let role = |role: Role| of(&|w| w.role().is_some_and(|(r, _)| r == role));
    let whole = Raster::filled(request.window, 1, 1.0);
    let limit = limit_of(scene, element, layer, lays.on, &request)?;
    let limited = of(&|w| matches!(w, Want::Matte(_))).or(limit.as_deref());
    let on = limited.or_else(|| role(Role::Alpha)).unwrap_or(&whole);
    let uv = role(Role::Uv).ok_or_else(|| lacks(element, kind.about().title, Role::Uv))?;
    let back = placed.then(|| scene.moves_back(element, reader.after, Scale::FULL)).transpose()?;
    let texture = chosen(lays.from, of(&|w| matches!(w, Want::Picture(_) | Want::PictureOf(_))));
    look(&Getting {
        surface: Surface::new(uv, on, role(Role::ObjectId))?,
        lays,
        texture,
        limited: limited.is_some(),
        step: scale.step() as f32,
        back,
        cancel: &request.cancel,
    })
    .map(Some)
}

/// Finds where a texture is seen.
///
/// # Errors
/// No such element, step or pass; no UV.
pub fn lay_out(engine: &Engine, shot: &Shot, by: LaidBy) -> Result<LaidOut, ShotError> {
    let found = on_surface(engine, shot, by, |on| {
        let sight = Sight::of(&on.surface, &on.placing(), !on.limited);
        let full = |p: Vec2| on.full(p);
        let corners = [Vec2::ZERO, Vec2::X, Vec2::ONE, Vec2::Y];
        let middle = sight.find(MIDDLE, None).or_else(|| sight.nearest(MIDDLE));
        let sides = (0..4).flat_map(|k| sight.line(corners[k], corners[(k + 1) % 4], STEPS, middle));
        Ok(LaidOut {
            outline: sides.map(|run| run.into_iter().filter_map(full).collect()).collect(),
            middle: middle.and_then(full),
            right: sight.find(Vec2::new(1.0, 0.5), middle).and_then(full),
            top: sight.find(Vec2::new(0.5, 0.0), middle).and_then(full),
            aspect: on.aspect(),
        })
    })?;
    Ok(found.unwrap_or_default())
}

/// Finds the UV at a place of the picture, or where a UV is seen.
///
/// # Errors
/// As [`lay_out`].
pub fn laid_at(engine: &Engine, shot: &Shot, by: LaidBy, place: LaidAt) -> Result<LaidPlace, ShotError> {
    let found = on_surface(engine, shot, by, |on| {
        let (uv, at) = match place {
            LaidAt::Picture(at) => {
                let spot = on.under(at).and_then(|p| on.surface.spot(p));
                (spot.map(|s| s.uv.to_array()), Some(at))
            }
            LaidAt::Uv(uv) => {
                // A square about it: wherever it lies, its middle is near.
                let about = Placing::new(uv.into(), Vec2::ONE, 0.0, 1.0);
                let seen = Sight::of(&on.surface, &about, !on.limited).find(MIDDLE, None);
                (Some(uv), seen.and_then(|p| on.full(p)))
            }
        };
        Ok(LaidPlace { uv, at, aspect: on.aspect() })
    })?;
    Ok(found.unwrap_or_default())
}

/// Makes the flat texture: the part of UV that is seen, with what lies on it.
///
/// # Errors
/// As [`lay_out`].
pub fn flat_texture(engine: &Engine, shot: &Shot, by: LaidBy) -> Result<Option<FlatTexture>, ShotError> {
    on_surface(engine, shot, by, |on| {
        let seen: Vec<Spot> = on.surface.seen().map(|(_, spot)| spot).collect();
        let span = Span::of(&seen);
        let clear = Cow::Owned(Raster::zeros(Window::of_size(1, 1), 4));
        let source = on.texture.as_ref().unwrap_or(&clear);
        let source = average(source, Scale::at_most(source.window(), SOURCE), on.cancel)?;
        let sizes = stacked(&source, on.cancel)?;
        let texture = Pyramid::of(&sizes, source.window(), on.lays.beyond);
        let picture = flat::draw(&texture, &on.placing(), &span, span.sized(FLAT), &seen);
        let png = plain_png(&picture, Role::Beauty, Scale::FULL, on.cancel)?;
        Ok(FlatTexture { low: span.low.into(), high: span.high.into(), aspect: on.aspect(), png })
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
