//! Normals from height against SciPy (fixtures/make_normals.py).
#![allow(clippy::unwrap_used)]

use jugata_core::surface::normals::{FromHeight, from_height};
use jugata_core::{Cancel, Raster, Window};
use serde_json::Value;

#[test]
fn normals_are_those_of_scipy() {
    let all: Value = serde_json::from_str(include_str!("fixtures/normals.json")).unwrap();
    let numbers =
        |v: &Value| v.as_array().unwrap().iter().map(|v| v.as_f64().unwrap() as f32).collect::<Vec<_>>();
    let side = |name: &str| all[name].as_u64().unwrap() as u32;
    let window = Window::new(4, -3, side("width"), side("height"));
    let height = Raster::from_planar(window, 1, numbers(&all["heights"])).unwrap();
    for case in all["cases"].as_array().unwrap() {
        let how = FromHeight {
            strength: all["strength"].as_f64().unwrap() as f32,
            kernel: serde_json::from_value(case["kernel"].clone()).unwrap(),
            tileable: case["tileable"].as_bool().unwrap(),
            y_down: false,
        };
        let got = from_height(&height, how, &Cancel::new()).unwrap();
        for (got, want) in got.data().iter().zip(numbers(&case["normals"])) {
            assert!((got - want).abs() < 1e-5, "{how:?}: {got} {want}");
        }
    }
}
