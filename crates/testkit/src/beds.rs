//! The test beds: the orrery, random rooms, and scenes of a foreign renderer, all in one form.

use crate::foreign;
use jugata_core::Raster;
use jugata_standin::{Passes, Settings, ThinLens, render};
use std::fmt;

/// One test bed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Bed {
    /// The Veldmere orrery.
    Orrery,
    /// The random room of a seed.
    Room(u64),
    /// A scene of a foreign renderer.
    Foreign(&'static str),
}

impl fmt::Display for Bed {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Orrery => f.write_str("orrery"),
            Self::Room(seed) => write!(f, "room {seed}"),
            Self::Foreign(name) => f.write_str(name),
        }
    }
}

/// Random rooms on which work is done. Seeds from 1000 on are looked at once, at the end of a work.
pub const ROOMS: std::ops::Range<u64> = 0..12;

impl Bed {
    /// The orrery, twelve rooms, every foreign scene; or, with `JUGATA_SEEDS=1000..1024`, the rooms of those seeds alone.
    pub fn all() -> Vec<Self> {
        if let Some(seeds) = asked() {
            return seeds.map(Self::Room).collect();
        }
        let foreign = foreign::SCENES.into_iter().map(Self::Foreign);
        std::iter::once(Self::Orrery).chain(ROOMS.map(Self::Room)).chain(foreign).collect()
    }

    /// The orrery, every other room and every foreign scene, for tests that take long; all of them where [`every`].
    pub fn some() -> Vec<Self> {
        let left_out = |b: &Self| matches!(b, Self::Room(seed) if seed % 2 == 1) && !every();
        Self::all().into_iter().filter(|b| !left_out(b)).collect()
    }

    /// What the stand-in renders it by; none for a foreign scene.
    pub fn settings(self, size: (u32, u32), samples: u32) -> Option<Settings> {
        let sized = Settings::sized(size.0, size.1, samples);
        match self {
            Self::Orrery => Some(sized),
            Self::Room(seed) => Some(Settings { seed: Some(seed), ..sized }),
            Self::Foreign(_) => None,
        }
    }

    /// Its picture and passes, canonical; a foreign scene has its own size.
    pub fn passes(self, size: (u32, u32), samples: u32, frame: i32) -> Passes {
        match (self, self.settings(size, samples)) {
            (Self::Foreign(name), _) => foreign::passes(name),
            (_, Some(s)) => render(&Settings { frame, ..s }),
            _ => unreachable!("only foreign scenes have no settings"),
        }
    }

    /// Two lenses, one sharp near and one sharp far, whose largest circles are 5, 12 or 25 % of the width; each with
    /// the picture seen through it.
    pub fn through_lenses(self, p: &Passes, samples: u32) -> Vec<(ThinLens, Raster)> {
        let w = p.beauty.window();
        match (self, self.settings((w.width, w.height), samples)) {
            (Self::Foreign(name), _) => {
                let truth = |i| foreign::truth(name, &format!("lens{i}"));
                foreign::lenses(name).into_iter().enumerate().map(|(i, l)| (l, truth(i))).collect()
            }
            (_, Some(s)) => lenses(p, [0.05, 0.12, 0.25][s.seed.unwrap_or(0) as usize % 3])
                .into_iter()
                .map(|lens| (lens, render(&Settings { lens: Some(lens), ..s.clone() }).beauty))
                .collect(),
            _ => unreachable!("only foreign scenes have no settings"),
        }
    }
}

/// A render whose camera goes, in a frame, by shares of how far away the middle of what is seen lies.
pub fn going(settings: Settings, shares: [f32; 3]) -> Settings {
    let still = render(&Settings { samples: 1, ..settings.clone() });
    let mut z: Vec<f32> = still.depth.plane(0).iter().copied().filter(|z| z.is_finite()).collect();
    z.sort_unstable_by(f32::total_cmp);
    Settings { travel: shares.map(|v| v * z[z.len() / 2]), ..settings }
}

/// Whether all that FIDELITY tells is looked at, which takes long: with `JUGATA_ALL` or `JUGATA_SEEDS`.
pub fn every() -> bool {
    ["JUGATA_SEEDS", "JUGATA_ALL"].iter().any(|v| std::env::var_os(v).is_some())
}

/// Beds in some of the ways in which they are tried: each way on every third bed, and on each where [`every`].
pub fn tried<'a, B, W>(beds: &'a [B], ways: &'a [W]) -> Vec<(&'a B, &'a W)> {
    let pairs = beds.iter().enumerate().flat_map(|(i, bed)| {
        let numbered = ways.iter().enumerate();
        numbered.map(move |(k, way)| (i + k, bed, way))
    });
    pairs.filter(|(n, ..)| every() || n % 3 == 0).map(|(_, bed, way)| (bed, way)).collect()
}

fn asked() -> Option<std::ops::Range<u64>> {
    let text = std::env::var("JUGATA_SEEDS").ok()?;
    let (from, to) = text.split_once("..")?;
    Some(from.parse().ok()?..to.parse().ok()?)
}

fn lenses(p: &Passes, share_of_width: f32) -> Vec<ThinLens> {
    let mut z: Vec<f32> = p.depth.plane(0).iter().copied().filter(|z| z.is_finite()).collect();
    z.sort_unstable_by(f32::total_cmp);
    let at = |share: f32| z[((z.len() - 1) as f32 * share) as usize];
    let (near, far) = (at(0.0), at(1.0));
    [(0.08, 0), (0.75, 5)]
        .into_iter()
        .map(|(share, blades)| {
            let focus = at(share);
            let most = (1.0 / near - 1.0 / focus).max(1.0 / focus - 1.0 / far);
            let circle = share_of_width * p.beauty.window().width as f32;
            ThinLens { radius: circle / (2.0 * p.camera.focal * most), focus, blades }
        })
        .collect()
}
