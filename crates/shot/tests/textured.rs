//! Textures in the engine: what extractions and steps ask of mattes and of other elements.
#![allow(clippy::unwrap_used)]

use crate::support::{FRAME, engine, picture};
use jugata_core::colour::blend::BlendMode;
use jugata_core::{Raster, Role, Scale, Window};
use jugata_shot::check;
use jugata_shot::document::{Element, Extract, Joins, Limit, NamedMatte, Shot, Step};
use jugata_shot::engine::{Engine, Request, Target};
use jugata_shot::extracts::{BumpNormals, ExtractKind, HeightNormals, TextureHeight};
use jugata_shot::laying::{LaidAt, LaidBy, Layer, flat_texture, laid_at, lay_out};
use jugata_shot::made::{Gradient, Lettering, Pattern, Solid, drawn_id};
use jugata_shot::parts::{EllipsePart, FacingPart, NamedPart, ObjectsPart, PartKind};
use jugata_shot::steps::{
    Blur, BlurForm, BlurPoint, EdgeLight, Emboss, Exposure, Gloss, GradedBlur, LightWrap, LitBy, Outline,
    Place, Retexture, Sharpen, StepKind, SurroundFrom,
};
use jugata_shot::texture::TextureFrom;

fn extract(id: u32, does: ExtractKind) -> Extract {
    Extract { id, name: format!("x{id}"), serves: true, does, reads: Vec::new() }
}

fn pass(engine: &Engine, shot: &Shot, pass: u32, window: Window) -> Raster {
    let target = Target::Pass { element: 1, pass };
    let request = Request { window, ..Request::frame(shot, target, Scale::FULL) };
    engine.evaluate(shot, &request).unwrap().raster.as_ref().clone()
}

fn with_matte(shot: &mut Shot, by: PartKind) {
    shot.elements[0].mattes = vec![NamedMatte { id: 1, name: "m".into(), matte: Limit::of(by) }];
}

#[test]
fn an_extraction_sees_all_of_its_matte_whatever_is_looked_at_first() {
    let (cold, mut shot) = engine();
    with_matte(&mut shot, PartKind::from(ObjectsPart { ids: vec![1, 2] }));
    let height = TextureHeight { on: Some(1), ..TextureHeight::default() };
    shot.elements[0].extracts = vec![extract(1001, height.into())];
    check::check(&shot).unwrap();
    let whole = pass(&cold, &shot, 1001, FRAME);
    assert!(whole.plane(0).iter().any(|v| *v > 0.0));
    let (warm, _) = engine();
    pass(&warm, &shot, 1001, Window::new(5, 6, 7, 8));
    assert_eq!(pass(&warm, &shot, 1001, FRAME), whole);
}

#[test]
fn a_matte_of_an_extraction_sees_only_what_comes_before_it() {
    let (engine, mut shot) = engine();
    // The relief would turn the normals, the normals make the matte, and the matte the relief.
    with_matte(&mut shot, PartKind::from(FacingPart { toward: [0.0, 0.0, 1.0], within: 20.0, until: 60.0 }));
    let height = TextureHeight { on: Some(1), ..TextureHeight::default() };
    shot.elements[0].extracts =
        vec![extract(1001, height.into()), extract(1002, BumpNormals::default().into())];
    check::check(&shot).unwrap();
    assert!(pass(&engine, &shot, 1002, FRAME).plane(2).iter().any(|v| *v > 0.0));
    // A named matte within it, too.
    let inner = shot.elements[0].mattes[0].clone();
    let outer = NamedMatte { id: 2, name: "n".into(), matte: Limit::of(NamedPart { matte: 1 }) };
    shot.elements[0].mattes = vec![inner, outer];
    shot.elements[0].extracts[0] =
        extract(1001, TextureHeight { on: Some(2), ..TextureHeight::default() }.into());
    assert!(pass(&engine, &shot, 1002, FRAME).plane(2).iter().any(|v| *v > 0.0));
}

/// A pattern that is only used, as the texture of the render.
fn textured(shot: &mut Shot) {
    let mut other = Element::made(2, "pattern".into(), Pattern::default().into());
    other.only_used = true;
    shot.elements.push(other);
    let step = Retexture { from: TextureFrom::Element, element: Some(2), ..Retexture::default() };
    shot.elements[0].steps = vec![Step::new(1, step.into())];
}

#[test]
fn another_element_is_a_texture_after_all_its_steps_and_never_of_itself() {
    let (engine, mut shot) = engine();
    let plain = picture(&engine, &shot, FRAME, Scale::FULL);
    textured(&mut shot);
    check::check(&shot).unwrap();
    let made = picture(&engine, &shot, FRAME, Scale::FULL);
    assert_ne!(made, plain);
    shot.elements[1].steps = vec![Step::new(1, Exposure { stops: -1.0 }.into())];
    assert_ne!(picture(&engine, &shot, FRAME, Scale::FULL), made);
    let step = Retexture { from: TextureFrom::Element, element: Some(1), ..Retexture::default() };
    shot.elements[1].steps = vec![Step::new(1, step.into())];
    let name = shot.elements[0].name.clone();
    assert_eq!(
        check::check(&shot).unwrap_err().to_string(),
        format!("{name}: it would be made of its own picture, by way of the elements that it uses.")
    );
}

#[test]
fn the_light_that_is_kept_is_that_of_the_picture_so_far() {
    let (warm, mut shot) = engine();
    let step = |lit, on| Step::new(2, Retexture { lit, on, ..Retexture::default() }.into());
    with_matte(&mut shot, PartKind::from(ObjectsPart { ids: vec![1] }));
    for (stops, lit, on) in [
        (0.5, LitBy::Albedo, None),
        (1.5, LitBy::Albedo, None),
        (1.5, LitBy::OneColour, None),
        (0.5, LitBy::Diffuse, None),
        (1.5, LitBy::Diffuse, Some(1)),
        (1.5, LitBy::Clay, Some(1)),
        (1.0, LitBy::Clay, Some(1)),
    ] {
        shot.elements[0].steps = vec![Step::new(1, Exposure { stops }.into()), step(lit, on)];
        let cold = picture(&engine().0, &shot, FRAME, Scale::FULL);
        assert_eq!(picture(&warm, &shot, FRAME, Scale::FULL), cold, "{stops} {lit:?} {on:?}");
    }
    // Limited by one object, then by another.
    for id in [1, 2] {
        let mut limited = step(LitBy::Albedo, None);
        limited.only_where = Some(Limit::of(ObjectsPart { ids: vec![id] }));
        shot.elements[0].steps = vec![limited];
        let cold = picture(&engine().0, &shot, FRAME, Scale::FULL);
        assert_eq!(picture(&warm, &shot, FRAME, Scale::FULL), cold, "{id}");
    }
}

/// An even backdrop that grows brighter to the right, below an even element with an ellipse along which light comes in.
fn wrapped(offset: f32) -> Shot {
    let gradient = Gradient {
        from: [0.0, 0.5],
        to: [1.0, 0.5],
        first: [0.0; 3],
        second: [1.5; 3],
        ..Gradient::default()
    };
    let mut top = Element::made(2, "top".into(), Solid { colour: [0.1; 3], ..Solid::default() }.into());
    let body =
        PartKind::from(EllipsePart { centre: [60.0, 45.0], radii: [30.0, 20.0], turned: 0.0, soft: 0.0 });
    top.mattes = vec![NamedMatte { id: 1, name: "body".into(), matte: Limit::of(body) }];
    top.steps =
        vec![Step::new(1, LightWrap { of: Some(1), width: 12.0, blur: 6.0, ..LightWrap::default() }.into())];
    // Added, the light is told as it is.
    top.steps[0].joins = Joins::of(BlendMode::Add);
    top.placement = Some(Place { moved: [offset, 0.0], ..Place::default() });
    let (_, mut shot) = engine();
    shot.elements = vec![Element::made(1, "sky".into(), gradient.into()), top];
    shot
}

#[test]
fn light_of_what_lies_below_comes_from_where_it_is_seen() {
    let gives = |shot: &Shot| {
        check::check(shot).unwrap();
        let target = Target::Gives { element: 2, step: 1 };
        engine().0.evaluate(shot, &Request::frame(shot, target, Scale::FULL)).unwrap().raster
    };
    let (here, there) = (gives(&wrapped(0.0)), gives(&wrapped(30.0)));
    // Just inside the ellipse's upper end; what lies behind it is 30 px farther to the right once it is moved.
    let at = |r: &Raster, x: i32| r.sample(0, x, 26).unwrap();
    assert!(at(&here, 60) > 0.01 && here.sample(0, 60, 45).unwrap() < 2e-3);
    let ratio = at(&there, 60) / at(&here, 60);
    assert!((ratio - 90.5 / 60.5).abs() < 0.02, "{ratio}");
    // One element instead of all that lies below gives the same light here.
    let mut named = wrapped(30.0);
    named.elements[1].steps[0].does =
        LightWrap { of: Some(1), width: 12.0, blur: 6.0, from: Some(1), ..LightWrap::default() }.into();
    assert_eq!(gives(&named), there);
    // Light of nothing is none, and nothing is lit by itself.
    named.elements.swap(0, 1);
    let alone = LightWrap { of: Some(1), ..LightWrap::default() };
    named.elements[0].steps[0].does = alone.into();
    assert!(gives(&named).plane(0).iter().all(|v| *v == 0.0));
    let mut circle = wrapped(0.0);
    let texture = Lettering { fill: Some(2), ..Lettering::default() };
    circle.elements[0].made = Some(texture.into());
    assert!(check::check(&circle).unwrap_err().to_string().contains("made of its own picture"));
}

#[test]
fn letters_are_filled_by_another_element() {
    let gradient = Gradient {
        from: [0.0, 0.5],
        to: [1.0, 0.5],
        first: [0.0; 3],
        second: [1.0; 3],
        ..Gradient::default()
    };
    let mut fill = Element::made(1, "fill".into(), gradient.into());
    fill.only_used = true;
    let letters =
        Lettering { text: "HI".into(), size: 80.0, fill: Some(1), opacity: 0.5, ..Lettering::default() };
    let (engine, mut shot) = engine();
    shot.elements = vec![fill, Element::made(2, "title".into(), letters.into())];
    check::check(&shot).unwrap();
    let full = picture(&engine, &shot, FRAME, Scale::FULL);
    let inside = |r: &Raster, k: i32| {
        let w = r.window();
        let mut count = 0;
        for y in w.rows() {
            for x in 0..w.width as i32 {
                let [red, alpha] = [0, 3].map(|c| r.sample(c, x, y).unwrap());
                if alpha > 0.499 {
                    let wanted = (x as f32 + 0.5) * k as f32 / FRAME.width as f32;
                    assert!((red / alpha - wanted).abs() < 0.02, "{x} {y}: {red} {alpha} {wanted}");
                    count += 1;
                }
            }
        }
        count
    };
    assert!(inside(&full, 1) > 300);
    let half = Scale::halved(1).unwrap();
    assert!(inside(&picture(&engine, &shot, half.window(FRAME), half), 2) > 60);
}

#[test]
fn what_looks_around_holds_the_edge_of_the_frame() {
    let solid = Solid { colour: [0.4, 0.3, 0.2], ..Solid::default() };
    let (engine, mut shot) = engine();
    shot.elements = vec![Element::made(1, "even".into(), solid.into())];
    let plain = picture(&engine, &shot, FRAME, Scale::FULL);
    // What is even stays even up to the last px, and no bevel, rim or shadow lies along the frame.
    let place = |at: [f32; 2], size| BlurPoint { id: 0, at, size };
    let steps: Vec<StepKind> = vec![
        Blur { size: 30.0, ..Blur::default() }.into(),
        Blur { form: BlurForm::Box, size: 20.0, ..Blur::default() }.into(),
        Blur { form: BlurForm::Line, size: 20.0, angle: 30.0 }.into(),
        GradedBlur { places: vec![place([0.0, 0.0], 4.0), place([150.0, 90.0], 50.0)], all: 1.0 }.into(),
        Sharpen { amount: 200.0, radius: 5.0, ..Sharpen::default() }.into(),
        Emboss::default().into(),
        EdgeLight::default().into(),
        LightWrap::default().into(),
        Outline::default().into(),
    ];
    for does in steps {
        shot.elements[0].steps = vec![Step::new(1, does.clone())];
        let out = picture(&engine, &shot, FRAME, Scale::FULL);
        let most = out.data().iter().zip(plain.data()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(most < 2e-4, "{}: {most}", does.name());
    }
}

#[test]
fn a_pattern_has_a_height_that_goes_with_its_colours() {
    let (engine, mut shot) = engine();
    let grey = Pattern { size: 9.0, contrast: 3.0, first: [0.0; 3], second: [1.0; 3], ..Pattern::default() };
    shot.elements = vec![Element::made(1, "bumps".into(), grey.into())];
    let height = pass(&engine, &shot, drawn_id(Role::Height), FRAME);
    let seen = picture(&engine, &shot, FRAME, Scale::FULL);
    assert_eq!(height.channels(), 1);
    for (h, v) in height.plane(0).iter().zip(seen.plane(0)) {
        assert!((h - v).abs() < 1e-6, "{h} {v}");
    }
    assert!(height.plane(0).iter().any(|v| *v > 0.7) && height.plane(0).iter().any(|v| *v < 0.3));
    // Normals of it, and so lamps.
    shot.elements[0].extracts = vec![extract(1001, HeightNormals::default().into())];
    let normals = pass(&engine, &shot, 1001, FRAME);
    assert!(normals.plane(0).iter().any(|v| *v > 0.1) && normals.plane(2).iter().all(|v| *v > 0.0));
}

#[test]
fn another_element_is_mirrored_as_what_is_all_around() {
    let (engine, mut shot) = engine();
    let of = |colour: [f32; 3]| Element {
        only_used: true,
        ..Element::made(2, "around".into(), Solid { colour, ..Solid::default() }.into())
    };
    let gloss = Gloss { from: SurroundFrom::Element, element: Some(2), ..Gloss::default() };
    let letters = Lettering { text: "O".into(), size: 90.0, colour: [0.0; 3], ..Lettering::default() };
    let mut title = Element::made(1, "title".into(), letters.into());
    title.steps = vec![Step::new(1, gloss.into())];
    shot.elements = vec![title, of([0.0, 0.5, 0.0])];
    check::check(&shot).unwrap();
    let green = picture(&engine, &shot, FRAME, Scale::FULL);
    let most = |r: &Raster, c: usize| r.plane(c).iter().copied().fold(0.0, f32::max);
    assert!(most(&green, 1) > 0.1 && most(&green, 0) == 0.0, "{} {}", most(&green, 1), most(&green, 0));
    shot.elements[1] = of([0.5, 0.0, 0.0]);
    let red = picture(&engine, &shot, FRAME, Scale::FULL);
    assert!(most(&red, 0) > 0.1 && most(&red, 1) == 0.0);
}

#[test]
fn a_place_of_the_picture_and_its_uv_are_found_from_either_side() {
    let (engine, mut shot) = engine();
    let step = Retexture { middle: [0.4, 0.6], size: [0.5, 0.5], ..Retexture::default() };
    shot.elements[0].steps = vec![Step::new(1, step.into())];
    with_matte(&mut shot, PartKind::from(ObjectsPart { ids: vec![2] }));
    let by = LaidBy { element: 1, layer: Layer::Step { id: 1 }, frame: 0, placed: false };
    let mut met = 0;
    for at in (0..FRAME.area()).step_by(211).map(|i| FRAME.pixel_at(i)) {
        let at = [at.0 as f32 + 0.5, at.1 as f32 + 0.5];
        let there = laid_at(&engine, &shot, by, LaidAt::Picture(at)).unwrap();
        let Some(uv) = there.uv else { continue };
        let back = laid_at(&engine, &shot, by, LaidAt::Uv(uv)).unwrap();
        // Several things may show the same UV: what is found shows it, too.
        let Some([x, y]) = back.at else { continue };
        let again = laid_at(&engine, &shot, by, LaidAt::Picture([x, y])).unwrap().uv.unwrap();
        assert!(
            (again[0] - uv[0]).abs() < 0.08 && (again[1] - uv[1]).abs() < 0.08,
            "{at:?} {uv:?} {again:?}"
        );
        met += 1;
    }
    assert!(met >= 5, "{met}");
    // Where the element is put, handles are put, too.
    let before = lay_out(&engine, &shot, by).unwrap();
    shot.elements[0].placement = Some(Place { moved: [7.0, -3.0], ..Place::default() });
    assert_eq!(lay_out(&engine, &shot, by).unwrap(), before);
    let after = lay_out(&engine, &shot, LaidBy { placed: true, ..by }).unwrap();
    let (was, is) = (before.middle.unwrap(), after.middle.unwrap());
    assert!((is[0] - was[0] - 7.0).abs() < 1e-3 && (is[1] - was[1] + 3.0).abs() < 1e-3, "{was:?} {is:?}");
    let there = laid_at(&engine, &shot, LaidBy { placed: true, ..by }, LaidAt::Picture(is)).unwrap();
    assert_eq!(there.uv, laid_at(&engine, &shot, by, LaidAt::Picture(was)).unwrap().uv);
    let flat = flat_texture(&engine, &shot, by).unwrap().unwrap();
    assert!(flat.low[0] < flat.high[0] && flat.png.starts_with(b"\x89PNG"));
    shot.elements[0].steps[0] = Step::new(1, Exposure { stops: 0.0 }.into());
    assert_eq!(flat_texture(&engine, &shot, by).unwrap(), None, "nothing is laid by it");
}
