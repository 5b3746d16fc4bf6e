//! What is known of an element's stored passes.

use super::keeper::Engine;
use super::key;
use super::key::Hashes;
use super::planes::part_of;
use super::request::{Request, Target};
use super::scene::Scene;
use crate::document::{Element, Pass, Provider};
use crate::error::ShotError;
use crate::files::stem;
use crate::still::Still;
use jugata_core::show::view::range_of;
use jugata_core::{Raster, Role, Scale, Window};
use jugata_exchange::manifest;
use jugata_exchange::roles::propose;

/// What is known of a pass.
#[derive(Clone, Debug, PartialEq)]
pub struct Facts {
    /// Number of the pass.
    pub pass: u32,
    /// How it is stored, in words: "half, zip"; how it is made, if it is extracted.
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

pub(super) fn facts(engine: &Engine, shot: &Still<'_>, element: u32) -> Result<Vec<Facts>, ShotError> {
    let display = shot.display;
    let element = key::element_of(shot, element)?;
    let hashes = Hashes::of(shot);
    let scene = Scene::new(engine, &hashes);
    let of = |p: Provider<'_>| match p {
        Provider::Stored(p) => of_pass(engine, element, p, display),
        Provider::Extracted(..) | Provider::Drawn(..) => of_made(scene, element, p),
    };
    element.providers().map(of).collect()
}

/// Width up to which an extracted pass is looked at: its range needs no more.
const ENOUGH: u32 = 1024;

fn of_made(scene: Scene<'_>, element: &Element, pass: Provider<'_>) -> Result<Facts, ShotError> {
    let halvings = (0u8..6).find(|n| scene.shot.display.width >> n <= ENOUGH).unwrap_or(6);
    let scale = Scale::halved(halvings).unwrap_or_default();
    let request = Request::frame(scene.shot, Target::Untouched { element: element.id }, scale);
    let raster = scene.pass(element, pass, &request)?;
    let mut ends = Ends::default();
    raster.data().iter().for_each(|v| ends.meet(*v));
    let (histogram, range) = if pass.role() == Role::Depth { spread(&raster) } else { Default::default() };
    let stored = match pass {
        Provider::Extracted(e, _) => e.does.sentence(),
        Provider::Drawn(..) => "drawn".into(),
        Provider::Stored(_) => String::new(),
    };
    let (names, window) = (Vec::new(), scene.frame_of(element)?);
    Ok(Facts { pass: pass.id(), stored, proposal: None, names, window, ends: ends.0, histogram, range })
}

/// Smallest and largest finite value so far.
#[derive(Default)]
struct Ends(Option<[f32; 2]>);

impl Ends {
    fn meet(&mut self, v: f32) {
        if v.is_finite() {
            self.0 = Some(self.0.map_or([v, v], |[a, b]| [a.min(v), b.max(v)]));
        }
    }
}

/// Histogram and range of a depth.
fn spread(depth: &Raster) -> (Vec<f32>, Option<[f32; 2]>) {
    let [near, far] = range_of(depth);
    let mut histogram = vec![0.0f32; BARS];
    let mut count = 0usize;
    for z in depth.plane(0).iter().filter(|z| (near..=far).contains(*z)) {
        let bar = ((z - near) / (far - near) * BARS as f32) as usize;
        histogram[bar.min(BARS - 1)] += 1.0;
        count += 1;
    }
    histogram.iter_mut().for_each(|h| *h /= count.max(1) as f32);
    (histogram, Some([near, far]))
}

fn of_pass(engine: &Engine, element: &Element, pass: &Pass, display: Window) -> Result<Facts, ShotError> {
    let file = engine.file(pass)?;
    let part = part_of(&file, pass)?;
    let channels = || pass.source.channels.iter().filter_map(|n| part.channel(n));
    let mut kinds: Vec<&str> = channels().map(|c| c.kind.label()).collect();
    kinds.dedup();
    let mut ends = Ends::default();
    channels().for_each(|c| c.samples.for_each(|v| ends.meet(v)));
    let (histogram, range) = match pass.role {
        Role::Depth => spread(&*engine.pass(element, pass, Scale::FULL, display, None)?),
        _ => Default::default(),
    };
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
        ends: ends.0,
        histogram,
        range,
    })
}
