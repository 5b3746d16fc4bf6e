//! Remedies taken: what puts a finding right, as an edit of the document.

use crate::document::Shot;
use jugata_core::passes::checks::{Finding, Remedy};

/// Confidence from which remedies are taken together.
pub const SURE: f32 = 0.9;

/// Takes the remedies of some findings of an element. Of those that change a convention one for each pass, the first: a
/// second was proposed on top of the old one and would take the first back; of cameras one.
pub fn take(shot: &mut Shot, element: u32, findings: &[Finding]) {
    let Some(element) = shot.element_mut(element) else { return };
    let (mut settled, mut placed) = (Vec::new(), None);
    for f in findings {
        let Some((_, remedy)) = &f.remedy else { continue };
        let Some(pass) = element.passes.iter_mut().find(|p| p.id == f.pass) else { continue };
        match remedy {
            Remedy::Convention { .. } | Remedy::Camera { .. } if settled.contains(&f.pass) => {}
            Remedy::Convention { convention } => {
                pass.convention = *convention;
                settled.push(f.pass);
            }
            Remedy::Camera { camera, .. } if placed.is_some_and(|p| p != *camera) => {}
            Remedy::Camera { camera, convention } => {
                pass.convention = *convention;
                element.camera = Some(*camera);
                settled.push(f.pass);
                placed = Some(*camera);
            }
            Remedy::Repair { repair } if !pass.repairs.contains(repair) => pass.repairs.push(*repair),
            Remedy::Repair { .. } | Remedy::PointNearAndFar => {}
        }
    }
}
