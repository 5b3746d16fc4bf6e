//! What a step, an extraction or a made element works on.

use crate::content::ContentHash;
use crate::error::ShotError;
use crate::files::MediaFile;
use crate::wants::{OfFrame, Want};
use glam::{DAffine3, DVec2, Vec2};
use jugata_core::geometry::chain::Chain;
use jugata_core::light::harmonics::Harmonics;
use jugata_core::light::relight::Surface;
use jugata_core::light::rims;
use jugata_core::passes::moved::moved;
use jugata_core::{Camera, Cancel, Raster, Role, Scale, Window};
use serde::Serialize;
use std::any::Any;
use std::sync::Arc;

/// The light of the element that asks, and of the one that it asked for; both before any step.
#[derive(Clone, Copy, Debug)]
pub struct Lights {
    /// Of its own element.
    pub own: Harmonics,
    /// Of the other one.
    pub other: Harmonics,
}

/// Where an element's untouched picture is at two times, as the shot shows it now.
#[derive(Clone, Debug)]
pub struct Going {
    /// The times, frames from now.
    pub times: [f64; 2],
    /// What takes each place to where it is then, full-resolution px.
    pub at: [Chain; 2],
    /// The element's own frame, full-resolution px.
    pub frame: Window,
}

/// The camera of a render as it stands on two frames.
#[derive(Clone, Copy, Debug)]
pub struct Cameras {
    /// The frames, from now.
    pub times: [i32; 2],
    /// The camera on each.
    pub at: [Camera; 2],
}

/// A body of an element as it lay on another frame, and how it went on.
#[derive(Clone, Debug)]
pub struct Body {
    /// Positions on that frame, in camera space as it was then.
    pub places: Arc<Raster>,
    /// What of them shows the body, on the same window.
    pub on: Arc<Raster>,
    /// The camera of that frame, if known.
    pub camera: Option<Camera>,
    /// From camera space as it is now to that of then, for the body's own places.
    pub back: DAffine3,
}

/// What was found for a want.
#[derive(Clone, Debug)]
pub enum Found {
    /// Samples: canonical passes on the inputs' window, or a whole picture from a file.
    Raster(Arc<Raster>),
    /// The same where each sample is a mean over its pixel, as a picture's are.
    Mean(Arc<Raster>),
    /// Light.
    Lights(Box<Lights>),
    /// The bytes of a file.
    File(Arc<Vec<u8>>),
    /// A coordinate map from a file, over its own frame.
    Map(Arc<Raster>, Window),
    /// The parameters of another step, of whatever kind it is.
    Step(Arc<dyn Any + Send + Sync>),
    /// Moves, full-resolution px.
    Moves(Box<Chain>),
    /// Where a picture goes.
    Going(Box<Going>),
    /// Where the camera stands on other frames.
    Cameras(Box<Cameras>),
    /// How a body went.
    Body(Box<Body>),
}

impl Found {
    /// Samples, if these were found.
    pub fn raster(&self) -> Option<&Arc<Raster>> {
        match self {
            Self::Raster(raster) | Self::Mean(raster) => Some(raster),
            _ => None,
        }
    }
}

/// Makes what a step works out of its passes on the way, by key: once for as long as what it asked for, the camera, the
/// window and the scale are the same.
pub type Keep<'a> = &'a dyn Fn(&str, MakeKept<'_>) -> Result<Arc<Raster>, ShotError>;

/// How something that is kept is made.
pub type MakeKept<'a> = &'a mut dyn FnMut() -> Result<Raster, ShotError>;

/// What was asked for, and where it lies.
pub struct Inputs<'a> {
    /// What asks, in words.
    pub title: &'static str,
    /// What was found, in the order of the wants; what is not there is left out.
    pub found: &'a [(Want, Found)],
    /// Window of all passes, px at the scale.
    pub window: Window,
    /// Scale of all passes.
    pub scale: Scale,
    /// Camera of the element, if known, as it stands on the frame.
    pub camera: Option<Camera>,
    /// The same as the document has it: as it stands on the first frame, where it goes.
    pub camera_at_first: Option<Camera>,
    /// The shot's frame, full-resolution px.
    pub frame: Window,
    /// The same in the geometry of the element's own render, whole, where the picture was moved before; what is derived
    /// with the camera is derived there.
    pub own: Option<&'a Inputs<'a>>,
    /// The step's own matte on the inputs' window, if it asked to see it ([`crate::steps::Change::sees_its_limit`]) and has one.
    pub limit: Option<&'a Raster>,
    /// What was moved before, in px of the scale.
    pub moved: &'a Chain,
    /// Content of the picture that a step stands on; made and extracted things have none.
    pub before: Option<ContentHash>,
    /// Keeps what follows from what was found.
    pub keep: Keep<'a>,
    /// Pulled when nobody waits any more.
    pub cancel: &'a Cancel,
}

/// From one camera's space into another's; `None` where they are one, or a pose is not known.
pub(crate) fn way_between(from: Option<Camera>, to: Option<Camera>) -> Option<DAffine3> {
    let (from, to) = (from?, to?);
    (from.world != to.world).then(|| from.way_to(&to))?
}

impl Inputs<'_> {
    /// What is served for a role, if it was asked for and is there.
    pub fn pass(&self, role: Role) -> Option<&Raster> {
        self.rasters(|w| w.role().is_some_and(|(r, _)| r == role)).next()
    }

    /// Whether what is served for a role is smooth at its own edges, as the picture is.
    pub fn is_mean(&self, role: Role) -> bool {
        self.found
            .iter()
            .any(|(w, f)| w.role().is_some_and(|(r, _)| r == role) && matches!(f, Found::Mean(_)))
    }

    /// Light on a surface brought to the soft edges of the picture that it is added to, which a step stands on; unless its
    /// normals are as smooth as the picture.
    ///
    /// # Errors
    /// Shapes that do not match; cancellation.
    pub fn softened(
        &self,
        light: Raster,
        surface: Surface<'_>,
        picture: &Raster,
    ) -> Result<Raster, ShotError> {
        if self.is_mean(Role::Normal) {
            return Ok(light);
        }
        // A lamp that is dragged finds the same rims.
        let covers = || Ok(rims::covers(surface, picture, self.cancel)?);
        let covers = self.kept_of_picture(&"rims", covers)?;
        Ok(rims::soften(&light, surface, &covers, self.cancel)?)
    }

    /// What is served for a role that nothing can be made without.
    ///
    /// # Errors
    /// It is not there.
    pub fn need(&self, role: Role) -> Result<&Raster, ShotError> {
        let none = || ShotError::NoPass { step: self.title.into(), role, element: "it".into() };
        self.pass(role).ok_or_else(none)
    }

    /// Passes that were asked for by number.
    pub fn numbered(&self) -> impl Iterator<Item = &Raster> {
        self.rasters(|w| matches!(w, Want::Pass(_)))
    }

    /// Depths of other elements.
    pub fn depths(&self) -> impl Iterator<Item = &Raster> {
        self.rasters(|w| matches!(w, Want::DepthOf(_)))
    }

    /// Depth of another element where it stands in the shot.
    pub fn place_of(&self) -> Option<&Raster> {
        self.rasters(|w| matches!(w, Want::PlaceOf(_))).next()
    }

    /// Pictures from files: RGBA, linear, whole.
    pub fn pictures(&self) -> impl Iterator<Item = &Raster> {
        self.rasters(|w| matches!(w, Want::Picture(_)))
    }

    /// Pictures of other elements: RGBA, linear, each over its own frame.
    pub fn pictures_of(&self) -> impl Iterator<Item = &Raster> {
        self.rasters(|w| matches!(w, Want::PictureOf(_)))
    }

    /// What was asked for of another frame, so many frames from now; `None` where that shows the same as now.
    pub fn on_frame(&self, by: i32, what: OfFrame) -> Option<&Raster> {
        self.rasters(|w| *w == Want::OnFrame(by, what)).next()
    }

    /// What lies behind: RGBA, premultiplied, on the inputs' window.
    pub fn behind(&self) -> Option<&Raster> {
        self.rasters(|w| matches!(w, Want::Behind(_))).next()
    }

    /// The named matte that was asked for.
    pub fn matte(&self) -> Option<&Raster> {
        self.rasters(|w| matches!(w, Want::Matte(_))).next()
    }

    /// What [`crate::wants::cover`] asked for.
    pub fn cover(&self) -> Option<&Raster> {
        self.matte().or_else(|| self.pass(Role::Alpha))
    }

    /// The bytes of a file that was asked for.
    pub fn file(&self, file: &MediaFile) -> Option<&[u8]> {
        self.found.iter().find_map(|(want, found)| match (want, found) {
            (Want::File(own), Found::File(bytes)) if own == file => Some(bytes.as_slice()),
            _ => None,
        })
    }

    /// The moves that were asked for, full-resolution px.
    pub fn moves(&self) -> Option<&Chain> {
        self.found.iter().find_map(|(_, f)| match f {
            Found::Moves(chain) => Some(chain.as_ref()),
            _ => None,
        })
    }

    /// Where the camera stands on other frames, if it was asked for and there are such.
    pub fn cameras(&self) -> Option<&Cameras> {
        self.found.iter().find_map(|(_, f)| match f {
            Found::Cameras(cameras) => Some(cameras.as_ref()),
            _ => None,
        })
    }

    /// How a body went, if it was asked for.
    pub fn body(&self) -> Option<&Body> {
        self.found.iter().find_map(|(_, f)| match f {
            Found::Body(body) => Some(body.as_ref()),
            _ => None,
        })
    }

    /// Where the picture goes, if it was asked for.
    pub fn going(&self) -> Option<&Going> {
        self.found.iter().find_map(|(_, f)| match f {
            Found::Going(going) => Some(going.as_ref()),
            _ => None,
        })
    }

    /// The light that was asked for.
    pub fn lights(&self) -> Option<&Lights> {
        self.found.iter().find_map(|(_, f)| match f {
            Found::Lights(lights) => Some(lights.as_ref()),
            _ => None,
        })
    }

    /// What a step works out on the way, under a key of all that decides it beside the inputs.
    ///
    /// # Errors
    /// Those of making it.
    pub fn kept(
        &self,
        key: &impl Serialize,
        mut make: impl FnMut() -> Result<Raster, ShotError>,
    ) -> Result<Arc<Raster>, ShotError> {
        (self.keep)(&serde_json::to_string(key).unwrap_or_default(), &mut make)
    }

    /// The same of what follows from the picture so far, too.
    ///
    /// # Errors
    /// Those of making it.
    pub fn kept_of_picture(
        &self,
        key: &impl Serialize,
        make: impl FnMut() -> Result<Raster, ShotError>,
    ) -> Result<Arc<Raster>, ShotError> {
        self.kept(&(key, self.before), make)
    }

    /// From camera space as it is on the first frame, in which the document tells where things stand in the scene, into camera
    /// space as it is now; `None` while the camera stays, or where nobody knows where it goes.
    pub fn since_first(&self) -> Option<DAffine3> {
        way_between(self.camera_at_first, self.camera)
    }

    /// The inputs as the camera sees them.
    pub fn as_rendered(&self) -> &Self {
        self.own.unwrap_or(self)
    }

    /// What was derived from [`Self::as_rendered`], where the picture is now.
    ///
    /// # Errors
    /// Cancellation.
    pub fn follow(&self, derived: Arc<Raster>, role: Role) -> Result<Arc<Raster>, ShotError> {
        match self.own {
            None => Ok(derived),
            Some(_) => Ok(Arc::new(moved(&derived, role, self.moved, self.window, self.cancel)?)),
        }
    }

    /// Where a place of the render, full-resolution px, is seen now; `None` if it is not.
    pub fn seen_at(&self, place: Vec2) -> Option<Vec2> {
        if self.own.is_none() {
            return Some(place);
        }
        let n = f64::from(self.scale.step());
        Some((self.moved.forward(place.as_dvec2() / n)? * n).as_vec2())
    }

    /// How many times as large as it was rendered the picture is in its middle: lengths that follow from the camera grow with it.
    pub fn magnified(&self) -> f32 {
        let middle = self.scale.window(self.frame).at_share(DVec2::splat(0.5));
        let slope = self.moved.source_with_slope(middle).map_or(1.0, |(_, slope)| slope.determinant().abs());
        if slope > 1e-8 { slope.sqrt().recip() as f32 } else { 1.0 }
    }

    /// A full-resolution length at the scale.
    pub fn px(&self, length: f32) -> f32 {
        self.scale.length(length)
    }

    /// A width of soft rims, full-resolution px, in whole px of the scale.
    pub fn rim(&self, px: u32) -> u32 {
        (self.px(px as f32).ceil() as u32).max(1)
    }

    /// What is wrong, said of what asks.
    pub fn wrong(&self, what: &str) -> ShotError {
        ShotError::Parameter { place: self.title.into(), what: what.into() }
    }

    fn rasters(&self, is: impl Fn(&Want) -> bool) -> impl Iterator<Item = &Raster> {
        self.found.iter().filter(move |(w, _)| is(w)).filter_map(|(_, f)| f.raster().map(Arc::as_ref))
    }
}
