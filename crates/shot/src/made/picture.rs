//! A picture from a file, or footage.

use super::drawn::Made;
use crate::files::MediaFile;
use crate::kinds::prelude::*;
use jugata_core::raster::scale;

/// Parameters of Picture.
#[parameters]
pub struct Picture {
    /// The file; of footage that of the first frame.
    #[param(label = "Picture", means = "picture-file", group = "Picture")]
    #[ts(optional = nullable)]
    pub picture: Option<MediaFile>,
    /// The sequence of the element that it takes its frames from.
    #[param(label = "Footage", means = "hidden")]
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional = nullable)]
    pub sequence: Option<u32>,
}

impl Kind for Picture {
    fn about(&self) -> About {
        About {
            title: "Picture",
            about: "A picture or footage from files, in a frame of its own.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        self.picture.iter().cloned().map(Want::Picture).collect()
    }

    fn sentence(&self) -> String {
        self.picture.as_ref().map_or("Picture: none chosen yet".into(), |p| format!("Picture {}", p.name))
    }
}

impl Made for Picture {
    fn framed_by(&self) -> Option<&MediaFile> {
        self.picture.as_ref()
    }

    fn draw(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let Some(picture) = inputs.pictures().next() else { return Ok(Raster::zeros(inputs.window, 4)) };
        Ok(scale::average(picture, inputs.scale, inputs.cancel)?.cropped(inputs.window, 0.0))
    }
}
