//! Warps by hand: soft pushes and smears. *Own derivation.*
//!
//! A push is an ellipse that travels from where it is to where it should be, turning and growing on the way, and takes along
//! what lies in it, less and less toward its edge. The picture is carried by all of them together like dye by a stream: the
//! move is the flow of a field that is smooth everywhere, so it has no kinks, never folds, and its inverse is the stream run
//! backwards. A smear is a round brush that travels along its stroke; smears follow the pushes, one after the other.

use glam::{DMat2, DVec2};

/// An ellipse that is pushed. Lengths in px, turns in radians, against the clock as seen.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Push {
    /// Its middle before.
    pub from: DVec2,
    /// Its middle after.
    pub to: DVec2,
    /// Half its width and half its height, before.
    pub size: DVec2,
    /// How it lies before.
    pub lies: f64,
    /// How far it is turned on the way.
    pub turn: f64,
    /// How much it grows on the way, above 0.
    pub scale: f64,
    /// Share of the radius over which it lets go of what it takes along, 0..1.
    pub softness: f64,
}

/// A stroke that smears. Lengths in px.
#[derive(Clone, Debug, PartialEq)]
pub struct Smear {
    /// Its path.
    pub path: Vec<DVec2>,
    /// Radius of the brush.
    pub radius: f64,
    /// Share of the radius over which it lets go, 0..1.
    pub softness: f64,
    /// How much of the way it takes along what lies under its middle, 0..1.
    pub strength: f64,
}

/// Pushes, all together, and then smears, one after the other.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Warp {
    pushes: Vec<Push>,
    smears: Vec<Smear>,
    /// Steps in which the pushes are followed.
    steps: u32,
}

/// Least radius, px, and least softness: something harder would tear.
const LEAST: (f64, f64) = (0.5, 0.05);

impl Warp {
    /// Of pushes and smears.
    pub fn new(pushes: Vec<Push>, smears: Vec<Smear>) -> Self {
        let pushes: Vec<Push> = pushes
            .into_iter()
            .map(|p| Push {
                size: p.size.max(DVec2::splat(LEAST.0)),
                softness: p.softness.clamp(LEAST.1, 1.0),
                scale: p.scale.max(1e-3),
                ..p
            })
            .filter(|p| p.from != p.to || p.turn != 0.0 || p.scale != 1.0)
            .collect();
        let smears = smears
            .into_iter()
            .map(|s| Smear { radius: s.radius.max(LEAST.0), softness: s.softness.clamp(LEAST.1, 1.0), ..s })
            .filter(|s| s.strength != 0.0 && s.path.windows(2).any(|w| w[0] != w[1]))
            .collect();
        // In one step nothing moves farther than a third of what the softest part of an ellipse spans.
        let needed = |p: &Push| {
            let soft = p.size.min_element() * p.softness * p.scale.min(1.0);
            let far = (p.to - p.from).length() / soft;
            let spun = (p.turn.abs() + p.scale.ln().abs()) * p.size.max_element() / p.size.min_element();
            (3.0 * (far + spun / p.softness)).ceil()
        };
        let steps = pushes.iter().map(needed).fold(4.0, f64::max).min(256.0) as u32;
        Self { pushes, smears, steps }
    }

    /// Whether no place is moved.
    pub fn is_none(&self) -> bool {
        self.pushes.is_empty() && self.smears.is_empty()
    }

    /// The smallest length over which it bends, px.
    pub fn detail(&self) -> f64 {
        let pushes = self.pushes.iter().map(|p| p.size.min_element() * p.softness * p.scale.min(1.0));
        pushes.chain(self.smears.iter().map(|s| s.radius * s.softness)).fold(f64::INFINITY, f64::min)
    }

    /// Where a place goes, with its slope.
    pub fn ahead(&self, place: DVec2) -> (DVec2, DMat2) {
        let mut at = (place, DMat2::IDENTITY);
        self.follow_pushes(&mut at, false);
        self.smears.iter().for_each(|s| s.follow(&mut at, false));
        at
    }

    /// Where a place comes from, with its slope.
    pub fn back(&self, place: DVec2) -> (DVec2, DMat2) {
        let mut at = (place, DMat2::IDENTITY);
        self.smears.iter().rev().for_each(|s| s.follow(&mut at, true));
        self.follow_pushes(&mut at, true);
        at
    }

    fn follow_pushes(&self, at: &mut Carried, back: bool) {
        if self.pushes.is_empty() {
            return;
        }
        let field = |t: f64, p: DVec2| {
            let t = if back { 1.0 - t } else { t };
            let all = self.pushes.iter().filter_map(|push| push.field(t, p));
            let sum = all.fold((DVec2::ZERO, DMat2::ZERO), |a, b| (a.0 + b.0, a.1 + b.1));
            if back { (-sum.0, -sum.1) } else { sum }
        };
        // What lies in none of them on the whole way stays: most of the picture.
        if self.pushes.iter().any(|p| p.meets(at.0)) {
            let h = 1.0 / f64::from(self.steps);
            (0..self.steps).for_each(|i| runge_kutta(at, f64::from(i) * h, h, &field));
        }
    }
}

/// A place, and how it changes with the place that it started from.
type Carried = (DVec2, DMat2);

/// One step of the classical method of fourth order (Kutta 1901), with the slope.
fn runge_kutta(at: &mut Carried, t: f64, h: f64, field: &impl Fn(f64, DVec2) -> (DVec2, DMat2)) {
    let (p, j) = *at;
    let stage = |t: f64, p: DVec2, j: DMat2| {
        let (v, slope) = field(t, p);
        (v, slope * j)
    };
    let (v1, j1) = stage(t, p, j);
    let (v2, j2) = stage(t + h * 0.5, p + v1 * (h * 0.5), j + j1 * (h * 0.5));
    let (v3, j3) = stage(t + h * 0.5, p + v2 * (h * 0.5), j + j2 * (h * 0.5));
    let (v4, j4) = stage(t + h, p + v3 * h, j + j3 * h);
    *at = (p + (v1 + v2 * 2.0 + v3 * 2.0 + v4) * (h / 6.0), j + (j1 + j2 * 2.0 + j3 * 2.0 + j4) * (h / 6.0));
}

/// How much is taken along at a share of the radius, and how that falls: 1 inside, over the soft part the quintic that is
/// smooth to its second derivative at both ends (Perlin 2002), so that no edge of a push is seen in a gloss.
pub(super) fn profile(r: f64, softness: f64) -> (f64, f64) {
    let u = ((r - (1.0 - softness)) / softness).clamp(0.0, 1.0);
    let rest = 1.0 - u;
    (1.0 - u * u * u * (10.0 + u * (6.0 * u - 15.0)), -30.0 * u * u * rest * rest / softness)
}

impl Push {
    /// Whether a place lies in the ellipse at some time.
    fn meets(&self, p: DVec2) -> bool {
        let radius = self.size.max_element() * self.scale.max(1.0);
        let (way, off) = (self.to - self.from, p - self.from);
        let along = (off.dot(way) / way.length_squared().max(1e-12)).clamp(0.0, 1.0);
        (off - way * along).length_squared() < radius * radius
    }

    /// Its speed at a place at a time, with its slope; `None` outside.
    fn field(&self, t: f64, p: DVec2) -> Option<(DVec2, DMat2)> {
        let grown = self.scale.ln();
        let (off, size) = (p - self.from.lerp(self.to, t), self.size * (grown * t).exp());
        if off.length_squared() >= size.max_element().powi(2) {
            return None;
        }
        // Down is positive: against the clock as seen is the other way round.
        let (sin, cos) = (-(self.lies + self.turn * t)).sin_cos();
        let to_own = DMat2::from_diagonal(1.0 / size) * DMat2::from_cols_array(&[cos, -sin, sin, cos]);
        let own = to_own * off;
        let r = own.length();
        if r >= 1.0 {
            return None;
        }
        let (w, falls) = profile(r, self.softness);
        let spin = DMat2::from_cols_array(&[grown, -self.turn, self.turn, grown]);
        let speed = (self.to - self.from) + spin * off;
        let gradient = if falls == 0.0 { DVec2::ZERO } else { to_own.transpose() * own * (falls / r) };
        let slope = DMat2::from_cols(speed * gradient.x, speed * gradient.y) + spin * w;
        Some((speed * w, slope))
    }
}

impl Smear {
    /// Carries a place along, or back.
    fn follow(&self, at: &mut Carried, back: bool) {
        let count = self.path.len().saturating_sub(1);
        for i in 0..count {
            let i = if back { count - 1 - i } else { i };
            let (a, b) = (self.path[i], self.path[i + 1]);
            self.follow_part(at, if back { (b, a) } else { (a, b) });
        }
    }

    fn follow_part(&self, at: &mut Carried, (a, b): (DVec2, DVec2)) {
        let (way, off) = (b - a, at.0 - a);
        let along = (off.dot(way) / way.length_squared().max(1e-12)).clamp(0.0, 1.0);
        if (off - way * along).length_squared() >= self.radius * self.radius || way == DVec2::ZERO {
            return;
        }
        let speed = way * self.strength;
        let field = |t: f64, p: DVec2| {
            let off = (p - a.lerp(b, t)) / self.radius;
            let r = off.length();
            if r >= 1.0 {
                return (DVec2::ZERO, DMat2::ZERO);
            }
            let (w, falls) = profile(r, self.softness);
            let gradient = if falls == 0.0 { DVec2::ZERO } else { off * (falls / (r * self.radius)) };
            (speed * w, DMat2::from_cols(speed * gradient.x, speed * gradient.y))
        };
        let steps = (10.0 * way.length() / (self.radius * self.softness)).ceil().clamp(1.0, 128.0) as u32;
        let h = 1.0 / f64::from(steps);
        (0..steps).for_each(|i| runge_kutta(at, f64::from(i) * h, h, &field));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn push() -> Push {
        Push {
            from: DVec2::new(100.0, 80.0),
            to: DVec2::new(160.0, 60.0),
            size: DVec2::new(50.0, 30.0),
            lies: 0.3,
            turn: 0.5,
            scale: 1.4,
            softness: 0.8,
        }
    }

    fn smear() -> Smear {
        let path = vec![DVec2::new(20.0, 40.0), DVec2::new(60.0, 50.0), DVec2::new(90.0, 30.0)];
        Smear { path, radius: 25.0, softness: 1.0, strength: 0.7 }
    }

    #[test]
    fn the_middle_goes_where_it_is_dragged_and_the_rest_stays() {
        let warp = Warp::new(vec![push()], vec![]);
        assert!((warp.ahead(push().from).0 - push().to).length() < 1e-6);
        assert!((warp.back(push().to).0 - push().from).length() < 1e-6);
        let far = DVec2::new(300.0, 300.0);
        assert_eq!(warp.back(far), (far, DMat2::IDENTITY));
        // What lies inside of the soft part is turned and grown as it says, about the middle: against the clock.
        let hard = Warp::new(vec![Push { softness: 0.5, ..push() }], vec![]);
        let (near, slope) = hard.ahead(push().from + DVec2::new(4.0, 0.0));
        let turned = DVec2::new(0.5f64.cos(), -(0.5f64.sin())) * 4.0 * 1.4;
        assert!((near - push().to - turned).length() < 1e-3, "{near}");
        assert!((slope.determinant() - 1.96).abs() < 1e-3);
        assert!(Warp::new(vec![Push { to: push().from, turn: 0.0, scale: 1.0, ..push() }], vec![]).is_none());
    }

    #[test]
    fn a_stream_run_backwards_undoes_it_and_never_folds() {
        let other = Push { from: DVec2::new(150.0, 90.0), to: DVec2::new(70.0, 40.0), turn: -1.0, ..push() };
        let warp = Warp::new(vec![push(), other], vec![smear(), Smear { radius: 8.0, ..smear() }]);
        for i in 0..4000 {
            let place = DVec2::new(f64::from(i % 80) * 3.0, f64::from(i / 80) * 3.0);
            let (at, slope) = warp.back(place);
            assert!(slope.determinant() > 0.0, "{place}: folds");
            let (there, inverse) = warp.ahead(at);
            assert!((there - place).length() < 0.005, "{place}: {there}");
            // Where a hard brush stretches much, both are large.
            let size = |m: DMat2| m.to_cols_array().into_iter().fold(1.0f64, |a, v| a.max(v.abs()));
            let off = (slope * inverse - DMat2::IDENTITY).to_cols_array();
            let same = off.into_iter().fold(0.0f64, |a, v| a.max(v.abs()));
            assert!(same < 0.002 * size(slope) * size(inverse), "{place} {same:?}");
        }
    }

    #[test]
    fn slopes_are_those_of_small_steps() {
        let warp = Warp::new(vec![push()], vec![smear()]);
        for i in 0..200 {
            let place = DVec2::new(f64::from(i % 20) * 12.0, f64::from(i / 20) * 12.0);
            let (_, slope) = warp.back(place);
            for (column, step) in [(slope.x_axis, DVec2::X), (slope.y_axis, DVec2::Y)] {
                let h = 1e-4;
                let told = (warp.back(place + step * h).0 - warp.back(place - step * h).0) / (2.0 * h);
                assert!((column - told).length() < 1e-3, "{place} {column} {told}");
            }
        }
    }

    #[test]
    fn a_full_smear_takes_along_what_lies_under_its_middle() {
        let warp = Warp::new(vec![], vec![Smear { strength: 1.0, ..smear() }]);
        assert!((warp.ahead(smear().path[0]).0 - smear().path[2]).length() < 1e-6);
    }
}
