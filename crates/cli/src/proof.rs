//! `jugata proof`: frames of a shot file to one small animated PNG.

use crate::Failure;
use crate::on_disk::{OnDisk, tell_differing};
use crate::render::write_whole;
use crate::words;
use clap::Args;
use jugata_core::Cancel;
use jugata_shot::Target;
use jugata_shot::document::FrameRange;
use jugata_shot::proof::{Proof, WIDE, animated};
use std::path::PathBuf;

#[derive(Args)]
pub struct OnProof {
    /// The shot file (JSON).
    shot: PathBuf,
    /// Where to write it, a .png that browsers play.
    #[arg(long)]
    out: PathBuf,
    /// Which frames, first-last; all if not said.
    #[arg(long, value_parser = words::frames, allow_hyphen_values = true)]
    frames: Option<FrameRange>,
    /// Its width, px at most: the picture is halved until it is no wider.
    #[arg(long, default_value_t = WIDE, value_parser = clap::value_parser!(u32).range(16..=4096))]
    width: u32,
    /// What to show: as for `render`.
    #[arg(long, default_value = "shot", value_parser = words::target)]
    target: Target,
    /// Folders with the media, beside the shot file's own; a media store works too.
    #[arg(long)]
    media: Vec<PathBuf>,
}

impl OnProof {
    pub fn run(self) -> Result<(), Failure> {
        let OnDisk { engine, shot, folders } = OnDisk::open(&self.shot, self.media)?;
        let frames = self.frames.or(shot.frames).unwrap_or(FrameRange { first: 0, last: 0 });
        let proof = Proof { target: self.target, frames, wide: self.width, cancel: Cancel::new() };
        write_whole(&self.out, &animated(&engine, &shot, &proof)?)?;
        tell_differing(&folders);
        Ok(())
    }
}
