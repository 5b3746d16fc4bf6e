//! Objects by their hashed IDs.

use super::part::{Part, PartFrom};
use crate::kinds::prelude::*;
use crate::params::{IsSlot, Slot, SlotMut};
use jugata_core::ShapeError;
use jugata_core::matte::hashed;
use ts_rs::TS;

/// An object by its hashed ID.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct HashedName {
    /// Bits of the ID.
    pub id: u32,
    /// Its name, as the file lists it; empty if it does not.
    pub name: String,
}

/// Objects by their hashed IDs: no list of things with parameters, as their numbers are those of the file.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(transparent)]
pub struct HashedNames(pub Vec<HashedName>);

impl IsSlot for HashedNames {
    fn slot(&self) -> Slot<'_> {
        Slot::Many(self.0.len())
    }
    fn slot_mut(&mut self) -> SlotMut<'_> {
        SlotMut::Choice
    }
}

/// Objects, by their hashed IDs: antialiased.
#[parameters]
pub struct HashedPart {
    /// The objects.
    #[param(label = "Objects", means = "hashed-objects", item = "object", most = 256)]
    pub ids: HashedNames,
}

impl Kind for HashedPart {
    fn about(&self) -> About {
        let about = "Objects of the hashed IDs, chosen by clicking them; antialiased";
        About { title: "Objects, soft", about, version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        if self.ids.0.is_empty() {
            return "no object yet".into();
        }
        let name = |h: &HashedName| if h.name.is_empty() { format!("{:08x}", h.id) } else { h.name.clone() };
        self.ids.0.iter().map(name).collect::<Vec<_>>().join(", ")
    }

    fn check(&self) -> Result<(), String> {
        let sound = |h: &HashedName| h.name.chars().count() <= 200 && !h.name.chars().any(char::is_control);
        if self.ids.0.iter().all(sound) { Ok(()) } else { Err("an object's name is not possible".into()) }
    }
}

impl Part for HashedPart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Pass(Role::HashedId)
    }

    fn of_pass(&self, pass: &Raster) -> Result<Raster, ShapeError> {
        hashed::matte(pass, &self.ids.0.iter().map(|h| h.id).collect::<Vec<_>>())
    }
}
