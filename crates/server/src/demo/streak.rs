//! A streak of the orrery's own light on its table: a part of the picture, lifted, laid down by its four corners, and softer the
//! nearer it comes.

use super::title::element;
use jugata_core::Window;
use jugata_core::colour::blend::BlendMode;
use jugata_shot::document::{Element, Limit, Shot};
use jugata_shot::files::MediaFile;
use jugata_shot::joins::Joins;
use jugata_shot::made::Picture;
use jugata_shot::parts::EllipsePart;
use jugata_shot::steps::{BlurPoint, Exposure, GradedBlur, Place, PlacedBy};

/// The sun of the orrery with a little room around it: left, right, top and bottom, shares of the frame.
const SUN: [f32; 4] = [0.418, 0.554, 0.222, 0.458];

/// Where its four corners come to lie on the table, from the upper left one on with the clock.
const ON_TABLE: [[f32; 2]; 4] = [[0.345, 0.69], [0.378, 0.70], [0.385, 1.06], [0.205, 1.06]];

/// The part of a frame that shows the sun.
pub(super) fn sun(frame: Window) -> Window {
    let at = |share: f32, side: u32| (share * side as f32).round() as i64;
    let [left, right, top, bottom] = SUN;
    let (w, h) = (frame.width, frame.height);
    Window::from_edges(at(left, w), at(top, h), at(right, w), at(bottom, h))
}

/// The shot of a take of the orrery with a streak of light, which is a picture of its sun.
pub(super) fn streak(take: Shot, sun: MediaFile) -> Shot {
    let frame = take.display;
    let mut shot = Shot { name: "Veldmere light".into(), drives: Vec::new(), ..take };
    shot.elements.truncate(1);
    shot.elements.iter_mut().for_each(|orrery| orrery.steps.clear());
    let id = shot.elements.iter().map(|e| e.id).max().unwrap_or(0) + 1;
    shot.elements.push(lifted(id, frame, sun));
    shot
}

/// The sun alone, as a streak that grows wider and softer towards the viewer, screened over the table.
fn lifted(id: u32, frame: Window, picture: MediaFile) -> Element {
    let own = sun(frame);
    let (w, h) = (own.width as f32, own.height as f32);
    // What is round it was lifted with it.
    let disc = EllipsePart {
        centre: [w * 0.5, h * 0.5],
        radii: [w * 0.44, h * 0.45],
        soft: h * 0.12,
        ..EllipsePart::default()
    };
    let point = |id: u32, y: f32, size: f32| BlurPoint { id, at: [w * 0.5, y * h], size: size * h };
    let picture = Picture { picture: Some(picture), ..Picture::default() };
    let soft = GradedBlur { places: vec![point(1, 0.1, 0.01), point(2, 0.9, 0.16)], ..GradedBlur::default() };
    let mut made =
        element(id, "Sunlight", picture.into(), vec![Exposure { stops: -16.0 }.into(), soft.into()]);
    if let Some(dark) = made.steps.first_mut() {
        dark.only_where = Some(Limit::of(disc).inverted());
    }
    Element { placement: Some(on_table(frame, [w, h])), joins: Some(screened()), ..made }
}

fn screened() -> Joins {
    Joins { strength: 0.85, ..Joins::of(BlendMode::Screen) }
}

fn on_table(frame: Window, [w, h]: [f32; 2]) -> Place {
    let corners = [[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]];
    let moved = |k: usize| {
        let [x, y] = ON_TABLE[k];
        [x * frame.width as f32 - corners[k][0], y * frame.height as f32 - corners[k][1]]
    };
    Place {
        by: PlacedBy::Corners,
        top_left: moved(0),
        top_right: moved(1),
        bottom_right: moved(2),
        bottom_left: moved(3),
        ..Place::default()
    }
}
