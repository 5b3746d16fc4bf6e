//! How a pass was stored, and the way to canonical form.

use crate::colour::primaries::Primaries;
use crate::colour::{ColourSpace, srgb_decode, srgb_encode};
use crate::geometry::camera::Camera;
use crate::raster::bands::{Cancel, Cancelled, for_each_band};
use crate::{Raster, Role, Window};
use glam::{Vec2, Vec3};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Derives what every small choice of a convention has.
macro_rules! choice {
    ($(#[$doc:meta])* $name:ident { $($(#[$vdoc:meta])* $variant:ident = $label:literal,)+ }) => {
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
        #[serde(rename_all = "snake_case")]
        pub enum $name { $($(#[$vdoc])* $variant,)+ }

        impl $name {
            /// Every choice with its words.
            pub const ALL: &[(Self, &str)] = &[$((Self::$variant, $label),)+];

            /// In words.
            pub const fn label(self) -> &'static str {
                match self { $(Self::$variant => $label,)+ }
            }
        }
    };
}

choice! {
    /// Whether colour was multiplied by coverage.
    AlphaState {
        /// Premultiplied, as OpenEXR asks.
        #[default] Premultiplied = "premultiplied",
        /// Straight.
        Straight = "straight",
    }
}

choice! {
    /// How directions were stored.
    NormalCoding {
        /// −1..1.
        #[default] Signed = "−1..1",
        /// 0..1, so that `n = 2v − 1`.
        ZeroToOne = "0..1",
    }
}

choice! {
    /// The axes that directions and places are given in.
    Space {
        /// The camera's.
        #[default] Camera = "camera",
        /// The world's; needs a camera with its place to be turned into camera space.
        World = "world",
    }
}

choice! {
    /// What a depth measures.
    DepthMeasure {
        /// Along the view axis.
        #[default] Planar = "along the axis",
        /// Along the ray; needs a camera to be turned into planar.
        AlongRay = "along the ray",
    }
}

choice! {
    /// How a depth was stored.
    DepthCoding {
        /// Distance, larger is farther.
        #[default] Units = "distance",
        /// 1 at `near`, 0 at `far`.
        NearWhite = "0..1, near white",
        /// 0 at `near`, 1 at `far`.
        NearBlack = "0..1, near black",
        /// 1 ÷ distance.
        Inverse = "1 ÷ distance",
        /// 1 ÷ distance, 1 at `near` and 0 at `far`, as graphics hardware keeps it.
        NormalisedInverse = "0..1 of 1 ÷ distance",
        /// The same the other way round, 0 at `near` and 1 at `far`.
        ZBuffer = "0..1 of 1 ÷ distance, near black",
        /// The logarithm of the distance, 0 at `near` and 1 at `far`.
        Logarithmic = "0..1 of the logarithm, near black",
    }
}

choice! {
    /// A curve that was wrongly put on data, and is taken off.
    Curve {
        /// None: data as it should be.
        #[default] None = "none",
        /// The sRGB curve was applied; decoding undoes it.
        SrgbApplied = "sRGB applied",
        /// The sRGB curve was taken off data that never had it; encoding undoes it.
        SrgbRemoved = "sRGB taken off",
    }
}

choice! {
    /// Where v = 0 lies.
    UvOrigin {
        /// At the bottom.
        #[default] Bottom = "bottom left",
        /// At the top.
        Top = "top left",
    }
}

choice! {
    /// What becomes of coordinates outside 0..1.
    Wrap {
        /// They stay (tiles of a larger layout).
        #[default] Keep = "keep",
        /// Their fraction.
        Repeat = "repeat",
        /// Held at the edge.
        Clamp = "hold",
    }
}

choice! {
    /// The unit of motion.
    MotionUnit {
        /// Pixels.
        #[default] Px = "px",
        /// Fractions of the frame's width on both axes.
        Width = "of the width",
        /// Fractions of width and height.
        Size = "of width and height",
    }
}

choice! {
    /// Which way the second axis of motion runs.
    MotionY {
        /// Down, as rows do.
        #[default] Down = "down",
        /// Up.
        Up = "up",
    }
}

choice! {
    /// What motion leads to.
    MotionTime {
        /// From this frame to the next.
        #[default] Forward = "to the next frame",
        /// From this frame to the one before; taken to be as fast as the way to the next.
        Backward = "to the frame before",
    }
}

choice! {
    /// What a coordinate map holds.
    MapHolds {
        /// Places, 0..1 over the frame (an ST map).
        #[default] Places = "places 0..1",
        /// How far away the place is, px.
        OffsetPx = "offsets, px",
        /// The same, as a fraction of the frame's width on both axes.
        OffsetWidth = "offsets, of the width",
        /// The same, as fractions of width and height.
        OffsetSize = "offsets, of width and height",
    }
}

/// A stored channel with a sign.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
pub enum Axis {
    /// First channel.
    #[serde(rename = "x")]
    X,
    /// First channel, negative.
    #[serde(rename = "-x")]
    MinusX,
    /// Second channel.
    #[serde(rename = "y")]
    Y,
    /// Second channel, negative.
    #[serde(rename = "-y")]
    MinusY,
    /// Third channel.
    #[serde(rename = "z")]
    Z,
    /// Third channel, negative.
    #[serde(rename = "-z")]
    MinusZ,
}

impl Axis {
    /// From channel and sign.
    pub const fn new(channel: usize, negative: bool) -> Self {
        match (channel, negative) {
            (0, false) => Self::X,
            (0, true) => Self::MinusX,
            (1, false) => Self::Y,
            (1, true) => Self::MinusY,
            (_, false) => Self::Z,
            (_, true) => Self::MinusZ,
        }
    }

    /// Stored channel and sign.
    pub const fn parts(self) -> (usize, f32) {
        match self {
            Self::X => (0, 1.0),
            Self::MinusX => (0, -1.0),
            Self::Y => (1, 1.0),
            Self::MinusY => (1, -1.0),
            Self::Z => (2, 1.0),
            Self::MinusZ => (2, -1.0),
        }
    }

    /// In words: "x", "−y".
    pub const fn label(self) -> &'static str {
        match self {
            Self::X => "x",
            Self::MinusX => "−x",
            Self::Y => "y",
            Self::MinusY => "−y",
            Self::Z => "z",
            Self::MinusZ => "−z",
        }
    }
}

/// Which stored channel is right, up, and toward the viewer.
pub type Axes = [Axis; 3];

/// Channels in their own order.
pub const OWN_AXES: Axes = [Axis::X, Axis::Y, Axis::Z];

/// The convention of a pass. Fields that do not concern its role are ignored.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(default, deny_unknown_fields)]
pub struct Convention {
    /// Colour: encoding and primaries.
    pub colour: ColourSpace,
    /// Colour: primaries that the file names, in the place of those of `colour`.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub primaries: Option<Primaries>,
    /// Colour: the power that decodes it, in the place of the curve of `colour`.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub gamma: Option<f32>,
    /// Beauty: alpha.
    pub alpha: AlphaState,
    /// Data: a curve to take off.
    pub curve: Curve,
    /// Normals: coding.
    pub normal: NormalCoding,
    /// Normals and position: space.
    pub space: Space,
    /// Normals and position: which stored channel is right, up, and toward the viewer.
    #[ts(as = "Vec<Axis>")]
    pub axes: Axes,
    /// Depth: what it measures.
    pub depth: DepthMeasure,
    /// Depth: how it is stored.
    pub depth_coding: DepthCoding,
    /// Depth of 0..1: where the range begins, scene units.
    pub near: f32,
    /// Depth of 0..1: where the range ends, scene units.
    pub far: f32,
    /// Depth and position: scene units for a stored unit.
    pub unit: f32,
    /// Depth and position: the stored value that means "nothing here".
    pub background: Option<f32>,
    /// UV and ST map: where v = 0 lies; from the bottom, offsets run up.
    pub uv_origin: UvOrigin,
    /// Coordinate map: what it holds.
    pub map_holds: MapHolds,
    /// UV: what becomes of coordinates outside 0..1.
    pub uv_wrap: Wrap,
    /// Motion: unit.
    pub motion_unit: MotionUnit,
    /// Motion: coding; 0..1 means ½ for no motion.
    pub motion_coding: NormalCoding,
    /// Motion: factors on both axes.
    pub motion_scale: [f32; 2],
    /// Motion: which way the second axis runs.
    pub motion_y: MotionY,
    /// Motion: what it leads to.
    pub motion_time: MotionTime,
}

impl Default for Convention {
    fn default() -> Self {
        Self {
            colour: ColourSpace::default(),
            primaries: None,
            gamma: None,
            alpha: AlphaState::default(),
            curve: Curve::default(),
            normal: NormalCoding::default(),
            space: Space::default(),
            axes: OWN_AXES,
            depth: DepthMeasure::default(),
            depth_coding: DepthCoding::default(),
            near: 0.0,
            far: 1.0,
            unit: 1.0,
            background: None,
            uv_origin: UvOrigin::default(),
            map_holds: MapHolds::default(),
            uv_wrap: Wrap::default(),
            motion_unit: MotionUnit::default(),
            motion_coding: NormalCoding::default(),
            motion_scale: [1.0; 2],
            motion_y: MotionY::default(),
            motion_time: MotionTime::default(),
        }
    }
}

/// What a pass belongs to, as far as conventions need it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Setting {
    /// Camera of the render, if known.
    pub camera: Option<Camera>,
    /// The frame.
    pub display: Window,
}

impl Convention {
    /// Whether colour is linear Rec.709 as it stands.
    pub fn is_linear(&self) -> bool {
        self.colour == ColourSpace::Linear && self.primaries.is_none() && self.gamma.is_none()
    }

    /// Takes the curve off one stored value.
    pub fn uncurved(&self, v: f32) -> f32 {
        match self.curve {
            Curve::None => v,
            Curve::SrgbApplied => srgb_decode(v),
            Curve::SrgbRemoved => srgb_encode(v),
        }
    }

    /// A stored direction with curve and coding taken off, on its own axes, not yet of unit length; zero
    /// for "nothing". A stored zero vector is nothing in either coding: 0..1 cannot hold (−1, −1, −1).
    pub fn decoded_normal(&self, stored: Vec3) -> Vec3 {
        if stored == Vec3::ZERO || !stored.is_finite() {
            return Vec3::ZERO;
        }
        let v = if self.curve == Curve::None {
            stored
        } else {
            stored.to_array().map(|v| self.uncurved(v)).into()
        };
        match self.normal {
            NormalCoding::ZeroToOne => 2.0 * v - 1.0,
            NormalCoding::Signed => v,
        }
    }

    /// Stored axes into right, up, toward the viewer; and from the world into the camera's space.
    /// `place` says whether the vector is a place (which a camera's position moves) or a direction.
    fn oriented(&self, v: Vec3, camera: Option<Camera>, place: bool) -> Vec3 {
        let axes = Vec3::from(self.axes.map(|a| {
            let (channel, sign) = a.parts();
            v[channel] * sign
        }));
        match (self.space, camera) {
            (Space::World, Some(c)) => c.from_world(axes, place),
            _ => axes,
        }
    }

    /// Planar-or-ray distance of one stored depth; `+inf` for nothing.
    ///
    /// near-white `near + (1−v)(far−near)`; near-black `near + v(far−near)`; inverse `1/v`; normalised
    /// inverse `1/Z = 1/far + v(1/near − 1/far)`, or with near and far exchanged; logarithmic
    /// `Z = near·(far/near)^v`.
    pub fn decoded_depth(&self, stored: f32) -> f32 {
        let nothing =
            self.background.is_some_and(|b| stored == b || (b != 0.0 && (stored / b - 1.0).abs() < 1e-6));
        if stored.is_nan() || nothing || stored == f32::INFINITY {
            return f32::INFINITY;
        }
        let v = self.uncurved(stored);
        let z = match self.depth_coding {
            DepthCoding::Units => v * self.unit,
            DepthCoding::NearWhite => self.near + (1.0 - v) * (self.far - self.near),
            DepthCoding::NearBlack => self.near + v * (self.far - self.near),
            DepthCoding::Inverse if v > 0.0 => self.unit / v,
            DepthCoding::NormalisedInverse => between_inverses(self.far, self.near, v),
            DepthCoding::ZBuffer => between_inverses(self.near, self.far, v),
            DepthCoding::Logarithmic => self.near * (self.far / self.near).powf(v),
            DepthCoding::Inverse => f32::INFINITY,
        };
        if z.is_finite() { z } else { f32::INFINITY }
    }
}

/// The distance whose inverse lies at `v` between those of two distances; `+inf` beyond the farthest.
fn between_inverses(at_zero: f32, at_one: f32, v: f32) -> f32 {
    let inverse = 1.0 / at_zero + v * (1.0 / at_one - 1.0 / at_zero);
    if inverse > 0.0 { 1.0 / inverse } else { f32::INFINITY }
}

/// Factor from distance along the ray to planar depth at a picture point: `1/√(1+((x−cx)/f)²+((y−cy)/f)²)`.
pub fn ray_to_planar(camera: &Camera, at: Vec2) -> f32 {
    let d = (at - Vec2::new(camera.centre_x, camera.centre_y)) / camera.focal;
    1.0 / (1.0 + d.length_squared()).sqrt()
}

/// Brings stored planes of a role into canonical form (see the crate documentation): missing alpha is 1,
/// missing and not finite samples have the role's value for "nothing", normals have unit length.
///
/// Too few planes are filled with zero, further ones dropped. What needs a camera stays as it is without.
/// The work is done in parallel, band by band; the result does not depend on how it was split.
///
/// # Errors
/// [`Cancelled`] if nobody waits for the pass any more.
pub fn canonical(
    stored: &Raster,
    role: Role,
    convention: &Convention,
    setting: &Setting,
    cancel: &Cancel,
) -> Result<Raster, Cancelled> {
    let mut out = Raster::zeros(stored.window(), role.channels().unwrap_or(stored.channels()));
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let mut row = band.every_row(y);
            copy_row(stored, role, y, &mut row);
            convert_row(&mut row, (stored.window().x, y), role, convention, setting);
            if role != Role::Depth {
                row.iter_mut().flat_map(|p| p.iter_mut()).filter(|v| !v.is_finite()).for_each(|v| *v = 0.0);
            }
        }
    })?;
    Ok(out)
}

/// One row of every stored plane into the planes that the role has.
fn copy_row(stored: &Raster, role: Role, y: i32, row: &mut [&mut [f32]]) {
    for (c, to) in row.iter_mut().enumerate() {
        // A grey picture is the same in red, green and blue; its second plane is alpha.
        let grey =
            matches!(role, Role::Beauty | Role::Albedo | Role::Diffuse | Role::Clay) && stored.channels() < 3;
        let from = match (grey, c) {
            (true, 3) => 1,
            (true, _) => 0,
            (false, c) => c,
        };
        if from < stored.channels() {
            to.copy_from_slice(stored.row(from, y));
        } else {
            to.fill(if role == Role::Beauty && c == 3 { 1.0 } else { 0.0 });
        }
    }
}

/// One row, whose first pixel is `at`, from its convention into canonical form.
fn convert_row(
    row: &mut [&mut [f32]],
    at: (i32, i32),
    role: Role,
    convention: &Convention,
    setting: &Setting,
) {
    match role {
        Role::Beauty => colour(row, convention),
        Role::Albedo | Role::Diffuse | Role::Clay if !convention.is_linear() => colour(row, convention),
        Role::Normal => vectors(row, |v| {
            let n = convention.oriented(convention.decoded_normal(v), setting.camera, false);
            let length = n.length();
            if length > 0.05 && length.is_finite() { n / length } else { Vec3::ZERO }
        }),
        Role::Position => vectors(row, |v| {
            if v.is_finite() && v != Vec3::ZERO && convention.background != Some(v.x) {
                convention.oriented(v * convention.unit, setting.camera, true)
            } else {
                Vec3::ZERO
            }
        }),
        Role::Depth => depth(row, at, convention, setting.camera),
        Role::StMap if convention.map_holds != MapHolds::Places => {
            offsets(row, at, convention, setting.display);
        }
        Role::Uv | Role::StMap => coordinates(row, convention),
        Role::Motion => motion(row, convention, setting.display),
        _ => {}
    }
}

/// Straight or premultiplied, in any encoding, into premultiplied linear Rec.709. Encodings are defined on
/// straight colour.
fn colour(row: &mut [&mut [f32]], convention: &Convention) {
    let straight = convention.alpha == AlphaState::Straight;
    if !straight && convention.is_linear() {
        return;
    }
    let matrix = convention.primaries.map(|p| p.to_rec709());
    let to_linear = |rgb: [f32; 3]| match (convention.gamma, matrix) {
        (None, None) => convention.colour.to_linear(rgb),
        (gamma, matrix) => {
            let v = match gamma {
                Some(g) => rgb.map(|v| v.abs().powf(g).copysign(v)),
                None => convention.colour.uncurved(rgb),
            };
            matrix.map_or(v, |m| m.map(|row| row[0] * v[0] + row[1] * v[1] + row[2] * v[2]))
        }
    };
    let [r, g, b, rest @ ..] = row else { return };
    let a: &[f32] = rest.first().map_or(&[], |a| a);
    for i in 0..r.len() {
        let alpha = a.get(i).copied().unwrap_or(1.0);
        let rgb = [r[i], g[i], b[i]];
        let own = if straight || alpha <= 0.0 { rgb } else { rgb.map(|v| v / alpha) };
        let weight = if straight {
            alpha
        } else if alpha <= 0.0 {
            1.0
        } else {
            alpha
        };
        [r[i], g[i], b[i]] = to_linear(own).map(|v| v * weight);
    }
}

fn vectors(row: &mut [&mut [f32]], change: impl Fn(Vec3) -> Vec3) {
    let [x, y, z] = row else { return };
    for i in 0..x.len() {
        [x[i], y[i], z[i]] = change(Vec3::new(x[i], y[i], z[i])).to_array();
    }
}

fn depth(row: &mut [&mut [f32]], (left, y): (i32, i32), convention: &Convention, camera: Option<Camera>) {
    let ray = camera.filter(|_| convention.depth == DepthMeasure::AlongRay);
    let [row, ..] = row else { return };
    for (x, z) in (left..).zip(row.iter_mut()) {
        *z = convention.decoded_depth(*z);
        if let Some(camera) = &ray {
            *z *= ray_to_planar(camera, Vec2::new(x as f32 + 0.5, y as f32 + 0.5));
        }
    }
}

fn coordinates(row: &mut [&mut [f32]], convention: &Convention) {
    let wrap = |v: f32| match convention.uv_wrap {
        Wrap::Keep => v,
        Wrap::Repeat => v.rem_euclid(1.0),
        Wrap::Clamp => v.clamp(0.0, 1.0),
    };
    let plain = convention.curve == Curve::None
        && convention.uv_wrap == Wrap::Keep
        && convention.uv_origin == UvOrigin::Bottom;
    let [u, v] = row else { return };
    if plain {
        return;
    }
    for (u, v) in u.iter_mut().zip(v.iter_mut()) {
        if *u == 0.0 && *v == 0.0 {
            continue; // no sample
        }
        *u = wrap(convention.uncurved(*u));
        *v = wrap(convention.uncurved(*v));
        if convention.uv_origin == UvOrigin::Top {
            *v = 1.0 - *v;
        }
    }
}

impl MapHolds {
    /// Px for a stored unit on each axis, where it holds offsets over a frame.
    pub fn px(self, frame: Window) -> Option<[f64; 2]> {
        let (w, h) = (f64::from(frame.width), f64::from(frame.height));
        match self {
            Self::Places => None,
            Self::OffsetPx => Some([1.0, 1.0]),
            Self::OffsetWidth => Some([w, w]),
            Self::OffsetSize => Some([w, h]),
        }
    }
}

/// Offsets from each pixel's own centre into places 0..1 over the frame.
fn offsets(row: &mut [&mut [f32]], (left, y): (i32, i32), convention: &Convention, display: Window) {
    let [u, v] = row else { return };
    let [across, down] = convention.map_holds.px(display).unwrap_or([1.0; 2]);
    let down = if convention.uv_origin == UvOrigin::Top { down } else { -down };
    let own = |at: i32, first: i32| f64::from(at) + 0.5 - f64::from(first);
    for (x, (u, v)) in (left..).zip(u.iter_mut().zip(v.iter_mut())) {
        // Not a number is no sample; it becomes 0, 0 further on.
        let by = (f64::from(convention.uncurved(*u)), f64::from(convention.uncurved(*v)));
        *u = ((own(x, display.x) + by.0 * across) / f64::from(display.width)) as f32;
        *v = (1.0 - (own(y, display.y) + by.1 * down) / f64::from(display.height)) as f32;
    }
}

fn motion(row: &mut [&mut [f32]], convention: &Convention, display: Window) {
    let (w, h) = (display.width as f32, display.height as f32);
    let unit = match convention.motion_unit {
        MotionUnit::Px => [1.0, 1.0],
        MotionUnit::Width => [w, w],
        MotionUnit::Size => [w, h],
    };
    let sign = if convention.motion_time == MotionTime::Backward { -1.0 } else { 1.0 };
    let down = if convention.motion_y == MotionY::Up { -1.0 } else { 1.0 };
    let factors =
        [unit[0] * convention.motion_scale[0] * sign, unit[1] * convention.motion_scale[1] * sign * down];
    for (plane, factor) in row.iter_mut().zip(factors) {
        for v in plane.iter_mut() {
            let own = convention.uncurved(*v);
            let signed =
                if convention.motion_coding == NormalCoding::ZeroToOne { 2.0 * own - 1.0 } else { own };
            *v = signed * factor;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const W: Window = Window::of_size(1, 1);

    fn setting(camera: Option<Camera>) -> Setting {
        Setting { camera, display: Window::of_size(200, 100) }
    }

    fn of(role: Role, v: &[f32], convention: Convention) -> Vec<f32> {
        let stored = Raster::from_planar(W, v.len(), v.to_vec()).unwrap();
        canonical(&stored, role, &convention, &setting(None), &Cancel::new()).unwrap().pixel(0, 0).unwrap()
    }

    #[track_caller]
    fn close(got: Vec<f32>, want: &[f32]) {
        assert!(
            got.iter().zip(want).all(|(a, b)| (a - b).abs() < 1e-5) && got.len() == want.len(),
            "{got:?}"
        );
    }

    #[test]
    fn a_pass_is_converted_alike_in_any_number_of_threads_and_can_be_given_up() {
        let stored = Raster::from_fn(Window::new(-3, 11, 41, 150), 3, |c, x, y| {
            ((x * 13 + y * 7 + c as i32 * 5) % 19) as f32 / 9.0 - 1.0
        });
        let roles =
            [Role::Beauty, Role::Normal, Role::Position, Role::Depth, Role::Uv, Role::Motion, Role::Other];
        let convention =
            Convention { alpha: AlphaState::Straight, motion_y: MotionY::Up, ..Convention::default() };
        let one = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap();
        for role in roles {
            let read = || canonical(&stored, role, &convention, &setting(None), &Cancel::new()).unwrap();
            let whole = read();
            assert_eq!(one.install(read).data(), whole.data(), "{role:?}");
            // A row alone is read like the same row of the whole: a band knows where it lies.
            let window = Window::new(-3, 97, 41, 1);
            let row =
                canonical(&stored.cropped(window, 0.0), role, &convention, &setting(None), &Cancel::new());
            assert_eq!(row.unwrap(), whole.cropped(window, 0.0), "{role:?}");
            let cancel = Cancel::new();
            cancel.cancel();
            assert_eq!(
                canonical(&stored, role, &convention, &setting(None), &cancel),
                Err(Cancelled),
                "{role:?}"
            );
        }
    }

    #[test]
    fn pictures_get_alpha_and_premultiplication() {
        let straight = Convention { alpha: AlphaState::Straight, ..Convention::default() };
        assert_eq!(of(Role::Beauty, &[0.5, 0.2, 0.1], Convention::default()), [0.5, 0.2, 0.1, 1.0]);
        assert_eq!(of(Role::Beauty, &[0.5, 0.2, 1.0, 0.5], straight), [0.25, 0.1, 0.5, 0.5]);
        assert_eq!(of(Role::Beauty, &[0.5], Convention::default()), [0.5, 0.5, 0.5, 1.0]);
        assert_eq!(of(Role::Beauty, &[f32::NAN, 0.5, f32::INFINITY, 1.0], straight), [0.0, 0.5, 0.0, 1.0]);
    }

    #[test]
    fn encodings_are_taken_off_straight_colour() {
        let srgb = Convention { colour: ColourSpace::Srgb, ..Convention::default() };
        let half = srgb_decode(0.5);
        close(of(Role::Beauty, &[0.25, 0.25, 0.25, 0.5], srgb), &[half * 0.5, half * 0.5, half * 0.5, 0.5]);
        let straight = Convention { alpha: AlphaState::Straight, ..srgb };
        close(of(Role::Beauty, &[0.5, 0.5, 0.5, 0.5], straight), &[half * 0.5, half * 0.5, half * 0.5, 0.5]);
        close(of(Role::Albedo, &[0.5, 0.5, 0.5], srgb), &[half; 3]);
        // Data never meets a colour transform.
        assert_eq!(of(Role::Height, &[0.5], srgb), [0.5]);
    }

    #[test]
    fn normals_become_unit_in_every_coding() {
        let coded = Convention { normal: NormalCoding::ZeroToOne, ..Convention::default() };
        assert_eq!(of(Role::Normal, &[0.5, 0.5, 1.0], coded), [0.0, 0.0, 1.0]);
        assert_eq!(of(Role::Normal, &[0.0, 0.0, 0.0], coded), [0.0; 3]);
        assert_eq!(of(Role::Normal, &[0.0, 2.0, 0.0], Convention::default()), [0.0, 1.0, 0.0]);
        assert_eq!(of(Role::Normal, &[f32::NAN, 2.0, 0.0], Convention::default()), [0.0; 3]);
        let curved = Convention { curve: Curve::SrgbApplied, ..coded };
        let n = Vec3::new(0.6, 0.0, 0.8);
        let stored = (0.5 * n + 0.5).to_array().map(srgb_encode);
        close(of(Role::Normal, &stored, curved), &n.to_array());
        let swapped = Convention { axes: [Axis::X, Axis::MinusZ, Axis::Y], ..Convention::default() };
        assert_eq!(of(Role::Normal, &[0.0, 1.0, 0.0], swapped), [0.0, 0.0, 1.0]);
        assert_eq!(of(Role::Normal, &[0.0, 0.0, 1.0], swapped), [0.0, -1.0, 0.0]);
    }

    #[test]
    fn the_world_turns_into_camera_space() {
        // A camera at (1, 2, 3) that looks along the world's −x: its right is −z, its up is y.
        let rows = [0.0, 0.0, -1.0, 3.0, 0.0, 1.0, 0.0, -2.0, 1.0, 0.0, 0.0, -1.0];
        let camera = Camera { focal: 100.0, centre_x: 0.0, centre_y: 0.0, world: Some(rows) };
        let world = Convention { space: Space::World, ..Convention::default() };
        let at = |role, v: [f32; 3]| {
            let stored = Raster::from_planar(W, 3, v.to_vec()).unwrap();
            canonical(&stored, role, &world, &setting(Some(camera)), &Cancel::new())
                .unwrap()
                .pixel(0, 0)
                .unwrap()
        };
        close(at(Role::Position, [-4.0, 2.0, 3.0]), &[0.0, 0.0, -5.0]);
        close(at(Role::Normal, [1.0, 0.0, 0.0]), &[0.0, 0.0, 1.0]);
        close(at(Role::Normal, [0.0, 0.0, 1.0]), &[-1.0, 0.0, 0.0]);
    }

    #[test]
    fn ray_distance_becomes_planar() {
        let w = Window::of_size(8, 6);
        let camera = Camera { focal: 5.0, centre_x: 4.0, centre_y: 3.0, world: None };
        let ray = Raster::from_fn(w, 1, |_, x, y| {
            camera.unproject(Vec2::new(x as f32 + 0.5, y as f32 + 0.5), 7.0).length()
        });
        let along = Convention { depth: DepthMeasure::AlongRay, ..Convention::default() };
        let z = canonical(&ray, Role::Depth, &along, &setting(Some(camera)), &Cancel::new()).unwrap();
        assert!(z.plane(0).iter().all(|z| (z - 7.0).abs() < 1e-5));
        assert_eq!(of(Role::Depth, &[f32::NAN], Convention::default()), [f32::INFINITY]);
    }

    #[test]
    fn depth_comes_back_from_every_coding() {
        let (near, far, z) = (2.0f32, 10.0f32, 4.0f32);
        let base = Convention { near, far, ..Convention::default() };
        for (coding, stored) in [
            (DepthCoding::Units, z),
            (DepthCoding::NearWhite, 1.0 - (z - near) / (far - near)),
            (DepthCoding::NearBlack, (z - near) / (far - near)),
            (DepthCoding::Inverse, 1.0 / z),
            (DepthCoding::NormalisedInverse, (1.0 / z - 1.0 / far) / (1.0 / near - 1.0 / far)),
            (DepthCoding::ZBuffer, (1.0 / near - 1.0 / z) / (1.0 / near - 1.0 / far)),
            (DepthCoding::Logarithmic, (z / near).ln() / (far / near).ln()),
        ] {
            let c = Convention { depth_coding: coding, ..base };
            close(of(Role::Depth, &[stored], c), &[z]);
        }
        let black = Convention { background: Some(0.0), depth_coding: DepthCoding::NearWhite, ..base };
        assert_eq!(of(Role::Depth, &[0.0], black), [f32::INFINITY]);
        let far_value = Convention { background: Some(1e10), ..base };
        assert_eq!(of(Role::Depth, &[1e10], far_value), [f32::INFINITY]);
    }

    #[test]
    fn offset_maps_say_where_places_lie() {
        let setting = Setting { camera: None, display: Window::new(0, 0, 8, 4) };
        let stored = Raster::from_planar(Window::new(2, 1, 1, 1), 2, vec![0.25, -0.5]).unwrap();
        let of = |map_holds, uv_origin| {
            let c = Convention { map_holds, uv_origin, ..Convention::default() };
            let st = canonical(&stored, Role::StMap, &c, &setting, &Cancel::new()).unwrap();
            // In px, right and down.
            [st.plane(0)[0] * 8.0, (1.0 - st.plane(1)[0]) * 4.0]
        };
        assert_eq!(of(MapHolds::OffsetPx, UvOrigin::Top), [2.75, 1.0]);
        assert_eq!(of(MapHolds::OffsetPx, UvOrigin::Bottom), [2.75, 2.0]);
        assert_eq!(of(MapHolds::OffsetWidth, UvOrigin::Top), [4.5, -2.5]);
        assert_eq!(of(MapHolds::OffsetSize, UvOrigin::Top), [4.5, -0.5]);
    }

    #[test]
    fn coordinates_and_motion_follow_their_convention() {
        let top = Convention { uv_origin: UvOrigin::Top, uv_wrap: Wrap::Repeat, ..Convention::default() };
        close(of(Role::Uv, &[1.25, 0.25], top), &[0.25, 0.75]);
        let coded = Convention {
            motion_unit: MotionUnit::Size,
            motion_coding: NormalCoding::ZeroToOne,
            motion_y: MotionY::Up,
            ..Convention::default()
        };
        close(of(Role::Motion, &[0.75, 0.75], coded), &[100.0, -50.0]);
        let back = Convention {
            motion_time: MotionTime::Backward,
            motion_scale: [2.0, 3.0],
            ..Convention::default()
        };
        close(of(Role::Motion, &[1.0, 1.0], back), &[-2.0, -3.0]);
    }
}
