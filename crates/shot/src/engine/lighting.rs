//! The light of an element, found in its picture.

use super::key::{self, ContentHash};
use super::reader::Reader;
use super::request::Request;
use super::scene::Scene;
use crate::document::Element;
use crate::error::ShotError;
use jugata_core::light::harmonics::{Fit, Harmonics, fit};
use jugata_core::{Raster, Role, Window};

/// A frame is looked at so small that it is at most this wide, px: light is broad, and the same whatever is asked for.
const WIDE: u32 = 480;

impl Scene<'_> {
    /// The light on an element, or the sentence that there is too little to find it by.
    pub fn light_of(self, element: &Element, request: &Request) -> Result<Fit, ShotError> {
        let what = || "not enough visible surface to estimate its light".to_owned();
        let none = || ShotError::Parameter { place: element.name.clone(), what: what() };
        self.light_on(element, request)?.ok_or_else(none)
    }

    /// The light on an element before any step, in the frame; `None` where too little is seen of it. Kept.
    fn light_on(self, element: &Element, request: &Request) -> Result<Option<Fit>, ShotError> {
        let content: ContentHash = key::of_light(self.hashes, element);
        let small = request.untouched(element.id, WIDE);
        let (kept, _) = self.engine.keep(content.at(small.window, small.scale), || {
            let reader = Reader::of(element, &[]);
            let picture = self.read(reader, Role::Beauty, &small)?;
            let normals = self.read(reader, Role::Normal, &small)?;
            let albedo = self.read(reader, Role::Albedo, &small)?;
            let found = match (picture, normals) {
                (Some(picture), Some(normals)) => fit(&picture, &normals, albedo.as_deref())?,
                _ => None,
            };
            Ok(written(found))
        })?;
        Ok(read(&kept))
    }
}

/// A fit as a row of nine px, to be kept as other results are: three planes of light, and one with the two figures.
fn written(found: Option<Fit>) -> Raster {
    let Some(f) = found else { return Raster::zeros(Window::of_size(0, 0), 4) };
    Raster::from_fn(Window::of_size(9, 1), 4, |c, x, _| match (c, x) {
        (0..3, _) => f.light.0[x as usize][c],
        (_, 0) => f.explained,
        (_, 1) => f.used,
        _ => 0.0,
    })
}

fn read(kept: &Raster) -> Option<Fit> {
    let at = |c: usize, x: usize| kept.plane(c).get(x).copied();
    let mut light = Harmonics::NONE;
    for (x, colour) in light.0.iter_mut().enumerate() {
        *colour = [at(0, x)?, at(1, x)?, at(2, x)?];
    }
    Some(Fit { light, explained: at(3, 0)?, used: at(3, 1)? })
}
