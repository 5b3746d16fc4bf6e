//! Two pictures that stand in one space: at each place the nearer one hides the other.
//!
//! *Own derivation.* A depth is hard and a picture is not: a pixel at a rim shows two surfaces and has the depth of one.
//! Each picture is therefore taken apart there into the nearer surface with its coverage and the farther one
//! (`colour::unmix`). Surfaces of one picture share the pixel between them; those of the two pictures lie on each other
//! as coverages do in Porter & Duff 1984, so that a pixel falls into at most four parts with one surface of each. In
//! each part the nearer surface is over the other one. Where two surfaces cross, their depths say along which line:
//! 1 ÷ Z of a plane is linear across the picture, so that the share of a pixel in which one is nearer has a closed form.

use super::is_depth;
use crate::colour::unmix::{Around, near_share, parted, square};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};

/// A picture and where it is.
#[derive(Clone, Copy, Debug)]
pub struct InSpace<'a> {
    /// RGBA, premultiplied.
    pub picture: &'a Raster,
    /// 1 ÷ Z; 0 is nothing, or infinitely far. What is soft against nothing has the nearness of what it belongs to.
    pub near: &'a Raster,
}

/// What is asked for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shown {
    /// Both pictures.
    Both,
    /// What is seen of the upper one.
    Upper,
}

/// Pixels on both sides of an edge that may hold the colours of both surfaces.
const RIM: i32 = 1;
/// Pixels beyond a rim in which the colour of each side is looked for.
const LOOK: i32 = 2;
/// How far around a pixel is looked at, px.
pub const REACH: u32 = (2 * RIM + LOOK + 1) as u32;

/// Least share of their nearness by which neighbours on two surfaces differ.
const JUMP: f32 = 0.02;

/// `upper` and `lower` in one space, on one window. At the same distance the upper one is in front. Where all of one is in
/// front of all of the other around a pixel, this is [`crate::colour::composite::over`] to the last bit. Exact where both cover
/// [`REACH`] px more than is wanted.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn crossed(
    upper: InSpace<'_>,
    lower: InSpace<'_>,
    shown: Shown,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let window = upper.picture.window();
    for (of, what) in [(upper, "upper"), (lower, "lower")] {
        of.picture.expect_channels(what, 4)?;
        of.picture.expect_window(what, window)?;
        of.near.expect_channels(what, 1)?;
        of.near.expect_window(what, window)?;
    }
    let (upper, lower) = (Parts::of(upper, cancel)?, Parts::of(lower, cancel)?);
    let mut out = Raster::zeros(window, 4);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let start = (y - window.y) as usize * window.width as usize;
            let [r, g, b, a] = band.rows(y);
            for (x, (((r, g), b), a)) in r.iter_mut().zip(g).zip(b).zip(a).enumerate() {
                let at = (x as i32, y - window.y, start + x);
                [*r, *g, *b, *a] = pixel(&upper, &lower, at, shown);
            }
        }
    })?;
    Ok(out)
}

fn pixel(upper: &Parts<'_>, lower: &Parts<'_>, at: (i32, i32, usize), shown: Shown) -> [f32; 4] {
    let (t, b) = (upper.colour(at.2), lower.colour(at.2));
    let both = |v: [f32; 4]| if shown == Shown::Both { v } else { t };
    if t == [0.0; 4] {
        return both(b);
    }
    if b[3] == 0.0 && b == [0.0; 4] {
        return t;
    }
    // Edges that touch share a pixel otherwise than edges that pass each other.
    let touch = if t[3].max(b[3]) < OPAQUE { JUMP } else { 0.0 };
    let (u, l) = (upper.ends[at.2], lower.ends[at.2]);
    if u[0] >= l[1] + touch * u[1] {
        return both(over(t, b));
    }
    if l[0] > u[1] + touch * l[1] {
        return if shown == Shown::Both { over(b, t) } else { t.map(|v| v * (1.0 - b[3])) };
    }
    let mut sum = [0.0; 4];
    for a in upper.surfaces(at).into_iter().flatten() {
        for b in lower.surfaces(at).into_iter().flatten() {
            let (part, of) = (a.cover * b.cover, seen_of(&a, &b));
            let of_lower = if shown == Shown::Both { of[1] } else { 0.0 };
            (0..4).for_each(|c| sum[c] += part * (a.colour[c] * of[0] + b.colour[c] * of_lower));
        }
    }
    sum
}

/// Shares of two surfaces in a pixel that are seen.
///
/// Edges that pass each other at different depths cover each other by chance: what is behind shows through as much of the
/// front as is open. Edges of one depth belong to solid things that touch, and solid things leave each other room: they lie
/// beside each other, and only what does not fit into the pixel is divided by which one is nearer.
fn seen_of(a: &Surface, b: &Surface) -> [f32; 2] {
    let far = a.near - b.near;
    let share = nearer(far, [a.slope[0] - b.slope[0], a.slope[1] - b.slope[1]]);
    let [alpha, beta] = [a.colour[3], b.colour[3]];
    let passing = [share + (1.0 - share) * (1.0 - beta), (1.0 - share) + share * (1.0 - alpha)];
    if alpha >= 1.0 || beta >= 1.0 || alpha <= 0.0 || beta <= 0.0 {
        return passing;
    }
    let sum = |s: [f32; 2]| s[0].abs() + s[1].abs();
    // Depths are as good as alike while they differ by no more than they change from px to px.
    let alike = (1.5 * (sum(a.slope) + sum(b.slope))).max(1e-3 * a.near.max(b.near)).max(f32::MIN_POSITIVE);
    let touching = (2.0 - far.abs() / alike).clamp(0.0, 1.0);
    let tight = (alpha + beta - 1.0).max(0.0);
    let beside = [1.0 - (1.0 - share) * tight / alpha, 1.0 - share * tight / beta];
    std::array::from_fn(|k| passing[k] + touching * (beside[k] - passing[k]))
}

fn over(top: [f32; 4], bottom: [f32; 4]) -> [f32; 4] {
    std::array::from_fn(|c| top[c] + bottom[c] * (1.0 - top[3]))
}

/// Share of a pixel in which `far + slope · (x, y)` is not below zero, (0, 0) being its middle. Closed form: what a straight
/// line leaves of a unit square.
fn nearer(far: f32, slope: [f32; 2]) -> f32 {
    let (a, b) = (slope[0].abs().max(slope[1].abs()), slope[0].abs().min(slope[1].abs()));
    let most = 0.5 * (a + b);
    if far >= most {
        return 1.0;
    }
    if far <= -most {
        return 0.0;
    }
    // The line cuts two opposite sides, or one corner off.
    let half = if far.abs() <= 0.5 * (a - b) {
        far.abs() / a
    } else {
        0.5 - (most - far.abs()).powi(2) / (2.0 * a * b)
    };
    0.5 + half.copysign(far)
}

/// One surface in a pixel.
#[derive(Clone, Copy, Debug)]
struct Surface {
    /// Premultiplied by its alpha, as if it covered all of the pixel.
    colour: [f32; 4],
    /// Share of the pixel that it has.
    cover: f32,
    near: f32,
    slope: [f32; 2],
}

/// A picture with what is known of its rims.
struct Parts<'a> {
    picture: &'a Raster,
    near: &'a [f32],
    window: Window,
    /// Least and most nearness around each pixel.
    ends: Vec<[f32; 2]>,
    /// Whether two surfaces meet at a pixel.
    rim: Vec<bool>,
}

impl<'a> Parts<'a> {
    fn of(of: InSpace<'a>, cancel: &Cancel) -> Result<Self, KernelError> {
        let window = of.picture.window();
        let near = of.near.plane(0);
        let (w, h) = (window.width as i32, window.height as i32);
        let mut found = Raster::zeros(window, 3);
        for_each_band(&mut found, cancel, |band| {
            for y in band.window().rows() {
                let [least, most, rim]: [&mut [f32]; 3] = band.rows(y);
                for x in 0..w {
                    let i = x as usize;
                    [least[i], most[i]] = ends_around(near, (w, h), (x, y - window.y));
                    let jumps = most[i] - least[i] > JUMP * most[i]
                        && !is_plane(near, (w, h), (x, y - window.y), most[i] - least[i]);
                    rim[i] = f32::from(u8::from(jumps));
                }
            }
        })?;
        let ends = found.plane(0).iter().zip(found.plane(1)).map(|(a, b)| [*a, *b]).collect();
        let rim = found.plane(2).iter().map(|v| *v > 0.5).collect();
        Ok(Self { picture: of.picture, near, window, ends, rim })
    }

    fn colour(&self, i: usize) -> [f32; 4] {
        std::array::from_fn(|c| self.picture.plane(c)[i])
    }

    /// One or two surfaces whose shares make up the pixel.
    fn surfaces(&self, at: (i32, i32, usize)) -> [Option<Surface>; 2] {
        let (x, y, i) = at;
        let own = self.colour(i);
        let whole = || {
            let slope = self.slope(x, y);
            [Some(Surface { colour: own, cover: 1.0, near: self.near[i], slope }), None]
        };
        if !self.rim[i] {
            return whole();
        }
        let middle = 0.5 * (self.ends[i][0] + self.ends[i][1]);
        let mut around = Around::<4>::new();
        for (j, far) in square(self.size(), [x, y], RIM + LOOK) {
            around.add((self.near[j] > middle, self.rim[j]), self.colour(j), j, far);
        }
        let Some(sides) = around.both() else { return whole() };
        let (cover, seen) = parted(own, &sides, near_share(self.size(), [x, y], |j| self.near[j] > middle));
        let [front, back] = sides;
        let surface = |colour, cover, j| {
            let (near, slope) = self.carried(j, at);
            Surface { colour, cover, near, slope }
        };
        // What is left of the pixel once the front is taken is the back, so that both give the pixel again.
        let rest: [f32; 4] = std::array::from_fn(|c| own[c] - seen[c]);
        let full = |v: [f32; 4], share: f32| v.map(|v| v / share);
        let front = (cover > 1e-4).then(|| surface(full(seen, cover), cover, front.at));
        let back = (cover < 1.0 - 1e-4).then(|| surface(full(rest, 1.0 - cover), 1.0 - cover, back.at));
        match (front, back) {
            (Some(f), None) => [Some(Surface { colour: own, cover: 1.0, ..f }), None],
            (None, Some(b)) => [Some(Surface { colour: own, cover: 1.0, ..b }), None],
            both => [both.0, both.1],
        }
    }

    fn index(&self, x: i32, y: i32) -> usize {
        y as usize * self.window.width as usize + x as usize
    }

    fn size(&self) -> [i32; 2] {
        [self.window.width as i32, self.window.height as i32]
    }

    /// How nearness changes by a px to the right and down: the smaller step of both sides, which is on the same surface.
    fn slope(&self, x: i32, y: i32) -> [f32; 2] {
        let here = self.near[self.index(x, y)];
        let (w, h) = (self.window.width as i32, self.window.height as i32);
        let step = |(ax, ay): (i32, i32), (bx, by): (i32, i32)| {
            let at = |x: i32, y: i32| {
                ((0..w).contains(&x) && (0..h).contains(&y)).then(|| self.near[self.index(x, y)])
            };
            let (back, ahead) = (at(ax, ay).map(|v| here - v), at(bx, by).map(|v| v - here));
            match (back, ahead) {
                (Some(a), Some(b)) if a.abs() <= b.abs() => a,
                (_, Some(b)) => b,
                (a, None) => a.unwrap_or(0.0),
            }
        };
        [step((x - 1, y), (x + 1, y)), step((x, y - 1), (x, y + 1))]
    }

    /// The surface of pixel `j`, carried on to another pixel: its nearness there and its slope. At a rim nothing tells the slope.
    fn carried(&self, j: usize, (x, y, i): (i32, i32, usize)) -> (f32, [f32; 2]) {
        if self.rim[j] {
            return (self.near[j], [0.0; 2]);
        }
        let width = self.window.width as usize;
        let (jx, jy) = ((j % width) as i32, (j / width) as i32);
        let slope = self.slope(jx, jy);
        let near = self.near[j] + slope[0] * (x - jx) as f32 + slope[1] * (y - jy) as f32;
        let [least, most] = self.ends[i];
        (near.clamp(least.min(self.near[j]), most.max(self.near[j])), slope)
    }
}

/// Least and most of the values in a square around a place.
fn ends_around(near: &[f32], (w, h): (i32, i32), (x, y): (i32, i32)) -> [f32; 2] {
    let mut ends = [f32::INFINITY, f32::NEG_INFINITY];
    for row in (y - RIM).max(0)..=(y + RIM).min(h - 1) {
        let start = (row * w) as usize;
        let columns = start + (x - RIM).max(0) as usize..=start + (x + RIM).min(w - 1) as usize;
        for v in &near[columns] {
            ends = [ends[0].min(*v), ends[1].max(*v)];
        }
    }
    ends
}

/// Whether a place and its neighbours lie on one plane: their nearness goes on evenly both ways, up to a quarter of how much
/// it changes in all.
fn is_plane(near: &[f32], (w, h): (i32, i32), (x, y): (i32, i32), change: f32) -> bool {
    let at = |dx: i32, dy: i32| near[((y + dy) * w + x + dx) as usize];
    if x < 1 || y < 1 || x + 1 >= w || y + 1 >= h {
        return false;
    }
    let bends = |dx: i32, dy: i32| (at(dx, dy) + at(-dx, -dy) - 2.0 * at(0, 0)).abs() > 0.25 * change;
    !(bends(1, 0) || bends(0, 1) || bends(1, 1) || bends(1, -1))
}

/// The nearness of a picture's pixels: 1 ÷ Z of a depth taken `nearer` units nearer; 0 where nothing is. `carried` is the
/// same depth carried on past the edges of what it belongs to: what is soft there (a rim, a glow, a blur) has its nearness,
/// unless it is opaque and therefore a backdrop.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn nearness(
    picture: &Raster,
    [depth, carried]: [&Raster; 2],
    nearer: f32,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    for (raster, what) in [(depth, "depth"), (carried, "carried depth")] {
        raster.expect_channels(what, 1)?;
        raster.expect_window(what, picture.window())?;
    }
    let of = |z: f32| if is_depth(z) { (z - nearer).max(LEAST_DEPTH).recip() } else { 0.0 };
    let mut out = Raster::zeros(picture.window(), 1);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let (z, beyond, alpha) = (depth.row(0, y), carried.row(0, y), picture.row(3, y));
            for (i, near) in band.row(0, y).iter_mut().enumerate() {
                let soft = !is_depth(z[i]) && alpha[i] < OPAQUE;
                *near = of(if soft { beyond[i] } else { z[i] });
            }
        }
    })?;
    Ok(out)
}

/// How the upper of two pictures lies to the lower one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Lies {
    /// In one space with it.
    Among,
    /// Over it, whatever their depths are.
    Over,
}

/// The nearness of what is seen of two pictures: where both hide what is behind them, that of the nearer one or of the upper
/// one; elsewhere that of the one that hides more.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn nearness_of_both(
    upper: InSpace<'_>,
    lower: InSpace<'_>,
    lies: Lies,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    of_both(upper, lower, lies, [upper.near, lower.near], cancel)
}

/// Planes of what is seen of two pictures, as [`nearness_of_both`] has it, from those of each (on the same window).
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn of_both(
    upper: InSpace<'_>,
    lower: InSpace<'_>,
    lies: Lies,
    planes: [&Raster; 2],
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let mut out = planes[0].clone();
    lower.near.expect_window("lower", out.window())?;
    planes[1].expect_window("planes of the lower", out.window())?;
    planes[1].expect_channels("planes of the lower", out.channels())?;
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let (a, b) = (upper.picture.row(3, y), lower.picture.row(3, y));
            let (near, below) = (upper.near.row(0, y), lower.near.row(0, y));
            let of_lower = |i: usize| match [a[i] >= 0.5, b[i] >= 0.5] {
                [true, true] => lies == Lies::Among && below[i] > near[i],
                [true, false] => false,
                [false, true] => true,
                [false, false] => a[i] <= b[i],
            };
            for c in 0..planes[1].channels() {
                let theirs = planes[1].row(c, y);
                let row = band.row(c, y).iter_mut().enumerate();
                row.filter(|(i, _)| of_lower(*i)).for_each(|(i, v)| *v = theirs[i]);
            }
        }
    })?;
    Ok(out)
}

/// Nothing is nearer than this to the eye, scene units.
const LEAST_DEPTH: f32 = 1e-6;

/// Coverage from which on a picture without a depth is a backdrop.
const OPAQUE: f32 = 0.995;

#[cfg(test)]
mod tests {
    use super::*;
    use crate::colour::composite;

    const W: Window = Window::new(-3, 2, 24, 18);

    fn grey(v: f32, cover: impl Fn(i32, i32) -> f32) -> Raster {
        Raster::from_fn(W, 4, |c, x, y| if c == 3 { 1.0 } else { v } * cover(x, y))
    }

    fn near(f: impl Fn(i32, i32) -> f32) -> Raster {
        Raster::from_fn(W, 1, |_, x, y| f(x, y))
    }

    fn both(a: (&Raster, &Raster), b: (&Raster, &Raster)) -> Raster {
        let of = |(picture, near)| InSpace { picture, near };
        crossed(of(a), of(b), Shown::Both, &Cancel::new()).unwrap()
    }

    #[test]
    fn what_is_in_front_everywhere_is_over_to_the_last_bit() {
        let (a, b) = (grey(0.7, |x, y| ((x * 5 + y * 3) % 7) as f32 / 7.0), grey(0.2, |_, _| 1.0));
        let (front, behind) = (near(|_, _| 0.5), near(|x, _| 0.1 + 0.001 * x as f32));
        let cancel = Cancel::new();
        assert_eq!(both((&a, &front), (&b, &behind)), composite::over(&a, &b, &cancel).unwrap());
        assert_eq!(both((&a, &behind), (&b, &front)), b);
        // At one distance the upper one is in front.
        assert_eq!(both((&a, &front), (&b, &front)), composite::over(&a, &b, &cancel).unwrap());
    }

    #[test]
    fn the_share_of_a_pixel_before_a_line_is_what_counting_says() {
        for (far, slope) in [
            (0.1, [0.3, 0.2]),
            (-0.2, [0.1, -0.4]),
            (0.0, [1.0, 0.5]),
            (0.3, [-0.5, 0.5]),
            (-0.05, [0.0, 0.2]),
            (0.0, [0.0, 0.0]),
        ] {
            let n = 400;
            let at = |k: i32| (k as f32 + 0.5) / n as f32 - 0.5;
            let count =
                (0..n * n).filter(|k| far + slope[0] * at(k % n) + slope[1] * at(k / n) >= 0.0).count();
            let want = count as f32 / (n * n) as f32;
            assert!(
                (nearer(far, slope) - want).abs() < 3e-3,
                "{far} {slope:?}: {} {want}",
                nearer(far, slope)
            );
        }
    }

    #[test]
    fn planes_cross_along_a_line_finer_than_a_pixel() {
        // One goes away to the right, the other comes nearer; alike at x = 7.3.
        let (a, b) = (grey(1.0, |_, _| 1.0), grey(0.0, |_, _| 1.0));
        let line = |x: i32| 0.01 * (x as f32 + 0.5 - 7.3);
        let out = both((&a, &near(|x, _| 0.5 - line(x))), (&b, &near(|x, _| 0.5 + line(x))));
        for (x, want) in [(5, 1.0), (6, 1.0), (7, 0.3), (8, 0.0), (9, 0.0)] {
            assert!((out.sample(0, x, 8).unwrap() - want).abs() < 1e-3, "{x}");
        }
    }

    #[test]
    fn a_rim_is_seen_before_what_stands_between_its_two_sides() {
        // A white card before a black wall, its edge at x = 9.6; a grey card between the two.
        let edge = |x: i32| (9.6 - x as f32).clamp(0.0, 1.0);
        let room = Raster::from_fn(W, 4, |c, x, _| if c == 3 { 1.0 } else { edge(x) });
        let depth = near(|x, _| if x < 10 { 0.5 } else { 0.1 });
        let between = grey(0.5, |_, _| 1.0);
        let out = both((&between, &near(|_, _| 0.2)), (&room, &depth));
        for (x, want) in [(8, 1.0), (9, 0.6 + 0.4 * 0.5), (10, 0.5), (12, 0.5)] {
            let got = out.sample(0, x, 9).unwrap();
            assert!((got - want).abs() < 0.02, "{x}: {got} {want}");
        }
        let upper = InSpace { picture: &between, near: &near(|_, _| 0.2) };
        let lower = InSpace { picture: &room, near: &depth };
        let seen = crossed(upper, lower, Shown::Upper, &Cancel::new()).unwrap();
        assert!((seen.sample(3, 9, 9).unwrap() - 0.4).abs() < 0.04, "{:?}", seen.sample(3, 9, 9));
        assert_eq!(seen.sample(3, 6, 9), Some(0.0));
    }

    #[test]
    fn edges_of_things_that_touch_leave_no_seam() {
        let left = |x: i32| (8.4 - x as f32).clamp(0.0, 1.0);
        let (a, b) = (grey(1.0, |x, _| left(x)), grey(0.25, |x, _| 1.0 - left(x)));
        let flat = near(|_, _| 0.3);
        let out = both((&a, &flat), (&b, &flat));
        assert!(out.plane(3).iter().all(|v| (v - 1.0).abs() < 1e-5), "{:?}", out.row(3, 9));
        assert!((out.sample(0, 8, 9).unwrap() - (0.4 + 0.6 * 0.25)).abs() < 1e-5);
        // The same edges at different depths let through what coverages do.
        let out = both((&a, &near(|_, _| 0.6)), (&b, &flat));
        assert!((out.sample(3, 8, 9).unwrap() - (1.0 - 0.6 * 0.4)).abs() < 1e-5);
    }

    #[test]
    fn windows_give_the_bytes_of_the_whole() {
        let wave = |x: i32, y: i32, k: i32| ((x * k + y * 7) % 13) as f32 / 13.0;
        let (a, b) = (grey(0.8, |x, y| wave(x, y, 3)), grey(0.3, |x, y| wave(x, y, 5)));
        let (na, nb) = (near(|x, y| wave(x, y, 11)), near(|x, y| wave(x, y, 2)));
        let whole = both((&a, &na), (&b, &nb));
        let part = Window::new(4, 6, 9, 7);
        let wide = part.grown(REACH).intersect(&W);
        let [a, b, na, nb] = [&a, &b, &na, &nb].map(|r| r.cropped(wide, 0.0));
        let cut = both((&a, &na), (&b, &nb));
        for y in part.rows() {
            for x in part.x..part.x + part.width as i32 {
                assert_eq!(cut.pixel(x, y), whole.pixel(x, y), "{x} {y}");
            }
        }
        for tiny in [Window::of_size(0, 0), Window::of_size(1, 1)] {
            let (p, n) = (Raster::filled(tiny, 4, 0.5), Raster::filled(tiny, 1, 0.5));
            assert_eq!(both((&p, &n), (&p, &n)).window(), tiny);
        }
    }

    #[test]
    fn what_is_soft_has_the_depth_of_what_it_belongs_to() {
        let picture = grey(1.0, |x, _| if x < 5 { 1.0 } else { 0.4 });
        let no = f32::INFINITY;
        let depth = near(|x, _| if x < 4 { 4.0 } else { no });
        let out = nearness(&picture, [&depth, &near(|_, _| 4.0)], 2.0, &Cancel::new()).unwrap();
        assert_eq!([0, 4, 6].map(|x| out.sample(0, x, 5).unwrap()), [0.5, 0.0, 0.5]);
    }
}
