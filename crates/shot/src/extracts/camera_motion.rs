//! Motion vectors of what stands still while the camera goes.

use super::extraction::Extraction;
use super::moves_motion::MeasuredOver;
use crate::kinds::prelude::*;
use crate::wants::takes;
use jugata_core::geometry::going::of_camera;

/// Parameters of Motion of the camera.
#[parameters]
pub struct CameraMotion {
    /// Between which frames the motion is measured.
    #[param(label = "Measured", group = "Motion")]
    pub over: MeasuredOver,
}

impl CameraMotion {
    /// Frames from now.
    fn times(&self) -> [i32; 2] {
        match self.over {
            MeasuredOver::AroundTheFrame => [-1, 1],
            MeasuredOver::ToTheNext => [0, 1],
            MeasuredOver::FromTheLast => [-1, 0],
        }
    }
}

impl Kind for CameraMotion {
    fn about(&self) -> About {
        About {
            title: "Motion of the camera",
            about: "Motion vectors of what stands still in the scene, from its positions and from where the files of the frames say that the camera stands.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![takes(Role::Position), Want::Cameras(self.times())]
    }

    fn sentence(&self) -> String {
        format!("Motion of the camera, {}", self.over.words())
    }
}

impl Extraction for CameraMotion {
    fn gives(&self) -> Role {
        Role::Motion
    }

    fn by_itself(&self) -> bool {
        true
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let places = inputs.need(Role::Position)?;
        let now = inputs.camera.filter(|c| c.world.is_some()).ok_or_else(|| {
            inputs.wrong("nothing says where the camera stands: neither the files nor positions of the world")
        })?;
        // A camera of which there is one frame only goes nowhere.
        let Some(cameras) = inputs.cameras() else { return Ok(Raster::zeros(places.window(), 2)) };
        let [from, to] = [0, 1].map(|k| (f64::from(cameras.times[k]), &cameras.at[k]));
        Ok(of_camera(places, &now, [from, to], inputs.scale, inputs.cancel)?)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_says_between_which_frames() {
        let said = |over| CameraMotion { over }.sentence();
        assert_eq!(said(MeasuredOver::AroundTheFrame), "Motion of the camera, around the frame");
        assert_eq!(said(MeasuredOver::ToTheNext), "Motion of the camera, to the next frame");
        assert_eq!(CameraMotion { over: MeasuredOver::FromTheLast }.times(), [-1, 0]);
    }
}
