//! What a shot file may leave out: it is put in before the document is read.

use crate::steps;
use serde_json::{Map, Value};

/// Fills in the numbers, switches, joins and parameters of steps, and camera and steps of elements.
pub(crate) fn fill(document: &mut Value) {
    let Some(elements) = document.get_mut("elements").and_then(Value::as_array_mut) else { return };
    for element in elements.iter_mut().filter_map(Value::as_object_mut) {
        element.entry("camera").or_insert(Value::Null);
        let steps = element.entry("steps").or_insert_with(|| Value::Array(Vec::new()));
        let Some(steps) = steps.as_array_mut() else { continue };
        let mut free = 1 + steps.iter().filter_map(|s| s.get("id")?.as_u64()).max().unwrap_or(0);
        for step in steps.iter_mut().filter_map(Value::as_object_mut) {
            if !step.contains_key("id") {
                step.insert("id".into(), free.into());
                free += 1;
            }
            fill_step(step);
        }
    }
}

fn fill_step(step: &mut Map<String, Value>) {
    step.entry("on").or_insert(Value::Bool(true));
    let kind = step.get("does").and_then(|d| d.get("kind")).and_then(Value::as_str).map(str::to_owned);
    let Some(info) = kind.and_then(|kind| steps::catalogue().iter().find(|k| k.kind == kind)) else {
        return;
    };
    let joins = serde_json::to_value(info.joins).unwrap_or_default();
    match step.get_mut("joins").and_then(Value::as_object_mut) {
        Some(own) => put(own, &joins),
        None => {
            step.insert("joins".into(), joins);
        }
    }
}

/// Puts in what is not there.
fn put(own: &mut Map<String, Value>, defaults: &Value) {
    for (key, value) in defaults.as_object().into_iter().flatten() {
        own.entry(key.clone()).or_insert_with(|| value.clone());
    }
}
