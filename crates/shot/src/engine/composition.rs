//! Elements over each other, and in one space with each other.

use super::evaluate::{covers, join_of, placed};
use super::exposed::Together;
use super::key::{self, ContentHash};
use super::reader::Reader;
use super::request::{Request, Target};
use super::scene::Scene;
use crate::document::{ByDepth, Element, Joins};
use crate::error::ShotError;
use crate::limit::united;
use jugata_core::colour::blend::{self, BlendMode, Brings};
use jugata_core::colour::composite;
use jugata_core::depth::crossing::{self, InSpace, Lies, Shown, crossed, nearness, nearness_of_both};
use jugata_core::depth::extend::{Extend, extend};
use jugata_core::depth::is_depth;
use jugata_core::geometry::field::Field;
use jugata_core::passes::moved::moved;
use jugata_core::{Raster, Role};
use std::sync::Arc;

/// What lies below an element.
struct Below {
    picture: Arc<Raster>,
    /// 1 ÷ Z of what is seen of it, where some element stands in one space with others.
    near: Option<Raster>,
}

/// All elements that are seen, the first lowest.
pub(super) fn composition(scene: Scene<'_>, request: &Request) -> Result<Arc<Raster>, ShotError> {
    composed(scene, &key::seen(scene.shot).collect::<Vec<_>>(), request)
}

/// Some elements laid over each other, on the window of an element that sees them before the rest of its own moves: taken
/// back through what puts it into the shot.
pub(super) fn behind(
    scene: Scene<'_>,
    reader: Reader<'_>,
    elements: &[&Element],
    request: &Request,
) -> Result<Arc<Raster>, ShotError> {
    let back = scene.moves_back(reader.element, reader.after, request.scale)?;
    if back.is_identity() {
        return composed(scene, elements, request);
    }
    let all = covers(scene, &Request { target: Target::Shot, ..request.clone() })?;
    let part = Field::of(&back, request.window).part(all);
    let picture = composed(scene, elements, &Request { window: part, ..request.clone() })?;
    Ok(Arc::new(moved(&picture, Role::Beauty, &back, request.window, &request.cancel)?))
}

/// Some elements over each other, the first lowest.
fn composed(scene: Scene<'_>, elements: &[&Element], request: &Request) -> Result<Arc<Raster>, ShotError> {
    let together = Together::of(scene, elements);
    let (first, elements) = elements.split_at(together.as_ref().map_or(0, |t| t.elements.len()));
    // All that stands in one space is among those that are blurred together.
    let in_space = first.is_empty() && elements.iter().any(|e| e.by_depth.is_some());
    let mut wide = request.clone();
    if in_space {
        // Edges are looked at a little around each pixel, but never beyond all that there is.
        let all = covers(scene, &Request { target: Target::Shot, ..request.clone() })?;
        wide.window = request.window.grown(crossing::REACH).intersect(&all);
    }
    let exposed = together.map(|t| t.picture(scene, &wide)).transpose()?;
    let mut below = exposed.map(|picture| Below { picture, near: None });
    for element in elements {
        let picture = placed(scene, element, element.steps.len(), &wide)?;
        let near = in_space.then(|| near_of(scene, element, &picture, &wide)).transpose()?;
        below = Some(met(below, Below { picture, near }, element, &wide)?);
    }
    let picture = below.map_or_else(|| Arc::new(Raster::zeros(wide.window, 4)), |b| b.picture);
    let whole = picture.window() == request.window;
    Ok(if whole { picture } else { Arc::new(picture.cropped(request.window, 0.0)) })
}

/// An element and what lies below it.
fn met(below: Option<Below>, top: Below, element: &Element, request: &Request) -> Result<Below, ShotError> {
    let cancel = &request.cancel;
    let Some(bottom) = below else {
        let nothing = || Raster::zeros(request.window, 4);
        let picture = match element.joins {
            None => top.picture,
            Some(joins) => Arc::new(blend::join(
                &nothing(),
                &top.picture,
                Brings::LiesOver,
                None,
                join_of(joins),
                cancel,
            )?),
        };
        return Ok(Below { picture, ..top });
    };
    let (Some(a), Some(b)) = (&top.near, &bottom.near) else {
        return Ok(Below {
            picture: laid(&top.picture, &bottom.picture, element.joins, request)?,
            near: None,
        });
    };
    let upper = InSpace { picture: &top.picture, near: a };
    let lower = InSpace { picture: &bottom.picture, near: b };
    let (picture, lies) = match element.by_depth {
        None => (laid(&top.picture, &bottom.picture, element.joins, request)?, Lies::Over),
        Some(_) => (among(upper, lower, element.joins, request)?, Lies::Among),
    };
    let near = Some(nearness_of_both(upper, lower, lies, cancel)?);
    Ok(Below { picture, near })
}

/// One picture over another.
fn laid(
    top: &Raster,
    bottom: &Raster,
    joins: Option<Joins>,
    request: &Request,
) -> Result<Arc<Raster>, ShotError> {
    let cancel = &request.cancel;
    Ok(Arc::new(match joins {
        None => composite::over(top, bottom, cancel)?,
        Some(joins) => blend::join(bottom, top, Brings::LiesOver, None, join_of(joins), cancel)?,
    }))
}

/// Two pictures in one space: the nearer one hides the other; a blend mode works on what is seen.
fn among(
    upper: InSpace<'_>,
    lower: InSpace<'_>,
    joins: Option<Joins>,
    request: &Request,
) -> Result<Arc<Raster>, ShotError> {
    let cancel = &request.cancel;
    let joins = joins.unwrap_or(Joins::of(BlendMode::Normal));
    let (shown, brings) = match joins.blend {
        BlendMode::Normal => (Shown::Both, Brings::Replaces),
        _ => (Shown::Upper, Brings::LiesOver),
    };
    let picture = crossed(upper, lower, shown, cancel)?;
    if brings == Brings::Replaces && joins.strength == 1.0 {
        return Ok(Arc::new(picture));
    }
    Ok(Arc::new(blend::join(lower.picture, &picture, brings, None, join_of(joins), cancel)?))
}

/// The nearness of an element's pixels, where it is put.
pub(super) fn near_of(
    scene: Scene<'_>,
    element: &Element,
    picture: &Raster,
    request: &Request,
) -> Result<Raster, ShotError> {
    let reader = Reader::of(element, &[]);
    let ByDepth { at, nearer } = element.by_depth.unwrap_or(ByDepth { at: f32::INFINITY, nearer: 0.0 });
    let Some(depth) = reader.provider(Role::Depth) else {
        return Ok(Raster::filled(picture.window(), 1, at.recip()));
    };
    let content = key::of_provider(scene.hashes, element, depth);
    let depth = scene.pass(element, depth, request)?;
    let carried = carried(scene, content, &depth, request)?;
    let chain = scene.moves_and_place(element, request.scale)?;
    let follow = |of: &Raster| moved(of, Role::Depth, &chain, request.window, &request.cancel);
    Ok(nearness(picture, [&follow(&depth)?, &follow(&carried)?], nearer, &request.cancel)?)
}

/// The depth of an element where it stands in the shot, on the request's window: that of its passes, or its distance where
/// it covers; `None` for what has neither.
pub(super) fn place_of(
    scene: Scene<'_>,
    element: &Element,
    request: &Request,
) -> Result<Option<Arc<Raster>>, ShotError> {
    let reader = Reader::from_elsewhere(element);
    let chain = scene.moves_and_place(element, request.scale)?;
    let follow = |of: &Raster, role| moved(of, role, &chain, request.window, &request.cancel);
    let nearer = element.by_depth.map_or(0.0, |b| b.nearer);
    if let Some(depth) = scene.read_whole(reader, Role::Depth, request)? {
        let mut depth = follow(&depth, Role::Depth)?;
        depth.plane_mut(0).iter_mut().filter(|z| is_depth(**z)).for_each(|z| *z -= nearer);
        return Ok(Some(Arc::new(depth)));
    }
    let (Some(by), Some(alpha)) = (element.by_depth, scene.read_whole(reader, Role::Alpha, request)?) else {
        return Ok(None);
    };
    let mut place = follow(&alpha, Role::Alpha)?;
    place.plane_mut(0).iter_mut().for_each(|v| *v = if *v >= 0.5 { by.at } else { f32::INFINITY });
    Ok(Some(Arc::new(place)))
}

/// A depth carried on past the edges of what it belongs to, over the whole frame and as far as the depth goes; kept.
fn carried(
    scene: Scene<'_>,
    content: ContentHash,
    depth: &Raster,
    request: &Request,
) -> Result<Arc<Raster>, ShotError> {
    let all = Extend { by: f32::MAX, choke: 0.0, soften: 0.0 };
    let window = united(request.scale.window(request.display), depth.window());
    let (carried, _) = scene.engine.keep(key::of_carried(content).at(window, request.scale), || {
        let wide = depth.cropped(window, Role::Depth.outside());
        Ok(extend(&wide, None, all, &request.cancel)?)
    })?;
    Ok(carried)
}
