//! Objects by their numbers.

use super::part::{Part, PartFrom};
use crate::kinds::prelude::*;
use jugata_core::{ShapeError, matte};

/// Objects, by their numbers in the object ID pass.
#[parameters]
pub struct ObjectsPart {
    /// The numbers.
    #[param(label = "Objects", means = "object-ids", item = "object", most = 256)]
    pub ids: Vec<u32>,
}

impl Kind for ObjectsPart {
    fn about(&self) -> About {
        let about = "Objects of the ID pass, chosen by clicking them; hard edges";
        About { title: "Objects", about, version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        if self.ids.is_empty() {
            return "no object yet".into();
        }
        format!("object {}", self.ids.iter().map(u32::to_string).collect::<Vec<_>>().join(", "))
    }

    fn check(&self) -> Result<(), String> {
        // Numbers are kept in 32-bit float, exact below 2²⁴.
        let large = self.ids.iter().any(|&i| i >= 1 << 24);
        if large { Err("an object number is too large".into()) } else { Ok(()) }
    }
}

impl Part for ObjectsPart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Pass(Role::ObjectId)
    }

    fn of_pass(&self, pass: &Raster) -> Result<Raster, ShapeError> {
        matte::from_ids(pass, &self.ids)
    }
}
