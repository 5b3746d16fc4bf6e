//! A drawing from an SVG file.

use super::drawn::{Made, filled, filling};
use crate::files::MediaFile;
use crate::kinds::prelude::*;
use jugata_core::Window;
use jugata_exchange::drawing;

/// In what colours a drawing is shown.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum DrawingColours {
    /// Its own.
    #[default]
    Own,
    /// One colour: the drawing is only a matte.
    One,
}

/// Parameters of Drawing.
#[parameters]
pub struct Drawing {
    /// An SVG file.
    #[ts(optional = nullable)]
    #[param(label = "Drawing", means = "drawing-file", group = "Drawing")]
    pub file: Option<MediaFile>,
    /// Its height, a share of the frame's.
    #[param(label = "Height", default = 0.6, range = [0.001, 100.0], slider = [0.05, 2.0], step = 0.01, unit = "×", group = "Drawing")]
    pub height: f32,
    /// In what colours it is shown.
    #[param(label = "Colours", group = "Colour")]
    pub colours: DrawingColours,
    /// Linear Rec.709.
    #[param(label = "Colour", default = [0.6; 3], range = [0.0, 1e3], means = "colour", group = "Colour", when = {"colours": "one"})]
    pub colour: [f32; 3],
    /// Another element whose picture fills the drawing.
    #[ts(optional = nullable)]
    #[param(label = "Filled by", means = "filled-by", group = "Colour", when = {"colours": "one"})]
    pub fill: Option<u32>,
}

impl Kind for Drawing {
    fn about(&self) -> About {
        About { title: "Drawing", about: "An SVG drawing, in its own colours or as a matte.", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        let fill = self.fill.filter(|_| self.colours == DrawingColours::One);
        self.file.iter().cloned().map(Want::File).chain(fill.map(Want::PictureOf)).collect()
    }

    fn sentence(&self) -> String {
        self.file.as_ref().map_or("Drawing: none chosen yet".into(), |f| format!("Drawing {}", f.name))
    }
}

impl Made for Drawing {
    fn height(&self, frame: Window) -> Option<f32> {
        Some(self.height * frame.height as f32)
    }

    fn draw(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let frame = inputs.window;
        let Some(bytes) = self.file.as_ref().and_then(|f| inputs.file(f)) else {
            return Ok(Raster::zeros(frame, 4));
        };
        let read = drawing::Drawing::read(bytes)?;
        let [wide, high] = read.size();
        let scale = self.height * frame.height as f32 / high.max(1e-3);
        let corner = [
            frame.x as f32 + 0.5 * (frame.width as f32 - wide * scale),
            frame.y as f32 + 0.5 * (frame.height as f32 - high * scale),
        ];
        let mut out = read.drawn(frame, scale, corner)?;
        if let Some(picture) = filling(inputs)? {
            return Ok(filled(out.plane(3), picture, 1.0));
        }
        if self.colours == DrawingColours::One {
            let alpha = out.plane(3).to_vec();
            for (c, colour) in self.colour.into_iter().enumerate() {
                out.plane_mut(c).iter_mut().zip(&alpha).for_each(|(v, a)| *v = colour * a);
            }
        }
        Ok(out)
    }
}
