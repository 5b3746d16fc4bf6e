//! What goes into a file beside the result: each thing as a layer of its own.

use super::form::{FileForm, With};
use crate::document::{Element, Shot};
use crate::edits::{EditAt, edited};
use crate::engine::{Engine, Request, Target};
use crate::error::ShotError;
use crate::still::Still;
use jugata_core::{Raster, Role};
use jugata_exchange::exr_write::Depth;
use std::collections::HashSet;
use std::sync::Arc;

/// A layer beside the result.
#[derive(Clone, Debug)]
pub struct Beside {
    /// Name of the layer.
    pub name: String,
    /// What it holds.
    pub role: Role,
    /// On the window of the result.
    pub raster: Arc<Raster>,
}

/// Bytes of a sample until it is written: the layer, its copy for the file, and the file.
const COPIES: u64 = 12;

/// Most layers of one file.
const MOST: usize = 256;

/// The layers that are wished for beside `result`: none beside anything but the result, or in a file that holds none.
///
/// # Errors
/// As [`Engine::evaluate`]; too many layers.
pub fn beside(
    engine: &Engine,
    shot: &Shot,
    request: &Request,
    result: &Raster,
    form: &FileForm,
) -> Result<Vec<Beside>, ShotError> {
    let with = &form.with;
    let Some(depth) = form.format.depth().filter(|_| request.target == Target::Shot && !with.is_empty())
    else {
        return Ok(Vec::new());
    };
    let still = &*Still::of(shot, request.frame)?;
    let mut list = List { engine, still, request, names: HashSet::new(), layers: Vec::new(), bytes: 0 };
    for element in &still.elements {
        if with.contains(&With::Untouched) {
            list.add(element, "untouched", Target::Untouched { element: element.id })?;
        }
        if with.contains(&With::Passes) {
            for pass in element.providers() {
                let target = Target::PlacedPass { element: element.id, pass: pass.id() };
                list.add(element, pass.name(), target)?;
            }
        }
        if with.contains(&With::Mattes) {
            for matte in &element.mattes {
                let target = Target::PlacedMatte { element: element.id, matte: matte.id };
                list.add(element, &matte.name, target)?;
            }
        }
    }
    if with.contains(&With::Lights) {
        list.lights(result, depth)?;
    }
    Ok(list.layers)
}

struct List<'a> {
    engine: &'a Engine,
    still: &'a Shot,
    request: &'a Request,
    names: HashSet<String>,
    layers: Vec<Beside>,
    /// Bytes that they need until they are written.
    bytes: u64,
}

impl List<'_> {
    fn add(&mut self, element: &Element, name: &str, target: Target) -> Result<(), ShotError> {
        let made = self.engine.evaluate(self.still, &Request { target, ..self.request.clone() })?;
        let name = self.named(element, name);
        self.push(name, made.role, made.raster)
    }

    fn push(&mut self, name: String, role: Role, raster: Arc<Raster>) -> Result<(), ShotError> {
        if self.layers.len() == MOST {
            let what = format!("it would have more than {MOST} layers; leave some of them out");
            return Err(ShotError::Parameter { place: "The file".into(), what });
        }
        self.bytes += raster.data().len() as u64 * COPIES;
        let most = self.engine.at_once();
        if self.bytes > most {
            let what = format!(
                "its layers would need more than the {} MiB that are allowed at once; leave some of them out",
                most >> 20
            );
            return Err(ShotError::Parameter { place: "The file".into(), what });
        }
        self.layers.push(Beside { name, role, raster });
        Ok(())
    }

    /// A name that no other layer has: with its element where there are several.
    fn named(&mut self, element: &Element, name: &str) -> String {
        let several = self.still.elements.len() > 1;
        let whole = if several { format!("{} {name}", element.name) } else { name.to_owned() };
        let plain = |c: char| if c.is_alphanumeric() || c == '-' { c } else { '_' };
        let first: String = whole.chars().map(plain).take(60).collect();
        let mut unique = first.clone();
        let mut count = 1;
        while !self.names.insert(unique.clone()) {
            count += 1;
            unique = format!("{first}_{count}");
        }
        unique
    }

    /// What each light gives is the result less the result without it. What is left once all are taken off is the rest.
    fn lights(&mut self, result: &Raster, depth: Depth) -> Result<(), ShotError> {
        let still = self.still;
        let mut rest = result.clone();
        for element in &still.elements {
            for (place, step) in element.steps.iter().enumerate().filter(|(_, s)| s.on) {
                let Some(lamps) = step.does.kind().lights() else { continue };
                let at = format!("elements/{}/steps/{}", element.id, step.id);
                let title = format!("light {} {}", place + 1, step.does.title());
                let each: Vec<(String, String)> = match lamps.len() {
                    0 | 1 => vec![(title, format!("{at}/on"))],
                    _ => lamps
                        .iter()
                        .enumerate()
                        .map(|(i, id)| (format!("{title} {}", i + 1), format!("{at}/does/lamps/{id}/on")))
                        .collect(),
                };
                for (name, at) in each {
                    let off = EditAt { at, put: Some(false.into()), after: None };
                    let light = self.given(result, &edited(still, &[off])?, depth)?;
                    take_off(&mut rest, &light);
                    let name = self.named(element, &name);
                    self.push(name, Role::Other, Arc::new(light))?;
                }
            }
        }
        self.push("rest".into(), Role::Beauty, Arc::new(rest))
    }

    /// The result less another, as a file can hold it: so that all layers of a file add up, and not only those in memory.
    fn given(&self, result: &Raster, without: &Shot, depth: Depth) -> Result<Raster, ShotError> {
        let without = self.engine.evaluate(without, self.request)?.raster;
        let mut light = Raster::zeros(result.window(), 3);
        for c in 0..3 {
            let of = light.plane_mut(c).iter_mut().zip(result.plane(c)).zip(without.plane(c));
            of.for_each(|((out, with), without)| *out = depth.held(with - without));
        }
        Ok(light)
    }
}

fn take_off(rest: &mut Raster, light: &Raster) {
    for c in 0..3 {
        rest.plane_mut(c).iter_mut().zip(light.plane(c)).for_each(|(rest, light)| *rest -= light);
    }
}
