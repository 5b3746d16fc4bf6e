//! `jugata standin`: the demo scene, or a random room, as a multi-layer EXR.

use crate::progress::Progress;
use crate::render::write_whole;
use crate::{Failure, words};
use clap::Args;
use jugata_standin::material::Paint;
use jugata_standin::{
    AddedLamp, Damage, Distortion, LampPlace, MapFor, Passes, Settings, Shutter, ThinLens, export,
    render_telling,
};
use std::path::{Path, PathBuf};

#[derive(Args)]
pub struct Standin {
    /// Where to write the EXR.
    #[arg(long, required_unless_present = "deliver")]
    out: Option<PathBuf>,
    /// Deliver a sequence into this folder instead, frame after frame, as a renderer does.
    #[arg(long, conflicts_with = "out")]
    deliver: Option<PathBuf>,
    /// How many frames to deliver, from `--frame` on.
    #[arg(long, default_value_t = 8, value_parser = clap::value_parser!(i32).range(1..=10_000))]
    frames: i32,
    /// Width, px.
    #[arg(long, default_value_t = 1280, value_parser = clap::value_parser!(u32).range(1..=4096))]
    width: u32,
    /// Height, px.
    #[arg(long, default_value_t = 720, value_parser = clap::value_parser!(u32).range(1..=4096))]
    height: u32,
    /// Samples along each side of a pixel.
    #[arg(long, default_value_t = 4, value_parser = clap::value_parser!(u32).range(1..=16))]
    samples: u32,
    /// Add a lamp far away in this direction (camera space, from the surface to the lamp): the truth.
    #[arg(long, value_parser = words::triple, allow_hyphen_values = true)]
    lamp_toward: Option<[f32; 3]>,
    /// Add a lamp at this point (camera space, scene units).
    #[arg(long, value_parser = words::triple, allow_hyphen_values = true)]
    lamp_at: Option<[f32; 3]>,
    /// Irradiance (direction) or radiant intensity (point) of the added lamp.
    #[arg(long, default_value = "1,1,1", value_parser = words::triple)]
    lamp_power: [f32; 3],
    /// Radius of the added lamp, scene units (point), or half its angle, radians (direction).
    #[arg(long, value_parser = words::positive)]
    lamp_size: Option<f32>,
    /// Waves on the wall, as far as this to either side, scene units up to 0.2
    #[arg(long, value_parser = words::positive)]
    relief: Option<f32>,
    /// Make a spot of the lamp at a point, aimed at this point.
    #[arg(long, value_parser = words::triple, allow_hyphen_values = true, requires = "lamp_at")]
    lamp_aim: Option<[f32; 3]>,
    /// Whole angle of the spot's cone, degrees; its outer third fades.
    #[arg(long, default_value_t = 40.0, value_parser = words::positive)]
    lamp_cone: f32,
    /// Frame: the planets turn from one to the next.
    #[arg(long, default_value_t = 0, value_parser = clap::value_parser!(i32).range(-100_000..=100_000))]
    frame: i32,
    /// Blur the picture by motion: when the shutter opens and closes, in frames from this one, and how many moments are rendered: -0.25,0.25,32 is 180°.
    #[arg(long, value_parser = words::triple, allow_hyphen_values = true)]
    shutter: Option<[f32; 3]>,
    /// How far the camera goes from one frame to the next, scene units in its own axes.
    #[arg(long, default_value = "0,0,0", value_parser = words::triple, allow_hyphen_values = true)]
    travel: [f32; 3],
    /// How far the camera turns to the left from one frame to the next, degrees.
    #[arg(long, default_value_t = 0.0, value_parser = words::turn, allow_hyphen_values = true)]
    pan: f32,
    /// Write the passes with one fault, to see what Jugata says of it; `--damage help` lists them.
    #[arg(long)]
    damage: Option<String>,
    /// Render through a lens with an opening of this radius, scene units: the truth for Refocus. Wants 16 samples.
    #[arg(long, value_parser = words::positive)]
    lens_radius: Option<f32>,
    /// Depth at which the lens is sharp, scene units.
    #[arg(long, default_value_t = 7.0, value_parser = words::positive)]
    lens_focus: f32,
    /// Blades of the opening; 0 is a circle.
    #[arg(long, default_value_t = 0, value_parser = clap::value_parser!(u32).range(0..=32))]
    lens_blades: u32,
    /// Render through a lens that bends lines: k1,k2,k3,p1,p2 as OpenCV has them, in focal lengths. Two ST maps are written beside the picture, with _undistort and _distort on their names.
    #[arg(long, value_parser = words::distortion, allow_hyphen_values = true)]
    distort: Option<Distortion>,
    /// Render the random room of this number in the place of the orrery; the same for the same number.
    #[arg(long, conflicts_with = "relief")]
    seed: Option<u64>,
    /// Render the paper ship by itself in the place of the orrery.
    #[arg(long, conflicts_with_all = ["relief", "seed"])]
    ship: bool,
    /// Write the diffuse part of the light as a pass, too.
    #[arg(long)]
    diffuse: bool,
    /// Put a poster on the object of this ID instead of its own colour: the truth for Re-texture.
    #[arg(long)]
    repaint: Option<u32>,
    /// IDs of the only objects that the camera sees, with commas between; the others still cast shadows.
    #[arg(long, value_delimiter = ',')]
    only: Option<Vec<u32>>,
    /// IDs of objects that are not there at all, with commas between: they cast no shadows either.
    #[arg(long, value_delimiter = ',')]
    absent: Vec<u32>,
    /// Let the added lamp cast no shadows.
    #[arg(long)]
    no_shadows: bool,
}

impl Standin {
    pub fn run(self) -> Result<(), Failure> {
        let near = |at| match self.lamp_aim {
            Some(aim) => LampPlace::Spot { at, aim, cone: self.lamp_cone, soft: 0.3 },
            None => LampPlace::Point(at),
        };
        let places = self.lamp_toward.map(LampPlace::Directional).into_iter().chain(self.lamp_at.map(near));
        let lamp = |place| AddedLamp {
            place,
            power: self.lamp_power,
            shadows: !self.no_shadows,
            size: self.lamp_size.unwrap_or(0.0),
        };
        let settings = Settings {
            width: self.width,
            height: self.height,
            samples: self.samples,
            added: places.map(lamp).collect(),
            frame: self.frame,
            lens: self.lens_radius.map(|radius| ThinLens {
                radius,
                focus: self.lens_focus,
                blades: self.lens_blades,
            }),
            bent: self.distort,
            shutter: self.shutter.map(|[opens, closes, moments]| Shutter {
                opens,
                closes,
                moments: moments as u32,
                samples: 1,
            }),
            travel: self.travel,
            pan: self.pan,
            around: None,
            // Deeper waves would fold under the way in which they are found.
            relief: self.relief.unwrap_or(0.0).min(0.2),
            seed: self.seed,
            repaint: self.repaint.map(|id| (id, Paint::Poster)),
            only: self.only.clone(),
            absent: self.absent.clone(),
            ship: self.ship,
            diffuse: self.diffuse,
        };
        let damage = self.damage.as_deref().map(Damage::named).transpose()?;
        let written = |settings: &Settings, path: &Path| -> Result<(), Failure> {
            let progress = Progress::of(format!("Rendering frame {}", settings.frame));
            let mut passes = render_telling(settings, &|share| progress.at(share));
            if let Some(damage) = damage {
                damage.apply(&mut passes);
            }
            write_whole(path, &export::exr(&passes)?)?;
            maps(settings, &passes, path)
        };
        if let Some(out) = &self.out {
            return written(&settings, out);
        }
        let folder = self.deliver.unwrap_or_default();
        std::fs::create_dir_all(&folder).map_err(|e| format!("{}: {e}", folder.display()))?;
        for frame in self.frame..self.frame.saturating_add(self.frames) {
            let path = folder
                .join(format!("{}.{frame:04}.exr", if self.seed.is_some() { "room" } else { "orrery" }));
            written(&Settings { frame, ..settings.clone() }, &path)?;
            println!("{}", path.display());
        }
        Ok(())
    }
}

/// The maps of a lens that bends lines, beside the picture.
fn maps(settings: &Settings, passes: &Passes, path: &Path) -> Result<(), Failure> {
    let Some(lens) = settings.bent else { return Ok(()) };
    let stem = path.file_stem().and_then(|s| s.to_str()).unwrap_or("render");
    for (way, word) in [(MapFor::Undistorting, "undistort"), (MapFor::Distorting, "distort")] {
        let st = lens.map(passes.beauty.window(), passes.camera.focal.into(), way);
        write_whole(&path.with_file_name(format!("{stem}_{word}.exr")), &export::map(&st)?)?;
    }
    Ok(())
}
