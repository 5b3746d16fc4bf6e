//! Lines along a photographed checker, as the lens step takes them.

use crate::document::Shot;
use crate::engine::{Engine, Request, Target};
use crate::error::ShotError;
use crate::steps::LensLine;
use jugata_core::geometry::checker;
use jugata_core::{Cancel, Scale};

/// Finds the rows and columns of a checker in the picture that a step stands on, at a frame.
///
/// # Errors
/// No such element or step; no checker; cancellation.
pub fn lines_of_checker(
    engine: &Engine,
    shot: &Shot,
    frame: i32,
    (element, step): (u32, u32),
    cancel: &Cancel,
) -> Result<Vec<LensLine>, ShotError> {
    let target = Target::Before { element, step };
    let request = Request { frame, cancel: cancel.clone(), ..Request::frame(shot, target, Scale::FULL) };
    let picture = engine.evaluate(shot, &request)?.raster;
    let Some(found) = checker::find(&picture, cancel)? else {
        return Err(ShotError::Parameter {
            place: "Lens".into(),
            what: "no checker is seen in this picture: at least four by three corners of its squares, each larger than 10 px"
                .into(),
        });
    };
    let line = |(id, points): (u32, &Vec<glam::DVec2>)| LensLine {
        id,
        points: points.iter().map(|p| p.as_vec2().to_array()).collect(),
    };
    Ok((1..).zip(&found.lines).map(line).collect())
}
