//! Every kind of step and of extraction, over the catalogues: golden figures of its pictures, and what holds for each.
//!
//! A new kind is taken in by itself: at its defaults, and with every number that has a slider moved along it.
#![allow(clippy::unwrap_used)]

use jugata_core::{Cancel, Raster, Scale, Window};
use jugata_shot::document::{MediaId, Shot};
use jugata_shot::engine::{Engine, Request, Target};
use jugata_shot::{ShotError, check};
use std::fmt::Write;
use std::time::{Duration, Instant};

use crate::kinds::{BENCHES, SEEDS, bench, every_kind};

fn evaluated(
    engine: &Engine,
    shot: &Shot,
    target: Target,
    window: Option<Window>,
) -> Result<Raster, ShotError> {
    let mut request = Request::frame(shot, target, Scale::FULL);
    request.window = window.unwrap_or(request.window);
    Ok(engine.evaluate(shot, &request)?.raster.as_ref().clone())
}

/// A hash of every bit, and the mean of each channel, so that a change says how large it is.
fn figures(r: &Raster) -> String {
    let bits: Vec<u8> = r.data().iter().flat_map(|v| v.to_bits().to_le_bytes()).collect();
    let mut said = MediaId::of(&bits).as_str()[..16].to_owned();
    for c in 0..r.channels() {
        let finite: Vec<f64> = r.plane(c).iter().filter(|v| v.is_finite()).map(|v| f64::from(*v)).collect();
        write!(said, " {:.5}", finite.iter().sum::<f64>() / finite.len().max(1) as f64).unwrap();
    }
    said
}

#[test]
fn pictures_of_every_kind_are_what_they_were() {
    let mut said = String::new();
    let on_each: Vec<_> = BENCHES.iter().map(|(_, shot)| every_kind(shot)).collect();
    for (i, (name, ..)) in on_each[0].iter().enumerate() {
        writeln!(said, "{name}").unwrap();
        for (((engine, _), seed), all) in BENCHES.iter().zip(SEEDS).zip(&on_each) {
            let (own, shot, target) = &all[i];
            assert_eq!(own, name);
            let figures = match check::check(shot).and_then(|()| evaluated(engine, shot, *target, None)) {
                Ok(r) => figures(&r),
                Err(e) => e.to_string(),
            };
            writeln!(said, "  {}: {figures}", seed.map_or("orrery".into(), |s| format!("room {s}"))).unwrap();
        }
    }
    insta::assert_snapshot!(said);
}

#[test]
fn every_kind_gives_the_same_bits_however_it_is_cut_and_by_any_number_of_threads() {
    let (engine, shot) = &BENCHES[0];
    let one = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap();
    for (name, shot, target) in every_kind(shot) {
        let Ok(whole) = evaluated(engine, &shot, target, None) else { continue };
        let frame = shot.display;
        let (fresh, _) = bench(SEEDS[0]);
        let alone = one.install(|| evaluated(&fresh, &shot, target, None)).unwrap();
        assert_eq!(alone.data(), whole.data(), "{name}: one thread");
        for piece in [Window::new(0, 0, 1, 1), Window::new(31, 17, 40, 23), Window::new(90, 50, 6, 4)] {
            let (fresh, _) = bench(SEEDS[0]);
            let got = evaluated(&fresh, &shot, target, Some(piece)).unwrap();
            let inside = piece.intersect(&frame);
            assert_eq!(got.cropped(inside, -1.0), whole.cropped(inside, -1.0), "{name}: {piece:?}");
        }
    }
}

#[test]
fn every_kind_stops_when_nobody_waits_and_bears_what_is_empty_or_tiny() {
    let (engine, shot) = &BENCHES[0];
    for (name, shot, target) in every_kind(shot) {
        if evaluated(engine, &shot, target, Some(Window::new(0, 0, 8, 8))).is_err() {
            continue;
        }
        // What the window of before has not kept is asked for by somebody who has left.
        let mut left = Request::frame(&shot, target, Scale::FULL);
        left.window = Window::new(9, 3, 60, 40);
        left.cancel = Cancel::new();
        left.cancel.cancel();
        // The shortest of a few: the tests beside this one want the same cores.
        let shortest = (0..4).map(|_| {
            let start = Instant::now();
            match engine.evaluate(&shot, &left) {
                Err(ShotError::Cancelled(_)) => {}
                // What is made once for the whole frame is there already.
                Ok(_) if name.starts_with("extract") || name.starts_with("made") => {}
                other => panic!("{name}: {:?}", other.map(|m| m.raster.window())),
            }
            start.elapsed()
        });
        let shortest = shortest.min().unwrap();
        assert!(shortest < Duration::from_millis(50), "{name}: {shortest:?}");
        for window in [Window::new(5, 5, 0, 0), Window::new(40, 20, 1, 1), Window::new(-500, -500, 3, 3)] {
            let got = evaluated(engine, &shot, target, Some(window)).unwrap();
            assert_eq!(got.window(), window, "{name}");
        }
    }
}
