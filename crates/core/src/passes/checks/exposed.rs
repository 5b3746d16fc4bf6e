//! Motion blur that the picture has already: laid on once more, everything that moves smears too far.
//!
//! The outline of what moves is sharp in a picture of one moment. In a picture that was exposed while it moved it is a ramp, as
//! wide as the way that the outline went meanwhile. The picture is read across the outlines that motion and depth tell, and
//! the shutter is looked for whose ramps fit best (*own derivation*). Softness that does not grow with the speed of an outline,
//! as that of a lens or a filter, is fitted beside it, so that it is not taken for motion.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind};
use super::statistics::thinned;
use crate::{Raster, Role};
use glam::Vec2;
use rayon::prelude::*;

pub(super) fn check(case: &Case, pass: &Evidence) -> Vec<Finding> {
    if pass.role != Role::Beauty || pass.canonical.channels() < 3 {
        return Vec::new();
    }
    let Some(motion) = case.pass(Role::Motion).filter(|m| m.canonical.channels() >= 2) else {
        return Vec::new();
    };
    let depth = case.pass(Role::Depth).map(|d| &*d.canonical);
    let outlines = Outlines { picture: &pass.canonical, motion: &motion.canonical, depth };
    let Some(Exposed { share, when, sure }) = outlines.exposed() else { return Vec::new() };
    // No more of a long way to one side is read.
    let shutter = match when {
        When::From | When::UpTo if share > 0.55 => "180° or more".into(),
        _ => format!("about {:.0}°", share * 360.0),
    };
    let words = format!(
        "The outlines of what moves are drawn out already, as by a shutter of {shutter} that is open {}.",
        when.words()
    );
    vec![Finding::new(pass, FindingKind::Exposed, sure, words).costs(
        "a second motion blur draws them out too far; relight and refocus meet edges that no pass has",
    )]
}

/// When a shutter is open, seen from the moment of the passes.
#[derive(Clone, Copy, Debug, PartialEq)]
enum When {
    Around,
    From,
    UpTo,
}

impl When {
    const ALL: [Self; 3] = [Self::Around, Self::From, Self::UpTo];

    const fn words(self) -> &'static str {
        match self {
            Self::Around => "around the moment of its passes",
            Self::From => "from the moment of its passes on",
            Self::UpTo => "up to the moment of its passes",
        }
    }

    /// Where the middle of the way lies, as a share of it.
    const fn middle(self) -> f32 {
        match self {
            Self::Around => 0.0,
            Self::From => 0.5,
            Self::UpTo => -0.5,
        }
    }
}

/// What the outlines say.
struct Exposed {
    /// How long the shutter was open, in frames.
    share: f32,
    when: When,
    /// 0..1.
    sure: f32,
}

/// A ramp across an outline that somebody guesses.
#[derive(Clone, Copy)]
struct Guess {
    share: f32,
    when: When,
    /// Softness that has nothing to do with motion, px.
    soft: f32,
}

impl Guess {
    /// How much of the nearer surface is seen at `t` px outside of its outline, which goes `speed` px a frame.
    fn cover(self, speed: f32, t: f32) -> f32 {
        let way = speed * self.share;
        let width = way.hypot(self.soft);
        (0.5 + (way * self.when.middle() - t) / width).clamp(0.0, 1.0)
    }
}

/// The picture across an outline.
struct Profile {
    /// How fast the outline goes outwards, px a frame; below 0 inwards.
    speed: f32,
    /// How fast the surface itself goes.
    goes: f32,
    /// How much of the nearer surface's colour is there, from `-reach` to `reach` px.
    covers: Vec<f32>,
}

impl Profile {
    /// Mean difference from a guess.
    fn off(&self, guess: Guess) -> f32 {
        let reach = (self.covers.len() / 2) as f32;
        let each = self.covers.iter().enumerate();
        let sum: f32 = each.map(|(i, v)| (v - guess.cover(self.speed, i as f32 - reach)).abs()).sum();
        sum / self.covers.len() as f32
    }
}

/// Px a frame: outlines that go faster are left out, since what is beside them is rarely even for so far.
const FASTEST: f32 = 40.0;
/// How much of an outline's way in a frame is read to either side of it: a shutter of 360° around the frame, or of somewhat
/// more than half of that before or after it.
const OF_WAY: f32 = 0.6;
/// Px beyond it that are read, too.
const MARGIN: f32 = 3.0;
/// Px a frame from which an outline tells of a shutter.
const TELLS: f32 = 6.0;
/// Outlines that are read at most.
const MOST: usize = 3_000;
/// Fewest outlines that tell.
const FEWEST: usize = 40;
/// Colours of the two sides must differ by this share of their sum.
const APART: f32 = 0.25;
/// What a shutter must leave of the difference to be told of (less, where it is open around), and the share of the outlines
/// that it must be better for.
const CLEARLY: f32 = 0.88;
const CLEARER: f32 = 0.8;
const MOSTLY: f32 = 0.65;
/// Softness that is tried, px.
const SOFT: [f32; 10] = [1.0, 1.5, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 13.0];

/// What outlines are looked for in.
struct Outlines<'a> {
    picture: &'a Raster,
    motion: &'a Raster,
    depth: Option<&'a Raster>,
}

/// A surface at a pixel.
#[derive(Clone, Copy)]
struct Spot {
    motion: Vec2,
    /// 1 ÷ Z; 0 where nothing is.
    near: f32,
}

impl Outlines<'_> {
    /// The shutter that the outlines tell of; `None` where they are sharp or too few.
    fn exposed(&self) -> Option<Exposed> {
        let w = self.motion.window();
        let rows: Vec<i32> = w.rows().collect();
        let found: Vec<(i32, i32)> = rows
            .par_iter()
            .flat_map_iter(|&y| (w.x..w.right() as i32).map(move |x| (x, y)))
            .filter(|p| self.ends(*p))
            .collect();
        let profiles: Vec<Profile> =
            thinned(found, 4 * MOST).into_par_iter().filter_map(|p| self.across(p)).collect();
        let profiles = thinned(profiles, MOST);
        let telling: Vec<&Profile> = profiles.iter().filter(|p| p.speed.abs() >= TELLS).collect();
        if telling.len() < FEWEST {
            return None;
        }
        // What goes along its own outline is as soft as a lens or a filter made it. What is near is out of focus and fast at
        // once, so surfaces that move are asked first; outlines that hardly move outnumber the others by far.
        let calm = |fast: f32| {
            let is = move |p: &&Profile| p.speed.abs() < 0.35 * p.goes.max(TELLS) && p.goes >= fast;
            thinned(profiles.iter().filter(is).collect::<Vec<_>>(), telling.len())
        };
        let calm = Some(calm(TELLS)).filter(|c| c.len() >= FEWEST / 2).unwrap_or_else(|| calm(0.0));
        let off = |guess: Guess| {
            let mean =
                |all: &[&Profile]| all.iter().map(|p| p.off(guess)).sum::<f32>() / all.len().max(1) as f32;
            mean(&telling) + mean(&calm)
        };
        let best = |shares: Vec<f32>| -> Option<(f32, Guess)> {
            let all: Vec<Guess> = shares
                .into_iter()
                .flat_map(|share| When::ALL.into_iter().map(move |when| (share, when)))
                .flat_map(|(share, when)| SOFT.into_iter().map(move |soft| Guess { share, when, soft }))
                .collect();
            let tried = all.into_par_iter().map(|guess| (off(guess), guess)).collect::<Vec<_>>();
            tried.into_iter().min_by(|a, b| a.0.total_cmp(&b.0))
        };
        let (sharp, still) = best(vec![0.0])?;
        let (left, moved) = best((1..=17).map(|i| i as f32 / 16.0).collect())?;
        let better = telling.iter().filter(|p| p.off(moved) < p.off(still)).count() as f32;
        let better = better / telling.len() as f32;
        // A lens that makes near things soft, which are the fast ones, looks most like a shutter that is open around.
        let (clearly, softest) =
            if moved.when == When::Around { (CLEARER, 3.0) } else { (CLEARLY, f32::MAX) };
        if left > clearly * sharp || better < MOSTLY || moved.share < 0.1 || moved.soft > softest {
            return None;
        }
        let sure = (0.6 + (1.0 - left / sharp)).min(0.95);
        Some(Exposed { share: moved.share, when: moved.when, sure })
    }

    fn spot(&self, x: i32, y: i32) -> Option<Spot> {
        let v = Vec2::new(self.motion.sample(0, x, y)?, self.motion.sample(1, x, y)?);
        let motion = if v.is_finite() { v } else { Vec2::ZERO };
        let near = match self.depth {
            Some(depth) => depth.sample(0, x, y).filter(|z| *z > 0.0)?.recip(),
            None => motion.length(),
        };
        Some(Spot { motion, near })
    }

    /// Whether a surface ends at a pixel before another one beside it.
    fn ends(&self, (x, y): (i32, i32)) -> bool {
        let Some(own) = self.spot(x, y) else { return false };
        let beside = [(1, 0), (-1, 0), (0, 1), (0, -1)];
        beside.into_iter().any(|(dx, dy)| self.spot(x + dx, y + dy).is_some_and(|s| farther(s, own)))
    }

    /// The picture across the outline at a pixel of the nearer surface; `None` where something else is near.
    fn across(&self, (x, y): (i32, i32)) -> Option<Profile> {
        let own = self.spot(x, y)?;
        // Outwards is away from where most of the surface lies.
        let mut inside = Vec2::ZERO;
        for (dx, dy) in (-3..=3).flat_map(|dy| (-3..=3).map(move |dx| (dx, dy))) {
            if !farther(self.spot(x + dx, y + dy)?, own) {
                inside += Vec2::new(dx as f32, dy as f32);
            }
        }
        let out = -inside.try_normalize()?;
        let speed = own.motion.dot(out);
        if speed.abs() > FASTEST {
            return None;
        }
        let reach = (OF_WAY * speed.abs() + MARGIN).ceil() as i32;
        let middle = Vec2::new(x as f32 + 0.5, y as f32 + 0.5) + 0.5 * out;
        let at = |t: f32| middle + t * out;
        let spot = |t: f32| {
            let p = at(t).floor();
            self.spot(p.x as i32, p.y as i32)
        };
        let calm = |a: Vec2, b: Vec2| a.distance_squared(b) <= 0.25 + 0.04 * a.length_squared();
        let back = spot(1.5)?;
        let all = |from: i32, to: i32, is: &dyn Fn(Spot) -> bool| {
            (from..=to).all(|t| spot(t as f32).is_some_and(is))
        };
        let front = |s: Spot| !farther(s, own) && !farther(own, s) && calm(own.motion, s.motion);
        let behind = |s: Spot| farther(s, own) && calm(back.motion, s.motion);
        if !all(-reach, -1, &front) || !all(2, reach, &behind) {
            return None;
        }
        let colours: Vec<[f32; 4]> =
            (-reach..=reach).map(|t| self.colour(at(t as f32))).collect::<Option<_>>()?;
        covers(&colours).map(|covers| Profile { speed, goes: own.motion.length(), covers })
    }

    /// The picture between pixels; all of it is there without an alpha.
    fn colour(&self, at: Vec2) -> Option<[f32; 4]> {
        let corner = (at - 0.5).floor();
        let f = at - 0.5 - corner;
        let (x, y) = (corner.x as i32, corner.y as i32);
        let mut colour = [1.0; 4];
        for (c, into) in colour.iter_mut().enumerate().take(self.picture.channels()) {
            let px = |dx, dy| self.picture.sample(c, x + dx, y + dy).filter(|v| v.is_finite());
            let top = px(0, 0)? * (1.0 - f.x) + px(1, 0)? * f.x;
            *into = top * (1.0 - f.y) + (px(0, 1)? * (1.0 - f.x) + px(1, 1)? * f.x) * f.y;
        }
        Some(colour)
    }
}

/// Whether a surface lies clearly behind another one.
fn farther(s: Spot, than: Spot) -> bool {
    s.near < than.near * 0.97
}

/// How much of the first side's colour there is along a line between two colours; `None` where they hardly differ.
fn covers(line: &[[f32; 4]]) -> Option<Vec<f32>> {
    let mean = |part: &[[f32; 4]]| -> [f32; 4] {
        std::array::from_fn(|c| part.iter().map(|p| p[c]).sum::<f32>() / part.len() as f32)
    };
    let (front, back) = (mean(&line[..3]), mean(&line[line.len() - 3..]));
    let way: [f32; 4] = std::array::from_fn(|c| front[c] - back[c]);
    let size = |v: [f32; 4]| v.iter().map(|v| v * v).sum::<f32>();
    if size(way) <= APART * APART * (size(front) + size(back)) {
        return None;
    }
    let along = |p: &[f32; 4]| (0..4).map(|c| (p[c] - back[c]) * way[c]).sum::<f32>() / size(way);
    Some(line.iter().map(|p| along(p).clamp(-0.5, 1.5)).collect())
}
