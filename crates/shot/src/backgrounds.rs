//! What stands for "nothing" in the passes of an element, settled when its files come in.

use crate::document::{Element, Pass};
use crate::files::{MediaFile, Opens};
use jugata_core::passes::background;
use jugata_core::{Raster, Role};
use std::collections::HashMap;

/// Sets the background of every depth and position pass that has none yet. A file that cannot be opened again is left as
/// it is: other places tell of it.
pub(crate) fn settle(element: &mut Element, opens: &dyn Opens) {
    let of = |pass: &Pass| -> Option<Raster> {
        let source = &pass.source;
        let file = opens.open(&MediaFile { name: source.file.clone(), media: source.media.clone() }).ok()?;
        file.parts.get(source.part as usize)?.raster(&source.channels).ok()
    };
    let waits =
        |p: &Pass| matches!(p.role, Role::Depth | Role::Position) && p.convention.background.is_none();
    if !element.passes.iter().any(waits) {
        return;
    }
    let empty = empty(element, &of);
    let found: HashMap<u32, f32> = element
        .passes
        .iter()
        .filter(|p| waits(p))
        .filter_map(|p| {
            let raster = of(p)?;
            let mask = empty.as_ref().filter(|e| e.0 == raster.window()).map(|e| e.1.as_slice());
            let value = background::of_depth(&raster, mask)?;
            // A position of zero is nothing in any case.
            (p.role == Role::Depth || value != 0.0).then_some((p.id, value))
        })
        .collect();
    for pass in &mut element.passes {
        if let Some(value) = found.get(&pass.id) {
            pass.convention.background = Some(*value);
        }
    }
}

/// Where nothing is: by the picture's alpha, else by directions or objects that are zero.
fn empty(
    element: &Element,
    of: &impl Fn(&Pass) -> Option<Raster>,
) -> Option<(jugata_core::Window, Vec<bool>)> {
    let of_role = |role: Role| element.pass_of(role).and_then(of);
    let mask = |r: &Raster, planes: std::ops::Range<usize>| {
        let is = |i: usize| planes.clone().all(|c| r.plane(c)[i] == 0.0);
        let mask: Vec<bool> = (0..r.window().area()).map(is).collect();
        mask.contains(&true).then(|| (r.window(), mask))
    };
    let by_alpha = of_role(Role::Beauty).filter(|r| r.channels() >= 4).and_then(|r| mask(&r, 3..4));
    by_alpha
        .or_else(|| of_role(Role::Normal).filter(|r| r.channels() >= 3).and_then(|r| mask(&r, 0..3)))
        .or_else(|| of_role(Role::ObjectId).filter(|r| r.channels() == 1).and_then(|r| mask(&r, 0..1)))
}
