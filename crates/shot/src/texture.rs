//! Where a texture comes from, for whatever lays one on something.

use crate::files::MediaFile;
use crate::inputs::Inputs;
use crate::wants::Want;
use jugata_core::{Raster, Window};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use ts_rs::TS;

/// Where a texture comes from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum TextureFrom {
    /// Checks, redder to the right and greener upward: to see how the UV lies.
    #[default]
    Checks,
    /// A picture from a file.
    Picture,
    /// Another element: footage, lettering, a drawing, a pattern.
    Element,
}

/// What has to be asked for.
pub(crate) fn wanted(from: TextureFrom, picture: Option<&MediaFile>, element: Option<u32>) -> Option<Want> {
    match from {
        TextureFrom::Checks => None,
        TextureFrom::Picture => picture.cloned().map(Want::Picture),
        TextureFrom::Element => element.map(Want::PictureOf),
    }
}

/// The texture, RGBA, linear, premultiplied, over its own frame; `None` while none is chosen.
pub(crate) fn texture<'a>(from: TextureFrom, inputs: &'a Inputs<'_>) -> Option<Cow<'a, Raster>> {
    let found = match from {
        TextureFrom::Checks => None,
        TextureFrom::Picture => inputs.pictures().next(),
        TextureFrom::Element => inputs.pictures_of().next(),
    };
    chosen(from, found)
}

/// The same where what was asked for is at hand.
pub(crate) fn chosen(from: TextureFrom, found: Option<&Raster>) -> Option<Cow<'_, Raster>> {
    match from {
        TextureFrom::Checks => Some(Cow::Owned(checks())),
        TextureFrom::Picture | TextureFrom::Element => found.map(Cow::Borrowed),
    }
}

/// What it is, in words; `None` while none is chosen.
pub(crate) fn words(from: TextureFrom, picture: Option<&MediaFile>, element: Option<u32>) -> Option<String> {
    match from {
        TextureFrom::Checks => Some("checks".into()),
        TextureFrom::Picture => picture.map(|p| p.name.clone()),
        TextureFrom::Element => element.map(|id| format!("element {id}")),
    }
}

/// Width ÷ height of a texture.
pub(crate) fn aspect(texture: &Raster) -> f32 {
    let w = texture.window();
    w.width.max(1) as f32 / w.height.max(1) as f32
}

/// Side of the checks, texels, and how many stand in a row.
const SIDE: u32 = 256;
const IN_A_ROW: i32 = 8;

fn checks() -> Raster {
    let side = SIDE as i32 / IN_A_ROW;
    Raster::from_fn(Window::of_size(SIDE, SIDE), 4, |c, x, y| {
        let bright = if (x / side + y / side) % 2 == 0 { 0.6 } else { 0.2 };
        match c {
            0 => bright * (0.5 + 0.5 * x as f32 / SIDE as f32),
            1 => bright * (1.0 - 0.5 * y as f32 / SIDE as f32),
            2 => bright * 0.6,
            _ => 1.0,
        }
    })
}
