//! Values that may change over time, apart from where they stand: numbers, or the words of a choice and a text.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use ts_rs::TS;

/// What a key holds, and what a driven parameter has at a frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(untagged)]
pub enum DriveValue {
    /// One number, or as many as the parameter has.
    Numbers(Vec<f32>),
    /// One of a few words, or a text: it stays until the next key, and nothing lies between two of them.
    Words(String),
}

impl From<Vec<f32>> for DriveValue {
    fn from(numbers: Vec<f32>) -> Self {
        Self::Numbers(numbers)
    }
}

impl DriveValue {
    /// What stands in a document, if it is numbers or words.
    pub(crate) fn of(value: &Value) -> Option<Self> {
        match value {
            Value::String(words) => Some(Self::Words(words.clone())),
            _ => numbers(value).map(Self::Numbers),
        }
    }

    /// Its numbers; none of words.
    pub fn numbers(&self) -> &[f32] {
        match self {
            Self::Numbers(numbers) => numbers,
            Self::Words(_) => &[],
        }
    }

    /// Its words, if it is no numbers.
    pub fn words(&self) -> Option<&str> {
        match self {
            Self::Numbers(_) => None,
            Self::Words(words) => Some(words),
        }
    }

    /// Whether another can stand in its place: words for words, and as many numbers.
    pub(crate) fn fits(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Numbers(a), Self::Numbers(b)) => a.len() == b.len(),
            (Self::Words(_), Self::Words(_)) => true,
            _ => false,
        }
    }

    /// What it is, for a sentence.
    pub(crate) fn said(&self) -> String {
        match self {
            Self::Numbers(all) if all.len() == 1 => "a number".into(),
            Self::Numbers(all) => format!("{} numbers", all.len()),
            Self::Words(_) => "words".into(),
        }
    }

    /// It as the kind of value that stands in its place.
    pub(crate) fn like(&self, old: &Value) -> Option<Value> {
        match self {
            Self::Words(words) => old.is_string().then(|| Value::String(words.clone())),
            Self::Numbers(value) => {
                let mut rest = value.iter().copied();
                let new = alike(old, &mut rest)?;
                rest.next().is_none().then_some(new)
            }
        }
    }
}

/// The numbers of a parameter: one, some, a switch as 0 or 1, or those of a path one place after the other.
fn numbers(value: &Value) -> Option<Vec<f32>> {
    match value {
        Value::Number(n) => Some(vec![n.as_f64()? as f32]),
        Value::Bool(b) => Some(vec![f32::from(u8::from(*b))]),
        Value::Array(list) if !list.is_empty() => {
            Some(list.iter().map(numbers).collect::<Option<Vec<_>>>()?.concat())
        }
        _ => None,
    }
}

fn alike(old: &Value, rest: &mut impl Iterator<Item = f32>) -> Option<Value> {
    let number = |v: f32| serde_json::Number::from_f64(f64::from(v)).map(Value::Number);
    Some(match old {
        Value::Bool(_) => Value::Bool(rest.next()? >= 0.5),
        Value::Number(n) if n.is_u64() => Value::from(rest.next()?.round().max(0.0) as u64),
        Value::Number(_) => number(rest.next()?)?,
        Value::Array(list) => list.iter().map(|one| alike(one, rest)).collect::<Option<_>>()?,
        _ => return None,
    })
}
