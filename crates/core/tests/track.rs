//! A plane followed through takes whose truth is a closed form (`jugata_testkit::plane`).
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

use glam::DVec2;
use jugata_core::raster::bands::Cancel;
use jugata_core::track::{Follower, TrackError, all_through};
use jugata_core::{Raster, Window};
use jugata_testkit::plane::{FRAMES, SIZE, Take};
use rayon::prelude::*;

/// How far the corners are off on the frames of a take.
#[derive(Clone, Copy, Debug, Default)]
struct Off {
    /// Root mean square where at least half of the region is seen, px.
    half: f64,
    /// The farthest of all, px.
    most: f64,
    /// The farthest beside what it was told that it may be.
    told: f64,
    /// Frames on which it was not found.
    lost: usize,
}

fn followed(take: &Take) -> Off {
    let cancel = Cancel::new();
    let mut follower = Follower::new(&take.frame(0), take.corners, None, &cancel).unwrap();
    let (mut half, mut off) = (Vec::new(), Off::default());
    for frame in 1..FRAMES {
        let fit = follower.next(&take.frame(frame), &cancel).unwrap();
        let [is, truth] = [fit.by, take.by(frame)].map(|by| all_through(&take.corners, by).unwrap());
        let far: Vec<f64> = is.iter().zip(&truth).map(|(a, b)| a.distance(*b)).collect();
        if std::env::var_os("JUGATA_TELL").is_some() {
            println!("  {frame}: fits {:.2}, unsure {:.3}, off {far:.3?}", fit.fits, fit.unsure);
        }
        if fit.fits == 0.0 {
            off.lost += 1;
            continue;
        }
        let most = far.iter().copied().fold(0.0, f64::max);
        off.most = off.most.max(most);
        off.told = off.told.max(most / (f64::from(fit.unsure) + 0.02));
        if fit.fits >= 0.5 {
            half.extend(far.iter().map(|d| d * d));
        }
    }
    Off { half: (half.iter().sum::<f64>() / half.len() as f64).sqrt(), ..off }
}

/// Seeds on which work was done; those from 1000 on are looked at once.
fn seeds() -> std::ops::Range<u64> {
    std::env::var("JUGATA_SEEDS")
        .ok()
        .and_then(|s| {
            let (a, b) = s.split_once("..")?;
            Some(a.parse().ok()?..b.parse().ok()?)
        })
        .unwrap_or(0..12)
}

#[test]
fn a_plane_is_followed_to_a_tenth_of_a_pixel_while_half_of_it_is_seen() {
    let kinds = [(false, 0.0), (true, 0.01)];
    // Only told: twice as much grain tells no more of a region of 90 to 150 px than about a tenth of a px.
    let coarse = std::env::var_os("JUGATA_TELL").map(|_| (true, 0.02));
    let mut worst = Vec::new();
    for (occluder, grain) in kinds.into_iter().chain(coarse) {
        let all: Vec<Off> =
            seeds().into_par_iter().map(|seed| followed(&Take::new(seed, occluder, grain))).collect();
        seeds().zip(&all).for_each(|(seed, off)| println!("grain {grain}, seed {seed}: {off:.4?}"));
        let of = |f: fn(&Off) -> f64| all.iter().map(f).fold(0.0, f64::max);
        worst.push(Off {
            half: of(|o| o.half),
            most: of(|o| o.most),
            told: of(|o| o.told),
            lost: all.iter().map(|o| o.lost).max().unwrap_or(0),
        });
    }
    println!("worst {worst:.4?}");
    assert!(worst[0].half < 0.1 && worst[0].lost == 0, "clean");
    assert!(worst[1].half < 0.1 && worst[1].lost <= 1, "with grain and something before it");
    assert!(worst.iter().all(|w| w.told < 6.0), "what it is told that it may be off");
}

#[test]
fn what_cannot_be_followed_is_told() {
    let cancel = Cancel::new();
    let grey = Raster::filled(Window::of_size(64, 64), 1, 0.3);
    let quad = |a: f64, b: f64| [DVec2::new(a, a), DVec2::new(b, a), DVec2::new(b, b), DVec2::new(a, b)];
    let asked = |q| Follower::new(&grey, q, None, &cancel).err();
    assert_eq!(asked(quad(10.0, 50.0)), Some(TrackError::Plain));
    assert_eq!(asked(quad(30.0, 33.0)), Some(TrackError::Region));
    assert_eq!(asked(quad(200.0, 300.0)), Some(TrackError::Region));
    let [a, b, c, d] = quad(10.0, 50.0);
    assert_eq!(asked([a, c, b, d]), Some(TrackError::Region));
    assert_eq!(
        asked([a, c, b, DVec2::new(2.0, 60.0)]),
        Some(TrackError::Region),
        "crossed over, with an area"
    );
    cancel.cancel();
    assert!(matches!(asked(quad(10.0, 50.0)), Some(TrackError::Cancelled(_))));
}

#[test]
fn stripes_leave_one_way_open_and_are_told() {
    let cancel = Cancel::new();
    let stripes = Raster::from_fn(Window::of_size(96, 96), 1, |_, x, _| 0.5 + 0.4 * (x as f32 * 0.4).sin());
    let quad =
        [DVec2::new(20.0, 20.0), DVec2::new(70.0, 20.0), DVec2::new(70.0, 70.0), DVec2::new(20.0, 70.0)];
    assert_eq!(Follower::new(&stripes, quad, None, &cancel).err(), Some(TrackError::Plain));
}

#[test]
fn a_region_that_is_gone_is_told_and_found_again() {
    let cancel = Cancel::new();
    let take = Take::new(3, false, 0.01);
    let mut follower = Follower::new(&take.frame(0), take.corners, None, &cancel).unwrap();
    let nothing = Raster::filled(Window::of_size(SIZE.0, SIZE.1), 1, 0.2);
    assert!(follower.next(&take.frame(1), &cancel).unwrap().fits > 0.8);
    for _ in 0..2 {
        assert_eq!(follower.next(&nothing, &cancel).unwrap().fits, 0.0);
    }
    let back = follower.next(&take.frame(2), &cancel).unwrap();
    assert!(back.fits > 0.8);
    let far = all_through(&take.corners, back.by).unwrap()[0]
        .distance(all_through(&take.corners, take.by(2)).unwrap()[0]);
    assert!(far < 0.1, "{far}");
}
