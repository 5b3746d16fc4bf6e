//! What objects are made of, told from their picture, against the stand-in's own materials: metals, gloss, roughness. With
//! a pass of diffuse light, and with an albedo alone. The figures are printed (`--nocapture`); the floors hold for all
//! rooms together and for each.
#![allow(clippy::unwrap_used)]

use crate::files::Files;
use glam::Vec3;
use jugata_core::Scale;
use jugata_core::matte::hashed::id_of;
use jugata_exchange::{Limits, exr_read};
use jugata_shot::document::MediaId;
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::finish::Finish;
use jugata_shot::intake;
use jugata_standin::material::Material;
use jugata_standin::scene::Scene;
use jugata_standin::shape::Ray;
use jugata_standin::{Passes, Settings, export, orrery, random, render, shade};
use jugata_testkit::beds::Bed;
use std::collections::BTreeMap;

const SIZE: (u32, u32) = (320, 180);

/// How many px an object must show to be counted.
const SHOWS: usize = 60;

/// What a bed's picture says of its objects.
fn told(passes: &Passes) -> Vec<Finish> {
    let bytes = export::plain(passes).unwrap();
    let file = exr_read::read(&bytes, &Limits::default()).unwrap();
    let shot = intake::shot_of(&file, "bed.exr", MediaId::of(&bytes));
    let engine = Engine::new(Box::new(Files(vec![bytes])), Limits::default(), CacheSizes::default());
    let element = shot.elements[0].id;
    let request = Request::frame(&shot, Target::Untouched { element }, Scale::FULL);
    engine.finishes(&shot, element, &request).unwrap().finishes
}

/// The material of each object that shows enough, with how many px show it.
fn truth(scene: &Scene, passes: &Passes) -> BTreeMap<u32, (Material, usize)> {
    let to_world = scene.world_to_camera.inverse();
    let eye = to_world.transform_point3(Vec3::ZERO);
    let mut seen = BTreeMap::new();
    let w = passes.position.window();
    for (x, y) in w.rows().flat_map(|y| (w.x..w.right() as i32).map(move |x| (x, y))) {
        let at = Vec3::from_slice(&passes.position.pixel(x, y).unwrap()) / passes.unit;
        if at.is_finite() && at != Vec3::ZERO {
            let ray = Ray { origin: eye, direction: to_world.transform_point3(at) - eye };
            if let Some(found) = shade::find(scene, &ray) {
                seen.entry(found.id).or_insert((*found.material, 0)).1 += 1;
            }
        }
    }
    seen.retain(|_, (_, count)| *count >= SHOWS);
    seen
}

/// Of metal, gloss, matt: how many there are, and how many were told to be metal, gloss, matt.
type Confusion = [[usize; 3]; 3];

fn judge(bed: Bed, settings: &Settings, all: &mut Confusion, roughness: &mut Vec<f32>) {
    let passes = render(settings);
    let scene = match bed {
        Bed::Room(seed) => random::built(random::good(seed), 0.0),
        _ => orrery::scene(0.0, 1.0),
    };
    let told = told(&passes);
    for (id, (material, _)) in truth(&scene, &passes) {
        if material.glow > 0.0 {
            continue;
        }
        let hash = id_of(&scene.names[id as usize - 1]);
        let row = told.iter().find(|f| f.objects.contains(&id) || f.hashed.contains(&hash));
        let is = if material.metal { 0 } else { usize::from(material.f0 <= 0.0) + 1 };
        let said = row.map_or(2, |f| usize::from(f.metalness <= 0.0));
        all[is][said] += 1;
        if std::env::var_os("JUGATA_TELL").is_some() && said < 2 {
            println!("{bed}: {} {material:?} {:?}", scene.names[id as usize - 1], row);
        }
        if is != said && std::env::var_os("JUGATA_TELL").is_some() {
            println!("{bed}: {} {material:?} is told as {said}", scene.names[id as usize - 1]);
        }
        if let (true, Some(f)) = (is == said, row) {
            roughness.push((f.roughness - material.alpha.sqrt()).abs());
        }
    }
}

#[test]
fn metal_and_gloss_are_told_and_what_is_matt_stays_matt() {
    for diffuse in [true, false] {
        let (mut all, mut roughness) = (Confusion::default(), Vec::new());
        for bed in Bed::all() {
            if let Some(settings) = bed.settings(SIZE, 4) {
                judge(bed, &Settings { diffuse, ..settings }, &mut all, &mut roughness);
            }
        }
        roughness.sort_unstable_by(f32::total_cmp);
        let middle = roughness[roughness.len() / 2];
        let worst = roughness[roughness.len() - 1];
        println!("diffuse {diffuse}: {all:?}, roughness off by {middle:.2}, at most {worst:.2}");
        let share = |is: usize| all[is][is] as f32 / all[is].iter().sum::<usize>() as f32;
        assert!(share(0) > 0.9, "metals: {all:?}");
        assert!(share(2) > 0.97, "matt things: {all:?}");
        // Without a pass of diffuse light only a clear highlight tells of gloss, and few are.
        assert!(!diffuse || share(1) > 0.9, "glossy things: {all:?}");
    }
}
