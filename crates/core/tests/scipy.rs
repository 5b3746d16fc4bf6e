//! Distances, grown mattes and spread depths against SciPy (fixtures/make_distance.py).
#![allow(clippy::unwrap_used)]

use jugata_core::depth::spread::{Spread, spread};
use jugata_core::matte::edges::grown;
use jugata_core::raster::distance;
use jugata_core::{Cancel, Raster, Window};
use serde_json::Value;

fn fixture(part: &str) -> Value {
    let all: Value = serde_json::from_str(include_str!("fixtures/distance.json")).unwrap();
    all[part].clone()
}

fn numbers(v: &Value) -> Vec<f32> {
    v.as_array().unwrap().iter().map(|v| v.as_f64().unwrap() as f32).collect()
}

fn window(case: &Value) -> Window {
    let side = |name: &str| case[name].as_u64().unwrap() as u32;
    Window::of_size(side("width"), side("height"))
}

#[test]
fn distances_are_those_of_scipy() {
    for case in fixture("distance").as_array().unwrap() {
        let is: Vec<bool> = numbers(&case["is"]).iter().map(|v| *v > 0.0).collect();
        let far = distance::distance(window(case), &is, &Cancel::new()).unwrap();
        for (got, want) in far.plane(0).iter().zip(numbers(&case["far"])) {
            assert!((got - want).abs() < 2e-6 * want.max(1.0), "{got} {want}");
        }
    }
}

#[test]
fn grown_and_choked_mattes_are_those_of_scipy() {
    for case in fixture("grown").as_array().unwrap() {
        let matte = Raster::from_planar(window(case), 1, numbers(&case["matte"])).unwrap();
        let radius = case["radius"].as_f64().unwrap() as f32;
        for (by, name) in [(radius, "dilated"), (-radius, "eroded")] {
            assert_eq!(grown(&matte, by, &Cancel::new()).unwrap().plane(0), numbers(&case[name]), "{by}");
        }
    }
}

#[test]
fn the_spread_sheet_is_the_direct_solution() {
    let case = fixture("spread");
    let (w, rgb, depth) = (window(&case), numbers(&case["picture"]), numbers(&case["depth"]));
    let at = |x: i32, y: i32| (y * w.width as i32 + x) as usize;
    let picture = Raster::from_fn(w, 4, |c, x, y| if c == 3 { 1.0 } else { rgb[3 * at(x, y) + c] });
    let given = Raster::from_fn(w, 2, |c, x, y| {
        let z = depth[at(x, y)];
        if c == 0 { z } else { f32::from(u8::from(z > 0.0)) }
    });
    let how = Spread { edge: case["edge"].as_f64().unwrap() as f32 };
    let got = spread(&picture, &given, how, &Cancel::new()).unwrap();
    for (z, want) in got.plane(0).iter().zip(numbers(&case["inverse"])) {
        assert!((1.0 / z - want).abs() < 1e-4, "{} {want}", 1.0 / z);
    }
}
