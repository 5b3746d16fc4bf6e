//! What stands at an address of a document: names of fields, and numbers of things in lists.

use serde_json::Value;

/// The number of a thing in a list.
pub(crate) fn id_of(one: &Value) -> Option<u64> {
    one.get("id").and_then(Value::as_u64)
}

/// The names of an address.
pub(crate) fn names(at: &str) -> impl Iterator<Item = &str> {
    at.split('/').filter(|name| !name.is_empty())
}

/// What stands at an address.
pub(crate) fn found<'v>(document: &'v Value, at: &str) -> Option<&'v Value> {
    names(at).try_fold(document, |here, name| match here {
        Value::Object(fields) => fields.get(name),
        Value::Array(list) => list.iter().find(|one| named(one, name)),
        _ => None,
    })
}

/// The same, to change.
pub(crate) fn found_mut<'v>(document: &'v mut Value, at: &str) -> Option<&'v mut Value> {
    names(at).try_fold(document, |here, name| match here {
        Value::Object(fields) => fields.get_mut(name),
        Value::Array(list) => list.iter_mut().find(|one| named(one, name)),
        _ => None,
    })
}

/// Whether a thing of a list has a number as its name.
pub(crate) fn named(one: &Value, name: &str) -> bool {
    id_of(one).is_some_and(|id| id.to_string() == name)
}
