//! Finishes of an element's objects, told from its picture and put together to a table.

use super::keeper::Engine;
use super::key::Hashes;
use super::reader::Reader;
use super::request::Request;
use super::scene::Scene;
use super::{key, planes};
use crate::document::{Element, Provider, Shot};
use crate::error::ShotError;
use crate::finish::{Finish, FinishColour};
use crate::still::Still;
use jugata_core::light::finish::{Render, Sort, Told, tell};
use jugata_core::{Raster, Role};
use jugata_exchange::manifest;
use serde::Serialize;
use std::collections::HashMap;
use std::sync::Arc;
use ts_rs::TS;

/// A frame is looked at so small that it is at most this wide, px: highlights are broad, and thin things still show.
const WIDE: u32 = 1280;

/// Rows of a table that is proposed: what is left goes to the row of its sort that is nearest.
const ROWS: usize = 24;

/// Finishes that differ by less than this in roughness and in each channel of their colour are one.
const ALIKE: [f32; 2] = [0.06, 0.1];

/// Roughness where no highlight tells it: in the middle, where a mistake shows least.
const USUAL: f32 = 0.5;

/// Finishes as they are proposed.
#[derive(Clone, Debug, PartialEq, Serialize, TS)]
pub struct Finishing {
    /// Rows of a table, the largest objects first.
    pub finishes: Vec<Finish>,
    /// How many objects were looked at, how many of them are taken for metal, and how many for glossy.
    pub counted: [usize; 3],
}

/// How an object is named in a document.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Named {
    Id(u32),
    Hash(u32),
}

impl Engine {
    /// Finishes for the objects of an element before any step, at the frame of a request: metals, and what is glossy.
    ///
    /// # Errors
    /// A missing element or file; no normals; no IDs to tell objects by; neither albedo nor diffuse light to tell gloss
    /// by.
    pub fn finishes(&self, shot: &Shot, element: u32, request: &Request) -> Result<Finishing, ShotError> {
        let still = &Still::of(shot, request.frame)?;
        let hashes = Hashes::of(still);
        Scene::new(self, &hashes).finishes_of(key::element_of(still, element)?, request)
    }
}

impl Scene<'_> {
    fn finishes_of(self, element: &Element, request: &Request) -> Result<Finishing, ShotError> {
        let small = request.untouched(element.id, WIDE);
        let reader = Reader::of(element, &[]);
        let read = |role| self.read(reader, role, &small);
        let wrong = |what: &str| ShotError::Parameter { place: element.name.clone(), what: what.into() };
        let picture = read(Role::Beauty)?.ok_or_else(|| wrong("it has no picture"))?;
        let normal =
            read(Role::Normal)?.ok_or_else(|| wrong("finishes are told by its normals, and it has none"))?;
        let (albedo, diffuse) = (read(Role::Albedo)?, read(Role::Diffuse)?);
        if albedo.is_none() && diffuse.is_none() {
            return Err(wrong(
                "gloss is told by an albedo pass or a pass of diffuse light, and it has neither",
            ));
        }
        let position = read(Role::Position)?;
        let (objects, named) = self
            .objects(reader, &small)?
            .ok_or_else(|| wrong("finishes go by object, and it has no pass of IDs"))?;
        let render = Render {
            picture: &picture,
            objects: &objects,
            normal: &normal,
            position: position.as_deref(),
            albedo: albedo.as_deref(),
            diffuse: diffuse.as_deref(),
        };
        let told = tell(render, &request.cancel)?;
        Ok(together(&told, &named, &self.names_in(element)?))
    }

    /// Which object each px shows, counted from 1, and how each is named; `None` without IDs. Hashed IDs go first: they
    /// have names.
    fn objects(self, reader: Reader<'_>, small: &Request) -> Result<Option<(Raster, Vec<Named>)>, ShotError> {
        let hashed: Option<Arc<Raster>> = self.read(reader, Role::HashedId, small)?;
        let (pass, is_hashed) = match hashed {
            Some(pass) => (pass, true),
            None => match self.read(reader, Role::ObjectId, small)? {
                Some(pass) => (pass, false),
                None => return Ok(None),
            },
        };
        let (mut places, mut named) = (HashMap::new(), Vec::new());
        let mut count = |v: f32| {
            let id = if is_hashed { v.to_bits() } else { v as u32 };
            if id == 0 || !v.is_finite() {
                return 0.0;
            }
            *places.entry(id).or_insert_with(|| {
                named.push(if is_hashed { Named::Hash(id) } else { Named::Id(id) });
                named.len() as f32
            })
        };
        let counted: Vec<f32> = pass.plane(0).iter().map(|v| count(*v)).collect();
        Ok(Some((Raster::from_planar(pass.window(), 1, counted)?, named)))
    }

    /// Names of hashed IDs in the element's files.
    fn names_in(self, element: &Element) -> Result<HashMap<u32, String>, ShotError> {
        let mut names = HashMap::new();
        for p in element.providers() {
            let Provider::Stored(pass) = p else { continue };
            if pass.role == Role::HashedId {
                let file = self.engine.file(pass)?;
                names.extend(manifest::names(planes::part_of(&file, pass)?, &pass.name));
            }
        }
        Ok(names)
    }
}

/// A table of what was told, what is alike in one row.
fn together(told: &[Told], named: &[Named], names: &HashMap<u32, String>) -> Finishing {
    let mut sorted: Vec<&Told> = told.iter().filter(|t| t.sort != Sort::Matt).collect();
    sorted.sort_by_key(|t| std::cmp::Reverse(t.seen));
    let mut finishes: Vec<Finish> = Vec::new();
    for t in sorted {
        let Some(object) = (t.object as usize).checked_sub(1).and_then(|k| named.get(k)) else { continue };
        let own = row(t);
        let full = finishes.len() >= ROWS;
        let near = finishes.iter_mut().filter(|f| f.metalness == own.metalness);
        let near = near.map(|f| (apart(f, &own), f)).min_by(|a, b| a.0.total_cmp(&b.0));
        let into = match near {
            Some((far, f)) if full || far <= 1.0 => f,
            _ => {
                finishes.push(Finish { id: finishes.len() as u32 + 1, ..own });
                let last = finishes.len() - 1;
                &mut finishes[last]
            }
        };
        match object {
            Named::Id(id) => into.objects.push(*id),
            Named::Hash(id) => into.hashed.push(*id),
        }
    }
    finishes.iter_mut().for_each(|f| f.name = name_of(f, names));
    let of = |sort: Sort| told.iter().filter(|t| t.sort == sort).count();
    Finishing { finishes, counted: [told.len(), of(Sort::Metal), of(Sort::Gloss)] }
}

fn row(t: &Told) -> Finish {
    let metal = t.sort == Sort::Metal;
    let rounded = |v: f32| (v * 100.0).round() / 100.0;
    Finish {
        objects: Vec::new(),
        hashed: Vec::new(),
        specular: if metal { 0.0 } else { 0.04 },
        roughness: rounded(t.roughness.unwrap_or(USUAL)),
        metalness: if metal { 1.0 } else { 0.0 },
        colour_from: if t.colour.is_some() { FinishColour::Own } else { FinishColour::Albedo },
        colour: t.colour.map_or(Finish::default().colour, |c| c.map(rounded)),
        ..Finish::default()
    }
}

/// How far apart two finishes of a sort are, 1 where they may just be one.
fn apart(a: &Finish, b: &Finish) -> f32 {
    if a.colour_from != b.colour_from {
        return f32::INFINITY;
    }
    let colour = (0..3).map(|c| (a.colour[c] - b.colour[c]).abs()).fold(0.0, f32::max);
    ((a.roughness - b.roughness).abs() / ALIKE[0]).max(colour / ALIKE[1])
}

fn name_of(f: &Finish, names: &HashMap<u32, String>) -> String {
    let sort = if f.metalness > 0.0 { "Metal" } else { "Gloss" };
    let all = f.objects.len() + f.hashed.len();
    match (f.hashed.first().and_then(|id| names.get(id)), f.objects.first()) {
        (Some(name), _) if all == 1 => format!("{sort}: {name}"),
        (_, Some(id)) if all == 1 => format!("{sort}: object {id}"),
        _ => format!("{sort}: {all} objects"),
    }
}
