//! What is kept as JSONB: anything that serialises, without what PostgreSQL keeps no text with.

use crate::StoreError;
use jugata_shot::ShotError;
use serde::Serialize;
use serde_json::Value;

/// A document as it is kept.
pub(crate) fn written(document: &impl Serialize) -> Result<Value, StoreError> {
    let document = serde_json::to_value(document)?;
    if has_zero(&document) {
        // PostgreSQL keeps no text with it.
        let what = "a name in it holds a character with the code 0, which cannot be kept".into();
        return Err(ShotError::Parameter { place: "The document".into(), what }.into());
    }
    Ok(document)
}

fn has_zero(value: &Value) -> bool {
    match value {
        Value::String(text) => text.contains('\0'),
        Value::Array(all) => all.iter().any(has_zero),
        Value::Object(all) => all.iter().any(|(name, value)| name.contains('\0') || has_zero(value)),
        _ => false,
    }
}
