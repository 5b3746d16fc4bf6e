//! A render as one multi-layer EXR.

use crate::render::{Passes, RANKS};
use jugata_core::Raster;
use jugata_core::matte::hashed;
use jugata_exchange::ExchangeError;
use jugata_exchange::exr_write::{
    About, CameraOut, Depth, NamedLayer, Packing, TextAttribute, write, write_with,
};

/// The picture as half, the passes as float, the camera in the header.
///
/// # Errors
/// None that the renderer's own rasters can cause; passed on from the writer.
pub fn exr(p: &Passes) -> Result<Vec<u8>, ExchangeError> {
    full(p, Packing::default())
}

/// [`exr`] without packing: quicker, for what is read at once and thrown away.
///
/// # Errors
/// As [`exr`].
pub fn plain(p: &Passes) -> Result<Vec<u8>, ExchangeError> {
    full(p, Packing::Plain)
}

fn full(p: &Passes, packing: Packing) -> Result<Vec<u8>, ExchangeError> {
    let layer = |name, channels, raster| NamedLayer { name, channels, raster, depth: Depth::Float };
    let window = p.beauty.window();
    let ranks: Vec<Raster> = (0..RANKS / 2)
        .map(|l| Raster::from_fn(window, 4, |c, x, y| p.hashed.sample(4 * l + c, x, y).unwrap_or(0.0)))
        .collect();
    let names = ["object00", "object01", "object02"];
    let mut layers = vec![
        NamedLayer { name: "", channels: &["R", "G", "B", "A"], raster: &p.beauty, depth: Depth::Half },
        layer("depth", &["Z"], &p.depth),
        layer("normal", &["X", "Y", "Z"], &p.normal),
        layer("position", &["X", "Y", "Z"], &p.position),
        layer("uv", &["U", "V"], &p.uv),
        layer("objectID", &["id"], &p.id),
        layer("albedo", &["R", "G", "B"], &p.albedo),
        layer("motion", &["X", "Y"], &p.motion),
    ];
    layers.extend(names.iter().zip(&ranks).map(|(name, r)| layer(name, &["R", "G", "B", "A"], r)));
    layers.extend(p.diffuse.as_ref().map(|r| layer("diffuse", &["R", "G", "B"], r)));
    file(p, &layers, packing)
}

/// A frame of a take, as small as renderers write it: colours and normals as half; depth, motion and IDs as float.
///
/// # Errors
/// As [`exr`].
pub fn slim(p: &Passes) -> Result<Vec<u8>, ExchangeError> {
    let layer = |name, channels, raster, depth| NamedLayer { name, channels, raster, depth };
    let layers = [
        layer("", &["R", "G", "B", "A"], &p.beauty, Depth::Half),
        layer("depth", &["Z"], &p.depth, Depth::Float),
        layer("normal", &["X", "Y", "Z"], &p.normal, Depth::Half),
        layer("objectID", &["id"], &p.id, Depth::Float),
        layer("albedo", &["R", "G", "B"], &p.albedo, Depth::Half),
        layer("motion", &["X", "Y"], &p.motion, Depth::Float),
    ];
    file(p, &layers, Packing::default())
}

fn file(p: &Passes, layers: &[NamedLayer<'_>], packing: Packing) -> Result<Vec<u8>, ExchangeError> {
    let window = p.beauty.window();
    let height = p.sensor * window.height as f32 / window.width as f32;
    let camera = CameraOut {
        // OpenEXR multiplies row vectors, so the columns of our matrix are its rows.
        world_to_camera: Some(p.world_to_camera.to_cols_array()),
        focal: p.focal,
        sensor: [p.sensor, height],
    };
    let texts = manifest(&p.names);
    write_with(layers, window, &About { camera: Some(camera), texts: &texts, packing, ..About::default() })
}

/// A coordinate map, s in red, t in green, as float.
///
/// # Errors
/// As [`exr`].
pub fn map(st: &Raster) -> Result<Vec<u8>, ExchangeError> {
    let layer = NamedLayer { name: "", channels: &["R", "G"], raster: st, depth: Depth::Float };
    write(&[layer], st.window(), None)
}

/// The header's words on hashed IDs (Cryptomatte specification 1.2.0, "Metadata"). The key is the first seven
/// digits of the layer name's own hash.
fn manifest(names: &[String]) -> Vec<TextAttribute> {
    let key = format!("cryptomatte/{}", &format!("{:08x}", hashed::id_of("object"))[..7]);
    let ids: Vec<String> = names.iter().map(|n| format!("\"{n}\":\"{:08x}\"", hashed::id_of(n))).collect();
    [
        ("conversion", "uint32_to_float32".to_owned()),
        ("hash", "MurmurHash3_32".to_owned()),
        ("manifest", format!("{{{}}}", ids.join(","))),
        ("name", "object".to_owned()),
    ]
    .map(|(k, v)| (format!("{key}/{k}"), v))
    .to_vec()
}
