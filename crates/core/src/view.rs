//! Turning any pass into 8-bit pixels for a screen. Display only: nothing here flows into a result.

use crate::bands::for_each_band;
use crate::colour::{clipped, exposure_gain, srgb_code};
use crate::{Cancel, KernelError, Raster, Role};
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

/// How to show a pass.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(default, deny_unknown_fields)]
pub struct View {
    /// Stops, for colour.
    pub exposure: f32,
    /// Behind transparent pixels.
    pub backdrop: Backdrop,
    /// The depths shown as white and as black; by default the pass's own range without its background.
    pub range: Option<[f32; 2]>,
}

/// Interleaved 8-bit RGB rows of a view of `raster` (canonical planes of `role`), top row first.
/// `full_px` is the number of full-resolution px per px, for patterns that keep their size.
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
    view: View,
    full_px: i32,
    cancel: &Cancel,
) -> Result<Vec<u8>, KernelError> {
    // Codes are gathered as planes by the one parallel helper, then woven into pixels.
    let mut codes = Raster::zeros(raster.window(), 3);
    let range = view.range.unwrap_or_else(|| if role == Role::Depth { range_of(raster) } else { [0.0, 1.0] });
    for_each_band(&mut codes, cancel, |band| {
        for y in band.window().rows() {
            let rows: Vec<&[f32]> = (0..raster.channels()).map(|c| raster.row(c, y)).collect();
            let out: [&mut [f32]; 3] = band.rows(y);
            let place = Place { x: raster.window().x, y, full_px };
            paint_row(role, view, range, &rows, place, out);
        }
    })?;
    let [r, g, b] = [codes.plane(0), codes.plane(1), codes.plane(2)];
    let mut pixels = vec![0; raster.window().area() * 3];
    for (i, px) in pixels.chunks_exact_mut(3).enumerate() {
        px.copy_from_slice(&[r[i] as u8, g[i] as u8, b[i] as u8]);
    }
    Ok(pixels)
}

/// Copper, in sRGB codes: the interface's colour for warnings.
const COPPER: [f32; 3] = [214.0, 122.0, 74.0];

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

#[derive(Clone, Copy)]
struct Place {
    x: i32,
    y: i32,
    full_px: i32,
}

fn paint_row(
    role: Role,
    view: View,
    range: [f32; 2],
    rows: &[&[f32]],
    place: Place,
    mut out: [&mut [f32]; 3],
) {
    let at = |c: usize, i: usize| rows.get(c).map_or(0.0, |row| row[i]);
    let mut put = |i: usize, rgb: [u8; 3]| (0..3).for_each(|c| out[c][i] = f32::from(rgb[c]));
    let count = rows.first().map_or(0, |row| row.len());
    let linear = |v: f32| (clipped(v) * 255.0 + 0.5) as u8;
    let gain = exposure_gain(view.exposure);
    let [white, black] = range;
    let depth_scale = 1.0 / (black - white);
    for i in 0..count {
        put(
            i,
            match role {
                Role::Beauty | Role::Albedo | Role::Clay | Role::Other if rows.len() >= 3 => {
                    let alpha = if rows.len() > 3 { at(3, i) } else { 1.0 };
                    let back = if alpha < 1.0 { backdrop(view.backdrop, place, i) } else { [0.0; 3] };
                    std::array::from_fn(|c| srgb_code(at(c, i) * gain + back[c] * (1.0 - alpha)))
                }
                Role::Depth => {
                    let z = at(0, i);
                    let v = 1.0 - (z - white) * depth_scale;
                    [if z.is_finite() { linear(0.06 + 0.94 * v.max(0.0)) } else { 0 }; 3]
                }
                Role::Normal => {
                    let n = [at(0, i), at(1, i), at(2, i)];
                    let empty = n.iter().all(|v| *v == 0.0);
                    n.map(|v| if empty { 0 } else { linear((v + 1.0) * 0.5) })
                }
                Role::Position | Role::Rest => [0, 1, 2].map(|c| linear(at(c, i) - at(c, i).floor())),
                Role::Uv | Role::StMap => [linear(at(0, i)), linear(at(1, i)), 0],
                Role::Motion => [linear(0.5 + at(0, i) / 32.0), linear(0.5 + at(1, i) / 32.0), 128],
                Role::ObjectId => patch(at(0, i)),
                Role::HashedId => patch((at(0, i).to_bits() >> 8) as f32),
                _ => [linear(at(0, i)); 3],
            },
        );
    }
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
        render(&r, role, view, 1, &Cancel::new()).unwrap()
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
    fn depth_range_ignores_the_background() {
        let r = Raster::from_fn(
            Window::of_size(101, 2),
            1,
            |_, x, y| if y == 0 { x as f32 } else { f32::INFINITY },
        );
        assert_eq!(range_of(&r), [1.0, 99.0]);
    }
}
