//! Turning any pass into 8-bit pixels for a screen. Display only: nothing here flows into a result.

use crate::colour::lut::Lut;
use crate::colour::{ColourSpace, clipped, exposure_gain, luminance, srgb_code, srgb_encode};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Role, Window};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What lies behind a transparent picture.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Backdrop {
    /// Neutral dark grey, the surround of the panes.
    #[default]
    Grey,
    /// Black.
    Black,
    /// White.
    White,
    /// Two greys in squares of 16 full-resolution px.
    Checker,
    /// A gradient of strong colours against which bad edges stand out.
    Loud,
}

/// Which planes of a picture are shown.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Planes {
    /// All of them, in colour.
    #[default]
    All,
    /// The first: red, x, u.
    First,
    /// The second: green, y, v.
    Second,
    /// The third: blue, z.
    Third,
    /// The fourth: alpha.
    Fourth,
    /// Luminance of colour (ITU-R BT.709-6).
    Luminance,
}

/// How linear light becomes codes of a screen.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Transform {
    /// The sRGB curve, clipped at 1.
    #[default]
    Srgb,
    /// For a display of ITU-R BT.1886: power 1/2.4, clipped at 1.
    Rec709,
    /// Highlights rolled off before the sRGB curve, hue kept ([`rolled_off`]).
    Neutral,
    /// Values as codes: no curve at all.
    Raw,
}

/// Special displays; a role that has none of the kind shows itself as usual.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Showing {
    /// The usual one of the role.
    #[default]
    Usual,
    /// Depth in bands.
    Bands,
    /// Depth in false colour.
    FalseColour,
    /// Normals as clay lit from the upper left.
    Lit,
    /// UV as a checker.
    Checker,
    /// Motion as a wheel of hues.
    Wheel,
    /// Motion as arrows; ST map as arrows from each place to where it comes from.
    Arrows,
    /// ST map as a displaced grid.
    Grid,
    /// ST map by how it stretches: light where it magnifies, dark where it squeezes, marked where it folds.
    Stretch,
}

/// How to show a pass.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(default, deny_unknown_fields)]
pub struct View {
    /// Stops, for colour.
    pub exposure: f32,
    /// Behind transparent pixels.
    pub backdrop: Backdrop,
    /// The depths shown as white and as black; by default the pass's own range without its background.
    pub range: Option<[f32; 2]>,
    /// Power on what is shown, 1 = none; above 1 lifts the darks.
    pub gamma: f32,
    /// Which planes.
    pub planes: Planes,
    /// The view transform of colour.
    pub transform: Transform,
    /// A special display.
    pub showing: Showing,
}

impl Default for View {
    fn default() -> Self {
        Self {
            exposure: 0.0,
            backdrop: Backdrop::default(),
            range: None,
            gamma: 1.0,
            planes: Planes::default(),
            transform: Transform::default(),
            showing: Showing::default(),
        }
    }
}

/// A colour table that takes the place of the view transform.
#[derive(Clone, Copy, Debug)]
pub struct Graded<'l> {
    /// The table; what it gives is shown as codes.
    pub lut: &'l Lut,
    /// How colour has to be encoded before the table reads it.
    pub reads: ColourSpace,
}

/// A view on a screen.
#[derive(Clone, Copy, Debug)]
pub struct Screen<'l> {
    /// How to show it.
    pub view: View,
    /// Full-resolution px per px, for patterns that keep their size.
    pub full_px: i32,
    /// What 0..1 of a coordinate map spans, full-resolution px.
    pub frame: Window,
    /// A colour table.
    pub graded: Option<Graded<'l>>,
}

impl Screen<'_> {
    /// A view at full size without a table.
    pub const fn plain(view: View) -> Self {
        Self { view, full_px: 1, frame: Window::of_size(1, 1), graded: None }
    }
}

/// Where the roll-off of [`rolled_off`] begins: a little above a white wall in full light.
const KNEE: f32 = 0.8;

/// Bright light brought below 1 with its hue kept (our own curve): up to 0.8 nothing changes; above, the
/// largest of the three, m, approaches 1 as `0.8 + 0.2·t/(t + 0.2)` with `t = m − 0.8`, smoothly in value and slope, the
/// others keep their ratio to it, and very bright light turns white as `m` grows (half-way at 8 times white),
/// as it does on film and in the eye.
pub fn rolled_off(rgb: [f32; 3]) -> [f32; 3] {
    let most = rgb.iter().copied().fold(0.0, f32::max);
    if most <= KNEE || !most.is_finite() {
        return rgb;
    }
    let room = 1.0 - KNEE;
    let over = most - KNEE;
    let held = KNEE + room * over / (over + room);
    let white = (most - KNEE) / (most - KNEE + 7.2);
    rgb.map(|v| {
        let own = v / most * held;
        own + (held - own) * white
    })
}

/// Interleaved 8-bit RGB rows of a view of `raster` (canonical planes of `role`), top row first.
///
/// Colour: exposure, sRGB. Depth: grey, near white, background black. Normals: `(n + 1) / 2`. Position:
/// fraction of each unit. UV: u and v as red and green. Motion: centred on grey, 16 px full. IDs: distinct
/// patches. Everything of one plane: grey.
///
/// # Errors
/// Cancellation.
pub fn render(
    raster: &Raster,
    role: Role,
    screen: Screen<'_>,
    cancel: &Cancel,
) -> Result<Vec<u8>, KernelError> {
    let Screen { view, full_px, .. } = screen;
    // Codes are gathered as planes by the one parallel helper, then woven into pixels.
    let mut codes = Raster::zeros(raster.window(), 3);
    let range = view.range.unwrap_or_else(|| if role == Role::Depth { range_of(raster) } else { [0.0, 1.0] });
    let arrows = view.showing == Showing::Arrows && raster.channels() >= 2;
    let stretch = role == Role::StMap && view.showing == Showing::Stretch && raster.channels() >= 2;
    for_each_band(&mut codes, cancel, |band| {
        for y in band.window().rows() {
            let rows: Vec<&[f32]> = (0..raster.channels()).map(|c| raster.row(c, y)).collect();
            let out: [&mut [f32]; 3] = band.rows(y);
            let place = Place { x: raster.window().x, y, full_px };
            paint_row(role, screen, range, &rows, place, out);
        }
    })?;
    match role {
        Role::Motion if arrows => draw_arrows(&mut codes, full_px, |x, y| vector(raster, x, y)),
        Role::StMap if arrows => {
            codes.planes_mut().into_iter().flatten().for_each(|v| *v = 40.0);
            let from = |x, y| away(raster, screen, x, y);
            draw_arrows(&mut codes, full_px, from);
        }
        _ if stretch => draw_stretch(&mut codes, raster, screen, cancel)?,
        _ => {}
    }
    let [r, g, b] = [codes.plane(0), codes.plane(1), codes.plane(2)];
    let mut pixels = vec![0; raster.window().area() * 3];
    for (i, px) in pixels.chunks_exact_mut(3).enumerate() {
        px.copy_from_slice(&[r[i] as u8, g[i] as u8, b[i] as u8]);
    }
    Ok(pixels)
}

/// Least distance between arrows, px of the shown picture.
const ARROWS: i32 = 20;

/// How many times that far apart arrows may be, and how many times as far as they are apart the longest reaches.
const SPARSEST: i32 = 8;
const REACH: f32 = 1.5;

/// Length of an arrow's head, px, and the cosine and sine of how far its sides are turned.
const HEAD: (f32, f32, f32) = (5.0, 0.9, 0.436);

/// Draws vectors as arrows, each with a dark dot where it begins. Where they are long fewer are drawn, so that they stay apart. They
/// stand on one grid however the picture is cut. Vectors are in full-resolution px.
fn draw_arrows(codes: &mut Raster, full_px: i32, vector: impl Fn(i32, i32) -> [f32; 2]) {
    let w = codes.window();
    let mut dot = |x: f32, y: f32, v: f32| {
        let (x, y) = (x.floor() as i32, y.floor() as i32);
        if w.contains(x, y) {
            (0..3).for_each(|c| codes.row_mut(c, y)[(x - w.x) as usize] = v);
        }
    };
    let mut line = |[x, y]: [f32; 2], [dx, dy]: [f32; 2], v: f32| {
        let steps = dx.hypot(dy).ceil() as i32;
        for s in 1..=steps {
            let t = s as f32 / steps as f32;
            dot(x + dx * t, y + dy * t, v);
        }
        if steps == 0 {
            dot(x, y, v);
        }
    };
    let begins = |from: i32| from.div_euclid(ARROWS);
    for j in begins(w.y)..=begins(w.bottom() as i32) {
        for i in begins(w.x)..=begins(w.right() as i32) {
            let (x, y) = (i * ARROWS + ARROWS / 2, j * ARROWS + ARROWS / 2);
            if !w.contains(x, y) {
                continue;
            }
            let v = vector(x, y).map(|v| if v.is_finite() { v / full_px as f32 } else { 0.0 });
            let length = v[0].hypot(v[1]);
            // The finest grid on which it leaves its neighbours room.
            let mut apart = 1;
            while apart < SPARSEST && length > REACH * (apart * ARROWS) as f32 {
                apart *= 2;
            }
            if i.rem_euclid(apart) != 0 || j.rem_euclid(apart) != 0 {
                continue;
            }
            let seen = length.min(2.0 * REACH * (apart * ARROWS) as f32);
            let start = [x as f32 + 0.5, y as f32 + 0.5];
            if seen >= 1.0 {
                let way = v.map(|v| v / length);
                line(start, way.map(|v| v * seen), 255.0);
                let end = [0, 1].map(|c| start[c] + way[c] * seen);
                let (long, cos, sin) = (HEAD.0.min(seen * 0.5), HEAD.1, HEAD.2);
                for side in [sin, -sin] {
                    let back = [way[0] * cos - way[1] * side, way[0] * side + way[1] * cos];
                    line(end, back.map(|v| -v * long), 255.0);
                }
            }
            line(start, [0.0; 2], if seen >= 1.0 { 0.0 } else { 160.0 });
        }
    }
}

/// The vector of a pixel, full-resolution px.
fn vector(motion: &Raster, x: i32, y: i32) -> [f32; 2] {
    [0, 1].map(|c| motion.sample(c, x, y).unwrap_or(0.0))
}

/// Where a pixel of an ST map comes from, full-resolution px; `None` where nothing does.
fn source(map: &Raster, screen: Screen<'_>, x: i32, y: i32) -> Option<[f32; 2]> {
    let (s, t) = (map.sample(0, x, y)?, map.sample(1, x, y)?);
    let is = s.is_finite() && t.is_finite() && (s, t) != (0.0, 0.0);
    let f = screen.frame;
    is.then_some([f.x as f32 + s * f.width as f32, f.y as f32 + (1.0 - t) * f.height as f32])
}

/// From a pixel to where it comes from, full-resolution px.
fn away(map: &Raster, screen: Screen<'_>, x: i32, y: i32) -> [f32; 2] {
    let own = [x, y].map(|v| (v as f32 + 0.5) * screen.full_px as f32);
    source(map, screen, x, y).map_or([0.0; 2], |from| [from[0] - own[0], from[1] - own[1]])
}

/// Shows how much of the source each pixel of an ST map takes in (the determinant of its slope): a grey in the middle where it
/// is as large as before, an octave of area lighter or darker by a quarter; copper where the map folds over.
fn draw_stretch(
    codes: &mut Raster,
    map: &Raster,
    screen: Screen<'_>,
    cancel: &Cancel,
) -> Result<(), KernelError> {
    let step = screen.full_px as f32;
    Ok(for_each_band(codes, cancel, |band| {
        for y in band.window().rows() {
            let left = band.window().x;
            let [r, g, b] = band.rows::<3>(y);
            for (x, ((r, g), b)) in (left..).zip(r.iter_mut().zip(g).zip(b)) {
                let at = |dx: i32, dy: i32| source(map, screen, x + dx, y + dy);
                // On each side as far as there is something.
                let slope = |dx: i32, dy: i32| {
                    let (a, b) = (at(-dx, -dy).map(|v| (v, 1.0)), at(dx, dy).map(|v| (v, 1.0)));
                    let here = at(0, 0)?;
                    let ((a, i), (b, j)) = (a.unwrap_or((here, 0.0)), b.unwrap_or((here, 0.0)));
                    (i + j > 0.0).then(|| [0, 1].map(|c| (b[c] - a[c]) / ((i + j) * step)))
                };
                let (Some(across), Some(down)) = (slope(1, 0), slope(0, 1)) else {
                    (*r, *g, *b) = (0.0, 0.0, 0.0);
                    continue;
                };
                let area = across[0] * down[1] - across[1] * down[0];
                let code = 128.0 - 64.0 * area.max(1e-6).log2();
                [*r, *g, *b] = if area <= 0.0 { COPPER } else { [code.clamp(8.0, 248.0); 3] };
            }
        }
    })?)
}

/// Copper, in sRGB codes: the interface's colour for warnings.
const COPPER: [f32; 3] = [214.0, 122.0, 74.0];

/// Signed circles of confusion as a picture (RGBA, linear): black where it is sharp, brighter with the radius (a
/// circle of 40 px is full), copper in front of the focus, verdigris behind; the alpha of `like`.
///
/// # Errors
/// Cancellation.
pub fn circles(radii: &Raster, like: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    const NEAR: [f32; 3] = [0.9, 0.32, 0.1];
    const FAR: [f32; 3] = [0.1, 0.62, 0.45];
    let mut out = Raster::zeros(radii.window(), 4);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let (alpha, radius) = (like.row(3, y), radii.row(0, y));
            let [r, g, b, a] = band.rows(y);
            for i in 0..radius.len() {
                let strength = clipped(radius[i].abs() / 20.0).powf(1.5) * alpha[i];
                let tint = if radius[i] < 0.0 { NEAR } else { FAR };
                [r[i], g[i], b[i]] = tint.map(|t| t * strength);
                a[i] = alpha[i];
            }
        }
    })?;
    Ok(out)
}

/// Tints 8-bit RGB pixels where `place` (one plane, a pixel for a pixel) is above 0, and dims the rest, so
/// that single pixels are seen.
pub fn mark(pixels: &mut [u8], place: &Raster) {
    if place.channels() == 0 {
        return;
    }
    for (px, m) in pixels.chunks_exact_mut(3).zip(place.plane(0)) {
        let m = clipped(*m).sqrt();
        for (v, c) in px.iter_mut().zip(COPPER) {
            let own = f32::from(*v);
            *v = (own * 0.45 * (1.0 - m) + (0.15 * own + 0.85 * c) * m) as u8;
        }
    }
}

/// Verdigris, as codes: the interface's accent.
const VERDIGRIS: [f32; 3] = [72.0, 184.0, 160.0];

/// Lays a tint over 8-bit RGB pixels where a matte (one plane, a pixel for a pixel) is above 0; what lies under it can
/// still be judged.
pub fn tint(pixels: &mut [u8], matte: &Raster) {
    if matte.channels() == 0 {
        return;
    }
    for (px, m) in pixels.chunks_exact_mut(3).zip(matte.plane(0)) {
        let k = 0.55 * clipped(*m);
        for (v, c) in px.iter_mut().zip(VERDIGRIS) {
            *v = (f32::from(*v) + (c - f32::from(*v)) * k + 0.5) as u8;
        }
    }
}

#[derive(Clone, Copy)]
struct Place {
    x: i32,
    y: i32,
    full_px: i32,
}

fn paint_row(
    role: Role,
    screen: Screen<'_>,
    range: [f32; 2],
    rows: &[&[f32]],
    place: Place,
    mut out: [&mut [f32]; 3],
) {
    let view = screen.view;
    let at = |c: usize, i: usize| rows.get(c).map_or(0.0, |row| row[i]);
    let mut put = |i: usize, rgb: [u8; 3]| (0..3).for_each(|c| out[c][i] = f32::from(rgb[c]));
    let count = rows.first().map_or(0, |row| row.len());
    let lift = 1.0 / view.gamma;
    let linear = |v: f32| {
        let v = clipped(v);
        ((if lift == 1.0 { v } else { v.powf(lift) }) * 255.0 + 0.5) as u8
    };
    let colour = Colour::new(screen);
    let [white, black] = range;
    let depth_scale = 1.0 / (black - white);
    for i in 0..count {
        let one = match view.planes {
            Planes::First => Some(0),
            Planes::Second => Some(1),
            Planes::Third => Some(2),
            Planes::Fourth => Some(3),
            _ => None,
        };
        put(
            i,
            match (role, view.showing) {
                (Role::Beauty | Role::Albedo | Role::Diffuse | Role::Clay | Role::Other, _)
                    if rows.len() >= 3 =>
                {
                    match one {
                        // Alpha is coverage, not light.
                        Some(3) => [linear(if rows.len() > 3 { at(3, i) } else { 1.0 }); 3],
                        Some(c) => colour.codes([at(c, i); 3], [0.0; 3]),
                        None => {
                            let alpha = if rows.len() > 3 { at(3, i) } else { 1.0 };
                            let behind =
                                if alpha < 1.0 { backdrop(view.backdrop, place, i) } else { [0.0; 3] };
                            let own = [at(0, i), at(1, i), at(2, i)];
                            let own =
                                if view.planes == Planes::Luminance { [luminance(own); 3] } else { own };
                            colour.codes(own, behind.map(|b| b * (1.0 - alpha)))
                        }
                    }
                }
                (Role::Depth, showing) => {
                    let z = at(0, i);
                    let v = 1.0 - (z - white) * depth_scale;
                    match showing {
                        _ if !z.is_finite() => [0; 3],
                        Showing::Bands => [linear(0.2 + 0.75 * (v * 12.0).rem_euclid(1.0)); 3],
                        Showing::FalseColour => hue((1.0 - clipped(v)) * 4.0, 0.9).map(linear),
                        _ => [linear(0.06 + 0.94 * v.max(0.0)); 3],
                    }
                }
                (Role::Normal, showing) => {
                    let n = [at(0, i), at(1, i), at(2, i)];
                    let empty = n.iter().all(|v| *v == 0.0);
                    match (showing, one) {
                        _ if empty => [0; 3],
                        (_, Some(c)) => [linear((n[c.min(2)] + 1.0) * 0.5); 3],
                        (Showing::Lit, _) => [linear(lit(n)); 3],
                        _ => n.map(|v| linear((v + 1.0) * 0.5)),
                    }
                }
                (Role::Position | Role::Rest, _) => match one {
                    Some(c) => [linear(at(c, i) - at(c, i).floor()); 3],
                    None => [0, 1, 2].map(|c| linear(at(c, i) - at(c, i).floor())),
                },
                (Role::Uv, Showing::Checker) => {
                    let (u, v) = (at(0, i), at(1, i));
                    let odd = ((u * 16.0).floor() + (v * 16.0).floor()).rem_euclid(2.0);
                    let own = if odd == 0.0 { 0.25 } else { 0.75 };
                    if u == 0.0 && v == 0.0 {
                        [0; 3]
                    } else {
                        [own, own * (0.6 + 0.4 * v), own * (0.6 + 0.4 * u)].map(linear)
                    }
                }
                (Role::StMap, Showing::Grid) => {
                    let near = |v: f32| ((v * 16.0).fract() - 0.5).abs() > 0.46;
                    [linear(if near(at(0, i)) || near(at(1, i)) { 0.9 } else { 0.15 }); 3]
                }
                (Role::Uv | Role::StMap, _) => match one {
                    Some(c) => [linear(at(c.min(1), i)); 3],
                    None => [linear(at(0, i)), linear(at(1, i)), 0],
                },
                (Role::Motion, showing) => {
                    let (x, y) = (at(0, i), at(1, i));
                    match (showing, one) {
                        (_, Some(c)) => [linear(0.5 + at(c.min(1), i) / 32.0); 3],
                        // Hue is the direction, strength the length; 16 px are full.
                        (Showing::Wheel, _) => {
                            let strength = clipped(x.hypot(y) / 16.0);
                            hue(y.atan2(x) / std::f32::consts::TAU * 6.0, strength).map(linear)
                        }
                        _ => [linear(0.5 + x / 32.0), linear(0.5 + y / 32.0), 128],
                    }
                }
                (Role::ObjectId, _) => patch(at(0, i)),
                (Role::HashedId, _) => patch((at(0, i).to_bits() >> 8) as f32),
                _ => [linear(at(one.unwrap_or(0).min(rows.len().saturating_sub(1)), i)); 3],
            },
        );
    }
}

/// Linear colour to codes, everything that does not change from pixel to pixel worked out before.
struct Colour<'l> {
    gain: f32,
    lift: f32,
    transform: Transform,
    graded: Option<Graded<'l>>,
}

impl<'l> Colour<'l> {
    fn new(Screen { view, graded, .. }: Screen<'l>) -> Self {
        let (gain, lift) = (exposure_gain(view.exposure), 1.0 / view.gamma);
        Self { gain, lift, transform: view.transform, graded }
    }

    fn codes(&self, own: [f32; 3], behind: [f32; 3]) -> [u8; 3] {
        let mut v: [f32; 3] = std::array::from_fn(|c| own[c] * self.gain + behind[c]);
        if self.lift != 1.0 {
            v = v.map(|v| v.max(0.0).powf(self.lift));
        }
        let code = |v: f32| (clipped(v) * 255.0 + 0.5) as u8;
        if let Some(Graded { lut, reads }) = self.graded {
            return lut.apply(reads.from_linear(v)).map(code);
        }
        match self.transform {
            Transform::Srgb => v.map(srgb_code),
            Transform::Neutral => rolled_off(v).map(srgb_code),
            Transform::Rec709 => v.map(|v| code(clipped(v).powf(1.0 / 2.4))),
            Transform::Raw => v.map(code),
        }
    }
}

/// Clay under one lamp at the upper left and a little light from everywhere.
fn lit(n: [f32; 3]) -> f32 {
    let lamp = [-0.48, 0.6, 0.64];
    let toward: f32 = (0..3).map(|c| n[c] * lamp[c]).sum();
    srgb_encode(0.12 + 0.7 * toward.max(0.0))
}

/// A saturated colour by hue (0..6) on mid grey; `strength` 0 is grey.
fn hue(h: f32, strength: f32) -> [f32; 3] {
    let ramp = |shift: f32| ((h + shift).rem_euclid(6.0) - 3.0).abs().clamp(1.0, 2.0) - 1.0;
    [0.0, 4.0, 2.0].map(|s| 0.5 + (ramp(s) - 0.5) * strength)
}

/// Linear colour behind pixel `i` of a row.
fn backdrop(kind: Backdrop, place: Place, i: usize) -> [f32; 3] {
    let (x, y) = ((place.x + i as i32) * place.full_px, place.y * place.full_px);
    match kind {
        Backdrop::Grey => [0.033; 3],
        Backdrop::Black => [0.0; 3],
        Backdrop::White => [1.0; 3],
        Backdrop::Checker => [if (x.div_euclid(16) + y.div_euclid(16)) % 2 == 0 { 0.13 } else { 0.21 }; 3],
        Backdrop::Loud => {
            let wave = |v: i32, k: f32| 0.5 + 0.5 * (v as f32 * k).sin();
            [wave(x, 0.011), wave(y, 0.017), wave(x - y, 0.007)]
        }
    }
}

/// A distinct, stable colour for a whole number (golden-ratio hue steps; 0 is black).
fn patch(id: f32) -> [u8; 3] {
    if id == 0.0 || !id.is_finite() {
        return [0; 3];
    }
    let hue = (id * 0.618_034).rem_euclid(1.0) * 6.0;
    let level = 0.55 + 0.4 * (id * 0.324_718).rem_euclid(1.0);
    let ramp = |shift: f32| ((hue + shift).rem_euclid(6.0) - 3.0).abs().clamp(1.0, 2.0) - 1.0;
    [0.0, 4.0, 2.0].map(|s| ((0.25 + 0.75 * ramp(s)) * level * 255.0) as u8)
}

/// Depth range for display: 1st to 99th percentile of what is not background, so that neither a stray
/// sample nor the far nothing decides.
pub fn range_of(depth: &Raster) -> [f32; 2] {
    let step = (depth.window().area() / 65_536).max(1);
    let mut seen: Vec<f32> = depth.plane(0).iter().copied().step_by(step).filter(|v| v.is_finite()).collect();
    if seen.is_empty() {
        return [0.0, 1.0];
    }
    seen.sort_unstable_by(f32::total_cmp);
    let at = |q: f32| seen[((seen.len() - 1) as f32 * q) as usize];
    let [near, far] = [at(0.01), at(0.99)];
    [near, if far > near { far } else { near + 1.0 }]
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    fn show(role: Role, planes: &[f32], view: View) -> Vec<u8> {
        let r = Raster::from_planar(Window::of_size(1, 1), planes.len(), planes.to_vec()).unwrap();
        render(&r, role, Screen::plain(view), &Cancel::new()).unwrap()
    }

    #[test]
    fn every_role_has_a_picture() {
        for role in Role::ALL {
            let n = role.channels().unwrap_or(5);
            assert_eq!(show(role, &vec![0.5; n], View::default()).len(), 3, "{role:?}");
            assert_eq!(show(role, &vec![f32::NAN; n], View::default()).len(), 3, "{role:?}");
        }
    }

    #[test]
    fn values_show_as_they_should() {
        let white = View { backdrop: Backdrop::White, ..View::default() };
        assert_eq!(show(Role::Beauty, &[0.0; 4], white), [255; 3]);
        assert_eq!(show(Role::Beauty, &[0.5, 0.0, 0.0, 1.0], View { exposure: 1.0, ..white }), [255, 0, 0]);
        assert_eq!(show(Role::Normal, &[0.0, 0.0, 1.0], white), [128, 128, 255]);
        let depth = View { range: Some([2.0, 4.0]), ..white };
        assert_eq!(show(Role::Depth, &[2.0], depth), [255; 3]);
        assert_eq!(show(Role::Depth, &[f32::INFINITY], depth), [0; 3]);
        assert_ne!(patch(1.0), patch(2.0));
    }

    #[test]
    fn every_display_of_every_role_paints_every_pixel() {
        use Showing::{Arrows, Bands, Checker, FalseColour, Grid, Lit, Stretch, Usual, Wheel};
        for role in Role::ALL {
            let n = role.channels().unwrap_or(5);
            let r =
                Raster::from_fn(Window::of_size(50, 45), n, |c, x, y| (c as f32 + x as f32 - y as f32) * 0.1);
            for showing in [Usual, Bands, FalseColour, Lit, Checker, Wheel, Arrows, Grid, Stretch] {
                for planes in [
                    Planes::All,
                    Planes::First,
                    Planes::Second,
                    Planes::Third,
                    Planes::Fourth,
                    Planes::Luminance,
                ] {
                    for transform in [Transform::Srgb, Transform::Rec709, Transform::Neutral, Transform::Raw]
                    {
                        let view = View { showing, planes, transform, gamma: 1.4, ..View::default() };
                        let screen = Screen { full_px: 2, ..Screen::plain(view) };
                        assert_eq!(render(&r, role, screen, &Cancel::new()).unwrap().len(), 50 * 45 * 3);
                    }
                }
            }
        }
    }

    #[test]
    fn highlights_roll_off_smoothly_and_keep_their_order() {
        assert_eq!(rolled_off([0.8, 0.3, 0.1]), [0.8, 0.3, 0.1]);
        let grey = |v: f32| rolled_off([v; 3])[0];
        let mut before = 0.0;
        for i in 1..2000 {
            let v = grey(i as f32 * 0.01);
            assert!(v >= before && v <= 1.0 && (v - before) < 0.0101, "{i}: {v}");
            before = v;
        }
        // No step in slope at the knee.
        assert!(((grey(0.801) - grey(0.8)) / 0.001 - 1.0).abs() < 0.02);
        let [r, g, b] = rolled_off([4.0, 1.0, 0.5]);
        assert!(r > g && g > b && r < 1.0);
    }

    #[test]
    fn transforms_meet_their_standards() {
        let code = |transform| {
            show(Role::Beauty, &[0.18, 0.18, 0.18, 1.0], View { transform, ..View::default() })[0]
        };
        // 18 % grey: sRGB 118 (IEC 61966-2-1); BT.1886 inverse 0.18^(1/2.4)·255 = 124.8.
        assert_eq!((code(Transform::Srgb), code(Transform::Rec709), code(Transform::Raw)), (118, 125, 46));
        let red = View { planes: Planes::First, ..View::default() };
        assert_eq!(show(Role::Beauty, &[1.0, 0.0, 0.0, 1.0], red), [255; 3]);
        let alpha = View { planes: Planes::Fourth, ..View::default() };
        assert_eq!(show(Role::Beauty, &[1.0, 0.0, 0.0, 0.5], alpha), [128; 3]);
    }

    #[test]
    fn a_table_takes_the_place_of_the_transform_and_reads_its_own_encoding() {
        use crate::colour::lut::LutShape;
        // One that turns codes round: black for white.
        let lut = Lut::new(LutShape::Curves, 2, [[0.0; 3], [1.0; 3]], vec![[1.0; 3], [0.0; 3]]).unwrap();
        let shown = |reads| {
            let r = Raster::from_planar(Window::of_size(1, 1), 4, vec![0.18, 0.18, 0.18, 1.0]).unwrap();
            let screen =
                Screen { graded: Some(Graded { lut: &lut, reads }), ..Screen::plain(View::default()) };
            render(&r, Role::Beauty, screen, &Cancel::new()).unwrap()[0]
        };
        // 255 less the codes of `transforms_meet_their_standards`.
        assert_eq!((shown(ColourSpace::Srgb), shown(ColourSpace::Linear)), (137, 209));
    }

    #[test]
    fn depth_range_ignores_the_background() {
        let r = Raster::from_fn(
            Window::of_size(101, 2),
            1,
            |_, x, y| if y == 0 { x as f32 } else { f32::INFINITY },
        );
        assert_eq!(range_of(&r), [1.0, 99.0]);
    }

    #[test]
    fn arrows_stand_on_one_grid_and_leave_each_other_room() {
        // To the right, farther the lower the row: a quarter px for each row.
        let motion = |w| Raster::from_fn(w, 2, |c, _, y| if c == 0 { y as f32 * 0.25 } else { 0.0 });
        let arrows = Screen::plain(View { showing: Showing::Arrows, ..View::default() });
        let shown = |w| render(&motion(w), Role::Motion, arrows, &Cancel::new()).unwrap();
        let whole = Window::of_size(640, 480);
        let all = shown(whole);
        let at = |x: i32, y: i32| all[(y * 640 + x) as usize * 3];
        // At row 10 an arrow is 2.5 px long; it begins at a dark dot.
        assert_eq!(
            [at(10, 10), at(11, 10), at(12, 10), at(16, 10)].map(|v| v == 255),
            [false, true, true, false]
        );
        assert_eq!(at(10, 10), 0);
        // At row 410 they are 102 px long: on every fourth place of every fourth row, and so there is none on row 430.
        assert_eq!(410 / 20 % 4, 0);
        let starts = |y: i32| (0..640).filter(|x| at(*x, y) == 0).count();
        assert_eq!((starts(410), starts(430), starts(10)), (8, 0, 32));
        // A piece of the picture shows its own arrows where they stood.
        let part = Window::new(33, 7, 200, 90);
        let piece = shown(part);
        for (x, y) in [(50, 10), (51, 10), (90, 50), (93, 50), (50, 30)] {
            assert_eq!(piece[((y - 7) * 200 + x - 33) as usize * 3], at(x, y), "{x} {y}");
        }
    }

    #[test]
    fn arrows_of_a_map_lead_to_where_each_place_comes_from() {
        let w = Window::of_size(60, 40);
        // Everything comes from 8 px farther to the right.
        let map =
            Raster::from_fn(w, 2, |c, x, y| [(x as f32 + 8.5) / 60.0, 1.0 - (y as f32 + 0.5) / 40.0][c]);
        let screen =
            Screen { frame: w, ..Screen::plain(View { showing: Showing::Arrows, ..View::default() }) };
        let codes = render(&map, Role::StMap, screen, &Cancel::new()).unwrap();
        let row: Vec<u8> = (10..22).map(|x| codes[(10 * 60 + x) * 3]).collect();
        assert_eq!(row, [0, 255, 255, 255, 255, 255, 255, 255, 255, 40, 40, 40]);
    }

    #[test]
    fn a_map_shows_how_it_stretches_and_where_it_folds() {
        let w = Window::of_size(40, 30);
        // Twice as large across on the left, half as large in the middle, folded over on the right.
        let across = |x: i32| match x as f32 + 0.5 {
            x if x < 12.0 => 0.5 * x,
            x if x < 26.0 => 6.0 + 2.0 * (x - 12.0),
            x => 34.0 - (x - 26.0),
        };
        let map = Raster::from_fn(w, 2, |c, x, y| [across(x) / 40.0, 1.0 - (y as f32 + 0.5) / 30.0][c]);
        let screen = |showing| Screen { frame: w, ..Screen::plain(View { showing, ..View::default() }) };
        let codes = render(&map, Role::StMap, screen(Showing::Stretch), &Cancel::new()).unwrap();
        let at = |x: usize| [0, 1, 2].map(|c| codes[(15 * 40 + x) * 3 + c]);
        assert_eq!((at(5), at(18)), ([192; 3], [64; 3]));
        assert_eq!(at(33), COPPER.map(|v| v as u8));
        let hole = Raster::zeros(w, 2);
        let codes = render(&hole, Role::StMap, screen(Showing::Stretch), &Cancel::new()).unwrap();
        assert!(codes.iter().all(|v| *v == 0));
    }
}
