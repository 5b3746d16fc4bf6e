//! How samples are stored in a file: what a check needs to know of it.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How a channel is stored.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, JsonSchema, TS,
)]
#[serde(rename_all = "lowercase")]
pub enum SampleKind {
    /// Whole numbers of 8 bits, read as 0..1.
    Byte,
    /// Whole numbers of 16 bits, read as 0..1.
    Word,
    /// 16-bit float.
    Half,
    /// 32-bit float.
    Float,
    /// 32-bit whole number, read as it is.
    Uint,
}

impl SampleKind {
    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Byte => "8 bit",
            Self::Word => "16 bit",
            Self::Half => "half",
            Self::Float => "float",
            Self::Uint => "uint",
        }
    }

    /// Largest distance between neighbouring values for numbers of the size of `magnitude`: 1/255 and
    /// 1/65535 for whole numbers read as 0..1; a half has 11 significant bits, so numbers in ½..1 step by
    /// 2⁻¹¹ (IEEE 754-2019, binary16); float by 2⁻²⁴ of its binade.
    pub fn step_at(self, magnitude: f32) -> f32 {
        let binade = magnitude.abs().max(f32::MIN_POSITIVE).log2().floor().exp2();
        match self {
            Self::Byte => 1.0 / 255.0,
            Self::Word => 1.0 / 65_535.0,
            Self::Half => binade / 1024.0,
            Self::Float => binade / 8_388_608.0,
            Self::Uint => 1.0,
        }
    }
}

/// Values that prove nothing of how finely they are stepped.
const FEW: usize = 200;

/// How coarsely values are stepped, whatever type they came in: all of them whole multiples of 1/255 or 1/65535, or all of
/// them halves. `None` where they are not, or where too few of them (0 and 1 apart) say.
pub fn stepped(values: &[f32]) -> Option<SampleKind> {
    let telling = || values.iter().copied().filter(|v| v.is_finite() && *v != 0.0 && *v != 1.0);
    if telling().count() < FEW {
        return None;
    }
    let whole = |top: f32| {
        telling().all(|v| {
            let code = v * top;
            (0.0..=top).contains(&code) && (code - code.round()).abs() < 2e-3
        })
    };
    if whole(255.0) {
        Some(SampleKind::Byte)
    } else if whole(65_535.0) {
        Some(SampleKind::Word)
    } else {
        telling().all(is_half).then_some(SampleKind::Half)
    }
}

/// Whether a float has no bit below the eleven of a half (IEEE 754-2019, binary16).
fn is_half(v: f32) -> bool {
    v.to_bits() & 0x1fff == 0 && v.abs() < 65_520.0
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn half_steps_as_the_standard_says() {
        assert_eq!(SampleKind::Half.step_at(0.75), 1.0 / 2048.0);
        assert_eq!(SampleKind::Half.step_at(1.5), 1.0 / 1024.0);
        assert_eq!(SampleKind::Float.step_at(1.0), f32::EPSILON);
    }
}
