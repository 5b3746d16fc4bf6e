//! Samples of a channel, as wide as the file stores them.

use half::f16;
use half::slice::HalfFloatSliceExt;
use std::borrow::Cow;

/// Samples of one channel. Halves stay halves until somebody looks at them: a file of forty passes takes half
/// the memory, and only the planes that are wanted are widened.
#[derive(Clone, Debug, PartialEq)]
pub enum Samples {
    /// 16-bit floats.
    Half(Vec<f16>),
    /// 32-bit floats, and whole numbers as floats.
    Float(Vec<f32>),
}

impl Samples {
    /// How many.
    pub fn len(&self) -> usize {
        match self {
            Self::Half(v) => v.len(),
            Self::Float(v) => v.len(),
        }
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Size in memory, bytes.
    pub fn bytes(&self) -> usize {
        match self {
            Self::Half(v) => size_of_val(v.as_slice()),
            Self::Float(v) => size_of_val(v.as_slice()),
        }
    }

    /// One sample, or `None` past the end.
    pub fn get(&self, at: usize) -> Option<f32> {
        match self {
            Self::Half(v) => v.get(at).map(|v| v.to_f32()),
            Self::Float(v) => v.get(at).copied(),
        }
    }

    /// All of them as 32-bit floats; every half has one that is equal (IEEE 754-2019).
    pub fn wide(&self) -> Cow<'_, [f32]> {
        match self {
            Self::Half(_) => {
                let mut out = Vec::with_capacity(self.len());
                self.append_to(&mut out);
                Cow::Owned(out)
            }
            Self::Float(v) => Cow::Borrowed(v),
        }
    }

    /// Gives each of them to `f` in turn as a 32-bit float, without all of them in memory at once.
    pub fn for_each(&self, mut f: impl FnMut(f32)) {
        match self {
            Self::Half(v) => {
                let mut some = [0.0; 4096];
                for part in v.chunks(some.len()) {
                    part.convert_to_f32_slice(&mut some[..part.len()]);
                    some[..part.len()].iter().copied().for_each(&mut f);
                }
            }
            Self::Float(v) => v.iter().copied().for_each(f),
        }
    }

    /// Appends all of them to `out` as 32-bit floats.
    pub fn append_to(&self, out: &mut Vec<f32>) {
        match self {
            Self::Half(v) => {
                let at = out.len();
                out.resize(at + v.len(), 0.0);
                v.convert_to_f32_slice(&mut out[at..]);
            }
            Self::Float(v) => out.extend_from_slice(v),
        }
    }
}

impl From<Vec<f32>> for Samples {
    fn from(samples: Vec<f32>) -> Self {
        Self::Float(samples)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn halves_widen_to_equal_numbers() {
        let all: Vec<f16> = (0..=u16::MAX).map(f16::from_bits).collect();
        let narrow = Samples::Half(all.clone());
        let wide = narrow.wide();
        assert!(all.iter().zip(wide.iter()).all(|(h, w)| h.to_f32().to_bits() == w.to_bits() || h.is_nan()));
        assert_eq!((narrow.bytes(), narrow.get(0x3c00), narrow.get(1 << 16)), (2 << 16, Some(1.0), None));
        let mut each = Vec::new();
        narrow.for_each(|v| each.push(v.to_bits()));
        assert!(each.iter().eq(wide.iter().map(|v| v.to_bits()).collect::<Vec<_>>().iter()));
        assert_eq!(Samples::from(vec![2.0]).wide(), [2.0].as_slice());
    }
}
