//! How some objects of a render answer lamps: rows of a table, told by object.

use crate::inputs::Inputs;
use crate::wants::{Want, takes};
use jugata_core::light::relight::{Finishes, Material};
use jugata_core::{Raster, Role};
use jugata_parameters::parameters;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use ts_rs::TS;

/// Where a finish has its colour from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum FinishColour {
    /// The albedo, as everything else.
    #[default]
    Albedo,
    /// One of its own: of a metal whose albedo is black, say.
    Own,
}

/// How some objects answer lamps.
#[parameters(item)]
pub struct Finish {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// Name for people.
    #[param(label = "Name", means = "hidden", default = String::from("Finish"))]
    pub name: String,
    /// Objects that have it, by their numbers in the object ID pass.
    #[param(label = "Objects", means = "hidden", item = "object", most = 1024)]
    pub objects: Vec<u32>,
    /// Objects that have it, by their hashed IDs.
    #[param(label = "Objects by hashed ID", means = "hidden", item = "object", most = 1024)]
    pub hashed: Vec<u32>,
    /// Factor on the diffuse light.
    #[param(label = "Diffuse", default = 1.0, range = [0.0, 1e3], slider = [0.0, 2.0], step = 0.01, unit = "×", group = "Finish")]
    pub diffuse: f32,
    /// Reflectance seen head-on; 0.04 is varnish, 0 none.
    #[param(label = "Specular", default = 0.04, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.005, group = "Finish")]
    pub specular: f32,
    /// From mirror to chalk.
    #[param(label = "Roughness", default = 0.4, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Finish")]
    pub roughness: f32,
    /// A metal has no diffuse light, and mirrors in its own colour.
    #[param(label = "Metal", default = 0.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Finish")]
    pub metalness: f32,
    /// Where it has its colour from.
    #[param(label = "Colour from", group = "Finish")]
    pub colour_from: FinishColour,
    /// Linear Rec.709.
    #[param(label = "Own colour", default = [0.8; 3], range = [0.0, 1e3], means = "colour", group = "Finish", when = {"colour_from": "own"})]
    pub colour: [f32; 3],
}

impl Finish {
    /// What it is, in words.
    pub fn sentence(&self) -> String {
        let coat = match (self.metalness > 0.0, self.specular > 0.0) {
            (true, _) => format!("metal, roughness {:.2}", self.roughness),
            (false, true) => format!("gloss {:.3}, roughness {:.2}", self.specular, self.roughness),
            (false, false) => "matt".into(),
        };
        let colour = match (self.colour_from, self.colour) {
            (FinishColour::Own, [r, g, b]) => format!(", colour {r:.2} {g:.2} {b:.2}"),
            (FinishColour::Albedo, _) => String::new(),
        };
        format!("{}: {coat}{colour}", self.name)
    }

    /// As the maths wants it; what is not said of one object (the wrap) is that of the rest.
    fn material(&self, rest: &Material) -> Material {
        Material {
            diffuse: self.diffuse,
            wrap: rest.wrap,
            specular: self.specular,
            roughness: self.roughness,
            metalness: self.metalness,
            colour: (self.colour_from == FinishColour::Own).then_some(self.colour),
        }
    }
}

/// What the objects of finishes are told by.
pub(crate) fn wanted(finishes: &[Finish]) -> impl Iterator<Item = Want> {
    let by_id = finishes.iter().any(|f| !f.objects.is_empty());
    let by_hash = finishes.iter().any(|f| !f.hashed.is_empty());
    [by_id.then_some(Role::ObjectId), by_hash.then_some(Role::HashedId)].into_iter().flatten().map(takes)
}

/// A table of finishes for the px of a window.
pub(crate) struct Table {
    rest: Material,
    others: Vec<Material>,
    which: Option<Raster>,
}

impl Table {
    /// The table of some finishes, and of the rest, where the inputs show them.
    pub fn of(finishes: &[Finish], rest: Material, inputs: &Inputs<'_>) -> Self {
        let others: Vec<Material> = finishes.iter().map(|f| f.material(&rest)).collect();
        let which = (!others.is_empty()).then(|| which(finishes, inputs));
        Self { rest, others, which }
    }

    /// As the maths wants it.
    pub fn finishes(&self) -> Finishes<'_> {
        Finishes { rest: self.rest, others: &self.others, which: self.which.as_ref() }
    }

    /// The rest and all others, as they are counted.
    pub fn materials(&self) -> impl Iterator<Item = &Material> {
        std::iter::once(&self.rest).chain(&self.others)
    }
}

/// Which finish each px has, counted from 1: the first that names its object, by number or by hashed ID.
fn which(finishes: &[Finish], inputs: &Inputs<'_>) -> Raster {
    let mut out = Raster::zeros(inputs.window, 1);
    let mut name = |role: Role, of: &dyn Fn(&Finish) -> &[u32], read: fn(f32) -> u32| {
        let Some(pass) = inputs.pass(role).filter(|p| p.window() == inputs.window) else { return };
        let mut places = HashMap::new();
        for (k, f) in (1..).zip(finishes) {
            of(f).iter().for_each(|id| {
                places.entry(*id).or_insert(k);
            });
        }
        for (out, v) in out.plane_mut(0).iter_mut().zip(pass.plane(0)) {
            if *out == 0.0 {
                *out = places.get(&read(*v)).map_or(0.0, |k: &u32| *k as f32);
            }
        }
    };
    name(Role::ObjectId, &|f| &f.objects, |v| v as u32);
    // The first plane is the ID that covers most of a px.
    name(Role::HashedId, &|f| &f.hashed, f32::to_bits);
    out
}
