//! Two pictures in one space against the scene rendered whole: the stand-in renders the orrery and random rooms with half of
//! their objects seen by the camera, then with the other half. Figures are printed (`--nocapture`); the floors hold for
//! the worst.
#![allow(clippy::unwrap_used)]

use jugata_core::colour::blend::BlendMode;
use jugata_core::depth::crossing::{InSpace, Shown, crossed, nearness};
use jugata_core::depth::extend::{Extend, extend};
use jugata_core::motion::{self, Open};
use jugata_core::show::compare::difference;
use jugata_core::{Cancel, Raster, Role, Scale, Window};
use jugata_exchange::{Limits, png_write};
use jugata_shot::document::{ByDepth, Element, FrameRange, Joins, MediaId, Shot, Step};
use jugata_shot::drives::{Drive, DrivenBy, Goes, Key};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::intake::{MediaFile, shot_of_files};
use jugata_shot::made::{MadeKind, Solid};
use jugata_shot::steps::{CastShadow, MotionBlur, Place};
use jugata_standin::{Passes, Settings, Shutter, export, render};
use jugata_testkit::beds::{Bed, every, going};

use crate::files::Files;
use crate::kinds::{BENCHES, bench};

const SIZE: (u32, u32) = (240, 136);
const SAMPLES: u32 = 4;

fn near_of(p: &Passes) -> Raster {
    nearness_in(&p.beauty, p)
}

/// The nearness of a picture that was made of a render's.
fn nearness_in(picture: &Raster, p: &Passes) -> Raster {
    let all = Extend { by: f32::MAX, choke: 0.0, soften: 0.0 };
    let cancel = Cancel::new();
    let carried = extend(&p.depth, None, all, &cancel).unwrap();
    nearness(picture, [&p.depth, &carried], 0.0, &cancel).unwrap()
}

struct Halves {
    whole: Passes,
    one: Passes,
    other: Passes,
}

impl Halves {
    /// Every other object, by its number.
    fn of(settings: Settings) -> Self {
        let whole = render(&settings);
        let ids = 1..=whole.names.len() as u32;
        let seen = |odd: u32| Some(ids.clone().filter(|id| id % 2 == odd).collect());
        let one = render(&Settings { only: seen(1), ..settings.clone() });
        let other = render(&Settings { only: seen(0), ..settings });
        Self { whole, one, other }
    }

    fn joined(&self) -> Raster {
        let (a, b) = (near_of(&self.one), near_of(&self.other));
        let upper = InSpace { picture: &self.one.beauty, near: &a };
        let lower = InSpace { picture: &self.other.beauty, near: &b };
        crossed(upper, lower, Shown::Both, &Cancel::new()).unwrap()
    }

    /// The plain way: each pixel of the nearer one over the other's.
    fn plain(&self) -> Raster {
        let (a, b) = (&self.one, &self.other);
        Raster::from_fn(a.beauty.window(), 4, |c, x, y| {
            let at = |r: &Raster, c| r.sample(c, x, y).unwrap();
            let (z, w) = (at(&a.depth, 0), at(&b.depth, 0));
            let (top, bottom) = if z <= w { (a, b) } else { (b, a) };
            at(&top.beauty, c) + at(&bottom.beauty, c) * (1.0 - at(&top.beauty, 3))
        })
    }

    /// Pixels at which the nearer picture changes, and those around them.
    fn crossings(&self) -> Raster {
        let w = self.whole.beauty.window();
        let first = |x: i32, y: i32| {
            let at = |p: &Passes| p.depth.sample(0, x, y);
            at(&self.one).zip(at(&self.other)).map(|(a, b)| a < b)
        };
        Raster::from_fn(w, 1, |_, x, y| {
            let own = first(x, y);
            let around = (-2..=2).flat_map(|dy| (-2..=2).map(move |dx| (dx, dy)));
            let other = around.filter_map(|(dx, dy)| first(x + dx, y + dy)).any(|v| Some(v) != own);
            f32::from(u8::from(other))
        })
    }
}

fn psnr(got: &Raster, truth: &Raster, region: &Raster) -> f64 {
    difference(got, truth, Some(region)).unwrap().psnr
}

#[test]
fn two_halves_make_the_whole() {
    let mut all = Vec::new();
    for bed in Bed::all() {
        let Some(settings) = bed.settings(SIZE, SAMPLES) else { continue };
        let halves = Halves::of(settings);
        let region = halves.crossings();
        let (got, plain) = (halves.joined(), halves.plain());
        let truth = &halves.whole.beauty;
        let (ours, theirs) = (psnr(&got, truth, &region), psnr(&plain, truth, &region));
        println!("{bed}: {ours:.1} dB at crossings, {:.1} over the plain way", ours - theirs);
        if let Ok(folder) = std::env::var("JUGATA_CROPS") {
            for (name, raster) in [("ours", &got), ("plain", &plain), ("truth", truth)] {
                let path = format!("{folder}/{bed}_{name}.png").replace(' ', "_");
                std::fs::write(path, png_write::rgba16(raster).unwrap()).unwrap();
            }
        }
        all.push((ours, ours - theirs));
    }
    let worst = all.iter().map(|v| v.0).fold(f64::INFINITY, f64::min);
    let gain = all.iter().map(|v| v.1).fold(f64::INFINITY, f64::min);
    println!("worst {worst:.1}, gain {gain:.1}");
    if std::env::var_os("JUGATA_SEEDS").is_none() {
        // The one that loses has its edges along the pixel grid, where the plain way is exact.
        all.sort_unstable_by(|a, b| a.1.total_cmp(&b.1));
        assert!(all.len() == 13 && worst > 30.8 && gain > -4.6 && all[1].1 > 3.4, "{all:?}");
    }
}

/// A shot of two renders in one space, each with a motion blur.
fn blurred_shot(halves: [&Passes; 2], blur: [MotionBlur; 2]) -> (Engine, Shot) {
    let files = halves.map(|p| export::exr(p).unwrap());
    let engine = Engine::new(Box::new(Files(files.to_vec())), Limits::default(), CacheSizes::default());
    let shots = files.map(|bytes| {
        let file = MediaFile { name: "render.exr".into(), media: MediaId::of(&bytes) };
        shot_of_files(&[file], &engine).unwrap()
    });
    let [mut shot, other] = shots;
    shot.elements.extend(other.elements.into_iter().map(|e| Element { id: 2, ..e }));
    for (element, blur) in shot.elements.iter_mut().zip(blur) {
        element.steps = vec![Step::new(element.id, blur.into())];
    }
    shot.elements[1].by_depth = Some(ByDepth { at: 1.0, nearer: 0.0 });
    (engine, shot)
}

/// Two elements that move against the whole rendered while the shutter is open: they are blurred after they have met.
#[test]
fn two_halves_that_are_blurred_make_the_whole_that_is_blurred() {
    let beds = match every() {
        true => Bed::all(),
        false => vec![Bed::Orrery, Bed::Room(6), Bed::Room(8)],
    };
    let mut all = Vec::new();
    for bed in beds {
        let Some(settings) = bed.settings(SIZE, SAMPLES) else { continue };
        let settings = going(settings, [0.06, 0.015, -0.05]);
        let open = Open { opens: -0.5, closes: 0.5 };
        let shutter = Shutter { opens: open.opens, closes: open.closes, moments: 24, samples: 2 };
        let truth = render(&Settings { shutter: Some(shutter), ..settings.clone() }).beauty;
        let halves = Halves::of(settings);
        let blurred =
            |p: &Passes| motion::blur(&p.beauty, &p.motion, Some(&p.depth), open, 1, &Cancel::new()).unwrap();
        let blur = MotionBlur { shutter: 360.0, longest: 600.0, ..MotionBlur::default() };
        let (engine, shot) = blurred_shot([&halves.other, &halves.one], [blur.clone(), blur]);
        let together = seen(&engine, &shot, None);
        let (a, b) = (blurred(&halves.one), blurred(&halves.other));
        let (near_a, near_b) = (nearness_in(&a, &halves.one), nearness_in(&b, &halves.other));
        let upper = InSpace { picture: &a, near: &near_a };
        let apart =
            crossed(upper, InSpace { picture: &b, near: &near_b }, Shown::Both, &Cancel::new()).unwrap();
        let as_one = blurred(&halves.whole);
        let region = grown(&halves.crossings(), 8);
        let [together, apart, one, sharp] =
            [&together, &apart, &as_one, &halves.whole.beauty].map(|p| psnr(p, &truth, &region));
        println!(
            "{bed}: together {together:.1} dB, apart {apart:.1}, as one render {one:.1}, sharp {sharp:.1}"
        );
        all.push([together - one, together - apart]);
    }
    let worst = all.iter().map(|v| v[0]).fold(f64::INFINITY, f64::min);
    let gain = all.iter().map(|v| v[1]).fold(f64::INFINITY, f64::min);
    println!("worst {worst:.1} against one render, gain {gain:.1}");
    // The orrery's wires cover less than half of their pixels, whose motion is then that of what is behind.
    assert!(worst > -1.5 && gain > 0.0, "{all:.2?}");
}

#[test]
fn elements_that_are_blurred_together_keep_their_own_shutters_and_hold_in_windows() {
    let settings = Settings { travel: [0.4, 0.1, -0.3], ..Bed::Room(4).settings((120, 68), 2).unwrap() };
    let halves = Halves::of(settings);
    let blur = |shutter| MotionBlur { shutter, ..MotionBlur::default() };
    let (engine, mut shot) = blurred_shot([&halves.other, &halves.one], [blur(360.0), blur(180.0)]);
    let whole = seen(&engine, &shot, None);
    let fresh = |shot: &Shot, window| {
        let (engine, _) = blurred_shot([&halves.other, &halves.one], [blur(360.0), blur(180.0)]);
        seen(&engine, shot, window)
    };
    let part = Window::new(31, 17, 50, 30);
    assert_eq!(fresh(&shot, Some(part)), whole.cropped(part, 0.0));
    // Twice as long at half of the shutter is the same way.
    let Step { does, .. } = &mut shot.elements[1].steps[0];
    *does = MotionBlur { length: 0.5, ..blur(360.0) }.into();
    let other = fresh(&shot, None);
    let most = whole.data().iter().zip(other.data()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
    assert!(most < 1e-4, "{most}");
    // One that is not blurred, and one that is limited or joined otherwise and so is blurred by itself.
    shot.elements[1].steps.clear();
    let still = fresh(&shot, None);
    assert_ne!(still, whole);
    shot.elements[1].steps = vec![Step::new(2, blur(180.0).into())];
    shot.elements[1].steps[0].joins.strength = 0.5;
    assert!(![&whole, &still].contains(&&fresh(&shot, None)));
}

/// A region and what lies so many px around it.
fn grown(region: &Raster, by: i32) -> Raster {
    let w = region.window();
    Raster::from_fn(w, 1, |_, x, y| {
        let mut around = (-by..=by).flat_map(|dy| (-by..=by).map(move |dx| (dx, dy)));
        f32::from(u8::from(around.any(|(dx, dy)| region.sample(0, x + dx, y + dy) == Some(1.0))))
    })
}

fn seen(engine: &Engine, shot: &Shot, window: Option<Window>) -> Raster {
    let mut request = Request::frame(shot, Target::Shot, Scale::FULL);
    request.window = window.unwrap_or(request.window);
    engine.evaluate(shot, &request).unwrap().raster.as_ref().clone()
}

/// The render of a bench, and a grey solid over it that stands in one space with it.
fn with_solid(at: f32) -> Shot {
    let mut shot = BENCHES[0].1.clone();
    shot.elements.truncate(1);
    let solid = Solid { colour: [0.5; 3], ..Solid::default() };
    let mut solid = Element::made(7, "Sheet".into(), MadeKind::Solid(solid));
    solid.by_depth = Some(ByDepth { at, nearer: 0.0 });
    shot.elements.push(solid);
    shot
}

fn depth_of(engine: &Engine, shot: &Shot) -> Raster {
    let pass = shot.elements[0].pass_of(Role::Depth).unwrap().id;
    let request = Request::frame(shot, Target::Pass { element: 1, pass }, Scale::FULL);
    engine.evaluate(shot, &request).unwrap().raster.as_ref().clone()
}

#[test]
fn what_has_no_depth_stands_at_its_distance() {
    let engine = &BENCHES[0].0;
    let bare = {
        let mut s = with_solid(1.0);
        s.elements.truncate(1);
        s
    };
    let (own, depth) = (seen(engine, &bare, None), depth_of(engine, &bare));
    let mut z: Vec<f32> = depth.plane(0).iter().copied().filter(|z| z.is_finite()).collect();
    z.sort_unstable_by(f32::total_cmp);
    let middle = z[z.len() / 2];
    let shot = with_solid(middle);
    let both = seen(engine, &shot, None);
    let w = depth.window();
    let mut told = [0; 2];
    for y in 3..w.height as i32 - 3 {
        for x in 3..w.width as i32 - 3 {
            let around: Vec<f32> = (-3..=3)
                .flat_map(|dy| (-3..=3).map(move |dx| (dx, dy)))
                .map(|(dx, dy)| depth.sample(0, x + dx, y + dy).unwrap())
                .collect();
            let got: Vec<f32> = both.pixel(x, y).unwrap();
            if around.iter().all(|z| *z < 0.97 * middle) {
                assert_eq!(got, own.pixel(x, y).unwrap());
                told[0] += 1;
            } else if around.iter().all(|z| *z > 1.03 * middle) {
                assert_eq!(got, [0.5, 0.5, 0.5, 1.0]);
                told[1] += 1;
            }
        }
    }
    assert!(told.iter().all(|n| *n > 100), "{told:?}");
    // Nearer than all, and farther than all that is solid.
    assert_eq!(seen(engine, &with_solid(z[0] * 0.5), None).pixel(40, 20).unwrap(), [0.5, 0.5, 0.5, 1.0]);
    let behind = seen(engine, &with_solid(1e6), None);
    assert_eq!(behind.pixel(40, 20), own.pixel(40, 20));
    // The render may be moved nearer instead.
    let mut moved = shot.clone();
    moved.elements.reverse();
    moved.elements[0].by_depth = None;
    moved.elements[1].by_depth = Some(ByDepth { at: 1.0, nearer: 0.0 });
    let order = |s: &Shot| seen(engine, s, None);
    assert_ne!(order(&moved), both, "a backdrop without a place in space lies behind");
}

#[test]
fn a_distance_can_be_keyed() {
    let engine = &BENCHES[0].0;
    let mut shot = with_solid(7.0);
    shot.frames = Some(FrameRange { first: 0, last: 10 });
    let key = |frame, at| Key { frame, value: vec![at].into(), goes: Goes::Linear };
    let by = Some(DrivenBy::Keys { keys: vec![key(0.0, 4.0), key(10.0, 14.0)] });
    shot.drives = vec![Drive { id: 1, at: "elements/7/by_depth/at".into(), by, drift: None }];
    let at = |frame| {
        let request = Request { frame, ..Request::frame(&shot, Target::Shot, Scale::FULL) };
        engine.evaluate(&shot, &request).unwrap().raster
    };
    for (frame, distance) in [(0, 4.0), (5, 9.0), (10, 14.0)] {
        assert_eq!(*at(frame), seen(engine, &with_solid(distance), None), "frame {frame}");
    }
    assert_ne!(at(0), at(10));
}

#[test]
fn an_element_throws_its_shadow_on_another() {
    let engine = &BENCHES[0].0;
    let mut shot = with_solid(6.0);
    shot.elements[1].placement = Some(Place { scale: [0.3, 0.3], ..Place::default() });
    let bare = seen(engine, &shot, None);
    let cast = CastShadow { element: Some(7), darkness: 1.0, width: 0.0, ..CastShadow::default() };
    shot.elements[0].steps = vec![Step::new(1, cast.clone().into())];
    let shaded = seen(engine, &shot, None);
    let (own, dark) = (bare.plane(1), shaded.plane(1));
    assert!(dark.iter().zip(own).all(|(d, o)| *d <= *o + 1e-6), "a shadow only darkens");
    let share = dark.iter().zip(own).filter(|(d, o)| **d < 0.5 * **o).count() as f32 / own.len() as f32;
    assert!((0.005..0.3).contains(&share), "{share}");
    let part = Window::new(20, 10, 50, 30);
    assert_eq!(seen(&bench(None).0, &shot, Some(part)), shaded.cropped(part, 0.0));
    // Far behind everything it keeps nothing off; without a distance it says what is missing.
    shot.elements[1].by_depth = Some(ByDepth { at: 1e6, nearer: 0.0 });
    let behind = seen(engine, &shot, None);
    shot.elements[0].steps.clear();
    assert_eq!(behind, seen(engine, &shot, None));
    shot.elements[0].steps = vec![Step::new(1, cast.into())];
    shot.elements[1].by_depth = None;
    let request = Request::frame(&shot, Target::Shot, Scale::FULL);
    let error = engine.evaluate(&shot, &request).unwrap_err().to_string();
    assert!(error.contains("put it in by depth"), "{error}");
}

#[test]
fn windows_placing_modes_and_strength_hold_in_one_space() {
    let engine = &BENCHES[0].0;
    let mut shot = with_solid(9.0);
    shot.elements[0].placement = Some(Place { turn: 7.0, ..Place::default() });
    shot.elements[1].placement = Some(Place { scale: [0.7, 0.7], ..Place::default() });
    for joins in [
        None,
        Some(Joins { strength: 0.5, ..Joins::of(BlendMode::Normal) }),
        Some(Joins::of(BlendMode::Screen)),
    ] {
        shot.elements[1].joins = joins;
        let whole = seen(engine, &shot, None);
        for part in [Window::new(5, 3, 40, 30), Window::new(44, 10, 30, 41), Window::new(-9, -4, 60, 30)] {
            let cut = seen(&bench(None).0, &shot, Some(part));
            let inner = part.intersect(&whole.window());
            assert_eq!(cut.cropped(inner, 0.0), whole.cropped(inner, 0.0), "{joins:?} {part:?}");
        }
    }
    // At half strength half of the change is there.
    shot.elements[1].joins = None;
    let full = seen(engine, &shot, None);
    shot.elements[1].only_used = true;
    let none = seen(engine, &shot, None);
    shot.elements[1].only_used = false;
    shot.elements[1].joins = Some(Joins { strength: 0.5, ..Joins::of(BlendMode::Normal) });
    let half = seen(engine, &shot, None);
    for i in (0..half.window().area()).step_by(37) {
        let want = 0.5 * (full.plane(1)[i] + none.plane(1)[i]);
        assert!((half.plane(1)[i] - want).abs() < 1e-5, "{i}");
    }
    shot.elements[1].by_depth = Some(ByDepth { at: -1.0, nearer: 0.0 });
    let error = jugata_shot::check::check(&shot).unwrap_err().to_string();
    assert!(error.contains("distance"), "{error}");
}
