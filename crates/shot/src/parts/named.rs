//! A matte with a name.

use super::part::{Part, PartFrom};
use crate::kinds::prelude::*;

/// A matte of the element by name.
#[parameters]
pub struct NamedPart {
    /// Its number.
    #[param(label = "Matte", means = "matte")]
    pub matte: u32,
}

impl Kind for NamedPart {
    fn about(&self) -> About {
        About { title: "Named", about: "A matte of this element", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        format!("matte {}", self.matte)
    }
}

impl Part for NamedPart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Matte(self.matte)
    }

    fn words(&self, names: &dyn Fn(u32) -> Option<String>) -> String {
        names(self.matte).unwrap_or_else(|| "a matte that is gone".into())
    }

    fn renumber(&mut self, numbers: &dyn Fn(u32) -> Option<u32>) {
        self.matte = numbers(self.matte).unwrap_or(self.matte);
    }
}
