//! Textures in the engine: what extractions and steps ask of mattes and of other elements.
#![allow(clippy::unwrap_used)]

mod support;

use jugata_core::{Raster, Scale, Window};
use jugata_shot::check;
use jugata_shot::document::{Element, Extract, Limit, LimitBy, NamedMatte, Shot, Step};
use jugata_shot::engine::{Engine, Request, Target};
use jugata_shot::extracts::{BumpNormals, ExtractKind, TextureHeight};
use jugata_shot::made::Pattern;
use jugata_shot::steps::{Exposure, LitBy, Retexture};
use jugata_shot::texture::TextureFrom;
use support::{FRAME, engine, picture};

fn extract(id: u32, does: ExtractKind) -> Extract {
    Extract { id, name: format!("x{id}"), serves: true, does, reads: Vec::new() }
}

fn pass(engine: &Engine, shot: &Shot, pass: u32, window: Window) -> Raster {
    let target = Target::Pass { element: 1, pass };
    let request = Request { window, ..Request::frame(shot, target, Scale::FULL) };
    engine.evaluate(shot, &request).unwrap().raster.as_ref().clone()
}

fn with_matte(shot: &mut Shot, by: LimitBy) {
    shot.elements[0].mattes = vec![NamedMatte { id: 1, name: "m".into(), matte: Limit::of(by) }];
}

#[test]
fn an_extraction_sees_all_of_its_matte_whatever_is_looked_at_first() {
    let (cold, mut shot) = engine();
    with_matte(&mut shot, LimitBy::Objects { ids: vec![1, 2] });
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
    with_matte(&mut shot, LimitBy::Facing { toward: [0.0, 0.0, 1.0], within: 20.0, until: 60.0 });
    let height = TextureHeight { on: Some(1), ..TextureHeight::default() };
    shot.elements[0].extracts =
        vec![extract(1001, height.into()), extract(1002, BumpNormals::default().into())];
    check::check(&shot).unwrap();
    assert!(pass(&engine, &shot, 1002, FRAME).plane(2).iter().any(|v| *v > 0.0));
    // A named matte within it, too.
    let inner = shot.elements[0].mattes[0].clone();
    let outer = NamedMatte { id: 2, name: "n".into(), matte: Limit::of(LimitBy::Named { matte: 1 }) };
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
    with_matte(&mut shot, LimitBy::Objects { ids: vec![1] });
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
        limited.only_where = Some(Limit::of(LimitBy::Objects { ids: vec![id] }));
        shot.elements[0].steps = vec![limited];
        let cold = picture(&engine().0, &shot, FRAME, Scale::FULL);
        assert_eq!(picture(&warm, &shot, FRAME, Scale::FULL), cold, "{id}");
    }
}
