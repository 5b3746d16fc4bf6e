//! A bevel along the edge of a matte: its height, its normals, and how much of it faces a direction.

use super::contour::{Contour, FromEdge};
use super::corner::{Corners, LIMIT};
use crate::colour::curve::Curve;
use crate::raster::bands::for_each_band;
use crate::raster::soften::{radius_of, softened};
use crate::{Cancel, KernelError, Raster};
use glam::Vec2;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::ops::Range;
use ts_rs::TS;

/// How a bevel rises over its width.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Profile {
    /// Straight.
    #[default]
    Chamfer,
    /// A quarter of a circle, steep at the edge.
    Round,
    /// A quarter of a circle hollowed out, steep at its upper end.
    Cove,
    /// Flat, then a steep rise over the middle third, then flat.
    Step,
    /// Along a curve that somebody drew.
    Drawn,
}

/// A profile with what it takes to follow it.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Rise {
    profile: Profile,
    drawn: Curve,
}

impl Rise {
    /// A profile, which goes along `drawn` where it is [`Profile::Drawn`]: heights (0..1 from its lower end to its upper) over
    /// shares of the width. Without points it is straight.
    pub fn new(profile: Profile, drawn: Curve) -> Self {
        Self { profile, drawn }
    }

    /// Height at a share of the width, 0 at the lower end, and its slope there.
    pub fn at(&self, t: f32) -> (f32, f32) {
        let t = t.clamp(0.0, 1.0);
        match (self.profile, self.drawn.ends()) {
            // As far as it is drawn; it goes on level.
            (Profile::Drawn, Some([first, last])) => {
                let level = !(first..=last).contains(&t);
                let t = t.clamp(first, last);
                let slope = if level { 0.0 } else { self.drawn.slope_at(t).clamp(-STEEPEST, STEEPEST) };
                (self.drawn.at(t), slope)
            }
            (known, _) => known.at(t),
        }
    }
}

impl From<Profile> for Rise {
    fn from(profile: Profile) -> Self {
        Self::new(profile, Curve::default())
    }
}

/// On which side of the edge a bevel lies.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Side {
    /// Within the matte.
    #[default]
    Inside,
    /// Around it.
    Outside,
    /// Half on either side.
    Centred,
}

/// A bevel.
#[derive(Clone, Debug, PartialEq)]
pub struct Bevel {
    /// Its width, px.
    pub width: f32,
    /// How high it rises: a share of its width. Negative sinks.
    pub height: f32,
    /// How it rises.
    pub profile: Rise,
    /// Where it lies.
    pub side: Side,
    /// How it goes on beyond the corners of the edge.
    pub corners: Corners,
}

/// Steepest slope of a profile; where it stands upright it would have none.
const STEEPEST: f32 = 24.0;

/// Largest width, px of the scale.
pub const MOST: f32 = 1000.0;

impl Profile {
    /// Height (0..1) at a share of the width (0..1), 0 at the lower end, and its slope there; what is drawn is straight.
    fn at(self, t: f32) -> (f32, f32) {
        match self {
            Self::Chamfer | Self::Drawn => (t, 1.0),
            Self::Round => {
                let h = (1.0 - (1.0 - t) * (1.0 - t)).max(0.0).sqrt();
                (h, ((1.0 - t) / h.max(1e-6)).min(STEEPEST))
            }
            Self::Cove => {
                let h = (1.0 - t * t).max(0.0).sqrt();
                (1.0 - h, (t / h.max(1e-6)).min(STEEPEST))
            }
            Self::Step => {
                let u = (3.0 * t - 1.0).clamp(0.0, 1.0);
                (u, if u > 0.0 && u < 1.0 { 3.0 } else { 0.0 })
            }
        }
    }
}

/// What a bevel is like at a place.
#[derive(Clone, Copy, Debug)]
struct At {
    /// 0..1 of the way from its lower end to its upper.
    height: f32,
    /// Its rise, px per px, in the direction `inward`.
    slope: f32,
    inward: Vec2,
    /// Share of the square about the place that lies on it.
    on: f32,
}

impl Bevel {
    /// Px from the edge of the matte to its lower end, to the outside, and to its upper end, to the inside.
    pub fn ends(&self) -> [f32; 2] {
        let width = self.width.clamp(1e-3, MOST);
        match self.side {
            Side::Inside => [0.0, width],
            Side::Outside => [width, 0.0],
            Side::Centred => [0.5 * width, 0.5 * width],
        }
    }

    /// Px around a pixel that it looks at, softened by `soft`.
    pub fn reach(&self, soft: f32) -> f32 {
        self.farthest() + radius_of(soft) as f32
    }

    /// Px from a place on it to the edge and to what tells the edge's direction there.
    fn farthest(&self) -> f32 {
        let width = self.width.clamp(0.0, MOST);
        match self.corners {
            Corners::Round => width + 4.0,
            Corners::Mitred => LIMIT * width + 12.0,
        }
    }

    /// The edge of a matte, as far from it as the bevel reaches.
    ///
    /// # Errors
    /// As [`Contour::of`].
    pub fn contour(&self, matte: &Raster, cancel: &Cancel) -> Result<Contour, KernelError> {
        Ok(Contour::of(matte, self.farthest() - 2.0, cancel)?.with(self.corners))
    }

    /// Whether a place lies on the bevel's own side of the matte's edge, where it lies on one: of a pixel at the edge only a
    /// part is seen, and the ground beside it has nothing to do with that part's slope.
    fn owns(&self, told: &FromEdge) -> bool {
        match self.side {
            Side::Inside => told.far >= 0.0,
            Side::Outside => told.far < 0.0,
            Side::Centred => true,
        }
    }

    /// At a place that stands for a square `side` px wide.
    fn at(&self, told: FromEdge, side: f32) -> At {
        let [outside, inside] = self.ends();
        let width = outside + inside;
        let far = told.far + outside;
        let (height, rise) = self.profile.at(far / width);
        // Where it ends at the edge of the matte, places on the other side belong to something else.
        let ends = |end: f32, at_edge: bool| match at_edge {
            true => f32::from(u8::from(end >= 0.0)),
            false => (end / side + 0.5).clamp(0.0, 1.0),
        };
        let on = ends(far, outside == 0.0) * ends(width - far, inside == 0.0);
        At { height, slope: self.height * rise, inward: told.inward, on }
    }
}

/// A matte's bevel.
#[derive(Clone, Debug)]
pub struct Relief {
    /// How high, px.
    pub height: Raster,
    /// Unit normals, camera space (x right, y up, z to the viewer); flat places face the viewer.
    pub normals: Raster,
    /// Share of each pixel that lies on the bevel.
    pub on: Raster,
}

/// What is told of places spread evenly over a pixel.
struct Told<'a> {
    places: &'a [FromEdge],
    /// Side of the square that each of them stands for, px.
    side: f32,
}

/// The middles of the squares into which a pixel is cut, `across` along each side, px from its own middle.
const fn cut<const N: usize>(across: usize) -> [Vec2; N] {
    let (mut all, side) = ([Vec2::ZERO; N], 1.0 / across as f32);
    let mut i = 0;
    while i < N {
        let (x, y) = ((i % across) as f32 + 0.5, (i / across) as f32 + 0.5);
        all[i] = Vec2::new(x * side - 0.5, y * side - 0.5);
        i += 1;
    }
    all
}

/// Places where a slope goes on as it is.
const FEW: [Vec2; 4] = cut(2);
/// Places at ridges, which run between pixels, and at the edge itself, where a profile may be steep.
const MANY: [Vec2; 16] = cut(4);

/// Whether a slope goes on as it is all over a pixel: it bends little, and neither the edge nor any other of the distances
/// (px, positive inside) at which a bevel begins or ends runs through it.
fn goes_on(few: &[FromEdge; 4], breaks: &[f32]) -> bool {
    let bends = |t: &FromEdge| t.inward.dot(few[0].inward) < 0.97;
    let broken = |t: &FromEdge| breaks.iter().any(|b| (t.far - b).abs() < 1.0);
    !few.iter().any(|t| bends(t) || broken(t) || t.far.abs() < 1.0)
}

/// A raster of `channels` planes: what `see` makes of the distances at some places in each pixel. Where a pixel is farther
/// from the edge than all bevels' ends it is the same all over the outside, and all over the inside.
fn for_each_pixel(
    contour: &Contour,
    bevels: &[Bevel],
    channels: usize,
    cancel: &Cancel,
    see: impl Fn(&Told<'_>, &mut [f32]) + Sync,
) -> Result<Raster, KernelError> {
    let window = contour.window();
    let ends = bevels.iter().map(Bevel::ends).fold([0.0_f32; 2], |[a, b], [c, d]| [a.max(c), b.max(d)]);
    let breaks: Vec<f32> = bevels.iter().flat_map(|b| [-b.ends()[0], b.ends()[1]]).collect();
    let mut out = Raster::zeros(window, channels);
    let beyond = [f32::MIN, f32::MAX].map(|far| {
        let mut values = vec![0.0; channels];
        see(&Told { places: &[FromEdge { far, inward: Vec2::ZERO }], side: 1.0 }, &mut values);
        values
    });
    for_each_band(&mut out, cancel, |band| {
        let mut own = vec![0.0; channels];
        for y in band.window().rows() {
            let start = (y - window.y) as usize * window.width as usize;
            let mut rows = band.every_row(y);
            for x in 0..window.width as usize {
                let side = usize::from(contour.is_inside(start + x));
                let values = if contour.about(start + x) > ends[side] + 2.5 {
                    &beyond[side]
                } else {
                    let few = contour.from_edge(start + x, FEW);
                    if goes_on(&few, &breaks) {
                        see(&Told { places: &few, side: 0.5 }, &mut own);
                    } else {
                        see(&Told { places: &contour.from_edge(start + x, MANY), side: 0.25 }, &mut own);
                    }
                    &own
                };
                rows.iter_mut().zip(values).for_each(|(row, v)| row[x] = *v);
            }
        }
    })?;
    Ok(out)
}

/// Some planes of a raster.
fn planes(of: &Raster, which: Range<usize>) -> Result<Raster, KernelError> {
    let count = which.len();
    let data = which.flat_map(|c| of.plane(c).iter().copied()).collect();
    Ok(Raster::from_planar(of.window(), count, data)?)
}

/// The bevel of a matte (one channel, 0..1): its height and normals, its slopes blurred by `soft` px.
///
/// # Errors
/// A matte without exactly one channel; cancellation.
pub fn relief(matte: &Raster, bevel: &Bevel, soft: f32, cancel: &Cancel) -> Result<Relief, KernelError> {
    let contour = bevel.contour(matte, cancel)?;
    let lift = bevel.height * bevel.width.clamp(1e-3, MOST);
    let made = for_each_pixel(&contour, std::slice::from_ref(bevel), 5, cancel, |told, sum| {
        sum.fill(0.0);
        let owned = told.places.iter().filter(|t| bevel.owns(t)).count();
        let share = 1.0 / if owned > 0 { owned } else { told.places.len() } as f32;
        for place in told.places.iter().filter(|t| owned == 0 || bevel.owns(t)) {
            let at = bevel.at(*place, told.side);
            let slope = at.slope * at.on;
            let (x, y) = (-slope * at.inward.x, slope * at.inward.y);
            let k = 1.0 / (x * x + y * y + 1.0).sqrt();
            for (sum, v) in sum.iter_mut().zip([lift * at.height, x * k, y * k, k, at.on]) {
                *sum += share * v;
            }
        }
    })?;
    let made = softened(&made, soft, cancel)?;
    let mut normals = planes(&made, 1..4)?;
    let [x, y, z] = <[&mut [f32]; 3]>::try_from(normals.planes_mut()).unwrap_or_default();
    for ((x, y), z) in x.iter_mut().zip(y).zip(z) {
        let k = 1.0 / (*x * *x + *y * *y + *z * *z).max(1e-12).sqrt();
        (*x, *y, *z) = (*x * k, *y * k, *z * k);
    }
    Ok(Relief { height: planes(&made, 0..1)?, normals, on: planes(&made, 4..5)? })
}

/// How much of a bevel faces a direction: a band of light or of shadow.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Facing {
    /// Unit vector in the picture toward which it faces, y down.
    pub toward: Vec2,
    /// Power of the cosine: higher keeps to what faces it squarely.
    pub narrow: f32,
    /// Blur, px.
    pub soft: f32,
}

/// Shares (0..1) by which bevels along one edge face a direction, a raster for each: of what lies inside the matte (plane 0)
/// and of what lies outside of it (plane 1). Full where a slope as steep as the profile's chamfer faces it squarely. The
/// edge has to be known as far as the widest of them reaches.
///
/// # Errors
/// Cancellation.
pub fn bands(
    contour: &Contour,
    all: &[(Bevel, Facing)],
    cancel: &Cancel,
) -> Result<Vec<Raster>, KernelError> {
    let bevels: Vec<Bevel> = all.iter().map(|(bevel, _)| bevel.clone()).collect();
    let made = for_each_pixel(contour, &bevels, 2 * all.len(), cancel, |told, values| {
        for ((bevel, facing), share) in all.iter().zip(values.chunks_mut(2)) {
            share.copy_from_slice(&facing_share(bevel, facing, told));
        }
    })?;
    let of = |(i, (_, facing)): (usize, &(Bevel, Facing))| {
        softened(&planes(&made, 2 * i..2 * i + 2)?, facing.soft, cancel)
    };
    all.iter().enumerate().map(of).collect()
}

/// Share of a pixel's places inside, and of those outside, by which a bevel faces a direction.
fn facing_share(bevel: &Bevel, facing: &Facing, told: &Told<'_>) -> [f32; 2] {
    // A bevel as high as it is wide is at full strength on a chamfer; the shape of others is relative to that.
    let full = (1.0 + 1.0 / (bevel.height * bevel.height).max(1e-6)).sqrt();
    let (mut sum, mut count) = ([0.0_f32; 2], [0.0_f32; 2]);
    for place in told.places {
        let (at, side) = (bevel.at(*place, told.side), usize::from(place.far < 0.0));
        count[side] += 1.0;
        // What sinks faces the other way.
        let sign = if at.slope < 0.0 { -1.0 } else { 1.0 };
        let toward = -sign * at.inward.dot(facing.toward);
        if toward > 0.0 && at.on > 0.0 {
            let tilt = at.slope.abs() / (1.0 + at.slope * at.slope).sqrt();
            sum[side] += (toward.powf(facing.narrow) * tilt * full).min(1.0) * at.on;
        }
    }
    std::array::from_fn(|i| if count[i] > 0.0 { sum[i] / count[i] } else { 0.0 })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    fn disc(r: f32) -> Raster {
        Raster::from_fn(Window::of_size(96, 96), 1, |_, x, y| {
            let inside = |i: i32| {
                let (dx, dy) = (
                    x as f32 + ((i % 16) as f32 + 0.5) / 16.0 - 47.3,
                    y as f32 + ((i / 16) as f32 + 0.5) / 16.0 - 48.1,
                );
                f32::from(u8::from(dx.hypot(dy) < r))
            };
            (0..256).map(inside).sum::<f32>() / 256.0
        })
    }

    /// Normals of the bevel of a disc in closed form, away from where it begins and ends.
    #[test]
    fn a_disc_has_the_normals_of_its_profile() {
        for profile in [Profile::Chamfer, Profile::Round, Profile::Cove] {
            for side in [Side::Inside, Side::Centred, Side::Outside] {
                let bevel = Bevel {
                    width: 10.0,
                    height: 0.8,
                    profile: profile.into(),
                    side,
                    corners: Corners::Round,
                };
                let made = relief(&disc(30.0), &bevel, 0.0, &Cancel::new()).unwrap();
                let mut worst = 0.0_f32;
                for y in 0..96 {
                    for x in 0..96 {
                        let p = Vec2::new(x as f32 + 0.5 - 47.3, y as f32 + 0.5 - 48.1);
                        let far = 30.0 - p.length() + bevel.ends()[0];
                        if !(1.5..8.5).contains(&far) {
                            continue;
                        }
                        let t = far / 10.0;
                        let slope = 0.8
                            * match profile {
                                Profile::Chamfer => 1.0,
                                Profile::Round => (1.0 - t) / (1.0 - (1.0 - t) * (1.0 - t)).sqrt(),
                                _ => t / (1.0 - t * t).sqrt(),
                            };
                        let out = p.normalize() * slope;
                        let want = glam::Vec3::new(out.x, -out.y, 1.0).normalize();
                        for c in 0..3 {
                            worst = worst.max((made.normals.sample(c, x, y).unwrap() - want[c]).abs());
                        }
                    }
                }
                // Measured: at most 0.0084, cove inside.
                assert!(worst < 0.01, "{profile:?} {side:?} {worst}");
            }
        }
    }

    /// A ridge along the edge: up over half of the width and down again, which nothing but a drawn profile does.
    #[test]
    fn a_drawn_profile_goes_up_and_down_as_it_is_drawn() {
        let curve = Curve::through(&[[0.0, 0.0], [0.5, 1.0], [1.0, 0.0]]);
        let bevel = Bevel {
            width: 20.0,
            height: 0.5,
            profile: Rise::new(Profile::Drawn, curve.clone()),
            side: Side::Inside,
            corners: Corners::Round,
        };
        let made = relief(&disc(40.0), &bevel, 0.0, &Cancel::new()).unwrap();
        for (x, y) in [(12, 48), (22, 48), (47, 13), (47, 23), (30, 75)] {
            let p = Vec2::new(x as f32 + 0.5 - 47.3, y as f32 + 0.5 - 48.1);
            let t = (40.0 - p.length()) / 20.0;
            let out = p.normalize() * 0.5 * curve.slope_at(t);
            let want = glam::Vec3::new(out.x, -out.y, 1.0).normalize();
            for c in 0..3 {
                let own = made.normals.sample(c, x, y).unwrap();
                assert!((own - want[c]).abs() < 0.02, "{x} {y}: {own} {}", want[c]);
            }
            assert!((made.height.sample(0, x, y).unwrap() - 10.0 * curve.at(t)).abs() < 0.15);
        }
        assert_eq!(made.height.sample(0, 47, 48), Some(0.0), "level within");
        // Its far side is lit from the other side.
        let contour = bevel.contour(&disc(40.0), &Cancel::new()).unwrap();
        let facing = Facing { toward: Vec2::new(-1.0, 0.0), narrow: 1.0, soft: 0.0 };
        let [lit] = bands(&contour, &[(bevel, facing)], &Cancel::new()).unwrap().try_into().unwrap();
        let lit = |x| lit.sample(0, x, 48).unwrap();
        assert!(lit(12) > 0.5 && lit(22) == 0.0 && lit(72) > 0.5 && lit(82) == 0.0);
    }

    #[test]
    fn what_is_not_drawn_is_level_and_no_points_are_straight() {
        let part = Rise::new(Profile::Drawn, Curve::through(&[[0.25, 0.0], [0.75, 0.8]]));
        assert_eq!([part.at(0.1), part.at(0.9)], [(0.0, 0.0), (0.8, 0.0)]);
        assert!((part.at(0.5).0 - 0.4).abs() < 1e-6 && (part.at(0.5).1 - 1.6).abs() < 1e-5);
        assert_eq!(Rise::from(Profile::Drawn).at(0.3), (0.3, 1.0));
        let upright = Rise::new(Profile::Drawn, Curve::through(&[[0.5, 0.0], [0.5001, 1.0]]));
        assert_eq!(upright.at(0.50005).1, STEEPEST);
    }

    #[test]
    fn what_faces_a_direction_is_lit_and_the_rest_is_not() {
        let bevel = Bevel {
            width: 10.0,
            height: 1.0,
            profile: Profile::Chamfer.into(),
            side: Side::Inside,
            corners: Corners::Round,
        };
        let contour = bevel.contour(&disc(30.0), &Cancel::new()).unwrap();
        let facing = Facing { toward: Vec2::new(0.0, -1.0), narrow: 1.0, soft: 0.0 };
        let [lit] = bands(&contour, &[(bevel, facing)], &Cancel::new()).unwrap().try_into().unwrap();
        let at = |x, y| lit.sample(0, x, y).unwrap();
        assert!((at(47, 23) - 1.0).abs() < 0.01, "{}", at(47, 23));
        assert_eq!([at(47, 73), at(47, 48), at(47, 10)], [0.0; 3]);
        assert!((at(47 + 17, 48 - 18) - std::f32::consts::FRAC_1_SQRT_2).abs() < 0.03);
    }

    #[test]
    fn a_window_in_pieces_is_the_window_in_one() {
        let whole = disc(30.0);
        let bevel = Bevel {
            width: 7.0,
            height: 1.0,
            profile: Profile::Round.into(),
            side: Side::Centred,
            corners: Corners::Round,
        };
        let all = relief(&whole, &bevel, 2.0, &Cancel::new()).unwrap();
        let part = Window::new(20, 30, 40, 25);
        let wide = part.grown(bevel.reach(2.0).ceil() as u32).intersect(&whole.window());
        let own = relief(&whole.cropped(wide, 0.0), &bevel, 2.0, &Cancel::new()).unwrap();
        assert_eq!(own.normals.cropped(part, 0.0), all.normals.cropped(part, 0.0));
        assert_eq!(own.height.cropped(part, 0.0), all.height.cropped(part, 0.0));
    }

    #[test]
    fn empty_and_full_mattes_are_flat() {
        let bevel = Bevel {
            width: 7.0,
            height: 1.0,
            profile: Profile::Round.into(),
            side: Side::Centred,
            corners: Corners::Round,
        };
        for (v, height) in [(0.0, 0.0), (1.0, 7.0)] {
            let m = Raster::filled(Window::of_size(20, 9), 1, v);
            let made = relief(&m, &bevel, 0.0, &Cancel::new()).unwrap();
            assert_eq!(made.height.sample(0, 3, 3), Some(height));
            assert_eq!(made.normals.pixel(3, 3), Some(vec![0.0, 0.0, 1.0]));
        }
        let none = Raster::zeros(Window::of_size(0, 9), 1);
        assert!(relief(&none, &bevel, 0.0, &Cancel::new()).unwrap().height.data().is_empty());
    }
}
