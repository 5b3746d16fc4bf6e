//! Renders of a foreign renderer (`fixtures/foreign`, written by its `make.py`): their files, and what is true of them.

use glam::{Mat4, Vec3, Vec4};
use jugata_core::{Camera, Raster, Window};
use jugata_exchange::{ImageFile, Limits, read};
use jugata_standin::{Passes, ThinLens};
use serde::Deserialize;
use std::collections::HashMap;
use std::path::PathBuf;

/// The scenes. `filtered` is `shelf` once more, with passes that went through the renderer's own filter.
pub const SCENES: [&str; 4] = ["table", "fence", "void", "shelf"];

/// The files of a scene as somebody would drop them.
pub fn files(scene: &str) -> &'static [&'static str] {
    match scene {
        "table" => &["table.exr"],
        "fence" => &["fence.exr", "fence_aux.exr"],
        "void" => &["void.exr"],
        "shelf" => &["shelf_rgba.exr", "shelf_data.exr"],
        "filtered" => &["filtered.exr"],
        other => panic!("no scene {other}"),
    }
}

/// Where a fixture lies.
pub fn path(file: &str) -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("fixtures/foreign").join(file)
}

/// A fixture, read.
pub fn open(file: &str) -> ImageFile {
    read(&std::fs::read(path(file)).expect(file), &Limits::default()).expect(file)
}

#[derive(Deserialize)]
struct Told {
    size: [u32; 2],
    focal: f32,
    centre: [f32; 2],
    world: [f32; 12],
    lamps: Lamps,
    lenses: Vec<Lens>,
}

/// The lamps of the re-renders with a lamp added, in camera space.
#[derive(Clone, Copy, Debug, Deserialize)]
pub struct Lamps {
    /// Unit direction toward the lamp far away.
    pub toward: [f32; 3],
    /// Its irradiance.
    pub irradiance: f32,
    /// Place of the near lamp.
    pub at: [f32; 3],
    /// Its intensity.
    pub intensity: f32,
}

#[derive(Clone, Copy, Deserialize)]
struct Lens {
    radius: f32,
    focus: f32,
}

fn told(scene: &str) -> Told {
    let text = std::fs::read_to_string(path("truth.json")).expect("truth.json");
    let mut all: HashMap<String, Told> = serde_json::from_str(&text).expect("truth.json");
    all.remove(scene).unwrap_or_else(|| panic!("{scene}"))
}

/// The camera, which no file of the scene holds.
pub fn camera(scene: &str) -> Camera {
    let t = told(scene);
    Camera { focal: t.focal, centre_x: t.centre[0], centre_y: t.centre[1], world: Some(t.world) }
}

/// The lamps that its re-renders have.
pub fn lamps(scene: &str) -> Lamps {
    told(scene).lamps
}

/// The lenses that its re-renders were seen through.
pub fn lenses(scene: &str) -> Vec<ThinLens> {
    told(scene).lenses.iter().map(|l| ThinLens { radius: l.radius, focus: l.focus, blades: 0 }).collect()
}

/// A re-render: `sun`, `point`, `lens0`, `lens1`.
pub fn truth(scene: &str, what: &str) -> Raster {
    planes(&open(&format!("truth_{scene}_{what}.exr")), &["R", "G", "B", "A"])
}

/// An object that was rendered again with a poster on it.
#[derive(Clone, Debug, Deserialize)]
pub struct Posted {
    /// The scene.
    pub scene: String,
    /// The object's name.
    pub object: String,
    /// Its ID.
    pub id: u32,
}

impl Posted {
    /// The picture with the poster.
    pub fn truth(&self) -> Raster {
        let file = format!("poster_{}_{}.exr", self.scene, self.object);
        planes(&open(&file), &["R", "G", "B", "A"])
    }
}

/// All of them.
pub fn posted() -> Vec<Posted> {
    let text = std::fs::read_to_string(path("posters.json")).expect("posters.json");
    serde_json::from_str(&text).expect("posters.json")
}

/// The poster, RGBA.
pub fn poster() -> Raster {
    let own = planes(&open("poster.exr"), &["R", "G", "B"]);
    // The other renderer begins its textures at the foot.
    let last = own.window().height as i32 - 1;
    Raster::from_fn(own.window(), 4, |c, x, y| own.sample(c, x, last - y).unwrap_or(1.0))
}

fn planes(file: &ImageFile, names: &[&str]) -> Raster {
    let names: Vec<String> = names.iter().map(|n| (*n).to_owned()).collect();
    file.parts[0].raster(&names).unwrap_or_else(|n| panic!("no channel {n}"))
}

/// Everything in canonical form, brought there here and not by what is to be judged.
pub fn passes(scene: &str) -> Passes {
    let t = told(scene);
    let window = Window::of_size(t.size[0], t.size[1]);
    let opened: Vec<ImageFile> = files(scene).iter().map(|f| open(f)).collect();
    let (picture, data) = (&opened[0], &opened[opened.len() - 1]);
    let of = |names: &[&str]| planes(data, names);
    let [position, normal, uv, id] = match scene {
        "fence" => [
            of(&["pp.X", "pp.Y", "pp.Z"]),
            of(&["nn.X", "nn.Y", "nn.Z"]),
            of(&["uv.U", "uv.V"]),
            of(&["ii.I"]),
        ],
        "void" => {
            [of(&["P.0", "P.1", "P.2"]), of(&["N.0", "N.1", "N.2"]), of(&["uv.0", "uv.1"]), of(&["id.0"])]
        }
        "shelf" => [
            of(&["Position.R", "Position.G", "Position.B"]),
            of(&["Normal.R", "Normal.G", "Normal.B"]),
            of(&["UV.R", "UV.G"]),
            of(&["ObjectIndex.Y"]),
        ],
        _ => [
            of(&["position.X", "position.Y", "position.Z"]),
            of(&["normal.X", "normal.Y", "normal.Z"]),
            of(&["uv.U", "uv.V"]),
            of(&["index.I"]),
        ],
    };
    let camera = camera(scene);
    let is = |x: i32, y: i32| id.sample(0, x, y) != Some(0.0);
    let vector = |r: &Raster, x: i32, y: i32| Vec3::from_slice(&r.pixel(x, y).unwrap_or_default());
    let turned = |r: &Raster, place: bool, own: bool| {
        Raster::from_fn(window, 3, |c, x, y| {
            let v = vector(r, x, y);
            if !is(x, y) {
                0.0
            } else if own {
                v[c]
            } else {
                camera.from_world(v, place)[c]
            }
        })
    };
    let place = turned(&position, true, false);
    let depth = Raster::from_fn(window, 1, |_, x, y| {
        if is(x, y) { -place.sample(2, x, y).unwrap_or(0.0) } else { f32::INFINITY }
    });
    let albedo = match scene {
        "table" => of(&["albedo.R", "albedo.G", "albedo.B"]),
        "fence" => of(&["aa.R", "aa.G", "aa.B"]),
        _ => Raster::zeros(window, 3),
    };
    let m = t.world;
    let row = |r: usize| Vec4::new(m[4 * r], m[4 * r + 1], m[4 * r + 2], m[4 * r + 3]);
    Passes {
        beauty: planes(picture, &["R", "G", "B", "A"]),
        depth,
        normal: turned(&normal, false, scene == "shelf"),
        position: place,
        uv,
        albedo,
        diffuse: None,
        motion: Raster::zeros(window, 2),
        rest: Raster::zeros(window, 3),
        hashed: Raster::zeros(window, 12),
        camera,
        world_to_camera: Mat4::from_cols(row(0), row(1), row(2), Vec4::W).transpose(),
        focal: 36.0 * t.focal / t.size[0] as f32,
        sensor: 36.0,
        names: (0..=id.plane(0).iter().fold(0.0f32, |a, v| a.max(*v)) as u32)
            .map(|i| format!("Shape {i}"))
            .collect(),
        unit: camera_unit(&m),
        id,
    }
}

/// A tenth of how far the eye is from the world's origin: what a unit of a room of ten units would be.
fn camera_unit(rows: &[f32; 12]) -> f32 {
    Vec3::new(rows[3], rows[7], rows[11]).length() / 10.0
}
