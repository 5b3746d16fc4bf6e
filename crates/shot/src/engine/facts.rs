//! What is known of an element's stored passes.

use super::planes::part_of;
use super::{Engine, key};
use crate::document::{Element, Pass, Shot};
use crate::error::ShotError;
use crate::intake::stem;
use jugata_core::view::range_of;
use jugata_core::{Role, Scale, Window};
use jugata_exchange::manifest;
use jugata_exchange::roles::propose;

/// What is known of a stored pass.
#[derive(Clone, Debug, PartialEq)]
pub struct Facts {
    /// Number of the pass.
    pub pass: u32,
    /// How it is stored, in words: "half, zip".
    pub stored: String,
    /// What names and values say that it is, how sure, and why.
    pub proposal: Option<(Role, f32, String)>,
    /// Names of hashed IDs, as the file lists them.
    pub names: Vec<(u32, String)>,
    /// Data window.
    pub window: Window,
    /// Smallest and largest finite stored value.
    pub ends: Option<[f32; 2]>,
    /// Shares of the canonical depths in even steps over `range`; empty for other roles.
    pub histogram: Vec<f32>,
    /// Range of the canonical depths without background and strays; for depth only.
    pub range: Option<[f32; 2]>,
}

/// Bars of a histogram.
const BARS: usize = 96;

pub(super) fn facts(engine: &Engine, shot: &Shot, element: u32) -> Result<Vec<Facts>, ShotError> {
    let display = shot.display;
    let element = key::element_of(shot, element)?;
    element.passes.iter().map(|p| of_pass(engine, element, p, display)).collect()
}

fn of_pass(engine: &Engine, element: &Element, pass: &Pass, display: Window) -> Result<Facts, ShotError> {
    let file = engine.file(pass)?;
    let part = part_of(&file, pass)?;
    let channels = || pass.source.channels.iter().filter_map(|n| part.channel(n));
    let mut kinds: Vec<&str> = channels().map(|c| c.kind.label()).collect();
    kinds.dedup();
    let ends = channels()
        .flat_map(|c| c.samples.wide().into_owned())
        .filter(|v| v.is_finite())
        .fold(None, |e: Option<[f32; 2]>, v| Some(e.map_or([v, v], |[a, b]| [a.min(v), b.max(v)])));
    let (mut histogram, mut range) = (Vec::new(), None);
    if pass.role == Role::Depth {
        let depth = engine.pass(element, pass, Scale::FULL, display, None)?;
        let [near, far] = range_of(&depth);
        histogram = vec![0.0f32; BARS];
        let mut count = 0usize;
        for z in depth.plane(0).iter().filter(|z| (near..=far).contains(*z)) {
            let bar = ((z - near) / (far - near) * BARS as f32) as usize;
            histogram[bar.min(BARS - 1)] += 1.0;
            count += 1;
        }
        histogram.iter_mut().for_each(|h| *h /= count.max(1) as f32);
        range = Some([near, far]);
    }
    let proposal = propose(&file, stem(&pass.source.file))
        .into_iter()
        .find(|p| p.part == pass.source.part as usize && p.channels == pass.source.channels)
        .map(|p| (p.role, p.confidence, p.reason));
    Ok(Facts {
        pass: pass.id,
        proposal,
        names: if pass.role == Role::HashedId { manifest::names(part, &pass.name) } else { Vec::new() },
        stored: [kinds.join(" and "), part.compression.clone()]
            .into_iter()
            .filter(|w| !w.is_empty())
            .collect::<Vec<_>>()
            .join(", "),
        window: part.data_window,
        ends,
        histogram,
        range,
    })
}
