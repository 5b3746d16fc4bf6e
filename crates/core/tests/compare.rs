//! Figures of a comparison against scikit-image (fixtures and their script: tests/fixtures).
#![allow(clippy::unwrap_used)]

use jugata_core::show::compare::{difference, picture, ssim};
use jugata_core::{Raster, Window};
use serde::Deserialize;

#[derive(Deserialize)]
struct Case {
    name: String,
    a: [Vec<f32>; 3],
    b: [Vec<f32>; 3],
    ssim: f64,
    psnr: f64,
}

#[derive(Deserialize)]
struct Cases {
    width: u32,
    height: u32,
    cases: Vec<Case>,
}

#[test]
fn figures_are_those_of_scikit_image() {
    let all: Cases = serde_json::from_str(include_str!("fixtures/ssim.json")).unwrap();
    let w = Window::of_size(all.width, all.height);
    for c in all.cases {
        let of = |p: &[Vec<f32>; 3]| Raster::from_planar(w, 3, p.concat()).unwrap();
        let (a, b) = (of(&c.a), of(&c.b));
        let (s, d) = (ssim(&a, &b).unwrap().unwrap(), difference(&a, &b, None).unwrap());
        assert!((s - c.ssim).abs() < 1e-5, "{}: {s} {}", c.name, c.ssim);
        assert!((d.psnr - c.psnr).abs() < 1e-3, "{}: {} {}", c.name, d.psnr, c.psnr);
        assert!((ssim(&a, &a).unwrap().unwrap() - 1.0).abs() < 1e-12);
    }
}

#[test]
fn small_and_different_shapes_are_told() {
    let small = Raster::zeros(Window::of_size(10, 10), 3);
    assert_eq!(ssim(&small, &small).unwrap(), None);
    assert!(ssim(&small, &Raster::zeros(Window::of_size(10, 11), 3)).is_err());
    let white = Raster::filled(Window::of_size(10, 10), 3, 1.0);
    assert!(picture(&small, &white, 0.5).unwrap().iter().all(|v| v.abs_diff(128) <= 1));
}
