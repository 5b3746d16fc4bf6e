//! Moved pictures against SciPy's and Pillow's (fixtures/make_resample.py), and what holds for every move.
#![allow(clippy::unwrap_used)]

use glam::{DMat3, DVec2, DVec3};
use jugata_core::geometry::chain::{Chain, Move};
use jugata_core::geometry::field::Field;
use jugata_core::geometry::kernel::Kernel;
use jugata_core::geometry::resample::filtered;
use jugata_core::passes::moved::moved;
use jugata_core::{Cancel, Raster, Role, Window};
use proptest::prelude::*;
use serde::Deserialize;

#[derive(Deserialize)]
struct Fixture {
    size: [u32; 2],
    picture: Vec<f32>,
    backward: [f64; 9],
    warped: Vec<f32>,
    resized: Vec<Resized>,
}

#[derive(Deserialize)]
struct Resized {
    kernel: Kernel,
    size: [u32; 2],
    values: Vec<(i32, i32, f32)>,
}

fn fixture() -> (Fixture, Raster) {
    let f: Fixture = serde_json::from_str(include_str!("fixtures/resample.json")).unwrap();
    let picture = Raster::from_planar(Window::of_size(f.size[0], f.size[1]), 1, f.picture.clone()).unwrap();
    (f, picture)
}

fn through(picture: &Raster, chain: &Chain, window: Window) -> Raster {
    filtered(picture, chain, window, &Cancel::new()).unwrap()
}

#[test]
fn a_projective_map_gives_what_scipy_gives() {
    let (f, picture) = fixture();
    let backward = DMat3::from_cols_array(&f.backward).transpose();
    let chain = Chain::of([Move::Homography(backward.inverse())]).read_by(Kernel::Bilinear);
    let out = through(&picture, &chain, picture.window());
    // Where the map shrinks, the kernel is wider than SciPy's; elsewhere it is the same.
    let mut compared = 0;
    for (i, want) in f.warped.iter().enumerate() {
        let (x, y) = picture.window().pixel_at(i);
        let at = DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5);
        let (_, slope) = chain.source_with_slope(at).unwrap();
        let m = slope * slope.transpose();
        let largest = (m.x_axis.x + m.y_axis.y) * 0.5 + ((m.x_axis.x - m.y_axis.y) * 0.5).hypot(m.y_axis.x);
        if largest <= 1.0 {
            let got = out.sample(0, x, y).unwrap();
            assert!((got - want).abs() < 1e-5, "{x} {y}: {got} {want}");
            compared += 1;
        }
    }
    assert!(compared > 150, "{compared}");
}

#[test]
fn larger_and_smaller_pictures_are_pillows() {
    let (f, picture) = fixture();
    for r in &f.resized {
        let k = DVec3::new(
            f64::from(r.size[0]) / f64::from(f.size[0]),
            f64::from(r.size[1]) / f64::from(f.size[1]),
            1.0,
        );
        let chain = Chain::of([Move::Homography(DMat3::from_diagonal(k))]).read_by(r.kernel);
        let out = through(&picture, &chain, Window::of_size(r.size[0], r.size[1]));
        for &(x, y, want) in &r.values {
            let got = out.sample(0, x, y).unwrap();
            // Nothing below black, nothing above full coverage: overshoot is cut here and kept there.
            let want = want.clamp(0.0, 1.0);
            assert!((got - want).abs() < 2e-5, "{:?} {:?} {x} {y}: {got} {want}", r.kernel, r.size);
        }
    }
}

/// A smooth picture with an opaque middle.
fn disc() -> Raster {
    Raster::from_fn(Window::of_size(64, 48), 4, |c, x, y| {
        let d = ((x as f32 - 31.5).powi(2) + (y as f32 - 23.5).powi(2)).sqrt();
        let alpha = (18.0 - d).clamp(0.0, 1.0);
        if c == 3 { alpha } else { alpha * (0.5 + 0.3 * (0.4 * x as f32 + c as f32).sin()) }
    })
}

fn any_map() -> impl Strategy<Value = DMat3> {
    let part = |a: f64| -a..a;
    (0.2f64..3.0, 0.2f64..3.0, part(3.2), part(0.6), part(20.0), part(20.0), part(2e-3), part(2e-3)).prop_map(
        |(sx, sy, turn, shear, x, y, g, h)| {
            let middle = DMat3::from_translation(DVec2::new(32.0, 24.0));
            let bent = DMat3::from_cols_array(&[1.0, 0.0, g, shear, 1.0, h, x, y, 1.0]);
            middle
                * bent
                * DMat3::from_angle(turn)
                * DMat3::from_diagonal(DVec3::new(sx, sy, 1.0))
                * middle.inverse()
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    #[test]
    fn a_part_is_enough_and_an_extent_holds_all(map in any_map(), kernel in 0usize..3) {
        let kernel = [Kernel::Bilinear, Kernel::CatmullRom, Kernel::Lanczos3][kernel];
        let (picture, within) = (disc(), Window::new(-300, -300, 700, 700));
        let chain = Chain::of([Move::Homography(map)]).read_by(kernel);
        let whole = through(&picture, &chain, within);
        // Nothing lies outside the extent.
        let extent = chain.extent(picture.window(), within);
        let inside = whole.cropped(extent, 0.0).cropped(within, 0.0);
        prop_assert!(inside == whole);
        // A window needs no more than its part.
        for window in [Window::new(0, 0, 16, 16), Window::new(20, 10, 9, 31), Window::new(-40, 60, 50, 3)] {
            let part = Field::of(&chain, window).part(within);
            let got = through(&picture.cropped(part, 0.0), &chain, window);
            prop_assert!(got == whole.cropped(window, 0.0), "{window:?} {part:?}");
        }
        // Coverage stays coverage, and light stays light.
        prop_assert!(whole.plane(3).iter().all(|v| (0.0..=1.0).contains(v)));
        prop_assert!(whole.data().iter().all(|v| *v >= 0.0));
    }

    #[test]
    fn what_is_even_stays_even(map in any_map()) {
        let chain = Chain::of([Move::Homography(map)]);
        let even = Raster::filled(Window::new(-400, -400, 900, 900), 1, 0.7);
        let out = through(&even, &chain, Window::new(16, 12, 32, 24));
        prop_assert!(out.data().iter().all(|v| (v - 0.7).abs() < 1e-5));
    }
}

#[test]
fn what_is_not_moved_keeps_its_bits_and_whole_px_only_shift_them() {
    let picture = disc();
    let still = Chain::of([Move::Homography(DMat3::IDENTITY)]);
    assert_eq!(moved(&picture, Role::Beauty, &still, picture.window(), &Cancel::new()).unwrap(), picture);
    for kernel in [Kernel::Bilinear, Kernel::CatmullRom, Kernel::Lanczos3] {
        let shift = Move::Homography(DMat3::from_translation(DVec2::new(5.0, -3.0)));
        let chain = Chain::of([shift]).read_by(kernel);
        let out = through(&picture, &chain, Window::new(0, 0, 40, 40));
        for c in 0..4 {
            for (x, y) in [(7, 7), (30, 12), (39, 39)] {
                assert_eq!(out.sample(c, x, y), picture.sample(c, x - 5, y + 3), "{kernel:?}");
            }
        }
    }
}

#[test]
fn data_is_picked_and_motion_turns_with_the_picture() {
    let window = Window::of_size(8, 8);
    let depth = Raster::from_fn(window, 1, |_, x, _| if x < 4 { 1.0 } else { 9.0 });
    // A quarter turn against the clock about the middle, twice as large.
    let middle = DMat3::from_translation(DVec2::splat(4.0));
    let turn = DMat3::from_cols_array(&[0.0, -2.0, 0.0, 2.0, 0.0, 0.0, 0.0, 0.0, 1.0]);
    let chain = Chain::of([Move::Homography(middle * turn * middle.inverse())]);
    let at = |r: &Raster, role| moved(r, role, &chain, window, &Cancel::new()).unwrap();
    let z = at(&depth, Role::Depth);
    assert!(z.data().iter().all(|v| *v == 1.0 || *v == 9.0));
    assert_eq!(
        (z.sample(0, 4, 1), z.sample(0, 4, 6)),
        (Some(9.0), Some(1.0)),
        "what was on the right is above"
    );
    // Three px to the right become six px up.
    let motion = Raster::from_fn(window, 2, |c, _, _| if c == 0 { 3.0 } else { 0.0 });
    let v = at(&motion, Role::Motion);
    assert!((v.sample(0, 4, 4).unwrap()).abs() < 1e-6 && (v.sample(1, 4, 4).unwrap() + 6.0).abs() < 1e-6);
    // What is outside says so.
    let far = Chain::of([Move::Homography(DMat3::from_translation(DVec2::new(100.0, 0.0)))]);
    let gone = moved(&depth, Role::Depth, &far, window, &Cancel::new()).unwrap();
    assert!(gone.data().iter().all(|v| *v == f32::INFINITY));
}

#[test]
fn a_fine_pattern_shrinks_to_its_mean_whatever_way_it_is_turned() {
    let check =
        Raster::from_fn(Window::of_size(400, 400), 1, |_, x, y| f32::from(u8::from((x + y) % 2 == 0)));
    for degrees in [0.0f64, 13.0, 45.0, 80.0] {
        let middle = DMat3::from_translation(DVec2::splat(200.0));
        let map = middle
            * DMat3::from_angle(degrees.to_radians())
            * DMat3::from_diagonal(DVec3::new(0.1, 0.23, 1.0))
            * middle.inverse();
        let chain = Chain::of([Move::Homography(map)]);
        let out = through(&check, &chain, Window::new(190, 185, 20, 30));
        let worst = out.data().iter().map(|v| (v - 0.5).abs()).fold(0.0, f32::max);
        assert!(worst < 0.02, "{degrees}°: {worst}");
    }
}
