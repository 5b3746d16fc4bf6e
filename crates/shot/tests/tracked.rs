//! Planes of rendered scenes followed while the camera goes along: the orrery and random rooms. The truth comes from the
//! positions of the first frame and the way of the camera. Figures are printed (`--nocapture`); the floors hold for the worst.
#![allow(clippy::unwrap_used)]

use glam::{DVec2, Vec3};
use jugata_core::track::{Follower, LOST, Quad, all_through};
use jugata_core::{Cancel, Raster};
use jugata_exchange::Limits;
use jugata_shot::document::{FollowedBy, MediaId, Track};
use jugata_shot::engine::{CacheSizes, Engine};
use jugata_shot::intake::{MediaFile, shot_of_files};
use jugata_shot::tracks::following::{Following, follow};
use jugata_standin::{Passes, Settings, export, render};
use jugata_testkit::beds::{Bed, going};

use crate::files::Files;

const SIZE: (u32, u32) = (480, 270);
const FRAMES: i32 = 5;

/// How far the camera goes in a frame, in mean depths.
const TRAVEL: [f32; 3] = [0.025, 0.008, -0.02];

/// A square part of one plane that stands still, with the most to see in it.
fn region(p: &Passes, travel: Vec3) -> Option<[i32; 3]> {
    let (width, height) = (SIZE.0 as i32, SIZE.1 as i32);
    let at = |x: i32, y: i32| Vec3::from([0, 1, 2].map(|c| p.position.sample(c, x, y).unwrap()));
    let normal = |x: i32, y: i32| Vec3::from([0, 1, 2].map(|c| p.normal.sample(c, x, y).unwrap()));
    let still = |x: i32, y: i32| {
        let went = seen(p, at(x, y) - travel) - seen(p, at(x, y));
        [0, 1].into_iter().all(|c| (f64::from(p.motion.sample(c, x, y).unwrap()) - went[c]).abs() < 0.01)
    };
    let mut best: Option<(f32, [i32; 3])> = None;
    for side in [110, 80, 56] {
        for y in (12..height - side - 12).step_by(12) {
            for x in (12..width - side - 12).step_by(12) {
                let (id, n, here) = (p.id.sample(0, x, y).unwrap(), normal(x, y), at(x, y));
                let flat = |x: i32, y: i32| {
                    let on_plane = (at(x, y) - here).dot(n).abs() < 0.002 * here.length();
                    p.id.sample(0, x, y) == Some(id)
                        && normal(x, y).dot(n) > 0.9999
                        && on_plane
                        && still(x, y)
                };
                if id == 0.0 || !along(side).all(|i| along(side).all(|j| flat(x + i, y + j))) {
                    continue;
                }
                let v = |x: i32, y: i32| p.beauty.sample(1, x, y).unwrap();
                let mut seen = 0.0;
                for j in 1..side - 1 {
                    for i in 1..side - 1 {
                        let (x, y) = (x + i, y + j);
                        seen += (v(x + 1, y) - v(x - 1, y)).abs().min((v(x, y + 1) - v(x, y - 1)).abs())
                            / (v(x, y) + 0.01);
                    }
                }
                if best.is_none_or(|(most, _)| seen > most) {
                    best = Some((seen, [x, y, side]));
                }
            }
        }
        if best.is_some() {
            break;
        }
    }
    best.map(|(_, region)| region)
}

/// Some of the pixels along a side, the last among them.
fn along(side: i32) -> impl Iterator<Item = i32> {
    (0..side - 1).step_by(3).chain([side - 1])
}

/// Where a point of camera space is seen, px.
fn seen(p: &Passes, at: Vec3) -> DVec2 {
    let (at, c) = (at.as_dvec3(), &p.camera);
    let k = f64::from(c.focal) / -at.z;
    DVec2::new(f64::from(c.centre_x) + at.x * k, f64::from(c.centre_y) - at.y * k)
}

/// What became of a plane of a bed.
#[derive(Debug, Default)]
struct Told {
    /// Where it is told that the corners are sure to a tenth of a px and half of the region is seen: how far they are off, root
    /// mean square of each frame, px.
    sure: Vec<f64>,
    /// The same of the other frames on which it was found.
    unsure: Vec<f64>,
    /// Frames on which it was not.
    lost: usize,
    /// How far the corners are off on the frame where they are most, root mean square of the four, px: followed by motion vectors,
    /// by positions of the camera's own space, and by positions of the world.
    exact: [f64; 3],
}

/// Follows a plane of a bed; nothing where there is none, or where it is told that there is nothing to follow.
fn followed(bed: Bed) -> Option<Told> {
    let settings = going(bed.settings(SIZE, 4)?, TRAVEL);
    let travel = Vec3::from(settings.travel);
    let frames: Vec<Passes> =
        (0..FRAMES).map(|frame| render(&Settings { frame, ..settings.clone() })).collect();
    let first = &frames[0];
    let [x, y, side] = region(first, travel)?;
    // Corners at the centres of pixels, whose positions are known.
    let px = [[x, y], [x + side - 1, y], [x + side - 1, y + side - 1], [x, y + side - 1]];
    let corners: Quad = px.map(|[x, y]| DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5));
    let at = px.map(|[x, y]| Vec3::from([0, 1, 2].map(|c| first.position.sample(c, x, y).unwrap())));
    let cancel = Cancel::new();
    let mut follower = match Follower::new(&first.beauty, corners, None, &cancel) {
        Ok(follower) => follower,
        Err(e) => {
            println!("{bed}: {e}");
            return None;
        }
    };
    let truth = |frame: usize| at.map(|at| seen(first, at - travel * frame as f32));
    let mut told = Told { exact: exactly(&frames, corners, &truth), ..Told::default() };
    for (frame, now) in frames.iter().enumerate().skip(1) {
        let fit = follower.next(&now.beauty, &cancel).unwrap();
        if fit.fits < LOST {
            told.lost += 1;
            continue;
        }
        let is = all_through(&corners, fit.by).unwrap();
        let off = apart(&is, &truth(frame));
        if fit.fits >= 0.5 && fit.unsure < 0.1 { told.sure.push(off) } else { told.unsure.push(off) }
    }
    Some(told)
}

/// Root mean square of how far corners lie apart, px.
fn apart(a: &Quad, b: &Quad) -> f64 {
    (a.iter().zip(b).map(|(a, b)| a.distance_squared(*b)).sum::<f64>() / 4.0).sqrt()
}

/// Follows the region through files of the frames by what they say of it.
fn exactly(frames: &[Passes], corners: Quad, truth: &dyn Fn(usize) -> Quad) -> [f64; 3] {
    let own: Vec<Vec<u8>> = frames.iter().map(|p| export::plain(p).unwrap()).collect();
    let world: Vec<Vec<u8>> = frames.iter().map(|p| export::plain(&in_the_world(p)).unwrap()).collect();
    [(&own, FollowedBy::Motion), (&own, FollowedBy::Positions), (&world, FollowedBy::Positions)].map(
        |(files, by)| {
            let name = |(i, b): (usize, &Vec<u8>)| MediaFile {
                name: format!("room.{i:04}.exr"),
                media: MediaId::of(b),
            };
            let brought: Vec<MediaFile> = files.iter().enumerate().map(name).collect();
            let engine =
                Engine::new(Box::new(Files(files.clone())), Limits::default(), CacheSizes::default());
            let mut shot = shot_of_files(&brought, &engine).unwrap();
            let track = Track::new(1, "Plane".into(), 0, corners.map(|c| c.as_vec2().to_array()));
            shot.elements[0].tracks = vec![Track { by, ..track }];
            let what = Following { shot: &shot, element: shot.elements[0].id, track: 1, frames: None };
            let course = follow(&engine, what, &Cancel::new(), &mut |_, _| ()).unwrap();
            let found = course.marks.iter().filter(|m| m.fits > 0.0);
            let off = found.clone().map(|m| apart(&m.corners, &truth(m.frame as usize)));
            assert_eq!(found.count(), frames.len(), "{by:?}");
            off.fold(0.0, f64::max)
        },
    )
}

/// The same with positions of the world.
pub fn in_the_world(p: &Passes) -> Passes {
    let to_world = p.world_to_camera.inverse();
    let at = |x, y| Vec3::from([0, 1, 2].map(|c| p.position.sample(c, x, y).unwrap()));
    let place = |x, y| if at(x, y) == Vec3::ZERO { Vec3::ZERO } else { to_world.transform_point3(at(x, y)) };
    Passes { position: Raster::from_fn(p.position.window(), 3, |c, x, y| place(x, y)[c]), ..p.clone() }
}

#[test]
fn planes_of_rendered_scenes_are_followed_where_it_is_told_that_they_are_sure() {
    let (mut worst, mut sure, mut beds) = (0.0f64, 0, 0);
    let mut exact = [0.0f64; 3];
    for bed in Bed::some() {
        let Some(told) = followed(bed) else { continue };
        println!("{bed}: {told:.3?}");
        worst = told.sure.iter().copied().fold(worst, f64::max);
        exact = std::array::from_fn(|i| exact[i].max(told.exact[i]));
        sure += told.sure.len();
        beds += usize::from(!told.sure.is_empty());
    }
    println!("worst {worst:.3} px of {sure} sure frames in {beds} beds");
    println!(
        "worst by motion vectors, by positions of the camera, by positions of the world: {exact:.4?} px"
    );
    assert!(worst < 0.25);
    assert!(exact.iter().all(|off| *off < 0.05), "{exact:?}");
    assert!(std::env::var_os("JUGATA_SEEDS").is_some() || sure >= 6);
}
