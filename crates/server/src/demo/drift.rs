//! A ship of paper that drifts past the turning orrery: another texture on its sail and its hull, one lens for both renders, and
//! each blurred by its own motion.

use super::title::element;
use jugata_core::Window;
use jugata_shot::Step;
use jugata_shot::document::{Element, Extract, Limit, Shot};
use jugata_shot::drives::{Drift, Drive, DrivenBy, Goes, Key};
use jugata_shot::extracts::MovesMotion;
use jugata_shot::made::{Lettering, Pattern, PatternForm};
use jugata_shot::parts::ObjectsPart;
use jugata_shot::steps::{BlurBy, MotionBlur, Place, Refocus, Retexture};
use jugata_shot::texture::TextureFrom;

/// Numbers of the elements: the orrery, what is printed on the sail and on the hull, the ship.
const ORRERY: u32 = 1;
const SAIL: u32 = 2;
const HULL: u32 = 3;
const SHIP: u32 = 4;

/// The object IDs of the ship's hull and its sail.
const PARTS: [u32; 2] = [1, 2];

/// Numbers of the steps that have the lens, on the orrery and on the ship.
const LENSES: [u32; 2] = [1, 3];

/// The shot of a take of the orrery and of a ship in a frame of the same size.
pub(super) fn drift(take: Shot, ship: Element) -> Shot {
    let frame = take.display;
    let ends = take.frames.map_or([1.0, 48.0], |f| [f.first as f32, f.last as f32]);
    let mut shot = Shot { name: "Veldmere drift".into(), ..take };
    shot.elements.truncate(1);
    if let Some(orrery) = shot.elements.first_mut() {
        orrery.id = ORRERY;
        orrery.steps = vec![Step::new(LENSES[0], lens().into()), Step::new(2, MotionBlur::default().into())];
    }
    shot.elements.extend([sail(frame), hull(frame), afloat(ship)]);
    shot.drives = drives(frame, ends);
    shot
}

/// A lens that shows an instrument on a table: ten scene units are a metre.
fn lens() -> Refocus {
    Refocus { blur: BlurBy::Lens, focus: 9.3, unit: 100.0, f_number: 2.0, ..Refocus::default() }
}

/// What lies over a whole frame of this width is told for one of 640 px.
fn times(frame: Window) -> f32 {
    frame.width as f32 / 640.0
}

fn sail(frame: Window) -> Element {
    let stripes = Pattern {
        form: PatternForm::Stripes,
        size: 60.0 * times(frame),
        contrast: 12.0,
        first: [0.33, 0.035, 0.025],
        second: [0.72, 0.68, 0.58],
        ..Pattern::default()
    };
    Element { only_used: true, ..element(SAIL, "Stripes", stripes.into(), Vec::new()) }
}

fn hull(frame: Window) -> Element {
    let name = Lettering {
        text: "VELDMERE".into(),
        size: 116.0 * times(frame),
        tracking: 0.04,
        colour: [0.03, 0.06, 0.16],
        ..Lettering::default()
    };
    Element { only_used: true, ..element(HULL, "Name", name.into(), Vec::new()) }
}

/// The ship with its prints, in the orrery's lens, blurred by where it is taken.
fn afloat(ship: Element) -> Element {
    let print = |id: u32, part: u32, of: u32, middle: [f32; 2], size: [f32; 2]| {
        let does =
            Retexture { from: TextureFrom::Element, element: Some(of), middle, size, ..Retexture::default() };
        let mut step = Step::new(id, does.into());
        step.only_where = Some(Limit::of(ObjectsPart { ids: vec![part] }));
        step
    };
    let motion = Extract {
        id: ship.passes.iter().map(|p| p.id).max().unwrap_or(0) + 1,
        name: "motion of moves".into(),
        serves: true,
        does: MovesMotion::default().into(),
        reads: Vec::new(),
    };
    Element {
        id: SHIP,
        name: "Ship".into(),
        steps: vec![
            print(1, PARTS[1], SAIL, [0.5, 0.6], [0.6, 0.9]),
            print(2, PARTS[0], HULL, [0.5, 0.2], [0.62, 0.4]),
            Step::new(LENSES[1], lens().into()),
            Step::new(4, MotionBlur::default().into()),
        ],
        extracts: vec![motion],
        placement: Some(Place { scale: [0.62; 2], ..Place::default() }),
        ..ship
    }
}

/// Where the ship goes and how it rocks; the focus comes from it to the orrery, and its own lens follows the orrery's.
fn drives(frame: Window, [first, last]: [f32; 2]) -> Vec<Drive> {
    let k = times(frame);
    let place = |name: &str| format!("elements/{SHIP}/placement/{name}");
    let lens = |of: usize, name: &str| {
        let element = [ORRERY, SHIP][of];
        format!("elements/{element}/steps/{}/does/{name}", LENSES[of])
    };
    let keyed = |id, at: String, keys: [(f32, Vec<f32>); 2]| Drive {
        id,
        at,
        by: Some(DrivenBy::Keys {
            keys: keys.map(|(frame, v)| Key { frame, value: v.into(), goes: Goes::Smooth }).into(),
        }),
        drift: None,
    };
    let between = |share: f32| (first + share * (last - first)).round();
    let mut all = vec![
        keyed(1, place("moved"), [(first, vec![-220.0 * k, 70.0 * k]), (last, vec![260.0 * k, 48.0 * k])]),
        Drive {
            id: 2,
            at: place("turn"),
            by: None,
            drift: Some(Drift { amount: 5.0, period: 9.0, seed: 3 }),
        },
        keyed(3, lens(0, "focus"), [(between(0.25), vec![7.8]), (between(0.6), vec![9.6])]),
    ];
    let same = ["focus", "sharp", "f_number", "focal", "sensor", "far_px", "near_px", "most", "blades"];
    let more = ["rotation", "roundness", "highlights", "highlights_from"];
    all.extend((4..).zip(same.iter().chain(&more)).map(|(id, name)| Drive {
        id,
        at: lens(1, name),
        by: Some(DrivenBy::Link { to: lens(0, name), times: 1.0, plus: 0.0 }),
        drift: None,
    }));
    all
}
