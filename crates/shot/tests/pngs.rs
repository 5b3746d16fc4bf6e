//! Renders that arrive with every pass as a PNG of its own, in 8 or 16 bits, on every test bed.
//!
//! PNG holds 0..1 only, so depth is coded near white or near black, normals as ½ + ½ n, and the picture with the sRGB
//! curve and straight alpha, as the PNG specification asks.
#![allow(clippy::unwrap_used)]

use jugata_core::colour::srgb_encode;
use jugata_core::{Raster, Role, Scale};
use jugata_exchange::Limits;
use jugata_shot::document::MediaId;
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::intake::{MediaFile, shot_of_files};
use jugata_shot::{Shot, remedies};
use jugata_standin::Passes;
use jugata_testkit::beds::{Bed, tried};
use rayon::prelude::*;

use crate::files::Files;

/// A PNG of one to four planes of 0..1, without a curve of its own.
fn png(planes: &Raster, eight: bool) -> Vec<u8> {
    let (w, n) = (planes.window(), planes.channels());
    let mut samples = Vec::new();
    for i in 0..w.area() {
        for c in 0..n {
            let v = planes.plane(c)[i].clamp(0.0, 1.0);
            if eight {
                samples.push((v * 255.0).round() as u8);
            } else {
                samples.extend_from_slice(&((v * 65535.0).round() as u16).to_be_bytes());
            }
        }
    }
    let mut out = Vec::new();
    let mut e = png::Encoder::new(&mut out, w.width, w.height);
    e.set_color(match n {
        1 => png::ColorType::Grayscale,
        3 => png::ColorType::Rgb,
        _ => png::ColorType::Rgba,
    });
    e.set_depth(if eight { png::BitDepth::Eight } else { png::BitDepth::Sixteen });
    e.write_header().unwrap().write_image_data(&samples).unwrap();
    out
}

fn mapped(r: &Raster, n: usize, of: impl Fn(usize, &[f32]) -> f32) -> Raster {
    let mut i = 0;
    let area = r.window().area();
    Raster::from_fn(r.window(), n, |c, _, _| {
        let px: Vec<f32> = (0..r.channels()).map(|k| r.plane(k)[i % area]).collect();
        i += 1;
        of(c, &px)
    })
}

/// The set as files, with their names.
fn files(p: &Passes, eight: bool, white: bool) -> Vec<(&'static str, Vec<u8>)> {
    let picture = mapped(&p.beauty, 4, |c, v| match c {
        3 => v[3],
        _ if v[3] > 0.0 => srgb_encode((v[c] / v[3]).clamp(0.0, 1.0)),
        _ => 0.0,
    });
    let ends = p.depth.plane(0).iter().filter(|z| z.is_finite());
    let (low, high) = ends.fold((f32::INFINITY, 0f32), |(a, b), z| (a.min(*z), b.max(*z)));
    let share = |z: f32| if z.is_finite() { (z - low) / (high - low) * 0.9 + 0.05 } else { 1.0 };
    let depth = mapped(&p.depth, 1, |_, v| if white { 1.0 - share(v[0]) } else { share(v[0]) });
    let normal =
        mapped(&p.normal, 3, |c, v| if v.iter().all(|v| *v == 0.0) { 0.0 } else { 0.5 * v[c] + 0.5 });
    let uv = mapped(&p.uv, 3, |c, v| if c < 2 { v[c].rem_euclid(1.0) } else { 0.0 });
    vec![
        ("shelf_beauty.png", png(&picture, eight)),
        ("shelf_depth.png", png(&depth, eight)),
        ("shelf_normal.png", png(&normal, eight)),
        ("shelf_uv.png", png(&uv, eight)),
    ]
}

fn arrived(files: Vec<(&'static str, Vec<u8>)>) -> (Engine, Shot) {
    let brought: Vec<MediaFile> =
        files.iter().map(|(name, b)| MediaFile { name: (*name).into(), media: MediaId::of(b) }).collect();
    let library = Files(files.into_iter().map(|f| f.1).collect());
    let engine = Engine::new(Box::new(library), Limits::default(), CacheSizes::default());
    let shot = shot_of_files(&brought, &engine).unwrap();
    (engine, shot)
}

fn read(engine: &Engine, shot: &Shot, role: Role) -> Raster {
    let pass = shot.elements[0].passes.iter().find(|p| p.role == role).unwrap().id;
    let target = Target::Pass { element: shot.elements[0].id, pass };
    let request = Request::frame(shot, target, Scale::FULL);
    engine.evaluate(shot, &request).unwrap().raster.as_ref().clone()
}

/// Share of surface normals that are more than a few degrees from the truth.
fn turned(got: &Raster, want: &Raster) -> f32 {
    let (mut wrong, mut all) = (0, 0);
    for i in 0..want.window().area() {
        let dot: f32 = (0..3).map(|c| got.plane(c)[i] * want.plane(c)[i]).sum();
        if (0..3).any(|c| want.plane(c)[i] != 0.0) {
            all += 1;
            wrong += i32::from(dot < 0.998);
        }
    }
    wrong as f32 / all.max(1) as f32
}

/// Share of neighbours in depth whose order is the wrong way round.
fn reversed(got: &Raster, want: &Raster) -> f32 {
    let far = |r: &Raster, i: usize| if r.plane(0)[i].is_finite() { r.plane(0)[i] } else { 1e9 };
    let surface = |i: &usize| want.plane(0)[*i].is_finite();
    let places: Vec<usize> = (0..want.window().area()).filter(surface).step_by(7).collect();
    let pairs = places.windows(2).filter(|p| (far(want, p[0]) / far(want, p[1]) - 1.0).abs() > 0.05);
    let (mut wrong, mut all) = (0, 0);
    for p in pairs {
        all += 1;
        wrong += i32::from((far(got, p[0]) > far(got, p[1])) != (far(want, p[0]) > far(want, p[1])));
    }
    wrong as f32 / all.max(1) as f32
}

#[test]
fn passes_that_are_a_png_each_become_one_element_with_right_roles_and_conventions() {
    let beds: Vec<(Bed, Passes)> = Bed::all().into_iter().map(|b| (b, b.passes((208, 117), 3, 0))).collect();
    let ways = [(false, true), (false, false), (true, true), (true, false)];
    let cases = tried(&beds, &ways);
    let bad: Vec<String> = cases
        .par_iter()
        .filter_map(|((bed, p), (eight, white))| {
            let name = format!(
                "{bed}, {} bits, near {}",
                if *eight { 8 } else { 16 },
                if *white { "white" } else { "black" }
            );
            let (engine, mut shot) = arrived(files(p, *eight, *white));
            let roles: Vec<Role> = shot.elements[0].passes.iter().map(|p| p.role).collect();
            if shot.elements.len() != 1 || roles != [Role::Beauty, Role::Depth, Role::Normal, Role::Uv] {
                return Some(format!("{name}: {} elements, {roles:?}", shot.elements.len()));
            }
            let mut said = Vec::new();
            for _ in 0..5 {
                let found = engine.findings(&shot, shot.elements[0].id, 0).unwrap().to_vec();
                said.extend(found.iter().map(|f| format!("{:?} {:.2}", f.kind, f.confidence)));
                let before = shot.clone();
                let element = shot.elements[0].id;
                remedies::take(&mut shot, element, &found);
                if shot == before {
                    break;
                }
            }
            let normals = turned(&read(&engine, &shot, Role::Normal), &p.normal);
            let depth = reversed(&read(&engine, &shot, Role::Depth), &p.depth);
            (normals > 0.02 || depth > 0.02)
                .then(|| format!("{name}: normals off {normals:.3}, depth reversed {depth:.3}; {said:?}"))
        })
        .collect();
    bad.iter().for_each(|b| println!("{b}"));
    println!("{} of {} sets of PNG files are not right", bad.len(), cases.len());
    assert!(bad.len() as f32 <= 0.1 * cases.len() as f32);
}
