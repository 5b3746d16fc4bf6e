//! What a step found out, and what the moves of an element cost.

use crate::document::{Element, Shot, Step};
use crate::engine::geometry::Run;
use crate::engine::scene::Scene;
use crate::engine::{Engine, Hashes, Request, Target, evaluate};
use crate::error::ShotError;
use crate::steps::{Miss, Sharpen};
use crate::still::Still;
use glam::{DAffine3, DVec2, Vec2};
use jugata_core::geometry::kernel::Kernel;
use jugata_core::geometry::resample::contrast_kept;
use jugata_core::{Scale, Window};
use serde::Serialize;
use ts_rs::TS;

/// What is told of a step.
#[derive(Clone, Debug, Default, PartialEq, Serialize, TS)]
pub struct Told {
    /// What it found out, a sentence each.
    pub found: Vec<String>,
    /// Where what was solved does not fit what it was solved from.
    pub misses: Vec<Miss>,
    /// How often its element's picture is sampled, and what that costs: a sentence; none without a move.
    #[ts(optional = nullable)]
    pub sampled: Option<String>,
    /// What the shot's picture covers, with what lies beyond the frame; full-resolution px.
    #[ts(optional = nullable)]
    pub covers: Option<Window>,
    /// The frame of its element, in which places of moves are told; full-resolution px.
    pub frame: Window,
    /// Of a step with lights: rows of the 3×4 matrix from camera space as it is on the first frame into that of this frame, where
    /// the camera goes.
    #[ts(as = "Option<Vec<f32>>", optional = nullable)]
    pub since_first: Option<[f32; 12]>,
    /// Of an element that is text: where a caret stands before each character and after the last, top and bottom, where the
    /// element is put; full-resolution px of the shot. None for one that is not seen.
    pub carets: Vec<Option<[[f32; 2]; 2]>>,
}

/// Px of the detail whose contrast is told.
const DETAIL: f64 = 4.0;

/// Tells of a step at a frame; of an element by itself where no step is asked for.
///
/// # Errors
/// No such element or step; a move that cannot be made; a file that is not there.
pub fn tell(
    engine: &Engine,
    shot: &Shot,
    frame: i32,
    element: u32,
    step: Option<u32>,
) -> Result<Told, ShotError> {
    let shot = Still::of(shot, frame)?;
    let element = shot.element(element).ok_or(ShotError::Missing { what: "element", id: element })?;
    let missing = |id| ShotError::Missing { what: "step", id };
    let step = step.map(|id| element.step(id).ok_or(missing(id))).transpose()?;
    let hashes = Hashes::of(&shot);
    let scene = Scene::new(engine, &hashes);
    let framed = Told { frame: scene.frame_of(element)?, ..Told::default() };
    let Some(step) = step else { return Ok(Told { carets: carets(scene, element)?, ..framed }) };
    let kind = step.does.kind();
    if !kind.is_move() {
        let found = if kind.tells_of_itself() { scene.told_by(element, step)? } else { Vec::new() };
        let way = if kind.lights().is_some() { engine.since_first(element, shot.display)? } else { None };
        return Ok(Told { found, since_first: way.as_ref().map(rows), ..framed });
    }
    let whole = Request { frame, ..Request::frame(&shot, Target::Shot, Scale::FULL) };
    let covers = evaluate::covers(scene, &whole)?;
    let mut found = scene.told_by(element, step)?;
    found.extend(no_way_back(scene, element, step)?);
    let misses = scene.missed_by(element, step)?;
    Ok(Told { found, misses, sampled: sampled(scene, element)?, covers: Some(covers), ..framed })
}

/// Rows of a 3×4 matrix.
fn rows(way: &DAffine3) -> [f32; 12] {
    std::array::from_fn(|k| match k % 4 {
        3 => way.translation[k / 4],
        column => way.matrix3.col(column)[k / 4],
    } as f32)
}

/// Where a caret stands in the text of an element, where the element is put.
fn carets(scene: Scene<'_>, element: &Element) -> Result<Vec<Option<[[f32; 2]; 2]>>, ShotError> {
    let Some(made) = &element.made else { return Ok(Vec::new()) };
    let own = made.kind().carets(scene.frame_of(element)?, &|file| scene.engine.bytes(file))?;
    if own.is_empty() {
        return Ok(Vec::new());
    }
    let way = scene.moves_and_place(element, Scale::FULL)?;
    let put = |p: Vec2| way.forward(p.as_dvec2()).map(|q| q.as_vec2().to_array());
    Ok(own.into_iter().map(|[top, bottom]| Some([put(top)?, put(bottom)?])).collect())
}

/// Places of the frame that are looked at along a side.
const LOOKS: u32 = 48;

/// Where a move's own way back leads nowhere: a lens that was bent further than it can be undone, a hole in a map.
fn no_way_back(scene: Scene<'_>, element: &Element, step: &Step) -> Result<Option<String>, ShotError> {
    let place = element.steps.iter().position(|s| s.id == step.id).unwrap_or(0);
    let chain = scene.moves_among(element, place..place + 1, element.extracts.len())?;
    let frame = scene.frame_of(element)?;
    let at = |i: u32| {
        frame.at_share((DVec2::new(f64::from(i % LOOKS), f64::from(i / LOOKS)) + 0.5) / f64::from(LOOKS))
    };
    let none = (0..LOOKS * LOOKS).filter(|i| chain.source(at(*i)).is_none()).count();
    let share = 100.0 * none as f64 / f64::from(LOOKS * LOOKS);
    Ok((none > 0).then(|| {
        let share = if share < 1.0 { "less than 1".to_owned() } else { format!("{share:.0}") };
        format!("In {share} % of the frame there is no way back: nothing is seen there.")
    }))
}

/// How often an element's picture is sampled on its way through all its steps.
fn samplings(scene: Scene<'_>, element: &Element) -> Result<Vec<Run>, ShotError> {
    let (mut all, mut count, mut placed) = (Vec::new(), element.steps.len(), true);
    loop {
        let run = scene.last_moves(element, count, placed, Scale::FULL)?;
        let after = run.after;
        if !run.chain.is_identity() {
            all.push(run);
        }
        let Some(before) = after.checked_sub(1) else { break };
        // A move in part samples the picture by itself.
        let own = scene.moves_up_to(element, before, Scale::FULL)?;
        if element.steps[before].does.kind().is_move() && !own.chain.is_identity() {
            all.push(own);
        }
        (count, placed) = (before, false);
    }
    all.reverse();
    Ok(all)
}

fn sampled(scene: Scene<'_>, element: &Element) -> Result<Option<String>, ShotError> {
    let all = samplings(scene, element)?;
    let frame = scene.frame_of(element)?;
    let kept: f64 = all.iter().map(|run| contrast_kept(&run.chain, frame, DETAIL)).product();
    let mut cost = format!("Detail of {DETAIL} px keeps {:.0} % of its contrast.", kept * 100.0);
    // What an unsharp mask adds to a wave: 1 − exp(−2π²σ²f²) of it.
    let usual = Sharpen::default().radius;
    let added = 1.0 - (-2.0 * (std::f64::consts::PI * f64::from(usual) / DETAIL).powi(2)).exp();
    let amount = (1.0 / kept - 1.0) / added * 100.0;
    if (1.0..1000.0).contains(&amount) {
        cost.push_str(&format!(" Sharpen by {amount:.0} % at {usual} px gives that back."));
    }
    Ok(match all.as_slice() {
        [] => Some("The picture is not sampled: nothing is moved, and every bit stays.".into()),
        [one] if one.count > 1 => Some(format!(
            "{} moves in one: the picture is sampled once, {}. {cost}",
            one.count,
            by(one.chain.kernel)
        )),
        [one] => Some(format!("The picture is sampled once, {}. {cost}", by(one.chain.kernel))),
        more => {
            let how = more.last().map_or("", |run| by(run.chain.kernel));
            Some(format!(
                "The picture is sampled {} times, the last one {how}: moves next to each other would be one. {cost}",
                more.len()
            ))
        }
    })
}

fn by(kernel: Kernel) -> &'static str {
    match kernel {
        Kernel::Bilinear => "bilinear",
        Kernel::CatmullRom => "by Catmull-Rom",
        Kernel::Lanczos3 => "by Lanczos 3",
    }
}
