//! Extracted passes and mattes through the engine: who reads what, windows, scales, caches.
#![allow(clippy::unwrap_used)]

use crate::support::{FRAME, engine, picture};
use jugata_core::matte::Combine;
use jugata_core::{Camera, Raster, Role, Scale, Window};
use jugata_shot::document::{
    Element, Extract, Limit, MatteEdge, MattePart, NamedMatte, PaintedStroke, ReadsPass, Shot, Step,
};
use jugata_shot::engine::{Engine, Event, Request, Target};
use jugata_shot::extracts::{ElementsDepth, ExtractKind, MovesMap, PictureHeight, RangeDepth, catalogue};
use jugata_shot::parts::{
    BrushPart, CoveragePart, DepthPart, EllipsePart, FacingPart, GradientPart, HuePart, LuminancePart,
    NamedPart, ObjectsPart, PartKind, PolygonPart,
};
use jugata_shot::rocking::{self, Rock};
use jugata_shot::steps::{Exposure, Haze, Relight, StepKind};
use jugata_shot::{ShotError, check};

fn made(id: u32, does: ExtractKind) -> Extract {
    Extract { id, name: does.title().into(), serves: true, does, reads: vec![] }
}

/// Twice as deep.
fn twice() -> ExtractKind {
    ExtractKind::RangeDepth(RangeDepth {
        from_near: 1.0,
        to_near: 2.0,
        from_far: 2.0,
        to_far: 4.0,
        ..RangeDepth::default()
    })
}

fn look(
    engine: &Engine,
    shot: &Shot,
    target: Target,
    window: Window,
    scale: Scale,
) -> Result<Raster, ShotError> {
    let request = Request { window, ..Request::frame(shot, target, scale) };
    Ok(engine.evaluate(shot, &request)?.raster.as_ref().clone())
}

fn pass(engine: &Engine, shot: &Shot, pass: u32) -> Raster {
    look(engine, shot, Target::Pass { element: 1, pass }, FRAME, Scale::FULL).unwrap()
}

fn depth_id(shot: &Shot) -> u32 {
    shot.elements[0].pass_of(Role::Depth).unwrap().id
}

#[test]
fn each_extraction_reads_those_before_it() {
    let (engine, mut shot) = engine();
    shot.elements[0].extracts = vec![made(50, twice()), made(51, twice())];
    check::check(&shot).unwrap();
    let at = |id| pass(&engine, &shot, id).sample(0, 40, 40).unwrap();
    let first = at(depth_id(&shot));
    assert!((at(50) - 2.0 * first).abs() < 1e-4 && (at(51) - 4.0 * first).abs() < 1e-4);
    // One may be told to read another, and one that does not serve is passed over.
    let depth = depth_id(&shot);
    shot.elements[0].extracts[1].reads = vec![ReadsPass { role: Role::Depth, pass: depth }];
    assert!((pass(&engine, &shot, 51).sample(0, 40, 40).unwrap() - 2.0 * first).abs() < 1e-4);
    shot.elements[0].extracts[1].reads.clear();
    shot.elements[0].extracts[0].serves = false;
    assert!((pass(&engine, &shot, 51).sample(0, 40, 40).unwrap() - 2.0 * first).abs() < 1e-4);
}

#[test]
fn steps_read_what_serves_and_can_choose() {
    let (engine, mut shot) = engine();
    let haze = Haze { density: 0.3, ..Haze::default() };
    shot.elements[0].steps = vec![Step::new(1, StepKind::Haze(haze))];
    let plain = picture(&engine, &shot, FRAME, Scale::FULL);
    shot.elements[0].extracts = vec![made(50, twice())];
    let deeper = picture(&engine, &shot, FRAME, Scale::FULL);
    assert_ne!(deeper, plain);
    let depth = depth_id(&shot);
    shot.elements[0].steps[0].reads = vec![ReadsPass { role: Role::Depth, pass: depth }];
    assert_eq!(picture(&engine, &shot, FRAME, Scale::FULL), plain);
    // A choice that is gone is none.
    shot.elements[0].steps[0].reads[0].pass = 999;
    assert_eq!(picture(&engine, &shot, FRAME, Scale::FULL), deeper);
    shot.elements[0].extracts[0].serves = false;
    assert_eq!(picture(&engine, &shot, FRAME, Scale::FULL), plain);
}

#[test]
fn a_change_makes_anew_only_what_follows_from_it() {
    let (engine, mut shot) = engine();
    shot.elements[0].extracts = vec![made(50, twice()), made(51, twice())];
    let events = |shot: &Shot| {
        let target = Target::Pass { element: 1, pass: 51 };
        let request =
            Request { trace: Some(Default::default()), ..Request::frame(shot, target, Scale::FULL) };
        engine.evaluate(shot, &request).unwrap();
        let log = request.trace.unwrap().lock().unwrap().clone();
        log.into_iter().filter(|e| matches!(e, Event::Made { .. })).collect::<Vec<_>>()
    };
    let made = |pass| Event::Made { pass };
    assert_eq!(events(&shot), [made(50), made(51)]);
    assert_eq!(events(&shot), []);
    shot.elements[0].extracts[1].name = "another name".into();
    assert_eq!(events(&shot), []);
    let ExtractKind::RangeDepth(late) = &mut shot.elements[0].extracts[1].does else { unreachable!() };
    late.to_far = 5.0;
    assert_eq!(events(&shot), [made(51)]);
}

#[test]
fn every_extraction_is_the_same_for_any_window_and_stands_small_ones() {
    let (warm, mut shot) = engine();
    let stands = Some([1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0]);
    shot.elements[0].camera = shot.elements[0].camera.map(|c| Camera { world: stands, ..c });
    for info in catalogue().iter().cloned() {
        // A height and a map for those that read one; every other pass is there.
        shot.elements[0].extracts = vec![
            made(40, ExtractKind::PictureHeight(PictureHeight::default())),
            made(41, ExtractKind::MovesMap(MovesMap::default())),
            made(50, info.defaults),
        ];
        let target = Target::Pass { element: 1, pass: 50 };
        for n in [0, 2] {
            let scale = Scale::halved(n).unwrap();
            let frame = scale.window(FRAME);
            let whole = look(&warm, &shot, target, frame, scale).unwrap();
            let piece = Window::new(5, 4, 9, 7);
            let part = look(&engine().0, &shot, target, piece, scale).unwrap();
            assert_eq!(part, whole.cropped(piece, f32::NAN), "{} at ½^{n}", info.kind);
            assert_eq!(whole.channels(), info.gives.channels().unwrap_or(whole.channels()), "{}", info.kind);
        }
        for window in [Window::of_size(0, 0), Window::new(5000, 5000, 2, 2)] {
            assert_eq!(look(&warm, &shot, target, window, Scale::FULL).unwrap().window(), window);
        }
    }
}

#[test]
fn depth_is_lent_by_another_element_and_never_made_of_itself() {
    let (engine, mut shot) = engine();
    let mut other = Element { passes: shot.elements[0].passes.clone(), ..Element::new(2, "card".into()) };
    other.passes.retain(|p| p.role == Role::Beauty);
    let from = |elements| ExtractKind::ElementsDepth(ElementsDepth { elements, own: false });
    other.extracts = vec![made(50, from(vec![1]))];
    shot.elements.push(other);
    check::check(&shot).unwrap();
    let lent =
        |shot: &Shot| look(&engine, shot, Target::Pass { element: 2, pass: 50 }, FRAME, Scale::FULL).unwrap();
    assert_eq!(lent(&shot), pass(&engine, &shot, depth_id(&shot)));
    // Each from the other: what is lent is the depth without what was borrowed.
    let id = depth_id(&shot);
    let stored = pass(&engine, &shot, id);
    shot.elements[0].extracts = vec![made(60, twice()), made(61, from(vec![2, 1])), made(62, twice())];
    assert_eq!(lent(&shot), pass(&engine, &shot, 60));
    assert_ne!(pass(&engine, &shot, 60), stored);
    assert!(
        pass(&engine, &shot, 61).plane(0).iter().all(|z| *z == f32::INFINITY),
        "the other has none of its own"
    );
}

fn shown(engine: &Engine, shot: &Shot, limit: Limit, window: Window, scale: Scale) -> Raster {
    let mut shot = shot.clone();
    let mut step = Step::new(1, StepKind::Exposure(Exposure { stops: 1.0 }));
    step.only_where = Some(limit);
    shot.elements[0].steps = vec![step];
    check::check(&shot).unwrap();
    look(engine, &shot, Target::Limit { element: 1, step: 1 }, window, scale).unwrap()
}

fn ellipse(x: f32) -> PartKind {
    PartKind::from(EllipsePart { centre: [x, 45.0], radii: [20.0, 20.0], turned: 0.0, soft: 0.0 })
}

#[test]
fn every_kind_of_matte_is_the_same_for_any_window() {
    let (warm, mut shot) = engine();
    shot.elements[0].mattes =
        vec![NamedMatte { id: 4, name: "disc".into(), matte: Limit::of(ellipse(50.0)) }];
    let points = vec![[20.0, 20.0], [90.0, 60.0]];
    let kinds = [
        PartKind::from(ObjectsPart { ids: vec![1] }),
        PartKind::from(DepthPart { near: 3.5, far: 4.0, near_soft: 0.3, far_soft: 0.5 }),
        PartKind::from(CoveragePart {}),
        PartKind::from(FacingPart { toward: [0.3, 0.3, 0.9], within: 10.0, until: 40.0 }),
        PartKind::from(LuminancePart { low: 0.4, high: 0.6, low_soft: 0.1, high_soft: 0.2 }),
        PartKind::from(HuePart { hue: 30.0, width: 60.0, soft: 30.0, least: 0.05 }),
        ellipse(70.0),
        PartKind::from(PolygonPart { corners: vec![[10.0, 10.0], [80.0, 20.0], [40.0, 70.0]], soft: 6.0 }),
        PartKind::from(GradientPart { from: [10.0, 0.0], to: [100.0, 50.0] }),
        PartKind::from(BrushPart {
            strokes: vec![PaintedStroke {
                id: 1,
                size: 14.0,
                softness: 0.5,
                flow: 0.8,
                erases: false,
                points,
            }],
        }),
        PartKind::from(NamedPart { matte: 4 }),
    ];
    // One that never makes the whole.
    let (cold, _) = engine();
    let finish = MatteEdge { grow: -2.5, soften: 3.0, low: 0.1, high: 0.9, band: None };
    let band = MatteEdge { band: Some([3.0, 4.0]), soften: 2.0, ..MatteEdge::default() };
    for by in kinds {
        for finish in [MatteEdge::default(), finish, band] {
            let limit = Limit { finish, ..Limit::of(by.clone()) };
            for n in [0, 1] {
                let scale = Scale::halved(n).unwrap();
                let whole = shown(&warm, &shot, limit.clone(), scale.window(FRAME), scale);
                for piece in [Window::new(30, 20, 25, 12), Window::new(0, 0, 9, 9)] {
                    let part = shown(&cold, &shot, limit.clone(), piece, scale);
                    assert_eq!(part, whole.cropped(piece, 0.0), "{by:?} {finish:?} at ½^{n}");
                }
            }
            let whole = shown(&warm, &shot, limit, FRAME, Scale::FULL);
            assert!(whole.plane(0).iter().all(|v| (0.0..=1.0).contains(v)), "{by:?}");
            let sum: f32 = whole.plane(0).iter().sum();
            assert!(!finish.is_nothing() || sum > 0.0, "{by:?} holds something");
        }
    }
}

#[test]
fn parts_are_put_together_in_order() {
    let (engine, shot) = engine();
    let part = |x, joins| MattePart { joins, ..MattePart::new(ellipse(x)) };
    let at = |limit: &Limit| {
        let m = shown(&engine, &shot, limit.clone(), FRAME, Scale::FULL);
        [45, 60, 75].map(|x| m.sample(0, x, 45).unwrap())
    };
    // Discs about 50 and 70 px: one, both, the other.
    let both = |joins| Limit { parts: vec![part(50.0, Combine::Or), part(70.0, joins)], ..Limit::default() };
    assert_eq!(at(&both(Combine::Or)), [1.0, 1.0, 1.0]);
    assert_eq!(at(&both(Combine::And)), [0.0, 1.0, 0.0]);
    assert_eq!(at(&both(Combine::Minus)), [1.0, 0.0, 0.0]);
    assert_eq!(at(&both(Combine::Minus).inverted()), [0.0, 1.0, 1.0]);
    assert_eq!(at(&Limit::default()), [0.0; 3]);
    assert_eq!(at(&Limit { parts: vec![part(50.0, Combine::Minus)], ..Limit::default() }), [0.0; 3]);
}

#[test]
fn a_named_matte_is_one_for_all_its_steps() {
    let (engine, mut shot) = engine();
    shot.elements[0].mattes =
        vec![NamedMatte { id: 4, name: "disc".into(), matte: Limit::of(ellipse(50.0)) }];
    let own = shown(&engine, &shot, Limit::of(ellipse(50.0)), FRAME, Scale::FULL);
    assert_eq!(shown(&engine, &shot, Limit::of(NamedPart { matte: 4 }), FRAME, Scale::FULL), own);
    let target = Target::Matte { element: 1, matte: 4 };
    assert_eq!(look(&engine, &shot, target, FRAME, Scale::FULL).unwrap(), own);
    let gone = look(&engine, &shot, Target::Matte { element: 1, matte: 9 }, FRAME, Scale::FULL);
    assert_eq!(gone.unwrap_err().to_string(), "There is no matte 9 in this shot.");
}

#[test]
fn the_edge_of_the_frame_is_held() {
    let (engine, mut shot) = engine();
    // The picture ends before the frame does at the top; its alpha is whole at the left edge.
    shot.elements[0].passes.retain(|p| p.role == Role::Beauty);
    let soft =
        Limit { finish: MatteEdge { soften: 8.0, ..MatteEdge::default() }, ..Limit::of(CoveragePart {}) };
    let m = shown(&engine, &shot, soft, FRAME, Scale::FULL);
    assert!((m.sample(0, 0, 45).unwrap() - 1.0).abs() < 1e-5);
    assert!(m.sample(0, 50, 3).unwrap() < 0.7, "{:?}", m.sample(0, 50, 3));
}

#[test]
fn a_picture_is_rocked_by_the_depth_that_serves() {
    let (engine, mut shot) = engine();
    let rock = |shot: &Shot, amount, phase| {
        let request = Request::frame(shot, Target::Shot, Scale::FULL);
        rocking::rock(&engine, shot, &request, Rock { amount, phase, still: None }).unwrap().raster
    };
    let plain = picture(&engine, &shot, FRAME, Scale::FULL);
    assert_eq!(*rock(&shot, 8.0, 0.0), plain);
    let right = rock(&shot, 8.0, 1.0);
    assert_ne!(*right, plain);
    // A window of it is cut from the whole; a pass is no picture and stays.
    let window = Window::new(20, 20, 30, 20);
    let request = Request { window, ..Request::frame(&shot, Target::Shot, Scale::FULL) };
    let by = Rock { amount: 8.0, phase: 1.0, still: None };
    let part = rocking::rock(&engine, &shot, &request, by).unwrap().raster;
    assert_eq!(*part, right.cropped(window, 0.0));
    let target = Target::Pass { element: 1, pass: depth_id(&shot) };
    let request = Request::frame(&shot, target, Scale::FULL);
    let pass = rocking::rock(&engine, &shot, &request, by).unwrap().raster;
    assert_eq!(*pass, *engine.evaluate(&shot, &request).unwrap().raster);
    let wrong = rocking::rock(&engine, &shot, &request, Rock { amount: f32::NAN, ..by }).unwrap_err();
    assert_eq!(wrong.to_string(), "The parallax: it moves by at most 1000 px, between −1 and 1.");
    shot.elements[0].passes.retain(|p| p.role == Role::Beauty);
    let request = Request::frame(&shot, Target::Shot, Scale::FULL);
    let none = rocking::rock(&engine, &shot, &request, by).unwrap_err();
    assert!(none.to_string().starts_with("The parallax needs a depth pass"), "{none}");
}

#[test]
fn a_surface_is_made_of_a_picture_alone() {
    let (engine, mut shot) = engine();
    shot.elements[0].passes.retain(|p| p.role == Role::Beauty);
    shot.elements[0].camera = None;
    let kinds = [
        ExtractKind::PictureHeight(PictureHeight::default()),
        ExtractKind::HeightNormals(Default::default()),
    ];
    shot.elements[0].extracts = (50..).zip(kinds).map(|(id, does)| made(id, does)).collect();
    // Relight finds its normals in them.
    shot.elements[0].steps = vec![Step::new(1, StepKind::Relight(Relight::default()))];
    let untouched = look(&engine, &shot, Target::Untouched { element: 1 }, FRAME, Scale::FULL).unwrap();
    let lit = picture(&engine, &shot, FRAME, Scale::FULL);
    let sum = |r: &Raster| r.plane(1).iter().sum::<f32>();
    assert!(sum(&lit) > 1.1 * sum(&untouched));
    // What needs a camera says so.
    shot.elements[0].extracts.push(made(52, ExtractKind::DepthNormals(Default::default())));
    let none = look(&engine, &shot, Target::Pass { element: 1, pass: 52 }, FRAME, Scale::FULL).unwrap_err();
    assert_eq!(
        none.to_string(),
        "Normals from depth needs positions, or depth and a camera; scene has neither."
    );
}
